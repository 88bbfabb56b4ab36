"""Mean over an averaging window with a standard error that respects autocorrelation."""

from dataclasses import dataclass
from functools import lru_cache
from math import hypot, sqrt

import numpy as np

from engine.errors import MissingFigureError
from engine.runs.budget import BudgetLine
from engine.runs.rounding import Rounding, rounding_of, unseen_k
from engine.runs.series import Floats, RunLog

DEFAULT_WINDOW_S = 300.0  # common practice, no source
PHIS: Floats = 1 - np.geomspace(1.0, 1e-5, 400)  # numerical
MOST_AVERAGED = 200  # numerical: means over more readings hang together no differently
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


def effective_count(values: Floats, averaged: int = 1) -> float:
    """Number of independent values in a stationary series: n (1 - r1)/(1 + r1), AR(1) (source: bartlett).

    r1 is the lag-1 autocorrelation, with its small-sample bias (1 + 4 r1)/n added back (Kendall 1954). ``averaged``: readings that each
    value is the mean of. Means of AR(1) readings are neighbours more than they are AR(1): what binds two of them wears off within one,
    so that the same r1 costs fewer values (ARMA(1,1); textbook).
    """
    n = len(values)
    away = values - values.mean()
    power = float(away @ away)
    if n < 4 or power <= 0:
        return float(n)
    r1 = float(away[1:] @ away[:-1]) / power
    r1 = min(max(r1 + (1 + 4 * r1) / n, 0.0), 0.999)
    return max(n / _as_one(r1, averaged), 1.0)


def _as_one(r1: float, averaged: int) -> float:
    """How many values count as one: 1 + 2 r1 (1 + phi + phi^2 + ...), ``phi`` from one value to the next but one."""
    many = min(averaged, MOST_AVERAGED)
    phi = r1 if many < 2 else float(np.interp(r1, _lag_one(many), PHIS)) ** many
    return 1 + 2 * r1 / (1 - phi)


@lru_cache(maxsize=64)
def _lag_one(averaged: int) -> Floats:
    """Lag-1 autocorrelation of means over so many readings, for AR(1) readings of each of PHIS."""
    m, phi = averaged, PHIS[:, None]
    within, across = np.arange(1, m), np.arange(1, 2 * m)
    of_mean = m + 2 * ((m - within) * phi**within).sum(axis=1)
    return np.asarray(((m - np.abs(across - m)) * phi**across).sum(axis=1) / of_mean)


def window_mean(values: Floats, rounding: Rounding | None = None, swing: Floats | None = None) -> WindowMean:
    """Mean and standard error of readings in a window; NaN are left out. Raises MissingFigureError for fewer than four.

    ``rounding``: the sensor's step and noise as the whole run shows them. ``swing``: columns of a hunting's harmonics at the same
    readings; what they explain is no scatter, since the window holds whole turns.
    """
    finite = np.isfinite(values)
    good = values[finite]
    if len(good) < 4:
        raise MissingFigureError("fewer than four readings in the window", "window", "Choose a longer window.")
    rounding = rounding or rounding_of(values)
    around = good - good.mean()
    if swing is not None:
        around = around - swing[finite] @ np.linalg.lstsq(swing[finite], around, rcond=None)[0]
    count = effective_count(around)
    random = float(around.std(ddof=1)) / sqrt(count)
    unseen = unseen_k(rounding.step, rounding.noise)
    lines = (BudgetLine("scatter within the window", random, "A", max(count - 1, 1.0)), BudgetLine("the sensor's whole steps", unseen))
    sd = float(good.std(ddof=1))
    return WindowMean(float(good.mean()), sd, hypot(random, unseen), float(good.max()), len(good), rounding.step, lines)


def tail(log: RunLog, window_s: float | None = None, turn_s: float | None = None) -> tuple[float, float]:
    """Start and end in s of the averaging window at the end of a run: whole turns of a swing of ``turn_s``, where half the run
    holds one."""
    length = min(DEFAULT_WINDOW_S, log.duration_s * MOST_WINDOW_SHARE) if window_s is None else min(window_s, log.duration_s)
    if turn_s and turn_s <= log.duration_s / 2:
        length = max(int(length / turn_s), 1) * turn_s
    end = float(log.elapsed_s[-1])
    return end - length, end


def inside(log: RunLog, window: tuple[float, float]) -> "np.ndarray[tuple[int], np.dtype[np.bool_]]":
    return (log.elapsed_s >= window[0]) & (log.elapsed_s <= window[1])
