"""Speed curves for a load: a family of them under a limit of sound, each judged by a run over time; the best of it once more, calmer.

A curve goes from a floor, or from standing still, to the speed that keeps the limit, reached when the part it follows is as warm as it
gets; speeds that hum are leapt over. What is warm quickly makes a curve restless, what is warm slowly lets a part run hot for a while:
which it is here, the run shows.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine.coupled import kernel
from engine.coupled.forecast import level_dba
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.coupled.program import SOURCES
from engine.coupled.quiet import SLOWEST_PCT, QuietSpeeds, quiet_speeds
from engine.coupled.transient import Moment, Profile, run
from engine.machine import HYSTERESIS_K, RAMP_S, AirCooler, Machine, PlacedFan, SpeedCurve
from engine.parameters import DEFAULT
from engine.sound.changes import OverTime, over_time

Source = Literal["cpu", "card", "hotter", "coolant", "board", "case_air"]
Bands = Sequence[tuple[float, float]]
Floats = NDArray[np.float64]

FLOORS_PCT = (0.0, 25.0, 40.0)  # no source: at rest where it is cool, the slowest most fans turn at, a steady breath
SPANS_K = (8.0, 16.0, 28.0)  # no source: from the floor to the top
CALMER = ((4.0, 30.0), (6.0, 90.0))  # no source: hysteresis in K and time through the whole range in s, beyond the usual
START_PCT = 25.0  # common practice, no source: slower, many fans do not start
SHORT_OF_K = 1.0  # no source: the top is reached a little before the part is as warm as it gets
LEAP_K = 0.2  # numerical: in which a curve goes from under a band to over it
EVERY_S = 5.0  # numerical: between two rows that are judged
LIMIT_W = 0.5  # numerical: less is not given up


@dataclass(frozen=True)
class Judged:
    """A run over time: minutes in which a part gives up power, the warmest of processor and card in deg C, and its sound."""

    minutes_at_limit: float
    cpu_c: float
    card_c: float | None
    sound: OverTime


@dataclass(frozen=True)
class GroupCurve:
    """A group of fans by its mounts, and what it follows; ``at_rest_c``: under it the fans stand still."""

    group: str
    mounts: tuple[str, ...]
    source: Source
    points: tuple[tuple[float, float], ...]
    at_rest_c: float | None
    hysteresis_k: float = HYSTERESIS_K
    ramp_s: float = RAMP_S


@dataclass(frozen=True)
class Proposal:
    """Curves of all groups. ``why`` says what they are best in: quiet, steady or cool."""

    why: tuple[str, ...]
    curves: tuple[GroupCurve, ...]
    judged: Judged


@dataclass(frozen=True)
class Proposals:
    """``now``: the machine as it is; ``fixed``: at the top speeds all the time. ``reached``: the limit of sound can be kept.

    ``still``: mounts whose fans are best at rest, or so slow that a curve would only stop them.
    """

    proposals: tuple[Proposal, ...]
    still: dict[str, float]
    now: Judged
    fixed: Judged
    reached: bool
    tried: int


def judged(
    machine: Machine,
    profile: Profile,
    minutes: float,
    idle_w: tuple[float, float] | None,
    limit_dba: float | None,
    parameters: Floats = DEFAULT,
    louder_db: float = 0.0,
) -> Judged:
    """A run from cold. ``louder_db``: how much more than by the parts' sheets is heard."""
    rows = run(machine, minutes, EVERY_S, profile, idle_w=idle_w, parameters=parameters)[1:]
    room_c = machine.room.temperature_c
    shares = profile.shares(np.arange(len(rows), dtype=np.float64) * EVERY_S)
    asked = shares * [machine.cpu.power_w, machine.card.power_w if machine.card else 0.0]
    short = sum(r.cpu_w < a - LIMIT_W or r.card_w < b - LIMIT_W for r, (a, b) in zip(rows, asked, strict=True))
    levels: dict[tuple[int, ...], float] = {}
    heard = []
    for r in rows:
        key = tuple(round(x) for x in r.fans_pct)
        if key not in levels:
            levels[key] = level_dba(turning(machine, r)) + louder_db
        heard.append(levels[key])
    card = [r.card_k for r in rows if r.card_k is not None]
    return Judged(
        float(short) * EVERY_S / 60,
        room_c + max(r.cpu_k for r in rows),
        room_c + max(card) if card else None,
        over_time(heard, EVERY_S, limit_dba),
    )


