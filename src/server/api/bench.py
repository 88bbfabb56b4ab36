"""Runs over HTTP: preview, import, change, trace."""

from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile
from pydantic import AwareDatetime, Field, TypeAdapter, ValidationError

from desk.answers import Acceptance, RunAnalysis
from desk.runs.document import AnalysisDoc
from documents.errors import DocumentError
from documents.job.planned import ProtocolDoc
from documents.json_in import parse_json
from documents.package.said import EditSaid, HeldValues, Microphone, Ticks
from documents.runlog.mapping import UNIT_WORDS, units_for
from documents.runlog.writer import write_log
from engine.errors import UnreadableLogError
from instruments.standin import FAULTS, Fault
from server.api.schema import MOST_LOG, Change, Finite, Schema, content_of
from server.apps.bench import selectors, services
from server.apps.bench.adapters import load_log
from server.apps.bench.models import Run
from server.apps.jobs.selectors import rows_as_json

router = Router()
Points = Annotated[int, Field(ge=2, le=100_000_000)]
MAPPING: TypeAdapter[dict[str, str | None]] = TypeAdapter(dict[str, str | None])


class ColumnOut(Schema):
    heading: str
    channel: str | None
    unit: str


class SeenColumn(ColumnOut):
    """With its first cells as they stand in the file, and its range in the file's unit."""

    first: list[str]
    low: float | None
    high: float | None
    units: list[str]  # that it may be in


class DoubtOut(Schema):
    """Readings that no machine gives."""

    channel: str
    what: str
    do: str


class PreviewOut(Schema):
    """What a file would become; nothing is stored yet."""

    columns: list[SeenColumn]
    doubts: list[DoubtOut]
    rows: int
    duration_s: float
    has_room: bool
    notes: list[str]
    questions: list[str]


class ProtocolFigure(Schema):
    channel: str
    value: float
    rise_k: float | None


class RunOut(Schema):
    id: int
    layout: str
    name: str
    source_name: str
    imported_at: datetime
    made_at: datetime | None  # when it began; None where nothing says
    duration_s: float
    rows: int
    typed_room_c: float | None
    window_s: float | None
    state: Literal["valid", "void", "superseded"]
    void_reason: str
    load: str
    planned: str
    held: dict[str, str]
    traits: list[str]
    stood_still: bool  # said of typed figures
    by_hand: list[dict[str, Any]]
    alarms: list[dict[str, Any]]
    edits: list[EditSaid]  # what was changed after the run was made, the oldest first
    waived: bool
    ended_why: str
    microphone: Microphone
    background_dba: float | None
    protocol_name: str
    acceptance: Acceptance | None
    statistic: str  # of its protocol: tail_mean where it has none
    by_protocol: list[ProtocolFigure]  # where the statistic is another than the mean of the window
    protocol_key: str  # "short v1"; empty for a run without one
    columns: list[ColumnOut]
    notes: list[str]
    analysis: RunAnalysis
    built_with: list[str]  # what was not as the case was delivered


class RunChange(Change):
    """Only the fields given are changed; ``room_c`` null goes back to the logged room, ``window_s`` null to the usual window."""

    nullable = frozenset(("room_c", "window_s", "background_dba", "made_at"))

    room_c: Finite | None = None
    window_s: Annotated[float, Field(gt=0, le=30 * 86400)] | None = None
    state: Literal["valid", "void", "superseded"] | None = None
    void_reason: Annotated[str, Field(max_length=300)] | None = None
    name: Annotated[str, Field(min_length=1, max_length=200)] | None = None
    layout: Annotated[str, Field(max_length=60)] | None = None
    held: HeldValues | None = None
    traits: Ticks | None = None
    background_dba: Annotated[float, Field(ge=0, le=120)] | None = None
    stood_still: bool | None = None
    microphone: Microphone | None = None
    made_at: AwareDatetime | None = None


class TraceChannelOut(Schema):
    name: str
    values: list[float | None]


class TraceOut(Schema):
    elapsed_s: list[float]
    channels: list[TraceChannelOut]


COMPUTED = ("layout", "analysis", "protocol_name", "protocol_key", "acceptance", "statistic", "by_protocol", "built_with")


