"""Laws of documents: written and read they stay what they were; there and back again is where one began."""

import copy
import json
from collections.abc import Iterator
from itertools import permutations
from pathlib import Path

import numpy as np
from django.test import SimpleTestCase

from demo import campaign
from desk.job.conditions import made_with
from desk.job.difference import changes, difference_in_words
from desk.verdict.chains import families, ladders
from desk.verdict.facts import all_changes
from documents.job.models import JobDoc
from documents.job.reader import check_job, read_job, write_job
from documents.runlog.reader import read_log
from documents.runlog.writer import write_log
from engine.plan.rebuild import minutes_of
from engine.runs.series import RunLog
from tests.machines import demo_raw

ROOT = Path(__file__).resolve().parents[2]
# Of the demo's layouts, as version 0.7 stored them with its runs: (layout, parts).
STORED_DIGESTS = {
    "A": ("75dbc5662b432ecc", "63916712cf97740b"),
    "B": ("0262baccdc0f0344", "63916712cf97740b"),
    "C": ("04316418896a5c39", "6457a43aaff3c57e"),
    "D": ("820e100e7b0b8f66", "6457a43aaff3c57e"),
}
DEMOS = sorted((ROOT / "demo").glob("*.oventa.json"))


def documents() -> Iterator[tuple[str, JobDoc]]:
    for path in DEMOS:
        yield path.stem, read_job(path.read_bytes()).doc
    yield campaign.NAME, campaign.document()


class JobLawsTest(SimpleTestCase):
    def test_reading_and_writing_is_lossless_and_settles_at_once(self) -> None:
        for name, doc in documents():
            text = write_job(doc)
            again = read_job(text.encode()).doc
            self.assertEqual(again, doc, name)
            self.assertEqual(write_job(again), text, name)

    def test_unknown_fields_survive_everywhere(self) -> None:
        for name, doc in documents():
            raw = json.loads(write_job(doc))
            raw["later"] = {"a": [1, 2]}
            raw["case"]["later"] = "x"
            raw["layouts"][0]["later"] = 3
            raw["layouts"][0]["fans"] = [f | {"later": True} for f in raw["layouts"][0].get("fans", [])]
            read = read_job(json.dumps(raw).encode())
            back = json.loads(write_job(read.doc))
            self.assertEqual(back, raw, name)
            self.assertIn("case.later", read.unknown_fields)

    def test_checking_does_not_change_what_it_is_given(self) -> None:
        for name, doc in documents():
            raw = json.loads(write_job(doc))
            before = copy.deepcopy(raw)
            check_job(raw)
            self.assertEqual(raw, before, name)


class DifferenceLawsTest(SimpleTestCase):
    def test_nothing_differs_from_itself(self) -> None:
        for _, doc in documents():
            for x in doc.layouts:
                self.assertEqual(difference_in_words(doc, x, x), [])
                self.assertEqual(minutes_of(changes(doc, x, x)), 0.0)

    def test_there_and_back_takes_as_many_changes(self) -> None:
        for name, doc in documents():
            for a, b in permutations(doc.layouts, 2):
                there, back = changes(doc, a, b), changes(doc, b, a)
                self.assertEqual(bool(there), bool(back), (name, a.id, b.id))
                # What was put is taken out on the way back, and what was moved is moved.
                for one, other in (("put", "take_out"), ("take_out", "put"), ("move", "move"), ("flip", "flip")):
                    count = sum(c.count for c in there if c.kind == one)
                    self.assertEqual(count, sum(c.count for c in back if c.kind == other), (name, a.id, b.id, one))

    def test_work_is_counted_for_every_change(self) -> None:
        for _, doc in documents():
            for a, b in permutations(doc.layouts, 2):
                done = changes(doc, a, b)
                if done:
                    self.assertGreater(minutes_of(done), 0)
                    self.assertLessEqual(max(minutes_of([c]) for c in done), minutes_of(done) + 1e-9)
                    self.assertTrue(all(c.words and c.to_do for c in done))

    def test_layouts_that_differ_are_told_apart_in_words(self) -> None:
        for name, doc in documents():
            for a, b in permutations(doc.layouts, 2):
                if a.model_dump(exclude={"id", "name", "note", "parent", "looks_score"}) != b.model_dump(
                    exclude={"id", "name", "note", "parent", "looks_score"}
                ):
                    self.assertTrue(difference_in_words(doc, a, b), (name, a.id, b.id))

    def test_families_hold_every_layout_once_and_ladders_none_twice(self) -> None:
        for _, doc in documents():
            names, differ = [x.id for x in doc.layouts], all_changes(doc, doc.layouts)
            found = families(names, differ)
            self.assertEqual(sorted(n for row in found for n in row), sorted(names))
            for row in ladders(names, differ):
                self.assertEqual(len(row), len(set(row)))
                self.assertGreater(len(row), 2)


