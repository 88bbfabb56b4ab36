"""Gates and terms that nothing else would miss: each of these fails when its line is taken out or a factor dropped."""

from dataclasses import replace
from math import hypot

import numpy as np
from django.test import SimpleTestCase

from engine import constants as k
from engine.coupled.bands import absolute_band_k, least_apart_k
from engine.coupled.batch import FIGURES
from engine.coupled.links import CARD_OUTLET_CM2, build_links
from engine.coupled.operating_point import operating_point
from engine.coupled.spaces import Spaces
from engine.parameters import DEFAULT, INDEX, PARAMETERS
from engine.runs.settle import MOST_REMAINING_K, MOST_SLOPE_K_MIN, Approach, approach, longest
from engine.runs.trend import Trend
from engine.runs.wait import NO_WAIT, Wait
from tests.machines import demo_raw, machine

NO_TREND = Trend(0.0, 1.0, 0.0)


class SettledGatesTest(SimpleTestCase):
    def ends(self, slope_k_min: float, bound_k: float = 0.01, trend: Trend = NO_TREND) -> Approach:
        return Approach(50.0, 0.1, 0.0, bound_k, slope_k_min, trend, NO_WAIT, 1200.0)

    def test_each_gate_closes_by_itself(self) -> None:
        self.assertTrue(self.ends(0.0).settled)
        self.assertTrue(self.ends(0.9 * MOST_SLOPE_K_MIN).settled)
        for slope in (1.1 * MOST_SLOPE_K_MIN, -1.1 * MOST_SLOPE_K_MIN):
            self.assertFalse(self.ends(slope).settled)
        self.assertFalse(self.ends(0.0, 1.1 * MOST_REMAINING_K).settled)
        self.assertFalse(self.ends(0.0, trend=Trend(100.0, 1e-6, 2 * MOST_SLOPE_K_MIN)).settled)
        self.assertEqual(replace(self.ends(0.0), leaves_k=1.0).why_not, "trend")

    def test_a_wait_is_one_number_only_where_it_is_known_so_well(self) -> None:
        def words(least: float, about: float, most: float, lasted: float = 20.0, slope: float = 0.0) -> str:
            wait = Wait(60 * least, 60 * about, 60 * most)
            return Approach(50.0, 0.1, 3.0, 3.4 if most else 0.1, slope, NO_TREND, wait, 60 * lasted).more

        self.assertEqual(words(8, 11, 17.9), "about 11 min more")
        self.assertEqual(words(8, 11, 18.1), "8 to 18 min more")
        self.assertEqual(words(21, 24, 40), "21 to 40 min more", "it would be longer than what was seen")
        self.assertEqual(words(21, 24, 40, lasted=25), "about 24 min more")
        self.assertEqual(words(0.8, 1.0, 1.6), "up to 2 min more")
        self.assertEqual(words(6, 30, 120), "at least 6 min more")
        self.assertEqual(words(0.5, 30, 120), "too early to say")
        self.assertEqual(words(0, 0, 0), "")
        self.assertEqual(words(0, 0, 0, slope=0.2), "nearly there")
        drifting = Approach(50.0, 0.1, 0.1, 0.1, 0.0, Trend(100.0, 1e-6, 2 * MOST_SLOPE_K_MIN), NO_WAIT, 1200.0)
        self.assertEqual((drifting.more, longest([drifting]), longest([])), ("still moves", "still moves", ""))

    def test_one_step_of_a_calm_sensor_is_no_slope(self) -> None:
        """30 K with 400 s, read in whole degrees, cut soon after the last step of the sensor: 0.4 K are left there."""
        t = np.arange(0.0, 1700.0)
        truth = 50.3 - 30 * np.exp(-t / 400)
        fit = approach(t, np.round(truth))
        assert fit is not None
        by_hand = float(np.polyfit(t[1275:], np.round(truth)[1275:], 1)[0]) * 60
        true_k_min = 30 * np.exp(-1490 / 400) / 400 * 60
        self.assertGreater(by_hand, MOST_SLOPE_K_MIN)
        self.assertLess(abs(fit.slope_k_min - true_k_min), abs(by_hand - true_k_min))
        self.assertNotEqual(fit.why_not, "slope")

    def test_a_step_in_the_last_minutes_is_seen_whatever_the_sensor(self) -> None:
        """40 min of 30 K with 250 s, then 2 K less in a second (a fan that was turned up): no trend finds that, a median goes by most."""
        t = np.arange(2400.0)
        came = 60 - 30 * np.exp(-t / 250)
        for noise_k, step_k in ((0.05, 1.0), (0.15, 1.0), (0.25, 1.0), (0.5, 1.0), (0.3, 0.1), (1.0, 0.1)):
            noise = np.random.default_rng(4).normal(0, noise_k, len(t))
            calm = approach(t, np.round((came + noise) / step_k) * step_k)
            assert calm is not None
            self.assertTrue(calm.settled, (noise_k, step_k, calm.why_not))
            for ago_s in (90, 120, 180, 300):
                fell = approach(t, np.round((came - 2 * (t > t[-1] - ago_s) + noise) / step_k) * step_k)
                assert fell is not None
                self.assertFalse(fell.settled, (noise_k, step_k, ago_s))
                self.assertLess(abs(fell.final - 58.0), fell.final_band, "the end it was going to is no longer the end")

    def test_the_slope_is_in_kelvin_a_minute(self) -> None:
        elapsed = np.arange(0.0, 1800.0, 2.0)
        fit = approach(elapsed, 40.0 + 0.06 * elapsed / 60)
        assert fit is not None
        self.assertAlmostEqual(fit.slope_k_min, 0.06, places=4)


