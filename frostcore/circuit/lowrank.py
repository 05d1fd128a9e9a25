"""Many small edits of solved circuits, without solving any circuit anew.

A fault replaces branch rows or adds branches between two nodes. With C the columns A⁻¹e_k of replaced rows
and A⁻¹w, w = e_a − e_b, of added branches, the edited solution is x' = x − C μ, where μ solves the edit's
own rows put on C and x (Sherman–Morrison–Woodbury): for a replaced row r'·(x − Cμ) = E', for an added
branch wᵀ(x − Cμ) − Zμ = E.

Each changed slot is looked at through one port quantity q: a closed branch's current, an open or added
branch's volts. Its healthy row gives the other quantity, v = Z i + E or i = −E (nothing where it is open,
the current of a source of current), so that the new row α v − β i = E' becomes g q + const with g = αZ − β
for a closed and g = α for an open branch (1 for an added one). With H the port quantities of the columns,
the edit's equations are

    (d + g H) μ = g q + h        closed: d = α, h = αE − E';  open: d = β, h = βE − E';  added: d = Z, h = −E'

where d stands on the diagonal. The impedance two points show under an edit is wᵀA'⁻¹w = wᵀA⁻¹w − tᵀ (d + g
H)⁻¹ (g q), with t = Cᵀw what the columns give across them and q the port quantities of A⁻¹w. Where a
circuit is reciprocal (closed branches' rows and columns are each other's mirror images) q is t; a rail that
draws from another is a one-way street, and there it is not.

S circuits of the same topology (modes, pulled connectors) are edited together; F edits in all, each of one
of them.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.sparse import block_array, csc_matrix, diags_array
from scipy.sparse.linalg import splu

from frostcore.circuit.bases import Bases, Ports
from frostcore.circuit.element import CircuitError
from frostcore.circuit.solver import Array, Flags, Places, assemble, between, injected

_NO_PATH = (
    "A fault leaves part of this circuit without any path, not even through insulation; it can't be computed."
)
_PLAIN = 2
"""Up to so many changes need no refinement."""

_GOOD_VOLTS, _GOOD_OHMS, _GOOD_SHARE = 1e-6, 1e-3, 1e-6
"""How good a solution and an impedance must be, absolutely and (an impedance) as a share of itself."""

_ROUNDING = float(np.finfo(float).eps)


@dataclass(frozen=True)
class Changes:
    """The changes of F edits, flat and sorted by edit (D of them): what each puts in the place of a slot.

    A slot is a branch, or beyond the m branches a pair of rows to be bridged. Rows are α, β, E (D×3), those
    of a branch; a bridge's has α = 1 and β = Z.
    """

    edit: Places
    slot: Places
    rows: Array


def _flat(columns: Array) -> Array:
    """Every circuit's slots one after the other (S × slots × V as S·slots × V); V may be none."""
    return columns.reshape(columns.shape[0] * columns.shape[1], columns.shape[2])


