"""What an earlier version stored and this one cannot read: shown, exported, removed, breaking nothing beside it; saves and the bin."""

import json
from datetime import timedelta
from typing import Any

from django.utils import timezone

from server.apps.bench.clipboard import MarkData, add_mark, add_reading, change_mark, take_back_reading
from server.apps.bench.figures import of_older_method, reckon_anew
from server.apps.bench.models import ReadingBlock, Run
from server.apps.jobs import services
from server.apps.jobs.models import Job, Save
from server.apps.verdicts.packing import unpack
from tests.demo_rows import load_demo
from tests.machines import demo_raw
from tests.server.test_api import ApiCase

BROKEN: tuple[dict[str, Any], ...] = (
    {"analysis": {"channels": 3}},
    {"analysis": {}},
    {"protocol": {"id": "x", "minutes": -4}},
    {"microphone": {"distance_m": "far"}},
    {"by_hand": [{"channel": 1}]},
    {"by_hand": {"a": 1}},
    {"alarms": [None]},
    {"columns": [3]},
    {"held": ["x"]},
    {"typed_room_c": float("inf")},
    {"window_s": float("inf")},
    {"duration_s": float("inf")},
    {"state": "lost"},
    {"load": "everything"},
    {"notes": "text"},
)


class OlderMethodTest(ApiCase):
    def setUp(self) -> None:
        load_demo()

    def test_figures_of_an_older_method_are_worked_out_anew_and_one_that_cannot_be_stops_no_other(self) -> None:
        self.assertEqual(of_older_method(), [])
        first, second, *_ = Run.objects.filter(rows__gt=0)
        now = first.analysis
        for run in (first, second):
            other = run.analysis | {"method": "4.0.0", "duration_s": 1.0}
            Run.objects.filter(pk=run.pk).update(analysis=other)
        ReadingBlock.objects.filter(run=second).delete()
        self.assertEqual(of_older_method(), [first.pk, second.pk])
        with self.assertLogs("server.apps.bench.figures", "WARNING"):
            reckon_anew([second.pk, first.pk])
        first.refresh_from_db()
        self.assertEqual(first.analysis, now)
        self.assertEqual(of_older_method(), [second.pk])


class HistoryOfARunTest(ApiCase):
    def setUp(self) -> None:
        load_demo()
        self.run_ = Run.objects.filter(rows__gt=0, layout_key="A")[0]
        self.url = f"/api/runs/{self.run_.pk}"

    def edits(self) -> list[str]:
        self.run_.refresh_from_db()
        return [e["what"] for e in self.run_.edits]

    def test_every_change_is_kept_with_its_time_and_none_that_changed_nothing(self) -> None:
        self.assertEqual(self.edits(), [])
        self.send("patch", self.url, {"window_s": 300})
        self.send("patch", self.url, {"window_s": 300})
        self.send("patch", self.url, {"room_c": 21.5, "name": "A, once more"})
        self.send("patch", self.url, {"state": "void", "void_reason": "door open"})
        self.send("patch", self.url, {"state": "valid"})
        self.send("patch", self.url, {"layout": "B"})
        self.send("patch", self.url, {"state": "void", "void_reason": ""}, 200)
        found = self.edits()
        self.assertEqual(found[0], "averaged over the usual window, now over 5 min")
        self.assertEqual(
            found[1:5], ["renamed, before A run 1", "room as logged, now 21.5 °C", "set aside as void: door open", "counts again"]
        )
        self.assertIn("moved from layout A to B", found)
        out = next(r for r in self.client.get(f"/api/jobs/{self.run_.job_id}/runs").json() if r["id"] == self.run_.pk)
        self.assertEqual([e["what"] for e in out["edits"]], found)
        self.assertTrue(all(e["at"].endswith(("Z", "+00:00")) for e in out["edits"]))

    def test_stretches_left_out_and_figures_typed_are_told(self) -> None:
        mark = add_mark(self.run_.pk, MarkData(kind="event", tag="", text="door", at_s=60, until_s=120, drop=True))
        self.assertEqual(self.edits(), ["left out: from 1.0 min to 2.0 min"])
        change_mark(mark.pk, {"drop": False})
        self.assertEqual(self.edits()[-1], "taken in again: from 1.0 min to 2.0 min")
        add_reading(self.run_.pk, "sound_dba", 33.5, sure=True)
        self.assertEqual(self.edits()[-1], "typed: sound_dba 33.5")
        take_back_reading(self.run_.pk, 0)
        self.assertEqual(self.edits()[-1], "a typed reading was taken back")

    def test_a_package_takes_the_history_along(self) -> None:
        self.send("patch", self.url, {"window_s": 300})
        data = self.client.get(f"/api/jobs/{self.run_.job_id}/package.zip").content
        job, unknown = unpack(data)
        self.assertEqual(unknown, ())
        again = job.runs.get(name=self.run_.name)
        self.assertEqual([e["what"] for e in again.edits], self.edits())


