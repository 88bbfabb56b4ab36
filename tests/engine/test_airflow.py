"""Air-flow elements, fans and the network against closed forms and an independent solver."""

from itertools import pairwise

import numpy as np
from django.test import SimpleTestCase
from scipy.optimize import root

from engine import constants as k
from engine.airflow.elements import Resistance, fin_stack, orifice, plate_loss_k, porous, regularised
from engine.airflow.fans import fan_element, fan_pressure_pa, linear_share_from_points
from engine.airflow.solver import ROOM, link_flow, solve_flows
from engine.errors import ImpossibleInputError

RHO = 1.2


class ElementsTest(SimpleTestCase):
    def test_orifice_by_its_equation(self) -> None:
        # Source: textbook orifice equation Q = Cd a sqrt(2 dp/rho); 100 cm2, 10 Pa.
        flow = 0.65 * 0.01 * np.sqrt(2 * 10 / RHO)
        self.assertAlmostEqual(orifice(0.01, RHO).b * flow**2, 10.0, places=9)

    def test_plate_loss_by_hand(self) -> None:
        # Source: Idelchik, thin perforated plate, zeta = (0.707 sqrt(1-f) + 1 - f)^2 / f^2, worked by hand at f = 0.5.
        self.assertAlmostEqual(plate_loss_k(0.5), (0.707 * 0.5**0.5 + 0.5) ** 2 / 0.25, places=9)
        self.assertAlmostEqual(plate_loss_k(0.5), 4.0, delta=0.01)
        self.assertEqual(plate_loss_k(1.0), 0.0)

    def test_plate_loss_falls_with_free_share(self) -> None:
        losses = [plate_loss_k(f) for f in np.linspace(0.05, 1, 40)]
        self.assertTrue(all(a > b for a, b in pairwise(losses)))

    def test_porous_and_fins_at_their_reference(self) -> None:
        self.assertAlmostEqual(porous(0.02, 2.5, 1.5).a * 0.02 + porous(0.02, 2.5, 1.5).b * 0.02**2, 4.0)  # 1 m/s
        fins = fin_stack(50 / 3600, 7.0)
        self.assertAlmostEqual(fins.a * 50 / 3600 + fins.b * (50 / 3600) ** 2, 7.0)

    def test_shared_face_carries_its_share(self) -> None:
        whole = Resistance(30.0, 9000.0)
        quarter = whole.shared(0.25)
        flow = 0.02
        self.assertAlmostEqual(quarter.a * 0.25 * flow + quarter.b * (0.25 * flow) ** 2, whole.a * flow + whole.b * flow**2)


