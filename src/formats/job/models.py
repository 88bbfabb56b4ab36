"""The job document, version 1, as typed models. Field by field the contract of docs/formats/job.md.

Unknown fields are kept (``extra="allow"``) and reported by the reader. Defaults here are the stated ones.
"""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

FaceName = Literal["front", "top", "bottom", "window", "rear"]
Id = Annotated[str, Field(min_length=1, max_length=60)]
Millimetres = Annotated[float, Field(ge=0, le=3000)]
Length = Annotated[float, Field(gt=0, le=3000)]
Percent = Annotated[float, Field(ge=0, le=100)]
Positive = Annotated[float, Field(gt=0)]
NotNegative = Annotated[float, Field(ge=0)]
Watts = Annotated[float, Field(ge=0, le=3000)]
Temperature = Annotated[float, Field(ge=-40, le=150)]
Source = Literal["cpu", "card", "hotter", "coolant", "board", "case_air"]


class Doc(BaseModel):
    """Base: unknown fields survive a round trip, numbers must be finite."""

    model_config = ConfigDict(extra="allow", allow_inf_nan=False)


class PointDoc(Doc):
    x: float
    y: float
    z: float


class CpuCentreDoc(Doc):
    x: float
    z: float


class RoomDoc(Doc):
    temperature_c: Annotated[float, Field(ge=-20, le=60)] = 22
    worst_temperature_c: Annotated[float, Field(ge=-20, le=60)] | None = None
    pressure_hpa: Annotated[float, Field(ge=500, le=1100)] = 1013.25
    humidity_pct: Percent = 50
    background_dba: Annotated[float, Field(ge=0, le=90)] = 28
    listener_distance_m: Annotated[float, Field(gt=0, le=20)] = 0.7
    listener_side: Literal["front", "window", "rear", "above"] = "front"
    sound_limit_dba: Annotated[float, Field(ge=0, le=120)] | None = None


class InnerDoc(Doc):
    depth: Length
    height: Length
    width: Length


class ShroudDoc(Doc):
    height_mm: Length
    top_open_cm2: NotNegative = 40
    front_cut_cm2: NotNegative = 30
    vent_cm2: NotNegative = 60


class SizeDoc(Doc):
    x: Length
    y: Length
    z: Length


class SupplyDoc(Doc):
    centre_mm: PointDoc | None = None
    size_mm: SizeDoc | None = None
    loss_w: Watts = 0
    own_duct: bool = True


class BlockDoc(Doc):
    id: Id
    kind: Literal["cage", "plate", "bundle", "other"] = "other"
    from_mm: PointDoc
    to_mm: PointDoc
    free_pct: Percent = 40


class VentDoc(Doc):
    id: Id
    face: FaceName
    centre_mm: PointDoc
    area_cm2: Positive


class PanelDoc(Doc):
    face: FaceName
    kind: Literal["mesh", "slots", "solid", "glass"]
    width_mm: Length | None = None
    height_mm: Length | None = None
    open_area_pct: Annotated[float, Field(gt=0, le=100)] | None = None
    gap_area_cm2: NotNegative | None = None
    turns_90: Annotated[float, Field(ge=0, le=6)] | None = None
    filter: Literal["none", "coarse", "fine"] = "none"
    insertion_loss_db: NotNegative | None = None


class MountDoc(Doc):
    id: Id
    face: FaceName
    centre_mm: PointDoc
    sizes_mm: Annotated[list[Length], Field(min_length=1)]
    opening_mm: Length | None = None
    depth_mm: Millimetres = 60
    grille_open_pct: Annotated[float, Field(gt=0, le=100)] = 100
    obstruction_k: NotNegative = 0
    cover: bool = False
    on_shroud: bool = False


class RailDoc(Doc):
    id: Id
    face: FaceName
    mounts: list[Id] = []
    radiators_mm: list[Length] = []
    depth_mm: Millimetres = 60
    length_mm: Millimetres | None = None


