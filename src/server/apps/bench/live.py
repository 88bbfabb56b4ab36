"""Live runs: prepared, started, watched and ended. Each change is checked, then done."""

import threading
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from desk.job.asked import asked_of, cautions_of_traits
from desk.job.conditions import made_with
from desk.runs.ready import as_stored, blocks_of, complete
from documents.job.asked import Asked
from documents.job.planned import ProtocolDoc
from documents.job.reader import check_job
from engine.errors import ImpossibleInputError, OventaError
from engine.plan.coach import Facts, Step, next_step
from engine.plan.microphone import floor_words
from engine.plan.protocol import Protocol
from engine.plan.watch import LiveWatch, speeds_off
from engine.runs.live import LiveFigures, live_figures, over_room_at_rest
from engine.runs.series import ROOM_CHANNEL, RunLog
from server.apps.bench.adapters import keep_blocks
from server.apps.bench.benches import now_s, rate_of, silent
from server.apps.bench.buffer import BenchBuffer, buffer_of
from server.apps.bench.figures import TRIES, ChangedMeanwhileError, basis_of, dropped
from server.apps.bench.models import Bench, Mark, Run
from server.apps.bench.services import checked_room, run_name
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Layout

CLOCK_JUMP = "clock_jump"  # tag of the mark that says so
LEAST_PAUSE_S, COST_FACTOR, LEAST_FACTOR = 1.5, 20.0, 4.0  # between two evaluations of one bench, in s and in their own cost
GATE_S = 240.0


class BenchBusyError(OventaError):
    """There is a live run on the bench already."""

    code = "bench_busy"


@dataclass
class _Watched:
    """What is known of a live run between two posts; made anew after a restart."""

    protocol: Protocol
    watch: LiveWatch
    figures: LiveFigures | None = None
    at: float = 0.0
    looked: float = 0.0
    cost_s: float = 0.0
    settled_s: float | None = None
    lock: threading.Lock = field(default_factory=threading.Lock)


_watched: dict[int, _Watched] = {}


def forget_all() -> None:
    """As a restart would."""
    _watched.clear()


def live_run(bench_id: int) -> Run | None:
    return Run.objects.filter(bench_id=bench_id, state="draft").select_related("bench").first()


def protocol_of(run: Run) -> Protocol:
    """The version the run is made with; it does not change any more."""
    return watched(run).protocol


def watched(run: Run) -> _Watched:
    found = _watched.get(run.pk)
    if found is None:
        protocol = ProtocolDoc.model_validate(run.protocol or {"id": "own"}).to_engine()
        found = _watched.setdefault(run.pk, _Watched(protocol, LiveWatch(protocol.limits)))
    return found


def prepare_run(bench_id: int, job_id: int, layout_key: str, protocol: ProtocolDoc, load: str, planned: str = "") -> Run:
    """A draft on the bench, with everything of the protocol's version kept in it. Raises BenchBusyError when there is one already."""
    bench = get_object_or_404(Bench, pk=bench_id)
    layout = get_object_or_404(Layout.objects.select_related("job"), job_id=job_id, key=layout_key)
    doc = check_job(document(layout.job)).doc
    wanted = asked_of(doc, layout_key).model_dump(mode="json")
    built = made_with(doc, layout_key)
    with transaction.atomic():
        busy = live_run(bench_id)
        if busy:
            do = "End or discard it first, or use another bench."
            raise BenchBusyError(f"{busy.name} is live on {bench.name}", bench.name, do)
        return Run.objects.create(
            job_id=job_id,
            layout=get_object_or_404(Layout, job_id=job_id, key=layout_key),
            layout_key=layout_key,
            bench=bench,
            name=run_name(job_id, layout_key) + (", made up" if bench.made_up else ""),
            source_name=f"live, {bench.name}",
            state="draft",
            duration_s=0,
            rows=0,
            protocol=protocol.model_dump(mode="json"),
            asked=wanted,
            made_with=built,
            window_s=protocol.to_engine().averaged_s,
            load=load,
            planned=planned,
            microphone={"distance_m": protocol.microphone_m, "place": protocol.microphone_place},
            held={h.what: h.value for h in protocol.held if h.value},
        )


SETTABLE = ("loop_filled_at", "held", "acknowledged", "traits", "armed", "waived", "microphone", "background_dba", "name")


