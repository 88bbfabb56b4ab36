"""Kinds of parts as a person meets them: what each is called, what is asked of it, and by what two of a kind are told apart.

A kind's shape is its model in ``documents.job.models``; whatever is said of it to a person stands here. Ranges are those of
parts on sale (common practice, no source), within what a document may say; a default is the model's own.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Unit = Literal["length", "power", "temperature", "level", "flow", "pressure", "speed", "share", "plain"]
AIR = ("tower", "downdraft")
LOOP = ("sealed", "open_loop")


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A field of a part and how it is asked for. ``optional`` is shown where nothing stands, ``only`` names the kinds of cooler
    that have it, ``choices`` are values with their words."""

    words: str
    unit: Unit = "plain"
    low: float | None = None
    high: float | None = None
    digits: int | None = None
    optional: str | None = None
    choices: Mapping[str, str] | None = None
    only: tuple[str, ...] = ()
    way: Literal["number", "choice", "text", "tick"] = "number"


@dataclass(frozen=True, kw_only=True)
class PartWords:
    """A kind of part. ``tells`` are the figures by which two of it are told apart, each with its phrase; ``base`` is the setting
    of the machine that names one; ``caution`` is said beside each."""

    words: str
    one: str
    remark: str
    fields: Mapping[str, Asked]
    base: str | None = None
    caution: str | None = None
    tells: Mapping[str, str] | None = None


def _choice(words: str, only: tuple[str, ...] = (), **choices: str) -> Asked:
    return Asked(words=words, choices={name.removeprefix("_"): said for name, said in choices.items()}, only=only, way="choice")


def _mm(words: str, low: float, high: float, optional: str | None = None, only: tuple[str, ...] = ()) -> Asked:
    return Asked(words=words, unit="length", low=low, high=high, optional=optional, only=only)


UNKNOWN = "not known"
PRICE = Asked(words="Price", low=0, high=9999, digits=2, optional=UNKNOWN)
LIMIT = Asked(words="Limit", unit="temperature", low=40, high=130)

