"""Mounts belong to walls: a wall that moves takes them along, what hangs outside is told, a face may be set back or slanted."""

import copy
from typing import Any

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.job.resolve import Resolver
from desk.together.fit import ledger_of
from documents.errors import DocumentError
from documents.job.reader import check_job
from engine.coupled.operating_point import operating_point
from engine.coupled.spaces import Spaces
from tests.machines import demo_raw


def changed(**inner: float) -> dict[str, Any]:
    raw = demo_raw()
    raw["case"]["inner_mm"] |= inner
    return raw


def cpu_k(raw: dict[str, Any], layout: str = "A") -> float:
    return Oracle(check_job(raw).doc, Question(layouts=[layout])).forecast_doc().layouts[0].cpu.rise_k


class WallsTest(SimpleTestCase):
    def test_what_hangs_outside_is_a_finding_and_there_is_no_forecast(self) -> None:
        raw = changed(height=250)
        oracle = Oracle(check_job(raw).doc, Question(layouts=["A"]))
        found = oracle.findings_doc().layouts[0].findings
        self.assertTrue(found and all(f.code == "outside_the_case" and f.severity == "error" and not f.may_accept for f in found))
        self.assertIn("mm over the floor, of 250 mm", found[0].what)
        with self.assertRaises(DocumentError) as caught:
            oracle.forecast_doc()
        self.assertTrue(all(f.path.startswith(("case.mounts[", "case.vents[")) for f in caught.exception.faults))
        self.assertFalse(oracle.can_forecast)

    def test_an_open_bench_has_no_walls_to_hang_outside_of(self) -> None:
        raw = changed(height=250)
        raw["case"]["kind"] = "open_bench"
        self.assertTrue(Oracle(check_job(raw).doc, Question(layouts=["A"])).can_forecast)

    def test_a_mount_stands_on_its_wall_wherever_that_was_moved(self) -> None:
        # The rear wall moved by 30 mm; what its mounts had as way through the wall is the old wall's place.
        raw = changed(depth=demo_raw()["case"]["inner_mm"]["depth"] + 30)
        moved = copy.deepcopy(raw)
        for m in moved["case"]["mounts"]:
            if m["face"] == "rear":
                m["centre_mm"]["x"] = raw["case"]["inner_mm"]["depth"]
        self.assertEqual(cpu_k(raw), cpu_k(moved))

    def test_a_slanted_front_takes_its_mounts_the_card_and_the_air_along(self) -> None:
        raw = demo_raw()
        inner = raw["case"]["inner_mm"]
        raw["case"]["set_back"] = [{"face": "front", "top_mm": 80, "bottom_mm": 0}]
        raw["case"]["limits_mm"] = {}
        m = Resolver(check_job(raw).doc).machine("A")
        for mount in (x for x in m.mounts.values() if x.face == "front"):
            self.assertAlmostEqual(mount.centre_mm.x, 80 * mount.centre_mm.z / inner["height"], places=6)
        spaces = Spaces.of(m)
        volume = sum(spaces.volume_m3(s) for s in spaces.ids)
        self.assertAlmostEqual(volume, (inner["depth"] - 40) * inner["height"] * inner["width"] * 1e-9, places=6)
        plain = demo_raw()
        plain["case"]["limits_mm"] = {}
        room = [next(x for x in ledger_of(check_job(r).doc, "A").lines if x.code == "card_length").available_mm for r in (plain, raw)]
        self.assertAlmostEqual(room[0] - room[1], 80 * m.card_height_mm / inner["height"], places=6)
        self.assertNotAlmostEqual(cpu_k(raw), cpu_k(plain), places=3)
        self.assertTrue(operating_point(m).converged)

    def test_a_rear_set_back_takes_room_from_the_fan_behind_the_cooler(self) -> None:
        rooms = []
        for back in (0, 20):
            raw = demo_raw()
            raw["case"]["set_back"] = [{"face": "rear", "top_mm": back, "bottom_mm": back}]
            lines = ledger_of(check_job(raw).doc, "A").lines
            rooms += [x.available_mm for x in lines if x.code == "rear_fan_to_cooler"]
        self.assertAlmostEqual(rooms[0] - rooms[1], 20, places=6)

    def test_a_card_in_a_chamber_of_its_own_is_not_shortened_by_fans_of_the_other(self) -> None:
        def available(y_mm: float) -> float:
            raw = demo_raw()
            raw["case"] |= {"card_chamber": "separate", "card_side_mm": 80, "limits_mm": {}}
            for m in raw["case"]["mounts"]:
                if m["face"] == "front":
                    m["centre_mm"]["y"] = y_mm
            return next(x for x in ledger_of(check_job(raw).doc, "A").lines if x.code == "card_length").available_mm

        depth = demo_raw()["case"]["inner_mm"]["depth"]
        self.assertEqual(available(150), depth)
        self.assertLess(available(40), depth - 20)
