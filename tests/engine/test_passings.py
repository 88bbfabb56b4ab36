"""A sensor in whole steps: its passings lie on the course, the last step bounds the end, and bands hold what comes."""

import numpy as np
from django.test import SimpleTestCase
from scipy import stats

from engine.runs.passings import passings
from engine.runs.rounding import rounding_of
from engine.runs.series import Floats
from engine.runs.settle import approach
from engine.runs.stages import _kept_within

T: Floats = np.arange(0.0, 1800.0)


def course(way: float = 1.0, tau_s: float = 350.0) -> Floats:
    return np.asarray(50 - way * 30 * np.exp(-T / tau_s), float)


def read(true: Floats, seed: int, noise: float = 0.1) -> Floats:
    return np.asarray(np.round(true + np.random.default_rng(seed).normal(0, noise, len(true))), float)


class PassingsTest(SimpleTestCase):
    def test_they_lie_on_the_course_up_and_down(self) -> None:
        for way in (1.0, -1.0):
            true = course(way)
            y = read(true, 3)
            found = passings(T, y, rounding_of(y))
            assert found is not None
            with self.subTest(way=way):
                away = np.interp(found.t, T, true) - found.y
                self.assertLess(float(np.abs(away).max()), 0.12)
                self.assertLess(float(np.std(away)), 0.05)
                self.assertEqual(found.last_s, T[-1])
                self.assertTrue(found.within[0] <= true[-1] <= found.within[1], (found.within, true[-1]))
                self.assertLess(found.within[1] - found.within[0], 1.8)

    def test_readings_that_flicker_about_an_edge_tell_it(self) -> None:
        true = 49.5 - 30 * np.exp(-T / 250)
        y = read(np.asarray(true, float), 4)
        found = passings(T, y, rounding_of(y))
        assert found is not None
        self.assertTrue(found.within[0] <= 49.5 <= found.within[1])
        self.assertLess(found.within[1] - found.within[0], 0.9)

    def test_one_slip_at_the_end_is_no_edge(self) -> None:
        y = read(np.asarray(49.0 - 30 * np.exp(-T / 200), float), 5, 0.05)
        y[-20] = 50.0
        found = passings(T, y, rounding_of(y))
        assert found is not None
        self.assertTrue(found.within[0] < 48.6 and found.within[1] > 49.4, found.within)

    def test_noise_fine_steps_and_few_steps_have_none(self) -> None:
        noisy, fine, few = read(course(), 1, 0.25), np.round(course(), 1), np.round(45 + 5 * (1 - np.exp(-T / 300)))
        for y in (noisy, fine, few):
            self.assertIsNone(passings(T, np.asarray(y, float), rounding_of(np.asarray(y, float))))

    def test_a_course_that_turns_has_none_and_is_not_called_settled(self) -> None:
        t = np.arange(0.0, 2400.0)
        over = 60 - 32 * np.exp(-t / 120) + np.where(t > 900, -6 * (1 - np.exp(-(t - 900) / 1500)), 0.0)
        dips = 60 - 32 * np.exp(-t / 300) - 3.0 * ((t > 1000) & (t < 1200))
        for true in (over, dips):
            y = read(np.asarray(true, float), 8)
            self.assertIsNone(passings(t, y, rounding_of(y)))
        fit = approach(t, read(np.asarray(over, float), 8))
        assert fit is not None
        self.assertFalse(fit.settled)

    def test_what_is_cut_off_has_the_moments_of_the_library(self) -> None:
        rng = np.random.default_rng(6)
        for bounds in ((-0.4, 0.9), (2.0, 2.5), (-9.0, -6.0), (-50.0, 50.0)):
            half = rng.normal(size=(3, 3))
            inverse = (half @ half.T + np.eye(3))[None]
            figures, onto = rng.normal(size=(1, 3)), rng.normal(size=(1, 3))
            new, narrower, chance = _kept_within(figures, inverse, onto, 0.0, bounds)
            mean, spread = float((figures @ onto.T)[0, 0]), float(np.sqrt(onto @ inverse[0] @ onto.T)[0, 0])
            cut = stats.truncnorm((bounds[0] - mean) / spread, (bounds[1] - mean) / spread, loc=mean, scale=spread)
            with self.subTest(bounds=bounds):
                self.assertAlmostEqual(float((new @ onto.T)[0, 0]), float(cut.mean()), places=6)
                self.assertAlmostEqual(float((onto @ narrower[0] @ onto.T)[0, 0]), float(cut.var()), places=6)
                whole = stats.norm.logcdf(bounds[1], mean, spread), stats.norm.logcdf(bounds[0], mean, spread)
                self.assertAlmostEqual(float(chance[0]), float(whole[0] + np.log1p(-np.exp(whole[1] - whole[0]))), places=6)

    def test_light_noise_hides_no_slow_stage(self) -> None:
        """A quarter of a step of noise leaves its means some of their teeth, and the end that they are drawn out to more of them."""
        t = np.arange(0.0, 4200.0)
        inside = []
        for seed in range(40):
            rng = np.random.default_rng(700 + seed)
            slow, tau = rng.uniform(0.05, 0.15), rng.uniform(800, 1200)
            true = 52 - 35 * ((0.65 - slow) * np.exp(-t / 60) + 0.35 * np.exp(-t / 300) + slow * np.exp(-t / tau))
            fit = approach(t, read(np.asarray(true, float), seed, 0.25))
            assert fit is not None
            inside.append(abs(fit.final - 52) <= fit.final_band)
        self.assertGreaterEqual(np.mean(inside), 0.88)

    def test_the_band_holds_the_end_and_is_narrower_than_a_step(self) -> None:
        inside, bands = [], []
        for seed in range(40):
            rng = np.random.default_rng(seed)
            end, tau = rng.uniform(45, 60), rng.uniform(200, 500)
            upto = tau * rng.uniform(3.5, 5) >= T
            y = read(np.asarray(end - 30 * (0.4 * np.exp(-T / 8) + 0.6 * np.exp(-T / tau)), float), seed)
            fit = approach(T[upto], y[upto])
            assert fit is not None
            inside.append(abs(fit.final - end) <= fit.final_band)
            bands.append(fit.final_band)
        self.assertGreaterEqual(np.mean(inside), 0.9)
        self.assertLess(float(np.median(bands)), 0.8)
