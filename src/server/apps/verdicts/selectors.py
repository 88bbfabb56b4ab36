"""Reading: the verdict as it stands now, the runs that count, and which records still hold."""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from django.db.models import Count, Max
from django.shortcuts import get_object_or_404

from desk.forecast.document import Memory, PointMemory
from desk.verdict.document import Judged, VerdictDoc, judged
from desk.verdict.earlier import Gap, Made, gaps_of, once
from desk.verdict.record import RecordDoc, RunRef, judged_anew, moved, read_record, stale
from desk.verdict.study import Runs, Settings, Study, study
from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from documents.job.planned import ProtocolDoc
from documents.job.reader import check_job
from engine.errors import OventaError
from engine.identity import METHOD
from engine.plan.protocol import Acceptance
from engine.verdict.candidate import Candidate
from engine.verdict.confounders import JOB
from engine.verdict.reach import Reach, reaches
from engine.verdict.scatter import Scatter
from server.apps.bench import selectors as bench
from server.apps.bench.adapters import load_log
from server.apps.bench.figures import dropped
from server.apps.bench.models import Run
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job
from server.apps.verdicts.models import BroughtRepeat, Verdict

EXPORTED_DIGITS = 3
MEMORY = PointMemory()
OTHER_VERSION = "the record was made by another version of the program; its JSON is whole"
JUDGED: Memory[Judged] = Memory(16)
COMPARED: Memory[Study] = Memory(16)  # every page asks for it


@dataclass(frozen=True)
class Beside:
    """A layout of another job, shown beside this job's own."""

    job: int
    layout: str


def document_of(job_id: int) -> JobDoc:
    return check_job(document(get_object_or_404(Job, pk=job_id))).doc


def compared(job_id: int, margin_k: float | None = None) -> Study:
    """Layouts that were run against each other: what rack, verdict and record take their figures from. Without a margin the job's own."""
    settings = Settings(margin_k=margin_k)
    return _studied(state_of(job_id, settings, ()), job_id, settings)


def _studied(state: str, job_id: int, settings: Settings, beside: Sequence[Beside] = ()) -> Study:
    def made() -> Study:
        doc = document_of(job_id)
        return study(doc, _runs(job_id, doc, [_other(x, settings.load or "both") for x in beside]), settings, MEMORY)

    return COMPARED.made(state, made)


def _runs(job_id: int, doc: JobDoc, others: Sequence[Candidate] = ()) -> Runs:
    return Runs(bench.candidates_by_load(job_id), _acceptance(job_id), others, earlier_gaps(job_id), bench.changed_layouts(job_id, doc))


def reach(job_id: int, layouts: int) -> tuple[Scatter, list[Reach]]:
    """How far builds scatter, as far as it is known, and what one to four runs of each of some layouts can tell of the processor."""
    made = compared(job_id)
    scatter = made.scatter("cpu_package_c")
    return scatter, reaches(layouts, scatter)


def earlier_gaps(job_id: int) -> list[Gap]:
    """Repeats of the other jobs, of machines that were really run: what is made up or gone to the bin teaches nothing. Those that came
    with packages count too, each once."""
    found: list[Gap] = []
    for job in Job.objects.exclude(pk=job_id).filter(removed_at__isnull=True):
        found += _repeats(job.pk)
    brought = [Gap(x.channel, x.kind, x.value, x.key) for x in BroughtRepeat.objects.filter(job__removed_at__isnull=True)]
    return once([*found, *brought], _repeats(job_id)) if brought else found


def _repeats(job_id: int) -> list[Gap]:
    rows = (
        Run.objects.filter(job_id=job_id, state="valid", layout__isnull=False)
        .exclude(source_name__contains="made up")
        .order_by("made_at", "pk")
    )
    made = [
        Made(r.layout_key, r.load or bench.USUAL_LOAD, bench.analysis_of(r), f"{r.made_at}|{r.name}|{r.source_name}|{r.layout_key}")
        for r in rows
        if not bench.unreadable(r)
    ]
    return list(gaps_of(document_of(job_id), made)) if len(made) > len({(x.layout, x.load) for x in made}) else []


def verdict_now(job_id: int, settings: Settings, beside: Sequence[Beside] = ()) -> VerdictDoc:
    """What the runs of a job say at this moment; nothing is judged anew that has not changed."""
    state = state_of(job_id, settings, beside)
    return JUDGED.made(state, lambda: judged(_studied(state, job_id, settings, beside))).of(settings.chosen)


