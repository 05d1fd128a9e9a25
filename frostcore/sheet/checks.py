"""The rules a sheet must keep to be published, one function a family.

Each check takes the sheet and the names it has, and yields what structure alone can't see: names that lead
nowhere, names used twice, places inside themselves, curves that give no value.
"""

import re
from collections.abc import Callable, Iterator
from functools import cached_property
from typing import Any

import numpy as np

from frostcore.curves.table import TableRow, check
from frostcore.document import Problem
from frostcore.errors import CurveError
from frostcore.sheet.doubts import doubts
from frostcore.sheet.model import ComponentKind, Sheet, SignalKind, TableDocument, TestState
from frostcore.sheet.wiring import problems as wiring_problems

REFERS_TO = {
    SignalKind.SENSOR: "sensor",
    SignalKind.TACH: "component",
    SignalKind.SWITCH: "component",
    SignalKind.RAIL: "rail",
    SignalKind.LINK: "component",
    SignalKind.LOAD: "component",
}
"""What a signal of each kind is a signal of."""


class Names:
    """The names a sheet has, and what to say of one it hasn't."""

    def __init__(self, sheet: Sheet) -> None:
        self._sheet = sheet

    @cached_property
    def known(self) -> dict[str, set[str]]:
        """Kind of thing → the names of those on the sheet."""
        sheet = self._sheet
        return {
            "component": {item.id for item in sheet.components},
            "place": {item.id for item in sheet.places},
            "sensor": {item.id for item in sheet.sensors},
            "mode": {item.id for item in sheet.modes},
            "curve": set(sheet.curves),
            "rail": {rail.id for board in sheet.boards for rail in board.rails},
            "connector": {item.id for item in sheet.connectors},
        }

    def refers(self, place: str, kind: str, name: str) -> Iterator[Problem]:
        """A problem where the name leads nowhere."""
        if name not in self.known[kind]:
            has = ", ".join(sorted(self.known[kind])) or "none"
            yield Problem(place, f"there is no {kind} “{name}” on this sheet; it has {has}")

    def pin(self, place: str, point: str) -> Iterator[Problem]:
        """A problem where there is no such pin."""
        if self._sheet.pin(point) is None:
            yield Problem(place, f"there is no pin “{point}”; write connector and number such as CN3.5")


