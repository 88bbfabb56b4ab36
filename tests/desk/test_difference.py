"""What was done to a layout, in words."""

import copy
import json
from typing import Any

from django.test import SimpleTestCase

from desk.job.as_set import AsSet
from desk.job.conditions import other_parts
from desk.job.difference import difference_in_words
from desk.job.names import fan_called, radiator_called
from desk.job.resolve import Resolver
from desk.verdict.chains import designs
from desk.verdict.facts import all_changes
from documents.job.reader import check_job
from tests.machines import ROOT, demo_raw, fan_raw, layout_raw


def words(change: Any, layout: str = "A") -> list[str]:
    raw = demo_raw()
    child = copy.deepcopy(layout_raw(raw, layout))
    child["id"] = "Z"
    change(child)
    raw["layouts"].append(child)
    doc = check_job(raw).doc
    by_id = {x.id: x for x in doc.layouts}
    return difference_in_words(doc, by_id[layout], by_id["Z"])


class DifferenceTest(SimpleTestCase):
    def test_nothing(self) -> None:
        self.assertEqual(words(lambda x: None), [])

    def test_one_flip_is_one_line(self) -> None:
        self.assertEqual(words(lambda x: x["fans"][0].update(direction="exhaust")), ["flipped F2"])

    def test_moved_taken_out_and_put(self) -> None:
        def move(x: Any) -> None:
            for fan, mount in zip(x["fans"][:2], ("t1", "t2"), strict=True):
                fan["mount"] = mount

        self.assertEqual(words(move), ["moved 2 × Tern 120 from front to top"])
        self.assertEqual(words(lambda x: x["fans"].pop(0)), ["took F2 out"])
        self.assertEqual(
            words(lambda x: x["fans"].append(fan_raw("t1", "exhaust", fan="skua-120"))), ["put Skua 120, for radiators at T1, out"]
        )

    def test_a_fan_is_told_by_its_name_else_by_its_size(self) -> None:
        self.assertEqual(words(lambda x: x["fans"][0].update(fan="skua-120")), ["Skua 120, for radiators at F2 instead of Tern 120"])
        doc = check_job(demo_raw()).doc
        unnamed = doc.model_copy(update={"parts": doc.parts.model_copy(deep=True)})
        for fan in unnamed.parts.fans:
            fan.name = ""
        for radiator in unnamed.parts.radiators:
            radiator.name = ""
        self.assertEqual([fan_called(unnamed, "skua-120"), fan_called(unnamed, "none such")], ["120 mm fan", "none such"])
        self.assertEqual([radiator_called(x, "fin-240") for x in (doc, unnamed)], ["240 mm radiator", "radiator fin-240"])

    def test_speed_plug_and_curve(self) -> None:
        self.assertEqual(words(lambda x: x["fans"][0].update(speed_pct=60)), ["F2 from 80 to 60 %"])
        self.assertEqual(words(lambda x: x["fans"][0].update(state="unplugged")), ["unplugged F2"])

    def test_radiator_panel_and_settings(self) -> None:
        self.assertEqual(words(lambda x: x.update(panels={"front": {"state": "removed"}})), ["front panel removed"])
        self.assertEqual(words(lambda x: x.update(card_orientation="upright")), ["card: upright"])
        self.assertEqual(words(lambda x: x["radiator"].update(mounts=["t2", "t3"]), "C"), ["240 mm radiator at T2, T3"])

    def test_a_panel_is_told_by_what_it_is(self) -> None:
        def front(**state: Any) -> list[str]:
            return words(lambda x: x.update(panels={"front": state}))

        self.assertEqual(front(kind="glass"), ["front panel: glass"])
        self.assertEqual(front(filter="fine"), ["front panel: fine filter"])
        self.assertEqual(front(blocked_pct=40), ["front panel: 40 % blocked"])
        self.assertEqual(front(state="stood_off", stand_off_mm=10), ["front panel stood off 10 mm"])
        self.assertEqual(front(state="removed", kind="glass"), ["front panel removed"])
        self.assertEqual(front(width_mm=100), ["front panel: of another size"])
        self.assertEqual(front(note="as it came"), [], "a note is no work of hands")
        self.assertEqual(front(), [], "what is fitted anyway is no change")

    def test_a_panel_of_another_kind_and_a_card_make_a_design(self) -> None:
        raw = demo_raw()
        base = raw["layouts"][0]
        raw["layouts"] = [
            {**base, "id": name, "panels": panels, **card}
            for name, panels, card in (
                ("A", {}, {}),
                ("B", {"front": {"kind": "glass"}}, {}),
                ("C", {}, {"card_orientation": "upright"}),
                ("D", {"front": {"kind": "glass"}}, {"card_orientation": "upright"}),
            )
        ]
        doc = check_job(raw).doc
        self.assertEqual(difference_in_words(doc, doc.layouts[1], doc.layouts[0])[0][:18], "front panel: mesh,")
        (found,) = designs("ABCD", all_changes(doc, doc.layouts))
        self.assertEqual((set(found.names), found.layouts[0]), ({"front panel: glass", "card: upright"}, "A"))

    def test_other_parts_are_named_beside_their_layout(self) -> None:
        raw = json.loads((ROOT / "demo" / "lamp-recorder.oventa.json").read_text())
        raw["layouts"][1]["cpu_power_w"] = 40
        doc = check_job(raw).doc
        found = {x.id: other_parts(Resolver(doc), x, doc.layouts[0]) for x in doc.layouts}
        self.assertEqual(found["E"], ("another card: rendering card, 270 W, open",))
        self.assertEqual((found["A"], found["B"], found["C"]), ((), ("the processor at 40 W",), ()))

    def test_what_layouts_set_is_shared_only_where_all_share_it(self) -> None:
        doc = check_job(json.loads((ROOT / "demo" / "lamp-recorder.oventa.json").read_text())).doc
        found = AsSet(doc, doc.layouts)
        self.assertNotIn("card", dict(found.shared))
        self.assertEqual(dict(found.shared)["processor"], "office processor, 65 W")
        by = {x.id: found.words(x) for x in doc.layouts}
        self.assertIn("card: rendering card, 270 W, open", by["E"])
        self.assertIn("card: display card, 75 W, open", by["A"])
        self.assertIn("window panel: glass", by["C"])
        self.assertIn("F1 Plover 92 in at 60 %", by["C"])
        alone = AsSet(doc, doc.layouts[:1])
        self.assertEqual(dict(alone.shared)["card"], "display card, 75 W, open")
        self.assertNotIn("card", alone.words(doc.layouts[0]))

    def test_groups_and_the_open_bench(self) -> None:
        def group(x: Any) -> None:
            x["groups"] = [{"id": "g", "name": "front", "speed_pct": 55}]
            x["fans"][0]["group"] = "g"

        self.assertEqual(words(group), ["F2 in g", "fan groups: front 55 %"])
        self.assertEqual(words(lambda x: x.update(open_bench=True)), ["on the open bench"])

    def test_loops(self) -> None:
        def loop(x: Any, **more: Any) -> None:
            x["loops"] = [{"cooler": "shearwater", "heat": ["cpu"], "radiators": [x.pop("radiator")], **more}]

        def both(x: Any) -> None:
            loop(x, heat=["cpu", "card"])

        def slower(x: Any) -> None:
            loop(x, pump_pct=60)

        at = "240 mm radiator at T1, T2"
        self.assertEqual(words(both, "C"), [f"a loop for the processor and card: {at}"])
        self.assertEqual(words(slower, "C"), [f"a loop for the processor: {at}"])
        self.assertEqual(
            words(lambda x: x.update(radiator=None, cooler="cormorant-120"), "C"), ["radiator out", "cooler: Cormorant 120 tower"]
        )

    def test_one_loop_against_another(self) -> None:
        raw = demo_raw()
        base = layout_raw(raw, "C")
        base["loops"] = [{"cooler": "shearwater", "radiators": [base.pop("radiator")]}]
        child = copy.deepcopy(base)
        child["id"] = "Z"
        child["loops"][0]["pump_pct"] = 60
        child["loops"][0]["radiators"][0]["mounts"] = ["t2", "t3"]
        raw["layouts"].append(child)
        by_id = {x.id: x for x in check_job(raw).doc.layouts}
        found = difference_in_words(check_job(raw).doc, by_id["C"], by_id["Z"])
        self.assertEqual(found, ["loop of the processor: 240 mm radiator at T2, T3; pump at 60 %"])
        self.assertEqual(difference_in_words(check_job(raw).doc, by_id["Z"], by_id["C"])[0][:22], "loop of the processor:")
