"""Budgets, comparison, scatter and drift against published examples and reference libraries."""

from dataclasses import replace
from math import inf, sqrt

import numpy as np
from django.test import SimpleTestCase
from scipy import stats
from uncertainties import ufloat

from engine.runs.analysis import analyse
from engine.runs.budget import BudgetLine, budget, combined, coverage_factor, mean_of_runs, rectangular, t_above
from engine.runs.flag import Flag
from engine.verdict.candidate import Candidate
from engine.verdict.compare import FROM_RUN_TO_RUN, Test, compare, layout_budget, pair_budget
from engine.verdict.drift import suspected, without_drift
from engine.verdict.scatter import LEAST_BETWEEN, PRIOR_FREEDOM, PRIOR_RISE_SHARE, Prior, grubbs, learned, odd_runs, pooled_scatter
from tests.engine.test_runs import run_log
from tests.runs_made import layout, run


class BudgetTest(SimpleTestCase):
    # Source: GUM (JCGM 100:2008), H.1, calibration of an end gauge: table H.1 and H.1.6, in nm with degrees of freedom.
    GAUGE = (
        BudgetLine("standard", 25.0, "B", 18.0),
        BudgetLine("measured difference", 9.7, "A", 25.6),
        BudgetLine("expansion coefficients", 2.9, "B", 50.0),
        BudgetLine("temperatures", 16.6, "B", 2.0),
    )

    def test_the_end_gauge_of_the_gum(self) -> None:
        standard, freedom = combined(self.GAUGE)
        self.assertAlmostEqual(standard, 32, delta=0.5)
        self.assertAlmostEqual(freedom, 16.7, delta=0.1)
        self.assertAlmostEqual(coverage_factor(16, 0.99), 2.92, delta=0.005)
        self.assertAlmostEqual(coverage_factor(16, 0.99) * standard, 93, delta=1)

    def test_coverage_factors_of_table_g2(self) -> None:
        # Source: GUM, table G.2, fraction 95 %.
        for freedom, factor in ((1, 12.71), (2, 4.30), (5, 2.57), (10, 2.23), (50, 2.01), (inf, 1.960)):
            self.assertAlmostEqual(coverage_factor(freedom), factor, delta=0.005)

    def test_a_rectangle_of_half_width_a(self) -> None:
        # Source: GUM, 4.3.7: a / sqrt(3).
        self.assertAlmostEqual(rectangular(0.3), 0.3 / sqrt(3))

    def test_combination_against_the_uncertainties_library(self) -> None:
        rise = ufloat(71.3, 0.21) - ufloat(22.1, 0.17) + ufloat(0, 0.08)
        own = budget(rise.nominal_value, [BudgetLine("a", 0.21), BudgetLine("b", 0.17), BudgetLine("c", 0.08)])
        self.assertAlmostEqual(own.standard, rise.std_dev, places=12)
        self.assertIsNone(own.freedom)

    def test_own_errors_average_out_and_shared_ones_stay(self) -> None:
        runs = [[BudgetLine("own", 0.3), BudgetLine("shared", 0.5, common=True)] for _ in range(4)]
        values = [ufloat(50, 0.3) for _ in range(4)]
        mean = sum(values) / 4 + ufloat(0, 0.5)
        found = mean_of_runs(runs)
        self.assertAlmostEqual(combined(found)[0], mean.std_dev, places=12)

    def test_a_run_s_budget_is_complete(self) -> None:
        run = analyse(run_log(45, seed=3))
        cpu = run.channel("cpu_package_c")
        assert cpu and cpu.rise_k is not None and cpu.rise_standard_error
        self.assertEqual(
            [x.what for x in cpu.budget],
            [
                "scatter within the window",
                "the sensor's whole steps",
                "the room thermometer from one run to the next",
                "the room thermometer's own error",
                "the sensor's own error",
            ],
        )
        own, _ = combined(x for x in cpu.budget if not x.common)
        self.assertAlmostEqual(own, cpu.rise_standard_error, places=9)

    def test_student_s_tail_against_scipy(self) -> None:
        for t, freedom in ((0.3, 4.0), (2.5, 11.3), (-1.0, 7.0)):
            self.assertAlmostEqual(t_above(t, freedom), float(stats.t.sf(t, freedom)), places=12)


