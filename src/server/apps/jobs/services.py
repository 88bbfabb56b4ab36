"""Changes to jobs: check, then do, in one short transaction."""

from datetime import timedelta

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from documents.job.models import JobDoc
from documents.job.reader import check_job, read_job
from documents.job.starter import starter_document
from engine.errors import ImpossibleInputError, OventaError
from server.apps.jobs import adapters
from server.apps.jobs.models import Job, Save
from server.apps.library.models import LibraryCase

BIN_DAYS = 30
KEPT_SAVES = 50  # of a job: more than any screen sends again


class StaleRevisionError(OventaError):
    """Another screen saved this job in the meantime."""

    code = "stale_revision"


@transaction.atomic
def create_job(doc: JobDoc) -> Job:
    """A new job from a checked document."""
    job = Job(name=doc.name)
    adapters.store(job, doc)
    return job


def start_job(name: str, case_key: str | None) -> Job:
    """A new job from an empty box or from a case of the library, with one empty layout."""
    case = get_object_or_404(LibraryCase, key=case_key).document if case_key else None
    return create_job(check_job(starter_document(name, case)).doc)


def duplicate_job(job_id: int) -> Job:
    """A copy of a job's document under a name of its own, without runs and records."""
    raw = adapters.document(get_object_or_404(Job, pk=job_id))
    taken = set(Job.objects.values_list("name", flat=True))
    stem = f"{raw['name'][:180]}, copy"
    raw["name"] = next(name for name in (stem, *(f"{stem} {n}" for n in range(2, len(taken) + 3))) if name not in taken)
    return create_job(check_job(raw).doc)


def import_job(text: bytes) -> tuple[Job, tuple[str, ...]]:
    """A new job from a file's bytes, and the paths of fields this version keeps but does not use."""
    read = read_job(text)
    return create_job(read.doc), read.unknown_fields


@transaction.atomic
def save_document(job_id: int, revision: int, doc: JobDoc, key: str = "") -> int:
    """Replaces a job's document; returns the revision that made. Raises StaleRevisionError when it was changed since ``revision``.

    A save whose ``key`` was taken before is that save sent again: nothing is done, and its own revision is the answer.
    """
    job = get_object_or_404(Job, pk=job_id)
    known = Save.objects.filter(job=job, key=key).first() if key else None
    if known:
        return known.revision
    if job.revision != revision:
        what = f"the job was changed in another window (revision {job.revision}, this screen had {revision})"
        raise StaleRevisionError(what, f"job {job_id}", "Choose which state to keep; nothing typed here is lost.")
    job.revision += 1
    adapters.store(job, doc)
    if key:
        Save.objects.create(job=job, key=key, revision=job.revision)
        Save.objects.filter(job=job, revision__lte=job.revision - KEPT_SAVES).delete()
    return job.revision


def saved_key(job: Job) -> str:
    """The key of the save that made the present revision; empty where none was given."""
    last = Save.objects.filter(job=job, revision=job.revision).first()
    return last.key if last else ""


@transaction.atomic
def remove_job(job_id: int) -> None:
    """Into the bin, with its runs and verdicts; it can be taken out for thirty days. Raises ImpossibleInputError while a run is live."""
    job = get_object_or_404(Job, pk=job_id)
    live = job.runs.filter(state="draft").first()
    if live:
        raise ImpossibleInputError(f"{live.name} is being made", job.name, "End or discard it at its bench first.")
    Job.objects.filter(pk=job.pk).update(removed_at=timezone.now())


def restore_job(job_id: int) -> Job:
    """Out of the bin, as it was."""
    job = get_object_or_404(Job.everything, pk=job_id)
    Job.everything.filter(pk=job.pk).update(removed_at=None)
    return get_object_or_404(Job, pk=job_id)


def empty_bin() -> int:
    """Deletes for good what a person put into the bin thirty days ago; returns how many jobs."""
    old = Job.everything.filter(removed_at__lt=timezone.now() - timedelta(days=BIN_DAYS))
    count = old.count()
    old.delete()
    return count
