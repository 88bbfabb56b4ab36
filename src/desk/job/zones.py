"""Zones of a case: boxes with a name, the usual ones of a machine, and which named points lie in them."""

from documents.job.case import PointDoc
from documents.job.models import JobDoc, NamedPointDoc, ZoneDoc
from engine.machine import Machine

REACH_MM = 130.0  # of a cooler's intake before its fan, and of a fan's about its middle; common practice, no source
CARD_HALF_MM = 35.0  # of a card two to three slots thick, below its middle
QUARTER = 0.25


def usual_zones(machine: Machine) -> list[ZoneDoc]:
    """What builders ask about: air before the processor's cooler and the card, the low front corner, the rear top."""
    depth, width, height = machine.depth_mm, machine.width_mm, machine.height_mm
    floor = machine.shroud.height_mm if machine.shroud else 0.0
    card = max(machine.card_height_mm, floor + CARD_HALF_MM + 20)

    def box(key: str, name: str, x: tuple[float, float], z: tuple[float, float]) -> ZoneDoc:
        low_x, high_x = max(x[0], 0.0), min(x[1], depth)
        low_z, high_z = max(z[0], 0.0), min(z[1], height)
        return ZoneDoc(
            id=key,
            name=name,
            from_mm=PointDoc(x=round(low_x), y=0.0, z=round(low_z)),
            to_mm=PointDoc(x=round(high_x), y=round(width), z=round(high_z)),
        )

    return [
        box(
            "cpu_intake",
            "processor intake",
            (machine.cpu_x_mm - 40 - REACH_MM, machine.cpu_x_mm - 40),
            (machine.cpu_z_mm - REACH_MM / 2, machine.cpu_z_mm + REACH_MM / 2),
        ),
        box("card_intake", "card intake", (depth - 2.2 * REACH_MM, depth - 30), (floor, card - CARD_HALF_MM)),
        box("low_front", "low front corner", (0.0, QUARTER * depth), (floor, card)),
        box("rear_top", "rear top", ((1 - QUARTER) * depth, depth), ((1 - QUARTER) * height, height)),
    ]


def points_in(doc: JobDoc, zone: ZoneDoc) -> list[NamedPointDoc]:
    """Named points within a zone, its border included; corners of a box may be given either way round."""

    def held(at: float, a: float, b: float) -> bool:
        return min(a, b) <= at <= max(a, b)

    low, high = zone.from_mm, zone.to_mm
    return [p for p in doc.points if held(p.at_mm.x, low.x, high.x) and held(p.at_mm.y, low.y, high.y) and held(p.at_mm.z, low.z, high.z)]


def channels_of(point: NamedPointDoc) -> list[str]:
    """Names by which a log may call the probe at a point: by its own, or by the number of its sensor."""
    return [f"air_{point.id}_c", *([f"air_{point.sensor}_c"] if point.sensor else [])]
