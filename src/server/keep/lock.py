"""Who uses a data folder: servers side by side, or one that replaces or changes the database, never both."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from server.keep.words import KeepError

try:
    import fcntl
except ImportError:  # a system without such locks: nothing is known of others
    fcntl = None  # type: ignore[assignment]

_held: list[IO[bytes]] = []


def use(lock: Path) -> None:
    """This process uses the folder until it ends. Raises KeepError while it is being restored or changed."""
    file = _open(lock)
    if fcntl is not None:
        try:
            fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except OSError as error:
            raise KeepError("The database is being restored or brought up to date", "Wait until that is done, then start again.") from error
    _held.append(file)


@contextmanager
def alone(lock: Path) -> Iterator[None]:
    """Nobody else uses the folder meanwhile. Raises KeepError while somebody does."""
    with _open(lock) as file:
        if fcntl is not None:
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError as error:
                do = "Stop it (Ctrl+C where it was started), then try again."
                raise KeepError("Oventa is running on this data folder", do) from error

        yield


def _open(lock: Path) -> IO[bytes]:
    return os.fdopen(os.open(lock, os.O_CREAT | os.O_RDWR | getattr(os, "O_CLOEXEC", 0), 0o600), "r+b")
