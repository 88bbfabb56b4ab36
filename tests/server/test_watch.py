"""A whole run by the real client on a made-up sensor tree: nobody touches it between its start and its settled end."""

import json
import tempfile
import threading
import urllib.error
from itertools import pairwise
from pathlib import Path
from typing import Any, ClassVar
from unittest.mock import patch

from django.test import SimpleTestCase

from cli.watch import post
from instruments.livebench import LiveStandIn
from instruments.load import Loads
from instruments.sender import Answer, Sender
from instruments.sensors import found, mapped
from instruments.tree import SensorTree
from server.apps.bench import suite
from server.apps.bench.models import Batch, Run
from tests.machines import machine
from tests.server.test_live import LiveCase

CUT, AGAIN = "the bench does not answer; readings are kept and sent when it does", "the bench answers again; nothing that was kept is lost"


class Through(Sender):
    """A sender whose posts go through the test's own client; now and then the way is cut."""

    client: Any
    cut = 0

    def _post(self, body: dict[str, Any]) -> Answer:
        if self.cut:
            self.cut -= 1
            raise urllib.error.URLError("the cable is out")
        path = self.address.removeprefix("http://bench")
        answer = self.client.post(path, json.dumps(body), content_type="application/json", HTTP_AUTHORIZATION=f"Bearer {self.token}")
        assert answer.status_code == 200, answer.content[:300]
        given = answer.json()
        return Answer(int(given["acknowledged"]), str(given["phase"]), str(given["load"]))


class WatchCase(LiveCase):
    """A made-up machine behind a sensor tree, and the real client that watches it."""

    given: ClassVar = ["sleep 3600"]
    STEP_S = 5.0

    def setUp(self) -> None:
        super().setUp()
        self.tree = SensorTree(Path(self.enterContext(tempfile.TemporaryDirectory())))
        self.standin = LiveStandIn(machine(), 7, 1.0)
        self.now = 0.0
        self.words: list[str] = []
        self.load = Loads(self.given)
        self.addCleanup(self.load.end)
        self.loads: list[bool] = []
        self.step(self.STEP_S)

    def step(self, seconds: float) -> None:
        """The machine goes on; the load that is running in truth is the one it feels."""
        self.standin.set_load(self.felt())
        _, rows = self.standin.advance(seconds)
        self.tree.write({n: v[-1] for n, v in rows.items() if v and v[-1] is not None}, seconds)
        self.now += seconds
        self.loads.append(self.load.runs)

    def felt(self) -> Any:
        """What the loads that run in truth put on the machine."""
        running = {name for name, load in self.load.loads.items() if load.runs}
        return "idle" if not running else "cpu" if running == {"cpu"} else "card" if running == {"card"} else "both"

    def sender(self) -> Through:
        sender = Through(f"http://bench/api/benches/{self.bench}", self.token, 1.0, "its own sensors")
        sender.client = self.client
        return sender

    def watched(self, sender: Through, until: Any, most_s: float = 7200.0) -> None:
        stop = threading.Event()
        limit = self.now + most_s

        def wait(_seconds: float) -> None:
            self.step(self.STEP_S)
            if until() or self.now > limit:
                stop.set()

        post(
            mapped(found(self.tree.root, lambda: self.now)), sender, self.load, self.STEP_S, stop, self.words.append, lambda: self.now, wait
        )


class WholeRunTest(WatchCase):
    STEP_S = 10.0

    def test_a_run_with_its_load_started_and_ended_untouched(self) -> None:
        sender = self.sender()
        self.watched(sender, lambda: self.now >= 120)
        self.assertEqual(self.loads.count(True), 0, "no load before the run asks for it")
        draft = self.ticked(self.prepare(cool_down_k=12))  # the stand-in idles some kelvins over its room
        self.post(f"/api/live/{draft['id']}/start", {})
        self.watched(sender, lambda: Run.objects.get(pk=draft["id"]).state == "valid")
        run = Run.objects.get(pk=draft["id"])
        self.assertEqual((run.state, run.ended_why), ("valid", "settled"))
        self.assertTrue(run.analysis["settled"])
        self.assertIsNotNone(run.made_at)
        names = {c["name"] for c in run.analysis["channels"]}
        self.assertLessEqual({"cpu_package_c", "card_core_c", "room_c", "cpu_power_w", "card_power_w"}, names)
        self.assertEqual([w.split(":")[0] for w in self.words], ["load started", "load ended"])
        self.assertFalse(self.load.runs)


class KilledTest(WatchCase):
    def test_a_client_that_is_killed_and_started_again_loses_nothing_acknowledged(self) -> None:
        first = self.sender()
        self.watched(first, lambda: self.now >= 60)
        first.cut = 6
        self.watched(first, lambda: self.now >= 120)  # the cable was out for a while: kept, then sent
        taken = first.acknowledged
        self.assertEqual(len(first.waiting), 0)
        self.assertEqual([w for w in self.words if w.startswith("the bench")], [CUT, AGAIN])
        self.assertEqual(Batch.objects.count(), taken)
        second = self.sender()  # a new process: a session of its own
        self.watched(second, lambda: self.now >= 180)
        self.assertEqual(Batch.objects.count(), taken + second.acknowledged)
        self.assertNotEqual(first.session, second.session)


