"""Before the database is opened: what is there is looked at, copied before it is changed, and brought up to date."""

import os
import sys
import threading
import time
from datetime import UTC, datetime

from server.config.paths import BACKUPS, DATA, DATABASE, LOCK, SECRET_KEY
from server.keep.copies import automatic, automatic_copies, copies_words
from server.keep.database import SIDES, Facts, look, own_only, pending
from server.keep.lock import alone, use
from server.keep.words import KeepError, disk_words

LOOK_EVERY_S = 600.0
NEW = DATABASE.with_name(DATABASE.name + ".new")


def prepare() -> list[str]:
    """Makes the data folder ready for this version; returns what was done, in words. Raises KeepError, having changed nothing."""
    try:
        DATA.mkdir(parents=True, exist_ok=True)
        for side in ("", *SIDES):
            NEW.with_name(NEW.name + side).unlink(missing_ok=True)  # of a start that was cut short
        close_to_others()
        if not DATABASE.exists():
            return _make_new()
        facts = look(DATABASE, copies=copies_words())
        if not pending(facts):
            return []
        with alone(LOCK):
            done = [f"A copy of the database was made first: {automatic('before-migration')}"] if sum(facts.counts.values()) else []
            _migrate()
        return done
    except OSError as error:
        raise disk_words(error, "preparing the data folder") from error


def _make_new() -> list[str]:
    """A new database, whole before it has its name, so that a start that is cut short leaves none that is empty."""
    copies = sorted(BACKUPS.glob("oventa-*.zip"), key=lambda f: f.stat().st_mtime_ns) if BACKUPS.is_dir() else []
    if copies:
        what = f"The database {DATABASE} is gone, though copies of it lie in {BACKUPS}"
        raise KeepError(what, f"Restore the newest: ./oventa restore {copies[-1]}. To begin with nothing, move the folder backups away.")
    with alone(LOCK):
        _migrate(NEW.name)
        os.replace(NEW, DATABASE)
        own_only(DATABASE)
    return []


def _migrate(name: str | None = None) -> None:
    import django
    from django.core.management import call_command
    from django.db import connection

    django.setup()
    if name:
        connection.settings_dict["NAME"] = DATA / name
    call_command("migrate", verbosity=0)
    connection.close()


def look_before_serving() -> Facts:
    """For the server itself: the folder is in use from now on. Raises KeepError for a database that this version must not open."""
    close_to_others()
    check_key()
    use(LOCK)
    if not DATABASE.exists():
        raise KeepError(f"There is no database at {DATABASE}", "Start with ./oventa serve, which makes one.")
    facts = look(DATABASE, copies=copies_words())
    if pending(facts):
        raise KeepError("The database is of an older version", "Start with ./oventa serve, which brings it up to date.")
    return facts


def check_key() -> None:
    """Raises KeepError for a key that would sign nothing."""
    if SECRET_KEY.exists() and len(SECRET_KEY.read_text(encoding="utf-8", errors="replace").strip()) < 20:
        do = "Delete the file and start again: a new one is made, and no data is lost by it."
        raise KeepError(f"The key in {SECRET_KEY} is empty or cut short", do)


def close_to_others() -> None:
    """Database, key and copies are readable by their owner only, also those that an earlier version left open."""
    os.umask(0o077)
    own_only(DATABASE, *(DATABASE.with_name(DATABASE.name + s) for s in SIDES), SECRET_KEY, BACKUPS)
    for file in BACKUPS.glob("oventa-*") if BACKUPS.is_dir() else ():
        own_only(file)


def copy_daily(facts: Facts) -> None:
    """A copy each day the server runs, in a thread of its own; nothing is copied while nothing is there."""
    threading.Thread(target=_daily, args=(sum(facts.counts.values()) > 0,), daemon=True, name="daily-copy").start()


def _daily(something: bool) -> None:
    while True:
        try:
            if something and not copied_today():
                automatic("daily")
        except KeepError as error:
            print(f"The daily copy was not made. {error}", file=sys.stderr, flush=True)
        time.sleep(LOOK_EVERY_S)
        something = True


def copied_today() -> bool:
    today = f"{datetime.now(UTC):oventa-%Y%m%d}"
    return any(f.name.startswith(today) and "-daily" in f.name for f in automatic_copies(BACKUPS)) if BACKUPS.is_dir() else False
