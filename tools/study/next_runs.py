"""``./oventa study --next``: campaigns that are led run by run, against running everything three times, in turn, or at random.

Two worlds, neither the engine's own: *gaps*, six layouts whose costs differ by N(0, 2 K) whatever the forecast says of them; *cases*,
the demo's layouts with every parameter hidden and 1.5 K beside for each layout and part. Builds scatter by 0.5 K in both.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from desk.learn.document import Learning
from desk.learn.readings import Readings
from desk.next.document import OVER_K_PER_K, Deciding
from documents.job.models import JobDoc, LayoutDoc, PrioritiesDoc
from documents.job.reader import read_job
from engine.coupled.operating_point import loaded, operating_point
from engine.learn.case import PARTS, Reading
from engine.parameters import COUNT, DEFAULT, SPREADS
from engine.verdict.worth import felt_k
from study.tally import Adding, kept, over_seeds

ROOT = Path(__file__).resolve().parents[2]
GAP_K, LAYOUT_K, BUILD_K, MARGIN_K, ALIKE = 2.0, 1.5, 0.5, 1.5, 6
MOST_RUNS = 30
LEFT_PCT = (80, 78, 82, 79, 81, 77)
POLICIES = ("led", "everything three times", "in turn", "at random")
WORLDS = ("gaps", "buoy-mapper", "chart-server", "lamp-recorder", "watch-room-plotter")


@dataclass
class Tally(Adding):
    campaigns: int = 0
    runs: int = 0
    hours: float = 0.0
    right: int = 0
    within: int = 0
    regret_k: float = 0.0
    worst_k: list[float] = field(default_factory=list)


def job_of(world: str) -> JobDoc:
    name = "watch-room-plotter" if world == "gaps" else world
    doc = read_job((ROOT / "demo" / f"{name}.oventa.json").read_bytes()).doc
    room = doc.room.model_copy(update={"sound_limit_dba": None, "worst_temperature_c": None})
    even = doc.priorities.model_copy(update=dict.fromkeys(PrioritiesDoc.model_fields, 0) | {"cpu": 3, "card": 3})
    doc = doc.model_copy(update={"room": room, "priorities": even, "plan": None, "protocols": []})
    if world != "gaps":
        return doc.model_copy(update={"layouts": [x for x in doc.layouts if not x.open_bench]})
    first = doc.layouts[0]
    made = []
    for i in range(ALIKE):
        raw = first.model_dump(mode="json", exclude_unset=True) | {"id": f"L{i + 1}"}
        for f in raw["fans"]:
            f["speed_pct"] = LEFT_PCT[i]
        made.append(LayoutDoc.model_validate(raw))
    return doc.model_copy(update={"layouts": made})


@dataclass
class World:
    """A job and what its layouts truly do: rises by layout, processor and card."""

    doc: JobDoc
    rise_k: dict[str, tuple[float, float]]
    limit_k: dict[str, tuple[float | None, float | None]]
    rng: np.random.Generator

    @classmethod
    def of(cls, doc: JobDoc, world: str, seed: int) -> "World":
        rng = np.random.default_rng(seed)
        blank = Learning.of(doc, Readings())
        vector = DEFAULT if world == "gaps" else DEFAULT * SPREADS ** rng.normal(size=COUNT)
        rise: dict[str, tuple[float, float]] = {}
        limits: dict[str, tuple[float | None, float | None]] = {}
        for case in blank.machines("both"):
            point = operating_point(loaded(case.machine, "both"), vector)
            own = rng.normal(0, GAP_K) if world == "gaps" else 0.0
            apart = (0.0, 0.0) if world == "gaps" else (rng.normal(0, LAYOUT_K), rng.normal(0, LAYOUT_K))
            m = case.machine
            room = m.room.temperature_c
            limits[case.layout] = (m.cpu.tj_max_c - room, m.card.t_limit_c - room if m.card else None)
            rise[case.layout] = (point.cpu_rise_k + own + apart[0], (point.card_rise_k or 0.0) + own + apart[1])
        return cls(doc, rise, limits, rng)

    def cost(self, layout: str, rises_k: Sequence[float] | None = None) -> float:
        """As a kelvin counts to the person by its distance from the limit, and dear beyond it."""
        rises = self.rise_k[layout] if rises_k is None else rises_k
        felt = [float(felt_k(np.asarray(r), limit)) for r, limit in zip(rises, self.limit_k[layout], strict=True)]
        over = [max(r - limit, 0.0) for r, limit in zip(rises, self.limit_k[layout], strict=True) if limit is not None]
        return sum(felt) / 2 + OVER_K_PER_K * sum(over)

    def run(self, layout: str, nth: int) -> list[Reading]:
        build = self.rng.normal(0, BUILD_K)
        return [Reading(f"{layout} {nth}", layout, "both", p, self.rise_k[layout][j] + build, BUILD_K) for j, p in enumerate(PARTS)]


def led(world: World) -> tuple[str, float, int]:
    """As ``next`` says, until it says stop."""
    readings: list[Reading] = []
    now, minutes = None, 0.0
    for n in range(MOST_RUNS + 1):
        told = Deciding(Learning.of(world.doc, Readings(rises=readings)), MARGIN_K, now=now).document()
        if told.stop or n == MOST_RUNS or told.pick is None:
            return told.pick or "", minutes / 60, n
        chosen = told.candidates[0].layout
        minutes += told.candidates[0].minutes / told.candidates[0].repeats
        readings += world.run(chosen, n)
        now = chosen
    raise AssertionError("unreachable")


def fixed(order: Callable[[World, int], list[str]]) -> Callable[[World], tuple[str, float, int]]:
    """Runs in an order that nothing changes; the layout with the lowest mean is picked."""

    def policy(world: World) -> tuple[str, float, int]:
        deciding = Deciding(Learning.of(world.doc, Readings()), MARGIN_K)
        names = list(world.rise_k)
        read: dict[str, list[list[float]]] = {}
        minutes, before = 0.0, None
        runs = order(world, len(names))
        for n, name in enumerate(runs):
            minutes += deciding.minutes_of([name], before)
            read.setdefault(name, []).append([r.rise_k for r in world.run(name, n)])
            before = name
        return min(read, key=lambda x: world.cost(x, np.mean(read[x], axis=0).tolist())), minutes / 60, len(runs)

    return policy


def _thrice(world: World, _n: int) -> list[str]:
    return [x for _ in range(3) for x in world.rng.permutation(list(world.rise_k)).tolist()]


def _in_turn(world: World, n: int) -> list[str]:
    """As many runs as a led campaign mostly takes, each layout in its turn."""
    names = list(world.rise_k)
    return [names[i % n] for i in range(n + n // 2)]


def _at_random(world: World, n: int) -> list[str]:
    return [str(x) for x in world.rng.choice(list(world.rise_k), n + n // 2)]


RUN: dict[str, Callable[[World], tuple[str, float, int]]] = {
    "led": led,
    "everything three times": fixed(_thrice),
    "in turn": fixed(_in_turn),
    "at random": fixed(_at_random),
}


def row(job: tuple[tuple[str, str], int, int]) -> Tally:
    (name, policy), first, count = job
    doc, found = job_of(name), Tally()
    for seed in range(first, first + count):
        world = World.of(doc, name, seed)
        pick, hours, runs = RUN[policy](world)
        regret = world.cost(pick) - min(world.cost(x) for x in world.rise_k)
        found.campaigns += 1
        found.runs += runs
        found.hours += hours
        found.right += regret < 1e-9
        found.within += regret <= MARGIN_K
        found.regret_k += regret
        found.worst_k.append(regret)
    return found


def main(seeds: int, first: int) -> int:
    kinds: Sequence[tuple[str, str]] = [(w, p) for w in WORLDS for p in POLICIES]
    told = over_seeds(row, kinds, Tally, seeds, first)
    lines = [
        "# Evidence: which run comes next",
        "",
        f"Made by `./oventa study --next {seeds} --seed {first}`: {seeds} campaigns a row, builds of {BUILD_K} K, margin {MARGIN_K} K.",
        f"*gaps*: six layouts whose costs differ by N(0, {GAP_K} K), of which the forecast knows nothing. The others: the demo's",
        f"cases with every parameter hidden and {LAYOUT_K} K beside for each layout and part. Hours hold rebuilding, waiting and the",
        "runs. *In turn* and *at random* make one run and a half of each layout.",
        "",
        "| world | how | right | right or within the margin | hours | runs | regret, mean | regret, 99 % |",
        "|---|---|---|---|---|---|---|---|",
    ]
    missed = 0
    for (world, policy), t in told.items():
        n = t.campaigns
        bad = policy == "led" and (t.within / n < 0.9 or t.hours > 0.5 * told[world, "everything three times"].hours)
        missed += bad
        mark = "**" if bad else ""
        lines.append(
            f"| {world} | {mark}{policy}{mark} | {100 * t.right / n:.1f} % | {100 * t.within / n:.1f} % | {t.hours / n:.1f} "
            f"| {t.runs / n:.1f} | {t.regret_k / n:.2f} K | {np.percentile(t.worst_k, 99):.1f} K |"
        )
    lines += ["", "Wanted of *led*: 90 % right or within the margin in half the hours of everything three times.", f"Missed: {missed}."]
    text = "\n".join(lines) + "\n"
    kept("evidence-next.md", text)
    print(text)
    return 1 if missed else 0
