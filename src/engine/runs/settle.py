"""Has a channel settled? A fitted approach with a confidence bound on what is left, and the slope of the tail.

The approach ``y = final - a1 exp(-t/tau1) - a2 exp(-t/tau2)`` is fitted on block means for every slow tau of a grid,
each with its best fast tau (profile likelihood). The bound is the largest remaining rise among the slow taus that the
data do not reject at 95 %, plus its own confidence interval, counted with the effective number of independent
residuals (source: bartlett; Seber and Wild: Nonlinear Regression, ch. 5).
"""

from dataclasses import dataclass

import numpy as np
from scipy import stats

from engine.runs.series import Floats, RunLog
from engine.runs.window import effective_count

MOST_REMAINING_K = 0.5
MOST_SLOPE_K_MIN = 0.05
FIT_FROM_SHARE = 0.05  # the die's own seconds are left out
FAST_TAUS_S = (20.0, 40.0, 70.0, 120.0, 200.0)
SLOW_TAUS_S = tuple(float(tau) for tau in np.geomspace(120.0, 1500.0, 16))  # structure settles within 10 to 30 min
BLOCKS = 150
LEAST_POINTS = 60
LEAST_FREEDOM = 6.0


@dataclass(frozen=True)
class Approach:
    """Fitted end value with its 95 % band, what is left at the end of the log, and the tail's slope."""

    final: float
    final_band: float
    remaining: float
    remaining_bound: float
    slope_k_min: float
    minutes_left: float

    @property
    def settled(self) -> bool:
        return self.remaining_bound <= MOST_REMAINING_K and abs(self.slope_k_min) < MOST_SLOPE_K_MIN


@dataclass(frozen=True)
class _Fit:
    """Least squares for one pair of taus; ``unit`` is the covariance for unit variance."""

    sse: float
    figures: Floats
    unit: Floats
    at_end: Floats
    residual: Floats
    slow_tau_s: float

    @property
    def remaining(self) -> float:
        return float(-(self.at_end @ self.figures))

    def error(self, row: Floats, variance: float) -> float:
        return float(np.sqrt(row @ self.unit @ row * variance))


def approach(elapsed_s: Floats, values: Floats) -> Approach | None:
    """Fit to the readings up to the last; None when there are too few."""
    good = np.isfinite(values)
    t, y = elapsed_s[good], values[good]
    if len(t) < LEAST_POINTS:
        return None
    late = t >= t[0] + FIT_FROM_SHARE * (t[-1] - t[0])
    t, y = _blocks(t[late] - t[late][0], y[late])
    profile = [min((_fit(t, y, fast, slow) for fast in FAST_TAUS_S if fast * 1.5 < slow), key=lambda f: f.sse) for slow in SLOW_TAUS_S]
    best = min(profile, key=lambda f: f.sse)
    independent = max(effective_count(best.residual), LEAST_FREEDOM + 4)
    freedom = independent - 4
    variance = best.sse / freedom  # of one block mean; fewer independent residuals, larger variance
    student = float(stats.t.ppf(0.975, freedom))
    allowed = best.sse * (1 + float(stats.f.ppf(0.95, 1, freedom)) / freedom)
    kept = [f for f in profile if f.sse <= allowed]
    remaining = [(f.remaining, student * f.error(f.at_end, variance)) for f in kept]
    finals = [(float(f.figures[0]), student * float(np.sqrt(f.unit[0, 0] * variance))) for f in kept]
    bound = max(abs(value) + band for value, band in remaining)
    final = float(best.figures[0])
    final_band = max(abs(value - final) + band for value, band in finals)
    left_min = max(f.slow_tau_s for f in kept) / 60 * max(float(np.log(max(bound, 1e-9) / MOST_REMAINING_K)), 0.0)
    return Approach(final, final_band, best.remaining, bound, _slope_k_min(t, y), left_min)


def _blocks(t: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Block means of equal count: flicker within a block averages out before the fit."""
    if len(t) <= 2 * BLOCKS:
        return t, y
    size = len(t) // BLOCKS
    cut = len(t) - len(t) % size
    skip = len(t) - cut  # the oldest odd readings go, never the newest
    return t[skip:].reshape(-1, size).mean(axis=1), y[skip:].reshape(-1, size).mean(axis=1)


def _fit(t: Floats, y: Floats, fast_s: float, slow_s: float) -> _Fit:
    design = np.stack([np.ones_like(t), np.exp(-t / fast_s), np.exp(-t / slow_s)], axis=1)
    unit = np.linalg.inv(design.T @ design + 1e-12 * np.eye(3))
    figures = unit @ (design.T @ y)
    residual = y - design @ figures
    at_end = np.array([0.0, design[-1, 1], design[-1, 2]])
    return _Fit(float(residual @ residual), figures, unit, at_end, residual, slow_s)


def _slope_k_min(t: Floats, y: Floats) -> float:
    """Slope of a straight line through the last third of the fitted part."""
    last = t >= t[-1] - max(t[-1] / 3, 60.0)
    return float(np.polyfit(t[last], y[last], 1)[0]) * 60


def over_room(log: RunLog, channel: str) -> Floats:
    """A channel over the room where the room is known, else as it is."""
    values = log.channels[channel]
    return values if log.room_c is None else values - log.room_c


def settled_at_s(log: RunLog, channel: str, step_s: float = 120.0) -> float | None:
    """Earliest time by which the channel had settled and stayed so; None when it had not by the end."""
    values = over_room(log, channel)
    found: float | None = None
    end = float(log.elapsed_s[-1])
    moment = end
    while moment > log.elapsed_s[0] + 120:
        upto = log.elapsed_s <= moment
        fit = approach(log.elapsed_s[upto], values[upto])
        if fit is None or not fit.settled:
            break
        found = moment
        moment -= step_s
    return found