class _Group:
    """Edits of up to K changes each.

    A padded change changes nothing: its column is zero and so is its unknown.
    """

    def __init__(self, bases: Bases, edits: Places, scene: Places, slot: Places, rows: Array) -> None:
        self.bases, self.edits, self.scene, self.slot = bases, edits, scene, slot
        self.most, self.flat = slot.shape[1], scene[:, None] * (bases.none + 1) + slot
        self._rows, self._refined = rows, False
        if not self.most:
            return
        alpha, beta, emf = rows.transpose(2, 0, 1)
        _, z, source = bases.healthy.reshape(-1, 3).take(self.flat, axis=0).transpose(2, 0, 1)
        closed = bases.closed.ravel().take(self.flat)
        self.gain = np.where(closed, alpha * z - beta, alpha)
        diagonal = np.where(closed, alpha, beta)
        diagonal[slot == bases.none] = 1
        right = self.gain * bases.port.ravel().take(self.flat) + np.where(closed, alpha, beta) * source - emf
        self._matrix = self.gain[:, :, None] * bases.ports(
            scene[:, None, None], slot[:, :, None], slot[:, None, :]
        )
        self._matrix[:, np.arange(self.most), np.arange(self.most)] += diagonal
        self._mu = self._solve(right)

    def _solve(self, right: Array) -> Array:
        """μ for one right-hand side an edit (F×K)."""
        try:
            with np.errstate(divide="raise", invalid="raise"):
                return (
                    right / self._matrix[:, :, 0]
                    if self.most == 1
                    else np.linalg.solve(self._matrix, right[:, :, None])[:, :, 0]
                )
        except (FloatingPointError, np.linalg.LinAlgError):
            raise CircuitError(_NO_PATH) from None

    def _minus(self, plain: Array, columns: Array, mu: Array) -> Array:
        """Vectors of every circuit (S×R), less what the changed slots' columns (S × slots × R) add:
        F×R."""
        found = plain.take(self.scene, axis=0)
        if self.most == 1:
            found -= _flat(columns).take(self.flat[:, 0], axis=0) * mu
        elif self.most:
            found -= np.matmul(mu[:, None, :], _flat(columns).take(self.flat, axis=0))[:, 0, :]
        return found

    @cached_property
    def x(self) -> Array:
        """The solutions (F × N+1), as the formula gives them until they are refined."""
        return (
            self._minus(self.bases.x, self.bases.columns, self._mu)
            if self.most
            else self.bases.x.take(self.scene, axis=0)
        )

    def doubtful(self) -> Flags:
        """Which edits' solutions rounding may have spoiled (F): a port quantity in a column is good to
        the rounding of the column's largest entry.

        That is too little where what is left of a path is insulation. Of many changes every solution is
        doubted.
        """
        if not 0 < self.most <= _PLAIN:
            return np.full(len(self.edits), self.most > 0)
        largest = self.bases.largest.ravel().take(self.flat)
        error = _ROUNDING * np.abs(self.gain) * (largest * np.abs(self._mu)).sum(axis=1, keepdims=True)
        if self.most > 1:
            error = np.matmul(np.abs(np.linalg.inv(self._matrix)), error[:, :, None])
        else:
            error /= np.abs(self._matrix[:, :, 0])
        return (largest * error.reshape(largest.shape)).max(axis=1) > _GOOD_VOLTS

    def part(self, chosen: Flags) -> "_Group":
        """Some of these edits."""
        return _Group(
            self.bases, self.edits[chosen], self.scene[chosen], self.slot[chosen], self._rows[chosen]
        )

    def residual(self) -> Array:
        """What the edited circuits' own equations leave of their right-hand sides, but for the edited
        rows (F × N)."""
        bases, right, order = self.bases, np.zeros_like(self.x), np.arange(len(self.edits))[:, None]
        for scene in np.unique(self.scene):
            mine, solved = np.flatnonzero(self.scene == scene), bases.solved[scene]
            right[mine, : bases.size] = solved.right - (solved.matrix @ self.x[mine, : bases.size].T).T
        (a, b), current = bases.ends[:, self.slot], np.where(self._added, self._mu, 0)
        np.subtract.at(right, (order, a), current)
        np.add.at(right, (order, b), current)
        right[order, bases.own[self.slot]] = 0  # edited rows answer for themselves, in correct()
        return right[:, : bases.size]

    def correct(self, y: Array) -> None:
        """One step of iterative refinement with y = A⁻¹ times the residual (F × N+1)."""
        bases, x, order = self.bases, self.x, np.arange(len(self.edits))[:, None]
        (a, b), own, (alpha, beta, emf) = (
            bases.ends[:, self.slot],
            bases.own[self.slot],
            self._rows.transpose(2, 0, 1),
        )
        left = (
            alpha * (x[order, a] - x[order, b]) - beta * np.where(self._added, self._mu, x[order, own]) - emf
        )
        more = alpha * (y[order, a] - y[order, b]) - beta * y[order, own]
        mu = self._solve(more + left)
        self.x = x + self._minus(np.zeros_like(bases.x), bases.columns, mu) + y
        self._refined = True

    @property
    def _added(self) -> Flags:
        return (self.bases.own[self.slot] == self.bases.size) & (self.slot != self.bases.none)

    def volts(self, ports: Ports) -> Array:
        """Across every pair (F×P)."""
        if not self.most:
            return ports.plain.take(self.scene, axis=0)
        if self._refined:
            a, b = ports.ends[self.scene].transpose(2, 0, 1)
            return np.take_along_axis(self.x, a, 1) - np.take_along_axis(self.x, b, 1)
        return self._minus(ports.plain, ports.across, self._mu)

    def seen(self, ports: Ports) -> Array:
        """The impedance every pair shows (F×P)."""
        found = ports.seen.take(self.scene, axis=0)
        if not self.most:
            return found
        across = _flat(ports.across).take(self.flat, axis=0)
        received = across if ports.received is ports.across else _flat(ports.received).take(self.flat, axis=0)
        if self.most == 1:
            across *= received
            across *= self._solve(self.gain)[:, :, None]
            found -= across[:, 0, :]
            return found
        inverse = np.linalg.inv(self._matrix)
        mu = np.matmul(inverse, self.gain[:, :, None] * received)
        found -= (across * mu).sum(axis=1)
        for edit in self._spoiled(ports, inverse, across, mu, found):
            found[edit] = self._anew(edit, ports.ends[self.scene[edit]])
        return found

    def _spoiled(self, ports: Ports, inverse: Array, across: Array, mu: Array, found: Array) -> Places:
        """The edits whose impedances rounding may have spoiled: several changes that join what floats
        take gigohms from gigohms.

        The error is that of the terms subtracted, times the condition of the edit's own equations
        (Skeel's, which no row's scale changes).
        """
        condition = _ROUNDING * np.matmul(np.abs(inverse), np.abs(self._matrix)).sum(axis=2).max(axis=1)
        most = np.abs(ports.across).max(axis=2, initial=0).ravel().take(self.flat)
        at_most = condition * (
            most * np.matmul(np.abs(inverse), (np.abs(self.gain) * most)[:, :, None])[:, :, 0]
        ).sum(axis=1)
        some = np.flatnonzero(at_most > _GOOD_OHMS)
        error = condition[some, None] * (np.abs(across[some]) * np.abs(mu[some])).sum(axis=1)
        return some[(error > _GOOD_OHMS + _GOOD_SHARE * np.abs(found[some])).any(axis=1)]

    def _anew(self, edit: int, pairs: Places) -> Array:
        """The impedance pairs (P×2) show under one edit, its circuit factored for itself."""
        bases, solved = self.bases, self.bases.solved[self.scene[edit]]
        rows, slot, added = solved.rows.copy(), self.slot[edit], self._added[edit]
        replaced = ~added & (slot != bases.none)
        rows[bases.own[slot[replaced]] - solved.nodes] = self._rows[edit, replaced]
        matrix, _ = assemble(solved.circuit, solved.analysis, rows)
        across = csc_matrix(injected(bases.ends[:, slot[added]].T, bases.size, matrix.dtype))
        whole = (
            block_array(
                [[matrix, across], [across.T, diags_array(-self._rows[edit, added, 1])]], format="csc"
            )
            if added.any()
            else matrix
        )
        right = np.zeros((whole.shape[0], len(pairs)), matrix.dtype)
        right[: bases.size] = injected(pairs, bases.size, matrix.dtype)
        y = np.zeros((bases.size + 1, len(pairs)), matrix.dtype)
        y[: bases.size] = splu(whole).solve(right)[: bases.size]
        return between(y, pairs)


