"""Many faults of a unit at once, in several modes or with several connectors pulled: the state each
settles in, as edits of the healthy circuits.

A fault starts from the healthy unit's settled state, but motors that must start are tried from
standstill. Only what differs from the healthy circuit is edited; all faults of all circuits go through
each round of logic together.
"""

from collections.abc import Sequence
from concurrent.futures import Executor
from functools import cached_property

import numpy as np

from frostcore.circuit.bases import Bases, Ports
from frostcore.circuit.damage import Damage, damaged
from frostcore.circuit.element import Analysis, Wave
from frostcore.circuit.lowrank import Changes, Edited
from frostcore.circuit.settle import OFF, ON, ROUNDS, ControlStates, Levels, Logic, Settled, analyses
from frostcore.circuit.solver import Places, Solved, rows_of
from frostcore.circuit.written import Written


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

        All bases are live, or none is. With a pool, what can be solved beside the caller's own work
        is, and so is what pairs of rows that will be ``probed`` (P×2) show.
        """
        self.bases, self.per_base = tuple(bases), len(damages[0])
        self.analyses, chooses = analyses(bases[0].circuit), bases[0].circuit.chooses
        self.scene = np.repeat(np.arange(len(bases)), self.per_base)
        self._logic = logic = Logic.stack([base.logic if chooses else bases[0].logic for base in bases])
        self._written = Written(bases, damages)
        self._damages = damages
        self._base_on = np.array(
            [
                [
                    control.levels.index(base.states[place])
                    for place, control in zip(logic.places, logic.controls, strict=True)
                ]
                for base in bases
            ],
            np.int8,
        )
        self._rows = {
            analysis: np.stack([base.solved[analysis].rows for base in bases]) for analysis in self.analyses
        }
        self._own, self._forced, self._commanded = (
            self._written.flags(name) for name in ("owned", "forced", "commanded")
        )
        branches = np.unique(
            np.concatenate([logic.places if chooses else np.zeros(0, int), self._written.branches])
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
        if not self.bases[0].circuit.chooses:
            return ControlStates(self._base_on[self.scene], self._forced)
        standing = ControlStates(
            np.where(logic.restarts, logic.start, self._base_on)[self.scene], self._forced
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
            analysis: (rows[:, :, :1] != rows).any(axis=(0, 2, 3)) for analysis, rows in logic.rows.items()
        }
        active = np.arange(len(self.scene))
        stale = dict.fromkeys(self.analyses, active)
        for _ in range(2 * ROUNDS):
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
                again = standing.try_again(logic)
                active = np.flatnonzero(again.any(axis=1))
                stale = dict.fromkeys(self.analyses, active)
            if not len(active):
                break
        return standing

    def _changes(self, analysis: Analysis, faults: Places, on: Levels) -> Changes:
        """What these faults change in one analysis with their controls standing so (a row a fault).

        What stays as in the healthy circuit is left out.
        """
        scene = self.scene[faults]
        edit, slot, rows = self._written.of(analysis, faults, on)
        order, column = np.nonzero((on != self._base_on[scene]) & ~self._own[faults])
        chosen = self._logic.rows[analysis][scene[order], column, on[order, column]]
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
        return self._edited(analysis, self._standing.on)

    def _edited(self, analysis: Analysis, on: Levels) -> Edited:
        changes = self._changes(analysis, np.arange(len(self.scene)), on)
        return Edited(self.based[analysis], self.scene, changes).refine()

    @cached_property
    def wave(self) -> Wave | None:
        """The part of each wave that passes where an output chops it, None where none does in any of
        them."""
        branches = self.bases[0].circuit.branches
        chopping = [self._logic.places[column] for column in self._chopping]
        return branches[chopping[0]].wave if chopping else None

    @property
    def _chopping(self) -> Places:
        """The controls' columns that chop in any of the circuits."""
        branches = self.bases[0].circuit.branches
        columns = np.array([branches[place].wave is not None for place in self._logic.places], bool)
        live = self.bases[0].circuit.live
        chops = live and columns.any() and (self._standing.on == ON).any(axis=0)
        return np.flatnonzero(columns & chops)

    def blocked(self) -> Edited:
        """The same moment later in the wave, in AC, while what chops it by its own control blocks (F)."""
        on, columns = self._standing.on.copy(), self._chopping
        on[:, columns] = np.where(self._forced[:, columns], on[:, columns], OFF)
        return self._edited(Analysis.AC, on)

    @cached_property
    def unsettled(self) -> dict[int, tuple[str, ...]]:
        """The names of what never settles, under each fault (0 to F − 1) where something doesn't."""
        return self._standing.unsettled(self._logic)

    @cached_property
    def tripped(self) -> dict[int, tuple[str, ...]]:
        """What has tripped, in words, under each fault where something has."""
        return self._standing.tripped(self._logic)

    def states(self, fault: int) -> tuple[str, ...]:
        """The state of every branch under one fault (0 to F − 1)."""
        base, logic = self.bases[self.scene[fault]], self._logic
        states = list(base.states)
        for column, level in enumerate(self._standing.on[fault]):
            states[logic.places[column]] = logic.state(column, level)
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
        settled.tripped.get(0, ()),
    )
