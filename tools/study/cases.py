"""Random job documents: any case, any parts, any layout that the document can describe. Everything is made up."""

from typing import Any

import numpy as np

FACES = ("front", "top", "bottom", "window", "rear")
SIZES = (40, 80, 92, 120, 140, 200)


def random_document(seed: int) -> dict[str, Any]:
    """A job with one layout A, from 5 to 100 litres, the same for the same seed."""
    rng = np.random.default_rng(seed)
    inner = {
        "depth": float(rng.uniform(180, 600)),
        "height": float(rng.uniform(150, 700)),
        "width": float(rng.uniform(80, 330)),
    }
    litres = inner["depth"] * inner["height"] * inner["width"] / 1e6
    scale = (float(np.clip(litres, 5, 100)) / litres) ** (1 / 3)
    inner = {name: round(mm * scale, 1) for name, mm in inner.items()}
    return {
        "format": "oventa-job",
        "version": 1,
        "name": f"random {seed}",
        "room": {
            "temperature_c": float(rng.uniform(5, 40)),
            "pressure_hpa": float(rng.uniform(750, 1040)),
            "background_dba": 28,
            "listener_distance_m": float(rng.uniform(0.3, 2)),
            "listener_side": str(rng.choice(["front", "window", "rear", "above"])),
        },
        "case": _case(rng, inner),
        "parts": _parts(rng, inner),
        "curves": [{"id": "warm", "source": str(rng.choice(["cpu", "card", "hotter", "board", "case_air"])), "points": _points(rng)}],
        "base": {"cpu": "c", "cooler": "k", "card": None if rng.random() < 0.15 else "g"},
        "layouts": [{"id": "A", "name": "random", "fans": []}],
    }


def complete(raw: dict[str, Any], seed: int) -> dict[str, Any]:
    """Fills layout A with fans, radiator, panel states and directions."""
    rng = np.random.default_rng(seed + 10**6)
    layout, mounts = raw["layouts"][0], raw["case"]["mounts"]
    habit = rng.choice(["any", "opposed", "none", "full"], p=[0.7, 0.1, 0.1, 0.1])
    for mount in mounts:
        if habit == "none" or (habit == "any" and rng.random() < 0.4):
            continue
        ways = ("intake", "exhaust") if rng.random() < 0.5 else ("exhaust", "intake")
        layout["fans"].append(_placed(rng, mount, ways[0], "outer"))
        if habit == "opposed" or rng.random() < 0.1:
            layout["fans"].append(_placed(rng, mount, ways[1 if habit == "opposed" else 0], "inner"))
    sealed = raw["parts"]["coolers"][0]["kind"] == "sealed"
    if sealed:
        face = str(rng.choice([m["face"] for m in mounts]))
        own = [m["id"] for m in mounts if m["face"] == face][:3]
        layout["radiator"] = {"radiator": "r", "mounts": own, "gap_mm": float(rng.choice([0, 0, 12]))}
        raw["parts"]["radiators"][0]["sections"] = len(own)
    for panel in raw["case"]["panels"]:
        if rng.random() < 0.2:
            layout.setdefault("panels", {})[panel["face"]] = {"state": "removed"}
    kind = raw["parts"]["coolers"][0]["kind"]
    if kind != "sealed":
        layout["cooler_direction"] = str(rng.choice(["rear", "up", "front"] if kind == "tower" else ["toward", "away"]))
    layout["card_orientation"] = str(rng.choice(["flat", "flat", "upright"]))
    if rng.random() < 0.2:
        layout["card_curve"] = layout["cooler_curve"] = "warm"
    return raw


def _placed(rng: np.random.Generator, mount: dict[str, Any], way: str, layer: str) -> dict[str, Any]:
    return {
        "mount": mount["id"],
        "fan": f"f{max(mount['sizes_mm']):.0f}",
        "direction": way,
        "layer": layer,
        "speed_pct": float(rng.choice([0, 20, 50, 100])),
        "curve": "warm" if rng.random() < 0.15 else None,
        "state": "unplugged" if rng.random() < 0.08 else "running",
    }


def _points(rng: np.random.Generator) -> list[list[float]]:
    speeds = np.sort(rng.uniform(0, 100, 3)).tolist()
    return [[30.0, speeds[0]], [float(rng.uniform(45, 65)), speeds[1]], [85.0, speeds[2]]]


