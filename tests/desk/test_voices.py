"""Who is heard: shares that add up, what is gained without one, as forecast and as learned."""

from math import log10

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.forecast.voices import VoicesAnswer, voices_of
from desk.learn.document import LearnedOracle, Learning
from desk.learn.readings import Readings
from documents.job.reader import check_job
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.learn.levels import LevelReading
from tests.machines import demo_raw, layout_raw


class VoicesTest(SimpleTestCase):
    def setUp(self) -> None:
        self.doc = check_job(demo_raw()).doc

    def asked(self, layout: str, learning: Learning | None = None) -> VoicesAnswer:
        question = Question(layouts=[layout])
        return voices_of(LearnedOracle(learning, question) if learning else Oracle(self.doc, question), layout)

    def test_shares_are_the_whole_and_levels_the_forecasts(self) -> None:
        for layout in "ABCD":
            found = self.asked(layout)
            with self.subTest(layout=layout):
                self.assertAlmostEqual(sum(v.share_pct for v in found.voices), 100)
                self.assertAlmostEqual(found.sum_dba, found.level_dba, places=6)
                self.assertEqual([v.level_dba for v in found.voices], sorted((v.level_dba for v in found.voices), reverse=True))
                fans = {v.mount for v in found.voices if v.mount}
                self.assertEqual(fans, {f.mount for f in self.doc.layouts["ABCD".index(layout)].fans})

    def test_a_fan_taken_out_is_worth_what_was_said(self) -> None:
        found = self.asked("B")
        fan = next(v for v in found.voices if v.mount == "t1")
        raw = demo_raw()
        layout = layout_raw(raw, "B")
        for place in layout["fans"]:  # still, and in its place: what it leaves to the others is the same
            if place["mount"] == "t1":
                place["speed_pct"] = 0
        level = forecast(operating_point(Oracle(check_job(raw).doc, Question(layouts=["B"])).machine("B"))).sound.level_dba
        self.assertAlmostEqual(found.level_dba - fan.without_db, level, delta=0.05)

    def test_fans_that_are_alike_and_in_one_place_are_one_row(self) -> None:
        raw = demo_raw()
        raw["base"]["cooler_fans"] = 2
        found = voices_of(Oracle(check_job(raw).doc, Question(layouts=["A"])), "A")
        names = [v.name for v in found.voices]
        self.assertEqual(len(names), len(set(names)))
        self.assertEqual([v.count for v in found.voices if "cooler" in v.name], [2])
        self.assertAlmostEqual(sum(v.share_pct for v in found.voices), 100)
        self.assertAlmostEqual(found.sum_dba, found.level_dba, places=6)

    def test_from_elsewhere_it_is_what_a_job_says_whose_ear_is_there(self) -> None:
        found = self.asked("B")
        self.assertEqual(len(found.elsewhere), 4)
        for place in found.elsewhere:
            raw = demo_raw()
            raw["room"] = raw["room"] | {"listener_distance_m": place.distance_m, "listener_side": place.side}
            there = Oracle(check_job(raw).doc, Question(layouts=["B"])).forecast("B").sound.level_dba
            self.assertAlmostEqual(place.level_dba, there, places=6)
            self.assertAlmostEqual(place.more_db, there - found.level_dba, places=6)

    def test_as_learned_they_add_up_to_what_is_told_but_for_the_layouts_own(self) -> None:
        plain = self.asked("A")
        reading = LevelReading("A run 1", "A", plain.level_dba + 4, 0.3, 0.8)
        found = self.asked("A", Learning.of(self.doc, Readings([], {"both": [reading]})))
        self.assertEqual(found.learned, 1)
        self.assertGreater(found.sum_dba, plain.sum_dba + 1)
        self.assertLess(abs(found.level_dba - found.sum_dba), 2.5)
        energy = sum(10 ** (v.level_dba / 10) for v in found.voices)
        self.assertAlmostEqual(10 * log10(energy), found.sum_dba, places=6)
