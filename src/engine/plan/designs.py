"""Which layouts a set of changes asks for, and what a two-level design's results say of each change."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from engine.errors import ImpossibleInputError

MOST_LAYOUTS = 64  # more than anybody builds


def grid(levels: Sequence[int]) -> list[tuple[int, ...]]:
    """Every combination of levels, the first factor changing fastest, all at their first level first.

    Raises ImpossibleInputError for no factor, a factor without a choice, or more than MOST_LAYOUTS combinations.
    """
    if not levels or any(n < 2 for n in levels):
        raise ImpossibleInputError("a design needs factors with at least two levels", "factors", "Name at least one change.")
    if int(np.prod(levels)) > MOST_LAYOUTS:
        do = f"Leave some out: at most {MOST_LAYOUTS} layouts are planned at once."
        raise ImpossibleInputError(f"these factors make {int(np.prod(levels))} layouts", "factors", do)
    return [tuple(reversed(c)) for c in product(*(range(n) for n in reversed(levels)))]


def one_at_a_time(factors: int) -> list[tuple[int, ...]]:
    """None, then each change alone."""
    if factors < 1:
        raise ImpossibleInputError("there is nothing to change", "factors", "Name at least one change.")
    return [(0,) * factors] + [tuple(int(i == j) for j in range(factors)) for i in range(factors)]


def ladder(factors: int) -> list[tuple[int, ...]]:
    """None, the first, the first two, ..., all: also how a bundle of changes is split."""
    if factors < 1:
        raise ImpossibleInputError("there is nothing to change", "factors", "Name at least one change.")
    return [tuple(int(j < i) for j in range(factors)) for i in range(factors + 1)]


@dataclass(frozen=True)
class Effect:
    """Of one change (one index), or of several acting together (their interaction)."""

    factors: tuple[int, ...]
    size: float
    standard_error: float | None


def effects(results: Sequence[float], factors: int, standard_error: float | None = None) -> list[Effect]:
    """Main effects and interactions of a full two-level design in ``grid`` order.

    Effect = (mean at high) - (mean at low) of the product of the factors' signs (Box, Hunter, Hunter: Statistics for
    Experimenters, ch. 5). ``standard_error`` is that of one result; an effect's is 2 s / sqrt(2^k).
    Raises ImpossibleInputError when the number of results is not 2^factors.
    """
    runs: NDArray[np.float64] = np.asarray(results, float)
    if len(runs) != 2**factors:
        raise ImpossibleInputError(f"{len(runs)} results for {factors} changes", "results", f"Give all {2**factors}.")
    signs = 2.0 * np.array(grid([2] * factors)) - 1.0
    error = None if standard_error is None else 2 * standard_error / float(np.sqrt(len(runs)))
    found = []
    for order in range(1, factors + 1):
        for chosen in combinations(range(factors), order):
            contrast = np.prod(signs[:, chosen], axis=1)
            found.append(Effect(chosen, float(2 * (contrast @ runs) / len(runs)), error))
    return found
