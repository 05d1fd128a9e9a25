"""A plant through time: minute by minute, and every switching to the last digit."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from frostcore.errors import FrostError
from frostcore.thermal.control import DAY, Act, Control, Event, Guard
from frostcore.thermal.modes import FROST_STEP, MELTS, Equations, Mode, Nodes, Phase, frost_step, stored
from frostcore.thermal.plant import Thermal
from frostcore.thermal.step import BLOCK, MINUTE, Stepping, at, first_below

Floats = npt.NDArray[np.float64]

MOST_AN_HOUR = 400
"""More switchings an hour than that is no unit but an error of the plant."""

LAPS = 1e-7
"""Two pieces or phases that meet lap by so much (K, W): what rests at their border does not switch on and
on."""

DRY = 1e-9
"""Less frost than that is none, kg."""


@dataclass(frozen=True, eq=False)
class Simulated:
    """What came of it: rows a minute apart from 0 on (rows × nodes), and what happened."""

    plant: Thermal
    nodes: Nodes
    rows: Floats
    events: tuple[Event, ...]

    @property
    def minutes(self) -> Floats:
        """Minutes since the start, of each row."""
        return np.arange(len(self.rows), dtype=float)

    def of(self, node: str) -> Floats:
        """A node through time."""
        return np.asarray(self.rows[:, self.nodes.of[node]])

    @property
    def watts(self) -> Floats:
        """The mean watts at the plug in the minute before each row (of the first: in the one after it)."""
        mean = np.diff(self.of("electric")) / MINUTE
        return np.concatenate([mean[:1], mean])

    def when(self, what: str) -> Floats:
        """The seconds at which something happened."""
        return np.array([event.at for event in self.events if event.what == what])

    @property
    def balance(self) -> float:
        """What no store, no flow and no melting explains of all the energy, in J: 0 but for rounding."""
        first, last = self.rows[0], self.rows[-1]
        gone = last - first
        of = self.nodes.of
        entered = gone[of["inside"]] + gone[of["entered"]]
        taken = stored(self.plant, self.nodes, first, last) + MELTS * gone[of["melted"]]
        return float(entered - taken)


class Plant:
    """A plant with what its modes need, kept: many runs of one are worked with the same."""

    def __init__(self, plant: Thermal) -> None:
        self.plant = plant
        self.nodes = Nodes(plant)
        self._equations: dict[Mode, Equations] = {}
        self._stepping: dict[Mode, Stepping] = {}
        self._guards: dict[tuple[object, ...], tuple[Floats, list[Guard]]] = {}

    def equations(self, mode: Mode) -> Equations:
        """A mode's."""
        if mode not in self._equations:
            self._equations[mode] = Equations(self.plant, self.nodes, mode)
        return self._equations[mode]

    def stepping(self, mode: Mode) -> Stepping:
        """A mode's."""
        if mode not in self._stepping:
            self._stepping[mode] = Stepping.of(self.equations(mode).m)
        return self._stepping[mode]

    def start(self, celsius: float | dict[str, float]) -> Floats:
        """Everything at one temperature, or nodes at their own (the others as the room); no frost."""
        z = np.zeros(self.nodes.size)
        for name, place in self.nodes.of.items():
            if name.partition(":")[0] in {"vapour", "frost"} or name in _COUNTED:
                continue
            z[place] = celsius if isinstance(celsius, float) else celsius.get(name, self.plant.room)
        z[-1] = 1.0
        return z

    def guards(self, mode: Mode, control: Control) -> tuple[Floats, list[Guard]]:
        """All levels of a mode, as rows over z (guards × n)."""
        key = (mode, control.key)
        if key not in self._guards:
            found = [*control.guards(), *self._of_mode(mode)]
            rows = np.zeros((len(found), self.nodes.size))
            for row, guard in zip(rows, found, strict=True):
                if guard.node.startswith("net:"):
                    row[:] = self.equations(mode).net[guard.node.removeprefix("net:")]
                    row[-1] -= guard.level
                else:
                    row[self.nodes.of[guard.node]] = guard.sign
                    row[-1] = -guard.sign * guard.level
            self._guards[key] = rows, found
        return self._guards[key]

    def _of_mode(self, mode: Mode) -> list[Guard]:
        found = []
        for number, face in enumerate(self.plant.evaporators):
            metal, frost = f"metal:{face.id}", f"frost:{face.id}"
            phase, step = mode.phases[number], mode.frost[number]
            if phase == "cold":
                found.append(Guard(metal, LAPS, -1.0, "thaws", str(number)))
            elif phase == "warm":
                found.append(Guard(metal, -LAPS, 1.0, "cold", str(number)))
            else:
                found += [
                    Guard(frost, 0.0, 1.0, "warm", str(number)),
                    Guard(f"net:{face.id}", -LAPS, 1.0, "cold", str(number)),
                ]
            found.append(Guard(frost, (step + 1) * FROST_STEP, -1.0, "more frost", str(number)))
            if step:
                found.append(Guard(frost, step * FROST_STEP, 1.0, "less frost", str(number)))
        if mode.runs and self.plant.compressor:
            face_id = next(iter(mode.cools))
            low, high = self.plant.compressor.map.bounds(mode.piece)
            if np.isfinite(low):
                found.append(Guard(f"metal:{face_id}", low - LAPS, 1.0, "piece", "-1"))
            if np.isfinite(high):
                found.append(Guard(f"metal:{face_id}", high + LAPS, -1.0, "piece", "+1"))
        return found


