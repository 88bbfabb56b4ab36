"""Makes the shipped library larger: invented cases and parts of plausible figures. Run once; it replaces what it made before.

``PYTHONPATH=src:. .venv/bin/python -m demo.make_library``. Names are birds; none belongs to a maker or a model.
"""

import json
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent / "library"
Doc = dict[str, Any]


def mount(mount_id: str, face: str, x: float, y: float, z: float, sizes: list[int], **more: Any) -> Doc:
    return {"id": mount_id, "face": face, "centre_mm": {"x": x, "y": y, "z": z}, "sizes_mm": sizes, "depth_mm": 60, **more}


def panel(face: str, kind: str, width: float, height: float, **more: Any) -> Doc:
    return {"face": face, "kind": kind, "width_mm": width, "height_mm": height, **more}


def case(key: str, summary: str, inner: tuple[int, int, int], panels: list[Doc], mounts: list[Doc], **more: Any) -> Doc:
    """A case of the library; ``inner`` is depth, height, width in mm."""
    depth, height, width = inner
    name = f"{key.split('-')[0].capitalize()} {key.split('-')[1]}"
    litres = depth * height * width / 1e6
    document = {"name": name, "inner_mm": {"depth": depth, "height": height, "width": width}, "panels": panels, "mounts": mounts, **more}
    return {"key": key, "name": name, "summary": f"{summary}, {litres:.0f} litres", "document": document}


def front(count: int, size: int, bottom: float, y: float) -> list[Doc]:
    sizes = [120, 140] if size == 140 else [size]
    return [mount(f"f{count - i}", "front", 0, y, bottom + size / 2 + i * (size + 2), sizes) for i in range(count)][::-1]


def row(letter: str, face: str, xs: list[float], y: float, z: float, sizes: list[int], **more: Any) -> list[Doc]:
    return [mount(f"{letter}{i + 1}", face, x, y, z, sizes, **more) for i, x in enumerate(xs)]


