"""What a package says of runs, marks and verdicts: typed, so that nothing odd gets in, and used again to look at what is stored."""

from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BaseModel, BeforeValidator, ConfigDict, Field

from documents.job.asked import Asked
from documents.job.models import LayoutDoc
from documents.job.planned import ProtocolDoc
from engine.plan.protocol import Load

Key = Annotated[str, Field(max_length=60)]
Words = Annotated[str, Field(max_length=300)]
Long = Annotated[str, Field(max_length=4000)]
Channel = Annotated[str, Field(pattern=r"^[a-z0-9_]+$", max_length=60)]
Seconds = Annotated[float, Field(ge=-1e9, le=1e9)]
Millimetres = Annotated[float, Field(ge=-10_000, le=10_000)]
Level = Annotated[float, Field(ge=0, le=120)]
HeldValues = Annotated[dict[Key, Annotated[str, Field(max_length=200)]], Field(max_length=100)]
Ticks = Annotated[list[Annotated[str, Field(max_length=80)]], Field(max_length=50)]


def _none_if_empty(value: Any) -> Any:
    return None if value == {} else value


class Said(BaseModel):
    """Base: what this version does not know is let by and named, numbers are finite."""

    model_config = ConfigDict(extra="allow", allow_inf_nan=False)


class Microphone(Said):
    """Where the level was read, and the room's own level once the machine was off again."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)

    distance_m: Annotated[float, Field(gt=0, le=20)] | None = None
    place: Annotated[str, Field(max_length=200)] = ""
    side: Literal["", "front", "window", "rear", "above"] = ""
    height_m: Annotated[float, Field(ge=0, le=5)] | None = None
    background_after_dba: Level | None = None
    meter: Literal["", "class_1", "class_2", "unclassed"] = ""


class ColumnSaid(Said):
    heading: Annotated[str, Field(max_length=500)]
    channel: Key | None
    unit: Key = ""


class ByHandSaid(Said):
    channel: Channel
    at_s: Seconds
    value: Annotated[float, Field(ge=-1e9, le=1e9)]
    state: Literal["settled", "rising", "struck"] = "settled"
    point: Key = ""


class EditSaid(Said):
    """A change of a run after it was made: when, and what, in words."""

    at: AwareDatetime
    what: Words


class AlarmSaid(Said):
    kind: Key
    channel: Key
    at_s: Seconds
    value: float
    limit: float
    act: Key
    words: Words = ""


DROP_S = 60.0  # a disturbance without an end takes a minute


def ends_s(at_s: float, until_s: float | None, drop: bool) -> float:
    """Where a mark's stretch ends: an event that is left out takes a minute unless its end is known."""
    if until_s is not None:
        return until_s
    return at_s + (DROP_S if drop else 0.0)


class MarkSaid(Said):
    kind: Literal["event", "seen", "heard", "note", "alarm"]
    tag: Annotated[str, Field(max_length=40)] = ""
    text: Annotated[str, Field(max_length=500)] = ""
    at_s: Seconds
    until_s: Seconds | None = None
    drop: bool = False
    x_mm: Millimetres | None = None
    z_mm: Millimetres | None = None
    picture: Annotated[str, Field(max_length=200)] | None = None


class RunSaid(Said):
    """A run without its readings; ``file`` names those in the zip."""

    file: Annotated[str, Field(max_length=200)] | None = None
    layout: Key = ""
    imported_at: AwareDatetime | None = None
    made_at: AwareDatetime | None = None
    name: Annotated[str, Field(min_length=1, max_length=200)]
    source_name: Annotated[str, Field(max_length=255)] = ""
    typed_room_c: Annotated[float, Field(ge=-20, le=60)] | None = None
    window_s: Annotated[float, Field(gt=0, le=1e7)] | None = None
    state: Literal["valid", "void", "superseded"]
    void_reason: Words = ""
    columns: Annotated[list[ColumnSaid], Field(max_length=2000)] = []
    notes: Annotated[list[Long], Field(max_length=2000)] = []
    protocol: Annotated[ProtocolDoc | None, BeforeValidator(_none_if_empty)] = None
    load: Literal[""] | Load = ""
    planned: Key = ""
    asked: Annotated[Asked | None, BeforeValidator(_none_if_empty)] = None
    made_with: HeldValues = {}
    drawn: Annotated[LayoutDoc | None, BeforeValidator(_none_if_empty)] = None  # its layout as it was drawn then
    held: HeldValues = {}
    acknowledged: Ticks = []
    traits: Ticks = []
    microphone: Microphone = Microphone()
    background_dba: Level | None = None
    stood_still: bool = False
    by_hand: Annotated[list[ByHandSaid], Field(max_length=5000)] = []
    alarms: Annotated[list[AlarmSaid], Field(max_length=5000)] = []
    edits: Annotated[list[EditSaid], Field(max_length=5000)] = []
    waived: bool = False
    started_s: Annotated[float, Field(ge=-1e12, le=1e12)] | None = None
    ended_s: Annotated[float, Field(ge=-1e12, le=1e12)] | None = None
    ended_why: Annotated[str, Field(max_length=20)] = ""
    marks: Annotated[list[MarkSaid], Field(max_length=5000)] = []


