"""Fixes: each offered one clears its finding, harms nothing and does what it says, over random layouts and by hand."""

import copy
import json
from collections import Counter
from typing import Any

from django.test import SimpleTestCase

import tests.tools_path
from desk.forecast.document import Oracle, Question
from desk.forecast.fixes import OfferedFix
from desk.job.edits import Place, edited
from documents.job.models import LayoutDoc
from documents.job.reader import check_job
from engine.coupled.forecast import Forecast
from engine.errors import OventaError
from engine.findings.finding import Fix
from study.cases import complete, random_document
from tests.machines import demo_raw, fan_raw, layout_raw

assert tests.tools_path
LAYOUTS = 300
QUESTION = Question(layouts=["A"])


def oracle_of(raw: Any) -> Oracle:
    """As if the document had come from a file."""
    return Oracle(check_job(json.loads(json.dumps(raw))).doc, QUESTION)


def after(raw: Any, fix: OfferedFix) -> Oracle:
    return oracle_of(raw | {"layouts": [fix.layout]})


def keys(oracle: Oracle, severity: str | None = None) -> "Counter[tuple[str, frozenset[str]]]":
    """How often each finding is there; both fans of a mount may have the same."""
    found = oracle.plain_findings("A")
    return Counter((f.code, frozenset(f.mounts)) for f in found if severity is None or f.severity == severity)


