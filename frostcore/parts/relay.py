"""A board's relay: its coil, whether the volts there pull it in, and what its contact drops under load.

A coil of copper has R(T) = R₂₀·(1 + 0.0039·(T − 20)). It pulls in from three quarters of its volts, cold,
and from as much more as its ohms have grown; it holds down to a third and has let go at a twentieth. A
contact's ohms are its millivolts by the amperes through it: no ohmmeter's small current tells them.
"""

from dataclasses import dataclass

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, Quantity, State, format_ohms, format_value
from frostcore.verdict import Band, Judged, Verdict

COIL_TOLERANCE, PER_KELVIN, COLD = 0.10, 0.0039, 20.0
PULLS_SHARE, HOLDS_SHARE, DROPS_SHARE = 0.75, 0.35, 0.05
CONTACT_OHMS, TIRED_OHMS = 0.1, 0.05
"""A contact above the first is burnt; above the second it is on its way."""

LEAST_AMPERES = 0.05
"""Under this current the millivolts of a contact tell nothing."""


@dataclass(frozen=True)
class Relay:
    """What is printed: coil volts and ohms."""

    volts: float
    ohms: float

    def __post_init__(self) -> None:
        if not 1 <= self.volts <= 250:
            raise FrostError(f"A coil for {self.volts:g} V: type what is printed, such as 12 V.")
        if not 5 <= self.ohms <= 100e3:
            raise FrostError(
                f"A coil of {self.ohms:g} Ω: type what is printed, or its volts squared by watts."
            )

    def at(self, celsius: float) -> float:
        """Its coil's ohms at a temperature."""
        return self.ohms * (1 + PER_KELVIN * (celsius - COLD))


def judge_coil(relay: Relay, ohms: Quantity, celsius: float = COLD) -> Judged:
    """The coil by its ohms, measured out of circuit or with its diode the right way round."""
    if not -30 <= celsius <= 120:
        raise FrostError(f"{celsius:g} °C is no relay’s temperature.")
    nominal = relay.at(celsius)
    band = Band((1 - COIL_TOLERANCE) * nominal, nominal, (1 + COIL_TOLERANCE) * nominal)
    if ohms.state is State.OPEN:
        return Judged(
            verdict=Verdict.OPEN, band=band, reason="The coil is open: look at its pins’ joints first."
        )
    value = ohms.number
    shown = f"{format_ohms(value)} of {format_ohms(nominal)}"
    if value < SHORT_SHARE * nominal:
        text = f"{shown}: short. Its diode, or the transistor that drives it, lies across: swap the leads."
        return Judged(verdict=Verdict.SHORT, band=band, reason=text)
    verdict = band.verdict(value)
    words = {
        Verdict.IN_BAND: "as it should be.",
        Verdict.LOW: "low. In circuit something lies across; out of it, turns are shorted.",
        Verdict.HIGH: "high. A warm coil has more; else a joint in its way.",
    }
    return Judged(verdict=verdict, band=band, reason=f"{shown}: {words[verdict]}")


SHORT_SHARE = 0.1


def judge_pull(relay: Relay, volts: float, celsius: float = COLD) -> Judged:
    """Whether the volts at its coil move it."""
    grown = relay.at(celsius) / relay.ohms
    pulls, holds = PULLS_SHARE * relay.volts * grown, HOLDS_SHARE * relay.volts
    band = Band(pulls, max(pulls, relay.volts), 1.1 * max(pulls, relay.volts))
    there, made = (format_value(each, Dimension.VOLTAGE) for each in (volts, relay.volts))
    shown = f"{there} at a coil for {made}"
    if volts >= pulls:
        verdict = band.verdict(volts)
        text = "it must pull in: if it does not click, it is the relay."
        return Judged(verdict=verdict, band=band, reason=f"{shown}: {text}")
    if volts >= holds:
        text = "enough to hold, not to pull in. The rail sags, or its driver does not open all the way."
    elif volts > DROPS_SHARE * relay.volts:
        text = "not enough to hold, and too much for off: the driver leaks, or the rail is down."
    else:
        text = "it is not driven. Back from here: the transistor, and what the logic tells it."
    return Judged(verdict=Verdict.LOW, band=band, reason=f"{shown}: {text}")


def judge_contact(volts: float, amperes: float) -> Judged:
    """A closed contact by the volts across it under load."""
    if not LEAST_AMPERES <= amperes <= 50:
        raise FrostError(
            f"{amperes:g} A tell nothing of a contact: load it, and type its amperes, such as 1.1 A."
        )
    if volts < 0:
        raise FrostError("Type the contact’s volts without a sign.")
    ohms = volts / amperes
    band = Band(0.0, TIRED_OHMS / 2, CONTACT_OHMS)
    shown = f"{format_ohms(ohms)} ({format_value(volts, Dimension.VOLTAGE)} at {amperes:g} A)"
    if volts > OPEN_CONTACT_VOLTS:
        return Judged(
            verdict=Verdict.OPEN, band=band, reason=f"{shown}: it does not close; the load’s volts stand."
        )
    if ohms > CONTACT_OHMS:
        heat = format_value(volts * amperes, Dimension.POWER)
        return Judged(
            verdict=Verdict.HIGH, band=band, reason=f"{shown}: burnt; {heat} heat it and its joints."
        )
    more = " On its way: look at it when it is hot." if ohms > TIRED_OHMS else ""
    return Judged(verdict=Verdict.IN_BAND, band=band, reason=f"{shown}: it carries.{more}")


OPEN_CONTACT_VOLTS = 20.0
