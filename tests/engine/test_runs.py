"""Windows, settle call, flags and comparison against theory, simulation and reference libraries."""

import numpy as np
from django.test import SimpleTestCase
from scipy import stats
from statsmodels.stats.multitest import multipletests
from statsmodels.stats.weightstats import ttost_paired

from engine.errors import ImpossibleInputError, MissingFigureError
from engine.runs.analysis import RunAnalysis, analyse
from engine.runs.series import Floats, RunLog, off_neighbours, resolution
from engine.runs.settle import approach, has_settled, settled_at_s
from engine.runs.window import effective_count, tail, window_mean
from engine.verdict.candidate import Candidate
from engine.verdict.compare import Pair, compare, holm
from engine.verdict.scatter import pooled_scatter


def ar1(rng: np.random.Generator, n: int, r: float, sd: float = 1.0) -> Floats:
    steps = rng.normal(0, sd * np.sqrt(1 - r * r), n)
    values = np.empty(n)
    values[0] = rng.normal(0, sd)
    for i in range(1, n):
        values[i] = r * values[i - 1] + steps[i]
    return values


def run_log(rise_k: float, minutes: float = 35, seed: int = 0, room_c: float = 22.0, tau_s: float = 240.0, **more: Floats) -> RunLog:
    """A made-up run: the processor climbs to ``rise_k`` over the room, the card to 40 K."""
    rng = np.random.default_rng(seed)
    t = np.arange(0, minutes * 60, 1.0)
    room = room_c + 0.1 * t / t[-1]
    cpu = room + rise_k * (1 - 0.6 * np.exp(-t / tau_s) - 0.4 * np.exp(-t / 30)) + rng.normal(0, 0.6, len(t))
    card = room + 40 * (1 - np.exp(-t / tau_s)) + rng.normal(0, 0.3, len(t))
    channels = {"cpu_package_c": cpu, "card_core_c": card, "room_c": room, "cpu_power_w": rng.normal(125, 1, len(t)), **more}
    return RunLog(t, channels)


def run(rise_k: float, **more: float) -> RunAnalysis:
    return analyse(run_log(rise_k, **more))  # type: ignore[arg-type]


