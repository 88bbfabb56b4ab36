"""Protocols and plans in the document; layouts made from changes; the run sheet."""

import copy
import json
from typing import Any

from django.test import SimpleTestCase

from desk.job.difference import changes
from desk.plan.generate import FactorIn, Generated, generate, predicted_effects
from desk.plan.runsheet import COOL_DOWN_MIN, SETUP_MIN, case_identity, planned_runs, run_sheet
from documents.errors import DocumentError
from documents.job.models import JobDoc, LayoutDoc
from documents.job.planned import from_template
from documents.job.reader import check_job, write_job
from engine.errors import ImpossibleInputError
from engine.plan.protocol import TEMPLATES
from engine.plan.rebuild import minutes_of
from tests.machines import demo_raw


def doc_of(**more: Any) -> JobDoc:
    return check_job(demo_raw() | more).doc


def by_id(doc: JobDoc, made: Generated, name: str) -> LayoutDoc:
    return next(x for x in [*doc.layouts, *made.layouts] if x.id == name)


class DocumentTest(SimpleTestCase):
    def test_every_template_goes_through_the_document_unchanged(self) -> None:
        for key, template in TEMPLATES.items():
            doc = doc_of(protocols=[from_template(key).model_dump(mode="json")], plan=None)
            again = check_job(json.loads(write_job(doc))).doc
            with self.subTest(key):
                self.assertEqual(again.protocols[0].to_engine(), template)

    def test_versions_of_one_protocol_stand_beside_each_other(self) -> None:
        first = from_template("short").model_dump(mode="json")
        self.assertEqual(len(doc_of(protocols=[first, first | {"version": 2}], plan=None).protocols), 2)
        with self.assertRaises(DocumentError):
            doc_of(protocols=[first, first], plan=None)

    def test_what_a_plan_names_must_be_there(self) -> None:
        short = from_template("short").model_dump(mode="json")
        run = {"id": "r1", "layout": "A", "protocol": "short"}
        plan = {"protocol": "short", "control": "A", "runs": [run]}
        doc_of(protocols=[short], plan=plan)
        for bad, path in (
            (plan | {"protocol": "none"}, "plan.protocol"),
            (plan | {"control": "Z"}, "plan.control"),
            (plan | {"runs": [run | {"layout": "Z"}]}, "plan.runs[0].layout"),
            (plan | {"runs": [run, run]}, "plan.runs[1]"),
        ):
            with self.subTest(path=path), self.assertRaises(DocumentError) as caught:
                doc_of(protocols=[short], plan=bad)
            self.assertIn(path, [f.path for f in caught.exception.faults])


