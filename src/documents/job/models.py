"""The job document, version 1, as typed models. Field by field the contract of docs/formats/job.md.

Unknown fields are kept (``extra="allow"``) and reported by the reader. Defaults here are the stated ones.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from documents.job.base import (
    Doc,
    FaceName,
    Id,
    Length,
    Millimetres,
    NotNegative,
    Percent,
    Positive,
    Source,
    Temperature,
    Watts,
)
from documents.job.case import CaseDoc, PointDoc
from documents.job.planned import PlanDoc, ProtocolDoc
from engine.machine import HYSTERESIS_K, RAMP_S
from engine.plan.protocol import Load
from engine.plan.rebuild import Kind as RebuildKind


class RoomDoc(Doc):
    temperature_c: Annotated[float, Field(ge=-20, le=60)] = 22
    worst_temperature_c: Annotated[float, Field(ge=-20, le=60)] | None = None
    pressure_hpa: Annotated[float, Field(ge=500, le=1100)] = 1013.25
    humidity_pct: Percent = 50
    background_dba: Annotated[float, Field(ge=0, le=90)] = 28
    listener_distance_m: Annotated[float, Field(gt=0, le=20)] = 0.7
    listener_side: Literal["front", "window", "rear", "above"] = "front"
    sound_limit_dba: Annotated[float, Field(ge=0, le=120)] | None = None
    kind: Literal["room", "chamber"] = "room"  # a climate chamber holds its temperature by itself


class CpuDoc(Doc):
    id: Id
    name: str = ""
    power_w: Watts
    r_jc_k_per_w: Annotated[float, Field(ge=0, le=5)]
    tj_max_c: Temperature = 100
    overclocked: bool = False  # run above its sheet; asks for a larger cooler
    price: NotNegative | None = None


class PathLessonDoc(Doc):
    """What runs of another job taught of a part: one of the model's parameters over its usual value, as one sigma has it."""

    job: str
    runs: Annotated[list[str], Field(min_length=1)]  # their names
    parameter: Id
    ratio: Annotated[float, Field(gt=0.05, lt=20)]
    ratio_sd: Annotated[float, Field(gt=0, lt=5)]


class LevelLessonDoc(Doc):
    """What runs of another job taught of a fan's level: dB over its sheet, as one sigma has it."""

    job: str
    runs: Annotated[list[str], Field(min_length=1)]
    off_db: Annotated[float, Field(ge=-40, le=40)]
    off_db_sd: Annotated[float, Field(gt=0, le=20)]


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
    width_mm: Length | None = None  # from the board to its upper edge, plugs not counted
    plug_mm: Millimetres | None = None  # what its power plug and the bend of the cable need beyond that
    block_k_per_w: Positive | None = None  # core minus coolant per watt, where a loop's block is on it
    price: NotNegative | None = None
    lessons: list[PathLessonDoc] = []


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
    fill_pct: Annotated[float, Field(gt=50, le=100)] = 97  # of the loop's volume when new; the rest is air
    tube_mm: Length = 400
    tube_material: str = "epdm"
    tube_bend_mm: Length | None = None  # smallest radius it may be bent to
    pump_z_mm: Millimetres | None = None  # of a pump that stands free in the case
    reservoir_z_mm: Millimetres | None = None  # the highest point of the reservoir
    pump_current_a: NotNegative | None = None
    pump_lead_mm: Millimetres | None = None
    max_power_w: Watts | None = None
    memory_clear_mm: Length | None = None  # free height under what hangs over the memory, the fan at its lowest
    pipes_behind_mm: Millimetres | None = None  # how far its heat pipes stand out towards the rear
    price: NotNegative | None = None
    lessons: list[PathLessonDoc] = []


class RadiatorDoc(Doc):
    id: Id
    name: str = ""
    sections: Annotated[int, Field(ge=1, le=8)]
    section_mm: Length
    thickness_mm: Length = 27
    length_mm: Length | None = None
    end_tank_mm: Millimetres = 20
    tank_height_mm: Millimetres | None = None  # of the end tank with its fittings, where it is thicker than the core
    ua_factor: Positive = 1.0
    revision: str = ""
    price: NotNegative | None = None
    lessons: list[PathLessonDoc] = []


class SheetCurveDoc(Doc):
    flow_m3h: Annotated[list[NotNegative], Field(min_length=3)]
    pressure_pa: Annotated[list[NotNegative], Field(min_length=3)]


