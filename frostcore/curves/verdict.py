"""The verdict on a thermistor reading, with the reasons a screen shows as they are.

Symbols
-------
R       resistance read, ohm
T       the sensor's temperature by thermometer, degrees Celsius
t       sensor tolerance, fraction of R
d       doubt about T, kelvin
m       meter accuracy, fraction of R

The band holds every reading that a sensor within tolerance can give:

    low  = min R(T ± d) · (1 − t) · (1 − m)
    high = max R(T ± d) · (1 + t) · (1 + m)

Limits are added, not averaged: a part is accused only when no combination of them explains it.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from frostcore.curves.model import Curve
from frostcore.errors import CurveError
from frostcore.quantity import (
    Dimension,
    Quantity,
    State,
    celsius_from_fahrenheit,
    fahrenheit_from_celsius,
    format_celsius,
    format_ohms,
    format_value,
)
from frostcore.verdict import Band, Judged, Question, Verdict

DEFAULT_TOLERANCE = 0.10
DEFAULT_DOUBT_KELVIN = 0.5
DEFAULT_METER = 0.01
SHORT_SHARE = 0.02
"""A reading below this share of the curve's smallest resistance is a short, not a warm sensor."""

ROUNDING = 1e-9
"""A reading on the band's very edge is in it, whatever the last binary digit says."""


class Role(StrEnum):
    """What the board uses a sensor for, which decides what an error in it does."""

    CABINET = "cabinet"
    DEFROST_END = "defrost_end"
    AMBIENT = "ambient"
    MODULE = "module"


LAST_DIGIT = 0.003
"""No meter tells a resistance better than this share of it."""


@dataclass(frozen=True)
class Limits:
    """What may legitimately move a reading: sensor tolerance, thermometer doubt, meter accuracy."""

    tolerance: float = DEFAULT_TOLERANCE
    doubt_kelvin: float = DEFAULT_DOUBT_KELVIN
    meter: float = DEFAULT_METER

    def __post_init__(self) -> None:
        for name, value, top in (
            ("sensor tolerance", self.tolerance, 1.0),
            ("meter accuracy", self.meter, 1.0),
            ("thermometer doubt", self.doubt_kelvin, 50.0),
        ):
            if not (math.isfinite(value) and 0 <= value < top):
                message = (
                    f"A {name} of {value:g} makes no band; give 0 or more and less than"
                    f" {top:g}{' K' if top > 1 else ' (100 %)'}."
                )
                raise CurveError(message)

    @property
    def meter_tells(self) -> float:
        """How well the meter tells a resistance, as a share of it: its accuracy, or its last digit."""
        return max(self.meter, LAST_DIGIT)


@dataclass(frozen=True)
class SensorPoint:
    """One reading: resistance (value, open or short) at a temperature, both as understood."""

    resistance: Quantity
    temperature: Quantity


@dataclass(frozen=True, kw_only=True)
class SensorVerdict(Judged):
    """The judgement on one point; its reason is what the reading does to the unit, ``why`` how it was come
    by.

    ``error_kelvin`` is positive when the board believes it is warmer than it is.
    """

    point: SensorPoint
    band: Band
    implied_celsius: float | None
    error_kelvin: float | None
    doubt_share: float
    departure: float
    extrapolated: bool
    why: tuple[str, ...]


def expected_band(curve: Curve, celsius: float, limits: Limits) -> Band:
    """The band in ohms at a temperature in degrees Celsius, by the two formulas at the module's head."""
    coldest, nominal, hottest = (
        float(value)
        for value in curve.ohms([celsius - limits.doubt_kelvin, celsius, celsius + limits.doubt_kelvin])
    )
    low, high = min(coldest, hottest), max(coldest, hottest)
    return Band(
        low * (1 - limits.tolerance) * (1 - limits.meter),
        nominal,
        high * (1 + limits.tolerance) * (1 + limits.meter),
    )


