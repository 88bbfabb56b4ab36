"""The shipped library: enough of it, sound, and every case forecasts with ordinary parts in it."""

import json
from itertools import pairwise
from typing import Any

from django.test import SimpleTestCase

from desk.job.resolve import Resolver
from desk.together.fit import ledger_of
from documents.job.reader import check_job
from documents.job.starter import starter_document
from engine.coupled.operating_point import operating_point
from tests.machines import ROOT

CASES: list[dict[str, Any]] = json.loads((ROOT / "demo/library/cases.json").read_text(encoding="utf-8"))
PARTS: dict[str, list[dict[str, Any]]] = json.loads((ROOT / "demo/library/parts.json").read_text(encoding="utf-8"))


def filled(case: dict[str, Any]) -> dict[str, Any]:
    """A job in a case with a fan at every other mount, in at the front and bottom, out elsewhere."""
    raw = starter_document("library", case["document"])
    raw["parts"] = {"board_power_w": 35, **PARTS}
    low = case["document"].get("limits_mm", {}).get("cooler_height", 165) < 140
    raw["base"] = {"cpu": "office-65", "cooler": "puffin-37" if low else "cormorant-120", "card": "display-75"}
    by_size = {f["size_mm"]: f["id"] for f in PARTS["fans"]}
    raw["layouts"][0]["fans"] = [
        {
            "mount": m["id"],
            "fan": by_size[min(m["sizes_mm"])],
            "direction": "intake" if m["face"] in ("front", "bottom", "window") else "exhaust",
            "speed_pct": 70,
        }
        for m in case["document"]["mounts"][::2]
    ]
    return raw


class LibraryTest(SimpleTestCase):
    def test_there_is_enough_of_it(self) -> None:
        self.assertGreaterEqual(len(CASES), 10)
        self.assertGreaterEqual(sum(len(v) for v in PARTS.values()), 60)
        ids = [p["id"] for kind in PARTS.values() for p in kind]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertEqual(len({c["key"] for c in CASES}), len(CASES))
        litres = [
            c["document"]["inner_mm"]["depth"] * c["document"]["inner_mm"]["height"] * c["document"]["inner_mm"]["width"] / 1e6
            for c in CASES
        ]
        self.assertLess(min(litres), 9)
        self.assertGreater(max(litres), 80)
        self.assertIn("separate", {c["document"].get("card_chamber") for c in CASES})

    def test_every_case_forecasts_and_has_a_ledger(self) -> None:
        for case in CASES:
            with self.subTest(case=case["key"]):
                doc = check_job(filled(case)).doc
                point = operating_point(Resolver(doc).machine("A"))
                self.assertTrue(point.converged)
                self.assertTrue(5 < point.cpu_rise_k < 75)
                self.assertGreater(len(ledger_of(doc, "A").lines), 0)

    def test_mounts_lie_in_their_faces(self) -> None:
        for case in CASES:
            inner = case["document"]["inner_mm"]
            for m in case["document"]["mounts"]:
                c = m["centre_mm"]
                with self.subTest(case=case["key"], mount=m["id"]):
                    self.assertTrue(0 <= c["x"] <= inner["depth"] and 0 <= c["y"] <= inner["width"] and 0 <= c["z"] <= inner["height"])

    def test_larger_fans_of_a_family_move_more(self) -> None:
        for family in ("siskin", "plover", "teal", "wagtail"):
            flows = [
                f["flow_max_m3h"]
                for f in sorted(
                    (f for f in PARTS["fans"] if f["id"].startswith(family) and f["thickness_mm"] >= 20), key=lambda f: f["size_mm"]
                )
            ]
            self.assertTrue(all(a < b for a, b in pairwise(flows)), family)
