"""Which run is worth most: what it is expected to gain for the decision per hour, and when no further one is likely to change it.

Every layout has a cost, in kelvins as they matter to the person, known as one joint normal distribution from forecast and runs. A run
tells one of them with an error of its own; what it tells of like layouts follows from the covariance. Its worth is how much lower the
cost of the pick is expected to be after it than before (source: frazier). One run of two that are close may gain nothing where two
would: up to ``MOST_REPEATS`` of the same are looked at together, by what they gain an hour.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

MOST_REPEATS = 4  # numerical
QUANTILES = 401  # numerical: of what a run may tell
DRAWS = 8_000  # numerical: of all costs together, for chances
SURE = 0.95  # of the pick being within the margin of the best
LOOKS_SHARE = 0.5  # of what may be missed is spent by the first look, half of the rest by each that follows: looking again costs nothing
STRUCK_SIGMAS, STRUCK_K = 4.0, 6.0  # no source: a layout never run is put aside only where it is this far behind the pick, both


@dataclass(frozen=True)
class Knowledge:
    """Costs of layouts in K, lower is better: ``mean`` and ``covariance`` of what is known, ``noise_k`` of one more run of each (one
    sigma), ``minutes`` that such a run takes from where the bench stands now, ``runs`` so far."""

    mean: Floats
    covariance: Floats
    noise_k: Floats
    minutes: Floats
    runs: NDArray[np.int64]


@dataclass(frozen=True)
class Worth:
    """What running a layout is expected to gain, in K of the pick's cost, ``repeats`` times if that pays better by the hour."""

    layout: int
    gain_k: float
    minutes: float
    gain_k_per_h: float
    repeats: int


@dataclass(frozen=True)
class State:
    """Where the decision stands. ``chance``: of the pick being the best; ``within``: of its being within the margin of it.

    ``enough``: what is known is. A pick that was run once is still run again before the campaign ends, since the one that
    looks best of many owes that to luck too (source: smith_winkler). ``struck``: layouts never run that are too far behind to be worth a
    run; ``open``: never run and still in question.
    """

    pick: int
    challenger: int | None
    chance: float
    within: float
    enough: bool
    stop: bool
    struck: tuple[int, ...]
    open: tuple[int, ...]
    worths: tuple[Worth, ...]


def state_of(known: Knowledge, margin_k: float, looks: int, seed: int = 1, kept: Sequence[int] = ()) -> State:
    """``looks``: how often the decision was looked at, counting this; ``kept``: layouts that are never to be put aside.

    None is put aside before the pick itself was run: by the forecast alone nobody is out.
    """
    pick = int(np.argmin(known.mean))
    rng = np.random.default_rng(seed)
    draws = rng.multivariate_normal(known.mean, _positive(known.covariance), DRAWS, method="eigh")
    best = draws.min(axis=1)
    others = [i for i in range(len(known.mean)) if i != pick]
    challenger = max(others, key=lambda i: float((draws[:, i] < draws[:, pick]).mean()) - 1e-6 * known.mean[i], default=None)
    struck = tuple(i for i in others if known.runs[pick] and known.runs[i] == 0 and i not in kept and _far(known, i, pick, margin_k))
    waiting = tuple(i for i in range(len(known.mean)) if known.runs[i] == 0 and i not in struck)
    within = float((draws[:, pick] - best <= margin_k).mean())
    worths = sorted((worth(known, i) for i in range(len(known.mean)) if i not in struck), key=lambda w: -w.gain_k_per_h)
    enough = within >= needed(looks) and not waiting
    stop = enough and (known.runs[pick] > 1 or not others)
    return State(pick, challenger, float((draws[:, pick] <= best).mean()), within, enough, bool(stop), struck, waiting, tuple(worths))


def needed(looks: int) -> float:
    """The chance that is asked for at one of several looks: together they miss no more than a single one at ``SURE`` would."""
    return 1 - (1 - SURE) * LOOKS_SHARE ** max(min(looks, 4) - 1, 0)


def _far(known: Knowledge, i: int, pick: int, margin_k: float) -> bool:
    gap = known.mean[i] - known.mean[pick]
    c = known.covariance
    sigma = sqrt(max(float(c[i, i] + c[pick, pick] - 2 * c[i, pick]), 0.0))
    return bool(gap > max(STRUCK_SIGMAS * sigma, STRUCK_K, margin_k))


def worth(known: Knowledge, layout: int) -> Worth:
    """Of the next run of a layout, by the number of repeats that gains most an hour; each is a build of its own, rebuilding included."""
    options = []
    for n in range(1, MOST_REPEATS + 1):
        gain = expected_gain(known, layout, n)
        minutes = float(known.minutes[layout]) * n
        options.append(Worth(layout, gain, float(known.minutes[layout]), 60 * gain / minutes, n))
    return max(options, key=lambda w: w.gain_k_per_h)


def expected_gain(known: Knowledge, layout: int, repeats: int = 1) -> float:
    """How much lower the least mean is expected to be after some runs of a layout (source: frazier), in K; never negative."""
    c = known.covariance
    own = float(c[layout, layout]) + float(known.noise_k[layout]) ** 2 / repeats
    if own <= 0:
        return 0.0
    moves = c[:, layout] / sqrt(own)
    z = _quantiles()
    after = (known.mean[:, None] + moves[:, None] * z[None, :]).min(axis=0)
    return max(float(known.mean.min() - after.mean()), 0.0)


def _quantiles() -> Floats:
    from scipy import special  # here: a quarter of a second that a forecast does not ask for

    return np.asarray(special.ndtri((np.arange(QUANTILES) + 0.5) / QUANTILES))


def _positive(covariance: Floats) -> Floats:
    return covariance + 1e-9 * np.eye(len(covariance))
