"""What was once said and written stays: figures of every demo and reference job, and files of every version of every format."""

import json
from pathlib import Path

from django.test import SimpleTestCase, TestCase

from desk.verdict.record import read_record, record_in, stale
from documents.errors import DocumentError
from documents.job.reader import check_job, read_job
from documents.parts.files import read_case, read_parts
from documents.runlog.reader import read_log
from documents.upgrades import CURRENT, STEPS, upgraded
from engine.identity import METHOD
from server.apps.verdicts.packing import unpack
from server.apps.verdicts.selectors import standings
from tests.held.figures import FILE, moved, now

V1 = Path(__file__).with_name("v1")


class FiguresTest(SimpleTestCase):
    def test_nothing_moved_unnoticed(self) -> None:
        found = list(moved(json.loads(FILE.read_text(encoding="utf-8")), now()))
        self.assertEqual(found[:10], [], f"{len(found)} figures are others than before")

    def test_a_figure_that_moves_is_seen(self) -> None:
        was = json.loads(FILE.read_text(encoding="utf-8"))
        name, layouts = next(iter(was["forecasts"].items()))
        key = next(iter(layouts))
        other = json.loads(json.dumps(was))
        other["forecasts"][name][key]["cpu_k"] += 0.01
        other["verdict"]["best"] = "nobody"
        self.assertEqual(len(list(moved(was, other))), 2)


class OldFilesTest(TestCase):
    def test_a_job_of_version_1_opens(self) -> None:
        read = read_job((V1 / "job.oventa.json").read_bytes())
        self.assertEqual((read.doc.name, len(read.doc.layouts), read.unknown_fields), ("Held job of version 1", 3, ()))

    def test_parts_of_version_1_open(self) -> None:
        kinds = [set(read_parts((V1 / name).read_bytes(), name)) for name in ("parts.json", "parts.csv")]
        self.assertEqual(kinds[0], kinds[1])
        self.assertIn("fans", kinds[0])
        self.assertEqual(read_case((V1 / "job.oventa.json").read_bytes(), "job").case.inner_mm.depth, 420)

    def test_a_run_log_of_version_1_opens(self) -> None:
        log = read_log((V1 / "run.csv").read_bytes()).log
        self.assertIn("cpu_package_c", log.channels)
        self.assertGreater(log.duration_s, 1100)

    def test_a_record_of_version_1_opens_and_says_what_would_be_different(self) -> None:
        raw = record_in((V1 / "record.json").read_bytes())
        assert raw is not None
        record = read_record(raw)
        self.assertEqual((record.layout, record.method, record.engine, record.version), ("B", "1.0.0", "", 2))
        self.assertEqual(record.digest, raw["digest"])
        then = check_job(record.document).doc
        self.assertIn("the way of judging", stale(record, then, record.runs)[0])
        self.assertNotEqual(record.method, METHOD.number)

    def test_a_package_of_version_1_opens(self) -> None:
        job, unknown = unpack((V1 / "package.zip").read_bytes())
        self.assertEqual((job.name, job.runs.count(), job.verdicts.count(), unknown), ("Held job of version 1", 4, 1, ()))
        (standing,) = standings(job.pk)
        self.assertIn("the way of judging", standing.stale[0])
        self.assertTrue(standing.anew)


class UpgradesTest(SimpleTestCase):
    def test_each_older_version_has_its_step(self) -> None:
        for name, newest in CURRENT.items():
            for version in range(1, newest):
                self.assertIn((name, version), STEPS)

    def test_a_step_changes_nothing_that_it_was_given(self) -> None:
        old = {"format": "oventa-verdict-record", "version": 1, "method": 1}
        self.assertEqual(upgraded(old)["version"], 2)
        self.assertEqual(old["version"], 1)

    def test_newer_and_odd_versions_are_told(self) -> None:
        for version in (3, 0, None, "1", True, 1.5):
            with self.assertRaises(DocumentError) as caught:
                upgraded({"format": "oventa-verdict-record", "version": version})
            self.assertIn("is not one this program reads", str(caught.exception))
