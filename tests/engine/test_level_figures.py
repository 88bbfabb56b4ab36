"""A logged level: how it is spread, and what the machine gives without the room; by hand and by laws."""

from math import log10

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import ChannelAnalysis, analyse
from engine.runs.room_level import MOST_DB, NO_CORRECTION_DB, SURVEY_DB, without_room
from engine.runs.series import RunLog
from engine.sound.levels import sum_levels_dba

SOUND = "sound_dba"


def level(values: np.ndarray, background_dba: float | None = None) -> ChannelAnalysis:
    log = RunLog(np.arange(len(values), dtype=float), {SOUND: np.asarray(values, float), "room_c": np.full(len(values), 22.0)})
    found = analyse(log, background_dba=background_dba).channel(SOUND)
    assert found is not None
    return found


class SpreadTest(SimpleTestCase):
    def test_what_is_passed_in_a_tenth_and_in_nine_tenths(self) -> None:
        # Of 1000 even steps from 30 to 40 dBA, mixed: a tenth lies over 39, nine tenths over 31.
        values = np.random.default_rng(1).permutation(np.linspace(30, 40, 1000))
        found = level(values)
        lowest, highest = found.l90_dba, found.l10_dba
        assert lowest is not None and highest is not None
        window = values[int(found.window_s[0]) :]
        self.assertAlmostEqual(highest, float(np.percentile(window, 90)), delta=0.05)
        self.assertAlmostEqual(lowest, float(np.percentile(window, 10)), delta=0.05)
        self.assertTrue(30 <= lowest < found.mean < highest <= 40)

    def test_a_few_readings_tell_no_spread(self) -> None:
        values = np.full(900, np.nan)
        values[[100, 400, 800]] = (33.1, 33.4, 33.2)
        found = level(values)
        self.assertEqual((found.l10_dba, found.l90_dba), (None, None))
        self.assertIn("by_hand", found.flags)

    def test_a_temperature_has_none_of_it(self) -> None:
        log = RunLog(np.arange(600.0), {"cpu_package_c": np.full(600, 60.0), "room_c": np.full(600, 22.0)})
        found = analyse(log, background_dba=28).channel("cpu_package_c")
        assert found is not None
        self.assertEqual((found.l10_dba, found.alone_dba, found.alone_words), (None, None, ""))


class AloneTest(SimpleTestCase):
    def test_a_runs_level_without_the_room(self) -> None:
        found = level(np.full(900, 36.0), background_dba=30.0)
        assert found.alone_dba is not None
        self.assertAlmostEqual(found.alone_dba, 36 + 10 * log10(1 - 10**-0.6), delta=1e-6)  # by hand: 34.74
        self.assertFalse(found.alone_bound)
        self.assertIn("engineering grade", found.alone_words)

    def test_too_near_the_room_it_is_a_bound_and_said_so(self) -> None:
        found = level(np.full(900, 32.0), background_dba=30.5)
        self.assertTrue(found.alone_bound)
        self.assertIn("at most", found.alone_words)
        self.assertAlmostEqual(found.alone_dba or 0, 29.0)

    def test_without_the_rooms_level_nothing_is_said(self) -> None:
        found = level(np.full(900, 32.0))
        self.assertEqual((found.above_background_db, found.alone_dba), (None, None))

    def test_the_correction_is_never_more_than_the_standard_lets_and_falls_with_the_gap(self) -> None:
        gaps = np.linspace(SURVEY_DB, NO_CORRECTION_DB + 5, 60)
        off = [without_room(50.0, 50.0 - g).taken_off_db for g in gaps]
        self.assertEqual(off, sorted(off, reverse=True))
        self.assertLess(max(off), MOST_DB + 0.03)
        self.assertEqual(off[-1], 0.0)

    def test_a_bound_is_one_whatever_the_machine_gives(self) -> None:
        """A machine and a room add up; what is told of the machine is never less than it gives."""
        rng = np.random.default_rng(3)
        for _ in range(300):
            machine, room = rng.uniform(15, 45), rng.uniform(20, 40)
            told = without_room(sum_levels_dba([machine, room]), room)
            if told.bound:
                self.assertGreaterEqual(told.level_dba, machine - 1e-9)
            else:
                self.assertAlmostEqual(told.level_dba, machine, delta=0.15)
