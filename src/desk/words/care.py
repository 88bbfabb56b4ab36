"""Words of care: what is done, dust of a room, symptoms with ordered checks (common practice, no source)."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

DUST: Mapping[str, str] = MappingProxyType({"little": "little dust", "usual": "usual", "much": "much: pets, carpet, workshop"})


@dataclass(frozen=True)
class Check:
    """``caution`` names one of the cautions; ``finding``: a code that, where it holds, makes this check the first."""

    words: str
    caution: str | None = None
    finding: str | None = None


@dataclass(frozen=True)
class Symptom:
    words: str
    checks: tuple[Check, ...]
    for_loops: bool = False


SYMPTOMS: Mapping[str, Symptom] = MappingProxyType(
    {
        "gurgle": Symptom(
            "it gurgles",
            (
                Check(
                    "Orientation: the pump lies below the radiator's highest point, tubes do not leave at the top", "pump", "pump_at_top"
                ),
                Check("Purge: full pump for a quarter of an hour, the machine tilted a little now and then", "coolant"),
                Check("Age: how much coolant is lost by now; the loop's air stands in Layouts, build, loop", "coolant", "loop_ages"),
            ),
            for_loops=True,
        ),
        "hot_idle": Symptom(
            "hot with nothing to do",
            (
                Check("Film still on the cold plate, or a bracket of another socket", "film"),
                Check("The pump's speed in the firmware: constant, not on a quiet preset", "pump", "pump_slow"),
                Check("Screws even, paste as its maker says", "paste"),
                Check("Something draws power that should not: read the package power", None),
            ),
        ),
        "hot_load": Symptom(
            "hotter under load than it was",
            (
                Check("The same load, room and fan speeds as then: hold a run against the baseline", "run"),
                Check("Filters and fins: hold them to the light", "dust"),
                Check("Every fan turns, the way the sheet says: paper at each", "fanMore", "fan_unplugged"),
                Check("Panels and cables: nothing new lies before a fan", None, "fan_choked"),
                Check("Paste, after years or after the cooler was moved", "paste"),
            ),
        ),
        "loud": Symptom(
            "louder than it was",
            (
                Check("Which one: stop them one after the other in the firmware, not with a finger; you listen close by", "loud"),
                Check("A cable or a loose screw touches", "fan"),
                Check("Its curve: a preset came back with an update", None, "default_curve"),
                Check("Dust makes it turn faster for the same heat: clean", "dust"),
                Check("A bearing that ticks or grinds: replace the fan", "fan"),
            ),
        ),
        "card_hot": Symptom(
            "the card alone is hot",
            (
                Check("It draws in fresh air: intakes below it, nothing under it", None, "card_starved"),
                Check("Its own fans turn, its fins are clean", "dust"),
                Check("Core and hot spot far apart: its paste or pads, which air does not help", "paste"),
            ),
        ),
        "leak": Symptom(
            "a drop, a stain, a sweet smell",
            (
                Check("Off at the wall, now; do not restart wet", "coolant"),
                Check("Dry, look, photograph; a sealed cooler goes back to its maker", "openLoop"),
            ),
            for_loops=True,
        ),
        "off": Symptom(
            "it switches itself off",
            (
                Check("Its log: at a temperature limit, or at once without warmth", "run"),
                Check("Pump and cooler's fan turn", "pump"),
                Check("The supply: load, age, its own fan; what is inside it is for a qualified person", "mains"),
            ),
        ),
    }
)
ITEMS: Mapping[str, str] = MappingProxyType(
    {
        "filters": "clean the filters",
        "fins": "blow the dust out of fins and fans",
        "radiator": "clean the radiator's dust side",
        "paste": "new paste on the processor",
        "coolant": "drain, flush and fill the loop",
        "sealed_age": "look at the sealed cooler's age",
        "recheck": "a run held against the baseline",
        "presets": "look at presets and pump after firmware updates",
    }
)
