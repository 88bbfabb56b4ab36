"""What layouts' runs were not alike in, put into kelvin by the forecast: kelvins per watt, fans that turned otherwise than asked."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median

from desk.forecast.document import Oracle
from desk.job.asked import speeds_rpm
from engine.coupled.forecast import Differences, differences
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.errors import OventaError
from engine.machine import AirCooler, Machine, SealedCooler
from engine.plan.watch import OFF_RPM, OFF_SHARE, speed_words
from engine.runs.budget import coverage_factor
from engine.verdict.candidate import Candidate, Deviation
from engine.verdict.likeness import POWER_APART_SHARE

NUDGE = 1.05
SLOPE_SHARE = 0.2  # one sigma of a kelvin per watt that the forecast gives; its parts' own data are good to about this
LEAST_SLOPE = 0.02  # K per W
LIKE_SPEED_SHARE = 0.05
PARTS = {"cpu": "cpu_package_c", "card": "card_core_c"}  # the coolant goes by its measured rise
OWN_FANS = {"card": ("card", "gpu"), "cpu": ("cpu", "cooler"), "pump": ("pump",)}  # words in the name of a tachometer


@dataclass(frozen=True)
class _Speed:
    channel: str
    was: float
    asked: float


def sized(candidates: Sequence[Candidate], oracle: Oracle, layouts: Iterable[str]) -> list[Candidate]:
    """The job's own candidates with what their deviations add and their kelvins per watt, where they are needed and can be forecast."""
    own = set(layouts)
    wanted = [part for part in PARTS if _apart([c for c in candidates if c.name in own], f"{part}_power_w")]
    usual = _usual([c for c in candidates if c.name in own])
    found = []
    for c in candidates:
        try:
            found.append(_sized(c, oracle, wanted, usual) if c.name in own else c)
        except OventaError:  # parts that do not suffice for a forecast: the measured rise stands for it
            found.append(c)
    return found


def _sized(c: Candidate, oracle: Oracle, wanted: Sequence[str], usual: Mapping[str, float]) -> Candidate:
    machine = oracle.machine(c.name)
    slopes = dict(c.k_per_w)
    for part in wanted:
        slopes |= _k_per_w(machine, oracle.point(c.name), part)
    deviations = list(c.deviations)
    for speed in _speeds(c, machine, usual):
        turned = _with_speed(machine, speed)
        if turned is not None:
            adds = _adds(differences(operating_point(turned), oracle.point(c.name)))
            deviations.append(Deviation(speed_words(speed.channel, speed.was, speed.asked), adds))
    return replace(c, k_per_w=slopes, deviations=tuple(deviations))


def _apart(candidates: Sequence[Candidate], channel: str) -> bool:
    means = [_mean(c, channel) for c in candidates if c.values(channel)]
    return bool(means) and max(means) - min(means) > POWER_APART_SHARE * max(means)


def _mean(c: Candidate, channel: str) -> float:
    values = c.values(channel)
    return sum(values) / len(values)


def _k_per_w(machine: Machine, point: OperatingPoint, part: str) -> dict[str, tuple[float, float]]:
    if part == "cpu":
        added, warmer = machine.cpu.power_w * (NUDGE - 1), replace(machine, cpu=replace(machine.cpu, power_w=machine.cpu.power_w * NUDGE))
    elif machine.card:
        added, warmer = (
            machine.card.power_w * (NUDGE - 1),
            replace(machine, card=replace(machine.card, power_w=machine.card.power_w * NUDGE)),
        )
    else:
        return {}
    after = operating_point(warmer)
    one, two = (point.cpu_rise_k, after.cpu_rise_k) if part == "cpu" else (point.card_rise_k, after.card_rise_k)
    if one is None or two is None or added <= 0:
        return {}
    slope = (two - one) / added
    # A part at its limit in the forecast has no slope there; the measured rise stands for it.
    return {PARTS[part]: (slope, SLOPE_SHARE * slope)} if slope > LEAST_SLOPE else {}


def _adds(d: Differences) -> dict[str, tuple[float, float]]:
    found = {"cpu_package_c": (d.cpu_k, d.cpu_band_k)}
    if d.card_k is not None and d.card_band_k is not None:
        found["card_core_c"] = (d.card_k, d.card_band_k)
    two = coverage_factor(float("inf"))
    return {ch: (kelvin, max(min(band / two, abs(kelvin)), 0.1 * abs(kelvin))) for ch, (kelvin, band) in found.items()}


def _speeds(c: Candidate, machine: Machine, usual: Mapping[str, float]) -> list[_Speed]:
    """Fans of the case that turned otherwise than the layout asks, and fans of parts otherwise than in the other layouts."""
    found = []
    asked = speeds_rpm(machine)
    for channel in dict.fromkeys(x.name for run in c.judged for x in run.channels if x.name.endswith("_rpm")):
        was = _mean(c, channel) if c.values(channel) else 0.0
        if channel in asked:
            if abs(was - asked[channel]) > max(OFF_SHARE * asked[channel], OFF_RPM):
                found.append(_Speed(channel, was, asked[channel]))
        elif channel in usual and abs(was - usual[channel]) > max(LIKE_SPEED_SHARE * usual[channel], OFF_RPM):
            found.append(_Speed(channel, was, usual[channel]))
    return found


def _usual(candidates: Sequence[Candidate]) -> dict[str, float]:
    """The middle speed of card's, cooler's and pump's tachometers over all layouts."""
    names = dict.fromkeys(x.name for c in candidates for run in c.judged for x in run.channels if x.name.endswith("_rpm"))
    return {n: median(_mean(c, n) for c in candidates if c.values(n)) for n in names if _owner(n)}


def _owner(channel: str) -> str | None:
    return next((owner for owner, words in OWN_FANS.items() if any(w in channel for w in words)), None)


def _with_speed(machine: Machine, speed: _Speed) -> Machine | None:
    """The machine as it ran; None where nobody knows which fan it is, or it is on a curve."""
    share = speed.was / speed.asked if speed.asked else 0.0
    if any(f.channel == speed.channel for f in machine.fans):
        fans = tuple(
            replace(f, speed_pct=f.speed_pct * share, running=f.running and share > 0.02) if f.channel == speed.channel else f
            for f in machine.fans
        )
        return replace(machine, fans=fans)
    owner, card, cooler = _owner(speed.channel), machine.card, machine.cooler
    if owner == "card" and card and card.curve is None:
        return replace(machine, card=replace(card, fan_pct=min(card.fan_pct * share, 100.0)))
    if owner == "cpu" and isinstance(cooler, AirCooler) and cooler.curve is None:
        return replace(machine, cooler=replace(cooler, fan_pct=min(cooler.fan_pct * share, 100.0)))
    if owner == "pump" and isinstance(cooler, SealedCooler) and cooler.pump_curve is None:
        return replace(machine, cooler=replace(cooler, pump_pct=min(cooler.pump_pct * share, 100.0)))
    return None
