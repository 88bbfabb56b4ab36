"""Words of what may be wrong with a unit, and where to look."""

from collections.abc import Mapping
from types import MappingProxyType

CAUSES: Mapping[str, str] = MappingProxyType(
    {
        "fan_reversed": "a fan that blows the other way",
        "fan_unplugged": "a fan that stands still",
        "fan_slow": "a fan that turns too slowly",
        "paste": "poor contact between processor and cooler",
        "pump_slow": "a pump that runs too slowly",
        "panel": "a panel that is not as it should be",
        "filter": "a filter that lets too little through",
        "room_probe": "a room probe in the exhaust air",
        "none": "nothing wrong",
    }
)
VERDICTS: Mapping[str, str] = MappingProxyType({"pass": "passed", "look": "look at it", "fail": "did not pass"})
WORDS: Mapping[str, str] = MappingProxyType({"within": "within", "outside": "outside", "cannot_tell": "not read"})
LOOKS: Mapping[str, str] = MappingProxyType(
    {
        "fan_reversed": "Hold a strip of paper at {at}: it moves against the way the sheet says. Power off before the fan is turned.",
        "fan_unplugged": "See whether the fan at {at} turns; if not, power off, then its plug, its header, its splitter.",
        "fan_slow": "Read the speed of the fan at {at} against the sheet; then its curve, its header's mode, a cable in its way.",
        "paste": "Power off and let it cool; film off the plate, screws even, paste as the sheet says, the bracket of this socket.",
        "pump_slow": "Read the pump's speed in the firmware: its header constant, no quiet preset on it. Gurgling: stop and look.",
        "panel": "See whether the {at} panel is as the sheet says, on or off, and whether something lies before it.",
        "filter": "Take the filters out and hold them to the light; wrapping foil and dust look alike to a fan.",
        "room_probe": "See where the room's probe hangs: not behind the machine, not over it, not in the sun.",
        "none": "Nothing to look for.",
    }
)


def named(cause: str, mount: str | None) -> str:
    """A fault in words, with its place."""
    place = (mount or "").upper()
    if cause == "panel":
        return f"the {mount} panel, off where it should be on or the other way"
    if mount in ("cooler", "card"):
        return f"the {mount}'s fans, too slow"
    by = {"fan_reversed": f"the fan at {place} reversed", "fan_unplugged": f"the fan at {place} standing still"}
    return by.get(cause, f"the fan at {place} too slow" if cause == "fan_slow" else CAUSES[cause])
