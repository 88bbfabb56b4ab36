"""Every rule once raised and once not; what its fix does; and that its numbers are the forecast's."""

import copy
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.test import SimpleTestCase

from desk.forecast.rules import RULES as ALL_RULES
from engine.coupled.forecast import forecast, forecast_of
from engine.coupled.operating_point import operating_point
from engine.findings.finding import Finding, Fix
from engine.findings.registry import RULES, findings
from tests.machines import ROOT, curved_raw, demo_raw, fan_raw, layout_raw, machine

Raw = dict[str, Any]
FRONT = [fan_raw(m, "intake") for m in ("f1", "f2", "f3")]


def found(raw: Raw, layout: str = "A") -> dict[str, Finding]:
    point = operating_point(machine(raw, layout))
    return {f.code: f for f in findings(point, forecast(point))}


def demo(layout: str = "A", fans: list[Raw] | None = None, case: Raw | None = None, **more: Any) -> tuple[Raw, str]:
    raw = demo_raw()
    raw["case"].update(case or {})
    layout_raw(raw, layout).update(more if fans is None else {"fans": fans, **more})
    return raw, layout


def bottom_mounts(raw: Raw) -> Raw:
    """The demo case without its shroud and with two mounts in the floor."""
    raw["case"]["shroud"] = None
    raw["case"]["mounts"] += [
        {"id": f"b{i}", "face": "bottom", "centre_mm": {"x": 240 + 125 * i, "y": 108, "z": 0}, "sizes_mm": [120]} for i in range(2)
    ]
    return raw


def shroud_mount(raw: Raw, x_mm: float) -> None:
    """A mount on the shroud's roof; the demo's supply stands from 255 to 405 mm."""
    place = {"id": "b1", "face": "bottom", "centre_mm": {"x": x_mm, "y": 105, "z": 96}, "sizes_mm": [120], "on_shroud": True}
    raw["case"]["mounts"].append(place)


def edited(change: Callable[[Raw], object], layout: str = "A", fans: list[Raw] | None = None, **more: Any) -> tuple[Raw, str]:
    raw, _ = demo(layout, fans, **more)
    change(raw)
    return raw, layout


def panel(raw: Raw, face: str, **fields: Any) -> None:
    raw["case"]["panels"] = [p for p in raw["case"]["panels"] if p["face"] != face]
    raw["case"]["panels"].append({"face": face, "width_mm": 200, "height_mm": 440, **fields})


def pushed_from_inside(raw: Raw) -> None:
    """The top radiator's fans under it, and no filter before the top."""
    panel(raw, "top", kind="mesh", open_area_pct=45)
    for place in layout_raw(raw, "C")["fans"]:
        if place["mount"].startswith("t"):
            place["layer"] = "inner"


def curved(points: list[list[float]], source: str = "cpu", layout: str = "A") -> tuple[Raw, str]:
    return curved_raw(points, source, layout), layout


def humming(speed_pct: float) -> tuple[Raw, str]:
    """A fan of 1500 rpm that hums from 800 to 1000."""

    def hum(raw: Raw) -> None:
        next(f for f in raw["parts"]["fans"] if f["id"] == "tern-120").update(hums_from_rpm=1000, hums_to_rpm=800)

    return edited(hum, fans=[fan_raw("f1", "intake", speed_pct), fan_raw("r1", "exhaust", 80)])


def steep() -> tuple[Raw, str]:
    slow, fast = (forecast_of(machine(curved([[0, s]])[0])).cpu.temperature_c for s in (20.0, 100.0))
    return curved([[(slow + fast) / 2 - 0.2, 20], [(slow + fast) / 2 + 0.2, 100]])


def downdraft(kind: str, **more: Any) -> tuple[Raw, str]:
    raw = demo_raw()
    panel(raw, "window", kind=kind, **({"open_area_pct": 40} if kind == "mesh" else {}))
    flat = {"id": "flat", "kind": "downdraft", "fan": "tern-120", "flow_ref_m3h": 42, "fin_drop_pa": 8, "ua_ref_w_per_k": 6.5}
    raw["parts"]["coolers"].append({**flat, "r_base_k_per_w": 0.1, "heat_capacity_j_per_k": 400})
    layout_raw(raw, "A").update({"cooler": "flat", **more})
    return raw, "A"


