"""Who is heard of a layout: every source's level where the person sits, its share of the sound, and how much quieter it is without it."""

from math import log10

from pydantic import BaseModel

from desk.forecast.document import Oracle
from engine.learn.levels import heard_voices


class VoiceOut(BaseModel):
    """``share_pct`` of the energy, so that shares add up where levels do not; ``without_db``: by how much the whole falls without it."""

    name: str
    mount: str | None
    level_dba: float
    share_pct: float
    without_db: float


class VoicesAnswer(BaseModel):
    """``sum_dba`` of the voices; ``level_dba`` as told of the layout, which as learned has something of its own beside them."""

    level_dba: float
    sum_dba: float
    voices: list[VoiceOut]
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
    return VoicesAnswer(level_dba=told, sum_dba=10 * log10(whole), voices=rows, learned=oracle.taught_by or None)
