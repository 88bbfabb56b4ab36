"""What a sensor's whole steps leave unknown of a mean, from how much its readings are dithered by noise (source: widrow).

Of a steady value read in steps q under normal noise s the mean is off by at most about (q/pi) exp(-2 pi^2 s^2/q^2): a reading that
stands still keeps the whole step (q/sqrt 12 as one sigma), one with half a step of noise almost nothing.
"""

from dataclasses import dataclass
from math import exp, pi, sqrt

import numpy as np

from engine.runs.series import Floats, resolution

COARSE, STAIRS = 0.5, 0.3  # a step of half a kelvin stands out in the readings where noise is less than this share of it (common practice)
NEAR = 9  # readings about one, for what is noise and not course


@dataclass(frozen=True)
class Rounding:
    """A sensor's step and the noise that dithers it (one sigma), in the unit of its readings."""

    step: float
    noise: float

    @property
    def stairs(self) -> bool:
        """Whether the readings go up and down in steps that no noise hides."""
        return self.step >= COARSE and self.noise < STAIRS * self.step


def rounding_of(values: Floats) -> Rounding:
    return Rounding(resolution(values), noise_of(values))


def noise_of(values: Floats) -> float:
    """One sigma of the noise before rounding, from how readings leave the mean of their neighbours anywhere in a run.

    Rounding adds q^2/12 on the average over a run that passes through many steps (Sheppard), which is taken off.
    """
    good = values[np.isfinite(values)]
    if len(good) < 2 * NEAR:
        return 0.0
    near = np.lib.stride_tricks.sliding_window_view(good, NEAR)
    away = near[:, NEAR // 2] - near.mean(axis=1)
    away = away[np.abs(away - np.median(away)) <= 6 * max(float(np.std(away)), 1e-12)]
    spread = float(np.mean(away**2)) * NEAR / (NEAR - 1)
    return sqrt(max(spread - resolution(good) ** 2 / 12, 0.0))


def unseen_k(step: float, noise: float) -> float:
    """One sigma of a mean's error by rounding, in the unit of ``step``."""
    if step <= 0:
        return 0.0
    return step / sqrt(12) * exp(-2 * (pi * noise / step) ** 2)
