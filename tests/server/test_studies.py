"""Studies as pieces of long work: made by a process of their own, called off, taken up again, the same seed the same page."""

import json
import threading
import time
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.test import SimpleTestCase, TestCase

from desk.search.looking import CancelledError
from desk.words.studies import STUDIES
from engine.errors import OventaError
from server.apps.tasks import services
from server.apps.tasks.models import Task
from server.apps.tasks.studies import run_study

MADE = {"page": "# It holds", "missed": False, "seconds": 1.0, "engine": "0", "method": "0"}


class AskedTest(TestCase):
    def ask(self, status: int = 202, **more: Any) -> Any:
        body = json.dumps({"name": "practice", "count": 1} | more)
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.client.post("/api/studies", body, content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def told(self, name: str = "practice") -> Any:
        return next(x for x in self.client.get("/api/studies").json() if x["name"] == name)

    def test_every_study_is_told_before_one_is_made(self) -> None:
        self.assertEqual([x["name"] for x in self.client.get("/api/studies").json()], list(STUDIES))
        self.assertEqual((self.told()["task"], self.told()["made"]), (None, None))
        for name in STUDIES:
            self.assertIn("# Evidence", self.told(name)["published"])

    def test_what_it_found_stands_with_its_seed_and_says_when_other_code_made_it(self) -> None:
        with patch.object(services, "run_study", return_value=dict(MADE)):
            self.ask(seed=7)
        made = self.told()["made"]
        self.assertEqual((made["page"], made["seed"], made["count"], made["outdated"]), ("# It holds", 7, 1, True))

    def test_how_far_it_is_is_told_and_one_that_is_called_off_ends(self) -> None:
        seen: list[bool] = []

        def study(_name: str, _count: int, _seed: int, said: Any) -> Any:
            seen.append(said(3, 8))
            task = Task.objects.get(kind="study")
            self.assertEqual((task.done, task.total), (3, 8))
            services.cancel(task)
            seen.append(said(4, 8))
            raise CancelledError("called off", "study", "Ask again.")

        with patch.object(services, "run_study", study):
            asked = self.ask()
        self.assertEqual(seen, [True, False])
        self.assertEqual(self.client.get(f"/api/tasks/{asked['id']}").json()["state"], "cancelled")
        self.assertIsNone(self.told()["task"])

    def test_one_that_ends_badly_says_so(self) -> None:
        with patch.object(services, "run_study", side_effect=OventaError("it ended without a page", "practice", "Run it in a shell.")):
            self.ask()
        self.assertEqual(self.told()["task"]["fault"]["title"], "it ended without a page")

    def test_the_same_one_is_not_begun_twice_and_another_of_its_kind_takes_its_place(self) -> None:
        with patch.object(services, "_put"):
            first, again, other = self.ask(), self.ask(), self.ask(seed=2)
        self.assertEqual(first["id"], again["id"])
        self.assertNotEqual(first["id"], other["id"])
        self.assertEqual(Task.objects.get(pk=first["id"]).state, "cancelled")

    def test_what_cannot_be_made_is_refused_at_once(self) -> None:
        self.assertIn("no study", self.ask(422, name="luck")["title"])
        self.assertIn("too many", self.ask(422, count=STUDIES["practice"].most + 1)["title"])
        self.ask(422, count=0)
        self.assertEqual(Task.objects.count(), 0)


class ProcessTest(SimpleTestCase):
    """The real thing, small."""

    def test_the_same_seed_makes_the_same_page_and_leaves_the_documents_alone(self) -> None:
        page = settings.ROOT / "docs" / STUDIES["practice"].page
        before = page.read_bytes()
        far: list[tuple[int, int]] = []

        def told(done: int, of: int) -> bool:
            far.append((done, of))
            return True

        one = run_study("practice", 1, 3, told)
        two = run_study("practice", 1, 3, lambda _done, _of: True)
        self.assertEqual(one["page"], two["page"])
        self.assertIn("--practice 1 --seed 3", one["page"])
        self.assertGreater(max(of for _, of in far), 0)
        self.assertEqual(page.read_bytes(), before)

    def test_it_ends_when_it_is_called_off(self) -> None:
        begun = time.monotonic()
        with self.assertRaises(CancelledError):
            run_study("settle", 5000, 1, lambda _done, _of: time.monotonic() - begun < 2)
        self.assertLess(time.monotonic() - begun, 30)
        self.assertFalse([t for t in threading.enumerate() if t.name.startswith("study")])
