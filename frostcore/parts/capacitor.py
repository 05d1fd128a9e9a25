"""An electrolytic capacitor by what a meter shows: its series resistance, its farads, how it looks, and what
warming or chilling does to it.

Two resistances go by one name and are never mixed. At 100 or 120 Hz it is tan δ/(2πfC), most of it loss in
the oxide, falling with frequency; at 100 kHz, what an ESR meter shows, it is the electrolyte's and the
foils'. At any frequency f, with both limits known,

    ESR(f) = R₁₀₀ₖ + (tan δ/(2π·120·C) − R₁₀₀ₖ)·120/f

The electrolyte's share goes with temperature T (kelvin) as exp(B(1/T − 1/298.15)), the foils' does not.

The limits are of usual practice, not of any one family: :data:`SOURCE`.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, format_celsius, format_ohms, format_value
from frostcore.verdict import Judged, Verdict

SOURCE = "usual practice of the trade, ±50 %; a workshop's own known-good readings are better"

TAN_DELTA = (
    (6.3, 0.26),
    (10.0, 0.22),
    (16.0, 0.18),
    (25.0, 0.15),
    (35.0, 0.12),
    (50.0, 0.10),
    (100.0, 0.09),
    (250.0, 0.18),
    (450.0, 0.22),
)
"""The greatest tan δ at 120 Hz by rated volts; 0.02 more for every 1000 µF above the first."""

LINE_HERTZ, HIGH_HERTZ = 120.0, 100e3

CAN_OHMS, CAN_POWER = 0.063, -1.14
"""Z at 100 kHz of low-impedance parts by the can's cm³: 0.063·cm³^−1.14."""

STANDARD_TIMES, STANDARD_LEAST = 4.0, 0.05
"""Standard parts have three to five times that, and no less than this."""

HIGH_VOLTS = 160.0
HIGH_VOLT_OHM_FARADS = 22e-6 * 3.0
"""A bulk capacitor of 22 µF and 400 V has 1 to 3 Ω at 100 kHz; others by their farads."""

VOLUME_CM3, VOLUME_POWER = 0.195, 0.75
"""A usual can's cm³ by its farads times volts in thousandths: 0.195·(1000·C·V)^0.75."""

LEADS_OHMS, METER_SHARE = 0.02, 0.05
"""What leads and contacts leave though they were zeroed, and the meter's own share."""

TIRED_TIMES, BAD_TIMES, ADDED_OHMS = 1.0, 3.0, 0.04
"""Tired above its limit, bad above three times it, both with what leads may add."""

TELLS_OHMS = 0.1
"""Under this an ESR meter can't tell a tired part from a good one."""

LEAST_FARADS_SHARE, DRY_SHARE, MORE_SHARE = 0.8, 0.7, 1.3

ELECTROLYTE_SHARE, KELVINS, KELVINS_DOUBT = 0.9, 2200.0, 400.0
ROOM_KELVIN, ZERO = 298.15, 273.15
COLDEST, HOTTEST = -20.0, 85.0

MOST_FARADS, LEAST_FARADS = 0.1, 1e-9
MOST_VOLTS = 600.0


class Family(StrEnum):
    """How a part is made."""

    LOW = "low_impedance"
    STANDARD = "standard"
    UNKNOWN = ""


class Look(StrEnum):
    """How its top and its foot look."""

    FLAT = "flat"
    BULGED = "bulged"
    VENTED = "vented"
    LEAKED = "leaked"
    UNKNOWN = ""


class Health(StrEnum):
    """What it comes to."""

    GOOD = "good"
    TIRED = "tired"
    BAD = "bad"
    UNCLEAR = "unclear"


@dataclass(frozen=True)
class Rating:
    """What is printed on it, and the can where it was measured (millimetres)."""

    farads: float
    volts: float
    family: Family = Family.UNKNOWN
    diameter_mm: float | None = None
    height_mm: float | None = None

    def __post_init__(self) -> None:
        if not LEAST_FARADS <= self.farads <= MOST_FARADS:
            told = format_value(self.farads, Dimension.CAPACITANCE)
            raise FrostError(
                f"{told} is no board’s electrolytic capacitor. Type it with its unit, such as 470u."
            )
        if not 0 < self.volts <= MOST_VOLTS:
            raise FrostError(f"{self.volts:g} V is no capacitor’s rating. Type it such as 25 V.")
        for each in (self.diameter_mm, self.height_mm):
            if each is not None and not 1 <= each <= 120:
                raise FrostError(f"A can of {each:g} mm: type its diameter and its height such as 10 and 16.")

    @property
    def can_cm3(self) -> float:
        """The can's volume: as measured, else as is usual for its farads and volts."""
        if self.diameter_mm and self.height_mm:
            return math.pi * self.diameter_mm**2 / 4 * self.height_mm / 1000
        return VOLUME_CM3 * float((1000 * self.farads * self.volts) ** VOLUME_POWER)


