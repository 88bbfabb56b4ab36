"""No page of another site may change anything: every changing operation of the description, in every way a browser can be made to ask."""

import json
import re
from typing import Any

from django.conf import settings
from django.test import TestCase

from server.apps.bench.models import Bench, Run
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from tests.demo_rows import load_demo

DESCRIPTION = json.loads((settings.ROOT / "docs" / "api" / "openapi.json").read_text(encoding="utf-8"))
HERE = "http://testserver"
FOREIGN: tuple[dict[str, str], ...] = (
    {"HTTP_ORIGIN": "https://elsewhere.example"},
    {"HTTP_ORIGIN": "null"},
    {"HTTP_ORIGIN": "http://testserver:3000"},
    {"HTTP_ORIGIN": "https://testserver"},
    {"HTTP_ORIGIN": "http://testserver.elsewhere.example"},
    {"HTTP_SEC_FETCH_SITE": "cross-site"},
    {"HTTP_SEC_FETCH_SITE": "same-site"},
    {"HTTP_SEC_FETCH_SITE": "cross-site", "HTTP_ORIGIN": HERE},
    {"HTTP_REFERER": "https://elsewhere.example/page"},
    {"HTTP_REFERER": "http://["},
)
BODIES = {
    "application/json": "{}",
    "text/plain": '{"name": "x"}',
    "application/x-www-form-urlencoded": "name=x",
    "multipart/form-data; boundary=b": '--b\r\nContent-Disposition: form-data; name="name"\r\n\r\nx\r\n--b--\r\n',
    "application/jsonx": "{}",
    "": "{}",
}


def changing() -> list[tuple[str, str, set[str]]]:
    """(method, path, declared types) of every operation that may change something."""
    found = []
    for path, operations in DESCRIPTION["paths"].items():
        for method, given in operations.items():
            if method != "get":
                found.append((method, re.sub(r"\{[a-z_]+\}", "1", path), set(given.get("requestBody", {}).get("content", {}))))
    return found


class DoorTest(TestCase):
    def setUp(self) -> None:
        load_demo()
        self.bench = Bench.objects.create(name="one", token_hash="x")

    def ask(self, method: str, path: str, body: str, kind: str, headers: Any) -> Any:
        return self.client.generic(method.upper(), path, body, content_type=kind, **headers)

    def state(self) -> Any:
        return [list(m.objects.order_by("pk").values()) for m in (Job, Run, Bench, Verdict)]

    def test_every_changing_operation_refuses_what_is_foreign(self) -> None:
        before = self.state()
        operations = changing()
        self.assertGreaterEqual(len(operations), 46)
        for method, path, declared in operations:
            kind = next(iter(declared), "application/json")
            for headers in FOREIGN:
                answer = self.ask(method, path, "{}", kind, headers)
                self.assertEqual(answer.status_code, 403, (method, path, headers, answer.content[:200]))
                self.assertEqual(answer.json()["code"], "foreign_request")
                self.assertTrue(answer.json()["faults"][0]["do"])
        self.assertEqual(self.state(), before)

    def test_a_body_of_another_type_is_refused(self) -> None:
        before = self.state()
        for method, path, declared in changing():
            allowed = declared or {"application/json", ""}
            for kind, body in BODIES.items():
                if kind.split(";")[0] in allowed:
                    continue
                answer = self.ask(method, path, body, kind, {})
                self.assertEqual(answer.status_code, 415, (method, path, kind, answer.content[:200]))
                self.assertIn("Send", answer.json()["faults"][0]["do"])
        self.assertEqual(self.state(), before)

    def test_the_application_itself_and_programs_are_let_in(self) -> None:
        own: tuple[dict[str, str], ...] = (
            {"HTTP_ORIGIN": HERE, "HTTP_SEC_FETCH_SITE": "same-origin"},
            {"HTTP_REFERER": f"{HERE}/jobs/1/bench"},
            {},
        )
        for method, path, declared in changing():
            for headers in own:
                kind = next(iter(declared), "application/json")
                kind += "; boundary=b" if kind.startswith("multipart") else ""
                missing = path.replace("/1", "/987654")
                answer = self.ask(method, missing, BODIES.get(kind, "{}"), kind, headers)
                self.assertNotIn(answer.status_code, (403, 415), (method, path, headers))

    def test_a_foreign_page_cannot_set_this_to_work_or_show_it_inside(self) -> None:
        job = Job.objects.order_by("pk")[0].pk
        for path in (f"/api/jobs/{job}/package.zip", "/api/jobs", f"/api/jobs/{job}/comparison"):
            for site in ("cross-site", "same-site"):
                answer = self.client.get(path, HTTP_SEC_FETCH_SITE=site, HTTP_SEC_FETCH_MODE="no-cors")
                self.assertEqual(answer.status_code, 403, path)
            by_a_link = self.client.get(path, HTTP_SEC_FETCH_SITE="cross-site", HTTP_SEC_FETCH_MODE="navigate")
            self.assertEqual(by_a_link.status_code, 200, path)
            self.assertEqual(by_a_link["Cross-Origin-Resource-Policy"], "same-origin")
        self.assertIn("frame-ancestors 'none'", self.client.get("/")["Content-Security-Policy"])

    def test_another_name_for_this_machine_is_refused(self) -> None:
        """A site whose name is made to point here sends its own name."""
        for host in ("elsewhere.example", "elsewhere.example:8417", "127.0.0.1.elsewhere.example"):
            answer = self.client.post("/api/jobs", '{"name": "x"}', content_type="application/json", HTTP_HOST=host)
            self.assertEqual(answer.status_code, 400, host)
        self.assertEqual(Job.objects.filter(name="x").count(), 0)
