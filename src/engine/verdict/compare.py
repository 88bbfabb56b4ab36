"""Layouts against each other from their runs: difference, expanded uncertainty, one of four words, and what it would take to tell."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from math import isfinite, sqrt
from typing import Literal

import numpy as np

from engine.runs.budget import CONFIDENCE, Budget, BudgetLine, budget, combined, coverage_factor, mean_of_runs, t_above, t_quantile
from engine.verdict.candidate import Candidate, RunFigure
from engine.verdict.confounders import Confounder, confounders
from engine.verdict.ends import with_ends
from engine.verdict.likeness import like
from engine.verdict.multiple import last_round, level, range_above, range_quantile, stepwise
from engine.verdict.reach import POWER
from engine.verdict.scatter import RESULTS, Prior, Scatter, pooled_scatter

Word = Literal["better", "worse", "no_difference", "cannot_tell"]
RESULT_MARGIN_SHARE = 0.015  # common practice, no source: a result within 1.5 % is the same to its user
HIGHER_IS_BETTER = ("score", "fps", "cpu_clock_mhz", "card_clock_mhz", "cpu_power_w", "card_power_w")
# The figures a layout is chosen by; corrected for several comparisons among themselves, the many others likewise.
LEADING = ("cpu_package_c", "card_core_c", "coolant_c", "sound_dba", *RESULTS, *HIGHER_IS_BETTER)
FROM_RUN_TO_RUN = "from one run and rebuild to the next"
MOST_REPEATS = 20  # more than anybody makes


@dataclass(frozen=True)
class Tell:
    """What would settle a pair that cannot be told: repeats of each layout in all, and the word they would show."""

    repeats: int
    word: Word


@dataclass(frozen=True)
class Told:
    """A difference that was told at a whole round: what that look could spend, and which way it went."""

    level: float
    warmer: bool


@dataclass(frozen=True)
class Pair:
    """``difference_k`` is b minus a (None when it cannot be formed); the word is said of b.

    ``context``: unlike things, shown beside each other and never judged. ``at_limit``: a part held its temperature by giving up power.
    """

    a: str
    b: str
    channel: str
    difference_k: float | None
    expanded_uncertainty_k: float | None
    confidence_pct: float
    word: Word
    confounders: tuple[str, ...]
    scatter: str
    margin_k: float = 0.0
    context: bool = False
    at_limit: bool = False
    tell: Tell | None = None
    standard_k: float | None = None
    like_k: float | None = None  # the difference at like power, speeds and room, where runs were not alike in them
    like_expanded_k: float | None = None


@dataclass(frozen=True)
class Test:
    """A difference of means with its standard uncertainty and degrees of freedom."""

    __test__ = False
    difference: float
    standard: float
    freedom: float

    @property
    def p_differs(self) -> float:
        return 2 * t_above(abs(self.difference) / self.standard, self.freedom)

    def p_equivalent(self, margin: float) -> float:
        """Two one-sided tests: the larger p of lying outside either margin (source: tost)."""
        return t_above((margin - abs(self.difference)) / self.standard, self.freedom)

    @property
    def expanded(self) -> float:
        return coverage_factor(self.freedom) * self.standard


@dataclass(frozen=True)
class _Draft:
    a: Candidate
    b: Candidate
    channel: str
    test: Test | None
    found: list[Confounder]
    scatter: Scatter
    margin: float

    @property
    def alike(self) -> Test | None:
        """The difference at like conditions; None where the runs were alike."""
        unlike = [c.worth for c in self.found if c.worth]
        if self.test is None or not unlike:
            return None
        return Test(*like(self.test.difference, self.test.standard, unlike), self.test.freedom)


def holm(p_values: Sequence[float]) -> list[float]:
    """Adjusted p values, sequentially rejective (source: holm)."""
    order = np.argsort(p_values)
    adjusted, running = [0.0] * len(p_values), 0.0
    for rank, i in enumerate(order):
        running = max(running, min(1.0, (len(p_values) - rank) * p_values[i]))
        adjusted[i] = running
    return adjusted


def margin_of(channel: str, margin_k: float, sizes: Sequence[float]) -> float:
    """What counts as no difference: the person's margin in K (or dB); a share of its own size for a result, a power or a clock."""
    return margin_k if channel.endswith(("_c", "_dba")) or not sizes else RESULT_MARGIN_SHARE * float(np.mean(np.abs(sizes)))