@transaction.atomic
def set_up(run_id: int, changes: dict[str, Any]) -> Run:
    """Ticks, values and marks of a draft; only what is given changes."""
    run = _draft(run_id)
    if "room_c" in changes:
        run.typed_room_c = checked_room(changes["room_c"])
    for name in SETTABLE:
        if name in changes:
            setattr(run, name, changes[name])
    run.save()
    return run


@transaction.atomic
def start_run(run_id: int, waive: bool = False) -> Run:
    """Begins the countdown to logging. Raises ImpossibleInputError while something must be done first."""
    run = _draft(run_id)
    if run.started_s is not None:
        return run
    run.waived = run.waived or waive
    step, _ = step_of(run)
    if not step.may_start:
        raise ImpossibleInputError(step.action, run.name, "Do that first; a waiting time can be waived, which marks the run.")
    run.started_s = now_s(_bench(run)) + protocol_of(run).ready_s
    run.save()
    if run.waived:
        Mark.objects.create(run=run, kind="event", tag="gate_waived", text="begun without waiting for the gate", at_s=0.0)
    return run


def _draft(run_id: int) -> Run:
    run = get_object_or_404(Run, pk=run_id)
    if run.state != "draft":
        raise ImpossibleInputError(f"{run.name} is over", "run", "Open it among the runs of its layout.")
    return run


def _bench(run: Run) -> int:
    if run.bench_id is None:
        raise ImpossibleInputError("the bench of this run is gone", run.name, "Discard the run.")
    return run.bench_id


def discard_run(run_id: int, reason: str) -> Run:
    """A draft that comes to nothing: void, with what was read of it; never deleted."""
    log = run_log(_draft(run_id))
    return _close(run_id, log, state="void", void_reason=(reason or "discarded before it was done")[:300])


def end_run(run_id: int, why: str) -> Run:
    """Ends logging and turns the readings into a run with figures. ``why``: settled, time, person, limit."""
    run = _draft(run_id)
    log = run_log(run)
    if log is None:
        raise ImpossibleInputError("no readings have come yet", run.name, "Wait for some, or discard the run.")
    return _close(run_id, log, state="valid", ended_why=why, notes=_room_notes(run, log))


def _room_notes(run: Run, log: RunLog) -> list[str]:
    """A room that was to be read at both ends and was not."""
    once = protocol_of(run).room == "both_ends" and log.room_c is None and _room_reads(run) == 1
    return ["The room was read once only: how it moved during the run is not known."] if once else []


def _close(run_id: int, log: RunLog | None, **outcome: Any) -> Run:
    """Stores what was read and what became of it. A run that was ended meanwhile, by itself or elsewhere, stays as it is."""
    blocks = blocks_of(log) if log is not None else []
    kept = as_stored(log) if log is not None else None
    for _ in range(TRIES):
        run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
        basis = basis_of(run)
        analysis = basis.figures(kept) if kept is not None else {}
        with transaction.atomic():
            run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
            if run.state != "draft":
                return run
            if basis_of(run) != basis:
                continue
            for name, value in outcome.items():
                setattr(run, name, value)
            if log is not None and run.started_s is not None:
                run.ended_s = run.started_s + float(log.elapsed_s[-1])
                run.duration_s, run.rows = log.duration_s, len(log.elapsed_s)
                run.columns = [{"heading": n, "channel": n, "unit": n.rsplit("_", 1)[-1]} for n in log.channels]
                run.analysis = analysis
                run.notes = [*run.notes, *clock_notes(run)]
            run.save()
            keep_blocks(run, blocks)
        _watched.pop(run.pk, None)
        return run
    raise ChangedMeanwhileError("the run is being changed elsewhere at the same time", "run", "Try again in a moment.")


def clock_notes(run: Run) -> list[str]:
    """What is said of a run during which a sender's clock jumped."""
    jumps = run.marks.filter(tag=CLOCK_JUMP).count()
    times = "once" if jumps == 1 else f"{jumps} times"
    words = f"A sender's clock jumped {times}: its readings stand where they came in, not where its clock put them."
    return [words] if jumps else []


def run_log(run: Run, with_typed: bool = False) -> RunLog | None:
    """What has been read of a live run so far; None before the second row."""
    if run.started_s is None or run.bench_id is None:
        return None
    view = buffer_of(run.bench_id)
    with view.lock:
        view.read_on(run.started_s - GATE_S)
        log = view.log(run.started_s)
    if log is None or not with_typed:
        return log
    return complete(log, run.by_hand, run.typed_room_c)


