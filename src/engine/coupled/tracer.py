"""Where the air of one mount goes: a passive tracer carried by the same streams as the heat."""

from dataclasses import dataclass

import numpy as np

from engine.coupled.links import ROOM
from engine.coupled.operating_point import OperatingPoint


@dataclass(frozen=True)
class UnusedShare:
    """Share of a mount's intake that leaves through ``mount`` (or link ``link_id``) past neither heat source."""

    link_id: str
    mount: str | None
    share: float


def unused_shares(point: OperatingPoint, mount_id: str) -> list[UnusedShare]:
    """How much of the air that enters at a mount leaves unused, by exit, largest first; empty for a mount that blows out.

    Air that enters the card, the cooler or a radiator counts as used and carries no more tracer.
    """
    nodes = {n: i for i, n in enumerate(n for n in point.heat.names if not n.startswith("wall_"))}
    matrix = np.eye(len(nodes)) * 1e-12
    source = np.zeros(len(nodes))
    entered = 0.0

    def add(row: str, column: str, value: float) -> None:
        if row != ROOM and column != ROOM:
            matrix[nodes[row], nodes[column]] += value

    for s in point.air.streams:
        inlet = s.link.mount == mount_id and s.downwind == s.link.head
        if inlet:
            entered += s.flow_m3s
            source[nodes[s.downwind]] += s.flow_m3s
        working = s.link.kind in ("card_in", "cooler") or s.link.radiator is not None
        for node, share in s.of.items():
            add(s.upwind, node, s.flow_m3s * share)
            if not working and not inlet:
                add(s.downwind, node, -s.flow_m3s * share)
    for e in point.air.exchanges:
        for one, other in ((e.first, e.second), (e.second, e.first)):
            add(one, one, e.flow_m3s)
            add(one, other, -e.flow_m3s)
    if entered <= 1e-6:
        return []
    held = np.linalg.solve(matrix, source)
    shares: dict[tuple[str, str | None], float] = {}
    for s in point.air.streams:
        if s.downwind != ROOM or s.link.radiator is not None:
            continue
        carried = sum(share * held[nodes[node]] for node, share in s.of.items() if node != ROOM)
        key = (s.link.mount or s.link.id, s.link.mount)
        shares[key] = shares.get(key, 0.0) + float(s.flow_m3s * carried / entered)
    found = [UnusedShare(link, mount, share) for (link, mount), share in shares.items()]
    return sorted(found, key=lambda u: -u.share)
