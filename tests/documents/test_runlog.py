"""Logs as unlike loggers write them, against the truth behind them."""

import numpy as np
from django.test import SimpleTestCase

from documents.runlog.mapping import guess_channel, unit_of
from documents.runlog.reader import ImportedLog, decode, read_log
from engine.errors import UnreadableLogError
from engine.runs.analysis import RunAnalysis, analyse
from engine.verdict.candidate import Candidate
from engine.verdict.compare import compare
from tests.machines import LOGS

TRUTH = {"a": (44.4, 41.3), "b": (41.1, 41.05)}


def read(name: str) -> ImportedLog:
    return read_log((LOGS / name).read_bytes())


def analysed(name: str) -> RunAnalysis:
    return analyse(read(name).log)


def csv_of(rows: list[str], header: str = "elapsed_s,cpu_package_c,room_c") -> bytes:
    return "\n".join([header, *rows]).encode()


ROWS = [f"{i},{20 + i % 7},21.5" for i in range(60)]


class SamplesTest(SimpleTestCase):
    def test_settled_runs_give_the_truth(self) -> None:
        for name in ("heron-a-1.csv", "heron-a-2.csv", "heron-b-1.tsv", "heron-b-2.csv"):
            with self.subTest(file=name):
                run = analysed(name)
                self.assertTrue(run.settled)
                cpu, card = run.channel("cpu_package_c"), run.channel("card_core_c")
                assert cpu and card and cpu.rise_k and card.rise_k
                expected = TRUTH[name[6]]
                self.assertAlmostEqual(cpu.rise_k, expected[0], delta=0.5)
                self.assertAlmostEqual(card.rise_k, expected[1], delta=0.5)

    def test_the_short_run_is_not_called_settled(self) -> None:
        run = analysed("heron-a-short.csv")
        self.assertFalse(run.settled)
        self.assertIsNone(run.settled_at_s)
        self.assertIn("too_short", [f.code for f in run.flags])

    def test_the_limited_run_is_flagged(self) -> None:
        codes = {f.code for f in analysed("heron-c-limited.csv").flags}
        self.assertLessEqual({"room_missing", "throttled"}, codes)

    def test_b_is_better_for_the_processor_and_the_card_is_never_judged_apart(self) -> None:
        one = compare([Candidate("A", [analysed("heron-a-1.csv")]), Candidate("B", [analysed("heron-b-1.tsv")])])
        words = {p.channel: (p.word, p.difference_k) for p in one}
        self.assertEqual(words["cpu_package_c"][0], "better")
        self.assertTrue(-4 <= (words["cpu_package_c"][1] or 0) <= -3)
        self.assertEqual(words["card_core_c"][0], "cannot_tell")
        both = [Candidate(x.upper(), [analysed(f"heron-{x}-1.{'csv' if x == 'a' else 'tsv'}"), analysed(f"heron-{x}-2.csv")]) for x in "ab"]
        self.assertNotIn(next(p.word for p in compare(both) if p.channel == "card_core_c"), ("better", "worse"))

    def test_the_limited_run_is_compared_by_power_only(self) -> None:
        pairs = compare([Candidate("A", [analysed("heron-a-1.csv")]), Candidate("C", [analysed("heron-c-limited.csv")])])
        words = {p.channel: p.word for p in pairs}
        self.assertEqual(words["cpu_package_c"], "cannot_tell")
        self.assertEqual(words["cpu_power_w"], "worse")

    def test_oddities_are_noted_or_asked(self) -> None:
        self.assertIn("set back", " ".join(read("heron-a-2.csv").notes))
        self.assertIn("Graphics B", " ".join(read("heron-a-short.csv").questions))
        self.assertIn("passed over", " ".join(read("heron-b-2.csv").notes))
        self.assertAlmostEqual(read("heron-a-2.csv").log.duration_s, 35 * 60, delta=5)

    def test_fahrenheit_is_turned(self) -> None:
        log = read("heron-b-1.tsv").log
        self.assertAlmostEqual(log.channels["cpu_package_c"][0], (69 - 32) / 1.8)
        self.assertAlmostEqual(log.channels["room_c"][0], (69.1 - 32) / 1.8)


class ReaderTest(SimpleTestCase):
    def test_a_mapping_overrides_the_guess(self) -> None:
        found = read_log(csv_of(ROWS, "elapsed_s,sensor 9 (C),room_c"), {"sensor 9 (C)": "vrm_c"})
        self.assertIn("vrm_c", found.log.channels)
        left_out = read_log(csv_of(ROWS), {"room_c": None})
        self.assertIsNone(left_out.log.room_c)

    def test_empty_cells_become_gaps(self) -> None:
        rows = [*ROWS[:30], "30,,21.5", "31,N/A,21.5", *ROWS[32:]]
        self.assertEqual(int(np.isnan(read_log(csv_of(rows)).log.channels["cpu_package_c"]).sum()), 2)

    def test_repeated_times_are_passed_over_and_said(self) -> None:
        found = read_log(csv_of([*ROWS, ROWS[-1]]))
        self.assertEqual(len(found.log.elapsed_s), 60)
        self.assertIn("repeated time", " ".join(found.notes))

    def test_bad_files_are_refused_with_a_remedy(self) -> None:
        bad = {
            "few lines": b"a,b\n1,2\n",
            "no numbers": b"\n".join([b"word,word"] * 40),
            "no times": csv_of(ROWS, "reading,cpu_package_c,room_c"),
            "no temperature": csv_of(ROWS, "elapsed_s,apples,pears"),
            "not text": bytes(range(256)) * 20,
            "one column": b"\n".join([b"12"] * 40),
            "bad dates": csv_of([f"2026-13-{i % 28 + 1:02d} 10:00:00,20,21" for i in range(40)], "time,cpu_package_c,room_c"),
        }
        for words, data in bad.items():
            with self.subTest(words), self.assertRaises(UnreadableLogError) as caught:
                read_log(data)
            self.assertTrue(caught.exception.do)

    def test_encodings(self) -> None:
        self.assertEqual(decode("°C".encode("utf-16")), "°C")
        self.assertEqual(decode("°C".encode("utf-8-sig")), "°C")
        self.assertIn("°C", decode(("Raum [°C];" * 50).encode("latin-1")))

    def test_units_and_names(self) -> None:
        cases = {
            "CPU [°C]": "cpu_package_c",
            "Karte [°C]": "card_core_c",
            "Raum [°C]": "room_c",
            "GPU hot spot (C)": "card_hotspot_c",
            "Water (°C)": "coolant_c",
            "Core three (°C)": "cpu_core_3_c",
            "Processor power (W)": "cpu_power_w",
            "Fan 1 (RPM)": "fan_1_rpm",
            "Level dB(A)": "sound_dba",
            "room_f": "room_c",
            "apples": None,
        }
        for heading, expected in cases.items():
            with self.subTest(heading):
                self.assertEqual(guess_channel(heading, unit_of(heading)), expected)
