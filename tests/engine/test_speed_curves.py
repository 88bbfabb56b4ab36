"""Speed curves: their points, what a run over time says of them, the changes of level that are heard."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from engine.coupled.curves import CALMER, FLOORS_PCT, LEAP_K, SPANS_K, START_PCT, bands_pct, judged, points_of, propose
from engine.coupled.operating_point import loaded
from engine.coupled.quiet import groups_by_face
from engine.coupled.transient import Profile, run
from engine.machine import HYSTERESIS_K, RAMP_S, Machine, SpeedCurve
from engine.sound.changes import AUDIBLE_DB, audible_swings_db, over_time
from tests.machines import machine


class ChangesTest(SimpleTestCase):
    def test_swings_are_counted_from_turn_to_turn(self) -> None:
        self.assertEqual(audible_swings_db([30, 31, 33, 36, 35, 36, 32, 30, 31]), [6, -6])
        self.assertEqual(audible_swings_db([30, 30.5, 29.5, 30]), [])
        self.assertEqual(audible_swings_db([36, 34, 32, 35.5]), [-4, 3.5])
        self.assertEqual(len(audible_swings_db([30 + 4 * (i % 2) for i in range(9)])), 8)

    def test_a_slow_drift_is_one_change_however_fine_the_steps(self) -> None:
        for n in (5, 50, 500):
            self.assertEqual([round(x, 6) for x in audible_swings_db(np.linspace(30, 38, n).tolist())], [8])

    def test_wobbles_smaller_than_heard_part_no_swing(self) -> None:
        wobble = np.linspace(30, 40, 400) + 0.9 * np.sin(np.arange(400))
        self.assertEqual(len(audible_swings_db(wobble.tolist())), 1)

    def test_the_mean_is_by_energy(self) -> None:
        # Source: ISO 1996-1, equivalent continuous level: half the time 10 dB less is 2.6 dB less on average (3 dB less the tenth).
        found = over_time([40.0, 30.0] * 30, 10.0, 35.0)
        self.assertAlmostEqual(found.mean_dba, 40 + 10 * np.log10(0.55))
        self.assertEqual((found.highest_dba, found.over_s), (40, 300))
        self.assertGreaterEqual(found.largest_db, AUDIBLE_DB)
        with self.assertRaises(ValueError):
            over_time([], 1.0)


class PointsTest(SimpleTestCase):
    def test_they_rise_in_temperature_and_end_at_the_top_in_time(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(300):
            room, rise, floor = rng.uniform(10, 35), rng.uniform(0.5, 80), rng.choice([0.0, 25.0, 40.0])
            top, span = rng.uniform(20, 100), rng.uniform(2, 40)
            low = rng.uniform(20, 90)
            points = points_of(room, rise, floor, top, span, [(low, low + 6)])
            temperatures, speeds = np.array(points).T
            self.assertTrue((np.diff(temperatures) > 0).all(), points)
            self.assertTrue((np.diff(speeds) >= 0).all(), points)
            self.assertAlmostEqual(speeds[-1], top, delta=0.06)
            self.assertLessEqual(speeds.max(), top + 0.06)
            self.assertTrue(all(s == 0 or s >= min(START_PCT, round(top, 1)) for s in speeds))
            self.assertLess(temperatures[0], room + max(rise, 1.0))

    def test_a_curve_leaps_over_what_hums(self) -> None:
        points = points_of(22, 50, 25, 100, 30, [(40, 48), (70, 76)])
        at = np.linspace(points[0][0], points[-1][0], 4000)
        speeds = np.interp(at, *np.array(points).T)
        for low, high in ((40, 48), (70, 76)):
            within = (speeds > low) & (speeds < high)
            self.assertLessEqual(within.mean() * (at[-1] - at[0]), LEAP_K + 0.05)

    def test_bands_of_a_group_are_those_of_any_of_its_fans(self) -> None:
        fans = machine().fans[:2]
        fast = replace(fans[1], fan=replace(fans[1].fan, speed_max_rpm=2 * fans[0].fan.speed_max_rpm))
        own = fans[0].fan.speed_max_rpm
        self.assertEqual(bands_pct([fans[0], fast], [(0.5 * own, 0.6 * own)]), [(25, 30), (50, 60)])
        self.assertEqual(bands_pct([fans[0]], [(0.5 * own, 0.6 * own), (0.55 * own, 0.7 * own)]), [(50, 70)])


class JudgedTest(SimpleTestCase):
    def test_a_curve_may_be_slow_and_hold_back(self) -> None:
        """A fan with a long ramp is later at its speed; one with a wide hysteresis stays fast for longer once it cools."""
        m = loaded(machine(), "both")
        plain = SpeedCurve("c", "hotter", (40.0, 60.0), (30.0, 100.0))
        burst = Profile("burst", 1200, 600)

        def speeds(curve: SpeedCurve) -> np.ndarray:
            own = replace(m, fans=tuple(replace(f, curve=curve) for f in m.fans))
            return np.array([r.fans_pct[0] for r in run(own, 20, 10, burst)])

        usual, slow, wide = speeds(plain), speeds(replace(plain, ramp_s=400.0)), speeds(replace(plain, hysteresis_k=15.0))
        self.assertLess(slow[12], usual[12] - 10)
        self.assertLessEqual(np.abs(np.diff(slow)).max(), 100 * 10 / 400 + 1e-9)
        self.assertGreater(wide[61:].mean(), usual[61:].mean() + 5)
        np.testing.assert_allclose(wide[:60], usual[:60])

    def test_time_at_a_limit_is_that_of_the_run(self) -> None:
        m = loaded(machine(), "both")
        self.assertEqual(judged(m, Profile(), 30, None, None).minutes_at_limit, 0)
        hot = replace(m, cpu=replace(m.cpu, tj_max_c=60.0))
        told = judged(hot, Profile(), 30, None, None)
        rows = run(hot, 30, 5.0, Profile())[1:]
        self.assertAlmostEqual(told.minutes_at_limit, sum(r.cpu_w < m.cpu.power_w - 0.5 for r in rows) * 5 / 60)
        self.assertGreater(told.minutes_at_limit, 5)
        self.assertAlmostEqual(told.cpu_c, 60.0, delta=0.1)


class ProposeTest(SimpleTestCase):
    m: Machine

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.m = loaded(machine(layout_id="B"), "both")

    def test_they_keep_the_level_and_are_what_they_say(self) -> None:
        groups = groups_by_face(self.m)
        found = propose(self.m, 34.0, groups, Profile("burst", 600, 240), 30, idle_w=(15, 12))
        self.assertTrue(found.reached and found.proposals)
        whys = [w for p in found.proposals for w in p.why]
        self.assertEqual(sorted(whys), ["cool", "quiet", "steady"])
        by = {w: p for p in found.proposals for w in p.why}
        for p in found.proposals:
            self.assertLessEqual(p.judged.sound.highest_dba, 34.0 + 0.05)
            self.assertEqual(p.judged.sound.over_s, 0)
            self.assertLess(p.judged.sound.mean_dba, found.fixed.sound.mean_dba)
            self.assertLessEqual(p.judged.minutes_at_limit, found.fixed.minutes_at_limit + 0.5)
        self.assertLessEqual(by["quiet"].judged.sound.mean_dba, by["steady"].judged.sound.mean_dba)
        self.assertLessEqual(by["steady"].judged.sound.changes, by["cool"].judged.sound.changes)
        self.assertGreater(found.tried, len(FLOORS_PCT) * len(SPANS_K))

    def test_calmer_curves_are_tried_and_kept_where_they_are_heard_less(self) -> None:
        found = propose(self.m, 36.0, groups_by_face(self.m), Profile("burst", 240, 60), 24, idle_w=(15, 12))
        steady = next(p for p in found.proposals if "steady" in p.why)
        usual = [replace(c, hysteresis_k=HYSTERESIS_K, ramp_s=RAMP_S) for c in steady.curves]
        self.assertIn((steady.curves[0].hysteresis_k, steady.curves[0].ramp_s), {(HYSTERESIS_K, RAMP_S), *CALMER})
        fans: dict[str, SpeedCurve] = {}
        for c in usual:
            temperatures, speeds = zip(*c.points, strict=True)
            fans |= dict.fromkeys(c.mounts, SpeedCurve(c.group, c.source, temperatures, speeds, c.hysteresis_k, c.ramp_s))
        placed = (replace(f, curve=fans.get(f.mount), speed_pct=found.still.get(f.mount, f.speed_pct)) for f in self.m.fans)
        m = replace(self.m, fans=tuple(placed))
        told = judged(m, Profile("burst", 240, 60), 24, (15, 12), 36.0)
        key = steady.judged.sound.changes, steady.judged.sound.mean_dba
        self.assertLessEqual(key, (told.sound.changes, told.sound.mean_dba + 0.2))

    def test_what_hums_is_left_out(self) -> None:
        fan = self.m.fans[0].fan
        band = (0.45 * fan.speed_max_rpm, 0.6 * fan.speed_max_rpm)
        found = propose(self.m, 34.0, groups_by_face(self.m), Profile("gaps"), 20, [band])
        for p in found.proposals:
            for c in p.curves:
                speeds = [s / 100 * fan.speed_max_rpm for _, s in c.points]
                self.assertFalse([s for s in speeds if band[0] < s < band[1]], c)

    def test_a_level_that_cannot_be_had_is_said(self) -> None:
        found = propose(self.m, 15.0, groups_by_face(self.m), Profile(), 10)
        self.assertFalse(found.reached)
        self.assertEqual(found.proposals, ())