@dataclass(frozen=True)
class Seen:
    """What was measured and seen of one: ohms at a frequency and a temperature, farads, its look; in circuit
    or out of it; ohms warmed or chilled, with that temperature."""

    ohms: float | None = None
    hertz: float = HIGH_HERTZ
    celsius: float = 25.0
    farads: float | None = None
    look: Look = Look.UNKNOWN
    in_circuit: bool = False
    other_ohms: float | None = None
    other_celsius: float | None = None

    def __post_init__(self) -> None:
        if not 50 <= self.hertz <= 1e6:
            raise FrostError(f"{self.hertz:g} Hz is no ESR meter’s frequency. Type 100kHz, 1kHz or 120Hz.")
        for each in (self.celsius, self.other_celsius):
            if each is not None and not COLDEST <= each <= HOTTEST:
                told = f"{format_celsius(COLDEST)} to {format_celsius(HOTTEST)}"
                raise FrostError(f"A capacitor is judged from {told}, not at {format_celsius(each)}.")
        if (self.other_ohms is None) != (self.other_celsius is None):
            raise FrostError("Warmed or chilled: type both, its ohms then and how warm it is then.")


@dataclass(frozen=True)
class Finding:
    """One thing that was found, what it says of the part (none where nothing), and why."""

    what: str
    health: Health | None
    text: str


@dataclass(frozen=True, kw_only=True)
class CapacitorVerdict(Judged):
    """What it comes to, the ohms it is tired and bad from at that frequency and temperature (the first of the
    best family, the second of the worst that may be meant), and each finding."""

    health: Health
    tired_ohms: float
    bad_ohms: float
    findings: tuple[Finding, ...]
    source: str = SOURCE


def tan_delta(rating: Rating) -> float:
    """The greatest tan δ at 120 Hz of its volts and farads."""
    found = next((value for volts, value in TAN_DELTA if rating.volts <= volts), TAN_DELTA[-1][1])
    return found + 0.02 * max(0.0, rating.farads / 1e-3 - 1)


def high_ohms(rating: Rating, family: Family) -> float:
    """The greatest ohms at 100 kHz, at 25 °C."""
    if rating.volts >= HIGH_VOLTS:
        return HIGH_VOLT_OHM_FARADS / rating.farads
    low = CAN_OHMS * float(rating.can_cm3**CAN_POWER)
    return low if family is Family.LOW else max(STANDARD_LEAST, STANDARD_TIMES * low)


def limit_ohms(rating: Rating, family: Family, hertz: float, celsius: float = 25.0) -> float:
    """The greatest ohms of a good one at a frequency and a temperature."""
    high = high_ohms(rating, family)
    line = max(high, tan_delta(rating) / (2 * math.pi * LINE_HERTZ * rating.farads))
    return (high + (line - high) * LINE_HERTZ / max(hertz, LINE_HERTZ / 2)) * warmth(celsius)


def warmth(celsius: float, kelvins: float = KELVINS) -> float:
    """By what its ohms at 25 °C are multiplied at a temperature."""
    going = math.exp(kelvins * (1 / (celsius + ZERO) - 1 / ROOM_KELVIN))
    return 1 - ELECTROLYTE_SHARE + ELECTROLYTE_SHARE * going


def judge_capacitor(rating: Rating, seen: Seen) -> CapacitorVerdict:
    """What is known of one; FrostError where nothing was measured or seen."""
    families = (Family.LOW, Family.STANDARD) if rating.family is Family.UNKNOWN else (rating.family,)
    limits = [limit_ohms(rating, family, seen.hertz, seen.celsius) for family in families]
    tired, bad = TIRED_TIMES * limits[0] + ADDED_OHMS, BAD_TIMES * limits[-1] + ADDED_OHMS
    findings = [
        *_by_ohms(seen, limits),
        *_by_farads(rating, seen),
        *_by_look(seen),
        *_by_warmth(seen),
    ]
    if not findings:
        raise FrostError("Nothing measured yet. Type what the ESR meter shows, its farads, or how it looks.")
    said = [finding.health for finding in findings if finding.health]
    order = (Health.BAD, Health.TIRED, Health.UNCLEAR, Health.GOOD)
    health = next((each for each in order if each in said), Health.UNCLEAR)
    return CapacitorVerdict(
        verdict=MARKS[health],
        reason=WORDS[health],
        health=health,
        tired_ohms=tired,
        bad_ohms=bad,
        findings=tuple(findings),
    )


MARKS = {
    Health.GOOD: Verdict.IN_BAND,
    Health.TIRED: Verdict.HIGH,
    Health.BAD: Verdict.HIGH,
    Health.UNCLEAR: Verdict.UNCLEAR,
}
"""How its health is marked: what goes wrong with one raises its ohms."""


WORDS = {
    Health.BAD: "Bad: change it, and look what made it so: heat, ripple, age.",
    Health.TIRED: "Tired: it may do yet, and not for long. Change it while the board is out.",
    Health.GOOD: "Good, as far as this was measured.",
    Health.UNCLEAR: "Can’t be told by this.",
}

