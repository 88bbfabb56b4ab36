"""A suite that runs by itself: the plan's runs one after the other, each begun when the machine has cooled; a hand is called for where
one is needed, and nothing is begun that a person has not read the cautions of.

What was ticked and held in one run holds in the next of the same layout; another layout is built first, by a person, who says so.
"""

import time
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal

from django.db import transaction
from django.shortcuts import get_object_or_404

from desk.job.difference import changes
from desk.plan.runsheet import latest, run_sheet
from documents.job.models import JobDoc
from documents.job.planned import PlannedRunDoc
from documents.job.reader import check_job
from engine.errors import ImpossibleInputError, OventaError
from server.apps.bench.benches import now_s
from server.apps.bench.live import prepare_run, start_run
from server.apps.bench.models import Bench, Run
from server.apps.bench.selectors import planned_done
from server.apps.bench.watching import live_run, present_log, step_of, typed_room_c
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job

LOOK_S = 1.0
State = Literal["waits", "runs", "hand", "done", "stopped"]
_looked: dict[int, float] = {}


@dataclass(frozen=True)
class Suite:
    """As a bench keeps it. ``layout`` is what stands built; ``words`` what happens or what a hand is wanted for."""

    job: int
    layout: str
    state: State
    words: str
    to_do: tuple[str, ...] = ()
    to_go: int = 0
    last_run: int | None = None

    @property
    def on(self) -> bool:
        return self.state not in ("done", "stopped")


def suite_of(bench: Bench) -> Suite | None:
    if not bench.suite:
        return None
    kept = dict(bench.suite)
    return Suite(**{**kept, "to_do": tuple(kept.get("to_do", ()))})


def begin(bench_id: int, job_id: int) -> Suite:
    """From the plan's next run on; its layout is taken to stand built. Raises ImpossibleInputError where nothing is planned."""
    bench, doc = get_object_or_404(Bench, pk=bench_id), _doc(job_id)
    following = run_sheet(doc, planned_done(job_id)).next
    if following is None:
        raise ImpossibleInputError("nothing is left to be run", "plan", "Plan runs first: their layouts, their loads, their repeats.")
    own = _kept(bench, Suite(job_id, following.layout, "waits", "The suite begins.", to_go=_to_go(doc, job_id)))
    return advance(bench_id) or own


def stop(bench_id: int) -> None:
    """A person takes over; a run that is under way goes on."""
    bench = get_object_or_404(Bench, pk=bench_id)
    own = suite_of(bench)
    if own and own.on:
        _kept(bench, replace(own, state="stopped", words="Stopped by a person.", to_do=()))


def built(bench_id: int) -> Suite | None:
    """A person has built the layout that comes next."""
    bench = get_object_or_404(Bench, pk=bench_id)
    own = suite_of(bench)
    following = run_sheet(_doc(own.job), planned_done(own.job)).next if own and own.on else None
    if own is None or following is None:
        raise ImpossibleInputError("no suite waits for a hand", bench.name, "Begin one from the plan.")
    _kept(bench, replace(own, layout=following.layout, state="waits", words="Built; it goes on.", to_do=(), last_run=None))
    return advance(bench_id)


def look(bench_id: int) -> None:
    """After a post: goes on where it can, at most about once a second."""
    if time.monotonic() - _looked.get(bench_id, 0.0) >= LOOK_S:
        _looked[bench_id] = time.monotonic()
        with suppress(OventaError):  # what stands in the way is said in the suite itself, at the next look
            advance(bench_id)


def advance(bench_id: int) -> Suite | None:
    """One step: waits, begins a run, calls for a hand, or is done."""
    bench = Bench.objects.get(pk=bench_id)
    own = suite_of(bench)
    if own is None or not own.on:
        return own
    run = live_run(bench_id)
    if run is not None and run.job_id != own.job:
        return _kept(bench, replace(own, state="stopped", words=f"Stopped: {run.name} of another job is on this bench."))
    if run is not None:
        return _kept(bench, _with_run(own, run))
    last = Run.objects.filter(pk=own.last_run).first() if own.last_run else None
    if last is not None and (last.state != "valid" or last.ended_why == "limit"):
        why = "was stopped at a limit: look at the machine first" if last.ended_why == "limit" else "was set aside"
        return _kept(bench, replace(own, state="stopped", words=f"Stopped: {last.name} {why}.", to_do=()))
    doc = _doc(own.job)
    following = run_sheet(doc, planned_done(own.job)).next
    own = replace(own, to_go=_to_go(doc, own.job))
    if following is None:
        return _kept(bench, replace(own, state="done", words="All planned runs are in.", to_do=()))
    if following.layout != own.layout:
        return _kept(bench, _called(own, doc, following))
    made = _prepared(bench, own, doc, following, last)
    return _kept(bench, _with_run(replace(own, last_run=made.pk), made))


def _with_run(own: Suite, run: Run) -> Suite:
    """A run that is prepared is begun as soon as it may; one that is under way is waited for."""
    own = replace(own, last_run=run.pk, to_do=())
    if run.started_s is not None or run.ended_why:
        return replace(own, state="runs", words=f"{run.name} is under way.")
    step, _ = step_of(run)
    if step.may_start and _room(run):
        start_run(run.pk)
        return replace(own, state="runs", words=f"{run.name} begins.")
    if step.phase in ("cool", "purge"):
        return replace(own, state="waits", words=step.action)
    return replace(own, state="hand", words=step.action)


def _called(own: Suite, doc: JobDoc, following: PlannedRunDoc) -> Suite:
    layouts = {x.id: x for x in doc.layouts}
    work = changes(doc, layouts[own.layout], layouts[following.layout]) if own.layout in layouts else []
    words = f"Build layout {following.layout}, then say that it stands."
    return replace(own, state="hand", words=words, to_do=tuple(c.to_do for c in work))


def _prepared(bench: Bench, own: Suite, doc: JobDoc, following: PlannedRunDoc, last: Run | None) -> Run:
    """The next run, armed, with what was ticked and held in the one before of the same layout."""
    protocol = latest(doc, following.protocol)
    if protocol is None:
        raise ImpossibleInputError(f"protocol {following.protocol} is not in the job", "plan", "Choose another protocol in Plan.")
    run = prepare_run(bench.pk, own.job, following.layout, protocol, following.load, following.id)
    run.armed = True
    if last is not None and last.layout_key == run.layout_key:
        run.acknowledged, run.traits, run.background_dba = list(last.acknowledged), list(last.traits), last.background_dba
        run.held = {**run.held, **{k: v for k, v in last.held.items() if k in {h.what for h in protocol.held}}}
    run.save()
    return run


def _room(run: Run) -> bool:
    """Whether the room is read, so that nobody needs to."""
    log = present_log(run.bench_id or 0, now_s(run.bench_id or 0))
    return typed_room_c(run) is not None or (log is not None and log.room_c is not None)


def _doc(job_id: int) -> JobDoc:
    return check_job(document(get_object_or_404(Job, pk=job_id))).doc


def _to_go(doc: JobDoc, job_id: int) -> int:
    done = planned_done(job_id)
    return sum(1 for r in (doc.plan.runs if doc.plan else ()) if r.id not in done)


def _kept(bench: Bench, own: Suite) -> Suite:
    kept: dict[str, Any] = asdict(own) | {"to_do": list(own.to_do)}
    if bench.suite != kept:
        with transaction.atomic():
            Bench.objects.filter(pk=bench.pk).update(suite=kept)
        bench.suite = kept
    return own
