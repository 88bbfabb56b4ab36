"""Loudness of a steady sound in sone by ISO 532-1, with an open library: imported only where it is asked for, since it takes seconds."""

import numpy as np
from numpy.typing import NDArray

RATE_HZ = 48_000  # the method's own
MOST_S = 10.0  # of a steady sound more tells nothing new
P0_PA = 20e-6  # reference of levels (ISO 1683)


def loudness_sone(samples: NDArray[np.float32], rate_hz: int, offset_db: float) -> float | None:
    """Of one channel, free field from the front; ``offset_db`` ties full scale to a level. None for a clip of under a second."""
    from mosqito.sq_metrics import loudness_zwst
    from scipy import signal

    if len(samples) < rate_hz:
        return None
    middle = max(int((len(samples) - MOST_S * rate_hz) / 2), 0)
    used = samples[middle : middle + int(MOST_S * rate_hz)].astype(np.float64)
    if rate_hz != RATE_HZ:
        share = np.gcd(RATE_HZ, rate_hz)
        used = signal.resample_poly(used, RATE_HZ // share, rate_hz // share)
    total, _, _ = loudness_zwst(used * P0_PA * 10 ** (offset_db / 20), RATE_HZ, field_type="free")
    return float(np.atleast_1d(total)[0])
