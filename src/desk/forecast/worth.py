"""What each fan of a layout is worth, one rung of a ladder after the other, and what single changes would bring, the free ones first."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from desk.forecast.document import Oracle
from desk.job.difference import changes
from desk.job.edits import WrittenLayout, edited, with_layout, written
from desk.together.wiring import free_mounts
from documents.job.models import FanPlaceDoc, LayoutDoc, PanelStateDoc
from engine.coupled.bands import least_apart_k
from engine.coupled.compare import WATT_WORTH_K, change_k, given_up_w, told_change_k
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.errors import OventaError
from engine.findings.finding import Fix
from engine.machine import Machine, PlacedFan
from engine.plan.rebuild import WITHOUT_OPENING, minutes_of

PAYS_K = 1.0  # common practice, no source: a fan that brings the warmest part less than this is not worth its noise
HARMS_K = 0.1
SLOWER_PCT, FASTER_PCT = 80.0, 125.0


@dataclass(frozen=True)
class FanRung:
    """A fan added to those before it: what it changes at processor and card in K, and where they stand with it, in K over the room.

    ``knee``: the last fan that pays; ``harms``: it makes the warmest part warmer.
    """

    mount: str
    layer: str
    direction: str
    cpu_k: float
    card_k: float | None
    cpu_rise_k: float
    card_rise_k: float | None
    sound_db: float
    knee: bool
    harms: bool


@dataclass(frozen=True)
class Single:
    """One change and what it is forecast to do. ``asks``: nothing that opens the case, hand work in it, or money."""

    words: str
    asks: Literal["free", "work", "money"]
    minutes: float
    cost: float | None
    cpu_k: float
    card_k: float | None
    sound_db: float
    layout: WrittenLayout


@dataclass(frozen=True)
class WorthAnswer:
    bare_cpu_rise_k: float  # with none of the case's fans turning
    bare_card_rise_k: float | None
    bare_lost_w: tuple[float, float]  # power that processor and card give up then
    rungs: tuple[FanRung, ...]
    pays_k: float
    singles: tuple[Single, ...]
    least_apart_k: float
    taught_by: int  # runs that the single changes rest on; the ladder is by the parts' sheets


def worth(oracle: Oracle, layout_id: str) -> WorthAnswer:
    machine = oracle.machine(layout_id)
    rungs, bare = ladder(machine)
    return WorthAnswer(
        bare.cpu_rise_k,
        bare.card_rise_k,
        given_up_w(bare),
        rungs,
        PAYS_K,
        tuple(_singles(oracle, layout_id, oracle.point(layout_id))),
        least_apart_k(),
        oracle.taught_by,
    )


def _strain(p: OperatingPoint) -> float:
    """How near the warmer part is to its limit, as a share of its room; power that is given up counts as heat over it."""
    m, (cpu_w, card_w) = p.machine, given_up_w(p)
    cpu = (p.cpu_rise_k + WATT_WORTH_K * cpu_w) / (m.cpu.tj_max_c - m.room.temperature_c)
    if m.card is None or p.card_rise_k is None:
        return cpu
    card = (p.card_rise_k + WATT_WORTH_K * card_w) / (m.card.t_limit_c - m.room.temperature_c)
    return max(cpu, card) + 0.1 * min(cpu, card)


def ladder(machine: Machine) -> tuple[tuple[FanRung, ...], OperatingPoint]:
    """The layout's turning fans from the most useful to the least: found by taking the least useful out, again and again."""
    standing = [f for f in machine.fans if f.running]
    rest = [f for f in machine.fans if not f.running]

    def point(fans: Sequence[PlacedFan]) -> OperatingPoint:
        return operating_point(replace(machine, fans=(*fans, *rest)))

    left, points, order = list(standing), [point(standing)], []
    while left:
        tried = [point([f for f in left if f is not out]) for out in left]
        at = min(range(len(left)), key=lambda i: _strain(tried[i]))
        order.append(left.pop(at))
        points.append(tried[at])
    order.reverse()
    points.reverse()  # points[i]: with the first i fans of the order
    steps = [change_k(a, b) for a, b in pairwise(points)]
    warmest = [min(cpu, 0.0 if card is None else card) for cpu, card in steps]
    pays = [i for i, k in enumerate(warmest) if k <= -PAYS_K]
    levels = [forecast(p).sound.level_dba for p in points]
    return (
        tuple(
            FanRung(
                fan.mount,
                fan.layer,
                fan.direction,
                *steps[i],
                points[i + 1].cpu_rise_k,
                points[i + 1].card_rise_k,
                levels[i + 1] - levels[i],
                bool(pays) and i == pays[-1] and i + 1 < len(order),
                _strain(points[i + 1]) > _strain(points[i]) and max(steps[i][0], steps[i][1] or 0.0) > HARMS_K,
            )
            for i, fan in enumerate(order)
        ),
        points[0],
    )


