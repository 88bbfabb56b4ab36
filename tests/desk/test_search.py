"""The search of a job: against brute force, against random layouts, what it writes out, what it says where nothing is left."""

from dataclasses import replace
from itertools import product
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.forecast.rules import RULES, found
from desk.job.difference import changes
from desk.learn.document import LearnedOracle, Learning
from desk.learn.readings import Readings
from desk.search.buildable import COUNTED, ERROR_RULES, errors_of
from desk.search.document import search
from desk.search.field import Frame, Search
from desk.search.looking import SPEEDS, figures_of
from desk.search.question import SearchQuestion
from desk.search.shapes import FoundLayout, SearchDoc
from desk.search.wide import drawn, keeps, neighbours
from documents.errors import DocumentError
from documents.job.models import JobDoc
from documents.job.reader import check_job
from engine.coupled.compare import WATT_WORTH_K, given_up_w
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.learn.case import Reading
from engine.learn.levels import LAYOUT_DB, LevelReading
from engine.parameters import DEFAULT
from engine.plan.rebuild import minutes_of
from engine.search.space import layouts
from tests.machines import demo_raw, fan_raw, layout_raw


def job(mounts: int = 4, stock: dict[str, int] | None = None, **more: Any) -> JobDoc:
    """The demo's case with fewer mounts and a pile of fans; layout A has a fan in front and one at the rear."""
    raw = demo_raw()
    raw["case"]["mounts"] = [m for m in raw["case"]["mounts"] if m["id"] in ("f2", "r1", "t1", "f3", "f1", "t2", "t3")[:mounts]]
    raw["layouts"] = [{"id": "A", "name": "now", "fans": [fan_raw("f2", "intake"), fan_raw("r1", "exhaust")]}]
    raw["case"].pop("rails", None)
    raw["stock"] = {"fans": stock or {"tern-120": 3, "skua-120": 0}}
    raw |= more
    return check_job(raw).doc


def costs(x: FoundLayout) -> tuple[float, ...]:
    return x.cpu_rise_k, x.card_rise_k or 0.0, x.level_dba, x.price or 0.0, float(x.changes)


def level_of(doc: JobDoc, question: Question, layout: str) -> tuple[float, float, float]:
    plain = Oracle(doc, question).forecast(layout)
    return plain.cpu.rise_k, plain.card.rise_k if plain.card else 0.0, plain.sound.level_dba


class BruteForceTest(SimpleTestCase):
    """Every layout drawn and forecast one by one, in the plainest way, with the same speeds."""

    def test_the_frontier_is_that_of_brute_force(self) -> None:
        doc = job(3, {"tern-120": 2})
        question = SearchQuestion(turn_cooler=False, speeds="together")
        found_doc = search(doc, question)
        self.assertTrue(found_doc.exhaustive)
        mounts = [m.id for m in doc.case.mounts]
        table = []
        for ways in product((None, "intake", "exhaust"), repeat=3):
            if sum(w is not None for w in ways) > 2:
                continue
            for speed in SPEEDS[0]:
                raw = doc.model_dump(mode="json", exclude_unset=True)
                fans = [fan_raw(m, w, 100 * speed) for m, w in zip(mounts, ways, strict=True) if w]
                raw["layouts"].append({"id": "X", "fans": fans})
                other = check_job(raw).doc
                oracle = Oracle(other, Question(layouts=["X"]))
                if errors_of(oracle, "X"):
                    continue
                by_hand = sum(c.count for c in changes(other, other.layouts[0], other.layouts[1]) if c.kind != "speed")
                table.append((*level_of(other, Question(), "X"), 0.0, float(by_hand)))
        self.assertEqual(found_doc.distinct, 1 + 6 + 12)
        self.assertEqual(found_doc.evaluated, 19 * len(SPEEDS[0]))
        best = [a for a in table if not any(all(x <= y for x, y in zip(b, a, strict=True)) and b != a for b in table)]
        got = [costs(x) for x in found_doc.frontier]
        for a in got:
            self.assertTrue(any(np.allclose(a, b, atol=0.06) for b in table), a)
            beaten = [b for b in table if all(x <= y + 1e-9 for x, y in zip(b, a, strict=True)) and sum(np.subtract(a, b)[:3]) > 0.15]
            self.assertEqual(beaten, [], a)
        for b in best:  # what is missing has one as good within what is told apart
            self.assertTrue(any(all(x <= y + 0.11 for x, y in zip(a, b, strict=True)) for a in got), b)