class DifferenceTest(SimpleTestCase):
    def test_welch_and_satterthwaite_against_scipy(self) -> None:
        # Source: scipy.stats.ttest_ind(equal_var=False), Welch's test.
        rng = np.random.default_rng(5)
        a, b = rng.normal(50, 0.4, 6), rng.normal(48, 1.1, 4)
        lines = [BudgetLine("scatter", float(x.std(ddof=1)) / sqrt(len(x)), "A", len(x) - 1.0) for x in (a, b)]
        standard, freedom = combined(lines)
        expected = stats.ttest_ind(b, a, equal_var=False)
        own = Test(float(b.mean() - a.mean()), standard, freedom)
        self.assertAlmostEqual(own.p_differs, float(expected.pvalue), places=10)
        self.assertAlmostEqual(freedom, float(expected.df), places=8)

    def test_what_both_share_falls_out_of_a_difference(self) -> None:
        a, b = layout("A", cpu_package_c=50), layout("B", cpu_package_c=47)
        alone, apart = layout_budget([a, b], a, "cpu_package_c"), pair_budget([a, b], a, b, "cpu_package_c")
        assert alone and apart
        self.assertTrue(any(x.common for x in alone.lines))
        self.assertFalse(any(x.common for x in apart.lines))
        self.assertLess(apart.standard, alone.standard)
        pair = compare([a, b])[0]
        self.assertAlmostEqual(pair.expanded_uncertainty_k or 0, apart.expanded, places=9)
        self.assertLess(alone.factor * alone.among_alike, alone.expanded)

    def test_a_difference_by_hand(self) -> None:
        # Two runs each, exact repeats: their two degrees show nothing, the rest of the prior's stands for builds and errors within a
        # run (0.1 and 0.3/sqrt(3)); those stand in lines of their own and are not counted twice (source: smyth).
        a = Candidate("A", [run(cpu_package_c=50.0)] * 2)
        b = Candidate("B", [run(cpu_package_c=46.0)] * 2)
        within = 0.1**2 + 0.3**2 / 3
        rest = PRIOR_FREEDOM - 2
        whole = rest * ((PRIOR_RISE_SHARE * 48) ** 2 + within) / (2 + rest)
        sigma = sqrt(max(whole - within, LEAST_BETWEEN**2 * max(whole, within)))
        expected = ufloat(0, sigma / sqrt(2)) - ufloat(0, sigma / sqrt(2))
        for _ in "ab":
            expected += sum(ufloat(0, 0.1) for _ in range(2)) / 2 + sum(ufloat(0, 0.3 / sqrt(3)) for _ in range(2)) / 2
        pair = compare([a, b])[0]
        self.assertAlmostEqual(pair.standard_k or 0, expected.std_dev, places=9)
        self.assertAlmostEqual(pair.difference_k or 0, -4.0, places=9)

    def test_what_it_would_take_to_tell(self) -> None:
        a, b = layout("A", 2, 0.8, cpu_package_c=50), layout("B", 2, 0.8, cpu_package_c=48.7)
        pair = compare([a, b])[0]
        self.assertEqual(pair.word, "cannot_tell")
        assert pair.tell
        self.assertGreater(pair.tell.repeats, 2)
        many = [layout(n, pair.tell.repeats, 0.6, cpu_package_c=v) for n, v in (("A", 50.0), ("B", 48.7))]
        self.assertEqual(compare(many)[0].word, pair.tell.word)
        alike = compare([layout("A", 1, cpu_package_c=50), layout("B", 1, cpu_package_c=50.1)])[0]
        assert alike.tell
        self.assertEqual(alike.tell.word, "no_difference")

    def test_a_capped_pair_is_judged_by_power_and_clock(self) -> None:
        held = [Flag("throttled", 900, 2400, "power fell from 190 W to 150 W", "cpu_package_c")]
        a = Candidate("A", [run(held, cpu_package_c=75.0, cpu_power_w=150.0, cpu_clock_mhz=4300.0)])
        b = Candidate("B", [run(held, cpu_package_c=75.0, cpu_power_w=170.0, cpu_clock_mhz=4500.0)])
        pairs = {p.channel: p for p in compare([a, b])}
        self.assertTrue(pairs["cpu_package_c"].at_limit)
        self.assertEqual(pairs["cpu_package_c"].word, "cannot_tell")
        self.assertEqual((pairs["cpu_power_w"].word, pairs["cpu_clock_mhz"].word), ("better", "better"))

    def test_unlike_things_are_context_and_other_differences_are_said(self) -> None:
        def sided(**unlike: str) -> list[tuple[str, bool, str]]:
            a, b = layout("A", cpu_package_c=50), layout("B", cpu_package_c=40)
            a.conditions.extend([{"card": "one", "protocol": "short v1"}] * 2)
            b.conditions.extend([{"card": "one", "protocol": "short v1"} | unlike] * 2)
            return [(p.word, p.context, "; ".join(p.confounders)) for p in compare([a, b])]

        self.assertEqual(sided()[0], ("better", False, ""))
        self.assertEqual(sided(card="another")[0][:2], ("cannot_tell", True))
        word, context, said = sided(protocol="short v2")[0]
        self.assertEqual((word, context), ("better", False))
        self.assertIn("short v1 against short v2", said)

    def test_other_jobs_are_judged_only_where_parts_and_protocol_are_known_to_match(self) -> None:
        alike = {"processor": "one", "card": "one", "protocol": "short v1", "case": "here"}

        def across(**unlike: str) -> tuple[str, bool]:
            a, b = layout("A", cpu_package_c=50), layout("B", cpu_package_c=40)
            a.conditions.extend([alike] * 2)
            b.conditions.extend([{k: v for k, v in (alike | unlike).items() if v} | {"job": "another"}] * 2)
            pair = compare([a, b])[0]
            return pair.word, pair.context

        self.assertEqual(across(), ("better", False))
        self.assertEqual(across(case="there"), ("better", False))  # the cases are what is compared
        for unlike in ({"card": "two"}, {"protocol": "short v2"}, {"protocol": ""}):
            self.assertEqual(across(**unlike), ("cannot_tell", True), unlike)

    def test_another_clock_shows(self) -> None:
        a = layout("A", cpu_package_c=50, cpu_power_w=125, cpu_clock_mhz=4700)
        b = layout("B", cpu_package_c=46, cpu_power_w=125, cpu_clock_mhz=4400)
        pair = next(p for p in compare([a, b]) if p.channel == "cpu_package_c")
        self.assertIn("unlike clock: 4700 MHz against 4400 MHz", pair.confounders)

    def test_scores_within_a_percent_and_a_kelvin_are_no_difference(self) -> None:
        a, b = layout("A", 6, 0.05, score=10000, cpu_package_c=50.0), layout("B", 6, 0.05, score=10050, cpu_package_c=50.4)
        self.assertEqual({p.channel: p.word for p in compare([a, b])}, {"score": "no_difference", "cpu_package_c": "no_difference"})


