"""``./oventa study --settle N``: the settle call over thousands of seeds; writes docs/evidence-settle.md.

Kinds of runs of known end, made here and not by the stand-in: one to three stages, loops, fans that hunt, machines that were
warm already or came from above, whole degrees with and without flicker, slow and spiking sensors.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from engine.runs.over_room import Steps, over_room, room_steps
from engine.runs.rounding import rounding_of
from engine.runs.series import RunLog
from engine.runs.settle import MOST_REMAINING_K, approach
from study.tally import Adding, Cells, kept, over_seeds

Floats = NDArray[np.float64]
NEAR_K = 0.2  # what is left where a call is wanted
WANTED_WRONG, WANTED_CALLED, WANTED_MINUTES, WANTED_RANGE, WANTED_HEARD = 0.01, 0.75, 0.80, 0.80, 0.80
WANTED_BAND = (0.93, 0.99)
FACTOR = 1.5
CUT_K, EARLY_K = (0.02, 4.0), (1.0, 10.0)
LEAST_TURNS = 5  # of a swing in a run that should hear it
SHORTEST_S, LONGEST_S = 420.0, 7200.0


@dataclass(frozen=True)
class Kind:
    """How a machine warms (shares of the rise and their time constants, drawn per seed) and how it is read."""

    words: str
    stages: Callable[[np.random.Generator], list[tuple[float, float]]]
    step: float = 0.1
    noise: float = 0.3
    hunts_s: tuple[float, float] | None = None
    rise: tuple[float, float] = (30.0, 55.0)
    every_s: float = 1.0
    hang_together_s: float = 0.0  # of the noise
    spikes: float = 0.0
    flat: bool = False
    room_step: float = 0.0  # of the room's probe, in a room that goes up and down; 0: the room stands still


def one(low: float, high: float) -> Callable[[np.random.Generator], list[tuple[float, float]]]:
    return lambda rng: [(0.4, 4.0), (0.6, rng.uniform(low, high))]


def two(rng: np.random.Generator) -> list[tuple[float, float]]:
    fast = rng.uniform(0.3, 0.6)
    return [(0.3, 3.0), (0.7 * fast, rng.uniform(30, 90)), (0.7 * (1 - fast), rng.uniform(250, 650))]


def in_series(rng: np.random.Generator) -> list[tuple[float, float]]:
    """Two masses one behind the other: the second starts with no slope at all."""
    first, second = rng.uniform(40, 90), rng.uniform(250, 500)
    return [(second / (second - first), second), (-first / (second - first), first)]


def loop(rng: np.random.Generator) -> list[tuple[float, float]]:
    return [(0.35, 5.0), (0.15, rng.uniform(40, 80)), (0.5, rng.uniform(500, 900))]


def third(rng: np.random.Generator) -> list[tuple[float, float]]:
    """A structure that takes 4 to 15 % of the rise and twenty minutes."""
    slow = rng.uniform(0.04, 0.15)
    return [(0.3, 4.0), (0.35, rng.uniform(40, 100)), (0.35 - slow, rng.uniform(200, 400)), (slow, rng.uniform(800, 1200))]


KINDS = (
    Kind("one stage", one(200, 600), 0.0),
    Kind("one stage, tenths", one(200, 600)),
    Kind("one stage, whole degrees, calm", one(200, 600), 1.0, 0.1),
    Kind("one stage, whole degrees that flicker", one(200, 600), 1.0, 0.8),
    Kind("two stages, tenths", two),
    Kind("two stages, whole degrees that flicker", two, 1.0, 0.8),
    Kind("two stages, whole degrees, calm", two, 1.0, 0.15),
    Kind("two stages, whole degrees, light noise", two, 1.0, 0.25),
    Kind("two stages, whole degrees, calm, room in tenths", two, 1.0, 0.1, room_step=0.1),
    Kind("two stages, whole degrees, calm, room in whole degrees", two, 1.0, 0.1, room_step=1.0),
    Kind("two stages, flicker of two degrees", two, 1.0, 2.0),
    Kind("two masses in series", in_series),
    Kind("a loop", loop),
    Kind("a loop, whole degrees that flicker", loop, 1.0, 0.8),
    Kind("a loop, whole degrees, calm", loop, 1.0, 0.1),
    Kind("a slow third stage", third),
    Kind("a slow third stage, whole degrees, calm", third, 1.0, 0.1),
    Kind("a slow third stage, whole degrees, light noise", third, 1.0, 0.25),
    Kind("a slow third stage, whole degrees, calm, room in tenths", third, 1.0, 0.15, room_step=0.1),
    Kind("a slow third stage, whole degrees that flicker", third, 1.0, 0.8),
    Kind("a slow third stage, flicker of two degrees", third, 0.1, 2.0),
    Kind("fans hunt, 60 to 150 s", two, 0.1, 0.3, (60, 150)),
    Kind("fans hunt, 150 to 400 s", two, 0.1, 0.3, (150, 400)),
    Kind("fans hunt, whole degrees", two, 1.0, 0.6, (60, 400)),
    Kind("fans hunt over a slow third stage", third, 0.1, 0.4, (60, 400)),
    Kind("flat: warm before it began", one(200, 600), 0.1, 0.3, flat=True),
    Kind("flat, whole degrees that flicker", one(200, 600), 1.0, 0.6, flat=True),
    Kind("begins over its end", two, rise=(-15.0, -3.0)),
    Kind("begins half warm", two, rise=(8.0, 20.0)),
    Kind("noise that hangs together for 20 s", two, 0.1, 0.4, hang_together_s=20.0),
    Kind("a reading each ten seconds", two, 0.1, 0.3, every_s=10.0),
    Kind("spikes in 1 % of readings", two, 0.1, 0.3, spikes=0.01),
)


@dataclass(frozen=True)
class Run:
    """What was read over the room and in which steps, the end it goes to, what is left of it, and the minutes until half a kelvin is."""

    t: Floats
    read: Floats
    steps: Steps
    end: float
    left_k: float
    minutes_left: float
    hunts_s: float | None


def run_of(kind: Kind, seed: int, cut_k: tuple[float, float] = CUT_K) -> Run:
    """A run cut where 0.02 to 4 K are left, or as ``cut_k`` says, or of 10 to 60 minutes where it is flat."""
    rng = np.random.default_rng(seed)
    stages, rise, end = kind.stages(rng), float(rng.uniform(*kind.rise)), float(rng.uniform(45, 60))

    def left(at: Floats) -> Floats:
        return np.asarray(rise * np.sum([share * np.exp(-at / tau) for share, tau in stages], axis=0), float)

    whole: Floats = np.arange(0.0, LONGEST_S + 1, kind.every_s)
    wanted = float(np.exp(rng.uniform(*np.log(cut_k))))
    over = np.flatnonzero(np.abs(left(whole)) > wanted)
    stop = float(whole[over[-1]]) if len(over) else 0.0
    if kind.flat:
        rise, stop = 0.0, float(rng.uniform(600, 3600))
    t = whole[whole <= min(max(stop, SHORTEST_S), LONGEST_S)]
    truth = end - left(t)
    hunts = None
    if kind.hunts_s:
        hunts = float(rng.uniform(*kind.hunts_s))
        truth = truth + hunting(t, hunts, rng) * np.clip(2 * (1 - np.abs(left(t)) / abs(rise)) - 1, 0, 1)
    noise = rng.normal(0, 1, len(t))
    if kind.hang_together_s:
        keep = np.exp(-kind.every_s / kind.hang_together_s)
        for i in range(1, len(noise)):
            noise[i] = keep * noise[i - 1] + np.sqrt(1 - keep**2) * noise[i]
    room = going_up_and_down(t, rng) if kind.room_step else np.zeros(len(t))
    read = truth + room + kind.noise * noise
    read = np.where(rng.random(len(t)) < kind.spikes, read + rng.uniform(5, 12), read)
    read = np.round(read / kind.step) * kind.step if kind.step else read
    log = RunLog(t, {"cpu_package_c": read})
    if kind.room_step:
        log = RunLog(t, {**log.channels, "room_c": np.round((room + rng.normal(0, 0.05, len(t))) / kind.room_step) * kind.room_step})
    late = np.flatnonzero(np.abs(left(whole)) > MOST_REMAINING_K)
    more = max((float(whole[late[-1]]) - float(t[-1])) / 60, 0.0) if len(late) else 0.0
    return Run(t, over_room(log, "cpu_package_c"), Steps(rounding_of(read), room_steps(log)), end, abs(float(left(t[-1:])[0])), more, hunts)


def going_up_and_down(t: Floats, rng: np.random.Generator) -> Floats:
    """A room from a draught or a heater: half a kelvin to two from top to bottom in 15 to 60 minutes, and a drift."""
    size, period, at = float(rng.uniform(0.25, 1.0)), float(rng.uniform(900, 3600)), float(rng.uniform(0, 2 * np.pi))
    return np.asarray(size * np.sin(2 * np.pi * t / period + at) + rng.uniform(-1, 1) * t / 3600 + rng.uniform(0, 1), float)


def hunting(t: Floats, period_s: float, rng: np.random.Generator) -> Floats:
    """A swing of 0.5 to 2 K either way: a sine, or the saw of a fan that steps, with a period that wanders a little."""
    size, at = float(rng.uniform(0.5, 2.0)), float(rng.uniform(0, 1))
    turns = t / period_s + at + 0.02 * np.cumsum(rng.normal(0, 1, len(t))) * np.sqrt((t[1] - t[0]) / period_s)
    if rng.random() < 0.5:
        return np.asarray(size * np.sin(2 * np.pi * turns), float)
    return np.asarray(size * (4 * np.abs((turns % 1.0) - 0.5) - 1), float)


@dataclass
class Tally(Adding):
    runs: int = 0
    wrong: int = 0
    inside: int = 0
    near: int = 0
    called: int = 0
    timed: int = 0
    in_time: int = 0
    in_range: int = 0
    numbered: int = 0
    numbered_well: int = 0
    hunting: int = 0
    heard: int = 0
    bands: list[float] = field(default_factory=list)


def tallied(kind: Kind, first: int, count: int) -> Tally:
    total = Tally()
    for seed in range(first, first + count):
        run = run_of(kind, seed)
        fit = approach(run.t, run.read, steps=run.steps)
        total.runs += 1
        if fit is None:
            continue
        total.wrong += fit.settled and run.left_k > MOST_REMAINING_K
        total.inside += abs(fit.final - run.end) <= fit.final_band
        total.bands.append(fit.final_band)
        total.near += run.left_k <= NEAR_K
        total.called += run.left_k <= NEAR_K and fit.settled
        early = None if kind.flat else run_of(kind, seed, EARLY_K)
        ahead = approach(early.t, early.read, steps=early.steps) if early else None
        if early and ahead and early.minutes_left >= 1.0:
            total.timed += 1
            good = 1 / FACTOR <= ahead.minutes_left / early.minutes_left <= FACTOR
            total.in_time += good
            total.in_range += ahead.wait.least_s <= 60 * early.minutes_left <= ahead.wait.most_s
            total.numbered += ahead.one_number
            total.numbered_well += ahead.one_number and good
        heard_of = run.hunts_s is not None and run.hunts_s * LEAST_TURNS <= run.t[-1]
        total.hunting += heard_of
        if heard_of and run.hunts_s and fit.hunting is not None:
            total.heard += abs(fit.hunting.period_s / run.hunts_s - 1) < 0.15
        elif run.hunts_s is None and fit.hunting is not None:
            total.heard += 1  # heard where there is none
    return total


def _row(given: tuple[str, int, int]) -> Tally:
    name, first, count = given
    return tallied(next(k for k in KINDS if k.words == name), first, count)


def main(seeds: int, first: int = 1) -> int:
    started = time.perf_counter()
    totals = over_seeds(_row, [k.words for k in KINDS], Tally, seeds, first)
    cells = Cells()
    whole = Tally()
    for t in totals.values():
        whole.add(t)
    rows = [f"| {name} | {' | '.join(_cells(cells, t))} |" for name, t in totals.items()]
    rows.append(f"| all | {' | '.join([*_cells(Cells(), whole)[:-1], '-'])} |")
    text = "\n".join(
        [
            "# Evidence: the settle call",
            "",
            f"Made by `./oventa study --settle {seeds} --seed {first}` on {datetime.now(UTC):%Y-%m-%d} in",
            f"{time.perf_counter() - started:.0f} s: {len(KINDS)} kinds of runs of known end, {seeds} of each, by a generator of its own",
            "and cut where 0.02 to 4 K were left.",
            f"Wrong: settled is said with more than {MOST_REMAINING_K} K left (at most {100 * WANTED_WRONG:.0f} % wanted). The band on the",
            f"end should hold 93 to 99 % of the ends; of runs with at most {NEAR_K} K left 75 % should be called.",
            "",
            "How long until half a kelvin is left is asked of the same runs cut where 1 to 10 K are left. Said is a range, or one number",
            f"where the range is within {FACTOR} times of its middle and the wait no longer than what was seen. The range should",
            f"hold in 80 %, and one number be right within {FACTOR} times in 80 %: of the runs that are given one, and, were each given",
            "its likeliest wait, of all (*any number*).",
            "**Bold** where it is not met.",
            "",
            f"| {' | '.join(HEAD)} |",
            "|" + "---|" * len(HEAD),
            *rows,
        ]
    )
    kept("evidence-settle.md", text + "\n")
    print(text)
    return 1 if cells.missed else 0


HEAD = (
    "kind",
    "wrong",
    "end in its band",
    "half-width of the band, K (median)",
    "called when near",
    "wait within its range",
    "one number said",
    "and right",
    "any number",
    "hunting heard",
)


def _cells(cells: Cells, t: Tally) -> list[str]:
    return [
        cells.share(t.wrong, t.runs, None, WANTED_WRONG),
        cells.share(t.inside, t.runs, *WANTED_BAND),
        f"{np.median(t.bands):.2f}",
        cells.share(t.called, t.near, WANTED_CALLED),
        cells.share(t.in_range, t.timed, WANTED_RANGE),
        cells.share(t.numbered, t.timed),
        cells.share(t.numbered_well, t.numbered, WANTED_MINUTES),
        cells.share(t.in_time, t.timed, WANTED_MINUTES),
        cells.share(t.heard, t.hunting, WANTED_HEARD) if t.hunting else f"{t.heard} of {t.runs} where none is",
    ]
