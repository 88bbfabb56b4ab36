"""Marks that a closer look at the readings gives: frozen and spiking sensors, fans and clocks that were not held, cores apart.

Thresholds are common practice, no source, chosen so that clean logs of common sensors raise nothing (tests over seeds).
"""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from engine.runs.flag import Flag
from engine.runs.names import PARTS, channel_words
from engine.runs.series import ROOM_CHANNEL, Floats, RunLog, medians, off_neighbours, resolution, scatter_of
from engine.runs.window import inside

STUCK_SHARE, STUCK_S, STUCK_TIMES = 0.12, 120.0, 6.0  # common practice, no source; held against clean logs in the tests
SPIKE_K, SPIKE_SIGMAS, SPIKE_ROWS = 6.0, 8.0, 3  # likewise
SLOW_DWELL_S, BEFORE_S = 10.0, 300.0  # likewise
SILENT_READINGS = 4  # missed in a row
HELD_SHARE = 0.05  # likewise
TACH_RPM = 200.0  # slower than any fan that turns; common practice, no source
CLOCK_SHARE, CLOCK_ROWS = 0.03, 20  # likewise
POWER_SHARE, POWER_ROWS = 0.15, 15  # likewise
APART_K, FEWEST_CORES = 10.0, 3  # cores of a good mount differ by 3 to 8 K; common practice, no source
DISTURBED_K, DISTURBED_SIGMAS, WINDOW_BLOCKS = 1.2, 5.0, 12  # likewise
SURGE_SHARE, SURGES = 0.05, 5  # likewise
LIMIT_C, LIMIT_SHARE = 80.0, 0.95  # parts throttle from here on; common practice, no source
SOUND_GAP_DB = 3.0  # survey method ISO 3746 wants at least 3 dB over the background, ISO 3744 6 dB (from memory)
MOST_OF_ONE = 20  # more are not read


def watched(log: RunLog, window: tuple[float, float], background_dba: float | None) -> Iterator[Flag]:
    """Every mark of these kinds; ``window`` is the averaging window in s."""
    limits = [flag for part in ("cpu", "card") for flag in _at_limit(log, part)]
    held = {flag.of.split("_")[0] for flag in limits}
    for name in log.temperatures:
        if name.split("_")[0] not in held:  # a part at its limit stands still by itself
            yield from _stuck(log, name)
        yield from _spikes(log, name)
    yield from _spikes(log, ROOM_CHANNEL)
    log = _filled(log)
    for name in log.channels:
        if name.endswith("_rpm"):
            yield from _speed(log, name)
        if name.endswith("_clock_mhz"):
            yield from _clock(log, name)
        if name.endswith("_power_w"):
            yield from _dips(log, name)
    yield from _cores(log, window)
    yield from _disturbed(log, window)
    yield from limits
    yield from _near_floor(log, window, background_dba)


