"""The linear heat balance ``G T = P`` over air, cooler, coolant, card and walls, as rises over the room in K."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled.links import CARD, ROOM
from engine.coupled.spaces import Spaces
from engine.coupled.streams import AirPicture, Stream
from engine.heat.exchangers import card_resistance_k_w, effectiveness, finned_ua_w_k, radiator_ua_w_k
from engine.machine import AirCooler, Machine, SealedCooler
from engine.units import M3H_PER_M3S

Floats = NDArray[np.float64]
FINS, COOLANT, CARD_CORE = "fins", "coolant", "card_core"


@dataclass
class HeatBalance:
    """``g`` in W/K, unknown rises by ``names``; ``fixed_w`` heat that does not depend on processor or card."""

    names: list[str]
    g: Floats
    fixed_w: Floats
    cpu_w: Floats
    card_w: Floats
    capacity_j_k: Floats
    cpu_above_k_w: float
    cpu_node: str
    core_resistance_k_w: float

    def index(self, name: str) -> int:
        return self.names.index(name)


class _Rows:
    """Adds terms to the matrix by node name; the room is the zero of the scale and has no row."""

    def __init__(self, names: list[str]) -> None:
        self.names = names
        self.at = {name: i for i, name in enumerate(names)}
        self.g = np.zeros((len(names), len(names)))

    def add(self, row: str, column: str, value: float) -> None:
        if row != ROOM and column != ROOM:
            self.g[self.at[row], self.at[column]] += value

    def conduct(self, first: str, second: str, w_k: float) -> None:
        for one, other in ((first, second), (second, first)):
            self.add(one, one, w_k)
            self.add(one, other, -w_k)

    def carry(self, stream: Stream, w_k: float, exchanger: str | None = None, eps: float = 0.0) -> None:
        """A stream takes its mixture out of its upwind node and delivers it downwind, through an exchanger if any."""
        for source, share in stream.of.items():
            self.add(stream.upwind, source, w_k * share)
            self.add(stream.downwind, source, -w_k * share * (1 - eps))
            if exchanger:
                self.add(exchanger, source, -w_k * share * eps)
        if exchanger:
            self.add(exchanger, exchanger, w_k * eps)
            self.add(stream.downwind, exchanger, -w_k * eps)


def assemble(machine: Machine, spaces: Spaces, air: AirPicture, air_nodes: list[str], density: float) -> HeatBalance:
    """Heat balance for one air picture; ``density`` in kg/m3."""
    cooler = machine.cooler
    cooler_node = COOLANT if isinstance(cooler, SealedCooler) else FINS
    walls = {space: f"wall_{space}" for space in spaces.ids}
    names = [*air_nodes, cooler_node, *([CARD_CORE] if machine.card else []), *walls.values()]
    rows = _Rows(names)
    heat = density * k.AIR_HEAT_CAPACITY_J_KGK
    for stream in air.streams:
        exchanger, eps = _exchange(machine, stream, heat)
        rows.carry(stream, heat * stream.flow_m3s, exchanger, eps)
        if stream.link.opposed and stream.link.radiator:
            _breathe(rows, stream, heat)
    for e in air.exchanges:
        rows.conduct(e.first, e.second, heat * e.flow_m3s)
    for s in air.sweeps:
        c = heat * s.flow_m3s
        for row, column, value in ((s.to, s.source, -c), (s.to, s.past, c), (s.past, s.source, c), (s.past, s.past, -c)):
            rows.add(row, column, value)
    for space, wall in walls.items():
        film = 2 * k.WALL_LOSS_W_M2K * spaces.wall_m2(space)
        rows.conduct(space, wall, film)
        rows.conduct(wall, ROOM, film)
    core_resistance = _card_core(rows, machine, air) if machine.card else 0.0
    rows.g[np.diag_indices_from(rows.g)] += 1e-9  # nodes without inflow stay at room temperature
    return _with_sources(machine, spaces, rows, cooler_node, core_resistance)


def _exchange(machine: Machine, stream: Stream, heat: float) -> tuple[str | None, float]:
    """The exchanger a stream passes and its effectiveness."""
    link, flow_m3h = stream.link, stream.flow_m3s * M3H_PER_M3S
    capacity = heat * stream.flow_m3s
    if link.radiator and isinstance(machine.cooler, SealedCooler):
        r = link.radiator
        face = r.face_cm2 / len(r.mounts) * link.share
        pump = 0.7 + 0.3 * machine.cooler.pump_pct / 100  # M: coolant side matters little above half speed
        return COOLANT, effectiveness(radiator_ua_w_k(face, r.thickness_mm, flow_m3h, r.ua_factor) * pump, capacity)
    if link.kind == "cooler" and isinstance(machine.cooler, AirCooler):
        c = machine.cooler
        return FINS, effectiveness(finned_ua_w_k(c.ua_ref_w_per_k, flow_m3h, c.flow_ref_m3h), capacity)
    return None, 0.0


def _breathe(rows: _Rows, stream: Stream, heat: float) -> None:
    """Opposed layers: no through flow, a breathing exchange with both sides of the radiator."""
    link = stream.link
    assert link.radiator is not None
    capacity = heat * link.breathing_m3s
    face = link.radiator.face_cm2 / len(link.radiator.mounts) * link.share
    ua = radiator_ua_w_k(face, link.radiator.thickness_mm, link.breathing_m3s * M3H_PER_M3S, link.radiator.ua_factor)
    passed = effectiveness(ua, capacity) * capacity * k.FRESH_BREATH_SHARE / 2
    rows.conduct(COOLANT, link.tail, passed)
    rows.conduct(COOLANT, link.head, passed)


def _card_core(rows: _Rows, machine: Machine, air: AirPicture) -> float:
    """Couples the card's core to the mixture it draws in; returns core minus inlet per watt."""
    card = machine.card
    assert card is not None
    into = [s for s in air.streams if s.link.kind == "card_in" and s.downwind == CARD]
    flow = sum(s.flow_m3s for s in into)
    resistance = card_resistance_k_w(card.r_k_per_w, flow * M3H_PER_M3S, card.fan_flow_max_m3h / 2)
    g = 1 / resistance
    rows.add(CARD_CORE, CARD_CORE, g)
    rows.add(CARD, CARD_CORE, -g)
    for source, share in inlet_mixture(into).items():
        rows.add(CARD_CORE, source, -g * share)
        rows.add(CARD, source, g * share)
    return resistance


