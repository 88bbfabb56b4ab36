"""Committed contracts equal what the code says; the demo loads once and is left alone."""

from django.core.management import call_command
from django.test import SimpleTestCase, TestCase

from server.api.main import api
from server.apps.bench.models import Run
from server.apps.bench.selectors import analysis_of
from server.apps.chores.management.commands.write_contracts import contracts
from server.apps.jobs.models import Job
from server.config.guard import BODILESS, JSON, body_types


class ContractsTest(SimpleTestCase):
    def test_openapi_and_schemas_are_as_committed(self) -> None:
        for path, text in contracts().items():
            with self.subTest(path=path.name):
                self.assertEqual(path.read_text(encoding="utf-8"), text, "run: python -m django write_contracts")


class DemoTest(TestCase):
    def test_demo_has_something_to_catch_and_loads_once(self) -> None:
        call_command("load_demo")
        call_command("load_demo")
        self.assertEqual(Job.objects.count(), 1)
        runs = {r.source_name.split(" ")[0]: analysis_of(r) for r in Run.objects.all()}
        self.assertFalse(runs["d-too-short.csv"].settled)
        self.assertTrue(runs["b-wrong-room.csv"].has("room_doubtful"))
        others = [name for name in runs if name not in ("d-too-short.csv", "b-wrong-room.csv")]
        self.assertTrue(all(runs[name].settled and not runs[name].flags for name in others))


class BodyTypesTest(SimpleTestCase):
    def test_the_door_knows_the_same_bodies_as_the_whole_description(self) -> None:
        whole = {
            (path, method): frozenset(operation.get("requestBody", {}).get("content") or (BODILESS, JSON))
            for path, operations in api.get_openapi_schema()["paths"].items()
            for method, operation in operations.items()
        }
        self.assertEqual(body_types(), whole)
        self.assertGreater(len({frozenset(x) for x in whole.values()}), 2)
