"""Stages, hunting and rounding against brute force, a reference library and simulation."""

import numpy as np
from django.test import SimpleTestCase
from scipy import optimize, signal, stats

import tests.tools_path  # noqa: F401
from engine.runs.analysis import analyse
from engine.runs.hunting import hunting
from engine.runs.rounding import noise_of, rounding_of, unseen_k
from engine.runs.series import Floats, RunLog
from engine.runs.settle import approach
from engine.runs.stages import LEAST_WHOLE_TURNS, TAUS_S, Read, _by_whole_turns, stages
from engine.runs.window import effective_count, tail, window_mean
from study.settle import KINDS, Kind, run_of, tallied


def kind(words: str) -> Kind:
    return next(k for k in KINDS if k.words == words)


class StagesTest(SimpleTestCase):
    T: Floats = np.arange(0.0, 2400.0, 10.0)

    def noisy(self, seed: int, clean: Floats) -> Floats:
        return clean + np.random.default_rng(seed).normal(0, 0.05, len(clean))

    def test_the_end_is_that_of_least_squares_where_the_readings_tell_it(self) -> None:
        """scipy.optimize.curve_fit finds the same end and about the same band, from the truth as its start."""
        for seed in range(4):
            y = self.noisy(seed, 50 - 20 * np.exp(-self.T / 60) - 15 * np.exp(-self.T / 420))
            found = stages(Read(self.T, y))

            def course(t: Floats, end: float, a: float, fast: float, b: float, slow: float) -> Floats:
                return np.asarray(end - a * np.exp(-t / fast) - b * np.exp(-t / slow), float)

            best, spread = optimize.curve_fit(course, self.T, y, (50, 20, 60, 15, 420))
            with self.subTest(seed=seed):
                self.assertAlmostEqual(found.end_mean, best[0], delta=3 * float(np.sqrt(spread[0, 0])) + 0.02)
                self.assertLess(found.end_band(), 12 * float(np.sqrt(spread[0, 0])))
                self.assertGreater(found.end_band(), float(np.sqrt(spread[0, 0])))

    def test_weights_are_marginal_likelihoods(self) -> None:
        """Of two choices of one stage, against the density of all readings as one normal vector with a wide constant."""
        from engine.runs import stages as own

        t = self.T[:60]
        y = 40 - 20 * np.exp(-t / 150) + np.random.default_rng(3).normal(0, 0.5, len(t))
        found = own.stages(Read(t, y))
        one = [i for i in range(len(found.weights)) if np.isclose(found.sizes[i, 1:], 0).all() and found.sizes[i, 0] != 0]
        self.assertGreaterEqual(len(one), 2)
        i, j = sorted(one, key=lambda k: -found.weights[k])[:2]
        variance = float(found.residual @ found.residual) / found.freedom
        scale = max(float(np.quantile(y, 0.95) - np.quantile(y, 0.05)), own.LEAST_SCALE_K)

        def density(tau: float) -> float:
            size = scale * float(np.interp(np.log(tau), np.log(own.SLOW_S), own.SLOW_SHARE))
            shape = np.exp(-t / tau)
            spread = variance * np.eye(len(t)) + 1e5 + size**2 * np.outer(shape, shape)
            return float(stats.multivariate_normal(np.zeros(len(t)), spread).logpdf(y))

        wanted = density(found.taus_s[i, 0]) - density(found.taus_s[j, 0])
        self.assertAlmostEqual(float(np.log(found.weights[i] / found.weights[j])), wanted, delta=0.05)

    def test_no_stage_where_nothing_moves(self) -> None:
        found = stages(Read(self.T, self.noisy(1, np.full(len(self.T), 47.0))))
        self.assertAlmostEqual(found.end_mean, 47.0, delta=0.05)
        self.assertLess(found.left_bound(), 0.1)
        self.assertEqual((found.until(0.5).least_s, found.until(0.5).about_s), (0.0, 0.0))

    def test_the_wait_of_a_single_stage_is_that_of_its_formula(self) -> None:
        t = self.T[:60]
        found = stages(Read(t, self.noisy(2, 50 - 30 * np.exp(-t / 300))))
        left = 30 * np.exp(-t[-1] / 300)
        wanted = 300 * np.log(left / 0.5)
        wait = found.until(0.5)
        self.assertAlmostEqual(wait.about_s / wanted, 1.0, delta=0.15)
        self.assertTrue(wait.least_s < wanted < wait.most_s, wait)
        further = found.until(0.5, 3.0)
        self.assertTrue(further.least_s < wait.least_s and further.most_s > wait.most_s, further)

    def test_the_mean_course_goes_through_the_readings_and_to_the_end(self) -> None:
        y = self.noisy(4, 50 - 30 * np.exp(-self.T / 400) - 5 * np.exp(-self.T / 90))
        found = stages(Read(self.T, y))
        late = self.T > 200
        self.assertLess(float(np.abs(found.fitted(self.T[late] - self.T[-1]) - y[late]).mean()), 0.3)
        self.assertAlmostEqual(float(found.fitted(np.array([1e5]))[0]), found.end_mean, delta=1e-6)
        self.assertTrue(np.isfinite(found.fitted(np.array([-1e6]))).all())

    def test_the_grid_reaches_from_a_heatsink_to_a_structure(self) -> None:
        self.assertLessEqual(TAUS_S[0], 20)
        self.assertGreaterEqual(TAUS_S[-1], 1800)


