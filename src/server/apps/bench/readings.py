"""Readings taken in: stored once and then acknowledged; what cannot wait is looked at on the way."""

import contextlib
import json
import time
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass

from django.db import transaction
from django.utils import timezone

from engine.errors import ImpossibleInputError
from engine.plan.watch import Alarm
from engine.runs.placing import REACH_S, Placed, place
from server.apps.bench import suite
from server.apps.bench.benches import now_s
from server.apps.bench.clock import heard, since_heard_s
from server.apps.bench.live import CLOCK_JUMP, end_run
from server.apps.bench.models import Batch, Bench, Mark, Run, Session
from server.apps.bench.soon import soon
from server.apps.bench.watching import live_run, step_of, watched

END_LOOK_S = 1.0
MOST_TURNS, MOST_TOLD = 50, 10


@dataclass(frozen=True)
class Posted:
    """One post: ``elapsed_s`` on the sender's clock."""

    session: str
    seq: int
    elapsed_s: Sequence[float]
    channels: Mapping[str, Sequence[float | None]]
    rate: float = 1.0
    source: str = ""
    loads: Sequence[str] = ()  # that the sender puts on itself, as the answer asks


@dataclass(frozen=True)
class Taken:
    acknowledged: int
    phase: str
    load: str


def take_readings(bench: Bench, post: Posted) -> Taken:
    """Stores a post once, whatever number of times it comes; looks for alarms; has an armed run ended that is done."""
    _check(post)
    with transaction.atomic():
        session = _session(bench, post)
        fresh = post.seq > session.last_seq or not Batch.objects.filter(session=session, seq=post.seq).exists()
        placed = _placed(bench, session, post) if fresh else Placed([], session.offset_s, [])
        times = placed.times_s
        if fresh and times:
            body = json.dumps({"t": times, "c": {n: list(v) for n, v in post.channels.items()}}, separators=(",", ":"))
            data = zlib.compress(body.encode(), 1)
            Batch.objects.create(bench=bench, session=session, seq=post.seq, first_s=times[0], last_s=times[-1], data=data)
        if placed.jumps_s:
            _turn(session, post.seq, placed.offset_s)
        session.last_seq = max(session.last_seq, post.seq)
        session.last_s = max(session.last_s, times[-1] if times else session.last_s)
        session.heard_at, session.rate, session.loads = timezone.now(), post.rate, list(post.loads)
        session.save(update_fields=["last_seq", "last_s", "heard_at", "rate", "loads", "offset_s", "turns"])
        if placed.jumps_s:
            _tell_jumps(session, times[0], placed.jumps_s)
    heard(session.pk)
    run = live_run(bench.pk)
    if run is not None and fresh:
        _attend(run, times, post.channels)
        run = live_run(bench.pk)
    if bench.suite:
        soon(("suite", bench.pk), lambda: suite.look(bench.pk))
    phase, load = _asked(run, session.last_s)
    return Taken(post.seq, phase, load)


def _placed(bench: Bench, session: Session, post: Posted) -> Placed:
    """The post's rows on the bench's clock. One that comes after a later one is placed by the offset of its own time."""
    if post.seq < session.last_seq:
        offset_s = next((o for first, o in reversed(session.turns) if first <= post.seq), session.offset_s)
        ahead = session.last_s + REACH_S
        return Placed([round(min(t + offset_s, ahead + i * 0.001), 3) for i, t in enumerate(post.elapsed_s)], session.offset_s, [])
    first_post = session.last_seq == 0
    passed_s = min(since_heard_s(session), 1e9) * post.rate
    return place(post.elapsed_s, session.offset_s, None if first_post else session.last_s, now_s(bench.pk), passed_s)


def _turn(session: Session, seq: int, offset_s: float) -> None:
    session.turns = [*(session.turns or [[0, session.offset_s]]), [seq, offset_s]][-MOST_TURNS:]
    session.offset_s = offset_s


def _tell_jumps(session: Session, at_s: float, jumps_s: Sequence[float]) -> None:
    """A mark on the run that is under way; a clock that jumps all the time is told a few times only."""
    run = live_run(session.bench_id)
    if run is None or run.started_s is None or run.marks.filter(tag=CLOCK_JUMP).count() >= MOST_TOLD:
        return
    jump = jumps_s[0]
    words = f"the clock of {session.source or 'a sender'} jumped {'ahead' if jump > 0 else 'back'} by {abs(jump):,.0f} s"
    text = f"{words}; its readings are placed by when they came in"
    Mark.objects.create(run=run, kind="event", tag=CLOCK_JUMP, text=text, at_s=max(at_s - run.started_s, 0.0))


