"""The database file: reading it at one moment, and the words for what can be wrong with it."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import DatabaseError, DataError, IntegrityError, connection

Words = tuple[int, str, str, str]  # status, code, what, do


@contextmanager
def one_moment() -> Iterator[None]:
    """Reads within see the database as it stands at one moment. Unlike a transaction that may write, it keeps no writer waiting."""
    connection.ensure_connection()
    if connection.in_atomic_block or connection.connection.in_transaction:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("BEGIN DEFERRED")
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute("COMMIT")


def database_words(error: DatabaseError) -> Words:
    """HTTP status, code, what is wrong and what to do, for an error of the database."""
    text = str(error).lower()
    if "locked" in text or "busy" in text:
        return 503, "database_busy", "the database is busy with something else", "Nothing was changed; try again in a moment."
    if "full" in text:
        do = "Make room on the disk that holds the data folder, then try again; nothing was changed."
        return 507, "disk_full", "the disk is full", do
    if "readonly" in text or "read-only" in text or "unable to open" in text:
        do = "Look who owns the data folder and whether it may be written; nothing was changed."
        return 507, "not_writable", "the data folder cannot be written", do
    if "malformed" in text or "not a database" in text:
        do = "Stop the server, and restore the newest copy: ./oventa restore FILE (copies lie in the folder backups)."
        return 500, "database_damaged", "the database file is damaged", do
    if isinstance(error, IntegrityError):
        do = "Reload the page, and do it again if it is still wanted."
        return 409, "changed_meanwhile", "this does not go with what is stored: something else changed it in the meantime", do
    if isinstance(error, DataError):
        return 422, "bad_request", "a value cannot be kept", "Give a smaller or shorter one."
    return 500, "database_error", "the database refused this", "Try again; the messages of the server say more."
