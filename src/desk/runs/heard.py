"""A run's level over its time: what rises and falls is heard, and how long it is above what may be."""

import numpy as np

from engine.runs.series import RunLog
from engine.sound.changes import OverTime, over_time

SOUND = "sound_dba"
MEAN_S = 10.0  # of a meter's readings, before changes are looked for: what it flutters by is no change; no source
LEAST_MEANS = 12


def heard_over_time(log: RunLog, limit_dba: float | None) -> OverTime | None:
    """Of the energy means of each MEAN_S with a reading; None where a level was not logged for two minutes at least."""
    values = log.channels.get(SOUND)
    if values is None:
        return None
    good = np.isfinite(values)
    if good.sum() < LEAST_MEANS:
        return None
    every_s = max(MEAN_S, float(np.median(np.diff(log.elapsed_s[good]))))  # a logger may be slower than that
    step = np.floor(log.elapsed_s[good] / every_s).astype(np.int64)
    if len(np.unique(step)) < LEAST_MEANS:
        return None
    _, at = np.unique(step, return_inverse=True)
    energy = np.bincount(at, 10 ** (values[good] / 10)) / np.bincount(at)
    return over_time((10 * np.log10(energy)).tolist(), every_s, limit_dba)
