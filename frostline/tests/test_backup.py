"""``bin/backup``: the database as it is while others write, what was kept beside it, and what it holds."""

import os
import sqlite3
import subprocess
import tarfile
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


class Backup(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.data = Path(folder.name) / "data"
        self.target = Path(folder.name) / "kept.tar"
        kept = self.data / "attachments" / "ab"
        kept.mkdir(parents=True)
        (kept / "abcd").write_bytes(b"a picture")
        self.database = sqlite3.connect(self.data / "frostline.sqlite3")
        self.addCleanup(self.database.close)
        self.database.execute("CREATE TABLE calls_customer (name)")
        self.database.execute("INSERT INTO calls_customer VALUES ('Mrs Aud Fennel')")
        self.database.commit()

    def run_it(self):
        return subprocess.run(
            ["bash", str(ROOT / "bin" / "backup"), str(self.target)],
            env={**os.environ, "FROSTLINE_DATA": str(self.data)},
            capture_output=True,
            text=True,
            check=False,
        )

    def test_database_and_attachments_come_back_as_they_were(self):
        # A writer at work: what it has not committed is not in the copy.
        self.database.execute("INSERT INTO calls_customer VALUES ('not yet')")
        done = self.run_it()
        self.assertEqual(done.returncode, 0, done.stderr)
        back = self.data.parent / "back"
        with tarfile.open(self.target) as tar:
            tar.extractall(back, filter="data")
        self.assertEqual((back / "attachments" / "ab" / "abcd").read_bytes(), b"a picture")
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
        self.assertIn("attachments/: files kept with calls (1)", said)

    def test_it_overwrites_nothing_and_names_what_is_missing(self):
        self.target.write_bytes(b"mine")
        done = self.run_it()
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("exists already", done.stderr)
        self.assertEqual(self.target.read_bytes(), b"mine")
        self.target.unlink()
        (self.data / "frostline.sqlite3").unlink()
        self.assertIn("there is no database", self.run_it().stderr)