def compare(candidates: Sequence[Candidate], margin_k: float = 1.5, priors: Mapping[str, Prior] | None = None) -> list[Pair]:
    """Every pair once in the given order, every shared channel; each channel's pairs are judged together, over all looks.

    ``priors``: of the scatter between builds by channel, where a person's own earlier repeats tell it.
    """
    candidates = with_ends(candidates)
    drafts: list[_Draft] = []
    both = list(combinations(candidates, 2))
    shared = dict.fromkeys(channel for a, b in both for channel in judged_channels(a, b))
    scatters = {channel: pooled_scatter(candidates, channel, (priors or {}).get(channel)) for channel in shared}
    for a, b in both:
        for channel in judged_channels(a, b):
            one, two = a.figures(channel), b.figures(channel)
            margin = margin_of(channel, margin_k, [f.value for f in (*one, *two)])
            test = _test(one, two, scatters[channel])
            drafts.append(_Draft(a, b, channel, test, confounders(a, b, channel), scatters[channel], margin))
    words: dict[int, Word] = {}
    for channel in scatters:
        told = _told_before(candidates, channel, (priors or {}).get(channel))
        words |= _words([d for d in drafts if d.channel == channel], told)
    sizes = {channel: len({x.name for d in drafts if d.channel == channel for x in (d.a, d.b)}) for channel in scatters}
    return [_pair(d, words.get(id(d), "cannot_tell"), sizes[d.channel]) for d in drafts]


def _told_before(candidates: Sequence[Candidate], channel: str, prior: Prior | None) -> dict[tuple[str, str], Told]:
    """What the last whole round told, where the next is not whole yet; a word that stands is not asked for anew, only kept or lost."""
    counts = [len(figures) for c in candidates if (figures := c.figures(channel))]
    rounds = last_round(counts)
    if not rounds:
        return {}
    before = [replace(c, runs=c.judged[:rounds]) for c in candidates if c.figures(channel)]
    scatter = pooled_scatter(before, channel, prior)
    sides = {c.name: c.figures(channel) for c in before}
    tests = {(a, b): t for a, b in combinations(sides, 2) if (t := _test(sides[a], sides[b], scatter))}
    spent = level(rounds)
    return {pair: Told(spent, tests[pair].difference > 0) for pair, p in _differs(sides, tests).items() if p < spent}


def _differs(sides: Mapping[str, Sequence[RunFigure]], tests: Mapping[tuple[str, str], Test]) -> dict[tuple[str, str], float]:
    """Adjusted p values of the pairs of one channel, judged together."""
    values = {name: float(np.mean([f.value for f in figures])) for name, figures in sides.items() if figures}
    return stepwise(values, {pair: t.standard for pair, t in tests.items()}, {pair: t.freedom for pair, t in tests.items()})


def _words(family: Sequence[_Draft], told: Mapping[tuple[str, str], Told]) -> dict[int, Word]:
    """The words of one channel's pairs, judged together: in how many campaigns a wrong one may fall is held over all of them.

    ``told``: at the last whole round; such a word is lost only where it would not be told at that round's own level any more.
    """
    tests = {(d.a.name, d.b.name): d.test for d in family if d.test}
    sides = {x.name: x.figures(d.channel) for d in family for x in (d.a, d.b)}
    differs = _differs(sides, tests)
    asked = [d for d in family if d.test]
    equal = holm([d.test.p_equivalent(d.margin) for d in asked if d.test])
    counts = [len(figures) for figures in sides.values() if figures]
    now, layouts = level(float(np.mean(counts or [0]))), len(counts)

    def may_spend(d: _Draft) -> float:
        before = told.get((d.a.name, d.b.name))
        return max(now, before.level) if before and d.test and before.warmer == (d.test.difference > 0) else now

    return {id(d): _word(d, differs[d.a.name, d.b.name], q, may_spend(d), layouts) for d, q in zip(asked, equal, strict=True)}


