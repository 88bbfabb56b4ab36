"""What no case fan drives between the inside of a case and the room: which openings let air in and out."""

from dataclasses import dataclass

from engine.coupled.links import ROOM
from engine.coupled.operating_point import OperatingPoint
from engine.units import M3H_PER_M3S

_WORDS = (
    ("leak:slot_covers", "the slot covers"),
    ("leak:seam", "the seams"),
    ("frame:", "the edges of a panel"),
    ("panel:", "the edges of a panel"),
    ("mesh:", "the mesh of a panel"),
    ("card:bracket", "the card's bracket"),
    ("card:", "the card's other outlets"),
    ("vent:basement", "the basement's vents"),
    ("vent:", "the vents"),
    ("face:", "the open sides"),
)


@dataclass(frozen=True)
class Opening:
    """``out_m3h``: net, below 0 where air comes in."""

    words: str
    out_m3h: float


def passive_openings(point: OperatingPoint) -> tuple[Opening, ...]:
    """Openings without a running case fan, those of one kind together, the largest flow first. Air before a panel counts as room air."""
    fans = point.machine.fans
    driven = {f.mount for f in fans if f.running}
    fitted = {f.mount for f in fans}
    sums: dict[str, float] = {}
    for link, q_m3s in zip(point.links, point.flow_m3s.tolist(), strict=True):
        outward = q_m3s if _outside(link.head) else -q_m3s
        if _outside(link.tail) == _outside(link.head) or link.mount in driven:
            continue
        words = next((w for start, w in _WORDS if link.id.startswith(start)), "other openings")
        if link.mount:
            words = f"the {'stopped fan' if link.mount in fitted else 'empty mount'} {link.mount.upper()}"
        sums[words] = sums.get(words, 0.0) + outward * M3H_PER_M3S
    return tuple(Opening(words, out) for words, out in sorted(sums.items(), key=lambda e: -abs(e[1])))


def _outside(node: str) -> bool:
    return node == ROOM or node.startswith("plenum_")
