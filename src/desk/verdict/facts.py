"""What is known of each layout beside its runs: price, work, parts, dust, looks, limits, and how it differs from the others."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations

from desk.forecast.document import Oracle
from desk.forecast.sheet import total_cost
from desk.job.conditions import other_parts
from desk.job.difference import changes
from desk.together.wiring import fans_used
from documents.job.models import JobDoc, LayoutDoc
from engine.errors import OventaError
from engine.plan.rebuild import Change, minutes_of

BEST_LOOKS = 5


@dataclass(frozen=True)
class LayoutFacts:
    """``cost`` and ``labour_min`` are counted from the reference layout; None where parts are missing for a figure."""

    layout: str
    name: str
    cost: float
    labour_min: float
    parts: int
    changes: tuple[str, ...]
    dust_pct: float | None
    looks_short: float | None
    limit_rise_k: dict[str, float]
    nominal_w: dict[str, float]
    mixed_fans: bool
    other_parts: tuple[str, ...] = ()  # that the reference does not have: "another card: ..."
    control: bool = False  # only there to be held against: the bench without walls, where the job is about a case


def worst_room_c(doc: JobDoc) -> float:
    return doc.room.worst_temperature_c if doc.room.worst_temperature_c is not None else doc.room.temperature_c


def facts_of(oracle: Oracle, layout: LayoutDoc, reference: LayoutDoc) -> LayoutFacts:
    """Of one layout; what needs a forecast is left out where the parts do not suffice for one."""
    resolver, doc = oracle.resolver, oracle.doc
    done = changes(doc, reference, layout)
    dust, limits, nominal = None, dict[str, float](), dict[str, float]()
    try:
        machine, forecast = oracle.machine(layout.id), oracle.forecast(layout.id)
    except OventaError:
        pass
    else:
        room, dust = worst_room_c(doc), forecast.balance.unfiltered_inflow_pct
        limits["cpu"], nominal["cpu"] = machine.cpu.tj_max_c - room, machine.cpu.power_w
        if machine.card:
            limits["card"], nominal["card"] = machine.card.t_limit_c - room, machine.card.power_w
    fans = fans_used(resolver, layout)
    radiators = sum(len(loop.radiators) for loop in resolver.working_loops(layout))
    case_fans = {f.fan for f in layout.fans}
    return LayoutFacts(
        layout=layout.id,
        name=layout.name,
        cost=total_cost(oracle, layout) - total_cost(oracle, reference),
        labour_min=layout.labour_min if layout.labour_min is not None else minutes_of(done, oracle.doc.practice.minutes),
        parts=sum(fans.values()) + radiators,
        changes=tuple(c.words for c in done),
        dust_pct=dust,
        looks_short=None if layout.looks_score is None else float(BEST_LOOKS - layout.looks_score),
        limit_rise_k=limits,
        nominal_w=nominal,
        mixed_fans=len(case_fans) > 1,
        other_parts=other_parts(resolver, layout, reference),
        control=layout.open_bench and doc.case.kind != "open_bench",
    )


def all_changes(doc: JobDoc, layouts: Sequence[LayoutDoc]) -> dict[tuple[str, str], list[Change]]:
    """What is done by hand between any two layouts."""
    return {(a.id, b.id): changes(doc, a, b) for a, b in permutations(layouts, 2)}