_COUNTED = frozenset({"electric", "inside", "entered", "melted", "condensed"})


class _Run:
    """One run: z, the control, and of each evaporator its phase and its step of frost."""

    def __init__(self, plant: Plant, z: Floats, control: Control) -> None:
        self.plant, self.z, self.control = plant, z, control
        faces = plant.plant.evaporators
        self.phases: list[Phase] = []
        for face in faces:
            warm = self._of(f"metal:{face.id}") >= 0
            wet = self._of(f"frost:{face.id}") > DRY
            self.phases.append("cold" if not warm else "melts" if wet else "warm")
        self.frost = [frost_step(self._of(f"frost:{face.id}")) for face in faces]
        self.piece = 0
        self.mode = self._mode()

    def _of(self, node: str) -> float:
        return float(self.z[self.plant.nodes.of[node]])

    def _mode(self) -> Mode:
        """The mode the control asks for; the piece of the map is found anew where another evaporator is
        cooled."""
        control, compressor = self.control, self.plant.plant.compressor
        cools = control.cools
        if cools and compressor and cools != getattr(getattr(self, "mode", None), "cools", None):
            self.piece = compressor.map.piece(self._of(f"metal:{next(iter(cools))}"))
        return Mode(
            control.runs, self.piece if cools else 0, cools, control.fans, control.closed, control.heats,
            control.modules, control.doors, tuple(self.phases), tuple(self.frost), control.plugged,
        )  # fmt: skip

    def happens(self, guard: Guard) -> None:
        """A guard was passed."""
        number = int(guard.of) if guard.of.lstrip("+-").isdigit() else 0
        match guard.what:
            case "thaws":
                face = self.plant.plant.evaporators[number]
                wet = self._of(f"frost:{face.id}") > DRY
                self.phases[number] = "melts" if wet else "warm"
                of = self.plant.nodes.of
                if wet:  # what warmth it has above 0 °C by now has melted some
                    melted = face.metal * self._of(f"metal:{face.id}") / MELTS
                    self.z[of[f"metal:{face.id}"]] = 0.0
                    self.z[of[f"frost:{face.id}"]] -= melted
                    self.z[of["melted"]] += melted
                else:
                    self.z[self.plant.nodes.of[f"frost:{face.id}"]] = 0.0
            case "cold" | "warm":
                self.phases[number] = guard.what
                if guard.what == "warm":
                    face = self.plant.plant.evaporators[number]
                    self.z[self.plant.nodes.of[f"frost:{face.id}"]] = 0.0
                    self.frost[number] = 0
            case "more frost":
                self.frost[number] += 1
            case "less frost":
                self.frost[number] -= 1
            case "piece":
                self.piece += int(guard.of)
            case _:
                self.control.happens(guard.what, guard.of)

    def within(self, end: float) -> tuple[float, Guard | None]:
        """Go on within a minute, as far as ``end`` of it or to the first guard passed: how far that was."""
        polynomial = self.stepping.polynomial(self.z)
        crossed = first_below(polynomial @ self.guards.T, end)
        share = crossed[0] if crossed else end
        self.z = at(polynomial, share)
        return share, self.named[crossed[1]] if crossed else None

    def refresh(self) -> None:
        """Let the control look at itself, and take the mode, its stepping, its guards and what is due from
        it."""
        self.control.settle()
        self.mode = self._mode()
        self.stepping = self.plant.stepping(self.mode)
        self.guards, self.named = self.plant.guards(self.mode, self.control)
        self.due = self.control.due()


