"""``./oventa study --campaigns N``: N made-up campaigns of known truth per row, by a generator of their own; writes
docs/evidence-campaigns.md.

A campaign is drawn as figures, not from the stand-in bench: every layout's true rise, what each build of it adds, where the room's
thermometer hung, what the sensor's step hid; ten-minute runs are drawn as logs of two stages that no other code of Oventa knows.
"""

import time
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np

from engine.runs.analysis import RunAnalysis
from engine.verdict.candidate import Candidate
from engine.verdict.compare import Pair, compare
from engine.verdict.drift import without_drift
from study.chances import table
from study.drawn import CHANNEL, Stages, log_of, run_of
from study.tally import Adding, Cells, kept, over_seeds

MARGIN_K = 1.5
MINUTES_EACH = 45.0  # a run with its rebuilding


@dataclass(frozen=True)
class Plan:
    """One row: true gaps of the layouts in K, runs of each, scatter of builds in K, and what is wanted of it."""

    words: str
    gaps_k: Sequence[float]
    runs: int
    scatter_k: float
    most_false: float | None = None
    cover: tuple[float, float] | None = None
    least_told: float | None = None
    least_same: float | None = None
    looks: str = ""  # read after every "round" or every "run": a wrong word at any look counts
    drift_k_h: float = 0.0
    controls: int = 0  # further runs of the first layout, spread over the campaign
    thermometer_k: float = 0.3  # how far off the room's thermometer may be from run to run
    margin_k: float = MARGIN_K
    minutes: float | None = None  # drawn as logs of this length, in whole degrees


@dataclass
class Tally(Adding):
    campaigns: int = 0
    false: int = 0
    pairs: int = 0
    covered: int = 0
    apart: int = 0
    told: int = 0
    alike: int = 0
    same: int = 0


NONE4, NONE2, WARMER = (0.0,) * 4, (0.0,) * 2, (0.0, 0.0, 0.0, 1.0)
PLANS = (
    Plan("one run of each, builds 0.2 K", NONE4, 1, 0.2, 0.08, (0.93, 1.0)),
    Plan("one run of each, builds 0.5 K", NONE4, 1, 0.5, 0.08, (0.93, 1.0)),
    Plan("one run of each, builds 1.0 K", NONE4, 1, 1.0, 0.12, (0.90, 1.0)),
    Plan("one run of each, builds 1.5 K", NONE4, 1, 1.5),
    Plan("two runs of each, builds 0.2 K", NONE4, 2, 0.2, 0.08, (0.93, 0.98)),
    Plan("two runs of each, builds 0.5 K", NONE4, 2, 0.5, 0.08, (0.93, 0.98)),
    Plan("two runs of each, builds 1.0 K", NONE4, 2, 1.0, 0.08, (0.93, 0.98)),
    Plan("two runs of each, builds 1.5 K", NONE4, 2, 1.5, 0.08, (0.93, 0.98)),
    Plan("two runs of each, builds 0.3 K, one layout 1 K warmer", WARMER, 2, 0.3, 0.08, (0.93, 0.98), 0.40),
    Plan("the same, its thermometer hung alike each time", WARMER, 2, 0.3, 0.08, (0.93, 0.98), 0.40, thermometer_k=0.05),
    # Who asks for 1 K may care for less: at a margin of 1.5 K, "no difference" is a right word for it too, and goes before.
    Plan("the same, thermometer hung anew, a margin of 0.5 K", WARMER, 2, 0.3, 0.08, (0.93, 0.98), 0.40, margin_k=0.5),
    Plan("the same, thermometer hung alike, a margin of 0.5 K", WARMER, 2, 0.3, 0.08, (0.93, 0.98), 0.40, thermometer_k=0.05, margin_k=0.5),
    Plan("three runs of each, builds 0.3 K, no gap", NONE4, 3, 0.3, 0.08, (0.93, 0.98), least_same=0.50),
    Plan("three runs of each, builds 1.0 K", NONE4, 3, 1.0, 0.08, (0.93, 0.98)),
    Plan("three runs of each, builds 0.5 K, gaps 0, 1.5, 3, 5 K", (0.0, 1.5, 3.0, 5.0), 3, 0.5, 0.08, (0.93, 0.98)),
    Plan("six runs of each, builds 0.5 K", NONE4, 6, 0.5, 0.08, (0.93, 0.98)),
    Plan("two layouts, two runs of each, builds 0.5 K", NONE2, 2, 0.5, 0.08, (0.93, 1.0)),
    Plan("eight layouts, two runs of each, builds 0.5 K", (0.0,) * 8, 2, 0.5, 0.08, (0.93, 0.98)),
    Plan("read after every round, five of each, builds 0.3 K", NONE4, 5, 0.3, 0.08, looks="round"),
    Plan("read after every round, five of each, builds 0.5 K", NONE4, 5, 0.5, 0.08, looks="round"),
    Plan("read after every round, five of each, builds 1.0 K", NONE4, 5, 1.0, 0.12, looks="round"),
    Plan("read after every run, five of each, builds 0.5 K", NONE4, 5, 0.5, 0.08, looks="run"),
    Plan("read after every run, five of each, builds 1.0 K", NONE4, 5, 1.0, 0.12, looks="run"),
    Plan("a control at both ends, two of the others, no drift, builds 0.5 K", NONE4, 2, 0.5, 0.10, controls=1),
    Plan("a control at both ends alone, one of the others, no drift, builds 0.5 K", NONE4, 1, 0.5, 0.08, controls=1),
    Plan("a control three times, two of the others, drift 0.5 K/h, builds 0.3 K", NONE4, 2, 0.3, drift_k_h=0.5, controls=2),
    Plan("ten minutes, whole degrees, one of each, no gap, builds 0.5 K", NONE2, 1, 0.5, 0.08, (0.90, 1.0), minutes=10),
    Plan("ten minutes, whole degrees, one of each, 5 K apart, builds 0.5 K", (0.0, 5.0), 1, 0.5, None, (0.90, 1.0), 0.90, minutes=10),
    Plan("ten minutes, whole degrees, one of each, 10 K apart, builds 0.5 K", (0.0, 10.0), 1, 0.5, None, (0.90, 1.0), 0.90, minutes=10),
    Plan("ten minutes, whole degrees, one of each, 7 K apart, builds 0.5 K", (0.0, 7.0), 1, 0.5, None, (0.90, 1.0), 0.90, minutes=10),
)


