"""Sentences made of words and quantities, so that screen, report and document say the same in the reader's units."""

from collections.abc import Sequence
from typing import Literal

from pydantic import BaseModel

from desk.words.measures import WHOLE_BAND

Kind = Literal["difference", "temperature", "level", "sound", "share", "money", "minutes", "power", "clock", "time", "plain"]
UNIT: dict[str, str] = {
    "difference": "K",
    "temperature": "°C",
    "level": "dB",
    "sound": "dBA",
    "share": "%",
    "money": "",
    "minutes": "min",
    "power": "W",
    "clock": "MHz",
    "time": "s",
    "plain": "",
}
DIGITS: dict[str, int] = {"difference": 1, "level": 1, "sound": 1, "time": 1, "plain": 1}  # whole figures for the others


class Quantity(BaseModel):
    """A value with its kind for units, and its expanded uncertainty where it has one."""

    kind: Kind
    value: float
    band: float | None = None
    digits: int | None = None  # where they differ from those of the kind


Part = str | Quantity


class Sentence(BaseModel):
    """``code`` tells what it says: claim, price, same, unsure, scope, untested, tie ..."""

    code: str
    parts: list[Part]


def plain(parts: Sequence[Part]) -> str:
    """In metric units, as the report prints it."""
    return "".join(p if isinstance(p, str) else quantity(p) for p in parts)


def digits_of(q: Quantity) -> int:
    return DIGITS.get(q.kind, 0) if q.digits is None else q.digits


def quantity(q: Quantity) -> str:
    digits = digits_of(q)
    value = f"{q.value:.{digits}f}" + (f" ± {q.band:.{digits}f}" if q.band is not None else "")
    return f"{value} {UNIT[q.kind]}".strip().replace("-", "\N{MINUS SIGN}")


def listed(items: Sequence[str]) -> str:
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}"


KINDS: dict[str, Kind] = {"c": "difference", "dba": "level", "w": "power", "mhz": "clock", "s": "time"}
COMPARED = {
    "difference": ("cooler", "warmer"),
    "level": ("quieter", "louder"),
    "power": ("lower", "higher"),
    "clock": ("slower", "faster"),
    "time": ("shorter", "longer"),
}


def kind_of(channel: str) -> Kind:
    return KINDS.get(channel.rsplit("_", 1)[-1], "plain")


def measured(channel: str, value: float, band: float | None = None) -> Quantity:
    """A channel's figure; of what has no unit, such as a score, no more digits than its band is worth (source: gum, 7.2.6)."""
    kind = kind_of(channel)
    return Quantity(kind=kind, value=value, band=band, digits=0 if kind == "plain" and (band or 0.0) >= WHOLE_BAND else None)


def compared(channel: str, difference: float) -> str:
    """The adjective of a difference, such as ``cooler``."""
    less, more = COMPARED.get(kind_of(channel), ("less", "more"))
    return less if difference < 0 else more
