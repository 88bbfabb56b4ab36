"""Clips against the standards' tables, an open library, and signals whose answer is known."""

import numpy as np
from django.test import SimpleTestCase
from numpy.typing import NDArray
from scipy import fft

from engine.errors import ImpossibleInputError
from engine.runs.room_level import without_room
from engine.sound.clip import ClipAnalysis, analysed, calibrator_offset_db, hear, meter_offset_db
from engine.sound.loudness import loudness_sone
from engine.sound.tones import Source, band_about, critical_band_hz, prominence_criterion_db, prominent_ratio_db
from engine.sound.weighting import NOMINAL_HZ, a_weight_db, band_centres_hz, band_edges_hz

RATE = 48_000
Singles = NDArray[np.float32]

# IEC 61672-1, table of frequency weightings: nominal frequency, A in dB, as printed to a tenth (from memory).
TABLE = (
    *((31.5, -39.4), (63, -26.2), (100, -19.1), (125, -16.1), (200, -10.9), (250, -8.6), (500, -3.2), (800, -0.8), (1000, 0.0)),
    *((1600, 1.0), (2000, 1.2), (4000, 1.0), (6300, -0.1), (8000, -1.1), (10000, -2.5), (12500, -4.3), (16000, -6.6)),
)


def sine(hz: float, seconds: float, amplitude: float = 0.1, rate: int = RATE) -> Singles:
    return (amplitude * np.sin(2 * np.pi * hz * np.arange(int(seconds * rate)) / rate + 0.3)).astype(np.float32)


def shaped(rng: np.random.Generator, seconds: float, kind: int) -> Singles:
    """Steady noise of many colours: falling, with a corner, with a hump."""
    n = int(RATE * seconds)
    f = fft.rfftfreq(n, 1 / RATE)
    f[0] = f[1]
    gain = f ** (0.0, -0.5, -1.0, -0.25)[kind % 4]
    gain = gain / (1 + (f / 400) ** 2) if kind % 3 == 1 else gain * (1 + 3 * np.exp(-(((f - 900) / 300) ** 2))) if kind % 3 == 2 else gain
    x = fft.irfft(gain * fft.rfft(rng.normal(size=n)), n)
    return np.asarray(0.05 * x / x.std()).astype(np.float32)


def clip(*channels: Singles, rate: int = RATE) -> ClipAnalysis:
    heard, flags = hear([np.stack(channels, axis=1)], rate, len(channels))
    return analysed(heard, flags)


