"""How a machine's earlier runs tell the wait of the next: against formulas, a reference library's densities and simulation."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from scipy import stats

import tests.tools_path  # noqa: F401
from engine.runs import known
from engine.runs.ahead import AHEAD_S
from engine.runs.known import Course, ahead_of, known_of, pooled
from engine.runs.over_room import RoomSteps, Steps
from engine.runs.rounding import unseen_k
from engine.runs.series import Floats, RunLog
from engine.runs.settle import MOST_REMAINING_K, approach, course, courses_in, from_runs, judged_of
from engine.runs.stages import Read, Stages, stages
from engine.runs.wait import ONE_NUMBER
from study.settle import run_of
from study.waits import WARMS, Tally, layout_of, tallied
from tests.engine.test_limits import log as held_log

SLOW = ((20.0, 60.0), (12.0, 300.0), (4.0, 1000.0))  # K and s: the last has not shown yet when the others are over
LATER: Floats = np.arange(0.0, 9000.0)


def left(t: Floats, stretch: float = 1.0) -> Floats:
    return np.asarray(np.sum([k * np.exp(-t / (stretch * tau)) for k, tau in SLOW], axis=0), float)


def read(until_s: float, seed: int, stretch: float = 1.0) -> tuple[Floats, Floats]:
    t = np.arange(0.0, until_s)
    return t, np.round((55 - left(t, stretch) + np.random.default_rng(seed).normal(0, 0.3, len(t))) / 0.1) * 0.1


def wait_s(now_s: float, stretch: float = 1.0) -> float:
    return float(LATER[np.flatnonzero(left(LATER, stretch) > MOST_REMAINING_K)[-1]]) - now_s


def course_to_rest(seed: int, stretch: float = 1.0) -> Course:
    found = course(*read(4500, seed, stretch))
    assert found is not None
    return found


class KnownTest(SimpleTestCase):
    def test_a_slow_stage_that_has_not_shown_is_told_from_an_earlier_run(self) -> None:
        wanted = wait_s(500)
        alone, told = approach(*read(500, 1)), approach(*read(500, 1), known_of([course_to_rest(2, 1.1), course_to_rest(3, 0.95)]))
        assert alone and told
        self.assertLess(alone.wait.about_s, wanted / 1.5)
        self.assertAlmostEqual(told.wait.about_s / wanted, 1.0, delta=0.25)
        self.assertTrue(told.wait.least_s < wanted < told.wait.most_s, told.wait)
        self.assertLess(alone.wait.most_s, wanted)

    def test_they_are_named_where_they_tell_the_longest_wait(self) -> None:
        short, over = approach(*read(1500, 1), known_of([course_to_rest(2)])), approach(*read(4500, 1), known_of([course_to_rest(2)]))
        long = approach(*read(500, 1, 2.0))
        assert short and over and long
        self.assertEqual(from_runs([over, short]), "as this machine came to rest in 1 earlier run")
        self.assertEqual((from_runs([short, long]), from_runs([over]), from_runs([])), ("", "", ""))

    def test_only_the_wait_is_told_from_them(self) -> None:
        for seconds in (600, 1500, 4500):
            t, y = read(seconds, 4)
            alone, told = approach(t, y), approach(t, y, known_of([course_to_rest(5)]))
            assert alone and told
            for name in ("final", "final_band", "remaining", "remaining_bound", "slope_k_min", "settled", "why_not"):
                with self.subTest(seconds=seconds, name=name):
                    self.assertEqual(getattr(alone, name), getattr(told, name))

    def test_a_machine_that_was_changed_is_told_no_worse_than_from_its_own_course(self) -> None:
        courses = [course_to_rest(6), course_to_rest(7)]
        for stretch, cut_s in ((0.4, 400), (0.5, 500), (2.0, 900)):
            alone_in = told_in = 0
            for seed in range(8):
                alone, told = approach(*read(cut_s, seed, stretch)), approach(*read(cut_s, seed, stretch), known_of(courses))
                assert alone and told
                wanted = wait_s(cut_s, stretch)
                alone_in += alone.wait.least_s <= wanted <= alone.wait.most_s
                told_in += told.wait.least_s <= wanted <= told.wait.most_s
            with self.subTest(stretch=stretch):
                self.assertGreaterEqual(told_in, alone_in)

    def test_the_course_of_one_stage_is_its_exponential(self) -> None:
        t = np.arange(0.0, 2400.0)
        found = course(t, 50 - 30 * np.exp(-t / 300) + np.random.default_rng(8).normal(0, 0.05, len(t)))
        assert found is not None
        early = known.COMPARED_S < 900
        slope = np.polyfit(known.COMPARED_S[early], found.weights @ found.logs[:, early], 1)[0]
        self.assertAlmostEqual(-1 / slope, 300.0, delta=15.0)

    def test_what_hardly_moved_or_was_held_tells_nothing(self) -> None:
        t = np.arange(0.0, 900.0)
        self.assertIsNone(course(t, 40 + np.random.default_rng(9).normal(0, 0.2, len(t))))
        self.assertIsNone(course(t[:30], t[:30]))
        held = held_log(0.40)
        self.assertNotIn("cpu_package_c", courses_in(held, ["cpu_package_c"]))

    def test_cores_and_hot_spot_are_told_as_their_die(self) -> None:
        t, y = read(500, 1)
        log = RunLog(t, {"cpu_package_c": y, "cpu_core_1_c": y + 1, "card_hotspot_c": y + 9, "vrm_c": y})
        fits = judged_of(log, {"cpu_package_c": known_of([course_to_rest(2)]), "card_core_c": known_of([course_to_rest(3)] * 2)}).fits
        self.assertEqual(
            {n: f and f.runs_known for n, f in fits.items()}, {"cpu_package_c": 1, "cpu_core_1_c": 1, "card_hotspot_c": 2, "vrm_c": 0}
        )

    def test_runs_that_agree_outvote_one_that_does_not(self) -> None:
        odd = course(np.arange(0.0, 2400.0), read(2400, 10, 0.3)[1])
        assert odd is not None
        like = [course_to_rest(11), course_to_rest(12), course_to_rest(13)]
        found = pooled([odd, *like])
        apart = np.abs(found.logs - np.mean([c.weights @ c.logs for c in like], axis=0)).mean(axis=1)
        self.assertAlmostEqual(float(found.weights.sum()), 1.0, places=9)
        self.assertLess(float(found.weights @ apart), 0.3)

    def test_what_a_course_counts_is_its_marginal_likelihood(self) -> None:
        """Of two courses, against the density of all readings as one normal vector with a wide constant, times the chance that the last
        value lies within its bounds once they are read (scipy.stats)."""
        t = np.arange(0.0, 900.0, 15.0)
        y = 50 - 25 * np.exp(-t / 80) - 10 * np.exp(-t / 500) + np.random.default_rng(14).normal(0, 0.4, len(t))
        precision = np.random.default_rng(16).uniform(0.2, 9.0, len(t))

        def one(fast: float, slow: float, share: float) -> Course:
            return Course(np.ones(1), np.array([[fast, slow, 1.0]]), np.array([[1 - share, share, 0.0]]))

        def density(of: Course, weights: Floats, within: tuple[float, float] | None, found: Stages) -> float:
            choices = known_of([of])
            logs = []
            for weight, tau, share in zip(choices.before, choices.taus_s, choices.shares, strict=True):
                shapes = np.exp(-np.append(t, t[-1])[:, None] / tau)  # the last value once more, without its noise
                rise = shapes @ share
                along = rise[:-1] - np.average(rise[:-1], weights=weights)
                around = y - np.average(y, weights=weights)
                own = abs((along * weights) @ around / ((along * weights) @ along))
                spread = 1e5 + (known.RISE_SCALES * found.scale) ** 2 * np.outer(rise, rise)
                for k in range(2):
                    spread += (known.SHARE_SIGMA * share[k] * own) ** 2 * np.outer(shapes[:, k], shapes[:, k])
                of_y = spread[:-1, :-1] + found.variance * np.diag(1 / weights)
                logs.append(weight + stats.multivariate_normal(np.zeros(len(t)), of_y).logpdf(y))
                if within is not None:
                    pull = np.linalg.solve(of_y, spread[:-1, -1])
                    value = stats.norm(pull @ y, np.sqrt(spread[-1, -1] - pull @ spread[:-1, -1]))
                    logs[-1] += float(np.log(max(value.cdf(within[1]) - value.cdf(within[0]), 1e-300)))
            return float(np.logaddexp.reduce(logs))

        def counted(of: Course, read: Read, found: Stages) -> float:
            ahead, alone = ahead_of(read, found, known_of([of]))
            return float(np.log(ahead.weights.sum() / alone.weights.sum()))

        near, far = one(85, 480, 0.3), one(60, 350, 0.2)
        for given in (np.ones(len(t)), precision):
            for within in (None, (47.8, 48.4)):
                with self.subTest(weighed=given is precision, within=within):
                    read = Read(t, y, precision=given, within=within)
                    found = stages(read)
                    told = counted(near, read, found) - counted(far, read, found)
                    self.assertAlmostEqual(told, density(near, given, within, found) - density(far, given, within, found), delta=0.05)

    def test_the_wait_of_a_course_is_that_of_its_formula(self) -> None:
        """Where the readings leave no doubt, every choice reaches half a kelvin when the formula does, to a step of AHEAD_S."""
        t = np.arange(0.0, 900.0, 5.0)
        y = 55 - left(t)
        found = stages(Read(t, y))
        shares = np.array([[k for k, _ in SLOW]]) / sum(k for k, _ in SLOW)
        known_course = known_of([Course(np.ones(1), np.array([[60.0, 300.0, 1000.0]]), shares)])
        ahead, _ = ahead_of(Read(t, y + np.random.default_rng(15).normal(0, 0.01, len(t))), found, known_course)
        at, share = ahead.until(MOST_REMAINING_K, 0.0)
        step = float(np.max(np.diff(AHEAD_S[(AHEAD_S > 500) & (AHEAD_S < 3000)])))
        self.assertAlmostEqual(float(at @ share / share.sum()), wait_s(900), delta=step)

    def test_whole_degrees_without_noise_tell_the_wait_by_when_they_pass(self) -> None:
        """Each reading of a sensor in steps tells that the value lies about its step: far more than means over the stairs do. Not where a
        room in whole degrees was taken away from it, which may have moved unseen."""
        told: dict[float, list[float]] = {0.0: [], 1.0: []}
        machine, off = next(k for k in WARMS if k.words == "two stages, whole degrees, calm"), []
        for seed in range(14):
            run, before = (run_of(layout_of(machine, seed, i), 100 * seed + i, cut) for i, cut in enumerate(((3.0, 6.0), (0.05, 0.05))))
            for room_step, ranges in told.items():
                steps = Steps(run.steps.own, RoomSteps(unseen_k(room_step, 0.0)))
                own = course(before.t, before.read, steps)
                assert own
                fit = approach(run.t, run.read, known_of([own]), steps)
                assert fit
                ranges.append(fit.wait.most_s / fit.wait.least_s)
                off += [abs(np.log(fit.minutes_left / run.minutes_left))] if not room_step and ranges[-1] <= ONE_NUMBER else []
        said, hidden = (sum(x <= ONE_NUMBER for x in told[step]) for step in (0.0, 1.0))
        self.assertGreater(said, 1.5 * hidden, told)
        self.assertLess(float(np.quantile(off, 0.8)), np.log(1.5), off)

    def test_a_slow_swing_of_earlier_runs_is_reckoned_with_before_it_shows(self) -> None:
        def swinging(until_s: float, seed: int) -> tuple[Floats, Floats]:
            t, y = read(until_s, seed)
            turn = float(np.random.default_rng(seed).uniform(0, 2 * np.pi))
            return t, y + 1.5 * np.clip(2 * (y - 19) / 36 - 1, 0, 1) * np.sin(2 * np.pi * t / 350 + turn)

        earlier = [c for seed in (21, 22) if (c := course(*swinging(5400, seed))) is not None]
        for own in earlier:
            self.assertAlmostEqual(own.swing_k2s / (0.1 * 1.5**2 * 350), 1.0, delta=0.15)
        self.assertEqual([course_to_rest(2).swing_k2s, pooled(earlier).swing_k2s], [0.0, np.mean([c.swing_k2s for c in earlier])])
        still = [replace(c, noise_k2s=0.0, swing_k2s=0.0) for c in earlier]
        wanted, held, right, right_still = wait_s(600), 0, 0, 0
        for seed in range(30, 46):
            told, told_still = (approach(*swinging(600, seed), known_of(of)) for of in (earlier, still))
            assert told and told_still
            self.assertIsNone(told.hunting, "not yet two turns and a half")
            held += told.wait.least_s <= wanted <= told.wait.most_s
            right += 1 / 1.5 <= told.wait.about_s / wanted <= 1.5
            right_still += 1 / 1.5 <= told_still.wait.about_s / wanted <= 1.5
        self.assertGreaterEqual(min(held, right), 14)
        self.assertGreater(right, right_still + 2)

    def test_odd_readings_and_odd_earlier_runs_give_a_wait_or_none(self) -> None:
        rng = np.random.default_rng(16)
        t = np.arange(0.0, 700.0)
        odd = {
            "flat": np.full(len(t), 40.0),
            "a step": np.where(t < 300, 30.0, 60.0),
            "falling": 60 - left(t)[::-1],
            "noise": rng.normal(50, 20, len(t)),
            "gaps": np.where(rng.random(len(t)) < 0.8, np.nan, 55 - left(t)),
            "huge": 1e6 * (1 - np.exp(-t / 200)),
            "tiny": 1e-6 * (1 - np.exp(-t / 200)),
            "swings": 55 - left(t) + 6 * np.sin(t / 12),
        }
        courses = [c for y in odd.values() if (c := course(t, y)) is not None] + [course_to_rest(17)]
        for name, y in odd.items():
            for few in ([courses[-1]], courses, courses[:1]):
                with self.subTest(name=name, runs=len(few)), np.errstate(all="raise", under="ignore"):
                    found = approach(t, y, known_of(few))
                    assert found is not None
                    wait = found.wait
                    self.assertTrue(0 <= wait.least_s <= wait.about_s <= wait.most_s < np.inf, wait)

    def test_a_few_machines_of_each_kind(self) -> None:
        """Of the study (docs/evidence-waits.md has more): limits wide enough for so few."""
        whole = Tally()
        for own in WARMS[::4]:
            whole.add(tallied(own, 1, 4))
        four = whole.four
        self.assertGreaterEqual(four["in_range"], int(stats.binom.ppf(0.001, four["timed"], 0.8)))
        self.assertGreaterEqual(four["numbered_well"], int(stats.binom.ppf(0.001, four["numbered"], 0.8)))
        self.assertGreater(four["numbered"], whole.none["numbered"])
