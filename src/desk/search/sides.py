"""Found layouts with a speed for each side of the case, where that beats one speed for all."""

from collections.abc import Mapping

from desk.forecast.document import Oracle
from desk.job.edits import written
from desk.search.question import LEAST_PCT
from documents.job.models import LayoutDoc
from engine.coupled.quiet import groups_by_face, quiet_speeds


def by_sides(oracle: Oracle, layout: LayoutDoc) -> LayoutDoc | None:
    """The layout with each side's fans at the speed that is coolest at the same level; None where there is one side or none other."""
    machine = oracle.machine(layout.id)
    groups = groups_by_face(machine)
    if len(groups) < 2:
        return None
    found = quiet_speeds(machine, oracle.forecast(layout.id).sound.level_dba, groups)
    if not found.reached or min(found.speeds_pct.values()) < LEAST_PCT:
        return None  # a fan at rest is in the way and brings nothing: without it is another layout
    other = _at(layout, found.speeds_pct)
    return other if other != layout else None


def _at(layout: LayoutDoc, speeds_pct: Mapping[str, float]) -> LayoutDoc:
    fans = [f.model_copy(update={"speed_pct": round(speeds_pct.get(f.mount, f.speed_pct), 3)}) for f in layout.fans]
    return written(layout.model_copy(update={"fans": fans}))


def speed_words(layout: LayoutDoc, faces: Mapping[str, str]) -> str:
    """One line: all case fans alike, or the speed of each side."""
    by_speed: dict[float, list[str]] = {}
    for f in layout.fans:
        names = by_speed.setdefault(round(f.speed_pct), [])
        if (side := faces[f.mount]) not in names:
            names.append(side)
    if len(by_speed) == 1:
        return f"all case fans at {next(iter(by_speed)):.0f} %"
    return "fans " + ", ".join(f"{' and '.join(names)} at {pct:.0f} %" for pct, names in by_speed.items())
