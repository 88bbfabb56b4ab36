"""What card and processor suffer from: starving, their own air, warm intakes, limits."""

from collections.abc import Iterator
from dataclasses import replace

from engine.coupled.program import COOLER
from engine.findings.finding import Finding, Fix, Situation, kelvin
from engine.machine import AirCooler

OWN_AIR = 0.30  # common practice, no source: share of spent air from which on a word is due
STARVED_K = 10.0  # common practice, no source: inlet over room
WORTH_K = 1.5  # what builders call no difference; common practice, no source
LEAST_LOST_W, GRAVE_SHARE = 0.05, 0.02  # common practice, no source: 2 % of its power is what a part gives up unnoticed


def part_at_limit(s: Situation) -> Iterator[Finding]:
    m, powers = s.machine, s.point.powers
    parts = [("processor", powers.cpu_limited, m.cpu.power_w, powers.cpu_w, m.cpu.tj_max_c)]
    if m.card:
        parts.append(("card", powers.card_limited, m.card.power_w, powers.card_w, m.card.t_limit_c))
    for name, limited, asked, held, limit in parts:
        lost = asked - held
        if limited and lost >= LEAST_LOST_W:
            yield Finding(
                code=f"{name}_at_limit",
                severity="error" if lost >= GRAVE_SHARE * asked else "note",
                kind="physics",
                mounts=(),
                what=f"The {name} is held at its limit",
                because=f"At {limit:.0f} °C it gives up {_share(lost, asked)}.",
                do="More air, a larger cooler, or a lower power limit; compare such layouts by power, not by temperature.",
            )


def _share(lost_w: float, asked_w: float) -> str:
    """``40 of 220 W (18 %)``; tenths where whole numbers would say nothing."""
    pct = 100 * lost_w / asked_w
    return f"{lost_w:.{0 if lost_w >= 2 else 1}f} of {asked_w:.0f} W ({pct:.{0 if pct >= 2 else 1}f} %)"


def card_starved(s: Situation) -> Iterator[Finding]:
    inlet = s.point.card_inlet_rise_k
    if inlet is None or inlet < STARVED_K:
        return
    own = s.picture.card_own_share or 0.0
    yield Finding(
        code="card_starved",
        severity="warning",
        kind="physics",
        mounts=(),
        what="The card is starved of fresh air",
        because=f"It draws in air {inlet:.0f} K over room; {100 * own:.0f} % of it has been through the card before.",
        do="Bring air in below the card: a bottom or low front intake, or less in its way.",
    )


def card_own_air(s: Situation) -> Iterator[Finding]:
    own, inlet = s.picture.card_own_share, s.point.card_inlet_rise_k
    if own is None or inlet is None or own < OWN_AIR or inlet >= STARVED_K or s.machine.card is None or s.point.powers.card_w < 30:
        return
    yield Finding(
        code="card_own_air",
        severity="note",
        kind="physics",
        mounts=(),
        what="The card breathes its own air",
        because=f"{100 * own:.0f} % of what it draws in has been through it before; that alone is most of its {inlet:.0f} K at the inlet.",
        do="Take its warm air away above it, or bring fresh air below it.",
    )


def cooler_own_air(s: Situation) -> Iterator[Finding]:
    cooler, own = s.machine.cooler, s.picture.cooler_own_share
    if not isinstance(cooler, AirCooler) or own < OWN_AIR or s.point.powers.cpu_w < 30:
        return
    yield Finding(
        code="cooler_own_air",
        severity="warning",
        kind="physics",
        mounts=(),
        what="The cooler breathes its own air",
        because=f"{100 * own:.0f} % of what it draws in has been through its fins before, at {s.point.cpu_inlet_rise_k:.0f} K over room.",
        do="An exhaust behind it, or more air across, carries its outlet away.",
    )


def card_air_at_cooler(s: Situation) -> Iterator[Finding]:
    share = s.drawn(COOLER).get("the card's rising air", 0.0)
    chimney = isinstance(s.machine.cooler, AirCooler) and s.machine.cooler.direction == "up"
    if share < 0.25 or chimney or s.point.powers.card_w < 30:
        return
    yield Finding(
        code="card_air_at_cooler",
        severity="note",
        kind="physics",
        mounts=(),
        what="The cooler draws in the card's air",
        because=f"{100 * share:.0f} % of what it draws in rises from the card; its inlet is {s.point.cpu_inlet_rise_k:.0f} K over room.",
        do="A stronger stream from the front keeps it away; top exhausts ahead of the cooler draw it up.",
    )


def chimney_over_card(s: Situation) -> Iterator[Finding]:
    m = s.machine
    if (
        not isinstance(m.cooler, AirCooler)
        or m.cooler.direction != "up"
        or m.card_on_air is None
        or m.card_on_air.shroud != "open"
        or s.point.powers.card_w < 30
    ):
        return
    change = s.if_machine(replace(m, cooler=replace(m.cooler, direction="rear")))
    if change.cpu_k > -WORTH_K:
        return
    yield Finding(
        code="chimney_over_card",
        severity="warning",
        kind="physics",
        mounts=(),
        what="The tower blows up and draws in the card's air",
        because=f"Its inlet is {s.point.cpu_inlet_rise_k:.0f} K over room; turned to the rear the processor is {kelvin(change.cpu_k)}.",
        do="Turn the tower so that it blows to the rear.",
        fixes=(Fix("Turn the tower to the rear", "turn_cooler", to="rear"),),
    )


