"""A clip's figures as a document: levels, one-third octaves, tones, beats, what spoils it."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from documents.soundclip.reader import Clip
from engine.identity import ENGINE
from engine.sound.clip import ClipAnalysis, Tie, analysed, calibrator_offset_db, hear, meter_offset_db
from engine.sound.loudness import MOST_S, loudness_sone
from engine.sound.tones import Source
from engine.sound.weighting import NOMINAL_HZ

Progress = Callable[[float], None]


class OctaveBandOut(BaseModel):
    """``centre_hz``: the rounded name of the band."""

    centre_hz: float
    level_db: float


class ToneOut(BaseModel):
    """``prominent`` null outside the procedures' range; ``of``: what turns or blows at that rate."""

    frequency_hz: float
    level_db: float
    tone_to_noise_db: float
    prominence_db: float | None
    prominent: bool | None
    of: str = ""


class BeatOut(BaseModel):
    """``depth_db`` from trough to top; ``band_hz``: the band that swells, null for the level as a whole."""

    frequency_hz: float
    depth_db: float
    band_hz: float | None


class ClipFlagOut(BaseModel):
    code: str
    from_s: float
    to_s: float
    detail: str


class SoundDoc(BaseModel):
    """``calibrated`` false: levels are in dB re full scale and say nothing of how loud it was, only how much louder than another
    clip of the same recorder at the same gain. ``slowest_beat_hz``: slower ones cannot be heard in a clip of this length."""

    format: Literal["oventa-sound"] = "oventa-sound"
    version: Literal[1] = 1
    engine: str = ENGINE.number
    calibrated: bool
    tied_by: Tie
    offset_db: float
    duration_s: float
    rate_hz: int
    channels: int
    laeq_dba: float
    lafmax_dba: float
    lafmin_dba: float
    lasmax_dba: float
    la10_dba: float
    la50_dba: float
    la90_dba: float
    lzeq_db: float
    loudness_sone: float | None
    one_third_octaves: list[OctaveBandOut]
    tones: list[ToneOut]
    beats: list[BeatOut]
    slowest_beat_hz: float
    left_out_s: float
    flags: list[ClipFlagOut]


class SoundPictures(BaseModel):
    """What is drawn of a clip: the level over time, and the spectrogram in rows of time."""

    curve: list[tuple[float, float]]
    hz: list[float]
    step_s: float
    rows: list[list[float]]


def counted(clip: Clip, progress: Progress | None) -> Iterator[NDArray[np.float32]]:
    """A clip's blocks; after each is said which share is through."""
    through = 0
    for block in clip.blocks():
        yield block
        through += len(block)
        if progress:
            progress(min(through / clip.samples, 1.0))


def sound_of(
    clip: Clip,
    calibration: tuple[Clip, float] | None = None,
    reading_dba: float | None = None,
    sources: Sequence[Source] = (),
    progress: Progress | None = None,
) -> ClipAnalysis:
    """All figures of a clip, tied by a calibrator's clip and level, by a meter's reading of the same moment, or not.

    Raises DocumentError for a file that breaks off, ImpossibleInputError for a calibrator's clip that is none.
    """
    heard, flags = hear(counted(clip, progress), clip.rate_hz, clip.channels)
    tie: Tie = "none"
    offset = 0.0
    if calibration is not None:
        own, level = calibration
        offset, tie = calibrator_offset_db(hear(own.blocks(), own.rate_hz, own.channels)[0], level), "calibrator"
    elif reading_dba is not None:
        offset, tie = meter_offset_db(heard, reading_dba), "meter"
    return analysed(heard, flags, tie, offset, sources)


def loudness_of(clip: Clip, analysis: ClipAnalysis) -> float | None:
    """In sone; None for a clip that is tied to no level, or is spoilt or too short."""
    if not analysis.calibrated or any(f.code in ("clipped", "dropout") for f in analysis.flags):
        return None
    return loudness_sone(clip.mono(MOST_S), clip.rate_hz, analysis.offset_db)


def sound_document(found: ClipAnalysis) -> SoundDoc:
    """The document of FORMATS, with more than it asks."""
    names = {round(1000 * 10 ** (0.1 * (i - 17)), 3): hz for i, hz in enumerate(NOMINAL_HZ)}
    levels = found.levels
    return SoundDoc(
        calibrated=found.calibrated,
        tied_by=found.tie,
        offset_db=round(found.offset_db, 2),
        duration_s=round(found.seconds, 3),
        rate_hz=found.rate_hz,
        channels=found.channels,
        laeq_dba=round(levels.eq, 2),
        lafmax_dba=round(levels.fast_max, 2),
        lafmin_dba=round(levels.fast_min, 2),
        lasmax_dba=round(levels.slow_max, 2),
        la10_dba=round(levels.l10, 2),
        la50_dba=round(levels.l50, 2),
        la90_dba=round(levels.l90, 2),
        lzeq_db=round(found.z_eq, 2),
        loudness_sone=None if found.loudness_sone is None else round(found.loudness_sone, 2),
        one_third_octaves=[
            OctaveBandOut(centre_hz=names.get(round(f, 3), round(f, 1)), level_db=round(v, 2)) for f, v in found.third_octaves
        ],
        tones=[
            ToneOut(
                frequency_hz=round(t.frequency_hz, 2),
                level_db=round(t.level_db, 2),
                tone_to_noise_db=round(t.tone_to_noise_db, 2),
                prominence_db=None if t.prominence_db is None else round(t.prominence_db, 2),
                prominent=t.prominent,
                of=t.of,
            )
            for t in found.tones
        ],
        beats=[
            BeatOut(
                frequency_hz=round(b.frequency_hz, 3),
                depth_db=round(b.depth_db, 2),
                band_hz=None if b.band_hz is None else round(b.band_hz, 1),
            )
            for b in found.beats
        ],
        slowest_beat_hz=round(found.slowest_beat_hz, 3),
        left_out_s=round(found.left_out_s, 2),
        flags=[ClipFlagOut(**asdict(f)) for f in found.flags],
    )


def pictures_of(found: ClipAnalysis) -> SoundPictures:
    return SoundPictures(
        curve=[(round(t, 2), round(v, 1)) for t, v in found.curve],
        hz=[round(f, 1) for f in found.spectrogram_hz],
        step_s=found.spectrogram_s,
        rows=[list(row) for row in found.spectrogram_db],
    )
