"""A unit's short run against the reference run of its layout: within what units of one kind scatter, or not, and what is likely wrong.

Both are read at the same minute after the load came on, so that a short run is held against short runs. What good units differ by
(chips, paste, fans, probes, the room's thermometer) makes the covariance; what faults would change comes from the engine, with what this
case's runs have taught.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from math import inf
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from desk.forecast.document import Oracle, Question
from desk.job.conditions import drawn_otherwise
from desk.job.resolve import Resolver
from desk.learn.document import LearnedOracle, Learning
from desk.learn.packaged import drawn_of
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
from engine.learn.units import ROOM_K, at_same_power, change_of, covariance, from_load, read_at
from engine.machine import Machine
from engine.parameters import DEFAULT, INDEX, SPREADS
from engine.runs.budget import t_quantile
from engine.runs.series import RunLog

Floats = NDArray[np.float64]
PARTS = {"cpu": "processor", "card": "card"}
Word = Literal["within", "outside", "cannot_tell"]

FLOW_SHARE = 0.015  # no source: all fans of a unit together
ASKED_SHARE = 0.06  # no source: of how a fan's speed differs from what its share of the sheet's full speed says
FALSE_FAILS = 1e-3  # of good units, over all channels of a run
LOOK_BELOW, FAIL_BELOW = 0.5, 0.02  # chance that nothing is wrong: under the first look, under the second it fails
TOLD_CHANCE = 0.01  # no source: less is not listed
ALIKE = 3.0  # no source: chances closer than this ratio are told apart by a look
LEAST_MIN = 3.0  # no source: a shorter run says too little
LEAST_MATES, ALIKE_MIN = 3, 1.0  # no source: units of a batch that stand for a reference, and how unlike in length their runs may be
MEDIAN_WORTH = 2 / np.pi  # source: textbook; readings that a mean of the same error would take, for one of a median


class CommissionChannel(BaseModel):
    """``difference_k`` in ``unit``: unit less reference, over the room of either; None where the unit's log lacks it.

    ``from_forecast_k``: unit less what this layout is forecast to read at that minute, with the forecast's own 95 % band where it has one.
    """

    name: str
    unit: str
    reference: float
    difference_k: float | None
    allowed_k: float
    word: Word
    from_forecast_k: float | None = None
    forecast_band_k: float | None = None


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
    beyond: dict[str, float] = {}  # what it read that the reference runs have not; other units of its batch are held against it


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
    def bands(self) -> dict[str, float]:
        """95 % bands of what is forecast of this layout, learned where anything was."""
        question = Question(load=FORECAST_LOADS[self.load], layouts=[self.layout])
        oracle = LearnedOracle(self.learning.told_of(self.doc), question) if self.learning and self.taught else Oracle(self.doc, question)
        told = oracle.forecast(self.layout)
        found = {"cpu_package_c": told.cpu.band_k, "sound_dba": told.sound.band_db}
        return found | ({"card_core_c": told.card.band_k} if told.card else {})

    @property
    def machine(self) -> Machine:
        return Resolver(self.doc).machine(self.layout)


def reference_in(data: bytes, doc: JobDoc, layout: str, learning: Learning | None) -> Reference:
    """The valid runs of a layout in a package, of the load that most were made under. Raises DocumentError where there are none."""
    Resolver(doc).layout(layout)
    by_load: dict[str, dict[str, RunLog]] = {}
    for packed in open_package(data).runs():
        said = packed.said
        if said.layout == layout and said.state == "valid" and packed.text and not drawn_otherwise(doc, layout, drawn_of(said)):
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


def commission(reference: Reference, unit: RunLog, batch: Sequence[CommissioningDoc] = (), same_machine: bool = False) -> CommissioningDoc:
    """``batch``: of units of the same batch; those that passed narrow or widen what is allowed, and from three on they stand for the
    reference in channels that its runs have not. ``same_machine``: the reference's own, later: chips and probes are the same.

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
    found, flow = reference.patterns(minutes)
    beyond = {c: v for c, v in here.items() if c not in mean and c in found.base and not c.endswith("_rpm")}
    passed = [d for d in batch if d.verdict == "pass"]
    mates = _mates(beyond, [d.beyond for d in passed if abs(d.minutes - minutes) <= ALIKE_MIN])
    mean |= {c: float(np.median(read)) for c, read in mates.items()}
    shared = [c for c in mean if c in here]
    if not any(c.endswith("_c") for c in shared):
        do = f"Log at least one of {', '.join(c for c in mean if c.endswith('_c'))}."
        raise DocumentError([Fault("unit", "the unit's log has no temperature that the reference run has", do)])
    machine, notes = reference.machine, list[str]()
    loads = partial(loaded, load=FORECAST_LOADS[reference.load])
    asked = _asked_speeds(machine, found, here, mean)
    if asked:
        notes.append("the reference has no speeds of fans: they are held against what the layout asks")
    mean |= asked
    change = {c: change_of(c, here[c], mean[c]) for c in (*shared, *asked) if c in found.base}
    change, held = at_same_power(change, here, mean, machine, float(np.mean(own.room_c)))
    notes += [f"the {PARTS[p]} stands at its limit: its temperature says less than it should" for p in held]
    runs = min([float(len(refs)), *(MEDIAN_WORTH * len(read) for read in mates.values())])
    scatter = covariance(list(change), mean, runs, flow, [_changes(d) for d in passed], same_machine)
    scatter += np.diag([ASKED_SHARE**2 if c in asked else 0.0 for c in change])
    z = -t_quantile(FALSE_FAILS / 2 / max(len(change), 1), inf)
    bands, base = reference.bands, found.base
    told = {c: (change.get(c), mean[c], z * _sigma(c, change, scatter), here.get(c), base[c]) for c in mean if c in base}
    channels = [_channel(c, *figures, bands.get(c)) for c, figures in told.items()]
    chances = diagnose(change, scatter, found)
    clean = next(x.chance for x in chances if x.cause == "none")
    outside = any(c.word == "outside" for c in channels)
    verdict: Literal["pass", "fail", "look"] = "fail" if outside or clean < FAIL_BELOW else "look" if clean < LOOK_BELOW else "pass"
    notes += [f"its log has no {c}, which the reference has" for c in mean if c not in here and c in found.base]
    if mates:
        fewest = min(map(len, mates.values()))
        notes.append(f"held against {fewest} units of this batch, since the reference runs have none: {', '.join(mates)}")
    if alone := [c for c in beyond if c not in mates]:
        air = (
            "; a reference run that logs the air tells reversed fans and panels better" if any(c.startswith("air_") for c in alone) else ""
        )
        notes.append(f"not compared, since the reference runs have none: {', '.join(alone)}{air}")
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
        beyond=beyond,
    )


