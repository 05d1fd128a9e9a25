"""A draft of a sheet: what it began from, and the tables typed since. What follows is computed, never stored.

Nothing typed is lost: a text that can't be understood stays in its cell, with what is wrong beside it, and is
left out of the sheet.
"""

import copy
import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from frostcore import document as documents
from frostcore.document import Problem
from frostcore.errors import SheetError
from frostcore.paper.codes import CODES
from frostcore.paper.parts import PARTS
from frostcore.paper.plate import PLATE
from frostcore.paper.plugs import PLUGS
from frostcore.paper.rows import MOST_ROWS, MOST_TEXT, CellProblem, Document, Notes, Row, Section
from frostcore.paper.sensors import SENSORS
from frostcore.paper.ways import MODES, PLACES, SETTINGS, STATED
from frostcore.sheet.archetypes import for_mains
from frostcore.sheet.checks import problems_of
from frostcore.sheet.load import bounded
from frostcore.sheet.model import RESERVED_SHEET_IDS, Sheet
from frostcore.sheet.versions import identifier_of

SECTIONS: tuple[Section, ...] = (PLATE, CODES, SENSORS, PLUGS, MODES, SETTINGS, STATED, PARTS, PLACES)
"""The tables, in the order a service sheet prints them."""

APPLIED = ("plate", "parts", "places", "sensors", "plugs", "modes", "settings", "codes", "stated")
"""The order in which they are read: what is named before what names it."""

Tables = Mapping[str, Sequence[Row]]


@dataclass(frozen=True)
class Built:
    """What follows from a draft: the sheet's document as far as it goes, the sheet where its structure can be
    read, and every problem at its cell; ``whole`` are those of no one cell, ``taken`` what cells left empty
    or abbreviated were taken for."""

    document: Document
    sheet: Sheet | None
    problems: tuple[CellProblem, ...]
    whole: tuple[Problem, ...]
    taken: Mapping[tuple[str, int, str], str]

    @property
    def ready(self) -> bool:
        """Whether it can be published: doubts may stay."""
        return self.sheet is not None and not self.whole and all(item.doubt for item in self.problems)


def section(identifier: str) -> Section:
    """A section by its id; KeyError for any other."""
    for item in SECTIONS:
        if item.id == identifier:
            return item
    raise KeyError(identifier)


def tables_of(document: Document) -> dict[str, list[dict[str, str]]]:
    """The tables of a document: what a draft begins with."""
    return {item.id: item.write(document) for item in SECTIONS}


def build(base: Document, tables: Tables) -> Built:
    """What follows from a base document and the tables typed since."""
    document, problems = _at_its_mains(base, tables), list[CellProblem]()
    taken: dict[tuple[str, int, str], str] = {}
    made: dict[str, list[int]] = {}
    for name in APPLIED:
        item = section(name)
        if name not in tables:
            continue
        note = Notes(name)
        item.apply(document, tables[name], note)
        problems += note.found
        taken |= {(name, *at): text for at, text in note.taken.items()}
        made |= {name: note.made} if note.made else {}
    _identify(document, base)
    _tidied(document)
    sheet, whole = _read(document)
    if sheet is not None:
        wrong, doubts = problems_of(sheet)
        for found, doubt in ((wrong, False), (doubts, True)):
            for problem in found:
                at = _cell_of(problem, document, tables, made)
                if at:
                    problems.append(CellProblem(*at, problem.text, doubt=doubt))
                elif not doubt:
                    whole.append(problem)
    return Built(document, sheet, tuple(_once(problems)), tuple(whole), taken)


MAINS = 90.0, 260.0
"""What a household unit can be for, in volts."""


def _at_its_mains(base: Document, tables: Tables) -> Document:
    """The base; a kind of unit at the mains that were typed, with the values usual there."""
    document = copy.deepcopy(base)
    if not _is_kind(base) or "plate" not in tables:
        return document
    PLATE.apply(document, tables["plate"], Notes("plate"))
    plate = document["plate"]
    if not MAINS[0] <= plate["mains_volts"] <= MAINS[1] or plate["mains_hertz"] not in {50, 60}:
        return copy.deepcopy(base)  # what no house has is said at its cell
    brought = for_mains(
        documents.read(Sheet, base, rules=False), float(plate["mains_volts"]), float(plate["mains_hertz"])
    )
    written: Document = documents.write(brought)
    for key in ("components", "boards"):
        if key in base:
            document[key] = written[key]
    document["plate"] = copy.deepcopy(base["plate"]) | {
        key: plate[key] for key in ("mains_volts", "mains_hertz")
    }
    document.pop("sources", None)
    return document


