"""A sheet as one file with the pages of its paper: a zip of its document and its pictures, and back."""

import io
import json
import zipfile
from collections.abc import Sequence

from frostcore.errors import FrostError
from frostcore.sheet.bounds import MOST_CHARACTERS
from frostline.sheets.actions.keep_pages import MOST_PAGES
from frostline.sheets.models import Revision
from frostline.ui.packed import HEAD, DamagedError, opened
from frostline.ui.pictures import LARGEST_BYTES, Clean, clean
from frostline.ui.stored import path_of

SHEET, PAGES, FOLDER = "sheet.json", "pages.json", "pages/"
MOST_UNPACKED = 200_000_000

Pictures = Sequence[tuple[str, Clean]]
"""Pages in their order: name and picture."""


class PackageError(FrostError):
    """A file that is no sheet with its pages, in words."""


def packed(revision: Revision) -> bytes:
    """A revision with its pages."""
    out = io.BytesIO()
    listed = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        target.writestr(SHEET, revision.document)
        for page in revision.pages.all():
            name = f"{FOLDER}{page.position:02d}.jpg"
            listed.append({"file": name, "name": page.name})
            target.write(path_of(page.picture_id), name, zipfile.ZIP_STORED)
        target.writestr(PAGES, json.dumps(listed, ensure_ascii=False, indent=1) + "\n")
    return out.getvalue()


def is_package(data: bytes) -> bool:
    """Whether a file is one, by how it begins and not by its name."""
    return data.startswith(HEAD)


def unpacked(data: bytes) -> tuple[str, Pictures]:
    """A sheet's document and its pages, read in memory; PackageError for any other file."""
    try:
        with opened(data) as source:
            return _document(source), _pages(source)
    except DamagedError:
        message = "The file is damaged, or no sheet’s. Save the sheet with its pages again."
        raise PackageError(message) from None


def _document(source: zipfile.ZipFile) -> str:
    inside = source.infolist()
    if sum(item.file_size for item in inside) > MOST_UNPACKED or len(inside) > MOST_PAGES + 10:
        message = "The file unpacks to more than any sheet has."
        raise PackageError(message)
    names = [item.filename for item in inside if item.filename.lower().endswith(".json")]
    found = SHEET if SHEET in names else next((name for name in names if name != PAGES), "")
    if not found:
        message = "There is no sheet (.json) in the file."
        raise PackageError(message)
    if source.getinfo(found).file_size > 4 * MOST_CHARACTERS:
        message = "The sheet in it is larger than any sheet is."
        raise PackageError(message)
    return source.read(found).decode("utf-8-sig")


def _pages(source: zipfile.ZipFile) -> Pictures:
    """The pictures, in the order they are listed, else by their names; what is none is refused."""
    known = {item.filename: item for item in source.infolist() if _is_picture(item.filename)}
    listed = _listed(source)
    names = {name: told for name, told in listed if name in known}
    names |= {name: name.rpartition("/")[2] for name in sorted(known) if name not in names}
    if any(known[name].file_size > LARGEST_BYTES for name in names):
        message = "A picture in the file is larger than any page is."
        raise PackageError(message)
    return [(told[:120], clean(source.read(name), f"“{name}”")) for name, told in names.items()][:MOST_PAGES]


def _is_picture(name: str) -> bool:
    return name.lower().endswith((".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff"))


def _listed(source: zipfile.ZipFile) -> list[tuple[str, str]]:
    if PAGES not in source.namelist() or source.getinfo(PAGES).file_size > 100_000:
        return []
    try:
        data = json.loads(source.read(PAGES))
        return [(str(each["file"]), str(each["name"])) for each in data]
    except (ValueError, TypeError, KeyError, RecursionError):
        return []
