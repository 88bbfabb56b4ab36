"""Minutes of hand work between two layouts. Common practice, no source: a practised builder, case on the table."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

Kind = Literal["move", "take_out", "put", "flip", "swap", "plug", "speed", "radiator", "panel", "cooler", "card", "setting", "other"]

MINUTES: MappingProxyType[Kind, float] = MappingProxyType(
    {
        "move": 6.0,
        "take_out": 3.0,
        "put": 5.0,
        "flip": 4.0,
        "swap": 6.0,
        "plug": 1.0,
        "speed": 0.5,
        "radiator": 25.0,
        "panel": 1.0,
        "cooler": 20.0,
        "card": 8.0,
        "setting": 1.0,
        "other": 3.0,
    }
)
OPEN_AND_CLOSE_MIN = 4.0  # shut down, unplug, panel off; panel on, start
WITHOUT_OPENING: frozenset[Kind] = frozenset({"speed", "setting", "panel"})
LEAK_CHECK_MIN = 5.0  # at the least, after a loop was moved; common practice, no source


@dataclass(frozen=True)
class Change:
    """One thing done to a layout, in words; ``count`` of them. ``order``: the same as something to be done."""

    kind: Kind
    words: str
    count: int = 1
    order: str = ""

    @property
    def to_do(self) -> str:
        return self.order or self.words


def minutes_of(changes: Sequence[Change], own: Mapping[Kind, float] = MINUTES, closed: bool = False) -> float:
    """Hand work for a list of changes; nothing to do takes no time. ``own``: a person's minutes by kind, where they have some.

    ``closed``: opening and closing are counted elsewhere.
    """
    if not changes:
        return 0.0
    work = sum(own.get(c.kind, MINUTES[c.kind]) * c.count for c in changes)
    opened = not closed and any(c.kind not in WITHOUT_OPENING for c in changes)
    leak = any(c.kind == "radiator" for c in changes)
    return work + (OPEN_AND_CLOSE_MIN if opened else 0.0) + (LEAK_CHECK_MIN if leak else 0.0)
