"""Connector tables: plug, pin, colour, label, what the wire goes to; and the board's plugs that follow.

A kind of unit has a plug of its own for each function. A row of a paper says which of those functions a pin
is: the pin then moves to the plug that the paper prints, and what is not told stays where it is.
"""

import re
from collections.abc import Sequence
from typing import Any

from frostcore import document as documents
from frostcore.paper.colours import SYSTEMS, decide, read
from frostcore.paper.rows import Column, Document, Notes, Row, Section, cell, empty, source_of, sourced
from frostcore.sheet.facts import PIN_PARTS
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import purpose, where_at
from frostcore.sheet.words import folded, tokens

NO_PIN = {"-", "–", "—", "n.c.", "nc", "n/c", "leer", "frei"}
"""Cells that mean an empty pin."""

_RETURN = re.compile(
    r"^(?:neutral|neutro|0\s?v|com|-|ret|earth)\b|(?:^|[-/ ])n\b|[-]$|\bgnd\b|\breturn\b|masse"
)
_SPEED_COMMAND = re.compile(r"pwm|speed c|\bsp\b|soll|command|\bcmd\b")
_SPEED = re.compile(r"tach|\bfg\b|speed|drehz|\brpm\b|hall")
_DATA = re.compile(r"data|bus|\bcom\b|\brx\b|\btx\b|\bsda\b|link")
_SWITCH = re.compile(r"\bsw\b|switch|end\s?sw|micro")
_LIVE = re.compile(r"(?:^|[-/ ])l\b|live|phase|\bl1\b|fase")
_FEED = re.compile(r"\+|\d+\s?v\b|feed|out\b|supply")


def points_of(sheet: Sheet) -> dict[str, str]:
    """Every pin of a board, with what it is for and where: what a row can be."""
    return {
        f"{connector.id}.{pin.number}": _called(sheet, f"{connector.id}.{pin.number}")
        for connector in sheet.connectors
        for pin in connector.pins
    }


def _called(sheet: Sheet, point: str) -> str:
    """What a pin is for; with its board where the sheet has several."""
    unprinted = sheet.source_of(f"connectors.{point.partition('.')[0]}") == "archetype"
    words = purpose(sheet, point) if unprinted else ""
    if not words:
        run = next((run for run in sheet.harness if run.points[0] == point), None)
        owner, _, terminal = (run.points[-1] if run else "").partition(".")
        name = sheet.part_name(owner) if terminal else (run.points[-1].replace("_", " ") if run else "")
        words = f"{name} {terminal}".strip() if name else f"pin {point}"
    return f"{words} {where_at(sheet, point)}" if len(sheet.boards) > 1 else words


def write(document: Document) -> list[dict[str, str]]:
    """A row a pin that is printed; of a kind of unit none."""
    sheet = documents.read(Sheet, document, rules=False)
    found = []
    for connector in sheet.connectors:
        if source_of(document, f"connectors.{connector.id}") == "archetype":
            continue
        printed = sheet.mark(connector.id).printed or connector.id
        for pin in connector.pins:
            point = f"{connector.id}.{pin.number}"
            run = next((run for run in sheet.harness if run.points[0] == point), None)
            owner = run.points[-1].partition(".")[0] if run else ""
            found.append(
                {
                    "id": point,
                    "plug": printed,
                    "pin": sheet.mark(point).printed or str(pin.number),
                    "colour": sheet.mark(point).colour or (run.colour(0) if run else pin.colour),
                    "label": pin.label,
                    "goes_to": sheet.part_name(owner) if owner else "",
                    "is": _called(sheet, point),
                }
            )
    return found