class RunLogLawsTest(SimpleTestCase):
    def logs(self) -> Iterator[RunLog]:
        rng = np.random.default_rng(4)
        for i in range(8):
            n = int(rng.integers(20, 400))
            t = np.cumsum(rng.choice([0.5, 1.0, 2.0, 7.25], n))
            channels = {
                "cpu_package_c": np.round(rng.normal(60, 5, n), int(rng.integers(0, 4))),
                "room_c": np.round(22 + rng.normal(0, 0.1, n), 1),
                "fan_f1_rpm": np.round(rng.normal(1200, 20, n)),
                "sound_dba": np.round(rng.normal(33, 0.5, n), 1),
            }
            if i % 2:
                channels["cpu_package_c"][rng.random(n) < 0.1] = np.nan
            yield RunLog(t, channels)

    def test_a_log_written_and_read_is_the_same_to_the_thousandth(self) -> None:
        for log in self.logs():
            read = read_log(write_log(log).encode()).log
            self.assertEqual(list(read.channels), list(log.channels))
            np.testing.assert_allclose(read.elapsed_s - read.elapsed_s[0], log.elapsed_s - log.elapsed_s[0], atol=1e-3)
            for name, values in log.channels.items():
                np.testing.assert_allclose(read.channels[name], values, atol=1e-3)

    def test_read_and_written_again_it_is_the_same_text(self) -> None:
        for log in self.logs():
            once = write_log(read_log(write_log(log).encode()).log)  # times count from the first reading on
            self.assertTrue(write_log(read_log(once.encode()).log) == once)

    def test_delimiter_and_decimal_mark_change_nothing(self) -> None:
        for log in self.logs():
            text = write_log(log)
            head, *rows = text.splitlines()
            turned = "\n".join([head.replace(",", ";"), *(r.replace(".", "§").replace(",", ";").replace("§", ",") for r in rows)])
            one, two = read_log(text.encode()).log, read_log(turned.encode()).log
            for name in one.channels:
                np.testing.assert_allclose(one.channels[name], two.channels[name], atol=1e-9)


class SamePartsTest(SimpleTestCase):
    """Runs know the parts they were made with by a digest, also those that an older version stored."""

    def test_what_was_heard_or_learned_of_a_part_makes_no_other_part_of_it(self) -> None:
        raw = demo_raw()
        before = made_with(check_job(raw).doc, "A")
        for fan in raw["parts"]["fans"]:
            fan |= {"avoids": [{"from_rpm": 700, "to_rpm": 800}], "hums_from_rpm": 900, "hums_to_rpm": 950}
        self.assertEqual(made_with(check_job(raw).doc, "A"), before)
        raw["parts"]["fans"][0]["noise_dba"] += 1
        now = [made_with(check_job(raw).doc, x)["parts"] for x in "ABCD"]
        self.assertNotEqual(now, [made_with(check_job(demo_raw()).doc, x)["parts"] for x in "ABCD"])

    def test_digests_are_those_of_the_first_version_that_stored_them(self) -> None:
        """A field that is added to a part or a layout with a default must not change them: all runs would be of other machines."""
        found = {x: (made["layout"], made["parts"]) for x in "ABCD" if (made := made_with(check_job(demo_raw()).doc, x))}
        self.assertEqual(found, STORED_DIGESTS)
