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

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import splu

from frostcore.circuit.element import Analysis, Circuit, CircuitError, Impedance

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


def assemble(circuit: Circuit, analysis: Analysis, rows: Sequence[Row]) -> tuple[csc_matrix, Array]:
    """A (N×N, sparse) and the right-hand side (N), N = nodes + branches."""
    places, values = circuit.pattern(ac=analysis is Analysis.AC)
    kind = complex if analysis is Analysis.AC else float
    table = np.array(rows, complex)
    alpha, beta, emf = table.T if analysis is Analysis.AC else table.T.real
    count, total = len(rows), len(circuit.nodes) + len(rows)
    stamped = np.concatenate([values, alpha, -alpha, -beta]).astype(kind) if analysis is Analysis.AC else np.concatenate([values.real, alpha, -alpha, -beta])
    kept = (places[0] < total) & (places[1] < total)
    matrix = csc_matrix((stamped[kept], (places[0][kept], places[1][kept])), shape=(total, total))
    right = np.zeros(total, kind)
    right[total - count :] = emf
    return matrix, right


class Solved:
    """A circuit factored once in one analysis, ready for edits: its solution and the columns A⁻¹e_k.

    ``x`` has N entries and one zero more, for the reference.
    """

    def __init__(self, circuit: Circuit, analysis: Analysis, rows: Sequence[Row]) -> None:
        self.circuit, self.analysis = circuit, analysis
        self.nodes, self.size = len(circuit.nodes), len(circuit.nodes) + len(circuit.branches)
        self.matrix, self.right = assemble(circuit, analysis, rows)
        try:
            self._factors = splu(self.matrix)
        except RuntimeError:  # SuperLU's word for an exactly singular matrix
            raise CircuitError(unsolvable(circuit, analysis, rows)) from None
        self.x = self.solve(self.right[:, None])[:, 0]
        self._bank: tuple[tuple[tuple[int, int], ...], Array] | None = None

    def solve(self, right: Array) -> Array:
        """A⁻¹ times right-hand sides (N × R), with a row of zeros for the reference (N+1 × R)."""
        solved = self._factors.solve(right)
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

    @property
    def nothing(self) -> int:
        """The bank's column of zeros."""
        return self.size - self.nodes

    def bank(self, bridges: tuple[tuple[int, int], ...]) -> Array:
        """The branch columns, one column of zeros, and A⁻¹w of these node pairs; kept for the pairs asked for last."""
        kept = self._bank  # one look: another thread may keep another bank meanwhile
        if kept is None or kept[0] != bridges:
            parts = [self.branch_columns, np.zeros((self.size + 1, 1), self.x.dtype)]
            kept = self._bank = (bridges, np.hstack([*parts, self.injections(np.array(bridges))] if bridges else parts))
        return kept[1]

    def injections(self, pairs: npt.NDArray[np.int_]) -> Array:
        """A⁻¹w for node pairs (P×2, −1 or N for the reference), one column each (N+1 × P)."""
        right = np.zeros((self.size + 1, len(pairs)), self.x.dtype)
        np.add.at(right, (pairs[:, 0], np.arange(len(pairs))), 1)
        np.add.at(right, (pairs[:, 1], np.arange(len(pairs))), -1)
        return self.solve(right[: self.size])

    def edited(self, edits: Sequence[Edit], *, refined: bool = True) -> "Edited":
        """All edits solved at once; without refinement good to a few figures, which is enough to see what logic does."""
        return Edited(self, Arranged(self, edits), refined=refined)


