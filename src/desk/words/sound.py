"""Words about sound: clips, what spoils them, where a microphone stands, what ties a clip to a level."""

from collections.abc import Mapping
from types import MappingProxyType

CLIP_KINDS: Mapping[str, str] = MappingProxyType(
    {"machine": "the machine", "room": "the room alone, machine off", "calibrator": "a calibrator on the microphone"}
)
CLIP_FLAGS: Mapping[str, str] = MappingProxyType(
    {
        "clipped": "Cut off at full scale",
        "dropout": "A hole",
        "gain_moved": "Everything grew louder or quieter alike",
        "speech": "Voices",
        "disturbed": "A knock or traffic",
        "too_quiet": "Too quiet for its file",
        "short": "Too short",
    }
)
CLIP_TIES: Mapping[str, str] = MappingProxyType(
    {"none": "nothing: relative only", "calibrator": "a calibrator's clip", "meter": "a meter read at the same moment"}
)
SOUND_LOADS: Mapping[str, str] = MappingProxyType({"idle": "machine at rest", "both": "machine loaded"})
METERS: Mapping[str, str] = MappingProxyType(
    {
        "": "not said: taken for class 2",
        "class_1": "a meter of class 1",
        "class_2": "a meter of class 2",
        "unclassed": "a phone, or a meter without a class",
    }
)
SOUND_SIDES: Mapping[str, str] = MappingProxyType(
    {"front": "before the front", "window": "at the window side", "rear": "behind it", "above": "above it"}
)
# Places for a microphone: words, distance and height in m, side. The two of the standard from memory (source: ISO 7779).
PLACES: Mapping[str, tuple[str, float, float, str]] = MappingProxyType(
    {
        "operator": ("an operator's seat (ISO 7779)", 0.25, 1.2, "front"),
        "bystander": ("a bystander (ISO 7779)", 1.0, 1.5, "front"),
        "near": ("near it (common practice)", 0.5, 0.5, "front"),
    }
)
