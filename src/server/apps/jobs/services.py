"""Changes to jobs: check, then do, in one short transaction."""

from django.db import transaction
from django.shortcuts import get_object_or_404

from engine.errors import OventaError
from formats.job.models import JobDoc
from formats.job.reader import check_job, read_job
from formats.job.starter import starter_document
from server.apps.jobs import adapters
from server.apps.jobs.models import Job
from server.apps.library.models import LibraryCase


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


def import_job(text: bytes) -> tuple[Job, tuple[str, ...]]:
    """A new job from a file's bytes, and the paths of fields this version keeps but does not use."""
    read = read_job(text)
    return create_job(read.doc), read.unknown_fields


@transaction.atomic
def save_document(job_id: int, revision: int, doc: JobDoc) -> Job:
    """Replaces a job's document. Raises StaleRevisionError when it was changed since ``revision``."""
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if job.revision != revision:
        what = f"the job was changed in another window (revision {job.revision}, this screen had {revision})"
        raise StaleRevisionError(what, f"job {job_id}", "Reload to see the newer state; your last change is not lost from this screen.")
    job.revision += 1
    adapters.store(job, doc)
    return job
