"""Benches and live runs: readings taken once, gates, limits, the end, and what survives a restart."""

import io
import json
from datetime import timedelta
from typing import Any
from unittest.mock import patch

from django.test import TestCase
from django.utils import timezone

from documents.job.planned import from_template
from engine.runs.series import RunLog
from instruments.standin import Fault, simulate
from server.apps.bench import benches, buffer, live, readings, watching
from server.apps.bench.adapters import load_log
from server.apps.bench.figures import basis_of
from server.apps.bench.models import Batch, Run, Session
from server.apps.jobs.models import Job
from tests.demo_rows import load_demo
from tests.machines import machine

ROWS = 90


class LiveCase(TestCase):
    def setUp(self) -> None:
        buffer.forget_all()
        watching.forget_all()
        # Rows are fed far faster than in life: every post may be looked at.
        pauses = ((watching, "LEAST_PAUSE_S"), (watching, "COST_FACTOR"), (watching, "LEAST_FACTOR"), (readings, "END_LOOK_S"))
        for module, name in pauses:
            patched = patch.object(module, name, 0.0)
            patched.start()
            self.addCleanup(patched.stop)
        load_demo()
        self.job = Job.objects.get(name="Watch-room plotter")
        made = self.post("/api/benches", {"name": "bench one"}, 201)
        self.bench, self.token = made["id"], made["token"]
        self.seq = 0

    def post(self, path: str, body: Any, status: int = 200, **headers: Any) -> Any:
        answer = self.client.post(path, json.dumps(body), content_type="application/json", **headers)
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return answer.json() if answer.content else None

    def send(self, elapsed_s: list[float], channels: dict[str, list[float | None]], seq: int | None = None, status: int = 200) -> Any:
        if seq is None:
            self.seq += 1
            seq = self.seq
        body = {"session": "s", "seq": seq, "elapsed_s": elapsed_s, "channels": channels}
        return self.post(f"/api/benches/{self.bench}/readings", body, status, HTTP_AUTHORIZATION=f"Bearer {self.token}")

    def feed(self, log: RunLog, from_s: float = 0.0, to_s: float = 1e9, rows: int = ROWS) -> Any:
        """Posts a log's rows until its end or until the run is over; the last answer."""
        pick = [i for i, t in enumerate(log.elapsed_s) if from_s <= t < to_s]
        said = None
        for first in range(0, len(pick), rows):
            part = pick[first : first + rows]
            values = {n: [None if v[i] != v[i] else float(v[i]) for i in part] for n, v in log.channels.items()}
            said = self.send([float(log.elapsed_s[i]) for i in part], values)
        return said

    def state(self) -> Any:
        return self.client.get(f"/api/benches/{self.bench}/live").json()

    def prepare(self, template: str = "short", **changes: Any) -> Any:
        protocol = from_template(template).model_dump(mode="json") | {"ready_s": 0, "window_s": 120} | changes
        return self.post(f"/api/jobs/{self.job.pk}/live", {"bench": self.bench, "layout": "A", "protocol": protocol}, 201)

    def ticked(self, draft: Any) -> Any:
        body = {"held": {h["what"]: "as set" for h in draft["held"]}, "acknowledged": draft["cautions"]}
        answer = self.client.patch(f"/api/live/{draft['id']}", json.dumps(body), content_type="application/json")
        return answer.json()

    def started(self, template: str = "short", **changes: Any) -> Any:
        """A run that is being logged after a minute of rest."""
        self.feed(resting(60))
        draft = self.ticked(self.prepare(template, **changes))
        return self.post(f"/api/live/{draft['id']}/start", {})


def resting(seconds: int) -> RunLog:
    """A machine that stands still at room temperature."""
    log = simulate(machine(), max(seconds / 60, 2), 3, 1.0)
    return RunLog(log.elapsed_s[:seconds], {n: v[:1].repeat(seconds) for n, v in log.channels.items()})


