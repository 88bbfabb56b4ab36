"""A run while it goes on: figures, thinning for the screen, a machine at rest, marked stretches, slow instruments beside fast ones."""

from dataclasses import replace
from typing import ClassVar

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import analyse
from engine.runs.flag import MEANING, Flag
from engine.runs.live import live_figures, over_room_at_rest, thinned
from engine.runs.series import RunLog
from engine.runs.wait import TOO_EARLY
from instruments.standin import Fault, simulate
from tests.machines import machine

# The codes the open format promises.
CONTRACT = (
    "throttled at_limit room_missing room_drift too_short gap stuck spike speed_not_held tach_lost clock_jump load_changed core_apart "
    "disturbed loop_not_purged integer_resolution sound_near_floor"
)


def part(log: RunLog, seconds: float) -> RunLog:
    use = log.elapsed_s <= seconds
    return RunLog(log.elapsed_s[use], {n: v[use] for n, v in log.channels.items()})


class LiveFiguresTest(SimpleTestCase):
    log: ClassVar[RunLog]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.log = simulate(machine(), 60, 7, 1.0)

    def test_soak_grows_and_minutes_left_shrink(self) -> None:
        moments = [live_figures(part(self.log, 60 * m)) for m in (6, 12, 20, 58)]
        soaked = [next(c.soaked for c in m.channels if c.name == "card_core_c") or 0 for m in moments]
        self.assertEqual(soaked, sorted(soaked))
        self.assertEqual(soaked[-1], 1.0)
        left = [m.minutes_left or 0 for m in moments]
        self.assertEqual(left, sorted(left, reverse=True))
        self.assertEqual((moments[0].all_settled, moments[-1].all_settled), (False, True))
        self.assertEqual(moments[-1].more, "")
        self.assertRegex(moments[1].more, "min more$")
        slowest = max((c for c in moments[1].channels if c.settled is False), key=lambda c: c.minutes_left or 0)
        self.assertEqual(int(moments[1].more.split()[-3]) >= int(slowest.more.split()[-3]), True, (moments[1].more, slowest.more))

    def test_what_warms_but_has_not_risen_yet_is_too_early_to_judge(self) -> None:
        t = np.arange(0.0, 100.0)
        for rate_k_min, more in ((1.2, TOO_EARLY), (0.0, "")):
            log = RunLog(t, {"coolant_c": 24.0 + rate_k_min * t / 60, "room_c": np.full(len(t), 22.0)})
            (own,) = [c for c in live_figures(log).channels if c.name == "coolant_c"]
            self.assertEqual((own.settled, own.more), (None, more))

    def test_ending_now_costs_less_the_later_it_is(self) -> None:
        bands = [live_figures(part(self.log, 60 * m)).end_now_band_k or 0 for m in (8, 16, 58)]
        self.assertEqual(bands, sorted(bands, reverse=True))
        self.assertLessEqual(bands[-1], 0.5)

    def test_it_agrees_with_the_analysis_of_the_whole_run(self) -> None:
        live, whole = live_figures(self.log), analyse(self.log)
        self.assertEqual(live.all_settled, whole.settled)
        self.assertEqual(live.settled_s, whole.settled_at_s)
        for channel in live.channels:
            own = whole.channel(channel.name)
            if channel.final_k is not None and own is not None and own.final_estimate is not None:
                self.assertAlmostEqual(channel.final_k + float(np.mean(self.log.room_c[-300:])), own.final_estimate, delta=0.1)  # type: ignore[index]

    def test_figures_are_over_room_and_without_one_as_they_are(self) -> None:
        own = next(c for c in live_figures(self.log).channels if c.name == "cpu_package_c")
        self.assertAlmostEqual(own.rise_k or 0, own.value - float(self.log.room_c[-1]), delta=3)  # type: ignore[index]
        bare = RunLog(self.log.elapsed_s, {n: v for n, v in self.log.channels.items() if n != "room_c"})
        self.assertIsNone(next(c for c in live_figures(bare).channels if c.name == "cpu_package_c").rise_k)

    def test_a_clean_run_raises_nothing_at_any_moment(self) -> None:
        for minutes in (3, 5, 8, 12, 17, 25, 44):
            with self.subTest(minutes=minutes):
                self.assertEqual([f.code for f in live_figures(part(self.log, 60 * minutes)).flags], [])

    def test_a_few_rows_are_no_figure_yet(self) -> None:
        found = live_figures(part(self.log, 10))
        self.assertEqual((found.all_settled, found.end_now_band_k), (False, None))