def slot_front(raw: Raw) -> None:
    panel(raw, "front", kind="slots", gap_area_cm2=20, turns_90=3, filter="fine")


# Code: a layout that raises it, one that does not.
loud_card = edited(lambda r: r["parts"]["cards"][0].update(noise_dba=52), "A", card_fan_pct=100)

CASES: dict[str, tuple[tuple[Raw, str], tuple[Raw, str]]] = {
    "processor_at_limit": (demo(cpu_power_w=330), demo()),
    "card_at_limit": (demo(card_power_w=600), demo()),
    "card_starved": (demo(fans=[], card_power_w=200), demo()),
    "card_own_air": (demo(fans=[fan_raw("f1", "intake", 45), fan_raw("r1", "exhaust", 45)], card_power_w=50), demo()),
    "cooler_own_air": (demo(fans=[fan_raw("f1", "intake", 40)]), demo()),
    "card_air_at_cooler": (demo("B"), demo("C")),
    "top_intake_over_card": (
        demo(fans=[*FRONT, fan_raw("r1", "exhaust"), fan_raw("t1", "intake", 100), fan_raw("t2", "intake", 100)]),
        demo("B"),
    ),
    "bottom_exhaust_under_card": (
        edited(bottom_mounts, fans=[*FRONT, fan_raw("r1", "exhaust"), fan_raw("b0", "exhaust", 100), fan_raw("b1", "exhaust", 100)]),
        edited(bottom_mounts, fans=[*FRONT, fan_raw("r1", "exhaust"), fan_raw("b0", "intake", 100)]),
    ),
    "chimney_over_card": (demo(cooler_direction="up"), demo(cooler_direction="rear")),
    "upright_near_window": (demo(card_orientation="upright"), demo()),
    "exhaust_weaker_than_cooler": (demo(fans=[*FRONT, fan_raw("r1", "exhaust", 20)], cooler_fan_pct=100), demo()),
    "downdraft_starved": (downdraft("glass"), downdraft("mesh")),
    "radiator_without_fan": (demo("C", fans=[fan_raw("f2", "intake"), fan_raw("t1", "exhaust", 52, "skua-120")]), demo("C")),
    "radiator_gap": (edited(lambda r: layout_raw(r, "C")["radiator"].update(gap_mm=15), "C"), demo("C")),
    "one_source_alone": (loud_card, demo("A")),
    "dust_face_covered": (edited(pushed_from_inside, "C"), demo("C")),
    "radiator_too_small": (demo("C", cpu_power_w=320), demo("C")),
    "radiator_heats_case": (
        demo(
            "C",
            fans=[fan_raw("f2", "intake"), fan_raw("r1", "exhaust"), *(fan_raw(m, "intake", 80, "skua-120") for m in ("t1", "t2"))],
            cpu_power_w=200,
        ),
        demo("C"),
    ),
    "radiator_fans_follow_wrong": (curved([[20, 40], [60, 100]], "case_air", "C"), curved([[20, 40], [60, 100]], "coolant", "C")),
    "pump_slow": (
        demo(
            "C",
            radiator=None,
            loops=[{"cooler": "shearwater", "pump_pct": 40, "radiators": [{"radiator": "fin-240", "mounts": ["t1", "t2"]}]}],
        ),
        demo("C"),
    ),
    "mixed_fans_on_radiator": (
        demo("C", fans=[fan_raw("f2", "intake"), fan_raw("t1", "exhaust", 60, "skua-120"), fan_raw("t2", "exhaust", 60, "tern-120")]),
        demo("C"),
    ),
    "unlike_fans_in_series": (
        demo(fans=[*FRONT[:2], fan_raw("r1", "exhaust", 100), fan_raw("r1", "exhaust", 20, layer="inner")]),
        demo(fans=[*FRONT[:2], fan_raw("r1", "exhaust", 100), fan_raw("r1", "exhaust", 100, layer="inner")]),
    ),
    "flip_would_help": (demo(fans=[fan_raw("f1", "exhaust", 100), fan_raw("f2", "exhaust", 100), fan_raw("r1", "exhaust")]), demo()),
    "fan_adds_nothing": (
        demo(fans=[*FRONT, fan_raw("r1", "exhaust", 100), fan_raw("t3", "exhaust", 100)]),
        demo(fans=[*FRONT[:1], fan_raw("r1", "exhaust", 60)]),
    ),
    "fan_choked": (edited(slot_front), edited(lambda r: panel(r, "front", kind="mesh", open_area_pct=80, filter="none"))),
    "fan_unplugged": (demo(fans=[{**fan_raw("f1", "intake"), "state": "unplugged"}, fan_raw("r1", "exhaust")]), demo()),
    "fan_hums": (humming(60), humming(80)),
    "fan_may_stall": (demo(fans=[fan_raw("f1", "intake", 12), fan_raw("r1", "exhaust")]), demo()),
    "curve_hunts": (steep(), curved([[30, 40], [95, 80]])),
    "no_intake": (demo(fans=[fan_raw("r1", "exhaust")]), demo()),
    "intake_without_filter": (edited(lambda r: panel(r, "front", kind="mesh", open_area_pct=50, filter="none")), demo()),
    "filter_on_exhaust": (
        edited(lambda r: panel(r, "top", kind="mesh", open_area_pct=50, filter="fine"), "C"),
        edited(lambda r: panel(r, "top", kind="mesh", open_area_pct=50, filter="none"), "C"),
    ),
    "single_exhaust": (
        demo(fans=[*(fan_raw(m, "intake", 100) for m in ("f1", "f2", "f3")), fan_raw("r1", "exhaust", 40)]),
        demo(fans=[*(fan_raw(m, "intake", 60) for m in ("f1", "f2", "f3")), fan_raw("r1", "exhaust", 100)]),
    ),
    "supply_shades": (
        edited(lambda r: shroud_mount(r, 330), fans=[fan_raw("b1", "intake", 100)]),
        edited(lambda r: shroud_mount(r, 100), fans=[fan_raw("b1", "intake", 100)]),
    ),
    "panel_chokes": (edited(slot_front), edited(lambda r: panel(r, "front", kind="mesh", open_area_pct=80, filter="none"))),
    "panel_off": (demo(panels={"window": {"state": "removed"}}), demo()),
    "pressure_strong": (
        edited(
            lambda r: panel(r, "top", kind="solid", filter="none"),
            fans=[{**x, "speed_pct": 100} for x in FRONT],
            case={"slot_cover_open_cm2": 0, "shroud": None},
        ),
        demo(),
    ),
    "bracket_breathes_in": (demo(fans=[fan_raw(m, "exhaust", 100) for m in ("t1", "t2", "t3", "r1")], card_fan_pct=0), demo()),
    "supply_heat_inside": (edited(lambda r: r["case"]["supply"].update(own_duct=False, loss_w=60)), demo()),
}
ELSEWHERE = {
    "radiator_fans_opposed",
    "fans_opposed_in_series",
    "neighbours_fight",
    "pump_at_top",
    "pump_in_radiator",
    "reservoir_low",
    "loop_ages",
    "tubes_at_top",
    "intake_leaves_unused",
    "no_exhaust",
    "over_sound_limit",
    "negative_unfiltered",
}
HARD_TO_STAGE = {"two_equilibria", "still_corner"}


