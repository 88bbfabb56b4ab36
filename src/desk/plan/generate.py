"""Layouts made from a set of changes: ladder, one at a time, every combination, before and after, a bundle taken apart."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, Field

from desk.job.difference import difference_in_words
from desk.job.resolve import Resolver
from documents.job.base import FaceName
from documents.job.models import FanPlaceDoc, JobDoc, LayoutDoc, PanelStateDoc
from engine.coupled.operating_point import operating_point
from engine.errors import ImpossibleInputError
from engine.plan import designs

Design = Literal["ladder", "one_at_a_time", "factorial", "grid", "before_after", "bundle"]
FactorKind = Literal["fan", "flip", "unplug", "panel", "speed", "card_turned", "cooler_turned", "ways"]
FACES: tuple[FaceName, ...] = ("front", "top", "bottom", "window", "rear")
Apply = Callable[[LayoutDoc], None]
OWN = {"id", "name", "note", "parent", "accepted", "ready", "picture", "as_found", "wiring", "labour_min", "looks", "dust_access"}


class FactorIn(BaseModel):
    """One thing to change from the starting layout; ``at`` names a mount or a face, ``value`` what it becomes.

    fan: a fan at a mount, ``value`` its id (taken out where one stands); flip, unplug: the fan at a mount; panel: ``value``
    removed or fitted; speed: every case fan at ``value`` %; cooler_turned: ``value`` the direction; ways: the fans of the mounts
    ``at`` (comma between) intake, then exhaust; a grid takes several ``values`` of panel or speed.
    """

    kind: FactorKind
    at: str = ""
    value: str = ""
    values: list[str] = Field(default_factory=list)


@dataclass(frozen=True)
class Level:
    words: str
    apply: Apply


@dataclass(frozen=True)
class Generated:
    """``layouts`` that are new; ``order`` the ids of all layouts of the design; ``levels`` the words of each factor's levels."""

    layouts: list[LayoutDoc]
    order: list[str]
    levels: list[list[str]]


def generate(doc: JobDoc, design: Design, start: str, factors: Sequence[FactorIn], target: str | None = None) -> Generated:
    """The layouts a design needs; one that is there already is taken as it is. Raises ImpossibleInputError for what cannot be."""
    base = _layout(doc, start)
    if design in ("bundle", "before_after"):
        if target is None or target == start:
            raise ImpossibleInputError("there is nothing to compare with", "target", "Name another layout.")
        after = _layout(doc, target)
        if design == "before_after":
            return Generated([], [start, target], [[base.name or start, after.name or target]])
        levels = [[Level("as before", _nothing), x] for x in _parts_of(doc, base, after)]
        combos = designs.ladder(len(levels))
    else:
        levels = [_levels(doc, base, f, many=design == "grid") for f in factors]
        if design == "ladder":
            combos = designs.ladder(len(levels))
        elif design == "one_at_a_time":
            combos = designs.one_at_a_time(len(levels))
        else:
            combos = designs.grid([len(x) for x in levels])
    return _made(doc, base, levels, combos)


class Predicted(BaseModel):
    """What a change does by the forecast, in K; of several changes together, what they do beyond the sum of each alone."""

    words: list[str]
    cpu_k: float | None
    card_k: float | None


def predicted_effects(doc: JobDoc, made: Generated) -> list[Predicted]:
    """Main effects and interactions of a two-level design, from the forecast of every layout in it."""
    full = doc.model_copy(update={"layouts": [*doc.layouts, *made.layouts]})
    resolver = Resolver(full)
    points = [operating_point(resolver.machine(name)) for name in made.order]
    factors = len(made.levels)
    cpu = designs.effects([p.cpu_rise_k for p in points], factors)
    cards = [p.card_rise_k for p in points]
    card = designs.effects([c for c in cards if c is not None], factors) if all(c is not None for c in cards) else None
    return [
        Predicted(
            words=[made.levels[f][1] for f in e.factors],
            cpu_k=round(e.size, 2),
            card_k=None if card is None else round(card[i].size, 2),
        )
        for i, e in enumerate(cpu)
    ]


def _nothing(_layout: LayoutDoc) -> None:
    return None


