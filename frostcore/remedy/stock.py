"""What a workshop has on its shelf: read from a table, written back, and matched to a unit's parts.

A part is the same where its number is. Another is as good where what matters of its kind agrees: value,
volts, power, curve; never by name alone. A board is matched by its number only: nobody can see what another
drives.
"""

import csv
import io
from dataclasses import dataclass, field

from frostcore.errors import CurveError
from frostcore.quantity import Dimension
from frostcore.rows import figure, pieces, read_rows
from frostcore.sheet.model import Component, ComponentKind, Sheet, squeezed

K = ComponentKind

COLUMNS = (
    "number",
    "kind",
    "name",
    "count",
    "price",
    "shelf",
    "ohms",
    "watts",
    "volts",
    "amperes",
    "farads",
    "opens",
    "at25",
)
"""Columns of the table; the first four are needed. ``opens`` is where a contact opens, ``at25`` a sensor's
ohms at 25 °C."""

NEEDED = COLUMNS[:4]
MOST_TEXT = 120
NEAR = {"ohms": 0.15, "watts": 0.25, "volts": 0.1, "amperes": 0.1, "farads": 0.1, "at25": 0.03}
"""By what share a value may be other and the part still do."""

NEAR_KELVIN = 3.0

MATTERS: dict[ComponentKind, tuple[str, ...]] = {
    K.BIMETAL: ("opens",),
    K.FAN_AC: ("volts", "watts"),
    K.FAN_DC: ("volts", "watts"),
    K.FUSE: ("amperes",),
    K.HEATER: ("ohms", "volts"),
    K.LAMP: ("volts", "watts"),
    K.MODULE: ("volts", "watts"),
    K.OVERLOAD: ("amperes",),
    K.POWER_SUPPLY: ("volts", "watts"),
    K.RUN_CAPACITOR: ("farads",),
    K.START_DEVICE: ("ohms",),
    K.THERMAL_FUSE: ("opens",),
    K.THERMISTOR: ("at25",),
    K.THERMOSTAT: ("opens",),
    K.VALVE: ("ohms", "volts"),
}
"""What must agree of each kind; kinds that are not here are matched by their number only."""

WORDS = {
    "ohms": "ohms",
    "watts": "watts",
    "volts": "volts",
    "amperes": "amperes",
    "farads": "farads",
    "opens": "where it opens",
    "at25": "its curve at 25 °C; compare it at 0 °C too",
}
"""What agrees, in words."""

DIMENSIONS = {
    "ohms": Dimension.RESISTANCE,
    "at25": Dimension.RESISTANCE,
    "watts": Dimension.POWER,
    "volts": Dimension.VOLTAGE,
    "amperes": Dimension.CURRENT,
    "farads": Dimension.CAPACITANCE,
    "opens": Dimension.TEMPERATURE,
}


@dataclass(frozen=True)
class StockItem:
    """One line of the shelf: its number, kind, name, how many, price, where, and its values by column."""

    number: str
    kind: ComponentKind
    name: str
    count: int
    price: float | None = None
    shelf: str = ""
    values: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Match:
    """A line that does for a part: ``same`` where the number says so, else by what agrees."""

    item: StockItem
    same: bool
    agrees: tuple[str, ...] = ()


def read_stock(text: str) -> tuple[StockItem, ...]:
    """The lines of a table as CSV; SheetError with every line that can't be read."""
    return read_rows(text, _item, NEEDED)


def _item(cells: dict[str, str]) -> StockItem:
    number, name = cells["number"][:MOST_TEXT], cells["name"][:MOST_TEXT]
    try:
        kind = ComponentKind(cells["kind"].lower().replace(" ", "_"))
    except ValueError:
        message = f"kind “{cells['kind'][:40]}”; write one of {', '.join(sorted(K))}"
        raise ValueError(message) from None
    if not number or not name:
        message = "a line needs its number and its name"
        raise ValueError(message)
    count = pieces("count", cells["count"])
    price = figure("price", cells["price"]) if cells.get("price") else None
    values = {name: figure(name, cells[name], DIMENSIONS[name]) for name in COLUMNS[6:] if cells.get(name)}
    return StockItem(number, kind, name, count, price, cells.get("shelf", "")[:MOST_TEXT], values)


def write_stock(items: tuple[StockItem, ...]) -> str:
    """The table of some lines; :func:`read_stock` reads it back equal."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(COLUMNS)
    for item in items:
        price = "" if item.price is None else f"{item.price:g}"
        values = [f"{item.values[name]:.10g}" if name in item.values else "" for name in COLUMNS[6:]]
        rows.writerow([item.number, item.kind, item.name, item.count, price, item.shelf, *values])
    return out.getvalue()


def matches(sheet: Sheet, component: str, items: tuple[StockItem, ...]) -> tuple[Match, ...]:
    """What on the shelf does for a part, the same first; lines that have run out are none."""
    part = sheet.component(component)
    own = squeezed(part.part_number)
    same = [Match(item, same=True) for item in items if item.count and own and squeezed(item.number) == own]
    wanted = values_of(sheet, part)
    equal = [
        Match(item, same=False, agrees=MATTERS[part.kind])
        for item in items
        if item.count and item.kind is part.kind and part.kind in MATTERS and _does(item, wanted, part.kind)
        if squeezed(item.number) != own or not own
    ]
    return (*same, *equal)


def _does(item: StockItem, wanted: dict[str, float], kind: ComponentKind) -> bool:
    """Whether every value that matters is known of both, and near."""
    for name in MATTERS[kind]:
        if name not in wanted or name not in item.values:
            return False
        mine, theirs = wanted[name], item.values[name]
        if name == "opens":
            if abs(mine - theirs) > NEAR_KELVIN:
                return False
        elif abs(theirs / mine - 1) > NEAR[name]:
            return False
    return True


def values_of(sheet: Sheet, part: Component) -> dict[str, float]:
    """What is known of a part that matters, by column."""
    rated = part.nominal
    known = {
        "ohms": rated.ohms,
        "watts": rated.watts,
        "volts": rated.volts or (None if part.kind in LOW else sheet.plate.mains_volts),
        "amperes": rated.amperes,
        "farads": rated.farads,
        "opens": rated.opens_celsius,
        "at25": _at25(sheet, part),
    }
    return {name: value for name, value in known.items() if value or (name == "opens" and value == 0)}


LOW = {K.FAN_DC, K.MODULE, K.POWER_SUPPLY}


def _at25(sheet: Sheet, part: Component) -> float | None:
    sensor = next((each for each in sheet.sensors if each.component == part.id), None)
    if sensor is None:
        return None
    try:
        return float(sheet.curve(sensor).ohms(25.0))
    except CurveError:
        return None
