"""Which part on the shelf may stand in for one of a board's, property by property: it holds, it refuses, or
it has to be asked, each in a sentence.

What is not known of either part is asked and never taken to hold.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields
from enum import StrEnum

from frostcore.errors import FrostError
from frostcore.parts.loads import HIGH_MAINS_VOLTS
from frostcore.quantity import Dimension, format_ohms, format_value
from frostcore.verdict import Verdict


class Kind(StrEnum):
    """Kinds of a board's parts that are replaced one by one."""

    ELECTROLYTIC = "electrolytic"
    FILM_CAPACITOR = "film_capacitor"
    SUPPRESSOR = "suppressor"
    FUSE = "fuse"
    NTC = "ntc"
    RELAY = "relay"
    RESISTOR = "resistor"
    POTENTIOMETER = "potentiometer"
    SWITCHER = "switcher"


class Answer(StrEnum):
    """What a property comes to."""

    HOLDS = "holds"
    ASKS = "asks"
    REFUSES = "refuses"

    @property
    def verdict(self) -> Verdict:
        """How it is marked."""
        return {Answer.HOLDS: Verdict.IN_BAND, Answer.ASKS: Verdict.UNCLEAR}.get(self, Verdict.HIGH)


@dataclass(frozen=True)
class SmallPart:
    """A part of a board as printed or as in a catalogue, in SI units (lengths in mm, hours in h); what is not
    known is None or empty."""

    id: str
    kind: Kind
    family: str = ""
    farads: float | None = None
    ohms: float | None = None
    volts: float | None = None
    volts_ac: float | None = None
    amperes: float | None = None
    celsius: float | None = None
    esr_ohms: float | None = None
    ripple_amperes: float | None = None
    hours: float | None = None
    joules: float | None = None
    watts: float | None = None
    tolerance: float | None = None
    diameter_mm: float | None = None
    height_mm: float | None = None
    pitch_mm: float | None = None
    shaft_mm: float | None = None
    polarised: str = ""
    safety: str = ""
    breaking_amperes: float | None = None
    time_class: str = ""
    coil_volts: float | None = None
    coil_ohms: float | None = None
    contact_amperes: float | None = None
    contact_form: str = ""
    pinout: str = ""
    law: str = ""
    flameproof: str = ""
    count: int | None = None
    price: float | None = None


@dataclass(frozen=True)
class Place:
    """Where it goes: what the board asks of it. ``role`` is ``rail``, ``bulk``, ``switcher``, ``timing``,
    ``linear`` (a linear regulator's output) or ``dropper``; the volts measured across it; the mains; the room
    in mm; the farads an inrush limiter or a fuse must stand."""

    role: str = ""
    measured_volts: float | None = None
    mains_volts: float | None = None
    room_diameter_mm: float | None = None
    room_height_mm: float | None = None
    bulk_farads: float | None = None


ROLES = ("", "rail", "bulk", "switcher", "timing", "linear", "dropper")


@dataclass(frozen=True)
class Property:
    """One property: what it comes to, and why."""

    name: str
    answer: Answer
    text: str


@dataclass(frozen=True)
class Candidate:
    """A part on the shelf: its properties; it may be taken where none refuses and none asks."""

    part: SmallPart
    properties: tuple[Property, ...]

    @property
    def answer(self) -> Answer:
        """What it comes to altogether."""
        answers = {each.answer for each in self.properties}
        return next((each for each in (Answer.REFUSES, Answer.ASKS) if each in answers), Answer.HOLDS)


def substitutes(
    old: SmallPart, shelf: Sequence[SmallPart], place: Place | None = None
) -> tuple[Candidate, ...]:
    """Every part of the kind: what may be taken first, then what is to be asked, the nearest first.
    FrostError for a role that is none."""
    place = place or Place()
    if place.role not in ROLES:
        raise FrostError(
            f"“{place.role[:40]}” is no role; write {', '.join(each for each in ROLES if each)}."
        )
    some = [each for each in shelf if each.kind is old.kind and each.count != 0]
    found = [Candidate(each, tuple(_all(old, each, place))) for each in some]
    order = [Answer.HOLDS, Answer.ASKS, Answer.REFUSES]
    return tuple(sorted(found, key=lambda each: (order.index(each.answer), _far(old, each), each.part.id)))


def _far(old: SmallPart, candidate: Candidate) -> tuple[int, float]:
    """How much is still to be asked, and how far its value is off."""
    asks = sum(each.answer is not Answer.HOLDS for each in candidate.properties)
    off = 0.0
    for name in ("farads", "ohms", "volts", "amperes"):
        mine, its = getattr(old, name), getattr(candidate.part, name)
        if mine and its:
            off += abs(math.log(its / mine))
    return asks, off


