"""Where air goes: a passive tracer carried by the same streams as the heat, and what follows from it.

The balance of ``streams.assemble`` with heat 1 and no walls is the transport of any passive quantity, directed air included.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.coupled import streams
from engine.coupled.links import CARD
from engine.coupled.operating_point import OperatingPoint
from engine.coupled.program import CARD_IN, COOLER, RADIATOR, SPECIAL
from engine.errors import ImpossibleInputError

Floats = NDArray[np.float64]
DEAD_AGE_RATIO = 3.0  # common practice, no source: air this many times older than the case's mean stands still


@dataclass(frozen=True)
class UnusedShare:
    """Share of a mount's intake that leaves through ``mount`` (or link ``link_id``) past neither heat source."""

    link_id: str
    mount: str | None
    share: float


@dataclass(frozen=True)
class Exit:
    """An opening, by mount or link, and the share of the smoke that leaves there."""

    name: str
    share: float


@dataclass(frozen=True)
class Tracer:
    """Smoke let out steadily in one place: concentration per space (1 where it is thickest), and where it leaves, in shares.

    ``used_share``: what passes cooler, radiator or card before it leaves; ``taken_by``: which of them takes it first.
    ``stays_s``: how long it is in the case on average; ``still_share``: of the smoke in the case, what is where air stands still.
    """

    concentration: dict[str, float]
    exits: tuple[Exit, ...]
    used_share: float
    taken_by: dict[str, float]
    stays_s: float
    still_share: float


@dataclass(frozen=True)
class FlowPicture:
    """What the air does: age in s per space and speed in m/s, and how much each heat source breathes of its own air."""

    age_s: dict[str, float]
    mean_age_s: float
    speed_m_s: dict[str, float]
    cooler_own_share: float
    card_own_share: float | None
    dead: tuple[str, ...]
    enters: dict[str, float]  # of all air that comes in, by way: "fans", "vents", "gaps"
    through_gaps: dict[str, float]  # of the air of each space, what came into the case through gaps


class Transport:
    """The passive transport of one operating point."""

    def __init__(self, point: OperatingPoint) -> None:
        self.point = point
        self.pg = point.plan.program
        self.q = point.flow_m3s
        self.working = np.isin(self.pg.role, (CARD_IN, COOLER, RADIATOR))

    @cached_property
    def exchange_m3s(self) -> Floats:
        x = np.zeros(len(self.pg.exchange_a))
        streams.exchange_flows(self.pg, self.point.parameters, self.q, x)
        return x

    def matrix(self, absorbed: NDArray[np.bool_]) -> Floats:
        """Balance in m3/s over all nodes; links in ``absorbed`` swallow what they carry."""
        pg, links = self.pg, len(self.q)
        g = np.zeros((pg.n + SPECIAL, pg.n + SPECIAL))
        none = np.zeros(links)
        streams.assemble(pg, self.q, 1.0, absorbed.astype(float), self.point.moved_m3s, self.exchange_m3s, none, none, 0.0, none, 0.0, g)
        if absorbed.any():
            for sink in (pg.n + 1, pg.n + 4):
                g[sink, :] = 0.0
                g[sink, sink] = 1.0
        return g

    def solve(self, absorbed: NDArray[np.bool_], source: Floats) -> Floats:
        """Concentration per node for sources in m3/s."""
        return np.asarray(np.linalg.solve(self.matrix(absorbed) + 1e-12 * np.eye(self.pg.n + SPECIAL), source), float)

    def inlet(self, links: NDArray[np.bool_]) -> Floats:
        """Unit concentration brought in from the room by some links, as sources per node, directed air included.

        The whole inflow is a source where the link ends; what a move hands on is taken from there and given to its consumer.
        """
        pg, source = self.pg, np.zeros(self.pg.n + SPECIAL)
        for i in np.flatnonzero(links):
            source[pg.head[i] if self.q[i] >= 0 else pg.tail[i]] += abs(self.q[i])
        for m, t in enumerate(self.point.moved_m3s):
            s, c = pg.move_source[m], pg.move_to[m]
            if t > 0 and links[s]:
                source[pg.head[s] if self.q[s] >= 0 else pg.tail[s]] -= t
                if not self.working[c]:
                    source[pg.head[c] if self.q[c] >= 0 else pg.tail[c]] += t
        source[pg.n] = 0.0
        return source


