"""Air streams with what they carry: the links' solved flows, and the shares of directed air in them.

Well-mixed spaces miss what jets and plumes do. The cure is in the streams: a stream that leaves a space may be made up
partly of air from elsewhere (card air caught by a cooler's inlet), which keeps mass and heat whole (source: trade).
"""

from dataclasses import dataclass, field

from engine import constants as k
from engine.coupled.links import CARD, GAP, Link, cooler_nodes
from engine.coupled.spaces import COLUMNS, Spaces
from engine.machine import AirCooler, Machine


@dataclass
class Stream:
    """Air moving along a link, upwind to downwind, with the shares of the nodes whose air it is."""

    link: Link
    flow_m3s: float
    upwind: str
    downwind: str
    of: dict[str, float] = field(default_factory=dict)

    def take(self, share: float, source: str) -> None:
        """Replaces ``share`` of the stream by air of ``source``."""
        share = min(share, self.of.get(self.upwind, 0.0))
        if share <= 0:
            return
        self.of[self.upwind] -= share
        self.of[source] = self.of.get(source, 0.0) + share


@dataclass(frozen=True)
class Exchange:
    """Turbulent exchange of ``flow_m3s`` both ways between two nodes."""

    first: str
    second: str
    flow_m3s: float


@dataclass(frozen=True)
class Sweep:
    """Air of ``source`` that passes ``past`` and reaches ``to`` unmixed."""

    source: str
    past: str
    to: str
    flow_m3s: float


@dataclass(frozen=True)
class AirPicture:
    streams: list[Stream]
    exchanges: list[Exchange]
    sweeps: list[Sweep]
    cross_flow_ratio: float


def picture_of(machine: Machine, spaces: Spaces, links: list[Link], flow_m3s: list[float]) -> AirPicture:
    """Streams, exchanges and directed air for solved flows in m3/s, one per link."""
    streams = []
    for link, flow in zip(links, flow_m3s, strict=True):
        upwind, downwind = (link.tail, link.head) if flow >= 0 else (link.head, link.tail)
        streams.append(Stream(link, abs(flow), upwind, downwind, {upwind: 1.0}))
    exchanges = [Exchange(link.tail, link.head, k.INTERIOR_EXCHANGE_M_S * link.exchange_m2) for link in links if link.exchange_m2 > 0]
    exchanges += _stirred(machine, spaces, streams)
    ratio = _cross_flow_ratio(machine, streams)
    sweeps = _direct_card_air(machine, spaces, streams, ratio)
    _bottom_capture(machine, streams)
    return AirPicture(streams, exchanges, sweeps, ratio)


def _mount_flow(machine: Machine, streams: list[Stream], face: str, inward: bool, space: str = "") -> float:
    """Flow in m3/s through running mounts of a face, inward or outward, optionally of one space."""
    total = 0.0
    for s in streams:
        if s.link.kind != "fan" or s.link.mount is None or machine.mounts[s.link.mount].face != face:
            continue
        if (s.downwind == s.link.head) == inward and (not space or s.link.head == space):
            total += s.flow_m3s
    return total


def _stirred(machine: Machine, spaces: Spaces, streams: list[Stream]) -> list[Exchange]:
    """Exchange by the card's fans, by front jets, by top intakes."""
    found: list[Exchange] = []
    if not machine.separate_card_chamber:
        for s in streams:
            if s.link.kind == "card_out" and s.upwind == CARD and s.downwind.startswith("up_"):
                column = s.downwind.split("_")[1]
                found.append(Exchange(f"low_{column}", f"up_{column}", k.CARD_STIRRING * s.flow_m3s / 0.7))
        for column in COLUMNS:
            intake = _mount_flow(machine, streams, "top", True, f"up_{column}")
            found.append(Exchange(f"low_{column}", f"up_{column}", k.TOP_INTAKE_STIRRING * intake))
    for row in spaces.z_mm:
        intake = _mount_flow(machine, streams, "front", True, f"{row}_front")
        found.append(Exchange(f"{row}_front", f"{row}_mid", k.JET_ENTRAINMENT * intake))
    return [e for e in found if e.flow_m3s > 0]


def _cross_flow_ratio(machine: Machine, streams: list[Stream]) -> float:
    """Who wins above the card: 0 the jet from the front, 1 the air rising past it."""
    across = sum(s.flow_m3s for s in streams if s.upwind == "up_front" and s.downwind == "up_mid")
    past_edge = sum(s.flow_m3s for s in streams if s.link.kind == "inside" and s.upwind.startswith("low_") and s.downwind.startswith("up_"))
    top, bottom = _mount_flow(machine, streams, "top", False), _mount_flow(machine, streams, "bottom", True)
    rising = (top + bottom) / 2 + past_edge
    weight = k.CROSS_FLOW_WEIGHT * rising**2
    return weight / (weight + across**2) if weight + across**2 > 0 else 1.0


def _direct_card_air(machine: Machine, spaces: Spaces, streams: list[Stream], ratio: float) -> list[Sweep]:
    """Card air caught by the cooler and by top exhausts, or swept past the cooler; never more than the card gives."""
    if not machine.card or machine.separate_card_chamber:
        return []
    rising = sum(s.flow_m3s for s in streams if s.link.kind == "card_out" and s.upwind == CARD and s.downwind.startswith("up_"))
    if rising <= 0:
        return []
    wishes: list[tuple[Stream, float]] = []
    for s in streams:
        if s.link.kind == "cooler" and s.upwind != GAP and s.flow_m3s > 0:
            chimney = s.upwind == s.downwind
            share = k.PLUME_CAPTURE_LIMIT if chimney else min(k.PLUME_CAPTURE * ratio, k.PLUME_CAPTURE_LIMIT)
            wishes.append((s, share))
        is_top = s.link.mount is not None and machine.mounts[s.link.mount].face == "top"
        if is_top and s.downwind == s.link.tail and s.upwind in ("up_mid", "up_rear"):
            wishes.append((s, k.TOP_CAPTURE))
    wished = sum(s.flow_m3s * share for s, share in wishes)
    scale = min(1.0, 0.9 * rising / wished) if wished > 0 else 0.0
    for s, share in wishes:
        s.take(share * scale, CARD)
    cooler = machine.cooler
    if isinstance(cooler, AirCooler) and cooler.kind == "tower" and cooler.direction == "rear":
        past, to = cooler_nodes(machine, spaces)
        arriving = sum(s.flow_m3s for s in streams if s.link.kind == "card_out" and s.upwind == CARD and s.downwind == past)
        return [Sweep(CARD, past, to, k.PLUME_SWEEP * (1 - ratio) * arriving)]
    return []


def _bottom_capture(machine: Machine, streams: list[Stream]) -> None:
    """Part of a bottom intake's air goes straight into the card above it."""
    for into in streams:
        if into.link.kind != "card_in" or into.downwind != CARD or into.flow_m3s <= 0:
            continue
        for s in streams:
            if s.link.kind != "fan" or s.link.mount is None or machine.mounts[s.link.mount].face != "bottom":
                continue
            if s.downwind == s.link.head == into.upwind:
                into.take(k.BOTTOM_CAPTURE * s.flow_m3s / into.flow_m3s, s.upwind)
