"""Clips as recorders write them, and forty files that are none."""

import io
import struct
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from django.test import SimpleTestCase

from documents.errors import DocumentError
from documents.soundclip.reader import open_clip
from instruments.recorder import calibrator, wav

RATE = 48_000
SINE = (0.25 * np.sin(2 * np.pi * 440 * np.arange(RATE) / RATE)).astype(np.float32)


def written(data: np.ndarray, rate: int = RATE, form: str = "WAV", subtype: str | None = None) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, data, rate, format=form, subtype=subtype)
    return out.getvalue()


class FormsTest(SimpleTestCase):
    def test_every_common_form_gives_the_same_samples(self) -> None:
        for form, subtype, off in (
            *(("WAV", "PCM_16", 1e-4), ("WAV", "PCM_24", 1e-6), ("WAV", "PCM_32", 1e-6), ("WAV", "FLOAT", 1e-7), ("WAV", "DOUBLE", 1e-7)),
            *(
                ("WAVEX", "PCM_16", 1e-4),
                ("WAV", "PCM_U8", 0.01),
                ("FLAC", "PCM_16", 1e-4),
                ("AIFF", "PCM_16", 1e-4),
                ("RF64", "PCM_24", 1e-6),
            ),
        ):
            for data in (SINE, np.stack([SINE, -SINE], axis=1)):
                with self.subTest(form=form, subtype=subtype, channels=data.ndim):
                    clip = open_clip(written(data, form=form, subtype=subtype))
                    self.assertEqual((clip.rate_hz, clip.channels, clip.samples), (RATE, data.ndim, RATE))
                    got = np.concatenate(list(clip.blocks()))
                    np.testing.assert_allclose(got, data.reshape(RATE, -1), atol=off)

    def test_a_file_of_a_folder_and_its_middle(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.wav"
            path.write_bytes(wav(calibrator(4.0)))
            clip = open_clip(path)
            self.assertAlmostEqual(clip.seconds, 4.0)
            self.assertEqual(len(clip.mono(1.0)), RATE)
            clip.close()


class BrokenTest(SimpleTestCase):
    GOOD = wav(SINE, "PCM_16")

    def broken(self) -> dict[str, bytes]:
        good = self.GOOD
        nan = SINE.copy()
        nan[100] = np.nan
        found = {
            "nothing": b"",
            "one byte": b"R",
            "words": b"not a sound at all\n" * 40,
            "zeros": bytes(4096),
            "a picture": b"\x89PNG\r\n\x1a\n" + bytes(400),
            "a zip": b"PK\x03\x04" + bytes(400),
            "a table": b"time,db\n0,34\n1,35\n",
            "no data": written(np.zeros(0, np.float32)),
            "too slow": written(SINE[:4000], 4000),
            "too quick": written(SINE, 500_000),
            "ten channels": written(np.tile(SINE[:, None], (1, 10))),
            "no number": written(nan, subtype="FLOAT"),
            "endless": written(np.full(RATE, np.inf, np.float32), subtype="FLOAT"),
            "no rate": good[:24] + bytes(4) + good[28:],
            "no channels": good[:22] + bytes(2) + good[24:],
            "unknown form": good[:20] + struct.pack("<H", 0x7777) + good[22:],
            "no bits": good[:34] + bytes(2) + good[36:],
        }
        found |= {f"cut at {n}": good[:n] for n in (2, 4, 8, 11, 12, 16, 20, 21, 24, 28, 34, 36, 40, 43)}
        rng = np.random.default_rng(4)
        found |= {f"noise {i}": rng.bytes(64 + 100 * i) for i in range(6)}
        found |= {"riff of words": b"RIFF\x10\x00\x00\x00WORD" + bytes(60), "wave alone": good[:12], "mp3 head": b"ID3\x03" + bytes(300)}
        return found

    def test_each_is_refused_with_what_to_do(self) -> None:
        files = self.broken()
        self.assertGreaterEqual(len(files), 40)
        for name, data in files.items():
            with self.subTest(name=name):
                with self.assertRaises(DocumentError) as caught:
                    for _ in open_clip(data).blocks():
                        pass
                self.assertTrue(caught.exception.faults[0].do)

    def test_one_that_breaks_off_gives_what_is_there(self) -> None:
        clip = open_clip(self.GOOD[: len(self.GOOD) // 2])
        self.assertAlmostEqual(sum(len(b) for b in clip.blocks()) / RATE, 0.5, delta=0.01)
