"""Signatures of faults: what each thing that goes wrong in a build would change in a run of this very layout, over all channels.

Every fault is forecast once, at several severities, as the difference of a run over time from the run without it, at the same minute: a
short run is held against short runs. Chances follow from how likely a unit's differences are under each.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine.coupled.curves import turning
from engine.coupled.forecast import forecast, level_dba
from engine.coupled.operating_point import operating_point
from engine.coupled.transient import Moment, clogged, run
from engine.errors import OventaError
from engine.learn.tampered import card_slower, cooler_slower, fan_name, fan_otherwise, filtered, panel_otherwise, pasted, pump_slower
from engine.learn.units import change_of
from engine.machine import Machine, SealedCooler

Floats = NDArray[np.float64]
Cause = Literal["fan_reversed", "fan_unplugged", "fan_slow", "paste", "pump_slow", "panel", "filter", "room_probe", "none"]
CAUSES: tuple[Cause, ...] = ("fan_reversed", "fan_unplugged", "fan_slow", "paste", "pump_slow", "panel", "filter", "room_probe")

# Severities that are tried.
SLOW_SHARES = (0.4, 0.55, 0.7, 0.82)  # no source
PASTE_TIMES = (1.25, 1.5, 2.0, 3.0)  # no source: of the resistance from core to cooler
PUMP_SHARES = (0.25, 0.45, 0.6, 0.75)  # no source
CLOG_TIMES = (2.0, 4.0, 10.0)  # no source: of what a clean filter resists
PROBE_SHARES = (0.25, 0.5, 1.0)  # no source: of the way from the room's air to the exhaust's

BY_AIR: tuple[Cause, ...] = ("fan_reversed", "panel", "filter")
DRAWS, DRAWN_SEED = 5, 1  # numerical

EVERY_S = 20.0  # numerical: between two rows of a run over time
STRENGTH_SHARE = 0.25  # no source: one sigma of how much stronger or weaker a fault is than forecast, on all channels alike
PATTERN_SHARE = 0.15  # no source: and of each channel by itself
PATTERN_K, PATTERN_DB, PATTERN_RATIO, PATTERN_W = 0.25, 0.3, 0.01, 1.0  # no source: and of what it is off by in any case
FAULTY_SHARE = 0.1  # common practice, no source: of units that come off a bench with something wrong
STOP_AFTER_MIN = 12.0  # no source: warm enough for a stop to show within two minutes
LEAST_K = 0.1  # numerical
BOARD_SHARE, VRM_SHARE = 0.65, 0.8  # no source: of a change of the air above the card, what slow sensors follow within a short run


@dataclass(frozen=True)
class Fault:
    """One thing that may be wrong: ``mount`` where it has one, and the machine, its parameters and what its room probe reads with it."""

    cause: Cause
    mount: str | None
    variants: tuple["Variant", ...]


@dataclass(frozen=True)
class Variant:
    severity: float
    machine: Machine
    parameters: Floats
    probe_share: float = 0.0


@dataclass(frozen=True)
class Pattern:
    """A fault's differences by channel: K, dB, and for tachometers the ratio less one."""

    cause: Cause
    mount: str | None
    severity: float
    change: Mapping[str, float]


@dataclass(frozen=True)
class Chance:
    """How likely a fault is in view of a unit's differences, with the severity that suits them best."""

    cause: Cause
    mount: str | None
    chance: float
    severity: float


