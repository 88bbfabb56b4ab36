"""How far a length read off a photograph may be off, against clicks that are thrown at random."""

from math import hypot

import numpy as np
from django.test import SimpleTestCase
from pydantic import ValidationError

from documents.job.photo import CLICK_PX, MOST_MM, PERSPECTIVE, ReadingIn, reading

THROWS = 40_000


def thrown_mm(length_mm: float, apart_mm: float, mm_per_px: float) -> float:
    """Standard deviation of a length between two clicks, its scale set by two others, all of them off by chance."""
    chance = np.random.default_rng(11)
    corners = chance.normal(0, CLICK_PX, (2, THROWS))
    ends = chance.normal(0, CLICK_PX, (2, THROWS))
    scale = apart_mm / (apart_mm / mm_per_px + corners[1] - corners[0])
    return float(np.std((length_mm / mm_per_px + ends[1] - ends[0]) * scale))


class PhotoReadingTest(SimpleTestCase):
    def test_clicks_thrown_at_random_scatter_as_it_says(self) -> None:
        for length, apart, per_px in ((330.0, 430.0, 0.4), (40.0, 430.0, 0.4), (500.0, 250.0, 1.2)):
            with self.subTest(length=length):
                told = reading(ReadingIn(length_mm=length, apart_mm=apart, mm_per_px=per_px))
                wanted = hypot(thrown_mm(length, apart, per_px), PERSPECTIVE * length)
                self.assertGreaterEqual(told.tolerance_mm, 0.98 * wanted)
                self.assertLessEqual(told.tolerance_mm, 1.02 * wanted + 1)  # rounded up to whole millimetres
                self.assertEqual(told.length_mm, length)

    def test_a_length_is_told_to_whole_millimetres_and_its_error_stays_within_the_document_s(self) -> None:
        told = reading(ReadingIn(length_mm=1401.6, apart_mm=300, mm_per_px=2))
        self.assertEqual((told.length_mm, told.tolerance_mm), (1402, MOST_MM))

    def test_two_clicks_on_one_place_are_no_length(self) -> None:
        with self.assertRaises(ValidationError):
            ReadingIn(length_mm=0, apart_mm=430, mm_per_px=0.4)
