"""What building a layout needs, beside air and heat: fit, leads, stock, an existing machine; each once wrong and once right."""

import copy
from collections.abc import Callable
from typing import Any, ClassVar

from django.test import SimpleTestCase

from desk.forecast.document import Oracle, Question
from desk.forecast.sheet import SheetDoc, sheet
from desk.job.resolve import Resolver, most_pct
from desk.together.fit import fit_findings, ledger_of
from desk.together.wiring import audit_findings, fans_used, stock_findings, wiring_findings, wiring_of
from documents.errors import DocumentError
from documents.job.reader import check_job, read_job, write_job
from engine.findings.finding import Finding
from engine.wiring.advice import CLASSES, OVERCLOCK, SHORT_DUTY, cooler_advice
from engine.wiring.currents import ROUTING_FACTOR
from tests.machines import ROOT, demo_raw, fan_raw, layout_raw

Raw = dict[str, Any]
BOARD = {
    "id": "slip-board",
    "headers": [
        {"id": "cha1", "kind": "fan", "limit_a": 1.0, "modes": ["4pin"], "at_mm": {"x": 200, "y": 0, "z": 120}},
        {"id": "cha2", "kind": "fan", "limit_a": 1.0, "modes": ["3pin", "4pin"], "at_mm": {"x": 200, "y": 0, "z": 400}},
        {"id": "pump", "kind": "pump", "limit_a": 2.0},
    ],
}


def wired(*plugs: Raw, layout: str = "A", **fan: Any) -> Raw:
    raw = demo_raw()
    raw["parts"]["boards"] = [copy.deepcopy(BOARD)]
    raw["base"]["board"] = "slip-board"
    raw["parts"]["fans"][0].update(fan)
    for own in raw["layouts"]:
        own.pop("wiring", None)
    layout_raw(raw, layout)["wiring"] = list(plugs)
    return raw


def plug(of: str, header: str = "cha1", **more: Any) -> Raw:
    return {"of": of, "header": header, **more}


def build_findings(raw: Raw, layout: str = "A") -> dict[str, Finding]:
    resolver = Resolver(check_job(raw).doc)
    rules = (fit_findings, wiring_findings, stock_findings, audit_findings)
    return {f.code: f for rule in rules for f in rule(resolver, layout)}


def changed(change: Callable[[Raw], object], layout: str = "A") -> Raw:
    raw = demo_raw()
    change(raw)
    return raw


class WiringTest(SimpleTestCase):
    def test_four_fans_of_three_tenths_of_an_ampere_on_one_ampere(self) -> None:
        # Worked example of K12: 4 x 0.3 A = 1.2 A on 1 A is an error; with three it is 0.9 A and passes.
        raw = wired(*(plug(m, "cha2") for m in ("f1", "f2", "f3", "r1")), current_a=0.3, connector="4pin")
        own = layout_raw(raw, "A")
        own["fans"] = [fan_raw(m, "intake" if m[0] == "f" else "exhaust") for m in ("f1", "f2", "f3", "r1")]
        over = build_findings(raw)["header_overloaded"]
        self.assertEqual(over.severity, "error")
        self.assertIn("1.20 A", over.because)
        own["fans"][3]["state"] = "unplugged"
        self.assertNotIn("header_overloaded", build_findings(raw))
        raw["parts"]["fans"][0]["current_a"] = 0.32
        self.assertIn("header_near_limit", build_findings(raw))

    def test_a_powered_hub_relieves_the_board_and_a_splitter_does_not(self) -> None:
        fans = ("f1", "f2", "f3", "r1")
        for kind, codes in (("hub", {"splitter_full"}), ("splitter", {"header_overloaded"})):
            raw = wired(*(plug(m, "cha2", via="split") for m in fans), current_a=0.3)
            raw["parts"]["controllers"] = [{"id": "split", "kind": kind, "outputs": 4, "limit_a": 4.0}]
            layout_raw(raw, "A")["fans"] = [fan_raw(m, "intake") for m in fans]
            with self.subTest(kind=kind):
                self.assertEqual("header_overloaded" in build_findings(raw), "header_overloaded" in codes)

    def test_kinds_of_plugs_and_headers(self) -> None:
        raw = wired(plug("f3"), connector="3pin")
        self.assertIn("f3", build_findings(raw)["full_speed_only"].mounts)  # at 80 % on a header that slows 4-pin fans only
        raw = wired(plug("f3", "cha2"), connector="3pin")
        self.assertNotIn("full_speed_only", build_findings(raw))

    def test_the_pump_is_not_slowed_and_not_on_a_fan_header(self) -> None:
        raw = wired(plug("pump", "cha2"), layout="C")
        self.assertIn("pump_on_fan_header", build_findings(raw, "C"))
        raw = wired(plug("pump", "pump"), layout="C")
        self.assertNotIn("pump_on_fan_header", build_findings(raw, "C"))
        own = layout_raw(raw, "C")
        own["loops"] = [{"cooler": raw["parts"]["coolers"][1]["id"], "pump_pct": 70, "radiators": [own.pop("radiator")]}]
        self.assertIn("pump_slowed", build_findings(raw, "C"))

    def test_leads_by_hand(self) -> None:
        raw = wired(plug("f3"), lead_mm=100)
        mount = next(m for m in raw["case"]["mounts"] if m["id"] == "f3")["centre_mm"]
        way = ROUTING_FACTOR * (abs(mount["x"] - 200) + abs(mount["z"] - 120) + mount["y"])
        said = build_findings(raw)["lead_too_short"]
        self.assertIn(f"{way:.0f} mm", said.because)
        self.assertIn("extension", said.do)
        raw = wired(plug("f3", extension_mm=500), lead_mm=100)
        self.assertNotIn("lead_too_short", build_findings(raw))

    def test_fans_without_a_header_are_one_finding(self) -> None:
        said = build_findings(wired(plug("f1")))["not_plugged"]
        self.assertGreater(len(said.mounts), 1)
        self.assertNotIn("not_plugged", build_findings(demo_raw()))  # no board, nothing to say


