"""What a layout asks before a run of it: values, cautions, speeds; pairs of layouts that differ by a panel; work still to be done."""

import copy
from typing import Any

from django.test import SimpleTestCase

from desk.job.asked import asked_of, cautions_of_traits
from desk.job.difference import changes, panel_pairs
from desk.plan.runsheet import planned_runs, run_sheet
from documents.job.models import JobDoc
from documents.job.planned import from_template
from documents.job.reader import check_job
from engine.plan.watch import speeds_off, speeds_off_in
from tests.machines import curved_raw, demo_raw, layout_raw


def doc_with(change: Any, layout: str = "A") -> JobDoc:
    """The demo with a layout changed in place."""
    raw = demo_raw()
    change(raw, layout_raw(raw, layout))
    return check_job(raw).doc


class KnownTest(SimpleTestCase):
    def test_a_tower_and_a_loop(self) -> None:
        tower, loop = (asked_of(check_job(demo_raw()).doc, name).known for name in "AC")
        self.assertEqual((tower["cpu_limit"], tower["card_fans"], tower["pump"]), ("125 W", "62 %", "no pump"))
        self.assertEqual((tower["curves"], tower["panels"], tower["room"]), ("fixed speeds", "all fitted", "this room"))
        self.assertEqual(loop["pump"], "100 %")

    def test_curves_panels_chamber_and_no_card(self) -> None:
        curved = asked_of(check_job(curved_raw([[40, 30], [85, 100]])).doc, "A")
        self.assertIn("fans on curves", curved.known["curves"])
        self.assertEqual(curved.speeds_rpm, {}, "a fan on a curve has no speed to be held to")

        def change(raw: Any, own: Any) -> None:
            own["panels"] = {"front": {"state": "removed"}, "top": {"state": "stood_off", "stand_off_mm": 5}}
            own["card"] = None
            raw["room"]["kind"] = "chamber"

        found = asked_of(doc_with(change), "A")
        self.assertEqual(found.known["panels"], "front panel removed; top panel stood off 5 mm")
        self.assertEqual((found.known["card_fans"], found.known["room"]), ("no fans of its own", "chamber"))
        glass = asked_of(doc_with(lambda raw, own: own.update(panels={"front": {"kind": "glass"}})), "A")
        self.assertEqual(glass.known["panels"], "front panel: glass")

    def test_a_layout_whose_parts_are_not_known_can_be_run_too(self) -> None:
        found = asked_of(doc_with(lambda raw, own: raw["base"].pop("cpu")), "A")
        self.assertNotIn("cpu_limit", found.known)
        self.assertEqual((found.known["panels"], found.speeds_rpm), ("all fitted", {}))

    def test_every_held_thing_of_the_templates_has_a_value(self) -> None:
        known = asked_of(check_job(demo_raw()).doc, "C").known
        self.assertLessEqual({h.what for h in from_template("soak").held}, set(known))


class CautionsTest(SimpleTestCase):
    def test_what_the_build_asks_to_be_read(self) -> None:
        cases: list[tuple[Any, list[str]]] = [
            (lambda raw, own: None, []),
            (lambda raw, own: own.update(panels={"front": {"state": "removed"}}), ["panel_off"]),
            (lambda raw, own: own.update(open_bench=True), ["panel_off"]),
            (lambda raw, own: own.update(obstructions=[{"mount": "f3", "blocked_pct": 50}]), ["blocked_vents"]),
            (lambda raw, own: own.update(panels={"top": {"improvised": True}}), ["blocked_vents"]),
            (lambda raw, own: raw["room"].update(kind="chamber"), ["chamber"]),
        ]
        for change, wanted in cases:
            self.assertEqual(asked_of(doc_with(change), "A").cautions, wanted)

    def test_what_the_machine_s_state_asks(self) -> None:
        self.assertEqual([cautions_of_traits([t]) for t in ("delidded", "overclocked", "sponsored")], [["cap_raised"], ["cap_raised"], []])


class SpeedsTest(SimpleTestCase):
    def test_fixed_speeds_by_their_channel(self) -> None:
        found = asked_of(check_job(demo_raw()).doc, "A").speeds_rpm
        self.assertEqual(found, {"fan_f2_rpm": 1200.0, "fan_f3_rpm": 1200.0, "fan_r1_rpm": 1200.0})
        still = asked_of(doc_with(lambda raw, own: own["fans"][0].update(state="unplugged")), "A").speeds_rpm
        self.assertNotIn("fan_f2_rpm", still)

    def test_a_fan_on_another_curve_is_said(self) -> None:
        wanted = {"fan_f2_rpm": 1200.0, "fan_r1_rpm": 1200.0, "fan_t1_rpm": 900.0}
        self.assertEqual(speeds_off(wanted, {"fan_f2_rpm": 1170, "fan_r1_rpm": 1320}), [])
        (words,) = speeds_off(wanted, {"fan_f2_rpm": 600, "fan_r1_rpm": 1200})
        self.assertIn("F2 turns at 600", words)
        self.assertEqual(speeds_off(wanted, {}), [], "a fan without a tachometer says nothing")

    def test_runs_of_one_layout_give_one_line_for_a_fan(self) -> None:
        wanted = {"fan_f2_rpm": 1200.0}
        slow = [(wanted, {"fan_f2_rpm": v}) for v in (599.0, 601.0, 600.0)]
        self.assertEqual(speeds_off_in(slow), speeds_off(wanted, {"fan_f2_rpm": 600.0}))
        (words,) = speeds_off_in([*slow[:1], (wanted, {"fan_f2_rpm": 1190.0}), (wanted, {})])
        self.assertEqual(words, "F2 turns at 599 where 1200 rpm are asked in 1 of 2 runs: another curve, or another header?")


