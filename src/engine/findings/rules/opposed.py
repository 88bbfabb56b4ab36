"""Two layers of fans that blow against each other through one radiator, or through one mount."""

from collections.abc import Iterator

from engine.findings.finding import Finding, Fix, Situation, names


def radiator_fans_opposed(s: Situation) -> Iterator[Finding]:
    by_mount: dict[str, set[str]] = {}
    for fan in s.machine.fans:
        if fan.running:
            by_mount.setdefault(fan.mount, set()).add(fan.direction)
    mounts = tuple(m for m, ways in by_mount.items() if len(ways) == 2)
    if not mounts:
        return
    on_radiator = any(link.radiator for link in s.point.links if link.mount in mounts)
    flow = max(abs(f.flow_m3h) for f in s.forecast.fans if f.mount in mounts)
    thing = "the radiator" if on_radiator else "one mount"
    yield Finding(
        code="radiator_fans_opposed" if on_radiator else "fans_opposed_in_series",
        severity="error",
        kind="physics",
        mounts=mounts,
        what=f"Fans blow against each other through {thing}",
        because=f"The two layers at {names(mounts)} cancel: {flow:.0f} m³/h is left through each mount.",
        do="Turn one layer round so that both blow the same way.",
        fixes=tuple(Fix(f"Turn the inner fan at {m.upper()} round", "flip", m, "inner") for m in mounts),
    )
