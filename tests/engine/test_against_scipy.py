"""What the engine does itself so that a command starts quickly, against the library that does the same (source: scipy)."""

import numpy as np
from django.test import SimpleTestCase
from scipy import interpolate, optimize, stats

from engine.airflow.fans import least_squares_above_nought
from engine.coupled.kernel import eliminate
from engine.monotone import Monotone
from engine.runs.trend import chance_of, trend


class MonotoneTest(SimpleTestCase):
    def test_values_and_slopes(self) -> None:
        rng = np.random.default_rng(1)
        for i in range(300):
            count = int(rng.integers(2, 9))
            x = np.cumsum(rng.uniform(0.05, 1.0, count))
            y = rng.normal(0, 1, count) if i % 3 else np.round(np.sort(rng.normal(0, 1, count)), 1)  # bumps, and level stretches
            ours, theirs = Monotone.through(x, y), interpolate.PchipInterpolator(x, y)
            between = np.linspace(x[0], x[-1], 50)
            with self.subTest(i):
                np.testing.assert_allclose(ours.at(between), theirs(between), atol=1e-9)
                np.testing.assert_allclose(ours.slopes, theirs(x, 1), atol=1e-6)


class FitTest(SimpleTestCase):
    def test_no_coefficient_below_nought(self) -> None:
        rng = np.random.default_rng(2)
        held = 0
        for i in range(300):
            design, wanted = rng.normal(0, 1, (8, 3)), rng.normal(0, 1, 8)
            ours = least_squares_above_nought(design, wanted)
            held += bool((ours == 0).any())
            with self.subTest(i):
                np.testing.assert_allclose(ours, optimize.nnls(design, wanted)[0], atol=1e-9)
        self.assertGreater(held, 100)


class EliminationTest(SimpleTestCase):
    def test_three_right_hand_sides(self) -> None:
        """Against numpy, with rows that have to change places."""
        rng = np.random.default_rng(5)
        for n in (1, 2, 7, 40):
            m, x = rng.normal(0, 1, (n, n)), rng.normal(0, 1, (n, 3))
            m[0, 0] = 1e-14 if n > 1 else 2.0
            found = x.copy()
            eliminate(m.copy(), found)
            with self.subTest(n):
                np.testing.assert_allclose(m @ found, x, atol=1e-9)
                np.testing.assert_allclose(found, np.linalg.solve(m, x), rtol=1e-7, atol=1e-9)


class TrendTest(SimpleTestCase):
    def test_chance_of_s(self) -> None:
        """Counted without ties, by the corrected normal with them and beyond 33 readings, as ``kendalltau`` does."""
        rng = np.random.default_rng(3)
        for i in range(600):
            y = rng.normal(0, 1, int(rng.integers(8, 40)))
            y = np.round(2 * y) / 2 if i % 2 else y
            s = int(np.sign(np.subtract.outer(y, y))[np.tril_indices(len(y), -1)].sum())
            with self.subTest(i):
                self.assertAlmostEqual(chance_of(s, y), float(stats.kendalltau(np.arange(len(y)), y).pvalue), places=12)

    def test_sens_slope(self) -> None:
        rng = np.random.default_rng(4)
        minutes = np.arange(16.0)
        for _ in range(50):
            y = rng.normal(0, 1, 16)
            self.assertAlmostEqual(trend(60 * minutes, y).slope_k_min, float(stats.theilslopes(y, minutes).slope), places=12)
