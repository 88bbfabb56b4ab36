"""Random cases, the plain way to solve a layout, and the compiled engine's set-up."""

import io
import json
import os
import sys
import tempfile
from contextlib import redirect_stdout
from itertools import pairwise
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase

import tests.tools_path  # noqa: F401
from bench import batch
from bench import main as bench
from bench.batch import _plain, random_layouts
from desk.forecast.warm import warm_engine
from documents.job.reader import check_job
from engine.coupled.program import Plan, variants
from launcher import setup
from study.cases import complete, random_document
from study.main import faults_of, machine_of, opposed
from tests.machines import machine


class CasesTest(SimpleTestCase):
    def test_the_same_seed_makes_the_same_document(self) -> None:
        one, two = (complete(random_document(7), 7) for _ in range(2))
        self.assertEqual(json.dumps(one), json.dumps(two))
        self.assertNotEqual(json.dumps(one), json.dumps(complete(random_document(8), 8)))

    def test_documents_are_sound_and_as_varied_as_promised(self) -> None:
        kinds, litres, mounts = set(), [], []
        for seed in range(120):
            raw = complete(random_document(seed), seed)
            check_job(raw)
            inner = raw["case"]["inner_mm"]
            litres.append(inner["depth"] * inner["height"] * inner["width"] / 1e6)
            mounts.append(len(raw["case"]["mounts"]))
            kinds.add(raw["parts"]["coolers"][0]["kind"])
        self.assertEqual(kinds, {"tower", "downdraft", "sealed"})
        self.assertTrue(4.9 <= min(litres) < 12 and 60 < max(litres) <= 100.5)
        self.assertEqual((min(mounts), max(mounts)), (1, 15))

    def test_a_fault_is_found_when_there_is_one(self) -> None:
        with mock.patch("study.main.HEAT_LIMIT", -1.0):
            self.assertIn("heat", faults_of(machine_of(3))[0])
        ways = [f.direction for f in opposed(machine_of(5)).fans]
        self.assertTrue(all(a != b for a, b in pairwise(ways)))


class PlainTest(SimpleTestCase):
    def test_scipy_s_root_and_the_kernels_agree_on_random_layouts(self) -> None:
        # Source: scipy.optimize.root for the pressures, numpy for the heat, round until nothing changes.
        plan = Plan.of(machine(layout_id="B"))
        va, _ = variants(plan, random_layouts(machine(layout_id="B"), 12))
        for row in range(12):
            with self.subTest(row=row):
                self.assertLess(_plain(plan, va, row), 0.02)


class BenchNamesTest(SimpleTestCase):
    def test_the_names_that_others_read(self) -> None:
        with (
            mock.patch.multiple(batch, MANY=256, SOME=64, PLAIN=2),
            mock.patch.object(bench, "verdict_figures", dict),
            mock.patch.object(bench, "flip_figures", dict),
            mock.patch("bench.main.records.figures", dict),
            mock.patch.object(sys, "argv", ["bench", "--json"]),
            redirect_stdout(io.StringIO()) as out,
        ):
            bench.main()
        told = json.loads(out.getvalue())
        self.assertEqual((told["format"], told["version"]), ("oventa-bench", 1))
        values = {x["name"]: x["value"] for x in told["results"]}
        for name in ("forecast_one_ms", "batch_layouts_per_s", "batch_over_plain_ratio"):
            self.assertGreater(values[name], 0)


class EngineSetUpTest(SimpleTestCase):
    def test_they_are_looked_after_when_the_engine_s_sources_change(self) -> None:
        with tempfile.TemporaryDirectory() as made, mock.patch("launcher.setup.run") as run:
            root = Path(made)
            (root / "src" / "engine").mkdir(parents=True)
            (root / "requirements").mkdir()
            (root / "requirements" / "base.txt").write_text("numba")
            source = root / "src" / "engine" / "links.py"
            source.write_text("A = 1")
            setup.engine(root, "python")
            setup.engine(root, "python")
            run.assert_called_once()
            self.assertEqual(run.call_args.args[1], ["python", "-m", "cli", "warm"])
            source.write_text("A = 2")
            setup.engine(root, "python")
            self.assertEqual(run.call_count, 2)

    def test_the_last_few_versions_of_a_function_are_kept(self) -> None:
        with tempfile.TemporaryDirectory() as made:
            folder = Path(made)
            (folder / "0123456789abcdef").mkdir()  # an older way of keeping
            for i in range(setup.KEPT_VERSIONS + 2):
                for end in ("nbi", "1.nbc"):
                    file = folder / f"march.march-{i:016x}.py311.{end}"
                    file.write_text("code")
                    os.utime(file, (1000 + i, 1000 + i))
            (folder / "fans.law-0.py311.nbi").write_text("another")
            setup._prune(folder)
            kept = sorted(p.name for p in folder.iterdir())
        self.assertEqual(len(kept), 2 * setup.KEPT_VERSIONS + 1)
        self.assertNotIn(f"march.march-{0:016x}.py311.1.nbc", kept)

    def test_warming_needs_nothing(self) -> None:
        warm_engine()