def _runs(mask: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and last row of every unbroken stretch."""
    edges = np.diff(np.concatenate([[0], mask.astype(int), [0]]))
    return list(zip(np.flatnonzero(edges == 1).tolist(), (np.flatnonzero(edges == -1) - 1).tolist(), strict=True))


def _flag(log: RunLog, code: str, first: int, last: int, of: str, detail: str) -> Flag:
    return Flag(code, float(log.elapsed_s[first]), float(log.elapsed_s[last]), detail, of)


def _stuck(log: RunLog, name: str) -> Iterator[Flag]:
    """One value for a long stretch, by a sensor that else moves far more often; or never moving while the machine warms."""
    values, t = log.channels[name], log.elapsed_s
    good = np.flatnonzero(np.isfinite(values))
    if len(good) < 30:
        return
    if np.ptp(values[good]) == 0:
        if log.loaded and name.startswith(("cpu_", "card_", "coolant")):
            yield _flag(log, "stuck", int(good[0]), int(good[-1]), name, f"{channel_words(name)} reads {values[good[0]]:g} throughout")
        return
    same = np.concatenate([[False], np.diff(values[good]) == 0])
    lengths = [(first - 1, last) for first, last in _runs(same)]
    if not lengths:
        return
    first, last = max(lengths, key=lambda r: t[good[r[1]]] - t[good[r[0]]])
    seconds = float(t[good[last]] - t[good[first]])
    others = [float(t[good[b]] - t[good[a]]) for a, b in lengths if (a, b) != (first, last)]
    usual = float(np.quantile(others, 0.95)) if others else 0.0
    if usual > SLOW_DWELL_S and _could_rest(t[good], values[good], first, seconds):
        return
    if seconds >= max(STUCK_S, STUCK_SHARE * log.duration_s) and seconds > STUCK_TIMES * max(usual, float(np.median(np.diff(t)))):
        yield _flag(
            log,
            "stuck",
            int(good[first]),
            int(good[last]),
            name,
            f"{channel_words(name)} reads {values[good[first]]:g} for {seconds:.0f} s",
        )


def _could_rest(t: Floats, y: Floats, first: int, seconds: float) -> bool:
    """A coarse, calm sensor stands still once its part has settled: its course before would not have moved it two steps."""
    before = (t >= t[first] - BEFORE_S) & (t <= t[first])
    if before.sum() < 5:
        return True
    slope = abs(float(np.polyfit(t[before], y[before], 1)[0]))
    return slope * seconds < 2 * resolution(y) or y[first] >= np.max(y) - 1.01 * resolution(y)


def _spikes(log: RunLog, name: str) -> Iterator[Flag]:
    """A few readings far from those before and after them."""
    values = log.channels.get(name)
    if values is None:
        return
    rows = np.flatnonzero(np.isfinite(values))
    if len(rows) < 30:
        return
    y = values[rows]
    away = off_neighbours(y)
    odd = np.abs(away) > max(SPIKE_K, SPIKE_SIGMAS * scatter_of(away))
    for first, last in _runs(odd)[:MOST_OF_ONE]:
        if last - first < SPIKE_ROWS:
            detail = f"{channel_words(name)} jumps to {y[first]:.1f} and back"
            yield _flag(log, "spike", int(rows[first]), int(rows[last]), name, detail)


def _speed(log: RunLog, name: str) -> Iterator[Flag]:
    """A tachometer that goes silent; a speed that is not the same at the end; a pump that surges on air."""
    values = log.channels[name]
    finite = np.isfinite(values)
    if finite.sum() < 30 or float(np.nanmax(values)) < TACH_RPM:
        return
    start = len(values) // 10
    turning = values[start:][np.isfinite(values[start:]) & (values[start:] > TACH_RPM)]
    if len(turning) < 10:
        return
    usual = float(np.median(turning))
    seen_first = int(np.flatnonzero(finite & (values > TACH_RPM))[0])
    silent = ~finite | (values < 0.1 * usual)
    silent[:seen_first] = False
    for first, last in _runs(silent)[:MOST_OF_ONE]:
        if last - first >= 2:
            yield _flag(log, "tach_lost", first, last, name, f"{channel_words(name)} shows no speed after {usual:.0f} rpm; is it turning?")
    third = max(len(turning) // 5, 3)
    early, late = float(np.median(turning[:third])), float(np.median(turning[-third:]))
    if abs(late - early) > HELD_SHARE * early:
        yield _flag(log, "speed_not_held", start, len(values) - 1, name, f"{channel_words(name)} went from {early:.0f} to {late:.0f} rpm")
    if name == "pump_rpm":
        surges = _runs(np.abs(turning - usual) > SURGE_SHARE * usual)
        if len(surges) >= SURGES:
            detail = f"the pump surges {len(surges)} times by more than {100 * SURGE_SHARE:.0f} %: air is still in the loop"
            yield _flag(log, "loop_not_purged", start, len(values) - 1, name, detail)


def _filled(log: RunLog) -> RunLog:
    """A slower instrument leaves rows empty without being silent: its last reading holds for a few of its own intervals."""
    channels, at = {}, np.arange(len(log.elapsed_s))
    for name, values in log.channels.items():
        rows = np.flatnonzero(np.isfinite(values))
        every = int(np.median(np.diff(rows))) if len(rows) > 30 else 1
        if every > 1:
            last = np.maximum.accumulate(np.where(np.isfinite(values), at, -1))
            fresh = (last >= 0) & (at - last <= SILENT_READINGS * every)
            values = np.where(fresh, values[last.clip(0)], np.nan)
        channels[name] = values
    return RunLog(log.elapsed_s, channels)


def _clock(log: RunLog, name: str) -> Iterator[Flag]:
    """A clock that steps and stays there; the first twentieth is the load coming on."""
    levels = medians(log.channels[name], CLOCK_ROWS)
    skip = max(len(levels) // 20, 1)
    for i in range(skip + 1, len(levels) - 1):
        if not np.isfinite(levels[i - 1 : i + 2]).all():
            continue
        before, after = levels[i - 1], np.mean(levels[i : i + 2])
        if abs(after - before) > CLOCK_SHARE * before and abs(levels[i] - before) > CLOCK_SHARE * before:
            row = i * CLOCK_ROWS
            part = PARTS[name.split("_")[0]]
            yield _flag(log, "clock_jump", row, len(log.elapsed_s) - 1, name, f"the {part} clock went from {before:.0f} to {after:.0f} MHz")
            return


def _dips(log: RunLog, name: str) -> Iterator[Flag]:
    """The load leaves its level for a while and comes back, or rises."""
    values = log.channels[name]
    start = len(values) // 20
    body = values[start:]
    if np.isfinite(body).sum() < 40:
        return
    usual = float(np.nanmedian(body))
    if usual < 20:
        return
    smooth = np.abs(body - usual) > POWER_SHARE * usual
    for first, last in _runs(smooth)[:MOST_OF_ONE]:
        ends = start + last >= len(values) - 1
        rises = float(np.nanmedian(body[first : last + 1])) > usual
        begins = first == 0  # a level that is left for good is another flag's
        if last - first >= POWER_ROWS and not begins and (not ends or rises):
            level = float(np.nanmedian(body[first : last + 1]))
            seconds = log.elapsed_s[start + last] - log.elapsed_s[start + first]
            detail = f"{channel_words(name)} stood at {level:.0f} W instead of {usual:.0f} W for {seconds:.0f} s"
            yield _flag(log, "load_changed", start + first, start + last, name, detail)


def _cores(log: RunLog, window: tuple[float, float]) -> Iterator[Flag]:
    """One core far above the others: a cooler that does not sit flat, or paste that is missing there."""
    use = inside(log, window)
    means = {n: float(np.nanmean(v[use])) for n, v in log.channels.items() if n.startswith("cpu_core_") and np.isfinite(v[use]).any()}
    if len(means) < FEWEST_CORES:
        return
    for name, mean in means.items():
        others = float(np.median([m for n, m in means.items() if n != name]))
        if mean - others > APART_K:
            detail = f"{channel_words(name)} is {mean - others:.0f} K above the others: check the cooler's mounting and paste"
            yield Flag("core_apart", window[0], window[1], detail, name)


def _disturbed(log: RunLog, window: tuple[float, float]) -> Iterator[Flag]:
    """A hump or a step within the averaging window: a panel opened, a hand near, a fan stopped for a moment."""
    use = np.flatnonzero(inside(log, window))
    if len(use) < 6 * WINDOW_BLOCKS:
        return
    size = len(use) // WINDOW_BLOCKS
    for name in log.loaded:
        y = log.channels[name][use[: size * WINDOW_BLOCKS]]
        t = log.elapsed_s[use[: size * WINDOW_BLOCKS]]
        good = np.isfinite(y)
        if good.sum() < 0.8 * len(y) or not good.reshape(WINDOW_BLOCKS, size).any(axis=1).all():
            continue
        line = np.polyfit(t[good], y[good], 1)
        away = y - np.polyval(line, t)
        with np.errstate(all="ignore"):
            blocks = np.nanmean(away.reshape(WINDOW_BLOCKS, size), axis=1)
            within = float(np.nanmedian(np.nanstd(away.reshape(WINDOW_BLOCKS, size), axis=1)))
        sigma = within / np.sqrt(size / 4)  # readings of one sensor hang together over a few seconds
        far = np.abs(blocks - np.median(blocks)) > max(DISTURBED_K, DISTURBED_SIGMAS * sigma, resolution(y))
        for first, last in _runs(far)[:1]:
            detail = (
                f"{channel_words(name)} leaves its course by {np.abs(blocks[first : last + 1]).max():.1f} K within the averaging window"
            )
            yield _flag(log, "disturbed", int(use[first * size]), int(use[min((last + 1) * size, len(use)) - 1]), name, detail)
            return


def _at_limit(log: RunLog, part: str) -> Iterator[Flag]:
    """A hot part that stands at one temperature while its power or clock has fallen."""
    warm = next((c for c in log.loaded if c.startswith(part)), None)
    if warm is None:
        return
    n = len(log.elapsed_s)
    tail = log.channels[warm][-n // 5 :]
    tail = tail[np.isfinite(tail)]
    if len(tail) < 20 or float(np.median(tail)) < LIMIT_C:
        return
    top = float(np.quantile(tail, 0.98))
    pinned = float(np.mean(np.abs(tail - top) <= max(0.7, 0.51 * resolution(tail)))) >= LIMIT_SHARE
    fell = False
    for name in (f"{part}_power_w", f"{part}_clock_mhz"):
        values = log.channels.get(name)
        if values is not None and np.isfinite(values).sum() > 30:
            early, late = float(np.nanmedian(values[n // 50 : max(n // 6, 5)])), float(np.nanmedian(values[-n // 5 :]))
            fell = fell or late < 0.97 * early
    if pinned and fell:
        yield _flag(
            log,
            "at_limit",
            n - n // 5,
            n - 1,
            warm,
            f"{channel_words(warm)} stands at {top:.0f} °C: compare this run by power, clock or score",
        )


def _near_floor(log: RunLog, window: tuple[float, float], background_dba: float | None) -> Iterator[Flag]:
    sound = log.channels.get("sound_dba")
    if sound is None or background_dba is None:
        return
    use = inside(log, window) & np.isfinite(sound)
    if use.any() and float(np.mean(sound[use])) - background_dba < SOUND_GAP_DB:
        gap = float(np.mean(sound[use])) - background_dba
        detail = f"the level is only {gap:.1f} dB above the room's own {background_dba:.0f} dBA: measure nearer or in a quieter room"
        yield Flag("sound_near_floor", window[0], window[1], detail, "sound_dba")
