"""What is set in a sweep and on the way to a level, from a job document: levels that add up, limits that are kept, what turns."""

from dataclasses import replace
from typing import Any

from django.test import SimpleTestCase

from desk.job.resolve import Resolver
from desk.sound.procedure import SWEEP_STEPS, Elsewhere, Setting, equal_of, setting_of, sweep_of
from desk.sound.speeds import FansAt, blades_of, sources_of, speeds_of
from documents.job.reader import check_job
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import loaded, operating_point
from engine.errors import ImpossibleInputError
from engine.sound.levels import speed_change_db, sum_levels_dba
from engine.sound.sweep import SpeedLevel
from tests.machines import demo_raw


def changed(**fan: Any) -> dict[str, Any]:
    raw = demo_raw()
    for part in raw["parts"]["fans"]:
        part |= fan
    return raw


def setting(
    layout: str = "A", mounts: tuple[str, ...] = (), raw: dict[str, Any] | None = None, load: str = "both"
) -> tuple[Setting, Resolver]:
    resolver = Resolver(check_job(raw or demo_raw()).doc)
    return setting_of(resolver, resolver.layout(layout), mounts, load), resolver


class SettingTest(SimpleTestCase):
    def test_what_is_set_and_the_rest_add_up_to_the_forecast(self) -> None:
        for layout in "ABCD":
            made, resolver = setting(layout)
            machine = loaded(resolver.machine(layout), "both")
            speeds = {f.speed_pct for f in machine.fans if f.running}
            if len(speeds) != 1 or any(f.curve for f in machine.fans):
                continue
            own = made.full_dba + speed_change_db(speeds.pop() / 100)
            whole = forecast(operating_point(machine)).sound.level_dba
            with self.subTest(layout=layout):
                self.assertAlmostEqual(sum_levels_dba([made.floor_dba, own]), whole, delta=0.05)

    def test_fewer_fans_leave_more_to_the_rest(self) -> None:
        every, _ = setting("B")
        one, _ = setting("B", (every.mounts[0],))
        self.assertGreater(one.floor_dba, every.floor_dba)
        self.assertLess(one.full_dba, every.full_dba)
        self.assertEqual(one.mounts, every.mounts[:1])

    def test_the_owners_limit_and_the_least_speed_are_kept(self) -> None:
        full = demo_raw()["parts"]["fans"][0]["speed_max_rpm"]
        made, _ = setting(raw=changed(limit_rpm=0.8 * full, speed_min_rpm=0.35 * full))
        self.assertLessEqual(made.high_pct, 80)
        self.assertGreaterEqual(made.low_pct, 35)
        for speed in (s for s in [sweep_of(made, []).next.speed_pct] if s):
            self.assertTrue(made.low_pct <= speed <= made.high_pct)

    def test_known_bands_are_those_of_the_owner_and_of_sweeps(self) -> None:
        raw = changed(hums_from_rpm=700, hums_to_rpm=760, avoids=[{"from_rpm": 900, "to_rpm": 950}])
        made, _ = setting(raw=raw)
        full = next(iter(made.full_rpm.values()))
        self.assertIn((100 * 700 / full, 100 * 760 / full), made.avoid_pct)
        self.assertIn((100 * 900 / full, 100 * 950 / full), made.avoid_pct)

    def test_nothing_to_set_is_refused(self) -> None:
        with self.assertRaises(ImpossibleInputError):
            setting(mounts=("nowhere",))
        raw = demo_raw()
        for layout in raw["layouts"]:
            for fan in layout["fans"]:
                fan["state"] = "unplugged"
        with self.assertRaises(ImpossibleInputError):
            setting(raw=raw)