def _begun(
    whole: Plant, start: float | dict[str, float] | Floats | None, acts: tuple[Act, ...], *, warm: bool
) -> _Run:
    if isinstance(start, np.ndarray):
        z = start.copy()
    else:
        z = whole.start(whole.plant.room if start is None else start)
    run = _Run(whole, z, Control(whole.plant, acts, warm=warm))
    run.control.clock()
    run.refresh()
    return run


def simulate(
    plant: Thermal | Plant,
    days: float,
    *,
    start: float | dict[str, float] | Floats | None = None,
    acts: tuple[Act, ...] = (),
    warm: bool = True,
) -> Simulated:
    """A plant for so many days, from the room's temperature unless it starts elsewhere.

    ``start`` is one temperature, temperatures by node, or a z that another run ended with; ``warm`` says
    whether its loops ask for cooling at first. FrostError where it switches without end.
    """
    run = _begun(plant if isinstance(plant, Plant) else Plant(plant), start, acts, warm=warm)
    control = run.control
    count = round(days * DAY / MINUTE)
    rows = np.empty((count + 1, run.plant.nodes.size))
    rows[0] = run.z
    minute, past, busy = 0, 0.0, _Busy()
    while minute < count:
        now = minute * MINUTE + past
        until = min(run.due, count * MINUTE)
        ahead = min(BLOCK, int((until - now) / MINUTE + 1e-9)) if past == 0.0 else 0
        if ahead >= 1:
            block = run.stepping.rows(run.z, ahead)
            good = _good(run, block)
            rows[minute + 1 : minute + 1 + good] = block[:good]
            if good:
                run.z = block[good - 1].copy()
                minute += good
                control.move(minute * MINUTE)
            if good == ahead:
                if run.due <= minute * MINUTE + 1e-9:
                    control.clock()
                    run.refresh()
                continue
            end = 1.0
        else:
            end = min(1.0 - past / MINUTE, (until - now) / MINUTE)
        share, crossed = run.within(end)
        past += share * MINUTE
        control.move(minute * MINUTE + past)
        if crossed:
            busy.count(minute, crossed.what)
            run.happens(crossed)
            run.refresh()
        elif until - (minute * MINUTE + past) < 1e-7:
            control.clock()
            run.refresh()
        if MINUTE - past < 1e-7:
            minute, past = minute + 1, 0.0
            rows[minute] = run.z
    return Simulated(run.plant.plant, run.plant.nodes, rows, tuple(control.events))


def _good(run: _Run, block: Floats) -> int:
    """How many rows of a block are before anything switches; a guard that is passed and passed back within a
    row shows as a least row nearer to it than to its neighbours."""
    values = np.concatenate([run.z[None], block]) @ run.guards.T
    below = (values[1:] < 0.0).any(axis=1)
    good = int(below.argmax()) if below.any() else len(block)
    turns = (values[1:-1] < values[:-2]) & (values[1:-1] < values[2:])
    near = values[1:-1] < (values[:-2] - values[1:-1]) + (values[2:] - values[1:-1])
    for row in np.flatnonzero((turns & near).any(axis=1)):
        for before in (int(row), int(row) + 1):
            if before < good and first_below(
                run.stepping.polynomial(_before(run, block, before)) @ run.guards.T, 1.0
            ):
                return before
    return good


def _before(run: _Run, block: Floats, row: int) -> Floats:
    """Z at the begin of a row of a block."""
    return run.z if row == 0 else np.asarray(block[row - 1])


class _Busy:
    """Switchings are counted by the hour: an error, not a run that never ends."""

    def __init__(self) -> None:
        self.hour, self.found = 0, 0

    def count(self, minute: int, what: str) -> None:
        if minute // 60 != self.hour:
            self.hour, self.found = minute // 60, 0
        self.found += 1
        if self.found > MOST_AN_HOUR:
            message = f"It switches without end at minute {minute}: {what}."
            raise FrostError(message)
