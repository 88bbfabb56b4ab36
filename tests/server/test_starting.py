"""What a start brings in: the shipped library where it differs, the demo once, its runs after the first page."""

import json
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.http import Http404
from django.test import SimpleTestCase, TestCase

import tests.tools_path  # noqa: F401
from bench.serving import ROOT, Serving
from server import loading
from server.apps.chores import demo
from server.apps.jobs.models import Job
from server.apps.jobs.services import remove_job
from server.apps.library.models import LibraryCase, LibraryPart
from server.apps.library.services import load_shipped

SHIPPED = settings.ROOT / "demo" / "library"


class ServedTest(SimpleTestCase):
    def test_a_start_loads_nothing_slow_and_every_shape_can_be_built(self) -> None:
        """In a process of its own, as it is served: shapes are built when they are first asked for, so a wrong one would show late."""
        script = (
            "import sys, threading\nthreading.Thread.start = lambda self: None\n"
            "import server.config.asgi\n"
            "slow = ['scipy.stats', 'scipy.optimize', 'scipy.special', 'scipy.fft', 'icalendar', 'pyvisa', 'weasyprint']\n"
            "print([m for m in slow if m in sys.modules])\n"
            "from pydantic import BaseModel\n"
            "def below(c): return {c}.union(*map(below, c.__subclasses__()))\n"
            "ours = [c for c in below(BaseModel) if c.__module__.split('.')[0] in ('server', 'desk', 'documents', 'engine')]\n"
            "for c in ours: c.model_rebuild(raise_errors=True)\n"
            "print(len(ours), all(c.__pydantic_complete__ for c in ours))"
        )
        served = Serving().prepare()
        done = subprocess.run([sys.executable, "-c", script], cwd=ROOT, env=served.env, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        loaded, shapes = done.stdout.splitlines()
        self.assertEqual(loaded, "[]")
        count, built = shapes.split()
        self.assertGreater(int(count), 200)
        self.assertEqual(built, "True")


class LibraryTest(TestCase):
    def test_what_is_shipped_is_loaded_once_and_only_what_differs_again(self) -> None:
        self.assertGreater(load_shipped(SHIPPED), 50)
        with self.assertNumQueries(4):  # two reads and an empty transaction
            self.assertEqual(load_shipped(SHIPPED), 0)
        part, case = LibraryPart.objects.all()[0], LibraryCase.objects.all()[0]
        before = part.figures, case.name
        LibraryPart.objects.filter(pk=part.pk).update(figures={"id": "x"})
        LibraryCase.objects.filter(pk=case.pk).update(name="other")
        self.assertEqual(load_shipped(SHIPPED), 2)
        part.refresh_from_db()
        case.refresh_from_db()
        self.assertEqual((part.figures, case.name), before)

    def test_a_case_of_one_s_own_stays(self) -> None:
        load_shipped(SHIPPED)
        LibraryCase.objects.create(key="mine", name="mine", summary="", document={})
        load_shipped(SHIPPED)
        self.assertTrue(LibraryCase.objects.filter(key="mine").exists())


class DemoTest(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.record = Path(folder.name) / "demo.json"
        self.taken: list[str] = []
        self.said: list[str] = []
        self.fails_at: tuple[str, BaseException] | None = None
        for name in ("main_runs", "campaign_runs"):
            patched = mock.patch.object(demo, name, self.steps)
            patched.start()
            self.addCleanup(patched.stop)

    def steps(self, job: Job) -> Iterator[demo.Step]:
        for n in range(3):
            words = f"run {n}"

            def take(words: str = words) -> None:
                if self.fails_at and self.fails_at[0] == words:
                    raise self.fails_at[1]
                self.taken.append(f"{job.name} {words}")
                self.said.append(loading.words())

            yield words, take

    def start(self) -> None:
        own = demo.Demo(self.record)
        own.load_jobs()
        own.load_runs()

    def test_jobs_and_runs_come_once(self) -> None:
        self.start()
        self.assertEqual((Job.objects.count(), len(self.taken)), (5, 6))
        self.assertTrue(all("are being loaded" in words for words in self.said))
        self.assertEqual(loading.words(), "")
        self.start()
        self.assertEqual((Job.objects.count(), len(self.taken)), (5, 6))

    def test_a_start_that_was_cut_short_goes_on_where_it_was(self) -> None:
        self.fails_at = "run 1", KeyboardInterrupt()
        with self.assertRaises(KeyboardInterrupt):
            self.start()
        self.assertEqual((len(self.taken), loading.words()), (1, ""))
        self.fails_at = None
        self.start()
        self.assertEqual(len(set(self.taken)), len(self.taken))
        self.assertEqual(len(self.taken), 6)

    def test_what_somebody_removed_stays_away_and_stops_nothing(self) -> None:
        self.fails_at = "run 2", Http404()  # as of a job that is removed while its runs come in
        self.start()
        self.assertEqual((len(self.taken), loading.words()), (4, ""))
        self.assertNotIn(demo.ALL, [x for runs in json.loads(self.record.read_text()).values() for x in runs])
        remove_job(Job.objects.get(name="Lamp recorder").pk)
        remove_job(Job.objects.get(name="Fog-signal desk").pk)
        self.fails_at = None
        self.start()
        self.assertEqual((Job.objects.count(), len(self.taken)), (3, 5))

    def test_jobs_of_a_folder_that_had_them_before_are_left_alone(self) -> None:
        demo.make_job(demo.document(demo.MAIN))
        self.start()
        self.assertEqual([x for x in self.taken if x.startswith("Watch-room")], [])
