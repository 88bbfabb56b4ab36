"""A folder laid out like the kernel's sensor tree, driven by a made-up machine: a stand-in for the machine under test itself."""

from collections.abc import Mapping
from pathlib import Path

# Where each channel stands: the chip's folder, the file, its label, and what takes the value to the file's unit.
_PLACES: Mapping[str, tuple[str, str, str, float]] = {
    "cpu_package_c": ("hwmon0", "temp1", "Package id 0", 1000.0),
    "cpu_core_1_c": ("hwmon0", "temp2", "Core 1", 1000.0),
    "cpu_core_2_c": ("hwmon0", "temp3", "Core 2", 1000.0),
    "card_core_c": ("hwmon1", "temp1", "edge", 1000.0),
    "card_hotspot_c": ("hwmon1", "temp2", "junction", 1000.0),
    "card_power_w": ("hwmon1", "power1", "", 1e6),
    "board_sensor_c": ("hwmon2", "temp1", "system", 1000.0),
    "room_c": ("hwmon2", "temp2", "room", 1000.0),
    "vrm_c": ("hwmon2", "temp3", "vrm", 1000.0),
    "coolant_c": ("hwmon2", "temp4", "coolant", 1000.0),
    "pump_rpm": ("hwmon2", "fan9", "pump", 1.0),
}
_CHIPS = {"hwmon0": "cputemp", "hwmon1": "cardchip", "hwmon2": "boardchip"}
_MOST_UJ = 262_143_328_850


class SensorTree:
    """``write`` puts a machine's present readings into the folder; whole files at once, so that a reader never sees half of one."""

    def __init__(self, root: Path, first: int = 0) -> None:
        """``first``: number of the first chip, which differs from start to start."""
        self.root, self.first, self.energy_j = root, first, 1000.0
        for old, name in _CHIPS.items():
            chip = self._chip(old)
            chip.mkdir(parents=True, exist_ok=True)
            (root / "devices" / f"{name}.0").mkdir(parents=True, exist_ok=True)
            self._put(chip / "name", name)
            (chip / "device").symlink_to(root / "devices" / f"{name}.0")
        card = root / "class/drm/card0"
        card.mkdir(parents=True)
        (card / "device").symlink_to(root / "devices" / "cardchip.0")
        zone = root / "class/powercap/zone:0"
        zone.mkdir(parents=True)
        self._put(zone / "name", "package-0")
        self._put(zone / "max_energy_range_uj", str(_MOST_UJ))

    def _chip(self, old: str) -> Path:
        return self.root / "class/hwmon" / f"hwmon{int(old.removeprefix('hwmon')) + self.first}"

    def _put(self, path: Path, text: str) -> None:
        fresh = path.with_name(f".{path.name}")
        fresh.write_text(text + "\n", encoding="ascii")
        fresh.replace(path)

    def write(self, readings: Mapping[str, float], passed_s: float) -> None:
        """Readings by channel, and how long they have held: the counter of energy goes on by that."""
        for channel, value in readings.items():
            if channel == "cpu_power_w":
                self.energy_j += value * passed_s
                self._put(self.root / "class/powercap/zone:0/energy_uj", str(round(self.energy_j * 1e6) % _MOST_UJ))
            elif channel.startswith("fan_"):
                name = channel.removeprefix("fan_").removesuffix("_rpm")
                self._row("hwmon2", f"fan{1 + sum(name.encode()) % 8}", name, value, 1.0)
            elif channel in _PLACES:
                self._row(*_PLACES[channel][:3], value, _PLACES[channel][3])

    def _row(self, chip: str, stem: str, label: str, value: float, factor: float) -> None:
        folder = self._chip(chip)
        if label:
            self._put(folder / f"{stem}_label", label)
        self._put(folder / f"{stem}_{'average' if stem.startswith('power') else 'input'}", str(round(value * factor)))
