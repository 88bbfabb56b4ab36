"""``./oventa study --waits N``: how long a run still takes, told without and with earlier runs of its machine; writes
docs/evidence-waits.md.

Machines are those of ``study.settle``. The runs of one machine are other layouts of it: their time constants move together and each a
little, so do the shares of the rise, and the rise is another each time. Earlier runs end where the call is made, as on the bench.
"""

import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime

import numpy as np

from engine.runs.known import Course, known_of
from engine.runs.settle import approach, course
from study.settle import EARLY_K, FACTOR, KINDS, WANTED_MINUTES, WANTED_RANGE, Kind, Run, run_of
from study.tally import Adding, Cells, kept, over_seeds

TOGETHER, EACH, SHARE = 0.12, 0.08, 0.1  # sigmas of logs: what another layout does to time constants and shares
CHANGED_STRETCH = (0.4, 2.5)  # of a machine whose cooler was changed: another machine, told from the runs of the one before
ENDS_K = (0.2, 0.1, 0.05, 0.02)  # where earlier runs may end
EARLIER = 4
LEAST_MINUTES = 1.0
WARMS = tuple(kind for kind in KINDS if not kind.flat)


def layout_of(kind: Kind, machine: int, run: int, stretch: float = 1.0) -> Kind:
    """The machine of a kind with one of its layouts."""
    stages = kind.stages(np.random.default_rng(machine))
    rng = np.random.default_rng([machine, run])
    moved = stretch * np.exp(rng.normal(0, TOGETHER))
    own = [(share * np.exp(rng.normal(0, SHARE)), tau * moved * np.exp(rng.normal(0, EACH))) for share, tau in stages]
    whole = sum(share for share, _ in own)
    return replace(kind, stages=lambda _: [(share / whole, tau) for share, tau in own])


def earlier(kind: Kind, machine: int, run: int) -> Course | None:
    """What an earlier run of the machine showed: ended when it was called settled; none where it never was."""
    for left in ENDS_K:
        read = run_of(layout_of(kind, machine, run), 1_000 * machine + run, (left, left))
        fit = approach(read.t, read.read, steps=read.steps)
        if fit and fit.settled:
            return course(read.t, read.read, read.steps)
    return None


@dataclass
class Tally(Adding):
    """Counts of runs told with none, one and four earlier runs, and with four of a machine that was changed since."""

    none: Counter[str] = field(default_factory=Counter)
    one: Counter[str] = field(default_factory=Counter)
    four: Counter[str] = field(default_factory=Counter)
    changed: Counter[str] = field(default_factory=Counter)


def told(run: Run, courses: Sequence[Course]) -> Counter[str]:
    """What was said of a run's wait, and whether it was so."""
    fit = approach(run.t, run.read, known_of(courses) if courses else None, run.steps)
    if fit is None or run.minutes_left < LEAST_MINUTES:
        return Counter()
    good = 1 / FACTOR <= fit.minutes_left / run.minutes_left <= FACTOR
    held = fit.wait.least_s <= 60 * run.minutes_left <= fit.wait.most_s
    return Counter(timed=1, in_time=good, in_range=held, numbered=fit.one_number, numbered_well=fit.one_number and good)


def tallied(kind: Kind, first: int, count: int) -> Tally:
    total = Tally()
    for machine in range(first, first + count):
        since = float(np.exp(np.random.default_rng([machine, 99]).uniform(*np.log(CHANGED_STRETCH))))
        run, changed = (run_of(layout_of(kind, machine, 0, by), 1_000 * machine, EARLY_K) for by in (1.0, since))
        courses = [c for i in range(1, EARLIER + 1) if (c := earlier(kind, machine, i)) is not None]
        total.add(Tally(told(run, []), told(run, courses[:1]), told(run, courses), told(changed, courses)))
    return total


def _row(given: tuple[str, int, int]) -> Tally:
    name, first, count = given
    return tallied(next(k for k in WARMS if k.words == name), first, count)


def main(seeds: int, first: int = 1) -> int:
    started = time.perf_counter()
    totals = over_seeds(_row, [k.words for k in WARMS], Tally, seeds, first)
    whole = Tally()
    for tally in totals.values():
        whole.add(tally)
    cells = Cells()
    lines = [f"| {name} | {' | '.join(_cells(cells, t))} |" for name, t in totals.items()]
    lines.append(f"| all | {' | '.join(_cells(cells, whole, all_kinds=True))} |")
    of = whole.changed
    of_changed = f"{cells.share(of['in_range'], of['timed'], WANTED_RANGE)} of waits lie in their range; "
    of_changed += f"{cells.share(of['numbered'], of['timed'])} are told one number, right in "
    of_changed += cells.share(of["numbered_well"], of["numbered"], WANTED_MINUTES)
    head = ["kind"]
    for after in ("first run", "after one", "after four"):
        head += [f"{after}: in its range", "one number said", "and right", "any number"]
    text = "\n".join(
        [
            "# Evidence: how long a run still takes",
            "",
            f"Made by `./oventa study --waits {seeds} --seed {first}` on {datetime.now(UTC):%Y-%m-%d} in",
            f"{time.perf_counter() - started:.0f} s: {len(WARMS)} kinds of machines that warm, {seeds} of each, cut where 1 to 10 K are",
            "left and at least a minute goes until half a kelvin is. Told with no earlier run of the machine, with one, and with",
            f"four, each of another layout (time constants off by {100 * TOGETHER:.0f} % together and {100 * EACH:.0f} % each, shares by",
            f"{100 * SHARE:.0f} %, one sigma; another rise) and ended where it was called settled.",
            "",
            f"Said is a range, which should hold in {100 * WANTED_RANGE:.0f} %, or one number, which should be right within {FACTOR}",
            f"times in {100 * WANTED_MINUTES:.0f} %. *Any number*: were each run given its likeliest wait;",
            f"{100 * WANTED_MINUTES:.0f} % are wanted over all, which a first run cannot come to: a slow stage that has not shown yet",
            "cannot be read from it.",
            "**Bold** where it is not met.",
            "",
            f"| {' | '.join(head)} |",
            "|" + "---|" * len(head),
            *lines,
            "",
            f"Where the cooler was changed since and all time constants are {CHANGED_STRETCH[0]:g} to {CHANGED_STRETCH[1]:g} times what",
            f"four earlier runs showed: {of_changed}.",
        ]
    )
    kept("evidence-waits.md", text + "\n")
    print(text)
    return 1 if cells.missed else 0


def _cells(cells: Cells, tally: Tally, all_kinds: bool = False) -> list[str]:
    found = []
    for t in (tally.none, tally.one, tally.four):
        found += [
            cells.share(t["in_range"], t["timed"], WANTED_RANGE),
            cells.share(t["numbered"], t["timed"]),
            cells.share(t["numbered_well"], t["numbered"], WANTED_MINUTES),
            cells.share(t["in_time"], t["timed"], WANTED_MINUTES if all_kinds else None),
        ]
    return found
