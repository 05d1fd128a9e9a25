"""Resistance against temperature of a thermistor: table, Beta model, Steinhart-Hart.

Symbols
-------
R       resistance, ohm
T       temperature; degrees Celsius in every public argument and result, kelvin inside formulas
x       1/T, 1/kelvin
L       ln R
B       Beta, kelvin
A, B, C Steinhart-Hart coefficients, 1/K, 1/K, 1/K
α       (1/R)·dR/dT, 1/K
"""

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from frostcore.errors import CurveError
from frostcore.quantity import KELVIN_OFFSET, format_celsius, format_ohms

Floats = NDArray[np.float64]

REFERENCE_CELSIUS = 25.0


class Curve(ABC):
    """A thermistor's resistance against temperature, one-to-one over its domain.

    ``domain`` is the (coldest, hottest) temperature in degrees Celsius the curve was given for. Beyond it
    the curve still answers, by its own formula, and :meth:`extrapolates` says so.
    """

    @property
    @abstractmethod
    def domain(self) -> tuple[float, float]:
        """(coldest, hottest) temperature in degrees Celsius the curve was given for."""

    @abstractmethod
    def ohms(self, celsius: ArrayLike) -> Floats:
        """Resistance in ohms at each temperature in degrees Celsius; same shape as the argument."""

    @abstractmethod
    def celsius(self, ohms: ArrayLike) -> Floats:
        """Temperature in degrees Celsius at each resistance in ohms; same shape as the argument.

        Raises CurveError for a resistance that is not positive or that the curve never reaches.
        """

    def alpha(self, celsius: ArrayLike) -> Floats:
        """Relative sensitivity α = (1/R)·dR/dT in 1/K at each temperature in degrees Celsius; same shape.

        Central difference of ln R over 0.02 K; exact to 1e-6 relative on any smooth curve.
        """
        step, at = 0.01, np.asarray(celsius, dtype=float)
        low, high = np.log(self.ohms(np.stack([at - step, at + step])))
        return (high - low) / (2 * step)

    @property
    def sense(self) -> str:
        """``ntc`` when resistance falls with temperature, ``ptc`` when it rises."""
        cold, hot = self.ohms(list(self.domain))
        return "ntc" if cold > hot else "ptc"

    def extrapolates(self, celsius: float) -> bool:
        """Whether this temperature lies outside what the curve was given for."""
        low, high = self.domain
        return not low - 1e-9 <= celsius <= high + 1e-9

    def extreme_ohms(self) -> tuple[float, float]:
        """The smallest and the largest resistance in ohms within the domain."""
        ends = self.ohms(list(self.domain))
        return float(ends.min()), float(ends.max())


def kelvin(celsius: ArrayLike) -> Floats:
    """Absolute temperature in kelvin, same shape; refuses what lies at or below absolute zero."""
    absolute = np.asarray(celsius, dtype=float) + KELVIN_OFFSET
    if not ((absolute > 0) & (absolute < np.inf)).all():
        message = f"A temperature of {celsius!s} °C is not physical; type degrees Celsius above −273.15."
        raise CurveError(message)
    return absolute


def log_ohms(ohms: ArrayLike) -> Floats:
    """Ln R, same shape; refuses what is not a positive, finite resistance."""
    values = np.asarray(ohms, dtype=float)
    if not ((values > 0) & (values < np.inf)).all():
        message = f"A thermistor can't have {ohms!s} Ω; type a resistance above zero."
        raise CurveError(message)
    return np.log(values)


@dataclass(frozen=True)
class BetaCurve(Curve):
    """R = R0·exp(B·(1/T − 1/T0)), T in kelvin; a negative B makes a PTC curve."""

    reference_ohms: float
    beta_kelvin: float
    reference_celsius: float = REFERENCE_CELSIUS
    domain: tuple[float, float] = (-40.0, 100.0)

    def __post_init__(self) -> None:
        log_ohms(self.reference_ohms)
        kelvin(self.reference_celsius)
        if not math.isfinite(self.beta_kelvin) or self.beta_kelvin == 0:
            message = f"Beta of {self.beta_kelvin} K gives no curve; NTC sensors have about 3000 to 4500 K."
            raise CurveError(message)

    def ohms(self, celsius: ArrayLike) -> Floats:
        return self.reference_ohms * np.exp(
            self.beta_kelvin * (1 / kelvin(celsius) - 1 / kelvin(self.reference_celsius))
        )

    def celsius(self, ohms: ArrayLike) -> Floats:
        inverse = (
            1 / kelvin(self.reference_celsius)
            + (log_ohms(ohms) - math.log(self.reference_ohms)) / self.beta_kelvin
        )
        return _celsius_from_inverse(inverse, ohms)

    def alpha(self, celsius: ArrayLike) -> Floats:
        """α = −B/T²."""
        return -self.beta_kelvin / kelvin(celsius) ** 2


