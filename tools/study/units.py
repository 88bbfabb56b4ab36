"""``./oventa study --units``: units of one kind, good ones and ones with a planted fault, each held against the reference by a short run.

The case behaves by parameters of its own that nobody knows, drawn as wide as half the engine's bands; every unit has chips, paste, fans and
probes of its own; readings are those of the stand-in's instruments. The fault's size is drawn, not one that is tried.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from desk.care.commission import CommissioningDoc, commission, reference_of
from desk.job.resolve import Resolver
from documents.job.models import JobDoc
from documents.job.reader import read_job
from engine.coupled.operating_point import loaded
from engine.coupled.transient import run
from engine.learn.faults import CAUSES
from engine.machine import AirCooler, Machine, SealedCooler
from engine.parameters import COUNT, DEFAULT, INDEX, SPREADS
from engine.runs.series import RunLog
from instruments.standin import read_off, truth
from study.tally import Adding, Cells, over_seeds

ROOT = Path(__file__).resolve().parents[2]
JOBS = ("watch-room-plotter", "buoy-mapper", "chart-server", "lamp-recorder")
REFERENCE_MIN, UNIT_MIN, EVERY_S, REPEATS = 30.0, 12.0, 6.0, 3
CHIP, PASTE_SD, FLOW, COOLER = 0.02, 0.012, 0.01, 0.015  # how units of one kind differ, one sigma; no source
HIDDEN = 0.5  # of the engine's spreads
NAMED_FIRST = 0.85
PLAIN_K, PLAIN_AIR_K = 3.0, 1.5  # a fault that really moves a part, or the air, by so much can be told from what good units differ by
KINDS = ("good", *CAUSES)


@dataclass
class Tally(Adding):
    units: int = 0
    failed: int = 0
    looked: int = 0
    named: int = 0
    placed: int = 0
    none_first: int = 0
    plain: int = 0
    plain_named: int = 0
    mistaken: list[str] = field(default_factory=list)


def unit_of(m: Machine, rng: np.random.Generator) -> Machine:
    """One piece of a kind."""

    def about(spread: float) -> float:
        return float(np.exp(rng.normal(0, spread)))

    fans = tuple(replace(f, fan=replace(f.fan, flow_max_m3h=f.fan.flow_max_m3h * about(FLOW))) for f in m.fans)
    cooler = m.cooler
    if isinstance(cooler, AirCooler):
        cooler = replace(cooler, ua_ref_w_per_k=cooler.ua_ref_w_per_k * about(COOLER))
    else:
        cooler = replace(cooler, r_plate_k_per_w=cooler.r_plate_k_per_w * about(COOLER))
    card = m.card and replace(m.card, r_k_per_w=m.card.r_k_per_w * about(CHIP))
    return replace(m, cpu=replace(m.cpu, r_jc_k_per_w=m.cpu.r_jc_k_per_w * about(CHIP)), card=card, fans=fans, cooler=cooler)


Planted = tuple[Machine, np.ndarray, str | None, float]


def planted(kind: str, m: Machine, par: np.ndarray, rng: np.random.Generator) -> Planted | None:
    """The machine with a fault of a kind, its parameters, where the fault is, and how much of the exhaust the room probe hangs in."""
    turning = [i for i, f in enumerate(m.fans) if f.running]
    if kind == "good":
        return m, par, None, 0.0
    if kind.startswith("fan_"):
        if not turning:
            return None
        i = int(rng.choice(turning))
        f = m.fans[i]
        if kind == "fan_reversed":
            other = replace(f, direction="exhaust" if f.direction == "intake" else "intake")
        elif kind == "fan_unplugged":
            other = replace(f, running=False)
        else:
            share = rng.uniform(0.45, 0.8)
            curve = f.curve and replace(f.curve, speeds_pct=tuple(s * share for s in f.curve.speeds_pct))
            other = replace(f, speed_pct=f.speed_pct * share, curve=curve)
        name = f.mount if f.layer == "outer" else f"{f.mount} inner"
        return replace(m, fans=(*m.fans[:i], other, *m.fans[i + 1 :])), par, name, 0.0
    if kind == "paste":
        return replace(m, cpu=replace(m.cpu, r_jc_k_per_w=m.cpu.r_jc_k_per_w * rng.uniform(1.4, 2.2))), par, None, 0.0
    if kind == "pump_slow":
        if not isinstance(m.cooler, SealedCooler):
            return None
        slow = replace(m.cooler, pump_pct=m.cooler.pump_pct * rng.uniform(0.3, 0.7), pump_curve=None)
        return replace(m, cooler=slow), par, None, 0.0
    if kind == "panel":
        faces = list(m.panels)
        if not faces:
            return None
        face = faces[int(rng.integers(len(faces)))]
        return replace(m, panels={**m.panels, face: replace(m.panels[face], removed=not m.panels[face].removed)}), par, face, 0.0
    if kind == "filter":
        if all(p.filter == "none" or p.removed for p in m.panels.values()):
            return None
        clogged = np.array(par)
        clogged[INDEX["coarse_filter_linear_pa"] : INDEX["fine_filter_square_pa"] + 1] *= rng.uniform(4, 12)
        return m, clogged, None, 0.0
    return m, par, None, float(rng.uniform(0.35, 1.0))


def log_of(m: Machine, par: np.ndarray, minutes: float, rng: np.random.Generator, probe: float = 0.0) -> RunLog:
    rows = run(m, minutes, EVERY_S, parameters=par)
    log = read_off(m, rows, EVERY_S, rng)
    channels = dict(log.channels)
    for f in m.fans:
        if not f.running:
            channels[f.channel] = np.zeros_like(channels[f.channel])
    if probe:
        channels["room_c"] = channels["room_c"] + probe * np.array([r.air_rear_k for r in rows])
    for name, values in channels.items():  # each unit's probes hang a little elsewhere
        if name.startswith(("air_", "board_", "vrm_")):
            channels[name] = values + rng.normal(0, 0.25)
    return RunLog(log.elapsed_s, channels)


def cases() -> list[tuple[JobDoc, str]]:
    found = []
    for name in JOBS:
        doc = read_job((ROOT / "demo" / f"{name}.oventa.json").read_bytes()).doc
        found += [(doc, x.id) for x in doc.layouts if x.fans and not x.open_bench]
    return found


def is_plain(good: Machine, wrong: Planted, par: np.ndarray) -> bool:
    """Whether a fault moves anything by enough to be told, in the world itself."""
    a, b = run(good, UNIT_MIN, 60.0, parameters=par)[-1], run(wrong[0], UNIT_MIN, 60.0, parameters=wrong[1])[-1]
    read = wrong[3] * b.air_rear_k
    parts = [abs(b.cpu_k - a.cpu_k - read), abs((b.card_k or 0.0) - (a.card_k or 0.0) - (read if b.card_k else 0.0))]
    return max(parts) >= PLAIN_K or abs(b.air_rear_k - a.air_rear_k - read) >= PLAIN_AIR_K


Told = tuple[CommissioningDoc, str | None, bool]


def one(kind: str, seed: int, all_cases: list[tuple[JobDoc, str]]) -> Told | None:
    rng = np.random.default_rng([seed, KINDS.index(kind)])
    for at in rng.permutation(len(all_cases)):
        doc, layout = all_cases[int(at)]
        plain = loaded(Resolver(doc).machine(layout), "both")
        hidden = DEFAULT * np.exp(HIDDEN * np.log(SPREADS) * rng.normal(size=COUNT))
        kind_of = truth(plain, rng)
        reference = unit_of(kind_of, rng)
        good = unit_of(kind_of, rng)
        wrong = planted(kind, good, hidden, rng)
        if wrong is None:
            continue
        machine, par, where, probe = wrong
        logs: Mapping[str, RunLog] = {f"{layout} {n}": log_of(reference, hidden, REFERENCE_MIN, rng) for n in range(REPEATS)}
        unit = log_of(machine, par, UNIT_MIN, rng, probe)
        return commission(reference_of(doc, layout, {"both": logs}, None), unit), where, is_plain(good, wrong, hidden)
    return None


def row(job: tuple[str, int, int]) -> Tally:
    kind, first, count = job
    found, own = Tally(), cases()
    for seed in range(first, first + count):
        told = one(kind, seed, own)
        if told is None:
            continue
        doc, where, plain = told
        tach = kind in ("fan_unplugged", "fan_slow", "pump_slow")  # its own speed tells
        found.plain += plain or tach
        found.plain_named += (plain or tach) and doc.diagnosis[0].cause == kind
        found.units += 1
        found.failed += doc.verdict == "fail"
        found.looked += doc.verdict == "look"
        wrong = [d for d in doc.diagnosis if d.cause != "none"]
        found.none_first += doc.diagnosis[0].cause == "none"
        if wrong and wrong[0].cause == kind:
            found.named += doc.diagnosis[0].cause == kind
            found.placed += doc.diagnosis[0].cause == kind and wrong[0].mount == where
        if kind != "good" and doc.diagnosis[0].cause != kind:
            found.mistaken.append(doc.diagnosis[0].cause)
    return found


def main(seeds: int, first: int, write: Callable[[str], object]) -> int:
    totals = over_seeds(row, ("good",), Tally, 2 * seeds, first) | over_seeds(row, CAUSES, Tally, seeds, first)
    cells = Cells()
    lines = [
        "# Evidence: units held against the reference run",
        "",
        f"Made by `./oventa study --units {seeds} --seed {first}`. Layouts of the demo jobs, each with parameters of its own that nobody",
        f"knows (half the engine's bands); {REPEATS} reference runs of {REFERENCE_MIN:.0f} min of one unit, then {UNIT_MIN:.0f} min of",
        f"another; twice as many good ones. Chips differ by {100 * CHIP:.0f} %, mounting by {100 * PASTE_SD:.1f} %, fans by",
        f"{100 * FLOW:.0f} %, probes by 0.25 K",
        "(one sigma). Nothing was learned before.",
        "",
        f"A fault is plain where it really moves a part by {PLAIN_K:.0f} K, the air by {PLAIN_AIR_K} K, or a tachometer: panels and",
        "filters of some layouts hardly change anything, and are then rightly taken for nothing.",
        "",
        "| planted | units | failed | to be looked at | named first, all | plain | named first, plain | and its place, all | taken for |",
        "|---|---|---|---|---|---|---|---|---|",
    ]
    for kind, t in totals.items():
        taken = ", ".join(f"{x} {t.mistaken.count(x)}" for x in dict.fromkeys(sorted(t.mistaken)) if x != "none")
        named = "" if kind == "good" else cells.share(t.named, t.units)
        plain = "" if kind == "good" else cells.share(t.plain_named, t.plain, NAMED_FIRST)
        failed = cells.share(t.failed, t.units, None, 0.0) if kind == "good" else cells.share(t.failed, t.units)
        lines.append(
            f"| {kind} | {t.units} | {failed} | {cells.share(t.looked, t.units)} | {named} | {t.plain} | "
            f"{plain} | {'' if kind == 'good' else cells.share(t.placed, t.units)} | {taken} |"
        )
    text = "\n".join(lines) + "\n"
    print(text)
    write(text)
    return 1 if cells.missed else 0
