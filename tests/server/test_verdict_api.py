"""Verdicts over HTTP: the campaign with known truth, freezing, staleness, reports, records of others, other jobs beside."""

import io
import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from pypdf import PdfReader

from demo import campaign
from desk.verdict.record import RecordDoc, digest_of
from desk.verdict.words import plain
from engine.verdict.compare import layout_budget
from server.apps.bench import selectors as bench
from server.apps.bench.models import Run
from server.apps.jobs.adapters import document
from server.apps.jobs.models import Job
from server.apps.verdicts.models import Verdict
from tests.demo_rows import load_campaign_job, load_demo

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect width="9" height="9" /></svg>'


class VerdictApi(TestCase):
    job: Job

    @property
    def url(self) -> str:
        return f"/api/jobs/{self.job.pk}"

    def post(self, path: str, data: Any, status: int = 200) -> Any:
        answer = self.client.post(path, json.dumps(data), content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def verdict(self, **settings: Any) -> Any:
        return self.post(f"{self.url}/verdict", {"settings": settings})

    def freeze(self, layout: str = "D", **more: Any) -> Any:
        return self.post(f"{self.url}/verdicts", {"layout": layout, "reason": "cooler", "signed_by": "Bench hand"} | more, 201)


class CampaignTest(VerdictApi):
    """One made-up machine, forty-eight runs; its hidden truth is known here and nowhere else."""

    truth: dict[tuple[str, str], float]

    @classmethod
    def setUpTestData(cls) -> None:
        cls.job = load_campaign_job()
        cls.truth = {key: own.rows[-1].cpu_k for key, own in campaign.benches(campaign.document()).items()}

    def test_measured_figures_hold_the_truth(self) -> None:
        found = bench.candidates(self.job.pk, "both")
        inside = 0
        for c in found:
            own = layout_budget(found, c, "cpu_package_c")
            assert own
            inside += abs(own.value - self.truth[c.name, "both"]) <= own.expanded
        self.assertEqual(len(found), 13)
        self.assertGreaterEqual(inside, 12)

    def test_no_word_contradicts_the_truth(self) -> None:
        told = [p for p in self.verdict()["pairs"] if p["channel"] == "cpu_package_c" and p["word"] in ("better", "worse")]
        self.assertGreater(len(told), 30)
        for p in told:
            colder = self.truth[p["b"], "both"] < self.truth[p["a"], "both"]
            self.assertEqual(p["word"], "better" if colder else "worse", p)

    def test_ladder_design_speeds_panel_push_and_pull(self) -> None:
        v = self.verdict(chosen="E")
        e = v["effects"]
        self.assertEqual([s["end"] for s in e["ways"][0]["steps"]], list("BCDE"))
        own = next(x["ladder"] for x in e["ladders"] if x["ladder"]["channel"] == "cpu_package_c" and len(x["rungs"]) == 5)
        self.assertIn("B", own["negative"])
        design = next(d for d in e["designs"] if set(d["layouts"]) == set("CFGH") and d["channel"] == "cpu_package_c")
        truth = [self.truth[x, "both"] for x in design["layouts"]]
        by_changes = {tuple(x["changes"]): x for x in design["effects"]}
        first = by_changes[design["names"][0],]
        self.assertLess(abs(first["effect_k"] - (truth[1] + truth[3] - truth[0] - truth[2]) / 2), 2 * first["expanded_k"])
        self.assertEqual({n["kind"] for n in e["named"]}, {"panel", "push_pull"})
        self.assertTrue(next(n for n in e["named"] if n["kind"] == "push_pull")["price"])
        quiet = next(q for q in e["equal_noise"] if q["channel"] == "cpu_package_c")
        placed = {r["family"]: r["place"] for r in quiet["rows"]}
        self.assertEqual((placed["C"], placed["D"], placed["L"]), ("between", "between", "beyond"))
        self.assertEqual(self.verdict(level_dba=45)["effects"]["equal_noise"][0]["pairs"], [])

    def test_loads_differ_in_their_best(self) -> None:
        loads = {x["load"]: x for x in self.verdict()["loads"]}
        self.assertEqual(set(loads), {"both", "idle", "cpu", "card"})
        truth = min("ACD", key=lambda x: self.truth[x, "cpu"])
        self.assertIn(loads["cpu"]["best"].get("cpu_package_c", truth), truth)
        self.assertEqual(self.verdict(load="idle")["load"], "idle")

    def test_the_winner_turns_with_the_profile(self) -> None:
        best = {p["name"]: p["best"] for p in self.verdict()["profiles"]}
        self.assertGreater(len(set(best.values())), 2)
        self.assertIn(best["processor"], ("D", "L", "M"))  # one layout at three speeds: by two runs of each, not always told apart
        self.assertEqual(self.verdict(profile="quiet")["best"], best["quiet"])
        self.post(f"{self.url}/verdict", {"settings": {"profile": "loudest"}}, 422)

    def test_another_job_beside_is_context_only_unless_alike(self) -> None:
        raw = document(self.job)
        raw["name"], raw["parts"]["cards"][0]["name"] = "Another card", "another card"
        answer = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("j.json", json.dumps(raw).encode())})
        other_id = answer.json()["id"]
        run = Run.objects.get(job=self.job, name="D run 1")
        layout = Job.objects.get(pk=other_id).layouts.get(key="D")
        run.pk, run.job_id, run.layout, run._state.adding = None, other_id, layout, True
        run.save()
        v = self.post(f"{self.url}/verdict", {"settings": {}, "beside": [{"job": other_id, "layout": "D"}]})
        pairs = [p for p in v["pairs"] if p["b"] == "Another card, D"]
        self.assertTrue(pairs and all(p["context"] and p["word"] == "cannot_tell" for p in pairs))
        self.assertNotIn("Another card, D", [p["layout"] for p in v["placed"]])
        self.post(f"{self.url}/verdict", {"settings": {}, "beside": [{"job": other_id, "layout": "A"}]}, 422)

    def test_a_changed_run_is_judged_anew(self) -> None:
        before = self.verdict()
        self.assertEqual(self.verdict()["figures"], before["figures"])
        Run.objects.filter(job=self.job, name="D run 1").update(state="void", void_reason="door open")
        after = self.verdict()
        self.assertNotEqual(after["figures"], before["figures"])


