"""A run's figures as rows of a table."""

from collections.abc import Callable, Sequence

from frostcore.quantity import format_celsius
from frostcore.thermal.figures import Figures, RoomFigures
from frostcore.thermal.verdicts import STANDS_WORDS, Stands

Row = tuple[str, list[str]]
Group = tuple[str, list[Row]]

Held = tuple[tuple[str, Stands, str], ...]
"""Whether each compartment is where it should be: place, how that stands, a sentence."""

NONE = "–"


def figure_rows(columns: Sequence[tuple[Figures, Held]], names: dict[str, str]) -> list[Group]:
    """Compartment by compartment and then of the whole: a row a figure, a cell a column; rows that no column
    knows are left out."""
    groups: list[Group] = []
    found = [each for each, _ in columns]
    for place in dict.fromkeys(room.place for each in found for room in each.rooms):
        rows = [
            (words, [show(room) if (room := each.room(place)) else NONE for each in found])
            for words, show in OF_ROOM
        ]
        rows.append(("As it should be", [_held(held, place) for _, held in columns]))
        groups.append((names.get(place, place), rows))
    groups.append(("By its watts", [(words, [show(each) for each in found]) for words, show in OF_UNIT]))
    known = [(name, [row for row in rows if any(cell != NONE for cell in row[1])]) for name, rows in groups]
    return [(name, rows) for name, rows in known if rows]


def _held(held: Held, place: str) -> str:
    return next((STANDS_WORDS[stands][0] for of, stands, _ in held if of == place), NONE)


def _warm(value: float | None) -> str:
    return NONE if value is None else format_celsius(round(value, 1))


def _number(value: float | None, form: str, unit: str) -> str:
    return NONE if value is None else f"{value:{form}}{unit}"


OF_ROOM: tuple[tuple[str, Callable[[RoomFigures], str]], ...] = (
    ("Mean", lambda room: _warm(room.mean)),
    ("Least to most", lambda room: f"{_warm(room.low).removesuffix(' °C')} to {_warm(room.high)}"),
    ("Cuts in", lambda room: _warm(room.cut_in)),
    ("Cuts out", lambda room: _warm(room.cut_out)),
)
OF_UNIT: tuple[tuple[str, Callable[[Figures], str]], ...] = (
    ("Runs of the time", lambda each: _number(each.duty, ".0%", "")),
    ("Starts a day", lambda each: _number(each.starts, ".0f", "")),
    ("A run", lambda each: _number(each.minutes, ".0f", " min")),
    ("Watts while it runs", lambda each: _number(each.watts, ".0f", " W")),
    ("Energy a day", lambda each: _number(each.kwh, ".2f", " kWh")),
    ("Defrosts", lambda each: _number(each.heats, "d", "")),
    ("Heater, mean", lambda each: _number(each.heater_minutes, ".0f", " min")),
)
