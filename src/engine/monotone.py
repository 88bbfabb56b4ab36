"""Monotone interpolation through points (source: fritsch_carlson): no overshoot between them, one slope at each.

What the library has (tests hold the two together), without the half second that the library takes to load: a forecast asks it of every
measured fan.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating[Any]]


@dataclass(frozen=True)
class Monotone:
    """A cubic through ``x`` (rising) and ``y``, monotone wherever the points are; ``slopes`` at the points."""

    x: Floats
    y: Floats
    slopes: Floats

    @classmethod
    def through(cls, x: Floats, y: Floats) -> "Monotone":
        """Harmonic means of neighbouring slopes, nought where they change sign; three-point slopes at the ends, held to their side."""
        h, d = np.diff(x), np.diff(y) / np.diff(x)
        if len(x) == 2:
            return cls(x, y, np.repeat(d, 2))
        slopes = np.zeros(len(x))
        for i in range(1, len(x) - 1):
            if d[i - 1] * d[i] > 0:
                near, far = 2 * h[i] + h[i - 1], h[i] + 2 * h[i - 1]
                slopes[i] = (near + far) / (near / d[i - 1] + far / d[i])
        slopes[0], slopes[-1] = _end(h[0], h[1], d[0], d[1]), _end(h[-1], h[-2], d[-1], d[-2])
        return cls(x, y, slopes)

    def at(self, x: Floats) -> Floats:
        """Values at ``x``, which lies within the points."""
        i = np.clip(np.searchsorted(self.x, x, "right") - 1, 0, len(self.x) - 2)
        h = self.x[i + 1] - self.x[i]
        s = (x - self.x[i]) / h
        from_left = self.y[i] * (1 + 2 * s) * (1 - s) ** 2 + h * self.slopes[i] * s * (1 - s) ** 2
        from_right = self.y[i + 1] * s**2 * (3 - 2 * s) - h * self.slopes[i + 1] * s**2 * (1 - s)
        return np.asarray(from_left + from_right, float)


def _end(h0: float, h1: float, d0: float, d1: float) -> float:
    """Slope at an end whose interval is ``h0`` wide and ``d0`` steep."""
    slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if slope * d0 <= 0:
        return 0.0
    return 3 * d0 if d0 * d1 <= 0 and abs(slope) > 3 * abs(d0) else float(slope)
