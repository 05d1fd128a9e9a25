"""What on a sheet keeps every rule and is hardly meant: one function a family, each doubt with its place, the
reason, and the likely cure.

A sheet is typed from paper, where a unit stands in a head, a dot means thousands and two columns lie side by
side. What follows from another entry of the sheet is set against it.
"""

import re
from collections.abc import Callable, Iterator

from frostcore.curves.model import REFERENCE_CELSIUS
from frostcore.document import Problem, write
from frostcore.quantity import Dimension, fahrenheit_from_celsius, format_celsius, format_ohms, format_value
from frostcore.sheet.model import Component, ComponentKind, Sheet, SignalKind, TableDocument

K = ComponentKind

AGREES = 0.15
"""Watts, volts and ohms of one heater agree within this share."""

MOST_HEATER_WATTS = 1000.0
MAINS_FROM = 60.0
"""Rated volts from here on are mains."""

OTHER_MAINS = 0.25
"""A part for this much more or less than the unit's mains is for another."""

ROUND = 0.06
"""A temperature this near to a whole one was typed as that."""

NEED_WIRES = {K.FAN_AC, K.FAN_DC, K.HEATER, K.LAMP, K.MODULE, K.VALVE, K.DAMPER, K.FLAP_MOTOR, K.AUGER_MOTOR}
ENDS: dict[ComponentKind, tuple[str, str]] = {
    K.FAN_DC: ("plus", "minus"),
    K.MODULE: ("plus", "minus"),
    K.DAMPER: ("a", "b"),
    K.FLAP_MOTOR: ("a", "b"),
}
"""Terminals that carry a load's current; of others 1 and 2."""

LEAST_WARM_OHMS = 100.0
"""Near 25 °C no falling sensor of a refrigerator has less."""

MARKUP = re.compile(r"</?[a-zA-Z][^>]*>|&[a-z]+;|\*\*\w")


def _ends(component: Component) -> tuple[str, str]:
    if component.kind is K.LAMP and (component.nominal.volts or 0) < MAINS_FROM:
        return "plus", "minus"
    return ENDS.get(component.kind, ("1", "2"))


def _wired(sheet: Sheet) -> set[str]:
    """Every terminal something is connected to."""
    points = {point for run in sheet.harness for point in run.points}
    own = {f"{part.id}.{name}" for part in sheet.components for name in part.terminals or {}}
    return points | own | {node for part in sheet.components for node in (part.terminals or {}).values()}


def _watts(value: float) -> str:
    return format_value(value, Dimension.POWER)


def _heaters(sheet: Sheet) -> Iterator[Problem]:
    """Ohms, watts and mains of a heater against each other and against the plate."""
    plate, mains = sheet.plate, sheet.plate.mains_volts
    drawn = []
    for index, part in enumerate(sheet.components):
        rated = part.nominal
        if part.kind is not K.HEATER or rated.ohms is None:
            continue
        volts = rated.volts or mains
        gives = volts**2 / rated.ohms
        drawn.append(gives)
        here = f"components[{index}].nominal"
        if rated.watts and abs(gives / rated.watts - 1) > AGREES:
            yield Problem(
                f"{here}.ohms",
                f"{format_ohms(rated.ohms)} at {volts:g} V give {_watts(gives)}, and"
                f" {_watts(rated.watts)} are stated; {format_ohms(volts**2 / rated.watts)} would. Read both"
                " again, and the volts they are for",
            )
        elif gives > MOST_HEATER_WATTS:
            told = f"{format_ohms(rated.ohms)} at {volts:g} V give {_watts(gives)}; no heater here has that"
            yield Problem(f"{here}.ohms", f"{told}. Is a kilo or a dot missing, or are the volts others?")
    stated = plate.defrost_heater_watts
    if stated and drawn and all(abs(gives / stated - 1) > AGREES for gives in drawn):
        has = ", ".join(_watts(gives) for gives in drawn)
        told = f"the plate says {_watts(stated)}, and the heaters' ohms give {has}. Which was misread?"
        yield Problem("plate.defrost_heater_watts", told)


def _other_mains(sheet: Sheet) -> Iterator[Problem]:
    """Parts rated for another mains than the unit's."""
    mains = sheet.plate.mains_volts
    for index, part in enumerate(sheet.components):
        volts = part.nominal.volts
        if volts and volts >= MAINS_FROM and abs(volts / mains - 1) > OTHER_MAINS:
            told = f"{part.name} is for {volts:g} V, the unit for {mains:g} V"
            yield Problem(f"components[{index}].nominal.volts", f"{told}. A column for the other mains?")


def _wires(sheet: Sheet) -> Iterator[Problem]:
    """Loads with one end, a plug without its neutral."""
    if not sheet.harness:
        return
    wired = _wired(sheet)
    for index, part in enumerate(sheet.components):
        ends = ("l", "n") if part.kind is K.PLUG else _ends(part) if part.kind in NEED_WIRES else ()
        missing = [end for end in ends if f"{part.id}.{end}" not in wired]
        if missing and len(missing) < len(ends):
            what = "neutral" if part.kind is K.PLUG and missing == ["n"] else "return"
            told = f"{part.name} has no {what}: nothing is connected to {part.id}.{missing[0]}. Add its wire"
            yield Problem(f"components[{index}]", told)


