"""The sheet of one layout: leads and headers, stock and cost, loops with their heights and age, growth, what is spare."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from desk.forecast.document import Oracle
from desk.forecast.practice import Ranked, candidate, ranked
from desk.forecast.scenario import grown
from desk.together.wiring import audit_of, fans_used, free_mounts, shared_out, wiring_of
from documents.job.models import LayoutDoc, PlugDoc
from engine.coupled.compare import change_k, given_up_w
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.loop.ageing import Ageing, ageing
from engine.loop.heights import LoopHeights, loop_heights
from engine.machine import PlacedFan
from engine.wiring.advice import CoolerAdvice, cooler_advice
from engine.wiring.asfound import Deviation
from engine.wiring.currents import HeaderLine, LeadLine


@dataclass(frozen=True)
class StockRow:
    """Fans of one kind: ``on_hand`` None where nobody has counted; ``spare`` are left over by this layout."""

    fan: str
    name: str
    used: int
    on_hand: int | None
    spare: int | None


@dataclass(frozen=True)
class CostRow:
    """``each`` None where no price is known; such a part is not in the total."""

    name: str
    count: int
    each: float | None


@dataclass(frozen=True)
class LoopSheet:
    """A loop: where its air is now and in which year it reaches barbs or pump."""

    cooler: str
    cools: tuple[str, ...]
    coolant_c: float
    heights: LoopHeights
    age: Ageing
    air_ml_by_year: tuple[float, ...]


@dataclass(frozen=True)
class GrowthRow:
    """A later load at the worst room: temperatures, room to the limits in K, and whether that is enough."""

    id: str
    name: str
    room_c: float
    cpu_c: float
    card_c: float | None
    cpu_spare_k: float
    card_spare_k: float | None
    enough: bool
    words: str


@dataclass(frozen=True)
class SpareMount:
    """A free mount, and what a fan from those at hand would do there."""

    mount: str
    fan: str | None
    direction: str
    cpu_k: float | None
    card_k: float | None


@dataclass(frozen=True)
class SheetDoc:
    layout: str
    headers: tuple[HeaderLine, ...]
    leads: tuple[LeadLine, ...]
    to_share: tuple[PlugDoc, ...]  # leads without a header, as they may be shared out
    stock: tuple[StockRow, ...]
    cost: tuple[CostRow, ...]
    total: float
    loops: tuple[LoopSheet, ...]
    as_found: tuple[Deviation, ...]
    advice: CoolerAdvice
    growth: tuple[GrowthRow, ...]
    spare: tuple[SpareMount, ...]


ENOUGH_K = 5.0  # common practice, no source: room to the limit that a person wants left
YEARS = 11


def sheet(oracle: Oracle, layout_id: str) -> SheetDoc:
    """Everything about building one layout that is no forecast of temperatures."""
    resolver, doc = oracle.resolver, oracle.resolver.doc
    layout = resolver.layout(layout_id)
    point = oracle.point(layout_id)
    books = wiring_of(resolver, layout)
    cost = tuple(_cost(oracle, layout))
    return SheetDoc(
        layout=layout_id,
        headers=books.headers,
        leads=books.leads,
        to_share=tuple(shared_out(resolver, layout)),
        stock=tuple(_stock(oracle, layout)),
        cost=cost,
        total=_total(cost),
        loops=tuple(_loops(point, oracle, layout)),
        as_found=tuple(audit_of(layout)),
        advice=cooler_advice(
            oracle.resolver.machine(layout_id).cpu.power_w,
            getattr(resolver.part(layout, "cpu", "cpus"), "overclocked", False),
            doc.practice.long_duty,
            doc.case.limits_mm.cooler_height,
            max((mm for rail in doc.case.rails for mm in rail.radiators_mm), default=0.0),
        ),
        growth=tuple(_growth(oracle, layout_id)),
        spare=tuple(_spare(oracle, layout, point)),
    )


def ranking(oracle: Oracle) -> list[Ranked]:
    """Every layout by what matters to the person, from the forecast."""
    rows = []
    for layout in oracle.resolver.doc.layouts:
        if layout.id not in oracle.layout_ids:
            continue
        rows.append(candidate(layout, oracle.forecast(layout.id), oracle.given_up_w(layout.id), total_cost(oracle, layout)))
    return ranked(rows, oracle.resolver.doc.priorities)


def _stock(oracle: Oracle, layout: LayoutDoc) -> list[StockRow]:
    doc, used = oracle.resolver.doc, fans_used(oracle.resolver, layout)
    have = doc.stock.fans if doc.stock else {}
    rows = []
    for fan in doc.parts.fans:
        n, count = used.get(fan.id, 0), have.get(fan.id)
        if n or count:
            rows.append(StockRow(fan.id, fan.name or fan.id, n, count, None if count is None else count - n))
    return rows


def total_cost(oracle: Oracle, layout: LayoutDoc) -> float:
    """Of all parts whose price is known."""
    return _total(_cost(oracle, layout))


def _total(rows: Sequence[CostRow]) -> float:
    return sum(row.count * row.each for row in rows if row.each is not None)


def _cost(oracle: Oracle, layout: LayoutDoc) -> list[CostRow]:
    resolver = oracle.resolver
    rows = []
    for fan, n in fans_used(resolver, layout).items():
        part = resolver.parts["fans"][fan]
        rows.append(CostRow(part.name or fan, n, part.price))
    loops, cooler = resolver.loops(layout), resolver.cpu_cooler(layout)
    chosen = [("coolers", x.cooler) for x in loops] + [("radiators", p.radiator) for x in loops for p in x.radiators]
    if cooler and cooler.id not in {x.cooler for x in loops}:
        chosen.append(("coolers", cooler.id))
    chosen += [("controllers", name) for name in dict.fromkeys(p.via for p in layout.wiring if p.via)]
    # Another card or processor than the job's own is bought for this layout.
    base = resolver.doc.base
    chosen += [
        (kind, own) for kind, own, usual in (("cards", layout.card, base.card), ("cpus", layout.cpu, base.cpu)) if own and own != usual
    ]
    for kind, name in chosen:
        part = resolver.parts[kind].get(name or "")
        if part:
            rows.append(CostRow(part.name or part.id, 1, part.price))
    return rows


def _loops(point: OperatingPoint, oracle: Oracle, layout: LayoutDoc) -> list[LoopSheet]:
    m, room = point.machine, point.machine.room.temperature_c
    shared = m.card is not None and m.card.block_k_per_w is not None and m.card_loop is None
    found = []
    for cooler, given in zip(m.loops, oracle.resolver.working_loops(layout), strict=True):
        own = cooler is m.card_loop
        coolant = room + point.rises_k["card_coolant" if own else "coolant"]
        heights = loop_heights(m, cooler)
        age = ageing(cooler, heights, coolant)
        cools = ("card",) if own else ("processor", "card") if shared else ("processor",)
        found.append(LoopSheet(given.cooler, cools, coolant, heights, age, tuple(age.air_ml(y) for y in range(YEARS))))
    return found


def _growth(oracle: Oracle, layout_id: str) -> list[GrowthRow]:
    doc = oracle.resolver.doc
    room = doc.room.worst_temperature_c if doc.room.worst_temperature_c is not None else doc.room.temperature_c
    machine = oracle.resolver.machine(layout_id, room)
    rows = []
    for x in doc.scenarios:
        later = operating_point(grown(machine, doc, x.id))
        cpu_spare = machine.cpu.tj_max_c - room - later.cpu_rise_k
        card_spare = None if machine.card is None else machine.card.t_limit_c - room - (later.card_rise_k or 0.0)
        lost = sum(given_up_w(later))
        least = min(cpu_spare, card_spare if card_spare is not None else cpu_spare)
        enough = least >= ENOUGH_K and lost < 1
        if lost >= 1:
            words = f"not enough: {lost:.0f} W are given up at the limit"
        else:
            words = f"enough: {least:.0f} K to the nearer limit" if enough else f"tight: only {max(least, 0):.0f} K to the nearer limit"
        card_c = None if later.card_rise_k is None else room + later.card_rise_k
        rows.append(GrowthRow(x.id, x.name or x.id, room, room + later.cpu_rise_k, card_c, cpu_spare, card_spare, enough, words))
    return rows


def _spare(oracle: Oracle, layout: LayoutDoc, point: OperatingPoint) -> list[SpareMount]:
    rows = []
    for mount, fits in free_mounts(oracle.resolver, layout):
        fan = next((fan for fan, left in fits if left is None or left > 0), None)
        change = (
            _with_fan(point, PlacedFan(mount.id, oracle.resolver.fan(fan), mount.usual_way, "outer", 80.0, True)) if fan else (None, None)
        )
        rows.append(SpareMount(mount.id, fan.id if fan else None, mount.usual_way, *change))
    return sorted(rows, key=lambda r: min(r.cpu_k or 0.0, r.card_k or 0.0))


def _with_fan(point: OperatingPoint, fan: PlacedFan) -> tuple[float, float | None]:
    return change_k(point, operating_point(replace(point.machine, fans=(*point.machine.fans, fan))))
