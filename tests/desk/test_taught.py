"""Speeds and curves as runs have taught: what is told of them is what the forecast tells once they are set."""

from django.test import SimpleTestCase

from desk.forecast.curves import CurvesQuestion, proposed_curves
from desk.forecast.document import Oracle, Question
from desk.forecast.insight import Insight, ProfileIn, QuietQuestion, TimeQuestion
from desk.forecast.taught import CLOSE_DB, with_speeds
from desk.learn.document import LearnedOracle, Learning
from desk.learn.readings import Readings
from desk.search.trade import trade
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import loaded, operating_point
from engine.learn.case import Reading
from engine.learn.levels import LevelReading
from tests.machines import demo_raw, fan_raw, layout_raw, machine

LOUDER_DB = 4.0


def taught() -> Learning:
    """Layouts A and B read 15 % warmer and LOUDER_DB louder than by the parts' sheets."""
    doc, rises, levels = check_job(demo_raw()).doc, [], []
    for x in "AB":
        point = operating_point(loaded(machine(layout_id=x), "both"))
        for n in range(3):
            run = f"{x}{n}"
            rises.append(Reading(run, x, "both", "cpu", 1.15 * point.cpu_rise_k, 0.4))
            rises.append(Reading(run, x, "both", "card", 1.15 * (point.card_rise_k or 0.0), 0.4))
            levels.append(LevelReading(run, x, forecast(point).sound.level_dba + LOUDER_DB, 0.3, 0.3))
    return Learning.of(doc, Readings(rises, {"both": levels}))


class AsTaughtTest(SimpleTestCase):
    learning: Learning
    target_dba = 38.0

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.learning = taught()

    def oracle(self, doc: JobDoc | None = None) -> LearnedOracle:
        return LearnedOracle(self.learning.told_of(doc) if doc else self.learning, Question(layouts=["B"]))

    def test_speeds_keep_the_level_that_is_told_once_they_are_set(self) -> None:
        for together in (True, False):
            q = QuietQuestion(target_dba=self.target_dba, together=together)
            found = Insight(self.oracle()).quiet(q)
            self.assertEqual(found.learned, self.learning.taught_by)
            self.assertTrue(found.speeds.reached)
            self.assertLessEqual(found.speeds.level_dba, self.target_dba + CLOSE_DB)
            self.assertGreater(found.speeds.level_dba, self.target_dba - 1.0)
            doc = self.learning.doc
            layouts = [with_speeds(x, found.speeds.speeds_pct) if x.id == "B" else x for x in doc.layouts]
            told = self.oracle(doc.model_copy(update={"layouts": layouts})).forecast("B")
            self.assertAlmostEqual(told.sound.level_dba, found.speeds.level_dba, places=6)
            self.assertAlmostEqual(told.cpu.temperature_c, found.cpu_c, places=6)
            sheets = Insight(Oracle(doc, Question(layouts=["B"]))).quiet(q)
            self.assertIsNone(sheets.learned)
            self.assertLess(sum(found.speeds.speeds_pct.values()), sum(sheets.speeds.speeds_pct.values()))

    def test_a_level_that_only_the_sheets_reach_is_not_promised(self) -> None:
        rest = Insight(Oracle(self.learning.doc, Question(layouts=["B"]))).quiet(QuietQuestion(target_dba=1.0)).speeds.level_dba
        q = QuietQuestion(target_dba=rest + 0.5)
        self.assertTrue(Insight(Oracle(self.learning.doc, Question(layouts=["B"]))).quiet(q).speeds.reached)
        self.assertFalse(Insight(self.oracle()).quiet(q).speeds.reached)

    def test_what_speed_buys_stands_where_the_layout_is_told_to_stand(self) -> None:
        raw = demo_raw()
        raw["case"].pop("rails", None)
        layout_raw(raw, "B")["fans"] = [fan_raw(m, "intake", 70) for m in ("f1", "f2")] + [fan_raw("r1", "exhaust", 70)]
        oracle = self.oracle(check_job(raw).doc)
        found, told = trade(oracle, "B"), oracle.forecast("B")
        self.assertEqual((found.held_k, found.held_dba), (told.cpu.rise_k, told.sound.level_dba))
        self.assertEqual(found.learned, self.learning.taught_by)
        now = next(s for s in found.against["fans"] if s.now)
        self.assertAlmostEqual(now.speed_pct or 0.0, 70.0, delta=1.5)
        self.assertAlmostEqual(now.level_dba or 0.0, found.held_dba, delta=0.3)

    def test_curves_are_judged_by_the_run_that_is_shown_once_they_are_made(self) -> None:
        profile = ProfileIn(shape="burst", period_s=600, on_s=200)
        answer = proposed_curves(self.oracle(), "B", CurvesQuestion(target_dba=self.target_dba, profile=profile, minutes=20))
        self.assertEqual(answer.learned, self.learning.taught_by)
        self.assertTrue(answer.proposals)
        for p in answer.proposals:
            self.assertLessEqual(p.judged.sound.highest_dba, self.target_dba + 2 * CLOSE_DB)
            raw = self.learning.doc.model_dump(mode="json", exclude_unset=True)
            raw["curves"] = [*raw.get("curves", []), *(c.model_dump(mode="json", exclude_unset=True) for c in p.curves)]
            raw["layouts"] = [p.layout.model_dump(mode="json", exclude_unset=True) if x["id"] == "B" else x for x in raw["layouts"]]
            again = Insight(self.oracle(check_job(raw).doc))
            rows = again.time(TimeQuestion(minutes=20, every_s=5, profile=profile)).rows
            self.assertAlmostEqual(max(r.cpu_c for r in rows), p.judged.cpu_c, delta=0.6)
