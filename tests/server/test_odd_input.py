"""Hundreds of odd packages, records, documents and bodies: refused in words or taken whole, never an error of the server's own."""

import io
import json
import random
import resource
import zipfile
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase

from desk.verdict.record import digest_of
from documents.job.planned import from_template
from documents.package.document import JOB
from server.apps.bench.models import Mark, ReadingBlock, Run
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from tests.demo_rows import load_demo
from tests.machines import demo_raw
from tests.odd import files_of, odd_package, spoilt, text, zipped

PACKAGES, RECORDS, DOCUMENTS, BODIES = 120, 70, 90, 220
PNG = b"\x89PNG\r\n\x1a\n" + bytes(40)
SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect width="9" height="9"/></svg>'
COUNTED = (Job.everything, Run.objects, ReadingBlock.objects, Mark.objects, Verdict.objects)


def strictly(content: bytes) -> Any:
    """As a browser reads it: no number that is none."""

    def refuse(token: str) -> Any:
        raise AssertionError(f"{token} in an answer")

    return json.loads(content, parse_constant=refuse)


class OddCase(TestCase):
    def setUp(self) -> None:
        self.client: Client = Client(raise_request_exception=False)
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")
        keep = list(self.job.runs.order_by("id").values_list("pk", flat=True))[:3]
        Run.objects.exclude(pk__in=keep).delete()
        self.run_id = keep[0]
        Mark.objects.create(run_id=keep[0], kind="seen", tag="stagnant", at_s=60, picture=PNG, picture_type="image/png")
        Mark.objects.create(run_id=keep[1], kind="event", tag="opened", at_s=100, drop=True)
        frozen = self.send("post", f"/api/jobs/{self.job.pk}/verdicts", {"layout": "A", "reason": "so", "drawings": {"A": SVG}})
        self.assertEqual(frozen.status_code, 201, frozen.content[:300])
        self.verdict = frozen.json()["id"]

    def send(self, method: str, path: str, body: Any, **headers: Any) -> Any:
        data = body if isinstance(body, str) else json.dumps(body)
        call = getattr(self.client, method)
        return call(path, data.encode("utf-8", "surrogatepass"), content_type="application/json", **headers)

    def bring(self, data: bytes, name: str = "x.json") -> Any:
        return self.client.post("/api/jobs/import", {"file": SimpleUploadedFile(name, data)})

    def counts(self) -> list[int]:
        return [rows.count() for rows in COUNTED]

    def refused(self, answer: Any, what: str) -> None:
        self.assertLess(answer.status_code, 500, (what, answer.content[:500]))
        body = strictly(answer.content)
        self.assertTrue(body.get("faults"), (what, body))
        for fault in body["faults"]:
            self.assertTrue(fault["what"] and fault["do"], (what, fault))

    def opens(self, job_id: int, what: str) -> None:
        """Everything of a job that was taken in answers, and it can be removed again."""
        base = f"/api/jobs/{job_id}"
        for path in ("", "/runs", "/runs/unreadable", "/verdicts", "/comparison", "/drift", "/panel-costs", "/live"):
            answer = self.client.get(base + path)
            ends_well = answer.status_code == 200 or (path in ("/comparison", "/panel-costs", "/drift") and answer.status_code == 422)
            self.assertTrue(ends_well, (what, path, answer.status_code, answer.content[:400]))
            strictly(answer.content)
        document = self.client.get(base).json()["document"]
        for path, body in ((f"{base}/verdict", {}), ("/api/forecast", {"document": document}), ("/api/fit", {"document": document})):
            answer = self.send("post", path, body)
            self.assertLess(answer.status_code, 500, (what, path, answer.content[:400]))
            strictly(answer.content)
        for run in self.client.get(f"{base}/runs").json():
            for path in (f"/api/runs/{run['id']}/trace", f"/api/runs/{run['id']}/marks"):
                strictly(self.client.get(path).content)
        for verdict in self.client.get(f"{base}/verdicts").json():
            answer = self.client.get(f"/api/verdicts/{verdict['id']}/report.html")
            self.assertLess(answer.status_code, 500, (what, answer.content[:400]))
        self.assertEqual(self.client.get(f"{base}/package.zip").status_code, 200, what)
        self.assertEqual(self.client.get("/api/jobs").status_code, 200, what)
        self.assertEqual(self.client.delete(base).status_code, 204, what)

    def tried(self, data: bytes, what: str) -> bool:
        """Whether it was taken in; either way nothing is half done."""
        before = self.counts()
        answer = self.bring(data)
        if answer.status_code == 201:
            self.opens(answer.json()["id"], what)
            return True
        self.refused(answer, what)
        self.assertEqual(self.counts(), before, what)
        return False


