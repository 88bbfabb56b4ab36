"""Freezing verdicts, and bringing in records and replications of others."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from desk.verdict.drawing import check_drawings, drawings_to_keep
from desk.verdict.record import RecordDoc, read_record
from desk.verdict.study import Settings
from documents.job.reader import check_job
from server.apps.bench.figures import TRIES, ChangedMeanwhileError
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job, Layout
from server.apps.jobs.services import create_job
from server.apps.verdicts.heard import sounds
from server.apps.verdicts.models import Verdict
from server.apps.verdicts.observed import observations
from server.apps.verdicts.selectors import run_refs, state_of, verdict_now


def freeze(job_id: int, layout_key: str, reason: str, signed_by: str, settings: Settings, drawings: Mapping[str, str]) -> Verdict:
    """Records a decision with the whole argument as it stands; earlier records stay. What is signed is what was judged: if the job or a run
    changes while the argument is worked out, it is worked out again.
    """
    kept = drawings_to_keep(drawings)
    for _ in range(TRIES):
        layout = get_object_or_404(Layout.objects.select_related("job"), job_id=job_id, key=layout_key)
        asked = settings.model_copy(update={"chosen": layout.key})
        state = state_of(job_id, asked, ())
        before = Verdict.objects.filter(job_id=job_id).exclude(digest="").first()
        found = verdict_now(job_id, asked)
        record = RecordDoc(
            job=layout.job.name,
            layout=layout.key,
            reason=reason.strip(),
            signed_by=signed_by.strip(),
            made_at=timezone.now(),
            settings=asked,
            verdict=found,
            document=document(layout.job),
            runs=run_refs(job_id),
            drawings=kept,
            observations=observations(job_id),
            sounds=sounds(job_id),
            previous=before.digest if before else "",
        ).sealed()
        with transaction.atomic():
            newest = Verdict.objects.filter(job_id=job_id).exclude(digest="").first()
            if state_of(job_id, asked, ()) == state and newest == before:
                return _store(layout.job, record, found.margin_k)
    raise ChangedMeanwhileError("the job is being changed at the same time", "verdict", "Freeze it again in a moment.")


def _store(job: Job, record: RecordDoc, margin_k: float) -> Verdict:
    return Verdict.objects.create(
        job=job,
        layout_key=record.layout,
        reason=record.reason,
        margin_k=margin_k,
        signed_by=record.signed_by,
        digest=record.digest,
        record=record.model_dump(mode="json"),
    )


def checked_record(raw: Mapping[str, Any]) -> RecordDoc:
    """A record from elsewhere. Raises DocumentError for one that was changed, that this version cannot read, or with odd drawings in it."""
    record = read_record(raw)
    check_drawings(record.drawings)
    return record


def import_record(data: Mapping[str, Any]) -> tuple[Job, tuple[str, ...]]:
    """A job from a frozen record: its document, and the verdict as it was signed; the readings stay where they were made."""
    record = checked_record(data)
    read = check_job(record.document)
    with transaction.atomic():
        job = create_job(read.doc)
        made = _store(job, record, record.verdict.margin_k)
        Verdict.objects.filter(pk=made.pk).update(made_at=record.made_at)
    return job, read.unknown_fields
