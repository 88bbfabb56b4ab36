"""Exercises: a made-up machine with faults planted by a seed; what is right is what the findings say of it, nothing else."""

from collections.abc import Callable, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Literal, get_args

import numpy as np
from pydantic import BaseModel

from desk.begin.sketch import RowIn, SketchIn, sketch
from desk.forecast.document import Oracle, Question
from desk.words.practice import PLANTED
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.errors import OventaError
from engine.findings.finding import Finding

Kind = Literal["reversed", "opposed", "choked", "starved", "pump_high", "short_circuit", "unplugged", "negative"]
KINDS: tuple[Kind, ...] = get_args(Kind)
CODES: Mapping[Kind, frozenset[str]] = MappingProxyType(
    {
        "reversed": frozenset({"flip_would_help", "neighbours_fight", "no_exhaust", "top_intake_over_card", "bottom_exhaust_under_card"}),
        "opposed": frozenset({"radiator_fans_opposed", "fans_opposed_in_series"}),
        "choked": frozenset({"fan_choked"}),
        "starved": frozenset({"card_starved"}),
        "pump_high": frozenset({"pump_at_top"}),
        "short_circuit": frozenset({"intake_leaves_unused"}),
        "unplugged": frozenset({"fan_unplugged"}),
        "negative": frozenset({"negative_unfiltered"}),
    }
)
PLACED: frozenset[Kind] = frozenset({"reversed", "opposed", "choked", "short_circuit", "unplugged"})  # asked with a mount
FAULTS = {1: 1, 2: 2, 3: 3}  # by level
NO_AIR_LEVEL = 3
MOST_TRIES, STUBBORN = 400, 10  # numerical
CONSEQUENCES = 1  # of what was planted: a reversed exhaust also leaves the case without one
RIGHT, WRONG, HINT = 1.0, 0.5, 0.25  # points


class Mark(BaseModel):
    """What a person says is wrong; ``mount`` where the kind has one."""

    kind: Kind
    mount: str | None = None


class Explained(BaseModel):
    """A finding of the machine that belongs to one of the kinds."""

    kind: Kind
    found: bool
    mounts: list[str]
    what: str
    because: str
    do: str


class Marked(BaseModel):
    kind: Kind
    mount: str | None
    right: bool


class Scored(BaseModel):
    """``score`` from 0 to 100; every finding is explained, found or not."""

    score: float
    solved: bool
    marks: list[Marked]
    explained: list[Explained]


@dataclass(frozen=True)
class Exercise:
    """``answer``: mounts by kind, as the findings have them."""

    seed: int
    level: int
    doc: JobDoc
    findings: tuple[Finding, ...]

    @property
    def air_drawn(self) -> bool:
        """Whether one sees how the air goes before one has answered."""
        return self.level < NO_AIR_LEVEL

    @property
    def answer(self) -> dict[Kind, set[str]]:
        return answer_of(self.findings)

    def hints(self) -> list[str]:
        """First which kinds there are, then on which face or thing to look."""
        found = [f"It is this: {PLANTED[k]}." for k in self.answer]
        for kind, mounts in self.answer.items():
            faces = sorted({m.face for m in self.doc.case.mounts if m.id in mounts})
            if kind in PLACED and faces:
                found.append(f"Look at the {' and the '.join(faces)}: {PLANTED[kind]}.")
        return found

    def facts(self) -> list[str]:
        """What one sees and reads at the machine, faults or not."""
        case, layout = self.doc.case, self.doc.layouts[0]
        grilles = {m.id: m.grille_open_pct for m in case.mounts}
        lines = [
            f"{p.face} panel: {p.kind}" + (f", {p.open_area_pct:.0f} % open" if p.open_area_pct and p.kind == "mesh" else "")
            for p in case.panels
        ]
        for f in layout.fans:
            grille = grilles[f.mount]
            behind = "open mount" if grille == 100 else f"stamped grille, {grille:.0f} % open"
            layer = ", inner side of the radiator" if f.layer == "inner" else ""
            lines.append(
                f"{f.mount.upper()}{layer}: set to {f.speed_pct:.0f} %, {behind}{', stands still' if f.state != 'running' else ''}"
            )
        lines.append(f"card: {self.doc.parts.cards[0].power_w:.0f} W")
        if layout.radiator:
            mounts = ", ".join(m.upper() for m in layout.radiator.mounts)
            lines.append(f"sealed cooler, its pump on the processor; radiator at {mounts}, tubes at the {layout.radiator.tubes}")
        return lines

    def score(self, marks: Sequence[Mark], hints: int = 0) -> Scored:
        answer = self.answer
        told = [
            Marked(kind=k, mount=m, right=_right(Mark(kind=k, mount=m), answer)) for k, m in dict.fromkeys((x.kind, x.mount) for x in marks)
        ]
        hit = {m.kind for m in told if m.right}
        wrong = sum(not m.right for m in told)
        points = RIGHT * len(hit) - WRONG * wrong - HINT * hints
        return Scored(
            score=100 * max(points, 0.0) / (RIGHT * len(answer)) if answer else 0.0,
            solved=hit == set(answer),
            marks=told,
            explained=[
                Explained(kind=k, found=k in hit, mounts=list(f.mounts), what=f.what, because=f.because, do=f.do)
                for k in answer
                for f in self.findings
                if f.code in CODES[k]
            ],
        )


