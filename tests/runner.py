"""Django's test runner, which also writes how many tests passed and failed, and how long each took."""

import logging
import os
import tempfile
import time
from pathlib import Path
from typing import Any

from django.db import connection
from django.test.runner import (  # type: ignore[attr-defined]  # the stubs lack the last
    DiscoverRunner,
    ParallelTestSuite,
    RemoteTestResult,
    RemoteTestRunner,
    _init_worker,
)
from django.test.utils import iter_test_cases  # type: ignore[attr-defined]  # the stubs lack it

from tests import long


class TimedResult(RemoteTestResult):
    """Appends ``seconds name`` of each test to the file named by OVENTA_TEST_TIMES, from whichever process it ran in."""

    def startTest(self, test: Any) -> None:  # noqa: N802 - the library's name
        self._begun_s = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: Any) -> None:  # noqa: N802
        super().stopTest(test)
        target = os.environ.get("OVENTA_TEST_TIMES")
        if target:
            with Path(target).open("a", encoding="utf-8") as out:
                out.write(f"{time.monotonic() - self._begun_s:.2f} {test.id()}\n")


class TimedRunner(RemoteTestRunner):
    resultclass = TimedResult


def journal_as_in_use() -> None:
    """Writers and readers of this process's database do not wait for each other, as in the running application."""
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA journal_mode=WAL")
    connection.close()


def _begin(*args: Any) -> None:
    _init_worker(*args)
    used_aliases = args[-1]
    if used_aliases:
        journal_as_in_use()


class TimedSuite(ParallelTestSuite):
    runner_class = TimedRunner
    init_worker = _begin


class CountingRunner(DiscoverRunner):
    """Writes ``passed failed`` to the file named by OVENTA_TEST_COUNTS. No test executed counts as a failure."""

    parallel_test_suite = TimedSuite

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        self.rows = tempfile.TemporaryDirectory()
        os.environ["OVENTA_TEST_ROWS"] = self.rows.name
        logging.getLogger("django.request").setLevel(logging.ERROR)  # refusals are what many tests are about

    def teardown_test_environment(self, **kwargs: Any) -> None:
        os.environ.pop("OVENTA_TEST_ROWS", None)
        self.rows.cleanup()
        super().teardown_test_environment(**kwargs)

    def load_tests_for_label(self, label: str, discover_kwargs: dict[str, Any]) -> Any:
        """Without what takes long where OVENTA_TEST_QUICK asks so."""
        found = super().load_tests_for_label(label, discover_kwargs)
        left_out = long.named() if os.environ.get("OVENTA_TEST_QUICK") else frozenset()
        return [test for test in iter_test_cases(found) if test.id() not in left_out] if left_out else found

    def setup_databases(self, **kwargs: Any) -> Any:
        for side in Path(connection.settings_dict["TEST"]["NAME"]).parent.glob("test*.sqlite3-*"):
            side.unlink()  # of a run that was broken off: it would be read into the new file
        found = super().setup_databases(**kwargs)
        if found and self.parallel == 1:
            journal_as_in_use()
        return found

    def run_checks(self, databases: Any) -> None:
        """Checks of the server load all of it; tests that use no database need none of it."""
        if databases:
            super().run_checks(databases)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        lost = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        target = os.environ.get("OVENTA_TEST_COUNTS")
        units = Path(f"{target}.units")  # tests of the front end that one case stands for
        more = int(units.read_text(encoding="utf-8")) - 1 if target and units.is_file() else 0
        passed = result.testsRun + more - lost - len(result.skipped)
        if target:
            Path(target).write_text(f"{passed} {lost or (0 if passed else 1)}", encoding="utf-8")
        return super().suite_result(suite, result, **kwargs)
