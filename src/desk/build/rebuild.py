"""A rebuild: what changes between two layouts, what is in the way of it, and in which order it comes out."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from desk.build.making import Making, Sheet, part_caution, part_minutes, slug
from documents.job.models import LayoutDoc
from engine.fit.assembly import Assembly, Before


@dataclass(frozen=True)
class Touched:
    """Parts of a rebuild: what changes, and what comes out and goes back only because it is in the way, with the demand it stands for."""

    gone: tuple[str, ...]
    come: tuple[str, ...]
    in_the_way: Mapping[str, Before]

    @property
    def anything(self) -> bool:
        return bool(self.gone or self.come)

    @property
    def moves_loop(self) -> bool:
        return any(x.startswith("radiator") or x == "cooler" for x in (*self.gone, *self.come, *self.in_the_way))


def touched_by(m: Making, order: Assembly, before: Assembly) -> Touched:
    assert m.start is not None
    old, new = _parts(m, m.start, before), _parts(m, m.layout, order)
    gone = tuple(x for x in before.order if old.get(x) != new.get(x))
    come = tuple(x for x in order.order if old.get(x) != new.get(x))
    way: dict[str, Before] = {}
    for assembled, parts in ((before, gone), (order, come)):
        for part in parts:
            for d in _behind(part, assembled.demands):
                if d.second in old and d.second not in gone:
                    way.setdefault(d.second, d)
    return Touched(gone, come, way)


def _behind(part: str, demands: Sequence[Before]) -> Iterator[Before]:
    """Demands by which other parts stand in the way of one, near ones first."""
    seen, todo = {part}, [part]
    while todo:
        here = todo.pop(0)
        for d in demands:
            if d.first == here and d.second not in seen:
                seen.add(d.second)
                todo.append(d.second)
                yield d


def _parts(m: Making, layout: LayoutDoc, order: Assembly) -> dict[str, object]:
    """By the name of a part what it is and how it stands: two layouts share the part where these are equal."""
    r = m.resolver
    found: dict[str, object] = {}
    for name in order.order:
        if name.startswith("fan at "):
            mount = name.removeprefix("fan at ").lower()
            found[name] = sorted((f.layer, f.fan, f.direction) for f in layout.fans if f.mount.lower() == mount)
        elif name.startswith("radiator at "):
            mounts = [x.lower() for x in name.removeprefix("radiator at ").split(", ")]
            place = next(p for loop in r.loops(layout) for p in loop.radiators if [x.lower() for x in p.mounts] == mounts)
            fans = sorted((f.mount, f.layer, f.fan, f.direction) for f in layout.fans if f.mount in place.mounts)
            found[name] = (place.model_dump_json(), fans)
        elif name == "cooler":
            own = ("cooler", "cooler_fan", "cooler_fans", "cooler_fan_side", "cooler_fan_lift_mm", "cooler_direction")
            found[name] = [r.setting(layout, x) if hasattr(r.doc.base, x) else getattr(layout, x) for x in own]
        elif name == "card":
            found[name] = (r.setting(layout, "card"), layout.card_orientation)
        else:
            found[name] = r.setting(layout, {"power supply": "supply"}.get(name, name))
    return found


def take_out(m: Making, sheet: Sheet, before: Assembly, touched: Touched, safe: str) -> dict[str, str]:
    """Steps by part, in the reverse of the order in which they went in."""
    done: dict[str, str] = {}
    leaving = {*touched.gone, *touched.in_the_way}
    for name in reversed(before.order):
        if name not in leaving:
            continue
        waits = [done[d.second] for d in before.demands if d.first == name and d.second in done]
        why = touched.in_the_way.get(name)
        back = f"It is in the way of {why.first}: {why.why}. It goes back as it was." if why else ""
        details = [back]
        if name == "cooler":
            details += ["Warm it first under a light load: cold paste holds fast.", "Turn it a little, then lift; clean both faces."]
        done[name] = sheet.add(
            f"out_{slug(name)}",
            "out",
            f"Take out the {name}" if not name.startswith("fan") else f"Take out the {name}, its lead first",
            part_minutes(m, name, out=True),
            [safe, *waits],
            details,
            caution=part_caution(name, m, out=True),
        )
    return done
