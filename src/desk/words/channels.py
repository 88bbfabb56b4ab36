"""Channels of a run log in words, and what kind of quantity each holds."""

from collections.abc import Mapping
from types import MappingProxyType

from engine.runs.names import CHANNELS, PATTERNS, channel_words

__all__ = ["CHANNELS", "PATTERNS", "channel_words"]

# What a column may become where the guess was wrong, in the order of the list.
MAPPED = ("cpu_package_c", "cpu_core_1_c", "cpu_core_2_c", *(name for name in CHANNELS if name != "cpu_package_c"))
# What is typed at the bench where no log was made: the figures that programs and meters show.
TYPED = ("cpu_package_c", "card_core_c", "sound_dba", "room_c", "coolant_c", "cpu_power_w", "card_power_w", "score", "fps", "job_s")
# What is read by hand while a run goes on.
BY_HAND = ("sound_dba", "room_c", "score", "fps", "job_s", "coolant_c")
# The figures a layout is chosen by, in the order they are shown.
LEADING = ("cpu_package_c", "card_core_c", "coolant_c", "cpu_power_w", "card_power_w", "score", "fps", "job_s", "sound_dba")
# The kind of quantity by the last word of a channel's name, as units are named; a temperature stands over the room.
KIND_BY_UNIT: Mapping[str, str] = MappingProxyType(
    {"c": "difference", "dba": "level", "w": "power", "s": "time", "mhz": "clock", "rpm": "speed", "pct": "share"}
)
