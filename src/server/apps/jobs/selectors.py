"""Reading jobs: the list, the bin, and what is stored but cannot be read."""

import math
from collections import OrderedDict
from dataclasses import dataclass
from datetime import timedelta
from threading import Lock

from django.core import serializers
from django.db.models import Model, QuerySet
from django.shortcuts import get_object_or_404
from django.utils import timezone

from documents.job.reader import check_job
from engine.errors import OventaError
from server.apps.jobs import adapters
from server.apps.jobs.models import Case, FanPlacement, Job, Layout, Mount, Panel, Part
from server.apps.jobs.services import BIN_DAYS


@dataclass(frozen=True)
class Viewer:
    """Who asks. On a machine without accounts everybody who gets through the guard is its owner."""

    name: str = ""


OWNER = Viewer()


def job_for(viewer: Viewer, job_id: int, removed: bool = False) -> Job:
    """The one door to a job: what ``viewer`` may see of it. Raises Http404 for a job that is not there, or not there for them.

    ``removed``: also one that lies in the bin.
    """
    return get_object_or_404(Job.everything if removed else Job.objects, pk=job_id)


_MOST_KNOWN = 2000
_known: "OrderedDict[tuple[int, int, str], str]" = OrderedDict()
_lock = Lock()


def unreadable(job: Job) -> str:
    """Why a stored job cannot be opened by this version; empty for one that can. Looked at once for each state of a job."""
    key = (job.pk, job.revision, job.changed_at.isoformat())
    with _lock:
        if key in _known:
            return _known[key]
    try:
        check_job(adapters.document(job))
        why = ""
    except OventaError as error:
        why = " ".join(part for part in (f"{error.where}:" if error.where else "", error.what) if part)
    with _lock:
        _known[key] = why
        while len(_known) > _MOST_KNOWN:
            _known.popitem(last=False)
    return why


def in_bin() -> list[tuple[Job, int]]:
    """Jobs in the bin, the latest first, and for how many days yet."""
    jobs = Job.everything.filter(removed_at__isnull=False).order_by("-removed_at")
    now = timezone.now()
    left = {j.pk: (j.removed_at + timedelta(days=BIN_DAYS) - now) / timedelta(days=1) for j in jobs if j.removed_at}
    return [(j, max(math.ceil(left[j.pk]), 0)) for j in jobs]


def rows_of(job: Job) -> list[QuerySet[Model]]:
    """Every row of a job's document, as it is stored."""
    wanted = [
        Job.everything.filter(pk=job.pk),
        Case.objects.filter(job=job),
        *(m.objects.filter(case__job=job) for m in (Panel, Mount)),
        *(m.objects.filter(job=job) for m in (Part, Layout)),
        FanPlacement.objects.filter(layout__job=job),
    ]
    return wanted  # type: ignore[return-value]  # of many models


def rows_as_json(*wanted: "QuerySet[Model]") -> str:
    """Rows as JSON, whatever is in them: for what cannot be read otherwise. Binary columns are in base64."""
    text: str = serializers.serialize("json", [row for rows in wanted for row in rows], indent=1)
    return text
