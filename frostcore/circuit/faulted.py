"""Many faults of a unit at once, in several modes or with several connectors pulled: the state each
settles in, as edits of the healthy circuits.

A fault starts from the healthy unit's settled state, but motors that must start are tried from
standstill. Only what differs from the healthy circuit is edited; all faults of all circuits go through
each round of logic together.
"""

from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from frostcore.circuit.element import Analysis, Branch, BranchKind, Circuit, Impedance, States, row_of
from frostcore.circuit.lowrank import Bases, Changes, Edited, Ports
from frostcore.circuit.settle import ROUNDS, ControlStates, Logic, Settled, analyses
from frostcore.circuit.solver import Array, Flags, Places, Solved, rows_of


@dataclass(frozen=True)
class Change:
    """What a fault does to one branch: new states, a state it is forced into, a command that is always
    there."""

    states: States | None = None
    forced: str | None = None
    commanded: bool = False

    def states_of(self, branch: Branch) -> States:
        """The branch's states under the change."""
        return branch.states if self.states is None else self.states

    def start_of(self, branch: Branch) -> str:
        """The state it starts in, and stays in when it is forced."""
        return branch.start if self.forced is None else self.forced


@dataclass(frozen=True)
class Damage:
    """What a fault does to a circuit: changes by branch id, and impedances added between nodes (in both
    analyses)."""

    changes: dict[str, Change] = field(default_factory=dict)
    bridges: tuple[tuple[str, str, Impedance], ...] = ()


HEALTHY = Damage()


def differing(one: Circuit, other: Circuit) -> frozenset[str]:
    """The branches of two circuits of the same topology that are not the same in both."""
    return frozenset(a.id for a, b in zip(one.branches, other.branches, strict=True) if a is not b and a != b)


class SettledFaults:
    """The faults of every base circuit, settled (F = bases × faults of them, one base after the other)."""

    def __init__(
        self,
        bases: Sequence[Settled],
        damages: Sequence[Sequence[Damage]],
        pool: Executor | None = None,
        probed: Places | None = None,
    ) -> None:
        """``damages`` of each base, as many for each.

        What is the same object in two bases is worked out once.

        All bases are live, or none is.         With a pool, what can be solved beside the caller's own
        work is, and so is what pairs of rows that will be ``probed`` (P×2) show.
        """
        self.bases, self.per_base = tuple(bases), len(damages[0])
        self.analyses, live = analyses(bases[0].circuit), bases[0].circuit.live
        self.scene = np.repeat(np.arange(len(bases)), self.per_base)
        self._logic = logic = Logic.stack(
            [base.logic if live else bases[0].logic for base in bases]
        )  # with the plug out logic chooses nothing
        self._written = _Written(bases, damages)
        self._damages = damages
        self._base_on = np.array(
            [
                [
                    base.states[place] == control.on
                    for place, control in zip(logic.places, logic.controls, strict=True)
                ]
                for base in bases
            ],
            bool,
        )
        self._rows = {
            analysis: np.stack([base.solved[analysis].rows for base in bases]) for analysis in self.analyses
        }
        self._own, self._forced, self._commanded = (
            self._written.flags(name) for name in ("owned", "forced", "commanded")
        )
        branches = np.unique(
            np.concatenate([logic.places if live else np.zeros(0, int), self._written.branches])
        )
        bridges = self._written.bridges.tolist()
        bridges += [
            pair
            for pair in ([] if probed is None else probed.tolist())
            if pair not in bridges and pair[::-1] not in bridges
        ]
        self.based = {
            analysis: Bases(
                [base.solved[analysis] for base in bases],
                branches,
                np.array(bridges, int).reshape(-1, 2),
                pool,
            )
            for analysis in self.analyses
        }
        """What the edits start from in each analysis."""

    @cached_property
    def _standing(self) -> ControlStates:
        """How the controls of every fault stand in the end.

        Worked out when first asked, for the columns may still be on their way.
        """
        logic, scenes = self._logic, len(self.bases)
        if not self.bases[0].circuit.live:
            return ControlStates(self._base_on[self.scene], self._forced)
        standing = ControlStates(
            np.where(logic.restarts, logic.start_on, self._base_on)[self.scene], self._forced
        )
        commanded = self._commanded | logic.commanded[self.scene]
        ports = {
            analysis: Ports(
                self.based[analysis],
                np.broadcast_to(logic.sensed[analysis], (scenes, *logic.sensed[analysis].shape)),
            )
            for analysis in self.analyses
        }
        values = {
            analysis: np.empty((len(self.scene), ports[analysis].ends.shape[1]), self.based[analysis].x.dtype)
            for analysis in self.analyses
        }
        # What logic changes in the other circuit leaves this one as it was.
        moves = {
            analysis: (rows[:, :, 0] != rows[:, :, 1]).any(axis=(0, 2))
            for analysis, rows in logic.rows.items()
        }
        active = np.arange(len(self.scene))
        stale = dict.fromkeys(self.analyses, active)
        for _ in range(ROUNDS):
            for analysis, faults in stale.items():
                if len(faults):
                    edited = Edited(
                        self.based[analysis],
                        self.scene[faults],
                        self._changes(analysis, faults, standing.on[faults]),
                    )
                    values[analysis][faults] = edited.volts(ports[analysis])
            seen = {analysis: found[active] for analysis, found in values.items()}
            wanted = logic.wanted(seen, standing.on[active], commanded[active], self.scene[active])
            differs = standing.take(logic, wanted, active)
            stale = {
                analysis: active[(differs & (moves[analysis] | self._own[active])).any(axis=1)]
                for analysis in self.analyses
            }
            active = active[differs.any(axis=1)]
            if not len(active):
                break
        return standing

    def _changes(self, analysis: Analysis, faults: Places, on: Flags) -> Changes:
        """What these faults change in one analysis with their controls standing so (a row a fault).

        What stays as in the healthy circuit is left out.
        """
        scene = self.scene[faults]
        edit, slot, rows = self._written.of(analysis, faults, on)
        order, column = np.nonzero((on != self._base_on[scene]) & ~self._own[faults])
        chosen = self._logic.rows[analysis][scene[order], column, on[order, column].astype(int)]
        edit, slot = np.concatenate([edit, order]), np.concatenate([slot, self._logic.places[column]])
        rows = np.concatenate([rows, chosen])
        branches = self._rows[analysis].shape[1]
        new = slot >= branches
        healthy = self._rows[analysis][scene[edit], np.where(new, 0, slot)]
        new |= (rows != healthy).any(axis=1)
        order = np.flatnonzero(new)
        order = order[np.argsort(edit[order], kind="stable")]
        return Changes(edit[order], slot[order], rows[order] if analysis is Analysis.AC else rows[order].real)

    def edited(self, analysis: Analysis) -> Edited:
        """The solutions of all faults in one analysis (F)."""
        return Edited(
            self.based[analysis],
            self.scene,
            self._changes(analysis, np.arange(len(self.scene)), self._standing.on),
        ).refine()

    @cached_property
    def unsettled(self) -> dict[int, tuple[str, ...]]:
        """The names of what never settles, under each fault (0 to F − 1) where something doesn't."""
        return self._standing.unsettled(self._logic)

    def states(self, fault: int) -> tuple[str, ...]:
        """The state of every branch under one fault (0 to F − 1)."""
        base, logic = self.bases[self.scene[fault]], self._logic
        states = list(base.states)
        for column, on in enumerate(self._standing.on[fault]):
            states[logic.places[column]] = logic.state(column, on=on)
        for identifier, change in self._damages[self.scene[fault]][fault % self.per_base].changes.items():
            if change.forced is not None:
                states[base.circuit.branch_index[identifier]] = change.forced
        return tuple(states)