def propose(
    machine: Machine,
    target_dba: float,
    groups: Mapping[str, Sequence[str]],
    profile: Profile,
    minutes: float,
    avoid_rpm: Bands = (),
    idle_w: tuple[float, float] | None = None,
    speeds: QuietSpeeds | None = None,
    parameters: Floats = DEFAULT,
    louder_db: float = 0.0,
) -> Proposals:
    """The quietest, the steadiest and the coolest of the family, of those in which parts give up power no longer than they must.

    A curve that is best in several stands once. Cooler and card fans stay as they are. ``speeds``: the fastest that keep the level,
    where they are known.
    """
    found = speeds or quiet_speeds(machine, target_dba - louder_db, groups, avoid_rpm, parameters)

    def runs_as(m: Machine) -> Judged:
        return judged(m, profile, minutes, idle_w, target_dba, parameters, louder_db)

    top = {name: max(found.speeds_pct.get(m, 0.0) for m in mounts) for name, mounts in groups.items()}
    fixed = _with(machine, {m: None for mounts in groups.values() for m in mounts}, found.speeds_pct)
    point = operating_point(fixed, parameters)
    tried: list[tuple[tuple[GroupCurve, ...], Judged]] = []

    def look(curves: tuple[GroupCurve, ...]) -> None:
        by_mount = {m: _curve(c) for c in curves for m in c.mounts}
        tried.append((curves, runs_as(_with(fixed, by_mount, {}))))

    for curves in _family(fixed, point, groups, top, avoid_rpm):
        look(curves)
    for best, (hysteresis_k, ramp_s) in product(_best(tried), CALMER):
        look(tuple(replace(c, hysteresis_k=hysteresis_k, ramp_s=ramp_s) for c in best.curves))
    whole = runs_as(fixed)
    with_curve = {m for curves, _ in tried[:1] for c in curves for m in c.mounts}
    still = {m: pct for m, pct in found.speeds_pct.items() if m not in with_curve}
    return Proposals(_best(tried), still, runs_as(machine), whole, found.reached, len(tried))


def _best(tried: Sequence[tuple[tuple[GroupCurve, ...], Judged]]) -> tuple[Proposal, ...]:
    if not tried:
        return ()
    least = min(j.minutes_at_limit for _, j in tried)
    good = [x for x in tried if x[1].minutes_at_limit <= least + 0.5 and x[1].sound.over_s <= min(j.sound.over_s for _, j in tried)]
    good = good or [x for x in tried if x[1].minutes_at_limit <= least + 0.5]
    by = {
        "quiet": min(good, key=lambda x: x[1].sound.mean_dba),
        "steady": min(good, key=lambda x: (x[1].sound.changes, x[1].sound.mean_dba)),
        "cool": min(good, key=lambda x: x[1].cpu_c + (x[1].card_c or 0.0)),
    }
    kinds = {id(x[0]): x for x in by.values()}
    return tuple(Proposal(tuple(w for w, x in by.items() if x[0] is curves), curves, j) for curves, j in kinds.values())


def _family(
    fixed: Machine, point: OperatingPoint, groups: Mapping[str, Sequence[str]], top: Mapping[str, float], avoid_rpm: Bands
) -> Iterator[tuple[GroupCurve, ...]]:
    on_radiator = {m for loop in fixed.loops for r in loop.radiators for m in r.mounts}
    turning = {name: tuple(mounts) for name, mounts in groups.items() if top[name] >= SLOWEST_PCT}
    others: tuple[Source, ...] = ("hotter", "case_air")
    if all(on_radiator & set(mounts) for mounts in turning.values()):
        others = others[:1]
    for follows, floor, span in product(others, FLOORS_PCT, SPANS_K):
        made = []
        for name, mounts in turning.items():
            source: Source = "coolant" if on_radiator & set(mounts) else follows
            bands = bands_pct([f for f in fixed.fans if f.mount in mounts], avoid_rpm)
            points = points_of(fixed.room.temperature_c, _rise_k(point, source), floor, top[name], span, bands)
            made.append(GroupCurve(name, mounts, source, points, points[0][0] if points[0][1] == 0 else None))
        if made:
            yield tuple(made)


