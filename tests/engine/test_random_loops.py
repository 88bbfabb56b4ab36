"""Random cases with loops of every sort: the engine ends, books balance, and heat leaves by the loop it was put into."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (the study's cases are no part of the application)
from engine import constants as k
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import OperatingPoint, operating_point
from engine.findings.registry import findings
from engine.loop.ageing import ageing
from engine.loop.heights import loop_heights
from engine.machine import AirCooler, Machine, PlacedRadiator, SealedCooler
from study.main import faults_of, machine_of

SEEDS = range(40_000, 40_160)


def radiator(mount: str, size_mm: float, name: str = "r") -> PlacedRadiator:
    return PlacedRadiator(name, (mount,), size_mm**2 / 100, 27.0, size_mm + 40, 1.0, 0.0, "rear", 20.0, size_mm)


def with_card_on_the_processor_s_loop() -> Iterator[tuple[int, Machine]]:
    for seed in SEEDS:
        m = machine_of(seed)
        if m.card and isinstance(m.cooler, SealedCooler):
            yield seed, replace(m, card=replace(m.card, block_k_per_w=0.06))


def with_a_loop_for_the_card() -> Iterator[tuple[int, Machine]]:
    """Beside whatever cools the processor, the card gets a radiator on a mount that carries none."""
    for seed in SEEDS:
        m = machine_of(seed)
        taken = {mount for loop in m.loops for r in loop.radiators for mount in r.mounts}
        free = next((x for x in m.mounts.values() if x.id not in taken and not x.on_shroud and not x.cover), None)
        if m.card and free:
            loop = SealedCooler(0.05, 300.0, 120.0, "block", 100.0, (radiator(free.id, free.size_mm),))
            yield seed, replace(m, card=replace(m.card, block_k_per_w=0.05), card_loop=loop)


def given_off_w(p: OperatingPoint, node: int) -> float:
    """Heat that a loop gives to streams, link by link."""
    pg, heat = p.plan.program, p.density * k.AIR_HEAT_CAPACITY_J_KGK
    on = [i for i, link in enumerate(p.links) if link.radiator and pg.sink[i] == node]
    return float(sum(heat * abs(p.flow_m3s[i]) * p.effectiveness[i] * (p.node_rise_k[node] - p.carried_k[i]) for i in on))


class RandomLoopsTest(SimpleTestCase):
    def test_there_are_enough_of_each_sort(self) -> None:
        shared, own = list(with_card_on_the_processor_s_loop()), list(with_a_loop_for_the_card())
        self.assertGreater(len(shared), 20)
        self.assertGreater(len(own), 60)
        self.assertGreater(sum(isinstance(m.cooler, AirCooler) for _, m in own), 15)

    def test_nothing_breaks_the_engine_and_books_balance(self) -> None:
        for seed, machine in (*with_card_on_the_processor_s_loop(), *with_a_loop_for_the_card()):
            faults, mass, heat = faults_of(machine)
            with self.subTest(seed=seed, own=machine.card_loop is not None):
                self.assertEqual(faults, [], f"errors of mass {mass:.2e}, of heat {heat:.2e}")

    def test_cores_stand_over_their_coolant_by_ohm_s_law(self) -> None:
        for seed, machine in with_a_loop_for_the_card():
            p = operating_point(machine)
            assert machine.card and machine.card.block_k_per_w
            with self.subTest(seed=seed):
                above = (p.card_rise_k or 0.0) - p.rises_k["card_coolant"]
                self.assertAlmostEqual(above, p.powers.card_w * machine.card.block_k_per_w, delta=0.01)  # the solver rests at 0.01 K

    def test_a_loop_gives_off_what_it_takes(self) -> None:
        for seed, machine in with_card_on_the_processor_s_loop():
            p = operating_point(machine)
            pg = p.plan.program
            gone = given_off_w(p, pg.n + 1)
            put_in = p.powers.cpu_w + p.powers.card_w
            still = k.STILL_FINS_W_K * 2 * len(machine.loops[0].radiators[0].mounts) * p.rises_k["coolant"]
            opposed = any(len({f.direction for f in machine.fans if f.mount == m}) > 1 for m in machine.loops[0].radiators[0].mounts)
            if opposed:
                continue  # a breathing flow carries part of it
            with self.subTest(seed=seed):
                self.assertLess(abs(gone - put_in), still + 0.02 * put_in + 1)

    def test_more_power_in_the_card_warms_the_coolant_unless_a_part_is_at_its_limit(self) -> None:
        for seed, machine in list(with_card_on_the_processor_s_loop())[:20]:
            assert machine.card
            light = replace(machine, cpu=replace(machine.cpu, power_w=20.0))
            cold, warm = (operating_point(replace(light, card=replace(machine.card, power_w=w))) for w in (20.0, 60.0))
            with self.subTest(seed=seed):
                self.assertGreaterEqual(warm.rises_k["coolant"], cold.rises_k["coolant"] - 1e-6)
                if not warm.powers.cpu_limited and not warm.powers.card_limited:
                    self.assertGreater(warm.rises_k["coolant"], cold.rises_k["coolant"] + 0.5)

    def test_findings_heights_and_ageing_never_fail(self) -> None:
        for seed, machine in (*list(with_card_on_the_processor_s_loop())[:25], *list(with_a_loop_for_the_card())[:40]):
            p = operating_point(machine)
            said = forecast(p)
            with self.subTest(seed=seed):
                for finding in findings(p, said):
                    self.assertNotIn("nan", finding.because)
                for loop in machine.loops:
                    h = loop_heights(machine, loop)
                    age = ageing(loop, h, 40.0)
                    self.assertGreaterEqual(h.above_pump_ml, 0)
                    self.assertTrue(np.isfinite([h.over_pump_mm, age.first_ml, age.rate_ml_year]).all())
                    for year in (age.barb_year, age.pump_year):
                        self.assertTrue(year is None or 0 <= year <= 30)
