"""Reading runs: analyses and traces at screen resolution."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from django.db.models import Model, QuerySet
from django.shortcuts import get_object_or_404
from pydantic import ValidationError

from desk.job.asked import asked_of
from desk.job.conditions import changed_since, made_with, named_of, parts_of
from desk.job.difference import built_with as words_of
from desk.plan.minutes import Gap
from desk.plan.runsheet import COOL_DOWN_MIN
from desk.runs.heard import heard_over_time
from desk.runs.ready import ANALYSIS
from documents.job.asked import Asked
from documents.job.models import JobDoc, LayoutDoc
from documents.job.planned import ProtocolDoc
from documents.job.reader import check_job, path_of
from documents.package.said import RunSaid
from engine.errors import MissingFigureError
from engine.plan.acceptance import StatisticFigure, by_statistic, judge, judged_by
from engine.plan.protocol import HELD, Acceptance, Protocol
from engine.plan.watch import speeds_off_in
from engine.runs.analysis import RunAnalysis
from engine.runs.budget import METER_WORDS
from engine.runs.live import thinned
from engine.runs.series import Floats
from engine.sound.changes import OverTime
from engine.verdict.candidate import Candidate
from engine.verdict.drift import Apart, against_control, without_drift
from server.apps.bench.adapters import DAMAGED, UnreadableReadingsError, load_log, nothing_stored
from server.apps.bench.models import Mark, ReadingBlock, Run
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job

STORED = tuple(name for name in RunSaid.model_fields if name not in ("file", "layout", "marks"))
MICROPHONE_PLACED = ("place", "side", "height_m")  # beside its distance
USUAL_LOAD = "both"  # of a log that does not say


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
    """What was made of a run when it ended. Raises ImpossibleInputError for one that has nothing yet, UnreadableReadingsError for a
    damaged one."""
    if not run.rows and not run.analysis:
        raise nothing_stored(run)
    try:
        found: RunAnalysis = ANALYSIS.validate_python(run.analysis)
    except ValidationError as error:
        raise UnreadableReadingsError(f"its figures are damaged ({_first(error)})", run.name, DAMAGED) from error
    return found


def _first(error: ValidationError) -> str:
    first = error.errors()[0]
    return f"{path_of(first['loc'])}: {first['msg']}"


def unreadable(run: Run) -> str:
    """Why a stored run cannot be read by this version; empty for one that can."""
    try:
        RunSaid.model_validate({name: getattr(run, name) for name in STORED} | {"layout": run.layout_key})
        if run.rows:
            ANALYSIS.validate_python(run.analysis)
    except ValidationError as error:
        return _first(error)
    if not math.isfinite(run.duration_s):
        return "its duration is no number"
    return ""


def runs_of(job_id: int, **wanted: Any) -> list[Run]:
    """Runs of a job that this version can read, in the order of their layouts; others are listed by ``unreadable_runs``."""
    runs = get_object_or_404(Job, pk=job_id).runs.filter(**wanted).select_related("job", "layout")
    return [run for run in runs if not unreadable(run)]


def unreadable_runs(job_id: int) -> list[tuple[Run, str]]:
    """Stored runs that cannot be read, with the reason."""
    runs = get_object_or_404(Job, pk=job_id).runs.exclude(state="draft")
    return [(run, why) for run in runs if (why := unreadable(run))]


def shown_runs(job_id: int) -> list[Run]:
    """Runs that are over and have readings: drafts are the bench's, and a draft discarded before it began has nothing to show."""
    return [run for run in runs_of(job_id, rows__gt=0) if run.state != "draft"]


def rows_of(runs: QuerySet[Run]) -> list[QuerySet[Model]]:
    """Every row of some runs as it is stored."""
    return [runs, ReadingBlock.objects.filter(run__in=runs), Mark.objects.filter(run__in=runs)]


def planned_done(job_id: int) -> set[str]:
    """Planned runs that have a valid run."""
    return set(Run.objects.filter(job_id=job_id, state="valid").exclude(planned="").values_list("planned", flat=True))


def trace(run: Run, points: int, from_s: float | None = None, to_s: float | None = None) -> Trace:
    """At most about ``points`` rows of a run or of a stretch of it, for drawing."""
    log = load_log(run, from_s, to_s)
    times, channels = thinned(log, points, -np.inf if from_s is None else from_s, np.inf if to_s is None else to_s)
    return trace_of(times, channels)


def heard(run: Run) -> tuple[OverTime | None, float | None]:
    """A run's level over its time, against the limit of sound of its job; None where none was logged."""
    limit = check_job(document(run.job)).doc.room.sound_limit_dba
    return heard_over_time(load_log(run), limit), limit


def trace_of(times: Floats, channels: dict[str, Floats]) -> Trace:
    """Arrays as lists, readings to the thousandth, None where there was none."""
    drawn = [TraceChannel(n, [None if x != x else x for x in np.round(v, 3).tolist()]) for n, v in channels.items()]
    return Trace(np.round(times, 2).tolist(), drawn)


