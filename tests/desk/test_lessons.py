"""Parts that learn across jobs: what one job's runs taught of a part holds in another case that has the same part, and never twice."""

from typing import Any

import numpy as np
from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.job.conditions import made_with
from desk.learn.document import LearnedOracle, Learning
from desk.learn.lessons import known
from desk.learn.readings import Readings
from documents.errors import DocumentError
from documents.job.models import JobDoc, as_built
from documents.job.reader import check_job
from documents.parts.files import parts_csv, parts_json, read_parts
from engine.coupled.operating_point import operating_point
from engine.errors import OventaError
from engine.learn.case import Reading, learn
from engine.learn.lessons import CARRIED_SHARE, Lesson, with_lessons
from engine.learn.levels import CARRIED_DB, LevelReading, learn_levels
from engine.parameters import COUNT, DEFAULT, INDEX, SPREADS
from tests.engine.test_learning import demo_cases
from tests.machines import demo_raw, layout_raw


def job(**more: Any) -> dict[str, Any]:
    """The demo with its tower in every layout, so that it is the one cooler there is."""
    raw = demo_raw()
    raw["layouts"] = [layout_raw(raw, x) for x in "AB"]
    raw["name"] = "elsewhere"
    return raw | more


def vector(**sigmas: float) -> np.ndarray:
    at = np.zeros(COUNT)
    for name, value in sigmas.items():
        at[INDEX[name]] = value
    return np.asarray(DEFAULT * SPREADS**at)


class EngineTest(SimpleTestCase):
    def test_a_lesson_alone_is_what_comes_out(self) -> None:
        """With the engine's own prior: the mean and the width it was given, its carrying over added."""
        lesson = Lesson("cpu_path", 1.12, 0.04, 7)
        found = learn(demo_cases(), [], [lesson])
        p = next(x for x in found.parameters if x.name == "cpu_path")
        sigma = np.log(SPREADS[INDEX["cpu_path"]])
        self.assertAlmostEqual(p.value / p.prior, 1.12, places=6)
        self.assertAlmostEqual(p.sd / p.value, float(np.hypot(0.04 / 1.12, CARRIED_SHARE)), delta=1e-3 * sigma)
        other = next(x for x in found.parameters if x.name == "card_path")
        self.assertAlmostEqual(other.value, other.prior)

    def test_figures_move_with_it_and_get_sharper(self) -> None:
        cases = demo_cases()
        plain, taught = learn(cases, []).of(cases)[0], learn(cases, [], [Lesson("cpu_path", 1.12, 0.02, 7)]).of(cases)[0]
        exact = [operating_point(c.machine, vector(cpu_path=np.log(1.12) / np.log(SPREADS[INDEX["cpu_path"]]))) for c in cases]
        for a, b in zip(plain, taught, strict=True):
            if a.part == "cpu":
                point = next(p for c, p in zip(cases, exact, strict=True) if c.layout == a.layout)
                self.assertAlmostEqual(b.rise_k, point.cpu_rise_k, delta=0.15)
                self.assertLess(b.band_k, a.band_k)

    def test_own_runs_outweigh_it(self) -> None:
        cases = demo_cases()
        points = {c.layout: operating_point(c.machine) for c in cases}
        told = [Reading(f"{x}{n}", x, "both", "cpu", points[x].cpu_rise_k, 0.3) for x in "ABCD" for n in range(3)]
        wrong = learn(cases, told, [Lesson("cpu_path", 1.3, 0.05, 3)])
        for figure in wrong.of(cases)[0]:
            if figure.part == "cpu":
                self.assertAlmostEqual(figure.rise_k, points[figure.layout].cpu_rise_k, delta=1.0)

    def test_one_hardly_narrower_than_the_prior_is_none_and_an_unknown_one_is_refused(self) -> None:
        told = learn(demo_cases(), []).told
        wide = Lesson("cpu_path", 1.0, float(SPREADS[INDEX["cpu_path"]]), 1)
        self.assertEqual(len(with_lessons(told, [wide]).residual), 0)
        with self.assertRaises(OventaError):
            with_lessons(told, [Lesson("luck", 1.0, 0.01, 1)])

    def test_a_level_known_from_elsewhere_shifts_every_layout_with_that_fan(self) -> None:
        points = [operating_point(c.machine) for c in demo_cases()]
        fan = points[0].machine.fans[0].fan.id
        plain, taught = learn_levels(points, [], []), learn_levels(points, [], [], {fan: (3.0, 0.3)})
        self.assertEqual(taught.sources[fan], (3.0, float(np.hypot(0.3, CARRIED_DB))))
        for a, b in zip(plain.levels, taught.levels, strict=True):
            self.assertTrue(0 < b.level_dba - a.level_dba <= 3.0)
            self.assertLess(b.band_db, a.band_db)


