"""Reading runs: analyses and traces at screen resolution."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

import numpy as np
from django.db.models import QuerySet
from django.utils import timezone

from engine.runs.analysis import RunAnalysis
from engine.runs.compare import Candidate, Pair, compare
from engine.runs.live import thinned
from engine.runs.series import Floats
from server.apps.bench.adapters import load_log
from server.apps.bench.models import Run, Session
from server.apps.bench.services import ANALYSIS


@dataclass(frozen=True)
class TraceChannel:
    name: str
    values: list[float | None]


@dataclass(frozen=True)
class Trace:
    """Readings thinned to screen resolution: lowest and highest of each stretch are kept, so no spike is lost."""

    elapsed_s: list[float]
    channels: list[TraceChannel]


def analysis_of(run: Run) -> RunAnalysis:
    return ANALYSIS.validate_python(run.analysis)


def shown_runs(job_id: int) -> QuerySet[Run]:
    """Runs that are over and have readings: drafts are the bench's, and a draft discarded before it began has nothing to show."""
    return Run.objects.filter(job_id=job_id).exclude(state="draft").exclude(rows=0)


def planned_done(job_id: int) -> set[str]:
    """Planned runs that have a valid run."""
    return set(Run.objects.filter(job_id=job_id, state="valid").exclude(planned="").values_list("planned", flat=True))


def sources(bench_id: int) -> list[dict[str, Any]]:
    """Who has sent readings lately."""
    now = timezone.now()
    recent = Session.objects.filter(bench_id=bench_id, heard_at__gte=now - timedelta(minutes=10)).order_by("-heard_at")[:8]
    return [{"source": s.source or "a sender without a name", "heard_s_ago": (now - s.heard_at).total_seconds()} for s in recent]


def trace(run: Run, points: int, from_s: float | None = None, to_s: float | None = None) -> Trace:
    """At most about ``points`` rows of a run or of a stretch of it, for drawing."""
    log = load_log(run, from_s, to_s)
    times, channels = thinned(log, points, -np.inf if from_s is None else from_s, np.inf if to_s is None else to_s)
    return trace_of(times, channels)


def trace_of(times: Floats, channels: dict[str, Floats]) -> Trace:
    """Arrays as lists, readings to the thousandth, None where there was none."""
    drawn = [TraceChannel(n, [None if x != x else x for x in np.round(v, 3).tolist()]) for n, v in channels.items()]
    return Trace(np.round(times, 2).tolist(), drawn)


def candidates(job_id: int) -> list[Candidate]:
    """Layouts that have valid runs, in the order of their letters."""
    found: dict[str, Candidate] = {}
    for run in Run.objects.filter(job_id=job_id, state="valid", layout__isnull=False).order_by("layout__order", "id"):
        found.setdefault(run.layout_key, Candidate(run.layout_key, [])).runs.append(analysis_of(run))
    return list(found.values())


def comparison(job_id: int, margin_k: float) -> list[Pair]:
    """Every pair of layouts with valid runs."""
    return compare(candidates(job_id), margin_k)
