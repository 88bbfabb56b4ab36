"""A unit's short run against the reference run of its layout: within what units of one kind scatter, or not, and what is likely wrong.

Both are read at the same minute after the load came on, so that a short run is held against short runs. What good units differ by
(chips, paste, fans, probes, the room's thermometer) makes the covariance; what faults would change comes from the engine, with what this
case's runs have taught.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.stats import norm

from desk.job.resolve import Resolver
from desk.learn.document import Learning
from desk.learn.packaged import drawn_otherwise
from desk.runs.ready import complete, read_as
from desk.verdict.study import FORECAST_LOADS
from desk.words.faults import LOOKS, named
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from documents.package.document import open_package
from engine.coupled.operating_point import loaded
from engine.identity import ENGINE
from engine.learn.faults import Cause as Cause
from engine.learn.faults import Chance, Signatures, diagnose, faults_of, plain_reading, signatures, telling_stop, weaker
from engine.machine import Machine
from engine.parameters import DEFAULT, INDEX, SPREADS
from engine.runs.series import RunLog

Floats = NDArray[np.float64]
Word = Literal["within", "outside", "cannot_tell"]

# One sigma of how good units of one kind differ, in shares of what is read; no source: of the order of makers' stated tolerances.
CHIP_SHARE: Mapping[str, float] = {"cpu_package_c": 0.015, "card_core_c": 0.02}
AGAIN_SHARE = 0.008  # no source: from one run of a machine to the next, nothing touched
BUILD_SHARE = 0.012  # no source: paste and mounting from one build to the next, as in repeats
AIR_SHARE, AIR_K = 0.03, 0.3  # no source: a probe in the air hangs a little elsewhere in every unit
COOLANT_K = 0.15  # no source
ROOM_K = 0.25  # no source: the room's thermometer, common to all temperatures of a run
FLOW_SHARE = 0.015  # no source: all fans of a unit together
TACH_SHARE, TACH_RPM = 0.02, 20.0  # no source: fans of one kind, and the step of a tachometer
LEVEL_DB = 0.8  # no source: pieces and the microphone's place
ASKED_SHARE = 0.06  # no source: of how a fan's speed differs from what its share of the sheet's full speed says
POWER_SHARE = 0.02  # no source
FALSE_FAILS = 1e-3  # of good units, over all channels of a run
LOOK_BELOW, FAIL_BELOW = 0.5, 0.02  # chance that nothing is wrong: under the first look, under the second it fails
TOLD_CHANCE = 0.01  # no source: less is not listed
ALIKE = 3.0  # no source: chances closer than this ratio are told apart by a look
LEAST_MIN = 3.0  # no source: a shorter run says too little
ON_SHARE = 0.5  # of its power: the load is on
LIMIT_K = 2.0  # no source: so close to its limit a part gives up power, and its temperature says nothing


class CommissionChannel(BaseModel):
    """``difference_k`` in ``unit``: unit less reference, over the room of either; None where the unit's log lacks it."""

    name: str
    unit: str
    reference: float
    difference_k: float | None
    allowed_k: float
    word: Word


class Diagnosis(BaseModel):
    cause: Cause
    mount: str | None
    chance_pct: float
    words: str
    look: str


class CommissioningDoc(BaseModel):
    """``verdict``: pass, fail, or look: nothing is outside, but something is more likely wrong than not. ``tell``: what would decide."""

    format: Literal["oventa-commissioning"] = "oventa-commissioning"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    layout: str
    load: str
    minutes: float
    runs: list[str]
    learned: int | None
    passed: bool
    verdict: Literal["pass", "fail", "look"]
    channels: list[CommissionChannel]
    diagnosis: list[Diagnosis]
    tell: str = ""
    notes: list[str] = []


@dataclass(frozen=True)
class Reference:
    """Valid runs of a layout under one load, by name, and the case as it has been learned."""

    doc: JobDoc
    layout: str
    load: str
    logs: Mapping[str, RunLog]
    learning: Learning | None
    kept: dict[float, tuple[Signatures, dict[str, float]]] = field(default_factory=dict, compare=False, repr=False)

    def patterns(self, minutes: float) -> tuple[Signatures, dict[str, float]]:
        """Signatures at about a minute, and what all fans moving a little less air would change; kept for the units that follow."""
        at = max(round(2 * minutes) / 2, LEAST_MIN)
        if at not in self.kept:
            loads = partial(loaded, load=FORECAST_LOADS[self.load])
            found = signatures(self.machine, self.parameters, self.spreads, at, loads)
            less = plain_reading(weaker(self.machine, FLOW_SHARE), self.parameters, at, loads, self.machine)
            self.kept[at] = found, {c: less[c] - found.base[c] for c in found.base}
        return self.kept[at]

    @property
    def taught(self) -> bool:
        return self.learning is not None and self.learning.anything

    @property
    def parameters(self) -> Floats:
        return self.learning.learned.vector if self.learning and self.taught else DEFAULT

    @property
    def spreads(self) -> Floats:
        """One sigma of every parameter, as a logarithm, as far as the runs have narrowed it."""
        found: Floats = np.log(SPREADS)
        if self.learning and self.taught:
            for p in self.learning.learned.parameters:
                found[INDEX[p.name]] = min(found[INDEX[p.name]], p.sd / p.value)
        return found

    @property
    def machine(self) -> Machine:
        return Resolver(self.doc).machine(self.layout)