class BandsTest(SimpleTestCase):
    def test_an_absolute_band_holds_spread_model_and_share_of_the_rise(self) -> None:
        point = operating_point(machine())
        spread = float(np.linalg.norm(point.sensitivity_k[FIGURES.index("cpu")]))
        for rise in (0.0, 20.0, 60.0):
            by_hand = 2 * hypot(spread, k.BAND_MODEL_K, k.BAND_ABSOLUTE_SHARE * rise)
            self.assertAlmostEqual(absolute_band_k(point, "cpu", rise), by_hand / 2 * k.COVERAGE_FACTOR)
        self.assertGreater(absolute_band_k(point, "cpu", 60.0), absolute_band_k(point, "cpu", 0.0) + 0.5)
        self.assertGreaterEqual(absolute_band_k(point, "cpu", 0.0), least_apart_k())


class PathsTest(SimpleTestCase):
    def test_air_through_a_filter_before_a_shared_space_counts_as_filtered(self) -> None:
        raw = demo_raw()
        front = next(p for p in raw["case"]["panels"] if p["face"] == "front")
        front |= {"kind": "solid", "gap_area_cm2": 120, "turns_90": 1, "filter": "fine"}
        front.pop("open_area_pct", None)
        for filtered, kind in ((True, "fine"), (False, "none")):
            front["filter"] = kind
            m = machine(raw)
            (way,) = [x for x in build_links(m, Spaces.of(m)) if x.id == "panel:front"]
            self.assertEqual(way.filtered, filtered)

    def test_a_card_s_outlets_have_the_fitted_areas(self) -> None:
        fitted = [DEFAULT[INDEX[f"card_{way}_cm2"]] for way in ("up", "low", "bracket")]
        self.assertEqual(list(CARD_OUTLET_CM2), fitted)
        priors = {p.name: p.prior for p in PARAMETERS}
        self.assertNotEqual(fitted[0], priors["card_up_cm2"], "a prior where a fitted value exists")
        m = machine()
        links = {x.id: x for x in build_links(m, Spaces.of(m))}
        self.assertAlmostEqual(links["card:bracket"].area_m2 * 1e4, CARD_OUTLET_CM2[2])
        assert m.card
        up = sum(x.area_m2 for name, x in links.items() if name.startswith("card:up_")) * 1e4
        self.assertAlmostEqual(up, CARD_OUTLET_CM2[0] * m.card.length_mm / k.CARD_REFERENCE_LENGTH_MM, places=6)
