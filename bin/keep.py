"""Backups of a workshop's data: one file that holds database and attachments, and the way back.

Needs nothing but Python's own library, so that a bare machine can restore.
"""

import contextlib
import fcntl
import hashlib
import io
import os
import re
import shutil
import sqlite3
import sys
import tarfile
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

DATABASE, ATTACHMENTS, HOLDS, RUNNING = "frostline.sqlite3", "attachments", "HOLDS.txt", "running"
COUNTED = (("customers", "calls_customer"), ("calls", "calls_call"), ("slips", "calls_slip"))
NAMING = ("calls_attachment", "sheets_picture")
ATTACHMENT = re.compile(r"attachments/[0-9a-f]{2}/([0-9a-f]{64})")
PIECE = 1 << 20


class KeepError(Exception):
    """What can't be done, in a sentence."""


def backup(data: Path, target: Path) -> str:
    """Copy database and attachments, also while the server runs; what is told about it.

    The copy is read again and compared before it gets its name.
    """
    source = data / DATABASE
    if not source.exists():
        raise KeepError(f"there is no database at {source}; set FROSTLINE_DATA to its folder")
    if target.exists():
        raise KeepError(f"{target} exists already; choose another name")
    part = target.with_name(f".{target.name}.part")
    with tempfile.TemporaryDirectory(dir=target.parent, prefix=".frostline-backup-") as folder:
        kept = Path(folder) / DATABASE
        # The database first: a file named by its content is never changed, so all that it names is there.
        _copy(source, kept)
        counts = checked(kept)
        files = {path.relative_to(data).as_posix(): path for path in _attachments(data)}
        _all_there(kept, files)
        sums: dict[str, str] = {}
        try:
            with part.open("xb") as file, tarfile.open(fileobj=file, mode="w") as tar:
                _add_text(tar, HOLDS, _holds(counts, len(files)))
                for name, path in {DATABASE: kept, **files}.items():
                    sums[name] = _add(tar, name, path)
            _on_disk(part)
            _compare(part, sums)
            part.rename(target)
            _on_disk(target.parent)
        except BaseException:
            part.unlink(missing_ok=True)
            raise
    size = target.stat().st_size
    return (
        f"Copied the database and {len(files)} attachments to {target} ({size:,} bytes) and found it whole.\n"
        "It holds customers' names, addresses and telephones. Keep it as you keep those."
    )


def _copy(source: Path, kept: Path) -> None:
    """A database as it stands between two transactions, in one file."""
    try:
        with (
            contextlib.closing(sqlite3.connect(source)) as live,
            contextlib.closing(sqlite3.connect(kept)) as copy,
        ):
            live.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
    except sqlite3.DatabaseError as error:
        raise KeepError(f"the database at {source} can't be read ({error})") from None


def restore(data: Path, source: Path) -> str:
    """Put a backup in the place of what is there, which is moved aside with its journal; what is told.

    Nothing is moved before the backup is unpacked and found whole.
    """
    if not source.is_file():
        raise KeepError(f"there is no file {source}")
    data.mkdir(parents=True, exist_ok=True, mode=0o700)
    with _nobody_running(data), tempfile.TemporaryDirectory(dir=data, prefix=".restore-") as folder:
        unpacked = Path(folder)
        _unpack(source, unpacked)
        counts = checked(unpacked / DATABASE)
        _all_there(
            unpacked / DATABASE,
            {path.relative_to(unpacked).as_posix(): path for path in _attachments(unpacked)},
        )
        aside = _aside(data)
        (unpacked / ATTACHMENTS).mkdir(exist_ok=True, mode=0o700)
        for name in (ATTACHMENTS, DATABASE):
            (unpacked / name).rename(data / name)
        _on_disk(data)
    told = ", ".join(f"{count:,} {word}" for word, count in counts.items())
    before = (
        f"What was there before is in {aside}; delete it when you need it no more."
        if aside
        else "Nothing was there."
    )
    return (
        f"Restored {told} from {source}. {before}\nStart the server: it brings the data to its own version."
    )


