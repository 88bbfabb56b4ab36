"""Asking for long work, doing it, calling it off, and taking up what a stop of the server cut short."""

import logging
import time
from collections.abc import Callable, Mapping
from typing import Any
from uuid import uuid4

from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone
from django.utils.text import slugify

from desk.search.document import search
from desk.search.field import Search
from desk.search.looking import CancelledError, Rows
from desk.search.question import SearchQuestion
from documents.errors import DocumentError
from documents.job.reader import check_job
from documents.package.document import open_package
from engine.errors import OventaError
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.sounds.models import Clip
from server.apps.sounds.services import listen
from server.apps.tasks.models import Task
from server.apps.tasks.queue import consume, made
from server.apps.tasks.studies import checked, run_study
from server.apps.verdicts import report
from server.apps.verdicts.learned import learning_for
from server.apps.verdicts.packing import unpack
from server.apps.verdicts.selectors import record_of
from server.config.paths import TASKS

LOG = logging.getLogger(__name__)
HUEY = made(immediate=settings.TESTING)
STUDIES_HUEY = made(immediate=settings.TESTING, name="oventa-studies")  # one at a time: nobody waits behind a study
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
        return _begun(Task(job=job, kind=kind, question=question, document=document))


def ask_import(data: bytes, name: str) -> Task:
    """A job from a package, read beside everything else. Raises DocumentError for a file that is none."""
    open_package(data)  # told at once, not later
    TASKS.mkdir(parents=True, exist_ok=True)
    upload = f"{uuid4().hex}.zip"
    (TASKS / upload).write_bytes(data)
    return _begun(Task(kind="import", question={"upload": upload, "name": name}))


def ask_clip(clip: Clip) -> Task:
    """Listens to a clip beside everything else; asked again, it begins anew."""
    return _begun(Task(job=clip.job, kind="clip", question={"clip": clip.pk}))


def listen_to_waiting(job: Job) -> None:
    """Clips that came with a package."""
    for clip in job.clips.filter(state="waiting"):
        ask_clip(clip)


def ask_study(name: str, count: int, seed: int) -> Task:
    """Makes a study again. Raises ImpossibleInputError. The same one that is under way is not begun twice; others of its kind are called
    off, and of finished ones the last few are kept."""
    checked(name, count)
    asked = {"study": name, "count": count, "seed": seed}
    own = [t for t in Task.objects.filter(kind="study") if t.question["study"] == name]
    for task in own:
        if task.state in UNFINISHED:
            if task.question == asked:
                return task
            cancel(task)
    Task.objects.filter(pk__in=[t.pk for t in own[KEPT - 1 :]]).delete()
    return _begun(Task(kind="study", question=asked))


def ask_report(job: Job, verdict_id: int) -> Task:
    """A frozen verdict's report as PDF; one that is under way is not begun twice."""
    asked = {"verdict": verdict_id}
    going = Task.objects.filter(job=job, kind="report", question=asked, state__in=UNFINISHED).first()
    if going:
        return going
    for old in Task.objects.filter(job=job, kind="report", question=asked):
        (TASKS / str((old.result or {}).get("file", "none"))).unlink(missing_ok=True)
        old.delete()
    return _begun(Task(job=job, kind="report", question=asked))


def _begun(task: Task) -> Task:
    with transaction.atomic():
        task.save()
        transaction.on_commit(lambda: _put(task.pk))
    task.refresh_from_db()
    return task


def _put(task_id: int) -> None:
    study = Task.objects.filter(pk=task_id, kind="study").exists()
    if not HUEY.immediate:
        consume(STUDIES_HUEY, 1) if study else consume(HUEY)
    (run_long if study else run_task)(task_id)


@STUDIES_HUEY.task()  # type: ignore[untyped-decorator]  # huey has no types
def run_long(task_id: int) -> None:
    _in_worker(task_id)


@HUEY.task()  # type: ignore[untyped-decorator]  # huey has no types
def run_task(task_id: int) -> None:
    _in_worker(task_id)


def _in_worker(task_id: int) -> None:
    """Nothing is handed over but the row's number."""
    work(task_id)
    if not HUEY.immediate:
        close_old_connections()


def cancel(task: Task) -> Task:
    if Task.objects.filter(pk=task.pk, state="waiting").update(state="cancelled", ended_at=timezone.now()):
        _tidy(task)
    Task.objects.filter(pk=task.pk, state="running").update(state="cancelled", ended_at=timezone.now())
    task.refresh_from_db()
    return task


