"""What a person's earlier repeats taught travels with a job: the verdict on another machine rests on the same."""

import io
import json
import zipfile
from typing import Any

from django.test import TestCase

from documents.errors import DocumentError
from documents.package.document import write_package
from server.apps.bench.models import Run
from server.apps.jobs.models import Job
from server.apps.verdicts.models import BroughtRepeat
from server.apps.verdicts.packing import pack, unpack
from server.apps.verdicts.selectors import earlier_gaps
from tests.demo_rows import load_demo


class BroughtTest(TestCase):
    """Two jobs of one person; the demo's runs stand for those of a real machine."""

    def setUp(self) -> None:
        load_demo()
        self.old = Job.objects.get(name="Watch-room plotter")
        Run.objects.filter(job=self.old).update(source_name="own.csv")
        self.new, _ = unpack(self.only(write_package(pack(self.old)), runs=1))
        self.told = sorted((g.channel, round(g.value, 9)) for g in earlier_gaps(self.new.pk))

    def only(self, data: bytes, runs: int) -> bytes:
        """The same job with few of its runs."""
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                content = old.read(name)
                if name == "job.oventa.json":
                    raw = json.loads(content)
                    raw["runs"], raw["name"], raw["verdicts"] = raw["runs"][:runs], "The next one", []
                    content = json.dumps(raw).encode()
                new.writestr(name, content)
        return out.getvalue()

    def verdict(self, job: Job) -> Any:
        answer = self.client.post(f"/api/jobs/{job.pk}/verdict", json.dumps({}), content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return answer.json()

    def test_repeats_are_packed_and_count_where_they_come_to(self) -> None:
        self.assertGreater(len(self.told), 0)
        data = write_package(pack(self.new))
        before = self.verdict(self.new)["earlier"]
        Job.objects.all().delete()
        here, _ = unpack(data)
        self.assertEqual(sorted((g.channel, round(g.value, 9)) for g in earlier_gaps(here.pk)), self.told)
        self.assertEqual(self.verdict(here)["earlier"], before)
        again, _ = unpack(write_package(pack(here)))  # and on to the next machine
        self.assertEqual(len(earlier_gaps(again.pk)), len(self.told))

    def test_each_counts_once_also_where_its_own_job_comes_along(self) -> None:
        data = write_package(pack(self.new))
        unpack(data)
        self.assertEqual(BroughtRepeat.objects.count(), len(self.told))
        self.assertEqual(sorted((g.channel, round(g.value, 9)) for g in earlier_gaps(self.new.pk)), self.told)
        self.assertEqual(earlier_gaps(self.old.pk), [])  # its own repeats are its own

    def test_a_job_in_the_bin_brings_nothing(self) -> None:
        brought, _ = unpack(write_package(pack(self.new)))
        self.old.delete()
        self.assertEqual(len(earlier_gaps(self.new.pk)), len(self.told))
        self.client.delete(f"/api/jobs/{brought.pk}")
        self.assertEqual(earlier_gaps(self.new.pk), [])

    def test_a_verdict_is_judged_anew_when_some_come(self) -> None:
        self.old.delete()
        plain = self.verdict(self.new)
        self.assertEqual(plain["earlier"], [])
        BroughtRepeat.objects.create(job=self.new, key="a", channel="cpu_package_c", kind="same", value=0.4)
        self.assertEqual(self.verdict(self.new)["earlier"][0]["count"], 1)

    def test_what_is_no_repeat_is_refused_whole(self) -> None:
        good = {"id": "a", "channel": "cpu_package_c", "kind": "same", "value": 0.4}
        jobs = Job.objects.count()
        for wrong in ({"value": 1e9}, {"value": "much"}, {"kind": "luck"}, {"id": ""}):
            packed = pack(self.new)
            bad = type(packed)(packed.job, packed.runs, packed.verdicts, earlier=[good | wrong])
            with self.subTest(wrong), self.assertRaises(DocumentError) as caught:
                unpack(write_package(bad))
            self.assertIn("earlier[0]", caught.exception.faults[0].path)
        self.assertEqual(Job.objects.count(), jobs)
