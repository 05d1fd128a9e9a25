"""Modified nodal analysis, and small edits of a solved circuit without solving it anew.

Unknowns x: the node voltages v (n of them, against the reference) and the current i of every branch (m). Rows: Kirchhoff's current
law at each node, with insulation and stray capacitance stamped as admittances, then one row a branch:

    α (v_a − v_b) − β i = E        closed: α = 1, β = Z;  open: α = 0, β = 1, E = 0

Keeping each branch's current as an unknown means that no tiny resistance is ever turned into a huge conductance, so opening a joint
that is a node's only path loses no figures (Ho, Ruehli & Brennan, "The modified nodal approach to network analysis", IEEE Trans. CAS 22,
1975). A fault replaces rows (A' = A + e_k dᵀ) or adds a branch between two nodes (one more unknown ι). With C the columns A⁻¹e_k and
A⁻¹w, w = e_a − e_b, the edited solution is x' = x − C μ, where μ solves the edits' own rows put on C and x (Sherman–Morrison–Woodbury):
for a replaced row r'·(x − Cμ) = E', for an added branch wᵀ(x − Cμ) − Zι = E with μ = ι.
"""

import warnings
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.linalg import LinAlgWarning, lu_factor, lu_solve

from frostcore.circuit.element import INSULATION_OHMS, Analysis, Circuit, CircuitError, Impedance

Array = npt.NDArray[np.complex128] | npt.NDArray[np.float64]
Row = tuple[float, complex, complex]
"""A branch's row: α, β, E."""


@dataclass(frozen=True)
class Bridge:
    """A branch that a fault or a meter adds between two nodes: series Z and source E."""

    a: int
    b: int
    ohms: complex
    volts: complex = 0.0


@dataclass(frozen=True)
class Edit:
    """One fault's changes in one analysis: replaced rows by branch, and added branches."""

    rows: tuple[tuple[int, Row], ...] = ()
    bridges: tuple[Bridge, ...] = ()


def row_of(impedance: Impedance | None, analysis: Analysis, omega: float) -> Row:
    """The row of a branch in one state."""
    z = None if impedance is None else impedance.at(analysis, omega)
    return (0.0, 1.0, 0.0) if z is None or impedance is None else (1.0, z, impedance.emf(analysis))


def assemble(circuit: Circuit, analysis: Analysis, rows: Sequence[Row]) -> tuple[Array, Array]:
    """A (N×N) and the right-hand side (N), N = nodes + branches."""
    n, m = len(circuit.nodes), len(circuit.branches)
    kind = complex if analysis is Analysis.AC else float
    matrix, right = np.zeros((n + m + 1, n + m + 1), kind), np.zeros(n + m + 1, kind)
    ground = n + m  # one row and column too many take what belongs to the reference
    index = np.array([[circuit.node_index[branch.a], circuit.node_index[branch.b]] for branch in circuit.branches], int).reshape(-1, 2)
    index[index < 0] = ground
    branches = np.arange(n, n + m)
    alpha, beta, emf = (np.array([row[place] for row in rows], complex) for place in range(3))
    if analysis is Analysis.DC:
        alpha, beta, emf = alpha.real, beta.real, emf.real
    np.add.at(matrix, (index[:, 0], branches), 1.0)
    np.add.at(matrix, (index[:, 1], branches), -1.0)
    np.add.at(matrix, (branches, index[:, 0]), alpha)
    np.add.at(matrix, (branches, index[:, 1]), -alpha)
    matrix[branches, branches] -= beta
    right[branches] = emf
    matrix[np.arange(n), np.arange(n)] += 1 / INSULATION_OHMS
    if analysis is Analysis.AC:
        for stray in circuit.strays:
            a, b = (circuit.node_index[node] if circuit.node_index[node] >= 0 else ground for node in (stray.a, stray.b))
            admittance = 1j * circuit.omega * stray.farads
            matrix[a, a] += admittance
            matrix[b, b] += admittance
            matrix[a, b] -= admittance
            matrix[b, a] -= admittance
    return matrix[:ground, :ground], right[:ground]