class ReadingsTest(LiveCase):
    def test_a_post_is_stored_once_however_often_it_comes(self) -> None:
        for _ in range(3):
            self.assertEqual(self.send([0, 1], {"cpu_package_c": [30, 31]}, seq=1)["acknowledged"], 1)
        self.assertEqual(Batch.objects.count(), 1)

    def test_posts_that_come_late_and_out_of_order_are_all_there(self) -> None:
        self.send([0, 1], {"cpu_package_c": [30, 31]}, seq=1)
        self.send([4, 5], {"cpu_package_c": [34, 35]}, seq=3)
        self.send([2, 3], {"cpu_package_c": [32, 33]}, seq=2)
        log = watching.present_log(self.bench, benches.now_s(self.bench))
        assert log is not None
        self.assertEqual(log.channels["cpu_package_c"].tolist(), [30, 31, 32, 33, 34, 35])

    def test_without_the_token_nothing_is_taken(self) -> None:
        body = {"session": "s", "seq": 1, "elapsed_s": [0], "channels": {}}
        answer = self.post(f"/api/benches/{self.bench}/readings", body, 401, HTTP_AUTHORIZATION="Bearer wrong")
        self.assertEqual(answer["code"], "bad_token")
        self.post(f"/api/benches/{self.bench}/readings", body, 401)
        renewed = self.post(f"/api/benches/{self.bench}/token", {})
        self.post(f"/api/benches/{self.bench}/readings", body, 401, HTTP_AUTHORIZATION=f"Bearer {self.token}")
        self.post(f"/api/benches/{self.bench}/readings", body, 200, HTTP_AUTHORIZATION=f"Bearer {renewed['token']}")

    def test_bad_posts_are_refused_with_the_place(self) -> None:
        for body, place in (
            ({"elapsed_s": [0, 1], "channels": {"cpu_package_c": [1]}}, "channels.cpu_package_c"),
            ({"elapsed_s": [1, 0], "channels": {}}, "elapsed_s"),
            ({"elapsed_s": [0], "channels": {"Core Temp": [1]}}, "channels.Core Temp"),
            ({"elapsed_s": [0], "channels": {"cpu_package_c": ["hot"]}}, "channels.cpu_package_c[0]"),
        ):
            with self.subTest(place=place):
                full = {"session": "s", "seq": 1, **body}
                got = self.post(f"/api/benches/{self.bench}/readings", full, 422, HTTP_AUTHORIZATION=f"Bearer {self.token}")
                self.assertIn(place, got["faults"][0]["path"])
        self.assertEqual(Batch.objects.count(), 0)

    def test_a_slower_source_joins_the_rows_of_the_faster(self) -> None:
        self.send([float(i) for i in range(20)], {"cpu_package_c": [40.0] * 20})
        for i in range(2):
            body = {"session": "room", "seq": i + 1, "elapsed_s": [10.0 * i], "channels": {"room_c": [22.0 + i]}}
            self.post(f"/api/benches/{self.bench}/readings", body, 200, HTTP_AUTHORIZATION=f"Bearer {self.token}")
        log = watching.present_log(self.bench, benches.now_s(self.bench))
        assert log is not None
        self.assertEqual([v for v in log.channels["room_c"].tolist() if v == v], [22.0, 23.0])
        self.assertLessEqual(len(log.elapsed_s), 22)


