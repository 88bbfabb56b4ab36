"""The account behind a figure: the chain of steps that led to it, each with its formula and the source of it."""

from dataclasses import dataclass
from math import log10

import numpy as np

from engine import constants as k
from engine.coupled.bands import absolute_band_k, largest_causes, sound_band_db
from engine.coupled.directed import JET, PLUME_SWEEP, PUSH_BACK, RECIRCULATION
from engine.coupled.forecast import forecast, source_levels
from engine.coupled.links import CARD, ROOM
from engine.coupled.operating_point import COOLANT, OperatingPoint
from engine.coupled.program import CARD_IN, COOLER, RADIATOR
from engine.errors import ImpossibleInputError
from engine.heat.exchangers import finned_ua_w_k
from engine.machine import AirCooler, SealedCooler
from engine.parameters import INDEX
from engine.sources import SOURCES
from engine.units import M3H_PER_M3S

FIGURES = ("cpu", "card", "coolant", "rear", "sound", "balance")
WORTH_NAMING = 0.03  # share of a mixture


@dataclass(frozen=True)
class Part:
    """One of several things that make up a step."""

    what: str
    value: float
    unit: str


@dataclass(frozen=True)
class Step:
    """One step: what, its value with unit, the formula, the source in full, and what it is made of."""

    what: str
    value: float
    unit: str  # K | m3/h | Pa | W | W/K | K/W | % | dBA | m3/h ... as in the glossary
    formula: str = ""
    source: str = ""
    parts: tuple[Part, ...] = ()


@dataclass(frozen=True)
class Account:
    """Steps in the order of cause; the last one's value is the figure."""

    figure: str
    title: str
    steps: tuple[Step, ...]


def account(point: OperatingPoint, figure: str) -> Account:
    """The account of one of FIGURES. Raises ImpossibleInputError for a figure this machine does not have."""
    makers = {"cpu": _cpu, "card": _card, "coolant": _coolant, "rear": _rear, "sound": _sound, "balance": _balance}
    if figure not in makers or (figure == "card" and not point.machine.card) or (figure == "coolant" and not point.machine.loops):
        have = [f for f in FIGURES if f in makers and not (f == "card" and not point.machine.card)]
        raise ImpossibleInputError(f"this layout has no figure {figure!r}", "figure", f"Use one of {', '.join(have)}.")
    return makers[figure](point)


def _source(*keys: str) -> str:
    return " ".join(SOURCES[key] for key in keys)


def node_words(node: str) -> str:
    """A node as a person would call it."""
    rows = {"up": "above the card", "low": "below the card", "basement": "in the basement"}
    columns = {"front": "in front", "mid": "in the middle", "rear": "at the rear", "side": "along the window"}
    if node == ROOM:
        return "room air"
    if node == CARD:
        return "air out of the card"
    row, _, column = node.partition("_")
    if row in rows and column in columns:
        return f"air {rows[row]}, {columns[column]}"
    return {"window_gap": "air in the gap under the window"}.get(
        node, f"air behind the {column} panel" if row == "plenum" else f"air at {column}"
    )


def drawn_in(point: OperatingPoint, roles: tuple[int, ...]) -> list[tuple[str, float, float]]:
    """What the links of some roles draw in: words, share, rise in K; largest share first."""
    pg, q = point.plan.program, point.flow_m3s
    own = [i for i in range(len(q)) if pg.role[i] in roles and (pg.role[i] != CARD_IN or q[i] > 0)]
    total = float(sum(abs(q[i]) for i in own))
    mixed: dict[str, tuple[float, float]] = {}

    def add(words: str, flow: float, rise: float) -> None:
        before, sum_k = mixed.get(words, (0.0, 0.0))
        mixed[words] = (before + flow, sum_k + flow * rise)

    for i in own:
        node = pg.tail[i] if q[i] >= 0 else pg.head[i]
        left = abs(float(q[i]))
        for m, t in enumerate(point.moved_m3s.tolist()):
            if pg.move_to[m] == i and t > 0 and pg.move_kind[m] != PLUME_SWEEP:
                words, rise = _moved_words(point, m)
                add(words, t, rise)
                left -= t
        name = [*point.plan.nodes, ROOM][node]
        add(node_words(name), left, float(point.node_rise_k[node]))
    ordered = sorted(mixed.items(), key=lambda e: -e[1][0])
    return [
        (words, flow / total, sum_k / flow if flow > 0 else 0.0)
        for words, (flow, sum_k) in ordered
        if total > 0 and flow / total >= WORTH_NAMING
    ]


