"""A switcher's start: whether its own supply charges, whether it lasts until the auxiliary winding takes
over, and the rhythm it falls into where it doesn't.

Symbols: C the own supply's farads and R its series ohms, ΔV from start to stop, I what the start resistor
brings, I_run what the controller takes.
"""

from dataclasses import dataclass

GATE_AMPERES = 0.15
"""What gate pulses draw from the own capacitor at once: over its ESR that is missing of ΔV."""


@dataclass(frozen=True)
class Own:
    """A controller's own supply: start and stop volts, farads and series ohms of its capacitor, the start
    resistor's ohms, what it takes before it starts and while it runs."""

    starts: float
    stops: float
    farads: float
    esr_ohms: float
    start_ohms: float
    starting_amperes: float
    running_amperes: float

    def brings(self, bus_volts: float) -> float:
        """What the start resistor brings, I = (bus − (V_start + V_stop)/2)/R, in A; none from a low bus."""
        return max(0.0, (bus_volts - (self.starts + self.stops) / 2) / self.start_ohms)

    def charges(self, bus_volts: float) -> bool:
        """Whether it ever reaches its start: the resistor brings more than the controller takes before."""
        return (bus_volts - self.starts) / self.start_ohms > self.starting_amperes

    def lasts(self, seconds: float) -> bool:
        """Whether the capacitor lasts so long by itself: C (ΔV − ESR·I_gate)/I_run."""
        span = self.starts - self.stops - GATE_AMPERES * self.esr_ohms
        return self.farads * max(span, 0.0) / self.running_amperes > seconds


@dataclass(frozen=True)
class Hiccup:
    """A round of trying: seconds it runs and seconds it waits."""

    on_seconds: float
    off_seconds: float

    @property
    def duty(self) -> float:
        """The share of the time it runs."""
        return self.on_seconds / (self.on_seconds + self.off_seconds)


def hiccup(own: Own, bus_volts: float) -> Hiccup | None:
    """The rhythm without an auxiliary winding's help: t_on = C ΔV/(I_run − I), t_off = C ΔV/I. None where the
    resistor brings nothing, or enough for it to run on that alone."""
    brings = own.brings(bus_volts)
    if not 0 < brings < own.running_amperes:
        return None
    charge = own.farads * (own.starts - own.stops)
    return Hiccup(charge / (own.running_amperes - brings), charge / brings)
