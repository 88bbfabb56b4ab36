"""``./oventa study``: thousands of random cases through the engine; writes docs/evidence.md."""

import argparse
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path

import numpy as np

from desk.job.resolve import Resolver
from documents.job.reader import check_job
from engine.coupled.audit import books
from engine.coupled.operating_point import operating_point
from engine.machine import Machine

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "tools"))

from study import campaigns, continuity, growth, learning, next_runs, practice, settle, units, verdicts, waits  # noqa: E402
from study.cases import complete, random_document  # noqa: E402  (the folder of tools is no package of the product)
from study.tally import kept, said  # noqa: E402

MASS_LIMIT, HEAT_LIMIT = 1e-3, 5e-3


def machine_of(seed: int) -> Machine:
    return Resolver(check_job(complete(random_document(seed), seed)).doc).machine("A")


def faults_of(machine: Machine) -> tuple[list[str], float, float]:
    """What is wrong with the engine's answer, and its errors of mass and heat."""
    point = operating_point(machine)
    b = books(point)
    faults = [] if point.converged else ["not converged"]
    if not np.isfinite(point.node_rise_k).all():
        faults.append("not a number")
    if b.mass_error > MASS_LIMIT and b.inflow_m3s > 1e-6:
        faults.append("mass")
    if b.heat_error > HEAT_LIMIT:
        faults.append("heat")
    room_c = machine.room.temperature_c
    if point.powers.cpu_w > 0 and point.cpu_rise_k + room_c > machine.cpu.tj_max_c + 0.05:
        faults.append("processor over its limit")
    if machine.card and point.powers.card_w > 0 and (point.card_rise_k or 0.0) + room_c > machine.card.t_limit_c + 0.05:
        faults.append("card over its limit")
    if point.node_rise_k.min() < -0.05:
        faults.append("colder than the room")
    return faults, b.mass_error, b.heat_error


def opposed(machine: Machine) -> Machine:
    return replace(machine, fans=tuple(replace(f, direction="intake" if i % 2 else "exhaust") for i, f in enumerate(machine.fans)))


def evidence(name: str) -> Callable[[str], object]:
    """Writes a study's page among the documents."""
    return partial(kept, f"evidence-{name}.md")


def options() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="oventa study")
    parser.add_argument("--cases", type=int, default=3000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--settle", type=int, metavar="N", help="the settle call over N seeds instead")
    parser.add_argument(
        "--waits", type=int, metavar="N", help="how long runs of N machines still take, without and with earlier runs, instead"
    )
    parser.add_argument("--verdicts", type=int, metavar="N", help="verdicts of N made-up campaigns with known truth instead")
    parser.add_argument("--campaigns", type=int, metavar="N", help="N campaigns of known truth per row, by another generator, instead")
    parser.add_argument("--steps", type=int, metavar="N", help="every figure of N random cases changed by 1 %% instead")
    parser.add_argument("--kills", type=int, metavar="N", help="a server killed N times in the middle of its work instead")
    parser.add_argument("--next", type=int, metavar="N", help="N campaigns led run by run, against other ways, instead")
    parser.add_argument("--learn", type=int, metavar="N", help="N made-up truths of each demo case, learned from three layouts, instead")
    parser.add_argument("--search", action="store_true", help="how a search grows with mounts and fans, instead")
    parser.add_argument("--units", type=int, metavar="N", help="N units of each kind of fault held against their reference instead")
    parser.add_argument("--practice", type=int, metavar="N", help="N machines of each level of the trainer instead")
    return parser


def main() -> int:
    args = options().parse_args()
    if args.kills:
        from bench import kills  # needs more than the other studies

        told = kills.kills(args.kills, args.seed, lambda words: print(words, file=sys.stderr, flush=True))
        kept("evidence-kills.md", kills.report(told, args.seed))
        return 1 if told.wrong else 0
    if args.steps:
        text, wrong_cases = continuity.report(args.steps, args.seed)
        kept("evidence-steps.md", text)
        print(text)
        return 1 if wrong_cases else 0
    if args.settle:
        return settle.main(args.settle, args.seed)
    if args.waits:
        return waits.main(args.waits, args.seed)
    if args.next:
        return next_runs.main(args.next, args.seed)
    if args.units:
        return units.main(args.units, args.seed, evidence("units"))
    if args.practice:
        return practice.main(args.practice, args.seed, evidence("practice"))
    if args.search:
        return growth.main()
    if args.learn:
        return learning.main(args.learn, args.seed)
    if args.campaigns:
        return campaigns.main(args.campaigns, args.seed)
    if args.verdicts:
        return verdicts.main(args.verdicts, args.seed)
    started, found, errors = time.perf_counter(), Counter[str](), []
    wrong: list[tuple[int, list[str]]] = []
    for seed in range(args.seed, args.seed + args.cases):
        said(seed - args.seed, args.cases)
        for machine in (machine_of(seed), opposed(machine_of(seed))):
            faults, mass, heat = faults_of(machine)
            errors.append((mass, heat))
            found.update(faults)
            if faults:
                wrong.append((seed, faults))
    seconds = time.perf_counter() - started
    commit = subprocess.run(["git", "rev-parse", "--short", "HEAD"], cwd=ROOT, capture_output=True, text=True, check=False).stdout.strip()
    worst = np.array(errors).max(axis=0)
    typical = np.percentile(np.array(errors), 99, axis=0)
    lines = [
        "# Evidence: random cases",
        "",
        f"Made by `./oventa study --cases {args.cases} --seed {args.seed}` at commit {commit or 'unknown'},",
        f"{datetime.now(UTC):%Y-%m-%d}, in {seconds:.0f} s.",
        "",
        f"{2 * args.cases} layouts of {args.cases} random cases (5 to 100 litres, 1 to 15 mounts of 40 to 200 mm, every cooler, 0 to",
        "1,500 W, each once as drawn and once with every second fan against its neighbour).",
        "",
        "| what | figure |",
        "|---|---|",
        f"| layouts with any fault | {len(wrong)} |",
        *(f"| fault: {name} | {count} |" for name, count in found.most_common()),
        f"| error of mass, largest / 99 % | {100 * worst[0]:.4f} % / {100 * typical[0]:.5f} % |",
        f"| error of heat, largest / 99 % | {100 * worst[1]:.3f} % / {100 * typical[1]:.4f} % |",
        "",
        *([f"Seeds at fault: {', '.join(str(s) for s, _ in wrong[:40])}."] if wrong else ["No seed is at fault."]),
    ]
    text = "\n".join(lines) + "\n"
    kept("evidence.md", text)
    print(text)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
