"""What each change did: one change after another, ladders, factorial designs, and prices per kelvin."""

from collections.abc import Sequence
from dataclasses import dataclass
from heapq import heappop, heappush
from itertools import pairwise
from math import sqrt

from engine.errors import ImpossibleInputError
from engine.plan.designs import effects as design_effects
from engine.verdict.compare import Pair, Word

BUNDLE_COST = 2.0  # a step of n changes counts n to this power on the way, so that single changes are preferred


@dataclass(frozen=True)
class ChangeStep:
    """From one layout to the next: what was done, and what it did; negative is cooler (or quieter)."""

    start: str
    end: str
    changes: tuple[str, ...]
    difference_k: float
    expanded_k: float
    word: Word


def between(pairs: Sequence[Pair], start: str, end: str, channel: str) -> tuple[float, float, Word] | None:
    """(difference, expanded uncertainty, word said of ``end``); None where it was not measured."""
    for p in pairs:
        if p.channel != channel or p.difference_k is None or p.expanded_uncertainty_k is None:
            continue
        if (p.a, p.b) == (start, end):
            return p.difference_k, p.expanded_uncertainty_k, p.word
        if (p.b, p.a) == (start, end):
            return -p.difference_k, p.expanded_uncertainty_k, turned(p.word)
    return None


def turned(word: Word) -> Word:
    """The word said of the other side."""
    return "worse" if word == "better" else "better" if word == "worse" else word


def way(counts: dict[tuple[str, str], int], start: str, end: str) -> list[str]:
    """Layouts from ``start`` to ``end`` by the fewest changes at a time; ``counts`` holds the changes between any two.

    Shortest path (Dijkstra) over the squares of the counts. Just the two ends where nothing lies between.
    """
    names = sorted({n for pair in counts for n in pair})
    queue: list[tuple[float, list[str]]] = [(0.0, [start])]
    done: set[str] = set()
    while queue:
        cost, path = heappop(queue)
        if path[-1] == end:
            return path
        if path[-1] in done:
            continue
        done.add(path[-1])
        for n in names:
            if n not in done and (path[-1], n) in counts:
                heappush(queue, (cost + counts[path[-1], n] ** BUNDLE_COST, [*path, n]))
    return [start, end]


def steps(path: Sequence[str], changes: dict[tuple[str, str], tuple[str, ...]], pairs: Sequence[Pair], channel: str) -> list[ChangeStep]:
    """The measured steps of a way; they add up to the whole difference."""
    found = []
    for start, end in pairwise(path):
        measured = between(pairs, start, end, channel)
        if measured:
            found.append(ChangeStep(start, end, changes.get((start, end), ()), *measured))
    return found


@dataclass(frozen=True)
class Ladder:
    """Rungs with their marginal values. ``knee``: the last layout whose step still brings more than ``margin_k``; None if none does.

    ``negative``: steps that make it worse; ``shown`` of them beyond their uncertainty.
    """

    channel: str
    margin_k: float
    rungs: tuple[ChangeStep, ...]
    knee: str | None
    negative: tuple[str, ...]
    shown: tuple[str, ...]


def ladder(rungs: Sequence[ChangeStep], channel: str, margin_k: float) -> Ladder:
    """Reads a ladder's steps. The knee is where further rungs no longer pay: every later step brings less than the margin.

    Raises ImpossibleInputError for fewer than two steps.
    """
    if len(rungs) < 2:
        raise ImpossibleInputError("a ladder needs at least three layouts", "ladder", "Run one more rung.")
    paying = [s.end for s in rungs if s.difference_k < -margin_k]
    negative = tuple(s.end for s in rungs if s.difference_k > 0)
    return Ladder(
        channel, margin_k, tuple(rungs), paying[-1] if paying else None, negative, tuple(s.end for s in rungs if s.word == "worse")
    )


@dataclass(frozen=True)
class FactorEffect:
    """Of one change or, with several names, of their acting together beyond their sum."""

    changes: tuple[str, ...]
    effect_k: float
    expanded_k: float
    shown: bool


def factorial(results: Sequence[tuple[float, float, float]], names: Sequence[str]) -> list[FactorEffect]:
    """Effects and interactions with 95 % bands from (mean, standard uncertainty, coverage factor) of a full design in grid order.

    An effect is a sum of independent means, each weighted 2/2^k: its variance is (2/2^k)² times the sum of theirs (source: gum).
    """
    found = design_effects([value for value, _, _ in results], len(names))
    standard = 2 / len(results) * sqrt(sum(u * u for _, u, _ in results))
    expanded = max(k for _, _, k in results) * standard
    return [FactorEffect(tuple(names[i] for i in e.factors), e.size, expanded, abs(e.size) > expanded) for e in found]


@dataclass(frozen=True)
class Price:
    """What a kelvin costs on the way from one layout to another; None where it is no cooler."""

    start: str
    end: str
    channel: str
    gain_k: float
    expanded_k: float
    cost: float
    noise_db: float | None
    minutes: float
    cost_per_k: float | None
    db_per_k: float | None
    minutes_per_k: float | None
    worth: bool
    why: str
    told: bool = True  # whether the runs tell the two apart at all, or show them alike; without it there is no price


def price(
    start: str,
    end: str,
    channel: str,
    gain: tuple[float, float, Word],
    cost: float,
    noise_db: float | None,
    minutes: float,
    margin_k: float,
) -> Price:
    """``gain`` is how much cooler ``end`` is (K, expanded, word). Not worth it: warmer, alike, or a gain smaller than matters.

    What cannot be told has no price, and nothing says that it is not worth it.
    """
    gain_k, expanded, word = gain
    told = word != "cannot_tell"
    cooler = told and gain_k > 0
    if word == "better" and gain_k >= margin_k:
        worth, why = True, ""
    elif word == "worse":
        worth, why = False, "it is warmer"
    elif word == "no_difference":
        worth, why = False, "no difference"
    elif word == "better":
        worth, why = False, "less than what matters to you"
    else:
        worth, why = False, "cannot be told yet"
    per = [x / gain_k if cooler and x is not None else None for x in (cost, noise_db, minutes)]
    return Price(start, end, channel, gain_k, expanded, cost, noise_db, minutes, per[0], per[1], per[2], worth, why, told)
