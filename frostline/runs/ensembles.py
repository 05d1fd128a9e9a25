"""Simulations of a unit worked out beside the pages that ask: when it will be cold, what runs are weighed
by."""

import contextlib

from frostcore.diagnosis.of_run import prepare
from frostcore.errors import FrostError
from frostcore.sheet.model import Sheet
from frostcore.thermal.figures import Figures, sound
from frostcore.thermal.forecast import Ensemble, Forecast, ensemble, forecast
from frostcore.thermal.plant import Thermal
from frostcore.thermal.verdicts import Judged
from frostline.calls.judging import in_background
from frostline.ui.background import WorkedOut

MEMBERS, FAULTY = 160, 40
"""As many as take ten seconds or so."""


class _Asked:
    """A plant and where it began, as a key: a plant holds what has no hash."""

    def __init__(self, plant: Thermal, first: dict[str, float], full: str = "") -> None:
        self.plant, self.first, self.full = plant, first, full
        self._text = repr((plant, sorted(first.items()), full))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Asked) and self._text == other._text

    def __hash__(self) -> int:
        return hash(self._text)


def forecasts(judged: Judged, full: str = "") -> tuple[Forecast, ...] | None:
    """When each compartment with a thermometer will be at its setting, the unit as full as is known; None
    while that is being worked out, nothing where all are there."""
    waits, now = judged.falling, judged.last
    if not waits:
        return ()
    members = _ensembles.get(
        _Asked(now.plant, {place: round(celsius) for place, celsius in now.first.items()}, full)
    )
    if members is None:
        return None
    found = (forecast(members, now.log, place) for place in waits)
    return tuple(each for each in found if each is not None)


def sound_figures(plant: Thermal) -> Figures | None:
    """What a sound unit of the plant does in its room; None while that is worked out."""
    return _sound.get(_Asked(plant, {}))


class _Of:
    """A sheet as it is kept, as a key."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Of) and self.sheet is other.sheet

    def __hash__(self) -> int:
        return id(self.sheet)


def classes_ahead(sheet: Sheet) -> None:
    """Begin to run the thermal classes of a sheet's faults: a run that counts is weighed by them, which takes
    some seconds the first time."""
    if in_background.is_set():
        with contextlib.suppress(FrostError):
            _classes.get(_Of(sheet))


def _all_classes(asked: _Of) -> bool:
    prepare(asked.sheet)
    return True


def prepared(sheet: Sheet) -> bool:
    """Whether the thermal classes of a sheet's faults have been run; begun, where not. FrostError where they
    can't be."""
    return bool(_classes.get(_Of(sheet)))


_classes = WorkedOut(_all_classes, in_background, before="No run", sorry="This unit could not be simulated.")


def _work_out(asked: _Asked) -> Ensemble:
    return ensemble(asked.plant, asked.first, members=MEMBERS, faulty=FAULTY, full=asked.full)


_ensembles = WorkedOut(
    _work_out,
    in_background,
    before="No forecast",
    sorry="No forecast: this unit could not be simulated.",
    most=6,
)


def _of_sound(asked: _Asked) -> Figures:
    return sound(asked.plant)


_sound = WorkedOut(
    _of_sound,
    in_background,
    before="No sound unit to compare with",
    sorry="This unit could not be simulated.",
)
