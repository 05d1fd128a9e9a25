"""Tables as CSV from anywhere: read by their heads, each line with its number; what can't be read is said."""

import csv
import io
from collections.abc import Callable, Collection
from typing import TypeVar

from frostcore.document import Problem
from frostcore.errors import FrostError, QuantityError, SheetError
from frostcore.quantity import Ambiguous, Dimension, Quantity, parse

Made = TypeVar("Made")


def read_rows(
    text: str,
    make: Callable[[dict[str, str]], Made],
    needed: Collection[str],
    known: Collection[str] = (),
    most: int = 5000,
) -> tuple[Made, ...]:
    """What each line that holds anything is made into, from its cells by their heads in small letters.

    ``known`` are the heads there may be, any where it is empty. Commas, semicolons and tabs part cells.
    SheetError with every line that can't be read (FrostError or ValueError of ``make``), or for no table.
    """
    try:
        dialect: type[csv.Dialect] | csv.Dialect = csv.Sniffer().sniff(text[:2000], ",;\t")
    except csv.Error:
        dialect = csv.excel
    rows = csv.DictReader(io.StringIO(text, newline=""), dialect=dialect)
    found: list[Made] = []
    problems: list[Problem] = []
    try:
        _check_heads([_tidy(name) for name in rows.fieldnames or ()], needed, known)
        for line, row in enumerate(rows, 2):
            if line > most + 1:
                problems.append(Problem(f"line {line}", f"more than {most} lines"))
                break
            cells = {_tidy(name): (cell or "").strip() for name, cell in row.items() if isinstance(name, str)}
            if not any(cells.values()):
                continue
            try:
                found.append(make(cells))
            except (FrostError, ValueError) as error:
                problems.append(Problem(f"line {line}", str(error)))
    except csv.Error as error:
        problems.append(Problem("the table", f"it is no CSV ({error}); save it anew as CSV UTF-8"))
    if problems:
        raise SheetError(problems)
    return tuple(found)


def _tidy(name: str | None) -> str:
    return (name or "").strip().lower()


def _check_heads(heads: list[str], needed: Collection[str], known: Collection[str]) -> None:
    missing = [name for name in needed if name not in heads]
    if missing:
        has = ", ".join(heads)[:200] or "nothing"
        raise SheetError([Problem("line 1", f"no column {', '.join(missing)}; there are {has}")])
    odd = [name for name in heads if name and known and name not in known]
    if odd:
        told = f"no column “{odd[0][:40]}” is known; there may be {', '.join(known)}"
        raise SheetError([Problem("line 1", told)])


def quantity(name: str, text: str, dimension: Dimension) -> Quantity:
    """What a cell or an option says, open and short among it; FrostError naming it, with the ways to say it
    plainly."""
    try:
        found = parse(text, dimension)
    except QuantityError as error:
        raise FrostError(f"{name}: {error}") from None
    if isinstance(found, Ambiguous):
        choices = " or ".join(each.canonical for each in found.choices)
        raise FrostError(f"{name}: “{text}” can mean {choices} ({found.why}); type one of these")
    return found


def figure(name: str, text: str, dimension: Dimension | None = None) -> float:
    """A cell's figure, in SI where it has a dimension, else bare and not below nothing; FrostError naming
    it."""
    if dimension is not None:
        return quantity(name, text, dimension).number
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = -1.0
    if not 0 <= value <= MOST_FIGURE:
        raise FrostError(f"{name}: “{text[:40]}” is no figure; write it such as 38.50.")
    return value


def pieces(name: str, text: str) -> int:
    """A cell's number of pieces; FrostError naming it."""
    if not text.isascii() or not text.isdigit() or len(text) > 6:
        raise FrostError(f"{name}: “{text[:40]}” is no number of pieces; write 0, 1, 2 …")
    return int(text)


MOST_FIGURE = 1e9