def candidates(job_id: int, load: str | None = None) -> list[Candidate]:
    """Layouts that have valid runs under one load, in the order of their letters; the load most runs have, where none is named."""
    by_load = candidates_by_load(job_id)
    usual = max(by_load, key=lambda x: sum(len(c.runs) for c in by_load[x]), default=USUAL_LOAD)
    return by_load.get(load or usual, [])


def candidates_by_load(job_id: int) -> dict[str, list[Candidate]]:
    """Layouts with their valid runs for every load that was run, each run by its protocol's statistic."""
    return named_candidates(job_id)[0]


def named_candidates(job_id: int) -> tuple[dict[str, list[Candidate]], dict[tuple[str, str], list[str]]]:
    """``candidates_by_load`` and ``run_names`` of the same moment: a run may come in between two looks."""
    runs = _judged(job_id)
    return _candidates(job_id, runs), _names(runs)


def _candidates(job_id: int, runs: Sequence[Run]) -> dict[str, list[Candidate]]:
    job = get_object_or_404(Job, pk=job_id)
    doc = check_job(document(job)).doc if runs else None
    parts, named = (parts_of(doc), named_of(doc)) if doc else ({}, {})
    asked = {key: asked_of(doc, key).speeds_rpm for key in {r.layout_key for r in runs}} if doc else {}
    found: dict[str, dict[str, Candidate]] = {}
    speeds: dict[tuple[str, str], list[tuple[Mapping[str, float], Mapping[str, float]]]] = {}
    for run in runs:
        candidate = found.setdefault(run.load or USUAL_LOAD, {}).setdefault(
            run.layout_key, Candidate(run.layout_key, named=named.get(run.layout_key, {}))
        )
        candidate.runs.append(judged_by(analysis_of(run), protocol_of(run).statistic) if run.protocol else analysis_of(run))
        candidate.conditions.append(parts.get(run.layout_key, {}) | conditions_of(run))
        means = {c.name: c.mean for c in candidate.runs[-1].channels}
        wanted = Asked.model_validate(run.asked).speeds_rpm if run.asked else asked[run.layout_key]
        speeds.setdefault((run.load or USUAL_LOAD, run.layout_key), []).append((wanted, means))
        if run.made_at:  # a time of import says nothing of the campaign
            candidate.hours.append(run.made_at.timestamp() / 3600)
    for (load, layout), of_runs in speeds.items():
        found[load][layout].remarks.extend(speeds_off_in(of_runs))
    return {load: list(of_load.values()) for load, of_load in found.items()}


def _judged(job_id: int) -> list[Run]:
    """Valid runs of a job's layouts, in the order of their letters and as they were made."""
    return sorted(runs_of(job_id, state="valid", layout__isnull=False), key=lambda r: (r.layout.order if r.layout else 0, r.pk))


def run_names(job_id: int) -> dict[tuple[str, str], list[str]]:
    """Names of the runs of ``candidates_by_load`` in their order, by (load, layout); of one name twice the second has a number."""
    return _names(_judged(job_id))


def _names(runs: Sequence[Run]) -> dict[tuple[str, str], list[str]]:
    found: dict[tuple[str, str], list[str]] = {}
    seen: dict[str, int] = {}
    for run in runs:
        seen[run.name] = seen.get(run.name, 0) + 1
        name = run.name if seen[run.name] == 1 else f"{run.name} ({seen[run.name]})"
        found.setdefault((run.load or USUAL_LOAD, run.layout_key), []).append(name)
    return found


def _drawn(run: Run) -> dict[str, Any]:
    """Its layout as it was drawn. Packages read by version 0.10.0 and before filled in as none what the layout had left to the job: a
    machine without a processor was never run."""
    drawn: dict[str, Any] = run.drawn
    return {k: v for k, v in drawn.items() if v is not None} if "cpu" in drawn and drawn["cpu"] is None else drawn


def built_with(runs: Sequence[Run]) -> dict[int, list[str]]:
    """By the key of a run of one job: what was not as the case was delivered when it was made; nothing for a layout that is gone."""
    doc = check_job(document(runs[0].job)).doc if runs else None
    if doc is None:
        return {}
    now = {x.id: x for x in doc.layouts}
    then = {r.pk: LayoutDoc.model_validate(_drawn(r) | {"id": r.layout_key}) if r.drawn else now.get(r.layout_key) for r in runs}
    return {key: words_of(doc, layout) if layout else [] for key, layout in then.items()}


def drawn_then(job_id: int, layout: str) -> dict[str, Any] | None:
    """A layout as it was drawn when its valid runs were made; None where they do not say, or not all the same."""
    drawn = [{k: v for k, v in _drawn(r).items() if k != "name"} for r in _judged(job_id) if r.layout_key == layout]
    return drawn[0] if drawn and drawn[0] and all(d == drawn[0] for d in drawn) else None