class SweepTest(SimpleTestCase):
    def read(self, made: Setting, pct: float, more: float = 0.0) -> SpeedLevel:
        return SpeedLevel(pct, sum_levels_dba([made.floor_dba, made.full_dba + speed_change_db(pct / 100)]) + more)

    def test_it_goes_on_until_all_speeds_are_read(self) -> None:
        made, _ = setting()
        readings: list[SpeedLevel] = []
        while (found := sweep_of(made, readings)).next.speed_pct is not None:
            readings.append(self.read(made, found.next.speed_pct))
            self.assertLessEqual(len(readings), SWEEP_STEPS)
        self.assertEqual(len(readings), SWEEP_STEPS)
        self.assertEqual([r.speed_pct for r in readings], sorted(r.speed_pct for r in readings))
        self.assertEqual((found.bands, found.next.words), ([], "the sweep is whole: no bands to avoid"))
        self.assertAlmostEqual(found.exponent_db or 0, 50, delta=1)

    def test_a_band_says_what_to_write_to_each_kind_of_fan(self) -> None:
        made, _ = setting()
        speeds = [30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0]
        found = sweep_of(made, [self.read(made, s, 5.0 if s == 60 else 0.0) for s in speeds])
        (band,) = found.bands
        self.assertEqual((band.from_pct, band.to_pct), (55, 65))
        self.assertEqual(
            {a.fan: (a.from_rpm, a.to_rpm) for a in band.avoids}, {f: (round(0.55 * r), round(0.65 * r)) for f, r in made.full_rpm.items()}
        )

    def test_few_readings_tell_no_band(self) -> None:
        made, _ = setting()
        self.assertEqual(sweep_of(made, [self.read(made, s, s / 10) for s in (30, 60, 90)]).bands, [])

    def test_a_room_too_near_the_level_is_warned_of(self) -> None:
        made, _ = setting()
        self.assertIn("too close", equal_of(made, [], made.room_dba + 2).floor_words)
        self.assertIn("too high", equal_of(made, [], made.room_dba + 4.5).floor_words)
        self.assertEqual(equal_of(made, [], made.room_dba + 9).floor_words, "")

    def test_a_sweep_is_where_the_way_to_a_level_begins_and_its_bands_are_kept_out_of(self) -> None:
        made, _ = setting()
        swept = [self.read(made, s, 2.5 + (5.0 if s == 60 else 0.0)) for s in (30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0, 100.0)]
        target = self.read(made, 75, 2.5).level_dba
        blind, told = equal_of(made, [], target), equal_of(made, [], target, swept)
        assert blind.next.speed_pct is not None and told.next.speed_pct is not None
        self.assertLess(abs(told.next.speed_pct - 75), 3)
        self.assertGreater(abs(blind.next.speed_pct - 75), 5)
        sings = equal_of(made, [], self.read(made, 60, 2.5).level_dba, swept).next.speed_pct
        assert sings is not None
        self.assertFalse(55 <= sings <= 65)
        self.assertEqual((told.found, told.avoid), ([(55.0, 65.0)], []))

    def test_a_sweep_at_rest_keeps_a_loaded_way_out_of_its_bands_and_begins_with_its_fans(self) -> None:
        """The fans are the same; what else sounds is not, so that no level of it is taken over."""
        (rest, _), (works, _) = setting(load="idle"), setting(load="both")
        real = replace(rest, full_dba=rest.full_dba + 4)  # louder fans than their sheets say
        swept = [self.read(real, s, 5.0 if s == 60 else 0.0) for s in (30.0, 40.0, 50.0, 60.0, 70.0, 80.0, 90.0, 100.0)]
        target = self.read(replace(works, full_dba=works.full_dba + 4), 75).level_dba
        told = equal_of(works, [], target, (), Elsewhere(rest, swept))
        assert told.next.speed_pct is not None
        self.assertLess(abs(told.next.speed_pct - 75), 3)
        self.assertEqual((told.found, told.avoid), ([(55.0, 65.0)], []))
        self.assertEqual(told.floor_dba, equal_of(works, [], target).floor_dba)
        few = equal_of(works, [], target, (), Elsewhere(rest, swept[:3]))
        self.assertEqual(few, equal_of(works, [], target))

    def test_before_a_reading_the_law_is_the_forecasts(self) -> None:
        made, _ = setting()
        found = equal_of(made, [], 34.0)
        self.assertIsNone(found.exponent_db)
        pct, level, band = found.law[-1]
        self.assertAlmostEqual(level, sum_levels_dba([made.floor_dba, made.full_dba + speed_change_db(pct / 100)]), delta=0.05)
        self.assertGreater(band, 3)
        self.assertGreater(band, equal_of(made, [self.read(made, 60), self.read(made, 80)], 20).law[-1][2])


class TurningTest(SimpleTestCase):
    def test_what_turns_has_its_speed_and_blades(self) -> None:
        raw = changed(blades=7)
        resolver = Resolver(check_job(raw).doc)
        for layout in resolver.doc.layouts:
            point = operating_point(FansAt().of(resolver, layout))
            speeds, found = speeds_of(point), sources_of(point, blades_of(resolver))
            with self.subTest(layout=layout.id):
                self.assertEqual({s.blades for s in found if "fan" in s.name}, {7})
                self.assertEqual(sorted(s.speed_rpm for s in found if "fan" in s.name), sorted(v for v in speeds.values() if v))
                self.assertEqual("the pump" in {s.name for s in found}, bool(resolver.machine(layout.id).loops))

    def test_a_fan_that_stands_still_is_heard_of_nobody(self) -> None:
        raw = demo_raw()
        place = raw["layouts"][0]["fans"][0]
        place["state"] = "unplugged"
        resolver = Resolver(check_job(raw).doc)
        layout = resolver.layout(raw["layouts"][0]["id"])
        point = operating_point(FansAt().of(resolver, layout))
        self.assertEqual(speeds_of(point)[place["mount"]], 0)
        self.assertFalse([s for s in sources_of(point, blades_of(resolver)) if s.name.endswith(f" {place['mount'].upper()}")])

    def test_fans_that_are_set_turn_as_they_are_set(self) -> None:
        resolver = Resolver(check_job(demo_raw()).doc)
        layout = resolver.layout("A")
        mount = layout.fans[0].mount
        plain, one, every = (
            speeds_of(operating_point(at.of(resolver, layout))) for at in (FansAt(), FansAt("idle", (mount,), 40), FansAt("idle", (), 40))
        )
        self.assertEqual({k for k in plain if plain[k] != one[k]}, {mount})
        self.assertEqual(set(every.values()), {0.4 * resolver.fan(resolver.parts["fans"][layout.fans[0].fan]).speed_max_rpm})