def _twice(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Identifiers that stand twice in their list."""
    for label in ("places", "components", "sensors", "codes", "connectors", "modes", "boards"):
        seen: set[str] = set()
        for index, item in enumerate(getattr(sheet, label)):
            identifier = item.component if label == "boards" else item.id
            if identifier in seen:
                yield Problem(f"{label}[{index}]", f"“{identifier}” stands twice")
            seen.add(identifier)


def _places(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Places inside places that are there, opened by plugs that are there."""
    for index, place in enumerate(sheet.places):
        if place.inside:
            yield from names.refers(f"places[{index}].inside", "place", place.inside)
        for number, step in enumerate(place.steps):
            for plug in step.plugs:
                yield from names.refers(f"places[{index}].steps[{number}].plugs", "connector", plug)


def _circular(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Places that lie inside themselves."""
    inside = {place.id: place.inside for place in sheet.places}
    for index, place in enumerate(sheet.places):
        trail, current = {place.id}, inside.get(place.id, "")
        while current and current not in trail:
            trail.add(current)
            current = inside.get(current, "")
        if current == place.id:
            yield Problem(f"places[{index}].inside", f"“{place.id}” would lie inside itself")


def _harness(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Harness lines that lead somewhere."""
    for place, text in wiring_problems(
        sheet.wiring, sheet.harness, sheet.connectors, names.known["component"]
    ):
        yield Problem(place, text)


STANDS: dict[ComponentKind, tuple[str, ...]] = {ComponentKind.DEFROST_TIMER: ("cool", "defrost")}
"""How a part that can be put in a position may stand; others open or closed, a knob at a share of a turn."""


def _stands(sheet: Sheet, place: str, name: str, position: str) -> Iterator[Problem]:
    """A problem where a part can't stand so."""
    kind = sheet.component(name).kind
    if kind is ComponentKind.POTENTIOMETER:
        if not re.fullmatch(r"0(\.\d{1,4})?|1(\.0{1,4})?", position):
            yield Problem(place, f"a knob stands at a share of its turn, from 0 to 1, not at “{position}”")
    elif position not in (allowed := STANDS.get(kind, ("open", "closed"))):
        yield Problem(place, f"a {kind} stands {' or '.join(allowed)}, not “{position}”")


def _settings(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Numbered settings: of a board that is there, each number once, from new at one of its values."""
    seen: set[str] = set()
    boards = {board.component for board in sheet.boards}
    for index, item in enumerate(sheet.settings):
        here = f"settings[{index}]"
        yield from names.refers(f"{here}.component", "component", item.component)
        if boards and item.component in names.known["component"] and item.component not in boards:
            yield Problem(f"{here}.component", f"{sheet.part_name(item.component)} is no board")
        for name in ("number", "name"):
            if not getattr(item, name).strip():
                yield Problem(f"{here}.{name}", f"a setting needs its {name}")
        if item.number.casefold() in seen:
            yield Problem(f"{here}.number", f"“{item.number}” stands twice")
        seen.add(item.number.casefold())
        if item.usual and item.values and item.usual not in item.values:
            told = f"from new it stands at “{item.usual}”, which is none of {', '.join(item.values)}"
            yield Problem(f"{here}.usual", told)


def _modes(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Temperatures of places and positions of parts that are there, signals that drive something."""
    switched = {item.signal for board in sheet.boards for item in board.switches}
    driven = switched | {item.signal for board in sheet.boards for item in board.drives}
    for index, mode in enumerate(sheet.modes):
        for number, signal in enumerate(mode.signals):
            if sheet.boards and signal not in driven:
                has = ", ".join(sorted(driven)) or "none"
                told = f"no output of a board is driven by “{signal}”; there are {has}"
                yield Problem(f"modes[{index}].signals[{number}]", told)
        for place in mode.celsius or {}:
            yield from names.refers(f"modes[{index}].celsius", "place", place)
        for name, position in (mode.positions or {}).items():
            here = f"modes[{index}].positions"
            yield from names.refers(here, "component", name)
            if name in names.known["component"]:
                yield from _stands(sheet, f"{here}.{name}", name, position)


def _parts(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Components and connectors in places that are there, changed with parts that are there."""
    for index, component in enumerate(sheet.components):
        yield from names.refers(f"components[{index}].place", "place", component.place)
        for other in component.change_with:
            yield from names.refers(f"components[{index}].change_with", "component", other)
    for index, connector in enumerate(sheet.connectors):
        yield from names.refers(f"connectors[{index}].place", "place", connector.place)


def _sensors(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Sensors that are thermistors, with curves and pins that are there."""
    for index, sensor in enumerate(sheet.sensors):
        here = f"sensors[{index}]"
        yield from names.refers(f"{here}.component", "component", sensor.component)
        if sensor.component in names.known["component"]:
            kind = sheet.component(sensor.component).kind
            if kind is not ComponentKind.THERMISTOR:
                yield Problem(f"{here}.component", f"“{sensor.component}” is a {kind}, not a thermistor")
        yield from names.refers(f"{here}.curve", "curve", sensor.curve)
        for point in sensor.pins:
            yield from names.pin(f"{here}.pins", point)


def _boards(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Boards that are components, reading sensors and pins that are there."""
    for index, board in enumerate(sheet.boards):
        yield from names.refers(f"boards[{index}].component", "component", board.component)
        for number, channel in enumerate(board.sensor_inputs):
            here = f"boards[{index}].sensor_inputs[{number}]"
            yield from names.refers(f"{here}.sensor", "sensor", channel.sensor)
            yield from names.pin(f"{here}.pin", channel.pin)
            yield from names.pin(f"{here}.return_pin", channel.return_pin)


def _supplies(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Supplies of boards there are, one each; what is inside one it looks after itself."""
    boards, met = {board.component for board in sheet.boards}, set[str]()
    for number, supply in enumerate(sheet.supplies):
        place = f"supplies[{number}].board"
        if supply.board not in boards:
            known = ", ".join(sorted(boards)) or "none"
            yield Problem(place, f"there is no board “{supply.board}”; the sheet has {known}")
        elif supply.board in met:
            yield Problem(place, f"board {supply.board} has a supply already")
        met.add(supply.board)


def _thermal(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Levels of compartments the unit has, each once; of a bulb where it has a thermostat."""
    seen = set[str]()
    rooms = {room.id for room in sheet.compartments}
    for index, each in enumerate(sheet.thermal.levels if sheet.thermal else ()):
        here = f"thermal.levels[{index}].place"
        if each.place and each.place not in rooms:
            known = ", ".join(sorted(rooms))
            yield Problem(here, f"there is no compartment “{each.place}”; there are {known}")
        if each.place in seen:
            yield Problem(here, f"levels of “{each.place or 'the bulb'}” stand twice")
        seen.add(each.place)


def _waves(sheet: Sheet, names: Names) -> Iterator[Problem]:
    first = ""
    for index, board in enumerate(sheet.boards):
        for number, switch in enumerate(board.switches):
            passes = "" if switch.passes == "whole" else f"{switch.passes} {switch.delay_degrees:g}"
            first = first or passes
            if passes and passes != first:
                told = f"{switch.id} chops waves otherwise than an output before it; write them alike"
                yield Problem(f"boards[{index}].switches[{number}].passes", told)


def _codes(sheet: Sheet, names: Names) -> Iterator[Problem]:
    """Detection rules on signals and modes that are there, thresholds where they belong."""
    compared = {TestState.ABOVE, TestState.BELOW, TestState.NOT_ABOVE}
    for index, code in enumerate(sheet.codes):
        for number, test in enumerate(code.condition.tests):
            here = f"codes[{index}].condition.tests[{number}]"
            yield from names.refers(f"{here}.signal", REFERS_TO[test.signal.kind], test.signal.id)
            if test.during:
                yield from names.refers(f"{here}.during", "mode", test.during)
            if (test.threshold is None) == (test.state in compared):
                needs = "needs a" if test.threshold is None else "takes no"
                yield Problem(f"{here}.threshold", f"a test for “{test.state}” {needs} threshold")
        for number, implicated in enumerate(code.implicates):
            here = f"codes[{index}].implicates[{number}].component"
            yield from names.refers(here, "component", implicated.component)


CHECKS: tuple[Callable[[Sheet, Names], Iterator[Problem]], ...] = (
    _twice,
    _places,
    _circular,
    _harness,
    _modes,
    _settings,
    _parts,
    _sensors,
    _boards,
    _supplies,
    _thermal,
    _waves,
    _codes,
)
"""Every family, in the order a sheet's reader meets them."""


def problems_of(sheet: Sheet) -> tuple[tuple[Problem, ...], tuple[Problem, ...]]:
    """(what must be mended before the sheet is published, what is worth a look)."""
    names = Names(sheet)
    problems = [problem for check in CHECKS for problem in check(sheet, names)]
    remarks: list[Problem] = [] if problems else list(doubts(sheet))
    for name, curve in sheet.curves.items():
        found, doubtful = _curve(f"curves.{name}", curve)
        problems += found
        remarks += doubtful
    return tuple(problems), tuple(remarks)


LEAST_OHMS, MOST_OHMS = 0.01, 1e9
"""What a sensor may have anywhere in its curve's range."""


def _curve(place: str, curve: Any) -> tuple[list[Problem], list[Problem]]:
    """(errors, suspicions) of a curve: rows of a table, or a formula that gives no value."""
    if isinstance(curve, TableDocument):
        checked = check([TableRow(celsius, ohms, index) for index, (celsius, ohms) in enumerate(curve.rows)])
        errors, suspicions = (
            [Problem(f"{place}.rows[{remark.line}]", remark.text) for remark in remarks]
            for remarks in (checked.errors, checked.suspicions)
        )
        return errors, suspicions
    try:
        with np.errstate(all="ignore"):
            least, most = curve.curve().extreme_ohms()
    except CurveError as error:
        return [Problem(place, str(error))], []
    if not LEAST_OHMS <= least < most <= MOST_OHMS:
        has = f"a sensor has {LEAST_OHMS:g} to {MOST_OHMS:g} Ω"
        told = f"gives {least:.3g} to {most:.3g} Ω over its range; {has}"
        return [Problem(place, told)], []
    return [], []