class LimitsDoc(Doc):
    card_length: Length | None = None
    cooler_height: Length | None = None
    memory_to_top: Length | None = None


class CaseDoc(Doc):
    name: str = ""
    inner_mm: InnerDoc
    board_depth_mm: Length = 244
    cpu_centre_mm: CpuCentreDoc | None = None
    card_height_mm: Length | None = None
    card_chamber: Literal["shared", "separate"] = "shared"
    shroud: ShroudDoc | None = None
    slot_cover_open_cm2: NotNegative = 45
    window_gap_open_cm2: NotNegative = 120
    supply: SupplyDoc | None = None
    blocks: list[BlockDoc] = []
    vents: list[VentDoc] = []
    panels: list[PanelDoc] = []
    mounts: list[MountDoc] = []
    rails: list[RailDoc] = []
    limits_mm: LimitsDoc = LimitsDoc()


class CpuDoc(Doc):
    id: Id
    name: str = ""
    power_w: Watts
    r_jc_k_per_w: Annotated[float, Field(ge=0, le=5)]
    tj_max_c: Temperature = 100


class CardDoc(Doc):
    id: Id
    name: str = ""
    power_w: Watts
    shroud: Literal["open", "blower"] = "open"
    length_mm: Length
    slots: Positive = 2.5
    fan_flow_max_m3h: Positive
    fan_pressure_max_pa: Positive
    fin_drop_pa: Positive
    r_k_per_w: Positive
    t_limit_c: Temperature = 95
    noise_dba: Annotated[float, Field(ge=0, le=90)]
    heat_capacity_j_per_k: Positive = 900


class CoolerDoc(Doc):
    id: Id
    name: str = ""
    kind: Literal["tower", "downdraft", "sealed", "open_loop"]
    height_mm: Length | None = None
    fan: Id | None = None
    fans: Annotated[int, Field(ge=1, le=4)] = 1
    flow_ref_m3h: Positive | None = None
    fin_drop_pa: Positive | None = None
    ua_ref_w_per_k: Positive | None = None
    r_base_k_per_w: NotNegative | None = None
    r_plate_k_per_w: NotNegative | None = None
    heat_capacity_j_per_k: Positive = 500
    pump: Literal["block", "radiator", "tube", "free"] = "block"
    coolant_ml: Positive = 100
    tube_mm: Length = 400
    tube_material: str = "epdm"


class RadiatorDoc(Doc):
    id: Id
    name: str = ""
    sections: Annotated[int, Field(ge=1, le=8)]
    section_mm: Length
    thickness_mm: Length = 27
    length_mm: Length | None = None
    end_tank_mm: Millimetres = 20
    ua_factor: Positive = 1.0


class SheetCurveDoc(Doc):
    flow_m3h: Annotated[list[NotNegative], Field(min_length=3)]
    pressure_pa: Annotated[list[NotNegative], Field(min_length=3)]


class FanDoc(Doc):
    id: Id
    name: str = ""
    size_mm: Length
    thickness_mm: Length = 25
    speed_max_rpm: Positive
    flow_max_m3h: Positive
    pressure_max_pa: Positive
    noise_dba: Annotated[float, Field(ge=0, le=90)]
    curve: SheetCurveDoc | None = None
    speed_min_rpm: NotNegative | None = None
    blades: Annotated[int, Field(ge=1, le=40)] = 9
    current_a: NotNegative | None = None
    connector: str = "4pin"
    price: NotNegative | None = None


class PartsDoc(Doc):
    board_power_w: Watts = 35
    cpus: list[CpuDoc] = []
    cards: list[CardDoc] = []
    coolers: list[CoolerDoc] = []
    radiators: list[RadiatorDoc] = []
    fans: list[FanDoc] = []


class CurveDoc(Doc):
    id: Id
    source: Source
    points: Annotated[list[tuple[float, Percent]], Field(min_length=1)]


