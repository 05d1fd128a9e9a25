"""What a draft can do already, and what one more fact would add."""

from collections.abc import Sequence
from dataclasses import dataclass

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.trace import best_pair
from frostcore.paper.draft import Built, Tables
from frostcore.paper.rows import cell
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.sheet.origin import Source
from frostcore.sheet.points import printed_pin

K = ComponentKind
DRAWS = (K.HEATER, K.FAN_AC, K.FAN_DC, K.COMPRESSOR, K.LAMP, K.MODULE)
"""Parts that draw power: the watts at the plug are theirs together."""


@dataclass(frozen=True)
class Ability:
    """One thing a sheet is for: how much of it works, and what is missing, in words."""

    name: str
    have: int
    of: int
    missing: str = ""

    @property
    def whole(self) -> bool:
        """Whether nothing is missing."""
        return self.have >= self.of


def abilities(built: Built, tables: Tables) -> tuple[Ability, ...]:
    """What works, in the order of the work; nothing where the sheet can't be read."""
    sheet = built.sheet
    if sheet is None:
        return ()
    return (
        _codes(sheet, tables),
        _sensors(sheet),
        _trace(sheet),
        _judgement(sheet),
        _watts(sheet),
        _prices(sheet),
    )


def _codes(sheet: Sheet, tables: Tables) -> Ability:
    typed = [row for row in tables.get("codes", ()) if cell(row, "code") or cell(row, "meaning")]
    missing = "" if typed else "no code is typed yet"
    return Ability("codes", len(sheet.codes), max(len(typed), len(sheet.codes)), missing)


def _sensors(sheet: Sheet) -> Ability:
    usual = [
        sheet.sensor_name(sensor).lower()
        for sensor in sheet.sensors
        if sheet.source_of(f"curves.{sensor.curve}") is Source.ARCHETYPE
    ]
    missing = f"only the usual curve: {usual[0]}" if usual else ""
    return Ability("sensors", len(sheet.sensors) - len(usual), len(sheet.sensors), missing)


def _trace(sheet: Sheet) -> Ability:
    """Functions whose first pair of points is known by its print."""
    circuits = circuits_of(sheet)
    known, first = 0, ""
    for function in circuits.functions:
        try:
            pair = best_pair(circuits.trace(function.id, sheet.resting_mode, live=False))
        except CircuitError:
            continue
        if all(sheet.pin(point) is None or printed_pin(sheet, point) for point in pair):
            known += 1
        else:
            first = first or function.name.lower()
    missing = f"no pin of the {first} yet" if first else circuits.problem
    return Ability("trace", known, len(circuits.functions), missing)


def _judgement(sheet: Sheet) -> Ability:
    circuits = circuits_of(sheet)
    works = bool(circuits.functions)
    return Ability("judgement", int(works), 1, "" if works else circuits.problem or "nothing is wired yet")


def _watts(sheet: Sheet) -> Ability:
    """Loads whose watts are told by the unit's own paper."""
    loads = [part for part in sheet.components if part.kind in DRAWS]
    usual = [
        part for part in loads if sheet.source_of(f"components.{part.id}.nominal.watts") is Source.ARCHETYPE
    ]
    missing = f"{usual[0].name.lower()}’s watts" if usual else ""
    return Ability("watts", len(loads) - len(usual), len(loads), missing)


def _prices(sheet: Sheet) -> Ability:
    parts = [part for part in sheet.components if part.kind not in {K.HARNESS, K.SEALED_SYSTEM}]
    without = [part for part in parts if part.price is None]
    return Ability(
        "prices",
        len(parts) - len(without),
        len(parts),
        f"{without[0].name.lower()}’s price" if without else "",
    )


def next_fact(found: Sequence[Ability]) -> str:
    """What one more fact would add, in words; empty where nothing is missing."""
    first = next((ability for ability in found if not ability.whole and ability.missing), None)
    return f"{first.name}: {first.missing}" if first else ""


def at_the_edge(built: Built, tables: Tables) -> tuple[tuple[int, str], ...]:
    """Pins that were typed and are nothing yet: row and print, drawn at the picture's edge."""
    rows, found, plug = tables.get("plugs", ()), list[tuple[int, str]](), ""
    unplaced = {item.row for item in built.problems if (item.section, item.column) == ("plugs", "is")}
    for index, row in enumerate(rows):
        plug = cell(row, "plug") or plug
        if index in unplaced:
            found.append((index, f"{plug}.{cell(row, 'pin')}".strip(".")))
    return tuple(found)
