"""Random cases of every sort: the engine always ends, books balance, limits hold, and effects keep their direction."""

from dataclasses import replace

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (the study's cases are no part of the application)
from engine.coupled.forecast import forecast
from engine.coupled.openings import passive_openings
from engine.coupled.operating_point import operating_point
from engine.machine import AirCooler, Machine
from study.main import faults_of, machine_of, opposed

CASES = 500


def through_m3h(machine: Machine) -> float:
    point = operating_point(machine)
    return float(sum(abs(q) for link, q in zip(point.links, point.flow_m3s, strict=True) if "room" in (link.tail, link.head))) * 1800


class RandomCasesTest(SimpleTestCase):
    def test_nothing_a_person_can_draw_breaks_the_engine(self) -> None:
        for seed in range(10_000, 10_000 + CASES):
            faults, mass, heat = faults_of(machine_of(seed))
            with self.subTest(seed=seed):
                self.assertEqual(faults, [], f"errors of mass {mass:.2e}, of heat {heat:.2e}")

    def test_every_second_fan_against_its_neighbour(self) -> None:
        for seed in range(20_000, 20_060):
            with self.subTest(seed=seed):
                self.assertEqual(faults_of(opposed(machine_of(seed)))[0], [])

    def test_what_the_fans_move_too_much_goes_by_the_other_openings(self) -> None:
        # What enters leaves, so over fans and other openings the flow into the case is nothing. Source: conservation of mass.
        against = 0
        for seed in range(40):
            point = operating_point(machine_of(seed))
            balance, passive = forecast(point).balance, passive_openings(point)
            surplus = balance.intake_m3h - balance.exhaust_m3h
            with self.subTest(seed=seed):
                self.assertAlmostEqual(sum(o.out_m3h for o in passive), surplus, delta=0.2)
                self.assertNotIn("other openings", [o.words for o in passive])
                self.assertTrue(all(o.out_m3h * surplus > 0 for o in balance.rest))
                self.assertTrue(balance.state != "even" or not balance.rest)
            against += balance.pressure_against
        self.assertGreater(against, 1)  # fans that bring in more than they take out, and a mean pressure below the room's

    def test_a_hotter_room_raises_everything_by_about_as_much(self) -> None:
        for seed in range(60):
            m = machine_of(seed)
            fixed = replace(m, fans=tuple(replace(f, curve=None) for f in m.fans), card=m.card and replace(m.card, curve=None))
            if isinstance(fixed.cooler, AirCooler):
                fixed = replace(fixed, cooler=replace(fixed.cooler, curve=None))
            cold, warm = (operating_point(replace(fixed, room=replace(m.room, temperature_c=t))) for t in (18.0, 24.0))
            if cold.powers.cpu_limited or warm.powers.cpu_limited or cold.powers.card_limited or warm.powers.card_limited:
                continue
            with self.subTest(seed=seed):
                self.assertAlmostEqual(cold.cpu_rise_k, warm.cpu_rise_k, delta=1.0 + 0.04 * cold.cpu_rise_k)

    def test_a_faster_fan_never_lowers_its_own_flow(self) -> None:
        for seed in range(80):
            m = machine_of(seed)
            if not m.fans or m.fans[0].curve:
                continue
            first = m.fans[0]
            flows = []
            for speed in (40.0, 70.0, 100.0):
                point = operating_point(replace(m, fans=(replace(first, speed_pct=speed, running=True), *m.fans[1:])))
                sign = 1 if first.direction == "intake" else -1
                flows.append(sign * sum(q for link, q in zip(point.links, point.flow_m3s, strict=True) if link.mount == first.mount))
            with self.subTest(seed=seed):
                self.assertLessEqual(flows[0], flows[1] + 1e-4)
                self.assertLessEqual(flows[1], flows[2] + 1e-4)

    def test_taking_a_panel_off_never_lowers_the_air_through_the_case(self) -> None:
        for seed in range(80):
            m = machine_of(seed)
            face = next((f for f, p in m.panels.items() if p.kind in ("mesh", "slots") and not p.removed and f != "window"), None)
            if face is None or any(f.curve for f in m.fans):
                continue
            opened = replace(m, panels={**m.panels, face: replace(m.panels[face], removed=True)})
            with self.subTest(seed=seed, face=face):
                self.assertGreaterEqual(through_m3h(opened), 0.98 * through_m3h(m) - 1.6)  # still air may mix instead of flowing
