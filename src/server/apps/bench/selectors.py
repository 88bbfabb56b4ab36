"""Reading runs: analyses and traces at screen resolution."""

from dataclasses import dataclass

import numpy as np

from engine.runs.analysis import RunAnalysis
from engine.runs.compare import Candidate, Pair, compare
from server.apps.bench.adapters import load_log
from server.apps.bench.models import Run
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


def trace(run: Run, points: int) -> Trace:
    """At most about ``points`` rows of a run, for drawing."""
    log = load_log(run)
    n = len(log.elapsed_s)
    stretch = max(1, -(-2 * n // max(points, 20)))
    starts = range(0, n, stretch)
    times: list[float] = []
    for i in starts:
        times += [float(log.elapsed_s[i]), float(log.elapsed_s[min(i + stretch, n) - 1])] if stretch > 1 else [float(log.elapsed_s[i])]
    channels = []
    for name, values in log.channels.items():
        drawn: list[float] = []
        for i in starts:
            part = values[i : i + stretch]
            good = part[np.isfinite(part)]
            ends = (float(good.min()), float(good.max())) if len(good) else (np.nan, np.nan)
            drawn += [*ends] if stretch > 1 else [float(values[i])]
        channels.append(TraceChannel(name, [None if v != v else round(v, 3) for v in drawn]))
    return Trace(times, channels)


def candidates(job_id: int) -> list[Candidate]:
    """Layouts that have valid runs, in the order of their letters."""
    found: dict[str, Candidate] = {}
    for run in Run.objects.filter(job_id=job_id, state="valid", layout__isnull=False).order_by("layout__order", "id"):
        found.setdefault(run.layout_key, Candidate(run.layout_key, [])).runs.append(analysis_of(run))
    return list(found.values())


def comparison(job_id: int, margin_k: float) -> list[Pair]:
    """Every pair of layouts with valid runs."""
    return compare(candidates(job_id), margin_k)
