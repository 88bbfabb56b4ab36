"""Learning and the next run from a data package: what is used, what is left aside, the documents' shapes, the command line."""

import io
import json
import zipfile
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from cli.__main__ import main
from cli.learn import learning_of
from desk.forecast.document import Oracle, Question
from desk.learn.document import LearnedOracle, Learning
from desk.learn.packaged import packed_runs
from desk.learn.readings import readings
from desk.next.document import Deciding, last_layout
from documents.errors import DocumentError
from documents.job.reader import check_job
from documents.package.document import Package, PackedRun, write_package
from engine.coupled.operating_point import loaded, operating_point
from engine.learn.next_run import State, Worth
from engine.machine import Machine
from instruments.standin import simulate
from tests.machines import demo_raw, layout_raw, machine
from tests.runs_made import layout


def packed(layouts: str = "ABC", repeats: int = 2, **said: Any) -> bytes:
    """A package of the demo job with made-up runs of some layouts."""
    runs = []
    for i, x in enumerate(layouts * repeats):
        log = simulate(loaded(machine(layout_id=x), "both"), 45, 10 + i, 6.0)
        meta = {"name": f"{x} {i}", "layout": x, "state": "valid", "load": "both", "made_at": f"2026-03-01T{8 + i:02d}:00:00Z", **said}
        runs.append(PackedRun(meta, log))
    return write_package(Package(demo_raw(), runs, []))


