"""The launcher: steps that explain themselves, stamps that notice change, commands and exit codes."""

import contextlib
import io
import os
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase

import tests.tools_path
from cli.__main__ import parser as shell
from launcher import checks, main, serving, setup, steps
from launcher.steps import SetupError
from tests.machines import DEMO, ROOT

assert tests.tools_path


class StepsTest(SimpleTestCase):
    def test_a_failing_step_shows_its_end_and_the_remedy(self) -> None:
        said = io.StringIO()
        with contextlib.redirect_stderr(said), self.assertRaises(steps.SetupError) as caught:
            steps.run("Doing it", [sys.executable, "-c", "print('the reason'); raise SystemExit(3)"], "Do that.")
        self.assertIn("the reason", said.getvalue())
        self.assertIn("code 3", caught.exception.reason)
        self.assertEqual(caught.exception.remedy, "Do that.")

    def test_a_missing_program_is_named(self) -> None:
        with contextlib.redirect_stderr(io.StringIO()), self.assertRaises(steps.SetupError) as caught:
            steps.run("Doing it", ["no-such-program-here"], "Install it.")
        self.assertIn("no-such-program-here is not installed", caught.exception.reason)

    def test_stamps_notice_a_changed_file(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            source, stamp = Path(folder) / "lock", Path(folder) / "deep" / "stamp"
            source.write_text("one")
            steps.stamp(stamp, steps.fingerprint([source]))
            self.assertTrue(steps.fresh(stamp, steps.fingerprint([source])))
            source.write_text("two")
            self.assertFalse(steps.fresh(stamp, steps.fingerprint([source])))

    def test_a_folder_s_fingerprint_covers_its_files(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "a").write_text("1")
            first = steps.fingerprint([Path(folder)])
            (Path(folder) / "b").write_text("2")
            self.assertNotEqual(first, steps.fingerprint([Path(folder)]))


class SetupTest(SimpleTestCase):
    def test_the_environment_is_set_up_once(self) -> None:
        with mock.patch.object(setup, "run") as run:
            binary = setup.python(ROOT, "dev")
        self.assertTrue(Path(binary).exists())
        self.assertEqual([c.args[0] for c in run.call_args_list], [])

    def test_a_changed_lock_is_installed_again(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            (root / "requirements").mkdir()
            (root / "requirements/base.txt").write_text("nothing")
            with mock.patch.object(setup, "run") as run:
                (root / ".venv/bin").mkdir(parents=True)
                (root / ".venv/bin/python").write_text("")
                setup.python(root, "base")
                setup.python(root, "base")
            self.assertEqual([c.args[0] for c in run.call_args_list], ["Installing Python packages (base)"])

    def test_no_npm_is_said_with_a_remedy(self) -> None:
        with mock.patch.object(shutil, "which", return_value=None), self.assertRaises(steps.SetupError) as caught:
            setup.node_modules(ROOT)
        self.assertIn("Node.js", caught.exception.remedy)

    def test_chromium_that_may_not_be_installed(self) -> None:
        def which(name: str) -> str | None:
            return "/usr/bin/apt-get" if name == "apt-get" else None

        with (
            mock.patch.object(shutil, "which", side_effect=which),
            mock.patch.object(os, "geteuid", return_value=1000),
            self.assertRaises(steps.SetupError) as caught,
        ):
            setup.chromium()
        self.assertIn("apt-get install chromium", caught.exception.remedy)

    def test_chromium_is_installed_by_one_who_may(self) -> None:
        """The one without a window, or the whole one where the release has no other."""
        for there in ("chromium-headless-shell", "chromium"):
            installed: list[str] = ["apt-get"]

            def run(_words: str, command: list[str], *_more: object, there: str = there, to: list[str] = installed) -> None:
                if "install" in command:
                    if command[-1] != there:
                        raise steps.SetupError("no such package", "")
                    to.append(there)

            with (
                self.subTest(there=there),
                mock.patch.object(shutil, "which", side_effect=lambda name, of=installed: f"/usr/bin/{name}" if name in of else None),
                mock.patch.object(os, "geteuid", return_value=0),
                mock.patch.object(setup, "run", side_effect=run),
                contextlib.redirect_stderr(io.StringIO()),
            ):
                self.assertEqual(setup.chromium(), f"/usr/bin/{there}")

    def test_what_does_not_need_each_other_is_set_up_side_by_side_and_a_fault_of_either_is_told(self) -> None:
        done: list[str] = []
        compiling = threading.Event()

        def packages(_root: object, level: str) -> str:
            self.assertTrue(compiling.wait(10), "the kernels wait for packages that they do not need")
            done.append(level)
            return "python"

        def compiler(_root: object) -> str:
            done.append("compiler")
            return "python"

        def kernels(_root: object, _binary: str) -> None:
            compiling.set()
            done.append("engine")

        with (
            mock.patch.object(setup, "packages_of_the_compiler", side_effect=compiler),
            mock.patch.object(setup, "python", side_effect=packages),
            mock.patch.object(setup, "engine", side_effect=kernels),
            mock.patch.object(setup, "frontend", side_effect=lambda root: done.append("front")),
        ):
            self.assertEqual(setup.everything(ROOT, "dev", lambda binary: done.append(f"prepared by {binary}")), "python")
            self.assertEqual(set(done), {"compiler", "dev", "engine", "front", "prepared by python"})
            self.assertLess(done.index("compiler"), done.index("engine"))
            self.assertLess(done.index("dev"), done.index("prepared by python"))
            with mock.patch.object(setup, "frontend", side_effect=SetupError("npm is gone", "get it")), self.assertRaises(SetupError):
                setup.everything(ROOT, "base")

    def test_the_compiler_s_packages_are_those_of_the_lock_with_their_sums(self) -> None:
        lock = (ROOT / "requirements/base.txt").read_text(encoding="utf-8")
        part = setup.part_of_lock(lock, setup.COMPILER)
        pinned = [line.split("==")[0] for line in part.splitlines() if line[:1].isalnum()]
        self.assertEqual(sorted(pinned), sorted(setup.COMPILER))
        for line in part.splitlines():
            self.assertIn(line, lock)
        self.assertGreaterEqual(part.count("--hash=sha256:"), len(pinned))

    def test_the_kernels_need_no_package_but_those_of_the_compiler(self) -> None:
        """In an environment that has these alone: every other installed package is hidden."""
        told = """
import importlib.metadata, sys
allowed = set(sys.argv[1].split())
named = importlib.metadata.packages_distributions()
class Hidden:
    def find_spec(self, name, path=None, target=None):
        owners = {o.lower().replace("_", "-") for o in named.get(name, ())}
        if "." not in name and owners and not owners & allowed:
            raise ModuleNotFoundError(f"no {name} yet", name=name)
sys.meta_path.insert(0, Hidden())
from cli.__main__ import main
sys.exit(main(["warm"]))
"""
        env = setup.environment(ROOT)
        command = [sys.executable, "-c", told, " ".join(setup.COMPILER)]
        done = subprocess.run(command, capture_output=True, text=True, env=env, check=False)
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])

    def test_tests_by_path_get_only_the_set_up_that_they_need(self) -> None:
        names = {
            "tests/engine/test_air.py": (False, False),
            "tests/desk/": (False, False),
            "tests.server.test_api": (True, False),
            "tests/frontend": (True, False),
            "tests/browser/test_units.py": (True, True),
            "tests": (True, True),
        }
        for path, (front, browser) in names.items():
            name = main._test_name(path)
            self.assertNotIn("/", name)
            self.assertEqual((checks.needs_front_end(name), checks.needs_browser(name)), (front, browser), path)

    def test_locks_hold_no_addresses(self) -> None:
        self.assertNotIn('"resolved"', (ROOT / "frontend/package-lock.json").read_text(encoding="utf-8"))
        for lock in (ROOT / "requirements").glob("*.txt"):
            self.assertNotIn("index-url", lock.read_text(encoding="utf-8"))
            self.assertIn("--hash=sha256:", lock.read_text(encoding="utf-8"))


