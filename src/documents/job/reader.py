"""Reads and writes job documents: JSON text to a checked ``JobDoc`` and back, losslessly."""

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from documents.errors import DocumentError, Fault
from documents.job.case import CaseDoc
from documents.job.models import PART_KINDS, JobDoc, LayoutDoc
from documents.job.planned import PlanDoc
from documents.json_in import parse_json
from documents.upgrades import upgraded

_REMEDIES = {
    "missing": "Add it; the format description lists every field with its default.",
    "literal_error": "Use one of the listed words.",
    "finite_number": "Give a finite number.",
}


@dataclass(frozen=True)
class ReadJob:
    """A checked document with the paths of the fields this version does not know (kept, not used)."""

    doc: JobDoc
    unknown_fields: tuple[str, ...]


def read_job(text: str | bytes) -> ReadJob:
    """A job from JSON text. Raises DocumentError with every fault found; nothing is guessed."""
    return check_job(parse_json(text))


def check_job(raw: Any) -> ReadJob:
    """A job from parsed JSON."""
    if not isinstance(raw, dict):
        raise DocumentError([Fault("$", "a job document is a JSON object", "Start the file with {.")])
    if raw.get("format") != "oventa-job":
        raise DocumentError([Fault("format", "this is not a job document", 'Give "format": "oventa-job".')])
    try:
        doc = JobDoc.model_validate(upgraded(raw))
    except ValidationError as error:
        raise DocumentError([_fault(e) for e in error.errors()]) from error
    faults = list(_reference_faults(doc))
    if faults:
        raise DocumentError(faults)
    return ReadJob(doc, tuple(_unknown(doc, "")))


def check_case(raw: Any) -> CaseDoc:
    """A case alone from parsed JSON. Raises DocumentError with every fault found."""
    try:
        return CaseDoc.model_validate(raw)
    except ValidationError as error:
        raise DocumentError([_fault(e, "case") for e in error.errors()]) from error


def write_job(doc: JobDoc) -> str:
    """UTF-8 JSON text of a job, stated defaults left out, unknown fields kept."""
    return json.dumps(doc.model_dump(mode="json", exclude_unset=True), indent=1, ensure_ascii=False) + "\n"


def path_of(location: tuple[int | str, ...]) -> str:
    """``("case", "mounts", 2, "face")`` as ``case.mounts[2].face``."""
    path = ""
    for part in location:
        path += f"[{part}]" if isinstance(part, int) else f".{part}" if path else part
    return path or "$"


def _fault(error: Any, *above: str) -> Fault:
    do = _REMEDIES.get(error["type"], "Correct the value; the format description gives its range and unit.")
    given = error.get("input")
    shown = f" (given: {given!r})" if isinstance(given, str | int | float | bool) and error["type"] != "missing" else ""
    said = error["msg"].removeprefix("Value error, ")
    what = "this field is missing" if error["type"] == "missing" else said[:1].lower() + said[1:] + shown
    return Fault(path_of((*above, *error["loc"])), what, do)


