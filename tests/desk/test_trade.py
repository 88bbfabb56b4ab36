"""What speed buys: more fans and more radiator need less of it; the choice as it is needs what it has."""

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.search.trade import TradeStep, trade
from documents.job.reader import check_job
from engine.coupled.trade import sweep
from engine.errors import OventaError
from tests.machines import demo_raw, fan_raw, layout_raw, machine


def oracle(layout: str, **changes: object) -> Oracle:
    raw = demo_raw()
    raw["case"].pop("rails", None)
    layout_raw(raw, layout).update(changes)
    return Oracle(check_job(raw).doc, Question(layouts=[layout]))


def needed(steps: list[TradeStep]) -> list[float]:
    return [float("inf") if s.rpm is None else s.rpm for s in steps]


class TradeTest(SimpleTestCase):
    def test_more_fans_turn_slower_for_the_same_heat(self) -> None:
        six = [fan_raw(m, "intake", 70) for m in ("f1", "f2", "f3")] + [fan_raw("r1", "exhaust", 70)]
        found = trade(oracle("A", fans=six), "A")
        rpm = needed(found.against["fans"])
        self.assertEqual(rpm, sorted(rpm, reverse=True))
        now = next(s for s in found.against["fans"] if s.now)
        self.assertAlmostEqual(now.speed_pct or 0.0, 70.0, delta=1.0)
        self.assertAlmostEqual(now.rise_k or 0.0, found.held_k, delta=0.3)
        self.assertAlmostEqual(now.level_dba or 0.0, found.held_dba, delta=0.2)

    def test_twice_the_radiator_needs_about_half_the_speed(self) -> None:
        """Common practice, no source: the direction, and well below what half as much needs."""
        steps = {s.amount: s for s in trade(oracle("D"), "D").against["radiator"]}
        two, one = steps[2.0], steps[1.0]
        self.assertTrue(two.now)
        assert two.rpm is not None
        self.assertTrue(one.rpm is None or two.rpm < 0.7 * one.rpm)

    def test_every_kind_of_fan_on_the_table(self) -> None:
        found = trade(oracle("A"), "A", "card")
        self.assertEqual(len(found.against["size"]), 2)
        self.assertNotIn("radiator", found.against)

    def test_a_sweep_gets_cooler_and_louder(self) -> None:
        found = sweep(machine(layout_id="D"))
        self.assertEqual(list(found.cpu_k), sorted(found.cpu_k, reverse=True))
        self.assertEqual(list(found.level_dba), sorted(found.level_dba))
        self.assertIsNone(found.share_for("cpu", 1.0))
        self.assertIsNone(found.at_level("cpu", 5.0))
        self.assertEqual(found.share_for("cpu", 300.0), found.share[0])

    def test_without_a_card_there_is_none_to_hold(self) -> None:
        with self.assertRaises(OventaError):
            trade(oracle("A", card=None), "A", "card")
