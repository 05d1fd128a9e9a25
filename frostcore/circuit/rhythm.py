"""What a circuit does that never settles: the phases it goes through, over and over, and how long each lasts.

A supply with more load than it bears tries again and again; a relay whose coil pulls its own rail down
chatters; a motor that can't start heats its overload until it opens, cools, and hums again. Each phase is
the circuit solved in the states it then stands in; a phase lasts as long as what ends it takes.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from frostcore.circuit.element import Circuit, Trip
from frostcore.circuit.settle import ON, TRIPPED, Levels, Logic, Settled, analyses
from frostcore.circuit.solver import Solved, rows_of

MOST_PHASES = 120
"""A rhythm of more has none that anybody would hear."""

SAME_SECONDS = 1e-6
"""Events nearer than this are one."""

LEAST_GOAL = 1.0001
"""Nearer its limit an overload takes for ever."""


@dataclass(frozen=True)
class Phase:
    """A circuit as it stands for some seconds, and what ends it."""

    settled: Settled
    seconds: float
    ends: str


@dataclass(frozen=True)
class Rhythm:
    """The phases a circuit repeats, in their order."""

    phases: tuple[Phase, ...]

    @property
    def every_seconds(self) -> float:
        """How long one round takes."""
        return sum(phase.seconds for phase in self.phases)


def rhythm(settled: Settled) -> Rhythm | None:
    """What a circuit that was found never to settle repeats, worked out once; None for one that settles."""
    if not settled.unsettled or not settled.circuit.live:
        return None
    if "rhythm" not in settled.kept:
        settled.kept["rhythm"] = _found(settled)
    found: Rhythm | None = settled.kept["rhythm"]
    return found


def _found(settled: Settled) -> Rhythm | None:
    """The rhythm, event by event: whatever wants to change does so once it has wanted to for as long as it
    takes."""
    run = _Run(settled)
    passed: list[Phase] = []
    met: dict[tuple[tuple[int, float], ...], int] = {}
    while len(passed) < MOST_PHASES:
        if run.key in met:
            return Rhythm(tuple(passed[met[run.key] :]))
        met[run.key] = len(passed)
        phase = run.pass_on()
        if phase is None:
            return None
        passed.append(phase)
    return None


class _Run:
    """A circuit on its way: how its controls stand (1×C), and in how many seconds each that wants to
    change will."""

    def __init__(self, settled: Settled) -> None:
        self._settled, self._logic = settled, Logic.of(settled.circuit)
        stands = zip(self._logic.places, self._logic.controls, strict=True)
        levels = [control.levels.index(settled.states[place]) for place, control in stands]
        self._on, self._left = np.array([levels], np.int8), dict[int, float]()
        self._heat = {column: 0.0 for column, slow in enumerate(self._logic.slow) if slow}
        """How warm what trips by its warmth is, as a share of what trips it."""
        self._look()

    @property
    def key(self) -> tuple[tuple[int, float], ...]:
        """All that tells what will happen next, to a hundredth of a second and of warmth."""
        levels = self._on[0].tolist()
        return (
            *((level, round(self._left.get(column, math.inf), 2)) for column, level in enumerate(levels)),
            *((column, round(heat, 2)) for column, heat in self._heat.items()),
        )

    def _look(self) -> None:
        """Solve the circuit as it now stands, and see what wants to change and when."""
        logic, on = self._logic, self._on
        self._standing, held = _standing(self._settled, logic, on)
        seen = logic.look(self._standing.solved)
        wanted = logic.wanted(seen, on, logic.commanded, np.zeros(1, int))
        self._next = wanted.levels[0].copy()
        trips = held | set(np.flatnonzero(wanted.trips[0]).tolist())
        self._next[list(trips)] = TRIPPED
        left = {}
        for column, control in enumerate(logic.controls):
            trip = control.trip
            if on[0, column] == TRIPPED and trip and trip.resets is not None:
                self._next[column] = ON
                left[column] = self._left.get(column, trip.resets)
            elif column in trips and trip:
                left[column] = (
                    self._warms_in(column, trip) if trip.warms else self._left.get(column, trip.seconds)
                )
            elif self._next[column] != on[0, column]:
                takes = control.takes[0 if self._next[column] == ON else 1]
                left[column] = self._left.get(column, takes)
        self._left = left

    def _goal(self, trip: Trip) -> float:
        """The warmth T∞ = (I/limit)² that its current now heads for."""
        amperes = self._standing.amperes
        return max((abs(amperes(sense.branch, sense.analysis)) / sense.rises) ** 2 for sense in trip.senses)

    def _warms_in(self, column: int, trip: Trip) -> float:
        """How long until it trips: T = T∞ + (T₀ − T∞)·e^(−t/τ) reaches 1 at t = τ·ln((T∞ − T₀)/(T∞ − 1))."""
        goal, heat = max(self._goal(trip), LEAST_GOAL), min(self._heat[column], 1.0)
        return trip.warms * math.log((goal - heat) / (goal - 1))

    def _warm(self, seconds: float) -> None:
        """What trips by its warmth warms, or cools; what comes back is cold."""
        for column, heat in self._heat.items():
            trip = self._logic.controls[column].trip
            if trip:
                goal = self._goal(trip)
                back = self._on[0, column] == TRIPPED
                self._heat[column] = 0.0 if back else goal + (heat - goal) * math.exp(-seconds / trip.warms)

    def pass_on(self) -> Phase | None:
        """Let pass what time it takes until something changes; None where nothing will."""
        if not self._left:
            return None
        seconds = min(self._left.values())
        due = [column for column, left in self._left.items() if left - seconds < SAME_SECONDS]
        branches, standing = self._settled.circuit.branches, self._standing
        self._warm(seconds)
        self._left = {name: left - seconds for name, left in self._left.items() if name not in due}
        self._on = self._on.copy()
        self._on[0, due] = self._next[due]
        self._look()
        names = [branches[place].name for place in self._logic.places[due].tolist()]
        return Phase(standing, seconds, " and ".join(names))


def _standing(settled: Settled, logic: Logic, on: Levels) -> tuple[Settled, set[int]]:
    """The circuit with its controls standing so, what gives out more than it can held to what it can; and
    which controls are over what trips them."""
    circuit, states = settled.circuit, list(settled.states)
    for column, level in enumerate(on[0]):
        states[logic.places[column]] = logic.state(column, level)
    found, held = _solved(circuit, states), set[int]()
    while over := _over(logic, on, found) - held:
        first = min(logic.rank[column] for column in over)
        for column in over:
            trip = logic.controls[column].trip
            if logic.rank[column] == first and trip:
                held.add(column)
                states[logic.places[column]] = trip.over or states[logic.places[column]]
        found = _solved(circuit, states)
    return found, held


def _over(logic: Logic, on: Levels, found: Settled) -> set[int]:
    """Which controls are on and over what trips them."""
    wanted = logic.wanted(logic.look(found.solved), on, logic.commanded, np.zeros(1, int))
    return set(np.flatnonzero(wanted.trips[0]).tolist())


def _solved(circuit: Circuit, states: Sequence[str]) -> Settled:
    solved = {
        analysis: Solved(circuit, analysis, rows_of(circuit, states, analysis))
        for analysis in analyses(circuit)
    }
    return Settled(circuit, tuple(states), (), solved)
