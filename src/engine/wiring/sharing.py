"""Leads shared out among headers: pumps on theirs, the cooler's fan beside the processor, case fans that are driven alike together."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

import numpy as np

from engine.wiring.currents import HeaderBox, Plug, way_mm

EXTENSION_MM = 50.0  # common practice, no source: extensions are counted in such steps
OTHERS_MM = 5_000.0  # the processor's own header, for anything but its cooler
UNLIKE_MM = 10_000.0  # a header that cannot slow this plug: only where nothing else is left
TOO_MUCH_MM = 1_000_000.0  # one that may not carry it: never


@dataclass(frozen=True)
class Lead:
    """One thing with a lead. ``drive``: what sets its speed; only what is driven alike may share a header."""

    key: tuple[str, str]
    plug: Plug
    drive: str
    of_cooler: bool = False


@dataclass(frozen=True)
class Branch:
    """A splitter, or a hub with a supply of its own; there is one of each."""

    id: str
    outputs: int
    lead_mm: float
    own: HeaderBox | None  # of a hub: what it carries itself, where it hangs

    def may(self, leads: Sequence[Lead], header_limit_a: float | None) -> bool:
        limit = self.own.limit_a if self.own else header_limit_a
        modes = self.own.modes if self.own else ()
        alike = all(not x.plug.slowed or not modes or x.plug.connector in modes for x in leads)
        return alike and (limit is None or sum(x.plug.current_a or 0.0 for x in leads) <= limit)


@dataclass(frozen=True)
class Place:
    header: str
    via: str | None
    extension_mm: float


@dataclass(frozen=True)
class _Bundle:
    leads: tuple[Lead, ...]
    branch: Branch | None = None


def shared(
    leads: Sequence[Lead], headers: Sequence[HeaderBox], branches: Sequence[Branch], processors: str | None = None
) -> dict[tuple[str, str], Place]:
    """Where each lead goes, by its key; a lead that finds no header is not in it. ``headers``: those that are free; ``processors``: the
    one that is meant for its cooler, which case fans take last.

    The least way along the frame among all headers that may carry it (an assignment, exact); splitters and hubs come in only where there
    are more leads than headers, those that save most first.
    """
    free, left = list(headers), list(branches)
    pumps = [_Bundle((x,)) for x in leads if x.plug.kind == "pump"]
    found = _assigned(pumps, [h for h in free if h.kind == "pump"])
    free = [h for h in free if h.id not in {p.header for p in found.values()}]
    fans = [h for h in free if h.kind == "fan"]
    rest = [b for b in pumps if b.leads[0].key not in found]
    cooler = _bundles([x for x in leads if x.of_cooler], left, min(len(fans), 1), fans)
    for own in (cooler, rest):
        found |= _assigned(own, fans)
        fans = [h for h in fans if h.id not in {p.header for p in found.values()}]
        left = [b for b in left if b.id not in {p.via for p in found.values()}]
    case = [x for x in leads if x.plug.kind == "fan" and not x.of_cooler]
    return found | _assigned(_bundles(case, left, len(fans), fans), fans, processors)


def _bundles(leads: Sequence[Lead], branches: Sequence[Branch], most: int, headers: Sequence[HeaderBox]) -> list[_Bundle]:
    """One lead a header, or as many by splitters and hubs as it takes to need no more than ``most`` headers."""
    single, made, left = list(leads), list[_Bundle](), list(branches)
    limit = min((h.limit_a for h in headers if h.limit_a is not None), default=None)
    while single and len(single) + len(made) > most:
        options = []
        for b in left:
            for drive in dict.fromkeys(x.drive for x in single):
                alike = [x for x in single if x.drive == drive][: b.outputs]
                while len(alike) > 1 and not b.may(alike, limit):
                    alike = alike[:-1]
                if len(alike) > 1:
                    options.append((len(alike), -b.outputs, b, alike))
        if not options:
            break
        _, _, branch, own = max(options, key=lambda o: o[:2])
        left.remove(branch)
        single = [x for x in single if x not in own]
        made.append(_Bundle(tuple(own), branch))
    return [*made, *(_Bundle((x,)) for x in single)]


def _assigned(bundles: Sequence[_Bundle], headers: Sequence[HeaderBox], last: str | None = None) -> dict[tuple[str, str], Place]:
    if not bundles or not headers:
        return {}
    from scipy.optimize import linear_sum_assignment  # slow to load, and most answers need none of it

    cost = np.array([[_cost_mm(b, h) + (OTHERS_MM if h.id == last else 0.0) for h in headers] for b in bundles])
    found: dict[tuple[str, str], Place] = {}
    for i, j in zip(*linear_sum_assignment(cost), strict=True):
        if cost[i, j] >= TOO_MUCH_MM:
            continue
        for lead in bundles[i].leads:
            branch = bundles[i].branch
            found[lead.key] = Place(headers[j].id, branch.id if branch else None, _extension_mm(lead, headers[j], branch))
    return found


def _cost_mm(bundle: _Bundle, header: HeaderBox) -> float:
    carried = bundle.branch is None or bundle.branch.own is None
    if carried and header.limit_a is not None and sum(x.plug.current_a or 0.0 for x in bundle.leads) > header.limit_a:
        return TOO_MUCH_MM
    unlike = carried and any(x.plug.slowed and header.modes and x.plug.connector not in header.modes for x in bundle.leads)
    ways = [way_mm(x.plug, header) or 0.0 for x in bundle.leads]
    # More of the bundle first: where headers are short, a bundle goes before a single fan.
    return sum(ways) / len(ways) + (UNLIKE_MM if unlike else 0.0) - (0.0 if len(bundle.leads) == 1 else UNLIKE_MM)


def _extension_mm(lead: Lead, header: HeaderBox, branch: Branch | None) -> float:
    goal = branch.own if branch and branch.own else header  # where a hub lies may not be known
    way, length = way_mm(lead.plug, goal), lead.plug.lead_mm
    if way is None or length is None:
        return 0.0
    short = way - length - (branch.lead_mm if branch else 0.0)
    return EXTENSION_MM * ceil(short / EXTENSION_MM) if short > 0 else 0.0
