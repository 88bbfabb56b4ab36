"""The air of a job's zones as forecast: of the spaces that each takes part in, by its share of them."""

from dataclasses import dataclass

from documents.job.models import JobDoc
from engine.coupled.operating_point import OperatingPoint
from engine.machine import Point
from engine.units import M3H_PER_M3S


@dataclass(frozen=True)
class ZoneForecast:
    """Rise over room in K: mean, and of the coolest and the warmest space it takes part in; ``flow_m3h``: air that passes through."""

    zone: str
    rise_k: float
    coolest_k: float
    warmest_k: float
    flow_m3h: float


def zones(doc: JobDoc, point: OperatingPoint) -> tuple[ZoneForecast, ...]:
    """Of every zone of the document, in its order."""
    into = _through_m3h(point)
    found = []
    for zone in doc.zones:
        a, b = zone.from_mm, zone.to_mm
        low = Point(min(a.x, b.x), min(a.y, b.y), min(a.z, b.z))
        high = Point(max(a.x, b.x), max(a.y, b.y), max(a.z, b.z))
        shares = point.spaces.within(low, high)
        rises = {space: point.rises_k[space] for space in shares}
        found.append(
            ZoneForecast(
                zone=zone.id,
                rise_k=sum(share * rises[space] for space, share in shares.items()),
                coolest_k=min(rises.values()),
                warmest_k=max(rises.values()),
                flow_m3h=sum(share * into.get(space, 0.0) for space, share in shares.items()),
            )
        )
    return tuple(found)


def _through_m3h(point: OperatingPoint) -> dict[str, float]:
    """What comes into each space, which is what leaves it."""
    into: dict[str, float] = {}
    for link, flow in zip(point.plan.links, point.flow_m3s, strict=True):
        to = link.head if flow > 0 else link.tail
        into[to] = into.get(to, 0.0) + abs(flow) * M3H_PER_M3S
    return into
