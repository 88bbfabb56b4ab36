"""What the studies share: counts added up over the processes that made them, shares held against what is wanted, where pages go."""

import os
import sys
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from multiprocessing import Pool
from pathlib import Path
from typing import Any, Self, TypeVar

ROOT = Path(__file__).resolve().parents[2]
TOLD = os.environ.get("OVENTA_EVIDENCE")  # the folder for pages of who asked for the study; it is told how far it is, too
PARENT = os.getppid()


def kept(name: str, text: str) -> None:
    """A study's page, among the documents where nobody asked for it elsewhere."""
    (Path(TOLD or ROOT / "docs") / name).write_text(text, encoding="utf-8")


def said(done: int, of: int) -> None:
    """How far it is, to who asked; it ends with them."""
    if TOLD:
        if os.getppid() != PARENT:
            sys.exit(1)
        print(f"{done} of {of}", file=sys.stderr, flush=True)


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
    said(0, len(jobs))
    with Pool() as pool:
        for done, ((kind, _, _), tally) in enumerate(zip(jobs, pool.imap(row, jobs), strict=True), start=1):
            totals[kind].add(tally)
            said(done, len(jobs))
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
