"""push, plan and analyse with a protocol, from the shell; a growing file against a bench."""

import json
import tempfile
import threading
import time
from pathlib import Path

import numpy as np
from django.test import SimpleTestCase

from documents.job.planned import from_template
from documents.runlog.reader import read_log
from tests.cli.test_commands import call
from tests.instruments.test_clients import FakeBench
from tests.machines import DEMO, LOGS


class PushTest(SimpleTestCase):
    def setUp(self) -> None:
        self.bench = FakeBench([])
        self.addCleanup(self.bench.server_close)
        self.addCleanup(self.bench.shutdown)
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def taken(self, channel: str) -> list[float | None]:
        return [v for b in self.bench.taken for v in b["channels"][channel]]

    def test_a_whole_log(self) -> None:
        code, _, words = call("push", str(LOGS / "heron-a-2.csv"), "--bench", self.bench.url, "--token", "t")
        log = read_log((LOGS / "heron-a-2.csv").read_bytes()).log
        self.assertEqual(code, 0, words)
        np.testing.assert_allclose([v or np.nan for v in self.taken("cpu_package_c")], log.channels["cpu_package_c"])
        self.assertEqual([b["seq"] for b in self.bench.taken], list(range(1, len(self.bench.taken) + 1)))
        self.assertIn("all acknowledged", words)

    def test_a_growing_file_is_followed_whatever_its_dialect(self) -> None:
        path = self.folder / "growing.csv"
        path.write_text("Zeit;CPU [°C];Raum [°C]\n", encoding="cp1252")

        def grow() -> None:
            for i in range(60):
                with path.open("a", encoding="cp1252") as file:
                    reading = str(round(30 + i / 10, 1)).replace(".", ",")
                    file.write(f"25.11.2026 10:00:{i:02d};{reading};21,5\n")
                    if i == 30:
                        file.write("25.11.2026 10:0")  # cut in the middle of a line
                        file.flush()
                        time.sleep(0.8)
                        file.write("0:30;99,0;21,5\n")  # the same second again: passed over
                time.sleep(0.03)

        thread = threading.Thread(target=grow)
        thread.start()
        code, _, words = call("push", str(path), "--follow", "--quiet", "3", "--bench", self.bench.url, "--token", "t")
        thread.join()
        self.assertEqual(code, 0, words)
        self.assertEqual(self.taken("cpu_package_c"), [round(30 + i / 10, 1) for i in range(60)])

    def test_a_missing_file_and_a_bench_that_refuses(self) -> None:
        code, _, words = call("push", str(self.folder / "none.csv"), "--bench", self.bench.url, "--token", "t")
        self.assertEqual(code, 2)
        self.assertIn("none.csv", words)
        self.bench.codes.append(401)
        code, _, words = call("push", str(LOGS / "heron-a-1.csv"), "--bench", self.bench.url, "--token", "wrong")
        self.assertEqual(code, 2)
        self.assertIn("token", words)


class PlanTest(SimpleTestCase):
    def test_the_job_s_own_plan(self) -> None:
        code, doc, _ = call("plan", str(DEMO), "--json")
        self.assertEqual(code, 0)
        self.assertEqual((doc["format"], doc["version"], doc["order"]), ("oventa-plan", 1, ["A", "B", "C", "D", "A"]))
        self.assertAlmostEqual(doc["minutes"], sum(x["minutes"] for x in doc["lines"]))
        self.assertIs(doc["exact"], False)

    def test_a_job_without_one_and_one_without_layouts(self) -> None:
        raw = json.loads(DEMO.read_text(encoding="utf-8"))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "job.json"
            path.write_text(json.dumps({k: v for k, v in raw.items() if k not in ("plan", "protocols")}), encoding="utf-8")
            order = call("plan", str(path), "--json")[1]["order"]
            self.assertEqual((order[0], sorted(order[1:-1]), order[-1]), ("A", ["B", "C", "D"], "A"))  # shuffled between the controls
            path.write_text(json.dumps({k: v for k, v in raw.items() if k not in ("plan", "protocols", "layouts")}), encoding="utf-8")
            code, _, words = call("plan", str(path))
            self.assertEqual(code, 2)
            self.assertIn("no layouts", words)


class AnalyseTest(SimpleTestCase):
    def test_a_protocol_gives_window_and_criteria(self) -> None:
        log = str(LOGS / "heron-a-1.csv")
        code, doc, _ = call("analyse", log, "--protocol", "acceptance", "--json")
        self.assertEqual(code, 0)
        self.assertEqual(doc["channels"][0]["window_s"][1] - doc["channels"][0]["window_s"][0], 600)
        self.assertEqual(doc["acceptance"]["lines"][0]["channel"], "cpu_package_c")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "p.json"
            path.write_text(from_template("short").model_copy(update={"window_s": 120}).model_dump_json(), encoding="utf-8")
            doc = call("analyse", log, "--protocol", str(path), "--json")[1]
            self.assertEqual((doc["channels"][0]["window_s"][1] - doc["channels"][0]["window_s"][0], doc["acceptance"]), (120, None))
            path.write_text("{", encoding="utf-8")
            self.assertEqual(call("analyse", log, "--protocol", str(path))[0], 2)
        self.assertEqual(call("analyse", log, "--protocol", "no-such")[0], 2)
