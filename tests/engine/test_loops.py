"""Loops with several radiators, with the card on them, and two loops side by side: heat sums by hand and limiting cases."""

from typing import Any

from django.test import SimpleTestCase

from desk.job.resolve import Resolver
from documents.errors import DocumentError
from documents.job.reader import check_job
from engine import constants as k
from engine.coupled.audit import books
from engine.coupled.explain import account
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.coupled.transient import warm_up
from tests.machines import fan_raw, machine

TUBES = {"tube_mm": 450, "tube_material": "epdm"}


def mount_raw(name: str, face: str, x: float, z: float) -> dict[str, Any]:
    return {"id": name, "face": face, "centre_mm": {"x": x, "y": 120, "z": z}, "sizes_mm": [120, 140]}


def tower_raw(loops: list[dict[str, Any]] | None = None) -> dict[str, Any]:
    """A full tower described from nothing: radiators at the top and in front on an open loop, the card on it."""
    mounts = [
        *(mount_raw(f"f{i}", "front", 0, z) for i, z in ((1, 470), (2, 345), (3, 220))),
        *(mount_raw(f"t{i}", "top", x, 560) for i, x in ((1, 380), (2, 255), (3, 130))),
        mount_raw("r1", "rear", 520, 440),
    ]
    radiators = [
        {"radiator": "r360", "mounts": ["t1", "t2", "t3"], "tubes": "rear"},
        {"radiator": "r360", "mounts": ["f1", "f2", "f3"], "tubes": "bottom"},
    ]
    loop = {"cooler": "block", "heat": ["cpu", "card"], "reservoir": True, "radiators": radiators}
    fans = [fan_raw(m, "exhaust", 70, "tern") for m in ("t1", "t2", "t3", "r1")]
    fans += [fan_raw(m, "intake", 70, "tern") for m in ("f1", "f2", "f3")]
    return {
        "format": "oventa-job",
        "version": 1,
        "name": "full tower, open loop",
        "room": {"temperature_c": 22},
        "case": {
            "name": "Albatross 56",
            "inner_mm": {"depth": 520, "height": 560, "width": 240},
            "panels": [{"face": f, "kind": "mesh", "open_area_pct": 45} for f in ("front", "top")],
            "mounts": mounts,
        },
        "parts": {
            "cpus": [{"id": "c", "power_w": 200, "r_jc_k_per_w": 0.12}],
            "cards": [
                {"id": "g", "power_w": 320, "length_mm": 300, "fan_flow_max_m3h": 120, "fan_pressure_max_pa": 50, "fin_drop_pa": 16,
                 "r_k_per_w": 0.16, "noise_dba": 38, "block_k_per_w": 0.06},
            ],
            "coolers": [
                {"id": "block", "kind": "open_loop", "r_plate_k_per_w": 0.04, "coolant_ml": 800, "pump": "free", "pump_z_mm": 80, **TUBES},
                {"id": "own", "kind": "sealed", "r_plate_k_per_w": 0.05, **TUBES},
                {"id": "air", "kind": "tower", "height_mm": 160, "fan": "tern", "flow_ref_m3h": 50, "fin_drop_pa": 7,
                 "ua_ref_w_per_k": 11, "r_base_k_per_w": 0.06},
            ],
            "radiators": [{"id": "r360", "sections": 3, "section_mm": 120, "thickness_mm": 30}],
            "fans": [{"id": "tern", "size_mm": 120, "speed_max_rpm": 1500, "flow_max_m3h": 95, "pressure_max_pa": 20, "noise_dba": 28}],
        },
        "base": {"cpu": "c", "card": "g", "cooler": "block"},
        "layouts": [{"id": "A", "fans": fans, "loops": [loop] if loops is None else loops}],
    }  # fmt: skip


def own_loops(cpu: list[str], card: list[str], card_cooler: str = "own") -> list[dict[str, Any]]:
    """One loop for the processor and one for the card, each on its own mounts."""
    return [
        {"cooler": "block", "heat": ["cpu"], "radiators": [{"radiator": "r360", "mounts": cpu}]},
        {"cooler": card_cooler, "heat": ["card"], "radiators": [{"radiator": "r360", "mounts": card}]},
    ]


TOP, FRONT = ["t1", "t2", "t3"], ["f1", "f2", "f3"]


def point(raw: dict[str, Any]) -> OperatingPoint:
    return operating_point(machine(raw))


def exchanged_w(p: OperatingPoint, own: bool = False) -> float:
    """Heat that the radiators of a loop give to the air, summed link by link."""
    pg, heat = p.plan.program, p.density * k.AIR_HEAT_CAPACITY_J_KGK
    node = pg.n + (4 if own else 1)
    total = 0.0
    for i, q in enumerate(p.flow_m3s.tolist()):
        if p.links[i].radiator and pg.sink[i] == node:
            total += heat * abs(q) * float(p.effectiveness[i]) * float(p.node_rise_k[node] - p.carried_k[i])
    return total


