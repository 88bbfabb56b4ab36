"""Units of a batch over HTTP: a short run handed in, its word and what is likely wrong, the batch, certificates."""

from datetime import datetime
from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import File, Form, Query, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from desk.care.batch import Batch
from desk.care.commission import Cause, CommissioningDoc
from desk.words.measures import System
from server.api.door import job_of
from server.api.schema import MOST_LOG, Finite, Schema, content_of
from server.apps.build import units
from server.apps.build.models import UnitRun

router = Router()
Key = Annotated[str, Field(max_length=60)]


class UnitOut(Schema):
    """The run of a serial number that counts."""

    id: int
    serial: str
    name: str
    at: datetime
    signed_by: str
    result: CommissioningDoc


class BatchOut(Schema):
    units: list[UnitOut]
    batch: Batch


class LayoutIn(Schema):
    layout: Key


def _told(run: UnitRun) -> UnitOut:
    return UnitOut(id=run.pk, serial=run.serial, name=run.name, at=run.at, signed_by=run.signed_by, result=units.doc_of(run))


@router.post("/jobs/{job_id}/units", response={201: UnitOut}, operation_id="hand_in_unit")
def hand_in_unit(
    request: HttpRequest,
    job_id: int,
    file: File[UploadedFile],
    layout: Form[str],
    serial: Form[str],
    signed_by: Form[str] = "",
    room_c: Form[Finite | None] = None,
) -> Any:
    """A unit's short run, held against the valid runs of its layout."""
    run = units.take_in(job_of(request), layout, serial, file.name or "log", content_of(file, MOST_LOG), room_c, signed_by)
    return Status(201, _told(run))


class MadeUpIn(Schema):
    layout: Key
    cause: Cause = "none"


@router.post("/jobs/{job_id}/units/made-up", response={201: UnitOut}, operation_id="make_up_unit")
def make_up_unit(request: HttpRequest, job_id: int, data: MadeUpIn) -> Any:
    """A unit that nobody built, with a fault of a kind, run by the stand-in and held against the reference."""
    return Status(201, _told(units.make_up(job_of(request), data.layout, data.cause)))


@router.get("/jobs/{job_id}/units", response=BatchOut, operation_id="units")
def batch(request: HttpRequest, job_id: int, asked: Query[LayoutIn]) -> Any:
    """All units of a layout and what they are together."""
    job = job_of(request)
    return BatchOut(units=[_told(r) for r in units.latest(job, asked.layout)], batch=units.batch(job, asked.layout))


class CertificateIn(Schema):
    units: System = "metric"


@router.get("/units/{unit_id}/certificate.pdf", operation_id="unit_certificate")
def unit_certificate(request: HttpRequest, unit_id: int, asked: Query[CertificateIn]) -> HttpResponse:
    job = job_of(request)
    run = get_object_or_404(UnitRun.objects.defer("log"), pk=unit_id, job=job)
    answer = HttpResponse(units.certificate_of(run, asked.units), content_type="application/pdf")
    answer["Content-Disposition"] = f'attachment; filename="{slugify(run.serial) or "unit"}-certificate.pdf"'
    return answer
