"""What is known of a bench and its live run at this moment: figures so far, the next step, alarms' watch, notes."""

import threading
import time
from collections.abc import Mapping
from dataclasses import dataclass, field

from django.utils import timezone

from desk.job.asked import cautions_of_traits
from desk.runs.ready import complete
from documents.job.asked import Asked
from documents.job.planned import ProtocolDoc
from engine.errors import ImpossibleInputError
from engine.plan.coach import Facts, Step, next_step
from engine.plan.microphone import floor_words
from engine.plan.protocol import Protocol
from engine.plan.watch import LiveWatch, speeds_off
from engine.runs.known import Known
from engine.runs.live import LiveFigures, live_figures, over_room_at_rest, thinned
from engine.runs.series import ROOM_CHANNEL, RunLog
from server.apps.bench.benches import now_s, puts_on, rate_of, silent
from server.apps.bench.buffer import BenchBuffer, buffer_of
from server.apps.bench.earlier import known_before
from server.apps.bench.figures import dropped
from server.apps.bench.models import Run
from server.apps.bench.selectors import Trace, trace_of

LEAST_PAUSE_S, COST_FACTOR, LEAST_FACTOR = 1.5, 20.0, 4.0  # between two evaluations of one bench, in s and in their own cost
GATE_S = 240.0
EARLIER_FROM_S = 60.0  # into a run: sooner no wait is told
TRACE_POINTS = 700
DRAWN = ("cpu_package_c", "card_core_c", "coolant_c", "room_c")
MOST_DRAWN = 8


@dataclass
class Watched:
    """What is known of a live run between two posts; made anew after a restart."""

    protocol: Protocol
    watch: LiveWatch
    figures: LiveFigures | None = None
    at: float = 0.0
    looked: float = 0.0
    cost_s: float = 0.0
    settled_s: float | None = None
    known: Mapping[str, Known] | None = None  # of earlier runs; None while they were not looked for
    lock: threading.Lock = field(default_factory=threading.Lock)
    ending: threading.Lock = field(default_factory=threading.Lock)


_watched: dict[int, Watched] = {}


def forget_all() -> None:
    """As a restart would."""
    _watched.clear()


def forget(run: Run) -> None:
    """Of a run that is over."""
    _watched.pop(run.pk, None)


def live_run(bench_id: int) -> Run | None:
    return Run.objects.filter(bench_id=bench_id, state="draft").select_related("bench").first()


def protocol_of(run: Run) -> Protocol:
    """The version the run is made with; it does not change any more."""
    return watched(run).protocol


def watched(run: Run) -> Watched:
    found = _watched.get(run.pk)
    if found is None:
        protocol = ProtocolDoc.model_validate(run.protocol or {"id": "own"}).to_engine()
        found = _watched.setdefault(run.pk, Watched(protocol, LiveWatch(protocol.limits)))
    return found


def bench_of(run: Run) -> int:
    if run.bench_id is None:
        raise ImpossibleInputError("the bench of this run is gone", run.name, "Discard the run.")
    return run.bench_id


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
        pause = max(LEAST_PAUSE_S, own.cost_s * max(COST_FACTOR / rate_of(bench_of(run)), LEAST_FACTOR))
        if own.figures is not None and time.monotonic() - own.at < pause:
            return own.figures
        log = run_log(run, with_typed=True)
        if own.known is None and log is not None and log.duration_s >= EARLIER_FROM_S:
            own.known = known_before(run)  # seconds, once: others are shown the figures of before meanwhile
        begun = time.monotonic()
        if log is not None and len(log.elapsed_s) > 3:
            own.figures = live_figures(log, run.window_s, dropped(run), own.known or {})
            own.settled_s = own.figures.settled_s if own.figures.all_settled else None
        own.at, own.cost_s = time.monotonic(), time.monotonic() - begun
        return own.figures
    finally:
        own.lock.release()


def step_of(run: Run) -> tuple[Step, LiveFigures | None]:
    """What to do now, and the figures it rests on."""
    bench, protocol = bench_of(run), protocol_of(run)
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
        more=figures.more if figures else "",
        more_from=figures.more_from if figures else "",
        room_reads=room_reads(run),
        load_by_itself=puts_on(bench, run.load),
    )
    return next_step(protocol, facts), figures


def room_reads(run: Run) -> int | None:
    """How often a person has read the room; None where a source or one value for the whole run makes that needless."""
    view = buffer_of(bench_of(run))
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


def trace(run: Run) -> Trace | None:
    """What is drawn of a live run, at screen resolution; None before its second row."""
    log = run_log(run)
    if log is None:
        return None
    drawn = {n: v for n, v in log.channels.items() if n in DRAWN or n.startswith("air_")}
    return trace_of(*thinned(RunLog(log.elapsed_s, dict(list(drawn.items())[:MOST_DRAWN])), TRACE_POINTS))
