"""Laws that comparisons, effects and choices keep whatever the runs hold: symmetry, invariance, monotony, conservation."""

from dataclasses import replace
from itertools import pairwise, permutations
from typing import ClassVar

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import RunAnalysis
from engine.runs.budget import BudgetLine, budget, combined, mean_of_runs
from engine.verdict.candidate import Candidate
from engine.verdict.choose import Option, Requirement, burdens, chances, choose, frontier, weight_stability
from engine.verdict.compare import Pair, compare, layout_budget, pair_budget
from engine.verdict.confounders import confounders
from engine.verdict.effects import between, factorial, ladder, steps, turned, way
from engine.verdict.equal_noise import SpeedPoint, at_level, told_apart
from engine.verdict.multiple import last_round
from engine.verdict.scatter import pooled_scatter
from engine.verdict.worth import felt_k
from tests.runs_made import layout, run, run_of

CPU, CARD, SOUND = "cpu_package_c", "card_core_c", "sound_dba"
TRIALS = 25


def campaign(rng: np.random.Generator, layouts: int = 4, most: int = 4) -> list[Candidate]:
    """Layouts with random figures and one to ``most`` runs each."""
    found = []
    for i in range(layouts):
        truth = {CPU: rng.uniform(35, 65), CARD: rng.uniform(35, 60), SOUND: rng.uniform(28, 38)}
        runs = [run_of({n: float(v + rng.normal(0, 0.5)) for n, v in truth.items()}) for _ in range(int(rng.integers(1, most + 1)))]
        found.append(Candidate(chr(65 + i), runs))
    return found


def by_key(pairs: list[Pair]) -> dict[tuple[str, str, str], Pair]:
    return {(p.a, p.b, p.channel): p for p in pairs}


