"""The clearance ledger of a layout, from a job document."""

from collections.abc import Iterator

from pydantic import BaseModel, ConfigDict

from desk.job.resolve import Resolver
from desk.together.assembly import assembly_of
from documents.job.case import CaseDoc, DimensionDoc, ExclusionDoc
from documents.job.models import CoolerDoc, JobDoc, LayoutDoc, RadiatorPlaceDoc
from engine.findings.finding import Finding
from engine.fit.assembly import Assembly, Before
from engine.fit.ledger import (
    SOURCE_TOLERANCE_MM,
    Exclusion,
    FanBox,
    Fitting,
    Line,
    Loss,
    MountBox,
    RadiatorBox,
    RailBox,
    crossed_fans,
    ledger,
    upright,
)
from engine.loop.heights import SIDES, tube_side
from engine.machine import Point


class LineOut(BaseModel):
    """A line of the ledger as it is shown; lengths in mm."""

    model_config = ConfigDict(from_attributes=True)

    code: str
    what: str
    mounts: tuple[str, ...]
    required_mm: float
    available_mm: float
    spare_mm: float
    worst_mm: float
    verdict: str
    parts: str


class LossOut(BaseModel):
    """A slot or drive place that a layout costs."""

    model_config = ConfigDict(from_attributes=True)

    what: str
    mount: str
    occupied: bool


class ExclusionOut(BaseModel):
    """Families of parts that shut each other out in this case."""

    model_config = ConfigDict(from_attributes=True)

    chosen: str
    ruled_out: str
    mounts: tuple[str, ...]
    why: str


class BeforeOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    first: str
    second: str
    why: str


class AssemblyOut(BaseModel):
    """An order in which the parts can go in, or the demands that bite each other."""

    model_config = ConfigDict(from_attributes=True)

    order: tuple[str, ...]
    demands: tuple[BeforeOut, ...]
    ring: tuple[BeforeOut, ...]


class WantedOut(BaseModel):
    """A figure for want of which something is not checked: of the case, or of the cooler that is named, with the range it can have."""

    cooler: str | None = None
    path: str
    words: str
    low_mm: float
    high_mm: float
    note: str = ""


class LedgerOut(BaseModel):
    """Every constraint of one layout, tightest first, and what could not be checked for want of a figure."""

    layout: str
    lines: list[LineOut]
    not_checked: list[str]
    wanted: list[WantedOut]  # the same, to be asked for
    losses: list[LossOut]
    exclusions: list[ExclusionOut]
    assembly: AssemblyOut
    fit_to_build: bool  # nothing fails that the person has not accepted with a reason


def ledger_of(doc: JobDoc, layout_id: str) -> LedgerOut:
    resolver = Resolver(doc)
    layout = resolver.layout(layout_id)
    fitting = _fitting(resolver, layout)
    found = ledger(fitting)
    waived = {(a.code, frozenset(a.mounts)) for a in layout.accepted}
    wanted = list(_wanted(fitting, resolver.cpu_cooler(layout)))
    graves = [f for f in _findings(resolver, layout, fitting, found) if f.severity == "error"]
    return LedgerOut(
        layout=layout_id,
        lines=[LineOut.model_validate(x) for x in found],
        not_checked=[_in_words(x) for x in wanted],
        wanted=wanted,
        losses=[LossOut.model_validate(x) for x in losses(resolver, layout)],
        exclusions=[ExclusionOut.model_validate(x) for x in exclusions(resolver, layout)],
        assembly=AssemblyOut.model_validate(assembly_of(resolver, layout, found)),
        fit_to_build=all({(f.code, frozenset(f.mounts)), (f.code, frozenset())} & waived for f in graves),
    )


def assembly_in(resolver: Resolver, layout: LayoutDoc) -> Assembly:
    """The order in which the layout's parts can go in."""
    return assembly_of(resolver, layout, ledger(_fitting(resolver, layout)))


def fit_findings(resolver: Resolver, layout_id: str) -> list[Finding]:
    """What does not fit, only touches, is shut out, crossed or lost, as findings."""
    layout = resolver.layout(layout_id)
    fitting = _fitting(resolver, layout)
    return _findings(resolver, layout, fitting, ledger(fitting))


def _findings(resolver: Resolver, layout: LayoutDoc, fitting: Fitting, lines: list[Line]) -> list[Finding]:
    card = resolver.part(layout, "card", "cards")
    return [
        *_line_findings(lines, card.plug_mm or 0.0 if card else 0.0),
        *(_exclusion_finding(x) for x in exclusions(resolver, layout)),
        *(_crossing_finding(radiator, fan) for radiator, fan in crossed_fans(fitting)),
        *_side_findings(fitting),
        *(_loss_finding(x) for x in losses(resolver, layout)),
        *_order_findings(assembly_of(resolver, layout, lines).ring),
    ]


