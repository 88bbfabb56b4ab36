"""Jobs and forecasts over HTTP."""

from datetime import datetime
from typing import Annotated, Any, Literal

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import File, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from desk.answers import Account
from desk.begin.schools import starters
from desk.begin.sketch import RowIn, SketchIn, rows_of, sketch
from desk.forecast.curves import CurvesAnswer, CurvesQuestion, proposed_curves
from desk.forecast.document import FindingsDoc, ForecastDoc, Oracle
from desk.forecast.insight import AirAnswer, FanAtWorkOut, Insight, QuietAnswer, QuietQuestion, TimeAnswer, TimeQuestion, fan_in_place
from desk.forecast.practice import Ranked
from desk.forecast.sheet import SheetDoc, ranking, sheet
from desk.forecast.voices import VoicesAnswer, voices_of
from desk.forecast.worth import WorthAnswer, worth
from desk.job.difference import difference_in_words
from desk.job.places import outside
from desk.job.resolve import Resolver
from desk.plan.runsheet import Rebuild, rebuild
from desk.together.fit import LedgerOut, ledger_of
from desk.verdict.record import record_in
from documents.job.case import CaseDoc, PointDoc
from documents.job.models import JobDoc
from documents.job.photo import ReadingIn, ReadingOut, reading
from documents.job.reader import check_case, check_job, write_job
from documents.package.document import is_package, write_package
from documents.parts.files import CaseFile, case_json, parts_csv, parts_json, read_case, read_parts
from server.api.asked import MEMORY, InsightIn, oracle_for
from server.api.door import job_of
from server.api.schema import MEGABYTE, MOST_DOCUMENT, MOST_PACKAGE, Schema, content_of, no_larger
from server.apps.bench import selectors as bench
from server.apps.bench.services import relink
from server.apps.jobs import adapters, selectors, services
from server.apps.jobs.models import Job
from server.apps.tasks.services import listen_to_waiting
from server.apps.verdicts.packing import pack, unpack
from server.apps.verdicts.services import import_record
from server.database import one_moment

router = Router()


class JobRow(Schema):
    id: int
    name: str
    case: str
    layouts: int
    runs: int
    changed_at: datetime
    unreadable: str  # why it cannot be opened; empty for one that can


class BinRow(Schema):
    """A job in the bin, and for how many days it can still be taken out."""

    id: int
    name: str
    removed_at: datetime
    days_left: int


class JobOut(Schema):
    """A job with its whole document; send ``revision`` back with the next change."""

    id: int
    revision: int
    saved_key: str  # of the save that made this revision
    document: JobDoc


class NewJob(Schema):
    name: Annotated[str, Field(max_length=200)]
    case_key: Annotated[str, Field(max_length=60)] | None = None


class SaveIn(Schema):
    """``key``: the same for a save that is sent again because its answer was lost."""

    revision: Annotated[int, Field(ge=0, le=2**31)]
    document: dict[str, Any]
    key: Annotated[str, Field(max_length=64)] = ""


class Saved(Schema):
    revision: int


class ImportedJob(Schema):
    id: int
    unknown_fields: list[str]


class CaseIn(Schema):
    case: dict[str, Any]


class SketchOut(Schema):
    """The case, and its rows as counted or as cases of the kind often have them."""

    rows: list[RowIn]
    case: CaseDoc


class OutsideOut(Schema):
    """A mount or vent beyond its wall."""

    id: str
    what: str
    do: str


class ForecastIn(InsightIn):
    with_findings: bool = True


class Lineage(Schema):
    """What a layout was made from and what was done to it, in words; no parent and no lines for a layout of its own."""

    parent: str | None
    lines: list[str]


class AccountIn(InsightIn):
    figure: Literal["cpu", "card", "coolant", "rear", "sound", "balance"]


class TimeIn(InsightIn):
    time: TimeQuestion = TimeQuestion()


class QuietIn(InsightIn):
    quiet: QuietQuestion


class CurvesIn(InsightIn):
    curves: CurvesQuestion


class AirIn(InsightIn):
    """Smoke comes out in a space, or at a point of the case."""

    space: str | None = None
    at_mm: PointDoc | None = None


