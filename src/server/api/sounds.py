"""Sound over HTTP: clips handed in or made up, what they hold, and levels read at chosen speeds."""

import csv
import io
from datetime import datetime
from typing import Annotated, Any, Literal, cast

from django.db.models import Exists, OuterRef
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Query, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from desk.sound.document import SoundDoc, SoundPictures
from desk.sound.procedure import ProcedureDoc
from desk.sound.speeds import FansAt
from desk.sound.told import told_of
from documents.job.base import Id as Key
from instruments.recorder import LISTENING_DB
from server.api.door import job_of
from server.api.schema import MEGABYTE, Schema, content_of
from server.apps.bench.models import Run
from server.apps.sounds import procedures, services, standin
from server.apps.sounds.models import Clip, LevelReading, Of
from server.apps.sounds.selectors import read_levels
from server.apps.tasks.services import ask_clip
from server.config.paths import CLIPS

router = Router()
MOST_CLIP = 512 * MEGABYTE
ClipKind = Literal["machine", "room", "calibrator"]
State = Literal["waiting", "done", "failed"]
Tie = Literal["none", "calibrator", "meter"]
Side = Literal["", "front", "window", "rear", "above"]
Level = Annotated[float, Field(ge=0, le=140)]
SoundLoad = Literal["idle", "both"]
Pct = Annotated[float, Field(ge=0, le=100)]


class ClipFault(Schema):
    title: str
    do: str


class ClipOut(Schema):
    """``swept``: a step of a sweep. ``state`` waiting with ``share`` of it heard; ``level_dba`` null where nothing ties it to a level.

    ``told``: what stands out of it, in words.
    """

    id: int
    layout: str
    run: int | None
    kind: ClipKind
    name: str
    seconds: float
    recorded_at: datetime
    tie: Tie
    by: int | None
    tie_level: float | None
    gain_moves: bool
    made_up: bool
    swept: bool
    struck: str
    state: State
    share: float
    fault: ClipFault | None
    calibrated: bool
    offset_db: float
    level: float | None
    tones: int
    beats: int
    flags: list[str]
    told: list[str]
    microphone: dict[str, Any]
    speeds: dict[str, float]


class AloneOut(Schema):
    """The machine without the room; ``bound``: at most this."""

    level_dba: float
    bound: bool
    words: str


class ClipWhole(Schema):
    clip: ClipOut
    alone: AloneOut | None
    sound: SoundDoc | None
    pictures: SoundPictures | None


def clip_out(clip: Clip) -> ClipOut:
    found = clip.result or {}
    return ClipOut(
        id=clip.pk,
        layout=clip.layout_key,
        run=clip.run_id,
        kind=cast(ClipKind, clip.kind),
        name=clip.name,
        seconds=clip.seconds,
        recorded_at=clip.recorded_at,
        tie=cast(Tie, clip.tie),
        by=clip.by_id,
        tie_level=clip.level_db,
        gain_moves=clip.gain_moves,
        made_up=clip.made_up,
        swept=bool(getattr(clip, "swept", False)),
        struck=clip.struck,
        state=cast(State, clip.state),
        share=clip.share,
        fault=ClipFault(**clip.fault) if clip.fault else None,
        calibrated=bool(found.get("calibrated")),
        offset_db=found.get("offset_db", 0.0),
        level=found.get("laeq_dba"),
        tones=len(found.get("tones") or []),
        beats=len(found.get("beats") or []),
        flags=[f["code"] for f in found.get("flags") or []],
        told=told_of(found),
        microphone=clip.microphone,
        speeds=clip.speeds,
    )


class ClipIn(Schema):
    """``load``, ``mounts`` (with commas between, none for all) and ``speed_pct``: what the machine did, and how its fans were driven
    where that is not as the layout asks. ``by``: the calibrator's clip. ``gain_moves``: the recorder kept its own gain control on."""

    layout: Key
    kind: ClipKind = "machine"
    run: int | None = None
    distance_m: Annotated[float, Field(gt=0, le=20)] | None = None
    height_m: Annotated[float, Field(ge=0, le=5)] | None = None
    side: Side = ""
    place: Annotated[str, Field(max_length=200)] = ""
    gain_moves: bool = False
    tie: Tie = "none"
    level_db: Level | None = None
    by: int | None = None
    load: SoundLoad = "both"
    mounts: Annotated[str, Field(max_length=4000)] = ""
    speed_pct: Pct | None = None

    @property
    def at(self) -> FansAt:
        return FansAt(self.load, tuple(m for m in self.mounts.split(",") if m), self.speed_pct)