class GenerateTest(SimpleTestCase):
    FLIP, PANEL = FactorIn(kind="flip", at="f2"), FactorIn(kind="panel", at="front")

    def test_two_by_two_makes_four_layouts_and_predicts_their_interaction(self) -> None:
        doc = doc_of()
        made = generate(doc, "factorial", "A", [self.FLIP, self.PANEL])
        self.assertEqual((len(made.order), len(made.layouts), made.order[0]), (4, 3, "A"))
        both = by_id(doc, made, made.order[3])
        self.assertEqual(both.panels["front"].state, "removed")
        self.assertEqual(next(f.direction for f in both.fans if f.mount == "f2"), "exhaust")
        found = predicted_effects(doc, made)
        self.assertEqual([len(p.words) for p in found], [1, 1, 2])
        self.assertGreater(found[0].cpu_k or 0, 0, "a front fan that blows out starves the machine")

    def test_a_layout_that_is_there_is_not_made_again(self) -> None:
        doc = doc_of()
        made = generate(doc, "one_at_a_time", "A", [self.FLIP])
        full = doc.model_copy(update={"layouts": [*doc.layouts, *made.layouts]})
        again = generate(full, "one_at_a_time", "A", [self.FLIP, self.PANEL])
        self.assertEqual(again.order[1], made.order[1])
        self.assertEqual(len(again.layouts), 1)

    def test_ladder_adds_step_by_step(self) -> None:
        doc = doc_of()
        made = generate(doc, "ladder", "A", [FactorIn(kind="fan", at=m) for m in ("t1", "t2", "t3")])
        self.assertEqual([len(by_id(doc, made, n).fans) - len(by_id(doc, made, "A").fans) for n in made.order], [0, 1, 2, 3])
        self.assertTrue(all(f.direction == "exhaust" for f in by_id(doc, made, made.order[3]).fans if f.mount.startswith("t")))

    def test_grid_of_ways_panels_and_speeds(self) -> None:
        doc = doc_of()
        factors = [
            FactorIn(kind="ways", at="f2,f3"),
            FactorIn(kind="panel", at="front", values=["fitted", "removed"]),
            FactorIn(kind="speed", values=["50", "75", "100"]),
        ]
        made = generate(doc, "grid", "A", factors)
        self.assertEqual(len(made.order), 12)
        self.assertEqual(len(set(made.order)), 12)
        last = by_id(doc, made, made.order[-1])
        self.assertEqual({f.speed_pct for f in last.fans}, {100.0})

    def test_a_bundle_of_three_is_taken_apart_into_four_runs(self) -> None:
        raw = demo_raw()
        other = copy.deepcopy(next(x for x in raw["layouts"] if x["id"] == "A")) | {"id": "Z"}
        other["fans"][0]["direction"] = "exhaust"
        other["panels"] = {"front": {"state": "removed"}}
        other["card_fan_pct"] = 80
        raw["layouts"].append(other)
        doc = check_job(raw).doc
        made = generate(doc, "bundle", "A", [], "Z")
        self.assertEqual(len(made.order), 4)
        self.assertEqual((made.order[0], made.order[-1]), ("A", "Z"), "ends at the layout that is there")
        steps = [changes(doc, by_id(doc, made, a), by_id(doc, made, b)) for a, b in zip(made.order, made.order[1:], strict=False)]
        self.assertEqual([len(s) for s in steps], [1, 1, 1])

    def test_every_pair_of_demo_layouts_comes_apart_and_ends_where_it_should(self) -> None:
        doc = doc_of()
        for a in "ABCD":
            for b in "ABCD":
                if a != b:
                    with self.subTest(a=a, b=b):
                        self.assertEqual(generate(doc, "bundle", a, [], b).order[-1], b)

    def test_refusals_say_what_to_do(self) -> None:
        doc = doc_of()
        for design, factors, target in (
            ("factorial", [], None),
            ("factorial", [FactorIn(kind="flip", at="t1")], None),
            ("factorial", [FactorIn(kind="panel", at="ceiling")], None),
            ("factorial", [FactorIn(kind="speed", value="fast")], None),
            ("factorial", [FactorIn(kind="cooler_turned", value="sideways")], None),
            ("factorial", [FactorIn(kind="fan", at="zz")], None),
            ("factorial", [FactorIn(kind="panel", at=f) for f in ("front", "top", "rear", "bottom", "window", "front", "top")], None),
            ("bundle", [], "A"),
            ("bundle", [], None),
        ):
            with self.subTest(design=design, factors=factors), self.assertRaises(ImpossibleInputError) as caught:
                generate(doc, design, "A", factors, target)  # type: ignore[arg-type]
            self.assertTrue(caught.exception.do)


