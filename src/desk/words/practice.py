"""Words of practice: kinds of faults that are planted, levels."""

from collections.abc import Mapping
from types import MappingProxyType

PLANTED: Mapping[str, str] = MappingProxyType(
    {
        "reversed": "a fan blows the wrong way",
        "opposed": "two fans blow against each other through a radiator",
        "choked": "a fan gets too little air",
        "starved": "the card draws in hot air",
        "pump_high": "the pump stands too high in its loop",
        "short_circuit": "an intake's air leaves at once through an exhaust",
        "unplugged": "a fan is not plugged in",
        "negative": "more is blown out than in, through open gaps",
    }
)
LEVELS: Mapping[str, str] = MappingProxyType(
    {"1": "one planted, air drawn", "2": "two planted, air drawn", "3": "three planted, no air drawn"}
)
