"""An order in which the parts of a layout can go in, or the ring of demands that makes every order impossible."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from itertools import pairwise


@dataclass(frozen=True)
class Before:
    """``first`` goes in before ``second``, and why."""

    first: str
    second: str
    why: str


@dataclass(frozen=True)
class Assembly:
    """Parts by name in an order that meets every demand; where there is none, ``ring`` names the demands that bite each other."""

    order: tuple[str, ...]
    demands: tuple[Before, ...]
    ring: tuple[Before, ...]


def assembly(parts: Sequence[str], demands: Sequence[Before]) -> Assembly:
    """Topological order, parts without a demand in the order given; demands on parts that are not there do not count."""
    here = [d for d in demands if d.first in parts and d.second in parts]
    graph: Mapping[str, set[str]] = {p: {d.first for d in here if d.second == p} for p in parts}
    sorter = TopologicalSorter(graph)
    try:
        sorter.prepare()
    except CycleError as error:
        names: list[str] = list(reversed(error.args[1]))
        steps = set(pairwise(names)) | set(pairwise(reversed(names)))
        return Assembly((), tuple(here), tuple(d for d in here if (d.first, d.second) in steps))
    found: list[str] = []
    ready: list[str] = []
    while sorter.is_active():
        ready = sorted([*ready, *sorter.get_ready()], key=list(parts).index)
        found.append(ready.pop(0))
        sorter.done(found[-1])
    return Assembly(tuple(found), tuple(here), ())