class ScatterTest(SimpleTestCase):
    def test_moderated_by_hand(self) -> None:
        # Source: Smyth (2004): (w s0² + d s²) / (w + d), with w = d0 - d where the prior only fills up what repeats do not give.
        a = Candidate("A", [run(cpu_package_c=v) for v in (50.0, 51.0, 52.0)])
        found = pooled_scatter([a], "cpu_package_c")
        within, w = 0.1**2 + 0.3**2 / 3, PRIOR_FREEDOM - 2
        self.assertAlmostEqual(found.sigma, sqrt((w * ((PRIOR_RISE_SHARE * 51) ** 2 + within) + 2 * 1.0) / PRIOR_FREEDOM))
        self.assertEqual((found.freedom, found.repeats), (PRIOR_FREEDOM, 2))
        many = pooled_scatter([Candidate("A", [run(cpu_package_c=v) for v in (50.0, 51.0, 52.0, 53.0)])], "cpu_package_c")
        self.assertAlmostEqual(many.sigma, sqrt(5 / 3))
        self.assertEqual(many.freedom, 3)
        alone = pooled_scatter([Candidate("A", [run(cpu_package_c=50.0)])], "cpu_package_c")
        self.assertAlmostEqual(alone.between, 0.5)
        self.assertEqual(alone.freedom, PRIOR_FREEDOM)
        self.assertIn("prior of 0.5 K", alone.origin)
        score = pooled_scatter([Candidate("A", [run(score=29000.0)])], "score")
        self.assertRegex(score.origin, r"^stated prior of \d+$", "no powers of ten")

    def test_a_prior_learned_from_earlier_repeats_by_hand(self) -> None:
        # Half a squared gap between two runs of one layout is one degree of the variance.
        stated = Prior(0.5, PRIOR_FREEDOM, "stated prior of 0.5 K")
        self.assertEqual(learned([], stated), stated)
        few = learned([0.4], stated)
        self.assertAlmostEqual(few.sigma**2, (0.08 + (PRIOR_FREEDOM - 1) * 0.25) / PRIOR_FREEDOM)
        many = learned([0.2, -0.4, 0.3, 0.1, -0.2, 0.4], stated)
        self.assertAlmostEqual(many.sigma**2, (0.04 + 0.16 + 0.09 + 0.01 + 0.04 + 0.16) / 12)
        self.assertEqual((many.freedom, many.repeats), (6, 6))
        self.assertIn("6 of your own earlier repeats", many.origin)

    def test_grubbs_on_the_handbook_s_data(self) -> None:
        # Source: NIST/SEMATECH e-Handbook, 1.3.5.17.1: mass spectrometry of uranium; 245.57 is an outlier (G = 2.4688).
        data = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]
        self.assertEqual(grubbs(data), 7)
        self.assertIsNone(grubbs(data[:7]))
        self.assertIsNone(grubbs([5.0, 5.0, 5.0]))

    def test_a_run_apart_is_named_and_coarse_readings_are_not(self) -> None:
        others = [layout(n, 3, cpu_package_c=50) for n in "BCD"]
        apart = Candidate("A", [run(cpu_package_c=v) for v in (50.0, 50.1, 50.0, 50.1, 57.0)])
        found = odd_runs([apart, *others], "cpu_package_c")
        self.assertEqual([(x.layout, x.nth) for x in found], [("A", 5)])
        self.assertAlmostEqual(found[0].apart, 6.95, places=9)
        coarse = Candidate("A", [run(cpu_package_c=v) for v in (50.0, 50.0, 51.0)])
        self.assertEqual(odd_runs([coarse, *others], "cpu_package_c"), [])
        two = Candidate("A", [run(cpu_package_c=v) for v in (50.0, 55.0)])
        self.assertIn("disagree", odd_runs([two, *others], "cpu_package_c")[0].words)


