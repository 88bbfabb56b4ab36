"""The machine's own sensors: found in a tree, known by identity, named by kind and label; its load started and ended."""

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from django.test import SimpleTestCase

from instruments.load import Load, LoadError
from instruments.sensors import SensorsError, found, mapped, missing
from instruments.tree import SensorTree
from tests.machines import ROOT

READINGS = {
    "cpu_package_c": 71.0,
    "cpu_core_1_c": 69.0,
    "card_core_c": 62.0,
    "card_hotspot_c": 75.0,
    "card_power_w": 220.0,
    "board_sensor_c": 38.0,
    "vrm_c": 55.0,
    "coolant_c": 33.4,
    "fan_f1_rpm": 1200.0,
    "pump_rpm": 2600.0,
}


class TreeCase(SimpleTestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.now = 0.0

    def tree(self, name: str = "sys", first: int = 0) -> SensorTree:
        tree = SensorTree(self.folder / name, first)
        tree.write(READINGS | {"cpu_power_w": 125.0}, 1.0)
        return tree


class SensorsTest(TreeCase):
    def test_each_channel_is_found_and_reads_what_stands_there(self) -> None:
        channels = mapped(found(self.tree().root))
        for name, value in READINGS.items():
            self.assertAlmostEqual(channels[name].read() or 0.0, value, places=3, msg=name)

    def test_power_is_the_counter_s_rise_over_the_time_also_when_it_runs_over(self) -> None:
        tree = self.tree()
        power = mapped(found(tree.root, lambda: self.now))["cpu_power_w"]
        self.assertIsNone(power.read())
        for watts in (125.0, 80.0):
            tree.write({"cpu_power_w": watts}, 4.0)
            self.now += 4.0
            self.assertAlmostEqual(power.read() or 0.0, watts, places=3)
        tree.energy_j = 262_143.328850 - 100.0
        tree.write({"cpu_power_w": 0.0}, 1.0)
        self.now += 1.0
        power.read()
        tree.write({"cpu_power_w": 50.0}, 4.0)  # over the end of its range
        self.now += 4.0
        self.assertAlmostEqual(power.read() or 0.0, 50.0, places=2)

    def test_a_sensor_is_found_again_by_identity_though_its_number_is_another(self) -> None:
        before, after = found(self.tree("a").root), found(self.tree("b", first=3).root)
        self.assertEqual({s.identity for s in before}, {s.identity for s in after})
        liquid = next(s for s in before if "coolant" in s.words)
        said = {liquid.identity: "air_rear_c"}
        self.assertEqual(mapped(after, said)["air_rear_c"].read(), 33.4)
        self.assertNotIn("coolant_c", mapped(after, said))
        self.assertNotIn("coolant_c", mapped(after, {liquid.identity: ""}))

    def test_what_cannot_be_read_is_said_with_what_it_costs(self) -> None:
        tree = self.tree()
        channels = mapped(found(tree.root))
        self.assertEqual([w.split(":")[0] for w in missing(channels)], ["no room temperature"])
        self.assertEqual(len(missing({})), 6)
        (tree.root / "class/hwmon/hwmon0/temp1_input").unlink()
        self.assertIsNone(channels["cpu_package_c"].read())  # a device that sleeps is no fault
        with self.assertRaises(SensorsError):
            found(self.folder / "nothing")


class LoadTest(TreeCase):
    def alive(self, pid: int) -> bool:
        try:
            state = Path(f"/proc/{pid}/stat").read_text(encoding="ascii").rsplit(")", 1)[1].split()[0]
        except OSError:
            return False
        return state not in ("Z", "X")

    def test_it_follows_and_ends_as_a_group(self) -> None:
        load = Load(f'{sys.executable} -c \'import subprocess, time; subprocess.Popen(["sleep", "600"]); time.sleep(600)\'')
        self.assertIn("started", load.follow(True))
        self.assertEqual(load.follow(True), "")
        assert load.process
        group = load.process.pid
        deadline = time.monotonic() + 10
        while len(self.of_group(group)) < 2 and time.monotonic() < deadline:
            time.sleep(0.05)
        self.assertEqual(len(self.of_group(group)), 2)
        self.assertEqual(load.follow(False), "load ended")
        deadline = time.monotonic() + 5
        while self.of_group(group) and time.monotonic() < deadline:
            time.sleep(0.05)
        self.assertEqual(self.of_group(group), [])

    def of_group(self, group: int) -> list[int]:
        found = []
        for entry in Path("/proc").glob("[0-9]*"):
            try:
                if os.getpgid(int(entry.name)) == group and self.alive(int(entry.name)):
                    found.append(int(entry.name))
            except ProcessLookupError:
                continue
        return found

    def test_it_does_not_outlive_a_watcher_that_is_killed(self) -> None:
        code = (
            "import time; from instruments.load import Load; load = Load('sleep 600'); load.start(); "
            "print(load.process.pid, flush=True); time.sleep(600)"
        )
        watcher = subprocess.Popen([sys.executable, "-c", code], cwd=ROOT / "src", stdout=subprocess.PIPE, text=True)
        assert watcher.stdout
        pid = int(watcher.stdout.readline())
        self.assertTrue(self.alive(pid))
        watcher.send_signal(signal.SIGKILL)
        watcher.wait()
        watcher.stdout.close()
        deadline = time.monotonic() + 5
        while self.alive(pid) and time.monotonic() < deadline:
            time.sleep(0.05)
        self.assertFalse(self.alive(pid))

    def test_bad_commands_are_refused_in_words(self) -> None:
        for command in ("", "'open", "/no/such/load"):
            with self.subTest(command), self.assertRaises(LoadError) as caught:
                Load(command).start()
            self.assertTrue(caught.exception.do)
