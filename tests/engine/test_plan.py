"""Designs, coach, acceptance, alarms, slips of the pen, drift."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from engine.errors import ImpossibleInputError, MissingFigureError
from engine.machine import Point
from engine.plan import designs
from engine.plan.acceptance import by_statistic, judge, rating, statistic_of
from engine.plan.coach import Facts, next_step
from engine.plan.microphone import floor_words
from engine.plan.probes import advice
from engine.plan.protocol import CAUTIONS, HELD, LOAD_WORDS, TEMPLATES, Criterion, Limit
from engine.plan.rebuild import Change, minutes_of
from engine.plan.watch import LiveWatch
from engine.runs.analysis import ChannelAnalysis, RunAnalysis, analyse
from engine.runs.series import RunLog
from engine.runs.slip import question
from engine.verdict.drift import against_control, drift
from tests.machines import machine

SHORT = TEMPLATES["short"]


class DesignsTest(SimpleTestCase):
    def test_effects_of_the_pilot_plant(self) -> None:
        """Box, Hunter, Hunter: Statistics for Experimenters, pilot plant 2^3 (temperature, concentration, catalyst); from memory."""
        found = {e.factors: e.size for e in designs.effects([60, 72, 54, 68, 52, 83, 45, 80], 3)}
        wanted = {(0,): 23.0, (1,): -5.0, (2,): 1.5, (0, 1): 1.5, (0, 2): 10.0, (1, 2): 0.0, (0, 1, 2): 0.5}
        for factors, size in wanted.items():
            self.assertAlmostEqual(found[factors], size, places=12)

    def test_effects_are_least_squares(self) -> None:
        rng = np.random.default_rng(5)
        y = rng.normal(size=16)
        signs = 2.0 * np.array(designs.grid([2] * 4)) - 1
        model = np.column_stack([np.ones(16), signs])
        fitted = np.linalg.lstsq(model, y, rcond=None)[0][1:]
        main = [e.size / 2 for e in designs.effects(y.tolist(), 4) if len(e.factors) == 1]
        np.testing.assert_allclose(main, fitted, atol=1e-12)

    def test_error_of_an_effect(self) -> None:
        (one, *_) = designs.effects([1, 2, 3, 4], 2, standard_error=0.6)
        self.assertAlmostEqual(one.standard_error or 0, 0.6)

    def test_orders(self) -> None:
        self.assertEqual(designs.grid([2, 2]), [(0, 0), (1, 0), (0, 1), (1, 1)])
        self.assertEqual(len(designs.grid([3, 2, 2])), 12)
        self.assertEqual(designs.ladder(3), [(0, 0, 0), (1, 0, 0), (1, 1, 0), (1, 1, 1)])
        self.assertEqual(designs.one_at_a_time(2), [(0, 0), (1, 0), (0, 1)])

    def test_what_cannot_be_is_refused(self) -> None:
        for call in (
            lambda: designs.grid([]),
            lambda: designs.grid([1]),
            lambda: designs.grid([2] * 7),
            lambda: designs.ladder(0),
            lambda: designs.effects([1, 2, 3], 2),
        ):
            with self.assertRaises(ImpossibleInputError) as caught:
                call()
            self.assertTrue(caught.exception.do)


class TemplatesTest(SimpleTestCase):
    def test_each_names_only_what_there_is(self) -> None:
        self.assertEqual(len(TEMPLATES), 8)
        for key, p in TEMPLATES.items():
            with self.subTest(key):
                self.assertEqual(p.id, key)
                self.assertLessEqual(p.least_minutes, p.minutes)
                self.assertLessEqual(set(p.held), set(HELD))
                self.assertLessEqual(set(p.cautions), set(CAUTIONS))
                self.assertLessEqual(set(p.loads), set(LOAD_WORDS))
                self.assertTrue(p.limits)

    def test_liquid_soaks_longer_and_is_watched(self) -> None:
        soak = TEMPLATES["soak"]
        self.assertGreaterEqual(soak.minutes, 30)  # a loop needs about half an hour: common practice, no source
        self.assertIn("coolant_c", [x.channel for x in soak.limits])
        self.assertIn("pump", soak.held)

    def test_acceptance_is_an_hour_or_more(self) -> None:
        self.assertGreaterEqual(TEMPLATES["acceptance"].least_minutes, 60)
        self.assertTrue(any(c.critical for c in TEMPLATES["acceptance"].criteria))


class CoachTest(SimpleTestCase):
    def test_before_the_run_one_thing_after_the_other(self) -> None:
        cases = [
            (Facts(0, readings=False), "prepare", False),
            (Facts(0, unticked=3), "prepare", False),
            (Facts(0, room=False), "prepare", True),
            (Facts(0, purged_minutes=4.0), "purge", False),
            (Facts(0, purged_minutes=4.0, waived=True), "prepare", True),
            (Facts(0, over_room_k=20.0, cooling_k_min=2.0), "cool", False),
            (Facts(0, over_room_k=3.0), "prepare", True),
            (Facts(0), "prepare", True),
        ]
        for facts, phase, may in cases:
            step = next_step(SHORT, facts)
            with self.subTest(facts=facts):
                self.assertEqual((step.phase, step.may_start), (phase, may))

    def test_the_wait_for_cooling_is_said(self) -> None:
        self.assertAlmostEqual(next_step(SHORT, Facts(0, over_room_k=14.0, cooling_k_min=2.0)).countdown_s or 0, 300)
        self.assertIsNone(next_step(SHORT, Facts(0, over_room_k=14.0)).countdown_s)

    def test_the_countdown_reaches_zero_and_logging_begins(self) -> None:
        self.assertEqual(next_step(SHORT, Facts(96, logging_from_s=100)).countdown_s, 4)
        self.assertEqual(next_step(SHORT, Facts(96, logging_from_s=100)).phase, "countdown")
        by_itself = next_step(SHORT, Facts(96, logging_from_s=100, load_by_itself=True))
        self.assertTrue(by_itself.by_itself and "by itself" in by_itself.action)
        self.assertIn("Start the load", next_step(SHORT, Facts(96, logging_from_s=100)).action)
        self.assertEqual(next_step(SHORT, Facts(100, logging_from_s=100)).phase, "soak")
        self.assertTrue(next_step(SHORT, Facts(96, logging_from_s=100)).do_not_touch)

    def test_settled_then_averaged(self) -> None:
        settled = Facts(1000, logging_from_s=0, all_settled=True, settled_s=900)
        step = next_step(SHORT, settled)
        self.assertEqual((step.phase, step.countdown_s), ("window", SHORT.window_s - 100))
        self.assertEqual(next_step(SHORT, replace(settled, now_s=1300)).countdown_s, 0)

    def test_settled_too_early_is_not_believed(self) -> None:
        early = Facts(120, logging_from_s=0, all_settled=True, settled_s=100)
        self.assertEqual(next_step(SHORT, early).phase, "soak")

    def test_a_fixed_length_averages_its_end(self) -> None:
        fixed = replace(SHORT, end="fixed", minutes=20, window_s=300)
        self.assertEqual(next_step(fixed, Facts(600, logging_from_s=0)).phase, "soak")
        self.assertEqual(next_step(fixed, Facts(1000, logging_from_s=0)).phase, "window")
        self.assertEqual(next_step(fixed, Facts(1200, logging_from_s=0)).countdown_s, 0)

    def test_while_it_soaks_the_wait_is_told_as_well_as_it_is_known(self) -> None:
        soaks = Facts(600, logging_from_s=0, minutes_left=12.0, more="8 to 25 min more", more_from="as in 2 earlier runs")
        self.assertEqual((next_step(SHORT, soaks).wait, next_step(SHORT, soaks).wait_from), ("8 to 25 min more", "as in 2 earlier runs"))
        most = (SHORT.minutes * 60 - 600) // 60
        blind = replace(soaks, minutes_left=None, more="")
        self.assertEqual(next_step(SHORT, blind).wait, f"at most {most:.0f} min more", "the plan's own time")
        early = replace(soaks, now_s=10, minutes_left=1.0, more="up to 2 min more")
        told = next_step(replace(SHORT, least_minutes=10), early)
        self.assertEqual((told.wait, told.wait_from), ("at least 10 min more", ""), "the protocol's own least time")

    def test_time_over_and_not_settled_is_the_persons_call(self) -> None:
        step = next_step(SHORT, Facts(1900, logging_from_s=0, minutes_left=5.0))
        self.assertEqual((step.phase, step.cue), ("window", "act"))
        self.assertIn("too short", step.action)

    def test_a_room_that_nobody_logs_is_read_again(self) -> None:
        rule = replace(SHORT, room="both_ends")
        settled = Facts(1000, logging_from_s=0, all_settled=True, settled_s=900)
        self.assertIn("once more", next_step(rule, replace(settled, room_reads=1)).action)
        self.assertNotIn("once more", next_step(rule, replace(settled, room_reads=2)).action)
        self.assertNotIn("once more", next_step(rule, settled).action, "a source reads it")
        self.assertNotIn("once more", next_step(SHORT, replace(settled, room_reads=1)).action)
        fixed = replace(rule, end="fixed", minutes=20)
        self.assertIn("once more", next_step(fixed, Facts(1100, logging_from_s=0, room_reads=1)).action)


def channel(name: str, mean: float, rise: float | None, top: float | None = None, slope: float | None = 0.0) -> ChannelAnalysis:
    high = mean if top is None else top
    largest = None if rise is None else rise + high - mean
    return ChannelAnalysis(name, mean, 0.1, 0.05, high, rise, 0.1, (0, 300), None, None, True, 0.0, (), slope, largest, readings=300)


class AcceptanceTest(SimpleTestCase):
    RUN = RunAnalysis(
        3600,
        True,
        3000,
        (channel("cpu_package_c", 80, 58, 82), channel("card_core_c", 75, 53), channel("vrm_c", 70, None), channel("cpu_core_1_c", 78, 56)),
        (),
    )

    def test_margin_and_worst_channel(self) -> None:
        found = judge(self.RUN, [Criterion("cpu_package_c", most_k=65), Criterion("card_core_c", most_k=55)], "tail_mean")
        self.assertTrue(found.passed)
        self.assertEqual((found.worst, round(found.margin_k or 0, 6)), ("card_core_c", 2.0))

    def test_the_largest_counts_where_the_protocol_says_so(self) -> None:
        criteria = [Criterion("cpu_package_c", most_k=59)]
        self.assertTrue(judge(self.RUN, criteria, "tail_mean").passed)
        self.assertFalse(judge(self.RUN, criteria, "tail_max").passed)

    def test_figures_by_another_statistic_than_the_mean(self) -> None:
        largest = {f.channel: f.rise_k for f in by_statistic(self.RUN, "tail_max")}
        self.assertEqual(largest["cpu_package_c"], 60)
        self.assertNotIn("cpu_core_1_c", largest)
        self.assertEqual([f.value for f in by_statistic(self.RUN, "core_mean") if f.channel == "cpu_package_c"], [78])
        self.assertEqual(by_statistic(self.RUN, "tail_mean"), [])

    def test_the_last_minute_is_a_window_of_a_minute(self) -> None:
        self.assertEqual(replace(SHORT, statistic="last_minute").averaged_s, 60)
        self.assertEqual(SHORT.averaged_s, 300)

    def test_cores_are_averaged_where_asked(self) -> None:
        self.assertEqual(statistic_of(self.RUN, "cpu_package_c", "core_mean"), (78, 56))

    def test_what_was_not_read_fails(self) -> None:
        for criterion, word in ((Criterion("coolant_c", most_c=60), "not read"), (Criterion("vrm_c", most_k=60), "over room")):
            found = judge(self.RUN, [criterion], "tail_mean")
            self.assertFalse(found.passed)
            self.assertIn(word, found.lines[0].words)

    def test_still_moving_fails(self) -> None:
        run = replace(self.RUN, channels=(channel("cpu_package_c", 80, 58, slope=0.4),))
        self.assertFalse(judge(run, [Criterion("cpu_package_c", most_k=65, steady_k_min=0.1)], "tail_mean").passed)

    def test_what_did_not_settle_or_was_stopped_passes_nothing(self) -> None:
        criteria = [Criterion("cpu_package_c", most_k=65)]
        stopped = judge(self.RUN, criteria, "tail_mean", "limit")
        self.assertEqual((stopped.passed, stopped.why), (False, "a limit ended the run"))
        rising = replace(self.RUN, channels=(replace(self.RUN.channels[0], settled=False), *self.RUN.channels[1:]))
        self.assertEqual(judge(rising, criteria, "tail_mean").why, "cpu_package_c had not settled")
        self.assertFalse(judge(rising, criteria, "tail_mean").passed)
        self.assertTrue(judge(rising, [Criterion("card_core_c", most_k=60)], "tail_mean").passed, "another channel is judged by itself")

    def test_no_criteria_is_no_pass(self) -> None:
        self.assertFalse(judge(self.RUN, [], "tail_mean").passed)

    def test_what_a_panel_costs(self) -> None:
        for closed, words in ((51.0, "little"), (55.0, "moderate"), (60.0, "strong")):
            found = rating(closed, 50.0)
            assert found
            self.assertEqual(found[1], words)
            self.assertAlmostEqual(found[0], (closed - 50) / 50)
        self.assertIsNone(rating(1.0, 0.0))


class WatchTest(SimpleTestCase):
    def test_a_limit_must_be_crossed_for_a_while(self) -> None:
        watch = LiveWatch([Limit("coolant_c", 60.0, hold_s=5)])
        self.assertEqual(watch.feed([0, 1, 2], {"coolant_c": [59, 61, 59]}), [])
        self.assertEqual(watch.feed([3, 4, 5, 6], {"coolant_c": [61, 61, 61, 61]}), [])
        (alarm,) = watch.feed([7, 8, 9], {"coolant_c": [61, 62, 62]})
        self.assertEqual((alarm.channel, alarm.act, alarm.at_s), ("coolant_c", "stop", 8))
        self.assertEqual(watch.feed([10], {"coolant_c": [63]}), [], "told once")

    def test_a_pump_must_not_fall_below(self) -> None:
        watch = LiveWatch([Limit("pump_rpm", 600.0, below=True, hold_s=0, act="alarm")])
        self.assertEqual([a.kind for a in watch.feed([0], {"pump_rpm": [500.0]})], ["limit"])

    def test_a_fan_that_never_turned_is_not_lost(self) -> None:
        watch = LiveWatch([])
        self.assertEqual(watch.feed(list(range(60)), {"fan_f1_rpm": [0.0] * 60}), [])

    def test_a_fan_that_stops_is_told_after_three_seconds_and_again_after_it_came_back(self) -> None:
        watch = LiveWatch([])
        watch.feed(list(range(30)), {"fan_f1_rpm": [1000.0] * 30})
        self.assertEqual(len(watch.feed([30, 31, 32, 33], {"fan_f1_rpm": [0.0] * 4})), 1)
        self.assertEqual(watch.feed([34, 35], {"fan_f1_rpm": [0.0, 0.0]}), [])
        watch.feed([36, 37], {"fan_f1_rpm": [1000.0, 1000.0]})
        self.assertEqual(len(watch.feed([38, 39, 40, 41], {"fan_f1_rpm": [None, 0.0, 0.0, 0.0]})), 0)
        self.assertEqual(len(watch.feed([42], {"fan_f1_rpm": [0.0]})), 1)


class SlipTest(SimpleTestCase):
    def test_codes(self) -> None:
        before = [(0.0, 30.2)]
        cases: list[tuple[str, float, list[tuple[float, float]], str | None]] = [
            ("air_low_c", 300.5, before, "out_of_range"),
            ("air_low_c", 3.05, before, "slipped_digit"),
            ("air_low_c", 45.0, before, "jump"),
            ("air_low_c", 30.4, before, None),
            ("sound_dba", 342, [(0, 34.1)], "out_of_range"),
            ("score", 1045, [(0, 10440.0)], "slipped_digit"),
            ("room_c", 22.0, [], None),
        ]
        for name, value, earlier, code in cases:
            found = question(name, value, earlier, 400.0)
            with self.subTest(name=name, value=value):
                self.assertEqual(found and found.code, code)

    def test_the_digit_that_was_meant_is_offered(self) -> None:
        self.assertIn("Was 30.5 °C meant?", (question("air_low_c", 305, [(0, 30.4)], 60) or question("x", 0, [], 0)).words)  # type: ignore[union-attr]

    def test_still_climbing(self) -> None:
        climbing = question("air_low_c", 31.5, [(0.0, 30.0)], 120.0)
        self.assertEqual(climbing and climbing.code, "still_climbing")
        self.assertIsNone(question("air_low_c", 30.1, [(0.0, 30.0)], 120.0))
        warming = question("air_low_c", 30.0, [], 120.0, settling=True)
        self.assertEqual(warming and warming.code, "still_climbing")
        self.assertIsNone(question("room_c", 22.0, [], 120.0, settling=True))


class DriftTest(SimpleTestCase):
    def test_a_planted_drift_is_taken_off(self) -> None:
        """Every run reads 0.4 K more per hour; B is truly 2 K better."""
        found = drift("cpu_package_c", [(0.0, 50.0), (3.0, 51.2)])
        self.assertAlmostEqual(found.per_hour_k, 0.4)
        raw = (50.0 - 2.0 + 0.4 * 1.5) - 50.0
        true = found.corrected(50.0 - 2.0 + 0.4 * 1.5, 1.5) - 50.0
        self.assertAlmostEqual(true, -2.0)
        self.assertLess(abs(true + 2.0), abs(raw + 2.0))

    def test_others_against_the_control(self) -> None:
        figures = [("A", 0.0, 50.0), ("B", 1.0, 48.4), ("A", 2.0, 50.8)]
        moved, lines = against_control("cpu_package_c", figures, "A")
        self.assertAlmostEqual(moved.whole_k, 0.8)
        self.assertEqual([(x.name, round(x.apart_k, 6), round(x.corrected_k, 6)) for x in lines], [("B", -1.6, -2.0)])

    def test_once_is_not_enough(self) -> None:
        with self.assertRaises(MissingFigureError):
            drift("cpu_package_c", [(0.0, 50.0)])


class RebuildTest(SimpleTestCase):
    def test_minutes_add_up(self) -> None:
        self.assertEqual(minutes_of([]), 0)
        self.assertEqual(minutes_of([Change("speed", "x")]), 0.5)
        self.assertEqual(minutes_of([Change("panel", "x")]), 1.0)
        self.assertEqual(minutes_of([Change("flip", "x"), Change("move", "y", 2)]), 4 + 12 + 4)
        self.assertEqual(minutes_of([Change("radiator", "x")]), 25 + 4 + 5)


class ProbesTest(SimpleTestCase):
    def test_what_is_near_is_said(self) -> None:
        own = machine()
        near = own.mounts[own.fans[0].mount].centre_mm
        self.assertIn("Clip it", advice(own, near))
        self.assertIn("card", advice(own, Point(own.depth_mm / 2, 100, own.card_height_mm + 20)))
        self.assertIn("sheet metal", advice(own, Point(own.depth_mm / 2, 5, own.card_height_mm - 150)))
        self.assertIn("exhaust", advice(own, Point(own.depth_mm - 20, 100, own.height_mm - 60)))


class MicrophoneTest(SimpleTestCase):
    def test_a_floor_too_near_the_target_is_said(self) -> None:
        self.assertEqual(floor_words(27.0, 34.0), "")
        self.assertIn("4.0 dB", floor_words(30.0, 34.0))
        self.assertIn("too close", floor_words(32.0, 34.0))
        self.assertEqual(floor_words(None, 34.0), "")
        self.assertEqual(floor_words(30.0, None), "")


class ByHandTest(SimpleTestCase):
    def test_few_readings_carry_a_stated_accuracy(self) -> None:
        values = np.full(400, np.nan)
        values[[100, 200, 300]] = [30.0, 31.0, 32.0]
        log = RunLog(np.arange(400.0), {"air_low_c": values, "room_c": np.full(400, 22.0)})
        own = analyse(log).channel("air_low_c")
        assert own is not None
        self.assertEqual((own.mean, own.readings, own.flags), (31.0, 3, ("by_hand",)))
        self.assertAlmostEqual(own.rise_k or 0, 9.0)
        self.assertGreaterEqual(own.standard_error, 0.5)

    def test_scores_scatter_by_their_share(self) -> None:
        values = np.array([np.nan, 10_000.0])
        own = analyse(RunLog(np.array([0.0, 60.0]), {"score": values})).channel("score")
        assert own is not None
        self.assertAlmostEqual(own.standard_error, 70.0)