def _reference_faults(doc: JobDoc) -> Iterator[Fault]:
    lists: dict[str, list[str]] = {
        "case.mounts": [m.id for m in doc.case.mounts],
        "case.vents": [v.id for v in doc.case.vents],
        "case.blocks": [b.id for b in doc.case.blocks],
        "case.rails": [r.id for r in doc.case.rails],
        **{f"parts.{kind}": [p.id for p in getattr(doc.parts, kind)] for kind in PART_KINDS},
        "curves": [c.id for c in doc.curves],
        "layouts": [x.id for x in doc.layouts],
        "case.drives": [d.id for d in doc.case.drives],
        "case.assembly": [a.id for a in doc.case.assembly],
        "points": [p.id for p in doc.points],
        "zones": [z.id for z in doc.zones],
        "scenarios": [x.id for x in doc.scenarios],
        "ideas": [x.id for x in doc.ideas],
        "case.panels": [str(p.face) for p in doc.case.panels],
        "protocols": [p.key for p in doc.protocols],
        "plan.runs": [r.id for r in doc.plan.runs] if doc.plan else [],
    }
    for path, ids in lists.items():
        for i, name in enumerate(ids):
            if name in ids[:i]:
                yield Fault(f"{path}[{i}]", f"the id {name!r} is used twice", "Give each entry of a list its own id.")
    known = {path: set(ids) for path, ids in lists.items()}

    def wanted(path: str, target: str, name: str | None) -> Iterator[Fault]:
        if name is not None and name not in known[target]:
            have = ", ".join(sorted(known[target])) or "none yet"
            yield Fault(path, f"{name!r} is not in {target}", f"Name one that is there ({have}) or add it.")

    for i, curve in enumerate(doc.curves):
        temperatures = [t for t, _ in curve.points]
        if temperatures != sorted(set(temperatures)):
            yield Fault(f"curves[{i}].points", "the temperatures do not rise", "List the points from cold to hot, each once.")
    for i, cooler in enumerate(doc.parts.coolers):
        yield from wanted(f"parts.coolers[{i}].fan", "parts.fans", cooler.fan)
    for i, fan in enumerate(doc.parts.fans):
        if fan.curve and len(fan.curve.flow_m3h) != len(fan.curve.pressure_pa):
            yield Fault(f"parts.fans[{i}].curve", "flow and pressure have different lengths", "Give one pressure for each flow.")
        elif fan.curve and not _falls(fan.curve.flow_m3h, fan.curve.pressure_pa):
            do = "Give points from no flow to the largest, the pressure falling on the way."
            yield Fault(f"parts.fans[{i}].curve", "the pressure does not fall with flow", do)
    for i, rail in enumerate(doc.case.rails):
        for name in rail.mounts:
            yield from wanted(f"case.rails[{i}].mounts", "case.mounts", name)
    for i, mount in enumerate(doc.case.mounts):
        for name in mount.takes_drives:
            yield from wanted(f"case.mounts[{i}].takes_drives", "case.drives", name)
    for i, exclusion in enumerate(doc.case.exclusions):
        for name in (*exclusion.when.radiator_on, *exclusion.when.fan_on, *exclusion.rules_out.radiators_on, *exclusion.rules_out.fans_on):
            yield from wanted(f"case.exclusions[{i}]", "case.mounts", name)
        for name in exclusion.rules_out.drives:
            yield from wanted(f"case.exclusions[{i}].rules_out.drives", "case.drives", name)
    for i, idea in enumerate(doc.ideas):
        yield from wanted(f"ideas[{i}].layout", "layouts", idea.layout)
    for name in doc.stock.fans if doc.stock else ():
        yield from wanted("stock.fans", "parts.fans", name)
    if doc.plan:
        yield from _plan_faults(doc.plan, {p.id for p in doc.protocols}, wanted)
    yield from _settings_faults("base", doc.base, wanted)
    for i, layout in enumerate(doc.layouts):
        yield from _settings_faults(f"layouts[{i}]", layout, wanted)
        yield from _layout_faults(f"layouts[{i}]", layout, wanted)


def _falls(flow_m3h: Sequence[float], pressure_pa: Sequence[float]) -> bool:
    """At least three flows, and less pressure at the largest than at the smallest: a flat line is no fan."""
    points = dict(zip(flow_m3h, pressure_pa, strict=True))
    return len(points) >= 3 and points[max(points)] < points[min(points)]


def _plan_faults(plan: PlanDoc, protocols: set[str], wanted: Any) -> Iterator[Fault]:
    yield from wanted("plan.control", "layouts", plan.control)
    yield from wanted("plan.guess.best", "layouts", plan.guess.best)
    yield from wanted("plan.guess.over", "layouts", plan.guess.over)
    named = [("plan.protocol", plan.protocol), *((f"plan.runs[{i}].protocol", r.protocol) for i, r in enumerate(plan.runs))]
    for path, name in named:
        if name not in protocols:
            have = ", ".join(sorted(protocols)) or "none yet"
            yield Fault(path, f"{name!r} is not in protocols", f"Name one that is there ({have}) or add it.")
    for i, run in enumerate(plan.runs):
        yield from wanted(f"plan.runs[{i}].layout", "layouts", run.layout)


