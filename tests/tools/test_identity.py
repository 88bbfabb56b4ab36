"""A number stands for one state of the code: whoever changes what the engine or the method does raises it."""

import json
import re

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401  (tools are no part of the application)
from engine.identity import ENGINE, METHOD, PRODUCT
from identity import HISTORY, faults, files, given, says, sources
from tests.held.figures import FILE
from tests.machines import ROOT

AGAIN = "raise its number in engine/identity.py, then: python tools/identity.py"


class NumbersTest(SimpleTestCase):
    def test_the_code_is_what_its_number_says(self) -> None:
        self.assertEqual(ENGINE.sources, sources("engine"), AGAIN)
        self.assertEqual(METHOD.sources, sources("method"), AGAIN)

    def test_the_last_number_given_is_this_one(self) -> None:
        history = json.loads(HISTORY.read_text(encoding="utf-8"))
        for part, own in (("engine", ENGINE), ("method", METHOD)):
            numbers = list(history[part])
            self.assertEqual(numbers[-1], own.number)
            self.assertEqual(history[part][own.number], own.sources)
            self.assertEqual(numbers, sorted(numbers, key=lambda n: [int(x) for x in n.split(".")]))
            self.assertEqual(len(set(history[part].values())), len(numbers), "a number was given without a change")

    def test_held_figures_were_made_under_these_numbers(self) -> None:
        held = json.loads(FILE.read_text(encoding="utf-8"))
        self.assertEqual((held["engine"], held["method"]), (ENGINE.number, METHOD.number), "python -m tests.held.figures")

    def test_one_version_of_the_product(self) -> None:
        project = (ROOT / "pyproject.toml").read_text(encoding="utf-8")
        self.assertEqual(re.findall(r'^version = "(.*)"', project, re.M), [PRODUCT])
        self.assertNotIn("version", json.loads((ROOT / "frontend" / "package.json").read_text(encoding="utf-8")))


class SaysTest(SimpleTestCase):
    CODE = 'LIMIT = 3\n\ndef f(x):\n    """What it is."""\n    return x + LIMIT\n'

    def test_a_line_counts_and_a_comment_does_not(self) -> None:
        self.assertEqual(says(self.CODE), says(self.CODE.replace("What it is", "Said better").replace("LIMIT = 3", "LIMIT = 3  # of old")))
        self.assertEqual(says(self.CODE), says(self.CODE.replace('    """What it is."""\n', "")))
        for was, now in (("LIMIT = 3", "LIMIT = 4"), ("x + LIMIT", "x - LIMIT"), ("def f", "def g")):
            self.assertNotEqual(says(self.CODE), says(self.CODE.replace(was, now)))

    def test_other_code_under_an_old_number_is_refused(self) -> None:
        now, history = {"engine": ("1.0.0", "aa")}, {"engine": {"1.0.0": "aa"}}
        self.assertEqual(faults(now, history, {"engine": "aa"}), [])
        self.assertIn("raise the number of ENGINE", faults(now, history, {"engine": "bb"})[0])
        self.assertEqual(faults({"engine": ("1.0.1", "aa")}, history, {"engine": "bb"}), [])

    def test_both_parts_have_their_modules(self) -> None:
        engine, method = ({f.as_posix().split("/src/")[1] for f in files(part)} for part in ("engine", "method"))
        self.assertIn("engine/parameters.py", engine)
        self.assertIn("engine/coupled/kernel.py", engine)
        self.assertTrue({"engine/runs/settle.py", "engine/verdict/compare.py", "desk/verdict/claim.py"} <= method)
        self.assertFalse(engine & method)

    def test_the_file_is_read_as_python_reads_it(self) -> None:
        text = (ROOT / "src" / "engine" / "identity.py").read_text(encoding="utf-8")
        self.assertEqual(given(text), {"engine": (ENGINE.number, ENGINE.sources), "method": (METHOD.number, METHOD.sources)})
