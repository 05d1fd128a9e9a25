"""Tables on a page by their ruled lines, and the grid of one: by its lines, or by the white between."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from frostcore.paper.picture.ink import Grey, Marks, ink_of, levelled, runs, spread
from frostcore.paper.picture.straight import Corner, back, lean_of, turned

LINE = 42
"""Points of ink in a row that are a ruled line and no stroke of a letter, on a page 1800 points wide."""

MOST_TABLES, MOST_CELLS = 24, 2400


@dataclass(frozen=True)
class Found:
    """A table on a page: its corners from the upper left, clockwise, roughly how many rows and columns."""

    corners: tuple[Corner, Corner, Corner, Corner]
    rows: int
    columns: int


@dataclass(frozen=True)
class Box:
    """A cell: row and column, and where it stands (left, top, right, bottom, in points)."""

    row: int
    column: int
    left: int
    top: int
    right: int
    bottom: int

    @property
    def sides(self) -> tuple[int, int, int, int]:
        """Left, top, right, bottom."""
        return self.left, self.top, self.right, self.bottom


def level_lines(marks: Marks, wide: int) -> Marks:
    """The level lines at least so wide, of a picture that is nearly straight."""
    return runs(spread(marks, 3, 1), wide, 1)


def upright_lines(marks: Marks, high: int) -> Marks:
    """The upright lines at least so high, of a picture that is nearly straight."""
    return runs(spread(marks, 1, 3), high, 0)


def line_of(shape: tuple[int, int]) -> int:
    """How long a ruled line is at least, for a page of this shape."""
    return max(18, round(LINE * min(shape) / 1800))


def tables_on(grey: Grey) -> list[Found]:
    """The ruled tables of a page, from the top: frames with at least two lines each way."""
    level = levelled(grey)
    lean = lean_of(ink_of(level))
    straight = turned(level, lean)
    marks = ink_of(straight)
    line = line_of(grey.shape[:2])
    flat_lines, upright = level_lines(marks, line), upright_lines(marks, line)
    joined = spread(flat_lines | upright, 5, 5)
    labels, _ = ndimage.label(joined, np.ones((3, 3)))
    found = []
    for number, place in enumerate(ndimage.find_objects(labels), 1):
        high, wide = place[0].stop - place[0].start, place[1].stop - place[1].start
        if high < 30 or wide < 60:
            continue
        mine = labels[place] == number
        rows = _lines(flat_lines[place] & mine, 1)
        columns = _lines(upright[place] & mine, 0)
        if len(rows) < 2 or len(columns) < 2:
            continue
        ends = _corners(mine, place[1].start, place[0].start)
        one, two, three, four = (back(corner, lean, grey.shape[:2], straight.shape[:2]) for corner in ends)
        found.append(Found((one, two, three, four), len(rows) - 1, len(columns) - 1))
    found.sort(key=lambda each: (round(each.corners[0][1] / 40), each.corners[0][0]))
    return found[:MOST_TABLES]


def _corners(mine: Marks, left: int, top: int) -> list[Corner]:
    """The corners of a frame: its points farthest out to each side."""
    down, across = np.nonzero(mine)
    ends = []
    for sign_across, sign_down in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
        at = int(np.argmax(sign_across * across + sign_down * down))
        # The frame was widened by two points each way before it was joined.
        ends.append((float(across[at] + left - 2 * sign_across), float(down[at] + top - 2 * sign_down)))
    return ends


def _lines(marks: Marks, axis: int, share: float = 0.3) -> list[int]:
    """Where lines stand along an axis: those that go through a share of the table."""
    wide = marks.shape[axis]
    # A line that still leans a little is thin in each row it crosses; what matters is how far it reaches.
    thick = spread(marks, *((7, 1) if axis == 1 else (1, 7)))
    through = thick.sum(axis=axis) > share * wide
    labels, count = ndimage.label(through)
    centers = ndimage.center_of_mass(through, labels, range(1, count + 1))
    return [round(float(center[0])) for center in centers]


def edges(marks: Marks, line: int) -> tuple[list[int], list[int], Marks, Marks]:
    """The edges of rows and of columns of a table laid flat, and its level and upright lines."""
    high, wide = marks.shape
    # Laid flat a line runs through: what is as short as a word in thick print, or a letter, is none.
    level = level_lines(marks, 2 * line)
    rows = _closed(_lines(level, 1, 0.25), high, line)
    pitch = float(np.median(np.diff(rows)))
    upright = upright_lines(marks, max(8, round(0.85 * pitch)))
    return rows, _closed(_lines(upright, 0, 0.25), wide, line), level, upright


def _closed(found: list[int], end: int, line: int) -> list[int]:
    """Edges with the table's own ends; lines nearer than a letter are one."""
    kept: list[int] = []
    for at in [0, *found, end - 1]:
        if not kept or at - kept[-1] >= max(8, line // 3):
            kept.append(at)
        elif at == end - 1:
            kept[-1] = at
    return kept


def gaps(marks: Marks, axis: int, least: int) -> list[int]:
    """The middles of white stretches along an axis that are at least so wide, with both ends: the edges of a
    table without lines."""
    empty = marks.sum(axis=axis) <= 0.002 * marks.shape[axis]
    labels, count = ndimage.label(empty)
    found = [0]
    for number in range(1, count + 1):
        places = np.nonzero(labels == number)[0]
        inner = places[0] > 0 and places[-1] < len(empty) - 1
        if inner and len(places) >= least:
            found.append(round(float(places.mean())))
    return [*found, len(empty) - 1]


def boxes(rows: Sequence[int], columns: Sequence[int], level: Marks, upright: Marks) -> list[Box]:
    """The cells between edges; where no line parts two, the first holds both."""
    taken: set[tuple[int, int]] = set()
    found = []
    for row in range(len(rows) - 1):
        for column in range(len(columns) - 1):
            if (row, column) in taken:
                continue
            right, bottom = column + 1, row + 1
            while right < len(columns) - 1 and not _parted(
                upright[rows[row] : rows[row + 1], :], columns[right], 1
            ):
                right += 1
            while bottom < len(rows) - 1 and not _parted(
                level[:, columns[column] : columns[right]], rows[bottom], 0
            ):
                bottom += 1
            taken |= {(r, c) for r in range(row, bottom) for c in range(column, right)}
            found.append(Box(row, column, columns[column], rows[row], columns[right], rows[bottom]))
    return found


def _parted(marks: Marks, at: int, axis: int) -> bool:
    """Whether a line stands at an edge, through most of a cell."""
    band = marks[:, max(0, at - 6) : at + 7] if axis == 1 else marks[max(0, at - 6) : at + 7, :]
    return bool(band.size) and float(band.any(axis=axis).mean()) > 0.5
