"""Parts that lie ready for a job: whether each fits its case, by how many millimetres, and where it would run in it."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal

from desk.forecast.document import Oracle, Question
from desk.together.fit import ledger_of
from documents.job.case import CaseDoc
from documents.job.models import FanDoc, JobDoc, RadiatorDoc
from documents.job.reader import check_job
from engine.coupled.forecast import mount_flow_m3h
from engine.coupled.operating_point import operating_point
from engine.errors import OventaError
from engine.machine import PlacedFan

Verdict = Literal["fits", "touches", "does_not_fit", "not_known"]
OWN = "on-the-shelf"  # the id that a part has while it is tried
SETTING = {"cards": "card", "coolers": "cooler", "memory": "memory", "supplies": "supply"}
CODES = {
    "cards": ("card_length", "card_width", "card_slots"),
    "coolers": ("cooler_height", "memory_height", "rear_fan_to_cooler"),
    "memory": ("memory_height",),
    "supplies": ("supply_length",),
}
# What stands in for parts that are not chosen yet, so that what is tried can be held against the case alone.
STAND_IN: dict[str, dict[str, Any]] = {
    "cpus": {"id": "stand-in-cpu", "power_w": 65, "r_jc_k_per_w": 0.2, "tj_max_c": 95},
    "coolers": {
        "id": "stand-in-cooler",
        "kind": "downdraft",
        "fan": "stand-in-fan",
        "flow_ref_m3h": 40,
        "fin_drop_pa": 7,
        "ua_ref_w_per_k": 6,
        "r_base_k_per_w": 0.06,
    },
    "fans": {
        "id": "stand-in-fan",
        "size_mm": 92,
        "thickness_mm": 15,
        "speed_max_rpm": 2000,
        "flow_max_m3h": 50,
        "pressure_max_pa": 20,
        "noise_dba": 25,
    },
}


@dataclass(frozen=True)
class ShelfRow:
    """``spare_mm``: room left at its tightest line, ``words`` which that is. ``mount`` and flows: where a fan would run at full speed.

    ``rise_k``: of the part it cools or is, over the room, with the layout's fans; none where nothing can be forecast.
    """

    kind: str
    id: str
    verdict: Verdict
    spare_mm: float | None
    words: str
    mount: str | None = None
    flow_m3h: float | None = None
    free_m3h: float | None = None
    rise_k: float | None = None


def shelf(doc: JobDoc, layout_id: str, parts: Mapping[str, Sequence[dict[str, Any]]]) -> list[ShelfRow]:
    """A row for every part of the kinds that a case can refuse; what cannot be reckoned is said to be not known."""
    tray = _Tray(doc, layout_id)
    return [tray.row(kind, raw) for kind, rows in parts.items() if kind in _ROWS for raw in rows]


class _Tray:
    def __init__(self, doc: JobDoc, layout_id: str) -> None:
        self.raw = doc.model_dump(mode="json", exclude_unset=True)
        self.case = doc.case
        self.at = next(i for i, x in enumerate(doc.layouts) if x.id == layout_id)
        self.layout_id = layout_id
        parts = self.raw.setdefault("parts", {})
        base = self.raw.setdefault("base", {})
        own = self.raw["layouts"][self.at]
        for kind, name in (("cpus", "cpu"), ("coolers", "cooler")):
            if not (base.get(name) or own.get(name) or (name == "cooler" and own.get("loops"))):
                parts.setdefault(kind, []).append(STAND_IN[kind])
                parts.setdefault("fans", []).extend([STAND_IN["fans"]] if kind == "coolers" else [])
                base[name] = STAND_IN[kind]["id"]

    def row(self, kind: str, raw: dict[str, Any]) -> ShelfRow:
        try:
            return _ROWS[kind](self, kind, raw)
        except OventaError as error:
            return ShelfRow(kind, raw["id"], "not_known", None, str(error)[:200])

    def tried(self, kind: str, raw: dict[str, Any]) -> JobDoc:
        """The job with this part chosen in the layout."""
        part = {**raw, "id": OWN}
        parts = {**self.raw["parts"], kind: [*self.raw["parts"].get(kind, []), part]}
        if kind == "coolers" and part.get("fan"):
            known = {f["id"] for f in parts.get("fans", [])}
            parts["fans"] = [*parts.get("fans", []), *([{**STAND_IN["fans"], "id": part["fan"]}] if part["fan"] not in known else [])]
        own = self.raw["layouts"][self.at] | {SETTING[kind]: OWN}
        if kind == "coolers":
            own = {k: v for k, v in own.items() if k not in ("radiator", "loops", "cooler_direction", "cooler_fan", "cooler_fan_side")}
        return check_job({**self.raw, "parts": parts, "layouts": [own], "ideas": [], "plan": None}).doc

    @cached_property
    def as_it_is(self) -> Oracle:
        """The layout without what lies on the shelf."""
        return Oracle(check_job(self.raw).doc, Question(layouts=[self.layout_id]))

    @cached_property
    def taken(self) -> frozenset[str]:
        """Mounts where a fan stands."""
        return frozenset(p.mount for p in self.as_it_is.resolver.layout(self.layout_id).fans)


def _chosen(tray: _Tray, kind: str, raw: dict[str, Any]) -> ShelfRow:
    """Cards, coolers, memory and supplies: the ledger's own lines, and the forecast with the part in its place."""
    if raw.get("kind") in ("sealed", "open_loop"):
        return ShelfRow(kind, raw["id"], "not_known", None, "needs a radiator: see which fit below")
    doc = tray.tried(kind, raw)
    lines = [x for x in ledger_of(doc, tray.layout_id).lines if x.code in CODES[kind]]
    rise = None
    if kind in ("cards", "coolers"):
        point = Oracle(doc, Question(layouts=[tray.layout_id])).point(tray.layout_id)
        rise = point.card_rise_k if kind == "cards" else point.cpu_rise_k
    if not lines:
        return ShelfRow(kind, raw["id"], "not_known", None, "the case's limit is not known yet", rise_k=rise)
    worst = min(lines, key=lambda x: x.spare_mm)
    verdict: Verdict = worst.verdict  # type: ignore[assignment]  # the ledger's words are among them
    return ShelfRow(kind, raw["id"], verdict, worst.spare_mm, worst.what[:1].lower() + worst.what[1:], rise_k=rise)


