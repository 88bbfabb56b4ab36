"""Care over HTTP: what is due, what was done, a later run held against the first ones, the calendar."""

from datetime import date, datetime
from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.text import slugify
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from desk.care.commission import CommissioningDoc
from desk.care.keeping import CareDoc, calendar_of
from server.api.door import job_of
from server.api.schema import MOST_LOG, Finite, Schema, content_of
from server.apps.build import keeping
from server.apps.build.models import CareEntry

router = Router()


class EntryOut(Schema):
    id: int
    item: str
    done_on: date
    minutes: float | None
    note: str
    struck: bool
    at: datetime


class CareOut(Schema):
    care: CareDoc
    built_on: date
    built_assumed: bool  # nobody has said when it was built: it counts from the day the job was begun
    entries: list[EntryOut]


class CareSettingsIn(Schema):
    """What is not named stays as it is."""

    layout: Annotated[str, Field(max_length=60)] | None = None
    built_on: date | None = None
    dust: Literal["little", "usual", "much"] | None = None


class EntryIn(Schema):
    item: Annotated[str, Field(max_length=20)]
    done_on: date
    minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None
    note: Annotated[str, Field(max_length=500)] = ""


def _told(request: HttpRequest) -> CareOut:
    job = job_of(request)
    found, own = keeping.care_now(job)
    assert own.built_on is not None
    rows = [
        EntryOut(id=e.pk, item=e.item, done_on=e.done_on, minutes=e.minutes, note=e.note, struck=e.struck, at=e.at)
        for e in keeping.entries(job)
    ]
    return CareOut(care=found, built_on=own.built_on, built_assumed=not keeping.built_said(job), entries=rows)


@router.get("/jobs/{job_id}/care", response=CareOut, operation_id="care")
def care(request: HttpRequest, job_id: int) -> Any:
    return _told(request)


@router.post("/jobs/{job_id}/care/settings", response=CareOut, operation_id="set_care")
def set_care(request: HttpRequest, job_id: int, data: CareSettingsIn) -> Any:
    names = {"layout": "layout_key", "built_on": "built_on", "dust": "dust"}
    given = {names[k]: v for k, v in data.model_dump(exclude_none=True).items()}
    keeping.change(job_of(request), **given)
    return _told(request)


@router.post("/jobs/{job_id}/care/entries", response={201: CareOut}, operation_id="note_care")
def note_care(request: HttpRequest, job_id: int, data: EntryIn) -> Any:
    keeping.note(job_of(request), data.item, data.done_on, data.minutes, data.note)
    return Status(201, _told(request))


@router.post("/jobs/{job_id}/care/entries/{index}/strike", response=CareOut, operation_id="strike_care")
def strike_care(request: HttpRequest, job_id: int, index: int) -> Any:
    """Strikes an entry out, or lets it count again; it stays in the log either way."""
    entry = get_object_or_404(CareEntry, pk=index, job=job_of(request))
    entry.struck = not entry.struck
    entry.save(update_fields=["struck"])
    return _told(request)


@router.post("/jobs/{job_id}/care/recheck", response=CommissioningDoc, operation_id="recheck")
def recheck(request: HttpRequest, job_id: int, file: File[UploadedFile], room_c: Form[Finite | None] = None) -> Any:
    return keeping.recheck(job_of(request), content_of(file, MOST_LOG), room_c)


@router.get("/jobs/{job_id}/care/calendar.ics", operation_id="care_calendar")
def care_calendar(request: HttpRequest, job_id: int) -> HttpResponse:
    job = job_of(request)
    found, _ = keeping.care_now(job)
    answer = HttpResponse(calendar_of(job.name, found.layout, found.due, timezone.localdate()), content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(job.name) or "job"}-care.ics"'
    return answer