def _said(job_id: int, data: ClipIn) -> dict[str, Any]:
    placed = {"distance_m": data.distance_m, "height_m": data.height_m, "side": data.side, "place": data.place}
    said: dict[str, Any] = {"microphone": {k: v for k, v in placed.items() if v not in (None, "")}, "gain_moves": data.gain_moves}
    if data.kind == "calibrator" and data.level_db is not None:
        said["level_db"] = data.level_db  # what it gives, for the clips that it ties
    if data.tie != "none" and data.level_db is not None and not data.gain_moves:
        by = get_object_or_404(Clip, pk=data.by, job_id=job_id, kind="calibrator") if data.tie == "calibrator" else None
        said |= {"tie": data.tie, "level_db": data.level_db, "by": by}
    return said


@router.post("/jobs/{job_id}/clips", response={201: ClipOut}, operation_id="add_clip")
def add_clip(request: HttpRequest, job_id: int, file: File[UploadedFile], data: Form[ClipIn]) -> Any:
    """Stores a clip and begins to listen to it."""
    job = job_of(request)
    run = get_object_or_404(Run, pk=data.run, job=job) if data.run is not None else None
    clip = services.keep_clip(
        job, data.layout, content_of(file, MOST_CLIP), file.name or "clip", data.kind, _said(job.pk, data), run, data.at
    )
    return Status(201, _asked(clip))


def _asked(clip: Clip) -> ClipOut:
    ask_clip(clip)
    clip.refresh_from_db()
    return clip_out(clip)


class ForecastSound(Schema):
    layout: str
    level_dba: float
    offset_db: float


class MadeUpClipIn(Schema):
    """A clip of the made-up machine; tied, since the made-up recorder's gain is known. ``mounts`` at ``speed_pct``, the rest as asked."""

    layout: Key
    kind: ClipKind = "machine"
    seconds: Annotated[float, Field(ge=2, le=120)] = 20
    seed: Annotated[int, Field(ge=0, le=10_000)] = 1
    mounts: list[Key] = Field(default_factory=list)
    speed_pct: Pct | None = None
    run: int | None = None


@router.post("/jobs/{job_id}/clips/made-up", response={201: ClipOut}, operation_id="make_up_clip")
def make_up_clip(request: HttpRequest, job_id: int, data: MadeUpClipIn) -> Any:
    job = job_of(request)
    run = get_object_or_404(Run, pk=data.run, job=job) if data.run is not None else None
    at = FansAt("both", tuple(data.mounts), data.speed_pct)
    clip = standin.clip_of(job, data.layout, data.kind, data.seconds, data.seed, at, run)
    if clip.by is not None and clip.by.state == "waiting":
        ask_clip(clip.by)
    return Status(201, _asked(clip))


@router.get("/jobs/{job_id}/clips", response=list[ClipOut], operation_id="list_clips")
def list_clips(request: HttpRequest, job_id: int) -> Any:
    swept = Exists(LevelReading.objects.filter(clip=OuterRef("pk")))
    return [clip_out(c) for c in job_of(request).clips.defer("pictures").annotate(swept=swept)]


@router.get("/clips/{clip_id}", response=ClipWhole, operation_id="get_clip")
def get_clip(request: HttpRequest, clip_id: int) -> Any:
    clip = get_object_or_404(Clip, pk=clip_id)
    own = services.alone(clip)
    told = AloneOut(level_dba=own.level_dba, bound=own.bound, words=own.words) if own else None
    return ClipWhole(clip=clip_out(clip), alone=told, sound=clip.result, pictures=clip.pictures)


class TieIn(Schema):
    tie: Tie
    level_db: Level | None = None
    by: int | None = None


@router.post("/clips/{clip_id}/tie", response=ClipOut, operation_id="tie_clip")
def tie_clip(request: HttpRequest, clip_id: int, data: TieIn) -> Any:
    """Ties a clip to a level, or unties it, and listens to it anew."""
    clip = get_object_or_404(Clip, pk=clip_id)
    by = Clip.objects.filter(pk=data.by, job_id=clip.job_id).first() if data.by is not None else None
    return _asked(services.tie_clip(clip, data.tie, data.level_db, by))


