"""Builds over HTTP: ticks in their order, opened again with what waited, files of the sheet; units of a batch."""

import json
import zlib
from dataclasses import replace
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from documents.runlog.writer import write_log
from engine.coupled.operating_point import loaded
from instruments.standin import simulate
from server.apps.bench.models import Run
from server.apps.build.models import Tick, UnitRun
from tests.machines import layout_raw, machine
from tests.server.test_propose import ProposeCase


class BuildApiTest(ProposeCase):
    def sheet(self, layout: str = "D", start: str | None = None) -> Any:
        return self.post(f"/api/jobs/{self.job.pk}/build", {"document": self.document, "layout": layout, "start": start})

    def tick(self, step: str, state: str = "done", note: str = "", status: int = 200, **more: Any) -> Any:
        body = {"layout": "D", "step": step, "state": state, "note": note} | more
        return self.post(f"/api/jobs/{self.job.pk}/build/ticks", body, status)

    def test_a_step_waits_for_those_before_it(self) -> None:
        refused = self.tick("kit", status=422)
        self.assertIn("its turn has not come", refused["faults"][0]["what"])
        self.tick("mains_off")
        ticks = self.tick("kit")
        self.assertEqual([(t["step"], t["state"], t["stands"]) for t in ticks], [("mains_off", "done", True), ("kit", "done", True)])
        self.assertEqual([t["step"] for t in self.sheet()["ticks"]], ["mains_off", "kit"])
        begun = self.client.get(f"/api/jobs/{self.job.pk}/builds").json()
        self.assertEqual(begun, [{"layout": "D", "start": None, "unit": "", "over": 2}])
        self.tick("no such step", status=422)

    def test_what_may_not_be_left_out_needs_a_reason(self) -> None:
        self.assertIn("without a reason", self.tick("mains_off", "skipped", status=422)["faults"][0]["what"])
        told = self.tick("mains_off", "skipped", "no supply in it yet")
        self.assertEqual((told[0]["state"], told[0]["note"]), ("skipped", "no supply in it yet"))
        self.assertIn("how it was done", self.tick("kit", "otherwise", " ", status=422)["faults"][0]["what"])
        self.assertEqual(self.tick("kit", "skipped")[1]["state"], "skipped")

    def test_opening_a_step_opens_what_waited_for_it(self) -> None:
        for step in ("mains_off", "kit", "panels_off", "manuals"):
            self.tick(step)
        self.assertEqual([t["step"] for t in self.tick("kit", "open")], ["mains_off", "panels_off"])

    def test_a_tick_for_something_else_does_not_stand(self) -> None:
        for step in ("mains_off", "kit", "panels_off", "manuals", "fan_r1_outer"):
            self.tick(step)
        fan = next(f for f in layout_raw(self.document, "D")["fans"] if f["mount"] == "r1")
        fan["direction"] = "intake" if fan["direction"] == "exhaust" else "exhaust"
        ticks = {t["step"]: t for t in self.sheet()["ticks"]}
        self.assertFalse(ticks["fan_r1_outer"]["stands"])
        self.assertIn("blowing out", ticks["fan_r1_outer"]["words"])
        self.assertTrue(ticks["manuals"]["stands"])

    def test_ticks_change_no_document_and_go_with_their_layout_and_start(self) -> None:
        revision = self.client.get(f"/api/jobs/{self.job.pk}").json()["revision"]
        self.tick("mains_off")
        self.tick("mains_off", start="B")
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}").json()["revision"], revision)
        self.assertEqual(Tick.objects.count(), 2)
        self.assertEqual(self.sheet("A")["ticks"], [])

    def test_each_unit_of_a_batch_has_its_own_ticks(self) -> None:
        self.tick("mains_off", unit="SN-1")
        self.assertEqual([t["step"] for t in self.tick("kit", unit="SN-1")], ["mains_off", "kit"])
        self.assertEqual(self.sheet()["ticks"], [])
        self.tick("kit", unit="SN-2", status=422)
        body = {"document": self.document, "layout": "D", "unit": "SN-1"}
        self.assertEqual(len(self.post(f"/api/jobs/{self.job.pk}/build", body)["ticks"]), 2)

    def test_what_is_forecast_beside_it_is_as_learned_where_that_is_asked(self) -> None:
        body = {"document": self.document, "layout": "D"}
        plain, taught = (self.post(f"/api/jobs/{self.job.pk}/build", body | x)["build"] for x in ({}, {"learned_job": self.job.pk}))
        self.assertEqual(plain["forecast"]["learned"], 0)
        self.assertGreater(taught["forecast"]["learned"], 0)
        self.assertLess(taught["forecast"]["cpu_band_k"], plain["forecast"]["cpu_band_k"])

    def test_drawings_are_pictures_and_files_come(self) -> None:
        told = self.sheet()
        self.assertEqual(len(told["pictures"]), len(told["build"]["fans"]))
        for picture in told["pictures"]:
            self.assertTrue(picture["outside"].startswith("<svg") and picture["inside"].endswith("</svg>"))
            self.assertNotEqual(picture["outside"], picture["inside"])
        for name, kind in (
            ("sheet.pdf", "application/pdf"),
            ("leads.svg", "image/svg+xml"),
            ("leads.csv", "text/csv"),
            ("curves.csv", "text/csv"),
        ):
            answer = self.client.get(f"/api/jobs/{self.job.pk}/build/{name}", {"layout": "D", "paper": "Letter"})
            self.assertEqual(answer.status_code, 200, name)
            self.assertTrue(answer["Content-Type"].startswith(kind))
        answer = self.client.get(f"/api/jobs/{self.job.pk}/build/curves.json", {"layout": "D"})
        self.assertEqual(json.loads(answer.content), {"curves": []})
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.pk}/build/sheet.pdf", {"layout": "no"}).status_code, 422)


