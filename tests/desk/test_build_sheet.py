"""The build sheet: an order that meets every demand, what comes out first, sides as a hand-made table has them, cautions, paper."""

import csv
import io
import json
from contextlib import redirect_stdout
from itertools import product
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from django.test import SimpleTestCase
from pypdf import PdfReader

from cli.__main__ import main
from desk.build import paper
from desk.build.document import build
from desk.build.drawing import case_svg, wiring_svg
from desk.build.panels import Frame, exit_corner, frame_of, label, sides_of
from desk.build.shapes import BuildDoc
from desk.build.tables import steps_csv, wiring_csv
from desk.care.keeping import CAUTION as ITEM_CAUTIONS
from desk.forecast.document import Oracle, Question
from desk.forecast.insight import Insight, QuietQuestion
from desk.job.resolve import Resolver
from desk.together.fit import assembly_in
from desk.together.wiring import leads_of, wiring_findings
from desk.words.care import SYMPTOMS
from desk.words.cautions import CAUTIONS, TICKED
from desk.words.parts import PARTS
from documents.errors import DocumentError
from documents.job.case import CaseDoc, MountDoc, PointDoc
from documents.job.models import JobDoc, LayoutDoc
from documents.job.reader import check_job, read_job
from tests.machines import ROOT, curved_raw, demo_raw, layout_raw

SHIPPED = [*sorted((ROOT / "demo").glob("*.oventa.json")), *sorted((ROOT / "tests" / "reference" / "trade").glob("*.oventa.json"))]
FACES = ("front", "rear", "window", "top", "bottom")
# Physics of a turn of the hand, worked out at a made-up case on the table: (face, way) -> side seen from outside.
SIDES = {("front", "intake"): "inlet", ("front", "exhaust"): "outlet", ("rear", "exhaust"): "outlet", ("top", "exhaust"): "outlet"}


def shipped() -> list[tuple[str, JobDoc]]:
    return [(path.name, read_job(path.read_bytes()).doc) for path in SHIPPED]


def case(window: str = "left") -> CaseDoc:
    raw = demo_raw()["case"] | {"window_side": window}
    return CaseDoc.model_validate(raw)


def mount(face: str, on_shroud: bool = False) -> MountDoc:
    return MountDoc.model_validate(
        {"id": "m", "face": face, "centre_mm": {"x": 200, "y": 100, "z": 200}, "sizes_mm": [120], "on_shroud": on_shroud}
    )