class FrontierTest(SimpleTestCase):
    doc: JobDoc
    found: SearchDoc

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.doc = job(5, {"tern-120": 4})
        cls.found = search(cls.doc, SearchQuestion(max_dba=36), dots=True)

    def test_it_counts_what_it_looked_at(self) -> None:
        self.assertEqual(self.found.distinct, self.found.possible)
        self.assertGreater(self.found.evaluated, self.found.distinct)

    def test_every_layout_can_be_pasted_and_forecasts_the_same(self) -> None:
        raw = self.doc.model_dump(mode="json", exclude_unset=True)
        raw["layouts"] += [x.layout.model_dump(mode="json", exclude_unset=True) for x in self.found.frontier]
        oracle = Oracle(check_job(raw).doc, Question())
        for x in self.found.frontier:
            plain = oracle.forecast(x.layout.id)
            self.assertAlmostEqual(plain.cpu.rise_k, x.cpu_rise_k, delta=0.05)
            self.assertAlmostEqual(plain.card.rise_k if plain.card else 0.0, x.card_rise_k or 0.0, delta=0.05)
            self.assertAlmostEqual(plain.sound.level_dba, x.level_dba, delta=0.05)
            self.assertLessEqual(x.level_dba, 36.0 + 1e-6)

    def test_no_random_layout_beats_one(self) -> None:
        made = Search.of(self.doc, SearchQuestion(max_dba=36))
        rng = np.random.default_rng(7)
        front = [costs(x) for x in self.found.frontier]
        for frame in made.frames:
            states = drawn(frame.space, 1000, rng)
            speed = np.floor(100 * frame.field.speed_for(states, 36.0, frame.inner_sound, 0.25)) / 100
            states, speed = states[speed > 0], speed[speed > 0]
            solved = frame.field.solve(states, speed, DEFAULT)
            rows = np.column_stack([solved.cpu_k, solved.card_k, solved.level_dba, made.pile.cost(states), made.work(states, frame)[0]])
            for a in front:
                beats = (rows <= np.array(a) - [0.06, 0.06, 0.06, 0, 0]).all(axis=1)
                self.assertFalse(beats.any(), a)

    def test_groups_are_led_by_the_simplest(self) -> None:
        by_group: dict[int, list[FoundLayout]] = {}
        for x in self.found.frontier:
            by_group.setdefault(x.group, []).append(x)
        for own in by_group.values():
            lead = [x for x in own if x.simplest]
            self.assertEqual(len(lead), 1)
            self.assertEqual(lead[0].changes, min(x.changes for x in own))
        self.assertEqual(sorted(by_group), list(range(1, len(by_group) + 1)))

    def test_words_minutes_and_reasons(self) -> None:
        for x in self.found.frontier:
            own = self.doc.model_copy(update={"layouts": [*self.doc.layouts, x.layout]})
            by_hand = [c for c in changes(own, own.layouts[0], x.layout) if c.kind != "speed"]
            self.assertEqual(x.changes, sum(c.count for c in by_hand))
            self.assertTrue(all(c.words in x.words for c in by_hand))
            self.assertTrue(x.why)

    def test_every_layout_is_a_dot(self) -> None:
        dots = self.found.dots
        assert dots is not None
        self.assertEqual(len(dots.cpu_dk), len(dots.mounts))
        self.assertTrue(any(dots.kept) and not dots.thinned)
        self.assertEqual(max(dots.mounts).bit_length(), len(dots.names))

    def test_the_same_again(self) -> None:
        again = search(self.doc, SearchQuestion(max_dba=36), dots=True)
        self.assertEqual(again.model_dump(), self.found.model_dump())


