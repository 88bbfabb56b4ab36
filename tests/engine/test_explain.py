"""Accounts add up to the figures they explain, and say where every formula comes from."""

from typing import Any

from django.test import SimpleTestCase

from engine.coupled.explain import FIGURES, account, drawn_in, node_words
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.coupled.program import CARD_IN, COOLER
from engine.errors import ImpossibleInputError
from engine.sound.levels import sum_levels_dba
from tests.machines import demo_raw, layout_raw, machine


def values(layout: str, figure: str, raw: dict[str, Any] | None = None) -> dict[str, float]:
    return {s.what: s.value for s in account(operating_point(machine(raw, layout)), figure).steps}


class AccountTest(SimpleTestCase):
    def test_a_tower_s_processor_adds_up(self) -> None:
        v = values("B", "cpu")
        whole = v["Air that the cooler draws in, over room"] + v["Fins over the air they get"] + v["Core over fins or coolant"]
        self.assertAlmostEqual(whole, v["Processor over room"], delta=0.02)
        eps, flow = v["Effectiveness"] / 100, v["Air through the cooler"] / 3600
        capacity = operating_point(machine(layout_id="B")).density * 1007 * flow
        self.assertAlmostEqual(v["Fins over the air they get"], v["Heat of the processor"] / (capacity * eps), delta=0.05)

    def test_a_loop_s_processor_and_coolant_add_up(self) -> None:
        v, c = values("D", "cpu"), values("D", "coolant")
        self.assertAlmostEqual(
            v["Air that the radiators draw in, over room"] + v["Coolant over the air"], v["Coolant over room"], delta=0.02
        )
        self.assertAlmostEqual(c["Coolant over room"], v["Coolant over room"], places=9)
        self.assertAlmostEqual(v["Coolant over the air"] * v["What the fins carry per K"], 125, delta=0.6)

    def test_a_card_adds_up(self) -> None:
        v = values("A", "card")
        self.assertAlmostEqual(v["Air that the card draws in, over room"] + v["Core over the air it gets"], v["Card over room"], delta=0.02)
        self.assertAlmostEqual(v["Core over the air it gets"], v["Heat of the card"] * v["Resistance of the card"], delta=1e-6)

    def test_shares_of_what_is_drawn_in_add_up(self) -> None:
        for layout, role in (("A", COOLER), ("B", COOLER), ("A", CARD_IN), ("B", CARD_IN)):
            point = operating_point(machine(layout_id=layout))
            parts = drawn_in(point, (role,))
            self.assertAlmostEqual(sum(share for _, share, _ in parts), 1.0, delta=0.16)  # crumbs under 3 % are left out
            inlet = point.cpu_inlet_rise_k if role == COOLER else point.card_inlet_rise_k
            assert inlet is not None
            self.assertAlmostEqual(sum(share * rise for _, share, rise in parts), inlet, delta=0.15 * inlet + 0.3)

    def test_sound_adds_up(self) -> None:
        point = operating_point(machine(layout_id="B"))
        steps = account(point, "sound").steps
        sources = [p.value for p in steps[0].parts]
        self.assertAlmostEqual(sum_levels_dba([28, *sources]), forecast(point).sound.level_dba, places=6)
        self.assertAlmostEqual(next(s.value for s in steps if s.what == "Sound where you sit"), forecast(point).sound.level_dba, places=9)

    def test_balance_lists_every_way_in_and_out(self) -> None:
        step = account(operating_point(machine()), "balance").steps[0]
        into, out = (sum(p.value for p in step.parts if p.what.startswith(way)) for way in ("in ", "out "))
        self.assertAlmostEqual(into, out, delta=3)
        self.assertIn("out at R1", [p.what for p in step.parts])

    def test_power_given_up_comes_first(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"cpu_power_w": 320, "panels": {"front": {"kind": "solid"}}})
        steps = account(operating_point(machine(raw)), "cpu").steps
        self.assertEqual(steps[0].what, "Power given up at the limit")
        self.assertGreater(steps[0].value, 10)

    def test_every_figure_has_an_account_with_sources(self) -> None:
        for layout in "AD":
            point = operating_point(machine(layout_id=layout))
            for figure in FIGURES:
                if figure == "coolant" and layout == "A":
                    continue
                found = account(point, figure)
                with self.subTest(layout=layout, figure=figure):
                    self.assertTrue(found.title and len(found.steps) > 1)
                    self.assertTrue(any(s.source for s in found.steps))

    def test_a_figure_that_is_not_there_is_refused(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            account(operating_point(machine()), "coolant")
        with self.assertRaises(ImpossibleInputError):
            account(operating_point(machine()), "mood")

    def test_nodes_in_words(self) -> None:
        self.assertEqual(node_words("up_side"), "air above the card, along the window")
        self.assertEqual(node_words("plenum_front"), "air behind the front panel")
        self.assertEqual(node_words("room"), "room air")
