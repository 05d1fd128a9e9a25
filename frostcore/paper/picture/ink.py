"""What of a picture is ink: its shade taken away, and whether enough is left to read."""

import numpy as np
import numpy.typing as npt
from scipy import ndimage

Grey = npt.NDArray[np.float64]
"""A picture: rows by columns, 0 black to 255 white."""

Marks = npt.NDArray[np.bool_]
"""Which points of a picture are something."""

AROUND = 41
"""Points across which a paper's own white is sought: wider than any stroke, narrower than any shadow."""

INK = 0.78
"""What is darker than this share of the paper around it is ink."""

LEAST_CONTRAST = 0.28
"""By what share print must be darker than its paper to be read: half of what a copy of a copy still has."""


def levelled(grey: Grey) -> Grey:
    """The picture with its paper white throughout: shadows and stains of a hand's width taken away."""
    small = grey[::4, ::4]
    paper = ndimage.percentile_filter(small, 85, size=AROUND // 3)
    paper = ndimage.uniform_filter(paper, 5)
    whole = np.kron(paper, np.ones((4, 4)))[: grey.shape[0], : grey.shape[1]]
    level: Grey = np.clip(grey / np.maximum(whole, 1.0), 0.0, 1.0) * 255.0
    return level


def ink_of(level: Grey) -> Marks:
    """Which points of a levelled picture are ink."""
    return level < INK * 255.0


def contrast(level: Grey) -> float:
    """By what share the print of a levelled picture is darker than its paper; 0 where nothing is printed."""
    marks = ink_of(level)
    if marks.mean() < 1e-4:
        return 0.0
    return float(1.0 - np.percentile(level[marks], 40) / 255.0)


def spread(marks: Marks, high: int, wide: int) -> Marks:
    """Marks made larger by half of ``high`` up and down, half of ``wide`` to both sides (odd numbers)."""
    found = marks.view(np.uint8)
    for size, axis in ((high, 0), (wide, 1)):
        if size > 1:
            found = ndimage.maximum_filter1d(found, size, axis=axis, mode="constant")
    return found.astype(bool)


def runs(marks: Marks, long: int, axis: int) -> Marks:
    """The marks that stand in unbroken runs at least so long along an axis."""
    size = long | 1
    short = ndimage.minimum_filter1d(marks.view(np.uint8), size, axis=axis, mode="constant")
    found: Marks = ndimage.maximum_filter1d(short, size, axis=axis, mode="constant").astype(bool)
    return found
