"""Long reckoning in processes of their own: the server goes on answering meanwhile, and a file that fills the memory ends only its reader.

They are started when first wanted and end when nothing has been asked of them for a while, or when the server is gone.
"""

import os
import signal
import threading
import time
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any, TypeVar

from django.conf import settings

from engine.errors import OventaError

WORKERS = max(1, min(2, os.cpu_count() or 1))
MEMORY = 3 * 1024**3
IDLE_S = 120.0
T = TypeVar("T")


class TooLargeError(OventaError):
    """What was given needs more memory than is lent to one file."""

    code = "too_large"


class _Pool:
    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None
        self._busy = 0
        self._asked = 0.0

    def submit(self, work: Callable[..., T], *args: Any) -> "Future[T]":
        with self._lock:
            if self._pool is None:
                self._pool = ProcessPoolExecutor(WORKERS, get_context("spawn"), _begin, (os.getpid(),))
                threading.Thread(target=self._rest, args=(self._pool,), daemon=True, name="apart").start()
            self._busy += 1
            future = self._pool.submit(work, *args)
        future.add_done_callback(self._done)
        return future

    def _done(self, _future: "Future[Any]") -> None:
        with self._lock:
            self._busy -= 1
            self._asked = time.monotonic()

    def renew(self) -> None:
        """After one has died: the next that is asked gets new ones."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool:
            pool.shutdown(wait=False, cancel_futures=True)

    def _rest(self, pool: ProcessPoolExecutor) -> None:
        while True:
            time.sleep(IDLE_S / 4)
            with self._lock:
                if self._pool is not pool:
                    return
                if self._busy == 0 and time.monotonic() - self._asked > IDLE_S:
                    self._pool = None
                    break
        pool.shutdown(wait=False)


_pool = _Pool()


def _begin(parent: int) -> None:
    """In each process: the server's Ctrl+C is not its own, its memory is limited, and it ends with the server."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if os.name == "posix":
        import resource

        resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1.0)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()


def apart(work: Callable[..., T], *args: Any) -> T:
    """The result of ``work``, a function of a module, done in another process. Its errors are raised here; TooLargeError past the limit."""
    return next(each_apart(work, [args]))


def each_apart(work: Callable[..., T], calls: Iterable[tuple[Any, ...]]) -> Iterator[T]:
    """Results in the order of the calls, a few at a time, so that few inputs are in memory. In tests: here, one after another."""
    if settings.TESTING:
        for args in calls:
            yield work(*args)
        return
    waiting: list[Future[T]] = []
    try:
        for args in calls:
            waiting.append(_pool.submit(work, *args))
            if len(waiting) > WORKERS:
                yield waiting.pop(0).result()
        while waiting:
            yield waiting.pop(0).result()
    except (BrokenProcessPool, MemoryError) as error:
        _pool.renew()
        do = "Split it, or leave out what is not needed; nothing was stored."
        raise TooLargeError("the file needs more memory than is lent to one", "file", do) from error
    finally:
        for future in waiting:
            future.cancel()
