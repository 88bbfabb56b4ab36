"""Directed air: what jets, plumes, neighbours and stirring do that well-mixed spaces miss, as rules of one case.

A ``Move`` lets the consumer link ``to`` take air straight from the source link ``source`` instead of its own space's air;
what it leaves there the source's space gets in exchange, so mass and heat stay whole whatever the flows. An ``Exchange``
mixes two spaces, by turbulence on an opening or driven by a link's flow. Flows decide at run time how much moves.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import hypot

from engine import constants as k
from engine.coupled.links import GAP, Link
from engine.coupled.spaces import SIDE, Spaces
from engine.machine import AirCooler, Machine, Mount
from engine.parameters import INDEX

CARD_STILL_M2_PER_M = 0.02  # M: opening on which a card and the air below it mix, per metre of card
LEAST_AIM = 0.02  # a jet that meets with less than this share is no path of its own
JET, PLUME_COOLER, PLUME_CHIMNEY, PLUME_TOP, PLUME_SWEEP, PUSH_BACK, RECIRCULATION = range(7)  # codes of moves


@dataclass(frozen=True)
class Move:
    """Directed air from link ``source`` to link ``to``, by way of link ``chain`` (-1 for none).

    It acts only while both links flow in the sense of their signs (+1 tail to head, 0 either). For RECIRCULATION the
    chain is the fan that feeds the cooler from outside and so keeps its own air away.
    """

    kind: int
    source: int
    to: int
    parameter: int
    factor: float
    source_sign: float = 1.0
    to_sign: float = 1.0
    chain: int = -1
    part: float = 1.0  # of the source's flow that comes by here


@dataclass(frozen=True)
class Exchange:
    """Mixing of two nodes: parameter times factor, times the flow of ``link`` from tail to head if link >= 0."""

    first: str
    second: str
    parameter: int
    factor: float
    link: int = -1


def exchanges(machine: Machine, spaces: Spaces, links: Sequence[Link]) -> Iterator[Exchange]:
    """Turbulent exchange on openings, and stirring by card, front jets and top intakes."""
    for link in links:
        if link.exchange_m2 > 0:
            name = "open_exchange_m_s" if link.kind == "face" else "interior_exchange_m_s"
            yield Exchange(link.tail, link.head, INDEX[name], link.exchange_m2)
        if link.kind == "card_in" and machine.card:  # warm air that rises out of a card even when its fans stand still
            open_m2 = CARD_STILL_M2_PER_M * machine.card.length_mm * 1e-3 * link.share
            yield Exchange(link.tail, link.head, INDEX["interior_exchange_m_s"], open_m2)
    for i, link in enumerate(links):
        where = link.head.split("_")[-1]
        if link.kind == "card_out" and link.head.startswith("up_") and not machine.separate_card_chamber:
            yield Exchange(f"low_{where}", link.head, INDEX["card_stirring"], 1.0, i)
        mount = machine.mounts[link.mount] if link.mount else None
        if mount is None:
            continue
        if mount.face == "top" and link.head.startswith("up_") and not machine.separate_card_chamber:
            yield Exchange(f"low_{where}", link.head, INDEX["top_stirring"], 1.0, i)
        if mount.face == "front" and where == "front":
            row = link.head.split("_")[0]
            lane = spaces.lane_share(row, "mid")
            yield Exchange(link.head, f"{row}_mid", INDEX["jet_entrainment"], 1 - lane, i)
            if lane:
                yield Exchange(link.head, f"{row}_{SIDE}", INDEX["jet_entrainment"], lane, i)


def directed_air(machine: Machine, spaces: Spaces, links: Sequence[Link]) -> Iterator[Move]:
    """Every move that the case's geometry allows."""
    yield from _jets(machine, spaces, links)
    yield from _neighbours(machine, links)
    yield from _outlet(machine, links)
    if machine.card_on_air and not machine.separate_card_chamber:
        yield from _plume(machine, spaces, links)
    cooler = machine.cooler
    for at, own in _coolers(links):
        assert isinstance(cooler, AirCooler)
        fed = next((i for i, x in enumerate(links) if x.mount and x.head == GAP and own.tail == GAP), -1)
        back = at  # blown at the panel, what cannot leave there comes back by the gap's rim
        if own.head == GAP:
            back = next((i for i, x in enumerate(links) if x.id == f"window_gap:{own.tail}"), -1)
        if back >= 0:
            share = 1.0 if back == at else k.RIM_RETURN
            yield Move(RECIRCULATION, back, at, INDEX[f"{cooler.kind}_recirculation"], share, chain=fed)