class HuntingTest(SimpleTestCase):
    def test_period_and_swing_as_a_reference_spectrum_has_them(self) -> None:
        """scipy.signal.lombscargle over the same span has its peak at the same period."""
        t = np.arange(0.0, 1500.0, 8.0)
        for seed, period in enumerate((70.0, 130.0, 260.0)):
            y = 1.2 * np.sin(2 * np.pi * t / period + seed) + np.random.default_rng(seed).normal(0, 0.3, len(t))
            found = hunting(t, y)
            assert found is not None
            tried = np.linspace(50, 400, 4000)
            peak = tried[np.argmax(signal.lombscargle(t, y - y.mean(), 2 * np.pi / tried))]
            self.assertAlmostEqual(found.period_s, peak, delta=0.03 * peak)
            self.assertAlmostEqual(found.amplitude_k, 1.2, delta=0.15)

    def test_noise_and_rounding_are_no_hunting(self) -> None:
        t = np.arange(0.0, 1500.0, 8.0)
        rng = np.random.default_rng(5)
        self.assertFalse(any(hunting(t, rng.normal(0, 0.5, len(t))) for _ in range(50)))
        slow = 40 + t / 300
        self.assertIsNone(hunting(t, np.round(slow) - slow, 1.0))

    def test_noise_from_turn_to_turn_is_what_is_left_at_no_frequency(self) -> None:
        """Of noise that hangs together (each value half of the one before), 1 / (1 - 1/2)^2 of its own variance is left (textbook: the
        spectrum of an autoregression), whatever swings within a turn."""
        found, plain = [], []
        for seed in range(60):
            rng = np.random.default_rng(seed)
            noise = signal.lfilter([1.0], [1.0, -0.5], rng.normal(size=2100))[100:]
            swings = noise + 5 * np.sin(2 * np.pi * np.arange(2000) / 20 + rng.uniform(0, 6)) ** 3
            found.append(_by_whole_turns(swings, 20))
            plain.append(float(swings @ swings) / effective_count(swings))
        told = [x[0] for x in found if x]
        self.assertAlmostEqual(float(np.mean(told)) / 4.0, 1.0, delta=0.12)
        self.assertGreater(float(np.mean(plain)), 40.0)
        self.assertEqual([_by_whole_turns(noise[: 20 * LEAST_WHOLE_TURNS - 1], 20), _by_whole_turns(noise, 1)], [None, None])

    def test_a_saw_whose_pace_wanders_widens_the_end_by_little(self) -> None:
        t = np.arange(0.0, 3000.0, 5.0)
        bands, errors = [], []
        for seed in range(12):
            rng = np.random.default_rng(seed)
            pace = 1 + np.interp(t, t[::50], rng.normal(0, 0.07, len(t[::50])))
            turn = (np.cumsum(5 / 95 * pace) + rng.uniform()) % 1
            grown = 1 - np.exp(-t / 300)
            y = 55 - 20 * np.exp(-t / 80) - 10 * np.exp(-t / 400) + 1.5 * grown * (4 * np.abs(turn - 0.5) - 1)
            fit = approach(t, y + rng.normal(0, 0.2, len(t)))
            assert fit and fit.hunting
            bands.append(fit.final_band)
            errors.append(abs(fit.final - 55))
        self.assertTrue(all(e <= b for e, b in zip(errors, bands, strict=True)), (errors, bands))
        self.assertLess(float(np.median(bands)), 0.25)

    def test_a_run_that_hunts_is_averaged_over_whole_turns_and_says_so(self) -> None:
        t = np.arange(0.0, 2400.0)
        rng = np.random.default_rng(6)
        for period in (90.0, 170.0, 320.0):
            truth = 42.0
            cpu = 22 + truth * (1 - 0.5 * np.exp(-t / 30) - 0.5 * np.exp(-t / 200)) + 1.8 * np.sin(2 * np.pi * t / period + 1)
            log = RunLog(t, {"cpu_package_c": cpu + rng.normal(0, 0.2, len(t)), "room_c": np.full(len(t), 22.0)})
            run = analyse(log)
            own = run.channel("cpu_package_c")
            assert own is not None and own.rise_k is not None
            with self.subTest(period=period):
                self.assertTrue(run.has("hunting"))
                self.assertTrue(run.settled, own.why)
                self.assertAlmostEqual(own.rise_k, truth, delta=0.1)
                turns = (own.window_s[1] - own.window_s[0]) / period
                self.assertAlmostEqual(turns, round(turns), delta=0.06)

    def test_a_window_keeps_whole_turns_only_where_half_the_run_holds_one(self) -> None:
        log = RunLog(np.arange(0.0, 1200.0), {})
        self.assertEqual(tail(log, None, 100.0), (999.0, 1199.0))
        self.assertEqual(tail(log, None, 500.0), (699.0, 1199.0))
        self.assertEqual(tail(log, None, 900.0), tail(log))


