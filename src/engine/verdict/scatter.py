"""How far runs of one layout lie apart: pooled from repeats and moderated by a stated prior, and repeats that stand out."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf, sqrt

import numpy as np

from engine.runs.analysis import SCORE_SHARE
from engine.runs.budget import t_quantile
from engine.verdict.candidate import Candidate

RUN_SCATTER_PRIOR_K = 0.5  # one sigma, stated prior when there are no repeats
PRIOR_FREEDOM = 2.0  # the prior weighs like three repeats; keeps 93 to 97 % of intervals true for scatters of 0.35 to 0.7 K (study)
RESULTS = ("score", "fps", "job_s")
OUTLIER_SHARE = 0.01  # of sets of good repeats in which one is called an outlier; rare, since it asks a person to look


@dataclass(frozen=True)
class Scatter:
    """Standard deviation from run to run; ``freedom`` is unlimited for a prior alone, which is taken as known."""

    sigma: float
    freedom: float
    origin: str


def pooled_scatter(candidates: Sequence[Candidate], channel: str) -> Scatter:
    """From the repeats of all layouts, moderated by the prior (source: smyth): (d0 s0² + d s²)/(d0 + d) on d0 + d degrees."""
    squares, freedom = 0.0, 0
    for candidate in candidates:
        values = candidate.values(channel)
        if len(values) > 1:
            squares += float(np.var(values, ddof=1)) * (len(values) - 1)
            freedom += len(values) - 1
    prior = prior_of(candidates, channel)
    unit = {"c": "K", "dba": "dB", "w": "W", "mhz": "MHz", "s": "s"}.get(channel.rsplit("_", 1)[-1], "")
    if freedom < 1:
        return Scatter(prior, inf, f"prior of {prior:.3g} {unit} (no repeats)".replace("  ", " "))
    variance = (squares + PRIOR_FREEDOM * prior**2) / (freedom + PRIOR_FREEDOM)
    return Scatter(sqrt(variance), freedom + PRIOR_FREEDOM, f"pooled from repeats ({freedom} degrees of freedom) and the prior")


def prior_of(candidates: Sequence[Candidate], channel: str) -> float:
    """One sigma between runs where repeats do not tell: in K or dB, or a share of the size of a result, a power or a clock."""
    if channel.endswith(("_c", "_dba")):
        return RUN_SCATTER_PRIOR_K
    return SCORE_SHARE * float(np.mean([abs(v) for c in candidates for v in c.values(channel)] or [0.0]))


@dataclass(frozen=True)
class OddRun:
    """A run that lies apart from its repeats: ``nth`` of the layout's judged runs."""

    layout: str
    channel: str
    nth: int
    apart: float
    words: str


def odd_runs(candidates: Sequence[Candidate], channel: str) -> list[OddRun]:
    """By Grubbs' test within three or more repeats; two repeats by their gap (source: grubbs).

    Either way the run must also lie further off than the scatter known from all layouts allows: three readings in whole degrees
    of which two agree are no reason to doubt the third.
    """
    found = []
    for c in candidates:
        values = c.values(channel)
        if len(values) < 2:
            continue
        known = pooled_scatter([x for x in candidates if x is not c], channel)
        allowed = t_quantile(1 - OUTLIER_SHARE / 2, known.freedom) * known.sigma * sqrt(1 + 1 / (len(values) - 1))
        nth = 1 if len(values) == 2 else grubbs(values)
        if nth is None:
            continue
        apart = values[nth] - sum(v for i, v in enumerate(values) if i != nth) / (len(values) - 1)
        if abs(apart) > allowed:
            words = f"run {nth + 1} of {len(values)} lies apart from its repeats"
            found.append(OddRun(c.name, channel, nth + 1, apart, words if len(values) > 2 else "its two runs disagree; a third would tell"))
    return found


def grubbs(values: Sequence[float]) -> int | None:
    """Index of the one value that stands out among three or more, or None (source: grubbs)."""
    x = np.asarray(values, float)
    n, sd = len(x), float(x.std(ddof=1))
    if n < 3 or sd <= 0:
        return None
    away = np.abs(x - x.mean()) / sd
    t = t_quantile(1 - OUTLIER_SHARE / (2 * n), n - 2)
    critical = (n - 1) / sqrt(n) * sqrt(t * t / (n - 2 + t * t))
    worst = int(np.argmax(away))
    return worst if away[worst] > critical else None
