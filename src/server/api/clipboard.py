"""What people add to a run, over HTTP: marks, pictures, readings by hand, runs without a log."""

from dataclasses import asdict
from typing import Annotated, Any, Literal

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from desk.answers import Load
from documents.job.planned import ProtocolDoc
from server.api.bench import RunOut, run_out
from server.api.benches import ChannelName
from server.api.schema import MEGABYTE, Change, Finite, Schema, content_of
from server.apps.bench import clipboard
from server.apps.bench.models import Mark, Run

router = Router()


class MarkOut(Schema):
    id: int
    kind: str
    tag: str
    text: str
    at_s: float
    until_s: float | None
    ends_s: float
    drop: bool
    x_mm: float | None
    z_mm: float | None
    has_picture: bool


def mark_out(mark: Mark) -> dict[str, Any]:
    names = [f for f in MarkOut.model_fields if f != "has_picture"]
    return {n: getattr(mark, n) for n in names} | {"has_picture": bool(mark.picture_type)}


@router.get("/runs/{run_id}/marks", response=list[MarkOut], operation_id="list_marks")
def list_marks(request: HttpRequest, run_id: int) -> Any:
    return [mark_out(m) for m in get_object_or_404(Run, pk=run_id).marks.defer("picture")]


@router.post("/runs/{run_id}/marks", response={201: MarkOut}, operation_id="add_mark")
def add_mark(
    request: HttpRequest,
    run_id: int,
    kind: Form[Literal["event", "seen", "heard", "note"]],
    tag: Form[str] = "",
    text: Form[str] = "",
    at_s: Form[Finite | None] = None,
    until_s: Form[Finite | None] = None,
    drop: Form[bool] = False,
    x_mm: Form[Finite | None] = None,
    z_mm: Form[Finite | None] = None,
    picture: File[UploadedFile | None] = None,  # type: ignore[type-arg, unused-ignore]
) -> Any:
    data = clipboard.MarkData(kind, tag, text, at_s, until_s, drop, x_mm, z_mm)
    return Status(201, mark_out(clipboard.add_mark(run_id, data, content_of(picture, 8 * MEGABYTE) if picture else None)))


class MarkChange(Change):
    nullable = frozenset(("until_s",))

    text: Annotated[str, Field(max_length=500)] | None = None
    until_s: Finite | None = None
    drop: bool | None = None


@router.patch("/marks/{mark_id}", response=MarkOut, operation_id="change_mark")
def change_mark(request: HttpRequest, mark_id: int, data: MarkChange) -> Any:
    return mark_out(clipboard.change_mark(mark_id, data.model_dump(exclude_unset=True)))


@router.get("/marks/{mark_id}/picture", operation_id="mark_picture")
def mark_picture(request: HttpRequest, mark_id: int) -> HttpResponse:
    mark = get_object_or_404(Mark, pk=mark_id)
    if not mark.picture:
        raise Http404
    response = HttpResponse(bytes(mark.picture), content_type=mark.picture_type)
    response["Cache-Control"] = "private, max-age=86400"
    return response


class ByHandIn(Schema):
    """``sure``: the person has been asked and stands by it."""

    channel: ChannelName
    value: Annotated[float, Field(allow_inf_nan=False)]
    sure: bool = False
    point: Annotated[str, Field(max_length=60)] = ""


class QuestionOut(Schema):
    code: str
    words: str


class ByHandOut(Schema):
    stored: bool
    state: str
    question: QuestionOut | None


@router.post("/runs/{run_id}/readings", response=ByHandOut, operation_id="add_reading")
def add_reading(request: HttpRequest, run_id: int, data: ByHandIn) -> Any:
    return asdict(clipboard.add_reading(run_id, data.channel, data.value, data.sure, data.point))


@router.delete("/runs/{run_id}/readings/{index}", response={204: None}, operation_id="strike_reading")
def strike_reading(request: HttpRequest, run_id: int, index: int) -> Any:
    clipboard.take_back_reading(run_id, index)
    return Status(204, None)


class ByHandReading(Schema):
    channel: ChannelName
    value: Annotated[float, Field(allow_inf_nan=False)]


class RunByHandIn(Schema):
    """A run without a log."""

    layout: str
    minutes: Annotated[float, Field(gt=0, le=1440)] = 30
    readings: Annotated[list[ByHandReading], Field(min_length=1, max_length=60)]
    room_c: Finite | None = None
    protocol: ProtocolDoc | None = None
    load: Load = "both"
    stood_still: bool = False


@router.post("/jobs/{job_id}/runs/by-hand", response={201: RunOut}, operation_id="run_by_hand")
def run_by_hand(request: HttpRequest, job_id: int, data: RunByHandIn) -> Any:
    readings = [(r.channel, r.value) for r in data.readings]
    made = clipboard.run_by_hand(job_id, data.layout, data.minutes, readings, data.room_c, data.protocol, data.load, data.stood_still)
    return Status(201, run_out(made))
