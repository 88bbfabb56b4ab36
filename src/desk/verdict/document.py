"""The verdict of a job as one document: what the station shows, the report prints and a record freezes."""

from dataclasses import asdict, dataclass, replace
from typing import Literal

from pydantic import BaseModel

from desk.forecast.document import PointMemory
from desk.verdict.claim import Claim, Said, claim, over_words, said_of, why_placed
from desk.verdict.doubts import Doubt, doubts
from desk.verdict.earlier import EarlierOut, told
from desk.verdict.effects import Effects, effects, ways
from desk.verdict.facts import LayoutFacts
from desk.verdict.measures import (
    Checked,
    FigureOut,
    LoadSummary,
    MissingOut,
    Scores,
    Spread,
    checked,
    figures,
    load_summaries,
    missing,
    scores,
    spreads,
)
from desk.verdict.options import CHANNEL_OF, alike, options
from desk.verdict.study import Runs, Settings, Study, study
from desk.verdict.zones import ZoneOut, zones_of
from documents.job.models import JobDoc
from engine.identity import ENGINE, METHOD
from engine.verdict.choose import PROFILES, Choice, Option, Requirement, choose, frontier, least_burden, worst_of
from engine.verdict.compare import LEADING, Pair
from engine.verdict.drift import Corrected
from engine.verdict.scatter import OddRun, odd_runs
from engine.verdict.worth import worth_words


class LimitOut(BaseModel):
    """A requirement against a layout; ``sure`` where the margin is larger than its expanded uncertainty."""

    what: str
    margin: float
    standard: float
    kind: str
    passed: bool
    sure: bool


class PlacedOut(BaseModel):
    """A layout in its place, with the reasons in words and its limits."""

    layout: str
    burden: float
    passed: bool
    chance: float
    over_weights: float
    over: str = ""  # the same in words
    beaten_by: str | None
    why: list[str]
    limits: list[LimitOut]
    worst: str | None


class ProfileWinner(BaseModel):
    name: str
    weights: dict[str, float]
    best: str | None
    tied: list[str]
    chance: float


class Repeats(BaseModel):
    """The layout of least burden with each run left out in turn: in how many cases it stays."""

    stays: int
    of: int


class VerdictDoc(BaseModel):
    """Empty lists where too little was run; ``claim`` None without a layout that was run."""

    format: Literal["oventa-verdict"] = "oventa-verdict"
    version: Literal[1] = 1
    engine: str = ""  # numbers of what answered (engine/identity); empty in what was frozen before they were kept
    method: str = ""
    load: str
    margin_k: float
    reference: str
    chosen: str | None
    weights: dict[str, float]
    claim: Claim | None
    best: str | None
    sure: str
    tied: list[str]
    tie_reason: list[str]
    placed: list[PlacedOut]
    profiles: list[ProfileWinner]
    repeats: Repeats | None
    frontier: list[str]
    layouts: list[LayoutFacts]
    figures: list[FigureOut]
    missing: list[MissingOut]
    pairs: list[Pair]
    said: list[Said]
    effects: Effects
    spreads: list[Spread]
    scores: Scores
    loads: list[LoadSummary]
    checked: list[Checked]
    drift: list[Corrected]
    doubts: list[Doubt]
    zones: list[ZoneOut] = []
    earlier: list[EarlierOut] = []  # repeats of the person's earlier jobs that the scatter was learned from
    seed: int


@dataclass(frozen=True)
class Judged:
    """A study with what does not depend on the layout that is argued for; kept, so that another tag is shown at once."""

    study: Study
    choice: Choice
    odd: list[OddRun]
    whole: VerdictDoc

    def of(self, layout: str | None) -> VerdictDoc:
        """The argument for one layout; for the one that does best where none or an unknown one is named."""
        s = self.study
        chosen = layout if layout in s.names else self.choice.first or next(iter(s.names), None)
        if chosen is None:
            return self.whole
        return self.whole.model_copy(
            update={
                "chosen": chosen,
                "claim": claim(chosen, s.reference, self.choice, s.pairs, s.facts, s.own, s.load, bool(s.runs.changed)),
                "said": _said(s, chosen),
                "effects": self.whole.effects.model_copy(update={"ways": ways(s, chosen)}),
                "doubts": doubts(s, self.choice, self.odd, chosen),
            }
        )


