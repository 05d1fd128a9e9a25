"""A run in figures: of each stretch between two settings, of a run before a repair and after it, of what a
sound unit of the sheet does in that room."""

import re
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from frostcore.thermal.calibration import TurnAct
from frostcore.thermal.control import DAY, openings
from frostcore.thermal.cycles import FEWEST, grid
from frostcore.thermal.logged import logged
from frostcore.thermal.plant import Thermal
from frostcore.thermal.setting import Setting
from frostcore.thermal.simulate import simulate
from frostcore.thermal.verdicts import Judged, Stands

Floats = npt.NDArray[np.float64]

LEAST_HOURS = 1.0
"""Of a shorter stretch there are no cycles to speak of."""

SOUND_DAYS = 3.0

TURNED = frozenset({"range", "differential", "knob", "offset"})
"""Settings that a calibration is made of."""


@dataclass(frozen=True)
class RoomFigures:
    """A compartment over a stretch, °C: the mean of its last third, between which it swung then (one in
    twenty left out at either end); the tops and bottoms its control made, where it made some."""

    place: str
    mean: float
    low: float
    high: float
    cut_in: float | None = None
    cut_out: float | None = None


@dataclass(frozen=True)
class Figures:
    """A stretch: its hours, its compartments; by its watts the share it ran, its starts and its energy a day,
    the watts while it ran, the mean minutes of a run; its heater's spells and their mean minutes. None is not
    known."""

    hours: float
    rooms: tuple[RoomFigures, ...]
    duty: float | None = None
    starts: float | None = None
    kwh: float | None = None
    watts: float | None = None
    minutes: float | None = None
    heats: int | None = None
    heater_minutes: float | None = None

    def room(self, place: str) -> RoomFigures | None:
        """A compartment's; None where no thermometer was in it."""
        return next((each for each in self.rooms if each.place == place), None)


@dataclass(frozen=True)
class Stretch:
    """From one setting that moved a level to the next: hours of the run, what was set (nothing at first), its
    figures, and whether each compartment with a thermometer is where it should be."""

    start: float
    end: float
    setting: Setting | None
    figures: Figures
    holds: tuple[tuple[str, Stands, str], ...]


def figures(judged: Judged) -> Figures:
    """A judged run's."""
    rooms = tuple(
        _room(judged, room.place, known)
        for room in judged.plant.compartments
        if (known := judged.settled(room.place)) is not None and len(known)
    )
    if judged.watts is None or not len(judged.log.seconds):
        return Figures(judged.log.hours, rooms)
    runs = [each for each in judged.spells if each.state == "runs"]
    ran = sum(each.minutes for each in runs)
    whole = [each for each in judged.spells if each.state == "off"]
    days = (ran + sum(each.minutes for each in (*whole, *judged.defrosts))) / 1440.0
    _at, by = grid(judged.log.seconds, judged.watts)
    known = by[~np.isnan(by)]
    return Figures(
        judged.log.hours,
        rooms,
        duty=judged.duty,
        starts=len(judged.starts) / days if days > LEAST_HOURS / 24 else None,
        kwh=float(known.mean()) * 0.024 if len(known) else None,
        watts=sum(each.watts * each.minutes for each in runs) / ran if ran else None,
        minutes=ran / len(runs) if runs else None,
        heats=len(judged.defrosts),
        heater_minutes=float(np.mean([each.minutes for each in judged.defrosts]))
        if judged.defrosts
        else None,
    )


def _room(judged: Judged, place: str, known: Floats) -> RoomFigures:
    low, high = (float(each) for each in np.percentile(known, (5, 95)))
    turns = judged.turns(place)
    tops = [turn.celsius for turn in turns if turn.top]
    bottoms = [turn.celsius for turn in turns if not turn.top]
    found = RoomFigures(place, float(known.mean()), low, high)
    if min(len(tops), len(bottoms)) < FEWEST:
        return found
    return replace(found, cut_in=float(np.median(tops)), cut_out=float(np.median(bottoms)))


def stretches(judged: Judged) -> tuple[Stretch, ...]:
    """A run parted at the settings that moved a level, each stretch by itself; those without rows left
    out."""
    found = []
    for number in range(len(judged.moves) + 1):
        piece = judged.piece(number)
        if len(piece.log.seconds) < 2:
            continue
        held = tuple(
            (each.of, each.stands, each.words)
            for each in piece.verdicts
            if each.kind == "holds" and each.of in piece.first
        )
        start, end = (float(piece.log.seconds[at]) / 3600.0 for at in (0, -1))
        setting = judged.moves[number - 1] if number else None
        found.append(Stretch(start, end, setting, figures(piece), held))
    return tuple(found)


_STANDS = re.compile(r"[-+−]?\d+(?:[.,]\d+)?")


def acts_of(judged: Judged) -> tuple[TurnAct, ...]:
    """A run's stretches as acts of a calibration: where screw or dial stood in each (the number it was said
    to stand at, 0 before), and the cut-outs and cut-ins the main compartment's air showed. Nothing where
    nothing was turned, or where it is not said how far."""
    turned = [each for each in judged.moves if each.what in TURNED]
    # Where a temperature was set the control turned, and nobody knows by how much.
    if judged.main is None or not turned or any(each.celsius is not None for each in turned):
        return ()
    found, turns, differential, bulb = list[TurnAct](), 0.0, 0.0, 0
    for number in range(len(judged.moves) + 1):
        setting = judged.moves[number - 1] if number else None
        if setting and setting.what in TURNED:
            stands = _STANDS.search(setting.to)
            if stands is None:
                return ()
            to = float(stands[0].replace("−", "-").replace(",", "."))
            turns, differential = (turns, to) if setting.what == "differential" else (to, differential)
        elif setting and setting.what == "bulb":
            bulb += 1
        shown = judged.piece(number).turns(judged.main[1])
        outs = tuple(turn.celsius for turn in shown if not turn.top)
        if outs:
            ins = tuple(turn.celsius for turn in shown if turn.top)
            found.append(TurnAct(turns, outs, ins, differential, bulb))
    return tuple(found)


def sound(plant: Thermal) -> Figures:
    """What a sound unit of the plant does in its room, doors opened as usual: its third day of three."""
    run = simulate(plant, SOUND_DAYS, acts=openings(plant, SOUND_DAYS))
    return figures(Judged(plant, logged(run).as_log(since=(SOUND_DAYS - 1) * DAY)))
