"""Laws of a run's analysis: what changes nothing, what shifts everything alike, what can only widen an uncertainty."""

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import RunAnalysis, analyse
from engine.runs.budget import combined
from engine.runs.series import RunLog, resolution
from engine.runs.settle import approach, settled_at_s
from engine.runs.trend import trend
from engine.runs.window import effective_count, tail, window_mean
from tests.engine.test_runs import ar1, run_log

CPU = "cpu_package_c"
SEEDS = range(6)


def rise(run: RunAnalysis, channel: str = CPU) -> float:
    own = run.channel(channel)
    assert own and own.rise_k is not None
    return own.rise_k


class AnalysisLawsTest(SimpleTestCase):
    def test_the_same_warmer_room_for_all_changes_no_rise(self) -> None:
        for seed in SEEDS:
            log = run_log(45, seed=seed)
            heat = {n: v + 3.0 if n.endswith("_c") else v for n, v in log.channels.items()}
            one, two = analyse(log), analyse(RunLog(log.elapsed_s, heat))
            self.assertAlmostEqual(rise(one), rise(two), places=9)
            self.assertEqual((one.settled, one.settled_at_s), (two.settled, two.settled_at_s))

    def test_the_order_of_channels_does_not_matter(self) -> None:
        log = run_log(45, seed=2)
        turned = RunLog(log.elapsed_s, dict(reversed(list(log.channels.items()))))
        one, two = analyse(log), analyse(turned)
        self.assertEqual({c.name: c.mean for c in one.channels}, {c.name: c.mean for c in two.channels})
        self.assertEqual({f.code for f in one.flags}, {f.code for f in two.flags})

    def test_a_channel_more_changes_no_other_figure(self) -> None:
        log = run_log(45, seed=3)
        more = RunLog(log.elapsed_s, {**log.channels, "pump_rpm": np.full(len(log.elapsed_s), 2700.0)})
        self.assertEqual(analyse(log).channel(CPU), analyse(more).channel(CPU))

    def test_a_later_start_of_the_clock_changes_no_figure(self) -> None:
        log = run_log(45, seed=4)
        later = RunLog(log.elapsed_s + 5000.0, log.channels)
        one, two = analyse(log), analyse(later)
        self.assertAlmostEqual(rise(one), rise(two), places=9)
        self.assertEqual(one.settled, two.settled)

    def test_readings_that_are_not_there_are_no_readings(self) -> None:
        log = run_log(45, seed=5)
        holes = log.channels[CPU].copy()
        holes[np.random.default_rng(1).random(len(holes)) < 0.2] = np.nan
        one, two = analyse(log), analyse(RunLog(log.elapsed_s, {**log.channels, CPU: holes}))
        own = two.channel(CPU)
        assert own
        self.assertLess(abs(rise(one) - rise(two)), 3 * combined(x for x in own.budget if not x.common)[0])
        self.assertLess(own.readings, (one.channel(CPU) or own).readings)

    def test_a_coarser_sensor_never_claims_to_know_more(self) -> None:
        for seed in SEEDS:
            log = run_log(45, seed=seed)
            coarse = RunLog(log.elapsed_s, {**log.channels, CPU: np.round(log.channels[CPU])})
            fine_line, coarse_line = (
                next(x for x in (analyse(x).channel(CPU) or c).budget if "whole steps" in x.what).standard
                for x in (log, coarse)
                if (c := analyse(x).channel(CPU))
            )
            self.assertGreater(coarse_line, fine_line)

    def test_a_longer_run_of_the_same_approach_stays_settled(self) -> None:
        for seed in SEEDS:
            at = settled_at_s(run_log(45, minutes=40, seed=seed), CPU)
            longer = settled_at_s(run_log(45, minutes=80, seed=seed), CPU)
            self.assertIsNotNone(longer)
            if at is not None and longer is not None:
                self.assertLess(abs(at - longer), 900)

    def test_a_window_of_its_own_is_kept_within_the_run(self) -> None:
        log = run_log(45)
        for wanted in (60.0, 300.0, 10_000.0):
            start, end = tail(log, wanted)
            self.assertEqual(end, log.elapsed_s[-1])
            self.assertGreaterEqual(start, log.elapsed_s[0])
            self.assertLessEqual(end - start, wanted)


