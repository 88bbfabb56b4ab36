"""How a channel approaches its end: up to three stages, weighed by the evidence for them.

``y = end + sum b_j exp(-t / tau_j)`` is solved for every choice of none to three time constants of a grid. How much each choice counts
is its marginal likelihood (source: raftery), on the effective number of independent residuals (source: bartlett), so that a stage is
there only as far as the readings ask for it, and one that they cannot exclude widens the band. End, what is left and its course are
mixtures over all choices (source: gum_mc in spirit: the whole distribution, not one best fit).
"""

from bisect import bisect_left
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations, pairwise

import numpy as np
from numpy.typing import NDArray

from engine.runs.ahead import MOST_EXPONENT, Ahead, spread_until
from engine.runs.series import Floats
from engine.runs.wait import Wait
from engine.runs.window import effective_count

TAUS_S: Floats = np.geomspace(15.0, 2000.0, 32)  # a heatsink's seconds to a structure's tens of minutes
APART = 1.6  # stages nearer than this in their time constants are one
MOST_STAGES = 3  # die and fins, board or coolant, case: no more is told apart in an hour
COUNTS = (1.0, 1.0, 2.0, 4.0)  # what no, one, two and three stages count beforehand: most machines have a slow one, however small
LEAST_FREEDOM = 6.0  # numerical: keeps tails finite
LEAST_WHOLE_TURNS, LEAST_SPARE = 7, 2.0  # numerical: fewer tell no noise from one turn to the next
LEAST_SCALE_K = 1.0  # of a stage's size beforehand: the range of the readings, or this
SLOW_S, SLOW_SHARE = (
    (700.0, 1200.0, 2000.0),
    (0.6, 0.35, 0.15),
)  # how large a stage may be beforehand: what takes twenty minutes is a small share
AGAINST = 0.1  # stages that go against each other are seldom: what such a choice counts
MOST_PARTS = 32  # numerical
CLEAR_K, SELDOM = 5.0, 0.05  # what has clearly warmed is seldom over its end: how much that counts against the other way
OF_WAIT = (0.05, 0.3, 0.85)  # of the chance: the range of the wait, and in it the one that is right most often (study)
FORGOTTEN = 1e-3  # a choice with less weight than this share of the best one's is left out


@dataclass(frozen=True, eq=False)
class Stages:
    """A mixture over choices of time constants; one row each. ``sizes`` are what each stage has left at the last reading, ``at_first``
    what it had at t = 0; ``way`` is 1 where the channel warms, -1 where it cools, and what lies beyond the end counts ``seldom``."""

    weights: Floats
    end: Floats
    end_error: Floats
    left: Floats
    left_error: Floats
    sizes: Floats
    at_first: Floats
    taus_s: Floats
    freedom: float
    residual: Floats  # times the root of the readings' precision, where they have one
    course: Floats  # the readings without their swing, but for a constant
    way: float
    seldom: float
    scale: float  # how large a stage may be: the range of the readings
    variance: float  # of one reading, as far as readings count as independent
    evidence: float  # log marginal likelihood of all choices, but for what all choices of these readings share

    @property
    def end_mean(self) -> float:
        return float(self.weights @ self.end)

    @property
    def left_mean(self) -> float:
        return float(self.weights @ self.left)

    def fitted(self, after_s: Floats) -> Floats:
        """The mean course of all choices, at times after the last reading (negative before it)."""
        taus, which = np.unique(self.taus_s, return_inverse=True)
        sizes = np.bincount(which.ravel(), (self.weights[:, None] * self.sizes).ravel())
        left = np.exp(np.minimum(-after_s[:, None] / taus, MOST_EXPONENT)) @ sizes
        return np.asarray(self.end_mean - left, float)

    def end_band(self, further: float = 0.0, confidence: float = 0.95) -> float:
        """Half-width about the mean that holds ``confidence``; ``further``: one sigma of what no choice knows of."""
        return self._within(self.end - self.end_mean, np.hypot(self.end_error, further), confidence)

    def left_bound(self, further: float = 0.0, confidence: float = 0.95) -> float:
        """What the magnitude of what is left stays below at ``confidence``."""
        return self._within(self.way * self.left, np.hypot(self.left_error, further), confidence, one_sided=True)

    def until(self, left_k: float, further: float = 0.0) -> Wait:
        """When no more than ``left_k`` will be left; ``further``: one sigma of what is left now that no choice knows of."""
        return spread_until([self.ahead], left_k, further, OF_WAIT)

    @property
    def ahead(self) -> Ahead:
        """What is left and how it goes on, for every choice."""
        weights = self.weights * np.where(self.way * self.left >= 0, 1.0, self.seldom)
        return Ahead(weights, self.sizes, self.taus_s, self.left_error)

    def _within(self, centre: Floats, error: Floats, confidence: float, one_sided: bool = False) -> float:
        weights, centre, error = _merged(self.weights, centre, error)
        seldom = self.seldom if one_sided else 1.0

        from scipy import special  # here, as everywhere: a quarter of a second that a start need not wait for

        def below(x: float) -> float:
            return float(weights @ special.stdtr(self.freedom, (x - centre) / error))

        nought = below(0.0)

        def inside(x: float) -> float:
            return below(x) - nought + seldom * (nought - below(-x))

        wanted = confidence * ((1 - nought) + seldom * nought)
        low, high = 0.0, float(np.max(np.abs(centre)) + 20 * np.max(error))
        for _ in range(3):
            at = np.linspace(low, high, 17)
            i = bisect_left(range(len(at)), wanted, lo=1, key=lambda k: inside(float(at[k])))
            low, high = float(at[i - 1]), float(at[min(i, len(at) - 1)])
        return high