def _right(mark: Mark, answer: Mapping[Kind, set[str]]) -> bool:
    if mark.kind not in answer:
        return False
    return mark.kind not in PLACED or mark.mount in answer[mark.kind]


def answer_of(findings: Sequence[Finding]) -> dict[Kind, set[str]]:
    found: dict[Kind, set[str]] = {}
    for f in findings:
        for kind in KINDS:
            if f.code in CODES[kind]:
                found.setdefault(kind, set()).update(f.mounts)
    return found


def exercise(seed: int, level: int) -> Exercise:
    """The same seed and level give the same machine. Raises DocumentError for a level that is none."""
    if level not in FAULTS:
        raise DocumentError([Fault("level", f"there is no level {level}", f"Use one of {', '.join(map(str, FAULTS))}.")])
    rng = np.random.default_rng([seed, level])
    planted: list[Kind] = []
    for n in range(MOST_TRIES):
        if n % STUBBORN == 0:  # some faults rarely come alone: they are tried for a while before others are taken
            planted = [KINDS[int(i)] for i in rng.choice(len(KINDS), FAULTS[level], replace=False)]
        raw = _sound(rng, planted)
        where = [PLANTERS[kind](raw, rng) for kind in planted]
        if None in where:
            continue
        try:
            doc = check_job(raw).doc
            findings = Oracle(doc, Question()).plain_findings("A")
        except (OventaError, DocumentError):
            continue
        answer = answer_of(findings)
        fits = set(planted) <= set(answer) and len(answer) <= len(planted) + CONSEQUENCES
        if fits and all(not place or place in answer[k] for k, place in zip(planted, where, strict=True)):
            return Exercise(seed, level, doc, findings)
    raise DocumentError([Fault("seed", f"no machine was found for seed {seed}", "Take the next one.")])


def _fan(mount: str, way: str, speed: float = 75.0, layer: str = "outer") -> dict[str, Any]:
    return {"mount": mount, "fan": "plain", "direction": way, "speed_pct": speed, "layer": layer}


def _sound(rng: np.random.Generator, planted: Sequence[Kind]) -> dict[str, Any]:
    """A machine without a fault of these kinds, as far as it can be said before it is looked at."""
    sealed = "pump_high" in planted or "opposed" in planted or bool(rng.random() < 0.3 and "short_circuit" not in planted)
    front = 3 if sealed or rng.random() < 0.7 else 2
    rows = [
        RowIn(face="front", count=front, size_mm=120),
        RowIn(face="top", count=3, size_mm=120),
        RowIn(face="rear", count=1, size_mm=120),
    ]
    size = {
        "depth_mm": float(rng.integers(400, 470)),
        "height_mm": float(rng.integers(475, 520)),
        "width_mm": float(rng.integers(205, 235)),
    }
    case = sketch(SketchIn(like="tower", rows=rows, **size))
    for panel in case["panels"]:
        if panel["face"] in ("front", "top"):
            panel |= {"kind": "mesh", "open_area_pct": float(rng.integers(50, 65)), "filter": "none"}
    fans = [_fan(f"f{n + 1}", "intake", float(rng.integers(70, 90))) for n in range(front)]
    fans.append(_fan("r1", "exhaust", float(rng.integers(70, 90))))
    layout: dict[str, Any] = {"id": "A", "name": "as it was handed in", "fans": fans}
    base = {"cpu": "cpu", "card": "card", "cooler": "tower", "cooler_fan_pct": 70, "card_fan_pct": 75}
    if sealed:
        base["cooler"] = "sealed"
        layout["radiator"] = {"radiator": "fin", "mounts": ["t1", "t2"], "tubes": "front"}
        fans += [_fan(m, "exhaust", 75, "inner") for m in ("t1", "t2")]
    elif rng.random() < 0.5:
        fans.append(_fan("t3", "exhaust", 60))
    return {
        "format": "oventa-job",
        "version": 1,
        "name": "Practice",
        "room": {"temperature_c": 22, "background_dba": 28},
        "case": case,
        "parts": deepcopy(PARTS) | {"cards": [PARTS["cards"][0] | {"power_w": float(rng.integers(180, 260))}]},
        "base": base,
        "layouts": [layout],
    }


