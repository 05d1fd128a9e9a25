"""What a sheet document may hold at most, asked before anything is made of it.

A document comes from anywhere. However large, deep or odd it is, looking at it takes a moment, and what it
says can be an address, a file's name, a line of a SPICE deck. Each problem names its place.
"""

import re
import unicodedata
from collections.abc import Iterator
from typing import Any

from frostcore.document import Path, Problem, said

MOST_CHARACTERS = 2_000_000
MOST_DEEP = 12
MOST_LISTED = 400
"""Entries of one list or object: of harness lines, of rows of a table."""

MOST_OF: dict[str, int] = {
    "boards": 8,
    "codes": 200,
    "components": 150,
    "connectors": 80,
    "curves": 40,
    "modes": 40,
    "places": 60,
    "sensors": 40,
    "settings": 80,
}
"""Entries of these lists: several times what the largest unit has. Each mode is a circuit to settle."""

MOST_IN_ALL = 30_000
MOST_TEXT = 2000
MOST_WORD = 60
MOST_DIGITS = 15
"""More digits than a number of the trade has."""

MOST_TOLD = 30
"""Problems named; whoever has more mends these first."""

WORD = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]*")
"""An identifier: it can be part of an address as it stands. Names for people are in any script."""

POINT = re.compile(r"[A-Za-z0-9][A-Za-z0-9_.-]*(/wire|/old)?")
"""A pin, a terminal or a node: identifiers with dots between them; the free end of its wire."""

WORDS = {
    "bulb_place",
    "change_with",
    "component",
    "curve",
    "during",
    "fed_by",
    "id",
    "inside",
    "place",
    "plugs",
    "pulled",
    "rest",
    "sensor",
    "signal",
    "signals",
    "fault",
}
"""Entries that name something of the sheet."""

POINTS = {
    "black",
    "from_node",
    "ground",
    "inlet",
    "live",
    "neutral",
    "node",
    "pin",
    "pins",
    "points",
    "red",
    "return_pin",
    "terminals",
    "to_node",
}
KEYED_BY_WORDS = {"celsius", "curves", "positions", "terminals"}
"""Entries whose own entries have names of the sheet."""

NEEDED = {"archetype", "maker", "meaning", "model", "name"}
"""Texts that may not be blank."""

RANGES: dict[str, tuple[float, float]] = {
    "amperes": (0.01, 100),
    "beta_kelvin": (-20_000, 20_000),
    "celsius": (-60, 150),
    "charge_grams": (0, 5000),
    "close_minutes": (0, 1440),
    "defrost_heater_watts": (1, 5000),
    "digits": (0, 16),
    "farads": (1e-12, 1),
    "fasteners": (0, 200),
    "fit_minutes": (0, 1440),
    "from_celsius": (-100, 300),
    "hertz": (0.1, 100_000),
    "high": (-1e9, 1e9),
    "high_volts": (0.1, 1000),
    "input_watts": (1, 20_000),
    "lead_days": (0, 3650),
    "low": (-1e9, 1e9),
    "mains_hertz": (16, 400),
    "mains_volts": (10, 500),
    "metres": (0.001, 20),
    "mm2": (0.05, 16),
    "number": (0, 999),
    "off_minutes": (0.1, 1440),
    "off_ohms": (1, 1e9),
    "ohms": (0.001, 1e9),
    "on_minutes": (0.1, 1440),
    "open_minutes": (0, 1440),
    "opens_celsius": (-60, 300),
    "power_factor": (0.05, 1),
    "price": (0, 1_000_000),
    "pullup_ohms": (10, 1e7),
    "pulses_per_revolution": (1, 1000),
    "reference_celsius": (-100, 300),
    "reference_ohms": (0.01, 1e9),
    "reference_volts": (0.5, 60),
    "resets_celsius": (-60, 300),
    "rows": (-200, 1e9),
    "rpm": (1, 100_000),
    "seconds": (0, 10_000_000),
    "set_point_celsius": (-60, 60),
    "source_ohms": (0, 1e6),
    "start_amperes": (0.01, 1000),
    "start_ohms": (0.001, 1e6),
    "stray_farads": (0, 1e-3),
    "threshold": (-1e6, 1e6),
    "timeout_minutes": (0.1, 1440),
    "times": (0.01, 1000),
    "to_celsius": (-100, 300),
    "tolerance": (0, 0.95),
    "volts": (0.1, 1000),
    "watts": (0.001, 20_000),
}
"""Numbers of the trade, by the entry they stand in, in the entry's own unit."""

