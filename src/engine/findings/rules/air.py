"""Where the air comes from and goes: openings, filters, panels, still corners, pressure."""

from collections.abc import Iterator
from dataclasses import replace

from engine.coupled.links import ROOM
from engine.findings.finding import Finding, Fix, Situation, kelvin, names
from engine.machine import Face
from engine.units import M3H_PER_M3S

WORTH_M3H = 5.0  # less is not worth saying; common practice, no source
WORTH_K = 2.0  # common practice, no source: what a panel must cost to be worth a word
FILTER_K = 0.3  # common practice, no source
STRONG_PA = 6.0  # common practice, no source


def no_intake(s: Situation) -> Iterator[Finding]:
    if s.running("intake") or not s.running("exhaust") or s.machine.open_faces:
        return
    b = s.forecast.balance
    yield Finding(
        code="no_intake",
        severity="note",
        kind="practice",
        mounts=tuple(f.mount for f in s.running("exhaust")),
        what="No fan blows in",
        because=f"{b.inflow_total_m3h:.0f} m³/h come in through every gap, {b.unfiltered_inflow_pct:.0f} % of it unfiltered.",
        do="Put a filtered intake in front or at the bottom.",
    )


def intake_without_filter(s: Situation) -> Iterator[Finding]:
    m = s.machine
    bare = [
        f
        for f in s.running("intake")
        if not s.mount(f).on_shroud
        and f.mount not in s.cooled
        and ((p := m.panels.get(s.mount(f).face)) is None or p.filter == "none" or p.removed)
    ]
    flow = sum(max(s.flow_m3h(f), 0.0) for f in bare)
    if not bare or flow < WORTH_M3H:
        return
    yield Finding(
        code="intake_without_filter",
        severity="note",
        kind="practice",
        mounts=tuple(f.mount for f in bare),
        what="Intake without a filter",
        because=f"{flow:.0f} m³/h come in unfiltered at {names([f.mount for f in bare])} and bring dust.",
        do="Fit a filter there, or clean the machine more often (off, unplugged, blades held).",
    )


def filter_on_exhaust(s: Situation) -> Iterator[Finding]:
    m = s.machine
    for face, panel in m.panels.items():
        fans = [f for f in s.turning if s.mount(f).face == face and not s.mount(f).on_shroud]
        if panel.removed or panel.filter == "none" or not fans or any(f.direction == "intake" for f in fans):
            continue
        without = replace(m, panels={**m.panels, face: replace(panel, filter="none")})
        change = s.if_machine(without)
        if min(change.cpu_k, change.card_k) > -FILTER_K:
            continue
        flow = sum(s.flow_m3h(f) for f in fans)
        yield Finding(
            code="filter_on_exhaust",
            severity="note",
            kind="physics",
            mounts=tuple(f.mount for f in fans),
            what=f"A filter before the exhaust at the {face}",
            because=f"It brakes {flow:.0f} m³/h that need no filter; without it the processor is {kelvin(change.cpu_k)}.",
            do="Take the filter out where air only leaves.",
        )


def panel_chokes(s: Situation) -> Iterator[Finding]:
    m = s.machine
    for face, panel in m.panels.items():
        fans = [f for f in s.turning if s.mount(f).face == face and not s.mount(f).on_shroud]
        if panel.removed or not fans or face == "window":
            continue
        off = replace(m, panels={**m.panels, face: replace(panel, removed=True)})
        change = s.if_machine(off)
        if min(change.cpu_k, change.card_k) > -WORTH_K:
            continue
        flow = sum(abs(s.flow_m3h(f)) for f in fans)
        yield Finding(
            code="panel_chokes",
            severity="warning" if min(change.cpu_k, change.card_k) < -2.5 * WORTH_K else "note",
            kind="physics",
            mounts=tuple(f.mount for f in fans),
            what=f"The {face} panel chokes the fans behind it",
            because=f"With it {names([f.mount for f in fans])} move {flow:.0f} m³/h; without it the processor is {kelvin(change.cpu_k)} "
            f"and the card {kelvin(change.card_k)}.",
            do="Try it off or stood off in a run of its own; a mesh of more open area does the same for good.",
        )


