"""Edits of a draft's tables, cell by cell, as several people make them.

Every row has a key of its own, so that a row put in by one moves nothing under another. A cell that somebody
changed since it was seen is not overwritten: both texts are told.
"""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from frostcore.paper.draft import section
from frostcore.paper.rows import MOST_ROWS, MOST_TEXT

Rows = list[dict[str, str]]
Tables = dict[str, Rows]


@dataclass(frozen=True)
class Edit:
    """One change: a cell's ``text`` where ``seen`` stood; a row put in ``after`` another; a row taken away;
    or all ``rows`` of a section put to those that stand there."""

    op: str
    section: str
    row: str = ""
    column: str = ""
    text: str = ""
    seen: str = ""
    after: str = ""
    rows: tuple[Mapping[str, str], ...] = ()


@dataclass(frozen=True)
class Conflict:
    """A cell that somebody else changed meanwhile: what stands there, and what was typed."""

    section: str
    row: str
    column: str
    theirs: str
    mine: str


def keyed(tables: Mapping[str, Sequence[Mapping[str, str]]]) -> Tables:
    """Tables whose rows have keys; those that have one keep it."""
    return {
        name: [
            {"key": row.get("key") or new_key(), **{k: v for k, v in row.items() if k != "key"}}
            for row in rows
        ]
        for name, rows in tables.items()
    }


def new_key() -> str:
    """A key no row has yet."""
    return uuid.uuid4().hex[:10]


def read_edit(data: Any) -> Edit:
    """An edit from plain data; ValueError saying what is wrong."""
    if not isinstance(data, dict) or data.get("op") not in {"cell", "insert", "remove", "rows"}:
        message = "an edit is an object whose op is cell, insert, remove or rows"
        raise ValueError(message)
    try:
        columns = {column.key for column in section(str(data.get("section"))).columns}
    except KeyError:
        message = f"there is no table “{data.get('section')}”"
        raise ValueError(message) from None
    texts = {name: str(data.get(name, "")) for name in ("row", "column", "text", "seen", "after")}
    if data["op"] == "cell" and texts["column"] not in columns:
        message = f"there is no column “{texts['column']}”"
        raise ValueError(message)
    if any(len(text) > MOST_TEXT for text in texts.values()):
        message = f"a cell has at most {MOST_TEXT} characters"
        raise ValueError(message)
    rows = tuple(_texts(row, columns) for row in data.get("rows", ())) if data["op"] == "rows" else ()
    return Edit(data["op"], str(data["section"]), rows=rows, **texts)


def _texts(row: Any, columns: set[str]) -> dict[str, str]:
    if not isinstance(row, dict):
        message = "a row is an object of texts"
        raise ValueError(message)  # noqa: TRY004 -- what comes is data
    kept = {
        str(key): str(text)[:MOST_TEXT] for key, text in row.items() if key in columns or key in {"id", "key"}
    }
    return {key: text for key, text in kept.items() if text}


def apply_edit(tables: Tables, edit: Edit) -> Conflict | None:
    """Change the tables by an edit; the conflict where the cell is no longer what was seen.

    ValueError for what can't be done.
    """
    rows = tables.setdefault(edit.section, [])
    fixed = section(edit.section).fixed
    if edit.op == "rows":
        if len(edit.rows) > MOST_ROWS:
            message = f"{len(edit.rows)} rows; a table has at most {MOST_ROWS}"
            raise ValueError(message)
        tables[edit.section] = keyed({edit.section: edit.rows})[edit.section]
        return None
    at = next((index for index, row in enumerate(rows) if row.get("key") == edit.row), None)
    match edit.op:
        case "insert" if at is None and not fixed:
            if len(rows) >= MOST_ROWS:
                message = f"a table has at most {MOST_ROWS} rows"
                raise ValueError(message)
            place = next(
                (index + 1 for index, row in enumerate(rows) if row.get("key") == edit.after), len(rows)
            )
            rows.insert(place, {"key": edit.row or new_key()})
        case "remove" if at is not None and not fixed:
            del rows[at]
        case "cell":
            return _cell(rows, at, edit, fixed=fixed)
    return None


def _cell(rows: Rows, at: int | None, edit: Edit, *, fixed: bool) -> Conflict | None:
    if at is None:
        if fixed or len(rows) >= MOST_ROWS:
            message = "that row is not in the table any more"
            raise ValueError(message)
        rows.append({"key": edit.row or new_key()})
        at = len(rows) - 1
    now = rows[at].get(edit.column, "")
    if now not in {edit.seen, edit.text}:
        return Conflict(edit.section, edit.row, edit.column, now, edit.text)
    if edit.text:
        rows[at][edit.column] = edit.text
    else:
        rows[at].pop(edit.column, None)
    return None
