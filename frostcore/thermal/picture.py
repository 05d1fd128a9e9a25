"""A run drawn: temperatures as bands from least to most, the bands they should keep to, what it did by its
watts as a rhythm below, gaps hatched.

Geometry only; a template draws it. Rows are drawn in so many bins: a page never draws a week's minutes.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.quantity import format_celsius
from frostcore.thermal.forecast import SAID_NEVER, Forecast
from frostcore.thermal.log import Column, Log
from frostcore.thermal.verdicts import Judged

Floats = npt.NDArray[np.float64]

WIDTH, HEIGHT = 640, 400
LEFT, RIGHT, TOP, BOTTOM = 78, 616, 12, 308
RHYTHM_TOP, RHYTHM_BOTTOM = 326, 356
BINS = 600

MOST_AHEAD = 24 * 3600.0
"""So far beyond the last row a forecast is drawn, s."""

Along = Callable[[float], float]


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
class Flag:
    """A setting on the way: its number, where, when and what in words."""

    number: int
    x: float
    when: str
    words: str


@dataclass(frozen=True)
class Fan:
    """How a temperature will go on: between which ways with four in five, and the middle one, as paths."""

    number: int
    area: str
    middle: str


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
    flags: tuple[Flag, ...] = ()
    fans: tuple[Fan, ...] = ()
    before: tuple[RunLine, ...] = ()
    """Another run's, of the same places."""

    width, height = WIDTH, HEIGHT
    left, right, top, bottom = LEFT, RIGHT, TOP, BOTTOM
    inner = RIGHT - LEFT
    rhythm_top, rhythm_height = RHYTHM_TOP, RHYTHM_BOTTOM - RHYTHM_TOP


