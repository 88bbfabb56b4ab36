"""The law of level and speed, bands to avoid, and the way to a level: against made-up fans whose law is known."""

import numpy as np
from django.test import SimpleTestCase

from engine.sound.sweep import WITHIN_DB, SpeedLevel, bad_bands, fitted, joined, next_speed, sweep_speeds


def truth(full: float, exponent: float, floor: float, pct: float) -> float:
    return float(10 * np.log10(10 ** ((full + exponent * np.log10(pct / 100)) / 10) + 10 ** (floor / 10)))


class LawTest(SimpleTestCase):
    def test_the_law_is_found_again_and_its_bands_hold(self) -> None:
        rng, held, far = np.random.default_rng(3), 0, 0
        for _ in range(200):
            full, exponent, floor = rng.uniform(36, 46), rng.normal(50, 5), rng.uniform(24, 29)
            readings = [SpeedLevel(p, truth(full, exponent, floor, p) + rng.normal(0, 0.35)) for p in sweep_speeds(30, 100, 8)]
            law = fitted(readings, floor + rng.normal(0, 0.8))
            off = [abs(float(law.level_dba(p)) - truth(full, exponent, floor, p)) for p in (45.0, 70.0, 95.0)]
            held += sum(o <= law.band_db(p) for o, p in zip(off, (45.0, 70.0, 95.0), strict=True))
            far += max(off) > 0.8
        self.assertGreater(held / 600, 0.93)
        self.assertLess(far, 6)

    def test_exact_readings_give_the_exact_law(self) -> None:
        readings = [SpeedLevel(p, truth(40, 50, 27, p)) for p in (30, 50, 70, 100)]
        law = fitted(readings, 27)
        self.assertAlmostEqual(float(law.level_dba(60.0)), truth(40, 50, 27, 60), delta=0.02)
        self.assertAlmostEqual(law.speed_pct(truth(40, 50, 27, 60)) or 0, 60, delta=0.3)
        self.assertIsNone(law.speed_pct(20))

    def test_without_anything_to_go_by_there_is_no_law(self) -> None:
        with self.assertRaises(ValueError):
            fitted([], 25)


class BandTest(SimpleTestCase):
    def test_a_resonance_is_marked_where_it_is_and_bends_no_law(self) -> None:
        rng = np.random.default_rng(5)
        for _ in range(40):
            middle = float(rng.choice(sweep_speeds(40, 90, 11)[1:-1]))
            readings = [
                SpeedLevel(p, truth(40, 50, 26, p) + rng.normal(0, 0.3) + 5 * np.exp(-(((p - middle) / 3) ** 2)))
                for p in sweep_speeds(30, 100, 15)
            ]
            (band,) = bad_bands(readings, fitted(readings, 26))
            self.assertTrue(band.from_pct <= middle <= band.to_pct)
            self.assertLess(band.to_pct - band.from_pct, 12)

    def test_none_where_nothing_sings(self) -> None:
        rng, marked = np.random.default_rng(6), 0
        for _ in range(200):
            readings = [SpeedLevel(p, truth(40, 50, 26, p) + rng.normal(0, 0.35)) for p in sweep_speeds(30, 100, 12)]
            marked += bool(bad_bands(readings, fitted(readings, 26)))
        self.assertLessEqual(marked, 4)

    def test_a_tone_and_a_swell_are_reasons_too(self) -> None:
        rows = [SpeedLevel(p, truth(40, 50, 26, p)) for p in (40, 50, 60, 70)]
        rows[1] = SpeedLevel(50, rows[1].level_dba, tone_db=19.0, tone_hz=150.0)
        rows[3] = SpeedLevel(70, rows[3].level_dba, beat_db=3.0)
        found = bad_bands(rows, fitted(rows, 26))
        self.assertEqual([(b.from_pct, b.to_pct) for b in found], [(45.0, 55.0), (65.0, 70.0)])
        self.assertIn("150 Hz", found[0].why)

    def test_bands_that_touch_are_one(self) -> None:
        self.assertEqual(joined([(60, 70), (40, 50), (50, 55)]), [(40, 55), (60, 70)])


class WayTest(SimpleTestCase):
    def walk(
        self, full: float, exponent: float, floor: float, target: float, rng: np.random.Generator, **more: object
    ) -> tuple[int, float | None, bool]:
        readings: list[SpeedLevel] = []
        while True:
            found = next_speed(readings, target, floor + rng.normal(0, 0.3), **more)  # type: ignore[arg-type]  # of a test
            if found.speed_pct is None:
                return len(readings), found.found_pct, found.within
            level = truth(full, exponent, floor, found.speed_pct) + rng.normal(0, 0.15)
            readings.append(SpeedLevel(found.speed_pct, round(level, 1)))

    def test_within_half_a_decibel_in_few_readings(self) -> None:
        rng, counts = np.random.default_rng(9), []
        for _ in range(300):
            full, exponent, floor = rng.uniform(38, 46), rng.normal(50, 6), rng.uniform(24, 28)
            low, high = truth(full, exponent, floor, 30), truth(full, exponent, floor, 98)
            target = rng.uniform(low + 1, high - 0.5)
            count, found, within = self.walk(full, exponent, floor, target, rng, full_dba=full + rng.normal(0, 2.5))
            self.assertTrue(within)
            assert found is not None
            self.assertLess(abs(truth(full, exponent, floor, found) - target), WITHIN_DB + 0.5)
            counts.append(count)
        self.assertLessEqual(max(counts), 6)
        self.assertLess(np.mean(counts), 3.0)

    def test_a_level_under_the_rest_cannot_be_met_and_is_said_so(self) -> None:
        count, found, within = self.walk(42, 50, 30, 29.0, np.random.default_rng(1), full_dba=42.0)
        self.assertEqual((found, within), (None, False))
        self.assertLessEqual(count, 3)

    def test_bands_and_limits_are_kept(self) -> None:
        rng = np.random.default_rng(2)
        target = truth(42, 50, 26, 60)
        _, found, within = self.walk(42, 50, 26, target, rng, full_dba=42.0, avoid_pct=[(52.0, 68.0)])
        self.assertFalse(within)
        self.assertAlmostEqual(found or 0, 52.0, delta=1.0)
        _, found, within = self.walk(42, 50, 26, truth(42, 50, 26, 95), rng, full_dba=42.0, high_pct=80.0)
        self.assertEqual((found, within), (80.0, False))