@dataclass(frozen=True)
class SteinhartHartCurve(Curve):
    """1/T = A + B·ln R + C·(ln R)³, T in kelvin.

    Source: Steinhart & Hart, Deep-Sea Research 15 (1968) 497-503.
    """

    a: float
    b: float
    c: float
    domain: tuple[float, float] = (-40.0, 100.0)

    def __post_init__(self) -> None:
        if not all(map(math.isfinite, (self.a, self.b, self.c))):
            message = (
                f"Steinhart-Hart needs three finite coefficients, not A={self.a}, B={self.b}, C={self.c}."
            )
            raise CurveError(message)
        logs = np.log(self.ohms(np.linspace(*self.domain, 57)))
        slope = self.b + 3 * self.c * logs**2
        if np.any(slope == 0) or np.any(np.sign(slope) != np.sign(slope[0])):
            message = (
                f"Steinhart-Hart A={self.a:g}, B={self.b:g}, C={self.c:g} turns back between"
                f" {self.domain[0]:g} and {self.domain[1]:g} °C; check the coefficients."
            )
            raise CurveError(message)

    def ohms(self, celsius: ArrayLike) -> Floats:
        inverse = 1 / kelvin(celsius)
        if self.b == 0:
            message = "Steinhart-Hart with B = 0 is no thermistor's curve; check the coefficients."
            raise CurveError(message)
        if self.c == 0:
            return np.exp((inverse - self.a) / self.b)
        if self.b / self.c < 0:
            # B and C of different sign: the branch through L = 0 ends where the slope B + 3C·L² vanishes.
            ratio = (self.a - inverse) / (2 * self.c) / (-self.b / (3 * self.c)) ** 1.5
            if np.any(np.abs(ratio) > 1):
                message = (
                    f"Steinhart-Hart A={self.a:g}, B={self.b:g}, C={self.c:g} has no resistance at"
                    f" {celsius!s} °C."
                )
                raise CurveError(message)
        return np.exp(self._solve(inverse))

    def _solve(self, inverse: Floats) -> Floats:
        """L of A + B·L + C·L³ = 1/T by Newton from the C = 0 answer.

        From there the cubic is convex or concave all the way to the root, so the steps never overshoot it.
        """
        logs = (inverse - self.a) / self.b
        for _ in range(100):
            step = (self.a - inverse + logs * (self.b + self.c * logs**2)) / (self.b + 3 * self.c * logs**2)
            logs = logs - step
            if np.all(np.abs(step) <= 1e-14 * (1 + np.abs(logs))):
                return logs
        message = (
            f"Steinhart-Hart A={self.a:g}, B={self.b:g}, C={self.c:g} did not settle on a resistance; check"
            " the coefficients."
        )
        raise CurveError(message)

    def celsius(self, ohms: ArrayLike) -> Floats:
        logs = log_ohms(ohms)
        return _celsius_from_inverse(self.a + self.b * logs + self.c * logs**3, ohms)

    def alpha(self, celsius: ArrayLike) -> Floats:
        """α = −1/(T²·(B + 3C·L²))."""
        logs = np.log(self.ohms(celsius))
        return -1 / (kelvin(celsius) ** 2 * (self.b + 3 * self.c * logs**2))


@dataclass(frozen=True)
class TableCurve(Curve):
    """A maker's table: ln R interpolated straight over 1/T between rows, end slopes carried beyond.

    ``rows`` is a tuple of (celsius, ohms) pairs, at least two, one-to-one; any order.
    """

    rows: tuple[tuple[float, float], ...]
    _inverse: Floats = field(init=False, repr=False, compare=False)
    _logs: Floats = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        if len(self.rows) < 2:
            message = f"A table needs at least two rows to give a curve; this one has {len(self.rows)}."
            raise CurveError(message)
        celsius, ohms = np.array(sorted(self.rows), dtype=float).T
        inverse, logs = 1 / kelvin(celsius), log_ohms(ohms)
        steps, rises = np.diff(inverse), np.diff(logs)
        if np.any(steps == 0) or np.any(rises == 0) or np.any(np.sign(rises) != np.sign(rises[0])):
            message = (
                "The table's resistance must rise or fall all the way with temperature, one row for each"
                " temperature."
            )
            raise CurveError(message)
        object.__setattr__(
            self, "rows", tuple((float(t), float(r)) for t, r in zip(celsius, ohms, strict=True))
        )
        object.__setattr__(self, "_inverse", inverse)
        object.__setattr__(self, "_logs", logs)

    @property
    def domain(self) -> tuple[float, float]:
        """The coldest and the hottest row, in degrees Celsius."""
        return self.rows[0][0], self.rows[-1][0]

    def ohms(self, celsius: ArrayLike) -> Floats:
        return np.exp(_piecewise(1 / kelvin(celsius), self._inverse, self._logs))

    def celsius(self, ohms: ArrayLike) -> Floats:
        return _celsius_from_inverse(_piecewise(log_ohms(ohms), self._logs, self._inverse), ohms)


def _piecewise(at: Floats, xs: Floats, ys: Floats) -> Floats:
    """Straight lines through (xs, ys), xs strictly monotonic either way, end segments carried on."""
    if xs[0] > xs[-1]:
        xs, ys = xs[::-1], ys[::-1]
    index = np.clip(np.searchsorted(xs, at) - 1, 0, len(xs) - 2)
    share = (at - xs[index]) / (xs[index + 1] - xs[index])
    return ys[index] * (1 - share) + ys[index + 1] * share


def _celsius_from_inverse(inverse: Floats, ohms: ArrayLike) -> Floats:
    if np.any(inverse <= 0) or not np.all(np.isfinite(inverse)):
        message = f"The curve reaches no temperature for {ohms!s} Ω."
        raise CurveError(message)
    return 1 / inverse - KELVIN_OFFSET


def describe(curve: Curve) -> str:
    """The curve in one line: what kind it is and its resistance at 0 and 25 °C."""
    kind = {BetaCurve: "Beta model", SteinhartHartCurve: "Steinhart-Hart", TableCurve: "table"}[type(curve)]
    if isinstance(curve, BetaCurve):
        kind += f", B = {curve.beta_kelvin:.0f} K"
    at_zero, at_room = curve.ohms([0.0, REFERENCE_CELSIUS])
    return (
        f"{curve.sense.upper()} {kind}; {format_ohms(at_zero)} at 0 °C, {format_ohms(at_room)} at"
        f" {format_celsius(REFERENCE_CELSIUS)}"
    )
