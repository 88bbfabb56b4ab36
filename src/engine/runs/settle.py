"""Has a channel settled? A fitted approach with a confidence bound on what is left, and the trend of the tail.

The approach ``y = final - a1 exp(-t/tau1) - a2 exp(-t/tau2)`` is fitted on block means for every slow tau of a grid,
each with its best fast tau (profile likelihood). The bound is the largest remaining rise among the slow taus that the
data do not reject at 95 %, plus its own confidence interval, counted with the effective number of independent
residuals (source: bartlett; Seber and Wild: Nonlinear Regression, ch. 5). A channel has settled only when that bound and
the slope of the last third agree, and the rank test for a trend there (engine.runs.trend) does not contradict.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import special

from engine.runs.series import Floats, RunLog
from engine.runs.trend import Trend, trend
from engine.runs.window import effective_count

MOST_REMAINING_K = 0.5
MOST_SLOPE_K_MIN = 0.05
FIT_FROM_SHARE = 0.05  # the die's own seconds are left out
FAST_TAUS_S = (20.0, 30.0, 45.0, 70.0, 110.0, 180.0)
SLOW_TAUS_S = tuple(float(tau) for tau in np.geomspace(120.0, 1500.0, 44))  # structure settles within 10 to 30 min
BLOCKS = 150
LEAST_POINTS = 60
LEAST_FREEDOM = 6.0


@dataclass(frozen=True)
class Approach:
    """Fitted end value with its 95 % band, what is left at the end of the log, and the tail's trend."""

    final: float
    final_band: float
    remaining: float
    remaining_bound: float
    slope_k_min: float
    trend: Trend
    minutes_left: float

    @property
    def settled(self) -> bool:
        near = self.remaining_bound <= MOST_REMAINING_K and abs(self.slope_k_min) < MOST_SLOPE_K_MIN
        return near and not self.trend.moves(MOST_SLOPE_K_MIN)


@dataclass(frozen=True)
class _Fits:
    """Least squares for every pair of taus at once; ``unit`` is the covariance for unit variance, one row per slow tau."""

    sse: Floats
    figures: Floats
    unit: Floats
    at_end: Floats
    residual: Floats

    def remaining(self, i: int) -> float:
        return float(-(self.at_end[i] @ self.figures[i]))

    def remaining_error(self, i: int, variance: float) -> float:
        return float(np.sqrt(self.at_end[i] @ self.unit[i] @ self.at_end[i] * variance))


def approach(elapsed_s: Floats, values: Floats) -> Approach | None:
    """Fit to the readings up to the last; None when there are too few."""
    good = np.isfinite(values)
    t, y = elapsed_s[good], values[good]
    if len(t) < LEAST_POINTS:
        return None
    late = t >= t[0] + FIT_FROM_SHARE * (t[-1] - t[0])
    t, y = _blocks(t[late] - t[late][0], y[late])
    fits = _profile(t, y)
    best = int(np.argmin(fits.sse))
    freedom = max(effective_count(fits.residual[best]) - 4, LEAST_FREEDOM)
    variance = float(fits.sse[best]) / freedom  # of one block mean; fewer independent residuals, larger variance
    student = float(special.stdtrit(freedom, 0.975))
    allowed = fits.sse[best] * (1 + float(special.fdtri(1, freedom, 0.95)) / freedom)
    # The neighbours of the best tau always count: the grid is fine, but not infinitely fine.
    kept = [i for i, sse in enumerate(fits.sse) if sse <= allowed or abs(i - best) <= 1]
    bound = max(abs(fits.remaining(i)) + student * fits.remaining_error(i, variance) for i in kept)
    final = float(fits.figures[best, 0])
    final_band = max(abs(float(fits.figures[i, 0]) - final) + student * float(np.sqrt(fits.unit[i, 0, 0] * variance)) for i in kept)
    last = t >= t[-1] - max(t[-1] / 3, 60.0)
    slope = float(np.polyfit(t[last], y[last], 1)[0]) * 60
    left_min = SLOW_TAUS_S[max(kept)] / 60 * max(float(np.log(max(bound, 1e-9) / MOST_REMAINING_K)), 0.0)
    return Approach(final, final_band, fits.remaining(best), bound, slope, trend(t[last], y[last]), left_min)


@dataclass(frozen=True)
class _Shapes:
    """All pairs of taus at one set of times: curves, their covariance for unit variance, and what solves for their sizes."""

    design: Floats
    unit: Floats
    solver: Floats
    alike: NDArray[np.bool_]  # two stages that can hardly be told apart


@lru_cache(maxsize=4)
def _shapes(times: bytes) -> _Shapes:
    """The same for every channel read at the same times, which is most of the work."""
    t = np.frombuffer(times)
    pairs = [(fast, slow) for slow in SLOW_TAUS_S for fast in FAST_TAUS_S]
    fast, slow = (np.array(column)[:, None] for column in zip(*pairs, strict=True))
    design = np.stack([np.ones((len(pairs), len(t))), np.exp(-t / fast), np.exp(-t / slow)], axis=2)
    unit = np.linalg.inv(np.swapaxes(design, 1, 2) @ design + 1e-12 * np.eye(3))
    return _Shapes(design, unit, unit @ np.swapaxes(design, 1, 2), (1.5 * fast >= slow)[:, 0])


def _profile(t: Floats, y: Floats) -> _Fits:
    """For every slow tau the best fit over the fast ones; all pairs are solved as one batch of 3 by 3 systems."""
    shape = _shapes(t.tobytes())
    figures = shape.solver @ y
    residual = y - (shape.design @ figures[:, :, None])[:, :, 0]
    sse = np.einsum("pn,pn->p", residual, residual)
    sse[shape.alike] = np.inf
    design, unit = shape.design, shape.unit
    width = len(FAST_TAUS_S)
    pick = np.argmin(sse.reshape(-1, width), axis=1) + width * np.arange(len(SLOW_TAUS_S))
    at_end = design[:, -1, :] * np.array([0.0, 1.0, 1.0])
    return _Fits(sse[pick], figures[pick], unit[pick], at_end[pick], residual[pick])


def _blocks(t: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Block means of equal count: flicker within a block averages out before the fit."""
    if len(t) <= 2 * BLOCKS:
        return t, y
    size = len(t) // BLOCKS
    cut = len(t) - len(t) % size
    skip = len(t) - cut  # the oldest odd readings go, never the newest
    return t[skip:].reshape(-1, size).mean(axis=1), y[skip:].reshape(-1, size).mean(axis=1)


def over_room(log: RunLog, channel: str) -> Floats:
    """A channel over the room where the room is known, else as it is."""
    values = log.channels[channel]
    return values if log.room_c is None else values - log.room_c


def settled_at_s(log: RunLog, channel: str, step_s: float = 60.0) -> float | None:
    """Earliest time, to ``step_s``, by which the channel had settled; None when it had not by the end.

    Bisection: a channel that approaches one value, once settled, stays settled.
    """
    values = over_room(log, channel)

    def settled(moment: float) -> bool:
        upto = log.elapsed_s <= moment
        fit = approach(log.elapsed_s[upto], values[upto])
        return fit is not None and fit.settled

    low, high = float(log.elapsed_s[0]), float(log.elapsed_s[-1])
    if not settled(high):
        return None
    while high - low > step_s:
        middle = (low + high) / 2
        low, high = (low, middle) if settled(middle) else (middle, high)
    return high
