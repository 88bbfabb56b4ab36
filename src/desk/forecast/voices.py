"""Who is heard of a layout: every source's level where the person sits, its share of the sound, and how much quieter it is without it."""

from dataclasses import replace
from math import log10

from pydantic import BaseModel

from desk.forecast.document import Oracle
from engine.coupled.operating_point import OperatingPoint
from engine.learn.levels import Offsets, Side, Voice, heard_voices
from engine.sound.levels import sum_levels_dba

SIDES: tuple[Side, ...] = ("front", "window", "rear", "above")
FARTHER = 2.0  # times as far away, as one more place to hear it from


class VoiceOut(BaseModel):
    """Something that sounds, or ``count`` alike of them together.

    ``share_pct`` of the energy, so that shares add up where levels do not; ``without_db``: by how much the whole falls without it.
    """

    name: str
    count: int
    mount: str | None
    level_dba: float
    share_pct: float
    without_db: float


class ElsewhereOut(BaseModel):
    """The level where another ear sits, and by how much it is more than here."""

    side: Side
    distance_m: float
    level_dba: float
    more_db: float


class VoicesAnswer(BaseModel):
    """``sum_dba`` of the voices; ``level_dba`` as told of the layout, which as learned has something of its own beside them."""

    level_dba: float
    sum_dba: float
    voices: list[VoiceOut]
    elsewhere: list[ElsewhereOut]
    learned: int | None


def voices_of(oracle: Oracle, layout_id: str) -> VoicesAnswer:
    """The loudest first."""
    point, off = oracle.point(layout_id), oracle.offsets
    alike: dict[str, list[Voice]] = {}
    for v in heard_voices(point, off):
        alike.setdefault(v.name, []).append(v)
    levels = {name: sum_levels_dba(v.level_dba for v in own) for name, own in alike.items()}
    here = sum_levels_dba(levels.values())
    rows = []
    for name, level in sorted(levels.items(), key=lambda x: -x[1]):
        share, own = 10 ** ((level - here) / 10), alike[name]
        quieter = -10 * log10(max(1 - share, 1e-9))
        rows.append(VoiceOut(name=name, count=len(own), mount=own[0].mount, level_dba=level, share_pct=100 * share, without_db=quieter))
    told, room = oracle.forecast(layout_id).sound.level_dba, point.machine.room
    places = [(side, room.listener_distance_m) for side in SIDES if side != room.listener_side]
    places += [(room.listener_side, FARTHER * room.listener_distance_m)]
    elsewhere = []
    for side, distance in places:
        level = _from(point, off, side, distance)
        elsewhere.append(ElsewhereOut(side=side, distance_m=distance, level_dba=level + told - here, more_db=level - here))
    return VoicesAnswer(level_dba=told, sum_dba=here, voices=rows, elsewhere=elsewhere, learned=oracle.taught_by or None)


def _from(point: OperatingPoint, off: Offsets, side: Side, distance_m: float) -> float:
    """The sum of all voices at another place: the air is the same, the ear is not."""
    room = replace(point.machine.room, listener_side=side, listener_distance_m=distance_m)
    moved = replace(point, machine=replace(point.machine, room=room))
    return sum_levels_dba(v.level_dba for v in heard_voices(moved, off))
