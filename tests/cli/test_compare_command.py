"""``./oventa compare`` as its contract says: every pair once, every shared channel, four words, confounders, repeats by name."""

import contextlib
import io
import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, ClassVar

import numpy as np
from django.test import SimpleTestCase
from jsonschema import Draft202012Validator

from cli.__main__ import main
from documents.runlog.writer import write_log
from engine.runs.series import RunLog
from tests.engine.test_runs import run_log

SCHEMA = json.loads((Path(__file__).resolve().parents[2] / "docs" / "formats" / "comparison.schema.json").read_text())


class CompareCommandTest(SimpleTestCase):
    folder: ClassVar[TemporaryDirectory[str]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.folder = TemporaryDirectory()
        for name, rise, seed in (("a1", 45.0, 1), ("a2", 45.3, 2), ("b1", 41.0, 3), ("b2", 41.2, 4), ("c1", 45.1, 5)):
            cls.write(name, run_log(rise, seed=seed))
        capped = run_log(40.0, seed=6)
        t = capped.elapsed_s
        more = {"cpu_package_c": np.minimum(capped.channels["cpu_package_c"], 55.0), "cpu_power_w": np.where(t < 500, 150.0, 120.0)}
        cls.write("capped", RunLog(t, {**capped.channels, **more}))
        noroom = run_log(45.0, seed=7)
        cls.write("noroom", RunLog(noroom.elapsed_s, {k: v for k, v in noroom.channels.items() if k != "room_c"}))

    @classmethod
    def tearDownClass(cls) -> None:
        cls.folder.cleanup()
        super().tearDownClass()

    @classmethod
    def write(cls, name: str, log: RunLog) -> None:
        (Path(cls.folder.name) / f"{name}.csv").write_text(write_log(log))

    def call(self, *given: str) -> tuple[int, str]:
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(io.StringIO()):
            code = main(["compare", *given])
        return code, out.getvalue()

    def files(self, *names: str) -> str:
        return ",".join(str(Path(self.folder.name) / f"{n}.csv") for n in names)

    def compared(self, *given: str) -> list[dict[str, Any]]:
        code, text = self.call(*given, "--json")
        self.assertEqual(code, 0)
        doc = json.loads(text)
        Draft202012Validator(SCHEMA).validate(doc)
        self.assertEqual((doc["format"], doc["version"]), ("oventa-comparison", 1))
        pairs: list[dict[str, Any]] = doc["pairs"]
        return pairs

    def test_every_pair_once_in_the_given_order(self) -> None:
        pairs = self.compared(f"A={self.files('a1', 'a2')}", f"B={self.files('b1', 'b2')}", f"C={self.files('c1')}")
        seen = [(p["a"], p["b"]) for p in pairs if p["channel"] == "cpu_package_c"]
        self.assertEqual(seen, [("A", "B"), ("A", "C"), ("B", "C")])
        self.assertEqual({p["channel"] for p in pairs}, {"cpu_package_c", "card_core_c"})
        own = next(p for p in pairs if (p["a"], p["b"], p["channel"]) == ("A", "B", "cpu_package_c"))
        self.assertAlmostEqual(own["difference_k"], -4.05, delta=0.2)
        self.assertEqual((own["word"], own["confidence_pct"]), ("better", 95.0))
        self.assertIn("repeats", own["scatter"])

    def test_fans_that_turned_otherwise_are_said_since_no_layout_says_that_it_was_meant(self) -> None:
        for name, speed, seed in (("slow", 1000.0, 11), ("fast", 1400.0, 12), ("still", 0.0, 13), ("like", 1020.0, 14)):
            own = run_log(45.0, seed=seed)
            self.write(name, RunLog(own.elapsed_s, {**own.channels, "fan_f1_rpm": np.full(len(own.elapsed_s), speed)}))
        for other, words in (("fast", "at 1400 rpm in B"), ("still", "at 0 rpm in B"), ("like", ""), ("a1", "")):
            with self.subTest(other=other):
                for p in self.compared(f"A={self.files('slow')}", f"B={self.files(other)}"):
                    told = [x for x in p["confounders"] if "F1 turned" in x]
                    self.assertEqual(len(told), 1 if words and p["channel"].endswith("_c") else 0, p)
                    self.assertTrue(all(words in x for x in told), told)

    def test_the_prior_is_said_and_a_wider_margin_tells_more(self) -> None:
        own = self.compared(self.files("a1"), self.files("c1"))
        self.assertIn("stated prior of 0.45 K", own[0]["scatter"])
        self.assertEqual(own[0]["word"], "cannot_tell")
        self.assertGreater(own[0]["tell"]["repeats"], 1)
        self.assertEqual(self.compared(self.files("a1"), self.files("c1"), "--margin-k", "4")[0]["word"], "no_difference")

    def test_a_capped_run_is_judged_by_its_power(self) -> None:
        pairs = {p["channel"]: p for p in self.compared(self.files("a1"), self.files("capped"))}
        self.assertEqual(pairs["cpu_package_c"]["word"], "cannot_tell")
        self.assertTrue(pairs["cpu_package_c"]["at_limit"])
        self.assertIn("compare by power", "; ".join(pairs["cpu_package_c"]["confounders"]))
        self.assertIn("cpu_power_w", pairs)

    def test_a_run_without_a_room_is_not_judged(self) -> None:
        own = self.compared(self.files("a1"), self.files("noroom"))[0]
        self.assertEqual((own["word"], own["difference_k"]), ("cannot_tell", None))
        self.assertIn("no room temperature", "; ".join(own["confounders"]))

    def test_lines_for_people_and_bad_input(self) -> None:
        code, text = self.call(f"quiet={self.files('a1', 'a2')}", f"cool={self.files('b1', 'b2')}")
        self.assertEqual(code, 0)
        self.assertRegex(text, r"cool against quiet, cpu_package_c: better -4\.\d ±\d\.\d K\b")
        self.assertNotIn("-0.0", text)
        _, text = self.call(self.files("a1"), self.files("capped"))
        self.assertRegex(text, r"cpu_power_w: [a-z ]+ [+-]\d+ ±\d+ W\b", "watts have no tenths")
        self.assertEqual(self.call(self.files("a1"))[0], 2)
        self.assertEqual(self.call(self.files("a1"), self.files("nothing"))[0], 2)
