"""Channels of a run log in words: the same for flags, doubts, screens and reports."""

import re
from collections.abc import Mapping
from types import MappingProxyType

CHANNELS: Mapping[str, str] = MappingProxyType(
    {
        "cpu_package_c": "processor",
        "card_core_c": "card",
        "card_hotspot_c": "card's hot spot",
        "card_memory_c": "card's memory",
        "board_sensor_c": "board",
        "vrm_c": "board's regulators",
        "coolant_c": "coolant",
        "room_c": "room",
        "cpu_power_w": "processor's power",
        "card_power_w": "card's power",
        "cpu_clock_mhz": "processor's clock",
        "card_clock_mhz": "card's clock",
        "pump_rpm": "pump's speed",
        "sound_dba": "sound",
        "score": "score",
        "fps": "frames per second",
        "job_s": "time of the job",
    }
)
PATTERNS: tuple[tuple[str, str], ...] = (
    (r"^cpu_core_(\w+)_c$", "core $1"),
    (r"^fan_(\w+)_rpm$", "fan $1"),
    (r"^air_(\w+)_c$", "air at $1"),
    (r"^(\w+)_(c|w|rpm|mhz|dba|pct|v)$", "$1"),
)
PARTS: Mapping[str, str] = MappingProxyType({"cpu": "processor", "card": "card"})


def channel_words(channel: str) -> str:
    """A channel in words, also one that nobody foresaw."""
    if channel in CHANNELS:
        return CHANNELS[channel]
    for pattern, words in PATTERNS:
        if found := re.match(pattern, channel):
            return words.replace("$1", found[1]).replace("_", " ")
    return channel.replace("_", " ")


def fan_name(channel: str) -> str:
    """Whose speed a tachometer reads: the mount as it is lettered, or the pump."""
    return "the pump" if channel == "pump_rpm" else channel.removeprefix("fan_").removesuffix("_rpm").replace("_", " ").upper()