class StrikeIn(Schema):
    why: Annotated[str, Field(max_length=200)] = ""


@router.post("/clips/{clip_id}/strike", response=ClipOut, operation_id="strike_clip")
def strike_clip(request: HttpRequest, clip_id: int, data: StrikeIn) -> Any:
    return clip_out(services.strike(get_object_or_404(Clip, pk=clip_id), data.why))


@router.get("/clips/{clip_id}/sound.wav", operation_id="clip_file")
def clip_file(request: HttpRequest, clip_id: int) -> FileResponse:
    clip = get_object_or_404(Clip, pk=clip_id)
    path = CLIPS / clip.file
    if not path.is_file():
        raise Http404
    return FileResponse(path.open("rb"), content_type="audio/wav", filename=f"clip-{clip.pk}.wav")


@router.get("/clips/{clip_id}/octaves.csv", operation_id="clip_octaves")
def clip_octaves(request: HttpRequest, clip_id: int) -> HttpResponse:
    """One-third octaves as a table."""
    clip = get_object_or_404(Clip, pk=clip_id, state="done")
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    found = clip.result or {}
    rows.writerow(["centre_hz", "level_db" if found.get("calibrated") else "level_db_re_full_scale"])
    rows.writerows([b["centre_hz"], b["level_db"]] for b in found.get("one_third_octaves", []))
    answer = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="clip-{clip.pk}-octaves.csv"'
    return answer


class Listened(Schema):
    layout: Key


@router.get("/jobs/{job_id}/forecast-sound.wav", operation_id="forecast_sound")
def forecast_sound(request: HttpRequest, job_id: int, asked: Query[Listened]) -> HttpResponse:
    """How a stored layout is forecast to sound, made up from its sources' levels."""
    answer = HttpResponse(standin.forecast_clip(job_of(request), asked.layout), content_type="audio/wav")
    answer["Content-Disposition"] = 'inline; filename="forecast.wav"'
    return answer


@router.get("/jobs/{job_id}/listening", response=list[ForecastSound], operation_id="listening")
def listening(request: HttpRequest, job_id: int) -> Any:
    """Layouts that can be listened to as they are forecast, with the level of each."""
    return [
        ForecastSound(layout=layout, level_dba=level, offset_db=LISTENING_DB) for layout, level in standin.forecast_levels(job_of(request))
    ]


Purpose = Literal["sweep", "equal"]


class SpeedLevelOut(Schema):
    id: int
    speed_pct: float
    level_dba: float
    tone_db: float | None
    tone_hz: float | None
    beat_db: float | None
    clip: int | None
    made_up: bool
    struck: bool


class ProcedureOut(Schema):
    """``begun``: there are readings of it; its fans and level are those it was begun with. ``outdated``: those that there were are of
    the layout before it was drawn otherwise."""

    purpose: Purpose
    load: SoundLoad
    begun: bool
    outdated: bool
    readings: list[SpeedLevelOut]
    procedure: ProcedureDoc


class ProcedureIn(Schema):
    """``load``: what the machine does meanwhile, at rest in a sweep and loaded on the way to a level where it is not said.

    ``anew``: a new procedure; what was read before stays stored and is not of it.
    """

    layout: Key
    purpose: Purpose
    load: SoundLoad | None = None
    mounts: list[Key] = Field(default_factory=list)
    target_dba: Level = 34
    anew: bool = False

    @property
    def of(self) -> Of:
        """Slow fans carry little heat off: a sweep is made at rest."""
        return Of(self.layout, self.purpose, tuple(self.mounts), self.load or ("idle" if self.purpose == "sweep" else "both"))


@router.post("/jobs/{job_id}/levels/next", response=ProcedureOut, operation_id="level_procedure")
def level_procedure(request: HttpRequest, job_id: int, data: ProcedureIn) -> Any:
    """How far a sweep or the way to a level is, and what to set next."""
    return _procedure(procedures.of(job_of(request), data.of, data.target_dba, data.anew), data.of)