class _Layout:
    """Edits of up to K changes each (F of them) as arrays. A padded slot changes nothing: its column is zero and its unknown stays zero."""

    def __init__(self, base: Solved, edits: Sequence[Edit], most: int, places: dict[tuple[int, int], int]) -> None:
        count = len(edits)
        slot, ends, own = (np.full(shape, fill) for shape, fill in (((count, most), base.nothing), ((2, count, most), base.size), ((count, most), base.size)))
        alpha, beta, extra, emf = (np.full((count, most), fill, complex) for fill in (0, 0, 1, 0))
        rows = [(place, at, branch) for place, edit in enumerate(edits) for at, (branch, _) in enumerate(edit.rows)]
        if rows:
            fault, at, branch = np.array(rows).T
            slot[fault, at], own[fault, at], extra[fault, at] = branch, base.nodes + branch, 0
            ends[:, fault, at] = base.ends[branch].T
            alpha[fault, at], beta[fault, at], emf[fault, at] = np.array([row for edit in edits for _, row in edit.rows], complex).T
        for place, edit in enumerate(edits):
            for at, bridge in enumerate(edit.bridges, len(edit.rows)):
                slot[place, at] = base.nothing + 1 + places[bridge.a, bridge.b]
                ends[:, place, at] = [end if end >= 0 else base.size for end in (bridge.a, bridge.b)]
                alpha[place, at], extra[place, at], emf[place, at] = 1, bridge.ohms, bridge.volts
        if base.analysis is Analysis.DC:
            alpha, beta, extra, emf = alpha.real, beta.real, extra.real, emf.real
        self.slot, self.ends, self.own = slot, ends, own
        self.alpha, self.beta, self.extra, self.emf = alpha, beta, extra, emf


class Arranged:
    """Edits sorted by size and laid out as arrays, for any circuit of the same branches and nodes in one analysis."""

    def __init__(self, base: Solved, edits: Sequence[Edit], bridges: Sequence[tuple[int, int]] | None = None) -> None:
        self.count = len(edits)
        given = bridges if bridges is not None else [(bridge.a, bridge.b) for edit in edits for bridge in edit.bridges]
        self.bridges = tuple(dict.fromkeys(given))
        places = {pair: place for place, pair in enumerate(self.bridges)}
        members: dict[int, list[int]] = {}
        for place, edit in enumerate(edits):
            size = len(edit.rows) + len(edit.bridges)
            members.setdefault(next(step for step in _SIZES if size <= step), []).append(place)
        self.layouts = [(np.array(chosen), most, _Layout(base, [edits[place] for place in chosen], most, places)) for most, chosen in sorted(members.items())]


class _Bucket:
    """One layout's edits solved on one circuit."""

    def __init__(self, base: Solved, columns: Array, layout: _Layout, *, refined: bool) -> None:
        self.base, self.columns, self.slot = base, columns, layout.slot
        self._ends, self._own, self._alpha, self._beta = layout.ends, layout.own, layout.alpha, layout.beta
        extra, emf, (a, b), slot, own, most = layout.extra, layout.emf, layout.ends, layout.slot, layout.own, layout.slot.shape[1]
        matrix = self._alpha[:, :, None] * (columns[a[:, :, None], slot[:, None, :]] - columns[b[:, :, None], slot[:, None, :]])
        matrix -= self._beta[:, :, None] * columns[own[:, :, None], slot[:, None, :]]
        matrix[:, np.arange(most), np.arange(most)] += extra
        self.matrix = matrix
        right = self._alpha * (base.x[a] - base.x[b]) - self._beta * base.x[own] - emf
        self._extra, self._emf = extra, emf
        self._mu = self.solve(right[:, :, None])[:, :, 0]
        self._x: Array | None = None
        if refined:
            self._refine()

    def _refine(self) -> None:
        """One step of iterative refinement: many edits at once can cut off islands, and lose figures that the residual b' − A'x' gives back."""
        base, count = self.base, len(self.slot)
        x = self._plain(slice(None))
        a, b, own, order = *self._ends, self._own, np.arange(count)[:, None]
        right = base.right[None, :] - (base.matrix @ x[:, : base.size].T).T
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
_SIZES = (1, 2, 4, 8, 12, 16, 24, 32, 64, 128, 256)
_PLAIN = 2
"""Up to so many changes need no refinement."""


class Edited:
    """The solutions of many edits (F) of one solved circuit; small ones stay cheap."""

    def __init__(self, base: Solved, arranged: Arranged, *, refined: bool = True) -> None:
        self.base, self._count = base, arranged.count
        columns = base.bank(arranged.bridges)
        self._buckets = [(places, _Bucket(base, columns, layout, refined=refined and most > _PLAIN)) for places, most, layout in arranged.layouts]

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
