"""An existing machine looked at mount by mount, against the layout it was meant to have."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

Code = Literal["reversed", "unplugged", "not_turning", "missing", "unplanned", "filter_dusty", "filter_missing", "not_looked_at"]


@dataclass(frozen=True)
class Seen:
    """What a person saw at a mount: ``direction`` None where no fan is there."""

    mount: str
    layer: str
    direction: str | None
    plugged: bool
    turning: bool
    filter: Literal["clean", "dusty", "missing", "none"] = "none"


@dataclass(frozen=True)
class Meant:
    mount: str
    layer: str
    direction: str
    running: bool


@dataclass(frozen=True)
class Deviation:
    """One difference, with the mount's name and what to do."""

    code: Code
    mount: str
    layer: str
    what: str
    do: str


def audit(meant: tuple[Meant, ...], seen: tuple[Seen, ...]) -> list[Deviation]:
    """Every difference between what was meant and what is there, in the order of the mounts."""
    return [*_meant(meant, seen), *_unplanned(meant, seen)]


_OUT = {"intake": "in", "exhaust": "out"}


def _meant(meant: tuple[Meant, ...], seen: tuple[Seen, ...]) -> Iterator[Deviation]:
    found = {(s.mount, s.layer): s for s in seen}
    for m in meant:
        s, name = found.get((m.mount, m.layer)), m.mount.upper()
        if s is None:
            yield Deviation("not_looked_at", m.mount, m.layer, f"{name} has not been looked at", "Look which way its air goes.")
            continue
        if s.direction is None:
            yield Deviation("missing", m.mount, m.layer, f"No fan is at {name}", "Fit it, or take it out of the layout.")
            continue
        if s.direction != m.direction:
            words = f"{name} blows {_OUT[s.direction]}, meant was {_OUT[m.direction]}"
            yield Deviation("reversed", m.mount, m.layer, words, "Switch off, turn the fan round, look again.")
        if m.running and not s.plugged:
            yield Deviation("unplugged", m.mount, m.layer, f"{name} is not plugged in", "Switch off and plug it into its header.")
        elif m.running and not s.turning:
            words = f"{name} is plugged in and stands still"
            yield Deviation(
                "not_turning", m.mount, m.layer, words, "Check its curve's threshold, its header, and for a lead in the blades."
            )
        if s.filter == "dusty":
            yield Deviation("filter_dusty", m.mount, m.layer, f"The filter at {name} is dusty", "Clean it before any run.")
        if s.filter == "missing":
            yield Deviation("filter_missing", m.mount, m.layer, f"The filter at {name} is missing", "Refit it, or note the panel as bare.")


def _unplanned(meant: tuple[Meant, ...], seen: tuple[Seen, ...]) -> Iterator[Deviation]:
    planned = {(m.mount, m.layer) for m in meant}
    for s in seen:
        if s.direction is not None and (s.mount, s.layer) not in planned:
            words = f"A fan is at {s.mount.upper()} that the layout does not have"
            yield Deviation("unplanned", s.mount, s.layer, words, "Put it into the layout, or take it out.")
