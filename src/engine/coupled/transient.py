"""Warming up over time: everything at room temperature, loads on at 0."""

from dataclasses import dataclass, replace

import numpy as np

from engine.coupled.operating_point import OperatingPoint, Powers, operating_point
from engine.coupled.thermal import CARD_CORE, COOLANT
from engine.machine import Machine

STEP_S = 5.0


@dataclass(frozen=True)
class Moment:
    """One row of the transient; rises in K over the room."""

    minutes: float
    cpu_k: float
    card_k: float | None
    coolant_k: float | None
    air_rear_k: float
    cpu_w: float


def warm_up(machine: Machine, minutes: float, every_s: float, point: OperatingPoint | None = None) -> list[Moment]:
    """Implicit Euler on the lumped heat balance with the flows of the settled point.

    ``minutes`` > 0 and ``every_s`` > 0; rows at 0, every_s, ... Powers are those the settled point sustains, raised to
    their full value while the part is below its limit.
    """
    point = point or operating_point(machine)
    heat = point.heat
    every_s = max(every_s, 1.0)
    per_row = max(1, round(every_s / STEP_S))
    step_s = every_s / per_row
    inverse = np.linalg.inv(np.diag(heat.capacity_j_k / step_s) + heat.g)
    rises = np.zeros(len(heat.names))
    rows = [_moment(point, rises, 0.0, 0.0)]
    limit_cpu = machine.cpu.tj_max_c - machine.room.temperature_c
    limit_card = (machine.card.t_limit_c - machine.room.temperature_c) if machine.card else np.inf
    for row in range(1, int(minutes * 60 / every_s + 1e-6) + 1):
        for _ in range(per_row):
            cpu_w, card_w = machine.cpu.power_w, machine.card.power_w if machine.card else 0.0
            room_left = limit_cpu - rises[heat.index(heat.cpu_node)]
            if heat.cpu_above_k_w > 0:
                cpu_w = min(cpu_w, max(room_left / heat.cpu_above_k_w, 0.0))
            stored = heat.capacity_j_k / step_s * rises + heat.fixed_w
            trial = inverse @ (stored + cpu_w * heat.cpu_w + card_w * heat.card_w)
            if machine.card:
                over = trial[heat.index(CARD_CORE)] - limit_card
                if over > 0:
                    gain = (inverse @ heat.card_w)[heat.index(CARD_CORE)]
                    trial = trial - inverse @ heat.card_w * min(over / gain, card_w)
            rises = trial
        rows.append(_moment(point, rises, row * every_s / 60, cpu_w))
    return rows


def _moment(point: OperatingPoint, rises: "np.ndarray[tuple[int], np.dtype[np.float64]]", minutes: float, cpu_w: float) -> Moment:
    heat = point.heat
    by_name = dict(zip(heat.names, rises.tolist(), strict=True))
    now = replace(point, rises_k=by_name, powers=Powers(cpu_w, 0.0))
    return Moment(minutes, now.cpu_rise_k, now.card_rise_k, by_name.get(COOLANT), now.rear_rise_k, cpu_w)