class RandomLayoutsTest(SimpleTestCase):
    """Three hundred random cases with findings, in three parts for the runners."""

    def check(self, first: int, count: int) -> None:
        seed, tried, offered = first, 0, 0
        while tried < count:
            seed += 1
            raw = complete(random_document(seed), seed)
            try:
                oracle = oracle_of(raw)
                found = oracle.findings_doc().layouts[0].findings
            except OventaError:
                continue
            if not found:
                continue
            tried += 1
            now, before, errors = oracle.forecast("A"), keys(oracle), keys(oracle, "error")
            for finding in found:
                for fix in finding.fixes:
                    offered += 1
                    other = after(raw, fix)
                    words = f"seed {seed}: {finding.code}, {fix.label}"
                    key = finding.code, frozenset(finding.mounts)
                    self.assertLess(keys(other)[key], before[key], words)
                    self.assertEqual(keys(other, "error") - errors, Counter(), words)
                    self.told(fix, now, other.forecast("A"), words)
        self.assertGreater(offered, count)

    def told(self, fix: OfferedFix, now: Forecast, new: Forecast, words: str) -> None:
        """The button tells the truth to 0.1 K, and nothing it does is harm."""
        self.assertAlmostEqual(new.cpu.rise_k - now.cpu.rise_k, fix.cpu_k, delta=0.1, msg=words)
        self.assertAlmostEqual(new.cpu.power_w - now.cpu.power_w, fix.cpu_w, delta=0.5, msg=words)
        self.assertAlmostEqual(new.sound.level_dba - now.sound.level_dba, fix.sound_db, delta=0.1, msg=words)
        warmest = [max(x.cpu.rise_k, x.card.rise_k if x.card else 0.0) for x in (now, new)]
        if now.card and new.card:
            assert fix.card_k is not None
            self.assertAlmostEqual(new.card.rise_k - now.card.rise_k, fix.card_k, delta=0.1, msg=words)
            self.assertGreater(new.card.power_w - now.card.power_w, -3.0, words)
        self.assertGreater(new.cpu.power_w - now.cpu.power_w, -3.0, words)
        if not (now.cpu.limited or new.cpu.limited or (now.card and now.card.limited) or (new.card and new.card.limited)):
            self.assertLessEqual(warmest[1] - warmest[0], 0.5 + 1e-6, words)

    def test_the_first_hundred(self) -> None:
        self.check(10_000, LAYOUTS // 3)

    def test_the_second_hundred(self) -> None:
        self.check(20_000, LAYOUTS // 3)

    def test_the_third_hundred(self) -> None:
        self.check(30_000, LAYOUTS // 3)


class OfferTest(SimpleTestCase):
    def found(self, layout: str = "A", raw: Any = None, **change: Any) -> Any:
        raw = raw or demo_raw()
        layout_raw(raw, layout).update(change)
        return Oracle(check_job(raw).doc, Question(layouts=[layout])).findings_doc().layouts[0].findings

    def test_what_would_harm_is_named_and_not_offered(self) -> None:
        (finding,) = [f for f in self.found("B") if f.code == "intake_leaves_unused"]
        self.assertEqual(finding.fixes, ())
        self.assertEqual(len(finding.not_offered), 2)
        self.assertIn("the card 1.0 K warmer", finding.not_offered[0])

    def test_an_open_bench_has_no_dead_buttons(self) -> None:
        (finding,) = [f for f in self.found(fans=[], open_bench=True) if f.code == "panel_off"]
        self.assertEqual((finding.fixes, finding.not_offered), ((), ()))

    def test_the_best_leads(self) -> None:
        fans = [{**fan_raw("f1", "intake"), "state": "unplugged"}, fan_raw("f2", "intake"), fan_raw("r1", "exhaust")]
        (finding,) = [f for f in self.found(fans=fans) if f.code == "fan_unplugged"]
        worth = [f.worth_k for f in finding.fixes]
        self.assertEqual(worth, sorted(worth))
        self.assertEqual({f.action for f in finding.fixes}, {"plug_in", "take_out"})

    def test_several_findings_about_one_fan_are_told_as_one(self) -> None:
        fans = [
            fan_raw("f1", "intake"),
            fan_raw("f2", "intake"),
            fan_raw("r1", "intake"),
            fan_raw("t1", "exhaust"),
            fan_raw("t3", "exhaust"),
        ]
        found = self.found(fans=fans)
        about: dict[str, list[str]] = {}
        for f in found:
            if f.about:
                about.setdefault(f.about, []).append(f.code)
        self.assertTrue(about)
        for fan, codes in about.items():
            self.assertGreater(len(codes), 1, fan)

    def test_an_accepted_finding_stands_alone(self) -> None:
        accepted = [{"code": "intake_leaves_unused", "reason": "measured so"}]
        found = self.found("B", accepted=accepted)
        self.assertEqual([f.about for f in found if f.accepted], [""])


class EditTest(SimpleTestCase):
    def layout(self, **change: Any) -> LayoutDoc:
        raw = copy.deepcopy(layout_raw(demo_raw(), "A"))
        raw.update(change)
        return LayoutDoc.model_validate(raw)

    def slower(self, layout: LayoutDoc, share: float = 80.0) -> Any:
        speeds: dict[Place, float] = {(f.mount, f.layer): 60.0 for f in layout.fans}
        return edited(layout, Fix("slower", "set_speed", speed_pct=share), speeds)

    def test_a_group_is_changed_as_a_group(self) -> None:
        fans = [{**fan_raw(m, "intake"), "group": "front", "speed_pct": 100} for m in ("f1", "f2")] + [fan_raw("r1", "exhaust")]
        made = self.slower(self.layout(fans=fans, groups=[{"id": "front", "speed_pct": 75}]))
        self.assertEqual(made.layout.groups[0].speed_pct, 60)
        self.assertEqual([f.speed_pct for f in made.layout.fans[:2]], [100, 100], "their own speed rules nothing")
        self.assertEqual(made.releases, ())

    def test_a_curve_is_released_and_said(self) -> None:
        fans = [{**fan_raw("f1", "intake"), "curve": "night"}, {**fan_raw("f2", "intake"), "group": "g"}]
        made = self.slower(self.layout(fans=fans, groups=[{"id": "g", "name": "front two", "curve": "night"}]))
        self.assertEqual(made.releases, ("F1 off curve night", "group front two off curve night"))
        self.assertEqual((made.layout.fans[0].curve, made.layout.fans[0].speed_pct), (None, 48))
        self.assertEqual((made.layout.groups[0].curve, made.layout.groups[0].speed_pct), (None, 48))

    def test_a_fan_that_is_taken_out_takes_its_lead_along(self) -> None:
        plug = {"of": "f1", "header": "case 1"}
        layout = self.layout(fans=[fan_raw("f1", "intake"), fan_raw("r1", "exhaust")], wiring=[plug])
        made = edited(layout, Fix("out", "take_out", "f1", "outer"), {})
        assert made
        self.assertEqual(([f.mount for f in made.layout.fans], made.layout.wiring), (["r1"], []))

    def test_nothing_to_change_is_nothing(self) -> None:
        self.assertIsNone(edited(self.layout(), Fix("fit", "fit_panel", to="front"), {}))
        self.assertIsNone(edited(self.layout(), Fix("turn", "flip", "zz", "outer"), {}))

    def test_what_a_panel_was_made_of_stays_when_it_is_fitted_again(self) -> None:
        made = edited(self.layout(panels={"front": {"state": "removed", "kind": "mesh"}}), Fix("fit", "fit_panel", to="front"), {})
        assert made
        panel = made.layout.panels["front"]
        self.assertEqual((panel.state, panel.kind), ("fitted", "mesh"))
