"""What people type, turned into SI values and back.

A repairer types ``2k7``, ``OL`` or ``231vac`` with one cold thumb. :func:`parse` answers with a
:class:`Quantity`, or with an :class:`Ambiguous` that lists what it could mean, or raises
:class:`~frostcore.errors.QuantityError` saying what to type instead. Open and short are states of a
quantity, never a huge or tiny number.

Symbols: T in degrees Celsius at this edge; every other value in its SI unit.
"""

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from frostcore.degrees import degrees
from frostcore.errors import QuantityError


class Dimension(StrEnum):
    """What a field asks for."""

    RESISTANCE = "resistance"
    TEMPERATURE = "temperature"
    TEMPERATURE_DIFFERENCE = "temperature_difference"
    VOLTAGE = "voltage"
    CURRENT = "current"
    POWER = "power"
    FREQUENCY = "frequency"
    DURATION = "duration"
    FRACTION = "fraction"
    CAPACITANCE = "capacitance"


class State(StrEnum):
    """How a quantity exists: as a number, as an open circuit, or as a dead short."""

    VALUE = "value"
    OPEN = "open"
    SHORT = "short"


@dataclass(frozen=True)
class Quantity:
    """One understood quantity.

    ``value`` is SI (degrees Celsius for temperatures) and None when open.
    """

    dimension: Dimension
    value: float | None
    state: State = State.VALUE
    typed: str = ""
    current_kind: str = ""
    typed_unit: str = ""

    def __post_init__(self) -> None:
        if self.state is State.VALUE and (self.value is None or not math.isfinite(self.value)):
            message = f"A {self.dimension} with a value needs a finite number, not {self.value!r}."
            raise QuantityError(message)

    @property
    def number(self) -> float:
        """The value, of what has one; raises QuantityError for what is open."""
        if self.value is None:
            message = f"{self.typed or 'An open circuit'} is no number."
            raise QuantityError(message)
        return self.value

    @property
    def text(self) -> str:
        """The quantity as Frostline understood it, for people."""
        if self.state is State.OPEN:
            return "OL (open)"
        if self.state is State.SHORT:
            return "short (0 Ω)"
        # What was typed is shown in full; what was computed has no more digits than it deserves.
        digits = (
            3
            if not self.typed
            else next(
                (d for d in (3, 4, 5) if float(f"{self.value:.{d - 1}e}") == float(f"{self.value:.5e}")), 6
            )
        )
        return f"{format_value(self.number, self.dimension, digits=digits)} {self.current_kind}".strip()

    @property
    def canonical(self) -> str:
        """The quantity as text that :func:`parse` reads back as exactly this, with no doubt left."""
        if self.state is not State.VALUE:
            return "OL" if self.state is State.OPEN else "short"
        number = Decimal(repr(self.value)) * (100 if self.dimension is Dimension.FRACTION else 1)
        return f"{number:f}".removesuffix(".0") + f" {_BARE_UNIT[self.dimension]}{self.current_kind}"


@dataclass(frozen=True)
class Ambiguous:
    """A typed text with more than one plain meaning; ``choices`` are to be asked about."""

    typed: str
    why: str
    choices: tuple[Quantity, ...]


PREFIXES = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "m": 1e-3, "k": 1e3, "M": 1e6, "G": 1e9}

# dimension: spelling (compared without case) -> canonical unit
_UNITS: dict[Dimension, dict[str, str]] = {
    Dimension.RESISTANCE: {"ω": "Ω", "ohm": "Ω", "ohms": "Ω", "r": "Ω"},
    Dimension.TEMPERATURE: {
        "c": "°C",
        "°c": "°C",
        "celsius": "°C",
        "degc": "°C",
        "f": "°F",
        "°f": "°F",
        "fahrenheit": "°F",
        "degf": "°F",
        "kelvin": "K",
    },
    Dimension.TEMPERATURE_DIFFERENCE: {"k": "K", "c": "K", "°c": "K", "°k": "K", "f": "°F", "°f": "°F"},
    Dimension.VOLTAGE: {"v": "V", "volt": "V", "volts": "V"},
    Dimension.CURRENT: {"a": "A", "amp": "A", "amps": "A"},
    Dimension.POWER: {"w": "W", "watt": "W", "watts": "W"},
    Dimension.FREQUENCY: {"hz": "Hz", "hertz": "Hz"},
    Dimension.DURATION: {"s": "s", "sec": "s", "min": "min", "h": "h"},
    Dimension.FRACTION: {"%": "%", "percent": "%"},
    Dimension.CAPACITANCE: {"f": "F", "farad": "F", "farads": "F"},
}
_BARE_UNIT = {
    Dimension.RESISTANCE: "Ω",
    Dimension.TEMPERATURE: "°C",
    Dimension.TEMPERATURE_DIFFERENCE: "K",
    Dimension.VOLTAGE: "V",
    Dimension.CURRENT: "A",
    Dimension.POWER: "W",
    Dimension.FREQUENCY: "Hz",
    Dimension.DURATION: "s",
    Dimension.FRACTION: "%",
    Dimension.CAPACITANCE: "F",
}


