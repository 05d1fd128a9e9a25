"""What the workbench for sheets shows: a section as a grid, problems at their cells, what works already."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from frostcore import document as documents
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.layout import lay_out_trace
from frostcore.circuit.picture import TracePicture
from frostcore.document import Problem
from frostcore.paper.diff import Change, changes
from frostcore.paper.draft import SECTIONS, Built
from frostcore.paper.heads import HEADS
from frostcore.paper.parts import SUPPLY
from frostcore.paper.paste import Pasted
from frostcore.paper.plate import FIELDS
from frostcore.paper.plugs import points_of
from frostcore.paper.rows import CellProblem, Column, Section
from frostcore.paper.ways import METERS
from frostcore.paper.works import Ability, abilities, at_the_edge, next_fact
from frostcore.sheet.code_rules import choices
from frostcore.sheet.model import Sheet
from frostline.sheets.actions.edit_draft import built
from frostline.sheets.models import Draft, Page

COLOURS = (
    *("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white"),
    *("pink", "turquoise", "tan", "green-yellow"),
)


@dataclass(frozen=True)
class GridCell:
    """A cell: its column, its text, what is wrong with it, what it was taken for where that is not said."""

    column: Column
    text: str
    problem: CellProblem | None
    taken: str

    @property
    def classes(self) -> str:
        """How a cell is marked: wrong, doubtful, or not at all."""
        if self.problem is None:
            return ""
        return "grid-doubt" if self.problem.doubt else "grid-wrong"


@dataclass(frozen=True)
class GridRow:
    """A row of the grid; ``name`` heads it where the rows are a unit's own."""

    key: str
    number: int
    name: str
    cells: tuple[GridCell, ...]


@dataclass(frozen=True)
class Grid:
    """A section as it is typed."""

    section: Section
    rows: tuple[GridRow, ...]
    lists: tuple[tuple[str, tuple[str, ...]], ...]


@dataclass(frozen=True)
class Chip:
    """A section in the row of sections: how many rows are typed, how many problems."""

    section: Section
    rows: int
    wrong: int
    here: bool


SCALE = 0.62
"""How large the drawing beside the grid is."""


@dataclass(frozen=True)
class Frame:
    """What of a picture is shown, and how large."""

    box: str
    width: int
    height: int


def frame_of(picture: TracePicture) -> Frame:
    """The picture from its first box on: what lies within boards is left out."""
    left = min((box.x for box in picture.boxes), default=0.0) - 10
    wide = picture.width - left
    return Frame(
        f"{left:.0f} 0 {wide:.0f} {picture.height:.0f}",
        round(wide * SCALE),
        round(picture.height * SCALE),
    )


@dataclass(frozen=True)
class Side:
    """What stands beside the grid: what works, what is missing, problems of no cell, the drawing, pins that
    are nothing yet."""

    abilities: tuple[Ability, ...]
    next_fact: str
    whole: tuple[Problem, ...]
    doubts: tuple[str, ...]
    problems: tuple[CellProblem, ...]
    picture: TracePicture | None
    frame: Frame | None
    edge: tuple[tuple[int, str], ...]
    ready: bool


def grid_of(draft: Draft, section: Section, found: Built) -> Grid:
    """A section's rows with what is wrong in their cells."""
    at = {(item.row, item.column): item for item in found.problems if item.section == section.id}
    labels = _labels(section)
    rows = tuple(
        GridRow(
            row["key"],
            index + 1,
            labels.get(row.get("id", ""), ""),
            tuple(
                GridCell(
                    column,
                    row.get(column.key, ""),
                    at.get((index, column.key)),
                    found.taken.get((section.id, index, column.key), ""),
                )
                for column in section.columns
            ),
        )
        for index, row in enumerate(draft.tables.get(section.id, ()))
    )
    return Grid(section, rows, tuple(_lists(section, found)))


READ_FROM = tuple(HEADS)
"""The sections that papers print as tables."""


def pages_of(draft: Draft) -> list[Page]:
    """The pages of its paper, in their order."""
    return list(draft.pages.select_related("picture"))