class CommandsTest(SimpleTestCase):
    def test_help_and_unknown_words(self) -> None:
        with contextlib.redirect_stdout(io.StringIO()) as out:
            self.assertEqual(main.run(ROOT, ["help"]), 0)
            self.assertEqual(main.run(ROOT, ["frobnicate"]), 2)
        self.assertIn("./oventa demo", out.getvalue())

    def test_every_command_answers_help_and_begins_nothing(self) -> None:
        for command in ("demo", "serve", "test"):
            out = io.StringIO()
            told = contextlib.redirect_stdout(out)
            with mock.patch.object(setup, "python") as set_up, told, self.assertRaises(SystemExit) as ended:
                main.run(ROOT, [command, "--help"])
            self.assertEqual((ended.exception.code, set_up.called), (0, False), command)
            self.assertIn(f"oventa {command}", out.getvalue())

    def test_an_unknown_option_is_an_error(self) -> None:
        for argv in (["demo", "--prot", "80"], ["serve", "x"], ["serve", "--port", "x"], ["serve", "--port", "0"], ["test", "--fast"]):
            said = io.StringIO()
            told = contextlib.redirect_stderr(said)
            with mock.patch.object(setup, "python") as set_up, told, self.assertRaises(SystemExit) as ended:
                main.run(ROOT, argv)
            self.assertEqual((ended.exception.code, set_up.called), (2, False), argv)
            self.assertIn("usage: oventa", said.getvalue())

    def test_commands_of_the_shell_answer_help(self) -> None:
        for command in ("forecast", "study", "bench", "backup"):
            done = subprocess.run([sys.executable, str(ROOT / "oventa"), command, "--help"], capture_output=True, text=True, check=False)
            self.assertEqual(done.returncode, 0, (command, done.stderr))
            self.assertIn("usage:", done.stdout, command)

    def test_each_command_is_told_of_and_its_help_can_be_written(self) -> None:
        told = set(re.findall(r"\./oventa (\w+)", main.USAGE))
        own = set(main.OWN) | {"bench", "study", "backup", "restore"}
        self.assertEqual(told, own | set(main.WITH_ENGINE) | set(main.WITHOUT_ENGINE))
        for command in told - own:
            with contextlib.redirect_stdout(io.StringIO()) as out, self.assertRaises(SystemExit) as ended:
                shell(command).parse_args([command, "--help"])
            self.assertEqual(ended.exception.code, 0, command)
            self.assertIn(f"usage: oventa {command}", out.getvalue())

    def test_a_set_up_error_ends_with_1_and_a_remedy(self) -> None:
        error = steps.SetupError("no such thing", "Get one.")
        with mock.patch.object(setup, "python", side_effect=error), contextlib.redirect_stderr(io.StringIO()) as said:
            self.assertEqual(main.run(ROOT, ["forecast", "x.json"]), 1)
        self.assertIn("What to do: Get one.", said.getvalue())

    def test_a_taken_port_is_passed_over(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            with mock.patch.object(serving, "FIRST_PORT", port):
                self.assertGreater(serving._free_port(), port)

    def test_the_launcher_prints_json_alone_on_stdout(self) -> None:
        launcher = [sys.executable, str(ROOT / "oventa"), "forecast"]
        done = subprocess.run([*launcher, str(DEMO), "--layout", "A", "--json"], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertTrue(done.stdout.startswith("{") and done.stdout.rstrip().endswith("}"))
        bad = subprocess.run([*launcher, "nowhere.json"], capture_output=True, text=True, check=False)
        self.assertEqual(bad.returncode, 2)
