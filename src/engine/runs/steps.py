"""What readings in whole steps tell: each, that the value lay about its step, and no more (grouped readings, source: mccullagh).

Means over stairs are a course with teeth. Here every reading counts by its own likelihood ``P(edge below < value + noise < edge above)``:
much where the value passes from one step to the next, nothing where it stands between two. About a course that is roughly known this is
as good as one reading of it with an error of its own (the method of scoring); a few turns find both. How much noise blurs the edges is
what makes the readings likeliest.
"""

from dataclasses import dataclass

import numpy as np

from engine.runs.rounding import Rounding, unseen_k
from engine.runs.series import Floats

NOISES: Floats = np.geomspace(0.05, 0.5, 8)  # of a step; numerical
SLIPS = 1e-3  # of readings are of no step that is near: one odd reading tells no edge; common practice, no source
LEAST_EDGES = 3  # numerical: that a course passed, for its noise to be known
LEAST_TOLD = 0.05  # numerical: of one reading without steps; a block that tells less stays where the course is
COURSE_K = 0.1  # one sigma: no course is as smooth as its stages (study)
EDGES_KNOWN = 0.17  # of what rounding leaves unseen: how noise blurs the edges is known no better, and the last ones bear the end (study)
TAIL_SHARE, LEAST_TAIL = 1 / 40, 5  # readings at the end by which the last step is known


@dataclass(frozen=True)
class Told:
    """Of every block of readings its value and one over the variance of that (1/K2); the noise of a reading, and how far off that may be
    (one sigma of its log)."""

    y: Floats
    precision: Floats
    noise: float
    noise_spread: float

    def unseen_k(self, step: float) -> float:
        """One sigma of an error that all blocks share: how far from an edge the last step is stood on hangs on the noise."""
        return float(np.hypot(EDGES_KNOWN * unseen_k(step, self.noise), min(self.noise_spread, 1.0) * unseen_k(step, 0.0)))


def told(read: Floats, about: Floats, rounding: Rounding, size: int) -> Told:
    """Of ``read`` (over the room or not: only the step is the sensor's), which the course ``about`` is near, in blocks of ``size``; the
    oldest odd readings are left out."""
    step, away = rounding.step, read - about
    share, spread = _likeliest(NOISES, np.array([np.log(_cells(away, step, step * x)[2]).sum() for x in NOISES]))
    if len(np.unique(np.round(read / step))) <= LEAST_EDGES:
        spread = 1.0  # about one edge or two a level and a noise tell each other's tale
    noise = step * share
    high, low, chance = _cells(away, step, noise)
    at_high, at_low = (np.exp(-0.5 * x**2) / np.sqrt(2 * np.pi) for x in (high, low))
    pull = (at_low - at_high) / (noise * chance)  # slope of the log likelihood, and how it bends
    bend = np.maximum(pull**2 + (high * at_high - low * at_low) / (noise**2 * chance), 0.0)
    pull, bend, near = (x[len(read) % size :].reshape(-1, size) for x in (pull, bend, about))
    precision = bend.sum(axis=1)
    y = near.mean(axis=1) + pull.sum(axis=1) / (precision + LEAST_TOLD / noise**2)
    as_one = 12 / step**2 / len(y)  # all together tell no less than one reading does
    return Told(y, as_one + 1 / (1 / np.maximum(precision, 1e-9) + COURSE_K**2), noise, spread)


def bounds(read: Floats, rounding: Rounding, noise: float) -> tuple[float, float]:
    """Between which the value lies at the end of the readings: about the steps that the last of them stand on."""
    last = read[-max(int(len(read) * TAIL_SHARE), LEAST_TAIL) :]
    out = rounding.step / 2 + noise
    return float(last.min()) - out, float(last.max()) + out


def _cells(away: Floats, step: float, noise: float) -> tuple[Floats, Floats, Floats]:
    """Upper and lower edge of every reading's step from the course, in sigmas, and the chance between them."""
    from scipy import special

    high, low = (away + step / 2) / noise, (away - step / 2) / noise
    return high, low, special.ndtr(high) - special.ndtr(low) + SLIPS


def _likeliest(at: Floats, chances: Floats) -> tuple[float, float]:
    """The top of a parabola, by the log of ``at``, through the best and its neighbours, and one sigma of that log."""
    best = min(max(int(np.argmax(chances)), 1), len(at) - 2)
    before, here, after = chances[best - 1 : best + 2]
    apart, bent = float(np.log(at[best + 1] / at[best])), max(2 * here - before - after, 1e-9)
    shift = float(np.clip(0.5 * (after - before) / bent, -1.0, 1.0))
    return float(at[best] * np.exp(apart * shift)), apart / float(np.sqrt(bent))