def _order_findings(ring: tuple[Before, ...]) -> list[Finding]:
    if not ring:
        return []
    words = "; ".join(f"{d.first} before {d.second}, since {d.why}" for d in ring)
    return [
        Finding(
            code="no_assembly_order",
            severity="error",
            kind="practice",
            mounts=(),
            what="There is no order in which these parts go in",
            because=f"The demands bite each other: {words}.",
            do="Choose another part or place for one of them, or another way to reach it.",
        )
    ]


def _exclusion_finding(x: Exclusion) -> Finding:
    return Finding(
        code="family_excluded",
        severity="error",
        kind="physics",
        mounts=x.mounts,
        what=f"{x.chosen.capitalize()} rules out {x.ruled_out}",
        because=f"The case's own record says: {x.why.rstrip('.')}.",
        do="Choose one of the two; the other goes elsewhere or stays out.",
    )


def _crossing_finding(radiator: tuple[str, ...], fan: str) -> Finding:
    return Finding(
        code="tube_crosses_fan",
        severity="warning",
        kind="practice",
        mounts=(*radiator, fan),
        what=f"The tubes pass before the fan at {fan.upper()}",
        because="The straight way from the barbs to the block crosses that fan's frame; a tube in the blades stops it or is cut.",
        do="Lead the tubes round it and tie them, or let them leave the radiator at another end.",
    )


def _side_findings(fitting: Fitting) -> Iterator[Finding]:
    """A side that a radiator does not have as it stands: what it is taken for is said."""
    for r in fitting.radiators:
        stands = upright(fitting, r)
        taken = tube_side(r.tubes, stands)
        if r.tubes and r.tubes != taken:
            yield Finding(
                code="tube_side",
                severity="note",
                kind="physics",
                mounts=r.mounts,
                what=f"The radiator has no {r.tubes} at which tubes could leave",
                because=f"{'It stands upright' if stands else 'Its ends lie at one height'}: tubes leave at its "
                f"{' or '.join(SIDES[stands])}; the {taken} is reckoned with.",
                do="Say under cooler, loops, panels where they leave.",
            )


def _loss_finding(x: Loss) -> Finding:
    return Finding(
        code="place_lost",
        severity="warning" if x.occupied else "note",
        kind="physics",
        mounts=(x.mount,),
        what=f"{x.mount.upper()} costs {x.what}" + (", which is in use" if x.occupied else ""),
        because="The case's own record says that what stands there takes its place.",
        do="Move what is in it, or leave the mount empty." if x.occupied else "Nothing, unless you want to use it later.",
    )


def losses(resolver: Resolver, layout: LayoutDoc) -> list[Loss]:
    """Slots and drive places that the layout's fans and radiators cost."""
    doc = resolver.doc
    standing = {p.mount for p in layout.fans} | {m for place in _places(resolver, layout) for m in place.mounts}
    found = []
    for mount in doc.case.mounts:
        if mount.id not in standing:
            continue
        for n in range(1, mount.takes_slots + 1):
            found.append(Loss(f"expansion slot {n} from below", mount.id, n in doc.case.slots_in_use))
        for drive in doc.case.drives:
            if drive.id in mount.takes_drives:
                found.append(Loss(f"the drive place {drive.name or drive.id}", mount.id, drive.in_use))
    return found


def exclusions(resolver: Resolver, layout: LayoutDoc) -> list[Exclusion]:
    """Families of parts of which this layout has both sides."""
    return [x for rule in resolver.doc.case.exclusions for x in _excluded(resolver, layout, rule)]


