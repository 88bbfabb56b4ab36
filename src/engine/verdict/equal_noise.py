"""Layouts at the same level: each is read off its own curve of rise against level, between the levels it was run at, never beyond."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations, pairwise
from math import hypot, inf
from typing import Literal

import numpy as np

from engine.monotone import Monotone
from engine.runs.budget import coverage_factor
from engine.verdict.compare import Test, Word, holm, word_of

Place = Literal["run", "between", "beyond"]
SAME_LEVEL_DB = 0.3  # nearer than this a run is at the level; half of what a listener tells apart, common practice, no source


@dataclass(frozen=True)
class SpeedPoint:
    """One layout of a family that differs in speeds only: its level and rise with their standard uncertainties."""

    layout: str
    level_dba: float
    level_standard_db: float
    rise_k: float
    rise_standard_k: float


@dataclass(frozen=True)
class AtLevel:
    """A family's rise at a level. ``beyond`` its own curve: the nearest end's slope is drawn on, marked, and never ranked."""

    family: str
    level_dba: float
    rise_k: float | None
    standard_k: float | None
    place: Place
    between: tuple[str, ...]
    words: str
    expanded_k: float | None = None  # at 95 %

    def expanded(self) -> "AtLevel":
        return self if self.standard_k is None else replace(self, expanded_k=coverage_factor(inf) * self.standard_k)


def at_level(family: str, points: Sequence[SpeedPoint], level_dba: float) -> AtLevel:
    """Linear between the two neighbouring runs, with the bend of a monotone curve through all of them as an allowance.

    Variance: the weighted variances of both rises, the slope times that of the levels, and the allowance, a third of it as one
    sigma of a rectangle (source: gum; fritsch_carlson for the curve).
    """
    ordered = sorted(points, key=lambda p: p.level_dba)
    nearest = min(ordered, key=lambda p: abs(p.level_dba - level_dba))
    if abs(nearest.level_dba - level_dba) <= SAME_LEVEL_DB:
        slope = _slope(ordered, level_dba)
        standard = hypot(nearest.rise_standard_k, slope * nearest.level_standard_db)
        rise = nearest.rise_k + slope * (level_dba - nearest.level_dba)
        return AtLevel(family, level_dba, rise, standard, "run", (nearest.layout,), f"{nearest.layout} was run at this level").expanded()
    pair = _neighbours(ordered, level_dba)
    if pair is None:
        return _beyond(family, ordered, level_dba)
    low, high = pair
    share = (level_dba - low.level_dba) / (high.level_dba - low.level_dba)
    slope = (high.rise_k - low.rise_k) / (high.level_dba - low.level_dba)
    rise = low.rise_k + slope * (level_dba - low.level_dba)
    bend = _bend(ordered, level_dba, rise)
    of_rises = hypot((1 - share) * low.rise_standard_k, share * high.rise_standard_k)
    of_levels = abs(slope) * hypot((1 - share) * low.level_standard_db, share * high.level_standard_db)
    standard = float(np.sqrt(of_rises**2 + of_levels**2 + bend**2 / 3))
    words = f"between {low.layout} at {low.level_dba:.1f} and {high.layout} at {high.level_dba:.1f} dBA"
    return AtLevel(family, level_dba, rise, standard, "between", (low.layout, high.layout), words).expanded()


def told_apart(found: Sequence[AtLevel], margin_k: float) -> list[tuple[AtLevel, AtLevel, float, float, Word]]:
    """Every pair of families at the level: difference (second less first), expanded uncertainty, word said of the second.

    A family beyond its own curve is left out. Corrected for several comparisons (source: holm; tost).
    """
    ranked = [x for x in found if x.place != "beyond" and x.rise_k is not None and x.standard_k]
    drafts = []
    for a, b in combinations(ranked, 2):
        test = Test((b.rise_k or 0.0) - (a.rise_k or 0.0), hypot(a.standard_k or 0.0, b.standard_k or 0.0), inf)
        drafts.append((a, b, test))
    differs, equal = holm([t.p_differs for _, _, t in drafts]), holm([t.p_equivalent(margin_k) for _, _, t in drafts])
    return [(a, b, t.difference, t.expanded, word_of(t, p, q)) for (a, b, t), p, q in zip(drafts, differs, equal, strict=True)]


def common_levels(families: Sequence[Sequence[SpeedPoint]]) -> tuple[float, float] | None:
    """The range of levels that every family was run over; None where there is none."""
    low = max(min(p.level_dba for p in f) for f in families) - SAME_LEVEL_DB
    high = min(max(p.level_dba for p in f) for f in families) + SAME_LEVEL_DB
    return (low, high) if low <= high else None


def _neighbours(ordered: Sequence[SpeedPoint], level: float) -> tuple[SpeedPoint, SpeedPoint] | None:
    return next(((a, b) for a, b in pairwise(ordered) if a.level_dba < level < b.level_dba), None)


def _slope(ordered: Sequence[SpeedPoint], level: float) -> float:
    """K per dB near a level; 0 for a layout that was run at one speed."""
    if len(ordered) < 2:
        return 0.0
    pair = _neighbours(ordered, level) or (ordered[:2] if level <= ordered[0].level_dba else ordered[-2:])
    a, b = pair
    return (b.rise_k - a.rise_k) / max(b.level_dba - a.level_dba, 0.1)


def _bend(ordered: Sequence[SpeedPoint], level: float, linear: float) -> float:
    levels = [p.level_dba for p in ordered]
    if len(ordered) < 3 or len(set(levels)) < len(levels):
        return 0.0
    curve = Monotone.through(np.array(levels, float), np.array([p.rise_k for p in ordered]))
    return abs(float(curve.at(np.array([level]))[0]) - linear)


def _beyond(family: str, ordered: Sequence[SpeedPoint], level: float) -> AtLevel:
    if len(ordered) < 2:
        only = ordered[0]
        words = f"run at {only.level_dba:.1f} dBA only; run it at another speed"
        return AtLevel(family, level, None, None, "beyond", (only.layout,), words)
    end = ordered[0] if level < ordered[0].level_dba else ordered[-1]
    rise = end.rise_k + _slope(ordered, level) * (level - end.level_dba)
    words = f"beyond its own curve, which ends at {end.level_dba:.1f} dBA with {end.layout}; not ranked"
    return AtLevel(family, level, rise, None, "beyond", (end.layout,), words)