def checked(database: Path) -> dict[str, int]:
    """How many of what a database holds; KeepError when it is not whole."""
    try:
        with contextlib.closing(sqlite3.connect(database)) as copy:
            found = copy.execute("PRAGMA integrity_check(1)").fetchone()[0]
            astray = copy.execute("PRAGMA foreign_key_check").fetchone()
            tables = {name for (name,) in copy.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            counts = {
                word: copy.execute(f"SELECT count(*) FROM {table}").fetchone()[0]  # noqa: S608 - of COUNTED
                for word, table in COUNTED
                if table in tables
            }
    except sqlite3.DatabaseError as error:
        raise KeepError(f"the database in it can't be read ({error}); take an older backup") from None
    if found != "ok" or astray:
        raise KeepError(
            f"the database is not whole ({found if found != 'ok' else astray}); take an older backup"
        )
    return counts


def _attachments(folder: Path) -> list[Path]:
    """The files kept with calls, without what a power cut left half written."""
    files = sorted((folder / ATTACHMENTS).rglob("*"))
    return [path for path in files if ATTACHMENT.fullmatch(path.relative_to(folder).as_posix())]


def _all_there(database: Path, files: dict[str, Path]) -> None:
    """That every attachment a tape names is there and is what its name says."""
    for name, path in files.items():
        if found := ATTACHMENT.fullmatch(name):
            with path.open("rb") as file:
                if hashlib.file_digest(file, "sha256").hexdigest() != found[1]:
                    raise KeepError(f"{name} is not what it was when it was kept; the disk may be failing")
    with contextlib.closing(sqlite3.connect(database)) as copy:
        tables = {name for (name,) in copy.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        named = [
            digest
            for table in NAMING
            if table in tables
            for (digest,) in copy.execute(f"SELECT digest FROM {table}")  # noqa: S608 - of NAMING
        ]
    missing = [digest for digest in named if f"{ATTACHMENTS}/{digest[:2]}/{digest}" not in files]
    if missing:
        raise KeepError(
            f"{len(missing)} attachments that tapes or sheets name are missing, such as {missing[0]}"
        )


def _holds(counts: dict[str, int], files: int) -> str:
    told = ", ".join(f"{word}: {count}" for word, count in counts.items())
    return f"""What this backup holds

{DATABASE}: everything recorded; {told}.
Names, addresses and telephones of customers are in it, and who signed in. Keep it as you keep those.
{ATTACHMENTS}/: files kept with calls and sheets ({files}), each named by its content; some show homes.
A customer erased after this backup is still in it: erase again after restoring, or keep backups short.

To restore: stop the server, run bin/restore with this file, start the server.
"""


def _add_text(tar: tarfile.TarFile, name: str, text: str) -> None:
    content = text.encode()
    entry = tarfile.TarInfo(name)
    entry.size, entry.mode, entry.mtime = len(content), 0o600, int(time.time())
    tar.addfile(entry, io.BytesIO(content))


def _add(tar: tarfile.TarFile, name: str, path: Path) -> str:
    """Add a file as its owner's alone; the sum of its content."""
    entry = tarfile.TarInfo(name)
    entry.size, entry.mode, entry.mtime = path.stat().st_size, 0o600, int(path.stat().st_mtime)
    with path.open("rb") as file:
        tar.addfile(entry, file)
        file.seek(0)
        return hashlib.file_digest(file, "sha256").hexdigest()


def _compare(part: Path, sums: dict[str, str]) -> None:
    """That what was written reads back as what was copied."""
    found = {}
    with tarfile.open(part) as tar:
        for entry in tar:
            content = tar.extractfile(entry)
            if entry.name != HOLDS and content is not None:
                found[entry.name] = _sum(content)
    if found != sums:
        raise KeepError("the copy does not read back as it was written; the disk may be failing")


def _sum(content: io.BufferedIOBase | tarfile.ExFileObject) -> str:
    digest = hashlib.sha256()
    while piece := content.read(PIECE):
        digest.update(piece)
    return digest.hexdigest()


def _unpack(source: Path, folder: Path) -> None:
    """Unpack what a backup has, and nothing else, as its owner's alone."""
    try:
        with tarfile.open(source) as tar:
            for entry in tar:
                if not entry.isfile() or not (
                    entry.name in {DATABASE, HOLDS} or ATTACHMENT.fullmatch(entry.name)
                ):
                    raise KeepError(
                        f"{source} has “{entry.name[:60]}” in it, which no backup of Frostline has"
                    )
                path = folder / entry.name
                path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
                content = tar.extractfile(entry)
                with path.open("xb") as file:
                    shutil.copyfileobj(content, file, PIECE)  # type: ignore[arg-type]
                _on_disk(path)
    except (tarfile.TarError, EOFError, OSError) as error:
        raise KeepError(f"{source} can't be unpacked: {error}") from None
    if not (folder / DATABASE).exists():
        raise KeepError(f"{source} has no {DATABASE} in it; it is no backup of Frostline")


def _aside(data: Path) -> Path | None:
    """Move what is there aside, journal and all; where to, or None where there is nothing."""
    there = [path for path in data.iterdir() if path.name.startswith(DATABASE) or path.name == ATTACHMENTS]
    if not there:
        return None
    aside = data / time.strftime("before-restore-%Y%m%d-%H%M%S")
    aside.mkdir(mode=0o700)
    for path in there:
        path.rename(aside / path.name)
    _on_disk(aside)
    return aside


@contextlib.contextmanager
def _nobody_running(data: Path) -> Iterator[None]:
    """Hold the place a server holds while it runs; KeepError when one does."""
    with (data / RUNNING).open("a") as place:
        try:
            fcntl.flock(place, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise KeepError(f"a server runs on {data}; stop it first") from None
        yield


def _on_disk(path: Path) -> None:
    """Wait until a file, or what a folder lists, is on the disk."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def main() -> int:
    """``keep.py backup|restore DATA FILE``."""
    os.umask(0o077)
    what, data, file = sys.argv[1], *map(Path, sys.argv[2:4])
    try:
        print(backup(data, file) if what == "backup" else restore(data, file))
    except (KeepError, OSError) as error:
        print(f"bin/{what}: {error}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