def _layout(doc: JobDoc, name: str) -> LayoutDoc:
    found = next((x for x in doc.layouts if x.id == name), None)
    if found is None:
        raise ImpossibleInputError(f"there is no layout {name!r}", "start", "Choose one of the rack.")
    return found


def _made(doc: JobDoc, base: LayoutDoc, levels: list[list[Level]], combos: list[tuple[int, ...]]) -> Generated:
    known = {_content(x): x.id for x in doc.layouts}
    used, made, order = {x.id for x in doc.layouts}, [], []
    for combo in combos:
        own = base.model_copy(deep=True)
        for factor, level in zip(levels, combo, strict=True):
            factor[level].apply(own)
        content = _content(own)
        if content not in known:
            own.id = known[content] = _free(used)
            used.add(own.id)
            own.parent, own.accepted, own.ready = base.id, [], False
            own.name = ("; ".join(difference_in_words(doc, base, own)) or "the same")[:80]
            made.append(own)
        order.append(known[content])
    return Generated(made, order, [[x.words for x in factor] for factor in levels])


def _content(layout: LayoutDoc) -> str:
    own = layout.model_copy(update={"fans": sorted(layout.fans, key=lambda f: (f.mount, f.layer))})
    return own.model_dump_json(exclude=OWN)


def _free(used: set[str]) -> str:
    letters = [chr(c) for c in range(65, 91)]
    return next((x for x in (*letters, *(a + b for a in letters for b in letters)) if x not in used), f"L{len(used)}")


def _levels(doc: JobDoc, base: LayoutDoc, factor: FactorIn, many: bool) -> list[Level]:
    """As it is, then changed; in a grid one level for each value."""
    if factor.kind == "ways":
        mounts = {m.strip() for m in factor.at.split(",") if m.strip()}
        return [Level(f"{factor.at.upper()} {way}", _ways(base, mounts, way)) for way in ("intake", "exhaust")]
    if many and factor.values:
        changed = [FactorIn(kind=factor.kind, at=factor.at, value=v) for v in factor.values]
        return [Level(f"{factor.at or factor.kind} {f.value}", _change(doc, base, f).apply) for f in changed]
    return [Level("as it is", _nothing), _change(doc, base, factor)]


def _fan_at(layout: LayoutDoc, mount: str) -> FanPlaceDoc:
    found = next((f for f in layout.fans if f.mount == mount), None)
    if found is None:
        raise ImpossibleInputError(f"no fan stands at {mount.upper()}", "factors", f"Choose a mount with a fan in layout {layout.id}.")
    return found


def _ways(base: LayoutDoc, mounts: set[str], way: Literal["intake", "exhaust"]) -> Apply:
    for mount in mounts:
        _fan_at(base, mount)

    def apply(own: LayoutDoc) -> None:
        for fan in own.fans:
            if fan.mount in mounts:
                fan.direction = way

    return apply


def _change(doc: JobDoc, base: LayoutDoc, factor: FactorIn) -> Level:
    at, value = factor.at, factor.value
    name = at.upper()
    if factor.kind == "fan":
        stands = any(f.mount == at for f in base.fans)
        mount = next((m for m in doc.case.mounts if m.id == at), None)
        fan = value or (doc.parts.fans[0].id if doc.parts.fans else "")
        if mount is None or not fan:
            raise ImpossibleInputError(f"there is no mount {at!r}, or no fan on hand", "factors", "Choose a mount and a fan.")

        way, speed_pct = mount.usual_way, base.fans[0].speed_pct if base.fans else 100

        def fan_change(own: LayoutDoc) -> None:
            own.fans = [f for f in own.fans if f.mount != at]
            if not stands:
                own.fans.append(FanPlaceDoc(mount=at, fan=fan, direction=way, speed_pct=speed_pct))

        return Level(f"{name} taken out" if stands else f"a fan at {name}", fan_change)
    if factor.kind == "flip":
        turned: Literal["intake", "exhaust"] = "exhaust" if _fan_at(base, at).direction == "intake" else "intake"
        return Level(f"{name} flipped", lambda own: setattr(_fan_at(own, at), "direction", turned))
    if factor.kind == "unplug":
        _fan_at(base, at)
        return Level(f"{name} unplugged", lambda own: setattr(_fan_at(own, at), "state", "unplugged"))
    if factor.kind == "panel":
        return _panel(doc, at, value or "removed")
    if factor.kind == "speed":
        speed = _number(value)

        def all_speeds(own: LayoutDoc) -> None:
            for f in own.fans:
                f.speed_pct, f.curve, f.group = speed, None, None

        return Level(f"case fans at {speed:g} %", all_speeds)
    if factor.kind == "card_turned":
        other = "upright" if base.card_orientation == "flat" else "flat"
        return Level(f"card {other}", lambda own: setattr(own, "card_orientation", other))
    if value not in ("rear", "up", "front", "toward", "away"):
        raise ImpossibleInputError(f"a cooler cannot blow {value!r}", "factors", "Choose rear, up, front, toward or away.")
    return Level(f"cooler {value}", lambda own: setattr(own, "cooler_direction", value))


