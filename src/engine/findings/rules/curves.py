"""Speed curves that cannot come to rest, and sound that one source makes alone."""

from collections.abc import Iterator

from engine.coupled.forecast import HUNTING_GAIN, source_levels
from engine.findings.finding import Finding, Situation
from engine.sound.levels import sum_levels_dba

ALONE_DB = 5.0  # common practice, no source: one source this far above all others together is heard by itself


def curve_hunts(s: Situation) -> Iterator[Finding]:
    gain = s.point.curving.loop_gain
    if gain >= HUNTING_GAIN:
        return
    curved = tuple(f.mount for f in s.machine.fans if f.curve)
    yield Finding(
        code="curve_hunts",
        severity="warning",
        kind="physics",
        mounts=curved,
        what="A speed curve is too steep to come to rest",
        because=f"Round the loop of curve and heat, 1 % of speed comes back as {-gain:.1f} % the other way; "
        "the fans go up and down by turns.",
        do="Make the curve flatter about the working temperature, or give it more hysteresis.",
    )


def two_equilibria(s: Situation) -> Iterator[Finding]:
    other = s.point.curving.other_cpu_rise_k
    if other is None:
        return
    yield Finding(
        code="two_equilibria",
        severity="warning",
        kind="physics",
        mounts=tuple(f.mount for f in s.machine.fans if f.curve),
        what="With these curves the machine can come to rest at two temperatures",
        because=f"Coming from cold the processor ends {s.point.cpu_rise_k:.0f} K over room, coming from full speed {other:.0f} K.",
        do="Change the curves so that more heat always means more air where it is needed.",
    )


def one_source_alone(s: Situation) -> Iterator[Finding]:
    limit, sources = s.machine.room.sound_limit_dba, source_levels(s.point)
    if limit is None or s.forecast.sound.level_dba <= limit or len(sources) < 2:
        return
    first, rest = sources[0], sum_levels_dba(level for _, level in sources[1:])
    if first[1] - rest < ALONE_DB:
        return
    yield Finding(
        code="one_source_alone",
        severity="note",
        kind="taste",
        mounts=(),
        what=f"One source is heard above all others: {first[0]}",
        because=f"It is at {first[1]:.0f} dBA, {first[1] - rest:.0f} dB over all others together.",
        do="Slowing that one alone makes the machine quieter; nothing else does.",
    )


RULES = (curve_hunts, two_equilibria, one_source_alone)
