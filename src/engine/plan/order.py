"""The order of a campaign's runs that takes the least time between them, with a proof, or with the gap that is left.

A way from the control through every layout and back to it is a travelling salesman's tour: solved exactly by dynamic programming
over subsets (source: held_karp) up to a dozen, beyond that improved step by step, with a lower bound from the cheapest assignment.
"""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

EXACT_STOPS = 12  # numerical: layouts beside the ends up to which the order is proved the cheapest
STARTS, STARTS_OF = 3, 240  # numerical: beginnings from which a long order is improved: at least, and over its length


@dataclass(frozen=True)
class Ordered:
    """``order``: indices into the table. ``bound``: no order takes less; ``exact`` where this one takes no more."""

    order: tuple[int, ...]
    minutes: float
    bound: float
    exact: bool


def least_order(minutes: Floats, start: int | None = None, end: int | None = None, seed: int = 1) -> Ordered:
    """The cheapest way through all rows of a table of minutes (from, to), begun at ``start`` and ended at ``end`` where they are said.

    The same row may be both: it is then visited first and again at the end. Raises ValueError for a table that is not square.
    """
    n = len(minutes)
    if minutes.shape != (n, n):
        raise ValueError("the table of minutes is not square")
    stops = [i for i in range(n) if i not in (start, end)]
    if not stops:
        ends = [i for i in (start, end) if i is not None]
        order = tuple(ends if len(set(ends)) == len(ends) else ends[:1])
        return Ordered(order, _length(minutes, order), _length(minutes, order), True)
    if len(stops) <= EXACT_STOPS:
        order = _exact(minutes, stops, start, end)
        length = _length(minutes, order)
        return Ordered(order, length, length, True)
    order = _improved(minutes, stops, start, end, random.Random(seed))
    length, bound = _length(minutes, order), _bound(minutes, stops, start, end)
    return Ordered(order, length, min(bound, length), bound >= length - 1e-9)


def _length(minutes: Floats, order: Sequence[int]) -> float:
    return float(sum(minutes[a, b] for a, b in pairwise(order)))


def _whole(path: Sequence[int], start: int | None, end: int | None) -> tuple[int, ...]:
    return (*(() if start is None else (start,)), *path, *(() if end is None else (end,)))


def _exact(minutes: Floats, stops: Sequence[int], start: int | None, end: int | None) -> tuple[int, ...]:
    """Held and Karp: the least to stand at each stop after each set of stops."""
    n = len(stops)
    between = minutes[np.ix_(stops, stops)]
    begin = np.zeros(n) if start is None else minutes[start, stops]
    finish = np.zeros(n) if end is None else minutes[stops, end]
    best = np.full((1 << n, n), np.inf)
    came = np.full((1 << n, n), -1, dtype=np.int64)
    for i in range(n):
        best[1 << i, i] = begin[i]
    for visited in range(1, 1 << n):
        for last in range(n):
            so_far = best[visited, last]
            if not np.isfinite(so_far):
                continue
            for following in range(n):
                bit = 1 << following
                if visited & bit:
                    continue
                length = so_far + between[last, following]
                if length < best[visited | bit, following]:
                    best[visited | bit, following], came[visited | bit, following] = length, last
    visited = (1 << n) - 1
    last = int(np.argmin(best[visited] + finish))
    path = []
    while last >= 0:
        path.append(stops[last])
        visited, last = visited & ~(1 << last), int(came[visited, last])
    return _whole(path[::-1], start, end)


def _improved(minutes: Floats, stops: Sequence[int], start: int | None, end: int | None, rng: random.Random) -> tuple[int, ...]:
    """From several beginnings: a stretch turned round or put elsewhere as long as that saves time."""
    best: tuple[int, ...] | None = None
    for n in range(max(STARTS, STARTS_OF // len(stops))):
        path = _nearest(minutes, stops, start) if n == 0 else rng.sample(list(stops), len(stops))
        found = _settled(minutes, path, start, end)
        if best is None or _length(minutes, found) < _length(minutes, best):
            best = found
    return best or _whole(stops, start, end)


def _nearest(minutes: Floats, stops: Sequence[int], start: int | None) -> list[int]:
    left = list(stops)
    path = [left.pop(0)] if start is None else []
    while left:
        here = path[-1] if path else start
        following = min(left, key=lambda i: minutes[here, i])
        left.remove(following)
        path.append(following)
    return path


def _settled(minutes: Floats, path: list[int], start: int | None, end: int | None) -> tuple[int, ...]:
    now = _length(minutes, _whole(path, start, end))
    better = True
    while better:
        better = False
        for other in _near(path):
            length = _length(minutes, _whole(other, start, end))
            if length < now - 1e-9:
                path, now, better = other, length, True
                break
    return _whole(path, start, end)


def _near(path: list[int]) -> list[list[int]]:
    n, found = len(path), []
    for i in range(n):
        for j in range(i + 1, n + 1):
            part, rest = path[i:j], path[:i] + path[j:]
            if j - i > 1:
                found.append(path[:i] + part[::-1] + path[j:])
            if j - i <= 3:
                found += [rest[:at] + part + rest[at:] for at in range(len(rest) + 1) if at != i]
    return found


def _bound(minutes: Floats, stops: Sequence[int], start: int | None, end: int | None) -> float:
    """The cheapest assignment of a follower to everything: every order is one, so that none takes less."""
    from scipy.optimize import linear_sum_assignment  # here: it takes time to load, and a short plan does not ask for it

    n = len(stops)
    table = np.full((n + 1, n + 1), 0.0)
    table[:n, :n] = minutes[np.ix_(stops, stops)]
    np.fill_diagonal(table[:n, :n], 1e9)
    table[n, :n] = 0.0 if start is None else minutes[start, stops]
    table[:n, n] = 0.0 if end is None else minutes[stops, end]
    table[n, n] = 1e9
    rows, columns = linear_sum_assignment(table)
    return float(table[rows, columns].sum())
