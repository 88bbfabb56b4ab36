"""Minutes by kind of change, learned from rebuilds: planted hands are found, breaks and waits are not taken for work."""

import numpy as np
from django.test import SimpleTestCase

from desk.job.difference import changes
from desk.plan.minutes import Gap, learned_minutes
from documents.job.models import JobDoc, LayoutDoc
from documents.job.reader import check_job
from engine.plan.rebuild import MINUTES, Kind, minutes_of
from tests.machines import demo_raw, fan_raw

MOUNTS = ("f1", "f2", "f3", "r1", "t1", "t2")


def drawn(rng: np.random.Generator) -> LayoutDoc:
    chosen = rng.choice(MOUNTS, rng.integers(2, 5), replace=False)
    return LayoutDoc.model_validate({"id": "X", "fans": [fan_raw(str(m), str(rng.choice(["intake", "exhaust"]))) for m in chosen]})


class MinutesTest(SimpleTestCase):
    doc: JobDoc

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.doc = check_job(demo_raw()).doc

    def gaps(self, own: dict[Kind, float], n: int, seed: int = 1, spread: float = 0.15) -> list[Gap]:
        rng = np.random.default_rng(seed)
        found: list[Gap] = []
        while len(found) < n:
            one, two = drawn(rng), drawn(rng)
            if steps := changes(self.doc, one, two):
                found.append(Gap(one, two, minutes_of(steps, MINUTES | own) * float(np.exp(rng.normal(0, spread)))))
        return found

    def test_planted_hands_are_found(self) -> None:
        told = learned_minutes(self.doc, self.gaps({"flip": 10.0, "put": 2.5}, 30))
        self.assertEqual(told.rebuilds, 30)
        by = {k.kind: k for k in told.kinds}
        self.assertAlmostEqual(by["flip"].minutes, 10.0, delta=2.0)
        self.assertAlmostEqual(by["put"].minutes, 2.5, delta=1.0)
        self.assertGreater(by["flip"].count, 5)
        self.assertEqual(by["flip"].usual, MINUTES["flip"])

    def test_usual_hands_are_left_as_they_are(self) -> None:
        for k in learned_minutes(self.doc, self.gaps({}, 30)).kinds:
            self.assertAlmostEqual(k.minutes, k.usual, delta=0.25 * k.usual + 0.5)

    def test_a_break_is_no_work(self) -> None:
        gaps = self.gaps({}, 20)
        slow = [Gap(g.before, g.after, g.minutes + (90 if i in (3, 11) else 2_000 if i == 5 else 0)) for i, g in enumerate(gaps)]
        for k in learned_minutes(self.doc, slow).kinds:
            self.assertLess(k.minutes, 1.8 * k.usual)

    def test_work_that_hides_in_a_wait_says_nothing(self) -> None:
        one, two = (LayoutDoc.model_validate({"id": "X", "fans": [fan_raw("f2", way)]}) for way in ("intake", "exhaust"))
        hidden = learned_minutes(self.doc, [Gap(one, two, 12.0, 12.0)] * 5)
        self.assertEqual((hidden.rebuilds, hidden.kinds), (5, []))

    def test_nothing_rebuilt_nothing_learned(self) -> None:
        one = LayoutDoc.model_validate({"id": "X", "fans": [fan_raw("f2", "intake")]})
        self.assertEqual(learned_minutes(self.doc, [Gap(one, one, 20.0)]).rebuilds, 0)
        self.assertEqual(learned_minutes(self.doc, []).kinds, [])
