"""What runs under every fault: each load's watts, what the unit takes at the plug, volts its board looks
at, in every mode with the plug in.

From the settled circuit, state and power: an opened fan still stands as turning by its volts alone, and
takes nothing.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.circuit.build import Builder
from frostcore.circuit.element import Analysis, BranchKind, Circuit
from frostcore.circuit.faulted import SettledFaults
from frostcore.circuit.figures import RAIL_EFFICIENCY
from frostcore.circuit.settle import settle
from frostcore.circuit.waves import energy
from frostcore.faults.edits import Act, damage
from frostcore.faults.known import Fault
from frostcore.sheet.model import Sheet

Floats = npt.NDArray[np.float64]


RUNS, STALLS = 0.45, 1.7
"""A motor that takes less than the first share of its watts stands unfed, with more than the second it is
locked or shorted."""

ON, LEAST_WATTS = 0.3, 0.05
"""A load is on in a mode with at least this share of the most it takes; with less watts it is off."""


@dataclass(frozen=True)
class Running:
    """By mode (M), fault (F + 1, the healthy unit first) and load (L) or pair of nodes (K)."""

    modes: tuple[str, ...]
    loads: tuple[str, ...]
    watts: Floats
    """What each load takes (M × F+1 × L)."""

    plug: Floats
    """What the unit takes at the plug (M × F+1), in watts."""

    volts: Floats
    """DC between the pairs of nodes asked for (M × F+1 × K)."""

    unsettled: dict[tuple[str, int], tuple[str, ...]]
    """The names of what never settles, by mode and fault's row."""

    tripped: dict[tuple[str, int], tuple[str, ...]]
    """What has tripped, in words."""

    def of(self, mode: str, load: str) -> Floats:
        """A load's watts in a mode under every fault."""
        found: Floats = self.watts[self.modes.index(mode), :, self.loads.index(load)]
        return found


def running(sheet: Sheet, faults: Sequence[Fault], pairs: Sequence[tuple[str, str]] = ()) -> Running:
    """What runs under each of these faults, and the DC volts of some pairs of nodes."""
    distinct: dict[tuple[Act, ...], int] = {(): 0}
    rows = np.array([0, *(distinct.setdefault(fault.acts, len(distinct)) for fault in faults)])
    builder = Builder(sheet)
    bases = [settle(builder.circuit(mode.id)) for mode in sheet.modes if mode.live]
    modes = tuple(base.circuit.mode for base in bases)
    if not bases:
        nothing, volts = np.zeros((0, len(rows), 0)), np.zeros((0, len(rows), len(pairs)))
        return Running((), (), nothing, nothing.sum(axis=2), volts, {}, {})
    circuit = bases[0].circuit
    found = SettledFaults(bases, [[damage(base.circuit, acts) for acts in distinct] for base in bases])
    x = {analysis: found.edited(analysis).x for analysis in Analysis}
    shape = (len(bases), len(distinct))
    loads = [place for place, branch in enumerate(circuit.branches) if branch.kind is BranchKind.LOAD]
    ac = _Mains(circuit, x[Analysis.AC], loads)
    if found.wave:  # as an output conducts for a part of each wave, as it blocks for the rest
        passed, off = energy(found.wave), _Mains(circuit, found.blocked().x, loads)
        ac.watts, ac.given = (
            passed * on + (1 - passed) * rest for on, rest in ((ac.watts, off.watts), (ac.given, off.given))
        )
    watts = ac.watts + _watts(circuit, x[Analysis.DC], loads)
    rails = _rails(circuit, x[Analysis.DC])
    a, b = (circuit.topology.rows_of([pair[end] for pair in pairs]) for end in (0, 1))
    volts = (x[Analysis.DC][:, a] - x[Analysis.DC][:, b]).real

    def spread(flat: Floats) -> Floats:
        return flat.reshape(*shape, *flat.shape[1:])[:, rows]

    def told(flat: dict[int, tuple[str, ...]]) -> dict[tuple[str, int], tuple[str, ...]]:
        by_place = {(edit // shape[1], edit % shape[1]): names for edit, names in flat.items()}
        return {
            (mode, row): by_place[base, place]
            for base, mode in enumerate(modes)
            for row, place in enumerate(rows.tolist())
            if (base, place) in by_place
        }

    return Running(
        modes,
        tuple(circuit.branches[place].id for place in loads),
        spread(watts),
        spread(ac.given + rails / RAIL_EFFICIENCY),
        spread(volts),
        told(found.unsettled),
        told(found.tripped),
    )


Solutions = npt.NDArray[np.complexfloating] | Floats


class _Mains:
    """What the loads take of the mains (F × L), and what the mains give (F)."""

    def __init__(self, circuit: Circuit, x: Solutions, loads: list[int]) -> None:
        self.watts: Floats = _watts(circuit, x, loads)
        current = x[:, len(circuit.nodes) + circuit.branch_index["wall"]]
        self.given: Floats = np.asarray(-(circuit.mains_volts * current.conj()).real)


def _watts(circuit: Circuit, x: Solutions, places: list[int]) -> Floats:
    """Re(V·I*) of some branches under every edit (F × places)."""
    ends, nodes = circuit.topology.ends[places], len(circuit.nodes)
    current = x[:, [nodes + place for place in places]].conj()
    return np.asarray(((x[:, ends[:, 0]] - x[:, ends[:, 1]]) * current).real)


def _rails(circuit: Circuit, x: Solutions) -> Floats:
    """What the rails' own sources give out (F); what one rail feeds another is counted once."""
    fed, nodes = {coupling.of for coupling in circuit.couplings}, len(circuit.nodes)
    found = np.zeros(len(x))
    for place, branch in enumerate(circuit.branches):
        volts = max((state.dc_volts for state in branch.states.values() if state), default=0.0)
        if branch.kind is BranchKind.SOURCE and volts and branch.id not in fed:
            found += volts * np.maximum(0.0, -x[:, nodes + place].real)
    return found
