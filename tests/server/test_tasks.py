"""Long work beside everything else: a job read from a package, a report made, what is wrong kept in words, nothing left behind."""

from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import FileResponse
from django.test import TestCase

from documents.package.document import write_package
from server.apps.bench.models import Run
from server.apps.jobs.models import Job
from server.apps.tasks import services
from server.apps.tasks.models import Task
from server.apps.verdicts.packing import pack
from tests.demo_rows import load_demo


class TasksCase(TestCase):
    job: Job
    package: bytes

    @classmethod
    def setUpTestData(cls) -> None:
        load_demo()
        cls.job = Job.objects.get(name="Watch-room plotter")
        cls.package = write_package(pack(cls.job))

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(TemporaryDirectory())) / "tasks"
        for where in ("server.apps.tasks.services.TASKS", "server.api.tasks.TASKS"):
            self.enterContext(mock.patch(where, self.folder))

    def hand_over(self, data: bytes, status: int = 202) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.client.post("/api/tasks/import", {"file": SimpleUploadedFile("evening.zip", data)})
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def files(self) -> list[str]:
        return sorted(p.name for p in self.folder.glob("*")) if self.folder.is_dir() else []


class ImportTest(TasksCase):
    def test_a_package_becomes_a_job_with_its_runs(self) -> None:
        begun = self.hand_over(self.package)
        told = self.client.get(f"/api/tasks/{begun['id']}").json()
        self.assertEqual((told["state"], told["name"], told["kind"]), ("done", "evening.zip", "import"))
        self.assertEqual(Run.objects.filter(job_id=told["made"]).count(), Run.objects.filter(job=self.job).count())
        self.assertGreater(told["done"], 3)
        self.assertEqual(self.files(), [])
        self.assertEqual(self.client.get("/api/tasks").json(), [])

    def test_what_is_no_package_is_told_at_once(self) -> None:
        told = self.hand_over(b"no zip at all", 422)
        self.assertIn("title", told)
        self.assertEqual((Task.objects.filter(kind="import").count(), self.files()), (0, []))

    def test_one_called_off_stores_nothing(self) -> None:
        before = Job.objects.count()
        asked = services.ask_import(self.package, "evening.zip")  # its callback waits for the commit, which never comes here
        self.assertEqual(len(self.files()), 1)
        self.assertEqual([t["name"] for t in self.client.get("/api/tasks").json()], ["evening.zip"])
        told = self.client.post(f"/api/tasks/{asked.pk}/cancel", content_type="application/json").json()
        self.assertEqual((told["state"], self.files()), ("cancelled", []))
        services.work(asked.pk)
        self.assertEqual(Job.objects.count(), before)

    def test_one_called_off_on_the_way_stores_nothing_either(self) -> None:
        before = Job.objects.count()
        asked = services.ask_import(self.package, "evening.zip")
        real = services._Counting.__call__

        def stop(counting: Any, done: int, total: int) -> None:
            if done == 2:
                services.cancel(asked)
            real(counting, done, total)

        with mock.patch.object(services._Counting, "__call__", stop):
            services.work(asked.pk)
        self.assertEqual(Task.objects.get(pk=asked.pk).state, "cancelled")
        self.assertEqual((Job.objects.count(), self.files()), (before, []))

    def test_what_a_stop_cut_short_is_read_after_the_start(self) -> None:
        asked = services.ask_import(self.package, "evening.zip")
        Task.objects.filter(pk=asked.pk).update(state="running", done=1)
        (self.folder / "orphan.zip").write_bytes(b"of nobody")
        self.assertEqual(services.take_up(), 1)
        self.assertEqual(Task.objects.get(pk=asked.pk).state, "done")
        self.assertEqual(self.files(), [])

    def test_a_file_that_is_gone_is_said(self) -> None:
        asked = services.ask_import(self.package, "evening.zip")
        for path in self.folder.glob("*"):
            path.unlink()
        services.work(asked.pk)
        told = self.client.get(f"/api/tasks/{asked.pk}").json()
        self.assertEqual(told["state"], "failed")
        self.assertIn("gone", told["fault"]["title"])


class ReportTest(TasksCase):
    def frozen(self) -> int:
        body = {"layout": "D", "reason": "coolest", "signed_by": "Ada", "settings": {}, "drawings": {}}
        answer = self.client.post(f"/api/jobs/{self.job.pk}/verdicts", body, content_type="application/json")
        self.assertEqual(answer.status_code, 201, answer.content[:400])
        return int(answer.json()["id"])

    def make(self, verdict: int) -> Any:
        with self.captureOnCommitCallbacks(execute=True):
            begun = self.client.post(f"/api/verdicts/{verdict}/report", content_type="application/json").json()
        return self.client.get(f"/api/tasks/{begun['id']}").json()

    def test_it_is_made_and_handed_over(self) -> None:
        verdict = self.frozen()
        told = self.make(verdict)
        self.assertEqual((told["state"], told["kind"]), ("done", "report"))
        answer = self.client.get(f"/api/tasks/{told['id']}/file")
        assert isinstance(answer, FileResponse)
        self.assertTrue(b"".join(answer.streaming_content).startswith(b"%PDF"))
        self.assertRegex(answer["Content-Disposition"], r'filename="watch-room-plotter-verdict-.*\.pdf"')
        again = self.make(verdict)
        self.assertNotEqual(again["id"], told["id"])
        self.assertEqual(len(self.files()), 1)  # the one before is gone

    def test_what_is_not_made_has_no_file(self) -> None:
        waiting = services.ask_report(self.job, self.frozen())
        self.assertEqual(services.ask_report(self.job, waiting.question["verdict"]).pk, waiting.pk)
        self.assertEqual(self.client.get(f"/api/tasks/{waiting.pk}/file").status_code, 404)
        self.assertEqual(self.client.get("/api/tasks/987654/file").status_code, 404)
        self.assertEqual(self.client.post("/api/verdicts/987654/report", content_type="application/json").status_code, 404)
