"""Conservation, limits, direction of effects at the common equilibrium."""

import copy
from itertools import pairwise
from typing import Any

from django.test import SimpleTestCase

from engine.coupled.forecast import at_target_level, differences, forecast, forecast_of
from engine.coupled.links import CARD, ROOM
from engine.coupled.operating_point import OperatingPoint, loaded, operating_point
from engine.coupled.spaces import Spaces
from engine.coupled.tracer import unused_shares
from engine.coupled.transient import warm_up
from tests.machines import demo_raw, fan_raw, layout_raw, machine


def heat_out_w(point: OperatingPoint) -> float:
    """Heat that leaves: enthalpy of streams to the room, walls, exchanges with the room."""
    heat = point.density * 1007.0
    total = 0.0
    for s in point.air.streams:
        if s.downwind != ROOM:
            continue
        carried = point.mixture_rise_k(s.of)
        if s.link.radiator:
            gained = -carried + _radiator_out_rise(point, s)
            total += heat * s.flow_m3s * (carried + gained)
        else:
            total += heat * s.flow_m3s * carried
    for e in point.air.exchanges:
        if ROOM in (e.first, e.second):
            inner = e.second if e.first == ROOM else e.first
            total += heat * e.flow_m3s * point.rises_k[inner]
    for name, rise in point.rises_k.items():
        if name.startswith("wall_"):
            total += 10.0 * point.spaces.wall_m2(name.removeprefix("wall_")) * rise
    return total


def _radiator_out_rise(point: OperatingPoint, stream: Any) -> float:
    from engine.coupled.thermal import COOLANT, _exchange

    _, eps = _exchange(point.machine, stream, point.density * 1007.0)
    inlet = point.mixture_rise_k(stream.of)
    return (1 - eps) * inlet + eps * point.rises_k[COOLANT]


class ConservationTest(SimpleTestCase):
    def test_mass_and_heat_are_conserved_in_every_demo_layout(self) -> None:
        for layout_id in "ABCD":
            with self.subTest(layout=layout_id):
                point = operating_point(machine(layout_id=layout_id))
                self.assertTrue(point.converged)
                self.assertLess(point.flows.residual_m3s, 1e-7)
                balance = forecast(point).balance
                self.assertAlmostEqual(balance.inflow_total_m3h / balance.outflow_total_m3h, 1.0, delta=1e-3)
                put_in = point.powers.cpu_w + point.powers.card_w + point.machine.board_power_w
                self.assertAlmostEqual(heat_out_w(point) / put_in, 1.0, delta=2e-3)

    def test_spaces_share_an_opening_whole(self) -> None:
        m = machine()
        spaces = Spaces.of(m)
        for mount in m.mounts.values():
            self.assertAlmostEqual(sum(spaces.behind_mount(mount, mount.size_mm).values()), 1.0)
        whole = sum(spaces.whole_face("window").values())
        self.assertAlmostEqual(whole, m.depth_mm * m.height_mm * 1e-6)

    def test_moving_every_mount_sideways_changes_nothing(self) -> None:
        raw = demo_raw()
        for mount in raw["case"]["mounts"]:
            mount["centre_mm"]["y"] = raw["case"]["inner_mm"]["width"] - mount["centre_mm"]["y"]
        self.assertAlmostEqual(forecast_of(machine(raw)).cpu.rise_k, forecast_of(machine()).cpu.rise_k, places=9)

    def test_no_power_no_rise(self) -> None:
        raw = demo_raw()
        raw["parts"]["board_power_w"] = 0
        layout_raw(raw, "A").update({"cpu_power_w": 0, "card_power_w": 0})
        f = forecast_of(machine(raw))
        self.assertAlmostEqual(f.cpu.rise_k, 0, places=6)
        self.assertAlmostEqual(f.air.rear_c, 22, places=6)


