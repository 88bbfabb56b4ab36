"""``./oventa test``: formatters, linters, types, import rules, contracts, then Django's test runner over everything."""

import os
import subprocess
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from launcher import setup
from launcher.steps import say


def needs_browser(name: str) -> bool:
    return name == "tests" or name.startswith("tests.browser")


def needs_front_end(name: str) -> bool:
    """Tests of the server hand out the built pages too."""
    return needs_browser(name) or name.startswith(("tests.server", "tests.tools", "tests.frontend"))


Step = tuple[str, list[str], Path]


def _checked(step: Step, env: dict[str, str]) -> tuple[str, float]:
    """What a check says where it fails, else nothing; and how long it took."""
    _, command, folder = step
    started = time.monotonic()
    done = subprocess.run(command, cwd=folder, env=env, capture_output=True, text=True, check=False)
    told = (done.stdout + done.stderr)[-4000:] or f"it ended with code {done.returncode}"
    return told if done.returncode else "", time.monotonic() - started


LONGEST = 12  # classes of tests that are named with their time
MOST_AT_ONCE = 4  # each browser wants most of a processor
QUICK = ["tests.engine", "tests.documents", "tests.desk", "tests.cli"]


def _tell_slowest(times: Path) -> None:
    """Where the time of the tests went, by class; what each took stands in ``times``."""
    spent: dict[str, float] = {}
    for line in times.read_text(encoding="utf-8").splitlines() if times.is_file() else []:
        seconds, name = line.split(" ", 1)
        of = name.rsplit(".", 1)[0].removeprefix("tests.")
        spent[of] = spent.get(of, 0.0) + float(seconds)
    longest = sorted(spent, key=lambda name: -spent[name])[:LONGEST]
    if longest:
        say("\nThe longest: " + ", ".join(f"{name} {spent[name]:.0f} s" for name in longest))


def run_all(root: Path, argv: list[str], quick: bool = False) -> int:
    """All checks and tests; with names only those tests, and only the set-up that they need. Ends with ``N passed, N failed``.

    ``quick`` leaves out what takes long, and without names runs what needs no browser, database or Node.
    """
    argv = argv or (QUICK if quick else [])
    if not argv:
        with ThreadPoolExecutor(1) as beside:
            browser = beside.submit(setup.chromium)
            python = setup.everything(root, "dev")
            chromium = browser.result()
    else:
        python = setup.python(root, "dev")
        setup.engine(root, python)
        if any(needs_front_end(name) for name in argv):
            setup.frontend(root)
    env = setup.environment(root)
    if not argv or any(needs_browser(name) for name in argv):
        env["OVENTA_CHROMIUM"] = setup.chromium() if argv else chromium
    front = root / "frontend"
    failed: list[str] = []
    passed = 0
    steps: list[Step] = [
        ("Python format", [python, "-m", "ruff", "format", "--check", "-q", "."], root),
        ("Python lint", [python, "-m", "ruff", "check", "-q", "."], root),
        ("Python types", [python, "-m", "mypy"], root),
        ("Import rules", [str(Path(python).parent / "lint-imports"), "--no-cache"], root),
        ("Migrations", [python, "-m", "django", "makemigrations", "--check", "--dry-run", "-v0"], root),
        ("Front-end lint", ["npx", "--no-install", "biome", "check", "."], front),
        ("Front-end types", ["npx", "--no-install", "tsc", "--noEmit"], front),
    ]
    with ThreadPoolExecutor(2) as pool:
        wanted = [] if argv else steps
        for (words, _, _), (told, seconds) in zip(wanted, pool.map(lambda step: _checked(step, env), wanted), strict=True):
            say(f"{'FAILED' if told else 'ok    '}  {words}  ({seconds:.1f} s)")
            if told:
                say(told)
                failed.append(words)
            passed += not told
    counts = root / "var" / "test-counts.txt"
    counts.parent.mkdir(exist_ok=True)
    for old in (counts, counts.with_name(counts.name + ".units")):
        old.unlink(missing_ok=True)
    times = counts.with_name("test-times.txt")
    times.unlink(missing_ok=True)
    tests = [python, "-W", "error::DeprecationWarning:engine", "-m", "django", "test", *(argv or ["tests"]), "--noinput"]
    one_module = len(argv) == 1 and argv[0].count(".") > 1
    tests += [] if one_module else ["--parallel", str(min(max(os.cpu_count() or 2, 2), MOST_AT_ONCE))]
    env |= {"OVENTA_TEST_QUICK": "1"} if quick else {}
    code = subprocess.call(tests, cwd=root, env={**env, "OVENTA_TEST_COUNTS": str(counts), "OVENTA_TEST_TIMES": str(times)})
    _tell_slowest(times)
    ran = [int(n) for n in counts.read_text().split()] if counts.is_file() else [0, 1]
    passed, lost = passed + ran[0], ran[1] + len(failed) + (1 if code and not ran[1] else 0)
    if failed:
        say(f"\nFailed checks: {', '.join(failed)}")
    print(f"{passed} passed, {lost} failed", flush=True)
    return 1 if lost or code else 0
