"""Small machines worked out by hand or by an independent solver, against the whole engine."""

from typing import Any

import numpy as np
from django.test import SimpleTestCase
from scipy.optimize import brentq, root

from engine import constants as k
from engine.air.properties import density_kg_m3
from engine.coupled import kernel
from engine.coupled.bands import absolute_band_k, difference_band_k
from engine.coupled.forecast import forecast_of
from engine.coupled.links import ROOM
from engine.coupled.operating_point import CARD_CORE, OperatingPoint, operating_point
from engine.coupled.program import variants
from engine.parameters import DEFAULT, INDEX, vector
from engine.sound.levels import sum_levels_dba
from tests.machines import demo_raw, layout_raw, machine


def bare(**layout: Any) -> dict[str, Any]:
    """The demo case without card, filters and curves."""
    raw = demo_raw()
    layout_raw(raw, "A").update({"card": None, **layout})
    return raw


def resistances(point: OperatingPoint) -> tuple["np.ndarray[Any, Any]", "np.ndarray[Any, Any]", "np.ndarray[Any, Any]"]:
    """E, A and B of every link at the operating point, by the engine's own assembly."""
    pg, links = point.plan.program, len(point.links)
    va, _ = variants(point.plan, [point.machine])
    still, made = (np.empty(links), np.empty(links)), [np.empty(links) for _ in range(3)]
    kernel.still_resistances(pg, DEFAULT.copy(), point.density, va.sign[0], *still)
    room_c = point.machine.room.temperature_c
    kernel.driven(pg, DEFAULT.copy(), point.density, room_c, va, 0, point.speed, *still, point.node_rise_k, point.flow_m3s, *made)
    return made[0], made[1], made[2]


class NetworkOfACaseTest(SimpleTestCase):
    """The whole case's network, assembled by the engine, solved again by scipy from the links alone."""

    def test_pressures_of_every_demo_layout(self) -> None:
        # Source: scipy.optimize.root on the equations written out link by link, in the other form of the root.
        for layout in "ABCD":
            point = operating_point(machine(layout_id=layout))
            e, a, b = resistances(point)
            nodes, at = point.plan.nodes, point.plan.at

            def net(p: Any, point: OperatingPoint = point, e: Any = e, a: Any = a, b: Any = b, at: Any = at) -> Any:
                total, every = np.zeros(len(p) + 1), np.append(p, 0.0)
                for i, link in enumerate(point.links):
                    drive = every[at[link.tail]] - every[at[link.head]] + e[i]
                    flow = np.sign(drive) * (-a[i] + np.sqrt(a[i] ** 2 + 4 * b[i] * abs(drive))) / (2 * b[i])
                    total[at[link.tail]] += flow
                    total[at[link.head]] -= flow
                return 1e3 * total[:-1]

            again = root(net, np.zeros(len(nodes)), method="hybr", tol=1e-12)
            self.assertLess(np.abs(again.fun).max(), 1e-6)
            np.testing.assert_allclose(again.x, point.pressure_pa[:-1], atol=2e-3)  # rises moved on by less than 0.01 K since


def through(point: OperatingPoint) -> float:
    """Air through the cooler in m3/h."""
    return sum(float(q) for link, q in zip(point.links, point.flow_m3s, strict=True) if link.kind == "cooler") * 3600


class TowerByHandTest(SimpleTestCase):
    def test_the_processor_over_its_own_inlet_air(self) -> None:
        # Worked by hand: T = T_in + P (R_jc + R_base + 1/(C eps)), eps = 1 - exp(-UA/C), UA = UA_ref (rho Q / 1.2 Q_ref)^0.5.
        raw = bare()
        point = operating_point(machine(raw))
        cooler = raw["parts"]["coolers"][0]
        flow_m3h = through(point)
        capacity = density_kg_m3(22) * 1007.0 * flow_m3h / 3600
        ua = cooler["ua_ref_w_per_k"] * (point.density / 1.2 * flow_m3h / cooler["flow_ref_m3h"]) ** 0.5
        eps = 1 - np.exp(-ua / capacity)
        expected = point.cpu_inlet_rise_k + 125 * (0.16 + 0.06 + 1 / (capacity * eps))
        self.assertAlmostEqual(point.cpu_rise_k, expected, delta=0.02)

    def test_the_cooler_s_own_operating_point(self) -> None:
        # The fan's curve against fins and the two spaces' pressure difference, found by bracketing; in air as cold as the room's.
        raw = bare()
        raw["base"]["cpu_power_w"] = 0
        raw["parts"]["board_power_w"] = 0
        raw["case"]["cpu_centre_mm"] = {"x": 310, "z": 340}  # so far forward that it draws from one space and blows into one
        point = operating_point(machine(raw), vector({"jet_eta": 1e-9}))  # no jet pushes on the cooler
        fan, cooler = raw["parts"]["fans"][0], raw["parts"]["coolers"][0]
        share = DEFAULT[INDEX["installed_fan"]] * 0.75
        pressures = dict(zip(point.spaces.ids, point.pressure_pa.tolist(), strict=False))
        drive = pressures["up_mid"] - pressures["up_rear"]
        top = share * fan["flow_max_m3h"]
        square = 0.38 * fan["pressure_max_pa"] / fan["flow_max_m3h"] ** 2 + cooler["fin_drop_pa"] / 2 / 50**2

        def surplus(q: float) -> float:
            x = q / top
            thick = point.density / 1.2  # a sheet's pressure and the square part of a drop hold at 1.2 kg/m3
            own = thick * share**2 * fan["pressure_max_pa"] * (1 - 0.62 * x - 0.38 * x * x)
            fins = cooler["fin_drop_pa"] / 2 * (q / 50 + thick * (q / 50) ** 2)
            thin_gaps = np.sqrt(thick * square * k.LAMINAR_PRESSURE_PA) * q  # the laminar part that every link carries
            return float(own - fins - thin_gaps + drive)

        expected = brentq(surplus, 1, 200)
        self.assertAlmostEqual(through(point) / expected, 1.0, delta=1e-3)

    def test_the_card_over_its_own_inlet_air(self) -> None:
        point = operating_point(machine())
        card = demo_raw()["parts"]["cards"][0]
        fixed = DEFAULT[INDEX["card_fixed_share"]]
        flow = point.density / 1.2 * point.card_flow_m3s * 3600
        resistance = card["r_k_per_w"] * (fixed + (1 - fixed) * (card["fan_flow_max_m3h"] / 2 / flow) ** 0.6)
        inlet = point.card_inlet_rise_k
        assert inlet is not None
        self.assertAlmostEqual(point.rises_k[CARD_CORE], inlet + 220 * resistance, delta=0.02)

    def test_the_coolant_s_balance(self) -> None:
        # All of the processor's heat leaves through the fins: sum of C eps (T_coolant - T_in) = P.
        point = operating_point(machine(layout_id="D"))
        heat = 0.0
        for link, q, carried in zip(point.links, np.abs(point.flow_m3s), point.carried_k, strict=True):
            if not link.radiator:
                continue
            capacity = point.density * 1007.0 * q
            face = 2 * 120**2 / 100 / 2 * link.share
            sections = face / 144
            ua = DEFAULT[INDEX["radiator_ua_w_k"]] * sections * (point.density / 1.2 * q * 3600 / (50 * sections)) ** 0.45
            eps = 1 - np.exp(-ua / capacity)
            heat += capacity * eps * (point.rises_k["coolant"] - carried)
        self.assertAlmostEqual(heat, 125, delta=0.1)


