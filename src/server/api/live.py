"""Live runs over HTTP: the state of a bench out, and what is done to a run."""

import time
from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Status
from pydantic import Field

from desk.answers import LiveFigures, Load
from desk.words.bench import held_words, load_words
from documents.job.planned import ProtocolDoc
from documents.package.said import HeldValues, Microphone, Ticks
from server.api.bench import RunOut, TraceOut, run_out
from server.api.benches import BenchOut, bench_out
from server.api.clipboard import MarkOut, mark_out
from server.api.door import job_of
from server.api.schema import Change, Finite, Schema
from server.apps.bench import benches, live, suite, watching
from server.apps.bench.models import Bench, Run

router = Router()


class StepOut(Schema):
    phase: str
    action: str
    countdown_s: float | None
    cue: str
    do_not_touch: list[str]
    may_start: bool
    wait: str
    wait_from: str
    by_itself: bool


class AlarmOut(Schema):
    kind: str
    channel: str
    at_s: float
    value: float
    limit: float
    act: str
    words: str


class HeldOut(Schema):
    what: str
    words: str
    value: str | None
    known: str  # as the layout says


class DraftOut(Schema):
    """A run that is being prepared or is live."""

    id: int
    job: int
    name: str
    layout: str
    load: str
    load_words: str
    protocol: ProtocolDoc
    planned: str
    prepared_at: datetime
    started: bool
    armed: bool
    waived: bool
    held: list[HeldOut]
    cautions: list[str]
    loop_new: bool
    acknowledged: list[str]
    traits: list[str]
    typed_room_c: float | None
    background_dba: float | None
    microphone: Microphone
    by_hand: list[dict[str, Any]]
    alarms: list[AlarmOut]
    marks: list[MarkOut]


class SuiteOut(Schema):
    """A plan that runs by itself on a bench."""

    job: int
    layout: str
    state: suite.State
    words: str
    to_do: list[str]
    to_go: int


class LiveOut(Schema):
    """All that a bench screen needs, asked for about once a second."""

    bench: BenchOut
    now_s: float
    rate: float
    elapsed_s: float | None
    latest: dict[str, float]
    room_c: float | None
    room_logged: bool
    notes: list[str]
    run: DraftOut | None
    step: StepOut | None
    figures: LiveFigures | None
    suite: SuiteOut | None
    took_ms: float


def _draft_out(run: Run) -> dict[str, Any]:
    protocol = ProtocolDoc.model_validate(run.protocol)
    names = ("id", "name", "load", "planned", "prepared_at", "armed", "waived", "acknowledged", "traits", "typed_room_c")
    known = watching.asked(run).known
    held = [
        {"what": h.what, "words": held_words(h.what), "value": run.held.get(h.what), "known": known.get(h.what, "as set")}
        for h in protocol.held
    ]
    return {n: getattr(run, n) for n in names} | {
        "job": run.job_id,
        "layout": run.layout_key,
        "load_words": load_words(run.load),
        "protocol": protocol,
        "started": run.started_s is not None,
        "held": held,
        "cautions": watching.needed_cautions(run),
        "loop_new": run.loop_filled_at is not None,
        "background_dba": run.background_dba,
        "microphone": run.microphone,
        "by_hand": run.by_hand,
        "alarms": run.alarms,
        "marks": [mark_out(m) for m in run.marks.defer("picture")],
    }


def _suite_out(own: suite.Suite | None) -> dict[str, Any] | None:
    return None if own is None else asdict(own) | {"to_do": list(own.to_do)}


class SuiteIn(Schema):
    job: int


@router.post("/benches/{bench_id}/suite", response=SuiteOut, operation_id="begin_suite")
def begin_suite(request: HttpRequest, bench_id: int, data: SuiteIn) -> Any:
    """The plan's runs one after the other, from the next on, whose layout stands built."""
    return _suite_out(suite.begin(bench_id, data.job))


@router.post("/benches/{bench_id}/suite/built", response=SuiteOut, operation_id="suite_built")
def suite_built(request: HttpRequest, bench_id: int) -> Any:
    """The layout that comes next stands built."""
    return _suite_out(suite.built(bench_id))


@router.delete("/benches/{bench_id}/suite", response={204: None}, operation_id="stop_suite")
def stop_suite(request: HttpRequest, bench_id: int) -> Any:
    """A person takes over; a run that is under way goes on."""
    suite.stop(bench_id)
    return Status(204, None)


