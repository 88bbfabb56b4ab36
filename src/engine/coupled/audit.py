"""Books of an operating point: what goes in against what comes out, added up apart from the solver."""

from dataclasses import dataclass

import numpy as np

from engine import constants as k
from engine.coupled import kernel
from engine.coupled.links import ROOM
from engine.coupled.operating_point import OperatingPoint
from engine.coupled.tracer import Transport
from engine.parameters import INDEX


@dataclass(frozen=True)
class Books:
    """Flows in m3/s, heat in W. ``mass_error`` and ``heat_error`` are shares of what goes through."""

    inflow_m3s: float
    outflow_m3s: float
    heat_in_w: float
    heat_by_air_w: float
    heat_by_walls_w: float
    heat_by_mixing_w: float

    @property
    def mass_error(self) -> float:
        return abs(self.inflow_m3s - self.outflow_m3s) / max(self.inflow_m3s, 1e-9)

    @property
    def heat_error(self) -> float:
        gone = self.heat_by_air_w + self.heat_by_walls_w + self.heat_by_mixing_w
        return abs(self.heat_in_w - gone) / max(abs(self.heat_in_w), 1.0)


def books(point: OperatingPoint) -> Books:
    """Adds up streams, walls and exchanges with the room."""
    heat = point.density * k.AIR_HEAT_CAPACITY_J_KGK
    pg = point.plan.program
    inflow = outflow = by_air = 0.0
    breath = np.zeros(len(point.links))
    va, _ = point.rows
    kernel.breathing(point.plan.program, point.parameters, heat, va, 0, point.speed, point.flow_m3s, breath)
    by_mixing = 0.0
    for i, (link, q) in enumerate(zip(point.links, point.flow_m3s.tolist(), strict=True)):
        if ROOM not in (link.tail, link.head):
            continue
        hot = float(point.node_rise_k[pg.sink[i]])
        by_mixing += float(breath[i]) * hot
        if (link.head if q >= 0 else link.tail) == ROOM:
            carried = float(point.carried_k[i])
            outflow += abs(q)
            by_air += heat * abs(q) * (carried + float(point.effectiveness[i]) * (hot - carried))
        else:
            inflow += abs(q)
    for e, flow in zip(point.plan.exchanges, Transport(point).exchange_m3s.tolist(), strict=True):
        if ROOM in (e.first, e.second):
            by_mixing += heat * flow * point.rises_k[e.second if e.first == ROOM else e.first]
    film = float(point.parameters[INDEX["wall_loss_w_m2k"]])
    by_walls = sum(film * point.spaces.wall_m2(s) * point.rises_k[s] for s in point.spaces.ids)
    put_in = point.powers.cpu_w + point.powers.card_w + float(point.plan.program.fixed_w.sum())
    return Books(inflow, outflow, put_in, by_air, by_walls, by_mixing)