class WeightingTest(SimpleTestCase):
    def test_weightings_are_those_of_the_table(self) -> None:
        exact = dict(zip(NOMINAL_HZ, band_centres_hz().tolist(), strict=True))
        for nominal, a in TABLE:
            with self.subTest(hz=nominal):
                self.assertAlmostEqual(float(a_weight_db([exact[nominal]])[0]), a, delta=0.06)

    def test_band_edges_meet_and_stand_where_the_standard_has_them(self) -> None:
        centres = band_centres_hz()
        low, high = band_edges_hz(centres)
        np.testing.assert_allclose(high[:-1], low[1:], rtol=1e-12)
        at = list(NOMINAL_HZ).index(1000)
        # IEC 61260-1: the one-third octave about 1 kHz reaches from 891.25 to 1122.02 Hz.
        np.testing.assert_allclose([low[at], high[at]], [891.2509, 1122.0185], rtol=1e-6)
        for nominal, exact in zip(NOMINAL_HZ, centres, strict=True):
            self.assertAlmostEqual(exact / nominal, 1.0, delta=0.013)

    def test_levels_of_sines_to_a_tenth(self) -> None:
        for hz in (40.0, 63.0, 146.0, 500.0, 1000.0, 3333.0, 9000.0):
            for rate in (44_100, 48_000, 96_000):
                with self.subTest(hz=hz, rate=rate):
                    found = clip(sine(hz, 6, rate=rate), rate=rate)
                    self.assertAlmostEqual(found.z_eq, -23.01, delta=0.02)
                    self.assertAlmostEqual(found.levels.eq, -23.01 + float(a_weight_db([hz])[0]), delta=0.06)
                    (band,) = [v for f, v in found.third_octaves if f / 10**0.05 <= hz < f * 10**0.05]
                    self.assertAlmostEqual(band, -23.01, delta=0.05)

    def test_two_channels_are_their_mean_by_energy(self) -> None:
        one, both = clip(sine(1000, 6)), clip(sine(1000, 6), np.zeros(6 * RATE, np.float32))
        self.assertAlmostEqual(one.levels.eq - both.levels.eq, 3.01, delta=0.02)

    def test_fast_and_slow_answer_a_burst_as_the_standard_says(self) -> None:
        # IEC 61672-1, table of toneburst responses at 4 kHz: F of 1 s 0.0, 0.2 s -1.0, 0.05 s -4.8; S of 0.5 s -4.1, 0.2 s -7.4 dB.
        for seconds, fast, slow in ((1.0, 0.0, -2.0), (0.5, -0.1, -4.1), (0.2, -1.0, -7.4), (0.05, -4.8, None)):
            x = 1e-5 * np.random.default_rng(1).normal(size=8 * RATE).astype(np.float32)
            burst = sine(4000, seconds)
            x[4 * RATE : 4 * RATE + len(burst)] += burst
            heard, _ = hear([x[:, None]], RATE, 1)
            steady = -23.01 + float(a_weight_db([4000.0])[0])
            with self.subTest(seconds=seconds):
                self.assertAlmostEqual(10 * np.log10(heard.fast_top.max()) - steady, fast, delta=0.5)
                if slow is not None:
                    self.assertAlmostEqual(10 * np.log10(heard.slow.max()) - steady, slow, delta=0.3)

    def test_levels_passed_in_a_share_of_the_time(self) -> None:
        x = np.concatenate([sine(1000, 12, 0.05), sine(1000, 8, 0.1)])
        levels = clip(x).levels
        self.assertAlmostEqual(levels.l10, -23.0, delta=0.1)
        self.assertAlmostEqual(levels.l90, -29.0, delta=0.1)
        self.assertAlmostEqual(levels.eq, 10 * np.log10((12 * 10**-2.903 + 8 * 10**-2.301) / 20), delta=0.1)


class ToneTest(SimpleTestCase):
    def test_critical_bands_and_criteria_by_hand(self) -> None:
        # ECMA-74, annex D: 162 Hz wide at 1 kHz, 100 Hz at low frequencies; prominent from 8 dB at 1 kHz and above, more below.
        self.assertAlmostEqual(critical_band_hz(1000), 162.2, delta=0.1)
        self.assertAlmostEqual(critical_band_hz(100), 100.7, delta=0.1)
        low, high = band_about(1000)
        self.assertAlmostEqual(low * high, 1e6, delta=1e3)
        self.assertAlmostEqual(prominent_ratio_db(2000), 8.0)
        self.assertAlmostEqual(prominent_ratio_db(100), 16.33, delta=0.01)
        self.assertAlmostEqual(prominence_criterion_db(100), 19.0)

    def test_a_tone_in_noise_of_a_known_ratio(self) -> None:
        for seed, (hz, ratio) in enumerate(((250.0, 12.0), (466.3, 9.1), (1000.0, 15.0), (3150.0, 6.0))):
            rng = np.random.default_rng(seed)
            density = 1e-8  # mean square per Hz
            noise = rng.normal(0, np.sqrt(density * RATE / 2), 20 * RATE)
            square = density * critical_band_hz(hz) * 10 ** (ratio / 10)
            x = (noise + sine(hz, 20, float(np.sqrt(2 * square)))).astype(np.float32)
            found = clip(x).tones[0]
            with self.subTest(hz=hz):
                self.assertAlmostEqual(found.frequency_hz, hz, delta=0.2)
                self.assertAlmostEqual(found.level_db, 10 * np.log10(square), delta=0.5)
                self.assertAlmostEqual(found.tone_to_noise_db, ratio, delta=1.0)
                self.assertEqual(found.prominent, ratio >= prominent_ratio_db(hz))
                assert found.prominence_db is not None
                self.assertAlmostEqual(found.prominence_db, 10 * np.log10(1 + 10 ** (ratio / 10)), delta=1.5)

    def test_lines_are_given_to_what_turns_at_their_rate(self) -> None:
        x = shaped(np.random.default_rng(3), 12, 0) * 0.2 + sine(180, 12, 0.02) + sine(360, 12, 0.01) + sine(777, 12, 0.01)
        heard, flags = hear([x[:, None].astype(np.float32)], RATE, 1)
        found = analysed(heard, flags, sources=[Source("fan at F1", 1200, 9), Source("fan at R1", 900, 7)])
        named = {round(t.frequency_hz): t.of for t in found.tones}
        self.assertEqual(named[180], "blades of fan at F1")
        self.assertEqual(named[360], "blades of fan at F1, 2nd multiple")
        self.assertEqual(named[777], "")


