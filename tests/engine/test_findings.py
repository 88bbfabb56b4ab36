"""Every rule: present when it should be, gone when its cause is gone, never silent about where and why."""

from typing import Any

from django.test import SimpleTestCase

from engine.coupled.forecast import forecast
from engine.coupled.operating_point import operating_point
from engine.findings.finding import Finding
from engine.findings.registry import findings
from tests.machines import curved_raw, demo_raw, fan_raw, layout_raw, machine


def found(raw: dict[str, Any], layout_id: str = "A") -> dict[str, Finding]:
    point = operating_point(machine(raw, layout_id))
    return {f.code: f for f in findings(point, forecast(point))}


def with_fans(*fans: dict[str, Any], **more: Any) -> dict[str, Any]:
    raw = demo_raw()
    layout_raw(raw, "A").update({"fans": list(fans), **more})
    return raw


FRONT = (fan_raw("f1", "intake"), fan_raw("f2", "intake"), fan_raw("f3", "intake"))


class FindingsTest(SimpleTestCase):
    def test_opposed_fans_on_a_radiator(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "C")["fans"].append(fan_raw("t1", "intake", 52, "skua-120"))
        finding = found(raw, "C")["radiator_fans_opposed"]
        self.assertEqual((finding.severity, finding.mounts), ("error", ("t1",)))
        self.assertEqual(finding.fixes[0].action, "flip")
        self.assertNotIn("radiator_fans_opposed", found(demo_raw(), "C"))

    def test_opposed_fans_without_a_radiator_have_their_own_code(self) -> None:
        codes = found(with_fans(*FRONT, fan_raw("r1", "exhaust"), fan_raw("r1", "intake", layer="inner")))
        self.assertIn("fans_opposed_in_series", codes)

    def test_neighbours_that_fight(self) -> None:
        codes = found(with_fans(*FRONT, fan_raw("t1", "exhaust"), fan_raw("t2", "intake")))
        self.assertEqual(set(codes["neighbours_fight"].mounts), {"t1", "t2"})
        self.assertNotIn("neighbours_fight", found(with_fans(*FRONT, fan_raw("t1", "exhaust"), fan_raw("t2", "exhaust"))))

    def test_short_circuit_vanishes_with_its_culprit(self) -> None:
        finding = found(demo_raw(), "B")["intake_leaves_unused"]
        self.assertEqual(finding.mounts, ("f1", "t3"))
        self.assertIn("%", finding.because)
        raw = demo_raw()
        layout_raw(raw, "B")["fans"] = [f for f in layout_raw(raw, "B")["fans"] if f["mount"] != "t3"]
        self.assertNotIn(
            "t3", found(raw, "B").get("intake_leaves_unused", finding).mounts[1:] if "intake_leaves_unused" in found(raw, "B") else ()
        )

    def test_no_exhaust(self) -> None:
        self.assertIn("no_exhaust", found(with_fans(*FRONT)))
        self.assertNotIn("no_exhaust", found(with_fans(*FRONT, fan_raw("r1", "exhaust"))))
        self.assertNotIn("no_exhaust", found(with_fans(*FRONT, panels={"window": {"state": "removed"}})))

    def test_negative_balance_names_where_dust_enters(self) -> None:
        finding = found(with_fans(fan_raw("r1", "exhaust"), fan_raw("t1", "exhaust"), fan_raw("t2", "exhaust")))["negative_unfiltered"]
        self.assertEqual(finding.severity, "note")
        self.assertIn("unfiltered", finding.because)
        self.assertNotIn("negative_unfiltered", found(with_fans(*FRONT, fan_raw("r1", "exhaust"))))

    def test_pump_at_the_top(self) -> None:
        raw = demo_raw()
        layout = layout_raw(raw, "D")
        self.assertNotIn("pump_at_top", found(raw, "D"))
        raw["case"]["mounts"] += [
            {"id": f"b{i}", "face": "bottom", "centre_mm": {"x": 100 + 125 * i, "y": 108, "z": 0}, "sizes_mm": [120]} for i in range(2)
        ]
        layout["radiator"]["mounts"] = ["b0", "b1"]
        finding = found(raw, "D")["pump_at_top"]
        self.assertEqual((finding.severity, finding.kind), ("error", "practice"))
        raw["parts"]["coolers"][1]["pump"] = "radiator"
        self.assertNotIn("pump_at_top", found(raw, "D"))

    def test_pump_in_a_top_radiator(self) -> None:
        raw = demo_raw()
        self.assertNotIn("pump_at_top", found(raw, "C"))
        raw["parts"]["coolers"][1]["pump"] = "radiator"
        self.assertEqual(found(raw, "C")["pump_at_top"].severity, "warning")

    def test_over_the_sound_limit_with_a_speed_that_meets_it(self) -> None:
        finding = found(demo_raw(), "B")["over_sound_limit"]
        speed = finding.fixes[0].speed_pct
        assert speed
        raw = demo_raw()
        for place in layout_raw(raw, "B")["fans"]:
            place["speed_pct"] *= speed / 100
        self.assertNotIn("over_sound_limit", found(raw, "B"))

    def test_over_the_limit_with_fans_on_a_curve_offers_no_fixed_speed(self) -> None:
        finding = found(curved_raw([[20, 90], [90, 100]], layout_id="B"), "B")["over_sound_limit"]
        self.assertEqual(finding.fixes, ())
        self.assertIn("curve", finding.do)

    def test_gravest_first_and_complete(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "C")["fans"].append(fan_raw("t1", "intake", 100, "skua-120"))
        point = operating_point(machine(raw, "C"))
        ordered = findings(point, forecast(point))
        ranks = [{"error": 0, "warning": 1, "note": 2}[f.severity] for f in ordered]
        self.assertEqual(ranks, sorted(ranks))
        for f in ordered:
            self.assertTrue(f.what and f.because and f.do)