class EffectsTest(SimpleTestCase):
    def test_rises_hardly_depend_on_the_room(self) -> None:
        cold, warm = (forecast_of(machine(room_c=t)) for t in (18, 30))
        self.assertAlmostEqual(cold.cpu.rise_k, warm.cpu.rise_k, delta=2.0)
        self.assertAlmostEqual(warm.cpu.temperature_c - warm.cpu.rise_k, 30)

    def test_a_limited_part_sits_at_its_limit_and_gives_up_power(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"cpu_power_w": 320, "panels": {"front": {"kind": "solid"}}})
        f = forecast_of(machine(raw))
        self.assertTrue(f.cpu.limited)
        self.assertAlmostEqual(f.cpu.temperature_c, 100, places=4)
        self.assertLess(f.cpu.power_w, 320)
        self.assertIn("cpu_limited", [c.code for c in f.caveats])

    def test_both_parts_limited_together(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"cpu_power_w": 350, "card_power_w": 600, "fans": []})
        f = forecast_of(machine(raw))
        assert f.card is not None
        self.assertTrue(f.cpu.limited and f.card.limited)
        self.assertAlmostEqual(f.card.temperature_c, 90, places=4)

    def test_opposed_layers_are_far_worse_than_one(self) -> None:
        raw = demo_raw()
        both = layout_raw(raw, "C")
        both["fans"] += [fan_raw("t1", "intake", 52, "skua-120"), fan_raw("t2", "intake", 52, "skua-120")]
        opposed, single = forecast_of(machine(raw, "C")), forecast_of(machine(layout_id="C"))
        self.assertGreater(opposed.cpu.rise_k - single.cpu.rise_k, 3)
        self.assertLess(abs(opposed.fans[-1].flow_m3h), 0.35 * abs(single.fans[-1].flow_m3h))

    def test_push_pull_moves_more_than_one_layer(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "C")["fans"] += [fan_raw("t1", "exhaust", 52, "skua-120"), fan_raw("t2", "exhaust", 52, "skua-120")]
        double, single = forecast_of(machine(raw, "C")), forecast_of(machine(layout_id="C"))
        flows = [{f.mount: f.flow_m3h for f in x.fans}["t1"] for x in (double, single)]
        self.assertGreater(flows[0], 1.1 * flows[1])
        self.assertLess(double.cpu.rise_k, single.cpu.rise_k)

    def test_an_unplugged_fan_is_neither_empty_nor_running(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["fans"][0]["state"] = "unplugged"
        f = forecast_of(machine(raw))
        own = next(x for x in f.fans if x.mount == "f2")
        self.assertEqual(own.speed_rpm, 0)
        self.assertEqual(f.balance.intake_count, 1)
        self.assertNotAlmostEqual(own.flow_m3h, 0, places=1)

    def test_blower_card_spares_the_case(self) -> None:
        raw = demo_raw()
        raw["parts"]["cards"][0]["shroud"] = "blower"
        self.assertLess(forecast_of(machine(raw)).air.rear_c, forecast_of(machine()).air.rear_c)

    def test_loads(self) -> None:
        rises = {load: forecast_of(loaded(machine(), load)).cpu.rise_k for load in ("idle", "cpu", "card", "both")}
        self.assertLess(rises["idle"], rises["card"])
        self.assertLess(rises["card"], rises["cpu"])
        self.assertLess(rises["cpu"], rises["both"])

    def test_speed_curves_meet_their_own_temperature(self) -> None:
        raw = demo_raw()
        raw["curves"] = [{"id": "warm", "source": "cpu", "points": [[40, 30], [90, 100]]}]
        for place in layout_raw(raw, "A")["fans"]:
            place["curve"] = "warm"
        f = forecast_of(machine(raw))
        self.assertTrue(f.converged)
        expected = 30 + 70 * (f.cpu.temperature_c - 40) / 50
        self.assertAlmostEqual(f.fans[0].speed_pct, expected, delta=0.3)

    def test_target_level(self) -> None:
        m, reached = at_target_level(machine(layout_id="B"), 33.0)
        self.assertTrue(reached)
        self.assertAlmostEqual(forecast_of(m).sound.level_dba, 33.0, delta=0.05)
        _, never = at_target_level(machine(layout_id="B"), 20.0)
        self.assertFalse(never)

    def test_difference_is_narrower_than_the_figures(self) -> None:
        b, a = forecast_of(machine(layout_id="B")), forecast_of(machine(layout_id="A"))
        d = differences(b, a)
        self.assertAlmostEqual(d.cpu_k, b.cpu.rise_k - a.cpu.rise_k)
        self.assertLess(d.cpu_band_k, b.cpu.band_k)

    def test_taking_the_front_panel_off_a_closed_case_helps(self) -> None:
        raw = demo_raw()
        front = raw["case"]["panels"][0]
        front.update({"kind": "slots", "gap_area_cm2": 60, "turns_90": 2})
        closed = forecast_of(machine(raw))
        opened = copy.deepcopy(raw)
        layout_raw(opened, "A")["panels"] = {"front": {"state": "removed"}}
        after = forecast_of(machine(opened))
        self.assertGreater(after.balance.intake_m3h, 1.1 * closed.balance.intake_m3h)
        self.assertLess(after.cpu.rise_k, closed.cpu.rise_k)

    def test_tracer_adds_up(self) -> None:
        point = operating_point(machine(layout_id="B"))
        shares = unused_shares(point, "f1")
        self.assertTrue(all(0 <= u.share <= 1 for u in shares))
        self.assertLessEqual(sum(u.share for u in shares), 1.0 + 1e-6)
        self.assertEqual(unused_shares(point, "r1"), [])
        self.assertEqual(shares[0].mount, "t3")

    def test_every_card_stream_is_there(self) -> None:
        kinds = {s.link.kind for s in operating_point(machine()).air.streams if CARD in (s.upwind, s.downwind)}
        self.assertEqual(kinds, {"card_in", "card_out"})


class TransientTest(SimpleTestCase):
    def test_it_rises_to_the_settled_point(self) -> None:
        m = machine(layout_id="D")
        f = forecast_of(m)
        rows = warm_up(m, 240, 600)
        self.assertEqual(rows[0].cpu_k, 0)
        self.assertTrue(all(a.cpu_k <= b.cpu_k + 1e-6 for a, b in pairwise(rows)))
        self.assertAlmostEqual(rows[-1].cpu_k, f.cpu.rise_k, delta=0.1)
        assert f.card and rows[-1].card_k is not None
        self.assertAlmostEqual(rows[-1].card_k, f.card.rise_k, delta=0.1)

    def test_rows_come_at_the_asked_times(self) -> None:
        self.assertEqual([r.minutes for r in warm_up(machine(), 3, 60)], [0, 1, 2, 3])

    def test_coolant_is_slower_than_fins(self) -> None:
        # Common practice, no source: loops need longer than towers.
        tower, loop = (warm_up(machine(layout_id=x), 5, 300)[-1].cpu_k / forecast_of(machine(layout_id=x)).cpu.rise_k for x in "AC")
        self.assertLess(loop, tower)