class OrderTest(SimpleTestCase):
    def test_every_shipped_layout_has_an_order_that_meets_every_demand(self) -> None:
        self.assertGreater(len(SHIPPED), 10)
        built = 0
        for name, doc in shipped():
            for layout in doc.layouts:
                found = build(doc, layout.id)
                with self.subTest(job=name, layout=layout.id):
                    self.check_order(found)
                    self.check_assembly(doc, found)
                    built += 1
        self.assertGreater(built, 30)

    def check_order(self, found: BuildDoc) -> None:
        seen: set[str] = set()
        for step in found.steps:
            self.assertLessEqual(set(step.after), seen, step.id)
            self.assertNotIn(step.id, seen)
            self.assertTrue(step.caution is None or step.caution in CAUTIONS, step.caution)
            seen.add(step.id)
        self.assertAlmostEqual(found.minutes, sum(s.minutes for s in found.steps))

    def check_assembly(self, doc: JobDoc, found: BuildDoc) -> None:
        """Against the demands themselves: what goes in first is ticked before what goes in second may be."""
        resolver = Resolver(doc)
        by_name = {
            "power supply": "in_power_supply",
            "board": "in_board",
            "memory": "in_memory",
            "card": "in_card",
            "cooler": "cooler_bracket",
        }
        place = {s.id: i for i, s in enumerate(found.steps)}
        for d in assembly_in(resolver, resolver.layout(found.layout)).demands:
            first, second = (by_name.get(x) or self.step_of(x, found) for x in (d.first, d.second))
            first = "cooler_seat" if d.first == "cooler" else first
            self.assertLess(place[first], place[second], d)

    def step_of(self, name: str, found: BuildDoc) -> str:
        if name.startswith("fan at "):
            own = name.removeprefix("fan at ").lower()
            return next(s.id for s in found.steps if s.id.startswith("fan_") and (s.mount or "").lower() == own)
        return next(s.id for s in found.steps if s.words.lower().startswith(f"{name.lower()}:"))

    def test_every_fan_of_the_layout_has_its_step_its_sight_and_its_panel(self) -> None:
        for name, doc in shipped():
            for layout in doc.layouts:
                found = build(doc, layout.id)
                fans = {(f.mount, f.layer) for f in layout.fans}
                with self.subTest(job=name, layout=layout.id):
                    self.assertEqual({(s.mount, s.layer) for s in found.steps if s.id.startswith("fan_")}, fans)
                    running = {(f.mount, f.layer) for f in layout.fans if f.state == "running"}
                    self.assertEqual({(s.mount, s.layer) for s in found.steps if s.id.startswith("sight_")}, running)
                    self.assertEqual({(f.mount, f.layer) for f in found.fans}, fans)

    def test_every_caution_is_reachable_from_some_step(self) -> None:
        """Of a build, of care, of a symptom, of a protocol, or named by a screen."""
        told = {s.caution for _, doc in shipped() for x in doc.layouts for s in build(doc, x.id).steps}
        raw = demo_raw()
        raw["parts"]["fans"][0]["lighting"] = True
        told |= {s.caution for s in build(check_job(raw).doc, "D", "B").steps}
        told |= {c.caution for s in SYMPTOMS.values() for c in s.checks} | set(ITEM_CAUTIONS.values()) | {c for _, c in TICKED.values()}
        screens = "".join(p.read_text(encoding="utf-8") for p in (ROOT / "frontend" / "src").rglob("*.tsx"))
        told |= {x for x in CAUTIONS if f"CAUTIONS.{x}" in screens} | {p.caution for p in PARTS.values()}
        self.assertEqual(set(CAUTIONS) - told, set())

    def test_the_film_and_the_leaks_are_not_left_out(self) -> None:
        found = build(check_job(demo_raw()).doc, "D")
        gates = {s.id for s in found.steps if s.gate}
        self.assertLessEqual({"mains_off", "cooler_film", "leak", "pump", "presets", "leak_warm"}, gates)
        order = [s.id for s in found.steps]
        self.assertLess(order.index("leak"), order.index("first_power"))
        self.assertLess(order.index("cooler_film"), order.index("cooler_seat"))
        self.assertNotIn("leak", {s.id for s in build(check_job(demo_raw()).doc, "A").steps})

    def test_a_panel_of_glass_that_the_layout_asks_for_is_put_on_and_cautioned(self) -> None:
        doc = next(doc for name, doc in shipped() if name == "lamp-recorder.oventa.json")
        mesh, glass = ({s.id: s for s in build(doc, x).steps} for x in "AC")
        self.assertIn("As this layout says, window panel: glass.", glass["restore"].details)
        self.assertEqual((mesh["panels_off"].caution, glass["panels_off"].caution), ("sharp", "glass"))

    def test_a_ring_of_demands_is_told_and_no_order_is_made_up(self) -> None:
        raw = demo_raw()
        raw["case"]["assembly"] = [{"id": "own", "first": "card", "second": "board", "why": "its bracket lies behind the board"}]
        found = build(check_job(raw).doc, "A")
        self.assertEqual(found.steps, [])
        self.assertTrue(any("its bracket lies behind the board" in x for x in found.impossible))


