"""Levels read at chosen speeds teach sources, ways out, laws and the room: against made-up machines whose truth is drawn here."""

from dataclasses import dataclass, replace
from math import log10
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from desk.forecast.document import Question
from desk.job.conditions import AS_RUN, as_drawn, as_it_was, made_with
from desk.learn.document import LearnedOracle, Learning
from desk.learn.lessons import known
from desk.learn.readings import Readings
from desk.learn.swept import Heard, Sweep, swept
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.coupled.forecast import fan_level_dba, forecast, inner_levels
from engine.coupled.operating_point import OperatingPoint, loaded, operating_point
from engine.learn.levels import AtSpeed, LevelReading, learn_levels, path_of, voices
from engine.sound.levels import sum_levels_dba
from engine.sound.sweep import SpeedLevel
from tests.machines import demo_raw, layout_raw, machine

SPEEDS = (30.0, 40.0, 50.0, 60.0, 70.0, 85.0, 100.0)


@dataclass(frozen=True)
class Truth:
    """How a made-up machine lies off its sheets: dB by fan model, by way out, per tenfold speed, of what sounds inside, of the room."""

    source: dict[str, float]
    path: dict[str, float]
    law: dict[str, float]
    inside: float
    room: float
    layout: dict[str, float]

    @classmethod
    def drawn(cls, rng: np.random.Generator, points: list[OperatingPoint]) -> "Truth":
        models = sorted({f.fan.id for p in points for f in p.machine.fans})
        paths = sorted({path_of(p.machine, f.mount) for p in points for f in p.machine.fans})
        return cls(
            {x: rng.normal(0, 1.6) for x in models},
            {x: rng.normal(0, 1.2) for x in paths},
            {x: rng.normal(0, 7.0) for x in models},
            rng.normal(0, 2.0),
            rng.normal(0, 1.5),
            {p.machine.layout_id: rng.normal(0, 0.8) for p in points},
        )

    def level_dba(self, point: OperatingPoint) -> float:
        m, speeds = point.machine, point.speeds
        found = [m.room.background_dba + self.room]
        for fan, pct in zip(m.fans, speeds.fans, strict=True):
            if fan.running and pct > 0:
                off = self.source[fan.fan.id] + self.path[path_of(m, fan.mount)]
                found.append(fan_level_dba(m, fan, 1.0) + 50 * log10(pct / 100) + off + self.law[fan.fan.id] * log10(pct / 70))
        found += [level + self.inside for _, level in inner_levels(m, speeds.cooler, speeds.card, speeds.pump)]
        return sum_levels_dba(found) + self.layout[m.layout_id]


def point_of(layout: str, speed_pct: float | None = None, mounts: tuple[str, ...] = ()) -> OperatingPoint:
    m = loaded(machine(layout_id=layout), "both")
    if speed_pct is not None:
        m = AtSpeed(mounts, speed_pct, m.room.background_dba, m.room.listener_distance_m, m.room.listener_side).of(m)
    return operating_point(m)


class VoicesTest(SimpleTestCase):
    def test_they_add_up_to_the_forecast(self) -> None:
        for layout in "ABCD":
            p = point_of(layout)
            whole = sum_levels_dba([v.level_dba for v in voices(p)])
            self.assertAlmostEqual(whole, forecast(p).sound.level_dba, places=6)

    def test_without_a_reading_levels_are_the_sheets_and_about_as_wide_as_a_forecast(self) -> None:
        points = [point_of(x) for x in "ABCD"]
        for p, told in zip(points, learn_levels(points, [], []).levels, strict=True):
            plain = forecast(p).sound
            self.assertAlmostEqual(told.level_dba, plain.level_dba, places=6)
            self.assertTrue(0.6 * plain.band_db < told.band_db < 1.1 * plain.band_db, told.band_db)  # several sources err less together


