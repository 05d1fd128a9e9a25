"""``manage.py prepare``: everything a server needs before it starts, and nothing twice."""

import contextlib
import hashlib
import sqlite3
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles.finders import get_finders
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import OperationalError, connection
from django.db.migrations.executor import MigrationExecutor

from frostline import __version__
from frostline.accounts.models import User
from frostline.calls.management.commands.rebuild_index import needed
from frostline.demo.actions import DEMO_MARK
from frostline.sheets.actions.shelve_kinds import shelve_kinds

DATABASE, STATIC_MARK = "frostline.sqlite3", "static-stamp"


class Command(BaseCommand):
    """Bring the database to this version, its index, the kinds of unit and the static files up to date, the
    folder private."""

    help = "Make the data folder ready for the server: what is ready already is left alone."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument(
            "--demo", action="store_true", help="load the invented workshop into an empty database"
        )
        parser.add_argument(
            "--fresh", action="store_true", help="with --demo: delete the invented workshop first"
        )

    def handle(self, *arguments: object, **options: object) -> None:
        folder = settings.DATA_DIR
        if options["demo"]:
            _check_demo(folder, fresh=bool(options["fresh"]))
        _private(folder)
        try:
            if MigrationExecutor(connection).migration_plan(
                MigrationExecutor(connection).loader.graph.leaf_nodes()
            ):
                call_command("migrate", verbosity=0)
            if needed():
                call_command("rebuild_index", verbosity=0)
            shelve_kinds()
        except OperationalError as error:
            raise CommandError(f"The database in {folder} can't be written ({error}).") from None
        if options["demo"] and not User.objects.exists():
            call_command("load_demo", verbosity=0)
        self._static(folder)
        if options["verbosity"] and not options["demo"] and not User.objects.exists():
            self.stdout.write("Nobody can sign in yet. Add the first lead: bin/serve --add-lead NAME")

    def _static(self, folder: Path) -> None:
        """Collect the static files, when any differs from those collected last."""
        stamp = _static_stamp()
        mark = folder / STATIC_MARK
        if not mark.exists() or mark.read_text(encoding="utf-8") != stamp:
            call_command("collectstatic", interactive=False, verbosity=0)
            mark.write_text(stamp, encoding="utf-8")


def _check_demo(folder: Path, *, fresh: bool) -> None:
    """Refuse a folder that holds data which no demo made; with ``fresh``, delete what one did."""
    begun = (folder / DATABASE).exists() and not (folder / DEMO_MARK).exists()
    if begun and (fresh or (folder / "secret-key").exists() or _peopled(folder / DATABASE)):
        raise CommandError(
            f"{folder} holds a workshop's data, which the demo neither shows nor deletes. Choose another"
            " folder with FROSTLINE_DATA."
        )
    if fresh:
        connection.close()
        for path in [*folder.glob(f"{DATABASE}*"), folder / DEMO_MARK]:
            path.unlink(missing_ok=True)


def _peopled(database: Path) -> bool:
    """Whether anybody is in a database; one that was never filled, as when a first start was cut short, has
    nobody."""
    try:
        with contextlib.closing(sqlite3.connect(database)) as opened:
            return bool(opened.execute("SELECT EXISTS (SELECT 1 FROM accounts_user)").fetchone()[0])
    except sqlite3.OperationalError:
        return False


def _private(folder: Path) -> None:
    """Take the folder and its database away from everybody else."""
    folder.chmod(0o700)
    for path in folder.glob(f"{DATABASE}*"):
        path.chmod(0o600)


def _static_stamp() -> str:
    """What tells whether any static file is another than before."""
    digest = hashlib.sha256(__version__.encode())
    for finder in get_finders():
        for name, storage in finder.list([]):
            about = Path(storage.path(name)).stat()
            digest.update(f"{name} {about.st_size} {about.st_mtime_ns}\n".encode())
    return digest.hexdigest()
