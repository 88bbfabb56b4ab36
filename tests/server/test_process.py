"""What must hold of a running server: nothing acknowledged is lost when it is killed; eight benches at once are kept up with."""

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401
from bench.serving import Serving, ask, upload
from bench.soak import BENCHES, RATE_HZ, begun, soak
from instruments.sender import Sender
from tests.machines import DEMO

SECONDS = 60


class ProcessCase(SimpleTestCase):
    def setUp(self) -> None:
        self.server = Serving()
        self.addCleanup(self.server.stop)
        self.server.manage("migrate", "-v0")
        self.server.start()


class KilledTest(ProcessCase):
    def test_nothing_acknowledged_is_lost(self) -> None:
        url = self.server.url
        job = int(upload(f"{url}/api/jobs/import", "job.json", DEMO.read_bytes())["id"])
        made = ask(f"{url}/api/benches", {"name": "one"})
        sender = Sender(f"{url}/api/benches/{made['id']}", made["token"])
        count = 0

        def send(rows: int, patience_s: float = 20.0) -> None:
            nonlocal count
            for _ in range(rows):
                sender.add([float(count)], {"cpu_package_c": [30 + count * 0.01], "room_c": [22.0]})
                count += 1
                sender.flush(patience_s)

        send(5)
        run = begun(self.server, job, made["id"])
        send(100)
        self.server.kill()
        send(20, 0.0)
        self.assertEqual(len(sender.waiting), 20, "they wait at the sender")
        self.server.start()
        state = ask(f"{url}/api/benches/{made['id']}/live")
        self.assertEqual(state["run"]["id"], run, "the run is live again")
        self.assertTrue(sender.flush(30))
        send(50)
        ask(f"{url}/api/live/{run}/end", {})
        trace = ask(f"{url}/api/runs/{run}/trace?points=1000000")
        got = [v for v in next(c["values"] for c in trace["channels"] if c["name"] == "cpu_package_c") if v is not None]
        numbers = [round((v - 30) / 0.01) for v in got]
        self.assertEqual(numbers, list(range(numbers[0], count)))
        self.assertLess(numbers[0], 8, "from the start of the run")


class LoadTest(ProcessCase):
    def test_eight_benches_for_a_minute(self) -> None:
        """One post per bench and second, 24 channels at 5 Hz; lost = acknowledged and absent. A screen asks each once a second."""
        told = soak(self.server, SECONDS)
        self.assertEqual((told.lost, told.unsent), (0, 0))
        self.assertEqual(told.rows, BENCHES * (SECONDS - 2) * RATE_HZ)
        self.assertGreater(len(told.look_ms), BENCHES * SECONDS / 4, "the screens were answered while it went on")
