"""What fits with how many millimetres to spare: one line per constraint, by plain subtraction.

The worst case takes every dimension at the bad end of its tolerance. A line without a stated limit is left out, not passed.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from math import hypot
from typing import Literal

from engine.loop.heights import SIDES, stands_upright, tube_side
from engine.machine import STRAIGHT, SetBack

TOLERANCE_MM = 1.0  # common practice, no source: a data sheet's length may be off by this much
TOWER_HALF_DEPTH_MM = 70.0  # common practice, no source: processor's centre to the rear of a tower and its fan
REACH_FACTOR = 1.15  # common practice, no source: a tube bends, so it needs this much more than the straight line
SOURCE_TOLERANCE_MM = {"data_sheet": 1.0, "measured": 0.5, "guessed": 5.0}  # common practice, no source
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
    beside_card: bool = True  # in the chamber in which the card stands


@dataclass(frozen=True)
class RadiatorBox:
    """A radiator as placed, tanks included in ``length_mm``."""

    id: str
    mounts: tuple[str, ...]
    length_mm: float
    thickness_mm: float
    nominal_mm: float  # sections times section: the size a rail is sold for
    gap_mm: float
    tubes: str  # the side on which they are said to leave; empty where nothing is said
    tube_mm: float | None
    tank_height_mm: float | None = None
    bend_mm: float | None = None


@dataclass(frozen=True)
class Exclusion:
    """Families of parts that shut each other out: what is chosen, what that rules out, and why."""

    chosen: str
    ruled_out: str
    mounts: tuple[str, ...]
    why: str


@dataclass(frozen=True)
class Loss:
    """A slot or drive place that a fan or radiator costs, and whether something is in it."""

    what: str
    mount: str
    occupied: bool


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
    width_mm: float = 215.0
    loose_mm: Mapping[str, float] = field(default_factory=dict)  # tolerance of a figure of the case, by its path
    memory_height_mm: float | None = None
    memory_clear_mm: float | None = None
    fan_lift_mm: float = 0.0
    pipes_behind_mm: float = 0.0
    card_width_mm: float | None = None
    card_width_limit_mm: float | None = None
    card_slots: float | None = None
    card_slots_limit: float | None = None
    supply_length_mm: float | None = None
    supply_limit_mm: float | None = None
    shroud_mm: float | None = None
    shroud_mounts: frozenset[str] = frozenset()
    height_mm: float = 450.0
    front_back: SetBack = STRAIGHT
    rear_back: SetBack = STRAIGHT

    def loose(self, path: str) -> float:
        return self.loose_mm.get(path, TOLERANCE_MM)


def ledger(f: Fitting) -> list[Line]:
    """Every line of a layout, tightest first."""
    found = [*_sizes(f), *_stacks(f), *_radiators(f), *_card(f), *_card_beside(f), *_cooler(f), *_memory(f), *_supply(f), *_tubes(f)]
    return sorted(found, key=lambda line: line.spare_mm)


def line(
    code: str,
    what: str,
    mounts: tuple[str, ...],
    required_mm: float,
    available_mm: float,
    parts: str,
    dimensions: int = 2,
    case_mm: float = TOLERANCE_MM,
) -> Line:
    """A line with its verdict; ``dimensions`` counts the lengths that carry a tolerance, ``case_mm`` is that of the case's own."""
    spare = available_mm - required_mm
    verdict: Literal["fits", "touches", "does_not_fit"] = "fits" if spare > 0.05 else "touches" if spare > -0.05 else "does_not_fit"
    loose = TOLERANCE_MM * (dimensions - 1) + case_mm if dimensions else 0.0
    return Line(code, what, mounts, required_mm, available_mm, spare - loose, verdict, parts)


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
            loose = f.loose(f"mounts.{mount.id}.depth_mm")
            yield line("stack_depth", f"Depth at {mount.id.upper()}", (mount.id,), needed, room, parts, parts.count("+") + 2, loose)
        if needed > 0 and mount.face == "top" and f.memory_to_top_mm is not None:
            yield line(
                "memory_to_top",
                f"Memory under {mount.id.upper()}",
                (mount.id,),
                needed,
                f.memory_to_top_mm,
                parts,
                2,
                f.loose("limits_mm.memory_to_top"),
            )


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
                    2,
                    f.loose(f"rails.{rail.id}.length_mm"),
                )
            if r.tank_height_mm is not None and r.tank_height_mm > r.thickness_mm:
                fans = max((fan.thickness_mm for fan in f.fans if fan.mount in r.mounts), default=0.0)
                words = f"end tank {r.tank_height_mm:.0f}" + (f" + fan {fans:.0f}" if fans else "")
                yield line("end_tank", f"End tank on the {rail.id} rail", r.mounts, r.tank_height_mm + fans, rail.depth_mm, words, 3)
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
        if m.face == "front" and m.beside_card and abs(m.z_mm - f.card_height_mm) < max(m.sizes_mm) / 2 + CARD_HALF_HEIGHT_MM
    ]
    stack, mount = max(before, default=(0.0, ""))
    share = f.card_height_mm / f.height_mm
    inside = f.depth_mm - f.front_back.at(share) - f.rear_back.at(share)
    room = inside - stack
    words = f"{inside:.0f} inside" + (f" less {stack:.0f} at {mount.upper()}" if stack else "")
    if f.card_limit_mm is not None and f.card_limit_mm - stack < room:
        room, words = f.card_limit_mm - stack, f"limit {f.card_limit_mm:.0f}" + (f" less {stack:.0f} at {mount.upper()}" if stack else "")
    path = "limits_mm.card_length" if words.startswith("limit") else "inner_mm.depth"
    yield line("card_length", "Length of the card", (mount,) if mount else (), f.card_length_mm, room, words, 2, f.loose(path))


