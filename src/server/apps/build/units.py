"""Units of a batch: their short runs read, held against the reference runs of the layout, and kept."""

import zlib
from collections.abc import Sequence

from desk.care import certificate
from desk.care.batch import Batch, batch_of
from desk.care.commission import Cause, CommissioningDoc, Reference, commission, reference_of
from desk.job.conditions import as_drawn, drawn_otherwise
from desk.runs.ready import complete, read_as
from desk.words.measures import System
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from documents.job.reader import check_job
from documents.runlog.writer import write_log
from engine.runs.series import RunLog
from instruments.units import made_up_unit
from server.apps.bench.adapters import load_log
from server.apps.bench.selectors import runs_of
from server.apps.bench.services import checked_room
from server.apps.build.models import UnitRun
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.verdicts.learned import learning_for
from server.apps.verdicts.models import Verdict

MADE_UP = "made up"


def reference_for(job: Job, doc: JobDoc, layout: str) -> Reference:
    """The valid runs of a layout as it is drawn now. Raises DocumentError where there are none."""
    by_load: dict[str, dict[str, RunLog]] = {}
    for run in runs_of(job.pk, state="valid", layout_key=layout):
        if run.rows and not drawn_otherwise(doc, layout, run.drawn):
            by_load.setdefault(run.load or "both", {})[f"{run.name} ({run.pk})"] = load_log(run)
    return reference_of(doc, layout, by_load, learning_for(job.pk, doc))


def latest(job: Job, layout: str) -> list[UnitRun]:
    """The run of each serial number that counts, in the order in which the units came."""
    by_serial: dict[str, UnitRun] = {}
    for run in UnitRun.objects.filter(job=job, layout_key=layout).defer("log", "document"):
        by_serial[run.serial] = run
    return list(by_serial.values())


def doc_of(run: UnitRun) -> CommissioningDoc:
    return CommissioningDoc.model_validate(run.result)


def take_in(job: Job, layout: str, serial: str, name: str, data: bytes, room_c: float | None, signed_by: str) -> UnitRun:
    """Raises DocumentError for a log that says too little, a serial number that is none, or a layout without reference."""
    serial = serial.strip()
    if not serial:
        raise DocumentError([Fault("serial", "the unit has no serial number", "Give it one; it is what its certificate is kept by.")])
    doc = check_job(adapters.document(job)).doc
    reference = reference_for(job, doc, layout)
    log = complete(read_as(data).log, (), checked_room(room_c))
    found = commission(reference, log, _batch(job, doc, layout, serial))
    return UnitRun.objects.create(
        job=job,
        layout_key=layout,
        serial=serial[:80],
        name=name[:255],
        log=zlib.compress(data),
        typed_room_c=room_c,
        result=found.model_dump(mode="json"),
        document=doc.model_dump(mode="json", exclude_unset=True),
        signed_by=signed_by.strip()[:80],
    )


def _batch(job: Job, doc: JobDoc, layout: str, serial: str) -> list[CommissioningDoc]:
    """The other units of a layout that was not drawn otherwise since."""
    rows = {r.pk: r for r in latest(job, layout) if r.serial != serial}
    documents = UnitRun.objects.filter(pk__in=rows).values_list("pk", "document")
    drawn = {pk: as_drawn(check_job(then).doc, layout) for pk, then in documents}
    return [doc_of(r) for pk, r in rows.items() if not drawn_otherwise(doc, layout, drawn[pk])]


def make_up(job: Job, layout: str, cause: Cause) -> UnitRun:
    """A made-up unit's run, from the stand-in of a bench; its serial number and name say what it is."""
    doc = check_job(adapters.document(job)).doc
    reference = reference_for(job, doc, layout)
    n = UnitRun.objects.filter(job=job, layout_key=layout, name__startswith=MADE_UP).count() + 1
    log = made_up_unit(reference, cause, n)
    return take_in(job, layout, f"try {n}", f"{MADE_UP}, {cause}", write_log(log).encode(), None, "")


def batch(job: Job, layout: str) -> Batch:
    rows: Sequence[UnitRun] = latest(job, layout)
    return batch_of([(r.serial, doc_of(r)) for r in rows])


def certificate_of(run: UnitRun, units: System = "metric") -> bytes:
    """As PDF, about the job as it stood when the unit was handed in. Raises NoPdfError or TooHeavyError."""
    decided = Verdict.objects.filter(job=run.job, layout_key=run.layout_key).first()
    words = ""
    if decided:
        by = f" by {decided.signed_by}" if decided.signed_by else ""
        words = f"Decided on {decided.made_at:%d %B %Y}{by}" + (f", digest {decided.digest[:16]}." if decided.digest else ".")
    return certificate.pdf(check_job(run.document).doc, run.serial, run.at, run.signed_by, doc_of(run), words, units)