class SettingsDoc(Doc):
    """What ``base`` states and a layout may override."""

    cpu: Id | None = None
    card: Id | None = None
    cooler: Id | None = None
    cooler_fan: Id | None = None
    cooler_fans: Annotated[int, Field(ge=1, le=4)] | None = None
    cooler_fan_pct: Percent | None = None
    cooler_curve: Id | None = None
    card_fan_pct: Percent | None = None
    card_curve: Id | None = None
    cpu_power_w: Watts | None = None
    card_power_w: Watts | None = None


class FanPlaceDoc(Doc):
    mount: Id
    fan: Id
    direction: Literal["intake", "exhaust"]
    speed_pct: Percent = 100
    curve: Id | None = None
    layer: Literal["outer", "inner"] = "outer"
    state: Literal["running", "unplugged"] = "running"


class RadiatorPlaceDoc(Doc):
    radiator: Id
    mounts: Annotated[list[Id], Field(min_length=1)]
    gap_mm: Millimetres = 0
    tubes: str = "rear"
    turned: bool = False


class LoopDoc(Doc):
    cooler: Id
    heat: list[Literal["cpu", "card"]] = ["cpu"]
    pump_pct: Percent = 100
    pump_curve: Id | None = None
    reservoir: bool = False
    radiators: list[RadiatorPlaceDoc] = []


class ObstructionDoc(Doc):
    mount: Id | None = None
    space: str | None = None
    blocked_pct: Annotated[float, Field(ge=0, lt=100)]


class PanelStateDoc(Doc):
    """State of a panel in a layout; any field of the panel may be overridden beside it."""

    state: Literal["fitted", "removed", "stood_off", "angled"] = "fitted"
    stand_off_mm: Millimetres | None = None
    angle_deg: Annotated[float, Field(ge=0, le=90)] | None = None
    blocked_pct: Annotated[float, Field(ge=0, lt=100)] = 0
    kind: Literal["mesh", "slots", "solid", "glass"] | None = None
    width_mm: Length | None = None
    height_mm: Length | None = None
    open_area_pct: Annotated[float, Field(gt=0, le=100)] | None = None
    gap_area_cm2: NotNegative | None = None
    turns_90: Annotated[float, Field(ge=0, le=6)] | None = None
    filter: Literal["none", "coarse", "fine"] | None = None
    insertion_loss_db: NotNegative | None = None


class AcceptedDoc(Doc):
    """A finding that the person has weighed and accepts, with the reason in their words; it stays in the report."""

    code: Annotated[str, Field(min_length=1, max_length=80)]
    mounts: list[Id] = []
    reason: Annotated[str, Field(min_length=3, max_length=500)]


class LayoutDoc(SettingsDoc):
    id: Id
    name: str = ""
    fans: list[FanPlaceDoc] = []
    radiator: RadiatorPlaceDoc | None = None
    loops: list[LoopDoc] | None = None
    panels: dict[FaceName, PanelStateDoc] = {}
    obstructions: list[ObstructionDoc] = []
    card_orientation: Literal["flat", "upright"] = "flat"
    cooler_direction: Literal["rear", "up", "front", "toward", "away"] | None = None
    cooler_fan_side: Literal["above", "below"] = "above"
    note: str = ""
    accepted: list[AcceptedDoc] = []
    parent: Id | None = None  # the layout this one was made from; it may be gone by now


class JobDoc(Doc):
    format: Literal["oventa-job"]
    version: Literal[1]
    name: Annotated[str, Field(min_length=1, max_length=200)]
    note: str = ""
    room: RoomDoc = RoomDoc()
    case: CaseDoc
    parts: PartsDoc = PartsDoc()
    curves: list[CurveDoc] = []
    base: SettingsDoc = SettingsDoc()
    layouts: list[LayoutDoc] = []
    stock: dict[str, Any] | None = None
