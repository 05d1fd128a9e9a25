"""``bin/backup``: the database as it is while others write, what was kept beside it, and what it holds."""

import contextlib
import fcntl
import hashlib
import io
import os
import sqlite3
import stat
import subprocess
import tarfile
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


PICTURE = hashlib.sha256(b"a picture").hexdigest()


class Kept(unittest.TestCase):
    """A folder of data with a customer and a picture, and where its backup goes."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.data = Path(folder.name) / "data"
        self.target = Path(folder.name) / "kept.tar"
        self.picture = self.data / "attachments" / PICTURE[:2] / PICTURE
        self.picture.parent.mkdir(parents=True)
        self.picture.write_bytes(b"a picture")
        self.database = sqlite3.connect(self.data / "frostline.sqlite3")
        self.addCleanup(self.database.close)
        self.database.execute("CREATE TABLE calls_customer (name)")
        self.database.execute("INSERT INTO calls_customer VALUES ('Mrs Aud Fennel')")
        self.database.execute("CREATE TABLE calls_attachment (digest)")
        self.database.execute("INSERT INTO calls_attachment VALUES (?)", [PICTURE])
        self.database.commit()

    def run_it(self, command="backup"):
        return subprocess.run(
            ["bash", str(ROOT / "bin" / command), str(self.target)],
            env={**os.environ, "FROSTLINE_DATA": str(self.data)},
            capture_output=True,
            text=True,
            check=False,
        )

    def names(self):
        """Whose names a server started now would find."""
        with contextlib.closing(sqlite3.connect(self.data / "frostline.sqlite3")) as database:
            return [name for (name,) in database.execute("SELECT name FROM calls_customer")]


class Backup(Kept):
    def test_database_and_attachments_come_back_as_they_were(self):
        # A writer at work: what it has not committed is not in the copy.
        self.database.execute("INSERT INTO calls_customer VALUES ('not yet')")
        done = self.run_it()
        self.assertEqual(done.returncode, 0, done.stderr)
        back = self.data.parent / "back"
        with tarfile.open(self.target) as tar:
            tar.extractall(back)  # the machine it must come back on knows no filters
        self.assertEqual((back / "attachments" / PICTURE[:2] / PICTURE).read_bytes(), b"a picture")
        with sqlite3.connect(back / "frostline.sqlite3") as copy:
            self.assertEqual(
                copy.execute("SELECT name FROM calls_customer").fetchall(), [("Mrs Aud Fennel",)]
            )
            self.assertEqual(copy.execute("PRAGMA integrity_check").fetchone(), ("ok",))

    def test_it_says_that_it_holds_customers(self):
        done = self.run_it()
        self.assertIn("names, addresses and telephones", done.stdout)
        with tarfile.open(self.target) as tar:
            said = tar.extractfile("HOLDS.txt").read().decode()
        self.assertIn("customers: 1", said)
        self.assertIn("erase again after restoring", said)
        self.assertIn("attachments/: files kept with calls and sheets (1)", said)

    def test_it_overwrites_nothing_and_names_what_is_missing(self):
        self.target.write_bytes(b"mine")
        done = self.run_it()
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("exists already", done.stderr)
        self.assertEqual(self.target.read_bytes(), b"mine")
        self.target.unlink()
        (self.data / "frostline.sqlite3").unlink()
        self.assertIn("there is no database", self.run_it().stderr)

    def test_nobody_else_may_read_it(self):
        self.run_it()
        self.assertEqual(stat.S_IMODE(self.target.stat().st_mode), 0o600)
        with tarfile.open(self.target) as tar:
            self.assertEqual({entry.mode for entry in tar}, {0o600})

    def test_an_attachment_that_is_gone_or_changed_is_told_and_no_backup_is_left(self):
        self.picture.write_bytes(b"another")
        self.assertIn("is not what it was", self.run_it().stderr)
        self.picture.unlink()
        self.assertIn("1 attachments that tapes or sheets name are missing", self.run_it().stderr)
        self.assertEqual([path.name for path in self.data.parent.iterdir()], ["data"])

    def test_a_database_that_is_none_is_told(self):
        self.database.close()
        (self.data / "frostline.sqlite3").write_bytes(b"nonsense" * 1000)
        done = self.run_it()
        self.assertIn("can't be read", done.stderr)
        self.assertNotIn("Traceback", done.stderr)


class Restore(Kept):
    def setUp(self):
        super().setUp()
        self.assertEqual(self.run_it().returncode, 0)

    def kill(self):
        """What a killed server leaves: a journal that holds the newest entry."""
        writer = sqlite3.connect(self.data / "frostline.sqlite3")
        writer.execute("PRAGMA journal_mode=WAL")
        writer.execute("INSERT INTO calls_customer VALUES ('after the backup')")
        writer.commit()
        journal = self.data / "frostline.sqlite3-wal"
        kept = journal.read_bytes()
        writer.close()
        self.database.close()
        journal.write_bytes(kept)
        self.assertTrue(kept)

    def test_a_backup_put_over_a_killed_database_is_what_comes_back(self):
        self.kill()
        self.picture.unlink()
        done = self.run_it("restore")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("Restored 1 customers", done.stdout)
        self.assertEqual(self.names(), ["Mrs Aud Fennel"])
        self.assertEqual(self.picture.read_bytes(), b"a picture")
        self.assertEqual(stat.S_IMODE((self.data / "frostline.sqlite3").stat().st_mode), 0o600)

    def test_what_was_there_is_moved_aside_with_its_journal(self):
        self.kill()
        self.run_it("restore")
        (aside,) = self.data.glob("before-restore-*")
        self.assertEqual(stat.S_IMODE(aside.stat().st_mode), 0o700)
        self.assertTrue((aside / "frostline.sqlite3-wal").exists())
        with contextlib.closing(sqlite3.connect(aside / "frostline.sqlite3")) as before:
            names = [name for (name,) in before.execute("SELECT name FROM calls_customer")]
        self.assertEqual(names, ["Mrs Aud Fennel", "after the backup"])
        self.assertTrue((aside / "attachments" / PICTURE[:2] / PICTURE).exists())

    def test_into_an_empty_folder(self):
        self.data = self.data.parent / "elsewhere" / "new"
        done = self.run_it("restore")
        self.assertIn("Nothing was there", done.stdout)
        self.assertEqual(self.names(), ["Mrs Aud Fennel"])

    def test_not_under_a_running_server(self):
        with (self.data / "running").open("a") as place:
            fcntl.flock(place, fcntl.LOCK_EX)
            done = self.run_it("restore")
        self.assertEqual(done.returncode, 1)
        self.assertIn("stop it first", done.stderr)

    def test_what_is_no_backup_moves_nothing(self):
        def packed(**files):
            with tarfile.open(self.target, "w") as tar:
                for name, content in files.items():
                    entry = tarfile.TarInfo(name.replace("__", "/").replace("_sqlite", ".sqlite"))
                    entry.size = len(content)
                    tar.addfile(entry, io.BytesIO(content))

        whole = self.target.read_bytes()
        cases = (
            (lambda: self.target.write_bytes(b"no tar"), "can't be unpacked"),
            (lambda: self.target.write_bytes(whole[: len(whole) // 3]), "can't be"),
            (lambda: packed(HOLDS=b"x"), "no backup of Frostline"),
            (lambda: packed(**{"..__outside": b"x"}), "which no backup of Frostline has"),
            (lambda: packed(frostline_sqlite3=b"nonsense" * 999), "can't be read"),
            (self.target.unlink, "there is no file"),
        )
        for make, words in cases:
            make()
            done = self.run_it("restore")
            self.assertEqual(done.returncode, 1, words)
            self.assertIn(words, done.stderr)
            self.assertNotIn("Traceback", done.stderr)
            self.assertEqual(self.names(), ["Mrs Aud Fennel"])
            kept = {path.name for path in self.data.iterdir()}
            self.assertLessEqual(kept, {"attachments", "frostline.sqlite3", "running"})
        self.assertFalse((self.data.parent / "outside").exists())