def _figures(run: Run) -> LiveFigures | None:
    """Figures of the run so far; computed again when the pause that its cost asks for is over."""
    own = watched(run)
    if not own.lock.acquire(blocking=own.figures is None):
        return own.figures
    try:
        pause = max(LEAST_PAUSE_S, own.cost_s * max(COST_FACTOR / rate_of(_bench(run)), LEAST_FACTOR))
        if own.figures is not None and time.monotonic() - own.at < pause:
            return own.figures
        begun = time.monotonic()
        log = run_log(run, with_typed=True)
        if log is not None and len(log.elapsed_s) > 3:
            own.figures = live_figures(log, run.window_s, dropped(run))
            own.settled_s = own.figures.settled_s if own.figures.all_settled else None
        own.at, own.cost_s = time.monotonic(), time.monotonic() - begun
        return own.figures
    finally:
        own.lock.release()


def step_of(run: Run) -> tuple[Step, LiveFigures | None]:
    """What to do now, and the figures it rests on."""
    bench, protocol = _bench(run), protocol_of(run)
    if run.started_s is None:
        return next_step(protocol, _facts_before(run, bench, protocol)), None
    at = now_s(bench)
    figures = _figures(run) if at > run.started_s else None
    own = watched(run)
    facts = Facts(
        now_s=at,
        logging_from_s=run.started_s,
        all_settled=bool(figures and figures.all_settled),
        settled_s=None if own.settled_s is None else run.started_s + own.settled_s,
        minutes_left=figures.minutes_left if figures else None,
        room_reads=_room_reads(run),
    )
    return next_step(protocol, facts), figures


def _room_reads(run: Run) -> int | None:
    """How often a person has read the room; None where a source or one value for the whole run makes that needless."""
    view = buffer_of(_bench(run))
    if run.typed_room_c is not None or view.reads(ROOM_CHANNEL):
        return None
    return len([r for r in run.by_hand if r["channel"] == ROOM_CHANNEL and r["state"] != "struck"])


def _facts_before(run: Run, bench: int, protocol: Protocol) -> Facts:
    at = now_s(bench)
    log = present_log(bench, at)
    over, cooling = over_room_at_rest(log) if log else (None, None)
    unticked = len(set(needed_cautions(run)) - set(run.acknowledged)) + sum(1 for h in protocol.held if h not in run.held)
    room = typed_room_c(run) is not None or (log is not None and log.room_c is not None)
    return Facts(
        now_s=at,
        over_room_k=over,
        cooling_k_min=cooling,
        purged_minutes=None if run.loop_filled_at is None else (timezone.now() - run.loop_filled_at).total_seconds() / 60,
        unticked=unticked,
        readings=log is not None and not silent(bench),
        room=room,
        waived=run.waived,
    )


def typed_room_c(run: Run) -> float | None:
    """The room as a person gave it: for the whole run, or read last."""
    if run.typed_room_c is not None:
        return run.typed_room_c
    read = [r["value"] for r in run.by_hand if r["channel"] == ROOM_CHANNEL and r["state"] != "struck"]
    return read[-1] if read else None


def notes(run: Run, latest: Mapping[str, float]) -> list[str]:
    """What is not wrong but worth a look: a noisy room, fans that do not turn as the layout says."""
    wanted = asked(run)
    floor = floor_words(run.background_dba, wanted.sound_limit_dba)
    return [*([floor] if floor else []), *speeds_off(wanted.speeds_rpm, latest)]


def asked(run: Run) -> Asked:
    """What the layout asked for when the run was prepared."""
    return Asked.model_validate(run.asked)


def needed_cautions(run: Run) -> list[str]:
    """What must be read before power: by the protocol, the layout as it is built, and the machine's own state."""
    return sorted({*protocol_of(run).cautions, *asked(run).cautions, *cautions_of_traits(run.traits)})


def present_log(bench_id: int, at_s: float, span_s: float = GATE_S) -> RunLog | None:
    """The last minutes of a bench, run or not."""
    view: BenchBuffer = buffer_of(bench_id)
    with view.lock:
        view.read_on(at_s - span_s)
        if live_run(bench_id) is None or view.from_s < at_s - 12 * 3600:
            view.forget(at_s - span_s)
        return view.log(at_s - span_s)


def latest_values(log: RunLog | None) -> dict[str, float]:
    """The newest reading of each channel."""
    found = {}
    for name, values in (log.channels if log else {}).items():
        good = [v for v in values[-60:].tolist() if v == v]
        if good:
            found[name] = good[-1]
    return found