def _coolers(links: Sequence[Link]) -> list[tuple[int, Link]]:
    return [(i, x) for i, x in enumerate(links) if x.kind == "cooler"]


def _decay(distance_mm: float, size_mm: float) -> float:
    """Share of a jet that is still its own air after a distance (source: abramovich)."""
    return 1 / (1 + k.JET_GROWTH * max(distance_mm, 0.0) / size_mm)


def _overlap(a: float, a_size: float, b: float, b_size: float) -> float:
    """Share of the stretch of ``a_size`` about a that lies within that of ``b_size`` about b."""
    low, high = max(a - a_size / 2, b - b_size / 2), min(a + a_size / 2, b + b_size / 2)
    return max(high - low, 0.0) / a_size


def _mounts(machine: Machine, links: Sequence[Link]) -> Iterator[tuple[int, Link, Mount]]:
    for i, link in enumerate(links):
        if link.mount and link.kind == "mount" and not link.id.endswith(":gap"):
            yield i, link, machine.mounts[link.mount]


def _jets(machine: Machine, spaces: Spaces, links: Sequence[Link]) -> Iterator[Move]:
    """Jets of intakes that reach the cooler or the card before they mix."""
    index = {link.id: i for i, link in enumerate(links)}
    cooler = machine.cooler
    card_in = [(i, x) for i, x in enumerate(links) if x.kind == "card_in"]
    tower = isinstance(cooler, AirCooler) and cooler.kind == "tower"
    for i, link, mount in _mounts(machine, links):
        size, c = mount.size_mm, mount.centre_mm
        for at, own in _coolers(links) if tower else ():
            assert isinstance(cooler, AirCooler)
            inlet_x = machine.cpu_x_mm + (k.TOWER_HALF_DEPTH_MM if cooler.direction == "front" else -k.TOWER_HALF_DEPTH_MM)
            if mount.face == "front" and cooler.direction == "rear":
                facing = _overlap(c.z, size, machine.cpu_z_mm, cooler.fan.size_mm) * _decay(inlet_x - c.x, size)
                chain = -1 if link.head == own.tail else index.get(f"inside:{link.head}|{own.tail}", -2)
                if facing > LEAST_AIM and chain > -2:
                    yield Move(JET, i, at, INDEX["jet_to_cooler"], facing, chain=chain, part=own.share)
            if mount.face == "top" and link.head == own.tail:
                below = _overlap(c.x, size, inlet_x, cooler.fan.size_mm) * _decay(machine.height_mm - machine.cpu_z_mm, size)
                if below > LEAST_AIM:
                    yield Move(JET, i, at, INDEX["jet_to_cooler"], 0.5 * below)
        for j, into in card_in:
            aim = _aim_at_card(machine, spaces, mount, link, into)
            chain = -1 if link.head == into.tail else index.get(f"inside:{link.head}|{into.tail}", -2)
            if aim > LEAST_AIM and chain > -2:
                yield Move(JET, i, j, INDEX["jet_to_card"], aim, chain=chain)