class OddFilesTest(OddCase):
    def test_packages(self) -> None:
        files = files_of(self.client.get(f"/api/jobs/{self.job.pk}/package.zip").content)
        taken = 0
        for seed in range(PACKAGES):
            taken += self.tried(odd_package(random.Random(seed), files, JOB), f"package {seed}")
        self.assertTrue(0 < taken < PACKAGES * 0.6, taken)

    def test_records(self) -> None:
        raw = self.client.get(f"/api/verdicts/{self.verdict}/record.json").json()
        for seed in range(RECORDS):
            rng = random.Random(1000 + seed)
            made = spoilt(rng, raw)
            if isinstance(made, dict) and rng.random() < 0.7:
                made["digest"] = digest_of(made)  # whoever changes a record can also sign it anew
            self.tried(text(made).encode("utf-8", "surrogatepass"), f"record {seed}")

    def test_documents(self) -> None:
        for seed in range(DOCUMENTS):
            made = text(spoilt(random.Random(2000 + seed), demo_raw()))
            self.tried(made.encode("utf-8", "surrogatepass"), f"document {seed}")
            before = self.client.get(f"/api/jobs/{self.job.pk}").json()
            answer = self.send("put", f"/api/jobs/{self.job.pk}", f'{{"revision": {before["revision"]}, "document": {made}}}')
            if answer.status_code != 200:
                self.refused(answer, f"saved document {seed}")
                self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}").json(), before)
            else:
                self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}").status_code, 200)
                back = {"revision": before["revision"] + 1, "document": demo_raw()}
                self.assertEqual(self.send("put", f"/api/jobs/{self.job.pk}", back).status_code, 200)

    def test_a_small_zip_cannot_fill_the_memory(self) -> None:
        """One file named forty times, a file of a gigabyte in a few kilobytes, and sizes that are lies."""
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        run = {"layout": "A", "name": "x", "state": "valid", "file": "runs/001.csv"}
        log = b"elapsed_s,cpu_package_c\n" + b"0,30\n" * 8_000_000
        self.tried(zipped({JOB: json.dumps(demo_raw() | {"runs": [run] * 40}).encode(), "runs/001.csv": log}), "forty times")
        runs = [run | {"file": f"runs/{i}.csv"} for i in range(40)]
        many = {f"runs/{i}.csv": log for i in range(40)}
        self.tried(zipped({JOB: json.dumps(demo_raw() | {"runs": runs}).encode(), **many}), "forty large ones")
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file, file.open("runs/001.csv", "w", force_zip64=True) as large:
            for _ in range(300):
                large.write(bytes(1024 * 1024))
        with zipfile.ZipFile(out, "a", zipfile.ZIP_DEFLATED) as file:
            file.writestr(JOB, json.dumps(demo_raw() | {"runs": [run]}))
        self.assertFalse(self.tried(out.getvalue(), "300 MB of nothing"))
        grown_mb = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
        self.assertLess(grown_mb, 700)