class StoredRunsTest(ApiCase):
    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")
        self.url = f"/api/jobs/{self.job.pk}"

    def test_a_run_that_cannot_be_read_breaks_nothing_and_can_go(self) -> None:
        whole = len(self.client.get(f"{self.url}/runs").json())
        for change in BROKEN:
            run = Run.objects.filter(job=self.job, state="valid").order_by("pk")[0]
            before = {name: getattr(run, name) for name in change}
            Run.objects.filter(pk=run.pk).update(**change)
            with self.subTest(change=change):
                self.assertEqual(len(self.client.get(f"{self.url}/runs").json()), whole - 1)
                (said,) = self.client.get(f"{self.url}/runs/unreadable").json()
                self.assertEqual(said["id"], run.pk)
                self.assertTrue(said["why"])
                for path in ("/comparison", "/verdicts", "/drift", "/live", "/package.zip", "/panel-costs"):
                    self.assertEqual(self.client.get(self.url + path).status_code, 200, path)
                self.send("post", f"{self.url}/verdict", {})
                stored = json.loads(self.client.get(f"/api/runs/{run.pk}/stored.json").content.replace(b"Infinity", b"9e99"))
                self.assertIn("bench.readingblock", {row["model"] for row in stored})
            Run.objects.filter(pk=run.pk).update(**before)
        Run.objects.filter(pk=run.pk).update(analysis={"channels": 3})
        self.assertEqual(self.client.delete(f"/api/runs/{run.pk}").status_code, 204)
        self.assertFalse(Run.objects.filter(pk=run.pk).exists())

    def test_a_run_that_can_be_read_is_never_deleted(self) -> None:
        run = Run.objects.filter(job=self.job)[0]
        answer = self.client.delete(f"/api/runs/{run.pk}")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Set it aside", answer.json()["faults"][0]["do"])
        self.assertTrue(Run.objects.filter(pk=run.pk).exists())

    def test_damaged_readings_are_said_and_the_figures_stand(self) -> None:
        run = Run.objects.filter(job=self.job, layout_key="D", state="valid")[0]
        ReadingBlock.objects.filter(run=run, channel="cpu_package_c").update(data=b"not zlib")
        answer = self.client.get(f"/api/runs/{run.pk}/trace")
        self.assertEqual((answer.status_code, answer.json()["code"]), (422, "unreadable_readings"))
        self.assertIn(run.pk, [r["id"] for r in self.client.get(f"{self.url}/runs").json()])
        self.send("post", f"{self.url}/verdict", {})
        self.send("post", f"{self.url}/verdicts", {"layout": "D", "reason": "x"}, 201)
        self.assertLess(self.client.get(f"{self.url}/package.zip").status_code, 500)


