"""The build document: its shapes."""

from typing import Literal

from pydantic import BaseModel

from engine.identity import ENGINE

Side = Literal["inlet", "outlet"]
Chapter = Literal["before", "out", "in", "leads", "close", "power", "after"]


class BuildStep(BaseModel):
    """``after``: steps that must be done first; ``gate``: not skipped without a reason; ``minutes`` of hand work.

    ``caution`` names one of the cautions of the words; ``details`` are lines under the step. ``key`` changes with what is to be done, so
    that a tick made for something else is told.
    """

    id: str
    chapter: Chapter
    words: str
    details: list[str] = []
    after: list[str] = []
    minutes: float
    caution: str | None = None
    gate: bool = False
    sight: bool = False  # that a fan blows its way is seen here
    mount: str | None = None
    layer: Literal["outer", "inner"] | None = None
    key: str = ""


class BuildLead(BaseModel):
    """``needs_mm`` is the way along the frame, None where the header's or the fan's place is not known; ``via`` a splitter or hub.

    ``through``: the holes of the tray by which it goes behind the board and out again, where it is long enough (``hidden_mm``).
    """

    to: str | None
    via: str | None
    length_mm: float | None
    needs_mm: float | None
    through: list[str] = []
    hidden_mm: float | None = None


class BuildFan(BaseModel):
    """A fan in its mount as the builder sees it. ``exit``: the corner of its frame at which the lead leaves, by the case's own sides.

    ``up`` and ``right``: what lies there in a drawing seen from ``seen_from``; ``corners``: its upper left, upper right, lower right and
    lower left.
    """

    mount: str
    layer: Literal["outer", "inner"]
    fan: str
    name: str
    size_mm: float
    blows: Literal["intake", "exhaust"]
    seen_from: str
    side_seen: Side
    inside_from: str
    side_inside: Side
    exit: str
    exit_corner: int
    corners: list[str]
    up: str
    right: str
    screws: str
    label: str
    lead: BuildLead
    running: bool
    speed_pct: float
    speed_rpm: float
    curve: str | None


class BuildRadiator(BaseModel):
    """What lies on what, from outside in."""

    name: str
    mounts: list[str]
    layers: list[str]
    tubes: str
    screws: str


class BuildLoose(BaseModel):
    """A lead without a header; ``proposed``: where it may go, None where none is left or no board is known. ``drive`` sets its speed."""

    name: str
    pump: bool
    drive: str
    proposed: str | None


class BuildHeader(BaseModel):
    """A header with what hangs on it; amperes at the start."""

    header: str
    kind: str
    plugs: list[str]
    sum_a: float
    limit_a: float | None
    verdict: str
    unknown: list[str]
    modes: list[str]


class BuildCurve(BaseModel):
    group: str
    curve: str  # its id in the document
    mounts: list[str]
    source: str
    points: list[tuple[float, float]]
    floor_pct: float
    stop_below_c: float | None
    hysteresis_k: float
    delay_s: float
    flat_pct: list[float]
    settles_pct: float | None = None  # as forecast, under full load
    warns: list[str] = []


class BuildPump(BaseModel):
    """A loop's pump: constant at a share of full speed, or on a curve, which is said to be unwise."""

    of: str
    pct: float
    curve: str | None


class BuildForecast(BaseModel):
    """What the layout is forecast to do under full load once it stands, with 95 % bands; ``learned``: from how many runs."""

    cpu_c: float
    cpu_band_k: float
    card_c: float | None
    card_band_k: float | None
    level_dba: float
    band_db: float
    learned: int


class BuildBuy(BaseModel):
    """``count`` of a part; ``price`` each, None where it is not known; ``instead``: others that would do, those on hand first."""

    part: str
    name: str
    count: int
    price: float | None
    instead: list[str] = []


class BuildDoc(BaseModel):
    """``start``: the layout that is rebuilt; None for a build from an empty case. ``impossible``: why no order of assembly exists."""

    format: Literal["oventa-build"] = "oventa-build"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    layout: str
    name: str
    job: str
    case: str
    start: str | None
    minutes: float
    steps: list[BuildStep]
    impossible: list[str]
    fans: list[BuildFan]
    radiators: list[BuildRadiator]
    headers: list[BuildHeader]
    loose: list[BuildLoose]
    lead_faults: list[str]  # what the findings say of leads and headers
    lights: list[str]  # labels of lit fans in the order of their chain
    pumps: list[BuildPump]
    curves: list[BuildCurve]
    forecast: BuildForecast | None
    shopping: list[BuildBuy]
    left_over: list[BuildBuy]
    kit: list[str]