class AuditTest(SimpleTestCase):
    def seen(self, changes: dict[str, Raw] | None = None) -> Raw:
        raw = demo_raw()
        own, changes = layout_raw(raw, "A"), changes or {}
        own["as_found"] = [
            {"mount": f["mount"], "direction": f["direction"], **changes.get(f["mount"], {})}
            for f in own["fans"]
            if changes.get(f["mount"]) != {"skip": True}
        ]
        return raw

    def test_one_reversed_and_one_unplugged_are_two_findings_with_their_mounts(self) -> None:
        first, second = (f["mount"] for f in layout_raw(demo_raw(), "A")["fans"][:2])
        way = layout_raw(demo_raw(), "A")["fans"][0]["direction"]
        other = "exhaust" if way == "intake" else "intake"
        found = audit_findings(Resolver(check_job(self.seen({first: {"direction": other}, second: {"plugged": False}})).doc), "A")
        self.assertEqual([(f.code, f.mounts) for f in found], [("found_reversed", (first,)), ("found_unplugged", (second,))])

    def test_every_other_deviation(self) -> None:
        first = layout_raw(demo_raw(), "A")["fans"][0]["mount"]
        for change, code in (
            ({"direction": None}, "found_missing"),
            ({"turning": False}, "found_not_turning"),
            ({"filter": "dusty"}, "found_filter_dusty"),
            ({"filter": "missing"}, "found_filter_missing"),
            ({"skip": True}, "found_not_looked_at"),
        ):
            with self.subTest(code=code):
                self.assertEqual([f.code for f in audit_findings(Resolver(check_job(self.seen({first: change})).doc), "A")], [code])

    def test_a_fan_too_many_and_nothing_wrong(self) -> None:
        raw = self.seen()
        self.assertEqual(audit_findings(Resolver(check_job(raw).doc), "A"), [])
        free = next(m["id"] for m in raw["case"]["mounts"] if m["id"] not in {f["mount"] for f in layout_raw(raw, "A")["fans"]})
        layout_raw(raw, "A")["as_found"].append({"mount": free, "direction": "exhaust"})
        self.assertEqual([f.code for f in audit_findings(Resolver(check_job(raw).doc), "A")], ["found_unplanned"])