class FansTest(SimpleTestCase):
    def test_affinity_laws(self) -> None:
        # Source: fan affinity laws: at speed share s the point (s Q, s^2 p) lies on the curve.
        for s in (0.2, 0.5, 0.8):
            for flow in (0, 30, 70, 90):
                full = fan_pressure_pa(flow, 1.0, 90, 17, 0.62)
                self.assertAlmostEqual(fan_pressure_pa(s * flow, s, 90, 17, 0.62), s**2 * full, places=9)

    def test_ends_of_the_curve_and_backflow(self) -> None:
        self.assertAlmostEqual(fan_pressure_pa(0, 1, 90, 17, 0.62), 17)
        self.assertAlmostEqual(fan_pressure_pa(90, 1, 90, 17, 0.62), 0)
        self.assertGreater(fan_pressure_pa(-20, 1, 90, 17, 0.62), 17)
        self.assertLess(fan_pressure_pa(100, 1, 90, 17, 0.62), 0)

    def test_operating_point_in_closed_form(self) -> None:
        # Against an orifice: p0 (1 - c1 x - (1 - c1) x^2) = B Q^2, a quadratic solved by hand.
        source, own = fan_element(1.0, 90, 17, 0.62)
        other = orifice(0.006, RHO)
        flow, _ = link_flow(np.array([source]), np.array([own.a]), np.array([own.b + other.b]))
        b, a = own.b + other.b, own.a
        self.assertAlmostEqual(flow[0], (-a + np.sqrt(a * a + 4 * b * source)) / (2 * b), places=12)
        self.assertAlmostEqual(fan_pressure_pa(flow[0] * 3600, 1, 90, 17, 0.62), other.b * flow[0] ** 2, places=9)

    def test_curve_from_sheet_points_is_found_again(self) -> None:
        flows = np.array([0.0, 20, 40, 60, 80, 100])
        pressures = [fan_pressure_pa(q, 1, 100, 25, 0.4) for q in flows]
        flow, pressure, share = linear_share_from_points(flows.tolist(), pressures)
        self.assertAlmostEqual(flow, 100, delta=0.1)
        self.assertAlmostEqual(pressure, 25, delta=0.05)
        self.assertAlmostEqual(share, 0.4, delta=0.01)

    def test_a_curve_that_does_not_fall_is_refused(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            linear_share_from_points([0, 20, 40, 60], [5, 5, 5, 5])


class NetworkTest(SimpleTestCase):
    def test_series_and_parallel_in_closed_form(self) -> None:
        # Two openings in parallel into a box, one out of it, a fan of fixed pressure: Q = sqrt(E / (B_out + B_in/4)).
        b_in, b_out, e = 4.0e4, 9.0e4, 12.0
        solved = solve_flows(
            1,
            np.array([ROOM, ROOM, 0]),
            np.array([0, 0, ROOM]),
            np.array([0.0, 0.0, e]),
            np.full(3, 1e-9),
            np.array([b_in, b_in, b_out]),
        )
        self.assertAlmostEqual(solved.flow_m3s[2], np.sqrt(e / (b_out + b_in / 4)), delta=1e-9)
        self.assertAlmostEqual(solved.flow_m3s[0], solved.flow_m3s[2] / 2, delta=1e-9)

    def test_against_scipy_root(self) -> None:
        # Source: scipy.optimize.root on the same equations, started elsewhere.
        rng = np.random.default_rng(5)
        nodes, links = 7, 26
        tail = np.concatenate([np.arange(nodes), rng.integers(-1, nodes, links - nodes)])
        head = np.concatenate([np.full(nodes, ROOM), rng.integers(-1, nodes, links - nodes)])
        keep = tail != head
        tail, head = tail[keep], head[keep]
        source = rng.normal(0, 15, len(tail)) * (rng.random(len(tail)) < 0.4)
        b = 10 ** rng.uniform(3.5, 6, len(tail))
        a = np.array([regularised(Resistance(0, x)).a for x in b])
        solved = solve_flows(nodes, tail, head, source, a, b)

        def balance(p: "np.ndarray[tuple[int], np.dtype[np.float64]]") -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
            everywhere = np.append(p, 0.0)
            flow, _ = link_flow(everywhere[tail] - everywhere[head] + source, a, b)
            net = np.zeros(nodes + 1)
            np.add.at(net, tail, flow)
            np.add.at(net, head, -flow)
            return 1e3 * net[:nodes]

        other = root(balance, np.full(nodes, 2.0), tol=1e-12)
        self.assertTrue(other.success)
        self.assertTrue(solved.converged)
        np.testing.assert_allclose(solved.pressure_pa, other.x, atol=1e-6)

    def test_still_air_stays_still(self) -> None:
        solved = solve_flows(2, np.array([ROOM, 0]), np.array([0, 1]), np.zeros(2), np.full(2, 1.0), np.full(2, 1e5))
        self.assertTrue(np.allclose(solved.flow_m3s, 0))

    def test_a_node_without_links_does_no_harm(self) -> None:
        solved = solve_flows(2, np.array([ROOM, 0]), np.array([0, ROOM]), np.array([5.0, 0]), np.full(2, 1.0), np.full(2, 1e5))
        self.assertTrue(solved.converged)
        self.assertEqual(solved.pressure_pa[1], 0.0)

    def test_laminar_part_keeps_the_slope_finite(self) -> None:
        r = regularised(Resistance(0.0, 1e5))
        self.assertAlmostEqual(r.a, (1e5 * k.LAMINAR_PRESSURE_PA) ** 0.5)
        _, slope = link_flow(np.zeros(1), np.array([r.a]), np.array([r.b]))
        self.assertTrue(np.isfinite(slope[0]))