class RoundingTest(SimpleTestCase):
    def test_what_rounding_leaves_unknown_of_a_mean(self) -> None:
        """Simulated: means of values anywhere in a step, read in whole degrees under noise, against one sigma as stated."""
        rng = np.random.default_rng(7)
        for noise in (0.0, 0.1, 0.2, 0.35, 0.6):
            off = []
            for _ in range(300):
                value = 60 + rng.uniform(0, 1)
                off.append(float(np.round(value + rng.normal(0, noise, 3000)).mean()) - value if noise else round(value) - value)
            with self.subTest(noise=noise):
                self.assertAlmostEqual(float(np.sqrt(np.mean(np.square(off)))), unseen_k(1.0, noise), delta=0.06)

    def test_standing_still_keeps_the_whole_step_and_noise_of_half_a_step_almost_nothing(self) -> None:
        self.assertAlmostEqual(unseen_k(1.0, 0.0), 0.2887, places=4)
        self.assertLess(unseen_k(1.0, 0.5), 0.005)
        self.assertEqual(unseen_k(0.0, 0.3), 0.0)

    def test_the_step_and_the_noise_are_found_from_the_whole_run(self) -> None:
        """In the window the sensor stands still, so that the window alone would show neither."""
        rng = np.random.default_rng(8)
        t = np.arange(0.0, 1800.0)
        for noise in (0.15, 0.5, 0.8):
            read = np.round(60 - 30 * np.exp(-t / 200) + rng.normal(0, noise, len(t)))
            found = rounding_of(read)
            self.assertEqual(found.step, 1.0)
            self.assertAlmostEqual(found.noise, noise, delta=0.15)
        calm = np.round(60.2 - 30 * np.exp(-t / 200))
        still = window_mean(calm[-300:], rounding_of(calm))
        self.assertAlmostEqual(still.standard_error, 0.2887, delta=0.03)
        self.assertEqual(noise_of(np.full(100, 3.0)), 0.0)


class KindsTest(SimpleTestCase):
    """A few seeds of each kind of the study (docs/evidence-settle.md has a thousand): limits wide enough for so few."""

    SEEDS = 10

    def test_of_every_kind_calls_are_right_and_ends_lie_in_their_bands(self) -> None:
        wrong = inside = near = called = 0
        for one in KINDS:
            found = tallied(one, 40_000, self.SEEDS)
            with self.subTest(kind=one.words):
                self.assertLessEqual(found.wrong, 2)
                self.assertGreaterEqual(found.inside, 7)
            wrong, inside, near, called = wrong + found.wrong, inside + found.inside, near + found.near, called + found.called
        runs = len(KINDS) * self.SEEDS
        self.assertLessEqual(wrong, int(stats.binom.ppf(0.999, runs, 0.01)))
        self.assertGreaterEqual(inside, int(stats.binom.ppf(0.001, runs, 0.93)))
        self.assertGreaterEqual(called / near, 0.75)

    def test_a_run_that_began_warm_is_judged_and_called(self) -> None:
        t = np.arange(0.0, 1500.0)
        rng = np.random.default_rng(9)
        for start in (0.0, 6.0):  # flat, and from above its end
            cpu = 66 + start * np.exp(-t / 150) + rng.normal(0, 0.3, len(t))
            run = analyse(RunLog(t, {"cpu_package_c": cpu, "room_c": np.full(len(t), 22.0)}))
            self.assertTrue(run.settled)
            self.assertFalse(run.has("too_short"))

    def test_what_has_not_settled_is_named_with_its_reason(self) -> None:
        t = np.arange(0.0, 600.0)
        rng = np.random.default_rng(10)
        cpu = 62 - 40 * np.exp(-t / 25) + rng.normal(0, 0.3, len(t))
        card = 60 - 38 * np.exp(-t / 400) + rng.normal(0, 0.3, len(t))
        run = analyse(RunLog(t, {"cpu_package_c": cpu, "card_core_c": card, "room_c": np.full(len(t), 22.0)}))
        self.assertFalse(run.settled)
        self.assertTrue((run.channel("cpu_package_c") or self).settled)  # type: ignore[union-attr]
        own = run.channel("card_core_c")
        assert own is not None
        self.assertIn("K still to come", own.why)
        flag = next(f for f in run.flags if f.code == "too_short")
        self.assertIn(": card: ", flag.detail)
        self.assertNotIn("processor", flag.detail)

    def test_too_few_readings_are_said(self) -> None:
        t = np.arange(0.0, 1500.0, 30.0)
        cpu = 60 - 30 * np.exp(-t / 200)
        run = analyse(RunLog(t, {"cpu_package_c": cpu, "room_c": np.full(len(t), 22.0)}))
        own = run.channel("cpu_package_c")
        assert own is not None
        self.assertIn("too few readings", own.why)
        self.assertIsNone(approach(t, cpu))
        self.assertGreater(run_of(kind("one stage"), 1).left_k, 0)
