"""A case with fans that blow in and none, or a single weak one, that blows out."""

from collections.abc import Iterator
from dataclasses import replace

from engine.findings.finding import Finding, Situation, kelvin

ALONE_SHARE = 0.5  # common practice, no source: of what intakes bring, what one exhaust should take at least


def single_exhaust(s: Situation) -> Iterator[Finding]:
    out, into = s.running("exhaust"), s.running("intake")
    mounts = {f.mount for f in out}
    if len(mounts) != 1 or len({f.mount for f in into}) < 2 or s.machine.open_faces:
        return
    fan, b = out[0], s.forecast.balance
    if b.exhaust_m3h >= ALONE_SHARE * b.intake_m3h:
        return
    without = s.if_machine(replace(s.machine, fans=tuple(f for f in s.machine.fans if f.mount != fan.mount)))
    yield Finding(
        code="single_exhaust",
        severity="note",
        kind="practice",
        mounts=(fan.mount,),
        what=f"All that is blown out goes by {fan.mount.upper()} alone",
        because=f"It takes {b.exhaust_m3h:.0f} of {b.intake_m3h:.0f} m³/h that come in; the rest seeks its own way. If it stops, "
        f"the processor is {kelvin(without.cpu_k)} and the card {kelvin(without.card_k)}.",
        do="Look that its way is free, and log its speed; a second exhaust is worth a run where the card or the top gets warm.",
    )


def no_exhaust(s: Situation) -> Iterator[Finding]:
    if s.running("exhaust") or not s.machine.mounts or s.machine.open_faces:
        return
    air = s.forecast.air
    rise = air.rear_c - s.machine.room.temperature_c
    yield Finding(
        code="no_exhaust",
        severity="warning",
        kind="physics",
        mounts=tuple(m.id for m in s.machine.mounts.values() if m.face in ("rear", "top"))[:3],
        what="No fan blows out",
        because=f"Warm air finds its own way through gaps at {s.forecast.balance.case_pressure_pa:.1f} Pa; "
        f"at the rear, above the card, it is {rise:.0f} K over room.",
        do="Put one fan at the rear or at the top rear, blowing out.",
    )
