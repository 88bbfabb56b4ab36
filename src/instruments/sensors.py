"""The machine under test as its own instrument: its sensors found, named, and read. Standard library only on Linux; elsewhere what
the cross-platform library gives.

On Linux the kernel's open sensor tree is read (``class/hwmon``, ``class/powercap``, ``devices/system/cpu``; source: the kernel's
documentation, hwmon sysfs interface), or a folder laid out like it. A sensor is known by its device and its label, never by its
number, which changes from start to start.
"""

import re
import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from engine.errors import OventaError

SYSTEM = Path("/sys")
LEAST_SPAN_S = 0.15  # over which power is a mean
# What a missing kind costs the verdict, in words; the order is that of the list a person sees.
COSTS: Mapping[str, str] = {
    "cpu_package_c": "no processor temperature: layouts cannot be compared by it",
    "card_core_c": "no card temperature: layouts cannot be compared by it",
    "room_c": "no room temperature: read a thermometer at the bench, or nothing is over room",
    "cpu_power_w": "no processor power: an unlike load cannot be seen, and at a limit nothing can be said",
    "card_power_w": "no card power: an unlike load cannot be seen",
    "fan_rpm": "no fan speeds: a fan that did not turn as asked cannot be seen",
}


class SensorsError(OventaError):
    """No sensor can be read."""

    code = "no_sensors"


@dataclass(frozen=True)
class Sensor:
    """``identity`` is the same after every start: the device, and the label or place on it. ``group``: cpu, card, board or drive."""

    identity: str
    words: str
    group: str
    unit: str  # c, w, rpm, mhz
    read: Callable[[], float | None] = field(compare=False)


def found(root: Path = SYSTEM, clock: Callable[[], float] = time.monotonic) -> list[Sensor]:
    """Every sensor of this machine, or of a folder laid out like its tree. Raises SensorsError where there is none."""
    sensors = [*_hwmon(root), *_powercap(root, clock), *_clocks(root)]
    if not sensors and root == SYSTEM:
        sensors = _library()
    if not sensors:
        do = "Load the kernel's modules for this board's sensors, or bring in a log that another program wrote."
        raise SensorsError("no sensor is found", str(root), do)
    seen: dict[str, int] = {}
    unique = []
    for s in sensors:
        seen[s.identity] = seen.get(s.identity, 0) + 1
        nth = f" #{seen[s.identity]}" if seen[s.identity] > 1 else ""
        unique.append(Sensor(s.identity + nth, s.words + nth, s.group, s.unit, s.read))
    return unique


def mapped(sensors: Iterable[Sensor], said: Mapping[str, str] | None = None) -> dict[str, Sensor]:
    """Channel by channel the sensor that it is read from: as a person said (identity -> channel, "" for none), else by kind and label."""
    said = said or {}
    channels: dict[str, Sensor] = {}
    rest = []
    for s in sensors:
        if s.identity not in said:
            rest.append(s)
        elif said[s.identity]:
            channels.setdefault(said[s.identity], s)
    for s in rest:
        name = guess(s)
        if name:
            channels.setdefault(name, s)
    return channels


def guess(s: Sensor) -> str | None:
    """The channel of FORMATS.md that a sensor is, by its group, unit and label; None where it is none of them."""
    label = s.words.lower()
    if s.unit == "rpm":
        return "pump_rpm" if "pump" in label else f"fan_{_plain(s.words.split(', ')[-1])}_rpm"
    if s.unit == "w":
        return {"cpu": "cpu_power_w", "card": "card_power_w"}.get(s.group)
    if s.unit == "mhz":
        return {"cpu": "cpu_clock_mhz", "card": "card_clock_mhz"}.get(s.group)
    if re.search(r"coolant|liquid|water", label):
        return "coolant_c"
    if s.group == "cpu":
        core = re.search(r"core\s*(\d+)", label)
        if core:
            return f"cpu_core_{core[1]}_c"
        return "cpu_package_c" if re.search(r"package|tctl|tdie|cpu|temp", label) else None
    if s.group == "card":
        if re.search(r"junction|hot", label):
            return "card_hotspot_c"
        return "card_memory_c" if "mem" in label else "card_core_c"
    if s.group == "board":
        if re.search(r"vrm|supply|mos", label):
            return "vrm_c"
        return "room_c" if re.search(r"\broom\b|ambient", label) else "board_sensor_c" if re.search(r"board|system|sys", label) else None
    return None


def missing(channels: Mapping[str, Sensor]) -> list[str]:
    """What cannot be read here, each with what it costs the verdict."""
    fans = any(c.startswith("fan_") for c in channels)
    return [words for kind, words in COSTS.items() if (not fans if kind == "fan_rpm" else kind not in channels)]


def _plain(words: str) -> str:
    return re.sub(r"[^a-z0-9]+", "_", words.lower()).strip("_") or "1"


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8", errors="replace").strip()
    except OSError:
        return ""


def _number(path: Path, factor: float) -> Callable[[], float | None]:
    """A file's number times ``factor``; None while it cannot be read, as a device that sleeps."""

    def read() -> float | None:
        try:
            return int(path.read_text(encoding="ascii").strip()) * factor
        except (OSError, ValueError):
            return None

    return read