class PackagedTest(SimpleTestCase):
    data: bytes
    learning: Learning

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.data = packed()
        cls.learning = learning_of(packed_runs(cls.data))

    def test_what_was_run_is_learned_and_what_was_not_is_listed_too(self) -> None:
        doc = self.learning.document()
        self.assertEqual([x.id for x in doc.layouts], ["A", "B", "C", "D"])
        self.assertEqual(len(doc.runs_used), 6)
        for x in doc.layouts:
            assert x.card and x.unlearned.card
            self.assertLess(x.cpu.band_k, 0.6 * x.unlearned.cpu.band_k)
            self.assertEqual(x.measured is None, x.id == "D")
            if x.measured:
                self.assertEqual(x.measured.runs, 2)
                assert x.measured.cpu_rise_k is not None
                self.assertAlmostEqual(x.cpu.rise_k, x.measured.cpu_rise_k, delta=1.5)
                self.assertAlmostEqual(x.residual_k["cpu"], x.measured.cpu_rise_k - x.cpu.rise_k, places=6)
        gap = next(d for d in doc.differences if (d.a, d.b) == ("A", "D"))
        self.assertAlmostEqual(gap.cpu_k, doc.layouts[3].cpu.rise_k - doc.layouts[0].cpu.rise_k, places=6)
        self.assertLess(gap.cpu_band_k, doc.layouts[0].cpu.band_k + doc.layouts[3].cpu.band_k)
        self.assertEqual(doc.parameters[0].name, "cpu_path")

    def test_the_forecast_as_learned_keeps_its_form(self) -> None:
        plain = Oracle(self.learning.doc, Question(against="A")).forecast_doc()
        told = LearnedOracle(self.learning, Question(against="A")).forecast_doc()
        self.assertEqual(told.learned, 6)
        self.assertEqual([x.id for x in told.layouts], [x.id for x in plain.layouts])
        learned = self.learning.document("both")
        for x, own, before in zip(told.layouts, learned.layouts, plain.layouts, strict=True):
            self.assertAlmostEqual(x.cpu.rise_k, own.cpu.rise_k, places=6)
            self.assertAlmostEqual(x.cpu.temperature_c, x.cpu.rise_k + self.learning.doc.room.temperature_c, places=6)
            self.assertEqual(x.balance, before.balance)
            assert x.differences
            self.assertAlmostEqual(x.differences.cpu_k, own.cpu.rise_k - learned.layouts[0].cpu.rise_k, places=6)

    def test_another_case_is_refused(self) -> None:
        raw = demo_raw()
        raw["case"]["inner_mm"]["depth"] += 20
        with self.assertRaises(DocumentError):
            self.learning.about(check_job(raw).doc)

    def test_runs_that_say_nothing_are_left_aside_with_the_reason(self) -> None:
        void = learning_of(packed_runs(packed("A", 1, state="void", void_reason="wrong fan"))).document()
        self.assertEqual(void.runs_used, [])
        self.assertEqual([x.why for x in void.left_aside], ["wrong fan"])
        stray = learning_of(packed_runs(packed("A", 1, layout="Q"))).document()
        self.assertIn("not in the job", stray.left_aside[0].why)
        other = learning_of(packed_runs(packed("A", 1, load="idle")))
        self.assertEqual(other.usual_load, "idle")

    def test_results_count_for_what_is_next_as_they_do_in_the_verdict(self) -> None:
        """In the cost of a layout, by how far it lies short of the best; of one that was not run for them nothing is known but that."""
        found = [layout(n, 2, 0.1, cpu_package_c=50, score=s) for n, s in (("A", 20_000), ("B", 19_000), ("C", 18_000))]
        names = {("both", c.name): [f"{c.name} {i}" for i in range(2)] for c in found}
        results = readings(self.learning.doc, {"both": found}, names).results["both"]
        self.assertEqual({x: round(short, 6) for x, (short, _) in results.items()}, {"A": 0.0, "B": 5.0, "C": 10.0})
        plain, told = (
            Deciding(replace(self.learning, readings=replace(self.learning.readings, results=own)), 1.5) for own in ({}, {"both": results})
        )
        a_percent = told.weights["result"]
        self.assertAlmostEqual(a_percent, max(told.weights["cpu"], told.weights["card"]))  # 5 % are worth as much as 5 K
        added = (told.known.mean - plain.known.mean) / a_percent
        for i, short in enumerate((0.0, 5.0, 10.0, 5.0)):  # D was never run
            self.assertAlmostEqual(added[i], short, places=6)
        wider = np.diag(told.known.covariance - plain.known.covariance) / a_percent**2
        self.assertAlmostEqual(wider[3], 25.0, places=6)
        self.assertAlmostEqual(wider[1], results["B"][1] ** 2, places=6)
        self.assertGreater(told.known.noise_k[1], plain.known.noise_k[1])

    def test_next_asks_for_what_was_never_run(self) -> None:
        found = packed_runs(self.data)
        deciding = Deciding(self.learning, 1.5, now=last_layout(self.learning, found.by_time))
        self.assertEqual(deciding.now, "C")
        doc = deciding.document()
        self.assertEqual({s.layout: s.runs for s in doc.stands}, {"A": 2, "B": 2, "C": 2, "D": 0})
        self.assertFalse(doc.stop)
        self.assertEqual((doc.candidates[0].layout, doc.candidates[0].kind), ("D", "first"))
        self.assertIn("never run", doc.candidates[0].why)
        self.assertEqual(doc.rest[0], "D")
        self.assertGreater(doc.rest_minutes, 0)
        short = Deciding(self.learning, 1.5, hours=0.1).document()
        self.assertTrue(not any(c.fits for c in short.candidates))

    def test_a_repeat_is_not_argued_for_by_another_layout_that_was_never_run(self) -> None:
        class RepeatsFirst(Deciding):
            def _ordered(self, state: State) -> list[Worth]:
                return sorted(super()._ordered(state), key=lambda w: self.known.runs[w.layout] == 0)

        doc = RepeatsFirst(self.learning, 1.5).document()
        self.assertNotEqual(doc.candidates[0].kind, "first")
        self.assertRegex(
            doc.why, rf"^By your weights {doc.pick} leads, within .* would end it\. D was never run and may still be the best\.$"
        )
        self.assertEqual(Deciding(self.learning, 1.5).document().why, "D was never run and may still be the best.")

    def test_runs_that_count_for_nothing_are_not_said_to_be_none(self) -> None:
        """Of another load than the one that is decided by: nothing was changed, and they were run all the same."""
        doc = Deciding(learning_of(packed_runs(packed("A", 1, load="idle"))), 1.5, load="both").document()
        self.assertIn("No run that is in counts for the layouts as they are now.", doc.why)
        self.assertEqual({s.layout for s in doc.stands if s.uncounted}, {"A"})
        self.assertEqual({c.why.split(":")[0].split(",")[0] for c in doc.candidates if c.layout == "A"}, {"none of its runs counts"})

    def test_a_pick_of_one_run_is_run_again_and_no_chance_of_it_is_near_certain(self) -> None:
        doc = Deciding(learning_of(packed_runs(packed("ABCD", 1))), 1.5).document()
        self.assertEqual({s.runs for s in doc.stands}, {1})
        self.assertFalse(doc.stop)
        self.assertLess(max(doc.chance_pct, doc.within_margin_pct), doc.needed_pct)
        self.assertEqual((doc.candidates[0].layout, doc.rest), (doc.pick, [doc.pick]))
        self.assertIn(f"{doc.pick} leads, and was run once", doc.why)
        self.assertNotIn("%", doc.why)
        again = Deciding(learning_of(packed_runs(packed("ABCD", 2))), 12.0).document()
        self.assertTrue(again.stop, again.why)
        self.assertIn("with a chance of over 99 %", again.why)

    def test_before_the_first_run(self) -> None:
        doc = Deciding(learning_of(packed_runs(write_package(Package(demo_raw(), [], [])))), 1.5).document()
        self.assertIn("Nothing was run yet", doc.why)
        self.assertEqual({c.kind for c in doc.candidates}, {"first"})
        self.assertEqual([s for s in doc.stands if s.struck], [])


