"""Sheet documents in and out: text to a sheet, a sheet to text, the schema.

Two ways in. :func:`read` takes what is stored: structure only, whatever rules have come since it was
published. :func:`load` takes what is to be published: structure, and every rule of
:mod:`frostcore.sheet.checks`.
"""

import json
from dataclasses import dataclass
from typing import Any

from frostcore import document
from frostcore.document import Problem
from frostcore.errors import SheetError
from frostcore.sheet.bounds import problems_of_data, problems_of_text
from frostcore.sheet.checks import problems_of
from frostcore.sheet.model import Sheet
from frostcore.sheet.versions import upgraded

SCHEMA_IDENTIFIER = "urn:frostline:sheet:2"


@dataclass(frozen=True)
class LoadedSheet:
    """A sheet that passed every check, and remarks worth a look (a table row that looks mistyped)."""

    sheet: Sheet
    remarks: tuple[Problem, ...]


def schema() -> dict[str, Any]:
    """The JSON Schema of sheet documents."""
    return document.json_schema(Sheet, title="Frostline unit sheet", identifier=SCHEMA_IDENTIFIER)


def read(text: str) -> Sheet:
    """A stored sheet, of any version that ever landed.

    Raises SheetError only where its structure can't be read; rules are not asked again.
    """
    return document.read(Sheet, upgraded(parsed(text)), rules=False)


def load(text: str) -> LoadedSheet:
    """A sheet to be published, from JSON text.

    Raises SheetError naming every place that is wrong and why.
    """
    sheet = document.read(Sheet, bounded(text))
    problems, remarks = problems_of(sheet)
    if problems:
        raise SheetError(problems)
    return LoadedSheet(sheet, remarks)


def bounded(text: str) -> Any:
    """The plain document, in the present version, of JSON text that holds no more than a sheet may.

    Raises SheetError for any other.
    """
    problems = problems_of_text(text)
    data = None if problems else upgraded(parsed(text))
    if problems := problems or problems_of_data(data):
        raise SheetError(problems)
    return data


def dump(sheet: Sheet) -> str:
    """The sheet as JSON text; :func:`load` reads it back equal."""
    return json.dumps(document.write(sheet), ensure_ascii=False, indent=2) + "\n"


def digest(text: str) -> str:
    """The digest of a document's content: line ends, indents and the order of names leave it as it is.

    Raises SheetError for what is no JSON.
    """
    return document.digest(parsed(text))


def parsed(text: str) -> Any:
    """The plain document of JSON text; SheetError naming the line for what is none."""
    try:
        return json.loads(text, parse_constant=_no_constant)
    except RecursionError:
        raise SheetError([Problem("document", "nested too deep to be a sheet")]) from None
    except ValueError as error:
        place = f"line {error.lineno}" if isinstance(error, json.JSONDecodeError) else "document"
        raise SheetError([Problem(place, f"not a JSON document: {getattr(error, 'msg', error)}")]) from None


def _no_constant(name: str) -> float:
    message = f"{name} is not a number JSON knows"
    raise ValueError(message)
