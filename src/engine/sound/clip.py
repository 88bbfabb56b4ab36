"""A clip's figures: levels, one-third octaves, tones, beats, what spoils it; tied to dBA, or relative to full scale and said so."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine.errors import ImpossibleInputError
from engine.sound.beats import Beat, beats, slowest_hz
from engine.sound.faults import QUIET_DB, ClipFlag, Watch, level_flags, undisturbed
from engine.sound.listening import STEP_S, Heard, Listener, decibels, third_octaves, without
from engine.sound.tones import Source, Tone, tones, whose

Singles = NDArray[np.float32]
Tie = Literal["none", "calibrator", "meter"]

STEADY_DB = 0.5  # the most a calibrator's level may wander
PURE_DB = 20.0  # least tone-to-noise ratio of a calibrator
COLUMNS = 480  # of the spectrogram that is kept
LOWEST_Z_HZ = 10.0  # Z weighting is flat from here on (source: iec_61672); under it lie draughts and the recorder's own wander


@dataclass(frozen=True)
class Levels:
    """A-weighted, in dB: mean by energy, highest and lowest with time weighting F and S, levels passed in 10, 50 and 90 % of the time."""

    eq: float
    fast_max: float
    fast_min: float
    slow_max: float
    l10: float
    l50: float
    l90: float


@dataclass(frozen=True)
class ClipAnalysis:
    """Levels in dB re 20 micropascal where ``tie`` is not none, else re full scale.

    ``left_out_s``: disturbed or a hole, in no level, octave or tone. The curve, the spectrogram and the beats are of the whole.
    """

    tie: Tie
    offset_db: float
    rate_hz: int
    seconds: float
    channels: int
    levels: Levels
    z_eq: float
    third_octaves: tuple[tuple[float, float], ...]
    tones: tuple[Tone, ...]
    beats: tuple[Beat, ...]
    slowest_beat_hz: float
    flags: tuple[ClipFlag, ...]
    left_out_s: float
    loudness_sone: float | None
    curve: tuple[tuple[float, float], ...]  # A-weighted level in dB of each STEP_S, at most COLUMNS of them: (s, dB)
    spectrogram_hz: tuple[float, ...]
    spectrogram_s: float
    spectrogram_db: tuple[tuple[float, ...], ...]  # one row a column of time

    @property
    def calibrated(self) -> bool:
        return self.tie != "none"


def hear(blocks: Iterable[Singles], rate_hz: int, channels: int) -> tuple[Heard, list[ClipFlag]]:
    """One pass over the samples. Raises ImpossibleInputError for a clip without any."""
    listener, watch = Listener(rate_hz, channels), Watch(rate_hz)
    for block in blocks:
        listener.take(block)
        watch.take(block)
    coarse = float(decibels(listener.mean_square)) < QUIET_DB  # the file's own steps stand still at times; nothing is missing
    try:
        return listener.heard(() if coarse else watch.holes()), watch.flags()
    except ValueError as error:
        raise ImpossibleInputError("the clip holds no sample", "clip", "Record it again.") from error


def analysed(
    heard: Heard, flags: Sequence[ClipFlag], tie: Tie = "none", offset_db: float = 0.0, sources: Sequence[Source] = ()
) -> ClipAnalysis:
    """All figures but the loudness, which needs the samples themselves."""
    good = undisturbed(heard)
    energy, fast, slow = heard.energy[good], heard.fast[good[: len(heard.fast)]], heard.slow[good[: len(heard.slow)]]
    fast, slow = (x if len(x) else energy for x in (fast, slow))
    highest = float(heard.fast_top[good[: len(heard.fast_top)]].max())

    def level(x: float) -> float:
        return float(decibels(x)) + offset_db

    quiet = without(heard, ~good)
    passed = [level(float(np.percentile(fast, p))) for p in (90, 50, 10)]
    centres, squares = third_octaves(quiet)
    every = max(int(np.ceil(len(heard.energy) / COLUMNS)), 1)
    columns, column_s = _fewer(heard)
    return ClipAnalysis(
        tie=tie,
        offset_db=offset_db,
        rate_hz=heard.rate_hz,
        seconds=heard.seconds,
        channels=heard.channels,
        levels=Levels(level(float(energy.mean())), level(highest), level(float(fast.min())), level(float(slow.max())), *passed),
        z_eq=level(float(quiet.power[quiet.frequency_hz >= LOWEST_Z_HZ].sum())),
        third_octaves=tuple((float(f), level(float(p))) for f, p in zip(centres, squares, strict=True)),
        tones=tuple(whose(tones(quiet, offset_db), sources)),
        beats=tuple(beats(heard)),
        slowest_beat_hz=slowest_hz(heard.seconds),
        flags=(*flags, *level_flags(heard)),
        left_out_s=float((~good).sum() * STEP_S),
        loudness_sone=None,
        curve=tuple(
            (round(heard.begins_s + i * STEP_S, 3), level(float(heard.energy[i : i + every].mean())))
            for i in range(0, len(heard.energy), every)
        ),
        spectrogram_hz=tuple(float(f) for f in heard.column_hz),
        spectrogram_s=column_s,
        spectrogram_db=tuple(tuple(round(float(v) + offset_db, 1) for v in decibels(row)) for row in columns),
    )


def _fewer(heard: Heard) -> tuple[NDArray[np.float64], float]:
    """Columns of the spectrogram, put together to at most COLUMNS."""
    every = max(int(np.ceil(len(heard.columns) / COLUMNS)), 1)
    n = len(heard.columns) // every
    if not n:
        return heard.columns, heard.column_s
    return heard.columns[: n * every].reshape(n, every, -1).mean(axis=1), every * heard.column_s


def calibrator_offset_db(heard: Heard, calibration_db: float) -> float:
    """What ties full scale to a level, from a clip of a calibrator. Raises ImpossibleInputError where it is no steady tone."""
    found = [t for t in tones(without(heard, heard.still)) if 200 <= t.frequency_hz <= 1300]
    if not found or found[0].tone_to_noise_db < PURE_DB:
        raise ImpossibleInputError(
            "there is no calibrator's tone on this clip",
            "calibration clip",
            "Record the calibrator alone, fitted tightly, for ten seconds.",
        )
    n = len(heard.fast)
    middle = decibels(heard.fast[n // 4 : max(3 * n // 4, n // 4 + 1)])
    if float(middle.max() - middle.min()) > STEADY_DB:
        raise ImpossibleInputError(
            f"the calibrator's level wanders by {float(middle.max() - middle.min()):.1f} dB",
            "calibration clip",
            "Fit it tightly, wait until it is steady, and record it again.",
        )
    return calibration_db - found[0].level_db


def meter_offset_db(heard: Heard, reading_dba: float) -> float:
    """The same from a meter's A-weighted reading at the same place and moment: the mean of the undisturbed clip is that reading."""
    return reading_dba - float(decibels(float(heard.energy[undisturbed(heard)].mean())))


def with_loudness(analysis: ClipAnalysis, sone: float | None) -> ClipAnalysis:
    return replace(analysis, loudness_sone=sone)
