"""Speeds of a layout's fans, for what is heard of them."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from desk.job.resolve import Resolver
from documents.job.models import LayoutDoc
from engine.coupled.operating_point import OperatingPoint, loaded
from engine.machine import Machine, PlacedFan, at_speeds
from engine.sound.tones import Source

PUMP_RPM, PUMP_VANES = 2700.0, 6  # common practice, no source: of a sealed cooler's pump


@dataclass(frozen=True)
class FansAt:
    """What the machine does and how its fans are driven: as the layout asks, or those of ``mounts`` (none named: all) at a speed."""

    load: str = "both"
    mounts: tuple[str, ...] = ()
    speed_pct: float | None = None

    def of(self, resolver: Resolver, layout: LayoutDoc) -> Machine:
        machine = loaded(resolver.machine(layout.id), self.load)
        return machine if self.speed_pct is None else at_speeds(machine, self.mounts, self.speed_pct)


def speeds_of(point: OperatingPoint) -> dict[str, float]:
    """rpm by mount; a fan behind another as ``mount inner``."""
    return {_place(f): round(f.fan.speed_max_rpm * pct / 100, 1) if f.running else 0.0 for f, pct in _turning(point)}


def blades_of(resolver: Resolver) -> dict[str, int]:
    """Blades by the fan's id."""
    return {f.id: f.blades for f in resolver.doc.parts.fans}


def sources_of(point: OperatingPoint, blades: Mapping[str, int]) -> list[Source]:
    """What turns: case fans, ``blades`` by their kind, and the pump where there is one."""
    found = []
    for f, pct in _turning(point):
        rpm = f.fan.speed_max_rpm * pct / 100
        if f.running and rpm > 0:
            inner = " inner" if f.layer == "inner" else ""
            found.append(Source(f"the fan at {f.mount.upper()}{inner}", round(rpm, 1), blades.get(f.fan.id)))
    if point.machine.loops:
        found.append(Source("the pump", PUMP_RPM * point.machine.loops[0].pump_pct / 100, PUMP_VANES))
    return found


def _turning(point: OperatingPoint) -> Iterator[tuple[PlacedFan, float]]:
    return zip(point.machine.fans, point.speeds.fans, strict=True)


def _place(f: PlacedFan) -> str:
    return f.mount if f.layer == "outer" else f"{f.mount} inner"
