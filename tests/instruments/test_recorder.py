"""The made-up recorder's clips hold what they say they hold, and the analysis finds it."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from desk.sound.document import sound_document, sound_of
from documents.soundclip.reader import open_clip
from engine.machine import at_speeds
from engine.sound.tones import Source
from instruments.recorder import LISTENING_DB, calibrator, record, resonance_hz, room_alone, synthesised, wav
from tests.machines import machine

TIED = open_clip(wav(calibrator())), 94.0


class RecorderTest(SimpleTestCase):
    def test_level_lines_and_beat_are_found(self) -> None:
        for seed in (1, 2, 3):
            samples, truth = record(machine(), 25, seed)
            found = sound_document(sound_of(open_clip(wav(samples)), TIED))
            with self.subTest(seed=seed):
                self.assertTrue(found.calibrated)
                self.assertAlmostEqual(found.laeq_dba, truth.level_dba, delta=0.3)
                for tone in found.tones:
                    self.assertLess(min(abs(x.frequency_hz - tone.frequency_hz) for x in truth.lines), 1.0)
                if truth.beat_hz and found.beats:
                    self.assertAlmostEqual(found.beats[0].frequency_hz, truth.beat_hz, delta=0.02)

    def test_same_seed_same_clip_and_another_take_is_another(self) -> None:
        one, two, three = record(machine(), 1, 5)[0], record(machine(), 1, 5)[0], record(machine(), 1, 5, take=1)[0]
        np.testing.assert_array_equal(one, two)
        self.assertGreater(float(np.abs(one - three).max()), 0)

    def test_a_panel_sings_where_the_blades_meet_it(self) -> None:
        m = machine()
        seed = 4
        fan = next(f for f in m.fans if f.running)
        at = resonance_hz(seed) * 60 / 9 / fan.fan.speed_max_rpm * 100
        heights = []
        for pct in (at * 0.85, at, at * 1.15):
            samples, truth = record(at_speeds(m, [], pct), 12, seed)
            found = sound_of(open_clip(wav(samples)), TIED, sources=[Source("fan", fan.fan.speed_max_rpm * pct / 100, 9)])
            line = max(x.level_db for x in truth.lines if x.of == f"fan at {fan.mount.upper()}")
            heights.append(max((t.tone_to_noise_db for t in found.tones if t.of), default=-9.0))
            self.assertGreater(line, -20)
        self.assertGreater(heights[1], max(heights[0], heights[2]) + 6)

    def test_what_is_made_from_a_forecast_has_its_level_and_is_cut_nowhere(self) -> None:
        for level in (24.0, 33.0, 48.0):
            samples = synthesised(machine(), 6, {}, level)
            self.assertLess(float(np.abs(samples).max()), 1.0)
            found = sound_of(open_clip(wav(samples)))
            self.assertAlmostEqual(found.levels.eq + LISTENING_DB, level, delta=0.15)

    def test_more_speed_is_louder_and_the_room_alone_is_its_background(self) -> None:
        m = replace(machine(), room=replace(machine().room, background_dba=24.0))
        slow, quick = (record(at_speeds(m, [], pct), 2, 1)[1].level_dba for pct in (50, 90))
        self.assertGreater(quick, slow + 3)
        found = sound_of(open_clip(wav(room_alone(m, 8))), TIED)
        self.assertAlmostEqual(found.levels.eq, 24.0, delta=0.2)