def _excluded(resolver: Resolver, layout: LayoutDoc, rule: ExclusionDoc) -> list[Exclusion]:
    doc = resolver.doc
    cooled = {m for place in _places(resolver, layout) for m in place.mounts}
    fanned = {p.mount for p in layout.fans}
    card = resolver.part(layout, "card", "cards")
    cooler = resolver.cpu_cooler(layout)
    supply = resolver.part(layout, "supply", "supplies")
    size = {"card": getattr(card, "length_mm", 0.0), "slots": getattr(card, "slots", 0.0)}
    size |= {"cooler": getattr(cooler, "height_mm", None) or 0.0, "supply": getattr(supply, "length_mm", 0.0)}
    w, out = rule.when, rule.rules_out
    limits = (
        (w.card_longer_than_mm, size["card"], "a card longer than {:.0f} mm"),
        (w.card_slots_over, size["slots"], "a card of more than {:g} slots"),
        (w.cooler_higher_than_mm, size["cooler"], "a cooler higher than {:.0f} mm"),
        (w.supply_longer_than_mm, size["supply"], "a power supply longer than {:.0f} mm"),
    )
    if any(limit is not None and value <= limit for limit, value, _ in limits):
        return []
    if (w.radiator_on and not cooled & set(w.radiator_on)) or (w.fan_on and not fanned & set(w.fan_on)):
        return []
    chosen = [words.format(limit) for limit, _, words in limits if limit is not None]
    chosen += [f"a radiator at {', '.join(sorted(m.upper() for m in cooled & set(w.radiator_on)))}"] if w.radiator_on else []
    chosen += [f"a fan at {', '.join(sorted(m.upper() for m in fanned & set(w.fan_on)))}"] if w.fan_on else []
    ruled = []
    for what, there in (("a radiator", cooled & set(out.radiators_on)), ("a fan", fanned & set(out.fans_on))):
        if there:
            ruled.append((f"{what} at {', '.join(sorted(m.upper() for m in there))}", tuple(sorted(there))))
    ruled += [(f"the drive place {d.name or d.id}", ()) for d in doc.case.drives if d.id in out.drives and d.in_use]
    if out.card_longer_than_mm is not None and size["card"] > out.card_longer_than_mm:
        ruled.append((f"a card longer than {out.card_longer_than_mm:.0f} mm", ()))
    if out.supply_longer_than_mm is not None and size["supply"] > out.supply_longer_than_mm:
        ruled.append((f"a power supply longer than {out.supply_longer_than_mm:.0f} mm", ()))
    return [Exclusion(" and ".join(chosen), words, mounts, rule.why) for words, mounts in ruled]


def _places(resolver: Resolver, layout: LayoutDoc) -> list[RadiatorPlaceDoc]:
    return [place for loop in resolver.loops(layout) for place in loop.radiators]


def _line_findings(lines: list[Line], plug_mm: float) -> list[Finding]:
    found = []
    for x in lines:
        if x.verdict == "fits":
            continue
        bad = x.verdict == "does_not_fit"
        found.append(
            Finding(
                code="does_not_fit" if bad else "zero_margin",
                severity="error" if bad else "warning",
                kind="physics",
                mounts=x.mounts,
                what=f"{x.what}: {'does not fit' if bad else 'touches'}",
                because=f"{x.required_mm:.0f} mm are needed ({x.parts}), {x.available_mm:.0f} mm are there: {x.spare_mm:+.0f} mm.",
                do=_remedy(x, plug_mm) if bad else "Measure it on the machine; note that it touches, if it may.",
            )
        )
    return found


def _remedy(x: Line, plug_mm: float) -> str:
    """A card that fits but for its plug wants another plug, not another card."""
    if x.code == "card_width" and 0 < -x.spare_mm < plug_mm:
        left = plug_mm + x.spare_mm
        return f"A plug or adapter with a right angle that needs less than {left:.0f} mm; the card's maker says which may be used."
    return "Choose another part or place."


def _wanted(f: Fitting, cooler: CoolerDoc | None) -> Iterator[WantedOut]:
    if f.card_length_mm is not None and f.card_limit_mm is None:
        note = "the card is held against the inside of the case alone"
        yield WantedOut(path="limits_mm.card_length", words="Longest card the case takes", low_mm=50, high_mm=1000, note=note)
    if cooler and f.cooler_height_mm is None and not f.radiators:
        yield WantedOut(cooler=cooler.id, path="height_mm", words="Height of the cooler, fan included", low_mm=20, high_mm=400)
    elif f.cooler_height_mm is not None and f.cooler_limit_mm is None:
        yield WantedOut(path="limits_mm.cooler_height", words="Tallest cooler the case takes", low_mm=20, high_mm=400)
    if f.memory_to_top_mm is None and any(m.face == "top" for m in f.mounts.values()):
        yield WantedOut(path="limits_mm.memory_to_top", words="From the memory to the top mounts", low_mm=5, high_mm=300)


def _in_words(x: WantedOut) -> str:
    of = f"the cooler's {x.path}" if x.cooler else x.path
    return f"{of}: {x.note}" if x.note else of


