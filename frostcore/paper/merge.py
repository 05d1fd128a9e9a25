"""Pasted rows put to those that stand in a draft already."""

from collections.abc import Sequence

from frostcore.paper.rows import Document, Row, cell
from frostcore.sheet.words import tokens

MATCHED = {"parts": "part"}
"""Sections whose rows are a unit's own: a pasted row goes to the one it is of, by its words."""


def merged(
    section: str, document: Document, rows: Sequence[Row], pasted: Sequence[Row]
) -> tuple[list[dict[str, str]], list[str]]:
    """The rows with the pasted ones, and what could not be put anywhere.

    A row that stands there already is not taken twice.
    """
    if section not in MATCHED:
        kept = [dict(row) for row in rows if _content(row)]
        known = {_content(row) for row in kept}
        return [*kept, *(dict(row) for row in pasted if _content(row) not in known)], []
    found, lost = [dict(row) for row in rows], list[str]()
    taken: set[int] = set()
    for row in pasted:
        at = _best(found, taken, row)
        if at is None:
            lost.append(cell(row, "part") or cell(row, "number"))
            continue
        taken.add(at)
        name = cell(row, "part")
        found[at] |= {key: text for key, text in row.items() if key != "part"}
        if name and name != found[at].get("part"):
            found[at]["printed"] = name
    return found, lost


def _content(row: Row) -> frozenset[tuple[str, str]]:
    return frozenset((key, text) for key, text in row.items() if key not in _NOT_TYPED and text)


_NOT_TYPED = {"id", "key", "is", "detected"}


def _best(rows: Sequence[Row], taken: set[int], row: Row) -> int | None:
    """The row whose words are nearest; None where none is, or two are alike."""
    said = tokens(cell(row, "part"))
    scored = []
    for index, other in enumerate(rows):
        names = [tokens(cell(other, "part")), tokens(cell(other, "printed"))]
        score = max((len(said & name) - 0.15 * len(said ^ name) for name in names if name), default=0.0)
        if index not in taken:
            scored.append((score, index))
    scored.sort(reverse=True)
    if not scored or scored[0][0] <= 0 or (len(scored) > 1 and scored[0][0] == scored[1][0]):
        return None
    return scored[0][1]
