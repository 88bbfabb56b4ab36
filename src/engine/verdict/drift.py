"""Drift of a campaign, told by a control that is run at its start and again at its end, and figures without it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import sqrt

import numpy as np

from engine.errors import MissingFigureError
from engine.runs.analysis import RunAnalysis
from engine.runs.budget import CONFIDENCE, BudgetLine, t_above
from engine.verdict.candidate import Candidate
from engine.verdict.scatter import pooled_scatter


@dataclass(frozen=True)
class Drift:
    """``per_hour_k`` from a straight line through the control's runs; ``whole_k`` over the campaign."""

    channel: str
    start_h: float
    hours: float
    per_hour_k: float
    whole_k: float

    def corrected(self, value: float, at_h: float) -> float:
        """A figure as it would have been at the campaign's start."""
        return value - self.per_hour_k * (at_h - self.start_h)


def drift(channel: str, control: Sequence[tuple[float, float]]) -> Drift:
    """From (hour, figure) of the control's runs. Raises MissingFigureError with fewer than two at different times."""
    hours = np.array([h for h, _ in control])
    if len(hours) < 2 or float(np.ptp(hours)) <= 0:
        raise MissingFigureError("the control was run once only", channel, "Run it again at the end.")
    slope = float(np.polyfit(hours, [v for _, v in control], 1)[0])
    span = float(np.ptp(hours))
    return Drift(channel, float(hours.min()), span, slope, slope * span)


@dataclass(frozen=True)
class Apart:
    """A figure against the control's first: as measured, and without the drift."""

    name: str
    apart_k: float
    corrected_k: float


def against_control(channel: str, figures: Sequence[tuple[str, float, float]], control: str) -> tuple[Drift, list[Apart]]:
    """From (name, hour, figure) of a campaign in its order: the control's drift, and every other against its start.

    Raises MissingFigureError where the control was run once only.
    """
    own = [(hour, value) for name, hour, value in figures if name == control]
    found = drift(channel, own)
    first = own[0][1]
    return found, [Apart(n, v - first, found.corrected(v, h) - first) for n, h, v in figures if n != control]


@dataclass(frozen=True)
class Corrected:
    """What the control's runs say of a channel: ``corrected`` only where the drift is more than repeats can explain. ``known``:
    whether repeats are there to say so; a control run twice alone cannot tell drift from scatter. ``of``: a layout that stands in for a
    control that nobody named."""

    channel: str
    whole_k: float
    hours: float
    p: float
    corrected: bool
    known: bool = True
    of: str = ""


def suspected(candidates: Sequence[Candidate]) -> list[Corrected]:
    """Where no control was named: what the layout whose runs lie furthest apart in time says of drift. Nothing is corrected by it, since
    nobody meant its runs to show that."""
    spans = {c.name: max(c.hours) - min(c.hours) for c in candidates if len(c.runs) == len(c.hours) > 1}
    longest = max(spans, key=lambda name: spans[name], default=None)
    return [replace(x, corrected=False, of=longest or "") for x in without_drift(candidates, longest)[1]]


def without_drift(candidates: Sequence[Candidate], control: str | None) -> tuple[list[Candidate], list[Corrected]]:
    """Layouts with their figures as at the middle of the control's runs, where the control shows that they moved.

    A straight line is fitted to the control's rises; it is used when its slope differs from zero at 5 % against the scatter that
    repeats show: the control's own about the line, and those of the other layouts (source: gum, H.3). The degree that the slope
    takes is taken from the control's repeats, and the slope's own error stands with every run by its distance from the middle of
    the control's, the same for runs of one hour. Two runs of the control without repeats elsewhere correct nothing.
    """
    own = next((c for c in candidates if c.name == control), None)
    if own is None or len(own.hours) != len(own.runs):
        return list(candidates), []
    at = {id(run): hour for c in candidates for run, hour in zip(c.runs, c.hours, strict=False)}
    shown, slopes = [], {}
    for channel in dict.fromkeys(c.name for run in own.judged for c in run.channels if c.name.endswith("_c")):
        runs = [(at[id(run)], c.rise_k) for run in own.judged if (c := run.channel(channel)) and c.rise_k is not None]
        hours = np.array([h for h, _ in runs])
        if len(runs) < 2 or float(np.ptp(hours)) <= 0:
            continue
        found = drift(channel, runs)
        line = own.values(channel) - found.per_hour_k * (hours - hours.mean()) if len(own.values(channel)) == len(runs) else None
        rest = 0.0 if line is None else float(((line - line.mean()) ** 2).sum())
        about, others = len(runs) - 2, pooled_scatter([c for c in candidates if c is not own], channel)
        freedom = about + others.repeats
        if not freedom:
            p = 2 * t_above(abs(found.per_hour_k) * _arm(hours) / others.sigma, others.freedom)
            shown.append(Corrected(channel, found.whole_k, found.hours, p, corrected=False, known=False))
            continue
        sigma = sqrt(max((rest + others.repeats * others.sigma**2) / freedom, others.within**2))
        standard = sigma / _arm(hours)
        p = 2 * t_above(abs(found.per_hour_k) / standard, freedom)
        shown.append(Corrected(channel, found.whole_k, found.hours, p, p < 1 - CONFIDENCE))
        if p < 1 - CONFIDENCE:
            slopes[channel] = (found.per_hour_k, standard, float(hours.mean()))
    if not slopes:
        return list(candidates), shown
    taken = dict.fromkeys(slopes, 1)
    moved = [
        replace(
            c,
            runs=[_moved(run, at[id(run)], slopes) if id(run) in at else run for run in c.runs],
            slopes=taken if c is own else c.slopes,
        )
        for c in candidates
    ]
    return moved, shown


def _arm(hours: np.ndarray) -> float:
    """Root of the sum of squared distances from the mean: a slope's error is the scatter over it."""
    return sqrt(float(((hours - hours.mean()) ** 2).sum()))


def _moved(run: RunAnalysis, hour: float, slopes: dict[str, tuple[float, float, float]]) -> RunAnalysis:
    channels = []
    for c in run.channels:
        if c.name in slopes and c.rise_k is not None:
            slope, standard, middle = slopes[c.name]
            line = BudgetLine("drift of the campaign, taken away", standard * abs(hour - middle), "A")
            c = replace(c, rise_k=c.rise_k - slope * (hour - middle), budget=(*c.budget, line))
        channels.append(c)
    return replace(run, channels=tuple(channels))
