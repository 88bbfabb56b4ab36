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
OUTLIER_SHARE = 0.05  # of sets of good repeats in which Grubbs' test calls one an outlier


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
    """By Grubbs' test within three or more repeats; two repeats by their gap against the scatter known (source: grubbs)."""
    found = []
    for c in candidates:
        values = np.array(c.values(channel))
        others = [x for x in candidates if x is not c]
        if len(values) > 2 and (worst := grubbs(values.tolist())) is not None:
            apart = float(values[worst] - np.delete(values, worst).mean())
            found.append(OddRun(c.name, channel, worst + 1, apart, f"run {worst + 1} of {len(values)} lies apart from its repeats"))
        elif len(values) == 2:
            known = pooled_scatter(others, channel)
            gap = float(values[1] - values[0])
            if abs(gap) > sqrt(2) * known.sigma * t_quantile(1 - OUTLIER_SHARE / 20, known.freedom):
                found.append(OddRun(c.name, channel, 2, gap, "its two runs disagree: a third would tell which is wrong"))
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
