"""Care of a machine as it is stored: settings, what was done, a later run held against the first ones."""

from collections.abc import Sequence
from datetime import date

from django.utils import timezone

from desk.care.commission import CommissioningDoc, commission
from desk.care.keeping import CareDoc, Dust, care
from desk.forecast.document import Oracle, Question
from desk.learn.document import LearnedOracle
from desk.runs.ready import complete, read_as
from desk.words.care import ITEMS
from desk.words.chance import chance_words
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.runs.analysis import RunAnalysis
from server.apps.bench.selectors import analysis_of, runs_of
from server.apps.bench.services import checked_room
from server.apps.build.models import Care, CareEntry
from server.apps.build.units import reference_for
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.verdicts.learned import learning_for
from server.apps.verdicts.models import Verdict


def settings_of(job: Job, doc: JobDoc) -> Care:
    """As they were said; else the decided layout, or the first, and the day on which the job was begun."""
    care_of = Care.objects.filter(job=job).first() or Care(job=job)
    known = {x.id for x in doc.layouts}
    if care_of.layout_key not in known:
        decided = Verdict.objects.filter(job=job).first()
        chosen = decided.layout_key if decided and decided.layout_key in known else ""
        care_of.layout_key = chosen or (doc.layouts[0].id if doc.layouts else "")
    if care_of.built_on is None:
        care_of.built_on = job.created_at.date()
    return care_of


def built_said(job: Job) -> bool:
    return Care.objects.filter(job=job, built_on__isnull=False).exists()


def change(job: Job, **said: object) -> None:
    doc = check_job(adapters.document(job)).doc
    own, known = settings_of(job, doc), built_said(job)
    if not known:
        own.built_on = None
    for name, value in said.items():
        setattr(own, name, value)
    if own.layout_key not in {x.id for x in doc.layouts}:
        raise DocumentError([Fault("layout", f"there is no layout {own.layout_key!r}", "Choose one of the job's.")])
    own.save()


def entries(job: Job) -> list[CareEntry]:
    return list(CareEntry.objects.filter(job=job))


def note(job: Job, item: str, done_on: date, minutes: float | None, words: str) -> CareEntry:
    """Raises DocumentError for what is no item of care, or a day to come."""
    if item not in ITEMS:
        raise DocumentError([Fault("item", f"{item!r} is nothing that is cared for", f"Use one of {', '.join(ITEMS)}.")])
    if done_on > timezone.localdate():
        raise DocumentError([Fault("done_on", f"{done_on} is still to come", "Give the day on which it was done.")])
    return CareEntry.objects.create(job=job, item=item, done_on=done_on, minutes=minutes, note=words.strip()[:500])


def care_now(job: Job) -> tuple[CareDoc, Care]:
    """What is due for the layout that stands. Raises DocumentError for a job without a layout."""
    doc = check_job(adapters.document(job)).doc
    own = settings_of(job, doc)
    if not own.layout_key:
        raise DocumentError([Fault("layouts", "there is no layout yet", "Draw one; what it needs over the years follows from it.")])
    learning = learning_for(job.pk, doc)
    question = Question(layouts=[own.layout_key])
    oracle = LearnedOracle(learning, question) if learning.anything else Oracle(doc, question)
    last: dict[str, date] = {}
    for e in CareEntry.objects.filter(job=job, struck=False).order_by("done_on"):
        last[e.item] = e.done_on
    assert own.built_on is not None
    dust: Dust = own.dust if own.dust in ("little", "much") else "usual"  # type: ignore[assignment]  # one of the three
    return care(oracle, own.layout_key, own.built_on, timezone.localdate(), last, dust, _analyses(job, own.layout_key)), own


def _analyses(job: Job, layout: str) -> Sequence[RunAnalysis]:
    return [analysis_of(r) for r in runs_of(job.pk, state="valid", layout_key=layout)]


def recheck(job: Job, data: bytes, room_c: float | None) -> CommissioningDoc:
    """A later run of this very machine, held against the first ones at equal room. It is noted as done."""
    doc = check_job(adapters.document(job)).doc
    own = settings_of(job, doc)
    log = complete(read_as(data).log, (), checked_room(room_c))
    found = commission(reference_for(job, doc, own.layout_key), log, same_machine=True)
    first = next((d for d in found.diagnosis), None)
    likeliest = f": {first.words}, {chance_words(first.chance_pct / 100)}" if first else ""
    note(job, "recheck", timezone.localdate(), None, f"{found.verdict}{likeliest}")
    return found