def doubt_share(curve: Curve, celsius: float, limits: Limits) -> float:
    """How far thermometer and meter alone can move a reading, as a fraction of the nominal resistance."""
    alone = expected_band(curve, celsius, Limits(0.0, limits.doubt_kelvin, limits.meter))
    return max(1 - alone.low / alone.nominal, alone.high / alone.nominal - 1)


def judge_sensor(
    curve: Curve, point: SensorPoint, limits: Limits, role: Role = Role.CABINET
) -> SensorVerdict:
    """Judge one reading against its curve.

    Raises CurveError where the curve gives no resistance at the temperature.
    """
    celsius = point.temperature.number
    band = expected_band(curve, celsius, limits)
    share = doubt_share(curve, celsius, limits)
    verdict = _place(curve, point.resistance, band, share, limits)
    implied = _implied(curve, point.resistance, verdict)
    error = None if implied is None else implied - celsius
    return SensorVerdict(
        point=point,
        verdict=verdict,
        band=band,
        implied_celsius=implied,
        error_kelvin=error,
        doubt_share=share,
        departure=_departure(point.resistance, verdict, band),
        extrapolated=curve.extrapolates(celsius),
        why=_reasons(curve, point, verdict, band, share, limits),
        reason=consequence(curve, verdict, error, role),
        questions=slips(curve, point, verdict, limits),
    )


def judge_all(
    curve: Curve, points: list[SensorPoint], limits: Limits, role: Role = Role.CABINET
) -> tuple[SensorVerdict, tuple[SensorVerdict, ...]]:
    """The verdict that decides (the farthest outside its band, else one in band, else the first) and all,
    in order."""
    if not points:
        message = "No reading given; type at least one resistance with its temperature."
        raise CurveError(message)
    verdicts = tuple(judge_sensor(curve, point, limits, role) for point in points)
    outside = [verdict for verdict in verdicts if verdict.departure > 0]
    if outside:
        return max(outside, key=lambda verdict: verdict.departure), verdicts
    return (
        next((verdict for verdict in verdicts if verdict.verdict is Verdict.IN_BAND), verdicts[0]),
        verdicts,
    )


def _place(curve: Curve, resistance: Quantity, band: Band, share: float, limits: Limits) -> Verdict:
    if resistance.state is State.OPEN:
        return Verdict.OPEN
    if resistance.state is State.SHORT or resistance.number < SHORT_SHARE * min(
        curve.extreme_ohms()[0], band.low
    ):
        return Verdict.SHORT
    if resistance.number > band.high * (1 + ROUNDING):
        return Verdict.HIGH
    if resistance.number < band.low * (1 - ROUNDING):
        return Verdict.LOW
    return Verdict.UNCLEAR if share > limits.tolerance else Verdict.IN_BAND


COLDEST_CELSIUS, HOTTEST_CELSIUS = -60.0, 100.0
"""Colder or hotter than this nothing in a refrigerator is that a sensor sits on."""


def _implied(curve: Curve, resistance: Quantity, verdict: Verdict) -> float | None:
    """The temperature the reading stands for; None where there is none, or none that can be."""
    if verdict in {Verdict.OPEN, Verdict.SHORT}:
        return None
    try:
        celsius = float(curve.celsius(resistance.number))
    except CurveError:
        return None
    return celsius if COLDEST_CELSIUS <= celsius <= HOTTEST_CELSIUS else None


def _departure(resistance: Quantity, verdict: Verdict, band: Band) -> float:
    """How far outside the band, as |ln| of the ratio to the nearer limit.

    0 inside, infinite when open or short.
    """
    match verdict:
        case Verdict.OPEN | Verdict.SHORT:
            return math.inf
        case Verdict.HIGH:
            return math.log(resistance.number / band.high)
        case Verdict.LOW:
            return math.log(band.low / resistance.number)
    return 0.0


