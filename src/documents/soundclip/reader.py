"""Reads a clip: WAV in any common form (whole numbers of 8 to 32 bits, floats, any number of channels), by an open library."""

import io
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from documents.errors import DocumentError, Fault

Singles = NDArray[np.float32]

BLOCK = 1 << 18
LEAST_HZ, MOST_HZ = 8_000, 384_000
MOST_CHANNELS = 8
MOST_S = 4 * 3600.0
_DO = "Save it as WAV: 48 kHz, 16 or 24 bits, without compression."


@dataclass(frozen=True)
class Clip:
    """An open clip; ``blocks`` gives its samples once, shape (samples, channels), in shares of full scale."""

    rate_hz: int
    channels: int
    samples: int
    form: str
    _file: soundfile.SoundFile

    @property
    def seconds(self) -> float:
        return self.samples / self.rate_hz

    def blocks(self) -> Iterator[Singles]:
        """Raises DocumentError where the file breaks off in a way that cannot be read."""
        self._file.seek(0)
        while True:
            try:
                block = self._file.read(BLOCK, dtype="float32", always_2d=True)
            except (RuntimeError, OSError) as error:
                raise DocumentError([Fault("clip", f"the samples cannot be read ({error})", _DO)]) from error
            if not len(block):
                return
            if not np.isfinite(block).all():
                raise DocumentError([Fault("clip", "it holds samples that are no numbers", "Write it again from the recorder.")])
            yield block

    def mono(self, most_s: float) -> Singles:
        """The first channel, from its middle, no longer than asked."""
        most = int(most_s * self.rate_hz)
        self._file.seek(max((self.samples - most) // 2, 0))
        return np.ascontiguousarray(self._file.read(most, dtype="float32", always_2d=True)[:, 0])

    def close(self) -> None:
        self._file.close()


def open_clip(source: Path | bytes, name: str = "clip") -> Clip:
    """Raises DocumentError for what is no clip, is empty, or is beyond what a recorder makes."""
    try:
        file = soundfile.SoundFile(io.BytesIO(source) if isinstance(source, bytes) else source)
    except FileNotFoundError as error:
        raise DocumentError([Fault(name, "cannot read the file", "Check the name and the folder.")]) from error
    except (RuntimeError, OSError, ValueError, TypeError) as error:
        raise DocumentError([Fault(name, "this is no sound file that can be read", _DO)]) from error
    fault = _fault(file, name)
    if fault:
        file.close()
        raise DocumentError([fault])
    return Clip(int(file.samplerate), int(file.channels), int(file.frames), f"{file.format} {file.subtype}", file)


def _fault(file: soundfile.SoundFile, name: str) -> Fault | None:
    if file.frames <= 0:
        return Fault(name, "the clip holds no sample", "Record it again.")
    if not LEAST_HZ <= file.samplerate <= MOST_HZ:
        what = f"{file.samplerate} samples a second are beyond {LEAST_HZ:,} to {MOST_HZ:,}"
        return Fault(name, what, "Record at 44,100 or 48,000 samples a second.")
    if not 1 <= file.channels <= MOST_CHANNELS:
        return Fault(name, f"{file.channels} channels are more than {MOST_CHANNELS}", "Record one or two.")
    if file.frames / file.samplerate > MOST_S:
        return Fault(name, f"{file.frames / file.samplerate / 3600:.1f} h are more than {MOST_S / 3600:.0f}", "Cut it.")
    return None
