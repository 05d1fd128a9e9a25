"""What is learned on a call of the unit itself, as entries, and the call's own copy of the sheet with it."""

from dataclasses import dataclass
from typing import Literal

from frostcore.quantity import Quantity
from frostcore.sheet import facts
from frostcore.sheet.model import Sheet, StatedReading
from frostcore.sheet.origin import Source


@dataclass(frozen=True)
class PinSeen:
    """What is printed at a pin, and the colour of its wire; each empty where it was not read."""

    point: str
    printed: str = ""
    colour: str = ""


@dataclass(frozen=True)
class PinsLearned:
    """Pins as they are printed on this very unit."""

    kind: Literal["pins_learned"]
    pins: tuple[PinSeen, ...]


@dataclass(frozen=True)
class ValueLearned:
    """A part's value as printed on it or on a paper, or as measured on a sound one."""

    kind: Literal["value_learned"]
    component: str
    name: Literal["ohms", "watts", "volts", "amperes"]
    value: Quantity
    source: Literal["printed", "measured"] = "printed"


@dataclass(frozen=True)
class PartLearned:
    """What a part is ordered by, and what it costs."""

    kind: Literal["part_learned"]
    component: str
    part_number: str = ""
    price: float | None = None


@dataclass(frozen=True)
class CodeLearned:
    """A code and what its paper says of it: the rule it stands for, and of what."""

    kind: Literal["code_learned"]
    shown: str
    meaning: str
    rule: str
    of: str


@dataclass(frozen=True)
class CurveLearned:
    """A sensor's ohms at 25 °C and its Beta, by paper or by comparing."""

    kind: Literal["curve_learned"]
    sensor: str
    ohms: Quantity
    beta_kelvin: float = 3800.0


@dataclass(frozen=True)
class StatedLearned:
    """A reading the unit's paper states between two points in a setup."""

    kind: Literal["stated_learned"]
    red: str
    black: str
    meter: Literal["ohm", "vac", "vdc", "vac_loz"]
    low: Quantity
    high: Quantity
    mode: str = ""
    pulled: tuple[str, ...] = ()


Learned = PinsLearned | ValueLearned | PartLearned | CodeLearned | CurveLearned | StatedLearned
"""What is learned of the unit itself, and put on the call's own copy of the sheet."""


def with_learned(sheet: Sheet, body: Learned) -> Sheet:
    """The sheet with what an entry tells of the unit.

    KeyError for a part, sensor or rule the sheet has not.
    """
    match body:
        case PinsLearned(pins=pins):
            for pin in pins:
                sheet = facts.with_pin(sheet, pin.point, pin.printed, pin.colour)
            return sheet
        case ValueLearned(component=component, name=name, value=value, source=source):
            return facts.with_value(sheet, component, name, value.number, Source(source))
        case PartLearned(component=component, part_number=number, price=price):
            return facts.with_part(sheet, component, number, price)
        case CodeLearned(shown=shown, meaning=meaning, rule=rule, of=of):
            return facts.with_code(sheet, shown, meaning, rule, of)
        case CurveLearned(sensor=sensor, ohms=ohms, beta_kelvin=beta):
            return facts.with_curve(sheet, sensor, ohms.number, beta)
        case StatedLearned() as told:
            return facts.with_stated(sheet, _stated(told))


def _stated(told: StatedLearned) -> StatedReading:
    low, high = sorted((told.low.number, told.high.number))
    return StatedReading(told.red, told.black, told.meter, low, high, told.mode, told.pulled)
