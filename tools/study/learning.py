"""``./oventa study --learn``: cases whose parameters and layouts' own errors are hidden, learned from three layouts run twice.

The truth is drawn here: every parameter from its prior, and beside it an error for each layout and part that no parameter explains.
"""

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from desk.job.resolve import Resolver
from documents.job.reader import read_job
from engine.coupled.operating_point import OperatingPoint, loaded, operating_point
from engine.learn.case import PARTS, Case, Learned, Part, Reading, learn
from engine.parameters import COUNT, DEFAULT, SPREADS
from study.tally import Adding, Cells, kept, over_seeds

ROOT = Path(__file__).resolve().parents[2]
LAYOUT_K, BUILD_K, RUN_LAYOUTS, REPEATS = 1.5, 0.5, 3, 2
JOBS = tuple(sorted(str(p.relative_to(ROOT)) for p in (ROOT / "demo").glob("*.oventa.json")))


@dataclass
class Tally(Adding):
    seeds: int = 0
    far: int = 0  # figures of layouts that were not run
    far_held: int = 0
    own: int = 0
    own_held: int = 0
    parameters: int = 0
    parameters_held: int = 0
    narrower: list[float] = field(default_factory=list)  # learned band over the sheets', of layouts not run
    errors_k: list[float] = field(default_factory=list)
    sheets_errors_k: list[float] = field(default_factory=list)
    contradictions: int = 0


@dataclass(frozen=True)
class Truth:
    """A case as it really is: rises by layout and part, and which of them stand at a limit."""

    vector: np.ndarray
    rise_k: dict[str, tuple[float, float]]
    limited: dict[str, tuple[bool, bool]]


def truth_of(cases: list[Case], seed: int) -> Truth:
    rng = np.random.default_rng(seed)
    vector = DEFAULT * SPREADS ** rng.normal(size=COUNT)
    rise, limited = {}, {}
    for c in cases:
        point = operating_point(c.machine, vector)
        rise[c.layout] = (point.cpu_rise_k + rng.normal(0, LAYOUT_K), (point.card_rise_k or 0.0) + rng.normal(0, LAYOUT_K))
        limited[c.layout] = (point.powers.cpu_limited, point.powers.card_limited)
    return Truth(vector, rise, limited)


def cases_of(path: str) -> list[Case]:
    doc = read_job((ROOT / path).read_bytes()).doc
    resolver = Resolver(doc)
    return [Case(x.id, "both", loaded(resolver.machine(x.id), "both")) for x in doc.layouts]


def row(job: tuple[str, int, int]) -> Tally:
    path, first, count = job
    cases = cases_of(path)
    sheets = [operating_point(c.machine) for c in cases]
    bands = {(f.layout, f.part): f.band_k for f in learn(cases, []).of(cases)[0]}
    found = Tally()
    for seed in range(first, first + count):
        truth = truth_of(cases, seed)
        rng = np.random.default_rng(seed + 10**6)
        run = set(rng.permutation([c.layout for c in cases])[:RUN_LAYOUTS].tolist())
        readings = [
            Reading(f"{c.layout}{n}", c.layout, "both", part, truth.rise_k[c.layout][j] + rng.normal(0, BUILD_K), BUILD_K)
            for c in cases
            if c.layout in run
            for n in range(REPEATS)
            for j, part in enumerate(PARTS)
            if not truth.limited[c.layout][j] and (part == "cpu" or c.machine.card)
        ]
        _count(found, learn(cases, readings), cases, truth, run, sheets, bands)
    return found


def _count(
    found: Tally,
    learned: Learned,
    cases: list[Case],
    truth: Truth,
    run: set[str],
    sheets: list[OperatingPoint],
    bands: dict[tuple[str, Part], float],
) -> None:
    found.seeds += 1
    found.contradictions += bool(learned.contradictions)
    off = np.abs(np.log(truth.vector / learned.vector) / np.log(SPREADS)) / np.sqrt(np.diag(learned.spread))
    found.parameters += len(off)
    found.parameters_held += int((off < 2).sum())
    plain = {c.layout: (p.cpu_rise_k, p.card_rise_k or 0.0) for c, p in zip(cases, sheets, strict=True)}
    for figure in learned.of(cases)[0]:
        j = PARTS.index(figure.part)
        if truth.limited[figure.layout][j] or figure.limited:
            continue
        error = abs(truth.rise_k[figure.layout][j] - figure.rise_k)
        held = error < figure.band_k
        if figure.layout in run:
            found.own += 1
            found.own_held += held
        else:
            found.far += 1
            found.far_held += held
            found.narrower.append(figure.band_k / bands[figure.layout, figure.part])
            found.errors_k.append(error)
            found.sheets_errors_k.append(abs(truth.rise_k[figure.layout][j] - plain[figure.layout][j]))


def main(seeds: int, first: int) -> int:
    told = over_seeds(row, JOBS, Tally, seeds, first)
    cells = Cells()
    lines = [
        "# Evidence: learning a case from its runs",
        "",
        f"Made by `./oventa study --learn {seeds} --seed {first}`: {seeds} made-up truths for each case, every parameter drawn from its",
        f"prior and {LAYOUT_K} K (one sigma) beside it for each layout and part, which no parameter explains. Three layouts are run twice",
        f"(builds of {BUILD_K} K), all others are forecast. Wanted: 90 to 98 % of what was not run within its band, and that band half as",
        "wide as by sheets alone. `./oventa learn PACKAGE.zip` does the same with runs of one's own.",
        "",
        "| case | not run, within the band | band over the sheets', median | error by sheets, learned (K, median) | run, within the band "
        "| parameters within theirs | called contradictory |",
        "|---|---|---|---|---|---|---|",
    ]
    for path, t in told.items():
        name = Path(path).name.removesuffix(".oventa.json")
        narrow = float(np.median(t.narrower))
        cells.missed += narrow > 0.5
        lines.append(
            f"| {name} | {cells.share(t.far_held, t.far, 0.90, 0.98)} | {narrow:.2f} | {np.median(t.sheets_errors_k):.1f}, "
            f"{np.median(t.errors_k):.1f} | {cells.share(t.own_held, t.own)} | {cells.share(t.parameters_held, t.parameters, 0.90, 0.98)} "
            f"| {t.contradictions} of {t.seeds} |"
        )
    lines += ["", f"Missed: {cells.missed}."]
    text = "\n".join(lines) + "\n"
    kept("evidence-learning.md", text)
    print(text)
    return 1 if cells.missed else 0
