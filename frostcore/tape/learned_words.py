"""What was learned of a unit, as its slip says it, and whether it can be: a pair of functions a kind."""

from collections.abc import Iterator

from frostcore.errors import TapeError
from frostcore.quantity import Dimension
from frostcore.sheet.code_rules import choices, rule_named
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import leads, purpose
from frostcore.tape.learned import (
    CodeLearned,
    CurveLearned,
    PartLearned,
    PinsLearned,
    StatedLearned,
    ValueLearned,
)
from frostcore.tape.moment import Moment
from frostcore.tape.slip_words import SlipWords
from frostcore.tape.standing import Slip, Standing

VALUE_NAMES = {"ohms": "ohms", "watts": "watts", "volts": "rated volts", "amperes": "amperes"}
"""A part's values in words."""

VALUE_DIMENSIONS = {
    "ohms": Dimension.RESISTANCE,
    "watts": Dimension.POWER,
    "volts": Dimension.VOLTAGE,
    "amperes": Dimension.CURRENT,
}


def pins_words(standing: Standing, slip: Slip, body: PinsLearned) -> SlipWords:
    """The pins, and what they are for."""
    sheet = slip.moment.sheet
    told = [
        f"{purpose(sheet, pin.point)}: {', '.join(part for part in (pin.printed, pin.colour) if part)}"
        for pin in body.pins
    ]
    return SlipWords(
        "Read on the unit", " · ".join(pin.printed or pin.colour for pin in body.pins), detail="; ".join(told)
    )


def value_words(standing: Standing, slip: Slip, body: ValueLearned) -> SlipWords:
    """The part and its value."""
    name = slip.moment.sheet.part_name(body.component)
    said = "as printed" if body.source == "printed" else "as measured on a sound one"
    return SlipWords(f"{name}, {VALUE_NAMES[body.name]}", body.value.text, body.value.typed, said)


def part_words(standing: Standing, slip: Slip, body: PartLearned) -> SlipWords:
    """The part, its number and price."""
    name = slip.moment.sheet.part_name(body.component)
    price = "" if body.price is None else f"{body.price:g}"
    return SlipWords(
        f"{name}, as ordered", body.part_number or price, detail=price if body.part_number else ""
    )


def code_words(standing: Standing, slip: Slip, body: CodeLearned) -> SlipWords:
    """The code and what it stands for."""
    known = dict(choices(slip.moment.sheet))
    rule = known.get(f"{body.rule}:{body.of}", "")
    return SlipWords(
        "Code added", body.shown, detail=": ".join(part for part in (body.meaning, rule) if part)
    )


def curve_words(standing: Standing, slip: Slip, body: CurveLearned) -> SlipWords:
    """The sensor and its ohms at 25 °C."""
    sheet = slip.moment.sheet
    sensor = next((item for item in sheet.sensors if item.id == body.sensor), None)
    name = sheet.sensor_name(sensor) if sensor else body.sensor
    return SlipWords(f"{name}, at 25 °C", body.ohms.text, body.ohms.typed, f"Beta {body.beta_kelvin:g} K")


def stated_words(standing: Standing, slip: Slip, body: StatedLearned) -> SlipWords:
    """What the paper states between two points."""
    sheet = slip.moment.sheet
    between = leads(sheet, body.red, body.black)
    return SlipWords(f"Paper states: {between}", f"{body.low.text} to {body.high.text}")


def check_pins(moment: Moment, body: PinsLearned) -> None:
    """The points are on the sheet, something was read, and no print stands at two pins."""
    if not body.pins or not any(pin.printed or pin.colour for pin in body.pins):
        message = "Nothing typed. Type what is printed at a pin, such as CN2-5, or its wire’s colour."
        raise TapeError(message)
    sheet = moment.sheet
    taken = {mark.printed: point for point, mark in (sheet.marks or {}).items() if mark.printed}
    for pin in body.pins:
        if sheet.pin(pin.point) is None:
            message = f"“{pin.point}” is no pin of this unit’s sheet. Choose one on the trace."
            raise TapeError(message)
        other = taken.get(pin.printed)
        if pin.printed and other and other != pin.point and sheet.pin(other):
            message = (
                f"{pin.printed} is told already as the {purpose(sheet, other)}."
                " Read the print again, or correct that slip."
            )
            raise TapeError(message)
    printed = [pin.printed for pin in body.pins if pin.printed]
    if len(printed) != len(set(printed)):
        message = f"{printed[0]} can’t be both pins. Read the print again."
        raise TapeError(message)


def check_value(moment: Moment, body: ValueLearned) -> None:
    """The part is on the sheet, and the value is one above nothing."""
    _part(moment.sheet, body.component)
    if body.value.value is None or body.value.value <= 0:
        message = f"{body.value.text} is no value of a sound part. Type a figure, such as 118 ohm."
        raise TapeError(message)


def check_part(moment: Moment, body: PartLearned) -> None:
    """The part is on the sheet, and something is told of it."""
    _part(moment.sheet, body.component)
    if not body.part_number and body.price is None:
        message = "Nothing typed. Type the part’s number, or its price."
        raise TapeError(message)


def check_code(moment: Moment, body: CodeLearned) -> None:
    """The rule is one that this unit's board can have."""
    if f"{body.rule}:{body.of}" not in dict(choices(moment.sheet)):
        message = "That rule is of nothing on this unit. Choose one of the list."
        raise TapeError(message)
    if not body.shown.strip():
        message = "Nothing typed. Type the code as the display shows it."
        raise TapeError(message)
    rule_named(body.rule)


def check_curve(moment: Moment, body: CurveLearned) -> None:
    """The sensor is on the sheet, and its ohms and Beta are a sensor's."""
    moment.sheet.sensor(body.sensor)
    low, high = SENSOR_OHMS
    if body.ohms.value is None or not low <= body.ohms.value <= high:
        message = f"{body.ohms.text} at 25 °C is no such sensor’s. Type its ohms there, such as 5 kohm."
        raise TapeError(message)
    least, most = SENSOR_BETA
    if not least <= body.beta_kelvin <= most:
        message = f"A Beta of {body.beta_kelvin:g} K is no such sensor’s; they have 3000 to 4500 K."
        raise TapeError(message)


SENSOR_OHMS, SENSOR_BETA = (500.0, 200e3), (2500.0, 5000.0)
"""What falling sensors of refrigerators have at 25 °C, with room to spare."""


def check_stated(moment: Moment, body: StatedLearned) -> None:
    """The points are there, and the band is one."""
    for point in (body.red, body.black):
        if not _known(moment.sheet, point):
            message = f"There is no point “{point}” on this unit’s sheet. Choose one on the trace."
            raise TapeError(message)
    if body.low.value is None or body.high.value is None:
        message = "A stated reading needs two figures, such as 110 to 126 ohm."
        raise TapeError(message)


def _known(sheet: Sheet, point: str) -> bool:
    return sheet.pin(point) is not None or point in set(_terminals(sheet))


def _terminals(sheet: Sheet) -> Iterator[str]:
    for run in sheet.harness:
        yield from run.points
    for part in sheet.components:
        yield from (f"{part.id}.{name}" for name in part.terminals or {})


def _part(sheet: Sheet, component: str) -> None:
    if component not in {part.id for part in sheet.components}:
        message = f"There is no part “{component}” on this unit’s sheet. Choose one of the list."
        raise TapeError(message)
