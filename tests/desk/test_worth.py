"""What each fan is worth, single changes with the free ones first, and what a mishap does in words."""

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.forecast.insight import EventIn, Insight, TimeQuestion
from desk.forecast.worth import PAYS_K, WorthAnswer, worth
from desk.job.edits import with_layout
from documents.job.models import LayoutDoc
from documents.job.reader import check_job
from engine.coupled.compare import WATT_WORTH_K
from tests.machines import demo_raw, fan_raw, layout_raw


def answer(mounts: list[tuple[str, str, float]]) -> WorthAnswer:
    raw = demo_raw()
    layout_raw(raw, "A")["fans"] = [fan_raw(m, way, pct) for m, way, pct in mounts]
    return worth(Oracle(check_job(raw).doc, Question(layouts=["A"])), "A")


SIX = [
    ("f1", "intake", 80.0),
    ("f2", "intake", 80.0),
    ("f3", "intake", 80.0),
    ("t1", "exhaust", 80.0),
    ("t2", "exhaust", 80.0),
    ("r1", "exhaust", 80.0),
]


class LadderTest(SimpleTestCase):
    def test_rungs_add_up_from_no_fan_to_the_layout(self) -> None:
        found = answer(SIX)
        self.assertEqual({r.mount for r in found.rungs}, {m for m, _, _ in SIX})
        start = found.bare_cpu_rise_k + WATT_WORTH_K * found.bare_lost_w[0]  # a watt given up counts as its worth in kelvin
        self.assertAlmostEqual(start + sum(r.cpu_k for r in found.rungs), found.rungs[-1].cpu_rise_k, delta=0.02)
        raw = demo_raw()
        layout_raw(raw, "A")["fans"] = [fan_raw(m, way, pct) for m, way, pct in SIX]
        whole = Oracle(check_job(raw).doc, Question(layouts=["A"])).point("A")
        self.assertAlmostEqual(found.rungs[-1].cpu_rise_k, whole.cpu_rise_k, delta=0.02)

    def test_a_ladder_of_six_has_a_knee_after_which_no_fan_pays(self) -> None:
        rungs = answer(SIX).rungs
        (knee,) = [i for i, r in enumerate(rungs) if r.knee]
        self.assertTrue(0 < knee + 1 < 6)
        self.assertLessEqual(min(rungs[knee].cpu_k, rungs[knee].card_k or 0), -PAYS_K)
        for r in rungs[knee + 1 :]:
            self.assertGreater(min(r.cpu_k, r.card_k or 0), -PAYS_K)

    def test_a_fan_that_works_against_the_others_is_a_negative_step(self) -> None:
        # Common practice, no source: a top intake over a tower pushes the card's air back.
        rungs = answer([("f2", "intake", 80.0), ("r1", "exhaust", 80.0), ("t2", "intake", 100.0)]).rungs
        harmful = [r.mount for r in rungs if r.harms]
        self.assertEqual(harmful, ["t2"])
        self.assertEqual(rungs[-1].mount, "t2")

    def test_no_fan_is_no_ladder(self) -> None:
        self.assertEqual(answer([]).rungs, ())


class SinglesTest(SimpleTestCase):
    def test_free_changes_stand_first_and_each_does_what_it_says(self) -> None:
        raw = demo_raw()
        oracle = Oracle(check_job(raw).doc, Question(layouts=["A"]))
        found = worth(oracle, "A").singles
        order = [("free", "work", "money").index(s.asks) for s in found]
        self.assertEqual(order, sorted(order))
        self.assertTrue({"free", "work"} <= {s.asks for s in found})
        now = oracle.point("A")
        for s in found:
            with self.subTest(change=s.words):
                other = Oracle(with_layout(oracle.doc, LayoutDoc.model_validate(s.layout.model_dump(exclude_unset=True))), oracle.question)
                self.assertAlmostEqual(other.point("A").cpu_rise_k - now.cpu_rise_k, s.cpu_k, delta=0.05)
                self.assertTrue(s.asks != "free" or (s.minutes < 5 and s.cost == 0))

    def test_a_fan_that_has_to_be_bought_is_money_and_one_on_hand_is_work(self) -> None:
        raw = demo_raw()
        raw["stock"] = {"fans": {"tern-120": 99}}
        on_hand = worth(Oracle(check_job(raw).doc, Question(layouts=["A"])), "A").singles
        self.assertEqual({s.asks for s in on_hand if s.words.startswith("Put a Tern 120")}, {"work"})
        raw["stock"] = {"fans": {}}
        bought = worth(Oracle(check_job(raw).doc, Question(layouts=["A"])), "A").singles
        self.assertEqual({s.asks for s in bought if s.words.startswith("Put a ")}, {"money"})


class MishapTest(SimpleTestCase):
    def test_a_stopped_fan_in_words_and_figures(self) -> None:
        insight = Insight(Oracle(check_job(demo_raw()).doc, Question(layouts=["A"])))
        asked = TimeQuestion(minutes=90, events=[EventIn(minutes=45, kind="fan_stops", mount="r1")])
        told = insight.time(asked).mishap
        assert told
        rows = insight.time(asked).rows
        cpu = next(c for c in told.channels if c.channel == "cpu")
        self.assertAlmostEqual(cpu.after_c, rows[-1].cpu_c)
        self.assertGreater(cpu.after_c, cpu.before_c + 0.3)
        self.assertIn("R1", told.alarm)
        self.assertIn("tachometer", told.alarm)
        self.assertIsNone(told.limit_minutes)

    def test_a_part_that_has_to_give_up_power_is_named_with_the_minutes(self) -> None:
        raw = demo_raw()
        raw["parts"]["cpus"][0]["tj_max_c"] = 78
        asked = TimeQuestion(minutes=90, events=[EventIn(minutes=45, kind="room_warms", amount=25)])
        told = Insight(Oracle(check_job(raw).doc, Question(layouts=["A"]))).time(asked).mishap
        assert told and told.limit_minutes is not None
        self.assertEqual(told.limited, "the processor")
        self.assertTrue(0 < told.limit_minutes < 45)

    def test_without_a_mishap_there_is_none(self) -> None:
        self.assertIsNone(Insight(Oracle(check_job(demo_raw()).doc, Question(layouts=["A"]))).time(TimeQuestion(minutes=30)).mishap)
