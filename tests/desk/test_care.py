"""Care: intervals follow layout, filters and room; dust is forecast; checks that findings confirm come first; the calendar opens."""

from dataclasses import replace
from datetime import date, datetime, timedelta

import numpy as np
from dateutil.parser import parse
from dateutil.rrule import rrulestr
from django.test import SimpleTestCase
from icalendar import Calendar

from desk.care.commission import commission, reference_of
from desk.care.keeping import MONTHS, CareDoc, calendar_of, care, residual
from desk.forecast.document import Oracle, Question
from desk.words.care import ITEMS, SYMPTOMS
from desk.words.cautions import CAUTIONS
from documents.job.reader import check_job
from engine.coupled.operating_point import loaded, operating_point
from engine.coupled.transient import CLOGGED, clogged
from engine.parameters import DEFAULT
from engine.runs.analysis import analyse
from engine.runs.series import RunLog
from tests.desk.test_commission import log
from tests.machines import demo_raw, layout_raw, machine

BUILT, TODAY = date(2026, 1, 1), date(2026, 6, 1)


def kept(layout: str = "D", dust: str = "usual", last: dict[str, date] | None = None, **changes: object) -> CareDoc:
    raw = demo_raw()
    layout_raw(raw, layout).update(changes)
    return care(Oracle(check_job(raw).doc, Question(layouts=[layout])), layout, BUILT, TODAY, last or {}, dust, [])  # type: ignore[arg-type]


class DueTest(SimpleTestCase):
    def test_what_is_due_follows_layout_and_room(self) -> None:
        usual, dusty = ({d.item: d for d in kept(dust=x).due} for x in ("usual", "much"))
        self.assertLess(dusty["filters"].months, usual["filters"].months)
        self.assertLess(dusty["fins"].months, usual["fins"].months)
        self.assertEqual(dusty["paste"].months, MONTHS["paste"])
        self.assertIn("radiator", usual)  # the front radiator draws room air through itself
        self.assertEqual(usual["radiator"].where, "between fans and fins")
        self.assertIn("sealed_age", usual)
        self.assertNotIn("sealed_age", {d.item for d in kept("A").due})
        self.assertNotIn("radiator", {d.item for d in kept("A").due})

    def test_a_filter_that_is_off_is_not_cleaned_and_fins_want_it_sooner(self) -> None:
        off = {face: {"state": "removed"} for face in ("front", "top")}
        bare, usual = ({d.item: d for d in x.due} for x in (kept("A", panels=off), kept("A")))
        self.assertNotIn("filters", bare)
        self.assertLessEqual(bare["fins"].months, usual["fins"].months)

    def test_dates_count_from_what_was_done_last(self) -> None:
        due = {d.item: d for d in kept(last={"filters": date(2026, 5, 20)}).due}
        self.assertEqual(due["filters"].on, date(2026, 5, 20) + timedelta(days=round(due["filters"].months * 30.44)))
        self.assertEqual(due["filters"].state, "fine")
        self.assertEqual({d.item: d for d in kept().due}["filters"].state, "overdue")
        self.assertEqual([d.on for d in kept().due], sorted(d.on for d in kept().due))

    def test_dust_costs_what_the_engine_says(self) -> None:
        rows = kept("A").clogged
        m = Oracle(check_job(demo_raw()).doc, Question(layouts=["A"])).machine("A")
        clean, due = operating_point(m), operating_point(m, clogged(DEFAULT, CLOGGED))
        self.assertEqual((rows[0].cpu_k, rows[0].intake_share), (0, 1))
        at_due = next(r for r in rows if abs(r.months - MONTHS["filters"]) < 1e-9)
        self.assertAlmostEqual(at_due.cpu_k, due.cpu_rise_k - clean.cpu_rise_k)
        self.assertEqual([r.intake_share for r in rows], sorted((r.intake_share for r in rows), reverse=True))
        self.assertGreater(rows[-1].cpu_k, 0)

    def test_every_item_has_its_words_and_its_caution(self) -> None:
        for layout in "ABCD":
            for d in kept(layout).due:
                self.assertEqual(d.words, ITEMS[d.item])
                self.assertIn(d.caution, CAUTIONS)
        for s in SYMPTOMS.values():
            for c in s.checks:
                self.assertTrue(c.caution is None or c.caution in CAUTIONS)

    def test_gurgling_begins_with_the_pump_s_height_where_the_findings_say_so(self) -> None:
        gurgle = next(s for s in kept("D").symptoms if s.id == "gurgle")
        self.assertEqual(len(gurgle.checks), 3)
        self.assertNotIn("gurgle", {s.id for s in kept("A").symptoms})
        starved = Oracle(check_job(demo_raw()).doc, Question(layouts=["A"]))
        codes = {f.code for f in starved.plain_findings("A")}
        for s in kept("A").symptoms:
            for check, told in zip(sorted(SYMPTOMS[s.id].checks, key=lambda c: c.finding not in codes), s.checks, strict=True):
                self.assertEqual((told.words, told.holds), (check.words, check.finding in codes))

    def test_the_calendar_is_what_the_standard_says_read_by_hand(self) -> None:
        """RFC 5545 without the library that wrote it: lines unfolded, properties parted at the colon, dates and rules by dateutil."""
        raw = calendar_of("Watch-room plotter", "D", kept().due, TODAY)
        self.assertTrue(raw.startswith(b"BEGIN:VCALENDAR\r\n") and raw.endswith(b"END:VCALENDAR\r\n"))
        self.assertTrue(all(len(line) <= 75 for line in raw.split(b"\r\n")))
        lines = raw.decode().replace("\r\n ", "").split("\r\n")
        self.assertEqual(lines.count("BEGIN:VEVENT"), lines.count("END:VEVENT"))
        dates = [parse(x.split(":", 1)[1]).date() for x in lines if x.startswith("DTSTART")]
        self.assertEqual(sorted(dates), sorted(max(d.on, TODAY) for d in kept().due))
        for rule, day in zip([x.split(":", 1)[1] for x in lines if x.startswith("RRULE")], dates, strict=True):
            again = rrulestr(rule, dtstart=datetime(day.year, day.month, day.day))
            self.assertGreater(again[1], again[0])

    def test_the_calendar_opens_in_the_package_s_reader(self) -> None:
        doc = kept()
        events = Calendar.from_ical(calendar_of("Watch-room plotter", "D", doc.due, TODAY)).walk("VEVENT")
        self.assertEqual(len(events), len(doc.due))
        self.assertEqual(len({str(e["UID"]) for e in events}), len(doc.due))
        for event, d in zip(events, doc.due, strict=True):
            self.assertEqual(event["DTSTART"].dt, max(d.on, TODAY))
            self.assertIn(d.words, str(event["SUMMARY"]))
            rule = rrulestr(event["RRULE"].to_ical().decode(), dtstart=datetime(2026, 6, 1))
            self.assertAlmostEqual((rule[1] - rule[0]).days, d.months * 30.44, delta=1)


