"""What a logger would have written of a simulated plant: thermometers with their lag, noise and steps."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np
import numpy.typing as npt

from frostcore.thermal.log import Column, Log, Quantity
from frostcore.thermal.simulate import Simulated
from frostcore.thermal.step import MINUTE

Floats = npt.NDArray[np.float64]

NOISE = {"celsius": 0.05, "watts": 0.6}
STEPS = {"celsius": 0.1, "watts": 0.1}
"""A thermometer's and a plug meter's own noise (standard deviation) and last digit."""


@dataclass(frozen=True)
class Logged:
    """Columns a logger wrote every so many seconds: by name (``celsius:PLACE``, ``coil:EVAPORATOR``,
    ``celsius:room``, ``watts``), each as long as :attr:`seconds`."""

    seconds: Floats
    columns: dict[str, Floats]

    def as_log(self, since: float = 0.0, until: float = np.inf) -> Log:
        """As it would be read: its rows between two moments (s)."""
        at = (self.seconds >= since) & (self.seconds <= until)
        columns = tuple(Column(name, *_measured(name)) for name in self.columns)
        return Log(BEGINS, self.seconds[at], columns, np.array([each[at] for each in self.columns.values()]))


BEGINS = datetime(2026, 1, 1)  # noqa: DTZ001 -- a logger's clock has no zone


def _measured(name: str) -> tuple[Quantity, bool, str]:
    """What a column measures, that it is in °C, and what it is of."""
    kind, _, place = name.partition(":")
    if kind == "watts":
        return "watts", False, "plug"
    return "celsius", False, name if kind == "coil" else place


def logged(run: Simulated, step: float = MINUTE, seed: int = 0) -> Logged:
    """A simulated plant as logged every ``step`` seconds (whole minutes)."""
    every = max(1, round(step / MINUTE))
    chance = np.random.default_rng(seed)
    columns = {f"celsius:{room.place}": run.of(f"hung:{room.place}") for room in run.plant.compartments}
    columns |= {f"coil:{face.id}": run.of(f"coil:{face.id}") for face in run.plant.evaporators}
    columns["celsius:room"] = np.full(len(run.rows), run.plant.room)
    columns["watts"] = run.watts
    found = {}
    for name, values in columns.items():
        kind = "watts" if name == "watts" else "celsius"
        if kind == "watts" and every > 1:  # a plug meter that logs seldom shows the mean since it last did
            whole = np.concatenate([[0.0], np.cumsum(values)])
            ends = np.arange(0, len(values), every)
            begins = np.maximum(ends - every, -1)
            shown = (whole[ends + 1] - whole[begins + 1]) / (ends - begins)
        else:
            shown = values[::every]
        noisy = shown + chance.normal(0.0, NOISE[kind], len(shown))
        found[name] = np.round(noisy / STEPS[kind]) * STEPS[kind]
    return Logged(run.minutes[::every] * MINUTE, found)
