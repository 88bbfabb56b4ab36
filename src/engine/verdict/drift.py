"""Drift of a campaign, told by a control that is run at its start and again at its end, and figures without it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from engine.errors import MissingFigureError


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