class Solved:
    """A circuit factored once in one analysis, ready for edits: its solution and the columns A⁻¹e_k.

    ``x`` has N entries and one zero more, for the reference.
    """

    def __init__(self, circuit: Circuit, analysis: Analysis, rows: Sequence[Row]) -> None:
        self.circuit, self.analysis = circuit, analysis
        self.nodes, self.size = len(circuit.nodes), len(circuit.nodes) + len(circuit.branches)
        self.matrix, self.right = assemble(circuit, analysis, rows)
        with warnings.catch_warnings():
            warnings.simplefilter("error", LinAlgWarning)
            try:
                self._factors = lu_factor(self.matrix, check_finite=False)
            except LinAlgWarning:
                raise CircuitError(unsolvable(circuit, analysis, rows)) from None
        self.x = self.solve(self.right[:, None])[:, 0]
        self._bridges: dict[tuple[int, int], int] = {}

    def solve(self, right: Array) -> Array:
        """A⁻¹ times right-hand sides (N × R), with a row of zeros for the reference (N+1 × R)."""
        solved = lu_solve(self._factors, right, check_finite=False)
        return np.vstack([solved, np.zeros((1, solved.shape[1]), solved.dtype)])

    @cached_property
    def ends(self) -> npt.NDArray[np.int_]:
        """Each branch's two rows (m×2), N for the reference."""
        found = np.array([[self.circuit.node_index[branch.a], self.circuit.node_index[branch.b]] for branch in self.circuit.branches], int).reshape(-1, 2)
        found[found < 0] = self.size
        return found

    @cached_property
    def branch_columns(self) -> Array:
        """A⁻¹e_k for every branch row k (N+1 × m)."""
        right = np.zeros((self.size, self.size - self.nodes), self.x.dtype)
        right[np.arange(self.nodes, self.size), np.arange(self.size - self.nodes)] = 1
        return self.solve(right)

    @cached_property
    def _bank(self) -> Array:
        """The branch columns, one column of zeros, then the bridges' columns as they are asked for."""
        return np.hstack([self.branch_columns, np.zeros((self.size + 1, 1), self.x.dtype)])

    @property
    def nothing(self) -> int:
        """The bank's column of zeros."""
        return self.size - self.nodes

    def bank(self, bridges: Sequence[tuple[int, int]]) -> tuple[Array, dict[tuple[int, int], int]]:
        """The columns of all branches and of these node pairs, and where each pair's stands."""
        missing = [pair for pair in dict.fromkeys(bridges) if pair not in self._bridges]
        if missing:
            self._bridges |= {pair: self._bank.shape[1] + place for place, pair in enumerate(missing)}
            self.__dict__["_bank"] = np.hstack([self._bank, self.injections(np.array(missing))])
        return self._bank, self._bridges

    def injections(self, pairs: npt.NDArray[np.int_]) -> Array:
        """A⁻¹w for node pairs (P×2, −1 or N for the reference), one column each (N+1 × P)."""
        right = np.zeros((self.size + 1, len(pairs)), self.x.dtype)
        np.add.at(right, (pairs[:, 0], np.arange(len(pairs))), 1)
        np.add.at(right, (pairs[:, 1], np.arange(len(pairs))), -1)
        return self.solve(right[: self.size])

    def edited(self, edits: Sequence[Edit]) -> "Edited":
        """All edits solved at once."""
        return Edited(self, edits)


