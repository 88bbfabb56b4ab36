"""Reading: a job's latest piece of work of a kind."""

from engine.identity import ENGINE, METHOD
from server.apps.tasks.models import Task


def latest(job_id: int, kind: str) -> Task | None:
    return Task.objects.filter(job_id=job_id, kind=kind).exclude(state="cancelled").first()


def studies() -> dict[str, Task]:
    """The latest of each study, by its name."""
    found: dict[str, Task] = {}
    for task in Task.objects.filter(kind="study").exclude(state="cancelled"):
        found.setdefault(task.question["study"], task)
    return found


def going_on(kind: str) -> list[Task]:
    return list(Task.objects.filter(kind=kind, state__in=("waiting", "running")))


def outdated(task: Task) -> bool:
    """Whether another engine, or another way of judging, made the result, so that its figures may be others today."""
    if task.result is None:
        return False
    return bool(task.result.get("engine") != ENGINE.number or task.result.get("method", METHOD.number) != METHOD.number)