class AvoidDoc(Doc):
    """Speeds at which something sings, swells or is louder than it should be."""

    from_rpm: NotNegative
    to_rpm: NotNegative
    why: str = ""


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
    lead_mm: Millimetres | None = None
    made_for: Literal["airflow", "pressure", "mixed"] | None = None
    lighting: bool = False
    open_side: Literal["inlet", "outlet"] | None = None  # the side that looks better, without struts
    limit_rpm: Positive | None = None  # the owner accepts no more
    hums_from_rpm: NotNegative | None = None  # speeds between which it hums or beats, as heard by its owner
    hums_to_rpm: NotNegative | None = None
    avoids: Annotated[list[AvoidDoc], Field(max_length=20)] = []  # the same, as sweeps found them
    limit_dba: Annotated[float, Field(ge=0, le=90)] | None = None
    revision: str = ""
    lessons: list[PathLessonDoc] = []
    level_lessons: list[LevelLessonDoc] = []


class HeaderDoc(Doc):
    id: Id
    kind: Literal["fan", "pump", "hub"] = "fan"
    limit_a: Positive | None = None
    modes: list[Literal["3pin", "4pin"]] = ["3pin", "4pin"]
    at_mm: PointDoc | None = None


class BoardDoc(Doc):
    id: Id
    name: str = ""
    headers: list[HeaderDoc] = []
    price: NotNegative | None = None


class MemoryDoc(Doc):
    id: Id
    name: str = ""
    height_mm: Length
    price: NotNegative | None = None


class SupplyPartDoc(Doc):
    id: Id
    name: str = ""
    power_w: Watts
    length_mm: Length
    width_mm: Length = 150
    height_mm: Length = 86
    price: NotNegative | None = None


class ControllerDoc(Doc):
    """A splitter shares its header's current; a powered hub or controller brings its own."""

    id: Id
    name: str = ""
    kind: Literal["splitter", "hub", "controller"] = "splitter"
    outputs: Annotated[int, Field(ge=1, le=20)] = 3
    limit_a: Positive | None = None
    modes: list[Literal["3pin", "4pin"]] = ["3pin", "4pin"]
    lead_mm: Millimetres = 0
    at_mm: PointDoc | None = None
    price: NotNegative | None = None


class FilterPartDoc(Doc):
    id: Id
    name: str = ""
    kind: Literal["coarse", "fine"] = "coarse"
    size_mm: Length
    price: NotNegative | None = None


class PartsDoc(Doc):
    board_power_w: Watts = 35
    cpus: list[CpuDoc] = []
    cards: list[CardDoc] = []
    coolers: list[CoolerDoc] = []
    radiators: list[RadiatorDoc] = []
    fans: list[FanDoc] = []
    boards: list[BoardDoc] = []
    memory: list[MemoryDoc] = []
    supplies: list[SupplyPartDoc] = []
    controllers: list[ControllerDoc] = []
    filters: list[FilterPartDoc] = []


PART_KINDS = tuple(name for name, field in PartsDoc.model_fields.items() if field.annotation is not float)


# Of a part: what was learned and heard of it, not what it is. Runs know their parts by a digest of the rest: a field that is added to a
# part without standing here makes strangers of all runs that were made before.
LESSONS = frozenset({"lessons", "level_lessons", "hums_from_rpm", "hums_to_rpm", "avoids"})


def as_built(parts: PartsDoc) -> PartsDoc:
    """The parts without what was learned of them: they are the same parts."""

    def bare(part: Any) -> Any:
        fields = type(part).model_fields
        return part.model_copy(update={x: fields[x].get_default() for x in LESSONS & fields.keys()})

    return parts.model_copy(update={kind: [bare(p) for p in getattr(parts, kind)] for kind in PART_KINDS})


class CurveDoc(Doc):
    id: Id
    source: Source
    points: Annotated[list[tuple[float, Percent]], Field(min_length=1)]
    hysteresis_k: Annotated[float, Field(ge=0, le=30)] = HYSTERESIS_K
    ramp_s: Annotated[float, Field(ge=0, le=600)] = RAMP_S  # through the whole range


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
    board: Id | None = None
    memory: Id | None = None
    supply: Id | None = None


class FanPlaceDoc(Doc):
    mount: Id
    fan: Id
    direction: Literal["intake", "exhaust"]
    speed_pct: Percent = 100
    curve: Id | None = None
    layer: Literal["outer", "inner"] = "outer"
    state: Literal["running", "unplugged"] = "running"
    group: Id | None = None  # one of the layout's groups: its speed or curve is this fan's


class GroupDoc(Doc):
    """Fans that turn together: one speed, or one curve that replaces it."""

    id: Id
    name: str = ""
    speed_pct: Percent = 100
    curve: Id | None = None


