"""A sensor in whole steps that no noise hides tells when it passed from one step to the next, and that it has not left the last one.

Between two passings it stands still and says nothing more, so that means over its stairs are a course with teeth. The passings lie on the
course itself: each half way between two steps, at the time by which as many readings were below it as the whole run has.
"""

from dataclasses import dataclass

import numpy as np

from engine.runs.rounding import Rounding
from engine.runs.series import Floats

LEAST_PASSINGS = 8  # numerical: fewer tell no stages
PASSING_K = 0.035  # one sigma of a passing at the least: no course is as smooth as its stages (study)
LEAST_NOISE_K = 0.05  # numerical: a sensor that never flickers was not seen to
TAIL_SHARE, LEAST_TAIL = 1 / 40, 5  # readings at the end by which the last step is known
FLICKERS = 0.03  # of them: fewer on another step are slips
ASTRAY = 0.01  # of all readings: more that lie back by over a step, or beyond where the run ends, and it is no one way
SIGMAS = 3.0  # of the noise, beside a step's edge


@dataclass(frozen=True)
class Passings:
    """Values ``y`` passed at ``t`` (s), the last reading at ``last_s``, and between which bounds the value lies then."""

    t: Floats
    y: Floats
    last_s: float
    within: tuple[float, float]


def passings(t: Floats, y: Floats, rounding: Rounding) -> Passings | None:
    """Of readings that go one way, up or down stairs; None where noise hides the steps, too few were passed, or the course turns."""
    if not (rounding.stairs and rounding.calm) or len(y) < 2 * LEAST_TAIL:
        return None
    way = 1.0 if np.median(y[-LEAST_TAIL:]) >= np.median(y[:LEAST_TAIL]) else -1.0
    up = way * y
    tail = up[-max(int(len(up) * TAIL_SHARE), LEAST_TAIL) :]
    back = np.maximum.accumulate(up) - up > 1.5 * rounding.step
    beyond = up > tail.max() + rounding.step / 2
    if max(float(np.mean(back)), float(np.mean(beyond))) > ASTRAY:
        return None
    levels = np.arange(float(np.median(up[:3])) + rounding.step / 2, float(np.median(tail)), rounding.step)
    levels = levels[levels < tail.min()]
    if len(levels) < LEAST_PASSINGS:
        return None
    below = np.searchsorted(np.sort(up), levels)
    at = np.interp(below - 0.5, np.arange(len(t)), t)
    low, high = _last_step(tail, rounding)
    return Passings(at, way * levels, float(t[-1]), (low, high) if way > 0 else (-high, -low))


def _last_step(tail: Floats, rounding: Rounding) -> tuple[float, float]:
    """Bounds of the value at the end: the step that is stood on, or the edge about which the readings flicker."""
    blur = SIGMAS * max(rounding.noise, LEAST_NOISE_K)
    on = float(np.median(tail))
    for side in (-1.0, 1.0):
        if float(np.mean(side * (tail - on) > rounding.step / 2)) >= FLICKERS:
            edge = on + side * rounding.step / 2
            return edge - blur, edge + blur
    return on - rounding.step / 2 - blur, on + rounding.step / 2 + blur
