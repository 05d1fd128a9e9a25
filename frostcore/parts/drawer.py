"""A workshop's small parts as a table: read, written back, and one part from a plain document."""

import csv
import io
from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from frostcore.errors import FrostError
from frostcore.parts.substitute import NAMES, ROLES, Kind, Place, SmallPart
from frostcore.quantity import Dimension, Quantity
from frostcore.rows import figure, pieces, read_rows

MOST_TEXT = 80

DIMENSIONS = {
    "farads": Dimension.CAPACITANCE,
    "ohms": Dimension.RESISTANCE,
    "esr_ohms": Dimension.RESISTANCE,
    "coil_ohms": Dimension.RESISTANCE,
    "volts": Dimension.VOLTAGE,
    "volts_ac": Dimension.VOLTAGE,
    "coil_volts": Dimension.VOLTAGE,
    "amperes": Dimension.CURRENT,
    "ripple_amperes": Dimension.CURRENT,
    "breaking_amperes": Dimension.CURRENT,
    "contact_amperes": Dimension.CURRENT,
    "celsius": Dimension.TEMPERATURE,
    "watts": Dimension.POWER,
    "tolerance": Dimension.FRACTION,
}
"""Columns that are typed with a unit, or in their own; the other figures are bare."""

TEXTS = ("id", "family", "polarised", "safety", "time_class", "contact_form", "pinout", "law", "flameproof")
"""Columns of words."""


def read_drawer(text: str) -> tuple[SmallPart, ...]:
    """The parts of a table as CSV, an unknown cell left empty; SheetError with every line that can't be
    read."""
    return read_rows(text, part_of, ("id", "kind"), NAMES)


def part_of(given: Mapping[str, Any]) -> SmallPart:
    """One part from its fields, each as typed or as a figure in SI; FrostError naming what is wrong."""
    values: dict[str, Any] = {}
    for name, value in given.items():
        if name not in NAMES:
            raise FrostError(f"“{str(name)[:40]}” is no property of a part; there are {', '.join(NAMES)}.")
        if value in ("", None):
            continue
        words = name in (*TEXTS, "kind")
        values[name] = _text(name, value) if words else _figure(name, value, DIMENSIONS.get(name))
    if not values.get("id"):
        raise FrostError("A part needs its id: what is printed on it, or a name of your own.")
    try:
        kind = Kind(str(values.get("kind", "")).lower().replace(" ", "_"))
    except ValueError:
        told = str(values.get("kind", ""))[:40]
        raise FrostError(f"kind: “{told}”; write one of {', '.join(Kind)}.") from None
    return SmallPart(**values | {"kind": kind})


def place_of(given: Mapping[str, Any]) -> Place:
    """A place from a plain document; FrostError naming what is wrong."""
    known = {each.name: DIMENSIONS_OF_PLACE.get(each.name) for each in fields(Place)}
    values: dict[str, Any] = {}
    for name, value in given.items():
        if name not in known:
            raise FrostError(f"“{str(name)[:40]}” is nothing of a place; there are {', '.join(known)}.")
        if value in ("", None):
            continue
        values[name] = _text(name, value) if name == "role" else _figure(name, value, known[name])
    if values.get("role", "") not in ROLES:
        told = ", ".join(each for each in ROLES if each)
        raise FrostError(f"role: “{values['role']}”; write one of {told}.")
    return Place(**values)


DIMENSIONS_OF_PLACE = {
    "measured_volts": Dimension.VOLTAGE,
    "mains_volts": Dimension.VOLTAGE,
    "bulk_farads": Dimension.CAPACITANCE,
}


def _text(name: str, value: Any) -> str:
    if not isinstance(value, str) or len(value) > MOST_TEXT:
        raise FrostError(f"{name}: write it in at most {MOST_TEXT} characters.")
    return value


def _figure(name: str, value: Any, dimension: Dimension | None) -> float | int:
    """A figure as a document or a cell has it: in SI, or typed with its unit."""
    if isinstance(value, bool) or not isinstance(value, int | float | str):
        raise FrostError(f"{name}: “{str(value)[:40]}” is no figure.")
    if name == "count":
        return pieces(name, str(value))
    return figure(name, str(value), dimension if isinstance(value, str) else None)


def write_drawer(parts: tuple[SmallPart, ...]) -> str:
    """The table of some parts; :func:`read_drawer` reads it back equal."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(NAMES)
    for part in parts:
        rows.writerow([_cell(name, getattr(part, name)) for name in NAMES])
    return out.getvalue()


UNITS = {
    Dimension.CAPACITANCE: "F",
    Dimension.RESISTANCE: "Ω",
    Dimension.VOLTAGE: "V",
    Dimension.CURRENT: "A",
    Dimension.TEMPERATURE: "°C",
    Dimension.POWER: "W",
    Dimension.FRACTION: "%",
}


def _cell(name: str, value: Any) -> str:
    if value is None or value == "":
        return ""
    if isinstance(value, str):
        return value
    dimension = DIMENSIONS.get(name)
    if dimension is None:
        return f"{value:.15g}"
    return Quantity(dimension, float(value)).canonical