class ComparisonLawsTest(SimpleTestCase):
    def setUp(self) -> None:
        self.rng = np.random.default_rng(17)

    def test_the_order_of_layouts_turns_signs_and_words_and_nothing_else(self) -> None:
        for _ in range(TRIALS):
            found = campaign(self.rng)
            there, back = by_key(compare(found)), by_key(compare(found[::-1]))
            for (a, b, channel), p in there.items():
                q = back[b, a, channel]
                self.assertAlmostEqual(p.difference_k or 0, -(q.difference_k or 0), places=9)
                self.assertAlmostEqual(p.expanded_uncertainty_k or 0, q.expanded_uncertainty_k or 0, places=9)
                self.assertEqual(p.word, turned(q.word))

    def test_the_order_of_a_layout_s_runs_does_not_matter(self) -> None:
        """Between two rounds it may take a word away, since what was told then is kept (a look after another), but never turns one."""
        for trial in range(TRIALS):
            found = campaign(self.rng)
            while trial % 2 and last_round([len(c.runs) for c in found]):  # every second one of whole rounds
                found = campaign(self.rng)
            mixed = [Candidate(c.name, [c.runs[int(i)] for i in self.rng.permutation(len(c.runs))]) for c in found]
            one, two = compare(found), compare(mixed)
            if last_round([len(c.runs) for c in found]):
                for p, q in zip(one, two, strict=True):
                    self.assertTrue(p.word == q.word or "cannot_tell" in (p.word, q.word), (p, q))
            else:
                self.assertEqual([p.word for p in one], [p.word for p in two])
            np.testing.assert_allclose([p.difference_k or 0.0 for p in one], [p.difference_k or 0.0 for p in two], atol=1e-9)

    def test_the_same_shift_for_all_changes_no_difference(self) -> None:
        for _ in range(TRIALS):
            found = campaign(self.rng)
            shift = float(self.rng.uniform(-10, 10))
            moved = [
                Candidate(c.name, [run_of({n: r.channel(n).rise_k + shift for n in (CPU, CARD)}) for r in c.runs])  # type: ignore[union-attr,operator]
                for c in found
            ]
            one, two = by_key(compare(found)), by_key(compare(moved))
            for key, q in two.items():
                self.assertAlmostEqual(one[key].difference_k or 0, q.difference_k or 0, places=9)

    def test_differences_of_three_layouts_add_up(self) -> None:
        for _ in range(TRIALS):
            pairs = compare(campaign(self.rng, 3))
            ab, bc, ac = (between(pairs, a, b, CPU) for a, b in ("AB", "BC", "AC"))
            assert ab and bc and ac
            self.assertAlmostEqual(ab[0] + bc[0], ac[0], places=9)

    def test_a_difference_lies_in_its_own_budget(self) -> None:
        for _ in range(TRIALS):
            found = campaign(self.rng, 3)
            for p in compare(found):
                one, two = (next(c for c in found if c.name == n) for n in (p.a, p.b))
                own = pair_budget(found, one, two, p.channel)
                assert own
                self.assertAlmostEqual(own.value, p.difference_k or 0, places=9)
                self.assertAlmostEqual(own.expanded, p.expanded_uncertainty_k or 0, places=9)
                self.assertAlmostEqual(own.standard, p.standard_k or 0, places=9)
                self.assertFalse(any(x.common for x in own.lines))

    def test_more_runs_of_the_same_scatter_narrow_the_interval(self) -> None:
        widths = []
        for repeats in (2, 3, 5, 9):
            spread = np.tile([-0.4, 0.4], repeats)[:repeats]
            pair = [Candidate(n, [run_of({CPU: v + float(s)}) for s in spread]) for n, v in (("A", 50.0), ("B", 48.0))]
            widths.append(compare(pair)[0].expanded_uncertainty_k or 0.0)
        self.assertEqual(widths, sorted(widths, reverse=True))

    def test_a_wider_margin_never_takes_no_difference_back(self) -> None:
        for _ in range(TRIALS):
            found = campaign(self.rng)
            narrow, wide = by_key(compare(found, 1.0)), by_key(compare(found, 3.0))
            for key, p in narrow.items():
                if p.word == "no_difference":
                    self.assertEqual(wide[key].word, "no_difference")

    def test_a_wider_gap_never_turns_better_into_worse(self) -> None:
        base = layout("A", 3, cpu_package_c=50)
        order = {"worse": 0, "cannot_tell": 1, "no_difference": 1, "better": 2}
        words = [compare([base, layout("B", 3, cpu_package_c=50 - gap)])[0].word for gap in np.linspace(-6, 6, 25)]
        ranks = [order[w] for w in words]
        self.assertEqual(ranks, sorted(ranks))
        self.assertIn("no_difference", words)

    def test_more_comparisons_make_no_word_bolder(self) -> None:
        bold = {"cannot_tell": 0, "no_difference": 1, "better": 1, "worse": 1}
        for _ in range(TRIALS):
            found = campaign(self.rng, 4)
            # The scatter is pooled from all, so the two are told apart with the same scatter in both.
            alone = compare([replace(c) for c in found[:2]])
            among = by_key(compare(found))
            same = pooled_scatter(found[:2], CPU).sigma >= pooled_scatter(found, CPU).sigma
            p, q = next(x for x in alone if x.channel == CPU), among["A", "B", CPU]
            if not same:
                self.assertLessEqual(bold[q.word], max(bold[p.word], 1))

    def test_a_layout_against_itself_is_never_told_apart(self) -> None:
        for _ in range(TRIALS):
            own = campaign(self.rng, 1)[0]
            for p in compare([own, replace(own, name="Z")]):
                self.assertIn(p.word, ("no_difference", "cannot_tell"))
                self.assertAlmostEqual(p.difference_k or 0, 0.0, places=9)

    def test_confounders_are_the_same_from_both_sides(self) -> None:
        for _ in range(TRIALS):
            a, b = campaign(self.rng, 2)
            self.assertEqual({c.words for c in confounders(a, b, CPU)}, {c.words for c in confounders(b, a, CPU)})

    def test_figures_among_alike_are_narrower_than_the_whole_budget(self) -> None:
        for _ in range(TRIALS):
            found = campaign(self.rng)
            for c in found:
                whole = layout_budget(found, c, CPU)
                assert whole
                self.assertLess(whole.factor * whole.among_alike, whole.expanded)
                self.assertAlmostEqual(whole.among_alike, combined(x for x in whole.lines if not x.common)[0])