def state_of(job_id: int, settings: Settings, beside: Sequence[Beside]) -> str:
    """Everything a judgement rests on, as one short text; the layout that is argued for is not among it."""
    sha = hashlib.sha256(settings.model_dump_json(exclude={"chosen"}).encode())
    jobs = [job_id, *(x.job for x in beside)]
    sha.update(repr([*beside, list(Job.objects.filter(pk__in=jobs).order_by("pk").values_list("pk", "revision"))]).encode())
    fields = ("pk", "layout_key", "state", "load", "protocol", "held", "traits", "microphone", "imported_at", "made_at", "analysis")
    for row in Run.objects.filter(job_id__in=jobs).order_by("pk").values_list(*fields):
        sha.update(repr(row).encode())
    others = Run.objects.exclude(job_id__in=jobs).filter(job__removed_at__isnull=True)
    counted = others.order_by().values("job_id", "state").annotate(n=Count("pk"), last=Max("pk"))
    sha.update(repr(sorted(counted.values_list("job_id", "state", "n", "last"))).encode())
    brought = BroughtRepeat.objects.filter(job__removed_at__isnull=True)
    sha.update(repr(brought.aggregate(n=Count("pk"), last=Max("pk"))).encode())
    return sha.hexdigest()


def _acceptance(job_id: int) -> dict[str, list[Acceptance]]:
    found: dict[str, list[Acceptance]] = {}
    for run in bench.runs_of(job_id, state="valid", layout__isnull=False):
        judged = bench.acceptance_of(run)
        if judged:
            found.setdefault(run.layout_key, []).append(judged)
    return found


def _other(x: Beside, load: str) -> Candidate:
    """Its name says which job it is of, so that it is never taken for one of this job's."""
    job = get_object_or_404(Job, pk=x.job)
    found = next((c for c in bench.candidates_by_load(x.job).get(load, []) if c.name == x.layout), None)
    if found is None:
        what = f"layout {x.layout} of {job.name} has no valid run under this load"
        raise DocumentError([Fault("beside", what, "Choose another layout, or run it.")])
    return replace(found, name=f"{job.name}, {x.layout}", conditions=[{**c, JOB: job.name} for c in found.conditions])


def run_refs(job_id: int) -> list[RunRef]:
    """Every run of a job as a verdict counts it, those that were set aside too."""
    return [_ref(run) for run in sorted(bench.shown_runs(job_id), key=lambda r: r.pk)]


def _ref(run: Run) -> RunRef:
    room = bench.analysis_of(run).channel("room_c")
    return RunRef(
        id=run.pk,
        name=run.name,
        layout=run.layout_key,
        load=run.load or bench.USUAL_LOAD,
        state=run.state,
        void_reason=run.void_reason,
        protocol=ProtocolDoc.model_validate(run.protocol).key if run.protocol else "",
        source=run.source_name,
        made_at=run.made_at or run.imported_at,
        duration_s=run.duration_s,
        room_c=room.mean if room else None,
        traits=list(run.traits),
        flags=[f.code for f in bench.analysis_of(run).flags],
        digest=_digest(run),
    )


def _digest(run: Run) -> str:
    """Of the readings to the thousandth, as they are exported, and of what decides how they are averaged."""
    sha = hashlib.sha256(repr((run.typed_room_c, run.window_s, run.background_dba, run.by_hand, dropped(run), run.stood_still)).encode())
    try:
        log = load_log(run) if run.rows else None
    except OventaError as error:  # readings that are damaged: the run's figures stand, its digest says that they are gone
        return hashlib.sha256(f"{error.code} {run.pk}".encode()).hexdigest()
    for name, values in [] if log is None else [("elapsed_s", log.elapsed_s), *sorted(log.channels.items())]:
        sha.update(name.encode())
        sha.update(np.round(values, EXPORTED_DIGITS).tobytes())
    return sha.hexdigest()


@dataclass(frozen=True)
class Standing:
    """A verdict that was given: what has changed since (empty where it still holds), and what was another in the one before it."""

    verdict: Verdict
    stale: list[str]
    moved: list[str]
    anew: list[str]


def standings(job_id: int) -> list[Standing]:
    """Newest first."""
    verdicts = list(get_object_or_404(Job, pk=job_id).verdicts.all())
    if not verdicts:
        return []
    doc, runs = document_of(job_id), run_refs(job_id)
    records = [_readable(v) for v in verdicts]
    found = []
    for i, (v, record) in enumerate(zip(verdicts, records, strict=True)):
        before = next((r for r in records[i + 1 :] if r), None)
        unread = [OTHER_VERSION] if v.record and record is None else []
        changed = stale(record, doc, runs) if record else unread
        anew = judged_anew(record, verdict_now(job_id, record.settings)) if record and record.method != METHOD.number else []
        found.append(Standing(v, changed, moved(before, record) if record and before else [], anew))
    return found


def _readable(v: Verdict) -> RecordDoc | None:
    try:
        return read_record(v.record) if v.record else None
    except DocumentError:
        return None


def record_of(verdict_id: int) -> RecordDoc:
    """Raises DocumentError for a verdict that was given before records were kept."""
    found = get_object_or_404(Verdict, pk=verdict_id)
    if not found.record:
        raise DocumentError([Fault("record", "this verdict has no record", "Freeze the verdict anew; the old one stays readable.")])
    return read_record(found.record)