def panel_off(s: Situation) -> Iterator[Finding]:
    m = s.machine
    off: list[Face] = [*m.open_faces, *(f for f, p in m.panels.items() if p.removed)]
    if not off:
        return
    b = s.forecast.balance
    yield Finding(
        code="panel_off",
        severity="note",
        kind="practice",
        mounts=tuple(x.id for x in m.mounts.values() if x.face in off),
        what=f"Panel off: {', '.join(sorted(off))}",
        because=f"{b.unfiltered_inflow_pct:.0f} % of what comes in is unfiltered, and blades and hot parts are within reach.",
        do="Fine for a test with care; fit it again for daily use, or say in the note why not.",
        fixes=tuple(Fix(f"Fit the {face} panel again", "fit_panel", to=face) for face in sorted(off)),
    )


def still_corner(s: Situation) -> Iterator[Finding]:
    for space in s.picture.dead:
        row, column = space.split("_")
        where = f"{'above' if row == 'up' else 'below'} the card, {column}"
        yield Finding(
            code="still_corner",
            severity="note",
            kind="physics",
            mounts=(),
            what=f"Air stands still {where}",
            because=f"It is {s.picture.age_s[space]:.0f} s old on average, against {s.picture.mean_age_s:.0f} s in the case.",
            do="No part that needs cooling should sit there; a fan towards it or a gap in the way of the main stream helps.",
        )


def pressure_strong(s: Situation) -> Iterator[Finding]:
    pressure = s.forecast.balance.case_pressure_pa
    if abs(pressure) < STRONG_PA:
        return
    more, b = "in" if pressure > 0 else "out", s.forecast.balance
    yield Finding(
        code="pressure_strong",
        severity="note",
        kind="physics",
        mounts=tuple(f.mount for f in s.running("intake" if pressure > 0 else "exhaust")),
        what=f"The fans work hard against the case: {pressure:+.0f} Pa",
        because=f"Fans blow {b.intake_m3h:.0f} m³/h in and {b.exhaust_m3h:.0f} m³/h out: far more {more} than "
        "the openings pass; much of their work and noise moves no air.",
        do=f"Open a way {'out' if pressure > 0 else 'in'}, slow them down, or turn one round.",
    )


def bracket_breathes_in(s: Situation) -> Iterator[Finding]:
    for link, q in zip(s.point.links, s.point.flow_m3s.tolist(), strict=True):
        inward = (q if link.tail == ROOM else -q) * M3H_PER_M3S
        if link.kind == "card_out" and ROOM in (link.tail, link.head) and inward > 1.0:
            yield Finding(
                code="bracket_breathes_in",
                severity="note",
                kind="physics",
                mounts=tuple(f.mount for f in s.running("exhaust"))[:3],
                what="Room air is drawn in through the card's bracket",
                because=f"{inward:.0f} m³/h flow the wrong way there, warm from behind the machine and unfiltered.",
                do="Let more air in elsewhere, or slow an exhaust.",
            )


def supply_heat_inside(s: Situation) -> Iterator[Finding]:
    if s.machine.supply_heat_w <= 0:
        return
    rises = s.point.rises_k
    where = "basement_rear" if s.machine.shroud else "low_rear"
    yield Finding(
        code="supply_heat_inside",
        severity="note",
        kind="physics",
        mounts=(),
        what="The power supply warms the case",
        because=f"Its {s.machine.supply_heat_w:.0f} W stay inside; the air around it is {rises[where]:.0f} K over room.",
        do="Turn its fan towards a vent of its own, if the case has one.",
    )


RULES = (
    no_intake,
    panel_chokes,
    filter_on_exhaust,
    intake_without_filter,
    panel_off,
    still_corner,
    pressure_strong,
    bracket_breathes_in,
    supply_heat_inside,
)
