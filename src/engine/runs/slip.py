"""A figure typed by hand, before it is believed: out of range, a slipped digit, a jump, or still climbing."""

from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

from engine.units import QUANTITIES

# What a reading can be at all, by the unit at the end of its channel's name.
RANGE = MappingProxyType(
    {"c": (-30.0, 150.0), "w": (0.0, 3000.0), "rpm": (0.0, 12000.0), "mhz": (0.0, 8000.0), "dba": (10.0, 120.0), "pct": (0.0, 100.0)}
)
JUMP = MappingProxyType({"c": 12.0, "dba": 12.0})  # a slip of a digit is mostly ten; common practice, no source
CLIMBING_K_MIN = 0.3  # common practice, no source
CLOSE_SHARE = 0.12  # common practice, no source

Doubt = Literal["out_of_range", "slipped_digit", "jump", "still_climbing"]


@dataclass(frozen=True)
class Question:
    code: Doubt
    words: str


def question(channel: str, value: float, earlier: Sequence[tuple[float, float]], now_s: float, settling: bool = False) -> Question | None:
    """What is odd about a typed value; None when nothing is.

    ``earlier`` are (s, value) of the same channel in this run, typed or logged; ``settling`` says that the parts themselves still warm up.
    """
    unit = channel.rsplit("_", 1)[-1]
    suffix = f" {QUANTITIES[unit].unit}" if unit in QUANTITIES else ""
    low, high = RANGE.get(unit, (-1e9, 1e9))
    if not low <= value <= high:
        words = f"{value:g}{suffix} cannot be: {low:g} to {high:g}{suffix} is possible. {_slip(value, earlier, suffix)}"
        return Question("out_of_range", words.strip())
    last = earlier[-1][1] if earlier else None
    if last is not None:
        slip = _slip(value, earlier, suffix)
        if slip:
            return Question("slipped_digit", f"The last one was {last:g}{suffix}. {slip}")
        if abs(value - last) > JUMP.get(unit, 1e9):
            return Question("jump", f"The last one was {last:g}{suffix}: is {value:g}{suffix} right?")
    if unit == "c" and channel != "room_c":
        recent = [(t, v) for t, v in earlier if 0 < now_s - t <= 300]
        rate = (value - recent[0][1]) / max((now_s - recent[0][0]) / 60, 0.25) if recent else 0.0
        if settling or rate > CLIMBING_K_MIN:
            return Question("still_climbing", "Still climbing: wait until the parts have settled, or keep it as a reading on the way.")
    return None


def _slip(value: float, earlier: Sequence[tuple[float, float]], suffix: str) -> str:
    """A decimal point left out or set wrong, told by what was read before."""
    if not earlier or not earlier[-1][1] or not value:
        return ""
    last = earlier[-1][1]
    for factor in (10.0, 0.1, 100.0, 0.01):
        if abs(value / factor - last) <= CLOSE_SHARE * abs(last) and abs(value - last) > 2 * CLOSE_SHARE * abs(last):
            return f"Was {value / factor:g}{suffix} meant?"
    return ""
