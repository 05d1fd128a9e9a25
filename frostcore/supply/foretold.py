"""What a mains supply on the mat shows before anything is read: its bus and ripple, with a diode or its bulk
capacitor open; its inrush; what is left after unplugging and for how long; a lamp in series.

Symbols: V mains volts (r.m.s.), C the bulk capacitor's farads, R ohms, L henries, P watts taken from the bus.
"""

import math
from dataclasses import dataclass, replace

from frostcore.errors import FrostError
from frostcore.parts.loads import HIGH_MAINS_VOLTS
from frostcore.quantity import Dimension, format_value
from frostcore.supply.bus import Bus, Charging, Load, at_rest, bare
from frostcore.verdict import Band, Judged, Verdict

DIODE_VOLTS = 0.7
"""A bridge diode's drop at the currents of a board's supply; two are in the way."""

SAFE_VOLTS = 50.0
"""Under this a bus no longer kills; hands stay away until it is measured."""

STOPS_SHARE = 0.3
"""A switcher lets go at about this share of the bus."""

LAMP_COLD, LAMP_POWER = 13.0, 0.37
"""A filament's ohms cold are a thirteenth of hot; between, they go with its watts to this power: usual
practice, no filament was measured."""

LAMP_TIMES = 5.0
"""A series lamp of fewer times the board's watts drags the bus down."""

DARK, DIM = 0.03, 0.3
"""Shares of its watts under which a lamp looks dark, and dim."""

HIGH_ESR = 10.0
"""From here on a rectifier's ripple is spikes, of which a meter shows half or so."""


@dataclass(frozen=True)
class Supply:
    """A supply from the mains pin to the bulk capacitor, and what is taken behind it: V, P, C, its ESR, the
    ohms and henries of all that charges it (wall, fuse, choke, limiter), the start resistor's ohms, hertz."""

    mains_volts: float
    watts: float
    farads: float
    esr_ohms: float = 1.0
    ohms: float = 12.0
    henries: float = 300e-6
    start_ohms: float = 470e3
    hertz: float = 0.0
    """As is usual on such a mains, where nothing is said."""

    def __post_init__(self) -> None:
        if not self.hertz:
            object.__setattr__(self, "hertz", 50.0 if self.mains_volts > HIGH_MAINS_VOLTS else 60.0)
        for name, low, high, unit in (
            ("mains_volts", 80.0, 280.0, "V"),
            ("watts", 0.0, 150.0, "W"),
            ("farads", 0.5e-6, 1e-3, "F"),
            ("esr_ohms", 0.0, 500.0, "Ω"),
            ("ohms", 0.1, 500.0, "Ω"),
            ("henries", 1e-6, 0.1, "H"),
            ("start_ohms", 1e3, 1e8, "Ω"),
            ("hertz", 45.0, 65.0, "Hz"),
        ):
            value = getattr(self, name)
            if not low <= value <= high:
                raise FrostError(
                    f"{name.replace('_', ' ')}: {value:g} is none; from {low:g} to {high:g} {unit}."
                )

    @property
    def peak(self) -> float:
        """The mains' crest."""
        return math.sqrt(2) * self.mains_volts

    @property
    def charging(self) -> Charging:
        """The bridge and what charges the bulk capacitor."""
        return Charging(self.peak, self.hertz, 2 * DIODE_VOLTS, self.ohms, self.farads, self.esr_ohms)


def bus(supply: Supply) -> Bus:
    """The bus of a sound one."""
    return at_rest(supply.charging, _load(supply))


def one_diode_open(supply: Supply) -> Bus:
    """The bus with one diode of the bridge open, or a pair across: every other half wave charges it."""
    return at_rest(replace(supply.charging, halves=True), _load(supply))


def bulk_open(supply: Supply) -> tuple[float, float]:
    """Mean and r.m.s. of the ripple with the bulk capacitor open: the rectified mains as it is."""
    found = bare(supply.mains_volts, 2 * DIODE_VOLTS)
    return found.mean, found.ripple


def _load(supply: Supply) -> Load:
    return Load(watts=supply.watts, stops=STOPS_SHARE * supply.peak)


