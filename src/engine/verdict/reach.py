"""How small a gap runs can tell: by their number, the layouts that are compared, and how far builds scatter."""

from dataclasses import dataclass
from math import sqrt

from engine.runs.budget import t_quantile
from engine.verdict.multiple import level, range_quantile
from engine.verdict.scatter import Scatter

POWER = 0.8  # chance of showing a gap that is as large as it looks


@dataclass(frozen=True)
class Reach:
    """``runs`` of each layout in all tell a gap of ``gap_k`` in four of five campaigns; a smaller one mostly not."""

    runs: int
    gap_k: float


def smallest_told(runs: int, layouts: int, scatter: Scatter) -> float:
    """In the scatter's unit. Needed: the studentized range of that look and Student's t of the power, times the standard uncertainty."""
    freedom = freedom_of(runs, layouts, scatter)
    wanted = range_quantile(level(runs), max(layouts, 2), freedom) / sqrt(2) + t_quantile(POWER, freedom)
    return wanted * sqrt(2 / runs) * scatter.sigma


def freedom_of(runs: int, layouts: int, scatter: Scatter) -> float:
    """Degrees that the repeats of such a campaign give, or those that are known already."""
    return float(max(layouts * (runs - 1), scatter.freedom, 1.0))


def reaches(layouts: int, scatter: Scatter, most: int = 4) -> list[Reach]:
    return [Reach(n, smallest_told(n, layouts, scatter)) for n in range(1, most + 1)]