class LaterRunTest(SimpleTestCase):
    def test_a_run_months_later_tells_dust_from_nothing(self) -> None:
        m = loaded(machine(layout_id="D"), "both")
        reference = reference_of(check_job(demo_raw()).doc, "D", {"both": {f"r{n}": log(m, n, 30.0) for n in range(3)}}, None)
        same = commission(reference, log(m, 40), same_machine=True)
        self.assertEqual(same.verdict, "pass")
        other_unit = commission(reference, log(m, 40))
        narrow, wide = (next(c.allowed_k for c in d.channels if c.name == "cpu_package_c") for d in (same, other_unit))
        self.assertLess(narrow, wide)
        dried = commission(reference, log(replace(m, cpu=replace(m.cpu, r_jc_k_per_w=1.3 * m.cpu.r_jc_k_per_w)), 41), same_machine=True)
        self.assertEqual((dried.verdict, dried.diagnosis[0].cause), ("fail", "paste"))


class ResidualTest(SimpleTestCase):
    def run_of(self, hotspot: float, memory: float) -> RunLog:
        t = np.arange(0, 1200, 5.0)
        flat = np.ones_like(t)
        return RunLog(t, {"room_c": 22 * flat, "card_core_c": 70 * flat, "card_hotspot_c": hotspot * flat, "card_memory_c": memory * flat})

    def test_what_air_does_not_help_is_hinted_at(self) -> None:
        self.assertEqual(residual([analyse(self.run_of(82, 84))]), [])
        told = residual([analyse(self.run_of(98, 100))])
        self.assertEqual(len(told), 2)
        self.assertIn("28 K over its core", told[0])
        self.assertIn("100 °C", told[1])
