"""A logger's file: any columns, clocks and units, recognised and said before it counts.

Nothing is sorted and nothing is made up: rows are taken in their order, what can't be a reading is none, a
clock that goes back is followed with a step, and each is said with its row.
"""

import csv
import io
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from functools import partial
from typing import Literal

import numpy as np
import numpy.typing as npt

from frostcore.errors import FrostError

Floats = npt.NDArray[np.float64]
Quantity = Literal["celsius", "watts"]

MOST_ROWS = 2_000_000
MOST_SAID = 40
"""So many things are said of a file, each with its row; of the others how many there are."""

TELL = 20_000
"""After so many rows each it is told how far a file has been read."""

GAP_SECONDS, GAP_STEPS = 900.0, 5.0
"""Nothing for longer than this and for more than so many steps is a gap."""

SENTINELS = (-127.0, 85.0, 999.0, -999.0, 9999.0, -273.15)
"""What sensors and loggers write for no reading: an exact such value that stands alone is none."""

BEYOND = {"celsius": (-80.0, 150.0), "watts": (-20.0, 20e3)}
"""Beyond these nothing a refrigerator's logger shows is a reading."""


@dataclass(frozen=True)
class Column:
    """A column of figures: its head, what it measures, whether it was °F, and what it is of (a compartment's
    or an evaporator's id, ``room``, ``plug``, or nothing known)."""

    head: str
    quantity: Quantity
    fahrenheit: bool
    where: str = ""


@dataclass(frozen=True)
class Said:
    """Something about the file: its row (0 for all of it), what was found, what was done."""

    row: int
    what: str
    done: str

    @property
    def words(self) -> str:
        """Both, with the row."""
        return f"Row {self.row}: {self.what}; {self.done}." if self.row else f"{self.what}; {self.done}."


@dataclass(frozen=True, eq=False)
class Log:
    """What was read: seconds since :attr:`begins` (rising), a column each of values (NaN where none)."""

    begins: datetime
    seconds: Floats
    columns: tuple[Column, ...]
    values: Floats
    """Columns × rows, in °C and W."""
    said: tuple[Said, ...] = ()

    @property
    def step(self) -> float:
        """The usual time between rows, in s."""
        return float(np.median(np.diff(self.seconds))) if len(self.seconds) > 1 else 60.0

    @property
    def gaps(self) -> tuple[tuple[float, float], ...]:
        """Stretches without rows (s)."""
        apart = np.diff(self.seconds)
        where = np.flatnonzero(apart > max(GAP_SECONDS, GAP_STEPS * self.step))
        return tuple((float(self.seconds[at]), float(self.seconds[at + 1])) for at in where)

    @property
    def hours(self) -> float:
        """How long it is."""
        return float(self.seconds[-1] - self.seconds[0]) / 3600.0 if len(self.seconds) else 0.0

    def between(self, start: float, end: float) -> "Log":
        """Its rows from one moment to another (s), by the same clock; what was said of them all is left
        out."""
        at = (self.seconds >= start) & (self.seconds <= end)
        return Log(self.begins, self.seconds[at], self.columns, self.values[:, at])

    def of(self, quantity: Quantity, where: str) -> Floats | None:
        """The values of what is measured somewhere, of several thermometers in one compartment their mean;
        None where no column is of it."""
        found = self.each(quantity, where)
        if len(found) < 2:
            return found[0] if found else None
        rows = np.array(found)
        known = ~np.isnan(rows)
        number = known.sum(axis=0)
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(np.where(number > 0, np.where(known, rows, 0.0).sum(axis=0) / number, np.nan))

    def each(self, quantity: Quantity, where: str) -> list[Floats]:
        """The columns that measure something somewhere."""
        return [
            np.asarray(values)
            for column, values in zip(self.columns, self.values, strict=True)
            if column.quantity == quantity and column.where == where
        ]

    def named(self, places: Iterable[str], coils: Iterable[str]) -> "Log":
        """With each column of what its head says among some compartments and evaporators; watts are the
        plug's."""
        rooms, faces = tuple(places), tuple(coils)
        columns = tuple(
            replace(each, where="plug" if each.quantity == "watts" else place_of(each.head, rooms, faces))
            for each in self.columns
        )
        return replace(self, columns=columns)

    def placed(self, places: dict[str, str]) -> "Log":
        """With columns (by head) said to be of other places; ``-`` leaves one out. FrostError for a head
        that it hasn't."""
        heads = [column.head for column in self.columns]
        for head in places:
            if head not in heads:
                message = f"There is no column “{head}”; there are {', '.join(heads)}."
                raise FrostError(message)
        columns = [
            Column(each.head, each.quantity, each.fahrenheit, places.get(each.head, each.where))
            for each in self.columns
        ]
        kept = [number for number, each in enumerate(columns) if each.where != "-"]
        return Log(self.begins, self.seconds, tuple(columns[n] for n in kept), self.values[kept], self.said)


