"""The settle call against published critical values and responses with known answers."""

import numpy as np
from django.test import SimpleTestCase
from scipy import stats

from engine.runs.series import Floats
from engine.runs.settle import MOST_REMAINING_K, approach
from engine.runs.trend import trend

SEEDS = 200


def with_s(n: int, s: int) -> Floats:
    """A sequence of ranks with Kendall's S equal to ``s``: start falling, bubble upward one swap at a time (each adds 2)."""
    y = list(range(n, 0, -1))
    now = -n * (n - 1) // 2
    while now < s:
        for i in range(n - 1):
            if y[i] > y[i + 1]:
                y[i], y[i + 1] = y[i + 1], y[i]
                now += 2
                break
    return np.array(y, float)


class KendallTest(SimpleTestCase):
    """Tails of S from Kendall's table (Rank Correlation Methods, appendix table 1; as in Gilbert 1987, table A18); from memory."""

    TABLE = ((4, 6, 0.042), (5, 8, 0.042), (5, 10, 0.0083), (6, 11, 0.028), (8, 16, 0.031), (10, 21, 0.036), (10, 23, 0.023))

    def test_tails(self) -> None:
        for n, s, tail in self.TABLE:
            y = with_s(n, s)
            signs = np.sign(np.subtract.outer(y, y))
            self.assertEqual(int(np.tril(signs).sum()), s)
            with self.subTest(n=n, s=s):
                self.assertAlmostEqual(stats.kendalltau(np.arange(n), y).pvalue / 2, tail, delta=0.0006)

    def test_s_and_slope_of_blocks(self) -> None:
        t = np.arange(160.0) * 60
        found = trend(t, 20 + 0.02 * t / 60)
        self.assertEqual(found.s, 16 * 15 / 2)
        self.assertAlmostEqual(found.slope_k_min, 0.02, places=9)
        self.assertTrue(found.moves(0.01))
        self.assertFalse(found.moves(0.05))

    def test_a_spike_does_not_make_a_trend(self) -> None:
        rng = np.random.default_rng(1)
        y = 60 + rng.normal(0, 0.2, 600)
        y[-20:-15] += 30
        self.assertFalse(trend(np.arange(600.0), y).moves(0.05))

    def test_false_trends_are_as_rare_as_stated(self) -> None:
        """1 % two-sided on white noise: at most the 99.9 % binomial limit of 200 seeds."""
        wrong = 0
        for seed in range(SEEDS):
            y = np.random.default_rng(seed).normal(0, 1, 320)
            wrong += trend(np.arange(320.0), y).p < 0.01
        self.assertLessEqual(wrong, int(stats.binom.ppf(0.999, SEEDS, 0.01)))

    def test_too_few_readings_say_nothing(self) -> None:
        self.assertEqual(trend(np.arange(3.0), np.arange(3.0)).p, 1.0)


def response(t: Floats, seed: int, taus: tuple[float, ...], step: float, noise: float) -> tuple[Floats, float]:
    """A first- or second-order approach to a known end value, as a sensor with ``step`` and ``noise`` reads it."""
    rng = np.random.default_rng(seed)
    end = float(rng.uniform(45, 60))
    if len(taus) == 1:
        left = end * np.exp(-t / taus[0])
    else:
        fast, slow = taus
        left = end * (slow * np.exp(-t / slow) - fast * np.exp(-t / fast)) / (slow - fast)
    y = end - left + rng.normal(0, noise, len(t))
    return (np.round(y / step) * step if step else y), end


class KnownResponseTest(SimpleTestCase):
    CASES = (((400.0,), 0.0, 0.3), ((400.0,), 1.0, 1.2), ((60.0, 500.0), 0.1, 0.3), ((60.0, 500.0), 1.0, 0.8))

    def test_settled_is_seldom_said_while_more_than_half_a_kelvin_is_left(self) -> None:
        """2.5 slow taus in, over 3 K are left: at 95 % confidence a call is wrong in at most 5 % (binomial limit of 200 seeds)."""
        t = np.arange(0.0, 1100.0)
        most = int(stats.binom.ppf(0.999, SEEDS, 0.05))
        for taus, step, noise in self.CASES:
            wrong = 0
            for seed in range(SEEDS):
                y, end = response(t, seed, taus, step, noise)
                truth, _ = response(t, seed, taus, 0.0, 0.0)
                fit = approach(t, y)
                wrong += bool(fit and fit.settled and abs(end - truth[-1]) > MOST_REMAINING_K)
            with self.subTest(taus=taus, step=step):
                self.assertLessEqual(wrong, most)

    def test_a_settled_run_is_called_settled(self) -> None:
        t = np.arange(0.0, 4200.0)
        for taus, step, noise in self.CASES:
            called = sum(bool((f := approach(t, response(t, s, taus, step, noise)[0])) and f.settled) for s in range(40))
            with self.subTest(taus=taus, step=step):
                self.assertGreaterEqual(called, 36)

    def test_the_end_value_lies_in_its_band(self) -> None:
        """95 % bands: at least the 0.1 % binomial limit of 200 seeds."""
        t = np.arange(0.0, 1500.0)
        least = int(stats.binom.ppf(0.001, SEEDS, 0.95))
        for taus, step, noise in self.CASES:
            inside = 0
            for seed in range(SEEDS):
                y, end = response(t, seed, taus, step, noise)
                fit = approach(t, y)
                inside += bool(fit and abs(fit.final - end) <= fit.final_band)
            with self.subTest(taus=taus, step=step):
                self.assertGreaterEqual(inside, least)

    def test_the_wait_lies_in_its_range_and_one_number_is_near(self) -> None:
        """Cut at 1,000 s; by the formula half a kelvin is left at a time that is known. Four of five: the 0.1 % binomial limit of 60."""
        t = np.arange(0.0, 1000.0)
        later = np.arange(1000.0, 7200.0)
        least = int(stats.binom.ppf(0.001, 60, 0.8))
        for taus, step, noise in self.CASES:
            inside, numbers, near = 0, 0, 0
            for seed in range(60):
                y, end = response(t, seed, taus, step, noise)
                left = end - response(later, seed, taus, 0.0, 0.0)[0]
                wanted_s = float(later[np.flatnonzero(left > MOST_REMAINING_K)[-1]] - t[-1])
                fit = approach(t, y)
                assert fit is not None
                inside += fit.wait.least_s <= wanted_s <= fit.wait.most_s
                numbers += fit.one_number
                near += fit.one_number and 2 / 3 <= fit.wait.about_s / wanted_s <= 1.5
            with self.subTest(taus=taus, step=step):
                self.assertGreaterEqual(inside, least)
                self.assertGreaterEqual(near, 0.8 * numbers)

    def test_slow_drift_of_everything_is_not_settled(self) -> None:
        t = np.arange(0.0, 2400.0)
        rng = np.random.default_rng(2)
        y = 50 * (1 - np.exp(-t / 200)) + 0.15 * t / 60 + rng.normal(0, 0.3, len(t))
        fit = approach(t, y)
        assert fit is not None
        self.assertFalse(fit.settled)