def faults_of(m: Machine, parameters: Floats) -> Iterator[Fault]:
    """Everything that can be wrong with a unit of this layout."""

    def vary(cause: Cause, where: str | None, made: Callable[[float], Machine | None], severities: Sequence[float]) -> Iterator[Fault]:
        variants = tuple(Variant(x, other, parameters) for x in severities if (other := made(x)) is not None)
        if variants:
            yield Fault(cause, where, variants)

    for i in [i for i, f in enumerate(m.fans) if f.running]:
        name = fan_name(m, i)
        yield from vary("fan_reversed", name, lambda _, i=i: fan_otherwise(m, i, turned=True), (1.0,))  # type: ignore[misc]  # i is bound
        yield from vary("fan_unplugged", name, lambda _, i=i: fan_otherwise(m, i, running=False), (1.0,))  # type: ignore[misc]
        yield from vary("fan_slow", name, lambda x, i=i: fan_otherwise(m, i, share=x), SLOW_SHARES)  # type: ignore[misc]
    yield from vary("paste", None, partial(pasted, m), PASTE_TIMES)
    yield from vary("fan_slow", "cooler", partial(cooler_slower, m), SLOW_SHARES)
    yield from vary("pump_slow", None, partial(pump_slower, m), PUMP_SHARES)
    yield from vary("fan_slow", "card", partial(card_slower, m), SLOW_SHARES)
    for face in m.panels:
        yield from vary("panel", face, lambda _, face=face: panel_otherwise(m, face), (1.0,))  # type: ignore[misc]
    if filtered(m):
        yield Fault("filter", None, tuple(Variant(x, m, clogged(parameters, x)) for x in CLOG_TIMES))
    yield Fault("room_probe", None, tuple(Variant(x, m, parameters, x) for x in PROBE_SHARES))


@dataclass(frozen=True)
class Signatures:
    """Patterns of all faults at one minute; ``base`` what the machine without a fault reads then, by channel over room."""

    base: Mapping[str, float]
    patterns: tuple[Pattern, ...]


def signatures(
    m: Machine, parameters: Floats, spreads: Floats, minutes: float, loads: Callable[[Machine], Machine] = lambda x: x
) -> Signatures:
    """``loads`` puts the run's load on a machine. Faults that cannot be forecast are left out.

    ``spreads``: one sigma of each parameter, as a logarithm. What a fault does to the air hangs on them, and no tachometer tells it: such
    faults are forecast with several draws of the parameters, each against the machine without a fault under the same draw.
    """
    rng = np.random.default_rng(DRAWN_SEED)
    draws = [parameters, *(parameters * np.exp(spreads * rng.normal(size=len(spreads))) for _ in range(DRAWS))]
    bases = [plain_reading(m, p, minutes, loads, m) for p in draws]
    found = []
    for n, (own, base) in enumerate(zip(draws, bases, strict=True)):
        for fault in faults_of(m, own):
            if n and fault.cause not in BY_AIR:
                continue
            for v in fault.variants:
                try:
                    read = plain_reading(v.machine, v.parameters, minutes, loads, m)
                except OventaError:
                    continue
                shift = v.probe_share * read["air_rear_c"]
                change = {c: change_of(c, read[c], base[c]) - (shift if c.endswith("_c") else 0.0) for c in base if c in read}
                found.append(Pattern(fault.cause, fault.mount, v.severity, change))
    return Signatures(bases[0], tuple(found))


def plain_reading(m: Machine, parameters: Floats, minutes: float, loads: Callable[[Machine], Machine], plain: Machine) -> dict[str, float]:
    """What a machine's channels read at a minute, temperatures over room, against those of ``plain``."""
    under = loads(m)
    end = _end(under, parameters, minutes)
    return _read(under, end, plain) | {"air_front_c": _front_share(under, parameters) * end.air_rear_k}


def _front_share(m: Machine, parameters: Floats) -> float:
    """How warm the air behind the front settles, in shares of that above the card."""
    air = forecast(operating_point(m, parameters)).air
    return (air.front_c - m.room.temperature_c) / max(air.rear_c - m.room.temperature_c, LEAST_K)


def weaker(m: Machine, share: float) -> Machine:
    """All case fans move that share less air at the same speed."""
    fans = tuple(replace(f, fan=replace(f.fan, flow_max_m3h=f.fan.flow_max_m3h * (1 - share))) for f in m.fans)
    return replace(m, fans=fans)


def _end(m: Machine, parameters: Floats, minutes: float) -> Moment:
    return run(m, minutes, min(EVERY_S, max(minutes * 60 / 4, 1.0)), parameters=parameters)[-1]


