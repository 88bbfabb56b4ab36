"""Marks on a run that lower what can be concluded from it."""

from collections.abc import Sequence

import numpy as np

from engine.runs.flag import Flag
from engine.runs.hunting import Hunting
from engine.runs.limits import held
from engine.runs.names import channel_words
from engine.runs.rounding import COARSE
from engine.runs.series import ROOM_CHANNEL, RunLog, resolution
from engine.runs.watch import watched

ROOM_DRIFT_K = 1.0  # over a run; common practice, no source
COLDER_THAN_ROOM_K = 2.5  # beyond a thermometer's accuracy and a sensor's step
GAP_FACTOR = 8.0  # times the usual step; common practice, no source
POWER_LOST_SHARE = 0.05  # beyond what a load wanders by; common practice, no source
POWER_LOST_W = 3.0  # beyond what a meter wanders by; common practice, no source


def run_flags(
    log: RunLog, settled: bool, window: tuple[float, float], background_dba: float | None = None, why: str = "", more: str = ""
) -> list[Flag]:
    """All flags of a run; ``settled`` as the settle test called it, ``why`` where not and how much ``more`` it takes, ``window`` the
    averaging window in s.

    ``background_dba`` is the room's level with the machine off, where it is known.
    """
    start, end = float(log.elapsed_s[0]), float(log.elapsed_s[-1])
    found: list[Flag] = []
    if log.room_c is None:
        found.append(Flag("room_missing", start, end, "no room temperature: give one, or the run is not comparable"))
    else:
        tenth = max(len(log.elapsed_s) // 10, 1)
        drift = float(np.mean(log.room_c[-tenth:]) - np.mean(log.room_c[:tenth]))
        if abs(drift) > ROOM_DRIFT_K:
            found.append(Flag("room_drift", start, end, f"the room moved by {drift:+.1f} K during the run"))
        if log.room_step_k >= COARSE:
            still = resolution(log.channels[ROOM_CHANNEL]) == 0
            said = (
                f"stood at {log.room_c[0]:.0f} °C throughout, as in whole degrees"
                if still
                else f"is logged in steps of {log.room_step_k:.2g} K"
            )
            found.append(Flag("room_coarse", start, end, f"the room {said}"))
        found += _colder_than_room(log)
    if not settled and log.loaded:
        said = f"not settled after {(end - start) / 60:.0f} min{': ' + why if why else ''}; run longer{', ' + more if more else ''}"
        found.append(Flag("too_short", start, end, said))
    found += _gaps(log)
    found += _throttled(log, "cpu")
    found += _throttled(log, "card")
    found += watched(log, window, background_dba)
    return found


def hunting_flags(log: RunLog, swing: tuple[str, Hunting] | None) -> list[Flag]:
    """A channel that swings without end, told once for the run by the one that swings most."""
    if swing is None:
        return []
    name, found = swing
    unit = "W" if name.endswith("_w") else "K"
    words = f"{channel_words(name)} swings by {found.amplitude_k:.1f} {unit} either way every {found.period_s:.0f} s"
    return [Flag("hunting", float(log.elapsed_s[0]), float(log.elapsed_s[-1]), words, name)]


def unmarked(flags: Sequence[Flag], disturbed_s: Sequence[tuple[float, float]]) -> list[Flag]:
    """Without the flags that a person's own mark explains."""
    slack = 5.0
    return [f for f in flags if not any(a - slack <= f.from_s and f.to_s <= b + slack for a, b in disturbed_s)]


def _colder_than_room(log: RunLog) -> list[Flag]:
    """Nothing in a machine is colder than the room; a part that starts so says that the room figure is wrong."""
    assert log.room_c is not None
    first = slice(0, max(len(log.elapsed_s) // 300, 3))  # few, since loads warm at once; a median, since sensors flicker
    room = float(np.mean(log.room_c[first]))
    starts = [float(np.nanmedian(log.channels[c][first])) for c in log.temperatures if np.isfinite(log.channels[c][first]).any()]
    below = room - min(starts, default=room)
    if below <= COLDER_THAN_ROOM_K:
        return []
    detail = f"the parts start {below:.1f} K colder than the room of {room:.1f} °C: check the room temperature"
    return [Flag("room_doubtful", float(log.elapsed_s[0]), float(log.elapsed_s[-1]), detail)]


def _gaps(log: RunLog) -> list[Flag]:
    steps = np.diff(log.elapsed_s)
    usual = float(np.median(steps))
    wide = np.flatnonzero(steps > max(GAP_FACTOR * usual, 10.0))
    return [Flag("gap", float(log.elapsed_s[i]), float(log.elapsed_s[i + 1]), f"no readings for {steps[i]:.0f} s") for i in wide[:20]]


def _throttled(log: RunLog, part: str) -> list[Flag]:
    """The part gives up power to stay at its limit; or its power falls, and its temperature with it."""
    own = held(log, part)
    if own is not None:
        return [Flag("throttled", float(log.elapsed_s[0]) + own.since_s, float(log.elapsed_s[-1]), own.words, own.channel)]
    power = log.channels.get(f"{part}_power_w")
    if power is None or not any(c.startswith(part) for c in log.loaded):
        return []
    n = len(power)
    parts = [x[np.isfinite(x)] for x in (power[n // 50 : max(n // 6, 5)], power[-n // 5 :])]
    if not all(len(x) for x in parts):
        return []
    early, late = (float(np.median(x)) for x in parts)
    if early - late < max(POWER_LOST_SHARE * early, POWER_LOST_W):
        return []
    where = log.elapsed_s[np.flatnonzero(power < early - POWER_LOST_W)[0]]
    words = f"{channel_words(f'{part}_power_w')} fell from {early:.0f} W to {late:.0f} W"
    return [Flag("load_changed", float(where), float(log.elapsed_s[-1]), words, f"{part}_power_w")]
