"""Cycles: from a temperature's turns, and from watts.

A temperature is smoothed (a minute's mean, then a Gaussian of 150 s) and its turns are taken with hysteresis
H = max(0.35 (p90 − p10), 2.4 σ √(step/150 s), 0.15 K), σ from second differences: less is noise. Watts know
three levels from the sheet, never from the log: a log that never stops has no level for "off".
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy.ndimage import gaussian_filter1d

from frostcore.thermal.plant import Thermal

Floats = npt.NDArray[np.float64]

SMOOTH = 150.0
"""Seconds."""

SHARE, TIMES, LEAST = 0.35, 2.4, 0.15
"""The hysteresis of a turn: by the swing, by the noise, at least (K)."""

FEWEST = 4
"""Of fewer cycles nothing is said."""


@dataclass(frozen=True)
class Turn:
    """A turn: when (s), how warm, whether it is a top (where cooling begins to be felt)."""

    at: float
    celsius: float
    top: bool


def grid(seconds: Floats, values: Floats, step: float = 60.0) -> tuple[Floats, Floats]:
    """Values by the minute: the mean of what fell into it, NaN where nothing did."""
    at = ((seconds - seconds[0]) / step).astype(int)
    good = ~np.isnan(values)
    count = int(at[-1]) + 1 if len(at) else 0
    whole = np.bincount(at[good], weights=values[good], minlength=count)
    number = np.bincount(at[good], minlength=count)
    with np.errstate(invalid="ignore", divide="ignore"):
        return seconds[0] + step * np.arange(count), np.where(number > 0, whole / number, np.nan)


def turns(seconds: Floats, values: Floats, cuts: Sequence[float] = ()) -> tuple[Turn, ...]:
    """The turns of a temperature; none across what is missing for long, nor across a moment at which
    something was set (``cuts``, s): stretches are looked at one by one."""
    if cuts:
        borders = [-np.inf, *sorted(cuts), np.inf]
        parts = [(seconds >= low) & (seconds < high) for low, high in itertools.pairwise(borders)]
        return tuple(turn for part in parts if part.any() for turn in turns(seconds[part], values[part]))
    known = ~np.isnan(values)
    if known.sum() < 10:
        return ()
    every = max(60.0, float(np.median(np.diff(seconds[known]))))
    at, by = grid(seconds, values, every)
    found = list[Turn]()
    swing = float(np.nanpercentile(by, 90) - np.nanpercentile(by, 10))
    noise = _noise(by)
    least = max(SHARE * swing, TIMES * noise * np.sqrt(every / SMOOTH), LEAST)
    for first, last in _stretches(by, round(900 / every)):
        piece = by[first:last]
        gone = np.isnan(piece)
        if gone.any():
            piece = np.interp(np.arange(len(piece)), np.flatnonzero(~gone), piece[~gone])
        smooth = gaussian_filter1d(piece, max(SMOOTH / every, 0.5), mode="nearest")
        found += _turns(at[first:last], smooth, least)
    return tuple(found)


def _noise(values: Floats) -> float:
    second = np.diff(values, 2)
    second = second[~np.isnan(second)]
    return float(1.4826 * np.median(np.abs(second - np.median(second))) / np.sqrt(6)) if len(second) else 0.0


def _stretches(values: Floats, most: int) -> list[tuple[int, int]]:
    """Stretches without more than so many missing in a row, of some length."""
    known = np.flatnonzero(~np.isnan(values))
    if not len(known):
        return []
    parts = np.split(known, np.flatnonzero(np.diff(known) > max(most, 1)) + 1)
    return [(int(part[0]), int(part[-1]) + 1) for part in parts if len(part) > 10]


def _turns(at: Floats, values: Floats, least: float) -> list[Turn]:
    """Extremes with hysteresis; the first and the last, which may go on, are none."""
    found = list[Turn]()
    low = high = 0
    rising: bool | None = None
    for row, value in enumerate(values.tolist()):
        if value > values[high]:
            high = row
        if value < values[low]:
            low = row
        if rising is not False and values[high] - value > least:
            if rising:
                found.append(Turn(float(at[high]), float(values[high]), top=True))
            rising, low = False, row
        elif rising is not True and value - values[low] > least:
            if rising is False:
                found.append(Turn(float(at[low]), float(values[low]), top=False))
            rising, high = True, row
    return found


# Watts.

State = Literal["off", "runs", "heats", "out", "?"]


@dataclass(frozen=True)
class Spell:
    """A stretch of one state (s), and its mean watts."""

    state: State
    start: float
    end: float
    watts: float

    @property
    def minutes(self) -> float:
        """How long."""
        return (self.end - self.start) / 60.0


@dataclass(frozen=True)
class Levels:
    """Watts above which it runs, above which a heater heats (infinite without one), and below which its plug
    is out (nothing, where its board takes none)."""

    runs: float
    heats: float
    out: float = 0.0


def levels_of(plant: Thermal) -> Levels:
    """A plant's, from its sheet."""
    base = plant.base_watts / plant.supply_share
    out = 0.3 * base if base >= LEAST_BASE else 0.0
    if plant.modules:
        own = min(each.amperes**2 * each.ohms for each in plant.modules) / plant.supply_share
        fans = sum(each.fan_watts for each in plant.modules) + sum(
            each.fan_watts for each in plant.evaporators
        )
        return Levels(base + fans / plant.supply_share + 0.4 * own, np.inf, out)
    running = plant.compressor.map.takes if plant.compressor else 50.0
    always = sum(face.fan_watts for face in plant.evaporators if face.fan_runs == "always")
    heaters = [face.heater_watts for face in plant.evaporators if face.heater]
    return Levels(base + always + 0.35 * running, 0.72 * min(heaters) + base if heaters else np.inf, out)


