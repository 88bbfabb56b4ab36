"""Which part goes in before which, from a job document: rules of practice, and what the case's owner adds."""

from collections.abc import Iterator

from desk.job.resolve import Resolver
from documents.job.models import LayoutDoc
from engine.fit.assembly import Assembly, Before, assembly
from engine.fit.ledger import Line

TIGHT_MM = 15.0  # common practice, no source: less room than this leaves none for a hand or a screwdriver


def assembly_of(resolver: Resolver, layout: LayoutDoc, lines: list[Line]) -> Assembly:
    """An order for the layout; ``lines`` is its clearance ledger."""
    doc = resolver.doc
    parts = list(_parts(resolver, layout))
    own = [Before(a.first, a.second, a.why) for a in doc.case.assembly]
    return assembly(parts, [*_demands(resolver, layout, lines), *own])


def _parts(resolver: Resolver, layout: LayoutDoc) -> Iterator[str]:
    """Names in the usual order of building; fans on a radiator go in with it."""
    doc, radiators = resolver.doc, _radiators(resolver, layout)
    cooled = {m for mounts in radiators for m in mounts}
    if resolver.setting(layout, "supply") or doc.case.supply:
        yield "power supply"
    yield from (f"fan at {p.mount.upper()}" for p in layout.fans if p.mount not in cooled)
    yield "board"
    if resolver.setting(layout, "memory"):
        yield "memory"
    for mounts in radiators:
        yield f"radiator at {_names(mounts)}"
    yield "cooler"
    if resolver.setting(layout, "card"):
        yield "card"


def _radiators(resolver: Resolver, layout: LayoutDoc) -> list[list[str]]:
    return [place.mounts for loop in resolver.loops(layout) for place in loop.radiators]


def _names(mounts: list[str]) -> str:
    return ", ".join(m.upper() for m in mounts)


def _demands(resolver: Resolver, layout: LayoutDoc, lines: list[Line]) -> Iterator[Before]:
    doc = resolver.doc
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
    for mounts in _radiators(resolver, layout):
        name = f"radiator at {_names(mounts)}"
        yield Before(name, "card", "its tubes and fans are in the way of the card")
        if any(("memory_to_top", m) in tight for m in mounts):
            yield Before("memory", name, "the radiator leaves no room to press it in")
        if doc.case.shroud and any(m.face in ("front", "bottom") and m.id in mounts for m in doc.case.mounts):
            yield Before("power supply", name, "the radiator closes the way under the shroud")