class RestTest(SimpleTestCase):
    def test_hot_cooling_and_at_rest(self) -> None:
        warm = simulate(machine(), 30, 3, 1.0)
        self.assertGreater(over_room_at_rest(part(warm, 1800))[0] or 0, 5, "steady under load is not at rest")
        t = np.arange(240.0)
        cooling = {"cpu_package_c": 22 + 30 * np.exp(-t / 200), "room_c": np.full(240, 22.0)}
        over, rate = over_room_at_rest(RunLog(t, cooling))
        self.assertGreater(over or 0, 8)
        self.assertGreater(rate or 0, 1)
        idle = {"cpu_package_c": 34 + np.random.default_rng(1).normal(0, 0.2, 240), "room_c": np.full(240, 22.0)}
        self.assertEqual(over_room_at_rest(RunLog(t, idle)), (0.0, 0.0))
        self.assertEqual(over_room_at_rest(RunLog(t, {"cpu_package_c": idle["cpu_package_c"]})), (None, None))


class ThinnedTest(SimpleTestCase):
    T = np.arange(10_000.0)

    def test_lowest_and_highest_are_kept(self) -> None:
        y = np.random.default_rng(2).normal(0, 1, 10_000)
        y[4321], y[8765] = 40, -40
        t, channels = thinned(RunLog(self.T, {"a_c": y}), 500)
        self.assertLessEqual(len(t), 520)
        self.assertEqual((np.nanmax(channels["a_c"]), np.nanmin(channels["a_c"])), (40, -40))
        self.assertTrue((np.diff(t) >= 0).all())

    def test_a_short_stretch_is_whole(self) -> None:
        t, channels = thinned(RunLog(self.T, {"a_c": self.T}), 500, 100, 200)
        np.testing.assert_array_equal(t, np.arange(100.0, 201.0))
        np.testing.assert_array_equal(channels["a_c"], t)

    def test_rows_without_readings_stay_empty(self) -> None:
        y = np.full(10_000, np.nan)
        y[:5000] = 1.0
        _, channels = thinned(RunLog(self.T, {"a_c": y}), 500)
        self.assertTrue(np.isnan(channels["a_c"][-100:]).all())
        self.assertTrue((channels["a_c"][:200] == 1).all())


class MarkedTest(SimpleTestCase):
    def test_a_marked_disturbance_neither_moves_the_mean_nor_raises_its_flag(self) -> None:
        clean = simulate(machine(), 60, 3, 1.0)
        spoilt = simulate(machine(), 60, 3, 1.0, [Fault("disturbed", 58.0)])
        marked = analyse(spoilt, 300, disturbed_s=[(58 * 60 - 2, 59 * 60 + 5)])
        self.assertIn("disturbed", [f.code for f in analyse(spoilt, 300).flags])
        self.assertEqual([f.code for f in marked.flags], [])
        own, truth = marked.channel("card_core_c"), analyse(clean, 300).channel("card_core_c")
        assert own is not None and truth is not None
        self.assertAlmostEqual(own.mean, truth.mean, delta=0.1)

    def test_fans_do_not_seem_lost_where_readings_are_left_out(self) -> None:
        log = simulate(machine(), 60, 3, 1.0)
        self.assertEqual([f.code for f in analyse(log, disturbed_s=[(600, 700), (1200, 1260)]).flags], [])


class SlowInstrumentTest(SimpleTestCase):
    def test_a_channel_read_every_ten_seconds_raises_nothing(self) -> None:
        log = simulate(machine(), 60, 3, 1.0)
        sparse = np.arange(len(log.elapsed_s)) % 10 != 0
        names = ("room_c", "vrm_c", "air_rear_c", *(n for n in log.channels if n.endswith("_rpm")), "cpu_power_w", "cpu_clock_mhz")
        channels = {n: np.where(sparse, np.nan, v) if n in names else v for n, v in log.channels.items()}
        found = analyse(replace(log, channels=channels))
        self.assertEqual([f.code for f in found.flags], [])
        self.assertTrue(found.settled)

    def test_one_that_falls_silent_does(self) -> None:
        log = simulate(machine(), 60, 3, 1.0)
        name = next(n for n in log.channels if n.startswith("fan_"))
        sparse = np.where((np.arange(len(log.elapsed_s)) % 5 != 0) | (log.elapsed_s > 1500), np.nan, log.channels[name])
        found = analyse(replace(log, channels={**log.channels, name: sparse}))
        self.assertEqual([f.code for f in found.flags], ["tach_lost"])


class FlagWordsTest(SimpleTestCase):
    def test_every_code_says_its_effect_and_what_to_do(self) -> None:
        self.assertLessEqual(set(CONTRACT.split()), set(MEANING))
        for code, (effect, do) in MEANING.items():
            with self.subTest(code):
                self.assertGreater(len(effect), 15)
                self.assertGreater(len(do), 10)
                flag = Flag(code, 0.0, 1.0, "x")
                self.assertEqual((flag.effect, flag.do), (effect, do))

    def test_a_code_without_a_meaning_cannot_be_raised(self) -> None:
        with self.assertRaises(KeyError):
            Flag("made_up", 0.0, 1.0, "x")