# Clocks.

_DAY_FIRST = re.compile(r"^(\d{1,2})[./-](\d{1,2})[./-](\d{2,4})(?:[ T,]+(.*))?$")
_HOURS = re.compile(r"^(\d{1,3}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?(?:\s*([ap])\.?m\.?)?$", re.IGNORECASE)
_BARE = re.compile(r"^\d+(?:[.,]\d+)?$")
_EPOCH = datetime(2026, 1, 1)  # noqa: DTZ001 -- a logger's clock has no zone
_UNITS = {"s": 1.0, "sec": 1.0, "second": 1.0, "min": 60.0, "minute": 60.0, "h": 3600.0, "hour": 3600.0}


def _clock_time(text: str) -> timedelta | None:
    found = _HOURS.match(text.strip())
    if not found:
        return None
    hours, minutes = int(found[1]), int(found[2])
    seconds = float((found[3] or "0").replace(",", "."))
    half = (found[4] or "").lower()
    if half:
        hours = hours % 12 + (12 if half == "p" else 0)
    return timedelta(hours=hours, minutes=minutes, seconds=seconds)


def _time_of_day(text: str) -> datetime | None:
    time = _clock_time(text)
    return None if time is None else _EPOCH + time


def _moment(text: str, *, month_first: bool) -> datetime | None:
    """A cell that is a date with its time; None where it is none."""
    text = text.strip()
    try:
        return datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        pass
    found = _DAY_FIRST.match(text)
    if not found:
        return None
    one, other, year = int(found[1]), int(found[2]), int(found[3])
    day, month = (other, one) if month_first else (one, other)
    time = _clock_time(found[4]) if found[4] else timedelta()
    try:
        return datetime(year + 2000 if year < 100 else year, month, day) + time if time is not None else None  # noqa: DTZ001
    except ValueError:
        return None


def _reader(head: str, cells: Sequence[str]) -> Callable[[str], datetime | None] | None:
    """What reads a column as its clock; None where it is none."""
    some = [cell for cell in cells[:200] if cell.strip()]
    if not some:
        return None
    month_first = any((found := _DAY_FIRST.match(cell.strip())) and int(found[2]) > 12 for cell in some)
    if sum(_moment(cell, month_first=month_first) is not None for cell in some) > 0.7 * len(some):
        return lambda text: _moment(text, month_first=month_first)
    if sum(_clock_time(cell) is not None for cell in some) > 0.7 * len(some):
        return _time_of_day
    word = re.search(r"(?:^|[^a-z])(s|sec|second|min|minute|h|hour)s?(?:[^a-z]|$)", head.lower())
    timed = re.search(r"time|clock|elapsed|seconds?|minutes?|hours?", head.lower())
    if (word or timed) and sum(bool(_BARE.match(cell.strip())) for cell in some) > 0.7 * len(some):
        scale = _UNITS[word[1]] if word else 1.0
        return lambda text: (
            _EPOCH + timedelta(seconds=scale * float(text.strip().replace(",", ".")))
            if _BARE.match(text.strip())
            else None
        )
    return None


