"""Reading files and typed quantities from the command line, with errors that say what and where."""

from pathlib import Path

from frostcore.curves.model import Curve
from frostcore.curves.table import CheckedTable, read_csv
from frostcore.curves.verdict import SensorPoint
from frostcore.errors import CurveError, FrostError, SheetError
from frostcore.quantity import Dimension
from frostcore.rows import quantity
from frostcore.sheet.bounds import MOST_CHARACTERS
from frostcore.sheet.load import LoadedSheet, load

MOST_BYTES = 4 * MOST_CHARACTERS
"""No text of that many characters takes more."""


def text_of(path: str) -> str:
    """A file's text; FrostError when it can't be read."""
    try:
        with Path(path).open("rb") as file:
            content = file.read(MOST_BYTES + 1)
        if len(content) > MOST_BYTES:
            message = f"{path}: more than {MOST_BYTES:,} bytes; that is no sheet and no table"
            raise FrostError(message)
        return content.decode("utf-8")
    except UnicodeDecodeError:
        reason: object = "it is not UTF-8 text"
    except (OSError, ValueError) as error:
        reason = error.strerror if isinstance(error, OSError) else error
    message = f"{path}: cannot be read ({reason})"
    raise FrostError(message)


def sheet_of(path: str) -> LoadedSheet:
    """A checked sheet from a file."""
    try:
        return load(text_of(path))
    except SheetError as error:
        message = f"{path}: {error}"
        raise FrostError(message) from None


def table_of(path: str) -> tuple[CheckedTable, Curve]:
    """A checked table and its curve from a CSV file."""
    try:
        checked = read_csv(text_of(path))
        return checked, checked.curve()
    except CurveError as error:
        message = f"{path}: {error}"
        raise FrostError(message) from None


def number(option: str, typed: str, dimension: Dimension) -> float:
    """The SI value of one quantity."""
    return quantity(option, typed, dimension).number


def point(typed: str) -> SensorPoint:
    """A reading typed as RESISTANCE@TEMPERATURE, such as 24k@0C."""
    resistance, at, temperature = typed.partition("@")
    if not at:
        message = f"--point: “{typed}” has no temperature; write resistance@temperature such as 24k@0C"
        raise FrostError(message)
    return SensorPoint(
        quantity("--point", resistance, Dimension.RESISTANCE),
        quantity("--point", temperature, Dimension.TEMPERATURE),
    )
