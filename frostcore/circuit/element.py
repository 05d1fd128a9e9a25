"""What a circuit is made of: branches with states, the rules that choose a state, and stray capacitance.

Symbols: Z impedance in ohms, E source volts (r.m.s. phasor at mains frequency, or DC), ω angular frequency in rad/s.
"""

import math
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

import numpy as np

from frostcore.errors import FrostError

INSULATION_OHMS = 10e9
"""Every node leaks this much to the chassis: no insulation is perfect, and no node floats without a potential."""


class CircuitError(FrostError):
    """A circuit, node, mode or fault that cannot be computed, and why."""


class Analysis(StrEnum):
    """Which of the two linear circuits: phasors at mains frequency, or direct current."""

    AC = "ac"
    DC = "dc"


@dataclass(frozen=True)
class Impedance:
    """A branch in one state: resistance, inductance and capacitance in series, and sources in series with them.

    ``tolerance`` is the fraction R and L vary by between good parts, ``source_tolerance`` the same of the sources.
    """

    ohms: float
    henries: float = 0.0
    farads: float | None = None
    dc_volts: float = 0.0
    ac_volts: complex = 0.0
    tolerance: float = 0.0
    source_tolerance: float = 0.0

    def at(self, analysis: Analysis, omega: float) -> complex | None:
        """Z in one analysis; None where it lets nothing through (a capacitor at DC)."""
        if analysis is Analysis.DC:
            return None if self.farads is not None else self.ohms
        return self.ohms + 1j * omega * self.henries + (0 if self.farads is None else 1 / (1j * omega * self.farads))

    def emf(self, analysis: Analysis) -> complex:
        """E in one analysis."""
        return self.dc_volts if analysis is Analysis.DC else self.ac_volts


States = dict[str, Impedance | None]
"""A branch's states by name; None is open."""


@dataclass(frozen=True)
class Sense:
    """A condition on the solved circuit: volts between two nodes, or amperes through a branch when ``branch`` is named.

    It becomes true at ``rises`` and stays true down to ``holds``.
    """

    analysis: Analysis
    rises: float
    holds: float
    a: str = ""
    b: str = ""
    branch: str = ""


@dataclass(frozen=True)
class Control:
    """How a branch changes state by itself: ``on`` while its signal is commanded and all senses hold, else ``off``.

    ``latched``: it goes off once a sense is true and stays off (an overload). ``restarts``: its ``on`` state is reached only from
    standstill, so a fault is tried from there (a motor that must start).
    """

    on: str
    off: str
    signal: str = ""
    senses: tuple[Sense, ...] = ()
    latched: bool = False
    restarts: bool = False


class BranchKind(StrEnum):
    """What a branch stands for, for the trace and the picture."""

    WIRE = "wire"
    CONTACT = "contact"
    SWITCH = "switch"
    LOAD = "load"
    SOURCE = "source"
    RESISTOR = "resistor"


@dataclass(frozen=True)
class Branch:
    """A two-terminal part of the circuit from node ``a`` to node ``b``. ``part`` is the component it belongs to."""

    id: str
    a: str
    b: str
    kind: BranchKind
    part: str
    name: str
    states: States
    start: str
    control: Control | None = None

    def __post_init__(self) -> None:
        if self.start not in self.states:
            message = f"branch {self.id} has no state “{self.start}”"
            raise CircuitError(message)


@dataclass(frozen=True)
class Stray:
    """Capacitance between two nodes that nobody put there."""

    a: str
    b: str
    farads: float


