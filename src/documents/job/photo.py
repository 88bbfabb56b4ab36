"""How far a length read off a photograph of the case may be off."""

from math import ceil, hypot, sqrt
from typing import Annotated

from pydantic import BaseModel, Field

from documents.job.base import Length

CLICK_PX = 3.0  # common practice, no source: of the photograph, how well a corner is met
PERSPECTIVE = 0.04  # common practice, no source: what lies a hand nearer to a camera two metres off looks larger by this
MOST_MM = 50.0  # the document takes no larger tolerance


class ReadingIn(BaseModel):
    """Two clicks: their distance as the laid photograph has it, between what its scale was set, and what a pixel of it is worth."""

    length_mm: Length
    apart_mm: Length
    mm_per_px: Annotated[float, Field(gt=0, le=100)]


class ReadingOut(BaseModel):
    """The length to whole millimetres, and how far it may be off, rounded up."""

    length_mm: float
    tolerance_mm: float


def reading(r: ReadingIn) -> ReadingOut:
    """Errors of the two ends, of the two corners that set the scale, and of depth before the camera, as one sum of squares."""
    click_mm = CLICK_PX * sqrt(2) * r.mm_per_px
    off_mm = hypot(click_mm, r.length_mm * click_mm / r.apart_mm, PERSPECTIVE * r.length_mm)
    return ReadingOut(length_mm=float(round(r.length_mm)), tolerance_mm=min(float(ceil(off_mm)), MOST_MM))