def _temperatures(sheet: Sheet) -> Iterator[Problem]:
    """Contacts that would close above their opening, tables converted twice, dots read as decimals."""
    for index, part in enumerate(sheet.components):
        opens, resets = part.nominal.opens_celsius, part.nominal.resets_celsius
        if part.kind is K.BIMETAL and opens is not None and resets is not None and resets >= opens:
            told = (
                f"closes at {format_celsius(resets)} and opens at {format_celsius(opens)}: a bimetal closes"
                " below where it opens. Are the two changed?"
            )
            yield Problem(f"components[{index}].nominal.resets_celsius", told)
    for name, curve in sheet.curves.items():
        if isinstance(curve, TableDocument) and len(curve.rows) >= LEAST_ROWS:
            yield from _table(f"curves.{name}.rows", curve)


LEAST_ROWS = 4


def _table(place: str, curve: TableDocument) -> Iterator[Problem]:
    celsius, ohms = zip(*curve.rows, strict=True)
    once = [fahrenheit_from_celsius(value) for value in celsius]
    twice = [fahrenheit_from_celsius(value) for value in once]
    if all(_whole(value) for value in twice) and not all(_whole(value) for value in once + list(celsius)):
        told = f"the temperatures are whole only after two conversions ({twice[0]:.0f} °F …)"
        yield Problem(place, f"{told}: were °F converted twice?")
    _, warm = min(zip(celsius, ohms, strict=True), key=lambda row: abs(row[0] - REFERENCE_CELSIUS))
    if ohms[0] > ohms[-1] and warm < LEAST_WARM_OHMS:
        told = f"{format_ohms(warm)} near 25 °C, and no such sensor has so little"
        yield Problem(place, f"{told}: kΩ in the table’s head, or a dot that means thousands ({warm:g} kΩ)?")


def _whole(value: float) -> bool:
    return abs(value - round(value)) < ROUND


def _sensors(sheet: Sheet) -> Iterator[Problem]:
    """Sensors told to be on pins that lead to another, or that another has too."""
    leads: dict[str, set[str]] = {}
    for run in sheet.harness:
        owners = {point.partition(".")[0] for point in run.points}
        for point in run.points:
            leads.setdefault(point, set()).update(owners)
    taken: dict[str, str] = {}
    for index, sensor in enumerate(sheet.sensors):
        here, parts = f"sensors[{index}].pins", {item.component for item in sheet.sensors}
        for pin in sensor.pins:
            reached = leads.get(pin, set()) & parts
            if reached and sensor.component not in reached:
                other = sheet.part_name(min(reached))
                yield Problem(here, f"{pin} leads to {other}, not to this sensor. Are two rows changed?")
        both = "+".join(sorted(sensor.pins))
        if both and both in taken:
            yield Problem(
                here, f"the same pins as sensor {taken[both]}; each has its own. Read the row again"
            )
        taken.setdefault(both, sensor.id)


def _codes(sheet: Sheet) -> Iterator[Problem]:
    """Codes shown alike, and codes whose condition nothing on the sheet can raise."""
    shown: dict[str, str] = {}
    wired = _wired(sheet)
    read = {channel.sensor for board in sheet.boards for channel in board.sensor_inputs}
    for index, code in enumerate(sheet.codes):
        look = str(write(code.shown)).casefold()
        if look in shown:
            told = f"shown just as code {shown[look]}: nobody can tell them apart. Is one of them misread?"
            yield Problem(f"codes[{index}].shown", told)
        shown.setdefault(look, code.id)
        if not sheet.harness:
            continue
        for number, test in enumerate(code.condition.tests):
            signal, here = test.signal, f"codes[{index}].condition.tests[{number}].signal"
            if signal.kind is SignalKind.TACH and f"{signal.id}.tach" not in wired:
                told = f"nothing raises it: {sheet.part_name(signal.id)} has no tachometer wire"
                yield Problem(here, f"{told} ({signal.id}.tach). Add it, or look at another signal")
            if signal.kind is SignalKind.SENSOR and read and signal.id not in read:
                told = f"nothing raises it: no board reads sensor {signal.id}. Add its input to a board"
                yield Problem(here, told)


def _labels(sheet: Sheet) -> Iterator[Problem]:
    """Markup where words should be."""
    texts = [(f"components[{index}].name", part.name) for index, part in enumerate(sheet.components)]
    texts += [(f"codes[{index}].meaning", code.meaning) for index, code in enumerate(sheet.codes)]
    texts += [(f"places[{index}].name", place.name) for index, place in enumerate(sheet.places)]
    texts += [(f"modes[{index}].name", mode.name) for index, mode in enumerate(sheet.modes)]
    for index, connector in enumerate(sheet.connectors):
        texts.append((f"connectors[{index}].name", connector.name))
        for number, pin in enumerate(connector.pins):
            texts.append((f"connectors[{index}].pins[{number}].label", pin.label))
    for place, text in texts:
        if MARKUP.search(text):
            yield Problem(place, f"“{text[:40]}” is markup, pasted with the words. Leave the words alone")


DOUBTS: tuple[Callable[[Sheet], Iterator[Problem]], ...] = (
    _heaters,
    _other_mains,
    _wires,
    _temperatures,
    _sensors,
    _codes,
    _labels,
)
"""Every family, in the order a sheet's reader meets them."""


def doubts(sheet: Sheet) -> tuple[Problem, ...]:
    """What is hardly meant on a sheet that keeps the rules."""
    return tuple(problem for family in DOUBTS for problem in family(sheet))
