"""Layouts ordered by what matters to a person, and the band of pressure they set."""

from typing import Any

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.forecast.practice import Candidate, ranked
from desk.forecast.sheet import ranking
from documents.job.models import PrioritiesDoc
from documents.job.reader import check_job
from engine.verdict.choose import RESULT, STEP
from tests.machines import demo_raw, layout_raw

NOTHING = dict.fromkeys(PrioritiesDoc.model_fields, 0.0)


def weights(**given: float) -> PrioritiesDoc:
    return PrioritiesDoc.model_validate(NOTHING | given)


COOL = Candidate("cool", {"cpu": 40.0, "card": 45.0, "noise": 38.0, "cost": 80.0})
QUIET = Candidate("quiet", {"cpu": 50.0, "card": 50.0, "noise": 32.0, "cost": 40.0})
WORSE = Candidate("worse", {"cpu": 52.0, "card": 51.0, "noise": 33.0, "cost": 41.0})


class RankingTest(SimpleTestCase):
    def test_burden_by_hand(self) -> None:
        # Quiet is 10 K = 2 steps warmer with weight 3, cool is 6 dB = 2 steps louder with weight 1.
        rows = ranked([COOL, QUIET], weights(cpu=3, noise=1))
        self.assertEqual([(r.layout, r.burden) for r in rows], [("cool", 2.0), ("quiet", 6.0)])

    def test_the_order_turns_with_the_weights(self) -> None:
        self.assertEqual(ranked([COOL, QUIET], weights(cpu=5, noise=1))[0].layout, "cool")
        self.assertEqual(ranked([COOL, QUIET], weights(cpu=1, noise=5))[0].layout, "quiet")

    def test_what_does_not_matter_is_left_out_and_what_not_all_have_too(self) -> None:
        no_card = Candidate("none", {"cpu": 30.0, "noise": 30.0, "cost": 1.0})
        rows = ranked([COOL, no_card], weights(card=5, noise=1))
        self.assertEqual({s.thing for s in rows[0].shares}, {"noise"})
        self.assertEqual({r.burden for r in ranked([COOL, QUIET], weights())}, {0.0})

    def test_a_layout_worse_in_everything_is_named_as_beaten(self) -> None:
        rows = {r.layout: r.beaten_by for r in ranked([COOL, QUIET, WORSE], weights(cpu=1, card=1, noise=1, cost=1))}
        self.assertEqual(rows, {"cool": None, "quiet": None, "worse": "quiet"})

    def test_the_demo_job_s_order_follows_its_weights(self) -> None:
        first = {}
        for name, given in (("card", {"card": 5}), ("noise", {"noise": 5})):
            raw = demo_raw()
            raw["priorities"] = NOTHING | given
            rows = ranking(Oracle(check_job(raw).doc, Question()))
            self.assertEqual(len(rows), 4)
            values = [next(s.value for s in r.shares if s.thing == name) for r in rows]
            self.assertEqual(values, sorted(values))
            first[name] = rows[0].layout
        self.assertEqual(set(STEP) - set(PrioritiesDoc.model_fields), {RESULT})


class PressureBandTest(SimpleTestCase):
    def codes(self, practice: dict[str, Any] | None, **speeds: float) -> set[str]:
        raw = demo_raw()
        if practice is not None:
            raw["practice"] = practice
        for place in layout_raw(raw, "A")["fans"]:
            place["speed_pct"] = speeds.get(place["mount"], place["speed_pct"])
        found = Oracle(check_job(raw).doc, Question(layouts=["A"])).findings_doc().layouts[0].findings
        return {f.code for f in found}

    def test_a_band_is_held_and_no_band_says_nothing(self) -> None:
        self.assertNotIn("pressure_outside_band", self.codes(None, r1=100, f2=20, f3=20))
        self.assertIn("pressure_outside_band", self.codes({"pressure_low_m3h": 0}, r1=100, f2=20, f3=20))
        self.assertNotIn("pressure_outside_band", self.codes({"pressure_low_m3h": 0}, r1=30, f2=100, f3=100))
        self.assertIn("pressure_outside_band", self.codes({"pressure_high_m3h": 5}, r1=30, f2=100, f3=100))


class OpenBenchLayoutTest(SimpleTestCase):
    def test_a_layout_on_the_open_bench_is_the_coolest_beside_those_in_the_case(self) -> None:
        raw = demo_raw()
        raw["layouts"] += [{"id": "Z", "name": "open bench", "fans": [], "open_bench": True}]
        oracle = Oracle(check_job(raw).doc, Question())
        bench = oracle.forecast("Z")
        self.assertTrue(bench.converged)
        for other in ("A", "B"):
            self.assertLess(bench.cpu.rise_k, oracle.forecast(other).cpu.rise_k)
