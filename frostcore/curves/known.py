"""Known curves: those of sheets, and generic NTC families by R25 and Beta.

And which of them fits measured points.

Symbols
-------
n       number of points
r       residual ln R(measured) − ln R(curve), shape (n,)
w       how far the sensor's own R moves the reading, d ln R(reading)/d ln R(sensor), shape (n,); 1 for a
bare sensor Σ       covariance of r, shape (n, n)

Limits are taken as rectangular: a limit of ±a has variance a²/3. Thermometer and meter err anew at each
point; the sensor's tolerance moves all points together.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from frostcore import document
from frostcore.curves.fit import fit_beta
from frostcore.curves.model import REFERENCE_CELSIUS, BetaCurve, Curve, Floats, kelvin
from frostcore.curves.verdict import Limits, SensorPoint
from frostcore.errors import CurveError
from frostcore.quantity import State, format_ohms
from frostcore.sheet.model import Sheet

GENERIC_OHMS = (
    1000,
    2000,
    2200,
    2700,
    3000,
    3300,
    4700,
    5000,
    10000,
    15000,
    20000,
    30000,
    47000,
    50000,
    100000,
)
GENERIC_BETAS = (3435, 3650, 3950)
PROFILE_CELSIUS = (-20.0, -10.0, 0.0, 10.0, 20.0, 30.0, 40.0)
ID_LENGTH = 12
"""So many digits of a curve's digest name it."""


@dataclass(frozen=True)
class KnownCurve:
    """A curve with the name people know it by; ``source`` is a sheet's title, or ``generic``.

    ``id`` stands for what the curve says, so that an address that names it never comes to mean another.
    """

    id: str
    name: str
    curve: Curve
    source: str

    @property
    def r25_ohms(self) -> float:
        """Resistance at 25 °C, in ohms."""
        return float(self.curve.ohms(REFERENCE_CELSIUS))

    @cached_property
    def profile(self) -> Floats:
        """Ln R at ``PROFILE_CELSIUS``: what tells two curves apart where refrigerators work."""
        return np.log(self.curve.ohms(PROFILE_CELSIUS))

    @property
    def beta_kelvin(self) -> float:
        """Beta between 0 and 50 °C, in kelvin: ln(R0/R50)/(1/T0 − 1/T50)."""
        cold, hot = np.log(self.curve.ohms([0.0, 50.0]))
        return float((cold - hot) / (1 / kelvin(0.0) - 1 / kelvin(50.0)))


def generic_families() -> tuple[KnownCurve, ...]:
    """The usual NTC thermistors, every R25 with every Beta."""
    return tuple(
        KnownCurve(
            f"ntc-{ohms}-{beta}",
            f"NTC {format_ohms(ohms)} at 25 °C, B {beta} K",
            BetaCurve(ohms, beta),
            "generic",
        )
        for ohms in GENERIC_OHMS
        for beta in GENERIC_BETAS
    )


def curves_of(sheets: Iterable[Sheet]) -> tuple[KnownCurve, ...]:
    """Every sensor curve of the sheets; sheets that share one give it once, under the first's name."""
    known: dict[str, KnownCurve] = {}
    for sheet in sheets:
        for name, given in sheet.curves.items():
            key = document.digest(document.write(given))[:ID_LENGTH]
            if key not in known:
                users = [sheet.sensor_name(item).lower() for item in sheet.sensors if item.curve == name]
                title = f"{sheet.title}: {', '.join(users) or name}"
                known[key] = KnownCurve(key, title, given.curve(), sheet.title)
    return tuple(known.values())


def numbers(points: Iterable[SensorPoint]) -> tuple[Floats, Floats]:
    """Temperatures in degrees Celsius and resistances in ohms, shape (n,) each, of the points that have a
    number."""
    valued = [
        point for point in points if point.resistance.state is State.VALUE and point.resistance.number > 0
    ]
    return np.array([point.temperature.value for point in valued]), np.array(
        [point.resistance.value for point in valued]
    )


BETA_TOLERANCE = 0.01
"""What good parts' Beta varies by, as a fraction; their tolerance is that of R at the reference."""


