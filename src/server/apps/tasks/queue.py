"""The queue: huey on a file of its own beside the database, or on a network broker where ``OVENTA_BROKER`` names one."""

import os
import threading
from typing import Any

from huey import SqliteHuey
from huey.consumer import Consumer

from engine.errors import OventaError
from server.config.paths import DATA

BROKER = os.environ.get("OVENTA_BROKER", "")
NAME = "oventa"
WORKERS = 2  # no source: a file is read while a search goes on


def made(immediate: bool = False, name: str = NAME) -> Any:
    """Raises OventaError for a broker that this installation cannot speak to."""
    if not BROKER:
        return SqliteHuey(name, filename=str(DATA / "tasks.sqlite3"), immediate=immediate)
    try:
        from huey import RedisHuey

        return RedisHuey(name, url=BROKER, immediate=immediate)
    except ImportError as error:
        do = "Install the broker's client beside Oventa (redis), or leave OVENTA_BROKER out: tasks are then kept in a file."
        raise OventaError(f"the broker's client is missing ({error})", "OVENTA_BROKER", do) from error


class Quiet(Consumer):  # type: ignore[misc]  # huey has no types
    """A consumer within the server's own process: the server minds the signals."""

    def _set_signal_handlers(self) -> None:
        return None


_lock = threading.Lock()
_running: dict[str, Quiet] = {}


def consume(queue: Any, workers: int = WORKERS) -> None:
    """Starts the workers of this process for a queue, once."""
    with _lock:
        if queue.name not in _running:
            consumer = Quiet(queue, workers=workers, periodic=False, worker_type="thread", check_worker_health=False)
            consumer.start()
            _running[queue.name] = consumer
