"""A sweep or the way to a level, from the readings that are stored."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, cast

from desk.job.conditions import drawn_otherwise_but_speeds
from desk.job.resolve import Resolver
from desk.sound.procedure import Elsewhere, ProcedureDoc, equal_of, setting_of, sweep_of
from engine.sound.sweep import SpeedLevel
from server.apps.jobs.models import Job
from server.apps.sounds.models import LevelReading, Of
from server.apps.sounds.selectors import speed_level
from server.apps.sounds.services import document_of, readings_of

Purpose = Literal["sweep", "equal"]


@dataclass(frozen=True)
class Procedure:
    purpose: Purpose
    readings: list[LevelReading]
    outdated: bool  # there were readings, of the layout before it was drawn otherwise
    document: ProcedureDoc


def of(job: Job, asked: Of, target_dba: float, anew: bool = False) -> Procedure:
    """The latest of a layout with these fans under this load; readings of other fans are not of it, nor those of before it was drawn
    otherwise. ``anew``: as if none were there.
    """
    resolver = Resolver(document_of(job))
    setting = setting_of(resolver, resolver.layout(asked.layout), asked.mounts, asked.load)
    latest, outdated = _latest(job, resolver, asked)
    rows = [] if anew or outdated else latest
    purpose = cast(Purpose, asked.purpose)
    if purpose == "sweep":
        return Procedure(purpose, rows, outdated, sweep_of(setting, _counted(rows)))
    swept = _swept(job, resolver, asked)
    other = replace(asked, load="both" if asked.load == "idle" else "idle")
    elsewhere = Elsewhere(setting_of(resolver, resolver.layout(asked.layout), asked.mounts, other.load), _swept(job, resolver, other))
    return Procedure(purpose, rows, outdated, equal_of(setting, _counted(rows), target_dba, swept, elsewhere))


def _swept(job: Job, resolver: Resolver, asked: Of) -> list[SpeedLevel]:
    """Of the latest sweep of the same fans; none where the layout was drawn otherwise since."""
    rows, old = _latest(job, resolver, replace(asked, purpose="sweep"))
    return [] if old else _counted(rows)


def _latest(job: Job, resolver: Resolver, asked: Of) -> tuple[list[LevelReading], bool]:
    """Readings of the latest procedure, and whether they are of the layout before it was drawn otherwise."""
    rows = readings_of(job, asked)
    return rows, bool(rows) and drawn_otherwise_but_speeds(resolver.doc, asked.layout, rows[-1].drawn)


def _counted(rows: Sequence[LevelReading]) -> list[SpeedLevel]:
    return [speed_level(r) for r in rows if not r.struck]