class ChangedSinceTest(VerdictApi):
    """Runs keep what they were made with: a part or a layout that is changed afterwards is said."""

    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")

    def change(self, edit: Any) -> None:
        self.job.refresh_from_db()
        raw = document(self.job)
        edit(raw)
        body = json.dumps({"revision": self.job.revision, "document": raw})
        answer = self.client.put(self.url, body, content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:300])

    def said(self) -> tuple[str, list[str]]:
        v = self.verdict(chosen="D")
        scope = next(s for s in v["claim"]["sentences"] if s["code"] == "scope")
        doubts = [f"{self.words(d['what'])}: {self.words(d['because'])}" for d in v["doubts"] if d["code"] == "changed_since"]
        return self.words(scope["parts"]), doubts

    @staticmethod
    def words(parts: list[Any]) -> str:
        return "".join(p if isinstance(p, str) else f"{p['value']:g}" for p in parts)

    def test_nothing_is_said_while_nothing_changed(self) -> None:
        scope, doubts = self.said()
        self.assertIn("these parts", scope)
        self.assertEqual(doubts, [])
        self.change(lambda raw: raw["layouts"][3].update(note="looked at again", name="another name"))
        self.assertEqual(self.said()[1], [])

    def test_a_part_that_was_changed_is_named_for_every_layout(self) -> None:
        self.change(lambda raw: raw["parts"]["cpus"][0].update(power_w=140))
        scope, doubts = self.said()
        self.assertNotIn("these parts", scope)
        self.assertIn("which have changed since", scope)
        self.assertEqual(len(doubts), 4)
        self.assertIn("125 W, now plotting processor, 125 W, 140 W", doubts[0])
        self.change(lambda raw: raw["parts"]["cpus"][0].update(power_w=125))
        self.assertEqual(self.said()[1], [])

    def test_a_layout_that_was_changed_is_named_alone(self) -> None:
        self.change(lambda raw: raw["layouts"][3]["fans"][0].update(direction="exhaust"))
        _, doubts = self.said()
        self.assertEqual(len(doubts), 1)
        self.assertTrue(doubts[0].startswith("D was changed after its runs: how it is set up"))

    def test_a_figure_of_a_fan_counts_where_it_turns(self) -> None:
        self.change(lambda raw: next(f for f in raw["parts"]["fans"] if f["id"] == "tern-120").update(flow_max_m3h=70))
        self.assertTrue(self.said()[1])


