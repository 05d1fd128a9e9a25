"""What was learned on a call, as the beginning of a draft: for the next unit of this model."""

from frostcore import document as documents
from frostcore.paper.draft import tables_of
from frostcore.paper.rows import Document
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import purpose

Rows = list[dict[str, str]]


def draft_of(sheet: Sheet, plate: str) -> tuple[Document, dict[str, Rows]]:
    """The base and the tables of a draft from a call's own copy of a sheet; ``plate`` is maker and model as
    read."""
    base: Document = documents.write(sheet)
    marks = base.pop("marks", {})
    tables = tables_of(base)
    if sheet.generic:
        maker, _, model = plate.partition(" ")
        typed = {"maker": maker, "model": model}
        for row in tables["plate"]:
            row["value"] = typed.get(row["id"], row["value"])
    tables["plugs"] = [*tables["plugs"], *_pins(sheet, marks)]
    return base, tables


def _pins(sheet: Sheet, marks: dict[str, dict[str, str]]) -> Rows:
    """The pins that were read on the unit, as rows of its connectors."""
    found: Rows = []
    for point, mark in sorted(marks.items(), key=lambda item: item[1].get("printed", "")):
        printed = mark.get("printed", "")
        if sheet.pin(point) is None or not printed:
            continue
        row = {"pin": printed, "colour": mark.get("colour", ""), "is": purpose(sheet, point)}
        found.append({key: text for key, text in row.items() if text})
    return found
