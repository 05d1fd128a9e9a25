"""Logs of a call, read and judged; what was read last is kept in memory, for a page is asked for again and
again."""

from functools import lru_cache

from frostcore.errors import FrostError
from frostcore.sheet.model import Sheet
from frostcore.tape.ran import RunLogged
from frostcore.thermal.log import Log, read_log
from frostcore.thermal.of_sheet import thermal_of
from frostcore.thermal.verdicts import Judged
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


def log_of(digest: str, sheet: Sheet) -> Log:
    """The log in a kept file, its columns as their heads say on this sheet. FrostError where it is none."""
    return _read(digest, *_places(sheet))


def log_in(text: str, sheet: Sheet) -> Log:
    """The log in some text, likewise; of the last ones asked for kept in memory."""
    return _read_text(text, *_places(sheet))


def _places(sheet: Sheet) -> tuple[tuple[str, ...], tuple[str, ...]]:
    plant = thermal_of(sheet)
    rooms = tuple(room.place for room in plant.compartments)
    return rooms, tuple(face.id for face in plant.evaporators)


@lru_cache(maxsize=3)
def _read_text(text: str, rooms: tuple[str, ...], coils: tuple[str, ...]) -> Log:
    return read_log(text, rooms, coils)


@lru_cache(maxsize=6)
def _read(digest: str, rooms: tuple[str, ...], coils: tuple[str, ...]) -> Log:
    path = path_of(digest)
    if not path.exists():
        raise FrostError("The file of this run is not beside the database any more.")
    return read_log(text_of(path.read_bytes()), rooms, coils)


def judged_of(run: RunLogged, sheet: Sheet) -> Judged:
    """A run of a call, judged by its sheet's plant in that room. FrostError where it can't be read."""
    plant = thermal_of(sheet)
    plant = plant.changed(room=run.room.number) if run.room else plant
    log = log_of(run.digest, sheet)
    heads = {column.head for column in log.columns}
    placed = {head: place for head, place in run.columns.items() if head in heads}
    return Judged(plant, log.placed(placed), run.settings)
