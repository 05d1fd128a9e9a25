"""The prediction table: what the meter shows between every pair of points, in every setup, for the healthy unit and for every fault.

One factorisation a setup; every fault is a low-rank edit of it, all of them solved together (:mod:`frostcore.circuit.solver`).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.circuit.build import build, with_pulled
from frostcore.circuit.element import Analysis, Circuit
from frostcore.circuit.meter import METER_OHMS, OPEN_OHMS, Function, node_of
from frostcore.circuit.settle import HEALTHY, Damage, Settled, SettledFaults, settle, settle_faults
from frostcore.circuit.solver import Edited
from frostcore.circuit.trace import probes
from frostcore.faults.edits import Act, Bridged, damage
from frostcore.faults.known import Fault
from frostcore.sheet.model import Sheet


@dataclass(frozen=True)
class Setup:
    """How a reading is taken: mode, meter position, connectors pulled."""

    mode: str
    function: Function
    pulled: tuple[str, ...] = ()


Pair = tuple[str, str]


@dataclass(frozen=True)
class Prediction:
    """Readings (setups × faults + 1 × pairs), the healthy unit first among the faults; infinite where the meter shows OL, volts as the meter

    shows them (r.m.s. for AC). ``missing`` marks pairs a setup can't touch.
    """

    setups: tuple[Setup, ...]
    faults: tuple[Fault, ...]
    pairs: tuple[Pair, ...]
    values: npt.NDArray[np.float64]
    unsettled: dict[tuple[str, str], tuple[str, ...]]

    def of(self, setup: Setup, pair: Pair, fault: str = "") -> float:
        """One reading; ``fault`` empty for the healthy unit."""
        row = 0 if not fault else 1 + next(index for index, item in enumerate(self.faults) if item.id == fault)
        return float(self.values[self.setups.index(setup), row, self.pairs.index(pair)])


def usual_pairs(sheet: Sheet) -> tuple[Pair, ...]:
    """The pairs a repairer probes: each function's feed and return at every connector it passes, and at its load."""
    return probes(sheet, build(sheet, _ohm_mode(sheet), live=False))


def usual_setups(sheet: Sheet) -> tuple[Setup, ...]:
    """Every live mode in AC, low-impedance AC and DC volts; ohms with the plug out, all plugs in, and with each connector pulled."""
    live = [Setup(mode.id, function) for mode in sheet.modes if mode.live for function in (Function.VAC, Function.VAC_LOZ, Function.VDC)]
    off = _ohm_mode(sheet)
    return (*live, Setup(off, Function.OHM), *(Setup(off, Function.OHM, (connector.id,)) for connector in sheet.connectors))


def _ohm_mode(sheet: Sheet) -> str:
    """The state ohms are measured in: plug out and still cold where the sheet has it."""
    return next((mode.id for mode in sheet.modes if not mode.live), sheet.modes[0].id)


def predict(sheet: Sheet, setups: Sequence[Setup], pairs: Sequence[Pair], faults: Sequence[Fault]) -> Prediction:
    """The table of these setups, pairs and faults."""
    values = np.zeros((len(setups), len(faults) + 1, len(pairs)))
    unsettled: dict[tuple[str, str], tuple[str, ...]] = {}
    scenes: dict[tuple[str, bool, tuple[str, ...]], list[int]] = {}
    for index, setup in enumerate(setups):
        live = setup.function is not Function.OHM and sheet.mode(setup.mode).live
        if live or setup.function is Function.OHM:  # volts with the plug out are nothing
            scenes.setdefault((setup.mode, live, setup.pulled), []).append(index)
    known = _Damages(faults)
    built: dict[tuple[str, bool], Circuit] = {}
    edits: dict[str, SettledFaults] = {}
    for (mode, live, pulled), members in scenes.items():
        if (mode, live) not in built:
            built[mode, live] = build(sheet, mode, live=live)
        settled = settle(with_pulled(sheet, built[mode, live], pulled))
        if live or mode not in edits:
            found = settle_faults(settled, known.of(settled.circuit))
            if not live:
                edits[mode] = found
        else:
            found = edits[mode]
        unsettled |= {(mode, fault.id): found.unsettled[place] for fault, place in zip(faults, known.places[1:], strict=True) if found.unsettled[place]}
        seen: dict[tuple[Analysis, bool], tuple[np.ndarray, np.ndarray]] = {}
        for index in members:
            function = setups[index].function
            key = (function.analysis, function is Function.OHM)
            if key not in seen:
                seen[key] = _open_circuit(sheet, settled, found.edited(settled, function.analysis), function, pairs)
            values[index] = _shown(function, *seen[key])[known.places]
    return Prediction(tuple(setups), tuple(faults), tuple(pairs), values, unsettled)


class _Damages:
    """What each hypothesis does, the healthy unit first. Two faults that do the same (a break, and one that comes and goes) are solved once."""

    def __init__(self, faults: Sequence[Fault]) -> None:
        distinct: dict[tuple[Act, ...], int] = {(): 0}
        self.places = [0, *(distinct.setdefault(fault.acts, len(distinct)) for fault in faults)]
        self._acts = list(distinct)
        self._made: list[tuple[tuple[object, ...], Damage]] | None = None

    def of(self, circuit: Circuit) -> list[Damage]:
        """The damages in one circuit; those whose branches are as in the circuit before are taken over."""
        made = []
        for place, acts in enumerate(self._acts):
            touched = tuple(circuit.branch(act.branch).states for act in acts if not isinstance(act, Bridged))
            before = self._made[place] if self._made else None
            made.append(before if before and before[0] == touched else (touched, damage(circuit, acts) if acts else HEALTHY))
        self._made = made
        return [item for _, item in made]


def _open_circuit(sheet: Sheet, settled: Settled, edited: Edited, function: Function, pairs: Sequence[Pair]) -> tuple[np.ndarray, np.ndarray]:
    """Open-circuit volts of the pairs, and the impedance they show (damages × pairs each)."""
    circuit, solved = settled.circuit, settled.solved[function.analysis]
    rows = {point: circuit.node_index[node_of(sheet, circuit, point, function)] for pair in pairs for point in pair}
    ends = np.array([[rows[red], rows[black]] for red, black in pairs], int).reshape(-1, 2)
    ends[ends < 0] = solved.size
    return edited.volts(ends), edited.seen(ends, solved.injections(ends))


def _shown(function: Function, volts: np.ndarray, seen: np.ndarray) -> npt.NDArray[np.float64]:
    """What the meter shows: ohms, or the volts left over its own impedance."""
    if function is Function.OHM:
        return np.where(seen.real > OPEN_OHMS, np.inf, np.maximum(seen.real, 0.0))
    shunt = METER_OHMS[function]
    loaded = volts * shunt / (shunt + seen)
    return np.abs(loaded) if function.analysis is Analysis.AC else loaded.real