PARALLEL = "In circuit others on the same rail hide it: they are read all together. Lift a leg to be sure."


def _by_ohms(seen: Seen, limits: list[float]) -> list[Finding]:
    """By its series resistance: of the best family that may be meant, and of the worst."""
    if seen.ohms is None:
        return []
    shown = f"{format_ohms(seen.ohms)} at {format_value(seen.hertz, Dimension.FREQUENCY)}"
    best, worst = limits[0], limits[-1]
    healths = [_health(seen.ohms, limit) for limit in (best, worst)]
    wanted = f"a good one has up to {format_ohms(best)}"
    if best != worst:
        wanted += f" of low impedance, {format_ohms(worst)} of a standard family"
    if healths[0] is Health.GOOD:
        if best + ADDED_OHMS < TELLS_OHMS and seen.hertz > 10 * LINE_HERTZ:
            text = f"{shown}: {wanted}. So low that this meter can’t tell a tired one."
            return [Finding("ohms", Health.UNCLEAR, text)]
        text = f"{shown}: {wanted}."
        return [Finding("ohms", Health.GOOD, f"{text} {PARALLEL}" if seen.in_circuit else text)]
    if healths[1] is Health.GOOD:
        text = f"{shown}: {wanted}. Where the board wants low impedance it is {healths[0]}."
        return [Finding("ohms", Health.UNCLEAR, text)]
    health = healths[1]
    near = abs(seen.ohms - (TIRED_TIMES * worst + ADDED_OHMS)) < LEADS_OHMS + METER_SHARE * seen.ohms
    text = f"{shown}: {wanted}."
    return [
        Finding("ohms", health, f"{text} At the edge: zero the leads and read it again." if near else text)
    ]


def _health(ohms: float, limit: float) -> Health:
    if ohms > BAD_TIMES * limit + ADDED_OHMS:
        return Health.BAD
    return Health.TIRED if ohms > TIRED_TIMES * limit + ADDED_OHMS else Health.GOOD


def _by_farads(rating: Rating, seen: Seen) -> list[Finding]:
    if seen.farads is None:
        return []
    share = seen.farads / rating.farads
    shown = f"{format_value(seen.farads, Dimension.CAPACITANCE)} is {share * 100:.0f} % of what is printed"
    if share < DRY_SHARE:
        return [Finding("farads", Health.BAD, f"{shown}: it has dried out.")]
    if share < LEAST_FARADS_SHARE:
        return [Finding("farads", Health.TIRED, f"{shown}; a new one has 80 to 120 %.")]
    if share > MORE_SHARE:
        why = "others beside it are read with it" if seen.in_circuit else "leakage reads as farads"
        return [Finding("farads", Health.UNCLEAR, f"{shown}: {why}.")]
    more = (
        f" {PARALLEL}" if seen.in_circuit else " Farads stay long after the ohms have gone: read these too."
    )
    return [Finding("farads", Health.GOOD if seen.ohms is not None else None, f"{shown}.{more}")]


def _by_look(seen: Seen) -> list[Finding]:
    match seen.look:
        case Look.FLAT:
            text = "A flat top is weak evidence: most that have dried out look so."
            return [Finding("look", None, text)]
        case Look.BULGED | Look.VENTED | Look.LEAKED:
            text = f"A {seen.look} one has boiled or corroded: its fumes and its liquid harm eyes and skin."
            return [Finding("look", Health.BAD, text)]
    return []


def _by_warmth(seen: Seen) -> list[Finding]:
    """Whether its ohms go with temperature as an electrolyte's do."""
    if seen.other_ohms is None or seen.other_celsius is None:
        return []
    if seen.ohms is None or abs(seen.other_celsius - seen.celsius) < LEAST_KELVIN:
        text = f"Warm or chill it by {LEAST_KELVIN:.0f} K at least, and read it at both."
        return [Finding("warmth", None, text)]
    low, high = sorted(
        warmth(seen.other_celsius, kelvins) / warmth(seen.celsius, kelvins)
        for kelvins in (KELVINS - KELVINS_DOUBT, KELVINS + KELVINS_DOUBT)
    )
    share = seen.other_ohms / max(seen.ohms, LEADS_OHMS)
    told = f"{share:.2g} times its ohms at {format_celsius(seen.other_celsius)}; an electrolyte gives"
    told += f" {low:.2g} to {high:.2g}"
    if low * (1 - WARMTH_DOUBT) <= share <= high * (1 + WARMTH_DOUBT):
        text = f"{told}: it is the electrolyte. A good one does so too: the ohms decide, not the change."
        return [Finding("warmth", None, text)]
    if (share - 1) * (low - 1) <= 0:
        return [Finding("warmth", None, f"{told}: not the electrolyte; look for a joint or a lead.")]
    return [Finding("warmth", None, f"{told}: only partly the electrolyte; read it out of circuit.")]


LEAST_KELVIN, WARMTH_DOUBT = 15.0, 0.25