def _procedure(found: procedures.Procedure, of: Of) -> ProcedureOut:
    rows = [
        SpeedLevelOut(clip=r.clip_id, id=r.pk, **{n: getattr(r, n) for n in SpeedLevelOut.model_fields if n not in ("id", "clip")})
        for r in found.readings
    ]
    return ProcedureOut(
        purpose=found.purpose,
        load=cast(SoundLoad, of.load),
        begun=bool(rows),
        outdated=found.outdated,
        readings=rows,
        procedure=found.document,
    )


class LevelIn(ProcedureIn):
    speed_pct: Pct
    level_dba: Level
    clip: int | None = None


@router.post("/jobs/{job_id}/levels", response=ProcedureOut, operation_id="add_level")
def add_level(request: HttpRequest, job_id: int, data: LevelIn) -> Any:
    """A level that was read at a speed."""
    job = job_of(request)
    clip = get_object_or_404(Clip, pk=data.clip, job=job) if data.clip is not None else None
    services.add_reading(job, data.of, data.speed_pct, data.level_dba, data.anew, clip)
    return _procedure(procedures.of(job, data.of, data.target_dba), data.of)


class MadeUpLevelIn(ProcedureIn):
    speed_pct: Pct
    seed: Annotated[int, Field(ge=0, le=10_000)] = 1


@router.post("/jobs/{job_id}/levels/made-up", response=ProcedureOut, operation_id="make_up_level")
def make_up_level(request: HttpRequest, job_id: int, data: MadeUpLevelIn) -> Any:
    """The made-up controller sets the speed, the made-up meter reads; in a sweep the made-up recorder takes a clip too."""
    job = job_of(request)
    standin.read_level(job, data.of, data.speed_pct, data.seed, data.anew)
    return _procedure(procedures.of(job, data.of, data.target_dba), data.of)


class ReadLevelsOut(Schema):
    """Levels read at chosen speeds in one procedure; ``readings`` that count."""

    layout: str
    purpose: Purpose
    turn: int
    load: str
    mounts: list[str]
    readings: int
    outdated: bool


@router.get("/jobs/{job_id}/levels", response=list[ReadLevelsOut], operation_id="list_levels")
def list_levels(request: HttpRequest, job_id: int) -> Any:
    job = job_of(request)
    doc = services.document_of(job)
    return [
        ReadLevelsOut(
            layout=x.of.layout,
            purpose=cast(Purpose, x.of.purpose),
            turn=x.turn,
            load=x.of.load,
            mounts=list(x.of.mounts),
            readings=sum(not r.struck for r in x.rows),
            outdated=x.outdated(doc),
        )
        for x in read_levels(job.pk)
    ]


@router.post("/levels/{reading_id}/strike", response=SpeedLevelOut, operation_id="strike_level")
def strike_level(request: HttpRequest, reading_id: int) -> Any:
    """A reading that counts for nothing, or counts again."""
    r = get_object_or_404(LevelReading, pk=reading_id)
    r.struck = not r.struck
    r.save(update_fields=["struck"])
    return SpeedLevelOut(clip=r.clip_id, id=r.pk, **{n: getattr(r, n) for n in SpeedLevelOut.model_fields if n not in ("id", "clip")})


class ClipsAsked(Schema):
    layouts: list[Key] = Field(default_factory=list)


class Overlay(Schema):
    """The latest clip of each layout that counts: one-third octaves beside each other."""

    layout: str
    clip: int
    calibrated: bool
    level: float
    bands: list[tuple[float, float]]


@router.get("/jobs/{job_id}/spectra", response=list[Overlay], operation_id="spectra")
def spectra(request: HttpRequest, job_id: int, asked: Query[ClipsAsked]) -> Any:
    latest: dict[str, Clip] = {}
    for clip in job_of(request).clips.filter(kind="machine", state="done", struck="", readings=None).defer("pictures"):
        latest[clip.layout_key] = clip
    return [
        Overlay(
            layout=layout,
            clip=clip.pk,
            calibrated=bool((clip.result or {}).get("calibrated")),
            level=(clip.result or {})["laeq_dba"],
            bands=[(b["centre_hz"], b["level_db"]) for b in (clip.result or {})["one_third_octaves"]],
        )
        for layout, clip in latest.items()
        if not asked.layouts or layout in asked.layouts
    ]