class SumsByHandTest(SimpleTestCase):
    def test_the_level_is_the_sum_of_its_sources(self) -> None:
        raw = demo_raw()
        f = forecast_of(machine(raw))
        near = -20 * np.log10(0.7)
        fans = [x.level_dba for x in f.fans]
        # By face its area in cm2 and dB of place less panel; a top of mesh (1 dB) where usually a closed one (6 dB) stands.
        rest = 967.5 * 10 ** (-1 / 10) + 1890 * 10 ** ((1 - 6) / 10) + (967.5 + 903) * 10 ** ((-3 - 6) / 10)
        out = 10 * np.log10((rest + 903 * 10 ** ((1.5 - 1) / 10)) / (rest + 903 * 10 ** ((1.5 - 6) / 10)))
        cooler = 26.5 + 50 * np.log10(0.75) - 4 + near + out
        card = 33 + 50 * np.log10(0.62) - 4 + near + out
        self.assertAlmostEqual(f.sound.level_dba, sum_levels_dba([28, *fans, cooler, card]), places=9)
        front = 26.5 + 50 * np.log10(0.8) + 0 - 1 + near
        self.assertAlmostEqual(fans[0], front, places=9)

    def test_a_layout_against_itself_has_the_model_s_band_alone(self) -> None:
        point = operating_point(machine())
        self.assertAlmostEqual(difference_band_k(point, point, "cpu", 0.0), 2 * k.BAND_MODEL_K)
        self.assertGreater(absolute_band_k(point, "cpu", point.cpu_rise_k), 2 * np.hypot(k.BAND_MODEL_K, k.BAND_ABSOLUTE_SHARE * 50))

    def test_balance_by_hand(self) -> None:
        f = forecast_of(machine(layout_id="B"))
        intake = sum(x.flow_m3h for x in f.fans if x.mount.startswith("f"))
        exhaust = sum(x.flow_m3h for x in f.fans if not x.mount.startswith("f"))
        self.assertAlmostEqual(f.balance.intake_m3h, intake, places=6)
        self.assertAlmostEqual(f.balance.exhaust_m3h, exhaust, places=6)
        self.assertEqual((f.balance.intake_count, f.balance.exhaust_count), (3, 4))
        from_links = sum(abs(x.flow_m3h) for x in f.links if (x.tail == ROOM) == (x.flow_m3h > 0) and ROOM in (x.tail, x.head))
        self.assertAlmostEqual(f.balance.inflow_total_m3h, from_links, places=6)

    def test_speed_of_air_in_an_opening(self) -> None:
        f = forecast_of(machine())
        link = next(x for x in f.links if x.id == "leak:slot_covers")
        self.assertAlmostEqual(link.speed_m_s, abs(link.flow_m3h) / 3600 / 45e-4, places=9)

    def test_mean_airs_by_hand(self) -> None:
        f = forecast_of(machine())
        by_id = {s.id: s.temperature_c for s in f.air.spaces}
        self.assertAlmostEqual(f.air.front_c, (by_id["low_front"] + by_id["up_front"]) / 2)
        board = [by_id[s] for s in ("low_mid", "low_rear", "up_mid", "up_rear")]
        self.assertAlmostEqual(f.air.board_c, sum(board) / 4)

    def test_a_fan_alone_in_free_air(self) -> None:
        # With the whole face open and no card, a rear fan without grille nearly reaches its free flow.
        raw = bare(panels={face: {"state": "removed"} for face in ("window", "front", "top")})
        raw["case"]["mounts"][6]["grille_open_pct"] = 100
        layout_raw(raw, "A")["fans"] = [{"mount": "r1", "fan": "tern-120", "direction": "exhaust", "speed_pct": 100}]
        f = forecast_of(machine(raw))
        self.assertGreater(f.fans[0].flow_m3h, 0.85 * DEFAULT[INDEX["installed_fan"]] * 92)
        self.assertLess(f.fans[0].flow_m3h, DEFAULT[INDEX["installed_fan"]] * 92)
