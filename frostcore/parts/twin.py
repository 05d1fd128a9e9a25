"""The same points read on two boards, or on one and on a board known to be good: differences ranked by what
they would mean.

Two sound boards of one type differ by their parts' tolerances and the meter's own; a difference is ranked by
how many of those it is. What is open on one and not on the other, or a short, comes first: no tolerance does
that.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from frostcore.errors import FrostError
from frostcore.quantity import Dimension, Quantity, State
from frostcore.rows import quantity, read_rows
from frostcore.verdict import Verdict

SHORT_OHMS = 1.0
"""Ohms under this are a short, with the leads in them."""


class Meter(StrEnum):
    """How the points were read, as the table writes it."""

    OHM = "ohm"
    DIODE = "diode"
    VDC = "vdc"
    VAC = "vac"
    ESR = "esr"
    FARAD = "farad"


DIMENSIONS = {
    Meter.OHM: Dimension.RESISTANCE,
    Meter.DIODE: Dimension.VOLTAGE,
    Meter.VDC: Dimension.VOLTAGE,
    Meter.VAC: Dimension.VOLTAGE,
    Meter.ESR: Dimension.RESISTANCE,
    Meter.FARAD: Dimension.CAPACITANCE,
}

SHARES = {
    Meter.OHM: 0.10,
    Meter.DIODE: 0.0,
    Meter.VDC: 0.03,
    Meter.VAC: 0.15,
    Meter.ESR: 0.35,
    Meter.FARAD: 0.15,
}
"""By what share two sound boards' readings differ, one time in three."""

FLOORS = {
    Meter.OHM: 0.3,
    Meter.DIODE: 0.02,
    Meter.VDC: 0.05,
    Meter.VAC: 0.05,
    Meter.ESR: 0.05,
    Meter.FARAD: 1e-9,
}
"""And by so much whatever the reading, in the range's own unit."""

ELECTRONICS_OHMS = 20e3
"""Ohms above this go through electronics on most boards: what a meter's few volts find there is anything."""

OPEN_VOLTS = 2.5
"""A diode range shows OL from here on."""

SAME, ODD = 2.0, 4.0
"""So many usual differences are none yet, and so many are one for certain."""


@dataclass(frozen=True)
class Pair:
    """A point of both boards: what is read there, on this board and on the good one."""

    point: str
    meter: Meter
    here: Quantity
    there: Quantity
    note: str = ""


@dataclass(frozen=True)
class Difference:
    """A pair, how many usual differences apart it is (infinite where one is open or a short), and what that
    would mean."""

    pair: Pair
    times: float
    text: str

    @property
    def odd(self) -> bool:
        """Whether no tolerance explains it."""
        return self.times >= ODD

    @property
    def verdict(self) -> Verdict:
        """How it is marked: alike, different for certain, or neither."""
        if self.odd:
            return Verdict.HIGH
        return Verdict.UNCLEAR if self.times >= SAME else Verdict.IN_BAND


def read_twin(text: str) -> tuple[Pair, ...]:
    """Pairs from a table as CSV with the columns point, meter, here, there, and note if there are any;
    SheetError with every line that can't be read."""
    return read_rows(text, _pair, ("point", "meter", "here", "there"), most=MOST_ROWS)


MOST_ROWS, MOST_TEXT = 2000, 120


def _pair(cells: dict[str, str]) -> Pair:
    if not cells["point"]:
        raise FrostError("point: nothing typed. Write where it was read, such as CN2.5 to CN2.6.")
    try:
        meter = Meter(cells["meter"].lower())
    except ValueError:
        raise FrostError(f"meter: “{cells['meter'][:20]}”; write one of {', '.join(Meter)}.") from None
    here, there = (_typed(name, cells[name], meter) for name in ("here", "there"))
    return Pair(cells["point"][:MOST_TEXT], meter, here, there, cells.get("note", "")[:MOST_TEXT])


def _typed(name: str, text: str, meter: Meter) -> Quantity:
    if meter is Meter.DIODE and text.lower().replace(".", "") in {"ol", "open"}:
        return Quantity(DIMENSIONS[meter], None, State.OPEN, text)
    return quantity(name, text, DIMENSIONS[meter])