def top_intake_over_card(s: Situation) -> Iterator[Finding]:
    for fan in s.running("intake"):
        change = s.fan_changes.get((fan.mount, fan.layer, "flip"))
        if s.mount(fan).face != "top" or change is None or change.card_k > -WORTH_K or s.on_radiator(fan):
            continue
        yield Finding(
            code="top_intake_over_card",
            severity="warning",
            kind="physics",
            mounts=(fan.mount,),
            what=f"{fan.mount.upper()} blows the card's warm air back down",
            because=f"Turned round, the card is {kelvin(change.card_k)} and the processor {kelvin(change.cpu_k)}.",
            do=f"Turn the fan at {fan.mount.upper()} round.",
            fixes=(Fix(f"Turn {fan.mount.upper()} round", "flip", fan.mount, fan.layer),),
        )


def bottom_exhaust_under_card(s: Situation) -> Iterator[Finding]:
    for fan in s.running("exhaust"):
        change = s.fan_changes.get((fan.mount, fan.layer, "flip"))
        if s.mount(fan).face != "bottom" or s.machine.card_on_air is None or change is None or change.card_k > -WORTH_K / 3:
            continue
        yield Finding(
            code="bottom_exhaust_under_card",
            severity="warning",
            kind="physics",
            mounts=(fan.mount,),
            what=f"{fan.mount.upper()} takes the card's air away from under it",
            because=f"It draws off {s.flow_m3h(fan):.0f} m³/h just where the card breathes; "
            f"turned round the card is {kelvin(change.card_k)}.",
            do=f"Turn the fan at {fan.mount.upper()} round.",
            fixes=(Fix(f"Turn {fan.mount.upper()} round", "flip", fan.mount, fan.layer),),
        )


def upright_near_window(s: Situation) -> Iterator[Finding]:
    m = s.machine
    if m.card_on_air is None or m.card_on_air.orientation != "upright":
        return
    change = s.if_machine(replace(m, card=replace(m.card_on_air, orientation="flat")))
    if change.card_k > -WORTH_K:
        return
    yield Finding(
        code="upright_near_window",
        severity="warning",
        kind="physics",
        mounts=(),
        what="The upright card breathes poorly before the window",
        because=f"It draws in air {s.point.card_inlet_rise_k or 0:.0f} K over room; lying flat it is {kelvin(change.card_k)}.",
        do="Lay it flat, move it farther from the window, or use a vented side panel.",
        fixes=(Fix("Lay the card flat", "lay_card_flat"),),
    )


def exhaust_weaker_than_cooler(s: Situation) -> Iterator[Finding]:
    m = s.machine
    if not isinstance(m.cooler, AirCooler) or m.cooler.kind != "tower" or m.cooler.direction != "rear":
        return
    cooler = sum(abs(q) for link, q in zip(s.point.links, s.point.flow_m3s.tolist(), strict=True) if link.kind == "cooler") * 3600
    near = [f for f in s.running("exhaust") if s.mount(f).face in ("rear", "top") and s.mount(f).centre_mm.x > m.cpu_x_mm]
    taken = sum(s.flow_m3h(f) for f in near)
    if not near or taken >= 0.8 * cooler:
        return
    yield Finding(
        code="exhaust_weaker_than_cooler",
        severity="note",
        kind="physics",
        mounts=tuple(f.mount for f in near),
        what="The exhaust moves less than the cooler",
        because=f"The cooler blows {cooler:.0f} m³/h at it and it takes {taken:.0f} m³/h away; the rest rolls back.",
        do="A faster exhaust behind the cooler, or a slower cooler.",
    )


def downdraft_starved(s: Situation) -> Iterator[Finding]:
    m = s.machine
    window = m.panels.get("window")
    if not isinstance(m.cooler, AirCooler) or m.cooler.kind != "downdraft" or window is None or window.kind not in ("glass", "solid"):
        return
    if m.cooler.direction == "away" or s.point.cpu_inlet_rise_k < 3:
        return
    yield Finding(
        code="downdraft_starved",
        severity="warning",
        kind="physics",
        mounts=(),
        what="The downdraft cooler sits behind a closed window",
        because=f"It draws in air {s.point.cpu_inlet_rise_k:.0f} K over room, {100 * s.picture.cooler_own_share:.0f} % of it its own.",
        do="A vented side panel, or turn it so that it blows away from the board.",
        fixes=(Fix("Let it blow away from the board", "turn_cooler", to="away"),),
    )


RULES = (
    part_at_limit,
    card_starved,
    top_intake_over_card,
    bottom_exhaust_under_card,
    chimney_over_card,
    upright_near_window,
    cooler_own_air,
    downdraft_starved,
    card_air_at_cooler,
    card_own_air,
    exhaust_weaker_than_cooler,
)
