"""A table cut out of a picture: laid flat, enlarged to what reads best, its lines taken away."""

import math
import operator
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from frostcore.paper.picture.grid import MOST_CELLS, Box, boxes, edges, gaps, line_of
from frostcore.paper.picture.ink import LEAST_CONTRAST, Grey, Marks, contrast, ink_of, levelled, spread
from frostcore.paper.picture.straight import Corner, flat, lean_of, turned

READ_BEST = 68.0
"""Points from line to line at which print is read best: capitals some 32 points high."""

BLACK, WHITE = 70.0, 215.0
"""What is drawn as black and as white: grain in the paper and in the ink goes."""

LEAST_SHARP = 40.0
"""Shades from point to point below which decimal marks are lost: a page of 600 points across has 48, one out
of focus by a twentieth of a row 34."""

LEAST_ROW = 13.0
"""Points from line to line below which nobody reads the print."""


MARGIN = 24
"""Points around a table that belong to its paper."""


class WornError(ValueError):
    """A picture that can't be read, in words: it is typed with the picture beside."""


@dataclass(frozen=True)
class Cut:
    """A table laid flat: the picture without its lines (0 black to 255 white, by row), and each cell with
    whether anything is printed in it."""

    picture: np.ndarray
    boxes: tuple[Box, ...]
    printed: tuple[bool, ...]

    def crop(self, box: Box, around: int = 14) -> np.ndarray:
        """A cell by itself, white around it."""
        inside = self.picture[box.top + 3 : box.bottom - 2, box.left + 3 : box.right - 2]
        return np.pad(inside, around, constant_values=255)


def cut(grey: Grey, corners: Sequence[Corner]) -> Cut:
    """The table within four corners of a picture, cut into cells.

    Raises WornError for what can't be read and ValueError for corners that hold no table.
    """
    near, corners = _around(grey, corners)
    level = levelled(near)
    first = flat(level, corners)
    if contrast(first) < LEAST_CONTRAST:
        raise WornError("The print is too pale to be read from the picture.")
    line = line_of(grey.shape[:2])
    marks = ink_of(first)
    rows, _, ruled_level, _ = edges(marks, line)
    lined = len(rows) > 2 and bool(ruled_level.any())
    if not lined:
        first = turned(first, lean_of(marks))
        rows = gaps(ink_of(first), 1, 2)
    if len(rows) < 3:
        raise WornError("No rows were found within these corners.")
    pitch = float(np.median(np.diff(rows)))
    if pitch < LEAST_ROW:
        message = f"The rows are {pitch:.0f} points high: too small to be read. Photograph the table alone."
        raise WornError(message)
    scale = min(4.0, max(0.5, READ_BEST / pitch))
    return _cut_lined(flat(level, corners, scale), line * scale) if lined else _cut_white(first, scale)


def _around(grey: Grey, corners: Sequence[Corner]) -> tuple[Grey, list[Corner]]:
    """The part of a picture that holds four corners, and where they are in it."""
    across, down = ([corner[axis] for corner in corners] for axis in (0, 1))
    if not all(math.isfinite(each) for each in (*across, *down)):
        message = "these corners hold no table: drag them to its four corners"
        raise ValueError(message)
    left, top = (max(0, math.floor(min(each)) - MARGIN) for each in (across, down))
    part = grey[top : max(0, math.ceil(max(down))) + MARGIN, left : max(0, math.ceil(max(across))) + MARGIN]
    if min(part.shape) < 2 * MARGIN:
        message = "these corners lie outside the picture"
        raise ValueError(message)
    return part, [(one - left, two - top) for one, two in corners]


def _cut_lined(large: Grey, line: float) -> Cut:
    marks = ink_of(large)
    rows, columns, level, upright = edges(marks, round(line))
    rows = _whole(rows)
    if (len(rows) - 1) * (len(columns) - 1) > MOST_CELLS:
        raise WornError("More cells were found than any table of a paper has: too worn to be read.")
    found = boxes(rows, columns, level, upright)
    lines = spread(level | upright, 5, 5)
    return _of(large, lines, rows, columns, found)


def _whole(rows: Sequence[int]) -> list[int]:
    """Edges of rows without slivers: a double line, or one smeared, is one edge."""
    least = 0.5 * float(np.median(np.diff(rows)))
    kept = [rows[0]]
    for at in rows[1:-1]:
        if at - kept[-1] < least:
            kept[-1] = at
        else:
            kept.append(at)
    if len(kept) > 1 and rows[-1] - kept[-1] < least:
        kept.pop()
    return [*kept, rows[-1]]


def _cut_white(first: Grey, scale: float) -> Cut:
    large = ndimage.zoom(first, scale, order=1)
    marks = ink_of(large)
    rows = gaps(marks, 1, round(2 * scale))
    pitch = float(np.median(np.diff(rows)))
    columns = gaps(marks, 0, round(pitch * 0.45))
    none = np.zeros_like(marks)
    found = [
        Box(row, column, columns[column], rows[row], columns[column + 1], rows[row + 1])
        for row in range(len(rows) - 1)
        for column in range(len(columns) - 1)
    ]
    if len(found) > MOST_CELLS:
        raise WornError("More cells were found than any table of a paper has: too worn to be read.")
    return _of(large, none, rows, columns, found)


def _of(large: Grey, lines: Marks, rows: list[int], columns: list[int], found: list[Box]) -> Cut:
    clean = np.where(lines, 255.0, large)
    picture = (np.clip((clean - BLACK) / (WHITE - BLACK), 0.0, 1.0) * 255.0).astype(np.uint8)
    if sharpness(picture) < LEAST_SHARP:
        raise WornError("The print is blurred: hold still, nearer, in more light, or type the table.")
    marks = ink_of(clean)
    printed = {box: _printed(marks, box) for box in found}
    # Double lines, and the strip outside the outermost, hold nothing: they are no rows and no columns.
    down, across = (
        {old: new for new, old in enumerate(sorted({key(box) for box in found if printed[box]}))}
        for key in (operator.attrgetter("row"), operator.attrgetter("column"))
    )
    kept = tuple(box for box in found if box.row in down and box.column in across)
    return Cut(
        picture,
        tuple(replace(box, row=down[box.row], column=across[box.column]) for box in kept),
        tuple(printed[box] for box in kept),
    )


def sharpness(picture: np.ndarray) -> float:
    """By how many shades the edges of print change from one point to the next, at the size it is read."""
    down, across = np.gradient(picture.astype(float))
    edges_of = np.hypot(down, across)[(picture > 60) & (picture < 195)]
    return float(np.median(edges_of)) if edges_of.size else 255.0


def _printed(marks: Marks, box: Box) -> bool:
    """Whether a cell holds more than specks."""
    inside = marks[box.top + 4 : box.bottom - 3, box.left + 4 : box.right - 3]
    if not inside.size or not inside.any():
        return False
    labels, count = ndimage.label(inside)
    return bool(np.bincount(labels.ravel(), minlength=count + 1)[1:].max() >= 18)
