"""Lit fans as a chain, and how headers can slow what hangs on them."""

from math import dist

from desk.build.panels import label
from desk.job.resolve import Resolver
from documents.job.models import FanPlaceDoc, LayoutDoc


def lit_chain(resolver: Resolver, layout: LayoutDoc) -> list[str]:
    """Labels of lit fans, each after the one nearest to it, from the one nearest to the board's rear upper corner on."""
    mounts = {m.id: m.centre_mm for m in resolver.doc.case.mounts}
    left = [f for f in layout.fans if resolver.parts["fans"][f.fan].lighting]
    inner = resolver.doc.case.inner_mm
    at, chain = (inner.depth, 0.0, inner.height), list[str]()

    def away(f: FanPlaceDoc) -> float:
        c = mounts[f.mount]
        return dist(at, (c.x, c.y, c.z))

    while left:
        nearest = min(left, key=away)
        left.remove(nearest)
        chain.append(label(nearest))
        c = mounts[nearest.mount]
        at = c.x, c.y, c.z
    return chain


def header_modes(resolver: Resolver, layout: LayoutDoc) -> dict[str, list[str]]:
    """By header or powered hub the kinds of plug that it can slow."""
    board = resolver.parts["boards"].get(resolver.setting(layout, "board") or "")
    found = {h.id: list(h.modes) for h in board.headers} if board else {}
    return found | {c.id: list(c.modes) for c in resolver.doc.parts.controllers if c.kind != "splitter"}
