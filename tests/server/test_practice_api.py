"""Practice over HTTP: the answer is not handed out before it is given, scores are kept."""

import json
from typing import Any

from django.test import TestCase

from desk.practice.exercise import PLACED, exercise
from server.apps.build.models import Practised


class PracticeApiTest(TestCase):
    def post(self, path: str, body: Any, status: int = 200) -> Any:
        answer = self.client.post(path, json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def test_an_exercise_is_asked_hinted_answered_and_kept(self) -> None:
        asked = self.client.get("/api/practice/exercise", {"seed": 2, "level": 1}).json()
        made = exercise(2, 1)
        self.assertEqual(asked["faults"], len(made.answer))
        self.assertNotIn("answer", asked)
        self.assertNotIn("cooler", asked["document"]["layouts"][0])  # it is the base's, not none
        self.assertNotIn("findings", asked)
        hint = self.client.get("/api/practice/hint", {"seed": 2, "level": 1, "n": 0}).json()
        self.assertEqual(hint["words"], made.hints()[0])
        self.assertIn("no further", self.client.get("/api/practice/hint", {"seed": 2, "level": 1, "n": 20}).json()["words"])
        marks = [{"kind": k, "mount": next(iter(m)) if k in PLACED else None} for k, m in made.answer.items()]
        told = self.post("/api/practice/answer", {"seed": 2, "level": 1, "marks": marks, "hints": 1})
        self.assertTrue(told["solved"])
        self.assertLess(told["score"], 100)
        record = self.client.get("/api/practice/record").json()
        self.assertEqual((record[0]["level"], record[0]["done"], record[0]["solved"]), (1, 1, 1))
        self.assertEqual(Practised.objects.count(), 1)

    def test_what_is_out_of_range_is_refused(self) -> None:
        self.assertEqual(self.client.get("/api/practice/exercise", {"seed": 2, "level": 7}).status_code, 422)
        self.assertEqual(self.client.get("/api/practice/exercise", {"seed": -1}).status_code, 422)
        self.post("/api/practice/answer", {"seed": 2, "level": 1, "marks": [{"kind": "witchcraft"}]}, 422)

    def test_a_fan_is_drawn_and_told(self) -> None:
        drawn = self.client.get("/api/practice/drill", {"seed": 4}).json()
        self.assertTrue(drawn["svg"].startswith("<svg"))
        told = [self.post("/api/practice/drill", {"seed": 4, "towards_you": x}) for x in (True, False)]
        self.assertNotEqual(told[0]["right"], told[1]["right"])