class PanelPairsTest(SimpleTestCase):
    def with_copy(self, **more: Any) -> JobDoc:
        raw = demo_raw()
        raw["layouts"].append(copy.deepcopy(layout_raw(raw, "A")) | {"id": "P"} | more)
        return check_job(raw).doc

    def test_one_panel_off_and_nothing_else(self) -> None:
        self.assertEqual(panel_pairs(self.with_copy(panels={"front": {"state": "removed"}})), [("front", "A", "P")])

    def test_anything_more_is_no_pair(self) -> None:
        off = {"state": "removed"}
        for more in ({"panels": {"front": off, "top": off}}, {"panels": {"front": off}, "card_fan_pct": 90}, {}):
            self.assertEqual(panel_pairs(self.with_copy(**more)), [])

    def test_a_panel_that_was_angled_is_no_fitted_one(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["panels"] = {"front": {"state": "angled", "angle_deg": 20}}
        raw["layouts"].append(copy.deepcopy(layout_raw(raw, "A")) | {"id": "P", "panels": {"front": {"state": "removed"}}})
        self.assertEqual([p for p in panel_pairs(check_job(raw).doc) if p[1] == "A"], [])


class ToDoTest(SimpleTestCase):
    def test_what_was_done_is_said_as_what_is_to_be_done(self) -> None:
        raw = demo_raw()
        own = copy.deepcopy(layout_raw(raw, "A")) | {"id": "Z"}
        own["fans"][0]["direction"] = "exhaust"
        own["fans"][1]["state"] = "unplugged"
        own["fans"][2]["mount"] = "t1"
        raw["layouts"].append(own)
        doc = check_job(raw).doc
        by_id = {x.id: x for x in doc.layouts}
        found = {c.kind: (c.words, c.to_do) for c in changes(doc, by_id["A"], by_id["Z"])}
        self.assertEqual(found["flip"], ("flipped F2", "flip F2"))
        self.assertEqual(found["plug"], ("unplugged F3", "unplug F3"))
        self.assertEqual(found["move"], ("moved 1 × Tern 120 from rear to top", "move 1 × Tern 120 from rear to top"))
        back = {c.kind: c.to_do for c in changes(doc, by_id["Z"], by_id["A"])}
        self.assertEqual(back["plug"], "plug in F3")


class SuggestedTest(SimpleTestCase):
    def test_a_loop_asks_for_the_long_protocol(self) -> None:
        self.assertEqual(run_sheet(check_job(demo_raw()).doc).suggested, "soak")
        raw = demo_raw()
        raw["layouts"] = [x for x in raw["layouts"] if x["id"] in "AB"]
        self.assertEqual(run_sheet(check_job(raw).doc).suggested, "short")

    def test_the_next_run_is_the_first_that_was_not_made(self) -> None:
        protocol = from_template("short")
        runs = planned_runs(["A", "B"], protocol, "A", 1)
        plan = {"protocol": "short", "runs": [r.model_dump(mode="json") for r in runs]}
        doc = check_job(demo_raw() | {"protocols": [protocol.model_dump(mode="json")], "plan": plan}).doc
        nexts = [run_sheet(doc, done).next for done in (set(), {"r1"}, {"r1", "r2", "r3"})]
        self.assertEqual([r and r.id for r in nexts], ["r1", "r2", None])

    def test_an_open_loop_given_the_short_way_is_purged(self) -> None:
        def change(raw: Any, own: Any) -> None:
            next(c for c in raw["parts"]["coolers"] if c["kind"] == "sealed")["kind"] = "open_loop"

        raw = doc_with(change, "C").model_dump(mode="json", exclude_unset=True)
        protocol = from_template("soak")
        plan = {"protocol": "soak", "runs": [r.model_dump(mode="json") for r in planned_runs(["A", "C"], protocol, None, 1)]}
        lines = run_sheet(check_job(raw | {"protocols": [protocol.model_dump(mode="json")], "plan": plan}).doc).lines
        self.assertTrue(any("pump at full" in line.words[0] for line in lines))