def with_fault(base: Settled, damage: Damage) -> Settled:
    """One fault written into the circuit itself and solved anew in the states it settles in: what a deck
    shows, and a check on the edits."""
    settled = SettledFaults([base], [[damage]])
    broken = damaged(base.circuit, damage)
    states = settled.states(0) + ("",) * len(damage.bridges)
    return Settled(
        broken,
        states,
        settled.unsettled.get(0, ()),
        {
            analysis: Solved(broken, analysis, rows_of(broken, states, analysis))
            for analysis in analyses(broken)
        },
    )


class _Written:
    """All damages' own changes in all bases, written out as arrays.

    What several bases share is written once.
    """

    def __init__(self, bases: Sequence[Settled], damages: Sequence[Sequence[Damage]]) -> None:
        first = bases[0].circuit
        self._columns = {int(place): column for column, place in enumerate(bases[0].logic.places)}
        self._analyses, self._count = analyses(first), len(bases[0].logic.controls)
        self._bridges: dict[tuple[int, int], int] = {}
        self._parts: dict[Analysis, list[list[tuple[complex, ...]]]] = {
            analysis: [] for analysis in self._analyses
        }
        self._flags: dict[str, list[tuple[int, int]]] = {"owned": [], "forced": [], "commanded": []}
        which = np.empty((len(bases), len(damages[0])), int)
        which[:] = [self._write(first, damage) for damage in damages[0]]
        touching: dict[str, list[int]] = {}
        for fault, damage in enumerate(damages[0]):
            for identifier in damage.changes:
                touching.setdefault(identifier, []).append(fault)
        for scene, base in enumerate(bases[1:], 1):
            anew = {
                fault
                for identifier in differing(first, base.circuit)
                for fault in touching.get(identifier, ())
            }
            if damages[scene] is not damages[0]:
                anew |= {
                    fault
                    for fault, (damage, before) in enumerate(zip(damages[scene], damages[0], strict=True))
                    if damage is not before
                }
            for fault in anew:
                which[scene, fault] = self._write(base.circuit, damages[scene][fault])
        self._which = which.ravel()
        self._sizes, self._first, self._slots, self._column, self._rows = ({} for _ in range(5))
        for analysis, parts in self._parts.items():
            sizes = np.array([len(part) for part in parts], int)
            flat = np.array([change for part in parts for change in part], complex).reshape(-1, 8)
            self._sizes[analysis], self._first[analysis] = sizes, np.cumsum(sizes) - sizes
            self._slots[analysis], self._column[analysis] = (
                flat[:, 0].real.astype(int),
                flat[:, 1].real.astype(int),
            )
            self._rows[analysis] = flat[:, 2:].reshape(-1, 2, 3)
        self._branches = len(first.branches)
        self.bridges = np.array(list(self._bridges), int).reshape(-1, 2)
        self.bridges[self.bridges < 0] = first.topology.size

    @property
    def branches(self) -> Places:
        """The branches that any damage changes."""
        slots = np.concatenate(list(self._slots.values()))
        return slots[slots < self._branches]

    def _write(self, circuit: Circuit, damage: Damage) -> int:
        written = len(self._parts[self._analyses[0]])
        for parts in self._parts.values():
            parts.append([])
        omega = circuit.omega
        for identifier, change in damage.changes.items():
            place = circuit.branch_index[identifier]
            branch, column = circuit.branches[place], self._columns.get(place)
            states = change.states_of(branch)
            off = on = change.start_of(branch)
            if column is not None:
                self._own(written, column, change)
                if change.forced is None and branch.control:
                    off, on = branch.control.off, branch.control.on
            for analysis, parts in self._parts.items():
                row = row_of(states[off], analysis, omega)
                parts[-1].append(
                    (place, column or 0, *row, *(row if on == off else row_of(states[on], analysis, omega)))
                )
        self._write_bridges(circuit, damage)
        return written

    def _own(self, written: int, column: int, change: Change) -> None:
        """Say that a fault owns a control, and whether it forces or commands it."""
        self._flags["owned"].append((written, column))
        if change.forced is not None:
            self._flags["forced"].append((written, column))
        if change.commanded:
            self._flags["commanded"].append((written, column))

    def _write_bridges(self, circuit: Circuit, damage: Damage) -> None:
        for a, b, impedance in damage.bridges:
            pair = (circuit.node_index[a], circuit.node_index[b])
            slot = len(circuit.branches) + self._bridges.setdefault(pair, len(self._bridges))
            for analysis, parts in self._parts.items():
                z = impedance.at(analysis, circuit.omega)
                if z is not None:
                    parts[-1].append((slot, 0, *(1, z, impedance.emf(analysis)) * 2))

    def flags(self, name: str) -> Flags:
        """Which controls each fault owns, forces or commands (F×C)."""
        found = np.zeros((len(self._parts[self._analyses[0]]), self._count), bool)
        if self._flags[name]:
            written, column = np.array(self._flags[name]).T
            found[written, column] = True
        return found[self._which]

    def of(self, analysis: Analysis, faults: Places, on: Flags) -> tuple[Places, Places, Array]:
        """(edit, slot, rows) of these faults' own changes, flat, with the controls standing as ``on``
        says (a row a fault)."""
        which = self._which[faults]
        sizes = self._sizes[analysis][which]
        edit = np.repeat(np.arange(len(faults)), sizes)
        at = np.repeat(self._first[analysis][which] - (np.cumsum(sizes) - sizes), sizes) + np.arange(
            len(edit)
        )
        side = on[edit, self._column[analysis][at]].astype(int) if self._count else np.zeros(len(edit), int)
        return edit, self._slots[analysis][at], self._rows[analysis][at, side]


def damaged(circuit: Circuit, damage: Damage) -> Circuit:
    """The circuit with a fault written into its branches, to be solved or exported by itself."""
    branches = []
    for branch in circuit.branches:
        change = damage.changes.get(branch.id)
        branches.append(_changed(branch, change) if change else branch)
    for number, (a, b, impedance) in enumerate(damage.bridges):
        branches.append(
            Branch(f"fault.{number}", a, b, BranchKind.RESISTOR, "", "fault", {"": impedance}, "")
        )
    return replace(circuit, branches=tuple(branches), like=circuit.topology)


def _changed(branch: Branch, change: Change) -> Branch:
    """A branch with a fault's change written into it."""
    control = None if change.forced is not None else branch.control
    if control and change.commanded:
        control = replace(control, signal="")
    return replace(branch, states=change.states_of(branch), start=change.start_of(branch), control=control)