class UnitsApiTest(ProposeCase):
    """The demo's reference runs log few channels: a stopped fan shows by its own speed, bad paste by the processor alone."""

    def hand_in(self, text: str, serial: str, status: int = 201, **more: Any) -> Any:
        file = SimpleUploadedFile("unit.csv", text.encode())
        answer = self.client.post(f"/api/jobs/{self.job.pk}/units", {"file": file, "layout": "A", "serial": serial} | more)
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def log(self, seed: int, paste: float = 1.0) -> str:
        m = loaded(machine(layout_id="A"), "both")
        m = replace(m, cpu=replace(m.cpu, r_jc_k_per_w=m.cpu.r_jc_k_per_w * paste))
        return write_log(simulate(m, 12, seed, 6.0))

    def test_units_are_kept_told_and_certified(self) -> None:
        good = self.hand_in(self.log(5), "SN-1", signed_by="R. Tolley")
        bad = self.hand_in(self.log(6, 2.0), "SN-2")
        self.assertEqual(bad["result"]["verdict"], "fail")
        self.assertIn(good["result"]["verdict"], ("pass", "look"))
        told = self.client.get(f"/api/jobs/{self.job.pk}/units", {"layout": "A"}).json()
        self.assertEqual([u["serial"] for u in told["units"]], ["SN-1", "SN-2"])
        self.assertEqual(told["batch"]["failed"], 1)
        again = self.hand_in(self.log(7), "SN-2")
        self.assertNotEqual(again["result"]["verdict"], "fail")
        told = self.client.get(f"/api/jobs/{self.job.pk}/units", {"layout": "A"}).json()
        self.assertEqual(told["batch"]["failed"], 0)
        self.assertEqual(UnitRun.objects.count(), 3)  # the one that failed is kept
        self.assertEqual(zlib.decompress(UnitRun.objects.first().log).decode(), self.log(5))  # type: ignore[union-attr]  # there is one
        paper = self.client.get(f"/api/units/{good['id']}/certificate.pdf")
        self.assertTrue(paper.content.startswith(b"%PDF"))

    def test_what_cannot_be_held_against_anything_is_said(self) -> None:
        self.assertIn("no serial number", self.hand_in(self.log(5), " ", 422)["faults"][0]["what"])
        self.hand_in("not,a\nlog", "SN-3", 422)
        self.hand_in(self.log(5), "SN-3", 422, room_c="400")
        Run.objects.filter(layout_key="A").update(state="void")
        refused = self.hand_in(self.log(5), "SN-3", 422)
        self.assertIn("no valid run of layout A", refused["faults"][0]["what"])
        self.assertEqual(UnitRun.objects.count(), 0)

    def test_units_stand_for_what_the_reference_did_not_log_while_their_layout_is_this_one(self) -> None:
        for n in range(4):
            made = self.post(f"/api/jobs/{self.job.pk}/units/made-up", {"layout": "A", "cause": "none"}, 201)
            told = [x for x in made["result"]["notes"] if x.startswith("held against")]
            self.assertEqual(len(told), n == 3, made["result"]["notes"])
        self.assertIn("held against 3 units of this batch", told[0])
        for run in UnitRun.objects.all():
            run.document["layouts"][0]["fans"][0]["speed_pct"] = 33
            run.save()
        made = self.post(f"/api/jobs/{self.job.pk}/units/made-up", {"layout": "A", "cause": "none"}, 201)
        self.assertFalse([x for x in made["result"]["notes"] if x.startswith("held against")])

    def test_a_unit_can_be_made_up_for_trying(self) -> None:
        made = self.post(f"/api/jobs/{self.job.pk}/units/made-up", {"layout": "A", "cause": "paste"}, 201)
        self.assertEqual((made["serial"], made["result"]["verdict"]), ("try 1", "fail"))
        self.assertIn("made up", made["name"])
        self.post(f"/api/jobs/{self.job.pk}/units/made-up", {"layout": "A", "cause": "pump_slow"}, 422)