def _moved_words(point: OperatingPoint, m: int) -> tuple[str, float]:
    move, pg = point.plan.moves[m], point.plan.program
    s = move.source
    link = point.links[s]
    own = float(point.node_rise_k[pg.tail[s] if point.flow_m3s[s] >= 0 else pg.head[s]])
    rise = own + float(point.effectiveness[s]) * (float(point.node_rise_k[pg.sink[s]]) - own)
    if pg.role[s] == COOLER:
        rise = float(point.node_rise_k[pg.n + 2])
    if move.kind == RECIRCULATION:
        return "its own outlet, rolled back", rise
    if move.kind == PUSH_BACK:
        return "its own outlet, pushed back by a top intake", rise
    if move.kind == JET and link.mount:
        return f"straight from the fan at {link.mount.upper()}", rise
    return ("the card's rising air" if link.kind == "card_out" else "the cooler's outlet"), rise


def _air_step(point: OperatingPoint, roles: tuple[int, ...], who: str, rise_k: float) -> Step:
    parts = tuple(Part(f"{100 * share:.0f} % {words}", rise, "K") for words, share, rise in drawn_in(point, roles))
    formula = "each stream's rise times its share; spaces by upwind heat balance, jets and plumes beside them"
    return Step(f"Air that {who} in, over room", rise_k, "K", formula, _source("contam", "abramovich", "trade"), parts)


def _flow_step(point: OperatingPoint, what: str, flow_m3s: float, parts: tuple[Part, ...] = ()) -> Step:
    formula = "fan curve at its speed against panels, filters, grilles, fins and the case: p = s² p0 (1 − c1 x − (1 − c1) x²) = A Q + B Q²"
    return Step(what, flow_m3s * M3H_PER_M3S, "m3/h", formula, _source("fan_laws", "idelchik"), parts)


def _band_step(point: OperatingPoint, figure: str, rise_k: float) -> Step:
    parts = tuple(Part(meaning, abs(change), "K per sigma") for meaning, change in largest_causes(point, figure))
    formula = "2 √(Σ (change per sigma)² + model error²); the largest causes are listed"
    return Step("95 % band", absolute_band_k(point, figure, rise_k), "± K", formula, _source("gum"), parts)


def _limit_steps(limited: bool, asked_w: float, held_w: float, what: str) -> tuple[Step, ...]:
    if not limited:
        return ()
    share = 100 * (asked_w - held_w) / asked_w if asked_w > 0 else 0.0
    words = f"{what} would pass its limit; its power falls until it sits on it ({share:.0f} % less)"
    return (Step("Power given up at the limit", asked_w - held_w, "W", words, _source("memory")),)


def _cpu(point: OperatingPoint) -> Account:
    m, power = point.machine, point.powers.cpu_w
    cooler, inlet, hot = m.cooler, point.cpu_inlet_rise_k, point.rises_k[point.cooler_node]
    steps = list(_limit_steps(point.powers.cpu_limited, m.cpu.power_w, power, "the processor"))
    steps.append(Step("Heat of the processor", power, "W", "from its sheet and the load"))
    if isinstance(cooler, AirCooler):
        through = np.abs(point.flow_m3s) * (point.plan.program.role == COOLER)
        flow = float(through.sum())
        thick = point.density / k.STANDARD_DENSITY_KG_M3
        ua = finned_ua_w_k(cooler.ua_ref_w_per_k, thick * flow * M3H_PER_M3S, cooler.flow_ref_m3h)
        ua *= float(point.parameters[INDEX["cooler_ua"]] * point.parameters[INDEX["drawn_fins_ua"]] ** point.plan.program.drawn_fins)
        eps = float(point.effectiveness @ through) / flow if flow > 0 else 1.0
        steps += [
            _air_step(point, (COOLER,), "the cooler draws", inlet),
            _flow_step(point, "Air through the cooler", flow),
            Step("Conductance of its fins", ua, "W/K", "UA = UA_ref (ρ Q / ρ_ref Q_ref)^0.5", _source("incropera")),
            Step("Effectiveness", 100 * eps, "%", "ε = 1 − exp(−UA/C), C = ρ cp Q", _source("incropera")),
            Step("Fins over the air they get", hot - inlet, "K", "P / (C ε)", _source("incropera")),
        ]
        base = cooler.r_base_k_per_w
    else:
        steps += _loop_steps(point, inlet, hot)
        base = cooler.r_plate_k_per_w
    above = power * point.cpu_above_k_w
    parts = (Part("inside the processor", power * m.cpu.r_jc_k_per_w, "K"), Part("base or plate", power * base, "K"))
    steps.append(Step("Core over fins or coolant", above, "K", "P (R_jc + R_base)", _source("incropera"), parts))
    steps.append(Step("Processor over room", point.cpu_rise_k, "K", "the sum of the above"))
    steps.append(_band_step(point, "cpu", point.cpu_rise_k))
    return Account("cpu", "How warm the processor gets", tuple(steps))


