"""Heights in a cooling loop: pump, tanks, barbs and tubes in mm over the case floor, and where its air collects.

Air goes to the highest point that the coolant reaches. There it is harmless in a tank, loud at a barb, and wears a pump.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from engine.machine import Machine, PlacedRadiator, SealedCooler

WALL_SHARE = 0.8  # common practice, no source: of a tank's outside, what holds coolant
CHANNEL_SHARE = 0.12  # common practice, no source: of a core's outside, what its flat tubes hold
CLEAR_MM = 20.0  # common practice, no source: a tank this much above the pump keeps air from it


@dataclass(frozen=True)
class Spot:
    """A point of the drawing, seen from the window side."""

    x_mm: float
    z_mm: float


@dataclass(frozen=True)
class RadiatorHeights:
    """One radiator as it stands. ``lies`` says how: flat, upright (tanks one above the other) or on_edge (tanks side by side).

    Its tubes leave at ``tubes``, one of the ``sides`` that it has where it stands.
    """

    radiator: str
    mounts: tuple[str, ...]
    lies: str
    tubes: str
    sides: tuple[str, str]
    low_mm: float
    high_mm: float
    barb_mm: float
    barb: Spot
    tanks: tuple[Spot, Spot]  # the one with the barbs first
    tank_ml: float
    channels_ml: float
    above_barb_ml: float  # air that fits before it reaches the barbs

    @property
    def end(self) -> str:
        """The end with the barbs, in words."""
        return {"top": "upper end", "bottom": "lower end", "rear": "rear end", "front": "front end"}[self.tubes]

    def above_ml(self, z_mm: float) -> float:
        """Coolant that it holds above a height."""
        if z_mm <= self.low_mm:
            return 2 * self.tank_ml + self.channels_ml
        if z_mm >= self.high_mm:
            return 0.0
        share = (self.high_mm - z_mm) / (self.high_mm - self.low_mm)
        upper = self.tank_ml if self.lies == "upright" else 2 * self.tank_ml * share
        return upper + self.channels_ml * share


@dataclass(frozen=True)
class LoopHeights:
    """A loop with its air: ``pocket`` is where it collects, ``pocket_in`` what that place is."""

    pump: Spot
    pump_in: str  # block | radiator | tube | free
    radiators: tuple[RadiatorHeights, ...]
    reservoir_mm: float | None
    pocket_in: str  # radiator | pump | block | reservoir
    pocket: Spot
    over_pump_mm: float  # the highest point but the pump's, over the pump; negative: the pump is highest
    above_pump_ml: float
    above_barb_ml: float

    @property
    def top_radiator(self) -> RadiatorHeights:
        return max(self.radiators, key=lambda r: r.high_mm)


def loop_heights(machine: Machine, cooler: SealedCooler) -> LoopHeights:
    """Heights of a loop with at least one radiator."""
    radiators = tuple(radiator_heights(machine, r) for r in cooler.radiators)
    top = max(radiators, key=lambda r: r.high_mm)
    pump = _pump(machine, cooler, radiators)
    reservoir = None
    if cooler.reservoir:
        reservoir = cooler.reservoir_z_mm if cooler.reservoir_z_mm is not None else pump.z_mm + 100
    over = top.high_mm - pump.z_mm
    if reservoir is not None:
        over = max(over, reservoir - pump.z_mm)
    pocket_in, pocket = "radiator", Spot(max(top.tanks, key=lambda t: t.z_mm).x_mm, top.high_mm)
    if reservoir is not None and reservoir >= top.high_mm:
        pocket_in, pocket = "reservoir", Spot(pump.x_mm, reservoir)
    elif cooler.pump == "radiator" and machine.cpu_z_mm > top.high_mm:
        pocket_in, pocket = "block", Spot(machine.cpu_x_mm, machine.cpu_z_mm)
    elif over <= 0 or (cooler.pump == "radiator" and pump.z_mm >= (top.low_mm + top.high_mm) / 2):
        pocket_in, pocket = "pump", pump
    return LoopHeights(
        pump,
        cooler.pump,
        radiators,
        reservoir,
        pocket_in,
        pocket,
        over,
        sum(r.above_ml(pump.z_mm) for r in radiators),
        top.above_barb_ml,
    )


def _pump(machine: Machine, cooler: SealedCooler, radiators: tuple[RadiatorHeights, ...]) -> Spot:
    first = radiators[0]
    if cooler.pump == "radiator":  # it sits in the tank that carries the barbs
        return first.tanks[0]
    if cooler.pump == "tube":
        return Spot((machine.cpu_x_mm + first.barb.x_mm) / 2, (machine.cpu_z_mm + first.barb_mm) / 2)
    if cooler.pump == "free" and cooler.pump_z_mm is not None:
        return Spot(machine.depth_mm / 2, cooler.pump_z_mm)
    if cooler.pump == "free":
        return Spot(machine.depth_mm / 2, 60.0)
    return Spot(machine.cpu_x_mm, machine.cpu_z_mm)


SIDES = {True: ("bottom", "top"), False: ("rear", "front")}  # by whether its tanks stand one above the other; the first where none is said


def stands_upright(face: str, x_mm: Sequence[float]) -> bool:
    """Whether a radiator's tanks stand one above the other: on an upright face, its mounts (``x_mm``: their centres) not side by side."""
    return face not in ("top", "bottom") and max(x_mm) - min(x_mm) <= 1