def campaign(plan: Plan, rng: np.random.Generator) -> tuple[list[Candidate], list[float]]:
    """Layouts A, B, ... with their runs in a shuffled order, and their true rises; the control's further runs at even distances."""
    base, machine = float(rng.uniform(40, 60)), Stages.drawn(rng)
    truth = [base + gap for gap in plan.gaps_k]
    order = [i for i in range(len(truth)) for _ in range(plan.runs)]
    rng.shuffle(order)
    if plan.controls:
        order.remove(0)
        order.insert(0, 0)
        for k in range(1, plan.controls + 1):
            order.insert(round(k * len(order) / plan.controls), 0)
    runs: dict[int, list[tuple[float, RunAnalysis]]] = {i: [] for i in range(len(truth))}
    for at, i in enumerate(order):
        hour = at * MINUTES_EACH / 60
        rise = truth[i] + rng.normal(0, plan.scatter_k) + plan.drift_k_h * hour
        made = log_of(rise, plan.minutes, machine.near(rng), rng) if plan.minutes else run_of(rise, plan.thermometer_k, rng)
        runs[i].append((hour, made))
    return [Candidate(chr(65 + i), [r for _, r in found], hours=[h for h, _ in found]) for i, found in runs.items()], truth


def judged(plan: Plan, seed: int) -> Tally:
    """One campaign's words against its truth; with looks the words of every state on the way."""
    rng = np.random.default_rng(seed)
    found, truth = campaign(plan, rng)
    true = {c.name: t for c, t in zip(found, truth, strict=True)}
    if plan.controls:
        found, _ = without_drift(found, "A")
    tally = Tally(campaigns=1)
    if plan.looks:
        tally.false = any(_wrong(p, true) for look in _looks(found, plan.looks) for p in compare(look, plan.margin_k))
        return tally
    pairs = [p for p in compare(found, plan.margin_k) if p.channel == CHANNEL]
    tally.false = any(_wrong(p, true) for p in pairs)
    for p in pairs:
        gap = true[p.b] - true[p.a]
        if p.difference_k is not None and p.expanded_uncertainty_k is not None:
            tally.pairs += 1
            tally.covered += abs(p.difference_k - gap) <= p.expanded_uncertainty_k
        tally.apart += gap != 0
        tally.told += gap != 0 and p.word == ("worse" if gap > 0 else "better")
        tally.alike += gap == 0
        tally.same += gap == 0 and p.word == "no_difference"
    return tally


def _looks(found: Sequence[Candidate], after: str) -> list[list[Candidate]]:
    """States of a campaign in which one run after another comes in, layout by layout, from the first of each on."""
    states = []
    for n in range(1, max(len(c.runs) for c in found) + 1):
        for done in range(1, len(found) + 1):
            if done == len(found) or (n > 1 and after == "run"):
                states.append([Candidate(c.name, c.runs[: n if i < done else n - 1]) for i, c in enumerate(found)])
    return states


def _wrong(p: Pair, true: dict[str, float]) -> bool:
    gap = true[p.b] - true[p.a]
    return p.channel == CHANNEL and p.word in ("better", "worse") and (gap == 0 or (p.word == "worse") != (gap > 0))


def _row(given: tuple[Plan, int, int]) -> Tally:
    plan, first, count = given
    total = Tally()
    for seed in range(first, first + count):
        total.add(judged(plan, seed))
    return total


def main(campaigns: int, first: int = 1) -> int:
    started = time.perf_counter()
    totals = over_seeds(_row, PLANS, Tally, campaigns, first)
    cells = Cells()
    rows = [f"| {plan.words} | {' | '.join(_cells(cells, plan, t))} |" for plan, t in totals.items()]
    text = "\n".join(
        [
            "# Evidence: campaigns",
            "",
            f"Made by `./oventa study --campaigns {campaigns} --seed {first}` on {datetime.now(UTC):%Y-%m-%d} in",
            f"{time.perf_counter() - started:.0f} s: {campaigns} campaigns of known truth per row, by a generator of its own.",
            "A wrong word: better or worse said of layouts that do not differ, or of the wrong side, in any pair of a campaign. Four",
            f"layouts and a margin of {MARGIN_K} K where nothing else is said. In brackets what is wanted; **bold** where it is not met.",
            "",
            "| campaign | with a wrong word | true difference within its interval | gaps told | said to be none where there is none |",
            "|---|---|---|---|---|",
            *rows,
            *table(campaigns, first),
        ]
    )
    kept("evidence-campaigns.md", text + "\n")
    print(text)
    return 1 if cells.missed else 0


def _cells(cells: Cells, plan: Plan, t: Tally) -> list[str]:
    low, high = plan.cover or (None, None)
    return [
        cells.share(t.false, t.campaigns, None, plan.most_false),
        cells.share(t.covered, t.pairs, low, None if high == 1.0 else high),
        cells.share(t.told, t.apart, plan.least_told),
        cells.share(t.same, t.alike, plan.least_same),
    ]
