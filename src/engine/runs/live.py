"""A run while it goes on: where each channel stands, how far it has soaked, and what ending now would cost in certainty."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from engine.runs.flag import Flag
from engine.runs.flags import hunting_flags, run_flags, unmarked
from engine.runs.known import Known
from engine.runs.over_room import over_room
from engine.runs.series import ROOM_CHANNEL, Floats, RunLog
from engine.runs.settle import (
    MOST_REMAINING_K,
    NOTHING_KNOWN,
    Judged,
    all_settled_at_s,
    from_runs,
    judged_of,
    longest,
    turning,
)
from engine.runs.wait import TOO_EARLY
from engine.runs.window import tail

RATE_OVER_S = 120.0  # long enough for a whole-degree sensor; common practice, no source
AT_REST_K_MIN = 0.15  # common practice, no source
IDLE_K = 22.0  # over room; common practice, no source: idle parts stay below, loaded ones do not
SLOW = ("coolant_c", "air_", "cpu_package_c", "card_core_c")  # what tells best whether a machine has cooled, in this order
WARMING = frozenset({"too_short", "integer_resolution", "tach_lost"})  # said of whole runs; a lost fan by an alarm
FRESH_S = 30.0  # common practice, no source
FIRST_FLAGS_S = 120.0  # earlier everything moves


@dataclass(frozen=True)
class LiveChannel:
    """``value`` the newest reading, ``rise_k`` over room (median of the last seconds), ``soaked`` 0 to 1 of the final rise."""

    name: str
    value: float
    at_s: float
    rise_k: float | None
    rate_k_min: float | None
    settled: bool | None
    soaked: float | None
    minutes_left: float | None
    final_k: float | None
    band_k: float | None
    why: str = ""  # what keeps it from being called settled
    hunts_s: float | None = None  # it swings without end: the time of a turn, and how far either way
    hunts_k: float | None = None
    more: str = ""  # how much longer, for a person; empty where it is settled, or where nothing can be said yet
    at_limit: bool = False  # its part gives up power to stay there: judged by its power


@dataclass(frozen=True)
class LiveFigures:
    """``end_now_band_k``: how far the worst loaded channel may still be from its end value."""

    duration_s: float
    channels: tuple[LiveChannel, ...]
    all_settled: bool
    settled_s: float | None
    minutes_left: float | None
    more: str  # how much longer until the last channel has settled, for a person
    end_now_band_k: float | None
    end_settled_band_k: float
    flags: tuple[Flag, ...]
    more_from: str = ""  # what ``more`` was told from beside this run, for a person; empty where nothing is


def live_figures(
    log: RunLog,
    window_s: float | None = None,
    disturbed_s: Sequence[tuple[float, float]] = (),
    known: Mapping[str, Known] = NOTHING_KNOWN,
) -> LiveFigures:
    """Everything the bench shows of a run so far; ``known``: how channels came to rest in earlier runs of the machine."""
    whole, log = log, log.without(disturbed_s)
    judged = judged_of(log, known)
    fits = judged.fits
    channels = tuple(c for n in log.channels if (c := _channel(log, n, judged)) is not None)
    made = [f for f in fits.values() if f is not None]
    settled = bool(fits) and len(made) == len(fits) and all(f.settled for f in made)
    at = all_settled_at_s(log, judged) if settled else None
    unsaid = WARMING if settled else WARMING | {"disturbed"}  # a part on its way up leaves every window's course
    flags: list[Flag] = []
    if log.duration_s > FIRST_FLAGS_S:
        swing = turning(fits)
        window = tail(log, window_s, swing[1].period_s if swing else None)
        found = [*run_flags(whole, True, window), *hunting_flags(log, swing)]
        flags = [f for f in unmarked(found, disturbed_s) if f.code not in unsaid]
    return LiveFigures(
        duration_s=log.duration_s,
        channels=channels,
        all_settled=settled,
        settled_s=at,
        minutes_left=max((f.minutes_left for f in made), default=None),
        more=longest(made),
        end_now_band_k=max((f.apart_k for f in made), default=None) if len(made) == len(fits) else None,
        end_settled_band_k=MOST_REMAINING_K,
        flags=tuple({(f.code, f.detail): f for f in flags}.values()),
        more_from=from_runs(made),
    )


def _channel(log: RunLog, name: str, judged: Judged) -> LiveChannel | None:
    fit, loaded = judged.fits.get(name), name in judged.fits
    scale = judged.scales.get(name, 1.0)
    values = log.channels[name]
    good = np.flatnonzero(np.isfinite(values))
    if not len(good):
        return None
    last = int(good[-1])
    at = float(log.elapsed_s[last])
    rise = rate = None
    if name.endswith("_c") and name != ROOM_CHANNEL:
        over = over_room(log, name)
        near = good[log.elapsed_s[good] >= at - FRESH_S]
        rise = float(np.median(over[near])) if log.room_c is not None else None
        rate = _rate(log.elapsed_s[good], over[good])
    if fit is None:
        more = TOO_EARLY if loaded or (rate is not None and rate > AT_REST_K_MIN) else ""
        settled, limited = False if loaded else None, judged.at_limit(name)
        return LiveChannel(name, float(values[last]), at, rise, rate, settled, None, None, None, None, more=more, at_limit=limited)
    start = float(np.median(over_room(log, name)[good[:5]])) * scale
    whole = max(abs(fit.final - start), 1.0)
    soaked = 1.0 if fit.settled else min(max(1 - fit.remaining_bound / whole, 0.0), 0.99)
    return LiveChannel(
        name,
        float(values[last]),
        at,
        rise,
        rate,
        fit.settled,
        soaked,
        fit.minutes_left,
        fit.final / scale,
        max(fit.final_band, fit.remaining_bound) / scale,
        judged.words(name),
        fit.hunting.period_s if fit.hunting else None,
        fit.hunting.amplitude_k if fit.hunting else None,
        fit.more,
    )


def _rate(t: Floats, y: Floats) -> float | None:
    late = t >= t[-1] - RATE_OVER_S
    if late.sum() < 5 or t[late][-1] - t[late][0] < 20:
        return None
    return float(np.polyfit(t[late], y[late], 1)[0]) * 60


def over_room_at_rest(log: RunLog) -> tuple[float | None, float | None]:
    """(K over room, K/min of cooling) of the channel that best tells whether the machine has cooled; 0 K once it has come to rest."""
    for wanted in SLOW:
        name = next((n for n in log.temperatures if n.startswith(wanted)), None)
        if name is None or log.room_c is None:
            continue
        over = over_room(log, name)
        good = np.flatnonzero(np.isfinite(over))
        if len(good) < 5:
            continue
        rate = _rate(log.elapsed_s[good], over[good])
        rise = float(np.median(over[good][-15:]))
        if rate is not None and abs(rate) < AT_REST_K_MIN and _idle(log):
            return 0.0, 0.0
        return rise, None if rate is None else -rate
    return None, None


def _idle(log: RunLog) -> bool:
    """No part is as warm as a loaded one would be."""
    parts = [over_room(log, n)[-15:] for n in ("cpu_package_c", "card_core_c") if n in log.channels]
    return all(float(np.nanmedian(p)) < IDLE_K for p in parts if np.isfinite(p).any())


def thinned(log: RunLog, points: int, from_s: float = -np.inf, to_s: float = np.inf) -> tuple[Floats, dict[str, Floats]]:
    """At most about ``points`` rows of a stretch for drawing: lowest and highest of each piece are kept, so no spike is lost."""
    pick = slice(int(np.searchsorted(log.elapsed_s, from_s, "left")), int(np.searchsorted(log.elapsed_s, to_s, "right")))
    t = log.elapsed_s[pick]
    n = len(t)
    size = max(1, -(-2 * n // max(points, 20)))
    if size == 1 or n < 3:
        return t, {name: v[pick] for name, v in log.channels.items()}
    pieces = -(-n // size)
    pad = pieces * size - n
    times = np.concatenate([t, np.full(pad, t[-1])]).reshape(pieces, size)
    out = {}
    for name, v in log.channels.items():
        grid = np.concatenate([v[pick], np.full(pad, np.nan)]).reshape(pieces, size)
        empty = ~np.isfinite(grid).any(axis=1)
        low = np.where(empty, np.nan, np.where(np.isfinite(grid), grid, np.inf).min(axis=1))
        high = np.where(empty, np.nan, np.where(np.isfinite(grid), grid, -np.inf).max(axis=1))
        out[name] = np.stack([low, high], axis=1).reshape(-1)
    return np.stack([times[:, 0], times[:, -1]], axis=1).reshape(-1), out
