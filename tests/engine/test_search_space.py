"""Every layout once: listed, counted by polynomials, and counted by brute force; what no other beats."""

from itertools import product
from math import prod

import numpy as np
from django.test import SimpleTestCase

from engine.search.front import not_beaten, spread, unbeaten
from engine.search.space import EMPTY, Space, count, counted_exactly, is_intake, kind_of, layouts, states_of

TWO = Space(((0,), (0, 1), (0,), (1,)), (2, 1))
SPACES = {
    "one kind, enough": Space(((0,), (0,), (0,)), (3,)),
    "one kind, too few": Space(((0,),) * 5, (2,)),
    "two kinds": TWO,
    "a pair that shuts each other out": Space(((0,), (0,), (0,), (0,)), (4,), apart=((0, 1), (1, 3))),
    "a radiator of two": Space(((0,), (0,), (0, 1), (0,)), (3, 1), together=((0, 1),)),
    "a radiator, one section of which no fan fits": Space(((0,), (), (0,)), (2,), together=((0, 1),)),
    "a radiator for which there are too few": Space(((0,), (0,), (0,)), (2,), together=((0, 1, 2),)),
    "alike mounts": Space(((0,), (0,), (0, 1)), (3, 1), alike=((0, 1),)),
    "no more than two fans": Space(((0,),) * 4, (4,), most_fans=2),
    "a mount kept empty": Space(((), (0,)), (2,)),
    "nothing fits": Space(((), ()), (2,)),
    "a pair on a radiator": Space(((0,), (0,), (0,)), (3,), apart=((0, 2),), together=((0, 1),)),
}


def listed(space: Space) -> np.ndarray:
    return np.vstack([np.zeros((0, space.mounts), np.int8), *layouts(space)])


def brute(space: Space) -> set[tuple[int, ...]]:
    """By trying every combination against the rules in words."""
    found = set()
    for row in product(*(states_of(k) for k in space.kinds)):
        kinds = [(s - 1) // 2 for s in row if s != EMPTY]
        if any(kinds.count(t) > n for t, n in enumerate(space.count)) or (space.most_fans is not None and len(kinds) > space.most_fans):
            continue
        if any(row[a] != EMPTY and row[b] != EMPTY for a, b in space.apart):
            continue
        sections = [[row[m] for m in group if space.kinds[m]] for group in space.together]
        if any(EMPTY in own or len({s % 2 for s in own}) > 1 for own in sections):
            continue
        if any(tuple(row[m] for m in g) != tuple(sorted((row[m] for m in g), reverse=True)) for g in space.alike):
            continue
        found.add(row)
    return found


class SpaceTest(SimpleTestCase):
    def test_the_list_is_every_layout_once(self) -> None:
        for name, space in SPACES.items():
            with self.subTest(name):
                rows = listed(space)
                self.assertEqual(len(np.unique(rows, axis=0)), len(rows))
                self.assertEqual({tuple(int(x) for x in r) for r in rows}, brute(space))

    def test_it_is_counted_the_same_without_listing(self) -> None:
        for name, space in SPACES.items():
            with self.subTest(name):
                self.assertEqual(count(space), len(listed(space)))
                self.assertLessEqual(count(space), prod(1 + 2 * len(k) for k in space.kinds))  # without stock and pairs

    def test_known_counts(self) -> None:
        """n mounts, k fans of one kind: sum of C(n, i) 2^i (elementary combinatorics)."""
        self.assertEqual(count(Space(((0,),) * 9, (6,))), 1 + 18 + 144 + 672 + 2016 + 4032 + 5376)
        self.assertEqual(count(Space(((0,),) * 40, (40,))), 3**40)  # beyond what 64 bits hold

    def test_a_large_library_is_counted_too(self) -> None:
        """Eleven kinds without end at ten mounts; then all scarce, where no more than so many are told."""
        every = tuple(range(11))
        self.assertEqual(count(Space((every,) * 10, (10,) * 11)), 23**10)
        self.assertTrue(counted_exactly(Space((every,) * 10, (10,) * 11)))
        scarce = Space((every,) * 10, (4,) * 11)
        self.assertFalse(counted_exactly(scarce))
        self.assertLess(count(scarce), 23**10)
        self.assertEqual(count(Space((every,) * 3, (3,) * 11, most_fans=1)), 1 + 3 * 22)

    def test_random_spaces(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(40):
            n = int(rng.integers(2, 6))
            kinds = tuple(tuple(sorted(rng.choice(2, int(rng.integers(0, 3)), replace=False).tolist())) for _ in range(n))
            group = tuple(sorted(rng.choice(n, 2, replace=False).tolist()))
            apart = (tuple(sorted(rng.choice(n, 2, replace=False).tolist())),) if rng.random() < 0.5 else ()
            space = Space(
                kinds, (int(rng.integers(0, 4)), int(rng.integers(0, 3))), apart=apart, together=(group,) if rng.random() < 0.5 else ()
            )
            self.assertEqual({tuple(int(x) for x in r) for r in listed(space)}, brute(space), space)
            self.assertEqual(count(space), len(brute(space)), space)

    def test_states_say_kind_and_way(self) -> None:
        states = np.array([[0, 1, 2, 3, 4]], np.int8)
        self.assertEqual(kind_of(states).tolist(), [[-1, 0, 0, 1, 1]])
        self.assertEqual(is_intake(states).tolist(), [[False, True, False, True, False]])


class FrontTest(SimpleTestCase):
    def test_against_every_pair(self) -> None:
        rng = np.random.default_rng(1)
        for columns in (1, 2, 4):
            costs = rng.integers(0, 6, (200, columns)).astype(float)
            kept = unbeaten(costs)
            for i in range(len(costs)):
                beaten = any((costs[j] <= costs[i]).all() and (costs[j] < costs[i]).any() for j in range(len(costs)))
                twin = any((costs[j] == costs[i]).all() for j in kept)
                self.assertEqual(i in kept or (not beaten and twin), not beaten)

    def test_a_hundredth_keeps_nothing(self) -> None:
        costs = np.array([[1.0, 2.0], [1.001, 1.999], [0.0, 3.0]])
        self.assertEqual(len(unbeaten(costs)), 3)
        self.assertEqual(len(unbeaten(costs, np.array([0.1, 0.1]))), 2)
        self.assertEqual(len(unbeaten(np.zeros((0, 2)))), 0)

    def test_what_none_of_others_beats(self) -> None:
        costs, by = np.array([[1.0, 1.0], [2.0, 0.5], [2.0, 2.0], [0.5, 3.0]]), np.array([[1.0, 1.0], [3.0, 0.0]])
        self.assertEqual(not_beaten(costs, by).tolist(), [1, 3])  # as good as another is no better
        self.assertEqual(not_beaten(costs, np.zeros((0, 2))).tolist(), [0, 1, 2, 3])
        self.assertEqual(not_beaten(costs + 0.01, by, np.array([0.1, 0.1])).tolist(), [1, 3])

    def test_a_few_stand_for_many(self) -> None:
        x = np.linspace(0.0, 1.0, 101)
        costs = np.column_stack([x, 1 - x])
        kept = spread(costs, 5)
        self.assertEqual(kept[[0, -1]].tolist(), [0, 100])
        self.assertLess(np.diff(kept).max(), 50)
        self.assertTrue({7, 8} <= set(spread(costs, 5, [7, 8]).tolist()))
        self.assertEqual(spread(costs[:4], 5).tolist(), [0, 1, 2, 3])
