"""Threads of this process that feed benches: the stand-in machine, and instruments the server reads itself.

The stand-in posts over HTTP like any logger elsewhere would, with the bench's token, so that nothing about it is a special case.
"""

import threading
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from django.db import connection
from django.shortcuts import get_object_or_404

from desk.job.resolve import Resolver
from documents.job.reader import check_job
from engine.coupled.operating_point import loaded
from engine.errors import ImpossibleInputError
from instruments.collect import collect, open_source
from instruments.livebench import FASTEST, SLOWEST, Beside, LiveStandIn, Pace, instruments_of, play
from instruments.load import LOADS
from instruments.sender import Sender
from instruments.standin import FAULTS, Fault, difficult_day
from server.apps.bench.benches import make_bench, new_token, rate_of
from server.apps.bench.models import Bench, Instrument
from server.apps.bench.readings import Posted, close_all_ending, take_readings
from server.apps.bench.watching import live_run
from server.apps.jobs import adapters
from server.apps.jobs.models import Job

STANDIN = "Stand-in bench"
HORIZON_MIN = 40.0


@dataclass
class Player:
    thread: threading.Thread
    stop: threading.Event
    words: str = ""
    beside: Beside | None = None
    pace: Pace = field(default_factory=Pace)
    job: int | None = None

    def tell(self, words: str) -> None:
        self.words = words


_standins: dict[int, Player] = {}
_instruments: dict[int, Player] = {}


def start_standin(
    job_id: int,
    layout_key: str,
    base_url: str,
    rate: float,
    seed: int,
    faults: Sequence[Fault] = (),
    difficult: bool = False,
    name: str = "",
) -> Bench:
    """The stand-in machine of a layout, alive on its own bench until it is stopped; ``base_url`` is this server's."""
    if not SLOWEST <= rate <= FASTEST:
        raise ImpossibleInputError(f"{rate:g} times is not possible", "rate", f"Choose {SLOWEST:g} to {FASTEST:g}.")
    job = get_object_or_404(Job, pk=job_id)
    machine = loaded(Resolver(check_job(adapters.document(job)).doc).machine(layout_key), "both")
    unknown = next((f.kind for f in faults if f.kind not in FAULTS), None)
    if unknown:
        raise ImpossibleInputError(f"{unknown!r} is no fault", "faults", f"Use one of {', '.join(FAULTS)}.")
    planted = [*faults, *(difficult_day(machine, HORIZON_MIN, seed) if difficult else [])]
    wanted = name or _own_name(job)
    bench = Bench.objects.filter(name=wanted).first() or make_bench(wanted, made_up=True)[0]
    if live_run(bench.pk) is not None and bench.pk in _standins and _standins[bench.pk].thread.is_alive():
        raise ImpossibleInputError(f"{bench.name} has a live run", bench.name, "End or discard that first.")
    stop_standin(bench.pk)
    _, token = new_token(bench.pk)
    sender = Sender(f"{base_url.rstrip('/')}/api/benches/{bench.pk}", token, rate, f"stand-in of layout {layout_key}, seed {seed}", LOADS)
    stop = threading.Event()
    standin = LiveStandIn(machine, seed, 1.0, planted)
    player = Player(threading.Thread(), stop, beside=instruments_of(standin), pace=Pace(rate), job=job_id)
    player.thread = threading.Thread(
        target=play, args=(standin, sender, player.pace, stop, player.tell), daemon=True, name=f"stand-in {bench.pk}"
    )
    _standins[bench.pk] = player
    player.thread.start()
    return bench


def _own_name(job: Job) -> str:
    """Each job has a made-up machine of its own: the common bench, unless that is another job's."""
    common = Bench.objects.filter(name=STANDIN).first()
    if common is None:
        return STANDIN
    live, player = live_run(common.pk), _standins.get(common.pk)
    of = live.job_id if live else player.job if player and player.thread.is_alive() else job.pk
    return STANDIN if of == job.pk else f"{STANDIN} of {job.name}"[:76] + f" {job.pk}"


