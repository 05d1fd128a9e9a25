"""Exact stepping: within a mode z(t + h) = e^{Mh} z(t), and what switches is found to the last digit.

Rows of a minute come 64 at a time (the powers of e^{60 M} stacked); where a guard falls below nothing between
two rows, z there is a polynomial in time (the exponential's own series) and its root is found by Newton's
method, kept within its bracket.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.linalg import expm

from frostcore.errors import FrostError

Floats = npt.NDArray[np.float64]

MINUTE = 60.0
BLOCK = 64
TERMS = 32

_POWERS = np.arange(TERMS)

FASTEST = 15.0
"""What moves faster than that within a row (the norm of M·60) the series can't follow to the last digits."""

NEAR = 1e-13
"""A root is found to this share of a row."""


@dataclass(frozen=True)
class Stepping:
    """What takes one mode's z on: the powers of a row's exponential, stacked (64 × n × n), and the terms of
    its series, (M·60)^k/k! (32 × n × n)."""

    powers: Floats
    series: Floats

    @classmethod
    def of(cls, m: Floats) -> "Stepping":
        """The stepping of ż = M z; FrostError where something in it is faster than a plant's parts are."""
        size = len(m)
        fastest = float(np.abs(np.diagonal(m)).max()) * MINUTE
        if fastest > FASTEST:
            message = f"A part of this plant settles in {MINUTE / fastest:.2g} s; none settles within 4 s."
            raise FrostError(message)
        powers = np.empty((BLOCK, size, size))
        powers[0] = expm(m * MINUTE)
        done = 1
        while done < BLOCK:
            more = min(done, BLOCK - done)
            powers[done : done + more] = powers[:more] @ powers[done - 1]
            done += more
        series = np.empty((TERMS, size, size))
        series[0] = np.eye(size)
        for term in range(1, TERMS):
            series[term] = series[term - 1] @ m * (MINUTE / term)
        return cls(powers, series)

    def rows(self, z: Floats, count: int) -> Floats:
        """Z after 1 … ``count`` minutes."""
        size = len(z)
        return (self.powers[:count].reshape(-1, size) @ z).reshape(count, size)

    def polynomial(self, z: Floats) -> Floats:
        """Z within the next minute as a polynomial in its share: coefficients (32 × n)."""
        size = len(z)
        return (self.series.reshape(-1, size) @ z).reshape(TERMS, size)


def at(coefficients: Floats, share: float) -> Floats:
    """A polynomial's value; of one column or of all."""
    return np.asarray(share**_POWERS @ coefficients)


def first_below(polynomials: Floats, end: float) -> tuple[float, int] | None:
    """The first share up to ``end`` at which one of some polynomials (32 × guards) falls below nothing, and
    which; None where none has by then.

    One that is below at ``end`` has crossed; one that came near and went up again is looked for at its least.
    """
    values, ending = at(polynomials, end), _slopes(polynomials, end)
    # What is above again may have been below: it falls at first, rises at the end, and would come near.
    dips = (polynomials[1] < 0.0) & (ending > 0.0) & (polynomials[0] + 0.5 * end * polynomials[1] <= 0.0)
    found: tuple[float, int] | None = None
    for guard in np.flatnonzero((values < 0.0) | dips).tolist():
        own, last = polynomials[:, guard], end
        if values[guard] >= 0.0:
            last = _least(own, end)
            if at(own, last) >= 0.0:
                continue
        share = _root(own, 0.0, last)
        if found is None or share < found[0]:
            found = share, guard
    return found


def _slopes(polynomials: Floats, share: float) -> Floats:
    return np.asarray((_POWERS[1:] * share ** _POWERS[:-1]) @ polynomials[1:])


def _least(own: Floats, end: float) -> float:
    """Where a polynomial that falls at first and rises at the end is least, by halving."""
    low, high = 0.0, end
    for _ in range(50):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if _slopes(own[:, None], middle)[0] < 0.0 else (low, middle)
    return 0.5 * (low + high)


def _root(own: Floats, low: float, high: float) -> float:
    """Where a polynomial crosses from above to below nothing between two shares, safeguarded Newton."""
    terms = own.tolist()
    first, last = _value(terms, low), _value(terms, high)
    if first <= 0.0:
        return low
    share = low + (high - low) * first / (first - last) if last < 0.0 else high
    for _ in range(80):
        value, slope = _both(terms, share)
        if value > 0.0:
            low = share
        else:
            high = share
        new = share - value / slope if slope else low
        if not low < new < high:
            new = 0.5 * (low + high)
        if abs(new - share) <= NEAR or high - low <= NEAR:
            return new
        share = new
    return share


def _value(terms: list[float], share: float) -> float:
    value = 0.0
    for term in reversed(terms):
        value = value * share + term
    return value


def _both(terms: list[float], share: float) -> tuple[float, float]:
    value = slope = 0.0
    for term in reversed(terms):
        slope = slope * share + value
        value = value * share + term
    return value, slope
