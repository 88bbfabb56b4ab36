"""The run sheet as a calendar file, read back by the standard library's own eyes and by the package's reader."""

from datetime import UTC, datetime, timedelta

from django.test import SimpleTestCase
from icalendar import Calendar

from desk.plan.calendar import calendar_of
from desk.plan.runsheet import run_sheet
from documents.errors import DocumentError
from tests.desk.test_order import plan_of, planned

BEGINS = datetime(2026, 5, 1, 16, 0, tzinfo=UTC)


class CalendarTest(SimpleTestCase):
    def test_every_line_has_its_time_one_after_the_other(self) -> None:
        doc = planned(["A", "B", "C"])
        sheet = run_sheet(doc)
        read = Calendar.from_ical(calendar_of(doc, sheet, BEGINS))
        events = list(read.walk("VEVENT"))
        self.assertEqual(len(events), len(sheet.lines))
        at = BEGINS
        for event, line in zip(events, sheet.lines, strict=True):
            self.assertEqual(event.decoded("dtstart"), at)
            self.assertEqual(event.decoded("duration"), timedelta(minutes=line.minutes))
            self.assertIn(line.layout or "", str(event["summary"]))
            at += timedelta(minutes=line.minutes)
        self.assertEqual(at - BEGINS, timedelta(minutes=sheet.minutes))
        self.assertEqual(len({str(e["uid"]) for e in events}), len(events))

    def test_lines_are_folded_and_end_as_the_standard_says(self) -> None:
        doc = planned(["A", "B"])
        raw = calendar_of(doc, run_sheet(doc), BEGINS)
        self.assertTrue(raw.startswith(b"BEGIN:VCALENDAR\r\n") and raw.endswith(b"END:VCALENDAR\r\n"))
        self.assertTrue(all(len(line) <= 75 for line in raw.split(b"\r\n")))

    def test_what_is_done_is_left_out(self) -> None:
        doc = planned(["A", "B"])
        first = plan_of(doc).runs[0].id
        left = Calendar.from_ical(calendar_of(doc, run_sheet(doc, {first}), BEGINS))
        self.assertNotIn("Run A, as it came", [str(e["summary"]) for e in list(left.walk("VEVENT"))[:1]])

    def test_an_hour_without_its_zone_is_refused(self) -> None:
        doc = planned(["A", "B"])
        with self.assertRaises(DocumentError):
            calendar_of(doc, run_sheet(doc), BEGINS.replace(tzinfo=None))