GUIDE_POINTS = (
    (-18.0, "in the freezer"),
    (0.0, "in an ice bath"),
    (22.0, "at room warmth"),
    (35.0, "in the closed hand"),
)
"""Temperatures a repairer can make anywhere, in degrees Celsius."""

NEAR_KELVIN = 8.0
"""A reading this near to a guide point counts as taken there."""


def second_point(celsius: float) -> tuple[float, str]:
    """The guide point to take after one at this temperature: the ice bath, which is the surest, else room
    warmth; (°C, where)."""
    surest, next_best = GUIDE_POINTS[1], GUIDE_POINTS[2]
    return surest if abs(celsius - surest[0]) > NEAR_KELVIN else next_best


def _reasons(
    curve: Curve, point: SensorPoint, verdict: Verdict, band: Band, share: float, limits: Limits
) -> tuple[str, ...]:
    celsius = point.temperature.number
    at = format_celsius(celsius)
    good = f"{format_ohms(band.low)} to {format_ohms(band.high)}"
    reasons = [f"At {at} the curve gives {format_ohms(band.nominal)}; a good sensor reads {good}."]
    widened = (band.high / band.nominal - 1) - limits.tolerance
    reasons.append(
        f"Band: sensor ±{limits.tolerance * 100:.0f} %, widened to −{(1 - band.low / band.nominal) * 100:.1f}"
        f" / +{(limits.tolerance + widened) * 100:.1f} % by a thermometer good to"
        f" {format_value(limits.doubt_kelvin, Dimension.TEMPERATURE_DIFFERENCE)}"
        f" ({abs(curve.alpha(celsius)) * 100:.1f} % of resistance per kelvin here) and a meter good to"
        f" {limits.meter * 100:g} %."
    )
    match verdict:
        case Verdict.OPEN:
            reasons.append(
                "The meter shows over limit. Set it to its highest range once before you believe it: a cold"
                " sensor can be above a low range."
            )
        case Verdict.SHORT:
            reasons.append(
                "Next to nothing is left of the sensor's resistance: touch the leads together and compare,"
                " then look for a pinched or wet harness."
            )
        case Verdict.HIGH | Verdict.LOW:
            off = point.resistance.number / band.nominal - 1
            reasons.append(
                f"{format_ohms(point.resistance.number)} is {abs(off) * 100:.0f} %"
                f" {'above' if off > 0 else 'below'} the curve: outside the band."
            )
        case Verdict.UNCLEAR:
            reasons.append(
                f"Thermometer and meter alone move the reading by {share * 100:.0f} %, more than the sensor's"
                f" own ±{limits.tolerance * 100:.0f} %: this point can't judge it. "
                + (
                    f"An ice bath ({format_celsius(0.0)}, stirred, settled) can."
                    if abs(celsius) > NEAR_KELVIN
                    else "A better thermometer can."
                )
            )
        case Verdict.IN_BAND:
            reasons.append(
                "One point in band is weak evidence; a second at another temperature, such as"
                f" {second_point(celsius)[1]}, makes it firm."
            )
    if curve.extrapolates(celsius):
        low, high = curve.domain
        reasons.append(
            f"{at} lies outside the curve's own range of {format_celsius(low)} to {format_celsius(high)}: the"
            " expected value is extrapolated."
        )
    return tuple(reasons)