def _fitting(resolver: Resolver, layout: LayoutDoc) -> Fitting:
    case = resolver.doc.case
    machine = resolver.machine(layout.id)
    card = resolver.part(layout, "card", "cards")
    fans = resolver.parts["fans"]
    cooler = resolver.cpu_cooler(layout)
    places = [(place, resolver.parts["coolers"].get(loop.cooler)) for loop in resolver.loops(layout) for place in loop.radiators]
    return Fitting(
        depth_mm=case.inner_mm.depth,
        cpu_x_mm=machine.cpu_x_mm,
        cpu_z_mm=machine.cpu_z_mm,
        card_height_mm=machine.card_height_mm,
        mounts={
            m.id: MountBox(m.id, m.face, at.x, at.y, at.z, tuple(m.sizes_mm), m.depth_mm, _beside_card(case, at, machine.card_height_mm))
            for m in case.mounts
            for at in (machine.mounts[m.id].centre_mm,)
        },
        rails=tuple(RailBox(r.id, tuple(r.mounts), tuple(r.radiators_mm), r.depth_mm, r.length_mm) for r in case.rails),
        fans=tuple(FanBox(p.mount, fans[p.fan].size_mm, fans[p.fan].thickness_mm) for p in layout.fans),
        radiators=tuple(_radiator(resolver, place, owner) for place, owner in places),
        card_length_mm=machine.card.length_mm if machine.card else None,
        card_limit_mm=case.limits_mm.card_length,
        cooler_height_mm=getattr(cooler, "height_mm", None),
        cooler_limit_mm=case.limits_mm.cooler_height,
        tower=cooler is not None and cooler.kind == "tower",
        memory_to_top_mm=case.limits_mm.memory_to_top,
        width_mm=case.inner_mm.width,
        loose_mm={path: _loose(d) for path, d in case.dimensions.items()},
        memory_height_mm=getattr(resolver.part(layout, "memory", "memory"), "height_mm", None),
        memory_clear_mm=getattr(cooler, "memory_clear_mm", None),
        fan_lift_mm=layout.cooler_fan_lift_mm,
        pipes_behind_mm=getattr(cooler, "pipes_behind_mm", None) or 0.0,
        card_width_mm=card.width_mm + (card.plug_mm or 0.0) if card and card.width_mm is not None else None,
        card_width_limit_mm=case.limits_mm.card_width,
        card_slots=card.slots if card else None,
        card_slots_limit=_slots_left(resolver, layout),
        supply_length_mm=getattr(resolver.part(layout, "supply", "supplies"), "length_mm", None),
        supply_limit_mm=case.limits_mm.supply_length,
        shroud_mm=case.shroud.height_mm if case.shroud else None,
        shroud_mounts=frozenset(m.id for m in case.mounts if m.on_shroud),
        height_mm=case.inner_mm.height,
        front_back=machine.front_back,
        rear_back=machine.rear_back,
    )


def _beside_card(case: CaseDoc, at: Point, card_height_mm: float) -> bool:
    """Whether a place lies in the chamber of the card: behind the tray, or under the wall, where it has one of its own."""
    if case.card_chamber != "separate":
        return True
    return at.y < case.card_side_mm if case.card_side_mm else at.z < card_height_mm


def _loose(d: DimensionDoc) -> float:
    return SOURCE_TOLERANCE_MM[d.source] if d.tolerance_mm is None else d.tolerance_mm


def _slots_left(resolver: Resolver, layout: LayoutDoc) -> float | None:
    """Slots that the card may take: the stated limit, or the case's slots less those that fans cost."""
    doc = resolver.doc
    lost = sum(1 for x in losses(resolver, layout) if x.what.startswith("expansion slot"))
    most = doc.case.limits_mm.card_slots
    if doc.case.slots is None:
        return most
    left = float(doc.case.slots - lost)
    return left if most is None else min(most, left)


def _radiator(resolver: Resolver, place: RadiatorPlaceDoc, owner: CoolerDoc | None) -> RadiatorBox:
    part = resolver.parts["radiators"][place.radiator]
    nominal = part.sections * part.section_mm
    length = part.length_mm or nominal + 2 * part.end_tank_mm
    tube_mm = owner.tube_mm if owner and owner.kind == "sealed" else None  # tubes of an open loop are cut to length
    return RadiatorBox(
        place.radiator,
        tuple(place.mounts),
        length,
        part.thickness_mm,
        nominal,
        place.gap_mm,
        place.tubes if "tubes" in place.model_fields_set else "",
        tube_mm,
        part.tank_height_mm,
        owner.tube_bend_mm if owner else None,
    )