class FitInFullTest(SimpleTestCase):
    """Worked examples by hand of the lines that need more than a depth."""

    def test_tall_memory_and_a_fan_that_is_raised_over_it(self) -> None:
        raw = demo_raw()
        raw["parts"]["memory"] = [{"id": "tall", "height_mm": 46}]
        raw["base"]["memory"] = "tall"
        raw["parts"]["coolers"][0]["memory_clear_mm"] = 40
        lines = {x.code: x for x in ledger_of(check_job(raw).doc, "A").lines}
        self.assertEqual((lines["memory_height"].spare_mm, lines["memory_height"].verdict), (-6, "does_not_fit"))
        before = lines["cooler_height"].required_mm
        layout_raw(raw, "A")["cooler_fan_lift_mm"] = 9
        lines = {x.code: x for x in ledger_of(check_job(raw).doc, "A").lines}
        self.assertEqual((lines["memory_height"].spare_mm, lines["cooler_height"].required_mm), (3, before + 9))
        self.assertEqual(lines["cooler_height"].verdict, "does_not_fit")  # 157 + 9 in 165: lifting checks it again

    def test_short_tubes_name_the_ends_that_reach(self) -> None:
        raw = demo_raw()
        raw["parts"]["coolers"][1]["tube_mm"] = 375
        layout_raw(raw, "D")["radiator"]["tubes"] = "bottom"
        line = next(x for x in ledger_of(check_job(raw).doc, "D").lines if x.code == "tube_reach")
        self.assertEqual(line.verdict, "does_not_fit")
        self.assertIn("reaches with the tubes at the top", line.parts)

    def test_a_side_that_a_radiator_does_not_have_is_neither_named_nor_taken_in_silence(self) -> None:
        raw = demo_raw()
        raw["parts"]["coolers"][1]["tube_mm"] = 150
        place = layout_raw(raw, "C")["radiator"]
        place["tubes"] = "rear"
        line = next(x for x in ledger_of(check_job(raw).doc, "C").lines if x.code == "tube_reach")
        self.assertNotIn("top", line.parts)
        self.assertNotIn("bottom", line.parts)
        self.assertNotIn("tube_side", build_findings(raw, "C"))
        place["tubes"] = "top"
        said = build_findings(raw, "C")["tube_side"]
        self.assertEqual((said.severity, said.mounts), ("note", tuple(place["mounts"])))
        self.assertIn("rear or front; the rear is reckoned with", said.because)
        same = next(x for x in ledger_of(check_job(raw).doc, "C").lines if x.code == "tube_reach")
        self.assertEqual(same.required_mm, line.required_mm)
        front = layout_raw(raw, "D")["radiator"]
        front.pop("tubes", None)
        self.assertNotIn("tube_side", build_findings(raw, "D"), "nothing was said")
        front["tubes"] = "rear"
        self.assertIn("bottom or top; the bottom is reckoned with", build_findings(raw, "D")["tube_side"].because)

    def test_tubes_that_pass_before_a_fan_are_told(self) -> None:
        raw = demo_raw()
        own = layout_raw(raw, "D")
        own["radiator"]["tubes"] = "top"
        raw["case"]["cpu_centre_mm"] = {"x": 300, "z": 438}  # the way from the upper end goes along under the top
        own["fans"] = [f for f in own["fans"] if not f["mount"].startswith("t")]
        self.assertNotIn("tube_crosses_fan", build_findings(raw, "D"))
        own["fans"].append(fan_raw("t2", "exhaust"))
        for fan in raw["parts"]["fans"]:
            fan["thickness_mm"] = 38
        said = build_findings(raw, "D")["tube_crosses_fan"]
        self.assertEqual((said.severity, said.mounts), ("warning", ("f1", "f2", "t2")))
        own["radiator"]["tubes"] = "bottom"
        self.assertNotIn("tube_crosses_fan", build_findings(raw, "D"))

    def test_two_revisions_and_the_one_with_the_taller_end_tank(self) -> None:
        raw = demo_raw()
        part = raw["parts"]["radiators"][0]
        raw["parts"]["radiators"].append({**part, "id": "second", "revision": "2", "tank_height_mm": 33})
        for place, verdict in ((part["id"], None), ("second", "does_not_fit")):
            layout_raw(raw, "C")["radiator"]["radiator"] = place
            lines = {x.code: x for x in ledger_of(check_job(raw).doc, "C").lines}
            with self.subTest(radiator=place):  # 33 + 25 in 55 mm
                self.assertEqual(lines["end_tank"].verdict if "end_tank" in lines else None, verdict)

    def test_card_beside_the_panel_and_over_its_slots(self) -> None:
        raw = demo_raw()
        raw["case"]["limits_mm"]["card_width"] = 150
        raw["parts"]["cards"][0].update(width_mm=125, plug_mm=35, slots=3)
        raw["case"]["limits_mm"]["card_slots"] = 2
        lines = {x.code: x for x in ledger_of(check_job(raw).doc, "A").lines}
        self.assertEqual(lines["card_width"].spare_mm, -10)
        self.assertAlmostEqual(lines["card_slots"].spare_mm, -20.32)

    def test_a_supply_that_is_too_long(self) -> None:
        raw = demo_raw()
        raw["parts"]["supplies"] = [{"id": "long", "power_w": 850, "length_mm": 180}]
        raw["base"]["supply"] = "long"
        raw["case"]["limits_mm"]["supply_length"] = 160
        self.assertIn("does_not_fit", build_findings(raw))

    def test_a_guess_is_looser_than_a_measurement(self) -> None:
        worst = {}
        for source in ("measured", "data_sheet", "guessed"):
            raw = demo_raw()
            raw["case"]["dimensions"] = {"limits_mm.cooler_height": {"source": source, "sheet_mm": 165, "measured_mm": 164}}
            worst[source] = next(x for x in ledger_of(check_job(raw).doc, "A").lines if x.code == "cooler_height").worst_mm
        self.assertGreater(worst["measured"], worst["data_sheet"])
        self.assertGreater(worst["data_sheet"], worst["guessed"])

    def test_families_that_exclude_each_other_say_why(self) -> None:
        def rule(raw: Raw) -> None:
            raw["case"]["exclusions"] = [
                {
                    "id": "x",
                    "when": {"card_longer_than_mm": 200},
                    "rules_out": {"radiators_on": ["t1"]},
                    "why": "the card's end stands where the tank would be",
                }
            ]

        said = build_findings(changed(rule), "C")["family_excluded"]
        self.assertEqual((said.severity, said.mounts), ("error", ("t1",)))
        self.assertIn("card's end", said.because)
        self.assertNotIn("family_excluded", build_findings(changed(rule), "A"))  # no radiator there

    def test_slots_and_drives_that_a_fan_costs(self) -> None:
        raw = demo_raw()
        raw["case"].update(slots=4, slots_in_use=[1], drives=[{"id": "d1", "in_use": False}])
        mount = layout_raw(raw, "A")["fans"][0]["mount"]
        next(m for m in raw["case"]["mounts"] if m["id"] == mount).update(takes_slots=1, takes_drives=["d1"])
        losses = ledger_of(check_job(raw).doc, "A").losses
        self.assertEqual([(x.what, x.occupied) for x in losses], [("expansion slot 1 from below", True), ("the drive place d1", False)])
        self.assertEqual(build_findings(raw)["place_lost"].mounts, (mount,))

    def test_what_does_not_fit_is_not_fit_to_build_unless_accepted_with_a_reason(self) -> None:
        raw = demo_raw()
        raw["case"]["limits_mm"]["cooler_height"] = 150
        self.assertFalse(ledger_of(check_job(raw).doc, "A").fit_to_build)
        layout_raw(raw, "A")["accepted"] = [{"code": "does_not_fit", "reason": "measured on the machine: it touches and closes"}]
        self.assertTrue(ledger_of(check_job(raw).doc, "A").fit_to_build)
        self.assertTrue(ledger_of(check_job(demo_raw()).doc, "A").fit_to_build)


