"""Exchangers against the ht library, levels against textbook values."""

from math import log10

from django.test import SimpleTestCase
from ht import effectiveness_from_NTU

from desk.forecast.document import Oracle, Question
from documents.job.reader import check_job
from engine.heat.exchangers import card_resistance_k_w, effectiveness, finned_ua_w_k, radiator_ua_w_k
from engine.sound.levels import at_listener_dba, speed_change_db, sum_levels_dba, through_panels_db
from tests.machines import demo_raw, layout_raw


class ExchangersTest(SimpleTestCase):
    def test_effectiveness_against_ht(self) -> None:
        # Source: ht library, one stream of constant temperature (Cr = 0).
        for ua, capacity in ((10.6, 16.0), (3.0, 30.0), (40.0, 8.0)):
            expected = effectiveness_from_NTU(NTU=ua / capacity, Cr=0, subtype="counterflow")
            self.assertAlmostEqual(effectiveness(ua, capacity), expected, places=12)

    def test_no_flow_leaves_at_the_hot_side(self) -> None:
        self.assertEqual(effectiveness(5.0, 0.0), 1.0)

    def test_radiator_reference_and_scaling(self) -> None:
        self.assertAlmostEqual(radiator_ua_w_k(10.0, 144, 27, 50), 10.0)
        self.assertAlmostEqual(radiator_ua_w_k(10.0, 288, 27, 100), 20.0)  # two sections, same face velocity
        self.assertAlmostEqual(radiator_ua_w_k(10.0, 144, 54, 50) / 10, 2**0.7)
        self.assertAlmostEqual(radiator_ua_w_k(10.0, 144, 27, 25) / 10, 0.5**0.45)

    def test_card_and_tower_at_their_reference(self) -> None:
        self.assertAlmostEqual(card_resistance_k_w(0.2, 55, 55, 0.45), 0.2)
        self.assertGreater(card_resistance_k_w(0.2, 30, 55, 0.45), 0.2)
        self.assertAlmostEqual(finned_ua_w_k(11, 50, 50), 11)

    def test_free_convection_bounds_a_stopped_fan(self) -> None:
        self.assertEqual(card_resistance_k_w(0.2, 0.0, 55, 0.45), card_resistance_k_w(0.2, 0.01 * 55, 55, 0.45))


class LevelsTest(SimpleTestCase):
    def test_textbook_sums(self) -> None:
        # Source: any acoustics textbook: two equal sources +3.01 dB, ten equal +10 dB.
        self.assertAlmostEqual(sum_levels_dba([30, 30]), 33.01, delta=0.005)
        self.assertAlmostEqual(sum_levels_dba([20] * 10), 30.0, places=9)
        self.assertAlmostEqual(sum_levels_dba([40, 30]), 40.41, delta=0.005)

    def test_speed_and_distance(self) -> None:
        # Sound power ~ speed^5: half the speed is 15.05 dB less; half the distance is 6.02 dB more.
        self.assertAlmostEqual(speed_change_db(0.5), 50 * log10(0.5))
        near, far = (at_listener_dba(30, 1, "front", "front", 0, d) for d in (0.5, 1.0))
        self.assertAlmostEqual(near - far, 6.0206, places=3)

    def test_a_top_fan_is_louder_than_the_same_fan_in_front(self) -> None:
        # Common practice, no source.
        self.assertGreater(at_listener_dba(30, 1, "top", "front", 1, 0.7), at_listener_dba(30, 1, "front", "front", 1, 0.7))

    def test_panels_and_what_sounds_behind_them(self) -> None:
        usual = {"front": (1.0, 1.0), "top": (0.9, 6.0), "window": (2.0, 6.0), "rear": (1.0, 6.0), "bottom": (0.9, 6.0)}
        for side in ("front", "window", "rear", "above"):
            self.assertAlmostEqual(through_panels_db(usual, side), 0.0, places=9, msg="a mesh front, all else closed")
            before = 0.0
            for face in ("window", "top", "rear", "bottom", "front"):  # each face that opens lets more out
                usual_now = {f: (a, 0.0 if f == face else loss) for f, (a, loss) in usual.items()}
                self.assertGreater(through_panels_db(usual_now, side), before, (side, face))
        # All closed by the same loss: exactly that loss less than all open (energies scale alike).
        shut, wide = ({f: (a, loss) for f, (a, _) in usual.items()} for loss in (6.0, 0.0))
        self.assertAlmostEqual(through_panels_db(wide, "front") - through_panels_db(shut, "front"), 6.0, places=9)

    def test_the_window_off_is_heard(self) -> None:
        """Also by somebody in front, more by somebody beside the window; a glass top without a fan counts as well."""
        for side in ("front", "window"):
            heard = {}
            for panels in ("fitted", "window off", "top off"):
                raw = demo_raw()
                raw["room"]["listener_side"] = side
                if panels != "fitted":
                    layout_raw(raw, "A")["panels"] = {panels.split()[0]: {"state": "removed"}}
                heard[panels] = Oracle(check_job(raw).doc, Question(layouts=["A"])).forecast("A").sound.level_dba
            self.assertGreater(heard["window off"], heard["fitted"] + 0.2, side)
            self.assertGreater(heard["top off"], heard["fitted"], side)

    def test_a_stopped_fan_adds_nothing(self) -> None:
        self.assertAlmostEqual(sum_levels_dba([28, speed_change_db(0)]), 28)
