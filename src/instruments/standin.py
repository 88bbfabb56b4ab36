"""A seeded stand-in of a bench: what instruments would read on a machine that is never quite what its sheets say.

The engine's own transient model runs with hidden true parameters offset from the forecast's, so that a verdict and a calibration
have something to find. The same seed gives the same readings. Everything it gives is made up, and said to be.
"""

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.coupled.transient import Event, Moment, Profile, run
from engine.errors import ImpossibleInputError
from engine.machine import AirCooler, Machine, SealedCooler
from engine.runs.series import RunLog

Floats = NDArray[np.float64]
CORES = 8
CLOCK_MHZ = {"cpu": 4700.0, "card": 2500.0}
PUMP_RPM = 2700.0
TACH_STEP_RPM = 30.0
FAULTS = {
    "fan_stops": "a fan stands still from then on; names a mount",
    "pump_slows": "the pump falls to 40 %",
    "room_warms": "the room warms by 1.5 K",
    "core_hot": "one core reads 14 K more throughout",
    "stuck": "a sensor freezes for a third of the run; names a channel",
    "spike": "a sensor jumps for two readings; names a channel",
    "tach_lost": "a fan's tachometer goes silent; names a mount",
    "clock_jump": "the processor's clock falls by 400 MHz",
    "load_pause": "the processor's load stops for a minute",
    "disturbed": "a panel is opened for a minute",
    "gap": "no readings for a minute",
    "room_missing": "nobody reads the room",
}


@dataclass(frozen=True)
class Fault:
    """Something that goes wrong at ``minutes``; ``of`` names the mount or channel where the kind wants one."""

    kind: str
    minutes: float
    of: str | None = None


def truth(machine: Machine, rng: np.random.Generator) -> Machine:
    """The machine as it really is: offsets drawn once per seed, wider than a run's noise and narrower than the forecast's band."""
    cpu = replace(machine.cpu, r_jc_k_per_w=machine.cpu.r_jc_k_per_w * _about(rng, 1.08, 0.05))
    card = machine.card and replace(machine.card, r_k_per_w=machine.card.r_k_per_w * _about(rng, 0.96, 0.04))
    share = _about(rng, 0.97, 0.015)
    fans = tuple(replace(f, fan=replace(f.fan, flow_max_m3h=f.fan.flow_max_m3h * share)) for f in machine.fans)
    cooler = machine.cooler
    if isinstance(cooler, AirCooler):
        cooler = replace(cooler, ua_ref_w_per_k=cooler.ua_ref_w_per_k * _about(rng, 0.95, 0.04))
    else:
        cooler = replace(cooler, r_plate_k_per_w=cooler.r_plate_k_per_w * _about(rng, 1.1, 0.05))
    return replace(machine, cpu=cpu, card=card, fans=fans, cooler=cooler)


def _about(rng: np.random.Generator, middle: float, spread: float) -> float:
    return float(middle * np.exp(rng.normal(0.0, spread)))


def difficult_day(machine: Machine, minutes: float, seed: int) -> list[Fault]:
    """Three faults at random, none twice."""
    rng = np.random.default_rng(seed + 7919)
    possible = [k for k in FAULTS if k not in ("room_missing", "fan_stops", "tach_lost") or (k != "room_missing" and machine.fans)]
    possible = [k for k in possible if k != "pump_slows" or machine.loops]
    kinds = rng.choice(possible, size=3, replace=False).tolist()
    mounts = [f.mount for f in machine.fans if f.running]
    found = []
    for kind in kinds:
        of = str(rng.choice(mounts)) if kind in ("fan_stops", "tach_lost") else "cpu_package_c" if kind in ("stuck", "spike") else None
        found.append(Fault(kind, float(rng.uniform(0.35, 0.75)) * minutes, of))
    return found


def simulate(
    machine: Machine,
    minutes: float,
    seed: int,
    every_s: float = 1.0,
    faults: Sequence[Fault] = (),
    shape: Profile | None = None,
) -> RunLog:
    """One run's readings, one row every ``every_s`` seconds from cold. Raises ImpossibleInputError for a fault that cannot be."""
    _check(machine, faults)
    rng = np.random.default_rng(seed)
    real = truth(machine, rng)
    rows = run(real, minutes, every_s, shape, [e for f in faults if (e := _event(f)) is not None])
    log = read_off(real, rows, every_s, rng)
    keep = np.ones(len(log.elapsed_s), bool)
    for fault in faults:
        keep &= _plant(fault, log.elapsed_s, log.channels)
    return RunLog(log.elapsed_s[keep], {name: values[keep] for name, values in log.channels.items()})


