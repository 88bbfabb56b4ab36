"""The clearance ledger against sums done by hand, and what more room does."""

from dataclasses import replace
from typing import Any

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.job.resolve import Resolver
from desk.together.fit import LineOut, _fitting, ledger_of
from documents.job.reader import check_job
from engine.fit.ledger import TOLERANCE_MM, ledger, line
from tests.machines import demo_raw, fan_raw, layout_raw


def lines(raw: dict[str, Any], layout: str = "A") -> dict[str, LineOut]:
    return {x.what: x for x in ledger_of(check_job(raw).doc, layout).lines}


class LedgerTest(SimpleTestCase):
    def test_a_sandwich_by_hand(self) -> None:
        # 27 mm of radiator and 25 mm of fan in 55 mm: 3 mm to spare, none at worst with three lengths off by 1 mm.
        top = lines(demo_raw(), "C")["Depth at T1"]
        self.assertEqual((top.required_mm, top.available_mm, top.spare_mm, top.verdict), (52, 55, 3, "fits"))
        self.assertEqual(top.worst_mm, 3 - 3 * TOLERANCE_MM)

    def test_zero_margin_and_a_millimetre_too_much(self) -> None:
        # Worked example: 30 mm + 15 mm in 45 mm fits with nothing to spare; 33 mm + 15 mm does not.
        self.assertEqual(line("stack_depth", "x", (), 45, 45, "").verdict, "touches")
        self.assertEqual(line("stack_depth", "x", (), 48, 45, "").verdict, "does_not_fit")
        raw = demo_raw()
        for mount in raw["case"]["mounts"]:
            mount["depth_mm"] = 52
        self.assertEqual(lines(raw, "C")["Depth at T1"].verdict, "touches")
        raw["parts"]["radiators"][0]["thickness_mm"] = 30
        self.assertEqual(lines(raw, "C")["Depth at T1"].spare_mm, -3)

    def test_a_front_radiator_shortens_the_card_s_room(self) -> None:
        # 27 mm of radiator and 25 mm of fan in front take 52 mm from the card.
        without, with_it = (lines(demo_raw(), x)["Length of the card"] for x in ("A", "D"))
        self.assertEqual(without.available_mm - with_it.available_mm, 52 - 25)  # a fan alone stands there in A

    def test_cooler_height_and_the_fan_behind_it(self) -> None:
        found = lines(demo_raw())
        self.assertEqual(found["Height of the cooler"].spare_mm, 165 - 157)
        rear = found["R1 behind the cooler"]
        self.assertEqual((rear.required_mm, rear.available_mm), (25, 420 - 298 - 70))
        raw = demo_raw()
        raw["case"]["cpu_centre_mm"] = {"x": 328, "z": 340}  # 22 mm are left: 25 does not fit, a slim 14 does
        self.assertEqual(lines(raw)["R1 behind the cooler"].verdict, "does_not_fit")
        raw["parts"]["fans"][0]["thickness_mm"] = 14
        self.assertEqual(lines(raw)["R1 behind the cooler"].verdict, "fits")

    def test_sizes_that_a_mount_or_rail_does_not_take(self) -> None:
        raw = demo_raw()
        raw["parts"]["fans"].append({**raw["parts"]["fans"][0], "id": "wide", "size_mm": 200})
        layout_raw(raw, "A")["fans"].append(fan_raw("t1", "exhaust", fan="wide"))
        self.assertEqual(lines(raw)["Fan size at T1"].verdict, "does_not_fit")
        raw = demo_raw()
        for rail in raw["case"]["rails"]:
            rail["radiators_mm"] = [120]
        self.assertIn("does_not_fit", {x.verdict for x in lines(raw, "C").values() if x.code == "radiator_size"})

    def test_short_tubes_do_not_reach(self) -> None:
        raw = demo_raw()
        raw["parts"]["coolers"][1]["tube_mm"] = 200
        self.assertEqual(lines(raw, "D")["Reach of the tubes"].verdict, "does_not_fit")
        self.assertEqual(lines(demo_raw(), "D")["Reach of the tubes"].verdict, "fits")

    def test_what_cannot_be_checked_is_said(self) -> None:
        raw = demo_raw()
        raw["case"]["limits_mm"] = {}
        found = ledger_of(check_job(raw).doc, "A")
        self.assertIn("limits_mm.cooler_height", found.not_checked)
        self.assertNotIn("Height of the cooler", [x.what for x in found.lines])
        asked = {x.path: (x.low_mm, x.high_mm) for x in found.wanted}
        self.assertEqual(set(asked), {"limits_mm.card_length", "limits_mm.cooler_height", "limits_mm.memory_to_top"})
        self.assertTrue(all(0 < low < high for low, high in asked.values()))

    def test_a_cooler_without_its_height_is_asked_for_by_its_name(self) -> None:
        raw = demo_raw()
        del raw["parts"]["coolers"][0]["height_mm"]
        found = ledger_of(check_job(raw).doc, "A")
        self.assertEqual([x.cooler for x in found.wanted if x.path == "height_mm"], [raw["parts"]["coolers"][0]["id"]])
        self.assertIn("the cooler's height_mm", found.not_checked)

    def test_more_room_never_takes_a_fit_away(self) -> None:
        raw = demo_raw()
        resolver = Resolver(check_job(raw).doc)
        for layout in "ABCD":
            small = _fitting(resolver, resolver.layout(layout))
            large = replace(
                small,
                depth_mm=small.depth_mm + 40,
                card_limit_mm=(small.card_limit_mm or 0) + 40,
                cooler_limit_mm=(small.cooler_limit_mm or 0) + 40,
                memory_to_top_mm=(small.memory_to_top_mm or 0) + 40,
                mounts={k: replace(m, depth_mm=m.depth_mm + 40) for k, m in small.mounts.items()},
                rails=tuple(replace(r, depth_mm=r.depth_mm + 40) for r in small.rails),
            )
            before, after = ({x.what: x.spare_mm for x in ledger(f)} for f in (small, large))
            for what, spare in before.items():
                with self.subTest(layout=layout, what=what):
                    self.assertGreaterEqual(after[what], spare)

    def test_tightest_first(self) -> None:
        spares = [x.spare_mm for x in ledger_of(check_job(demo_raw()).doc, "D").lines]
        self.assertEqual(spares, sorted(spares))

    def test_what_does_not_fit_is_a_finding_and_gone_when_it_fits(self) -> None:
        raw = demo_raw()
        raw["parts"]["cards"][0]["length_mm"] = 330
        found = Oracle(check_job(raw).doc, Question(layouts=["D"])).findings_doc().layouts[0].findings
        self.assertEqual((found[0].code, found[0].severity), ("does_not_fit", "error"))
        self.assertIn("mm", found[0].because)
        fine = Oracle(check_job(demo_raw()).doc, Question(layouts=["D"])).findings_doc().layouts[0].findings
        self.assertNotIn("does_not_fit", [f.code for f in fine])

    def test_an_accepted_finding_keeps_its_reason_and_comes_last(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "B")["accepted"] = [{"code": "intake_leaves_unused", "mounts": ["f1", "t3"], "reason": "wanted for looks"}]
        found = Oracle(check_job(raw).doc, Question(layouts=["B"])).findings_doc().layouts[0].findings
        self.assertEqual((found[-1].code, found[-1].accepted), ("intake_leaves_unused", "wanted for looks"))
        layout_raw(raw, "B")["accepted"][0]["mounts"] = ["f2"]
        found = Oracle(check_job(raw).doc, Question(layouts=["B"])).findings_doc().layouts[0].findings
        self.assertTrue(all(f.accepted is None for f in found))