SHORT = {"colour", "colours", "fastener", "frames", "groups", "label", "maker", "model", "models", "text"}
"""Texts as printed or shown, no longer than an identifier."""

PARTED = {"\N{LINE SEPARATOR}", "\N{PARAGRAPH SEPARATOR}"}
DIRECTIONS = set("\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Marks that turn a line round, so that it reads as what it is not."""


def problems_of_text(text: str) -> list[Problem]:
    """What is wrong with a document before it is parsed."""
    if len(text) > MOST_CHARACTERS:
        told = f"{len(text):,} characters; a sheet has at most {MOST_CHARACTERS:,}"
        return [Problem("document", told)]
    return []


def problems_of_data(data: Any) -> list[Problem]:
    """What is out of bounds in a parsed document, the first of it; no deeper and no longer than it may be."""
    found: list[Problem] = []
    for count, problem in enumerate(_walk(data, (), "")):
        if problem is not None:
            found.append(problem)
        if count >= MOST_IN_ALL:
            found.append(Problem("document", f"more than {MOST_IN_ALL:,} entries in all"))
        if count >= MOST_IN_ALL or len(found) >= MOST_TOLD:
            break
    return found


def _walk(data: Any, path: Path, entry: str) -> Iterator[Problem | None]:
    """Every value with what is wrong with it, or None; ``entry`` is the named entry it belongs to."""
    yield None
    if isinstance(data, dict | list):
        if len(path) >= MOST_DEEP:
            yield Problem(said(path), f"nested deeper than {MOST_DEEP}")
        elif len(data) > (most := MOST_OF.get(entry, MOST_LISTED)):
            yield Problem(said(path), f"{len(data):,} entries; at most {most}")
        elif isinstance(data, dict):
            yield from _object(data, path, entry)
        else:
            for index, item in enumerate(data):
                yield from _walk(item, (*path, index), entry)
    elif isinstance(data, str):
        yield from (Problem(said(path), told) for told in _of_text(data, entry))
    elif isinstance(data, int | float) and not isinstance(data, bool):
        yield from (Problem(said(path), told) for told in _of_number(data, entry))


def _object(data: dict[str, Any], path: Path, entry: str) -> Iterator[Problem | None]:
    for key, value in data.items():
        wrong = next(_of_text(key, "id" if entry in KEYED_BY_WORDS else ""), None)
        if wrong:
            yield Problem(said(path), f"the entry “{shown(key)}”: {wrong}")
        else:
            # What stands under a name of the sheet is of the entry that holds the names.
            yield from _walk(value, (*path, key), entry if entry in KEYED_BY_WORDS - {"curves"} else key)


def _of_text(text: str, entry: str) -> Iterator[str]:
    if entry in WORDS | POINTS:
        shape = WORD if entry in WORDS else POINT
        if text and (len(text) > MOST_WORD or not shape.fullmatch(text)):
            dots = "" if entry in WORDS else " . between them,"
            may = f"up to {MOST_WORD} letters a to z and digits,{dots} with _ or -"
            yield f"“{shown(text)}” is no identifier; write {may}"
    elif len(text) > (most := MOST_WORD if entry in SHORT else MOST_TEXT):
        yield f"{len(text):,} characters; at most {most:,}"
    elif odd := next((letter for letter in text if _unprintable(letter)), None):
        yield f"“{shown(text)}” has a character (U+{ord(odd):04X}) that can't be printed"
    elif entry in NEEDED and not text.strip():
        yield "is blank"


def _of_number(number: float, entry: str) -> Iterator[str]:
    if isinstance(number, int) and abs(number) >= 10**MOST_DIGITS:
        yield f"a number of more than {MOST_DIGITS} digits"
    elif entry in RANGES and not RANGES[entry][0] <= number <= RANGES[entry][1]:
        low, high = RANGES[entry]
        yield f"{number:g} is out of range; from {low:g} to {high:g}"


def _unprintable(letter: str) -> bool:
    return unicodedata.category(letter) in {"Cc", "Cs"} or letter in PARTED or letter in DIRECTIONS


def shown(text: str) -> str:
    """Text as it can be printed, the start of it."""
    return "".join("�" if _unprintable(letter) else letter for letter in text[:40])
