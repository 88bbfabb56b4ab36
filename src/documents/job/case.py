"""The case in the job document: what it is like inside, its faces, places and limits, and where its figures come from."""

from typing import Annotated, Literal

from pydantic import Field

from documents.job.base import Doc, FaceName, Id, Length, Millimetres, NotNegative, Percent, Positive, Watts


class PointDoc(Doc):
    x: float
    y: float
    z: float


class CpuCentreDoc(Doc):
    x: float
    z: float


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
    kind: Literal["cage", "plate", "bundle", "block_off", "structure", "other"] = "other"
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
    takes_slots: Annotated[int, Field(ge=0, le=8)] = 0  # expansion slots, counted from the lowest, lost when a fan stands here
    takes_drives: list[Id] = []  # drive places lost when anything stands here
    grille_open_pct: Annotated[float, Field(gt=0, le=100)] = 100
    obstruction_k: NotNegative = 0
    cover: bool = False
    on_shroud: bool = False

    @property
    def usual_way(self) -> Literal["intake", "exhaust"]:
        """Out at the rear and at the top, in elsewhere (common practice, no source)."""
        return "exhaust" if self.face in ("rear", "top") else "intake"


class RailDoc(Doc):
    id: Id
    face: FaceName
    mounts: list[Id] = []
    radiators_mm: list[Length] = []
    depth_mm: Millimetres = 60
    length_mm: Millimetres | None = None


class LimitsDoc(Doc):
    card_length: Length | None = None
    card_width: Length | None = None
    card_slots: Positive | None = None
    cooler_height: Length | None = None
    memory_to_top: Length | None = None
    supply_length: Length | None = None


class DimensionDoc(Doc):
    """Where a figure of the case comes from. The figure in force stands in its own field; a measured one overrides the sheet's."""

    source: Literal["data_sheet", "measured", "guessed"] = "data_sheet"
    tolerance_mm: Annotated[float, Field(ge=0, le=50)] | None = None
    sheet_mm: Millimetres | None = None
    measured_mm: Millimetres | None = None
    note: str = ""


class DriveDoc(Doc):
    id: Id
    name: str = ""
    in_use: bool = False


class RoutingHoleDoc(Doc):
    id: Id
    centre_mm: PointDoc


class WhenDoc(Doc):
    """When a limit of a family of parts begins; every one that is given must hold."""

    card_longer_than_mm: Millimetres | None = None
    card_slots_over: NotNegative | None = None
    cooler_higher_than_mm: Millimetres | None = None
    supply_longer_than_mm: Millimetres | None = None
    radiator_on: list[Id] = []
    fan_on: list[Id] = []


class RulesOutDoc(Doc):
    radiators_on: list[Id] = []
    fans_on: list[Id] = []
    drives: list[Id] = []
    card_longer_than_mm: Millimetres | None = None
    supply_longer_than_mm: Millimetres | None = None


class ExclusionDoc(Doc):
    """Families of parts that exclude each other in this case, with the reason in words."""

    id: Id
    when: WhenDoc
    rules_out: RulesOutDoc
    why: Annotated[str, Field(min_length=3, max_length=300)]


class AssemblyDoc(Doc):
    """One part goes in before another in this case; names as the ledger writes them: "board", "cooler", "fan at R1" ..."""

    id: Id
    first: Annotated[str, Field(min_length=1, max_length=80)]
    second: Annotated[str, Field(min_length=1, max_length=80)]
    why: Annotated[str, Field(min_length=3, max_length=300)]


class OnPhotoDoc(Doc):
    """A point of a photograph, in shares of its width and height from its upper left corner."""

    u: Annotated[float, Field(ge=0, le=1)]
    v: Annotated[float, Field(ge=0, le=1)]


class PhotoDoc(Doc):
    """A photograph of the opened case behind the drawing; two corners of the inside set its scale, place and turn."""

    picture: Annotated[str, Field(max_length=1_500_000, pattern=r"^data:image/(jpeg|png|webp);base64,[A-Za-z0-9+/=]+$")]
    width_px: Annotated[int, Field(ge=1, le=20000)]
    height_px: Annotated[int, Field(ge=1, le=20000)]
    rear_floor: OnPhotoDoc | None = None
    front_floor: OnPhotoDoc | None = None
    apart_mm: Length | None = None  # between the two corners; the inside's depth where nothing is said


class SetBackDoc(Doc):
    """An upright face that stands inward of the end of the case: evenly, or slanted where top and bottom differ."""

    face: Literal["front", "rear"]
    top_mm: Millimetres = 0
    bottom_mm: Millimetres = 0


class CaseDoc(Doc):
    name: str = ""
    kind: Literal["case", "open_bench"] = "case"  # an open bench has no walls
    revision: str = ""  # same name, other dimensions: kept apart
    window_side: Literal["left", "right"] = "left"  # of one who stands before the front; the drawing follows it
    inner_mm: InnerDoc
    board_depth_mm: Length = 244
    cpu_centre_mm: CpuCentreDoc | None = None
    card_height_mm: Length | None = None
    card_chamber: Literal["shared", "separate"] = "shared"
    card_side_mm: Length | None = None  # width of a separate chamber behind the board tray; without it the chambers lie one over the other
    set_back: Annotated[list[SetBackDoc], Field(max_length=2)] = []
    photo: PhotoDoc | None = None
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
    dimensions: dict[str, DimensionDoc] = {}  # by path within the case, such as "inner_mm.depth" or "mounts.f1.depth_mm"
    backplate: Literal["unknown", "reachable", "board_out"] = "unknown"
    routing_holes: list[RoutingHoleDoc] = []
    slots: Annotated[int, Field(ge=0, le=12)] | None = None
    slots_in_use: list[Annotated[int, Field(ge=1, le=12)]] = []  # by other cards, counted from the lowest
    drives: list[DriveDoc] = []
    exclusions: list[ExclusionDoc] = []
    assembly: list[AssemblyDoc] = []
