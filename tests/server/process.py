"""A server of its own, as people run it: to be killed, loaded and looked at from outside."""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from typing import Any

from tests.machines import ROOT


class ServerProcess:
    """uvicorn on a free port with a data folder of its own."""

    def __init__(self, folder: str | None = None) -> None:
        self.own = tempfile.TemporaryDirectory() if folder is None else None
        self.folder = folder or (self.own.name if self.own else "")
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.url = f"http://127.0.0.1:{self.port}"
        self.env = {
            **os.environ,
            "OVENTA_DATA": self.folder,
            "PYTHONPATH": str(ROOT / "src"),
            "DJANGO_SETTINGS_MODULE": "server.config.settings",
        }
        self.process: subprocess.Popen[bytes] | None = None

    def manage(self, *command: str) -> None:
        subprocess.run([sys.executable, "-m", "django", *command], cwd=ROOT, env=self.env, check=True, capture_output=True)

    def start(self) -> "ServerProcess":
        command = [sys.executable, "-m", "uvicorn", "server.config.asgi:application", "--host", "127.0.0.1", "--port", str(self.port)]
        log = Path(self.folder) / "server.log"
        self.process = subprocess.Popen(
            [*command, "--log-level", "warning"], cwd=ROOT, env=self.env, stdout=log.open("ab"), stderr=subprocess.STDOUT
        )
        until = time.monotonic() + 60
        while time.monotonic() < until:
            try:
                urllib.request.urlopen(f"{self.url}/api/health", timeout=2).close()
                return self
            except OSError:
                time.sleep(0.1)
        raise AssertionError(f"the server did not start: {log.read_text()[-2000:]}")

    def kill(self) -> None:
        """At once, as when the power of the process is taken."""
        if self.process:
            os.kill(self.process.pid, signal.SIGKILL)
            self.process.wait(10)
            self.process = None

    def stop(self, *_args: Any) -> None:
        self.kill()
        if self.own:
            self.own.cleanup()