def _is_kind(document: Document) -> bool:
    """Whether a document is of a kind of unit."""
    return document.get("source") == "archetype" and "plate" not in document.get("sources", {})


def _once(problems: Sequence[CellProblem]) -> list[CellProblem]:
    """Each cell's problem once: what a section noted before what the sheet's rules say of the same cell."""
    seen, found = set[tuple[str, int, str]](), list[CellProblem]()
    for item in problems:
        key = (item.section, item.row, item.column)
        if key not in seen:
            seen.add(key)
            found.append(item)
    return found


def _identify(document: Document, base: Document) -> None:
    """A sheet of a unit of its own has its own identifier, once maker and model are typed."""
    if _is_kind(base) and "plate" in document.get("sources", {}):
        name = identifier_of(document["plate"]["maker"], document["plate"]["model"])
        document["id"] = f"{name}-unit" if name in RESERVED_SHEET_IDS else name
        document.pop("about", None)


def _tidied(document: Document) -> None:
    if not document.get("sources"):
        document.pop("sources", None)


def _read(document: Document) -> tuple[Sheet | None, list[Problem]]:
    try:
        return documents.read(Sheet, bounded(json.dumps(document))), []
    except SheetError as error:
        return None, [item for item in error.problems if isinstance(item, Problem)]


_PLACE = re.compile(r"(?P<list>[a-z_]+)(?:\[(?P<index>\d+)\])?(?:\.(?P<rest>.*))?")
_COLUMNS = {
    "components": ("parts", "part", {f"nominal.{key}": key for key in ("ohms", "watts", "volts")}),
    "codes": ("codes", "code", {"meaning": "meaning", "condition": "detected"}),
    "sensors": ("sensors", "sensor", {}),
    "modes": ("modes", "mode", {"enter": "enter"}),
    "settings": ("settings", "number", {"usual": "usual", "component": "of", "name": "setting"}),
    "places": ("places", "place", {}),
    "stated_readings": ("stated", "red", {}),
}
"""Where a problem of a sheet's entry stands among the tables: section, column, columns of what is in it."""


def _cell_of(
    problem: Problem, document: Document, tables: Tables, made: Mapping[str, list[int]]
) -> tuple[str, int, str] | None:
    """The cell a problem of the sheet belongs to; None where there is none. ``made`` are the rows that a list
    without identifiers was made of."""
    match = _PLACE.fullmatch(problem.place)
    if match is None:
        return None
    name, index, rest = match["list"], match["index"], match["rest"] or ""
    if name == "plate":
        rows = [row.get("id", "") for row in tables.get("plate", ())]
        return ("plate", rows.index(rest), "value") if rest in rows else None
    if name == "curves":
        at = re.search(r"rows\[(\d+)\]", rest)
        return ("sensors", int(at[1]) if at else 0, "ohms") if tables.get("sensors") else None
    if name not in _COLUMNS or index is None or int(index) >= len(document.get(name, ())):
        return None
    table, column, inner = _COLUMNS[name]
    item = document[name][int(index)]
    found = next((key for start, key in inner.items() if rest.startswith(start)), column)
    if table in made:
        return table, made[table][int(index)], found
    for place, row in enumerate(tables.get(table, ())):
        if row.get("id", "").partition(":")[0] == str(item.get("id", index)):
            return table, place, found
    return None


def checked_tables(data: object) -> dict[str, list[dict[str, str]]]:
    """Tables as they come from anywhere: known sections, texts of a bounded length, no more rows than a paper
    has; ValueError saying what is wrong."""
    if not isinstance(data, dict):
        message = "tables are an object of sections"
        raise ValueError(message)  # noqa: TRY004 -- what comes is data, not a caller's mistake
    found: dict[str, list[dict[str, str]]] = {}
    for name, rows in data.items():
        keys = {column.key for column in section(str(name)).columns} | {"id"}
        if not isinstance(rows, list) or len(rows) > MOST_ROWS:
            message = f"{name}: a list of at most {MOST_ROWS} rows belongs here"
            raise ValueError(message)
        found[str(name)] = [_row(row, keys, str(name)) for row in rows]
    return found


def _row(row: object, keys: set[str], name: str) -> dict[str, str]:
    if not isinstance(row, dict) or not all(isinstance(text, str) for text in row.values()):
        message = f"{name}: a row is an object of texts"
        raise ValueError(message)
    if any(len(text) > MOST_TEXT for text in row.values()):
        message = f"{name}: a cell has at most {MOST_TEXT} characters"
        raise ValueError(message)
    return {str(key): text for key, text in row.items() if key in keys and text}
