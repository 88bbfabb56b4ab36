"""What the probes in each zone read, layout by layout."""

from pydantic import BaseModel

from desk.job.zones import channels_of, points_in
from desk.verdict.measures import FigureOut
from documents.job.models import JobDoc


class ZoneOut(BaseModel):
    """Over room in K. ``band``: of the mean, as if the probes erred alike, since they share the room's thermometer and the build."""

    zone: str
    layout: str
    points: list[str]  # that were read
    mean_k: float
    band_k: float
    coolest_k: float
    warmest_k: float
    warmest_at: str


def zones_of(doc: JobDoc, figures: list[FigureOut]) -> list[ZoneOut]:
    """Only zones and layouts with a reading: what was not read is no figure."""
    found = []
    by_channel = {(f.layout, f.channel): f for f in figures}
    for zone in doc.zones:
        points = points_in(doc, zone)
        for layout in dict.fromkeys(f.layout for f in figures):
            read = [(p.id, f) for p in points if (f := _read(by_channel, layout, channels_of(p))) is not None]
            if not read:
                continue
            warmest = max(read, key=lambda x: x[1].value)
            found.append(
                ZoneOut(
                    zone=zone.id,
                    layout=layout,
                    points=[key for key, _ in read],
                    mean_k=sum(f.value for _, f in read) / len(read),
                    band_k=sum(f.band for _, f in read) / len(read),
                    coolest_k=min(f.value for _, f in read),
                    warmest_k=warmest[1].value,
                    warmest_at=warmest[0],
                )
            )
    return found


def _read(figures: dict[tuple[str, str], FigureOut], layout: str, channels: list[str]) -> FigureOut | None:
    return next((figures[layout, c] for c in channels if (layout, c) in figures), None)
