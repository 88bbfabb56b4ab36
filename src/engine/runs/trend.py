"""Is a stretch of readings still going anywhere? Mann-Kendall trend test with Sen's slope on block means of the tail.

Ranks only: whole-degree sensors, flicker and single spikes do not move it. Block means are taken first, since neighbouring
readings hang together and the test assumes that they do not (source: mann_kendall, sen).
"""

from dataclasses import dataclass

import numpy as np

from engine.runs.series import Floats

BLOCKS = 16
SIGNIFICANCE = 0.01
CONFIDENCE = 0.95
LEAST_BLOCKS = 8


@dataclass(frozen=True)
class Trend:
    """Kendall's S, the chance of one as large without any trend (two-sided), and Sen's slope with its 95 % limits in K/min."""

    s: float
    p: float
    slope_k_min: float
    low_k_min: float
    high_k_min: float

    def moves(self, least_k_min: float) -> bool:
        """There surely is a trend, and it is at least that steep."""
        return self.p < SIGNIFICANCE and abs(self.slope_k_min) >= least_k_min


def trend(elapsed_s: Floats, values: Floats) -> Trend:
    """Of block means over the stretch given; shorter than LEAST_BLOCKS readings nothing can be said and p is 1."""
    if len(values) < LEAST_BLOCKS:
        return Trend(0.0, 1.0, 0.0, -np.inf, np.inf)
    size = max(len(values) // BLOCKS, 1)
    cut = len(values) - len(values) % size
    t = elapsed_s[-cut:].reshape(-1, size).mean(axis=1) / 60
    y = values[-cut:].reshape(-1, size).mean(axis=1)
    if float(np.ptp(y)) == 0.0:
        return Trend(0.0, 1.0, 0.0, 0.0, 0.0)
    from scipy import stats  # here: it takes half a second, and few ask for it

    tau = stats.kendalltau(t, y)
    signs = np.sign(np.subtract.outer(y, y))
    line = stats.theilslopes(y, t, CONFIDENCE)
    return Trend(float(np.tril(signs).sum()), float(tau.pvalue), float(line.slope), float(line.low_slope), float(line.high_slope))
