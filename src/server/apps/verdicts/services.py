"""Freezing verdicts, and bringing in records and replications of others."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from formats.job.reader import check_job
from formats.verdict.record import RecordDoc, checked_drawings, read_record
from formats.verdict.study import Settings
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job, Layout
from server.apps.jobs.services import create_job
from server.apps.verdicts.models import Verdict
from server.apps.verdicts.selectors import run_refs, verdict_now


@transaction.atomic
def freeze(job_id: int, layout_key: str, reason: str, signed_by: str, settings: Settings, drawings: Mapping[str, str]) -> Verdict:
    """Records a decision with the whole argument as it stands; earlier records stay."""
    layout = get_object_or_404(Layout, job_id=job_id, key=layout_key)
    asked = settings.model_copy(update={"chosen": layout.key})
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
        drawings=checked_drawings(drawings),
        previous=before.digest if before else "",
    ).sealed()
    return _store(layout.job, record, found.margin_k)


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


@transaction.atomic
def import_record(data: Mapping[str, Any]) -> tuple[Job, tuple[str, ...]]:
    """A job from a frozen record: its document, and the verdict as it was signed; the readings stay where they were made."""
    record = read_record(data)
    read = check_job(record.document)
    job = create_job(read.doc)
    made = _store(job, record, record.verdict.margin_k)
    Verdict.objects.filter(pk=made.pk).update(made_at=record.made_at)
    return job, read.unknown_fields
