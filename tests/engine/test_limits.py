"""Parts at their limit: known by a temperature that stands while power falls; judged by their power and by nothing else."""

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import analyse
from engine.runs.limits import held
from engine.runs.live import live_figures
from engine.runs.series import RunLog
from engine.verdict.candidate import Candidate
from engine.verdict.compare import Pair, compare

ROOM_C, POWER_W = 22.0, 226.0


def log(k_per_w: float, limit_c: float = 95.0, minutes: float = 30, seed: int = 0, boost: float = 1.0) -> RunLog:
    """A processor with a fast part and air that warms in four minutes; at its limit it gives up as much power as keeps it there.

    ``boost``: power of the first 56 s, which the firmware then takes away whatever the temperature.
    """
    rng = np.random.default_rng(seed)
    t = np.arange(0, minutes * 60, 1.0)
    air, temperatures, powers = 0.0, [], []
    for second in t:
        power = POWER_W * (boost if second < 56 else 1.0)
        warm = ROOM_C + 0.55 * k_per_w * power + air
        if warm > limit_c:
            power, warm = (limit_c - ROOM_C - air) / (0.55 * k_per_w), limit_c
        air += (0.45 * k_per_w * power - air) / 240
        temperatures.append(warm)
        powers.append(power)
    read = np.round(np.array(temperatures) + rng.normal(0, 0.3, len(t)))
    watts = np.array(powers) + rng.normal(0, 1.5, len(t))
    return RunLog(t, {"cpu_package_c": read, "cpu_power_w": watts, "room_c": np.full(len(t), ROOM_C)})


class HeldTest(SimpleTestCase):
    def test_power_that_falls_while_the_temperature_stands(self) -> None:
        """By hand: at rest the part gives off (95 - 22)/k watts."""
        for k_per_w in (0.36, 0.40, 0.45):
            found = held(log(k_per_w), "cpu")
            assert found is not None
            with self.subTest(k_per_w=k_per_w):
                self.assertAlmostEqual(found.at_c, 95.0, delta=0.6)
                self.assertAlmostEqual(found.from_w, POWER_W, delta=3)
                self.assertAlmostEqual(found.to_w, 73 / k_per_w, delta=3)
                self.assertIn("W or ", found.words)

    def test_a_limit_that_nobody_told_is_found_wherever_it_lies(self) -> None:
        for limit in (70.0, 83.0, 105.0):
            found = held(log(0.42 * (limit - ROOM_C) / 73, limit), "cpu")
            assert found is not None
            self.assertAlmostEqual(found.at_c, limit, delta=0.6)

    def test_a_power_limit_of_the_firmware_is_none(self) -> None:
        """The power falls and the temperature with it; the slow air brings it up again later."""
        for boost in (1.1, 1.25, 1.5):
            self.assertIsNone(held(log(0.36, 200.0, boost=boost), "cpu"))

    def test_a_power_that_swings_is_told_in_watts(self) -> None:
        """At its limit the processor's power goes 12 W either way every three minutes, on the screen, in the figures and in the flag."""
        own = log(0.45, minutes=40)
        swing = 12 * np.sin(2 * np.pi * own.elapsed_s / 180) * (own.elapsed_s > 300)
        own = RunLog(own.elapsed_s, own.channels | {"cpu_power_w": own.channels["cpu_power_w"] + swing})
        live, after = live_figures(own), analyse(own)
        told = [(c.hunts_k, c.hunts_s) for c in live.channels if c.name == "cpu_power_w"]
        told += [(c.hunts_k, c.hunts_s) for c in after.channels if c.name == "cpu_power_w"]
        self.assertEqual(len(told), 2)
        for watts, seconds in told:
            assert watts and seconds
            self.assertAlmostEqual(watts, 12, delta=1.5)
            self.assertAlmostEqual(seconds, 180, delta=10)
        (flag,) = [f for f in after.flags if f.code == "hunting"]
        self.assertRegex(flag.detail, r"power swings by 1[123]\.\d W either way")

    def test_no_limit_no_finding(self) -> None:
        self.assertFalse(any(held(log(k, 200.0, seed=s), "cpu") for k in (0.2, 0.36) for s in range(5)))

    def test_the_run_says_what_was_lost_and_is_judged_by_its_power(self) -> None:
        run = analyse(log(0.40))
        flag = next(f for f in run.flags if f.code == "throttled")
        self.assertIn("from 226 W to 18", flag.detail)
        self.assertIn("% lost", flag.detail)
        warm, power = run.channel("cpu_package_c"), run.channel("cpu_power_w")
        assert warm is not None and power is not None
        self.assertIsNone(warm.settled)
        self.assertTrue(power.settled)
        early = analyse(log(0.40, minutes=7))
        self.assertFalse(early.settled)
        self.assertIn("its power still moves", (early.channel("cpu_power_w") or power).why)

    def test_live_the_power_decides_too(self) -> None:
        figures = live_figures(log(0.40))
        own = {c.name: c for c in figures.channels}
        self.assertTrue(own["cpu_package_c"].at_limit)
        self.assertIsNone(own["cpu_package_c"].settled)
        self.assertTrue(own["cpu_power_w"].settled and figures.all_settled)


class JudgedByPowerTest(SimpleTestCase):
    def pairs(self, one: float, other: float) -> dict[str, Pair]:
        a, b = (Candidate(n, [analyse(log(k, seed=s)) for s in (1, 2)]) for n, k in (("A", one), ("B", other)))
        return {p.channel: p for p in compare([a, b])}

    def test_no_word_of_a_temperature_that_stands_but_of_the_power(self) -> None:
        found = self.pairs(0.44, 0.40)
        self.assertEqual(found["cpu_package_c"].word, "cannot_tell")
        self.assertTrue(found["cpu_package_c"].at_limit)
        self.assertEqual(found["cpu_power_w"].word, "better")
        self.assertAlmostEqual(found["cpu_power_w"].difference_k or 0, 73 / 0.40 - 73 / 0.44, delta=1.5)

    def test_one_at_its_limit_and_one_not(self) -> None:
        found = self.pairs(0.44, 0.30)
        self.assertEqual((found["cpu_package_c"].word, found["cpu_power_w"].word), ("cannot_tell", "better"))

    def test_power_that_was_read_at_one_end_only_says_nothing(self) -> None:
        """A logger that stopped in the middle, or began late, ends a run like any other."""
        t = np.arange(0, 900.0)
        for gone in (t < 700, t > 200, t >= 0):
            power = np.where(gone, np.nan, 120.0)
            run = analyse(RunLog(t, {"cpu_package_c": 62 - 40 * np.exp(-t / 60), "cpu_power_w": power, "room_c": np.full(900, 22.0)}))
            self.assertFalse(run.has("throttled") or run.has("load_changed"))
