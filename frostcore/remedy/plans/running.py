"""What runs in each state of a unit: every mode with the plug in, the coil cold and the coil warm."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from frostcore.circuit.damage import Change, Damage
from frostcore.circuit.element import WALL, Analysis, Branch, BranchKind, Circuit
from frostcore.circuit.faulted import SettledFaults
from frostcore.circuit.figures import EXTRA_LOW_VOLTS, INVERTER_VOLTS
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.settle import BOTH, Settled, settle
from frostcore.circuit.solver import Array
from frostcore.sheet.model import Component, ComponentKind, Mode, Sheet

K = ComponentKind

WORKING = frozenset(
    {
        K.AUGER_MOTOR,
        K.COMPRESSOR,
        K.DAMPER,
        K.DISPLAY,
        K.FAN_AC,
        K.FAN_DC,
        K.FLAP_MOTOR,
        K.HEATER,
        K.INVERTER,
        K.LAMP,
        K.MODULE,
        K.POWER_SUPPLY,
        K.RELAY,
        K.VALVE,
    }
)
"""Kinds of parts that do something while they have power."""

ON_STATES = {"running", "turning", "lit", "on", "pumping"}
WARMER = 15.0
"""Kelvin above its opening at which a bimetal stands open for certain."""

RUNS_SHARE = 0.7
"""Of its rated volts, from where something without a state of its own runs."""


SILENT = {"start", "command", "supply"}
"""Parts of a load that say nothing of whether it runs: a start winding, an inverter's command and its own
electronics."""


@dataclass(frozen=True)
class State:
    """The unit in one mode with the plug in, the coil as cold as that has it or ``warm``; ``turned`` is with
    live and neutral changed over at the outlet; ``running`` are the branches of the loads that run."""

    mode: Mode
    warm: bool
    turned: bool
    settled: Settled
    running: frozenset[str]

    @property
    def name(self) -> str:
        """The state in words."""
        parts = (self.mode.name, "coil warm" if self.warm else "", "plug turned" if self.turned else "")
        return ", ".join(part for part in parts if part)


class Running:
    """A sheet's states and what runs in each."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet, self.circuits = sheet, circuits_of(sheet)
        self.parts = {part.id: part for part in sheet.components}

    @cached_property
    def states(self) -> tuple[State, ...]:
        """Every state with the plug as it is wired; the coil warm too where anything stands by that."""
        return tuple(
            self._state(mode, self.circuits.scene(mode.id, celsius=self._warm() if warm else ()), warm=warm)
            for mode in self.circuits.live_modes
            for warm in ((False, True) if self._warm() else (False,))
        )

    @cached_property
    def turned(self) -> tuple[State, ...]:
        """The same states with live and neutral changed over at the outlet."""
        found, like = list[State](), None
        for state in self.states:
            if state.warm:
                continue  # a contact that has opened lets nothing more to earth
            circuit = replace(_turned(state.settled.circuit), like=like)
            like = circuit.topology
            settled = settle(circuit, state.settled)
            found.append(self._state(state.mode, settled, warm=False, turned=True))
        return tuple(found)

    def _state(self, mode: Mode, settled: Settled, *, warm: bool, turned: bool = False) -> State:
        return State(mode, warm, turned, settled, self.running_in(settled))

    def _warm(self) -> tuple[tuple[str, float], ...]:
        """The places of bimetals, warm enough that these are open."""
        warm: dict[str, float] = {}
        for part in self.sheet.components:
            opens = part.nominal.opens_celsius
            if part.kind is K.BIMETAL and opens is not None:
                warm[part.place] = max(warm.get(part.place, 0.0), opens + WARMER)
        return tuple(sorted(warm.items()))

    def with_off(self, groups: Sequence[Iterable[str]]) -> list[list[frozenset[str]]]:
        """What runs in each state (first) with each group of contacts, outputs or commands held off."""
        if not self.states or not groups:
            return [[] for _ in self.states]
        circuit = self.states[0].settled.circuit
        damages = [
            Damage({name: Change(forced=_off(circuit.branch(name))) for name in group}) for group in groups
        ]
        found = SettledFaults([state.settled for state in self.states], [damages] * len(self.states))
        x = {analysis: found.edited(analysis).x for analysis in BOTH}
        every = [
            self._running(circuit, found.states(at), {analysis: x[analysis][at] for analysis in BOTH})
            for at in range(len(self.states) * len(groups))
        ]
        return [every[at : at + len(groups)] for at in range(0, len(every), len(groups))]

    def starting(self, state: State) -> Settled:
        """A state in the moment of starting: every motor on mains stands, a start device is cold, and nothing
        has had the time to trip."""
        changes = {
            branch.id: Change(forced=still)
            for branch in state.settled.circuit.branches
            for still in ("standstill", "cold")
            if still in branch.states
        }
        changes |= {
            branch.id: Change(forced="closed")
            for branch in state.settled.circuit.branches
            if branch.control and branch.control.trip and branch.control.on == "closed"
        }
        return self.circuits.scene(
            state.mode.id, celsius=self._warm() if state.warm else (), damage=Damage(changes)
        )

    @cached_property
    def parts_running(self) -> frozenset[str]:
        """The parts that run in one state at least."""
        return frozenset(part_of(name) for state in self.states for name in state.running)

    def run_together(self, *parts: str) -> bool:
        """Whether parts run in one state together."""
        return any(set(parts) <= {part_of(load) for load in state.running} for state in self.states)

    @cached_property
    def _loads(self) -> tuple[tuple[int, Branch, Component], ...]:
        return tuple(self.loads(self.circuits.scene(self.sheet.modes[0].id).circuit))

    def loads(self, circuit: Circuit) -> Iterator[tuple[int, Branch, Component]]:
        """The loads that tell whether their part runs: place, branch, part."""
        for place, branch in enumerate(circuit.branches):
            part = self.parts.get(branch.part)
            says = branch.id.rpartition(".")[2] not in SILENT
            if part and part.kind in WORKING and branch.kind is BranchKind.LOAD and says:
                yield place, branch, part

    def running_in(self, settled: Settled) -> frozenset[str]:
        """The branches of loads that run in a settled circuit."""
        x = {analysis: solved.x for analysis, solved in settled.solved.items()}
        return self._running(settled.circuit, settled.states, x)

    def _running(
        self, circuit: Circuit, states: Sequence[str], x: Mapping[Analysis, Array]
    ) -> frozenset[str]:
        ends = circuit.topology.ends

        def has_volts(place: int, branch: Branch, part: Component) -> bool:
            """Whether something without a state of its own has the volts it runs on."""
            phase = branch.id.rpartition(".")[2] in {"u", "v", "w"}
            rated = INVERTER_VOLTS if phase else rated_volts(self.sheet, part)
            a, b = ends[place]
            return bool(max(abs(each[a] - each[b]) for each in x.values()) >= RUNS_SHARE * rated)

        return frozenset(
            branch.id
            for place, branch, part in self._loads
            if states[place] in ON_STATES or (not states[place] and has_volts(place, branch, part))
        )


