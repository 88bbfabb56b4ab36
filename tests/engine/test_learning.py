"""Learning a case: the algebra against closed forms, hidden truths held, what contradicts shown and not averaged."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from statsmodels.regression.linear_model import GLS

from engine.coupled.bands import absolute_band_k
from engine.coupled.operating_point import OperatingPoint, loaded, operating_point
from engine.errors import OventaError
from engine.learn.case import PARTS, Case, Reading, as_part, held_k, learn, unheld_k
from engine.learn.causes import causes
from engine.learn.gaussian import SIZES, Asked, Told, figures, left_out, parameters
from engine.learn.levels import LevelReading, learn_levels
from engine.learn.likeness import distance, features, likeness
from engine.machine import Machine, PlacedFan, SealedCooler
from engine.parameters import COUNT, DEFAULT, INDEX, SPREADS
from tests.machines import machine

LAYOUTS = ("A", "B", "C", "D")


def demo_cases(load: str = "both") -> list[Case]:
    return [Case(x, load, loaded(machine(layout_id=x), load)) for x in LAYOUTS]


def turned(m: Machine, mount: str) -> Machine:
    at = next(i for i, f in enumerate(m.fans) if f.mount == mount)
    return replace(
        m,
        fans=(*m.fans[:at], replace(m.fans[at], direction="exhaust" if m.fans[at].direction == "intake" else "intake"), *m.fans[at + 1 :]),
    )


def readings_of(points: dict[str, OperatingPoint], layouts: str, seed: int = 1, repeats: int = 2) -> list[Reading]:
    rng = np.random.default_rng(seed)
    return [
        Reading(f"{x}{n}", x, "both", part, rise + float(rng.normal(0, 0.4)), 0.5)
        for x in layouts
        for n in range(repeats)
        for part, rise in zip(PARTS, (points[x].cpu_rise_k, points[x].card_rise_k or 0.0), strict=True)
    ]


def planted(**sigmas: float) -> dict[str, OperatingPoint]:
    at = np.zeros(COUNT)
    for name, value in sigmas.items():
        at[INDEX[name]] = value
    return {c.layout: operating_point(c.machine, DEFAULT * SPREADS**at) for c in demo_cases()}


class AlgebraTest(SimpleTestCase):
    """A linear toy whose posterior is known: conjugate regression (Rasmussen and Williams 2.1), and statsmodels' generalised least
    squares with the prior as rows of its own."""

    def setUp(self) -> None:
        rng = np.random.default_rng(3)
        self.jacobian = rng.normal(size=(12, 4))
        self.noise = np.diag(rng.uniform(0.2, 1.0, 12))
        self.y = self.jacobian @ rng.normal(size=4) + rng.normal(size=12) * np.sqrt(np.diag(self.noise))
        self.told = Told(self.y, self.jacobian, np.zeros((12, 12)), self.noise)

    def test_the_posterior_is_the_closed_form(self) -> None:
        precision = self.jacobian.T @ np.linalg.inv(self.noise) @ self.jacobian + np.eye(4)
        mean, spread = parameters(self.told, 4)
        np.testing.assert_allclose(spread, np.linalg.inv(precision), atol=1e-10)
        np.testing.assert_allclose(mean, np.linalg.solve(precision, self.jacobian.T @ np.linalg.inv(self.noise) @ self.y), atol=1e-10)

    def test_and_that_of_a_library(self) -> None:
        rows, sigma = np.vstack([self.jacobian, np.eye(4)]), np.diag(np.r_[np.diag(self.noise), np.ones(4)])
        fit = GLS(np.r_[self.y, np.zeros(4)], rows, sigma=sigma).fit()
        mean, spread = parameters(self.told, 4)
        np.testing.assert_allclose(mean, fit.params, atol=1e-9)
        np.testing.assert_allclose(spread, fit.normalized_cov_params, atol=1e-9)

    def test_figures_follow_the_parameters(self) -> None:
        new = np.random.default_rng(4).normal(size=(3, 4))
        none, cross = np.zeros((3, 3)), np.zeros((3, 12))
        mean, covariance = figures(self.told, Asked(np.zeros(3), new, none, none, cross, cross), np.zeros(4))
        at, spread = parameters(self.told, 4)
        np.testing.assert_allclose(mean, new @ at, atol=1e-9)
        np.testing.assert_allclose(covariance, new @ spread @ new.T, atol=1e-9)

    def test_a_row_left_out_is_one_predicted_without_it(self) -> None:
        rest = [i for i in range(12) if i != 5]
        gap, own = left_out(self.told, [5], 1.0)
        without = Told(self.y[rest], self.jacobian[rest], np.zeros((11, 11)), self.noise[np.ix_(rest, rest)])
        at, spread = parameters(without, 4)
        self.assertAlmostEqual(gap[0], self.y[5] - self.jacobian[5] @ at, places=9)
        self.assertAlmostEqual(own[0, 0], self.noise[5, 5] + self.jacobian[5] @ spread @ self.jacobian[5], places=9)

    def test_the_size_of_the_models_error_is_told_by_the_readings(self) -> None:
        rng = np.random.default_rng(5)
        for true, low, high in ((0.5, 0.4, 0.8), (2.8, 1.6, 3.0)):
            y = rng.normal(0, true * 1.5, 60)
            told = Told(y, np.zeros((60, 1)), 1.5**2 * np.eye(60), 0.01 * np.eye(60))
            self.assertTrue(low < told.size < high, (true, told.size))
        self.assertAlmostEqual(float(told.weights.sum()), 1.0)
        self.assertEqual(len(told.weights), len(SIZES))


class LikenessTest(SimpleTestCase):
    def test_near_layouts_are_liker_than_far_ones(self) -> None:
        a, d = machine(layout_id="A"), machine(layout_id="D")
        slower = replace(a, fans=tuple(replace(f, speed_pct=0.9 * f.speed_pct) for f in a.fans))
        own, near, flipped, far = (features(operating_point(m), "both") for m in (a, slower, turned(a, "r1"), d))
        apart = [distance(own, x) for x in (own, near, flipped, far)]
        self.assertEqual(apart[0], 0.0)
        self.assertLess(apart[1], min(apart[2:]) / 10)
        table = likeness([own, near, flipped, far], [own, near, flipped, far])
        self.assertGreater(np.linalg.eigvalsh(table).min(), -1e-9)

    def test_layouts_are_the_same_by_what_they_are_made_of(self) -> None:
        """Not by how air goes through them: a pump turned down moves no air, and is another layout all the same."""
        d = machine(layout_id="D")
        own = features(operating_point(d), "both")
        renamed = features(operating_point(loaded(replace(d, layout_id="E"), "cpu")), "cpu")
        assert isinstance(d.cooler, SealedCooler)
        slower = features(operating_point(replace(d, cooler=replace(d.cooler, pump_pct=60.0))), "both")
        self.assertEqual(own.machine, renamed.machine)
        self.assertNotEqual(own.machine, slower.machine)

    def test_another_load_is_less_alike(self) -> None:
        point = operating_point(machine())
        self.assertLess(likeness([features(point, "cpu")], [features(point, "both")])[0, 0], 1.0)


class CaseTest(SimpleTestCase):
    def test_without_readings_it_is_the_forecast(self) -> None:
        figures, _ = learn(demo_cases(), []).of(demo_cases())
        point = operating_point(demo_cases()[0].machine)
        self.assertAlmostEqual(figures[0].rise_k, point.cpu_rise_k, places=9)
        self.assertAlmostEqual(figures[0].band_k, absolute_band_k(point, "cpu", point.cpu_rise_k), places=9)

    def test_of_nothing_at_all_nothing_is_learned(self) -> None:
        figures, _ = learn([], []).of(demo_cases())
        self.assertEqual(len(figures), 8)

    def test_a_planted_path_is_found_and_carries_to_a_layout_never_run(self) -> None:
        truth = planted(cpu_path=1.5, card_path=-1.5)
        cases = demo_cases()
        learned = learn(cases, readings_of(truth, "ABC"))
        named = {p.name: p for p in learned.parameters}
        self.assertGreater(named["cpu_path"].value, 1.05)
        self.assertLess(named["card_path"].value, 0.95)
        self.assertLess(named["cpu_path"].sd, 0.8 * named["cpu_path"].prior_sd)
        before, after = (x.of(cases)[0] for x in (learn(cases, []), learned))
        for sheet, now in zip(before, after, strict=True):
            true = truth[now.layout].cpu_rise_k if now.part == "cpu" else truth[now.layout].card_rise_k or 0.0
            self.assertLess(abs(now.rise_k - true), now.band_k)
            self.assertLess(now.band_k, sheet.band_k / 2)
        far = next(f for f in after if (f.layout, f.part) == ("D", "cpu"))
        self.assertGreater(far.band_k, 1.5 * next(f for f in after if (f.layout, f.part) == ("C", "cpu")).band_k)

    def test_hidden_truths_lie_within_the_bands(self) -> None:
        """A short look; the rates over hundreds of truths are those of ``./oventa study --learn``."""
        held, cases = [], demo_cases()
        for seed in range(12):
            rng = np.random.default_rng(seed)
            vector = DEFAULT * SPREADS ** rng.normal(size=COUNT)
            points = {c.layout: operating_point(c.machine, vector) for c in cases}
            own = {(x, p): float(rng.normal(0, 1.5)) for x in LAYOUTS for p in PARTS}
            given = [replace(r, rise_k=r.rise_k + own[r.layout, r.part]) for r in readings_of(points, "ABC", seed)]
            for f in learn(cases, given).of(cases)[0]:
                if f.layout == "D" and not f.limited:
                    true = points["D"].cpu_rise_k if f.part == "cpu" else points["D"].card_rise_k or 0.0
                    held.append(abs(f.rise_k - true - own["D", f.part]) < f.band_k)
        self.assertGreaterEqual(np.mean(held), 0.8)

    def test_what_sensors_share_leaves_differences_alone(self) -> None:
        cases, truth = demo_cases(), planted()
        given = readings_of(truth, "ABCD")
        shared = [replace(r, common_k=3.0, rise_k=r.rise_k + 3.0) for r in given]
        one, two = learn(cases, given).of(cases)[0], learn(cases, shared).of(cases)[0]
        self.assertAlmostEqual(one[6].rise_k - one[0].rise_k, two[6].rise_k - two[0].rise_k, delta=0.4)

    def test_a_part_is_held_at_its_limit_as_learned_not_as_its_sheet_has_it(self) -> None:
        """Warmer than its sheet: at its limit where the sheet leaves room. Cooler: free where the sheet has it held."""
        cases = demo_cases()
        for factor, room_k in ((1.15, 1.06), (0.85, 0.94)):
            points = {c.layout: operating_point(c.machine) for c in cases}
            told = [Reading(f"{x}{n}", x, "both", "cpu", factor * points[x].cpu_rise_k, 0.3) for x in "AB" for n in range(3)]
            hot = points["D"].cpu_rise_k * room_k
            m = cases[3].machine
            tight = replace(m, cpu=replace(m.cpu, tj_max_c=m.room.temperature_c + hot))
            found = learn([*cases[:2]], told)
            (figure, _), covariance = found.of([Case("D", "both", tight)])
            plain = operating_point(tight)
            self.assertEqual(plain.powers.cpu_limited, factor < 1)
            self.assertEqual(figure.limited, factor > 1)
            part = as_part(figure, 20.0)
            if factor > 1:
                self.assertAlmostEqual(part.rise_k, hot, places=6)
                self.assertLess(part.power_w, 0.97 * m.cpu.power_w)
                self.assertEqual(float(covariance[0, 0]), 0.0)
            else:
                self.assertLess(part.rise_k, hot - 1)
                self.assertEqual(part.power_w, m.cpu.power_w)
            self.assertEqual((part.limited, part.temperature_c), (figure.limited, 20.0 + part.rise_k))

    def test_held_powers_go_in_proportion_and_back(self) -> None:
        rises, limits, powers = np.array([50.0, 80.0, 70.0]), np.array([70.0, 70.0, np.inf]), np.array([100.0, 200.0, 0.0])
        held, lost = held_k(rises, limits, powers)
        np.testing.assert_allclose(held, [50, 70, 70])
        np.testing.assert_allclose(lost, [0, 25, 0])
        np.testing.assert_allclose(unheld_k(held, powers, powers - lost), rises)

    def test_a_layout_that_was_never_given_is_refused(self) -> None:
        with self.assertRaises(OventaError):
            learn(demo_cases()[:1], [Reading("x", "D", "both", "cpu", 40.0, 0.5)])

    def test_a_layout_without_a_card_teaches_nothing_of_one(self) -> None:
        bare = [replace(c, machine=replace(c.machine, card=None)) for c in demo_cases()[:1]]
        learned = learn(bare, [Reading("x", "A", "both", "card", 40.0, 0.5)])
        self.assertEqual(len(learned.left_aside), 1)
        self.assertEqual([f.part for f in learned.of(bare)[0]], ["cpu"])


class ExpectedTest(SimpleTestCase):
    def test_it_is_what_learning_from_the_others_says(self) -> None:
        points = planted(cpu_path=1.2, card_path=-0.8)
        told = readings_of(points, "ABCD", seed=4)
        found = {(x.layout, x.part): x for x in learn(demo_cases(), told).expected()}
        self.assertEqual(len(found), 8)
        for i, name in enumerate(LAYOUTS):
            rest = learn([c for c in demo_cases() if c.layout != name], [r for r in told if r.layout != name])
            for figure in rest.of([demo_cases()[i]])[0]:
                x = found[name, figure.part]
                self.assertAlmostEqual(x.forecast_k, figure.rise_k, delta=0.6)
                self.assertAlmostEqual(x.forecast_band_k, figure.band_k, delta=0.25 * figure.band_k)
                self.assertLess(abs(x.measured_k - x.forecast_k), np.hypot(x.forecast_band_k, x.measured_band_k) * 1.5)

    def test_what_nobody_expected_stands_out(self) -> None:
        points = planted()
        told = [
            replace(r, rise_k=r.rise_k - 14) if (r.layout, r.part) == ("B", "cpu") else r for r in readings_of(points, "ABCD", repeats=3)
        ]
        found = learn(demo_cases(), told).expected()

        def z(name: str, part: str) -> float:
            x = next(x for x in found if (x.layout, x.part) == (name, part))
            return 2 * (x.measured_k - x.forecast_k) / float(np.hypot(x.forecast_band_k, x.measured_band_k))

        self.assertLess(z("B", "cpu"), -2.5)
        self.assertTrue(all(abs(z(x, "card")) < 2 for x in LAYOUTS))

    def test_of_a_single_layout_nothing_else_was_expected(self) -> None:
        self.assertEqual(learn(demo_cases(), readings_of(planted(), "A")).expected(), [])


class ContradictionTest(SimpleTestCase):
    def test_a_fan_that_was_really_the_other_way_round_is_named(self) -> None:
        truth = planted(cpu_path=0.5)
        really = operating_point(turned(demo_cases()[3].machine, "t1"), truth["D"].parameters)
        cases = demo_cases()
        wrong = {**truth, "D": really}
        learned = learn(cases, readings_of(wrong, "ABCD"))
        odd = [c for c in learned.contradictions if c.part == "card"]
        self.assertEqual({c.layout for c in odd}, {"D"})
        self.assertTrue(all(abs(c.z) > 3 and not c.alone for c in odd))
        clean = learn(cases, readings_of(truth, "ABC"))
        others = [(a, b) for a, b in zip(learned.of(cases)[0], clean.of(cases)[0], strict=True) if a.layout != "D"]
        for a, b in others:
            self.assertAlmostEqual(a.rise_k, b.rise_k, delta=0.8)  # what contradicts is not averaged into the others
        own = next(f for f in learned.of(cases)[0] if (f.layout, f.part) == ("D", "card"))
        self.assertAlmostEqual(own.rise_k, really.card_rise_k or 0.0, delta=1.0)
        gaps = {c.part: c.measured_k - c.forecast_k for c in odd[:1]}
        told = causes(operating_point(cases[3].machine, learned.vector), gaps, {c.part: c.sigma_k for c in odd[:1]})
        self.assertIn(("fan_reversed", "t1"), [(c.code, c.mount) for c in told])

    def test_one_run_of_three_that_is_off_is_told_from_its_repeats(self) -> None:
        cases, truth = demo_cases(), planted()
        given = readings_of(truth, "ABC", repeats=3)
        given[0] = replace(given[0], rise_k=given[0].rise_k + 9.0)
        learned = learn(cases, given)
        self.assertEqual([(c.run, c.part, c.alone) for c in learned.contradictions], [("A0", "cpu", True)])
        own = next(f for f in learned.of(cases)[0] if (f.layout, f.part) == ("A", "cpu"))
        self.assertAlmostEqual(own.rise_k, truth["A"].cpu_rise_k, delta=1.0)

    def test_honest_runs_contradict_nothing(self) -> None:
        self.assertEqual(learn(demo_cases(), readings_of(planted(installed_fan=-1.0), "ABCD")).contradictions, [])

    def test_nothing_explains_what_nothing_would_do(self) -> None:
        point = operating_point(demo_cases()[0].machine)
        self.assertEqual(causes(point, {"cpu": 0.3, "card": 0.1}, {"cpu": 1.0, "card": 1.0}), [])


def _louder(placed: PlacedFan) -> PlacedFan:
    return replace(placed, fan=replace(placed.fan, noise_dba=placed.fan.noise_dba + 4))


class LevelsTest(SimpleTestCase):
    def test_a_louder_fan_is_learned_and_carried_over(self) -> None:
        points = [operating_point(c.machine) for c in demo_cases()]
        louder = [operating_point(replace(p.machine, fans=tuple(_louder(f) for f in p.machine.fans))) for p in points]
        truth = learn_levels(louder, [], []).levels
        given = [LevelReading(f"{x.layout}", x.layout, x.level_dba, 0.4, 0.7) for x in truth[:3]]
        before, after = learn_levels(points, [], []), learn_levels(points, points[:3], given)
        self.assertLess(abs(after.levels[3].level_dba - truth[3].level_dba), abs(before.levels[3].level_dba - truth[3].level_dba))
        self.assertLess(after.levels[3].band_db, before.levels[3].band_db)
        self.assertGreater(after.sources["tern-120"][0], 0.3)
        alone = learn_levels(points[3:], points[:3], given)  # asked of one layout: what others taught counts all the same
        self.assertAlmostEqual(alone.levels[0].level_dba, after.levels[3].level_dba, places=9)

    def test_a_meter_off_by_some_decibels_leaves_differences_alone(self) -> None:
        points = [operating_point(c.machine) for c in demo_cases()]
        plain = learn_levels(points, [], []).levels
        off = learn_levels(points, points, [LevelReading(x.layout, x.layout, x.level_dba + 2.0, 0.2, 5.0) for x in plain])
        self.assertAlmostEqual(off.difference(0, 3)[0], plain[3].level_dba - plain[0].level_dba, delta=0.3)
