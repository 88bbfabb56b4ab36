"""Makes the further demo jobs from the shipped library: three unlike machines of the same harbour station. Run once.

``PYTHONPATH=src:. .venv/bin/python -m demo.make_jobs``. Everything in them is invented.
"""

import copy
import json
from pathlib import Path
from typing import Any

from documents.job.reader import check_job, write_job

HERE = Path(__file__).parent
Doc = dict[str, Any]


def library() -> tuple[dict[str, Doc], dict[str, dict[str, Doc]]]:
    """Cases by key and parts by kind and id."""
    cases = json.loads((HERE / "library/cases.json").read_text(encoding="utf-8"))
    parts = json.loads((HERE / "library/parts.json").read_text(encoding="utf-8"))
    return {c["key"]: c["document"] for c in cases}, {kind: {p["id"]: p for p in v} for kind, v in parts.items()}


def fans(fan: str, speed: int, *places: str, **more: Any) -> list[Doc]:
    """``fans("tern-120", 70, "f1>", "t1<")``: > blows in, < blows out."""
    ways = {">": "intake", "<": "exhaust"}
    return [{"mount": p[:-1], "fan": fan, "direction": ways[p[-1]], "speed_pct": speed, **more} for p in places]


def job(name: str, note: str, case: Doc, parts: Doc, base: Doc, layouts: list[Doc], **more: Any) -> Doc:
    room = {"temperature_c": 22, "worst_temperature_c": 29, "background_dba": 28, "sound_limit_dba": 36, "listener_distance_m": 0.9}
    return {"format": "oventa-job", "version": 1, "name": name, "note": note, "room": room, "case": case, "parts": parts, "base": base} | {
        "layouts": layouts,
        **more,
    }


def chosen(shelf: dict[str, dict[str, Doc]], **ids: list[str]) -> Doc:
    return {"board_power_w": 35, **{kind: [copy.deepcopy(shelf[kind][i]) for i in names] for kind, names in ids.items()}}


def chart_server(cases: dict[str, Doc], shelf: dict[str, dict[str, Doc]]) -> Doc:
    """Full tower; one open loop over two radiators, two loops, a tower with the card on a loop, and air alone."""
    case = copy.deepcopy(cases["albatross-84"])
    for place in [*case["mounts"], *case["rails"]]:
        if place["face"] == "front":
            place["depth_mm"] = 95  # room for fans on both sides of a radiator
    front = [m["id"] for m in case["mounts"] if m["face"] == "front"][:3]
    top = [m["id"] for m in case["mounts"] if m["face"] == "top"][:3]
    rear = next(m["id"] for m in case["mounts"] if m["face"] == "rear")
    parts = chosen(
        shelf,
        cpus=["plot-253"],
        cards=["render-420"],
        coolers=["pelican-loop", "shearwater-long", "cormorant-140"],
        radiators=["fin-360", "fin-360-thick"],
        fans=["heron-120", "plover-140", "tern-140", "plover-120"],
        boards=["jetty-wide"],
        controllers=["hawser-hub"],
        supplies=["winch-1000"],
        memory=["pebble-40"],
    )

    def ins(layer: str, *names: str) -> list[Doc]:
        return fans("heron-120", 65, *(f"{m}>" for m in names), layer=layer)

    def outs(layer: str, *names: str) -> list[Doc]:
        return fans("heron-120", 65, *(f"{m}<" for m in names), layer=layer)

    rear_out = fans("plover-140", 60, f"{rear}<")
    at_front = {"radiator": "fin-360", "mounts": front, "tubes": "bottom"}
    at_top = {"radiator": "fin-360", "mounts": top, "tubes": "rear"}
    whole = {"cooler": "pelican-loop", "heat": ["cpu", "card"], "reservoir": True}
    layouts: list[Doc] = [
        {"id": "A", "name": "one open loop, fresh air in front", "loops": [{**whole, "radiators": [at_front, at_top]}]}
        | {"fans": [*ins("outer", *front), *outs("inner", *top), *rear_out]},
        {"id": "B", "name": "the same, push and pull in front", "parent": "A", "loops": [{**whole, "radiators": [at_front, at_top]}]}
        | {"fans": [*ins("outer", *front), *ins("inner", *front), *outs("inner", *top), *rear_out]},
        {"id": "C", "name": "the same, pulled from outside on top", "parent": "A", "loops": [{**whole, "radiators": [at_front, at_top]}]}
        | {"fans": [*ins("outer", *front), *outs("outer", *top), *rear_out]},
        {
            "id": "D",
            "name": "a loop each",
            "loops": [
                {"cooler": "shearwater-long", "heat": ["cpu"], "radiators": [at_top]},
                {"cooler": "pelican-loop", "heat": ["card"], "reservoir": True, "radiators": [at_front]},
            ],
            "fans": [*ins("outer", *front), *outs("inner", *top), *rear_out],
        },
        {"id": "E", "name": "a tower, the card on air", "cooler": "cormorant-140"}
        | {"fans": [*ins("outer", *front), *outs("outer", *top[:2]), *rear_out]},
    ]
    for layout in layouts:
        plugs = [(p["mount"], p.get("layer", "outer")) for p in layout["fans"]]
        layout["wiring"] = [{"of": m, "layer": at, "header": "case 1", "via": "hawser-hub"} for m, at in plugs]
        layout["wiring"] += [
            {"of": "pump" if layout["id"] != "E" else "cooler_fan", "header": "pump" if layout["id"] != "E" else "processor"}
        ]
        layout["wiring"] += [{"of": "pump:card", "header": "pump"}] if layout["id"] == "D" else []
    return job(
        "Chart server",
        "The station's chart server: a full tower with an open loop.",
        case,
        parts,
        {"cpu": "plot-253", "card": "render-420", "cooler": "pelican-loop", "board": "jetty-wide", "memory": "pebble-40"}
        | {"supply": "winch-1000"},
        layouts,
        scenarios=[{"id": "s1", "name": "a second card", "card_add_w": 300}],
        stock={"fans": {"heron-120": 9, "plover-140": 2}},
        priorities={"cpu": 2, "card": 4, "noise": 3, "labour": 2},
    )


