"""Ensembles of simulations of a unit, worked out beside the page that asks when it will be cold."""

from frostcore.thermal.forecast import Ensemble, Forecast, ensemble, forecast
from frostcore.thermal.plant import Thermal
from frostcore.thermal.verdicts import Judged
from frostline.calls.judging import in_background
from frostline.ui.background import WorkedOut

MEMBERS, FAULTY = 160, 40
"""As many as take ten seconds or so."""


class _Asked:
    """A plant and where it began, as a key: a plant holds what has no hash."""

    def __init__(self, plant: Thermal, first: dict[str, float]) -> None:
        self.plant, self.first = plant, first
        self._text = repr((plant, sorted(first.items())))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Asked) and self._text == other._text

    def __hash__(self) -> int:
        return hash(self._text)


def forecasts(judged: Judged) -> tuple[Forecast, ...] | None:
    """When each compartment with a thermometer will be at its setting; None while that is being worked out,
    nothing where all are there."""
    first, left = dict[str, float](), []
    for room in judged.plant.compartments:
        values = judged.log.of("celsius", room.place)
        if values is not None and len(values):
            known = values[values == values]  # noqa: PLR0124 -- what is a number
            if len(known):
                first[room.place] = round(float(known[0]))
                left.append(room.place)
    waits = [place for place in left if not judged.there(place)]
    if not waits:
        return ()
    members = _ensembles.get(_Asked(judged.plant, first))
    if members is None:
        return None
    found = (forecast(members, judged.log, place) for place in waits)
    return tuple(each for each in found if each is not None)


def _work_out(asked: _Asked) -> Ensemble:
    return ensemble(asked.plant, asked.first, members=MEMBERS, faulty=FAULTY)


_ensembles = WorkedOut(
    _work_out,
    in_background,
    before="No forecast",
    sorry="No forecast: this unit could not be simulated.",
    most=6,
)
