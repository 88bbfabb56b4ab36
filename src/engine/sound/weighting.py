"""Frequency weightings and one-third-octave bands as the standards define them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

# Poles of the weighting in Hz, by the design goals of the standard's annex E (source: iec_61672).
_F1, _F2, _F3, _F4 = 20.598997, 107.65265, 737.86223, 12194.217
_A_1000_DB = -2.000  # what the bare formula gives at 1 kHz
OCTAVE = 10**0.3  # base ten (source: iec_61260)
LOWEST_BAND, HIGHEST_BAND = -17, 13  # 20 Hz to 20 kHz, counted from 1 kHz
# Rounded names of the bands from 20 Hz on (source: iec_61260, annex on nominal frequencies).
NOMINAL_HZ = (
    *(20, 25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630),
    *(800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000, 10000, 12500, 16000, 20000),
)


def a_weight_db(frequency_hz: Floats | Sequence[float]) -> Floats:
    """A-weighting in dB, nought at 1 kHz (source: iec_61672)."""
    f2 = np.asarray(frequency_hz, float) ** 2
    with np.errstate(divide="ignore"):
        gain = _F4**2 * f2**2 / ((f2 + _F1**2) * np.sqrt((f2 + _F2**2) * (f2 + _F3**2)) * (f2 + _F4**2))
        return np.asarray(20 * np.log10(gain) - _A_1000_DB)


def band_centres_hz() -> Floats:
    """Exact mid-band frequencies of the one-third octaves from 20 Hz to 20 kHz (source: iec_61260)."""
    return np.asarray(1000.0 * OCTAVE ** (np.arange(LOWEST_BAND, HIGHEST_BAND + 1) / 3))


def band_edges_hz(centres_hz: Floats, per_octave: int = 3) -> tuple[Floats, Floats]:
    """Lower and upper edges of bands of an octave's fraction (source: iec_61260)."""
    half = OCTAVE ** (1 / (2 * per_octave))
    return centres_hz / half, centres_hz * half