LEAST_BASE = 1.5
"""A plug meter tells so many watts from none."""


SHORT = 45.0
"""A spell shorter than that is the edge of its neighbours', s."""


def spells(
    seconds: Floats, watts: Floats, levels: Levels, gaps: tuple[tuple[float, float], ...]
) -> tuple[Spell, ...]:
    """The states of a unit by its watts; ``out`` where its plug is, ``?`` where nothing was logged."""
    known = ~np.isnan(watts)
    at, by = seconds[known], watts[known]
    if not len(at):
        return ()
    state = np.where(by >= levels.heats, 2, np.where(by >= levels.runs, 1, np.where(by < levels.out, 3, 0)))
    ends = np.append(at[1:], at[-1] + np.median(np.diff(at)) if len(at) > 1 else at[-1] + 60.0)
    found = list[Spell]()
    edges = np.flatnonzero(np.diff(state)) + 1
    starts = dict(gaps)
    cut = [row for row in range(1, len(at)) if at[row - 1] in starts]
    borders = sorted({0, *edges.tolist(), *cut, len(at)})
    names: tuple[State, ...] = ("off", "runs", "heats", "out")
    for first, last in itertools.pairwise(borders):
        if found and found[-1].end < at[first] - 1.0:
            found.append(Spell("?", found[-1].end, float(at[first]), 0.0))
        end = float(at[last - 1]) + 60.0 if float(at[last - 1]) in starts else float(ends[last - 1])
        found.append(Spell(names[int(state[first])], float(at[first]), end, float(by[first:last].mean())))
    return _joined(found)


def _joined(found: list[Spell]) -> tuple[Spell, ...]:
    """Edges given to what follows, like spells made one."""
    kept = list[Spell]()
    for spell in found:
        one = spell
        if (
            kept
            and kept[-1].state != "?"
            and kept[-1].end - kept[-1].start <= SHORT
            and one.state != "?"
            and len(kept) > 1
        ):
            last = kept.pop()
            one = Spell(one.state, last.start, one.end, one.watts)
        if kept and kept[-1].state == one.state:
            last = kept.pop()
            whole = one.end - last.start
            mean = (last.watts * (last.end - last.start) + one.watts * (one.end - one.start)) / max(
                whole, 1e-9
            )
            one = Spell(one.state, last.start, one.end, mean)
        kept.append(one)
    return tuple(kept)
