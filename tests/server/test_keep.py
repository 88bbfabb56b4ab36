"""Copies of everything stored: whole, private, made by themselves, restored elsewhere; and a database that must not be opened is named."""

import os
import shutil
import sqlite3
import stat
import subprocess
import sys
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path
from typing import ClassVar
from unittest.mock import patch

from django.test import SimpleTestCase

from server.keep import copies, database, start
from server.keep.words import KeepError
from tests.machines import ROOT


class KeepCase(SimpleTestCase):
    """A data folder of its own, prepared as the launcher does."""

    made: ClassVar["tempfile.TemporaryDirectory[str]"]
    template: ClassVar[Path]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.made = tempfile.TemporaryDirectory()
        cls.template = Path(cls.made.name) / "data"
        done = cls.run_keep("prepare", cls.template)
        assert done.returncode == 0, done.stderr
        with closing(sqlite3.connect(cls.template / "oventa.sqlite3", isolation_level=None)) as db:
            for i in range(3):
                made = "(name, token_hash, made_at, made_up, suite) VALUES (?, 'x', '2026-01-01', 0, '{}')"
                db.execute(f"INSERT INTO bench_bench {made}", (f"bench {i}",))
                batch = "(bench_id, session_id, seq, first_s, last_s, data)"
                session = "(bench_id, key, source, offset_s, rate, last_seq, last_s, heard_at, turns, loads)"
                db.execute(f"INSERT INTO bench_session {session} VALUES (?, 'k', '', 0, 1, 1, 1, '2026-01-01', '[]', '[]')", (i + 1,))
                db.execute(f"INSERT INTO bench_batch {batch} VALUES (?, ?, 1, 0, 1, ?)", (i + 1, i + 1, os.urandom(3000)))

    @classmethod
    def tearDownClass(cls) -> None:
        cls.made.cleanup()
        super().tearDownClass()

    @staticmethod
    def run_keep(*args: object) -> "subprocess.CompletedProcess[str]":
        """``python -m server.keep`` with the last argument as data folder."""
        *words, data = args
        env = {**os.environ, "OVENTA_DATA": str(data), "PYTHONPATH": str(ROOT / "src"), "DJANGO_SETTINGS_MODULE": "server.config.settings"}
        command = [sys.executable, "-m", "server.keep", *map(str, words)]
        return subprocess.run(command, env=env, cwd=ROOT, capture_output=True, text=True, check=False)

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.data = self.folder / "data"
        shutil.copytree(self.template, self.data)
        self.file = self.data / "oventa.sqlite3"

    def batches(self, file: Path) -> list[bytes]:
        with closing(sqlite3.connect(file)) as db:
            return [row[0] for row in db.execute("SELECT data FROM bench_batch ORDER BY id")]

    def mode(self, file: Path) -> int:
        return stat.S_IMODE(file.stat().st_mode)