@dataclass(frozen=True)
class Circuit:
    """A unit in one mode, with the plug in or out and some connectors pulled: branches in their starting states."""

    mode: str
    live: bool
    hertz: float
    mains_volts: float
    reference: str
    branches: tuple[Branch, ...]
    strays: tuple[Stray, ...]
    signals: frozenset[str]
    pulled: tuple[str, ...] = field(default=())

    @property
    def omega(self) -> float:
        """Angular frequency of the mains in rad/s."""
        return 2 * math.pi * self.hertz

    @cached_property
    def nodes(self) -> tuple[str, ...]:
        """All nodes but the reference, in the order met."""
        met = dict.fromkeys(node for branch in self.branches for node in (branch.a, branch.b))
        met |= dict.fromkeys(node for stray in self.strays for node in (stray.a, stray.b))
        met.pop(self.reference, None)
        return tuple(met)

    @cached_property
    def node_index(self) -> dict[str, int]:
        """Node -> row; the reference has the row after the last."""
        index = {node: row for row, node in enumerate(self.nodes)}
        index[self.reference] = -1
        return index

    @cached_property
    def branch_index(self) -> dict[str, int]:
        """Branch id -> its place in ``branches``."""
        return {branch.id: place for place, branch in enumerate(self.branches)}

    def pattern(self, *, ac: bool) -> tuple[np.ndarray, np.ndarray]:
        """The entries of the system's matrix in one analysis, as :meth:`_entries` tells them."""
        if ac not in self._patterns:
            self._patterns[ac] = self._entries(ac=ac)
        return self._patterns[ac]

    @cached_property
    def _patterns(self) -> dict[bool, tuple[np.ndarray, np.ndarray]]:
        return {}

    def _entries(self, *, ac: bool) -> tuple[np.ndarray, np.ndarray]:
        """Where the system's matrix has entries (2×E; the reference has the row after all others), and the values of those that no state changes.

        Order: insulation, strays (AC only), the branches' currents at their two nodes; then, to be filled in, α, −α and −β of every branch.
        """
        n, m = len(self.nodes), len(self.branches)
        ground = n + m
        ends = np.array([[self.node_index[branch.a], self.node_index[branch.b]] for branch in self.branches], int).reshape(-1, 2)
        ends[ends < 0] = ground
        nodes, branches = np.arange(n), np.arange(n, n + m)
        places = [np.array([nodes, nodes])]
        values = [np.full(n, 1 / INSULATION_OHMS, complex)]
        if ac and self.strays:
            a, b = np.array([[self.node_index[node] if self.node_index[node] >= 0 else ground for node in (stray.a, stray.b)] for stray in self.strays]).T
            admittance = 1j * self.omega * np.array([stray.farads for stray in self.strays])
            places += [np.array([a, a]), np.array([b, b]), np.array([a, b]), np.array([b, a])]
            values += [admittance, admittance, -admittance, -admittance]
        places += [np.array([ends[:, 0], branches]), np.array([ends[:, 1], branches])]
        values += [np.ones(m, complex), -np.ones(m, complex)]
        places += [np.array([branches, ends[:, 0]]), np.array([branches, ends[:, 1]]), np.array([branches, branches])]
        return np.concatenate(places, axis=1), np.concatenate(values)

    @cached_property
    def neighbours(self) -> dict[str, list[tuple[str, Branch]]]:
        """Node -> (other node, branch) of everything connected to it."""
        found: dict[str, list[tuple[str, Branch]]] = {}
        for branch in self.branches:
            found.setdefault(branch.a, []).append((branch.b, branch))
            found.setdefault(branch.b, []).append((branch.a, branch))
        return found

    def branch(self, identifier: str) -> Branch:
        """The branch of that id; CircuitError when there is none."""
        if identifier not in self.branch_index:
            message = f"There is no circuit element “{identifier}”."
            raise CircuitError(message)
        return self.branches[self.branch_index[identifier]]


def motor(watts: float, volts: float, power_factor: float, omega: float, tolerance: float) -> Impedance:
    """A running AC motor or coil as R + jωL: P = I²R and |Z| = V/I with I = P/(V·cos φ)."""
    amperes = watts / (volts * power_factor)
    ohms = watts / amperes**2
    return Impedance(ohms, math.sqrt(max((volts / amperes) ** 2 - ohms**2, 0.0)) / omega, tolerance=tolerance)


def coil(ohms: float, watts: float, volts: float, omega: float, tolerance: float) -> Impedance:
    """An AC coil that takes ``watts`` in its own resistance: I = √(P/R), |Z| = V/I."""
    amperes = math.sqrt(watts / ohms)
    return Impedance(ohms, math.sqrt(max((volts / amperes) ** 2 - ohms**2, 0.0)) / omega, tolerance=tolerance)
