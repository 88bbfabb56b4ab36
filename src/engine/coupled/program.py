"""A machine compiled to arrays: what the kernels read. One program serves every layout that shares its links.

What varies from layout to layout (fans, speeds, curves, powers, room) stands in ``Variants``, one row each, so that
thousands are solved in one call and a parameter vector can change from row to row.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.air.properties import density_kg_m3
from engine.airflow.fans import TABLE_POINTS, pressure_table_pa
from engine.coupled.directed import Exchange, Move, directed_air, exchanges
from engine.coupled.links import (
    CARD,
    ROOM,
    Link,
    build_links,
    cooler_slot,
    drawn_fins,
    fan_slots,
    node_names,
    pump_slot,
)
from engine.coupled.spaces import Spaces
from engine.machine import AirCooler, Fan, Machine, SealedCooler, SpeedCurve
from engine.parameters import INDEX
from engine.units import M3H_PER_M3S

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

SPECIAL = 5  # nodes after the air: room, fins or coolant, cooler outlet, card core, the card's own coolant
PLAIN, RADIATOR, COOLER, CARD_IN, CARD_OUT = range(5)  # codes of roles
ROLES = {"cooler": COOLER, "card_in": CARD_IN, "card_out": CARD_OUT}
SOURCES = ("cpu", "card", "hotter", "coolant", "board", "case_air")
VARIED = frozenset({"layout_id", "room", "fans"})  # of a machine, what is not part of its network
BOARD_SPACES = ("low_mid", "low_rear", "up_mid", "up_rear")


class Program(NamedTuple):
    """Arrays of one network; nodes 0 to n-1 are air, n the room, then fins or coolant, cooler outlet, card core, coolant of
    a loop of the card's own."""

    n: int
    tail: Ints
    head: Ints
    role: Ints
    share: Floats
    area_m2: Floats
    element_start: Ints
    element_code: Ints
    element_x: Floats
    element_y: Floats
    rotor_start: Ints
    rotor_slot: Ints
    covered: Ints
    upright: Ints
    rises_up: Ints  # outlets of the card that feed the air above it
    buoyancy_tail_mm: Floats
    buoyancy_head_mm: Floats
    radiator_face_cm2: Floats
    radiator_thickness_mm: Floats
    radiator_factor: Floats
    sink: Ints  # node of the fins or coolant that a link's exchanger gives off heat from
    jet_source: Ints
    jet_target: Ints
    jet_factor: Floats
    exchange_a: Ints
    exchange_b: Ints
    exchange_par: Ints
    exchange_factor: Floats
    exchange_link: Ints
    move_kind: Ints
    move_source: Ints
    move_to: Ints
    move_chain: Ints
    move_par: Ints
    move_factor: Floats
    move_part: Floats
    move_source_sign: Floats
    move_to_sign: Floats
    across: Ints
    sweeping: Ints  # links whose air carries a cooler's outlet away from its inlet
    edge: Ints
    top: Ints
    bottom: Ints
    cooler_slot: int
    board: Ints
    ahead: int
    cooler_ahead: Ints  # paths through the cooler that draw from above the card
    behind: int
    wall_m2: Floats
    fixed_w: Floats
    air_cooler: int
    drawn_fins: float  # 0 where the cooler's fan blows at its fins, 1 and more where it draws through them
    ua_ref_w_k: float
    flow_ref_m3h: float
    cpu_above_k_w: float
    card: int
    card_r_k_w: float
    card_reference_m3h: float
    card_sink: int  # coolant that the card's block gives its heat to, -1 for a card cooled by air
    card_block_w_k: float


class Variants(NamedTuple):
    """Rows of layouts: fans by slot, curves, powers, limits, room. ``table`` is used where ``by_table`` is 1."""

    pressure_pa: Floats  # (rows, slots)
    flow_m3s: Floats
    linear: Floats
    sign: Floats  # +1 intake, -1 exhaust, 0 none
    speed: Floats  # share of full speed
    curve: Ints  # index of the curve, -1 for a fixed speed
    by_table: Ints
    table: Floats  # (rows, slots, TABLE_POINTS)
    power_w: Floats  # (rows, 2): processor, card
    limit_k: Floats  # (rows, 2) over the room
    room_c: Floats
    density: Floats


class Curves(NamedTuple):
    """Speed curves in one list of points."""

    source: Ints
    start: Ints
    temperature_c: Floats
    speed: Floats
    hysteresis_k: Floats
    ramp_s: Floats