class StoredJobsTest(ApiCase):
    def test_a_job_that_cannot_be_opened_is_listed_exported_and_removed(self) -> None:
        good = self.send("post", "/api/jobs", {"name": "good"}, 201)
        for more in ({"format": "oventa-job", "version": 7}, {}, {"room": 3, "format": "oventa-job", "version": 1}, {"_given": 4}):
            Job.objects.filter(pk=self.job.pk).update(more=more, revision=self.job.revision + len(str(more)))
            with self.subTest(more=more):
                rows = {r["id"]: r for r in self.client.get("/api/jobs").json()}
                self.assertTrue(rows[self.job.pk]["unreadable"])
                self.assertEqual(rows[good["id"]]["unreadable"], "")
                self.assertEqual(self.client.get(self.url).status_code, 422)
                stored = json.loads(self.client.get(f"{self.url}/stored.json").content)
                self.assertTrue({"jobs.job", "jobs.mount", "jobs.layout"} <= {row["model"] for row in stored})
        self.assertEqual(self.client.delete(self.url).status_code, 204)
        self.assertEqual([r["id"] for r in self.client.get("/api/jobs").json()], [good["id"]])

    def test_the_bin_gives_back_for_thirty_days(self) -> None:
        self.assertEqual(self.client.delete(self.url).status_code, 204)
        for path in ("", "/runs", "/verdicts", "/export"):
            self.assertEqual(self.client.get(self.url + path).status_code, 404)
        (row,) = self.client.get("/api/bin").json()
        self.assertEqual((row["id"], row["days_left"]), (self.job.pk, 30))
        self.assertEqual(services.empty_bin(), 0)
        self.assertEqual(self.client.post(f"{self.url}/restore", content_type="application/json").status_code, 204)
        self.assertEqual(self.client.get(self.url).json()["document"], demo_raw())
        Job.everything.update(removed_at=timezone.now() - timedelta(days=31))
        self.assertEqual(services.empty_bin(), 1)
        self.assertEqual(Job.everything.count(), 0)

    def test_a_flat_fan_curve_is_refused_with_its_place(self) -> None:
        for flow, pressure in (([10, 10, 10], [5, 5, 5]), ([0, 50, 90], [0, 0, 0]), ([0, 50, 90], [1, 5, 9]), ([0, 0, 90], [5, 3, 1])):
            raw = demo_raw()
            raw["parts"]["fans"][0]["curve"] = {"flow_m3h": flow, "pressure_pa": pressure}
            answer = self.send("post", "/api/forecast", {"document": raw}, 422)
            self.assertEqual(answer["faults"][0]["path"], "parts.fans[0].curve")
        raw["parts"]["fans"][0]["curve"] = {"flow_m3h": [0, 30, 60, 90], "pressure_pa": [17, 12, 13, 0]}  # with the usual dip
        self.send("post", "/api/forecast", {"document": raw})


class SaveKeyTest(ApiCase):
    def save(self, revision: int, key: str, status: int = 200, **change: Any) -> Any:
        return self.send("put", self.url, {"revision": revision, "document": demo_raw() | change, "key": key}, status)

    def test_the_same_save_twice_is_one(self) -> None:
        first = self.save(1, "k1", name="one")
        self.assertEqual(self.save(1, "k1", name="one"), first)
        self.assertEqual(Job.objects.get(pk=self.job.pk).revision, 2)
        self.assertEqual(self.client.get(self.url).json()["saved_key"], "k1")
        self.save(1, "k2", 409, name="other")

    def test_a_save_sent_again_after_another_window_s_is_still_known(self) -> None:
        self.save(1, "k1", name="one")
        self.save(2, "k2", name="two")
        self.assertEqual(self.save(1, "k1", name="one")["revision"], 2)
        self.assertEqual(self.client.get(self.url).json()["document"]["name"], "two")
        self.save(2, "k3", 409, name="one and more")

    def test_keys_of_long_ago_are_forgotten(self) -> None:
        for n in range(1, 60):
            self.save(n, f"k{n}")
        self.assertEqual(Save.objects.count(), services.KEPT_SAVES)

    def test_a_save_without_a_key_is_as_before(self) -> None:
        self.send("put", self.url, {"revision": 1, "document": demo_raw()})
        self.assertEqual(self.client.get(self.url).json()["saved_key"], "")