def read_off(real: Machine, rows: Sequence[Moment], every_s: float, rng: np.random.Generator) -> RunLog:
    t: Floats = np.asarray(np.arange(len(rows)) * every_s, float)
    room = real.room.temperature_c + _wander(rng, t) + 0.3 * t / max(float(t[-1]), 1.0)
    known = forecast(operating_point(real))
    channels = _channels(real, rows, t, room, known.sound.level_dba, rng)
    front = (known.air.front_c - real.room.temperature_c) / max(known.air.rear_c - real.room.temperature_c, 0.1)
    channels["air_front_c"] = _front_air(rows, t, room, front, rng)
    return RunLog(t, channels)


class SameMachine:
    """One made-up machine run again and again: the truth stays, builds, rooms and sensors scatter from run to run.

    ``warmer`` gives its twin with a planted difference.
    """

    def __init__(self, machine: Machine, truth_seed: int, minutes: float = 40.0, every_s: float = 4.0) -> None:
        self.real = truth(machine, np.random.default_rng(truth_seed))
        self.rows: Sequence[Moment] = run(self.real, minutes, every_s)
        self.every_s = every_s

    def warmer(self, gap_k: float) -> "SameMachine":
        """The same, but the processor's settled rise is ``gap_k`` higher."""
        other = copy(self)
        share = 1 + gap_k / self.rows[-1].cpu_k
        other.rows = [replace(r, cpu_k=r.cpu_k * share) for r in self.rows]
        return other

    def log(self, seed: int) -> RunLog:
        """The readings of one more run."""
        return read_off(self.real, self.rows, self.every_s, np.random.default_rng(seed))


def _check(machine: Machine, faults: Sequence[Fault]) -> None:
    mounts = {f.mount for f in machine.fans if f.running}
    for f in faults:
        where = f"fault {f.kind}"
        if f.kind not in FAULTS:
            raise ImpossibleInputError(f"{f.kind!r} is no fault", where, f"Use one of {', '.join(FAULTS)}.")
        if f.kind in ("fan_stops", "tach_lost") and f.of not in mounts:
            raise ImpossibleInputError(f"no fan turns at {f.of!r}", where, f"Name one of {', '.join(sorted(mounts)) or 'no mount'}.")
        if f.kind == "pump_slows" and not machine.loops:
            raise ImpossibleInputError("this layout has no pump", where, "Choose a layout with a loop.")


def _event(fault: Fault) -> Event | None:
    if fault.kind == "fan_stops":
        return Event(fault.minutes, "fan_stops", fault.of)
    if fault.kind == "pump_slows":
        return Event(fault.minutes, "pump_slows", amount=40.0)
    return Event(fault.minutes, "room_warms", amount=1.5) if fault.kind == "room_warms" else None


def _wander(rng: np.random.Generator, t: Floats) -> Floats:
    """A room that drifts by tenths over minutes."""
    steps = rng.normal(0.0, 0.0028, len(t)) * np.sqrt(np.diff(t, prepend=0.0).clip(0.1))
    return np.asarray(np.cumsum(steps))


def _lag(values: Floats, t: Floats, tau_s: float) -> Floats:
    """First-order lag: what a slow sensor shows."""
    out, held = np.empty_like(values), float(values[0])
    steps = np.diff(t, prepend=t[0])
    for i, value in enumerate(values):
        held += (value - held) * (1 - np.exp(-steps[i] / tau_s))
        out[i] = held
    return out


def _flicker(rng: np.random.Generator, n: int, sd: float, hold: float) -> Floats:
    """Noise that hangs together over a few readings."""
    out, held = np.empty(n), 0.0
    for i, kick in enumerate(rng.normal(0.0, sd * np.sqrt(1 - hold * hold), n)):
        held = hold * held + kick
        out[i] = held
    return out


