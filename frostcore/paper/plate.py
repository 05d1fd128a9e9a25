"""The rating plate as a table: one row a field."""

import re
from collections.abc import Sequence

from frostcore.paper.rows import Column, Document, Notes, Row, Section, cell, figure, number, plain, sourced
from frostcore.quantity import Dimension
from frostcore.sheet.plate import read_plate

FIELDS: tuple[tuple[str, str, Dimension | None], ...] = (
    ("maker", "Maker", None),
    ("model", "Model", None),
    ("models", "Other spellings, with commas", None),
    ("appliance", "What it is", None),
    ("mains_volts", "Mains, volts", Dimension.VOLTAGE),
    ("mains_hertz", "Hertz", Dimension.FREQUENCY),
    ("refrigerant", "Refrigerant", None),
    ("charge_grams", "Charge, grams", None),
    ("input_watts", "Input, watts", Dimension.POWER),
    ("defrost_heater_watts", "Defrost heater, watts", Dimension.POWER),
)
RANGE = re.compile(r"\d\s*[-–/]\s*\d")
TEXTS = {"maker", "model", "appliance", "refrigerant"}
NEEDED = ("maker", "model", "appliance", "mains_volts", "mains_hertz")


def write(document: Document) -> list[dict[str, str]]:
    """The plate's rows; of a kind of unit only what every such unit has."""
    plate = document["plate"]
    generic = document.get("source") == "archetype" and "plate" not in document.get("sources", {})
    found = []
    for key, _, _ in FIELDS:
        value = plate.get(key)
        if generic and key not in {"appliance", "mains_volts", "mains_hertz"}:
            text = ""
        elif key == "models":
            text = ", ".join(value or ())
        else:
            text = value if isinstance(value, str) else plain(value)
        found.append({"id": key, "value": text})
    return found


def apply(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the plate's rows into a document."""
    plate, typed = dict(document["plate"]), {row.get("id", ""): cell(row, "value") for row in rows}
    at = {row.get("id", ""): index for index, row in enumerate(rows)}
    for key, label, dimension in FIELDS:
        text = typed.get(key, "")
        if not text:
            plate.pop(key, None)
            if key in NEEDED:
                plate[key] = document["plate"][key]
                missing = f"{label} is not typed yet"
                if key in {"maker", "model"}:
                    note(at.get(key, 0), "value", missing)
        elif key == "models":
            plate[key] = [part.strip() for part in text.split(",") if part.strip()]
        elif key in TEXTS:
            plate[key] = text
        else:
            try:
                plate[key] = _value(key, text, dimension, plate["mains_volts"], note, at.get(key, 0))
            except ValueError as error:
                note(at.get(key, 0), "value", _said(str(error), text))
    document["plate"] = plate
    if typed.get("maker") and typed.get("model"):
        sourced(document, {"plate": "printed"})


def _value(key: str, text: str, dimension: Dimension | None, volts: float, note: Notes, row: int) -> float:
    """A figure of the plate; a range of mains, as plates print it, is its middle, and says so."""
    if key in {"mains_volts", "mains_hertz"} and RANGE.search(text):
        read = read_plate(f"{text} V" if key == "mains_volts" else f"{volts:g} V {text} Hz")
        value = read.mains_volts if key == "mains_volts" else read.mains_hertz
        if value is not None:
            note.taken[row, "value"] = f"taken as {value:g}"
            return value
    return number(text) if dimension is None else figure(text, dimension)


def _said(error: str, text: str) -> str:
    return f"“{text}” is no number. Type it as printed, such as 230." if "could not" in error else error


PLATE = Section(
    "plate",
    "Rating plate",
    "As printed on the unit.",
    (Column("value", "Printed", "230"),),
    write,
    apply,
    fixed=True,
)
