"""A run drawn: temperatures as bands from least to most, the bands they should keep to, what it did by its
watts as a rhythm below, gaps hatched.

Geometry only; a template draws it. Rows are drawn in so many bins: a page never draws a week's minutes.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.quantity import format_celsius
from frostcore.thermal.verdicts import Judged

Floats = npt.NDArray[np.float64]

WIDTH, HEIGHT = 640, 400
LEFT, RIGHT, TOP, BOTTOM = 78, 616, 12, 308
RHYTHM_TOP, RHYTHM_BOTTOM = 326, 356
BINS = 600


@dataclass(frozen=True)
class RunLine:
    """One temperature: its column's place in the list, what it is of, a path from least to most of each bin,
    and the last value in words."""

    number: int
    where: str
    path: str
    last: str


@dataclass(frozen=True)
class Keeps:
    """Between which levels a compartment is kept, on the picture."""

    number: int
    where: str
    top: float
    height: float


@dataclass(frozen=True)
class Beat:
    """A spell of running, standing, heating, or an unknown one."""

    state: str
    x: float
    width: float


@dataclass(frozen=True)
class RunPicture:
    """All of the picture."""

    lines: tuple[RunLine, ...]
    keeps: tuple[Keeps, ...]
    beats: tuple[Beat, ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    gaps: tuple[tuple[float, float], ...]
    words: str

    width, height = WIDTH, HEIGHT
    left, right, top, bottom = LEFT, RIGHT, TOP, BOTTOM
    inner = RIGHT - LEFT
    rhythm_top, rhythm_height = RHYTHM_TOP, RHYTHM_BOTTOM - RHYTHM_TOP


def run_picture(judged: Judged) -> RunPicture:
    """A judged run, drawn."""
    log = judged.log
    start, end = float(log.seconds[0]), float(log.seconds[-1])
    warm = [
        (number, column, values)
        for number, (column, values) in enumerate(zip(log.columns, log.values, strict=True))
        if column.quantity == "celsius" and not np.isnan(values).all()
    ]
    bands = [
        np.array([loop.cut_out, loop.cut_in])
        for loop in judged.plant.loops
        if loop.senses.partition(":")[2] in {column.where for _, column, _ in warm}
    ]
    low, high = _range([*(values for _, _, values in warm), *bands])

    def x(seconds: float) -> float:
        return LEFT + (RIGHT - LEFT) * (seconds - start) / max(end - start, 1.0)

    def y(celsius: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * (celsius - low) / (high - low)

    bins = np.clip(((log.seconds - start) / max(end - start, 1.0) * BINS).astype(int), 0, BINS - 1)
    lines = []
    for number, column, values in warm:
        known = values[~np.isnan(values)]
        last = float(known[-1])
        path = _band(bins, values, [x(start + (n + 0.5) * (end - start) / BINS) for n in range(BINS)], y)
        said = format_celsius(round(last, 1))
        lines.append(RunLine(number, column.where or column.head, path, said))
    shown = {column.where: number for number, column, _ in warm}
    keeps = []
    for loop in judged.plant.loops:
        node, _, place = loop.senses.partition(":")
        if node == "sensor" and place in shown:
            top = y(min(loop.cut_in, high))
            keeps.append(Keeps(shown[place], place, top, max(y(max(loop.cut_out, low)) - top, 1.0)))
    beats = []
    for spell in judged.spells:
        wide = max(x(spell.end) - x(spell.start), 0.4)
        beats.append(Beat("unknown" if spell.state == "?" else spell.state, x(spell.start), wide))
    return RunPicture(
        tuple(lines), tuple(keeps), tuple(beats), _hours(start, end, x), _degrees(low, high, y),
        tuple((x(one), x(other) - x(one)) for one, other in log.gaps), _said(lines, judged),
    )  # fmt: skip


def _said(lines: list[RunLine], judged: Judged) -> str:
    """The picture in words."""
    rows = [f"{line.where} last {line.last}" for line in lines]
    return f"Temperatures over {judged.log.hours:.1f} hours: {', '.join(rows)}"


def _range(values: list[Floats]) -> tuple[float, float]:
    if not values:
        return -20.0, 10.0
    low = min(float(np.nanmin(each)) for each in values)
    high = max(float(np.nanmax(each)) for each in values)
    room = max(1.0, 0.06 * (high - low))
    return low - room, high + room


def _band(bins: npt.NDArray[np.int_], values: Floats, at: list[float], y: Callable[[float], float]) -> str:
    """From least to most of each bin there, and back: one area a stretch."""
    good = ~np.isnan(values)
    mine = bins[good]
    there, begins = np.unique(mine, return_index=True)  # rows rise, and so do their bins
    least, most = np.zeros(BINS), np.zeros(BINS)
    least[there] = np.minimum.reduceat(values[good], begins)
    most[there] = np.maximum.reduceat(values[good], begins)
    pieces = np.split(there, np.flatnonzero(np.diff(there) > max(3, BINS // 60)) + 1)
    paths = []
    for piece in pieces:
        if len(piece):
            upper = [f"{at[n]:.1f} {y(float(most[n])) - 0.6:.1f}" for n in piece]
            lower = [f"{at[n]:.1f} {y(float(least[n])) + 0.6:.1f}" for n in piece[::-1]]
            paths.append("M" + "L".join([*upper, *lower]) + "Z")
    return "".join(paths)


def _hours(start: float, end: float, x: Callable[[float], float]) -> tuple[tuple[float, str], ...]:
    hours = (end - start) / 3600.0
    step = next((each for each in (0.25, 0.5, 1, 2, 3, 6, 12, 24, 48) if hours / each <= 6), 96)
    found = []
    for number in range(int(hours / step) + 1):
        at = number * step
        label = f"{at:g} h" if at < 48 or step < 24 else f"{at / 24:g} d"
        found.append((x(start + at * 3600.0), label))
    return tuple(found)


def _degrees(low: float, high: float, y: Callable[[float], float]) -> tuple[tuple[float, str], ...]:
    step = next((each for each in (1, 2, 5, 10, 20) if (high - low) / each <= 8), 50)
    first = int(np.ceil(low / step)) * step
    return tuple((y(float(at)), format_celsius(float(at))) for at in range(first, int(high) + 1, step))
