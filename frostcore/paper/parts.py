"""The parts list: names as the paper has them, numbers, prices, rated values."""

from collections.abc import Sequence
from typing import Any

from frostcore.paper.rows import (
    Column,
    Document,
    Notes,
    Row,
    Section,
    cell,
    figure,
    number,
    plain,
    source_of,
    sourced,
)
from frostcore.quantity import Dimension

RATED: tuple[tuple[str, Dimension], ...] = (
    ("ohms", Dimension.RESISTANCE),
    ("watts", Dimension.POWER),
    ("volts", Dimension.VOLTAGE),
)
PLAIN: tuple[tuple[str, str], ...] = (
    ("price", "price"),
    ("fit_minutes", "minutes"),
    ("lead_days", "days"),
)
SUPPLY = {"in_stock": "in stock", "to_order": "to order", "no_longer_made": "no longer made"}
AGREES = 0.15
"""Watts, volts and ohms of one heater agree within this share."""


def write(document: Document) -> list[dict[str, str]]:
    """A row a part; what is only usual for its kind is left to be typed."""
    found = []
    for part in document.get("components", []):
        row = {"id": part["id"], "part": part["name"], "printed": part.get("printed", "")}
        row["number"] = part.get("part_number", "")
        for key, column in PLAIN:
            row[column] = "" if _usual(document, part, key) else plain(part.get(key))
        row["supply"] = SUPPLY.get(part.get("supply", ""), "")
        for key, _ in RATED:
            usual = _usual(document, part, f"nominal.{key}")
            row[key] = "" if usual else plain(part.get("nominal", {}).get(key))
        found.append(row)
    return found


def _usual(document: Document, part: dict[str, Any], key: str) -> bool:
    """Whether a value of a part is only usual for its kind."""
    return source_of(document, f"components.{part['id']}.{key}") == "archetype"


def apply(document: Document, rows: Sequence[Row], note: Notes) -> None:
    """Put the parts' rows into a document."""
    parts = {part["id"]: part for part in document.get("components", [])}
    for index, row in enumerate(rows):
        part = parts.get(row.get("id", ""))
        if part is None:
            if any(cell(row, column.key) for column in PARTS.columns):
                note(
                    index,
                    "part",
                    "No such part on this kind of unit: kept here, not on the sheet.",
                    doubt=True,
                )
            continue
        if cell(row, "part"):
            part["name"] = cell(row, "part")
        for key, column in (("printed", "printed"), ("part_number", "number")):
            _set(part, key, cell(row, column))
        _supply(part, cell(row, "supply"), index, note)
        for key, column in PLAIN:
            _plain(document, part, key, cell(row, column), (index, column), note)
        _rated(document, part, row, index, note)


def _set(data: dict[str, Any], key: str, text: str) -> None:
    if text:
        data[key] = text
    else:
        data.pop(key, None)


def _supply(part: dict[str, Any], text: str, index: int, note: Notes) -> None:
    known = {words: key for key, words in SUPPLY.items()} | {key: key for key in SUPPLY}
    if not text:
        part.pop("supply", None)
    elif text.casefold() in known:
        part["supply"] = known[text.casefold()]
    else:
        note(index, "supply", f"“{text}” is no state of supply.", *SUPPLY.values())


def _plain(
    document: Document, part: dict[str, Any], key: str, text: str, at: tuple[int, str], note: Notes
) -> None:
    if not text:
        if not _usual(document, part, key):
            part.pop(key, None)
        return
    try:
        value = number(text)
    except ValueError:
        note(*at, f"“{text}” is no number. Type it like 12 or 12.50.")
        return
    if value < 0:
        note(*at, f"{text} is below nothing.")
        return
    if _usual(document, part, key):
        sourced(document, {f"components.{part['id']}.{key}": "printed"})
    part[key] = value


def _rated(document: Document, part: dict[str, Any], row: Row, index: int, note: Notes) -> None:
    rated, typed = dict(part.get("nominal", {})), dict[str, float]()
    for key, dimension in RATED:
        text = cell(row, key)
        usual = _usual(document, part, f"nominal.{key}")
        if not text:
            if not usual:
                rated.pop(key, None)
            continue
        try:
            value = figure(text, dimension)
        except ValueError as error:
            note(index, key, str(error))
            continue
        if value <= 0:
            note(index, key, f"{text} is no value of a sound part.")
            continue
        typed[key] = value
        if rated.get(key) != value:
            rated[key] = value
            if key == "ohms" and usual and "tolerance" in rated:
                rated["tolerance"] = 0.1
        sourced(document, {f"components.{part['id']}.nominal.{key}": "printed"} if usual else {})
    if part["kind"] == "heater":
        _heater(document, part, rated, typed, index, note)
    if rated:
        part["nominal"] = rated
    else:
        part.pop("nominal", None)


def _heater(
    document: Document,
    part: dict[str, Any],
    rated: dict[str, Any],
    typed: dict[str, float],
    index: int,
    note: Notes,
) -> None:
    """Ohms from watts, watts from ohms; both where they disagree."""
    volts = rated.get("volts") or document["plate"]["mains_volts"]
    ohms, watts = typed.get("ohms"), typed.get("watts")
    if ohms and watts and abs(volts**2 / ohms / watts - 1) > AGREES:
        told = f"{plain(ohms)} Ω at {volts:g} V give {volts**2 / ohms:.0f} W, and {plain(watts)} W are typed"
        note(index, "ohms", f"{told}. Which was misread?", f"{volts**2 / watts:.4g}", doubt=True)
    given = "ohms" if ohms and not watts else "watts" if watts and not ohms else ""
    other = {"ohms": "watts", "watts": "ohms"}.get(given, "")
    if given and source_of(document, f"components.{part['id']}.nominal.{other}") in {"archetype", "derived"}:
        rated[other] = float(f"{volts**2 / typed[given]:.4g}")
        sourced(document, {f"components.{part['id']}.nominal.{other}": "derived"})
        if other == "ohms" and "tolerance" in rated:
            rated["tolerance"] = 0.1


PARTS = Section(
    "parts",
    "Parts",
    "What its paper or the part itself says. A heater’s ohms follow from its watts.",
    (
        Column("part", "Part", "Defrost heater"),
        Column("printed", "The paper’s word", "Abtauheizung"),
        Column("number", "Part number", "4-0871"),
        Column("price", "Price", "39.50", figure=True),
        Column("ohms", "Ohms", "240", figure=True),
        Column("watts", "Watts", "220", figure=True),
        Column("volts", "Volts", "230", figure=True),
        Column("supply", "Supply", "to order", listed=True),
        Column("days", "Days", "5", figure=True),
        Column("minutes", "Minutes to fit", "20", figure=True),
    ),
    write,
    apply,
    fixed=True,
)
