"""A fringe of short strokes along a line or around a box, longer and denser the more there is of what it
stands for.

Geometry only, in the units of a picture's viewBox, y downward. A share is between 0 and 1.
"""

import math
import re
from collections.abc import Iterator

LEAST_SHARE = 0.01
"""Of less there is no fringe."""

SPACING, CLOSEST = 26.0, 5.0
"""Between strokes, at the least share and at the whole."""

SHORTEST, LONGEST = 3.0, 15.0
"""A stroke's length at the least share and at the whole."""

RAGGED = (1.0, 0.62, 0.86, 0.5)
"""How strokes beside each other differ in length."""

WIRE_HALF = 5.0
"""A wire is drawn so thick to either side."""

Span = tuple[float, float, float, float]
"""From x, y to x, y; level or upright."""


def spans(path: str) -> list[Span]:
    """The level and upright lines of a path of M, H and V with absolute numbers."""
    found, x, y = [], 0.0, 0.0
    for command, numbers in re.findall(r"([MHV])([^MHV]*)", path):
        given = [float(number) for number in numbers.split()]
        if command == "M":
            x, y = given
            continue
        to = (given[0], y) if command == "H" else (x, given[0])
        found.append((x, y, *to))
        x, y = to
    return found


def strokes(span: Span, share: float, *, both: bool, clear: float = 0.0) -> Iterator[Span]:
    """Short strokes square to a line, on its left as one walks along it, or on both sides in turn;
    ``clear`` of it."""
    if share < LEAST_SHARE:
        return
    x, y, to_x, to_y = span
    length = math.hypot(to_x - x, to_y - y)
    if length <= 0:
        return
    grown = math.sqrt(share)
    spacing = SPACING + (CLOSEST - SPACING) * grown
    count = max(1, int(length / spacing))
    along = ((to_x - x) / length, (to_y - y) / length)
    for number in range(count):
        at = length * (number + 0.5) / count
        side = -1.0 if both and number % 2 else 1.0
        long = clear + (SHORTEST + (LONGEST - SHORTEST) * grown) * RAGGED[number % len(RAGGED)]
        foot_x, foot_y = x + along[0] * at, y + along[1] * at
        out_x, out_y = along[1] * side, -along[0] * side
        yield (
            foot_x + out_x * clear,
            foot_y + out_y * clear,
            foot_x + out_x * long,
            foot_y + out_y * long,
        )


def along(path: str, share: float) -> str:
    """The fringe of a wire, on both sides of its path; empty where there is too little."""
    return _drawn(
        stroke for span in spans(path) for stroke in strokes(span, share, both=True, clear=WIRE_HALF)
    )


def around(x: float, y: float, width: float, height: float, share: float) -> str:
    """The fringe of a box, outward from its four sides; empty where there is too little."""
    right, bottom = x + width, y + height
    sides = ((x, y, right, y), (right, y, right, bottom), (right, bottom, x, bottom), (x, bottom, x, y))
    return _drawn(stroke for side in sides for stroke in strokes(side, share, both=False))


def _drawn(found: Iterator[Span]) -> str:
    return "".join(f"M{x:.1f} {y:.1f}L{to_x:.1f} {to_y:.1f}" for x, y, to_x, to_y in found)
