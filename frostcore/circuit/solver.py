"""Modified nodal analysis: a circuit's equations, factored once.

Unknowns x: the node voltages v (n of them, against the reference) and the current i of every branch (m).
Rows: Kirchhoff's current law at each node, with insulation and stray capacitance stamped as admittances,
then one row a branch:

    α (v_a − v_b) − β i = E        closed: α = 1, β = Z;  open: α = 0, β = 1, E = 0;
                                   a source of the current I: α = 0, β = 1, E = −I

Keeping each branch's current as an unknown means that no tiny resistance is ever turned into a huge
conductance, so opening a joint that is a node's only path loses no figures (Ho, Ruehli & Brennan, "The
modified nodal approach to network analysis", IEEE Trans. CAS 22, 1975).
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import splu

from frostcore.circuit.element import Analysis, Circuit, CircuitError

Array = npt.NDArray[Any]
"""Complex in AC, real in DC."""

Places = npt.NDArray[np.int_]
Flags = npt.NDArray[np.bool_]


def rows_of(circuit: Circuit, states: Sequence[str], analysis: Analysis) -> Array:
    """Every branch's row with the branches in these states (m×3)."""
    omega = circuit.omega
    return np.array(
        [branch.row(state, analysis, omega) for branch, state in zip(circuit.branches, states, strict=True)],
        complex,
    ).reshape(-1, 3)


def assemble(circuit: Circuit, analysis: Analysis, rows: Array) -> tuple[csc_matrix, Array]:
    """A (N×N, sparse) and the right-hand side (N), N = nodes + branches, of the branches' rows (m×3)."""
    alpha, beta, emf = rows.T if analysis is Analysis.AC else rows.T.real
    topology = circuit.topology
    pattern, size = topology.pattern[analysis], topology.size
    matrix = csc_matrix(
        (pattern.values(alpha, beta, circuit.omega), pattern.indices, pattern.indptr), shape=(size, size)
    )
    return matrix, np.concatenate([np.zeros(size - len(rows), emf.dtype), emf])


class Solved:
    """A circuit factored and solved in one analysis.

    ``x`` has N entries and one zero more, for the reference.
    """

    def __init__(self, circuit: Circuit, analysis: Analysis, rows: Array) -> None:
        self.circuit, self.analysis, self.rows = circuit, analysis, rows
        self.nodes, self.size = len(circuit.nodes), circuit.topology.size
        self.matrix, self.right = assemble(circuit, analysis, rows)
        try:
            self._factors = splu(
                self.matrix, relax=1, panel_size=1
            )  # no dense blocks worth the name in circuits of this size
        except RuntimeError:  # SuperLU's word for an exactly singular matrix
            raise CircuitError(unsolvable(circuit, analysis, rows)) from None
        self.x = np.append(self._factors.solve(self.right), 0)

    def solve(self, right: Array) -> Array:
        """A⁻¹ times right-hand sides (N × R)."""
        return self._factors.solve(right)

    def injections(self, pairs: Places) -> Array:
        """A⁻¹w for node pairs (P×2, N for the reference), one column each (N+1 × P)."""
        solved = self.solve(injected(pairs, self.size, self.x.dtype))
        return np.vstack([solved, np.zeros((1, len(pairs)), solved.dtype)])

    def answers(self, a: int, b: int) -> Array:
        """What one volt in each branch's place gives between two rows (m): wᵀA⁻¹e_k of every k, which is
        one solution of the transposed system."""
        return self._factors.solve(injected(np.array([[a, b]]), self.size, self.x.dtype)[:, 0], trans="T")[
            self.nodes :
        ]


def injected(pairs: Places, size: int, kind: npt.DTypeLike) -> Array:
    """One ampere in at the first and out at the second row of each pair (N × P)."""
    right = np.zeros((size + 1, len(pairs)), kind, order="F")
    np.add.at(right, (pairs[:, 0], np.arange(len(pairs))), 1)
    np.add.at(right, (pairs[:, 1], np.arange(len(pairs))), -1)
    return right[:size]


def between(vectors: Array, pairs: Places) -> Array:
    """What each vector (N+1 × P) gives across the pair of rows of its own (P×2): P."""
    at = np.arange(len(pairs))
    return vectors[pairs[:, 0], at] - vectors[pairs[:, 1], at]


def unsolvable(circuit: Circuit, analysis: Analysis, rows: Array) -> str:
    """Why a circuit has no solution, naming the sources or nodes concerned."""
    shorted = _source_loop(circuit, rows)
    if shorted:
        return (
            f"The {analysis} circuit can't be solved: {shorted} is shorted through nothing but ideal"
            " conductors. Give the source or a wire its resistance."
        )
    ideal = [branch.id for branch, row in zip(circuit.branches, rows, strict=True) if row[0] and not row[1]]
    return (
        f"The {analysis} circuit can't be solved: branches without resistance form a loop:"
        f" {', '.join(ideal)}."
    )


def _source_loop(circuit: Circuit, rows: Array) -> str:
    """The first source whose ends are joined by branches of no resistance at all."""
    joined: dict[str, str] = {}

    def root(node: str) -> str:
        while joined.get(node, node) != node:
            node = joined[node]
        return node

    ideal = [
        (branch, row) for branch, row in zip(circuit.branches, rows, strict=True) if row[0] and not row[1]
    ]
    for branch, row in ideal:
        if not row[2]:
            joined[root(branch.a)] = root(branch.b)
    for branch, row in ideal:
        if row[2] and root(branch.a) == root(branch.b):
            return branch.name
    return ""
