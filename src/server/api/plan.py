"""The plan over HTTP: templates, the run sheet, layouts made from a set of changes."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router
from pydantic import Field

from desk.job.resolve import Resolver
from desk.job.zones import usual_zones
from desk.plan.generate import Design, FactorIn, Predicted, generate, predicted_effects
from desk.plan.hanging import ProbeAdvice, hanging
from desk.plan.runsheet import Order, RunSheet, planned_runs, run_sheet
from documents.job.models import LayoutDoc, ZoneDoc
from documents.job.planned import PlannedRunDoc, ProtocolDoc, templates
from documents.job.reader import check_job
from server.api.door import job_of
from server.api.schema import Schema
from server.apps.bench.selectors import planned_done
from server.apps.verdicts import selectors

router = Router()


class SheetIn(Schema):
    document: dict[str, Any]
    job: int | None = None  # whose runs count as done


class ReachRow(Schema):
    runs: int
    gap_k: float


class ReachOut(Schema):
    """What one to four runs of each layout can tell, one sigma of the scatter between builds, and where that is from."""

    sigma_k: float
    origin: str
    rows: list[ReachRow]


class GenerateIn(Schema):
    """A design from a starting layout; ``target`` the other one of a bundle or of before and after."""

    document: dict[str, Any]
    design: Design
    start: str
    target: str | None = None
    factors: Annotated[list[FactorIn], Field(max_length=12)] = Field(default_factory=list)


class GeneratedOut(Schema):
    """``layouts`` that are new, ``order`` of all; ``predicted``: what the forecast says of each change and of changes together."""

    layouts: list[LayoutDoc]
    order: list[str]
    levels: list[list[str]]
    predicted: list[Predicted]


class RunsIn(Schema):
    order: Annotated[list[str], Field(min_length=1, max_length=200)]
    protocol: ProtocolDoc
    control: str | None = None
    repeats: Annotated[int, Field(ge=1, le=10)] = 1
    shuffle: Order = "random"
    seed: Annotated[int, Field(ge=0, le=10**9)] = 1


@router.get("/plan/templates", response=list[ProtocolDoc], operation_id="protocol_templates")
def protocol_templates(request: HttpRequest) -> Any:
    return templates()


@router.post("/plan/sheet", response=RunSheet, operation_id="plan_sheet")
def plan_sheet(request: HttpRequest, data: SheetIn) -> Any:
    """What is done in which order, with minutes."""
    return run_sheet(check_job(data.document).doc, planned_done(data.job) if data.job else set())


@router.get("/jobs/{job_id}/reach", response=ReachOut, operation_id="reach")
def reach(request: HttpRequest, job_id: int, layouts: Annotated[int, Query(ge=2, le=60)] = 2) -> Any:
    """The smallest gap that runs can tell, by their number."""
    job_of(request)
    scatter, rows = selectors.reach(job_id, layouts)
    return {"sigma_k": scatter.sigma, "origin": scatter.origin, "rows": [{"runs": r.runs, "gap_k": r.gap_k} for r in rows]}


@router.post("/plan/generate", response=GeneratedOut, operation_id="plan_generate")
def plan_generate(request: HttpRequest, data: GenerateIn) -> Any:
    """Layouts a design needs; nothing is stored, the document is the screen's."""
    doc = check_job(data.document).doc
    made = generate(doc, data.design, data.start, data.factors, data.target)
    two_level = data.design == "factorial" or (data.design == "grid" and all(len(x) == 2 for x in made.levels))
    predicted = predicted_effects(doc, made) if two_level else []
    return {"layouts": made.layouts, "order": made.order, "levels": made.levels, "predicted": predicted}


class ProbesIn(Schema):
    document: dict[str, Any]
    layout: str


@router.post("/plan/probes", response=list[ProbeAdvice], operation_id="plan_probes")
def plan_probes(request: HttpRequest, data: ProbesIn) -> Any:
    """How to hang a probe at each named point."""
    return hanging(check_job(data.document).doc, data.layout)


@router.post("/plan/zones", response=list[ZoneDoc], operation_id="usual_zones")
def plan_zones(request: HttpRequest, data: ProbesIn) -> Any:
    """The zones that are usual in a case as large, with a layout's parts in it."""
    return usual_zones(Resolver(check_job(data.document).doc).machine(data.layout))


@router.post("/plan/runs", response=list[PlannedRunDoc], operation_id="plan_runs")
def plan_runs(request: HttpRequest, data: RunsIn) -> Any:
    """Runs of layouts in an order, with the control at both ends and every load of the protocol's suite."""
    return planned_runs(data.order, data.protocol, data.control, data.repeats, data.shuffle, data.seed)
