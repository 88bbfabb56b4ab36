"""A measured level over its run: changes that are heard, time above a limit, and what a meter flutters by that is none."""

import numpy as np
from django.test import SimpleTestCase

from desk.runs.heard import MEAN_S, heard_over_time
from engine.runs.series import RunLog


def log(level: np.ndarray, every_s: float = 1.0) -> RunLog:
    return RunLog(np.arange(len(level), dtype=np.float64) * every_s, {"sound_dba": np.asarray(level, dtype=np.float64)})


def fluttering(rng: np.random.Generator, *parts: tuple[float, int]) -> np.ndarray:
    """A meter's readings of stretches (dBA, s): they move by a decibel and show tenths."""
    return np.round(np.concatenate([v + rng.normal(0, 0.9, n) for v, n in parts]), 1)


class HeardTest(SimpleTestCase):
    def test_two_steps_are_two_changes_with_their_size(self) -> None:
        found = heard_over_time(log(fluttering(np.random.default_rng(1), (30, 600), (35, 300), (31, 600))), 33.0)
        assert found is not None
        self.assertEqual(found.changes, 2)
        self.assertAlmostEqual(found.largest_db, 5.0, delta=0.8)
        self.assertAlmostEqual(found.over_s, 300, delta=2 * MEAN_S)

    def test_what_a_meter_flutters_by_is_no_change(self) -> None:
        for seed in range(60):
            found = heard_over_time(log(fluttering(np.random.default_rng(seed), (33, 1800))), 40.0)
            assert found is not None
            self.assertEqual((found.changes, found.over_s), (0, 0))

    def test_the_mean_is_by_energy(self) -> None:
        found = heard_over_time(log(np.repeat([30.0, 40.0], 300)), None)
        assert found is not None
        self.assertAlmostEqual(found.mean_dba, 10 * np.log10((10**3 + 10**4) / 2), delta=0.01)
        self.assertEqual(found.over_s, 0)  # no limit is known

    def test_gaps_are_passed_over_and_too_little_tells_nothing(self) -> None:
        level = fluttering(np.random.default_rng(2), (30, 900))
        level[100:500] = np.nan
        found = heard_over_time(log(level), 25.0)
        assert found is not None
        self.assertAlmostEqual(found.over_s, 500, delta=2 * MEAN_S)
        self.assertIsNone(heard_over_time(log(level[:60]), 25.0))
        self.assertIsNone(heard_over_time(RunLog(np.arange(900.0), {"cpu_package_c": np.full(900, 50.0)}), 25.0))
        self.assertIsNone(heard_over_time(log(np.full(900, np.nan)), 25.0))

    def test_a_slow_reader_is_heard_as_well(self) -> None:
        """A meter that is read every half minute by a person's logger."""
        level = np.concatenate([np.full(30, 30.0), np.full(30, 36.0)])
        found = heard_over_time(log(level, 30.0), 33.0)
        assert found is not None
        self.assertEqual((found.changes, round(found.largest_db, 6)), (1, 6.0))
        self.assertAlmostEqual(found.over_s, 900)
