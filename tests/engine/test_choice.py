"""Effects, equal noise and the choice against closed forms, brute force and reference libraries."""

from math import sqrt

import numpy as np
from django.test import SimpleTestCase
from scipy import stats
from uncertainties import ufloat

from engine.errors import ImpossibleInputError
from engine.verdict.choose import (
    PROFILES,
    RESULT,
    STEP,
    Option,
    Requirement,
    beaten_by,
    chances,
    choose,
    frontier,
    least_burden,
    scored,
    things_of,
    weight_stability,
    worst_of,
)
from engine.verdict.compare import Pair, compare
from engine.verdict.effects import ChangeStep, between, factorial, ladder, price, steps, turned, way
from engine.verdict.equal_noise import SpeedPoint, at_level, common_levels, told_apart
from engine.verdict.worth import felt_k, headroom, worth_words
from tests.runs_made import layout

CPU = "cpu_package_c"


class EffectsTest(SimpleTestCase):
    def pairs(self, **rises: float) -> list[Pair]:
        return compare([layout(n, 4, 0.1, cpu_package_c=v) for n, v in rises.items()])

    def test_a_way_prefers_single_changes_and_its_steps_add_up(self) -> None:
        counts = {(a, b): abs(i - j) for i, a in enumerate("ABCD") for j, b in enumerate("ABCD") if a != b}
        self.assertEqual(way(counts, "A", "D"), ["A", "B", "C", "D"])
        self.assertEqual(way({("A", "D"): 1, ("D", "A"): 1} | counts, "A", "D")[0], "A")
        self.assertEqual(way({}, "A", "D"), ["A", "D"])
        found = steps(list("ABCD"), {}, self.pairs(A=58.0, B=52.0, C=51.0, D=44.0), CPU)
        self.assertAlmostEqual(sum(s.difference_k for s in found), -14.0, places=6)

    def test_a_pair_seen_from_its_other_side(self) -> None:
        pairs = self.pairs(A=50.0, B=44.0)
        there, back = between(pairs, "A", "B", CPU), between(pairs, "B", "A", CPU)
        assert there and back
        self.assertEqual((there[0], there[2]), (-back[0], turned(back[2])))
        self.assertIsNone(between(pairs, "A", "C", CPU))

    def test_knee_and_negative_step_of_a_ladder(self) -> None:
        rungs = [ChangeStep("ABCDE"[i], "BCDEF"[i], (), d, 0.8, "better") for i, d in enumerate((-6.0, -4.0, -2.0, 0.0, 2.0))]
        rungs[-1] = ChangeStep("E", "F", (), 2.0, 0.8, "worse")
        found = ladder(rungs, CPU, 1.5)
        self.assertEqual((found.knee, found.negative, found.shown), ("D", ("F",), ("F",)))
        self.assertIsNone(ladder([ChangeStep("A", "B", (), 1.0, 0.8, "cannot_tell")] * 2, CPU, 1.5).knee)
        with self.assertRaises(ImpossibleInputError):
            ladder(rungs[:1], CPU, 1.5)

    def test_a_planted_interaction_with_its_band(self) -> None:
        # y = 50 - 4 a - 2 b + 3 ab; contrasts by the uncertainties library.
        values = [50.0, 46.0, 48.0, 47.0]
        found = {e.changes: e for e in factorial([(v, 0.3, 2.0) for v in values], ["a", "b"])}
        n, a, b, ab = (ufloat(v, 0.3) for v in values)
        for names, expected in ((("a",), (a + ab - n - b) / 2), (("b",), (b + ab - n - a) / 2), (("a", "b"), (n + ab - a - b) / 2)):
            self.assertAlmostEqual(found[names].effect_k, expected.nominal_value, places=9)
            self.assertAlmostEqual(found[names].expanded_k, 2 * expected.std_dev, places=9)
        self.assertTrue(found["a", "b"].shown)

    def test_prices_and_what_is_not_worth_it(self) -> None:
        found = price("A", "B", CPU, (4.0, 0.8, "better"), 36.0, 2.0, 20.0, 1.5)
        self.assertEqual((found.cost_per_k, found.db_per_k, found.minutes_per_k, found.worth), (9.0, 0.5, 5.0, True))
        for gain, why in (
            ((0.2, 0.5, "no_difference"), "no difference"),
            ((-2.0, 0.5, "worse"), "it is warmer"),
            ((1.0, 0.5, "better"), "less than what matters to you"),
            ((2.0, 3.0, "cannot_tell"), "cannot be told yet"),
        ):
            self.assertEqual(price("A", "B", CPU, gain, 9.0, None, 5.0, 1.5).why, why)  # type: ignore[arg-type]
        self.assertIsNone(price("A", "B", CPU, (-2.0, 0.5, "worse"), 9.0, None, 5.0, 1.5).cost_per_k)