def _all(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    for rule in RULES[old.kind]:
        yield from rule.of(old, new, place)


@dataclass(frozen=True)
class Rule:
    """A rule: the properties of a part it looks at, and those of its place."""

    part: tuple[str, ...]
    place: tuple[str, ...]
    of: Callable[[SmallPart, SmallPart, Place], Iterator[Property]]


Judge = Callable[[float, float, Place], tuple[Answer, str]]
"""What a value of the old one and of the new one come to, and why."""


def _pair(name: str, words: str, judge: Judge, *place: str) -> Rule:
    """A rule on one figure: asked where it is not known of both."""

    def of(old: SmallPart, new: SmallPart, at: Place) -> Iterator[Property]:
        was, now = getattr(old, name), getattr(new, name)
        if was is None:
            yield Property(name, Answer.ASKS, f"{words} of the old one is not known: read its print.")
        elif now is None:
            yield Property(name, Answer.ASKS, f"{words} of this one is not known: look it up.")
        else:
            yield Property(name, *judge(was, now, at))

    return Rule((name,), place, of)


def _at_least(name: str, words: str, dimension: Dimension | None = None, share: float = 1.0) -> Rule:
    """Not less than the old one's, or than a share of it."""

    def told(value: float) -> str:
        return format_value(value, dimension) if dimension else f"{value:g}"

    def judge(was: float, now: float, place: Place) -> tuple[Answer, str]:
        if now < was * share * (1 - NEAR):
            return Answer.REFUSES, f"{words} {told(now)}: less than {told(was)}."
        return Answer.HOLDS, f"{words} {told(now)} for {told(was)}."

    return _pair(name, words, judge)


def _same(name: str, words: str, why: str = "") -> Rule:
    """The same in words: class, law, pins, type."""

    def of(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
        was, now = getattr(old, name), getattr(new, name)
        if not was or not now:
            which = "the old one" if not was else "this one"
            yield Property(name, Answer.ASKS, f"{words} of {which} is not known: look.")
        elif was.strip().casefold() != now.strip().casefold():
            more = f": {why}" if why else ""
            yield Property(name, Answer.REFUSES, f"{words} {now} is not {was}{more}.")
        else:
            yield Property(name, Answer.HOLDS, f"{words} {now}.")

    return Rule((name,), (), of)


NEAR = 1e-9

FARADS = {
    "": (1.0, 2.0),
    "rail": (1.0, 2.0),
    "switcher": (1.0, 2.0),
    "linear": (1.0, 2.0),
    "bulk": (0.9, 1.5),
    "timing": (0.95, 1.05),
    "dropper": (0.95, 1.05),
}
"""By what share of the old one's its farads may differ, by role."""


def _farads(was: float, now: float, place: Place, role: str = "") -> tuple[Answer, str]:
    """The same value, more where that does no harm."""
    role = role or place.role
    share, told = now / was, f"{_farads_of(now)} for {_farads_of(was)}"
    low, high = FARADS[role]
    if low * (1 - NEAR) <= share <= high * (1 + NEAR):
        return Answer.HOLDS, f"{told}."
    less = "less lets more ripple through" if share < low else "so much more starts slowly"
    why = {
        "bulk": "more draws a greater inrush through fuse, bridge and limiter" if share > high else less,
        "timing": "its value is the point of it",
        "dropper": "it sets the current of the whole supply",
    }.get(role, less)
    return Answer.REFUSES, f"{told}: {why}."


def _farads_of(value: float) -> str:
    return format_value(value, Dimension.CAPACITANCE)


def _film(was: float, now: float, place: Place) -> tuple[Answer, str]:
    """Across the mains and in a dropper the same value alone."""
    return _farads(was, now, place, "dropper" if place.role == "dropper" else "timing")


MEASURED_SHARE, BULK_VOLTS = 1.25, {True: 400.0, False: 200.0}


def _volts(was: float, now: float, place: Place) -> tuple[Answer, str]:
    """Not less than the old one's, and a quarter above what is measured there; behind a bridge by mains."""
    rated, before = (format_value(each, Dimension.VOLTAGE) for each in (now, was))
    if now < was * (1 - NEAR):
        return Answer.REFUSES, f"Rated {rated}: less than {before}."
    if place.measured_volts and now < MEASURED_SHARE * place.measured_volts:
        seen = format_value(place.measured_volts, Dimension.VOLTAGE)
        return Answer.REFUSES, f"Rated {rated} where {seen} stand: a quarter more is wanted."
    if place.role == "bulk" and place.mains_volts:
        least = BULK_VOLTS[place.mains_volts > HIGH_MAINS_VOLTS]
        if now < least:
            return Answer.REFUSES, f"Rated {rated}: behind a bridge on this mains it takes {least:g} V."
    return Answer.HOLDS, f"Rated {rated} for {before}."


def _esr(was: float, now: float, place: Place) -> tuple[Answer, str]:
    """Low series resistance where the place needs it; not too low for a linear regulator."""
    told = f"{format_ohms(now)} at 100 kHz for {format_ohms(was)}"
    if place.role in {"timing", "dropper"}:
        return Answer.HOLDS, f"{told}: it does not matter here."
    if place.role == "linear":
        if now < was / 3:
            return (
                Answer.ASKS,
                f"{told}: a linear regulator may swing on so few ohms; its sheet says how few.",
            )
        return Answer.HOLDS, f"{told}."
    if now > was * (1 + NEAR):
        return Answer.REFUSES, f"{told}: more; it runs hot."
    return Answer.HOLDS, f"{told}."


def _room(name: str, words: str, room: str = "") -> Rule:
    """Whether it fits: in the room there is, or that of the old one."""

    def of(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
        limit = (getattr(place, room) if room else None) or getattr(old, name)
        size = getattr(new, name)
        if limit is None or size is None:
            yield Property(name, Answer.ASKS, f"Whether it fits, how many mm {words}, is not known: measure.")
        elif size > limit + FIT_MM:
            yield Property(name, Answer.REFUSES, f"{size:g} mm {words}: there are {limit:g} mm of room.")
        else:
            yield Property(name, Answer.HOLDS, f"{size:g} mm {words} in {limit:g} mm.")

    return Rule((name,), (room,) if room else (), of)


def _pitch(was: float, now: float, place: Place) -> tuple[Answer, str]:
    if abs(was - now) > BENT_MM:
        return Answer.REFUSES, f"Leads {now:g} mm apart for holes {was:g} mm apart."
    return Answer.HOLDS, f"Leads {now:g} mm apart{'' if was == now else ', bent a little'}."


FIT_MM, BENT_MM = 0.25, 1.0


def _polarity(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """A bipolar one is replaced by a bipolar one."""
    if old.polarised == "no" and new.polarised != "no":
        yield Property("polarised", Answer.REFUSES, "A bipolar one stands here: a polarised one bursts.")
    else:
        yield Property(
            "polarised", Answer.HOLDS, "Its stripe goes to minus; look at the print before the iron."
        )


def _suppressor(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """Its continuous volts: above the mains, and not so far above that it clamps too late."""
    mains, volts = place.mains_volts, new.volts_ac
    if mains is None:
        yield Property("volts_ac", Answer.ASKS, "For which mains? 230 V or 120 V.")
        return
    if volts is None:
        yield Property("volts_ac", Answer.ASKS, "Its continuous AC volts are not known: read its print.")
        return
    told = f"Made for {volts:g} V continuously on a mains of {mains:g} V"
    if volts < 1.1 * mains:
        yield Property("volts_ac", Answer.REFUSES, f"{told}: it wears out and burns.")
    elif volts > 1.4 * mains:
        yield Property(
            "volts_ac", Answer.REFUSES, f"{told}: it lets surges through that the board can’t stand."
        )
    else:
        yield Property("volts_ac", Answer.HOLDS, f"{told}.")


def _fuse(was: float, now: float, place: Place) -> tuple[Answer, str]:
    """Never more amperes."""
    told = f"{now:g} A for {was:g} A"
    if now > was * (1 + NEAR):
        return Answer.REFUSES, f"{told}: never more; the wiring burns instead."
    if now < 0.95 * was:
        return Answer.REFUSES, f"{told}: it blows in normal service."
    return Answer.HOLDS, f"{told}."


def _cold_ohms(was: float, now: float, place: Place) -> tuple[Answer, str]:
    """An inrush limiter's ohms, cold."""
    share, told = now / was, f"{format_ohms(now)} cold for {format_ohms(was)}"
    if 0.7 - NEAR <= share <= 1.5 + NEAR:
        return Answer.HOLDS, f"{told}."
    return Answer.REFUSES, f"{told}: {'the inrush is too great' if share < 1 else 'it runs too hot'}."


def _stands(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """An inrush limiter stands the energy the bulk capacitor takes at a cold start: C·V̂²/2 = C·V²."""
    if not place.bulk_farads or not place.mains_volts:
        return
    energy = place.bulk_farads * place.mains_volts**2
    if new.joules is None:
        told = f"It takes {energy:.2g} J at each cold start; what this one stands is not known: look it up."
        yield Property("joules", Answer.ASKS, told)
    else:
        answer = Answer.REFUSES if new.joules < energy else Answer.HOLDS
        yield Property("joules", answer, f"It stands {new.joules:g} J; a cold start takes {energy:.2g} J.")


def _coil(was: float, now: float, place: Place) -> tuple[Answer, str]:
    if was != now:
        return Answer.REFUSES, f"A coil for {now:g} V; {was:g} V drive it."
    return Answer.HOLDS, f"A coil for {now:g} V."


def _ohms(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """The same value, within half the old one's tolerance."""

    def judge(was: float, now: float, at: Place) -> tuple[Answer, str]:
        told = f"{format_ohms(now)} for {format_ohms(was)}"
        if abs(now / was - 1) <= max(old.tolerance or 0.05, 0.01) / 2:
            return Answer.HOLDS, f"{told}."
        return Answer.REFUSES, f"{told}: another value."

    yield from _pair("ohms", "The value", judge).of(old, new, place)


def _flameproof(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """A resistor that breaks without burning, or as a fuse, is replaced by another such."""
    if not old.flameproof:
        told = "Whether the old one is flame-proof or a fuse is not known: body and print say it."
        yield Property("flameproof", Answer.ASKS, told)
    elif old.flameproof not in {"no", new.flameproof}:
        told = f"The old one is {old.flameproof}: an ordinary one burns where that one opens."
        yield Property("flameproof", Answer.REFUSES, told)
    else:
        yield Property("flameproof", Answer.HOLDS, "As fire-safe as the old one.")


_SIZE = (
    _room("diameter_mm", "across"),
    _room("height_mm", "high"),
    _pair("pitch_mm", "The leads’ pitch", _pitch),
)
_IN_ROOM = (
    _room("diameter_mm", "across", "room_diameter_mm"),
    _room("height_mm", "high", "room_height_mm"),
    _SIZE[2],
)
_VALUE = Rule(("ohms",), (), _ohms)

RULES: dict[Kind, tuple[Rule, ...]] = {
    Kind.ELECTROLYTIC: (
        _pair("farads", "The value", _farads, "role"),
        _pair("volts", "The rated volts", _volts, "measured_volts", "mains_volts"),
        _at_least("celsius", "Good to", Dimension.TEMPERATURE),
        _pair("esr_ohms", "The series resistance at 100 kHz", _esr),
        _at_least("ripple_amperes", "Ripple current", Dimension.CURRENT),
        _at_least("hours", "Life in hours"),
        *_IN_ROOM,
        Rule(("polarised",), (), _polarity),
    ),
    Kind.FILM_CAPACITOR: (
        _pair("farads", "The value", _film, "role"),
        _at_least("volts_ac", "AC volts", Dimension.VOLTAGE),
        _same("safety", "Safety class", "across the mains and to earth it is never another"),
        *_IN_ROOM,
    ),
    Kind.SUPPRESSOR: (
        Rule(("volts_ac",), ("mains_volts",), _suppressor),
        _at_least("joules", "Energy in J"),
        _at_least("diameter_mm", "Disc in mm"),
    ),
    Kind.FUSE: (
        _pair("amperes", "The amperes", _fuse),
        _same("time_class", "Time class", "a quick one blows at the inrush, a slow one too late"),
        _at_least("breaking_amperes", "Breaking capacity", Dimension.CURRENT),
        _at_least("volts_ac", "AC volts", Dimension.VOLTAGE),
        *_SIZE,
    ),
    Kind.NTC: (
        _pair("ohms", "Its cold ohms", _cold_ohms),
        Rule((), ("mains_volts", "bulk_farads"), _stands),
        _at_least("amperes", "Greatest current", Dimension.CURRENT),
        *_SIZE,
    ),
    Kind.RELAY: (
        _pair("coil_volts", "The coil’s volts", _coil),
        _at_least("coil_ohms", "Coil", Dimension.RESISTANCE, share=0.9),
        _at_least("contact_amperes", "Contact", Dimension.CURRENT),
        _same("contact_form", "Contact form"),
        _same("pinout", "Pins"),
        *_SIZE,
    ),
    Kind.RESISTOR: (
        _VALUE,
        _at_least("watts", "Power", Dimension.POWER),
        _at_least("volts", "Rated", Dimension.VOLTAGE),
        Rule(("flameproof",), (), _flameproof),
    ),
    Kind.POTENTIOMETER: (
        _VALUE,
        _same("law", "Law", "the knob’s scale would no longer be true"),
        _same("pinout", "Pins and switch"),
        _at_least("shaft_mm", "Shaft in mm"),
        _at_least("watts", "Power", Dimension.POWER),
    ),
    Kind.SWITCHER: (_same("family", "The type", "the same type alone"),),
}
"""What is looked at, of each kind."""


def asked_of(kind: Kind) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What the rules of a kind look at: of the part, and of its place."""
    part = dict.fromkeys(name for rule in RULES[kind] for name in rule.part)
    place = dict.fromkeys(name for rule in RULES[kind] for name in rule.place)
    return tuple(part), tuple(place)


NAMES = tuple(each.name for each in fields(SmallPart))