class PlugDoc(Doc):
    """Where a lead is plugged in. ``of`` is a mount, "cooler_fan", "pump" or "pump:card"."""

    of: Id
    layer: Literal["outer", "inner"] = "outer"
    header: Id
    via: Id | None = None  # one of parts.controllers between it and the header
    extension_mm: Millimetres = 0


class SeenDoc(Doc):
    """What was found at a mount of the machine as it stands."""

    mount: Id
    layer: Literal["outer", "inner"] = "outer"
    direction: Literal["intake", "exhaust"] | None = None  # null: no fan there
    plugged: bool = True
    turning: bool = True
    filter: Literal["clean", "dusty", "missing", "none"] = "none"


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
    improvised: bool = False  # made by hand for a trial; said on every chart
    note: str = ""
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
    groups: list[GroupDoc] = []
    wiring: list[PlugDoc] = []
    as_found: list[SeenDoc] = []
    labour_min: NotNegative | None = None
    looks: str = ""
    looks_score: Annotated[int, Field(ge=0, le=5)] | None = None  # 5 is as fine as it gets; counted only where looks matter
    dust_access: str = ""
    picture: str = ""  # a small picture as a data URL
    open_bench: bool = False  # the same parts without the case's walls: the zero line
    cooler_fan_lift_mm: Millimetres = 0  # a cooler's fan raised over tall memory
    ready: bool = False  # the person holds it fit to be built


class PrioritiesDoc(Doc):
    """What matters how much, 0 to 5."""

    cpu: Annotated[float, Field(ge=0, le=5)] = 3
    card: Annotated[float, Field(ge=0, le=5)] = 3
    noise: Annotated[float, Field(ge=0, le=5)] = 3
    balance: Annotated[float, Field(ge=0, le=5)] = 1
    cost: Annotated[float, Field(ge=0, le=5)] = 1
    looks: Annotated[float, Field(ge=0, le=5)] = 0
    dust: Annotated[float, Field(ge=0, le=5)] = 1
    labour: Annotated[float, Field(ge=0, le=5)] = 1


class NamedPointDoc(Doc):
    """A point of the case with a name: where a probe hangs, or where a criterion holds."""

    id: Id
    name: str = ""
    at_mm: PointDoc
    sensor: Annotated[int, Field(ge=1, le=999)] | None = None
    critical: bool = False


class ZoneDoc(Doc):
    """A box of the case with a name: its air is forecast, and what its probes read is put together."""

    id: Id
    name: str = ""
    from_mm: PointDoc
    to_mm: PointDoc


class ScenarioDoc(Doc):
    """Heat that may come later."""

    id: Id
    name: str = ""
    cpu_add_w: Watts = 0
    card_add_w: Watts = 0


class IdeaDoc(Doc):
    """Something to be tried; ``layout`` once it has become one."""

    id: Id
    text: Annotated[str, Field(min_length=1, max_length=500)]
    layout: Id | None = None


class StockDoc(Doc):
    """How many of each part are on hand, by id; what is not listed is not counted."""

    fans: dict[str, Annotated[int, Field(ge=0, le=999)]] = {}


class PracticeDoc(Doc):
    """Positions taken where practitioners disagree."""

    loop_heights: Literal["practical", "strict"] = "practical"
    long_duty: bool = True  # loaded for hours, not for minutes
    pressure_low_m3h: float = 0  # the band of intake less exhaust that is wanted
    pressure_high_m3h: float | None = None
    margin_k: Annotated[float, Field(gt=0, le=20)] = 1.5  # a smaller difference does not matter to the person
    minutes: dict[RebuildKind, Annotated[float, Field(ge=0, le=600)]] = {}  # the person's own, by kind of change; others as usual


class ExpectedDoc(Doc):
    """A check number of a replication package: what the original measured, over room where it is a temperature."""

    layout: Id
    load: Load = "both"
    channel: Annotated[str, Field(pattern=r"^[a-z0-9_]+$", max_length=60)]
    value: float
    band: NotNegative


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
    stock: StockDoc | None = None
    priorities: PrioritiesDoc = PrioritiesDoc()
    points: list[NamedPointDoc] = []
    zones: list[ZoneDoc] = []
    scenarios: list[ScenarioDoc] = []
    ideas: list[IdeaDoc] = []
    practice: PracticeDoc = PracticeDoc()
    protocols: list[ProtocolDoc] = []
    plan: PlanDoc | None = None
    expected: list[ExpectedDoc] = []
