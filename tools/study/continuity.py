"""Steps of one per cent: every figure of random cases changed a little, and how far the forecast moves. Nothing may jump."""

import copy
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from multiprocessing import Pool
from typing import Any

import numpy as np

from desk.job.resolve import Resolver
from documents.errors import DocumentError
from documents.job.reader import check_job
from engine.coupled.operating_point import OperatingPoint, operating_point
from study.cases import complete, random_document
from study.tally import said

STEP = 0.01
MOST_K = 0.5
MOST_SHARE = 0.0105  # a per cent more heat is a per cent more rise and a little, since warm air is thinner
# Counted things, names of sizes and temperatures (whose nought means nothing) have no per cent.
COUNTED = {"sizes_mm", "size_mm", "sections", "slots", "version", "turns_90", "takes_slots", "section_mm", "tj_max_c", "t_limit_c"}
Path = tuple[str | int, ...]
DEPTH: Path = ("case", "inner_mm", "depth")
JUMP_TENTH = 0.25  # a tenth of a step that makes a quarter of its move


@dataclass(frozen=True)
class Moved:
    """One figure of the forecast, moved further than a per cent of anything may move it; ``most_tenth`` is the largest share
    of that in one of ten equal parts of the step: a tenth where it is a slope, near 1 where it is a jump."""

    seed: int
    path: str
    figure: str
    from_k: float
    to_k: float
    most_tenth: float = 0.0

    @property
    def by_k(self) -> float:
        return abs(self.to_k - self.from_k)


def figures(raw: dict[str, Any]) -> tuple[dict[str, float], bool]:
    """Rises in K of a document's layout A, and whether a second equilibrium or hunting is reported."""
    point = operating_point(Resolver(check_job(raw).doc).machine("A"))
    rises = {"processor": point.cpu_rise_k, "rear air": point.rear_rise_k}
    if point.card_rise_k is not None:
        rises["card"] = point.card_rise_k
        rises["card inlet"] = point.card_inlet_rise_k or 0.0
    return rises, _switches(point)


def _switches(point: OperatingPoint) -> bool:
    return not point.converged or point.curving.other_cpu_rise_k is not None or point.curving.loop_gain < -1


def leaves(raw: Any, path: Path = ()) -> Iterator[Path]:
    """Paths of every figure that is not nought."""
    if isinstance(raw, dict):
        for name, value in raw.items():
            if name not in COUNTED:
                yield from leaves(value, (*path, name))
    elif isinstance(raw, list):
        for i, value in enumerate(raw):
            yield from leaves(value, (*path, i))
    elif isinstance(raw, int | float) and not isinstance(raw, bool) and raw:
        yield path


def stepped(raw: dict[str, Any], path: Path, part: float = 1.0) -> dict[str, Any]:
    """The document with one figure changed by ``part`` of the step, as a person changes it: the board stays at a rear wall that moves."""
    changed = copy.deepcopy(raw)
    holder: Any = changed
    for key in path[:-1]:
        holder = holder[key]
    was = holder[path[-1]]
    full = str(path[-1]).endswith("_pct") and was * (1 + STEP) > 100
    holder[path[-1]] = was * (1 - part * STEP if full else 1 + part * STEP)
    if path == DEPTH and changed["case"].get("cpu_centre_mm"):
        changed["case"]["cpu_centre_mm"]["x"] += holder[path[-1]] - was
    return changed


def most_tenth(raw: dict[str, Any], path: Path, figure: str) -> float:
    """The largest share of a step's move that one of its ten equal parts makes."""
    rises = [figures(stepped(raw, path, i / 10))[0][figure] for i in range(11)]
    whole = abs(rises[-1] - rises[0])
    return max(abs(b - a) for a, b in pairwise(rises)) / whole


