"""Speed curves put into the document: what is proposed is what the run over time shows once it is made."""

from django.test import SimpleTestCase

from desk.forecast.curves import CurvesQuestion, proposed_curves
from desk.forecast.document import Oracle, Question
from desk.forecast.insight import Insight, ProfileIn, TimeQuestion
from documents.job.case import PointDoc
from documents.job.reader import check_job
from engine.errors import OventaError
from tests.machines import demo_raw, layout_raw


class ProposedCurvesTest(SimpleTestCase):
    def test_made_it_runs_as_it_was_said(self) -> None:
        profile = ProfileIn(shape="burst", period_s=600, on_s=200)
        doc = check_job(demo_raw()).doc
        answer = proposed_curves(Oracle(doc, Question()), "B", CurvesQuestion(target_dba=34, profile=profile, minutes=30))
        for p in answer.proposals:
            raw = doc.model_dump(mode="json", exclude_unset=True)
            raw["curves"] = [*raw.get("curves", []), *(c.model_dump(mode="json", exclude_unset=True) for c in p.curves)]
            raw["layouts"] = [p.layout.model_dump(mode="json", exclude_unset=True) if x["id"] == "B" else x for x in raw["layouts"]]
            again = Insight(Oracle(check_job(raw).doc, Question(layouts=["B"])))
            rows = again.time(TimeQuestion(minutes=30, every_s=5, profile=profile)).rows
            self.assertAlmostEqual(max(r.cpu_c for r in rows), p.judged.cpu_c, delta=0.05)
            self.assertGreaterEqual(len(p.words), len(p.curves))
            for words in p.words[: len(p.curves)]:
                self.assertRegex(words, r"^[A-Z0-9, ]+ by the .+: .*\d+\s°C \d+\s%")

    def test_groups_keep_together_or_are_said_to_part(self) -> None:
        raw = demo_raw()
        layout = layout_raw(raw, "B")
        layout["groups"] = [{"id": "g", "name": "front and rear"}]
        for fan in layout["fans"]:
            if fan["mount"] in ("f1", "r1"):
                fan["group"] = "g"
        doc = check_job(raw).doc
        oracle = Oracle(doc, Question())
        sides = proposed_curves(oracle, "B", CurvesQuestion(target_dba=34, minutes=10))
        self.assertEqual(sides.proposals[0].releases, ["group front and rear parts"])
        together = proposed_curves(oracle, "B", CurvesQuestion(target_dba=34, minutes=10, groups="together"))
        own = together.proposals[0]
        self.assertEqual(own.releases, [])
        self.assertEqual({g.curve for g in own.layout.groups}, {own.curves[0].id})
        self.assertTrue(all(f.curve == own.curves[0].id or f.group == "g" for f in own.layout.fans))

    def test_names_are_free(self) -> None:
        raw = demo_raw()
        raw["curves"] = [{"id": "B-all", "source": "cpu", "points": [[30, 20], [80, 100]]}]
        doc = check_job(raw).doc
        answer = proposed_curves(Oracle(doc, Question()), "B", CurvesQuestion(target_dba=34, minutes=10, groups="together"))
        self.assertEqual(answer.proposals[0].curves[0].id, "B-all-2")

    def test_without_a_fan_there_is_none(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "B")["fans"] = []
        doc = check_job(raw).doc
        with self.assertRaises(OventaError):
            proposed_curves(Oracle(doc, Question()), "B", CurvesQuestion(target_dba=34))

    def test_a_band_is_one_in_whichever_order_it_is_typed(self) -> None:
        self.assertEqual(CurvesQuestion.model_validate({"target_dba": 34, "avoid_rpm": [[900, 300]]}).avoid_rpm, [(300, 900)])


class SmokeTest(SimpleTestCase):
    def test_it_comes_out_at_a_point_of_the_case_and_nowhere_else(self) -> None:
        insight = Insight(Oracle(check_job(demo_raw()).doc, Question(layouts=["A"])))
        for at in ((200, 100, 250), (0, 0, 0)):
            told = insight.air(None, PointDoc(x=at[0], y=at[1], z=at[2])).tracer
            assert told
            self.assertAlmostEqual(max(told.concentration.values()), 1.0)
        for x in (-5.0, 1e9):
            with self.assertRaises(OventaError):
                insight.air(None, PointDoc(x=x, y=10, z=10))
