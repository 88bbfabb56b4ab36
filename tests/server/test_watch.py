"""A whole run by the real client on a made-up sensor tree: nobody touches it between its start and its settled end."""

import json
import tempfile
import threading
import urllib.error
from pathlib import Path
from typing import Any

from cli.watch import post
from instruments.livebench import LiveStandIn
from instruments.load import Load
from instruments.sender import Answer, Sender
from instruments.sensors import found, mapped
from instruments.tree import SensorTree
from server.apps.bench.models import Batch, Run
from tests.machines import machine
from tests.server.test_live import LiveCase

STEP_S = 5.0


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


class WatchTest(LiveCase):
    def setUp(self) -> None:
        super().setUp()
        self.tree = SensorTree(Path(self.enterContext(tempfile.TemporaryDirectory())))
        self.standin = LiveStandIn(machine(), 7, 1.0)
        self.now = 0.0
        self.words: list[str] = []
        self.load = Load("sleep 3600")
        self.addCleanup(self.load.end)
        self.loads: list[bool] = []
        self.step(STEP_S)

    def step(self, seconds: float) -> None:
        """The machine goes on; the load that is running in truth is the one it feels."""
        self.standin.set_load("both" if self.load.runs else "idle")
        _, rows = self.standin.advance(seconds)
        self.tree.write({n: v[-1] for n, v in rows.items() if v and v[-1] is not None}, seconds)
        self.now += seconds
        self.loads.append(self.load.runs)

    def sender(self) -> Through:
        sender = Through(f"http://bench/api/benches/{self.bench}", self.token, 1.0, "its own sensors")
        sender.client = self.client
        return sender

    def watched(self, sender: Through, until: Any, most_s: float = 7200.0) -> None:
        stop = threading.Event()
        limit = self.now + most_s

        def wait(_seconds: float) -> None:
            self.step(STEP_S)
            if until() or self.now > limit:
                stop.set()

        post(mapped(found(self.tree.root, lambda: self.now)), sender, self.load, STEP_S, stop, self.words.append, lambda: self.now, wait)

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

    def test_a_client_that_is_killed_and_started_again_loses_nothing_acknowledged(self) -> None:
        first = self.sender()
        self.watched(first, lambda: self.now >= 60)
        first.cut = 6
        self.watched(first, lambda: self.now >= 120)  # the cable was out for a while: kept, then sent
        taken = first.acknowledged
        self.assertEqual(len(first.waiting), 0)
        self.assertEqual(Batch.objects.count(), taken)
        second = self.sender()  # a new process: a session of its own
        self.watched(second, lambda: self.now >= 180)
        self.assertEqual(Batch.objects.count(), taken + second.acknowledged)
        self.assertNotEqual(first.session, second.session)
