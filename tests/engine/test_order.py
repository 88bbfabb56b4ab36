"""The order of least minutes: against an independent exact solver, against trying every order, bounds that hold."""

from itertools import pairwise, permutations

import numpy as np
from django.test import SimpleTestCase
from ortools.sat.python import cp_model

from engine.plan.order import EXACT_STOPS, least_order


def length(table: np.ndarray, order: tuple[int, ...]) -> float:
    return float(sum(table[a, b] for a, b in pairwise(order)))


def by_solver(table: np.ndarray) -> float:
    """The cheapest round trip through all rows by OR-Tools' constraint solver, proved."""
    n = len(table)
    model = cp_model.CpModel()
    arcs = [(i, j, model.new_bool_var(f"{i}-{j}")) for i in range(n) for j in range(n) if i != j]
    model.add_circuit(arcs)
    model.minimize(sum(int(table[i, j]) * use for i, j, use in arcs))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    assert solver.solve(model) == cp_model.OPTIMAL
    return float(solver.objective_value)


class OrderTest(SimpleTestCase):
    def test_against_every_order(self) -> None:
        rng = np.random.default_rng(1)
        for n in range(1, 7):
            table = rng.integers(1, 60, (n, n)).astype(float)
            for start, end in ((None, None), (0, None), (0, n - 1), (None, 0)):
                if n == 1 and start == 0 and end == 0:
                    continue
                found = least_order(table, start, end)
                orders = [o for o in permutations(range(n)) if (start is None or o[0] == start) and (end is None or o[-1] == end)]
                self.assertEqual(sorted(found.order), list(range(n)))
                self.assertAlmostEqual(found.minutes, min(length(table, o) for o in orders), msg=f"{n} {start} {end}")
                self.assertTrue(found.exact)

    def test_against_an_independent_exact_solver(self) -> None:
        """A control first and last is a round trip: the row of the control doubled, from it and back to it."""
        rng = np.random.default_rng(2)
        for n in (5, 9, EXACT_STOPS + 1):
            table = rng.integers(2, 50, (n, n)).astype(float)
            doubled = np.vstack([np.hstack([table, table[:, :1]]), np.hstack([table[:1], [[0.0]]])])
            found = least_order(doubled, 0, n)
            self.assertTrue(found.exact)
            self.assertAlmostEqual(found.minutes, by_solver(table))

    def test_long_orders_are_good_and_their_gap_is_true(self) -> None:
        rng = np.random.default_rng(3)
        for n in (15, 18):
            places = rng.uniform(0, 40, (n, 2))
            table: np.ndarray = np.round(np.linalg.norm(places[:, None] - places[None], axis=2))
            doubled = np.vstack([np.hstack([table, table[:, :1]]), np.hstack([table[:1], [[0.0]]])])
            found, best = least_order(doubled, 0, n), by_solver(table)
            self.assertLessEqual(found.bound, best + 1e-9)
            self.assertGreaterEqual(found.minutes, best - 1e-9)
            self.assertLessEqual(found.minutes, 1.05 * best)

    def test_nothing_and_nonsense(self) -> None:
        self.assertEqual(least_order(np.zeros((2, 2)), 0, 1).order, (0, 1))
        self.assertEqual(least_order(np.zeros((1, 1))).order, (0,))
        with self.assertRaises(ValueError):
            least_order(np.zeros((2, 3)))