def _radiator(tray: _Tray, kind: str, raw: dict[str, Any]) -> ShelfRow:
    part = RadiatorDoc.model_validate(raw)
    length = part.length_mm or part.sections * part.section_mm + 2 * part.end_tank_mm
    places = list(_places(tray.case, part))
    if not places:
        nominal = part.sections * part.section_mm
        return ShelfRow(
            kind, part.id, "does_not_fit", None, f"no face has {part.sections} places of {part.section_mm:.0f} mm ({nominal:.0f} mm)"
        )
    known = [(room - length, name) for name, room in places if room is not None]
    if not known:
        return ShelfRow(
            kind, part.id, "not_known", None, f"places for it: {', '.join(name for name, _ in places)}; their length is not known"
        )
    spare, name = max(known)
    verdict: Verdict = "fits" if spare > 0.05 else "touches" if spare > -0.05 else "does_not_fit"
    return ShelfRow(kind, part.id, verdict, spare, f"along the {name}")


def _places(case: CaseDoc, part: RadiatorDoc) -> Iterator[tuple[str, float | None]]:
    """Faces whose rows take as many places as it has sections, with the length that is there."""
    inner = case.inner_mm
    for face in ("front", "top", "bottom", "rear", "window"):
        row = [m for m in case.mounts if m.face == face and part.section_mm in m.sizes_mm]
        if len(row) < part.sections:
            continue
        rails = [r for r in case.rails if r.face == face and len(r.mounts) >= part.sections]
        refused = [r for r in rails if r.radiators_mm and part.sections * part.section_mm not in r.radiators_mm]
        if rails and len(refused) == len(rails):
            continue
        stated = [r.length_mm for r in rails if r.length_mm is not None]
        along = inner.height - (case.shroud.height_mm if case.shroud else 0.0) if face in ("front", "rear") else inner.depth
        yield face, max(stated) if stated else along


def _fan(tray: _Tray, kind: str, raw: dict[str, Any]) -> ShelfRow:
    part = FanDoc.model_validate(raw)
    takes = [m for m in tray.case.mounts if part.size_mm in m.sizes_mm]
    if not takes:
        return ShelfRow(kind, part.id, "does_not_fit", None, f"no mount takes {part.size_mm:.0f} mm")
    mount = next((m for m in takes if m.id not in tray.taken), takes[0])
    spare = min(m.depth_mm - part.thickness_mm for m in takes)
    verdict: Verdict = "fits" if spare > 0.05 else "touches" if spare > -0.05 else "does_not_fit"
    words = f"{len(takes)} mount{'' if len(takes) == 1 else 's'} take{'s' if len(takes) == 1 else ''} it"
    machine, fan = tray.as_it_is.machine(tray.layout_id), tray.as_it_is.resolver.fan(part)
    others = tuple(f for f in machine.fans if (f.mount, f.layer) != (mount.id, "outer"))
    other = operating_point(replace(machine, fans=(*others, PlacedFan(mount.id, fan, mount.usual_way, "outer", 100.0, True))))
    flow = abs(mount_flow_m3h(other, mount.id))
    return ShelfRow(kind, part.id, verdict, spare, words, mount.id, flow, fan.flow_max_m3h)


_ROWS: Mapping[str, Callable[[_Tray, str, dict[str, Any]], ShelfRow]] = {
    **dict.fromkeys(SETTING, _chosen),
    "radiators": _radiator,
    "fans": _fan,
}