def judged_channels(*candidates: Candidate) -> list[str]:
    """Channels all runs share that can be judged: temperatures, sound, results; power and clock of a part at its limit."""
    runs = [run for candidate in candidates for run in candidate.judged]
    every = dict.fromkeys(c.name for run in runs for c in run.channels)
    names = [n for n in every if all(any(run.channel(n) for run in candidate.judged) for candidate in candidates)]
    limited = [part for part in ("cpu", "card") if any(c.at_limit(part) for c in candidates)]
    judged = [n for n in names if (n.endswith("_c") and n != "room_c") or n in ("sound_dba", *RESULTS)]
    return judged + [n for part in limited for n in (f"{part}_power_w", f"{part}_clock_mhz") if n in names]


def layout_budget(candidates: Sequence[Candidate], candidate: Candidate, channel: str, scatter: Scatter | None = None) -> Budget | None:
    """Mean of a layout's runs with every contribution to its uncertainty, the sensors' own errors included.

    ``scatter``: the pooled one, where it is known already.
    """
    figures = candidate.figures(channel)
    if not figures:
        return None
    scatter = scatter or pooled_scatter(candidates, channel)
    share = 1 / len(figures)
    lines = [_scatter_line(scatter, share), *mean_of_runs([f.lines for f in figures])]
    return budget(float(np.mean([f.value for f in figures])), lines, scatter.spent(share))


def pair_budget(candidates: Sequence[Candidate], a: Candidate, b: Candidate, channel: str, scatter: Scatter | None = None) -> Budget | None:
    """The difference of two layouts, b less a, with every contribution; what both share by their sensors falls out."""
    one, two = a.figures(channel), b.figures(channel)
    scatter = scatter or pooled_scatter(candidates, channel)
    test = _test(one, two, scatter)
    return budget(test.difference, _lines(one, two, scatter), scatter.spent(1 / len(one) + 1 / len(two))) if test else None


def _scatter_line(scatter: Scatter, share: float) -> BudgetLine:
    """What is left to builds when the errors within a run are taken out, which stand in lines of their own."""
    return BudgetLine(FROM_RUN_TO_RUN, scatter.between * sqrt(share), "A" if scatter.repeats else "B", scatter.freedom)


def _lines(a: Sequence[RunFigure], b: Sequence[RunFigure], scatter: Scatter) -> list[BudgetLine]:
    """Contributions to a difference of means; of what runs on both sides share only the difference of it is left."""
    sides = [mean_of_runs([f.own for f in side]) for side in (a, b)]
    named: dict[str, list[BudgetLine]] = {}
    for line in (x for side in sides for x in side if not x.shared):
        named.setdefault(line.what, []).append(line)
    merged = []
    for what, parts in named.items():
        standard, freedom = combined(parts)
        merged.append(BudgetLine(what, standard, parts[0].kind, freedom if isfinite(freedom) else None))
    for label in dict.fromkeys(x.shared for side in sides for x in side if x.shared):
        one, two = ([x for x in side if x.shared == label] for side in sides)
        left = abs(sum(x.standard for x in one) - sum(x.standard for x in two))
        merged.append(replace((one or two)[0], standard=left))
    return [_scatter_line(scatter, 1 / len(a) + 1 / len(b)), *merged]


