"""What Oventa proposes, over HTTP: what was learned, layouts that were found, the next run, orders of a plan."""

from datetime import datetime
from typing import Annotated, Any, Literal, cast

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import Field

from desk.learn.document import LearningDoc
from desk.next.document import Deciding, NextDoc, last_layout
from desk.plan.calendar import calendar_of
from desk.plan.minutes import MinutesDoc, learned_minutes
from desk.plan.order import KINDS, OrderOut, ordered
from desk.plan.runsheet import run_sheet
from desk.search.question import SearchQuestion
from desk.search.shapes import SearchDoc
from desk.search.trade import TradeAnswer, trade
from documents.errors import DocumentError, Fault
from documents.job.planned import PlannedRunDoc
from documents.job.reader import check_job
from server.api.asked import InsightIn, oracle_for
from server.api.door import job_of, viewer_of
from server.api.schema import Schema
from server.api.tasks import State, TaskFault
from server.apps.bench.selectors import layouts_by_time, planned_done, rebuild_gaps
from server.apps.jobs.selectors import job_for
from server.apps.tasks import selectors, services
from server.apps.tasks.models import Task
from server.apps.verdicts.learned import learning_for

router = Router()


class FindIn(Schema):
    """A document as it stands on the screen. ``learned``: with what the job's runs have taught, where there are any."""

    document: dict[str, Any]
    question: SearchQuestion = SearchQuestion()
    learned: bool = True


class EarlyDots(Schema):
    """Some of what was looked at so far: tenths of kelvins over room, tenths of dBA."""

    cpu_dk: list[int]
    card_dk: list[int]
    level_ddb: list[int]


class FindOut(Schema):
    """A search and how far it is. ``outdated``: another engine made the result, so that its figures may be others today."""

    id: int
    state: State
    question: SearchQuestion
    learned: bool
    done: int
    total: int
    asked_at: datetime
    ended_at: datetime | None
    early: EarlyDots | None
    result: SearchDoc | None
    fault: TaskFault | None
    outdated: bool


class LearnedIn(Schema):
    document: dict[str, Any]
    load: Literal["idle", "cpu", "card", "both"] | None = None


class NextIn(Schema):
    document: dict[str, Any]
    margin_k: Annotated[float, Field(gt=0, le=20)] | None = None
    hours: Annotated[float, Field(ge=0, le=10_000)] | None = None
    kept: list[Annotated[str, Field(max_length=40)]] = Field(default_factory=list)  # layouts never to be put aside


class OrdersIn(Schema):
    document: dict[str, Any]
    seed: Annotated[int, Field(ge=0, le=10**9)] = 1


class TradeIn(InsightIn):
    """The first layout that the question names."""

    part: Literal["cpu", "card"] = "cpu"


class CalendarIn(Schema):
    document: dict[str, Any]
    job: int | None = None  # whose runs count as done
    begins: datetime


class OrderedOut(Schema):
    order: OrderOut
    runs: list[PlannedRunDoc]


def _told(task: Task) -> FindOut:
    asked = dict(task.question)
    learned = bool(asked.pop("learned", False))
    result = SearchDoc.model_validate(task.result) if task.result else None
    return FindOut(
        id=task.pk,
        state=cast(State, task.state),
        question=SearchQuestion.model_validate(asked),
        learned=learned,
        done=task.done,
        total=task.total,
        asked_at=task.asked_at,
        ended_at=task.ended_at,
        early=EarlyDots(**task.partial) if task.partial else None,
        result=result,
        fault=TaskFault(**task.fault) if task.fault else None,
        outdated=selectors.outdated(task),
    )


@router.post("/jobs/{job_id}/find", response={202: FindOut}, operation_id="find_layouts")
def find_layouts(request: HttpRequest, job_id: int, data: FindIn) -> Any:
    """Begins a search in the background; one that was going on for this job is called off."""
    return Status(202, _told(services.ask_search(job_of(request), data.document, data.question, data.learned)))


@router.get("/jobs/{job_id}/find", response=FindOut | None, operation_id="latest_find")
def latest_find(request: HttpRequest, job_id: int) -> Any:
    """The job's latest search, going on or done; null where none was asked for."""
    task = selectors.latest(job_id, "search")
    return _told(task) if task else None


@router.post("/jobs/{job_id}/learned", response=LearningDoc, operation_id="learned")
def learned(request: HttpRequest, job_id: int, data: LearnedIn) -> Any:
    """What the job's valid runs taught, and every layout's figures with it."""
    return learning_for(job_id, check_job(data.document).doc).document(data.load)


@router.post("/jobs/{job_id}/next", response=NextDoc, operation_id="next_run")
def next_run(request: HttpRequest, job_id: int, data: NextIn) -> Any:
    """Which run is worth most now, or that no further one is likely to change the pick."""
    doc = check_job(data.document).doc
    learning = learning_for(job_id, doc)
    now = last_layout(learning, layouts_by_time(job_id))
    return Deciding(learning, data.margin_k or doc.practice.margin_k, data.hours, now, data.kept).document()


@router.post("/forecast/trade", response=TradeAnswer, operation_id="trade")
def speed_against(request: HttpRequest, data: TradeIn) -> Any:
    """What more radiator, more fans or other fans are worth in speed at equal heat, and in kelvins at an equal level."""
    oracle = oracle_for(request, data)
    return trade(oracle, oracle.layout_ids[0], data.part)


@router.post("/plan/calendar", operation_id="plan_calendar")
def plan_calendar(request: HttpRequest, data: CalendarIn) -> HttpResponse:
    """What is left of the plan as a calendar file, from an hour on."""
    doc = check_job(data.document).doc
    done = planned_done(job_for(viewer_of(request), data.job).pk) if data.job is not None else set()
    answer = HttpResponse(calendar_of(doc, run_sheet(doc, done), data.begins), content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="run-sheet.ics"'
    return answer


@router.post("/jobs/{job_id}/minutes", response=MinutesDoc, operation_id="own_minutes")
def own_minutes(request: HttpRequest, job_id: int, data: LearnedIn) -> Any:
    """Minutes by kind of change as the job's own rebuilds have them."""
    return learned_minutes(check_job(data.document).doc, rebuild_gaps(job_of(request).pk))


@router.post("/plan/orders", response=list[OrderedOut], operation_id="plan_orders")
def plan_orders(request: HttpRequest, data: OrdersIn) -> Any:
    """The plan's runs in every kind of order, with their minutes."""
    doc = check_job(data.document).doc
    if doc.plan is None or not doc.plan.runs:
        raise DocumentError([Fault("plan", "nothing is planned yet", "Choose which layouts to run.")])
    found = [ordered(doc, doc.plan, kind, data.seed) for kind in KINDS]
    return [{"order": order, "runs": runs} for order, runs in found]
