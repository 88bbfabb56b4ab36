"""Runs that ended before they had settled: taken on to their end together, and what that is worth."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import RunAnalysis
from engine.runs.budget import combined
from engine.verdict.candidate import Candidate
from engine.verdict.compare import compare, pair_budget
from engine.verdict.ends import RECKONED, with_ends
from tests.runs_made import run_of

CPU = "cpu_package_c"


def short(rise_k: float, end_k: float, band_k: float, duration_s: float = 600.0) -> RunAnalysis:
    """An unsettled run that had reached ``rise_k`` and whose own fit goes to ``end_k``, good to ``band_k``."""
    made = run_of({CPU: rise_k}, settled=False)
    own = [
        replace(c, settled=False, final_estimate=c.mean + end_k - rise_k, final_band=band_k) if c.name == CPU else c for c in made.channels
    ]
    return replace(made, channels=tuple(own), duration_s=duration_s)


class EndsTest(SimpleTestCase):
    def test_runs_of_one_length_lack_the_same_share(self) -> None:
        a, b = Candidate("A", [short(45.0, 50.0, 1.0)]), Candidate("B", [short(54.0, 66.0, 8.0)])
        one, two = with_ends([a, b])
        shares = [c.values(CPU)[0] / v for c, v in ((one, 45.0), (two, 54.0))]
        self.assertAlmostEqual(shares[0], shares[1], places=9)
        self.assertAlmostEqual(shares[0], 1 + 5 / 45, delta=0.02)  # the good fit decides
        self.assertIn(RECKONED, one.runs[0].channel(CPU).flags)  # type: ignore[union-attr]

    def test_what_they_share_leaves_their_difference_nearly_alone(self) -> None:
        found = with_ends([Candidate("A", [short(45.0, 50.0, 4.0)]), Candidate("B", [short(47.0, 52.0, 4.0)])])
        alone = combined(found[0].figures(CPU)[0].own)[0]
        apart = pair_budget(found, found[0], found[1], CPU)
        assert apart
        shared = next(x for x in apart.lines if x.shared)
        self.assertGreater(alone, 1.0)
        self.assertLess(shared.standard, 0.1)
        settled = [found[0], Candidate("B", [run_of({CPU: 47.0})])]
        mixed = pair_budget(settled, settled[0], settled[1], CPU)
        assert mixed
        self.assertGreater(next(x for x in mixed.lines if x.shared).standard, 1.0)  # a run that has settled shares none of it

    def test_runs_of_unlike_length_are_reckoned_apart(self) -> None:
        found = with_ends([Candidate("A", [short(45.0, 50.0, 2.0, 600)]), Candidate("B", [short(49.0, 50.0, 2.0, 1500)])])
        self.assertAlmostEqual(found[0].values(CPU)[0], 50.0, places=6)
        self.assertAlmostEqual(found[1].values(CPU)[0], 50.0, places=6)

    def test_a_plain_gap_is_told_and_a_narrow_one_is_not(self) -> None:
        for gap, word in ((13.0, "worse"), (0.5, "cannot_tell")):
            pairs = compare([Candidate("A", [short(45.0, 47.0, 1.5)]), Candidate("B", [short(45.0 + gap, 47.0 + gap, 1.5)])])
            self.assertEqual([p.word for p in pairs if p.channel == CPU], [word])
            self.assertIn("judged by the end", " ".join(pairs[0].confounders))

    def test_an_end_that_nobody_knows_is_no_figure(self) -> None:
        lost = short(45.0, 60.0, 60.0)
        self.assertEqual(with_ends([Candidate("A", [lost])])[0].values(CPU), [])

    def test_settled_runs_of_a_layout_are_judged_by_themselves(self) -> None:
        own = with_ends([Candidate("A", [run_of({CPU: 50.0}), short(45.0, 52.0, 2.0)])])[0]
        self.assertEqual(own.values(CPU), [50.0])
        self.assertEqual(own.left_aside(), ["not settled"])
        self.assertTrue(np.isfinite(own.values(CPU)).all())
