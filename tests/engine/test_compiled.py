"""Machine code is kept by what a function does: nothing stale is run, and a comment compiles nothing."""

import textwrap
from typing import Any

from django.test import SimpleTestCase

from engine.compiled import Kept, meaning

SOURCE = """
from typing import NamedTuple
import numpy as np
LIMIT = 3.0
TABLE = np.array([1.0, 2.0])

class Room(NamedTuple):
    wide: float
    high: float

def helper(x):
    return x * LIMIT

def kernel(x, room: Room):
    # a remark
    y = helper(x) + TABLE[0]
    return y + room.wide + abs(x)
"""


def meant(*changes: tuple[str, str]) -> str:
    text = SOURCE
    for was, now in changes:
        assert was in text
        text = text.replace(was, now)
    space: dict[str, Any] = {"__name__": "made_up"}
    exec(compile(textwrap.dedent(text), "made_up.py", "exec"), space)
    return meaning(space["kernel"])


class MeaningTest(SimpleTestCase):
    def test_words_and_lines_change_nothing(self) -> None:
        same = meant()
        for change in (("# a remark", "# another, longer"), ("def helper", "\n\n\ndef helper"), ("def kernel(x, room: Room):", DOCUMENTED)):
            self.assertEqual(meant(change), same, change)

    def test_everything_that_changes_the_answer_does(self) -> None:
        changes = [
            ("LIMIT = 3.0", "LIMIT = 3.1"),  # a constant that a called function reads
            ("x * LIMIT", "x / LIMIT"),
            ("TABLE[0]", "TABLE[1]"),
            ("[1.0, 2.0]", "[1.5, 2.0]"),
            ("wide: float\n    high: float", "high: float\n    wide: float"),  # records are read by place
            ("abs(x)", "abs(-x)"),
        ]
        found = [meant(), *(meant(change) for change in changes)]
        self.assertEqual(len(set(found)), len(found))

    def test_a_kernel_that_reads_what_comes_later_is_refused(self) -> None:
        with self.assertRaisesMessage(NameError, "define it before the kernel"):
            meant(("def helper(x):\n    return x * LIMIT", ""))

    def test_the_engine_s_kernels_are_kept_so(self) -> None:
        from engine.coupled.march import march

        (impl,) = {march._cache._impl}  # type: ignore[attr-defined]
        self.assertIsInstance(impl.locator, Kept)
        self.assertIn(impl.locator.get_source_stamp()[:16], impl.filename_base)


DOCUMENTED = 'def kernel(x, room: Room):\n    """Now it says what it does."""'
