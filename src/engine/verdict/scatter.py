"""How far runs of one layout lie apart: pooled from repeats and moderated by a stated prior, and repeats that stand out."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np

from engine.runs.analysis import SCORE_SHARE
from engine.runs.budget import combined, t_quantile
from engine.verdict.candidate import Candidate

RUN_SCATTER_PRIOR_K = 0.5  # one sigma where nobody knows better: of parts some 50 K over room, and never less than two thirds of it
PRIOR_RISE_SHARE = 0.01  # builds scatter with what they scatter about
LEAST_SHARE = 2 / 3  # of the prior above; no source
# Of a part at its limit: its clock scatters less than its power, which follows it with more than its square (likeness).
PRIOR_SHARES = {"mhz": 0.0045}
PRIOR_FREEDOM = 2.2  # what the prior is worth, in degrees: single runs hold 90 % at builds of 1 K and 93 % at 0.5 K (study)
# Of levels: 0.5 dB is what stable, repeatable operation scatters by (source: iso_3744), and no build of a machine is far from that.
LEVEL_FREEDOM = 5.0
LEARNED_FREEDOM = 12.0  # the most that a person's own earlier repeats are worth: another machine is another machine
LEAST_BETWEEN = 0.03  # of the whole scatter: what is left to builds where the errors within a run explain it all
RESULTS = ("score", "fps", "job_s")
OUTLIER_SHARE = 0.01  # of sets of good repeats in which one is called an outlier; rare, since it asks a person to look


@dataclass(frozen=True)
class Prior:
    """What is held of the scatter between builds before this campaign's repeats: one sigma, what it is worth in degrees of freedom,
    and where it is from. ``repeats``: how many of the person's own earlier repeats it was learned from. ``gone``: degrees of this
    campaign's repeats at which it counts no more; as many as it is worth where nothing else is said."""

    sigma: float
    freedom: float
    origin: str
    repeats: int = 0
    gone: float | None = None

    def left(self, repeats: int) -> float:
        """What it is still worth beside so many degrees of repeats."""
        return self.freedom * max(1 - repeats / (self.gone or self.freedom), 0.0)


@dataclass(frozen=True)
class Scatter:
    """Standard deviation of a run's figure from one run and build to the next; ``sigma`` with what differs within a run, ``within``
    of the same. ``freedom``: of its estimate."""

    sigma: float
    freedom: float
    origin: str
    within: float = 0.0
    repeats: int = 0  # degrees of freedom that this campaign's own repeats gave

    @property
    def between(self) -> float:
        """From one build to the next alone: what the errors within a run do not explain."""
        return sqrt(max(self.sigma**2 - self.within**2, (LEAST_BETWEEN * self.sigma) ** 2))

    def spent(self, share: float) -> float:
        """Variance squared over degrees of freedom, of a mean with ``share`` = 1/n, or of a difference with 1/n + 1/m.

        Repeats estimate the whole scatter, the prior that of builds alone; errors within a run are known.
        """
        known = self.within**2 * (1 - min(self.repeats / self.freedom, 1.0))
        return (max(self.sigma**2 - known, 0.0) * share) ** 2 / self.freedom


def pooled_scatter(candidates: Sequence[Candidate], channel: str, prior: Prior | None = None) -> Scatter:
    """From the repeats of all layouts; the prior fills the degrees that they do not give (source: smyth).

    With d degrees of repeats and a prior of d0 the prior counts as d0 - d, and not at all from d0 on: its guess neither widens the
    intervals of a careful person nor narrows those of a rough one. A prior that is worth more than that fades as soon (``Prior.left``).
    """
    squares, repeats = 0.0, 0
    for candidate in candidates:
        values = candidate.values(channel)
        freedom = len(values) - 1 - candidate.fitted(channel)
        if freedom > 0:
            squares += float(np.var(values, ddof=1)) * (len(values) - 1)
            repeats += freedom
    prior = prior or prior_of(candidates, channel)
    within = _within(candidates, channel)
    weight = prior.left(repeats)
    variance = (squares + weight * (prior.sigma**2 + within**2)) / (repeats + weight)
    origin = prior.origin if not repeats else f"from {repeats} repeat{'s' if repeats > 1 else ''} of this campaign"
    if repeats and weight:
        origin += f", filled up by the {prior.origin}"
    return Scatter(max(sqrt(variance), within), repeats + weight, origin, within, repeats)


def _within(candidates: Sequence[Candidate], channel: str) -> float:
    """What differs from run to run within a run's own budget: the mean over all runs, root mean square."""
    own = [combined(f.own)[0] ** 2 for c in candidates for f in c.figures(channel)]
    return sqrt(float(np.mean(own))) if own else 0.0


def prior_of(candidates: Sequence[Candidate], channel: str, size: float | None = None) -> Prior:
    """The stated prior: in K or dB, or a share of the size of a result, a power or a clock; ``size`` where it is known already."""
    unit = {"c": "K", "dba": "dB", "w": "W", "mhz": "MHz", "s": "s"}.get(channel.rsplit("_", 1)[-1], "")
    if size is None:
        size = float(np.mean([abs(v) for c in candidates for v in c.values(channel)] or [0.0]))
    if channel.endswith("_c"):
        sigma = max(PRIOR_RISE_SHARE * size, LEAST_SHARE * RUN_SCATTER_PRIOR_K)
    else:
        sigma = RUN_SCATTER_PRIOR_K if channel.endswith("_dba") else PRIOR_SHARES.get(channel.rsplit("_", 1)[-1], SCORE_SHARE) * size
    freedom = LEVEL_FREEDOM if channel.endswith("_dba") else PRIOR_FREEDOM
    told = np.format_float_positional(sigma, precision=2, fractional=False, trim="-")
    return Prior(sigma, freedom, f"stated prior of {told} {unit}".strip(), gone=PRIOR_FREEDOM)


def learned(gaps: Sequence[float], stated: Prior) -> Prior:
    """A prior from a person's own earlier repeats: ``gaps`` between a run and the next of the same layout, in the channel's unit.

    Half a squared gap is one degree of the variance (source: smyth); few of them are filled up by the stated prior.
    """
    n = min(float(len(gaps)), LEARNED_FREEDOM)
    if not gaps:
        return stated
    own = float(np.mean(np.square(gaps))) / 2
    weight = max(stated.freedom - n, 0.0)
    variance = (own * n + stated.sigma**2 * weight) / (n + weight)
    count = f"{len(gaps)} of your own earlier repeat{'s' if len(gaps) > 1 else ''}"
    return Prior(sqrt(variance), n + weight, f"scatter learned from {count}", len(gaps))


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
        sigma = max(known.sigma, LEAST_SHARE * prior_of(candidates, channel).sigma)  # luck of few repeats makes no run an odd one
        allowed = t_quantile(1 - OUTLIER_SHARE / 2, known.freedom) * sigma * sqrt(1 + 1 / (len(values) - 1))
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
