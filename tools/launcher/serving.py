"""``./oventa demo`` and ``./oventa serve``: set-up, database, server, and the address once it answers."""

import os
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
import webbrowser
from pathlib import Path

from launcher import setup
from launcher.steps import FIRST_PORT, SetupError, say


def serve(root: Path, port: int | None, demo: bool) -> int:
    """Sets up, migrates, loads demo data where there is none, and serves on a loopback port until stopped."""
    port = port or _free_port()
    env = setup.environment(root)

    def prepare(binary: str) -> None:
        say("Preparing the database")
        if subprocess.call([binary, "-m", "server.keep", "prepare"], env=env):
            raise SetupError("the database cannot be used as it is", "Read the message above.")

    python = setup.everything(root, "base", prepare)
    address = f"http://127.0.0.1:{port}/"
    if demo:
        env["OVENTA_DEMO_URL"] = address  # the server shows a live run of the made-up machine on its first start
    threading.Thread(target=_announce, args=(address,), daemon=True).start()
    server = [python, "-m", "uvicorn", "server.config.asgi:application", "--host", "127.0.0.1", "--port", str(port)]
    return subprocess.call([*server, "--log-level", "warning", "--timeout-graceful-shutdown", "2"], env=env)


def _announce(address: str) -> None:
    """Prints the address once the server answers, and opens it where there is a desktop."""
    for _ in range(150):
        try:
            urllib.request.urlopen(address + "api/health", timeout=2).close()
        except (urllib.error.URLError, OSError):
            time.sleep(0.2)
            continue
        print(f"\nOventa is ready: {address}   (Ctrl+C stops it)", flush=True)
        if sys.platform in ("darwin", "win32") or os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"):
            webbrowser.open(address)
        return
    say("The server does not answer; see the messages above.")


def _free_port() -> int:
    for port in range(FIRST_PORT, FIRST_PORT + 50):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) != 0:
                return port
    raise SetupError("no free port", "Stop another program or name a port with --port.")
