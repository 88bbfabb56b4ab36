"""Long work over HTTP: what goes on, how far it is, what it made; jobs read from packages, reports."""

from typing import Annotated, Any, Literal, cast

from django.http import FileResponse, Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router, Status
from ninja.files import UploadedFile
from pydantic import Field

from desk.words.studies import STUDIES, Study
from server.api.door import job_of
from server.api.schema import MOST_PACKAGE, Schema, content_of
from server.apps.tasks import selectors, services
from server.apps.tasks.models import Task
from server.apps.tasks.studies import published
from server.config.paths import TASKS

router = Router()
State = Literal["waiting", "running", "done", "failed", "cancelled"]


class TaskFault(Schema):
    title: str
    do: str


class TaskOut(Schema):
    """``name``: of the file that is read; ``made``: the job that came of it."""

    id: int
    kind: str
    name: str
    state: State
    done: int
    total: int
    made: int | None
    unknown_fields: list[str]
    fault: TaskFault | None


def told(task: Task) -> TaskOut:
    result = task.result or {}
    return TaskOut(
        id=task.pk,
        kind=task.kind,
        name=str(task.question.get("name", "")),
        state=cast(State, task.state),
        done=task.done,
        total=task.total,
        made=result.get("job"),
        unknown_fields=list(result.get("unknown_fields", [])),
        fault=TaskFault(**task.fault) if task.fault else None,
    )


@router.post("/tasks/import", response={202: TaskOut}, operation_id="import_package")
def import_package(request: HttpRequest, file: File[UploadedFile]) -> Any:
    """Begins to read a job from a package, beside everything else."""
    return Status(202, told(services.ask_import(content_of(file, MOST_PACKAGE), file.name or "package")))


@router.get("/tasks", response=list[TaskOut], operation_id="imports")
def imports(request: HttpRequest) -> Any:
    """Files that are being read, the latest first."""
    return [told(x) for x in selectors.going_on("import")]


@router.get("/tasks/{task_id}", response=TaskOut, operation_id="task")
def task(request: HttpRequest, task_id: int) -> Any:
    return told(get_object_or_404(Task, pk=task_id))


@router.post("/tasks/{task_id}/cancel", response=TaskOut, operation_id="cancel_task")
def cancel_task(request: HttpRequest, task_id: int) -> Any:
    return told(services.cancel(get_object_or_404(Task, pk=task_id)))


class StudyIn(Schema):
    name: Annotated[str, Field(max_length=20)]
    count: Annotated[int, Field(ge=1, le=1_000_000)]
    seed: Annotated[int, Field(ge=0, le=10**9)] = 1


class StudyMade(Schema):
    """``missed``: something that was wanted was not reached; ``page``: what it found, as text; ``outdated``: made with other code."""

    count: int
    seed: int
    seconds: float
    missed: bool
    outdated: bool
    engine: str
    method: str
    page: str


class StudyOut(Schema):
    """``published``: the page that came with this version; empty where there is none."""

    name: str
    words: str
    about: str
    counts: str
    usual: int
    least: int
    most: int
    task: TaskOut | None
    made: StudyMade | None
    published: str


@router.get("/studies", response=list[StudyOut], operation_id="studies")
def studies(request: HttpRequest) -> Any:
    """Every study that can be made here, with the last one that was."""
    found = selectors.studies()
    return [_study(name, study, found.get(name)) for name, study in STUDIES.items()]


def _study(name: str, study: Study, task: Task | None) -> StudyOut:
    made = None
    if task is not None and task.state == "done" and task.result:
        r, q = task.result, task.question
        made = StudyMade(count=q["count"], seed=q["seed"], outdated=selectors.outdated(task), **r)
    own = {x: getattr(study, x) for x in ("words", "about", "counts", "usual", "least", "most")}
    return StudyOut(name=name, task=told(task) if task else None, made=made, published=published(study.page), **own)


@router.post("/studies", response={202: TaskOut}, operation_id="make_study")
def make_study(request: HttpRequest, data: StudyIn) -> Any:
    """Makes a study again, with a seed and a number of its own, beside everything else."""
    return Status(202, told(services.ask_study(data.name, data.count, data.seed)))


@router.post("/verdicts/{verdict_id}/report", response={202: TaskOut}, operation_id="make_report")
def make_report(request: HttpRequest, verdict_id: int) -> Any:
    """Begins the report of a frozen verdict as PDF."""
    return Status(202, told(services.ask_report(job_of(request), verdict_id)))


@router.get("/tasks/{task_id}/file", operation_id="task_file")
def task_file(request: HttpRequest, task_id: int) -> FileResponse:
    """What a piece of work made, once it has."""
    made = get_object_or_404(Task, pk=task_id, state="done")
    path = TASKS / str((made.result or {}).get("file", ""))
    if not path.is_file():
        raise Http404
    return FileResponse(path.open("rb"), as_attachment=True, filename=str((made.result or {})["called"]))