@dataclass(frozen=True)
class Plan:
    """A machine's network with its names."""

    machine: Machine
    spaces: Spaces
    links: tuple[Link, ...]
    nodes: tuple[str, ...]
    moves: tuple[Move, ...]
    exchanges: tuple[Exchange, ...]

    @classmethod
    def of(cls, machine: Machine) -> "Plan":
        spaces = Spaces.of(machine)
        links = build_links(machine, spaces)
        nodes = tuple(dict.fromkeys([*spaces.ids, *node_names(links)]))
        return cls(
            machine, spaces, tuple(links), nodes, tuple(directed_air(machine, spaces, links)), tuple(exchanges(machine, spaces, links))
        )

    @cached_property
    def at(self) -> dict[str, int]:
        """Index of every node by name, the room's after the last."""
        return {name: i for i, name in enumerate(self.nodes)} | {ROOM: len(self.nodes)}

    @property
    def slots(self) -> int:
        return cooler_slot(self.machine) + 4

    @cached_property
    def program(self) -> Program:
        return _compile(self)

    @staticmethod
    def frame(machine: Machine) -> tuple[object, ...]:
        """What makes the network: machines with equal frames differ only in their variants and share a plan."""
        gapped = any(r.gap_mm >= 1 for loop in machine.loops for r in loop.radiators)
        layers = tuple((f.mount, f.layer) for f in machine.fans) if gapped else ()
        return (*(repr(getattr(machine, name)) for name in machine.__dataclass_fields__ if name not in VARIED), layers)


def _ints(values: Sequence[int] | Sequence[bool]) -> Ints:
    return np.array(values, dtype=np.int64)


def _floats(values: Sequence[float]) -> Floats:
    return np.array(values, dtype=np.float64)


def _starts(groups: Sequence[Sequence[object]]) -> Ints:
    return np.concatenate([[0], np.cumsum([len(g) for g in groups])]).astype(np.int64)


def _role(link: Link) -> int:
    return RADIATOR if link.radiator else ROLES.get(link.kind, PLAIN)


def _compile(plan: Plan) -> Program:
    m, links, at = plan.machine, plan.links, plan.at
    index = {link.id: i for i, link in enumerate(links)}
    elements = [e for link in links for e in link.elements]
    heights = [_buoyancy_mm(plan, link) for link in links]
    cooler = m.cooler
    radiators = [link.radiator for link in links]
    jets = [(i, index[t], 1.0) for i, link in enumerate(links) for t in _jet_targets(plan, link) if t in index]
    jets += [(x.source, x.to, x.factor) for x in plan.moves if x.parameter == INDEX["jet_to_cooler"] and _faces_front(plan, x.source)]
    base = cooler.r_plate_k_per_w if isinstance(cooler, SealedCooler) else cooler.r_base_k_per_w
    air = cooler if isinstance(cooler, AirCooler) else None
    card, n = m.card, len(plan.nodes)
    own = m.card_loop.radiators if m.card_loop else ()
    block = card.block_k_per_w if card else None
    card_sink = -1 if block is None else n + 4 if m.card_loop else n + 1
    mount_face = [m.mounts[x.mount].face if x.mount and not m.mounts[x.mount].on_shroud else "" for x in links]
    return Program(
        n=n,
        tail=_ints([at[x.tail] for x in links]),
        head=_ints([at[x.head] for x in links]),
        role=_ints([_role(x) for x in links]),
        share=_floats([x.share for x in links]),
        area_m2=_floats([x.area_m2 for x in links]),
        element_start=_starts([x.elements for x in links]),
        element_code=_ints([e.code for e in elements]),
        element_x=_floats([e.x for e in elements]),
        element_y=_floats([e.y for e in elements]),
        rotor_start=_starts([x.rotors for x in links]),
        rotor_slot=_ints([slot for x in links for slot in x.rotors]),
        covered=_ints([x.covered for x in links]),
        upright=_ints([x.scale_upright for x in links]),
        rises_up=_ints([x.kind == "card_out" and x.head.startswith("up_") for x in links]),
        buoyancy_tail_mm=_floats([h[0] for h in heights]),
        buoyancy_head_mm=_floats([h[1] for h in heights]),
        radiator_face_cm2=_floats([r.face_cm2 / len(r.mounts) * x.share if r else 0.0 for r, x in zip(radiators, links, strict=True)]),
        radiator_thickness_mm=_floats([r.thickness_mm if r else 1.0 for r in radiators]),
        radiator_factor=_floats([r.ua_factor if r else 0.0 for r in radiators]),
        sink=_ints([n + 4 if r in own else n + 1 for r in radiators]),
        jet_source=_ints([j[0] for j in jets]),
        jet_target=_ints([j[1] for j in jets]),
        jet_factor=_floats([j[2] for j in jets]),
        exchange_a=_ints([at[e.first] for e in plan.exchanges]),
        exchange_b=_ints([at[e.second] for e in plan.exchanges]),
        exchange_par=_ints([e.parameter for e in plan.exchanges]),
        exchange_factor=_floats([e.factor for e in plan.exchanges]),
        exchange_link=_ints([e.link for e in plan.exchanges]),
        move_kind=_ints([x.kind for x in plan.moves]),
        move_source=_ints([x.source for x in plan.moves]),
        move_to=_ints([x.to for x in plan.moves]),
        move_chain=_ints([x.chain for x in plan.moves]),
        move_par=_ints([x.parameter for x in plan.moves]),
        move_factor=_floats([x.factor for x in plan.moves]),
        move_part=_floats([x.part for x in plan.moves]),
        move_source_sign=_floats([x.source_sign for x in plan.moves]),
        move_to_sign=_floats([x.to_sign for x in plan.moves]),
        across=_ints([i for i, x in enumerate(links) if x.kind == "inside" and x.tail == "up_front"]),
        sweeping=_ints([i for i, x in enumerate(links) if x.kind == "face" or (x.kind == "inside" and x.tail == "up_front")]),
        edge=_ints([i for i, x in enumerate(links) if x.kind == "inside" and x.tail[:4] == "low_" and x.head[:3] == "up_"]),
        top=_ints([i for i, f in enumerate(mount_face) if f == "top"]),
        bottom=_ints([i for i, f in enumerate(mount_face) if f == "bottom"]),
        cooler_slot=cooler_slot(m),
        board=_ints([at[x] for x in BOARD_SPACES]),
        ahead=at["up_mid"],
        cooler_ahead=_ints([i for i, x in enumerate(links) if x.kind == "cooler" and x.tail.startswith("up_")]),
        behind=at["up_rear"],
        wall_m2=_floats([plan.spaces.wall_m2(x) if x in plan.spaces.ids else 0.0 for x in plan.nodes]),
        fixed_w=_fixed_w(plan),
        air_cooler=int(air is not None),
        drawn_fins=drawn_fins(air) if air else 0.0,
        ua_ref_w_k=air.ua_ref_w_per_k if air else 0.0,
        flow_ref_m3h=air.flow_ref_m3h if air else 1.0,
        cpu_above_k_w=m.cpu.r_jc_k_per_w + base,
        card=-1 if card is None else card_sink if card_sink >= 0 else at[CARD],
        card_r_k_w=card.r_k_per_w if card else 1.0,
        card_reference_m3h=card.fan_flow_max_m3h / 2 if card else 1.0,
        card_sink=card_sink,
        card_block_w_k=1 / block if block else 0.0,
    )