PARTS: Mapping[str, PartWords] = {
    "cpus": PartWords(
        words="Processor",
        one="a processor",
        remark="what it draws under your load, and where it stops",
        base="cpu",
        tells={"power_w": "{}", "tj_max_c": "to {}"},
        fields={
            "power_w": Asked(words="Power under load", unit="power", low=1, high=1000),
            "r_jc_k_per_w": Asked(words="Core to lid, K/W", low=0, high=5),
            "tj_max_c": LIMIT,
            "overclocked": Asked(words="overclocked", way="tick"),
            "price": PRICE,
        },
    ),
    "cards": PartWords(
        words="Graphics card",
        one="a card",
        remark="leave out when there is none",
        base="card",
        tells={"power_w": "{}", "length_mm": "{}", "slots": "{} slots"},
        fields={
            "power_w": Asked(words="Power under load", unit="power", low=1, high=1200),
            "shroud": _choice("Its heat goes", open="into the case (open)", blower="out of the bracket (blower)"),
            "length_mm": _mm("Length", 50, 500),
            "slots": Asked(words="Slots", low=1, high=5, digits=1),
            "t_limit_c": LIMIT,
            "noise_dba": Asked(words="Loudest, at 1 m", unit="level", low=0, high=70, digits=1),
            "fan_flow_max_m3h": Asked(words="Fans, free flow", unit="flow", low=5, high=600),
            "fan_pressure_max_pa": Asked(words="Fans, most pressure", unit="pressure", low=1, high=400),
            "fin_drop_pa": Asked(words="Lost in its fins", unit="pressure", low=0.5, high=200),
            "r_k_per_w": Asked(words="Core to air, K/W", low=0.01, high=3),
            "width_mm": _mm("Width, board to upper edge", 30, 300, UNKNOWN),
            "plug_mm": _mm("Its plug and cable's bend", 0, 120, UNKNOWN),
            "block_k_per_w": Asked(words="Core to coolant under a block, K/W", low=0.005, high=1, optional="0.06"),
            "price": PRICE,
        },
    ),
    "coolers": PartWords(
        words="Processor cooler",
        one="a cooler",
        remark="tower, downdraft or sealed",
        base="cooler",
        tells={"kind": "{}", "height_mm": "{}"},
        fields={
            "height_mm": _mm("Height", 15, 250, UNKNOWN, AIR),
            "fans": Asked(words="Fans on it", low=1, high=4, digits=0, only=AIR),
            "flow_ref_m3h": Asked(words="Measured at", unit="flow", low=5, high=300, only=AIR),
            "fin_drop_pa": Asked(words="Lost in its fins", unit="pressure", low=0.5, high=100, only=AIR),
            "ua_ref_w_per_k": Asked(words="Fins to air, W/K", low=0.5, high=60, only=AIR),
            "r_base_k_per_w": Asked(words="Lid to fins, K/W", low=0, high=2, only=AIR),
            "r_plate_k_per_w": Asked(words="Lid to coolant, K/W", low=0, high=2, only=LOOP),
            "pump": _choice(
                "Pump", LOOP, block="on the processor", radiator="in the radiator", tube="in the tube", free="free in the case"
            ),
            "coolant_ml": Asked(words="Coolant, ml", low=20, high=3000, digits=0, only=LOOP),
            "fill_pct": Asked(words="Filled when new", unit="share", low=51, high=100, only=LOOP),
            "tube_mm": _mm("Tubes, length", 50, 2500, only=LOOP),
            "tube_material": _choice(
                "Tubes, material", LOOP, epdm="EPDM rubber", fluoropolymer="fluoropolymer lined", pvc="PVC", silicone="silicone"
            ),
            "tube_bend_mm": _mm("Smallest bend", 5, 200, UNKNOWN, LOOP),
            "pump_z_mm": _mm("Pump, over the floor", 0, 1000, UNKNOWN, ("open_loop",)),
            "reservoir_z_mm": _mm("Top of the reservoir", 0, 1500, UNKNOWN, ("open_loop",)),
            "pump_current_a": Asked(words="Pump, A", low=0, high=5, only=LOOP, optional=UNKNOWN),
            "pump_lead_mm": _mm("Pump's lead", 50, 1500, UNKNOWN, LOOP),
            "memory_clear_mm": _mm("Free over the memory", 5, 200, UNKNOWN, AIR),
            "pipes_behind_mm": _mm("Heat pipes stand out behind", 0, 60, "none", AIR),
            "price": PRICE,
        },
    ),
    "radiators": PartWords(
        words="Radiators",
        one="a radiator",
        remark="for sealed coolers",
        caution="radiator",
        tells={"sections": "{} ×", "section_mm": "{}", "thickness_mm": "{} thick"},
        fields={
            "sections": Asked(words="Sections", low=1, high=8, digits=0),
            "section_mm": _mm("Section", 60, 240),
            "thickness_mm": _mm("Thickness", 10, 120),
            "length_mm": _mm("Length with end tanks", 80, 700, "auto"),
            "end_tank_mm": _mm("End tank, along it", 0, 80),
            "tank_height_mm": _mm("End tank, thickness", 10, 120, "as the core"),
            "revision": Asked(words="Revision", way="text"),
            "price": PRICE,
        },
    ),
    "fans": PartWords(
        words="Fans on hand",
        one="a kind of fan",
        remark="free air, full speed, from the data sheet",
        tells={"size_mm": "{}", "speed_max_rpm": "{}", "noise_dba": "{}"},
        fields={
            "size_mm": _mm("Size", 40, 300),
            "thickness_mm": _mm("Thickness", 8, 60),
            "speed_max_rpm": Asked(words="Full speed", unit="speed", low=200, high=10000, digits=0),
            "flow_max_m3h": Asked(words="Free flow", unit="flow", low=2, high=600),
            "pressure_max_pa": Asked(words="Most pressure", unit="pressure", low=0.5, high=600),
            "noise_dba": Asked(words="Sound at 1 m", unit="level", low=0, high=80, digits=1),
            "current_a": Asked(words="Current, A", low=0, high=5, optional=UNKNOWN),
            "connector": _choice("Plug", _4pin="4-pin", _3pin="3-pin", _2pin="2-pin"),
            "lead_mm": _mm("Lead", 20, 1500, UNKNOWN),
            "made_for": _choice("Made for", _="not said", airflow="airflow", pressure="pressure", mixed="both"),
            "open_side": _choice("Better-looking side", _="either", inlet="inlet", outlet="outlet"),
            "lighting": Asked(words="lit", way="tick"),
            "limit_rpm": Asked(words="You accept at most", unit="speed", low=100, high=10000, digits=0, optional="any"),
            "hums_from_rpm": Asked(words="Hums from", unit="speed", low=0, high=10000, digits=0, optional="nowhere"),
            "hums_to_rpm": Asked(words="to", unit="speed", low=0, high=10000, digits=0, optional="nowhere"),
            "limit_dba": Asked(words="and at most", unit="level", low=0, high=80, digits=1, optional="any"),
            "price": PRICE,
        },
    ),
    "boards": PartWords(
        words="Board",
        one="a board",
        remark="its headers: what each carries and which fans it can slow",
        base="board",
        fields={"price": PRICE},
    ),
    "memory": PartWords(
        words="Memory",
        one="memory",
        remark="its height, under a cooler",
        base="memory",
        tells={"height_mm": "{}"},
        fields={"height_mm": _mm("Height", 10, 100), "price": PRICE},
    ),
    "supplies": PartWords(
        words="Power supply",
        one="a power supply",
        remark="its length, against the case",
        base="supply",
        caution="supply",
        tells={"length_mm": "{}"},
        fields={
            "power_w": Asked(words="Power", unit="power", low=50, high=3000),
            "length_mm": _mm("Length", 50, 400),
            "height_mm": _mm("Height", 30, 150),
            "price": PRICE,
        },
    ),
    "controllers": PartWords(
        words="Splitters and hubs",
        one="a splitter or hub",
        remark="a splitter shares its header's current, a powered hub brings its own",
        tells={"kind": "{}"},
        fields={
            "kind": _choice("Kind", splitter="splitter", hub="hub with its own supply", controller="controller"),
            "outputs": Asked(words="Outlets", low=1, high=20, digits=0),
            "limit_a": Asked(words="Carries, A", low=0.1, high=30, optional=UNKNOWN),
            "lead_mm": _mm("Adds to the lead", 0, 1000),
            "price": PRICE,
        },
    ),
    "filters": PartWords(
        words="Filters",
        one="a filter",
        remark="for the list and the price; which panel has one is said in Survey",
        tells={"kind": "{}"},
        fields={"kind": _choice("Kind", coarse="coarse", fine="fine"), "size_mm": _mm("Size", 40, 300), "price": PRICE},
    ),
}