def bare_unit_of(dimension: Dimension) -> str:
    """The unit that a number without one is understood in, here."""
    by_degrees = degrees() == "°F" and dimension in {
        Dimension.TEMPERATURE,
        Dimension.TEMPERATURE_DIFFERENCE,
    }
    return "°F" if by_degrees else _BARE_UNIT[dimension]


_PREFIXABLE = {
    Dimension.RESISTANCE,
    Dimension.VOLTAGE,
    Dimension.CURRENT,
    Dimension.POWER,
    Dimension.FREQUENCY,
    Dimension.CAPACITANCE,
}
_EXAMPLES = {
    Dimension.RESISTANCE: "2k7, 2.7k, 2700 or OL",
    Dimension.TEMPERATURE: "4, -18C or 41F",
    Dimension.TEMPERATURE_DIFFERENCE: "0.5K or 1F",
    Dimension.VOLTAGE: "231vac, 13.2 Vdc or 5V",
    Dimension.CURRENT: "0.8A or 120mA",
    Dimension.POWER: "210W",
    Dimension.FREQUENCY: "120Hz",
    Dimension.DURATION: "90s, 15min or 2h",
    Dimension.FRACTION: "10%",
    Dimension.CAPACITANCE: "470u, 100nF or 4700 µF",
}
_NAMES = {
    Dimension.RESISTANCE: "a resistance",
    Dimension.TEMPERATURE: "a temperature",
    Dimension.TEMPERATURE_DIFFERENCE: "a temperature difference",
    Dimension.VOLTAGE: "a voltage",
    Dimension.CURRENT: "a current",
    Dimension.POWER: "a power",
    Dimension.FREQUENCY: "a frequency",
    Dimension.DURATION: "a time",
    Dimension.FRACTION: "a percentage",
    Dimension.CAPACITANCE: "a capacitance",
}

_OPEN = re.compile(
    r"(?:[o0]\.?l\.?|open|open circuit|over ?limit|inf|infinite|∞|no continuity)", re.IGNORECASE
)
_SHORT = re.compile(r"(?:short|shorted|dead short)", re.IGNORECASE)
_NUMBER = r"[0-9][0-9., ]*|[.,][0-9]+"
_RKM = re.compile(
    r"(?P<whole>[0-9]+)(?P<mark>[rRkKmMgG])(?P<part>[0-9]+)\s*(?P<unit>Ω|ohms?)?", re.IGNORECASE
)
_RKM_FARADS = re.compile(r"(?P<whole>[0-9]+)(?P<mark>[pnuµμPNU])(?P<part>[0-9]+)\s*F?")
"""A capacitor as its print has it: 4u7, 2n2."""

_DURATION = re.compile(
    r"(?=.*\d\s*(?:h|min)\s*\d)(?:(\d+)\s*h)?\s*(?:(\d+)\s*min)?\s*(?:(\d+)\s*s(?:ec)?)?", re.IGNORECASE
)
"""A time of more than one part: 1 h 5 min, 2 min 30 s."""

_PLAIN = re.compile(rf"(?P<sign>[-+−–]?)\s*(?P<number>{_NUMBER})\s*(?P<rest>[^0-9.,]*)", re.IGNORECASE)


LONGEST, LARGEST = 60, 1e12
"""Characters that a quantity is typed with at most, and the largest in its own unit: a teraohm."""


