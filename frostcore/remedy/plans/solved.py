"""A plan solved: what runs in each state, what is lost, what it draws, what must be known of it."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from frostcore.circuit.element import Analysis, BranchKind
from frostcore.circuit.power import at_plug
from frostcore.circuit.reach import mains_nodes
from frostcore.circuit.settle import BOTH, Settled
from frostcore.remedy.plans.guards import Guards
from frostcore.remedy.plans.running import (
    K,
    Running,
    State,
    part_of,
)
from frostcore.sentence import day_said, in_sentence
from frostcore.sheet.kept import KeptBySheet
from frostcore.sheet.model import Component, Place, Sheet
from frostcore.sheet.plan import Plan
from frostcore.sheet.rewired import PLACED, boards_out, changed

LOW_AC = 5.0
"""Alternating volts that nothing made for direct current may have across it."""

HOURS = 8.76
"""Kilowatt-hours a year for each watt."""

MOTOR_SHARE = 1.05
"""A start that takes no more than this of the running current is none."""


@dataclass(frozen=True)
class Ran:
    """What runs in one state, by part, and the watts at the plug."""

    state: str
    mode: str
    warm: bool
    parts: tuple[str, ...]
    watts: float


class Before:
    """The unit as it is, looked at once for every plan."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet, self.running = sheet, Running(sheet)
        self.guards = Guards(self.running)

    @cached_property
    def mains(self) -> frozenset[str]:
        """The nodes that mains reach, as mains wires have it."""
        return reached(self.running)

    @cached_property
    def earth_amperes(self) -> float:
        """The most that flows to earth."""
        return max((to_earth(state) for state in self.running.states), default=0.0)


_before = KeptBySheet(Before, 8)


def before_of(sheet: Sheet) -> Before:
    """The unit before any plan, kept."""
    return _before.of(sheet)


