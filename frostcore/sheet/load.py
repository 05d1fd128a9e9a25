"""Sheet documents in and out: text to a checked sheet, the schema, and remarks that don't stop it."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from frostcore import document
from frostcore.curves.table import TableRow, check
from frostcore.document import Problem
from frostcore.errors import CurveError, SheetError
from frostcore.sheet.model import ComponentKind, Sheet, TableDocument
from frostcore.sheet.wiring import problems as wiring_problems

SCHEMA_IDENTIFIER = "urn:frostline:sheet:1"


@dataclass(frozen=True)
class LoadedSheet:
    """A sheet that passed every check, and remarks worth a look (a table row that looks mistyped)."""

    sheet: Sheet
    remarks: tuple[Problem, ...]


def schema() -> dict[str, Any]:
    """The JSON Schema of sheet documents."""
    return document.json_schema(Sheet, title="Frostline unit sheet", identifier=SCHEMA_IDENTIFIER)


def load(text: str) -> LoadedSheet:
    """A sheet from JSON text; raises SheetError naming every place that is wrong and why."""
    try:
        data = json.loads(text, parse_constant=_no_constant)
    except ValueError as error:
        place = f"line {error.lineno}" if isinstance(error, json.JSONDecodeError) else "document"
        raise SheetError([Problem(place, f"not a JSON document: {getattr(error, 'msg', error)}")]) from None
    sheet = document.read(Sheet, data)
    problems, remarks = list(_problems(sheet)), []
    for name, curve in sheet.curves.items():
        found, doubtful = _curve_problems(f"curves.{name}", curve)
        problems += found
        remarks += doubtful
    if problems:
        raise SheetError(problems)
    return LoadedSheet(sheet, tuple(remarks))


def dump(sheet: Sheet) -> str:
    """The sheet as JSON text; :func:`load` reads it back equal."""
    return json.dumps(document.write(sheet), ensure_ascii=False, indent=2) + "\n"


def _no_constant(name: str) -> float:
    message = f"{name} is not a number JSON knows"
    raise ValueError(message)


def _curve_problems(place: str, curve: Any) -> tuple[list[Problem], list[Problem]]:
    if isinstance(curve, TableDocument):
        checked = check([TableRow(celsius, ohms, index) for index, (celsius, ohms) in enumerate(curve.rows)])
        return tuple(
            [Problem(f"{place}.rows[{remark.line}]", remark.text) for remark in remarks]
            for remarks in (checked.errors, checked.suspicions)
        )
    try:
        curve.curve()
    except CurveError as error:
        return [Problem(place, str(error))], []
    return [], []


def _problems(sheet: Sheet) -> Iterator[Problem]:
    """Everything that structure alone can't see: names that lead nowhere, names used twice, places inside
    themselves."""
    known = {
        "component": {item.id for item in sheet.components},
        "place": {item.id for item in sheet.places},
        "sensor": {item.id for item in sheet.sensors},
        "mode": {item.id for item in sheet.modes},
        "curve": set(sheet.curves),
        "rail": {rail.id for board in sheet.boards for rail in board.rails},
        "connector": {item.id for item in sheet.connectors},
    }

    def refers(place: str, kind: str, name: str) -> Iterator[Problem]:
        if name not in known[kind]:
            yield Problem(
                place,
                f"there is no {kind} “{name}” on this sheet; it has"
                f" {', '.join(sorted(known[kind])) or 'none'}",
            )

    for label in ("places", "components", "sensors", "codes", "connectors", "modes", "boards"):
        seen: set[str] = set()
        for index, item in enumerate(getattr(sheet, label)):
            identifier = item.component if label == "boards" else item.id
            if identifier in seen:
                yield Problem(f"{label}[{index}]", f"“{identifier}” stands twice")
            seen.add(identifier)
    for index, place in enumerate(sheet.places):
        if place.inside:
            yield from refers(f"places[{index}].inside", "place", place.inside)
        for number, step in enumerate(place.steps):
            for plug in step.plugs:
                yield from refers(f"places[{index}].steps[{number}].plugs", "connector", plug)
    yield from _circular(sheet)
    for place, text in wiring_problems(sheet.wiring, sheet.harness, sheet.connectors, known["component"]):
        yield Problem(place, text)
    for index, mode in enumerate(sheet.modes):
        for place in mode.celsius or {}:
            yield from refers(f"modes[{index}].celsius", "place", place)
        for name in mode.positions or {}:
            yield from refers(f"modes[{index}].positions", "component", name)
    for index, component in enumerate(sheet.components):
        yield from refers(f"components[{index}].place", "place", component.place)
        for other in component.change_with:
            yield from refers(f"components[{index}].change_with", "component", other)
    for index, connector in enumerate(sheet.connectors):
        yield from refers(f"connectors[{index}].place", "place", connector.place)
    for index, sensor in enumerate(sheet.sensors):
        here = f"sensors[{index}]"
        yield from refers(f"{here}.component", "component", sensor.component)
        if (
            sensor.component in known["component"]
            and sheet.component(sensor.component).kind is not ComponentKind.THERMISTOR
        ):
            yield Problem(
                f"{here}.component",
                f"“{sensor.component}” is a {sheet.component(sensor.component).kind}, not a thermistor",
            )
        yield from refers(f"{here}.curve", "curve", sensor.curve)
        for point in sensor.pins:
            if sheet.pin(point) is None:
                yield Problem(
                    f"{here}.pins", f"there is no pin “{point}”; write connector and number such as CN3.5"
                )
    for index, board in enumerate(sheet.boards):
        yield from refers(f"boards[{index}].component", "component", board.component)
        for number, channel in enumerate(board.sensor_inputs):
            here = f"boards[{index}].sensor_inputs[{number}]"
            yield from refers(f"{here}.sensor", "sensor", channel.sensor)
            for name, point in (("pin", channel.pin), ("return_pin", channel.return_pin)):
                if sheet.pin(point) is None:
                    yield Problem(
                        f"{here}.{name}",
                        f"there is no pin “{point}”; write connector and number such as CN3.5",
                    )
    kinds = {
        "sensor": "sensor",
        "tach": "component",
        "switch": "component",
        "rail": "rail",
        "link": "component",
        "load": "component",
    }
    for index, code in enumerate(sheet.codes):
        for number, test in enumerate(code.condition.tests):
            here = f"codes[{index}].condition.tests[{number}]"
            kind, _, name = test.signal.partition(":")
            if kind not in kinds:
                yield Problem(
                    f"{here}.signal",
                    f"“{test.signal}” is no signal; write one such as sensor:defrost ({', '.join(kinds)})",
                )
            else:
                yield from refers(f"{here}.signal", kinds[kind], name)
            if test.during:
                yield from refers(f"{here}.during", "mode", test.during)
            if (test.threshold is None) == (test.state in {"above", "below", "not_above"}):
                yield Problem(
                    f"{here}.threshold",
                    f"a test for “{test.state}” {'needs' if test.threshold is None else 'takes no'}"
                    " threshold",
                )
        for number, implicated in enumerate(code.implicates):
            yield from refers(
                f"codes[{index}].implicates[{number}].component", "component", implicated.component
            )


def _circular(sheet: Sheet) -> Iterator[Problem]:
    inside = {place.id: place.inside for place in sheet.places}
    for index, place in enumerate(sheet.places):
        trail, current = {place.id}, inside.get(place.id, "")
        while current and current not in trail:
            trail.add(current)
            current = inside.get(current, "")
        if current == place.id:
            yield Problem(f"places[{index}].inside", f"“{place.id}” would lie inside itself")
