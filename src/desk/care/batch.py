"""A batch of units: how many passed, and a control chart of every channel, unit after unit."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from desk.care.commission import CommissioningDoc

CHARTED = ("cpu_package_c", "card_core_c", "coolant_c", "air_rear_c", "sound_dba")
ACTION, WARNING = 3.0, 2.0  # ISO 7870-2: action and warning limits of a control chart, in standard deviations (from memory)
D2 = 1.128  # ISO 7870-2: mean range of two readings of a normal distribution, in standard deviations (from memory)
LEAST_UNITS = 8  # no source: fewer give no limits of their own


class ChartPoint(BaseModel):
    serial: str
    difference: float
    outside: bool  # beyond the action limits


class ControlChart(BaseModel):
    """Differences from the reference; ``centre`` and ``sigma`` of the batch's units that did not fail, None while there are too few."""

    channel: str
    unit: str
    points: list[ChartPoint]
    centre: float | None
    sigma: float | None


class Batch(BaseModel):
    units: int
    passed: int
    to_look_at: int
    failed: int
    charts: list[ControlChart]


def batch_of(units: Sequence[tuple[str, CommissioningDoc]]) -> Batch:
    """Serial number and result of every unit, in the order in which they came."""
    verdicts = [d.verdict for _, d in units]
    return Batch(
        units=len(units),
        passed=verdicts.count("pass"),
        to_look_at=verdicts.count("look"),
        failed=verdicts.count("fail"),
        charts=[chart for channel in CHARTED if (chart := _chart(channel, units)) is not None],
    )


def _chart(channel: str, units: Sequence[tuple[str, CommissioningDoc]]) -> ControlChart | None:
    told = [(serial, d.verdict, c) for serial, d in units for c in d.channels if c.name == channel and c.difference_k is not None]
    if not told:
        return None
    good = np.array([c.difference_k for _, verdict, c in told if verdict != "fail"], dtype=np.float64)
    centre = sigma = None
    if len(good) >= LEAST_UNITS:
        centre = float(good.mean())
        sigma = float(np.abs(np.diff(good)).mean() / D2)  # from the moving range: a drift does not widen it
    points = [
        ChartPoint(
            serial=serial,
            difference=float(c.difference_k or 0.0),
            outside=centre is not None and sigma is not None and abs((c.difference_k or 0.0) - centre) > ACTION * sigma,
        )
        for serial, _, c in told
    ]
    return ControlChart(channel=channel, unit=told[0][2].unit, points=points, centre=centre, sigma=sigma)
