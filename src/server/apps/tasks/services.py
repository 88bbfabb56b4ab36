"""Asking for long work, doing it, calling it off, and taking up what a stop of the server cut short."""

import logging
import time
from collections.abc import Callable, Mapping
from typing import Any

from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone

from desk.search.document import search
from desk.search.field import Search
from desk.search.looking import CancelledError, Rows
from desk.search.question import SearchQuestion
from documents.errors import DocumentError
from documents.job.reader import check_job
from engine.errors import OventaError
from server.apps.jobs.models import Job
from server.apps.tasks.models import Task
from server.apps.tasks.queue import consume, made
from server.apps.verdicts.learned import learning_for

LOG = logging.getLogger(__name__)
HUEY = made(immediate=settings.TESTING)
SAID_S = 0.6  # between two words of progress
EARLY_DOTS = 3_000
KEPT = 3  # finished pieces of work of one kind that a job keeps
UNFINISHED = ("waiting", "running")


def ask_search(job: Job, document: Mapping[str, Any], question: SearchQuestion, learned: bool) -> Task:
    """A search of a document as it stands on the screen. Raises DocumentError for what cannot be searched: told at once, not later."""
    doc = check_job(dict(document)).doc
    _ = Search.of(doc, question).frames
    asked = question.model_dump(mode="json") | {"learned": learned}
    return _asked(job, "search", asked, doc.model_dump(mode="json", exclude_unset=True))


def _asked(job: Job, kind: str, question: dict[str, Any], document: dict[str, Any]) -> Task:
    with transaction.atomic():
        Task.objects.filter(job=job, kind=kind, state__in=UNFINISHED).update(state="cancelled", ended_at=timezone.now())
        old = list(Task.objects.filter(job=job, kind=kind).values_list("pk", flat=True)[KEPT - 1 :])
        Task.objects.filter(pk__in=old).delete()
        task = Task.objects.create(job=job, kind=kind, question=question, document=document)
        transaction.on_commit(lambda: _put(task.pk))
    task.refresh_from_db()
    return task


def _put(task_id: int) -> None:
    if not HUEY.immediate:
        consume(HUEY)
    run_task(task_id)


@HUEY.task()  # type: ignore[untyped-decorator]  # huey has no types
def run_task(task_id: int) -> None:
    """In the worker; nothing is handed over but the row's number."""
    work(task_id)
    if not HUEY.immediate:
        close_old_connections()


def cancel(task: Task) -> Task:
    Task.objects.filter(pk=task.pk, state__in=UNFINISHED).update(state="cancelled", ended_at=timezone.now())
    task.refresh_from_db()
    return task


def take_up() -> int:
    """What was asked for and not finished when the server stopped begins anew: the same seed finds the same."""
    left = list(Task.objects.filter(state__in=UNFINISHED).order_by("pk").values_list("pk", flat=True))
    HUEY.flush()
    Task.objects.filter(pk__in=left).update(state="waiting", done=0)
    for task_id in left:
        _put(task_id)
    return len(left)


def work(task_id: int) -> None:
    """Does a waiting piece of work, once; what goes wrong is kept with it in words."""
    if not Task.objects.filter(pk=task_id, state="waiting").update(state="running"):
        return
    task = Task.objects.get(pk=task_id)
    try:
        _end(task, "done", result=KINDS[task.kind](task))
    except CancelledError:
        LOG.info("task %s was called off", task_id)
    except DocumentError as error:
        _end(task, "failed", fault={"title": error.faults[0].what, "do": error.faults[0].do})
    except OventaError as error:
        _end(task, "failed", fault={"title": error.what, "do": error.do})
    except Exception:
        LOG.exception("task %s failed", task_id)
        _end(task, "failed", fault={"title": "something went wrong that was not foreseen", "do": "Ask once more."})


def _end(task: Task, state: str, **values: Any) -> None:
    Task.objects.filter(pk=task.pk, state="running").update(state=state, ended_at=timezone.now(), partial=None, **values)


def _search(task: Task) -> dict[str, Any]:
    asked = dict(task.question)
    learned = asked.pop("learned", False)
    doc = check_job(task.document).doc
    learning = learning_for(task.job_id, doc) if learned else None
    said = _Saying(task)
    found = search(doc, SearchQuestion.model_validate(asked), learning if learning and learning.anything else None, None, said, dots=True)
    return found.model_dump(mode="json")


class _Saying:
    """Writes how far a search is, and the first dots of its map, every now and then; ends it where it was called off."""

    def __init__(self, task: Task) -> None:
        self._task, self._last = task, time.monotonic() - SAID_S

    def __call__(self, done: int, total: int, rows: Rows) -> None:
        if time.monotonic() - self._last < SAID_S:
            return
        self._last = time.monotonic()
        told = {"done": done, "total": total, "partial": rows.early(EARLY_DOTS)}
        if not Task.objects.filter(pk=self._task.pk, state="running").update(**told):
            raise CancelledError("the search was called off", "search", "Ask for it again.")


KINDS: Mapping[str, Callable[[Task], dict[str, Any]]] = {"search": _search}
