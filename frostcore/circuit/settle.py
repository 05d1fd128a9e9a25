"""Which state every branch is in: logic, thermostats and motors iterated with the solved circuit to a fixed point.

The healthy unit starts from everything off, as when it is plugged in. A fault starts from the healthy unit's settled state, but motors
that must start are tried from standstill. An element that keeps changing its mind after ``ROUNDS`` rounds is held off and named.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from scipy.sparse.linalg import spsolve

from frostcore.circuit.element import Analysis, Branch, BranchKind, Circuit, Impedance, Sense, States
from frostcore.circuit.solver import Arranged, Bridge, Edit, Edited, Row, Solved, assemble, row_of

ROUNDS = 16


@dataclass(frozen=True)
class Change:
    """What a fault does to one branch: new states, a state it is forced into, a command that is always there."""

    states: States | None = None
    forced: str | None = None
    commanded: bool = False


@dataclass(frozen=True)
class Damage:
    """What a fault does to a circuit: changes by branch id, and impedances added between nodes (in both analyses)."""

    changes: dict[str, Change] = field(default_factory=dict)
    bridges: tuple[tuple[str, str, Impedance], ...] = ()


HEALTHY = Damage()
NOTHING = np.zeros(0, bool)
BOTH = (Analysis.AC, Analysis.DC)


@dataclass(frozen=True)
class Settled:
    """A circuit in its settled states: state names by branch, the branches that never settled, and both analyses solved."""

    circuit: Circuit
    states: tuple[str, ...]
    unsettled: tuple[str, ...]
    solved: dict[Analysis, Solved]

    @cached_property
    def rows(self) -> dict[Analysis, list[Row]]:
        """Every branch's row as it settled, in each analysis."""
        return {analysis: _rows(self.circuit, self.states, analysis) for analysis in BOTH}

    def impedance(self, branch: int) -> Impedance | None:
        """The impedance of a branch as it settled."""
        return self.circuit.branches[branch].states[self.states[branch]]


def analyses(circuit: Circuit) -> tuple[Analysis, ...]:
    """What is worth solving: with the plug out there is nothing to drive either circuit, and ohms are measured with DC."""
    return (Analysis.AC, Analysis.DC) if circuit.live else (Analysis.DC,)


