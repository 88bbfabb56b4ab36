"""Levels read at chosen speeds, by procedure."""

from dataclasses import dataclass

from desk.job.conditions import drawn_otherwise_but_speeds
from desk.learn.swept import Heard, Sweep, named
from documents.job.models import JobDoc
from engine.sound.sweep import SpeedLevel
from server.apps.sounds.models import LevelReading, Of


@dataclass(frozen=True)
class ReadLevels:
    """One procedure; ``rows`` that count and that are struck."""

    of: Of
    turn: int
    rows: tuple[LevelReading, ...]

    def outdated(self, doc: JobDoc) -> bool:
        """Whether the layout is drawn otherwise now, its speeds apart."""
        gone = self.of.layout not in {x.id for x in doc.layouts}
        return gone or drawn_otherwise_but_speeds(doc, self.of.layout, self.rows[-1].drawn)


def read_levels(job_id: int) -> list[ReadLevels]:
    """Every procedure of a job, layout by layout."""
    found: dict[tuple[Of, int], list[LevelReading]] = {}
    for r in LevelReading.objects.filter(job_id=job_id).order_by("layout_key", "purpose", "round", "pk"):
        found.setdefault((Of(r.layout_key, r.purpose, tuple(r.mounts), r.load), r.round), []).append(r)
    return [ReadLevels(of, turn, tuple(rows)) for (of, turn), rows in found.items()]


def speed_level(r: LevelReading) -> SpeedLevel:
    return SpeedLevel(r.speed_pct, r.level_dba, r.tone_db, r.tone_hz, r.beat_db)


def sweeps_of(job_id: int, doc: JobDoc) -> list[Sweep]:
    """What there is to learn sound from: readings that count, each procedure with the layout as it was then."""
    found = []
    for x in read_levels(job_id):
        good = [r for r in x.rows if not r.struck]
        if good:
            heard = Heard(**good[-1].heard) if good[-1].heard else Heard.of(doc)
            of = x.of
            name = named(of.purpose, of.layout, of.mounts, x.turn, of.load)
            drawn, made = good[-1].drawn, good[-1].made_with
            found.append(Sweep(name, of.layout, of.load, of.mounts, drawn, made, heard, tuple(speed_level(r) for r in good)))
    return found