class RebuildTest(SimpleTestCase):
    def test_what_is_in_the_way_comes_out_first_and_goes_back(self) -> None:
        raw = demo_raw()
        raw["case"]["assembly"] = [{"id": "own", "first": "fan at R1", "second": "cooler", "why": "no hand gets behind it"}]
        copy = json.loads(json.dumps(layout_raw(raw, "A")))
        copy["id"], copy["parent"] = "E", "A"
        for fan in copy["fans"]:
            if fan["mount"] == "r1":
                fan["direction"] = "intake" if fan["direction"] == "exhaust" else "exhaust"
        raw["layouts"].append(copy)
        found = build(check_job(raw).doc, "E", "A")
        order = [s.id for s in found.steps]
        self.assertEqual([x for x in order if x.startswith("out_")], ["out_card", "out_cooler", "out_fan_at_r1"])
        self.assertLess(order.index("out_fan_at_r1"), order.index("fan_r1_outer"))
        self.assertLess(order.index("fan_r1_outer"), order.index("cooler_seat"))
        self.assertIn("in_card", order)
        self.assertNotIn("in_board", order)
        self.assertEqual(sum(x.startswith("fan_") for x in order), 1)
        self.assertIn("no hand gets behind it", " ".join(d for s in found.steps for d in s.details))

    def test_other_speeds_alone_leave_the_case_shut(self) -> None:
        raw = demo_raw()
        copy = json.loads(json.dumps(layout_raw(raw, "A")))
        copy["id"] = "E"
        for fan in copy["fans"]:
            fan["speed_pct"] = 41
        raw["layouts"].append(copy)
        found = build(check_job(raw).doc, "E", "A")
        self.assertEqual([s.id for s in found.steps], ["presets", "curves", "commission", "keep"])
        self.assertEqual(found.kit, [])

    def test_panels_alone_are_a_step_and_a_plug_needs_the_mains_off(self) -> None:
        doc = next(doc for name, doc in shipped() if name == "lamp-recorder.oventa.json")
        there, back = ({s.id: s for s in build(doc, *way).steps} for way in ("CA", "AC"))
        self.assertEqual((there["beside"].details, there["beside"].caution), (["window panel: glass"], "glass"))
        self.assertIn("mesh", back["beside"].details[0])
        self.assertNotIn("mains_off", there)
        raw = demo_raw()
        copy = json.loads(json.dumps(layout_raw(raw, "A"))) | {"id": "E"}
        copy["fans"][0]["state"] = "unplugged"
        raw["layouts"].append(copy)
        found = build(check_job(raw).doc, "E", "A").steps
        ids = [s.id for s in found]
        self.assertLess(ids.index("mains_off"), ids.index("beside"))
        self.assertLess(ids.index("beside"), ids.index("first_power"))
        self.assertEqual(next(s for s in found if s.id == "beside").details, ["unplug F2"])
        more = json.loads(json.dumps(copy)) | {"id": "F"}
        more["fans"][1]["direction"] = "exhaust" if more["fans"][1]["direction"] == "intake" else "intake"
        raw["layouts"].append(more)
        both = next(s for s in build(check_job(raw).doc, "F", "A").steps if s.id == "beside")
        self.assertEqual((both.words, both.details), ("Plugs as this layout has them", ["unplug F2"]))

    def test_the_same_layout_is_no_rebuild(self) -> None:
        with self.assertRaises(DocumentError):
            build(check_job(demo_raw()).doc, "A", "A")

    def test_a_persons_own_minutes_count(self) -> None:
        raw = demo_raw()
        raw["practice"] = {"minutes": {"put": 50}}
        slow, usual = (next(s.minutes for s in build(check_job(r).doc, "A").steps if s.id.startswith("fan_")) for r in (raw, demo_raw()))
        self.assertEqual((slow, usual), (50, 5))


def way(name: str, window_side: str) -> np.ndarray:
    """A direction in space, right-handed: x to the rear, z up, and the window where it is."""
    left = 1.0 if window_side == "left" else -1.0  # of one who stands before the front and looks to the rear
    ways = {"front": (-1, 0, 0), "rear": (1, 0, 0), "top": (0, 0, 1), "floor": (0, 0, -1), "window": (0, left, 0), "board": (0, -left, 0)}
    return np.array(ways[name], dtype=float)