class PartsTest(SimpleTestCase):
    doc: JobDoc
    first: Learning

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.doc = check_job(job(name="the first")).doc
        hot = vector(cpu_path=1.5)
        told, levels = [], []
        for x in "AB":
            machine = Oracle(cls.doc, Question()).machine(x)
            point = operating_point(machine, hot)
            for n in range(3):
                told.append(Reading(f"{x} {n}", x, "both", "cpu", point.cpu_rise_k, 0.3))
                told.append(Reading(f"{x} {n}", x, "both", "card", point.card_rise_k or 0.0, 0.3))
                level = Oracle(cls.doc, Question()).forecast(x).sound.level_dba
                levels.append(LevelReading(f"{x} {n}", x, level + 2.5, 0.2, 0.1))
        cls.first = Learning.of(cls.doc, Readings(told, {"both": levels}))

    def taken_along(self, **more: Any) -> JobDoc:
        """Another case with the same parts, which bring along what they could."""
        raw = job(**more)
        raw["case"]["inner_mm"]["depth"] += 40
        for x in self.first.document().to_keep:
            part = next(p for p in raw["parts"][x.kind] if p["id"] == x.part)
            part[x.field] = x.lessons
        return check_job(raw).doc

    def test_what_was_taught_could_go_along(self) -> None:
        kept = {(x.kind, x.field) for x in self.first.document().to_keep}
        self.assertIn(("coolers", "lessons"), kept)
        self.assertIn(("fans", "level_lessons"), kept)
        words = [w for x in self.first.document().to_keep for w in x.words]
        self.assertTrue(any("path resistance × 1." in w for w in words), words)

    def test_the_same_part_is_known_in_another_case(self) -> None:
        doc = self.taken_along()
        learning = Learning.of(doc, Readings())
        self.assertTrue(learning.anything)
        self.assertEqual((learning.taught_by, learning.runs_used), (6, []))
        told = LearnedOracle(learning, Question(layouts=["A"])).forecast("A")
        truth = operating_point(Oracle(doc, Question()).machine("A"), vector(cpu_path=1.5))
        plain = Oracle(doc, Question()).forecast("A")
        self.assertLess(abs(told.cpu.rise_k - truth.cpu_rise_k), 0.6 * abs(plain.cpu.rise_k - truth.cpu_rise_k))
        self.assertLess(told.cpu.band_k, plain.cpu.band_k)
        self.assertGreater(told.sound.level_dba, plain.sound.level_dba + 0.5)
        said = learning.document("both")
        self.assertEqual(said.parts_runs, 6)
        self.assertTrue(all("of the first" in words for words in said.parts))
        self.assertEqual(said.to_keep, [])  # nothing was run here

    def test_never_twice(self) -> None:
        self.assertEqual(known(self.taken_along(name="the first"), []).runs, 0)
        every = [f"{x} {n}" for x in "AB" for n in range(3)]
        self.assertEqual(known(self.taken_along(), [*every, "one more"]).runs, 0)  # the same job under another name
        self.assertEqual(known(self.taken_along(), ["A 0", "another run"]).runs, 6)  # runs elsewhere may have the same names

    def test_of_two_coolers_nobody_knows_which_taught(self) -> None:
        doc = self.taken_along()
        raw = doc.model_dump(mode="json", exclude_unset=True)
        raw["layouts"].append(layout_raw(demo_raw(), "C"))  # with the sealed cooler
        paths = known(check_job(raw).doc, []).paths
        self.assertNotIn("cpu_path", [x.parameter for x in paths])
        self.assertIn("cpu_path", [x.parameter for x in known(doc, []).paths])

    def test_it_is_read_back_as_it_was_written(self) -> None:
        again = check_job(self.taken_along().model_dump(mode="json", exclude_unset=True)).doc
        self.assertEqual(known(again, []).said, known(self.taken_along(), []).said)

    def test_a_part_that_keeps_a_lesson_is_the_same_part(self) -> None:
        """Runs made with it stay runs of it, a frozen verdict still stands, and files carry what it knows."""
        raw = job(name="the first")
        plain = check_job(raw).doc
        for x in self.first.document().to_keep:
            next(p for p in raw["parts"][x.kind] if p["id"] == x.part)[x.field] = x.lessons
        kept = check_job(raw).doc
        self.assertNotEqual(plain.parts, kept.parts)
        self.assertEqual(as_built(plain.parts), as_built(kept.parts))
        self.assertEqual([made_with(plain, x) for x in "AB"], [made_with(kept, x) for x in "AB"])
        for text, name in ((parts_json(kept), "parts.json"), (parts_csv(kept), "parts.csv")):
            read = read_parts(text.encode(), name)
            cooler = next(p for p in read["coolers"] if p.get("lessons"))
            self.assertEqual(cooler["lessons"][0]["job"], "the first")

    def test_kept_again_a_newer_lesson_stands_for_the_older(self) -> None:
        """Of this job's own; one of another job stays beside it."""
        raw = job(name="the first")
        cooler = next(x.part for x in self.first.document().to_keep if x.kind == "coolers")
        part = next(p for p in raw["parts"]["coolers"] if p["id"] == cooler)
        old = {"runs": ["x"], "parameter": "cpu_path", "ratio": 1.5, "ratio_sd": 0.1}
        part["lessons"] = [{"job": "the first", **old}, {"job": "another", **old}]
        keep = next(x for x in self.first.told_of(check_job(raw).doc).document().to_keep if x.kind == "coolers")
        self.assertFalse(keep.kept)
        own = [(x["job"], x["ratio"]) for x in keep.lessons if x["parameter"] == "cpu_path"]
        self.assertEqual(own[0], ("another", 1.5))
        self.assertEqual([job for job, _ in own], ["another", "the first"])
        part["lessons"] = keep.lessons
        again = next(x for x in self.first.told_of(check_job(raw).doc).document().to_keep if x.kind == "coolers")
        self.assertTrue(again.kept)
        self.assertEqual(again.lessons, keep.lessons)

    def test_bad_lessons_are_refused(self) -> None:
        wrong: list[dict[str, Any]] = [{"ratio": 0}, {"runs": []}, {"ratio_sd": -1}]
        for bad in wrong:
            raw = job()
            lesson = {"job": "x", "runs": ["1"], "parameter": "cpu_path", "ratio": 1.1, "ratio_sd": 0.1} | bad
            raw["parts"]["coolers"][0]["lessons"] = [lesson]
            with self.assertRaises(DocumentError):
                check_job(raw)
