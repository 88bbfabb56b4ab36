"""Zones of a case: boxes with a name, the usual ones of a machine, and which named points lie in them."""

from documents.job.case import PointDoc
from documents.job.models import JobDoc, NamedPointDoc, ZoneDoc
from engine.machine import AirCooler, Machine, Point

REACH_MM = 130.0  # of a cooler's intake before its fan, and of a fan's about its middle; common practice, no source
COOLER_HALF_MM = 40.0  # of a tower along the way of its air; common practice, no source
QUARTER = 0.25
CARD_HALF_MM = 35.0  # of a card two to three slots thick, below its middle; common practice, no source
Span = tuple[float, float]


def usual_zones(machine: Machine) -> list[ZoneDoc]:
    """What builders ask about: air before the processor's cooler and the card, the low front corner, the rear top.

    Without a cooler on air the first is the air about the processor; where the card has a chamber behind the board, each zone lies in
    the chamber it belongs to.
    """
    depth, width, height = machine.depth_mm, machine.width_mm, machine.height_mm
    floor = machine.shroud.height_mm if machine.shroud else 0.0
    behind = machine.card_side_mm if machine.separate_card_chamber else 0.0
    card_top = height if behind else max(machine.card_height_mm, floor + CARD_HALF_MM + 20) - CARD_HALF_MM

    def box(key: str, name: str, x: Span, z: Span, y: Span = (behind, width)) -> ZoneDoc:
        def at(end: int) -> PointDoc:
            return PointDoc(x=round(min(max(x[end], 0.0), depth)), y=round(y[end]), z=round(min(max(z[end], 0.0), height)))

        return ZoneDoc(id=key, name=name, from_mm=at(0), to_mm=at(1))

    air = isinstance(machine.cooler, AirCooler)
    return [
        box("cpu_intake", "processor intake" if air else "about the processor", *_before_cooler(machine)),
        box("card_intake", "card intake", (depth - 2.2 * REACH_MM, depth - 30), (floor, card_top), (0.0, behind or width)),
        box("low_front", "low front corner", (0.0, QUARTER * depth), (floor, max(card_top, floor + QUARTER * (height - floor)))),
        box("rear_top", "rear top", ((1 - QUARTER) * depth, depth), ((1 - QUARTER) * height, height)),
    ]


def _before_cooler(machine: Machine) -> tuple[Span, Span]:
    """Where the processor's cooler draws its air from, in x and z: a tower from behind its fan, anything else from all about it."""
    x, z, half = machine.cpu_x_mm, machine.cpu_z_mm, REACH_MM / 2
    blows = machine.cooler.direction if isinstance(machine.cooler, AirCooler) else ""
    along_x, along_z = (x - half, x + half), (z - half, z + half)
    if blows == "rear":
        return (x - COOLER_HALF_MM - REACH_MM, x - COOLER_HALF_MM), along_z
    if blows == "front":
        return (x + COOLER_HALF_MM, x + COOLER_HALF_MM + REACH_MM), along_z
    if blows == "up":
        return along_x, (z - COOLER_HALF_MM - REACH_MM, z - COOLER_HALF_MM)
    return along_x, along_z


def corners(zone: ZoneDoc) -> tuple[Point, Point]:
    """The nearer and the farther corner: those of a box may be given either way round."""
    a, b = zone.from_mm, zone.to_mm
    return Point(min(a.x, b.x), min(a.y, b.y), min(a.z, b.z)), Point(max(a.x, b.x), max(a.y, b.y), max(a.z, b.z))


def points_in(doc: JobDoc, zone: ZoneDoc) -> list[NamedPointDoc]:
    """Named points within a zone, its border included."""
    low, high = corners(zone)
    return [p for p in doc.points if all(getattr(low, c) <= getattr(p.at_mm, c) <= getattr(high, c) for c in "xyz")]


def channels_of(point: NamedPointDoc) -> list[str]:
    """Names by which a log may call the probe at a point: by its own, or by the number of its sensor."""
    return [f"air_{point.id}_c", *([f"air_{point.sensor}_c"] if point.sensor else [])]