class _Bucket:
    """Edits of up to K changes each (F of them), as arrays. A padded slot changes nothing: its column is zero and its unknown stays zero."""

    def __init__(self, base: Solved, edits: Sequence[Edit], most: int) -> None:
        self.base, count = base, len(edits)
        kind, real = base.x.dtype, base.analysis is Analysis.DC
        pairs = [(bridge.a, bridge.b) for edit in edits for bridge in edit.bridges]
        self.columns, places = base.bank(pairs)
        slot, ends, own = (np.full(shape, fill) for shape, fill in (((count, most), base.nothing), ((2, count, most), base.size), ((count, most), base.size)))
        alpha, beta, extra, emf = (np.full((count, most), fill, complex) for fill in (0, 0, 1, 0))
        for place, edit in enumerate(edits):
            for at, (branch, row) in enumerate(edit.rows):
                slot[place, at], own[place, at] = branch, base.nodes + branch
                ends[:, place, at] = base.ends[branch]
                alpha[place, at], beta[place, at], emf[place, at] = row
                extra[place, at] = 0
            for at, bridge in enumerate(edit.bridges, len(edit.rows)):
                slot[place, at] = places[bridge.a, bridge.b]
                ends[0, place, at] = bridge.a if bridge.a >= 0 else base.size
                ends[1, place, at] = bridge.b if bridge.b >= 0 else base.size
                alpha[place, at], extra[place, at], emf[place, at] = 1, bridge.ohms, bridge.volts
        if real:
            alpha, beta, extra, emf = alpha.real, beta.real, extra.real, emf.real
        self.slot, self._ends, self._own = slot, ends, own
        self._alpha, self._beta = alpha.astype(kind), beta.astype(kind)
        a, b = ends
        columns = self.columns
        matrix = self._alpha[:, :, None] * (columns[a[:, :, None], slot[:, None, :]] - columns[b[:, :, None], slot[:, None, :]])
        matrix -= self._beta[:, :, None] * columns[own[:, :, None], slot[:, None, :]]
        matrix[:, np.arange(most), np.arange(most)] += extra
        self.matrix = matrix
        right = self._alpha * (base.x[a] - base.x[b]) - self._beta * base.x[own] - emf
        self._extra, self._emf = extra, emf
        self._mu = self.solve(right[:, :, None])[:, :, 0]
        self._x: Array | None = None
        if most > _PLAIN:
            self._refine()

    def _refine(self) -> None:
        """One step of iterative refinement: many edits at once can cut off islands, and lose figures that the residual b' − A'x' gives back."""
        base, count = self.base, len(self.slot)
        x = self._plain(slice(None))
        a, b, own, order = *self._ends, self._own, np.arange(count)[:, None]
        right = base.right[None, :] - x[:, : base.size] @ base.matrix.T
        right = np.concatenate([right, np.zeros((count, 1), right.dtype)], axis=1)
        bridge = (self._own == base.size) & (self._alpha != 0)
        current = np.where(bridge, self._mu, 0)
        np.subtract.at(right, (order, a), current)
        np.add.at(right, (order, b), current)
        right[order, own] = 0  # replaced rows answer for themselves, below
        y = base.solve(right[:, : base.size].T).T
        left = self._alpha * (x[order, a] - x[order, b]) - self._beta * x[order, own] - np.where(bridge, self._extra * self._mu, 0) - self._emf
        onto = self._alpha * (y[order, a] - y[order, b]) - self._beta * y[order, own]
        mu = self.solve((onto + left)[:, :, None])[:, :, 0]
        self._x = x + y - np.matmul(self.columns.T[self.slot].transpose(0, 2, 1), mu[:, :, None])[:, :, 0]

    def rows_on(self, given: Array) -> Array:
        """The edits' rows put on columns (N+1 × R): F×K×R."""
        a, b = self._ends
        return self._alpha[:, :, None] * (given[a] - given[b]) - self._beta[:, :, None] * given[self._own]

    def solve(self, right: Array) -> Array:
        """μ for right-hand sides (F×K×R)."""
        if self.matrix.shape[1] == 1:
            with np.errstate(divide="raise", invalid="raise"):
                try:
                    return right / self.matrix
                except FloatingPointError:
                    raise CircuitError(_NO_PATH) from None
        try:
            return np.linalg.solve(self.matrix, right)
        except np.linalg.LinAlgError:
            raise CircuitError(_NO_PATH) from None

    def at(self, rows: npt.NDArray[np.int_] | slice) -> Array:
        """The solutions at some rows (F × rows)."""
        return self._plain(rows) if self._x is None else self._x[:, rows]

    def _plain(self, rows: npt.NDArray[np.int_] | slice) -> Array:
        columns = self.columns[rows]
        if self.slot.shape[1] == 1:
            return self.base.x[rows][None, :] - columns[:, self.slot[:, 0]].T * self._mu
        return self.base.x[rows][None, :] - np.matmul(columns.T[self.slot].transpose(0, 2, 1), self._mu[:, :, None])[:, :, 0]

    def seen(self, pairs: npt.NDArray[np.int_], injections: Array) -> Array:
        """The impedance of node pairs (F×P)."""
        mu = self.solve(self.rows_on(injections))
        plain = injections[pairs[:, 0], np.arange(len(pairs))] - injections[pairs[:, 1], np.arange(len(pairs))]
        across = self.columns[pairs[:, 0]] - self.columns[pairs[:, 1]]
        return plain[None, :] - np.einsum("fkp,fkp->fp", across.T[self.slot], mu)