def parse(typed: str, dimension: Dimension, *, bare_unit: str = "") -> Quantity | Ambiguous:
    """Understand what was typed for a field that asks for ``dimension``.

    ``bare_unit`` is the unit to assume when none is typed (``°F`` for a Fahrenheit workshop). Raises
    QuantityError, saying what was understood and what to type.
    """
    text = " ".join(typed.replace("\u00a0", " ").replace("\u202f", " ").replace("\u2126", "Ω").split())
    if len(text) > LONGEST:
        told = f"“{text[:LONGEST]}…” is too long."
        message = f"{told} Type {_NAMES[dimension]} such as {_EXAMPLES[dimension]}."
        raise QuantityError(message)
    understood = _understand(text, typed, dimension, bare_unit)
    choices = understood.choices if isinstance(understood, Ambiguous) else (understood,)
    if any(abs(choice.value or 0.0) > LARGEST for choice in choices):
        told = f"“{text}” is more than any meter shows."
        message = f"{told} Type {_NAMES[dimension]} such as {_EXAMPLES[dimension]}."
        raise QuantityError(message)
    return understood


def _understand(text: str, typed: str, dimension: Dimension, bare_unit: str) -> Quantity | Ambiguous:
    """What ``text``, the trimmed ``typed``, says."""
    if not text:
        message = f"Nothing typed. Type {_NAMES[dimension]} such as {_EXAMPLES[dimension]}."
        raise QuantityError(message)
    if dimension is Dimension.DURATION and (parts := _DURATION.fullmatch(text)):
        hours, minutes, seconds = (float(part or 0) for part in parts.groups())
        return Quantity(dimension, hours * 3600 + minutes * 60 + seconds, State.VALUE, typed, "", "s")
    if dimension in _MARKED and (marked := _MARKED[dimension](text, typed)):
        return marked
    if not (match := _PLAIN.fullmatch(text)):
        raise _refused(typed, dimension)
    numbers = _numbers(match["number"].strip(), typed, dimension)
    readings = _units(match["rest"].strip(), typed, dimension, bare_unit)
    sign = -1.0 if match["sign"] in {"-", "−", "–"} else 1.0
    if sign < 0 and dimension in {
        Dimension.RESISTANCE,
        Dimension.FREQUENCY,
        Dimension.DURATION,
        Dimension.FRACTION,
        Dimension.POWER,
        Dimension.CAPACITANCE,
        Dimension.TEMPERATURE_DIFFERENCE,
    }:
        message = (
            f"“{typed}” is negative; {_NAMES[dimension]} can't be below zero. Type it without the minus, such"
            f" as {_EXAMPLES[dimension]}."
        )
        raise QuantityError(message)
    choices = tuple(
        Quantity(
            dimension, _to_si(sign * number, scale, unit, typed, dimension), State.VALUE, typed, kind, unit
        )
        for number in numbers
        for scale, unit, kind in readings
    )
    if len(choices) == 1:
        return choices[0]
    why = (
        "the comma can be a decimal mark or a thousands mark"
        if len(numbers) > 1
        else "m can be milli or a hurried M (mega)"
    )
    return Ambiguous(typed, why, choices)


def _resistance(text: str, typed: str) -> Quantity | Ambiguous | None:
    """A resistance that is open, a short, or as its print has it."""
    bare = re.sub(r"\s*(?:Ω|ohms?)$", "", text, flags=re.IGNORECASE)
    if _OPEN.fullmatch(bare):
        return Quantity(Dimension.RESISTANCE, None, State.OPEN, typed)
    if _SHORT.fullmatch(bare):
        return Quantity(Dimension.RESISTANCE, 0.0, State.SHORT, typed)
    match = _RKM.fullmatch(text)
    return _from_rkm(match, typed) if match else None


def _from_rkm(match: re.Match[str], typed: str) -> Quantity | Ambiguous:
    mark = match["mark"]
    number = float(f"{match['whole']}.{match['part']}")
    if mark == "m":
        choices = tuple(
            Quantity(Dimension.RESISTANCE, _scaled(number, scale), State.VALUE, typed, "", "Ω")
            for scale in (1e-3, 1e6)
        )
        return Ambiguous(typed, "m can be milli or a hurried M (mega)", choices)
    scale = {"r": 1.0, "k": 1e3, "m": 1e6, "g": 1e9}[mark.lower()]
    return Quantity(Dimension.RESISTANCE, _scaled(number, scale), State.VALUE, typed, "", "Ω")


def _capacitance(text: str, typed: str) -> Quantity | None:
    """A capacitance as its print has it."""
    match = _RKM_FARADS.fullmatch(text)
    if match is None:
        return None
    number = float(f"{match['whole']}.{match['part']}")
    scale = PREFIXES["u" if match["mark"] in "uµμU" else match["mark"].lower()]
    return Quantity(Dimension.CAPACITANCE, _scaled(number, scale), State.VALUE, typed, "", "F")