def unused_shares(point: OperatingPoint, mount_id: str) -> list[UnusedShare]:
    """How much of the air that enters at a mount leaves unused, by exit, largest first; empty for a mount that blows out.

    Air that enters the card, the cooler or a radiator counts as used and carries no more tracer.
    """
    transport = Transport(point)
    entering = np.array([link.mount == mount_id for link in point.links]) & (point.flow_m3s > 0)
    entered = float(point.flow_m3s[entering].sum())
    if entered <= 1e-6:
        return []
    source = transport.inlet(entering)
    absorbed = transport.working & ~entering
    held = transport.solve(absorbed, source)
    exits = _leaving(transport, held, entering, absorbed)
    shares: dict[tuple[str, str | None], float] = {}
    for i, flow in exits.items():
        link = point.links[i]
        key = (link.mount or link.id, link.mount)
        shares[key] = shares.get(key, 0.0) + float(flow / entered)
    return sorted((UnusedShare(link, mount, share) for (link, mount), share in shares.items()), key=lambda u: -u.share)


def _leaving(transport: Transport, held: Floats, entering: NDArray[np.bool_], absorbed: NDArray[np.bool_]) -> dict[int, float]:
    """Tracer flow in m3/s by link out of the case; links that absorb let none through."""
    pg, q = transport.pg, transport.q
    found: dict[int, float] = {}
    for i in range(len(q)):
        u, d = (pg.tail[i], pg.head[i]) if q[i] >= 0 else (pg.head[i], pg.tail[i])
        if d == pg.n and not absorbed[i]:
            found[i] = abs(q[i]) * float(held[u])
    for m, t in enumerate(transport.point.moved_m3s):
        s, c = int(pg.move_source[m]), int(pg.move_to[m])
        if t > 0 and c in found:
            u = pg.tail[c] if q[c] >= 0 else pg.head[c]
            comes = 1.0 if entering[s] else 0.0 if absorbed[s] else float(held[pg.tail[s] if q[s] >= 0 else pg.head[s]])
            found[c] += t * (comes - float(held[u]))
    return found


USERS = {"cooler": COOLER, "radiator": RADIATOR, "card": CARD_IN}


def release(point: OperatingPoint, place: str | Mapping[str, float]) -> Tracer:
    """Smoke let out steadily in a space, or in several by their shares: where it is, and by which openings it leaves.

    Raises ImpossibleInputError for a space the case does not have.
    """
    shares = {place: 1.0} if isinstance(place, str) else place
    if missing := [s for s in shares if s not in point.spaces.ids]:
        raise ImpossibleInputError(f"the case has no space {missing[0]!r}", "space", f"Use one of {', '.join(point.spaces.ids)}.")
    transport, at = Transport(point), point.plan.at
    none = np.zeros(len(point.links), dtype=bool)
    source = np.zeros(transport.pg.n + SPECIAL)
    for space, share in shares.items():
        source[at[space]] = share
    held = transport.solve(none, source)
    scale = max(*(float(held[at[s]]) for s in shares), 1e-9)
    leaving = _leaving(transport, held, none, none)
    exits: dict[str, float] = {}
    for i, flow in leaving.items():
        link = point.links[i]
        name = link.mount or link.id
        exits[name] = exits.get(name, 0.0) + float(flow)
    total = max(sum(exits.values()), 1e-9)
    ordered = tuple(sorted((Exit(n, f / total) for n, f in exits.items() if f / total > 0.005), key=lambda e: -e.share))
    once = transport.solve(transport.working, source)
    idle = _leaving(transport, once, none, transport.working)
    used = 1.0 - float(np.clip(sum(idle.values()), 0.0, 1.0))
    within = {s: float(held[at[s]]) * point.spaces.volume_m3(s) for s in point.spaces.ids}
    still = sum(within[s] for s in _still(transport)[2])
    stays_s = sum(within.values())
    return Tracer(
        {s: float(held[at[s]]) / scale for s in point.spaces.ids},
        ordered,
        used,
        _taken_by(transport, once),
        stays_s,
        still / max(stays_s, 1e-9),
    )


