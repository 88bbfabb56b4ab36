"""Studies as pieces of long work: each is a process of its own, so that a large one neither holds the server up nor outlives it."""

import os
import re
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from django.conf import settings

from desk.search.looking import CancelledError
from desk.words.studies import STUDIES
from engine.errors import ImpossibleInputError, OventaError
from engine.identity import ENGINE, METHOD

LOOK_S = 0.4
KINDNESS = 10  # common practice, no source: live runs and pages go first
_FAR = re.compile(r"(\d+) of (\d+)")


def checked(name: str, count: int) -> None:
    """Raises ImpossibleInputError for a study that there is not, or one that is too large here."""
    if name not in STUDIES:
        raise ImpossibleInputError(f"there is no study {name}", "name", f"Choose one of {', '.join(STUDIES)}.")
    if count > STUDIES[name].most:
        raise ImpossibleInputError(f"{count} are too many here", "count", f"At most {STUDIES[name].most}; ./oventa study takes any number.")


def published(page: str) -> str:
    """A page as it came with this version."""
    path = Path(settings.ROOT) / "docs" / page
    return path.read_text(encoding="utf-8") if path.is_file() else ""


def run_study(name: str, count: int, seed: int, said: Callable[[int, int], bool]) -> dict[str, Any]:
    """The page as it would be written among the documents. ``said`` is told how far it is, and answers whether to go on.

    Raises CancelledError, and OventaError where the study itself ends badly.
    """
    begun = time.monotonic()
    with TemporaryDirectory(prefix="oventa-study-") as folder:
        out, far = Path(folder), [0, 0]
        asked = [sys.executable, str(settings.ROOT / "tools" / "study" / "main.py"), f"--{name}", str(count), "--seed", str(seed)]
        environment = os.environ | {"OVENTA_EVIDENCE": folder, "PYTHONPATH": f"{settings.ROOT / 'src'}{os.pathsep}{settings.ROOT}"}
        process = subprocess.Popen(
            ["nice", "-n", str(KINDNESS), *asked],
            cwd=settings.ROOT,
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
            start_new_session=True,
        )
        last = list[str]()

        def listen() -> None:
            for line in process.stderr or ():
                if found := _FAR.fullmatch(line.strip()):
                    far[:] = [int(found[1]), int(found[2])]
                else:
                    last.append(line.strip())

        listener = threading.Thread(target=listen, daemon=True)
        listener.start()
        try:
            while process.poll() is None:
                if not said(far[0], far[1]):
                    raise CancelledError("the study was called off", "study", "Ask for it again.")
                time.sleep(LOOK_S)
        finally:
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGTERM)
                process.wait()
        listener.join(timeout=2)
        page = out / STUDIES[name].page
        if not page.is_file():
            raise OventaError(f"the study ended without a page: {last[-1] if last else 'no word'}", name, "Run ./oventa study in a shell.")
        return {
            "page": page.read_text(encoding="utf-8"),
            "missed": process.returncode != 0,
            "seconds": time.monotonic() - begun,
            "engine": ENGINE.number,
            "method": METHOD.number,
        }
