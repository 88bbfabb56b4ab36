"""The front end's own unit tests: started here, and each of them counted in this run."""

import json
import os
import subprocess
import tempfile
from pathlib import Path
from typing import Any

from django.test import SimpleTestCase

from tests.machines import ROOT

FRONT = ROOT / "frontend"


class FrontEndUnitsTest(SimpleTestCase):
    def test_units_of_the_front_end(self) -> None:
        with tempfile.TemporaryDirectory() as made:
            report = Path(made) / "report.json"
            command = ["npx", "--no-install", "vitest", "run", "--reporter=json", f"--outputFile={report}"]
            done = subprocess.run(command, cwd=FRONT, capture_output=True, text=True, check=False, timeout=300)
            self.assertTrue(report.exists(), done.stderr[-3000:])
            told: dict[str, Any] = json.loads(report.read_text(encoding="utf-8"))
        if counts := os.environ.get("OVENTA_TEST_COUNTS"):
            Path(f"{counts}.units").write_text(str(told["numTotalTests"]), encoding="utf-8")
        results = [one for file in told["testResults"] for one in file["assertionResults"]]
        for one in results:
            with self.subTest(one["fullName"]):
                self.assertEqual(one["status"], "passed", "\n".join(one.get("failureMessages", [])))
        self.assertGreater(len(results), 30)
        self.assertEqual(told["numTotalTests"], len(results))
        self.assertTrue(told["success"], [f["message"] for f in told["testResults"] if f["message"]])
