"""How two layouts differ: one change per thing that is done by hand, with its kind for the clock and its words for people."""

from collections import Counter
from collections.abc import Iterator, Mapping
from itertools import permutations

from desk.job.names import fan_called, radiator_called
from documents.job.base import FaceName
from documents.job.case import PanelDoc
from documents.job.models import FanPlaceDoc, JobDoc, LayoutDoc, PanelStateDoc, RadiatorPlaceDoc
from engine.plan.rebuild import Change, Kind

FITTED = PanelStateDoc()
PART_LISTS = {"cooler": "coolers", "card": "cards", "cpu": "cpus"}
SETTING_KINDS: dict[str, Kind] = {"cooler": "cooler", "cooler_direction": "cooler", "card": "card", "card_orientation": "card"}
SETTINGS = {
    "cooler": "cooler",
    "cooler_direction": "cooler turned",
    "cooler_fan_pct": "cooler's fan, %",
    "card": "card",
    "card_orientation": "card",
    "card_fan_pct": "card's fans, %",
    "cpu": "processor",
    "cpu_power_w": "processor's power, W",
    "card_power_w": "card's power, W",
    "cooler_fan_lift_mm": "cooler's fan raised, mm",
    "board": "board",
    "memory": "memory",
    "supply": "power supply",
}


