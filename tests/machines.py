"""Machines and documents that several tests start from."""

import copy
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from desk.job.resolve import Resolver
from documents.job.reader import check_job
from engine.machine import Machine

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "demo" / "watch-room-plotter.oventa.json"
LOGS = ROOT / "tests" / "reference" / "logs"
TRADE = ROOT / "tests" / "reference" / "trade"


def demo_raw() -> dict[str, Any]:
    """The demo job as parsed JSON, free to be changed: without its plan, which names layouts."""
    raw: dict[str, Any] = json.loads(DEMO.read_text(encoding="utf-8"))
    return {key: value for key, value in raw.items() if key not in ("plan", "protocols")}


def layout_raw(raw: dict[str, Any], layout_id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(x for x in raw["layouts"] if x["id"] == layout_id)
    return found


def machine(raw: dict[str, Any] | None = None, layout_id: str = "A", room_c: float | None = None) -> Machine:
    """A resolved machine of a document, the demo job's if none is given."""
    return Resolver(check_job(copy.deepcopy(raw or demo_raw())).doc).machine(layout_id, room_c)


def fan_raw(mount: str, direction: str, speed_pct: float = 80, fan: str = "tern-120", layer: str = "outer") -> dict[str, Any]:
    return {"mount": mount, "fan": fan, "direction": direction, "speed_pct": speed_pct, "layer": layer}


def curved_raw(points: Sequence[Sequence[float]], source: str = "cpu", layout_id: str = "A") -> dict[str, Any]:
    """The demo job with every case fan of a layout on one speed curve."""
    raw = demo_raw()
    raw["curves"] = [{"id": "own", "source": source, "points": [list(p) for p in points]}]
    for place in layout_raw(raw, layout_id)["fans"]:
        place["curve"] = "own"
    return raw


def resized(raw: dict[str, Any], **inner: float) -> dict[str, Any]:
    """The document with another inside, its mounts moved in proportion."""
    case = raw["case"]
    before, case["inner_mm"] = case["inner_mm"], case["inner_mm"] | inner
    for mount in case["mounts"]:
        c = mount["centre_mm"]
        for axis, name in (("x", "depth"), ("y", "width"), ("z", "height")):
            c[axis] *= case["inner_mm"][name] / before[name]
    return raw