# Cells.


def _grid(text: str) -> list[list[str]]:
    """The cells of a file, whatever parts them."""
    lines = text[:4000].splitlines()[:40]
    marks = max(
        ";\t|,",
        key=lambda mark: (
            sum(line.count(mark) > 0 for line in lines) * 100
            + sum(line.count(mark) for line in lines) * (0.5 if mark == "," else 1.0)
        ),
    )
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=marks))
    except csv.Error as error:
        message = f"This is no CSV ({error}); save it anew as CSV."
        raise FrostError(message) from None
    return rows


def _figure(cell: str) -> float | None:
    """A cell's figure with its unit cut off; None where it holds none."""
    if cell.replace(".", "", 1).lstrip("-").isdecimal() and cell.isascii():
        return float(cell)
    text = cell.strip().replace("\u2212", "-").replace(" ", "")
    found = re.fullmatch(r"([-+]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?)(?:°?[CFcf]|[kK]?[wW])?", text)
    return float(found[1].replace(",", ".")) if found else None


def _quantity(head: str) -> tuple[Quantity, bool]:
    """What a head says it measures, and whether in °F."""
    low = head.lower()
    watts = re.search(r"watt|power|leistung|(?:^|[\s\[(_/])w(?:[\s\])]|$)", low)
    fahrenheit = re.search(r"fahrenheit|°\s*f|deg\s*f|(?:^|[\s\[(_/])f(?:[\s\])]|$)", low)
    return ("watts" if watts else "celsius"), bool(fahrenheit) and not watts


WORDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("coil", ("coil", "evaporator", "plate", "verdampfer")),
    ("room", ("room", "ambient", "outside", "kitchen", "raum")),
    ("freezer", ("freez", "gefrier", "frozen")),
    ("fridge", ("fridge", "fresh", "refrig", "kühl", "kuehl")),
    ("upper", ("upper", "top")),
    ("lower", ("lower", "bottom")),
    ("cabinet", ("cabinet", "wine", "cellar")),
)
"""Words in a head, and what they mean."""


def place_of(head: str, places: Iterable[str], coils: Iterable[str]) -> str:
    """What a head is of among some compartments and evaporators, ``room`` too; nothing where it doesn't
    say."""
    low = head.lower()
    meant = [name for name, words in WORDS if any(word in low for word in words)]
    if "room" in meant:
        return "room"
    rooms, faces = list(places), list(coils)
    if "coil" in meant:
        if len(faces) == 1:
            return f"coil:{faces[0]}"
        return next((f"coil:{face}" for face in faces for name in meant[1:] if name in face), "")
    for place in rooms:
        if place.replace("_", " ") in low or place in low or any(name in place for name in meant):
            return place
    return rooms[0] if len(rooms) == 1 and meant else ""


@dataclass
class _Reading:
    """A file while it is read."""

    said: list[Said] = field(default_factory=list)
    more: int = 0

    def say(self, row: int, what: str, done: str) -> None:
        if len(self.said) < MOST_SAID:
            self.said.append(Said(row, what, done))
        else:
            self.more += 1


Told = Callable[[float], None]
"""Is told by and by which share of a file has been read."""


def _nobody(share: float) -> None:
    """Nobody waits."""