def run_out(run: Run, built: dict[int, list[str]] | None = None) -> dict[str, Any]:
    """``built``: what its job's runs were made with, where that is known already."""
    built = selectors.built_with([run]) if built is None else built
    names = [f for f in RunOut.model_fields if f not in COMPUTED]
    protocol = ProtocolDoc.model_validate(run.protocol) if run.protocol else None
    return {name: getattr(run, name) for name in names} | {
        "layout": run.layout_key,
        "built_with": built.get(run.pk, []),
        "analysis": selectors.analysis_of(run),
        "acceptance": selectors.acceptance_of(run),
        "statistic": protocol.statistic if protocol else "tail_mean",
        "by_protocol": [asdict(f) for f in selectors.protocol_figures(run)],
        "protocol_key": protocol.key if protocol else "",
        "protocol_name": f"{protocol.name or protocol.id}, version {protocol.version}" if protocol else "",
    }


def _mapping(text: str) -> dict[str, str | None]:
    try:
        return MAPPING.validate_python(parse_json(text or "{}", "mapping"))
    except (DocumentError, ValidationError) as error:
        raise UnreadableLogError("the column mapping is not understood", "mapping", "Send headings with their channels.") from error


def _units(text: str) -> dict[str, str]:
    found = {heading: unit for heading, unit in _mapping(text).items() if unit}
    unknown = next((unit for unit in found.values() if unit not in UNIT_WORDS), None)
    if unknown:
        raise UnreadableLogError(f"{unknown!r} is no unit", "units", f"Use one of {', '.join(UNIT_WORDS)}.")
    return found


@router.post("/runs/preview", response=PreviewOut, operation_id="preview_run")
def preview_run(request: HttpRequest, file: File[UploadedFile], mapping: Form[str] = "{}", units: Form[str] = "{}") -> Any:
    found, doubts = services.preview(content_of(file, MOST_LOG), _mapping(mapping), _units(units))
    return {
        "columns": [asdict(c) | {"first": list(c.first), "units": list(units_for(c.channel, c.unit))} for c in found.columns],
        "doubts": [asdict(d) for d in doubts],
        "rows": len(found.log.elapsed_s),
        "duration_s": found.log.duration_s,
        "has_room": found.log.room_c is not None,
        "notes": found.notes,
        "questions": found.questions,
    }


@router.get("/jobs/{job_id}/runs", response=list[RunOut], operation_id="list_runs")
def list_runs(request: HttpRequest, job_id: int) -> Any:
    runs = selectors.shown_runs(job_id)
    built = selectors.built_with(runs)
    return [run_out(run, built) for run in runs]


class UnreadableRun(Schema):
    id: int
    name: str
    layout: str
    why: str


@router.get("/jobs/{job_id}/runs/unreadable", response=list[UnreadableRun], operation_id="unreadable_runs")
def unreadable_runs(request: HttpRequest, job_id: int) -> Any:
    """Runs that are stored but cannot be read: each can be exported as it is stored, and removed."""
    return [UnreadableRun(id=r.pk, name=r.name, layout=r.layout_key, why=why) for r, why in selectors.unreadable_runs(job_id)]