def lamp_recorder(cases: dict[str, Doc], shelf: dict[str, dict[str, Doc]]) -> Doc:
    """Sandwich case, the card in a chamber of its own; downdraft up and down, window mesh and closed."""
    case = copy.deepcopy(cases["dunlin-12"])
    case["exclusions"] = [
        {"id": "x1", "when": {"card_longer_than_mm": 250}, "rules_out": {"fans_on": ["f2"]}, "why": "the card's end stands behind F2"}
    ]
    parts = chosen(
        shelf,
        cpus=["office-65", "plot-105"],
        cards=["display-75", "render-270"],
        coolers=["puffin-60"],
        fans=["plover-120-slim", "siskin-92", "plover-92"],
        boards=["slipway-small"],
        supplies=["winch-450-small"],
    )
    layouts: list[Doc] = [
        {"id": "A", "name": "front in, top out", "fans": [*fans("plover-92", 60, "f1>", "f2>"), *fans("siskin-92", 80, "t1<")]},
        {"id": "B", "name": "nothing but the cooler", "parent": "A", "fans": []},
        {"id": "C", "name": "window closed", "parent": "A", "panels": {"window": {"kind": "glass"}}}
        | {"fans": [*fans("plover-92", 60, "f1>", "f2>"), *fans("siskin-92", 80, "t1<")]},
        {"id": "D", "name": "cooler blows away from the board", "parent": "A", "cooler_direction": "away"}
        | {"fans": [*fans("plover-92", 60, "f1>", "f2>"), *fans("siskin-92", 80, "t1<")]},
        {"id": "E", "name": "the longer card", "parent": "A", "card": "render-270"}
        | {"fans": [*fans("plover-92", 60, "f1>", "f2>"), *fans("siskin-92", 80, "t1<")]},
    ]
    base = {"cpu": "office-65", "card": "display-75", "cooler": "puffin-60", "board": "slipway-small", "supply": "winch-450-small"}
    return job("Lamp recorder", "A small recorder beside the lamp room: the card has a chamber of its own.", case, parts, base, layouts)


def buoy_mapper(cases: dict[str, Doc], shelf: dict[str, dict[str, Doc]]) -> Doc:
    """Cube with air from the floor to the top; the schools on what a floor and a top are for."""
    case = copy.deepcopy(cases["grebe-22"])
    floor = [m["id"] for m in case["mounts"] if m["face"] == "bottom"]
    top = [m["id"] for m in case["mounts"] if m["face"] == "top"]
    rear = [m["id"] for m in case["mounts"] if m["face"] == "rear"]
    parts = chosen(
        shelf,
        cpus=["plot-105"],
        cards=["render-150-short", "render-150"],
        coolers=["cormorant-92", "puffin-60", "shearwater", "shearwater-pump-aft"],
        radiators=["fin-240", "fin-120"],
        fans=["tern-120", "siskin-92", "plover-120-slim", "siskin-120", "osprey-120", "teal-120"],
        boards=["slipway-small"],
    )
    up = [*(f"{m}>" for m in floor), *(f"{m}<" for m in top + rear)]
    down = [*(f"{m}<" for m in floor), *(f"{m}>" for m in top), *(f"{m}<" for m in rear)]
    pump = {"cooler": "shearwater-pump-aft"}
    layouts: list[Doc] = [
        {"id": "A", "name": "floor to top", "fans": fans("tern-120", 60, *up)},
        {"id": "B", "name": "top to floor", "parent": "A", "fans": fans("tern-120", 60, *down)},
        {"id": "C", "name": "exhausts alone", "parent": "A", "fans": fans("tern-120", 60, *(f"{m}<" for m in top + rear))},
        {"id": "D", "name": "floor fans alone", "parent": "A", "fans": fans("tern-120", 60, *(f"{m}>" for m in floor))},
        {"id": "E", "name": "radiator on the floor", "cooler": "shearwater", "fans": fans("tern-120", 60, *up)}
        | {"radiator": {"radiator": "fin-240", "mounts": floor[:2], "tubes": "rear"}},
        {"id": "F", "name": "the same, pump in the radiator", "parent": "E", **pump, "fans": fans("tern-120", 60, *up)}
        | {"radiator": {"radiator": "fin-240", "mounts": floor[:2], "tubes": "rear"}},
        {"id": "G", "name": "card upright", "parent": "A", "card_orientation": "upright", "fans": fans("tern-120", 60, *up)},
    ]
    base = {"cpu": "plot-105", "card": "render-150-short", "cooler": "cormorant-92", "board": "slipway-small"}
    curves = [
        {"id": "stops", "source": "cpu", "points": [[45, 0], [50, 30], [85, 100]]},
        {"id": "slow", "source": "board", "points": [[25, 35], [45, 80]]},
    ]
    return job(
        "Buoy mapper", "A cube that draws buoys on charts, air from the floor to the top.", case, parts, base, layouts, curves=curves
    )


def main() -> None:
    cases, shelf = library()
    for make in (chart_server, lamp_recorder, buoy_mapper):
        raw = make(cases, shelf)
        name = raw["name"].lower().replace(" ", "-")
        (HERE / f"{name}.oventa.json").write_text(write_job(check_job(raw).doc), encoding="utf-8")


if __name__ == "__main__":
    main()
