"""Logs of a call, read and judged: each file once, its rows kept beside it, the last ones in memory; a long
one is read beside the pages that wait for it."""

from functools import lru_cache

from frostcore.errors import FrostError
from frostcore.sheet.model import Sheet
from frostcore.tape.ran import RunLogged
from frostcore.thermal.log import Log, read_log
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.verdicts import Judged
from frostline.calls.judging import in_background
from frostline.runs.kept_rows import keep, kept
from frostline.ui.background import WorkedOut
from frostline.ui.stored import path_of

CSV = "text/csv"


def text_of(content: bytes) -> str:
    """A file's text, whatever wrote it: UTF-8, UTF-16 with its mark, else the Windows alphabet."""
    if content[:2] in {b"\xff\xfe", b"\xfe\xff"}:
        return content.decode("utf-16", "replace")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("cp1252", "replace")


class StillReadingError(FrostError):
    """A long file is being read; :attr:`share` of it has been."""

    def __init__(self, share: float) -> None:
        super().__init__(f"The file is being read: {share:.0%}.")
        self.share = share


def log_of(digest: str, sheet: Sheet) -> Log:
    """The log in a kept file, its columns as their heads say on this sheet. FrostError where it is none,
    StillReadingError while a long one is being read."""
    return _rows_of(digest).named(*_places(sheet))


def log_in(text: str, sheet: Sheet) -> Log:
    """The log in some text, likewise; of the last ones asked for kept in memory."""
    return _read_text(text).named(*_places(sheet))


def _places(sheet: Sheet) -> tuple[tuple[str, ...], tuple[str, ...]]:
    plant = thermal_of(sheet)
    rooms = tuple(room.place for room in plant.compartments)
    return rooms, tuple(face.id for face in plant.evaporators)


@lru_cache(maxsize=3)
def _read_text(text: str) -> Log:
    return read_log(text)


_shares: dict[str, float] = {}
"""How far files that are being read have been."""


def _rows_of(digest: str) -> Log:
    found = _files.get(digest)
    if found is None:
        raise StillReadingError(_shares.get(digest, 0.0))
    return found


def _read(digest: str) -> Log:
    """A file's rows: as kept, else read and kept."""
    found = kept(digest)
    if found is not None:
        return found
    path = path_of(digest)
    if not path.exists():
        raise FrostError("The file of this run is not beside the database any more.")

    def told(share: float) -> None:
        _shares[digest] = share

    try:
        return keep(digest, read_log(text_of(path.read_bytes()), told=told))
    finally:
        _shares.pop(digest, None)


_files = WorkedOut(_read, in_background, before="", sorry="This file could not be read.", most=6)


def judged_of(run: RunLogged, sheet: Sheet) -> Judged:
    """A run of a call, judged by its sheet's plant in that room. FrostError where it can't be read."""
    plant = thermal_of(sheet)
    plant = plant.changed(room=run.room.number) if run.room else plant
    log = log_of(run.digest, sheet)
    heads = {column.head for column in log.columns}
    placed = {head: place for head, place in run.columns.items() if head in heads}
    return Judged(plant, log.placed(placed), run.settings)
