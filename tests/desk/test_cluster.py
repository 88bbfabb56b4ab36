"""A search on a cluster of two workers finds what it finds alone; what is wrong with a cluster is said."""

import json
import os
import sys
import time
from collections.abc import Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager
from pathlib import Path
from subprocess import DEVNULL, Popen
from tempfile import TemporaryDirectory
from unittest.mock import patch

from django.test import SimpleTestCase

from desk.learn.document import Learning
from desk.learn.readings import Readings
from desk.search.document import search
from desk.search.looking import Rows
from desk.search.question import SearchQuestion
from engine.errors import OventaError
from engine.learn.case import Reading
from tests.desk.test_search import job


def on(address: str) -> AbstractContextManager[object]:
    return patch.dict(os.environ, {"OVENTA_SCHEDULER": address})


@contextmanager
def cluster_of(workers: int) -> Iterator[str]:
    """The address of a scheduler with some workers: processes of their own, each with one thread."""
    with TemporaryDirectory() as folder, ExitStack() as running:
        card = Path(folder) / "scheduler.json"
        own = ["--scheduler-file", str(card), "--no-dashboard"]
        commands = [["scheduler", "--host", "127.0.0.1", "--port", "0"], *[["worker", "--no-nanny", "--nthreads", "1"]] * workers]
        for command in commands:
            process = Popen([sys.executable, "-m", "dask", *command, *own], cwd=folder, stdout=DEVNULL, stderr=DEVNULL)
            running.callback(process.wait, 20)
            running.callback(process.terminate)
        for _ in range(600):
            if card.exists() and card.stat().st_size:
                break
            time.sleep(0.05)
        yield str(json.loads(card.read_text(encoding="utf-8"))["address"])


class ClusterTest(SimpleTestCase):
    address: str

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.address = cls.enterClassContext(cluster_of(2))

    def test_two_workers_find_the_same(self) -> None:
        doc = job(4, {"tern-120": 3})
        told = [Reading(f"A{n}", "A", "both", "cpu", 62.0, 0.5) for n in range(2)]
        learning = Learning.of(doc, Readings(told, {}))
        asked = SearchQuestion(max_dba=36)
        said: list[int] = []

        def progress(done: int, total: int, _rows: Rows) -> None:
            said.append(done)
            self.assertLessEqual(done, total)

        alone = search(doc, asked, dots=True), search(doc, asked, learning)
        with on(self.address):
            found = search(doc, asked, dots=True, progress=progress), search(doc, asked, learning)
        for one, two in zip(alone, found, strict=True):
            self.assertEqual(one.model_dump(), two.model_dump())
        self.assertEqual(said, sorted(said))

    def test_a_search_that_does_not_look_at_all_finds_the_same_too(self) -> None:
        doc, asked = job(6, {"tern-120": 4}), SearchQuestion(turn_cooler=False, speeds="together")
        small = {"desk.search.document.MOST_ROWS": 400, "desk.search.wide.FIRST": 100, "desk.search.wide.CHECKED": 80}
        with ExitStack() as patched:
            for name, value in small.items():
                patched.enter_context(patch(name, value))
            alone = search(doc, asked)
            with on(self.address):
                found = search(doc, asked)
        self.assertFalse(alone.exhaustive)
        self.assertEqual(alone.model_dump(), found.model_dump())

    def test_a_scheduler_that_does_not_answer_is_named(self) -> None:
        with on("tcp://127.0.0.1:9"), patch("desk.search.cluster.CONNECT", 0.5), self.assertRaises(OventaError) as caught:
            search(job(), SearchQuestion(turn_cooler=False))
        self.assertIn("127.0.0.1:9", str(caught.exception))

    def test_a_scheduler_without_workers_is_told(self) -> None:
        short = patch("desk.search.cluster.WORKERS", 0.2)
        with cluster_of(0) as address, on(address), short, self.assertRaises(OventaError) as caught:
            search(job(), SearchQuestion(turn_cooler=False))
        self.assertIn("no worker", str(caught.exception))

    def test_without_the_client_it_says_what_to_install(self) -> None:
        with on("tcp://127.0.0.1:9"), patch.dict("sys.modules", {"distributed": None}), self.assertRaises(OventaError) as caught:
            search(job(), SearchQuestion(turn_cooler=False))
        self.assertIn("cluster.txt", str(caught.exception))
