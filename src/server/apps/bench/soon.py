"""Work that a sender need not wait for: done at once after the answer, in a thread of its own; the same thing is never waiting twice."""

import logging
import threading
from collections.abc import Callable, Hashable
from concurrent.futures import ThreadPoolExecutor

from django.conf import settings
from django.db import connection

LOG = logging.getLogger("oventa.bench")
_pool = ThreadPoolExecutor(max_workers=2, thread_name_prefix="soon")
_waiting: set[Hashable] = set()
_lock = threading.Lock()


def soon(key: Hashable, work: Callable[[], object]) -> None:
    """Does ``work`` unless the same key is waiting already; in tests before this returns, so that each sees what it has done."""
    if settings.TESTING:
        work()
        return
    with _lock:
        if key in _waiting:
            return
        _waiting.add(key)
    _pool.submit(_do, key, work)


def _do(key: Hashable, work: Callable[[], object]) -> None:
    with _lock:
        _waiting.discard(key)
    try:
        work()
    except Exception:  # nobody is there to be told; the next post comes back to it
        LOG.exception("%s", key)
    finally:
        connection.close()  # this thread's own
