"""Fans, pumps and the headers they hang on: sums of current, kinds of connector, lengths of leads."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise, permutations
from typing import Literal

ROUTING_FACTOR = 1.2  # common practice, no source: a lead follows the frame, not the straight line
STRAIGHT_MM = 150.0  # common practice, no source: a lead as short as this goes straight to its header
MOST_DETOUR = 2.0  # common practice, no source: nobody leads one further round than this for the looks of it
NEAR_SHARE = 0.9  # a tenth to spare; common practice, no source


@dataclass(frozen=True)
class HeaderBox:
    """A header of the board or of a powered hub; ``limit_a`` is None where the manual does not say."""

    id: str
    kind: Literal["fan", "pump", "hub"]
    limit_a: float | None
    modes: tuple[str, ...]  # 3pin | 4pin: how it can slow a fan
    x_mm: float | None
    y_mm: float | None
    z_mm: float | None


@dataclass(frozen=True)
class Hole:
    """An opening of the tray through which leads pass to behind the board."""

    id: str
    x_mm: float
    y_mm: float
    z_mm: float


@dataclass(frozen=True)
class Plug:
    """One thing with a lead: where it is, what it draws, and where it is plugged in."""

    name: str
    mount: str | None
    kind: Literal["fan", "pump"]
    current_a: float | None
    connector: str
    lead_mm: float | None
    extension_mm: float
    header: str | None
    slowed: bool  # turns at less than full speed or follows a curve
    curved: bool
    x_mm: float | None
    y_mm: float | None
    z_mm: float | None


@dataclass(frozen=True)
class HeaderLine:
    """What hangs on one header. ``spare_a`` is None where the limit or a current is not known."""

    header: str
    kind: str
    plugs: tuple[str, ...]
    mounts: tuple[str, ...]
    sum_a: float
    limit_a: float | None
    unknown: tuple[str, ...]
    verdict: Literal["carries", "near", "overloaded", "not_known"]

    @property
    def spare_a(self) -> float | None:
        return None if self.limit_a is None else self.limit_a - self.sum_a


@dataclass(frozen=True)
class LeadLine:
    """A lead against the way to its header, both in mm.

    ``through``: the holes by which it goes behind the board and comes out again, where it is long enough for that; ``hidden_mm`` what
    that way needs, also where the lead is too short for it; None where there is no such way.
    """

    name: str
    mount: str | None
    header: str
    needed_mm: float
    there_mm: float
    through: tuple[str, ...] = ()
    hidden_mm: float | None = None

    @property
    def spare_mm(self) -> float:
        return self.there_mm - self.needed_mm


@dataclass(frozen=True)
class Mismatch:
    """Something about a plug that is not about amperes: code, plug, header."""

    code: Literal["full_speed_only", "pump_slowed", "pump_on_fan_header", "not_plugged", "default_curve"]
    plug: Plug
    header: HeaderBox | None


@dataclass(frozen=True)
class Wiring:
    headers: tuple[HeaderLine, ...]
    leads: tuple[LeadLine, ...]
    mismatches: tuple[Mismatch, ...]


def wiring(headers: tuple[HeaderBox, ...], plugs: tuple[Plug, ...], holes: tuple[Hole, ...] = ()) -> Wiring:
    """The books of a layout's leads; a plug without a header is reported only where the board's headers are known."""
    return Wiring(
        tuple(_line(h, [p for p in plugs if p.header == h.id]) for h in headers),
        tuple(_leads(headers, plugs, holes)),
        tuple(_mismatches(headers, plugs)),
    )


def _line(header: HeaderBox, plugs: list[Plug]) -> HeaderLine:
    unknown = tuple(p.name for p in plugs if p.current_a is None)
    total = sum(p.current_a or 0.0 for p in plugs)
    verdict: Literal["carries", "near", "overloaded", "not_known"] = "carries"
    if header.limit_a is not None and total > header.limit_a + 1e-9:
        verdict = "overloaded"
    elif plugs and (header.limit_a is None or unknown):
        verdict = "not_known"
    elif header.limit_a is not None and total > NEAR_SHARE * header.limit_a:
        verdict = "near"
    mounts = tuple(dict.fromkeys(p.mount for p in plugs if p.mount))
    return HeaderLine(header.id, header.kind, tuple(p.name for p in plugs), mounts, total, header.limit_a, unknown, verdict)


def way_mm(plug: Plug, header: HeaderBox) -> float | None:
    """Length of the way from a fan to a header along the frame; None where either place is not known."""
    if plug.x_mm is None or plug.z_mm is None or header.x_mm is None or header.z_mm is None:
        return None
    return ROUTING_FACTOR * _apart_mm(_place(plug), _place(header))


def _place(of: Plug | HeaderBox | Hole) -> tuple[float, float, float]:
    return (of.x_mm or 0.0, of.y_mm or 0.0, of.z_mm or 0.0)


def _apart_mm(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    """Along the edges of the case."""
    return sum(abs(p - q) for p, q in zip(a, b, strict=True))


def hidden_way(plug: Plug, header: HeaderBox, holes: tuple[Hole, ...]) -> tuple[float, tuple[str, ...]] | None:
    """The shortest way in by one hole, behind the board and out by another: its length in mm and the holes; None where there is none."""
    direct = way_mm(plug, header)
    if direct is None or direct < STRAIGHT_MM:
        return None
    ways = []
    for a, b in permutations(holes, 2):
        stops = (_place(plug), _place(a), _place(b), _place(header))
        ways.append((ROUTING_FACTOR * sum(_apart_mm(p, q) for p, q in pairwise(stops)), (a.id, b.id)))
    best = min(ways, default=None)
    return best if best and best[0] <= MOST_DETOUR * direct else None


def _leads(headers: tuple[HeaderBox, ...], plugs: tuple[Plug, ...], holes: tuple[Hole, ...]) -> Iterator[LeadLine]:
    by_id = {h.id: h for h in headers}
    for p in plugs:
        header = by_id.get(p.header or "")
        needed = way_mm(p, header) if header else None
        if header and needed is not None and p.lead_mm is not None:
            there = p.lead_mm + p.extension_mm
            hidden = hidden_way(p, header, holes)
            if hidden and hidden[0] <= there:
                yield LeadLine(p.name, p.mount, header.id, hidden[0], there, hidden[1], hidden[0])
            else:
                yield LeadLine(p.name, p.mount, header.id, needed, there, (), hidden[0] if hidden else None)


def _mismatches(headers: tuple[HeaderBox, ...], plugs: tuple[Plug, ...]) -> Iterator[Mismatch]:
    by_id = {h.id: h for h in headers}
    for p in plugs:
        header = by_id.get(p.header or "")
        if header is None:
            if headers:
                yield Mismatch("not_plugged", p, None)
            continue
        if p.kind == "pump" and p.slowed:
            yield Mismatch("pump_slowed", p, header)
        elif p.kind == "pump" and header.kind == "fan":
            yield Mismatch("pump_on_fan_header", p, header)
        if p.kind == "fan" and p.slowed and header.modes and p.connector in ("3pin", "4pin") and p.connector not in header.modes:
            yield Mismatch("full_speed_only", p, header)
        if p.kind == "fan" and not p.slowed and not p.curved and header.kind == "fan":
            yield Mismatch("default_curve", p, header)
