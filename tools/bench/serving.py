"""A server of its own, as people run it: to be measured, loaded and killed from outside."""

import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
import uuid
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
PATIENCE_S = 180.0  # a machine that others stall takes minutes for what else takes seconds
UPLOAD_S = 300.0


def ask(url: str, body: Any = None, method: str | None = None) -> Any:
    """JSON of an answer."""
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(url, data, {"Content-Type": "application/json"}, method=method)
    with urllib.request.urlopen(request, timeout=60) as reply:
        return json.load(reply)


def upload(url: str, name: str, data: bytes, **fields: str) -> Any:
    """JSON of the answer to a form with one file."""
    mark = uuid.uuid4().hex
    body = b""
    for key, value in fields.items():
        body += f'--{mark}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode()
    body += f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode() + data
    body += f"\r\n--{mark}--\r\n".encode()
    request = urllib.request.Request(url, body, {"Content-Type": f"multipart/form-data; boundary={mark}"})
    with urllib.request.urlopen(request, timeout=UPLOAD_S) as reply:
        return json.load(reply)


class Serving:
    """The application on a free port with a data folder of its own."""

    def __init__(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.url = f"http://127.0.0.1:{self.port}"
        own = {"OVENTA_DATA": self.folder.name, "PYTHONPATH": str(ROOT / "src"), "DJANGO_SETTINGS_MODULE": "server.config.settings"}
        self.env = {**os.environ, **own}
        self.process: subprocess.Popen[bytes] | None = None

    def manage(self, *command: str) -> None:
        subprocess.run([sys.executable, "-m", "django", *command], cwd=ROOT, env=self.env, check=True, capture_output=True)

    def prepare(self) -> "Serving":
        """The data folder made ready, as the launcher does."""
        subprocess.run([sys.executable, "-m", "server.keep", "prepare"], cwd=ROOT, env=self.env, check=True, capture_output=True)
        return self

    def start(self) -> "Serving":
        command = [sys.executable, "-m", "uvicorn", "server.config.asgi:application", "--host", "127.0.0.1", "--port", str(self.port)]
        log = Path(self.folder.name) / "server.log"
        with log.open("ab") as out:
            self.process = subprocess.Popen([*command, "--log-level", "warning"], cwd=ROOT, env=self.env, stdout=out, stderr=out)
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until and self.process.poll() is None:
            try:
                urllib.request.urlopen(f"{self.url}/api/health", timeout=2).close()
                return self
            except OSError:
                time.sleep(0.1)
        raise TimeoutError(f"the server did not start: {log.read_text(encoding='utf-8')[-2000:]}")

    def kill(self) -> None:
        """At once, as when the power of the process is taken."""
        if self.process:
            os.kill(self.process.pid, signal.SIGKILL)
            self.process.wait(10)
            self.process = None

    def stop(self) -> None:
        self.kill()
        self.folder.cleanup()
