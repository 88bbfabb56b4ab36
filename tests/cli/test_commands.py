"""The commands that need no database: JSON alone on stdout, words on stderr, exit codes."""

import contextlib
import io
import json
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from django.test import SimpleTestCase

from cli.__main__ import MODULES, main, parser
from desk.forecast.document import Oracle, Question
from documents.job.reader import check_job
from engine.identity import ENGINE
from tests.machines import DEMO, LOGS, ROOT, demo_raw


def call(*argv: str) -> tuple[int, Any, str]:
    """Exit code, parsed JSON (None when nothing was printed), stderr."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = main(argv)
        except SystemExit as stop:
            code = int(stop.code or 0)
    return code, json.loads(out.getvalue()) if out.getvalue().strip().startswith("{") else None, err.getvalue()


class CommandsTest(SimpleTestCase):
    def test_forecast_is_the_engine_s(self) -> None:
        code, doc, _ = call("forecast", str(DEMO), "--layout", "B", "--against", "A", "--json")
        self.assertEqual(code, 0)
        same = Oracle(check_job(demo_raw()).doc, Question(layouts=["B"], against="A")).forecast_doc().layouts[0]
        self.assertEqual((doc["format"], doc["version"], doc["engine"]), ("oventa-forecast", 1, ENGINE.number))
        self.assertEqual(doc["layouts"][0]["cpu"]["rise_k"], same.cpu.rise_k)
        self.assertEqual(set(doc["layouts"][0]["air"]) >= {"front_c", "rear_c", "cpu_inlet_c", "card_inlet_c", "board_c", "spaces"}, True)

    def test_explain_and_air(self) -> None:
        code, doc, _ = call("explain", str(DEMO), "--layout", "C", "--figure", "coolant", "--json")
        self.assertEqual((code, doc["figure"], doc["steps"][-1]["what"]), (0, "coolant", "95 % band"))
        code, none, words = call("explain", str(DEMO), "--layout", "A", "--figure", "coolant")
        self.assertEqual((code, none), (2, None))
        self.assertIn("Use one of", words)
        code, doc, _ = call("air", str(DEMO), "--layout", "B", "--space", "up_front", "--json")
        self.assertEqual((code, doc["tracer"]["concentration"]["up_front"]), (0, 1.0))
        self.assertEqual(call("explain", str(DEMO), "--layout", "B")[0], 0)
        self.assertEqual(call("air", str(DEMO), "--layout", "B", "--space", "up_rear")[0], 0)
        self.assertEqual(call("warm")[0], 0)
        code, doc, _ = call("fit", str(DEMO), "--layout", "C", "--json")
        self.assertEqual((code, doc["lines"][0]["spare_mm"]), (0, 3))
        self.assertEqual(call("fit", str(DEMO), "--layout", "C")[0], 0)

    def test_findings(self) -> None:
        code, doc, _ = call("findings", str(DEMO), "--layout", "B", "--json")
        self.assertEqual(code, 0)
        self.assertEqual(doc["layouts"][0]["findings"][0]["code"], "intake_leaves_unused")

    def test_analyse_and_compare(self) -> None:
        code, doc, _ = call("analyse", str(LOGS / "heron-a-1.csv"), "--json")
        self.assertEqual((code, doc["settled"]), (0, True))
        code, doc, words = call("compare", str(LOGS / "heron-a-1.csv"), f"late={LOGS / 'heron-b-1.tsv'},{LOGS / 'heron-b-2.csv'}", "--json")
        self.assertEqual(code, 0)
        self.assertEqual({(p["a"], p["b"]) for p in doc["pairs"]}, {("A", "late")})
        self.assertIn("passed over", words)

    def test_bad_input_ends_with_2_and_says_where(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            bad = Path(folder) / "bad.json"
            bad.write_text('{"format": "oventa-job", "version": 1, "name": "x"}', encoding="utf-8")
            for argv, said in (
                (("forecast", "nowhere.json"), "nowhere.json"),
                (("forecast", str(bad)), "case: this field is missing"),
                (("forecast", str(DEMO), "--layout", "Q"), "no layout 'Q'"),
                (("forecast", str(DEMO), "--room", "400"), "out of range"),
                (("analyse", str(DEMO)), "file"),
                (("compare", str(LOGS / "heron-a-1.csv")), "nothing to compare"),
            ):
                with self.subTest(argv=argv):
                    code, doc, words = call(*argv, "--json")
                    self.assertEqual((code, doc), (2, None))
                    self.assertIn(said, words)

    def test_a_reader_that_has_seen_enough_gets_no_trace(self) -> None:
        words = [sys.executable, "-m", "cli", "analyse", str(LOGS / "heron-a-1.csv"), "--json"]
        process = subprocess.Popen(words, cwd=ROOT / "src", stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        assert process.stdout and process.stderr
        process.stdout.close()
        self.assertEqual(process.stderr.read(), "")
        process.stderr.close()
        self.assertEqual(process.wait(60), 0)

    def test_plain_words_without_json(self) -> None:
        self.assertEqual(call("forecast", str(DEMO))[0], 0)
        self.assertEqual(call("findings", str(DEMO))[0], 0)
        self.assertEqual(call("analyse", str(LOGS / "heron-a-1.csv"))[0], 0)
        with contextlib.redirect_stdout(io.StringIO()) as out, contextlib.redirect_stderr(io.StringIO()):
            main(["analyse", str(LOGS / "heron-a-short.csv")])
        card = next(line for line in out.getvalue().splitlines() if line.startswith("card_core_c"))
        self.assertRegex(card, r"K over room +going to 42\.\d ±\d\.\d K  \d+ to \d+ min more$")
        self.assertEqual(call("compare", str(LOGS / "heron-a-1.csv"), str(LOGS / "heron-b-2.csv"))[0], 0)

    def test_of_a_temperature_at_its_limit_no_word_is_said(self) -> None:
        with contextlib.redirect_stdout(io.StringIO()) as out, contextlib.redirect_stderr(io.StringIO()):
            main(["compare", str(LOGS / "heron-a-1.csv"), f"held={LOGS / 'heron-c-limited.csv'}"])
        lines = out.getvalue().splitlines()
        held = next(x for x in lines if ", cpu_package_c: " in x)
        self.assertIn("no word (held: the processor is at its limit; compare by power", held)
        self.assertFalse([x for x in lines if x.startswith("scatter") and "cpu_package_c" in x])


class LeanTest(SimpleTestCase):
    def test_a_command_loads_only_what_it_needs(self) -> None:
        """In a process of its own, since this one has loaded everything."""
        script = (
            "import runpy, sys\nsys.argv = ['oventa', *{!r}]\n"
            "try: runpy.run_module('cli', run_name='__main__')\nexcept SystemExit: pass\n"
            "print([m for m in {!r} if m in sys.modules], file=sys.stderr)"
        )
        never = ["pyvisa", "django", "scipy.stats", "scipy.optimize", "scipy.interpolate"]
        apart = {
            ("forecast", str(DEMO), "--json"): [*never, "scipy.linalg", "cffi", "engine.runs.settle"],
            ("analyse", str(LOGS / "heron-a-1.csv"), "--json"): [*never, "numba", "engine.coupled.kernel", "numpy.f2py", "numpy.testing"],
        }
        for argv, names in apart.items():
            done = subprocess.run([sys.executable, "-c", script.format(argv, names)], capture_output=True, text=True, check=True)
            self.assertEqual(done.stderr.splitlines()[-1], "[]", argv)

    def test_what_was_left_out_at_a_start_can_be_loaded_later(self) -> None:
        script = (
            "from cli import start\nstart.quickly('analyse')\nimport numpy as np\n"
            "print(np.testing.assert_allclose.__name__, np.f2py.__name__)"
        )
        done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.split(), ["assert_allclose", "numpy.f2py"])

    def test_without_a_command_all_are_named(self) -> None:
        named = parser().format_help()
        for names in MODULES.values():
            for name in names:
                self.assertIn(name, named)
