"""How the machine of a live run came to rest in its earlier runs: what its wait is told from."""

from collections.abc import Mapping, Sequence

from engine.errors import OventaError
from engine.runs.known import MOST_RUNS, Course
from engine.runs.settle import courses_in
from server.apps.bench.adapters import load_log
from server.apps.bench.figures import dropped
from server.apps.bench.models import Run
from server.apps.bench.selectors import USUAL_LOAD, analysis_of, unreadable

Courses = Mapping[str, Sequence[Course]]
SAME = ("case", "processor", "card", "cooler")  # with another of these it is another machine


def courses_before(run: Run) -> Courses:
    """Of each channel: those of the runs of the job that count, under the same load and with the same parts, which had settled; of the
    same layout first, then the newest."""
    counting = Run.objects.filter(job_id=run.job_id, state="valid", rows__gt=0).exclude(pk=run.pk).select_related("job")
    of_it = [r for r in counting if _machine(r) == _machine(run) and not unreadable(r)]
    found: dict[str, list[Course]] = {}
    read = 0
    for earlier in sorted(of_it, key=lambda r: (r.layout_key != run.layout_key, -r.pk)):
        settled = [c.name for c in analysis_of(earlier).channels if c.settled]
        if not settled or read == MOST_RUNS:
            continue
        try:
            own = courses_in(load_log(earlier).without(dropped(earlier)), settled)
        except OventaError:
            continue  # a damaged run is told of where it is listed
        read += bool(own)
        for name, course in own.items():
            found.setdefault(name, []).append(course)
    return found


def _machine(run: Run) -> list[str | None]:
    """What runs have in common whose channels come to rest alike."""
    return [run.load or USUAL_LOAD, *(run.made_with.get(what) for what in SAME)]
