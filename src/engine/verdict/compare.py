"""Layouts against each other from their runs: difference, expanded uncertainty, one of four words, and what it would take to tell."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import isfinite, sqrt
from typing import Literal

import numpy as np

from engine.runs.budget import CONFIDENCE, Budget, BudgetLine, budget, combined, coverage_factor, mean_of_runs, t_above, t_quantile
from engine.verdict.candidate import Candidate, RunFigure
from engine.verdict.confounders import Confounder, confounders
from engine.verdict.scatter import PRIOR_FREEDOM, RESULTS, Scatter, pooled_scatter

Word = Literal["better", "worse", "no_difference", "cannot_tell"]
RESULT_MARGIN_SHARE = 0.015  # common practice, no source: a result within 1.5 % is the same to its user
HIGHER_IS_BETTER = ("score", "fps", "cpu_clock_mhz", "card_clock_mhz", "cpu_power_w", "card_power_w")
# The figures a layout is chosen by; corrected for several comparisons among themselves, the many others likewise.
LEADING = ("cpu_package_c", "card_core_c", "coolant_c", "sound_dba", *RESULTS, *HIGHER_IS_BETTER)
FROM_RUN_TO_RUN = "from one run and rebuild to the next"
MOST_REPEATS = 20
POWER = 0.8  # chance of showing a difference that is as large as it looks


@dataclass(frozen=True)
class Tell:
    """What would settle a pair that cannot be told: repeats of each layout in all, and the word they would show."""

    repeats: int
    word: Word


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


def compare(candidates: Sequence[Candidate], margin_k: float = 1.5) -> list[Pair]:
    """Every pair once in the given order, every shared channel, corrected for several comparisons within each family."""
    scatters: dict[str, Scatter] = {}
    drafts = []
    for a, b in combinations(candidates, 2):
        for channel in judged_channels(a, b):
            if channel not in scatters:
                scatters[channel] = pooled_scatter(candidates, channel)
            scatter = scatters[channel]
            one, two = a.figures(channel), b.figures(channel)
            margin = margin_of(channel, margin_k, [f.value for f in (*one, *two)])
            drafts.append(_Draft(a, b, channel, _test(one, two, scatter), confounders(a, b, channel), scatter, margin))
    words: dict[int, tuple[Word, int]] = {}
    for leading in (True, False):
        family = [d for d in drafts if (d.channel in LEADING) == leading and d.test is not None]
        differs = holm([d.test.p_differs for d in family if d.test])
        equal = holm([d.test.p_equivalent(d.margin) for d in family if d.test])
        for d, p, q in zip(family, differs, equal, strict=True):
            words[id(d)] = (_word(d, p, q), len(family))
    return [_pair(d, *words.get(id(d), ("cannot_tell", 1))) for d in drafts]


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
    lines = [_scatter_line(scatter, 1 / len(figures)), *mean_of_runs([f.lines for f in figures])]
    return budget(float(np.mean([f.value for f in figures])), lines)


def pair_budget(candidates: Sequence[Candidate], a: Candidate, b: Candidate, channel: str, scatter: Scatter | None = None) -> Budget | None:
    """The difference of two layouts, b less a, with every contribution; what both share by their sensors falls out."""
    one, two = a.figures(channel), b.figures(channel)
    scatter = scatter or pooled_scatter(candidates, channel)
    test = _test(one, two, scatter)
    return budget(test.difference, _lines(one, two, scatter)) if test else None


def _scatter_line(scatter: Scatter, share: float) -> BudgetLine:
    freedom = scatter.freedom if isfinite(scatter.freedom) else None
    return BudgetLine(FROM_RUN_TO_RUN, scatter.sigma * sqrt(share), "B" if freedom is None else "A", freedom)


def _lines(a: Sequence[RunFigure], b: Sequence[RunFigure], scatter: Scatter) -> list[BudgetLine]:
    within = [x for side in (a, b) for x in mean_of_runs([f.own for f in side])]
    named: dict[str, list[BudgetLine]] = {}
    for line in within:
        named.setdefault(line.what, []).append(line)
    merged = []
    for what, parts in named.items():
        standard, freedom = combined(parts)
        merged.append(BudgetLine(what, standard, parts[0].kind, freedom if isfinite(freedom) else None))
    return [_scatter_line(scatter, 1 / len(a) + 1 / len(b)), *merged]


def _test(a: Sequence[RunFigure], b: Sequence[RunFigure], scatter: Scatter) -> Test | None:
    """Difference of the means of runs; within-run errors and run-to-run scatter add (source: gum, satterthwaite)."""
    if not a or not b:
        return None
    standard, freedom = combined(_lines(a, b, scatter))
    one, two = (sum(f.value for f in side) / len(side) for side in (a, b))
    return Test(two - one, standard, freedom) if standard > 0 else None


def _word(d: _Draft, p_differs: float, p_equal: float) -> Word:
    if d.test is None or any(c.weight != "doubt" for c in d.found):
        return "cannot_tell"
    return word_of(d.test, p_differs, p_equal, d.channel in HIGHER_IS_BETTER)


def word_of(test: Test, p_differs: float, p_equal: float, higher_is_better: bool = False) -> Word:
    """The word for a difference from its corrected p values.

    What is shown to lie within the margin is no difference to its user, also where a smaller difference is shown beside it.
    """
    alpha = 1 - CONFIDENCE
    if p_equal < alpha / 2:  # half of alpha: the interval that is shown lies within the margin
        return "no_difference"
    if p_differs < alpha:
        return "better" if (test.difference > 0) == higher_is_better else "worse"
    return "cannot_tell"


def _pair(d: _Draft, word: Word, family: int) -> Pair:
    part = d.channel.split("_")[0]
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
    )


def _tell(d: _Draft, family: int) -> Tell | None:
    """Fewest repeats of each layout that would probably tell, were the gap as it looks; None beyond MOST_REPEATS.

    Needed: gap > (t of the corrected level + t of the power) times the standard uncertainty, for either word.
    """
    if d.test is None:
        return None
    own = [combined(f.own)[0] ** 2 for side in (d.a, d.b) for f in side.figures(d.channel)]
    each = d.scatter.sigma**2 + float(np.mean(own))
    fewest = min(len(d.a.judged), len(d.b.judged)) + 1
    apart, within = abs(d.test.difference), d.margin - abs(d.test.difference)
    for n in range(fewest, MOST_REPEATS + 1):
        standard, freedom = sqrt(2 * each / n), PRIOR_FREEDOM + 2.0 * (n - 1)
        level = t_quantile(1 - (1 - CONFIDENCE) / 2 / family, freedom) + t_quantile(POWER, freedom)
        if apart > level * standard:
            better = (d.test.difference > 0) == (d.channel in HIGHER_IS_BETTER)
            return Tell(n, "better" if better else "worse")
        if within > level * standard:
            return Tell(n, "no_difference")
    return None
