"""The clearance ledger of a layout, from a job document."""

from pydantic import BaseModel, ConfigDict

from engine.findings.finding import Finding
from engine.fit.ledger import FanBox, Fitting, Line, MountBox, RadiatorBox, RailBox, ledger
from formats.job.models import JobDoc, LayoutDoc, LoopDoc, RadiatorPlaceDoc
from formats.job.resolve import Resolver


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


class LedgerOut(BaseModel):
    """Every constraint of one layout, tightest first, and what could not be checked for want of a figure."""

    layout: str
    lines: list[LineOut]
    not_checked: list[str]


def fit_lines(resolver: Resolver, layout_id: str) -> list[Line]:
    return ledger(_fitting(resolver, resolver.layout(layout_id)))


def ledger_of(doc: JobDoc, layout_id: str) -> LedgerOut:
    resolver = Resolver(doc)
    fitting = _fitting(resolver, resolver.layout(layout_id))
    lines = [LineOut.model_validate(x) for x in ledger(fitting)]
    return LedgerOut(layout=layout_id, lines=lines, not_checked=_not_checked(fitting))


def fit_findings(lines: list[Line]) -> list[Finding]:
    """Lines that do not fit or only touch, as findings."""
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
                do="Choose another part or place." if bad else "Measure it on the machine; note that it touches, if it may.",
            )
        )
    return found


def _not_checked(f: Fitting) -> list[str]:
    missing = []
    if f.card_length_mm is not None and f.card_limit_mm is None:
        missing.append("limits_mm.card_length: the card is held against the inside of the case alone")
    if f.cooler_height_mm is None and not f.radiators:
        missing.append("the cooler's height_mm")
    elif f.cooler_height_mm is not None and f.cooler_limit_mm is None:
        missing.append("limits_mm.cooler_height")
    if f.memory_to_top_mm is None and any(m.face == "top" for m in f.mounts.values()):
        missing.append("limits_mm.memory_to_top")
    return missing


def _fitting(resolver: Resolver, layout: LayoutDoc) -> Fitting:
    doc, case = resolver.doc, resolver.doc.case
    machine = resolver.machine(layout.id)
    fans = resolver.parts["fans"]
    cooler = resolver.parts["coolers"].get(layout.cooler or doc.base.cooler or "")
    loops = list(layout.loops or [])
    if not loops and cooler and layout.radiator:
        loops = [LoopDoc(cooler=cooler.id, radiators=[layout.radiator])]
    places = [(place, resolver.parts["coolers"].get(loop.cooler)) for loop in loops for place in loop.radiators]
    return Fitting(
        depth_mm=case.inner_mm.depth,
        cpu_x_mm=machine.cpu_x_mm,
        cpu_z_mm=machine.cpu_z_mm,
        card_height_mm=machine.card_height_mm,
        mounts={
            m.id: MountBox(m.id, m.face, m.centre_mm.x, m.centre_mm.y, m.centre_mm.z, tuple(m.sizes_mm), m.depth_mm) for m in case.mounts
        },
        rails=tuple(RailBox(r.id, tuple(r.mounts), tuple(r.radiators_mm), r.depth_mm, r.length_mm) for r in case.rails),
        fans=tuple(FanBox(p.mount, fans[p.fan].size_mm, fans[p.fan].thickness_mm) for p in layout.fans),
        radiators=tuple(_radiator(resolver, place, getattr(owner, "tube_mm", None)) for place, owner in places),
        card_length_mm=machine.card.length_mm if machine.card else None,
        card_limit_mm=case.limits_mm.card_length,
        cooler_height_mm=getattr(cooler, "height_mm", None),
        cooler_limit_mm=case.limits_mm.cooler_height,
        tower=cooler is not None and cooler.kind == "tower",
        memory_to_top_mm=case.limits_mm.memory_to_top,
    )


def _radiator(resolver: Resolver, place: RadiatorPlaceDoc, tube_mm: float | None) -> RadiatorBox:
    part = resolver.parts["radiators"][place.radiator]
    nominal = part.sections * part.section_mm
    length = part.length_mm or nominal + 2 * part.end_tank_mm
    return RadiatorBox(place.radiator, tuple(place.mounts), length, part.thickness_mm, nominal, place.gap_mm, place.tubes, tube_mm)