CASES = [
    case(
        "linnet-8",
        "compact, card on the floor, vented sides",
        (310, 180, 145),
        [panel("window", "mesh", 280, 160, open_area_pct=35), panel("top", "mesh", 130, 280, open_area_pct=40)],
        [*row("t", "top", [90, 220], 72, 180, [92, 120], depth_mm=30)],
        board_depth_mm=170,
        card_height_mm=55,
        window_gap_open_cm2=110,
        limits_mm={"card_length": 300, "cooler_height": 70},
    ),
    case(
        "dunlin-12",
        "sandwich layout, the card in a chamber of its own",
        (330, 350, 105),
        [panel("front", "mesh", 95, 330, open_area_pct=45), panel("window", "mesh", 300, 320, open_area_pct=35)],
        [mount("f1", "front", 0, 52, 255, [80, 92]), mount("f2", "front", 0, 52, 90, [80, 92]), mount("t1", "top", 200, 52, 350, [92])],
        board_depth_mm=170,
        card_height_mm=85,
        card_chamber="separate",
        window_gap_open_cm2=100,
        vents=[{"id": "v1", "face": "rear", "centre_mm": {"x": 330, "y": 52, "z": 230}, "area_cm2": 60}],
        limits_mm={"card_length": 320, "cooler_height": 72},
    ),
    case(
        "grebe-22",
        "cube, air from the floor to the top",
        (380, 310, 190),
        [
            panel("top", "mesh", 170, 350, open_area_pct=50, filter="coarse"),
            panel("bottom", "mesh", 170, 350, open_area_pct=50, filter="coarse"),
            panel("window", "mesh", 260, 260, open_area_pct=28),
        ],
        [
            *row("t", "top", [285, 155], 95, 310, [120, 140]),
            *row("b", "bottom", [255, 120], 95, 0, [120, 140]),
            mount("s1", "window", 265, 190, 205, [120]),
        ],
        board_depth_mm=170,
        card_height_mm=110,
        window_gap_open_cm2=130,
        rails=[{"id": "top", "face": "top", "mounts": ["t1", "t2"], "radiators_mm": [240], "depth_mm": 60, "length_mm": 330}],
        limits_mm={"card_length": 330, "cooler_height": 130, "memory_to_top": 60},
    ),
    case(
        "curlew-46",
        "mid tower, glass front with a slot at either side",
        (440, 460, 225),
        [
            panel("front", "slots", 215, 450, gap_area_cm2=60, turns_90=2, filter="fine"),
            panel("top", "mesh", 200, 400, open_area_pct=50, filter="coarse"),
            panel("window", "glass", 430, 450),
        ],
        [
            *front(3, 120, 90, 112),
            *row("t", "top", [355, 233, 111], 112, 460, [120, 140]),
            mount("r1", "rear", 440, 112, 350, [120], grille_open_pct=60, depth_mm=30),
        ],
        board_depth_mm=244,
        card_height_mm=240,
        shroud={"height_mm": 100, "top_open_cm2": 40, "front_cut_cm2": 20, "vent_cm2": 60},
        rails=[
            {"id": "front", "face": "front", "mounts": ["f1", "f2", "f3"], "radiators_mm": [240, 360], "depth_mm": 60, "length_mm": 400},
            {"id": "top", "face": "top", "mounts": ["t1", "t2", "t3"], "radiators_mm": [240, 280, 360], "depth_mm": 58, "length_mm": 410},
        ],
        limits_mm={"card_length": 370, "cooler_height": 168, "memory_to_top": 56},
    ),
    case(
        "petrel-52",
        "from the floor to the top, no shroud, three fans below",
        (470, 500, 225),
        [
            panel("front", "solid", 215, 490),
            panel("top", "mesh", 205, 430, open_area_pct=55),
            panel("bottom", "mesh", 205, 430, open_area_pct=50, filter="fine"),
            panel("window", "glass", 460, 490),
        ],
        [
            *row("b", "bottom", [385, 245, 105], 112, 0, [120, 140]),
            *row("t", "top", [385, 245, 105], 112, 500, [120, 140]),
            mount("r1", "rear", 470, 112, 400, [120, 140], grille_open_pct=65, depth_mm=30),
        ],
        board_depth_mm=244,
        card_height_mm=270,
        supply={"size_mm": {"x": 90, "y": 150, "z": 150}, "centre_mm": {"x": 45, "y": 80, "z": 400}},
        rails=[
            {"id": "top", "face": "top", "mounts": ["t1", "t2", "t3"], "radiators_mm": [280, 360, 420], "depth_mm": 62, "length_mm": 440}
        ],
        limits_mm={"card_length": 400, "cooler_height": 170, "memory_to_top": 60},
    ),
    case(
        "avocet-62",
        "dual chamber, supply beside the board, vented window side",
        (450, 460, 300),
        [
            panel("front", "mesh", 290, 450, open_area_pct=45, filter="coarse"),
            panel("top", "mesh", 270, 420, open_area_pct=55),
            panel("bottom", "mesh", 270, 420, open_area_pct=50, filter="fine"),
            panel("window", "glass", 440, 450),
        ],
        [
            *front(3, 120, 40, 190),
            *row("t", "top", [360, 238, 116], 190, 460, [120, 140]),
            *row("b", "bottom", [340, 218, 96], 190, 0, [120, 140]),
            mount("r1", "rear", 450, 190, 360, [120], grille_open_pct=70, depth_mm=30),
        ],
        board_depth_mm=244,
        card_height_mm=230,
        supply={"size_mm": {"x": 160, "y": 86, "z": 150}, "centre_mm": {"x": 360, "y": 45, "z": 90}},
        rails=[
            {"id": "front", "face": "front", "mounts": ["f1", "f2", "f3"], "radiators_mm": [360], "depth_mm": 70, "length_mm": 410},
            {"id": "top", "face": "top", "mounts": ["t1", "t2", "t3"], "radiators_mm": [240, 280, 360], "depth_mm": 70, "length_mm": 420},
        ],
        limits_mm={"card_length": 410, "cooler_height": 165, "memory_to_top": 70},
    ),
    case(
        "albatross-84",
        "full tower, mesh front, room for two radiators and a reservoir",
        (560, 600, 250),
        [
            panel("front", "mesh", 240, 590, open_area_pct=50, filter="coarse"),
            panel("top", "mesh", 230, 540, open_area_pct=55, filter="coarse"),
            panel("window", "glass", 550, 590),
        ],
        [
            *front(3, 140, 120, 125),
            *row("t", "top", [470, 328, 186], 125, 600, [120, 140]),
            mount("r1", "rear", 560, 125, 480, [120, 140], grille_open_pct=65, depth_mm=30),
            *row("b", "bottom", [420, 290], 125, 110, [120, 140], on_shroud=True, grille_open_pct=60),
        ],
        board_depth_mm=305,
        card_height_mm=330,
        shroud={"height_mm": 110, "top_open_cm2": 60, "front_cut_cm2": 40, "vent_cm2": 120},
        rails=[
            {
                "id": "front",
                "face": "front",
                "mounts": ["f1", "f2", "f3"],
                "radiators_mm": [280, 360, 420],
                "depth_mm": 80,
                "length_mm": 470,
            },
            {"id": "top", "face": "top", "mounts": ["t1", "t2", "t3"], "radiators_mm": [280, 360, 420], "depth_mm": 75, "length_mm": 480},
        ],
        limits_mm={"card_length": 440, "cooler_height": 185, "memory_to_top": 75},
    ),
]


