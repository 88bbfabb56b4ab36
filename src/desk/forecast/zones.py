"""The air of a job's zones as forecast: of the spaces that each takes part in, by its share of them."""

from dataclasses import dataclass

from desk.job.zones import corners
from documents.job.models import JobDoc
from engine.coupled.operating_point import OperatingPoint
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
    found = []
    for zone in doc.zones:
        shares = point.spaces.within(*corners(zone))
        rises = {space: point.rises_k[space] for space in shares}
        found.append(
            ZoneForecast(
                zone=zone.id,
                rise_k=sum(share * rises[space] for space, share in shares.items()),
                coolest_k=min(rises.values()),
                warmest_k=max(rises.values()),
                flow_m3h=sum(share * point.through_m3s[space] * M3H_PER_M3S for space, share in shares.items()),
            )
        )
    return tuple(found)
