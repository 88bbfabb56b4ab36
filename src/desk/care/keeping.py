"""What a machine needs over the years: when what is due, what dust costs, what air does not solve.

Intervals are common practice, no source; part makers' sheets come first. What dust costs is forecast.
"""

import hashlib
from collections.abc import Mapping, Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Literal

from pydantic import BaseModel

from desk.forecast.document import Oracle
from desk.words.care import ITEMS, SYMPTOMS
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.coupled.transient import CLOGGED, clogged
from engine.learn.tampered import filtered
from engine.loop.ageing import ageing
from engine.loop.heights import loop_heights
from engine.runs.analysis import RunAnalysis

Dust = Literal["little", "usual", "much"]
DUST_TIMES: Mapping[Dust, float] = {"little": 2.0, "usual": 1.0, "much": 0.5}  # of an interval; common practice, no source
# Months between; common practice, no source.
MONTHS = {"filters": 3.0, "fins": 12.0, "radiator": 6.0, "paste": 48.0, "coolant": 12.0, "recheck": 6.0, "presets": 6.0}
MINUTES = {"filters": 10, "fins": 30, "radiator": 25, "paste": 40, "coolant": 120, "sealed_age": 10, "recheck": 40, "presets": 5}
CAUTION = {"filters": "fan", "fins": "dust", "radiator": "dust", "paste": "paste", "coolant": "openLoop", "sealed_age": "coolant"}
CAUTION |= {"recheck": "run", "presets": "pump"}
UNFILTERED_PCT = 25.0  # no source: of what comes in; more, and the fins want cleaning twice as often
SEALED_YEARS = 6.0  # common practice, no source: as long as makers of sealed coolers commonly stand by them
CLOG_STEPS = (0.0, 0.5, 1.0, 2.0)  # of an interval
DAYS_A_MONTH, WARN_DAYS = 30.44, 14
HOTSPOT_K, MEMORY_C = 20.0, 95.0  # common practice, no source: beyond, a card's own paste and pads are in question


class Due(BaseModel):
    """``on``: when it is due; ``because``: why so often."""

    item: str
    words: str
    months: float
    minutes: float
    caution: str
    because: str
    last: date | None
    on: date
    state: Literal["fine", "soon", "overdue"]
    where: str = ""


class Clogged(BaseModel):
    """A forecast with filters as they are after some months without cleaning; kelvins and flow against clean ones."""

    months: float
    cpu_k: float
    card_k: float | None
    intake_share: float


class CheckOut(BaseModel):
    words: str
    caution: str | None
    holds: bool  # the findings say that this is so


class SymptomOut(BaseModel):
    id: str
    words: str
    checks: list[CheckOut]


class CareDoc(BaseModel):
    layout: str
    dust: Dust
    due: list[Due]
    clogged: list[Clogged]
    symptoms: list[SymptomOut]
    residual: list[str]


def care(
    oracle: Oracle, layout_id: str, built_on: date, today: date, last: Mapping[str, date], dust: Dust, runs: Sequence[RunAnalysis]
) -> CareDoc:
    """``last``: when an item was done last; what never was counts from the day the machine was built."""
    due = sorted((_due(*x, built_on, today, last) for x in _items(oracle, layout_id, dust)), key=lambda d: d.on)
    return CareDoc(
        layout=layout_id,
        dust=dust,
        due=due,
        clogged=_clogging(oracle, layout_id, MONTHS["filters"] * DUST_TIMES[dust]),
        symptoms=_symptoms(oracle, layout_id),
        residual=residual(runs),
    )


def _items(oracle: Oracle, layout_id: str, dust: Dust) -> list[tuple[str, float, str, str]]:
    """Item, months, why, where."""
    resolver, times = oracle.resolver, DUST_TIMES[dust]
    layout, told = resolver.layout(layout_id), oracle.forecast(layout_id)
    filters = [p.face for p in resolver.doc.case.panels if p.filter != "none" and not oracle.machine(layout_id).panels[p.face].removed]
    open_in = told.balance.unfiltered_inflow_pct
    found = []
    if filters:
        found.append(("filters", MONTHS["filters"] * times, f"filtered faces, {dust} dust", ", ".join(filters)))
    often = 0.5 if open_in > UNFILTERED_PCT or not filters else 1.0
    why = f"{open_in:.0f} % of the air comes in unfiltered" if filters else "no filter keeps dust out"
    found.append(("fins", MONTHS["fins"] * times * often, why, ""))
    for loop in resolver.loops(layout):
        for place in loop.radiators:
            fans = [f for f in layout.fans if f.mount in place.mounts]
            if any(f.direction == "intake" for f in fans):
                side = "between fans and fins" if any(f.layer == "outer" for f in fans) else "the outer face of the fins"
                found.append(("radiator", MONTHS["radiator"] * times, f"room air is drawn through it: dust gathers {side}", side))
    found.append(("paste", MONTHS["paste"], "pastes dry and pump out slowly; sooner when the cooler was lifted", ""))
    m = oracle.machine(layout_id)
    for cooler, given in zip(m.loops, resolver.working_loops(layout), strict=True):
        part = resolver.parts["coolers"][given.cooler]
        if part.kind == "open_loop" or given.reservoir:
            found.append(("coolant", MONTHS["coolant"], "coolant ages, and loses its guard against corrosion", ""))
            continue
        coolant_c = m.room.temperature_c + oracle.point(layout_id).rises_k["card_coolant" if cooler is m.card_loop else "coolant"]
        age = ageing(cooler, loop_heights(m, cooler), coolant_c)
        years = min(x for x in (age.barb_year, age.pump_year, SEALED_YEARS) if x is not None)
        told_years = "air reaches barbs or pump by then" if years < SEALED_YEARS else "as long as makers commonly stand by one"
        found.append(("sealed_age", max(12 * years, 1.0), f"{years:.1f} years: {told_years}", part.name or part.id))
    found.append(("recheck", MONTHS["recheck"], "a drift is seen before it is felt", ""))
    found.append(("presets", MONTHS["presets"], "updates bring presets back", ""))
    return found


