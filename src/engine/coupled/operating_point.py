"""The common equilibrium of air flow, heat, limits and speed curves of one machine."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.air.properties import density_kg_m3
from engine.airflow.solver import ROOM as ROOM_NODE
from engine.airflow.solver import Flows, solve_flows
from engine.coupled.links import CARD, ROOM, Link, Speeds, build_links, node_names
from engine.coupled.spaces import Spaces
from engine.coupled.streams import AirPicture, picture_of
from engine.coupled.thermal import CARD_CORE, COOLANT, HeatBalance, assemble, inlet_mixture
from engine.machine import Machine, SpeedCurve

Floats = NDArray[np.float64]
MOST_ROUNDS = 80
RISE_TOLERANCE_K = 0.01
SPEED_TOLERANCE_PCT = 0.05
LOADS = ("idle", "cpu", "card", "both")


@dataclass(frozen=True)
class Powers:
    """Sustained powers in W after the limits, and whether each part is held at its limit."""

    cpu_w: float
    card_w: float
    cpu_limited: bool = False
    card_limited: bool = False


@dataclass(frozen=True)
class OperatingPoint:
    """Everything that holds at equilibrium. Rises in K over the room, by node name."""

    machine: Machine
    spaces: Spaces
    links: list[Link]
    flows: Flows
    air: AirPicture
    heat: HeatBalance
    rises_k: dict[str, float]
    powers: Powers
    speeds: Speeds
    density: float
    converged: bool

    @property
    def cpu_rise_k(self) -> float:
        return self.rises_k[self.heat.cpu_node] + self.powers.cpu_w * self.heat.cpu_above_k_w

    @property
    def card_rise_k(self) -> float | None:
        return self.rises_k[CARD_CORE] if self.machine.card else None

    def mixture_rise_k(self, mixture: dict[str, float]) -> float:
        """Rise of air mixed from the given shares of nodes."""
        return sum(share * self.rises_k.get(node, 0.0) for node, share in mixture.items())

    @property
    def cpu_inlet_rise_k(self) -> float:
        """Air that the cooler or the radiators draw in."""
        into = [s for s in self.air.streams if s.link.kind == "cooler" or s.link.radiator]
        return self.mixture_rise_k(inlet_mixture(into)) if into else 0.0

    @property
    def card_inlet_rise_k(self) -> float | None:
        into = [s for s in self.air.streams if s.link.kind == "card_in" and s.downwind == CARD]
        return self.mixture_rise_k(inlet_mixture(into)) if into else (0.0 if self.machine.card else None)

    @property
    def rear_rise_k(self) -> float:
        """Mean of the air above the card just ahead of the cooler and behind it."""
        ahead = [s for s in self.air.streams if s.link.kind == "cooler" and s.link.tail.startswith("up_")]
        front = self.mixture_rise_k(inlet_mixture(ahead)) if ahead else self.rises_k["up_mid"]
        return (front + self.rises_k["up_rear"]) / 2


def loaded(machine: Machine, load: str) -> Machine:
    """The machine under a load: parts that idle keep their idle share of power."""
    cpu = machine.cpu if load in ("cpu", "both") else replace(machine.cpu, power_w=machine.cpu.power_w * k.IDLE_POWER_SHARE["cpu"])
    card = machine.card
    if card and load not in ("card", "both"):
        card = replace(card, power_w=card.power_w * k.IDLE_POWER_SHARE["card"])
    return replace(machine, cpu=cpu, card=card)


def operating_point(machine: Machine) -> OperatingPoint:
    """Solves flow, then heat, then what follows from heat (buoyancy, jets, curves, limits), until nothing changes."""
    spaces = Spaces.of(machine)
    room = machine.room
    density = density_kg_m3(room.temperature_c, room.pressure_hpa, room.humidity_pct)
    speeds = Speeds(
        tuple(fan.speed_pct for fan in machine.fans), getattr(machine.cooler, "fan_pct", 0.0), machine.card.fan_pct if machine.card else 0.0
    )
    links = build_links(machine, speeds, density, spaces)
    nodes = list(dict.fromkeys([*spaces.ids, *node_names(links)]))
    at = {name: i for i, name in enumerate(nodes)} | {ROOM: ROOM_NODE}
    tail, head = np.array([at[x.tail] for x in links]), np.array([at[x.head] for x in links])
    built_for = speeds
    rises: dict[str, float] = {}
    flows: Flows | None = None
    settled = False
    for round_no in range(MOST_ROUNDS):
        if speeds != built_for:
            links, built_for = build_links(machine, speeds, density, spaces), speeds
        extra = _buoyancy_pa(machine, spaces, links, rises, density, room.temperature_c)
        if flows is not None:
            extra += _jets_pa(machine, links, flows, density)
        flows = _solve(links, tail, head, len(nodes), extra, flows)
        air = picture_of(machine, spaces, links, flows.flow_m3s.tolist())
        heat = assemble(machine, spaces, air, nodes, density)
        powers, solved = _within_limits(machine, heat)
        point = OperatingPoint(machine, spaces, links, flows, air, heat, solved, powers, speeds, density, False)
        wanted = _curve_speeds(point)
        change_k = max(abs(solved[n] - rises.get(n, -99.0)) for n in solved)
        change_pct = max(
            [
                abs(a - b)
                for a, b in zip((*wanted.fans, wanted.cooler, wanted.card), (*speeds.fans, speeds.cooler, speeds.card), strict=True)
            ]
        )
        blend = 1.0 if round_no < 8 else 0.6
        rises = {n: blend * solved[n] + (1 - blend) * rises.get(n, 0.0) for n in solved}
        if change_k < RISE_TOLERANCE_K and change_pct < SPEED_TOLERANCE_PCT:
            settled = flows.converged
            break
        step = 0.5 if round_no < 25 else 0.2
        speeds = _between(speeds, wanted, step)
    return replace(point, converged=settled)


def _solve(links: list[Link], tail: NDArray[np.int64], head: NDArray[np.int64], count: int, extra: Floats, before: Flows | None) -> Flows:
    source = np.array([x.source_pa for x in links]) + extra
    a = np.array([x.resistance.a for x in links])
    b = np.array([x.resistance.b for x in links])
    return solve_flows(count, tail, head, source, a, b, before.pressure_pa if before else None)


def _between(now: Speeds, wanted: Speeds, step: float) -> Speeds:
    fans = tuple(a + step * (b - a) for a, b in zip(now.fans, wanted.fans, strict=True))
    return Speeds(fans, now.cooler + step * (wanted.cooler - now.cooler), now.card + step * (wanted.card - now.card))


def _buoyancy_pa(machine: Machine, spaces: Spaces, links: list[Link], rises: dict[str, float], density: float, room_c: float) -> Floats:
    """Driving pressure by the warm columns between a node's height and the link's (source: contam)."""
    pa = np.zeros(len(links))
    if not rises:
        return pa
    per_mm = k.GRAVITY_M_S2 * density / (room_c + 273.15) * 1e-3

    def weight_pa(node: str, link_z_mm: float) -> float:
        if node not in spaces.ids:
            return 0.0
        return per_mm * rises[node] * (link_z_mm - spaces.centre_mm(node).z)

    for i, link in enumerate(links):
        if link.kind in ("card_in", "card_out", "cooler"):
            continue
        z_mm = _link_height_mm(machine, spaces, link)
        pa[i] = weight_pa(link.tail, z_mm) - weight_pa(link.head, z_mm)
    return pa


def _link_height_mm(machine: Machine, spaces: Spaces, link: Link) -> float:
    rows = [node.split("_")[0] for node in (link.tail, link.head) if node in spaces.ids]
    if len(rows) == 2 and rows[0] != rows[1]:
        return spaces.z_mm[rows[0]][1]
    node = link.head if link.head in spaces.ids else link.tail
    if node not in spaces.ids:
        return 0.0
    face = machine.mounts[link.mount].face if link.mount else link.id.split(":")[1] if link.kind in ("face", "panel") else ""
    if face == "top":
        return machine.height_mm
    if face == "bottom":
        return spaces.z_mm[node.split("_")[0]][0]
    return spaces.centre_mm(node).z


def _jets_pa(machine: Machine, links: list[Link], flows: Flows, density: float) -> Floats:
    """A front intake's momentum helps the next opening: ``eta rho Q^2 / (A_fan A_link)`` (source: trade)."""
    pa = np.zeros(len(links))
    for row in ("low", "up"):
        jets = [
            (q, link.area_m2)
            for q, link in zip(flows.flow_m3s, links, strict=True)
            if q > 0 and link.kind == "fan" and link.mount and machine.mounts[link.mount].face == "front" and link.head == f"{row}_front"
        ]
        if not jets:
            continue
        momentum = sum(q * q / area for q, area in jets)
        for i, link in enumerate(links):
            if link.id == f"inside:{row}_front|{row}_mid":
                pa[i] = k.JET_ETA * density * momentum / link.area_m2
    return pa


