"""Speeds for a target level, speed curves at rest, and batches against one at a time."""

from typing import Any

import numpy as np
from django.test import SimpleTestCase

from engine.coupled.batch import FIGURES, settle_machines, settle_variants
from engine.coupled.forecast import forecast, forecast_of, level_dba
from engine.coupled.operating_point import PLANS, loaded, operating_point
from engine.coupled.program import variants
from engine.coupled.quiet import SLOWEST_PCT, groups_by_face, quiet_speeds
from engine.parameters import DEFAULT
from tests.machines import curved_raw, demo_raw, fan_raw, layout_raw, machine


def together(m: Any) -> dict[str, tuple[str, ...]]:
    return {"all": tuple(f.mount for f in m.fans)}


class QuietTest(SimpleTestCase):
    def test_the_level_alone_is_the_forecast_s(self) -> None:
        for layout in "ABCD":
            m = machine(layout_id=layout)
            self.assertAlmostEqual(level_dba(m), forecast_of(m).sound.level_dba, places=9)

    def test_all_alike_within_half_a_decibel(self) -> None:
        m = machine(layout_id="B")
        found = quiet_speeds(m, 34.0, together(m))
        self.assertTrue(found.reached)
        self.assertTrue(33.5 <= found.level_dba <= 34.0)
        self.assertEqual(len(set(found.speeds_pct.values())), 1)

    def test_each_side_its_own_is_no_hotter_than_all_alike(self) -> None:
        m = machine(layout_id="B")
        alike, sides = quiet_speeds(m, 34.0, together(m)), quiet_speeds(m, 34.0, groups_by_face(m))
        heat = [x.cpu_rise_k + (x.card_rise_k or 0.0) for x in (alike, sides)]
        self.assertLessEqual(heat[1], heat[0] + 0.1)
        self.assertLessEqual(sides.level_dba, 34.0 + 1e-9)
        self.assertTrue(all(v == 0 or v >= SLOWEST_PCT for v in sides.speeds_pct.values()))

    def test_a_band_that_hums_is_skipped(self) -> None:
        m = machine(layout_id="B")
        free = quiet_speeds(m, 33.0, together(m))
        rpm = free.speeds_pct["f1"] / 100 * m.fans[0].fan.speed_max_rpm
        kept = quiet_speeds(m, 33.0, together(m), [(rpm - 60, rpm + 60)])
        for fan in m.fans:
            turned = kept.speeds_pct[fan.mount] / 100 * fan.fan.speed_max_rpm
            self.assertFalse(rpm - 60 <= turned <= rpm + 60)
        self.assertLessEqual(kept.level_dba, 33.0)

    def test_a_level_that_cannot_be_had_is_said(self) -> None:
        m = machine(layout_id="B")
        found = quiet_speeds(m, 18.0, groups_by_face(m))
        self.assertFalse(found.reached)
        self.assertEqual(set(found.speeds_pct.values()), {0.0})

    def test_obstructions_make_fans_louder(self) -> None:
        # Common practice, no source: turbulence off a grille or a closed panel before the blades is heard.
        raw = demo_raw()
        plain = {f.mount: f.level_dba for f in forecast_of(machine(raw)).fans}
        layout_raw(raw, "A")["obstructions"] = [{"mount": "f3", "blocked_pct": 40}]
        blocked = {f.mount: f.level_dba for f in forecast_of(machine(raw)).fans}
        self.assertGreater(blocked["f3"], plain["f3"])
        self.assertEqual(blocked["f2"], plain["f2"])

    def test_a_closing_panel_quietens_all_the_same(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["panels"] = {"front": {"kind": "solid"}}
        self.assertLess(forecast_of(machine(raw)).fans[0].level_dba, forecast_of(machine()).fans[0].level_dba)


class CurvesTest(SimpleTestCase):
    def test_every_source_comes_to_rest_where_curve_and_heat_meet(self) -> None:
        for source in ("cpu", "card", "hotter", "coolant", "board", "case_air"):
            points = [[24, 30], [40, 100]] if source in ("board", "case_air") else [[30, 30], [90, 100]]
            point = operating_point(machine(curved_raw(points, source)))
            f = forecast(point)
            readings = {
                "cpu": f.cpu.temperature_c,
                "card": f.card.temperature_c if f.card else 0.0,
                "hotter": max(f.cpu.temperature_c, f.card.temperature_c if f.card else 0.0),
                "coolant": f.cpu.temperature_c,
                "board": f.air.board_c,
                "case_air": f.air.rear_c,
            }
            asked = float(np.interp(readings[source], [p[0] for p in points], [p[1] for p in points]))
            with self.subTest(source=source):
                self.assertTrue(point.converged)
                if source != "board":  # the board's curve reads the spaces over it, lanes left out
                    self.assertAlmostEqual(f.fans[0].speed_pct, asked, delta=0.4)

    def test_a_steep_curve_hunts_and_a_flat_one_does_not(self) -> None:
        slow, fast = (forecast_of(machine(curved_raw([[0, s]]))).cpu.temperature_c for s in (20.0, 100.0))
        between = (slow + fast) / 2
        steep = forecast_of(machine(curved_raw([[between - 0.2, 20], [between + 0.2, 100]])))
        flat = forecast_of(machine(curved_raw([[30, 40], [95, 80]])))
        self.assertIn("curve_hunts", [c.code for c in steep.caveats])
        self.assertNotIn("curve_hunts", [c.code for c in flat.caveats])

    def test_two_equilibria_are_told(self) -> None:
        # A fan over the card that turns faster the warmer the processor is, and blows the card's air at it: each of the two
        # states keeps itself up. Found by starting cold and starting fast.
        raw = demo_raw()
        raw["curves"] = [{"id": "own", "source": "board", "points": [[22, 0], [27, 0], [29, 100]]}]
        layout_raw(raw, "A")["fans"] = [fan_raw("f1", "intake", 60), fan_raw("f3", "exhaust", 100), fan_raw("r1", "exhaust", 40)]
        layout_raw(raw, "A")["fans"][1]["curve"] = "own"
        point = operating_point(machine(raw))
        ends = []
        for start in (0.0, 1.0):
            va, curves = point.rows
            speed = np.where(va.curve[0] >= 0, start, va.speed[0])
            ends.append(float(settle_variants(point.plan, va, curves, DEFAULT, speed).figures_k[0, FIGURES.index("cpu")]))
        apart = abs(ends[0] - ends[1]) > 0.5
        self.assertEqual(point.curving.other_cpu_rise_k is not None, apart)


class BatchTest(SimpleTestCase):
    def test_a_batch_is_its_rows_one_by_one(self) -> None:
        raw = demo_raw()
        machines = []
        for speed in range(40, 101, 2):
            for place in layout_raw(raw, "B")["fans"]:
                place["speed_pct"] = speed
            machines.append(machine(raw, "B"))
        machines *= 4  # enough rows for several threads
        found = settle_machines(PLANS.plan(machines[0]), machines)
        for i in (0, 17, 64, 100, len(machines) - 1):
            self.assertAlmostEqual(found.figures_k[i, 0], operating_point(machines[i]).cpu_rise_k, places=9)

    def test_rows_of_parameters_need_one_row_of_layout(self) -> None:
        m = machine()
        plan = PLANS.plan(m)
        rows = np.tile(DEFAULT, (70, 1))
        found = settle_variants(plan, *variants(plan, [m]), rows)
        self.assertTrue(np.all(found.figures_k == found.figures_k[0]))

    def test_own_load_between_idle_and_full(self) -> None:
        half = operating_point(loaded(machine(), "own", (0.5, 0.5)))
        idle, full = (operating_point(loaded(machine(), x)) for x in ("idle", "both"))
        self.assertTrue(idle.cpu_rise_k < half.cpu_rise_k < full.cpu_rise_k)
        self.assertAlmostEqual(half.powers.cpu_w, 62.5)

    def test_flow_for_a_rise_is_the_rule_of_thumb(self) -> None:
        # Source: electronics cooling handbooks: flow = power / (density x heat capacity x rise); 100 W at 10 K is about 30 m3/h.
        raw = demo_raw()
        point = operating_point(machine(raw))
        f = forecast(point)
        out = [x for x in f.links if "room" in (x.tail, x.head) and (x.flow_m3h > 0) == (x.head == "room")]
        mean = sum(abs(x.flow_m3h) * x.rise_k for x in out) / sum(abs(x.flow_m3h) for x in out)
        walls = sum(6.08 * point.spaces.wall_m2(s) * point.rises_k[s] for s in point.spaces.ids)
        power = 125 + 220 + raw["parts"]["board_power_w"] - walls
        self.assertAlmostEqual(mean, power / (point.density * 1007 * f.balance.outflow_total_m3h / 3600), delta=0.1)
        self.assertAlmostEqual(100 / (1.19 * 1007 * 10) * 3600, 30, delta=0.5)