class RecordApiTest(VerdictApi):
    def setUp(self) -> None:
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")

    def test_freeze_keeps_all_and_signs_it(self) -> None:
        first = self.freeze(drawings={"D": SVG})
        self.assertEqual((first["layout"], first["signed_by"], first["stale"], len(first["digest"])), ("D", "Bench hand", [], 64))
        record = self.client.get(f"/api/verdicts/{first['id']}/record.json").json()
        self.assertEqual(RecordDoc.model_validate(record).own_digest(), record["digest"])
        self.assertEqual((record["layout"], len(record["runs"]), record["drawings"]["D"]), ("D", 9, SVG))
        second = self.freeze("C")
        self.assertIn("choice: D, now C", second["moved"])
        self.assertEqual(Verdict.objects.first().record["previous"], first["digest"])  # type: ignore[union-attr]

    def test_bad_input_is_refused_and_nothing_is_lost(self) -> None:
        self.freeze()
        for wrong, status in (({"reason": ""}, 422), ({"layout": "Z", "reason": "x"}, 404), ({"drawings": {"D": "<html>"}}, 422)):
            self.post(f"{self.url}/verdicts", {"layout": "D", "reason": "cooler"} | wrong, status)
        self.assertEqual(Verdict.objects.count(), 1)

    def test_a_record_goes_stale_when_parts_layouts_or_runs_change(self) -> None:
        self.freeze()
        raw = document(self.job)
        raw["parts"]["cpus"][0]["power_w"] = 130
        saved = self.client.put(self.url, json.dumps({"revision": self.job.revision, "document": raw}), content_type="application/json")
        self.assertEqual(saved.status_code, 200)
        Run.objects.filter(name="B run 1").update(state="void", void_reason="door open")
        said = self.client.get(f"{self.url}/verdicts").json()[0]["stale"]
        self.assertIn("the parts", said)
        self.assertIn("changed: B run 1", said)

    def test_html_and_pdf_show_the_figures_of_the_screen(self) -> None:
        made = self.freeze(drawings={"D": SVG})
        v = self.verdict(chosen="D")
        page = self.client.get(f"/api/verdicts/{made['id']}/report.html")
        text = page.content.decode()
        answer = self.client.get(f"/api/verdicts/{made['id']}/report.pdf")
        self.assertEqual(answer["Content-Type"], "application/pdf")
        words = "".join("".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages).split())
        for f in v["figures"]:
            if f["channel"] in ("cpu_package_c", "card_core_c", "sound_dba"):
                shown = f"{f['value']:.1f} ± {f['band']:.1f}"
                self.assertIn(shown, text)
                self.assertIn(shown.replace(" ", ""), words)
        self.assertIn(made["digest"], text)
        self.assertIn("data:image/svg+xml;base64", text)
        self.assertNotIn("http://", text.replace("http://www.w3.org", ""))
        for name in ("D run, too short", "the room temperature is doubtful", "Bench hand", "cannot tell"):
            self.assertIn(name, text)

    def test_a_report_shows_words_and_never_runs_them(self) -> None:
        made = self.freeze(reason="<script>alert(1)</script>", drawings={"D": SVG.replace("<rect", "<script>x</script><rect")})
        text = self.client.get(f"/api/verdicts/{made['id']}/report.html").content.decode()
        self.assertNotIn("<script", text)

    def test_csv_holds_null_results_too(self) -> None:
        made = self.freeze()
        rows = self.client.get(f"/api/verdicts/{made['id']}/figures.csv").content.decode().splitlines()
        self.assertTrue(any(",cannot_tell," in r for r in rows))
        self.assertTrue(any(r.startswith("figure,D,,cpu_package_c,40.8") and r.endswith(",K,over room,") for r in rows))
        self.assertTrue(any(r.startswith("figure,D,,sound_dba,") and r.endswith(",dB(A),as read,") for r in rows))

    def bring(self, content: bytes, status: int = 201) -> Any:
        answer = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("x.json", content)})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def test_a_record_opens_as_a_job_with_its_verdict(self) -> None:
        made = self.freeze()
        content = self.client.get(f"/api/verdicts/{made['id']}/record.json").content
        other = self.bring(content)["id"]
        kept = self.client.get(f"/api/jobs/{other}/verdicts").json()[0]
        self.assertEqual((kept["digest"], kept["signed_by"], kept["made_at"][:16]), (made["digest"], "Bench hand", made["made_at"][:16]))
        self.bring(content.replace(b"Bench hand", b"Somebody"), 422)

    def test_a_replication_opens_as_an_empty_job_with_the_same_plan(self) -> None:
        made = self.freeze()
        other = self.bring(self.client.get(f"/api/verdicts/{made['id']}/replication.json").content)["id"]
        job = Job.objects.get(pk=other)
        raw = document(job)
        self.assertEqual((job.runs.count(), raw["plan"]["protocol"], len(raw["plan"]["runs"])), (0, "soak", 4))
        v = self.post(f"/api/jobs/{other}/verdict", {})
        self.assertEqual({c["within"] for c in v["checked"]}, {None})
        self.assertGreater(len(v["checked"]), 8)

    def test_a_package_brings_back_a_verdict_that_still_holds(self) -> None:
        made = self.freeze()
        content = b"".join(self.client.get(f"{self.url}/package.zip"))
        other = self.bring(content)["id"]
        kept = self.client.get(f"/api/jobs/{other}/verdicts").json()[0]
        self.assertEqual((kept["digest"], kept["stale"]), (made["digest"], []))
        Run.objects.filter(job_id=other, name="D run 1").update(state="void", void_reason="door open")
        self.assertEqual(self.client.get(f"/api/jobs/{other}/verdicts").json()[0]["stale"], ["changed: D run 1"])

    def test_the_report_lists_every_setting(self) -> None:
        text = self.client.get(f"/api/verdicts/{self.freeze()['id']}/report.html").content.decode()
        shared = ("processor plotting processor, 125 W", "card&#x27;s fans, % 62;", "curve night by hotter: 45 to 35 %")
        self.assertNotRegex(text, r"<td[^>]*>(100|0) %</td>", "no chance is all or none")
        cooler = next(c["name"] for c in document(self.job)["parts"]["coolers"] if c["id"] == "shearwater")
        for words in (*shared, f"cooler: {cooler}", "T1 inside Skua 120", "F3 Tern 120 in at 74 %", "240 mm radiator at F1, F2"):
            self.assertTrue(words in text, words)

    def test_a_run_says_what_it_was_built_with_as_its_layout_was_drawn_then(self) -> None:
        run = Run.objects.filter(job=self.job, layout_key="A").first()
        assert run is not None
        drawn = next(x for x in document(self.job)["layouts"] if x["id"] == "A")
        run.drawn = drawn | {"panels": {"front": {"kind": "glass", "improvised": True}}, "open_bench": True}
        run.save()
        told = {r["id"]: r["built_with"] for r in self.client.get(f"{self.url}/runs").json()}
        self.assertEqual(told.pop(run.pk), ["front panel: glass, improvised", "on the open bench"])
        self.assertEqual({tuple(x) for x in told.values()}, {()})

    def test_the_report_names_accepted_findings_with_their_reasons(self) -> None:
        raw = document(self.job)
        layout = next(x for x in raw["layouts"] if x["id"] == "D")
        layout["accepted"] = [{"code": "fan_choked", "mounts": ["f1", "f2"], "reason": "the cage stays until spring"}]
        saved = self.client.put(self.url, json.dumps({"revision": self.job.revision, "document": raw}), content_type="application/json")
        self.assertEqual(saved.status_code, 200, saved.content[:300])
        text = self.client.get(f"/api/verdicts/{self.freeze()['id']}/report.html").content.decode()
        self.assertIn("fan choked at F1 and F2: the cage stays until spring", text)

    def test_an_old_verdict_without_a_record_stays_readable(self) -> None:
        old = Verdict.objects.create(job=self.job, layout_key="A", reason="as it was", margin_k=1.5)
        self.assertEqual(self.client.get(f"{self.url}/verdicts").json()[0]["reason"], "as it was")
        self.assertEqual(self.client.get(f"/api/verdicts/{old.pk}/report.html").status_code, 422)

    def test_a_record_of_another_version_stays_listed_and_whole(self) -> None:
        made = self.freeze()
        v = Verdict.objects.get(pk=made["id"])
        raw = {key: value for key, value in v.record.items() if key not in ("verdict", "digest")} | {"later": "field"}
        v.record = raw | {"digest": digest_of(raw)}
        v.save()
        self.assertIn("another version", self.client.get(f"{self.url}/verdicts").json()[0]["stale"][0])
        self.assertEqual(self.client.get(f"/api/verdicts/{v.pk}/record.json").json()["later"], "field")
        self.assertEqual(self.client.get(f"/api/verdicts/{v.pk}/report.html").status_code, 422)

    def test_what_is_done_between_two_layouts(self) -> None:
        found = self.post("/api/changes", {"document": document(self.job), "before": "A", "after": "B"})
        self.assertIn("put Tern 120 at T1, out", found["lines"])
        self.assertGreater(found["minutes"], 10)

    def test_words_of_the_claim_are_the_report_s(self) -> None:
        made = self.freeze()
        record = RecordDoc.model_validate(Verdict.objects.get(pk=made["id"]).record)
        assert record.verdict.claim
        text = self.client.get(f"/api/verdicts/{made['id']}/report.html").content.decode()
        self.assertIn(plain(record.verdict.claim.head), text)
