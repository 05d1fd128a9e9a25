"""Which state every branch is in: logic, thermostats and motors iterated with the solved circuit to a
fixed point.

The healthy unit starts from everything off, as when it is plugged in; faults start from where it settles
(:mod:`frostcore.circuit.faulted`). An element that keeps changing its mind after ``ROUNDS`` rounds is
held off and named.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from frostcore.circuit.element import Analysis, Circuit, Control, Impedance, Sense, Wave
from frostcore.circuit.solver import Array, Flags, Places, Solved, rows_of

Levels = npt.NDArray[np.int8]
"""How controls stand: ``OFF``, ``ON`` or ``TRIPPED``."""

OFF, ON, TRIPPED = np.int8(0), np.int8(1), np.int8(2)
_NEVER = 1000
"""Above every rank."""

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
    tripped: tuple[str, ...] = ()
    """What has tripped, in words."""

    kept: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)
    """What is worked out of it once by others."""

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

    @property
    def wave(self) -> Wave | None:
        """The part of each wave that passes where an output chops it; None where none does."""
        return next((self.circuit.branches[place].wave for place in self._chopping), None)

    @property
    def _chopping(self) -> list[int]:
        """The outputs that chop: on, and by their own control."""
        return [
            place
            for place, branch in enumerate(self.circuit.branches)
            if branch.wave and branch.control and self.states[place] == branch.control.on
        ]

    @cached_property
    def blocked(self) -> "Settled | None":
        """The same moment later in the wave, while what chops it blocks; None where nothing does."""
        if not self._chopping:
            return None
        states = list(self.states)
        for place in self._chopping:
            control = self.circuit.branches[place].control
            states[place] = control.off if control else states[place]
        ac = Solved(self.circuit, Analysis.AC, rows_of(self.circuit, states, Analysis.AC))
        return replace(self, states=tuple(states), solved=self.solved | {Analysis.AC: ac}, kept={})

    def amperes(self, branch: str, analysis: Analysis) -> complex:
        """The current through a branch, from its node a to its node b."""
        solved = self.solved[analysis]
        return complex(solved.x[solved.nodes + self.circuit.branch_index[branch]])

    def impedance(self, branch: int) -> Impedance | None:
        """The impedance of a branch as it settled."""
        return self.circuit.branches[branch].states[self.states[branch]]


def analyses(circuit: Circuit) -> tuple[Analysis, ...]:
    """What is worth solving: with the plug out there is nothing to drive either circuit, and ohms are
    measured with DC."""
    return BOTH if circuit.live else (Analysis.DC,)


def settle(circuit: Circuit, like: Settled | None = None) -> Settled:
    """The healthy unit's fixed point, found from everything off; or from how ``like``, a circuit of the same
    branches, has settled."""
    states = list(like.states) if like else [branch.start for branch in circuit.branches]
    rows = {analysis: rows_of(circuit, states, analysis) for analysis in analyses(circuit)}
    solved = {analysis: Solved(circuit, analysis, each.copy()) for analysis, each in rows.items()}
    if not circuit.chooses:
        return Settled(circuit, tuple(states), (), solved)
    logic = Logic.of(circuit)
    start = logic.start if like is None else logic.levels_of(states)
    standing, alone = ControlStates(start.copy()), np.zeros(1, int)
    for _ in range(2 * ROUNDS):
        wanted = logic.wanted(logic.look(solved), standing.on, logic.commanded, alone)
        differs = standing.take(logic, wanted)
        changed = np.flatnonzero((differs if differs.any() else standing.try_again(logic))[0])
        if not len(changed):
            break
        for analysis in solved:
            new = logic.rows[analysis][0, changed, standing.on[0, changed]]
            if (rows[analysis][logic.places[changed]] != new).any():
                rows[analysis][logic.places[changed]] = new
                solved[analysis] = Solved(circuit, analysis, rows[analysis].copy())
    for column, level in enumerate(standing.on[0]):
        states[logic.places[column]] = logic.state(column, level)
    unsettled, tripped = standing.unsettled(logic).get(0, ()), standing.tripped(logic).get(0, ())
    return Settled(circuit, tuple(states), unsettled, solved, tripped, known_logic=logic)


class Logic:
    """What chooses the states of several circuits of one topology: their controls (C), what each senses,
    and when it is on.

    Whatever is on stands by levels: 0 off, 1 on, 2 tripped.
    """

    def __init__(
        self, circuit: Circuit, start: Levels, commanded: Flags, limits: Array, rows: dict[Analysis, Array]
    ) -> None:
        """Use :meth:`of` or :meth:`stack`.

        ``limits`` are each sense's rises and holds (S × 2 × senses).
        """
        self.circuit = circuit
        self.start, self.commanded = start, commanded
        """S×C."""
        self.rows, self._limits = rows, limits
        """Each control's rows by level (S×C×3×3)."""
        self.places = np.array(
            [place for place, branch in enumerate(circuit.branches) if branch.control], int
        )
        self.controls = [branch.control for branch in circuit.branches if branch.control]
        self.restarts = np.array([control.restarts for control in self.controls], bool)
        self.rank = np.array([control.trip.rank if control.trip else 0 for control in self.controls], int)
        self.returns = np.array(
            [control.trip is not None and control.trip.resets is not None for control in self.controls], bool
        )
        self.slow = np.array([bool(control.trip and control.trip.warms) for control in self.controls], bool)
        senses = _senses(self.controls)
        owner = np.array([column for column, _, _ in senses], int)
        trips = np.array([trip for _, trip, _ in senses], bool)
        self._plain, self._trips = np.flatnonzero(~trips), np.flatnonzero(trips)
        self._owner = owner[self._plain]
        self._owners, self._starts = np.unique(self._owner, return_index=True)
        self._trippers, self._trip_starts = np.unique(owner[self._trips], return_index=True)
        self._ac = np.array([sense.analysis is Analysis.AC for _, _, sense in senses], bool)
        ends = np.array([self._ends(sense) for _, _, sense in senses], int).reshape(-1, 2)
        self.sensed = {Analysis.AC: ends[self._ac], Analysis.DC: ends[~self._ac]}
        """The two rows each sense looks across (×2)."""

    @classmethod
    def of(cls, circuit: Circuit) -> "Logic":
        """One circuit's."""
        controlled = [(branch, branch.control) for branch in circuit.branches if branch.control]
        start = [control.levels.index(branch.start) for branch, control in controlled]
        commanded = [not control.signal or control.signal in circuit.signals for _, control in controlled]
        senses = [sense for _, _, sense in _senses([control for _, control in controlled])]
        omega = circuit.omega
        rows = {
            analysis: (
                np.array(
                    [
                        [branch.row(state, analysis, omega) for state in control.levels]
                        for branch, control in controlled
                    ],
                    complex,
                ).reshape(1, -1, 3, 3)
            )
            for analysis in BOTH
        }
        limits = np.array([[[getattr(sense, name) for sense in senses] for name in ("rises", "holds")]])
        return cls(circuit, np.array([start], np.int8), np.array([commanded], bool), limits, rows)

    @classmethod
    def stack(cls, logics: "Sequence[Logic]") -> "Logic":
        """Several circuits' together."""
        start, commanded, limits = (
            np.concatenate([getattr(each, name) for each in logics])
            for name in ("start", "commanded", "_limits")
        )
        return cls(
            logics[0].circuit,
            start,
            commanded,
            limits,
            {analysis: np.concatenate([each.rows[analysis] for each in logics]) for analysis in BOTH},
        )

    def _ends(self, sense: Sense) -> tuple[int, int]:
        topology = self.circuit.topology
        if sense.branch:
            row = len(topology.nodes) + topology.branch_index[sense.branch]
            return (topology.size, row) if sense.backwards else (row, topology.size)
        a, b = topology.rows_of([sense.a, sense.b])
        return int(a), int(b)

    def levels_of(self, states: Sequence[str]) -> Levels:
        """The levels at which controls stand that are in these states (1×C)."""
        pairs = zip(self.places, self.controls, strict=True)
        return np.array([[control.levels.index(states[place]) for place, control in pairs]], self.start.dtype)

    def state(self, column: int, level: int) -> str:
        """The name of a control's state."""
        return self.controls[column].levels[level]

    def look(self, solved: dict[Analysis, Solved]) -> dict[Analysis, Array]:
        """What the senses see in one circuit's solutions (1 × senses of each analysis)."""
        return {
            analysis: (solved[analysis].x[ends[:, 0]] - solved[analysis].x[ends[:, 1]])[None, :]
            for analysis, ends in self.sensed.items()
            if analysis in solved
        }

    def wanted(
        self, values: dict[Analysis, Array], on: Levels, commanded: Flags, circuit: Places
    ) -> "Wanted":
        """How the controls should stand (F×C), from what the senses of each analysis see (F × senses), what
        is commanded (F×C), and in which circuit (F)."""
        seen = np.empty((len(on), len(self._ac)))
        if self._ac.any():
            seen[:, self._ac] = np.abs(values[Analysis.AC])
        seen[:, ~self._ac] = values[Analysis.DC].real
        every, trips = np.ones(on.shape, bool), np.zeros(on.shape, bool)
        if len(self._plain):
            rises, holds = self._limits[:, :, self._plain][circuit].transpose(1, 0, 2)
            met = seen[:, self._plain] >= np.where(on[:, self._owner] == ON, holds, rises)
            every[:, self._owners] = np.logical_and.reduceat(met, self._starts, axis=1)
        if len(self._trips):
            over = seen[:, self._trips] >= self._limits[:, 0, self._trips][circuit]
            trips[:, self._trippers] = np.logical_or.reduceat(over, self._trip_starts, axis=1)
        wanted = (every & commanded).astype(np.int8)
        return Wanted(np.where((on == TRIPPED) & every, TRIPPED, wanted), trips & (on == ON))