def applied(raw: Raw, layout: str, fix: Fix) -> Raw:
    """The document after a fix, as the screen would make it."""
    raw = copy.deepcopy(raw)
    own = layout_raw(raw, layout)
    if fix.action in ("flip", "take_out", "plug_in"):
        for place in list(own["fans"]):
            if place["mount"] != fix.mount or place.get("layer", "outer") != fix.layer:
                continue
            if fix.action == "flip":
                place["direction"] = "exhaust" if place["direction"] == "intake" else "intake"
            elif fix.action == "plug_in":
                place["state"] = "running"
            else:
                own["fans"].remove(place)
    elif fix.action == "turn_cooler":
        own["cooler_direction"] = fix.to
    elif fix.action == "lay_card_flat":
        own["card_orientation"] = "flat"
    elif fix.action == "close_gap":
        own["radiator"]["gap_mm"] = 0
    elif fix.action == "fit_panel":
        del own["panels"][fix.to]
    return raw


SAID = [p for folder in ("verdict", "plan") for p in (ROOT / "src/desk" / folder).glob("*.py")]  # doubts and notes of a plan
ELSEWHERE_SAID = set(re.findall(r'code="(\w+)"', "".join(p.read_text(encoding="utf-8") for p in SAID)))


class TableTest(SimpleTestCase):
    def test_raised_and_not_raised(self) -> None:
        for code, (guilty, innocent) in CASES.items():
            with self.subTest(code=code):
                raised = found(*guilty)
                self.assertIn(code, raised)
                self.assertNotIn(code, found(*innocent))
                self.assertRegex(raised[code].because, r"\d")

    def test_a_fix_removes_its_finding(self) -> None:
        tried = set()
        for code, (guilty, _) in CASES.items():
            for fix in found(*guilty)[code].fixes:
                after = found(applied(*guilty, fix), guilty[1])
                with self.subTest(code=code, fix=fix.label):
                    again = after.get(code)
                    self.assertTrue(again is None or again.mounts != found(*guilty)[code].mounts)
                tried.add(fix.action)
        self.assertLessEqual({"flip", "take_out", "plug_in", "turn_cooler", "lay_card_flat", "close_gap", "fit_panel"}, tried)

    def test_kelvins_promised_are_kelvins_got(self) -> None:
        for code, what in (
            ("flip_would_help", "processor is forecast"),
            ("chimney_over_card", "rear the processor is"),
            ("upright_near_window", "flat it is"),
        ):
            guilty = CASES[code][0]
            finding = found(*guilty)[code]
            number = re.search(rf"{what} (\d+\.\d) K (cooler|warmer)", finding.because)
            assert number is not None, finding.because
            before, after = (forecast_of(machine(r, guilty[1])) for r in (guilty[0], applied(*guilty, finding.fixes[0])))
            part = "card" if code == "upright_near_window" else "cpu"
            got = getattr(after, part).rise_k - getattr(before, part).rise_k
            with self.subTest(code=code):
                self.assertAlmostEqual(got, float(number[1]) * (-1 if number[2] == "cooler" else 1), delta=0.06)

    def test_every_code_is_written_down_and_has_a_case(self) -> None:
        source = "".join(p.read_text(encoding="utf-8") for p in (ROOT / "src/engine/findings/rules").glob("*.py"))
        codes = set(re.findall(r'code="(\w+)"', source)) | {
            "processor_at_limit",
            "card_at_limit",
            "radiator_fans_opposed",
            "fans_opposed_in_series",
        }
        documented = set(re.findall(r"`(\w+)`", Path(ROOT / "docs/formats/findings.md").read_text(encoding="utf-8")))
        self.assertLessEqual(codes, documented)
        self.assertLessEqual(codes, set(CASES) | ELSEWHERE | HARD_TO_STAGE)
        self.assertGreaterEqual(len(codes), 40)
        self.assertGreaterEqual(len(RULES), 35)

    def test_rules_that_ask_the_document_stand_in_the_same_registry_and_each_has_its_test(self) -> None:
        needs = {rule.name: rule.needs for rule in ALL_RULES}
        self.assertEqual(len(needs), len(ALL_RULES), "two rules of one name")
        self.assertEqual([n for n, kind in needs.items() if kind != "forecast"], ["outside", "fit", "leads", "stock", "as_found"])
        self.assertEqual([rule.name for rule in ALL_RULES if rule.needs == "forecast"][1:], [rule.__name__ for rule in RULES])
        source = "".join(p.read_text(encoding="utf-8") for p in (ROOT / "src/desk").rglob("*.py"))
        codes = set(re.findall(r'code="(\w+)"', source)) - ELSEWHERE_SAID
        documented = set(re.findall(r"`(\w+)`", Path(ROOT / "docs/formats/findings.md").read_text(encoding="utf-8")))
        self.assertLessEqual(codes, documented)
        tests = "".join(p.read_text(encoding="utf-8") for p in (ROOT / "tests").rglob("test_*.py"))
        self.assertEqual([code for code in sorted(codes) if f'"{code}"' not in tests], [])

    def test_two_millimetres_change_nothing(self) -> None:
        for code, (guilty, _) in CASES.items():
            raw = copy.deepcopy(guilty[0])
            for mount in raw["case"]["mounts"]:
                mount["centre_mm"]["z" if mount["face"] in ("front", "rear") else "x"] += 1.0
            with self.subTest(code=code):
                self.assertIn(code, found(raw, guilty[1]))