class EqualNoiseTest(SimpleTestCase):
    def points(self, *values: tuple[float, float], error: float = 0.2) -> list[SpeedPoint]:
        return [SpeedPoint(f"A{i}", level, 0.1, rise, error) for i, (level, rise) in enumerate(values)]

    def test_between_two_runs_in_closed_form(self) -> None:
        found = at_level("A", self.points((30, 60), (40, 50)), 34.0)
        assert found.rise_k is not None and found.standard_k is not None
        self.assertAlmostEqual(found.rise_k, 56.0, places=9)
        expected = 0.6 * ufloat(60, 0.2) + 0.4 * ufloat(50, 0.2) - (0.6 * ufloat(0, 0.1) + 0.4 * ufloat(0, 0.1))
        self.assertAlmostEqual(found.standard_k, expected.std_dev, places=9)
        self.assertEqual((found.place, found.between), ("between", ("A0", "A1")))

    def test_a_bent_curve_widens_the_band(self) -> None:
        # rise = 80 exp(-(L - 25)/20), known in closed form; the straight line lies above it, within the band.
        def curve(level: float) -> float:
            return 80 * float(np.exp(-(level - 25) / 20))

        points = self.points(*[(level, curve(level)) for level in (26.0, 32.0, 42.0)], error=0.05)
        found = at_level("A", points, 37.0)
        assert found.rise_k is not None and found.expanded_k is not None
        self.assertLess(abs(found.rise_k - curve(37.0)), found.expanded_k + 0.5)
        straight = at_level("A", self.points((26, 60), (32, 50), (42, 33.33333), error=0.05), 37.0)
        self.assertGreater(found.standard_k or 0, straight.standard_k or 0)

    def test_at_a_run_s_own_level_and_beyond(self) -> None:
        points = self.points((30, 60), (40, 50))
        self.assertEqual(at_level("A", points, 30.2).place, "run")
        beyond = at_level("A", points, 44.0)
        self.assertEqual((beyond.place, beyond.standard_k), ("beyond", None))
        self.assertAlmostEqual(beyond.rise_k or 0, 46.0, places=9)
        alone = at_level("A", points[:1], 36.0)
        self.assertEqual((alone.place, alone.rise_k), ("beyond", None))

    def test_only_what_was_run_there_is_told_apart(self) -> None:
        one, two, far = self.points((30, 60), (40, 50)), self.points((31, 54), (41, 44)), self.points((50, 30))
        found = told_apart([at_level(n, p, 36.0) for n, p in (("A", one), ("B", two), ("C", far))], 1.5)
        self.assertEqual([(a.family, b.family, word) for a, b, _, _, word in found], [("A", "B", "better")])
        self.assertAlmostEqual(found[0][2], -5.0, places=9)
        levels = common_levels([one, two])
        assert levels
        self.assertAlmostEqual(levels[0], 30.7)
        self.assertIsNone(common_levels([one, far]))


def option(name: str, cpu: float, card: float = 40.0, error: float = 0.3, **more: float) -> Option:
    values = {"cpu": (cpu, error), "card": (card, error), "balance": (abs(cpu - card), error * sqrt(2))}
    return Option(name, values | {k: (v, 0.0) for k, v in more.items()})


