"""Too many layouts to look at all: from the best of a random draw to their neighbours, until no neighbour is better; then a check."""

from dataclasses import dataclass

import numpy as np

from desk.search.looking import COSTS, Looks
from engine.search.front import unbeaten
from engine.search.space import EMPTY, Space, States, states_of

FIRST, CHECKED = 4_000, 3_000  # layouts drawn at random to begin with, and to be held against the frontier at the end
SKIPPED = 0.25  # of mounts in a random draw that stay empty whatever there is
NEAR = 60  # of the frontier, whose neighbours are looked at in a round
ROUNDS = 40  # numerical
COARSE = np.array([0.2, 0.2, 0.2, 0.01, 1.0])  # while looking: finer ones follow


@dataclass(frozen=True)
class Wide:
    """``distinct``: layouts looked at; ``gap_pct``: share of all that may still be better (rule of three, at 95 %)."""

    distinct: int
    gap_pct: float


def wide_rows(looks: Looks, most: int) -> Wide:
    """Looks at no more than about ``most`` rows. The same seed finds the same."""
    made, rows = looks.made, looks.rows
    rng = np.random.default_rng(made.question.seed)
    seen: set[tuple[int, bytes]] = set()

    def look(frame: int, states: States) -> int:
        new = [s for s in states if (frame, s.tobytes()) not in seen]
        if not new:
            return 0
        seen.update((frame, s.tobytes()) for s in new)
        looks.at(frame, np.array(new, dtype=np.int8), most)
        return len(new)

    share = FIRST // len(made.frames)
    for i, frame in enumerate(made.frames):
        look(i, drawn(frame.space, share, rng))
        own = made.drawn_states
        look(i, own[keeps(frame.space, own)] if len(own) else own)
    for _ in range(ROUNDS):
        whole = rows.whole()
        good = np.flatnonzero(whole.figures[:, 6] > 0)
        front = good[unbeaten(whole.figures[good, :COSTS], COARSE)]
        if len(front) > NEAR:
            front = rng.choice(front, NEAR, replace=False)
        added = 0
        for i, frame in enumerate(made.frames):
            own = whole.states[front[whole.frame[front] == i]]
            if len(own):
                added += look(i, np.vstack([neighbours(frame.space, s) for s in own]))
        if not added or sum(len(x) for x in rows.frame) >= most:
            break
    _slower(looks, most)
    before = rows.whole()
    looked = len(seen)
    for i, frame in enumerate(made.frames):
        look(i, drawn(frame.space, CHECKED // len(made.frames), rng))
    return Wide(len(seen), _gap_pct(before.figures, rows.whole().figures, max(len(seen) - looked, 1)))


def _slower(looks: Looks, most: int) -> None:
    """What is unbeaten at its highest speed is looked at slower too: the quieter end of the frontier."""
    whole = looks.rows.whole()
    good = np.flatnonzero(whole.figures[:, 6] > 0)
    front = good[unbeaten(whole.figures[good, :COSTS], COARSE)]
    for i in range(len(looks.made.frames)):
        own = whole.states[front[whole.frame[front] == i]]
        if len(own):
            looks.at(i, np.unique(own, axis=0), most, slower=True)


def _gap_pct(before: np.ndarray, after: np.ndarray, checked: int) -> float:
    """From how many of the layouts drawn at the end would have come into the frontier: none of n is at most 3/n (rule of three,
    common practice)."""
    good = after[after[:, 6] > 0]
    front = good[unbeaten(good[:, :COSTS], COARSE)]
    known = {tuple(x) for x in np.round(before[:, :COSTS], 6)}
    better = sum(tuple(x) not in known for x in np.round(front[:, :COSTS], 6))
    return float(min(100 * (better + 3 + 2 * np.sqrt(better)) / checked, 100.0))


def drawn(space: Space, rows: int, rng: np.random.Generator) -> States:
    """Layouts at random that keep every rule of the space; fewer where a rule leaves few."""
    found = np.zeros((rows, space.mounts), np.int8)
    first = [m for group in space.together for m in group]
    for r in range(rows):
        left = list(space.count)
        way: dict[tuple[int, ...], int] = {}
        order = [*first, *(int(m) for m in rng.permutation(space.mounts) if m not in first)]
        for m in order:
            if m not in first and rng.random() < SKIPPED:
                continue
            allowed = [s for s in states_of(space.kinds[m])[1:] if left[(s - 1) // 2] > 0]
            if allowed and _may(space, found[r], m):
                state = int(rng.choice(allowed))
                group = next((g for g in space.together if m in g), None)
                if group is not None and state % 2 != way.setdefault(group, state % 2):
                    state = state + 1 if state % 2 else state - 1
                found[r, m] = state
                left[(state - 1) // 2] -= 1
    return np.asarray(found[keeps(space, found)])


def _may(space: Space, row: States, mount: int) -> bool:
    """Room for one more fan, and none at a mount that shuts this one out."""
    if space.most_fans is not None and int((row != EMPTY).sum()) >= space.most_fans:
        return False
    return not any(row[b if a == mount else a] != EMPTY for a, b in space.apart if mount in (a, b))


def keeps(space: Space, rows: States) -> np.ndarray:
    """Rows that keep the rules: stock, pairs, radiators of one way, the order among alike mounts."""
    kept = np.ones(len(rows), dtype=bool)
    for t, n in enumerate(space.count):
        kept &= ((rows == 1 + 2 * t) | (rows == 2 + 2 * t)).sum(axis=1) <= n
    if space.most_fans is not None:
        kept &= (rows != EMPTY).sum(axis=1) <= space.most_fans
    for a, b in space.apart:
        kept &= (rows[:, a] == EMPTY) | (rows[:, b] == EMPTY)
    for group in space.together:
        own = rows[:, [m for m in group if space.kinds[m]]]
        kept &= (own != EMPTY).all(axis=1)
        kept &= ~(((own != EMPTY) & (own % 2 == 1)).any(axis=1) & ((own != EMPTY) & (own % 2 == 0)).any(axis=1))
    for group in space.alike:
        own = rows[:, list(group)].astype(int)
        kept &= (np.diff(own, axis=1) <= 0).all(axis=1)
    return kept


def neighbours(space: Space, row: States) -> States:
    """All layouts one step away: a mount filled, emptied, turned or given another fan, or two mounts exchanged; a radiator turned."""
    found = []
    for m in range(space.mounts):
        for s in states_of(space.kinds[m]):
            if s != row[m]:
                other = row.copy()
                other[m] = s
                found.append(other)
        for n in range(m):
            if row[m] != row[n]:
                other = row.copy()
                other[[m, n]] = row[[n, m]]
                found.append(other)
    for group in space.together:
        other = row.copy()
        for m in group:
            if other[m] != EMPTY:
                other[m] = other[m] + 1 if other[m] % 2 else other[m] - 1
        found.append(other)
    rows = np.array(found, dtype=np.int8)
    for group in space.alike:
        rows[:, list(group)] = -np.sort(-rows[:, list(group)], axis=1)
    fits = np.array([all(s == EMPTY or (s - 1) // 2 in space.kinds[m] for m, s in enumerate(r)) for r in rows])
    return np.asarray(rows[fits & keeps(space, rows)])