def _settings_faults(path: str, settings: Any, wanted: Any) -> Iterator[Fault]:
    targets = {"cpu": "parts.cpus", "card": "parts.cards", "cooler": "parts.coolers", "cooler_fan": "parts.fans"}
    targets |= {"board": "parts.boards", "memory": "parts.memory", "supply": "parts.supplies"}
    for name, target in (*targets.items(), ("cooler_curve", "curves"), ("card_curve", "curves")):
        yield from wanted(f"{path}.{name}", target, getattr(settings, name))


def _layout_faults(path: str, layout: LayoutDoc, wanted: Any) -> Iterator[Fault]:
    taken: set[tuple[str, str]] = set()
    for i, place in enumerate(layout.fans):
        yield from wanted(f"{path}.fans[{i}].mount", "case.mounts", place.mount)
        yield from wanted(f"{path}.fans[{i}].fan", "parts.fans", place.fan)
        yield from wanted(f"{path}.fans[{i}].curve", "curves", place.curve)
        if (place.mount, place.layer) in taken:
            what = f"two fans in the {place.layer} layer of mount {place.mount!r}"
            yield Fault(f"{path}.fans[{i}]", what, "Put one in the other layer or on another mount.")
        taken.add((place.mount, place.layer))
        if place.group is not None and place.group not in {g.id for g in layout.groups}:
            yield Fault(f"{path}.fans[{i}].group", f"{place.group!r} is no group of this layout", "Add the group, or leave it out.")
    for i, group in enumerate(layout.groups):
        yield from wanted(f"{path}.groups[{i}].curve", "curves", group.curve)
    for i, plug in enumerate(layout.wiring):
        if plug.of not in ("cooler_fan", "pump", "pump:card"):
            yield from wanted(f"{path}.wiring[{i}].of", "case.mounts", plug.of)
        yield from wanted(f"{path}.wiring[{i}].via", "parts.controllers", plug.via)
    for i, seen in enumerate(layout.as_found):
        yield from wanted(f"{path}.as_found[{i}].mount", "case.mounts", seen.mount)
    places = [(f"{path}.radiator", layout.radiator)] if layout.radiator else []
    for i, loop in enumerate(layout.loops or []):
        yield from wanted(f"{path}.loops[{i}].cooler", "parts.coolers", loop.cooler)
        yield from wanted(f"{path}.loops[{i}].pump_curve", "curves", loop.pump_curve)
        places += [(f"{path}.loops[{i}].radiators[{j}]", r) for j, r in enumerate(loop.radiators)]
    carrying: set[str] = set()
    for where, place_doc in places if not layout.loops else places[1 if layout.radiator else 0 :]:
        for name in set(place_doc.mounts) & carrying:
            yield Fault(f"{where}.mounts", f"two radiators stand on mount {name!r}", "Move one of them.")
        carrying |= set(place_doc.mounts)
    for where, place_doc in places:
        yield from wanted(f"{where}.radiator", "parts.radiators", place_doc.radiator)
        for name in place_doc.mounts:
            yield from wanted(f"{where}.mounts", "case.mounts", name)
    for i, obstruction in enumerate(layout.obstructions):
        yield from wanted(f"{path}.obstructions[{i}].mount", "case.mounts", obstruction.mount)
        if (obstruction.mount is None) == (obstruction.space is None):
            yield Fault(f"{path}.obstructions[{i}]", "name either a mount or a space", 'Give "mount" or "space", not both.')


def _unknown(model: BaseModel, path: str) -> Iterator[str]:
    for name in model.model_extra or {}:
        yield f"{path}.{name}".lstrip(".")
    for name in type(model).model_fields:
        value = getattr(model, name)
        items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else [(None, value)]
        for key, item in items:
            if isinstance(item, BaseModel):
                step = f"{path}.{name}" if key is None else f"{path}.{name}[{key}]"
                yield from _unknown(item, step.lstrip("."))
