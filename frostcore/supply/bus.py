"""What a rectifier leaves on its capacitor: volts, ripple and the currents that charge it.

The half cycle is stepped, for no closed form holds once the capacitor has a series resistance: it sees the
charging pulse, not only the load. With u = peak·|sin| less the diodes' drop, R all that charges it (winding,
diodes, fuse), ESR and C its own and the load's current I, a step of h seconds is implicit in the charging
current i:

    i = max(0, (u − v_C + (h/C + ESR) I) / (R + ESR + h/C))
    v_C ← v_C + h (i − I)/C,   v = v_C + ESR (i − I)

Steps go on until a cycle ends where it began; the volts it begins at are found by the secant method.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

STEPS = 480
"""Steps a cycle."""

CYCLES = 400
"""A supply that has not come to rest after so many cycles never does."""

_CLOSE = 1e-7
"""A cycle that ends this near to where it began, as a share of the peak, is at rest."""


@dataclass(frozen=True)
class Charging:
    """A rectifier, what feeds it, and its capacitor: peak volts before the diodes, mains hertz, the diodes'
    drop in all, the ohms of everything that charges it, farads, equivalent series ohms; ``halves``, where
    only every other half wave charges it."""

    peak: float
    hertz: float
    drop: float
    ohms: float
    farads: float
    esr: float
    halves: bool = False

    def __post_init__(self) -> None:
        if min(self.peak, self.hertz, self.ohms, self.farads) <= 0 or min(self.drop, self.esr) < 0:
            message = "a rectifier needs volts, hertz, ohms and farads above nothing"
            raise ValueError(message)


@dataclass(frozen=True)
class Load:
    """What is taken: a current, and watts whatever the volts (down to ``stops`` volts, where it lets go)."""

    amperes: float = 0.0
    watts: float = 0.0
    stops: float = 1.0

    def at(self, volts: float) -> float:
        """The current at some volts, in amperes."""
        if volts <= 0:
            return 0.0
        return self.amperes + (self.watts / volts if volts > self.stops else 0.0)


@dataclass(frozen=True)
class Bus:
    """At rest: the mean, the r.m.s. of the ripple about it, its peak to peak and its valley in volts; the
    charging current's r.m.s. and peak in amperes."""

    mean: float
    ripple: float
    peak_to_peak: float
    valley: float
    amperes_rms: float
    amperes_peak: float


def bare(volts: float, drop: float) -> Bus:
    """What a rectifier leaves without a capacitor, of a feed's r.m.s. volts: |sin| as it is, its mean 2√2/π
    of them, the rest of them ripple."""
    mean = 2 * math.sqrt(2) / math.pi * volts
    return Bus(mean - drop, math.sqrt(volts**2 - mean**2), math.sqrt(2) * volts, 0.0, 0.0, 0.0)


@lru_cache(maxsize=256)
def at_rest(charging: Charging, load: Load) -> Bus:
    """What is left on the capacitor, once it has come to rest."""
    start, ends = charging.peak - charging.drop, list[tuple[float, float]]()
    for _ in range(CYCLES):
        end, _, _ = _cycle(charging, load, start)
        if abs(end - start) < _CLOSE * charging.peak:
            break
        ends.append((start, end - start))
        start = _next(ends, end)
    _, volts, amperes = _cycle(charging, load, start)
    mean = sum(volts) / len(volts)
    ripple = math.sqrt(sum((each - mean) ** 2 for each in volts) / len(volts))
    rms = math.sqrt(sum(each * each for each in amperes) / len(amperes))
    return Bus(mean, ripple, max(volts) - min(volts), min(volts), rms, max(amperes))


def _next(ends: list[tuple[float, float]], end: float) -> float:
    """Where to begin the next cycle: at the end of this one, every third time by the secant of the last
    two."""
    if len(ends) % 3 or len(ends) < 2:
        return end
    (one, miss), (other, other_miss) = ends[-2:]
    if miss == other_miss:
        return end
    guess = other - other_miss * (other - one) / (other_miss - miss)
    return guess if 0 < guess < 2 * abs(end) + 1 else end


