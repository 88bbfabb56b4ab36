"""Several layouts against each other at once: how often at least one wrong word may fall, over all pairs and all looks.

Pairs of one channel are judged together by the studentized range, stepwise from the widest (source: regwq): more is found than by
judging every pair alone as if it were the worst of all, and in no more than ``LEVEL`` of campaigns a wrong word falls. A verdict is
read after every run; what may be spent on a look shrinks with the rounds, and is much less between two rounds, where a chance gap
among few would be looked at again and again. What the last whole round told is kept at that round's level meanwhile, so that a run
that agrees takes no word away.
"""

from collections.abc import Mapping, Sequence
from functools import lru_cache
from math import sqrt

import numpy as np

# Shares of campaigns that one look may spend (study): all rounds together cost 0.03 to 0.12 at builds of 0.3 to 1 K.
LEVEL_ONCE = 0.037  # every layout run once: the prior stands for the scatter
LEVEL_SOME = 0.005  # while some were run twice: one or two repeats, that may agree by chance, stand for it
LEVEL = 0.068  # at two runs of each, where most campaigns end
BETWEEN = 0.30  # of a round's own, for what it did not tell, until the next is whole
SPENT, LEAST = 3.0, 0.003  # how fast it shrinks with the rounds, and what it never falls below
_NODES = 48  # numerical; held against the library in the tests
Pair = tuple[str, str]


def level(runs_of_each: float) -> float:
    """Share of campaigns in which one look may say a wrong word, by the mean number of runs of a layout."""
    rounds = int(runs_of_each + 1e-9)
    whole = runs_of_each - rounds < 1e-6
    if rounds < 2:
        return LEVEL_ONCE if whole or rounds < 1 else LEVEL_SOME
    return max(float(LEVEL * (2.0 / rounds) ** SPENT), LEAST) * (1.0 if whole else BETWEEN)


def last_round(counts: Sequence[int]) -> int:
    """The last whole round, by the mean number of runs of a layout, where the next is begun; 0 where none is, or none was whole."""
    mean = sum(counts) / len(counts) if counts else 0.0
    rounds = int(mean + 1e-9)
    return rounds if mean - rounds >= 1e-6 else 0


def stepwise(values: Mapping[str, float], standards: Mapping[Pair, float], freedom: Mapping[Pair, float]) -> dict[Pair, float]:
    """Adjusted p values of every pair of ``standards``: to be held against the level of the whole family (source: regwq).

    A pair is only told where every wider range of layouts that holds it is told too; unlike standard uncertainties by Kramer's way.
    """
    order = sorted(values, key=lambda x: values[x])
    place, k = {name: i for i, name in enumerate(order)}, len(order)
    own: dict[tuple[int, int], float] = {}
    for (a, b), standard in standards.items():
        i, j = sorted((place[a], place[b]))
        size = j - i + 1
        p = range_above(sqrt(2) * abs(values[a] - values[b]) / standard, size, freedom[a, b])
        own[i, j] = 1 - (1 - p) ** (k / size) if size < k - 1 else p
    return {
        (a, b): max(p for (i, j), p in own.items() if i <= min(place[a], place[b]) and j >= max(place[a], place[b])) for a, b in standards
    }


@lru_cache(maxsize=4096)
def range_above(q: float, size: int, freedom: float) -> float:
    """Probability that the studentized range of ``size`` means exceeds ``q`` on ``freedom`` degrees (source: studentized_range).

    By Gauss and Legendre over the standard deviation's distribution and over the smallest mean; a hundred times faster than the
    library's, which a test holds it against.
    """
    if size == 2:
        from engine.runs.budget import t_above

        return 2 * t_above(q / sqrt(2), freedom)
    from scipy import special

    if np.isfinite(freedom):
        s = np.sqrt(special.chdtri(freedom, 1 - _shares()[0]) / freedom)
        weights = _shares()[1]
    else:
        s, weights = np.ones(1), np.ones(1)
    z, w = _normal()
    inner = size * ((special.ndtr(z) - special.ndtr(z - q * s[:, None])) ** (size - 1) * w).sum(axis=1)
    return float(min(max(1 - (weights * inner).sum(), 0.0), 1.0))


@lru_cache(maxsize=1024)
def range_quantile(level: float, size: int, freedom: float) -> float:
    """The studentized range that is exceeded with probability ``level``."""
    low, high = 0.0, 200.0
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if range_above(middle, size, freedom) > level else (low, middle)
    return (low + high) / 2


@lru_cache(maxsize=1)
def _shares() -> tuple[np.ndarray, np.ndarray]:
    """Nodes and weights over probabilities from 0 to 1, dense at both ends, where the tails of the spread are decided."""
    x, w = np.polynomial.legendre.leggauss(_NODES)
    u = (x + 1) / 2
    return u * u * (3 - 2 * u), w / 2 * 6 * u * (1 - u)


@lru_cache(maxsize=1)
def _normal() -> tuple[np.ndarray, np.ndarray]:
    x, w = np.polynomial.legendre.leggauss(96)
    z = 8.5 * x
    return z, 8.5 * w * np.exp(-z * z / 2) / sqrt(2 * np.pi)