def _mates(channels: Iterable[str], read: Sequence[Mapping[str, float]]) -> dict[str, list[float]]:
    """By channel what enough units of the batch read in it."""
    found = {c: [x[c] for x in read if c in x] for c in channels}
    return {c: own for c, own in found.items() if len(own) >= LEAST_MATES}


def _asked_speeds(m: Machine, found: Signatures, here: Mapping[str, float], mean: Mapping[str, float]) -> dict[str, float]:
    """Speeds that the layout asks, in rpm, of fans that the unit's log has and the reference's has not."""
    return {
        f.channel: f.fan.speed_max_rpm * found.base[f.channel] / 100
        for f in m.fans
        if f.channel in here and f.channel not in mean and found.base.get(f.channel, 0.0) > 0
    }


def _sigma(channel: str, change: Mapping[str, float], scatter: Floats) -> float:
    at = list(change).index(channel) if channel in change else None
    return float("nan") if at is None else float(np.sqrt(scatter[at, at]))


def _channel(
    name: str,
    change: float | None,
    reference: float,
    allowed: float,
    here: float | None,
    forecast: float,
    band: float | None,
) -> CommissionChannel:
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
        from_forecast_k=here - forecast if here is not None and band is not None else None,
        forecast_band_k=band,
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


def _changes(found: CommissioningDoc) -> dict[str, float]:
    """A unit's differences, tachometers as a ratio less one."""
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