@router.get("/benches/{bench_id}/live", response=LiveOut, operation_id="live")
def live_state(request: HttpRequest, bench_id: int) -> Any:
    begun = time.perf_counter()
    bench = get_object_or_404(Bench, pk=bench_id)
    at = benches.told_s(bench_id)
    run = watching.live_run(bench_id)
    step, figures = watching.step_of(run) if run else (None, None)
    present = watching.present_log(bench_id, at)
    latest = watching.latest_values(present)
    typed = watching.typed_room_c(run) if run else None
    return {
        "bench": bench_out(bench),
        "now_s": at,
        "rate": benches.rate_of(bench_id),
        "elapsed_s": at - run.started_s if run and run.started_s is not None else None,
        "latest": latest,
        "room_c": typed if typed is not None else latest.get("room_c"),
        "room_logged": "room_c" in latest,
        "notes": watching.notes(run, latest) if run else [],
        "run": _draft_out(run) if run else None,
        "step": asdict(step) if step else None,
        "figures": figures,
        "suite": _suite_out(suite.suite_of(bench)),
        "took_ms": 1000 * (time.perf_counter() - begun),
    }


@router.get("/benches/{bench_id}/live/trace", response=TraceOut | None, operation_id="live_trace")
def live_trace(request: HttpRequest, bench_id: int) -> Any:
    """What is drawn of a live run, at screen resolution; asked for less often than the figures."""
    run = watching.live_run(get_object_or_404(Bench, pk=bench_id).pk)
    found = watching.trace(run) if run else None
    if found is None:
        return None
    return {"elapsed_s": found.elapsed_s, "channels": [{"name": c.name, "values": c.values} for c in found.channels]}


class PrepareIn(Schema):
    bench: int
    layout: str
    protocol: ProtocolDoc
    load: Load = "both"
    planned: str = ""


class SetUpIn(Change):
    nullable = frozenset(("room_c", "background_dba"))

    held: HeldValues | None = None
    acknowledged: Ticks | None = None
    traits: Ticks | None = None
    armed: bool | None = None
    waived: bool | None = None
    room_c: Finite | None = None
    background_dba: Annotated[float, Field(ge=0, le=120)] | None = None
    microphone: Microphone | None = None
    loop_new: bool | None = None
    name: Annotated[str, Field(min_length=1, max_length=200)] | None = None


@router.get("/jobs/{job_id}/live", response=list[DraftOut], operation_id="list_live")
def list_live(request: HttpRequest, job_id: int) -> Any:
    return [_draft_out(r) for r in job_of(request).runs.filter(state="draft").select_related("layout", "job")]


@router.post("/jobs/{job_id}/live", response={201: DraftOut}, operation_id="prepare_run")
def prepare_run(request: HttpRequest, job_id: int, data: PrepareIn) -> Any:
    return Status(201, _draft_out(live.prepare_run(data.bench, job_id, data.layout, data.protocol, data.load, data.planned)))


@router.patch("/live/{run_id}", response=DraftOut, operation_id="set_up_run")
def set_up_run(request: HttpRequest, run_id: int, data: SetUpIn) -> Any:
    given = data.model_dump(exclude_unset=True)
    if "loop_new" in given:
        given["loop_filled_at"] = timezone.now() if given.pop("loop_new") else None
    return _draft_out(live.set_up(run_id, given))


class StartIn(Schema):
    """``waive``: without waiting for a gate, which marks the run."""

    waive: bool = False


@router.post("/live/{run_id}/start", response=DraftOut, operation_id="start_run")
def start_run(request: HttpRequest, run_id: int, data: StartIn) -> Any:
    return _draft_out(live.start_run(run_id, data.waive))


@router.post("/live/{run_id}/end", response=RunOut, operation_id="end_run")
def end_run(request: HttpRequest, run_id: int) -> Any:
    return run_out(live.end_run(run_id, "person"))


class DiscardIn(Schema):
    reason: Annotated[str, Field(max_length=300)] = ""


@router.post("/live/{run_id}/discard", response={204: None}, operation_id="discard_run")
def discard_run(request: HttpRequest, run_id: int, data: DiscardIn) -> Any:
    live.discard_run(run_id, data.reason)
    return Status(204, None)
