"""Imports and changes of runs."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from desk.job.conditions import as_drawn, made_with
from desk.job.resolve import Resolver
from desk.runs.ready import ready_text, seen, source_of
from documents.errors import DocumentError
from documents.errors import Fault as Mistake
from documents.job.reader import check_job
from documents.runlog.reader import ImportedLog
from documents.runlog.writer import write_log
from engine.errors import ImpossibleInputError
from engine.runs.plausible import Implausible
from instruments.standin import Fault, simulate
from server.apps.bench.adapters import nothing_stored
from server.apps.bench.apart import apart
from server.apps.bench.figures import basis_of, changed_run, new_run
from server.apps.bench.models import ColumnMemory, Run
from server.apps.bench.selectors import unreadable
from server.apps.jobs import adapters
from server.apps.jobs.models import Job, Layout


def known_columns() -> list[tuple[str, str, str]]:
    """What people said of columns before: (source, heading, channel)."""
    return list(ColumnMemory.objects.values_list("source", "heading", "channel"))


def preview(
    data: bytes, mapping: dict[str, str | None] | None = None, units: dict[str, str] | None = None
) -> tuple[ImportedLog, list[Implausible]]:
    """Reads a file without storing anything; and what is odd about its readings."""
    return apart(seen, data, known_columns(), mapping, units)


class ImplausibleLogError(DocumentError):
    """Readings that no machine gives; a person may say that they are so all the same."""

    code = "implausible_log"


def import_run(
    job_id: int,
    layout_key: str,
    name: str,
    source_name: str,
    data: bytes,
    mapping: dict[str, str | None],
    room_c: float | None,
    units: dict[str, str] | None = None,
    sure: bool = True,
    made_at: datetime | None = None,
) -> Run:
    """Stores a log as a run of a layout; all or nothing. Raises ImplausibleLogError for odd readings unless a person is ``sure``."""
    layout = get_object_or_404(Layout.objects.select_related("job"), job_id=job_id, key=layout_key)
    doc = check_job(adapters.document(layout.job)).doc
    run = Run(
        job=layout.job,
        layout=layout,
        layout_key=layout_key,
        name=name[:200] or run_name(job_id, layout_key),
        source_name=source_name[:255],
        typed_room_c=checked_room(room_c),
        made_with=made_with(doc, layout_key),
        drawn=as_drawn(doc, layout_key),
    )
    made = apart(ready_text, data, basis_of(run, ()), known_columns(), mapping, False, units)
    if made.doubts and not sure:
        raise ImplausibleLogError([Mistake(d.channel, d.what, d.do) for d in made.doubts])
    run.columns = [{"heading": c.heading[:500], "channel": c.channel, "unit": c.unit} for c in made.columns]
    run.notes = [*made.notes, *made.questions, *(f"{d.channel}: {d.what}; taken in all the same" for d in made.doubts)]
    run.made_at = made_at or _aware(made.began)
    source = source_of(made.headings)
    with transaction.atomic():
        run.layout = get_object_or_404(Layout, job_id=job_id, key=layout_key)  # a save may have taken it away meanwhile
        for heading, channel in mapping.items():
            ColumnMemory.objects.update_or_create(source=source, heading=heading[:200], defaults={"channel": channel or ""})
        return new_run(run, made).write()


def simulate_run(job_id: int, layout_key: str, minutes: float, seed: int, faults: Sequence[Fault]) -> Run:
    """A run of a layout on the stand-in bench, stored like one that was brought in and named as made up."""
    job = get_object_or_404(Job, pk=job_id)
    machine = Resolver(check_job(adapters.document(job)).doc).machine(layout_key)
    log = simulate(machine, minutes, seed, 2.0, faults)
    name = f"{run_name(job_id, layout_key)}, made up"
    source = f"stand-in bench, seed {seed} (made up)"
    return import_run(job_id, layout_key, name, source, write_log(log).encode(), {}, None)


def _aware(moment: datetime | None) -> datetime | None:
    """A log's own time; one without a zone is the server's."""
    if moment is None or moment.tzinfo is not None:
        return moment
    return timezone.make_aware(moment)


def run_name(job_id: int, layout_key: str) -> str:
    """The next run of a layout."""
    return f"{layout_key} run {Run.objects.filter(job_id=job_id, layout_key=layout_key).count() + 1}"


def checked_room(room_c: float | None) -> float | None:
    if room_c is not None and not -20 <= room_c <= 60:
        raise ImpossibleInputError(f"a room of {room_c} °C is not possible", "room temperature", "Give it in °C, between -20 and 60.")
    return room_c


KEPT_AS_GIVEN = ("window_s", "made_at", "state", "void_reason", "name", "held", "traits", "background_dba", "microphone", "stood_still")


def change_run(run_id: int, changes: dict[str, Any]) -> Run:
    """Changes the room, the window, the state, the name or the layout of a run that is over."""

    def apply(run: Run) -> None:
        if run.state == "draft":
            raise nothing_stored(run)
        if "room_c" in changes:
            run.typed_room_c = checked_room(changes["room_c"])
        if "layout" in changes:
            run.layout = get_object_or_404(Layout, job_id=run.job_id, key=changes["layout"])
            run.layout_key = changes["layout"]
        if changes.get("state") in ("void", "superseded") and not (changes.get("void_reason") or run.void_reason):
            do = "Say in a few words what was wrong with the run."
            raise ImpossibleInputError("a run that is set aside needs a reason", "void_reason", do)
        for name in KEPT_AS_GIVEN:
            if name in changes:
                setattr(run, name, changes[name])

    return changed_run(run_id, apply)


@transaction.atomic
def remove_unreadable(run_id: int) -> None:
    """Deletes a stored run that this version cannot read. Raises ImpossibleInputError for any other: a run is set aside, never deleted."""
    run = get_object_or_404(Run, pk=run_id)
    if run.state == "draft" or not unreadable(run):
        raise ImpossibleInputError("a run that can be read is never deleted", run.name, "Set it aside as void, with a reason.")
    run.delete()


def relink(job_id: int) -> None:
    """Gives runs whose layout came back (by undo) their layout again."""
    for run in Run.objects.filter(job_id=job_id, layout__isnull=True):
        layout = Layout.objects.filter(job_id=job_id, key=run.layout_key).first()
        if layout:
            run.layout = layout
            run.save(update_fields=["layout"])
