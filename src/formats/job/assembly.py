"""Which part goes in before which, from a job document: rules of practice, and what the case's owner adds."""

from collections.abc import Iterator

from engine.fit.assembly import Assembly, Before, assembly
from engine.fit.ledger import Line
from formats.job.models import JobDoc, LayoutDoc
from formats.job.wiring import setting

TIGHT_MM = 15.0  # common practice, no source: less room than this leaves none for a hand or a screwdriver


def assembly_of(doc: JobDoc, layout: LayoutDoc, lines: list[Line]) -> Assembly:
    """An order for the layout; ``lines`` is its clearance ledger."""
    parts = list(_parts(doc, layout))
    own = [Before(a.first, a.second, a.why) for a in doc.case.assembly]
    return assembly(parts, [*_demands(doc, layout, lines), *own])


def _parts(doc: JobDoc, layout: LayoutDoc) -> Iterator[str]:
    """Names in the usual order of building."""
    if setting(doc, layout, "supply") or doc.case.supply:
        yield "power supply"
    yield from (f"fan at {p.mount.upper()}" for p in layout.fans if not _cooled(layout, p.mount))
    yield "board"
    if setting(doc, layout, "memory"):
        yield "memory"
    for mounts in _radiators(layout):
        yield f"radiator at {_names(mounts)}"
    yield "cooler"
    if setting(doc, layout, "card"):
        yield "card"


def _radiators(layout: LayoutDoc) -> list[list[str]]:
    if layout.loops:
        return [r.mounts for loop in layout.loops for r in loop.radiators]
    return [layout.radiator.mounts] if layout.radiator else []


def _cooled(layout: LayoutDoc, mount: str) -> bool:
    """Fans on a radiator go in with it."""
    return any(mount in mounts for mounts in _radiators(layout))


def _names(mounts: list[str]) -> str:
    return ", ".join(m.upper() for m in mounts)


def _demands(doc: JobDoc, layout: LayoutDoc, lines: list[Line]) -> Iterator[Before]:
    tight = {(x.code, m): x for x in lines for m in x.mounts if x.spare_mm < TIGHT_MM}
    codes = {x.code for x in lines if x.spare_mm < TIGHT_MM}
    if doc.case.backplate == "board_out":
        yield Before("cooler", "board", "the rear of the socket is reached only with the board out")
    else:
        yield Before("board", "cooler", "the cooler is screwed to the board")
    yield Before("board", "card", "the card stands in the board")
    yield Before("cooler", "card", "the card leaves no room for a hand at the cooler")
    if "memory_height" in codes:
        yield Before("memory", "cooler", "the cooler hangs over it")
    for mount in doc.case.mounts:
        fan = f"fan at {mount.id.upper()}"
        if ("rear_fan_to_cooler", mount.id) in tight:
            yield Before(fan, "cooler", "the cooler leaves no room for a screwdriver behind it")
        if mount.on_shroud:
            yield Before("power supply", fan, "the fan stands over its place")
    for mounts in _radiators(layout):
        name = f"radiator at {_names(mounts)}"
        yield Before(name, "card", "its tubes and fans are in the way of the card")
        if any(("memory_to_top", m) in tight for m in mounts):
            yield Before("memory", name, "the radiator leaves no room to press it in")
        if doc.case.shroud and any(m.face in ("front", "bottom") and m.id in mounts for m in doc.case.mounts):
            yield Before("power supply", name, "the radiator closes the way under the shroud")
