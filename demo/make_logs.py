"""Makes the demo's run logs: the engine's own transient with hidden true parameters, sensor noise and a drifting room.

Everything here is made up. Run from the project's folder: ``.venv/bin/python -m demo.make_logs`` (PYTHONPATH=src).
"""

import csv
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from desk.job.resolve import Resolver
from documents.job.reader import read_job
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.coupled.transient import warm_up
from engine.machine import AirCooler, Machine

HERE = Path(__file__).parent
STEP_S = 2.0


@dataclass(frozen=True)
class Planned:
    """One made-up run: what is logged, and what is wrong with it."""

    file: str
    layout: str
    seed: int
    minutes: float = 34
    room_c: float = 22.0
    logged_room_c: float | None = None  # what the sheet says, where that is not the room


RUNS = (
    Planned("a-1", "A", 11, room_c=21.6),
    Planned("a-2", "A", 12, room_c=22.4),
    Planned("b-1", "B", 21, room_c=22.1),
    Planned("c-1", "C", 31, minutes=44, room_c=21.9),
    Planned("c-2", "C", 32, minutes=44, room_c=22.6),
    Planned("d-1", "D", 41, minutes=44, room_c=22.2),
    Planned("d-2", "D", 42, minutes=44, room_c=22.0),
    Planned("d-too-short", "D", 43, minutes=9, room_c=22.3),
    Planned("b-wrong-room", "B", 22, room_c=22.0, logged_room_c=27.4),
)


def truth(machine: Machine) -> Machine:
    """The machine as it really is: hidden offsets from what the sheets say."""
    cpu = replace(machine.cpu, r_jc_k_per_w=machine.cpu.r_jc_k_per_w * 1.12)
    card = replace(machine.card, r_k_per_w=machine.card.r_k_per_w * 0.93) if machine.card else None
    fans = tuple(replace(f, fan=replace(f.fan, flow_max_m3h=f.fan.flow_max_m3h * 0.96)) for f in machine.fans)
    cooler = machine.cooler
    if isinstance(cooler, AirCooler):
        cooler = replace(cooler, ua_ref_w_per_k=cooler.ua_ref_w_per_k * 0.92)
    return replace(machine, cpu=cpu, card=card, fans=fans, cooler=cooler)


def log_of(run: Planned) -> list[list[str]]:
    """Rows of one log: heading, then readings every two seconds."""
    rng = np.random.default_rng(run.seed)
    resolver = Resolver(read_job((HERE / "watch-room-plotter.oventa.json").read_bytes()).doc)
    machine = truth(resolver.machine(run.layout, run.room_c))
    point = operating_point(machine)
    level = forecast(point).sound.level_dba
    rebuild = rng.normal(0, 0.012, 2)  # paste and mounting differ a little from one build to the next
    rows = [["elapsed_s", "cpu_package_c", "card_core_c", "room_c", "cpu_power_w", "card_power_w", "sound_dba"]]
    wander = np.cumsum(rng.normal(0, 0.004, int(run.minutes * 60 / STEP_S) + 2))
    for i, m in enumerate(warm_up(machine, run.minutes, STEP_S, point)):
        room = run.room_c + 0.25 * m.minutes / run.minutes + wander[i]
        shown = room if run.logged_room_c is None else run.logged_room_c
        cpu = room + m.cpu_k * (1 + rebuild[0]) + rng.normal(0, 0.7)
        card = room + (m.card_k or 0.0) * (1 + rebuild[1]) + rng.normal(0, 0.3)
        watts = [rng.normal(machine.cpu.power_w, 1.6), rng.normal(machine.card.power_w if machine.card else 0, 1.8)]
        figures = [f"{cpu:.0f}", f"{card:.1f}", f"{shown:.1f}", f"{watts[0]:.0f}", f"{watts[1]:.0f}", f"{level + rng.normal(0, 0.5):.1f}"]
        rows.append([f"{m.minutes * 60:.0f}", *figures])
    return rows


def main() -> None:
    for run in RUNS:
        with open(HERE / "logs" / f"{run.file}.csv", "w", newline="", encoding="utf-8") as file:
            csv.writer(file, lineterminator="\n").writerows(log_of(run))


if __name__ == "__main__":
    main()