class CoverageTest(SimpleTestCase):
    """Bands hold what they say, of layouts that were swept and of those that were not."""

    def test_bands_hold_and_narrow(self) -> None:
        asked = [point_of(x) for x in "ABCD"]
        heard = [point_of("A", s) for s in SPEEDS] + [point_of("A", s, ("r1",)) for s in (40.0, 70.0, 100.0)]
        before = [x.band_db for x in learn_levels(asked, [], []).levels]
        rng, held, bands, off, law_off = np.random.default_rng(12), [], [], [], []
        for _ in range(120):
            truth = Truth.drawn(rng, [*asked, *heard])
            meter = rng.normal(0, 0.8)
            read = [truth.level_dba(p) + meter + rng.normal(0, 0.4) for p in heard]
            told = [LevelReading("sweep", "A", v, 0.4, 0.8) for v in read]
            found = learn_levels(asked, heard, told)
            gaps = [x.level_dba - truth.level_dba(p) - meter for x, p in zip(found.levels, asked, strict=True)]
            held.append([abs(g) <= x.band_db for g, x in zip(gaps, found.levels, strict=True)])
            bands.append([x.band_db for x in found.levels])
            off.append([abs(g) for g in gaps])
            (model, (value, sd)) = next((name, x) for (kind, name), x in found.found.items() if kind == "law")
            law_off.append(abs(value - truth.law[model]) / sd)
        shares = np.mean(held, axis=0)
        self.assertGreater(shares.min(), 0.9, shares)
        narrower = np.mean(bands, axis=0) / before
        self.assertLess(narrower[0], 0.5)  # the layout that was swept
        self.assertLess(narrower.max(), 1.0)
        self.assertLess(narrower.mean(), 0.8)
        self.assertLess(np.mean(off, axis=0)[0], 1.0)
        self.assertLess(np.mean(np.array(law_off) > 2), 0.1)

    def test_what_the_law_gives_is_learned(self) -> None:
        asked = [point_of("A")]
        heard = [point_of("A", s) for s in SPEEDS]
        model = heard[0].machine.fans[0].fan.id
        steep = Truth(
            {model: 0.0}, {path_of(p.machine, f.mount): 0.0 for p in heard for f in p.machine.fans}, {model: 10.0}, 0, 0, {"A": 0}
        )
        told = [LevelReading("sweep", "A", steep.level_dba(p), 0.2, 0.5) for p in heard]
        value, sd = learn_levels(asked, heard, told).found["law", model]
        self.assertLess(abs(value - 10), 2 * sd)
        self.assertGreater(value, 3)


def sweep_of(doc: JobDoc, layout: str, off_db: float, name: str = "sweep of A", **change: Any) -> Sweep:
    levels = []
    for s in SPEEDS:
        level = forecast(point_of(layout, s)).sound.level_dba
        levels.append(SpeedLevel(s, round(level + off_db, 1)))
    plain = Sweep(name, layout, "both", (), as_drawn(doc, layout), made_with(doc, layout), Heard.of(doc), tuple(levels))
    return replace(plain, **change)


