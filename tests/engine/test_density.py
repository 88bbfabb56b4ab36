"""Air is heavier or lighter: fans, films and the balance of mass follow it."""

from dataclasses import replace
from math import log

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (the study's cases are no part of the application)
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.machine import AirCooler, Machine
from study.main import machine_of
from tests.machines import machine

HIGH_HPA = 701.0  # Source: ICAO standard atmosphere, 3,000 m: 701.1 hPa


def at_pressure(m: Machine, hpa: float) -> OperatingPoint:
    return operating_point(replace(m, room=replace(m.room, pressure_hpa=hpa)))


class DensityTest(SimpleTestCase):
    def test_thin_air_moves_as_fast_and_carries_less(self) -> None:
        # Source: fan laws (ISO 5801): at constant speed volume flow stays, pressure falls with density; viscous drops do not follow.
        low, high = at_pressure(machine(), 1013.25), at_pressure(machine(), HIGH_HPA)
        flows = [forecast(p).balance.inflow_total_m3h for p in (low, high)]
        self.assertAlmostEqual(flows[1] / flows[0], 1.0, delta=0.05)
        assert low.card_rise_k and high.card_rise_k
        thinner = low.density / high.density
        for was, now in ((low.cpu_inlet_rise_k, high.cpu_inlet_rise_k), (low.rear_rise_k, high.rear_rise_k)):
            self.assertTrue(1.05 * was < now < 1.1 * thinner * was, (was, now))
        self.assertGreater(high.card_rise_k, low.card_rise_k + 7)

    def test_films_follow_the_mass_that_flows(self) -> None:
        # Laminar plates: UA ~ Re^0.5 (incropera), so fins at 3,000 m have the root of the density's ratio at the same volume flow.
        low, high = at_pressure(machine(), 1013.25), at_pressure(machine(), HIGH_HPA)

        at = next(i for i, link in enumerate(low.links) if link.kind == "cooler")

        def ua(p: OperatingPoint) -> float:
            return -log(1 - float(p.effectiveness[at])) * p.density * 1007 * abs(float(p.flow_m3s[at]))

        volume = [abs(float(p.flow_m3s[at])) for p in (low, high)]
        expected = (high.density * volume[1] / (low.density * volume[0])) ** 0.5
        self.assertAlmostEqual(ua(high) / ua(low), expected, delta=0.002)

    def test_a_fan_that_takes_out_hot_air_moves_less_mass_than_one_that_blows_in_cold(self) -> None:
        base = machine(layout_id="A")
        one = next(f for f in base.fans if base.mounts[f.mount].face == "rear")
        flows = {}
        for way in ("intake", "exhaust"):
            for watts in (0.0, base.cpu.power_w):
                m = replace(base, fans=(replace(one, direction=way, speed_pct=100),), cpu=replace(base.cpu, power_w=watts), card=None)
                flows[way, watts > 0] = abs(forecast(operating_point(m)).fans[0].flow_m3h)
        self.assertLess(flows["exhaust", True] / flows["exhaust", False], 0.995)
        self.assertGreater(flows["intake", True] / flows["intake", False], flows["exhaust", True] / flows["exhaust", False])

    def test_a_card_never_draws_air_warmer_than_its_core(self) -> None:
        # Also blown backwards: what its fins meet then comes in by its outlets. Source: the second law.
        back = 0
        for seed in range(160):
            m = machine_of(seed)
            if seed % 2 and m.card:  # stopped fans of its own are blown through by what the case's fans make of them
                m = replace(m, card=replace(m.card, fan_pct=0.0, curve=None, fin_drop_pa=0.5))
            p = operating_point(m)
            if p.card_inlet_rise_k is None or p.card_rise_k is None:
                continue
            into = [q for link, q in zip(p.links, p.flow_m3s, strict=True) if link.kind == "card_in"]
            back += sum(into) < 0
            with self.subTest(seed=seed):
                self.assertLessEqual(p.card_inlet_rise_k, p.card_rise_k + 0.05)
                warm = p.powers.card_w / p.core_w_k
                self.assertAlmostEqual(p.card_rise_k - p.card_inlet_rise_k, warm, delta=0.05 + 0.01 * warm)
        self.assertGreater(back, 3)

    def test_a_slim_downdraft_is_no_better_away_from_the_board(self) -> None:
        from tests.engine.test_trade import resolver

        for width_mm in (150, 200):
            for room_c in (22.0, 30.0):
                m = replace(resolver("cube-downdraft").machine("cpu_toward", room_c), width_mm=width_mm)
                rises = []
                for way in ("toward", "away"):
                    assert isinstance(m.cooler, AirCooler)
                    slim = replace(m.cooler.fan, thickness_mm=15.0)
                    cooler = replace(m.cooler, height_mm=47.0, direction=way, fan=slim)
                    rises.append(operating_point(replace(m, cooler=cooler)).cpu_rise_k)
                with self.subTest(width_mm=width_mm, room_c=room_c):
                    self.assertLess(rises[0], rises[1] + 0.05)
