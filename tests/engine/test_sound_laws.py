"""What a clip's figures must not depend on, and tones beside an open library's of the same procedures."""

import numpy as np
from django.test import SimpleTestCase
from mosqito.sq_metrics import pr_ecma_st, tnr_ecma_st
from numpy.typing import NDArray

from engine.sound.clip import ClipAnalysis, analysed, hear
from engine.sound.listening import MOST_GROUPS
from engine.sound.tones import critical_band_hz
from tests.engine.test_sound_clips import RATE, clip, shaped, sine

Doubles = NDArray[np.float64]


def in_noise(seed: int, seconds: float, *tones: tuple[float, float]) -> Doubles:
    """Tones (Hz, dB over the noise of their critical band) in white noise of a tenth of a thousandth of full scale per root hertz."""
    density = 1e-8
    x = np.random.default_rng(seed).normal(0, np.sqrt(density * RATE / 2), int(seconds * RATE))
    for hz, ratio in tones:
        x = x + sine(hz, seconds, float(np.sqrt(2 * density * critical_band_hz(hz) * 10 ** (ratio / 10))))
    return x


def singing(seed: int = 4, seconds: float = 14.0) -> NDArray[np.float32]:
    """A machine: shaped noise, two lines, and a slow swell."""
    t = np.arange(int(seconds * RATE)) / RATE
    x = shaped(np.random.default_rng(seed), seconds, 1) * np.sqrt(1 + 0.4 * np.cos(2 * np.pi * 0.5 * t))
    return np.asarray(x + sine(310, seconds, 0.02) + sine(1480, seconds, 0.004), dtype=np.float32)


def in_blocks(x: NDArray[np.float32], size: int) -> ClipAnalysis:
    columns = x[:, None]
    heard, flags = hear((columns[i : i + size] for i in range(0, len(x), size)), RATE, 1)
    return analysed(heard, flags)


class LibraryTest(SimpleTestCase):
    """mosqito, an open library of sound quality: tone-to-noise and prominence ratio after ECMA-74 (now ECMA-418-1)."""

    def agree(self, seed: int, hz: float, ratio: float, seconds: float = 10.0) -> None:
        x = in_noise(seed, seconds, (hz, ratio))
        (ours,) = [t for t in clip(x.astype(np.float32)).tones if abs(t.frequency_hz - hz) < 1]
        _, tnr, _, at = tnr_ecma_st(x, RATE, prominence=False)
        self.assertAlmostEqual(ours.tone_to_noise_db, nearest(at, tnr, hz), delta=0.4)
        _, pr, _, at = pr_ecma_st(x, RATE, prominence=False)
        assert ours.prominence_db is not None
        self.assertAlmostEqual(ours.prominence_db, nearest(at, pr, hz), delta=0.5)

    def test_one_tone_is_the_librarys(self) -> None:
        self.agree(2, 1000.0, 12.0)

    def test_many_tones_are_the_librarys(self) -> None:
        # Of 20 s: in shorter clips the library loses some of a tone between two of its bins. From 500 Hz: under it the library
        # misses a known ratio by 7 dB; there ours is held by signals of a known ratio.
        for seed, (hz, ratio) in enumerate(((630.0, 18.0), (814.3, 9.0), (1480.0, 13.0), (2000.0, 9.0), (3150.0, 10.0))):
            with self.subTest(hz=hz):
                self.agree(seed, hz, ratio, 20)


def nearest(at: Doubles, values: Doubles, hz: float) -> float:
    return float(np.asarray(values)[np.argmin(np.abs(np.asarray(at) - hz))])