def read_log(text: str, places: Iterable[str] = (), coils: Iterable[str] = (), told: Told = _nobody) -> Log:
    """A logger's file: its clock, its columns, its rows.

    ``places`` and ``coils`` are the unit's compartments and evaporators, which heads may name. FrostError
    where there is no clock or no figure in it, or more rows than :data:`MOST_ROWS`.
    """
    rows = _grid(text.lstrip("\ufeff"))
    if len(rows) > MOST_ROWS:
        message = f"{len(rows):,} rows are more than {MOST_ROWS:,}; cut the file by days."
        raise FrostError(message)
    top = _top(rows)
    heads, body = _named(rows[top]), rows[top + 1 :]
    state = _Reading()
    _one_unit(heads, body)
    clock, used = _clock(heads, body)
    figures = [number for number in range(len(heads)) if number not in used and _mostly_figures(body, number)]
    if not figures:
        raise FrostError("No column holds figures: a log has a clock and at least one temperature or watts.")
    told(0.15)
    seconds, kept, begins = _rows(state, body, clock, used, top, told)
    rows_kept = [body[row] for row in kept]
    found = []
    for number in figures:
        found.append(_column(state, rows_kept, number, heads[number], kept, top))
        told(0.6 + 0.4 * len(found) / len(figures))
    values = np.array(found)
    columns = []
    for at, number in enumerate(figures):
        quantity, fahrenheit = _quantity(heads[number])
        if fahrenheit:
            values[at] = (values[at] - 32) / 1.8
        columns.append(Column(heads[number], quantity, fahrenheit))
    if state.more:
        state.said.append(Said(0, f"{state.more} more such rows", "done likewise"))
    log = Log(begins, seconds, tuple(columns), values, tuple(state.said)).named(places, coils)
    gaps = [
        Said(0, f"Nothing from {_hours(start)} to {_hours(end)}", "no cycle counts across it")
        for start, end in log.gaps
    ]
    return replace(log, said=(*state.said, *gaps))


def _named(cells: Sequence[str]) -> list[str]:
    """The heads, each of its own: one without a name is called by its place, a second of a name by its
    number."""
    found = list[str]()
    for number, cell in enumerate(cells, 1):
        name = " ".join(cell.split())[:60] or f"column {number}"
        again = sum(each == name or each.startswith(f"{name} (") for each in found)
        found.append(f"{name} ({again + 1})" if again else name)
    return found


def _hours(seconds: float) -> str:
    return f"{int(seconds // 3600)}:{int(seconds % 3600 // 60):02d} h"


def _top(rows: Sequence[Sequence[str]]) -> int:
    """The row of the heads: the first whose next row has a figure or a moment in every second cell, and which
    has words itself."""
    for number, row in enumerate(rows[:60]):
        words = [cell for cell in row if cell.strip()]
        following = rows[number + 1] if number + 1 < len(rows) else []
        values = [cell for cell in following if cell.strip()]
        likely = sum(
            _figure(cell) is not None or _moment(cell, month_first=False) is not None for cell in values
        )
        named = all(_figure(cell) is None and _moment(cell, month_first=False) is None for cell in words)
        if named and len(words) > 1 and len(values) > 1 and likely * 2 >= len(values):
            return number
    raise FrostError(
        "No row of heads was found: the first row names the columns, such as time, fridge °C, watts."
    )


def _one_unit(heads: Sequence[str], body: Sequence[Sequence[str]]) -> None:
    """FrostError where a column names more than one device."""
    for number, head in enumerate(heads):
        if re.search(r"serial|device|logger id|unit id|^unit$", head.lower()):
            names = {row[number].strip() for row in body if len(row) > number and row[number].strip()}
            if len(names) > 1:
                some = ", ".join(sorted(names)[:3])
                message = f"The file holds {len(names)} devices by “{head}” ({some}); give one device’s rows."
                raise FrostError(message)


def _clock(
    heads: Sequence[str], body: Sequence[Sequence[str]]
) -> tuple[Callable[[Sequence[str]], datetime | None], tuple[int, ...]]:
    """What reads a row's moment, and the columns that takes: a date and a time apart, else one column."""
    cells = {number: [row[number] for row in body[:200] if len(row) > number] for number in range(len(heads))}
    apart = _apart(heads, cells)
    if apart:
        return apart
    for number, some in cells.items():
        reader = _reader(heads[number], some)
        if reader:
            return partial(_one, reader, number), (number,)
    raise FrostError(
        "No column is a clock: dates with times, times, or seconds since the start (head: “seconds”)."
    )


def _one(reader: Callable[[str], datetime | None], number: int, row: Sequence[str]) -> datetime | None:
    return reader(row[number]) if len(row) > number else None


