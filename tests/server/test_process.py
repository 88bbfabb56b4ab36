"""What must hold of a running server: nothing acknowledged is lost when it is killed; eight benches at once are kept up with."""

import json
import threading
import time
import urllib.request
from typing import Any

from django.test import SimpleTestCase

from formats.job.planned import from_template
from instruments.sender import Sender
from tests.machines import DEMO
from tests.server.process import ServerProcess

BENCHES, CHANNELS, RATE_HZ, SECONDS = 8, 24, 5, 60
NAMES = [f"probe_{i}_c" for i in range(CHANNELS - 2)] + ["cpu_package_c", "room_c"]


def ask(url: str, body: Any = None, method: str | None = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(url, data, {"Content-Type": "application/json"}, method=method)
    with urllib.request.urlopen(request, timeout=20) as reply:
        return json.load(reply)


class ProcessCase(SimpleTestCase):
    def setUp(self) -> None:
        self.server = ServerProcess()
        self.addCleanup(self.server.stop)
        self.server.manage("migrate", "-v0")
        self.server.start()
        self.job = self.imported()

    def imported(self) -> int:
        boundary = "x" * 20
        part = f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="j.json"\r\n\r\n'.encode()
        data = part + DEMO.read_bytes() + f"\r\n--{boundary}--\r\n".encode()
        request = urllib.request.Request(
            f"{self.server.url}/api/jobs/import", data, {"Content-Type": f"multipart/form-data; boundary={boundary}"}
        )
        with urllib.request.urlopen(request, timeout=20) as reply:
            return int(json.load(reply)["id"])

    def bench(self, name: str) -> tuple[int, str]:
        made = ask(f"{self.server.url}/api/benches", {"name": name})
        return int(made["id"]), str(made["token"])

    def begun(self, bench: int) -> int:
        """A run that is being logged on a bench whose readings have begun."""
        protocol = from_template("short").model_dump(mode="json") | {"held": [], "ready_s": 0, "cool_down_k": None, "limits": []}
        draft = ask(f"{self.server.url}/api/jobs/{self.job}/live", {"bench": bench, "layout": "A", "protocol": protocol})
        ask(f"{self.server.url}/api/live/{draft['id']}/start", {})
        return int(draft["id"])

    def readings(self, run: int) -> list[float]:
        """Every stored value of one channel of a run that is over."""
        trace = ask(f"{self.server.url}/api/runs/{run}/trace?points=1000000")
        return [v for v in next(c["values"] for c in trace["channels"] if c["name"] == "cpu_package_c") if v is not None]


class KilledTest(ProcessCase):
    def test_nothing_acknowledged_is_lost(self) -> None:
        bench, token = self.bench("one")
        sender = Sender(f"{self.server.url}/api/benches/{bench}", token)
        count = 0

        def send(rows: int, patience_s: float = 20.0) -> None:
            nonlocal count
            for _ in range(rows):
                sender.add([float(count)], {"cpu_package_c": [30 + count * 0.01], "room_c": [22.0]})
                count += 1
                sender.flush(patience_s)

        send(5)
        run = self.begun(bench)
        send(100)
        self.server.kill()
        send(20, 0.0)  # they wait at the sender
        self.assertEqual(len(sender.waiting), 20)
        acknowledged = sender.acknowledged
        self.server.start()
        state = ask(f"{self.server.url}/api/benches/{bench}/live")
        self.assertEqual(state["run"]["id"], run, "the run is live again")
        self.assertTrue(sender.flush(30))
        send(50)
        ask(f"{self.server.url}/api/live/{run}/end", {})
        got = self.readings(run)
        self.assertGreaterEqual(acknowledged, 105)
        first = round((got[0] - 30) / 0.01)
        self.assertEqual([round((v - 30) / 0.01) for v in got], list(range(first, count)))


class LoadTest(ProcessCase):
    def test_eight_benches_for_a_minute(self) -> None:
        """One post per bench and second, 24 channels at 5 Hz; lost = acknowledged and absent. Screens ask once a second."""
        benches = [self.bench(f"bench {i}") for i in range(BENCHES)]
        senders = [Sender(f"{self.server.url}/api/benches/{b}", token) for b, token in benches]
        for s in senders:
            self.row(s, 0)
            s.flush(10)
        runs = [self.begun(b) for b, _ in benches]
        stop = threading.Event()
        asked: list[float] = []

        def feed(sender: Sender) -> None:
            for second in range(1, SECONDS + 1):
                due = begun + second
                self.row(sender, second)
                sender.flush()
                time.sleep(max(due - time.monotonic(), 0))
            sender.flush(20)

        def look(bench: int) -> None:
            while not stop.is_set():
                at = time.monotonic()
                ask(f"{self.server.url}/api/benches/{bench}/live")
                asked.append(time.monotonic() - at)
                stop.wait(max(1 - (time.monotonic() - at), 0.05))

        begun = time.monotonic()
        feeders = [threading.Thread(target=feed, args=(s,)) for s in senders]
        lookers = [threading.Thread(target=look, args=(b,)) for b, _ in benches]
        for thread in (*feeders, *lookers):
            thread.start()
        for thread in feeders:
            thread.join()
        stop.set()
        for thread in lookers:
            thread.join()
        self.assertTrue(all(not s.waiting for s in senders), "every post was acknowledged")
        for run in runs:
            ask(f"{self.server.url}/api/live/{run}/end", {})
            values = {round(v, 2) for v in self.readings(run)}
            # The first seconds may have come before the run began.
            wanted = {round(30 + second + k / 10, 2) for second in range(3, SECONDS + 1) for k in range(RATE_HZ)}
            self.assertEqual(wanted - values, set(), "acknowledged and absent")
        self.assertGreater(len(asked), BENCHES * SECONDS / 4, "the screens were answered while it went on")

    @staticmethod
    def row(sender: Sender, second: int) -> None:
        times = [second + k / RATE_HZ for k in range(RATE_HZ)]
        values = {n: [22.0 if n == "room_c" else 30.0 + second + k / 10 for k in range(RATE_HZ)] for n in NAMES}
        sender.add(times, values)
