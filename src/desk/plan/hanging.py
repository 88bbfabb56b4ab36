"""How a probe is hung at each named point of a case, for the layout it is hung in."""

from pydantic import BaseModel

from desk.job.resolve import Resolver
from documents.job.models import JobDoc
from engine.machine import Point
from engine.plan.probes import advice


class ProbeAdvice(BaseModel):
    point: str
    words: str


def hanging(doc: JobDoc, layout: str) -> list[ProbeAdvice]:
    machine = Resolver(doc).machine(layout)
    return [ProbeAdvice(point=p.id, words=advice(machine, Point(p.at_mm.x, p.at_mm.y, p.at_mm.z))) for p in doc.points]
