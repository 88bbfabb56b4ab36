"""Verdicts over two hundred made-up campaigns of one machine: wrong words no more often than stated.

Campaigns are drawn from pools of independent runs of the stand-in bench, whose truth is known. Thousands with a machine each are
run by ``./oventa study --verdicts N``.
"""

import sys
from math import sqrt
from pathlib import Path
from typing import ClassVar

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import RunAnalysis
from engine.verdict.candidate import Candidate
from engine.verdict.compare import Word, compare
from instruments.standin import SameMachine

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "tools"))
from study.verdicts import CHANNEL, machine, named, run_of

SEEDS, POOL, MARGIN_K = 200, 36, 1.5


def at_most(share: float) -> float:
    """Three binomial standard deviations above a stated share."""
    return SEEDS * share + 3 * sqrt(SEEDS * share * (1 - share))


class CoverageTest(SimpleTestCase):
    pools: ClassVar[dict[float, list[RunAnalysis]]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        own = SameMachine(machine(), 3, every_s=6.0)
        cls.pools = {gap: [run_of(own.warmer(gap), 5000 + 100 * int(10 * gap) + i) for i in range(POOL)] for gap in (0.0, MARGIN_K, 3.0)}

    def drawn(self, seed: int, gaps: dict[str, float], repeats: int) -> list[Candidate]:
        """A campaign of different runs; layouts of the same gap never share one."""
        rng, free = np.random.default_rng(seed), {gap: list(range(POOL)) for gap in self.pools}
        found = []
        for name, gap in gaps.items():
            chosen = rng.choice(free[gap], repeats, replace=False).tolist()
            free[gap] = [i for i in free[gap] if i not in chosen]
            found.append(Candidate(name, [self.pools[gap][i] for i in chosen]))
        return found

    def words(self, gap: float, repeats: int) -> list[Word]:
        return [
            next(p.word for p in compare(self.drawn(seed, {"A": 0.0, "B": gap}, repeats), MARGIN_K) if p.channel == CHANNEL)
            for seed in range(SEEDS)
        ]

    def test_better_or_worse_is_rarely_said_where_there_is_nothing(self) -> None:
        for repeats in (2, 3, 6):
            said = self.words(0.0, repeats)
            self.assertLessEqual(sum(w in ("better", "worse") for w in said), at_most(0.05), repeats)

    def test_no_difference_is_rarely_said_of_a_gap_as_wide_as_the_margin(self) -> None:
        self.assertLessEqual(self.words(MARGIN_K, 6).count("no_difference"), at_most(0.025))

    def test_no_difference_is_found_where_it_is_true(self) -> None:
        self.assertGreaterEqual(self.words(0.0, 6).count("no_difference"), 0.6 * SEEDS)

    def test_the_true_best_is_named_and_a_wrong_one_is_not(self) -> None:
        found = [named(self.drawn(seed, {"A": 3.0, "B": 0.0, "C": 3.0}, 3)) for seed in range(SEEDS)]
        self.assertGreaterEqual(found.count("B"), 0.8 * SEEDS)
        self.assertLessEqual(sum(n not in (None, "B") for n in found), 0.05 * SEEDS)
