"""Curves through measured points: Beta and Steinhart-Hart by least squares, with residuals.

Symbols as in :mod:`frostcore.curves.model`; n is the number of points.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from frostcore.curves.model import (
    REFERENCE_CELSIUS,
    BetaCurve,
    Curve,
    Floats,
    SteinhartHartCurve,
    kelvin,
    log_ohms,
)
from frostcore.errors import CurveError


@dataclass(frozen=True)
class Fit:
    """A fitted curve, with the error it leaves at each point: ``residual_kelvin`` shape (n,), fitted
    minus given temperature."""

    curve: Curve
    residual_kelvin: tuple[float, ...]

    @property
    def worst_kelvin(self) -> float:
        """The largest residual, in kelvin, as a positive number."""
        return max(map(abs, self.residual_kelvin))


def fit_beta(celsius: ArrayLike, ohms: ArrayLike) -> Fit:
    """The Beta curve through points of shape (n,), n ≥ 2: straight line of ln R on 1/T by least squares.

    R0 is given at 25 °C. Raises CurveError when the points cannot fix a line.
    """
    temperatures, inverse, logs = _points(celsius, ohms, least=2)
    centred = inverse - inverse.mean()
    slope = float(centred @ logs / (centred @ centred))
    intercept = float(logs.mean() - slope * inverse.mean())
    reference = float(np.exp(intercept + slope / kelvin(REFERENCE_CELSIUS)))
    return _fit(
        BetaCurve(reference, float(slope), REFERENCE_CELSIUS, _span(temperatures)), temperatures, np.exp(logs)
    )


def fit_steinhart_hart(celsius: ArrayLike, ohms: ArrayLike) -> Fit:
    """The Steinhart-Hart curve through points of shape (n,), n ≥ 3: 1/T on (1, L, L³) by least squares.

    Raises CurveError when the points cannot fix three coefficients or the result turns back.
    """
    temperatures, inverse, logs = _points(celsius, ohms, least=3)
    # Scaling the columns keeps the normal equations well conditioned (L³ is a thousand times L).
    columns = np.stack([np.ones_like(logs), logs, logs**3], axis=1)
    scale = np.abs(columns).max(axis=0)
    coefficients, _, rank, _ = np.linalg.lstsq(columns / scale, inverse, rcond=None)
    if rank < 3:
        message = (
            "The points lie too close together for Steinhart-Hart; give three well apart, such as freezer,"
            " ice bath and room."
        )
        raise CurveError(message)
    a, b, c = (float(value) for value in coefficients / scale)
    return _fit(SteinhartHartCurve(a, b, c, _span(temperatures)), temperatures, np.exp(logs))


def _points(celsius: ArrayLike, ohms: ArrayLike, *, least: int) -> tuple[Floats, Floats, Floats]:
    temperatures, resistances = np.asarray(celsius, dtype=float), np.asarray(ohms, dtype=float)
    if temperatures.ndim != 1 or temperatures.shape != resistances.shape:
        message = (
            "A fit needs as many temperatures as resistances, in one row each; got shapes"
            f" {temperatures.shape} and {resistances.shape}."
        )
        raise CurveError(message)
    if len(np.unique(temperatures)) < least:
        message = (
            f"This fit needs points at {least} different temperatures or more; got"
            f" {len(np.unique(temperatures))}."
        )
        raise CurveError(message)
    return temperatures, 1 / kelvin(temperatures), log_ohms(resistances)


def _span(temperatures: Floats) -> tuple[float, float]:
    return float(temperatures.min()), float(temperatures.max())


def _fit(curve: Curve, temperatures: Floats, ohms: Floats) -> Fit:
    return Fit(curve, tuple(float(error) for error in curve.celsius(ohms) - temperatures))