def richer(raw: dict[str, Any], seed: int) -> dict[str, Any]:
    """A random document with all that a step can move: the processor's place, a block, a vent, a cooler's height."""
    rng = np.random.default_rng(seed + 3 * 10**6)
    inner, case = raw["case"]["inner_mm"], raw["case"]
    board = min(float(rng.choice([170, 190, 244, 305])), inner["depth"])
    case["board_depth_mm"] = board
    x = inner["depth"] - board / 2 + float(rng.choice([0.0, rng.uniform(-30, 30)]))
    case["cpu_centre_mm"] = {"x": min(max(x, 1.0), inner["depth"]), "z": float(rng.uniform(0.45, 0.85)) * inner["height"]}
    case["vents"] = [{"id": "v", "face": "top", "centre_mm": {"x": x, "y": inner["width"] / 2, "z": inner["height"]}, "area_cm2": 30}]
    start = float(rng.uniform(0.1, 0.6)) * inner["depth"]
    low, high = {"x": start, "y": 1, "z": 10}, {"x": start + 100, "y": 0.6 * inner["width"], "z": 0.5 * inner["height"]}
    case["blocks"] = [{"id": "b", "kind": "cage", "from_mm": low, "to_mm": high, "free_pct": 40}]
    case["set_back"] = [{"face": "front", "top_mm": float(rng.uniform(5, 40)), "bottom_mm": 10}]
    for cooler in raw["parts"]["coolers"]:
        if cooler["kind"] == "downdraft":
            cooler["height_mm"] = float(rng.uniform(37, 80))
    return raw


def moves_of(seed: int) -> tuple[list[Moved], int]:
    """Of one random case: the moves that are too large, and how many steps were tried."""
    raw = richer(complete(random_document(seed), seed), seed)
    before, unsure = figures(raw)
    found, tried = [], 0
    for path in (*leaves(raw["case"], ("case",)), *leaves(raw["parts"], ("parts",)), *leaves(raw["layouts"], ("layouts",))):
        try:
            after, switched = figures(stepped(raw, path))
        except DocumentError:
            continue  # a step over the edge of what a document may say
        tried += 1
        for name, value in after.items():
            most = max(MOST_K, MOST_SHARE * abs(before[name]))
            if abs(value - before[name]) > most and not (unsure or switched):
                tenth = most_tenth(raw, path, name)
                found.append(Moved(seed, ".".join(map(str, path)), name, before[name], value, tenth))
    return found, tried


def report(cases: int, seed: int) -> tuple[str, int]:
    """What the study found, as text, and in how many cases something moved too far."""
    found: list[Moved] = []
    tried = 0
    with Pool() as pool:
        for done, (one, count) in enumerate(pool.imap(moves_of, range(seed, seed + cases), chunksize=4)):
            said(done, cases)
            found += one
            tried += count
    by_name: dict[str, list[Moved]] = defaultdict(list)
    for m in found:
        by_name[".".join(p for p in m.path.split(".") if not p.isdigit())].append(m)
    wrong = len({m.seed for m in found})
    jumps = {(m.seed, m.path) for m in found if m.most_tenth > JUMP_TENTH}
    lines = [
        "# Evidence: steps of one per cent",
        "",
        f"Made by `./oventa study --steps {cases} --seed {seed}`: {tried} steps of {cases} random cases, each figure of case, parts and",
        "layout changed by 1 % (the case's depth with its board, which stands at the rear wall). A step is too large when a rise",
        f"moves by more than {MOST_K} K and more than {100 * MOST_SHARE:.2f} % of itself, unless a switch of equilibrium is reported.",
        "Each of those was taken again in ten parts: a slope moves by about a tenth in each, a jump by nearly all in one.",
        "",
        "| what | figure |",
        "|---|---|",
        f"| steps too large | {len({(m.seed, m.path) for m in found})} in {wrong} cases |",
        f"| of them jumps (a tenth of the step makes a quarter of its move) | {len(jumps)} |",
        f"| the most uneven | {max((m.most_tenth for m in found), default=0.1):.0%} of the move in one tenth |",
        *(
            f"| {name} | {len(ms)}, largest {max(ms, key=lambda m: m.by_k).by_k:.2f} K ({max(ms, key=lambda m: m.by_k).figure}, seed "
            f"{max(ms, key=lambda m: m.by_k).seed}) |"
            for name, ms in sorted(by_name.items(), key=lambda x: -len(x[1]))
        ),
    ]
    return "\n".join(lines) + "\n", wrong