def _faces_front(plan: Plan, link: int) -> bool:
    mount = plan.links[link].mount
    return mount is not None and plan.machine.mounts[mount].face == "front"


def _jet_targets(plan: Plan, link: Link) -> list[str]:
    """Links that a front mount's jet blows at, by id."""
    if not link.mount or plan.machine.mounts[link.mount].face != "front" or not link.head.endswith("_front"):
        return []
    row = link.head.split("_")[0]
    return [f"inside:{row}_front|{row}_mid", f"inside:{row}_front|{row}_side"]


def _fixed_w(plan: Plan) -> Floats:
    """Heat of board and supply per node, the special nodes included."""
    watts = np.zeros(len(plan.nodes) + SPECIAL)
    for space, share in k.BOARD_HEAT_SHARES:
        watts[plan.at[space]] += share * plan.machine.board_power_w
    if plan.machine.supply_heat_w:
        watts[plan.at["basement_rear" if plan.machine.shroud else "low_rear"]] += plan.machine.supply_heat_w
    return watts


def _buoyancy_mm(plan: Plan, link: Link) -> tuple[float, float]:
    """Heights of the link above the centres of its two spaces; 0 where a node has no height of its own."""
    ids = plan.spaces.ids
    if link.kind in ("card_in", "card_out", "cooler"):
        return 0.0, 0.0
    z_mm = _link_height_mm(plan, link)
    tail, head = (z_mm - plan.spaces.centre_mm(x).z if x in ids else 0.0 for x in (link.tail, link.head))
    return tail, head


def _link_height_mm(plan: Plan, link: Link) -> float:
    m, spaces = plan.machine, plan.spaces
    rows = [node.split("_")[0] for node in (link.tail, link.head) if node in spaces.ids]
    if len(rows) == 2 and rows[0] != rows[1]:
        return spaces.z_mm[rows[0]][1]
    node = link.head if link.head in spaces.ids else link.tail
    if node not in spaces.ids:
        return 0.0
    if link.mount:
        face: str = m.mounts[link.mount].face
    else:
        face = link.id.split(":")[1] if link.kind in ("face", "panel") else ""
    if face == "top":
        return m.height_mm
    if face == "bottom":
        return spaces.z_mm[node.split("_")[0]][0]
    return spaces.centre_mm(node).z


