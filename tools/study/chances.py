"""Are the chances of being the best what they say? Campaigns of known truth: of all layouts that were given a chance near p, how many
are the best in truth. Part of ``./oventa study --campaigns N``."""

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from engine.verdict.candidate import Candidate
from engine.verdict.choose import Option, choose
from engine.verdict.compare import layout_budget
from study.drawn import CHANNEL, run_of
from study.tally import Adding, over_seeds

EDGES = (0.0, 0.02, 0.1, 0.3, 0.5, 0.7, 0.9, 0.98, 1.001)
KINDS = ((1, 0.3), (1, 0.7), (2, 0.3), (2, 0.7), (3, 0.5), (4, 0.5))  # runs of each, scatter of builds in K
SPREADS_K = (0.5, 1.0, 2.0, 4.0)  # how far layouts truly lie apart, one sigma
LAYOUTS = 4


@dataclass
class Told(Adding):
    """By chance: layouts that were given one, how many of them were the best, and the chances' sum; lists by bin, as arrays."""

    given: np.ndarray = field(default_factory=lambda: np.zeros(len(EDGES) - 1))
    best: np.ndarray = field(default_factory=lambda: np.zeros(len(EDGES) - 1))
    said: np.ndarray = field(default_factory=lambda: np.zeros(len(EDGES) - 1))


def told(given: tuple[tuple[int, float], int, int]) -> Told:
    (runs, scatter_k), first, count = given
    total = Told()
    for seed in range(first, first + count):
        rng = np.random.default_rng(seed)
        truth = 50 + rng.normal(0, SPREADS_K[seed % len(SPREADS_K)], LAYOUTS)
        found = [Candidate(chr(65 + i), [run_of(t + rng.normal(0, scatter_k), 0.3, rng) for _ in range(runs)]) for i, t in enumerate(truth)]
        budgets = [layout_budget(found, c, CHANNEL) for c in found]
        options = [Option(c.name, {"cpu": (b.value, b.drawn)}, runs=runs) for c, b in zip(found, budgets, strict=True) if b]
        for place in choose(options, {"cpu": 1.0}, seed=seed).placed:
            i = int(np.searchsorted(EDGES, place.chance, "right")) - 1
            total.given[i] += 1
            total.said[i] += place.chance
            total.best[i] += truth[ord(place.layout) - 65] == truth.min()
    return total


def table(campaigns: int, first: int) -> list[str]:
    """A row for each bin, a column for each kind of campaign."""
    totals = over_seeds(told, KINDS, Told, campaigns, first)
    apart = ", ".join(f"{x:g}" for x in SPREADS_K)
    heads = [f"{runs} of each, builds {sd:g} K" for runs, sd in KINDS]
    lines = [
        "",
        "## Chances of being the best",
        "",
        f"Of four layouts that truly lie {apart} K apart (one sigma): how many of those that were given such a chance are the best.",
        "In brackets the mean chance that was given, and of how many layouts. A layout that was run once is never given 95 % and more.",
        "",
        f"| chance given | {' | '.join(heads)} |",
        f"|---|{'---|' * len(KINDS)}",
    ]
    for i, (low, high) in enumerate(pairwise(EDGES)):
        cells = [_cell(t.best[i], t.said[i], t.given[i]) for t in totals.values()]
        lines.append(f"| {100 * low:.0f} to {min(100 * high, 100):.0f} % | {' | '.join(cells)} |")
    return lines


def _cell(best: float, said: float, given: float) -> str:
    return f"{100 * best / given:.0f} % ({100 * said / given:.0f} %, {given:.0f})" if given else "-"