class PlugsTest(SimpleTestCase):
    """A header takes one lead, a splitter or hub as many as it has outputs."""

    SPLITTER: ClassVar[Raw] = {"id": "y", "name": "Y lead", "kind": "splitter", "outputs": 2}

    def said(self, *plugs: Raw) -> Finding | None:
        raw = wired(*plugs)
        raw["parts"]["controllers"] = [self.SPLITTER]
        return build_findings(raw).get("too_few_plugs")

    def test_two_leads_on_one_header(self) -> None:
        found = self.said(plug("f1"), plug("f2"))
        assert found
        self.assertEqual((found.what, found.mounts, found.severity), ("cha1 has 1 plug for 2 leads", ("f1", "f2"), "error"))
        self.assertIsNone(self.said(plug("f1"), plug("f2", "cha2")))

    def test_a_splitter_has_its_outputs_and_takes_one_plug_itself(self) -> None:
        on = [plug(m, via="y") for m in ("f1", "f2", "f3")]
        self.assertIsNone(self.said(*on[:2]))
        found = self.said(*on)
        assert found
        self.assertEqual(found.what, "Y lead on cha1 has 2 plugs for 3 leads")
        beside = self.said(*on[:2], plug("r1"))
        assert beside
        self.assertIn("cha1 has 1 plug for 2 leads", beside.what)


