"""A plant's discrete states, and the linear equations of each: ż = M z, z = [x; 1].

=============  =====================================================================
node           what
=============  =====================================================================
air:P          a compartment's air, °C; contents:P, wall:P likewise
vapour:P       water in its air, kg
sensor:P       the board's sensor there; hung:P a thermometer; coil:E on an evaporator
metal:E        an evaporator's metal, °C; frost:E, kg
bulb:E         a thermostat's bulb
condenser      and shell, sink:M
electric       J at the plug; inside: J of them that warm the plant
entered        J from the room, vapour's latent heat with it
melted         kg of frost; condensed: kg that never froze
=============  =====================================================================

While frost melts its metal stays at 0 °C and the net heat melts it. All vapour gives its latent heat of
sublimation, frozen or not: with two of them the metal would chatter about 0 °C.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from frostcore.thermal.plant import Evaporator, Module, Thermal

Floats = npt.NDArray[np.float64]

SUBLIMES, MELTS = 2.834e6, 3.336e5
"""Latent heats of ice, J/kg."""

KELVIN = 273.15

FROST_STEP = 0.05
"""Frost counts in steps of so many kg: between two an evaporator's air is taken as in their middle."""

Phase = Literal["cold", "melts", "warm"]


@dataclass(frozen=True)
class Mode:
    """All that switches: whether the compressor runs and the piece of its map, which evaporators it cools,
    what fans turn, dampers closed, heaters on, modules on, doors open; of each evaporator in order its phase
    and its step of frost."""

    runs: bool
    piece: int
    cools: frozenset[str]
    fans: frozenset[str]
    closed: frozenset[str]
    heats: frozenset[str]
    modules: frozenset[str]
    doors: frozenset[str]
    phases: tuple[Phase, ...]
    frost: tuple[int, ...]
    plugged: bool = True


def frost_step(kilograms: float) -> int:
    """The step of so much frost."""
    return max(0, int(kilograms / FROST_STEP))


class Nodes:
    """Where each node of a plant stands in z."""

    def __init__(self, plant: Thermal) -> None:
        self.names = tuple(_names(plant))
        self.of = {name: place for place, name in enumerate(self.names)}
        self.one = len(self.names)
        self.size = self.one + 1


def _names(plant: Thermal) -> Iterator[str]:
    for room in plant.compartments:
        for node in ("air", "contents", "wall", "vapour", "sensor", "hung"):
            yield f"{node}:{room.place}"
    for face in plant.evaporators:
        for node in ("metal", "frost", "coil"):
            yield f"{node}:{face.id}"
    for bulb in plant.bulbs:
        yield f"bulb:{bulb.evaporator}"
    if plant.compressor:
        yield from ("condenser", "shell")
    for module in plant.modules:
        yield f"sink:{module.component}"
    yield from ("electric", "inside", "entered", "melted", "condensed")


