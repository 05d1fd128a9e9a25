"""``manage.py prepare --demo``: what it may fill, and what it may delete."""

import sqlite3
import tempfile
import unittest
from pathlib import Path

from django.core.management.base import CommandError

from frostline.demo.actions import DEMO_MARK
from frostline.demo.management.commands.prepare import DATABASE, _check_demo


class DemoFolders(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def database(self, *people):
        with sqlite3.connect(self.folder / DATABASE) as made:
            made.execute("CREATE TABLE accounts_user (name)")
            made.executemany("INSERT INTO accounts_user VALUES (?)", [(name,) for name in people])
        made.close()

    def test_a_workshops_data_is_neither_shown_nor_deleted(self):
        self.database("iver")
        for fresh in (False, True):
            with self.refused():
                _check_demo(self.folder, fresh=fresh)
        self.assertTrue((self.folder / DATABASE).exists())

    def refused(self):
        return self.assertRaisesRegex(CommandError, "holds a workshop's data")

    def test_a_workshop_that_has_nobody_yet_is_one_too(self):
        self.database()
        (self.folder / "secret-key").write_text("x")
        with self.refused():
            _check_demo(self.folder, fresh=False)

    def test_a_first_start_that_was_cut_short_goes_on(self):
        (self.folder / DATABASE).write_bytes(b"")
        _check_demo(self.folder, fresh=False)
        (self.folder / DATABASE).unlink()
        self.database()
        _check_demo(self.folder, fresh=False)
        with self.refused():
            _check_demo(self.folder, fresh=True)

    def test_what_a_demo_made_it_may_delete(self):
        self.database("demo")
        (self.folder / DEMO_MARK).write_text("x")
        _check_demo(self.folder, fresh=False)
        self.assertTrue((self.folder / DATABASE).exists())
        _check_demo(self.folder, fresh=True)
        self.assertFalse((self.folder / DATABASE).exists())
