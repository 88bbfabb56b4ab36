"""Is a stretch of readings still going anywhere? Mann-Kendall trend test with Sen's slope on block means of the tail.

Ranks only: whole-degree sensors, flicker and single spikes do not move it. Block means are taken first, since neighbouring
readings hang together and the test assumes that they do not (source: mann_kendall, sen).
"""

from dataclasses import dataclass
from math import erfc, sqrt

import numpy as np

from engine.runs.series import Floats
from engine.runs.window import effective_count

BLOCKS = 16  # numerical; block means hang together less than readings (module)
SIGNIFICANCE = 0.01  # one false trend in a hundred settled tails
LEAST_BLOCKS = 8  # fewer have no rank test at one per cent
SURE_SIGMAS, LEAST_PIECE = 4.0, 4  # numerical: few blocks, that hang together
MOST_EXACT = 33  # readings whose orders are counted


@dataclass(frozen=True)
class Trend:
    """Kendall's S, the chance of one as large without any trend (two-sided), and Sen's slope in K/min."""

    s: float
    p: float
    slope_k_min: float

    def moves(self, least_k_min: float) -> bool:
        """There surely is a trend, and it is at least that steep."""
        return self.p < SIGNIFICANCE and abs(self.slope_k_min) >= least_k_min


def trend(elapsed_s: Floats, values: Floats) -> Trend:
    """Of block means over the stretch given; shorter than LEAST_BLOCKS readings nothing can be said and p is 1."""
    if len(values) < LEAST_BLOCKS:
        return Trend(0.0, 1.0, 0.0)
    size = max(len(values) // BLOCKS, 1)
    cut = len(values) - len(values) % size
    t = elapsed_s[-cut:].reshape(-1, size).mean(axis=1) / 60
    y = values[-cut:].reshape(-1, size).mean(axis=1)
    if float(np.ptp(y)) == 0.0:
        return Trend(0.0, 1.0, 0.0)
    earlier, later = np.triu_indices(len(y), 1)
    apart = y[later] - y[earlier]
    s = int(np.sign(apart).sum())
    return Trend(float(s), chance_of(s, y), float(np.median(apart / (t[later] - t[earlier]))))


def off(left_over: Floats, most_k: float, noise_k: float) -> bool:
    """Does what a fit left over of a stretch lie off nothing by more than ``most_k`` in the mean, and surely so? A step in the midst of
    a tail is no trend: Sen's slope is a median. ``noise_k``: of one value by the whole run, since a few agree by chance."""
    if len(left_over) < LEAST_PIECE:
        return False
    error = max(float(np.std(left_over)) / sqrt(effective_count(left_over)), noise_k / sqrt(len(left_over)))
    return abs(float(left_over.mean())) > max(most_k, SURE_SIGMAS * error)


def chance_of(s: int, y: Floats) -> float:
    """Two-sided chance of a Kendall's S as far from nought in readings ``y`` without trend.

    Exact by counting orders with so many pairs turned round (mann_kendall); where readings are alike, the normal approximation
    with their correction. The library's ``kendalltau`` says the same and takes a second to load.
    """
    n = len(y)
    alike = np.unique(y, return_counts=True)[1]
    if n > MOST_EXACT or alike.max() > 1:
        spread = n * (n - 1) * (2 * n + 5) - float((alike * (alike - 1) * (2 * alike + 5)).sum())
        return erfc(abs(s) / sqrt(spread / 18) / sqrt(2))
    turned = np.ones(1)  # chances of 0, 1, 2 ... pairs turned round
    for k in range(2, n + 1):
        turned = np.convolve(turned, np.full(k, 1 / k))
    fewest = (n * (n - 1) // 2 - abs(s)) // 2
    return min(2 * float(turned[: fewest + 1].sum()), 1.0)