class LimitsTest(SimpleTestCase):
    def test_nothing_left_says_what_stands_in_the_way(self) -> None:
        found_doc = search(job(), SearchQuestion(max_dba=20, turn_cooler=False))
        self.assertEqual(found_doc.frontier, [])
        self.assertIn("under 20 dBA", found_doc.why_none)
        hot = search(job(), SearchQuestion(max_cpu_c=40, turn_cooler=False))
        self.assertIn("the processor stays", hot.why_none)

    def test_a_radiator_without_fans_enough_is_told(self) -> None:
        raw = demo_raw()
        raw["layouts"] = [layout_raw(raw, "C")]
        found_doc = search(check_job(raw).doc, SearchQuestion(start="C", most_fans=1, move_radiator=False))
        self.assertIn("the radiator alone takes 2 fans", found_doc.why_none)

    def test_temperatures_are_those_of_the_worst_room(self) -> None:
        doc = job()
        warm = doc.model_copy(update={"room": doc.room.model_copy(update={"worst_temperature_c": 31.0})})
        self.assertEqual(search(warm, SearchQuestion(max_card_c=90, turn_cooler=False)).room_c, 31.0)
        self.assertEqual(search(warm, SearchQuestion(max_dba=40, turn_cooler=False)).room_c, doc.room.temperature_c)

    def test_no_speed_is_chosen_at_which_a_fan_is_known_to_sing(self) -> None:
        plain = search(job(3), SearchQuestion(max_dba=36, turn_cooler=False))
        raw = job(3).model_dump(mode="json", exclude_unset=True)
        speeds = {f["speed_pct"] for x in plain.frontier for f in x.layout.model_dump()["fans"]}
        for fan in raw["parts"]["fans"]:
            full = fan["speed_max_rpm"]
            fan["avoids"] = [{"from_rpm": (s - 0.5) * full / 100, "to_rpm": (s + 0.5) * full / 100} for s in sorted(speeds)[:15]]
        doc = check_job(raw).doc
        found = search(doc, SearchQuestion(max_dba=36, turn_cooler=False))
        self.assertTrue(found.frontier)
        fans = {f.id: f for f in doc.parts.fans}
        for x in found.frontier:
            for place in x.layout.fans:
                rpm = place.speed_pct * fans[place.fan].speed_max_rpm / 100
                self.assertFalse([a for a in fans[place.fan].avoids if a.from_rpm <= rpm <= a.to_rpm], (x.layout.id, place.mount, rpm))

    def test_fans_to_buy_have_their_price(self) -> None:
        doc = job(3, {"tern-120": 1, "skua-120": 0})
        bought = search(doc, SearchQuestion(fans="library", turn_cooler=False))
        price = next(f.price for f in doc.parts.fans if f.id == "tern-120") or 0.0
        self.assertTrue(any((x.price or 0.0) >= price for x in bought.frontier))
        capped = search(doc, SearchQuestion(fans="library", max_price=price, turn_cooler=False))
        self.assertTrue(all((x.price or 0.0) <= price for x in capped.frontier))
        self.assertGreater(bought.distinct, search(doc, SearchQuestion(turn_cooler=False)).distinct)

    def test_a_fan_without_a_price_is_not_cheap(self) -> None:
        raw = job(3, {"tern-120": 1}).model_dump(mode="json", exclude_unset=True)
        for fan in raw["parts"]["fans"]:
            fan.pop("price", None)
        doc = check_job(raw).doc
        found_doc = search(doc, SearchQuestion(fans="library", turn_cooler=False))
        self.assertTrue(any(x.price is None for x in found_doc.frontier))
        capped = search(doc, SearchQuestion(fans="library", max_price=100, turn_cooler=False))
        self.assertTrue(all(x.price == 0 for x in capped.frontier))

    def test_mounts_that_stay_empty(self) -> None:
        found_doc = search(job(), SearchQuestion(empty=["f3"], turn_cooler=False))
        self.assertTrue(all("f3" not in [f.mount for f in x.layout.fans] for x in found_doc.frontier))
        with self.assertRaises(DocumentError):
            search(job(), SearchQuestion(empty=["zz"]))

    def test_no_fan_no_layout_no_start(self) -> None:
        raw = demo_raw()
        raw["stock"] = {"fans": {"tern-120": 0, "skua-120": 0}}
        for bad, question in (
            (check_job(raw).doc, SearchQuestion()),
            (check_job(demo_raw()).doc, SearchQuestion(start="Z")),
            (check_job({**demo_raw(), "layouts": []}).doc, SearchQuestion()),
        ):
            with self.assertRaises(DocumentError):
                search(bad, question)

    def test_the_owners_limit_of_a_fan_is_kept(self) -> None:
        raw = job(3).model_dump(mode="json", exclude_unset=True)
        raw["parts"]["fans"][0]["limit_rpm"] = 0.6 * raw["parts"]["fans"][0]["speed_max_rpm"]
        found_doc = search(check_job(raw).doc, SearchQuestion(turn_cooler=False))
        self.assertLessEqual(max(f.speed_pct for x in found_doc.frontier for f in x.layout.fans), 60.0)


