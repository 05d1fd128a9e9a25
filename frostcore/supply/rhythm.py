"""A rail with little to spare: whether it holds as a relay pulls in, and the rhythm its logic resets in where
it does not.

A capacitor in series with the mains gives a rail of v volts a (P − v) amperes on the mean, a = 4fC (half
waves fC) and P the mains' crest less the diodes. Logic takes I, a relay's coil v/R, the rail's capacitor has
C_r farads:

    C_r dv/dt = a (P − v) − I − v/R [relay]

which is an exponential in either state: with the relay to (aP − I)/(a + 1/R) in C_r/(a + 1/R), without it to
P − I/a in C_r/a, and never above the Zener diode's volts.
"""

import math
from dataclasses import dataclass

PULLS_IN = 0.75
"""A relay pulls in at this share of its coil's volts, at the latest."""


def slope(farads: float, hertz: float, *, half: bool) -> float:
    """a: what a series capacitor gives a rail for each volt less there, 4fC, half waves fC, in A/V."""
    return (1 if half else 4) * hertz * farads


def crest(mains: float, drops: float, *, half: bool) -> float:
    """P: the volts at which a rail gets nothing from a series capacitor; of half waves both crests, for it is
    charged the other way between."""
    return (2 if half else 1) * math.sqrt(2) * mains - drops


def pause(volts: float, mains: float, hertz: float, *, half: bool) -> float:
    """The seconds of each round in which a series capacitor gives a rail nothing: past its crest the mains
    must swing by twice the rail's volts (with the diodes') before it conducts the other way; of half waves
    the other half wave too."""
    swings = math.acos(max(-1.0, 1 - 2 * volts / (math.sqrt(2) * mains))) / (2 * math.pi * hertz)
    return swings + (0.5 / hertz if half else 0.0)


def dips(
    volts: float, amperes: tuple[float, float], seconds: tuple[float, float], capacitor: tuple[float, float]
) -> tuple[float, float]:
    """How a rail that a Zener diode holds falls in while nothing arrives: what that takes off its mean, and
    the ripple's r.m.s., in V.

    ``amperes`` are those taken and those given on the mean, ``seconds`` those without any and those of a
    round, ``capacitor`` its farads and series ohms. A triangle down by what the capacitor loses and up again
    as it is filled, and its series ohms' own step while it waits; without a capacitor down to nothing.
    """
    (taken, given), (waits, whole), (farads, esr) = amperes, seconds, capacitor
    falls = min(volts, taken * waits / farads)
    fills = min(whole - waits, waits * taken / max(given - taken, 1e-6)) if falls < volts else 0.0
    share, step = (waits + fills) / whole, min(volts - falls, esr * taken)
    lost = falls * share / 2 + step * waits / whole
    square = falls**2 * share / 3 + step**2 * waits / whole + falls * step * waits / whole
    return lost, math.sqrt(max(square - lost**2, 0.0))


@dataclass(frozen=True)
class Spare:
    """A rail fed by a capacitor: mains volts and hertz, its farads, the Zener diode's volts, the rail's
    farads, the logic's amperes, the relay's coil ohms, all diodes' drops; the logic resets below ``resets``
    and runs from ``runs`` on, and pulls its relay after ``boots`` seconds."""

    mains: float
    hertz: float
    farads: float
    holds: float
    rail_farads: float
    amperes: float
    coil_ohms: float
    drops: float = 1.4
    resets: float = 6.2
    runs: float = 9.0
    boots: float = 0.6
    half: bool = False

    @property
    def slope(self) -> float:
        """a, in A/V."""
        return slope(self.farads, self.hertz, half=self.half)

    @property
    def crest(self) -> float:
        """P, in V."""
        return crest(self.mains, self.drops, half=self.half)

    def goes_to(self, *, relay: bool) -> float:
        """Where the rail goes in the end, in V, but for the Zener diode."""
        through = 1 / self.coil_ohms if relay else 0.0
        return (self.slope * self.crest - self.amperes) / (self.slope + through)

    def seconds(self, start: float, end: float, *, relay: bool) -> float:
        """How long the rail takes from ``start`` to ``end`` volts; infinite where it never gets there."""
        through = 1 / self.coil_ohms if relay else 0.0
        last = self.goes_to(relay=relay)
        share = (start - last) / (end - last) if end != last else 0.0
        if share < 1:
            return math.inf
        return self.rail_farads / (self.slope + through) * math.log(share)

    def after(self, start: float, seconds: float, *, relay: bool) -> float:
        """The rail so many seconds after ``start`` volts."""
        through = 1 / self.coil_ohms if relay else 0.0
        last = self.goes_to(relay=relay)
        found = last + (start - last) * math.exp(-seconds * (self.slope + through) / self.rail_farads)
        return min(found, self.holds)


@dataclass(frozen=True)
class Holds:
    """What becomes of the rail as the relay is pulled: its volts then, and where it does not hold the seconds
    of a round of resets; whether the relay pulls in at all."""

    volts: float
    every: float | None
    pulls: bool


def with_relay(spare: Spare) -> Holds:
    """The rail with the relay commanded."""
    idle = min(spare.holds, spare.goes_to(relay=False))
    if idle < spare.runs:  # the logic never begins
        return Holds(idle, None, pulls=False)
    loaded = min(spare.holds, spare.goes_to(relay=True))
    pulls = loaded >= PULLS_IN * spare.holds
    if loaded >= spare.resets:
        return Holds(loaded, None, pulls=pulls)
    # It boots from where it runs again, pulls the relay, falls, resets, recovers.
    begins = spare.after(spare.runs, spare.boots, relay=False)
    falls = spare.seconds(begins, spare.resets, relay=True)
    recovers = spare.seconds(spare.resets, spare.runs, relay=False)
    return Holds(loaded, spare.boots + falls + recovers, pulls=False)


@dataclass(frozen=True)
class Degrees:
    """From which shares of its farads down the relay pulls no more, and the logic resets in rhythm, with the
    seconds of a round there; None where that never happens before nothing is left."""

    silent_below: float | None
    resets_below: float | None
    every: float | None


STEPS = 100


def by_degree(spare: Spare) -> Degrees:
    """What a series capacitor that loses farads does, by degree."""
    silent = resets = every = None
    for left in range(STEPS, 4, -1):
        worn = Spare(**{**vars(spare), "farads": spare.farads * left / STEPS})
        found = with_relay(worn)
        if not found.pulls and silent is None:
            silent = left / STEPS
        if found.every is not None and resets is None:
            resets, every = left / STEPS, found.every
    return Degrees(silent, resets, every)
