"""How a machine comes to rest, from earlier runs of it: what makes the wait of the next one a number.

How long a run still takes cannot be read from its own first minutes where a slow stage has not shown yet. A machine whose earlier runs
came to rest has shown it: its time constants and how its rise is shared among them are much the same in another layout (moved as a whole
with what carries the heat away, a little each), its rise is not. Choices of stages of the earlier runs are stretched, fitted with shares
that may be a little off, and weighed by their marginal likelihood beside the choices that know nothing (engine.runs.stages), so that
a machine that was changed is told from its own course again. How noisy it was, and whether it swung, is taken from them too: a swing that
a young run cannot show yet bends its course. Only the wait is told from it, never whether a run has settled.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from engine.runs.ahead import MOST_EXPONENT, Ahead
from engine.runs.series import Floats
from engine.runs.stages import Read, Stages, kept_within

MOST_RUNS = 4  # of the earlier ones; more tell little more
MOST_CHOICES = 60  # numerical
SHARED_FROM_S = 30.0  # a rise is shared among the stages from here on: the die's own seconds differ with every log
LEAST_RISE_K = 1.0  # what hardly moved tells nothing of its stages
STRETCH_SIGMA, SLOWEST_SIGMA, SHARE_SIGMA = 0.15, 0.12, 0.2  # of time constants together, of the slowest alone, of each share (study)
STRETCHES = (-6.0, -4.2, -2.8, -1.8, -1.2, -0.6, 0.0, 0.6, 1.2, 1.8, 2.8, 4.2, 6.0)  # sigmas (numerical)
SLOWEST = (-1.5, 0.0, 1.5)  # sigmas (numerical)
TAILS = 4.0  # degrees of freedom of a stretch (Student): seldom a machine is changed by much (study)
UNLIKE_COURSE, LEAST_AGREED = 0.3, 1e-4  # how far courses of two runs of one machine differ in the log of what is left; numerical
COMPARED_S: Floats = np.geomspace(20.0, 7200.0, 40)
LEAST_LEFT = 2e-3  # of the rise: less is not compared
KNOWN = 0.9  # what earlier runs count beforehand, beside knowing nothing: what changes a machine is seldom (study)
RISE_SCALES = 3.0  # how large the rise may be beforehand, in ranges of what was read
OF_WAIT = (0.09, 0.45, 0.91)  # of the chance: range and likeliest (study)
FORGOTTEN = 1e-3  # numerical


@dataclass(frozen=True, eq=False)
class Course:
    """How a channel came to rest: choices of stages with what each counts, their time constants in s, and the share of the rise that
    each takes at the run's first reading (nought where it is absent)."""

    weights: Floats
    taus_s: Floats
    shares: Floats
    noise_k2s: float = 0.0  # about it: variance of one reading a second, as far as readings count as independent
    swing_k2s: float = 0.0  # the same of a swing, for a run that is too short to show it

    @property
    def logs(self) -> Floats:
        """Log of what is left of the rise at COMPARED_S."""
        left = np.einsum("mk,mka->ma", self.shares, np.exp(-np.minimum(COMPARED_S / self.taus_s[:, :, None], MOST_EXPONENT)))
        return np.asarray(np.log(np.maximum(np.abs(left), LEAST_LEFT)), float)


def course_of(found: Stages, from_s: float, noise_k2s: float, swing_k2s: float) -> Course | None:
    """Of a run that came to rest, whose fit begins ``from_s`` into it; None where hardly anything moved."""
    best = np.argsort(-found.weights)[:MOST_CHOICES]
    taus = found.taus_s[best]
    at_first = np.where(found.at_first[best] == 0, 0.0, found.at_first[best] * np.exp(np.minimum(from_s / taus, MOST_EXPONENT)))
    rise = (at_first * np.exp(-SHARED_FROM_S / taus)).sum(axis=1)
    moved = np.abs(rise) > LEAST_RISE_K
    if not moved.any():
        return None
    weights = found.weights[best][moved]
    return Course(weights / weights.sum(), taus[moved], at_first[moved] / rise[moved, None], noise_k2s, swing_k2s)


def pooled(courses: Sequence[Course]) -> Course:
    """One from those of several runs of a machine: every choice counts as far as all runs agree with it."""
    if len(courses) == 1:
        return courses[0]
    weights, taus, shares = (np.concatenate([getattr(c, name) for c in courses]) for name in ("weights", "taus_s", "shares"))
    whole = Course(weights, taus, shares)
    logs = whole.logs
    agreed = np.zeros(len(logs))
    for course in courses:
        apart = ((logs[:, None] - course.logs[None]) ** 2).mean(axis=2)
        agreed += np.log(np.exp(-0.5 * apart / UNLIKE_COURSE**2) @ course.weights + LEAST_AGREED)
    best = np.argsort(-agreed)[:MOST_CHOICES]
    weights = np.exp(agreed[best] - agreed.max())
    noise, swing = (float(np.mean([getattr(c, name) for c in courses])) for name in ("noise_k2s", "swing_k2s"))
    return Course(weights / weights.sum(), whole.taus_s[best], whole.shares[best], noise, swing)