class UnlikeRunsTest(SimpleTestCase):
    """A run that was not as its layout asks is put to it; what a layout asks on purpose is left as it is."""

    def readings_of(self, raw: dict[str, Any], machines: dict[str, list[Machine]]) -> dict[str, list[float]]:
        runs = []
        for x, own in machines.items():
            for n, m in enumerate(own):
                meta = {"name": f"{x} {n}", "layout": x, "state": "valid", "load": "both"}
                runs.append(PackedRun(meta, simulate(loaded(m, "both"), 45, 30 + n, 6.0)))
        learning = learning_of(packed_runs(write_package(Package(raw, runs, []))))
        self.assertEqual(learning.learned.contradictions, [])
        found: dict[str, list[float]] = {}
        for r in learning.learned.readings:
            if r.part == "cpu":
                found.setdefault(r.layout, []).append(r.rise_k)
        return found

    def test_a_tenth_more_power_is_taken_away(self) -> None:
        a, b = machine(layout_id="A"), machine(layout_id="B")
        hot = replace(a, cpu=replace(a.cpu, power_w=1.1 * a.cpu.power_w))
        found = self.readings_of(demo_raw(), {"A": [a, hot], "B": [b, b]})
        builds = found["B"][1] - found["B"][0]  # the same seeds: what the stand-in's builds differ by
        self.assertAlmostEqual(found["A"][1] - found["A"][0], builds, delta=0.8)  # five kelvins more as it was read

    def test_a_power_that_a_layout_asks_for_is_no_deviation(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "B")["cpu_power_w"] = 80
        a, b = machine(raw, "A"), machine(raw, "B")
        found = self.readings_of(raw, {"A": [a, a], "B": [b]})
        self.assertLess(found["B"][0], found["A"][0] - 10)

    def test_a_fan_that_turned_slower_than_drawn_is_reckoned_with(self) -> None:
        a = machine(layout_id="A")
        slow = replace(a, fans=tuple(replace(f, speed_pct=0.5 * f.speed_pct) for f in a.fans))
        found = self.readings_of(demo_raw(), {"A": [slow], "B": [machine(layout_id="B")], "C": [machine(layout_id="C")]})
        right = operating_point(loaded(a, "both")).cpu_rise_k
        read = operating_point(loaded(slow, "both")).cpu_rise_k
        self.assertLess(abs(found["A"][0] - right), 0.5 * abs(read - right))


class CommandTest(SimpleTestCase):
    def _run(self, *argv: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main(argv)
        return code, out.getvalue(), err.getvalue()

    def test_learn_next_forecast_and_search_from_a_package(self) -> None:
        with TemporaryDirectory() as folder:
            package, job = Path(folder) / "p.zip", Path(folder) / "j.json"
            package.write_bytes(packed("ABD", 1))
            job.write_text(json.dumps(demo_raw()))
            code, out, _ = self._run("learn", str(package), "--json")
            learned = json.loads(out)
            self.assertEqual((code, learned["format"], learned["version"]), (0, "oventa-learning", 1))
            code, out, _ = self._run("next", str(package), "--margin-k", "2", "--json")
            self.assertEqual((code, json.loads(out)["format"], json.loads(out)["margin_k"]), (0, "oventa-next", 2.0))
            code, out, _ = self._run("forecast", str(job), "--learned", str(package), "--json")
            self.assertAlmostEqual(json.loads(out)["layouts"][2]["cpu"]["rise_k"], learned["layouts"][2]["cpu"]["rise_k"], places=4)
            code, out, _ = self._run("search", str(job), "--learned", str(package), "--max-dba", "34", "--most-fans", "3", "--json")
            found = json.loads(out)
            self.assertEqual((code, found["format"], found["exhaustive"], found["learned"]), (0, "oventa-search", True, 3))
            for command in (("learn", str(package)), ("next", str(package)), ("search", str(job), "--most-fans", "1")):
                self.assertEqual(self._run(*command)[0], 0)

    def test_bad_input(self) -> None:
        with TemporaryDirectory() as folder:
            bad = Path(folder) / "bad.zip"
            bad.write_bytes(b"PK\x03\x04 nothing")
            empty = Path(folder) / "empty.zip"
            with zipfile.ZipFile(empty, "w"):
                pass
            for argv in (
                ("learn", str(bad)),
                ("learn", str(empty)),
                ("learn", "/nowhere.zip"),
                ("next", str(bad)),
                ("search", "/nowhere.json"),
                ("search", str(bad)),
            ):
                code, out, err = self._run(*argv)
                self.assertEqual((code, out), (2, ""), argv)
                self.assertTrue(err)