_MARKED: dict[Dimension, Callable[[str, str], Quantity | Ambiguous | None]] = {
    Dimension.RESISTANCE: _resistance,
    Dimension.CAPACITANCE: _capacitance,
}
"""What is understood before a bare number with its unit is."""


def _scaled(number: float, scale: float) -> float:
    """``number * scale`` in decimals, without the binary dust that 2.7 * 1000 leaves."""
    return float(Decimal(repr(number)) * Decimal(repr(scale)))


def _numbers(text: str, typed: str, dimension: Dimension) -> tuple[float, ...]:
    """The number or numbers a digit string can mean (decimal comma, thousands marks, spaces)."""
    compact = text.replace(" ", "")
    if " " in text and not re.fullmatch(r"[0-9]{1,3}(?: [0-9]{3})+(?:[.,][0-9]+)?", text):
        raise _refused(typed, dimension)
    commas, points = compact.count(","), compact.count(".")
    if not commas:
        if points <= 1:
            return (float(compact),)
        if re.fullmatch(r"[0-9]{1,3}(?:\.[0-9]{3})+", compact):
            return (float(compact.replace(".", "")),)
    elif commas == 1 and not points:
        whole, part = compact.split(",")
        as_decimal = float(f"{whole or 0}.{part or 0}")
        if re.fullmatch(r"[1-9][0-9]{0,2},[0-9]{3}", compact) and " " not in text:
            return (as_decimal, float(whole + part))
        return (as_decimal,)
    elif re.fullmatch(r"[0-9]{1,3}(?:,[0-9]{3})+(?:\.[0-9]+)?", compact):
        return (float(compact.replace(",", "")),)
    elif re.fullmatch(r"[0-9]{1,3}(?:\.[0-9]{3})+,[0-9]+", compact):
        return (float(compact.replace(".", "").replace(",", ".")),)
    raise _refused(typed, dimension)


def _units(rest: str, typed: str, dimension: Dimension, bare_unit: str) -> tuple[tuple[float, str, str], ...]:
    """(scale, canonical unit, ac/dc) readings of what stands behind the number."""
    kind = ""
    body = rest.replace("μ", "u").replace("µ", "u")
    if dimension in {Dimension.VOLTAGE, Dimension.CURRENT} and (
        match := re.fullmatch(r"(.*?)\s*(ac|dc|~)", body, re.IGNORECASE)
    ):
        body, kind = match[1], "dc" if match[2].lower() == "dc" else "ac"
    body = body.strip()
    if not body:
        return ((1.0, bare_unit or bare_unit_of(dimension), kind),)
    spellings = _UNITS[dimension]
    if unit := spellings.get(body.lower()):
        return ((1.0, unit, kind),)
    if dimension is Dimension.TEMPERATURE and body == "K":
        return ((1.0, "K", kind),)
    prefix, unit_text = body[0], body[1:].strip()
    if dimension in _PREFIXABLE and (not unit_text or unit_text.lower() in spellings):
        if prefix == "K":
            prefix = "k"
        if prefix == "m" and dimension is Dimension.RESISTANCE:
            return ((1e-3, "Ω", kind), (1e6, "Ω", kind))
        if prefix in PREFIXES:
            return ((PREFIXES[prefix], _BARE_UNIT[dimension], kind),)
    raise _of_another(body, typed, dimension) or _refused(typed, dimension)


def _of_another(body: str, typed: str, dimension: Dimension) -> QuantityError | None:
    """The refusal of a unit that belongs to another dimension."""
    body = re.sub(r"(?<=v|a)\s*(?:ac|dc)$", "", body.lower())
    for other, other_spellings in _UNITS.items():
        if other is not dimension and (
            body in other_spellings or (other in _PREFIXABLE and body[1:] in other_spellings)
        ):
            message = (
                f"“{typed}” reads as {_NAMES[other]}; this field wants {_NAMES[dimension]}. Type it like"
                f" {_EXAMPLES[dimension]}."
            )
            return QuantityError(message)
    return None


