"""Benches over HTTP: readings in, what feeds them, the stand-in machine."""

from dataclasses import asdict
from typing import Annotated, Any, Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Status
from pydantic import Field

from desk.answers import Load
from documents.runlog.reader import CHANNEL_NAME
from instruments.collect import InstrumentKind
from instruments.load import LOADS
from instruments.standin import Fault
from server.api.bench import FaultIn
from server.api.schema import Schema
from server.apps.bench import benches, players, readings, watching
from server.apps.bench.models import Bench

router = Router()
ChannelName = Annotated[str, Field(pattern=CHANNEL_NAME, max_length=60)]
Reading = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
MOST_ROWS = 5000


class ReadingsIn(Schema):
    """One post of a sender: docs/formats/readings.md."""

    session: Annotated[str, Field(min_length=1, max_length=64)]
    seq: Annotated[int, Field(ge=1, le=2**53)]
    elapsed_s: Annotated[list[Annotated[float, Field(ge=0, le=1e9)]], Field(max_length=MOST_ROWS)]
    channels: Annotated[dict[ChannelName, list[Reading | None]], Field(max_length=600)]
    rate: Annotated[float, Field(gt=0, le=240)] = 1.0
    source: Annotated[str, Field(max_length=80)] = ""
    loads: Annotated[list[Load], Field(max_length=len(LOADS), default_factory=list)]


class ReadingsOut(Schema):
    acknowledged: int
    phase: Literal["rest", "load"]
    load: str


class BenchIn(Schema):
    name: Annotated[str, Field(min_length=1, max_length=80)]


class InstrumentIn(Schema):
    kind: InstrumentKind
    address: Annotated[str, Field(min_length=1, max_length=120)]
    channels: dict[str, ChannelName] = Field(default_factory=dict)
    every_s: Annotated[float, Field(ge=0.2, le=600)] = 5


class InstrumentOut(InstrumentIn):
    id: int
    words: str


class SourceOut(Schema):
    source: str
    heard_s_ago: float
    clock_jumps: int  # of its clock, since it began: from each on its readings are placed by when they came in


class BenchOut(Schema):
    """``token`` only in the answer that made it."""

    id: int
    name: str
    made_up: bool
    token: str | None = None
    silent: bool
    standin: bool
    standin_job: int | None = None
    standin_paused: bool = False
    standin_logger: str | None = None
    standin_meter: str | None = None
    sources: list[SourceOut]
    instruments: list[InstrumentOut]
    run: int | None
    run_job: int | None
    run_name: str


def bench_out(bench: Bench, token: str | None = None) -> dict[str, Any]:
    run = watching.live_run(bench.pk)
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
        "silent": benches.silent(bench.pk),
        "standin": players.standin_runs(bench.pk),
        "standin_job": players.standin_job(bench.pk),
        "standin_paused": players.standin_paused(bench.pk),
        "standin_logger": beside.logger if beside else None,
        "standin_meter": beside.meter if beside else None,
        "sources": [
            {"source": s.source or "a sender without a name", "heard_s_ago": since, "clock_jumps": max(len(s.turns) - 1, 0)}
            for since, s in benches.sources(bench.pk)
        ],
        "instruments": instruments,
        "run": run.pk if run else None,
        "run_job": run.job_id if run else None,
        "run_name": run.name if run else "",
    }


@router.get("/benches", response=list[BenchOut], operation_id="list_benches")
def list_benches(request: HttpRequest) -> Any:
    return [bench_out(b) for b in Bench.objects.all()]


@router.post("/benches", response={201: BenchOut}, operation_id="make_bench")
def make_bench(request: HttpRequest, data: BenchIn) -> Any:
    """A bench; its token is in this answer only."""
    return Status(201, bench_out(*benches.make_bench(data.name)))


@router.post("/benches/{bench_id}/token", response=BenchOut, operation_id="new_token")
def new_token(request: HttpRequest, bench_id: int) -> Any:
    return bench_out(*benches.new_token(bench_id))


@router.post("/benches/{bench_id}/readings", response=ReadingsOut, operation_id="post_readings")
def post_readings(request: HttpRequest, bench_id: int, data: ReadingsIn) -> Any:
    """Readings of a sender; an answer means that they are stored."""
    bench = benches.bench_for(bench_id, request.headers.get("Authorization", ""))
    post = readings.Posted(data.session, data.seq, data.elapsed_s, data.channels, data.rate, data.source, data.loads)
    return asdict(readings.take_readings(bench, post))


class StoredOut(Schema):
    posts: int
    megabytes: float
    older_posts: int


class ClearIn(Schema):
    older_than_h: Annotated[float, Field(ge=1, le=100_000)] = 48


class ClearedOut(Schema):
    removed: int


@router.get("/benches/{bench_id}/readings", response=StoredOut, operation_id="stored_readings")
def stored_readings(request: HttpRequest, bench_id: int, older_than_h: Annotated[float, Field(ge=1, le=100_000)] = 48) -> Any:
    """How much a bench has stored, and how many of its posts are older than some hours."""
    get_object_or_404(Bench, pk=bench_id)
    return asdict(benches.stored(bench_id, older_than_h))


@router.post("/benches/{bench_id}/readings/clear", response=ClearedOut, operation_id="clear_readings")
def clear_readings(request: HttpRequest, bench_id: int, data: ClearIn) -> Any:
    """Removes old posts, which nothing but a person does; runs that are over keep their own copy."""
    return ClearedOut(removed=benches.clear_readings(bench_id, data.older_than_h))


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
    return bench_out(players.start_standin(job_id, data.layout, base, data.rate, data.seed, faults, data.difficult, data.name))


class PaceIn(Schema):
    rate: Annotated[float, Field(ge=1, le=240)]
    paused: bool = False


@router.patch("/benches/{bench_id}/standin", response=BenchOut, operation_id="pace_standin")
def pace_standin(request: HttpRequest, bench_id: int, data: PaceIn) -> Any:
    """Another time for the made-up machine, or a pause."""
    bench = get_object_or_404(Bench, pk=bench_id)
    players.pace_standin(bench_id, data.rate, data.paused)
    return bench_out(bench)


@router.delete("/benches/{bench_id}/standin", response=BenchOut, operation_id="stop_standin")
def stop_standin(request: HttpRequest, bench_id: int) -> Any:
    players.stop_standin(bench_id)
    return bench_out(get_object_or_404(Bench, pk=bench_id))
