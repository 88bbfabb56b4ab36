"""Fans, pumps and the headers they hang on: sums of current, kinds of connector, lengths of leads."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

ROUTING_FACTOR = 1.2  # common practice, no source: a lead follows the frame, not the straight line
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
    """A lead against the way to its header, both in mm."""

    name: str
    mount: str | None
    header: str
    needed_mm: float
    there_mm: float

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


def wiring(headers: tuple[HeaderBox, ...], plugs: tuple[Plug, ...]) -> Wiring:
    """The books of a layout's leads; a plug without a header is reported only where the board's headers are known."""
    return Wiring(
        tuple(_line(h, [p for p in plugs if p.header == h.id]) for h in headers),
        tuple(_leads(headers, plugs)),
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
    along = abs(plug.x_mm - header.x_mm) + abs(plug.z_mm - header.z_mm)
    across = abs((plug.y_mm or 0.0) - (header.y_mm or 0.0))
    return ROUTING_FACTOR * (along + across)


def _leads(headers: tuple[HeaderBox, ...], plugs: tuple[Plug, ...]) -> Iterator[LeadLine]:
    by_id = {h.id: h for h in headers}
    for p in plugs:
        header = by_id.get(p.header or "")
        needed = way_mm(p, header) if header else None
        if header and needed is not None and p.lead_mm is not None:
            yield LeadLine(p.name, p.mount, header.id, needed, p.lead_mm + p.extension_mm)


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
