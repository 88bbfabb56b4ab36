"""The common equilibrium of air flow, heat, limits and speed curves of one machine, with names on its figures."""

from collections import OrderedDict
from dataclasses import dataclass, replace
from functools import cached_property
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled import kernel, streams
from engine.coupled.batch import Settled, Start, settle_variants
from engine.coupled.links import Link, cooler_slot, fan_slots
from engine.coupled.program import CARD_IN, COOLER, RADIATOR, SPECIAL, Curves, Plan, Variants, variants
from engine.coupled.spaces import Spaces
from engine.machine import Machine, SealedCooler
from engine.parameters import COUNT, DEFAULT, INDEX, SPREADS

Floats = NDArray[np.float64]
LOADS = ("idle", "cpu", "card", "both", "own")
COOLANT, FINS, CARD_CORE, CARD_COOLANT = "coolant", "fins", "card_core", "card_coolant"
HALF_SIGMA = 0.5  # numerical
APART_K = 0.5  # two equilibria of one layout differ by more than this


@dataclass(frozen=True)
class Powers:
    """Sustained powers in W after the limits, and whether each part is held at its limit."""

    cpu_w: float
    card_w: float
    cpu_limited: bool = False
    card_limited: bool = False


@dataclass(frozen=True)
class Speeds:
    """Speeds in % at equilibrium: case fans in the layout's order, the cooler's, the card's, the pump's."""

    fans: tuple[float, ...]
    cooler: float
    card: float
    pump: float


@dataclass(frozen=True)
class Curving:
    """How the speed curves come to rest: loop gain below -1 hunts, and a second equilibrium in K apart if there is one."""

    loop_gain: float = 0.0
    other_cpu_rise_k: float | None = None