def layouts_by_time(job_id: int) -> list[str]:
    """Layouts of a job's valid runs in the order in which they were made, as far as that is known."""
    made = [(r.made_at, r.layout_key) for r in _judged(job_id) if r.made_at]
    return [layout for _, layout in sorted(made)]


def rebuild_gaps(job_id: int) -> list[Gap]:
    """Rebuilds between runs of a job that followed each other, by the clock; a made-up machine's are none."""
    runs = Run.objects.filter(job_id=job_id, made_at__isnull=False).exclude(drawn={}).exclude(bench__made_up=True).order_by("made_at")
    found = []
    for one, two in pairwise(runs.only("made_at", "duration_s", "drawn", "layout_key", "protocol")):
        if one.layout_key == two.layout_key or one.made_at is None or two.made_at is None:
            continue
        minutes = (two.made_at - one.made_at).total_seconds() / 60 - one.duration_s / 60
        cools = COOL_DOWN_MIN if two.protocol.get("cool_down_k") is not None else 0.0
        found.append(Gap(LayoutDoc.model_validate(_drawn(one)), LayoutDoc.model_validate(_drawn(two)), minutes, cools))
    return found


def changed_layouts(job_id: int, doc: JobDoc) -> dict[str, list[str]]:
    """Layouts with valid runs that were made with other parts, or in another setting, than they have now."""
    now = {x.id: made_with(doc, x.id) for x in doc.layouts}
    found: dict[str, list[str]] = {}
    for run in runs_of(job_id, state="valid", layout__isnull=False):
        if run.made_with and (what := changed_since(run.made_with, now.get(run.layout_key, {}))):
            known = found.setdefault(run.layout_key, [])
            known += [words for words in what if words not in known]
    return found


def protocol_of(run: Run) -> Protocol:
    return ProtocolDoc.model_validate(run.protocol).to_engine()


def conditions_of(run: Run) -> dict[str, str]:
    """What should be the same in runs that are compared; nothing of it for a run that does not say."""
    found = {HELD.get(k, k): v for k, v in run.held.items() if k != "panels"}
    if run.protocol:
        protocol = ProtocolDoc.model_validate(run.protocol)
        found |= {"protocol": protocol.key, "statistic": protocol.statistic.replace("_", " ")}
    if run.microphone.get("distance_m"):
        found["microphone's distance"] = f"{run.microphone['distance_m']:g} m"
    for name in MICROPHONE_PLACED:
        if run.microphone.get(name):
            found[f"microphone's {name.removesuffix('_m')}"] = f"{run.microphone[name]}"
    if run.microphone.get("meter"):
        found["microphone's meter"] = METER_WORDS[run.microphone["meter"]]
    if run.traits:
        found["traits"] = ", ".join(sorted(run.traits))
    return found


def acceptance_of(run: Run) -> Acceptance | None:
    """Against the criteria of the run's own protocol; None where it has none."""
    protocol = protocol_of(run) if run.protocol else None
    return judge(analysis_of(run), protocol.criteria, protocol.statistic, run.ended_why) if protocol and protocol.criteria else None


def protocol_figures(run: Run) -> list[StatisticFigure]:
    """Figures by the run's own protocol, where its statistic is another than the mean of the window."""
    protocol = protocol_of(run) if run.protocol else None
    return by_statistic(analysis_of(run), protocol.statistic) if protocol else []


JUDGED = ("cpu_package_c", "card_core_c", "coolant_c")


@dataclass(frozen=True)
class CampaignDrift:
    control: str
    channel: str
    hours: float
    drift_k: float
    shown: bool  # more than the scatter from run to run explains: verdicts take it away
    lines: list[Apart]


def campaign_drift(job_id: int) -> list[CampaignDrift]:
    """How the control moved between its planned runs, per channel, and the others with and without it; empty without a repeat."""
    control = (get_object_or_404(Job, pk=job_id).more.get("plan") or {}).get("control")
    shown = {c.channel: c.corrected for c in without_drift(candidates(job_id, USUAL_LOAD), control)[1]}
    runs = [r for r in runs_of(job_id, state="valid", load__in=["", USUAL_LOAD]) if r.planned]
    timed = sorted((r.made_at.timestamp() / 3600, r) for r in runs if r.made_at)
    rises = [(r.layout_key, hour, analysis_of(r)) for hour, r in timed]
    found = []
    for channel in JUDGED:
        figures = [(key, at, c.rise_k) for key, at, run in rises if (c := run.channel(channel)) and c.rise_k is not None]
        try:
            moved, lines = against_control(channel, figures, str(control))
        except MissingFigureError:
            continue
        found.append(CampaignDrift(str(control), channel, moved.hours, moved.whole_k, shown.get(channel, False), lines))
    return found
