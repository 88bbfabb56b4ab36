"""What fits with how many millimetres to spare: one line per constraint, by plain subtraction.

The worst case takes every dimension at the bad end of its tolerance. A line without a stated limit is left out, not passed.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from math import hypot
from typing import Literal

TOLERANCE_MM = 1.0  # common practice, no source: a data sheet's length may be off by this much
TOWER_HALF_DEPTH_MM = 70.0  # common practice, no source: processor's centre to the rear of a tower and its fan
REACH_FACTOR = 1.15  # common practice, no source: a tube bends, so it needs this much more than the straight line
CARD_HALF_HEIGHT_MM = 25.0  # common practice, no source: half of a card's thickness and the slack beside it


@dataclass(frozen=True)
class Line:
    """One constraint: ``spare_mm`` is available minus required, ``worst_mm`` with tolerances against it."""

    code: str
    what: str
    mounts: tuple[str, ...]
    required_mm: float
    available_mm: float
    worst_mm: float
    verdict: Literal["fits", "touches", "does_not_fit"]
    parts: str

    @property
    def spare_mm(self) -> float:
        return self.available_mm - self.required_mm


@dataclass(frozen=True)
class FanBox:
    """A fan as a box at a mount."""

    mount: str
    size_mm: float
    thickness_mm: float


@dataclass(frozen=True)
class MountBox:
    """A mount: where it is, what sizes it takes, how deep a stack may be behind it."""

    id: str
    face: str
    x_mm: float
    y_mm: float
    z_mm: float
    sizes_mm: tuple[float, ...]
    depth_mm: float


@dataclass(frozen=True)
class RadiatorBox:
    """A radiator as placed, tanks included in ``length_mm``."""

    id: str
    mounts: tuple[str, ...]
    length_mm: float
    thickness_mm: float
    nominal_mm: float  # sections times section: the size a rail is sold for
    gap_mm: float
    tubes: str
    tube_mm: float | None


@dataclass(frozen=True)
class RailBox:
    id: str
    mounts: tuple[str, ...]
    takes_mm: tuple[float, ...]
    depth_mm: float
    length_mm: float | None


@dataclass(frozen=True)
class Fitting:
    """Everything of one layout that takes up room."""

    depth_mm: float
    cpu_x_mm: float
    cpu_z_mm: float
    card_height_mm: float
    mounts: dict[str, MountBox]
    rails: tuple[RailBox, ...]
    fans: tuple[FanBox, ...]
    radiators: tuple[RadiatorBox, ...]
    card_length_mm: float | None
    card_limit_mm: float | None
    cooler_height_mm: float | None
    cooler_limit_mm: float | None
    tower: bool
    memory_to_top_mm: float | None


def ledger(f: Fitting) -> list[Line]:
    """Every line of a layout, tightest first."""
    found = [*_sizes(f), *_stacks(f), *_radiators(f), *_card(f), *_cooler(f), *_tubes(f)]
    return sorted(found, key=lambda line: line.spare_mm)


def line(code: str, what: str, mounts: tuple[str, ...], required_mm: float, available_mm: float, parts: str, dimensions: int = 2) -> Line:
    """A line with its verdict; ``dimensions`` counts the lengths that carry a tolerance."""
    spare = available_mm - required_mm
    verdict: Literal["fits", "touches", "does_not_fit"] = "fits" if spare > 0.05 else "touches" if spare > -0.05 else "does_not_fit"
    return Line(code, what, mounts, required_mm, available_mm, spare - TOLERANCE_MM * dimensions, verdict, parts)


def _sizes(f: Fitting) -> Iterator[Line]:
    for fan in f.fans:
        takes = f.mounts[fan.mount].sizes_mm
        if fan.size_mm not in takes:
            near = max((s for s in takes if s <= fan.size_mm), default=min(takes))
            words = f"{fan.mount.upper()} takes {', '.join(f'{s:.0f}' for s in takes)} mm"
            yield line("fan_size", f"Fan size at {fan.mount.upper()}", (fan.mount,), fan.size_mm, near, words, 0)


def _stack_mm(f: Fitting, mount: str) -> tuple[float, str]:
    """Depth of all that stands on a mount, and of what it is made."""
    parts = [(fan.thickness_mm, f"fan {fan.thickness_mm:.0f}") for fan in f.fans if fan.mount == mount]
    for r in f.radiators:
        if mount in r.mounts:
            parts.append((r.thickness_mm, f"radiator {r.thickness_mm:.0f}"))
            if r.gap_mm:
                parts.append((r.gap_mm, f"gap {r.gap_mm:.0f}"))
    return sum(mm for mm, _ in parts), " + ".join(words for _, words in parts)


def _stacks(f: Fitting) -> Iterator[Line]:
    depth_of = {m: rail.depth_mm for rail in f.rails for m in rail.mounts}
    for mount in f.mounts.values():
        needed, parts = _stack_mm(f, mount.id)
        room = min(mount.depth_mm, depth_of.get(mount.id, mount.depth_mm))
        if needed > 0:
            yield line("stack_depth", f"Depth at {mount.id.upper()}", (mount.id,), needed, room, parts, parts.count("+") + 2)
        if needed > 0 and mount.face == "top" and f.memory_to_top_mm is not None:
            yield line("memory_to_top", f"Memory under {mount.id.upper()}", (mount.id,), needed, f.memory_to_top_mm, parts)


def _radiators(f: Fitting) -> Iterator[Line]:
    for r in f.radiators:
        for rail in f.rails:
            if not set(r.mounts) & set(rail.mounts):
                continue
            if rail.length_mm is not None:
                yield line(
                    "radiator_length",
                    f"Length of the radiator on the {rail.id} rail",
                    r.mounts,
                    r.length_mm,
                    rail.length_mm,
                    "with its tanks",
                )
            if rail.takes_mm and r.nominal_mm not in rail.takes_mm:
                near = max((s for s in rail.takes_mm if s <= r.nominal_mm), default=min(rail.takes_mm))
                words = f"the rail is made for {', '.join(f'{s:.0f}' for s in rail.takes_mm)} mm"
                yield line("radiator_size", f"Radiator size on the {rail.id} rail", r.mounts, r.nominal_mm, near, words, 0)


def _card(f: Fitting) -> Iterator[Line]:
    if f.card_length_mm is None:
        return
    before = [
        (_stack_mm(f, m.id)[0], m.id)
        for m in f.mounts.values()
        if m.face == "front" and abs(m.z_mm - f.card_height_mm) < max(m.sizes_mm) / 2 + CARD_HALF_HEIGHT_MM
    ]
    stack, mount = max(before, default=(0.0, ""))
    room = f.depth_mm - stack
    words = f"{f.depth_mm:.0f} inside" + (f" less {stack:.0f} at {mount.upper()}" if stack else "")
    if f.card_limit_mm is not None and f.card_limit_mm - stack < room:
        room, words = f.card_limit_mm - stack, f"limit {f.card_limit_mm:.0f}" + (f" less {stack:.0f} at {mount.upper()}" if stack else "")
    yield line("card_length", "Length of the card", (mount,) if mount else (), f.card_length_mm, room, words)


def _cooler(f: Fitting) -> Iterator[Line]:
    if f.cooler_height_mm is not None and f.cooler_limit_mm is not None:
        yield line("cooler_height", "Height of the cooler", (), f.cooler_height_mm, f.cooler_limit_mm, "with its fan")
    if not f.tower:
        return
    for mount in f.mounts.values():
        stack, parts = _stack_mm(f, mount.id)
        if mount.face == "rear" and stack and abs(mount.z_mm - f.cpu_z_mm) < max(mount.sizes_mm) / 2 + 60:
            room = f.depth_mm - f.cpu_x_mm - TOWER_HALF_DEPTH_MM
            yield line("rear_fan_to_cooler", f"{mount.id.upper()} behind the cooler", (mount.id,), stack, room, parts)


def _tubes(f: Fitting) -> Iterator[Line]:
    for r in f.radiators:
        if r.tube_mm is None:
            continue
        ends = [f.mounts[m] for m in r.mounts]
        middle = [sum(v) / len(ends) for v in ((m.x_mm for m in ends), (m.z_mm for m in ends))]
        along_z = max(m.z_mm for m in ends) - min(m.z_mm for m in ends) > 1
        half = r.length_mm / 2
        shift = {"rear": (half, 0.0), "front": (-half, 0.0), "top": (0.0, half), "bottom": (0.0, -half)}.get(r.tubes, (0.0, 0.0))
        if along_z and r.tubes in ("rear", "front"):
            shift = (0.0, -half)
        needed = REACH_FACTOR * hypot(middle[0] + shift[0] - f.cpu_x_mm, middle[1] + shift[1] - f.cpu_z_mm)
        yield line("tube_reach", "Reach of the tubes", r.mounts, needed, r.tube_mm, f"straight line times {REACH_FACTOR}", 1)
