"""Sentences in the trade's units: each number by its definition, names of sizes left alone, nothing else touched."""

from django.test import SimpleTestCase

from desk.words.measures import said
from tests.machines import ROOT

# Metric, and the same for a reader of inches and °F, worked out by hand (NIST SP 811: 1 in = 25.4 mm, 1 CFM = 1.699011 m³/h).
CASES = (
    ("It would be 10 K cooler, and 0.5 K at the card.", "It would be 18.0 °F cooler, and 0.9 °F at the card."),
    ("−10.4 K, +0.2 dB", "−18.7 °F, +0.2 dB"),
    ("12 ± 3 K over room", "21.6 ± 5.4 °F over room"),
    ("±12 K", "±21.6 °F"),
    ("57.5 ± 0.5 °C", "135.5 ± 0.9 °F"),
    ("Coolant above 60 °C softens plastic.", "Coolant above 140 °F softens plastic."),
    ("From −5 °C to 0 °C", "From 23 °F to 32 °F"),
    ("340 of 500 mm", "13.39 of 19.69 in"),
    ("25 to 30 mm thick", "0.98 to 1.18 in thick"),
    ("240 mm radiator, 27 mm", "240 mm radiator, 1.06 in"),
    ("3 × 120 mm", "3 × 120 mm"),
    ("85 m³/h at 9.8 Pa", "50 CFM at 1.00 mmH₂O"),
    ("45 cm² open", "7.0 in² open"),
    ("0.05 K/W stays, as do 3 mm² of wire and 5 mmol", "0.05 K/W stays, as do 3 mm² of wire and 5 mmol"),
    ("about 1100 rpm, 55 %, 34 dBA, 0.7 m, 30 min", "about 1100 rpm, 55 %, 34 dBA, 0.7 m, 30 min"),
    ("F2 Knots", "F2 Knots"),
)


class SaidTest(SimpleTestCase):
    def test_sentences_by_hand(self) -> None:
        for metric, trade in CASES:
            with self.subTest(metric):
                self.assertEqual(said(metric, "trade"), trade)
                self.assertEqual(said(metric, "metric"), metric)

    def test_the_screen_is_tried_with_the_same_sentences(self) -> None:
        text = (ROOT / "frontend" / "tests" / "said.test.ts").read_text(encoding="utf-8")
        for metric, trade in CASES:
            self.assertIn(f'["{metric}", "{trade}"]', text)
