"""What is known of a part before this case was run: a parameter of the model, as runs of the same part elsewhere have it.

A lesson counts as a reading of its parameter whose error is such that, with the engine's own prior, the lesson comes out.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot, log

import numpy as np
from numpy.typing import NDArray

from engine.errors import OventaError
from engine.learn.gaussian import Told
from engine.parameters import COUNT, INDEX, SPREADS

Floats = NDArray[np.float64]

CARRIED_SHARE = 0.03  # no source: one sigma of how the same part differs from one mounting and one piece to the next
LEAST_NEWS = 0.98  # numerical: a lesson hardly narrower than the prior teaches nothing


@dataclass(frozen=True)
class Lesson:
    """A parameter over its usual value, with one sigma, from ``runs`` runs of the same part in another case."""

    parameter: str
    ratio: float
    ratio_sd: float
    runs: int


def with_lessons(told: Told, lessons: Sequence[Lesson]) -> Told:
    """The readings, and after them a row for each lesson. Raises OventaError for a parameter that the model does not have."""
    rows = [row for x in lessons if (row := _row(x)) is not None]
    if not rows:
        return told
    n, more = len(told.residual), len(rows)
    noise = np.zeros((n + more, n + more))
    noise[:n, :n] = told.noise
    noise[n:, n:] = np.diag([v for _, _, v in rows])
    error = np.zeros((n + more, n + more))
    error[:n, :n] = told.error
    jacobian = np.vstack([told.jacobian.reshape(n, COUNT), *(j[None, :] for _, j, _ in rows)])
    return Told(np.concatenate([told.residual, [y for y, _, _ in rows]]), jacobian, error, noise)


def _row(x: Lesson) -> tuple[float, Floats, float] | None:
    """(reading in sigmas of the prior, its row, its variance); None where it is no narrower than the prior."""
    if x.parameter not in INDEX:
        raise OventaError(f"the model has no parameter {x.parameter!r}", "lessons", "Take the lesson out of the part.")
    at = INDEX[x.parameter]
    sigma = log(SPREADS[at])
    mean, sd = log(x.ratio) / sigma, hypot(x.ratio_sd / x.ratio, CARRIED_SHARE) / sigma
    if sd >= LEAST_NEWS:
        return None
    row = np.zeros(COUNT)
    row[at] = 1.0
    return mean / (1 - sd**2), row, sd**2 / (1 - sd**2)
