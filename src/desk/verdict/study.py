"""One job's runs under one load, compared once; everything the verdict says is read from it."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from pydantic import BaseModel, Field

from desk.forecast.document import Load as ForecastLoad
from desk.forecast.document import Oracle, PointMemory, Question
from desk.verdict.earlier import Gap, priors
from desk.verdict.facts import LayoutFacts, all_changes, facts_of
from desk.verdict.unlike import sized
from documents.errors import DocumentError, Fault
from documents.job.base import Id
from documents.job.models import JobDoc, LayoutDoc, PrioritiesDoc
from engine.plan.protocol import Acceptance, Load
from engine.plan.rebuild import Change
from engine.runs.budget import Budget
from engine.verdict.candidate import Candidate
from engine.verdict.choose import PROFILES
from engine.verdict.compare import Pair, Word, compare, judged_channels, layout_budget, pair_budget
from engine.verdict.drift import Corrected, suspected, without_drift
from engine.verdict.ends import with_ends
from engine.verdict.scatter import Prior, Scatter, pooled_scatter

FORECAST_LOADS: Mapping[str, ForecastLoad] = {"idle": "idle", "cpu": "cpu", "card": "card", "both": "both"}


class Settings(BaseModel):
    """What the person asks. ``profile`` names a set of weights; without one the job's own count."""

    load: Load | None = None
    margin_k: float | None = Field(default=None, gt=0, le=20)  # else the job's own
    profile: str | None = None
    weights: PrioritiesDoc | None = None
    level_dba: float | None = Field(default=None, gt=0, le=120)
    reference: Id | None = None
    chosen: Id | None = None
    cpu_share: float = Field(default=0.5, ge=0, le=1)  # in the mean of processor and card
    seed: int = 1


@dataclass(frozen=True)
class Runs:
    """What a job's runs bring: candidates by load, acceptance by layout, layouts of other jobs shown beside."""

    by_load: Mapping[str, Sequence[Candidate]]
    acceptance: Mapping[str, Sequence[Acceptance]] = field(default_factory=dict)
    beside: Sequence[Candidate] = ()
    earlier: Sequence[Gap] = ()  # repeats of the person's earlier jobs
    changed: Mapping[str, Sequence[str]] = field(default_factory=dict)  # layout -> what is another now than when its runs were made


@dataclass(frozen=True)
class Study:
    doc: JobDoc
    oracle: Oracle
    settings: Settings
    runs: Runs
    load: str
    candidates: list[Candidate]
    pairs: list[Pair]
    drift: list[Corrected]
    reference: str
    layouts: dict[str, LayoutDoc]
    differ: dict[tuple[str, str], list[Change]]
    facts: dict[str, LayoutFacts]
    priors: dict[str, Prior]

    @property
    def margin_k(self) -> float:
        return self.settings.margin_k or self.doc.practice.margin_k

    @property
    def names(self) -> list[str]:
        """Layouts of this job that were run under the load, in the rack's order."""
        return [c.name for c in self.candidates if c.name in self.layouts]

    @property
    def own(self) -> list[Candidate]:
        return [c for c in self.candidates if c.name in self.layouts]

    @property
    def weights(self) -> dict[str, float]:
        if self.settings.profile:
            return dict(PROFILES[self.settings.profile])
        given: dict[str, float] = (self.settings.weights or self.doc.priorities).model_dump(include=set(PrioritiesDoc.model_fields))
        return given

    @cached_property
    def _known(self) -> dict[tuple[str, str], Budget | None]:
        return {}

    def budget(self, layout: str, channel: str) -> Budget | None:
        """Of a layout's figure of one channel; None where no judged run has it."""
        key = layout, channel
        if key not in self._known:
            self._known[key] = layout_budget(self.candidates, self.candidate(layout), channel, self.scatter(channel))
        return self._known[key]

    def scatter(self, channel: str) -> Scatter:
        if channel not in self._scatters:
            self._scatters[channel] = pooled_scatter(self.candidates, channel, self.priors.get(channel))
        return self._scatters[channel]

    @cached_property
    def _scatters(self) -> dict[str, Scatter]:
        return {}

    def figure(self, layout: str, channel: str) -> tuple[float, float] | None:
        """(mean, standard uncertainty among layouts measured with the same sensors)."""
        found = self.budget(layout, channel)
        return (found.value, found.among_alike) if found else None

    def difference_budget(self, other: str, layout: str, channel: str) -> Budget | None:
        """Of ``layout`` less ``other``; what both share by their sensors is not in it."""
        return pair_budget(self.candidates, self.candidate(other), self.candidate(layout), channel, self.scatter(channel))

    def candidate(self, layout: str) -> Candidate:
        return next(c for c in self.candidates if c.name == layout)

    @cached_property
    def _words(self) -> dict[tuple[str, str, str], Word]:
        return {(a, b, p.channel): p.word for p in self.pairs for a, b in ((p.a, p.b), (p.b, p.a)) if p.difference_k is not None}

    def told_by(self, channel: str, layouts: Iterable[str]) -> str:
        """What tells of layouts where a temperature is asked for: the power of the part, where one of them let it come to its limit."""
        part = channel.split("_")[0]
        held = channel.endswith("_c") and any(self.candidate(x).at_limit(part) for x in layouts)
        return f"{part}_power_w" if held else channel

    def unsaid(self, one: str, other: str, channel: str) -> bool:
        """Whether nothing shows that two layouts differ; a part at its limit is asked for its power."""
        channel = self.told_by(channel, (one, other))
        return self._words.get((one, other, channel), "cannot_tell") in ("no_difference", "cannot_tell")


