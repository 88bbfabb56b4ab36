"""Where rows of a search are solved: here, or on a Dask cluster whose scheduler ``OVENTA_SCHEDULER`` names. The answer is the same.

Rows come back in the order in which they were given out, however many workers there are and whichever is first.
"""

import logging
import os
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from importlib import import_module
from typing import Any

import numpy as np

from desk.learn.document import Learning
from desk.search.field import Search
from desk.search.looking import Rows, Solver, figures_of
from desk.search.question import SearchQuestion
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.errors import OventaError
from engine.search.space import States

CONNECT, WORKERS = 10.0, 20.0  # s; no source: until the scheduler answers, and until it has somebody to work
AHEAD = 3  # batches that each worker has waiting


def scheduler() -> str:
    return os.environ.get("OVENTA_SCHEDULER", "")


class Here:
    """Solves each batch at once."""

    def __init__(self, made: Search, rows: Rows) -> None:
        self._made, self._rows = made, rows

    def give(self, frame: int, states: States, speed: np.ndarray) -> None:
        self._rows.add(frame, states, speed, figures_of(self._made, frame, states, speed))

    def wait(self) -> None:
        """Until all that was given is in the rows: here it always is."""


class There:
    """Gives batches to a cluster's workers, so many ahead that none is idle, and takes them back in their order."""

    def __init__(self, made: Search, rows: Rows, client: Any) -> None:
        self._rows, self._client = rows, client
        self._given: deque[tuple[int, States, np.ndarray, Any]] = deque()
        document = made.doc.model_dump_json(exclude_unset=True)
        self._asked = client.scatter((document, made.question.model_dump_json(), made.learning), broadcast=True)
        self._most = AHEAD * max(len(client.scheduler_info()["workers"]), 1)

    def give(self, frame: int, states: States, speed: np.ndarray) -> None:
        told = self._client.submit(_there, self._asked, frame, states, speed, pure=False)
        self._given.append((frame, states, speed, told))
        while len(self._given) > self._most:
            self._take()

    def wait(self) -> None:
        while self._given:
            self._take()

    def drop(self) -> None:
        """What is not done yet is not wanted any more."""
        self._client.cancel([x[3] for x in self._given])

    def _take(self) -> None:
        frame, states, speed, told = self._given.popleft()
        self._rows.add(frame, states, speed, told.result())


@contextmanager
def solving(made: Search, rows: Rows) -> Iterator[Solver]:
    """What solves batches; all of them are in ``rows`` when it is left without an error.

    Raises OventaError where the scheduler does not answer, or its client is not installed.
    """
    address = scheduler()
    if not address:
        yield Here(made, rows)
        return
    with _client(address) as client:
        there = There(made, rows, client)
        try:
            yield there
            there.wait()
        finally:
            there.drop()


@contextmanager
def _client(address: str) -> Iterator[Any]:
    try:
        distributed: Any = import_module("distributed")
    except ImportError as error:
        do = "Install requirements/cluster.txt beside Oventa, or leave OVENTA_SCHEDULER out: a search then runs here."
        raise OventaError("the cluster's client is not installed", "OVENTA_SCHEDULER", do) from error
    try:
        logging.getLogger("distributed").setLevel(logging.ERROR)
        client = distributed.Client(address, timeout=CONNECT, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        do = "Start it (dask scheduler), check the address, or leave OVENTA_SCHEDULER out."
        raise OventaError(f"the scheduler does not answer at {address}", "OVENTA_SCHEDULER", do) from error
    try:
        client.wait_for_workers(1, timeout=WORKERS)
    except TimeoutError as error:
        client.close()
        do = "Start one with Oventa's src folder on its path (dask worker)."
        raise OventaError(f"the scheduler at {address} has no worker", "OVENTA_SCHEDULER", do) from error
    try:
        yield client
    finally:
        client.close()


def _there(asked: tuple[str, str, Learning | None], frame: int, states: States, speed: np.ndarray) -> np.ndarray:
    """On a worker: the search is made ready once, and its batches solved as anywhere."""
    document, question, learning = asked
    return figures_of(_made(document, question, _Kept(learning)), frame, states, speed)


class _Kept:
    """Lessons as part of a key: one scatter brings the same object to a worker every time."""

    def __init__(self, learning: Learning | None) -> None:
        self.learning = learning

    def __hash__(self) -> int:
        return id(self.learning)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Kept) and other.learning is self.learning


@lru_cache(maxsize=2)
def _made(document: str, question: str, kept: _Kept) -> Search:
    doc: JobDoc = check_job(JobDoc.model_validate_json(document).model_dump(mode="json", exclude_unset=True)).doc
    return Search.of(doc, SearchQuestion.model_validate_json(question), kept.learning)