class DriftTest(SimpleTestCase):
    def campaign(self, per_hour: float) -> list[Candidate]:
        """A control at hours 0, 4 and 8, another layout between; everything warms by ``per_hour``."""
        a = Candidate("A", [run(cpu_package_c=50 + per_hour * h) for h in (0, 4, 8)], hours=[0.0, 4.0, 8.0])
        b = Candidate("B", [run(cpu_package_c=48 + per_hour * h) for h in (7, 7.5)], hours=[7.0, 7.5])
        return [a, b]

    def test_a_drift_beyond_scatter_is_taken_away_with_its_uncertainty(self) -> None:
        moved, said = without_drift(self.campaign(0.5), "A")
        self.assertTrue(said[0].corrected)
        self.assertAlmostEqual(said[0].whole_k, 4.0, places=6)
        difference = np.mean(moved[1].values("cpu_package_c")) - np.mean(moved[0].values("cpu_package_c"))
        self.assertAlmostEqual(float(difference), -2.0, places=6)
        self.assertIn("drift of the campaign, taken away", [x.what for x in moved[1].figures("cpu_package_c")[0].lines])

    def test_scatter_is_no_drift(self) -> None:
        found = self.campaign(0.02)
        moved, said = without_drift(found, "A")
        self.assertEqual((moved, said[0].corrected), (found, False))
        self.assertEqual(without_drift(found, None), (found, []))
        self.assertEqual(without_drift([replace(c, hours=[]) for c in found], "A")[1], [])

    def test_where_no_control_was_named_drift_is_suspected_and_nothing_taken_away(self) -> None:
        (said,) = suspected(self.campaign(0.5))
        self.assertEqual((said.of, said.corrected, said.known), ("A", False, True))  # its runs lie furthest apart
        self.assertLess(said.p, 0.05)
        twice = Candidate("A", [run(cpu_package_c=v) for v in (50.0, 52.0)], hours=[0.0, 4.5])
        (said,) = suspected([twice, Candidate("B", [run(cpu_package_c=50.0)], hours=[2.0])])
        self.assertFalse(said.known)
        self.assertAlmostEqual(said.whole_k, 2.0, places=6)
        self.assertEqual(suspected([Candidate("A", [run(cpu_package_c=50.0)], hours=[0.0])]), [])

    def test_run_scatter_leads_the_budget_of_a_figure(self) -> None:
        found = layout_budget(self.campaign(0.0), self.campaign(0.0)[0], "cpu_package_c")
        assert found
        self.assertEqual(found.lines[0].what, FROM_RUN_TO_RUN)