PARTS: dict[str, Any] = {
    "board_power_w": 35,
    "cpus": [{"id": "cpu", "name": "processor", "power_w": 120, "r_jc_k_per_w": 0.14}],
    "cards": [
        {
            "id": "card",
            "name": "card",
            "power_w": 220,
            "length_mm": 285,
            "slots": 2.5,
            "fan_flow_max_m3h": 110,
            "fan_pressure_max_pa": 35,
            "fin_drop_pa": 14,
            "r_k_per_w": 0.1,
            "noise_dba": 36,
        }
    ],
    "coolers": [
        {
            "id": "tower",
            "name": "tower",
            "kind": "tower",
            "height_mm": 157,
            "fan": "plain",
            "flow_ref_m3h": 50,
            "fin_drop_pa": 7,
            "ua_ref_w_per_k": 11,
            "r_base_k_per_w": 0.06,
            "heat_capacity_j_per_k": 700,
        },
        {"id": "sealed", "name": "sealed cooler", "kind": "sealed", "r_plate_k_per_w": 0.06, "pump": "block"},
    ],
    "radiators": [{"id": "fin", "name": "radiator", "sections": 2, "section_mm": 120}],
    "fans": [
        {"id": "plain", "name": "fan", "size_mm": 120, "speed_max_rpm": 1500, "flow_max_m3h": 95, "pressure_max_pa": 18, "noise_dba": 26},
    ],
}


def _fans(raw: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = raw["layouts"][0]["fans"]
    return found


def _pick(raw: dict[str, Any], rng: np.random.Generator, keep: Callable[[dict[str, Any]], bool]) -> dict[str, Any] | None:
    free = [f for f in _fans(raw) if f.get("state") != "unplugged" and not f.get("planted") and keep(f)]
    return free[int(rng.integers(len(free)))] if free else None


def _reverse(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    fan = _pick(raw, rng, lambda f: f["layer"] == "outer")
    if fan:
        fan["direction"] = "exhaust" if fan["direction"] == "intake" else "intake"
    return str(fan["mount"]) if fan else None


def _unplug(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    fan = _pick(raw, rng, lambda f: f["layer"] == "outer")
    if fan:
        fan["state"] = "unplugged"
    return str(fan["mount"]) if fan else None


def _choke(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    fan = _pick(raw, rng, lambda f: f["layer"] == "outer" and f["direction"] == "intake")
    if fan is None:
        return None
    mount = next(m for m in raw["case"]["mounts"] if m["id"] == fan["mount"])
    mount["grille_open_pct"] = float(rng.integers(8, 14))
    return str(fan["mount"])


def _oppose(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    mounts = raw["layouts"][0].get("radiator", {}).get("mounts", [])
    if not mounts:
        return None
    mount = str(mounts[int(rng.integers(len(mounts)))])
    _fans(raw).append(_fan(mount, "intake", 75, "outer"))
    return mount


def _starve(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    """A hot card low in a case whose front is shut."""
    raw["parts"]["cards"][0]["power_w"] = float(rng.integers(330, 400))
    for panel in raw["case"]["panels"]:
        if panel["face"] == "front":
            panel |= {"kind": "solid", "gap_area_cm2": 12}
    return ""


def _raise_pump(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    """The radiator low in the front, under the pump on the processor."""
    if "radiator" not in raw["layouts"][0]:
        return None
    front = [m["id"] for m in raw["case"]["mounts"] if m["face"] == "front"][-2:]
    raw["layouts"][0]["radiator"] |= {"mounts": front, "tubes": "bottom"}
    fans = [f for f in _fans(raw) if f["layer"] == "outer" and f["mount"] not in front]
    raw["layouts"][0]["fans"] = [*fans, *(_fan(m, "intake", 80) for m in front), _fan("t2", "exhaust", 60)]
    return ""


def _short(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    """A top intake right beside the exhaust behind the cooler."""
    taken = {f["mount"] for f in _fans(raw)}
    if "radiator" in raw["layouts"][0]:
        return None
    raw["layouts"][0]["fans"] = [f for f in _fans(raw) if f["mount"] not in ("t1", "t2", "t3")]
    mount = max((m for m in raw["case"]["mounts"] if m["face"] == "top"), key=lambda m: m["centre_mm"]["x"])["id"]
    if mount in taken and mount not in ("t1", "t2", "t3"):
        return None
    _fans(raw).append(_fan(str(mount), "intake", 90))
    return str(mount)


def _draw(raw: dict[str, Any], rng: np.random.Generator) -> str | None:
    """Strong exhausts, weak intakes, gaps that let dust in."""
    for f in _fans(raw):
        f["speed_pct"] = 100.0 if f["direction"] == "exhaust" else 30.0
    taken = {f["mount"] for f in _fans(raw)}
    if "t2" not in taken:
        _fans(raw).append(_fan("t2", "exhaust", 100))
    return ""


PLANTERS: Mapping[Kind, Callable[[dict[str, Any], np.random.Generator], str | None]] = MappingProxyType(
    {
        "reversed": _reverse,
        "opposed": _oppose,
        "choked": _choke,
        "starved": _starve,
        "pump_high": _raise_pump,
        "short_circuit": _short,
        "unplugged": _unplug,
        "negative": _draw,
    }
)