@dataclass(frozen=True, eq=False)
class Known:
    """What ``runs`` earlier runs of a machine showed of a channel: their choices of stages for every stretch, with the log of what each
    counts beforehand, time constants in s and shares of the rise."""

    runs: int
    before: Floats
    taus_s: Floats
    shares: Floats
    noise_k2s: float
    swing_k2s: float


def known_of(courses: Sequence[Course]) -> Known:
    """Of one earlier run or more."""
    course = pooled(courses)
    there = course.shares != 0
    slowest = there & (course.taus_s == np.where(there, course.taus_s, 0.0).max(axis=1, keepdims=True))
    befores, taus = [], []
    for all_sigmas, own_sigmas in product(STRETCHES, SLOWEST):
        own = np.where(slowest, np.exp(SLOWEST_SIGMA * own_sigmas), 1.0)
        befores.append(np.log(course.weights + 1e-300) - 0.5 * ((TAILS + 1) * np.log1p(all_sigmas**2 / TAILS) + own_sigmas**2))
        taus.append(course.taus_s * np.exp(STRETCH_SIGMA * all_sigmas) * own)
    before = np.concatenate(befores)
    shares = np.tile(course.shares, (len(taus), 1))
    return Known(len(courses), before - np.log(np.exp(before).sum()), np.concatenate(taus), shares, course.noise_k2s, course.swing_k2s)


def ahead_of(read: Read, found: Stages, known: Known) -> list[Ahead]:
    """What is left of ``read`` (times from the run's first reading) and how it goes on: by what earlier runs showed, and by the readings
    alone (``found``), each as far as the readings bear it out."""
    before, taus, shares = known.before, known.taus_s, known.shares
    own, place = np.unique(np.round(taus, 3), return_inverse=True)
    place = place.reshape(taus.shape)
    shapes = np.exp(-np.minimum(read.t[:, None] / own, MOST_EXPONENT))
    without = read.without_level(shapes)
    cross, pull = (without.shapes.T @ without.shapes)[place[:, :, None], place[:, None, :]], (without.shapes.T @ without.y)[place]

    # Unknown are the rise, which scales the shares, and how far each share is off.
    along = np.einsum("mk,mkl->ml", shares, cross)
    whole, onto = np.einsum("mk,mk->m", along, shares), np.einsum("mk,mk->m", shares, pull)
    off = SHARE_SIGMA * np.abs(shares) * np.abs(onto / np.maximum(whole, 1e-9))[:, None]
    size = np.column_stack([np.full(len(shares), RISE_SCALES * found.scale), np.maximum(off, 1e-6)])
    normal = np.empty((len(shares), 4, 4))
    normal[:, 0, 0], normal[:, 0, 1:], normal[:, 1:, 0], normal[:, 1:, 1:] = whole, along, along, cross
    normal = normal / found.variance + size[:, :, None] ** -2.0 * np.eye(4)
    target = np.column_stack([onto, pull]) / found.variance
    inverse = np.asarray(np.linalg.inv(normal), float)
    figures = np.einsum("mij,mj->mi", inverse, target)
    evidence = before + 0.5 * (figures * target).sum(axis=1) - 0.5 * np.linalg.slogdet(normal)[1] - np.log(size).sum(axis=1)
    if read.within is not None:
        onto_last = (shapes[-1] - without.onto[0])[place]
        lever = np.column_stack([(shares * onto_last).sum(axis=1), onto_last])
        figures, inverse, chance = kept_within(
            figures, inverse, lever, found.variance * without.level_error, without.about_level(read.within)
        )
        evidence += chance

    keep = evidence > evidence.max() + np.log(FORGOTTEN)
    shares, taus, figures, inverse = shares[keep], taus[keep], figures[keep], inverse[keep]
    last = np.exp(-np.minimum(read.t[-1] / taus, MOST_EXPONENT))
    lever = np.column_stack([(shares * last).sum(axis=1), last])
    error = np.sqrt(np.maximum(np.einsum("mi,mij,mj->m", lever, inverse, lever), 1e-12))
    sizes = -(figures[:, :1] * shares + figures[:, 1:]) * last
    odds = np.log(KNOWN / (1 - KNOWN)) + evidence[keep] - found.evidence
    alone = found.ahead
    alone_weights = alone.weights / max(float(alone.weights.sum()), 1e-300)
    top = max(float(odds.max()), 0.0)
    return [
        Ahead(np.exp(odds - top), sizes, taus, error),
        Ahead(alone_weights * np.exp(-top), alone.sizes, alone.taus_s, alone.left_error),
    ]
