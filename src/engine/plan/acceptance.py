"""Pass or fail of a run against a protocol's criteria, with the margin and the worst channel; and what a panel costs."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from engine.plan.protocol import Acceptance, Criterion, CriterionResult, Statistic
from engine.runs.analysis import RunAnalysis

CORES = "cpu_core_"
# Rise over room that a panel adds, as a share of the rise without it; common practice, no source.
LITTLE, MODERATE = 0.05, 0.15
Restriction = Literal["little", "moderate", "strong"]


def statistic_of(run: RunAnalysis, channel: str, statistic: Statistic) -> tuple[float, float | None] | None:
    """(value, value over room) of a channel by the protocol's statistic over its window; None where it was not read.

    A window of the last minute is the window's own length (``Protocol.averaged_s``), not another way to average.
    """
    own = run.channel(channel)
    if statistic == "core_mean" and channel == "cpu_package_c":
        cores = [c for c in run.channels if c.name.startswith(CORES)]
        if cores:
            rises = [c.rise_k for c in cores if c.rise_k is not None]
            return _mean([c.mean for c in cores]), _mean(rises) if len(rises) == len(cores) else None
    if own is None:
        return None
    return (own.max, own.max_rise_k) if statistic == "tail_max" else (own.mean, own.rise_k)


def judged_by(run: RunAnalysis, statistic: Statistic) -> RunAnalysis:
    """The run with its loaded temperatures by the protocol's statistic in place of the mean of the window."""
    found = {x.channel: x for x in by_statistic(run, statistic)}
    if not found:
        return run
    channels = tuple(replace(c, mean=found[c.name].value, rise_k=found[c.name].rise_k) if c.name in found else c for c in run.channels)
    return replace(run, channels=channels)


@dataclass(frozen=True)
class StatisticFigure:
    channel: str
    value: float
    rise_k: float | None


def by_statistic(run: RunAnalysis, statistic: Statistic) -> list[StatisticFigure]:
    """Every loaded temperature by a statistic that is not the mean of the window; none where it is that mean."""
    if statistic in ("tail_mean", "last_minute"):
        return []
    loaded = [c.name for c in run.channels if c.settled is not None and not c.name.startswith(CORES)]
    found = [(name, statistic_of(run, name, statistic)) for name in loaded]
    return [StatisticFigure(name, *figure) for name, figure in found if figure is not None]


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)


def judge(run: RunAnalysis, criteria: Sequence[Criterion], statistic: Statistic, ended_why: str = "") -> Acceptance:
    """Every criterion; a channel that was not read fails, since nothing shows that it would pass.

    A run that a limit ended, or in which a judged channel had not settled, passes nothing: it would have become warmer.
    """
    named = {c.channel for c in criteria}
    rising = [c.name for c in run.channels if c.name in named and c.settled is False]
    why = "a limit ended the run" if ended_why == "limit" else f"{' and '.join(rising)} had not settled" if rising else ""
    lines = tuple(_judged(run, c, statistic) for c in criteria)
    known = [x for x in lines if x.margin_k is not None]
    worst = min(known, key=lambda x: x.margin_k or 0.0, default=None)
    return Acceptance(
        passed=bool(lines) and all(x.passed for x in lines) and not why,
        margin_k=worst.margin_k if worst else None,
        worst=worst.channel if worst else None,
        lines=lines,
        why=why,
    )


def _judged(run: RunAnalysis, criterion: Criterion, statistic: Statistic) -> CriterionResult:
    over = criterion.most_k is not None
    limit = criterion.most_k if criterion.most_k is not None else criterion.most_c or 0.0
    found = statistic_of(run, criterion.channel, statistic)
    value = None if found is None else found[1] if over else found[0]
    if value is None:
        why = "was not read" if found is None else "cannot be said over room: the room was not read"
        return CriterionResult(criterion.channel, limit, over, None, None, False, criterion.critical, why)
    margin, own = limit - value, run.channel(criterion.channel)
    slope = own.slope_k_min if own else None
    steady = criterion.steady_k_min is None or (slope is not None and abs(slope) <= criterion.steady_k_min)
    words = f"{value:.1f} of {limit:g} {'K over room' if over else '°C'}"
    if not steady:
        words += f"; still moving by {slope or 0:+.2f} K/min"
    return CriterionResult(criterion.channel, limit, over, value, margin, margin >= 0 and steady, criterion.critical, words)


def rating(closed_rise_k: float, opened_rise_k: float) -> tuple[float, Restriction] | None:
    """(share, rating): how much the rise over room grows with a panel fitted; None where the opened one is no rise."""
    if opened_rise_k <= 0:
        return None
    share = (closed_rise_k - opened_rise_k) / opened_rise_k
    return share, "little" if share < LITTLE else "moderate" if share < MODERATE else "strong"
