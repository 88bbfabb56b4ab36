"""Comparison and verdict over HTTP."""

import json
import math
from datetime import datetime
from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import Router, Status
from pydantic import Field

from desk.answers import Pair
from desk.verdict.document import VerdictDoc
from desk.verdict.effects import NamedOut
from desk.verdict.measures import FigureOut, figures
from desk.verdict.record import RecordDoc, replication
from desk.verdict.study import Settings
from documents.job.reader import write_job
from server.api.schema import Schema
from server.apps.verdicts import report, selectors, services
from server.apps.verdicts.models import Verdict
from server.apps.verdicts.selectors import Beside, Standing

router = Router()


class ComparisonOut(Schema):
    margin_k: float
    figures: list[FigureOut]
    pairs: list[Pair]


class VerdictQuestion(Schema):
    """What is asked, and which layouts of other jobs are shown beside."""

    settings: Settings = Settings()
    beside: list[Beside] = Field(default_factory=list)


class FreezeIn(Schema):
    layout: str
    reason: str = Field(min_length=1, max_length=4000)
    signed_by: str = Field(default="", max_length=80)
    settings: Settings = Settings()
    drawings: dict[str, str] = Field(default_factory=dict)


class VerdictOut(Schema):
    """``stale``: what has changed since; ``moved``: what was another in the record before; ``anew``: what the method of judging of
    today says otherwise of the runs as they are now, where the record was made by an older one."""

    id: int
    layout: str
    reason: str
    signed_by: str
    margin_k: float | None  # of one that an earlier version stored with none
    digest: str
    made_at: datetime
    stale: list[str]
    anew: list[str]
    moved: list[str]


def _out(s: Standing) -> VerdictOut:
    v = s.verdict
    return VerdictOut(
        id=v.pk,
        layout=v.layout_key,
        reason=v.reason,
        signed_by=v.signed_by,
        margin_k=v.margin_k if math.isfinite(v.margin_k) else None,
        digest=v.digest,
        made_at=v.made_at,
        stale=s.stale,
        anew=s.anew,
        moved=s.moved,
    )


@router.get("/jobs/{job_id}/comparison", response=ComparisonOut, operation_id="comparison")
def comparison(request: HttpRequest, job_id: int, margin_k: Annotated[float | None, Field(gt=0, le=20)] = None) -> Any:
    """The figures and pairs of the verdict, without its argument; without a margin the job's own counts."""
    found = selectors.compared(job_id, margin_k)
    return ComparisonOut(margin_k=found.margin_k, figures=figures(found), pairs=found.pairs)


@router.get("/jobs/{job_id}/panel-costs", response=list[NamedOut], operation_id="panel_costs")
def panel_costs(request: HttpRequest, job_id: int) -> Any:
    """What panels cost, where layouts that differ by one panel's being off were run."""
    return [n for n in selectors.verdict_now(job_id, Settings()).effects.named if n.kind == "panel"]


@router.post("/jobs/{job_id}/verdict", response=VerdictDoc, operation_id="verdict_now")
def verdict_now(request: HttpRequest, job_id: int, data: VerdictQuestion) -> Any:
    found = selectors.verdict_now(job_id, data.settings, data.beside)
    return HttpResponse(found.model_dump_json(), content_type="application/json")  # typed already: not checked once more


@router.get("/jobs/{job_id}/verdicts", response=list[VerdictOut], operation_id="list_verdicts")
def list_verdicts(request: HttpRequest, job_id: int) -> Any:
    return [_out(s) for s in selectors.standings(job_id)]


@router.post("/jobs/{job_id}/verdicts", response={201: VerdictOut}, operation_id="freeze_verdict")
def freeze_verdict(request: HttpRequest, job_id: int, data: FreezeIn) -> Any:
    made = services.freeze(job_id, data.layout, data.reason, data.signed_by, data.settings, data.drawings)
    return Status(201, next(_out(s) for s in selectors.standings(job_id) if s.verdict.pk == made.pk))


def _file(record: RecordDoc, content: bytes | str, ending: str, media: str, show: bool = False) -> HttpResponse:
    """A download named after its job and day; ``show`` opens it in the browser instead."""
    return _named(content, f"{slugify(record.job) or 'job'}-verdict-{record.made_at:%Y-%m-%d}{ending}", media, show)


def _named(content: bytes | str, name: str, media: str, show: bool = False) -> HttpResponse:
    response = HttpResponse(content, content_type=media)
    response["Content-Disposition"] = f'{"inline" if show else "attachment"}; filename="{name}"'
    return response


@router.get("/verdicts/{verdict_id}/record.json", operation_id="verdict_record")
def verdict_record(request: HttpRequest, verdict_id: int) -> HttpResponse:
    """As it was sealed, also where another version of the program did so."""
    v = get_object_or_404(Verdict, pk=verdict_id)
    name = f"{slugify(v.job.name) or 'job'}-verdict-{v.made_at:%Y-%m-%d}.json"
    return _named(json.dumps(v.record, indent=1, ensure_ascii=False), name, "application/json")


@router.get("/verdicts/{verdict_id}/report.html", operation_id="verdict_html")
def verdict_html(request: HttpRequest, verdict_id: int, save: bool = False) -> HttpResponse:
    record = selectors.record_of(verdict_id)
    return _file(record, report.html(record), ".html", "text/html; charset=utf-8", show=not save)


@router.get("/verdicts/{verdict_id}/report.pdf", operation_id="verdict_pdf")
def verdict_pdf(request: HttpRequest, verdict_id: int) -> HttpResponse:
    record = selectors.record_of(verdict_id)
    return _file(record, report.pdf(record), ".pdf", "application/pdf")


@router.get("/verdicts/{verdict_id}/figures.csv", operation_id="verdict_csv")
def verdict_csv(request: HttpRequest, verdict_id: int) -> HttpResponse:
    record = selectors.record_of(verdict_id)
    return _file(record, report.csv_text(record), ".csv", "text/csv; charset=utf-8")


@router.get("/verdicts/{verdict_id}/replication.json", operation_id="verdict_replication")
def verdict_replication(request: HttpRequest, verdict_id: int) -> HttpResponse:
    record = selectors.record_of(verdict_id)
    return _file(record, write_job(replication(record)), "-repeat.oventa.json", "application/json")