def _aim_at_card(machine: Machine, spaces: Spaces, mount: Mount, link: Link, into: Link) -> float:
    """How far a mount's jet points at an inlet of the card: 0 not at all, 1 straight at it from no distance."""
    c, size, card_z = mount.centre_mm, mount.size_mm, machine.card_height_mm
    below = mount.on_shroud or (mount.face == "bottom" and not machine.shroud)
    if below and link.head == into.tail:
        return _decay(card_z - c.z, size)
    if mount.face == "front" and link.head == "low_front":
        card = machine.card
        assert card is not None
        reach = _decay(machine.depth_mm - card.length_mm - c.x, size) * _overlap(c.z, size, card_z - size / 2, size)
        return 0.5 * reach  # it grazes the inlet instead of meeting it
    if mount.face == "window" and link.head == into.tail:
        return 0.5 * _decay(spaces.lane_mm, size)
    return 0.0


def _neighbours(machine: Machine, links: Sequence[Link]) -> Iterator[Move]:
    """What comes in at one opening leaves at the next before it has mixed."""
    found = list(_mounts(machine, links))
    for i, link, one in found:
        for j, other_link, other in found:
            if one.id == other.id or link.head != other_link.head or one.on_shroud != other.on_shroud:
                continue
            a, b = one.centre_mm, other.centre_mm
            apart = hypot(a.x - b.x, a.y - b.y, a.z - b.z)
            near = 1 - apart / (k.JET_REACH_SIZES * max(one.size_mm, other.size_mm))
            if near > 0.02:
                yield Move(JET, i, j, INDEX["short_circuit"], near, 1.0, -1.0)


def _outlet(machine: Machine, links: Sequence[Link]) -> Iterator[Move]:
    """A tower's warm outlet that an exhaust behind or above it takes unmixed."""
    cooler = machine.cooler
    if not isinstance(cooler, AirCooler) or cooler.kind != "tower" or cooler.direction == "front":
        return
    own, upward = cooler.fan.size_mm, cooler.direction == "up"
    for i, link, mount in _mounts(machine, links):
        c, size = mount.centre_mm, mount.size_mm
        if mount.face == "rear" and not upward:
            facing = _overlap(machine.cpu_z_mm, own, c.z, size)
            distance = c.x - machine.cpu_x_mm - k.TOWER_HALF_DEPTH_MM
        elif mount.face == "top":
            behind = machine.cpu_x_mm + (0.0 if upward else k.TOWER_HALF_DEPTH_MM)
            facing = _overlap(behind, own, c.x, size) * (1.0 if upward else 0.5)
            distance = machine.height_mm - machine.cpu_z_mm
        else:
            continue
        for at, through in _coolers(links) if facing > LEAST_AIM else ():
            if link.head == through.head:
                yield Move(JET, at, i, INDEX["outlet_to_exhaust"], facing * _decay(distance, own), 1.0, -1.0)


def _plume(machine: Machine, spaces: Spaces, links: Sequence[Link]) -> Iterator[Move]:
    """Card air caught by the cooler and by top exhausts, swept past the cooler, or pushed back into the card."""
    rising = [i for i, x in enumerate(links) if x.kind == "card_out" and x.head.startswith("up_")]
    index = {link.id: i for i, link in enumerate(links)}
    cooler = machine.cooler
    chimney = isinstance(cooler, AirCooler) and cooler.direction == "up"
    for s in rising:
        for i, link in enumerate(links):
            if link.kind == "cooler" and GAP not in (link.tail, link.head):
                yield Move(PLUME_CHIMNEY if chimney else PLUME_COOLER, s, i, INDEX["plume_capture"], 1.0)
            if link.kind == "card_in":
                yield Move(PUSH_BACK, s, i, INDEX["plume_push_back"], 1.0)
        for i, link, mount in _mounts(machine, links):
            if mount.face == "top" and link.head in ("up_mid", "up_side", "up_rear"):
                yield Move(PLUME_TOP, s, i, INDEX["top_capture"], 1.0, 1.0, -1.0)
    if isinstance(cooler, AirCooler) and cooler.kind == "tower" and cooler.direction == "rear":
        for _, own in _coolers(links):
            way = index.get(f"inside:{own.tail}|{own.head}")
            for s in rising:
                if way is not None and links[s].head == own.tail:
                    yield Move(PLUME_SWEEP, s, way, INDEX["plume_sweep"], own.share, 1.0, 0.0)
