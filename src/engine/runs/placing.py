"""Where a sender's readings stand on a bench's clock, also when the sender's own clock jumps.

A sender counts seconds from its start; one offset takes them to the bench's clock. A clock that was set (at 5e8 s, or back to 0) would
put readings where nobody looks, or years ahead of everything else: from such a jump on they are placed by when they came in, and the jump
is told.
"""

from collections.abc import Sequence
from dataclasses import dataclass

REACH_S = 3600.0  # a gap that a machine asleep, or a file sent in one go, may have; common practice, no source
LATE_S = 10.0  # rows this much older than the newest belong to a post that was late
LEAST_STEP_S = 0.001  # numerical: clocks write thousandths


@dataclass(frozen=True)
class Placed:
    """``times_s`` on the bench's clock; ``offset_s`` holds from now on; ``jumps_s``: how far the clock was off at each jump."""

    times_s: list[float]
    offset_s: float
    jumps_s: list[float]


def place(elapsed_s: Sequence[float], offset_s: float, last_s: float | None, now_s: float, passed_s: float) -> Placed:
    """Rows of one post. ``last_s``: the sender's newest reading so far; ``now_s``: the bench's clock; ``passed_s``: since the last post.

    A step ahead by more than an hour beyond the time that passed, or back by more than ten seconds, is a jump.
    """
    times: list[float] = []
    jumps: list[float] = []
    before, reach = last_s, REACH_S + max(passed_s, 0.0)
    for t in elapsed_s:
        at = t + offset_s
        if before is not None and not before - LATE_S <= at <= before + reach:
            here = max(now_s, before + LEAST_STEP_S) if not times else before + max(_step(times), LEAST_STEP_S)
            jumps.append(at - here)
            offset_s = here - t
            at = here
        times.append(round(at, 3))
        before, reach = max(at, before) if before is not None else at, REACH_S
    return Placed(times, offset_s, jumps)


def _step(times: Sequence[float]) -> float:
    return times[-1] - times[-2] if len(times) > 1 else 1.0