def inlet_mixture(streams: list[Stream]) -> dict[str, float]:
    """Shares of the nodes whose air several streams carry together."""
    total = sum(s.flow_m3s for s in streams)
    mixture: dict[str, float] = {}
    for s in streams:
        for source, share in s.of.items():
            mixture[source] = mixture.get(source, 0.0) + share * (s.flow_m3s / total if total > 0 else 1 / len(streams))
    return mixture


def _with_sources(machine: Machine, spaces: Spaces, rows: _Rows, cooler_node: str, core_resistance: float) -> HeatBalance:
    size = len(rows.names)
    fixed, cpu, card = np.zeros(size), np.zeros(size), np.zeros(size)
    for space, share in (("up_mid", 0.5), ("up_rear", 0.2), ("low_mid", 0.2), ("low_rear", 0.1)):
        fixed[rows.at[space]] += share * machine.board_power_w
    if machine.supply_heat_w:
        fixed[rows.at["basement_rear" if machine.shroud else "low_rear"]] += machine.supply_heat_w
    cpu[rows.at[cooler_node]] = 1.0
    if machine.card:
        card[rows.at[CARD_CORE]] = 1.0
    cooler = machine.cooler
    base = cooler.r_plate_k_per_w if isinstance(cooler, SealedCooler) else cooler.r_base_k_per_w
    return HeatBalance(
        rows.names,
        rows.g,
        fixed,
        cpu,
        card,
        _capacities(machine, spaces, rows.names),
        machine.cpu.r_jc_k_per_w + base,
        cooler_node,
        core_resistance,
    )


def _capacities(machine: Machine, spaces: Spaces, names: list[str]) -> Floats:
    """Heat capacity per node in J/K for the transient."""
    cooler = machine.cooler
    special = {CARD_CORE: machine.card.heat_capacity_j_per_k if machine.card else 0.0, FINS: cooler.heat_capacity_j_per_k}
    if isinstance(cooler, SealedCooler):
        litres = k.COOLANT_CAPACITY_J_K + k.COOLANT_EXTRA_J_MLK * (cooler.coolant_ml - 100)
        special[COOLANT] = litres + cooler.heat_capacity_j_per_k
    capacity = []
    for name in names:
        if name.startswith("wall_"):
            capacity.append(k.STRUCTURE_CAPACITY_J_M2K * spaces.wall_m2(name.removeprefix("wall_")))
        else:
            capacity.append(special.get(name, k.ZONE_CAPACITY_J_K if name in spaces.ids else 20.0))
    return np.array(capacity)
