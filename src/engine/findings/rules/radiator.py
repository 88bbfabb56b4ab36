"""Radiators and their loops: fans missing, gaps, size, tubes, where their heat goes, what their fans follow."""

from collections.abc import Iterator
from dataclasses import replace

from engine.findings.finding import Finding, Fix, Situation, kelvin, names
from engine.machine import Machine, SealedCooler
from engine.units import M3H_PER_M3S

COOLANT_LIMIT_C = 60.0  # common practice, no source: what makers of sealed loops commonly allow
COOLANT_WARM_C = 50.0  # pumps and tubes are mostly rated to 60; common practice, no source
PUMP_SLOW_PCT = 60.0  # common practice, no source
HEATS_K = 1.5  # common practice, no source


def radiator_without_fan(s: Situation) -> Iterator[Finding]:
    bare = [m for m in sorted(s.cooled) if not any(f.mount == m and f.running for f in s.machine.fans)]
    if not bare:
        return
    flow = sum(abs(q) for link, q in zip(s.point.links, s.point.flow_m3s.tolist(), strict=True) if link.mount in bare) * M3H_PER_M3S
    yield Finding(
        code="radiator_without_fan",
        severity="error",
        kind="physics",
        mounts=tuple(bare),
        what=f"No fan turns on the radiator at {names(bare)}",
        because=f"{flow:.0f} m³/h drift through that part of it.",
        do="Put a fan on every section of the radiator, all blowing the same way.",
    )


def radiator_gap(s: Situation) -> Iterator[Finding]:
    for radiator in (r for loop in s.machine.loops for r in loop.radiators):
        if radiator.gap_mm < 1:
            continue
        past = sum(abs(q) for link, q in zip(s.point.links, s.point.flow_m3s.tolist(), strict=True) if ":past:" in link.id) * M3H_PER_M3S
        change = s.if_machine(_closed(s.machine))
        yield Finding(
            code="radiator_gap",
            severity="warning",
            kind="physics",
            mounts=radiator.mounts,
            what=f"A gap of {radiator.gap_mm:.0f} mm between fan and radiator",
            because=f"{past:.0f} m³/h pass the fins by; with the gap closed the {'card' if s.cools_card_only else 'processor'} is "
            f"{kelvin(change.card_k if s.cools_card_only else change.cpu_k)}. Fan and radiator apart do worse than either flush or none.",
            do="Screw the fans flush to the radiator, or close the gap with a frame.",
            fixes=(Fix("Close the gap", "close_gap"),),
        )


def _closed(machine: Machine) -> Machine:
    def flush(loop: SealedCooler) -> SealedCooler:
        return replace(loop, radiators=tuple(replace(r, gap_mm=0.0) for r in loop.radiators))

    cooler = flush(machine.cooler) if isinstance(machine.cooler, SealedCooler) else machine.cooler
    return replace(machine, cooler=cooler, card_loop=machine.card_loop and flush(machine.card_loop))


def radiator_too_small(s: Situation) -> Iterator[Finding]:
    coolant = s.forecast.coolant
    if coolant is None or coolant.temperature_c < COOLANT_WARM_C:
        return
    over = coolant.temperature_c >= COOLANT_LIMIT_C
    yield Finding(
        code="radiator_too_small",
        severity="error" if over else "warning",
        kind="practice",
        mounts=tuple(sorted(s.cooled)),
        what="The radiator is small for this heat",
        because=f"The coolant settles at {coolant.temperature_c:.0f} °C, {coolant.rise_k:.0f} K over room, "
        f"with {s.into_loop_w:.0f} W into it; "
        f"makers commonly allow {COOLANT_LIMIT_C:.0f} °C.",
        do="A larger radiator, faster fans on it, or less power. Hot coolant ages tubes and pump.",
    )


def radiator_heats_case(s: Situation) -> Iterator[Finding]:
    intakes = [f for f in s.running("intake") if s.on_radiator(f)]
    if not intakes or s.machine.card is None:
        return
    mounts = {f.mount for f in intakes}
    fans = tuple(replace(f, direction="exhaust") if f.mount in mounts else f for f in s.machine.fans)
    change = s.if_machine(replace(s.machine, fans=fans))
    if change.card_k > -HEATS_K:
        return
    yield Finding(
        code="radiator_heats_case",
        severity="note",
        kind="physics",
        mounts=tuple(sorted(mounts)),
        what="The radiator's warm air goes to the card",
        because=f"Blowing out instead, the card is {kelvin(change.card_k)} and the processor {kelvin(change.cpu_k)}.",
        do="Choose which part matters more: in is better for the processor, out for the card.",
    )


def pump_slow(s: Situation) -> Iterator[Finding]:
    cooler = s.machine.cooler
    speed = s.point.speeds.pump
    if not isinstance(cooler, SealedCooler) or speed >= PUMP_SLOW_PCT:
        return  # a card's own loop runs its pump from the card
    change = s.if_machine(replace(s.machine, cooler=replace(cooler, pump_pct=100.0, pump_curve=None)))
    yield Finding(
        code="pump_slow",
        severity="warning",
        kind="practice",
        mounts=tuple(sorted(s.cooled)),
        what=f"The pump runs at {speed:.0f} %",
        because=f"At full speed the processor is {kelvin(change.cpu_k)}; a pump on a fan curve may stall.",
        do="Run the pump at a fixed, high speed; slow the fans instead.",
    )


def radiator_fans_follow_wrong(s: Situation) -> Iterator[Finding]:
    wrong = [f for f in s.turning if s.on_radiator(f) and f.curve is not None and f.curve.source in ("card", "board", "case_air")]
    if not wrong:
        return
    coolant = s.forecast.coolant
    warm = f"the coolant is at {coolant.temperature_c:.0f} °C" if coolant else "the coolant is not looked at"
    yield Finding(
        code="radiator_fans_follow_wrong",
        severity="warning",
        kind="practice",
        mounts=tuple(f.mount for f in wrong),
        what="The radiator's fans follow the wrong temperature",
        because=f"They follow {wrong[0].curve.source if wrong[0].curve else ''} while {warm}.",
        do="Let them follow the coolant, or the processor where there is no coolant sensor.",
    )


def dust_face_covered(s: Situation) -> Iterator[Finding]:
    """Fans on the side where air enters the fins: dust gathers between them, out of reach of a brush."""
    for r in (r for loop in s.machine.loops for r in loop.radiators):
        on = [f for f in s.turning if f.mount in r.mounts]
        entering = [f for f in on if f.layer == ("outer" if f.direction == "intake" else "inner")]
        filtered = any(link.filtered for link in s.point.links if link.mount in r.mounts)
        if not entering or len(entering) < len(on) or filtered:
            continue
        yield Finding(
            code="dust_face_covered",
            severity="note",
            kind="practice",
            mounts=r.mounts,
            what="Dust gathers between the fans and the fins",
            because=f"The fans stand where {sum(s.flow_m3h(f) for f in on):.0f} m³/h of unfiltered air enter the radiator.",
            do="Accept it and plan to take the fans off for cleaning, put a filter before them, or let them draw from the other side.",
        )


RULES = (
    dust_face_covered,
    radiator_without_fan,
    radiator_too_small,
    radiator_gap,
    pump_slow,
    radiator_fans_follow_wrong,
    radiator_heats_case,
)