class SidesTest(SimpleTestCase):
    def test_right_and_up_are_those_of_who_stands_there(self) -> None:
        """Geometry: right times up points back at the one who looks."""
        for face, side, shroud in product(FACES, ("left", "right"), (False, True)):
            if shroud and face != "bottom":
                continue
            frame: Frame = frame_of(case(side), mount(face, shroud))
            back = way("top" if shroud else {"bottom": "floor"}.get(face, face), side)
            with self.subTest(face=face, window=side, shroud=shroud):
                np.testing.assert_array_equal(np.cross(way(frame.right, side), way(frame.up, side)), back)

    def test_what_draws_in_shows_its_inlet_to_the_room(self) -> None:
        for (face, blows), side in SIDES.items():
            self.assertEqual(sides_of(mount(face), blows)[0], side)
        self.assertEqual(sides_of(mount("bottom", on_shroud=True), "intake"), ("outlet", "inlet"))

    def test_the_lead_leaves_at_the_corner_nearest_its_header(self) -> None:
        m, c = mount("front"), case()
        corners = {exit_corner(c, m, 120, PointDoc(x=200, y=y, z=z)): (y, z) for y, z in ((0, 400), (0, 0), (200, 400), (200, 0))}
        self.assertEqual(corners, {0: (200, 400), 1: (0, 400), 2: (0, 0), 3: (200, 0)})

    def test_who_pushes_and_who_pulls(self) -> None:
        found = build(check_job(demo_raw()).doc, "D").radiators[0]
        self.assertEqual(found.layers[0], "front wall")
        self.assertRegex(found.layers[1], "^fans F1, F2, pushing into the radiator, air goes into the case$")
        raw = demo_raw()
        for fan in layout_raw(raw, "D")["fans"]:
            if fan["mount"] in ("f1", "f2"):
                fan["layer"] = "inner"
        pulled = build(check_job(raw).doc, "D").radiators[0]
        self.assertRegex(pulled.layers[-1], "^fans F1, F2, pulling from")
        self.assertIn("4 short screws", pulled.screws)

    def test_screws_into_a_radiator_are_as_long_as_the_fan_and_little_more(self) -> None:
        found = {f.mount: f.screws for f in build(check_job(demo_raw()).doc, "D").fans}
        self.assertIn("30 mm", found["f1"])
        self.assertTrue(found["r1"].startswith("4 self-tapping"))


