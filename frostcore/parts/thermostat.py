"""Contacts that depend on temperature: bimetal (defrost) thermostats, mechanical thermostats, thermal
fuses.

A bimetal is closed when colder than its reset temperature and open when warmer than its opening
temperature; between the two it stays as it was, so nothing there can be judged. A mechanical thermostat
is the other way round: closed (cooling) when warmer than its cut-in. A thermal fuse opens once, and never
resets.
"""

from dataclasses import dataclass
from enum import StrEnum
from functools import partial

from frostcore.errors import FrostError
from frostcore.quantity import Quantity, State, celsius_from_fahrenheit, format_celsius, format_ohms
from frostcore.verdict import Judged, Verdict

CLOSED_OHMS = 2.0
"""A closed contact with its leads reads at most this."""

THERMOMETER_KELVIN = 1.0
PART_CELSIUS = 3.0
"""Stamped temperatures are held to about this."""


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
    expected = _expected(kind, rating, celsius, margin)
    told = partial(
        ContactVerdict, rating=rating, opens_celsius=opens, closes_celsius=closes, expected=expected
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


def judge_stamp(  # noqa: PLR0913, PLR0917 -- a stamp, a temperature and a reading, each in its parts
    kind: ContactKind,
    opens: float,
    differential: float,
    unit: str,
    celsius: float,
    reading: Quantity,
    doubt_kelvin: float = THERMOMETER_KELVIN,
) -> tuple[ContactVerdict, ...]:
    """One verdict where the stamp names its unit, else both readings of it, °C first."""
    units = (unit,) if unit else ("°C", "°F")
    return tuple(
        judge_contact(kind, Rating(opens, differential, name), celsius, reading, doubt_kelvin)
        for name in units
    )


def agreed(verdicts: tuple[ContactVerdict, ...]) -> Verdict:
    """The verdict all readings of the stamp share; can't judge where they differ."""
    found = {verdict.verdict for verdict in verdicts}
    return found.pop() if len(found) == 1 else Verdict.UNCLEAR


def _closes(kind: ContactKind, rating: Rating) -> float:
    """Where the contact closes again: below its opening for a bimetal, above it for a mechanical
    thermostat."""
    way = {ContactKind.BIMETAL: -1, ContactKind.THERMOSTAT: 1, ContactKind.THERMAL_FUSE: 0}[kind]
    return rating.opens_celsius + way * rating.differential_kelvin


def _expected(kind: ContactKind, rating: Rating, celsius: float, margin: float) -> str:
    opens, closes = rating.opens_celsius, _closes(kind, rating)
    match kind:
        case ContactKind.THERMAL_FUSE:
            return "closed"
        case ContactKind.BIMETAL:
            return "open" if celsius > opens + margin else "closed" if celsius < closes - margin else "either"
    return "closed" if celsius > closes + margin else "open" if celsius < opens - margin else "either"