class ChoiceTest(SimpleTestCase):
    def test_frontier_against_brute_force(self) -> None:
        def beats(p: tuple[int, ...], q: tuple[int, ...]) -> bool:
            return all(a <= b for a, b in zip(p, q, strict=True)) and p != q

        rng = np.random.default_rng(2)
        for _ in range(200):
            points = {chr(65 + i): tuple(rng.integers(0, 7, 3).tolist()) for i in range(int(rng.integers(1, 10)))}
            expected = {n for n, p in points.items() if not any(beats(q, p) for q in points.values())}
            self.assertEqual(set(frontier(points)), expected)

    def test_chance_of_being_best_in_closed_form(self) -> None:
        # P(b < a) of two normal figures: Phi((a - b) / (s sqrt 2)).
        found = chances([option("A", 50.0, error=0.5), option("B", 49.4, error=0.5)], {"cpu": 3}, draws=40_000)
        self.assertAlmostEqual(found["B"], float(stats.norm.cdf(0.6 / (0.5 * sqrt(2)))), delta=0.01)
        self.assertAlmostEqual(sum(found.values()), 1.0, places=9)
        self.assertEqual(chances([option("A", 50.0)], {}), {"A": 0.0})

    def test_a_draw_over_its_limit_is_no_best(self) -> None:
        # The margin is 0 with an uncertainty: half of the draws fail.
        tight = Option("A", {"cpu": (40.0, 0.0)}, limits=(Requirement("sound", 0.0, 0.5, "level"),))
        found = chances([tight, Option("B", {"cpu": (50.0, 0.0)})], {"cpu": 1}, draws=20_000)
        self.assertAlmostEqual(found["A"], 0.5, delta=0.015)

    def test_a_result_counts_like_the_part_that_matters_more(self) -> None:
        both = [
            Option("A", {"cpu": (50.0, 0.1), "result": (6.0, 0.1)}),
            Option("B", {"cpu": (53.0, 0.1), "result": (0.0, 0.1)}),
        ]
        self.assertEqual(choose(both, {"cpu": 3, "card": 0}).best, "B")
        self.assertEqual(choose(both, {"cpu": 3, "card": 9}).placed[0].shares[-1].adds, 0.0)
        self.assertAlmostEqual(choose(both, {"cpu": 3, "card": 9}).placed[1].shares[-1].adds, 9 * 6 / 5)
        self.assertEqual(things_of(both, {"cpu": 0, "card": 0, "noise": 5}), [])

    def test_limits_come_first(self) -> None:
        loud = Option("A", {"cpu": (40.0, 0.1)}, limits=(Requirement("sound", -1.0, 0.2, "level"),))
        found = choose([loud, Option("B", {"cpu": (50.0, 0.1)})], {"cpu": 3})
        self.assertEqual((found.best, found.placed[-1].layout), ("B", "A"))
        self.assertIsNone(choose([loud], {"cpu": 3}).best)
        self.assertIsNone(least_burden([loud], {"cpu": 3}))
        worst = worst_of((Requirement("sound", 2.0, 0, "level"), Requirement("processor", 2.5, 0, "difference")))
        assert worst
        self.assertEqual(worst.what, "processor")

    def test_the_winner_turns_with_the_profile_and_the_beaten_are_named(self) -> None:
        rows = (("A", 50, 40, 32.0, 0), ("B", 44, 46, 36.0, 30), ("C", 51, 41, 33.0, 5))
        options = [option(n, cpu, card, noise=noise, cost=cost) for n, cpu, card, noise, cost in rows]
        best = {name: choose(options, weights).best for name, weights in PROFILES.items()}
        self.assertEqual((best["processor"], best["quiet"], best["thrifty"]), ("B", "A", "A"))
        placed = {p.layout: p for p in choose(options, PROFILES["quiet"]).placed}
        self.assertEqual((placed["C"].beaten_by, placed["A"].beaten_by), ("A", None))

    def test_the_same_sum_but_unlike_balance(self) -> None:
        even, uneven = option("A", 45, 45), option("B", 60, 30)
        found = choose([uneven, even], PROFILES["balanced"])
        self.assertEqual(found.best, "A")
        why = next(p for p in found.placed if p.layout == "B").shares
        self.assertGreater(next(s.adds for s in why if s.thing == "balance"), 0)

    def test_a_tie_keeps_the_simplest_and_says_why(self) -> None:
        few = Option("A", {"cpu": (50.0, 0.5), "cost": (0.0, 0.0), "noise": (32.0, 0.3)}, parts=3)
        many = Option("B", {"cpu": (49.8, 0.5), "cost": (36.0, 0.0), "noise": (33.0, 0.3)}, parts=6)
        alike = {(x, y, t): True for x, y in (("A", "B"), ("B", "A")) for t in ("cpu", "noise")}
        found = choose([many, few], {"cpu": 5, "noise": 0, "cost": 0}, alike)
        self.assertEqual((found.least_burden, found.best, found.tied, found.sure), ("B", "A", ("B", "A"), "tied"))
        self.assertIn("3 fans and coolers instead of 6", found.tie_reason[0])
        self.assertIn("cost 0 instead of 36", found.tie_reason[0])
        told = choose([many, few], {"cpu": 5}, {})
        self.assertEqual((told.best, told.tied), ("B", ()))
        far = Option("A", {"cpu": (53.0, 0.5), "cost": (0.0, 0.0), "noise": (32.0, 0.3)}, parts=3)
        self.assertEqual(choose([many, far], {"cpu": 5}, alike).best, "B")  # hardly ever the best: no tie, whatever a single word says

    def test_ties_are_never_beaten_by_what_is_not_shown(self) -> None:
        a, b = option("A", 50.0), option("B", 49.5)
        alike = {("A", "B", t): True for t in ("cpu", "card", "balance")}
        self.assertIsNone(beaten_by(a, [a, b], ["cpu", "card"], alike))
        self.assertEqual(beaten_by(a, [a, b], ["cpu", "card"], {}), "B")

    def test_how_the_choice_bears_other_weights(self) -> None:
        sure = weight_stability([option("A", 40, 40), option("B", 50, 50)], {"cpu": 3, "card": 3})
        self.assertEqual(sure, {"A": 1.0, "B": 0.0})
        split = weight_stability([option("A", 40, 50), option("B", 50, 40)], {"cpu": 3, "card": 3})
        self.assertAlmostEqual(split["A"], 0.5, delta=0.03)
        again = [weight_stability([option("A", 40, 50), option("B", 50, 40)], {"cpu": 3, "card": 3}, seed=3) for _ in "ab"]
        self.assertEqual(*again)

    def test_a_surprise_lies_beyond_two_standard_uncertainties(self) -> None:
        self.assertTrue(scored("A", CPU, (50.0, 4.0), (56.0, 2.0)).surprise)
        self.assertFalse(scored("A", CPU, (50.0, 12.0), (56.0, 2.0)).surprise)
        self.assertAlmostEqual(scored("A", CPU, (50.0, 3 * 1.959964), (54.0, 4 * 1.959964)).z, 4 / 5, places=5)
        self.assertEqual(set(STEP) - {RESULT}, set(PROFILES["quiet"]))