def reference_in(data: bytes, doc: JobDoc, layout: str, learning: Learning | None) -> Reference:
    """The valid runs of a layout in a package, of the load that most were made under. Raises DocumentError where there are none."""
    Resolver(doc).layout(layout)
    by_load: dict[str, dict[str, RunLog]] = {}
    for packed in open_package(data).runs():
        said = packed.said
        if said.layout == layout and said.state == "valid" and packed.text and not drawn_otherwise(doc, said):
            log = complete(read_as(packed.text).log, [x.model_dump(mode="json") for x in said.by_hand], said.typed_room_c)
            by_load.setdefault(said.load or "both", {})[said.name] = log
    return reference_of(doc, layout, by_load, learning)


def reference_of(doc: JobDoc, layout: str, by_load: Mapping[str, Mapping[str, RunLog]], learning: Learning | None) -> Reference:
    usable = {load: logs for load, logs in by_load.items() if load in FORECAST_LOADS and logs}
    if not usable:
        do = "Make a valid run of it first, or choose a layout that has one."
        raise DocumentError([Fault("layout", f"there is no valid run of layout {layout} to hold the unit against", do)])
    load = max(usable, key=lambda x: (len(usable[x]), x == "both"))
    return Reference(doc, layout, load, usable[load], learning)


def commission(
    reference: Reference, unit: RunLog, others: Sequence[Mapping[str, float]] = (), same_machine: bool = False
) -> CommissioningDoc:
    """``others``: differences of units of the same batch that passed, by channel; they narrow or widen what is allowed. ``same_machine``:
    the reference's own, later: chips and probes are the same.

    Raises DocumentError for a log that is too short, without the room, or without a temperature that the reference has.
    """
    logs = {name: from_load(log) for name, log in reference.logs.items()}
    own = from_load(unit)
    minutes = min(own.duration_s, *(x.duration_s for x in logs.values())) / 60
    if minutes < LEAST_MIN:
        raise DocumentError([Fault("unit", f"the run lasts {minutes:.1f} min under load", f"Let it run {LEAST_MIN:.0f} min or more.")])
    if own.room_c is None:
        raise DocumentError([Fault("unit", "nobody read the room", "Log room_c, or type the room's temperature in that column.")])
    refs = [read_at(x, minutes) for x in logs.values()]
    mean = {c: float(np.mean([r[c] for r in refs if c in r])) for c in dict.fromkeys(x for r in refs for x in r)}
    here = read_at(own, minutes)
    shared = [c for c in mean if c in here]
    if not any(c.endswith("_c") for c in shared):
        do = f"Log at least one of {', '.join(c for c in mean if c.endswith('_c'))}."
        raise DocumentError([Fault("unit", "the unit's log has no temperature that the reference run has", do)])
    machine, notes = reference.machine, list[str]()
    loads = partial(loaded, load=FORECAST_LOADS[reference.load])
    found, flow = reference.patterns(minutes)
    asked = _asked_speeds(machine, found, here, mean)
    if asked:
        notes.append("the reference has no speeds of fans: they are held against what the layout asks")
    mean |= asked
    change = {c: _change(c, here[c], mean[c]) for c in (*shared, *asked) if c in found.base}
    change = _at_same_power(change, here, mean, machine, unit, notes)
    covariance = _covariance(list(change), mean, len(refs), flow, others, same_machine)
    covariance += np.diag([ASKED_SHARE**2 if c in asked else 0.0 for c in change])
    z = float(norm.isf(FALSE_FAILS / 2 / max(len(change), 1)))
    channels = [_channel(c, change.get(c), mean[c], z * _sigma(c, change, covariance)) for c in mean if c in found.base]
    chances = diagnose(change, covariance, found)
    clean = next(x.chance for x in chances if x.cause == "none")
    outside = any(c.word == "outside" for c in channels)
    verdict: Literal["pass", "fail", "look"] = "fail" if outside or clean < FAIL_BELOW else "look" if clean < LOOK_BELOW else "pass"
    notes += [f"its log has no {c}, which the reference has" for c in mean if c not in here and c in found.base]
    return CommissioningDoc(
        layout=reference.layout,
        load=reference.load,
        minutes=minutes,
        runs=list(logs),
        learned=reference.learning.taught_by if reference.learning and reference.taught else None,
        passed=verdict != "fail",
        verdict=verdict,
        channels=channels,
        diagnosis=list(_told(chances)),
        tell=_tell(chances, machine, reference, loads) if verdict != "pass" else "",
        notes=notes,
    )


