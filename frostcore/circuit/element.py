"""What a circuit is made of: branches with states, the rules that choose a state, and stray capacitance.

Symbols: Z impedance in ohms, E source volts (r.m.s. phasor at mains frequency, or DC), ω angular
frequency in rad/s.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property

import numpy as np

from frostcore.errors import FrostError
from frostcore.supply.bus import Source

WALL = frozenset({"wall_s", "wall_l", "wall_n", "wall_e"})
"""The nodes behind the wall socket: no lead reaches them."""

INSULATION_OHMS = 10e9
"""Every node leaks this much to the chassis: no insulation is perfect, and no node floats without a
potential."""


class CircuitError(FrostError):
    """A circuit, node, mode or fault that cannot be computed, and why."""


class Analysis(StrEnum):
    """Which of the two linear circuits: phasors at mains frequency, or direct current."""

    AC = "ac"
    DC = "dc"


@dataclass(frozen=True)
class Impedance:
    """A branch in one state: resistance, inductance and capacitance in series, and sources in series with
    them.

    ``tolerance`` is the fraction R and L vary by between good parts, ``source_tolerance`` the same of the
    sources (``ripple_tolerance`` in AC, where that is a rail's ripple). What is not ``firm`` is electronics
    at rest: its ohms depend on the meter as much as on the part. Where ``dc_amperes`` is given the branch is
    a source of that current instead, from its node a to its node b, in DC; AC it lets nothing through.
    ``power_factor`` bounds that of its true current, where the phasor does not tell it: a rectifier takes its
    watts in pulses, and of a motor without a rating nobody knows it.
    """

    ohms: float
    henries: float = 0.0
    farads: float | None = None
    dc_volts: float = 0.0
    ac_volts: complex = 0.0
    tolerance: float = 0.0
    source_tolerance: float = 0.0
    firm: bool = True
    power_factor: tuple[float, float] | None = None
    dc_amperes: float | None = None
    ripple_tolerance: float | None = None

    def doubt(self, analysis: Analysis) -> float:
        """How far its source's volts vary, in volts."""
        ripple = analysis is Analysis.AC and self.ripple_tolerance is not None
        share = self.ripple_tolerance if ripple and self.ripple_tolerance else self.source_tolerance
        return abs(self.emf(analysis)) * share

    def at(self, analysis: Analysis, omega: float) -> complex | None:
        """Z in one analysis; None where it lets nothing through (a capacitor at DC), or no volts change what
        it does (a source of current)."""
        if self.dc_amperes is not None:
            return None
        if analysis is Analysis.DC:
            return None if self.farads is not None else self.ohms
        return (
            self.ohms
            + 1j * omega * self.henries
            + (0 if self.farads is None else 1 / (1j * omega * self.farads))
        )

    def emf(self, analysis: Analysis) -> complex:
        """E in one analysis."""
        return self.dc_volts if analysis is Analysis.DC else self.ac_volts


def fed_by(impedance: Impedance, source: Source) -> Impedance:
    """A supply's branch as a rectifier leaves it: volts, ohms, ripple."""
    return replace(
        impedance,
        ohms=source.ohms,
        dc_volts=source.volts,
        ac_volts=source.ripple,
        ripple_tolerance=source.ripple_share,
    )


Row = tuple[float, complex, complex]
"""A branch's row of the system, α (v_a − v_b) − β i = E: α, β, E."""


def row_of(impedance: Impedance | None, analysis: Analysis, omega: float) -> Row:
    """The row of a branch in one state."""
    z = None if impedance is None else impedance.at(analysis, omega)
    if impedance is not None and impedance.dc_amperes is not None and analysis is Analysis.DC:
        return 0.0, 1.0, -impedance.dc_amperes
    return (0.0, 1.0, 0.0) if z is None or impedance is None else (1.0, z, impedance.emf(analysis))


States = dict[str, Impedance | None]
"""A branch's states by name; None is open."""


@dataclass(frozen=True)
class Sense:
    """A condition on the solved circuit: volts between two nodes, or amperes through a branch when
    ``branch`` is named, from its node b to its node a where ``backwards`` (what a source gives out).

    It becomes true at ``rises`` and stays true down to ``holds``.
    """

    analysis: Analysis
    rises: float
    holds: float
    a: str = ""
    b: str = ""
    branch: str = ""
    backwards: bool = False


@dataclass(frozen=True)
class Trip:
    """What throws a branch out of its ``on`` state into ``state``, and holds it there: any of these senses;
    where it ``warms``, seen once all that does not has settled.

    Of several that would trip the lowest ``rank`` does, and the rest is looked at anew: a fuse before the
    house's breaker. It takes ``seconds``, or where it ``warms`` with the current's square, as long as that
    takes (time constant in s). ``resets`` is after how many seconds it comes back by itself, None for never;
    ``words`` say what has happened. ``over`` is the state it is in until then, where it holds its current
    down.
    """

    senses: tuple[Sense, ...]
    state: str
    words: str
    rank: int = 0
    seconds: float = 0.0
    warms: float = 0.0
    resets: float | None = None
    over: str = ""


@dataclass(frozen=True)
class Control:
    """How a branch changes state by itself: ``on`` while its signal is commanded and all senses hold,
    else ``off``; and what trips it.

    ``restarts``: its ``on`` state is reached only from standstill, so a fault is tried from there (a motor
    that must start). ``takes`` are the seconds it takes to go on and off.
    """

    on: str
    off: str
    signal: str = ""
    senses: tuple[Sense, ...] = ()
    trip: Trip | None = None
    restarts: bool = False
    takes: tuple[float, float] = (0.05, 0.05)

    @property
    def levels(self) -> tuple[str, str, str]:
        """Its states by level: off, on, tripped (off where nothing trips it)."""
        return self.off, self.on, self.trip.state if self.trip else self.off


class BranchKind(StrEnum):
    """What a branch stands for, for the trace and the picture."""

    WIRE = "wire"
    JOINT = "joint"
    CONTACT = "contact"
    SWITCH = "switch"
    LOAD = "load"
    SOURCE = "source"
    RESISTOR = "resistor"


@dataclass(frozen=True)
class Wave:
    """The part of each half wave an output passes: from ``delay`` (radians after the mains' zero) to its
    end, of both half waves, or where ``half`` only of the live conductor's positive ones (``backwards``: of
    its negative ones)."""

    delay: float = 0.0
    half: bool = False
    backwards: bool = False


@dataclass(frozen=True)
class Branch:
    """A two-terminal part of the circuit from node ``a`` to node ``b``.

    ``part`` is the component it belongs to. ``traced`` says that it is something the unit does, which a
    repairer may trace; ``ends`` are the points of the sheet a conductor runs between. ``may`` is another
    state it may as well stand in, where nobody knows which: a bimetal between its two temperatures. What is
    not ``metered`` takes its power from what another load has taken at the plug already. What passes only
    part of each ``wave`` is closed for that part of the time.
    """

    id: str
    a: str
    b: str
    kind: BranchKind
    part: str
    name: str
    states: States
    start: str
    control: Control | None = None
    traced: bool = False
    ends: tuple[str, ...] = ()
    may: str = ""
    metered: bool = True
    wave: Wave | None = None

    def __post_init__(self) -> None:
        if self.start not in self.states or (self.may and self.may not in self.states):
            unknown = self.start if self.start not in self.states else self.may
            message = f"branch {self.id} has no state “{unknown}”"
            raise CircuitError(message)

    def row(self, state: str, analysis: Analysis, omega: float) -> Row:
        """The row of one state, worked out once."""
        key = (state, analysis, omega)
        if key not in self._rows:
            self._rows[key] = row_of(self.states[state], analysis, omega)
        return self._rows[key]

    @cached_property
    def _rows(self) -> dict[tuple[str, Analysis, float], Row]:
        return {}


@dataclass(frozen=True)
class Stray:
    """Capacitance between two nodes that nobody put there."""

    a: str
    b: str
    farads: float


@dataclass(frozen=True)
class Coupling:
    """A branch that takes ``share`` times the current of another in DC: what a rail draws from the rail that
    feeds it.

    Its own states are to be open.
    """

    branch: str
    of: str
    share: float


class Topology:
    """What of a circuit no state changes: its nodes, where its branches end, and where the system's matrix
    has entries.

    Unknowns: the n node voltages, then the m branch currents; N = n + m stands for the reference.
    """

    def __init__(
        self,
        reference: str,
        branches: tuple[tuple[str, str, str], ...],
        strays: tuple[Stray, ...],
        couplings: tuple[Coupling, ...] = (),
    ) -> None:
        self.wiring = (reference, branches, strays, couplings)
        met = dict.fromkeys(node for _, a, b in branches for node in (a, b))
        met |= dict.fromkeys(node for stray in strays for node in (stray.a, stray.b))
        met.pop(reference, None)
        self.nodes = tuple(met)
        self.node_index = {node: row for row, node in enumerate(self.nodes)} | {reference: -1}
        self.branch_index = {identifier: place for place, (identifier, _, _) in enumerate(branches)}
        self.size = len(self.nodes) + len(branches)
        self.ends = self.rows_of([node for _, a, b in branches for node in (a, b)]).reshape(-1, 2)
        """Each branch's two rows (m×2)."""

    def rows_of(self, nodes: Sequence[str]) -> np.ndarray:
        """The rows of some nodes; N for the reference and for a node nothing is connected to."""
        found = np.array([self.node_index.get(node, -1) for node in nodes], int)
        found[found < 0] = self.size
        return found

    @cached_property
    def pattern(self) -> dict[Analysis, "Pattern"]:
        """Where the matrix has entries, in each analysis."""
        return {analysis: Pattern(self, analysis) for analysis in Analysis}


class Pattern:
    """The system's matrix in one analysis, column by column, ready to be filled with the branches' α and
    β.

    Stamps, in order: insulation and strays (whose values stand), the branches' currents at their two
    nodes, then α, −α and −β of every branch.
    """

    def __init__(self, topology: Topology, analysis: Analysis) -> None:
        n, size, ends = len(topology.nodes), topology.size, topology.ends
        nodes, branches = np.arange(n), np.arange(n, size)
        places = [np.array([nodes, nodes])]
        insulation, farads = np.full(n, 1 / INSULATION_OHMS), np.zeros(n)
        strays = topology.wiring[2]
        if analysis is Analysis.AC and strays:
            a, b = (
                topology.rows_of([stray.a for stray in strays]),
                topology.rows_of([stray.b for stray in strays]),
            )
            across = np.array([stray.farads for stray in strays])
            places += [np.array([a, a]), np.array([b, b]), np.array([a, b]), np.array([b, a])]
            farads = np.concatenate([farads, across, across, -across, -across])
            insulation = np.concatenate([insulation, np.zeros(4 * len(strays))])
        couplings = topology.wiring[3]
        if analysis is Analysis.DC and couplings:
            at = n + np.array(
                [[topology.branch_index[each.branch], topology.branch_index[each.of]] for each in couplings]
            )
            places.append(at.T)
            insulation = np.concatenate([insulation, [-each.share for each in couplings]])
            farads = np.concatenate([farads, np.zeros(len(couplings))])
        places += [np.array([ends[:, 0], branches]), np.array([ends[:, 1], branches])]
        places += [
            np.array([branches, ends[:, 0]]),
            np.array([branches, ends[:, 1]]),
            np.array([branches, branches]),
        ]
        row, column = np.concatenate(places, axis=1)
        one = np.ones(len(branches))
        self._insulation, self._farads, self._currents = insulation, farads, np.concatenate([one, -one])
        self._kept = np.flatnonzero((row < size) & (column < size))
        row, column = row[self._kept], column[self._kept]
        self._order = np.lexsort((row, column))
        row, column = row[self._order], column[self._order]
        new = np.ones(len(row), bool)
        new[1:] = (row[1:] != row[:-1]) | (column[1:] != column[:-1])
        self._starts = np.flatnonzero(new)
        self.indices = row[self._starts].astype(np.int32)
        self.indptr = np.searchsorted(column[self._starts], np.arange(size + 1)).astype(np.int32)

    def values(self, alpha: np.ndarray, beta: np.ndarray, omega: float) -> np.ndarray:
        """The matrix's entries for the branches' α and β (m each): complex where β is."""
        fixed = self._insulation + 1j * omega * self._farads if np.iscomplexobj(beta) else self._insulation
        stamped = np.concatenate([fixed, self._currents, alpha, -alpha, -beta])
        return np.add.reduceat(stamped[self._kept][self._order], self._starts)


@dataclass(frozen=True)
class Circuit:
    """A unit in one mode, with the plug in or out and some connectors pulled: branches in their starting
    states."""

    mode: str
    live: bool
    hertz: float
    mains_volts: float
    reference: str
    branches: tuple[Branch, ...]
    strays: tuple[Stray, ...]
    signals: frozenset[str]
    pulled: tuple[str, ...] = field(default=())
    couplings: tuple["Coupling", ...] = ()
    stirred: bool = False
    """Whether something drives it though the plug is out, as a meter's own volts drive junctions: then logic
    chooses states there too."""

    like: Topology | None = field(default=None, compare=False, repr=False)
    """Another circuit's topology, taken over where it is the same."""

    @property
    def chooses(self) -> bool:
        """Whether logic chooses states: with the plug in, or where a meter stirs it."""
        return self.live or self.stirred

    @property
    def omega(self) -> float:
        """Angular frequency of the mains in rad/s."""
        return 2 * math.pi * self.hertz

    @cached_property
    def topology(self) -> Topology:
        """What of this circuit no state changes."""
        wiring = (
            self.reference,
            tuple((branch.id, branch.a, branch.b) for branch in self.branches),
            self.strays,
            self.couplings,
        )
        return self.like if self.like is not None and self.like.wiring == wiring else Topology(*wiring)

    @property
    def nodes(self) -> tuple[str, ...]:
        """All nodes but the reference, in the order met."""
        return self.topology.nodes

    @property
    def node_index(self) -> dict[str, int]:
        """Node -> row; the reference has −1."""
        return self.topology.node_index

    @property
    def branch_index(self) -> dict[str, int]:
        """Branch id -> its place in ``branches``."""
        return self.topology.branch_index

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