class Edited:
    """The solutions of F edits, each of the circuit ``scene`` says; small ones stay cheap."""

    def __init__(self, bases: Bases, scene: Places, changes: Changes) -> None:
        self.bases, self.count = bases, len(scene)
        sizes = np.bincount(changes.edit, minlength=self.count)
        first = np.cumsum(sizes) - sizes
        # Sizes in powers of two: few groups, and little padding. 0, 1, 2, 4, 8, …
        slot, most = (
            bases.place[changes.slot],
            np.where(sizes, 1 << np.ceil(np.log2(np.maximum(sizes, 1))).astype(int), 0),
        )
        self._groups = []
        for wide in np.flatnonzero(np.bincount(most)):
            edits, at = np.flatnonzero(most == wide), np.arange(wide)
            there = at < sizes[edits, None]
            taken = np.where(there, first[edits, None] + at, 0)
            slots, rows = np.where(there, slot[taken], bases.none), changes.rows[taken]
            rows[~there] = 0
            self._groups.append(_Group(bases, edits, scene[edits], slots, rows))

    def _gathered(self, width: int, found_by: Callable[[_Group], Array]) -> Array:
        found = np.empty((self.count, width), self.bases.x.dtype)
        for group in self._groups:
            found[group.edits] = found_by(group)
        return found

    def refine(self) -> "Edited":
        """These edits, with a step of iterative refinement for those whose solutions may have lost
        figures.

        Without it solutions are good to a few figures, which is enough to see what logic does.
        """
        kept, groups = [], []
        for group in self._groups:
            doubtful = group.doubtful()
            if doubtful.all():
                groups.append(group)
            elif doubtful.any():
                kept.append(group.part(~doubtful))
                groups.append(group.part(doubtful))
            else:
                kept.append(group)
        self._groups = [*kept, *groups]
        if not groups:
            return self
        bases, scene = self.bases, np.concatenate([group.scene for group in groups])
        right = np.concatenate([group.residual() for group in groups])
        y = np.zeros((len(right), bases.size + 1), right.dtype)
        for number in np.unique(scene):
            mine = np.flatnonzero(scene == number)
            y[mine, : bases.size] = bases.solved[number].solve(right[mine].T).T
        for group, part in zip(
            groups, np.split(y, np.cumsum([len(group.edits) for group in groups])[:-1]), strict=True
        ):
            group.correct(part)
        return self

    @property
    def x(self) -> Array:
        """The solutions (F × N+1)."""
        return self._gathered(self.bases.size + 1, lambda group: group.x)

    def volts(self, ports: Ports) -> Array:
        """Open-circuit volts of pairs under every edit (F×P)."""
        return self._gathered(ports.ends.shape[1], lambda group: group.volts(ports))

    def seen(self, ports: Ports) -> Array:
        """The impedance each pair shows under every edit (F×P)."""
        return self._gathered(ports.ends.shape[1], lambda group: group.seen(ports))
