"""Levels that were read at chosen speeds, as readings to learn sources, paths, laws and the room from."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from desk.job.conditions import AS_READ, as_it_was, changed_since, made_with
from desk.job.resolve import Resolver
from desk.learn.lessons import SWEPT
from desk.learn.readings import LeftAside, Readings
from desk.sound.procedure import LEAST_FOR_BANDS, setting_of
from documents.job.models import JobDoc, LayoutDoc
from engine.errors import OventaError
from engine.learn.levels import AtSpeed, LevelReading, Side
from engine.runs.budget import sensor_error
from engine.sound.sweep import READ_DB, SpeedLevel, bad_bands, fitted


@dataclass(frozen=True)
class Heard:
    """Where a level was read: what the room gave, and where the ear was."""

    background_dba: float
    distance_m: float
    side: Side

    @classmethod
    def of(cls, doc: JobDoc) -> "Heard":
        return cls(doc.room.background_dba, doc.room.listener_distance_m, doc.room.listener_side)


@dataclass(frozen=True)
class Sweep:
    """Levels of one procedure. ``drawn``: the layout as it was; ``made_with``: its parts; ``mounts``: of what was set, empty for all."""

    name: str
    layout: str
    load: str
    mounts: tuple[str, ...]
    drawn: Mapping[str, Any]
    made_with: Mapping[str, str]
    heard: Heard
    readings: tuple[SpeedLevel, ...]


def named(purpose: str, layout: str, mounts: Sequence[str], turn: int, load: str) -> str:
    """A procedure in words."""
    of = SWEPT[0] if purpose == "sweep" else SWEPT[1]
    which = f", {', '.join(m.upper() for m in mounts)}" if mounts else ""
    which += ", at rest" if load == "idle" else ""
    return f"{of}{layout}{which}" + (f", {turn}" if turn > 1 else "")


@dataclass
class Swept:
    """``layouts`` as they were when they were read, under names of their own."""

    levels: dict[str, list[LevelReading]] = field(default_factory=dict)  # by load
    layouts: list[LayoutDoc] = field(default_factory=list)
    left_aside: list[LeftAside] = field(default_factory=list)

    def beside(self, runs: Readings) -> Readings:
        """What runs gave, and these."""
        levels = runs.levels | {load: [*runs.levels.get(load, []), *own] for load, own in self.levels.items()}
        return replace(runs, levels=levels, left_aside=[*runs.left_aside, *self.left_aside])


def swept(doc: JobDoc, sweeps: Sequence[Sweep]) -> Swept:
    """Readings of sweeps and of ways to a level. What sings or swells says nothing of a law, and is left out."""
    found, known = Swept(), {x.id: x for x in doc.layouts}
    for i, sweep in enumerate(sweeps):
        now = known.get(sweep.layout)
        drawn = dict(sweep.drawn) or (now.model_dump(mode="json", exclude_unset=True) if now else None)
        if drawn is None:
            found.left_aside.append(LeftAside(sweep.name, "its layout is not in the job"))
            continue
        layout = LayoutDoc.model_validate(drawn | {"id": as_it_was(sweep.layout, AS_READ, i + 1)})
        whole = doc.model_copy(update={"layouts": [*doc.layouts, layout]})
        try:
            changed = changed_since(sweep.made_with, made_with(whole, layout.id))
            own = list(_levels(whole, layout, sweep)) if not changed else []
        except OventaError as error:  # a mount or a part that is gone
            changed = [error.what]
            own = []
        if own:
            found.layouts.append(layout)
            found.levels.setdefault(sweep.load, []).extend(own)
        else:
            found.left_aside.append(LeftAside(sweep.name, "; ".join(changed[:3]) or "nothing of it follows a law"))
    return found


def _levels(doc: JobDoc, layout: LayoutDoc, sweep: Sweep) -> Iterator[LevelReading]:
    resolver = Resolver(doc)
    setting = setting_of(resolver, layout, sweep.mounts, sweep.load)
    bands = []
    if len(sweep.readings) >= LEAST_FOR_BANDS:
        bands = bad_bands(sweep.readings, fitted(sweep.readings, setting.floor_dba, setting.full_dba))
    meter = sensor_error("sound_dba")
    for r in sweep.readings:
        if any(b.from_pct <= r.speed_pct <= b.to_pct for b in bands):
            continue
        at = AtSpeed(sweep.mounts, r.speed_pct, sweep.heard.background_dba, sweep.heard.distance_m, sweep.heard.side)
        yield LevelReading(sweep.name, layout.id, r.level_dba, READ_DB, meter.standard if meter else 0.0, at)
