"""Sums of current, ways of leads, kinds of plugs, and a machine as found: by hand, and how they move with their causes."""

from dataclasses import replace
from typing import Any

import numpy as np
from django.test import SimpleTestCase

from engine.wiring.asfound import Meant, Seen, audit
from engine.wiring.currents import NEAR_SHARE, ROUTING_FACTOR, HeaderBox, Hole, Plug, Wiring, hidden_way, way_mm, wiring

HEADER = HeaderBox("h", "fan", 1.0, ("3pin", "4pin"), 200.0, 0.0, 300.0)
PUMP = HeaderBox("p", "pump", 2.0, ("4pin",), None, None, None)
FAN = Plug("fan", "f1", "fan", 0.25, "4pin", 400.0, 0.0, "h", True, False, 0.0, 100.0, 300.0)


def books(*plugs: Plug, headers: tuple[HeaderBox, ...] = (HEADER, PUMP)) -> Wiring:
    return wiring(headers, plugs)


def plug(**changes: Any) -> Plug:
    return replace(FAN, **changes)


class CurrentTest(SimpleTestCase):
    def test_sums_and_words_by_hand(self) -> None:
        for count, current, verdict in (
            (3, 0.25, "carries"),
            (4, 0.25, "near"),
            (4, 0.24, "near"),
            (5, 0.25, "overloaded"),
            (0, 0.25, "carries"),
        ):
            line = books(*(plug(current_a=current) for _ in range(count))).headers[0]
            with self.subTest(count=count, current=current):
                self.assertAlmostEqual(line.sum_a, count * current)
                self.assertEqual(line.verdict, verdict)
                self.assertAlmostEqual(line.spare_a or 0, 1 - count * current)

    def test_exactly_the_limit_is_near_and_not_over(self) -> None:
        self.assertEqual(books(*(plug(current_a=0.1) for _ in range(10))).headers[0].verdict, "near")
        self.assertEqual(books(plug(current_a=NEAR_SHARE - 1e-6)).headers[0].verdict, "carries")

    def test_a_current_or_a_limit_that_nobody_knows(self) -> None:
        line = books(plug(current_a=None)).headers[0]
        self.assertEqual((line.verdict, line.unknown), ("not_known", ("fan",)))
        loose = books(plug(), headers=(replace(HEADER, limit_a=None),)).headers[0]
        self.assertEqual((loose.verdict, loose.spare_a), ("not_known", None))
        over = books(plug(current_a=None), plug(current_a=1.2)).headers[0]
        self.assertEqual(over.verdict, "overloaded")  # too much is too much, whatever else hangs there

    def test_another_plug_never_relieves_a_header(self) -> None:
        rng = np.random.default_rng(4)
        order = ["carries", "near", "overloaded"]
        for _ in range(200):
            plugs = [plug(current_a=float(a)) for a in rng.uniform(0, 0.5, rng.integers(1, 7))]
            before, after = (order.index(books(*p).headers[0].verdict) for p in (plugs[:-1], plugs))
            self.assertLessEqual(before, after)


class LeadTest(SimpleTestCase):
    def test_the_way_by_hand(self) -> None:
        # 200 mm along the depth, none in height, 100 mm from the tray: 300 mm, times 1.2 along the frame.
        self.assertAlmostEqual(way_mm(FAN, HEADER) or 0, ROUTING_FACTOR * 300)
        lead = books(plug(lead_mm=350.0)).leads[0]
        self.assertAlmostEqual(lead.spare_mm, 350 - 360)
        self.assertAlmostEqual(books(plug(lead_mm=350.0, extension_mm=100.0)).leads[0].spare_mm, 90)

    def test_behind_the_board_where_it_is_long_enough(self) -> None:
        # In by a (100 + 100 mm away), 150 mm behind the board, out by b beside the header: 200 + 150 + 50 = 400 mm, times 1.2.
        holes = (Hole("a", 100.0, 0.0, 300.0), Hole("b", 200.0, 0.0, 350.0), Hole("far", 900.0, 0.0, 900.0))
        for lead_mm, needed, through in ((480.0, 480.0, ("a", "b")), (479.0, 360.0, ()), (100.0, 360.0, ())):
            with self.subTest(lead_mm=lead_mm):
                (line,) = wiring((HEADER,), (plug(lead_mm=lead_mm),), holes).leads
                self.assertAlmostEqual(line.needed_mm, needed)
                self.assertEqual(line.through, through)
                self.assertAlmostEqual(line.hidden_mm or 0, 480)

    def test_one_hole_leads_nowhere_and_a_short_way_goes_straight(self) -> None:
        (line,) = wiring((HEADER,), (plug(lead_mm=900.0),), (Hole("a", 100.0, 0.0, 300.0),)).leads
        self.assertEqual((line.through, line.hidden_mm), ((), None))
        near = plug(lead_mm=900.0, x_mm=150.0, y_mm=20.0)
        two = (Hole("a", 160.0, 0.0, 300.0), Hole("b", 190.0, 0.0, 300.0))
        self.assertEqual(wiring((HEADER,), (near,), two).leads[0].through, ())

    def test_a_hole_more_never_makes_the_hidden_way_longer(self) -> None:
        rng = np.random.default_rng(6)
        for _ in range(100):
            holes = [Hole(str(i), *(float(v) for v in rng.uniform(0, 400, 3))) for i in range(4)]
            few, all_ = (hidden_way(plug(), HEADER, tuple(h)) for h in (holes[:3], holes))
            if few:
                assert all_
                self.assertLessEqual(all_[0], few[0] + 1e-9)
                self.assertGreaterEqual(all_[0], (way_mm(FAN, HEADER) or 0) - 1e-9)  # never shorter than straight along the frame

    def test_places_that_nobody_knows_give_no_line(self) -> None:
        self.assertEqual(books(plug(header="p")).leads, ())
        self.assertEqual(books(plug(lead_mm=None)).leads, ())
        self.assertEqual(books(plug(x_mm=None)).leads, ())
        self.assertIsNone(way_mm(FAN, PUMP))


