"""What one fan works against: its curve, the line of the system as it stands, and where they meet."""

from dataclasses import dataclass, replace

import numpy as np

from engine.airflow.fans import fan_pressure_pa, pressure_table_pa
from engine.coupled.batch import settle_machines
from engine.coupled.forecast import mount_flow_m3h
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.errors import ImpossibleInputError
from engine.machine import Fan
from engine.parameters import INDEX
from engine.units import M3H_PER_M3S

SPEEDS_PCT = np.array([15, 25, 35, 50, 65, 80, 100, 120, 140, 170], float)  # numerical
CURVE_POINTS = 25  # numerical, for the drawing


@dataclass(frozen=True)
class FanAtWork:
    """Flow in m3/h and pressure in Pa: the fan's curve at full speed and as it turns, the system's line, and the meeting point."""

    mount: str
    layer: str
    curve_full: tuple[tuple[float, float], ...]
    curve_now: tuple[tuple[float, float], ...]
    system: tuple[tuple[float, float], ...]
    flow_m3h: float
    pressure_pa: float
    share_of_free_pct: float


def curve_pa(fan: Fan, flow_m3h: float, speed_share: float, worth: float = 1.0) -> float:
    """Pressure of a fan at a flow; ``worth`` is what an installed fan keeps of its sheet, as a share of speed."""
    s = max(speed_share * worth, 1e-3)
    if fan.points:
        table = pressure_table_pa(fan.points, fan.flow_max_m3h)
        x = np.linspace(0, fan.flow_max_m3h, len(table))
        at = flow_m3h / s
        over = table[-1] + (table[-1] - table[-2]) / (x[-1] - x[-2]) * (at - x[-1])
        return float(s**2 * (over if at > x[-1] else np.interp(at, x, table)))
    return fan_pressure_pa(flow_m3h, s, fan.flow_max_m3h, fan.pressure_max_pa, fan.linear_share)


def fan_at_work(point: OperatingPoint, mount: str, layer: str = "outer") -> FanAtWork:
    """The picture for the fan at a mount, every other fan as it turns. Raises ImpossibleInputError where none runs.

    The system's line is traced by turning this fan slower and faster and reading its flow; its pressure there follows from
    its curve. Only installed fans are traced, so the line holds what the case, its panels and the other fans do.
    """
    found = [(i, f) for i, f in enumerate(point.machine.fans) if f.mount == mount and f.layer == layer and f.running]
    if not found:
        raise ImpossibleInputError(f"no running fan stands in the {layer} layer of {mount!r}", "mount", "Choose a mount with a fan.")
    at, placed = found[0]
    worth = float(point.parameters[INDEX["installed_fan"]])
    sign = 1 if placed.direction == "intake" else -1
    own = point.speeds.fans[at]
    fans = point.machine.fans
    turned = [
        replace(point.machine, fans=(*fans[:at], replace(placed, speed_pct=float(s), curve=None), *fans[at + 1 :])) for s in SPEEDS_PCT
    ]
    settled = settle_machines(point.plan, turned, point.parameters, point.near)
    links = [i for i, link in enumerate(point.links) if link.mount == mount]
    flows = sign * settled.flow_m3s[:, links].sum(axis=1) * M3H_PER_M3S
    line = [(float(q), curve_pa(placed.fan, float(q), s / 100, worth)) for q, s in zip(flows, SPEEDS_PCT, strict=True) if q > 0]
    now = sign * mount_flow_m3h(point, mount)

    def curve(share: float) -> tuple[tuple[float, float], ...]:
        ends = np.linspace(0, placed.fan.flow_max_m3h * share * worth, CURVE_POINTS)
        return tuple((float(q), max(curve_pa(placed.fan, float(q), share, worth), 0.0)) for q in ends)

    free = placed.fan.flow_max_m3h * own / 100 * worth
    return FanAtWork(
        mount,
        layer,
        curve(1.0),
        curve(own / 100),
        tuple(line),
        now,
        curve_pa(placed.fan, now, own / 100, worth),
        100 * now / free if free > 0 else 0.0,
    )


def other_fan(point: OperatingPoint, mount: str, layer: str, fan: Fan) -> float:
    """Flow in m3/h of another fan in the same place at the same speed share."""
    fans = tuple(replace(f, fan=fan) if f.mount == mount and f.layer == layer else f for f in point.machine.fans)
    other = operating_point(replace(point.machine, fans=fans), point.parameters)
    sign = 1 if next(f.direction for f in fans if f.mount == mount and f.layer == layer) == "intake" else -1
    return sign * mount_flow_m3h(other, mount)
