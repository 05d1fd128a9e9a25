"""Every damage's own changes, in each of several circuits, written out as flat arrays.

What several circuits share is written once.
"""

from collections.abc import Sequence

import numpy as np

from frostcore.circuit.damage import Change, Damage
from frostcore.circuit.element import Analysis, Branch, Circuit, Row, row_of
from frostcore.circuit.settle import Levels, Settled, analyses
from frostcore.circuit.solver import Array, Flags, Places


def differing(one: Circuit, other: Circuit) -> frozenset[str]:
    """The branches of two circuits of the same topology that are not the same in both."""
    return frozenset(a.id for a, b in zip(one.branches, other.branches, strict=True) if a is not b and a != b)


class Ledger:
    """One analysis's changes, those of each writing one after the other.

    Each has its slot, the control it follows (0 where none: its rows are then the same), and its row at each
    level of that control.
    """

    def __init__(self) -> None:
        self._sizes: list[int] = []
        self._slots: list[int] = []
        self._controls: list[int] = []
        self._rows: list[tuple[Row, Row, Row]] = []
        self.sizes = self.firsts = self.slots = self.controls = np.zeros(0, int)
        """How many changes each writing has and where they begin; the changes' slots and controls."""
        self.rows: Array = np.zeros((0, 2, 3), complex)
        """The changes' rows by level (× 3 × 3)."""

    def begin(self) -> None:
        """Open a new writing."""
        self._sizes.append(0)

    def add(self, slot: int, rows: tuple[Row, Row, Row], control: int = 0) -> None:
        """A change of the writing last begun."""
        self._sizes[-1] += 1
        self._slots.append(slot)
        self._controls.append(control)
        self._rows.append(rows)

    def close(self) -> None:
        """Turn what was written into arrays."""
        self.sizes = np.array(self._sizes, int)
        self.firsts = np.cumsum(self.sizes) - self.sizes
        self.slots, self.controls = np.array(self._slots, int), np.array(self._controls, int)
        self.rows = np.array(self._rows, complex).reshape(-1, 3, 3)


class Written:
    """The changes of every damage in every base, and which controls each owns, forces and commands."""

    def __init__(self, bases: Sequence[Settled], damages: Sequence[Sequence[Damage]]) -> None:
        """``damages`` of each base, as many for each; bases of one topology."""
        first = bases[0].circuit
        self._columns = {int(place): column for column, place in enumerate(bases[0].logic.places)}
        self._ledgers = {analysis: Ledger() for analysis in analyses(first)}
        self._writings, self._controls = 0, len(bases[0].logic.controls)
        self._bridges: dict[tuple[int, int], int] = {}
        self._flags: dict[str, list[tuple[int, int]]] = {"owned": [], "forced": [], "commanded": []}
        self._which = self._write_all([base.circuit for base in bases], damages).ravel()
        """The writing of each fault, one base after the other."""
        for ledger in self._ledgers.values():
            ledger.close()
        self._branches = len(first.branches)
        self.bridges = np.array(list(self._bridges), int).reshape(-1, 2)
        """The pairs of rows that any damage joins (×2)."""
        self.bridges[self.bridges < 0] = first.topology.size

    def _write_all(self, circuits: Sequence[Circuit], damages: Sequence[Sequence[Damage]]) -> Places:
        """Write what the first circuit's damages do, then of the others what is not the same there."""
        first, shared = circuits[0], damages[0]
        which = np.empty((len(circuits), len(shared)), int)
        which[:] = [self._write(first, damage) for damage in shared]
        touching: dict[str, list[int]] = {}
        for fault, damage in enumerate(shared):
            for identifier in damage.changes:
                touching.setdefault(identifier, []).append(fault)
        for scene, (circuit, mine) in enumerate(zip(circuits[1:], damages[1:], strict=True), 1):
            anew = {fault for name in differing(first, circuit) for fault in touching.get(name, ())}
            if mine is not shared:
                anew |= {fault for fault, damage in enumerate(mine) if damage is not shared[fault]}
            for fault in anew:
                which[scene, fault] = self._write(circuit, mine[fault])
        return which

    def _write(self, circuit: Circuit, damage: Damage) -> int:
        """Write one damage in one circuit; returns the writing's number."""
        writing, self._writings = self._writings, self._writings + 1
        for ledger in self._ledgers.values():
            ledger.begin()
        for identifier, change in damage.changes.items():
            place = circuit.branch_index[identifier]
            branch, column = circuit.branches[place], self._columns.get(place)
            if column is not None:
                self._own(writing, column, change)
            states = change.states_of(branch)
            levels = _levels_of(branch, change, controlled=column is not None)
            for analysis, ledger in self._ledgers.items():
                rows = {name: row_of(states[name], analysis, circuit.omega) for name in dict.fromkeys(levels)}
                off, on, tripped = (rows[name] for name in levels)
                ledger.add(place, (off, on, tripped), column or 0)
        self._write_bridges(circuit, damage)
        return writing

    def _own(self, writing: int, column: int, change: Change) -> None:
        """Say that a fault owns a control, and whether it forces or commands it."""
        self._flags["owned"].append((writing, column))
        if change.forced is not None:
            self._flags["forced"].append((writing, column))
        if change.commanded:
            self._flags["commanded"].append((writing, column))

    def _write_bridges(self, circuit: Circuit, damage: Damage) -> None:
        for a, b, impedance in damage.bridges:
            pair = (circuit.node_index[a], circuit.node_index[b])
            slot = len(circuit.branches) + self._bridges.setdefault(pair, len(self._bridges))
            for analysis, ledger in self._ledgers.items():
                z = impedance.at(analysis, circuit.omega)
                if z is not None:
                    row: Row = (1, z, impedance.emf(analysis))
                    ledger.add(slot, (row, row, row))

    @property
    def branches(self) -> Places:
        """The branches that any damage changes."""
        slots = np.concatenate([ledger.slots for ledger in self._ledgers.values()])
        return slots[slots < self._branches]

    def flags(self, name: str) -> Flags:
        """Which controls each fault ("owned", "forced", "commanded") has so (F×C)."""
        found = np.zeros((self._writings, self._controls), bool)
        if self._flags[name]:
            writing, column = np.array(self._flags[name]).T
            found[writing, column] = True
        return found[self._which]

    def of(self, analysis: Analysis, faults: Places, on: Levels) -> tuple[Places, Places, Array]:
        """(edit, slot, rows) of these faults' own changes, flat, with the controls standing as ``on``
        says (a row a fault)."""
        ledger, which = self._ledgers[analysis], self._which[faults]
        sizes = ledger.sizes[which]
        edit = np.repeat(np.arange(len(faults)), sizes)
        begins = ledger.firsts[which] - (np.cumsum(sizes) - sizes)
        at = np.repeat(begins, sizes) + np.arange(len(edit))
        side = on[edit, ledger.controls[at]] if self._controls else np.zeros(len(edit), int)
        return edit, ledger.slots[at], ledger.rows[at, side]


def _levels_of(branch: Branch, change: Change, *, controlled: bool) -> tuple[str, str, str]:
    """The names of the changed branch's states at each level of its control."""
    if controlled and branch.control and change.forced is None:
        return branch.control.levels
    start = change.start_of(branch)
    return start, start, start
