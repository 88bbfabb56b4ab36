"""The search document: its shapes."""

from typing import Literal

from pydantic import BaseModel

from desk.job.edits import WrittenLayout
from engine.identity import ENGINE


class StoppedFan(BaseModel):
    """The case fan whose standing still is worst for a layout, and what the parts rise to then, in K over the room."""

    mount: str
    cpu_rise_k: float
    card_rise_k: float | None


class FoundLayout(BaseModel):
    """One layout that none beats. ``cpu_gain_k`` and the like: less what the start has, with 95 % bands.

    ``lost_w``: power that parts at their limits give up; it counts as heat in what beats what.
    ``group``: layouts that the forecast cannot tell apart; ``simplest`` leads its group. ``price`` None: a fan without a price is
    among them.
    """

    layout: WrittenLayout
    cpu_rise_k: float
    cpu_band_k: float
    card_rise_k: float | None
    card_band_k: float | None
    level_dba: float
    level_band_db: float
    lost_w: float
    lost_k: float = 0.0  # as which heat that counts
    price: float | None
    changes: int
    minutes: float
    group: int
    simplest: bool
    stopped: StoppedFan | None = None  # where it was asked for
    words: list[str]
    why: list[str]
    balance: str
    fans: int
    speed_pct: float
    cpu_gain_k: float
    cpu_gain_band_k: float
    card_gain_k: float | None
    card_gain_band_k: float | None
    level_gain_db: float


class SearchDots(BaseModel):
    """Every layout as a dot: rises in tenths of a kelvin, levels in tenths of a decibel, ``mounts`` as bits in the order of ``names``."""

    names: list[str]
    cpu_dk: list[int]
    card_dk: list[int]
    level_ddb: list[int]
    mounts: list[int]
    kept: list[bool]  # within every limit
    thinned: bool


class SearchStart(BaseModel):
    """A layout of the document as it does under the question's own heat and room."""

    id: str
    cpu_rise_k: float
    card_rise_k: float | None
    level_dba: float
    lost_k: float = 0.0


class SearchDoc(BaseModel):
    """``distinct``: layouts; ``evaluated``: forecasts, each at several speeds. ``possible``: counted by another way than by listing.

    ``unbeaten``: layouts that no other beats; where they are very many, ``frontier`` holds the most telling of them.
    ``gap_pct``: where not all were looked at, the share of layouts that may still be better, with 95 % confidence.
    """

    format: Literal["oventa-search"] = "oventa-search"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    learned: int | None = None
    evaluated: int
    distinct: int
    possible: int
    possible_exact: bool = True  # else there are no more than that
    exhaustive: bool
    gap_pct: float | None = None
    seed: int
    room_c: float
    start: SearchStart
    drawn: list[SearchStart] = []  # every layout of the document
    within_limits: int
    unbeaten: int
    ruled_out: dict[str, int]
    why_none: str = ""
    frontier: list[FoundLayout]
    dots: SearchDots | None = None
