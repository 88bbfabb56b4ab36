"""The stand-in bench: seeded, never the forecast replayed, and its planted faults are what the analysis finds."""

import json
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from django.test import SimpleTestCase

from documents.runlog.reader import read_log
from documents.runlog.writer import write_log
from engine.coupled.operating_point import operating_point
from engine.coupled.transient import Profile
from engine.errors import ImpossibleInputError
from engine.runs.analysis import analyse
from engine.runs.flags import run_flags
from engine.runs.series import RunLog
from engine.runs.window import tail
from instruments.standin import FAULTS, Fault, difficult_day, simulate
from tests.machines import DEMO, ROOT, machine

MINUTES = 40


def codes(log: RunLog) -> set[str]:
    return {f.code for f in run_flags(log, True, tail(log))}


class StandInTest(SimpleTestCase):
    def test_the_same_seed_gives_the_same_readings_and_another_does_not(self) -> None:
        one, same, other = (simulate(machine(), 10, seed, 2.0) for seed in (7, 7, 8))
        for name in one.channels:
            np.testing.assert_array_equal(one.channels[name], same.channels[name])
        self.assertTrue(np.any(one.channels["card_core_c"] != other.channels["card_core_c"]))

    def test_the_truth_is_not_the_forecast_and_not_far_from_it(self) -> None:
        forecast = operating_point(machine()).cpu_rise_k
        ends = []
        for seed in range(12):
            log = simulate(machine(), MINUTES, seed, 5.0)
            ends.append(float(np.mean(log.channels["cpu_package_c"][-40:] - log.channels["room_c"][-40:])) - forecast)
        self.assertGreater(float(np.std(ends)), 0.4)
        self.assertGreater(float(np.abs(ends).mean()), 0.5)
        self.assertLess(float(np.abs(ends).max()), 13)

    def test_a_clean_run_raises_no_flag_and_settles(self) -> None:
        for layout in ("A", "C"):
            wrong = [(s, f) for s in range(15) if (f := codes(simulate(machine(layout_id=layout), 50, s, 2.0)))]
            with self.subTest(layout=layout):
                self.assertLessEqual(len(wrong), 1, wrong)
        self.assertTrue(analyse(simulate(machine(), 60, 3, 2.0)).settled)

    def test_each_fault_is_found(self) -> None:
        wanted = {
            "core_hot": "core_apart", "stuck": "stuck", "spike": "spike", "tach_lost": "tach_lost", "clock_jump": "clock_jump",
            "load_pause": "load_changed", "gap": "gap", "room_missing": "room_missing", "fan_stops": "tach_lost",
            "pump_slows": "speed_not_held", "disturbed": "disturbed", "room_warms": "room_drift",
        }  # fmt: skip
        self.assertEqual(set(wanted), set(FAULTS))
        for kind, code in wanted.items():
            at = 37.0 if kind == "disturbed" else 15.0  # within the averaging window
            of = "r1" if kind in ("tach_lost", "fan_stops") else "card_core_c" if kind in ("stuck", "spike") else None
            log = simulate(machine(layout_id="C"), MINUTES, 5, 1.0, [Fault(kind, at, of)])
            with self.subTest(fault=kind):
                self.assertIn(code, codes(log))

    def test_a_stopped_fan_warms_the_machine_and_not_only_its_tach(self) -> None:
        calm, stopped = (simulate(machine(), MINUTES, 5, 5.0, f) for f in ([], [Fault("fan_stops", 10.0, "r1")]))
        self.assertGreater(stopped.channels["cpu_package_c"][-20:].mean(), calm.channels["cpu_package_c"][-20:].mean() + 1)

    def test_loads_and_impossible_faults(self) -> None:
        log = simulate(machine(), 30, 1, 5.0, shape=Profile("burst", 600, 120))
        self.assertLess(float(np.nanmin(log.channels["cpu_power_w"][100:])), 40)
        for fault in (Fault("earthquake", 1), Fault("fan_stops", 1, "t3"), Fault("pump_slows", 1)):
            with self.subTest(fault=fault.kind), self.assertRaises(ImpossibleInputError):
                simulate(machine(), 5, 1, faults=[fault])

    def test_a_difficult_day_is_three_different_faults(self) -> None:
        for seed in range(20):
            day = difficult_day(machine(layout_id="C"), 30, seed)
            self.assertEqual(len({f.kind for f in day}), 3)
            simulate(machine(layout_id="C"), 5, seed, 5.0, day)


class RoundTripTest(SimpleTestCase):
    def test_written_and_read_back_the_figures_are_the_same(self) -> None:
        log = simulate(machine(layout_id="C"), MINUTES, 9, 2.0, [Fault("gap", 12), Fault("tach_lost", 20, "r1")])
        back = read_log(write_log(log).encode()).log
        one, two = analyse(log), analyse(back)
        self.assertEqual([c.name for c in one.channels], [c.name for c in two.channels])
        for a, b in zip(one.channels, two.channels, strict=True):
            self.assertAlmostEqual(a.mean, b.mean, places=6)
            if a.rise_k is not None and b.rise_k is not None:
                self.assertAlmostEqual(a.rise_k, b.rise_k, places=6)
        self.assertEqual([(f.code, f.from_s) for f in one.flags], [(f.code, f.from_s) for f in two.flags])

    def test_the_command_writes_a_file_that_analyse_reads(self) -> None:
        with TemporaryDirectory() as folder:
            path = Path(folder) / "run.csv"
            done = self.command("simulate", str(DEMO), "--layout", "A", "--minutes", "45", "--seed", "7", "--every", "2", "-o", str(path))
            self.assertEqual(done.returncode, 0, done.stderr)
            found = json.loads(self.command("analyse", str(path), "--json").stdout)
            self.assertEqual(found["duration_s"], 2700)
            again = self.command("simulate", str(DEMO), "--layout", "A", "--minutes", "45", "--seed", "7", "--every", "2")
            self.assertEqual(again.stdout, path.read_text(encoding="utf-8"))

    def test_bad_calls_say_what_and_what_to_do(self) -> None:
        for words, said in (
            (("--fault", "fan_stops:zz@5"), "no fan turns at 'zz'"),
            (("--fault", "spike@soon"), "no number of minutes"),
            (("--minutes", "-3"), "too short"),
            (("--layout", "Q"), "no layout 'Q'"),
        ):
            done = self.command("simulate", str(DEMO), *words)
            with self.subTest(words=words):
                self.assertEqual(done.returncode, 2)
                self.assertIn(said, done.stderr)

    def command(self, *words: str) -> "subprocess.CompletedProcess[str]":
        return subprocess.run([sys.executable, "-m", "cli", *words], cwd=ROOT, capture_output=True, text=True, check=False)
