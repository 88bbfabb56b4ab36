"""Whole jobs out as data packages and in again."""

from typing import Any

from django.db import transaction

from engine.errors import UnreadableLogError
from formats.errors import DocumentError, Fault
from formats.job.reader import check_job
from formats.package.document import Opened, Package, PackedRun, open_package
from formats.runlog.reader import read_log
from server.apps.bench.adapters import store_log, stored_log
from server.apps.bench.clipboard import checked_picture
from server.apps.bench.models import Mark, Run
from server.apps.bench.services import refresh
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.jobs.services import create_job
from server.apps.verdicts.models import Verdict

KEPT = (
    *(
        "name",
        "source_name",
        "typed_room_c",
        "window_s",
        "state",
        "void_reason",
        "columns",
        "notes",
        "protocol",
        "load",
        "planned",
        "asked",
    ),
    *("held", "acknowledged", "traits", "microphone", "background_dba", "by_hand", "alarms", "waived"),
    *("started_s", "ended_s", "ended_why"),
)
VERDICT_KEPT = ("reason", "margin_k", "figures", "signed_by", "digest", "record")
MARK_KEPT = ("kind", "tag", "text", "at_s", "until_s", "drop", "x_mm", "z_mm")


def pack(job: Job) -> Package:
    """A job with its runs, marks, pictures and verdicts."""
    runs = []
    for run in job.runs.exclude(state="draft").prefetch_related("marks"):
        meta: dict[str, Any] = {"layout": run.layout_key, "imported_at": run.imported_at.isoformat()}
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
    return Package(adapters.document(job), runs, verdicts)


@transaction.atomic
def unpack(data: bytes) -> tuple[Job, tuple[str, ...]]:
    """A new job from a package, all of it or nothing. Raises DocumentError naming the place."""
    opened = open_package(data)
    read = check_job(opened.job)
    job = create_job(read.doc)
    layouts = {x.key: x for x in job.layouts.all()}
    for i, (meta, text) in enumerate(opened.runs):
        _run(job, layouts, f"runs[{i}]", meta, text, opened)
    for i, v in enumerate(opened.verdicts):
        try:
            kept = {name: v[name] for name in VERDICT_KEPT if name in v}
            made = Verdict.objects.create(job=job, layout_key=v["layout"], **(kept | {"reason": v["reason"], "margin_k": v["margin_k"]}))
        except KeyError as error:
            raise DocumentError([Fault(f"verdicts[{i}]", f"{error} is missing", "Save the package again where it came from.")]) from error
        Verdict.objects.filter(pk=made.pk).update(made_at=v.get("made_at", made.made_at))
    return job, read.unknown_fields


def _run(job: Job, layouts: dict[str, Any], place: str, meta: dict[str, Any], text: bytes | None, opened: Opened) -> None:
    try:
        log = read_log(text, lenient=True).log if text else None
    except UnreadableLogError as error:
        raise DocumentError([Fault(place, error.what, error.do)]) from error
    if meta.get("state") not in ("valid", "void", "superseded"):
        raise DocumentError([Fault(f"{place}.state", "this is no state of a run", "Use valid, void or superseded.")])
    run = Run(job=job, layout=layouts.get(meta.get("layout", "")), layout_key=str(meta.get("layout", ""))[:60], duration_s=0, rows=0)
    for name in KEPT:
        if name in meta:
            setattr(run, name, meta[name])
    run.duration_s, run.rows = (log.duration_s, len(log.elapsed_s)) if log else (0, 0)
    run.save()
    if meta.get("imported_at"):
        Run.objects.filter(pk=run.pk).update(imported_at=meta["imported_at"])
        run.refresh_from_db()
    for said in meta.get("marks", []):
        picture = opened.pictures.get(said.get("picture", ""))
        kind = checked_picture(picture) if picture else ""
        Mark.objects.create(run=run, picture=picture, picture_type=kind, **{n: said[n] for n in MARK_KEPT if n in said})
    if log:
        store_log(run, log)
        refresh(run)