# Kinds of files of a chip: their stem, the unit they are in here, and what takes them there.
_KINDS = (
    ("temp", "_input", "c", 1e-3),
    ("fan", "_input", "rpm", 1.0),
    ("power", "_average", "w", 1e-6),
    ("power", "_input", "w", 1e-6),
    ("freq", "_input", "mhz", 1e-6),
)


def _hwmon(root: Path) -> list[Sensor]:
    cards = {(card / "device").resolve() for card in sorted((root / "class/drm").glob("card[0-9]*")) if (card / "device").exists()}
    sensors: list[Sensor] = []
    for chip in sorted((root / "class/hwmon").glob("hwmon*"), key=lambda p: p.name):
        name = _text(chip / "name") or "chip"
        device = (chip / "device").resolve() if (chip / "device").exists() else chip
        place = device.name if (chip / "device").exists() else ""
        group = _group(chip, name, device in cards)
        for stem, ending, unit, factor in _KINDS:
            for path in sorted(chip.glob(f"{stem}[0-9]*{ending}"), key=lambda p: int(re.sub(r"\D", "", p.name.split("_")[0]) or 0)):
                own = path.name.removesuffix(ending)
                label = _text(chip / f"{own}_label") or own
                if unit == "w" and any(s.identity == f"{name} {place} {label} w" for s in sensors):
                    continue
                sensors.append(Sensor(f"{name} {place} {label} {unit}", f"{name}, {label}", group, unit, _number(path, factor)))
    return sensors


def _group(chip: Path, name: str, of_card: bool) -> str:
    """By where a chip hangs and what it labels, not by whose it is."""
    if of_card:
        return "card"
    labels = " ".join(_text(p).lower() for p in chip.glob("temp*_label"))
    if re.search(r"package id|tctl|tdie|^core \d|\bcore \d", labels) or "cpu" in name:
        return "cpu"
    return "drive" if re.search(r"nvme|drivetemp", name) else "board"


def _powercap(root: Path, clock: Callable[[], float]) -> list[Sensor]:
    """Watts of the processor from its counter of energy."""
    sensors = []
    for zone in sorted((root / "class/powercap").glob("*")):
        name = _text(zone / "name")
        if name.startswith("package") and (zone / "energy_uj").exists():
            sensors.append(
                Sensor(
                    f"powercap {name} w",
                    f"energy counter, {name}",
                    "cpu",
                    "w",
                    _Counter(zone / "energy_uj", zone / "max_energy_range_uj", clock),
                )
            )
    return sensors


class _Counter:
    """Mean power since it was asked last, from a counter of microjoules that may run over; None the first time."""

    def __init__(self, path: Path, most: Path, clock: Callable[[], float]) -> None:
        self.read, self.most, self.clock = _number(path, 1e-6), _number(most, 1e-6), clock
        self.last: tuple[float, float] | None = None
        self.watts: float | None = None

    def __call__(self) -> float | None:
        energy, now = self.read(), self.clock()
        if energy is not None and self.last is not None and now - self.last[0] < LEAST_SPAN_S:
            return self.watts  # asked again at once: the counter itself moves in steps
        before, self.last, self.watts = self.last, None if energy is None else (now, energy), None
        if energy is None or before is None:
            return None
        spent = energy - before[1]
        if spent < 0:
            spent += self.most() or 0.0
        self.watts = spent / (now - before[0]) if spent >= 0 else None
        return self.watts


def _clocks(root: Path) -> list[Sensor]:
    """The mean clock of the processor's cores."""
    reads = [_number(p, 1e-3) for p in sorted((root / "devices/system/cpu").glob("cpu[0-9]*/cpufreq/scaling_cur_freq"))]
    if not reads:
        return []

    def mean() -> float | None:
        values = [v for read in reads if (v := read()) is not None]
        return sum(values) / len(values) if values else None

    return [Sensor("cpufreq mean mhz", "processor's clock, mean of its cores", "cpu", "mhz", mean)]


def _library() -> list[Sensor]:
    """Where there is no tree to read: what the cross-platform library offers on this system."""
    try:
        import psutil
    except ImportError:
        return []
    sensors = []
    for kind, unit in (("sensors_temperatures", "c"), ("sensors_fans", "rpm")):
        ask: Callable[[], Mapping[str, list[Any]]] | None = getattr(psutil, kind, None)
        for chip, rows in (ask() if ask else {}).items():
            for i, row in enumerate(rows):
                group = "cpu" if re.search(r"package|core|tctl|tdie", row.label.lower()) else "board"
                words = f"{chip}, {row.label or i + 1}"
                sensors.append(Sensor(f"{chip} {row.label or i} {unit}", words, group, unit, _of_library(ask, chip, i)))
    if psutil.cpu_freq():
        sensors.append(Sensor("cpu clock mhz", "processor's clock", "cpu", "mhz", lambda: float(psutil.cpu_freq().current)))
    return sensors


def _of_library(ask: Callable[[], Mapping[str, list[Any]]] | None, chip: str, i: int) -> Callable[[], float | None]:
    def read() -> float | None:
        now = ask().get(chip, []) if ask else []
        return float(now[i].current) if i < len(now) else None

    return read
