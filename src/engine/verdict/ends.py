"""Runs that ended before a part had settled: the end it was going to, reckoned alike for runs that are alike.

A run of ten minutes lacks a share of its rise that its own readings tell poorly, and that runs of one length under one load lack
alike: the share is estimated from all of them together, so that its error is common to them and leaves their difference nearly
alone. What may differ from layout to layout stands with each run.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import hypot, inf, log, sqrt

from engine.runs.analysis import ChannelAnalysis, RunAnalysis
from engine.runs.budget import BudgetLine, coverage_factor
from engine.verdict.candidate import TO_COME, TO_COME_OWN, UNSEEN_SHARE, Candidate, final

RECKONED = "reckoned"  # flag of a channel whose figure is the end it was going to
LIKE_LENGTH = 1.3  # runs whose lengths lie within this ratio lack alike
OWN_SHARE = 0.12  # of what is lacking: how far it differs from layout to layout, whose air sets the time it takes (study)
MOST_UNKNOWN_K = 15.0  # one sigma of what is lacking, beyond which nothing is said; it is common to alike runs, so they still compare


@dataclass(frozen=True)
class _Lack:
    """What one run lacks of its rise: ``share`` of what it had reached, with its standard uncertainty."""

    run: RunAnalysis
    channel: ChannelAnalysis
    share: float
    standard: float


def with_ends(candidates: Sequence[Candidate]) -> list[Candidate]:
    """The same layouts with the figures of unsettled channels taken on to their end; what cannot be reckoned stays as it was."""
    lacks = [x for c in candidates for run in c.runs for channel in run.channels if (x := _lack(run, channel)) is not None]
    if not lacks:
        return list(candidates)
    ends: dict[tuple[int, str], ChannelAnalysis] = {}
    for name in dict.fromkeys(x.channel.name for x in lacks):
        for group in _alike([x for x in lacks if x.channel.name == name]):
            ends |= _reckon(group)
    return [replace(c, runs=[_taken_on(run, ends) for run in c.runs]) for c in candidates]


def _lack(run: RunAnalysis, c: ChannelAnalysis) -> _Lack | None:
    if c.rise_k is None or c.settled is not False or RECKONED in c.flags or final(run, c):
        return None
    if c.final_estimate is None or c.final_band is None or c.rise_k <= 1.0:
        return None
    # A poor fit may say anything: it is held to twice what was reached, and counts for little.
    left = min(max(c.final_estimate - c.mean, -c.rise_k), c.rise_k)
    standard = max(c.final_band / coverage_factor(inf), UNSEEN_SHARE * abs(left))
    return _Lack(run, c, left / c.rise_k, standard / c.rise_k)


def _alike(lacks: Sequence[_Lack]) -> list[list[_Lack]]:
    """Runs of like length, from the shortest: a group spans no more than ``LIKE_LENGTH``."""
    groups: list[list[_Lack]] = []
    for x in sorted(lacks, key=lambda x: x.run.duration_s):
        if groups and x.run.duration_s <= LIKE_LENGTH * groups[-1][0].run.duration_s:
            groups[-1].append(x)
        else:
            groups.append([x])
    return groups


def _reckon(group: Sequence[_Lack]) -> dict[tuple[int, str], ChannelAnalysis]:
    """The share that all of a group lack, weighed by how well each tells it (source: gum, by inverse variance), and each one's end."""
    weights = [1 / x.standard**2 for x in group]
    share = sum(w * x.share for w, x in zip(weights, group, strict=True)) / sum(weights)
    spread = sum(w * (x.share - share) ** 2 for w, x in zip(weights, group, strict=True)) / max(len(group) - 1, 1)
    standard = sqrt(max(spread, 1.0) / sum(weights))
    standard = hypot(standard, UNSEEN_SHARE * share)
    label = f"{group[0].channel.name} {log(max(group[0].run.duration_s, 1.0)):.2f}"
    found = {}
    for x in group:
        rise = x.channel.rise_k or 0.0
        if standard * rise > MOST_UNKNOWN_K:
            continue
        lines = (
            BudgetLine(TO_COME, standard * rise, "A", shared=label),
            BudgetLine(TO_COME_OWN, OWN_SHARE * abs(share) * rise, "B"),
        )
        found[id(x.run), x.channel.name] = replace(
            x.channel, rise_k=rise * (1 + share), flags=(*x.channel.flags, RECKONED), budget=(*x.channel.budget, *lines)
        )
    return found


def _taken_on(run: RunAnalysis, ends: dict[tuple[int, str], ChannelAnalysis]) -> RunAnalysis:
    if not any((id(run), c.name) in ends for c in run.channels):
        return run
    return replace(run, channels=tuple(ends.get((id(run), c.name), c) for c in run.channels))
