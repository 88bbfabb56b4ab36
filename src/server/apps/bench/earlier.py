"""How the machine of a live run came to rest in its earlier runs: what its wait is told from."""

from engine.errors import OventaError
from engine.runs.known import MOST_RUNS, Course, Known, known_of
from engine.runs.settle import courses_in
from server.apps.bench.adapters import load_log
from server.apps.bench.figures import dropped
from server.apps.bench.models import Run
from server.apps.bench.selectors import USUAL_LOAD, analysis_of, unreadable

SAME = ("case", "processor", "card", "cooler")  # with another of these it is another machine


def known_before(run: Run) -> dict[str, Known]:
    """Of each channel, from the runs of the job that count, under the same load and with the same parts, which had settled; of the same
    layout first, then the newest."""
    counting = Run.objects.filter(job_id=run.job_id, state="valid", rows__gt=0).exclude(pk=run.pk).select_related("job")
    of_it = [r for r in counting if _machine(r) == _machine(run) and not unreadable(r)]
    found: dict[str, list[Course]] = {}
    read = 0
    for earlier in sorted(of_it, key=lambda r: (r.layout_key != run.layout_key, -r.pk)):
        own = _courses(earlier)
        read += bool(own)
        for name, course in own.items():
            found.setdefault(name, []).append(course)
        if read == MOST_RUNS:
            break
    return {name: known_of(courses) for name, courses in found.items()}


def _machine(run: Run) -> list[str | None]:
    """What runs have in common whose channels come to rest alike."""
    return [run.load or USUAL_LOAD, *(run.made_with.get(what) for what in SAME)]


def _courses(run: Run) -> dict[str, Course]:
    """How the channels of a run came to rest that did; a damaged run tells nothing here, its list says why."""
    settled = [c.name for c in analysis_of(run).channels if c.settled]
    try:
        return courses_in(load_log(run).without(dropped(run)), settled) if settled else {}
    except OventaError:
        return {}
