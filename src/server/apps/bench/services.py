"""Imports and changes of runs."""

import hashlib
from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from pydantic import TypeAdapter

from engine.errors import ImpossibleInputError
from engine.runs.analysis import RunAnalysis, analyse
from formats.job.reader import check_job
from formats.job.resolve import Resolver
from formats.runlog.reader import ImportedLog, read_log
from formats.runlog.writer import write_log
from instruments.standin import Fault, simulate
from server.apps.bench.adapters import load_log, store_log
from server.apps.bench.models import ColumnMemory, Run
from server.apps.jobs import adapters
from server.apps.jobs.models import Job, Layout

ANALYSIS = TypeAdapter(RunAnalysis)


def source_of(headings: list[str]) -> str:
    """A logger is known by the headings it writes."""
    return hashlib.sha256("\n".join(sorted(headings)).encode()).hexdigest()


def remembered(headings: list[str], mapping: dict[str, str | None] | None) -> dict[str, str | None]:
    """What was said of this source's headings before, overridden by what is said now."""
    rows = ColumnMemory.objects.filter(source__in=["", source_of(headings)]).order_by("source")
    return {m.heading: m.channel or None for m in rows} | (mapping or {})


def preview(data: bytes, mapping: dict[str, str | None] | None = None, lenient: bool = True) -> ImportedLog:
    """Reads a file without storing anything."""
    return read_log(data, lambda headings: remembered(headings, mapping), lenient)


@transaction.atomic
def import_run(
    job_id: int, layout_key: str, name: str, source_name: str, data: bytes, mapping: dict[str, str | None], room_c: float | None
) -> Run:
    """Stores a log as a run of a layout; all or nothing."""
    layout = get_object_or_404(Layout, job_id=job_id, key=layout_key)
    imported = preview(data, mapping, lenient=False)
    source = source_of(imported.headings)
    for heading, channel in mapping.items():
        ColumnMemory.objects.update_or_create(source=source, heading=heading[:200], defaults={"channel": channel or ""})
    run = Run(
        job_id=job_id,
        layout=layout,
        layout_key=layout_key,
        name=name or run_name(job_id, layout_key),
        source_name=source_name[:255],
        duration_s=imported.log.duration_s,
        rows=len(imported.log.elapsed_s),
        typed_room_c=checked_room(room_c),
        columns=[{"heading": c.heading, "channel": c.channel, "unit": c.unit} for c in imported.columns],
        notes=[*imported.notes, *imported.questions],
    )
    run.save()
    store_log(run, imported.log)
    return refresh(run)


def simulate_run(job_id: int, layout_key: str, minutes: float, seed: int, faults: Sequence[Fault]) -> Run:
    """A run of a layout on the stand-in bench, stored like one that was brought in and named as made up."""
    job = get_object_or_404(Job, pk=job_id)
    machine = Resolver(check_job(adapters.document(job)).doc).machine(layout_key)
    log = simulate(machine, minutes, seed, 2.0, faults)
    name = f"{run_name(job_id, layout_key)}, made up"
    source = f"stand-in bench, seed {seed} (made up)"
    return import_run(job_id, layout_key, name, source, write_log(log).encode(), {}, None)


def run_name(job_id: int, layout_key: str) -> str:
    """The next run of a layout."""
    return f"{layout_key} run {Run.objects.filter(job_id=job_id, layout_key=layout_key).count() + 1}"


def checked_room(room_c: float | None) -> float | None:
    if room_c is not None and not -20 <= room_c <= 60:
        raise ImpossibleInputError(f"a room of {room_c} °C is not possible", "room temperature", "Give it in °C, between -20 and 60.")
    return room_c


def dropped(run: Run) -> list[tuple[float, float]]:
    """Stretches that marks leave out of every figure."""
    return [(m.at_s, m.ends_s) for m in run.marks.filter(drop=True).defer("picture")]


def refresh(run: Run) -> Run:
    """Computes the analysis anew and saves the run."""
    own = [v for v in (run.background_dba, run.microphone.get("background_after_dba")) if v is not None]
    background = max(own) if own else run.job.more.get("room", {}).get("background_dba")  # the louder of before and after
    run.analysis = ANALYSIS.dump_python(analyse(load_log(run), run.window_s, background, dropped(run)), mode="json")
    run.save()
    return run


@transaction.atomic
def change_run(run_id: int, changes: dict[str, Any]) -> Run:
    """Changes the room, the window, the state, the name or the layout of a run."""
    run = get_object_or_404(Run, pk=run_id)
    if "room_c" in changes:
        run.typed_room_c = checked_room(changes["room_c"])
    if "layout" in changes:
        run.layout = get_object_or_404(Layout, job_id=run.job_id, key=changes["layout"])
        run.layout_key = changes["layout"]
    if "state" in changes and changes["state"] in ("void", "superseded") and not (changes.get("void_reason") or run.void_reason):
        raise ImpossibleInputError(
            "a run that is set aside needs a reason", "void_reason", "Say in a few words what was wrong with the run."
        )
    for name in ("window_s", "state", "void_reason", "name", "held", "traits", "background_dba", "microphone"):
        if name in changes:
            setattr(run, name, changes[name])
    return refresh(run)


def relink(job_id: int) -> None:
    """Gives runs whose layout came back (by undo) their layout again."""
    for run in Run.objects.filter(job_id=job_id, layout__isnull=True):
        layout = Layout.objects.filter(job_id=job_id, key=run.layout_key).first()
        if layout:
            run.layout = layout
            run.save(update_fields=["layout"])