class BackupTest(KeepCase):
    def test_a_copy_is_whole_private_and_comes_back_elsewhere(self) -> None:
        target = self.folder / "copy.zip"
        done = self.run_keep("backup", target, self.data)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("3 posts of readings", done.stdout)
        self.assertEqual(self.mode(target), 0o600)
        other = self.folder / "other"
        done = self.run_keep("restore", target, other)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(self.batches(other / "oventa.sqlite3"), self.batches(self.file))
        self.assertEqual(self.mode(other / "oventa.sqlite3"), 0o600)

    def test_it_is_taken_while_somebody_writes(self) -> None:
        """What was committed before is in it, what is not yet is not."""
        with closing(sqlite3.connect(self.file, isolation_level=None)) as db:
            db.execute("PRAGMA journal_mode=WAL")
            db.execute("UPDATE bench_bench SET name = 'committed' WHERE id = 1")
            db.execute("BEGIN IMMEDIATE")
            db.execute("UPDATE bench_bench SET name = 'not yet' WHERE id = 2")
            copies.write(self.folder / "copy.zip", self.file)
            db.execute("ROLLBACK")
        copies.unpack(self.folder / "copy.zip", self.folder / "out.sqlite3")
        with closing(sqlite3.connect(self.folder / "out.sqlite3")) as db:
            self.assertEqual([r[0] for r in db.execute("SELECT name FROM bench_bench ORDER BY id")], ["committed", "bench 1", "bench 2"])

    def test_the_state_before_a_restore_is_kept(self) -> None:
        copies.write(self.folder / "copy.zip", self.file)
        with closing(sqlite3.connect(self.file, isolation_level=None)) as db:
            db.execute("UPDATE bench_bench SET name = 'later' WHERE id = 1")
        _, aside = copies.restore(self.folder / "copy.zip", self.data)
        assert aside
        copies.restore(aside, self.data)
        with closing(sqlite3.connect(self.file)) as db:
            self.assertEqual(db.execute("SELECT name FROM bench_bench WHERE id = 1").fetchone()[0], "later")

    def test_a_damaged_state_before_is_kept_as_it_is(self) -> None:
        copies.write(self.folder / "copy.zip", self.file)
        self.file.write_bytes(b"no database at all")
        _, aside = copies.restore(self.folder / "copy.zip", self.data)
        assert aside
        self.assertEqual(aside.read_bytes(), b"no database at all")
        self.assertEqual(len(self.batches(self.file)), 3)

    def test_a_file_that_is_no_copy_changes_nothing(self) -> None:
        copies.write(self.folder / "copy.zip", self.file)
        whole = (self.folder / "copy.zip").read_bytes()
        before = self.batches(self.file)
        spoilt = bytearray(whole)
        spoilt[len(spoilt) // 2] ^= 255
        with zipfile.ZipFile(self.folder / "other.zip", "w") as file:
            file.writestr("backup.json", '{"format": "oventa-backup", "version": 1, "sha256": "0"}')
            file.writestr("oventa.sqlite3", b"x" * 500)
        for content in (b"", b"hello", whole[: len(whole) // 2], bytes(spoilt), (self.folder / "other.zip").read_bytes()):
            (self.folder / "bad.zip").write_bytes(content)
            done = self.run_keep("restore", self.folder / "bad.zip", self.data)
            self.assertEqual(done.returncode, 2, content[:20])
            self.assertIn("What to do:", done.stderr)
            self.assertNotIn("Traceback", done.stderr)
        self.assertEqual(self.batches(self.file), before)
        self.assertEqual(self.run_keep("restore", self.folder / "none.zip", self.data).returncode, 2)

    def test_nothing_is_restored_under_a_running_server(self) -> None:
        copies.write(self.folder / "copy.zip", self.file)
        load = "import sys; from pathlib import Path; from server.keep.lock import use"
        holding = f"{load}; use(Path(sys.argv[1])); print('held', flush=True); input()"
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        command = [sys.executable, "-c", holding, str(self.data / "in-use.lock")]
        with subprocess.Popen(command, env=env, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as server:
            assert server.stdout and server.stdin
            self.assertEqual(server.stdout.readline().strip(), "held")
            done = self.run_keep("restore", self.folder / "copy.zip", self.data)
            self.assertEqual(done.returncode, 2)
            self.assertIn("Oventa is running on this data folder", done.stderr)
            server.stdin.write("\n")
        self.assertEqual(self.run_keep("restore", self.folder / "copy.zip", self.data).returncode, 0)

    def test_a_full_disk_is_said_and_leaves_nothing(self) -> None:
        full = OSError(28, "No space left on device")
        with patch.object(zipfile.ZipFile, "write", side_effect=full), self.assertRaises(KeepError) as caught:
            copies.write(self.folder / "copy.zip", self.file)
        self.assertIn("The disk is full", caught.exception.what)
        self.assertEqual([f.name for f in self.folder.iterdir()], ["data"])

    def test_a_copy_that_cannot_be_read_again_is_none(self) -> None:
        (self.folder / "copy.zip").write_bytes(b"the one before")
        with patch.object(copies, "unpack", side_effect=KeepError("damaged", "x")), self.assertRaises(KeepError):
            copies.write(self.folder / "copy.zip", self.file)
        self.assertEqual((self.folder / "copy.zip").read_bytes(), b"the one before")

    def test_the_last_ten_are_kept(self) -> None:
        asked = self.data / "backups" / "mine.zip"
        for i in range(13):
            copies.automatic("before-migration" if i % 4 == 0 else "daily", self.data)
            if i == 0:
                copies.write(asked, self.file)
        self.assertEqual(len(copies.automatic_copies(self.data / "backups")), copies.KEPT)
        self.assertTrue(asked.exists(), "one that was asked for stays")
        self.assertEqual({self.mode(f) for f in (self.data / "backups").iterdir()}, {0o600})


class StartTest(KeepCase):
    def refused(self, words: str) -> None:
        before = self.file.read_bytes() if self.file.exists() else None
        done = self.run_keep("prepare", self.data)
        self.assertEqual(done.returncode, 2, done.stdout)
        self.assertIn(words, done.stderr)
        self.assertIn("What to do:", done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        self.assertLess(len(done.stderr.splitlines()), 6)
        self.assertEqual(self.file.read_bytes() if self.file.exists() else None, before, "left as it was")

    def test_a_whole_one_is_opened_and_closed_to_others(self) -> None:
        for file in (self.file, self.data / "secret-key"):
            file.chmod(0o644)
        self.assertEqual(self.run_keep("prepare", self.data).returncode, 0)
        self.assertEqual({self.mode(f) for f in (self.file, self.data / "secret-key")}, {0o600})
        self.assertEqual(len(self.batches(self.file)), 3)

    def test_an_empty_file_is_no_empty_list_of_jobs(self) -> None:
        self.file.write_bytes(b"")
        self.refused("is empty (0 bytes)")

    def test_damage_is_named(self) -> None:
        whole = self.file.read_bytes()
        self.file.write_bytes(b"\0" * 100 + whole[100:])
        self.refused("its beginning is overwritten")
        self.file.write_bytes(whole[: len(whole) // 2])
        self.refused("damaged")
        self.file.write_bytes(whole[:8192] + os.urandom(40_000) + whole[48_192:])
        self.refused("What to do")

    def test_a_newer_one_is_named(self) -> None:
        with closing(sqlite3.connect(self.file, isolation_level=None)) as db:
            db.execute("INSERT INTO django_migrations (app, name, applied) VALUES ('jobs', '0999_later', '2030-01-01')")
        self.refused("was made by a newer version of Oventa (jobs.0999_later)")

    def test_another_program_s_is_named(self) -> None:
        self.file.unlink()
        with closing(sqlite3.connect(self.file, isolation_level=None)) as db:
            db.execute("CREATE TABLE notes (words TEXT)")
        self.refused("was not made by Oventa")

    def test_one_that_is_gone_while_copies_lie_there_is_named(self) -> None:
        copies.automatic("daily", self.data)
        self.file.unlink()
        self.refused("is gone, though copies of it lie in")

    def test_an_empty_key_is_refused(self) -> None:
        (self.data / "secret-key").write_text("")
        self.refused("is empty or cut short")

    def test_a_copy_is_made_before_every_migration(self) -> None:
        with closing(sqlite3.connect(self.file, isolation_level=None)) as db:  # as an older version left it
            db.execute("DELETE FROM django_migrations WHERE app = 'bench' AND name >= '0004'")
            for table, column in (
                ("run", "made_with"),
                ("run", "drawn"),
                ("run", "edits"),
                ("run", "made_at"),
                ("run", "stood_still"),
                ("bench", "suite"),
            ):
                db.execute(f"ALTER TABLE bench_{table} DROP COLUMN {column}")
        done = self.run_keep("prepare", self.data)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("A copy of the database was made first", done.stderr)
        (made,) = copies.automatic_copies(self.data / "backups")
        about, facts = copies.unpack(made, self.folder / "out.sqlite3")
        self.assertEqual(about["counts"]["readings"], 3)
        self.assertIn("bench.0004_finite_marks", database.pending(facts))
        self.assertEqual(database.pending(database.look(self.file)), set())

    def test_a_start_that_was_cut_short_leaves_no_empty_database(self) -> None:
        self.file.unlink()
        (self.data / "oventa.sqlite3.new").write_bytes(b"")
        self.assertEqual(self.run_keep("prepare", self.data).returncode, 0)
        self.assertGreater(database.look(self.file).migrations, [])
        self.assertFalse((self.data / "oventa.sqlite3.new").exists())

    def test_the_server_itself_says_it_in_a_line(self) -> None:
        """Started without the launcher it refuses as well, in words."""
        self.file.write_bytes(b"")
        env = {**os.environ, "OVENTA_DATA": str(self.data), "PYTHONPATH": str(ROOT / "src")}
        env["DJANGO_SETTINGS_MODULE"] = "server.config.settings"
        done = subprocess.run(
            [sys.executable, "-c", "import server.config.asgi"], env=env, cwd=ROOT, capture_output=True, text=True, check=False
        )
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("is empty (0 bytes)", done.stderr)
        self.assertNotIn("Traceback", done.stderr)

    def test_a_copy_a_day(self) -> None:
        with patch.object(start, "BACKUPS", self.data / "backups"):
            self.assertFalse(start.copied_today())
            copies.automatic("before-migration", self.data)
            self.assertFalse(start.copied_today())
            copies.automatic("daily", self.data)
            self.assertTrue(start.copied_today())