class Solved:
    """A plan on a sheet; Unfit where it leads nowhere."""

    def __init__(self, sheet: Sheet, plan: Plan) -> None:
        self.plan, self.before = plan, before_of(sheet)
        self.sheet = changed(sheet, plan)
        self.running = Running(self.sheet)
        self.guards = Guards(self.running)

    @cached_property
    def runs(self) -> tuple[Ran, ...]:
        """What runs, state by state."""
        return tuple(
            Ran(
                state.name,
                state.mode.id,
                state.warm,
                tuple(sorted({part_of(load) for load in state.running})),
                at_plug(state.settled).watts,
            )
            for state in self.running.states
        )

    @cached_property
    def lost_parts(self) -> tuple[str, ...]:
        """Parts that ran in some state and run in none now."""
        gone = self.before.running.parts_running - self.running.parts_running
        order = [part.id for part in self.sheet.components]
        return tuple(sorted(gone, key=order.index))

    @cached_property
    def lost(self) -> tuple[str, ...]:
        """What is lost, in words."""
        return tuple(self._lost())

    def _lost(self) -> Iterator[str]:
        was = {board.component for board in boards_out(self.before.sheet)}
        out = [board.component for board in boards_out(self.sheet) if board.component not in was]
        lost = set(self.lost_parts)
        for name in self.lost_parts:
            part = self.running.parts[name]
            if part.kind is K.DAMPER:
                continue
            yield LOSES.get(part.kind, "{name} no longer runs").format(name=part.name)
        if out:
            yield "Fault codes, alarms, fast cooling and the set point at the display"
            sensors = [part.name for part in self.sheet.components if part.kind is K.THERMISTOR]
            if sensors:
                yield "The sensors decide nothing any more; they stay where they are"
        stays = [part.name for part in self.sheet.components if part.kind is K.DAMPER and part.id in lost]
        if stays:
            yield "The damper stays where it stood: half open is best, set by hand before the plug is pulled"

    @cached_property
    def warnings(self) -> tuple[str, ...]:
        """What is no refusal and must be known."""
        return tuple(dict.fromkeys(self._warnings()))

    def _warnings(self) -> Iterator[str]:
        heaters = {part.id for part in self.sheet.components if part.kind is K.HEATER}
        fans = {part.id for part in self.sheet.components if part.kind in {K.FAN_AC, K.FAN_DC}}
        for ran in self.runs:
            for heater in heaters & set(ran.parts):
                wet = self.running.parts[heater].place
                blowing = [fan for fan in fans & set(ran.parts) if self.running.parts[fan].place == wet]
                if not all(self.before.running.run_together(heater, fan) for fan in blowing):
                    yield "The fan blows while the heater is on: defrost takes longer, and the food warms"
        yield from self._in_the_neutral()
        yield from self._more_for_contacts()
        if not self.plan.keeps:
            yield "The plan names nothing it keeps running, so a forgotten wire would not show"
        if self.plan.stop_gap_until:
            yield f"A stop-gap: it is undone by {day_said(self.plan.stop_gap_until)}"

    def _in_the_neutral(self) -> Iterator[str]:
        """Contacts put in that part the neutral: the load stays live behind an open contact."""
        for part in self.plan.added:
            if part.kind not in PLACED or part.kind is K.DEFROST_TIMER:
                continue
            for state in self.running.states:
                if (state.mode.positions or {}).get(part.id) != "open":
                    continue
                solved = state.settled.solved[Analysis.AC]
                nodes = [part.node(end) for end in ("1", "2")]
                rows = state.settled.circuit.topology.rows_of(nodes)
                volts = sorted(abs(complex(solved.x[row])) for row in rows)
                both_low = volts[1] > self.sheet.plate.mains_volts / 2 and volts[0] < LOW_AC
                if both_low and self._load_side_live(state, part):
                    yield (
                        f"The {in_sentence(part.name)} stands in the neutral: with it open its load is still"
                        " live"
                    )

    def _load_side_live(self, state: State, part: Component) -> bool:
        """Whether what an open contact stops has mains volts on both its ends."""
        base = next((one for one in self.running.states if one.mode.id == _closed(state.mode.id, part)), None)
        if base is None:
            return False
        circuit, solved = state.settled.circuit, state.settled.solved[Analysis.AC]
        for load in base.running - state.running:
            branch = circuit.branch(load)
            a, b = circuit.topology.rows_of([branch.a, branch.b])
            if min(abs(complex(solved.x[a])), abs(complex(solved.x[b]))) > self.sheet.plate.mains_volts / 2:
                return True
        return False

    def _more_for_contacts(self) -> Iterator[str]:
        """Outputs of a board that carry more than they did."""
        for name, now in _most_through(self.running, BranchKind.SWITCH).items():
            was = _most_through(self.before.running, BranchKind.SWITCH).get(name, 0.0)
            if was > 0 and now > was * MOTOR_SHARE:
                branch = self.running.states[0].settled.circuit.branch(name)
                yield f"The {in_sentence(branch.name)} carries {now:.2g} A, before {was:.2g} A"

    def yearly(self, duty: float) -> float:
        """Kilowatt-hours a year more than before, with the compressor running for a share ``duty`` of the
        time; never an absolute, which no plate foretells."""
        before, now = _watts(self.before.running), _watts(self.running)
        return HOURS * (duty * (now[0] - before[0]) + (1 - duty) * (now[1] - before[1]))

    @property
    def watts(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Watts with the compressor running and resting: before, and after."""
        return _watts(self.before.running), _watts(self.running)


LOSES = {
    K.DISPLAY: "{name}: dark",
    K.HEATER: "{name} no longer heats: frost is melted by resting, or by hand",
    K.LAMP: "{name}: dark",
    K.FAN_AC: "{name} stands: cold is not carried, or heat not carried off",
    K.FAN_DC: "{name} stands: cold is not carried, or heat not carried off",
    K.COMPRESSOR: "{name} stands: it no longer cools",
}


def _closed(mode: str, part: Component) -> str:
    return mode.replace(f"_{part.id}_open", "")


def _watts(running: Running) -> tuple[float, float]:
    """Watts at the plug with the compressor running, and with it resting: doors shut, no heater."""
    resting: list[float] = []
    cooling: list[float] = []
    kinds = {part.id: part.kind for part in running.sheet.components}
    for state in running.states:
        runs = {kinds[part_of(load)] for load in state.running}
        if state.warm or K.LAMP in runs or (K.HEATER in runs and _defrosts(state, running)):
            continue
        (cooling if K.COMPRESSOR in runs else resting).append(at_plug(state.settled).watts)
    return float(cooling[0] if cooling else 0.0), float(resting[0] if resting else 0.0)


def _defrosts(state: State, running: Running) -> bool:
    """Whether a heater that runs is the coil's."""
    kinds = {part.id: part.kind for part in running.sheet.components}
    heaters = {part_of(load) for load in state.running if kinds[part_of(load)] is K.HEATER}
    return any(heater_of_coil(running.sheet, name) for name in heaters)


def heater_of_coil(sheet: Sheet, name: str) -> bool:
    """Whether a heater is the coil's: its place is one that is wet."""
    part = sheet.component(name)
    return is_wet(sheet, sheet.place(part.place))


def is_wet(sheet: Sheet, place: Place) -> bool:
    """Whether water stands in a place: the sheet says so, or what ends a defrost sits there."""
    ends = {K.BIMETAL, K.THERMAL_FUSE}
    return place.wet or any(part.place == place.id and part.kind in ends for part in sheet.components)


def to_earth(state: State) -> float:
    """Amperes to earth through the unit's plug."""
    plugs = [branch.id for branch in state.settled.circuit.branches if branch.id.endswith(".e")]
    return max((abs(state.settled.amperes(name, each)) for name in plugs for each in BOTH), default=0.0)


def through(settled: Settled, branch: str) -> float:
    """Amperes through a branch, alternating and direct."""
    return sum(abs(settled.amperes(branch, each)) for each in BOTH)


def _most_through(running: Running, kind: BranchKind) -> dict[str, float]:
    found: dict[str, float] = {}
    for state in running.states:
        for branch in state.settled.circuit.branches:
            if branch.kind is kind:
                found[branch.id] = max(found.get(branch.id, 0.0), through(state.settled, branch.id))
    return found


def reached(running: Running) -> frozenset[str]:
    """The nodes mains reach, as its wires have it."""
    return mains_nodes(running.states[0].settled.circuit) if running.states else frozenset()
