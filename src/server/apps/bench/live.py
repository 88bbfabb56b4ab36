"""Live runs: prepared, started, watched and ended. Each change is checked, then done."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from desk.job.asked import asked_of
from desk.job.conditions import as_drawn, made_with
from desk.runs.ready import as_stored, blocks_of
from documents.job.planned import ProtocolDoc
from documents.job.reader import check_job
from engine.errors import ImpossibleInputError, OventaError
from engine.runs.series import RunLog
from server.apps.bench.adapters import keep_blocks
from server.apps.bench.benches import now_s
from server.apps.bench.figures import TRIES, ChangedMeanwhileError, basis_of
from server.apps.bench.models import Bench, Mark, Run
from server.apps.bench.services import checked_room, run_name
from server.apps.bench.watching import bench_of, forget, live_run, protocol_of, room_reads, run_log, step_of
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Layout

CLOCK_JUMP = "clock_jump"  # tag of the mark that says so


class BenchBusyError(OventaError):
    """There is a live run on the bench already."""

    code = "bench_busy"


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
            drawn=as_drawn(doc, layout_key),
            window_s=protocol.to_engine().averaged_s,
            load=load,
            planned=planned,
            microphone={"distance_m": protocol.microphone_m, "place": protocol.microphone_place, "meter": _last_meter(job_id)},
            held={h.what: h.value for h in protocol.held if h.value},
        )


def _last_meter(job_id: int) -> str:
    """Class of the sound meter that the job's latest run was read with."""
    latest = Run.objects.filter(job_id=job_id).exclude(microphone={}).order_by("-pk").first()
    return str(latest.microphone.get("meter", "")) if latest else ""


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
    run.started_s = now_s(bench_of(run)) + protocol_of(run).ready_s
    run.made_at = timezone.now()
    run.save()
    if run.waived:
        Mark.objects.create(run=run, kind="event", tag="gate_waived", text="begun without waiting for the gate", at_s=0.0)
    return run


def _draft(run_id: int) -> Run:
    run = get_object_or_404(Run, pk=run_id)
    if run.state != "draft":
        raise ImpossibleInputError(f"{run.name} is over", "run", "Open it among the runs of its layout.")
    return run


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
    once = protocol_of(run).room == "both_ends" and log.room_c is None and room_reads(run) == 1
    return ["The room was read once only: how it moved during the run is not known."] if once else []


def _close(run_id: int, log: RunLog | None, **outcome: Any) -> Run:
    """Stores what was read and what became of it. A run that was ended meanwhile, by itself or elsewhere, stays as it is."""
    blocks = blocks_of(log) if log is not None else []
    kept = as_stored(log) if log is not None else None
    for _ in range(TRIES):
        run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
        basis = basis_of(run)
        analysis = basis.figures(kept) if kept is not None else {}
        if outcome.get("ended_why") == "settled" and not analysis.get("settled"):
            Run.objects.filter(pk=run_id, state="draft", ended_why="settled").update(ended_why="")  # of an older version
            return run  # what is stored would not bear it out: it goes on, and is looked at again with the next readings
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
        forget(run)
        return run
    raise ChangedMeanwhileError("the run is being changed elsewhere at the same time", "run", "Try again in a moment.")


def clock_notes(run: Run) -> list[str]:
    """What is said of a run during which a sender's clock jumped."""
    jumps = run.marks.filter(tag=CLOCK_JUMP).count()
    times = "once" if jumps == 1 else f"{jumps} times"
    words = f"A sender's clock jumped {times}: its readings stand where they came in, not where its clock put them."
    return [words] if jumps else []
