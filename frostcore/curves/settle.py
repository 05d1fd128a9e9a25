"""A sensor in an ice bath: from a few timed readings the value it settles on, and whether it is too early
to judge.

    R(t) = R∞ + A·exp(−t/τ)

Symbols
-------
t       time, seconds, shape (n,)
R       resistance, ohm, shape (n,)
τ       time constant, seconds; scanned over a log-even grid, with R∞ and A by linear least squares for each τ
"""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from frostcore.curves.verdict import DEFAULT_TOLERANCE
from frostcore.errors import CurveError
from frostcore.quantity import Ambiguous, Dimension, format_duration, format_ohms, parse

LEAST_READINGS = 3
LEAST_TO_JUDGE = 4
"""Three readings fix the three unknowns and leave nothing to check them by."""

NOISE_SHARE = 0.002
"""A meter's last digits: readings are trusted to this share at best."""

READY_SHARE = 0.25
"""Settled when the doubt is below this share of the sensor's tolerance."""

WAIT_SECONDS = (15.0, 300.0)
"""The shortest and the longest wait between two readings."""

TIME_CONSTANTS = np.geomspace(4.0, 900.0, 240)
"""From a bare bead in stirred ice water to a moulded one lying still; slower than a quarter of an hour is
no bath."""


@dataclass(frozen=True)
class BathSettled:
    """The value the readings settle on.

    ``settled_ohms`` and ``doubt_ohms`` are None with too few readings; ``wait_seconds`` is from the last
    reading.
    """

    settled_ohms: float | None
    doubt_ohms: float | None
    ready: bool
    time_constant_seconds: float | None
    wait_seconds: float | None
    text: str


def settle(seconds: ArrayLike, ohms: ArrayLike, tolerance: float = DEFAULT_TOLERANCE) -> BathSettled:
    """Estimate the settled resistance from readings of shape (n,), in any order of time.

    Each τ of the grid is weighed by its likelihood (noise estimated from the fit, not below NOISE_SHARE);
    the answer is the weighted mean, its doubt one standard deviation of all that the readings allow.
    Raises CurveError on unusable readings.
    """
    t, r = np.asarray(seconds, dtype=float), np.asarray(ohms, dtype=float)
    if t.shape != r.shape or t.ndim != 1:
        message = f"Settling needs a time for each reading; got shapes {t.shape} and {r.shape}."
        raise CurveError(message)
    if not (np.all(np.isfinite(t)) and np.all(t >= 0) and np.all(np.isfinite(r)) and np.all(r > 0)):
        message = "Settling needs times from 0 s on and resistances above zero; leave open readings out."
        raise CurveError(message)
    if len(np.unique(t)) != len(t):
        message = "Two readings stand at the same time. Give each its own time, such as 30s=27k 60s=29k."
        raise CurveError(message)
    if len(t) < LEAST_READINGS:
        return BathSettled(
            None,
            None,
            False,
            None,
            None,
            f"Too early: {len(t)} of at least {LEAST_READINGS} readings. Read again in half a minute.",
        )
    order = np.argsort(t)
    t, r = t[order], r[order]
    level, variance, constant = _estimate(t, r)
    doubt = float(np.sqrt(variance))
    ready = len(t) >= LEAST_TO_JUDGE and doubt <= READY_SHARE * tolerance * level
    if ready:
        text = f"Settled: {format_ohms(level)}, give or take {format_ohms(doubt)}."
        return BathSettled(level, doubt, ready, constant, None, text)
    wait = max(WAIT_SECONDS[0], min(WAIT_SECONDS[1], constant))
    text = (
        f"Too early to judge: it is heading for about {format_ohms(level)}, give or take"
        f" {format_ohms(doubt)}. Read again in {format_duration(wait)}."
    )
    return BathSettled(level, doubt, ready, constant, wait, text)


def _estimate(t: np.ndarray, r: np.ndarray) -> tuple[float, float, float]:
    """(R∞, its variance, τ) averaged over τ by likelihood."""
    count = len(t)
    levels, spreads, squares = (np.empty(len(TIME_CONSTANTS)) for _ in range(3))
    noise = NOISE_SHARE * float(np.mean(r))
    for index, constant in enumerate(TIME_CONSTANTS):
        columns = np.stack([np.ones(count), np.exp(-(t - t[0]) / constant)], axis=1)
        # A weak prior keeps A within what a bath can do, so that a τ beyond the readings stays finite.
        normal = columns.T @ columns / noise**2 + np.diag([0.0, 1 / (3 * float(np.mean(r))) ** 2])
        inverse = np.linalg.inv(normal)
        solution = inverse @ (columns.T @ r) / noise**2
        levels[index], spreads[index] = solution[0], inverse[0, 0]
        squares[index] = float(np.sum((r - columns @ solution) ** 2)) / noise**2
    scale = max(1.0, float(squares.min()) / max(1, count - 3))
    weights = np.exp(-(squares - squares.min()) / (2 * scale))
    weights /= weights.sum()
    level = float(weights @ levels)
    variance = float(weights @ (spreads * scale + (levels - level) ** 2))
    return level, variance, float(np.exp(weights @ np.log(TIME_CONSTANTS)))


def settle_text(text: str, tolerance: float = DEFAULT_TOLERANCE) -> BathSettled:
    """:func:`settle` for readings typed as TIME=OHMS, one a line or with spaces or commas between:
    ``30s=27k 60s=29k1``.

    Raises FrostError naming the reading that can't be read.
    """
    seconds, ohms = [], []
    for item in re.split(r"[\s;,]+", text.strip()):
        moment, equals, reading = item.partition("=")
        if not equals:
            message = f"“{item}” has no time. Write time=ohms, such as 30s=27k."
            raise CurveError(message)
        time, resistance = parse(moment, Dimension.DURATION), parse(reading, Dimension.RESISTANCE)
        if isinstance(time, Ambiguous) or isinstance(resistance, Ambiguous):
            message = f"“{item}” can be read in two ways. Write it like 30s=27k or 90s=3.1M."
            raise CurveError(message)
        if resistance.value is None:
            message = f"“{item}” is open. An ice bath needs a sensor that reads a number."
            raise CurveError(message)
        seconds.append(time.number)
        ohms.append(resistance.number)
    return settle(seconds, ohms, tolerance)