def _check(post: Posted) -> None:
    rows = len(post.elapsed_s)
    if any(b <= a for a, b in zip(post.elapsed_s, post.elapsed_s[1:], strict=False)):
        raise ImpossibleInputError("the times do not rise", "elapsed_s", "Send the rows in order, each time once.")
    for name, values in post.channels.items():
        if len(values) != rows:
            do = "Give one value per time, null where there is none."
            raise ImpossibleInputError(f"{len(values)} values for {rows} times", f"channels.{name}", do)


def _session(bench: Bench, post: Posted) -> Session:
    found = Session.objects.filter(bench=bench, key=post.session).first()
    if found:
        return found
    first = post.elapsed_s[0] if post.elapsed_s else 0.0
    return Session.objects.create(
        bench=bench,
        key=post.session,
        source=post.source[:80],
        rate=post.rate,
        offset_s=round(now_s(bench.pk, whole=True) - first + (0.001 if bench.sessions.exists() else 0.0), 3),
        heard_at=timezone.now(),
    )


def _asked(run: Run | None, at_s: float) -> tuple[str, str]:
    """What the machine should do: rest, or carry a load while a run is logged."""
    if run is None or run.ended_why or run.started_s is None or at_s < run.started_s - 1.0:
        return "rest", "idle"
    return "load", run.load


def _attend(run: Run, times: Sequence[float], channels: Mapping[str, Sequence[float | None]]) -> None:
    """What cannot wait for somebody to look: limits and lost fans here and now, whether the run is done soon after the answer."""
    if run.started_s is None or not times or times[-1] < run.started_s:
        return
    if not run.ended_why:
        for alarm in watched(run).watch.feed([t - run.started_s for t in times], channels):
            _raise(run, alarm)
            if alarm.act == "stop":
                _stop(run, "limit")
                break
    own = watched(run)
    if run.ended_why:
        soon(("close", run.pk), lambda: close_ending(run.pk))
    elif run.armed and time.monotonic() - own.looked >= END_LOOK_S:
        own.looked = time.monotonic()
        soon(("look", run.pk), lambda: _look(run.pk))


def _look(run_id: int) -> None:
    """Ends an armed run that is done; one look at a time.

    A run that seems settled keeps its load until its stored figures bear that out: without them it goes on.
    """
    run = Run.objects.filter(pk=run_id, state="draft", ended_why="").select_related("bench").first()
    if run is None:
        return
    own = watched(run)
    if not own.ending.acquire(blocking=False):
        return
    try:
        step, figures = step_of(run)
        if step.phase != "window" or step.countdown_s != 0.0:
            return
        if own.protocol.end == "fixed":
            _stop(run, "time")
            close_ending(run_id)
        elif figures and figures.all_settled:
            _end(run_id, "settled")
    finally:
        own.ending.release()


def _stop(run: Run, why: str) -> None:
    """The run is to end: said at once and for good; the machine is told to rest, its readings become a run soon after."""
    Run.objects.filter(pk=run.pk, state="draft").update(ended_why=why)
    run.ended_why = why


def close_ending(run_id: int) -> None:
    """Turns a run that is to end into one that is over; a person may have done so a moment before."""
    run = Run.objects.filter(pk=run_id, state="draft").exclude(ended_why="").first()
    if run is not None:
        _end(run.pk, run.ended_why)


def _end(run_id: int, why: str) -> None:
    with contextlib.suppress(ImpossibleInputError):
        end_run(run_id, why)


def close_all_ending() -> None:
    """Runs that were to end when the server was stopped."""
    for run_id in Run.objects.filter(state="draft").exclude(ended_why="").values_list("pk", flat=True):
        close_ending(run_id)


def _raise(run: Run, alarm: Alarm) -> None:
    with transaction.atomic():
        run.alarms = [*Run.objects.values_list("alarms", flat=True).get(pk=run.pk), asdict(alarm)]
        run.save(update_fields=["alarms"])
        Mark.objects.create(run=run, kind="alarm", tag=alarm.kind, text=f"{alarm.channel}: {alarm.words}"[:500], at_s=alarm.at_s)