class SharedLoopTest(SimpleTestCase):
    def test_all_heat_of_both_parts_leaves_by_the_radiators(self) -> None:
        found = point(tower_raw())
        self.assertTrue(found.converged)
        self.assertAlmostEqual(exchanged_w(found), 520, delta=2)  # less what still fins give off past the streams
        self.assertLess(books(found).heat_error, 1e-3)

    def test_core_and_block_stand_over_the_coolant_by_ohm_s_law(self) -> None:
        found = point(tower_raw())
        coolant = found.rises_k["coolant"]
        self.assertAlmostEqual(found.cpu_rise_k - coolant, 200 * (0.12 + 0.04), places=6)
        self.assertAlmostEqual((found.card_rise_k or 0) - coolant, 320 * 0.06, places=6)

    def test_a_second_radiator_cools_and_a_blown_up_card_does_not_heat_the_case(self) -> None:
        both, one = tower_raw(), tower_raw()
        one["layouts"][0]["loops"][0]["radiators"].pop()
        self.assertLess(point(both).rises_k["coolant"], point(one).rises_k["coolant"] - 5)
        on_air = tower_raw(loops=[{"cooler": "block", "heat": ["cpu"], "radiators": [{"radiator": "r360", "mounts": TOP}]}])
        self.assertIsNone(forecast(point(both)).air.card_inlet_c)
        self.assertIsNotNone(forecast(point(on_air)).air.card_inlet_c)

    def test_a_card_on_the_loop_makes_no_fan_noise(self) -> None:
        on_air = tower_raw(loops=own_loops(TOP, FRONT)[:1])
        self.assertLess(forecast(point(tower_raw())).sound.level_dba, forecast(point(on_air)).sound.level_dba)

    def test_the_block_s_default_is_stated(self) -> None:
        raw = tower_raw()
        del raw["parts"]["cards"][0]["block_k_per_w"]
        resolver = Resolver(check_job(raw).doc)
        made = resolver.machine("A")
        self.assertIn("parts.cards.g.block_k_per_w", resolver.defaults_used)
        self.assertEqual(made.card and made.card.block_k_per_w, k.CARD_BLOCK_K_W)

    def test_time_ends_where_the_steady_state_is(self) -> None:
        raw = tower_raw()
        end = warm_up(machine(raw), 240, 60)[-1]
        found = point(raw)
        self.assertAlmostEqual(end.cpu_k, found.cpu_rise_k, delta=0.2)
        self.assertAlmostEqual(end.card_k or 0, found.card_rise_k or 0, delta=0.2)
        self.assertAlmostEqual(end.coolant_k or 0, found.rises_k["coolant"], delta=0.2)

    def test_accounts_name_both_heats(self) -> None:
        found = point(tower_raw())
        into = account(found, "coolant").steps[0]
        self.assertEqual([p.what for p in into.parts], ["processor", "card"])
        self.assertAlmostEqual(into.value, 520, delta=0.1)
        self.assertAlmostEqual(account(found, "card").steps[-2].value, found.card_rise_k or 0, places=6)


class OwnLoopsTest(SimpleTestCase):
    def test_each_loop_carries_its_own_heat(self) -> None:
        found = point(tower_raw(own_loops(TOP, FRONT)))
        self.assertAlmostEqual(exchanged_w(found), 200, delta=2)
        self.assertAlmostEqual(exchanged_w(found, own=True), 320, delta=2)
        self.assertLess(books(found).heat_error, 1e-3)
        said = forecast(found)
        assert said.coolant and said.card_coolant
        self.assertAlmostEqual((found.card_rise_k or 0) - said.card_coolant.rise_k, 320 * 0.06, places=6)

    def test_more_heat_in_the_card_leaves_a_loop_upstream_of_it_alone(self) -> None:
        # The processor's radiator breathes room air in front; what the card's loop at the top gives off goes out there.
        quiet, loud = tower_raw(own_loops(FRONT, TOP)), tower_raw(own_loops(FRONT, TOP))
        loud["parts"]["cards"][0]["power_w"] = 420
        self.assertAlmostEqual(point(quiet).rises_k["coolant"], point(loud).rises_k["coolant"], delta=0.6)
        self.assertGreater(point(loud).rises_k["card_coolant"], point(quiet).rises_k["card_coolant"] + 3)

    def test_a_tower_and_a_loop_for_the_card_alone(self) -> None:
        raw = tower_raw(own_loops(TOP, FRONT)[1:])
        raw["base"]["cooler"] = "air"
        found = point(raw)
        self.assertTrue(found.converged)
        self.assertAlmostEqual(exchanged_w(found, own=True), 320, delta=2)
        said = forecast(found)
        assert said.coolant
        self.assertIsNone(said.card_coolant)
        self.assertAlmostEqual(said.coolant.rise_k, found.rises_k["card_coolant"])
        self.assertAlmostEqual(account(found, "coolant").steps[0].value, 320, delta=0.1)
        self.assertGreater(found.cpu_rise_k, found.cpu_inlet_rise_k)

    def test_slowing_one_pump_warms_its_own_loop(self) -> None:
        raw = tower_raw(own_loops(TOP, FRONT))
        slow = tower_raw(own_loops(TOP, FRONT))
        slow["layouts"][0]["loops"][1]["pump_pct"] = 20
        self.assertGreater(point(slow).rises_k["card_coolant"], point(raw).rises_k["card_coolant"] + 1)
        self.assertAlmostEqual(point(slow).rises_k["coolant"], point(raw).rises_k["coolant"], delta=0.5)


class RefusedLoopsTest(SimpleTestCase):
    def refused(self, loops: list[dict[str, Any]]) -> str:
        raw = tower_raw(loops)
        with self.assertRaises(DocumentError) as caught:
            Resolver(check_job(raw).doc).machine("A")
        return str(caught.exception)

    def test_impossible_loops_say_what_where_and_what_to_do(self) -> None:
        twice = own_loops(TOP, FRONT)
        twice[1]["heat"] = ["cpu"]
        self.assertIn("two loops take the heat of the cpu", self.refused(twice))
        self.assertIn("has no coolant", self.refused(own_loops(TOP, FRONT, "air")))
        self.assertIn("no loop takes the processor's heat", self.refused(own_loops(TOP, FRONT)[1:]))
        self.assertIn("two radiators stand on mount", self.refused(own_loops(TOP, TOP)))
