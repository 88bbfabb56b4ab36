"""A logged run as arrays: elapsed seconds and channels named by what and unit."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.errors import ImpossibleInputError

Floats = NDArray[np.float64]
ROOM_CHANNEL = "room_c"
LEAST_READ = 60  # readings of the room that tell the step of its probe: fewer were taken by hand
LOADED_RISE_K = 5.0  # a temperature that rises by less was not loaded, unless its part was warm already
PARTS = ("cpu_", "card_", "coolant")


@dataclass(frozen=True, eq=False)
class RunLog:
    """``elapsed_s`` rises strictly; every channel has one value per time, NaN where there was no reading.

    Raises ImpossibleInputError for unequal lengths or times that do not rise.
    """

    elapsed_s: Floats
    channels: dict[str, Floats]
    room_typed: bool = False  # one figure that a person typed, and no probe

    def __post_init__(self) -> None:
        if len(self.elapsed_s) < 2 or not np.all(np.diff(self.elapsed_s) > 0):
            raise ImpossibleInputError("the times of the log do not rise", "elapsed_s", "Sort the rows by time, each time once.")
        for name, values in self.channels.items():
            if len(values) != len(self.elapsed_s):
                raise ImpossibleInputError("the channel has another length than the times", name, "Fill missing cells with NaN.")

    @property
    def duration_s(self) -> float:
        return float(self.elapsed_s[-1] - self.elapsed_s[0])

    @cached_property
    def room_c(self) -> Floats | None:
        """Room temperature at every time, gaps bridged; None when it was never read."""
        values = self.channels.get(ROOM_CHANNEL)
        if values is None or not np.isfinite(values).any():
            return None
        good = np.isfinite(values)
        return np.interp(self.elapsed_s, self.elapsed_s[good], values[good])

    @cached_property
    def room_step_k(self) -> float:
        """Of the room's probe; one that stands at a whole degree throughout is taken to read in whole ones. 0 where nothing tells."""
        values = self.channels.get(ROOM_CHANNEL)
        if values is None or self.room_typed:
            return 0.0
        read = values[np.isfinite(values)]
        if len(read) < LEAST_READ:
            return 0.0
        return resolution(read) or (1.0 if float(read[0]).is_integer() else 0.0)

    def shifted(self, by_s: float) -> "RunLog":
        """The same readings later by ``by_s``."""
        return replace(self, elapsed_s=self.elapsed_s + by_s)

    def since(self, row: int) -> "RunLog":
        """The readings from a row on, which becomes the start."""
        return replace(self, elapsed_s=self.elapsed_s[row:] - self.elapsed_s[row], channels={n: v[row:] for n, v in self.channels.items()})

    def with_room(self, room_c: float) -> "RunLog":
        """The same run with one typed room temperature throughout."""
        return RunLog(self.elapsed_s, {**self.channels, ROOM_CHANNEL: np.full(len(self.elapsed_s), room_c)}, room_typed=True)

    def without(self, stretches: Sequence[tuple[float, float]]) -> "RunLog":
        """The same run with every reading but the room's emptied within the stretches."""
        out = np.zeros(len(self.elapsed_s), bool)
        for start, end in stretches:
            out |= (self.elapsed_s >= start) & (self.elapsed_s <= end)
        if not out.any():
            return self
        return replace(self, channels={n: v if n == ROOM_CHANNEL else np.where(out, np.nan, v) for n, v in self.channels.items()})

    @cached_property
    def temperatures(self) -> list[str]:
        """Temperature channels other than the room."""
        return [name for name in self.channels if name.endswith("_c") and name != ROOM_CHANNEL]

    @cached_property
    def loaded(self) -> list[str]:
        """Temperature channels that a load moved by more than a few kelvin, or whose part is warmer than the room by as much
        throughout: a run that began warm is judged like any other."""
        found = []
        for name in self.temperatures:
            values = self.channels[name][np.isfinite(self.channels[name])]
            tenth = max(len(values) // 20, 1)
            if len(values) <= 20:
                continue
            last = float(np.median(values[-tenth:]))
            moved = last - float(np.median(values[:tenth][: max(tenth // 4, 1)]))
            warm = self.room_c is not None and name.startswith(PARTS) and last - float(self.room_c[-1]) > LOADED_RISE_K
            if moved > LOADED_RISE_K or warm:
                found.append(name)
        return found


def resolution(values: Floats) -> float:
    """Smallest step between readings: 1 for a whole-degree sensor; 0 when there is nothing to tell from."""
    steps = np.diff(np.unique(values[np.isfinite(values)]))
    return float(np.round(steps[steps > 1e-9].min(), 6)) if (steps > 1e-9).any() else 0.0


def medians(values: Floats, rows: int) -> Floats:
    """Of stretches of ``rows`` readings; NaN where nothing was read."""
    pieces = values[: len(values) // rows * rows].reshape(-1, rows)
    there = np.isfinite(pieces)
    whole, some = there.all(axis=1), there.any(axis=1)
    some &= ~whole
    out = np.full(len(pieces), np.nan)
    if whole.any():
        out[whole] = np.median(pieces[whole], axis=1)
    if some.any():
        out[some] = np.nanmedian(pieces[some], axis=1)  # much slower: only where readings are missing
    return out


def off_neighbours(values: Floats, each_side: int = 4) -> Floats:
    """How far every reading lies from the median of those about it: nothing of a course, all of a spike."""
    from scipy.ndimage import median_filter

    return np.asarray(values - median_filter(values, size=2 * each_side + 1, mode="nearest"), float)


def scatter_of(away: Floats) -> float:
    """One sigma of a normal distribution with the same median distance from nothing."""
    return 1.4826 * float(np.median(np.abs(away)))
