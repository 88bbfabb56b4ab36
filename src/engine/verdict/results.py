"""How far layouts' results lie short of the best: scores and frames, of which more is better, and times, of which less is."""

from collections.abc import Mapping, Sequence
from math import hypot

from engine.runs.budget import Budget
from engine.verdict.compare import HIGHER_IS_BETTER
from engine.verdict.scatter import RESULTS


def short_of_best(budgets: Mapping[str, Mapping[str, Budget]], layouts: Sequence[str]) -> dict[str, tuple[float, float]]:
    """In % with the standard uncertainty: the mean over scores, frames and times (``budgets`` by channel and layout) that all ``layouts``
    were run for. Empty where there is none, or one layout alone."""
    shorts: dict[str, list[tuple[float, float]]] = {}
    for channel in RESULTS:
        found = {x: b for x in layouts if (b := budgets.get(channel, {}).get(x)) and b.value > 0}
        if len(found) < max(len(layouts), 2):
            continue
        higher = channel in HIGHER_IS_BETTER
        best = (max if higher else min)(b.value for b in found.values())
        for x, b in found.items():
            short = 1 - b.value / best if higher else b.value / best - 1
            shorts.setdefault(x, []).append((100 * short, 100 * b.drawn / best))
    return {x: (sum(v for v, _ in of) / len(of), hypot(*(u for _, u in of)) / len(of)) for x, of in shorts.items()}