class ForecastOut(Schema):
    """``forecast`` is null where only the findings can be told: what lies outside the case."""

    forecast: ForecastDoc | None
    findings: FindingsDoc


def _out(job: Job) -> dict[str, Any]:
    with one_moment():
        job.refresh_from_db()
        raw, key = adapters.document(job), services.saved_key(job)
    return {"id": job.pk, "revision": job.revision, "saved_key": key, "document": check_job(raw).doc}


@router.get("/jobs", response=list[JobRow], operation_id="list_jobs")
def list_jobs(request: HttpRequest) -> list[JobRow]:
    return [
        JobRow(
            id=j.pk,
            name=j.name,
            case=j.case.name if hasattr(j, "case") else "",
            layouts=j.layouts.count(),
            runs=j.runs.count(),
            changed_at=j.changed_at,
            unreadable=selectors.unreadable(j),
        )
        for j in Job.objects.select_related("case").prefetch_related("layouts", "runs")
    ]


@router.get("/bin", response=list[BinRow], operation_id="list_bin")
def list_bin(request: HttpRequest) -> list[BinRow]:
    """Jobs that were removed and can be taken out again."""
    return [BinRow(id=j.pk, name=j.name, removed_at=j.removed_at, days_left=days) for j, days in selectors.in_bin() if j.removed_at]


@router.post("/jobs", response={201: JobOut}, operation_id="start_job")
def start_job(request: HttpRequest, data: NewJob) -> Any:
    return Status(201, _out(services.start_job(data.name.strip() or "New job", data.case_key)))


@router.post("/jobs/import", response={201: ImportedJob}, operation_id="import_job")
def import_job(request: HttpRequest, file: File[UploadedFile]) -> Any:
    data = content_of(file, MOST_PACKAGE)
    record = None
    if not is_package(data):
        no_larger(file, MOST_DOCUMENT)
        record = record_in(data)
    if record is not None:
        job, unknown = import_record(record)
    else:
        job, unknown = unpack(data) if is_package(data) else services.import_job(data)
        listen_to_waiting(job)
    return Status(201, ImportedJob(id=job.pk, unknown_fields=list(unknown)))


@router.get("/jobs/{job_id}", response=JobOut, exclude_unset=True, operation_id="get_job")
def get_job(request: HttpRequest, job_id: int) -> Any:
    return _out(job_of(request))


@router.put("/jobs/{job_id}", response=Saved, operation_id="save_job")
def save_job(request: HttpRequest, job_id: int, data: SaveIn) -> Any:
    doc = check_job(data.document).doc
    with transaction.atomic():
        revision = services.save_document(job_id, data.revision, doc, data.key)
        relink(job_id)
    return Saved(revision=revision)


@router.delete("/jobs/{job_id}", response={204: None}, operation_id="remove_job")
def remove_job(request: HttpRequest, job_id: int) -> Any:
    """Into the bin, for thirty days."""
    services.remove_job(job_id)
    return Status(204, None)


@router.post("/jobs/{job_id}/restore", response={204: None}, operation_id="restore_job")
def restore_job(request: HttpRequest, job_id: int) -> Any:
    services.restore_job(job_id)
    return Status(204, None)


@router.post("/jobs/{job_id}/duplicate", response={201: JobOut}, operation_id="duplicate_job")
def duplicate_job(request: HttpRequest, job_id: int) -> Any:
    """The job's document as a job of its own; runs and records stay where they were made."""
    return Status(201, _out(services.duplicate_job(job_id)))


@router.post("/sketch", response=SketchOut, exclude_unset=True, operation_id="sketch_case")
def sketch_case(request: HttpRequest, data: SketchIn) -> Any:
    """A whole case from three answers, for the screen to put in as one step; nothing is stored."""
    return SketchOut(rows=rows_of(data), case=check_case(sketch(data)))


@router.post("/photo/reading", response=ReadingOut, operation_id="photo_reading")
def photo_reading(request: HttpRequest, data: ReadingIn) -> Any:
    """A length read off the photograph behind the drawing, with how far it may be off; nothing is stored."""
    return reading(data)


@router.post("/outside", response=list[OutsideOut], operation_id="outside_the_case")
def outside_the_case(request: HttpRequest, data: CaseIn) -> Any:
    """What of a case lies beyond its walls."""
    return [OutsideOut(id=place.id, what=what, do=do) for place, what, do in outside(check_case(data.case))]