def _senses(controls: Sequence[Control]) -> list[tuple[int, bool, Sense]]:
    """Every sense of some controls: the control's column, whether it is what trips it, the sense."""
    return [
        (column, tripping, sense)
        for column, control in enumerate(controls)
        for tripping, senses in ((False, control.senses), (True, control.trip.senses if control.trip else ()))
        for sense in senses
    ]


@dataclass(frozen=True)
class Wanted:
    """How controls should stand, and which of those that are on would trip (F×C each)."""

    levels: Levels
    trips: Flags


class ControlStates:
    """How the controls of F circuits stand (F×C, by levels), and which of them have changed their minds too
    often and are held off."""

    def __init__(self, on: Levels, forced: Flags | None = None) -> None:
        self.on, self._held = on, np.zeros(on.shape, bool)
        self._fixed = np.zeros(on.shape, bool) if forced is None else forced.copy()
        self._turns = np.zeros(on.shape, np.int8)
        self._tried = np.zeros(on.shape, bool)

    def try_again(self, logic: Logic) -> Flags:
        """Put on again, once, whatever has tripped and comes back by itself (F×C, what that changes).

        What tripped on the way only, as the fault came about, stays on then.
        """
        again = (self.on == TRIPPED) & logic.returns & ~self._fixed & ~self._tried
        self._tried |= again
        self.on[again] = ON
        return again

    def take(self, logic: Logic, wanted: Wanted, circuits: Places | slice = slice(None)) -> Flags:
        """Take what is wanted of some of the circuits; returns what changed.

        What trips by its warmth watches what the rest settles on, not the first moment of a start.
        """
        on, fixed = self.on[circuits], self._fixed[circuits]
        levels, differs = wanted.levels, (wanted.levels != on) & ~fixed
        trips = wanted.trips & ~fixed & ~(logic.slow & differs.any(axis=1, keepdims=True))
        if trips.any():
            first = np.where(trips, logic.rank, _NEVER).min(axis=1, keepdims=True)
            trips &= logic.rank == first
            levels, differs = np.where(trips, TRIPPED, levels), differs | trips
        turns = self._turns[circuits] + differs
        stubborn = differs & (turns > ROUNDS // 3)
        self._turns[circuits] = turns
        self._held[circuits] |= stubborn
        self._fixed[circuits] |= stubborn
        self.on[circuits] = np.where(differs, np.where(stubborn, OFF, levels), on)
        return differs

    def unsettled(self, logic: Logic) -> dict[int, tuple[str, ...]]:
        """The names of what goes on and off for ever in each circuit where something does: what was held
        off, and what trips and comes back by itself."""
        return self._named(logic, self._held | ((self.on == TRIPPED) & ~self._fixed & logic.returns))

    def tripped(self, logic: Logic) -> dict[int, tuple[str, ...]]:
        """What has tripped in each circuit where something has, in words."""
        words = [item.trip.words if item.trip else "" for item in logic.controls]
        return self._named(logic, (self.on == TRIPPED) & ~self._fixed, words)

    @staticmethod
    def _named(logic: Logic, flags: Flags, words: Sequence[str] = ()) -> dict[int, tuple[str, ...]]:
        words = words or [logic.circuit.branches[place].name for place in logic.places]
        return {
            int(circuit): tuple(words[column] for column in np.flatnonzero(flags[circuit]).tolist())
            for circuit in np.flatnonzero(flags.any(axis=1))
        }