def _test(a: Sequence[RunFigure], b: Sequence[RunFigure], scatter: Scatter) -> Test | None:
    """Difference of the means of runs; within-run errors and run-to-run scatter add (source: gum, satterthwaite)."""
    if not a or not b:
        return None
    standard, freedom = combined(_lines(a, b, scatter), scatter.spent(1 / len(a) + 1 / len(b)))
    one, two = (sum(f.value for f in side) / len(side) for side in (a, b))
    return Test(two - one, standard, freedom) if standard > 0 else None


def _word(d: _Draft, p_differs: float, p_equal: float, now: float, layouts: int) -> Word:
    if d.test is None or any(c.weight != "doubt" for c in d.found):
        return "cannot_tell"
    word = word_of(d.test, p_differs, p_equal, d.channel in HIGHER_IS_BETTER, now)
    alike = d.alike
    if alike is None:
        return word
    # What was unlike is put right, and the word must hold at like conditions; against what was measured none is given.
    pairs = layouts * (layouts - 1) / 2
    apart = range_above(sqrt(2) * abs(alike.difference) / alike.standard, layouts, alike.freedom)
    then = word_of(alike, apart, min(alike.p_equivalent(d.margin) * pairs, 1.0), d.channel in HIGHER_IS_BETTER, now)
    return "cannot_tell" if {word, then} == {"better", "worse"} else then


def word_of(test: Test, p_differs: float, p_equal: float, higher_is_better: bool = False, now: float = 1 - CONFIDENCE) -> Word:
    """The word for a difference from its corrected p values; ``now``: what this look may spend on a wrong one.

    What is shown to lie within the margin is no difference to its user, also where a smaller difference is shown beside it.
    """
    alpha = 1 - CONFIDENCE
    if p_equal < alpha / 2:  # half of alpha: the interval that is shown lies within the margin
        return "no_difference"
    if p_differs < now:
        return "better" if (test.difference > 0) == higher_is_better else "worse"
    return "cannot_tell"


def _pair(d: _Draft, word: Word, family: int) -> Pair:
    part, alike = d.channel.split("_")[0], d.alike
    blocked = any(c.weight != "doubt" for c in d.found)
    return Pair(
        a=d.a.name,
        b=d.b.name,
        channel=d.channel,
        difference_k=d.test.difference if d.test else None,
        expanded_uncertainty_k=d.test.expanded if d.test else None,
        confidence_pct=100 * CONFIDENCE,
        word=word,
        confounders=tuple(c.words for c in d.found),
        scatter=d.scatter.origin,
        margin_k=d.margin,
        context=any(c.weight == "context" for c in d.found),
        at_limit=d.channel.endswith("_c") and (d.a.at_limit(part) or d.b.at_limit(part)),
        tell=_tell(d, family) if word == "cannot_tell" and not blocked else None,
        standard_k=d.test.standard if d.test else None,
        like_k=alike.difference if alike else None,
        like_expanded_k=alike.expanded if alike else None,
    )


def _tell(d: _Draft, layouts: int) -> Tell | None:
    """Fewest repeats of each layout that would probably tell, were the gap as it looks; None beyond MOST_REPEATS.

    Needed: gap > (the level of that look + t of the power) times the standard uncertainty, for either word.
    """
    if d.test is None:
        return None
    fewest = min(len(d.a.judged), len(d.b.judged)) + 1
    apart, within = abs(d.test.difference), d.margin - abs(d.test.difference)
    pairs = layouts * (layouts - 1) / 2
    for n in range(fewest, MOST_REPEATS + 1):
        standard, freedom = sqrt(2 / n) * d.scatter.sigma, float(max(layouts * (n - 1), 1))
        power = t_quantile(POWER, freedom)
        if apart > (range_quantile(level(n), layouts, freedom) / sqrt(2) + power) * standard:
            better = (d.test.difference > 0) == (d.channel in HIGHER_IS_BETTER)
            return Tell(n, "better" if better else "worse")
        if within > (t_quantile(1 - (1 - CONFIDENCE) / 2 / pairs, freedom) + power) * standard:
            return Tell(n, "no_difference")
    return None