def _card_beside(f: Fitting) -> Iterator[Line]:
    """What is above, below and beside the card: the side panel, the slots, fans that stand on the shroud under it."""
    if f.card_width_mm is not None and f.card_width_limit_mm is not None:
        words = "with its plug and the bend of the cable"
        yield line("card_width", "Width of the card", (), f.card_width_mm, f.card_width_limit_mm, words, 2, f.loose("limits_mm.card_width"))
    if f.card_slots is not None and f.card_slots_limit is not None:
        mm = 20.32  # pitch of expansion slots, 0.8 inch: published mechanical standard of desktop boards, from memory
        words = f"{f.card_slots:g} slots of {mm:.1f} mm"
        yield line("card_slots", "Slots of the card", (), f.card_slots * mm, f.card_slots_limit * mm, words, 0)
    for fan in f.fans:
        if fan.mount in f.shroud_mounts and f.card_slots is not None and f.shroud_mm is not None:
            room = f.card_height_mm - f.shroud_mm - CARD_HALF_HEIGHT_MM
            words = f"fan {fan.thickness_mm:.0f} between shroud and card"
            yield line("fan_under_card", f"{fan.mount.upper()} under the card", (fan.mount,), fan.thickness_mm, room, words)


def _cooler(f: Fitting) -> Iterator[Line]:
    if f.cooler_height_mm is not None and f.cooler_limit_mm is not None:
        words = "with its fan" + (f" raised by {f.fan_lift_mm:.0f}" if f.fan_lift_mm else "")
        height, loose = f.cooler_height_mm + f.fan_lift_mm, f.loose("limits_mm.cooler_height")
        yield line("cooler_height", "Height of the cooler", (), height, f.cooler_limit_mm, words, 2, loose)
    if not f.tower:
        return
    for mount in f.mounts.values():
        stack, parts = _stack_mm(f, mount.id)
        if mount.face == "rear" and stack and abs(mount.z_mm - f.cpu_z_mm) < max(mount.sizes_mm) / 2 + 60:
            room = mount.x_mm - f.cpu_x_mm - TOWER_HALF_DEPTH_MM - f.pipes_behind_mm
            yield line("rear_fan_to_cooler", f"{mount.id.upper()} behind the cooler", (mount.id,), stack, room, parts)


def _ends(f: Fitting, r: RadiatorBox, tubes: str) -> tuple[float, float]:
    """Where the tubes leave a radiator, in x and z."""
    ends = [f.mounts[m] for m in r.mounts]
    x, z = (sum(v) / len(ends) for v in ((m.x_mm for m in ends), (m.z_mm for m in ends)))
    half = r.length_mm / 2
    shift = {"rear": (half, 0.0), "front": (-half, 0.0), "top": (0.0, half), "bottom": (0.0, -half)}[tube_side(tubes, upright(f, r))]
    return x + shift[0], z + shift[1]