@dataclass(frozen=True)
class OperatingPoint:
    """Everything that holds at equilibrium. Rises in K over the room; flows in m3/s along the links, mass over the room's density."""

    machine: Machine
    plan: Plan
    parameters: Floats
    pressure_pa: Floats
    flow_m3s: Floats
    node_rise_k: Floats
    speed: Floats
    moved_m3s: Floats
    effectiveness: Floats
    powers: Powers
    cross_flow_ratio: float
    core_w_k: float
    converged: bool
    curving: Curving = Curving()

    @property
    def links(self) -> tuple[Link, ...]:
        return self.plan.links

    @property
    def spaces(self) -> Spaces:
        return self.plan.spaces

    @property
    def density(self) -> float:
        return float(self.rows[0].density[0])

    @cached_property
    def rows(self) -> tuple[Variants, Curves]:
        """This machine as a row for the kernels."""
        return variants(self.plan, [self.machine])

    @property
    def near(self) -> Start:
        """A start for layouts that differ little from this one."""
        return Start(self.pressure_pa, self.flow_m3s, self.node_rise_k)

    @property
    def cooler_node(self) -> str:
        return COOLANT if isinstance(self.machine.cooler, SealedCooler) else FINS

    @cached_property
    def rises_k(self) -> dict[str, float]:
        """Rise by name: spaces, fins or coolant, and the card's core."""
        n = len(self.plan.nodes)
        named = dict(zip(self.plan.nodes, self.node_rise_k.tolist(), strict=False))
        named[self.cooler_node] = float(self.node_rise_k[n + 1])
        if self.machine.card:
            named[CARD_CORE] = float(self.node_rise_k[n + 3])
        if self.machine.card_loop:
            named[CARD_COOLANT] = float(self.node_rise_k[n + 4])
            named.setdefault(COOLANT, named[CARD_COOLANT])
        return named

    @cached_property
    def speeds(self) -> Speeds:
        own = cooler_slot(self.machine)
        fans = tuple(float(100 * self.speed[s]) for s in fan_slots(self.machine))
        return Speeds(fans, *(float(100 * s) for s in self.speed[own : own + 3]))

    @cached_property
    def carried_k(self) -> Floats:
        """Rise of the air that each link draws in, directed air included."""
        out = np.zeros(len(self.links))
        streams.carried_k(self.plan.program, self.flow_m3s, self.effectiveness, self.moved_m3s, self.node_rise_k, out)
        return out

    @cached_property
    def through_m3s(self) -> dict[str, float]:
        """What passes through each space: half of what comes in and goes out."""
        passing = np.zeros(self.plan.program.n + SPECIAL)
        program = self.plan.program
        np.add.at(passing, program.tail, np.abs(self.flow_m3s) / 2)
        np.add.at(passing, program.head, np.abs(self.flow_m3s) / 2)
        return {name: float(passing[self.plan.at[name]]) for name in self.spaces.ids}

    @property
    def cpu_above_k_w(self) -> float:
        """From fins or coolant to the processor's core."""
        return self.plan.program.cpu_above_k_w * float(self.parameters[INDEX["cpu_path"]])

    @property
    def cpu_rise_k(self) -> float:
        return self.rises_k[self.cooler_node] + self.powers.cpu_w * self.cpu_above_k_w

    @property
    def card_rise_k(self) -> float | None:
        return self.rises_k[CARD_CORE] if self.machine.card else None

    @property
    def cpu_inlet_rise_k(self) -> float:
        """Air that the processor's cooler or radiators draw in."""
        pg = self.plan.program
        return self._drawn_k(np.isin(pg.role, (COOLER, RADIATOR)) & (pg.sink == pg.n + 1))

    @property
    def card_inlet_rise_k(self) -> float | None:
        if not self.machine.card_on_air:
            return None
        return float(streams.card_inlet_k(self.plan.program, self.flow_m3s, self.carried_k, self.node_rise_k))

    @property
    def loop_inlet_rise_k(self) -> float:
        """Air that the radiators of every loop draw in."""
        return self._drawn_k(self.plan.program.role == RADIATOR)

    def _drawn_k(self, links: NDArray[np.bool_]) -> float:
        flow = np.abs(self.flow_m3s) * links
        return float(flow @ self.carried_k / flow.sum()) if flow.sum() > 0 else 0.0

    @cached_property
    def sensitivity_k(self) -> Floats:
        """Change of each of ``batch.FIGURES`` in K per one sigma of each parameter's prior: (figures, parameters).

        Forward differences half a sigma wide, all in one batch; held speeds follow their curves.
        """
        va, curves = self.rows
        shaken = np.tile(self.parameters, (COUNT + 1, 1))
        shaken[1:][np.diag_indices(COUNT)] *= SPREADS**HALF_SIGMA
        found = settle_variants(self.plan, va, curves, shaken, self.speed, self.near)
        return np.asarray((found.figures_k[1:] - found.figures_k[0]).T / HALF_SIGMA)

    @property
    def card_flow_m3s(self) -> float:
        return float(np.maximum(self.flow_m3s, 0.0) @ (self.plan.program.role == CARD_IN))

    @property
    def rear_rise_k(self) -> float:
        """Mean of the air above the card just ahead of the cooler and behind it."""
        return float(kernel.rear_rise_k(self.plan.program, self.node_rise_k, self.carried_k))


class PlanMemory:
    """The latest plans, so that a flip does not build its network anew."""

    def __init__(self, most: int = 32) -> None:
        self._most = most
        self._plans: OrderedDict[object, Plan] = OrderedDict()
        self._lock = Lock()

    def plan(self, machine: Machine) -> Plan:
        key = Plan.frame(machine)
        with self._lock:
            if key in self._plans:
                self._plans.move_to_end(key)
                return self._plans[key]
        made = Plan.of(machine)
        with self._lock:
            self._plans[key] = made
            while len(self._plans) > self._most:
                self._plans.popitem(last=False)
        return made


PLANS = PlanMemory()


