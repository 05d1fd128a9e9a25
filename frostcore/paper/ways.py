"""Modes and settings, stated readings, places with their steps, as tables."""

from collections.abc import Sequence
from typing import Any

from frostcore import document as documents
from frostcore.circuit.meter import MeterRange
from frostcore.paper.plugs import points_of
from frostcore.paper.rows import Column, Document, Notes, Row, Section, cell, empty, figure, number, plain
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import point_named

PARTED = " / "
"""What stands between the steps of a mode in one cell."""


def write_modes(document: Document) -> list[dict[str, str]]:
    """A row a mode."""
    return [
        {
            "id": mode["id"],
            "mode": mode["name"],
            "enter": PARTED.join(mode.get("enter", ())),
            "leave": PARTED.join(mode.get("leave", ())),
            "minutes": plain(mode.get("timeout_minutes")),
        }
        for mode in document.get("modes", [])
    ]


def apply_modes(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the modes' rows into a document: how each is entered and left."""
    modes = {mode["id"]: mode for mode in document.get("modes", [])}
    for index, row in enumerate(rows):
        mode = modes.get(row.get("id", ""))
        if mode is None:
            continue
        if cell(row, "mode"):
            mode["name"] = cell(row, "mode")
        for key in ("enter", "leave"):
            steps = _parted(cell(row, key))
            if steps or key in mode:
                mode[key] = steps
        text = cell(row, "minutes")
        if not text:
            mode.pop("timeout_minutes", None)
            continue
        try:
            mode["timeout_minutes"] = number(text)
        except ValueError:
            note(index, "minutes", f"“{text}” is no number of minutes. Type it like 20.")


METERS = {item.value: item.label for item in MeterRange}


def write_settings(document: Document) -> list[dict[str, str]]:
    """A row a numbered setting."""
    names = {part["id"]: part["name"] for part in document.get("components", [])}
    return [
        {
            "id": str(index),
            "number": item["number"],
            "setting": item["name"],
            "of": names.get(item["component"], item["component"]),
            "values": PARTED.join(item.get("values", ())),
            "usual": item.get("usual", ""),
            "enter": PARTED.join(item.get("enter", ())),
            "shown": item.get("shown_by", ""),
        }
        for index, item in enumerate(document.get("settings", []))
    ]


def apply_settings(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the settings' rows into a document; one of no named board is the only board's."""
    boards = [part for part in document.get("components", []) if part.get("kind") == "board"]
    by_name = {part["name"].casefold(): part["id"] for part in boards}
    by_name |= {part["id"]: part["id"] for part in boards}
    found = []
    for index, row in enumerate(rows):
        if empty(row, SETTINGS):
            continue
        asked = cell(row, "of")
        board = by_name.get(asked.casefold()) if asked else (boards[0]["id"] if len(boards) == 1 else None)
        if board is None:
            told = f"There is no board “{asked}” on this unit." if asked else "Which board’s is it?"
            note(index, "of", told, *(part["name"] for part in boards))
            continue
        if not cell(row, "number") or not cell(row, "setting"):
            key = "setting" if cell(row, "number") else "number"
            note(index, key, "Nothing typed. Type it as printed.")
            continue
        parted = {key: _parted(cell(row, key)) for key in ("values", "enter")}
        more = parted | {"usual": cell(row, "usual"), "shown_by": cell(row, "shown")}
        note.made.append(index)
        item: dict[str, Any] = {
            "number": cell(row, "number"),
            "name": cell(row, "setting"),
            "component": board,
        }
        found.append(item | {key: value for key, value in more.items() if value})
    if found:
        document["settings"] = found
    else:
        document.pop("settings", None)


def _parted(text: str) -> list[str]:
    return [part.strip() for part in text.split(PARTED.strip()) if part.strip()]


def write_stated(document: Document) -> list[dict[str, str]]:
    """A row a stated reading."""
    found = []
    modes = {mode["id"]: mode["name"] for mode in document.get("modes", [])}
    for index, stated in enumerate(document.get("stated_readings", [])):
        found.append(
            {
                "id": str(index),
                "red": stated["red"],
                "black": stated["black"],
                "meter": METERS.get(stated["meter"], stated["meter"]),
                "low": plain(stated["low"]),
                "high": plain(stated["high"]),
                "mode": modes.get(stated.get("mode", ""), stated.get("mode", "")),
                "pulled": " ".join(stated.get("pulled", ())),
                "note": stated.get("note", ""),
            }
        )
    return found


def apply_stated(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the stated readings' rows into a document."""
    sheet = documents.read(Sheet, document, rules=False)
    known = _Known(sheet)
    found: list[dict[str, Any]] = []
    for index, row in enumerate(rows):
        stated = None if empty(row, STATED) else known.stated(row, index, note)
        if stated is not None:
            found.append(stated)
            note.made.append(index)
    if found:
        document["stated_readings"] = found
    else:
        document.pop("stated_readings", None)


class _Known:
    """The points, ranges and modes that a stated reading can name."""

    def __init__(self, sheet: Sheet) -> None:
        self._sheet = sheet
        terminals = {f"{part.id}.{name}" for part in sheet.components for name in part.terminals or {}}
        self._points = {*points_of(sheet), *terminals}
        self._points |= {point for run in sheet.harness for point in run.points}
        self._meters = {label.casefold(): value for value, label in METERS.items()} | SPELT
        self._meters |= {value: value for value in METERS}
        self._modes = {mode.name.casefold(): mode.id for mode in sheet.modes}
        self._modes |= {mode.id: mode.id for mode in sheet.modes}

    def stated(self, row: Row, index: int, note: Notes) -> dict[str, Any] | None:
        """The reading a row states; None with what is wrong noted."""
        points = {key: point_named(self._sheet, cell(row, key)) for key in ("red", "black")}
        wrong = [key for key, point in points.items() if point not in self._points]
        for key in wrong:
            told = f"There is no point “{cell(row, key)}” on this unit" if cell(row, key) else "Nothing typed"
            note(index, key, f"{told}. Type a pin such as CN2.5.")
        meter = self._meters.get(cell(row, "meter").casefold(), "")
        if not meter:
            note(index, "meter", "Which range? Choose it.", *METERS.values())
        asked, mode = cell(row, "mode"), self._modes.get(cell(row, "mode").casefold(), "")
        if asked and not mode:
            names = [item.name for item in self._sheet.modes[:4]]
            note(index, "mode", f"There is no mode “{asked}”.", *names)
        band = _band(row, meter, index, note) if meter else None
        if wrong or band is None or (asked and not mode):
            return None
        stated: dict[str, Any] = points | {"meter": meter, "low": band[0], "high": band[1]}
        pulled = cell(row, "pulled").replace(",", " ").split()
        more = {"mode": mode, "pulled": pulled, "note": cell(row, "note")}
        return stated | {key: value for key, value in more.items() if value}


SPELT = {"ω": "ohm", "ohms": "ohm", "v~": "vac", "v ac": "vac", "v dc": "vdc", "v=": "vdc"}
"""Ranges as papers write them."""


def _band(row: Row, meter: str, index: int, note: Notes) -> tuple[float, float] | None:
    dimension = MeterRange(meter).dimension
    found = []
    for key in ("low", "high"):
        text = cell(row, key) or cell(row, "low")
        try:
            found.append(figure(text, dimension) if text else None)
        except ValueError as error:
            note(index, key, str(error))
            return None
    if found[0] is None or found[1] is None:
        note(index, "low", "Nothing typed. Type what the paper states, such as 230.")
        return None
    return min(found[0], found[1]), max(found[0], found[1])


def write_places(document: Document) -> list[dict[str, str]]:
    """A row a step; the place's name once."""
    found = []
    for place in document.get("places", []):
        rows = [
            {
                "id": f"{place['id']}:{number_}",
                "place": place["name"] if number_ == 0 else "",
                "do": step["do"],
                "count": plain(step.get("fasteners")),
                "fastener": step.get("fastener", ""),
                "caution": step.get("caution", ""),
                "open": plain(place.get("open_minutes")) if number_ == 0 else "",
                "close": plain(place.get("close_minutes")) if number_ == 0 else "",
            }
            for number_, step in enumerate(place.get("steps", ()))
        ]
        found += rows or [{"id": f"{place['id']}:", "place": place["name"], "do": ""}]
    return found


def apply_places(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the places' rows into a document: the steps to each, in their order."""
    places = {place["id"]: place for place in document.get("places", [])}
    by_name = {place["name"].casefold(): place for place in places.values()}
    steps: dict[str, list[dict[str, Any]]] = {}
    here: dict[str, Any] | None = None
    for index, row in enumerate(rows):
        if empty(row, PLACES):
            continue
        own = row.get("id", "").partition(":")[0]
        if own in places:
            here = places[own]
            if cell(row, "place"):
                here["name"] = cell(row, "place")
        elif cell(row, "place"):
            here = by_name.get(cell(row, "place").casefold())
        if here is None:
            names = [place["name"] for place in places.values()]
            note(index, "place", f"There is no place “{cell(row, 'place')}” on this unit.", *names)
            continue
        _place_minutes(here, row, index, note)
        mine = steps.setdefault(here["id"], [])
        if cell(row, "do"):
            mine.append(_step(here, row, index, note))
    for key, found in steps.items():
        if found:
            places[key]["steps"] = found
        else:
            places[key].pop("steps", None)


def _place_minutes(place: dict[str, Any], row: Row, index: int, note: Notes) -> None:
    for key, column in (("open_minutes", "open"), ("close_minutes", "close")):
        text = cell(row, column)
        if text:
            try:
                place[key] = number(text)
            except ValueError:
                note(index, column, f"“{text}” is no number of minutes. Type it like 12.")


def _step(place: dict[str, Any], row: Row, index: int, note: Notes) -> dict[str, Any]:
    """A step as typed; the plugs that are pulled with it stay those of the step it was."""
    before = row.get("id", "").partition(":")[2]
    old = place.get("steps", ())
    kept = old[int(before)] if before.isdigit() and int(before) < len(old) else {}
    step: dict[str, Any] = dict(kept) | {"do": cell(row, "do")}
    count = cell(row, "count")
    if count and not count.isdigit():
        note(index, "count", f"“{count}” is no number of fasteners. Type it like 4.")
    elif count and int(count):
        step["fasteners"] = int(count)
    else:
        step.pop("fasteners", None)
    for key in ("fastener", "caution"):
        if cell(row, key):
            step[key] = cell(row, key)
        else:
            step.pop(key, None)
    return step


MODES = Section(
    "modes",
    "Modes",
    "How each is entered and left, step by step with / between.",
    (
        Column("mode", "Mode", "Forced defrost"),
        Column("enter", "To enter", "Hold ▲ / Press ▼ twice"),
        Column("leave", "To leave", "Pull the plug"),
        Column("minutes", "Ends after, min", "20", figure=True),
    ),
    write_modes,
    apply_modes,
    fixed=True,
)
SETTINGS = Section(
    "settings",
    "Settings",
    "Numbered settings of the board: what each may be, from new, and how it is entered, with / between.",
    (
        Column("number", "Number", "14"),
        Column("setting", "Setting", "Defrost interval"),
        Column("of", "Of", "", listed=True),
        Column("values", "May be", "by demand / 8 h / 12 h"),
        Column("usual", "From new", "by demand"),
        Column("enter", "To enter", "Hold ▲ / Press ▼ twice"),
        Column("shown", "What shows it", "the digits show 8"),
    ),
    write_settings,
    apply_settings,
)
STATED = Section(
    "stated",
    "Stated readings",
    "What the paper says a meter reads; it beats what is computed.",
    (
        Column("red", "Red", "CN2.5"),
        Column("black", "Black", "CN2.6"),
        Column("meter", "Meter", "ohm", listed=True),
        Column("low", "From", "220", figure=True),
        Column("high", "to", "260", figure=True),
        Column("mode", "In mode", "", listed=True),
        Column("pulled", "Plugs pulled", "CN2"),
        Column("note", "Note", ""),
    ),
    write_stated,
    apply_stated,
)
PLACES = Section(
    "places",
    "Places and steps",
    "What comes off to get there, in order; fasteners are counted on the way in and back.",
    (
        Column("place", "Place", "Behind the freezer’s cover"),
        Column("do", "Step", "Undo the cover"),
        Column("count", "Fasteners", "4", figure=True),
        Column("fastener", "Which", "cross-head, 14 mm"),
        Column("caution", "Caution", ""),
        Column("open", "Minutes to open", "12", figure=True),
        Column("close", "to close", "12", figure=True),
    ),
    write_places,
    apply_places,
)
