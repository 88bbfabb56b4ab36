"""Plan, package, traces and comparisons over HTTP."""

import json
from datetime import timedelta
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from desk.runs.ready import blocks_of
from documents.job.planned import from_template
from documents.runlog.writer import write_log
from engine.runs.series import RunLog
from instruments.standin import simulate
from server.apps.bench.adapters import keep_blocks, load_log
from server.apps.bench.figures import changed_run
from server.apps.bench.models import Mark, Run
from server.apps.bench.services import import_run
from server.apps.jobs.models import Job
from tests.demo_rows import load_demo
from tests.machines import machine


def rounded(content: Any) -> Any:
    """Figures to the thousandth, as the run log writes them."""
    return json.loads(json.dumps(content), parse_float=lambda text: round(float(text), 2))


def refresh(run: Run) -> Run:
    """Figures of a run as it now stands."""
    run.save()
    return changed_run(run.pk, lambda _: None)


class PlanCase(TestCase):
    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")

    def post(self, path: str, body: Any, status: int = 200) -> Any:
        answer = self.client.post(path, json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return answer.json()

    def get(self, path: str) -> Any:
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return answer.json()

    def document(self) -> Any:
        return self.get(f"/api/jobs/{self.job.pk}")["document"]

    def run_of(self, layout: str, seed: int, **more: Any) -> Run:
        """A settled run of a layout, made up."""
        log = simulate(machine(layout_id=layout), 45, seed, 2.0)
        run = import_run(self.job.pk, layout, "", "x.csv", write_log(log).encode(), {}, None)
        for name, value in more.items():
            setattr(run, name, value)
        run.save()
        return refresh(run)


class PlanApiTest(PlanCase):
    def test_the_demo_s_sheet_marks_what_is_in(self) -> None:
        body = {"document": self.document(), "job": self.job.pk}
        before = self.post("/api/plan/sheet", body)
        self.assertEqual([x["layout"] for x in before["lines"] if x["kind"] == "run"], ["A", "B", "C", "D", "A"])
        self.run_of("A", 3, planned="r1")
        after = self.post("/api/plan/sheet", body)
        self.assertEqual([x["done"] for x in after["lines"] if x["kind"] == "run"], [True, False, False, False, False])

    def test_templates_can_be_taken_up(self) -> None:
        document = self.document()
        document["protocols"] = self.get("/api/plan/templates")
        saved = self.client.put(
            f"/api/jobs/{self.job.pk}", json.dumps({"revision": self.job.revision, "document": document}), content_type="application/json"
        )
        self.assertEqual(saved.status_code, 200, saved.content[:300])

    def test_a_design_and_its_runs(self) -> None:
        body = {"document": self.document(), "design": "factorial", "start": "A", "factors": [{"kind": "flip", "at": "f2"}]}
        made = self.post("/api/plan/generate", body)
        self.assertEqual((len(made["order"]), len(made["predicted"])), (2, 1))
        runs = self.post("/api/plan/runs", {"order": made["order"], "protocol": from_template("short").model_dump(), "control": "A"})
        self.assertEqual([r["role"] for r in runs], ["control_start", "run", "control_end"])
        refused = self.post("/api/plan/generate", body | {"factors": [{"kind": "flip", "at": "nowhere"}]}, 422)
        self.assertIn("NOWHERE", refused["faults"][0]["what"])

    def test_probes_are_advised(self) -> None:
        document = self.document() | {"points": [{"id": "p1", "at_mm": {"x": 200, "y": 100, "z": 250}, "sensor": 4, "critical": True}]}
        (found,) = self.post("/api/plan/probes", {"document": document, "layout": "A"})
        self.assertEqual(found["point"], "p1")
        self.assertTrue(found["words"])


class ComparisonTest(PlanCase):
    def setUp(self) -> None:
        super().setUp()
        Run.objects.all().delete()

    def words(self) -> str:
        pairs = self.get(f"/api/jobs/{self.job.pk}/comparison")["pairs"]
        return " ".join(c for p in pairs for c in p["confounders"])

    def test_what_was_not_held_is_a_confounder(self) -> None:
        self.run_of("A", 1, held={"card_fans": "62 %"})
        other = self.run_of("B", 2, held={"card_fans": "62 %"})
        self.assertNotIn("card's fans", self.words())
        changed = self.client.patch(f"/api/runs/{other.pk}", json.dumps({"held": {"card_fans": "40 %"}}), content_type="application/json")
        self.assertEqual(changed.status_code, 200)
        self.assertIn("unlike card's fans, %: 62 % against 40 %", self.words())

    def test_another_version_of_the_protocol_is_said(self) -> None:
        first = from_template("short").model_dump(mode="json")
        self.run_of("A", 1, protocol=first)
        self.run_of("B", 2, protocol=first | {"version": 2, "window_s": 120})
        self.assertIn("unlike protocol: short v1 against short v2", self.words())

    def test_runs_of_another_load_are_not_mixed_in(self) -> None:
        self.run_of("A", 1, load="both")
        self.run_of("A", 2, load="idle")
        self.run_of("B", 3, load="both")
        figures = self.get(f"/api/jobs/{self.job.pk}/comparison")["figures"]
        self.assertEqual({f["layout"]: f["runs"] for f in figures}, {"A": 1, "B": 1})

    def test_acceptance_with_margin_and_worst_channel(self) -> None:
        protocol = from_template("acceptance").model_dump(mode="json") | {"criteria": [{"channel": "cpu_package_c", "most_k": 20}]}
        run = self.run_of("A", 1, protocol=protocol)
        found = next(r for r in self.get(f"/api/jobs/{self.job.pk}/runs") if r["id"] == run.pk)["acceptance"]
        self.assertEqual((found["passed"], found["worst"]), (False, "cpu_package_c"))
        self.assertLess(found["margin_k"], -20)

    def test_what_a_panel_costs(self) -> None:
        document = self.document()
        own = next(x for x in document["layouts"] if x["id"] == "A")
        document["layouts"].append(own | {"id": "P", "name": "front off", "panels": {"front": {"state": "removed"}}})
        self.client.put(
            f"/api/jobs/{self.job.pk}", json.dumps({"revision": self.job.revision, "document": document}), content_type="application/json"
        )
        self.run_of("A", 1)
        cooler = self.run_of("A", 1)
        Run.objects.filter(pk=cooler.pk).update(layout_key="P", layout=self.job.layouts.get(key="P"))
        found = self.get(f"/api/jobs/{self.job.pk}/panel-costs")
        self.assertEqual({(r["words"], r["with_it"], r["without"]) for r in found}, {("front panel", "A", "P")})
        self.assertEqual({r["word"] for r in found}, {"cannot_tell"}, "one run each")
        self.assertEqual({r["rating"] for r in found}, {""}, "what cannot be told is not rated")

    def test_drift_of_a_repeated_control(self) -> None:
        start = timezone.now()
        for hours, layout, planned, seed in ((0, "A", "r1", 1), (1, "B", "r2", 2), (2, "A", "r5", 1)):
            run = self.run_of(layout, seed, planned=planned)
            if planned == "r5":
                run.typed_room_c = load_log(run).room_c.mean() - 0.8  # type: ignore[union-attr]  # everything 0.8 K more over room
                refresh(run)
            Run.objects.filter(pk=run.pk).update(made_at=start + timedelta(hours=hours))
        found = next(d for d in self.get(f"/api/jobs/{self.job.pk}/drift") if d["channel"] == "cpu_package_c")
        self.assertAlmostEqual(found["drift_k"], 0.8, delta=0.15)
        (line,) = found["lines"]
        self.assertAlmostEqual(line["corrected_k"], line["apart_k"] - found["drift_k"] / 2, places=6)


class RoundTripTest(PlanCase):
    def test_simulated_exported_read_again_and_analysed_alike(self) -> None:
        made = self.post(f"/api/jobs/{self.job.pk}/runs/simulate", {"layout": "C", "minutes": 40, "seed": 4}, 201)
        text = self.client.get(f"/api/runs/{made['id']}/export.csv").content
        again = self.client.post(f"/api/jobs/{self.job.pk}/runs", {"file": SimpleUploadedFile("again.csv", text), "layout": "C"}).json()
        for one, two in zip(made["analysis"]["channels"], again["analysis"]["channels"], strict=True):
            self.assertEqual(one["name"], two["name"])
            for figure in ("mean", "sd", "standard_error", "rise_k", "max", "final_estimate"):
                if one[figure] is not None:
                    self.assertAlmostEqual(one[figure], two[figure], places=3, msg=f"{one['name']} {figure}")
        self.assertEqual(made["analysis"]["flags"], again["analysis"]["flags"])

    def test_a_package_comes_back_as_the_same_job(self) -> None:
        run = self.run_of("B", 2, held={"pump": "100 %"}, traits=["delidded"], protocol=from_template("short").model_dump(mode="json"))
        png = b"\x89PNG\r\n\x1a\n" + bytes(30)
        Mark.objects.create(run=run, kind="seen", tag="stagnant", at_s=60, x_mm=10, z_mm=20, picture=png, picture_type="image/png")
        Mark.objects.create(run=run, kind="event", tag="panel_opened", at_s=2500, drop=True)
        refresh(run)
        self.post(f"/api/jobs/{self.job.pk}/verdicts", {"layout": "B", "reason": "cooler", "margin_k": 1.5}, 201)
        data = self.client.get(f"/api/jobs/{self.job.pk}/package.zip").content
        made = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("job.zip", data)})
        self.assertEqual(made.status_code, 201, made.content[:300])
        other = made.json()["id"]
        self.assertEqual(self.get(f"/api/jobs/{other}")["document"], self.document())
        keep = ("name", "layout", "state", "held", "traits", "protocol_key", "analysis", "imported_at")
        ours, theirs = (
            [{k: r[k] for k in keep} for r in sorted(self.get(f"/api/jobs/{j}/runs"), key=lambda r: str(r["name"]))]
            for j in (self.job.pk, other)
        )
        self.assertEqual(len(ours), 10)
        for one, two in zip(ours, theirs, strict=True):
            self.assertEqual(rounded(one), rounded(two))
        copied = Run.objects.get(job_id=other, name=run.name)
        self.assertEqual(bytes(copied.marks.get(tag="stagnant").picture or b""), png)
        self.assertEqual(self.get(f"/api/jobs/{other}/verdicts")[0]["reason"], "cooler")

    def test_a_broken_package_leaves_nothing(self) -> None:
        before = Job.objects.count()
        answer = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("job.zip", b"PK\x03\x04 cut")})
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(Job.objects.count(), before)