class Equations:
    """A plant's equations in one mode: :attr:`m`, (n+1) × (n+1), and :attr:`net`, the heat into each
    evaporator's metal as a row over z, in W."""

    def __init__(self, plant: Thermal, nodes: Nodes, mode: Mode) -> None:
        self.plant, self.nodes, self.mode = plant, nodes, mode
        self.m: Floats = np.zeros((nodes.size, nodes.size))
        self.net: dict[str, Floats] = {}
        self._holds = _holds(plant)
        self._heat = {name: np.zeros(nodes.size) for name in self._holds}
        """Watts into each node that holds heat, as rows over z."""
        for place in plant.compartments:
            self._compartment(place.place)
        for one, other, conductance in plant.joins:
            self._link(f"air:{one}", f"air:{other}", conductance)
        for number, face in enumerate(plant.evaporators):
            self._face(face, mode.phases[number], (mode.frost[number] + 0.5) * FROST_STEP)
        if plant.compressor and plant.condenser:
            self._compressor()
        for module in plant.modules:
            self._module(module)
        self._plug(plant.base_watts if mode.plugged else 0.0)
        self._lags()
        self._close()

    def _row(self, name: str) -> Floats:
        row: Floats = self.m[self.nodes.of[name]]
        return row

    def _link(self, one: str, other: str, conductance: float) -> None:
        a, b = self.nodes.of[one], self.nodes.of[other]
        for name, sign in ((one, 1.0), (other, -1.0)):
            self._heat[name][b] += sign * conductance
            self._heat[name][a] -= sign * conductance

    def _room(self, name: str, conductance: float) -> None:
        """A node joined with the room."""
        here, one = self.nodes.of[name], self.nodes.one
        for row in (self._heat[name], self._row("entered")):
            row[here] -= conductance
            row[one] += conductance * self.plant.room

    def _plug(self, watts: float, into: str = "", share: float = 1.0) -> None:
        """Watts at the plug; a share of them warms a node."""
        one = self.nodes.one
        self._row("electric")[one] += watts / self.plant.supply_share
        if into:
            self._heat[into][one] += share * watts
            self._row("inside")[one] += share * watts

    def _compartment(self, place: str) -> None:
        room = self.plant.compartment(place)
        air, wall = f"air:{place}", f"wall:{place}"
        self._link(air, f"contents:{place}", room.air_contents)
        self._link(air, wall, room.air_wall)
        self._room(wall, room.wall_room)
        opened = place in self.mode.doors
        self._room(air, room.seal + (room.door if opened else 0.0))
        vapour = self._row(f"vapour:{place}")
        vapour[self.nodes.one] += room.leak_vapour + (room.door_vapour if opened else 0.0)

    def moving(self, face: Evaporator, place: str, frost: float) -> float:
        """The share of an evaporator's conductance to a compartment that is there now."""
        share = 1.0 if not face.fan or face.fan in self.mode.fans else face.still
        if face.damper and place == face.damper_of and face.damper in self.mode.closed:
            share *= face.damper_leak
        return share / (1 + (frost / face.frost_block) ** 2)

    def _face(self, face: Evaporator, phase: Phase, frost: float) -> None:
        metal = f"metal:{face.id}"
        for place, conductance in face.serves.items():
            moving = self.moving(face, place, frost)
            self._link(metal, f"air:{place}", conductance * moving)
            taken = face.takes_vapour * moving
            vapour = self.nodes.of[f"vapour:{place}"]
            self.m[vapour, vapour] -= taken
            self._row("condensed" if phase == "warm" else f"frost:{face.id}")[vapour] += taken
            self._heat[metal][vapour] += SUBLIMES * taken
            self._row("entered")[vapour] += SUBLIMES * taken
        if face.fan and face.fan in self.mode.fans:
            self._plug(face.fan_watts, f"air:{next(iter(face.serves))}")
        if face.id in self.mode.heats:
            self._plug(face.heater_watts, metal)

    def _compressor(self) -> None:
        compressor, condenser = self.plant.compressor, self.plant.condenser
        if compressor is None or condenser is None:
            return
        turns = condenser.fan in self.mode.fans
        self._room("condenser", condenser.runs if turns or not condenser.fan else condenser.stands)
        self._room("shell", compressor.shell_sheds)
        if turns:
            self._plug(condenser.fan_watts)
        if not self.mode.runs:
            return
        of, one = self.nodes.of, self.nodes.one
        face = next(each for each in self.plant.evaporators if each.id in self.mode.cools)
        metal, hot = of[f"metal:{face.id}"], of["condenser"]
        figures = compressor.map
        constant, slope = figures.pieces[self.mode.piece]
        moved, taken = np.zeros(self.nodes.size), np.zeros(self.nodes.size)
        moved[one] = constant - figures.cross * figures.condensing
        moved[metal], moved[hot] = slope, figures.cross
        taken[one] = 1 - figures.p * figures.evaporating - figures.q * figures.condensing
        taken[metal], taken[hot] = figures.p, figures.q
        taken *= figures.takes
        self._heat[f"metal:{face.id}"] -= moved
        self._heat["condenser"] += moved + (1 - compressor.shell_share) * taken
        self._heat["shell"] += compressor.shell_share * taken
        self._row("electric")[:] += taken
        self._row("inside")[:] += taken

    def _module(self, module: Module) -> None:
        """Qc = S I Tc − I²R/2 − K (Th − Tc), P = I²R + S I (Th − Tc)."""
        of, one = self.nodes.of, self.nodes.one
        sink, metal = f"sink:{module.component}", f"metal:{module.evaporator}"
        turns = module.fan in self.mode.fans
        self._room(sink, module.sink_sheds if turns or not module.fan else module.sink_still)
        if turns:
            self._plug(module.fan_watts)
        self._link(sink, metal, module.through)
        if module.component not in self.mode.modules:
            return
        power = module.seebeck * module.amperes
        half = module.amperes**2 * module.ohms / 2
        self._heat[metal][of[metal]] -= power
        self._heat[metal][one] += half - power * KELVIN
        self._heat[sink][of[sink]] += power
        self._heat[sink][one] += half + power * KELVIN
        taken = np.zeros(self.nodes.size)
        taken[of[sink]], taken[of[metal]], taken[one] = power, -power, 2 * half
        self._row("inside")[:] += taken
        self._row("electric")[:] += taken / self.plant.supply_share

    def _lags(self) -> None:
        for room in self.plant.compartments:
            self._lag(f"sensor:{room.place}", {f"air:{room.place}": 1.0}, room.sensor_lag)
            self._lag(f"hung:{room.place}", {f"air:{room.place}": 1.0}, room.thermometer_lag)
        for face in self.plant.evaporators:
            self._lag(f"coil:{face.id}", {f"metal:{face.id}": 1.0}, face.coil_lag)
        for bulb in self.plant.bulbs:
            feels = {f"metal:{bulb.evaporator}": bulb.share, f"air:{bulb.place}": 1 - bulb.share}
            self._lag(f"bulb:{bulb.evaporator}", feels, bulb.lag)

    def _lag(self, name: str, feels: dict[str, float], seconds: float) -> None:
        row, here = self._row(name), self.nodes.of[name]
        row[here] -= 1 / seconds
        for node, share in feels.items():
            row[self.nodes.of[node]] += share / seconds

    def _close(self) -> None:
        """Heat becomes temperature; where frost melts, melting."""
        for name, heat in self._heat.items():
            self.m[self.nodes.of[name]] = heat / self._holds[name]
        for number, face in enumerate(self.plant.evaporators):
            heat = self._heat[f"metal:{face.id}"]
            self.net[face.id] = heat
            if self.mode.phases[number] == "melts":
                self._row(f"metal:{face.id}")[:] = 0.0
                self._row(f"frost:{face.id}")[:] -= heat / MELTS
                self._row("melted")[:] += heat / MELTS


def _holds(plant: Thermal) -> dict[str, float]:
    """J/K of each node that holds heat."""
    found: dict[str, float] = {}
    for room in plant.compartments:
        found |= {f"air:{room.place}": room.air, f"contents:{room.place}": room.contents}
        found[f"wall:{room.place}"] = room.wall
    for face in plant.evaporators:
        found[f"metal:{face.id}"] = face.metal
    if plant.compressor and plant.condenser:
        found |= {"condenser": plant.condenser.holds, "shell": plant.compressor.shell_holds}
    for module in plant.modules:
        found[f"sink:{module.component}"] = module.sink_holds
    return found


def stored(plant: Thermal, nodes: Nodes, before: Floats, after: Floats) -> float:
    """The heat a plant has taken up between two states, in J."""
    return float(sum(c * (after - before)[nodes.of[name]] for name, c in _holds(plant).items()))
