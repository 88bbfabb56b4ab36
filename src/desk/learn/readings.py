"""Valid runs as readings to learn from: each with its error, that of its build, and what its sensor shares with the others."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from math import hypot, inf
from statistics import median

from desk.forecast.document import Oracle, Question
from desk.verdict.earlier import Gap, priors
from desk.verdict.study import FORECAST_LOADS
from desk.verdict.unlike import sized
from documents.job.models import JobDoc
from engine.learn.case import Part, Reading
from engine.learn.levels import LevelReading
from engine.runs.analysis import RunAnalysis
from engine.runs.budget import combined, coverage_factor
from engine.verdict.candidate import Candidate, at_limit, spoilt
from engine.verdict.compare import layout_budget
from engine.verdict.drift import without_drift
from engine.verdict.ends import with_ends
from engine.verdict.likeness import POWER_APART_SHARE, k_per_w
from engine.verdict.results import short_of_best
from engine.verdict.scatter import RESULTS, Scatter, pooled_scatter

CHANNELS: Mapping[Part, str] = {"cpu": "cpu_package_c", "card": "card_core_c"}
LEVEL = "sound_dba"
LIKE_POWER = (0.7, 1.4)  # no source: of what its layout asks, over the usual; a run beyond is left as it is, and may contradict


@dataclass(frozen=True)
class LeftAside:
    """``layout``: of a valid run, whose layout is run though nothing of it counts; empty for what is no run, or was set aside."""

    run: str
    why: str
    layout: str = ""


@dataclass
class Readings:
    rises: list[Reading] = field(default_factory=list)
    levels: dict[str, list[LevelReading]] = field(default_factory=dict)  # by load
    left_aside: list[LeftAside] = field(default_factory=list)
    results: dict[str, dict[str, tuple[float, float]]] = field(default_factory=dict)  # by load and layout: % short of the best, one sigma


def readings(
    doc: JobDoc, by_load: Mapping[str, Sequence[Candidate]], names: Mapping[tuple[str, str], Sequence[str]], earlier: Sequence[Gap] = ()
) -> Readings:
    """Of every load that the engine forecasts, without drift, taken on to their ends, put to what their layouts ask, as in verdicts.

    ``names``: those of each candidate's runs, by (load, layout), in their order.
    """
    found, layouts = Readings(), {x.id for x in doc.layouts}
    control = doc.plan.control if doc.plan else None
    for load, candidates in by_load.items():
        if load not in FORECAST_LOADS:
            aside = [LeftAside(name, "its load is one that is not forecast", c.name) for c in candidates for name in names[load, c.name]]
            found.left_aside += aside
            continue
        oracle = Oracle(doc, Question(load=FORECAST_LOADS[load]))
        settled, _ = without_drift([c for c in candidates if c.name in layouts], control)
        own = with_ends(sized(settled, oracle, layouts))
        labels = {id(run): name for c in own for run, name in zip(c.runs, names[load, c.name], strict=True)}
        for part, channel in CHANNELS.items():
            found.rises += list(_of_part(oracle, own, labels, load, part, channel, earlier))
        found.levels[load] = list(_levels(own, labels))
        run = [c.name for c in own if any(c.values(channel) for channel in CHANNELS.values())]
        found.results[load] = short_of_best({r: {c.name: b for c in own if (b := layout_budget(own, c, r))} for r in RESULTS}, run)
        used = {r.run for r in found.rises}
        found.left_aside += [LeftAside(labels[id(run)], _why(run), c.name) for c in own for run in c.runs if labels[id(run)] not in used]
    return found


def _why(run: RunAnalysis) -> str:
    if words := spoilt(run):
        return words
    if not run.settled:
        return "not settled, and its layout has runs that did"
    held = [part for part in CHANNELS if at_limit(run, part)]
    if held:
        return "held at its limit: its temperature says nothing of the case"
    return "neither the processor's nor the card's temperature is in it"


def _of_part(
    oracle: Oracle, own: Sequence[Candidate], labels: Mapping[int, str], load: str, part: Part, channel: str, earlier: Sequence[Gap]
) -> Iterator[Reading]:
    values = [abs(v) for c in own for v in c.values(channel)]
    if not values:
        return
    scatter = pooled_scatter(own, channel, priors(earlier, {channel: sum(values) / len(values)}).get(channel))
    between = _widened(scatter)
    power = f"{part}_power_w"
    asked = {c.name: _asked_w(oracle, c.name, part) for c in own}
    shares = [p.mean / asked[c.name] for c in own for run in c.judged if (p := run.channel(power)) is not None and asked[c.name] > 0]
    usual = median(shares) if shares else 0.0
    for c in own:
        slope = k_per_w(c, channel, power)
        deviated = [d.adds_k[channel] for d in c.deviations if channel in d.adds_k]
        for run in c.judged:
            if spoilt(run) or at_limit(run, part) or not (figures := Candidate(c.name, [run]).figures(channel)):
                continue
            drawn = run.channel(power)
            moved, left_open = _at_power(drawn.mean, usual * asked[c.name], slope) if drawn and slope else (0.0, 0.0)
            yield Reading(
                labels[id(run)],
                c.name,
                load,
                part,
                figures[0].value + moved - sum(kelvin for kelvin, _ in deviated),
                hypot(combined(figures[0].own)[0], between, left_open, *(sd for _, sd in deviated)),
                combined([x for x in figures[0].lines if x.common])[0],
            )


def _asked_w(oracle: Oracle, layout: str, part: Part) -> float:
    machine = oracle.machine(layout)
    return machine.cpu.power_w if part == "cpu" else machine.card.power_w if machine.card else 0.0


def _at_power(drawn_w: float, wanted_w: float, slope: tuple[float, float]) -> tuple[float, float]:
    """Kelvins to the power that a part draws in most runs, as a share of what its layout asks, and what that leaves open."""
    if wanted_w <= 0 or drawn_w <= 0 or not LIKE_POWER[0] < drawn_w / wanted_w < LIKE_POWER[1]:
        return 0.0, 0.0
    apart_w = wanted_w - drawn_w
    if abs(apart_w) <= POWER_APART_SHARE * wanted_w:
        return 0.0, 0.0
    return slope[0] * apart_w, slope[1] * abs(apart_w)


def _widened(scatter: Scatter) -> float:
    """From build to build, as wide as what is known of it allows: few repeats, or none, leave it open."""
    return scatter.between * coverage_factor(scatter.freedom) / coverage_factor(inf)


def _levels(own: Sequence[Candidate], labels: Mapping[int, str]) -> Iterator[LevelReading]:
    if not any(c.values(LEVEL) for c in own):
        return
    between = _widened(pooled_scatter(own, LEVEL))
    for c in own:
        for run in c.judged:
            figures = Candidate(c.name, [run]).figures(LEVEL)
            if figures:
                within = combined(figures[0].own)[0]
                common = combined([x for x in figures[0].lines if x.common])[0]
                yield LevelReading(labels[id(run)], c.name, figures[0].value, hypot(within, between), common)
