"""Slow swellings of a sound: two fans whose lines lie a fraction of a hertz apart, or air that tears off and comes back."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engine.sound.listening import STEP_S, Heard

Floats = NDArray[np.float64]

LEAST_TURNS = 3.0  # periods within the clip; fewer are a drift
HIGHEST_HZ = 8.0  # quicker swells are roughness, not beats; textbook, from memory
CHANCE = 1e-5  # of a beat in steady noise, over all bands and rates that are looked at; held in the tests over 200 seeds
LEAST_DEPTH_DB = 0.7  # less is not heard; from memory
NEAR = 12  # rates about one on either side, beside the whole range: noise of which only a part comes and goes is not even
LEAST_RATES = 10  # fewer tell nothing of the noise
OF_THEIR_OWN = 1.5  # rates that the window binds together
LEAST_SHARE = 1e-8  # of the whole: a band 80 dB under it is not heard
MOST_BEATS = 6  # told; numerical


@dataclass(frozen=True)
class Beat:
    """``depth_db`` from trough to top of the level; ``band_hz`` the middle of the band that swells, None for the level as a whole."""

    frequency_hz: float
    depth_db: float
    band_hz: float | None


def beats(heard: Heard) -> list[Beat]:
    """Beats of a clip, those of the whole level first."""
    rows: list[tuple[float | None, Floats, float]] = [(None, heard.energy, STEP_S)]
    columns = _without_holes(heard)
    rows += [(float(hz), columns[:, i], heard.column_s) for i, hz in enumerate(heard.column_hz) if len(columns) > 8]
    least = LEAST_SHARE * sum(float(x.mean()) for hz, x, _ in rows if hz is not None)
    rows = [row for row in rows if float(row[1].mean()) > least]
    looks = sum(_looked(len(x), step) for _, x, step in rows)
    found = [b for hz, x, step in rows for b in _of(x, step, hz, looks)]
    found.sort(key=lambda b: (b.band_hz is not None, -b.depth_db))
    kept: list[Beat] = []
    width = 1.5 / heard.seconds
    for b in found:
        if not any(_same(b.frequency_hz, k.frequency_hz, width) for k in kept):
            kept.append(b)
    return kept[:MOST_BEATS]


def _without_holes(heard: Heard) -> Floats:
    """Columns with the mean in place of those that a hole of the recording reaches into: its coming and going is no beat."""
    if not heard.still_columns.any() or heard.still_columns.all():
        return heard.columns
    usual = heard.columns[~heard.still_columns].mean(axis=0)
    return np.where(heard.still_columns[:, None], usual, heard.columns)


def slowest_hz(seconds: float) -> float:
    """The slowest beat that a clip of this length can show."""
    return LEAST_TURNS / seconds if seconds > 0 else float("inf")


def _same(a: float, b: float, width: float) -> bool:
    """The same beat, or a multiple of one that is there."""
    times = round(a / b) if a > b else 1
    return abs(a - times * b) < width * max(times, 1)


def _looked(n: int, step_s: float) -> int:
    return max(int(min(HIGHEST_HZ, 0.4 / step_s) * n * step_s), 1)


def _of(energy: Floats, step_s: float, band_hz: float | None, looks: int) -> Sequence[Beat]:
    n = len(energy)
    mean = float(energy.mean()) if n else 0.0
    seconds = n * step_s
    if n < 24 or mean <= 0:
        return []
    t = np.linspace(-1, 1, n)
    x = energy / mean
    x = np.minimum(x, 10 * float(np.median(x)) + 1e-9)  # a knock is no beat
    x = x - np.polyval(np.polyfit(t, x, 2), t)
    window = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(n) / n)
    spectrum = np.fft.rfft(x * window)
    power = np.abs(spectrum) ** 2
    limit = float(np.log(looks / CHANCE))
    low, high = int(np.ceil(LEAST_TURNS)), int(min(min(HIGHEST_HZ, 0.4 / step_s) * seconds, len(power) - 2))
    if high - low < LEAST_RATES:
        return []
    likely = 0.2 * limit * float(power[low:high].mean())  # numerical: looked at closely from here on
    tops = np.flatnonzero((power[1:-1] > power[:-2]) & (power[1:-1] >= power[2:])) + 1
    out = []
    for i in (int(j) for j in tops if low <= j < high and power[j] > likely):
        if not _stands_out(power, i, low, high, limit):
            continue
        turns = _between(power, i)
        top = abs((x * window * np.exp(-2j * np.pi * turns * np.arange(n) / n)).sum())
        swing = min(2 * float(top) / float(window.sum()) / _seen(turns / seconds, step_s, band_hz is not None), 0.98)
        depth = float(10 * np.log10((1 + swing) / (1 - swing)))
        if depth >= LEAST_DEPTH_DB:
            out.append(Beat(turns / seconds, depth, band_hz))
    return out


def _between(power: Floats, i: int) -> float:
    a, b, c = (float(np.log(max(power[j], 1e-30))) for j in (i - 1, i, i + 1))
    bend = a - 2 * b + c
    return i + (0.5 * (a - c) / bend if bend < 0 else 0.0)


def _seen(hz: float, step_s: float, windowed: bool) -> float:
    """Share of a swell that averaging leaves: over a step, or over a window of two steps squared."""
    if not windowed:
        return float(np.sinc(hz * step_s))
    t = (np.arange(256) + 0.5) / 256
    weight = np.sin(np.pi * t) ** 4
    return max(float(abs((weight * np.exp(2j * np.pi * hz * 2 * step_s * t)).sum()) / weight.sum()), 0.2)


def _stands_out(power: Floats, i: int, low: int, high: int, limit: float) -> bool:
    """Whether a rate is more than the rest by what chance does not give: against a mean of m exponentials ``(1 + x / m)^-m``."""
    rest = np.r_[low : max(i - 2, low), min(i + 3, high) : high]
    near = rest[np.abs(rest - i) <= NEAR]
    for others in (rest, near):
        m = len(others) / OF_THEIR_OWN
        if m < 3:
            return False
        x = float(power[i]) / max(float(power[others].mean()), 1e-30)
        if m * np.log1p(x / m) < limit:
            return False
    return True