def _within_limits(machine: Machine, heat: HeatBalance) -> tuple[Powers, dict[str, float]]:
    """Powers that keep both parts at or under their limits, and the rises with them.

    Rises are linear in both powers, so each set of held parts is one small linear system; the first that fits is taken.
    """
    response = np.linalg.solve(heat.g, np.stack([heat.fixed_w, heat.cpu_w, heat.card_w], axis=1))
    cpu_row = response[heat.index(heat.cpu_node)] + np.array([0.0, heat.cpu_above_k_w, 0.0])
    rows, limits, full = [cpu_row], [machine.cpu.tj_max_c - machine.room.temperature_c], [machine.cpu.power_w]
    if machine.card:
        rows.append(response[heat.index(CARD_CORE)])
        limits.append(machine.card.t_limit_c - machine.room.temperature_c)
        full.append(machine.card.power_w)
    base = np.array([r[0] for r in rows])
    gain = np.array([r[1 : 1 + len(rows)] for r in rows])
    limit, full_w = np.array(limits), np.array(full)
    power = full_w
    for held in ([], [0], [1], [0, 1]):
        if held and held[-1] >= len(rows):
            continue
        power = full_w.copy()
        if held:
            free = [i for i in range(len(rows)) if i not in held]
            rest = limit[held] - base[held] - gain[np.ix_(held, free)] @ power[free]
            power[held] = np.clip(np.linalg.solve(gain[np.ix_(held, held)], rest), 0.0, full_w[held])
        if np.all(base + gain @ power <= limit + 1e-6):
            break
    cpu_w, card_w = float(power[0]), float(power[1]) if machine.card else 0.0
    rises = response @ np.array([1.0, cpu_w, card_w])
    card_limited = machine.card is not None and card_w < machine.card.power_w - 1e-6
    powers = Powers(cpu_w, card_w, cpu_w < machine.cpu.power_w - 1e-6, card_limited)
    return powers, dict(zip(heat.names, rises.tolist(), strict=True))


def _curve_speeds(point: OperatingPoint) -> Speeds:
    """Speeds that the curves ask for at the present temperatures; fixed speeds stay."""
    m, room_c = point.machine, point.machine.room.temperature_c
    cpu, card = point.cpu_rise_k, point.card_rise_k
    board = sum(point.rises_k[s] for s in ("low_mid", "low_rear", "up_mid", "up_rear")) / 4
    rises = {
        "cpu": cpu,
        "card": card if card is not None else cpu,
        "hotter": max(cpu, card if card is not None else cpu),
        "coolant": point.rises_k.get(COOLANT, cpu),
        "board": board,
        "case_air": point.rear_rise_k,
    }

    def asked(curve: SpeedCurve | None, fixed: float) -> float:
        if curve is None:
            return fixed
        return float(np.interp(room_c + rises[curve.source], curve.temperatures_c, curve.speeds_pct))

    fans = tuple(asked(fan.curve, fan.speed_pct) for fan in m.fans)
    cooler = asked(getattr(m.cooler, "curve", None), getattr(m.cooler, "fan_pct", 0.0))
    return Speeds(fans, cooler, asked(m.card.curve, m.card.fan_pct) if m.card else 0.0)
