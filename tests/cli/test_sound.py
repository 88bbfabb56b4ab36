"""``./oventa sound`` as the formats have it, and how it refuses."""

import tempfile
from pathlib import Path

from django.test import SimpleTestCase

from instruments.recorder import calibrator, record, wav
from tests.cli.test_commands import call
from tests.machines import machine


class SoundCommandTest(SimpleTestCase):
    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)
        self.clip, self.cal = self.folder / "a.wav", self.folder / "cal.wav"
        samples, self.truth = record(machine(), 12, 1)
        self.clip.write_bytes(wav(samples))
        self.cal.write_bytes(wav(calibrator(6.0)))

    def test_fields_and_figures(self) -> None:
        code, doc, _ = call("sound", str(self.clip), "--calibration-clip", str(self.cal), "--calibration-db", "94", "--json")
        self.assertEqual(code, 0)
        self.assertEqual((doc["format"], doc["version"], doc["calibrated"]), ("oventa-sound", 1, True))
        self.assertAlmostEqual(doc["laeq_dba"], self.truth.level_dba, delta=0.4)
        self.assertEqual([b["centre_hz"] for b in doc["one_third_octaves"]][:4], [20, 25, 31.5, 40])
        self.assertEqual(len(doc["one_third_octaves"]), 31)
        self.assertGreater(doc["loudness_sone"], 0)
        for name in ("lafmax_dba", "tones", "beats", "flags"):
            self.assertIn(name, doc)

    def test_untied_is_said_and_a_reading_ties(self) -> None:
        code, _, err = call("sound", str(self.clip))
        self.assertEqual(code, 0)
        self.assertIn("not tied to a level", err)
        code, doc, _ = call("sound", str(self.clip), "--meter-dba", "36.2", "--json")
        self.assertAlmostEqual(doc["laeq_dba"], 36.2, delta=0.01)

    def test_half_a_calibrator_and_two_ties_are_refused(self) -> None:
        for extra in (
            ["--calibration-db", "94"],
            ["--calibration-clip", str(self.cal)],
            ["--calibration-clip", str(self.cal), "--calibration-db", "94", "--meter-dba", "36"],
            ["--meter-dba", "-3"],
            ["--calibration-clip", str(self.clip), "--calibration-db", "94"],
        ):
            with self.subTest(extra=extra):
                code, _, err = call("sound", str(self.clip), *extra)
                self.assertEqual(code, 2)
                self.assertTrue(err.strip())
        self.assertEqual(call("sound", str(self.folder / "none.wav"))[0], 2)