class WorkTest(SimpleTestCase):
    def test_minutes_are_those_of_the_changes_one_by_one(self) -> None:
        raw = demo_raw()
        raw["practice"] = {"minutes": {"flip": 7, "move": 2}}
        doc = check_job(raw).doc
        made = Search.of(doc, SearchQuestion(start="A", fans="library"))
        for frame in made.frames[:4]:
            states = drawn(frame.space, 12, np.random.default_rng(2))
            things, minutes = made.work(states, frame)
            for row, n, told in zip(states, things, minutes, strict=True):
                steps = [c for c in changes(doc, made.start, made.layout(frame, row, 1.0, "X")) if c.kind != "speed"]
                self.assertEqual(n, sum(c.count for c in steps))
                self.assertAlmostEqual(told, minutes_of(steps, doc.practice.minutes))

    def test_a_limit_of_work_is_kept(self) -> None:
        doc = job()
        free = search(doc, SearchQuestion(turn_cooler=False))
        short = search(doc, SearchQuestion(turn_cooler=False, max_minutes=10))
        self.assertGreater(max(x.minutes for x in free.frontier), 12)
        self.assertLessEqual(max(x.minutes for x in short.frontier), 12)  # speeds are set beside it
        self.assertGreater(short.ruled_out["minutes"], 0)


