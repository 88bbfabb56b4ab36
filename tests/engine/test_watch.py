"""Marks on runs: each planted fault raises its own flag and names its place; clean logs of common sensors raise none."""

from collections.abc import Callable

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import analyse
from engine.runs.flag import Flag
from engine.runs.flags import run_flags
from engine.runs.series import Floats, RunLog
from engine.runs.window import tail
from tests.engine.test_runs import ar1, run_log

Plant = Callable[[dict[str, Floats], Floats, np.random.Generator], None]


def full_log(seed: int = 0, minutes: float = 35, plant: Plant | None = None) -> RunLog:
    """A run with cores, fans, pump, clock, coolant and sound, as loggers write them; ``plant`` changes it in place."""
    rng = np.random.default_rng(seed)
    base = run_log(46, minutes=minutes, seed=seed)
    t, n = base.elapsed_s, len(base.elapsed_s)
    cpu = base.channels["cpu_package_c"]
    channels = dict(base.channels)
    channels["cpu_package_c"] = np.round(cpu)
    for i in range(6):
        apart = (1.2 * i % 4 - 2) * (1 - np.exp(-t / 60))  # cores differ by their own heat, not when cold
        channels[f"cpu_core_{i + 1}_c"] = np.round(cpu + apart + rng.normal(0, 0.8, n))
    channels["coolant_c"] = np.round(22 + 14 * (1 - np.exp(-t / 420)) + rng.normal(0, 0.06, n), 1)
    channels["fan_f1_rpm"] = np.round((1200 + rng.normal(0, 8, n)) / 30) * 30
    channels["pump_rpm"] = np.round(2650 + rng.normal(0, 12, n))
    channels["cpu_clock_mhz"] = 4700 + rng.normal(0, 12, n)
    channels["sound_dba"] = np.round(36 + 0.8 * ar1(rng, n, 0.9), 1)
    channels["card_power_w"] = rng.normal(215, 2, n)
    if plant:
        plant(channels, t, rng)
    return RunLog(t, channels)


def flags(log: RunLog, background_dba: float | None = 28) -> dict[str, Flag]:
    """Flags of a log that is taken as settled; whether it is has tests of its own."""
    return {f.code: f for f in run_flags(log, True, tail(log), background_dba)}


def frozen(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["card_core_c"][(t >= 600) & (t < 1300)] = c["card_core_c"][600]


def never_moves(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["coolant_c"][:] = 24.0


def spikes(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["cpu_package_c"][900:902] += 40


def tach_silent(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["fan_f1_rpm"][1000:1100] = 0


def tach_gone(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["fan_f1_rpm"][1500:] = np.nan


def creeping_fan(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["fan_f1_rpm"] += 200 * t / t[-1]


def slower_clock(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["cpu_clock_mhz"][1100:] -= 400


def pause(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["cpu_power_w"][1000:1090] *= 0.3


def hot_core(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["cpu_core_4_c"] += 15


def door(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["card_core_c"][1900:1960] -= 4


def air_in_pump(c: dict[str, Floats], t: Floats, rng: np.random.Generator) -> None:
    for at in rng.integers(300, 2000, 12):
        c["pump_rpm"][at : at + 6] -= 400


def at_its_cap(c: dict[str, Floats], t: Floats, _: np.random.Generator) -> None:
    c["cpu_package_c"] = np.minimum(c["cpu_package_c"] + 45, 95.0)
    c["cpu_power_w"][700:] -= 22 * (1 - np.exp(-(t[700:] - 700) / 200))


CASES: dict[str, list[Plant]] = {
    "stuck": [frozen, never_moves],
    "spike": [spikes],
    "tach_lost": [tach_silent, tach_gone],
    "speed_not_held": [creeping_fan],
    "clock_jump": [slower_clock],
    "load_changed": [pause],
    "core_apart": [hot_core],
    "disturbed": [door],
    "loop_not_purged": [air_in_pump],
    "at_limit": [at_its_cap],
}


class WatchTest(SimpleTestCase):
    def test_every_planted_fault_raises_its_flag_over_seeds(self) -> None:
        for code, plants in CASES.items():
            for plant in plants:
                missed = [s for s in range(12) if code not in flags(full_log(s, plant=plant))]
                with self.subTest(code=code, plant=plant.__name__):
                    self.assertEqual(missed, [])

    def test_a_fault_raises_no_flag_of_another_kind(self) -> None:
        together = {"at_limit": {"throttled"}}
        for code, plants in CASES.items():
            for plant in plants:
                with self.subTest(code=code, plant=plant.__name__):
                    extra = set(flags(full_log(3, plant=plant))) - {code} - together.get(code, set())
                    self.assertEqual(extra, set())

    def test_clean_logs_raise_nothing(self) -> None:
        # Rate of false alarms: at most one log in two hundred, any kind of flag (binomial: 0 to 4 of 200 at 95 % allow a rate of 2 %).
        wrong = [(s, sorted(flags(full_log(s)))) for s in range(200) if flags(full_log(s))]
        self.assertLessEqual(len(wrong), 4, wrong)

    def test_flags_say_where(self) -> None:
        found = flags(full_log(1, plant=frozen))["stuck"]
        self.assertAlmostEqual(found.from_s, 600, delta=5)
        self.assertAlmostEqual(found.to_s, 1299, delta=5)
        self.assertEqual(found.of, "card_core_c")
        self.assertIn("card reads", found.detail)
        found = flags(full_log(1, plant=door))["disturbed"]
        self.assertTrue(found.from_s <= 1960 and found.to_s >= 1900, found)
        self.assertIn("MHz", flags(full_log(1, plant=slower_clock))["clock_jump"].detail)

    def test_the_analysis_carries_them(self) -> None:
        codes = {f.code for f in analyse(full_log(1, plant=hot_core), background_dba=35).flags}
        self.assertLessEqual({"core_apart", "sound_near_floor"}, codes)

    def test_sound_too_near_the_room_s_own(self) -> None:
        self.assertIn("sound_near_floor", flags(full_log(2), background_dba=35))
        self.assertNotIn("sound_near_floor", flags(full_log(2), background_dba=28))
        self.assertNotIn("sound_near_floor", flags(full_log(2), background_dba=None))

    def test_slow_loggers_and_gaps_in_cells_raise_nothing_either(self) -> None:
        for step in (2, 5):
            log = full_log(4, minutes=45)
            thin = RunLog(log.elapsed_s[::step], {k: v[::step].copy() for k, v in log.channels.items()})
            rng = np.random.default_rng(5)
            for values in thin.channels.values():
                values[rng.random(len(values)) < 0.03] = np.nan
            with self.subTest(step=step):
                self.assertEqual(set(flags(thin)), set())
