"""Tables of a draft as they are typed: rows of texts, each text kept as it is whatever can be made of it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from frostcore.errors import QuantityError
from frostcore.quantity import Ambiguous, Dimension, parse
from frostcore.sheet.origin import Source, source_at

Document = dict[str, Any]
Row = Mapping[str, str]
"""The texts of a row by column; ``id`` names the entry of the sheet it stands for, empty for a new one."""

MOST_ROWS, MOST_TEXT = 400, 300
"""More rows than any table of a paper has, and more letters than any of its cells."""


@dataclass(frozen=True)
class Column:
    """A column: its key, its head, an example of what stands there, and whether one of a list is meant."""

    key: str
    label: str
    example: str = ""
    figure: bool = False
    listed: bool = False


@dataclass(frozen=True)
class CellProblem:
    """What is wrong in a cell, in words, and texts that would cure it."""

    section: str
    row: int
    column: str
    text: str
    cures: tuple[str, ...] = ()
    doubt: bool = False


@dataclass
class Notes:
    """The problems of one section as it is read."""

    section: str
    found: list[CellProblem] = field(default_factory=list)
    taken: dict[tuple[int, str], str] = field(default_factory=dict)
    """What cells left empty, or abbreviated, were taken for."""
    made: list[int] = field(default_factory=list)
    """Of a list without identifiers: the row each of its entries was made of."""

    def __call__(self, row: int, column: str, text: str, *cures: str, doubt: bool = False) -> None:
        self.found.append(CellProblem(self.section, row, column, text, cures, doubt))


@dataclass(frozen=True)
class Section:
    """One table of a service paper: what it is called, its columns, how a sheet is written into it and read
    from it.

    ``write`` gives the rows of a document; ``apply`` puts rows into one and notes what it can't. Rows of a
    ``fixed`` section are neither added nor taken away.
    """

    id: str
    title: str
    hint: str
    columns: tuple[Column, ...]
    write: Callable[[Document], list[dict[str, str]]]
    apply: Callable[[Document, Sequence[Row], Notes], None]
    fixed: bool = False


def cell(row: Row, key: str) -> str:
    """A cell's text without blanks around it; empty where it has none."""
    return " ".join(row.get(key, "").split())


def empty(row: Row, section: Section) -> bool:
    """Whether nothing was typed in a row."""
    return not any(cell(row, column.key) for column in section.columns)


def plain(value: float | None) -> str:
    """A number as a cell holds it, exactly; empty for none."""
    if value is None:
        return ""
    return f"{value:.0f}" if value == int(value) and abs(value) < 1e15 else repr(float(value))


def number(text: str) -> float:
    """A bare number, with a point or a comma; ValueError for any other text."""
    tidy = text.replace("\u2212", "-").replace("\u00a0", "").replace(" ", "")
    if tidy.count(",") == 1 and "." not in tidy:
        tidy = tidy.replace(",", ".")
    if tidy.lower() in {"nan", "inf", "-inf", "infinity", "-infinity"}:
        message = f"“{text}” is no number"
        raise ValueError(message)
    return float(tidy)


def figure(text: str, dimension: Dimension) -> float:
    """A quantity's SI value; ValueError worded for the repairer for what is none."""
    try:
        found = parse(text, dimension)
    except QuantityError as error:
        raise ValueError(str(error)) from None
    if isinstance(found, Ambiguous):
        options = " or ".join(choice.text for choice in found.choices)
        message = f"“{text}” can mean {options}. Type it with its unit."
        raise ValueError(message)  # noqa: TRY004 -- what is typed is no type
    if found.value is None:
        message = f"“{text}” is no figure of a part."
        raise ValueError(message)
    return found.value


def sourced(document: Document, places: Mapping[str, str]) -> None:
    """Note where values of a document come from, where that is not what it says of them already."""
    for place, source in places.items():
        if source_of(document, place) != source:
            document.setdefault("sources", {})[place] = source


def source_of(document: Document, place: str) -> str:
    """Where the value at a place of a document comes from."""
    usual = Source(document.get("source", "printed"))
    known = {name: Source(source) for name, source in document.get("sources", {}).items()}
    return str(source_at(known, usual, place))