@dataclass(frozen=True, eq=False)
class Read:
    """Block means ``y`` at ``t`` (s) that stages are fitted to. ``turns``: columns of a swing that is no approach, to be left out;
    ``precision``: one over the variance of each of ``y`` where they differ, but for a factor that all share; ``within``: bounds of the
    last value, where more is known of it than ``y`` tells."""

    t: Floats
    y: Floats
    turns: Floats | None = None
    precision: Floats | None = None
    within: tuple[float, float] | None = None

    def without_level(self, shapes: Floats) -> "WithoutLevel":
        """The readings and ``shapes`` at their times, weighed, without what a level and the swing explain of them."""
        base = np.ones((len(self.t), 1)) if self.turns is None else np.column_stack([np.ones(len(self.t)), self.turns])
        root = np.ones(len(self.t)) if self.precision is None else np.sqrt(self.precision)
        base, shapes, y = root[:, None] * base, root[:, None] * shapes, root * self.y
        gram = np.linalg.pinv(base.T @ base)
        onto, level = gram @ (base.T @ shapes), gram @ (base.T @ y)
        return WithoutLevel(shapes - base @ onto, y - base @ level, onto, level, float(gram[0, 0]), root)


@dataclass(frozen=True, eq=False)
class WithoutLevel:
    """What is left of ``shapes`` and ``y``; what of every shape goes ``onto`` the level and each column of the swing, how large these are,
    and one over the precision of the level. Shapes and readings are times ``root`` of their precision."""

    shapes: Floats
    y: Floats
    onto: Floats
    level: Floats
    level_error: float
    root: Floats

    def about_level(self, within: tuple[float, float]) -> tuple[float, float]:
        return within[0] - float(self.level[0]), within[1] - float(self.level[0])


@lru_cache(maxsize=4)
def _choices(most: int) -> tuple[NDArray[np.int_], Floats]:
    """Every choice as indices into the time constants, one past the last where a stage is absent, with the log of what it counts
    beforehand: each number of stages alike, each choice of one number alike."""
    n = len(TAUS_S)
    rows: list[tuple[int, ...]] = []
    before: list[float] = []
    for stages in range(most + 1):
        found = [c for c in combinations(range(n), stages) if all(TAUS_S[b] >= APART * TAUS_S[a] for a, b in pairwise(c))]
        found = [c for c in found if stages < MOST_STAGES or c[0] % 2 == 0]  # the fastest of three hardly moves the end
        rows += [(*c, *(n,) * (MOST_STAGES - stages)) for c in found]
        before += [float(np.log(COUNTS[stages] / len(found)))] * len(found)
    return np.array(rows), np.array(before)


