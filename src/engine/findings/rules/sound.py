"""The forecast level against the limit that the person set."""

from collections.abc import Iterator

from engine.findings.finding import Finding, Fix, Situation
from engine.sound.levels import speed_change_db, sum_levels_dba

LEAST_OVER_DB = 0.05  # less is shown as nothing


def decibels(over_db: float) -> str:
    """Whole decibels, tenths of less than two."""
    return f"{over_db:.1f} dB" if over_db < 2 else f"{over_db:.0f} dB"


def over_sound_limit(s: Situation) -> Iterator[Finding]:
    limit = s.machine.room.sound_limit_dba
    level = s.forecast.sound.level_dba
    if limit is None or level - limit < LEAST_OVER_DB:
        return
    case_dba = sum_levels_dba([f.level_dba for f in s.forecast.fans if f.speed_pct > 0])
    rest = 10 ** (level / 10) - 10 ** (case_dba / 10)
    factor = next((p for p in range(99, 9, -1) if rest + 10 ** ((case_dba + speed_change_db(p / 100)) / 10) <= 10 ** (limit / 10)), None)
    curved = any(f.curve for f in s.turning)
    loudest = sorted((f for f in s.forecast.fans if f.speed_pct > 0), key=lambda f: -f.level_dba)[:1]
    because = f"{level:.1f} dBA at the listener against {limit:g}"
    because += f"; the loudest case fan is {loudest[0].mount.upper()} with {loudest[0].level_dba:.0f} dBA." if loudest else "."
    yield Finding(
        code="over_sound_limit",
        severity="warning",
        kind="physics",
        mounts=tuple(f.mount for f in loudest),
        what=f"Over the sound limit by {decibels(level - limit)}",
        because=because,
        do="Some case fans follow a curve: lower its speeds, or give them a fixed one."
        if curved
        else f"Run all case fans at {factor} % of their present speed."
        if factor
        else "Slower case fans alone do not meet it: the cooler, the card or the room is too loud.",
        fixes=(Fix(f"Slow all case fans to {factor} %", "set_speed", speed_pct=float(factor)),) if factor and not curved else (),
    )