def _cycle(charging: Charging, load: Load, volts: float) -> tuple[float, list[float], list[float]]:
    """One cycle of charging from these volts on the capacitor: its end, the volts and charging currents on
    the way."""
    turn = 2 * math.pi if charging.halves else math.pi
    h = turn / (2 * math.pi * charging.hertz) / STEPS
    a, esr = h / charging.farads, charging.esr
    whole = charging.ohms + esr + a
    seen, charge, out = [], [], volts
    for step in range(STEPS):
        u = charging.peak * max(math.sin((step + 1) * turn / STEPS), 0.0) - charging.drop
        taken = load.at(out)
        into = max(0.0, (u - volts + (a + esr) * taken) / whole)
        volts += a * (into - taken)
        out = volts + esr * (into - taken)
        if out < 0:  # what takes the current has nothing left to take it from
            volts = out = 0.0
        seen.append(out)
        charge.append(into)
    return volts, seen, charge


Floats = npt.NDArray[np.float64]


def at_rest_all(cases: Sequence[tuple[Charging, Load]], steps: int = STEPS // 2) -> tuple[Bus, ...]:
    """The same of many at once (:func:`at_rest`), stepped together; for tables of faults and draws."""
    if not cases:
        return ()
    peak, drop, ohms, farads, esr = (
        np.array([getattr(charging, name) for charging, _ in cases])
        for name in ("peak", "drop", "ohms", "farads", "esr")
    )
    amperes, watts, stops = (
        np.array([getattr(load, name) for _, load in cases]) for name in ("amperes", "watts", "stops")
    )
    turn = np.where([charging.halves for charging, _ in cases], 2 * math.pi, math.pi)
    h = turn / (2 * math.pi * np.array([charging.hertz for charging, _ in cases])) / steps
    shape = np.maximum(np.sin(np.outer(np.arange(1, steps + 1), turn) / steps), 0.0)
    a = h / farads
    whole = ohms + esr + a

    def cycle(volts: Floats) -> tuple[Floats, Floats, Floats]:
        seen, charge = np.empty((2, steps, len(cases)))
        out = volts
        for step in range(steps):
            u = peak * shape[step] - drop
            taken = np.where(
                out > 0, amperes + np.where(out > stops, watts / np.maximum(out, 1e-9), 0.0), 0.0
            )
            into = np.maximum(0.0, (u - volts + (a + esr) * taken) / whole)
            volts = volts + a * (into - taken)
            out = volts + esr * (into - taken)
            volts, out = np.where(out < 0, 0.0, volts), np.maximum(out, 0.0)
            seen[step], charge[step] = out, into
        return volts, seen, charge

    start = peak - drop
    before, missed = start, np.zeros(len(cases))
    for number in range(CYCLES):
        end, seen, charge = cycle(start)
        miss = end - start
        if (np.abs(miss) < CLOSE_ALL * peak).all():
            break
        guess = end
        if number % 3 == 2:
            with np.errstate(divide="ignore", invalid="ignore"):
                secant = start - miss * (start - before) / (miss - missed)
            good = np.isfinite(secant) & (secant > 0) & (secant < 2 * np.abs(end) + 1)
            guess = np.where(good, secant, end)
        before, missed, start = start, miss, guess
    mean = seen.mean(axis=0)
    ripple, rms = np.sqrt(((seen - mean) ** 2).mean(axis=0)), np.sqrt((charge**2).mean(axis=0))
    return tuple(
        Bus(
            *(
                float(each[at])
                for each in (mean, ripple, np.ptp(seen, axis=0), seen.min(axis=0), rms, charge.max(axis=0))
            )
        )
        for at in range(len(cases))
    )


CLOSE_ALL = 1e-6
"""Of many a cycle is at rest that ends this near to where it began, as a share of the peak."""


@dataclass(frozen=True)
class Source:
    """A supply as a source near the currents it gives: volts and ohms in direct current, its ripple at half
    of them, and by what share the ripple is less or more over them."""

    volts: float
    ohms: float
    ripple: float
    ripple_share: float


LIGHT_SHARE = 0.2
"""The least a rail gives, as a share of its limit."""


@lru_cache(maxsize=256)
def as_source(charging: Charging, amperes: float) -> Source:
    """The supply between a light load and ``amperes``, its limit: the line through both."""
    light, half, full = (
        at_rest(charging, Load(share * amperes)) for share in (LIGHT_SHARE, (1 + LIGHT_SHARE) / 2, 1.0)
    )
    ohms = (light.mean - full.mean) / ((1 - LIGHT_SHARE) * amperes)
    share = max(full.ripple / half.ripple - 1, 1 - light.ripple / half.ripple) if half.ripple else 0.0
    return Source(light.mean + LIGHT_SHARE * amperes * ohms, ohms, half.ripple, share)
