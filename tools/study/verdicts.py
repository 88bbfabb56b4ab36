"""``./oventa study --verdicts N``: verdicts of N made-up campaigns whose truth is known; writes docs/evidence-verdicts.md.

Each seed is another machine on the stand-in bench: its builds scatter by 1.2 % of the rise, its room wanders, its processor reads
whole degrees. Layouts differ by planted gaps of the processor's settled rise.
"""

import time
from collections import Counter
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from desk.job.resolve import Resolver
from documents.job.reader import read_job
from engine.machine import Machine
from engine.runs.analysis import RunAnalysis, analyse
from engine.runs.series import RunLog
from engine.verdict.candidate import Candidate
from engine.verdict.choose import SURE, Choice, Option, choose
from engine.verdict.compare import Pair, compare, layout_budget
from instruments.standin import SameMachine
from study.tally import kept

ROOT = Path(__file__).resolve().parents[2]
CHANNEL = "cpu_package_c"
KEPT = (CHANNEL, "card_core_c", "room_c", "cpu_power_w")
MARGIN_K = 1.5


def machine() -> Machine:
    doc = read_job((ROOT / "demo" / "watch-room-plotter.oventa.json").read_bytes()).doc
    return Resolver(doc).machine("A")


def run_of(bench: SameMachine, seed: int) -> RunAnalysis:
    log = bench.log(seed)
    return analyse(RunLog(log.elapsed_s, {name: log.channels[name] for name in KEPT}))


def campaign(own: SameMachine, gaps_k: Sequence[float], repeats: int, seed: int) -> list[Candidate]:
    """Layouts A, B, ... with their runs; the first gap is A's."""
    found = []
    for i, gap in enumerate(gaps_k):
        bench = own.warmer(gap)
        found.append(Candidate(chr(65 + i), [run_of(bench, 1_000_000 + 10_000 * seed + 100 * i + k) for k in range(repeats)]))
    return found


def verdict(candidates: Sequence[Candidate], pairs: Sequence[Pair]) -> Choice:
    """The choice by the processor alone."""
    options = []
    for c in candidates:
        found = layout_budget(candidates, c, CHANNEL)
        if found:
            options.append(Option(c.name, {"cpu": (found.value, found.drawn)}))
    unsaid = {(p.a, p.b): p.word in ("no_difference", "cannot_tell") for p in pairs if p.channel == CHANNEL}
    alike = {(x, y, "cpu"): v for (a, b), v in unsaid.items() for x, y in ((a, b), (b, a))}
    return choose(options, {"cpu": 3.0}, alike)


def named(candidates: Sequence[Candidate]) -> str | None:
    """The layout the tool names as the best, with a chance of 95 % or more; None where it says tied, likely with less, or open."""
    choice = verdict(candidates, compare(candidates, MARGIN_K))
    return choice.best if not choice.tied and choice.chance >= SURE else None


def words(candidates: Sequence[Candidate]) -> Counter[str]:
    return Counter(p.word for p in compare(candidates, MARGIN_K) if p.channel == CHANNEL)


def best_of(gaps_k: Sequence[float]) -> str:
    return chr(65 + int(np.argmin(gaps_k)))


def main(seeds: int, first: int = 1) -> int:
    started, case = time.perf_counter(), machine()
    tally: Counter[str] = Counter()
    for seed in range(first, first + seeds):
        own, rng = SameMachine(case, seed), np.random.default_rng(seed)
        three = campaign(own, (3.0, 0.0, 6.0), 3, 10 * seed)
        name = named(three)
        tally["gap 3: right"] += name == "B"
        tally["gap 3: wrong"] += name not in (None, "B")
        six = words(campaign(own, (0.0, 0.0), 6, 10 * seed + 1))
        tally["gap 0, six: no difference"] += six["no_difference"]
        tally["gap 0, six: wrong"] += six["better"] + six["worse"]
        gaps = rng.uniform(0, 4, 4).tolist()
        repeats = int(rng.integers(1, 4))
        mixed = campaign(own, gaps, repeats, 10 * seed + 2)
        name = named(mixed)
        tally["mixed: named"] += name is not None
        tally["mixed: wrong"] += name is not None and name != best_of(gaps)
        for p in compare(mixed, MARGIN_K):
            if p.channel != CHANNEL or p.difference_k is None or p.expanded_uncertainty_k is None:
                continue
            true = gaps[ord(p.b) - 65] - gaps[ord(p.a) - 65]
            tally[f"pairs, {repeats}"] += 1
            tally[f"covered, {repeats}"] += abs(p.difference_k - true) <= p.expanded_uncertainty_k
            tally["words said"] += p.word in ("better", "worse")
            tally["words wrong"] += (p.word == "better" and true >= 0) or (p.word == "worse" and true <= 0)
        for repeats in (1, 2, 3):
            none = words(campaign(own, (0.0, 0.0), repeats, 10 * seed + 2 + repeats))
            tally[f"gap 0, {repeats}: wrong"] += none["better"] + none["worse"]
        edge = words(campaign(own, (0.0, MARGIN_K), 6, 10 * seed + 6))
        tally["gap at the margin: no difference"] += edge["no_difference"]
    text = report(tally, seeds, first, time.perf_counter() - started)
    kept("evidence-verdicts.md", text)
    print(text)
    return 0 if tally["mixed: wrong"] <= 0.05 * seeds and tally["gap 3: right"] >= 0.8 * seeds else 1


def report(tally: Counter[str], seeds: int, first: int, seconds: float) -> str:
    def share(name: str, of: int = seeds) -> str:
        return f"{tally[name]} of {of} ({100 * tally[name] / max(of, 1):.1f} %)"

    lines = [
        "# Evidence: verdicts",
        "",
        f"Made by `./oventa study --verdicts {seeds} --seed {first}` on {datetime.now(UTC):%Y-%m-%d} in {seconds:.0f} s.",
        "Each seed is another machine on the stand-in bench: its builds scatter by 1.2 % of the rise, its room wanders, its processor",
        "reads whole degrees. Layouts differ by planted gaps of the processor's settled rise.",
        "",
        "| what | wanted | found |",
        "|---|---|---|",
        f"| gaps of 3 K, three repeats: names the true best | at least 80 % | {share('gap 3: right')} |",
        f"| the same: names a wrong one | at most 5 % | {share('gap 3: wrong')} |",
        f"| four layouts, gaps 0 to 4 K, one to three repeats: names a wrong best | at most 5 % | {share('mixed: wrong')} |",
        f"| the same: names any | | {share('mixed: named')} |",
        f"| no gap, six repeats: says no difference | at least 60 % | {share('gap 0, six: no difference')} |",
        f"| no gap, six repeats: says better or worse | at most 5 % | {share('gap 0, six: wrong')} |",
        *(f"| no gap, runs of each: {n}: better or worse | at most 5 % | {share(f'gap 0, {n}: wrong')} |" for n in (1, 2, 3)),
        f"| a gap as wide as the margin, six repeats: no difference | at most 2.5 % | {share('gap at the margin: no difference')} |",
        f"| better or worse said of the wrong side, mixed gaps | at most 5 % | {share('words wrong', tally['words said'])} |",
        *(
            f"| true difference within its uncertainty, runs of each: {n} | 95 % | {share(f'covered, {n}', tally[f'pairs, {n}'])} |"
            for n in (1, 2, 3)
        ),
    ]
    return "\n".join(lines) + "\n"
