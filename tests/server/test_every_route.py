"""Every route of the description answers for what is not there, and refuses what cannot be read, with a problem document."""

import json
import re
from collections.abc import Mapping
from typing import Any, ClassVar
from unittest import mock

from django.conf import settings
from django.http import Http404
from django.test import TestCase

from documents.job.planned import from_template
from server.api.door import JOB_OF, OF_NO_JOB
from server.apps.bench.models import Mark, Run
from server.apps.build.models import UnitRun
from server.apps.jobs.models import Job
from server.apps.sounds.models import Clip, LevelReading
from server.apps.tasks.models import Task
from server.apps.verdicts.models import Verdict
from tests.demo_rows import load_demo

DESCRIPTION = json.loads((settings.ROOT / "docs" / "api" / "openapi.json").read_text(encoding="utf-8"))
NAMED = re.compile(r"\{[a-z_]+\}")


def routes(method: str) -> list[tuple[str, dict[str, Any]]]:
    return [(path, given[method]) for path, given in DESCRIPTION["paths"].items() if method in given]


def filled(path: str, names: Mapping[str, Any]) -> str:
    """A path with what there is in the place of its names."""
    return NAMED.sub(lambda m: str(names.get(m[0][1:-1], 1)), path)


class EveryRouteTest(TestCase):
    nothing: ClassVar[str] = "987654"

    def problem(self, answer: Any, path: str) -> dict[str, Any]:
        body: dict[str, Any] = answer.json()
        self.assertTrue(body.get("code") and body.get("faults"), (path, body))
        for fault in body["faults"]:
            self.assertTrue(fault["what"] and fault["do"], path)
        return body

    def there(self, run: Run) -> dict[str, Any]:
        """One of everything, of the job of a run: what a path may name."""
        mark = Mark.objects.create(run=run, at_s=10, kind="note", text="here")
        verdict = Verdict.objects.create(job=run.job, layout_key="A", reason="so", margin_k=1.5)
        task = Task.objects.create(job=run.job, kind="search")
        unit = UnitRun.objects.create(job=run.job, layout_key="A", serial="1", name="u", log=b"", result={})
        clip = Clip.objects.create(job=run.job, layout_key="A", name="c", file="none.wav", digest="", seconds=1.0)
        reading = LevelReading.objects.create(job=run.job, layout_key="A", purpose="equal", speed_pct=60, level_dba=34)
        return {
            "clip_id": clip.pk,
            "reading_id": reading.pk,
            "job_id": run.job_id,
            "run_id": run.pk,
            "mark_id": mark.pk,
            "verdict_id": verdict.pk,
            "task_id": task.pk,
            "unit_id": unit.pk,
            "index": 0,
        }

    def test_reading_what_is_there_never_fails_whatever_became_of_the_run(self) -> None:
        load_demo()
        whole = Run.objects.filter(rows__gt=0)[0]
        nothing: dict[str, Any] = {
            "job": whole.job,
            "layout": whole.layout,
            "layout_key": whole.layout_key,
            "rows": 0,
            "analysis": {},
            "duration_s": 0.0,
        }
        made = {
            "whole": whole,
            "being made": Run.objects.create(**nothing, name="a", state="draft", protocol=from_template("short").model_dump(mode="json")),
            "discarded at once": Run.objects.create(**nothing, name="b", state="void"),
            "damaged": Run.objects.create(**nothing | {"rows": 3, "analysis": {"channels": 3}}, name="c"),
        }
        given = self.there(whole)
        for what, run in made.items():
            names = {**given, "run_id": run.pk, "kind": "cpus", "layout": "A"}
            for path, described in routes("get"):
                if what != "whole" and "{run_id}" not in path:
                    continue
                answer = self.client.get(filled(path, names))
                with self.subTest(run=what, path=path):
                    self.assertLess(answer.status_code, 500)
                    if answer.status_code >= 400 and not any(
                        p.get("required") and p["in"] == "query" for p in described.get("parameters", [])
                    ):
                        self.problem(answer, path)
            if what == "whole":
                continue
            for method in ("post", "put", "patch", "delete"):
                for path, _ in routes(method):
                    if "{run_id}" in path:
                        answer = getattr(self.client, method)(filled(path, names), "{}", content_type="application/json")
                        with self.subTest(run=what, path=path, method=method):
                            self.assertLess(answer.status_code, 500)

    def test_reading_what_is_not_there_is_a_problem_that_says_so(self) -> None:
        asked = 0
        for path, _ in routes("get"):
            if not NAMED.search(path):
                continue
            answer = self.client.get(NAMED.sub(self.nothing, path))
            self.assertIn(answer.status_code, (401, 404, 422), path)
            self.problem(answer, path)
            asked += 1
        self.assertGreater(asked, 15)

    def test_lists_answer_on_an_empty_database(self) -> None:
        for path, given in routes("get"):
            needed = any(p.get("required") for p in given.get("parameters", []))
            if not NAMED.search(path) and not needed:
                self.assertEqual(self.client.get(path).status_code, 200, path)

    def test_bodies_that_are_no_json_are_refused(self) -> None:
        asked = 0
        for method in ("post", "put", "patch"):
            for path, given in routes(method):
                if "application/json" not in given.get("requestBody", {}).get("content", {}):
                    continue
                call = getattr(self.client, method)
                answer = call(NAMED.sub(self.nothing, path), "{no json", content_type="application/json")
                self.assertIn(answer.status_code, (400, 401, 404, 422), (method, path))
                asked += 1
        self.assertGreater(asked, 25)

    def test_bodies_of_another_shape_are_refused_with_their_place(self) -> None:
        for method in ("post", "put", "patch"):
            for path, given in routes(method):
                content = given.get("requestBody", {}).get("content", {}).get("application/json")
                if not content or "$ref" not in content["schema"]:
                    continue
                schema = DESCRIPTION["components"]["schemas"][content["schema"]["$ref"].rsplit("/", 1)[-1]]
                if not schema.get("required"):
                    continue
                answer = getattr(self.client, method)(NAMED.sub(self.nothing, path), "[]", content_type="application/json")
                self.assertIn(answer.status_code, (401, 404, 422), (method, path))
                self.problem(answer, path)

    def test_every_operation_has_a_name_of_its_own(self) -> None:
        names = [given["operationId"] for path in DESCRIPTION["paths"].values() for given in path.values()]
        self.assertEqual(len(names), len(set(names)))
        self.assertFalse([n for n in names if "server" in n], "named by hand, not by the module")

    def test_every_schema_that_is_named_is_there(self) -> None:
        text = json.dumps(DESCRIPTION)
        for name in set(re.findall(r"#/components/schemas/([A-Za-z0-9_\[\]]+)", text)):
            self.assertIn(name, DESCRIPTION["components"]["schemas"])

    def test_every_route_to_anything_of_a_job_goes_by_its_one_door(self) -> None:
        """A viewer who may not see a job gets at nothing of it, whatever the route and the verb."""
        load_demo()
        run = Run.objects.filter(rows__gt=0)[0]
        there = self.there(run)
        named = {name for path in DESCRIPTION["paths"] for name in re.findall(r"{([a-z_]+)}", path)}
        self.assertEqual(named - set(JOB_OF) - OF_NO_JOB, set(), "a path names something that the door does not know")
        tried = 0
        with mock.patch("server.api.door.job_for", side_effect=Http404) as asked:
            for path, verbs in DESCRIPTION["paths"].items():
                if not set(re.findall(r"{([a-z_]+)}", path)) & set(JOB_OF):
                    continue
                for verb in verbs:
                    before = asked.call_count
                    url = re.sub(r"{([a-z_]+)}", lambda m: str(there[m[1]]), path)
                    answer = self.client.generic(verb.upper(), url, "{}" if verb != "get" else "", content_type="application/json")
                    self.assertIn(answer.status_code, (404, 415), (verb, path))
                    self.assertTrue(asked.call_count > before or answer.status_code == 415, (verb, path))
                    tried += 1
        self.assertGreater(tried, 45)
        for words in (f"{run.job_id}.0", f"+{run.job_id}", f" {run.job_id}", f"{run.job_id}_", "-1", "x", "1e0"):
            self.assertEqual(self.client.get(f"/api/jobs/{words}").status_code, 404, words)
        self.assertEqual(Job.objects.get(pk=run.job_id).name, "Watch-room plotter")
