"""The build sheet over HTTP: its steps and drawings, ticks, paper, the map of the leads, curves to type."""

import json
from datetime import datetime
from typing import Annotated, Any, Literal, cast

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import Query, Router
from pydantic import Field

from desk.build import paper
from desk.build.document import build
from desk.build.drawing import fan_svg, wiring_svg
from desk.build.shapes import BuildDoc
from desk.build.tables import steps_csv, wiring_csv
from desk.words.measures import System, said
from documents.job.models import JobDoc
from documents.job.reader import check_job
from server.api.asked import InsightIn, oracle_for
from server.api.door import job_of
from server.api.schema import Schema
from server.apps.build.models import Tick
from server.apps.build.services import begun, over, tick, ticks_of, untick
from server.apps.jobs import adapters
from server.apps.jobs.models import Job

router = Router()
Done = Literal["done", "otherwise", "skipped"]
Key = Annotated[str, Field(max_length=60)]
Serial = Annotated[str, Field(max_length=80)]


class FanPictures(Schema):
    """SVG of a fan from both of its sides."""

    outside: str
    inside: str


class TickOut(Schema):
    """``stands``: the sheet still asks for what was ticked."""

    step: str
    state: Done
    note: str
    words: str
    at: datetime
    stands: bool


class BuildOut(Schema):
    """``pictures`` in the order of the sheet's fans."""

    build: BuildDoc
    ticks: list[TickOut]
    pictures: list[FanPictures]
    wiring: str


class BuildIn(InsightIn):
    """A layout of a document as it stands on the screen; ``unit``: the serial number of one of a batch."""

    layout: Key
    start: Key | None = None
    unit: Serial = ""


class TickIn(Schema):
    layout: Key
    start: Key | None = None
    unit: Serial = ""
    step: Annotated[str, Field(max_length=120)]
    state: Literal["done", "otherwise", "skipped", "open"]
    note: Annotated[str, Field(max_length=500)] = ""


def _ticks(sheet: BuildDoc, ticks: list[Tick]) -> list[TickOut]:
    stands = over(sheet, ticks)
    return [TickOut(step=t.step, state=cast(Done, t.state), note=t.note, words=t.words, at=t.at, stands=t.step in stands) for t in ticks]


@router.post("/jobs/{job_id}/build", response=BuildOut, operation_id="build_sheet")
def build_sheet(request: HttpRequest, job_id: int, data: BuildIn) -> Any:
    """The sheet of a layout of a document as it stands on the screen, with what is ticked of it."""
    oracle = oracle_for(request, data)
    sheet = build(oracle.doc, data.layout, data.start, oracle)
    return BuildOut(
        build=sheet,
        ticks=_ticks(sheet, ticks_of(job_of(request), sheet, data.unit)),
        pictures=[FanPictures(outside=fan_svg(f), inside=fan_svg(f, inside=True)) for f in sheet.fans],
        wiring=wiring_svg(sheet),
    )


@router.post("/jobs/{job_id}/build/ticks", response=list[TickOut], operation_id="tick_step")
def tick_step(request: HttpRequest, job_id: int, data: TickIn) -> Any:
    """Ticks a step of the saved document's sheet, or opens it again with what waited for it."""
    job = job_of(request)
    sheet, _ = _stored(job, data.layout, data.start)
    if data.state == "open":
        return _ticks(sheet, untick(job, sheet, data.step, data.unit))
    return _ticks(sheet, tick(job, sheet, data.step, data.state, data.note, data.unit))


def _stored(job: Job, layout: str, start: str | None) -> tuple[BuildDoc, JobDoc]:
    doc = check_job(adapters.document(job)).doc
    return build(doc, layout, start), doc


class BuiltOut(Schema):
    """A sheet that was begun: steps that are over, of the layout it is for."""

    layout: str
    start: str | None
    unit: str
    over: int


@router.get("/jobs/{job_id}/builds", response=list[BuiltOut], operation_id="builds")
def builds(request: HttpRequest, job_id: int) -> Any:
    """Sheets of the job that were begun, the latest first."""
    return [BuiltOut(layout=layout, start=start or None, unit=unit, over=n) for layout, start, unit, n in begun(job_of(request))]


class PaperIn(Schema):
    layout: Key
    start: Key | None = None
    paper: Literal["A4", "Letter"] = "A4"
    units: System = "metric"


def _file(text: str | bytes, kind: str, job: Job, layout: str, suffix: str, inline: bool = False) -> HttpResponse:
    answer = HttpResponse(text, content_type=kind)
    name = f"{slugify(job.name) or 'job'}-{slugify(layout) or 'layout'}-{suffix}"
    answer["Content-Disposition"] = f'{"inline" if inline else "attachment"}; filename="{name}"'
    return answer


@router.get("/jobs/{job_id}/build/sheet.pdf", operation_id="build_pdf")
def build_pdf(request: HttpRequest, job_id: int, asked: Query[PaperIn]) -> HttpResponse:
    """The sheet for paper, black on white."""
    job = job_of(request)
    sheet, doc = _stored(job, asked.layout, asked.start)
    return _file(paper.pdf(sheet, doc, asked.paper, asked.units), "application/pdf", job, asked.layout, "build.pdf")


@router.get("/jobs/{job_id}/build/leads.svg", operation_id="build_leads_svg")
def build_leads_svg(request: HttpRequest, job_id: int, asked: Query[PaperIn]) -> HttpResponse:
    job = job_of(request)
    sheet, _ = _stored(job, asked.layout, asked.start)
    return _file(said(wiring_svg(sheet), asked.units), "image/svg+xml", job, asked.layout, "leads.svg")


@router.get("/jobs/{job_id}/build/leads.csv", operation_id="build_leads_csv")
def build_leads_csv(request: HttpRequest, job_id: int, asked: Query[PaperIn]) -> HttpResponse:
    job = job_of(request)
    sheet, _ = _stored(job, asked.layout, asked.start)
    return _file(wiring_csv(sheet), "text/csv; charset=utf-8", job, asked.layout, "leads.csv")


@router.get("/jobs/{job_id}/build/curves.csv", operation_id="build_curves_csv")
def build_curves_csv(request: HttpRequest, job_id: int, asked: Query[PaperIn]) -> HttpResponse:
    """A plain table of steps to type into any firmware."""
    job = job_of(request)
    sheet, _ = _stored(job, asked.layout, asked.start)
    return _file(steps_csv(sheet), "text/csv; charset=utf-8", job, asked.layout, "curves.csv")


@router.get("/jobs/{job_id}/build/curves.json", operation_id="build_curves_json")
def build_curves_json(request: HttpRequest, job_id: int, asked: Query[PaperIn]) -> HttpResponse:
    job = job_of(request)
    sheet, _ = _stored(job, asked.layout, asked.start)
    text = json.dumps({"curves": [c.model_dump(mode="json") for c in sheet.curves]}, indent=1)
    return _file(text, "application/json", job, asked.layout, "curves.json")
