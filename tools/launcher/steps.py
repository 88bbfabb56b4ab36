"""Steps of set-up: shown as they run, skipped when their inputs have not changed, explained when they fail."""

import hashlib
import subprocess
import sys
import time
from pathlib import Path

FIRST_PORT = 8417


class SetupError(Exception):
    """A step failed; ``reason`` and ``remedy`` are for the person."""

    def __init__(self, reason: str, remedy: str) -> None:
        super().__init__(reason)
        self.reason, self.remedy = reason, remedy


def say(words: str) -> None:
    print(words, file=sys.stderr, flush=True)


def run(words: str, command: list[str], remedy: str, cwd: Path | None = None, env: dict[str, str] | None = None) -> None:
    """Runs one step; on failure shows the end of what it printed."""
    say(f"{words} ...")
    started = time.monotonic()
    try:
        done = subprocess.run(command, cwd=cwd, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False)
    except FileNotFoundError as error:
        raise SetupError(f"{command[0]} is not installed", remedy) from error
    if done.returncode:
        say(done.stdout[-3000:])
        raise SetupError(f"{words}: the step ended with code {done.returncode}", remedy)
    say(f"{words}: done in {time.monotonic() - started:.0f} s")


def fingerprint(paths: list[Path]) -> str:
    """Hash over the contents of files and folders."""
    digest = hashlib.sha256()
    for path in paths:
        files = sorted(p for p in path.rglob("*") if p.is_file() and p.suffix != ".pyc") if path.is_dir() else [path]
        for file in files:
            digest.update(str(file.name).encode())
            digest.update(file.read_bytes())
    return digest.hexdigest()


def fresh(stamp: Path, mark: str) -> bool:
    return stamp.is_file() and stamp.read_text() == mark


def stamp(path: Path, mark: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(mark)