def loaded(machine: Machine, load: str, own: tuple[float, float] = (1.0, 1.0)) -> Machine:
    """The machine under a load: parts that idle keep their idle share of power; ``own`` holds the two shares of load "own"."""
    idle = (k.IDLE_POWER_SHARE["cpu"], k.IDLE_POWER_SHARE["card"])
    shares = own if load == "own" else (1.0 if load in ("cpu", "both") else idle[0], 1.0 if load in ("card", "both") else idle[1])
    cpu = replace(machine.cpu, power_w=machine.cpu.power_w * shares[0])
    card = machine.card and replace(machine.card, power_w=machine.card.power_w * shares[1])
    return replace(machine, cpu=cpu, card=card)


def operating_point(machine: Machine, parameters: Floats = DEFAULT) -> OperatingPoint:
    """Solves flow, heat, limits and curves of one machine to their equilibrium.

    Where fans follow curves it starts from rest and from full speed: two different ends are two equilibria, of which the
    one from rest is reported (a machine is switched on cold).
    """
    plan = PLANS.plan(machine)
    va, curves = variants(plan, [machine])
    curved = va.curve[0] >= 0
    if not curved.any():
        return _named(machine, plan, parameters, settle_variants(plan, va, curves, parameters), 0, Curving())
    low, high = (np.where(curved, share, va.speed[0]) for share in (0.0, 1.0))
    ends = [settle_variants(plan, va, curves, parameters, start) for start in (low, high)]
    points = [_named(machine, plan, parameters, end, 0, Curving()) for end in ends]
    chosen, other = points if points[0].converged or not points[1].converged else points[::-1]
    apart = other.converged and abs(other.cpu_rise_k - chosen.cpu_rise_k) > APART_K
    gain = _loop_gain(plan, va, curves, parameters, chosen)
    return replace(chosen, curving=Curving(gain, other.cpu_rise_k if apart else None))


def _loop_gain(plan: Plan, va: Variants, curves: Curves, parameters: Floats, point: OperatingPoint) -> float:
    """Change of the speeds that the curves ask for, per change of speed, once heat has followed: below -1 they hunt."""
    curved = va.curve[0] >= 0
    nudge = 0.02
    asked = []
    for shift in (-nudge, nudge):
        speed = np.where(curved, np.maximum(point.speed + shift, 0.0), va.speed)
        held = va._replace(speed=speed, curve=np.full_like(va.curve, -1))
        end = settle_variants(plan, held, curves, parameters, start=point.near)
        asked.append((speed[0], _asked(plan, va, curves, parameters, end, point)))
    (slow, at_slow), (fast, at_fast) = asked
    change = ((at_fast - at_slow) / np.maximum(fast - slow, nudge))[curved]
    return float(change.min(initial=0.0))


def _asked(plan: Plan, va: Variants, curves: Curves, parameters: Floats, end: Settled, point: OperatingPoint) -> Floats:
    held = _named(point.machine, plan, parameters, end, 0, Curving())
    hot = np.zeros(6)
    kernel.sensed(plan.program, held.node_rise_k, held.carried_k, held.cpu_rise_k, hot)
    asked = np.array(point.speed)
    for s, c in enumerate(va.curve[0]):
        if c >= 0:
            asked[s] = kernel.curve_speed(curves, c, va.room_c[0] + hot[curves.source[c]])
    return asked


def _named(machine: Machine, plan: Plan, parameters: Floats, found: Settled, row: int, curving: Curving) -> OperatingPoint:
    cpu_w, card_w = (float(x) for x in found.power_w[row])
    card = machine.card
    powers = Powers(cpu_w, card_w, cpu_w < machine.cpu.power_w - 1e-6, card is not None and card_w < card.power_w - 1e-6)
    return OperatingPoint(
        machine,
        plan,
        parameters,
        found.pressure_pa[row],
        found.flow_m3s[row],
        found.rise_k[row],
        found.speed[row],
        found.moved_m3s[row],
        found.effectiveness[row],
        powers,
        float(found.told[row, 2]),
        float(found.told[row, 3]),
        bool(found.converged[row]),
        curving,
    )