class LaterTest(SimpleTestCase):
    """Heat that comes later, and fans that stop."""

    def test_a_scenario_adds_its_heat_to_every_layout(self) -> None:
        doc = job(scenarios=[{"id": "more", "name": "a second card", "cpu_add_w": 20, "card_add_w": 60}])
        plain, found_doc = (search(doc, SearchQuestion(turn_cooler=False, scenario=x)) for x in (None, "more"))
        later = Oracle(doc.model_copy(update={"layouts": [x.layout for x in found_doc.frontier]}), Question(scenario="more"))
        for x in found_doc.frontier:
            point = later.point(x.layout.id)
            self.assertAlmostEqual(point.cpu_rise_k, x.cpu_rise_k, places=6)
            self.assertAlmostEqual(sum(given_up_w(point)), x.lost_w)
        self.assertGreater(found_doc.start.card_rise_k or 0, (plain.start.card_rise_k or 0) + 5)
        with self.assertRaises(DocumentError):
            search(doc, SearchQuestion(scenario="none"))

    def test_what_nothing_carries_is_said_in_watts_and_the_drawn_ones_stand_under_the_same_heat(self) -> None:
        doc = job(scenarios=[{"id": "far", "name": "far too much", "cpu_add_w": 400, "card_add_w": 0}])
        found = search(doc, SearchQuestion(turn_cooler=False, scenario="far", max_cpu_c=80))
        self.assertEqual(found.frontier, [])
        self.assertRegex(found.why_none, r"^a part is held at its own limit everywhere, giving up \d+ W or more$")
        self.assertEqual([x.id for x in found.drawn], [x.id for x in doc.layouts])
        for x in found.drawn:
            self.assertGreater(x.lost_k, 10)
            told = Oracle(doc, Question(scenario="far", room_c=found.room_c)).forecast(x.id)
            self.assertAlmostEqual(x.cpu_rise_k, told.cpu.rise_k, places=6)

    def test_limits_hold_with_any_one_fan_stopped(self) -> None:
        doc = job(4, {"tern-120": 3})
        hot = 95.0
        free = search(doc, SearchQuestion(turn_cooler=False, max_cpu_c=hot))
        safe = search(doc, SearchQuestion(turn_cooler=False, max_cpu_c=hot, one_fan_may_stop=True))
        self.assertGreater(safe.ruled_out["one_fan_stops"], 0)
        self.assertTrue(safe.frontier)
        self.assertTrue(any(max(self.each_stopped(doc, x, free.room_c).values()) > hot for x in free.frontier))
        for x in safe.frontier:
            by_mount = self.each_stopped(doc, x, safe.room_c)
            self.assertLessEqual(max(by_mount.values()), hot + 1e-6)
            assert x.stopped
            self.assertAlmostEqual(x.stopped.cpu_rise_k + safe.room_c, by_mount[x.stopped.mount], places=4)
            self.assertIn(f"should {x.stopped.mount.upper()} stop", " ".join(x.why))

    def each_stopped(self, doc: JobDoc, x: FoundLayout, room_c: float) -> dict[str, float]:
        """The processor's temperature in deg C with each of its fans unplugged in turn."""
        found = {}
        for place in x.layout.fans:
            fans = [f.model_copy(update={"state": "unplugged"}) if f is place else f for f in x.layout.fans]
            other = x.layout.model_copy(update={"fans": fans})
            plain = Oracle(doc.model_copy(update={"layouts": [other]}), Question(room_c=room_c)).forecast(other.id)
            found[place.mount] = plain.cpu.temperature_c
        return found


class SidesTest(SimpleTestCase):
    def test_a_loud_fan_at_one_side_turns_slower_than_the_others(self) -> None:
        raw = job(4, {"tern-120": 2, "skua-120": 2}).model_dump(mode="json", exclude_unset=True)
        next(f for f in raw["parts"]["fans"] if f["id"] == "skua-120")["noise_dba"] += 8
        doc = check_job(raw).doc
        together = search(doc, SearchQuestion(max_dba=38, turn_cooler=False, speeds="together"))
        sides = search(doc, SearchQuestion(max_dba=38, turn_cooler=False))
        own = [x for x in sides.frontier if len({f.speed_pct for f in x.layout.fans}) > 1]
        self.assertTrue(own)
        for x in own:
            same = [y for y in together.frontier if self.fans(y) == self.fans(x)]
            self.assertTrue(any(costs(x)[0] + costs(x)[1] < costs(y)[0] + costs(y)[1] - 0.4 for y in same))
            self.assertLessEqual(x.level_dba, 38.0 + 1e-6)
            self.assertRegex(" ".join(x.words), r"fans .* at \d+ %, ")
        table = np.array([(x.cpu_rise_k + WATT_WORTH_K * x.lost_w, *costs(x)[1:]) for x in sides.frontier])
        for i, a in enumerate(table):
            self.assertFalse((table <= a - [0.06, 0.06, 0.06, 0, 0]).all(axis=1).any(), i)

    def fans(self, x: FoundLayout) -> set[tuple[str, str, str]]:
        return {(f.mount, f.fan, f.direction) for f in x.layout.fans}