@router.get("/jobs/{job_id}/stored.json", operation_id="export_stored_job")
def export_stored_job(request: HttpRequest, job_id: int) -> HttpResponse:
    """Everything of a job as its rows hold it, runs with their readings too: also for one that cannot be opened."""
    job = job_of(request)
    text = selectors.rows_as_json(*selectors.rows_of(job), *bench.rows_of(job.runs.all()), job.verdicts.all())
    return _file(text, "application/json", job.name, "stored.json")


class Parts(Schema):
    """Parts of a file by kind, as the job document writes them."""

    parts: dict[str, list[dict[str, Any]]]


class StarterOut(Schema):
    """A layout to start from; ``layout`` as the document writes it, without id."""

    key: str
    name: str
    remark: str
    layout: dict[str, Any]


class MountIn(InsightIn):
    mount: str
    layer: Literal["outer", "inner"] = "outer"


def _file(text: str, kind: str, name: str, suffix: str) -> HttpResponse:
    response = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(name) or "job"}.{suffix}"'
    return response


@router.get("/jobs/{job_id}/parts.json", operation_id="export_parts_json")
def export_parts_json(request: HttpRequest, job_id: int) -> HttpResponse:
    job = job_of(request)
    return _file(parts_json(check_job(adapters.document(job)).doc), "application/json", job.name, "oventa-parts.json")


@router.get("/jobs/{job_id}/parts.csv", operation_id="export_parts_csv")
def export_parts_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    job = job_of(request)
    return _file(parts_csv(check_job(adapters.document(job)).doc), "text/csv", job.name, "oventa-parts.csv")


@router.get("/jobs/{job_id}/case.json", operation_id="export_case")
def export_case(request: HttpRequest, job_id: int) -> HttpResponse:
    job = job_of(request)
    return _file(case_json(check_job(adapters.document(job)).doc), "application/json", job.case.name or job.name, "oventa-case.json")


