"""From a logger's column headings to channels of the run log: what, unit, and how sure."""

import re
from dataclasses import dataclass

CHANNEL_NAME = r"^[a-z][a-z0-9_]*_(c|w|rpm|mhz|dba|pct|s|v|m3h|pa)$|^(score|fps)$"
UNIT_WORDS = {
    "c": r"°\s*c|deg\s*c|celsius|\bc\b",
    "f": r"°\s*f|deg\s*f|fahrenheit|\bf\b",
    "w": r"\bw\b|watts?",
    "mhz": r"mhz",
    "ghz": r"ghz",
    "mw": r"\bmw\b|milliwatts?",
    "k": r"\bk\b|kelvin",
    "rpm": r"rpm|1/min|min-1",
    "dba": r"db\s*\(?a\)?|dba",
    "pct": r"%|pct|percent",
    "s": r"\bs\b|\bsec\b|seconds?",
}
UNIT_FAMILIES = (("c", "f", "k"), ("w", "mw"), ("mhz", "ghz"))  # units of one quantity, that of the run log first
TIME = re.compile(r"^(time|elapsed|datum|date|zeit|uhrzeit|timestamp|date/time)(\b|_)", re.I)
_OWN = re.compile(
    r"^(cpu_package_c|cpu_core_\w+_c|card_core_c|card_hotspot_c|card_memory_c|board_sensor_c|vrm_c|coolant_c|room_c|air_\w+_c|"
    r"cpu_power_w|card_power_w|cpu_clock_mhz|card_clock_mhz|fan_\w+_rpm|pump_rpm|sound_dba|score|job_s|fps)$"
)
_NUMBER_WORDS = {"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "seven": "7", "eight": "8"}
_CARD = r"graphics|\bcard\b|karte|gpu|vga"
_CPU = r"\bcpu\b|processor|prozessor|package|\btctl\b"


@dataclass(frozen=True)
class Column:
    """A column of a file: what it becomes (``channel`` None: left out) and the unit it is read in."""

    index: int
    heading: str
    channel: str | None
    unit: str
    first: tuple[str, ...] = ()  # cells as they stand in the file
    low: float | None = None  # in the file's unit
    high: float | None = None


def known_channel(name: str) -> bool:
    """A channel with a meaning of its own in the run log."""
    return _OWN.match(name) is not None


def unit_of(heading: str) -> str:
    """Unit named in a heading, a bracket first; empty when there is none."""
    bracket = re.findall(r"[\[(]([^\])]*)[\])]?\s*\)?", heading)
    for text in (*bracket, heading):
        for unit, words in UNIT_WORDS.items():
            if re.search(words, text.strip(), re.I):
                return unit
    suffix = re.search(r"_(c|f|k|w|mw|mhz|ghz|rpm|dba|pct|s)$", heading, re.I)
    return suffix.group(1).lower() if suffix else ""


def units_for(channel: str | None, unit: str) -> tuple[str, ...]:
    """Units that a column may be in: those of what it is taken for, else of what its heading says; empty where nothing is known."""
    own = channel.rsplit("_", 1)[-1] if channel else unit
    return next((family for family in UNIT_FAMILIES if own in family), (own,) if own in UNIT_WORDS else ())


def guess_channel(heading: str, unit: str) -> str | None:
    """Channel for a heading as a person would read it; None when nothing fits."""
    name = heading.strip()
    if _OWN.match(name):
        return name
    if name.endswith("_f") and _OWN.match(name[:-2] + "_c"):
        return name[:-2] + "_c"
    low = name.lower().replace("_", " ")
    kind = {"": "temperature?", "c": "temperature", "f": "temperature", "k": "temperature", "ghz": "mhz", "mw": "w"}.get(unit, unit)
    if kind.startswith("temperature"):
        return _temperature(low, sure=kind == "temperature")
    if kind == "w":
        return "card_power_w" if re.search(_CARD, low) else "cpu_power_w" if re.search(_CPU, low) else None
    if kind == "mhz":
        return "card_clock_mhz" if re.search(_CARD, low) else "cpu_clock_mhz" if re.search(_CPU + r"|core", low) else None
    if kind == "rpm":
        if "pump" in low:
            return "pump_rpm"
        word = re.sub(r"[^a-z0-9]+", "_", re.sub(r"[\[(].*?[\])]", "", low).replace("fan", "")).strip("_").removesuffix("_rpm")
        return f"fan_{word or '1'}_rpm"
    return "sound_dba" if kind == "dba" else None


def _temperature(low: str, sure: bool) -> str | None:
    rules = (
        (r"\broom\b|ambient|raum|umgebung", "room_c"),
        (r"coolant|liquid|water|wasser", "coolant_c"),
        (r"vrm", "vrm_c"),
        (r"hot\s*-?spot|junction", "card_hotspot_c"),
        (rf"({_CARD}).*mem|mem.*({_CARD})", "card_memory_c"),
        (_CARD, "card_core_c"),
        (r"board|chipset|system", "board_sensor_c"),
    )
    for words, channel in rules:
        if re.search(words, low):
            return channel
    core = re.search(r"\bcore\W*(\d+|" + "|".join(_NUMBER_WORDS) + r")\b", low)
    if core:
        return f"cpu_core_{_NUMBER_WORDS.get(core.group(1), core.group(1))}_c"
    if re.search(_CPU, low):
        return "cpu_package_c"
    probe = re.search(r"\b(air|probe|luft)\W*(\w+)?", low)
    return f"air_{probe.group(2) or 'probe'}_c" if probe and sure else None
