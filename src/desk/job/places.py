"""Where a case's mounts and vents stand: each on its own wall, wherever that wall is, and which of them lie outside it."""

from collections.abc import Iterator

from documents.errors import Fault
from documents.job.case import CaseDoc, MountDoc, PointDoc, VentDoc
from engine.findings.finding import Finding
from engine.machine import STRAIGHT, Face, Point, SetBack

ALONG = {"front": ("y", "z"), "rear": ("y", "z"), "top": ("x", "y"), "bottom": ("x", "y"), "window": ("x", "z")}
FROM = {"x": "from the front", "y": "from the tray", "z": "over the floor"}
EDGE_MM = 1.0  # a centre this far over the edge still counts as on it: readings are rounded


def set_back(case: CaseDoc, face: Face) -> SetBack:
    found = next((s for s in case.set_back if s.face == face), None)
    return SetBack(found.top_mm, found.bottom_mm) if found else STRAIGHT


def on_wall(case: CaseDoc, face: Face, at: PointDoc, on_shroud: bool = False) -> Point:
    """A place on a face, held to its wall: what was typed for the way through the wall follows when the wall moves."""
    inner, share = case.inner_mm, at.z / case.inner_mm.height
    if face == "front":
        return Point(set_back(case, "front").at(share), at.y, at.z)
    if face == "rear":
        return Point(inner.depth - set_back(case, "rear").at(share), at.y, at.z)
    if face == "top":
        return Point(at.x, at.y, inner.height)
    if face == "bottom":
        return Point(at.x, at.y, case.shroud.height_mm if on_shroud and case.shroud else 0.0)
    return Point(at.x, inner.width, at.z)


def outside(case: CaseDoc) -> list[tuple[MountDoc | VentDoc, str, str]]:
    """Mounts and vents whose centre lies beyond their wall: which, what is wrong, and what to do."""
    most = {"x": case.inner_mm.depth, "y": case.inner_mm.width, "z": case.inner_mm.height}
    found: list[tuple[MountDoc | VentDoc, str, str]] = []
    if case.kind == "open_bench":
        return found
    places: list[MountDoc | VentDoc] = [*case.mounts, *case.vents]
    for place in places:
        low = {"x": 0.0, "y": 0.0, "z": 0.0}
        for axis in ALONG[place.face]:
            at = getattr(place.centre_mm, axis)
            if not low[axis] - EDGE_MM <= at <= most[axis] + EDGE_MM:
                wall = "the shroud's roof" if isinstance(place, MountDoc) and place.on_shroud else f"the {place.face}"
                name = place.id.upper() if isinstance(place, MountDoc) else f"the vent {place.id}"
                what = f"{name} lies outside {wall}: its centre is {at:.0f} mm {FROM[axis]}, of {most[axis]:.0f} mm"
                found.append((place, what, f"Move it inside, remove it, or correct the case's inside ({most[axis]:.0f} mm)."))
                break
    return found


def outside_faults(case: CaseDoc) -> list[Fault]:
    mounts = {m.id: i for i, m in enumerate(case.mounts)}
    vents = {v.id: i for i, v in enumerate(case.vents)}
    return [
        Fault(f"case.mounts[{mounts[p.id]}].centre_mm" if isinstance(p, MountDoc) else f"case.vents[{vents[p.id]}].centre_mm", what, do)
        for p, what, do in outside(case)
    ]


def outside_findings(case: CaseDoc) -> Iterator[Finding]:
    """The same as findings: with one of them there is no forecast."""
    for place, what, do in outside(case):
        yield Finding(
            code="outside_the_case",
            severity="error",
            kind="physics",
            mounts=(place.id,) if isinstance(place, MountDoc) else (),
            what=what[:1].upper() + what[1:],
            because="Air goes through a wall; where none is, nothing can be forecast or fitted.",
            do=do,
            may_accept=False,
        )
