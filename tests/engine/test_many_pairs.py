"""Pairs judged together, against the library's studentized range, published tables, and a campaign worked out by hand."""

from itertools import pairwise
from math import inf, sqrt

import numpy as np
from django.test import SimpleTestCase
from scipy import stats

from engine.verdict.candidate import Candidate
from engine.verdict.choose import MOST_OF_ONE_RUN, SURE, Option, choose
from engine.verdict.compare import compare
from engine.verdict.drift import without_drift
from engine.verdict.multiple import BETWEEN, LEVEL, LEVEL_ONCE, LEVEL_SOME, last_round, level, range_above, range_quantile, stepwise
from tests.runs_made import layout, run, run_of

CPU = "cpu_package_c"


class RangeTest(SimpleTestCase):
    def test_against_the_library(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(25):
            q, size, freedom = float(rng.uniform(1, 9)), int(rng.integers(2, 12)), float(rng.uniform(2.2, 40))
            self.assertAlmostEqual(range_above(q, size, freedom), float(stats.studentized_range.sf(q, size, freedom)), delta=2e-4)
        self.assertAlmostEqual(range_above(3.63, 4, inf), float(stats.studentized_range.sf(3.63, 4, np.inf)), delta=2e-4)

    def test_upper_five_per_cent_points(self) -> None:
        # Source: Pearson and Hartley, Biometrika Tables for Statisticians, vol. 1, table 29 (from memory).
        for size, freedom, point in (
            (2, 10, 3.15),
            (3, 5, 4.60),
            (3, 10, 3.88),
            (4, 10, 4.33),
            (4, 20, 3.96),
            (6, 20, 4.45),
            (10, 60, 4.65),
        ):
            self.assertAlmostEqual(range_quantile(0.05, size, float(freedom)), point, delta=0.006)


class StepwiseTest(SimpleTestCase):
    def test_a_pair_within_a_range_that_is_not_told_is_not_told(self) -> None:
        values = {"A": 50.0, "B": 50.6, "C": 51.0, "D": 51.2}
        pairs = {(a, b): 0.3 for a in "ABCD" for b in "ABCD" if a < b}
        adjusted = stepwise(values, pairs, dict.fromkeys(pairs, 8.0))
        widest = range_above(sqrt(2) * 1.2 / 0.3, 4, 8.0)
        self.assertAlmostEqual(adjusted["A", "D"], widest, places=9)
        for pair, p in adjusted.items():
            self.assertGreaterEqual(p, widest - 1e-12, pair)

    def test_by_hand_for_three(self) -> None:
        # The widest of three by its own range, the inner pairs as pairs: for three, no share is taken off (source: regwq).
        adjusted = stepwise(
            {"A": 0.0, "B": 4.0, "C": 5.0},
            {("A", "B"): 1.0, ("A", "C"): 1.0, ("B", "C"): 1.0},
            dict.fromkeys((("A", "B"), ("A", "C"), ("B", "C")), 10.0),
        )
        self.assertAlmostEqual(adjusted["A", "C"], range_above(5 * sqrt(2), 3, 10.0), places=9)
        self.assertAlmostEqual(adjusted["A", "B"], max(range_above(4 * sqrt(2), 2, 10.0), adjusted["A", "C"]), places=9)
        self.assertAlmostEqual(adjusted["B", "C"], 2 * float(stats.t.sf(1.0, 10)), places=9)

    def test_what_a_look_may_spend_shrinks_and_its_threshold_never_grows(self) -> None:
        self.assertEqual((level(1), level(1.75), level(2), level(2.25)), (LEVEL_ONCE, LEVEL_SOME, LEVEL, BETWEEN * LEVEL))
        rounds = [level(n) for n in (2, 3, 4, 5, 8)]
        self.assertEqual(rounds, sorted(rounds, reverse=True))
        for n in (2, 3, 4):
            self.assertLess(level(n + 0.5), level(n))
        for layouts in (2, 3, 4, 6):
            thresholds = [range_quantile(level(n), layouts, float(layouts * (n - 1))) * sqrt(1 / n) for n in range(2, 8)]
            self.assertTrue(all(b <= a * 1.03 for a, b in pairwise(thresholds)), (layouts, thresholds))
            for n in range(2, 6):  # one layout alone is run again, and agrees: what was told stands, as the others' falls by its degree
                freedom = float(layouts * (n - 1))
                before = range_quantile(level(n), layouts, freedom)
                after = range_quantile(level(n), layouts, freedom + 1) * sqrt(freedom / (freedom + 1))
                self.assertLessEqual(after, before, (layouts, n))

    def test_a_round_is_the_last_that_every_layout_has_on_the_mean(self) -> None:
        cases: tuple[tuple[list[int], int], ...] = (
            ([], 0),
            ([1, 1], 0),
            ([1, 2], 1),
            ([2, 2, 3], 2),
            ([2, 2, 2], 0),
            ([0, 1], 0),
            ([5, 1, 1], 2),
        )
        for counts, rounds in cases:
            with self.subTest(counts=counts):
                self.assertEqual(last_round(counts), rounds)

    def test_a_word_of_a_whole_round_is_kept_while_it_holds_and_lost_where_it_does_not(self) -> None:
        """Between two rounds less may be spent on what is new; what was told stays told until a run speaks against it."""
        values = {"A": (50.0, 50.4), "B": (51.45, 51.85), "C": (50.1, 50.5)}
        two = [Candidate(n, [run_of({CPU: v}) for v in own]) for n, own in values.items()]
        self.assertEqual(self.word(two), "worse")
        for v, word in ((51.65, "worse"), (50.2, "cannot_tell")):
            with self.subTest(v=v):
                more = [Candidate(c.name, [*c.runs, run_of({CPU: v})] if c.name == "B" else c.runs) for c in two]
                self.assertEqual(self.word(more), word)
        late = [
            Candidate(c.name, [*c.runs[:1], run_of({CPU: float(np.mean(c.values(CPU)))})] if c.name == "A" else c.runs[:1]) for c in two
        ]
        self.assertEqual(self.word(late), "cannot_tell")

    def word(self, candidates: list[Candidate]) -> str:
        return next(p.word for p in compare(candidates) if (p.a, p.b, p.channel) == ("A", "B", CPU))


class NeverSurerTest(SimpleTestCase):
    def test_a_layout_that_was_run_once_is_never_sure(self) -> None:
        found = choose([Option("A", {"cpu": (60.0, 0.5)}, runs=1), Option("B", {"cpu": (40.0, 0.5)}, runs=1)], {"cpu": 3.0})
        self.assertEqual((found.best, found.chance), ("B", MOST_OF_ONE_RUN))
        self.assertLess(found.chance, SURE)
        self.assertEqual(found.sure, "likely")
        again = choose([Option("A", {"cpu": (60.0, 0.5)}, runs=1), Option("B", {"cpu": (40.0, 0.5)}, runs=2)], {"cpu": 3.0})
        self.assertEqual(again.sure, "sure")

    def test_runs_that_agree_make_no_word_less_sure(self) -> None:
        rng = np.random.default_rng(11)
        for _ in range(40):
            gap = float(rng.uniform(1, 6))
            few = [
                Candidate(n, [run_of({CPU: v + float(rng.normal(0, 0.4))}) for _ in range(2)])
                for n, v in (("A", 50.0), ("B", 50.0 + gap), ("C", 51.0))
            ]
            more = [Candidate(c.name, [*c.runs, run_of({CPU: float(np.mean(c.values(CPU)))})]) for c in few]
            before = {(p.a, p.b): p.word for p in compare(few) if p.channel == CPU}
            after = {(p.a, p.b): p.word for p in compare(more) if p.channel == CPU}
            for pair, word in before.items():
                if word != "cannot_tell":
                    self.assertIn(after[pair], (word, "no_difference"), (pair, gap))

    def test_one_run_that_agrees_makes_no_word_less_sure(self) -> None:
        rng = np.random.default_rng(12)
        for each in (1, 2, 3):
            for _ in range(20):
                gap = float(rng.uniform(1, 8))
                few = [
                    Candidate(n, [run_of({CPU: v + float(rng.normal(0, 0.4))}) for _ in range(each)])
                    for n, v in (("A", 50.0), ("B", 50.0 + gap), ("C", 51.0))
                ]
                more = [Candidate(c.name, [*c.runs, run_of({CPU: float(np.mean(c.values(CPU)))})] if c is few[1] else c.runs) for c in few]
                before = {(p.a, p.b): p.word for p in compare(few) if p.channel == CPU}
                after = {(p.a, p.b): p.word for p in compare(more) if p.channel == CPU}
                for pair, word in before.items():
                    if word != "cannot_tell":
                        self.assertIn(after[pair], (word, "no_difference"), (each, pair, gap))

    def test_a_control_run_twice_alone_corrects_nothing_and_is_said(self) -> None:
        control = Candidate("A", [run(cpu_package_c=50.0), run(cpu_package_c=52.0)], hours=[0.0, 3.0])
        other = Candidate("B", [run(cpu_package_c=48.0)], hours=[1.5])
        found, shown = without_drift([control, other], "A")
        self.assertEqual([(s.corrected, s.known) for s in shown], [(False, False)])
        self.assertEqual(found[0].values(CPU), [50.0, 52.0])

    def test_the_degree_that_a_slope_takes_is_taken_from_the_repeats(self) -> None:
        control = Candidate("A", [run(cpu_package_c=v) for v in (50.0, 51.02, 52.0)], hours=[0.0, 2.0, 4.0])
        others = [layout(n, 2, 0.1, cpu_package_c=48) for n in "BC"]
        others = [Candidate(c.name, c.runs, hours=[1.0, 3.0]) for c in others]
        found, shown = without_drift([control, *others], "A")
        self.assertTrue(shown[0].corrected)
        self.assertAlmostEqual(shown[0].whole_k, 2.0, delta=0.01)
        self.assertEqual(found[0].fitted(CPU), 1)
        self.assertLess(float(np.ptp(found[0].values(CPU))), 0.05)


class UnlikeRunsTest(SimpleTestCase):
    def test_a_repeat_with_other_power_or_speed_is_named_with_its_size(self) -> None:
        alike = [run(cpu_package_c=50.0, cpu_power_w=125.0, fan_f1_rpm=1200.0) for _ in range(2)]
        a = Candidate("A", [*alike, run(cpu_package_c=53.0, cpu_power_w=135.0, fan_f1_rpm=1000.0)])
        b = Candidate("B", alike, remarks=["F2 turns at 1000 where the layout says 1400 rpm: another curve, or another header?"])
        said = " ".join(next(p.confounders for p in compare([a, b]) if p.channel == CPU))
        self.assertIn("A: run 3 of 3 had +8 % processor's power against its repeats", said)
        self.assertIn("A: run 3 of 3 had −17 % speed of F1 against its repeats", said)
        self.assertIn("B: F2 turns at 1000", said)
