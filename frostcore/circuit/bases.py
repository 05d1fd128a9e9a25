"""The solved circuits that edits start from, with what one slot's change adds to a solution, and the pairs
of rows that are looked at.

A slot is a branch that may be changed, or a pair of rows that may be bridged. Its column is A⁻¹e_k, or A⁻¹w
with w = e_a − e_b; its port quantity q is a closed branch's current, an open or added branch's volts. What
the columns are for is told in :mod:`frostcore.circuit.lowrank`.
"""

from collections.abc import Sequence
from concurrent.futures import Executor
from functools import cached_property

import numpy as np

from frostcore.circuit.element import Analysis
from frostcore.circuit.solver import Array, Places, Solved, between, injected


class Bases:
    """The solved circuits (S) that edits start from, with the columns C of all slots that an edit may
    change.

    Slots are counted anew here: R of them, and one more, of number ``none``, that changes nothing.
    """

    def __init__(
        self, solved: Sequence[Solved], branches: Places, bridges: Places, pool: Executor | None = None
    ) -> None:
        """``branches`` (their places) and ``bridges`` (P×2 rows) are the slots.

        With a pool the columns are solved in it, beside the caller's own work: SuperLU lets go of the
        interpreter.
        """
        first = solved[0]
        self.solved, self.size, self._nodes = tuple(solved), first.size, first.nodes
        self._kind = first.x.dtype
        self._bridges = bridges.tolist()
        self._branches, self.none = len(branches), len(branches) + len(bridges)
        self.x = np.stack([each.x for each in solved])
        self._number(first, branches, bridges)
        self._begin(branches, bridges, pool)
        self._look(branches)

    def _number(self, first: Solved, branches: Places, bridges: Places) -> None:
        """Where each slot is, the two rows it lies between, and the row of its own current."""
        count, every = self._branches, self.size - self._nodes
        self.place = np.full(every + len(bridges), self.none)
        """Branch, or m + bridge -> slot."""
        self.place[branches] = np.arange(count)
        self.place[every:] = np.arange(count, self.none)
        self.ends = np.full((2, self.none + 1), self.size)
        self.ends[:, :count] = first.circuit.topology.ends[branches].T
        self.ends[:, count : self.none] = bridges.T
        self.own = np.full(self.none + 1, self.size)
        self.own[:count] = self._nodes + branches

    def _begin(self, branches: Places, bridges: Places, pool: Executor | None) -> None:
        """Begin to solve the columns."""
        right = np.zeros((self.size, self.none), self._kind, order="F")
        right[self._nodes + branches, np.arange(self._branches)] = 1
        right[:, self._branches :] = injected(bridges, self.size, self._kind)
        self._right = right
        self._columns = np.zeros((len(self.solved), self.none + 1, self.size + 1), self._kind)
        self._largest = np.zeros(self._columns.shape[:2])
        self._pending = [
            (scene, pool.submit(self._solve, scene) if pool else None) for scene in range(len(self.solved))
        ]

    def _look(self, branches: Places) -> None:
        """The slots' own rows in the healthy circuits, and what their ports show there."""
        self.healthy = np.zeros((len(self.solved), self.none + 1, 3), self._kind)
        """Each slot's own row (S × R+1 × 3); a bridge is open before it is there."""
        rows = np.stack([each.rows[branches] for each in self.solved])
        self.healthy[:, : self._branches] = rows if np.iscomplexobj(self.x) else rows.real
        self.closed = self.healthy[:, :, 0] != 0
        self._plus = np.where(self.closed, self.own, self.ends[0])
        self._minus = np.where(self.closed, self.size, self.ends[1])
        self.port = np.take_along_axis(self.x, self._plus, 1) - np.take_along_axis(self.x, self._minus, 1)
        """q of the healthy circuits (S × R+1); the reference's row is zero, so a current is its own row
        less nothing."""

    def _solve(self, scene: int) -> None:
        self._columns[scene, : self.none, : self.size] = self.solved[scene].solve(self._right).T
        if self.solved[scene].right.any() or self.solved[scene].circuit.stirred:  # else no edit has any volts
            self._largest[scene] = np.abs(self._columns[scene]).max(axis=1)

    @property
    def largest(self) -> Array:
        """The largest entry of each column (S × R+1)."""
        self._wait()
        return self._largest

    @property
    def columns(self) -> Array:
        """C as rows (S × R+1 × N+1)."""
        self._wait()
        return self._columns

    def _wait(self) -> None:
        """Until all columns are there; who waits lends the pool a hand with what it has not begun."""
        while self._pending:
            scene, future = self._pending.pop()
            if future is None or future.cancel():
                self._solve(scene)
            else:
                future.result()

    def ports(self, scene: Places, slot: Places, column: Places) -> Array:
        """H: the port quantity at ``slot`` in the column of the slot ``column``."""
        at, flat = scene * (self.none + 1), self.columns.ravel()
        start = (at + column) * (self.size + 1)
        return flat.take(start + self._plus.ravel().take(at + slot)) - flat.take(
            start + self._minus.ravel().take(at + slot)
        )

    @property
    def reciprocal(self) -> bool:
        """Whether a volt here for an ampere there is a volt there for an ampere here."""
        return not (self.solved[0].circuit.couplings and self.solved[0].analysis is Analysis.DC)

    def received(self, ends: Places) -> Array:
        """What every slot's port shows of an ampere between each pair of rows (S×P×2): S × R+1 × P."""
        found = np.empty((len(self.solved), self.none + 1, ends.shape[1]), self.x.dtype)
        for scene, solved in enumerate(self.solved):
            y = solved.injections(ends[scene])
            found[scene] = y.take(self._plus[scene], axis=0) - y.take(self._minus[scene], axis=0)
        return found

    def seen(self, ends: Places) -> Array:
        """wᵀA⁻¹w of pairs of rows in each circuit (S×P×2): S×P.

        What is bridged too is known already.
        """
        known = {tuple(pair): slot for slot, pair in enumerate(self._bridges, self._branches)}
        found = np.empty(ends.shape[:2], self.x.dtype)
        for scene, solved in enumerate(self.solved):
            pairs = [tuple(pair) for pair in ends[scene].tolist()]
            slots = np.array([known.get(pair, known.get(pair[::-1], self.none)) for pair in pairs], int)
            new = slots == self.none
            found[scene] = self.ports(np.full(len(slots), scene), slots, slots)
            if new.any():
                found[scene, new] = between(solved.injections(ends[scene][new]), ends[scene][new])
        return found


class Ports:
    """Pairs of rows looked at in every circuit (S×P×2): what the solution and each slot's column give
    across them."""

    def __init__(self, bases: Bases, ends: Places) -> None:
        self.bases, self.ends = bases, ends
        self.plain = np.stack(
            [x.take(a) - x.take(b) for x, (a, b) in zip(bases.x, ends.transpose(0, 2, 1), strict=True)]
        )
        self.across = np.stack(
            [
                columns.take(a, axis=1) - columns.take(b, axis=1)
                for columns, (a, b) in zip(bases.columns, ends.transpose(0, 2, 1), strict=True)
            ]
        )

    @cached_property
    def received(self) -> Array:
        """What every slot's port shows of an ampere between each pair: what its column gives across them,
        where the circuits are reciprocal."""
        return self.across if self.bases.reciprocal else self.bases.received(self.ends)

    @cached_property
    def seen(self) -> Array:
        """The impedance each pair shows in each healthy circuit (S×P)."""
        return self.bases.seen(self.ends)
