"""Which state every branch is in: logic, thermostats and motors iterated with the solved circuit to a
fixed point.

The healthy unit starts from everything off, as when it is plugged in; faults start from where it settles
(:mod:`frostcore.circuit.faulted`). An element that keeps changing its mind after ``ROUNDS`` rounds is
held off and named.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from frostcore.circuit.element import Analysis, Circuit, Impedance, Sense
from frostcore.circuit.solver import Array, Flags, Places, Solved, rows_of

ROUNDS = 16
BOTH = (Analysis.AC, Analysis.DC)


@dataclass(frozen=True)
class Settled:
    """A circuit in its settled states: state names by branch, the branches that never settled, and what
    is worth solving solved."""

    circuit: Circuit
    states: tuple[str, ...]
    unsettled: tuple[str, ...]
    solved: dict[Analysis, Solved]
    known_logic: "Logic | None" = field(default=None, compare=False, repr=False)
    """Logic as it was worked out to settle the circuit, so that it need not be again."""

    @cached_property
    def logic(self) -> "Logic":
        """What chooses its states."""
        return self.known_logic or Logic.of(self.circuit)

    @cached_property
    def others(self) -> tuple[tuple[tuple[str, ...], "Settled"], ...]:
        """The same circuit in the ways it may as well stand, each with the branches that then stand
        otherwise: those nobody knows the state of, each by itself and all together."""
        free = [
            place
            for place, branch in enumerate(self.circuit.branches)
            if branch.may and self.states[place] == branch.start
        ]
        sets = [(place,) for place in free] + ([tuple(free)] if len(free) > 1 else [])
        found = []
        for chosen in sets:
            branches = list(self.circuit.branches)
            for place in chosen:
                branches[place] = replace(branches[place], start=branches[place].may, may="")
            other = replace(self.circuit, branches=tuple(branches), like=self.circuit.topology)
            found.append((tuple(branches[place].id for place in chosen), settle(other)))
        return tuple(found)

    def impedance(self, branch: int) -> Impedance | None:
        """The impedance of a branch as it settled."""
        return self.circuit.branches[branch].states[self.states[branch]]


def analyses(circuit: Circuit) -> tuple[Analysis, ...]:
    """What is worth solving: with the plug out there is nothing to drive either circuit, and ohms are
    measured with DC."""
    return BOTH if circuit.live else (Analysis.DC,)


def settle(circuit: Circuit) -> Settled:
    """The healthy unit's fixed point, found from everything off."""
    states = [branch.start for branch in circuit.branches]
    rows = {analysis: rows_of(circuit, states, analysis) for analysis in analyses(circuit)}
    solved = {analysis: Solved(circuit, analysis, each.copy()) for analysis, each in rows.items()}
    if not circuit.live:
        return Settled(circuit, tuple(states), (), solved)
    logic = Logic.of(circuit)
    standing, alone = ControlStates(logic.start_on.copy()), np.zeros(1, int)
    for _ in range(ROUNDS):
        values = {
            analysis: solved[analysis].x[ends[:, 0]] - solved[analysis].x[ends[:, 1]]
            for analysis, ends in logic.sensed.items()
        }
        wanted = logic.wanted(
            {analysis: each[None, :] for analysis, each in values.items()},
            standing.on,
            logic.commanded,
            alone,
        )
        changed = np.flatnonzero(standing.take(logic, wanted)[0])
        if not len(changed):
            break
        for analysis in BOTH:
            new = logic.rows[analysis][0, changed, standing.on[0, changed].astype(int)]
            if (rows[analysis][logic.places[changed]] != new).any():
                rows[analysis][logic.places[changed]] = new
                solved[analysis] = Solved(circuit, analysis, rows[analysis].copy())
    for column, on in enumerate(standing.on[0]):
        states[logic.places[column]] = logic.state(column, on=on)
    return Settled(circuit, tuple(states), standing.unsettled(logic).get(0, ()), solved, logic)


