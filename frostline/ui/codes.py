"""Square codes that a telephone's camera reads, as a path for a picture."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

import segno

QUIET = 2
"""Modules left white around it."""


@dataclass(frozen=True)
class SquareCode:
    """A code ``size`` modules wide with its white edge; ``path`` goes round the dark ones, in modules."""

    size: int
    path: str


def code_of(address: str) -> SquareCode:
    """An address as a square code."""
    rows = list(segno.make(address, error="m", micro=False).matrix_iter(border=QUIET))
    return SquareCode(len(rows), "".join(_runs(y, row) for y, row in enumerate(rows)))


def _runs(y: int, row: Iterable[int]) -> str:
    """The dark runs of a row, each a rectangle."""
    found = []
    for dark, run in groupby(enumerate(row), key=lambda each: bool(each[1])):
        xs = [x for x, _ in run]
        if dark:
            found.append(f"M{xs[0]} {y}h{len(xs)}v1h-{len(xs)}z")
    return "".join(found)
