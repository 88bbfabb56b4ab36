"""What ``--quick`` leaves out: the tests that the list names, by their times in a whole run."""

import os
from unittest import TestCase, mock

from django.test import SimpleTestCase

from tests import long
from tests.runner import CountingRunner

OWN = "tests.tools.test_quick"


def names_of(labels: list[str]) -> list[str]:
    return [case.id() for case in CountingRunner(verbosity=0).build_suite(labels) if isinstance(case, TestCase)]


class LongTest(SimpleTestCase):
    def test_what_took_long_in_any_run_is_named_once(self) -> None:
        said = ((9.0, "tests.desk.a.B.d"), (long.LONG_S + 0.01, "tests.desk.a.B.c"), (8.0, "tests.desk.a.B.d"), (0.1, "tests.desk.a.B.e"))
        times = [*(f"{seconds:.2f} {name}\n" for seconds, name in said), "9.00 tests.browser.a.B.f\n", "\n"]
        self.assertEqual(long.long_ones(times), ["tests.desk.a.B.c", "tests.desk.a.B.d"])

    def test_the_list_names_tests_that_are_there(self) -> None:
        """A test that was renamed would be long again without anybody noticing; many at once mean an old list."""
        named = long.named()
        self.assertGreater(len(named), 50)
        modules = {name.rsplit(".", 2)[0] for name in named}
        with mock.patch.dict(os.environ, clear=False):
            os.environ.pop("OVENTA_TEST_QUICK", None)
            there = set(names_of(sorted(modules)))
        gone = sorted(named - there)
        self.assertLessEqual(len(gone), len(named) // 10, gone)

    def test_quick_leaves_them_out_and_nothing_else(self) -> None:
        def loaded(quick: str) -> list[str]:
            with mock.patch.dict(os.environ, {"OVENTA_TEST_QUICK": quick}), mock.patch.object(long, "named", return_value=frozenset([one])):
                return names_of([OWN])

        one = f"{OWN}.LongTest.test_what_took_long_in_any_run_is_named_once"
        everything = loaded("")
        self.assertIn(one, everything)
        self.assertEqual(set(everything) - set(loaded("1")), {one})
