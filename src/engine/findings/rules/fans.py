"""What one fan is worth: useless, turned the wrong way, choked, unplugged, too slow, or unlike its neighbour."""

from collections.abc import Iterator
from dataclasses import replace

from engine.coupled.forecast import mount_flow_m3h
from engine.coupled.operating_point import operating_point
from engine.findings.finding import Finding, Fix, Situation, kelvin, names

NOTHING_K = 0.4  # common practice, no source: less than this nobody can measure
WORTH_FLIPPING_K = 2.0  # common practice, no source: more than the band of most differences
SHADED_SHARE = 0.12  # common practice, no source: a loss that a builder would want to know of
CHOKED_SHARE, BRAKED_SHARE = 0.45, 0.6  # common practice, no source: of the free flow at the same speed: choked; worth a word
MAY_STALL_PCT = 20.0  # common practice, no source: slower, many fans do not start


def fan_adds_nothing(s: Situation) -> Iterator[Finding]:
    if len(s.turning) < 3:
        return
    for fan in s.turning:
        change = s.fan_changes.get((fan.mount, fan.layer, "take_out"))
        if change is None or s.on_radiator(fan) or max(change.cpu_k, change.card_k) > NOTHING_K or change.sound_db > -0.2:
            continue
        yield Finding(
            code="fan_adds_nothing",
            severity="note",
            kind="physics",
            mounts=(fan.mount,),
            what=f"The fan at {fan.mount.upper()} {'does harm' if min(change.cpu_k, change.card_k) < -NOTHING_K else 'adds nothing'}",
            because=f"Without it the processor is {kelvin(change.cpu_k)}, the card {kelvin(change.card_k)}, "
            f"and the machine {-change.sound_db:.1f} dB quieter.",
            do=f"Take the fan at {fan.mount.upper()} out, or slow it down.",
            fixes=(Fix(f"Take {fan.mount.upper()} out", "take_out", fan.mount, fan.layer),),
        )


def flip_would_help(s: Situation) -> Iterator[Finding]:
    best: tuple[float, Finding] | None = None
    for fan in s.turning:
        change = s.fan_changes.get((fan.mount, fan.layer, "flip"))
        if change is None or change.warmest_k > -WORTH_FLIPPING_K / 4 or change.cpu_k + change.card_k > -WORTH_FLIPPING_K:
            continue
        way = "out" if fan.direction == "intake" else "in"
        finding = Finding(
            code="flip_would_help",
            severity="warning",
            kind="physics",
            mounts=(fan.mount,),
            what=f"The fan at {fan.mount.upper()} would do more the other way round",
            because=f"Blowing {way}, the processor is forecast {kelvin(change.cpu_k)} and the card {kelvin(change.card_k)}.",
            do=f"Turn the fan at {fan.mount.upper()} round.",
            fixes=(Fix(f"Turn {fan.mount.upper()} round", "flip", fan.mount, fan.layer),),
        )
        if best is None or change.cpu_k + change.card_k < best[0]:
            best = (change.cpu_k + change.card_k, finding)
    if best:
        yield best[1]


def supply_shades(s: Situation) -> Iterator[Finding]:
    for fan in s.turning:
        mount = s.mount(fan)
        if mount.supply_free >= 1.0:
            continue
        free = replace(mount, blocked_pct=100 - (100 - mount.blocked_pct) / mount.supply_free, supply_free=1.0)
        other = operating_point(replace(s.machine, mounts=s.machine.mounts | {mount.id: free}), s.point.parameters)
        unshaded, now = abs(mount_flow_m3h(other, mount.id)), abs(s.flow_m3h(fan))
        lost = 1 - now / unshaded if unshaded > 0 else 0.0
        if lost < SHADED_SHARE:
            continue
        shaded = 100 * (1 - mount.supply_free)
        yield Finding(
            code="supply_shades",
            severity="warning" if lost >= 2 * SHADED_SHARE else "note",
            kind="physics",
            mounts=(fan.mount,),
            what=f"The supply {'under' if mount.on_shroud else 'over'} {fan.mount.upper()} costs it {100 * lost:.0f} % of its air",
            because=f"It stands before {shaded:.0f} % of the fan: {now:.0f} m³/h instead of {unshaded:.0f} without it.",
            do="Move the fan to a mount that the supply leaves free, or do not count on it.",
        )


def fan_choked(s: Situation) -> Iterator[Finding]:
    for fan, speed in zip(s.machine.fans, s.point.speeds.fans, strict=True):
        share = s.flow_m3h(fan) / max(fan.fan.flow_max_m3h * speed / 100, 1e-9)
        layers = [f for f in s.machine.fans if f.mount == fan.mount and f.running]
        if not fan.running or speed < MAY_STALL_PCT or s.on_radiator(fan) or not 0 <= share < BRAKED_SHARE or len(layers) > 1:
            continue
        mount, panel = s.mount(fan), s.machine.panels.get(s.mount(fan).face)
        causes = [
            ("what stands before it", mount.blocked_pct > 0 or mount.obstruction_k > 0),
            ("its stamped grille", mount.grille_open_pct < 70),
            (f"the {mount.face} panel", panel is not None and not panel.removed and panel.kind != "mesh" and not mount.on_shroud),
            ("mesh and filter", panel is not None and not panel.removed and (panel.kind == "mesh" or panel.filter != "none")),
        ]
        cause = next((words for words, holds in causes if holds), "other fans that work against it")
        yield Finding(
            code="fan_choked",
            severity="warning" if share < CHOKED_SHARE else "note",
            kind="physics",
            mounts=(fan.mount,),
            what=f"The fan at {fan.mount.upper()} {'is choked' if share < CHOKED_SHARE else 'is held back'}",
            because=f"It moves {s.flow_m3h(fan):.0f} m³/h, {100 * share:.0f} % of what it would in free air at this speed; "
            f"{cause} holds it back.",
            do="Clear the way to it, put a fan of higher pressure there, or move it to a free mount.",
        )