def fan(bird: str, size: int, rpm: float, flow: float, pressure: float, noise: float, price: float, **more: Any) -> Doc:
    slim = more.pop("thickness_mm", 25)
    tail = "-slim" if slim < 20 else ""
    name = f"{bird.capitalize()} {size}{' slim' if tail else ''}"
    figures = {"speed_max_rpm": rpm, "flow_max_m3h": flow, "pressure_max_pa": pressure, "noise_dba": noise}
    return {
        "id": f"{bird}-{size}{tail}",
        "name": name,
        "size_mm": size,
        "thickness_mm": slim,
        **figures,
        "price": price,
        "connector": "4pin",
        **more,
    }


FANS = [
    fan("wagtail", 40, 5000, 13, 28, 29, 7, thickness_mm=20, current_a=0.1),
    fan("wagtail", 60, 3000, 27, 21, 27, 7, current_a=0.1),
    fan("wagtail", 80, 2200, 56, 19, 26, 8, current_a=0.1),
    fan("siskin", 80, 2000, 43, 13, 24, 8, thickness_mm=15, current_a=0.08),
    fan("siskin", 92, 1800, 56, 12, 23, 9, current_a=0.1),
    fan("plover", 92, 2400, 74, 24, 30, 12, current_a=0.15),
    fan("siskin", 120, 1100, 72, 9, 19, 8, current_a=0.08),
    fan("petrel", 120, 1400, 114, 10, 26, 13, current_a=0.13, made_for="airflow"),
    fan("plover", 120, 1800, 96, 28, 31, 16, current_a=0.18),
    fan("osprey", 120, 2200, 108, 38, 37, 22, current_a=0.25),
    fan("osprey", 140, 1800, 150, 30, 37, 24, current_a=0.28),
    fan("siskin", 140, 950, 96, 8, 18, 10, current_a=0.09),
    fan("plover", 140, 1500, 124, 22, 31, 18, current_a=0.2),
    fan("heron", 120, 1500, 84, 21, 27, 14, thickness_mm=30, current_a=0.16),
    fan("heron", 140, 1300, 118, 17, 27, 16, thickness_mm=28, current_a=0.18),
    fan("gull", 160, 1000, 140, 10, 25, 17, current_a=0.2),
    fan("gull", 180, 900, 150, 8, 26, 19, thickness_mm=32, current_a=0.25),
    fan("siskin", 200, 650, 130, 4, 21, 16, thickness_mm=30, current_a=0.2),
    fan("teal", 120, 1300, 80, 14, 23, 6, current_a=0.12, blades=7, connector="3pin"),
    fan("teal", 140, 1100, 100, 12, 23, 7, current_a=0.14, blades=7, connector="3pin"),
    fan("teal", 92, 1500, 48, 9, 21, 5, current_a=0.1, blades=7, connector="3pin"),
]


def cooler(
    cooler_id: str, name: str, kind: str, height: float, own_fan: str, fans: int, flow: float, ua: float, base: float, heat: float
) -> Doc:
    figures = {"flow_ref_m3h": flow, "fin_drop_pa": 7 if kind == "tower" else 8, "ua_ref_w_per_k": ua, "r_base_k_per_w": base}
    return {
        "id": cooler_id,
        "name": name,
        "kind": kind,
        "height_mm": height,
        "fan": own_fan,
        "fans": fans,
        **figures,
        "heat_capacity_j_per_k": heat,
    }