class LawsTest(SimpleTestCase):
    def setUp(self) -> None:
        self.x = singing()
        self.as_is = clip(self.x)

    def same(self, found: ClipAnalysis, louder_db: float = 0.0) -> None:
        was = self.as_is
        for one, other in zip((found.levels.eq, found.levels.l10, found.levels.l90, found.z_eq), levels(was), strict=True):
            self.assertAlmostEqual(one - other, louder_db, delta=0.06)
        self.assertEqual([round(t.frequency_hz) for t in found.tones], [round(t.frequency_hz) for t in was.tones])
        for a, b in zip(found.tones, was.tones, strict=True):
            self.assertAlmostEqual(a.tone_to_noise_db, b.tone_to_noise_db, delta=0.1)
            self.assertAlmostEqual(a.level_db - b.level_db, louder_db, delta=0.1)
        self.assertEqual([f for f, _ in found.third_octaves], [f for f, _ in was.third_octaves])
        moved = [x - y for (_, x), (_, y) in zip(found.third_octaves, was.third_octaves, strict=True)]
        np.testing.assert_allclose(moved, louder_db, atol=0.15)
        self.assertEqual([round(b.frequency_hz, 1) for b in found.beats], [round(b.frequency_hz, 1) for b in was.beats])
        self.assertEqual(found.flags, was.flags)

    def test_both_lines_and_the_swell_are_there(self) -> None:
        self.assertEqual({round(t.frequency_hz) for t in self.as_is.tones}, {310, 1480})
        self.assertEqual([round(b.frequency_hz, 1) for b in self.as_is.beats], [0.5])

    def test_louder_by_a_gain_is_louder_by_that_and_nothing_else(self) -> None:
        for gain_db in (-12.0, 6.0):
            with self.subTest(gain_db=gain_db):
                self.same(clip(np.asarray(self.x * 10 ** (gain_db / 20), dtype=np.float32)), gain_db)

    def test_how_the_file_is_read_changes_nothing(self) -> None:
        for size in (RATE, 65_536, 10_007):
            with self.subTest(size=size):
                self.same(in_blocks(self.x, size))

    def test_upside_down_and_twice_the_channel_are_the_same(self) -> None:
        self.same(clip(-self.x))
        self.same(clip(self.x, self.x))

    def test_channels_may_change_places(self) -> None:
        other = shaped(np.random.default_rng(9), 14.0, 2)
        one, two = clip(self.x, other), clip(other, self.x)
        self.assertEqual(levels(one), levels(two))
        self.assertEqual(one.tones, two.tones)

    def test_backwards_is_as_loud_and_has_the_same_lines(self) -> None:
        back = clip(self.x[::-1].copy())
        self.assertAlmostEqual(back.z_eq, self.as_is.z_eq, delta=0.1)  # another part of the swell ends the last stretch
        self.assertEqual({round(t.frequency_hz) for t in back.tones}, {310, 1480})

    def test_a_level_added_to_all_moves_what_is_a_level_only(self) -> None:
        heard, flags = hear([self.x[:, None]], RATE, 1)
        at = analysed(heard, flags, "meter", 80.0)
        self.same(at, 80.0)

    def test_thirds_add_up_to_the_whole(self) -> None:
        found = clip(sum((sine(hz, 10, 0.05) for hz in (60.0, 450.0, 3300.0)), start=sine(9000.0, 10, 0.05)))
        whole = 10 * np.log10(sum(10 ** (v / 10) for _, v in found.third_octaves))
        self.assertAlmostEqual(whole, found.z_eq, delta=0.02)
        self.assertAlmostEqual(whole, 10 * np.log10(4 * 0.05**2 / 2), delta=0.02)

    def test_draughts_under_ten_hertz_are_in_no_level(self) -> None:
        with_draught = clip(self.x + sine(3.0, 14.0, 0.3))
        self.assertAlmostEqual(with_draught.z_eq, self.as_is.z_eq, delta=0.1)
        self.assertAlmostEqual(with_draught.levels.eq, self.as_is.levels.eq, delta=0.05)

    def test_a_knock_is_in_no_octave_and_hides_no_tone(self) -> None:
        knocked = self.x.copy()
        rng = np.random.default_rng(8)
        for at in (3.0, 9.5):
            a = int(at * RATE)
            knocked[a : a + RATE // 5] += rng.normal(0, 0.25, RATE // 5).astype(np.float32)
        found = clip(knocked)
        self.assertEqual([f.code for f in found.flags], ["disturbed", "disturbed"])
        self.assertGreater(found.left_out_s, 0.3)
        for (hz, one), (_, other) in zip(found.third_octaves, self.as_is.third_octaves, strict=True):
            if hz > 60:  # the few seconds that are left scatter by more below
                self.assertAlmostEqual(one, other, delta=1.2)
        self.assertEqual({round(t.frequency_hz) for t in found.tones}, {310, 1480})
        self.assertAlmostEqual(found.z_eq, self.as_is.z_eq, delta=0.5)

    def test_of_a_long_clip_only_what_is_near_a_knock_goes(self) -> None:
        """Twenty minutes: more stretches than are kept apart."""
        rate, rng = 8000, np.random.default_rng(3)
        blocks = [rng.normal(0, 0.02, 60 * rate).astype(np.float32) for _ in range(20)]
        plain = hear([b[:, None] for b in blocks], rate, 1)
        blocks[7][:rate] *= 30
        knocked = hear([b[:, None] for b in blocks], rate, 1)
        self.assertEqual(len(knocked[0].groups), len(plain[0].groups))
        self.assertLessEqual(len(plain[0].groups), MOST_GROUPS)
        one, two = (analysed(*x) for x in (plain, knocked))
        np.testing.assert_allclose([v for _, v in one.third_octaves], [v for _, v in two.third_octaves], atol=0.2)
        self.assertAlmostEqual(one.z_eq, two.z_eq, delta=0.02)

    def test_more_noise_never_lifts_a_tone_out_of_it(self) -> None:
        heights = []
        for more in (0.0, 3.0, 6.0, 9.0):
            found = clip(in_noise(3, 12, (1000.0, 15.0 - more)).astype(np.float32)).tones
            heights.append(found[0].tone_to_noise_db)
        self.assertEqual(heights, sorted(heights, reverse=True))
        np.testing.assert_allclose(np.diff(heights), -3.0, atol=0.5)

    def test_two_tones_of_one_band_are_both_told_and_neither_is_the_others_noise(self) -> None:
        found = clip(in_noise(6, 15, (1000.0, 14.0), (1050.0, 14.0)).astype(np.float32)).tones
        self.assertEqual({round(t.frequency_hz) for t in found[:2]}, {1000, 1050})
        for tone in found[:2]:
            self.assertAlmostEqual(tone.tone_to_noise_db, 14.0, delta=1.0)


def levels(found: ClipAnalysis) -> tuple[float, float, float, float]:
    return found.levels.eq, found.levels.l10, found.levels.l90, found.z_eq