def tube_side(said: str, upright: bool) -> str:
    """The side on which tubes leave: what is said where the radiator has such a side, else its first."""
    return said if said in SIDES[upright] else SIDES[upright][0]


def radiator_heights(machine: Machine, radiator: PlacedRadiator) -> RadiatorHeights:
    """Where a radiator's tanks and barbs are, by its mounts, its length and the side on which its tubes leave."""
    mounts = [machine.mounts[m] for m in radiator.mounts]
    x = sum(m.centre_mm.x for m in mounts) / len(mounts)
    z = sum(m.centre_mm.z for m in mounts) / len(mounts)
    half, tank = radiator.length_mm / 2, radiator.tank_mm
    wide = radiator.section_mm or mounts[0].size_mm
    tank_ml = tank * wide * radiator.thickness_mm * WALL_SHARE * 1e-3
    channels_ml = CHANNEL_SHARE * radiator.face_cm2 * radiator.thickness_mm * 0.1
    face = mounts[0].face
    upright = stands_upright(face, [m.centre_mm.x for m in mounts])
    side = tube_side(radiator.tubes, upright)
    way = 1 if side in ("rear", "top") else -1
    lies = "upright" if upright else "flat" if face in ("top", "bottom") else "on_edge"
    if upright:
        ends = Spot(x, z + way * (half - tank / 2)), Spot(x, z - way * (half - tank / 2))
        low, high, barb = z - half, z + half, ends[0].z_mm
        above = tank_ml / 2 if way > 0 else tank_ml * 1.5 + channels_ml
    elif lies == "flat":
        z += radiator.thickness_mm / 2 * (-1 if face == "top" else 1)  # it lies inside its wall
        ends = Spot(x + way * (half - tank / 2), z), Spot(x - way * (half - tank / 2), z)
        low, high, barb = z - radiator.thickness_mm / 2, z + radiator.thickness_mm / 2, z
        above = (2 * tank_ml + channels_ml) / 2 if face == "top" else 0.0
    else:
        ends = Spot(x + way * (half - tank / 2), z), Spot(x - way * (half - tank / 2), z)
        low, high, barb = z - wide / 2, z + wide / 2, z + wide / 4
        above = (2 * tank_ml + channels_ml) / 4
    return RadiatorHeights(
        radiator=radiator.id,
        mounts=radiator.mounts,
        lies=lies,
        tubes=side,
        sides=SIDES[upright],
        low_mm=low,
        high_mm=high,
        barb_mm=barb,
        barb=Spot(ends[0].x_mm, barb),
        tanks=ends,
        tank_ml=tank_ml,
        channels_ml=channels_ml,
        above_barb_ml=above,
    )
