"""Mean over an averaging window with a standard error that respects autocorrelation."""

from dataclasses import dataclass
from math import hypot, sqrt

import numpy as np

from engine.errors import MissingFigureError
from engine.runs.budget import BudgetLine
from engine.runs.series import Floats, RunLog, resolution

DEFAULT_WINDOW_S = 300.0
MOST_WINDOW_SHARE = 1 / 5  # of the run; a short run gets a short tail


@dataclass(frozen=True)
class WindowMean:
    """Statistics of one channel over a window; ``standard_error`` includes the sensor's step size."""

    mean: float
    sd: float
    standard_error: float
    maximum: float
    count: int
    step: float
    lines: tuple[BudgetLine, ...] = ()


def effective_count(values: Floats) -> float:
    """Number of independent values in a stationary series: n (1 - r1)/(1 + r1), AR(1) (source: bartlett).

    r1 is the lag-1 autocorrelation, with its small-sample bias (1 + 4 r1)/n added back (Kendall 1954).
    """
    n = len(values)
    away = values - values.mean()
    power = float(away @ away)
    if n < 4 or power <= 0:
        return float(n)
    r1 = float(away[1:] @ away[:-1]) / power
    r1 = min(max(r1 + (1 + 4 * r1) / n, 0.0), 0.999)
    return max(n * (1 - r1) / (1 + r1), 1.0)


def window_mean(values: Floats) -> WindowMean:
    """Mean and standard error of readings in a window; NaN are left out. Raises MissingFigureError for fewer than four."""
    good = values[np.isfinite(values)]
    if len(good) < 4:
        raise MissingFigureError("fewer than four readings in the window", "window", "Choose a longer window.")
    sd = float(good.std(ddof=1))
    step = resolution(values)
    count = effective_count(good)
    random = sd / sqrt(count)
    # A reading that never leaves its step carries the whole rectangular uncertainty; flicker averages part of it away.
    unseen = step / sqrt(12) if sd < step / 2 else step / sqrt(12) / 2
    lines = (BudgetLine("scatter within the window", random, "A", max(count - 1, 1.0)), BudgetLine("the sensor's whole steps", unseen))
    return WindowMean(float(good.mean()), sd, hypot(random, unseen), float(good.max()), len(good), step, lines)


def tail(log: RunLog, window_s: float | None = None) -> tuple[float, float]:
    """Start and end in s of the averaging window at the end of a run."""
    length = min(DEFAULT_WINDOW_S, log.duration_s * MOST_WINDOW_SHARE) if window_s is None else min(window_s, log.duration_s)
    end = float(log.elapsed_s[-1])
    return end - length, end


def inside(log: RunLog, window: tuple[float, float]) -> "np.ndarray[tuple[int], np.dtype[np.bool_]]":
    return (log.elapsed_s >= window[0]) & (log.elapsed_s <= window[1])
