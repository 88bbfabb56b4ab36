"""Care over HTTP: settings, what was done and struck out, a later run, the calendar."""

from datetime import timedelta
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from icalendar import Calendar

from documents.runlog.writer import write_log
from engine.coupled.operating_point import loaded
from instruments.standin import simulate
from server.apps.build.models import CareEntry
from tests.machines import machine
from tests.server.test_propose import ProposeCase


class CareApiTest(ProposeCase):
    def care(self) -> Any:
        answer = self.client.get(f"/api/jobs/{self.job.pk}/care")
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return answer.json()

    def test_what_is_due_is_noted_and_struck_out_but_never_gone(self) -> None:
        today = timezone.localdate()
        self.post(f"/api/jobs/{self.job.pk}/care/settings", {"built_on": str(today - timedelta(days=400)), "layout": "A"})
        self.assertFalse(self.care()["built_assumed"])
        before = {d["item"]: d for d in self.care()["care"]["due"]}
        self.assertEqual(before["filters"]["state"], "overdue")
        note = {"item": "filters", "done_on": str(today), "minutes": 12, "note": "much fluff"}
        after = self.post(f"/api/jobs/{self.job.pk}/care/entries", note, 201)
        self.assertEqual({d["item"]: d["state"] for d in after["care"]["due"]}["filters"], "fine")
        entry = after["entries"][0]
        self.assertEqual((entry["minutes"], entry["note"]), (12, "much fluff"))
        struck = self.post(f"/api/jobs/{self.job.pk}/care/entries/{entry['id']}/strike", {})
        self.assertEqual({d["item"]: d["state"] for d in struck["care"]["due"]}["filters"], "overdue")
        self.assertEqual(CareEntry.objects.count(), 1)

    def test_a_day_that_nobody_said_is_told_to_be_assumed(self) -> None:
        self.assertTrue(self.care()["built_assumed"])
        self.post(f"/api/jobs/{self.job.pk}/care/settings", {"dust": "little"})
        self.assertTrue(self.care()["built_assumed"])

    def test_what_cannot_be_is_refused(self) -> None:
        tomorrow = timezone.localdate() + timedelta(days=1)
        self.post(f"/api/jobs/{self.job.pk}/care/entries", {"item": "filters", "done_on": str(tomorrow)}, 422)
        self.post(f"/api/jobs/{self.job.pk}/care/entries", {"item": "wishes", "done_on": "2026-01-01"}, 422)
        self.post(f"/api/jobs/{self.job.pk}/care/settings", {"layout": "Z"}, 422)

    def test_a_dustier_room_comes_sooner_and_the_calendar_opens(self) -> None:
        usual = {d["item"]: d["months"] for d in self.care()["care"]["due"]}
        dusty = self.post(f"/api/jobs/{self.job.pk}/care/settings", {"dust": "much", "layout": "A"})
        self.assertLess({d["item"]: d["months"] for d in dusty["care"]["due"]}["filters"], usual["filters"])
        ics = self.client.get(f"/api/jobs/{self.job.pk}/care/calendar.ics")
        self.assertGreater(len(Calendar.from_ical(ics.content).walk("VEVENT")), 3)

    def test_a_later_run_is_held_against_the_first_and_noted(self) -> None:
        self.post(f"/api/jobs/{self.job.pk}/care/settings", {"layout": "A"})
        text = write_log(simulate(loaded(machine(layout_id="A"), "both"), 12, 5, 6.0))
        answer = self.client.post(f"/api/jobs/{self.job.pk}/care/recheck", {"file": SimpleUploadedFile("later.csv", text.encode())})
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        self.assertIn(answer.json()["verdict"], ("pass", "look", "fail"))
        self.assertEqual(CareEntry.objects.get().item, "recheck")
