"""Benches and live runs over HTTP: readings in, the state of a bench out, and what people do to a run."""

import time
from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Any, Literal

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from engine.plan.protocol import CAUTIONS, HELD, LOAD_WORDS, Load
from engine.runs.live import LiveFigures, thinned
from engine.runs.series import RunLog
from formats.job.planned import ProtocolDoc
from formats.runlog.reader import CHANNEL_NAME
from instruments.standin import Fault
from server.api.bench import FaultIn, RunOut, TraceOut, run_out
from server.apps.bench import clipboard, live, players, selectors
from server.apps.bench.models import Bench, Mark, Run

router = Router()
ChannelName = Annotated[str, Field(pattern=CHANNEL_NAME, max_length=60)]
Reading = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
TRACE_POINTS = 700
DRAWN = ("cpu_package_c", "card_core_c", "coolant_c", "room_c")
MOST_DRAWN = 8
MOST_ROWS = 5000


class ReadingsIn(Schema):
    """One post of a sender: docs/formats/readings.md."""

    session: Annotated[str, Field(min_length=1, max_length=64)]
    seq: Annotated[int, Field(ge=1, le=2**53)]
    elapsed_s: Annotated[list[Annotated[float, Field(ge=0, le=1e9)]], Field(max_length=MOST_ROWS)]
    channels: Annotated[dict[ChannelName, list[Reading | None]], Field(max_length=600)]
    rate: Annotated[float, Field(gt=0, le=240)] = 1.0
    source: Annotated[str, Field(max_length=80)] = ""


class ReadingsOut(Schema):
    acknowledged: int
    phase: Literal["rest", "load"]
    load: str


class BenchIn(Schema):
    name: Annotated[str, Field(min_length=1, max_length=80)]


class InstrumentIn(Schema):
    kind: Literal["logger", "chamber", "meter"]
    address: Annotated[str, Field(min_length=1, max_length=120)]
    channels: dict[str, ChannelName] = Field(default_factory=dict)
    every_s: Annotated[float, Field(ge=0.2, le=600)] = 5


class InstrumentOut(InstrumentIn):
    id: int
    words: str


class SourceOut(Schema):
    source: str
    heard_s_ago: float


class BenchOut(Schema):
    """``token`` only in the answer that made it."""

    id: int
    name: str
    made_up: bool
    token: str | None = None
    silent: bool
    standin: bool
    standin_paused: bool = False
    standin_logger: str | None = None
    standin_meter: str | None = None
    sources: list[SourceOut]
    instruments: list[InstrumentOut]
    run: int | None
    run_job: int | None
    run_name: str


class MarkOut(Schema):
    id: int
    kind: str
    tag: str
    text: str
    at_s: float
    until_s: float | None
    drop: bool
    x_mm: float | None
    z_mm: float | None
    has_picture: bool


class StepOut(Schema):
    phase: str
    action: str
    countdown_s: float | None
    cue: str
    do_not_touch: list[str]
    may_start: bool


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
    acknowledged: list[str]
    traits: list[str]
    typed_room_c: float | None
    background_dba: float | None
    microphone: dict[str, Any]
    by_hand: list[dict[str, Any]]
    alarms: list[AlarmOut]
    notes: list[str]
    marks: list[MarkOut]


class LiveOut(Schema):
    """All that a bench screen needs, asked for about once a second."""

    bench: BenchOut
    now_s: float
    rate: float
    elapsed_s: float | None
    latest: dict[str, float]
    room_c: float | None
    room_logged: bool
    run: DraftOut | None
    step: StepOut | None
    figures: LiveFigures | None
    took_ms: float


def _bench_out(bench: Bench, token: str | None = None) -> dict[str, Any]:
    run = live.live_run(bench.pk)
    beside = players.beside(bench.pk)
    instruments = [
        {"id": i.pk, "kind": i.kind, "address": i.address, "channels": i.channels, "every_s": i.every_s}
        | {"words": players.instrument_words(i.pk)}
        for i in bench.instruments.all()
    ]
    return {
        "id": bench.pk,
        "name": bench.name,
        "made_up": bench.made_up,
        "token": token,
        "silent": live.silent(bench.pk),
        "standin": players.standin_runs(bench.pk),
        "standin_paused": players.standin_paused(bench.pk),
        "standin_logger": beside.logger if beside else None,
        "standin_meter": beside.meter if beside else None,
        "sources": selectors.sources(bench.pk),
        "instruments": instruments,
        "run": run.pk if run else None,
        "run_job": run.job_id if run else None,
        "run_name": run.name if run else "",
    }


def _mark_out(mark: Mark) -> dict[str, Any]:
    names = [f for f in MarkOut.model_fields if f != "has_picture"]
    return {n: getattr(mark, n) for n in names} | {"has_picture": bool(mark.picture_type)}


