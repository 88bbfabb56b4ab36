"""Speeds of a layout's fans, for what is heard of them."""

from desk.job.resolve import Resolver
from documents.job.models import LayoutDoc
from engine.coupled.operating_point import loaded, operating_point
from engine.machine import Machine
from engine.sound.tones import Source

PUMP_RPM, PUMP_VANES = 2700.0, 6  # common practice, no source: of a sealed cooler's pump


def speeds_of(resolver: Resolver, layout: LayoutDoc) -> dict[str, float]:
    """rpm by mount at full load, as the layout asks; a fan behind another as ``mount inner``."""
    machine = loaded(resolver.machine(layout.id), "both")
    point = operating_point(machine)
    found = {}
    for placed, pct in zip(machine.fans, point.speeds.fans, strict=True):
        name = placed.mount if placed.layer == "outer" else f"{placed.mount} inner"
        found[name] = round(placed.fan.speed_max_rpm * pct / 100, 1) if placed.running else 0.0
    return found


def blades_of(resolver: Resolver) -> dict[str, int]:
    """Blades by the fan's id."""
    return {f.id: f.blades for f in resolver.doc.parts.fans}


def sources_of(resolver: Resolver, layout: LayoutDoc) -> list[Source]:
    """What turns in a layout: its case fans, and the pump where there is one."""
    blades, places = blades_of(resolver), {(p.mount, p.layer): p.fan for p in layout.fans}
    found = []
    for name, rpm in speeds_of(resolver, layout).items():
        mount, _, inner = name.partition(" ")
        fan = places.get((mount, "inner" if inner else "outer"))
        if rpm > 0:
            found.append(Source(f"the fan at {name.upper() if not inner else mount.upper() + ' inner'}", rpm, blades.get(fan or "")))
    machine = resolver.machine(layout.id)
    if machine.loops:
        found.append(Source("the pump", PUMP_RPM * machine.loops[0].pump_pct / 100, PUMP_VANES))
    return found


def machine_at(resolver: Resolver, layout: LayoutDoc, load: str = "both") -> Machine:
    return loaded(resolver.machine(layout.id), load)