class PlugTest(SimpleTestCase):
    def codes(self, *plugs: Plug, headers: tuple[HeaderBox, ...] = (HEADER, PUMP)) -> list[str]:
        return [m.code for m in books(*plugs, headers=headers).mismatches]

    def test_each_mismatch_once_and_its_cure(self) -> None:
        four_only = replace(HEADER, modes=("4pin",))
        pump = plug(name="pump", kind="pump", mount=None, header="p", slowed=False)
        for wrong, right in (
            ((plug(connector="3pin"), four_only), (plug(connector="3pin"), HEADER)),
            ((plug(connector="3pin"), four_only), (plug(connector="3pin", slowed=False, curved=True), four_only)),
            ((replace(pump, slowed=True), PUMP), (pump, PUMP)),
            ((replace(pump, header="h"), HEADER), (pump, PUMP)),
            ((plug(slowed=False), HEADER), (plug(slowed=True), HEADER)),
            ((plug(header=None), HEADER), (plug(), HEADER)),
        ):
            with self.subTest(wrong=wrong[0]):
                self.assertEqual(len(self.codes(wrong[0], headers=(wrong[1],))), 1)
                self.assertEqual(self.codes(right[0], headers=(right[1],)), [])

    def test_without_a_board_nothing_is_said(self) -> None:
        self.assertEqual(self.codes(plug(header=None), headers=()), [])


class AsFoundTest(SimpleTestCase):
    MEANT = (Meant("f1", "outer", "intake", True), Meant("r1", "outer", "exhaust", True), Meant("t1", "outer", "exhaust", False))

    def seen(self, mount: str, direction: str | None, **more: Any) -> Seen:
        return Seen(mount, "outer", direction, more.pop("plugged", True), more.pop("turning", True), **more)

    def test_as_meant_says_nothing(self) -> None:
        seen = (self.seen("f1", "intake"), self.seen("r1", "exhaust"), self.seen("t1", "exhaust", plugged=False))
        self.assertEqual(audit(self.MEANT, seen), [])

    def test_several_things_wrong_with_one_fan_are_several_lines(self) -> None:
        seen = (self.seen("f1", "exhaust", plugged=False, filter="missing"), self.seen("r1", "exhaust"), self.seen("t1", "exhaust"))
        self.assertEqual([d.code for d in audit(self.MEANT, seen)], ["reversed", "unplugged", "filter_missing"])

    def test_a_fan_meant_to_be_unplugged_may_be(self) -> None:
        seen = (self.seen("f1", "intake"), self.seen("r1", "exhaust"), self.seen("t1", "exhaust", plugged=True, turning=False))
        self.assertEqual(audit(self.MEANT, seen), [])

    def test_layers_are_told_apart(self) -> None:
        seen = (
            self.seen("f1", "intake"),
            self.seen("r1", "exhaust"),
            self.seen("t1", "exhaust"),
            Seen("f1", "inner", "intake", True, True),
        )
        self.assertEqual([(d.code, d.layer) for d in audit(self.MEANT, seen)], [("unplanned", "inner")])

    def test_every_deviation_says_where_and_what_to_do(self) -> None:
        for d in audit(self.MEANT, (self.seen("f1", None), self.seen("b1", "intake"))):
            with self.subTest(code=d.code):
                self.assertIn(d.mount.upper(), d.what)
                self.assertTrue(d.do.endswith("."))
