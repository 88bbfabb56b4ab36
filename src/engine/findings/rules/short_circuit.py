"""Fresh air that leaves through an exhaust before it has cooled anything."""

from collections.abc import Iterator

from engine.findings.finding import Finding, Fix, Situation, gap_mm

WORTH_SAYING = 0.20  # common practice, no source: share of one intake lost at one exhaust
NEAR_SIZES = 1.9  # common practice, no source: an exhaust farther away than this draws air that has crossed the case


def _near(s: Situation, intake: str, exhaust: str) -> bool:
    one, other = s.machine.mounts[intake], s.machine.mounts[exhaust]
    return gap_mm(one, other) <= NEAR_SIZES * max(one.size_mm, other.size_mm)


def intake_leaves_unused(s: Situation) -> Iterator[Finding]:
    worst: dict[str, tuple[str, float]] = {}
    for intake, exits in s.unused.items():
        for u in exits:
            if u.mount and _near(s, intake, u.mount) and u.share >= WORTH_SAYING and u.share > worst.get(u.mount, ("", 0.0))[1]:
                worst[u.mount] = (intake, u.share)
    for exit_mount, (intake, share) in worst.items():
        mounts = s.machine.mounts
        apart = gap_mm(mounts[intake], mounts[exit_mount])
        fans = [f for f in s.machine.fans if f.mount == exit_mount]
        fixes = [Fix(f"Take {exit_mount.upper()} out", "take_out", exit_mount, f.layer) for f in fans[:1]]
        fixes += [Fix(f"Turn {exit_mount.upper()} round", "flip", exit_mount, f.layer) for f in fans[:1]]
        yield Finding(
            code="intake_leaves_unused",
            severity="warning",
            kind="physics",
            mounts=(intake, exit_mount),
            what="Fresh air leaves before it works",
            because=f"Of the air through {intake.upper()}, {100 * share:.0f} % goes out at {exit_mount.upper()}, "
            f"{apart:.0f} mm away, and passes neither heat source.",
            do=f"Take the fan at {exit_mount.upper()} out or turn it round, and compare.",
            fixes=tuple(fixes),
        )