def difference_in_words(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[str]:
    """Lines such as ``moved 2 × Tern 120 from front to top``, ``flipped R1``, ``T1 from 80 to 60 %``; none where nothing differs."""
    return [c.words for c in changes(doc, before, after)]


def changes(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[Change]:
    """Everything that is done by hand between two layouts, in the order of a builder's work."""
    found = [*_fans(doc, before, after)]
    found += [Change("radiator", words) for words in _radiator(doc, before, after)]
    found += [Change("panel", words) for words in _panels(doc, before, after)]
    return found + _settings(doc, before, after)


def _fans(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[Change]:
    old, new = ({(f.mount, f.layer): f for f in x.fans} for x in (before, after))
    faces = {m.id: m.face for m in doc.case.mounts}
    gone = [old[k] for k in old if k not in new]
    come = [new[k] for k in new if k not in old]
    found: list[Change] = []
    moves: Counter[tuple[str, str, str]] = Counter()
    for place in list(gone):
        twin = next((c for c in come if c.fan == place.fan), None)
        if twin:
            gone.remove(place)
            come.remove(twin)
            start, end = (_where(p, faces) for p in (place, twin))
            if start == end:
                start, end = place.mount.upper(), twin.mount.upper()  # along one face the mounts tell where
            moves[fan_called(doc, place.fan), start, end] += 1
    for (name, start, end), count in moves.items():
        what = f"{count} × {name} from {start} to {end}"
        found.append(Change("move", f"moved {what}", count, f"move {what}"))
    found += [Change("take_out", f"took {f.mount.upper()} out", order=f"take {f.mount.upper()} out") for f in gone]
    found += [
        Change("put", f"put {fan_called(doc, f.fan)} at {f.mount.upper()}, {'in' if f.direction == 'intake' else 'out'}") for f in come
    ]
    for key, was in old.items():
        now = new.get(key)
        if now is not None:
            found += _fan(doc, was, now)
    return found


def _fan(doc: JobDoc, was: FanPlaceDoc, now: FanPlaceDoc) -> Iterator[Change]:
    """What is done to a fan that stays at its mount."""
    name = was.mount.upper()
    if now.direction != was.direction:
        yield Change("flip", f"flipped {name}", order=f"flip {name}")
    if now.fan != was.fan:
        yield Change("swap", f"{fan_called(doc, now.fan)} at {name} instead of {fan_called(doc, was.fan)}")
    if now.state != was.state:
        runs = now.state == "running"
        yield Change("plug", f"{'plugged' if runs else 'unplugged'} {name}", order=f"{'plug in' if runs else 'unplug'} {name}")
    if now.group != was.group:
        yield Change("speed", f"{name} {'in ' + now.group if now.group else 'by itself'}")
    if now.curve != was.curve:
        yield Change("speed", f"{name} {'follows ' + now.curve if now.curve else 'at a fixed speed'}")
    elif now.speed_pct != was.speed_pct and not now.curve:
        yield Change("speed", f"{name} from {was.speed_pct:.0f} to {now.speed_pct:.0f} %")


def panel_pairs(doc: JobDoc) -> list[tuple[FaceName, str, str]]:
    """(face, layout with its panel fitted, layout with it off) of all layouts that differ by that panel alone."""
    found = []
    for fitted, off in permutations(doc.layouts, 2):
        faces = [f for f, p in off.panels.items() if p.state == "removed" and fitted.panels.get(f, FITTED).state == "fitted"]
        differ = changes(doc, fitted, off) if len(faces) == 1 else []
        if len(differ) == 1 and differ[0].kind == "panel":
            found.append((faces[0], fitted.id, off.id))
    return found


def _where(place: FanPlaceDoc, faces: Mapping[str, str]) -> str:
    return faces.get(place.mount, place.mount)


def _radiator(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[str]:
    if before.radiator == after.radiator and before.loops == after.loops:
        return []
    if after.radiator is None and not after.loops:
        return ["radiator out"]
    if not after.loops:
        return [_at(doc, p) for p in (after.radiator,) if p]
    old = {tuple(sorted(loop.heat)): loop for loop in before.loops or []}
    lines = []
    for loop in after.loops:
        was = old.pop(tuple(sorted(loop.heat)), None)
        words = " and ".join({"cpu": "processor", "card": "card"}[h] for h in loop.heat)
        if was is None:
            lines.append(f"a loop for the {words}: " + "; ".join(_at(doc, p) for p in loop.radiators))
        elif was != loop:
            pump = f"pump at {loop.pump_pct:.0f} %" if was.pump_pct != loop.pump_pct else ""
            moved = [_at(doc, p) for p in loop.radiators if p not in was.radiators]
            lines.append(f"loop of the {words}: " + "; ".join(x for x in (*moved, pump) if x))
    return lines + [f"no loop for the {' and '.join(heat).replace('cpu', 'processor')}" for heat in old]


def _at(doc: JobDoc, place: RadiatorPlaceDoc) -> str:
    return f"{radiator_called(doc, place.radiator)} at {', '.join(m.upper() for m in place.mounts)}"


SIZES_OF_PANEL = ("width_mm", "height_mm", "gap_area_cm2", "turns_90", "insertion_loss_db")


def _panels(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[str]:
    """Lines such as ``front panel removed``, ``window panel: glass``: what a face has now, as far as it had something else."""
    lines = []
    for face in sorted({*before.panels, *after.panels}):
        own = next((p for p in doc.case.panels if p.face == face), None)
        was, now = (layout.panels.get(face, FITTED) for layout in (before, after))
        placed = [_placed(p) for p in (was, now)]
        had = _there(FITTED if was.state == "removed" else was, own)
        moved = f" {placed[1]}" if placed[0] != placed[1] else ""
        made = [x for x in _there(now, own) if x not in had]
        resized = now.state != "removed" and any(getattr(was, x) != getattr(now, x) for x in SIZES_OF_PANEL)
        made += ["of another size"] if resized and not made else []
        if moved or made:
            lines.append(f"{face} panel{moved}{': ' if made else ''}{', '.join(made)}")
    return lines


def panels_in_words(doc: JobDoc, layout: LayoutDoc) -> list[str]:
    """What a layout does to the case's panels."""
    return _panels(doc, layout.model_copy(update={"panels": {}}), layout)


def built_with(doc: JobDoc, layout: LayoutDoc) -> list[str]:
    """What of a layout is not as the case was delivered."""
    return [*panels_in_words(doc, layout), *(["on the open bench"] if layout.open_bench else [])]


def _placed(panel: PanelStateDoc) -> str:
    by = {"stood_off": (panel.stand_off_mm, " mm"), "angled": (panel.angle_deg, "°")}.get(panel.state)
    return panel.state.replace("_", " ") + (f" {by[0]:.0f}{by[1]}" if by and by[0] is not None else "")


def _there(panel: PanelStateDoc, own: PanelDoc | None) -> tuple[str, ...]:
    """What a panel is, where it is there at all: its own of the case but for what the layout says of it."""
    if panel.state == "removed":
        return ()
    kind, filtered = panel.kind or (own.kind if own else "panel"), panel.filter or (own.filter if own else "none")
    area = panel.open_area_pct if panel.open_area_pct is not None else own.open_area_pct if own else None
    return (
        kind,
        *((f"{area:.0f} % open",) if area is not None and kind in ("mesh", "slots") else ()),
        f"{filtered} filter" if filtered != "none" else "no filter",
        f"{panel.blocked_pct:.0f} % blocked" if panel.blocked_pct else "nothing blocked",
        *(("improvised",) if panel.improvised else ()),
    )


def _settings(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[Change]:
    found = []
    if before.open_bench != after.open_bench:
        found.append(Change("cooler", "on the open bench" if after.open_bench else "in the case"))
    if before.groups != after.groups:
        words = ", ".join(f"{g.name or g.id} {g.curve or f'{g.speed_pct:.0f} %'}" for g in after.groups) or "none"
        found.append(Change("speed", f"fan groups: {words}"))
    if before.obstructions != after.obstructions:
        blocked = ", ".join(f"{(o.mount or o.space or '').upper()} {o.blocked_pct:.0f} %" for o in after.obstructions) or "nothing"
        found.append(Change("panel", f"blocked: {blocked}"))
    for name, words in SETTINGS.items():
        was, now = getattr(before, name), getattr(after, name)
        if was != now:
            said = _part_name(doc, name, now if now is not None or name not in PART_LISTS else getattr(doc.base, name))
            found.append(Change(SETTING_KINDS.get(name, "setting"), f"{words}: {said}"))
    return found


def _part_name(doc: JobDoc, setting: str, value: object) -> object:
    """A part by its name for people; any other setting as it is."""
    if value is None:
        return "as in the job"
    parts = getattr(doc.parts, PART_LISTS[setting]) if setting in PART_LISTS else []
    return next((p.name for p in parts if p.id == value and p.name), value)