class WorthTest(SimpleTestCase):
    def test_a_kelvin_counts_by_its_distance_from_the_limit(self) -> None:
        rises = np.array([20.0, 21.0, 50.0, 51.0, 65.0, 66.0])
        felt = felt_k(rises, 70.0)
        self.assertEqual([round(float(x), 9) for x in np.diff(felt)[::2]], [0.5, 1.0, 2.0])
        many = felt_k(np.linspace(0, 90, 500), 70.0)
        self.assertTrue((np.diff(many) > 0).all())
        self.assertEqual(float(felt_k(np.asarray(33.0), None)), 33.0)
        for rise, words in ((20.0, "half"), (50.0, "as one"), (65.0, "double")):
            self.assertIn(words, worth_words(rise, 70.0))

    def test_headroom_in_steps_of_a_hundred(self) -> None:
        # 125 W at 50 K; the limit leaves 78 K: 195 W, and 4700 (78/50)^(1/3) = 5451 MHz, so 5400 in whole steps.
        found = headroom(50.0, 125.0, 100.0, 22.0, 4700.0)
        assert found
        self.assertAlmostEqual(found.most_power_w, 195.0)
        self.assertEqual(found.most_clock_mhz, 5400.0)
        self.assertIsNone(headroom(0.0, 125.0, 100.0, 22.0))
        over = headroom(90.0, 125.0, 100.0, 22.0)
        assert over
        self.assertLess(over.most_power_w, 125.0)