def _to_si(number: float, scale: float, unit: str, typed: str, dimension: Dimension) -> float:
    match dimension, unit:
        case Dimension.TEMPERATURE, "°F":
            celsius = celsius_from_fahrenheit(number)
        case Dimension.TEMPERATURE, "K":
            celsius = round(number - KELVIN_OFFSET, 9)
        case Dimension.TEMPERATURE, _:
            celsius = number
        case Dimension.TEMPERATURE_DIFFERENCE, "°F":
            return number / 1.8
        case Dimension.DURATION, _:
            return number * {"s": 1.0, "min": 60.0, "h": 3600.0}[unit]
        case Dimension.FRACTION, _:
            return number / 100.0
        case _:
            return _scaled(number, scale)
    if celsius < -KELVIN_OFFSET:
        message = f"“{typed}” is below absolute zero. Type the temperature such as {_EXAMPLES[dimension]}."
        raise QuantityError(message)
    return celsius


def _refused(typed: str, dimension: Dimension) -> QuantityError:
    return QuantityError(
        f"“{typed}” can't be read as {_NAMES[dimension]}. Type it like {_EXAMPLES[dimension]}."
    )


KELVIN_OFFSET = 273.15


def celsius_from_fahrenheit(fahrenheit: float) -> float:
    """Temperature in degrees Celsius of a temperature in degrees Fahrenheit: (F − 32)/1.8."""
    return (fahrenheit - 32.0) / 1.8


def fahrenheit_from_celsius(celsius: float) -> float:
    """Temperature in degrees Fahrenheit of a temperature in degrees Celsius: 1.8·C + 32."""
    return celsius * 1.8 + 32.0


def format_value(value: float, dimension: Dimension, *, digits: int = 3) -> str:
    """``value`` (SI) for people, with its unit, to ``digits`` significant digits where that is the
    custom."""
    match dimension:
        case Dimension.TEMPERATURE:
            shown = fahrenheit_from_celsius(value) if degrees() == "°F" else value
            return f"{_trim(_minus(f'{shown:.1f}'))} {degrees()}"
        case Dimension.TEMPERATURE_DIFFERENCE:
            shown, unit = (1.8 * value, "°F") if degrees() == "°F" else (value, "K")
            return f"{_trim(_minus(f'{shown:.1f}'))} {unit}"
        case Dimension.FRACTION:
            return f"{_trim(f'{value * 100:.1f}')} %"
        case Dimension.DURATION:
            return format_duration(value)
        case Dimension.CAPACITANCE if abs(value) >= 1e-3:  # nobody says millifarads
            return f"{value * 1e6:.0f} µF"
        case _:
            return format_engineering(value, _BARE_UNIT[dimension], digits=digits)


def _minus(text: str) -> str:
    return "0.0" if text == "-0.0" else text.replace("-", "−")


def _trim(text: str) -> str:
    return text.removesuffix(".0")


def format_duration(seconds: float) -> str:
    """A time in hours, minutes and seconds, to the second; in seconds alone when short."""
    whole = round(seconds)
    if whole < 90:
        return f"{whole} s"
    minutes, rest = divmod(whole, 60)
    hours, minutes = divmod(minutes, 60) if minutes >= 90 else (0, minutes)
    parts = ((hours, "h"), (minutes, "min"), (rest, "s"))
    return " ".join(f"{count} {unit}" for count, unit in parts if count)


def format_engineering(value: float, unit: str, *, digits: int = 3) -> str:
    """``value`` to ``digits`` significant digits with an engineering prefix: 2700 Ω as ``2.70 kΩ``."""
    if value == 0:
        return f"0 {unit}"
    sign = "−" if value < 0 else ""
    size = float(f"{abs(value):.{digits - 1}e}")
    prefix, scale = "", 1.0
    for candidate, factor in (
        ("G", 1e9),
        ("M", 1e6),
        ("k", 1e3),
        ("", 1.0),
        ("m", 1e-3),
        ("µ", 1e-6),
        ("n", 1e-9),
        ("p", 1e-12),
    ):
        prefix, scale = candidate, factor
        if size >= factor:
            break
    mantissa = size / scale
    decimals = max(0, digits - 1 - math.floor(math.log10(mantissa) + 1e-12)) if mantissa else 0
    return f"{sign}{mantissa:.{decimals}f} {prefix}{unit}"


def format_ohms(ohms: float) -> str:
    """A resistance for people: ``52.0 Ω``, ``2.70 kΩ``."""
    return format_value(ohms, Dimension.RESISTANCE)


def format_celsius(celsius: float) -> str:
    """A temperature for people: ``−18 °C``, ``4.2 °C``; in °F where that holds."""
    return format_value(celsius, Dimension.TEMPERATURE)