def _singles(oracle: Oracle, layout_id: str, now: OperatingPoint) -> list[Single]:
    layout, doc = oracle.resolver.layout(layout_id), oracle.resolver.doc
    before = oracle.forecast(layout_id)
    found = []
    for words, other, cost in _candidates(oracle, layout, now):
        try:
            after = oracle.beside(with_layout(doc, other)).forecast(layout_id)
            cpu, card = told_change_k(before, after)
            sound = after.sound.level_dba - before.sound.level_dba
        except OventaError:
            continue  # what cannot be forecast is not proposed
        by_hand = changes(doc, layout, other)
        minutes = minutes_of(by_hand, doc.practice.minutes)
        closed = all(c.kind in WITHOUT_OPENING for c in by_hand)
        asks: Literal["free", "work", "money"] = "money" if cost is None or cost > 0 else "free" if closed else "work"
        found.append(Single(words, asks, minutes, cost, cpu, card, sound, other))
    gain = {id(s): min(s.cpu_k, 0.0 if s.card_k is None else s.card_k) for s in found}
    return sorted(found, key=lambda s: (("free", "work", "money").index(s.asks), gain[id(s)]))


def _candidates(oracle: Oracle, layout: LayoutDoc, now: OperatingPoint) -> Iterator[tuple[str, LayoutDoc, float | None]]:
    """Words, the layout with one thing changed, and what it costs (None: it is bought, its price not known)."""
    turning = zip(now.machine.fans, now.speeds.fans, strict=True)
    speeds: dict[tuple[str, str], float] = {(f.mount, f.layer): float(pct) for f, pct in turning if f.running}

    def made(words: str, fix: Fix) -> Iterator[tuple[str, LayoutDoc, float | None]]:
        change = edited(layout, fix, speeds)
        if change is not None:
            yield words, change.layout, 0.0

    if speeds:
        yield from made(f"All case fans at {SLOWER_PCT:.0f} % of their speed", Fix("", "set_speed", speed_pct=SLOWER_PCT))
        if max(speeds.values()) * FASTER_PCT / 100 <= 100:
            yield from made("All case fans a quarter faster", Fix("", "set_speed", speed_pct=FASTER_PCT))
    for place in layout.fans:
        name = place.mount.upper() + (", inner" if place.layer == "inner" else "")
        if place.state != "running":
            yield from made(f"Plug {name} in", Fix("", "plug_in", place.mount, place.layer))
            continue
        yield from made(f"Turn {name} round", Fix("", "flip", place.mount, place.layer))
        yield from made(f"Take {name} out", Fix("", "take_out", place.mount, place.layer))
    for panel in oracle.resolver.doc.case.panels:
        state = layout.panels.get(panel.face)
        if state is None or state.state != "removed":
            off = layout.model_copy(update={"panels": layout.panels | {panel.face: PanelStateDoc(state="removed")}})
            yield f"The {panel.face} panel off", written(off), 0.0
    yield from _more_fans(oracle, layout)


def _more_fans(oracle: Oracle, layout: LayoutDoc) -> Iterator[tuple[str, LayoutDoc, float | None]]:
    for mount, fits in free_mounts(oracle.resolver, layout):
        if not fits:
            continue
        spare = next((fan for fan, left in fits if left is not None and left > 0), None)
        fan = spare or fits[0][0]
        place = FanPlaceDoc(mount=mount.id, fan=fan.id, direction=mount.usual_way, speed_pct=80)
        words = f"Put a {fan.name or fan.id} at {mount.id.upper()}, blowing {'out' if mount.usual_way == 'exhaust' else 'in'}"
        yield words, written(layout.model_copy(update={"fans": [*layout.fans, place]})), 0.0 if spare else fan.price