def pasted_context(
    draft: Draft, section: Section, text: str, found: Pasted, lost: Sequence[str]
) -> dict[str, Any]:
    """What is shown of a table before it counts, pasted or read from a picture."""
    return {
        "draft": draft,
        "section": section,
        "text": text,
        "found": found,
        "columns": [column for column in section.columns if any(row.get(column.key) for row in found.rows)],
        "lost": lost,
        "answers": {},
    }


def _labels(section: Section) -> dict[str, str]:

    return {key: label for key, label, _ in FIELDS} if section.id == "plate" else {}


def _lists(section: Section, found: Built) -> Iterable[tuple[str, tuple[str, ...]]]:
    """What can stand in the columns of which one of a list is meant."""
    sheet = found.sheet
    for column in section.columns:
        if not column.listed:
            continue
        known: dict[tuple[str, str], Iterable[str]] = {
            ("plugs", "colour"): COLOURS,
            ("parts", "supply"): SUPPLY.values(),
            ("stated", "meter"): METERS.values(),
        }
        if sheet is not None:
            known[("plugs", "is")] = points_of(sheet).values()
            known[("codes", "detected")] = [words for _, words in choices(sheet)]
            boards = {board.component for board in sheet.boards}
            known[("settings", "of")] = [part.name for part in sheet.components if part.id in boards]
            known[("stated", "mode")] = [mode.name for mode in sheet.modes]
        yield column.key, tuple(dict.fromkeys(known.get((section.id, column.key), ())))


def chips(draft: Draft, found: Built, here: str) -> list[Chip]:
    """Every section, in a paper's order."""
    return [
        Chip(
            section,
            sum(
                any(row.get(column.key) for column in section.columns)
                for row in draft.tables.get(section.id, ())
            ),
            sum(1 for item in found.problems if item.section == section.id and not item.doubt),
            section.id == here,
        )
        for section in SECTIONS
    ]


def side_of(draft: Draft) -> Side:
    """What stands beside the grid."""
    found = built(draft)
    sheet = found.sheet
    picture: TracePicture | None = None
    doubts: tuple[str, ...] = ()
    if sheet is not None and not found.whole:
        circuits = circuits_of(sheet)
        doubts = tuple(problem.text for problem in circuits.doubts)
        if circuits.problem:
            doubts = (circuits.problem, *doubts)
        elif sheet.harness:
            picture = lay_out_trace(sheet, None, whole=True)
    can = abilities(found, draft.tables)
    return Side(
        can,
        next_fact(can),
        found.whole,
        doubts,
        found.problems,
        picture,
        frame_of(picture) if picture else None,
        at_the_edge(found, draft.tables),
        found.ready,
    )


def taken_of_section(found: Built, draft: Draft, section: str) -> list[dict[str, str]]:
    """What a section's cells were taken for, by row key."""
    rows = draft.tables.get(section, ())
    return [
        {"row": rows[row]["key"], "column": column, "text": text}
        for (name, row, column), text in found.taken.items()
        if name == section and row < len(rows)
    ]


def problems_of_section(found: Built, draft: Draft, section: str) -> list[dict[str, Any]]:
    """The problems of a section's cells, by row key, as the grid takes them."""
    rows = draft.tables.get(section, ())
    return [
        {
            "row": rows[item.row]["key"],
            "column": item.column,
            "text": item.text,
            "cures": list(item.cures),
            "doubt": item.doubt,
        }
        for item in found.problems
        if item.section == section and item.row < len(rows)
    ]


def compared(old: Sheet, new: Sheet) -> dict[str, Any]:
    """Two sheets compared: the changes by table, and the new one's drawing with what is other lit."""
    found: dict[str, list[Change]] = {}
    for change in changes(documents.write(old), documents.write(new)):
        found.setdefault(change.section, []).append(change)
    before = {(stretch.id, stretch.colour) for stretch in old.wiring.stretches}
    other = {stretch.id for stretch in new.wiring.stretches if (stretch.id, stretch.colour) not in before}
    picture = None
    if new.harness and other and not circuits_of(new).problem:
        picture = lay_out_trace(new, None, whole=True, working=frozenset(other))
    return {
        "changes": list(found.items()),
        "picture": picture,
        "frame": frame_of(picture) if picture else None,
        "wires": len(other),
    }