def upright(f: Fitting, r: RadiatorBox) -> bool:
    mounts = [f.mounts[m] for m in r.mounts]
    return stands_upright(mounts[0].face, [m.x_mm for m in mounts])


def _reach_mm(f: Fitting, r: RadiatorBox, tubes: str) -> float:
    x, z = _ends(f, r, tubes)
    return REACH_FACTOR * hypot(x - f.cpu_x_mm, z - f.cpu_z_mm)


def _memory(f: Fitting) -> Iterator[Line]:
    """Memory under what a cooler hangs over it; a fan that is raised gives room here and takes it at the side panel."""
    if f.memory_height_mm is not None and f.memory_clear_mm is not None:
        words = f"free under the cooler {f.memory_clear_mm:.0f}" + (f" + fan raised by {f.fan_lift_mm:.0f}" if f.fan_lift_mm else "")
        yield line("memory_height", "Memory under the cooler", (), f.memory_height_mm, f.memory_clear_mm + f.fan_lift_mm, words)


def _supply(f: Fitting) -> Iterator[Line]:
    if f.supply_length_mm is not None and f.supply_limit_mm is not None:
        loose = f.loose("limits_mm.supply_length")
        yield line(
            "supply_length", "Length of the power supply", (), f.supply_length_mm, f.supply_limit_mm, "its leads not counted", 2, loose
        )


def _tubes(f: Fitting) -> Iterator[Line]:
    for r in f.radiators:
        if r.tube_mm is None:
            continue
        needed = _reach_mm(f, r, r.tubes)
        words = f"straight line times {REACH_FACTOR}"
        if needed > r.tube_mm:
            stands = upright(f, r)
            others = [w for w in SIDES[stands] if w != tube_side(r.tubes, stands) and _reach_mm(f, r, w) <= r.tube_mm]
            words += f"; reaches with the tubes at the {' or '.join(others)}" if others else "; reaches in no orientation here"
        yield line("tube_reach", "Reach of the tubes", r.mounts, needed, r.tube_mm, words, 1)
        if r.bend_mm is not None:
            room = f.width_mm - sum(f.mounts[m].y_mm for m in r.mounts) / len(r.mounts)
            yield line("tube_bend", "Bend of the tubes before the side panel", r.mounts, r.bend_mm, room, "smallest radius they bear", 2)


def crossed_fans(f: Fitting) -> list[tuple[tuple[str, ...], str]]:
    """Fans that a radiator's tubes pass on their straight way to the processor: the radiator's mounts, and the fan's."""
    found = []
    for r in (r for r in f.radiators if r.tube_mm is not None):
        start = _inside(f, r, _ends(f, r, r.tubes))
        for fan in f.fans:
            mount = f.mounts[fan.mount]
            if fan.mount in r.mounts or mount.face == "window":
                continue
            box = _fan_box(mount, fan)
            steps = [(start[0] + (f.cpu_x_mm - start[0]) * i / 60, start[1] + (f.cpu_z_mm - start[1]) * i / 60) for i in range(61)]
            if any(box[0] < x < box[1] and box[2] < z < box[3] for x, z in steps):
                found.append((r.mounts, fan.mount))
    return found


def _inside(f: Fitting, r: RadiatorBox, end: tuple[float, float]) -> tuple[float, float]:
    """The barbs stand inside the case by the depth of the stack on their mount."""
    depth = _stack_mm(f, r.mounts[0])[0]
    dx, dz = {"front": (1, 0), "rear": (-1, 0), "top": (0, -1), "bottom": (0, 1)}.get(f.mounts[r.mounts[0]].face, (0, 0))
    return end[0] + dx * depth, end[1] + dz * depth


def _fan_box(mount: MountBox, fan: FanBox) -> tuple[float, float, float, float]:
    """x from, x to, z from, z to of a fan inside the case, 5 mm less at its frame."""
    half, thick = fan.size_mm / 2 - 5, fan.thickness_mm
    if mount.face in ("front", "rear"):
        x = (mount.x_mm, mount.x_mm + thick) if mount.face == "front" else (mount.x_mm - thick, mount.x_mm)
        return (*x, mount.z_mm - half, mount.z_mm + half)
    z = (mount.z_mm, mount.z_mm + thick) if mount.face == "bottom" else (mount.z_mm - thick, mount.z_mm)
    return (mount.x_mm - half, mount.x_mm + half, *z)