class SuiteTest(WatchCase):
    """Idle, one load, the other, both: begun one after the other with cool-downs between, and a hand called for where one is needed."""

    given: ClassVar = ["cpu=sleep 3600", "card=sleep 3600"]
    STEP_S = 12.0
    LOADS = ("idle", "cpu", "card", "both")

    def plan(self, layouts: str = "A") -> None:
        raw = self.client.get(f"/api/jobs/{self.job.pk}").json()
        document, revision = raw["document"], raw["revision"]
        short = {"id": "suite", "end": "fixed", "minutes": 5, "least_minutes": 1, "window_s": 60, "ready_s": 0, "cool_down_k": 12}
        document["protocols"] = [*document.get("protocols", []), short | {"held": [{"what": "panels"}]}]
        runs = [{"id": f"{x}-{load}", "layout": x, "protocol": "suite", "load": load} for x in layouts for load in self.LOADS]
        document["plan"] = {"protocol": "suite", "runs": runs}
        path = f"/api/jobs/{self.job.pk}"
        answer = self.client.put(path, json.dumps({"revision": revision, "document": document}), content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content[:500])

    def said(self) -> Any:
        return self.state()["suite"]

    def begun(self) -> None:
        """By one press, and by the ticks that no program sets."""
        self.watched(self.sender(), lambda: self.now >= 60)
        first = self.post(f"/api/benches/{self.bench}/suite", {"job": self.job.pk})
        self.assertEqual(first["state"], "hand")
        self.assertEqual(first["to_go"] % len(self.LOADS), 0)
        self.assertIn("Tick", first["words"])
        self.ticked(self.state()["run"])

    def made(self) -> list[Run]:
        return list(Run.objects.filter(planned__startswith="A-", state="valid").order_by("pk"))

    def test_four_loads_run_untouched_one_after_the_other(self) -> None:
        self.plan()
        self.begun()
        felt: list[str] = []

        def until() -> bool:
            run = self.state()["run"]
            if run and run["started"]:
                felt.append(f"{run['load']} {self.felt()}")
            return bool(self.said()["state"] == "done")

        self.watched(self.sender(), until, 4 * 3600)
        self.assertEqual([r.load for r in self.made()], list(self.LOADS))
        self.assertTrue(all(r.ended_why == "time" and r.held == {"panels": "as set"} for r in self.made()))
        wrong = [x for x in felt if len(set(x.split())) > 1]
        self.assertLess(len(wrong), 4 * len(self.LOADS))  # a post or two at both ends of each run
        self.assertEqual((self.said()["to_go"], self.said()["words"]), (0, "All planned runs are in."))
        self.assertFalse(self.load.runs)
        starts = [r.started_s or 0 for r in self.made()]
        self.assertTrue(all(b - a > 300 for a, b in pairwise(starts)), "it cools between")

    def test_another_layout_calls_for_a_hand_with_what_is_to_be_built(self) -> None:
        self.plan("AB")
        Run.objects.filter(job=self.job).update(planned="")
        self.begun()
        self.watched(self.sender(), lambda: self.said()["state"] == "hand", 4 * 3600)
        own = self.said()
        self.assertIn("Build layout B", own["words"])
        self.assertTrue(own["to_do"])
        self.assertIsNone(self.state()["run"], "nothing is prepared before a person has built it")
        said = self.post(f"/api/benches/{self.bench}/suite/built", {})
        self.assertEqual((said["layout"], said["state"]), ("B", "hand"))
        self.assertIn("Tick", said["words"], "what was ticked for another layout does not hold here")

    def test_a_client_that_is_killed_in_the_middle_goes_on_with_the_same_run(self) -> None:
        self.plan()
        self.begun()
        first = self.sender()
        self.watched(first, lambda: bool((self.state()["elapsed_s"] or 0) > 120))
        draft = self.state()["run"]["id"]
        self.load.end()
        self.watched(self.sender(), lambda: Run.objects.get(pk=draft).state == "valid")  # a new process: a session of its own
        run = Run.objects.get(pk=draft)
        self.assertGreater(run.duration_s, 280)
        self.assertGreater(run.rows, 0.95 * run.duration_s / self.STEP_S)

    def test_it_is_stopped_by_a_person_by_a_limit_and_by_a_run_that_is_set_aside(self) -> None:
        self.plan()
        self.begun()
        self.client.delete(f"/api/benches/{self.bench}/suite")
        self.assertEqual(self.said()["state"], "stopped")
        draft = self.state()["run"]
        self.client.post(f"/api/live/{draft['id']}/discard", json.dumps({"reason": "not now"}), content_type="application/json")
        self.begun()
        draft = self.state()["run"]
        self.client.post(f"/api/live/{draft['id']}/discard", json.dumps({"reason": "not now"}), content_type="application/json")
        with patch.object(suite, "LOOK_S", 0.0):
            self.watched(self.sender(), lambda: self.said()["state"] == "stopped", 120)
        self.assertIn("set aside", self.said()["words"])

    def test_without_a_plan_it_says_what_to_do(self) -> None:
        self.plan("")
        answer = self.post(f"/api/benches/{self.bench}/suite", {"job": self.job.pk}, 422)
        self.assertIn("Plan runs first", json.dumps(answer))


class LoadsTest(SimpleTestCase):
    def test_which_commands_a_run_takes(self) -> None:
        own = Loads(["cpu=one", "card=two"])
        self.assertEqual([own.named(x) for x in ("idle", "cpu", "card", "both", "game")], [(), ("cpu",), ("card",), ("cpu", "card"), ()])
        self.assertEqual(Loads(["any --jobs=4"]).named("both"), ("",))
        self.assertEqual(Loads(["any", "both=x"]).named("both"), ("both",))
        self.assertEqual(Loads(["any"]).named("idle"), ())
        self.assertEqual(own.all_named, ["cpu", "card", "both"])
        self.assertNotIn("idle", Loads(["any"]).all_named)