def standin_job(bench_id: int) -> int | None:
    """Whose made-up machine is alive on a bench."""
    player = _standins.get(bench_id)
    return player.job if player and player.thread.is_alive() else None


def stop_standin(bench_id: int) -> None:
    player = _standins.pop(bench_id, None)
    if player:
        player.stop.set()
        if player.beside:
            player.beside.stop()
        player.thread.join(timeout=8)


class _Inside:
    """Takes an instrument's rows into the bench without a detour; what a sender elsewhere does over HTTP."""

    def __init__(self, bench: Bench, source: str, rate: float) -> None:
        self.bench, self.source, self.rate = bench, source, rate
        self.session, self.seq = uuid.uuid4().hex, 0
        self.waiting: list[Posted] = []

    def add(self, elapsed_s: Sequence[float], channels: Mapping[str, Sequence[float | None]]) -> None:
        self.seq += 1
        self.waiting.append(Posted(self.session, self.seq, elapsed_s, channels, self.rate, self.source))

    def flush(self, patience_s: float = 0.0) -> bool:
        try:
            while self.waiting:
                take_readings(self.bench, self.waiting[0])
                self.waiting.pop(0)
        finally:
            connection.close()  # this thread's own
        return True


def start_instrument(instrument: Instrument) -> None:
    """Reads an instrument from now on, unless it is read already."""
    player = _instruments.get(instrument.pk)
    if player and player.thread.is_alive():
        return
    bench = instrument.bench
    sender = _Inside(bench, f"{instrument.kind} at {instrument.address}", rate_of(bench.pk))
    stop = threading.Event()
    player = Player(threading.Thread(), stop)
    arguments = (instrument.kind, instrument.address, instrument.channels, sender, instrument.every_s, stop, player.tell)
    player.thread = threading.Thread(target=collect, args=arguments, daemon=True, name=f"instrument {instrument.pk}")
    _instruments[instrument.pk] = player
    player.thread.start()


def start_all() -> None:
    """Reads every instrument again, after a start of the server, and ends the runs that were to end when it was stopped."""
    try:
        close_all_ending()
        for instrument in Instrument.objects.select_related("bench"):
            start_instrument(instrument)
    finally:
        connection.close()


def stop_instrument(instrument_id: int) -> None:
    player = _instruments.pop(instrument_id, None)
    if player:
        player.stop.set()
        player.thread.join(timeout=8)


def add_instrument(bench_id: int, kind: str, address: str, channels: Mapping[str, str], every_s: float) -> Instrument:
    """An instrument the server reads from now on. Raises InstrumentError when it cannot be reached, and keeps nothing then."""
    bench = get_object_or_404(Bench, pk=bench_id)
    open_source(kind, address, channels).close()
    made = Instrument.objects.create(bench=bench, kind=kind, address=address, channels=dict(channels), every_s=every_s)
    start_instrument(made)
    return made


def remove_instrument(instrument_id: int) -> None:
    instrument = get_object_or_404(Instrument, pk=instrument_id)
    stop_instrument(instrument.pk)
    instrument.delete()


def instrument_words(instrument_id: int) -> str:
    """What an instrument last complained of; empty while it is read."""
    player = _instruments.get(instrument_id)
    return player.words if player else "not read at the moment"


def pace_standin(bench_id: int, rate: float, paused: bool) -> None:
    """Another time for the stand-in of a bench, or none. Raises ImpossibleInputError where none is alive."""
    player = _standins.get(bench_id)
    if player is None or not player.thread.is_alive():
        raise ImpossibleInputError("no made-up machine is alive on this bench", "bench", "Start one first.")
    player.pace.rate, player.pace.paused = rate, paused


def standin_paused(bench_id: int) -> bool:
    player = _standins.get(bench_id)
    return bool(player and player.pace.paused)


def beside(bench_id: int) -> Beside | None:
    """The instruments that stand beside the made-up machine of a bench."""
    player = _standins.get(bench_id)
    return player.beside if player and player.thread.is_alive() else None


def standin_runs(bench_id: int) -> bool:
    player = _standins.get(bench_id)
    return bool(player and player.thread.is_alive())