class ApproachLawsTest(SimpleTestCase):
    def test_shift_and_scale_carry_over_to_the_end_value(self) -> None:
        t = np.arange(0, 1800, 3.0)
        for seed in SEEDS:
            y = 45 - 25 * np.exp(-t / 350) - 10 * np.exp(-t / 35) + np.random.default_rng(seed).normal(0, 0.2, len(t))
            one, shifted, scaled = approach(t, y), approach(t, y + 7), approach(t, 2 * y)
            assert one and shifted and scaled
            self.assertAlmostEqual(shifted.final, one.final + 7, places=4)
            self.assertAlmostEqual(scaled.final, 2 * one.final, places=4)
            self.assertAlmostEqual(scaled.final_band, 2 * one.final_band, places=4)
            self.assertAlmostEqual(shifted.slope_k_min, one.slope_k_min, places=6)

    def test_what_is_left_shrinks_as_time_goes_on(self) -> None:
        t = np.arange(0, 3600, 4.0)
        y = 50 - 30 * np.exp(-t / 400)
        left = [abs(fit.remaining) for end in (600, 1200, 2400, 3600) if (fit := approach(t[t <= end], y[t <= end]))]
        self.assertEqual(left, sorted(left, reverse=True))

    def test_cooling_is_an_approach_too(self) -> None:
        t = np.arange(0, 2400, 3.0)
        y = 30 + 20 * np.exp(-t / 300) + np.random.default_rng(1).normal(0, 0.2, len(t))
        fit = approach(t, y)
        assert fit
        self.assertLess(abs(fit.final - 30), max(fit.final_band, 0.2))


class StatisticsLawsTest(SimpleTestCase):
    def test_effective_count_lies_between_one_and_all(self) -> None:
        rng = np.random.default_rng(9)
        for r in (0.0, 0.4, 0.8, 0.97):
            values = ar1(rng, 400, r)
            self.assertTrue(1.0 <= effective_count(values) <= 400.0 + 1e-9)
        self.assertEqual(effective_count(np.full(50, 3.0)), 50.0)

    def test_effective_count_falls_as_readings_hang_together(self) -> None:
        rng = np.random.default_rng(10)
        counts = [np.mean([effective_count(ar1(rng, 600, r)) for _ in range(12)]) for r in (0.0, 0.3, 0.6, 0.9)]
        self.assertEqual(counts, sorted(counts, reverse=True))

    def test_a_window_s_mean_moves_with_its_readings(self) -> None:
        values = ar1(np.random.default_rng(11), 300, 0.5)
        one, two = window_mean(values), window_mean(values + 40)
        self.assertAlmostEqual(two.mean, one.mean + 40)
        self.assertAlmostEqual(two.standard_error, one.standard_error, places=6)
        self.assertAlmostEqual(window_mean(-values).mean, -one.mean)

    def test_the_step_of_a_sensor_is_found_whatever_it_is(self) -> None:
        rng = np.random.default_rng(12)
        for step in (0.1, 0.25, 0.5, 1.0):
            read = np.round(rng.normal(60, 4, 500) / step) * step
            self.assertAlmostEqual(resolution(read), step, places=6)

    def test_a_trend_turned_over_is_the_same_trend_down(self) -> None:
        t = np.arange(0, 600, 10.0)
        for seed in SEEDS:
            y = 0.01 * t + np.random.default_rng(seed).normal(0, 0.5, len(t))
            up, down = trend(t, y), trend(t, -y)
            self.assertAlmostEqual(up.slope_k_min, -down.slope_k_min, places=9)
            self.assertAlmostEqual(up.p, down.p, places=9)
            self.assertEqual(up.moves(0.05), down.moves(0.05))