def _loop_steps(point: OperatingPoint, inlet: float, hot: float) -> list[Step]:
    pg, q = point.plan.program, np.abs(point.flow_m3s)
    heat = point.density * k.AIR_HEAT_CAPACITY_J_KGK
    first = pg.n + (1 if isinstance(point.machine.cooler, SealedCooler) else 4)
    of_radiators = (pg.role == RADIATOR) & (pg.sink == first)
    carries = float((heat * q * point.effectiveness) @ of_radiators)
    parts: dict[str, float] = {}
    for i in np.flatnonzero(of_radiators):
        name = (point.links[i].mount or point.links[i].id).upper()
        parts[name] = parts.get(name, 0.0) + float(q[i]) * M3H_PER_M3S
    flows = tuple(Part(f"at {name}", flow, "m3/h") for name, flow in parts.items())
    return [
        _air_step(point, (RADIATOR,), "the radiators draw", inlet),
        _flow_step(point, "Air through the radiators", float(q @ of_radiators), flows),
        Step(
            "What the fins carry per K",
            carries,
            "W/K",
            "Σ C ε with UA = UA_50 (Q/Q_50)^0.45 by face and thickness",
            _source("incropera", "trade"),
        ),
        Step("Coolant over the air", hot - inlet, "K", "P / Σ C ε", _source("incropera")),
        Step("Coolant over room", hot, "K", "the sum of the two"),
    ]


def _coolant(point: OperatingPoint) -> Account:
    m, powers = point.machine, point.powers
    hot = point.rises_k[COOLANT]
    heats = []
    if isinstance(m.cooler, SealedCooler):
        heats.append(Part("processor", powers.cpu_w, "W"))
    if m.card and m.card.block_k_per_w is not None and (m.card_loop is None or not heats):
        heats.append(Part("card", powers.card_w, "W"))
    inlet = point.cpu_inlet_rise_k if isinstance(m.cooler, SealedCooler) else point.loop_inlet_rise_k
    into = Step("Heat into the loop", sum(h.value for h in heats), "W", "of what stands on it", parts=tuple(heats))
    steps = (into, *_loop_steps(point, inlet, hot))
    return Account("coolant", "How warm the coolant gets", (*steps, _band_step(point, "coolant", hot)))


def _card(point: OperatingPoint) -> Account:
    m, power = point.machine, point.powers.card_w
    assert m.card is not None
    if m.card.block_k_per_w is not None:
        return _card_on_loop(point, m.card.block_k_per_w)
    inlet, rise = point.card_inlet_rise_k or 0.0, point.card_rise_k or 0.0
    steps = list(_limit_steps(point.powers.card_limited, m.card.power_w, power, "the card"))
    flow = point.card_flow_m3s
    steps += [
        Step("Heat of the card", power, "W", "from its sheet and the load"),
        _air_step(point, (CARD_IN,), "the card draws", inlet),
        _flow_step(point, "Air through the card", flow),
        Step(
            "Resistance of the card",
            1 / point.core_w_k,
            "K/W",
            "R (f + (1 − f) (Q_ref/Q)^0.6), Q_ref half of its fans' free flow",
            _source("trade"),
        ),
        Step("Core over the air it gets", power / point.core_w_k, "K", "P R"),
        Step("Card over room", rise, "K", "the sum of the two"),
        _band_step(point, "card", rise),
    ]
    return Account("card", "How warm the card gets", tuple(steps))


