"""How a search grows with mounts and fans: layouts, forecasts and time, drawn in docs/search-growth.svg."""

import gc
import json
import time
from dataclasses import dataclass
from math import log10
from pathlib import Path
from typing import Any

import psutil

from desk.search.document import search
from desk.search.question import SearchQuestion
from documents.job.models import JobDoc
from documents.job.reader import check_job
from study.tally import kept

ROOT = Path(__file__).resolve().parents[2]
FANS = (2, 4, 6)
MOUNTS = range(3, 10)
W, H, LEFT, BOTTOM = 560, 320, 60, 280


@dataclass(frozen=True)
class Grown:
    fans: int
    mounts: int
    layouts: int
    possible: int
    forecasts: int
    seconds: float
    exhaustive: bool


def job(mounts: int, fans: int) -> JobDoc:
    """The demo's first case with so many mounts (two more than it has are put into its bottom), a sealed cooler and one kind of fan."""
    raw: dict[str, Any] = json.loads(next((ROOT / "demo").glob("watch-room*.json")).read_text(encoding="utf-8"))
    own = raw["case"]["mounts"]
    for i in range(max(mounts - len(own), 0)):
        bottom = {"id": f"b{i + 1}", "face": "bottom", "centre_mm": {"x": 90 + 130 * i, "y": 100, "z": 0}, "sizes_mm": [120]}
        own.append({**bottom, "thickness_mm": 25})
    radiator = next(x for x in raw["layouts"] if x.get("radiator"))
    held = set(radiator["radiator"]["mounts"])
    raw["case"]["mounts"] = sorted(own, key=lambda m: m["id"] not in held)[:mounts]
    left = {m["id"] for m in raw["case"]["mounts"]}
    for rail in raw["case"].get("rails", []):
        rail["mounts"] = [m for m in rail["mounts"] if m in left]
    raw["case"]["rails"] = [rail for rail in raw["case"].get("rails", []) if rail["mounts"]]
    fan = raw["parts"]["fans"][0]["id"]
    start = {**radiator, "fans": [f for f in radiator["fans"] if f["mount"] in left][:fans]}
    for place in start["fans"]:
        place["fan"] = fan
    raw["layouts"], raw["stock"], raw["plan"] = (
        [start],
        {"fans": {f["id"]: fans if f["id"] == fan else 0 for f in raw["parts"]["fans"]}},
        None,
    )
    raw.pop("plan")
    return check_job(raw).doc


def grown(mounts: int, fans: int) -> Grown:
    doc = job(mounts, fans)
    begun = time.perf_counter()
    found = search(doc, SearchQuestion(max_dba=36, swap_cooler=False))
    return Grown(fans, mounts, found.distinct, found.possible, found.evaluated, time.perf_counter() - begun, found.exhaustive)


def main() -> int:
    grown(3, 2)  # compiled and imported before anything is timed
    rows = [grown(m, f) for f in FANS for m in MOUNTS]
    gc.collect()
    held_gb = psutil.Process().memory_info().rss / 1e9
    kept("search-growth.svg", drawing(rows))
    text = report(rows, held_gb)
    kept("evidence-search.md", text)
    print(text)
    return 0


def report(rows: list[Grown], held_gb: float) -> str:
    lines = [
        "# Evidence: how a search grows",
        "",
        "Made by `./oventa study --search`: the demo's first case with a sealed cooler and fans of one kind on hand, under 36 dBA,",
        "the radiator in every place that takes it. Seconds are of the machine it ran on: solving, frontier and words together.",
        "",
        "![Seconds against mounts, a line for each number of fans](search-growth.svg)",
        "",
        "| fans | mounts | layouts | looked at | forecasts | seconds | forecasts/s |",
        "|---|---|---|---|---|---|---|",
    ]
    for r in rows:
        looked = "all" if r.exhaustive else f"{r.layouts:,}"
        lines.append(
            f"| {r.fans} | {r.mounts} | {r.possible:,} | {looked} | {r.forecasts:,} | {r.seconds:.1f} | {r.forecasts / r.seconds:,.0f} |"
        )
    return "\n".join([*lines, "", f"The process held {held_gb:.2f} GB at the end.", ""])


def drawing(rows: list[Grown]) -> str:
    """Seconds, on a scale of tens, against mounts."""
    most, tens = max(r.seconds for r in rows), (0.1, 1.0, 10.0, 100.0)
    top = next(t for t in tens if t >= most or t == tens[-1])

    def x(mounts: int) -> float:
        return LEFT + (mounts - MOUNTS[0]) / (MOUNTS[-1] - MOUNTS[0]) * (W - LEFT - 90)

    def y(seconds: float) -> float:
        return BOTTOM - log10(max(seconds, tens[0]) / tens[0]) / log10(top / tens[0]) * (BOTTOM - 30)

    parts = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {W} {H}" font-family="sans-serif" font-size="12">']
    parts.append(f'<rect width="{W}" height="{H}" fill="#fcf7eb"/>')
    for t in tens:
        if t <= top:
            parts.append(f'<path d="M{LEFT} {y(t):.1f}H{W - 90}" stroke="#ccc"/>')
            parts.append(f'<text x="{LEFT - 6}" y="{y(t) + 4:.1f}" text-anchor="end">{t:g}</text>')
    for m in MOUNTS:
        parts.append(f'<text x="{x(m):.1f}" y="{BOTTOM + 18}" text-anchor="middle">{m}</text>')
    for fans in FANS:
        own = [r for r in rows if r.fans == fans]
        line = " ".join(f"{x(r.mounts):.1f},{y(r.seconds):.1f}" for r in own)
        parts.append(f'<polyline points="{line}" fill="none" stroke="#22302c" stroke-width="2"/>')
        for r in own:
            fill = "#22302c" if r.exhaustive else "#fcf7eb"
            parts.append(f'<circle cx="{x(r.mounts):.1f}" cy="{y(r.seconds):.1f}" r="4" fill="{fill}" stroke="#22302c"/>')
        parts.append(f'<text x="{x(own[-1].mounts) + 10:.1f}" y="{y(own[-1].seconds) + 4:.1f}">{fans} fans</text>')
    parts.append(f'<text x="{LEFT}" y="18">seconds (filled: every layout looked at)</text>')
    parts.append(f'<text x="{W - 90}" y="{H - 6}" text-anchor="end">mounts</text></svg>')
    return "\n".join(parts) + "\n"
