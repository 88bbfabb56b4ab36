"""Looking again and again, and repeats of runs, against published group-sequential bounds and a mixed model of a reference library."""

from math import sqrt

import numpy as np
import pandas as pd  # type: ignore[import-untyped]
import statsmodels.formula.api as smf
from django.test import SimpleTestCase
from scipy import stats

from engine.runs.series import Floats
from engine.verdict.candidate import Candidate
from engine.verdict.compare import compare
from engine.verdict.multiple import level
from engine.verdict.reach import reaches, smallest_told
from engine.verdict.scatter import Scatter
from tests.runs_made import run_of

GRID: Floats = np.linspace(-12.0, 12.0, 4001)


def crossing(bounds: list[float]) -> float:
    """Chance that a walk without drift, looked at after each equal stretch, is ever beyond its bounds (in units of its own sigma).

    The density that has not crossed yet is carried on by convolution (Armitage, McPherson and Rowe 1969).
    """
    step = GRID[1] - GRID[0]
    move = stats.norm.pdf(np.arange(-2000, 2001) * step)
    inside = np.zeros_like(GRID)
    inside[len(GRID) // 2] = 1 / step
    for k, bound in enumerate(bounds, 1):
        inside = np.convolve(inside, move, mode="same") * step
        inside[np.abs(GRID) > bound * sqrt(k)] = 0.0
    return 1 - float(inside.sum() * step)


class LooksTest(SimpleTestCase):
    # Two-sided 5 %, K equal looks: Pocock's and O'Brien and Fleming's constants (Jennison and Turnbull: Group Sequential Methods, tables
    # 2.1 and 2.3; from memory).
    POCOCK = ((2, 2.178), (3, 2.289), (4, 2.361), (5, 2.413))
    OBRIEN_FLEMING = ((2, 1.977), (3, 2.004), (4, 2.024), (5, 2.040))

    def test_the_reckoning_finds_the_published_bounds(self) -> None:
        for looks, c in self.POCOCK:
            self.assertAlmostEqual(crossing([c] * looks), 0.05, delta=0.0008)
        for looks, c in self.OBRIEN_FLEMING:
            self.assertAlmostEqual(crossing([c * sqrt(looks / k) for k in range(1, looks + 1)]), 0.05, delta=0.0008)

    def test_five_looks_at_one_level_would_cost_nearly_three_times_that(self) -> None:
        """What is said of looking again (Armitage, McPherson and Rowe 1969: 0.142 after five looks at 0.05)."""
        self.assertAlmostEqual(crossing([stats.norm.isf(0.025)] * 5), 0.142, delta=0.001)

    def test_our_rounds_together_cost_little_more_than_the_dearest_of_them(self) -> None:
        """Two layouts, a scatter that is known: the same reckoning over what each round may spend."""
        spent = [level(n) for n in range(1, 7)]
        for rounds in (2, 3, 5, 6):
            cost = crossing([float(stats.norm.isf(x / 2)) for x in spent[:rounds]])
            self.assertLess(cost, 1.5 * max(spent))
        # beyond two rounds hardly anything is added
        five, two = (crossing([float(stats.norm.isf(x / 2)) for x in spent[:n]]) for n in (5, 2))
        self.assertLess(five - two, 0.015)


class MixedModelTest(SimpleTestCase):
    """Runs of a layout scatter about it, readings scatter about a run: statsmodels' MixedLM (REML) against our difference."""

    def test_difference_and_standard_uncertainty(self) -> None:
        rng = np.random.default_rng(4)
        for repeats in (3, 4, 6):
            rows, sides = [], []
            for name, rise in (("A", 50.0), ("B", 47.5)):
                runs = []
                for n in range(repeats):
                    build = rise + rng.normal(0, 0.6)
                    readings = build + rng.normal(0, 0.25, 12)
                    rows += [{"layout": name, "run": f"{name}{n}", "rise": v} for v in readings]
                    runs.append(run_of({"cpu_package_c": float(readings.mean())}))
                sides.append(Candidate(name, runs))
            fit = smf.mixedlm("rise ~ layout", pd.DataFrame(rows), groups="run").fit(reml=True)
            pair = next(p for p in compare(sides) if p.channel == "cpu_package_c")
            with self.subTest(repeats=repeats):
                self.assertAlmostEqual(pair.difference_k or 0, float(fit.params["layout[T.B]"]), places=4)
                self.assertAlmostEqual(pair.standard_k or 0, float(fit.bse["layout[T.B]"]), delta=0.02)


class ReachTest(SimpleTestCase):
    """What a number of runs can tell, before they are made."""

    SCATTER = Scatter(0.6, 2.2, "made up")

    def test_a_gap_of_that_size_is_told_in_four_of_five_campaigns(self) -> None:
        rng = np.random.default_rng(11)
        for runs, layouts in ((3, 2), (4, 2), (3, 4)):
            gap = smallest_told(runs, layouts, self.SCATTER)
            told = 0
            for _ in range(150):
                sides = []
                for i in range(layouts):
                    rises = 50 + (gap if i == 1 else 0.0) + rng.normal(0, 0.6, runs)
                    sides.append(Candidate("ABCD"[i], [run_of({"cpu_package_c": float(v)}) for v in rises]))
                pair = next(p for p in compare(sides) if (p.a, p.b, p.channel) == ("A", "B", "cpu_package_c"))
                told += pair.word == "worse"
            with self.subTest(runs=runs, layouts=layouts):
                self.assertAlmostEqual(told / 150, 0.8, delta=0.13)

    def test_one_run_tells_little_and_each_further_one_more(self) -> None:
        gaps = [r.gap_k for r in reaches(4, self.SCATTER)]
        self.assertEqual(gaps, sorted(gaps, reverse=True))
        self.assertGreater(gaps[0], 3 * gaps[2])
        self.assertGreater(smallest_told(3, 8, self.SCATTER), smallest_told(3, 2, self.SCATTER))
        self.assertAlmostEqual(smallest_told(3, 4, Scatter(1.2, 2.2, "twice")), 2 * smallest_told(3, 4, self.SCATTER))
