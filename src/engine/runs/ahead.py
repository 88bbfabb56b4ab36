"""What a channel has left of its approach and how it goes on from there, as a mixture: when no more than a given rest is left."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from engine.runs.series import Floats
from engine.runs.wait import Wait

AHEAD_S: Floats = np.concatenate([[0.0], np.geomspace(10.0, 14400.0, 120)])
UNLIKE_WAIT = 1.1  # further either way: no machine comes to rest quite as stages on a grid do (study)
MOST_EXPONENT = 50.0  # numerical
_ERRORS, _SHARES = np.polynomial.hermite_e.hermegauss(3)  # a normal error in three steps (numerical)


@dataclass(frozen=True, eq=False)
class Ahead:
    """One row for each choice of stages: what it counts, what each stage has left (K; nought where it is absent) with its time
    constant in s, and the error of what is left of all."""

    weights: Floats
    sizes: Floats
    taus_s: Floats
    left_error: Floats

    def until(self, left_k: float, further: float) -> tuple[Floats, Floats]:
        """Seconds until no more than ``left_k`` is left, in every choice and step of its error, and what each counts."""
        shapes = np.exp(-np.minimum(AHEAD_S / self.taus_s[:, :, None], MOST_EXPONENT))
        course = np.einsum("mk,mka->ma", self.sizes, shapes)
        error = np.hypot(self.left_error, further)[:, None] * np.where(self.sizes[:, :, None] == 0, 0.0, shapes).max(axis=1)
        at = np.concatenate([_last_over(np.abs(course + z * error), left_k) for z in _ERRORS])
        return at, np.concatenate([w * self.weights for w in _SHARES])


def spread_until(mixture: Sequence[Ahead], left_k: float, further: float, at_chances: tuple[float, float, float]) -> Wait:
    """The wait at three levels of chance over all choices; ``further``: one sigma of what is left that no choice knows of."""
    found = [ahead.until(left_k, further) for ahead in mixture]
    at, share = np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found])
    order = np.argsort(at)
    chance = np.cumsum(share[order]) / share.sum()
    least, about, most = (float(at[order][np.searchsorted(chance, p)]) for p in at_chances)
    return Wait(least / UNLIKE_WAIT, about, most * UNLIKE_WAIT)


def _last_over(course: Floats, left_k: float) -> Floats:
    """Of each row: the first of AHEAD_S from which on the course stays within ``left_k``."""
    over = course > left_k
    last = np.where(over.any(axis=1), len(AHEAD_S) - 1 - np.argmax(over[:, ::-1], axis=1), -1)
    return np.asarray(np.where(last < 0, 0.0, AHEAD_S[np.minimum(last + 1, len(AHEAD_S) - 1)]), float)
