"""How a machine warms, cools and copes over time: load profiles, live speed curves, and things that fail."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.coupled import kernel
from engine.coupled.links import cooler_slot, fan_slots
from engine.coupled.march import COLUMNS, State, march
from engine.coupled.operating_point import PLANS, OperatingPoint, operating_point
from engine.coupled.program import SPECIAL, Plan, variants
from engine.errors import ImpossibleInputError
from engine.machine import Machine, SealedCooler
from engine.parameters import DEFAULT, INDEX

Floats = NDArray[np.float64]
Shape = Literal["step", "burst", "game", "gaps"]
LONGEST_STEP_S = 5.0  # numerical
SETTLED_K_PER_5_MIN = 0.2  # the trade calls a channel settled below this drift; common practice, no source
AVERAGING_MIN = 5.0  # common practice, no source
CLOGGED = 4.0  # M: a filter full of dust resists several times as much


@dataclass(frozen=True)
class Moment:
    """One row of the transient; rises in K over the room the machine was described with."""

    minutes: float
    cpu_k: float
    card_k: float | None
    coolant_k: float | None
    air_rear_k: float
    cpu_w: float
    card_w: float = 0.0
    fans_pct: tuple[float, ...] = ()


@dataclass(frozen=True)
class Profile:
    """Shares of the load's power over time; ``run`` never lets a part fall below what it draws with nothing to do.

    step: full from the first moment; burst: full for ``on_s`` of every ``period_s``; game: the card full, the processor
    between 35 and 75 % in a slow wave; gaps: full with an idle minute in every ``period_s``.
    """

    shape: Shape = "step"
    period_s: float = 600.0
    on_s: float = 120.0

    def shares(self, seconds: Floats) -> Floats:
        """(moments, 2): processor, card."""
        if self.period_s <= 0:
            raise ImpossibleInputError("the period of a load profile must be positive", "profile.period_s", "Give it in seconds.")
        shares = np.ones((len(seconds), 2))
        phase = np.mod(seconds, self.period_s)
        if self.shape == "burst":
            shares[phase >= self.on_s] = 0.0
        elif self.shape == "game":
            shares[:, 0] = 0.55 + 0.2 * np.sin(2 * np.pi * seconds / 45.0)
        elif self.shape == "gaps":
            shares[phase >= self.period_s - 60.0] = 0.0
        return shares


@dataclass(frozen=True)
class Event:
    """Something that changes at ``minutes``: a fan stops, the pump slows, filters clog, the room warms."""

    minutes: float
    kind: Literal["fan_stops", "pump_slows", "filter_clogs", "room_warms"]
    mount: str | None = None
    amount: float = 0.0  # pump: % of full speed; room: K


@dataclass(frozen=True)
class Settling:
    """Minutes until a channel drifts less than SETTLED_K_PER_5_MIN; None where it does not within the time shown."""

    channel: str
    minutes: float | None


def warm_up(machine: Machine, minutes: float, every_s: float, point: OperatingPoint | None = None) -> list[Moment]:
    """From everything at room temperature with full load on at 0; rows at 0, every_s, ..."""
    parameters = point.parameters if point else DEFAULT
    return run(machine, minutes, every_s, parameters=parameters)


def run(
    machine: Machine,
    minutes: float,
    every_s: float,
    profile: Profile | None = None,
    events: Sequence[Event] = (),
    warm: bool = False,
    parameters: Floats = DEFAULT,
    idle_w: tuple[float, float] | None = None,
) -> list[Moment]:
    """Rows at 0, every_s, ... of a run, from cold or (``warm``) from the settled state, through events in their order.

    ``minutes`` > 0 and ``every_s`` >= 1. ``idle_w`` is what processor and card draw with nothing to do, by default their
    idle shares of the machine's own powers; a part whose load is below that keeps its load. Raises ImpossibleInputError
    for an event the machine cannot have.
    """
    every_s = max(every_s, 1.0)
    per_row = max(1, int(np.ceil(every_s / LONGEST_STEP_S - 1e-9)))
    step_s = every_s / per_row
    steps = per_row * int(minutes * 60 / every_s + 1e-6)
    shape = profile or Profile()
    now, par, room_k = machine, np.array(parameters), 0.0
    plan = PLANS.plan(machine)
    state, first = _start(plan, machine, par, warm)
    least_w = np.array(idle_w or _idle_w(machine))
    rows = [first]
    marks = sorted(events, key=lambda e: e.minutes)
    begun = 0
    while begun < steps:
        while marks and marks[0].minutes * 60 <= begun * step_s + 1e-6:
            event = marks.pop(0)
            now, par, room_k = _changed(now, par, room_k, event)
            after = PLANS.plan(now)
            state, plan = _carried_over(plan, after, state, now), after
        end = min(steps, int(np.ceil(marks[0].minutes * 60 / step_s))) if marks else steps
        end = max(end, begun + 1)
        rows += _stretch(plan, now, par, state, (begun, end, per_row), step_s, shape, least_w, room_k)
        begun = end
    return rows


def advised_minutes(settles: Sequence[Settling]) -> float | None:
    """Least length of a run: until the slowest channel has settled, and time to average, in whole five minutes.

    None when a channel did not settle in the time shown.
    """
    ends = [s.minutes for s in settles]
    if not ends or any(m is None for m in ends):
        return None
    return float(5 * np.ceil((max(m for m in ends if m is not None) + AVERAGING_MIN) / 5))


def settle_times(rows: Sequence[Moment]) -> list[Settling]:
    """For each channel, when it has come to rest: from there on it stays within its drift limit of the end."""
    found = []
    for channel in ("cpu_k", "card_k", "coolant_k", "air_rear_k"):
        values = [getattr(r, channel) for r in rows]
        if any(v is None for v in values):
            continue
        drifting = [i for i in range(len(rows)) if _drift(rows, values, i) >= SETTLED_K_PER_5_MIN]
        last = drifting[-1] + 1 if drifting else 0
        found.append(Settling(channel, rows[last].minutes if last < len(rows) - 1 else None))
    return found


def _drift(rows: Sequence[Moment], values: list[float], i: int) -> float:
    later = next((j for j in range(i, len(rows)) if rows[j].minutes >= rows[i].minutes + 5 - 1e-9), len(rows) - 1)
    return abs(values[later] - values[i])


def _idle_w(machine: Machine) -> tuple[float, float]:
    card_w = machine.card.power_w if machine.card else 0.0
    return machine.cpu.power_w * k.IDLE_POWER_SHARE["cpu"], card_w * k.IDLE_POWER_SHARE["card"]


def _start(plan: Plan, machine: Machine, par: Floats, warm: bool) -> tuple[State, Moment]:
    """The state a run begins in, and its row at 0."""
    pg = plan.program
    held = np.full(plan.slots, -273.0)
    if warm:
        point = operating_point(machine, par)
        rise, n = point.node_rise_k.copy(), pg.n
        powers = point.powers
        row = np.array([point.cpu_rise_k, rise[n + 3], kernel.coolant_k(pg, rise), point.rear_rise_k, powers.cpu_w, powers.card_w])
        state = State(rise, rise[:n] / 2, point.pressure_pa.copy(), point.flow_m3s.copy(), point.speed.copy(), held)
        return state, _moment(plan, machine, 0.0, row, state.speed)
    va, _ = variants(plan, [machine])
    speed = np.where(va.curve[0] >= 0, 0.0, va.speed[0])
    state = State(np.zeros(pg.n + SPECIAL), np.zeros(pg.n), np.zeros(pg.n + 1), np.zeros(len(pg.tail)), speed, held)
    return state, _moment(plan, machine, 0.0, np.zeros(COLUMNS), speed)


def _stretch(
    plan: Plan,
    machine: Machine,
    par: Floats,
    state: State,
    span: tuple[int, int, int],
    step_s: float,
    profile: Profile,
    least_w: Floats,
    room_k: float,
) -> list[Moment]:
    begun, end, per_row = span
    va, curves = variants(plan, [machine])
    for s, c in enumerate(va.curve[0]):
        if c < 0:
            state.speed[s] = va.speed[0, s]
    count = end - begun
    at_s: Floats = np.asarray((begun + np.arange(count)) * step_s, float)
    full_w = va.power_w[0]
    load = np.maximum(profile.shares(at_s) * full_w, np.minimum(least_w, full_w))
    out, speeds = np.zeros((count, COLUMNS)), np.zeros((count, plan.slots))
    room = np.full(count, room_k)
    capacity = capacities_j_k(plan, machine)
    march(plan.program, curves, va, 0, par, capacity, state, step_s, load, room, out, speeds)
    return [
        _moment(plan, machine, (i + 1) * step_s / 60, out[i - begun], speeds[i - begun])
        for i in range(begun, end)
        if (i + 1) % per_row == 0
    ]


def _moment(plan: Plan, machine: Machine, minutes: float, row: Floats, speeds: Floats) -> Moment:
    cpu, card, fins, rear, cpu_w, card_w = (float(x) for x in row)
    sealed = bool(machine.loops)
    fans = tuple(float(100 * speeds[s]) for s in (*fan_slots(machine), cooler_slot(machine), cooler_slot(machine) + 1))
    return Moment(round(minutes, 6), cpu, card if machine.card else None, fins if sealed else None, rear, cpu_w, card_w, fans)


def capacities_j_k(plan: Plan, machine: Machine) -> Floats:
    """Heat capacity per node in J/K: air with what hangs in it, fins or coolant, the card."""
    cooler, card = machine.cooler, machine.card
    held = [k.ZONE_CAPACITY_J_K if name in plan.spaces.ids else 20.0 for name in plan.nodes]
    own = _loop_j_k(cooler) if isinstance(cooler, SealedCooler) else cooler.heat_capacity_j_per_k
    second = _loop_j_k(machine.card_loop) if machine.card_loop else 0.0
    return np.array([*held, 0.0, own, 0.0, card.heat_capacity_j_per_k if card else 0.0, second])


def _loop_j_k(loop: SealedCooler) -> float:
    return loop.heat_capacity_j_per_k + k.COOLANT_CAPACITY_J_K + k.COOLANT_EXTRA_J_MLK * (loop.coolant_ml - 100)


def clogged(parameters: Floats, times: float) -> Floats:
    """Parameters with which every filter resists so many times as much."""
    found = np.array(parameters)
    found[INDEX["coarse_filter_linear_pa"] : INDEX["fine_filter_square_pa"] + 1] *= times
    return found


def _changed(machine: Machine, par: Floats, room_k: float, event: Event) -> tuple[Machine, Floats, float]:
    where = f"events.{event.kind}"
    if event.kind == "fan_stops":
        if event.mount not in {f.mount for f in machine.fans}:
            raise ImpossibleInputError(f"no fan stands at {event.mount!r}", where, "Name a mount that carries a fan.")
        fans = tuple(replace(f, running=False) if f.mount == event.mount else f for f in machine.fans)
        return replace(machine, fans=fans), par, room_k
    if event.kind == "pump_slows":
        if not machine.loops:
            raise ImpossibleInputError("only a loop has a pump", where, "Choose another event.")
        if isinstance(machine.cooler, SealedCooler):
            machine = replace(machine, cooler=replace(machine.cooler, pump_pct=event.amount, pump_curve=None))
        if machine.card_loop:
            machine = replace(machine, card_loop=replace(machine.card_loop, pump_pct=event.amount, pump_curve=None))
        return machine, par, room_k
    if event.kind == "filter_clogs":
        return machine, clogged(par, CLOGGED), room_k
    return machine, par, room_k + event.amount


def _carried_over(before: Plan, after: Plan, state: State, machine: Machine) -> State:
    """The state on another plan's nodes; nodes that are new start like the air above the card."""
    if before is after:
        return state
    n, m = before.program.n, after.program.n
    rise, wall = np.zeros(m + SPECIAL), np.zeros(m)
    for i, name in enumerate(after.nodes):
        j = before.at.get(name, before.at["up_mid"])
        rise[i], wall[i] = state.rise[j], state.wall[j]
    rise[m:] = state.rise[n:]
    return State(rise, wall, np.zeros(m + 1), np.zeros(len(after.program.tail)), state.speed, state.held_c)
