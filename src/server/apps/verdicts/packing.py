"""Whole jobs out as data packages and in again."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from desk.learn.packaged import drawn_of
from desk.runs.ready import Ready, ready_text
from desk.verdict.record import RECORD_FORMAT, RecordDoc, digest_of
from documents.errors import DocumentError, Fault
from documents.job.reader import check_job
from documents.package.document import MOST_GAPS, Opened, Package, PackedRun, open_package
from documents.package.said import MarkSaid, RunSaid, VerdictSaid
from documents.upgrades import upgraded
from engine.errors import OventaError, UnreadableLogError
from server.apps.bench import selectors as bench
from server.apps.bench.adapters import stored_log
from server.apps.bench.apart import each_apart
from server.apps.bench.clipboard import checked_picture
from server.apps.bench.figures import NewRun, basis_of, new_run
from server.apps.bench.models import Mark, Run
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from server.apps.sounds.packing import packed_sound, unpack_sound, written_sound
from server.apps.verdicts.models import BroughtRepeat, Verdict
from server.apps.verdicts.selectors import earlier_gaps
from server.apps.verdicts.services import checked_record

KEPT = tuple(name for name in RunSaid.model_fields if name not in ("file", "layout", "imported_at", "made_at", "marks"))
VERDICT_KEPT = ("reason", "margin_k", "figures", "signed_by", "digest", "record")
_AGAIN = "Save the package again where it came from."
MOST_CELLS = 120_000_000  # what a job can hold and still be worked with
MARK_KEPT = ("kind", "tag", "text", "at_s", "until_s", "drop", "x_mm", "z_mm")


def pack(job: Job) -> Package:
    """A job with its runs, marks, pictures and verdicts."""
    runs = []
    for run in bench.runs_of(job.pk):
        if run.state == "draft":
            continue
        meta: dict[str, Any] = {"layout": run.layout_key, "imported_at": run.imported_at.isoformat()}
        meta |= {"made_at": run.made_at.isoformat()} if run.made_at else {}
        meta |= {name: getattr(run, name) for name in KEPT}
        pictures = {}
        marks = []
        for mark in run.marks.all():
            said = {name: getattr(mark, name) for name in MARK_KEPT}
            if mark.picture:
                name = f"pictures/{run.pk}-{mark.pk}.{mark.picture_type.rsplit('/', 1)[-1]}"
                pictures[name], said["picture"] = bytes(mark.picture), name
            marks.append(said)
        meta["marks"] = marks
        runs.append(PackedRun(meta, stored_log(run) if run.rows else None, run.analysis, pictures))
    verdicts = [
        {"layout": v.layout_key, "made_at": v.made_at.isoformat()} | {name: getattr(v, name) for name in VERDICT_KEPT}
        for v in Verdict.objects.filter(job=job)
    ]
    clips, levels = packed_sound(job, [run.pk for run in bench.runs_of(job.pk) if run.state != "draft"])
    earlier = [{"id": g.id, "channel": g.channel, "kind": g.kind, "value": g.value} for g in earlier_gaps(job.pk)[-MOST_GAPS:]]
    return Package(adapters.document(job), runs, verdicts, clips, levels, earlier)


def unpack(data: bytes, progress: Callable[[int, int], None] | None = None) -> tuple[Job, tuple[str, ...]]:
    """A new job from a package, all of it or nothing. Everything is read and reckoned before the first row is written.

    ``progress`` is told how many of the runs with readings are done; what it raises ends it with nothing stored.
    """
    opened = open_package(data)
    read = check_job(opened.job)
    job = Job(name=read.doc.name, more={"room": read.doc.room.model_dump(mode="json", exclude_unset=True)})
    runs = _runs(job, opened, progress)
    verdicts = [_checked(v, f"verdicts[{i}]") for i, v in enumerate(opened.verdicts)]
    with written_sound(opened) as sound, transaction.atomic():
        job = create_job(read.doc)
        layouts = {x.key: x for x in job.layouts.all()}
        numbers = []
        for said, made in runs:
            made.run.job, made.run.layout = job, layouts.get(said.layout)
            run = made.write()
            numbers.append(run.pk)
            if said.imported_at:
                Run.objects.filter(pk=run.pk).update(imported_at=said.imported_at)
            if said.made_at:
                Run.objects.filter(pk=run.pk).update(made_at=said.made_at)
        unpack_sound(job, opened, sound, numbers)
        brought = [BroughtRepeat(job=job, key=g.id, channel=g.channel, kind=g.kind, value=g.value) for g in opened.earlier]
        BroughtRepeat.objects.bulk_create(brought)
        for v in verdicts:
            kept = v.model_dump(include=set(VERDICT_KEPT))
            verdict = Verdict.objects.create(job=job, layout_key=v.layout, **kept)
            if v.made_at:
                Verdict.objects.filter(pk=verdict.pk).update(made_at=v.made_at)
    return job, (*read.unknown_fields, *opened.unknown_fields)


def _checked(v: VerdictSaid, place: str) -> VerdictSaid:
    """A verdict whose record, where it has one, is intact and says the same as the verdict itself. One of another version is kept whole."""
    if not v.record:
        return v
    if v.record.get("format") != RECORD_FORMAT or v.record.get("digest") != digest_of(v.record):
        raise DocumentError([Fault(f"{place}.record", "this record was changed after it was signed", _AGAIN)])
    try:
        RecordDoc.model_validate(upgraded(v.record))
    except (ValidationError, DocumentError):
        return v
    try:
        record = checked_record(v.record)
    except DocumentError as error:
        raise DocumentError([Fault(f"{place}.record.{f.path}", f.what, f.do) for f in error.faults]) from error
    if (record.layout, record.reason, record.signed_by, record.digest) != (v.layout, v.reason, v.signed_by, v.digest):
        raise DocumentError([Fault(place, "the verdict says other than its record", _AGAIN)])
    return v


def _runs(job: Job, opened: Opened, progress: Callable[[int, int], None] | None) -> list[tuple[RunSaid, NewRun]]:
    """Every run with its figures, read and reckoned a few at a time."""
    runs = [_row(job, said) for said in opened.said]
    marks: list[list[Mark]] = []
    sent: list[int] = []  # which runs have readings, in the order they were handed over

    def calls() -> Iterator[tuple[Any, ...]]:
        for i, packed in enumerate(opened.runs()):
            with _at(f"runs[{i}]"):
                marks.append([_mark(m, packed.pictures) for m in packed.said.marks])
            if packed.text:
                sent.append(i)
                yield packed.text, basis_of(runs[i], marks[i]), (), None, True

    made: dict[int, Ready] = {}
    results, cells = each_apart(ready_text, calls()), 0
    while True:
        try:
            found = next(results, None)
        except UnreadableLogError as error:
            raise DocumentError([Fault(f"runs[{sent[len(made)]}], {error.where}", error.what, error.do)]) from error
        if found is None:
            break
        made[sent[len(made)]] = found
        if progress:
            progress(len(made), len(runs))
        cells += found.rows * len({b.channel for b in found.blocks})
        if cells > MOST_CELLS:
            raise DocumentError([Fault("runs", f"more than {MOST_CELLS // 1_000_000} million readings", "Split the job.")])
    return [(said, new_run(runs[i], made.get(i), marks[i])) for i, said in enumerate(opened.said)]


@contextmanager
def _at(place: str) -> Iterator[None]:
    """Errors within name the run."""
    try:
        yield
    except DocumentError:
        raise
    except OventaError as error:
        raise DocumentError([Fault(place if not error.where else f"{place}, {error.where}", error.what, error.do)]) from error


def _row(job: Job, said: RunSaid) -> Run:
    run = Run(job=job, layout_key=said.layout)
    for name, value in said.model_dump(mode="json", include=set(KEPT)).items():
        setattr(run, name, {} if value is None and name in ("protocol", "asked", "drawn") else value)
    run.drawn = drawn_of(said)  # what it leaves open is the job's, what it says is none is none
    return run


def _mark(said: MarkSaid, pictures: dict[str, bytes]) -> Mark:
    picture = pictures.get(said.picture) if said.picture else None
    return Mark(picture=picture, picture_type=checked_picture(picture) if picture else "", **said.model_dump(include=set(MARK_KEPT)))
