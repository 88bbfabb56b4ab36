"""What is proposed, over HTTP: lessons of the runs, searches as tasks, the next run, orders; promises kept when a layout changes."""

import json
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import mock
from unittest.mock import patch

from django.test import TestCase

from desk.forecast.document import Memory, Oracle, Question
from desk.learn.packaged import packed_runs
from desk.search.looking import Rows
from documents.job.models import LayoutDoc
from documents.job.reader import check_job
from server.apps.bench import selectors as bench
from server.apps.bench.models import Run
from server.apps.jobs.models import Job
from server.apps.tasks import services
from server.apps.tasks.models import Task
from server.apps.verdicts import learned
from tests.demo_rows import load_demo
from tests.machines import layout_raw


class ProposeCase(TestCase):
    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")
        self.document = self.client.get(f"/api/jobs/{self.job.pk}").json()["document"]

    def post(self, path: str, body: Any, status: int = 200) -> Any:
        answer = self.client.post(path, json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return answer.json()

    def forecast(self, document: dict[str, Any], learned: bool, findings: bool = False, **question: Any) -> Any:
        body = {"document": document, "question": question, "with_findings": findings}
        return self.post("/api/forecast", body | ({"learned_job": self.job.pk} if learned else {}))


class LearnedTest(ProposeCase):
    def test_the_forecast_follows_the_runs_where_it_is_asked_to(self) -> None:
        plain, told = (self.forecast(self.document, x, layouts=["A"])["forecast"] for x in (False, True))
        self.assertIsNone(plain["learned"])
        self.assertGreater(told["learned"], 5)
        self.assertLess(told["layouts"][0]["cpu"]["band_k"], plain["layouts"][0]["cpu"]["band_k"] / 4)
        lessons = self.post(f"/api/jobs/{self.job.pk}/learned", {"document": self.document})
        self.assertAlmostEqual(lessons["layouts"][0]["cpu"]["rise_k"], told["layouts"][0]["cpu"]["rise_k"], places=3)
        self.assertTrue({"wrong room" in x["run"] for x in lessons["left_aside"]})

    def test_a_job_of_somebody_else_teaches_nothing_here(self) -> None:
        self.post("/api/forecast", {"document": self.document, "learned_job": 987654}, 404)

    def test_without_runs_the_sheets_stand(self) -> None:
        Run.objects.all().update(state="void")
        self.assertIsNone(self.forecast(self.document, True, layouts=["A"])["forecast"]["learned"])

    def test_a_fix_brings_what_it_said_also_on_a_layout_that_was_run(self) -> None:
        """The layout is another one then: its runs teach as those of the layout as it was."""
        answer = self.forecast(self.document, True, findings=True, layouts=["C"])
        before = answer["forecast"]["layouts"][0]
        offers = [x for f in answer["findings"]["layouts"][0]["findings"] for x in f["fixes"]]
        self.assertTrue(offers)
        for offer in offers[:3]:
            layouts = [offer["layout"] if x["id"] == "C" else x for x in self.document["layouts"]]
            after = self.forecast({**self.document, "layouts": layouts}, True, layouts=["C"])["forecast"]["layouts"][0]
            self.assertAlmostEqual(after["cpu"]["rise_k"] - before["cpu"]["rise_k"], offer["cpu_k"], delta=0.1)
            self.assertAlmostEqual(after["card"]["rise_k"] - before["card"]["rise_k"], offer["card_k"], delta=0.1)
            self.assertAlmostEqual(after["sound"]["level_dba"] - before["sound"]["level_dba"], offer["sound_db"], delta=0.1)

    def test_runs_of_a_package_that_filled_in_what_its_layouts_left_open_teach_as_they_ran(self) -> None:
        """Older versions stored a package's layouts with every field: nothing said became none."""
        for run in Run.objects.exclude(drawn={}):
            run.drawn = LayoutDoc.model_validate(run.drawn).model_dump(mode="json")
            run.save(update_fields=["drawn"])
        layout_raw(self.document, "A")["fans"].pop()
        found = self.forecast(self.document, True, layouts=["A"])["forecast"]
        self.assertGreater(found["learned"], 5)

    def test_the_account_ends_with_what_the_runs_added(self) -> None:
        told = self.forecast(self.document, True, layouts=["A"])["forecast"]["layouts"][0]
        for figure, value in (("cpu", told["cpu"]["rise_k"]), ("card", told["card"]["rise_k"]), ("sound", told["sound"]["level_dba"])):
            body = {"document": self.document, "question": {"layouts": ["A"]}, "figure": figure, "learned_job": self.job.pk}
            *before, taught, band = self.post("/api/forecast/account", body)["steps"]
            self.assertIn("runs have taught", taught["what"])
            self.assertAlmostEqual(taught["value"], value, places=6)
            self.assertAlmostEqual(sum(p["value"] for p in taught["parts"]), value, places=6)
            plain = self.post("/api/forecast/account", body | {"learned_job": None})["steps"]
            self.assertEqual(before, plain)
            self.assertIn("as learned", band["what"])
        rear = {"document": self.document, "question": {"layouts": ["A"]}, "figure": "rear"}
        self.assertEqual(*(self.post("/api/forecast/account", rear | {"learned_job": x}) for x in (None, self.job.pk)))

    def test_single_changes_bring_what_the_forecast_shows_once_they_are_made(self) -> None:
        body = {"document": self.document, "question": {"layouts": ["C"]}, "learned_job": self.job.pk}
        told, plain = self.post("/api/forecast/worth", body), self.post("/api/forecast/worth", body | {"learned_job": None})
        self.assertEqual((told["rungs"], plain["taught_by"]), (plain["rungs"], 0))
        self.assertGreater(told["taught_by"], 5)
        self.assertNotEqual([x["cpu_k"] for x in told["singles"]], [x["cpu_k"] for x in plain["singles"]])
        before = self.forecast(self.document, True, layouts=["C"])["forecast"]["layouts"][0]
        for single in told["singles"][:3]:
            layouts = [single["layout"] if x["id"] == "C" else x for x in self.document["layouts"]]
            after = self.forecast({**self.document, "layouts": layouts}, True, layouts=["C"])["forecast"]["layouts"][0]
            self.assertAlmostEqual(after["cpu"]["rise_k"] - before["cpu"]["rise_k"], single["cpu_k"], delta=0.1)
            self.assertAlmostEqual(after["sound"]["level_dba"] - before["sound"]["level_dba"], single["sound_db"], delta=0.1)

    def test_a_run_over_time_ends_where_the_settled_forecast_stands(self) -> None:
        body = {"document": self.document, "question": {"layouts": ["D"]}, "time": {"minutes": 240, "every_s": 60}}
        told, plain = (self.post("/api/forecast/time", body | {"learned_job": x})["rows"] for x in (self.job.pk, None))
        settled = self.forecast(self.document, True, layouts=["D"])["forecast"]["layouts"][0]
        by_sheets = self.forecast(self.document, False, layouts=["D"])["forecast"]["layouts"][0]
        for part in ("cpu", "card"):
            self.assertAlmostEqual(told[-1][f"{part}_c"], settled[part]["temperature_c"], delta=0.15)
            self.assertAlmostEqual(plain[-1][f"{part}_c"], by_sheets[part]["temperature_c"], delta=0.15)
        self.assertGreater(abs(told[-1]["card_c"] - plain[-1]["card_c"]), 1.0)
        self.assertEqual(told[0]["cpu_c"], plain[0]["cpu_c"])

    def test_the_ranking_is_that_of_the_forecasts_shown(self) -> None:
        told, plain = (self.post("/api/ranking", {"document": self.document, "learned_job": x}) for x in (self.job.pk, None))
        self.assertEqual({x["layout"] for x in told}, {x["layout"] for x in plain})
        self.assertNotEqual([x["burden"] for x in told], [x["burden"] for x in plain])

    def test_a_run_that_comes_in_between_two_looks_is_learned_from(self) -> None:
        learned.LESSONS = Memory(16)
        own, first = bench.run_names, [True]

        def names(job_id: int) -> dict[tuple[str, str], list[str]]:
            found = own(job_id)
            if first.pop() if first else False:
                found = {key: rows[:-1] for key, rows in found.items()}  # as it stood before the last run of each
            return found

        with patch.object(bench, "run_names", names):
            told = self.post(f"/api/jobs/{self.job.pk}/learned", {"document": self.document})
        learned.LESSONS = Memory(16)
        self.assertEqual(told, self.post(f"/api/jobs/{self.job.pk}/learned", {"document": self.document}))

    def test_runs_without_a_drawing_of_their_layout_teach_nothing_of_another(self) -> None:
        Run.objects.all().update(drawn={})
        changed = json.loads(json.dumps(self.document))
        layout_raw(changed, "C")["fans"].pop()
        lessons = self.post(f"/api/jobs/{self.job.pk}/learned", {"document": changed})
        self.assertIn("its layout was changed since", " ".join(x["why"] for x in lessons["left_aside"]))
        self.assertIsNone(next(x for x in lessons["layouts"] if x["id"] == "C")["measured"])

    def test_a_package_remembers_the_layouts_as_they_were_run(self) -> None:
        data = self.client.get(f"/api/jobs/{self.job.pk}/package.zip").content
        self.assertTrue(all(own for own in packed_runs(data).names.values()))
        Run.objects.filter(layout_key="C").update(drawn={"id": "C", "fans": []})
        moved = packed_runs(self.client.get(f"/api/jobs/{self.job.pk}/package.zip").content)
        self.assertIn(("both", "C-as-run"), moved.names)
        self.assertNotIn("C-as-run", [x.id for x in moved.doc.layouts])


class FindTest(ProposeCase):
    SMALL: dict[str, Any] = {"most_fans": 2, "max_dba": 34, "swap_cooler": False, "turn_cooler": False}  # noqa: RUF012

    def find(self, status: int = 202, **question: Any) -> Any:
        """Asked for, and done before anything else is: the worker takes it once the row is written."""
        with self.captureOnCommitCallbacks(execute=True):
            asked = self.post(f"/api/jobs/{self.job.pk}/find", {"document": self.document, "question": self.SMALL | question}, status)
        return self.client.get(f"/api/jobs/{self.job.pk}/find").json() if status == 202 else asked

    def test_a_search_is_kept_and_its_layouts_forecast_the_same(self) -> None:
        self.assertIsNone(self.client.get(f"/api/jobs/{self.job.pk}/find").json())
        latest = self.find()
        self.assertEqual(latest["state"], "done")
        result = latest["result"]
        self.assertTrue(result["exhaustive"])
        self.assertEqual(result["distinct"], result["possible"])
        self.assertGreater(result["learned"], 5)
        self.assertEqual(len(result["dots"]["cpu_dk"]), len(result["dots"]["mounts"]))
        best = result["frontier"][0]
        raw = {**self.document, "layouts": [*self.document["layouts"], best["layout"]]}
        told = self.forecast(raw, True, layouts=[best["layout"]["id"]])["forecast"]["layouts"][0]
        self.assertAlmostEqual(told["cpu"]["rise_k"], best["cpu_rise_k"], delta=0.05)
        self.assertAlmostEqual(told["sound"]["level_dba"], best["level_dba"], delta=0.05)
        Oracle(check_job(raw).doc, Question(layouts=[best["layout"]["id"]])).forecast_doc()

    def test_what_cannot_be_searched_is_told_at_once(self) -> None:
        self.find(422, start="Z")
        self.find(422, empty=["zz"])
        self.find(422, max_dba=-3)
        self.assertEqual(Task.objects.count(), 0)

    def test_a_new_one_calls_off_the_one_before_and_few_are_kept(self) -> None:
        for _ in range(4):
            self.find()
        self.assertEqual(Task.objects.count(), services.KEPT)
        waiting = Task.objects.create(job=self.job, kind="search", state="running")
        self.find()
        waiting.refresh_from_db()
        self.assertEqual(waiting.state, "cancelled")

    def test_calling_off_ends_it_where_it_is(self) -> None:
        task = Task.objects.create(job=self.job, kind="search", question=self.SMALL, document=self.document)
        with mock.patch.object(services, "SAID_S", 0.0):

            def called_off(*_args: Any, **_more: Any) -> Any:
                self.post(f"/api/tasks/{task.pk}/cancel", {})
                _args[4](1, 2, Rows())  # the next word of progress finds it called off

            with mock.patch.object(services, "search", called_off):
                services.work(task.pk)
        task.refresh_from_db()
        self.assertEqual((task.state, task.result), ("cancelled", None))
        services.work(task.pk)  # a row that is no longer waiting is left alone
        self.assertEqual(Task.objects.get(pk=task.pk).state, "cancelled")

    def test_what_a_stop_cut_short_begins_anew_and_finds_the_same(self) -> None:
        first = self.find()["result"]
        Task.objects.update(state="running", result=None)
        self.assertEqual(services.take_up(), 1)
        again = self.client.get(f"/api/jobs/{self.job.pk}/find").json()
        self.assertEqual(again["state"], "done")
        self.assertEqual(again["result"], first)

    def test_what_goes_wrong_is_kept_in_words(self) -> None:
        task = Task.objects.create(job=self.job, kind="search", question={"start": "Z"}, document=self.document)
        services.work(task.pk)
        told = self.client.get(f"/api/jobs/{self.job.pk}/find").json()
        self.assertEqual(told["state"], "failed")
        self.assertIn("no layout 'Z'", told["fault"]["title"])
        broken = Task.objects.create(job=self.job, kind="search", document={"no": "job"})
        services.work(broken.pk)
        self.assertEqual(Task.objects.get(pk=broken.pk).state, "failed")


class NextTest(ProposeCase):
    def test_it_agrees_with_the_verdict_on_who_leads(self) -> None:
        verdict = self.post(f"/api/jobs/{self.job.pk}/verdict", {"settings": {}, "beside": []})
        told = self.post(f"/api/jobs/{self.job.pk}/next", {"document": self.document})
        self.assertEqual(told["pick"], verdict["placed"][0]["layout"])
        self.assertEqual(told["challenger"], verdict["placed"][1]["layout"])
        self.assertEqual([s["layout"] for s in told["stands"]][:2], [p["layout"] for p in verdict["placed"]][:2])

    def test_a_layout_drawn_today_is_asked_for(self) -> None:
        raw = json.loads(json.dumps(self.document))
        raw["layouts"].append({**json.loads(json.dumps(layout_raw(raw, "D"))), "id": "E", "name": "like D"})
        raw["layouts"][-1]["fans"][0]["speed_pct"] = 60
        told = self.post(f"/api/jobs/{self.job.pk}/next", {"document": raw})
        self.assertFalse(told["stop"])
        self.assertEqual((told["candidates"][0]["layout"], told["candidates"][0]["kind"]), ("E", "first"))
        self.assertFalse(told["candidates"][0]["uncounted"])
        self.assertIn("E was never run", told["why"])

    def test_what_was_run_before_it_was_changed_is_not_said_to_be_never_run(self) -> None:
        """A layout redrawn since, whose runs teach as of what it was; and other parts for all, of which no run tells anything."""
        path = f"/api/jobs/{self.job.pk}/next"
        raw = json.loads(json.dumps(self.document))
        layout_raw(raw, "D")["fans"][0]["speed_pct"] = 45
        told = self.post(path, {"document": raw})
        stand = next(x for x in told["stands"] if x["layout"] == "D")
        self.assertEqual((stand["runs"], stand["uncounted"]), (0, True))
        self.assertFalse(any(x["uncounted"] for x in told["stands"] if x["layout"] != "D"))
        raw = json.loads(json.dumps(self.document))
        for part in raw["parts"]["cpus"]:
            part["r_jc_k_per_w"] = round(part.get("r_jc_k_per_w", 0.2) + 0.05, 3)
        told = self.post(path, {"document": raw})
        self.assertTrue(all(x["uncounted"] and x["runs"] == 0 for x in told["stands"]))
        self.assertIn("No run that is in counts for the layouts as they are now: its layout was changed since", told["why"])
        self.assertNotIn("never", told["candidates"][0]["why"])

    def test_odd_questions(self) -> None:
        path = f"/api/jobs/{self.job.pk}/next"
        self.post(path, {"document": self.document, "margin_k": 99}, 422)
        self.post(path, {"document": {**self.document, "layouts": []}}, 422)
        self.post("/api/jobs/987654/next", {"document": self.document}, 404)


class OrdersTest(ProposeCase):
    def test_minutes_are_learned_from_the_jobs_own_rebuilds(self) -> None:
        at = datetime(2026, 3, 1, 9, tzinfo=UTC)
        drawn = {x["id"]: x for x in self.document["layouts"]}
        Run.objects.filter(job=self.job).update(made_at=None)
        for i, run in enumerate(Run.objects.filter(job=self.job)[:6]):
            key = "AB"[i % 2]
            Run.objects.filter(pk=run.pk).update(
                made_at=at + timedelta(hours=2 * i), duration_s=1800, layout_key=key, drawn=drawn[key], bench=None
            )
        told = self.post(f"/api/jobs/{self.job.pk}/minutes", {"document": self.document})
        self.assertEqual(told["rebuilds"], 5)
        self.assertTrue(told["kinds"] and all(k["minutes"] > k["usual"] for k in told["kinds"]))
        self.post("/api/jobs/987654/minutes", {"document": self.document}, 404)

    def test_orders_of_the_plan_with_their_minutes(self) -> None:
        found = {x["order"]["kind"]: x for x in self.post("/api/plan/orders", {"document": self.document})}
        self.assertEqual(set(found), {"least", "blocked", "shuffled", "listed"})
        self.assertTrue(found["least"]["order"]["exact"])
        self.assertLessEqual(found["least"]["order"]["minutes"], found["listed"]["order"]["minutes"])
        runs = {r["id"] for r in found["least"]["runs"]}
        self.assertEqual(runs, {r["id"] for r in self.document["plan"]["runs"]})
        self.post("/api/plan/orders", {"document": {**self.document, "plan": None}}, 422)

    def test_the_plan_as_a_calendar_file(self) -> None:
        body = {"document": self.document, "job": self.job.pk, "begins": "2026-05-01T18:00:00+02:00"}
        answer = self.client.post("/api/plan/calendar", json.dumps(body), content_type="application/json")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "text/calendar; charset=utf-8"))
        self.assertIn(b"BEGIN:VEVENT", answer.content)
        self.post("/api/plan/calendar", body | {"begins": "2026-05-01T18:00:00"}, 422)

    def test_what_speed_buys(self) -> None:
        body = {"document": self.document, "question": {"layouts": ["D"]}, "part": "card"}
        found = self.post("/api/forecast/trade", body)
        self.assertEqual(found["part"], "card")
        self.assertTrue({"fans", "size"} <= set(found["against"]))
        self.post("/api/forecast/trade", body | {"part": "pump"}, 422)