def points_of(
    room_c: float, rise_k: float, floor_pct: float, top_pct: float, span_k: float, bands: Bands
) -> tuple[tuple[float, float], ...]:
    """Temperature in deg C and speed in %, rising: from the floor, or from rest, to the top, in ``span_k`` or as much as there is."""
    warm = room_c + max(rise_k - SHORT_OF_K, 1.0)
    cold = max(warm - span_k, room_c + min(2.0, 0.5 * (warm - room_c)))
    slowest = min(max(floor_pct, START_PCT), top_pct)
    begin = [(cold, 0.0), (cold + LEAP_K, slowest)] if floor_pct == 0 else [(cold, slowest)]
    first = begin[-1][0]
    warm = max(warm, first + LEAP_K)
    steps = []
    for low, high in bands:
        if low <= slowest or high > top_pct:
            continue  # begun or ended beyond it
        at = first + (low - slowest) / max(top_pct - slowest, 1e-9) * (warm - first)
        steps += [(at, low - 0.5), (at + LEAP_K, min(high + 0.5, top_pct))]
    points = [*begin, *(s for s in steps if s[0] < warm - LEAP_K), (warm, top_pct)]
    return tuple((round(t, 2), round(s, 1)) for t, s in points)


def bands_pct(fans: Sequence[PlacedFan], avoid_rpm: Bands) -> list[tuple[float, float]]:
    """Bands to avoid in % of any of some fans, those that overlap put together, slowest first."""
    every = ((f.fan.speed_max_rpm, band) for f in fans for band in (*avoid_rpm, *f.fan.avoid_rpm))
    own = sorted((100 * low / full, 100 * high / full) for full, (low, high) in every)
    found: list[tuple[float, float]] = []
    for low, high in own:
        if found and low <= found[-1][1]:
            found[-1] = (found[-1][0], max(high, found[-1][1]))
        else:
            found.append((low, high))
    return found


def _rise_k(point: OperatingPoint, source: Source) -> float:
    """How warm, over the room, what a curve follows gets with all of the load on."""
    hot = np.empty(len(SOURCES))
    kernel.sensed(point.plan.program, point.node_rise_k, point.carried_k, point.cpu_rise_k, hot)
    return float(hot[SOURCES.index(source)])


def _curve(c: GroupCurve) -> SpeedCurve:
    temperatures, speeds = zip(*c.points, strict=True)
    return SpeedCurve(c.group, c.source, temperatures, speeds, c.hysteresis_k, c.ramp_s)


def _with(machine: Machine, curves: Mapping[str, SpeedCurve | None], speeds_pct: Mapping[str, float]) -> Machine:
    """Curves of fans by mount, never faster than their owner accepts."""

    def one(f: PlacedFan) -> PlacedFan:
        curve = curves.get(f.mount, f.curve)
        if curve is not None and f.mount in curves:
            curve = replace(curve, speeds_pct=tuple(min(s, f.most_pct) for s in curve.speeds_pct))
        return replace(f, speed_pct=min(speeds_pct.get(f.mount, f.speed_pct), f.most_pct), curve=curve)

    return replace(machine, fans=tuple(one(f) for f in machine.fans))


def turning(machine: Machine, row: Moment) -> Machine:
    """The machine with the speeds of a moment."""
    *case, cooler_pct, card_pct = row.fans_pct
    fans = tuple(replace(f, speed_pct=pct, curve=None) for f, pct in zip(machine.fans, case, strict=True))
    cooler = replace(machine.cooler, fan_pct=cooler_pct) if isinstance(machine.cooler, AirCooler) else machine.cooler
    card = machine.card and replace(machine.card, fan_pct=card_pct if machine.card_on_air else machine.card.fan_pct)
    return replace(machine, fans=fans, cooler=cooler, card=card)
