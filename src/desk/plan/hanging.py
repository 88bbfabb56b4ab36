"""How a probe is hung at each named point of a case, for the layout it is hung in."""

from pydantic import BaseModel

from desk.job.resolve import Resolver
from desk.job.zones import channels_of, points_in
from documents.job.models import JobDoc
from engine.machine import Point
from engine.plan.probes import advice


class ProbeAdvice(BaseModel):
    point: str
    words: str
    channel: str  # by which its readings are called: by the number of its sensor where it has one
    zones: list[str] = []  # that it lies in


def hanging(doc: JobDoc, layout: str) -> list[ProbeAdvice]:
    machine = Resolver(doc).machine(layout)
    inside = {z.id: {p.id for p in points_in(doc, z)} for z in doc.zones}
    return [
        ProbeAdvice(
            point=p.id,
            words=advice(machine, Point(p.at_mm.x, p.at_mm.y, p.at_mm.z)),
            channel=channels_of(p)[-1],
            zones=[zone for zone, held in inside.items() if p.id in held],
        )
        for p in doc.points
    ]
