"""Figures that stay what they are: forecasts, findings and verdicts of every demo and reference job, as plain JSON.

``python -m tests.held.figures`` writes them anew; do so only with a higher number in ``engine.identity``, and name in the
changelog what moved.
"""

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from demo import campaign
from desk.forecast.document import Oracle, Question
from desk.verdict.document import verdict
from desk.verdict.study import Runs, Settings
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.errors import OventaError
from engine.identity import ENGINE, METHOD
from engine.verdict.candidate import Candidate
from tests.machines import ROOT, TRADE
from tests.runs_made import layout

FILE = Path(__file__).with_name("figures.json")
NEAR = 1e-3  # of a figure's unit: compilers differ in the last digits, the fixed point stops some way before them


def jobs() -> Iterator[tuple[str, JobDoc]]:
    for path in (*sorted((ROOT / "demo").glob("*.oventa.json")), *sorted(TRADE.glob("*.oventa.json"))):
        yield path.name, check_job(json.loads(path.read_text(encoding="utf-8"))).doc
    yield campaign.NAME, campaign.document()


def forecast_of(doc: JobDoc) -> dict[str, Any]:
    """Per layout what a forecast leads with, and its findings with their severity."""
    oracle = Oracle(doc, Question())
    found: dict[str, Any] = {}
    for x in doc.layouts:
        try:
            f = oracle.forecast(x.id)
        except OventaError as error:
            found[x.id] = {"refused": str(error)[:80]}
            continue
        found[x.id] = {
            "cpu_k": f.cpu.rise_k,
            "card_k": f.card.rise_k if f.card else None,
            "coolant_k": f.coolant.rise_k if f.coolant else None,
            "sound_dba": f.sound.level_dba,
            "bands": [f.cpu.band_k, f.card.band_k if f.card else None, f.sound.band_db],
            "flows_m3h": [fan.flow_m3h for fan in f.fans],
            "case_pa": f.balance.case_pressure_pa,
        }
    for own in oracle.findings_doc().layouts:
        found.setdefault(own.id, {})["findings"] = sorted(f"{y.severity} {y.code} {' '.join(y.mounts)}" for y in own.findings)
    return found


def made() -> list[Candidate]:
    """Runs that no stand-in made: three layouts, one of them run once, one warm, one near the first."""
    return [
        layout("A", 3, 0.3, cpu_package_c=58, card_core_c=50, sound_dba=31),
        layout("C", 3, 0.3, cpu_package_c=57.6, card_core_c=50.2, sound_dba=32),
        layout("D", 2, 0.3, cpu_package_c=51, card_core_c=47, sound_dba=33),
        layout("E", 1, cpu_package_c=50, card_core_c=49, sound_dba=33),
    ]


def verdict_of(doc: JobDoc) -> dict[str, Any]:
    v = verdict(doc, Runs({"both": made()}), Settings())
    return {
        "best": v.best,
        "sure": v.sure,
        "tied": v.tied,
        "chances": {p.layout: p.chance for p in v.placed},
        "figures": {f"{f.layout} {f.channel}": [f.value, f.band] for f in v.figures},
        "pairs": {f"{p.a} {p.b} {p.channel}": [p.word, p.difference_k, p.expanded_uncertainty_k] for p in v.pairs},
    }


def now() -> dict[str, Any]:
    numbers = {"engine": ENGINE.number, "method": METHOD.number}
    return numbers | {"forecasts": {name: forecast_of(doc) for name, doc in jobs()}, "verdict": verdict_of(campaign.document())}


def moved(was: Any, is_: Any, where: str = "") -> Iterator[str]:
    """Places at which two such trees differ, figures by more than ``NEAR``."""
    if isinstance(was, dict) and isinstance(is_, dict):
        for key in dict.fromkeys([*was, *is_]):
            yield from moved(was.get(key), is_.get(key), f"{where} / {key}")
    elif isinstance(was, list) and isinstance(is_, list) and len(was) == len(is_):
        for i, (a, b) in enumerate(zip(was, is_, strict=True)):
            yield from moved(a, b, f"{where} [{i}]")
    elif isinstance(was, float | int) and isinstance(is_, float | int) and not isinstance(was, bool):
        if abs(was - is_) > NEAR:
            yield f"{where}: {was} before, {is_} now"
    elif was != is_:
        yield f"{where}: {was} before, {is_} now"


if __name__ == "__main__":
    FILE.write_text(json.dumps(now(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    sys.stderr.write(f"{FILE.relative_to(ROOT)} is written\n")