def _read(m: Machine, end: Moment, plain: Machine) -> dict[str, float]:
    """What a log's channels would read, temperatures over room; fans that stand still read nought."""
    found = {
        "cpu_package_c": end.cpu_k,
        "air_rear_c": end.air_rear_k,
        "board_sensor_c": BOARD_SHARE * end.air_rear_k,
        "vrm_c": VRM_SHARE * end.air_rear_k,
    }
    if end.card_k is not None:
        found["card_core_c"] = end.card_k
    if end.coolant_k is not None:
        found["coolant_c"] = end.coolant_k
    for f, pct in zip(m.fans, end.fans_pct, strict=False):
        found[f.channel] = pct if f.running else 0.0
    if isinstance(m.cooler, SealedCooler) and isinstance(plain.cooler, SealedCooler):
        found["pump_rpm"] = m.cooler.pump_pct
    found["cpu_power_w"] = end.cpu_w
    if m.card:
        found["card_power_w"] = end.card_w
    found["sound_dba"] = level_dba(turning(m, end))
    return found


def pattern_sd(channel: str, change: float) -> float:
    """One sigma of a pattern's own error in a channel."""
    if channel.endswith("_rpm"):
        return PATTERN_RATIO
    least = PATTERN_DB if channel.endswith("_dba") else PATTERN_W if channel.endswith("_w") else PATTERN_K
    return float(np.hypot(least, PATTERN_SHARE * change))


def diagnose(change: Mapping[str, float], covariance: Floats, found: Signatures, faulty_share: float = FAULTY_SHARE) -> list[Chance]:
    """Chances of all faults and of none, greatest first. ``covariance``: of good units, channels in the order of ``change``.

    Before anything is read every cause is as likely as any other, within one every place and severity.
    """
    channels = list(change)
    y = np.array([change[c] for c in channels])
    log_of: dict[tuple[Cause, str | None], list[tuple[float, float]]] = {("none", None): [(_log_density(y, covariance), 0.0)]}
    for p in found.patterns:
        d = np.array([p.change.get(c, 0.0) for c in channels])
        own = np.diag([pattern_sd(c, x) ** 2 for c, x in zip(channels, d, strict=True)])
        strength = np.array([0.0 if c.endswith("_rpm") else STRENGTH_SHARE * x for c, x in zip(channels, d, strict=True)])
        own += np.outer(strength, strength)
        log_of.setdefault((p.cause, p.mount), []).append((_log_density(y - d, covariance + own), p.severity))
    causes = {cause for cause, _ in log_of if cause != "none"}
    places = {cause: sum(c == cause for c, _ in log_of) for cause in causes}
    weights, best = {}, {}
    for (cause, mount), told in log_of.items():
        prior = 1 - faulty_share if cause == "none" else faulty_share / len(causes) / places[cause]
        top = max(x for x, _ in told)
        weights[cause, mount] = np.log(prior) + top + np.log(np.mean([np.exp(x - top) for x, _ in told]))
        best[cause, mount] = max(told)[1]
    greatest = max(weights.values())
    total = sum(np.exp(w - greatest) for w in weights.values())
    chances = [Chance(c, m, float(np.exp(w - greatest) / total), best[c, m]) for (c, m), w in weights.items()]
    return sorted(chances, key=lambda c: -c.chance)


def _log_density(residual: Floats, covariance: Floats) -> float:
    sign, logdet = np.linalg.slogdet(covariance)
    if sign <= 0:
        raise OventaError("the scatter of good units is not a covariance", "covariance", "Report this with the package.")
    return float(-0.5 * (residual @ np.linalg.solve(covariance, residual) + logdet + len(residual) * np.log(2 * np.pi)))


def telling_stop(
    m: Machine, parameters: Floats, a: Fault, b: Fault, mounts: Sequence[str], loads: Callable[[Machine], Machine] = lambda x: x
) -> tuple[str, float, float] | None:
    """Which of some fans to stop for two minutes to tell two faults apart: its mount, and the processor's change in K under either."""
    best: tuple[str, float, float] | None = None
    for mount in mounts:
        at = next((i for i, f in enumerate(m.fans) if f.mount == mount and f.running), None)
        if at is None:
            continue
        moved = []
        for fault in (a, b):
            v = fault.variants[len(fault.variants) // 2]
            rows = [_end(loads(x), v.parameters, STOP_AFTER_MIN) for x in (v.machine, fan_otherwise(v.machine, at, running=False))]
            moved.append(rows[1].cpu_k - rows[0].cpu_k)
        if best is None or abs(moved[0] - moved[1]) > abs(best[1] - best[2]):
            best = (mount, moved[0], moved[1])
    return best
