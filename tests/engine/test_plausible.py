"""Readings that no machine gives are asked about; those of real logs are not."""

import numpy as np
from django.test import SimpleTestCase

from documents.runlog.reader import read_log
from engine.runs.plausible import implausible
from engine.runs.series import RunLog
from tests.machines import LOGS, ROOT

N = 60


def log(**channels: float) -> RunLog:
    return RunLog(np.arange(float(N)), {name: np.full(N, value) for name, value in channels.items()})


def said(found: RunLog) -> dict[str, str]:
    return {x.channel: x.what for x in implausible(found)}


class PlausibleTest(SimpleTestCase):
    def test_what_no_machine_gives(self) -> None:
        cases: tuple[tuple[dict[str, float], str, str], ...] = (
            ({"room_c": 72, "cpu_package_c": 80}, "room_c", "in °F that would be 22 °C"),
            ({"room_c": 22, "cpu_package_c": 14}, "cpu_package_c", "8 K under the room"),
            ({"room_c": 22, "cpu_package_c": 176}, "cpu_package_c", "stands at 176 °C"),
            ({"room_c": 22, "card_power_w": 215_000}, "card_power_w", "215000 W"),
            ({"room_c": 22, "sound_dba": 3200}, "sound_dba", "3200 dBA"),
            ({"room_c": 295, "cpu_package_c": 340}, "room_c", "295 °C"),
        )
        for channels, channel, words in cases:
            with self.subTest(channels=channels):
                self.assertIn(words, said(log(**channels))[channel])

    def test_swapped_columns(self) -> None:
        rising = np.linspace(24, 80, N)
        swapped = RunLog(np.arange(float(N)), {"room_c": rising, "cpu_package_c": np.full(N, 22.0)})
        self.assertTrue({"room_c", "cpu_package_c"} & set(said(swapped)))

    def test_what_is_odd_but_can_be_is_let_in(self) -> None:
        odd: tuple[dict[str, float], ...] = (
            {"room_c": 22, "air_front_c": 20.5},
            {"room_c": 38, "cpu_package_c": 99},
            {"room_c": 5, "coolant_c": 4},
        )
        for channels in odd:
            self.assertEqual(said(log(**channels)), {}, channels)

    def test_no_log_that_is_at_hand_is_asked_about(self) -> None:
        for file in (*LOGS.glob("*.[ct]sv"), *(ROOT / "demo" / "logs").glob("*.csv")):
            with self.subTest(file=file.name):
                self.assertEqual(said(read_log(file.read_bytes()).log), {})
