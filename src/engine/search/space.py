"""Every way to put a pile of fans at the mounts of a case, each once, and how many there are, counted another way."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement
from math import prod

import numpy as np
from numpy.typing import NDArray

States = NDArray[np.int8]

EMPTY = 0  # a mount's state: 0 empty, then 1 + 2 t intake and 2 + 2 t exhaust with a fan of kind t
BLOCK = 20_000  # rows handed over at once


@dataclass(frozen=True)
class Space:
    """What may stand where. ``kinds``: by mount, the kinds of fan that fit it. ``count``: of each kind, how many there are.

    ``apart``: pairs of mounts that cannot both carry a fan. ``together``: mounts of one radiator: every one that a fan fits carries
    one, and all blow one way. ``alike``: mounts that the forecast cannot tell apart, so that an order among them would be counted
    twice.
    """

    kinds: tuple[tuple[int, ...], ...]
    count: tuple[int, ...]
    apart: tuple[tuple[int, int], ...] = ()
    together: tuple[tuple[int, ...], ...] = ()
    alike: tuple[tuple[int, ...], ...] = ()
    most_fans: int | None = None

    @property
    def mounts(self) -> int:
        return len(self.kinds)


def states_of(kinds: Sequence[int]) -> list[int]:
    return [EMPTY, *(s for t in kinds for s in (1 + 2 * t, 2 + 2 * t))]


def kind_of(states: States) -> States:
    """Kind of fan, -1 where there is none."""
    return np.where(states == EMPTY, -1, (states - 1) // 2).astype(np.int8)


def is_intake(states: States) -> NDArray[np.bool_]:
    return np.asarray((states != EMPTY) & (states % 2 == 1))


def layouts(space: Space) -> Iterator[States]:
    """All of them in blocks of rows, one state per mount, grown mount by mount in a fixed order."""
    if space.mounts == 0:
        yield np.zeros((1, 0), np.int8)
        return
    yield from _grow(space, np.zeros((1, 0), np.int8), np.zeros((1, len(space.count)), np.int16))


def _grow(space: Space, rows: States, used: NDArray[np.int16]) -> Iterator[States]:
    at = rows.shape[1]
    if at == space.mounts:
        yield rows[_whole(space, rows)]
        return
    grown, spent = [], []
    for state in states_of(space.kinds[at]):
        fits = _fits(space, rows, used, at, state)
        if not fits.any():
            continue
        more = np.hstack([rows[fits], np.full((int(fits.sum()), 1), state, np.int8)])
        now = used[fits].copy()
        if state != EMPTY:
            now[:, (state - 1) // 2] += 1
        grown.append(more)
        spent.append(now)
    if not grown:
        return
    rows, used = np.vstack(grown), np.vstack(spent)
    for first in range(0, len(rows), BLOCK):
        yield from _grow(space, rows[first : first + BLOCK], used[first : first + BLOCK])


def _fits(space: Space, rows: States, used: NDArray[np.int16], at: int, state: int) -> NDArray[np.bool_]:
    fits = np.ones(len(rows), dtype=bool)
    for group in space.alike:
        earlier = [m for m in group if m < at]
        if at in group and earlier:
            fits &= rows[:, earlier[-1]] >= state
    if state == EMPTY:
        return fits & (not any(at in group for group in space.together) or not space.kinds[at])
    kind = (state - 1) // 2
    fits &= used[:, kind] < space.count[kind]
    if space.most_fans is not None:
        fits &= used.sum(axis=1) < space.most_fans
    for a, b in space.apart:
        other = a if b == at else b if a == at else at
        if other < at:
            fits &= rows[:, other] == EMPTY
    for group in space.together:
        if at in group:
            for m in (m for m in group if m < at):
                fits &= (rows[:, m] == EMPTY) | (rows[:, m] % 2 == state % 2)
    return fits


def _whole(space: Space, rows: States) -> NDArray[np.bool_]:
    """Radiators with a fan on every section."""
    whole = np.ones(len(rows), dtype=bool)
    for group in space.together:
        whole &= (rows[:, [m for m in group if space.kinds[m]]] != EMPTY).all(axis=1)
    return whole


MOST_TERMS = 200_000  # numerical: of the polynomials that count; beyond, kinds of which there are most count as without end


def count(space: Space) -> int:
    """How many layouts there are: by multiplying polynomials in the number of fans of each kind, not by listing them.

    Mounts that shut each other out are taken one case after the other (both empty, one of them free); alike ones by choosing. Kinds
    of which there are enough for every mount are not counted out; where too many kinds are scarce for that, see ``counted_exactly``.
    """
    return _count(space, _Terms.of(space), frozenset())


def counted_exactly(space: Space) -> bool:
    """Whether ``count`` is the number itself; else no more than that."""
    return set(_Terms.of(space).scarce) == set(_scarce(space))


def _scarce(space: Space) -> list[int]:
    """Kinds of which there are fewer than mounts that they fit."""
    return [t for t, n in enumerate(space.count) if n < sum(t in kinds for kinds in space.kinds)]


Polynomial = NDArray[np.object_]  # whole numbers of any size: counts outgrow 64 bits with a large library


@dataclass(frozen=True)
class _Terms:
    """What the polynomials count: one power for each scarce kind, and a last one for all fans, where their number is limited."""

    scarce: tuple[int, ...]
    shape: tuple[int, ...]
    all_fans: bool

    @classmethod
    def of(cls, space: Space) -> "_Terms":
        scarce = sorted(_scarce(space), key=lambda t: space.count[t])
        most = [1 if space.most_fans is None else min(space.most_fans, space.mounts) + 1]
        while prod([space.count[t] + 1 for t in scarce] + most) > MOST_TERMS:
            scarce.pop()
        return cls(tuple(scarce), tuple([space.count[t] + 1 for t in scarce] + most), space.most_fans is not None)

    def one(self) -> Polynomial:
        found = np.zeros(self.shape, dtype=object)
        found[(0,) * len(self.shape)] = 1
        return found

    def fan(self, kind: int) -> tuple[int, ...]:
        """The powers of one fan of a kind."""
        return (*(int(t == kind) for t in self.scarce), int(self.all_fans))

    def put(self, found: Polynomial, powers: Sequence[int], ways: int) -> None:
        if all(p < size for p, size in zip(powers, self.shape, strict=True)):
            found[tuple(powers)] += ways

    def mount(self, kinds: Sequence[int], ways: int, may_be_empty: bool = True) -> Polynomial:
        found = self.one() if may_be_empty else self.one() * 0
        for kind in kinds:
            self.put(found, self.fan(kind), ways)
        return found

    def times(self, a: Polynomial, b: Polynomial) -> Polynomial:
        """Product, cut off at what there is of each."""
        found = np.zeros(self.shape, dtype=object)
        for at in np.argwhere(b != 0):
            keep = tuple(slice(0, n - i) for n, i in zip(self.shape, at, strict=True))
            into = tuple(slice(i, n) for n, i in zip(self.shape, at, strict=True))
            found[into] = found[into] + a[keep] * b[tuple(at)]
        return found


def _count(space: Space, terms: _Terms, empty: frozenset[int]) -> int:
    open_pair = next(((a, b) for a, b in space.apart if a not in empty and b not in empty), None)
    if open_pair is not None:
        a, b = open_pair
        # with a empty, and with a carrying a fan and so b empty: the second as all with b empty less those with both empty
        return _count(space, terms, empty | {a}) + _count(space, terms, empty | {b}) - _count(space, terms, empty | {a, b})
    whole = terms.one()
    done: set[int] = set()
    for group in space.together:
        if any(m in empty and space.kinds[m] for m in group):
            return 0  # a section that would have to stay empty
        whole = terms.times(whole, _radiator(terms, [space.kinds[m] for m in group]))
        done |= set(group)
    for group in space.alike:
        if not done & set(group):
            whole = terms.times(whole, _alike(terms, [space.kinds[m] if m not in empty else () for m in group]))
            done |= set(group)
    for m, kinds in enumerate(space.kinds):
        if m not in done:
            whole = terms.times(whole, terms.mount(kinds if m not in empty else (), 2))
    return int(whole.sum())


def _radiator(terms: _Terms, kinds: Sequence[Sequence[int]]) -> Polynomial:
    """One way for all fans, twice; none of them is left out."""
    whole = terms.one()
    fitted = [own for own in kinds if own]
    for own in fitted:
        whole = terms.times(whole, terms.mount(own, 1, may_be_empty=False))
    return whole * 2 if fitted else whole


def _alike(terms: _Terms, kinds: Sequence[Sequence[int]]) -> Polynomial:
    """Ways to fill mounts whose order does not matter: choices with repetition of one mount's states."""
    if not all(tuple(k) == tuple(kinds[0]) for k in kinds):
        found = terms.one()
        for own in kinds:
            found = terms.times(found, terms.mount(own, 2))
        return found
    found = np.zeros(terms.shape, dtype=object)
    for chosen in combinations_with_replacement(states_of(kinds[0]), len(kinds)):
        fans = [terms.fan((s - 1) // 2) for s in chosen if s != EMPTY]
        terms.put(found, [sum(p) for p in zip(*fans, strict=True)] if fans else [0] * len(terms.shape), 1)
    return found
