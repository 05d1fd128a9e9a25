"""Contacts that depend on temperature: bimetal (defrost) thermostats, mechanical thermostats, thermal
fuses.

A bimetal is closed when colder than its reset temperature and open when warmer than its opening
temperature; between the two it stays as it was, so nothing there can be judged. A mechanical thermostat
is the other way round: closed (cooling) when warmer than its cut-in. A thermal fuse opens once, and never
resets.
"""

import re
from dataclasses import dataclass
from enum import StrEnum
from functools import partial

from frostcore.errors import FrostError
from frostcore.quantity import (
    Dimension,
    Quantity,
    State,
    celsius_from_fahrenheit,
    format_celsius,
    format_ohms,
    format_value,
    parse,
)
from frostcore.verdict import Judged, Question, Verdict

CLOSED_OHMS = 2.0
"""A closed contact with its leads reads at most this."""

THERMOMETER_KELVIN = 1.0
PART_CELSIUS = 3.0
"""Stamped temperatures are held to about this."""

DEFROST_OPENS, DEFROST_DIFFERENTIAL = (-1.0, 30.0), (3.0, 35.0)
"""Where defrost bimetals open, in °C, and how many kelvins lower they close: above melting ice, far below
what a cabinet's plastic bears; below, cold enough that frost alone closes them."""

USUAL_DIFFERENTIAL = 15.0
"""Of a bimetal whose closing temperature nobody tells, in kelvin."""


class ContactKind(StrEnum):
    """Which kind of contact."""

    BIMETAL = "bimetal"
    THERMOSTAT = "thermostat"
    THERMAL_FUSE = "thermal_fuse"


@dataclass(frozen=True)
class Rating:
    """A rating as stamped: the temperature it opens at and the differential, in one unit (``°C`` or
    ``°F``)."""

    opens: float
    differential: float
    unit: str
    stamp: str = ""
    """How a stamp of two numbers was read, where it can be read in two ways."""

    def __post_init__(self) -> None:
        if self.unit not in {"°C", "°F"} or self.differential < 0:
            message = (
                f"A rating of {self.opens:g} with a differential of {self.differential:g} {self.unit} can't"
                " be; the differential is the kelvins (or °F) between opening and closing."
            )
            raise FrostError(message)

    @property
    def opens_celsius(self) -> float:
        """The opening temperature in degrees Celsius."""
        return self.opens if self.unit == "°C" else celsius_from_fahrenheit(self.opens)

    @property
    def differential_kelvin(self) -> float:
        """The differential in kelvin."""
        return self.differential if self.unit == "°C" else self.differential / 1.8

    @property
    def named(self) -> str:
        """The reading of the stamp in words: its unit, and which of two meanings its second number has."""
        return f"{self.unit}, {self.stamp}" if self.stamp else self.unit

    def implausible(self, kind: ContactKind) -> str:
        """Why no defrost bimetal is stamped so, empty where one may be."""
        if kind is not ContactKind.BIMETAL:
            return ""
        (low, high), (least, most) = DEFROST_OPENS, DEFROST_DIFFERENTIAL
        if not low <= self.opens_celsius <= high:
            told = f"it would open at {format_celsius(self.opens_celsius)}"
            return f"{told}; defrost bimetals open between {format_celsius(low)} and {format_celsius(high)}"
        if self.differential and not least <= self.differential_kelvin <= most:
            kelvins = format_value(self.differential_kelvin, Dimension.TEMPERATURE_DIFFERENCE)
            return f"it would close {kelvins} below its opening; usual are {least:g} to {most:g} K"
        return ""


@dataclass(frozen=True, kw_only=True)
class ContactVerdict(Judged):
    """The judgement under one reading of the stamp.

    ``expected`` is ``closed``, ``open`` or ``either``; ``can_judge`` is False for either.
    """

    rating: Rating
    opens_celsius: float
    closes_celsius: float
    expected: str
    can_judge: bool
    implausible: str = ""


