"""Reading: a job's latest piece of work of a kind."""

from engine.identity import ENGINE
from server.apps.tasks.models import Task


def latest(job_id: int, kind: str) -> Task | None:
    return Task.objects.filter(job_id=job_id, kind=kind).exclude(state="cancelled").first()


def going_on(kind: str) -> list[Task]:
    return list(Task.objects.filter(kind=kind, state__in=("waiting", "running")))


def outdated(task: Task) -> bool:
    """Whether another engine made the result, so that its figures may be others today."""
    return task.result is not None and task.result.get("engine") != ENGINE.number
