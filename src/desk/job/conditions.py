"""What a layout's figures belong to: the case, the parts that give off heat, and how its fans are driven."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from typing import Any

from desk.job.resolve import Resolver
from documents.job.models import LESSONS, JobDoc, LayoutDoc


def made_with(doc: JobDoc, layout_id: str) -> dict[str, str]:
    """What a run of a layout is made with, in words: kept with the run, so that a later change of parts or layout is noticed."""
    resolver = Resolver(doc)
    layout = resolver.layout(layout_id)
    case = f"{doc.case.name} {doc.case.revision}".strip()
    found = {"case": case} if case else {}
    for what, setting, kind in (("processor", "cpu", "cpus"), ("card", "card", "cards")):
        part = resolver.part(layout, setting, kind)
        if part:
            found[what] = f"{part.name or part.id}, {part.power_w:g} W"[:200]
    cooler = resolver.cpu_cooler(layout)
    if cooler:
        found["cooler"] = (cooler.name or cooler.id)[:200]
    return found | {"layout": _setting_digest(layout), "parts": _parts_digest(doc, layout)}


AS_RUN, AS_READ = "as-run", "as-read"  # of a layout as it was when it was run, or levels of it were read
LONGEST_NAME = 60  # of a layout in a document


def as_it_was(layout_id: str, what: str, turn: int = 0) -> str:
    """A name for a layout as it was, beside the one that has its name now; long ones are cut, and told apart by what was cut."""
    tail = f"-{what}" + (f"-{turn}" if turn else "")
    if len(layout_id) + len(tail) > LONGEST_NAME:
        mark = hashlib.sha256(layout_id.encode()).hexdigest()[:8]
        layout_id = f"{layout_id[: LONGEST_NAME - len(tail) - len(mark) - 1]}-{mark}"
    return layout_id + tail


def as_drawn(doc: JobDoc, layout_id: str) -> dict[str, Any]:
    """A layout as the document draws it, kept with each run of it: what is changed in it later was not what ran."""
    return Resolver(doc).layout(layout_id).model_dump(mode="json", exclude_unset=True, exclude=_NOT_AIR - {"id", "name"})


def drawn_otherwise(doc: JobDoc, layout_id: str, then: Mapping[str, Any]) -> bool:
    """Whether a layout is drawn otherwise now than then, its name apart; where nothing is known of then, not."""

    def unnamed(drawn: Mapping[str, Any]) -> dict[str, Any]:
        return {k: v for k, v in drawn.items() if k != "name"}

    return bool(then) and unnamed(as_drawn(doc, layout_id)) != unnamed(then)


def drawn_alike(layouts: Sequence[LayoutDoc]) -> list[list[str]]:
    """Layouts that differ in nothing that is drawn, each once with all that are like it."""
    found: dict[str, list[str]] = {}
    for layout in layouts:
        found.setdefault(_setting_digest(layout), []).append(layout.id)
    return [names for names in found.values() if len(names) > 1]


_SPEEDS = {"speed_pct", "curve", "group"}


def drawn_otherwise_but_speeds(doc: JobDoc, layout_id: str, then: Mapping[str, Any]) -> bool:
    """The same for what is measured at speeds of its own: how fans are driven is no part of it."""

    def bare(drawn: Mapping[str, Any]) -> dict[str, Any]:
        fans = [{k: v for k, v in f.items() if k not in _SPEEDS} for f in drawn.get("fans", [])]
        return {k: v for k, v in drawn.items() if k not in ("name", "groups", "cooler_curve")} | {"fans": fans}

    return bool(then) and bare(as_drawn(doc, layout_id)) != bare(then)


def changed_since(then: Mapping[str, str], now: Mapping[str, str]) -> list[str]:
    """What is another now than when a run was made, in words; empty where nothing is known of then."""
    named = [f"{what}: {then[what]}, now {now.get(what, 'none')}" for what in then if what not in _DIGESTS and then[what] != now.get(what)]
    found = named + [f"{what}: none, now {now[what]}" for what in now if what not in _DIGESTS and then and what not in then]
    for what, words in _DIGESTS.items():
        if not found and then.get(what) is not None and then[what] != now.get(what):
            found.append(words)
    return found


def only_redrawn(changes: Sequence[str]) -> bool:
    """Whether nothing but the layout's own setting is another: its parts are what they were."""
    return list(changes) == [_DIGESTS["layout"]]


