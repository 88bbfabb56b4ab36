"""Fans: curve, affinity laws, operating point, and a curve fitted to sheet points."""

from collections.abc import Sequence

import numpy as np
from scipy.optimize import lsq_linear

from engine import constants as k
from engine.airflow.elements import Resistance
from engine.errors import ImpossibleInputError
from engine.units import M3H_PER_M3S

STALL_SHARE = 0.35  # of the free flow; left of it a sheet's curve dips and is not fitted


def fan_pressure_pa(flow_m3h: float, speed_share: float, flow_max_m3h: float, pressure_max_pa: float, linear_share: float) -> float:
    """Pressure of a fan: ``p = s^2 p0 (1 - c1 x - (1 - c1) x|x|)``, x = Q/(s Qmax) (source: fan_laws).

    Positive in the fan's own direction; continues smoothly into backflow and overflow.
    """
    linear, square = linear_share * speed_share * pressure_max_pa / flow_max_m3h, (1 - linear_share) * pressure_max_pa / flow_max_m3h**2
    return speed_share**2 * pressure_max_pa - linear * flow_m3h - square * flow_m3h * abs(flow_m3h)


def fan_element(speed_share: float, flow_max_m3h: float, pressure_max_pa: float, linear_share: float) -> tuple[float, Resistance]:
    """Pressure source in Pa and resistance of a fan in a link; speed 0 leaves the resistance of a stopped rotor."""
    flow_max_m3s = flow_max_m3h / M3H_PER_M3S
    resistance = Resistance(
        linear_share * speed_share * pressure_max_pa / flow_max_m3s,
        (1 - linear_share) * pressure_max_pa / flow_max_m3s**2,
    )
    return speed_share**2 * pressure_max_pa, resistance


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
    fit = lsq_linear(design / scale, pressure[keep], bounds=(0, np.inf)).x / scale
    if fit[1] * flow.max() + fit[2] * flow.max() ** 2 <= 0.01 * fit[0]:
        raise ImpossibleInputError("the fan's curve does not fall with flow", "curve", "Check the order of its points.")
    root = (-fit[1] + np.sqrt(fit[1] ** 2 + 4 * fit[2] * fit[0])) / (2 * fit[2]) if fit[2] > 0 else fit[0] / fit[1]
    return float(root), float(fit[0]), float(np.clip(fit[1] * root / fit[0], 0.0, 1.0))


def effective_speed_share(speed_pct: float, running: bool) -> float:
    """Speed share of an installed fan; 0 when it is not running."""
    return k.INSTALLED_FAN_FACTOR * speed_pct / 100 if running else 0.0