def settle(circuit: Circuit) -> Settled:
    """The healthy unit's fixed point, found from everything off."""
    states = [branch.start for branch in circuit.branches]
    controlled = [place for place, branch in enumerate(circuit.branches) if branch.control]
    turns = dict.fromkeys(controlled, 0)
    rows = {analysis: _rows(circuit, states, analysis) for analysis in BOTH}
    logic, solution = _Logic(circuit, states), dict[Analysis, np.ndarray]()
    for _ in range(ROUNDS if circuit.live else 0):
        for analysis in BOTH:
            if analysis not in solution:
                matrix, right = assemble(circuit, analysis, rows[analysis])
                solution[analysis] = np.append(spsolve(matrix, right), 0)
        on = np.array([[states[place] == control.on for place, control in zip(logic.places, logic.controls, strict=True)]], bool)
        looked = {analysis: solution[analysis][None, logic.sensed[analysis]] for analysis in BOTH}
        should = logic.wanted(looked, on, logic.commanded[None, :])[0]
        wanted = {place: control.on if is_on else control.off for place, control, is_on in zip(logic.places, logic.controls, should, strict=True)}
        changed = [place for place in controlled if wanted[place] != states[place]]
        if any(not circuit.branches[place].control.latched for place in changed):
            # An overload is slow: it watches what the rest settles on, not the first moment of a start.
            changed = [place for place in changed if not circuit.branches[place].control.latched]
        if not changed:
            break
        for place in changed:
            states[place] = wanted[place]
            turns[place] += 1
            if turns[place] > ROUNDS // 3:
                states[place] = circuit.branches[place].control.off
                controlled.remove(place)
            for analysis in BOTH:
                row = row_of(circuit.branches[place].states[states[place]], analysis, circuit.omega)
                if row != rows[analysis][place]:
                    rows[analysis][place] = row
                    solution.pop(analysis, None)
    unsettled = tuple(circuit.branches[place].name for place, count in turns.items() if count > ROUNDS // 3)
    return Settled(circuit, tuple(states), unsettled, {analysis: Solved(circuit, analysis, rows[analysis]) for analysis in analyses(circuit)})


def _rows(circuit: Circuit, states: Sequence[str], analysis: Analysis) -> list[Row]:
    return [row_of(branch.states[state], analysis, circuit.omega) for branch, state in zip(circuit.branches, states, strict=True)]


def _at(circuit: Circuit, node: str) -> int:
    """A node's row; the reference, and a node nothing is connected to, sit on the zero after the last."""
    return circuit.node_index.get(node, -1)


@dataclass(frozen=True)
class SettledFaults:
    """Many faults of one circuit, settled: the edits of each in each analysis, and the names of what never settled in each."""

    edits: dict[Analysis, list[Edit]]
    unsettled: list[tuple[str, ...]]
    _states: Callable[[int], tuple[str, ...]]
    _bridges: dict[Analysis, tuple[tuple[int, int], ...]]
    _arranged: dict[Analysis, Arranged] = field(default_factory=dict)

    def edited(self, base: Settled, analysis: Analysis) -> Edited:
        """The solutions of all faults in one analysis, of this circuit or of the same one with other connectors pulled."""
        if analysis not in self._arranged:
            self._arranged[analysis] = Arranged(base.solved[analysis], self.edits[analysis], self._bridges[analysis])
        return Edited(base.solved[analysis], self._arranged[analysis])

    def states(self, fault: int) -> tuple[str, ...]:
        """The state of every branch under one fault."""
        return self._states(fault)


class _Logic:
    """All controls of a circuit as arrays, so that one round of logic is one comparison for all faults (F) and controls (C)."""

    def __init__(self, circuit: Circuit, states: Sequence[str]) -> None:
        self.circuit = circuit
        self.places = [place for place, branch in enumerate(circuit.branches) if branch.control]
        self.controls = [circuit.branches[place].control for place in self.places]
        self.column = {place: column for column, place in enumerate(self.places)}
        self.base_on = np.array([states[place] == control.on for place, control in zip(self.places, self.controls, strict=True)], bool)
        self.start_on = np.array([circuit.branches[place].start == control.on for place, control in zip(self.places, self.controls, strict=True)], bool)
        self.restarts = np.array([control.restarts for control in self.controls], bool)
        self.latching = np.array([control.latched for control in self.controls], bool)
        self.commanded = np.array([not control.signal or control.signal in circuit.signals for control in self.controls], bool)
        senses = [(column, sense) for column, control in enumerate(self.controls) for sense in control.senses]
        self.owner = np.array([column for column, _ in senses], int)
        self.rises, self.holds = (np.array([getattr(sense, name) for _, sense in senses]) for name in ("rises", "holds"))
        self.ac = np.array([sense.analysis is Analysis.AC for _, sense in senses], bool)
        ends = np.array([self._ends(sense) for _, sense in senses], int).reshape(-1, 2)
        self.sensed = {Analysis.AC: ends[self.ac].ravel(), Analysis.DC: ends[~self.ac].ravel()}

        omega = circuit.omega
        self.rows = {
            analysis: [
                tuple(row_of(circuit.branches[place].states[state], analysis, omega) for state in (control.off, control.on))
                for place, control in zip(self.places, self.controls, strict=True)
            ]
            for analysis in BOTH
        }

    def _ends(self, sense: Sense) -> tuple[int, int]:
        if sense.branch:
            return len(self.circuit.nodes) + self.circuit.branch_index[sense.branch], -1
        return _at(self.circuit, sense.a), _at(self.circuit, sense.b)

    def wanted(self, solutions: dict[Analysis, np.ndarray], on: np.ndarray, commanded: np.ndarray) -> np.ndarray:
        """Which controls should be on (F×C), from the solutions at the sensed rows and what is commanded (F×C)."""
        values = np.empty((len(on), len(self.owner)))
        ac, dc = solutions[Analysis.AC], solutions[Analysis.DC]
        values[:, self.ac] = np.abs(ac[:, 0::2] - ac[:, 1::2])
        values[:, ~self.ac] = (dc[:, 0::2] - dc[:, 1::2]).real
        met = values >= np.where(on[:, self.owner], self.holds, self.rises)
        tripped = values >= self.rises
        every, some = np.ones(on.shape, bool), np.zeros(on.shape, bool)
        for number, column in enumerate(self.owner):
            every[:, column] &= met[:, number]
            some[:, column] |= tripped[:, number]
        return np.where(self.latching, on & ~some, every & commanded)


def settle_faults(base: Settled, damages: Sequence[Damage]) -> SettledFaults:
    """The fixed point of every fault (F of them), all solved together each round.

    Only branches that differ from the healthy unit's are edited.
    """
    circuit = base.circuit
    bridges = [_bridges(circuit, damage) for damage in damages]
    joined = {analysis: tuple(dict.fromkeys((bridge.a, bridge.b) for found in bridges for bridge in found[analysis])) for analysis in BOTH}
    changes = [{circuit.branch_index[identifier]: change for identifier, change in damage.changes.items()} for damage in damages]
    if not circuit.live:
        # Nothing commands or feeds anything: the fault's own rows are all that changes, whatever is pulled.
        edits = {Analysis.DC: [_still_edit(base, changed, added[Analysis.DC]) for changed, added in zip(changes, bridges, strict=True)]}
        return SettledFaults(edits, [()] * len(damages), lambda fault: _states(base, None, changes[fault], NOTHING), joined)
    logic = _Logic(circuit, base.states)
    on = np.tile(np.where(logic.restarts, logic.start_on, logic.base_on), (len(damages), 1))
    forced, commanded = np.zeros(on.shape, bool), np.tile(logic.commanded, (len(damages), 1))
    for fault, changed in enumerate(changes):
        for place, change in changed.items():
            if place in logic.column:
                forced[fault, logic.column[place]] = change.forced is not None
                commanded[fault, logic.column[place]] |= change.commanded
    turns, held = np.zeros(on.shape, int), np.zeros(on.shape, bool)
    edits = {analysis: [Edit()] * len(damages) for analysis in BOTH}
    sensed = {analysis: np.tile(base.solved[analysis].x[logic.sensed[analysis]], (len(damages), 1)) for analysis in BOTH}
    active = np.arange(len(damages))
    own = [_FaultRows(logic, changed, added) for changed, added in zip(changes, bridges, strict=True)]
    for _ in range(ROUNDS):
        different = _columns(on != logic.base_on)
        for analysis in BOTH:
            anew = []
            for fault in active.tolist():
                edit = own[fault].edit(analysis, different[fault], on[fault])
                if edit != edits[analysis][fault]:  # what logic changed in the other circuit leaves this one as it was
                    edits[analysis][fault] = edit
                    anew.append(fault)
            if anew:
                arranged = Arranged(base.solved[analysis], [edits[analysis][fault] for fault in anew], joined[analysis])
                sensed[analysis][anew] = Edited(base.solved[analysis], arranged, refined=False).at(logic.sensed[analysis])
        wanted = logic.wanted({analysis: sensed[analysis][active] for analysis in BOTH}, on[active], commanded[active])
        differs = (wanted != on[active]) & ~forced[active] & ~held[active]
        differs &= ~logic.latching | ~(differs & ~logic.latching).any(axis=1, keepdims=True)
        turns[active] += differs
        stubborn = differs & (turns[active] > ROUNDS // 3)
        held[active] |= stubborn
        on[active] = np.where(differs, wanted & ~stubborn, on[active])
        active = active[differs.any(axis=1)]
        if not len(active):
            break
    unsettled = [tuple(circuit.branches[logic.places[column]].name for column in np.flatnonzero(row)) for row in held]
    return SettledFaults(edits, unsettled, lambda fault: _states(base, logic, changes[fault], on[fault]), joined)


def with_fault(base: Settled, damage: Damage) -> Settled:
    """One fault written into the circuit itself and solved anew in the states it settles in: what a deck shows, and a check on the edits."""
    settled = settle_faults(base, [damage])
    broken = damaged(base.circuit, damage)
    states = settled.states(0) + ("",) * len(damage.bridges)
    return Settled(broken, states, settled.unsettled[0], {analysis: Solved(broken, analysis, _rows(broken, states, analysis)) for analysis in analyses(broken)})


def _states(base: Settled, logic: _Logic | None, changed: dict[int, Change], on: np.ndarray) -> tuple[str, ...]:
    states = list(base.states)
    if logic is not None:
        for column, place in enumerate(logic.places):
            control = logic.controls[column]
            states[place] = control.on if on[column] else control.off
    for place, change in changed.items():
        if change.forced is not None:
            states[place] = change.forced
    return tuple(states)


_NO_BRIDGES: dict[Analysis, tuple[Bridge, ...]] = dict.fromkeys(BOTH, ())


def _bridges(circuit: Circuit, damage: Damage) -> dict[Analysis, tuple[Bridge, ...]]:
    if not damage.bridges:
        return _NO_BRIDGES
    found: dict[Analysis, list[Bridge]] = {analysis: [] for analysis in BOTH}
    for a, b, impedance in damage.bridges:
        for analysis in BOTH:
            z = impedance.at(analysis, circuit.omega)
            if z is not None:
                found[analysis].append(Bridge(circuit.node_index[a], circuit.node_index[b], z, impedance.emf(analysis)))
    return {analysis: tuple(items) for analysis, items in found.items()}


def _columns(different: np.ndarray) -> list[list[int]]:
    """The columns that are true in each row."""
    found: list[list[int]] = [[] for _ in range(len(different))]
    for row, column in zip(*(part.tolist() for part in np.nonzero(different)), strict=True):
        found[row].append(column)
    return found


class _FaultRows:
    """One fault's own rows in both analyses: those that stand whatever the logic does, and those its controls choose between."""

    def __init__(self, logic: _Logic, changed: dict[int, Change], bridges: dict[Analysis, tuple[Bridge, ...]]) -> None:
        circuit, self._logic, self._bridges = logic.circuit, logic, bridges
        self._fixed: dict[Analysis, list[tuple[int, Row]]] = {analysis: [] for analysis in BOTH}
        self._chosen: dict[Analysis, list[tuple[int, int, tuple[Row, Row]]]] = {analysis: [] for analysis in BOTH}
        self._columns = set()
        for place, change in changed.items():
            branch = circuit.branches[place]
            states = branch.states if change.states is None else change.states
            column = logic.column.get(place)
            if column is not None:
                self._columns.add(column)
            for analysis in BOTH:
                if change.forced is None and column is not None:
                    pair = tuple(row_of(states[state], analysis, circuit.omega) for state in (branch.control.off, branch.control.on))
                    self._chosen[analysis].append((place, column, pair))
                else:
                    state = branch.start if change.forced is None else change.forced
                    self._fixed[analysis].append((place, row_of(states[state], analysis, circuit.omega)))

    def edit(self, analysis: Analysis, different: list[int], on: np.ndarray) -> Edit:
        """The edit with the controls standing as ``on`` says, ``different`` being those that stand otherwise than in the healthy unit."""
        logic = self._logic
        rows = [
            *self._fixed[analysis],
            *((place, pair[int(on[column])]) for place, column, pair in self._chosen[analysis]),
            *((logic.places[column], logic.rows[analysis][column][int(on[column])]) for column in different if column not in self._columns),
        ]
        return Edit(tuple(rows), self._bridges[analysis])


def _still_edit(base: Settled, changed: dict[int, Change], bridges: tuple[Bridge, ...]) -> Edit:
    """A fault's rows with the plug out, where every branch stands as it started."""
    rows = []
    for place, change in changed.items():
        branch = base.circuit.branches[place]
        states = branch.states if change.states is None else change.states
        rows.append((place, row_of(states[base.states[place] if change.forced is None else change.forced], Analysis.DC, base.circuit.omega)))
    return Edit(tuple(rows), bridges)


def damaged(circuit: Circuit, damage: Damage) -> Circuit:
    """The circuit with a fault written into its branches, to be solved or exported by itself."""
    branches = []
    for branch in circuit.branches:
        change = damage.changes.get(branch.id)
        branches.append(_changed(branch, change) if change else branch)
    for number, (a, b, impedance) in enumerate(damage.bridges):
        branches.append(Branch(f"fault.{number}", a, b, BranchKind.RESISTOR, "", "fault", {"": impedance}, ""))
    return replace(circuit, branches=tuple(branches))


def _changed(branch: Branch, change: Change) -> Branch:
    """A branch with a fault's change written into it."""
    control = None if change.forced is not None else branch.control
    if control and change.commanded:
        control = replace(control, signal="")
    states = branch.states if change.states is None else change.states
    return replace(branch, states=states, start=branch.start if change.forced is None else change.forced, control=control)
