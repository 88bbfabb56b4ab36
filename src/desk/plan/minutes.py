"""A person's own minutes by kind of change, learned from the gaps between runs that followed each other."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, log

import numpy as np
from pydantic import BaseModel

from desk.job.difference import changes
from documents.job.models import JobDoc, LayoutDoc
from engine.plan.rebuild import MINUTES, Change, Kind, minutes_of

PRIOR_SHARE = 0.5  # no source: one sigma of how a person's minutes differ from the usual ones, as a logarithm
GAP_SHARE = 0.35  # no source: one sigma of what else happens between two runs
LEAST_MIN, MOST_MIN = 1.0, 240.0  # shorter is no rebuild, longer is a break
TOLD_SHARE = 0.1  # no source: a kind whose minutes move by less is as usual


@dataclass(frozen=True)
class Gap:
    """Two layouts as they were drawn when they were run one after the other, and the minutes from the end of one run to the next."""

    before: LayoutDoc
    after: LayoutDoc
    minutes: float
    cool_min: float = 0.0  # that the next run waits for in any case


class LearnedMinutes(BaseModel):
    """``count``: how often the kind was part of a rebuild."""

    kind: Kind
    usual: float
    minutes: float
    count: int


class MinutesDoc(BaseModel):
    rebuilds: int
    kinds: list[LearnedMinutes]


def learned_minutes(doc: JobDoc, gaps: Sequence[Gap]) -> MinutesDoc:
    """Most likely minutes of every kind that was part of a rebuild and differs from the usual: work that hides in a wait says little."""
    rows = [(steps, g) for g in gaps if LEAST_MIN <= g.minutes <= MOST_MIN and (steps := changes(doc, g.before, g.after))]
    counts: dict[Kind, int] = {}
    for steps, _ in rows:
        for kind in {c.kind for c in steps}:
            counts[kind] = counts.get(kind, 0) + 1
    kinds = sorted(counts)
    if not kinds:
        return MinutesDoc(rebuilds=len(rows), kinds=[])

    def off(at: np.ndarray) -> np.ndarray:
        own: Mapping[Kind, float] = {kind: MINUTES[kind] * exp(x) for kind, x in zip(kinds, at, strict=True)}
        gap = [(log(max(_wait(steps, g, own), LEAST_MIN)) - log(g.minutes)) / GAP_SHARE for steps, g in rows]
        return np.array([*gap, *(at / PRIOR_SHARE)])

    from scipy.optimize import least_squares  # here: slow to load, and no page of a first start asks for it

    found = least_squares(off, np.zeros(len(kinds)), loss="soft_l1").x  # a break now and then is not taken for slow hands
    return MinutesDoc(
        rebuilds=len(rows),
        kinds=[
            LearnedMinutes(kind=kind, usual=MINUTES[kind], minutes=round(2 * MINUTES[kind] * exp(x)) / 2, count=counts[kind])
            for kind, x in zip(kinds, found, strict=True)
            if abs(x) > TOLD_SHARE
        ],
    )


def _wait(steps: Sequence[Change], gap: Gap, own: Mapping[Kind, float]) -> float:
    return max(minutes_of(steps, own), gap.cool_min)