def inrush(supply: Supply) -> tuple[float, float]:
    """The crest of the current as it is plugged in at the mains' crest, in A, and its I²t in A²s.

    A series circuit of R, L and C on a step of the crest's volts: α = R/2L, s² = α² − 1/LC; the current is
    greatest at t = artanh(s/α)/s, with arctan for s² below nothing. I²t = CV̂²/2R, whatever L is.
    """
    resistance, henries = supply.ohms + supply.esr_ohms, supply.henries
    alpha = resistance / (2 * henries)
    square = alpha**2 - 1 / (henries * supply.farads)
    energy = supply.farads * supply.peak**2 / (2 * resistance)
    if square > 0:
        s = math.sqrt(square)
        at = math.atanh(s / alpha) / s
        shape = math.sinh(s * at) / s
    elif square < 0:
        s = math.sqrt(-square)
        at = math.atan2(s, alpha) / s
        shape = math.sin(s * at) / s
    else:
        at = shape = 1 / alpha
    return supply.peak / henries * math.exp(-alpha * at) * shape, energy


@dataclass(frozen=True)
class Left:
    """Seconds after unplugging until the bus is under 50 V: of one that ran, of one with a dead switcher."""

    ran: float
    dead: float


def after_unplugging(supply: Supply) -> Left:
    """How long the bus stays dangerous; with the start resistor open nothing ends it but the meter."""
    stops, top = STOPS_SHARE * supply.peak, supply.peak - 2 * DIODE_VOLTS
    through = supply.start_ohms * supply.farads
    held = supply.farads * (top**2 - stops**2) / (2 * supply.watts) if supply.watts else math.inf
    dead = through * math.log(top / SAFE_VOLTS)
    ran = held + through * math.log(max(1.0, stops / SAFE_VOLTS))
    return Left(min(ran, dead), dead)


@dataclass(frozen=True)
class Lamp:
    """A lamp in series: the share of its watts it glows with and the bus behind it (None where it is too weak
    for the two to come to rest), and what is seen."""

    share: float | None
    bus_volts: float | None
    text: str


def in_series(supply: Supply, lamp_watts: float) -> Lamp:
    """What a lamp in series with a sound supply does."""
    if not 5 <= lamp_watts <= 500:
        raise FrostError(f"A lamp of {lamp_watts:g} W: type what is printed on it, such as 60 W.")
    if lamp_watts < WEAK_TIMES * supply.watts:
        return Lamp(None, None, WEAK)
    hot = supply.mains_volts**2 / lamp_watts
    ohms, load, taken = hot / LAMP_COLD, _load(supply), 0.0
    for _ in range(ROUNDS):
        found = at_rest(replace(supply.charging, ohms=supply.ohms + ohms), load)
        taken = found.amperes_rms**2 * ohms
        if found.mean <= load.stops * COLLAPSED:
            break  # it grows hotter from here, and the bus falls further
        wanted = max(hot / LAMP_COLD, hot * min(1.0, taken / lamp_watts) ** LAMP_POWER)
        if abs(wanted - ohms) < CLOSE * ohms:
            break
        ohms = math.sqrt(ohms * wanted)
    share = taken / lamp_watts
    return Lamp(share, found.mean, _seen(share, found.mean, load.stops))


WEAK_TIMES = 2.0
WEAK = "It comes and goes: the lamp is too weak for this board."
ROUNDS, CLOSE, COLLAPSED = 14, 5e-3, 1.1


def _seen(share: float, volts: float, stops: float) -> str:
    if volts <= stops * COLLAPSED:
        return WEAK
    if share < DARK:
        return "It stays dark: good, and so it does with the fuse open. Read the bus."
    if share < DIM:
        return "It glows a little: the bus is lower than on the mains itself."
    return "It glows: a stronger lamp, or something behind the fuse takes too much."


def lamp_told(supply: Supply) -> str:
    """What lamp a board takes in series, and what its full glow says."""
    least = f"A lamp in series has {LAMP_TIMES * supply.watts:.0f} W at least for this board."
    glow = "Full glow, as without the board, is a short before or behind the bridge: unplug, and read ohms."
    return f"{least} {glow}"


