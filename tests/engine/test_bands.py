"""Bands: linear propagation of the priors against Monte Carlo, and what cancels in differences."""

from itertools import pairwise

import numpy as np
from django.test import SimpleTestCase

from engine.coupled.bands import difference_band_k, largest_causes
from engine.coupled.batch import FIGURES, settle_variants
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.coupled.program import variants
from engine.parameters import COUNT, DEFAULT, PARAMETERS, SPREADS, vector
from tests.machines import machine


def drawn(
    point: OperatingPoint, vectors: "np.ndarray[tuple[int, int], np.dtype[np.float64]]"
) -> "np.ndarray[tuple[int, int], np.dtype[np.float64]]":
    """Figures in K of one layout under drawn parameters, (draws, figures)."""
    return settle_variants(point.plan, *variants(point.plan, [point.machine]), vectors).figures_k


class PropagationTest(SimpleTestCase):
    draws = DEFAULT * SPREADS ** np.random.default_rng(8).standard_normal((1500, COUNT))

    def test_one_layout_against_monte_carlo(self) -> None:
        # Source: GUM supplement 1 (Monte Carlo) against the GUM's linear law.
        for layout in "AC":
            point = operating_point(machine(layout_id=layout))
            figures = drawn(point, self.draws)
            for name in ("cpu", "card", "rear"):
                at = FIGURES.index(name)
                linear = float(np.linalg.norm(point.sensitivity_k[at]))
                low, high = np.percentile(figures[:, at], [15.87, 84.13])
                with self.subTest(layout=layout, figure=name):
                    self.assertAlmostEqual(linear / ((high - low) / 2), 1.0, delta=0.2)

    def test_a_difference_against_monte_carlo(self) -> None:
        b, a = (operating_point(machine(layout_id=x)) for x in "BA")
        between = drawn(b, self.draws) - drawn(a, self.draws)
        for name in ("cpu", "card"):
            at = FIGURES.index(name)
            linear = float(np.linalg.norm(b.sensitivity_k[at] - a.sensitivity_k[at]))
            low, high = np.percentile(between[:, at], [15.87, 84.13])
            with self.subTest(figure=name):
                wide = linear / ((high - low) / 2)  # where the linear way is off by more, it is on the wide side
                self.assertTrue(0.75 < wide < 1.35, wide)

    def test_shared_errors_cancel(self) -> None:
        b, a = (operating_point(machine(layout_id=x)) for x in "BA")
        at = FIGURES.index("cpu")
        apart = np.hypot(np.linalg.norm(b.sensitivity_k[at]), np.linalg.norm(a.sensitivity_k[at]))
        self.assertLess(np.linalg.norm(b.sensitivity_k[at] - a.sensitivity_k[at]), 0.4 * apart)
        self.assertGreater(difference_band_k(b, a, "cpu", -8.0), difference_band_k(b, a, "cpu", -1.0))

    def test_the_largest_causes_are_named(self) -> None:
        causes = largest_causes(operating_point(machine()), "cpu")
        self.assertGreater(len(causes), 1)
        self.assertTrue(all(abs(one[1]) >= abs(two[1]) for one, two in pairwise(causes)))
        self.assertIn("resistances", causes[0][0])


class ParametersTest(SimpleTestCase):
    def test_names_are_unique_and_every_prior_is_one(self) -> None:
        self.assertEqual(len({p.name for p in PARAMETERS}), COUNT)
        self.assertTrue(all(p.value > 0 and 1 < p.spread < 2 and p.meaning for p in PARAMETERS))

    def test_every_parameter_acts_somewhere(self) -> None:
        from tests.engine.test_trade import resolver

        moved = np.zeros(COUNT)
        for name, layout in (
            ("five-140", "2f1r1t_flip"),
            ("radiator-layers", "opposed"),
            ("cube-downdraft", "cpu_away"),
            ("cube-downdraft", "cpu_side"),
            ("many-mounts-sealed", "front_rad_vertical"),
            ("big-front-fans", "air"),
            ("bottom-feed", "improved"),
            ("full-tower", "air_six_50"),
            ("full-tower", "chimney_100"),
            ("choked-tower", "bench"),
        ):
            moved += np.abs(operating_point(resolver(name).machine(layout)).sensitivity_k).sum(axis=0)
        for p, m in zip(PARAMETERS, moved, strict=True):
            with self.subTest(parameter=p.name):
                self.assertGreater(m, 1e-4)

    def test_an_unknown_name_is_refused(self) -> None:
        with self.assertRaises(KeyError):
            vector({"nonsense": 1.0})
