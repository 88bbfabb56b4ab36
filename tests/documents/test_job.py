"""Job documents: lossless, checked, with errors that say where and what to do."""

import copy
import json
from typing import Any

import jsonschema
from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.job.resolve import Resolver
from documents.errors import DocumentError
from documents.job.models import JobDoc
from documents.job.reader import check_job, read_job, write_job
from tests.machines import DEMO, ROOT, TRADE, demo_raw, layout_raw


class RoundTripTest(SimpleTestCase):
    def test_every_document_comes_back_as_it_was(self) -> None:
        for path in (DEMO, *TRADE.glob("*.oventa.json")):
            with self.subTest(document=path.name):
                raw = json.loads(path.read_text(encoding="utf-8"))
                self.assertEqual(json.loads(write_job(check_job(copy.deepcopy(raw)).doc)), raw)

    def test_unknown_fields_are_kept_and_reported(self) -> None:
        raw = demo_raw()
        raw["case"]["colour"] = "ink"
        raw["case"]["mounts"][0]["rubber"] = {"shore": 40}
        read = check_job(raw)
        self.assertEqual(read.unknown_fields, ("case.colour", "case.mounts[0].rubber"))
        again = json.loads(write_job(read.doc))
        self.assertEqual((again["case"]["colour"], again["case"]["mounts"][0]["rubber"]), ("ink", {"shore": 40}))

    def test_the_committed_schema_accepts_what_the_reader_accepts(self) -> None:
        schema = json.loads((ROOT / "docs" / "formats" / "job.schema.json").read_text(encoding="utf-8"))
        jsonschema.validate(demo_raw(), schema)
        broken = demo_raw()
        broken["case"]["mounts"][0]["face"] = "left"
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(broken, schema)


def _set(raw: Any, path: str, value: Any) -> None:
    keys = [int(k) if k.isdigit() else k for k in path.split(".")]
    for key in keys[:-1]:
        raw = raw[key]
    if value is _DROP:
        del raw[keys[-1]]
    else:
        raw[keys[-1]] = value


_DROP = object()
# Path in the document, the value put there, and the path that the error must name.
MALFORMED: list[tuple[str, Any, str]] = [
    ("format", "something-else", "format"),
    ("version", 7, "version"),
    ("name", "", "name"),
    ("case", _DROP, "case"),
    ("case.inner_mm.depth", -5, "case.inner_mm.depth"),
    ("case.inner_mm.height", "tall", "case.inner_mm.height"),
    ("case.inner_mm", _DROP, "case.inner_mm"),
    ("case.mounts.0.face", "left", "case.mounts[0].face"),
    ("case.mounts.0.sizes_mm", [], "case.mounts[0].sizes_mm"),
    ("case.mounts.0.centre_mm", {"x": 1, "y": 2}, "case.mounts[0].centre_mm.z"),
    ("case.mounts.1.id", "f1", "case.mounts[1]"),
    ("case.panels.1.face", "front", "case.panels[1]"),
    ("case.panels.0.kind", "velvet", "case.panels[0].kind"),
    ("room.temperature_c", 300, "room.temperature_c"),
    ("parts.fans.0.flow_max_m3h", 0, "parts.fans[0].flow_max_m3h"),
    ("parts.cpus.0.power_w", None, "parts.cpus[0].power_w"),
    ("parts.coolers.0.fan", "nobody", "parts.coolers[0].fan"),
    ("layouts.0.fans.0.mount", "f9", "layouts[0].fans[0].mount"),
    ("layouts.0.fans.0.direction", "sideways", "layouts[0].fans[0].direction"),
    ("layouts.0.fans.0.speed_pct", 130, "layouts[0].fans[0].speed_pct"),
    ("layouts.0.fans.1.mount", "f2", "layouts[0].fans[1]"),
    ("layouts.2.radiator.radiator", "fin-900", "layouts[2].radiator.radiator"),
    ("base.cpu", "none-such", "base.cpu"),
    ("curves", [{"id": "c", "source": "cpu", "points": [[60, 40], [50, 80]]}], "curves[0].points"),
    ("layouts.0.obstructions", [{"blocked_pct": 10}], "layouts[0].obstructions[0]"),
    ("layouts.0.accepted", [{"code": "panel_off", "reason": "x"}], "layouts[0].accepted[0].reason"),
    ("layouts.0.cooler_fan_side", "beside", "layouts[0].cooler_fan_side"),
    ("layouts.2.loops", [{"cooler": "shearwater", "pump_curve": "nowhere"}], "layouts[2].loops[0].pump_curve"),
    ("layouts.0.fans.0.curve", "nowhere", "layouts[0].fans[0].curve"),
]


class MalformedTest(SimpleTestCase):
    def test_each_mistake_names_its_place_and_a_remedy(self) -> None:
        for path, value, named in MALFORMED:
            with self.subTest(path=path, value=repr(value)[:40]):
                raw = demo_raw()
                _set(raw, path, value)
                with self.assertRaises(DocumentError) as caught:
                    check_job(raw)
                self.assertIn(named, [f.path for f in caught.exception.faults])
                self.assertTrue(all(f.what and f.do for f in caught.exception.faults))

    def test_not_json_not_text_not_an_object(self) -> None:
        for text in (b"{", b"\xff\xfe\x00", b"[]", b"12"):
            with self.subTest(text=text), self.assertRaises(DocumentError):
                read_job(text)

    def test_several_mistakes_are_told_at_once(self) -> None:
        raw = demo_raw()
        raw["case"]["inner_mm"]["depth"] = -1
        raw["room"]["humidity_pct"] = 400
        with self.assertRaises(DocumentError) as caught:
            check_job(raw)
        self.assertEqual(len(caught.exception.faults), 2)

    def test_infinity_is_refused(self) -> None:
        text = json.dumps(demo_raw()).replace('"power_w": 125', '"power_w": Infinity')
        with self.assertRaises(DocumentError):
            read_job(text)


