"""A made-up campaign in the demo's case: a ladder, a factorial, three speeds, a panel off, push and pull, four loads.

Runs come from the stand-in bench: one machine whose hidden truth is ``TRUTH_SEED``, so that the tests know what is true.
"""

import copy
import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from desk.job.resolve import Resolver
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.coupled.operating_point import loaded
from engine.runs.series import RunLog
from instruments.standin import SameMachine

HERE = Path(__file__).parent
NAME = "Fog-signal desk"
TRUTH_SEED = 7
MINUTES, EVERY_S = 70.0, 4.0
KEPT = (
    *("cpu_package_c", "cpu_core_1_c", "cpu_core_2_c", "cpu_core_3_c", "card_core_c", "coolant_c", "air_front_c", "air_rear_c"),
    *("room_c", "cpu_power_w", "card_power_w", "cpu_clock_mhz", "sound_dba"),
)
POINTS = (
    {"id": "front", "name": "behind the front", "at_mm": {"x": 60, "y": 100, "z": 300}, "sensor": 1},
    {"id": "rear", "name": "at the rear", "at_mm": {"x": 385, "y": 100, "z": 270}, "sensor": 2},
)

Raw = dict[str, Any]


def fan(mount: str, direction: str = "intake", pct: float = 80, kind: str = "tern-120", layer: str = "outer") -> Raw:
    return {"mount": mount, "fan": kind, "direction": direction, "speed_pct": pct, "layer": layer}


REAR = fan("r1", "exhaust")
ONE, TWO, THREE = [REAR, fan("f3")], [REAR, fan("f3"), fan("f2")], [REAR, fan("f3"), fan("f2"), fan("f1")]
TOP = fan("t1", "exhaust")
NO_FRONT = {"front": {"state": "removed"}}
LOOP = {"cooler": "shearwater", "radiator": {"radiator": "fin-240", "mounts": ["f1", "f2"], "gap_mm": 0, "tubes": "bottom"}}
PUSHED = [REAR, fan("f1", pct=60, kind="skua-120"), fan("f2", pct=60, kind="skua-120")]
PULLED = [fan("f1", pct=60, kind="skua-120", layer="inner"), fan("f2", pct=60, kind="skua-120", layer="inner")]


def _at(fans: list[Raw], pct: float) -> list[Raw]:
    return [f | {"speed_pct": pct} for f in fans]


LAYOUTS: tuple[Raw, ...] = (
    {"id": "A", "name": "rear fan alone", "fans": [REAR], "looks_score": 3},
    {"id": "B", "name": "one in front", "fans": ONE, "looks_score": 3},
    {"id": "C", "name": "two in front", "fans": TWO, "looks_score": 4},
    {"id": "D", "name": "three in front", "fans": THREE, "looks_score": 5},
    {"id": "E", "name": "three in front, one on top", "fans": [*THREE, TOP], "looks_score": 4},
    {"id": "F", "name": "two and the top", "fans": [*TWO, TOP], "looks_score": 4},
    {"id": "G", "name": "two, front panel off", "fans": TWO, "panels": NO_FRONT, "looks_score": 0},
    {"id": "H", "name": "two and the top, panel off", "fans": [*TWO, TOP], "panels": NO_FRONT, "looks_score": 0},
    {"id": "I", "name": "two in front, slow", "fans": _at(TWO, 60), "looks_score": 4},
    {"id": "J", "name": "two in front, fast", "fans": _at(TWO, 100), "looks_score": 4},
    {"id": "K", "name": "three in front, slow", "fans": _at(THREE, 60), "looks_score": 5},
    {"id": "L", "name": "radiator in front", "fans": PUSHED, "looks_score": 4, **LOOP},
    {"id": "M", "name": "the same, push and pull", "fans": [*PUSHED, *PULLED], "looks_score": 3, **LOOP},
)


@dataclass(frozen=True)
class Made:
    """Which run of which layout; the tests' truth is that of the same layout and load."""

    layout: str
    load: str
    nth: int


RUNS = (
    *(Made(x, "both", n) for x in "ABCD" for n in (1, 2, 3)),
    *(Made(x, "both", n) for x in "EFGHIJKLM" for n in (1, 2)),
    *(Made(x, load, n) for load in ("idle", "cpu", "card") for x in "ACD" for n in (1, 2)),
)


def document() -> JobDoc:
    """The plotter's case and parts with the campaign's layouts."""
    raw = json.loads((HERE / "watch-room-plotter.oventa.json").read_bytes())
    raw |= {"name": NAME, "note": "A made-up campaign that answers most questions.", "layouts": copy.deepcopy(list(LAYOUTS))}
    raw["points"] = copy.deepcopy(list(POINTS))
    for name in ("plan", "protocols", "ideas", "scenarios"):
        raw.pop(name, None)
    return check_job(raw).doc


def benches(doc: JobDoc) -> dict[tuple[str, str], SameMachine]:
    """One made-up machine per layout and load, all of the same truth."""
    resolver = Resolver(doc)
    keys = dict.fromkeys((r.layout, r.load) for r in RUNS)
    return {key: SameMachine(loaded(resolver.machine(key[0], 22.0), key[1]), TRUTH_SEED, MINUTES, EVERY_S) for key in keys}


def logs(doc: JobDoc) -> Iterator[tuple[Made, RunLog]]:
    """Every run of the campaign in its order."""
    found = benches(doc)
    for i, made in enumerate(RUNS):
        log = found[made.layout, made.load].log(500 + i)
        yield made, RunLog(log.elapsed_s, {name: log.channels[name] for name in KEPT if name in log.channels})