def _case(rng: np.random.Generator, inner: dict[str, float]) -> dict[str, Any]:
    shroud = None
    if inner["height"] > 300 and rng.random() < 0.5:
        shroud = {"height_mm": 0.2 * inner["height"], "top_open_cm2": 40, "front_cut_cm2": float(rng.uniform(0, 60)), "vent_cm2": 60}
    return {
        "name": "random box",
        "inner_mm": inner,
        "board_depth_mm": round(min(float(rng.uniform(170, 305)), inner["depth"]), 1),
        "card_height_mm": round(inner["height"] * float(rng.uniform(0.25, 0.6)), 1),
        "card_chamber": "separate" if rng.random() < 0.12 else "shared",
        "shroud": shroud,
        "slot_cover_open_cm2": float(rng.uniform(0, 60)),
        "panels": [_panel(rng, face) for face in FACES if rng.random() < 0.6],
        "mounts": [_mount(rng, inner, f"m{i}", shroud) for i in range(int(rng.integers(1, 16)))],
    }


def _panel(rng: np.random.Generator, face: str) -> dict[str, Any]:
    kind = str(rng.choice(["mesh", "slots", "solid"] if face != "window" else ["mesh", "solid", "glass"]))
    panel: dict[str, Any] = {"face": face, "kind": kind, "filter": str(rng.choice(["none", "coarse", "fine"]))}
    if kind == "mesh":
        panel["open_area_pct"] = float(rng.uniform(15, 80))
    if kind == "slots":
        panel |= {"gap_area_cm2": float(rng.uniform(5, 250)), "turns_90": float(rng.integers(0, 4))}
    return panel


def _mount(rng: np.random.Generator, inner: dict[str, float], mount_id: str, shroud: dict[str, Any] | None) -> dict[str, Any]:
    face = str(rng.choice(FACES))
    centre = {
        axis: round(float(rng.uniform(0.1, 0.9)) * inner[name], 1) for axis, name in (("x", "depth"), ("y", "width"), ("z", "height"))
    }
    edge = {"front": ("x", 0.0), "rear": ("x", inner["depth"]), "top": ("z", inner["height"]), "bottom": ("z", 0.0)}
    axis, value = edge.get(face, ("y", inner["width"]))
    centre[axis] = value
    on_shroud = shroud is not None and face == "bottom" and rng.random() < 0.5
    if on_shroud and shroud:
        centre["z"] = shroud["height_mm"]
    return {
        "id": mount_id,
        "face": face,
        "centre_mm": centre,
        "sizes_mm": [int(rng.choice(SIZES))],
        "grille_open_pct": float(rng.choice([100, 60, 30])),
        "obstruction_k": float(rng.choice([0, 0, 10])),
        "cover": bool(rng.random() < 0.2),
        "on_shroud": on_shroud,
    }


def _parts(rng: np.random.Generator, inner: dict[str, float]) -> dict[str, Any]:
    kind = str(rng.choice(["tower", "tower", "downdraft", "sealed"]))
    cooler: dict[str, Any] = {"id": "k", "kind": kind, "heat_capacity_j_per_k": 600}
    if kind == "sealed":
        cooler |= {"r_plate_k_per_w": 0.05}
    else:
        cooler |= {"fan": "f120", "flow_ref_m3h": 50, "fin_drop_pa": 7, "ua_ref_w_per_k": float(rng.uniform(4, 16)), "r_base_k_per_w": 0.06}
    watts = [0.0, 1.0, *np.exp(rng.uniform(np.log(10), np.log(1500), 6)).tolist()]
    return {
        "board_power_w": float(rng.choice([0, 35, 80])),
        "cpus": [{"id": "c", "power_w": float(rng.choice(watts[:5])), "r_jc_k_per_w": 0.15, "tj_max_c": 95}],
        "cards": [
            {
                "id": "g",
                "power_w": float(rng.choice(watts)),
                "shroud": str(rng.choice(["open", "open", "blower"])),
                "length_mm": round(min(float(rng.uniform(120, 340)), inner["depth"]), 1),
                "fan_flow_max_m3h": float(rng.uniform(30, 200)),
                "fan_pressure_max_pa": 45,
                "fin_drop_pa": 16,
                "r_k_per_w": float(rng.uniform(0.1, 0.3)),
                "t_limit_c": 92,
                "noise_dba": 34,
            }
        ],
        "coolers": [cooler],
        "radiators": [{"id": "r", "sections": 2, "section_mm": 120, "thickness_mm": float(rng.choice([27, 45]))}],
        "fans": [_fan(size) for size in SIZES],
    }


def _fan(size_mm: int) -> dict[str, Any]:
    ratio = size_mm / 120
    return {
        "id": f"f{size_mm}",
        "size_mm": size_mm,
        "thickness_mm": 25,
        "speed_max_rpm": round(1500 / ratio),
        "flow_max_m3h": round(90 * ratio**2, 1),
        "pressure_max_pa": round(17 / ratio**0.5, 1),
        "noise_dba": 27,
    }
