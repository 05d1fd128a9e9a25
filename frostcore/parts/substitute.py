"""Which part on the shelf may stand in for one of a board's, property by property: it holds, it refuses, or
it has to be asked, each in a sentence.

What is not known of either part is asked and never taken to hold.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields
from enum import StrEnum

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, format_ohms, format_value


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


Rule = Callable[[SmallPart, SmallPart, Place], Iterator[Property]]


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
        yield from rule(old, new, place)


def _both(name: str, old: float | None, new: float | None, unknown: str) -> tuple[float, float] | Property:
    """Both where both are known; what is to be asked where one is not."""
    if old is None:
        return Property(name, Answer.ASKS, f"{unknown} of the old one is not known: read its print.")
    if new is None:
        return Property(name, Answer.ASKS, f"{unknown} of this one is not known: look it up.")
    return old, new


@dataclass(frozen=True)
class _AtLeast:
    """Not less than the old one's, nor than a share of it."""

    name: str
    words: str
    dimension: Dimension | None
    share: float = 1.0
    most: float | None = None
    """Nor more than so many times, where that does harm; ``why`` says which."""

    why: str = ""

    def __call__(self, old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
        pair = _both(self.name, getattr(old, self.name), getattr(new, self.name), self.words)
        if isinstance(pair, Property):
            yield pair
            return
        was, now = pair
        told, wanted = self._told(now), self._told(was)
        if now < was * self.share * (1 - NEAR):
            yield Property(self.name, Answer.REFUSES, f"{self.words} {told}: less than {wanted}.")
        elif self.most is not None and now > was * self.most * (1 + NEAR):
            yield Property(self.name, Answer.REFUSES, f"{self.words} {told} for {wanted}: {self.why}.")
        else:
            yield Property(self.name, Answer.HOLDS, f"{self.words} {told} for {wanted}.")

    def _told(self, value: float) -> str:
        return format_value(value, self.dimension) if self.dimension else f"{value:g}"


NEAR = 1e-9


@dataclass(frozen=True)
class _Same:
    """The same in words: class, law, pins."""

    name: str
    words: str
    why: str = ""

    def __call__(self, old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
        was, now = getattr(old, self.name), getattr(new, self.name)
        if not was or not now:
            which = "the old one" if not was else "this one"
            yield Property(self.name, Answer.ASKS, f"{self.words} of {which} is not known: look.")
        elif was.strip().casefold() != now.strip().casefold():
            more = f": {self.why}" if self.why else ""
            yield Property(self.name, Answer.REFUSES, f"{self.words} {now} is not {was}{more}.")
        else:
            yield Property(self.name, Answer.HOLDS, f"{self.words} {now}.")


def _farads(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """The same value, more where that does no harm."""
    pair = _both("farads", old.farads, new.farads, "The value")
    if isinstance(pair, Property):
        yield pair
        return
    share, told = pair[1] / pair[0], _farads_told(pair[1], pair[0])
    low, high = FARADS[place.role]
    if old.safety or place.role == "dropper":
        low, high = FARADS["timing"]
    if low * (1 - NEAR) <= share <= high * (1 + NEAR):
        yield Property("farads", Answer.HOLDS, told)
    else:
        why = {
            "bulk": "more draws a greater inrush through fuse, bridge and limiter",
            "timing": "it sets a time",
            "dropper": "it sets the current of the whole supply",
        }.get(place.role, "less lets more ripple through" if share < low else "so much more starts slowly")
        yield Property("farads", Answer.REFUSES, f"{told} {why[:1].upper()}{why[1:]}.")


def _farads_told(new: float, old: float) -> str:
    one, other = (format_value(each, Dimension.CAPACITANCE) for each in (new, old))
    return f"{one} for {other}."


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

MEASURED_SHARE = 1.25


def _volts(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """Not less than the old one's, and a quarter above what is measured there."""
    yield from _AtLeast("volts", "Rated", Dimension.VOLTAGE)(old, new, place)
    if place.measured_volts and new.volts and new.volts < MEASURED_SHARE * place.measured_volts:
        seen = format_value(place.measured_volts, Dimension.VOLTAGE)
        rated = format_value(new.volts, Dimension.VOLTAGE)
        told = f"Rated {rated} where {seen} stand: a quarter more is wanted."
        yield Property("measured", Answer.REFUSES, told)
    if place.role == "bulk" and place.mains_volts and new.volts:
        least = BULK_VOLTS[place.mains_volts > HIGH_MAINS]
        if new.volts < least:
            told = f"Rated {new.volts:g} V: behind a bridge on this mains it takes {least:g} V."
            yield Property("measured", Answer.REFUSES, told)


HIGH_MAINS, BULK_VOLTS = 180.0, {True: 400.0, False: 200.0}


def _esr(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """Low series resistance and ripple current where the place needs them."""
    if place.role == "linear":
        if old.esr_ohms is None or new.esr_ohms is None or new.esr_ohms < old.esr_ohms / 3:
            told = "A linear regulator may swing on a capacitor of very low ohms: its sheet says how low."
            yield Property("esr_ohms", Answer.ASKS, told)
        return
    if place.role in {"timing", "dropper"}:
        return
    pair = _both("esr_ohms", old.esr_ohms, new.esr_ohms, "The series resistance at 100 kHz")
    if isinstance(pair, Property):
        yield pair
    else:
        one, other = format_ohms(pair[1]), format_ohms(pair[0])
        if pair[1] > pair[0] * (1 + NEAR):
            yield Property("esr_ohms", Answer.REFUSES, f"{one} at 100 kHz is more than {other}: it runs hot.")
        else:
            yield Property("esr_ohms", Answer.HOLDS, f"{one} at 100 kHz for {other}.")
    if place.role in {"rail", "switcher", "bulk", ""}:
        yield from _AtLeast("ripple_amperes", "Ripple current", Dimension.CURRENT)(old, new, place)


def _fits(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """Room and pitch."""
    for name, words, room in (
        ("diameter_mm", "across", place.room_diameter_mm),
        ("height_mm", "high", place.room_height_mm),
    ):
        limit, size = room or getattr(old, name), getattr(new, name)
        if limit is None or size is None:
            yield Property(name, Answer.ASKS, f"Whether it fits, how many mm {words}, is not known: measure.")
        elif size > limit + FIT_MM:
            told = f"{size:g} mm {words}: there are {limit:g} mm of room."
            yield Property(name, Answer.REFUSES, told)
        else:
            yield Property(name, Answer.HOLDS, f"{size:g} mm {words} in {limit:g} mm.")
    if old.pitch_mm is None or new.pitch_mm is None:
        yield Property("pitch_mm", Answer.ASKS, "The leads’ pitch is not known: measure.")
    elif abs(old.pitch_mm - new.pitch_mm) > BENT_MM:
        told = f"Leads {new.pitch_mm:g} mm apart for holes {old.pitch_mm:g} mm apart."
        yield Property("pitch_mm", Answer.REFUSES, told)
    else:
        bent = "" if old.pitch_mm == new.pitch_mm else ", bent a little"
        yield Property("pitch_mm", Answer.HOLDS, f"Leads {new.pitch_mm:g} mm apart{bent}.")


FIT_MM, BENT_MM = 0.25, 1.0


def _polarity(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """A polarised one for a polarised one, its stripe to minus."""
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


def _fuse(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """Never more amperes."""
    pair = _both("amperes", old.amperes, new.amperes, "The amperes")
    if isinstance(pair, Property):
        yield pair
        return
    was, now = pair
    told = f"{now:g} A for {was:g} A"
    if now > was * (1 + NEAR):
        yield Property("amperes", Answer.REFUSES, f"{told}: never more; the wiring burns instead.")
    elif now < 0.95 * was:
        yield Property("amperes", Answer.REFUSES, f"{told}: it blows in normal service.")
    else:
        yield Property("amperes", Answer.HOLDS, f"{told}.")


def _inrush(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """An inrush limiter: its cold ohms, and the energy of the bulk capacitor."""
    pair = _both("ohms", old.ohms, new.ohms, "Its cold ohms")
    if isinstance(pair, Property):
        yield pair
    else:
        was, now = pair
        share, told = now / was, f"{format_ohms(now)} cold for {format_ohms(was)}."
        if 0.7 - NEAR <= share <= 1.5 + NEAR:
            yield Property("ohms", Answer.HOLDS, told)
        else:
            why = "the inrush is too great" if share < 1 else "it runs too hot"
            yield Property("ohms", Answer.REFUSES, f"{told[:-1]}: {why}.")
    if place.bulk_farads and place.mains_volts:
        energy = place.bulk_farads * 2 * place.mains_volts**2 / 2
        if new.joules is None:
            told = (
                f"It takes {energy:.2g} J at each cold start; what this one stands is not known: look it up."
            )
            yield Property("joules", Answer.ASKS, told)
        elif new.joules < energy:
            yield Property(
                "joules", Answer.REFUSES, f"It stands {new.joules:g} J; a cold start takes {energy:.2g} J."
            )
        else:
            yield Property("joules", Answer.HOLDS, f"It stands {new.joules:g} J of {energy:.2g} J.")


def _coil(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """The same coil volts; ohms enough for what drives it."""
    pair = _both("coil_volts", old.coil_volts, new.coil_volts, "The coil’s volts")
    if isinstance(pair, Property):
        yield pair
    elif pair[0] != pair[1]:
        told = f"A coil for {pair[1]:g} V; {pair[0]:g} V drive it."
        yield Property("coil_volts", Answer.REFUSES, told)
    else:
        yield Property("coil_volts", Answer.HOLDS, f"A coil for {pair[1]:g} V.")
    yield from _AtLeast("coil_ohms", "Coil", Dimension.RESISTANCE, share=0.9)(old, new, place)


def _ohms(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """The same value within the tighter of the tolerances."""
    pair = _both("ohms", old.ohms, new.ohms, "The value")
    if isinstance(pair, Property):
        yield pair
        return
    told = f"{format_ohms(pair[1])} for {format_ohms(pair[0])}"
    same = abs(pair[1] / pair[0] - 1) <= max(old.tolerance or 0.05, 0.01) / 2
    yield Property(
        "ohms", Answer.HOLDS if same else Answer.REFUSES, f"{told}{'.' if same else ': another value.'}"
    )


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


def _same_type(old: SmallPart, new: SmallPart, place: Place) -> Iterator[Property]:
    """A switcher is replaced by the same type."""
    same = old.family and old.family.strip().casefold() == new.family.strip().casefold()
    if not old.family:
        yield Property("family", Answer.ASKS, "The old one’s type is not known: read its print.")
    elif same:
        yield Property("family", Answer.HOLDS, "The same type.")
    else:
        yield Property(
            "family", Answer.REFUSES, f"{new.family or 'This one'} is not {old.family}: the same type alone."
        )


_CELSIUS = _AtLeast("celsius", "Good to", Dimension.TEMPERATURE)
_HOURS = _AtLeast("hours", "Life in hours", None)

RULES: dict[Kind, tuple[Rule, ...]] = {
    Kind.ELECTROLYTIC: (_farads, _volts, _CELSIUS, _esr, _HOURS, _fits, _polarity),
    Kind.FILM_CAPACITOR: (
        _farads,
        _AtLeast("volts_ac", "AC volts", Dimension.VOLTAGE),
        _Same("safety", "Safety class", "across the mains and to earth it is never another"),
        _fits,
    ),
    Kind.SUPPRESSOR: (
        _suppressor,
        _AtLeast("joules", "Energy in J", None),
        _AtLeast("diameter_mm", "Disc in mm", None),
    ),
    Kind.FUSE: (
        _fuse,
        _Same("time_class", "Time class", "a quick one blows at the inrush, a slow one too late"),
        _AtLeast("breaking_amperes", "Breaking capacity", Dimension.CURRENT),
        _AtLeast("volts_ac", "AC volts", Dimension.VOLTAGE),
        _fits,
    ),
    Kind.NTC: (_inrush, _AtLeast("amperes", "Greatest current", Dimension.CURRENT), _fits),
    Kind.RELAY: (
        _coil,
        _AtLeast("contact_amperes", "Contact", Dimension.CURRENT),
        _Same("contact_form", "Contact form"),
        _Same("pinout", "Pins"),
        _fits,
    ),
    Kind.RESISTOR: (
        _ohms,
        _AtLeast("watts", "Power", Dimension.POWER),
        _AtLeast("volts", "Rated", Dimension.VOLTAGE),
        _flameproof,
    ),
    Kind.POTENTIOMETER: (
        _ohms,
        _Same("law", "Law", "the knob’s scale would no longer be true"),
        _Same("pinout", "Pins and switch"),
        _AtLeast("shaft_mm", "Shaft in mm", None),
        _AtLeast("watts", "Power", Dimension.POWER),
    ),
    Kind.SWITCHER: (_same_type,),
}
"""What is looked at, of each kind."""

ASKED: dict[Kind, tuple[tuple[str, ...], tuple[str, ...]]] = {
    Kind.ELECTROLYTIC: (
        (
            "farads",
            "volts",
            "celsius",
            "esr_ohms",
            "ripple_amperes",
            "hours",
            "diameter_mm",
            "height_mm",
            "pitch_mm",
            "polarised",
        ),
        ("role", "measured_volts", "mains_volts", "room_diameter_mm", "room_height_mm"),
    ),
    Kind.FILM_CAPACITOR: (
        ("farads", "volts_ac", "safety", "diameter_mm", "height_mm", "pitch_mm"),
        ("role", "room_diameter_mm", "room_height_mm"),
    ),
    Kind.SUPPRESSOR: (("volts_ac", "joules", "diameter_mm"), ("mains_volts",)),
    Kind.FUSE: (
        ("amperes", "time_class", "breaking_amperes", "volts_ac", "diameter_mm", "height_mm", "pitch_mm"),
        (),
    ),
    Kind.NTC: (("ohms", "amperes", "diameter_mm", "height_mm", "pitch_mm"), ("mains_volts", "bulk_farads")),
    Kind.RELAY: (
        (
            "coil_volts",
            "coil_ohms",
            "contact_amperes",
            "contact_form",
            "pinout",
            "diameter_mm",
            "height_mm",
            "pitch_mm",
        ),
        (),
    ),
    Kind.RESISTOR: (("ohms", "watts", "volts", "flameproof"), ()),
    Kind.POTENTIOMETER: (("ohms", "law", "pinout", "shaft_mm", "watts"), ()),
    Kind.SWITCHER: (("family",), ()),
}
"""What is asked of the old one of each kind, and of its place."""


def asked_of(kind: Kind) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What the rules of a kind look at: of the part, and of its place."""
    return ASKED[kind]


NAMES = tuple(each.name for each in fields(SmallPart))