class BudgetLawsTest(SimpleTestCase):
    def test_the_order_of_lines_does_not_matter_and_none_is_lost(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(TRIALS):
            lines = [BudgetLine(str(i), float(rng.uniform(0.01, 1)), "A", float(rng.integers(2, 40))) for i in range(5)]
            totals = {round(combined(order)[0], 12) for order in list(permutations(lines))[:10]}
            self.assertEqual(len(totals), 1)
            own = budget(1.0, lines)
            self.assertGreater(own.standard, max(x.standard for x in lines))
            self.assertLess(own.standard, sum(x.standard for x in lines))
            self.assertGreaterEqual(own.freedom or 0, min(x.freedom or 0 for x in lines) - 1e-9)
            self.assertLessEqual(own.freedom or 0, sum(x.freedom or 0 for x in lines) + 1e-9)

    def test_a_line_of_nothing_changes_nothing(self) -> None:
        lines = [BudgetLine("a", 0.3, "A", 7.0)]
        self.assertEqual(combined([*lines, BudgetLine("none", 0.0, "A", 1.0)]), combined(lines))

    def test_a_mean_of_equal_runs_shrinks_by_the_root(self) -> None:
        for n in (1, 2, 4, 9):
            own = mean_of_runs([[BudgetLine("own", 0.6, "A", 10.0)] for _ in range(n)])[0]
            self.assertAlmostEqual(own.standard, 0.6 / np.sqrt(n))
            self.assertAlmostEqual(own.freedom or 0, 10.0 * n)


class EffectLawsTest(SimpleTestCase):
    def test_steps_of_any_way_add_up_to_its_ends(self) -> None:
        rng = np.random.default_rng(5)
        for _ in range(TRIALS):
            found = campaign(rng, 5)
            counts = {(a.name, b.name): int(rng.integers(1, 6)) for a, b in permutations(found, 2)}
            path = way(counts, "A", "E")
            self.assertEqual((path[0], path[-1], len(set(path))), ("A", "E", len(path)))
            pairs = compare(found)
            whole = between(pairs, "A", "E", CPU)
            assert whole
            self.assertAlmostEqual(sum(s.difference_k for s in steps(path, {}, pairs, CPU)), whole[0], places=9)
            direct = sum(counts[a, b] ** 2 for a, b in pairwise(path))
            self.assertLessEqual(direct, counts["A", "E"] ** 2)

    def test_effects_give_the_results_back(self) -> None:
        rng = np.random.default_rng(6)
        for factors in (2, 3):
            results = rng.uniform(30, 60, 2**factors)
            found = factorial([(float(v), 0.3, 2.0) for v in results], [f"x{i}" for i in range(factors)])
            for level in range(2**factors):
                signs = {f"x{i}": 1 if level >> i & 1 else -1 for i in range(factors)}
                total = results.mean() + sum(e.effect_k / 2 * np.prod([signs[n] for n in e.changes]) for e in found)
                self.assertAlmostEqual(float(total), float(results[level]), places=9)

    def test_a_knee_is_a_rung_and_moves_back_as_more_is_asked(self) -> None:
        rng = np.random.default_rng(7)
        for _ in range(TRIALS):
            found = campaign(rng, 6)
            rungs = steps("ABCDEF", {}, compare(found), CPU)
            knees = [ladder(rungs, CPU, margin).knee for margin in (0.5, 2.0, 5.0, 40.0)]
            places = [-1 if k is None else "BCDEF".index(k) for k in knees]
            self.assertEqual(places, sorted(places, reverse=True))
            self.assertIsNone(knees[-1])

    def test_equal_noise_passes_through_its_points_and_lies_between_neighbours(self) -> None:
        rng = np.random.default_rng(8)
        for _ in range(TRIALS):
            levels = np.sort(rng.uniform(28, 42, 4)) + np.arange(4)
            rises = np.sort(rng.uniform(35, 60, 4))[::-1]
            points = [SpeedPoint(f"S{i}", float(x), 0.1, float(y), 0.3) for i, (x, y) in enumerate(zip(levels, rises, strict=True))]
            for p in points:
                own = at_level("S", points, p.level_dba)
                self.assertEqual(own.place, "run")
                self.assertAlmostEqual(own.rise_k or 0, p.rise_k, places=9)
            for low, high in pairwise(points):
                own = at_level("S", points, (low.level_dba + high.level_dba) / 2)
                self.assertTrue(high.rise_k - 1e-9 <= (own.rise_k or 0) <= low.rise_k + 1e-9)
            self.assertEqual(at_level("S", points, float(levels[-1]) + 2).place, "beyond")

    def test_families_at_a_level_are_told_apart_from_both_sides_alike(self) -> None:
        one = [SpeedPoint("A", 30, 0.1, 60, 0.2), SpeedPoint("B", 40, 0.1, 50, 0.2)]
        two = [SpeedPoint("C", 30, 0.1, 56, 0.2), SpeedPoint("D", 40, 0.1, 46, 0.2)]
        found = [at_level(n, p, 35) for n, p in (("A", one), ("C", two))]
        there, back = told_apart(found, 1.5)[0], told_apart(found[::-1], 1.5)[0]
        self.assertAlmostEqual(there[2], -back[2])
        self.assertEqual(there[4], turned(back[4]))


def options(rng: np.random.Generator, n: int = 4) -> list[Option]:
    found = []
    for i in range(n):
        cpu, card = float(rng.uniform(35, 65)), float(rng.uniform(35, 60))
        values = {"cpu": (cpu, 0.4), "card": (card, 0.4), "noise": (float(rng.uniform(28, 38)), 0.3), "balance": (abs(cpu - card), 0.6)}
        values |= {"cost": (float(rng.integers(0, 90)), 0.0), "labour": (float(rng.integers(0, 90)), 0.0)}
        found.append(Option(chr(65 + i), values, int(rng.integers(2, 9))))
    return found


class ChoiceLawsTest(SimpleTestCase):
    WEIGHTS: ClassVar = {"cpu": 3.0, "card": 2.0, "noise": 3.0, "cost": 1.0, "labour": 1.0}

    def setUp(self) -> None:
        self.rng = np.random.default_rng(23)

    def test_the_order_of_options_does_not_choose(self) -> None:
        for _ in range(TRIALS):
            found = options(self.rng)
            self.assertEqual(
                {choose(list(p), self.WEIGHTS).best for p in list(permutations(found))[:6]}, {choose(found, self.WEIGHTS).best}
            )

    def test_weights_count_only_against_each_other(self) -> None:
        for _ in range(TRIALS):
            found = options(self.rng)
            twice = {t: 2 * w for t, w in self.WEIGHTS.items()}
            self.assertEqual(choose(found, self.WEIGHTS).best, choose(found, twice).best)
            self.assertEqual(chances(found, self.WEIGHTS), chances(found, twice))

    def test_the_least_burden_is_never_beaten_and_best_in_one_thing_alone(self) -> None:
        for _ in range(TRIALS):
            found = options(self.rng)
            choice = choose(found, self.WEIGHTS)
            self.assertIsNone(next(p for p in choice.placed if p.layout == choice.least_burden).beaten_by)
            for thing in ("cpu", "noise", "cost"):
                alone = choose(found, {thing: 1.0}).least_burden
                self.assertEqual(alone, min(found, key=lambda o: o.values[thing][0]).layout)

    def test_burdens_are_never_negative_and_someone_is_best_in_each_thing(self) -> None:
        for _ in range(TRIALS):
            shares = burdens(options(self.rng), self.WEIGHTS)
            for i in range(5):
                column = [s[i].adds for s in shares.values()]
                self.assertAlmostEqual(min(column), 0.0)

    def test_chances_add_up_to_one_and_a_sure_thing_is_sure(self) -> None:
        for _ in range(TRIALS):
            found = options(self.rng)
            self.assertAlmostEqual(sum(chances(found, self.WEIGHTS).values()), 1.0)
            self.assertAlmostEqual(sum(weight_stability(found, self.WEIGHTS).values()), 1.0)
            exact = [replace(o, values={t: (v, 0.0) for t, (v, _) in o.values.items()}) for o in found]
            self.assertEqual(chances(exact, self.WEIGHTS)[choose(exact, self.WEIGHTS).least_burden or ""], 1.0)

    def test_one_more_that_is_worse_in_everything_changes_nothing(self) -> None:
        for _ in range(TRIALS):
            found = options(self.rng)
            worse = Option("Z", {t: (max(o.values[t][0] for o in found) + 5, 0.0) for t in found[0].values}, 20)
            before, after = choose(found, self.WEIGHTS), choose([*found, worse], self.WEIGHTS)
            self.assertEqual(before.best, after.best)
            self.assertIsNotNone(next(p for p in after.placed if p.layout == "Z").beaten_by)

    def test_a_limit_that_fails_the_best_gives_the_next(self) -> None:
        for _ in range(TRIALS):
            found = options(self.rng)
            first = choose(found, self.WEIGHTS)
            failing = [replace(o, limits=(Requirement("x", -1.0, 0.0, "level"),)) if o.layout == first.best else o for o in found]
            second = choose(failing, self.WEIGHTS)
            self.assertNotEqual(second.best, first.best)
            self.assertFalse(second.placed[-1].passed)
            rest = choose([o for o in found if o.layout != first.best], self.WEIGHTS)
            self.assertEqual(second.best, rest.best)

    def test_a_frontier_keeps_the_best_of_every_axis(self) -> None:
        for _ in range(TRIALS):
            points = {o.layout: (o.values["cpu"][0], o.values["noise"][0]) for o in options(self.rng, 8)}
            kept = frontier(points)
            for axis in (0, 1):
                self.assertIn(min(points, key=lambda n: points[n][axis]), kept)
            self.assertEqual(set(frontier({n: points[n] for n in kept})), set(kept))

    def test_felt_kelvins_keep_the_order_of_rises(self) -> None:
        rises = np.sort(self.rng.uniform(0, 100, 50))
        for limit in (None, 30.0, 71.0):
            self.assertTrue((np.diff(felt_k(rises, limit)) > 0).all())


def unsettled(rise_k: float) -> RunAnalysis:
    """A run that was still climbing when it ended, too short to say where to."""
    run = run_of({CPU: rise_k}, settled=False)
    return replace(run, channels=tuple(replace(c, settled=False) if c.name == CPU else c for c in run.channels))


class JudgedRunsTest(SimpleTestCase):
    def test_a_spoilt_run_beside_good_ones_changes_no_figure(self) -> None:
        good = [run_of({CPU: v}) for v in (50.0, 50.4)]
        spoilt = unsettled(70.0)
        one, two = Candidate("A", good), Candidate("A", [*good, spoilt])
        self.assertEqual(one.values(CPU), two.values(CPU))
        self.assertEqual((one.left_aside(), two.left_aside()), ([], ["not settled, and its end cannot be reckoned"]))

    def test_spoilt_runs_alone_are_used_and_block_the_word(self) -> None:
        a, b = Candidate("A", [unsettled(70.0)]), Candidate("B", [run(cpu_package_c=50.0)])
        self.assertEqual([p.word for p in compare([a, b]) if p.channel == CPU], ["cannot_tell"])
        self.assertEqual(a.values(CPU), [])
