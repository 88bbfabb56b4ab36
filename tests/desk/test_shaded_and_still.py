"""Blocks before any face, fans that a restriction picks, alternatives by name, fans that stand still at a load."""

import json
from typing import Any

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from documents.job.reader import check_job
from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from tests.machines import ROOT, curved_raw, demo_raw, fan_raw, layout_raw, machine


def flow_m3h(raw: dict[str, Any], mount: str) -> float:
    f = forecast(operating_point(machine(raw)))
    return abs(next(x.flow_m3h for x in f.fans if x.mount == mount))


def placed(*fans: dict[str, Any]) -> dict[str, Any]:
    raw = demo_raw()
    layout_raw(raw, "A")["fans"] = list(fans)
    return raw


class BlocksTest(SimpleTestCase):
    def test_what_stands_behind_a_mount_of_any_face_shades_it_and_no_other(self) -> None:
        fans = [fan_raw("t2", "exhaust", 100), fan_raw("t3", "exhaust", 100), fan_raw("r1", "exhaust", 100)]
        free = placed(*fans)
        mounts = {m["id"]: m["centre_mm"] for m in free["case"]["mounts"]}
        for kind, mount, low, high in (
            ("structure", "t2", {"x": -70, "y": -70, "z": -40}, {"x": 70, "y": 70, "z": -20}),
            ("block_off", "r1", {"x": -40, "y": -70, "z": -70}, {"x": -20, "y": 70, "z": 70}),
        ):
            raw = placed(*fans)
            c = mounts[mount]
            corners = [{axis: c[axis] + off[axis] for axis in "xyz"} for off in (low, high)]
            raw["case"]["blocks"] = [{"id": "o1", "kind": kind, "from_mm": corners[0], "to_mm": corners[1], "free_pct": 10}]
            with self.subTest(mount=mount):
                self.assertLess(flow_m3h(raw, mount), 0.75 * flow_m3h(free, mount))
                self.assertGreater(flow_m3h(raw, "t3"), 0.95 * flow_m3h(free, "t3"))

    def test_a_block_that_covers_half_a_fan_shades_half_of_it_and_one_far_off_nothing(self) -> None:
        c = next(m["centre_mm"] for m in demo_raw()["case"]["mounts"] if m["id"] == "f1")
        flows = []
        for half, near in ((0, 20), (60, 20), (120, 20), (120, 150)):
            raw = placed(fan_raw("f1", "intake", 100), fan_raw("r1", "exhaust", 100))
            if half:
                low = {"x": near, "y": c["y"] - 70, "z": c["z"] - 60}
                high = {"x": near + 10, "y": c["y"] + 70, "z": c["z"] - 60 + half}
                raw["case"]["blocks"] = [{"id": "o1", "kind": "cage", "from_mm": low, "to_mm": high, "free_pct": 20}]
            flows.append(machine(raw).mounts["f1"].blocked_pct)
        self.assertEqual(flows[0], flows[3])
        self.assertAlmostEqual(flows[1], 40, delta=0.5)
        self.assertAlmostEqual(flows[2], 80, delta=0.5)


class RestrictionTest(SimpleTestCase):
    def test_an_airflow_fan_wins_in_the_open_and_loses_behind_cage_and_filter(self) -> None:
        # Common practice, no source: what a fan is made for shows against what stands before it.
        shelf = json.loads((ROOT / "demo" / "library" / "parts.json").read_text(encoding="utf-8"))["fans"]
        parts = {f["id"]: f for f in (p.get("figures", p) for p in shelf)}
        airy, strong = parts["petrel-120"], parts["plover-120"]
        self.assertEqual((airy["made_for"], strong["made_for"]), ("airflow", "pressure"))

        def moved(fan: dict[str, Any], choked: bool) -> float:
            raw = placed(fan_raw("r1", "intake", 100, fan["id"]))
            raw["parts"]["fans"] = [f for f in raw["parts"]["fans"] if f["id"] != fan["id"]] + [fan]
            mount = next(m for m in raw["case"]["mounts"] if m["id"] == "r1")
            mount["grille_open_pct"] = 100
            if choked:
                mount |= {"grille_open_pct": 35, "obstruction_k": 12}
                raw["case"]["panels"] = [p for p in raw["case"]["panels"] if p["face"] != "rear"]
                raw["case"]["panels"].append({"face": "rear", "kind": "mesh", "open_area_pct": 35, "filter": "fine"})
            else:
                raw["case"]["kind"] = "open_bench"
            return flow_m3h(raw, "r1")

        self.assertGreater(moved(airy, False), 1.03 * moved(strong, False))
        self.assertGreater(moved(strong, True), 1.05 * moved(airy, True))

    def test_a_choked_fan_s_finding_names_a_better_one_of_those_on_the_table(self) -> None:
        raw = placed(fan_raw("f1", "intake", 80), fan_raw("r1", "exhaust", 80))
        mount = next(m for m in raw["case"]["mounts"] if m["id"] == "f1")
        mount |= {"grille_open_pct": 30, "obstruction_k": 15}
        found = Oracle(check_job(raw).doc, Question(layouts=["A"])).findings_doc().layouts[0].findings
        choked = next(f for f in found if f.code == "fan_choked" and f.mounts == ("f1",))
        self.assertIn("Skua 120", choked.do)
        raw["parts"]["fans"] = [f for f in raw["parts"]["fans"] if f["id"] == "tern-120"]
        for layout in raw["layouts"]:
            for place in layout["fans"]:
                place["fan"] = "tern-120"
        found = Oracle(check_job(raw).doc, Question(layouts=["A"])).findings_doc().layouts[0].findings
        self.assertNotIn("would move", next(f for f in found if f.code == "fan_choked" and f.mounts == ("f1",)).do)


class StillAtThisLoadTest(SimpleTestCase):
    def test_a_fan_whose_curve_asks_for_nothing_is_not_counted(self) -> None:
        raw = curved_raw([(30, 0), (95, 0)])
        doc = check_job(raw).doc
        made = Oracle(doc, Question(layouts=["A"])).forecast_doc().layouts[0]
        self.assertTrue(all(f.speed_pct == 0 for f in made.fans))
        self.assertEqual((made.balance.intake_count, made.balance.exhaust_count), (0, 0))
