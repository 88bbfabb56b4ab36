"""Neighbouring fans on one face that blow in opposite directions."""

from collections.abc import Iterator
from itertools import combinations

from engine.findings.finding import Finding, Fix, Situation, gap_mm

NEAR_SIZES = 1.35  # common practice, no source: centres nearer than this many fan sizes are neighbours


def neighbours_fight(s: Situation) -> Iterator[Finding]:
    running = [f for f in s.machine.fans if f.running and f.speed_pct > 0]
    seen: set[frozenset[str]] = set()
    for one, other in combinations(running, 2):
        a, b = s.mount(one), s.mount(other)
        pair = frozenset((a.id, b.id))
        near = gap_mm(a, b) <= NEAR_SIZES * max(one.fan.size_mm, other.fan.size_mm)
        if a.id == b.id or a.face != b.face or a.on_shroud != b.on_shroud or one.direction == other.direction or not near or pair in seen:
            continue
        seen.add(pair)
        intake, exhaust = (one, other) if one.direction == "intake" else (other, one)
        back = next((u.share for u in s.unused.get(intake.mount, []) if u.mount == exhaust.mount), 0.0)
        yield Finding(
            code="neighbours_fight",
            severity="warning",
            kind="physics",
            mounts=(intake.mount, exhaust.mount),
            what=f"{intake.mount.upper()} blows in beside {exhaust.mount.upper()}, which blows out",
            because=f"Their centres are {gap_mm(a, b):.0f} mm apart; inside, {100 * back:.0f} % of the air drawn in at "
            f"{intake.mount.upper()} leaves at its neighbour unused, and outside it draws in warm air.",
            do="Let neighbours on one face blow the same way.",
            fixes=(
                Fix(f"Turn {intake.mount.upper()} round", "flip", intake.mount, intake.layer),
                Fix(f"Turn {exhaust.mount.upper()} round", "flip", exhaust.mount, exhaust.layer),
            ),
        )