class ResolveTest(SimpleTestCase):
    def fault(self, raw: dict[str, Any], layout: str = "A") -> str:
        with self.assertRaises(DocumentError) as caught:
            Resolver(check_job(raw).doc).machine(layout)
        return caught.exception.faults[0].path

    def test_missing_figures_are_never_guessed(self) -> None:
        raw = demo_raw()
        del raw["parts"]["coolers"][0]["ua_ref_w_per_k"]
        self.assertEqual(self.fault(raw), "parts.coolers.cormorant-120.ua_ref_w_per_k")
        raw = demo_raw()
        del raw["case"]["panels"][0]["open_area_pct"]
        self.assertEqual(self.fault(raw), "case.panels.front.open_area_pct")
        raw = demo_raw()
        raw["base"]["cpu"] = None
        self.assertEqual(self.fault(raw), "layouts.A.cpu")
        raw = demo_raw()
        layout_raw(raw, "C")["radiator"] = None
        self.assertEqual(self.fault(raw, "C"), "layouts.C.radiator")
        self.assertEqual(self.fault(demo_raw(), "Z"), "layouts")

    def test_a_tower_cannot_blow_toward_the_board(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["cooler_direction"] = "toward"
        self.assertEqual(self.fault(raw), "layouts.A.cooler_direction")

    def test_stated_defaults_are_listed(self) -> None:
        raw = demo_raw()
        del raw["case"]["card_height_mm"], raw["base"]["card_fan_pct"]
        resolver = Resolver(check_job(raw).doc)
        self.assertEqual(resolver.machine("A").card_height_mm, 230)
        self.assertIn("case.card_height_mm", resolver.defaults_used)
        self.assertIn("base.card_fan_pct", resolver.defaults_used)

    def test_layout_overrides_base_and_part(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A").update({"card": None, "cpu_power_w": 40, "cooler_fan_pct": 50})
        m = Resolver(check_job(raw).doc).machine("A")
        self.assertIsNone(m.card)
        self.assertEqual(m.cpu.power_w, 40)

    def test_panel_states(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["panels"] = {
            "front": {"state": "removed"},
            "window": {"state": "removed"},
            "top": {"kind": "solid", "blocked_pct": 50},
        }
        m = Resolver(check_job(raw).doc).machine("A")
        self.assertTrue(m.panels["front"].removed)
        self.assertEqual(m.open_faces, frozenset({"window"}))
        self.assertEqual((m.panels["top"].kind, m.panels["top"].gap_area_cm2), ("solid", 1.0))
        layout_raw(raw, "A")["panels"] = {"window": {"state": "stood_off", "stand_off_mm": 10}}
        stood = Resolver(check_job(raw).doc).machine("A").panels["window"]
        self.assertAlmostEqual(stood.gap_area_cm2, 2 + 2 * (420 + 450) * 10 / 100)

    def test_blocked_mounts_and_blocks(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["obstructions"] = [{"mount": "f3", "blocked_pct": 56}, {"space": "low_front", "blocked_pct": 40}]
        raw["case"]["blocks"] = [
            {"id": "cage", "kind": "cage", "from_mm": {"x": 10, "y": 0, "z": 200}, "to_mm": {"x": 150, "y": 215, "z": 330}, "free_pct": 40}
        ]
        m = Resolver(check_job(raw).doc).machine("A")
        self.assertEqual((m.mounts["f3"].blocked_pct, m.mounts["f2"].blocked_pct, m.mounts["f1"].blocked_pct), (56, 60, 2.5))
        self.assertEqual(m.space_blocked_pct, {"low_front": 40})


class ForecastDocTest(SimpleTestCase):
    def doc(self) -> JobDoc:
        return check_job(demo_raw()).doc

    def test_against_and_transient(self) -> None:
        answer = Oracle(self.doc(), Question(layouts=["B"], against="A", minutes=2, every_s=60)).forecast_doc()
        layout = answer.layouts[0]
        assert layout.differences and layout.transient
        self.assertEqual(layout.differences.against, "A")
        self.assertEqual([r.minutes for r in layout.transient], [0, 1, 2])
        self.assertEqual(layout.transient[0].cpu_c, 22)

    def test_unreachable_target_is_a_caveat(self) -> None:
        answer = Oracle(self.doc(), Question(layouts=["B"], target_dba=25)).forecast_doc()
        self.assertIn("target_unreachable", [c.code for c in answer.layouts[0].caveats])

    def test_a_room_may_be_given(self) -> None:
        warm = Oracle(self.doc(), Question(layouts=["A"], room_c=29)).forecast_doc().layouts[0]
        self.assertAlmostEqual(warm.cpu.temperature_c - warm.cpu.rise_k, 29)

    def test_no_layout_is_said(self) -> None:
        raw = demo_raw()
        raw["layouts"] = []
        with self.assertRaises(DocumentError):
            Oracle(check_job(raw).doc, Question()).forecast_doc()