class CardsTest(SimpleTestCase):
    def test_a_curve_is_told_as_it_is_typed(self) -> None:
        raw = curved_raw([[40, 0], [41, 30], [60, 30], [80, 100]])
        doc = check_job(raw).doc
        found = build(doc, "A")
        card = found.curves[0]
        self.assertEqual((card.source, card.floor_pct, card.stop_below_c), ("cpu", 30, 40))
        self.assertEqual(card.points, [(40, 0), (41, 30), (60, 30), (80, 100)])
        self.assertIn(30, card.flat_pct)
        rows = list(csv.DictReader(io.StringIO(steps_csv(found))))
        self.assertEqual([(float(r["temperature_c"]), float(r["speed_pct"])) for r in rows], card.points)

    def test_a_flat_part_where_a_fan_hums_is_warned_of(self) -> None:
        raw = curved_raw([[40, 30], [60, 30], [80, 100]])
        fan = raw["parts"]["fans"][0]
        rpm = 0.3 * fan["speed_max_rpm"]
        for low, high, warned in ((rpm - 50, rpm + 50, True), (rpm + 50, rpm + 90, False)):
            fan |= {"hums_from_rpm": low, "hums_to_rpm": high}
            doc = check_job(raw).doc
            self.assertEqual(bool(build(doc, "A").curves[0].warns), warned)
            codes = {f.code for f in Oracle(doc, Question(layouts=["A"])).plain_findings("A")}
            self.assertEqual("fan_hums" in codes, warned)

    def test_speeds_that_hum_are_left_out_wherever_speeds_are_chosen(self) -> None:
        raw = demo_raw()
        free = Insight(Oracle(check_job(raw).doc, Question(layouts=["A"]))).quiet(QuietQuestion(target_dba=33, together=True))
        fan = next(f for f in raw["parts"]["fans"] if f["id"] == "tern-120")
        rpm = fan["speed_max_rpm"] * max(free.speeds.speeds_pct.values()) / 100
        fan |= {"hums_from_rpm": rpm - 60, "hums_to_rpm": rpm + 60}
        kept = Insight(Oracle(check_job(raw).doc, Question(layouts=["A"]))).quiet(QuietQuestion(target_dba=33, together=True))
        self.assertTrue(all(abs(fan["speed_max_rpm"] * p / 100 - rpm) > 60 for p in kept.speeds.speeds_pct.values()))

    def test_lit_fans_make_a_chain_and_what_is_wrong_with_leads_is_told(self) -> None:
        raw = demo_raw()
        next(f for f in raw["parts"]["fans"] if f["id"] == "tern-120")["lighting"] = True
        found = build(check_job(raw).doc, "A")
        lit = {f.label for f in found.fans if f.fan == "tern-120"}
        self.assertEqual(set(found.lights), lit)
        self.assertEqual(found.lights[0], "R1 out")  # nearest to the rear upper corner
        self.assertEqual(next(s.caution for s in found.steps if s.id == "lights"), "lightPlug")
        self.assertEqual(build(check_job(demo_raw()).doc, "A").lights, [])
        raw["parts"]["boards"] = [{"id": "b", "headers": [{"id": "case 1", "modes": ["3pin"]}]}]
        raw["base"]["board"] = "b"
        told = build(check_job(raw).doc, "A")
        self.assertEqual(told.headers[0].modes, ["3pin"])
        self.assertEqual(told.lead_faults, [f"{f.what}. {f.do}" for f in wiring_findings(Resolver(check_job(raw).doc), "A")])
        self.assertTrue(told.lead_faults)

    def test_the_pump_is_constant_trimmed_and_the_forecast_stands_beside(self) -> None:
        doc = check_job(demo_raw()).doc
        found = build(doc, "D")
        self.assertEqual([(p.pct, p.curve) for p in found.pumps], [(100, None)])
        order = [s.id for s in found.steps]
        self.assertLess(order.index("purge"), order.index("pump_trim"))
        told = Oracle(doc, Question(layouts=["D"])).forecast("D")
        assert found.forecast is not None
        self.assertAlmostEqual(found.forecast.cpu_c, told.cpu.temperature_c)
        self.assertAlmostEqual(found.forecast.band_db, told.sound.band_db)
        curved = check_job(curved_raw([[40, 20], [90, 100]])).doc
        card = build(curved, "A").curves[0]
        speeds = [f.speed_pct for f in Oracle(curved, Question(layouts=["A"])).forecast("A").fans]
        self.assertAlmostEqual(card.settles_pct or 0.0, max(speeds))

    def test_a_lead_that_is_long_enough_goes_behind_the_board_by_its_holes(self) -> None:
        raw = demo_raw()
        raw["parts"]["boards"] = [{"id": "b", "headers": [{"id": "case 1", "limit_a": 2, "at_mm": {"x": 300, "y": 10, "z": 300}}]}]
        raw["base"]["board"] = "b"
        mount = next(f["mount"] for f in layout_raw(raw, "A")["fans"] if f["mount"].startswith("f"))
        layout_raw(raw, "A")["wiring"] = [{"of": mount, "header": "case 1"}]
        raw["case"]["routing_holes"] = [
            {"id": "h1", "centre_mm": {"x": 60, "y": 0, "z": 300}},
            {"id": "h2", "centre_mm": {"x": 290, "y": 0, "z": 300}},
        ]
        for length, through in ((2000, ["h1", "h2"]), (100, [])):
            for fan in raw["parts"]["fans"]:
                fan["lead_mm"] = length
            found = build(check_job(raw).doc, "A")
            lead = next(f.lead for f in found.fans if f.mount == mount)
            step = next(s for s in found.steps if s.mount == mount and s.chapter == "in")
            words = " ".join(step.details)
            with self.subTest(length=length):
                self.assertEqual(lead.through, through)
                assert lead.hidden_mm is not None
                if through:
                    self.assertIn("in by the hole h1, behind the board, out by h2", words)
                    self.assertIn("behind by h1 and h2", wiring_svg(found))
                    self.assertIn("h1 h2", wiring_csv(found))
                else:
                    self.assertIn(f"too short by {lead.hidden_mm - 100:.0f} mm to go behind the board", words)

    def test_two_fans_of_one_mount_have_names_of_their_own(self) -> None:
        doc = read_job((ROOT / "demo" / "chart-server.oventa.json").read_bytes()).doc
        found = build(doc, "B")
        titles = [s.words for s in found.steps]
        self.assertEqual(len(titles), len(set(titles)), "two steps of one name")
        plugs = [p for h in found.headers for p in h.plugs]
        self.assertEqual(len(plugs), len(set(plugs)))
        self.assertFalse([t for t in titles if "draws inner" in t])

    def test_currents_and_leads_are_those_of_the_books(self) -> None:
        raw = demo_raw()
        raw["parts"]["boards"] = [{"id": "b", "headers": [{"id": "case 1", "limit_a": 0.3, "at_mm": {"x": 300, "y": 10, "z": 300}}]}]
        raw["base"]["board"] = "b"
        for fan in raw["parts"]["fans"]:
            fan |= {"current_a": 0.2, "lead_mm": 400}
        mounts = [f["mount"] for f in layout_raw(raw, "A")["fans"]][:2]
        layout_raw(raw, "A")["wiring"] = [{"of": m, "header": "case 1"} for m in mounts]
        found = build(check_job(raw).doc, "A")
        header = found.headers[0]
        self.assertEqual((round(header.sum_a, 6), header.verdict), (0.4, "overloaded"))
        step = next(s for s in found.steps if s.id == "lead_case_1")
        self.assertTrue(step.gate)
        lead = next(f.lead for f in found.fans if f.mount == mounts[0])
        self.assertEqual((lead.to, lead.length_mm), ("case 1", 400))
        self.assertIsNotNone(lead.needs_mm)
        self.assertIn("overloaded", wiring_csv(found))

    def test_what_is_not_on_hand_is_bought_and_what_is_left_is_told(self) -> None:
        raw = demo_raw()
        raw["stock"] = {"fans": {"tern-120": 1, "skua-120": 9}}
        found = build(check_job(raw).doc, "A")
        used = sum(f.fan == "tern-120" for f in found.fans)
        self.assertEqual([(b.part, b.count) for b in found.shopping], [("tern-120", used - 1)])
        self.assertIn("9 on hand", found.shopping[0].instead[0])
        self.assertEqual([(b.part, b.count) for b in found.left_over], [("skua-120", 9)])


