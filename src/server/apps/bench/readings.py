"""Readings taken in: stored once and then acknowledged; what cannot wait is looked at on the way."""

import json
import time
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass

from django.db import transaction
from django.utils import timezone

from engine.errors import ImpossibleInputError
from engine.plan.watch import Alarm
from server.apps.bench.benches import now_s
from server.apps.bench.live import end_run, live_run, step_of, watched
from server.apps.bench.models import Batch, Bench, Mark, Run, Session

END_LOOK_S = 1.0


@dataclass(frozen=True)
class Posted:
    """One post: ``elapsed_s`` on the sender's clock."""

    session: str
    seq: int
    elapsed_s: Sequence[float]
    channels: Mapping[str, Sequence[float | None]]
    rate: float = 1.0
    source: str = ""


@dataclass(frozen=True)
class Taken:
    acknowledged: int
    phase: str
    load: str


def take_readings(bench: Bench, post: Posted) -> Taken:
    """Stores a post once, whatever number of times it comes; looks for alarms; ends an armed run that is done."""
    _check(post)
    with transaction.atomic():
        session = _session(bench, post)
        fresh = post.seq > session.last_seq or not Batch.objects.filter(session=session, seq=post.seq).exists()
        times = [round(t + session.offset_s, 3) for t in post.elapsed_s]
        if fresh and times:
            body = json.dumps({"t": times, "c": {n: list(v) for n, v in post.channels.items()}}, separators=(",", ":"))
            data = zlib.compress(body.encode(), 1)
            Batch.objects.create(bench=bench, session=session, seq=post.seq, first_s=times[0], last_s=times[-1], data=data)
        session.last_seq = max(session.last_seq, post.seq)
        session.last_s = max(session.last_s, times[-1] if times else session.last_s)
        session.heard_at, session.rate = timezone.now(), post.rate
        session.save(update_fields=["last_seq", "last_s", "heard_at", "rate"])
    run = live_run(bench.pk)
    if run is not None and fresh and _attend(run, times, post.channels):
        run = None
    phase, load = _asked(run, session.last_s)
    return Taken(post.seq, phase, load)


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
    if run is None or run.started_s is None or at_s < run.started_s - 1.0:
        return "rest", "idle"
    return "load", run.load


def _attend(run: Run, times: Sequence[float], channels: Mapping[str, Sequence[float | None]]) -> bool:
    """What cannot wait for somebody to look: limits, lost fans, the end. True when the run has ended."""
    if run.started_s is None or not times or times[-1] < run.started_s:
        return False
    for alarm in watched(run).watch.feed([t - run.started_s for t in times], channels):
        _raise(run, alarm)
        if alarm.act == "stop":
            return _ended(run, "limit")
    own = watched(run)
    if run.armed and time.monotonic() - own.looked >= END_LOOK_S:
        own.looked = time.monotonic()
        fixed = own.protocol.end == "fixed"
        step, figures = step_of(run)
        if step.phase == "window" and step.countdown_s == 0.0 and (fixed or (figures and figures.all_settled)):
            return _ended(run, "time" if fixed else "settled")
    return False


def _ended(run: Run, why: str) -> bool:
    """Ends the run; a person may have done so a moment before, which is no fault of the sender's."""
    try:
        end_run(run.pk, why)
    except ImpossibleInputError:
        return live_run(run.bench_id or 0) is None
    return True


def _raise(run: Run, alarm: Alarm) -> None:
    run.alarms = [*run.alarms, asdict(alarm)]
    run.save(update_fields=["alarms"])
    Mark.objects.create(run=run, kind="alarm", tag=alarm.kind, text=f"{alarm.channel}: {alarm.words}"[:500], at_s=alarm.at_s)