def run_picture(
    judged: Judged, *, coming: Sequence[Forecast] = (), beside: Judged | None = None
) -> RunPicture:
    """A judged run, drawn; with how it will go on, and with another run beside it from its first row on."""
    log = judged.log
    start, end = float(log.seconds[0]), float(log.seconds[-1])
    since = float(judged.last.log.seconds[0])
    fans = [each for each in coming if each.shape and not each.there and each.never < SAID_NEVER]
    last = max([end, *(min(since + each.high * 60.0, end + MOST_AHEAD) for each in fans)])
    warm = _warm(log)
    other = [] if beside is None else _aligned(beside.log, start, last, {each.where for _, each, _ in warm})
    bands = [
        np.array([loop.cut_out, loop.cut_in])
        for loop in judged.last.plant.loops
        if loop.senses.partition(":")[2] in {column.where for _, column, _ in warm}
    ]
    low, high = _range([*(values for _, _, values in warm), *(values[1] for _, _, values in other), *bands])

    def x(seconds: float) -> float:
        return LEFT + (RIGHT - LEFT) * (seconds - start) / max(last - start, 1.0)

    def y(celsius: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * (celsius - low) / (high - low)

    lines = _lines(warm, log.seconds, x, y)
    shown = {column.where: number for number, column, _ in warm}
    before = []
    for _, column, values in other:
        path = _band(_bins(values[0], x), values[1], y)
        before.append(RunLine(shown[column.where], column.where, path, ""))
    keeps = []
    for loop in judged.last.plant.loops:
        node, _, place = loop.senses.partition(":")
        if node == "sensor" and place in shown and place not in judged.last.unknown:
            top = y(min(loop.cut_in, high))
            keeps.append(Keeps(shown[place], place, top, max(y(max(loop.cut_out, low)) - top, 1.0)))
    beats = []
    for spell in judged.spells:
        wide = max(x(spell.end) - x(spell.start), 0.4)
        beats.append(Beat("unknown" if spell.state == "?" else spell.state, x(spell.start), wide))
    return RunPicture(
        tuple(lines), tuple(keeps), tuple(beats), _hours(start, last, x), _degrees(low, high, y),
        tuple((x(one), x(another) - x(one)) for one, another in log.gaps), _said(lines, judged),
        _flags(judged, start, end, x),
        tuple(_fan(each, shown[each.place], since, last, x, y) for each in fans if each.place in shown),
        tuple(before),
    )  # fmt: skip


Placed = tuple[int, Column, Floats]


def _warm(log: Log) -> list[Placed]:
    """The columns of temperatures that hold any."""
    return [
        (number, column, values)
        for number, (column, values) in enumerate(zip(log.columns, log.values, strict=True))
        if column.quantity == "celsius" and not np.isnan(values).all()
    ]


def _aligned(log: Log, start: float, last: float, places: set[str]) -> list[Placed]:
    """Another run's temperatures of the same places, from the same first row on and as far as the picture
    goes: moments and values."""
    seconds = log.seconds - log.seconds[0] + start
    there = seconds <= last
    return [
        (number, column, np.array([seconds[there], values[there]]))
        for number, column, values in _warm(log)
        if column.where in places and not np.isnan(values[there]).all()
    ]


def _lines(warm: list[Placed], seconds: Floats, x: Along, y: Along) -> list[RunLine]:
    bins = _bins(seconds, x)
    found = []
    for number, column, values in warm:
        last = float(values[~np.isnan(values)][-1])
        path = _band(bins, values, y)
        found.append(RunLine(number, column.where or column.head, path, format_celsius(round(last, 1))))
    return found


def _fan(one: Forecast, number: int, since: float, last: float, x: Along, y: Along) -> Fan:
    """Between the soonest and the latest way down, and the middle one, as far as the picture goes."""

    def points(way: list[tuple[float, float]]) -> list[str]:
        kept = [(since + minute * 60.0, celsius) for minute, celsius in way]
        return [f"{x(at):.1f} {y(celsius):.1f}" for at, celsius in kept if at <= last + 1.0]

    soon, late = points(one.way(one.low)), points(one.way(min(one.high, (last - since) / 60.0)))
    end = f"{x(min(since + one.high * 60.0, last)):.1f} {y(one.target):.1f}"
    area = "M" + "L".join([*soon, end, *late[::-1]]) + "Z"
    return Fan(number, area, "M" + "L".join(points(one.way(one.median))))


def _flags(judged: Judged, start: float, end: float, x: Along) -> tuple[Flag, ...]:
    """The settings as flags, in their order; one beyond the last row stands at the end."""
    return tuple(
        Flag(number, x(min(max(each.at, start), end)), _hours_of(each.at), each.words)
        for number, each in enumerate(judged.settings, 1)
    )


def _hours_of(seconds: float) -> str:
    return f"{int(seconds // 3600)}:{round(seconds % 3600 / 60) % 60:02d} h"


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


def _bins(seconds: Floats, x: Along) -> npt.NDArray[np.int_]:
    """The bin of each moment: even shares of the picture's width."""
    ends = np.array([x(float(seconds[0])), x(float(seconds[-1]))])
    wide = np.interp(seconds, [seconds[0], max(seconds[-1], seconds[0] + 1e-9)], ends)
    return np.asarray(np.clip(((wide - LEFT) / (RIGHT - LEFT) * BINS).astype(int), 0, BINS - 1))


def _band(bins: npt.NDArray[np.int_], values: Floats, y: Along) -> str:
    """From least to most of each bin there, and back: one area a stretch."""
    good = ~np.isnan(values)
    if not good.any():
        return ""
    there, begins = np.unique(bins[good], return_index=True)  # rows rise, and so do their bins
    least, most = np.zeros(BINS), np.zeros(BINS)
    least[there] = np.minimum.reduceat(values[good], begins)
    most[there] = np.maximum.reduceat(values[good], begins)
    pieces = np.split(there, np.flatnonzero(np.diff(there) > max(3, BINS // 60)) + 1)
    at = [LEFT + (n + 0.5) * (RIGHT - LEFT) / BINS for n in range(BINS)]
    paths = []
    for piece in pieces:
        if len(piece):
            upper = [f"{at[n]:.1f} {y(float(most[n])) - 0.6:.1f}" for n in piece]
            lower = [f"{at[n]:.1f} {y(float(least[n])) + 0.6:.1f}" for n in piece[::-1]]
            paths.append("M" + "L".join([*upper, *lower]) + "Z")
    return "".join(paths)


def _hours(start: float, end: float, x: Along) -> tuple[tuple[float, str], ...]:
    hours = (end - start) / 3600.0
    step = next((each for each in (0.25, 0.5, 1, 2, 3, 6, 12, 24, 48) if hours / each <= 6), 96)
    found = []
    for number in range(int(hours / step) + 1):
        at = number * step
        label = f"{at:g} h" if at < 48 or step < 24 else f"{at / 24:g} d"
        found.append((x(start + at * 3600.0), label))
    return tuple(found)


def _degrees(low: float, high: float, y: Along) -> tuple[tuple[float, str], ...]:
    step = next((each for each in (1, 2, 5, 10, 20) if (high - low) / each <= 8), 50)
    first = int(np.ceil(low / step)) * step
    return tuple((y(float(at)), format_celsius(float(at))) for at in range(first, int(high) + 1, step))