def _apart(
    heads: Sequence[str], cells: dict[int, list[str]]
) -> tuple[Callable[[Sequence[str]], datetime | None], tuple[int, ...]] | None:
    dates = [number for number in cells if re.search(r"date|datum", heads[number].lower())]
    times = [
        number
        for number, some in cells.items()
        if re.search(r"time|zeit|clock", heads[number].lower())
        and all(_clock_time(cell) is not None for cell in some[:20])
    ]
    for date in dates:
        day = _reader(heads[date], cells[date])
        for time in times:
            if day and time != date:
                return partial(_both, day, date, time), (date, time)
    return None


def _both(day: Callable[[str], datetime | None], date: int, time: int, row: Sequence[str]) -> datetime | None:
    moment, part = day(row[date]), _clock_time(row[time])
    return None if moment is None or part is None else moment + part


def _mostly_figures(body: Sequence[Sequence[str]], number: int) -> bool:
    some = [row[number] for row in body[:400] if len(row) > number and row[number].strip()]
    return bool(some) and sum(_figure(cell) is not None for cell in some) >= 0.5 * len(some)


def _rows(
    state: _Reading,
    body: Sequence[Sequence[str]],
    clock: Callable[[Sequence[str]], datetime | None],
    used: tuple[int, ...],
    top: int,
    told: Told,
) -> tuple[Floats, list[int], datetime]:
    """The seconds of the rows that count, in their order, and which they are."""
    begins: datetime | None = None
    seconds, kept = list[float](), list[int]()
    seen = set[tuple[str, ...]]()
    offset, step = 0.0, 60.0
    for number, row in enumerate(body):
        if number % TELL == 0:
            told(0.15 + 0.45 * number / len(body))
        if not any(cell.strip() for cell in row):
            continue
        moment = clock(row) if len(row) > max(used) else None
        at = number + top + 2
        if moment is None:
            state.say(at, "its moment can't be read", "left out")
            continue
        if begins is None:
            begins = moment
        raw = (moment - begins).total_seconds()
        now = raw + offset
        if seconds and now <= seconds[-1]:
            if tuple(row) in seen:
                state.say(at, "the same row stands before", "counted once")
                continue
            late = seconds[-1] - now
            offset += late + step
            now = raw + offset
            behind = f"{late / 60:.0f} min behind" if late else "the same as"
            state.say(at, f"its clock is {behind} the row before’s", "taken a step after it")
        elif len(seconds) > 1 and len(seconds) < 50:
            step = float(np.median(np.diff(seconds)))
        seen.add(tuple(row))
        seconds.append(now)
        kept.append(number)
    if begins is None or len(seconds) < 2:
        raise FrostError("Fewer than two rows have a moment that can be read.")
    return np.array(seconds), kept, begins


def _column(
    state: _Reading, rows: Sequence[Sequence[str]], number: int, head: str, kept: Sequence[int], top: int
) -> Floats:
    """A column's values; NaN for what is no reading."""
    quantity, fahrenheit = _quantity(head)
    low, high = BEYOND[quantity]
    found = np.full(len(rows), np.nan)
    for place, row in enumerate(rows):
        cell = row[number] if len(row) > number else ""
        if not cell.strip():
            continue
        value = _figure(cell)
        celsius = value if value is None or not fahrenheit else (value - 32) / 1.8
        if celsius is None or not low <= celsius <= high:
            state.say(
                kept[place] + top + 2, f"“{cell.strip()[:20]}” under “{head}” is no reading", "left empty"
            )
            continue
        found[place] = value
    if quantity == "celsius" and not fahrenheit:
        alone = np.isin(found, SENTINELS) & (np.abs(found - np.nanmedian(found)) > 25.0)
        for place in np.flatnonzero(alone).tolist():
            state.say(
                kept[place] + top + 2,
                f"{found[place]:g} under “{head}” is what a lost sensor shows",
                "left empty",
            )
        found[alone] = np.nan
    return found