def _channels(real: Machine, rows: Sequence[Moment], t: Floats, room: Floats, level: float, rng: np.random.Generator) -> dict[str, Floats]:
    n = len(rows)
    rebuild = rng.normal(0.0, 0.012, 2)  # paste and mounting differ a little from one build to the next
    cpu_rise = np.array([r.cpu_k for r in rows]) * (1 + rebuild[0])
    load = np.array([r.cpu_w for r in rows]) / max(real.cpu.power_w, 1.0)
    cpu = room + cpu_rise
    found = {"cpu_package_c": np.round(cpu + 0.8 * load * _flicker(rng, n, 1.0, 0.5))}
    spread = rng.uniform(-3.0, 2.0, CORES)
    for i in range(CORES):
        warm = 1 - np.exp(-cpu_rise / 10)
        found[f"cpu_core_{i + 1}_c"] = np.round(cpu - 1 + spread[i] * warm + load * _flicker(rng, n, 1.1, 0.3))
    if real.card:
        card_rise = np.array([r.card_k or 0.0 for r in rows]) * (1 + rebuild[1])
        card = room + card_rise
        found["card_core_c"] = np.round(card + _flicker(rng, n, 0.25, 0.6), 1)
        found["card_hotspot_c"] = np.round(card + 0.19 * card_rise + _flicker(rng, n, 0.5, 0.4), 1)
        found["card_memory_c"] = np.round(_lag(room + 0.92 * card_rise, t, 90.0) + _flicker(rng, n, 0.3, 0.6))
        found["card_power_w"] = np.round(np.array([r.card_w for r in rows]) + rng.normal(0, 1.6, n), 1)
    rear = np.array([r.air_rear_k for r in rows])
    found["board_sensor_c"] = np.round(_lag(room + 4 + 0.9 * rear, t, 420.0) + _flicker(rng, n, 0.15, 0.9))
    found["vrm_c"] = np.round(_lag(room + rear + 0.16 * np.array([r.cpu_w for r in rows]), t, 240.0) + _flicker(rng, n, 0.2, 0.9))
    found["air_rear_c"] = np.round(_lag(room + rear, t, 25.0) + rng.normal(0, 0.08, n), 1)
    if real.loops:
        found["coolant_c"] = np.round(room + np.array([r.coolant_k or 0.0 for r in rows]) + rng.normal(0, 0.05, n), 1)
        pump = real.loops[0].pump_pct / 100 if isinstance(real.loops[0], SealedCooler) else 1.0
        found["pump_rpm"] = np.round(PUMP_RPM * pump + rng.normal(0, 12, n))
    found["room_c"] = np.round(room + rng.normal(0, 0.03, n), 1)
    found["cpu_power_w"] = np.round(np.array([r.cpu_w for r in rows]) + load * rng.normal(0, 1.5, n), 1)
    for i, f in enumerate(real.fans):
        speed = f.fan.speed_max_rpm * np.array([r.fans_pct[i] for r in rows]) / 100
        read = np.round((speed + rng.normal(0, 7, n)) / TACH_STEP_RPM) * TACH_STEP_RPM
        found[f.channel] = np.where(speed > 60, read.clip(0), 0.0)
    held = np.where(load > 0.5, load, 1.0)
    found["cpu_clock_mhz"] = np.round(CLOCK_MHZ["cpu"] * held ** (1 / 3) + rng.normal(0, 9, n))
    found["sound_dba"] = np.round(level + 0.5 * _flicker(rng, n, 1.0, 0.8), 1)
    return found


def _front_air(rows: Sequence[Moment], t: Floats, room: Floats, share: float, rng: np.random.Generator) -> Floats:
    """Air behind the front, warm in the share of the rear's that it has once settled."""
    rear = np.array([r.air_rear_k for r in rows])
    return np.round(_lag(room + share * rear, t, 25.0) + rng.normal(0, 0.08, len(t)), 1)


def _plant(fault: Fault, t: Floats, c: dict[str, Floats]) -> NDArray[np.bool_]:
    """Changes the readings for a fault that is the instrument's or the person's; returns which rows are there."""
    at, keep = fault.minutes * 60, np.ones(len(t), bool)
    after = t >= at
    minute = after & (t < at + 60)
    if fault.kind == "core_hot":
        c["cpu_core_4_c"] += 14 * (c["cpu_core_4_c"] > c["cpu_core_4_c"][0] + 10)
    elif fault.kind in ("stuck", "spike"):
        name = fault.of if fault.of in c else "cpu_package_c"
        first = int(np.argmax(after))
        if fault.kind == "stuck":
            c[name][after & (t < at + max(t[-1] / 3, 180))] = c[name][first]
        else:
            c[name][first : first + 2] += 45
    elif fault.kind == "tach_lost":
        c[next(n for n in c if n.startswith(f"fan_{fault.of}_"))][after] = 0.0
    elif fault.kind == "pump_slows":
        c["pump_rpm"][after] *= 0.4
    elif fault.kind == "clock_jump":
        c["cpu_clock_mhz"][after] -= 400
    elif fault.kind == "load_pause":
        c["cpu_power_w"][minute] *= 0.25
    elif fault.kind == "disturbed":
        for name in ("card_core_c", "card_hotspot_c", "air_rear_c"):
            if name in c:
                c[name][minute] -= 4.0
    elif fault.kind == "gap":
        keep = ~minute
    elif fault.kind == "room_missing":
        del c["room_c"]
    elif fault.kind == "room_warms":
        c["room_c"][after] += 1.5
    return keep