COOLERS = [
    cooler("cormorant-92", "Cormorant 92 tower", "tower", 127, "siskin-92", 1, 34, 6.5, 0.07, 420),
    cooler("cormorant-120-twin", "Cormorant 120 tower, two fans", "tower", 158, "plover-120", 2, 60, 13.0, 0.055, 850),
    cooler("cormorant-140", "Cormorant 140 tower", "tower", 165, "tern-140", 1, 66, 13.5, 0.05, 950),
    cooler("puffin-37", "Puffin 37 downdraft", "downdraft", 37, "siskin-92", 1, 28, 5.0, 0.1, 200),
    cooler("puffin-60", "Puffin 60 downdraft", "downdraft", 60, "plover-120-slim", 1, 42, 6.5, 0.1, 330),
    cooler("puffin-85", "Puffin 85 downdraft", "downdraft", 85, "heron-120", 1, 46, 8.0, 0.08, 480),
    {"id": "shearwater-long", "name": "Shearwater sealed loop, long tubes", "kind": "sealed", "r_plate_k_per_w": 0.05, "pump": "block"}
    | {"heat_capacity_j_per_k": 260, "coolant_ml": 130, "tube_mm": 480, "tube_material": "epdm"},
    {
        "id": "shearwater-tube",
        "name": "Shearwater sealed loop, pump in the tube",
        "kind": "sealed",
        "r_plate_k_per_w": 0.055,
        "pump": "tube",
    }
    | {"heat_capacity_j_per_k": 240, "coolant_ml": 110, "tube_mm": 420, "tube_material": "fluoropolymer"},
    {"id": "shearwater-pump-aft", "name": "Shearwater sealed loop, pump in the radiator", "kind": "sealed", "r_plate_k_per_w": 0.055}
    | {"pump": "radiator", "heat_capacity_j_per_k": 230, "coolant_ml": 105, "tube_mm": 400, "tube_material": "pvc"},
    {"id": "pelican-loop", "name": "Pelican open loop, pump and reservoir", "kind": "open_loop", "r_plate_k_per_w": 0.035, "pump": "free"}
    | {"heat_capacity_j_per_k": 400, "coolant_ml": 900, "pump_z_mm": 90, "reservoir_z_mm": 320, "tube_mm": 1500, "tube_material": "epdm"},
]
RADIATORS = [
    {"id": f"fin-{n * size}{tail}", "name": f"{n * size} mm radiator{words}", "sections": n, "section_mm": size, "thickness_mm": thick}
    | {"length_mm": n * size + 37, "end_tank_mm": 20, "ua_factor": 1.0}
    for n, size, thick, tail, words in (
        (1, 140, 27, "", ""),
        (3, 140, 27, "", ""),
        (2, 120, 40, "-thick", ", 40 mm thick"),
        (3, 120, 45, "-thick", ", 45 mm thick"),
    )
]
CARDS = [
    {
        "id": f"render-{watts}{tail}",
        "name": f"rendering card, {watts} W, {shroud}{words}",
        "power_w": watts,
        "shroud": shroud,
        "length_mm": length,
    }
    | {"slots": slots, "fan_flow_max_m3h": flow, "fan_pressure_max_pa": 45, "fin_drop_pa": 16, "r_k_per_w": r, "t_limit_c": 92}
    | {"noise_dba": noise, "heat_capacity_j_per_k": heat}
    for watts, tail, words, shroud, length, slots, flow, r, noise, heat in (
        (150, "", "", "open", 230, 2.0, 90, 0.26, 31, 600),
        (150, "-short", ", short", "open", 172, 2.0, 75, 0.29, 34, 450),
        (270, "", "", "open", 305, 2.5, 150, 0.145, 35, 950),
        (420, "", "", "open", 340, 3.5, 200, 0.1, 38, 1300),
    )
]
CPUS = [
    {"id": f"plot-{watts}", "name": f"plotting processor, {watts} W", "power_w": watts, "r_jc_k_per_w": r, "tj_max_c": limit}
    for watts, r, limit in ((88, 0.2, 95), (105, 0.18, 95), (142, 0.15, 95), (253, 0.09, 100))
]


PRICES = {"tower": 45, "downdraft": 38, "sealed": 85, "open_loop": 190}


def header(name: str, kind: str, limit_a: float, x: float, z: float, modes: tuple[str, ...] = ("3pin", "4pin")) -> Doc:
    return {"id": name, "kind": kind, "limit_a": limit_a, "modes": list(modes), "at_mm": {"x": x, "y": 0, "z": z}}


