"""What the studies share: counts added up over the processes that made them, and shares held against what is wanted."""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from multiprocessing import Pool
from typing import Any, Self, TypeVar


class Adding:
    """A dataclass of counts and lists that can be added to."""

    def add(self, other: Self) -> None:
        for name, value in vars(other).items():
            setattr(self, name, getattr(self, name) + value)


K = TypeVar("K", bound=Hashable)
T = TypeVar("T", bound=Adding)


def over_seeds(row: Callable[[Any], T], kinds: Sequence[K], none: Callable[[], T], seeds: int, first: int) -> dict[K, T]:
    """``row`` of (kind, first seed, count) in pieces on every core, added up by kind."""
    chunk = max(1, seeds // 8)
    jobs = [(kind, first + at, min(chunk, seeds - at)) for kind in kinds for at in range(0, seeds, chunk)]
    totals = {kind: none() for kind in kinds}
    with Pool() as pool:
        for (kind, _, _), tally in zip(jobs, pool.imap(row, jobs), strict=True):
            totals[kind].add(tally)
    return totals


@dataclass
class Cells:
    """Shares as a table shows them, what is wanted in brackets, bold where it is missed; ``missed`` counts those."""

    missed: int = 0

    def share(self, part: int, of: int, low: float | None = None, high: float | None = None) -> str:
        if not of:
            return "-"
        found = part / of
        bad = (low is not None and found < low) or (high is not None and found > high)
        self.missed += bad
        bounds = [f"{100 * x:.0f}" for x in (low, high) if x is not None]
        wanted = " to ".join(bounds) if len(bounds) == 2 else f"at {'least' if low is not None else 'most'} {bounds[0]}" if bounds else ""
        words = f"{100 * found:.1f} %" + (f" ({wanted})" if wanted else "")
        return f"**{words}**" if bad else words