class RadiatorTest(SimpleTestCase):
    def test_places_are_tried_and_their_fans_blow_one_way(self) -> None:
        raw = demo_raw()
        raw["layouts"] = [layout_raw(raw, "C")]
        found_doc = search(check_job(raw).doc, SearchQuestion(start="C", max_dba=36))
        places = {tuple(x.layout.radiator.mounts) for x in found_doc.frontier if x.layout.radiator}
        self.assertGreater(len(places), 1)
        for x in found_doc.frontier:
            assert x.layout.radiator is not None
            ways = {f.direction for f in x.layout.fans if f.mount in x.layout.radiator.mounts}
            self.assertEqual(len(ways), 1)
            self.assertEqual(
                errors_of(
                    Oracle(
                        check_job({**raw, "layouts": [*raw["layouts"], x.layout.model_dump(mode="json", exclude_unset=True)]}).doc,
                        Question(),
                    ),
                    x.layout.id,
                ),
                set(),
            )


class ErrorRulesTest(SimpleTestCase):
    def test_no_other_rule_finds_an_error(self) -> None:
        """On layouts of every demo job, and on some that are wrong in every way."""
        raw = demo_raw()
        wrong = layout_raw(raw, "C")
        wrong["fans"] = [fan_raw("t1", "intake"), fan_raw("t1", "exhaust", layer="inner"), fan_raw("f1", "exhaust")]
        oracle = Oracle(check_job(raw).doc, Question())
        for layout in raw["layouts"]:
            about = oracle.about(layout["id"])
            every = {f.code for f in found(about) if f.severity == "error"} - COUNTED
            own = {f.code for rule in RULES if rule.name in ERROR_RULES for f in rule.find(about) if f.severity == "error"} - COUNTED
            self.assertEqual(own, every)
        self.assertTrue({rule.name for rule in RULES} >= ERROR_RULES)
        self.assertTrue({"radiator_fans_opposed", "radiator_without_fan"} <= {code for code, _ in errors_of(oracle, "C")})


class WideTest(SimpleTestCase):
    def test_draws_and_neighbours_keep_the_rules(self) -> None:
        made = Search.of(check_job(demo_raw()).doc, SearchQuestion(start="C", fans="library"))
        rng = np.random.default_rng(1)
        for frame in made.frames:
            rows = drawn(frame.space, 60, rng)
            self.assertGreater(len(rows), 30)
            self.assertTrue(keeps(frame.space, rows).all())
            near = neighbours(frame.space, rows[0])
            self.assertTrue(keeps(frame.space, near).all())
            self.assertGreater(len(near), 5)