class NothingLeftOpenTest(SimpleTestCase):
    """What somebody with the sheet alone would ask: where the processor goes in, what power is plugged, on which header each lead."""

    def test_every_shipped_sheet_has_what_is_not_drawn(self) -> None:
        for name, doc in shipped():
            for layout in doc.layouts:
                made = build(doc, layout.id)
                if made.impossible:
                    continue
                at = {s.id: i for i, s in enumerate(made.steps)}
                with self.subTest(name, layout=layout.id):
                    self.assertLess(at["on_board"], at["in_board"])
                    self.assertIn("on_board", next(s for s in made.steps if s.id == "in_board").after)
                    self.assertLess(at["in_board"], at["lead_board"])

    def test_a_rebuild_leaves_the_board_where_it_is(self) -> None:
        made = build(check_job(demo_raw()).doc, "B", "A")
        self.assertFalse({"on_board", "lead_board"} & {s.id for s in made.steps})

    def test_each_lead_of_every_shipped_layout_is_told_where_to(self) -> None:
        for name, doc in shipped():
            resolver = Resolver(doc)
            for layout in doc.layouts:
                steps = [s for s in build(doc, layout.id).steps if s.chapter == "leads"]
                told = " ".join([x for s in steps for x in [s.words, *s.details]])
                for lead in leads_of(resolver, layout):
                    place = layout_name(lead.key, layout)
                    with self.subTest(name, layout=layout.id, lead=lead.key):
                        self.assertTrue(lead.plug.name in told or place in told, told)

    def test_leads_without_a_header_are_shared_out_or_told_by_what_rule(self) -> None:
        raw = demo_raw()
        for own in raw["layouts"]:
            own.pop("wiring", None)
        (step,) = [s for s in build(check_job(raw).doc, "C").steps if s.id == "lead_other"]
        self.assertIn("the pump on pump.", step.details[1])
        self.assertIn("T1 inner out on case 5", step.details[1])
        raw["base"].pop("board")
        (step,) = [s for s in build(check_job(raw).doc, "C").steps if s.id == "lead_other"]
        self.assertIn("pump header", step.details[0])
        self.assertIn("F2 in, F3 in; R1 out; T1 inner out, T2 inner out", step.details[1])
        self.assertIn("the pump: on", wiring_svg(build(check_job(raw).doc, "C")))  # the map has it too


