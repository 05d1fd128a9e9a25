"""Settings that change while a run goes on: a control turned, a screw, a bulb moved, a defrost forced, the
plug out and in, a door; when, and from which on the unit is another.

Moments are seconds from the run's first row. A hand's clock and a logger's differ by some minutes.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, Quantity, format_celsius, parse
from frostcore.thermal.plant import Loop, Thermal

What = Literal["knob", "range", "differential", "bulb", "offset", "door", "defrost", "plug_out", "plug_in"]

WORDS: dict[What, str] = {
    "knob": "Control set",
    "range": "Range screw turned",
    "differential": "Differential screw turned",
    "bulb": "Bulb moved",
    "offset": "Offset set",
    "door": "Door open",
    "defrost": "Defrost forced",
    "plug_out": "Plug out",
    "plug_in": "Plug in",
}
"""What may be done on the way, as it is said."""

MOVES = frozenset({"knob", "range", "differential", "bulb", "offset", "plug_in"})
"""From these on the unit is to be looked at anew: another level, or begun again."""

AROUND = 300.0
"""So far (s) a hand's clock may be from the logger's."""

LONGEST = 400 * 24 * 3600.0
"""No run is longer, s."""


@dataclass(frozen=True)
class Setting:
    """Something done on the way: when (s from the first row), what, to what in words (a position, turns), and
    where that is a temperature, which, and of which compartment."""

    at: float
    what: What
    to: str = ""
    celsius: float | None = None
    place: str = ""

    def __post_init__(self) -> None:
        if self.what not in WORDS:
            message = f"“{self.what}” is nothing that is set; there are {', '.join(WORDS)}"
            raise ValueError(message)
        if not 0 <= self.at <= LONGEST:
            message = "a setting lies in its run: some hours after the first row"
            raise ValueError(message)

    @property
    def words(self) -> str:
        """What was done, in a few words."""
        to = format_celsius(self.celsius) if self.celsius is not None else self.to
        return f"{WORDS[self.what]}{': ' if to else ''}{to}"


def in_order(settings: Iterable[Setting]) -> tuple[Setting, ...]:
    """As they were done."""
    return tuple(sorted(settings, key=lambda each: each.at))


def plant_with(plant: Thermal, settings: Sequence[Setting]) -> Thermal:
    """A plant after some settings: loops whose level is known lie about it; of a position nobody knows what
    it should give."""
    for each in in_order(settings):
        if each.what == "knob" and each.celsius is not None:
            loops = tuple(
                _about(loop, each.celsius) if loop.senses == f"sensor:{each.place}" else loop
                for loop in plant.loops
            )
            plant = replace(plant, loops=loops)
    return plant


def _about(loop: Loop, celsius: float) -> Loop:
    by = celsius - (loop.cut_in + loop.cut_out) / 2
    return replace(loop, cut_in=loop.cut_in + by, cut_out=loop.cut_out + by)


def is_known(plant: Thermal, settings: Sequence[Setting], place: str) -> bool:
    """Whether what a compartment should be is still known: its level was moved by no position, screw or
    offset since a temperature was set."""
    known = True
    for each in in_order(settings):
        if each.place not in {"", place} or each.what not in MOVES - {"plug_in"}:
            continue
        known = each.what == "knob" and each.celsius is not None
    return known


_MOMENT = re.compile(r"(\d+(?:[.,]\d+)?)\s*(h|hours?|min|minutes?|d|days?)?$|(\d+):(\d{2})(?:\s*h)?$")
_SCALE = {"h": 3600.0, "m": 60.0, "d": 86400.0}


def moment_of(text: str) -> float:
    """Seconds from the first row, of ``3.5 h``, ``40 min``, ``12:30`` (hours and minutes). FrostError for
    what is none."""
    found = _MOMENT.fullmatch(text.strip().lower())
    if not found:
        raise FrostError(f"“{text[:40]}” is no moment of the run; write 3.5 h, 40 min or 12:30.")
    if found[3]:
        seconds = int(found[3]) * 3600.0 + int(found[4]) * 60.0
    else:
        seconds = float(found[1].replace(",", ".")) * _SCALE[(found[2] or "h")[0]]
    if seconds > LONGEST:
        raise FrostError(f"“{text[:40]}” is after the end of any run; write hours from its first row.")
    return seconds


def setting_of(text: str, plant: Thermal) -> Setting:
    """A setting as it is typed at the door: ``3.5h=defrost``, ``6h=knob:4``, ``12h=knob:-22C@freezer``.
    FrostError for what is none."""
    moment, _, rest = text.partition("=")
    what, _, to = rest.partition(":")
    if what not in WORDS:
        raise FrostError(
            f"“{text[:60]}” is not understood; write 3.5h=defrost, 6h=knob:4 or 12h=knob:-22C@freezer "
            f"({', '.join(WORDS)})."
        )
    to, _, place = to.partition("@")
    rooms = [room.place for room in plant.compartments]
    if place and place not in rooms:
        raise FrostError(f"There is no compartment “{place[:40]}”; there are {', '.join(rooms)}.")
    return set_to(moment_of(moment), what, to, place or (rooms[0] if len(rooms) == 1 else ""))


def set_to(at: float, what: What, to: str, place: str = "") -> Setting:
    """A setting whose ``to`` is a temperature where it is written as one (°C or °F) and the compartment is
    said."""
    to = " ".join(to.split())[:60]
    celsius = None
    if what == "knob" and re.search(r"[cf]$|°", to.lower()):
        read = parse(to, Dimension.TEMPERATURE)
        celsius = read.value if isinstance(read, Quantity) else None
        if celsius is not None and not place:
            raise FrostError(f"Say which compartment “{to}” is of.")
    return Setting(at, what, to, celsius, place)
