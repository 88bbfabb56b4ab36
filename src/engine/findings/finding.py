"""What a finding is, what a rule sees, and small helpers that rules share."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from engine.coupled.forecast import Forecast
from engine.coupled.operating_point import OperatingPoint
from engine.coupled.tracer import UnusedShare, unused_shares
from engine.machine import Machine, Mount, PlacedFan


@dataclass(frozen=True)
class Fix:
    """A change that can be made for the person with one click, said in ``label``."""

    label: str
    action: Literal["flip", "take_out", "set_speed", "move_radiator"]
    mount: str | None = None
    layer: str | None = None
    speed_pct: float | None = None


@dataclass(frozen=True)
class Finding:
    """What, where (``mounts``), because, do. ``kind`` says whether it rests on physics, practice or taste."""

    code: str
    severity: Literal["error", "warning", "note"]
    kind: Literal["physics", "practice", "taste"]
    mounts: tuple[str, ...]
    what: str
    because: str
    do: str
    fixes: tuple[Fix, ...] = ()


@dataclass(frozen=True)
class Situation:
    """The layout at its operating point, with what several rules need."""

    point: OperatingPoint
    forecast: Forecast

    @property
    def machine(self) -> Machine:
        return self.point.machine

    def running(self, direction: str) -> list[PlacedFan]:
        return [f for f in self.machine.fans if f.running and f.direction == direction and f.speed_pct > 0]

    def mount(self, fan: PlacedFan) -> Mount:
        return self.machine.mounts[fan.mount]

    @cached_property
    def unused(self) -> dict[str, list[UnusedShare]]:
        """For each mount with a running intake, where its air leaves unused; air through a radiator has been used."""
        cooled = {link.mount for link in self.point.links if link.radiator}
        mounts = dict.fromkeys(f.mount for f in self.running("intake") if not self.mount(f).on_shroud and f.mount not in cooled)
        return {mount: unused_shares(self.point, mount) for mount in mounts}


def gap_mm(one: Mount, other: Mount) -> float:
    """Distance between the centres of two mounts."""
    a, b = one.centre_mm, other.centre_mm
    return float(((a.x - b.x) ** 2 + (a.y - b.y) ** 2 + (a.z - b.z) ** 2) ** 0.5)


def names(mounts: list[str] | tuple[str, ...]) -> str:
    """``t1``, ``t1 and t2``, ``t1, t2 and t3`` in capitals, as the drawing writes them."""
    upper = [m.upper() for m in dict.fromkeys(mounts)]
    return upper[0] if len(upper) == 1 else f"{', '.join(upper[:-1])} and {upper[-1]}"