def _said(s: Study, chosen: str) -> list[Said]:
    """Pairs as said of one layout; the leading differences with their budgets."""
    found = said_of(s.pairs, chosen)
    return [x.model_copy(update={"budget": s.difference_budget(x.other, chosen, x.channel)}) if x.channel in LEADING else x for x in found]


def verdict(doc: JobDoc, runs: Runs, settings: Settings, memory: PointMemory | None = None) -> VerdictDoc:
    """Everything that the runs of a job say. Raises DocumentError for settings that name what is not there."""
    return judge(doc, runs, settings, memory).of(settings.chosen)


def _coolest_counts(s: Study, o: Option) -> bool:
    """Whether a layout has its place by sound and by the processor's temperature: one that stood at its limit has none."""
    return {"cpu", "noise"} <= set(o.values) and not s.candidate(o.layout).at_limit("cpu")


def judge(doc: JobDoc, runs: Runs, settings: Settings, memory: PointMemory | None = None) -> Judged:
    """Compares and chooses; the argument for a layout is made from it."""
    return judged(study(doc, runs, settings, memory))


def judged(s: Study) -> Judged:
    """What is chosen among layouts that were compared."""
    settings, runs = s.settings, s.runs
    found = options(s)
    same = alike(s, found)
    choice = choose(found, s.weights, same, settings.seed)
    odd = [x for channel in CHANNEL_OF.values() for x in odd_runs(s.own, channel)]
    found_figures = figures(s)
    whole = VerdictDoc(
        engine=ENGINE.number,
        method=METHOD.number,
        load=s.load,
        margin_k=s.margin_k,
        reference=s.reference,
        chosen=None,
        weights=s.weights,
        claim=None,
        best=choice.best,
        sure=choice.sure if choice.best else "",
        tied=list(choice.tied),
        tie_reason=list(choice.tie_reason),
        placed=_placed(choice, {o.layout: list(o.limits) for o in found}, {o.layout: _worth(o) for o in found}),
        profiles=[_profile(name, choose(found, weights, same, settings.seed)) for name, weights in PROFILES.items()],
        repeats=_repeats(s, choice.least_burden),
        frontier=frontier({o.layout: (o.values["cpu"][0], o.values["noise"][0]) for o in found if _coolest_counts(s, o)}),
        layouts=list(s.facts.values()),
        figures=found_figures,
        missing=missing(s),
        pairs=s.pairs,
        said=[],
        effects=effects(s),
        spreads=spreads(s),
        scores=scores(s, choice),
        loads=load_summaries(s),
        checked=checked(s),
        drift=s.drift,
        doubts=[],
        zones=zones_of(s.doc, found_figures),
        earlier=told(runs.earlier),
        seed=settings.seed,
    )
    return Judged(s, choice, odd, whole)


def _placed(choice: Choice, limits: dict[str, list[Requirement]], worth: dict[str, dict[str, str]]) -> list[PlacedOut]:
    rows = []
    for p in choice.placed:
        worst = worst_of(limits[p.layout])
        rows.append(
            PlacedOut(
                layout=p.layout,
                burden=p.burden,
                passed=p.passed,
                chance=p.chance,
                over_weights=p.over_weights,
                over=over_words(p.over_weights),
                beaten_by=p.beaten_by,
                why=why_placed(p, worth[p.layout]),
                limits=[LimitOut(**asdict(x), passed=x.passed, sure=x.sure) for x in limits[p.layout]],
                worst=worst.what if worst else None,
            )
        )
    return rows


def _worth(option: Option) -> dict[str, str]:
    return {part: worth_words(option.values[part][0], limit) for part, limit in option.limit_rise_k.items() if part in option.values}


def _profile(name: str, choice: Choice) -> ProfileWinner:
    chance = next((p.chance for p in choice.placed if p.layout == choice.best), 0.0)
    return ProfileWinner(name=name, weights=dict(PROFILES[name]), best=choice.best, tied=list(choice.tied), chance=chance)


def _repeats(s: Study, least: str | None) -> Repeats | None:
    """Each run of a layout that has others is left out in turn, and the least burden found anew."""
    stays = of = 0
    for i, c in enumerate(s.own):
        for left in c.judged if len(c.judged) > 1 else ():
            fewer = [*s.own[:i], replace(c, runs=[r for r in c.judged if r is not left], hours=[]), *s.own[i + 1 :]]
            stays += least_burden(options(replace(s, candidates=fewer)), s.weights) == least
            of += 1
    return Repeats(stays=stays, of=of) if of else None
