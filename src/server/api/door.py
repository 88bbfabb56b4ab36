"""The door that every route goes through: a request that names a job, or anything of one, is let to it by ``job_for`` alone."""

from collections.abc import Callable
from typing import Literal

from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404

from server.apps.bench.models import Mark, Run
from server.apps.build.models import UnitRun
from server.apps.jobs.models import Job
from server.apps.jobs.selectors import OWNER, Viewer, job_for
from server.apps.sounds.models import Clip, LevelReading
from server.apps.tasks.models import Task
from server.apps.verdicts.models import Verdict

# What a path may name, and the job that it belongs to. Benches and their instruments stand in the room and belong to no job.
JOB_OF: dict[str, Callable[[int], int | None]] = {
    "job_id": lambda pk: pk,
    "run_id": lambda pk: get_object_or_404(Run.objects.only("job_id"), pk=pk).job_id,
    "mark_id": lambda pk: get_object_or_404(Mark.objects.select_related("run").only("run__job_id"), pk=pk).run.job_id,
    "task_id": lambda pk: get_object_or_404(Task.objects.only("job_id"), pk=pk).job_id,
    "clip_id": lambda pk: get_object_or_404(Clip.objects.only("job_id"), pk=pk).job_id,
    "reading_id": lambda pk: get_object_or_404(LevelReading.objects.only("job_id"), pk=pk).job_id,
    "unit_id": lambda pk: get_object_or_404(UnitRun.objects.only("job_id"), pk=pk).job_id,
    "verdict_id": lambda pk: get_object_or_404(Verdict.objects.only("job_id"), pk=pk).job_id,
}
OF_NO_JOB = {"bench_id", "instrument_id", "index"}
ALSO_REMOVED = {"restore", "stored.json"}  # last words of paths that reach into the bin


def viewer_of(request: HttpRequest) -> Viewer:
    return OWNER


def door(request: HttpRequest) -> Job | Literal[True]:
    """The job that a path names, by itself or by something of it. Raises Http404 where the viewer may not come to it."""
    match = request.resolver_match
    named = match.kwargs if match else {}
    removed = request.path.rsplit("/", 1)[-1] in ALSO_REMOVED
    for name, of in JOB_OF.items():
        if name in named:
            job_id = of(_number(str(named[name])))
            return True if job_id is None else job_for(viewer_of(request), job_id, removed)  # none: a job that is still being read
    return True


def _number(words: str) -> int:
    """The number that a path names. Raises Http404 for anything else: a route must not read one where the door saw none."""
    if not (words.isascii() and words.isdigit()):
        raise Http404
    return int(words)


def job_of(request: HttpRequest) -> Job:
    """The job that the door let this request to."""
    job: Job = request.auth  # type: ignore[attr-defined]  # what the door returned
    return job