class _Slots:
    """Fans of one row, by slot."""

    def __init__(self, slots: int) -> None:
        self.pressure_pa, self.flow_m3s, self.linear = np.ones(slots), np.ones(slots), np.full(slots, k.FAN_CURVE_LINEAR_SHARE)
        self.sign, self.speed = np.zeros(slots), np.zeros(slots)
        self.curve, self.by_table = np.full(slots, -1, np.int64), np.zeros(slots, np.int64)
        self.table = np.zeros((slots, TABLE_POINTS))

    def put(self, slot: int, sign: float, flow_m3h: float, pressure_pa: float, linear: float, speed_pct: float, curve: int) -> None:
        self.sign[slot], self.flow_m3s[slot], self.pressure_pa[slot] = sign, flow_m3h / M3H_PER_M3S, pressure_pa
        self.linear[slot], self.speed[slot], self.curve[slot] = linear, speed_pct / 100, curve

    def turn(self, slot: int, speed_pct: float, curve: int) -> None:
        """Something that turns without moving air: the pump."""
        self.speed[slot], self.curve[slot] = speed_pct / 100, curve

    def measured(self, slot: int, fan: Fan) -> None:
        if fan.points:
            self.by_table[slot], self.table[slot] = 1, pressure_table_pa(fan.points, fan.flow_max_m3h)


def variants(plan: Plan, machines: Sequence[Machine]) -> tuple[Variants, Curves]:
    """Rows for machines that share the plan's links, and the curves they follow."""
    known: dict[SpeedCurve, int] = {}

    def curve(c: SpeedCurve | None) -> int:
        return -1 if c is None else known.setdefault(c, len(known))

    rows = []
    for m in machines:
        row = _Slots(plan.slots)
        for placed, slot in zip(m.fans, fan_slots(m), strict=True):
            f = placed.fan
            sign = 1.0 if placed.direction == "intake" else -1.0
            speed = placed.speed_pct if placed.running else 0.0
            row.put(slot, sign, f.flow_max_m3h, f.pressure_max_pa, f.linear_share, speed, curve(placed.curve) if placed.running else -1)
            row.measured(slot, f)
        own = cooler_slot(plan.machine)
        if isinstance(m.cooler, AirCooler):
            c, f = m.cooler, m.cooler.fan
            row.put(own, 1.0, f.flow_max_m3h, f.pressure_max_pa * c.fans, f.linear_share, c.fan_pct, curve(c.curve))
        if isinstance(m.cooler, SealedCooler):
            row.turn(pump_slot(m), m.cooler.pump_pct, curve(m.cooler.pump_curve))
        if m.card_loop:
            row.turn(pump_slot(m) + 1, m.card_loop.pump_pct, curve(m.card_loop.pump_curve))
        if m.card_on_air:
            g = m.card_on_air
            row.put(own + 1, 1.0, g.fan_flow_max_m3h, g.fan_pressure_max_pa, k.FAN_CURVE_LINEAR_SHARE, g.fan_pct, curve(g.curve))
        rows.append(row)
    rooms = [m.room for m in machines]
    limits = [(m.cpu.tj_max_c - m.room.temperature_c, (m.card.t_limit_c if m.card else 1e6) - m.room.temperature_c) for m in machines]
    made = Variants(
        np.array([r.pressure_pa for r in rows]),
        np.array([r.flow_m3s for r in rows]),
        np.array([r.linear for r in rows]),
        np.array([r.sign for r in rows]),
        np.array([r.speed for r in rows]),
        np.array([r.curve for r in rows]),
        np.array([r.by_table for r in rows]),
        np.array([r.table for r in rows]),
        np.array([(m.cpu.power_w, m.card.power_w if m.card else 0.0) for m in machines]),
        np.array(limits, dtype=np.float64),
        _floats([r.temperature_c for r in rooms]),
        _floats([density_kg_m3(r.temperature_c, r.pressure_hpa, r.humidity_pct) for r in rooms]),
    )
    points = [list(zip(c.temperatures_c, c.speeds_pct, strict=True)) for c in known]
    flat = [p for group in points for p in group]
    curves = Curves(
        _ints([SOURCES.index(c.source) for c in known]),
        _starts(points),
        _floats([p[0] for p in flat]),
        _floats([p[1] / 100 for p in flat]),
        _floats([c.hysteresis_k for c in known]),
        _floats([c.ramp_s for c in known]),
    )
    return made, curves
