"""Where a radiator may go in a case: rows of mounts that take its sections, on the rails where the case names them."""

from collections.abc import Iterator, Sequence
from itertools import pairwise

from desk.job.resolve import Resolver
from desk.together.fit import ledger_of
from documents.job.case import MountDoc
from documents.job.models import FanPlaceDoc, JobDoc, LayoutDoc, RadiatorDoc, RadiatorPlaceDoc
from engine.errors import OventaError
from engine.loop.heights import SIDES, stands_upright

PITCH_SHARE = 0.3  # common practice, no source: neighbours stand a section apart, give or take this share of it
SIDEWAYS_MM = 15.0  # no source: mounts of one row lie no further off its line


def radiator_places(doc: JobDoc, layout: LayoutDoc) -> list[RadiatorPlaceDoc]:
    """Every place for the layout's radiator, its own first; only those that fit with fans on. Empty where it has none to move."""
    own = layout.radiator
    if own is None:
        return []
    part = next((r for r in doc.parts.radiators if r.id == own.radiator), None)
    if part is None:
        return [own]
    found = [own.model_copy(update={"gap_mm": 0})]
    for mounts in rows_of(doc, part):
        if set(mounts) != set(own.mounts):
            found += [p for p in (_placed(doc, part, mounts),) if _fits(doc, layout, p)]
    return found


def rows_of(doc: JobDoc, part: RadiatorDoc) -> Iterator[list[str]]:
    """Runs of neighbouring mounts, as many as the radiator has sections."""
    faces = dict.fromkeys(m.face for m in doc.case.mounts if not m.on_shroud)
    for face in faces:
        rails = [r for r in doc.case.rails if r.face == face]
        groups: list[set[str] | None] = [
            set(r.mounts) for r in rails if not r.radiators_mm or part.sections * part.section_mm in r.radiators_mm
        ]
        for allowed in groups if rails else [None]:
            own = [
                m
                for m in doc.case.mounts
                if m.face == face and not m.on_shroud and part.section_mm in m.sizes_mm and (allowed is None or m.id in allowed)
            ]
            yield from _runs(own, part)


def _runs(mounts: Sequence[MountDoc], part: RadiatorDoc) -> Iterator[list[str]]:
    if part.sections == 1:
        yield from ([m.id] for m in mounts)
        return
    axes = ("x", "y", "z")
    for axis in axes:
        others = [a for a in axes if a != axis]
        lines: list[list[MountDoc]] = []
        for m in sorted(mounts, key=lambda m: getattr(m.centre_mm, axis)):
            line = next(
                (x for x in lines if all(abs(getattr(x[0].centre_mm, o) - getattr(m.centre_mm, o)) <= SIDEWAYS_MM for o in others)), None
            )
            if line is None:
                lines.append([m])
            else:
                line.append(m)
        for line in lines:
            for i in range(len(line) - part.sections + 1):
                run = line[i : i + part.sections]
                steps = [getattr(b.centre_mm, axis) - getattr(a.centre_mm, axis) for a, b in pairwise(run)]
                if all(abs(s - part.section_mm) <= PITCH_SHARE * part.section_mm for s in steps):
                    yield [m.id for m in run]


def _placed(doc: JobDoc, part: RadiatorDoc, mounts: Sequence[str]) -> RadiatorPlaceDoc:
    """Tubes below where it stands upright, else to the rear: the first side, which keeps air from the pump."""
    own = [m for m in doc.case.mounts if m.id in mounts]
    upright = stands_upright(own[0].face, [m.centre_mm.x for m in own])
    return RadiatorPlaceDoc(radiator=part.id, mounts=list(mounts), tubes=SIDES[upright][0])


def _fits(doc: JobDoc, layout: LayoutDoc, place: RadiatorPlaceDoc) -> bool:
    """With a fan on every one of its mounts and none elsewhere, nothing of it fails to fit that fits without it."""
    fan = next((f for f in doc.parts.fans if all(f.size_mm in m.sizes_mm for m in doc.case.mounts if m.id in place.mounts)), None)
    fans = [FanPlaceDoc(mount=m, fan=fan.id, direction="exhaust") for m in place.mounts] if fan else []
    tried = layout.model_copy(update={"id": "try", "radiator": place, "fans": fans, "loops": None, "wiring": []})
    try:
        lines = ledger_of(doc.model_copy(update={"layouts": [*doc.layouts, tried], "plan": None}), "try").lines
    except OventaError:
        return False
    return not any(x.verdict == "does_not_fit" and set(x.mounts) & set(place.mounts) for x in lines)


def coolers_ways(resolver: Resolver, layout: LayoutDoc, turn: bool) -> list[str | None]:
    """Ways a tower may blow: as it does, then up or to the rear; others stay as they are."""
    own = layout.cooler_direction
    cooler = resolver.cpu_cooler(layout)
    if not turn or cooler is None or cooler.kind != "tower":
        return [own]
    return list(dict.fromkeys([own or "rear", "rear", "up"]))