def consequence(curve: Curve, verdict: Verdict, error_kelvin: float | None, role: Role) -> str:
    """What the reading does to the unit: the board's belief against the truth, and which way that
    errs."""
    if verdict in {Verdict.OPEN, Verdict.SHORT}:
        believes_hot = (verdict is Verdict.SHORT) == (curve.sense == "ntc")
        return (
            f"The board believes it is far too {'warm' if believes_hot else 'cold'}; most boards see that as"
            " a sensor fault and fall back to a fixed cycle."
        )
    if error_kelvin is None:
        span = f"{format_celsius(COLDEST_CELSIUS)} to {format_celsius(HOTTEST_CELSIUS)}"
        return (
            f"No temperature from {span} reads so on this curve: the wrong kind of sensor, or a fault in its"
            " wire. Set it against the curves that are known."
        )
    if verdict in {Verdict.IN_BAND, Verdict.UNCLEAR}:
        return (
            f"The board's belief differs from the thermometer by {_kelvin(error_kelvin)}, which these limits"
            " explain."
        )
    size, warmer = _kelvin(abs(error_kelvin)), error_kelvin > 0
    belief = f"The board believes it is {size} {'warmer' if warmer else 'colder'} than it is"
    match role:
        case Role.CABINET | Role.MODULE:
            return (
                f"{belief}, so it {'overcools' if warmer else 'undercools'}: the cabinet settles about {size}"
                f" too {'cold' if warmer else 'warm'}."
            )
        case Role.DEFROST_END:
            if warmer:
                return f"{belief}, so defrost ends about {size} too early; ice is left on the coil."
            return (
                f"{belief}, so defrost ends about {size} too late, or only by its time-out; the coil is"
                " overheated."
            )
        case Role.AMBIENT:
            return f"{belief}, so it corrects for a room that is {size} too {'warm' if warmer else 'cold'}."


def _kelvin(difference: float) -> str:
    return format_value(difference, Dimension.TEMPERATURE_DIFFERENCE)


def slips(curve: Curve, point: SensorPoint, verdict: Verdict, limits: Limits) -> tuple[Question, ...]:
    """Unit slips that would explain a reading outside its band: Ω for kΩ and back, °F for °C and back."""
    if point.resistance.state is not State.VALUE or verdict in {Verdict.IN_BAND, Verdict.UNCLEAR}:
        return ()
    questions = []
    ohms, celsius = point.resistance.number, point.temperature.number
    for factor in (1e3, 1e-3):
        if (other := _fits(curve, ohms * factor, celsius, limits)) is not None:
            meant = Quantity(Dimension.RESISTANCE, float(f"{ohms * factor:.12g}"))
            questions.append(
                Question(
                    "unit_slip",
                    f"Was it {format_ohms(ohms * factor)}, not {format_ohms(ohms)}? Then it would be"
                    f" {other.label}.",
                    "value",
                    meant.canonical,
                    other,
                )
            )
    if point.temperature.typed_unit == "°F":
        as_typed, meant_celsius, shown = (
            "°F",
            fahrenheit_from_celsius(celsius),
            f"{fahrenheit_from_celsius(celsius):g} °C",
        )
    else:
        as_typed, meant_celsius, shown = (
            "°C",
            celsius_from_fahrenheit(celsius),
            f"{celsius:g} °F ({format_celsius(celsius_from_fahrenheit(celsius))})",
        )
    if (other := _fits(curve, ohms, meant_celsius, limits)) is not None:
        typed = f"{celsius:g} °C" if as_typed == "°C" else f"{fahrenheit_from_celsius(celsius):g} °F"
        meant = Quantity(Dimension.TEMPERATURE, float(f"{meant_celsius:.9g}"))
        questions.append(
            Question(
                "unit_slip",
                f"Was the temperature {shown}, not {typed}? Then it would be {other.label}.",
                "temperature",
                meant.canonical,
                other,
            )
        )
    return tuple(questions)


def _fits(curve: Curve, ohms: float, celsius: float, limits: Limits) -> Verdict | None:
    """The verdict a corrected reading would get when it lands inside its band, else None."""
    if celsius <= -100:
        return None
    low, high = curve.domain
    if not low - 20 <= celsius <= high + 20:
        return None
    band = expected_band(curve, celsius, limits)
    if not band.low <= ohms <= band.high:
        return None
    return Verdict.UNCLEAR if doubt_share(curve, celsius, limits) > limits.tolerance else Verdict.IN_BAND