class RunSheetTest(SimpleTestCase):
    def planned(self, **more: Any) -> JobDoc:
        protocol = from_template(more.pop("template", "short"))
        runs = planned_runs(more.pop("order", ["A", "B"]), protocol, more.pop("control", "A"), more.pop("repeats", 1))
        control = "A" if any(r.role == "control_start" for r in runs) else None
        plan = {"protocol": protocol.id, "control": control, "runs": [r.model_dump(mode="json") for r in runs]}
        return doc_of(protocols=[protocol.model_dump(mode="json")], plan=plan | more)

    def test_control_first_and_last(self) -> None:
        runs = planned_runs(["A", "B", "C"], from_template("short"), "A", 1, "as_listed")
        self.assertEqual([(r.layout, r.role) for r in runs], [("A", "control_start"), ("B", "run"), ("C", "run"), ("A", "control_end")])

    def test_a_suite_of_loads_is_one_run_each(self) -> None:
        protocol = from_template("short").model_copy(update={"loads": ["idle", "cpu", "card", "both"]})
        runs = planned_runs(["A"], protocol, None, 1)
        self.assertEqual([r.load for r in runs], ["idle", "cpu", "card", "both"])

    def test_there_and_back_cancels_drift(self) -> None:
        runs = planned_runs(["B", "C", "D"], from_template("short"), None, 2, "there_and_back")
        self.assertEqual([r.layout for r in runs], ["B", "C", "D", "D", "C", "B"])

    def test_a_shuffle_is_the_same_for_the_same_seed(self) -> None:
        one = [r.layout for r in planned_runs(list("ABCDEF"), from_template("short"), None, 1, "random", 3)]
        self.assertEqual(one, [r.layout for r in planned_runs(list("ABCDEF"), from_template("short"), None, 1, "random", 3)])
        self.assertEqual(sorted(one), list("ABCDEF"))
        self.assertNotEqual(one, list("ABCDEF"))

    def test_minutes_add_up(self) -> None:
        doc = self.planned()
        sheet = run_sheet(doc)
        layouts = {x.id: x for x in doc.layouts}
        out, back = (minutes_of(changes(doc, layouts[a], layouts[b])) for a, b in (("A", "B"), ("B", "A")))
        waits = sum(max(COOL_DOWN_MIN - m, 0) for m in (out, back))
        self.assertAlmostEqual(sheet.minutes, 3 * (SETUP_MIN + 30) + out + back + waits)
        self.assertAlmostEqual(sheet.hand_minutes, out + back)
        self.assertEqual(sheet.lines[-1].at_min + sheet.lines[-1].minutes, sheet.minutes)
        self.assertIn("take", " ".join(sheet.lines[-2].words) + " take")

    def test_what_a_plan_lacks_is_said(self) -> None:
        codes = [w.code for w in run_sheet(self.planned(control=None)).warnings]
        self.assertIn("no_control", codes)
        self.assertIn("no_guess", codes)
        self.assertIn("no_repeats", codes)
        own = self.planned(repeats=2, guess={"best": "B"})
        assert own.plan
        own.plan.case_confirmed = case_identity(own)
        good = run_sheet(own)
        own.case.inner_mm.depth += 1
        self.assertIn("case_not_confirmed", [w.code for w in run_sheet(own).warnings])
        self.assertEqual([w.code for w in good.warnings], ["bundle"])

    def test_an_open_loop_is_purged_before_its_run(self) -> None:
        raw = demo_raw()
        loop = {"cooler": "shearwater", "heat": ["cpu"], "reservoir": True, "radiators": [{"radiator": "fin-240", "mounts": ["t1", "t2"]}]}
        own = next(x for x in raw["layouts"] if x["id"] == "C")
        own["loops"], own["radiator"] = [loop], None
        protocol = from_template("soak")
        runs = planned_runs(["A", "C"], protocol, None, 1)
        raw |= {"protocols": [protocol.model_dump(mode="json")]}
        raw |= {"plan": {"protocol": "soak", "runs": [r.model_dump(mode="json") for r in runs]}}
        waits = [x.words for x in run_sheet(check_job(raw).doc).lines if x.kind == "wait"]
        self.assertTrue(any("pump at full" in w[0] for w in waits))

    def test_runs_that_are_in_are_marked(self) -> None:
        doc = self.planned()
        self.assertEqual([x.done for x in run_sheet(doc, {"r1"}).lines if x.kind == "run"], [True, False, False])

    def test_nothing_planned(self) -> None:
        self.assertEqual([w.code for w in run_sheet(doc_of(plan=None)).warnings], ["no_runs"])