def judge_contact(
    kind: ContactKind,
    rating: Rating,
    celsius: float,
    reading: Quantity,
    doubt_kelvin: float = THERMOMETER_KELVIN,
) -> ContactVerdict:
    """Judge a contact at a temperature known to ``doubt_kelvin``, under one reading of its stamp."""
    opens, closes = rating.opens_celsius, _closes(kind, rating)
    margin = PART_CELSIUS + doubt_kelvin
    expected = stands(kind, opens, closes, (celsius - doubt_kelvin, celsius + doubt_kelvin))
    implausible = rating.implausible(kind)
    told = partial(
        ContactVerdict,
        rating=rating,
        opens_celsius=opens,
        closes_celsius=closes,
        expected=expected,
        implausible=implausible,
        questions=_doubt(implausible),
    )
    closed = reading.state is State.SHORT or (reading.state is State.VALUE and reading.number <= CLOSED_OHMS)
    if reading.state is State.VALUE and not closed:
        text = (
            f"{format_ohms(reading.number)} is neither closed nor open: a burnt contact, or another part lies"
            " in the path. Pull its plug and measure again."
        )
        return told(can_judge=True, verdict=Verdict.HIGH, reason=text)
    if kind is ContactKind.THERMAL_FUSE:
        text = (
            "Closed, as a thermal fuse must be."
            if closed
            else "Open: the fuse has blown, at whatever temperature it is now; it never resets. Find what"
            " overheated it, and never bypass it."
        )
        return told(can_judge=True, verdict=Verdict.IN_BAND if closed else Verdict.OPEN, reason=text)
    at = format_celsius(celsius)
    if expected == "either":
        where = (
            f"chill it below {format_celsius(closes - margin)} and measure again"
            if kind is ContactKind.BIMETAL
            else f"bring it above {format_celsius(closes + margin)} or below {format_celsius(opens - margin)}"
        )
        text = f"At {at} it may be open or closed, so this proves nothing: {where}."
        return told(can_judge=False, verdict=Verdict.UNCLEAR, reason=text)
    if kind is ContactKind.BIMETAL and expected == "open" and not closed:
        text = (
            f"Open at {at}, as it should be: a bimetal closes only below {format_celsius(closes)}. A warm"
            " bimetal that reads open is not a fault; chill it to see it close."
        )
        return told(can_judge=False, verdict=Verdict.UNCLEAR, reason=text)
    verdict, text = (
        (Verdict.IN_BAND, f"{expected.capitalize()} at {at}, as it should be.")
        if closed == (expected == "closed")
        else (Verdict.SHORT, f"Closed at {at} where it must be open: welded or stuck.")
        if closed
        else (Verdict.OPEN, f"Open at {at} where it must be closed: it has failed open.")
    )
    return told(can_judge=True, verdict=verdict, reason=text)


def _doubt(implausible: str) -> tuple[Question, ...]:
    if not implausible:
        return ()
    text = f"An implausible stamp for a defrost bimetal: {implausible}. Is it another part, or another unit?"
    return (Question("stamp", text),)


@dataclass(frozen=True)
class Stamp:
    """What is stamped on a contact: a temperature, a second number where there is one, and the unit (empty
    where none stands).

    ``paired`` where both numbers stand in one stamp (60-40): the second may be the differential or the
    temperature it closes at. Otherwise it is the differential.
    """

    opens: float
    second: float = 0.0
    unit: str = ""
    paired: bool = False

    def ratings(self) -> tuple[Rating, ...]:
        """Every way to read it, °C first where no unit stands."""
        found = []
        for unit in (self.unit,) if self.unit else ("°C", "°F"):
            if not self.paired:
                found.append(Rating(self.opens, self.second, unit))
                continue
            if self.second >= 0:
                found.append(Rating(self.opens, self.second, unit, f"{self.second:g} the differential"))
            if self.second < self.opens:
                closes = f"closes at {self.second:g}".replace("-", "−")
                found.append(Rating(self.opens, self.opens - self.second, unit, closes))
        return tuple(found)