def part_of(branch: str) -> str:
    """The part a load's branch belongs to."""
    return branch.partition(".")[0]


def _off(branch: Branch) -> str:
    """The state of a contact, an output or a command that lets nothing through."""
    return "open" if "open" in branch.states else "off"


def _turned(circuit: Circuit) -> Circuit:
    """The circuit with live and neutral changed over where the plug meets the wall."""
    other = {"wall_l": "wall_n", "wall_n": "wall_l"}
    branches = tuple(
        replace(branch, a=other.get(branch.a, branch.a)) if branch.part and branch.a in WALL else branch
        for branch in circuit.branches
    )
    return replace(circuit, branches=branches, like=None)


def across(settled: Settled, branch: Branch, analysis: Analysis) -> float:
    """The volts across a branch."""
    solved = settled.solved.get(analysis)
    if solved is None:
        return 0.0
    a, b = settled.circuit.topology.rows_of([branch.a, branch.b])
    return float(abs(solved.x[a] - solved.x[b]))


def rated_volts(sheet: Sheet, part: Component) -> float:
    """The volts a part is fed with: its own, else the mains; what makes low volts is fed with mains."""
    if part.kind in {K.POWER_SUPPLY, K.INVERTER}:
        return sheet.plate.mains_volts
    return part.nominal.volts or sheet.plate.mains_volts


def on_mains(sheet: Sheet, part: Component) -> bool:
    """Whether a part is made for mains."""
    return rated_volts(sheet, part) > EXTRA_LOW_VOLTS