def take_up() -> int:
    """What was asked for and not finished when the server stopped begins anew: the same seed finds the same."""
    left = list(Task.objects.filter(state__in=UNFINISHED).order_by("pk").values_list("pk", flat=True))
    HUEY.flush()
    STUDIES_HUEY.flush()
    _sweep()
    Task.objects.filter(pk__in=left).update(state="waiting", done=0)
    for task_id in left:
        _put(task_id)
    asked = {t.question.get("clip") for t in Task.objects.filter(kind="clip", pk__in=left)}
    for clip in Clip.objects.filter(state="waiting").exclude(pk__in=asked):  # a stop came before it was asked
        ask_clip(clip)
    return len(left)


def _sweep() -> None:
    """Files of work that nobody knows of any more: the job was removed for good, or a stop came between two steps."""
    known = set()
    for question, result in Task.objects.values_list("question", "result"):
        known |= {question.get("upload"), (result or {}).get("file")}
    for path in TASKS.glob("*") if TASKS.is_dir() else ():
        if path.name not in known:
            path.unlink(missing_ok=True)


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
    _tidy(task)


def _tidy(task: Task) -> None:
    """What was handed over for a piece of work that has ended."""
    if upload := task.question.get("upload"):
        (TASKS / str(upload)).unlink(missing_ok=True)


def _end(task: Task, state: str, **values: Any) -> None:
    Task.objects.filter(pk=task.pk, state="running").update(state=state, ended_at=timezone.now(), partial=None, **values)


def _search(task: Task) -> dict[str, Any]:
    asked = dict(task.question)
    learned = asked.pop("learned", False)
    doc = check_job(task.document).doc
    learning = learning_for(task.job_id, doc) if learned and task.job_id else None
    said = _Saying(task)
    found = search(doc, SearchQuestion.model_validate(asked), learning if learning and learning.anything else None, None, said, dots=True)
    return found.model_dump(mode="json")


def _import(task: Task) -> dict[str, Any]:
    said = _Counting(task)
    try:
        data = (TASKS / task.question["upload"]).read_bytes()
    except OSError as error:
        raise OventaError("the file that was handed over is gone", task.question["name"], "Open it once more.") from error
    job, unknown = unpack(data, said)
    Task.objects.filter(pk=task.pk).update(job=job)
    listen_to_waiting(job)
    learning_for(job.pk, check_job(adapters.document(job)).doc)  # here, so that nobody waits for it at the first look
    return {"job": job.pk, "unknown_fields": list(unknown)}


def _report(task: Task) -> dict[str, Any]:
    TASKS.mkdir(parents=True, exist_ok=True)
    name = f"report-{task.pk}.pdf"
    record = record_of(task.question["verdict"])
    (TASKS / name).write_bytes(report.pdf(record))
    return {"file": name, "called": f"{slugify(record.job) or 'job'}-verdict-{record.made_at:%Y-%m-%d}.pdf"}


def _clip(task: Task) -> dict[str, Any]:
    told = [0.0]

    def said(share: float) -> None:
        if time.monotonic() - told[0] < SAID_S and share < 1.0:
            return
        told[0] = time.monotonic()
        Clip.objects.filter(pk=task.question["clip"]).update(share=share)
        if not Task.objects.filter(pk=task.pk, state="running").exists():
            raise CancelledError("listening was called off", "clip", "Ask for it again.")

    listen(task.question["clip"], said)
    return {"clip": task.question["clip"]}


def _study(task: Task) -> dict[str, Any]:
    def said(done: int, total: int) -> bool:
        return Task.objects.filter(pk=task.pk, state="running").update(done=done, total=total) > 0

    return run_study(task.question["study"], task.question["count"], task.question["seed"], said)


class _Counting:
    """Writes how many runs of a package are read; ends it where it was called off."""

    def __init__(self, task: Task) -> None:
        self._task = task

    def __call__(self, done: int, total: int) -> None:
        if not Task.objects.filter(pk=self._task.pk, state="running").update(done=done, total=total):
            raise CancelledError("the import was called off", "import", "Open the file again.")


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


KINDS: Mapping[str, Callable[[Task], dict[str, Any]]] = {
    "search": _search,
    "import": _import,
    "report": _report,
    "clip": _clip,
    "study": _study,
}