def fan_unplugged(s: Situation) -> Iterator[Finding]:
    for fan in s.machine.fans:
        if fan.running:
            continue
        through = s.flow_m3h(fan)
        alone = sum(f.mount == fan.mount for f in s.machine.fans) == 1
        which = fan.mount.upper() if alone else f"the {fan.layer} fan at {fan.mount.upper()}"
        yield Finding(
            code="fan_unplugged",
            severity="warning",
            kind="practice",
            mounts=(fan.mount,),
            what=f"The {'' if alone else fan.layer + ' '}fan at {fan.mount.upper()} is not plugged in",
            because=f"It stands still in the way of the air: {abs(through):.0f} m³/h find their way through its blades.",
            do="Plug it in (with the machine off), or take it out.",
            fixes=(
                Fix(f"Plug {which} in", "plug_in", fan.mount, fan.layer),
                Fix(f"Take {which} out", "take_out", fan.mount, fan.layer),
            ),
        )


def fan_may_stall(s: Situation) -> Iterator[Finding]:
    for fan in s.machine.fans:
        if fan.running and fan.curve is None and 0 < fan.speed_pct < MAY_STALL_PCT:
            yield Finding(
                code="fan_may_stall",
                severity="note",
                kind="practice",
                mounts=(fan.mount,),
                what=f"The fan at {fan.mount.upper()} may not start",
                because=f"It is set to {fan.speed_pct:.0f} %, {fan.fan.speed_max_rpm * fan.speed_pct / 100:.0f} rpm; "
                f"below {MAY_STALL_PCT:.0f} % many fans stand still.",
                do=f"Run it at {MAY_STALL_PCT:.0f} % or more, or take it out.",
            )


def fan_hums(s: Situation) -> Iterator[Finding]:
    for fan in s.machine.fans:
        held = [p for p in fan.held_pct if p > 0 and fan.fan.hums(p)] if fan.running else []
        if held:
            rpm = fan.fan.speed_max_rpm * held[0] / 100
            low, high = next(b for b in fan.fan.avoid_rpm if b[0] <= rpm <= b[1])
            how = "A flat part of its curve holds it" if fan.curve else "It is set"
            yield Finding(
                code="fan_hums",
                severity="note",
                kind="practice",
                mounts=(fan.mount,),
                what=f"The fan at {fan.mount.upper()} is held where it hums",
                because=f"{how} at {held[0]:.0f} %, {rpm:.0f} rpm, within the {low:.0f} to {high:.0f} rpm at which its owner hears it hum.",
                do="Move the speed, or the flat part of the curve, out of the band; a curve may pass through it.",
            )


def unlike_fans_in_series(s: Situation) -> Iterator[Finding]:
    by_mount: dict[str, list[int]] = {}
    for i, fan in enumerate(s.machine.fans):
        if fan.running:
            by_mount.setdefault(fan.mount, []).append(i)
    for mount, pair in by_mount.items():
        if len(pair) < 2:
            continue
        one, two = (s.machine.fans[i] for i in pair[:2])
        free = [f.fan.flow_max_m3h * s.point.speeds.fans[i] / 100 for f, i in ((one, pair[0]), (two, pair[1]))]
        through = abs(s.flow_m3h(one))
        if one.direction != two.direction or min(free) <= 0 or through <= min(free):
            continue
        yield Finding(
            code="unlike_fans_in_series",
            severity="warning",
            kind="physics",
            mounts=(mount,),
            what=f"The weaker fan at {mount.upper()} holds the stronger one back",
            because=f"{through:.0f} m³/h are pushed through both; the weaker one could move {min(free):.0f} m³/h at most "
            "and is driven like a mill.",
            do="Pair like fans at like speeds, or take the weaker one out.",
            fixes=tuple(
                Fix(f"Take the {f.layer} fan at {mount.upper()} out", "take_out", mount, f.layer)
                for f, q in ((one, free[0]), (two, free[1]))
                if q == min(free)
            ),
        )


def mixed_fans_on_radiator(s: Situation) -> Iterator[Finding]:
    kinds = {f.fan.id: f.mount for f in s.turning if s.on_radiator(f)}
    if len(kinds) < 2:
        return
    flows = [abs(s.flow_m3h(f)) for f in s.turning if s.on_radiator(f)]
    yield Finding(
        code="mixed_fans_on_radiator",
        severity="note",
        kind="practice",
        mounts=tuple(kinds.values()),
        what="Unlike fans on one radiator",
        because=f"At {names(list(kinds.values()))} they move {min(flows):.0f} to {max(flows):.0f} m³/h; unlike speeds may beat audibly.",
        do="Use one kind of fan on a radiator.",
    )


RULES = (
    flip_would_help,
    supply_shades,
    fan_choked,
    unlike_fans_in_series,
    fan_unplugged,
    fan_adds_nothing,
    fan_may_stall,
    fan_hums,
    mixed_fans_on_radiator,
)