class RunTest(LiveCase):
    LOG = simulate(machine(), 12, 7, 1.0)

    def test_from_prepared_to_settled_by_itself(self) -> None:
        draft = self.started()
        said = self.feed(simulate(machine(), 60, 7, 1.0).shifted(60.0))
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual((run.state, run.ended_why), ("valid", "settled"))
        self.assertTrue(run.analysis["settled"])
        self.assertLess(run.duration_s, 59 * 60)
        self.assertEqual(said["phase"], "rest")
        self.assertEqual(run.analysis["flags"], [])

    def test_a_run_whose_stored_figures_do_not_bear_it_out_keeps_its_load_and_ends_later(self) -> None:
        draft = self.started()
        log = simulate(machine(), 60, 7, 1.0).shifted(60.0)
        looks: list[int] = []
        basis_kind = type(basis_of(Run.objects.get(pk=draft["id"])))
        honest = basis_kind.figures

        def doubtful(basis: Any, kept: Any) -> Any:
            looks.append(1)
            return honest(basis, kept) | ({"settled": False} if len(looks) <= 3 else {})

        with patch.object(basis_kind, "figures", doubtful):
            for first in range(60, 3660, ROWS):
                said = self.feed(log, from_s=first, to_s=first + ROWS)
                run = Run.objects.get(pk=draft["id"])
                if run.state != "draft":
                    break
                self.assertEqual((run.ended_why, said["phase"]), ("", "load"))
        self.assertGreater(len(looks), 3)
        self.assertEqual((run.state, run.ended_why, said["phase"]), ("valid", "settled", "rest"))

    def test_one_that_an_older_version_told_to_rest_too_soon_goes_on(self) -> None:
        draft = self.started()
        self.feed(simulate(machine(), 60, 7, 1.0).shifted(60.0), to_s=600)
        Run.objects.filter(pk=draft["id"]).update(ended_why="settled")
        said = self.feed(simulate(machine(), 60, 7, 1.0).shifted(60.0), from_s=600, to_s=780)
        self.assertEqual((Run.objects.get(pk=draft["id"]).ended_why, said["phase"]), ("", "load"))

    def test_nothing_starts_before_everything_is_ticked(self) -> None:
        self.feed(resting(60))
        draft = self.prepare("restriction")
        self.assertEqual(draft["cautions"], ["panel_off"])
        refused = self.post(f"/api/live/{draft['id']}/start", {}, 422)
        self.assertIn("Tick", refused["faults"][0]["what"])
        self.ticked(draft)
        self.assertTrue(self.state()["step"]["may_start"])
        self.post(f"/api/live/{draft['id']}/start", {})

    def test_a_warm_machine_waits_or_is_marked(self) -> None:
        hot = simulate(machine(), 20, 5, 1.0)
        self.feed(hot)
        draft = self.ticked(self.prepare())
        self.assertEqual(self.state()["step"]["phase"], "cool")
        self.post(f"/api/live/{draft['id']}/start", {}, 422)
        self.post(f"/api/live/{draft['id']}/start", {"waive": True})
        self.assertEqual([m["tag"] for m in self.state()["run"]["marks"]], ["gate_waived"])

    def test_a_new_loop_is_purged_first(self) -> None:
        self.feed(resting(60))
        draft = self.prepare()
        held = {h["what"]: "as set" for h in draft["held"]}
        body = {"held": held, "loop_new": True}
        self.assertTrue(self.client.patch(f"/api/live/{draft['id']}", json.dumps(body), content_type="application/json").json()["loop_new"])
        Run.objects.filter(pk=draft["id"]).update(loop_filled_at=timezone.now() - timedelta(minutes=2))
        step = self.state()["step"]
        self.assertEqual(step["phase"], "purge")
        self.assertAlmostEqual(step["countdown_s"], 13 * 60, delta=5)
        self.post(f"/api/live/{draft['id']}/start", {}, 422)

    def test_nobody_is_asked_to_start_a_load_that_its_sender_puts_on(self) -> None:
        for loads, by_itself in (([], False), (["card"], False), (["cpu", "both"], True)):
            with self.subTest(loads=loads):
                self.started(ready_s=30)
                self.seq += 1
                body = {"session": "s", "seq": self.seq, "elapsed_s": [60.0 + self.seq], "channels": {"room_c": [22.0]}}
                path = f"/api/benches/{self.bench}/readings"
                self.post(path, body | {"loads": loads}, 200, HTTP_AUTHORIZATION=f"Bearer {self.token}")
                step = self.state()["step"]
                self.assertEqual((step["phase"], step["by_itself"]), ("countdown", by_itself), step)
                self.assertIn("starts by itself" if by_itself else "Start the load", step["action"])
                Run.objects.all().delete()
        self.post(path, body | {"loads": ["sauna"]}, 422, HTTP_AUTHORIZATION=f"Bearer {self.token}")

    def test_a_limit_stops_the_run_and_asks_for_the_load_off(self) -> None:
        limits = [{"channel": "card_core_c", "value": 50.0, "hold_s": 3, "set_by": "the tester"}]
        draft = self.started(limits=limits)
        said = self.feed(simulate(machine(), 30, 7, 1.0).shifted(60.0))
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual((run.state, run.ended_why), ("valid", "limit"))
        self.assertEqual(run.alarms[0]["channel"], "card_core_c")
        self.assertEqual(said, {"acknowledged": self.seq, "phase": "rest", "load": "idle"})
        self.assertLess(run.duration_s, 15 * 60)

    def test_a_lost_fan_is_told_within_seconds(self) -> None:
        mount = next(f.mount for f in machine().fans)
        log = simulate(machine(), 10, 7, 1.0, [Fault("tach_lost", 5.0, mount)]).shifted(60.0)
        self.started()
        self.feed(log, to_s=60 + 290)
        self.assertEqual(self.state()["run"]["alarms"], [])
        self.feed(log, from_s=60 + 290, to_s=60 + 306, rows=1)
        (alarm,) = self.state()["run"]["alarms"]
        self.assertEqual((alarm["kind"], alarm["channel"]), ("tach_lost", f"fan_{mount}_rpm"))
        self.assertLess(alarm["at_s"], 306)

    def test_a_restart_in_mid_run_goes_on_where_it_was(self) -> None:
        log = simulate(machine(), 60, 7, 1.0).shifted(60.0)
        draft = self.started()
        self.feed(log, to_s=60 + 600)
        before = self.state()
        buffer.forget_all()
        watching.forget_all()
        after = self.state()
        self.assertEqual(before["figures"]["channels"], after["figures"]["channels"])
        self.feed(log, from_s=60 + 600)
        self.assertEqual(Run.objects.get(pk=draft["id"]).ended_why, "settled")

    def test_the_wait_is_told_from_earlier_runs_with_the_same_parts_and_load(self) -> None:
        draft = self.started()
        before = Run.objects.filter(job=self.job).exclude(pk=draft["id"])
        before.exclude(layout_key="A").update(state="void")  # the others have another cooler, or are no more than these
        log = simulate(machine(), 5, 7, 1.0).shifted(60.0)
        logged = {n: v for n, v in log.channels.items() if n in {c["channel"] for c in before.filter(state="valid")[0].columns}}
        self.feed(RunLog(log.elapsed_s, logged))
        self.assertEqual(self.state()["figures"]["more_from"], "as this machine came to rest in 2 earlier runs")
        now = Run.objects.get(pk=draft["id"]).made_with
        for change in ({"load": "gpu"}, {"load": "both", "made_with": now | {"cooler": "another"}}):
            before.filter(state="valid").update(**change)
            watching.forget_all()
            figures = self.state()["figures"]
            self.assertEqual(figures["more_from"], "")
            self.assertTrue(figures["more"])

    def test_one_live_run_per_bench(self) -> None:
        self.feed(resting(60))
        self.prepare()
        body = {"bench": self.bench, "layout": "B", "protocol": from_template("short").model_dump(mode="json")}
        self.assertEqual(self.post(f"/api/jobs/{self.job.pk}/live", body, 409)["code"], "bench_busy")

    def test_end_now_is_a_run_that_is_short(self) -> None:
        draft = self.started()
        self.feed(simulate(machine(), 10, 7, 1.0).shifted(60.0))
        state = self.state()
        self.assertEqual(state["step"]["phase"], "soak")
        self.assertGreater(state["figures"]["end_now_band_k"], 0.5)
        run = self.post(f"/api/live/{draft['id']}/end", {})
        self.assertEqual([f["code"] for f in run["analysis"]["flags"]], ["too_short"])

    def test_a_discarded_draft_is_void_and_kept(self) -> None:
        draft = self.started()
        self.feed(simulate(machine(), 5, 7, 1.0).shifted(60.0))
        self.post(f"/api/live/{draft['id']}/discard", {"reason": "wrong layout"}, 204)
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual((run.state, run.void_reason), ("void", "wrong layout"))
        self.assertGreater(load_log(run).duration_s, 200)

    def test_a_room_read_by_hand_at_both_ends_is_interpolated(self) -> None:
        log = simulate(machine(), 12, 7, 1.0)
        quiet = RunLog(log.elapsed_s, {n: v for n, v in log.channels.items() if n != "room_c"})
        rest = resting(60)
        self.feed(RunLog(rest.elapsed_s, {n: v for n, v in rest.channels.items() if n != "room_c"}))
        draft = self.ticked(self.prepare(end="fixed", minutes=10, least_minutes=1))
        self.assertIn("Read the room", self.state()["step"]["action"])
        path = f"/api/runs/{draft['id']}/readings"
        self.post(path, {"channel": "room_c", "value": 21.0})
        self.assertEqual((self.state()["room_c"], self.state()["room_logged"]), (21.0, False))
        self.post(f"/api/live/{draft['id']}/start", {})
        self.feed(quiet.shifted(60.0), to_s=60 + 590)
        self.assertTrue(self.post(path, {"channel": "room_c", "value": 23.0})["stored"])
        self.feed(quiet.shifted(60.0), from_s=60 + 590)
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual(run.ended_why, "time")
        room = load_log(run).room_c
        assert room is not None
        self.assertAlmostEqual(float(room[0]), 21.0, places=1)
        self.assertAlmostEqual(float(room[len(room) // 2]), 22.0, delta=0.3)
        self.assertNotIn("room_missing", [f["code"] for f in run.analysis["flags"]])

    def test_without_a_room_it_is_not_comparable(self) -> None:
        rest = resting(60)
        self.feed(RunLog(rest.elapsed_s, {n: v for n, v in rest.channels.items() if n != "room_c"}))
        draft = self.ticked(self.prepare(end="fixed", minutes=3, least_minutes=1, window_s=60))
        self.post(f"/api/live/{draft['id']}/start", {})
        log = simulate(machine(), 5, 7, 1.0)
        self.feed(RunLog(log.elapsed_s, {n: v for n, v in log.channels.items() if n != "room_c"}).shifted(60.0))
        self.assertIn("room_missing", [f["code"] for f in Run.objects.get(pk=draft["id"]).analysis["flags"]])

    def test_a_fan_that_does_not_turn_as_the_layout_says_is_told_before_the_start(self) -> None:
        rest = resting(60)
        slow = {n: v * (0.5 if n == "fan_r1_rpm" else 1) for n, v in rest.channels.items()}
        self.feed(RunLog(rest.elapsed_s, slow))
        self.prepare()
        (note,) = self.state()["notes"]
        self.assertIn("R1 turns at 600", note)

    def test_the_last_minute_and_the_room_read_once(self) -> None:
        rest, log = (RunLog(x.elapsed_s, {n: v for n, v in x.channels.items() if n != "room_c"}) for x in (resting(60), self.LOG))
        self.feed(rest)
        draft = self.ticked(self.prepare(end="fixed", minutes=6, least_minutes=1, statistic="last_minute", room="both_ends"))
        self.post(f"/api/runs/{draft['id']}/readings", {"channel": "room_c", "value": 22.0})
        self.post(f"/api/live/{draft['id']}/start", {})
        self.feed(log.shifted(60.0), to_s=60 + 330)
        self.assertIn("once more", self.state()["step"]["action"])
        self.feed(log.shifted(60.0), from_s=60 + 330)
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual(run.window_s, 60)
        start, end = run.analysis["channels"][0]["window_s"]
        self.assertAlmostEqual(end - start, 60)
        self.assertIn("read once only", run.notes[0])

    def test_a_noisy_room_is_said_before_the_start(self) -> None:
        self.feed(resting(60))
        draft = self.prepare("noise")
        self.client.patch(f"/api/live/{draft['id']}", json.dumps({"background_dba": 32.0}), content_type="application/json")
        (note,) = self.state()["notes"]
        self.assertIn("2.0 dB", note)

    def test_a_silent_bench_stands_still(self) -> None:
        self.feed(resting(60))
        self.ticked(self.prepare())
        Session.objects.update(heard_at=timezone.now() - timedelta(minutes=30))
        self.assertAlmostEqual(benches.now_s(self.bench), 59 + benches.SILENT_S, delta=1)
        self.assertEqual(self.state()["step"]["action"][:22], "No readings arrive. St")

    def test_ended_twice_is_ended_once(self) -> None:
        draft = self.started()
        self.feed(simulate(machine(), 5, 7, 1.0).shifted(60.0))
        run = Run.objects.get(pk=draft["id"])
        other = Run.objects.get(pk=draft["id"])
        log = watching.run_log(other)
        live.end_run(run.pk, "person")
        again = live._close(other.pk, log, state="void")  # a second request that had read the draft before
        self.assertEqual((again.state, again.ended_why), ("valid", "person"))

    def test_readings_can_be_struck(self) -> None:
        draft = self.started()
        self.feed(simulate(machine(), 3, 7, 1.0).shifted(60.0))
        self.post(f"/api/runs/{draft['id']}/readings", {"channel": "score", "value": 100})
        self.post(f"/api/live/{draft['id']}/end", {})
        run = Run.objects.get(pk=draft["id"])
        self.assertIn("score", [c["name"] for c in run.analysis["channels"]])
        self.assertEqual(self.client.delete(f"/api/runs/{run.pk}/readings/0").status_code, 204)
        run.refresh_from_db()
        self.assertNotIn("score", [c["name"] for c in run.analysis["channels"]])
        self.assertEqual(run.by_hand[0]["state"], "struck")
        self.assertEqual(self.client.delete(f"/api/runs/{run.pk}/readings/7").status_code, 422)


class BenchesTest(LiveCase):
    def test_names_are_their_own(self) -> None:
        self.assertIn("there is a bench named", self.post("/api/benches", {"name": "bench one"}, 422)["faults"][0]["what"])
        self.post("/api/benches", {"name": ""}, 422)
        self.assertEqual([b["name"] for b in self.client.get("/api/benches").json()], ["bench one"])

    def test_an_instrument_that_does_not_answer_is_not_kept(self) -> None:
        body = {"kind": "logger", "address": "127.0.0.1:1", "channels": {"101": "air_front_c"}}
        self.post(f"/api/benches/{self.bench}/instruments", body, 422)
        self.post(f"/api/benches/{self.bench}/instruments", body | {"channels": {}}, 422)
        self.assertEqual(self.client.get("/api/benches").json()[0]["instruments"], [])

    def test_no_made_up_machine_no_pace(self) -> None:
        answer = self.client.patch(f"/api/benches/{self.bench}/standin", json.dumps({"rate": 10}), content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        for body in ({"layout": "A", "rate": 500}, {"layout": "Z"}, {"layout": "A", "faults": [{"kind": "meteor"}]}):
            self.post(f"/api/jobs/{self.job.pk}/standin", body, 422)


class ClipboardTest(LiveCase):
    def test_typed_figures_are_questioned(self) -> None:
        draft = self.started()
        self.feed(simulate(machine(), 5, 7, 1.0).shifted(60.0))
        path = f"/api/runs/{draft['id']}/readings"
        self.assertEqual(self.post(path, {"channel": "air_low_c", "value": 300.5})["question"]["code"], "out_of_range")
        climbing = self.post(path, {"channel": "air_low_c", "value": 30.5})
        self.assertEqual((climbing["stored"], climbing["question"]["code"]), (False, "still_climbing"))
        self.assertEqual(self.post(path, {"channel": "air_low_c", "value": 30.5, "sure": True})["state"], "rising")
        slipped = self.post(path, {"channel": "sound_dba", "value": 34.2})
        self.assertTrue(slipped["stored"] or slipped["question"])
        self.assertEqual(len(Run.objects.get(pk=draft["id"]).by_hand), 2 if slipped["stored"] else 1)

    def test_a_marked_stretch_leaves_the_figures(self) -> None:
        draft = self.started(end="fixed", minutes=10, least_minutes=1)
        log = simulate(machine(), 12, 7, 1.0).shifted(60.0)
        log.channels["card_core_c"][60 + 560 - 60 : 60 + 590 - 60] -= 20
        self.feed(log)
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual(run.ended_why, "time")
        before = next(c for c in run.analysis["channels"] if c["name"] == "card_core_c")["mean"]
        made = self.client.post(
            f"/api/runs/{run.pk}/marks", {"kind": "event", "tag": "panel_opened", "at_s": 555, "until_s": 595, "drop": "true"}
        )
        self.assertEqual(made.status_code, 201, made.content)
        run.refresh_from_db()
        after = next(c for c in run.analysis["channels"] if c["name"] == "card_core_c")["mean"]
        self.assertGreater(after, before + 2)
        self.client.patch(f"/api/marks/{made.json()['id']}", json.dumps({"drop": False}), content_type="application/json")
        run.refresh_from_db()
        self.assertAlmostEqual(next(c for c in run.analysis["channels"] if c["name"] == "card_core_c")["mean"], before)

    def test_a_picture_must_be_one(self) -> None:
        draft = self.started()
        path = f"/api/runs/{draft['id']}/marks"
        bad = self.client.post(path, {"kind": "seen", "text": "x", "picture": io.BytesIO(b"not a picture")})
        self.assertEqual(bad.status_code, 422)
        good = io.BytesIO(b"\x89PNG\r\n\x1a\n" + b"0" * 40)
        good.name = "p.png"
        made = self.client.post(path, {"kind": "seen", "tag": "stagnant", "x_mm": 100, "z_mm": 200, "picture": good})
        self.assertEqual(made.status_code, 201, made.content)
        shown = self.client.get(f"/api/marks/{made.json()['id']}/picture")
        self.assertEqual((shown["Content-Type"], shown.content[:4]), ("image/png", b"\x89PNG"))

    def test_scores_without_a_log_can_be_compared(self) -> None:
        path = f"/api/jobs/{self.job.pk}/runs/by-hand"
        for layout, seconds in (("A", 412.0), ("B", 371.0)):
            readings = [{"channel": "job_s", "value": seconds}, {"channel": "score", "value": 10500}, {"channel": "fps", "value": 88.0}]
            self.post(path, {"layout": layout, "readings": readings, "room_c": 22.0}, 201)
        run = Run.objects.filter(source_name="by hand").first()
        assert run is not None
        self.assertEqual([c["name"] for c in run.analysis["channels"]], ["job_s", "score", "fps", "room_c"])
        pairs = self.client.get(f"/api/jobs/{self.job.pk}/comparison").json()["pairs"]
        words = {p["channel"]: p["word"] for p in pairs if (p["a"], p["b"]) == ("A", "B")}
        self.assertEqual(words.get("job_s"), "better")

    def figures(self) -> list[dict[str, Any]]:
        return list(self.post(f"/api/jobs/{self.job.pk}/verdict", {"settings": {}})["figures"])

    def test_a_typed_temperature_says_how_it_settled_or_that_nobody_knows(self) -> None:
        path = f"/api/jobs/{self.job.pk}/runs/by-hand"
        heat = {"readings": [{"channel": "cpu_package_c", "value": 75.0}], "room_c": 22.0, "minutes": 10}
        open_end = self.post(path, {"layout": "C"} | heat, 201)
        still = self.post(path, {"layout": "D", "stood_still": True} | heat, 201)
        self.assertFalse(open_end["stood_still"])
        self.assertTrue(still["stood_still"])
        own = {f["layout"]: f for f in self.figures() if f["channel"] == "cpu_package_c"}
        self.assertIn("how it settled is not known", own["C"]["how"])
        self.assertEqual(own["D"]["how"], "")
        said = self.client.patch(f"/api/runs/{open_end['id']}", {"stood_still": True}, content_type="application/json").json()
        self.assertIn("its figures stood still", said["edits"][-1]["what"])
        self.assertEqual({f["how"] for f in self.figures() if f["channel"] == "cpu_package_c" and f["layout"] in "CD"}, {""})
