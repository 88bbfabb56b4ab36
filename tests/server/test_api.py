"""The API: jobs, library, forecasts, runs, comparison, verdicts; nothing stored is lost by bad input."""

import copy
import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client, TestCase

from documents.job.reader import check_job, read_job
from server.apps.bench.adapters import load_log
from server.apps.bench.models import ReadingBlock, Run
from server.apps.jobs import adapters
from server.apps.jobs.models import FanPlacement, Job, Layout, Mount, Panel, Part
from server.apps.jobs.services import create_job
from tests.documents.test_job import MALFORMED, _set
from tests.machines import LOGS, TRADE, demo_raw, layout_raw


class ApiCase(TestCase):
    client: Client

    def setUp(self) -> None:
        self.job = create_job(check_job(demo_raw()).doc)
        self.url = f"/api/jobs/{self.job.pk}"

    def send(self, method: str, url: str, body: Any = None, status: int = 200) -> Any:
        answer = getattr(self.client, method)(url, data=json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return answer.json()

    def upload(self, url: str, name: str, status: int, data: bytes | None = None, **fields: str) -> Any:
        content = (LOGS / name).read_bytes() if data is None else data
        answer = self.client.post(url, {"file": SimpleUploadedFile(name, content), **fields})
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return answer.json()


class InsightTest(ApiCase):
    """What lies behind and beyond a forecast, over HTTP."""

    def ask(self, what: str, status: int = 200, layout: str = "A", **more: Any) -> Any:
        question = {"layouts": [layout], **more.pop("question", {})}
        return self.send("post", f"/api/forecast/{what}", {"document": demo_raw(), "question": question, **more}, status)

    def test_an_account_ends_at_the_figure_of_the_forecast(self) -> None:
        whole = self.send("post", "/api/forecast", {"document": demo_raw(), "question": {"layouts": ["A"]}})
        steps = {s["what"]: s["value"] for s in self.ask("account", figure="cpu")["steps"]}
        self.assertAlmostEqual(steps["Processor over room"], whole["forecast"]["layouts"][0]["cpu"]["rise_k"], places=9)
        refused = self.ask("account", 422, figure="coolant")
        self.assertIn("Use one of", refused["faults"][0]["do"])

    def test_a_run_over_time_with_a_mishap(self) -> None:
        time = {"minutes": 20, "every_s": 60, "events": [{"minutes": 10, "kind": "fan_stops", "mount": "r1"}]}
        answer = self.ask("time", time=time)
        self.assertEqual([r["minutes"] for r in answer["rows"]], list(range(21)))
        self.assertEqual(answer["rows"][-1]["fans_pct"][2], 0.0)
        self.assertEqual({s["channel"] for s in answer["settles"]}, {"cpu_k", "card_k", "air_rear_k"})
        refused = self.ask("time", 422, time={"minutes": 20, "events": [{"minutes": 5, "kind": "fan_stops", "mount": "zz"}]})
        self.assertIn("no fan stands", refused["faults"][0]["what"])

    def test_quiet_speeds_and_air(self) -> None:
        found = self.ask("quiet", layout="B", quiet={"target_dba": 34, "together": True})
        self.assertTrue(found["speeds"]["reached"])
        self.assertLessEqual(found["speeds"]["level_dba"], 34.0)
        air = self.ask("air", space="up_front")
        self.assertAlmostEqual(air["tracer"]["concentration"]["up_front"], 1.0)
        self.assertIsNone(self.ask("air")["tracer"])
        self.assertIn("no space", self.ask("air", 422, space="attic")["faults"][0]["what"])

    def test_own_load_and_another_room(self) -> None:
        own = self.send("post", "/api/forecast", {"document": demo_raw(), "question": {"load": "own", "cpu_load_pct": 40, "room_c": 32}})
        layout = own["forecast"]["layouts"][0]
        self.assertAlmostEqual(layout["cpu"]["power_w"], 50.0)
        self.assertAlmostEqual(layout["cpu"]["temperature_c"] - layout["cpu"]["rise_k"], 32.0)


class JobsTest(ApiCase):
    def test_every_document_survives_the_rows(self) -> None:
        for path in TRADE.glob("*.oventa.json"):
            with self.subTest(document=path.name):
                raw = json.loads(path.read_text(encoding="utf-8"))
                job = create_job(check_job(copy.deepcopy(raw)).doc)
                self.assertEqual(adapters.document(Job.objects.get(pk=job.pk)), raw)

    def test_rows_are_related(self) -> None:
        self.assertEqual(Mount.objects.count(), 7)
        self.assertEqual(Panel.objects.count(), 3)
        self.assertEqual(Part.objects.filter(kind="fans").count(), 2)
        self.assertEqual(FanPlacement.objects.filter(layout__key="B", mount__key="t3", fan__key="tern-120").count(), 1)

    def test_get_save_and_undo_keep_everything(self) -> None:
        got = self.client.get(self.url).json()
        self.assertEqual(got["document"], demo_raw())
        raw = demo_raw()
        layout_raw(raw, "A")["fans"][0]["direction"] = "exhaust"
        saved = self.send("put", self.url, {"revision": got["revision"], "document": raw})
        self.assertEqual(self.client.get(self.url).json()["document"], raw)
        self.send("put", self.url, {"revision": saved["revision"], "document": demo_raw()})
        self.assertEqual(self.client.get(self.url).json()["document"], demo_raw())

    def test_a_stale_screen_is_refused(self) -> None:
        self.send("put", self.url, {"revision": 1, "document": demo_raw()})
        for revision in (1, 3, 99, 0):  # older and newer ones alike: a revision that was never given is no reason to overwrite
            answer = self.send("put", self.url, {"revision": revision, "document": demo_raw()}, 409)
            self.assertEqual(answer["code"], "stale_revision")

    def test_malformed_documents_change_nothing(self) -> None:
        for path, value, named in MALFORMED:
            with self.subTest(path=path):
                raw = demo_raw()
                _set(raw, path, value)
                answer = self.send("put", self.url, {"revision": 1, "document": raw}, 422)
                self.assertEqual(answer["code"], "bad_document")
                self.assertIn(named, [f["path"] for f in answer["faults"]])
        self.assertEqual(self.client.get(self.url).json(), {"id": self.job.pk, "revision": 1, "saved_key": "", "document": demo_raw()})

    def test_export_and_import(self) -> None:
        export = self.client.get(f"{self.url}/export")
        self.assertIn("watch-room-plotter.oventa.json", export["Content-Disposition"])
        self.assertEqual(read_job(export.content).doc, check_job(demo_raw()).doc)
        new = self.upload("/api/jobs/import", "job.json", 201, export.content)
        self.assertEqual(self.client.get(f"/api/jobs/{new['id']}").json()["document"], demo_raw())
        refused = self.upload("/api/jobs/import", "job.json", 422, b"{not json")
        self.assertEqual(refused["code"], "bad_document")
        self.assertEqual(Job.objects.count(), 2)

    def test_start_from_nothing_and_from_the_library(self) -> None:
        call_command("load_library")
        box = self.send("post", "/api/jobs", {"name": " "}, 201)
        self.assertEqual((box["document"]["name"], box["document"]["case"]["mounts"]), ("New job", []))
        gannet = self.send("post", "/api/jobs", {"name": "Mine", "case_key": "gannet-41"}, 201)
        self.assertEqual(gannet["document"]["case"]["name"], "Gannet 41")
        self.send("post", "/api/jobs", {"name": "Mine", "case_key": "nobody"}, 404)
        self.assertEqual({j["name"] for j in self.client.get("/api/jobs").json()}, {"New job", "Mine", "Watch-room plotter"})

    def test_missing_job(self) -> None:
        answer = self.client.get("/api/jobs/9999")
        self.assertEqual((answer.status_code, answer.json()["code"]), (404, "not_found"))


class LibraryTest(ApiCase):
    def test_every_shipped_part_is_valid_and_every_case_can_be_started(self) -> None:
        call_command("load_library")
        call_command("load_library")
        library = self.client.get("/api/library").json()
        self.assertGreaterEqual(len(library["fans"]), 8)
        self.assertGreaterEqual(len(library["cases"]), 10)
        for case in library["cases"]:
            raw = demo_raw()
            raw["case"] = case["document"]
            raw["layouts"] = [{"id": "A", "fans": []}]
            with self.subTest(case=case["name"]):
                answer = self.send("post", "/api/forecast", {"document": raw})
                self.assertTrue(answer["forecast"]["layouts"][0]["converged"])


class ForecastTest(ApiCase):
    def test_the_document_on_the_screen_is_forecast_unsaved(self) -> None:
        raw = demo_raw()
        layout_raw(raw, "A")["fans"][2]["direction"] = "intake"
        answer = self.send("post", "/api/forecast", {"document": raw, "question": {"layouts": ["A"], "against": "B"}})
        layout = answer["forecast"]["layouts"][0]
        self.assertEqual(layout["differences"]["against"], "B")
        self.assertEqual(layout["balance"]["exhaust_count"], 0)
        self.assertIn("no_exhaust", [f["code"] for f in answer["findings"]["layouts"][0]["findings"]])
        self.assertEqual(FanPlacement.objects.filter(direction="exhaust", layout__key="A").count(), 1)

    def test_bad_questions(self) -> None:
        self.send("post", "/api/forecast", {"document": demo_raw(), "question": {"load": "sleep"}}, 422)
        self.send("post", "/api/forecast", {"document": demo_raw(), "question": {"layouts": ["Q"]}}, 422)
        self.send("post", "/api/forecast", {"document": []}, 422)


class RunsTest(ApiCase):
    def bring(self, name: str, layout: str, **fields: str) -> Any:
        return self.upload(f"{self.url}/runs", name, 201, None, layout=layout, **fields)

    def test_preview_stores_nothing(self) -> None:
        found = self.upload("/api/runs/preview", "heron-a-short.csv", 200)
        self.assertTrue(found["has_room"])
        self.assertEqual(len(found["questions"]), 1)
        self.assertEqual(Run.objects.count(), 0)

    def test_import_analyses_and_compresses(self) -> None:
        run = self.bring("heron-a-1.csv", "A")
        self.assertTrue(run["analysis"]["settled"])
        stored = sum(len(b.data) for b in ReadingBlock.objects.all())
        self.assertLess(stored, 60_000)
        log = load_log(Run.objects.get())
        self.assertEqual(log.temperatures[0], "cpu_package_c")
        self.assertEqual(len(log.elapsed_s), run["rows"])
        trace = self.client.get(f"/api/runs/{run['id']}/trace?points=200").json()
        self.assertLessEqual(len(trace["elapsed_s"]), 210)
        highest = max(v for v in next(c for c in trace["channels"] if c["name"] == "cpu_package_c")["values"] if v)
        self.assertAlmostEqual(highest, float(log.channels["cpu_package_c"].max()), places=2)

    def test_a_run_goes_out_and_comes_in_again_with_the_same_figures(self) -> None:
        run = self.bring("heron-a-1.csv", "A")
        text = self.client.get(f"/api/runs/{run['id']}/export.csv").content
        again = self.upload(f"{self.url}/runs", "again.csv", 201, text, layout="A")
        for one, two in zip(run["analysis"]["channels"], again["analysis"]["channels"], strict=True):
            self.assertEqual(one["name"], two["name"])
            self.assertAlmostEqual(one["mean"], two["mean"], places=3)
        self.assertEqual(run["analysis"]["settled_at_s"], again["analysis"]["settled_at_s"])

    def test_the_stand_in_bench_makes_runs_that_are_marked_and_repeat(self) -> None:
        body = {"layout": "C", "minutes": 20, "seed": 5, "faults": [{"kind": "core_hot"}]}
        one, two = (self.send("post", f"{self.url}/runs/simulate", body, 201) for _ in range(2))
        self.assertEqual(one["analysis"], two["analysis"])
        self.assertIn("made up", one["source_name"])
        self.assertIn("core_apart", [f["code"] for f in one["analysis"]["flags"]])
        bad = self.send("post", f"{self.url}/runs/simulate", {"layout": "A", "faults": [{"kind": "pump_slows"}]}, 422)
        self.assertIn("no pump", bad["faults"][0]["what"])
        self.assertEqual(len(self.client.get("/api/standin/faults").json()), 12)

    def odd_log(self) -> bytes:
        """A room that was logged in °F without saying so."""
        rows = [f"{t},{30 + 40 * (1 - 0.99**t):.1f},{71.6 + t % 2 * 0.2:.1f}" for t in range(0, 600, 5)]
        return ("time_s,CPU Package [°C],Room temperature\n" + "\n".join(rows) + "\n").encode().replace(b"time_s", b"elapsed_s")

    def test_a_column_that_cannot_be_is_asked_about_before_storing(self) -> None:
        seen = self.upload("/api/runs/preview", "x.csv", 200, self.odd_log())
        room = next(c for c in seen["columns"] if c["channel"] == "room_c")
        self.assertEqual((room["first"], room["low"], room["high"]), (["71.6", "71.8", "71.6"], 71.6, 71.8))
        self.assertEqual(room["units"], ["c", "f", "k"])
        self.assertIn("in °F that would be 22 °C", seen["doubts"][0]["what"])
        refused = self.upload(f"{self.url}/runs", "x.csv", 422, self.odd_log(), layout="A")
        self.assertEqual((refused["code"], refused["faults"][0]["path"]), ("implausible_log", "room_c"))
        self.assertEqual(Run.objects.count(), 0)
        units = json.dumps({"Room temperature": "f"})
        self.assertEqual(self.upload("/api/runs/preview", "x.csv", 200, self.odd_log(), units=units)["doubts"], [])
        run = self.upload(f"{self.url}/runs", "x.csv", 201, self.odd_log(), layout="A", units=units)
        mean = next(c["mean"] for c in run["analysis"]["channels"] if c["name"] == "room_c")
        self.assertAlmostEqual(mean, 22.05, delta=0.05)
        self.upload(f"{self.url}/runs", "x.csv", 422, self.odd_log(), layout="A", units='{"Room temperature": "furlong"}')

    def test_a_person_may_say_that_it_is_so(self) -> None:
        run = self.upload(f"{self.url}/runs", "x.csv", 201, self.odd_log(), layout="A", sure="true")
        self.assertIn("taken in all the same", run["notes"][-1])

    def test_bad_files_store_nothing(self) -> None:
        for data in (b"", b"hello", bytes(range(256)) * 9):
            answer = self.upload(f"{self.url}/runs", "x.csv", 422, data, layout="A")
            self.assertTrue(answer["faults"][0]["do"])
        self.upload(f"{self.url}/runs", "heron-a-1.csv", 404, layout="Q")
        self.upload(f"{self.url}/runs", "heron-a-1.csv", 422, layout="A", mapping="[1]")
        self.upload(f"{self.url}/runs", "heron-a-1.csv", 422, layout="A", room_c="400")
        self.assertEqual((Run.objects.count(), ReadingBlock.objects.count()), (0, 0))

    def test_room_window_and_state_can_be_corrected(self) -> None:
        run = self.bring("heron-c-limited.csv", "C")
        self.assertIn("room_missing", [f["code"] for f in run["analysis"]["flags"]])
        with_room = self.send("patch", f"/api/runs/{run['id']}", {"room_c": 21.0, "window_s": 120})
        cpu = next(c for c in with_room["analysis"]["channels"] if c["name"] == "cpu_package_c")
        self.assertAlmostEqual(cpu["rise_k"], 67, delta=0.5)
        self.assertAlmostEqual(cpu["window_s"][1] - cpu["window_s"][0], 120)
        self.send("patch", f"/api/runs/{run['id']}", {"state": "void"}, 422)
        void = self.send("patch", f"/api/runs/{run['id']}", {"state": "void", "void_reason": "door was open"})
        self.assertEqual(void["state"], "void")
        self.assertEqual(self.client.get(f"{self.url}/comparison").json()["figures"], [])
        back = self.send("patch", f"/api/runs/{run['id']}", {"room_c": None, "state": "valid", "layout": "D"})
        self.assertEqual((back["typed_room_c"], back["layout"]), (None, "D"))

    def test_a_mapping_is_remembered(self) -> None:
        mapping = {"Graphics B (°C)": "card_memory_c"}
        self.bring("heron-a-short.csv", "A", mapping=json.dumps(mapping))
        again = self.upload("/api/runs/preview", "heron-a-short.csv", 200)
        self.assertEqual(again["questions"], [])
        self.assertIn("card_memory_c", [c["channel"] for c in again["columns"]])

    def test_a_removed_layout_comes_back_with_its_runs(self) -> None:
        self.bring("heron-a-1.csv", "A")
        without = demo_raw()
        without["layouts"] = without["layouts"][1:]
        self.send("put", self.url, {"revision": 1, "document": without})
        self.assertIsNone(Run.objects.get().layout)
        self.send("put", self.url, {"revision": 2, "document": demo_raw()})
        self.assertEqual(Run.objects.get().layout, Layout.objects.get(key="A"))

    def test_comparison_and_verdict(self) -> None:
        self.bring("heron-a-1.csv", "A")
        self.bring("heron-b-1.tsv", "B")
        answer = self.client.get(f"{self.url}/comparison").json()
        words = {p["channel"]: p["word"] for p in answer["pairs"]}
        self.assertEqual((words["cpu_package_c"], words["card_core_c"]), ("better", "cannot_tell"))
        self.send("post", f"{self.url}/verdicts", {"layout": "B", "reason": ""}, 422)
        self.send("post", f"{self.url}/verdicts", {"layout": "B", "reason": "cooler"}, 201)
        self.assertEqual(self.client.get(f"{self.url}/verdicts").json()[0]["layout"], "B")
        self.assertEqual(self.client.get(f"{self.url}/comparison?margin_k=-1").status_code, 422)


class PagesTest(ApiCase):
    def test_the_page_and_its_guards(self) -> None:
        page = self.client.get("/jobs/1/layouts")
        self.assertContains(page, '<div id="root">')
        self.assertEqual(self.client.post("/jobs/1/layouts").status_code, 405)
        self.assertIn("default-src 'self'", page["Content-Security-Policy"])
        self.assertEqual(self.client.get("/api/health").json(), {"ready": True, "loading": ""})


class BuildTest(ApiCase):
    """What building a layout takes, over HTTP: sheet, order, schools, a fan at work, files of parts and cases."""

    def ask(self, url: str, status: int = 200, raw: Any = None, **more: Any) -> Any:
        body = {"document": raw or demo_raw(), "question": {"layouts": [more.pop("layout", "A")]}, **more}
        return self.send("post", url, body, status)

    def test_the_sheet_of_a_layout(self) -> None:
        found = self.ask("/api/sheet", layout="C")
        self.assertEqual(found["loops"][0]["heights"]["pocket_in"], "radiator")
        self.assertEqual({s["mount"] for s in found["spare"]}, {"f1", "t3"})
        self.assertEqual([h["header"] for h in found["headers"]][:2], ["processor", "pump"])
        self.assertEqual(found["to_share"], [])

    def test_the_order_by_weights_and_the_schools(self) -> None:
        order = self.send("post", "/api/ranking", {"document": demo_raw()})
        self.assertEqual(sorted(r["layout"] for r in order), ["A", "B", "C", "D"])
        self.assertEqual([r["burden"] for r in order], sorted(r["burden"] for r in order))
        schools = self.send("post", "/api/starters", {"document": demo_raw()})
        self.assertIn("open_bench", [s["key"] for s in schools])

    def test_a_fan_at_work_beside_the_others_at_hand(self) -> None:
        found = self.ask("/api/forecast/fan", mount="f3")
        self.assertEqual(len(found["others"]), len(demo_raw()["parts"]["fans"]))
        own = next(o for o in found["others"] if o["fan"] == "tern-120")
        self.assertAlmostEqual(own["flow_m3h"], found["work"]["flow_m3h"], places=2)
        self.assertIn("no running fan", self.ask("/api/forecast/fan", 422, mount="t1")["faults"][0]["what"])

    def test_parts_and_case_as_files(self) -> None:
        for suffix in ("csv", "json"):
            text = self.client.get(f"{self.url}/parts.{suffix}").content
            back = self.upload("/api/parts/read", f"p.{suffix}", 200, text)["parts"]
            self.assertEqual(
                {k: len(v) for k, v in back.items()}, {k: len(v) for k, v in demo_raw()["parts"].items() if isinstance(v, list)}
            )
        case = self.client.get(f"{self.url}/case.json").content
        first, second = (self.upload("/api/library/cases", "c.json", 201, case) for _ in range(2))
        self.assertNotEqual(first["key"], second["key"])
        started = self.send("post", "/api/jobs", {"name": "x", "case_key": second["key"]}, 201)
        self.assertEqual([m["id"] for m in started["document"]["case"]["mounts"]], [m["id"] for m in demo_raw()["case"]["mounts"]])
        self.assertEqual(self.upload("/api/cases/read", "c.json", 422, b"{}")["code"], "bad_document")
        self.assertEqual(self.upload("/api/parts/read", "p.csv", 422, b"part,id\nwings,w\n")["code"], "bad_document")
