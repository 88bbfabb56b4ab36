"""Copies of everything that is stored: made while the server runs, read again before they count, restored with what was there kept aside.

A copy is a zip of ``backup.json`` (what, when, how many, SHA-256) and the database, in which pictures lie too, and recordings beside it.
"""

import hashlib
import json
import os
import re
import shutil
import sqlite3
import tempfile
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from server.config.paths import BACKUPS, CLIPS, DATA, DATABASE
from server.keep.database import SIDES, Facts, look, opened, own_only, snapshot
from server.keep.lock import alone
from server.keep.words import KeepError, disk_words

FORMAT, VERSION = "oventa-backup", 1
ABOUT, INSIDE = "backup.json", "oventa.sqlite3"
KEPT = 10
PIECE = 1024 * 1024
_AUTOMATIC = re.compile(r"^oventa-\d{8}T\d{6}Z-(daily|before-migration)(-\d+)?\.zip$")
_CLIP = re.compile(r"^[0-9a-f]{32}\.wav$")
_NO_BACKUP = "Choose a file that ./oventa backup wrote, or one from the folder backups."


def write(file: Path, database: Path = DATABASE, clips: bool = True) -> Facts:
    """A verified copy at ``file``; what stood there before stays until the new one is whole. Raises KeepError.

    Recordings go along unless ``clips`` is false: they are never changed, and stay where they are when a database is put back.
    """
    if not database.exists():
        raise KeepError(f"There is no database at {database}", "Start Oventa once, or name the data folder with OVENTA_DATA.")
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".oventa-backup-", dir=file.parent) as folder:
            copy, part = Path(folder) / INSIDE, Path(folder) / "part.zip"
            os.close(os.open(copy, os.O_CREAT | os.O_WRONLY, 0o600))
            snapshot(database, copy)
            facts = look(copy, deep=True)
            about = {
                "format": FORMAT,
                "version": VERSION,
                "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
                "sha256": _sha(copy),
                "counts": facts.counts,
                "migrations": facts.migrations,
            }
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as zipped:
                zipped.writestr(ABOUT, json.dumps(about, indent=1) + "\n")
                zipped.write(copy, INSIDE)
                for clip in sorted((database.parent / CLIPS.name).glob("*")) if clips else ():
                    zipped.write(clip, f"{CLIPS.name}/{clip.name}", zipfile.ZIP_STORED)
            own_only(part)
            _sync(part)
            copy.unlink()
            unpack(part, copy)  # read again: a copy that cannot be restored is none
            os.replace(part, file)
    except sqlite3.DatabaseError as error:
        raise KeepError(f"The database could not be copied ({error})", "Make room on the disk, or try again in a moment.") from error
    except OSError as error:
        raise disk_words(error, "the backup") from error
    return facts


def unpack(file: Path, to: Path) -> tuple[dict[str, Any], Facts]:
    """The database of a copy, written to ``to`` and looked at page by page. Raises KeepError for a file that is no whole copy."""
    try:
        with zipfile.ZipFile(file) as zipped:
            about = json.loads(zipped.read(ABOUT))
            if about.get("format") != FORMAT or about.get("version") != VERSION:
                raise KeepError(f"{file} is a backup of another version ({about.get('version')})", "Use the version that wrote it.")
            with zipped.open(INSIDE) as source, to.open("wb") as target:
                shutil.copyfileobj(source, target, PIECE)
    except (zipfile.BadZipFile, KeyError, ValueError, AttributeError, EOFError) as error:
        raise KeepError(f"{file} is no backup of Oventa, or is damaged ({error})", _NO_BACKUP) from error
    own_only(to)
    if _sha(to) != about["sha256"]:
        raise KeepError(f"{file} is damaged: its contents are not those that were written", _NO_BACKUP)
    return about, look(to, deep=True)


def restore(file: Path, data: Path = DATA) -> tuple[Facts, Path | None]:
    """Puts a copy in the place of the database; returns what it holds, and where the state before is kept (None where there was none).

    Raises KeepError while Oventa runs on the same folder, and for a file that is no whole copy: then nothing has been changed.
    """
    database = data / DATABASE.name
    if not file.exists():
        raise KeepError(f"There is no file {file}", _NO_BACKUP)
    try:
        data.mkdir(parents=True, exist_ok=True)
        own_only(data)
        with alone(data / "in-use.lock"):
            fresh = data / "oventa.sqlite3.restoring"
            _, facts = unpack(file, fresh)
            _sync(fresh)
            aside = _set_aside(database, data / BACKUPS.name) if database.exists() else None
            _clips(file, data / CLIPS.name)
            os.replace(fresh, database)
            _sync(data)
            return facts, aside
    except OSError as error:
        raise disk_words(error, "restoring") from error


def _clips(file: Path, folder: Path) -> None:
    """Recordings of a copy beside those that are there; names that no recording has are passed over."""
    with zipfile.ZipFile(file) as zipped:
        for name in zipped.namelist():
            own = name.removeprefix(f"{CLIPS.name}/")
            if own == name or not _CLIP.match(own) or (folder / own).exists():
                continue
            folder.mkdir(mode=0o700, exist_ok=True)
            with zipped.open(name) as source, (folder / f"{own}.part").open("wb") as target:
                shutil.copyfileobj(source, target, PIECE)
            os.replace(folder / f"{own}.part", folder / own)


def _set_aside(database: Path, folder: Path) -> Path:
    """Keeps the present database: as a copy where it can be read, else the file as it is. Its side files are emptied or go along."""
    stem = f"oventa-{datetime.now(UTC):%Y%m%dT%H%M%SZ}-before-restore"
    folder.mkdir(exist_ok=True)
    try:
        kept = _free(folder, stem, ".zip")
        write(kept, database, clips=False)
        with opened(database) as db:
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    except KeepError:
        kept = _free(folder, stem, ".sqlite3")
        shutil.copy2(database, kept)
        own_only(kept)
        for side in SIDES:
            beside = database.with_name(database.name + side)
            if beside.exists():
                os.replace(beside, kept.with_name(kept.name + side))
    return kept


def automatic(kind: str, data: Path = DATA) -> Path:
    """A copy among the last ten that are made without being asked for. ``kind``: daily or before-migration."""
    folder = data / BACKUPS.name
    folder.mkdir(mode=0o700, exist_ok=True)
    file = _free(folder, f"oventa-{datetime.now(UTC):%Y%m%dT%H%M%SZ}-{kind}", ".zip")
    write(file, data / DATABASE.name, clips=False)
    for old in automatic_copies(folder)[:-KEPT]:
        old.unlink(missing_ok=True)
    return file


def automatic_copies(folder: Path) -> list[Path]:
    """Oldest first."""
    return sorted((f for f in folder.glob("oventa-*.zip") if _AUTOMATIC.match(f.name)), key=lambda f: (f.stat().st_mtime_ns, f.name))


def copies_words(data: Path = DATA) -> str:
    """Where copies lie, for a message: the newest by name; empty where there is none."""
    found = sorted((data / BACKUPS.name).glob("oventa-*.zip"), key=lambda f: f.stat().st_mtime_ns)
    return f" (the newest copy: {found[-1]})" if found else ""


def _free(folder: Path, stem: str, ending: str) -> Path:
    names = (folder / f"{stem}{f'-{n}' if n else ''}{ending}" for n in range(1000))
    return next(f for f in names if not f.exists())


def _sha(file: Path) -> str:
    with file.open("rb") as data:
        return hashlib.file_digest(data, "sha256").hexdigest()


def _sync(path: Path) -> None:
    """On the disk, not only on its way there."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
