"""Rows that are looked at: which speeds are tried, what is solved, and how far it is."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np

from desk.search.field import Frame, Search
from desk.search.question import LEAST_PCT
from engine.coupled.compare import WATT_WORTH_K
from engine.errors import OventaError
from engine.search.space import States, kind_of, layouts

# Common speeds that are tried, as many as there is time for; under a limit of sound as shares of the highest that keeps it. No source.
SPEEDS = ((1.0, 0.85, 0.7, 0.55, 0.4), (1.0, 0.75, 0.5), (1.0, 0.6), (1.0,))
UNDER_A_LIMIT = ((1.0, 0.85, 0.7), (1.0, 0.8), (1.0,))
MOST_ROWS = 260_000  # forecasts; beyond that not every layout is looked at
ROWS = 4_000  # solved between two words of progress
FIGURES = 9  # columns: processor K, card K, dBA, price, changes, lost W, settled, coolant K, minutes
COSTS = 5  # the first of them: what one layout may beat another in

Progress = Callable[[int, int, "Rows"], None]


@dataclass
class Rows:
    """Rows solved so far: frame, states, speed and figures of each."""

    frame: list[np.ndarray] = field(default_factory=list)
    states: list[States] = field(default_factory=list)
    speed: list[np.ndarray] = field(default_factory=list)
    figures: list[np.ndarray] = field(default_factory=list)

    def add(self, frame: int, states: States, speed: np.ndarray, figures: np.ndarray) -> None:
        self.frame.append(np.full(len(states), frame, np.int16))
        self.states.append(states)
        self.speed.append(speed)
        self.figures.append(figures)

    def early(self, most: int) -> dict[str, list[int]]:
        """Some of what is there, as dots of the map: tenths of kelvins and decibels."""
        if not self.figures:
            return {"cpu_dk": [], "card_dk": [], "level_ddb": []}
        share = max(1, most // len(self.figures))
        some = np.concatenate([x[:: max(1, len(x) // share)] for x in self.figures])
        names = ("cpu_dk", "card_dk", "level_ddb")
        return {name: np.round(10 * some[:, i]).astype(int).tolist() for i, name in enumerate(names)}

    def whole(self) -> "Whole":
        def joined(parts: list[np.ndarray], width: int | None = None) -> np.ndarray:
            return np.concatenate(parts) if parts else np.zeros((0,) if width is None else (0, width))

        return Whole(joined(self.frame), joined(self.states, 0), joined(self.speed), joined(self.figures, FIGURES))


@dataclass(frozen=True)
class Whole:
    frame: np.ndarray
    states: States
    speed: np.ndarray
    figures: np.ndarray

    def __len__(self) -> int:
        return len(self.frame)


class CancelledError(OventaError):
    """The person stopped it."""

    code = "cancelled"


def every_row(made: Search, speeds: Sequence[float]) -> Iterator[tuple[int, States, np.ndarray]]:
    """(frame, states, common speeds) of every layout at every speed that is tried."""
    for i, frame in enumerate(made.frames):
        for states in layouts(frame.space):
            for part in range(0, len(states), ROWS):
                own = states[part : part + ROWS]
                for speed in speeds_of(made, frame, own, speeds):
                    yield i, own, speed


def speeds_of(made: Search, frame: Frame, states: States, shares: Sequence[float]) -> Iterator[np.ndarray]:
    """Common speeds to be tried, in whole per cent: under a limit of sound the highest that keeps it, then lower ones.

    With nothing that turns, one is enough; a layout that cannot keep the limit is solved at its slowest, to be shown as ruled out.
    """
    limit = made.question.max_dba
    if limit is None:
        top = np.ones(len(states))
    else:
        top = frame.field.speed_for(states, limit, frame.inner_sound, LEAST_PCT / 100)
        top[top == 0] = LEAST_PCT / 100
    for share in shares:
        yield clear_of(made, states, np.maximum(np.floor(100 * top * share + 1e-9), LEAST_PCT) / 100)


def clear_of(made: Search, states: States, speed: np.ndarray) -> np.ndarray:
    """Speeds moved down, a whole per cent at least, past those at which a fan of the row is known to sing or swell.

    Where that leads below the least speed, it is the least speed.
    """
    bands = made.pile.bands
    kinds = kind_of(states) if bands else states
    for _ in bands:
        before = speed
        for t, low, high in bands:
            within = (kinds == t).any(axis=1) & (speed >= low - 1e-9) & (speed <= high + 1e-9)
            speed = np.where(within, (np.ceil(100 * low - 1e-9) - 1) / 100, speed)
        if np.array_equal(before, speed):
            break
    return np.maximum(speed, LEAST_PCT / 100) if bands else speed


def figures_of(made: Search, frame: int, states: States, speed: np.ndarray) -> np.ndarray:
    """Figures of rows of one frame at their common speeds, (rows, FIGURES)."""
    own = made.frames[frame]
    found = own.field.solve(states, speed, made.parameters)
    rises, lost_w = made.rises_k(own, found)
    lost = lost_w.sum(axis=1)
    things, minutes = made.work(states, own)
    return np.column_stack(
        [
            rises[:, 0] + WATT_WORTH_K * lost,
            rises[:, 1] + WATT_WORTH_K * lost,
            found.level_dba,
            made.pile.cost(states),
            things,
            lost,
            found.settled,
            found.coolant_k,
            minutes,
        ]
    )


class Solver(Protocol):
    """Takes batches (frame, states, common speeds) and puts them into rows, in their order."""

    def give(self, frame: int, states: States, speed: np.ndarray) -> None: ...

    def wait(self) -> None: ...


@dataclass
class Looks:
    """Layouts that somebody asks to be looked at, at every speed, into ``rows``."""

    made: Search
    rows: Rows
    speeds: Sequence[float]
    progress: Progress | None
    solver: Solver
    slower: Sequence[float] = ()  # of what is worth it in the end

    def at(self, frame: int, states: States, most: int, slower: bool = False) -> None:
        for speed in speeds_of(self.made, self.made.frames[frame], states, self.slower if slower else self.speeds):
            for part in range(0, len(states), ROWS):
                self.solver.give(frame, states[part : part + ROWS], speed[part : part + ROWS])
        self.solver.wait()
        if self.progress:
            self.progress(min(sum(len(x) for x in self.rows.frame), most), most, self.rows)
