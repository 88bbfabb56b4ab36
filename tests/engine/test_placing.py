"""Where readings stand on a bench's clock when the sender's clock jumps; properties over random clocks."""

import random

from django.test import SimpleTestCase

from engine.runs.placing import LATE_S, REACH_S, place


class PlacingTest(SimpleTestCase):
    def test_a_clock_that_goes_on_keeps_its_offset(self) -> None:
        placed = place([10, 11, 12], 100.0, 109.0, 109.5, 1.0)
        self.assertEqual((placed.times_s, placed.offset_s, placed.jumps_s), ([110, 111, 112], 100.0, []))

    def test_one_reading_years_ahead_is_placed_now(self) -> None:
        placed = place([5e8], 0.0, 100.0, 101.0, 1.0)
        self.assertEqual(placed.times_s, [101.0])
        self.assertAlmostEqual(placed.jumps_s[0], 5e8 - 101.0)
        back = place([102.0], placed.offset_s, 101.0, 102.0, 1.0)
        self.assertEqual(back.times_s, [102.0], "and when the clock is right again, it is placed now as well")
        self.assertLess(back.jumps_s[0], -4e8)

    def test_a_clock_set_back_goes_on_from_now(self) -> None:
        placed = place([0.0, 1.0, 2.0], 50.0, 3600.0, 3601.0, 1.0)
        self.assertEqual(placed.times_s, [3601.0, 3602.0, 3603.0])
        self.assertEqual(len(placed.jumps_s), 1)

    def test_a_jump_within_a_post_is_taken_out(self) -> None:
        placed = place([0.0, 1.0, 2.0, 5e8, 5e8 + 1], 10.0, 9.0, 10.0, 1.0)
        self.assertEqual(placed.times_s, [10.0, 11.0, 12.0, 13.0, 14.0])

    def test_a_gap_is_a_gap(self) -> None:
        """A machine that slept, a sender that was away for as long as the wall's clock says, a file with a break in it."""
        self.assertEqual(place([2000.0], 0.0, 100.0, 110.0, 1.0).jumps_s, [])
        self.assertEqual(place([90_000.0], 0.0, 100.0, 110.0, 90_000.0).jumps_s, [])
        self.assertEqual(len(place([90_000.0], 0.0, 100.0, 110.0, 10.0).jumps_s), 1)

    def test_a_little_late_is_late(self) -> None:
        self.assertEqual(place([95.0], 0.0, 100.0, 101.0, 1.0).times_s, [95.0])

    def test_whatever_the_clock_does_readings_stay_near_now_and_in_order(self) -> None:
        rng = random.Random(5)
        for _ in range(300):
            offset, last, now = 0.0, None, 0.0
            for _ in range(60):
                step = rng.choice((1.0, 1.0, 1.0, 5.0))
                now += step
                begun = rng.choice((now, now, now, now + 5e8, 0.0, rng.uniform(-1e9, 1e9)))
                rows = [begun + i * 0.2 for i in range(5)]
                placed = place(rows, offset, last, now, step)
                if last is not None:
                    self.assertGreaterEqual(min(placed.times_s), last - LATE_S)
                    self.assertLessEqual(max(placed.times_s), max(last, now) + REACH_S + step + 2)
                self.assertTrue(all(b > a for a, b in zip(placed.times_s, placed.times_s[1:], strict=False)))
                last = max(placed.times_s) if last is None else max(last, *placed.times_s)
                offset = placed.offset_s