def told(supply: Supply) -> tuple[tuple[str, str, str], ...]:
    """What is to be read, each with its figure and what it tells: a ladder's first rungs."""
    sound, half = bus(supply), one_diode_open(supply)
    mean, ripple = bulk_open(supply)
    crest, energy = inrush(supply)
    left = after_unplugging(supply)

    def volts(value: float) -> str:
        return format_value(value, Dimension.VOLTAGE)

    spikes = (
        " A meter may show half of it: at so many ohms it is spikes." if supply.esr_ohms >= HIGH_ESR else ""
    )
    return (
        (
            "Bus, DC",
            volts(sound.mean),
            f"√2 times the mains less two diodes; its valley is {volts(sound.valley)}.",
        ),
        ("Bus, AC range", volts(sound.ripple), f"The bulk capacitor’s witness; the DC hardly moves.{spikes}"),
        (
            "One diode open",
            f"{volts(half.mean)}, {volts(half.ripple)} AC",
            "DC tells nothing of it: the AC range does, and the diode test with the plug out.",
        ),
        ("Bulk open", f"{volts(mean)}, {volts(ripple)} AC", "Far too low in DC, and all ripple."),
        (
            "Plugged in at the crest",
            format_value(crest, Dimension.CURRENT),
            f"I²t {energy:.2g} A²s: fuse, bridge and limiter stand that.",
        ),
        (
            "Unplugged, under 50 V",
            f"{left.ran:.0f} s; {left.dead:.0f} s with a dead switcher",
            "With the start resistor open it never falls by itself: measure it, every time.",
        ),
    )


DC_DOUBT, DC_FLOOR = 0.02, 2.0
"""A bus reads within this share of what the mains measured here says, and so many volts."""

MORE_RIPPLE, MUCH_RIPPLE = 1.5, 3.0
"""So many times a sound one's ripple are one diode open or half the capacitor gone; and more is the
capacitor."""


def judge_bus(supply: Supply, volts: float | None, ripple: float | None) -> Judged:
    """A bus as it was read, DC and on the AC range; FrostError where neither was."""
    if volts is None and ripple is None:
        raise FrostError("Nothing read yet: type the bus in DC, or on the AC range, such as 318 V.")
    sound = bus(supply)
    doubt = DC_DOUBT * sound.mean + DC_FLOOR
    if volts is not None:
        band = Band(sound.mean - doubt, sound.mean, sound.mean + doubt)
        verdict, text = _by_volts(supply, volts, band)
        if verdict is not Verdict.IN_BAND or ripple is None:
            return Judged(verdict=verdict, band=band, reason=text)
    assert ripple is not None  # noqa: S101 -- one of the two was read
    times = ripple / max(sound.ripple, LEAST_RIPPLE)
    band = Band(0.0, sound.ripple, MORE_RIPPLE * sound.ripple)
    told = f"{format_value(ripple, Dimension.VOLTAGE)} of ripple, {times:.2g} times a sound one’s"
    if times < MORE_RIPPLE:
        return Judged(
            verdict=Verdict.IN_BAND, band=band, reason=f"{told}: bridge and capacitor do their work."
        )
    if times < MUCH_RIPPLE:
        text = f"{told}: one diode of the bridge open, or half the capacitor gone."
        text += " Plug out: the diode test parts them."
        return Judged(verdict=Verdict.HIGH, band=band, reason=text)
    left = supply.farads / times
    text = f"{told}: as if {format_value(left, Dimension.CAPACITANCE)} were left of it, or its ESR had risen."
    return Judged(verdict=Verdict.HIGH, band=band, reason=text)


LEAST_RIPPLE, NOTHING_VOLTS = 0.02, 5.0


def _by_volts(supply: Supply, volts: float, band: Band) -> tuple[Verdict, str]:
    """A bus in DC: what is missing where it is low."""
    shown = format_value(volts, Dimension.VOLTAGE)
    if volts < NOTHING_VOLTS:
        why = (
            "nothing arrives. Plug out, bus measured empty; then ohms and diode test along the way:"
            " suppressor, bridge, capacitor, switcher. A blown fuse is an effect: none is named before bridge"
            " and bus are read"
        )
        return Verdict.LOW, f"{shown}: {why}."
    if abs(volts - bulk_open(supply)[0]) < OPEN_DOUBT * volts:
        return Verdict.LOW, f"{shown}: as the rectified mains is by itself. The bulk capacitor is open."
    verdict = band.verdict(volts)
    if verdict is Verdict.LOW:
        return verdict, f"{shown}: low for this mains. Too much is taken, or something in its way has grown."
    if verdict is Verdict.HIGH:
        return verdict, f"{shown}: more than this mains makes. Read the mains here once more."
    return verdict, f"{shown}: as it should be. That says little of bridge and capacitor: read the AC range."


OPEN_DOUBT = 0.04
