"""What readings in whole steps tell: each, that the value lay about its step, and no more (grouped readings, source: mccullagh).

Means over stairs are a course with teeth. Here every reading counts by its own likelihood ``P(edge below < value + noise < edge above)``:
much where the value passes from one step to the next, nothing where it stands between two. About a course that is roughly known this is
as good as one reading of it with an error of its own (the method of scoring); a few turns find both. How much noise blurs the edges is
what makes the readings likeliest.
"""

from dataclasses import dataclass

import numpy as np

from engine.runs.rounding import Rounding
from engine.runs.series import Floats

NOISES: Floats = np.geomspace(0.05, 0.5, 8)  # of a step; numerical
FURTHEST = 6.0  # numerical: of the noise; a reading beyond its step by more is a slip
LEAST_TOLD = 0.05  # numerical: of one reading without steps; a block that tells less stays where the course is
COURSE_K = 0.1  # one sigma: no course is as smooth as its stages (study)
EDGES_KNOWN = 0.17  # of what rounding leaves unseen: how noise blurs the edges is known no better, and the last ones bear the end (study)
TAIL_SHARE, LEAST_TAIL = 1 / 40, 5  # readings at the end by which the last step is known


@dataclass(frozen=True)
class Told:
    """Of every block of readings its value and one over the variance of that (1/K2), and the noise of a reading."""

    y: Floats
    precision: Floats
    noise: float


def told(read: Floats, about: Floats, rounding: Rounding, size: int) -> Told:
    """Of ``read`` (over the room or not: only the step is the sensor's), which the course ``about`` is near, in blocks of ``size``; the
    oldest odd readings are left out."""
    step, away = rounding.step, read - about
    noise = step * _likeliest(NOISES, np.array([np.log(_cells(away, step, step * x)[2]).sum() for x in NOISES]))
    high, low, chance = _cells(away, step, noise)
    at_high, at_low = (np.exp(-0.5 * x**2) / np.sqrt(2 * np.pi) for x in (high, low))
    pull = (at_low - at_high) / (noise * chance)
    bent = np.maximum(pull**2 + (high * at_high - low * at_low) / (noise**2 * chance), 0.0)
    pull, bent, near = (x[len(read) % size :].reshape(-1, size) for x in (pull, bent, about))
    precision = bent.sum(axis=1)
    y = near.mean(axis=1) + pull.sum(axis=1) / (precision + LEAST_TOLD / noise**2)
    return Told(y, 1 / (1 / np.maximum(precision, 1e-9) + COURSE_K**2), noise)


def bounds(read: Floats, rounding: Rounding, noise: float) -> tuple[float, float]:
    """Between which the value lies at the end of the readings: about the steps that the last of them stand on."""
    last = read[-max(int(len(read) * TAIL_SHARE), LEAST_TAIL) :]
    out = rounding.step / 2 + noise
    return float(last.min()) - out, float(last.max()) + out


def _cells(away: Floats, step: float, noise: float) -> tuple[Floats, Floats, Floats]:
    """Upper and lower edge of every reading's step from the course, in sigmas, and the chance between them."""
    from scipy import special

    within = np.clip(away, -step / 2 - FURTHEST * noise, step / 2 + FURTHEST * noise)
    high, low = (within + step / 2) / noise, (within - step / 2) / noise
    turned = low > 0  # the lower tail keeps its digits
    upper, lower = np.where(turned, -low, high), np.where(turned, -high, low)
    return high, low, np.maximum(special.ndtr(upper) - special.ndtr(lower), 1e-300)


def _likeliest(at: Floats, chances: Floats) -> float:
    """The top of a parabola, by the log of ``at``, through the best and its neighbours."""
    best = int(np.argmax(chances))
    if best in (0, len(at) - 1):
        return float(at[best])
    before, here, after = chances[best - 1 : best + 2]
    return float(at[best] * (at[best + 1] / at[best]) ** (0.5 * (before - after) / (before - 2 * here + after)))
