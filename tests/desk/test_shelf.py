"""The tray of parts: millimetres and operating points before a part is chosen, also in a job that has none yet."""

import json
from typing import Any

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.forecast.shelf import ShelfRow, shelf
from desk.together.fit import ledger_of
from documents.job.reader import check_job
from documents.job.starter import starter_document
from tests.machines import ROOT, demo_raw, fan_raw, layout_raw


def library() -> dict[str, list[dict[str, Any]]]:
    raw = json.loads((ROOT / "demo" / "library" / "parts.json").read_text(encoding="utf-8"))
    return {kind: [p.get("figures", p) for p in rows] for kind, rows in raw.items() if isinstance(rows, list)}


def rows(raw: dict[str, Any], parts: dict[str, list[dict[str, Any]]] | None = None) -> dict[tuple[str, str], ShelfRow]:
    return {(r.kind, r.id): r for r in shelf(check_job(raw).doc, "A", parts or library())}


class ShelfTest(SimpleTestCase):
    def test_every_part_of_the_library_has_a_row_that_says_something(self) -> None:
        found = rows(demo_raw())
        asked = {
            (kind, p["id"])
            for kind, ps in library().items()
            if kind in ("cards", "coolers", "radiators", "fans", "memory", "supplies")
            for p in ps
        }
        self.assertEqual(set(found), asked)
        self.assertTrue(all(r.words for r in found.values()))
        self.assertTrue({"fits", "does_not_fit"} <= {r.verdict for r in found.values()})

    def test_millimetres_are_those_of_the_ledger_once_it_is_chosen(self) -> None:
        raw = demo_raw()
        part = next(p for p in library()["cards"] if p["length_mm"] > 200)
        told = rows(raw, {"cards": [part]})["cards", part["id"]]
        raw["parts"]["cards"].append({**part, "id": "tried"})
        layout_raw(raw, "A")["card"] = "tried"
        lines = [x for x in ledger_of(check_job(raw).doc, "A").lines if x.code in ("card_length", "card_width", "card_slots")]
        self.assertAlmostEqual(told.spare_mm or 0, min(x.spare_mm for x in lines))
        point = Oracle(check_job(raw).doc, Question(layouts=["A"])).point("A")
        self.assertAlmostEqual(told.rise_k or 0, point.card_rise_k or 0, delta=0.05)

    def test_a_fan_s_operating_point_is_the_forecast_s_at_that_mount(self) -> None:
        raw = demo_raw()
        told = rows(raw, {"fans": [raw["parts"]["fans"][0]]})["fans", raw["parts"]["fans"][0]["id"]]
        assert told.mount and told.flow_m3h and told.free_m3h
        face = next(m["face"] for m in raw["case"]["mounts"] if m["id"] == told.mount)
        way = "exhaust" if face in ("rear", "top") else "intake"
        layout_raw(raw, "A")["fans"].append(fan_raw(told.mount, way, 100, raw["parts"]["fans"][0]["id"]))
        made = Oracle(check_job(raw).doc, Question(layouts=["A"])).forecast_doc().layouts[0]
        flow = next(f.flow_m3h for f in made.fans if f.mount == told.mount)
        self.assertAlmostEqual(told.flow_m3h, abs(flow), delta=0.2)
        self.assertLess(told.flow_m3h, told.free_m3h)

    def test_before_any_part_is_chosen_millimetres_are_there_already(self) -> None:
        case = demo_raw()["case"] | {"limits_mm": {"card_length": 290, "cooler_height": 60}}
        found = rows(starter_document("new", case))
        for p in library()["cards"]:
            self.assertEqual(found["cards", p["id"]].verdict == "does_not_fit", p["length_mm"] > 290 + 0.05, p)
        tall = next(p for p in library()["coolers"] if (p.get("height_mm") or 0) > 100)
        self.assertEqual(found["coolers", tall["id"]].verdict, "does_not_fit")

    def test_what_the_case_does_not_say_is_not_known_and_not_passed(self) -> None:
        case = {k: v for k, v in demo_raw()["case"].items() if k != "limits_mm"}
        found = rows(starter_document("new", case))
        supplies = [r for (kind, _), r in found.items() if kind == "supplies"]
        self.assertEqual({r.verdict for r in supplies}, {"not_known"})
        bare = starter_document("new", {**case, "mounts": [], "rails": []})
        self.assertEqual({r.verdict for (kind, _), r in rows(bare).items() if kind == "fans"}, {"does_not_fit"})
