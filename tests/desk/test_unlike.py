"""What runs were not alike in, put into kelvins by the forecast: each against the forecast of the machine as it ran."""

from dataclasses import replace

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.verdict.study import Runs, Settings, study
from desk.verdict.unlike import sized
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.coupled.operating_point import operating_point
from engine.verdict.candidate import Candidate
from tests.machines import demo_raw
from tests.runs_made import layout_of

CPU, CARD = "cpu_package_c", "card_core_c"


class UnlikeTest(SimpleTestCase):
    def setUp(self) -> None:
        self.doc: JobDoc = check_job(demo_raw()).doc
        self.oracle = Oracle(self.doc, Question())
        self.machine = self.oracle.machine("A")

    def sized(self, *candidates: Candidate) -> dict[str, Candidate]:
        return {c.name: c for c in sized(candidates, self.oracle, [x.id for x in self.doc.layouts])}

    def made(self, name: str, **figures: float) -> Candidate:
        return layout_of(name, {CPU: 50.0, CARD: 55.0} | figures, 3, 0.05)

    def test_a_slow_fan_adds_what_the_forecast_of_that_machine_says(self) -> None:
        fan = self.machine.fans[0]
        asked = fan.fan.speed_max_rpm * fan.speed_pct / 100
        own = self.sized(self.made("A", **{fan.channel: 0.6 * asked}))["A"]
        slow = tuple(replace(f, speed_pct=0.6 * f.speed_pct) if f is fan else f for f in self.machine.fans)
        by_hand = operating_point(replace(self.machine, fans=slow)).cpu_rise_k - operating_point(self.machine).cpu_rise_k
        (deviation,) = own.deviations
        self.assertAlmostEqual(deviation.adds_k[CPU][0], by_hand, delta=0.02)
        self.assertGreater(deviation.adds_k[CPU][1], 0)
        self.assertIn(fan.channel.removeprefix("fan_").removesuffix("_rpm").upper(), deviation.words)

    def test_a_fan_that_never_turned_is_sized_too(self) -> None:
        fan = self.machine.fans[0]
        own = self.sized(self.made("A", **{fan.channel: 0.0}))["A"]
        still = tuple(replace(f, running=False) if f is fan else f for f in self.machine.fans)
        by_hand = operating_point(replace(self.machine, fans=still)).cpu_rise_k - operating_point(self.machine).cpu_rise_k
        self.assertAlmostEqual(own.deviations[0].adds_k[CPU][0], by_hand, delta=0.02)

    def test_fans_as_asked_add_nothing(self) -> None:
        speeds = {f.channel: f.fan.speed_max_rpm * f.speed_pct / 100 for f in self.machine.fans}
        self.assertFalse(self.sized(self.made("A", **speeds))["A"].deviations)

    def test_a_card_s_fans_that_ran_otherwise_than_in_the_other_layouts(self) -> None:
        found = self.sized(self.made("A", fan_card_rpm=2000.0), self.made("B", fan_card_rpm=2000.0), self.made("C", fan_card_rpm=1500.0))
        self.assertFalse(found["A"].deviations or found["B"].deviations)
        (deviation,) = found["C"].deviations
        self.assertGreater(deviation.adds_k[CARD][0], 1.0)  # a quarter slower: warmer by kelvins
        self.assertIn("turns at 1500 where 2000", deviation.words)

    def test_kelvins_per_watt_are_the_forecast_s_where_powers_lie_apart(self) -> None:
        near = self.sized(self.made("A", cpu_power_w=125.0), self.made("B", cpu_power_w=126.0))
        self.assertFalse(near["A"].k_per_w)
        found = self.sized(self.made("A", cpu_power_w=125.0), self.made("B", cpu_power_w=140.0))
        cpu = self.machine.cpu
        warmer = operating_point(replace(self.machine, cpu=replace(cpu, power_w=cpu.power_w + 10)))
        by_hand = (warmer.cpu_rise_k - operating_point(self.machine).cpu_rise_k) / 10
        self.assertAlmostEqual(found["A"].k_per_w[CPU][0] / by_hand, 1.0, delta=0.05)

    def test_without_a_forecast_the_measured_rise_stands_for_it(self) -> None:
        raw = demo_raw()
        raw["base"] = {k: v for k, v in raw["base"].items() if k != "cpu"}
        doc = check_job(raw).doc
        made = sized([self.made("A", cpu_power_w=125.0), self.made("B", cpu_power_w=140.0)], Oracle(doc, Question()), ["A", "B"])
        self.assertTrue(all(not c.k_per_w and not c.deviations for c in made))

    def test_the_verdict_says_it_with_its_size(self) -> None:
        fan = self.machine.fans[0]
        slow = self.made("A", **{fan.channel: 300.0})
        made = study(self.doc, Runs({"both": [slow, self.made("B")]}), Settings())
        pair = next(p for p in made.pairs if p.channel == CPU)
        self.assertIsNotNone(pair.like_k)
        self.assertTrue(any("turns at 300" in x and "worth" in x for x in pair.confounders))