_NO_PATH = "A fault leaves part of this circuit without any path, not even through insulation; it can't be computed."
_SIZES = (1, 2, 4, 8, 16, 32, 64, 128)
_PLAIN = 2
"""Up to so many changes need no refinement."""


class Edited:
    """The solutions of many edits (F) of one solved circuit, sorted by size so that small ones stay cheap."""

    def __init__(self, base: Solved, edits: Sequence[Edit]) -> None:
        self.base, self._count = base, len(edits)
        members: dict[int, list[int]] = {}
        for place, edit in enumerate(edits):
            size = len(edit.rows) + len(edit.bridges)
            members.setdefault(next(step for step in _SIZES if size <= step), []).append(place)
        self._buckets = [(np.array(places), _Bucket(base, [edits[place] for place in places], most)) for most, places in sorted(members.items())]

    def at(self, rows: npt.NDArray[np.int_] | slice) -> Array:
        """The solutions at some rows (F × rows); N is the reference."""
        found = np.empty((self._count, len(self.base.x[rows])), self.base.x.dtype)
        for places, bucket in self._buckets:
            found[places] = bucket.at(rows)
        return found

    @property
    def x(self) -> Array:
        """The solutions (F × N+1)."""
        return self.at(slice(None))

    def volts(self, pairs: npt.NDArray[np.int_]) -> Array:
        """Open-circuit volts of node pairs (P×2) under every edit (F×P)."""
        return self.at(pairs[:, 0]) - self.at(pairs[:, 1])

    def seen(self, pairs: npt.NDArray[np.int_], injections: Array) -> Array:
        """The impedance each pair shows under every edit (F×P): wᵀA'⁻¹w, ``injections`` being A⁻¹w (N+1 × P)."""
        found = np.empty((self._count, len(pairs)), self.base.x.dtype)
        for places, bucket in self._buckets:
            found[places] = bucket.seen(pairs, injections)
        return found


def unsolvable(circuit: Circuit, analysis: Analysis, rows: Sequence[Row]) -> str:
    """Why a circuit has no solution, naming the sources or nodes concerned."""
    shorted = _source_loop(circuit, rows)
    if shorted:
        return f"The {analysis} circuit can't be solved: {shorted} is shorted through nothing but ideal conductors. Give the source or a wire its resistance."
    return f"The {analysis} circuit can't be solved: branches without resistance form a loop: {', '.join(branch.id for branch, row in zip(circuit.branches, rows, strict=True) if row[0] and not row[1])}."


def _source_loop(circuit: Circuit, rows: Sequence[Row]) -> str:
    """The first source whose ends are joined by branches of no resistance at all."""
    joined: dict[str, str] = {}

    def root(node: str) -> str:
        while joined.get(node, node) != node:
            node = joined[node]
        return node

    ideal = [(branch, row) for branch, row in zip(circuit.branches, rows, strict=True) if row[0] and not row[1]]
    for branch, row in ideal:
        if not row[2]:
            joined[root(branch.a)] = root(branch.b)
    for branch, row in ideal:
        if row[2] and root(branch.a) == root(branch.b):
            return branch.name
    return ""
