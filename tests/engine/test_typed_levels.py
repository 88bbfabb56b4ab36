"""Levels typed once each share their meter: what is left between them is small, and honest all the same."""

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import analyse
from engine.runs.series import RunLog
from engine.verdict.candidate import Candidate
from engine.verdict.compare import Pair, compare, layout_budget, pair_budget
from engine.verdict.confounders import confounders
from engine.verdict.scatter import pooled_scatter

SOUND = "sound_dba"


def typed(name: str, *levels: float, **conditions: str) -> Candidate:
    runs = [analyse(RunLog(np.array([0.0, 600.0]), {SOUND: np.array([np.nan, level])})) for level in levels]
    return Candidate(name, runs, [conditions for _ in runs] if conditions else [])


def pairs(*candidates: Candidate) -> dict[tuple[str, str], Pair]:
    return {(p.a, p.b): p for p in compare(list(candidates)) if p.channel == SOUND}


class TypedLevelsTest(SimpleTestCase):
    def test_44_and_41_typed_once_each_are_a_difference(self) -> None:
        (found,) = pairs(typed("A", 44.0), typed("B", 41.0)).values()
        self.assertEqual(found.word, "better")
        assert found.expanded_uncertainty_k is not None
        self.assertLess(found.expanded_uncertainty_k, 2.5)

    def test_so_they_are_among_four_layouts(self) -> None:
        found = pairs(typed("A", 44.0), typed("B", 41.0), typed("C", 43.0), typed("D", 38.0))
        self.assertEqual((found["A", "B"].word, found["A", "D"].word, found["A", "C"].word), ("better", "better", "cannot_tell"))

    def test_a_layouts_own_level_keeps_the_meters_error(self) -> None:
        both = [typed("A", 44.0), typed("B", 41.0)]
        own, apart = layout_budget(both, both[0], SOUND), pair_budget(both, both[0], both[1], SOUND)
        assert own is not None and apart is not None
        self.assertIn("the sensor's own error", [x.what for x in own.lines])
        self.assertNotIn("the sensor's own error", [x.what for x in apart.lines])

    def test_a_tenth_is_read_finer_than_a_whole(self) -> None:
        whole, tenth = ([typed("A", a), typed("B", b)] for a, b in ((44.0, 41.0), (44.1, 41.2)))
        one, two = (pair_budget(x, x[0], x[1], SOUND) for x in (whole, tenth))
        assert one is not None and two is not None
        self.assertGreater(one.standard, two.standard)

    def test_a_microphone_that_was_moved_leaves_nothing_to_say_of_levels(self) -> None:
        near, far = (typed(n, v, **{"microphone's distance": d}) for n, v, d in (("A", 44.0, "0.5 m"), ("B", 41.0, "1 m")))
        self.assertEqual(pairs(near, far)["A", "B"].word, "cannot_tell")
        self.assertIn("microphone", confounders(near, far, SOUND)[-1].words)
        self.assertFalse([c for c in confounders(near, far, "cpu_package_c") if "microphone" in c.words])

    def test_a_reading_that_agrees_makes_it_no_less_sure(self) -> None:
        before = None
        for n in range(1, 6):
            (found,) = pairs(typed("A", *([44.0, 44.1] * 3)[:n]), typed("B", *([41.0, 41.1] * 3)[:n])).values()
            self.assertEqual(found.word, "better")
            assert found.expanded_uncertainty_k is not None
            if before is not None:
                self.assertLess(found.expanded_uncertainty_k, before + 1e-9)
            before = found.expanded_uncertainty_k

    def test_repeats_of_a_careful_person_count_alone(self) -> None:
        """Three degrees of repeats and the prior is gone, as for temperatures."""
        found = pooled_scatter([typed(n, v, v + 0.1) for n, v in (("A", 44.0), ("B", 41.0), ("C", 39.0))], SOUND)
        self.assertEqual((found.repeats, found.freedom), (3, 3))

    def wrong(self, between_db: float, layouts: int, campaigns: int) -> float:
        """Share of campaigns of like layouts in which a difference is claimed."""
        rng, lost = np.random.default_rng(11), 0
        for _ in range(campaigns):
            true = 38 + rng.normal(0, between_db, layouts) + rng.uniform(-0.6, 0.6, layouts)
            found = pairs(*(typed(chr(65 + i), float(np.round(v))) for i, v in enumerate(true)))
            lost += any(p.word in ("better", "worse") for p in found.values())
        return lost / campaigns

    def test_no_difference_is_seldom_claimed(self) -> None:
        self.assertLess(self.wrong(0.5, 2, 120), 0.08)

    def test_nor_among_four_at_builds_of_half_a_decibel_and_more(self) -> None:
        self.assertLess(self.wrong(0.5, 4, 600), 0.08)
        self.assertLess(self.wrong(0.7, 4, 600), 0.2)
