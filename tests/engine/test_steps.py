"""A sensor in whole steps: its readings tell what a reference library finds, the last step bounds the end, bands hold what comes."""

import numpy as np
from django.test import SimpleTestCase
from scipy import stats

from engine.learn.units import from_load
from engine.runs.analysis import analyse
from engine.runs.over_room import over_room, room_steps, steps_of
from engine.runs.rounding import Rounding
from engine.runs.series import Floats, RunLog
from engine.runs.settle import approach
from engine.runs.stages import kept_within
from engine.runs.steps import COURSE_K, bounds, told

T: Floats = np.arange(0.0, 1800.0)
WHOLE = Rounding(1.0, 0.2)


def course(tau_s: float = 350.0) -> Floats:
    return np.asarray(50 - 30 * np.exp(-T / tau_s), float)


def read(true: Floats, seed: int, noise: float = 0.1) -> Floats:
    return np.asarray(np.round(true + np.random.default_rng(seed).normal(0, noise, len(true))), float)


class StepsTest(SimpleTestCase):
    def test_one_value_and_its_noise_are_those_of_interval_censored_readings_in_scipy(self) -> None:
        for value, noise, seed in ((50.3, 0.4, 1), (50.08, 0.3, 2), (49.1, 0.35, 3)):
            y = read(np.full(4000, value), seed, noise)
            about = np.full(4000, float(y.mean()))
            for _ in range(8):
                found = told(y, about, WHOLE, 4000)
                about = np.full(4000, found.y[0])
            mean, spread = stats.norm.fit(stats.CensoredData(interval=np.column_stack([y - 0.5, y + 0.5])))
            with self.subTest(value=value):
                self.assertAlmostEqual(found.noise, spread, delta=0.06 * spread)
                self.assertAlmostEqual(float(found.y[0]), mean, delta=0.02)
                self.assertAlmostEqual(mean, value, delta=0.03)

    def test_it_tells_as_much_as_the_textbook_says(self) -> None:
        """Of noise well over a step's half, a reading's variance is that of the noise and Sheppard's q^2/12."""
        y = read(np.full(5000, 50.2), 4, 0.5)
        found = told(y, np.full(5000, 50.2), Rounding(1.0, 0.5), 5000)
        self.assertAlmostEqual(1 / (1 / (found.precision[0] - 12) - COURSE_K**2) / 5000, 1 / (0.5**2 + 1 / 12), delta=0.15)

    def test_between_two_steps_it_tells_nothing_and_a_slip_not_much(self) -> None:
        still = told(np.full(600, 50.0), np.full(600, 50.1), Rounding(1.0, 0.05), 300)
        self.assertLess(float(still.precision.sum()), 12.1)  # as much as one reading
        self.assertLess(float(np.abs(still.y - 50.1).max()), 1e-3)
        true, slipped = course(), read(course(), 5)
        slipped[1200] += 9
        for y in (told(slipped, true, WHOLE, 9).y, told(read(course(), 5), true, WHOLE, 9).y):
            self.assertLess(float(np.abs(y - true.reshape(-1, 9).mean(axis=1)).max()), 1.0)

    def test_the_end_lies_about_the_last_step(self) -> None:
        for end in (49.1, 49.5, 49.9):
            y = read(np.asarray(end - 30 * np.exp(-T / 200), float), 4)
            low, high = bounds(y, WHOLE, 0.1)
            self.assertTrue(low <= end <= high)
            self.assertLess(high - low, 2.3)

    def test_a_course_that_turns_is_not_called_settled(self) -> None:
        t = np.arange(0.0, 2400.0)
        over = 60 - 32 * np.exp(-t / 120) + np.where(t > 900, -6 * (1 - np.exp(-(t - 900) / 1500)), 0.0)
        fit = approach(t, read(np.asarray(over, float), 8))
        assert fit is not None
        self.assertFalse(fit.settled)

    def test_what_hardly_moves_is_known_to_a_step_and_no_better(self) -> None:
        """About one edge nobody can tell a level from a noise; and a course that no stages are goes by means."""
        still = np.full(1800, 50.0)
        odd, late, down = still.copy(), still.copy(), still - 3 * ((T > 600) & (T < 1200))
        odd[900], late[1790:] = 51, 51
        for y in (odd, late):
            fit = approach(T, y)
            assert fit is not None
            self.assertGreater(fit.final_band, 0.45)
            self.assertLess(fit.final_band, 1.2)
        fit = approach(T, down)
        assert fit is not None
        self.assertFalse(fit.settled)

    def test_a_room_in_tenths_does_not_hide_the_steps_of_a_sensor(self) -> None:
        inside, bands = [], []
        for seed in range(30):
            rng = np.random.default_rng(seed)
            room = 22 + rng.uniform(0.2, 0.8) * np.sin(2 * np.pi * T / rng.uniform(900, 3600))
            end = rng.uniform(45, 60)
            rise = end - 30 * (0.4 * np.exp(-T / 8) + 0.6 * np.exp(-T / rng.uniform(250, 450)))
            log = RunLog(T, {"cpu_package_c": read(np.asarray(rise + room, float), seed), "room_c": np.round(room, 1)})
            fit = approach(T, over_room(log, "cpu_package_c"), steps=steps_of(log, "cpu_package_c", room_steps(log)))
            assert fit is not None
            inside.append(abs(fit.final - end) <= fit.final_band)
            bands.append(fit.final_band)
        self.assertGreaterEqual(np.mean(inside), 0.9)
        self.assertLess(float(np.median(bands)), 0.6)

    def test_a_run_cut_at_its_load_keeps_its_typed_room(self) -> None:
        power = np.where(T < 60, 20.0, 120.0)
        typed = RunLog(T, {"cpu_package_c": read(course() + 22.0, 3, 0.4), "cpu_power_w": power}).with_room(22.0)
        cut = from_load(typed)
        self.assertEqual((len(cut.elapsed_s), float(cut.elapsed_s[0])), (len(T) - 60, 0.0))
        self.assertEqual((cut.room_typed, cut.room_step_k), (True, 0.0))

    def test_a_room_in_whole_degrees_widens_what_is_said_over_it(self) -> None:
        cpu = read(course() + 22.3, 9, 0.4)
        tenths, whole = np.round(np.full(len(T), 22.31) + 0.08 * np.sin(T), 1), np.full(len(T), 22.0)
        fine, coarse = RunLog(T, {"cpu_package_c": cpu, "room_c": tenths}), RunLog(T, {"cpu_package_c": cpu, "room_c": whole})
        typed = RunLog(T, {"cpu_package_c": cpu}).with_room(22.0)
        self.assertEqual([log.room_step_k for log in (fine, coarse, typed)], [0.1, 1.0, 0.0])
        self.assertEqual([analyse(log).has("room_coarse") for log in (fine, coarse, typed)], [False, True, False])
        passing = RunLog(T, {"cpu_package_c": cpu, "room_c": np.where(T < 700, 22.0, 23.0)})
        said = [next(f.detail for f in analyse(log).flags if f.code == "room_coarse") for log in (coarse, passing)]
        self.assertEqual(said, ["the room stood at 22 °C throughout, as in whole degrees", "the room is logged in steps of 1 K"])
        found = [analyse(log).channel("cpu_package_c") for log in (fine, coarse, typed)]
        lines = [[x.standard for x in c.budget if x.what == "the room thermometer's steps"] for c in found if c]
        self.assertEqual([len(x) for x in lines], [0, 1, 0])  # noise dithers tenths
        self.assertAlmostEqual(lines[1][0], 1 / np.sqrt(12), places=3)
        assert found[1] and found[2] and found[1].final_band and found[2].final_band
        self.assertGreater(found[1].final_band, found[2].final_band + 0.1)
        self.assertGreater(room_steps(coarse).unseen_k, 0.28)
        self.assertFalse(room_steps(coarse).moves)

    def test_what_is_cut_off_has_the_moments_of_the_library(self) -> None:
        rng = np.random.default_rng(6)
        for edges in ((-0.4, 0.9), (2.0, 2.5), (-9.0, -6.0), (-50.0, 50.0)):
            half = rng.normal(size=(3, 3))
            inverse = (half @ half.T + np.eye(3))[None]
            figures, onto = rng.normal(size=(1, 3)), rng.normal(size=(1, 3))
            new, narrower, chance = kept_within(figures, inverse, onto, 0.0, edges)
            mean, spread = float((figures @ onto.T)[0, 0]), float(np.sqrt(onto @ inverse[0] @ onto.T)[0, 0])
            cut = stats.truncnorm((edges[0] - mean) / spread, (edges[1] - mean) / spread, loc=mean, scale=spread)
            with self.subTest(edges=edges):
                self.assertAlmostEqual(float((new @ onto.T)[0, 0]), float(cut.mean()), places=6)
                self.assertAlmostEqual(float((onto @ narrower[0] @ onto.T)[0, 0]), float(cut.var()), places=6)
                whole = stats.norm.logcdf(edges[1], mean, spread), stats.norm.logcdf(edges[0], mean, spread)
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
        self.assertLess(float(np.median(bands)), 0.55)
