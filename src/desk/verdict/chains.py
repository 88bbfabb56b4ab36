"""Which of the layouts that were run form a ladder, a factorial design, a family of speeds, or a pair that shows one thing alone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, permutations
from typing import Literal

from desk.job.difference import FITTED, panel_pairs
from documents.job.models import JobDoc, LayoutDoc
from engine.plan.rebuild import Change

Differences = Mapping[tuple[str, str], Sequence[Change]]
MOST_FACTORS = 3
MOST_TOLD = 2  # changes of a bundle that its name tells one by one
PARTS = ("card", "cooler", "setting")


def ladders(names: Sequence[str], differ: Differences) -> list[list[str]]:
    """Longest rows of three or more layouts in which each has what the one before has and one more thing put in."""
    after = {a: [b for b in names if b != a and _one_more(differ[a, b])] for a in names}
    rows: list[list[str]] = []

    def walk(row: list[str]) -> None:
        following = [b for b in after[row[-1]] if b not in row]
        if not following and len(row) > 2:
            rows.append(row)
        for b in following:
            walk([*row, b])

    for a in names:
        if not any(a in after[b] for b in names):
            walk([a])
    return rows


def _one_more(done: Sequence[Change]) -> bool:
    return len(done) == 1 and done[0].kind == "put"


@dataclass(frozen=True)
class Design:
    """A full two-level design among the layouts: ``names`` of its changes, ``layouts`` in grid order, the first without any, and what
    each change consists of, where its name does not say so."""

    names: tuple[str, ...]
    layouts: tuple[str, ...]
    parts: tuple[tuple[str, ...], ...]


def designs(names: Sequence[str], differ: Differences) -> list[Design]:
    """Every full design of two or three changes, largest first; a design within a larger one is left out."""
    found: list[Design] = []
    for factors in range(MOST_FACTORS, 1, -1):
        for base in names:
            sets = {frozenset(c.words for c in differ[base, x]): x for x in names if x != base}
            sets[frozenset()] = base
            singles = [s for s in sets if s and _is_factor(differ[base, sets[s]])]
            parts = [s for s in singles if differ[base, sets[s]][0].kind in PARTS]
            bundles = [s for s in sets if s and s not in singles and len(s) > 1] if parts else []
            for chosen in combinations(sorted([*singles, *bundles], key=sorted), factors):
                # Where the radiator stands is several changes of hand and one question; it is asked so beside a part that changes.
                if any(s in bundles for s in chosen) and not any(s in parts for s in chosen):
                    continue
                grid = _grid(chosen, sets)
                if grid and not any(set(grid) <= set(d.layouts) for d in found):
                    names_of = tuple(_factor_words(s, base, sets[s]) for s in chosen)
                    found.append(Design(names_of, grid, tuple(_untold(name, s) for name, s in zip(names_of, chosen, strict=True))))
    return found


def _is_factor(done: Sequence[Change]) -> bool:
    """One change, or speeds alone. Taking out is the same design seen from its other end, and so is a panel that is put back."""
    if all(c.kind == "speed" for c in done):
        return True
    return len(done) == 1 and done[0].kind != "take_out" and not done[0].words.endswith("panel fitted")


def _factor_words(words: frozenset[str], start: str, end: str) -> str:
    """One change in its words; several speeds by their fans; many by the layouts that they lie between."""
    if len(words) == 1:
        return next(iter(words))
    if not all(" % " in w or w.endswith("%") for w in words):
        return " and ".join(sorted(words)) if len(words) <= MOST_TOLD else f"from {start} to {end}"
    return f"speeds of {', '.join(sorted(w.split(' ')[0] for w in words))}"


def _untold(name: str, words: frozenset[str]) -> tuple[str, ...]:
    return () if all(w in name for w in words) else tuple(sorted(words))


def _grid(chosen: Sequence[frozenset[str]], sets: Mapping[frozenset[str], str]) -> tuple[str, ...] | None:
    if any(a & b for a, b in combinations(chosen, 2)):
        return None
    layouts = []
    for level in range(2 ** len(chosen)):
        wanted = frozenset[str]().union(*(s for i, s in enumerate(chosen) if level >> i & 1))
        if wanted not in sets:
            return None
        layouts.append(sets[wanted])
    return tuple(layouts)


def families(names: Sequence[str], differ: Differences) -> list[list[str]]:
    """Layouts that differ in speeds alone, each once; the letter of the first names a family."""
    rows: list[list[str]] = []
    for name in names:
        own = next((row for row in rows if all(c.kind == "speed" for c in differ[row[0], name])), None)
        if own:
            own.append(name)
        else:
            rows.append([name])
    return rows


Named = Literal["panel", "push_pull", "filter"]


@dataclass(frozen=True)
class NamedPair:
    """Two layouts that show one named thing: ``without`` it and ``with_it``."""

    kind: Named
    words: str
    without: str
    with_it: str


def named_pairs(doc: JobDoc, names: Sequence[str], differ: Differences) -> list[NamedPair]:
    """Panels, a second layer of fans on a radiator, and filters, each where two layouts differ by it alone."""
    layouts = {x.id: x for x in doc.layouts if x.id in names}
    found = [NamedPair("panel", f"{face} panel", off, on) for face, on, off in panel_pairs(doc) if on in layouts and off in layouts]
    for a, b in permutations(layouts, 2):
        done, one, two = differ[a, b], layouts[a], layouts[b]
        if done and all(c.kind == "put" for c in done) and _second_layer(one, two):
            found.append(NamedPair("push_pull", "fans on both faces of the radiator", a, b))
        face = _filter_added(doc, one, two)
        if face and len(done) == 1 and done[0].kind == "panel":
            found.append(NamedPair("filter", f"filter of the {face} panel", a, b))
    return found


def _second_layer(one: LayoutDoc, two: LayoutDoc) -> bool:
    """Whether every fan that ``two`` has more stands on the other face of a radiator's mount that had one."""
    places = [two.radiator] if two.radiator else [p for loop in two.loops or [] for p in loop.radiators]
    mounts = {m for p in places for m in p.mounts}
    had, has = ({(f.mount, f.layer) for f in x.fans} for x in (one, two))
    more = has - had
    return bool(more) and all(m in mounts and any(o == m for o, _ in had) for m, _ in more)


def _filter_added(doc: JobDoc, one: LayoutDoc, two: LayoutDoc) -> str | None:
    of_case = {p.face: p.filter for p in doc.case.panels}
    for face in {**one.panels, **two.panels}:
        was, now = ((x.panels.get(face, FITTED).filter or of_case.get(face, "none")) for x in (one, two))
        if was == "none" and now != "none":
            return face
    return None
