"""Directed air and the heat matrix: which moves a case allows, and that nothing is made or lost whatever the flows are."""

from dataclasses import replace
from typing import Any

import numpy as np
from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (the study's cases are no part of the application)
from engine import constants as k
from engine.coupled import kernel, streams
from engine.coupled.directed import JET, PLUME_CHIMNEY, PLUME_COOLER, PLUME_SWEEP, PLUME_TOP, PUSH_BACK, RECIRCULATION, Move
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.coupled.program import SPECIAL, Plan, variants
from engine.machine import SealedCooler
from engine.parameters import DEFAULT, INDEX, vector
from study.main import machine_of
from tests.machines import demo_raw, fan_raw, layout_raw, machine


def plan_of(raw: dict[str, Any] | None = None, layout: str = "A") -> Plan:
    return Plan.of(machine(raw, layout))


def named(plan: Plan, kind: int) -> list[tuple[str, str]]:
    return [(plan.links[m.source].id, plan.links[m.to].id) for m in plan.moves if m.kind == kind]


def matrix(point: OperatingPoint, flow_m3s: Any, wall: float = 0.0) -> Any:
    """The heat balance of a machine at flows of our own choosing."""
    pg, par = point.plan.program, DEFAULT.copy()
    va, _ = point.rows
    t, eps, g = np.zeros(len(pg.move_kind)), np.zeros(len(flow_m3s)), np.zeros((pg.n + SPECIAL, pg.n + SPECIAL))
    heat = point.density * k.AIR_HEAT_CAPACITY_J_KGK
    kernel.heat_balance(pg, par, heat, va, 0, point.speed, flow_m3s, t, eps, wall, g)
    return g, t


def balanced_rows(point: OperatingPoint) -> list[int]:
    """Rows that stand for something: not the room's, nor those of parts the machine does not have."""
    n = point.plan.program.n
    rows = [*range(n), n + 1, n + 2, n + 3]
    if isinstance(point.machine.cooler, SealedCooler):
        rows.remove(n + 2)
    return rows


class RulesTest(SimpleTestCase):
    def test_a_front_fan_level_with_the_tower_blows_at_it_and_one_below_does_not(self) -> None:
        jets = named(plan_of(), JET)
        self.assertIn(("f1:up_front", "cooler:up_mid|up_rear"), jets)
        self.assertFalse([to for source, to in jets if source == "f3:low_front" and to.startswith("cooler")])
        self.assertTrue(any(source.startswith("f3:low_front") and to.startswith("card:in") for source, to in jets))

    def test_a_nearer_fan_arrives_less_mixed(self) -> None:
        def share(depth: float) -> float:
            raw = demo_raw()
            raw["case"]["inner_mm"]["depth"] = depth
            plan = plan_of(raw)
            return max(m.factor for m in plan.moves if plan.links[m.to].kind == "cooler" and m.parameter == INDEX["jet_to_cooler"])

        self.assertGreater(share(380), share(560))

    def test_neighbours_feed_each_other_by_their_distance(self) -> None:
        plan = plan_of()
        near = {
            (plan.links[m.source].mount, plan.links[m.to].mount): m.factor
            for m in plan.moves
            if m.parameter == INDEX["short_circuit"] and plan.links[m.source].head == "up_front"
        }
        self.assertGreater(near["f1", "t3"], 0.3)
        self.assertNotIn(("f1", "r1"), near)
        self.assertTrue(all(0 < factor < 1 for factor in near.values()))

    def test_the_plume_goes_where_the_cooler_and_the_top_exhausts_are(self) -> None:
        plan = plan_of(layout="B")
        self.assertTrue(
            all(source.startswith("card:up") for kind in (PLUME_COOLER, PLUME_TOP, PUSH_BACK) for source, _ in named(plan, kind))
        )
        self.assertEqual({to for _, to in named(plan, PLUME_SWEEP)}, {"inside:up_mid|up_rear"})
        raw = demo_raw()
        layout_raw(raw, "A")["cooler_direction"] = "up"
        up = plan_of(raw)
        self.assertTrue(named(up, PLUME_CHIMNEY))
        self.assertFalse(named(up, PLUME_COOLER))

    def test_a_separate_chamber_and_no_card_know_no_plume(self) -> None:
        for change in ({"card_chamber": "separate"}, {}):
            raw = demo_raw()
            raw["case"].update(change)
            if not change:
                layout_raw(raw, "A")["card"] = None
            plan = plan_of(raw)
            self.assertFalse([m for m in plan.moves if m.kind in (PLUME_COOLER, PLUME_TOP, PLUME_SWEEP, PUSH_BACK)])

    def test_a_downdraft_rolls_back_its_own_air_or_what_the_panel_sends_back(self) -> None:
        from tests.engine.test_trade import resolver

        for layout, source in (("cpu_toward", "cooler:"), ("cpu_away", "window_gap:")):
            plan = Plan.of(resolver("cube-downdraft").machine(layout))
            moves = [m for m in plan.moves if m.kind == RECIRCULATION]
            self.assertTrue(moves and all(plan.links[m.source].id.startswith(source) for m in moves))
            self.assertTrue(all(plan.links[m.to].kind == "cooler" for m in moves))

    def test_an_open_window_lets_the_card_s_side_outlets_out(self) -> None:
        raw = demo_raw()
        closed = {x.id: x.head for x in plan_of(raw).links}
        layout_raw(raw, "A")["panels"] = {"window": {"state": "removed"}}
        opened = {x.id: x.head for x in plan_of(raw).links}
        self.assertEqual((closed["card:up_side"], opened["card:up_side"]), ("up_side", "room"))


class MatrixTest(SimpleTestCase):
    """Conservation by the matrix itself, at flows no solver chose: mass-balanced or not, forward or backward."""

    def test_columns_add_up_to_what_leaves(self) -> None:
        # Every kelvin carried off one row arrives in another: summed over all rows, what the matrix takes away is exactly what
        # the streams to the room carry, for any temperatures and for flows that nobody balanced.
        rng = np.random.default_rng(11)
        for layout in "ABCD":
            point = operating_point(machine(layout_id=layout))
            pg, n = point.plan.program, point.plan.program.n
            heat = point.density * k.AIR_HEAT_CAPACITY_J_KGK
            for _ in range(12):
                flow = point.flow_m3s * rng.uniform(-1.2, 1.2, len(point.flow_m3s))
                g, t = matrix(point, flow)
                warm = rng.uniform(1, 30, n + SPECIAL)
                warm[n] = 0.0
                carried, eps, still = np.zeros(len(flow)), np.zeros(len(flow)), np.zeros(len(flow))
                kernel.effectivenesses(pg, DEFAULT.copy(), heat, point.speed, flow, eps)
                kernel.breathing(pg, DEFAULT.copy(), heat, point.rows[0], 0, point.speed, flow, still)
                streams.carried_k(pg, flow, eps, t, warm, carried)
                lost = 0.0
                for i, link in enumerate(point.links):
                    if (link.head if flow[i] >= 0 else link.tail) == "room":
                        lost += heat * abs(flow[i]) * (carried[i] + eps[i] * (warm[n + 1] - carried[i]))
                    if "room" in (link.tail, link.head):
                        lost += still[i] * warm[n + 1]
                with self.subTest(layout=layout):
                    self.assertAlmostEqual(float((g @ warm)[balanced_rows(point)].sum()) / lost, 1.0, delta=1e-6)

    def test_rows_of_balanced_flows_are_zero_for_one_temperature(self) -> None:
        # With every node and the room equally warm nothing changes: G applied to that is zero, row by row.
        for layout in "ABCD":
            point = operating_point(machine(layout_id=layout))
            g, _ = matrix(point, point.flow_m3s)
            residual = (g @ np.ones(len(g)))[balanced_rows(point)]
            with self.subTest(layout=layout):
                self.assertLess(np.abs(residual).max() / np.abs(g).sum(axis=1).max(), 1e-6)

    def test_no_link_gives_or_takes_more_than_it_carries(self) -> None:
        for seed in range(60):
            point = operating_point(machine_of(seed))
            pg, q = point.plan.program, np.abs(point.flow_m3s)
            given, taken = np.zeros(len(q)), np.zeros(len(q))
            for m, t in enumerate(point.moved_m3s):
                given[pg.move_source[m]] += t
                if pg.move_kind[m] != PLUME_SWEEP:
                    taken[pg.move_to[m]] += t
            with self.subTest(seed=seed):
                self.assertTrue((point.moved_m3s >= 0).all())
                self.assertTrue((given <= 0.95 * q + 1e-9).all())
                self.assertTrue((taken <= 0.95 * q + 1e-9).all())

    def test_inverse_has_no_negative_response(self) -> None:
        # Heat put in anywhere cools nothing anywhere.
        for seed in range(40):
            point = operating_point(machine_of(seed))
            g, _ = matrix(point, point.flow_m3s, wall=5.0)
            n = point.plan.program.n
            answer = np.linalg.inv(g)
            sources = [i for i in range(n + SPECIAL) if i not in (n, n + 2)]
            with self.subTest(seed=seed):
                self.assertGreater(answer[:, sources].min(), -0.02 * np.abs(answer[:, sources]).max())


class EffectsOfMovesTest(SimpleTestCase):
    def rise(self, raw: dict[str, Any], layout: str = "A", **changes: float) -> OperatingPoint:
        return operating_point(machine(raw, layout), vector(changes))

    def test_each_mechanism_pulls_its_way(self) -> None:
        raw = demo_raw()
        for name, figure, sign, layout in (
            ("jet_to_cooler", "cpu_rise_k", -1, "B"),
            ("plume_capture", "cpu_rise_k", 1, "B"),
            ("tower_recirculation", "cpu_rise_k", 1, "A"),
            ("jet_to_card", "card_rise_k", -1, "A"),
            ("card_stirring", "card_rise_k", 1, "A"),
            ("radiator_ua_w_k", "cpu_rise_k", -1, "C"),
            ("cpu_path", "cpu_rise_k", 1, "A"),
            ("card_path", "card_rise_k", 1, "A"),
            ("coarse_filter_linear_pa", "cpu_rise_k", 1, "B"),
        ):
            base = DEFAULT[INDEX[name]]
            low, high = (getattr(self.rise(raw, layout, **{name: f * base}), figure) for f in (0.6, 1.5))
            with self.subTest(parameter=name):
                self.assertGreater(sign * (high - low), 0.0)

    def test_a_top_intake_pushes_the_plume_back_into_the_card(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["fans"] = [fan_raw("f2", "intake"), fan_raw("r1", "exhaust"), fan_raw("t2", "intake", 100)]
        pushed, free = (self.rise(raw, plume_push_back=x).card_inlet_rise_k for x in (0.6, 1e-6))
        assert pushed is not None and free is not None
        self.assertGreater(pushed, free + 0.3)

    def test_moves_are_plain_data(self) -> None:
        move = Move(JET, 1, 2, 3, 0.5)
        self.assertEqual((move.source_sign, move.to_sign, move.chain), (1.0, 1.0, -1))
        self.assertEqual(replace(move, factor=0.1).factor, 0.1)

    def test_variants_of_one_plan_share_their_network(self) -> None:
        m = machine(layout_id="B")
        faster = replace(m, fans=tuple(replace(f, speed_pct=100.0) for f in m.fans))
        self.assertEqual(Plan.frame(m), Plan.frame(faster))
        va, _ = variants(Plan.of(m), [m, faster])
        self.assertTrue((va.speed[1] >= va.speed[0]).all())
        self.assertNotEqual(Plan.frame(m), Plan.frame(replace(m, board_power_w=99.0)))