class BeatTest(SimpleTestCase):
    def test_a_slow_swell_is_found_with_its_depth(self) -> None:
        t = np.arange(30 * RATE) / RATE
        for seed, (hz, depth) in enumerate(((0.2, 3.0), (0.2, 1.5), (0.55, 2.0), (1.3, 4.0))):
            swing = (10 ** (depth / 10) - 1) / (10 ** (depth / 10) + 1)
            x = shaped(np.random.default_rng(seed), 30, 0) * np.sqrt(1 + swing * np.cos(2 * np.pi * hz * t + 0.4))
            found = clip(x.astype(np.float32)).beats[0]
            with self.subTest(hz=hz, depth=depth):
                self.assertAlmostEqual(found.frequency_hz, hz, delta=0.01)
                self.assertAlmostEqual(found.depth_db, depth, delta=0.5)
                self.assertIsNone(found.band_hz)

    def test_two_lines_a_fifth_of_a_hertz_apart_beat_in_their_band(self) -> None:
        x = 0.3 * shaped(np.random.default_rng(5), 40, 0) + sine(400.0, 40, 0.01) + sine(400.2, 40, 0.008)
        found = [b for b in clip(x.astype(np.float32)).beats if abs(b.frequency_hz - 0.2) < 0.02]
        self.assertTrue(found)
        self.assertTrue(found[0].band_hz is None or 350 < found[0].band_hz < 450)

    def test_a_short_clip_says_what_it_cannot_hear(self) -> None:
        self.assertAlmostEqual(clip(shaped(np.random.default_rng(1), 10, 0)).slowest_beat_hz, 0.3)


class SteadyNoiseTest(SimpleTestCase):
    def no_more_than_is_there(self, seeds: range) -> None:
        for seed in seeds:
            found = clip(shaped(np.random.default_rng(seed), 10 if seed % 2 else 25, seed))
            with self.subTest(seed=seed):
                self.assertEqual((found.tones, found.beats, found.flags), ((), (), ()))

    def test_no_tone_beat_or_fault_is_invented(self) -> None:
        self.no_more_than_is_there(range(1000, 1012))

    def test_none_in_two_hundred(self) -> None:
        self.no_more_than_is_there(range(200))


