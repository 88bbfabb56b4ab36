"""Who is heard of a layout: every source's level where the person sits, its share of the sound, and how much quieter it is without it."""

from dataclasses import replace
from math import log10
from typing import Literal

from pydantic import BaseModel

from desk.forecast.document import Oracle
from engine.learn.levels import heard_voices

Side = Literal["front", "window", "rear", "above"]
SIDES: tuple[Side, ...] = ("front", "window", "rear", "above")
FARTHER = 2.0  # times as far away, as one more place to hear it from


class VoiceOut(BaseModel):
    """``share_pct`` of the energy, so that shares add up where levels do not; ``without_db``: by how much the whole falls without it."""

    name: str
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
    found = heard_voices(oracle.point(layout_id), oracle.offsets)
    whole = sum(10 ** (v.level_dba / 10) for v in found)
    rows = []
    for v in sorted(found, key=lambda x: -x.level_dba):
        share = 10 ** (v.level_dba / 10) / whole
        quieter = -10 * log10(max(1 - share, 1e-9))
        rows.append(VoiceOut(name=v.name, mount=v.mount, level_dba=v.level_dba, share_pct=100 * share, without_db=quieter))
    told = oracle.forecast(layout_id).sound.level_dba
    here = 10 * log10(whole)
    room = oracle.machine(layout_id).room
    places = [(side, room.listener_distance_m) for side in SIDES if side != room.listener_side]
    places += [(room.listener_side, FARTHER * room.listener_distance_m)]
    elsewhere = []
    for side, distance in places:
        level = _from(oracle, layout_id, side, distance)
        elsewhere.append(ElsewhereOut(side=side, distance_m=distance, level_dba=level + told - here, more_db=level - here))
    return VoicesAnswer(level_dba=told, sum_dba=here, voices=rows, elsewhere=elsewhere, learned=oracle.taught_by or None)


def _from(oracle: Oracle, layout_id: str, side: Side, distance_m: float) -> float:
    """The sum of all voices at another place: the air is the same, the ear is not."""
    point = oracle.point(layout_id)
    room = replace(point.machine.room, listener_side=side, listener_distance_m=distance_m)
    moved = replace(point, machine=replace(point.machine, room=room))
    return 10 * log10(sum(10 ** (v.level_dba / 10) for v in heard_voices(moved, oracle.offsets)))
