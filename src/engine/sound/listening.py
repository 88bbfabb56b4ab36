"""One pass over a clip, block by block: spectrum, spectrogram and weighted levels over time, so that a long clip needs little memory.

Samples are in units of full scale (1 is the largest a file can hold) until an offset ties them to 20 micropascal.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from engine.sound.weighting import OCTAVE, a_weight_db, band_centres_hz, band_edges_hz

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]

FINE_HZ = 0.8  # wanted width of the bins in which tones are sought
COARSE_HZ = 3.0  # of the spectrogram's
TAPS_HZ = 3.0  # width of what the weighting's filter tells apart
TICK_S = 0.002  # step of the level over time before it is smoothed
FAST_S, SLOW_S = 0.125, 1.0  # time weightings F and S (source: iec_61672)
STEP_S = 0.05  # step of the levels that are kept
COLUMN_BANDS = 12  # of an octave, of the spectrogram
LOWEST_HZ = 31.5  # of the spectrogram
SMALLEST = 1e-20  # numerical: silence has no logarithm
REACH_S = 0.02  # of the weighting's filter beyond the edge of a hole: its slowest pole is at 20.6 Hz (source: iec_61672)
MOST_MISSING = 0.98  # share of a clip in holes; beyond it nothing is on it
NEAR_S = 0.25  # beside a hole, of which its place in the smoothed levels is filled; numerical
MOST_GROUPS = 128  # of fine spectra that are kept apart, so that what is disturbed can be left out; numerical: 17 MB at the most


@dataclass(frozen=True)
class Heard:
    """What one pass gave. Powers are mean squares in full scale squared; ``power`` per bin of the fine spectrum, window put right.

    ``fast`` and ``slow``: A-weighted mean squares every STEP_S; ``columns``: power per band and column, ``column_s`` apart;
    ``groups``: summed powers of following stretches, ``group_counts`` of them each and ``group_s`` from one group to the next.
    ``still``: steps, ``still_columns``: columns and ``still_groups``: groups that a hole of the recording reaches into; in the levels its
    place is filled with what lies beside it, in the spectra and columns it is not. ``begins_s``: of the first step, from the clip's first
    sample.
    """

    rate_hz: int
    seconds: float
    channels: int
    bin_hz: float
    power: Floats
    averages: int
    groups: Singles
    group_counts: NDArray[np.int64]
    group_s: float
    fast: Floats
    fast_top: Floats  # the highest within each step
    slow: Floats
    energy: Floats  # A-weighted, every STEP_S, not smoothed
    mean_square: float  # unweighted, of the whole
    column_s: float
    columns: Floats
    column_hz: Floats
    still: NDArray[np.bool_]
    still_columns: NDArray[np.bool_]
    still_groups: NDArray[np.bool_]
    missing: float  # share of the samples that lies in holes
    begins_s: float

    @property
    def frequency_hz(self) -> Floats:
        return np.arange(len(self.power), dtype=np.float64) * self.bin_hz


def decibels(power: Floats | float) -> Floats:
    return np.asarray(10 * np.log10(np.maximum(power, SMALLEST))).astype(np.float64)


def power_of_two(rate_hz: int, wanted_hz: float) -> int:
    """Length of a transform whose bins are no wider than wanted."""
    return int(2 ** np.ceil(np.log2(rate_hz / wanted_hz)))


@dataclass
class _Overlapped:
    """Windowed powers of half-overlapping stretches, channel by channel; what is left waits for the next block."""

    length: int
    left: list[Singles] = field(default_factory=list)

    def __post_init__(self) -> None:
        n = np.arange(self.length)
        self.window = (0.5 - 0.5 * np.cos(2 * np.pi * n / self.length)).astype(np.float32)
        self.scale = 2.0 / (self.length * float((self.window.astype(np.float64) ** 2).sum()))

    def feed(self, channel: int, samples: Singles) -> Floats:
        """Powers of the stretches that are whole now, one row each."""
        from scipy import fft  # here, as everywhere: a fifth of a second that a start need not wait for

        while len(self.left) <= channel:
            self.left.append(np.empty(0, np.float32))
        data = np.concatenate([self.left[channel], samples])
        hop = self.length // 2
        if len(data) < self.length:
            self.left[channel] = data
            return np.empty((0, self.length // 2 + 1))
        parts = np.lib.stride_tricks.sliding_window_view(data, self.length)[::hop]
        self.left[channel] = data[len(parts) * hop :]
        spectra = fft.rfft(parts * self.window, axis=1)
        return np.asarray((spectra.real**2 + spectra.imag**2) * np.float32(self.scale), dtype=np.float64)


@dataclass
class _Weighted:
    """A-weighted squares by overlap and save with a filter of linear phase that follows the standard's curve."""

    rate_hz: int
    tails: list[Singles] = field(default_factory=list)

    def __post_init__(self) -> None:
        from scipy import fft

        taps = power_of_two(self.rate_hz, TAPS_HZ)
        gain = 10 ** (a_weight_db(fft.rfftfreq(taps, 1 / self.rate_hz)) / 20)
        kernel = np.roll(fft.irfft(gain), taps // 2) * np.hanning(taps + 1)[:taps]
        self.taps, self.length = taps, 8 * taps
        self.filter = fft.rfft(kernel.astype(np.float32), self.length)

    def feed(self, channel: int, samples: Singles) -> Singles:
        from scipy import fft

        while len(self.tails) <= channel:
            self.tails.append(np.zeros(self.taps - 1, np.float32))
        data = np.concatenate([self.tails[channel], samples])
        step = self.length - self.taps + 1
        count = -(-len(samples) // step)
        grown = np.zeros(count * step + self.taps - 1, np.float32)
        grown[: len(data)] = data
        parts = np.lib.stride_tricks.sliding_window_view(grown, self.length)[::step]
        whole = fft.irfft(fft.rfft(parts, axis=1) * self.filter, self.length, axis=1)
        self.tails[channel] = data[len(data) - self.taps + 1 :]
        return np.asarray(whole[:, self.taps - 1 :].reshape(-1)[: len(samples)])


class Listener:
    """Takes blocks of shape (samples, channels); ``heard`` once all are in."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self.rate_hz, self.channels, self.samples = rate_hz, channels, 0
        self._fine = _Overlapped(power_of_two(rate_hz, FINE_HZ))
        self._coarse = _Overlapped(power_of_two(rate_hz, COARSE_HZ))
        self._weighted = _Weighted(rate_hz)
        self._groups = _Groups(self._fine.length // 2 + 1, channels)
        self._squares = 0.0
        self._tick = max(round(rate_hz * TICK_S), 1)
        self._rest: Singles = np.empty(0, np.float32)
        self._ticks: list[Floats] = []
        self._columns: list[Floats] = []
        self._bands = _Bands(rate_hz, self._coarse.length)
        self._short: list[Singles] = []  # of a clip shorter than one fine stretch

    def take(self, block: Singles) -> None:
        self.samples += len(block)
        self._squares += float(np.sum(block * block, dtype=np.float64)) / self.channels
        energy = np.zeros(len(block), np.float32)
        for c in range(self.channels):
            samples = np.ascontiguousarray(block[:, c], dtype=np.float32)
            self._groups.take(c, self._fine.feed(c, samples))
            energy += self._weighted.feed(c, samples) ** 2
        energy /= self.channels
        mixed = np.ascontiguousarray(block.mean(axis=1), dtype=np.float32) if self.channels > 1 else samples
        self._columns.append(self._bands.of(self._coarse.feed(0, mixed)))
        rest = np.concatenate([self._rest, energy])
        whole = len(rest) // self._tick * self._tick
        self._ticks.append(rest[:whole].reshape(-1, self._tick).mean(axis=1, dtype=np.float64))
        self._rest = rest[whole:]
        if self.samples < self._fine.length:
            self._short.append(block)

    @property
    def mean_square(self) -> float:
        return self._squares / max(self.samples, 1)

    def heard(self, holes: Sequence[tuple[int, int]] = ()) -> Heard:
        """``holes``: first sample of each and the first after it. Raises ValueError for a clip without a sample."""
        if not self.samples:
            raise ValueError("there is no sample")
        if not self._groups.taken[0]:
            self._pad()
        groups, counts = self._groups.whole()
        ticks = np.concatenate(self._ticks) if self._ticks else np.empty(0)
        if not len(ticks):
            ticks = np.array([float(self._rest.mean())])
        # Over its first length the filter hears the clip begin out of nothing, which is a knock.
        late = min(int(np.ceil(self._weighted.taps / self._tick)), len(ticks) // 2)
        step_s = self._tick / self.rate_hz
        begins_s = late * step_s - self._weighted.taps / 2 / self.rate_hz  # the filter is late by half its length
        at_s = begins_s + step_s * np.arange(len(ticks) - late, dtype=np.float64)
        in_hole = self._within(holes, at_s, step_s, REACH_S)
        missing = min(sum(b - a for a, b in holes) / self.samples, MOST_MISSING)
        ticks = _filled(ticks[late:], in_hole, round(NEAR_S / step_s), missing)
        every = max(round(STEP_S / step_s), 1)
        whole = max(len(ticks) // every, 1) * every
        kept = ticks[: min(whole, len(ticks))]
        steps = kept[: len(kept) // every * every].reshape(-1, every).mean(axis=1) if len(kept) >= every else np.array([kept.mean()])
        quick, slow = (_smoothed(ticks, step_s, tau) for tau in (FAST_S, SLOW_S))
        fast, slow = (x[every - 1 :: every][: len(steps)] for x in (quick, slow))
        top = quick[: len(steps) * every].reshape(len(steps), -1).max(axis=1) if len(quick) >= len(steps) * every else steps
        columns = np.concatenate(self._columns)
        column_s = self._coarse.length / 2 / self.rate_hz
        group_s = self._groups.each * self._fine.length / 2 / self.rate_hz
        reach_s = group_s + self._fine.length / 2 / self.rate_hz  # half-overlapping stretches: the last one reaches into the next group
        still = np.logical_or.reduceat(in_hole, np.arange(0, len(in_hole), every))[: len(steps)]
        return Heard(
            rate_hz=self.rate_hz,
            seconds=self.samples / self.rate_hz,
            channels=self.channels,
            bin_hz=self.rate_hz / self._fine.length,
            power=groups.sum(axis=0, dtype=np.float64) / counts.sum(),
            averages=int(counts.sum()),
            groups=groups,
            group_counts=counts,
            group_s=group_s,
            fast=fast if len(fast) else steps,
            fast_top=top,
            slow=slow if len(slow) else steps,
            energy=steps,
            mean_square=self.mean_square,
            column_s=column_s,
            columns=columns,
            column_hz=self._bands.centres_hz,
            still=still,
            still_columns=self._within(holes, column_s * np.arange(len(columns), dtype=np.float64), 2 * column_s, 0.0),
            still_groups=self._within(holes, group_s * np.arange(len(groups), dtype=np.float64), reach_s, 0.0),
            missing=missing,
            begins_s=begins_s,
        )

    def _within(self, holes: Sequence[tuple[int, int]], at_s: Floats, long_s: float, reach_s: float) -> NDArray[np.bool_]:
        """Which stretches of that length a hole reaches into; holes follow each other."""
        if not holes:
            return np.zeros(len(at_s), bool)
        begin, end = np.array(holes, float).T / self.rate_hz
        next_hole = np.searchsorted(end + reach_s, at_s, side="right")
        return np.asarray(np.append(begin, np.inf)[next_hole] - reach_s < at_s + long_s)

    def _pad(self) -> None:
        """A short clip fills a part of one stretch; its power is that of the part."""
        whole = np.concatenate(self._short)
        grown = np.zeros((self._fine.length, self.channels), np.float32)
        n = len(whole)
        window = (0.5 - 0.5 * np.cos(2 * np.pi * np.arange(n) / n)).astype(np.float32)
        grown[:n] = whole * window[:, None]
        scale = 2.0 / (self._fine.length * max(float((window.astype(np.float64) ** 2).sum()), SMALLEST))
        for c in range(self.channels):
            spectrum = np.fft.rfft(grown[:, c])
            self._groups.take(c, (np.abs(spectrum.astype(np.complex128)) ** 2 * scale)[None])


class _Groups:
    """Sums of following spectra; where they grow too many, two by two are put together."""

    def __init__(self, bins: int, channels: int) -> None:
        self.each, self.taken = 1, [0] * channels
        self.sums: Singles = np.zeros((MOST_GROUPS, bins), np.float32)
        self.counts = np.zeros(MOST_GROUPS, np.int64)

    def take(self, channel: int, powers: Floats) -> None:
        for row in powers:
            at = self.taken[channel] // self.each
            if at >= MOST_GROUPS:
                self._halve()
                at = self.taken[channel] // self.each
            self.sums[at] += row
            self.counts[at] += 1
            self.taken[channel] += 1

    def _halve(self) -> None:
        half = MOST_GROUPS // 2
        self.sums[:half] = self.sums[::2] + self.sums[1::2]
        self.counts[:half] = self.counts[::2] + self.counts[1::2]
        self.sums[half:], self.counts[half:] = 0, 0
        self.each *= 2

    def whole(self) -> tuple[Singles, NDArray[np.int64]]:
        some = self.counts > 0
        return self.sums[some], self.counts[some]


def without(heard: Heard, disturbed: NDArray[np.bool_]) -> Heard:
    """The same with the spectrum of those stretches that hold no disturbed step of the level.

    Where none is whole it is that of all, without the share of time that lies in holes: what is not there adds nothing.
    """
    if not disturbed.any() and not heard.still_groups.any():
        return heard
    edges = np.arange(len(heard.groups)) * heard.group_s - heard.begins_s
    reach = heard.group_s + 0.5 / heard.bin_hz  # half-overlapping stretches: the last one of a group reaches into the next
    from_step = np.maximum(edges / STEP_S, 0).astype(int)
    to_step = np.maximum(np.ceil((edges + reach) / STEP_S), 0).astype(int)
    clean = ~heard.still_groups & [not disturbed[a:b].any() for a, b in zip(from_step, to_step, strict=True)]
    if not clean.any():
        return replace(heard, power=heard.power / (1 - heard.missing))
    counts = heard.group_counts[clean]
    return replace(heard, power=heard.groups[clean].sum(axis=0, dtype=np.float64) / counts.sum(), averages=int(counts.sum()))


def _filled(squares: Floats, hole: NDArray[np.bool_], near: int, missing: float) -> Floats:
    """Holes filled with the mean of what lies beside them; where nothing else is there, all of it without the share that is missing."""
    if hole.all():
        return squares / (1 - missing)
    out = squares.copy()
    edges = np.flatnonzero(np.diff(np.concatenate([[0], hole.astype(np.int8), [0]])))
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        beside = slice(max(a - near, 0), b + near)
        good = squares[beside][~hole[beside]]
        out[a:b] = good.mean() if len(good) else squares[~hole].mean()
    return out


class _Bands:
    """Sums of bins to twelfth octaves, where bins are finer than those, else to single bins."""

    def __init__(self, rate_hz: int, length: int) -> None:
        bin_hz = rate_hz / length
        top = min(20_000.0, 0.45 * rate_hz)
        n = int(np.floor(COLUMN_BANDS * np.log(top / LOWEST_HZ) / np.log(OCTAVE)))
        centres = LOWEST_HZ * OCTAVE ** (np.arange(n + 1) / COLUMN_BANDS)
        low, high = band_edges_hz(centres, COLUMN_BANDS)
        first, last = np.ceil(low / bin_hz).astype(int), np.ceil(high / bin_hz).astype(int)
        some = last > first
        self.centres_hz: Floats = centres[some]
        self._edges = np.ravel(np.column_stack([first[some], last[some]]))

    def of(self, power: Floats) -> Floats:
        """Rows of powers to rows of sums."""
        return np.asarray(np.add.reduceat(power, self._edges, axis=1)[:, ::2])


def _smoothed(squares: Floats, step_s: float, tau_s: float) -> Floats:
    """Exponential time weighting, begun at the first tenth of a second's mean so that the start is no rise from silence."""
    from scipy import signal

    share = 1 - np.exp(-step_s / tau_s)
    begun = float(squares[: max(int(0.1 / step_s), 1)].mean())
    out, _ = signal.lfilter([share], [1, share - 1], squares, zi=[(1 - share) * begun])
    return np.asarray(out)


def third_octaves(heard: Heard) -> tuple[Floats, Floats]:
    """(mid-band frequencies, mean squares) of the bands that the clip's rate holds; bins are shared out where a band's edge cuts them."""
    centres = band_centres_hz()
    low, high = band_edges_hz(centres)
    good = high < heard.rate_hz / 2
    sums = np.concatenate([[0.0], np.cumsum(heard.power)])
    edges = np.arange(len(sums)) * heard.bin_hz - heard.bin_hz / 2

    def up_to(frequency: Floats) -> Floats:
        return np.asarray(np.interp(frequency, edges, sums), dtype=np.float64)

    return centres[good], np.asarray(up_to(high[good]) - up_to(low[good]))
