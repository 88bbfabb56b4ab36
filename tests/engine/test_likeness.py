"""What was unlike has a sign and a size in kelvin, and takes a word away only where it could turn it."""

import numpy as np
from django.test import SimpleTestCase

from engine.runs.analysis import UNKNOWN_END, analyse
from engine.runs.series import RunLog
from engine.verdict.candidate import Candidate, Deviation
from engine.verdict.compare import Pair, compare
from engine.verdict.confounders import confounders
from engine.verdict.likeness import OWN_OF_RISE, worths
from tests.runs_made import run, run_of


def layout(name: str, rise: float, power: float | None = None, runs: int = 3, **more: float) -> Candidate:
    channels = {"cpu_package_c": rise} | ({"cpu_power_w": power} if power else {}) | more
    return Candidate(name, [run(**(channels | {"cpu_package_c": rise + 0.1 * i})) for i in range(runs)])


def word(a: Candidate, b: Candidate) -> Pair:
    return next(p for p in compare([a, b]) if p.channel == "cpu_package_c")


class PowerTest(SimpleTestCase):
    def test_hotter_at_less_power_is_worse_all_the_more(self) -> None:
        """A closed case at 96 °C and 126 W against an open bench at 83 °C and 204 W, in a room of 22 °C."""
        pair = word(layout("bench", 61.0, 204.0), layout("case", 74.0, 126.0))
        self.assertEqual(pair.word, "worse")
        assert pair.like_k is not None and pair.difference_k is not None
        self.assertGreater(pair.like_k, pair.difference_k + 10)
        self.assertIn("126 W", pair.confounders[0])
        self.assertIn("K", pair.confounders[0])

    def test_single_typed_figures_as_far_apart_as_that_are_told_too(self) -> None:
        self.assertEqual(word(layout("bench", 61.0, 204.0, 1), layout("case", 74.0, 126.0, 1)).word, "worse")

    def test_four_per_cent_cannot_make_six_kelvin(self) -> None:
        pair = word(layout("A", 50.0, 125.0), layout("B", 56.0, 130.0))
        self.assertEqual(pair.word, "worse")
        # by hand: 5 W at 0.85 of (50/125 + 56/130)/2 K per W
        self.assertAlmostEqual(pair.like_k or 0, 6 - 5 * OWN_OF_RISE * (50 / 125 + 56 / 130) / 2, places=1)

    def test_a_gap_that_the_power_makes_is_not_told(self) -> None:
        self.assertEqual(word(layout("A", 50.0, 120.0), layout("B", 55.0, 132.0)).word, "cannot_tell")

    def test_equally_warm_at_a_fifth_less_power_is_worse(self) -> None:
        self.assertEqual(word(layout("A", 50.0, 150.0), layout("B", 50.0, 120.0)).word, "worse")

    def test_against_what_was_measured_nothing_is_said(self) -> None:
        """B is cooler as measured and would be warmer at like power: neither is a word to build on."""
        pair = word(layout("A", 50.0, 150.0), layout("B", 46.0, 100.0))
        self.assertEqual(pair.word, "cannot_tell")
        self.assertLess(pair.difference_k or 0, 0)
        self.assertGreater(pair.like_k or 0, 0)

    def test_like_power_leaves_everything_as_it_is(self) -> None:
        pair = word(layout("A", 50.0, 125.0), layout("B", 56.0, 126.0))
        self.assertEqual((pair.word, pair.like_k), ("worse", None))

    def test_by_the_clock_where_no_power_was_read(self) -> None:
        (found,) = worths(layout("A", 50.0, cpu_clock_mhz=4000), layout("B", 50.0, cpu_clock_mhz=4400), "cpu_package_c")
        self.assertGreater(found.kelvin, 5)
        self.assertGreater(found.standard, 0.5)
        self.assertEqual(
            worths(layout("A", 50.0, 120, cpu_clock_mhz=4000), layout("B", 50.0, 120, cpu_clock_mhz=4400), "cpu_package_c"), []
        )

    def test_turned_about_the_sign_turns(self) -> None:
        a, b = layout("A", 50.0, 125.0), layout("B", 56.0, 140.0)
        (one,), (two,) = worths(a, b, "cpu_package_c"), worths(b, a, "cpu_package_c")
        self.assertAlmostEqual(one.kelvin, -two.kelvin)
        self.assertAlmostEqual(one.standard, two.standard)