# Places of headers are given for the mid tower they were drawn in; type your own over them.
ELECTRICS: dict[str, list[Doc]] = {
    "boards": [
        {
            "id": "slipway-full",
            "name": "Slipway board, full size, five headers",
            "headers": [
                header("processor", "fan", 1.0, 300, 420, ("4pin",)),
                header("pump", "pump", 2.0, 280, 420),
                *(header(f"case {i}", "fan", 1.0, x, z) for i, (x, z) in enumerate(((190, 400), (180, 240), (180, 140)), 1)),
            ],
            "price": 140,
        },
        {
            "id": "slipway-small",
            "name": "Slipway board, small, three headers",
            "headers": [
                header("processor", "fan", 1.0, 300, 300, ("4pin",)),
                *(header(f"case {i}", "fan", 1.0, 200, 150 * i) for i in (1, 2)),
            ],
            "price": 120,
        },
        {
            "id": "jetty-plain",
            "name": "Jetty board, plain, two headers",
            "headers": [header("processor", "fan", 1.0, 300, 380, ("4pin",)), header("case 1", "fan", 0.5, 190, 300, ("3pin",))],
            "price": 80,
        },
        {
            "id": "jetty-wide",
            "name": "Jetty board, wide, seven headers",
            "headers": [
                header("processor", "fan", 1.0, 330, 460, ("4pin",)),
                header("pump", "pump", 3.0, 310, 460),
                *(header(f"case {i}", "fan", 2.0, 200, 90 * i) for i in range(1, 6)),
            ],
            "price": 230,
        },
    ],
    "memory": [
        {"id": "pebble-31", "name": "Pebble memory, 31 mm", "height_mm": 31, "price": 60},
        {"id": "pebble-40", "name": "Pebble memory, 40 mm", "height_mm": 40, "price": 70},
        {"id": "pebble-52", "name": "Pebble memory, tall, 52 mm", "height_mm": 52, "price": 90},
    ],
    "supplies": [
        {"id": f"winch-{watts}{tail}", "name": f"Winch supply, {watts} W{words}", "power_w": watts, "length_mm": length, "price": price}
        | ({"width_mm": 125, "height_mm": 64} if tail else {})
        for watts, tail, words, length, price in (
            (450, "-small", ", small", 100, 95),
            (600, "-small", ", small", 100, 130),
            (650, "", "", 140, 85),
            (850, "", "", 160, 120),
            (1000, "", "", 180, 170),
        )
    ],
    "controllers": [
        {"id": "hawser-3", "name": "Hawser splitter, one to three", "kind": "splitter", "outputs": 3, "lead_mm": 150, "price": 5},
        {"id": "hawser-hub", "name": "Hawser hub with its own supply, ten", "kind": "hub", "outputs": 10, "limit_a": 4.5, "price": 18},
        {"id": "helm-6", "name": "Helm controller, six outlets", "kind": "controller", "outputs": 6, "limit_a": 6.0, "price": 45},
    ],
    "filters": [
        {"id": f"kelp-{kind}-{size}", "name": f"Kelp filter, {kind}, {size} mm", "kind": kind, "size_mm": size, "price": 6}
        for kind in ("coarse", "fine")
        for size in (120, 140)
    ],
}


def merged(old: list[Doc], new: list[Doc], key: str) -> list[Doc]:
    """``old`` with ``new`` in place of what has the same key, new ones after."""
    fresh = {x[key]: x for x in new}
    kept = [x for x in old if x[key] not in fresh]
    return [*kept, *new]


def main() -> None:
    cases = json.loads((HERE / "cases.json").read_text(encoding="utf-8"))
    parts = json.loads((HERE / "parts.json").read_text(encoding="utf-8"))
    cases = merged(cases, CASES, "key")
    made = (("fans", FANS), ("coolers", COOLERS), ("radiators", RADIATORS), ("cards", CARDS), ("cpus", CPUS), *ELECTRICS.items())
    for kind, new in made:
        parts[kind] = merged(parts.get(kind, []), new, "id")
    for fan_part in parts["fans"]:
        fan_part.setdefault("lead_mm", 350 if fan_part["size_mm"] < 110 else 500)
        pressure = fan_part["pressure_max_pa"] / fan_part["flow_max_m3h"] > 0.22
        fan_part.setdefault("made_for", "pressure" if pressure else "airflow")
    for part in parts["coolers"]:
        part.setdefault("price", PRICES.get(part["kind"], 40))
        if part["kind"] == "tower":
            part.setdefault("memory_clear_mm", 42 if part["fans"] == 1 else 33)
        if part["kind"] in ("sealed", "open_loop"):
            part.setdefault("pump_current_a", 0.4)
            part.setdefault("pump_lead_mm", 300)
            part.setdefault("tube_bend_mm", 40)
    for part in parts["radiators"]:
        part.setdefault("price", 18 + 14 * part["sections"])
    for part in parts["cards"]:
        part.setdefault("width_mm", 112 if part["power_w"] < 200 else 128)
        part.setdefault("plug_mm", 35)
    for name, content in (("cases", cases), ("parts", parts)):
        (HERE / f"{name}.json").write_text(json.dumps(content, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
