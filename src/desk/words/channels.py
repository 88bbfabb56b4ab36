"""Channels of a run log in words, and what kind of quantity each holds."""

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
# What a column may become where the guess was wrong, in the order of the list.
MAPPED = ("cpu_package_c", "cpu_core_1_c", "cpu_core_2_c", *(name for name in CHANNELS if name != "cpu_package_c"))
# What is typed at the bench where no log was made: the figures that programs and meters show.
TYPED = ("cpu_package_c", "card_core_c", "sound_dba", "room_c", "coolant_c", "cpu_power_w", "card_power_w", "score", "fps", "job_s")
# What is read by hand while a run goes on.
BY_HAND = ("sound_dba", "room_c", "score", "fps", "job_s", "coolant_c")
# The figures a layout is chosen by, in the order they are shown.
LEADING = ("cpu_package_c", "card_core_c", "coolant_c", "cpu_power_w", "card_power_w", "score", "fps", "job_s", "sound_dba")
# The kind of quantity by the last word of a channel's name, as units are named; a temperature stands over the room.
KIND_BY_UNIT: Mapping[str, str] = MappingProxyType({"c": "difference", "dba": "level", "w": "power"})


def channel_words(channel: str) -> str:
    """A channel in words, also one that nobody foresaw."""
    if channel in CHANNELS:
        return CHANNELS[channel]
    for pattern, words in PATTERNS:
        if found := re.match(pattern, channel):
            return words.replace("$1", found[1]).replace("_", " ")
    return channel.replace("_", " ")
