"""The orders of a plan: minutes of the sheet, ends that stay, repeats after a rebuild, never worse than as listed."""

import random
from itertools import pairwise

from django.test import SimpleTestCase

from desk.plan.order import KINDS, ordered, orders
from desk.plan.runsheet import Order, planned_runs, run_sheet
from documents.job.models import JobDoc
from documents.job.planned import PlanDoc, from_template
from documents.job.reader import check_job
from tests.machines import demo_raw


def planned(names: list[str], control: str | None = "A", repeats: int = 1, shuffle: Order = "as_listed", template: str = "short") -> JobDoc:
    protocol = from_template(template)
    doc = check_job(demo_raw()).doc
    runs = planned_runs(names, protocol, control, repeats, shuffle)
    plan = PlanDoc(protocol=protocol.id, control=control, repeats=repeats, runs=runs)
    return doc.model_copy(update={"protocols": [protocol], "plan": plan})


def plan_of(doc: JobDoc) -> PlanDoc:
    assert doc.plan is not None
    return doc.plan


class OrdersTest(SimpleTestCase):
    def test_never_worse_than_as_listed(self) -> None:
        rng = random.Random(1)
        for repeats in (1, 2):
            for control in ("A", None):
                names = rng.sample(["A", "B", "C", "D"], 4)
                doc = planned(names, control, repeats)
                found = orders(doc, plan_of(doc))
                self.assertEqual(set(found), set(KINDS))
                self.assertLessEqual(found["least"].minutes, found["listed"].minutes)
                self.assertLessEqual(found["least"].minutes, found["shuffled"].minutes)
                self.assertEqual(found["listed"].minutes, run_sheet(doc).minutes)
                for x in found.values():
                    self.assertEqual(sorted(x.order), sorted(found["listed"].order))
                    if control:
                        self.assertEqual((x.order[0], x.order[-1]), ("A", "A"))

    def test_a_repeat_never_follows_its_own_layout(self) -> None:
        doc = planned(["B", "C", "D"], None, 3)
        least = orders(doc, plan_of(doc))["least"].order
        self.assertTrue(all(a != b for a, b in pairwise(least)))

    def test_blocks_hold_every_layout_once(self) -> None:
        doc = planned(["A", "B", "C", "D"], "A", 2)
        inner = orders(doc, plan_of(doc))["blocked"].order[1:-1]
        self.assertEqual(sorted(inner[:3]), ["B", "C", "D"])
        self.assertEqual(sorted(inner[3:]), ["B", "C", "D"])

    def test_loads_of_one_visit_stay_together(self) -> None:
        doc = planned(["A", "B", "C"], "A")
        plan = plan_of(doc)
        both = [r.model_copy(update={"id": f"{r.id}{load}", "load": load}) for r in plan.runs for load in ("cpu", "both")]
        _, runs = ordered(doc, plan.model_copy(update={"runs": both}), "least")
        self.assertEqual([r.load for r in runs], ["cpu", "both"] * 4)
        self.assertEqual(runs[0].role, "control_start")
        self.assertEqual(runs[-1].role, "control_end")

    def test_the_persons_own_minutes_count(self) -> None:
        doc = planned(["A", "B", "C", "D"])
        slow = doc.model_copy(update={"practice": doc.practice.model_copy(update={"minutes": {"put": 60.0, "move": 60.0}})})
        self.assertGreater(run_sheet(slow).minutes, run_sheet(doc).minutes + 60)

    def test_a_shuffle_is_its_seed(self) -> None:
        doc = planned(["A", "B", "C", "D"], "A", 2)
        once, again = (ordered(doc, plan_of(doc), "shuffled", 4)[0].order for _ in range(2))
        self.assertEqual(once, again)

    def test_the_control_of_a_long_campaign_is_run_half_way_too(self) -> None:
        self.assertNotIn("control_middle", [r.role for r in plan_of(planned(["A", "B", "C", "D"], "A", 2)).runs])
        doc = planned(["A", "B", "C", "D"], "A", 3)
        roles = [r.role for r in plan_of(doc).runs]
        self.assertEqual((len(roles), roles.index("control_middle")), (12, 5))
        self.assertIn("control half way", [w for x in run_sheet(doc).lines for w in x.words])
        for kind in KINDS:
            out, runs = ordered(doc, plan_of(doc), kind, 3)
            at = [i for i, r in enumerate(runs) if r.role == "control_middle"]
            self.assertEqual(len(at), 1)
            self.assertTrue(3 <= at[0] <= 8, (kind, at))
            self.assertEqual((runs[0].role, runs[-1].role), ("control_start", "control_end"))
            self.assertEqual(sorted(r.layout for r in runs), sorted(r.layout for r in plan_of(doc).runs))
            self.assertFalse(out.exact)
        least = ordered(doc, plan_of(doc), "least")[0]
        self.assertLessEqual(least.minutes, ordered(doc, plan_of(doc), "listed")[0].minutes)
        self.assertGreater(least.gap_min, 0)
