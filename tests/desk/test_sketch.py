"""A case from three answers: even rows, what does not fit said with its numbers, and a forecast of every kind."""

from itertools import pairwise
from typing import Any

from django.test import SimpleTestCase

from desk.begin.sketch import KINDS, SketchIn, rows_of, sketch
from desk.forecast.document import Oracle, Question
from desk.job.resolve import Resolver
from documents.errors import DocumentError
from documents.job.case import CaseDoc
from documents.job.reader import check_job
from tests.machines import demo_raw, fan_raw


def drawn(like: str = "tower", size: tuple[float, float, float] = (430, 460, 220), **rows: tuple[int, float]) -> dict[str, Any]:
    depth, height, width = size
    asked = [{"face": face, "count": count, "size_mm": mm} for face, (count, mm) in rows.items()]
    return sketch(SketchIn.model_validate({"like": like, "depth_mm": depth, "height_mm": height, "width_mm": width, "rows": asked}))


def job_of(case: dict[str, Any], *mounts: str) -> dict[str, Any]:
    raw = demo_raw()
    fans = [fan_raw(m, "exhaust" if m[0] in "rt" else "intake") for m in mounts]
    return raw | {"case": case, "layouts": [{"id": "A", "name": "first", "fans": fans}], "ideas": [], "points": []}


class SketchTest(SimpleTestCase):
    def test_a_row_is_even_inside_its_face_and_over_the_shroud(self) -> None:
        case = CaseDoc.model_validate(drawn(front=(3, 120), top=(2, 140), rear=(1, 120), bottom=(2, 120), window=(2, 120)))
        assert case.shroud
        for face, axis, low, high in (("front", "z", case.shroud.height_mm, 460), ("top", "x", 0, 430), ("bottom", "x", 0, 430)):
            row = [m for m in case.mounts if m.face == face]
            at = sorted(getattr(m.centre_mm, axis) for m in row)
            half = max(row[0].sizes_mm) / 2
            steps = [b - a for a, b in pairwise(at)]
            self.assertAlmostEqual(max(steps), min(steps), delta=0.2)
            self.assertGreaterEqual(min(steps), 2 * half)
            self.assertTrue(low <= at[0] - half and at[-1] + half <= high, (face, at))
        self.assertEqual([m.id for m in case.mounts][:3], ["f1", "f2", "f3"])  # from above
        self.assertGreater(case.mounts[0].centre_mm.z, case.mounts[1].centre_mm.z)
        self.assertEqual(next(r for r in case.rails if r.face == "front").radiators_mm, [120, 240, 360])

    def test_a_row_longer_than_its_face_is_told_with_both_lengths(self) -> None:
        with self.assertRaises(DocumentError) as caught:
            drawn(front=(3, 140), size=(400, 480, 220), rear=(5, 140))
        self.assertEqual([f.path for f in caught.exception.faults], ["rows[0]", "rows[1]"])
        self.assertIn("3 of 140 mm need 420 mm, the front has 379 mm over the shroud", caught.exception.faults[0].what)

    def test_nobody_has_counted_gives_the_usual_rows_as_far_as_there_is_room(self) -> None:
        def usual(like: str, depth: float, height: float) -> list[tuple[str, int, float]]:
            asked = SketchIn.model_validate({"like": like, "depth_mm": depth, "height_mm": height, "width_mm": 220})
            sketch(asked)  # and it can be drawn
            return [(r.face, r.count, r.size_mm) for r in rows_of(asked)]

        self.assertEqual(usual("tower", 430, 460), [("front", 3, 120), ("top", 2, 120), ("rear", 1, 120)])
        self.assertEqual(usual("tower", 430, 455), [("front", 2, 120), ("top", 2, 120), ("rear", 1, 120)])  # 359 mm over the shroud
        self.assertEqual(usual("compact", 239, 119), [("top", 1, 120)])
        self.assertEqual(usual("flat", 100, 100), [])

    def test_a_person_who_has_counted_none_gets_none(self) -> None:
        asked = SketchIn.model_validate({"like": "tower", "depth_mm": 430, "height_mm": 460, "width_mm": 220, "rows": []})
        self.assertEqual((rows_of(asked), sketch(asked)["mounts"]), ([], []))

    def test_every_kind_opens_and_is_forecast(self) -> None:
        for like in KINDS:
            case = drawn(like, (400, 420, 260), top=(2, 120), rear=(1, 120))
            with self.subTest(like=like):
                doc = check_job(job_of(case, "t1", "t2", "r1")).doc
                self.assertGreater(Oracle(doc, Question()).forecast_doc().layouts[0].cpu.rise_k, 5)
                self.assertEqual(doc.case.dimensions["board_depth_mm"].source, "guessed")

    def test_fans_of_a_sandwich_stand_on_the_board_s_side_and_serve_it(self) -> None:
        case = drawn("sandwich", (330, 400, 250), top=(2, 120), bottom=(1, 120))
        tray = case["card_side_mm"]
        self.assertTrue(all(m["centre_mm"]["y"] > tray for m in case["mounts"]))
        raw = job_of(case, "t1", "t2")

        def card_and_cpu(y: float) -> tuple[float, float]:
            for m in raw["case"]["mounts"]:
                m["centre_mm"]["y"] = y
            made = Oracle(check_job(raw).doc, Question()).forecast_doc().layouts[0]
            assert made.card
            return made.card.rise_k, made.cpu.rise_k

        behind, before = card_and_cpu(tray / 2), card_and_cpu((tray + 250) / 2)
        self.assertLess(behind[0], before[0] - 1)  # fans behind the tray cool the card,
        self.assertLess(before[1], behind[1] - 1)  # those before it the processor

    def test_chambers_side_by_side_are_as_large_as_drawn(self) -> None:
        case = drawn("sandwich", (330, 400, 250), top=(2, 120))
        spaces = _spaces(case)
        low = sum(spaces.volume_m3(s) for s in spaces.ids if s.startswith("low"))
        whole = sum(spaces.volume_m3(s) for s in spaces.ids)
        self.assertAlmostEqual(whole, 0.33 * 0.4 * 0.25, places=6)
        self.assertAlmostEqual(low / whole, case["card_side_mm"] / 250, places=3)
        tops = spaces.whole_face("top")
        self.assertAlmostEqual(sum(tops.values()), 0.33 * 0.25, places=6)
        self.assertAlmostEqual(sum(a for s, a in tops.items() if s.startswith("low")), 0.33 * case["card_side_mm"] / 1000, places=6)
        self.assertAlmostEqual(sum(spaces.whole_face("window").values()), 0.33 * 0.4, places=6)


def _spaces(case: dict[str, Any]) -> Any:
    from engine.coupled.spaces import Spaces

    return Spaces.of(Resolver(check_job(job_of(case)).doc).machine("A"))
