"""What no other beats: rows of figures of which less is better."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def unbeaten(costs: Floats, tolerance: Floats | None = None) -> NDArray[np.int64]:
    """Indices of rows that no other row beats: as low in every column and lower in one. Of equal rows the first stands for all.

    ``tolerance`` per column: figures are rounded to it before, so that nothing is kept for a hundredth of a kelvin.
    """
    if not len(costs):
        return np.zeros(0, np.int64)
    values = _rounded(costs, tolerance)
    left = np.argsort(_ranked(values), kind="stable")
    kept = []
    while len(left):
        best = left[0]
        kept.append(best)
        rest = left[1:]
        beaten = (values[best] <= values[rest]).all(axis=1)
        left = rest[~beaten]
    return np.array(sorted(kept), dtype=np.int64)


def not_beaten(costs: Floats, by: Floats, tolerance: Floats | None = None) -> NDArray[np.int64]:
    """Indices of rows that none of others beats or equals."""
    values, others = _rounded(costs, tolerance), _rounded(by, tolerance)
    left = np.arange(len(costs))
    for other in others:
        left = left[~(other <= values[left]).all(axis=1)]
    return left


def spread(costs: Floats, most: int, chosen_before: Sequence[int] = ()) -> NDArray[np.int64]:
    """Indices of no more rows than ``most`` that stand for all: the best in each column, and those between as far apart as can be.

    ``chosen_before`` are kept as far as there is room, so that a choice that is made anew does not wander.
    """
    if len(costs) <= most:
        return np.arange(len(costs))
    scaled = _scaled(costs)
    chosen = list(dict.fromkeys([*np.argmin(costs, axis=0).tolist(), int(np.argmin(scaled.sum(axis=1))), *chosen_before]))[:most]
    apart = np.min([np.linalg.norm(scaled - scaled[c], axis=1) for c in chosen], axis=0)
    while len(chosen) < most:
        far = int(np.argmax(apart))
        chosen.append(far)
        apart = np.minimum(apart, np.linalg.norm(scaled - scaled[far], axis=1))
    return np.array(sorted(chosen))


def _rounded(costs: Floats, tolerance: Floats | None) -> Floats:
    return costs if tolerance is None else np.round(costs / tolerance) * tolerance


def _scaled(values: Floats) -> Floats:
    span = np.ptp(values, axis=0)
    return np.asarray((values - values.min(axis=0)) / np.where(span > 0, span, 1.0))


def _ranked(values: Floats) -> Floats:
    """A sum that rises with every column, so that no row comes before one that beats it."""
    return np.asarray(_scaled(values).sum(axis=1))