@dataclass(frozen=True)
class Sensitivity:
    """How ln R of a curve moves at n temperatures: α in 1/K with the temperature, ``lever`` with the share
    Beta is off by (n each).

    ln R = ln R₀ + B·(1/T − 1/T₀) and α = −B/T², so a Beta that is off by the share b moves ln R by
    b·B·(1/T − 1/T₀) = −b·α·(T − T²/T₀).
    """

    alphas: Floats
    levers: Floats

    @classmethod
    def of(cls, curve: Curve, celsius: Floats) -> "Sensitivity":
        """A curve's at these temperatures in °C."""
        alphas, absolute = curve.alpha(celsius), kelvin(celsius)
        return cls(alphas, -alphas * (absolute - absolute**2 / kelvin(REFERENCE_CELSIUS)))


def misfit(residuals: Floats, moves: Sensitivity, weights: Floats, limits: Limits) -> Floats:
    """Minus twice the log likelihood of residuals r, up to a constant: rᵀΣ⁻¹r + ln det Σ.

    ``residuals`` and ``weights`` have shape (…, n), the answer (…). Σ = diag(v) + U·Uᵀ with
    v = ((w·α·d)² + m²)/3, m no smaller than the meter's last digit, and two columns of U that all points
    share: u₁ = w·t/√3 of the tolerance t, u₂ = w·l·b/√3 of Beta's b with its lever l. So (Woodbury and the
    determinant lemma, M = I + UᵀV⁻¹U, g = UᵀV⁻¹r)

        rᵀΣ⁻¹r = Σ r²/v − gᵀM⁻¹g,   ln det Σ = Σ ln v + ln det M.
    """
    variance = ((weights * moves.alphas * limits.doubt_kelvin) ** 2 + limits.meter_tells**2) / 3
    first = weights * limits.tolerance / math.sqrt(3)
    second = weights * moves.levers * BETA_TOLERANCE / math.sqrt(3)
    a, c = (1 + np.sum(each**2 / variance, axis=-1) for each in (first, second))
    b = np.sum(first * second / variance, axis=-1)
    f, g = (np.sum(residuals * each / variance, axis=-1) for each in (first, second))
    area = a * c - b**2
    square = np.sum(residuals**2 / variance, axis=-1) - (c * f**2 - 2 * b * f * g + a * g**2) / area
    return square + np.sum(np.log(variance), axis=-1) + np.log(area)


def curve_misfit(curve: Curve, celsius: Floats, ohms: Floats, limits: Limits) -> float:
    """:func:`misfit` of a bare sensor with this curve."""
    residuals = np.log(ohms) - np.log(curve.ohms(celsius))
    return float(misfit(residuals, Sensitivity.of(curve, celsius), np.ones_like(ohms), limits))


@dataclass(frozen=True)
class Identified:
    """One candidate with its share of the likelihood; weights of one answer sum to 1."""

    known: KnownCurve
    weight: float


def identify(
    points: list[SensorPoint], library: Iterable[KnownCurve], limits: Limits
) -> tuple[Identified, ...]:
    """Known curves ranked by likelihood for measured points, likeliest first.

    Raises CurveError when no point has a number.
    """
    celsius, ohms = numbers(points)
    if not len(ohms):
        message = "Nothing to identify: every reading is open or short. Measure a sensor that reads a number."
        raise CurveError(message)
    library = tuple(library)
    scores = np.array([curve_misfit(known.curve, celsius, ohms, limits) for known in library])
    weights = np.exp(-(scores - scores.min()) / 2)
    weights /= weights.sum()
    order = np.argsort(-weights, kind="stable")
    return tuple(Identified(library[index], float(weights[index])) for index in order)


def fitted(points: list[SensorPoint]) -> BetaCurve | None:
    """The Beta curve through the points themselves, or None where they cannot fix one (fewer than two
    temperatures 5 K apart, or a stray far off all others)."""
    celsius, ohms = numbers(points)
    if len(celsius) < 2 or np.ptp(celsius) < 5:
        return None
    try:
        curve = fit_beta(celsius, ohms).curve
    except CurveError:
        return None  # a stray so far off that the line through all reaches no temperature for it
    return curve if isinstance(curve, BetaCurve) and math.isfinite(curve.beta_kelvin) else None
