"""Each defrost of a run, by its watts: when, how long, ended by what, the energy, how long the water dripped,
how warm a compartment got and when it was back."""

from dataclasses import dataclass

import numpy as np

from frostcore.thermal.cycles import Spell
from frostcore.thermal.verdicts import Judged

BY_TIME = 1.5
"""A heater that was on to within so many minutes of its longest was ended by its time."""

AFTER = 4 * 3600.0
"""So long after its end a compartment's way back is looked at, s."""


@dataclass(frozen=True)
class Back:
    """A compartment after a defrost: how warm it got, and the minutes after the heater's end until it was
    back within what its control keeps; None where it was not while that was looked at."""

    place: str
    warmest: float
    minutes: float | None


@dataclass(frozen=True)
class DefrostSeen:
    """One defrost: hours from the first row, minutes of its heater, what ended it, its Wh, the minutes until
    it was cooled again (None where that was not seen), each compartment's way back."""

    hours: float
    minutes: float
    by_time: bool
    wh: float
    drips: float | None
    back: tuple[Back, ...]


def defrosts_of(judged: Judged) -> tuple[DefrostSeen, ...]:
    """The defrosts of a run, in their order; none without its watts."""
    return tuple(_seen(judged, each) for each in judged.defrosts)


def _seen(judged: Judged, spell: Spell) -> DefrostSeen:
    zero = float(judged.log.seconds[0])
    after = [each for each in judged.spells if each.start >= spell.end]
    runs = next((each for each in after if each.state == "runs"), None)
    hidden = runs and any(each.state == "?" and each.start < runs.start for each in after)
    return DefrostSeen(
        (spell.start - zero) / 3600.0,
        spell.minutes,
        spell.minutes >= judged.plant.defrost.most - BY_TIME,
        spell.watts * spell.minutes / 60.0,
        (runs.start - spell.end) / 60.0 if runs and not hidden else None,
        tuple(_backs(judged, spell)),
    )


def _backs(judged: Judged, spell: Spell) -> list[Back]:
    found = []
    seconds = judged.log.seconds
    at = (seconds >= spell.start) & (seconds <= spell.end + AFTER)
    for loop in judged.plant.loops:
        node, _, place = loop.senses.partition(":")
        values = judged.log.of("celsius", place) if node == "sensor" else None
        if values is None or np.isnan(values[at]).all():
            continue
        top = int(np.nanargmax(values[at]))
        below = np.flatnonzero(values[at][top:] <= loop.cut_in)
        back = None if not len(below) else float(seconds[at][top + below[0]] - spell.end) / 60.0
        found.append(Back(place, float(values[at][top]), None if back is None else max(back, 0.0)))
    return found