def _asked_speeds(m: Machine, found: Signatures, here: Mapping[str, float], mean: Mapping[str, float]) -> dict[str, float]:
    """Speeds that the layout asks, in rpm, of fans that the unit's log has and the reference's has not."""
    return {
        f.channel: f.fan.speed_max_rpm * found.base[f.channel] / 100
        for f in m.fans
        if f.channel in here and f.channel not in mean and found.base.get(f.channel, 0.0) > 0
    }


def from_load(log: RunLog) -> RunLog:
    """The log from the moment its load came on, where a power was logged; else as it is."""
    for name in ("cpu_power_w", "card_power_w"):
        power = log.channels.get(name)
        if power is None or not np.isfinite(power).any():
            continue
        usual = float(np.nanmedian(power[len(power) // 2 :]))
        on = np.flatnonzero(np.nan_to_num(power) > ON_SHARE * usual)
        if usual > 0 and len(on) and len(log.elapsed_s) - on[0] > 2:
            first = int(on[0])
            return RunLog(log.elapsed_s[first:] - log.elapsed_s[first], {c: v[first:] for c, v in log.channels.items()})
    return log


def read_at(log: RunLog, minutes: float) -> dict[str, float]:
    """Means over the last fifth of the first ``minutes``, temperatures over room; a fan that reads nothing at all is not told."""
    end = log.elapsed_s[0] + 60 * minutes
    span = (log.elapsed_s <= end + 1e-6) & (log.elapsed_s >= end - max(60.0, 12 * minutes))
    room = log.room_c
    found = {}
    for name, values in log.channels.items():
        good = span & np.isfinite(values)
        if not good.any() or name == "room_c":
            continue
        if name.endswith("_c"):
            if room is not None:
                found[name] = float(np.mean(values[good] - room[good]))
        else:
            found[name] = float(np.mean(values[good]))
    return found


def _change(channel: str, now: float, before: float) -> float:
    if channel.endswith("_rpm"):
        return now / before - 1 if before > 0 else 0.0
    return now - before


def _at_same_power(
    change: Mapping[str, float], here: Mapping[str, float], mean: Mapping[str, float], m: Machine, unit: RunLog, notes: list[str]
) -> dict[str, float]:
    """A part that drew more or less than in the reference is put to its power, unless its limit made it so."""
    found = dict(change)
    room_c = float(np.mean(unit.room_c)) if unit.room_c is not None else m.room.temperature_c
    limits = {"cpu": m.cpu.tj_max_c, "card": m.card.t_limit_c if m.card else np.inf}
    for part, channel in (("cpu", "cpu_package_c"), ("card", "card_core_c")):
        power = f"{part}_power_w"
        if channel not in found or power not in here or power not in mean or min(here[power], mean[power]) <= 0:
            continue
        if here[channel] + room_c > limits[part] - LIMIT_K:
            notes.append(f"the {'processor' if part == 'cpu' else 'card'} stands at its limit: its temperature says less than it should")
            continue
        found[channel] = here[channel] * mean[power] / here[power] - mean[channel]
    return found


def _covariance(
    channels: Sequence[str],
    mean: Mapping[str, float],
    runs: int,
    flow: Mapping[str, float],
    others: Sequence[Mapping[str, float]],
    same_machine: bool,
) -> Floats:
    """Of good units' differences from the mean of the reference runs."""
    own = np.array([_unit_sd(c, mean[c], same_machine) for c in channels])
    matrix = np.diag(own**2)
    warm = np.array([ROOM_K if c.endswith("_c") else 0.0 for c in channels])
    matrix += np.outer(warm, warm)
    weaker_fans = np.array([flow[c] if c.endswith("_c") and not same_machine else 0.0 for c in channels])
    matrix += np.outer(weaker_fans, weaker_fans)
    matrix *= 1 + 1 / runs
    return _from_batch(matrix, channels, others)


PRIOR_UNITS = 8.0  # no source: what is assumed of good units weighs as much as so many of them


def _from_batch(matrix: Floats, channels: Sequence[str], others: Sequence[Mapping[str, float]]) -> Floats:
    """Scaled channel by channel by how units that passed scattered: an inverse chi-squared prior, its mean what is assumed."""
    scale = np.ones(len(channels))
    for i, c in enumerate(channels):
        read = np.array([o[c] for o in others if c in o])
        if len(read) > 1:
            scale[i] = (PRIOR_UNITS + (read**2).sum() / matrix[i, i]) / (PRIOR_UNITS + len(read))
    root = np.sqrt(scale)
    return np.asarray(matrix * np.outer(root, root))


def _unit_sd(channel: str, value: float, same_machine: bool) -> float:
    if same_machine and channel.endswith("_c"):
        return float(np.hypot(AGAIN_SHARE * abs(value), 0.2))
    if channel in CHIP_SHARE:
        return float(np.hypot(abs(value) * np.hypot(CHIP_SHARE[channel], BUILD_SHARE), 0.2))
    if channel == "coolant_c":
        return float(np.hypot(abs(value) * BUILD_SHARE, COOLANT_K))
    if channel.endswith("_c"):
        return float(np.hypot(abs(value) * AIR_SHARE, AIR_K))
    if channel.endswith("_rpm"):
        return float(np.hypot(TACH_SHARE, TACH_RPM / max(value, TACH_RPM)))
    return LEVEL_DB if channel.endswith("_dba") else POWER_SHARE * max(abs(value), 1.0)


def _sigma(channel: str, change: Mapping[str, float], covariance: Floats) -> float:
    at = list(change).index(channel) if channel in change else None
    return float("nan") if at is None else float(np.sqrt(covariance[at, at]))


def _channel(name: str, change: float | None, reference: float, allowed: float) -> CommissionChannel:
    scale = reference if name.endswith("_rpm") else 1.0
    unit = {"c": "K", "rpm": "rpm", "dba": "dB", "w": "W"}.get(name.rsplit("_", 1)[-1], "")
    word: Word = "cannot_tell" if change is None else "outside" if abs(change) > allowed else "within"
    return CommissionChannel(
        name=name,
        unit=unit,
        reference=reference,
        difference_k=None if change is None else change * scale,
        allowed_k=0.0 if np.isnan(allowed) else allowed * scale,
        word=word,
    )


def _told(chances: Sequence[Chance]) -> Iterator[Diagnosis]:
    for c in chances:
        if c.chance >= TOLD_CHANCE or c is chances[0]:
            yield Diagnosis(
                cause=c.cause,
                mount=c.mount,
                chance_pct=100 * c.chance,
                words=named(c.cause, c.mount),
                look=LOOKS[c.cause].format(at=at(c.mount)),
            )


def changes_of(found: CommissioningDoc) -> dict[str, float]:
    """A unit's differences as ``others`` are given to the units after it."""
    return {
        c.name: c.difference_k / c.reference if c.name.endswith("_rpm") and c.reference else c.difference_k
        for c in found.channels
        if c.difference_k is not None
    }


def at(mount: str | None) -> str:
    return (mount or "").upper()


def _tell(chances: Sequence[Chance], machine: Machine, reference: Reference, loads: "partial[Machine]") -> str:
    """What tells the two likeliest faults apart, where neither stands out: a fan that is stopped for two minutes, or the nearer look."""
    wrong = [c for c in chances if c.cause != "none"][:2]
    if len(wrong) < 2 or wrong[0].chance > ALIKE * wrong[1].chance:
        return ""
    own = reference.parameters
    by_key = {(f.cause, f.mount): f for f in faults_of(machine, own)}
    pair = [by_key[c.cause, c.mount] for c in wrong]
    names = [named(c.cause, c.mount) for c in wrong]
    mounts = [f.mount for f in machine.fans if f.running and f.layer == "outer"]
    stop = telling_stop(machine, own, pair[0], pair[1], mounts, loads)
    if stop and abs(stop[1] - stop[2]) >= 2 * ROOM_K:
        a, b = (f"{x:+.1f} K".replace("-", "−") for x in stop[1:])
        return (
            f"Stop the fan at {stop[0].upper()} for two minutes under load: the processor goes towards {a} if it is {names[0]}, "
            f"towards {b} if it is {names[1]}."
        )
    return f"Look for {names[0]} first: {LOOKS[wrong[0].cause].format(at=at(wrong[0].mount))}"