class FaultTest(SimpleTestCase):
    def codes(self, x: NDArray[np.floating]) -> list[str]:
        return [f.code for f in clip(x.astype(np.float32)).flags]

    def setUp(self) -> None:
        self.noise = shaped(np.random.default_rng(7), 20, 1)

    def test_each_is_told(self) -> None:
        t = np.arange(len(self.noise)) / RATE
        rng = np.random.default_rng(2)
        knock, voice, hole = self.noise.copy(), self.noise.copy(), self.noise.copy()
        knock[8 * RATE : 8 * RATE + RATE // 4] += rng.normal(0, 0.6, RATE // 4).astype(np.float32)
        syllables = (np.sin(2 * np.pi * 3 * t) > 0) * ((t > 6) & (t < 10))
        voice += (0.5 * syllables * (np.sin(2 * np.pi * 500 * t) + np.sin(2 * np.pi * 1500 * t))).astype(np.float32)
        hole[5 * RATE : 5 * RATE + 600] = hole[5 * RATE]
        rising = self.noise * np.linspace(0.5, 1.5, len(self.noise))
        for x, code in (
            (np.clip(12 * self.noise, -1, 1), "clipped"),
            (hole, "dropout"),
            (knock, "disturbed"),
            (voice, "speech"),
            (rising, "gain_moved"),
            (self.noise * 1e-3, "too_quiet"),
            (self.noise[: 3 * RATE], "short"),
            (np.zeros(RATE), "dropout"),
        ):
            with self.subTest(code=code):
                self.assertIn(code, self.codes(x))
        self.assertEqual(self.codes(self.noise), [])

    def test_a_deep_sine_is_no_hole_and_no_cut(self) -> None:
        x = np.round(sine(25, 10, 0.5) * 32767) / 32768
        self.assertEqual(self.codes(x), [])

    def test_what_was_disturbed_is_in_no_level(self) -> None:
        x = self.noise.copy()
        x[8 * RATE : 9 * RATE] *= 20
        self.assertAlmostEqual(clip(x).levels.eq, clip(self.noise).levels.eq, delta=0.15)


class HoleTest(SimpleTestCase):
    """A recording that was torn is of the machine where it is whole."""

    def setUp(self) -> None:
        self.noise = shaped(np.random.default_rng(11), 20, 1) + (0.2 * sine(500, 20)).astype(np.float32)
        self.whole = clip(self.noise)

    def alike(self, x: NDArray[np.floating], level_db: float = 0.15) -> None:
        found = clip(x.astype(np.float32))
        levels, whole = found.levels, self.whole.levels
        self.assertAlmostEqual(levels.eq, whole.eq, delta=level_db)
        self.assertAlmostEqual(levels.l90, whole.l90, delta=2 * level_db)
        self.assertAlmostEqual(levels.fast_min, whole.fast_min, delta=0.7)
        self.assertAlmostEqual(found.z_eq, self.whole.z_eq, delta=0.5)
        strong = max(level for _, level in self.whole.third_octaves) - 25  # under it the torn edges' own clicks are heard
        for (hz, here), (_, there) in zip(found.third_octaves, self.whole.third_octaves, strict=True):
            if there > strong:
                self.assertAlmostEqual(here, there, delta=1.5 if hz > 100 else 4, msg=str(hz))
        self.assertEqual([round(t.frequency_hz) for t in found.tones][:1], [500])
        self.assertEqual(found.beats, ())
        self.assertEqual({f.code for f in found.flags}, {"dropout"})
        self.assertGreater(found.left_out_s, 0)

    def test_two_seconds_that_did_not_come(self) -> None:
        for from_s in (0, 4, 17.5):
            x = self.noise.copy()
            x[int(from_s * RATE) : int((from_s + 2.5) * RATE)] = 0
            with self.subTest(from_s=from_s):
                self.alike(x)

    def test_many_short_ones_leave_no_stretch_whole(self) -> None:
        x = self.noise.copy()
        for at in range(0, len(x), RATE // 2):
            x[at : at + RATE // 20] = 0
        self.alike(x, 0.25)

    def test_torn_everywhere_it_counts_for_the_time_that_is_there(self) -> None:
        """Holes so near to each other that no tick of the level is whole; in white noise, whose parts torn edges cannot move far."""
        steady = shaped(np.random.default_rng(12), 20, 0)
        x = steady.copy()
        for at in range(0, len(x), RATE // 25):
            x[at : at + RATE // 100] = 0
        found, whole = clip(x), clip(steady)
        self.assertAlmostEqual(found.levels.eq, whole.levels.eq, delta=0.2)  # untouched it lacks 1.2
        self.assertAlmostEqual(found.z_eq, whole.z_eq, delta=0.2)

    def test_a_hole_at_the_very_start_is_in_no_spectrum(self) -> None:
        x = self.noise.copy()
        x[: RATE // 8] = 0
        heard, _ = hear([x[:, None]], RATE, 1)
        self.assertTrue(heard.still_groups[0])
        self.assertFalse(heard.still_groups[2:].any())
        self.assertAlmostEqual(clip(x).z_eq, self.whole.z_eq, delta=0.1)

    def test_a_quiet_file_s_own_steps_are_no_holes(self) -> None:
        x = np.round(self.noise * 3e-4 * 32768) / 32768
        found = clip(x.astype(np.float32))
        self.assertIn("too_quiet", [f.code for f in found.flags])
        self.assertEqual(found.left_out_s, 0)

    def test_one_dead_channel_is_said_and_is_not_nothing(self) -> None:
        both = np.column_stack([self.noise, np.zeros_like(self.noise)]).astype(np.float32)
        heard, flags = hear([both], RATE, 2)
        self.assertEqual([f.code for f in flags], ["dropout"])
        self.assertIn("1 of its 2 channels", flags[0].detail)
        self.assertAlmostEqual(analysed(heard, flags).levels.eq, self.whole.levels.eq - 3.01, delta=0.05)

    def test_when_it_was_loud_is_told_to_half_a_second(self) -> None:
        x = self.noise.copy()
        x[8 * RATE : 10 * RATE] *= 20
        (flag,) = (f for f in clip(x).flags if f.code == "disturbed")
        self.assertAlmostEqual(flag.from_s, 8.0, delta=0.5)
        self.assertAlmostEqual(flag.to_s, 10.0, delta=0.5)


class TiedTest(SimpleTestCase):
    def test_a_calibrator_ties_full_scale_to_a_level(self) -> None:
        heard, _ = hear([sine(1000, 8, 0.2)[:, None] + 1e-5], RATE, 1)
        offset = calibrator_offset_db(heard, 94.0)
        self.assertAlmostEqual(offset, 94 - 20 * np.log10(0.2 / np.sqrt(2)), delta=0.02)

    def test_what_is_no_calibrator_is_refused(self) -> None:
        moving = sine(1000, 8, 0.2) * np.linspace(0.7, 1.0, 8 * RATE)
        for x in (shaped(np.random.default_rng(1), 8, 0), sine(4000, 8), moving):
            heard, _ = hear([x.astype(np.float32)[:, None]], RATE, 1)
            with self.assertRaises(ImpossibleInputError):
                calibrator_offset_db(heard, 94.0)

    def test_a_reading_of_the_same_moment_is_the_clips_mean(self) -> None:
        heard, flags = hear([shaped(np.random.default_rng(2), 12, 1)[:, None]], RATE, 1)
        self.assertAlmostEqual(analysed(heard, flags, "meter", meter_offset_db(heard, 36.2)).levels.eq, 36.2, delta=1e-6)

    def test_loudness_is_the_librarys(self) -> None:
        # ISO 532-1: 1 kHz at 40 dB is one sone, ten decibels more about twice that (free field).
        offset = 40 - 20 * np.log10(0.1 / np.sqrt(2))
        one = loudness_sone(sine(1000, 3), RATE, offset)
        two = loudness_sone(sine(1000, 3, rate=44_100), 44_100, offset + 10)
        assert one is not None and two is not None
        self.assertAlmostEqual(one, 1.0, delta=0.15)
        self.assertAlmostEqual(two / one, 2.0, delta=0.25)
        self.assertIsNone(loudness_sone(sine(1000, 0.5), RATE, offset))


class RoomTest(SimpleTestCase):
    def test_correction_by_worked_examples(self) -> None:
        # ISO 3744: gap 6 dB 1.3 dB off, 10 dB 0.5 dB off, from 15 dB nothing; ISO 3746: 3 dB 3.0 dB off, below it a bound.
        for gap, off, bound in (
            (15.0, 0.0, False),
            (10.0, 0.46, False),
            (6.0, 1.26, False),
            (3.0, 3.02, False),
            (2.0, 3.0, True),
            (-1.0, 0.0, True),
        ):
            found = without_room(40.0, 40.0 - gap)
            with self.subTest(gap=gap):
                self.assertAlmostEqual(found.taken_off_db, off, delta=0.01)
                self.assertEqual(found.bound, bound)
                self.assertAlmostEqual(found.level_dba, 40 - off, delta=0.01)

    def test_sum_and_correction_undo_each_other(self) -> None:
        from engine.sound.levels import sum_levels_dba

        for machine in (31.0, 34.0, 38.0, 44.0):
            self.assertAlmostEqual(
                without_room(sum_levels_dba([machine, 27.0]), 27.0).level_dba, machine, delta=0.27 if machine > 41 else 1e-9
            )
