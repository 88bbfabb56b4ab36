"""The build document of a layout: from an empty case, or from a layout that stands."""

from collections import Counter
from collections.abc import Iterator

from desk.build.curves import curve_cards
from desk.build.lights import header_modes, lit_chain
from desk.build.loose import loose_leads
from desk.build.making import Making
from desk.build.panels import fan_panels, radiator_panels
from desk.build.shapes import BuildBuy, BuildDoc, BuildForecast, BuildHeader, BuildPump
from desk.build.steps import steps_of
from desk.forecast.document import Oracle, Question
from desk.job.resolve import Resolver
from desk.together.wiring import fans_used, wiring_findings, wiring_of
from documents.errors import DocumentError, Fault
from documents.job.models import FanDoc, JobDoc, LayoutDoc
from engine.coupled.forecast import FanForecast

MOST_INSTEAD = 3


def build(doc: JobDoc, layout_id: str, start_id: str | None = None, oracle: Oracle | None = None) -> BuildDoc:
    """``oracle``: of this document; what it tells of the layout stands beside speeds and curves. By the parts' sheets where none is given.

    Raises DocumentError for a layout that is not there, or is the one it starts from.
    """
    resolver = Resolver(doc)
    layout = resolver.layout(layout_id)
    if start_id == layout_id:
        raise DocumentError([Fault("start", f"{start_id} is the layout that is to be built", "Name another, or none for an empty case.")])
    start = resolver.layout(start_id) if start_id else None
    fans, radiators = list(fan_panels(resolver, layout)), list(radiator_panels(resolver, layout))
    modes = header_modes(resolver, layout)
    headers = [
        BuildHeader(
            header=x.header,
            kind=x.kind,
            plugs=list(x.plugs),
            sum_a=x.sum_a,
            limit_a=x.limit_a,
            verdict=x.verdict,
            unknown=list(x.unknown),
            modes=modes.get(x.header, []),
        )
        for x in wiring_of(resolver, layout).headers
    ]
    told = _forecast(oracle or Oracle(doc, Question(layouts=[layout_id])), layout_id)
    cards = list(curve_cards(resolver, layout, told[1]))
    lights, pumps = lit_chain(resolver, layout), list(_pumps(resolver, layout))
    buy, left = _shopping(resolver, layout)
    loose = list(loose_leads(resolver, layout, fans))
    making = Making(resolver, layout, start, fans, radiators, headers, loose, bool(cards), lights, pumps)
    steps, impossible, kit = steps_of(making)
    return BuildDoc(
        layout=layout.id,
        name=layout.name,
        job=doc.name,
        case=doc.case.name,
        start=start.id if start else None,
        minutes=sum(s.minutes for s in steps),
        steps=steps,
        impossible=impossible,
        fans=fans,
        radiators=radiators,
        headers=headers,
        loose=loose,
        lead_faults=[f"{f.what}. {f.do}" for f in wiring_findings(resolver, layout_id)],
        lights=lights,
        pumps=pumps,
        curves=cards,
        forecast=told[0],
        shopping=buy,
        left_over=left,
        kit=kit,
    )


def _forecast(oracle: Oracle, layout_id: str) -> tuple[BuildForecast | None, tuple[FanForecast, ...]]:
    if not oracle.can_forecast:
        return None, ()
    f = oracle.forecast(layout_id)
    card = f.card
    told = BuildForecast(
        cpu_c=f.cpu.temperature_c,
        cpu_band_k=f.cpu.band_k,
        card_c=card.temperature_c if card else None,
        card_band_k=card.band_k if card else None,
        level_dba=f.sound.level_dba,
        band_db=f.sound.band_db,
        learned=oracle.taught_by,
    )
    return told, f.fans


def _pumps(resolver: Resolver, layout: LayoutDoc) -> Iterator[BuildPump]:
    for loop in resolver.working_loops(layout):
        part = resolver.parts["coolers"].get(loop.cooler)
        yield BuildPump(of=(part.name or part.id) if part else loop.cooler, pct=loop.pump_pct, curve=loop.pump_curve)


def _shopping(resolver: Resolver, layout: LayoutDoc) -> tuple[list[BuildBuy], list[BuildBuy]]:
    """What is not on hand, and what is left over. Where nobody has counted the fans, all are listed: nobody knows that they are there."""
    doc = resolver.doc
    have = doc.stock.fans if doc.stock else {}
    rows, over = [], []
    for name, used in fans_used(resolver, layout).items():
        part: FanDoc = resolver.parts["fans"][name]
        missing = used - have.get(name, 0)
        if missing > 0:
            alike = _instead(doc, part, have, fans_used(resolver, layout))
            rows.append(BuildBuy(part=name, name=part.name or name, count=missing, price=part.price, instead=alike))
    for part in doc.parts.fans:
        spare = have.get(part.id, 0) - fans_used(resolver, layout).get(part.id, 0)
        if spare > 0:
            over.append(BuildBuy(part=part.id, name=part.name or part.id, count=spare, price=part.price))
    for via in dict.fromkeys(p.via for p in layout.wiring if p.via):
        part = resolver.parts["controllers"][via]
        rows.append(BuildBuy(part=via, name=part.name or via, count=1, price=part.price))
    lengths = Counter(p.extension_mm for p in layout.wiring if p.extension_mm > 0)
    rows += [BuildBuy(part="extension", name=f"lead extension of {mm:.0f} mm", count=n, price=None) for mm, n in sorted(lengths.items())]
    return rows, over


def _instead(doc: JobDoc, part: FanDoc, have: dict[str, int], used: Counter[str]) -> list[str]:
    """Other fans of its size, those on hand first, then the likest in free flow."""
    alike = [f for f in doc.parts.fans if f.size_mm == part.size_mm and f.id != part.id]
    spare = {f.id: have.get(f.id, 0) - used.get(f.id, 0) for f in alike}
    alike.sort(key=lambda f: (spare[f.id] <= 0, abs(f.flow_max_m3h - part.flow_max_m3h)))
    return [f"{f.name or f.id}" + (f", {spare[f.id]} on hand" if spare[f.id] > 0 else "") for f in alike[:MOST_INSTEAD]]
