"""Tones that stand out of the noise around them, by tone-to-noise ratio and prominence ratio, and whose they may be."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import log10

import numpy as np
from numpy.typing import NDArray

from engine.sound.listening import SMALLEST, Heard, decibels

Floats = NDArray[np.float64]

LOWEST_HZ, HIGHEST_HZ = 89.1, 11_220.0  # range of the procedures (source: ecma_74)
FROM_HZ = 40.0  # hums of mains and slow blades are told too, with no claim of prominence
WIDEST_SHARE = 0.15  # of a critical band that a tone may fill (source: ecma_74)
STANDS_OUT = 3.5  # in standard deviations of a bin's noise, twice over; numerical: none in 200 clips of shaped noise (tests)
LEAST_RATIO_DB = -3.0  # a tone weaker than that beside its critical band is not heard out of it; from memory
LEAST_SHARE = 1e-9  # of the whole: what lies 90 dB under it is the arithmetic's own
MOST_TONES = 24  # told; numerical
MATCH_SHARE, MATCH_HZ = 0.015, 2.0  # how far a line may lie from where speed and blades put it; a tachometer's step and slip
ORDINALS = ("", "", "2nd", "3rd", "4th")
LINES = 4  # of blade passing that are looked for


@dataclass(frozen=True)
class Tone:
    """``level`` in dB of the tone alone. ``prominent``: by either ratio's criterion, None outside the procedures' range."""

    frequency_hz: float
    level_db: float
    tone_to_noise_db: float
    prominence_db: float | None
    prominent: bool | None
    of: str = ""


@dataclass(frozen=True)
class Source:
    """Something that turns: ``blades`` None where nobody counted them."""

    name: str
    speed_rpm: float
    blades: int | None


def critical_band_hz(frequency_hz: float) -> float:
    """Width of the critical band: ``25 + 75 (1 + 1.4 f^2)^0.69``, f in kHz (source: ecma_74)."""
    return float(25 + 75 * (1 + 1.4 * (frequency_hz / 1000) ** 2) ** 0.69)


def band_about(frequency_hz: float) -> tuple[float, float]:
    """Edges of the critical band; centred below 500 Hz, geometric above (source: ecma_74)."""
    width = critical_band_hz(frequency_hz)
    if frequency_hz < 500:
        return max(frequency_hz - width / 2, 0.0), frequency_hz + width / 2
    low = -width / 2 + float(np.sqrt(width**2 + 4 * frequency_hz**2)) / 2
    return low, low + width


def prominent_ratio_db(frequency_hz: float) -> float:
    """Tone-to-noise ratio from which a tone is prominent (source: ecma_74)."""
    return 8.0 if frequency_hz >= 1000 else 8.0 + 8.33 * log10(1000 / frequency_hz)


def prominence_criterion_db(frequency_hz: float) -> float:
    """Prominence ratio from which a tone is prominent (source: ecma_74)."""
    return 9.0 if frequency_hz >= 1000 else 9.0 + 10 * log10(1000 / frequency_hz)


def tones(heard: Heard, offset_db: float = 0.0) -> list[Tone]:
    """Tones of a clip, strongest beside their noise first; ``offset_db`` from full scale to a level."""
    power, width = heard.power, heard.bin_hz
    freedom = 2 * max(heard.averages * 0.5, 1.0)
    floor = _floor(power, width) / (1 - 2 / (9 * freedom)) ** 3  # a median of squares lies under their mean
    found: list[Tone] = []
    taken = np.zeros(len(power), bool)
    high = min(HIGHEST_HZ, 0.45 * heard.rate_hz)
    # Of half-overlapping stretches about half are worth a degree of their own: how much a bin of noise scatters.
    scatter = 1 / np.sqrt(max(heard.averages * 0.5, 1.0))
    least = float(power.sum()) * LEAST_SHARE
    candidates = [i for i in _peaks(power) if FROM_HZ <= i * width <= high and power[i] > max(floor[i] * _limit(scatter), least)]
    for i in sorted(candidates, key=lambda i: -power[i] / floor[i]):
        if taken[i]:
            continue
        first, last = _extent(power, floor, i, width)
        taken[max(first - 2, 0) : last + 3] = True
        tone = _judged(heard, power, floor, i, first, last, offset_db)
        if tone is not None:
            found.append(tone)
        if len(found) >= 3 * MOST_TONES:
            break
    found.sort(key=lambda t: -t.tone_to_noise_db)
    return found[:MOST_TONES]


def _limit(scatter: float) -> float:
    """Times the floor that chance does not give: of few stretches a bin scatters like an exponential, of many like a normal."""
    return float(1 + STANDS_OUT**2 * scatter**2 + 2 * STANDS_OUT * scatter)


def _peaks(power: Floats) -> NDArray[np.int64]:
    inner = (power[1:-1] > power[:-2]) & (power[1:-1] >= power[2:])
    return np.asarray(np.flatnonzero(inner) + 1)


def _floor(power: Floats, width: float) -> Floats:
    """The noise beside each bin: the median over a stretch about as wide as a critical band, twice as fine at the low end."""
    n = len(power)
    out = np.empty(n)
    edges = [0.0, 200.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, np.inf]
    for low, high in pairwise(edges):
        span = max(int(critical_band_hz(min(max(low, 100.0), 8000.0)) * 0.8 / width) | 1, 9)
        a, b = int(min(low / width, n)), int(min(high / width, n)) if np.isfinite(high) else n
        if b <= a:
            continue
        # Medians a sixteenth of their stretch apart, and straight lines between them.
        middles = np.unique(np.append(np.arange(a, b, max(span // 16, 1)), b - 1))
        starts = np.clip(middles - span // 2, 0, max(n - span, 0))
        medians = np.median(np.lib.stride_tricks.sliding_window_view(power, min(span, n))[starts], axis=1)
        out[a:b] = np.interp(np.arange(a, b), middles, medians)
    return np.maximum(out, SMALLEST)


def _extent(power: Floats, floor: Floats, i: int, width: float) -> tuple[int, int]:
    """Bins that belong to the tone: down to twice the floor on either side, within the share of a critical band."""
    most = max(int(WIDEST_SHARE * critical_band_hz(i * width) / width / 2), 3)
    first = last = i
    while first > 1 and i - first < most and power[first - 1] > 2 * floor[first - 1]:
        first -= 1
    while last < len(power) - 2 and last - i < most and power[last + 1] > 2 * floor[last + 1]:
        last += 1
    return min(first, i - 2), max(last, i + 2)


def _judged(heard: Heard, power: Floats, floor: Floats, i: int, first: int, last: int, offset_db: float) -> Tone | None:
    width = heard.bin_hz
    frequency = _between(power, i, width)
    low, high = band_about(frequency)
    a, b = max(int(np.ceil(low / width)), 0), min(int(np.floor(high / width)) + 1, len(power))
    first, last = max(first, a), min(last, b - 1)
    tone = float((power[first : last + 1] - floor[first : last + 1]).clip(0).sum())
    within = power[a:b].copy()
    within[first - a : last + 1 - a] = np.nan
    # Other tones of the band are no noise: what stands far out of the floor counts as the floor.
    others = within > 6 * floor[a:b]
    within[others] = floor[a:b][others]
    noise = float(np.nanmean(within)) * (b - a) if np.isfinite(within).any() else 0.0
    if tone <= 0 or noise <= 0:
        return None
    ratio = float(decibels(tone) - decibels(noise))
    if ratio < LEAST_RATIO_DB:
        return None
    prominence = _prominence(power, width, frequency, (low, high))
    inside = LOWEST_HZ <= frequency <= HIGHEST_HZ
    told = ratio >= prominent_ratio_db(frequency) or (prominence is not None and prominence >= prominence_criterion_db(frequency))
    return Tone(frequency, float(decibels(tone)) + offset_db, ratio, prominence, told if inside else None)


def _between(power: Floats, i: int, width: float) -> float:
    """The top between bins, by the parabola through three logarithms."""
    a, b, c = (float(decibels(power[j])) for j in (i - 1, i, i + 1))
    bend = a - 2 * b + c
    return float(i + (0.5 * (a - c) / bend if bend < 0 else 0.0)) * width


def _prominence(power: Floats, width: float, frequency: float, middle: tuple[float, float]) -> float | None:
    """Level of the critical band over the mean of its neighbours (source: ecma_74)."""
    low, high = middle
    below = max(low - critical_band_hz(max(low, 1.0)), 20.0)
    above = high + critical_band_hz(high)
    if low - below < 20.0 or above / width > len(power) - 1:
        return None

    def level(a: float, b: float) -> float:
        i, j = int(np.ceil(a / width)), int(np.ceil(b / width))
        return float(power[i:j].sum())

    under = level(below, low)
    if frequency < 171.4:
        under *= 100 / (low - below)  # the lower band is put to 100 Hz where it is cut short (source: ecma_74)
    beside = (under + level(high, above)) / 2
    return float(decibels(level(low, high)) - decibels(beside)) if beside > 0 else None


def whose(found: Sequence[Tone], sources: Sequence[Source]) -> list[Tone]:
    """Each tone with what turns at its speed: blade passing ``rpm / 60 * blades`` and its multiples, or the turning itself."""
    named = []
    for t in found:
        words = []
        for s in sources:
            turn = s.speed_rpm / 60
            if turn <= 0:
                continue
            lines = (
                [(turn * s.blades * k, f"blades of {s.name}" + (f", {ORDINALS[k]} multiple" if k > 1 else "")) for k in range(1, LINES + 1)]
                if s.blades
                else []
            )
            lines += [(turn, f"turning of {s.name}")]
            words += [w for f, w in lines if abs(f - t.frequency_hz) <= max(MATCH_HZ, MATCH_SHARE * f)]
        named.append(Tone(t.frequency_hz, t.level_db, t.tone_to_noise_db, t.prominence_db, t.prominent, " or ".join(words[:3])))
    return named