class DeviationTest(SimpleTestCase):
    def deviating(self, adds: float, sd: float, rise: float) -> Candidate:
        c = layout("B", rise)
        return Candidate("B", c.runs, deviations=(Deviation("F2 turns at 1000 where 1400 rpm are asked", {"cpu_package_c": (adds, sd)}),))

    def test_a_slow_fan_is_worth_its_kelvins_and_no_more(self) -> None:
        a = layout("A", 50.0)
        plain = word(a, self.deviating(1.0, 0.4, 56.0))
        self.assertEqual(plain.word, "worse")
        self.assertAlmostEqual(plain.like_k or 0, 5.0, delta=0.01)
        self.assertTrue(any("F2 turns at 1000" in x and "worth +1.0" in x for x in plain.confounders))
        self.assertEqual(word(a, self.deviating(3.0, 1.0, 53.0)).word, "cannot_tell")

    def test_it_is_said_once(self) -> None:
        c = self.deviating(1.0, 0.4, 56.0)
        c.remarks.append("F2 turns at 1000 where 1400 rpm are asked: another curve, or another header?")
        said = [x.words for x in confounders(layout("A", 50.0), c, "cpu_package_c")]
        self.assertEqual(sum("F2" in x for x in said), 1)
        self.assertEqual(sum("F2" in x.words for x in confounders(layout("A", 50.0), c, "sound_dba")), 1)

    def test_rooms_far_apart_are_worth_little(self) -> None:
        a, b = layout("A", 50.0), layout("B", 50.0)
        for side, room in ((a, 20.0), (b, 28.0)):
            side.runs[:] = [run(cpu_package_c=50.0, room_c=room) for _ in range(3)]
        (found,) = worths(a, b, "cpu_package_c")
        self.assertIn("rooms 8.0 K apart", found.words)
        self.assertTrue(0 < found.kelvin < 8)


class RoomProbeTest(SimpleTestCase):
    """A thermometer that hangs 2 K too warm in all runs of one layout."""

    def cold(self, name: str, rise: float, off_k: float) -> Candidate:
        """Logs of a machine that starts at its room, by a thermometer that is off."""
        t = np.arange(0.0, 1500.0)
        runs = []
        for seed in range(3):
            rng = np.random.default_rng(seed)
            cpu = 22 + rise * (1 - np.exp(-t / 120)) + rng.normal(0, 0.2, len(t))
            runs.append(analyse(RunLog(t, {"cpu_package_c": cpu, "room_c": np.full(len(t), 22.0 + off_k)})))
        return Candidate(name, runs)

    def test_parts_colder_than_their_room_at_the_start(self) -> None:
        pair = word(self.cold("A", 50.0, 0.0), self.cold("B", 50.0, 2.0))
        self.assertAlmostEqual(pair.difference_k or 0, -2.0, delta=0.2)
        assert pair.like_k is not None
        self.assertAlmostEqual(pair.like_k, 0.0, delta=0.6)
        self.assertEqual(pair.word, "cannot_tell")
        self.assertTrue(any("colder than its room" in x for x in pair.confounders))
        far = word(self.cold("A", 50.0, 0.0), self.cold("B", 40.0, 2.0))
        self.assertEqual(far.word, "better")

    def test_rooms_of_neighbouring_runs(self) -> None:
        def side(name: str, rise: float, rooms: list[float], hours: list[float]) -> Candidate:
            return Candidate(name, [run_of({"cpu_package_c": rise + 0.1 * i}, room_c=r) for i, r in enumerate(rooms)], hours=hours)

        a = side("A", 50.0, [22.0, 22.4, 22.1], [0.0, 2.0, 4.0])
        off = side("B", 48.2, [24.1, 24.3, 24.0], [1.0, 3.0, 5.0])
        (found,) = [x for x in worths(a, off, "cpu_package_c") if "neighbouring" in x.words]
        self.assertAlmostEqual(found.kelvin, -1.0, delta=0.1)
        self.assertEqual(word(a, off).word, "cannot_tell")
        both_ways = side("B", 48.2, [24.1, 20.2, 24.0], [1.0, 3.0, 5.0])
        self.assertFalse([x for x in worths(a, both_ways, "cpu_package_c") if "neighbouring" in x.words])
        unknown = Candidate("B", off.runs)
        self.assertFalse([x for x in worths(a, unknown, "cpu_package_c") if "neighbouring" in x.words])


class TypedTest(SimpleTestCase):
    """A figure typed without a log may have been on its way still; two that were read after as long lack alike."""

    def typed(self, name: str, value_c: float, minutes: float, still: bool = False) -> Candidate:
        log = RunLog(np.array([0.0, minutes * 60]), {"cpu_package_c": np.array([np.nan, value_c]), "room_c": np.array([22.0, 22.0])})
        return Candidate(name, [analyse(log, stood_still=still)])

    def standard(self, c: Candidate) -> float:
        (own,) = (x.standard for x in c.figures("cpu_package_c")[0].lines if x.what == UNKNOWN_END)
        return own

    def test_the_shorter_it_ran_the_more_it_may_lack(self) -> None:
        lacks = [self.standard(self.typed("A", 72.0, m)) for m in (5, 10, 20, 40)]
        self.assertEqual(lacks, sorted(lacks, reverse=True))
        self.assertTrue(1.5 < lacks[1] < 5.0)  # ten minutes of 50 K: some kelvin
        self.assertLess(lacks[3], 0.1)

    def test_what_stood_still_lacks_nothing(self) -> None:
        self.assertFalse([x for x in self.typed("A", 72.0, 10, True).figures("cpu_package_c")[0].lines if x.what == UNKNOWN_END])

    def test_alike_runs_lack_alike(self) -> None:
        a, b, c = self.typed("A", 72.0, 10), self.typed("B", 78.0, 10), self.typed("C", 78.0, 40)
        alike, unlike = word(a, b), word(a, c)
        self.assertLess((alike.expanded_uncertainty_k or 0) + 3, unlike.expanded_uncertainty_k or 0)
        self.assertEqual(alike.difference_k, unlike.difference_k)