class OddBodiesTest(OddCase):
    def test_bodies(self) -> None:
        bench = self.send("post", "/api/benches", {"name": "one"}).json()
        bearer = {"HTTP_AUTHORIZATION": f"Bearer {bench['token']}"}
        protocol = from_template("short").model_dump(mode="json")
        job = f"/api/jobs/{self.job.pk}"
        draft = self.send("post", f"{job}/live", {"bench": bench["id"], "layout": "A", "protocol": protocol}).json()["id"]
        microphone = {"distance_m": 0.7, "place": "seat", "background_after_dba": 28}
        change = {
            "room_c": 21.5,
            "window_s": 300,
            "state": "valid",
            "void_reason": "x",
            "name": "n",
            "layout": "A",
            "held": {"pump": "100 %"},
        }
        held = {"held": {"pump": "100 %"}}
        question = {"layouts": ["A"], "load": "both", "room_c": 22}
        readings = {
            "session": "s",
            "seq": 1,
            "elapsed_s": [0, 1, 2],
            "channels": {"cpu_package_c": [30, None, 31]},
            "rate": 1,
            "source": "x",
        }
        sent: list[tuple[str, str, Any]] = [
            ("patch", f"/api/runs/{self.run_id}", change | held | {"traits": ["delidded"], "background_dba": 28, "microphone": microphone}),
            (
                "patch",
                f"/api/live/{draft}",
                held | {"acknowledged": ["mains"], "room_c": 22, "armed": True, "loop_new": True},
            ),
            ("post", f"/api/benches/{bench['id']}/readings", readings),
            ("post", f"{job}/live", {"bench": bench["id"], "layout": "A", "protocol": protocol, "load": "both", "planned": ""}),
            ("patch", f"/api/marks/{Mark.objects.order_by('id')[0].pk}", {"text": "x", "until_s": 90, "drop": True}),
            ("post", f"/api/runs/{self.run_id}/readings", {"channel": "sound_dba", "value": 33.5, "sure": True, "point": "p"}),
            ("post", f"{job}/runs/by-hand", {"layout": "A", "minutes": 30, "readings": [{"channel": "score", "value": 100}], "room_c": 22}),
            ("post", f"{job}/verdict", {"settings": {"margin_k": 1.5, "weights": {"cpu": 1, "noise": 2}, "seed": 1}, "beside": []}),
            ("post", f"{job}/verdicts", {"layout": "A", "reason": "x", "signed_by": "y", "drawings": {"A": SVG}, "settings": {}}),
            ("post", "/api/forecast", {"document": demo_raw(), "question": question | {"against": "B"}, "with_findings": False}),
            (
                "post",
                "/api/forecast/time",
                {"document": demo_raw(), "question": question, "time": {"minutes": 5, "events": []}},
            ),
            ("post", "/api/forecast/quiet", {"document": demo_raw(), "question": question, "quiet": {"target_dba": 34, "together": True}}),
            ("post", "/api/plan/sheet", {"document": demo_raw(), "job": self.job.pk}),
            ("post", "/api/plan/runs", {"order": ["A", "B"], "protocol": protocol, "repeats": 1, "seed": 1}),
            ("post", "/api/jobs", {"name": "new", "case_key": None}),
            ("post", f"{job}/standin", {"layout": "Q", "rate": 10, "seed": 1, "faults": [{"kind": "none"}], "name": "x"}),
            ("post", f"/api/benches/{bench['id']}/readings/clear", {"older_than_h": 48}),
        ]
        for seed in range(BODIES):
            rng = random.Random(3000 + seed)
            method, path, body = sent[seed % len(sent)]
            answer = self.send(method, path, text(spoilt(rng, body, 1)), **bearer)
            what = f"body {seed}: {method} {path}"
            self.assertLess(answer.status_code, 500, (what, answer.content[:500]))
            if answer.status_code >= 400:
                self.refused(answer, what)
                if seed % 10:
                    continue  # what was refused changed nothing; looked at now and then all the same
            elif answer.content:
                strictly(answer.content)
            for look in (
                f"{job}/runs",
                f"{job}/live",
                f"/api/benches/{bench['id']}/live",
                f"/api/runs/{self.run_id}/marks",
                f"{job}/verdicts",
            ):
                seen = self.client.get(look)
                self.assertEqual(seen.status_code, 200, (what, look, seen.content[:300]))
                strictly(seen.content)

    def test_numbers_that_are_none_in_forms_and_addresses(self) -> None:
        for value in ("inf", "-inf", "nan", "1e999"):
            for field in ("at_s", "until_s", "x_mm", "z_mm"):
                answer = self.client.post(f"/api/runs/{self.run_id}/marks", {"kind": "note", "text": "x", field: value})
                self.refused(answer, f"{field} {value}")
            self.refused(self.client.get(f"/api/runs/{self.run_id}/trace?from_s={value}"), value)
            self.refused(self.client.get(f"/api/jobs/{self.job.pk}/comparison?margin_k={value}"), value)
        for address in ("/api/jobs/" + "9" * 30, "/api/runs/" + "9" * 400 + "/trace", f"/api/jobs/{2**63}", "/api/jobs/-1", "/api/jobs/x"):
            answer = self.client.get(address)
            self.assertIn(answer.status_code, (404, 422), address)

    def test_a_null_is_refused_where_there_must_be_a_value(self) -> None:
        for name in ("state", "void_reason", "name", "layout", "held", "traits", "microphone"):
            answer = self.send("patch", f"/api/runs/{self.run_id}", {name: None})
            self.assertEqual(answer.status_code, 422, name)
            self.assertIn(name, answer.json()["faults"][0]["what"])
        self.assertEqual(self.send("patch", f"/api/runs/{self.run_id}", {"room_c": None, "window_s": None}).status_code, 200)