def differences(pairs: Sequence[Pair]) -> tuple[Difference, ...]:
    """Every pair, the oddest first; those as odd in the order they were read."""
    found = [_difference(pair) for pair in pairs]
    return tuple(sorted(found, key=lambda each: -each.times))


def _difference(pair: Pair) -> Difference:
    here, there = (_value(pair.meter, each) for each in (pair.here, pair.there))
    if math.isinf(here) and math.isinf(there):
        return Difference(pair, 0.0, "Open on both.")
    if math.isinf(here) or math.isinf(there):
        return _one_open(pair, here)
    shorts = [pair.meter in {Meter.OHM, Meter.DIODE} and _short(pair.meter, each) for each in (here, there)]
    if shorts[0] != shorts[1]:
        which, other = ("this one", "good one") if shorts[0] else ("good one", "this one")
        told = f"A short on {which.replace('good', 'the good')}, {_text(pair, not shorts[0])} on the {other}."
        return Difference(pair, math.inf, told.replace("the this", "this"))
    times = abs(here - there) / _usual(pair.meter, here, there)
    if times < SAME:
        return Difference(pair, times, "Alike, as two sound boards are.")
    way = "more" if here > there else "less"
    told = f"{pair.here.text} for {pair.there.text}: {way} than parts differ"
    doubt = pair.meter is Meter.OHM and max(here, there) > ELECTRONICS_OHMS
    if doubt:
        return Difference(pair, min(times, ODD - 0.1), f"{told}; through electronics that says little.")
    return Difference(
        pair, times, f"{told}. {MEANS[pair.meter][way]}" if times >= ODD else f"{told}, perhaps."
    )


MEANS = {
    Meter.OHM: {
        "more": "Something in that path is open or has grown: look at its joints first.",
        "less": "Something there leaks or is shorted in part.",
    },
    Meter.DIODE: {
        "more": "A junction is open, or one of two in parallel.",
        "less": "A junction leaks, or something lies across it.",
    },
    Meter.VDC: {
        "more": "What regulates it, or what should load it, does not.",
        "less": "It is loaded too much, or fed too little: go one stage back.",
    },
    Meter.VAC: {
        "more": "Ripple: the capacitor before it, or a diode of the bridge.",
        "less": "Fed too little: go one stage back.",
    },
    Meter.ESR: {
        "more": "The capacitor has dried.",
        "less": "More capacitors lie across it than on the other.",
    },
    Meter.FARAD: {
        "more": "More capacitors lie across it than on the other.",
        "less": "The capacitor has dried.",
    },
}
"""What a difference of each kind of reading mostly means."""


def _one_open(pair: Pair, here: float) -> Difference:
    """Open on one alone; where the other reads through electronics that says little."""
    reads = pair.there if math.isinf(here) else pair.here
    if pair.meter is Meter.OHM and (reads.value or 0.0) > ELECTRONICS_OHMS:
        here_open = math.isinf(here)
        where = ("here", "on the good one") if here_open else ("on the good one", "here")
        told = f"Open {where[0]}, {reads.text} {where[1]}"
        return Difference(pair, SAME, f"{told}: through electronics that says little.")
    if math.isinf(here):
        return Difference(pair, math.inf, f"Open here, {reads.text} on the good one: look for the break.")
    told = f"{reads.text} here, open on the good one: something leads that should not."
    return Difference(pair, math.inf, told)


def _value(meter: Meter, quantity: Quantity) -> float:
    """The value; infinite for an open one, none for a short."""
    if quantity.state is State.OPEN or (
        meter is Meter.DIODE and quantity.value is not None and quantity.value >= OPEN_VOLTS
    ):
        return math.inf
    return quantity.value or 0.0


def _short(meter: Meter, value: float) -> bool:
    return value < (SHORT_OHMS if meter is Meter.OHM else SHORT_VOLTS)


SHORT_VOLTS = 0.05


def _usual(meter: Meter, here: float, there: float) -> float:
    """How far apart two sound boards mostly read."""
    share = SHARES[meter] * (abs(here) + abs(there)) / 2
    return math.hypot(share, FLOORS[meter])


def _text(pair: Pair, here: bool) -> str:
    return (pair.here if here else pair.there).text