@router.post("/parts/read", response=Parts, operation_id="read_parts")
def read_parts_file(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """Parts from a CSV or JSON file, checked; the screen puts them on the table as one step that can be undone."""
    return Parts(parts=read_parts(content_of(file, 8 * MEGABYTE), file.name or "file"))


@router.post("/cases/read", response=CaseFile, exclude_unset=True, operation_id="read_case")
def read_case_file(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """A case from a file, checked."""
    return read_case(content_of(file, 8 * MEGABYTE), file.name or "file")


@router.post("/starters", response=list[StarterOut], operation_id="starters")
def starter_layouts(request: HttpRequest, data: InsightIn) -> Any:
    """One layout of each school that this case and these parts allow."""
    return [StarterOut(key=s.key, name=s.name, remark=s.remark, layout=s.layout) for s in starters(check_job(data.document).doc)]


@router.post("/forecast/fan", response=FanAtWorkOut, operation_id="fan_at_work")
def fan_work(request: HttpRequest, data: MountIn) -> Any:
    """Fan curve, system line and operating point at a mount, and other fans there."""
    return fan_in_place(Oracle(check_job(data.document).doc, data.question, MEMORY), data.mount, data.layer)


@router.get("/jobs/{job_id}/package.zip", operation_id="export_package")
def export_package(request: HttpRequest, job_id: int) -> HttpResponse:
    """The whole job with its runs, pictures and analysis as an open data package."""
    job = job_of(request)
    response = HttpResponse(write_package(pack(job)), content_type="application/zip")
    response["Content-Disposition"] = f'attachment; filename="{slugify(job.name) or "job"}.zip"'
    return response


@router.get("/jobs/{job_id}/export", operation_id="export_job")
def export_job(request: HttpRequest, job_id: int) -> HttpResponse:
    job = job_of(request)
    return _file(write_job(check_job(adapters.document(job)).doc), "application/json", job.name, "oventa.json")


@router.post("/forecast", response=ForecastOut, operation_id="forecast")
def forecast(request: HttpRequest, data: ForecastIn) -> Any:
    """Forecast and findings of a document as it stands on the screen, saved or not."""
    oracle = oracle_for(request, data)
    if not data.with_findings:
        return ForecastOut(forecast=oracle.forecast_doc(), findings=FindingsDoc(layouts=[]))
    found = oracle.findings_doc()
    return ForecastOut(forecast=oracle.forecast_doc() if oracle.can_forecast else None, findings=found)


def _insight(request: HttpRequest, data: InsightIn) -> Insight:
    return Insight(oracle_for(request, data))


@router.post("/forecast/account", response=Account, operation_id="account")
def account(request: HttpRequest, data: AccountIn) -> Any:
    """The chain of steps behind one figure of the first layout asked about."""
    return _insight(request, data).account(data.figure)


@router.post("/forecast/time", response=TimeAnswer, operation_id="over_time")
def over_time(request: HttpRequest, data: TimeIn) -> Any:
    """A run of the first layout asked about, and when each channel settles."""
    return _insight(request, data).time(data.time)


@router.post("/forecast/worth", response=WorthAnswer, operation_id="worth")
def what_fans_are_worth(request: HttpRequest, data: InsightIn) -> Any:
    """What each fan of the first layout asked about brings, and what single changes would, the free ones first."""
    oracle = oracle_for(request, data)
    return worth(oracle, oracle.layout_ids[0])


@router.post("/forecast/voices", response=VoicesAnswer, operation_id="voices")
def who_is_heard(request: HttpRequest, data: InsightIn) -> Any:
    """Every source of sound of the first layout asked about, with its share of what is heard."""
    oracle = oracle_for(request, data)
    return voices_of(oracle, oracle.layout_ids[0])


@router.post("/forecast/quiet", response=QuietAnswer, operation_id="quiet")
def quiet(request: HttpRequest, data: QuietIn) -> Any:
    """Fan speeds for a target level."""
    return _insight(request, data).quiet(data.quiet)


@router.post("/forecast/curves", response=CurvesAnswer, operation_id="propose_curves")
def curves(request: HttpRequest, data: CurvesIn) -> Any:
    """Speed curves for a load under a limit of sound, each judged by a run over time."""
    oracle = oracle_for(request, data)
    return proposed_curves(oracle, oracle.layout_ids[0], data.curves)


class ChangesIn(Schema):
    """Two layouts of a document as it stands on the screen."""

    document: dict[str, Any]
    before: str
    after: str


@router.post("/changes", response=Rebuild, operation_id="changes")
def changes_between(request: HttpRequest, data: ChangesIn) -> Any:
    return rebuild(check_job(data.document).doc, data.before, data.after)


@router.post("/lineage", response=Lineage, operation_id="lineage")
def lineage(request: HttpRequest, data: InsightIn) -> Any:
    """How the first layout asked about differs from its parent."""
    doc = check_job(data.document).doc
    own = Resolver(doc).layout(Oracle(doc, data.question).layout_ids[0])
    parent = next((x for x in doc.layouts if x.id == own.parent), None)
    return Lineage(parent=parent.id if parent else None, lines=difference_in_words(doc, parent, own) if parent else [])


@router.post("/sheet", response=SheetDoc, operation_id="sheet")
def layout_sheet(request: HttpRequest, data: InsightIn) -> Any:
    """Leads, stock, cost, loops, growth and spare mounts of the first layout asked about."""
    oracle = Oracle(check_job(data.document).doc, data.question, MEMORY)
    return sheet(oracle, oracle.layout_ids[0])


@router.post("/ranking", response=list[Ranked], operation_id="ranking")
def layout_ranking(request: HttpRequest, data: InsightIn) -> Any:
    """Layouts by the person's own weights, least burden first."""
    return ranking(oracle_for(request, data))


@router.post("/fit", response=LedgerOut, operation_id="fit")
def fit(request: HttpRequest, data: InsightIn) -> Any:
    """The clearance ledger of the first layout asked about."""
    doc = check_job(data.document).doc
    return ledger_of(doc, Oracle(doc, data.question).layout_ids[0])


@router.post("/forecast/air", response=AirAnswer, operation_id="air")
def air(request: HttpRequest, data: AirIn) -> Any:
    """Age of the air, own air breathed again, and smoke let out in a space."""
    return _insight(request, data).air(data.space, data.at_mm)
