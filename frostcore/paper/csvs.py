"""Tables of a sheet as CSV and back, exactly: what a spreadsheet opens, and what comes out of it again.

A cell holds a text as it is, and anything else as JSON. A text that a spreadsheet would take for a formula
has an apostrophe before it, which goes again on the way in.
"""

import csv
import io
import json
from collections.abc import Sequence
from typing import Any, get_type_hints

from frostcore.document import Problem
from frostcore.errors import SheetError
from frostcore.paper.rows import Document
from frostcore.sheet.electrical import Connector, Pin
from frostcore.sheet.model import Code, Component, Sensor

ENTRIES: dict[str, tuple[str, type]] = {
    "codes": ("codes", Code),
    "sensors": ("sensors", Sensor),
    "parts": ("components", Component),
}
"""Tables that have a row an entry: the document's list, and the class that says which fields are texts."""

NAMES = (*ENTRIES, "connectors", "curves")
MOST_LINES, MOST_CELL = 2000, 20_000
FORMULA = ("=", "+", "-", "@", "\t", "\r", "'")
"""How a cell begins that a spreadsheet runs."""


def to_csv(document: Document, name: str) -> str:
    """One table of a document; KeyError for a name that is none."""
    rows = (
        _ROWS[name](document) if name in _ROWS else [dict(row) for row in document.get(ENTRIES[name][0], ())]
    )
    heads = list(dict.fromkeys(key for row in rows for key in row)) or [_FIRST.get(name, "id")]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(heads)
    texts = _texts(name)
    for row in rows:
        writer.writerow([_cell(row[key], key in texts) if key in row else "" for key in heads])
    return out.getvalue()


def from_csv(document: Document, name: str, text: str) -> Document:
    """A document with one table as a CSV has it; SheetError naming the line for what can't be read."""
    rows = _read(text, _texts(name))
    new = dict(document)
    if not rows and not document.get(ENTRIES[name][0] if name in ENTRIES else name):
        return new
    if name == "connectors":
        new["connectors"] = _connectors(rows)
    elif name == "curves":
        new["curves"] = _curves(document, rows)
    else:
        new[ENTRIES[name][0]] = rows
    return new


def _texts(name: str) -> set[str]:
    """The fields of a table that hold texts as they are."""
    if name == "connectors":
        return {"connector", "name", "place", "board", "node", "colour", "label"}
    if name == "curves":
        return {"curve"}
    hints = get_type_hints(ENTRIES[name][1])
    return {key for key, hint in hints.items() if not _structured(hint)}


def _structured(hint: Any) -> bool:
    return hint is not str and not (isinstance(hint, type) and issubclass(hint, str))


def _cell(value: Any, is_text: bool) -> str:
    if is_text and isinstance(value, str):
        return f"'{value}" if value.startswith(FORMULA) else value
    return json.dumps(value, ensure_ascii=False)


def _read(text: str, texts: set[str]) -> list[dict[str, Any]]:
    lines = [line for line in csv.reader(io.StringIO(text.replace("\0", ""))) if any(line)]
    if not lines:
        raise SheetError([Problem("line 1", "nothing in it; the first line has the columns’ names")])
    if len(lines) > MOST_LINES:
        raise SheetError([Problem("document", f"{len(lines):,} lines; at most {MOST_LINES:,}")])
    heads, problems, rows = [head.strip() for head in lines[0]], list[Problem](), list[dict[str, Any]]()
    for number, line in enumerate(lines[1:], 2):
        row: dict[str, Any] = {}
        for head, cell in zip(heads, line, strict=False):
            if not cell or not head:
                continue
            try:
                row[head] = _value(cell, head in texts)
            except ValueError:
                problems.append(Problem(f"line {number}, {head}", f"“{cell[:40]}” can’t be read"))
        rows.append(row)
    if problems:
        raise SheetError(problems)
    return rows


def _value(cell: str, is_text: bool) -> Any:
    if len(cell) > MOST_CELL:
        message = "too long"
        raise ValueError(message)
    if is_text:
        return cell[1:] if cell.startswith("'") and cell[1:].startswith(FORMULA) else cell
    try:
        return json.loads(cell)
    except RecursionError:
        raise ValueError(cell[:20]) from None


_PLUG = ("id", "name", "place", "board")


def _connector_rows(document: Document) -> list[dict[str, Any]]:
    """A row a pin; an inline plug, which has none of its own, one row."""
    found = []
    for connector in document.get("connectors", ()):
        own = {("connector" if key == "id" else key): connector[key] for key in _PLUG if key in connector}
        more = {key: value for key, value in connector.items() if key not in {*_PLUG, "pins"}}
        pins = connector.get("pins") or [{}]
        found += [own | more | dict(pin) for pin in pins]
    return found


def _connectors(rows: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    pin_fields = set(get_type_hints(Pin))
    plugs: dict[str, dict[str, Any]] = {}
    for row in rows:
        name = str(row.get("connector", ""))
        plug = plugs.setdefault(name, {"id": name})
        plug |= {key: row[key] for key in row if key in get_type_hints(Connector) or key.startswith("x-")}
        pin = {key: row[key] for key in row if key in pin_fields}
        if pin:
            plug.setdefault("pins", []).append(pin)
    return list(plugs.values())


def _curve_rows(document: Document) -> list[dict[str, Any]]:
    """A row a pair of a table curve; any other curve in one row, whole."""
    found: list[dict[str, Any]] = []
    for name, curve in document.get("curves", {}).items():
        if curve.get("kind") == "table":
            found += [{"curve": name, "celsius": celsius, "ohms": ohms} for celsius, ohms in curve["rows"]]
        else:
            found.append({"curve": name, "formula": curve})
    return found


def _curves(document: Document, rows: Sequence[dict[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for row in rows:
        name = str(row.get("curve", ""))
        if "formula" in row:
            found[name] = row["formula"]
        else:
            table = found.setdefault(name, {"kind": "table", "rows": []})
            table["rows"].append([row.get("celsius"), row.get("ohms")])
    return found


_FIRST = {"connectors": "connector", "curves": "curve"}
"""The column an empty table has; any other has its entries' names."""

_ROWS = {"connectors": _connector_rows, "curves": _curve_rows}
