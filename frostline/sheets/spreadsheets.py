"""A table out of a spreadsheet's file, as the text it would be had it been copied and pasted."""

import datetime as dt
import io
from typing import Any

from openpyxl import load_workbook

from frostcore.errors import FrostError
from frostcore.paper.rows import MOST_ROWS
from frostline.ui.packed import HEAD, DamagedError, opened

MOST_UNPACKED = 20_000_000
"""More bytes than the file of any table has unpacked."""

MOST_COLUMNS = 60


def is_spreadsheet(data: bytes) -> bool:
    """Whether a file is one (.xlsx), by how it begins and not by its name."""
    return data.startswith(HEAD)


def text_of(data: bytes) -> str:
    """The first of its tables that has rows, a tab between cells; formulas by the value they last had.

    Raises FrostError for what is no spreadsheet, is too large, or holds no rows.
    """
    _bounded(data)
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        for table in book.worksheets:
            lines = _lines(table)
            if lines:
                return "\n".join(lines)
    except FrostError:
        raise
    except Exception as error:  # noqa: BLE001 - a hostile file makes the library fail in any way
        message = f"The spreadsheet can’t be read ({type(error).__name__}). Copy its cells and paste them."
        raise FrostError(message) from None
    message = "There are no rows in the spreadsheet."
    raise FrostError(message)


def _bounded(data: bytes) -> None:
    try:
        with opened(data) as packed:
            unpacked = sum(item.file_size for item in packed.infolist())
    except DamagedError:
        message = "The file is damaged. Save it again as .xlsx, or copy its cells and paste them."
        raise FrostError(message) from None
    if unpacked > MOST_UNPACKED:
        message = (
            f"Unpacked the file has {unpacked / 1e6:,.0f} MB; a paper’s table has at most"
            f" {MOST_UNPACKED / 1e6:.0f}. Copy the table alone and paste it."
        )
        raise FrostError(message)


def _lines(table: Any) -> list[str]:
    """A table's rows that hold anything, as lines."""
    lines = []
    for row in table.iter_rows(max_row=MOST_ROWS + 20, max_col=MOST_COLUMNS, values_only=True):
        cells = [_told(value) for value in row]
        if any(cells):
            lines.append("\t".join(cells).rstrip("\t"))
    return lines


def _told(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.10g}"
    if isinstance(value, dt.datetime | dt.date | dt.time):
        return str(value)
    return " ".join(str(value).split())