def _draft_out(run: Run) -> dict[str, Any]:
    protocol = ProtocolDoc.model_validate(run.protocol)
    names = ("id", "name", "load", "planned", "prepared_at", "armed", "waived", "acknowledged", "traits", "typed_room_c")
    held = [{"what": h.what, "words": HELD.get(h.what, h.what), "value": run.held.get(h.what)} for h in protocol.held]
    return {n: getattr(run, n) for n in names} | {
        "job": run.job_id,
        "layout": run.layout_key,
        "load_words": LOAD_WORDS.get(run.load, run.load),
        "protocol": protocol,
        "started": run.started_s is not None,
        "held": held,
        "cautions": sorted({*protocol.cautions, *live.needed_cautions(run)}),
        "background_dba": run.background_dba,
        "microphone": run.microphone,
        "by_hand": run.by_hand,
        "alarms": run.alarms,
        "notes": live.notes(run),
        "marks": [_mark_out(m) for m in run.marks.defer("picture")],
    }


# --- benches


@router.get("/benches", response=list[BenchOut], operation_id="list_benches")
def list_benches(request: HttpRequest) -> Any:
    return [_bench_out(b) for b in Bench.objects.all()]


@router.post("/benches", response={201: BenchOut}, operation_id="make_bench")
def make_bench(request: HttpRequest, data: BenchIn) -> Any:
    """A bench; its token is in this answer only."""
    return Status(201, _bench_out(*live.make_bench(data.name)))


@router.post("/benches/{bench_id}/token", response=BenchOut, operation_id="new_token")
def new_token(request: HttpRequest, bench_id: int) -> Any:
    return _bench_out(*live.new_token(bench_id))


@router.post("/benches/{bench_id}/readings", response=ReadingsOut, operation_id="post_readings")
def post_readings(request: HttpRequest, bench_id: int, data: ReadingsIn) -> Any:
    """Readings of a sender; an answer means that they are stored."""
    bench = live.bench_for(bench_id, request.headers.get("Authorization", ""))
    return asdict(live.take_readings(bench, live.Posted(data.session, data.seq, data.elapsed_s, data.channels, data.rate, data.source)))


@router.post("/benches/{bench_id}/instruments", response={201: InstrumentOut}, operation_id="add_instrument")
def add_instrument(request: HttpRequest, bench_id: int, data: InstrumentIn) -> Any:
    made = players.add_instrument(bench_id, data.kind, data.address, data.channels, data.every_s)
    return Status(201, data.model_dump() | {"id": made.pk, "words": players.instrument_words(made.pk)})


@router.delete("/instruments/{instrument_id}", response={204: None}, operation_id="remove_instrument")
def remove_instrument(request: HttpRequest, instrument_id: int) -> Any:
    players.remove_instrument(instrument_id)
    return Status(204, None)


class StandInIn(Schema):
    """The stand-in machine, alive on its own bench."""

    layout: str
    rate: Annotated[float, Field(ge=1, le=240)] = 10
    seed: Annotated[int, Field(ge=0, le=10**9)] = 1
    faults: list[FaultIn] = Field(default_factory=list)
    difficult: bool = False
    name: Annotated[str, Field(max_length=80)] = ""


@router.post("/jobs/{job_id}/standin", response=BenchOut, operation_id="start_standin")
def start_standin(request: HttpRequest, job_id: int, data: StandInIn) -> Any:
    faults = [Fault(f.kind, f.minutes, f.of) for f in data.faults]
    base = request.build_absolute_uri("/")
    return _bench_out(players.start_standin(job_id, data.layout, base, data.rate, data.seed, faults, data.difficult, data.name))


class PaceIn(Schema):
    rate: Annotated[float, Field(ge=1, le=240)]
    paused: bool = False


@router.patch("/benches/{bench_id}/standin", response=BenchOut, operation_id="pace_standin")
def pace_standin(request: HttpRequest, bench_id: int, data: PaceIn) -> Any:
    """Another time for the made-up machine, or a pause."""
    bench = get_object_or_404(Bench, pk=bench_id)
    players.pace_standin(bench_id, data.rate, data.paused)
    return _bench_out(bench)


@router.delete("/benches/{bench_id}/standin", response=BenchOut, operation_id="stop_standin")
def stop_standin(request: HttpRequest, bench_id: int) -> Any:
    players.stop_standin(bench_id)
    return _bench_out(get_object_or_404(Bench, pk=bench_id))


@router.get("/benches/{bench_id}/live", response=LiveOut, operation_id="live")
def live_state(request: HttpRequest, bench_id: int) -> Any:
    begun = time.perf_counter()
    bench = get_object_or_404(Bench, pk=bench_id)
    for instrument in bench.instruments.all():
        players.start_instrument(instrument)
    at = live.now_s(bench_id)
    run = live.live_run(bench_id)
    step, figures = live.step_of(run) if run else (None, None)
    present = live.present_log(bench_id, at)
    latest = live.latest_values(present)
    typed = live.typed_room_c(run) if run else None
    return {
        "bench": _bench_out(bench),
        "now_s": at,
        "rate": live.rate_of(bench_id),
        "elapsed_s": at - run.started_s if run and run.started_s is not None else None,
        "latest": latest,
        "room_c": typed if typed is not None else latest.get("room_c"),
        "room_logged": "room_c" in latest,
        "run": _draft_out(run) if run else None,
        "step": asdict(step) if step else None,
        "figures": figures,
        "took_ms": 1000 * (time.perf_counter() - begun),
    }


