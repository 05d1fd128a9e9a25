"""A sensor in an ice bath: from a few timed readings the value it settles on, and whether it is too early
to judge.

    y(t) = y∞ + A·exp(−t/τ₁) + B·exp(−t/τ₂)

Symbols
-------
t       time, seconds, shape (n,)
R       resistance, ohm, shape (n,)
y       the temperature R stands for on a thermistor of a usual Beta, from the last reading's, kelvin. Heat
        flows as temperatures differ, so it is y that nears its end exponentially, not R.
τ       time constants, seconds, on log-even grids: one, or a fast one and a tail
"""

import math
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

NEAR_SHARE = 0.05
"""The last reading is to be so near to the value it heads for: from afar the exact Beta matters, and a tail
is taken for a slow bead. Of 2,000 beads at random the worst was then called settled 2.3 % off."""

WAIT_SECONDS = (15.0, 300.0)
"""The shortest and the longest wait between two readings."""

FAST, SLOW = np.geomspace(4.0, 600.0, 60), np.geomspace(60.0, 600.0, 16)
"""Time constants, s: from a bare bead in stirred ice water to a moulded one lying still; and that of a tail,
the part of a bead's heat that comes through its lead or its holder."""

APART_TIMES = 2.0
"""Two time constants nearer than this are one."""

FAR_KELVIN, TAIL_KELVIN = 60.0, 8.0
"""How far a bead may be from the bath when the first reading is taken, and how much of it the tail may have
(one standard deviation each)."""

TAILLESS = 0.5
"""How likely a bead with a tail is taken to be without one, before anything is read."""

BETAS_KELVIN, REFERENCE_KELVIN = (3250.0, 3700.0, 4200.0), 273.15
"""Thermistors' usual Betas turn ohms into something as even as temperature, in which the approach is
exponential; which one it is the readings hardly tell, so all are asked."""

MOST_TIMES = 300.0
"""A sensor on its way into a bath, from hot water even, changes by less."""

FREE = 3
"""Unknowns of one time constant."""


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

    Each τ, or pair of them, is weighed by its evidence (noise estimated from the fit, not below
    NOISE_SHARE); the answer is the weighted mean, its doubt one standard deviation of all that the readings
    allow.
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
    if len(r) and r.max() > MOST_TIMES * r.min():
        message = (
            f"{format_ohms(float(r.min()))} and {format_ohms(float(r.max()))} are no one sensor in a bath;"
            " leave out what was read with the leads off, or type Ω and kΩ with each."
        )
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
    near = abs(float(r[-1]) / level - 1) <= NEAR_SHARE
    ready = near and len(t) >= LEAST_TO_JUDGE and doubt <= READY_SHARE * tolerance * level
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
    """(R∞, its variance, τ) averaged over every Beta, every τ₁ alone and every pair τ₁ < τ₂, by their
    evidence."""
    found = [_with_beta(t, r, beta) for beta in BETAS_KELVIN]
    evidence = np.array([each[0] for each in found])
    weights = np.exp(evidence - evidence.max())
    weights /= weights.sum()
    levels, variances, logs = (np.array([each[place] for each in found]) for place in (1, 2, 3))
    level = float(weights @ levels)
    return level, float(weights @ (variances + (levels - level) ** 2)), math.exp(float(weights @ logs))


def _with_beta(t: np.ndarray, r: np.ndarray, beta: float) -> tuple[float, float, float, float]:
    """(ln of the evidence, R∞, its variance, ln τ) for one Beta.

    For each τ₁, or pair of them, y∞, A and B have a normal posterior: with columns H = [1, e^(−t/τ₁),
    e^(−t/τ₂)], noise s and priors of variance Q on A and B, P = (Q⁻¹ + HᵀH/s²)⁻¹; the evidence is
    exp(−χ²/2)·√(det P/det Q), with χ² = (yᵀy − yᵀH·P·Hᵀy/s²)/s² measured from the mean reading.
    """
    reference = float(r[-1])
    y = REFERENCE_KELVIN / (1 + REFERENCE_KELVIN / beta * np.log(r / reference)) - REFERENCE_KELVIN
    away = float(np.mean(y))
    one, two = np.exp(-(t - t[0]) / FAST[:, None]), np.exp(-(t - t[0]) / SLOW[:, None])
    pairs = np.argwhere(SLOW[None, :] >= APART_TIMES * FAST[:, None])
    columns = np.concatenate(
        [
            np.stack([np.ones_like(one), one, np.zeros_like(one)], axis=2),
            np.stack([np.ones((len(pairs), len(t))), one[pairs[:, 0]], two[pairs[:, 1]]], axis=2),
        ]
    )
    prior = np.diag([1 / FAR_KELVIN**2, 1 / FAR_KELVIN**2, 1 / TAIL_KELVIN**2])
    known = np.concatenate([np.full(len(FAST), TAILLESS / len(FAST)), np.full(len(pairs), 1 / len(pairs))])
    noise = NOISE_SHARE * REFERENCE_KELVIN**2 / beta
    posterior, mean, square = _posterior(columns, y - away, noise, prior)
    # More scatter than a meter's digits means a bath that is not stirred: all of it is that much less sure.
    scale = max(1.0, float(square.min()) / max(1, len(t) - FREE))
    if scale > 1:
        posterior, mean, square = _posterior(columns, y - away, noise * math.sqrt(scale), prior)
    evidence = np.log(known) - square / 2 + np.linalg.slogdet(posterior)[1] / 2
    weights = np.exp(evidence - evidence.max())
    total = float(weights.sum())
    weights /= total
    level = float(weights @ mean[:, 0])
    variance = float(weights @ (posterior[:, 0, 0] + (mean[:, 0] - level) ** 2))
    settled = REFERENCE_KELVIN + away + level
    ohms = reference * math.exp(beta * (1 / settled - 1 / REFERENCE_KELVIN))
    slope = ohms * beta / settled**2
    constants = np.concatenate([FAST, SLOW[pairs[:, 1]]])
    # A scale above 1 is one more thing that only this Beta needs.
    summed = float(evidence.max()) + math.log(total) - len(t) * math.log(scale) / 2
    return summed, ohms, variance * slope**2, float(weights @ np.log(constants))


def _posterior(
    columns: np.ndarray, y: np.ndarray, noise: float, prior: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(P, the posterior's mean, χ²) of every hypothesis, for columns (h × n × 3)."""
    posterior = np.linalg.inv(np.swapaxes(columns, 1, 2) @ columns / noise**2 + prior)
    against = y @ columns / noise**2
    mean = np.einsum("hij,hj->hi", posterior, against)
    return posterior, mean, float(y @ y) / noise**2 - np.einsum("hi,hi->h", against, mean)


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
