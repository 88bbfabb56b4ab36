"""Levels read at chosen speeds, by procedure."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal, cast

from desk.job.conditions import drawn_otherwise_but_speeds
from desk.learn.swept import Heard, Sweep, named
from documents.job.models import JobDoc
from engine.sound.sweep import SpeedLevel
from server.apps.sounds.models import LevelReading


@dataclass(frozen=True)
class ReadLevels:
    """One procedure; ``rows`` that count and that are struck. ``outdated``: the layout is drawn otherwise now, its speeds apart."""

    layout: str
    purpose: Literal["sweep", "equal"]
    turn: int
    load: str
    mounts: tuple[str, ...]
    rows: tuple[LevelReading, ...]
    outdated: bool


def read_levels(job_id: int, doc: JobDoc) -> list[ReadLevels]:
    """Every procedure of a job, layout by layout."""
    found = []
    rows = LevelReading.objects.filter(job_id=job_id).order_by("layout_key", "purpose", "round", "pk")
    known = {x.id for x in doc.layouts}
    for (layout, purpose, turn), own in groupby(rows, lambda r: (r.layout_key, r.purpose, r.round)):
        for (load, mounts), same in _by_fans(list(own)):
            outdated = layout not in known or drawn_otherwise_but_speeds(doc, layout, same[-1].drawn)
            found.append(ReadLevels(layout, cast(Literal["sweep", "equal"], purpose), turn, load, mounts, tuple(same), outdated))
    return found


def _by_fans(rows: Sequence[LevelReading]) -> list[tuple[tuple[str, tuple[str, ...]], list[LevelReading]]]:
    found: dict[tuple[str, tuple[str, ...]], list[LevelReading]] = {}
    for r in rows:
        found.setdefault((r.load, tuple(r.mounts)), []).append(r)
    return list(found.items())


def speed_level(r: LevelReading) -> SpeedLevel:
    return SpeedLevel(r.speed_pct, r.level_dba, r.tone_db, r.tone_hz, r.beat_db)


def sweeps_of(job_id: int, doc: JobDoc) -> list[Sweep]:
    """What there is to learn sound from: readings that count, each procedure with the layout as it was then."""
    found = []
    for x in read_levels(job_id, doc):
        good = [r for r in x.rows if not r.struck]
        if good:
            heard = Heard(**good[-1].heard) if good[-1].heard else Heard.of(doc)
            name = named(x.purpose, x.layout, x.mounts, x.turn, x.load)
            drawn, made = good[-1].drawn, good[-1].made_with
            found.append(Sweep(name, x.layout, x.load, x.mounts, drawn, made, heard, tuple(speed_level(r) for r in good)))
    return found