def stages(read: Read, turn_s: float = 0.0, least_variance: float = 1e-12, averaged: int = 1, most: int = MOST_STAGES) -> Stages:
    """Of ``read``. ``turn_s``: period of its swing; ``least_variance``: of a reading, where more is known of it than these readings show
    (where they have precisions, times one over these); ``averaged``: readings in a block; ``most``: stages that are thought of."""
    from scipy import special

    choices, before = _choices(most)
    shapes = np.exp(-read.t[:, None] / TAUS_S)
    at_last, without = shapes[-1], read.without_level(shapes)
    free, rest, onto, level = without.shapes, without.y, without.onto, without.level
    scale = max(float(np.quantile(read.y, 0.95) - np.quantile(read.y, 0.05)), LEAST_SCALE_K)
    size = scale * np.interp(np.log(TAUS_S), np.log(SLOW_S), SLOW_SHARE)
    cross, pull = free.T @ free, free.T @ rest

    # The noise first, from the choice that leaves least.
    ridge = 1e-9 * float(np.trace(cross)) + 1e-12
    loose, _, _ = _solved(cross, pull, np.full(len(TAUS_S), ridge), choices)
    gain = (loose * (_padded(pull)[choices] + ridge * loose)).sum(axis=1)  # what the squares lessen by
    best = int(np.argmax(gain))
    of_best = np.zeros(len(TAUS_S) + 1)
    np.add.at(of_best, choices[best], loose[best])
    residual = rest - free @ of_best[:-1]
    course = shapes @ of_best[:-1] + residual / without.root
    count = effective_count(residual, averaged) * (1.0 if read.precision is None else _share_that_counts(read.precision))
    freedom = max(count - 3 - len(level), LEAST_FREEDOM)
    variance = float(residual @ residual) / freedom
    by_turns = _by_whole_turns(residual, round(turn_s / float(np.median(np.diff(read.t))))) if turn_s else None
    if by_turns and by_turns[0] < variance:
        variance, freedom = by_turns
    variance = max(variance, least_variance)

    figures, inverse, log_det = _solved(cross / variance, pull / variance, size**-2.0, choices)
    evidence = before + 0.5 * (figures * _padded(pull)[choices]).sum(axis=1) / variance - 0.5 * log_det
    evidence -= _padded(np.log(size))[choices].sum(axis=1)
    if read.within is None:  # what follows changes no choice by more than that: most are left out without it
        may = evidence > evidence.max() + np.log(AGAINST / 2 * FORGOTTEN)
        choices, figures, inverse, evidence = choices[may], figures[may], inverse[may], evidence[may]
    absent = choices == len(TAUS_S)
    error = np.sqrt(np.maximum(np.einsum("mii->mi", inverse), 1e-300))
    for_one = special.log_ndtr(np.where(absent, 40.0, figures / error)).sum(axis=1)
    for_other = special.log_ndtr(np.where(absent, 40.0, -figures / error)).sum(axis=1)
    evidence += np.log(AGAINST + (1 - AGAINST) * (np.exp(for_one) + np.exp(for_other)))
    last, lever = _padded(at_last)[choices], _padded(onto[0])[choices]
    if read.within is not None:
        bounds = without.about_level(read.within)
        figures, inverse, chance = kept_within(figures, inverse, last - lever, variance * without.level_error, bounds)
        evidence += chance
    keep = evidence > evidence.max() + np.log(FORGOTTEN)
    choices, figures, inverse, absent, last, lever = (x[keep] for x in (choices, figures, inverse, absent, last, lever))
    weights = np.exp(evidence[keep] - evidence[keep].max())
    weights /= weights.sum()

    taus = np.where(absent, 1.0, np.append(TAUS_S, 1.0)[choices])
    end = level[0] - (lever * figures).sum(axis=1)
    end_error = np.sqrt(np.einsum("mi,mij,mj->m", lever, inverse, lever) + variance * without.level_error)
    left_error = np.sqrt(np.maximum(np.einsum("mi,mij,mj->m", last, inverse, last), 1e-12))
    sizes = -figures * last
    left = sizes.sum(axis=1)
    so_far = float(weights @ (end - left)) - float(np.median(read.y[: max(len(read.y) // 40, 1)]))
    clear = abs(so_far) > CLEAR_K
    return Stages(
        weights,
        end,
        end_error,
        left,
        left_error,
        sizes,
        -figures,
        taus,
        freedom,
        residual,
        course,
        1.0 if so_far >= 0 else -1.0,
        SELDOM if clear else 1.0,
        scale,
        variance,
        float(np.log(np.exp(evidence[keep] - evidence.max()).sum()) + evidence.max()),
    )


def _share_that_counts(precision: Floats) -> float:
    """Of readings, where few of them tell most (Kish's effective sample size)."""
    return float(precision.sum()) ** 2 / float(precision @ precision) / len(precision)


def kept_within(
    figures: Floats, inverse: Floats, onto_last: Floats, more: float, bounds: tuple[float, float]
) -> tuple[Floats, Floats, Floats]:
    """Sizes and covariances of every choice once the value at the last reading is known to lie between bounds, with the log chance of
    that beforehand: moments of a normal distribution cut off at both sides (textbook). ``more``: variance of that value by the level."""
    from scipy import special

    pull = np.einsum("mij,mj->mi", inverse, onto_last)
    spread = np.sqrt(np.einsum("mi,mi->m", pull, onto_last) + more)
    value = (figures * onto_last).sum(axis=1)
    a, b = (bounds[0] - value) / spread, (bounds[1] - value) / spread
    turned = a > 0  # the lower tail keeps its digits
    a, b = np.where(turned, -b, a), np.where(turned, -a, b)
    upto_a, upto_b = special.log_ndtr(a), special.log_ndtr(b)
    chance = upto_b + np.log1p(-np.exp(np.minimum(upto_a - upto_b, -1e-12)))
    at_a, at_b = (np.exp(np.minimum(-0.5 * x**2 - 0.5 * np.log(2 * np.pi) - chance, MOST_EXPONENT)) for x in (a, b))
    shift = at_a - at_b
    left = np.clip(1 + a * at_a - b * at_b - shift**2, 0.0, 1.0)
    shift = np.where(turned, -shift, shift)
    pull = pull / spread[:, None]
    return figures + pull * shift[:, None], inverse - (1 - left)[:, None, None] * pull[:, :, None] * pull[:, None, :], chance


def _by_whole_turns(residual: Floats, blocks: int) -> tuple[float, float] | None:
    """Variance and degrees of freedom from the means over whole turns of ``blocks`` each: what a swing leaves within a turn, its shape and
    how it grew, is no error of the end. None where the turns are too few."""
    turns = len(residual) // max(blocks, 1)
    if blocks < 2 or turns < LEAST_WHOLE_TURNS:
        return None
    means = residual[len(residual) - turns * blocks :].reshape(turns, blocks).mean(axis=1)
    spare = max(effective_count(means) - MOST_STAGES - 1, LEAST_SPARE)
    return blocks * float(means @ means) / spare, max(spare, LEAST_FREEDOM)


def _merged(weights: Floats, centre: Floats, error: Floats) -> tuple[Floats, Floats, Floats]:
    """Neighbours of a large mixture joined, with their mean and variance."""
    if len(weights) <= MOST_PARTS:
        return weights, centre, error
    order = np.argsort(centre)
    weights, centre, error = weights[order], centre[order], error[order]
    parts = np.minimum((np.cumsum(weights) * MOST_PARTS).astype(int), MOST_PARTS - 1)
    whole = np.bincount(parts, weights)
    held = whole > 0
    mean = np.bincount(parts, weights * centre)[held] / whole[held]
    spread = np.bincount(parts, weights * (error**2 + centre**2))[held] / whole[held] - mean**2
    return np.asarray(whole[held], float), mean, np.asarray(np.sqrt(np.maximum(spread, 1e-16)), float)


def _padded(column: Floats) -> Floats:
    """With one more of nothing, which stands for a stage that is absent."""
    return np.append(column, 0.0)


def _solved(cross: Floats, pull: Floats, prior: Floats, choices: NDArray[np.int_]) -> tuple[Floats, Floats, Floats]:
    """Of every choice: sizes, their covariance, and the log determinant of its inverse, by cofactors of a symmetric 3 by 3."""
    wide = np.pad(cross + np.diag(prior), (0, 1))
    wide[-1, -1] = 1.0
    p, q, r = choices.T
    a, d, f = wide[p, p], wide[q, q], wide[r, r]
    nil = len(TAUS_S)
    b = np.where((p == nil) | (q == nil), 0.0, wide[p, q])
    c = np.where((p == nil) | (r == nil), 0.0, wide[p, r])
    e = np.where((q == nil) | (r == nil), 0.0, wide[q, r])
    # by the size of their diagonal, so that the determinant does not drown
    u, v, w = np.sqrt(a), np.sqrt(d), np.sqrt(f)
    b, c, e = b / (u * v), c / (u * w), e / (v * w)
    m11, m12, m13 = 1 - e * e, c * e - b, b * e - c
    m22, m23, m33 = 1 - c * c, b * c - e, 1 - b * b
    det = np.maximum(m11 + b * m12 + c * m13, 1e-14)
    inverse = np.empty((len(p), 3, 3))
    for (i, j), m, x, z in (
        ((0, 0), m11, u, u),
        ((0, 1), m12, u, v),
        ((0, 2), m13, u, w),
        ((1, 1), m22, v, v),
        ((1, 2), m23, v, w),
        ((2, 2), m33, w, w),
    ):
        inverse[:, i, j] = inverse[:, j, i] = m / (det * x * z)
    figures = np.einsum("mij,mj->mi", inverse, _padded(pull)[choices])
    return figures, inverse, np.log(det) + 2 * (np.log(u) + np.log(v) + np.log(w))