class SweptTest(SimpleTestCase):
    def setUp(self) -> None:
        self.doc = check_job(demo_raw()).doc

    def learning(self, *sweeps: Sweep, doc: JobDoc | None = None) -> Learning:
        found = swept(doc or self.doc, sweeps)
        whole = (doc or self.doc).model_copy(update={"layouts": [*(doc or self.doc).layouts, *found.layouts]})
        return Learning.of(whole, found.beside(Readings())).told_of(doc or self.doc)

    def test_a_louder_machine_is_told_louder_in_every_layout_with_its_fans(self) -> None:
        learning = self.learning(sweep_of(self.doc, "A", 3.0))
        document = learning.document("both")
        self.assertEqual((document.sweeps, document.runs_used, learning.taught_by), (["sweep of A"], [], 1))
        self.assertTrue(learning.anything)
        for x in document.layouts:
            self.assertGreater(x.sound.level_dba, x.unlearned.sound.level_dba + 1.0)
            self.assertLess(x.sound.band_db, x.unlearned.sound.band_db)
            self.assertIsNone(x.measured)
            self.assertAlmostEqual(x.cpu.rise_k, x.unlearned.cpu.rise_k, delta=1e-6)
        kinds = {s.kind for s in document.sources}
        self.assertEqual(kinds, {"source", "path", "law"})

    def test_a_fan_takes_along_what_a_sweep_taught_of_it(self) -> None:
        (kept,) = [x for x in self.learning(sweep_of(self.doc, "A", 3.0)).document("both").to_keep if x.field == "level_lessons"]
        self.assertEqual(kept.lessons[0]["runs"], ["sweep of A"])
        raw = demo_raw()
        raw["name"] = "another job"
        fan = next(f for f in raw["parts"]["fans"] if f["id"] == kept.part)
        fan["level_lessons"] = [kept.lessons[0] | {"job": "Watch-room plotter"}]
        for layout in raw["layouts"]:  # of a part only where all layouts have that one
            for place in layout["fans"]:
                place["fan"] = kept.part
        other = check_job(raw).doc
        told = known(other, [])
        self.assertIn("from 1 sweep of Watch-room plotter", told.said[0])
        self.assertIn(kept.part, told.levels)

    def test_a_sweep_at_rest_is_of_a_machine_at_rest(self) -> None:
        """What sounds inside is quieter then: a low floor says nothing of a card under load."""
        levels = []
        for s in SPEEDS:
            m = AtSpeed((), s, self.doc.room.background_dba, self.doc.room.listener_distance_m, self.doc.room.listener_side)
            levels.append(SpeedLevel(s, forecast(operating_point(m.of(loaded(machine(layout_id="A"), "idle")))).sound.level_dba))
        rest = sweep_of(self.doc, "A", 0.0, load="idle", readings=tuple(levels))
        learning = self.learning(rest)
        self.assertEqual(set(learning.readings.levels), {"idle"})
        level = {load: learning.document(load).layouts[0] for load in ("idle", "both")}
        self.assertAlmostEqual(level["idle"].sound.level_dba, level["idle"].unlearned.sound.level_dba, delta=0.2)
        self.assertAlmostEqual(level["both"].sound.level_dba, level["both"].unlearned.sound.level_dba, delta=0.2)
        self.assertLess(level["both"].sound.band_db, 0.95 * self.learning().document("both").layouts[0].sound.band_db)

    def test_a_long_name_is_no_stumbling_block_and_two_of_them_are_two(self) -> None:
        raw = demo_raw()
        names = [
            "three in front and one at the rear, quiet, the first of these",
            "three in front and one at the rear, quiet, the next of them",
        ]
        for layout, name in zip(raw["layouts"], names, strict=False):
            layout["id"] = name[:60]
        doc = check_job(raw).doc
        sweeps = [replace(sweep_of(self.doc, "A", 1.0), layout=x.id, drawn={}, made_with={}, name=x.id) for x in doc.layouts[:2]]
        found = swept(doc, sweeps)
        self.assertEqual((found.left_aside, len({x.id for x in found.layouts})), ([], 2))
        self.assertNotEqual(as_it_was(names[0], AS_RUN), as_it_was(names[1], AS_RUN))
        self.assertEqual(as_it_was("A", AS_RUN), "A-as-run")

    def test_of_temperatures_a_sweep_says_nothing(self) -> None:
        oracle = LearnedOracle(self.learning(sweep_of(self.doc, "A", 3.0)), Question(layouts=["A"]))
        self.assertFalse([s for s in oracle.account("A", "cpu").steps if "taught" in s.what])

    def test_the_account_says_what_taught(self) -> None:
        oracle = LearnedOracle(self.learning(sweep_of(self.doc, "A", 3.0)), Question(layouts=["A"]))
        words = [s.what for s in oracle.account("A", "sound").steps]
        self.assertIn("As 1 sweep of speeds has taught", words)

    def test_a_listener_who_sits_elsewhere_hears_what_was_learned_from_there(self) -> None:
        raw = demo_raw()
        raw["room"] = raw["room"] | {"listener_distance_m": 1.6}
        farther = check_job(raw).doc
        told = self.learning(sweep_of(self.doc, "A", 3.0), doc=farther)
        for x in told.document("both").layouts:
            self.assertGreater(x.sound.level_dba, x.unlearned.sound.level_dba + 0.7)
            self.assertLess(x.sound.level_dba, x.unlearned.sound.level_dba + 3.5)

    def test_a_layout_that_was_redrawn_teaches_as_it_was(self) -> None:
        sweep = sweep_of(self.doc, "A", 3.0)
        raw = demo_raw()
        layout_raw(raw, "A")["fans"].pop()
        redrawn = check_job(raw).doc
        found = swept(redrawn, [sweep])
        self.assertEqual(found.left_aside, [])
        self.assertEqual(len(found.layouts[0].fans), len(redrawn.layouts[0].fans) + 1)

    def test_other_parts_a_layout_that_is_gone_and_what_sings_are_left_aside(self) -> None:
        sweep = sweep_of(self.doc, "A", 0.0)
        raw = demo_raw()
        for fan in raw["parts"]["fans"]:
            fan["noise_dba"] += 1
        (why,) = swept(check_job(raw).doc, [sweep]).left_aside
        self.assertIn("parts", why.why)
        unsaid = swept(self.doc, [sweep_of(self.doc, "A", 0.0, drawn={}, made_with={})])  # of an older version
        self.assertEqual((unsaid.left_aside, len(unsaid.levels["both"])), ([], len(SPEEDS)))
        gone = Sweep("sweep of Z", "Z", "both", (), {}, {}, sweep.heard, sweep.readings)
        self.assertEqual(swept(self.doc, [gone]).left_aside[0].run, "sweep of Z")
        loud = [SpeedLevel(r.speed_pct, r.level_dba + (6.0 if r.speed_pct == 50 else 0.0)) for r in sweep.readings]
        found = swept(self.doc, [replace(sweep, readings=tuple(loud))])
        self.assertEqual(sorted(r.at.speed_pct for r in found.levels["both"] if r.at), [s for s in SPEEDS if s != 50])