def _panel(doc: JobDoc, at: str, state: str) -> Level:
    face = next((f for f in FACES if f == at), None)
    if face is None or state not in ("removed", "fitted"):
        raise ImpossibleInputError(f"there is no panel {at!r} to be {state!r}", "factors", "Choose a face, and removed or fitted.")

    def apply(own: LayoutDoc) -> None:
        if state == "removed":
            own.panels = {**own.panels, face: PanelStateDoc(state="removed")}
        else:
            own.panels = {k: v for k, v in own.panels.items() if k != face}

    return Level(f"{face} panel {'off' if state == 'removed' else 'fitted'}", apply)


def _number(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not 0 <= value <= 100:
        raise ImpossibleInputError(f"{text!r} is no speed", "factors", "Give a number from 0 to 100 %.")
    return value


def _parts_of(doc: JobDoc, before: LayoutDoc, after: LayoutDoc) -> list[Level]:
    """The changes between two layouts, each to be made alone; a moved fan is one, a loop with its cooler is one."""
    found: list[Level] = []
    old, new = ({(f.mount, f.layer): f for f in x.fans} for x in (before, after))
    gone, come = [k for k in old if k not in new], [k for k in new if k not in old]
    for key in list(gone):
        twin = next((c for c in come if new[c].fan == old[key].fan), None)
        if twin:
            come.remove(twin)
        found.append(
            _fan_part(f"{key[0].upper()} to {twin[0].upper()}" if twin else f"{key[0].upper()} out", key, new[twin] if twin else None)
        )
    found += [_fan_part(f"a fan at {key[0].upper()}", None, new[key]) for key in come]
    found += [_fan_part(f"{k[0].upper()} changed", k, new[k]) for k in old if k in new and new[k] != old[k]]
    loop = ("radiator", "loops", "cooler")
    if any(getattr(before, n) != getattr(after, n) for n in loop):
        found.append(_field_part("loop and cooler", loop, after))
    faces = [face for face in sorted({*before.panels, *after.panels}) if before.panels.get(face) != after.panels.get(face)]
    found += [_panel_part(face, after) for face in faces]
    rest = [n for n in LayoutDoc.model_fields if n not in OWN and n not in ("fans", "panels", *loop)]
    found += [_field_part(n.replace("_", " "), (n,), after) for n in rest if getattr(before, n) != getattr(after, n)]
    if not found:
        raise ImpossibleInputError("these layouts do not differ", "target", "Choose another layout.")
    return found


def _fan_part(words: str, key: tuple[str, str] | None, place: FanPlaceDoc | None) -> Level:
    def apply(own: LayoutDoc) -> None:
        own.fans = [f for f in own.fans if (f.mount, f.layer) != key]
        if place:
            own.fans.append(place.model_copy(deep=True))

    return Level(words, apply)


def _field_part(words: str, names: Sequence[str], after: LayoutDoc) -> Level:
    def apply(own: LayoutDoc) -> None:
        for name in names:
            setattr(own, name, getattr(after, name))

    return Level(words, apply)


def _panel_part(face: FaceName, after: LayoutDoc) -> Level:
    def apply(own: LayoutDoc) -> None:
        own.panels = {k: v for k, v in own.panels.items() if k != face}
        if face in after.panels:
            own.panels[face] = after.panels[face]

    return Level(f"{face} panel", apply)