@router.get("/runs/{run_id}/stored.json", operation_id="export_stored_run")
def export_stored_run(request: HttpRequest, run_id: int) -> HttpResponse:
    """A run as its rows hold it, readings in base64."""
    runs = Run.objects.filter(pk=get_object_or_404(Run, pk=run_id).pk)
    response = HttpResponse(rows_as_json(*selectors.rows_of(runs)), content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="run-{run_id}.stored.json"'
    return response


@router.delete("/runs/{run_id}", response={204: None}, operation_id="remove_unreadable_run")
def remove_unreadable_run(request: HttpRequest, run_id: int) -> Any:
    """Removes a run that cannot be read; any other is refused, and set aside instead."""
    services.remove_unreadable(run_id)
    return Status(204, None)


@router.post("/jobs/{job_id}/runs", response={201: RunOut}, operation_id="import_run")
def import_run(
    request: HttpRequest,
    job_id: int,
    file: File[UploadedFile],
    layout: Form[str],
    name: Form[str] = "",
    mapping: Form[str] = "{}",
    room_c: Form[Finite | None] = None,
    units: Form[str] = "{}",
    sure: Form[bool] = False,
) -> Any:
    """``sure``: the person has seen what is odd about the readings, and stands by them."""
    data, said = content_of(file, MOST_LOG), _mapping(mapping)
    run = services.import_run(job_id, layout, name, file.name or "log", data, said, room_c, _units(units), sure)
    return Status(201, run_out(run))


class FaultIn(Schema):
    kind: str
    minutes: Annotated[float, Field(ge=0, le=1440)] = 10
    of: str | None = None


class SimulateIn(Schema):
    """A run of the stand-in bench; the same seed gives the same readings."""

    layout: str
    minutes: Annotated[float, Field(ge=2, le=240)] = 40
    seed: Annotated[int, Field(ge=0, le=10**9)] = 1
    faults: list[FaultIn] = Field(default_factory=list)


class FaultKind(Schema):
    kind: str
    words: str


@router.get("/standin/faults", response=list[FaultKind], operation_id="standin_faults")
def standin_faults(request: HttpRequest) -> Any:
    return [FaultKind(kind=kind, words=words) for kind, words in FAULTS.items()]


@router.post("/jobs/{job_id}/runs/simulate", response={201: RunOut}, operation_id="simulate_run")
def simulate_run(request: HttpRequest, job_id: int, data: SimulateIn) -> Any:
    """A made-up run of a layout from the stand-in bench."""
    faults = [Fault(f.kind, f.minutes, f.of) for f in data.faults]
    return Status(201, run_out(services.simulate_run(job_id, data.layout, data.minutes, data.seed, faults)))


@router.get("/runs/{run_id}/export.csv", operation_id="export_run")
def export_run(request: HttpRequest, run_id: int) -> HttpResponse:
    """The run's readings as the open run log."""
    run = get_object_or_404(Run, pk=run_id)
    response = HttpResponse(write_log(load_log(run)), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(run.name) or "run"}.csv"'
    return response


@router.get("/runs/{run_id}/analysis.json", response=AnalysisDoc, operation_id="export_analysis")
def export_analysis(request: HttpRequest, run_id: int) -> Any:
    """The run's figures as the open analysis document."""
    run = get_object_or_404(Run, pk=run_id)
    doc = AnalysisDoc.of(selectors.analysis_of(run))
    doc.acceptance = selectors.acceptance_of(run)
    return doc


@router.patch("/runs/{run_id}", response=RunOut, operation_id="change_run")
def change_run(request: HttpRequest, run_id: int, data: RunChange) -> Any:
    return run_out(services.change_run(run_id, data.model_dump(exclude_unset=True)))


class DriftLineOut(Schema):
    name: str
    apart_k: float
    corrected_k: float


class DriftOut(Schema):
    control: str
    channel: str
    hours: float
    drift_k: float
    shown: bool
    lines: list[DriftLineOut]


@router.get("/jobs/{job_id}/drift", response=list[DriftOut], operation_id="drift")
def campaign_drift(request: HttpRequest, job_id: int) -> Any:
    """How the control moved between its first and its last run."""
    return [asdict(d) for d in selectors.campaign_drift(job_id)]


class HeardOut(Schema):
    """A run's level over its time: its mean by energy, minutes above the job's limit, changes of three decibels and more."""

    mean_dba: float
    highest_dba: float
    limit_dba: float | None
    over_s: float
    changes: int
    largest_db: float


@router.get("/runs/{run_id}/heard", response=HeardOut | None, operation_id="heard")
def heard(request: HttpRequest, run_id: int) -> Any:
    """Null where no level was logged."""
    found, limit = selectors.heard(get_object_or_404(Run, pk=run_id))
    return {**asdict(found), "limit_dba": limit} if found else None


@router.get("/runs/{run_id}/trace", response=TraceOut, operation_id="trace")
def trace(request: HttpRequest, run_id: int, points: Points = 1200, from_s: Finite | None = None, to_s: Finite | None = None) -> Any:
    """A run, or a stretch of it, at screen resolution."""
    found = selectors.trace(get_object_or_404(Run, pk=run_id), points, from_s, to_s)
    return {"elapsed_s": found.elapsed_s, "channels": [{"name": c.name, "values": c.values} for c in found.channels]}
