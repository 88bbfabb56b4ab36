"""What the engine computes with: one case with one layout in it, everything resolved, nothing left to look up.

Lengths in mm, areas in cm2, flows in m3/h, as in the job document; the solver converts to SI at its border.
x runs from the front to the rear, y from the board tray to the window, z from the floor up.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

Face = Literal["front", "top", "bottom", "window", "rear"]
Filter = Literal["none", "coarse", "fine"]
PanelKind = Literal["mesh", "slots", "solid", "glass"]
FACES: tuple[Face, ...] = ("front", "top", "bottom", "window", "rear")


@dataclass(frozen=True)
class Room:
    temperature_c: float
    pressure_hpa: float
    humidity_pct: float
    background_dba: float
    sound_limit_dba: float | None
    listener_distance_m: float
    listener_side: Literal["front", "window", "rear", "above"]


@dataclass(frozen=True)
class Point:
    x: float
    y: float
    z: float


@dataclass(frozen=True)
class Shroud:
    height_mm: float
    top_open_cm2: float
    front_cut_cm2: float
    vent_cm2: float


@dataclass(frozen=True)
class Vent:
    id: str
    face: Face
    centre_mm: Point
    area_cm2: float


@dataclass(frozen=True)
class Block:
    """Something in the way of air between two corners; ``free_pct`` of its face lets air through."""

    id: str
    from_mm: Point
    to_mm: Point
    free_pct: float


@dataclass(frozen=True)
class Panel:
    """A panel as it stands in this layout. ``gap_area_cm2`` is where air gets round a slotted or closed one."""

    face: Face
    kind: PanelKind
    width_mm: float
    height_mm: float
    open_area_pct: float
    gap_area_cm2: float
    turns_90: float
    filter: Filter
    insertion_loss_db: float | None = None
    removed: bool = False


@dataclass(frozen=True)
class SetBack:
    """An upright face that stands inward of the case's end by so much at its top and its bottom; slanted where they differ."""

    top_mm: float
    bottom_mm: float

    def at(self, height_share: float) -> float:
        return self.bottom_mm + (self.top_mm - self.bottom_mm) * min(max(height_share, 0.0), 1.0)

    @property
    def mean_mm(self) -> float:
        return (self.top_mm + self.bottom_mm) / 2


STRAIGHT = SetBack(0.0, 0.0)  # a plain wall


@dataclass(frozen=True)
class Mount:
    id: str
    face: Face
    centre_mm: Point
    opening_mm: float
    size_mm: float
    grille_open_pct: float
    obstruction_k: float
    cover: bool
    on_shroud: bool
    blocked_pct: float = 0.0
    supply_free: float = 1.0  # share of the fan that the power supply under or over it leaves free; counted in ``blocked_pct``


@dataclass(frozen=True)
class Fan:
    """A fan by its data sheet: ``points`` where a curve is given, else a parabola with linear share ``linear_share`` (c1)."""

    id: str
    size_mm: float
    thickness_mm: float
    speed_max_rpm: float
    flow_max_m3h: float
    pressure_max_pa: float
    noise_dba: float
    linear_share: float
    points: tuple[tuple[float, float], ...] = ()  # measured curve: m3/h, Pa
    avoid_rpm: tuple[tuple[float, float], ...] = ()  # speeds at which it hums

    def hums(self, speed_pct: float) -> bool:
        rpm = self.speed_max_rpm * speed_pct / 100
        return any(low <= rpm <= high for low, high in self.avoid_rpm)


FLAT_K = 3.0  # no source: a step of a curve that is held over less is passed quickly
HYSTERESIS_K = 2.0  # M: usual setting of a fan controller
RAMP_S = 10.0  # M: a controller takes about this long through a fan's whole range


@dataclass(frozen=True)
class SpeedCurve:
    """Speed in % against a temperature in deg C; ``source`` names what is followed.

    ``hysteresis_k``: a fan slows down only once it is so much cooler; ``ramp_s``: its time through its whole range.
    """

    id: str
    source: Literal["cpu", "card", "hotter", "coolant", "board", "case_air"]
    temperatures_c: tuple[float, ...]
    speeds_pct: tuple[float, ...]
    hysteresis_k: float = HYSTERESIS_K
    ramp_s: float = RAMP_S

    @property
    def flat_pct(self) -> tuple[float, ...]:
        """Speeds over nought that it holds a fan at: flat parts, and what it has below its first point and beyond its last."""
        points = sorted(zip(self.temperatures_c, self.speeds_pct, strict=True))
        flat = {s for (t, s), (u, v) in pairwise(points) if s == v and u - t >= FLAT_K}
        return tuple(sorted((flat | {points[0][1], points[-1][1]}) - {0.0}))


