"""Many sheets' files as one upload: chosen together, or packed as a zip."""

from collections.abc import Iterable, Iterator

from django.core.files.uploadedfile import UploadedFile

from frostcore.errors import FrostError
from frostcore.sheet.bounds import MOST_CHARACTERS
from frostline.ui.packed import HEAD, DamagedError, opened

MOST_SHEETS, MOST_BYTES = 60, 60_000_000
"""Sheets checked in one request: each takes half a second."""

LARGEST = 4 * MOST_CHARACTERS
"""Bytes of the largest sheet there can be."""


class ManyError(FrostError):
    """Files that can't be taken, in words."""


def documents(uploads: Iterable[UploadedFile]) -> list[tuple[str, str]]:
    """Each sheet's file name and text, read in memory; ManyError for what is none."""
    found: list[tuple[str, str]] = []
    left = MOST_BYTES
    for upload in uploads:
        for name, data in _files(upload, left):
            left -= len(data)
            if len(found) == MOST_SHEETS or left < 0:
                raise ManyError(f"More than {MOST_SHEETS} sheets or {MOST_BYTES // 1_000_000} MB at once.")
            try:
                found.append((name, data.decode("utf-8-sig")))
            except UnicodeDecodeError:
                raise ManyError(f"“{name}” is not UTF-8 text. Nothing was kept.") from None
    if not found:
        raise ManyError("There is no sheet (.json) among the files.")
    return found


def _files(upload: UploadedFile, left: int) -> Iterator[tuple[str, bytes]]:
    name = str(upload.name)
    if (upload.size or 0) > left:
        raise ManyError(f"“{name}” is too large. Nothing was kept.")
    data = upload.read()
    if not data.startswith(HEAD):
        if name.lower().endswith(".json"):
            yield name, data
        return
    try:
        with opened(data) as packed:
            inside = [item for item in packed.infolist() if item.filename.lower().endswith(".json")]
            fits = len(inside) <= MOST_SHEETS and all(item.file_size <= LARGEST for item in inside)
            read = [(item.filename.rpartition("/")[2], packed.read(item)) for item in inside] if fits else []
    except DamagedError:
        raise ManyError(f"“{name}” is damaged. Nothing was kept.") from None
    if not fits:
        raise ManyError(f"“{name}” holds more than {MOST_SHEETS} sheets, or one too large. Nothing was kept.")
    yield from read