STAMPED = re.compile(r"L?\s*([-−]?\d+(?:[.,]\d+)?)\s*(?:([-–/ ])\s*([-−]?\d+(?:[.,]\d+)?))?\s*°?\s*([CF]?)")


def read_stamp(opens: str, differential: str = "", unit: str = "") -> Stamp:
    """A stamp as typed: ``13``, ``55F``, ``60-40``, ``L55-30F``; the differential where it stands apart.

    Raises FrostError saying what to type.
    """
    first, apart = _stamped(opens), _stamped(differential) if differential.strip() else None
    units = {name for name in (unit, first.unit, apart.unit if apart else "") if name}
    if len(units) > 1:
        message = f"“{opens}” and “{differential}” are in different units; a stamp has one, write both in it"
        raise FrostError(message)
    if apart and first.paired:
        message = f"“{opens}” has two numbers and the differential stands apart as well; write it once"
        raise FrostError(message)
    second = apart.opens if apart else first.second
    return Stamp(first.opens, second, units.pop() if units else "", first.paired)


def _stamped(typed: str) -> Stamp:
    found = STAMPED.fullmatch(typed.strip().upper())
    if found is None:
        message = f"“{typed}” is no stamped temperature; write it like 13C, 55F, 60-40 or just 13"
        raise FrostError(message)
    numbers = [each.replace(",", ".").replace("−", "-") for each in (found[1], found[3]) if each]
    for number in numbers:
        parse(number, Dimension.TEMPERATURE)  # what no temperature can be is refused in its own words
    unit = {"C": "°C", "F": "°F"}.get(found[4], "")
    return Stamp(float(numbers[0]), float(numbers[1]) if found[3] else 0.0, unit, bool(found[3]))


def judge_stamp(
    kind: ContactKind,
    stamp: Stamp,
    celsius: float,
    reading: Quantity,
    doubt_kelvin: float = THERMOMETER_KELVIN,
) -> tuple[ContactVerdict, ...]:
    """One verdict for each way to read the stamp, those no such part has last."""
    found = [judge_contact(kind, rating, celsius, reading, doubt_kelvin) for rating in stamp.ratings()]
    return tuple(sorted(found, key=lambda verdict: bool(verdict.implausible)))


def agreed(verdicts: tuple[ContactVerdict, ...]) -> Verdict:
    """The verdict all plausible readings of the stamp share; can't judge where they differ, or where no
    reading of it is plausible."""
    found = {verdict.verdict for verdict in verdicts if not verdict.implausible}
    return found.pop() if len(found) == 1 else Verdict.UNCLEAR


def _closes(kind: ContactKind, rating: Rating) -> float:
    """Where the contact closes again: below its opening for a bimetal, above it for a mechanical
    thermostat."""
    way = {ContactKind.BIMETAL: -1, ContactKind.THERMOSTAT: 1, ContactKind.THERMAL_FUSE: 0}[kind]
    return rating.opens_celsius + way * rating.differential_kelvin


def stands(kind: ContactKind, opens: float, closes: float, between: tuple[float, float]) -> str:
    """How a contact that opens and closes at these temperatures must stand: ``open``, ``closed``, or
    ``either`` where its own temperature lies ``between`` two (all in °C).

    The one physics of such contacts: the quick check asks it, and so does the circuit.
    """
    low, high = between
    match kind:
        case ContactKind.THERMAL_FUSE:
            return "closed"
        case ContactKind.BIMETAL:
            must_open, must_close = low > opens + PART_CELSIUS, high < closes - PART_CELSIUS
        case _:
            must_open, must_close = high < opens - PART_CELSIUS, low > closes + PART_CELSIUS
    return "open" if must_open else "closed" if must_close else "either"