def study(doc: JobDoc, runs: Runs, settings: Settings, memory: PointMemory | None = None) -> Study:
    """Compares the layouts that were run. Raises DocumentError for a profile or reference that does not exist."""
    if settings.profile and settings.profile not in PROFILES:
        raise DocumentError([Fault("profile", f"{settings.profile!r} is no profile", f"Use one of {', '.join(PROFILES)}.")])
    counts = {load: sum(len(c.runs) for c in found) for load, found in runs.by_load.items()}
    load: str = settings.load or max(counts, key=lambda x: counts[x], default="both")
    layouts = {x.id: x for x in doc.layouts}
    found = [c for c in runs.by_load.get(load, ()) if c.name in layouts]
    control = doc.plan.control if doc.plan else None
    corrected, drift = without_drift(found, control) if control else (found, suspected(found))
    oracle = Oracle(doc, Question(load=FORECAST_LOADS.get(load, "both")), memory)
    candidates = with_ends([*sized(corrected, oracle, layouts), *runs.beside])
    known = priors(runs.earlier, _sizes(candidates))
    reference = _reference(settings, control, [c.name for c in found], layouts)
    return Study(
        doc=doc,
        oracle=oracle,
        settings=settings,
        runs=runs,
        load=load,
        candidates=candidates,
        pairs=compare(candidates, settings.margin_k or doc.practice.margin_k, known),
        drift=drift,
        reference=reference,
        layouts=layouts,
        differ=all_changes(doc, list(layouts.values())),
        facts={x.id: facts_of(oracle, x, layouts[reference]) for x in doc.layouts} if reference else {},
        priors=known,
    )


def _sizes(candidates: Sequence[Candidate]) -> dict[str, float]:
    """Mean size of every channel that can be judged."""
    found: dict[str, list[float]] = {}
    for c in candidates:
        for channel in judged_channels(c):
            found.setdefault(channel, []).extend(abs(v) for v in c.values(channel))
    return {channel: sum(values) / len(values) for channel, values in found.items() if values}


def _reference(settings: Settings, control: str | None, measured: Sequence[str], layouts: Mapping[str, LayoutDoc]) -> str:
    """The layout that others are told from: as asked, else the control, else the first that was run."""
    if settings.reference and settings.reference not in layouts:
        raise DocumentError([Fault("reference", f"no layout {settings.reference!r}", f"Use one of {', '.join(layouts)}.")])
    return settings.reference or (control if control in measured else None) or next(iter([*measured, *layouts]), "")
