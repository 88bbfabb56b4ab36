"""The order of a plan's runs: least time between them, shuffled, in blocks or as listed, with what each costs in minutes."""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from pydantic import BaseModel

from desk.plan.runsheet import latest, run_sheet, transition_minutes
from documents.job.models import JobDoc
from documents.job.planned import PlanDoc, PlannedRunDoc, Role
from engine.plan.order import Ordered, least_order

OrderKind = Literal["least", "shuffled", "blocked", "listed"]
KINDS: tuple[OrderKind, ...] = ("least", "shuffled", "blocked", "listed")


class OrderOut(BaseModel):
    """An order by layout, with the minutes of the whole sheet. ``gap_min``: at most so much could still be saved."""

    kind: OrderKind
    order: list[str]
    minutes: float
    exact: bool
    gap_min: float = 0.0


@dataclass(frozen=True)
class _Visit:
    """A layout with all its loads of one round, run without a rebuild between."""

    layout: str
    runs: tuple[PlannedRunDoc, ...]


def orders(doc: JobDoc, plan: PlanDoc, seed: int = 1) -> dict[OrderKind, OrderOut]:
    """Every kind of order of a plan's runs."""
    return {kind: ordered(doc, plan, kind, seed)[0] for kind in KINDS}


def ordered(doc: JobDoc, plan: PlanDoc, kind: OrderKind, seed: int = 1) -> tuple[OrderOut, list[PlannedRunDoc]]:
    """A plan's runs in an order: its control stays first and last, repeats of a layout come in rounds.

    In ``least`` runs of one layout that follow each other are put together only where the plan has one round: a repeat after no
    rebuild says nothing of the next build. A control in the middle stays about half way: where it costs least, or just there.
    """
    visits = _visits(plan.runs)
    first, middle, last = _parted(visits, plan.control)
    halfway = [v for v in middle if v.runs[0].role == "control_middle"]
    middle = [v for v in middle if v not in halfway]
    proved, gap = True, 0.0
    if kind == "listed":
        chosen = list(middle)
        proved = len(middle) < 2
    elif kind == "shuffled":
        chosen = [v for part in _rounds(middle) for v in random.Random(seed).sample(part, len(part))]
        proved = len(middle) < 2
    elif kind == "blocked":
        chosen, proved, gap = _blocked(doc, middle, first, last)
    else:
        chosen, proved, gap = _least(doc, middle, first, last)
    whole = [*first, *chosen, *last]
    for v in halfway:
        at, costs = _half_way(doc, whole, v, free=kind in ("least", "blocked"))
        whole.insert(at, v)
        proved, gap = False, gap + costs
    runs = [run for v in whole for run in v.runs]
    sheet = run_sheet(doc.model_copy(update={"plan": plan.model_copy(update={"runs": runs})}))
    out = OrderOut(kind=kind, order=[v.layout for v in whole], minutes=sheet.minutes, exact=proved and kind == "least", gap_min=gap)
    return out, _numbered(runs, plan.control)


def _visits(runs: Sequence[PlannedRunDoc]) -> list[_Visit]:
    found: list[_Visit] = []
    for run in runs:
        if found and found[-1].layout == run.layout and run.load not in {r.load for r in found[-1].runs}:
            found[-1] = _Visit(run.layout, (*found[-1].runs, run))
        else:
            found.append(_Visit(run.layout, (run,)))
    return found


def _parted(visits: list[_Visit], control: str | None) -> tuple[list[_Visit], list[_Visit], list[_Visit]]:
    """(control at the start, what is between, control at the end)."""
    first = visits[:1] if control and visits and visits[0].layout == control else []
    rest = visits[len(first) :]
    last = rest[-1:] if first and rest and rest[-1].layout == control else []
    return first, rest[: len(rest) - len(last)], last


def _rounds(visits: Sequence[_Visit]) -> list[list[_Visit]]:
    """First visits of every layout, then second ones, and so on."""
    seen: dict[str, int] = {}
    rounds: list[list[_Visit]] = []
    for v in visits:
        nth = seen.get(v.layout, 0)
        seen[v.layout] = nth + 1
        while len(rounds) <= nth:
            rounds.append([])
        rounds[nth].append(v)
    return rounds


