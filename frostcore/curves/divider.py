"""A sensor read live at the board: the volts at its pin through the pull-up, to resistance, temperature and
verdict, and back.

    V = Vref·R/(R + Rp)        R = Rp·V/(Vref − V)

Symbols: V at the sensor pin against its return, Vref the reference behind the pull-up, Rp the pull-up, R
the sensor.
"""

import math
from dataclasses import dataclass, replace

from frostcore.curves.verdict import Limits
from frostcore.errors import CurveError
from frostcore.quantity import Dimension, Quantity, State, format_engineering, format_ohms

BEYOND_SHARE = 0.05
"""Volts beyond reference or return by more than this share of the reference belong to another pin."""

PULLUP_TOLERANCE = 0.01
RAIL_SHARE = 0.01
"""Within this share of reference or return the divider no longer tells a resistance: open, or short."""


DOUBT_AT_MOST = 0.9
"""Near the reference a millivolt is worth megohms; a band as wide as this says so."""


@dataclass(frozen=True)
class Divider:
    """A pull-up divider; ``pullup_tolerance`` is a fraction."""

    reference_volts: float
    pullup_ohms: float
    pullup_tolerance: float = PULLUP_TOLERANCE

    def __post_init__(self) -> None:
        for name, value in (("reference", self.reference_volts), ("pull-up", self.pullup_ohms)):
            if not (math.isfinite(value) and value > 0):
                message = f"The divider's {name} must be above zero, not {value:g}."
                raise CurveError(message)

    def volts(self, ohms: float) -> float:
        """Volts at the pin for a sensor of ``ohms``: Vref·R/(R + Rp)."""
        return self.reference_volts * ohms / (ohms + self.pullup_ohms)

    def resistance(self, volts: float) -> Quantity:
        """The sensor's resistance from the volts at its pin: Rp·V/(Vref − V); open or short at the rails.

        Raises CurveError for volts outside 0..Vref by more than 5 %.
        """
        if not -BEYOND_SHARE <= volts / self.reference_volts <= 1 + BEYOND_SHARE:
            message = (
                f"{format_engineering(volts, 'V')} can't stand on a sensor pin pulled up to"
                f" {format_engineering(self.reference_volts, 'V')}. Check the pins, and that the meter is on"
                " DC volts."
            )
            raise CurveError(message)
        share = volts / self.reference_volts
        if share >= 1 - RAIL_SHARE:
            return Quantity(Dimension.RESISTANCE, None, State.OPEN)
        if share <= RAIL_SHARE:
            return Quantity(Dimension.RESISTANCE, 0.0, State.SHORT)
        return Quantity(Dimension.RESISTANCE, self.pullup_ohms * share / (1 - share))

    def doubt_share(self, volts: float, meter: float) -> float:
        """How far meter and pull-up can move R, as a fraction: dR/R = dV/V·Vref/(Vref − V) and dRp/Rp,
        added."""
        return meter * self.reference_volts / max(self.reference_volts - volts, 1e-9) + self.pullup_tolerance

    def widened(self, limits: Limits, volts: float) -> Limits:
        """The limits of a resistance that was worked out from these volts."""
        return replace(limits, meter=min(DOUBT_AT_MOST, self.doubt_share(volts, limits.meter)))

    def text(self, volts: float) -> str:
        """The step in words."""
        resistance = self.resistance(volts)
        shown = resistance.text if resistance.value is None else format_ohms(resistance.value)
        return (
            f"{format_engineering(volts, 'V')} of {format_engineering(self.reference_volts, 'V')} through"
            f" {format_ohms(self.pullup_ohms)}: the sensor is {shown}."
        )
