"""The data package opens with a general tool, and a zip that is not one is refused."""

import io
import json
import tempfile
import zipfile
from pathlib import Path

import frictionless
import numpy as np
from django.test import SimpleTestCase

from documents.errors import DocumentError
from documents.package.document import JOB, Package, PackedRun, open_package, write_package
from documents.runlog.reader import read_log
from engine.runs.series import RunLog
from tests.machines import demo_raw

LOG = RunLog(np.arange(40.0), {"cpu_package_c": np.linspace(30, 60, 40), "room_c": np.where(np.arange(40) % 4, np.nan, 21.5)})
PNG = b"\x89PNG\r\n\x1a\n" + bytes(60)


def package() -> Package:
    meta = {
        "layout": "A",
        "name": "A run 1",
        "state": "valid",
        "marks": [{"kind": "seen", "tag": "x", "at_s": 3, "picture": "pictures/1.png"}],
    }
    return Package(
        demo_raw(), [PackedRun(meta, LOG, {"settled": True}, {"pictures/1.png": PNG})], [{"layout": "A", "reason": "best", "margin_k": 1.5}]
    )


class PackageTest(SimpleTestCase):
    def test_a_general_tool_finds_nothing_wrong(self) -> None:
        """frictionless is the reference implementation of the Data Package description."""
        with tempfile.TemporaryDirectory() as folder:
            with zipfile.ZipFile(io.BytesIO(write_package(package()))) as file:
                file.extractall(folder)
            description = json.loads((Path(folder) / "datapackage.json").read_text(encoding="utf-8"))
            self.assertEqual([r["name"] for r in description["resources"]], ["job", "run-001", "analysis-001", "pictures-1"])
            table = next(r for r in description["resources"] if r["name"] == "run-001")
            report = frictionless.validate(frictionless.Resource.from_descriptor(table, basepath=folder))
            self.assertTrue(report.valid, report.flatten(["note", "message"]))
            with frictionless.Resource.from_descriptor(table, basepath=folder) as resource:
                rows = resource.read_rows()
            self.assertEqual((len(rows), float(rows[39]["cpu_package_c"]), rows[1]["room_c"]), (40, 60.0, None))

    def test_it_opens_again(self) -> None:
        opened = open_package(write_package(package()))
        self.assertEqual(opened.job, demo_raw())
        (run,) = opened.runs()
        assert run.text is not None
        np.testing.assert_allclose(read_log(run.text).log.channels["cpu_package_c"], LOG.channels["cpu_package_c"], atol=1e-3)
        self.assertEqual(run.pictures, {"pictures/1.png": PNG})
        self.assertEqual(run.said.name, "A run 1")
        self.assertEqual(opened.verdicts[0].reason, "best")

    def test_the_same_package_gives_the_same_files(self) -> None:
        one, two = (zipfile.ZipFile(io.BytesIO(write_package(package()))) for _ in range(2))
        self.assertEqual({n: one.read(n) for n in one.namelist()}, {n: two.read(n) for n in two.namelist()})

    def test_what_is_none_is_refused(self) -> None:
        def zipped(files: dict[str, bytes]) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(out, "w") as file:
                for name, data in files.items():
                    file.writestr(name, data)
            return out.getvalue()

        lacking = json.dumps(demo_raw() | {"runs": [{"layout": "A", "file": "runs/001.csv"}]}).encode()
        for data in (b"PK\x03\x04 cut short", zipped({}), zipped({JOB: b"{"}), zipped({JOB: b"[]"}), zipped({JOB: lacking})):
            with self.assertRaises(DocumentError) as caught:
                open_package(data)
            self.assertTrue(caught.exception.faults[0].do)
