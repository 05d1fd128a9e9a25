"""What each hypothesis makes of a reading, in several units with parts within their tolerances.

The candidates' readings are foretold together, a draw at a time; any other reading when it is first asked
for. Both are kept as long as the sheet is.
"""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from threading import Lock

import numpy as np
import numpy.typing as npt

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, expect, points
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.probes import Probe, candidates
from frostcore.faults.draws import DRAWS, Draw, acts_of, varied
from frostcore.faults.known import Fault
from frostcore.faults.table import Asked, Setup, Vary, as_written, foretell
from frostcore.sheet.model import Sheet

Singles = npt.NDArray[np.float32]

FALLS = 0.6
"""A voltage of which less than this is left on the low-impedance range is a phantom or a leak."""


_as_written: Vary = as_written


class Readings:
    """The readings of a sheet's hypotheses (draws × hypotheses each)."""

    def __init__(self, sheet: Sheet, seed: int = 0) -> None:
        self.sheet, self.hypotheses = sheet, hypotheses_of(sheet)
        self._seed, self._lock = seed, Lock()
        self._known: dict[Probe, list[Singles]] = {}
        self._firm: dict[Probe, bool] = {}
        self._made: dict[int, tuple[tuple[Fault, ...], Vary]] = {}
        self.unsettled: dict[str, npt.NDArray[np.bool_]] = {}
        """By mode: which hypotheses never settle in it."""
        self.draws = 0
        """So many draws have been made of the candidates; before the first, parts are as written."""

    def prepare(self, draws: int = DRAWS) -> None:
        """Foretell the candidates' readings in so many draws, if that has not been done; with none, of parts
        as written."""
        probes = candidates(self.sheet)
        if self.draws >= draws if draws else self._known:
            return
        with self._lock:  # two at once: the second finds it done
            if self.draws >= draws if draws else self._known:
                return
            found: dict[Probe, list[Singles]] = {probe: [] for probe in probes}
            for number in range(draws) if draws else (None,):
                for probe, row in self._foretold(probes, number).items():
                    found[probe].append(row)
            # Whoever asks meanwhile is answered by what there was before.
            self._known = self._known | found
            self.draws = draws

    def of(self, probe: Probe) -> Singles:
        """What each hypothesis shows (draws × hypotheses); infinite where the meter shows OL.

        Raises CircuitError for points or modes the sheet has not.
        """
        wanted = max(self.draws, 1)
        rows = self._known.get(probe, [])
        if len(rows) < wanted:
            numbers: Sequence[int | None] = range(wanted) if self.draws else (None,)
            rows = [self._foretold((probe,), number)[probe] for number in numbers]
            self._known[probe] = rows
        return np.stack(rows[:wanted])

    def together(self, probe: Probe, places: Sequence[int], number: int) -> float:
        """What two faults show there at once, in one draw; CircuitError for points the sheet has not."""
        circuits, vary = self._drawn(number)
        known = self.hypotheses
        parts = [circuits[known.row[place] - 1] for place in places if known.row[place]]
        if not parts:
            return float(self.of(probe)[number, 0])
        both = replace(parts[0], acts=tuple(act for part in parts for act in part.acts))
        found = foretell(self.sheet, [Asked(probe.setup, (probe.pair,))], (both,), vary)
        return float(found.values[0][1, 0])

    def firm(self, probe: Probe) -> bool:
        """Whether the healthy unit's ohms can be judged; volts always can."""
        if probe not in self._firm:
            setup = probe.setup
            self._firm[probe] = True
            if setup.meter is MeterRange.OHM:
                settled = circuits_of(self.sheet).scene(
                    setup.mode, live=False, pulled=setup.pulled, celsius=setup.celsius
                )
                where = points(self.sheet, settled.circuit, probe.red, probe.black, setup.meter)
                self._firm[probe] = expect(settled, where, setup.meter).firm
        return self._firm[probe]

    def phantoms(self, probe: Probe) -> npt.NDArray[np.bool_]:
        """Which hypotheses (draws × hypotheses) have next to nothing behind the volts they show there."""
        if probe.setup.meter is not MeterRange.VAC:
            return np.zeros((1, len(self.hypotheses)), bool)
        low = self.of(replace(probe, setup=replace(probe.setup, meter=MeterRange.VAC_LOZ)))
        high = self.of(probe)
        return (high > 3) & (low < FALLS * high)

    def never_settles(self, mode: str) -> npt.NDArray[np.bool_]:
        """Which hypotheses (H) never settle in a mode."""
        return self.unsettled.get(mode, np.zeros(len(self.hypotheses), bool))

    def _drawn(self, number: int | None) -> tuple[tuple[Fault, ...], Vary]:
        """The faults by their amounts, and what makes circuits those of a draw."""
        if number is None:
            return self.hypotheses.circuit, _as_written
        if number not in self._made:
            draw = Draw(number, seed=self._seed)
            circuits = tuple(replace(fault, acts=acts_of(fault, draw)) for fault in self.hypotheses.circuit)
            self._made[number] = (circuits, varied(draw))
        return self._made[number]

    def _foretold(self, probes: Iterable[Probe], number: int | None) -> dict[Probe, Singles]:
        """The readings of some probes in one draw, or of parts as written (None)."""
        asked: dict[Setup, list[tuple[str, str]]] = {}
        for probe in probes:
            asked.setdefault(probe.setup, []).append(probe.pair)
        known, (circuits, vary) = self.hypotheses, self._drawn(number)
        found = foretell(
            self.sheet, [Asked(setup, tuple(pairs)) for setup, pairs in asked.items()], circuits, vary
        )
        for mode, identifier in found.unsettled:
            flags = self.unsettled.setdefault(mode, np.zeros(len(known), bool))
            flags[known.place[identifier]] = True
        rows: dict[Probe, Singles] = {}
        for (setup, pairs), values in zip(asked.items(), found.values, strict=True):
            shown = values.astype(np.float32)[known.row]
            rows |= {Probe(setup, *pair): shown[:, column] for column, pair in enumerate(pairs)}
        return rows


def readings_of(sheet: Sheet) -> Readings:
    """A sheet's, kept with its circuits."""
    kept = circuits_of(sheet).kept
    if "readings" not in kept:
        kept["readings"] = Readings(sheet)
    found: Readings = kept["readings"]
    return found


def probe_of(sheet: Sheet, setup: Setup, red: str, black: str) -> Probe:
    """A probe at two points the sheet has; CircuitError naming the one it has not."""
    settled = circuits_of(sheet).scene(
        setup.mode, live=setup.meter.live, pulled=setup.pulled, celsius=setup.celsius
    )
    where = points(sheet, settled.circuit, red, black, setup.meter)
    if where.red_node == where.black_node:
        message = f"{red} and {black} are one point of the circuit: there is nothing between them to read."
        raise CircuitError(message)
    return Probe(setup, red, black)
