"""Long work over HTTP: what goes on, how far it is, what it made; jobs read from packages, reports."""

from typing import Any, Literal, cast

from django.http import FileResponse, Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router, Status
from ninja.files import UploadedFile

from server.api.door import job_of
from server.api.schema import MOST_PACKAGE, Schema, content_of
from server.apps.tasks import selectors, services
from server.apps.tasks.models import Task
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