@router.get("/benches/{bench_id}/live/trace", response=TraceOut | None, operation_id="live_trace")
def live_trace(request: HttpRequest, bench_id: int) -> Any:
    """What is drawn of a live run, at screen resolution; asked for less often than the figures."""
    run = live.live_run(bench_id)
    log = live.run_log(run) if run else None
    if log is None:
        return None
    drawn = {n: v for n, v in log.channels.items() if n in DRAWN or n.startswith("air_")}
    found = selectors.trace_of(*thinned(RunLog(log.elapsed_s, dict(list(drawn.items())[:MOST_DRAWN])), TRACE_POINTS))
    return {"elapsed_s": found.elapsed_s, "channels": [{"name": c.name, "values": c.values} for c in found.channels]}


# --- live runs


class PrepareIn(Schema):
    bench: int
    layout: str
    protocol: ProtocolDoc
    load: Load = "both"
    planned: str = ""


class SetUpIn(Schema):
    held: dict[str, str] | None = None
    acknowledged: list[str] | None = None
    traits: list[str] | None = None
    armed: bool | None = None
    waived: bool | None = None
    room_c: float | None = None
    background_dba: Annotated[float, Field(ge=0, le=120)] | None = None
    microphone: dict[str, Any] | None = None
    name: Annotated[str, Field(min_length=1, max_length=200)] | None = None


@router.get("/jobs/{job_id}/live", response=list[DraftOut], operation_id="list_live")
def list_live(request: HttpRequest, job_id: int) -> Any:
    return [_draft_out(r) for r in Run.objects.filter(job_id=job_id, state="draft").select_related("layout", "job")]


@router.post("/jobs/{job_id}/live", response={201: DraftOut}, operation_id="prepare_run")
def prepare_run(request: HttpRequest, job_id: int, data: PrepareIn) -> Any:
    return Status(201, _draft_out(live.prepare_run(data.bench, job_id, data.layout, data.protocol, data.load, data.planned)))


@router.patch("/live/{run_id}", response=DraftOut, operation_id="set_up_run")
def set_up_run(request: HttpRequest, run_id: int, data: SetUpIn) -> Any:
    given = {k: v for k, v in data.model_dump(exclude_unset=True).items() if v is not None or k in ("room_c", "background_dba")}
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


# --- the clipboard


@router.get("/runs/{run_id}/marks", response=list[MarkOut], operation_id="list_marks")
def list_marks(request: HttpRequest, run_id: int) -> Any:
    return [_mark_out(m) for m in get_object_or_404(Run, pk=run_id).marks.defer("picture")]


@router.post("/runs/{run_id}/marks", response={201: MarkOut}, operation_id="add_mark")
def add_mark(
    request: HttpRequest,
    run_id: int,
    kind: Form[Literal["event", "seen", "heard", "note"]],
    tag: Form[str] = "",
    text: Form[str] = "",
    at_s: Form[float | None] = None,
    until_s: Form[float | None] = None,
    drop: Form[bool] = False,
    x_mm: Form[float | None] = None,
    z_mm: Form[float | None] = None,
    picture: File[UploadedFile | None] = None,  # type: ignore[type-arg, unused-ignore]
) -> Any:
    data = clipboard.MarkData(kind, tag, text, at_s, until_s, drop, x_mm, z_mm)
    return Status(201, _mark_out(clipboard.add_mark(run_id, data, picture.read() if picture else None)))


class MarkChange(Schema):
    text: Annotated[str, Field(max_length=500)] | None = None
    until_s: float | None = None
    drop: bool | None = None


@router.patch("/marks/{mark_id}", response=MarkOut, operation_id="change_mark")
def change_mark(request: HttpRequest, mark_id: int, data: MarkChange) -> Any:
    return _mark_out(clipboard.change_mark(mark_id, data.model_dump(exclude_unset=True)))


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
    room_c: float | None = None
    protocol: ProtocolDoc | None = None
    load: Load = "both"


@router.post("/jobs/{job_id}/runs/by-hand", response={201: RunOut}, operation_id="run_by_hand")
def run_by_hand(request: HttpRequest, job_id: int, data: RunByHandIn) -> Any:
    readings = [(r.channel, r.value) for r in data.readings]
    made = clipboard.run_by_hand(job_id, data.layout, data.minutes, readings, data.room_c, data.protocol, data.load)
    return Status(201, run_out(made))


class WordsOut(Schema):
    held: dict[str, str]
    loads: dict[str, str]
    cautions: list[str]


@router.get("/bench/words", response=WordsOut, operation_id="bench_words")
def bench_words(request: HttpRequest) -> Any:
    """The words of loads, held things and cautions."""
    return {"held": dict(HELD), "loads": dict(LOAD_WORDS), "cautions": list(CAUTIONS)}
