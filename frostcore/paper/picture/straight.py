"""A page or a table laid straight: by how far its lines of print lean, or by its four corners."""

import math
from collections.abc import Sequence

import numpy as np
from scipy import ndimage

from frostcore.paper.picture.ink import Grey, Marks

MOST_LEAN = 8.0
"""Degrees a page may lean; what was photographed from the side is turned by a quarter first."""

Corner = tuple[float, float]
"""Across and down, in points of the picture."""


def lean_of(marks: Marks) -> float:
    """By how many degrees the print leans, counterclockwise positive: where lines of print and of the grid
    stand sharpest apart."""
    down, across = np.nonzero(marks[::2, ::2])
    if len(down) < 200:
        return 0.0
    step = max(1, len(down) // 60_000)
    down, across = down[::step].astype(float), across[::step].astype(float)
    best = 0.0
    for width, fineness in ((MOST_LEAN, 0.5), (0.5, 0.1), (0.1, 0.02)):
        steps = round(width / fineness)
        tries = [best + fineness * step for step in range(-steps, steps + 1)]
        best = max(tries, key=lambda degrees: _sharpness(down, across, degrees))
    return -best


def _sharpness(down: np.ndarray, across: np.ndarray, degrees: float) -> float:
    """How unevenly ink falls on lines that lean by so much."""
    angle = math.radians(degrees)
    at = down * math.cos(angle) - across * math.sin(angle)
    counts = np.bincount((at - at.min()).astype(int)).astype(float)
    return float(np.square(np.diff(counts)).sum())


def turned(grey: Grey, degrees: float) -> Grey:
    """The picture turned clockwise by so many degrees, what comes from beyond it white."""
    if abs(degrees) < 0.01:
        return grey
    found: Grey = ndimage.rotate(grey, -degrees, order=1, mode="constant", cval=255.0)
    return found


def back(corner: Corner, degrees: float, shape: tuple[int, int], turned_shape: tuple[int, int]) -> Corner:
    """Where a point of the turned picture was in the one it was made from."""
    angle = math.radians(degrees)
    across, down = corner[0] - turned_shape[1] / 2, corner[1] - turned_shape[0] / 2
    return (
        across * math.cos(angle) + down * math.sin(angle) + shape[1] / 2,
        -across * math.sin(angle) + down * math.cos(angle) + shape[0] / 2,
    )


def flat(grey: Grey, corners: Sequence[Corner], scale: float = 1.0) -> Grey:
    """The part of a picture within four corners (from the upper left, clockwise) as a rectangle, ``scale``
    times as large.

    Raises ValueError where the corners are not those of a part to be read.
    """
    one, two, three, four = (np.array(corner, dtype=float) for corner in corners)
    wide = max(np.hypot(*(two - one)), np.hypot(*(three - four))) * scale
    high = max(np.hypot(*(four - one)), np.hypot(*(three - two))) * scale
    if not _convex((one, two, three, four)) or min(wide, high) < 20:
        message = "these corners hold no table: drag them to its four corners"
        raise ValueError(message)
    square = np.array([(0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)])
    way = _homography(square, np.array([one, two, three, four]))
    down, across = np.mgrid[0 : round(high), 0 : round(wide)].astype(float)
    under = way[2, 0] * across + way[2, 1] * down + way[2, 2]
    from_across = (way[0, 0] * across + way[0, 1] * down + way[0, 2]) / under
    from_down = (way[1, 0] * across + way[1, 1] * down + way[1, 2]) / under
    found: Grey = ndimage.map_coordinates(
        grey, [from_down, from_across], order=1, mode="constant", cval=255.0
    )
    return found


def _convex(corners: Sequence[np.ndarray]) -> bool:
    """Whether four corners go round clockwise without crossing."""
    for place in range(4):
        before, here, after = (corners[(place + step) % 4] for step in range(3))
        one, two = here - before, after - here
        if one[0] * two[1] - one[1] * two[0] <= 0:
            return False
    return True


def _homography(source: np.ndarray, target: np.ndarray) -> np.ndarray:
    """The projective map that takes four points to four others: eight equations for its eight unknowns."""
    rows, right = [], []
    for (x, y), (u, v) in zip(source, target, strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y])
        right += [u, v]
    way = np.linalg.solve(np.array(rows, dtype=float), np.array(right, dtype=float))
    return np.append(way, 1.0).reshape(3, 3)