def layout_name(key: tuple[str, str], layout: LayoutDoc) -> str:
    return next((label(f) for f in layout.fans if (f.mount, f.layer) == key), "nothing so named")


class PaperTest(SimpleTestCase):
    def test_radiators_are_drawn_between_their_fans_and_the_wall(self) -> None:
        doc = check_job(demo_raw()).doc
        self.assertEqual([case_svg(doc, build(doc, x)).count("<g>") for x in "ABCD"], [0, 0, 1, 1])

    def test_steps_waited_for_are_told_in_few_numbers(self) -> None:
        self.assertEqual([paper.runs_of(x) for x in ([], [3], [4, 3], [1, 2, 3, 7, 9, 10, 11])], ["", "3", "3, 4", "1 to 3, 7, 9 to 11"])

    def test_the_paper_speaks_in_the_readers_units(self) -> None:
        doc = check_job(demo_raw()).doc
        made = build(doc, "D")
        metric, trade = paper.html(made, doc), paper.html(made, doc, "Letter", "trade")
        for a, b in (
            ("than 1 K or the processor by more than 2 K", "than 1.8 °F or the processor by more than 3.6 °F"),
            ("60 °C", "140 °F"),
        ):
            self.assertIn(a, metric)
            self.assertIn(b, trade)
        self.assertNotRegex(trade.split("<body>")[1], r"\d (K|°C|Pa)\b")
        self.assertIn("120 mm", trade)  # the name of a fan's size

    def text(self, doc: JobDoc, layout: str, kind: paper.Paper) -> tuple[str, Any]:
        pdf = PdfReader(io.BytesIO(paper.pdf(build(doc, layout), doc, kind)))
        return "\n".join(p.extract_text() for p in pdf.pages), pdf.pages[0].mediabox

    def test_all_of_it_is_on_paper_in_both_sizes(self) -> None:
        doc = check_job(demo_raw()).doc
        found = build(doc, "D")
        for kind, size in (("A4", (595, 842)), ("Letter", (612, 792))):
            words, box = self.text(doc, "D", kind)  # type: ignore[arg-type]
            self.assertEqual((round(float(box.width)), round(float(box.height))), size)
            flat = " ".join(words.split())
            for step in found.steps:
                self.assertIn(step.words, flat)
            for f in found.fans:
                self.assertIn(f.label, flat)
            for caution in {s.caution for s in found.steps if s.caution}:
                self.assertIn(CAUTIONS[caution][:40], flat)

    def test_names_are_words_and_nothing_else(self) -> None:
        raw = demo_raw()
        raw["name"] = "<script>alert(1)</script>"
        layout_raw(raw, "A")["name"] = "a & b <img src=x>"
        doc = check_job(raw).doc
        page = paper.html(build(doc, "A"), doc)
        self.assertNotIn("<script>", page)
        self.assertNotIn("<img src=x>", page)

    def test_the_command_writes_both(self) -> None:
        with TemporaryDirectory() as folder:
            job, pdf = Path(folder) / "job.json", Path(folder) / "sheet.pdf"
            job.write_text(json.dumps(demo_raw()), encoding="utf-8")
            out = io.StringIO()
            with redirect_stdout(out):
                code = main(["build", str(job), "--layout", "D", "--from", "B", "--pdf", str(pdf), "--json"])
            self.assertEqual(code, 0)
            told = json.loads(out.getvalue())
            self.assertEqual((told["format"], told["version"], told["layout"]), ("oventa-build", 1, "D"))
            self.assertTrue(pdf.read_bytes().startswith(b"%PDF"))
            self.assertEqual(main(["build", str(job), "--layout", "X"]), 2)
            self.assertEqual(main(["build", str(Path(folder) / "none.json"), "--layout", "A"]), 2)
