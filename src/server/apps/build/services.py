"""Ticking the steps of a sheet: in their order, and what may not be left out only with a reason."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.db.models import Count, Max, QuerySet

from desk.build.shapes import BuildDoc, BuildStep
from documents.errors import DocumentError, Fault
from server.apps.build.models import Tick
from server.apps.jobs.models import Job

SHORTEST_REASON = 3


def ticks_of(job: Job, build: BuildDoc, unit: str = "") -> list[Tick]:
    """What was ticked of this sheet, also where it asked for something else then."""
    return list(_ticks(job, build, unit))


def begun(job: Job) -> list[tuple[str, str, str, int]]:
    """Layout, start, unit and number of ticks of every sheet that was begun, the latest first."""
    rows = Tick.objects.filter(job=job).values("layout_key", "start_key", "unit").annotate(n=Count("pk"), last=Max("at")).order_by("-last")
    return [(r["layout_key"], r["start_key"], r["unit"], r["n"]) for r in rows]


def _ticks(job: Job, build: BuildDoc, unit: str) -> QuerySet[Tick]:
    return Tick.objects.filter(job=job, layout_key=build.layout, start_key=build.start or "", unit=unit.strip())


def over(build: BuildDoc, ticks: Sequence[Tick]) -> set[str]:
    """Steps that are over as the sheet asks for them now."""
    keys = {s.id: s.key for s in build.steps}
    return {t.step for t in ticks if keys.get(t.step) == t.key}


def tick(job: Job, build: BuildDoc, step_id: str, state: str, note: str = "", unit: str = "") -> list[Tick]:
    """Raises DocumentError for a step that is not there, whose turn has not come, or that is left out without a reason."""
    by_id = {s.id: s for s in build.steps}
    step = by_id.get(step_id)
    if step is None:
        raise DocumentError([Fault("step", f"there is no step {step_id!r} on this sheet", "Load the sheet again.")])
    with transaction.atomic():
        done = over(build, ticks_of(job, build, unit))
        _may(step, state, note, [by_id[a] for a in step.after if a not in done])
        values = {"key": step.key, "words": step.words[:300], "state": state, "note": note.strip()[:500]}
        place: dict[str, Any] = {"job": job, "layout_key": build.layout, "start_key": build.start or "", "unit": unit.strip()}
        Tick.objects.update_or_create(**place, step=step_id, defaults=values)
    return ticks_of(job, build, unit)


def _may(step: BuildStep, state: str, note: str, open_before: Sequence[BuildStep]) -> None:
    if open_before:
        names = "; ".join(s.words for s in open_before[:2])
        raise DocumentError([Fault(step.id, f"its turn has not come: first {names}", "Tick what comes before it.")])
    if state != "done" and len(note.strip()) < SHORTEST_REASON and (state == "otherwise" or step.gate):
        what = "how it was done is not said" if state == "otherwise" else "this step is not left out without a reason"
        raise DocumentError([Fault("note", what, "Write it in a few words; it stands in the record of the build.")])


def untick(job: Job, build: BuildDoc, step_id: str, unit: str = "") -> list[Tick]:
    """Opens a step again, and every one that waited for it."""
    gone = {step_id, *_waiting(build.steps, step_id)}
    _ticks(job, build, unit).filter(step__in=gone).delete()
    return ticks_of(job, build, unit)


def _waiting(steps: Sequence[BuildStep], step_id: str) -> set[str]:
    after: Mapping[str, set[str]] = {s.id: set(s.after) for s in steps}
    found: set[str] = set()
    todo = {step_id}
    while todo:
        todo = {s for s, waits in after.items() if waits & todo} - found
        found |= todo
    return found