class LearnedTest(SimpleTestCase):
    """A case whose fans are louder and whose processor is warmer than their sheets have it: what is found keeps to what was taught."""

    doc: JobDoc
    learning: Learning

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.doc = job(4, {"tern-120": 3})
        drawn = [("A", {"f2": "intake", "r1": "exhaust"}), ("B", {"f2": "intake", "t1": "exhaust"}), ("C", {"r1": "exhaust"})]
        raw = cls.doc.model_dump(mode="json", exclude_unset=True)
        raw["layouts"] = [{"id": x, "fans": [fan_raw(m, way) for m, way in fans.items()]} for x, fans in drawn]
        cls.doc = check_job(raw).doc
        rises, levels = [], []
        for x, _ in drawn:
            point = Oracle(cls.doc, Question()).point(x)
            louder = tuple(replace(f, fan=replace(f.fan, noise_dba=f.fan.noise_dba + 4)) for f in point.machine.fans)
            heard = forecast(operating_point(replace(point.machine, fans=louder))).sound.level_dba
            for n in range(3):
                rises.append(Reading(f"{x}{n}", x, "both", "cpu", 1.2 * point.cpu_rise_k, 0.4))
                rises.append(Reading(f"{x}{n}", x, "both", "card", 0.9 * (point.card_rise_k or 0.0), 0.4))
                levels.append(LevelReading(f"{x}{n}", x, heard, 0.3, 0.5))
        cls.learning = Learning.of(cls.doc, Readings(rises, {"both": levels}))

    def told(self, made: Search, frame: Frame, states: np.ndarray, speed: np.ndarray) -> np.ndarray:
        """One by one and exactly: (rows, processor K, card K, dBA, W given up)."""
        own = [made.layout(frame, s, float(v), f"X{i}") for i, (s, v) in enumerate(zip(states, speed, strict=True))]
        doc = made.with_layouts(own)
        oracle = LearnedOracle(self.learning.about(doc), Question())
        found = [oracle.forecast(x.id) for x in own]
        lost = [sum(oracle.given_up_w(x.id)) for x in own]
        return np.array([(f.cpu.rise_k, f.card.rise_k if f.card else 0.0, f.sound.level_dba, w) for f, w in zip(found, lost, strict=True)])

    def test_looking_through_many_agrees_with_telling_them_one_by_one(self) -> None:
        made = Search.of(self.doc, SearchQuestion(turn_cooler=False), self.learning)
        frame = made.frames[0]
        states = drawn(frame.space, 60, np.random.default_rng(3))
        speed = np.full(len(states), 0.73)
        figures, told = figures_of(made, 0, states, speed), self.told(made, frame, states, speed)
        plain = figures_of(Search.of(self.doc, SearchQuestion(turn_cooler=False)), 0, states, speed)
        np.testing.assert_allclose(figures[:, 5], told[:, 3], atol=1.5)
        free = (figures[:, 5] == 0) & (plain[:, 5] == 0)
        self.assertGreater(free.sum(), 8)
        known = {frozenset((f.mount, f.direction) for f in x.fans) for x in self.doc.layouts}
        fans = [frozenset((f.mount, f.direction) for f in made.layout(frame, s, 0.73, "X").fans) for s in states]
        other = free & np.array([x not in known for x in fans])  # what a layout's level has of its own stays with it at other speeds
        for j, rows in enumerate((free, free, other)):
            taught = np.abs(plain[free, j] - told[free, j]).mean()
            self.assertLess(np.abs(figures[rows, j] - told[rows, j]).max(), 0.1 * taught)
        self.assertLess(np.abs(figures[free, 2] - told[free, 2]).max(), LAYOUT_DB)

    def test_limits_are_kept_as_learned(self) -> None:
        level, hot = 36.0, 98.0
        found = search(self.doc, SearchQuestion(max_dba=level, max_cpu_c=hot, turn_cooler=False), self.learning)
        self.assertTrue(found.frontier)
        oracle = LearnedOracle(
            self.learning.about(self.doc.model_copy(update={"layouts": [*self.doc.layouts, *(x.layout for x in found.frontier)]})),
            Question(room_c=found.room_c),
        )
        for x in found.frontier:
            told = oracle.forecast(x.layout.id)
            self.assertAlmostEqual(told.sound.level_dba, x.level_dba, places=6)
            self.assertAlmostEqual(told.cpu.rise_k, x.cpu_rise_k, places=6)
            self.assertLessEqual(x.level_dba, level + 1e-6)
            self.assertLessEqual(x.cpu_rise_k + found.room_c, hot + 1e-6)

    def test_no_layout_told_exactly_beats_one(self) -> None:
        question = SearchQuestion(turn_cooler=False)
        found = search(self.doc, question, self.learning)
        front = np.array([(x.cpu_rise_k + WATT_WORTH_K * x.lost_w, x.card_rise_k or 0.0, x.level_dba) for x in found.frontier])
        by_hand = np.array([x.changes for x in found.frontier])
        made = Search.of(self.doc, question, self.learning)
        frame = made.frames[0]
        states = np.vstack(list(layouts(frame.space)))
        every = np.random.default_rng(5).choice(len(states), min(len(states), 60), replace=False)
        states = states[every]
        speed = np.full(len(states), SPEEDS[0][2])
        rows, work = self.told(made, frame, states, speed), made.work(states, frame)[0]
        rows = np.column_stack([rows[:, 0] + WATT_WORTH_K * rows[:, 3], rows[:, 1:3]])
        for a, n in zip(front, by_hand, strict=True):
            beats = (rows <= a - 0.3).all(axis=1) & (work <= n)
            self.assertFalse(beats.any(), (a, rows[beats]))
        for i, a in enumerate(front):
            worse = (front <= a - 0.1).all(axis=1) & (by_hand <= by_hand[i])
            self.assertFalse(worse.any(), a)
