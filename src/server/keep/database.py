"""A database file looked at from outside: what it is, whether it is whole, which version of the program made it."""

import os
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

from server.config.paths import ROOT
from server.keep.words import KeepError

MAGIC = b"SQLite format 3\0"
WAIT_S = 30.0
SIDES = ("-wal", "-shm", "-journal")
COUNTED = {"jobs": "jobs_job", "runs": "bench_run", "verdicts": "verdicts_verdict", "readings": "bench_batch", "marks": "bench_mark"}


@dataclass(frozen=True)
class Facts:
    """What a whole database holds."""

    counts: dict[str, int]
    migrations: list[str]


@contextmanager
def opened(file: Path) -> Iterator[sqlite3.Connection]:
    with closing(sqlite3.connect(file, timeout=WAIT_S, isolation_level=None)) as connection:
        yield connection


def known_migrations() -> set[str]:
    """``app.name`` of every migration this version brings."""
    files = (ROOT / "src" / "server" / "apps").glob("*/migrations/[0-9]*.py")
    return {f"{f.parent.parent.name}.{f.stem}" for f in files}


def pending(facts: Facts) -> set[str]:
    """Migrations that the database has still to go through."""
    return known_migrations() - set(facts.migrations)


def look(file: Path, deep: bool = False, copies: str = "") -> Facts:
    """What a database holds. Raises KeepError for one that is empty, damaged, not of this program or of a newer version.

    ``deep`` reads every page; ``copies`` says where copies lie.
    """
    remedy = f"Restore a copy: ./oventa restore FILE{copies}. The file was left as it is."
    size = file.stat().st_size
    if size == 0:
        raise KeepError(f"The database {file} is empty (0 bytes): what was in it is not there any more", remedy)
    with file.open("rb") as start:
        if start.read(len(MAGIC)) != MAGIC:
            raise KeepError(f"{file} is no database: its beginning is overwritten", remedy)
    try:
        with opened(file) as db:
            found = [row[0] for row in db.execute("PRAGMA integrity_check" if deep else "PRAGMA quick_check")]
            tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            if found == ["ok"] and "django_migrations" in tables:
                facts = _facts(db, tables)
                loose = list(db.execute("PRAGMA foreign_key_check")) if deep else []
    except sqlite3.OperationalError as error:
        if "locked" in str(error) or "busy" in str(error):
            raise KeepError(f"The database {file} is in use ({error})", "Wait, or stop what uses it, and try again.") from error
        raise KeepError(f"The database {file} cannot be read ({error})", remedy) from error
    except sqlite3.DatabaseError as error:
        raise KeepError(f"The database {file} is damaged ({error})", remedy) from error
    if found != ["ok"]:
        raise KeepError(f"The database {file} is damaged ({found[0]})", remedy)
    if "django_migrations" not in tables or not facts.migrations:
        raise KeepError(f"The database {file} was not made by Oventa, or was emptied", remedy)
    if loose:
        raise KeepError(f"The database {file} is not whole: rows in {loose[0][0]} point at others that are gone", remedy)
    newer = sorted(set(facts.migrations) - known_migrations())
    if newer:
        what = f"The database {file} was made by a newer version of Oventa ({newer[0]})"
        raise KeepError(what, f"Use that version, or restore a copy that this one made: ./oventa restore FILE{copies}.")
    return facts


def _facts(db: sqlite3.Connection, tables: set[str]) -> Facts:
    ours = [f.parent.name for f in (ROOT / "src" / "server" / "apps").glob("*/migrations")]
    rows = db.execute("SELECT app, name FROM django_migrations ORDER BY id").fetchall()
    counts = {words: db.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for words, table in COUNTED.items() if table in tables}
    return Facts(counts, [f"{app}.{name}" for app, name in rows if app in ours])


def snapshot(database: Path, to: Path) -> None:
    """The database as it stands at one moment, in one file; writers go on meanwhile."""
    to.unlink(missing_ok=True)
    with opened(database) as source, opened(to) as target:
        source.backup(target)
        target.execute("PRAGMA journal_mode=DELETE")


def own_only(*files: Path) -> None:
    """Readable and writable by their owner alone."""
    for file in files:
        if file.exists():
            os.chmod(file, 0o700 if file.is_dir() else 0o600)
