"""Food that was too warm for too long: how long above what in a run, and what that means for it, in the
customer's words.

Thresholds are kitchen practice, not law: local rules come first and are said first. What a thermometer in the
air shows food lags behind; a stretch is taken as it was shown, which errs towards discarding.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.thermal.log import Log

Floats = npt.NDArray[np.float64]

FRIDGE_ABOVE, FRIDGE_HOURS = 8.0, 4.0
"""Chilled food above this for longer is not kept."""

THAWED_ABOVE, THAWED_HOURS = 0.0, 2.0
"""Frozen food above this for longer has thawed, and is not frozen again."""

SOFT_ABOVE, SOFT_HOURS = -9.0, 12.0
"""Frozen food above this for longer keeps for days, not months."""

EMPTY_FROM = 15.0
"""A compartment that begins a run as warm as that was empty, or its food is another question."""

RULES = "Local food rules come first; what smells, looks or feels wrong is discarded whatever was logged."


@dataclass(frozen=True)
class Spoilt:
    """A compartment too warm for too long: which, above what (°C), for how many hours at a stretch, and what
    to do, in words."""

    place: str
    above: float
    hours: float
    words: str


def spoilt(log: Log, kinds: dict[str, str]) -> tuple[Spoilt, ...]:
    """What was too warm for too long; ``kinds`` are the compartments' (``fridge``, ``freezer``, ``wine``)."""
    found = []
    for place, kind in kinds.items():
        values = log.of("celsius", place)
        if values is None or kind not in _LIMITS:
            continue
        for above, hours, words in _LIMITS[kind]:
            longest = longest_above(log.seconds, values, above)
            if longest > hours:
                found.append(Spoilt(place, above, longest, words))
                break
    return tuple(found)


_LIMITS: dict[str, tuple[tuple[float, float, str], ...]] = {
    "fridge": (
        (
            FRIDGE_ABOVE,
            FRIDGE_HOURS,
            (
                "Discard meat, fish, milk, dishes with egg and whatever was cooked; hard cheese, butter, jam,"
                " whole fruit and vegetables keep."
            ),
        ),
    ),
    "freezer": (
        (
            THAWED_ABOVE,
            THAWED_HOURS,
            (
                "It has thawed: nothing is frozen again. Cook at once what is still as cold as a fridge,"
                " discard the rest, ice cream, fish and mince first."
            ),
        ),
        (
            SOFT_ABOVE,
            SOFT_HOURS,
            "It has softened: use it up within days, ice cream not at all.",
        ),
    ),
}
"""By kind of compartment: above what, for how many hours, and what then; the worst first."""


def longest_above(seconds: Floats, values: Floats, celsius: float) -> float:
    """The hours of the longest stretch above a temperature; what comes before a warm beginning was first cold
    is none, and a gap ends a stretch."""
    known = ~np.isnan(values)
    at, shown = seconds[known], values[known]
    if len(at) < 2:
        return 0.0
    if shown[0] >= EMPTY_FROM:
        cold = np.flatnonzero(shown <= celsius)
        if not len(cold):
            return 0.0
        at, shown = at[cold[0] :], shown[cold[0] :]
    step = float(np.median(np.diff(at))) if len(at) > 1 else 60.0
    best = now = 0.0
    for apart, warm in zip(np.diff(at).tolist(), (shown[:-1] > celsius).tolist(), strict=True):
        now = now + apart if warm and apart <= max(900.0, 5 * step) else 0.0
        best = max(best, now)
    return best / 3600.0