class ClipSaid(Said):
    """A recording: ``file`` in the zip, ``by`` the number of the calibrator's clip in the list."""

    file: Annotated[str, Field(min_length=1, max_length=200)]
    layout: Key = ""
    run: Annotated[int, Field(ge=0)] | None = None  # its number in the list of runs
    kind: Literal["machine", "room", "calibrator"] = "machine"
    name: Annotated[str, Field(min_length=1, max_length=120)]
    recorded_at: AwareDatetime | None = None
    microphone: Microphone = Microphone()
    speeds: dict[str, Annotated[float, Field(ge=0, le=1e5)]] = {}
    sources: Annotated[list[tuple[str, float, int | None]], Field(max_length=60)] = []
    tie: Literal["none", "calibrator", "meter"] = "none"
    by: Annotated[int, Field(ge=0)] | None = None
    level_db: Annotated[float, Field(ge=0, le=150)] | None = None
    gain_moves: bool = False
    made_up: bool = False
    struck: Annotated[str, Field(max_length=200)] = ""


class HeardSaid(Said):
    """The room and the place of the ear when a level was read."""

    background_dba: Annotated[float, Field(ge=0, le=100)]
    distance_m: Annotated[float, Field(gt=0, le=20)]
    side: Literal["front", "window", "rear", "above"]


class LevelSaid(Said):
    """A level that was read at a speed, in a sweep or on the way to a level."""

    layout: Key = ""
    purpose: Literal["sweep", "equal"]
    load: Literal["idle", "both"] = "both"
    round: Annotated[int, Field(ge=1, le=10_000)] = 1
    mounts: Annotated[list[Key], Field(max_length=200)] = []
    speed_pct: Annotated[float, Field(ge=0, le=100)]
    level_dba: Annotated[float, Field(ge=-30, le=150)]
    clip: Annotated[int, Field(ge=0)] | None = None
    tone_db: Annotated[float, Field(ge=-50, le=200)] | None = None
    tone_hz: Annotated[float, Field(ge=0, le=50_000)] | None = None
    beat_db: Annotated[float, Field(ge=0, le=100)] | None = None
    drawn: Annotated[LayoutDoc | None, BeforeValidator(_none_if_empty)] = None  # its layout as it was drawn then
    made_with: HeldValues = {}
    heard: Annotated[HeardSaid | None, BeforeValidator(_none_if_empty)] = None
    made_up: bool = False
    struck: bool = False


class GapSaid(Said):
    """How far a repeat of an earlier job lay from the run before it; ``id`` names the two runs, so that none is counted twice."""

    id: Annotated[str, Field(min_length=1, max_length=64)]
    channel: Annotated[str, Field(min_length=1, max_length=60)]
    kind: Literal["cooler", "fans", "same"]
    value: Annotated[float, Field(ge=-200, le=200, allow_inf_nan=False)]


class VerdictSaid(Said):
    """A decision; ``record`` is empty in one that was given before records were kept."""

    layout: Key
    made_at: AwareDatetime | None = None
    reason: Annotated[str, Field(min_length=1, max_length=4000)]
    margin_k: Annotated[float, Field(gt=0, le=20)]
    figures: dict[str, Any] = {}
    signed_by: Annotated[str, Field(max_length=80)] = ""
    digest: Annotated[str, Field(max_length=64)] = ""
    record: dict[str, Any] = {}


def unknown(model: BaseModel, path: str) -> list[str]:
    """Paths of fields that this version keeps no place for."""
    found = [f"{path}.{name}" for name in model.model_extra or {}]
    for name in type(model).model_fields:
        value = getattr(model, name)
        for i, item in enumerate(value if isinstance(value, list) else [value]):
            if isinstance(item, Said):
                found += unknown(item, f"{path}.{name}[{i}]" if isinstance(value, list) else f"{path}.{name}")
    return found