def _taken_by(transport: Transport, held: Floats) -> dict[str, float]:
    """Shares by what takes the smoke first; ``held``: concentrations where all of them swallow what they take."""
    pg, q = transport.pg, transport.q
    takes = np.zeros(len(q))
    for i in np.flatnonzero(transport.working):
        takes[i] = abs(q[i]) * float(held[pg.tail[i] if q[i] >= 0 else pg.head[i]])
    for m, t in enumerate(transport.point.moved_m3s):
        s, c = int(pg.move_source[m]), int(pg.move_to[m])
        if t > 0 and transport.working[c]:
            comes = 0.0 if transport.working[s] else float(held[pg.tail[s] if q[s] >= 0 else pg.head[s]])
            takes[c] += t * (comes - float(held[pg.tail[c] if q[c] >= 0 else pg.head[c]]))
    found = {name: float(max(takes[pg.role == role].sum(), 0.0)) for name, role in USERS.items()}
    return {name: taken for name, taken in found.items() if taken > 0.005}


def _still(transport: Transport) -> tuple[dict[str, float], float, tuple[str, ...]]:
    """Age of the air of every space in s, its mean over the main spaces, and where it stands still."""
    at, spaces = transport.point.plan.at, transport.point.spaces
    litres = np.zeros(transport.pg.n + SPECIAL)
    for name in spaces.ids:
        litres[at[name]] = spaces.volume_m3(name)
    age = transport.solve(np.zeros(len(transport.q), dtype=bool), litres)
    ages = {s: float(age[at[s]]) for s in spaces.ids}
    main = [s for s in spaces.ids if not s.startswith("basement")]
    mean = sum(ages[s] * spaces.volume_m3(s) for s in main) / sum(spaces.volume_m3(s) for s in main)
    return ages, mean, tuple(s for s in main if ages[s] > DEAD_AGE_RATIO * mean)


def _enters(transport: Transport) -> tuple[dict[str, float], dict[str, float]]:
    """By which way the air comes in, in shares, and of each space's air what came through gaps."""
    point, pg, q = transport.point, transport.pg, transport.q
    inward = np.where(q >= 0, pg.tail, pg.head) == pg.n
    turning = {f.mount for f, pct in zip(point.machine.fans, point.speeds.fans, strict=True) if f.running and pct > 0}
    way = np.array(["gaps" if x.kind == "leak" else "fans" if x.mount in turning else "vents" for x in point.links])
    total = max(float(np.abs(q[inward]).sum()), 1e-12)
    shares = {name: float(np.abs(q[inward & (way == name)]).sum()) / total for name in ("fans", "vents", "gaps")}
    held = transport.solve(np.zeros(len(q), dtype=bool), transport.inlet(inward & (way == "gaps")))
    return shares, {s: float(np.clip(held[point.plan.at[s]], 0.0, 1.0)) for s in point.spaces.ids}


def flow_picture(point: OperatingPoint) -> FlowPicture:
    """Age, speed, and the shares of their own spent air that cooler and card draw in."""
    transport, spaces = Transport(point), point.spaces
    ages, mean, dead = _still(transport)
    return FlowPicture(
        ages,
        mean,
        {s: point.through_m3s[s] / spaces.volume_m3(s) ** (2 / 3) for s in spaces.ids},
        _own_share(transport, COOLER),
        _own_share(transport, CARD_IN) if point.machine.card_on_air else None,
        dead,
        *_enters(transport),
    )


def _own_share(transport: Transport, role: int) -> float:
    """Share of what a heat source draws in that has already been through it: a tracer of 1 on all it blows out."""
    pg, q = transport.pg, transport.q
    own = pg.role == role
    if not own.any() or np.abs(q[own]).sum() <= 1e-9:
        return 0.0
    g = transport.matrix(np.zeros(len(q), dtype=bool))
    source = np.zeros(pg.n + SPECIAL)
    mark = pg.n + 2 if role == COOLER else transport.point.plan.at[CARD]
    g[mark, :] = 0.0
    g[mark, mark] = 1.0
    source[mark] = 1.0
    held = np.asarray(np.linalg.solve(g + 1e-12 * np.eye(pg.n + SPECIAL), source), float)
    carried = np.zeros(len(q))
    streams.carried_k(pg, q, np.zeros(len(q)), transport.point.moved_m3s, held, carried)
    flow = np.abs(q) * own
    return float(np.clip(flow @ carried / flow.sum(), 0.0, 1.0))