def _due(item: str, months: float, why: str, where: str, built_on: date, today: date, last: Mapping[str, date]) -> Due:
    done = last.get(item)
    on = (done or built_on) + timedelta(days=round(months * DAYS_A_MONTH))
    state: Literal["fine", "soon", "overdue"] = "overdue" if on < today else "soon" if on <= today + timedelta(days=WARN_DAYS) else "fine"
    return Due(
        item=item,
        words=ITEMS[item],
        months=months,
        minutes=MINUTES[item],
        caution=CAUTION[item],
        because=why,
        last=done,
        on=on,
        state=state,
        where=where,
    )


def _clogging(oracle: Oracle, layout_id: str, months: float) -> list[Clogged]:
    """Filters resist in proportion to their dust: clean at first, CLOGGED times as much when their cleaning is due."""
    m = oracle.machine(layout_id)
    if not filtered(m):
        return []
    rows = []
    clean = operating_point(m, oracle.parameters)
    flow = _intake(clean)
    for share in CLOG_STEPS:
        then = operating_point(m, clogged(oracle.parameters, 1 + (CLOGGED - 1) * share))
        card = None if m.card is None else (then.card_rise_k or 0.0) - (clean.card_rise_k or 0.0)
        rows.append(
            Clogged(
                months=months * share, cpu_k=then.cpu_rise_k - clean.cpu_rise_k, card_k=card, intake_share=_intake(then) / max(flow, 1e-9)
            )
        )
    return rows


def _intake(point: OperatingPoint) -> float:
    return forecast(point).balance.intake_m3h


def _symptoms(oracle: Oracle, layout_id: str) -> list[SymptomOut]:
    """Checks in their order, those that the findings confirm first."""
    codes = {f.code for f in oracle.plain_findings(layout_id)}
    loops = bool(oracle.machine(layout_id).loops)
    found = []
    for key, s in SYMPTOMS.items():
        if s.for_loops and not loops:
            continue
        checks = [CheckOut(words=c.words, caution=c.caution, holds=c.finding in codes) for c in s.checks]
        found.append(SymptomOut(id=key, words=s.words, checks=sorted(checks, key=lambda c: not c.holds)))
    return found


def residual(runs: Sequence[RunAnalysis]) -> list[str]:
    """What the runs show that no layout will cure."""
    found = []
    gaps = [h.mean - c.mean for r in runs if (h := r.channel("card_hotspot_c")) and (c := r.channel("card_core_c"))]
    if gaps and max(gaps) > HOTSPOT_K:
        found.append(
            f"The card's hot spot stands {max(gaps):.0f} K over its core: its own paste or the seat of its cooler, which no case fan "
            "helps. It may be a matter for its maker."
        )
    memory = [m.max for r in runs if (m := r.channel("card_memory_c"))]
    if memory and max(memory) > MEMORY_C:
        found.append(f"The card's memory reaches {max(memory):.0f} °C: its pads or its own cooler; air in the case moves it little.")
    return found


def calendar_of(job: str, layout: str, due: Sequence[Due], today: date) -> bytes:
    """All-day entries that come back (source: rfc5545), what is overdue on this very day."""
    from icalendar import Calendar, Event  # here: slow to load

    calendar = Calendar()
    calendar.add("prodid", "-//Oventa//care//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"{job}, care")
    for d in due:
        event = Event()
        sha = hashlib.sha256(f"{job} {layout} {d.item} {d.where}".encode()).hexdigest()[:24]
        on = max(d.on, today)
        event.add("uid", f"{sha}@oventa")
        event.add("dtstamp", _midnight(today))
        event.add("dtstart", on)
        event.add("summary", f"{job}: {d.words}" + (f", {d.where}" if d.where else ""))
        event.add("description", f"{d.because}. About {d.minutes:.0f} minutes. The part makers' sheets come first.")
        event.add("rrule", {"freq": "daily", "interval": max(round(d.months * DAYS_A_MONTH), 1)})
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def _midnight(day: date) -> datetime:
    return datetime(day.year, day.month, day.day, tzinfo=UTC)
