"""Fans: curve, affinity laws, and a curve fitted to sheet points."""

from collections.abc import Sequence
from itertools import chain, combinations

import numpy as np
from numpy.typing import NDArray

from engine.compiled import compiled
from engine.errors import ImpossibleInputError
from engine.monotone import Monotone

Floats = NDArray[np.float64]
TABLE_POINTS = 17  # numerical: of a curve that a sheet gives by ten points or fewer
STALL_SHARE = 0.35  # of the free flow; left of it a sheet's curve dips and is not fitted


def fan_pressure_pa(flow_m3h: float, speed_share: float, flow_max_m3h: float, pressure_max_pa: float, linear_share: float) -> float:
    """Pressure of a fan: ``p = s^2 p0 (1 - c1 x - (1 - c1) x|x|)``, x = Q/(s Qmax) (source: fan_laws).

    Positive in the fan's own direction; continues smoothly into backflow and overflow.
    """
    linear, square = linear_share * speed_share * pressure_max_pa / flow_max_m3h, (1 - linear_share) * pressure_max_pa / flow_max_m3h**2
    return speed_share**2 * pressure_max_pa - linear * flow_m3h - square * flow_m3h * abs(flow_m3h)


@compiled
def rotor(speed_share: float, flow_max_m3s: float, pressure_max_pa: float, linear_share: float) -> tuple[float, float, float]:
    """Pressure source in Pa, A and B of a fan in a link; speed 0 leaves the resistance of a stopped rotor."""
    return (
        speed_share**2 * pressure_max_pa,
        linear_share * speed_share * pressure_max_pa / flow_max_m3s,
        (1 - linear_share) * pressure_max_pa / flow_max_m3s**2,
    )


def pressure_table_pa(points: Sequence[tuple[float, float]], flow_max_m3h: float) -> Floats:
    """Pressures at TABLE_POINTS even steps from no flow to ``flow_max_m3h``, from points (m3/h, Pa) of a measured curve.

    Monotone interpolation (source: fritsch_carlson). A dip in the stall region is filled up from the right, so that the
    curve never rises with flow and every network has one solution; beyond the last point the end slope goes on.
    """
    ordered = sorted(dict(points).items())
    flow, pressure = np.array([p[0] for p in ordered]), np.array([p[1] for p in ordered])
    pressure = np.maximum.accumulate(pressure[::-1])[::-1]
    x = np.linspace(0.0, flow_max_m3h, TABLE_POINTS)
    inside = np.clip(x, flow[0], flow[-1])
    curve = Monotone.through(flow, pressure)
    table = curve.at(inside) + np.minimum(curve.slopes[-1], -1e-3) * np.maximum(x - flow[-1], 0.0)
    return np.asarray(table - 1e-6 * np.arange(TABLE_POINTS), float)


@compiled
def table_rotor(table: Floats, speed_share: float, flow_max_m3s: float, flow_m3s: float) -> tuple[float, float, float]:
    """Pressure source in Pa, A and B of a measured fan about ``flow_m3s``: the tangent of its curve there.

    Into backflow the first slope goes on, beyond the free flow the last; a stopped rotor keeps the curve's resistance.
    """
    step = flow_max_m3s / (TABLE_POINTS - 1)
    if speed_share < 1e-3:
        return 0.0, 0.0, table[0] / flow_max_m3s**2
    at = min(max(flow_m3s / speed_share / step, 0.0), TABLE_POINTS - 1.000001)
    i = int(at)
    slope = min((table[i + 1] - table[i]) / step, -1e-6)
    pressure = table[i] + slope * (at - i) * step
    return speed_share**2 * (pressure - slope * at * step), -slope * speed_share, 0.0


def linear_share_from_points(flow_m3h: Sequence[float], pressure_pa: Sequence[float]) -> tuple[float, float, float]:
    """(flow_max_m3h, pressure_max_pa, c1) fitted to points of a sheet, right of the stall dip.

    Linear least squares of p = p0 - a Q - b Q^2 with a, b >= 0. Raises ImpossibleInputError if the curve does not fall.
    """
    flow, pressure = np.asarray(flow_m3h, float), np.asarray(pressure_pa, float)
    keep = flow >= STALL_SHARE * flow.max()
    if keep.sum() < 3:
        keep = np.ones_like(keep)
    design = np.stack([np.ones(keep.sum()), -flow[keep], -(flow[keep] ** 2)], axis=1)
    scale = np.array([1.0, flow.max(), flow.max() ** 2])
    fit = least_squares_above_nought(design / scale, pressure[keep]) / scale
    if fit[1] * flow.max() + fit[2] * flow.max() ** 2 <= 0.01 * fit[0]:
        raise ImpossibleInputError("the fan's curve does not fall with flow", "curve", "Check the order of its points.")
    root = (-fit[1] + np.sqrt(fit[1] ** 2 + 4 * fit[2] * fit[0])) / (2 * fit[2]) if fit[2] > 0 else fit[0] / fit[1]
    return float(root), float(fit[0]), float(np.clip(fit[1] * root / fit[0], 0.0, 1.0))


def least_squares_above_nought(design: Floats, wanted: Floats) -> Floats:
    """Least squares with no coefficient below nought, for a few columns: the best of all fits on some of them that keep to it."""
    columns = range(design.shape[1])
    best, least = np.zeros(design.shape[1]), float(np.sum(wanted**2))
    for some in map(list, chain.from_iterable(combinations(columns, size + 1) for size in columns)):
        fit = np.zeros(design.shape[1])
        fit[some] = np.linalg.lstsq(design[:, some], wanted, rcond=None)[0]
        left = float(np.sum((design @ fit - wanted) ** 2))
        if left < least and (fit >= 0).all():
            best, least = fit, left
    return best