def _card_on_loop(point: OperatingPoint, block_k_per_w: float) -> Account:
    m, power, rise = point.machine, point.powers.card_w, point.card_rise_k or 0.0
    assert m.card is not None
    own = rise - power / point.core_w_k
    steps = (
        *_limit_steps(point.powers.card_limited, m.card.power_w, power, "the card"),
        Step("Heat of the card", power, "W", "from its sheet and the load; all of it goes into the loop"),
        Step("Coolant at its block, over room", own, "K", "heat balance of the loop", _source("incropera")),
        Step("Core over coolant", power / point.core_w_k, "K", "P R of the block", _source("incropera")),
        Step("Card over room", rise, "K", "the sum of the two"),
        _band_step(point, "card", rise),
    )
    return Account("card", "How warm the card gets", steps)


def _rear(point: OperatingPoint) -> Account:
    pg = point.plan.program
    into: list[Part] = []
    at = point.plan.at["up_rear"]
    for i, q in enumerate(point.flow_m3s.tolist()):
        if (pg.head[i] if q >= 0 else pg.tail[i]) == at and abs(q) * M3H_PER_M3S > 1:
            link = point.links[i]
            start = [*point.plan.nodes, ROOM][pg.tail[i] if q >= 0 else pg.head[i]]
            words = "through the cooler" if link.kind == "cooler" else "out of the card" if link.kind == "card_out" else node_words(start)
            into.append(Part(words, abs(q) * M3H_PER_M3S, "m3/h"))
    steps = (
        Step(
            "Air ahead of the cooler, over room",
            2 * point.rear_rise_k - point.rises_k["up_rear"],
            "K",
            "what the cooler draws in",
            _source("contam"),
        ),
        Step(
            "Air behind it, over room",
            point.rises_k["up_rear"],
            "K",
            "heat balance of the space: Σ C (T − T_upstream) + walls = heat",
            _source("contam"),
            tuple(into),
        ),
        Step("Air at the rear, over room", point.rear_rise_k, "K", "the mean of both, where a probe would be held"),
        _band_step(point, "rear", point.rear_rise_k),
    )
    return Account("rear", "How warm the air at the rear gets", steps)


def _sound(point: OperatingPoint) -> Account:
    m = point.machine
    parts = tuple(Part(words, level, "dBA") for words, level in source_levels(point) if level > -20)
    distance = -20 * log10(m.room.listener_distance_m)
    level = forecast(point).sound.level_dba
    steps = (
        Step(
            "Level of each source where you sit",
            parts[0].value if parts else m.room.background_dba,
            "dBA",
            "sheet at 1 m + 50 log10(speed) + side it faces + obstruction − panel − 20 log10(distance)",
            _source("fan_laws", "kinsler"),
            parts,
        ),
        Step("Distance", distance, "dB", f"−20 log10 of {m.room.listener_distance_m:.1f} m", _source("kinsler")),
        Step("Background", m.room.background_dba, "dBA", "as measured in the room"),
        Step("Sound where you sit", level, "dBA", "10 log10 Σ 10^(L/10)", _source("kinsler")),
        Step("95 % band", sound_band_db(), "± dB", "what sheets and rooms differ by", _source("memory")),
    )
    return Account("sound", "How loud it is", steps)


def _balance(point: OperatingPoint) -> Account:
    b = forecast(point).balance
    ways: dict[str, float] = {}
    for link, q in zip(point.links, point.flow_m3s.tolist(), strict=True):
        if ROOM in (link.tail, link.head):
            name = (
                f"at {link.mount.upper()}"
                if link.mount
                else {
                    "leak": "seams and slot covers",
                    "vent": "vents",
                    "panel": "panels",
                    "card_out": "the card's bracket",
                    "face": "open sides",
                }.get(link.kind, link.kind)
            )
            ways[name] = ways.get(name, 0.0) + (q if link.tail == ROOM else -q) * M3H_PER_M3S
    ordered = sorted(ways.items(), key=lambda e: -abs(e[1]))
    parts = tuple(Part(f"{'in' if q > 0 else 'out'} {name}", abs(q), "m3/h") for name, q in ordered if abs(q) > 0.5)
    steps = (
        Step(
            "Air into and out of the case",
            b.inflow_total_m3h,
            "m3/h",
            "mass balance of every space: Σ Q = 0, by Newton's method",
            _source("contam"),
            parts,
        ),
        Step("Pressure of the case over the room", b.case_pressure_pa, "Pa", "mean of the spaces' pressures"),
        Step("Unfiltered share of what comes in", b.unfiltered_inflow_pct, "%", "openings and mounts without a filter"),
    )
    return Account("balance", "Where the air comes from and goes", steps)
