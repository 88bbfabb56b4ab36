"""Changes of a layout that a finding proposes, made in the document: one implementation for screen, shell, search and tests."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import WrapSerializer

from documents.job.models import CurveDoc, JobDoc, LayoutDoc
from engine.findings.finding import Fix

Place = tuple[str, str]  # mount, layer
Raw = dict[str, Any]


@dataclass(frozen=True)
class Edited:
    """A layout as it would be; ``releases``: what follows a curve now and would not any more, in words."""

    layout: LayoutDoc
    releases: tuple[str, ...] = ()


def edited(layout: LayoutDoc, fix: Fix, speeds_pct: Mapping[Place, float]) -> Edited | None:
    """The layout after a fix; None where there is nothing to change. ``speeds_pct``: how fast its fans turn now, by mount and layer."""
    raw = layout.model_dump(mode="json", exclude_unset=True)
    before = LayoutDoc.model_validate(raw)
    releases = _EDITS[fix.action](raw, fix, speeds_pct)
    after = LayoutDoc.model_validate(raw)
    return None if after == before else Edited(after, releases)


def with_layout(doc: JobDoc, layout: LayoutDoc) -> JobDoc:
    """The document with one of its layouts in another state."""
    return doc.model_copy(update={"layouts": [layout if x.id == layout.id else x for x in doc.layouts]})


def _as_documents_write_it(part: LayoutDoc | CurveDoc, _usual: Any) -> dict[str, Any]:
    return part.model_dump(mode="json", exclude_unset=True)


# In an answer, something to be put into a document: what is not set stays out, since a layout that says its card is null has none.
WrittenLayout = Annotated[LayoutDoc, WrapSerializer(_as_documents_write_it)]
WrittenCurve = Annotated[CurveDoc, WrapSerializer(_as_documents_write_it)]


def written(layout: LayoutDoc) -> LayoutDoc:
    """Read anew from what it writes, so that what is set counts as set."""
    return LayoutDoc.model_validate(layout.model_dump(mode="json", exclude_unset=True))


def _at(raw: Raw, fix: Fix) -> list[Raw]:
    layer = fix.layer or "outer"
    return [p for p in raw.get("fans", []) if p["mount"] == fix.mount and p.get("layer", "outer") == layer]


def _flip(raw: Raw, fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    for place in _at(raw, fix):
        place["direction"] = "exhaust" if place["direction"] == "intake" else "intake"
    return ()


def _take_out(raw: Raw, fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    gone = _at(raw, fix)
    raw["fans"] = [p for p in raw.get("fans", []) if p not in gone]
    if raw.get("wiring") and gone:
        layer = fix.layer or "outer"
        raw["wiring"] = [w for w in raw["wiring"] if (w["of"], w.get("layer", "outer")) != (fix.mount, layer)]
    return ()


def _plug_in(raw: Raw, fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    for place in _at(raw, fix):
        place["state"] = "running"
    return ()


def _set_speed(raw: Raw, fix: Fix, speeds: Mapping[Place, float]) -> tuple[str, ...]:
    """Every case fan at a share of its present speed. A group is changed as a group; what follows a curve is taken off it."""
    share = (fix.speed_pct or 100.0) / 100
    groups = {g["id"]: g for g in raw.get("groups", [])}
    released: list[str] = []
    done: set[str] = set()
    for place in raw.get("fans", []):
        led = groups.get(place.get("group"), place)
        name = f"group {led.get('name') or led['id']}" if led is not place else place["mount"].upper()
        if led is not place:
            if led["id"] in done:
                continue
            done.add(led["id"])
        now = speeds.get((place["mount"], place.get("layer", "outer")))
        if now is None:
            continue
        if led.get("curve"):
            released.append(f"{name} off curve {led['curve']}")
            led["curve"] = None
        else:
            now = led.get("speed_pct", 100)
        led["speed_pct"] = float(math.floor(now * share))
    return tuple(released)


def _turn_cooler(raw: Raw, fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    raw["cooler_direction"] = fix.to
    return ()


def _close_gap(raw: Raw, _fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    places = [raw["radiator"]] if raw.get("radiator") else []
    places += [r for loop in raw.get("loops") or [] for r in loop.get("radiators", [])]
    for place in places:
        place["gap_mm"] = 0
    return ()


def _lay_card_flat(raw: Raw, _fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    raw["card_orientation"] = "flat"
    return ()


def _fit_panel(raw: Raw, fix: Fix, _speeds: Mapping[Place, float]) -> tuple[str, ...]:
    panels = raw.get("panels", {})
    state = panels.get(fix.to)
    if state:
        state.pop("state", None)
        if not state:
            del panels[fix.to]
    return ()


_EDITS: Mapping[str, Callable[[Raw, Fix, Mapping[Place, float]], tuple[str, ...]]] = {
    "flip": _flip,
    "take_out": _take_out,
    "plug_in": _plug_in,
    "set_speed": _set_speed,
    "turn_cooler": _turn_cooler,
    "close_gap": _close_gap,
    "lay_card_flat": _lay_card_flat,
    "fit_panel": _fit_panel,
}