class Logic:
    """All controls (C) of S circuits of one topology as arrays, so that one round of logic is one
    comparison for many edits of them (F)."""

    def __init__(
        self, circuit: Circuit, start_on: Flags, commanded: Flags, limits: Array, rows: dict[Analysis, Array]
    ) -> None:
        """Use :meth:`of` or :meth:`stack`.

        ``limits`` are each sense's rises and holds (S × 2 × senses).
        """
        self.circuit = circuit
        self.start_on, self.commanded = start_on, commanded
        """S×C."""
        self.rows, self._limits = rows, limits
        """Each control's rows, off and on (S×C×2×3)."""
        self.places = np.array(
            [place for place, branch in enumerate(circuit.branches) if branch.control], int
        )
        self.controls = [branch.control for branch in circuit.branches if branch.control]
        self.restarts = np.array([control.restarts for control in self.controls], bool)
        self.latching = np.array([control.latched for control in self.controls], bool)
        senses = [(column, sense) for column, control in enumerate(self.controls) for sense in control.senses]
        self._owner = np.array([column for column, _ in senses], int)
        self._owners, self._starts = np.unique(self._owner, return_index=True)
        self._ac = np.array([sense.analysis is Analysis.AC for _, sense in senses], bool)
        ends = np.array([self._ends(sense) for _, sense in senses], int).reshape(-1, 2)
        self.sensed = {Analysis.AC: ends[self._ac], Analysis.DC: ends[~self._ac]}
        """The two rows each sense looks across (×2)."""

    @classmethod
    def of(cls, circuit: Circuit) -> "Logic":
        """One circuit's."""
        controlled = [(branch, branch.control) for branch in circuit.branches if branch.control]
        start_on = [branch.start == control.on for branch, control in controlled]
        commanded = [not control.signal or control.signal in circuit.signals for _, control in controlled]
        senses = [sense for _, control in controlled for sense in control.senses]
        omega = circuit.omega
        rows = {
            analysis: (
                np.array(
                    [
                        (branch.row(control.off, analysis, omega), branch.row(control.on, analysis, omega))
                        for branch, control in controlled
                    ],
                    complex,
                ).reshape(1, -1, 2, 3)
            )
            for analysis in BOTH
        }
        limits = np.array([[[getattr(sense, name) for sense in senses] for name in ("rises", "holds")]])
        return cls(circuit, np.array([start_on], bool), np.array([commanded], bool), limits, rows)

    @classmethod
    def stack(cls, logics: "Sequence[Logic]") -> "Logic":
        """Several circuits' together."""
        start_on, commanded, limits = (
            np.concatenate([getattr(each, name) for each in logics])
            for name in ("start_on", "commanded", "_limits")
        )
        return cls(
            logics[0].circuit,
            start_on,
            commanded,
            limits,
            {analysis: np.concatenate([each.rows[analysis] for each in logics]) for analysis in BOTH},
        )

    def _ends(self, sense: Sense) -> tuple[int, int]:
        topology = self.circuit.topology
        if sense.branch:
            return len(topology.nodes) + topology.branch_index[sense.branch], topology.size
        a, b = topology.rows_of([sense.a, sense.b])
        return int(a), int(b)

    def state(self, column: int, *, on: bool) -> str:
        """The name of a control's state."""
        control = self.controls[column]
        return control.on if on else control.off

    def wanted(self, values: dict[Analysis, Array], on: Flags, commanded: Flags, circuit: Places) -> Flags:
        """Which controls should be on (F×C), from what the senses of each analysis see (F × senses), what
        is commanded (F×C), and in which circuit (F)."""
        seen = np.empty((len(on), len(self._owner)))
        seen[:, self._ac] = np.abs(values[Analysis.AC])
        seen[:, ~self._ac] = values[Analysis.DC].real
        every, some = np.ones(on.shape, bool), np.zeros(on.shape, bool)
        if len(self._owners):
            rises, holds = self._limits[circuit].transpose(1, 0, 2)
            met = seen >= np.where(on[:, self._owner], holds, rises)
            every[:, self._owners] = np.logical_and.reduceat(met, self._starts, axis=1)
            some[:, self._owners] = np.logical_or.reduceat(seen >= rises, self._starts, axis=1)
        return np.where(self.latching, on & ~some, every & commanded)


class ControlStates:
    """How the controls of F circuits stand (F×C), and which of them have changed their minds too often
    and are held off."""

    def __init__(self, on: Flags, forced: Flags | None = None) -> None:
        self.on, self._held = on, np.zeros(on.shape, bool)
        self._fixed = np.zeros(on.shape, bool) if forced is None else forced.copy()
        self._turns = np.zeros(on.shape, np.int8)

    def take(self, logic: Logic, wanted: Flags, circuits: Places | slice = slice(None)) -> Flags:
        """Take what is wanted of some of the circuits; returns what changed.

        An overload is slow: it watches what the rest settles on, not the first moment of a start.
        """
        on = self.on[circuits]
        differs = (wanted != on) & ~self._fixed[circuits]
        differs &= ~logic.latching | ~(differs & ~logic.latching).any(axis=1, keepdims=True)
        turns = self._turns[circuits] + differs
        stubborn = differs & (turns > ROUNDS // 3)
        self._turns[circuits] = turns
        self._held[circuits] |= stubborn
        self._fixed[circuits] |= stubborn
        self.on[circuits] = np.where(differs, wanted & ~stubborn, on)
        return differs

    def unsettled(self, logic: Logic) -> dict[int, tuple[str, ...]]:
        """The names of what each circuit that does so holds off."""
        names = [logic.circuit.branches[place].name for place in logic.places]
        return {
            int(circuit): tuple(names[column] for column in np.flatnonzero(self._held[circuit]))
            for circuit in np.flatnonzero(self._held.any(axis=1))
        }