class StockTest(SimpleTestCase):
    def test_the_fans_that_come_with_the_cooler_are_not_from_the_pile(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["fans"] = []
        doc = check_job(raw).doc
        self.assertEqual(sum(fans_used(Resolver(doc), doc.layouts[0]).values()), 0)
        layout_raw(raw, "A")["cooler_fans"] = 2
        doc = check_job(raw).doc
        self.assertEqual(sum(fans_used(Resolver(doc), doc.layouts[0]).values()), 1, "the second one is")

    def test_what_is_short_and_what_is_left(self) -> None:
        raw = demo_raw()
        used = fans_used(Resolver(check_job(raw).doc), check_job(raw).doc.layouts[0])["tern-120"]
        raw["stock"] = {"fans": {"tern-120": used - 1}}
        self.assertIn("1 of ", build_findings(raw)["stock_short"].what)
        raw["stock"]["fans"]["tern-120"] = used + 5
        self.assertNotIn("stock_short", build_findings(raw))
        row = next(r for r in self.of(raw).stock if r.fan == "tern-120")
        self.assertEqual(row.spare, (row.on_hand or 0) - row.used)

    def test_cost_is_the_sum_of_what_has_a_price(self) -> None:
        raw = demo_raw()
        for fan in raw["parts"]["fans"]:
            fan["price"] = 10.0
        found = self.of(raw)
        self.assertEqual(found.total, sum(10.0 * r.count for r in found.cost if r.each is not None))
        self.assertIn(None, {r.each for r in found.cost} | {None})

    def of(self, raw: Raw, layout: str = "A") -> SheetDoc:
        return sheet(Oracle(check_job(raw).doc, Question()), layout)

    def test_growth_says_enough_or_not(self) -> None:
        raw = demo_raw()
        raw["scenarios"] = [{"id": "small", "card_add_w": 5}, {"id": "large", "name": "second card", "card_add_w": 900}]
        small, large = self.of(raw).growth
        self.assertEqual(small.room_c, raw["room"]["worst_temperature_c"])
        self.assertFalse(large.enough)
        self.assertIn("given up", large.words)
        self.assertGreater(large.card_c or 0, small.card_c or 0)

    def test_spare_mounts_come_with_what_a_fan_there_would_do(self) -> None:
        raw = demo_raw()
        found = self.of(raw)
        standing = {f["mount"] for f in layout_raw(raw, "A")["fans"]}
        self.assertEqual({s.mount for s in found.spare}, {m["id"] for m in raw["case"]["mounts"]} - standing)
        self.assertTrue(all(s.cpu_k is not None for s in found.spare if s.fan))

    def test_a_loop_has_heights_and_an_age(self) -> None:
        loop = self.of(demo_raw(), "C").loops[0]
        self.assertEqual(loop.cools, ("processor",))
        self.assertEqual(len(loop.air_ml_by_year), 11)
        self.assertAlmostEqual(loop.air_ml_by_year[3], loop.age.first_ml + 3 * loop.age.rate_ml_year)


class AdviceTest(SimpleTestCase):
    """Classes are common practice, no source; what is checked is how they are chosen."""

    def test_more_heat_asks_for_a_larger_class_and_the_case_caps_it(self) -> None:
        small, large = (cooler_advice(w, False, True, 170, 0) for w in (90, 250))
        names = [c[0] for c in CLASSES]
        self.assertLess(names.index(small.wanted), names.index(large.wanted))
        self.assertEqual(small.warning, "")
        self.assertIn("Lower the power limit", large.warning)
        self.assertEqual(cooler_advice(250, False, True, 170, 360).warning, "")

    def test_the_sheet_s_advice_follows_the_part_and_the_duty(self) -> None:
        heat = []
        for overclocked, long_duty in ((False, True), (True, True), (False, False)):
            raw = demo_raw()
            raw["parts"]["cpus"][0]["overclocked"] = overclocked
            raw["practice"] = {"long_duty": long_duty}
            heat.append(sheet(Oracle(check_job(raw).doc, Question(load="idle")), "A").advice.heat_w)
        power = demo_raw()["parts"]["cpus"][0]["power_w"]
        self.assertEqual(heat, [power, power * OVERCLOCK, power / SHORT_DUTY])

    def test_overclock_and_duty(self) -> None:
        self.assertAlmostEqual(cooler_advice(100, True, True, None, 0).heat_w, 100 * OVERCLOCK)
        self.assertAlmostEqual(cooler_advice(100, False, False, None, 0).heat_w, 100 / SHORT_DUTY)


class OwnersLimitsTest(SimpleTestCase):
    def test_no_fan_turns_faster_than_its_owner_accepts(self) -> None:
        raw = demo_raw()
        fan = raw["parts"]["fans"][0]
        fan["limit_rpm"] = fan["speed_max_rpm"] * 0.6
        machine = Resolver(check_job(raw).doc).machine("A")
        self.assertTrue(all(f.speed_pct <= 60 + 1e-9 for f in machine.fans if f.fan.id == fan["id"]))

    def test_a_limit_in_decibel_is_fifty_per_decade_of_speed(self) -> None:
        raw = demo_raw()
        raw["parts"]["fans"][0]["limit_dba"] = raw["parts"]["fans"][0]["noise_dba"] - 15.05  # half speed
        self.assertAlmostEqual(most_pct(check_job(raw).doc.parts.fans[0]), 50, delta=0.1)


class GroupsTest(SimpleTestCase):
    def test_a_group_s_speed_and_curve_are_its_fans(self) -> None:
        raw = demo_raw()
        own = layout_raw(raw, "A")
        raw["curves"] = [{"id": "calm", "source": "cpu", "points": [[40, 30], [80, 90]]}]
        own["groups"] = [{"id": "front", "speed_pct": 55}, {"id": "back", "curve": "calm"}]
        own["fans"][0]["group"], own["fans"][1]["group"] = "front", "back"
        machine = Resolver(check_job(raw).doc).machine("A")
        self.assertEqual(machine.fans[0].speed_pct, 55)
        self.assertEqual(machine.fans[1].curve and machine.fans[1].curve.id, "calm")
        own["fans"][0]["group"] = "nowhere"
        with self.assertRaises(DocumentError):
            check_job(raw)


class DocumentTest(SimpleTestCase):
    def test_documents_from_before_read_and_write_as_they_were(self) -> None:
        for path in [*ROOT.glob("tests/reference/trade/*.oventa.json"), ROOT / "demo" / "watch-room-plotter.oventa.json"]:
            text = path.read_text(encoding="utf-8")
            read = read_job(text)
            with self.subTest(path=path.name):
                self.assertEqual(read.unknown_fields, ())
                self.assertEqual(read_job(write_job(read.doc)).doc, read.doc)

    def test_everything_new_survives_a_round_trip(self) -> None:
        raw = wired(plug("f1", extension_mm=100))
        raw["priorities"] = {"noise": 5}
        raw["points"] = [{"id": "p1", "name": "card intake", "at_mm": {"x": 300, "y": 100, "z": 200}, "sensor": 4, "critical": True}]
        raw["ideas"] = [{"id": "i1", "text": "someone suggested turning the top fan", "layout": "B"}]
        raw["stock"] = {"fans": {"tern-120": 6}}
        raw["case"]["kind"] = "open_bench"
        raw["case"]["backplate"] = "board_out"
        layout_raw(raw, "A").update(looks="cables seen", labour_min=25, picture="data:image/png;base64,AA==")
        doc = check_job(raw).doc
        again = read_job(write_job(doc)).doc
        self.assertEqual(again, doc)
        self.assertEqual(again.points[0].sensor, 4)

    def test_references_that_lead_nowhere_are_named(self) -> None:
        for path, change in (
            ("base.board", lambda raw: raw["base"].update(board="nowhere")),
            ("ideas[0].layout", lambda raw: raw.update(ideas=[{"id": "i", "text": "x", "layout": "Z"}])),
            ("stock.fans", lambda raw: raw.update(stock={"fans": {"nobody": 1}})),
            ("wiring[0].of", lambda raw: layout_raw(raw, "A").update(wiring=[plug("zz")])),
            ("takes_drives", lambda raw: raw["case"]["mounts"][0].update(takes_drives=["d9"])),
        ):
            with self.subTest(path=path), self.assertRaises(DocumentError) as caught:
                check_job(changed(change))
            self.assertIn(path, str(caught.exception))

    def test_an_open_bench_is_the_zero_line(self) -> None:
        raw = demo_raw()
        raw["case"]["kind"] = "open_bench"
        bench, case = (Oracle(check_job(r).doc, Question()).forecast("A") for r in (raw, demo_raw()))
        self.assertTrue(bench.converged)
        self.assertLess(bench.cpu.rise_k, case.cpu.rise_k)
        assert bench.card and case.card
        self.assertLess(bench.card.rise_k, case.card.rise_k)


class SupplyShadesTest(SimpleTestCase):
    """A supply under a mount on the shroud: how much of the fan it closes, by hand, and what the forecast makes of it."""

    def raw(self, top_mm: float = 86) -> Raw:
        raw = demo_raw()
        raw["case"]["shroud"] = {"height_mm": 95, "top_open_cm2": 40, "front_cut_cm2": 30, "vent_cm2": 60}
        raw["case"]["supply"] = {"centre_mm": {"x": 340, "y": 108, "z": top_mm / 2}, "size_mm": {"x": 160, "y": 150, "z": top_mm}}
        raw["case"]["mounts"] += [
            {"id": i, "face": "bottom", "on_shroud": True, "centre_mm": {"x": x, "y": 108, "z": 95}, "sizes_mm": [120]}
            for i, x in (("b1", 320), ("b2", 120))
        ]
        layout_raw(raw, "A")["fans"] += [fan_raw(m, "intake") for m in ("b1", "b2")]
        return raw

    def test_a_slit_of_nine_millimetres_leaves_three_tenths(self) -> None:
        # 95 - 86 = 9 mm over a quarter of 120 mm is 0.3; the mount lies wholly over the supply.
        mounts = Resolver(check_job(self.raw()).doc).machine("A").mounts
        self.assertAlmostEqual(mounts["b1"].blocked_pct, 70)
        self.assertAlmostEqual(mounts["b2"].blocked_pct, 0)
        half = Resolver(check_job(self.raw(top_mm=80)).doc).machine("A").mounts["b1"]
        self.assertAlmostEqual(half.blocked_pct, 50)

    def test_the_fan_over_it_is_choked_and_the_other_is_not(self) -> None:
        flows = {f.mount: f.flow_m3h for f in Oracle(check_job(self.raw()).doc, Question()).forecast("A").fans}
        self.assertLess(flows["b1"], 0.75 * flows["b2"])
        found = Oracle(check_job(self.raw()).doc, Question(layouts=["A"])).findings_doc().layouts[0].findings
        choked = [m for f in found if f.code == "fan_choked" for m in f.mounts]
        self.assertIn("b1", choked)
        self.assertNotIn("b2", choked)


class OneCoolerTest(SimpleTestCase):
    """Where a loop takes the processor's heat, the tower chosen in the base is not there: for no book of the build."""

    def raw(self) -> Raw:
        raw = demo_raw()  # its base cooler is a tower with a fan
        loop = {"cooler": "shearwater", "radiators": [layout_raw(raw, "C")["radiator"]]}
        own = layout_raw(raw, "C")
        own.pop("cooler", None)
        own.update(radiator=None, loops=[loop])
        raw["parts"]["boards"], raw["base"]["board"] = [copy.deepcopy(BOARD)], "slip-board"
        raw["case"]["limits_mm"]["cooler_height"] = 100  # the tower would not fit
        return raw

    def test_its_height_its_fan_its_lead_and_its_price_are_left_out(self) -> None:
        doc = check_job(self.raw()).doc
        layout = next(x for x in doc.layouts if x.id == "C")
        self.assertEqual({x.code for x in ledger_of(doc, "C").lines} & {"cooler_height", "rear_fan_to_cooler"}, set())
        self.assertEqual(fans_used(Resolver(doc), layout)["tern-120"], sum(1 for f in layout.fans if f.fan == "tern-120"))
        found = sheet(Oracle(doc, Question()), "C")
        self.assertFalse([c for c in found.cost if "Cormorant" in c.name])
        self.assertEqual([loop.cooler for loop in found.loops], ["shearwater"])
        plugs = [p.name for m in wiring_of(Resolver(doc), layout).mismatches for p in (m.plug,)]
        self.assertNotIn("the cooler's fan", plugs)

    def test_a_loop_without_a_part_to_cool_takes_room_and_nothing_else(self) -> None:
        raw = self.raw()
        own = layout_raw(raw, "C")
        own.update(card=None, loops=[{"cooler": "shearwater", "heat": ["card"], "radiators": own["loops"][0]["radiators"]}])
        doc = check_job(raw).doc
        found = sheet(Oracle(doc, Question()), "C")
        self.assertEqual(found.loops, ())
        self.assertIn("radiator_length", {x.code for x in ledger_of(doc, "C").lines})
        self.assertEqual(wiring_findings(Resolver(doc), "C")[0].code, "not_plugged")

    def test_in_a_layout_with_the_tower_they_are_there(self) -> None:
        doc = check_job(self.raw()).doc
        self.assertIn("does_not_fit", [x.verdict for x in ledger_of(doc, "A").lines if x.code == "cooler_height"])
        self.assertTrue([c for c in sheet(Oracle(doc, Question()), "A").cost if "Cormorant" in c.name])


class AssemblyTest(SimpleTestCase):
    def order(self, raw: Raw, layout: str = "A") -> tuple[str, ...]:
        return ledger_of(check_job(raw).doc, layout).assembly.order

    def test_the_usual_order_and_the_board_that_must_come_out(self) -> None:
        found = self.order(demo_raw())
        self.assertLess(found.index("board"), found.index("cooler"))
        self.assertEqual(found[-1], "card")
        raw = demo_raw()
        raw["case"]["backplate"] = "board_out"
        found = self.order(raw)
        self.assertLess(found.index("cooler"), found.index("board"))

    def test_what_is_tight_goes_in_first(self) -> None:
        raw = demo_raw()
        raw["case"]["cpu_centre_mm"] = {"x": 320, "z": 340}  # 30 mm for 25 mm behind the cooler
        found = self.order(raw)
        self.assertLess(found.index("fan at R1"), found.index("cooler"))
        raw["parts"]["memory"], raw["base"]["memory"] = [{"id": "m", "height_mm": 40}], "m"
        raw["parts"]["coolers"][0]["memory_clear_mm"] = 42
        self.assertLess(self.order(raw).index("memory"), self.order(raw).index("cooler"))

    def test_fans_of_a_radiator_go_in_with_it_and_before_the_card(self) -> None:
        found = self.order(demo_raw(), "C")
        self.assertNotIn("fan at T1", found)
        self.assertLess(found.index("radiator at T1, T2"), found.index("card"))

    def test_demands_that_bite_each_other_are_named(self) -> None:
        raw = demo_raw()
        raw["case"]["assembly"] = [{"id": "a1", "first": "card", "second": "board", "why": "the bracket is welded"}]
        ring = ledger_of(check_job(raw).doc, "A").assembly.ring
        self.assertIn(("card", "board"), {(d.first, d.second) for d in ring})
        self.assertEqual({d.first for d in ring}, {d.second for d in ring})  # it closes
        said = build_findings(raw)["no_assembly_order"]
        self.assertIn("welded", said.because)
        self.assertFalse(ledger_of(check_job(raw).doc, "A").fit_to_build)

    def test_every_shipped_job_has_an_order(self) -> None:
        for path in (ROOT / "demo").glob("*.oventa.json"):
            doc = read_job(path.read_bytes()).doc
            for layout in doc.layouts:
                found = ledger_of(doc, layout.id).assembly
                with self.subTest(job=path.name, layout=layout.id):
                    self.assertEqual(found.ring, ())
                    place = {name: i for i, name in enumerate(found.order)}
                    self.assertTrue(all(place[d.first] < place[d.second] for d in found.demands))