class TraceTest(PlanCase):
    def long_run(self) -> Run:
        t = np.arange(0, 36000, 1.0)
        rng = np.random.default_rng(1)
        channels = {f"probe_{i}_c": 40 + rng.normal(0, 0.3, len(t)) for i in range(24)}
        channels["probe_3_c"][20_000] = 95.0
        run = Run.objects.create(
            job=self.job,
            layout_key="A",
            name="long",
            source_name="x",
            duration_s=35999,
            rows=len(t),
            columns=[{"channel": n} for n in channels],
        )
        keep_blocks(run, blocks_of(RunLog(t, channels)))
        return run

    def test_no_spike_is_lost_and_a_zoom_shows_every_reading(self) -> None:
        run = self.long_run()
        whole = self.get(f"/api/runs/{run.pk}/trace?points=1400")
        self.assertLess(len(whole["elapsed_s"]), 1500)
        self.assertEqual(max(v for v in whole["channels"][3]["values"]), 95.0)
        near = self.get(f"/api/runs/{run.pk}/trace?points=1400&from_s=19900&to_s=20100")
        self.assertEqual(near["elapsed_s"], [float(t) for t in range(19900, 20101)])
        self.assertEqual(near["channels"][3]["values"][100], 95.0)

    def test_what_runs_can_tell_is_said_before_they_are_made(self) -> None:
        found = self.get(f"/api/jobs/{self.job.pk}/reach?layouts=4")
        gaps = [r["gap_k"] for r in found["rows"]]
        self.assertEqual([r["runs"] for r in found["rows"]], [1, 2, 3, 4])
        self.assertEqual(gaps, sorted(gaps, reverse=True))
        self.assertGreater(found["sigma_k"], 0)
        self.assertIn("repeats", found["origin"])

    def test_a_stretch_over_the_edge_of_two_blocks(self) -> None:
        run = self.long_run()
        near = self.get(f"/api/runs/{run.pk}/trace?from_s=7150&to_s=7250")
        self.assertEqual(len(near["elapsed_s"]), 101)

    def test_an_hour_of_24_channels_is_small(self) -> None:
        """Under 1 MB for an hour at 1 Hz: ten hours under 10 MB."""
        run = self.long_run()
        self.assertLess(sum(len(b.data) for b in run.blocks.all()), 10_000_000)
