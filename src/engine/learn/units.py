"""Runs of units of one kind held against each other at the same minute: what is read then, and what good units differ by."""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from engine.machine import Machine
from engine.runs.series import ROOM_CHANNEL, RunLog

Floats = NDArray[np.float64]

# One sigma of how good units of one kind differ, in shares of what is read; no source: of the order of makers' stated tolerances.
CHIP_SHARE: Mapping[str, float] = {"cpu_package_c": 0.015, "card_core_c": 0.02}  # no source
AGAIN_SHARE = 0.008  # no source: from one run of a machine to the next, nothing touched
BUILD_SHARE = 0.012  # no source: paste and mounting from one build to the next, as in repeats
AIR_SHARE, AIR_K = 0.03, 0.3  # no source: a probe in the air hangs a little elsewhere in every unit
COOLANT_K = 0.15  # no source
LEAST_SD_K = 0.2  # no source: a sensor's own step and place
ROOM_K = 0.25  # no source: the room's thermometer, common to all temperatures of a run
TACH_SHARE, TACH_RPM = 0.02, 20.0  # no source: fans of one kind, and the step of a tachometer
LEVEL_DB = 0.8  # no source: pieces and the microphone's place
POWER_SHARE = 0.02  # no source
PRIOR_UNITS = 8.0  # no source: what is assumed of good units weighs as much as so many of them
ON_SHARE = 0.5  # no source: of its power: the load is on
WINDOW_SHARE, LEAST_WINDOW_S = 0.2, 60.0  # no source: of a run, what is averaged
LIMIT_K = 2.0  # no source: so close to its limit a part gives up power, and its temperature says nothing


def from_load(log: RunLog) -> RunLog:
    """The log from the moment its load came on, where a power was logged; else as it is."""
    for name in ("cpu_power_w", "card_power_w"):
        power = log.channels.get(name)
        if power is None or not np.isfinite(power).any():
            continue
        usual = float(np.nanmedian(power[len(power) // 2 :]))
        on = np.flatnonzero(np.nan_to_num(power) > ON_SHARE * usual)
        if usual > 0 and len(on) and len(log.elapsed_s) - on[0] > 2:
            first = int(on[0])
            return log.since(first)
    return log


def read_at(log: RunLog, minutes: float) -> dict[str, float]:
    """Means over the last fifth of the first ``minutes``, temperatures over room; what reads nothing at all is not told."""
    end = log.elapsed_s[0] + 60 * minutes
    window_s = max(LEAST_WINDOW_S, WINDOW_SHARE * 60 * minutes)
    span = (log.elapsed_s <= end + 1e-6) & (log.elapsed_s >= end - window_s)
    room = log.room_c
    found = {}
    for name, values in log.channels.items():
        good = span & np.isfinite(values)
        if not good.any() or name == ROOM_CHANNEL:
            continue
        if name.endswith("_c"):
            if room is not None:
                found[name] = float(np.mean(values[good] - room[good]))
        else:
            found[name] = float(np.mean(values[good]))
    return found


def change_of(channel: str, now: float, before: float) -> float:
    """K, dB and W as a difference, tachometers as a ratio less one."""
    if channel.endswith("_rpm"):
        return now / before - 1 if before > 0 else 0.0
    return now - before


def at_same_power(
    change: Mapping[str, float], here: Mapping[str, float], mean: Mapping[str, float], m: Machine, room_c: float
) -> tuple[dict[str, float], list[str]]:
    """Changes of parts that drew more or less than in the reference put to its power, and the parts that stand at their limits."""
    found, held = dict(change), []
    limits = {"cpu": m.cpu.tj_max_c, "card": m.card.t_limit_c if m.card else np.inf}
    for part, channel in (("cpu", "cpu_package_c"), ("card", "card_core_c")):
        power = f"{part}_power_w"
        if channel not in found or power not in here or power not in mean or min(here[power], mean[power]) <= 0:
            continue
        if here[channel] + room_c > limits[part] - LIMIT_K:
            held.append(part)
        else:
            found[channel] = here[channel] * mean[power] / here[power] - mean[channel]
    return found, held


def covariance(
    channels: Sequence[str],
    mean: Mapping[str, float],
    runs: float,
    flow: Mapping[str, float],
    others: Sequence[Mapping[str, float]],
    same_machine: bool,
) -> Floats:
    """Of good units' changes against the mean of ``runs`` reference runs, in the order of ``channels``.

    ``flow``: what all fans of a unit moving a little less air would change. ``others``: changes of units that passed. ``same_machine``: the
    reference's own, later: chips, fans and probes are the same.
    """
    own = np.array([_sd(c, mean[c], same_machine) for c in channels])
    matrix = np.diag(own**2)
    warm = np.array([ROOM_K if c.endswith("_c") else 0.0 for c in channels])
    matrix += np.outer(warm, warm)
    if not same_machine:
        weaker_fans = np.array([flow[c] if c.endswith("_c") else 0.0 for c in channels])
        matrix += np.outer(weaker_fans, weaker_fans)
    matrix *= 1 + 1 / runs
    root = np.sqrt([_scale(c, matrix[i, i], others) for i, c in enumerate(channels)])
    return np.asarray(matrix * np.outer(root, root))


def _scale(channel: str, variance: float, others: Sequence[Mapping[str, float]]) -> float:
    """By how units that passed scattered: an inverse chi-squared prior, its mean what is assumed."""
    read = np.array([o[channel] for o in others if channel in o])
    if len(read) < 2:
        return 1.0
    return float((PRIOR_UNITS + (read**2).sum() / variance) / (PRIOR_UNITS + len(read)))


def _sd(channel: str, value: float, same_machine: bool) -> float:
    if same_machine and channel.endswith("_c"):
        return float(np.hypot(AGAIN_SHARE * abs(value), LEAST_SD_K))
    if channel in CHIP_SHARE:
        return float(np.hypot(abs(value) * np.hypot(CHIP_SHARE[channel], BUILD_SHARE), LEAST_SD_K))
    if channel == "coolant_c":
        return float(np.hypot(abs(value) * BUILD_SHARE, COOLANT_K))
    if channel.endswith("_c"):
        return float(np.hypot(abs(value) * AIR_SHARE, AIR_K))
    if channel.endswith("_rpm"):
        return float(np.hypot(TACH_SHARE, TACH_RPM / max(value, TACH_RPM)))
    return LEVEL_DB if channel.endswith("_dba") else POWER_SHARE * max(abs(value), 1.0)