class SeriesTest(SimpleTestCase):
    def test_times_must_rise(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            RunLog(np.array([0.0, 1, 1]), {})

    def test_lengths_must_agree(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            RunLog(np.arange(5.0), {"room_c": np.arange(4.0)})

    def test_resolution_of_a_whole_degree_sensor(self) -> None:
        self.assertEqual(resolution(np.array([20.0, 21, 23, 22, np.nan])), 1.0)
        self.assertEqual(resolution(np.array([20.1, 20.2, 20.4])), 0.1)

    def test_only_what_warmed_up_was_loaded(self) -> None:
        idle = run_log(40)
        log = RunLog(idle.elapsed_s, {**idle.channels, "vrm_c": np.full(len(idle.elapsed_s), 31.0)})
        self.assertEqual(log.loaded, ["cpu_package_c", "card_core_c"])


class WindowTest(SimpleTestCase):
    def test_means_of_ar1_readings_err_as_the_readings_do(self) -> None:
        """The mean of n AR(1) readings has the variance s^2 (1 + r)/(1 - r)/n (textbook), whatever they were put together to first."""
        for r, many in ((0.95, 18), (0.9, 6), (0.5, 10)):
            true = (1 + r) / (1 - r) / (600 * many)
            told, as_if_single = [], []
            for seed in range(20):
                means = ar1(np.random.default_rng(seed), 600 * many, r).reshape(-1, many).mean(axis=1)
                told.append(float(means.var()) / effective_count(means, many))
                as_if_single.append(float(means.var()) / effective_count(means))
            with self.subTest(r=r, many=many):
                self.assertAlmostEqual(float(np.mean(told)) / true, 1.0, delta=0.06)
                self.assertGreater(np.mean(as_if_single), np.mean(told) * (1.1 if r > 0.8 else 1.0))

    def test_effective_count_of_an_ar1_series(self) -> None:
        # Source: theory of AR(1), n (1 - r)/(1 + r) (Bartlett 1935).
        rng = np.random.default_rng(1)
        for r in (0.0, 0.5, 0.9):
            counts = [effective_count(ar1(rng, 2000, r)) for _ in range(20)]
            self.assertAlmostEqual(float(np.mean(counts)) / (2000 * (1 - r) / (1 + r)), 1.0, delta=0.12)

    def test_standard_error_covers_the_scatter_of_means(self) -> None:
        rng = np.random.default_rng(2)
        series = [ar1(rng, 600, 0.8) for _ in range(300)]
        means = [float(s.mean()) for s in series]
        errors = [window_mean(s).standard_error for s in series]
        self.assertAlmostEqual(float(np.std(means)) / float(np.mean(errors)), 1.0, delta=0.15)

    def test_a_reading_that_never_moves_keeps_its_step(self) -> None:
        stuck = window_mean(np.array([70.0] * 99 + [71.0]))
        self.assertGreater(stuck.standard_error, 1 / np.sqrt(12) * 0.9)

    def test_too_few_readings(self) -> None:
        with self.assertRaises(MissingFigureError):
            window_mean(np.array([1.0, np.nan, 2.0]))

    def test_a_short_run_gets_a_short_tail(self) -> None:
        self.assertEqual(tail(run_log(40, minutes=10)), (479.2, 599.0))
        self.assertEqual(tail(run_log(40, minutes=40))[0], 2399 - 300)


class SettleTest(SimpleTestCase):
    def test_final_value_is_found_from_an_unfinished_rise(self) -> None:
        t = np.arange(0, 1200, 2.0)
        y = 50 - 30 * np.exp(-t / 300) - 12 * np.exp(-t / 40) + np.random.default_rng(3).normal(0, 0.3, len(t))
        fit = approach(t, y)
        assert fit
        self.assertLess(abs(fit.final - 50), fit.final_band)
        self.assertLess(fit.final_band, 2.0)

    def test_settled_is_called_late_enough_and_not_never(self) -> None:
        log = run_log(45, minutes=40)
        early = RunLog(log.elapsed_s[:600], {k: v[:600] for k, v in log.channels.items()})
        self.assertFalse(analyse(early).settled)
        self.assertTrue(analyse(log).settled)
        at = settled_at_s(log, "cpu_package_c")
        assert at
        # What is left of the slow part when it is called is at most half a kelvin: 27 exp(-t/240) < 0.5.
        self.assertGreater(at, 240 * np.log(27 / 0.5) * 0.75)

    def test_whether_it_had_settled_is_what_the_whole_fit_says(self) -> None:
        said = set()
        for seed, rounded in ((0, 0.0), (1, 0.0), (2, 1.0), (3, 1.0)):
            log = run_log(45, minutes=40, seed=seed)
            read = np.round(log.channels["cpu_package_c"] / rounded) * rounded if rounded else log.channels["cpu_package_c"]
            for upto in (30, 700, 1100, 1500, 2400):
                fit = approach(log.elapsed_s[:upto], read[:upto])
                said.add(whole := fit is not None and fit.settled)
                self.assertEqual(has_settled(log.elapsed_s[:upto], read[:upto]), whole, (seed, upto))
        self.assertEqual(said, {True, False})

    def test_a_spike_is_told_by_the_median_of_its_neighbours(self) -> None:
        values = np.random.default_rng(5).normal(50, 0.3, 200)
        values[100] += 9
        by_hand = [values[i] - np.median(np.pad(values, 4, mode="edge")[i : i + 9]) for i in range(len(values))]
        np.testing.assert_array_equal(off_neighbours(values), by_hand)
        self.assertEqual(int(np.argmax(off_neighbours(values))), 100)

    def test_wrong_settled_calls_stay_rare_over_seeds(self) -> None:
        # At 12 minutes of a 10-minute time constant 8 K are left: a call would be wrong.
        wrong = sum(analyse(run_log(45, minutes=12, tau_s=600, seed=s)).settled for s in range(40))
        self.assertEqual(wrong, 0)

    def test_right_settled_calls_over_seeds(self) -> None:
        right = sum(analyse(run_log(45, minutes=40, seed=s)).settled for s in range(40))
        self.assertGreaterEqual(right, 34)

    def test_too_few_points_are_not_judged(self) -> None:
        self.assertIsNone(approach(np.arange(20.0), np.arange(20.0)))


class FlagsTest(SimpleTestCase):
    def codes(self, log: RunLog) -> set[str]:
        return {f.code for f in analyse(log).flags}

    def test_a_good_run_has_none(self) -> None:
        self.assertEqual(self.codes(run_log(45)), set())

    def test_missing_room(self) -> None:
        log = run_log(45)
        log.channels.pop("room_c")
        self.assertIn("room_missing", self.codes(RunLog(log.elapsed_s, log.channels)))

    def test_typed_room_takes_the_place_of_the_logged_one(self) -> None:
        analysed = analyse(run_log(45).with_room(20.0))
        rise = analysed.channel("cpu_package_c")
        assert rise and rise.rise_k
        self.assertAlmostEqual(rise.rise_k, 47.1, delta=0.2)

    def test_a_room_warmer_than_the_parts_at_the_start(self) -> None:
        self.assertIn("room_doubtful", self.codes(run_log(45).with_room(28.0)))

    def test_drift_gap_and_throttle(self) -> None:
        log = run_log(45)
        t = log.elapsed_s
        drifting = RunLog(t, {**log.channels, "room_c": 22 + 3 * t / t[-1]})
        self.assertIn("room_drift", self.codes(drifting))
        keep = (t < 600) | (t > 700)
        self.assertIn("gap", self.codes(RunLog(t[keep], {k: v[keep] for k, v in log.channels.items()})))
        capped = np.minimum(log.channels["cpu_package_c"], 60.0)
        falling = np.where(t < 500, 150.0, 120.0)
        self.assertIn("throttled", self.codes(RunLog(t, {**log.channels, "cpu_package_c": capped, "cpu_power_w": falling})))
        self.assertIn("load_changed", self.codes(RunLog(t, {**log.channels, "cpu_power_w": falling})))

    def test_whole_degrees_are_said(self) -> None:
        log = run_log(45)
        coarse = RunLog(log.elapsed_s, {**log.channels, "cpu_package_c": np.round(log.channels["cpu_package_c"])})
        channel = analyse(coarse).channel("cpu_package_c")
        assert channel
        self.assertEqual(channel.flags, ("integer_resolution",))


def word(pairs: list[Pair], channel: str = "cpu_package_c") -> str:
    return next(p.word for p in pairs if p.channel == channel)


class CompareTest(SimpleTestCase):
    def test_holm_against_statsmodels(self) -> None:
        # Source: statsmodels.stats.multitest.multipletests, method "holm".
        p = [0.01, 0.04, 0.03, 0.005, 0.5]
        np.testing.assert_allclose(holm(p), multipletests(p, method="holm")[1])
        self.assertEqual(holm([]), [])

    def test_equivalence_p_against_statsmodels(self) -> None:
        # Source: statsmodels two one-sided tests on paired data: the same difference, standard error and freedom.
        from engine.verdict.compare import Test

        rng = np.random.default_rng(4)
        first, second = rng.normal(0, 1, 12), rng.normal(0.2, 1, 12)
        expected = ttost_paired(first, second, -1.5, 1.5)[0]
        d = first - second
        own = Test(float(d.mean()), float(d.std(ddof=1) / np.sqrt(12)), 11.0)
        self.assertAlmostEqual(own.p_equivalent(1.5), expected, places=9)

    def test_expanded_uncertainty_uses_student_t(self) -> None:
        from engine.verdict.compare import Test

        # Source: GUM (JCGM 100:2008), table G.2: t = 2.23 for 10 degrees of freedom at 95 %.
        self.assertAlmostEqual(Test(0.0, 1.0, 10.0).expanded, 2.23, delta=0.005)
        self.assertAlmostEqual(Test(0.0, 1.0, np.inf).expanded, 1.96, delta=0.001)

    def test_four_words(self) -> None:
        a = Candidate("A", [run(45, seed=1)])
        self.assertEqual(word(compare([a, Candidate("B", [run(40, seed=2)])])), "better")
        self.assertEqual(word(compare([a, Candidate("B", [run(50, seed=3)])])), "worse")
        self.assertEqual(word(compare([a, Candidate("B", [run(45.2, seed=4)])])), "cannot_tell")
        many = [Candidate(n, [run(45, seed=s + 10 * i) for s in range(4)]) for i, n in enumerate("AB")]
        self.assertEqual(word(compare(many)), "no_difference")

    def test_difference_is_b_minus_a_over_room_in_unlike_rooms(self) -> None:
        pairs = compare([Candidate("A", [run(45, room_c=21.0)]), Candidate("B", [run(40, room_c=23.0)])])
        self.assertAlmostEqual(next(p.difference_k or 0 for p in pairs if p.channel == "cpu_package_c"), -5, delta=0.2)

    def test_confounders_block_a_word(self) -> None:
        short = Candidate("B", [run(30, minutes=8)])
        pairs = compare([Candidate("A", [run(45)]), short])
        self.assertEqual(word(pairs), "better")  # 15 K: the end it was going to is known well enough for that
        self.assertIn("not settled; judged by the end", pairs[0].confounders[0])
        going, settled = (next(c for c in r.channels if c.name == "cpu_package_c") for r in (short.runs[0], run(45)))
        self.assertIsNone(settled.going)
        assert going.going is not None and going.going.rise_k is not None and going.rise_k is not None
        self.assertAlmostEqual(going.going.rise_k - going.rise_k, going.going.at_c - going.mean, places=9)
        self.assertLess(abs(going.going.rise_k - 30), going.going.band_k)
        near = compare([Candidate("A", [run(45)]), Candidate("B", [run(44, minutes=8)])])
        self.assertEqual(word(near), "cannot_tell")

    def test_a_spoilt_repeat_is_left_aside_and_said(self) -> None:
        doubtful = analyse(run_log(45).with_room(28.0))
        pairs = compare([Candidate("A", [run(45), doubtful]), Candidate("B", [run(40)])])
        self.assertEqual(word(pairs), "better")
        self.assertIn("left aside", pairs[0].confounders[0])

    def test_unlike_load_is_not_judged(self) -> None:
        other = run_log(40)
        other.channels["cpu_power_w"] = other.channels["cpu_power_w"] * 0.9
        pairs = compare([Candidate("A", [run(45)]), Candidate("B", [analyse(other)])])
        self.assertEqual(word(pairs), "cannot_tell")
        self.assertEqual(word(pairs, "card_core_c"), "cannot_tell")

    def test_scatter_is_pooled_with_its_prior(self) -> None:
        repeats = Candidate("A", [run(45, seed=s) for s in range(3)])
        scatter = pooled_scatter([repeats], "cpu_package_c")
        self.assertLess(scatter.sigma, 0.5)
        self.assertGreater(scatter.freedom, 2)
        self.assertIn("repeats", scatter.origin)
        self.assertAlmostEqual(pooled_scatter([Candidate("A", [run(45)])], "cpu_package_c").between, 0.45, delta=0.01)

    def test_wrong_words_stay_rare_over_seeds(self) -> None:
        # Two equal layouts whose builds scatter by the prior: "better" or "worse" in no more than about 5 % of trials.
        rng = np.random.default_rng(9)
        base = run(45, seed=1)
        wrong = 0
        trials = 300
        for _ in range(trials):
            pair = [_shifted(base, d) for d in rng.normal(0, 0.5, 2)]
            words = [p.word for p in compare([Candidate("A", [pair[0]]), Candidate("B", [pair[1]])])]
            wrong += any(w in ("better", "worse") for w in words)
        self.assertLess(wrong / trials, 0.05 + 3 * np.sqrt(0.05 * 0.95 / trials))
        self.assertGreater(stats.norm.sf(1.96) * 2, 0.0499)


def _shifted(base: RunAnalysis, by_k: float) -> RunAnalysis:
    """The same run with every temperature shifted over room."""
    from dataclasses import replace

    channels = tuple(replace(c, rise_k=None if c.rise_k is None else c.rise_k + by_k) for c in base.channels)
    return replace(base, channels=channels)
