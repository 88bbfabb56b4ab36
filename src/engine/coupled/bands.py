"""95 % half-widths of forecast figures, model error included (docs/model.md, bands)."""

from math import hypot

from engine import constants as k


def absolute_band_k(rise_k: float) -> float:
    """Band of an uncalibrated temperature: mostly the parts' own resistances, growing with the rise."""
    return k.COVERAGE_FACTOR * hypot(k.BAND_MODEL_K, k.BAND_ABSOLUTE_SHARE * rise_k)


def difference_band_k(difference_k: float) -> float:
    """Band of a difference between two layouts of one case: shared errors cancel."""
    return k.COVERAGE_FACTOR * hypot(k.BAND_MODEL_K, k.BAND_DIFFERENCE_SHARE * difference_k)


def sound_band_db() -> float:
    return k.COVERAGE_FACTOR * k.BAND_SOUND_DB