@dataclass(frozen=True)
class PlacedFan:
    mount: str
    fan: Fan
    direction: Literal["intake", "exhaust"]
    layer: Literal["outer", "inner"]
    speed_pct: float
    running: bool
    curve: SpeedCurve | None = None
    most_pct: float = 100.0  # its owner accepts no more

    @property
    def held_pct(self) -> tuple[float, ...]:
        """Speeds at which it turns for long: its own, or the flat parts of its curve."""
        return self.curve.flat_pct if self.curve else (self.speed_pct,)

    @property
    def channel(self) -> str:
        """The name of its tachometer in a run log."""
        return f"fan_{self.mount}_rpm" if self.layer == "outer" else f"fan_{self.mount}_inner_rpm"


@dataclass(frozen=True)
class PlacedRadiator:
    id: str
    mounts: tuple[str, ...]
    face_cm2: float
    thickness_mm: float
    length_mm: float
    ua_factor: float
    gap_mm: float
    tubes: str
    tank_mm: float = 20.0
    section_mm: float = 120.0


@dataclass(frozen=True)
class Cpu:
    power_w: float
    r_jc_k_per_w: float
    tj_max_c: float


@dataclass(frozen=True)
class Card:
    power_w: float
    shroud: Literal["open", "blower"]
    length_mm: float
    fan_flow_max_m3h: float
    fan_pressure_max_pa: float
    fin_drop_pa: float
    r_k_per_w: float
    t_limit_c: float
    noise_dba: float
    heat_capacity_j_per_k: float
    orientation: Literal["flat", "upright"]
    fan_pct: float
    curve: SpeedCurve | None
    block_k_per_w: float | None = None  # cooled by a loop's block instead of its own fins and fans


@dataclass(frozen=True)
class AirCooler:
    """Tower or downdraft: fins with their own fans."""

    kind: Literal["tower", "downdraft"]
    fan: Fan
    fans: int
    flow_ref_m3h: float
    fin_drop_pa: float
    ua_ref_w_per_k: float
    r_base_k_per_w: float
    heat_capacity_j_per_k: float
    direction: Literal["rear", "up", "front", "toward", "away"]
    fan_pct: float
    curve: SpeedCurve | None
    fan_side: Literal["above", "below"] = "above"  # of a downdraft: over its fins or between them and the board
    height_mm: float | None = None


@dataclass(frozen=True)
class SealedCooler:
    r_plate_k_per_w: float
    heat_capacity_j_per_k: float
    coolant_ml: float
    pump: Literal["block", "radiator", "tube", "free"]
    pump_pct: float
    radiators: tuple[PlacedRadiator, ...]
    pump_curve: SpeedCurve | None = None
    fill_pct: float = 97.0
    tube_mm: float = 400.0
    tube_material: str = "epdm"
    reservoir: bool = False
    pump_z_mm: float | None = None
    reservoir_z_mm: float | None = None


@dataclass(frozen=True)
class Machine:
    """One case, one layout, one room: the input of a forecast."""

    layout_id: str
    room: Room
    depth_mm: float
    height_mm: float
    width_mm: float
    board_depth_mm: float
    cpu_x_mm: float
    cpu_z_mm: float
    card_height_mm: float
    separate_card_chamber: bool
    shroud: Shroud | None
    slot_cover_open_cm2: float
    window_gap_open_cm2: float
    supply_heat_w: float
    vents: tuple[Vent, ...]
    blocks: tuple[Block, ...]
    panels: dict[Face, Panel]
    open_faces: frozenset[Face]
    mounts: dict[str, Mount]
    space_blocked_pct: dict[str, float]
    board_power_w: float
    cpu: Cpu
    card: Card | None
    cooler: AirCooler | SealedCooler
    fans: tuple[PlacedFan, ...]
    card_loop: SealedCooler | None = None  # a loop of the card's own; with a block and without one the card is on the processor's
    strict_loops: bool = False
    front_back: SetBack = STRAIGHT
    rear_back: SetBack = STRAIGHT
    card_side_mm: float = 0.0  # chambers side by side: the card's, behind the board tray, is this wide; 0: one under the other

    @property
    def loops(self) -> tuple[SealedCooler, ...]:
        """Every loop, the processor's first."""
        own = (self.cooler,) if isinstance(self.cooler, SealedCooler) else ()
        return own if self.card_loop is None else (*own, self.card_loop)

    @property
    def card_on_air(self) -> Card | None:
        """The card where its own fins and fans cool it."""
        return self.card if self.card and self.card.block_k_per_w is None else None


def at_speeds(machine: Machine, mounts: Sequence[str], speed_pct: float) -> Machine:
    """The machine with the fans of some mounts (all where none is named) at another speed, without their curves."""
    wanted = set(mounts) or {f.mount for f in machine.fans}
    fans = tuple(replace(f, speed_pct=speed_pct, curve=None, running=speed_pct > 0) if f.mount in wanted else f for f in machine.fans)
    return replace(machine, fans=fans)
