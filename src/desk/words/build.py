"""Words of building: chapters of the sheet, how a step may be over."""

from collections.abc import Mapping
from types import MappingProxyType

CHAPTERS: Mapping[str, str] = MappingProxyType(
    {
        "before": "Before anything is touched",
        "out": "What comes out first",
        "in": "What goes in, in this order",
        "leads": "Leads",
        "close": "Before it is closed",
        "power": "First power",
        "after": "Afterwards",
    }
)
OVER: Mapping[str, str] = MappingProxyType({"done": "done", "otherwise": "done otherwise", "skipped": "left out"})
FOLLOWS: Mapping[str, str] = MappingProxyType(
    {
        "cpu": "the processor",
        "card": "the card",
        "hotter": "the hotter of processor and card",
        "coolant": "the coolant",
        "board": "the board",
        "case_air": "the air in the case",
    }
)
