"""A case with fans that blow in and none that blows out."""

from collections.abc import Iterator

from engine.findings.finding import Finding, Situation


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
