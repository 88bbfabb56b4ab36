"""The stand-in bench as a live machine: rests, is loaded when the bench says so, cools down again, at 1x to 120x.

Readings come from ``standin.simulate`` over a fixed stretch of hours; when the load changes, the stretch is reckoned again with the
whole history of the load, so that what has been read stays true and the same seed gives the same day.
"""

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from engine.coupled.transient import Profile
from engine.machine import Machine
from engine.runs.series import RunLog
from instruments.meter import MeterStandIn
from instruments.scpi import logger, serve
from instruments.sender import BenchRefusedError, Sender
from instruments.standin import Fault, simulate

HOURS = 4.0
ROWS_A_POST, QUICKEST_S = 12.0, 0.2
SLOWEST, FASTEST = 1.0, 240.0
SHARES = {"idle": (0.0, 0.0), "cpu": (1.0, 0.0), "card": (0.0, 1.0), "both": (1.0, 1.0), "game": (0.55, 1.0), "job": (1.0, 0.3)}
GIVE_UP_S = 120.0
QUIET_DBA = 28.0
PROBES = {"101": "air_rear_c", "102": "room_c", "103": "vrm_c", "104": "board_sensor_c", "105": "coolant_c"}
PROBE_OFFSET_K = {"101": 0.4, "102": 0.1, "103": -0.6, "104": 0.3, "105": 0.2}  # thermocouples as they come

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Schedule(Profile):
    """Shares of the load from each moment on: (s, processor, card)."""

    steps: tuple[tuple[float, float, float], ...] = ((0.0, 0.0, 0.0),)

    def shares(self, seconds: Floats) -> Floats:
        starts = np.array([s[0] for s in self.steps])
        at = np.searchsorted(starts, seconds, side="right") - 1
        loads: Floats = np.array([[s[1], s[2]] for s in self.steps])
        return np.asarray(loads[at.clip(0)], float)


@dataclass
class LiveStandIn:
    """``advance`` gives the rows of the next seconds. ``faults`` count from the moment the load comes on."""

    machine: Machine
    seed: int = 1
    every_s: float = 1.0
    faults: Sequence[Fault] = ()
    steps: tuple[tuple[float, float, float], ...] = ((0.0, 0.0, 0.0),)
    now_s: float = 0.0
    _log: RunLog | None = None
    _planted: list[Fault] = field(default_factory=list)

    @property
    def over(self) -> bool:
        return self.now_s >= HOURS * 3600 - self.every_s

    def set_load(self, load: str) -> None:
        """From now on; nothing happens when it is the load already."""
        cpu, card = SHARES.get(load, (0.0, 0.0))
        if (cpu, card) == self.steps[-1][1:]:
            return
        if cpu or card:
            self._planted = [replace(f, minutes=f.minutes + self.now_s / 60) for f in self.faults]
        self.steps = (*(s for s in self.steps if s[0] < self.now_s), (self.now_s, cpu, card))
        self._log = None

    def present(self, channel: str) -> float | None:
        """What a channel reads now; None before the first reading or where there is no such channel."""
        if self._log is None or channel not in self._log.channels:
            return None
        row = min(int(np.searchsorted(self._log.elapsed_s, self.now_s, side="left")), len(self._log.elapsed_s) - 1)
        value = float(self._log.channels[channel][row])
        return None if value != value else value

    def advance(self, seconds: float) -> tuple[list[float], dict[str, list[float | None]]]:
        """Rows from now to ``seconds`` later."""
        if self._log is None:
            self._log = simulate(self.machine, HOURS * 60, self.seed, self.every_s, self._planted, Schedule(steps=self.steps))
        first, last = np.searchsorted(self._log.elapsed_s, [self.now_s, self.now_s + seconds], side="left")
        self.now_s += seconds
        rows = slice(int(first), int(last))
        values = {n: [None if v != v else float(v) for v in c[rows]] for n, c in self._log.channels.items()}
        return self._log.elapsed_s[rows].tolist(), values


@dataclass(frozen=True)
class Beside:
    """Instruments that stand beside the made-up machine: a SCPI logger of its probes and a sound meter, at their addresses."""

    logger: str
    meter: str
    stop: Callable[[], None]


def instruments_of(standin: LiveStandIn, logger_port: int = 0, meter_port: int = 0) -> Beside:
    """Starts both on this machine. A probe that hangs nowhere (no coolant) reads as an open thermocouple."""

    def probes() -> list[float | None]:
        values = [standin.present(channel) for channel in PROBES.values()]
        return [None if v is None else v + PROBE_OFFSET_K[n] for n, v in zip(PROBES, values, strict=True)]

    server, address = serve(logger(list(PROBES), probes), logger_port)
    meter = MeterStandIn(lambda: standin.present("sound_dba") or QUIET_DBA, standin.seed)
    at = meter.serve(meter_port)

    def stop() -> None:
        meter.stop.set()
        server.shutdown()
        server.server_close()

    return Beside(address, at, stop)


@dataclass
class Pace:
    """How fast a stand-in lives, in bench seconds per second, and whether it stands still; may be changed while it does."""

    rate: float = 1.0
    paused: bool = False

    @property
    def period_s(self) -> float:
        """Between two posts: a fast clock is told of the load as soon as a slow one."""
        return min(max(ROWS_A_POST / self.rate, QUICKEST_S), 1.0)


def play(
    standin: LiveStandIn,
    sender: Sender,
    pace: Pace,
    stop: threading.Event,
    tell: Callable[[str], None] = lambda _words: None,
) -> None:
    """Posts in real time until told to stop, the day is over, or the bench refuses or stays silent.

    The load follows what the bench answers; a stop takes it off.
    """
    due, silent_since = time.monotonic(), None
    while not stop.is_set() and not standin.over:
        if pace.paused:
            stop.wait(QUICKEST_S)
            due = time.monotonic()
            continue
        rate, period_s = min(max(pace.rate, SLOWEST), FASTEST), pace.period_s
        sender.rate = rate
        elapsed, channels = standin.advance(rate * period_s)
        if elapsed:
            sender.add(elapsed, channels)
        try:
            answered = sender.flush()
        except BenchRefusedError as error:
            tell(str(error))
            return
        if answered and sender.last:
            silent_since = None
            standin.set_load(sender.last.load if sender.last.phase == "load" else "idle")
        else:
            silent_since = silent_since or time.monotonic()
            if time.monotonic() - silent_since > GIVE_UP_S:
                tell("the bench does not answer any more")
                return
        due = max(due + period_s, time.monotonic())
        stop.wait(max(due - time.monotonic(), 0.0))