def _least(doc: JobDoc, middle: list[_Visit], first: list[_Visit], last: list[_Visit]) -> tuple[list[_Visit], bool, float]:
    """All visits at once; two of the same layout never follow each other where another order is as good as that."""
    found = _solved(doc, middle, first, last)
    path = [middle[i - len(first)] for i in _inner(found, len(first), len(middle))]
    return path, found.exact, found.minutes - found.bound


def _blocked(doc: JobDoc, middle: list[_Visit], first: list[_Visit], last: list[_Visit]) -> tuple[list[_Visit], bool, float]:
    """Round after round, each in its own cheapest order: what drifts meets every layout alike."""
    chosen: list[_Visit] = []
    proved, gap = True, 0.0
    rounds = _rounds(middle)
    for n, part in enumerate(rounds):
        begin = chosen[-1:] or first
        found = _solved(doc, part, begin, last if n == len(rounds) - 1 else [])
        chosen += [part[i - len(begin)] for i in _inner(found, len(begin), len(part))]
        proved, gap = proved and found.exact, gap + found.minutes - found.bound
    return chosen, proved, gap


def _solved(doc: JobDoc, middle: Sequence[_Visit], first: Sequence[_Visit], last: Sequence[_Visit]) -> Ordered:
    visits = [*first, *middle, *last]
    names = list(dict.fromkeys(v.layout for v in visits))
    protocol = latest(doc, visits[0].runs[0].protocol) if visits else None
    between = {(a, b): transition_minutes(doc, a, b, protocol) for a in names for b in names}
    table = np.array([[between[a.layout, b.layout] for b in visits] for a in visits]).reshape(len(visits), len(visits))
    for i, j in ((i, j) for i in range(len(visits)) for j in range(len(visits)) if i != j and visits[i].layout == visits[j].layout):
        table[i, j] += 1e4  # a repeat without a rebuild is no repeat of the build
    found = least_order(table, 0 if first else None, len(visits) - 1 if last else None)
    free = sum(table[a, b] for a, b in pairwise(found.order)) % 1e4
    return Ordered(found.order, float(free), min(found.bound, float(free)) if found.bound < 1e4 else float(free), found.exact)


def _inner(found: Ordered, before: int, count: int) -> list[int]:
    return [i for i in found.order if before <= i < before + count]


def _numbered(runs: Sequence[PlannedRunDoc], control: str | None) -> list[PlannedRunDoc]:
    """With which time of its layout each is now, and what part it plays."""
    seen: dict[tuple[str, str], int] = {}
    found = []
    for i, run in enumerate(runs):
        key = run.layout, run.load
        seen[key] = seen.get(key, 0) + 1
        ends = control is not None and run.layout == control
        role: Role = "repeat" if seen[key] > 1 else "run"
        if ends and all(r.layout == control for r in runs[: i + 1]):
            role = "control_start"
        elif ends and all(r.layout == control for r in runs[i:]):
            role = "control_end"
        elif ends and run.role == "control_middle":
            role = "control_middle"
        found.append(run.model_copy(update={"nth": seen[key], "role": role}))
    return found


def _half_way(doc: JobDoc, whole: Sequence[_Visit], visit: _Visit, free: bool) -> tuple[int, float]:
    """Where a visit goes in between, and what that adds in minutes: the cheapest place of the middle third, or half way."""
    protocol = latest(doc, visit.runs[0].protocol)

    def adds(at: int) -> float:
        before, after = whole[at - 1].layout, whole[at].layout
        through = transition_minutes(doc, before, visit.layout, protocol) + transition_minutes(doc, visit.layout, after, protocol)
        return through - transition_minutes(doc, before, after, protocol)

    third = range(max(1, len(whole) // 3), max(2, 2 * len(whole) // 3 + 1)) if free else [len(whole) // 2]
    apart = [i for i in third if visit.layout not in (whole[i - 1].layout, whole[i].layout)] or list(third)
    at = min(apart, key=lambda i: (adds(i), abs(i - len(whole) / 2)))
    return at, adds(at)
