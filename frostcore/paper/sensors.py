"""The sensor table: temperatures and ohms, of all sensors or of those named."""

from collections.abc import Sequence
from typing import Any

from frostcore.curves.table import TableRow, check
from frostcore.paper.rows import (
    Column,
    Document,
    Notes,
    Row,
    Section,
    cell,
    empty,
    figure,
    plain,
    sourced,
)
from frostcore.quantity import Dimension
from frostcore.sheet.words import tokens

USUAL_BETA = 3800.0
"""What one printed value stands for, in kelvin, until there is a second."""


def write(document: Document) -> list[dict[str, str]]:
    """The rows of every table curve, with the sensors it is of where that is not all of them."""
    names = _names(document)
    found = []
    for key, curve in document.get("curves", {}).items():
        of = [sensor["id"] for sensor in document.get("sensors", []) if sensor["curve"] == key]
        if curve.get("kind") != "table" or not of:
            continue
        said = "" if len(of) == len(names) else ", ".join(names[name] for name in of)
        for celsius, ohms in curve["rows"]:
            found.append({"id": key, "celsius": plain(celsius), "ohms": plain(ohms), "sensor": said})
            said = said if not said else '"'
    return found


def _names(document: Document) -> dict[str, str]:
    parts = {part["id"]: part["name"] for part in document.get("components", [])}
    return {
        sensor["id"]: parts.get(sensor["component"], sensor["id"]) for sensor in document.get("sensors", [])
    }


def apply(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the table's rows into a document as curves; sensors none of them is of keep theirs."""
    groups: dict[tuple[str, ...], list[tuple[int, float, float]]] = {}
    everyone = tuple(_names(document))
    last: tuple[str, ...] = everyone
    for index, row in enumerate(rows):
        if empty(row, SENSORS):
            continue
        of = _of(document, cell(row, "sensor"), last, index, note)
        values = _values(row, index, note)
        if of is None or values is None:
            continue
        last = of
        groups.setdefault(of, []).append((index, *values))
    if not everyone and groups:
        note(0, "sensor", "This kind of unit has no sensor on its sheet; the table is of nothing.")
        return
    used = dict(document.get("curves", {}))
    for count, (of, mine) in enumerate(groups.items(), 1):
        name = _curve_name(document, of, count)
        curve = _curve(mine, note)
        if curve is None:
            continue
        used[name] = curve
        sourced(document, {f"curves.{name}": "printed"})
        for sensor in document["sensors"]:
            if sensor["id"] in of:
                if sensor["curve"] != name:
                    sensor.pop("tolerance", None)
                sensor["curve"] = name
    wanted = {sensor["curve"] for sensor in document.get("sensors", [])}
    document["curves"] = {name: curve for name, curve in used.items() if name in wanted}


def _curve_name(document: Document, of: tuple[str, ...], count: int) -> str:
    """The curve that just these sensors have already, where it is a table; else a new name."""
    same = [
        name
        for name, curve in document.get("curves", {}).items()
        if curve.get("kind") == "table"
        and tuple(s["id"] for s in document["sensors"] if s["curve"] == name) == of
    ]
    if same:
        return str(same[0])
    name = f"printed_{count}"
    while name in document.get("curves", {}):
        count += 1
        name = f"printed_{count}"
    return name


def _of(
    document: Document, text: str, last: tuple[str, ...], index: int, note: Notes
) -> tuple[str, ...] | None:
    """The sensors a row is of: as the row before where nothing or a ditto mark stands there."""
    if not text or text in DITTO:
        return last
    names = _names(document)
    if text.casefold() in {"all", "every sensor", "alle"}:
        return tuple(names)
    found = []
    for part in (each.strip() for each in text.split(",")):
        words = tokens(part)
        scored = sorted(
            (
                (len(tokens(name) & words) - 0.1 * len(tokens(name) - words), key)
                for key, name in names.items()
            ),
            reverse=True,
        )
        if not scored or scored[0][0] <= 0 or (len(scored) > 1 and scored[0][0] == scored[1][0]):
            note(
                index,
                "sensor",
                f"Which sensor is “{part}”? The sheet has {', '.join(names.values())}.",
                *names.values(),
            )
            return None
        found.append(scored[0][1])
    return tuple(name for name in names if name in found)


DITTO = {'"', "''", "“", "”", "„", "dto", "dto.", "do.", "ditto", "idem"}


def _values(row: Row, index: int, note: Notes) -> tuple[float, float] | None:
    found = []
    for key, dimension, example in (
        ("celsius", Dimension.TEMPERATURE, "25 or 77F"),
        ("ohms", Dimension.RESISTANCE, "5000 or 5k"),
    ):
        text = cell(row, key)
        if not text:
            note(index, key, f"Nothing typed. Type it like {example}, or take the row away.")
            return None
        try:
            found.append(figure(text, dimension))
        except ValueError as error:
            note(index, key, str(error))
            return None
    return found[0], found[1]


def _curve(values: list[tuple[int, float, float]], note: Notes) -> dict[str, Any] | None:
    """A curve of these rows, or None with what is wrong noted at its row."""
    if len(values) == 1:
        _, celsius, ohms = values[0]
        beta = {"kind": "beta", "reference_ohms": ohms, "beta_kelvin": USUAL_BETA}
        return beta | {"reference_celsius": celsius, "from_celsius": -45.0, "to_celsius": 60.0}
    ordered = sorted(values, key=lambda item: item[1])
    checked = check([TableRow(celsius, ohms, index) for index, celsius, ohms in ordered])
    for remark in checked.errors:
        note(remark.line, "ohms", remark.text, *_probable(remark.probable_ohms))
    for remark in checked.suspicions:
        note(remark.line, "ohms", remark.text, *_probable(remark.probable_ohms), doubt=True)
    if checked.errors:
        return None
    return {"kind": "table", "rows": [[celsius, ohms] for _, celsius, ohms in ordered]}


def _probable(ohms: float | None) -> tuple[str, ...]:
    return () if ohms is None else (plain(ohms),)


SENSORS = Section(
    "sensors",
    "Sensor table",
    "One row a temperature; °F and kΩ as printed. Name the sensor where the table is not of all of them.",
    (
        Column("celsius", "Temperature", "25", figure=True),
        Column("ohms", "Ohms", "5k", figure=True),
        Column("sensor", "Sensor", "all"),
    ),
    write,
    apply,
)
