"""A level over time: its mean by energy, how long it is above another, and the changes that are heard."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

AUDIBLE_DB = 3.0  # common practice, no source: a change that nearly everyone hears; in a laboratory one decibel is


@dataclass(frozen=True)
class OverTime:
    """``mean_dba`` by energy; ``over_s`` above the level asked for; ``changes``: swings of AUDIBLE_DB and more, the largest in dB."""

    mean_dba: float
    highest_dba: float
    over_s: float
    changes: int
    largest_db: float


def over_time(levels_dba: Sequence[float], every_s: float, limit_dba: float | None = None) -> OverTime:
    """Of levels at even steps. Raises ValueError for none."""
    levels = np.asarray(levels_dba, dtype=np.float64)
    if not len(levels):
        raise ValueError("there is no level")
    swings = audible_swings_db(levels_dba)
    over = 0.0 if limit_dba is None else float((levels > limit_dba + 1e-6).sum() * every_s)
    mean = float(10 * np.log10(np.mean(10 ** (levels / 10))))
    return OverTime(mean, float(levels.max()), over, len(swings), max((abs(s) for s in swings), default=0.0))


def audible_swings_db(levels_dba: Sequence[float], least_db: float = AUDIBLE_DB) -> list[float]:
    """Swings from one turning point to the next, in dB, those of ``least_db`` and more: smaller wobbles do not part a swing."""
    turns = [levels_dba[0]]  # turning points; the last is where the swing that goes on stands now
    rising: bool | None = None
    for level in levels_dba[1:]:
        if rising is None:
            low, high = min(turns[0], level), max(turns[0], level)
            if abs(level - turns[0]) >= least_db:
                rising = level > turns[0]
                turns.append(level)
            elif not low <= turns[0] <= high:
                turns[0] = level
        elif (level >= turns[-1]) == rising:
            turns[-1] = level
        elif abs(level - turns[-1]) >= least_db:
            turns.append(level)
            rising = not rising
    return [b - a for a, b in pairwise(turns)]