_DIGESTS = {"layout": "how it is set up", "parts": "figures of its parts"}
_NOT_AIR = {
    "id",
    "name",
    "note",
    "accepted",
    "parent",
    "wiring",
    "as_found",
    "labour_min",
    "looks",
    "looks_score",
    "dust_access",
    "picture",
    "ready",
}


def _setting_digest(layout: LayoutDoc) -> str:
    return _digest(layout.model_dump(mode="json", exclude=_NOT_AIR))


def _parts_digest(doc: JobDoc, layout: LayoutDoc) -> str:
    resolver = Resolver(doc)
    used = [resolver.part(layout, setting, kind) for setting, kind in (("cpu", "cpus"), ("card", "cards"))]
    fans = {f.fan for f in layout.fans}
    parts = [p for p in (*used, resolver.cpu_cooler(layout), *(f for f in doc.parts.fans if f.id in fans)) if p is not None]
    return _digest([p.model_dump(mode="json", exclude={"name", "price", *LESSONS}) for p in parts])


def _digest(content: Any) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()[:16]


def named_of(doc: JobDoc) -> dict[str, dict[str, str]]:
    """For each layout the parts and powers it runs with, so that layouts that name unlike ones are compared by them."""
    resolver = Resolver(doc)
    return {layout.id: _named(resolver, layout) for layout in doc.layouts}


def _named(resolver: Resolver, layout: LayoutDoc) -> dict[str, str]:
    own = {}
    for what, setting, kind, power in (
        ("processor", "cpu", "cpus", layout.cpu_power_w),
        ("card", "card", "cards", layout.card_power_w),
    ):
        part = resolver.part(layout, setting, kind)
        if part:
            own[what] = part.name or part.id
            own[f"{setting}_power"] = f"{power if power is not None else part.power_w:g} W"
    return own


def other_parts(resolver: Resolver, layout: LayoutDoc, reference: LayoutDoc) -> tuple[str, ...]:
    """What a layout names that is not the reference's: it is compared all the same, and said to be."""
    own, usual = _named(resolver, layout), _named(resolver, reference)
    found = []
    for what, setting in (("processor", "cpu"), ("card", "card")):
        if own.get(what) != usual.get(what):
            found.append(f"another {what}: {own[what]}" if what in own else f"no {what}")
        elif what in own and own[f"{setting}_power"] != usual[f"{setting}_power"]:
            found.append(f"the {what} at {own[f'{setting}_power']}")
    coolers = [resolver.cpu_cooler(x) for x in (layout, reference)]
    if coolers[0] and coolers[0] != coolers[1]:
        found.append(f"another cooler: {coolers[0].name or coolers[0].id}")
    memory = [resolver.part(x, "memory", "memory") for x in (layout, reference)]
    if memory[0] and memory[0] != memory[1]:
        found.append(f"other memory: {memory[0].name or memory[0].id}")
    return tuple(found)


def parts_of(doc: JobDoc) -> dict[str, dict[str, str]]:
    """For each layout the things that must be alike where layouts are compared, by their names for people."""
    resolver, found = Resolver(doc), {}
    case = f"{doc.case.name} {doc.case.revision}".strip()
    for layout in doc.layouts:
        own = {"case": "open bench" if layout.open_bench else case} if case else {}
        for what, setting, kind in (("processor", "cpu", "cpus"), ("card", "card", "cards")):
            part = resolver.part(layout, setting, kind)
            if part:
                own[what] = part.name or part.id
        curved = any(f.curve for f in layout.fans) or any(g.curve for g in layout.groups)
        found[layout.id] = own | {"mode of the fans": "curves" if curved else "fixed speeds"}
    return found
