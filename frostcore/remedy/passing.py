"""Temperatures typed in passing as a run: what a thermometer read on a call since the unit was last worked on
or plugged in."""

import numpy as np

from frostcore.remedy.ending import CHANGES
from frostcore.tape.entries import PowerSet, TemperatureTaken
from frostcore.tape.standing import ROOM, Standing
from frostcore.thermal.log import Column, Log

FEWEST = 3
"""Of fewer readings of a compartment nothing is foretold."""


def passing(standing: Standing) -> Log | None:
    """The readings as a log, a column a compartment, NaN where another was read; None where no compartment
    was read often enough."""
    slips = list(standing.effective)
    last = max(
        (
            at
            for at, slip in enumerate(slips)
            if isinstance(slip.entry.body, CHANGES)
            or (isinstance(slip.entry.body, PowerSet) and slip.entry.body.state == "live")
        ),
        default=-1,
    )
    rows = [
        (slip.entry.at, slip.entry.body.place, slip.entry.body.temperature.value)
        for slip in slips[last + 1 :]
        if isinstance(slip.entry.body, TemperatureTaken) and slip.entry.body.temperature.value is not None
    ]
    rows.sort(key=lambda row: row[0])
    places = [place for place in dict.fromkeys(place for _, place, _ in rows) if place != ROOM]
    places = [place for place in places if len({at for at, of, _ in rows if of == place}) >= FEWEST]
    if not places:
        return None
    begins = rows[0][0]
    moments = sorted({(at - begins).total_seconds() for at, _, _ in rows})
    values = np.full((len(places), len(moments)), np.nan)
    for at, place, celsius in rows:
        if place in places:
            values[places.index(place), moments.index((at - begins).total_seconds())] = celsius
    columns = tuple(Column(place, "celsius", fahrenheit=False, where=place) for place in places)
    return Log(begins.replace(tzinfo=None), np.array(moments), columns, values)
