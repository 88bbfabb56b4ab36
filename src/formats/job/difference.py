"""How a layout differs from the one it was made from, in words: one line per thing that was done."""

from collections import Counter
from collections.abc import Mapping

from formats.job.models import FanPlaceDoc, JobDoc, LayoutDoc, RadiatorPlaceDoc

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
    """Lines such as ``moved 2 × 120 from front to top``, ``flipped R1``, ``T1 from 80 to 60 %``; none where nothing differs."""
    return [*_fans(doc, before, after), *_radiator(before, after), *_panels(before, after), *_settings(before, after)]


def _fans(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[str]:
    old, new = ({(f.mount, f.layer): f for f in x.fans} for x in (before, after))
    faces = {m.id: m.face for m in doc.case.mounts}
    sizes = {f.id: f.size_mm for f in doc.parts.fans}
    gone = [old[k] for k in old if k not in new]
    come = [new[k] for k in new if k not in old]
    lines = []
    moves: Counter[tuple[float, str, str]] = Counter()
    for place in list(gone):
        twin = next((c for c in come if c.fan == place.fan), None)
        if twin:
            gone.remove(place)
            come.remove(twin)
            moves[sizes.get(place.fan, 0), _where(place, faces), _where(twin, faces)] += 1
    for (size, start, end), count in moves.items():
        lines.append(f"moved {count} × {size:.0f} from {start} to {end}")
    lines += [f"took {f.mount.upper()} out" for f in gone]
    lines += [f"put {sizes.get(f.fan, 0):.0f} at {f.mount.upper()}, {'in' if f.direction == 'intake' else 'out'}" for f in come]
    for key, was in old.items():
        now = new.get(key)
        if now is None:
            continue
        name = was.mount.upper()
        if now.direction != was.direction:
            lines.append(f"flipped {name}")
        if now.fan != was.fan:
            lines.append(f"another fan at {name}")
        if now.state != was.state:
            lines.append(f"{'plugged' if now.state == 'running' else 'unplugged'} {name}")
        if now.group != was.group:
            lines.append(f"{name} {'in ' + now.group if now.group else 'by itself'}")
        if now.curve != was.curve:
            lines.append(f"{name} {'follows ' + now.curve if now.curve else 'at a fixed speed'}")
        elif now.speed_pct != was.speed_pct and not now.curve:
            lines.append(f"{name} from {was.speed_pct:.0f} to {now.speed_pct:.0f} %")
    return lines


def _where(place: FanPlaceDoc, faces: Mapping[str, str]) -> str:
    return faces.get(place.mount, place.mount)


def _radiator(before: LayoutDoc, after: LayoutDoc) -> list[str]:
    if before.radiator == after.radiator and before.loops == after.loops:
        return []
    if after.radiator is None and not after.loops:
        return ["radiator out"]
    if not after.loops:
        return [_at(p) for p in (after.radiator,) if p]
    old = {tuple(sorted(loop.heat)): loop for loop in before.loops or []}
    lines = []
    for loop in after.loops:
        was = old.pop(tuple(sorted(loop.heat)), None)
        words = " and ".join({"cpu": "processor", "card": "card"}[h] for h in loop.heat)
        if was is None:
            lines.append(f"a loop for the {words}: " + "; ".join(_at(p) for p in loop.radiators))
        elif was != loop:
            pump = f"pump at {loop.pump_pct:.0f} %" if was.pump_pct != loop.pump_pct else ""
            moved = [_at(p) for p in loop.radiators if p not in was.radiators]
            lines.append(f"loop of the {words}: " + "; ".join(x for x in (*moved, pump) if x))
    return lines + [f"no loop for the {' and '.join(heat).replace('cpu', 'processor')}" for heat in old]


def _at(place: RadiatorPlaceDoc) -> str:
    return f"radiator {place.radiator} at {', '.join(m.upper() for m in place.mounts)}"


def _panels(before: LayoutDoc, after: LayoutDoc) -> list[str]:
    lines = []
    for face in sorted({*before.panels, *after.panels}):
        was, now = before.panels.get(face), after.panels.get(face)
        if was != now:
            lines.append(f"{face} panel {(now.state if now else 'fitted').replace('_', ' ')}")
    return lines


def _settings(before: LayoutDoc, after: LayoutDoc) -> list[str]:
    found = []
    if before.open_bench != after.open_bench:
        found.append("on the open bench" if after.open_bench else "in the case")
    if before.groups != after.groups:
        found.append("fan groups: " + (", ".join(f"{g.name or g.id} {g.curve or f'{g.speed_pct:.0f} %'}" for g in after.groups) or "none"))
    for name, words in SETTINGS.items():
        was, now = getattr(before, name), getattr(after, name)
        if was != now:
            found.append(f"{words}: {now if now is not None else 'as in the job'}")
    return found
