"""The curve picture laid out: axes, curve, band, crosses for readings.

Geometry only; a template draws it. User units are those of the viewBox, y downward. R is on a log axis, T
on a linear one.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from frostcore.curves.model import Curve
from frostcore.curves.verdict import Limits, SensorVerdict, expected_band
from frostcore.degrees import degrees
from frostcore.quantity import (
    celsius_from_fahrenheit,
    fahrenheit_from_celsius,
    format_celsius,
    format_ohms,
)
from frostcore.verdict import Verdict

WIDTH, HEIGHT = 420, 330
LEFT, RIGHT, TOP, BOTTOM = 50, 408, 14, 292


@dataclass(frozen=True)
class Tick:
    """A tick on an axis: its place along the axis, its label, and whether the label is written."""

    at: float
    label: str


@dataclass(frozen=True)
class Cross:
    """A reading: its centre, the half-widths of its doubt, its verdict, and the words for it.

    ``believed_x`` is where the board believes to be on the temperature axis (None when off the picture);
    an open or short reading sits on the upper or lower edge.
    """

    x: float
    y: float
    half_width: float
    half_height: float
    verdict: Verdict
    expected_y: float
    believed_x: float | None
    text: str


@dataclass(frozen=True)
class CurvePicture:
    """All of the picture."""

    line: str
    band: str
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    crosses: tuple[Cross, ...]
    summary: str
    width: int = WIDTH
    height: int = HEIGHT
    unit: str = "°C"
    left: int = LEFT
    right: int = RIGHT
    top: int = TOP
    bottom: int = BOTTOM


def draw(curve: Curve, limits: Limits, verdicts: tuple[SensorVerdict, ...] = ()) -> CurvePicture:
    """Lay the picture out for a curve and the readings on it."""
    low_c, high_c = _temperature_range(curve, verdicts)
    span = np.linspace(low_c, high_c, 61)
    bands = [expected_band(curve, float(celsius), limits) for celsius in span]
    finite = [
        v.point.resistance.value
        for v in verdicts
        if v.point.resistance.value and v.verdict not in {Verdict.OPEN, Verdict.SHORT}
    ]
    low_log = math.log10(min([band.low for band in bands] + finite)) - 0.04
    high_log = math.log10(max([band.high for band in bands] + finite)) + 0.04

    def x_at(celsius: float) -> float:
        return round(LEFT + (celsius - low_c) / (high_c - low_c) * (RIGHT - LEFT), 1)

    def y_at(ohms: float) -> float:
        return round(BOTTOM - (math.log10(ohms) - low_log) / (high_log - low_log) * (BOTTOM - TOP), 1)

    xs = [x_at(float(celsius)) for celsius in span]
    line = _path([(x, y_at(band.nominal)) for x, band in zip(xs, bands, strict=True)])
    upper = [(x, y_at(band.high)) for x, band in zip(xs, bands, strict=True)]
    lower = [(x, y_at(band.low)) for x, band in zip(xs, bands, strict=True)]
    x_ticks = tuple(Tick(x_at(celsius), text) for celsius, text in _degree_ticks(low_c, high_c))
    y_ticks = tuple(
        Tick(y_at(mantissa * 10.0**decade), _short_ohms(mantissa * 10.0**decade))
        for decade in range(math.floor(low_log), math.ceil(high_log) + 1)
        for mantissa in (1, 2, 5)
        if low_log <= math.log10(mantissa) + decade <= high_log
    )
    crosses = tuple(_cross(verdict, limits, x_at, y_at, (low_c, high_c)) for verdict in verdicts)
    summary = (
        f"Resistance from {format_ohms(bands[0].nominal)} at {format_celsius(low_c)} to"
        f" {format_ohms(bands[-1].nominal)} at {format_celsius(high_c)}."
    )
    return CurvePicture(
        line,
        _path(upper + lower[::-1]) + "Z",
        x_ticks,
        y_ticks,
        crosses,
        " ".join([summary, *(cross.text for cross in crosses)]),
        unit=degrees(),
    )


def _degree_ticks(low_c: float, high_c: float) -> list[tuple[float, str]]:
    """Whole tens of the degrees that hold here: °C and what is written."""
    step = 10 if high_c - low_c <= 80 else 20
    low, high = low_c, high_c
    if degrees() == "°F":
        low, high, step = fahrenheit_from_celsius(low_c), fahrenheit_from_celsius(high_c), 2 * step
    shown = range(math.ceil(low / step) * step, int(high) + 1, step)
    at = [celsius_from_fahrenheit(each) if degrees() == "°F" else float(each) for each in shown]
    return [(celsius, f"{each:g}".replace("-", "−")) for celsius, each in zip(at, shown, strict=True)]


def _temperature_range(curve: Curve, verdicts: tuple[SensorVerdict, ...]) -> tuple[float, float]:
    low, high = curve.domain
    low, high = max(low, -40.0), min(high, 60.0)
    for verdict in verdicts:
        low, high = (
            min(low, verdict.point.temperature.number - 3),
            max(high, verdict.point.temperature.number + 3),
        )
    return low, high


def _cross(
    verdict: SensorVerdict,
    limits: Limits,
    x_at: Callable[[float], float],
    y_at: Callable[[float], float],
    span: tuple[float, float],
) -> Cross:
    celsius = verdict.point.temperature.number
    x, expected_y = x_at(celsius), y_at(verdict.band.nominal)
    half_width = max(4.0, x_at(celsius + limits.doubt_kelvin) - x)
    believed = verdict.implied_celsius
    believed_x = x_at(believed) if believed is not None and span[0] <= believed <= span[1] else None
    text = f"Reading {verdict.point.resistance.text} at {format_celsius(celsius)}: {verdict.verdict.label}."
    match verdict.verdict:
        case Verdict.OPEN:
            return Cross(x, TOP, half_width, 0, verdict.verdict, expected_y, None, text)
        case Verdict.SHORT:
            return Cross(x, BOTTOM, half_width, 0, verdict.verdict, expected_y, None, text)
    ohms = verdict.point.resistance.number
    y = y_at(ohms)
    half_height = max(4.0, y - y_at(ohms * (1 + limits.meter))) if limits.meter else 4.0
    return Cross(x, y, half_width, half_height, verdict.verdict, expected_y, believed_x, text)


def _short_ohms(ohms: float) -> str:
    if ohms >= 1e6:
        return f"{ohms / 1e6:g} MΩ"
    return f"{ohms / 1e3:g} kΩ" if ohms >= 1e3 else f"{ohms:g} Ω"


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in points)