def apply(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the pins' rows into a document: each that says which function it is moves that pin to its plug."""
    sheet = documents.read(Sheet, document, rules=False)
    placed = _placed(sheet, rows, note)
    _half_wired(sheet, rows, placed, note)
    colours = _colours(rows, note)
    known = points_of(sheet)
    moves: dict[str, tuple[str, int, Row]] = {}
    seen: dict[tuple[str, str], int] = {}
    plug = ""
    for index, row in enumerate(rows):
        if empty(row, PLUGS):
            continue
        plug, pin = _pin(row, plug)
        if not pin or pin.casefold() in NO_PIN:
            continue
        if not plug:
            note(index, "plug", "Which plug is it on? Type it as printed, such as CN2.")
            continue
        if (plug.casefold(), pin.casefold()) in seen:
            other = seen[plug.casefold(), pin.casefold()] + 1
            note(index, "pin", f"{plug} pin {pin} stands already in row {other}. Read the numbers again.")
            continue
        seen[plug.casefold(), pin.casefold()] = index
        point = placed.get(index, "")
        if point:
            moves[point] = (plug, index, dict(row) | {"pin": pin, "colour": colours.get(index, "")})
            note.taken[index, "is"] = known[point]
    _replug(document, moves)


def _colours(rows: Sequence[Row], note: Notes) -> dict[int, str]:
    """The colours of the whole column, by the one system in which every abbreviation has a meaning."""
    typed = {index: folded(cell(row, "colour")) for index, row in enumerate(rows) if cell(row, "colour")}
    short = {index: text for index, text in typed.items() if not _written_out(text)}
    decided = decide(short.values())
    found = {index: text for index, text in typed.items() if index not in short}
    for index, text in short.items():
        names = decided.choices or ((decided.system,) if decided.system else tuple(SYSTEMS))
        readings = dict.fromkeys(colour for name in names if (colour := read(text, SYSTEMS[name][1])))
        if len(readings) == 1:
            found[index] = next(iter(readings))
            note.taken[index, "colour"] = found[index]
        elif readings:
            note(index, "colour", f"“{text}” can be {' or '.join(readings)}.", *readings)
        else:
            note(index, "colour", f"“{text}” is no colour of a wire. Type it, such as brown.")
    return found


def _written_out(text: str) -> bool:
    """Whether a colour is a sheet's own word, or two of them."""
    known = set(SYSTEMS["iec"][1].values()) | {"tan"}
    return text in known or all(part in known for part in text.split("-"))


def _pin(row: Row, carried: str) -> tuple[str, str]:
    """Plug and pin of a row: the plug printed once is carried down, a pin may be printed with its plug."""
    plug, pin = cell(row, "plug"), cell(row, "pin")
    split = PIN_PARTS.fullmatch(pin)
    if split and (not plug or folded(plug) == folded(split["plug"])):
        return split["plug"], split["pin"]
    return plug or carried, pin


def _placed(sheet: Sheet, rows: Sequence[Row], note: Notes) -> dict[int, str]:
    """The point each row is: by what was chosen, by its own id, else by where it goes and its label."""
    known = points_of(sheet)
    by_words = {folded(words): point for point, words in known.items()}
    found: dict[int, str] = {}
    for index, row in enumerate(rows):
        asked = cell(row, "is")
        if row.get("id", "") in known and (not asked or folded(asked) == folded(known[row["id"]])):
            found[index] = row["id"]
        elif asked and asked.casefold() not in NO_PIN:
            point = asked if asked in known else by_words.get(folded(asked), "")
            if point and point not in found.values():
                found[index] = point
            elif point:
                other = next(place for place, taken in found.items() if taken == point) + 1
                note(index, "is", f"“{asked}” is row {other} already. One pin has one function.")
            else:
                note(index, "is", f"“{asked}” is no function of this unit. Choose one of the list.")
    _guessed(sheet, rows, found, note)
    return found


def _guessed(sheet: Sheet, rows: Sequence[Row], found: dict[int, str], note: Notes) -> None:
    """Add the points of rows that only say where they go and what is printed there."""
    known = points_of(sheet)
    free = {point: words for point, words in known.items() if point not in found.values()}
    for index, row in enumerate(rows):
        if index in found or empty(row, PLUGS) or cell(row, "is"):
            continue
        if cell(row, "pin").casefold() in NO_PIN or not (cell(row, "goes_to") or cell(row, "label")):
            continue
        if taken := _all_taken(sheet, free, found, cell(row, "goes_to")):
            note(index, "goes_to", taken, doubt=True)
            continue
        point, likely = _guess(sheet, free, row)
        if point:
            found[index] = point
            del free[point]
        else:
            told = cell(row, "goes_to") or cell(row, "label")
            note(index, "is", f"Which function is “{told}”?", *(free[name] for name in likely), doubt=True)


def _all_taken(sheet: Sheet, free: dict[str, str], found: dict[int, str], told: str) -> str:
    """That a part of just this name has no pin left, with the rows of those it has; else empty."""
    if not told or any(tokens(told) in _names(sheet, point, _end(sheet, point)) for point in free):
        return ""
    taken = [
        str(index + 1)
        for index, point in found.items()
        if tokens(told) in _names(sheet, point, _end(sheet, point))
    ]
    return f"{told} has its pins already, in row {' and '.join(taken)}. Which is it?" if taken else ""


def _end(sheet: Sheet, point: str) -> str:
    """The far end of a pin's wire; empty where there is none."""
    return next((run.points[-1] for run in sheet.harness if run.points[0] == point), "")


def _half_wired(sheet: Sheet, rows: Sequence[Row], placed: dict[int, str], note: Notes) -> None:
    """Doubt each part that has a feed in some row and a return in none, or the other way round; not while its
    rows are the last ones typed."""
    last = max((index for index, row in enumerate(rows) if not empty(row, PLUGS)), default=0)
    known = {point: _loop_end(purpose(sheet, point)) for point in points_of(sheet)}
    for name in dict.fromkeys(name for name, _ in known.values() if name):
        there = [index for index, point in placed.items() if known[point][0] == name]
        has = {known[placed[index]][1] for index in there} - {""}
        missing = {end for other, end in known.values() if other == name} - has - {""}
        if len(missing) == 1 and has and max(there) != last:
            (end,) = missing
            told = f"{name[:1].upper()}{name[1:]} has no {end} in any row: not read, or shared?"
            note(max(there), "goes_to", told, doubt=True)


def _loop_end(words: str) -> tuple[str, str]:
    """Whose loop a pin is of, and which end of it: the feed, the return, or neither."""
    name, _, role = words.rpartition("’s ")
    if words in ("mains live", "mains neutral"):
        return "mains", words.removeprefix("mains ")
    return name, _role(role) if _role(role) in ("feed", "return") else ""


def _guess(sheet: Sheet, free: dict[str, str], row: Row) -> tuple[str, list[str]]:
    """The free point a row most likely is, or none with the likeliest few."""
    said = tokens(f"{cell(row, 'goes_to')} {cell(row, 'label')}")
    scored: dict[str, float] = {}
    for point in free:
        run = next((run for run in sheet.harness if run.points[0] == point), None)
        names = _names(sheet, point, run.points[-1] if run else "")
        scored[point] = max((len(said & name) - 0.15 * len(name - said) for name in names), default=0.0)
    best = max(scored.values(), default=0.0)
    if best <= 0:
        return "", []
    likely = [point for point in free if scored[point] == best]
    role = folded(f"{cell(row, 'label')} {cell(row, 'goes_to')}")
    wanted = _wanted(role)
    by_role = [point for point in likely if _role(free[point]) == wanted]
    if not by_role and wanted == "mains live":
        by_role = [point for point in likely if _role(free[point]) == "feed"]
    if by_role:
        return by_role[0], []
    owners = {point.partition(".")[0] for point in likely}
    return (likely[0], []) if len(owners) == 1 else ("", likely[:4])


def _names(sheet: Sheet, point: str, end: str) -> list[set[str]]:
    """What the far end of a pin's wire may be called: its part's names, its plug's function."""
    owner = end.partition(".")[0]
    part = next((part for part in sheet.components if part.id == owner), None)
    whole = tokens(purpose(sheet, point).rpartition("’s ")[0] or purpose(sheet, point))
    found = [whole]
    if part:
        found += [tokens(part.name), tokens(part.printed) if part.printed else set()]
    return [names for names in found if names]


_ROLES: tuple[tuple[str, re.Pattern[str]], ...] = (
    ("speed command", _SPEED_COMMAND),
    ("speed signal", _SPEED),
    ("data", _DATA),
    ("end switch", _SWITCH),
    ("return", _RETURN),
    ("mains live", _LIVE),
    ("feed", _FEED),
)


def _wanted(text: str) -> str:
    """The role a row's words say; empty where they say none."""
    return next((role for role, pattern in _ROLES if pattern.search(text)), "feed")


def _role(words: str) -> str:
    """The role of a point by what it is for."""
    last = words.rpartition("’s ")[2].partition(" at the ")[0]
    if last in {"supply", "feed", "signal", "command", "1"}:
        return "feed"
    if last == "mains neutral" or last.endswith("return"):
        return "return"
    return last


class _Plugs:
    """The board's plugs as they come together from rows: by identifier, with the pins moved to them."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._old = {
            f"{connector['id']}.{pin['number']}": (connector, pin)
            for connector in document.get("connectors", [])
            for pin in connector.get("pins", ())
        }
        self.found: dict[str, dict[str, Any]] = {}
        self.marks: dict[str, Any] = dict(document.get("marks", {}))
        self.renamed: dict[str, str] = {}

    def move(self, point: str, printed: str, row: Row) -> None:
        """Move a pin to the plug of a print."""
        connector, pin = self._old[point]
        plug = self._plug(printed, connector)
        number = _number(cell(row, "pin"), plug["pins"])
        moved = {"number": number} | {
            key: value for key, value in pin.items() if key not in {"number", "label"}
        }
        if cell(row, "label"):
            moved["label"] = cell(row, "label")
        plug["pins"].append(moved)
        there = f"{plug['id']}.{number}"
        self.renamed[point] = there
        self.marks.pop(point, None)
        if cell(row, "pin") != str(number):
            self.marks[there] = {"printed": f"{printed}.{cell(row, 'pin')}"}
        _colour(self._document, point, cell(row, "colour"), moved)
        if self._document.get("source") == "archetype":
            sourced(self._document, {f"connectors.{plug['id']}": "printed"})

    def _plug(self, printed: str, connector: dict[str, Any]) -> dict[str, Any]:
        identifier = _plug_id(self._document, self.found, printed, connector)
        if identifier not in self.found:
            known = self._document.get("connectors", [])
            same = next((item for item in known if item["id"] == identifier), None)
            kept = {key: value for key, value in (same or connector).items() if key != "pins"}
            name = {} if same else {"name": f"Plug {printed}"}
            self.found[identifier] = kept | {"id": identifier} | name | {"pins": []}
            self.marks.pop(identifier, None)
            if identifier != printed:
                self.marks[identifier] = {"printed": printed}
        return self.found[identifier]

    def rest(self) -> list[dict[str, Any]]:
        """All plugs: those that came together, and what is left of the others."""
        kept: list[dict[str, Any]] = []
        for connector in self._document.get("connectors", []):
            pins = [
                pin
                for pin in connector.get("pins", ())
                if f"{connector['id']}.{pin['number']}" not in self.renamed
            ]
            if connector["id"] in self.found:
                self.found[connector["id"]]["pins"] += pins
                kept.append(self.found[connector["id"]])
            elif pins or not connector.get("pins"):
                kept.append(connector | ({"pins": pins} if pins else {}))
        names = {connector["id"] for connector in kept}
        return [*(plug for plug in self.found.values() if plug["id"] not in names), *kept]


def _replug(document: Document, moves: dict[str, tuple[str, int, Row]]) -> None:
    """Move pins to their printed plugs, and everything that names them with them."""
    plugs = _Plugs(document)
    for point, (printed, _, row) in moves.items():
        plugs.move(point, printed, row)
    document["connectors"] = plugs.rest()
    if plugs.marks:
        document["marks"] = plugs.marks
    else:
        document.pop("marks", None)
    _rename(document, plugs.renamed)


def _plug_id(document: Document, plugs: dict[str, Any], printed: str, connector: dict[str, Any]) -> str:
    """The identifier of a plug as printed: letters and digits, a capital first; another board's plug of the
    same print gets one of its own."""
    plain = re.sub(r"[^A-Za-z0-9]", "", printed) or "P"
    plain = plain[:1].upper() + plain[1:] if plain[:1].isalpha() else f"P{plain}"
    board, name, count = connector.get("board", ""), plain, 2
    existing = {item["id"]: item for item in document.get("connectors", [])}
    while True:
        other = plugs.get(name) or existing.get(name)
        if other is None or other.get("board", "") == board:
            return name
        name, count = f"{plain}b{count}", count + 1


def _number(text: str, pins: list[dict[str, Any]]) -> int:
    """A pin's number: as printed where that is one and is free, else the next."""
    taken = {pin["number"] for pin in pins}
    if text.isdigit() and 0 < int(text) <= 999 and int(text) not in taken:
        return int(text)
    number = 1
    while number in taken:
        number += 1
    return number


def _colour(document: Document, point: str, colour: str, moved: dict[str, Any]) -> None:
    """A wire's colour, on the harness line that leaves the pin; on the pin where none does."""
    run = next((run for run in document.get("harness", []) if run["points"][0] == point), None)
    if run is None:
        if colour:
            moved["colour"] = colour
        return
    if colour and run["colours"][0] != colour:
        old = run["colours"]
        run["colours"] = [colour if each in {"", old[0]} else each for each in old]


def _rename(document: Document, renamed: dict[str, str]) -> None:
    """Every name of a moved pin, wherever it stands."""

    def new(point: str) -> str:
        return renamed.get(point, point)

    for run in document.get("harness", []):
        run["points"] = [new(point) for point in run["points"]]
    for sensor in document.get("sensors", []):
        if "pins" in sensor:
            sensor["pins"] = [new(point) for point in sensor["pins"]]
    for board in document.get("boards", []):
        for channel in board.get("sensor_inputs", []):
            channel["pin"], channel["return_pin"] = new(channel["pin"]), new(channel["return_pin"])
    for stated in document.get("stated_readings", []):
        stated["red"], stated["black"] = new(stated["red"]), new(stated["black"])


PLUGS = Section(
    "plugs",
    "Connectors",
    "One row a pin. The plug’s name once is enough; where a wire goes to says what the pin is for.",
    (
        Column("plug", "Plug", "CN2"),
        Column("pin", "Pin", "5"),
        Column("colour", "Colour", "brown", listed=True),
        Column("label", "Label", "HTR"),
        Column("goes_to", "Goes to", "Defrost heater"),
        Column("is", "So it is", "", listed=True),
    ),
    write,
    apply,
)
