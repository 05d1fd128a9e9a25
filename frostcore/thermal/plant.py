"""A unit as heat sees it: compartments, evaporators, what cools them, the control; and the usual ones.

Heat capacities in J/K, conductances in W/K, vapour in kg and kg/s, temperatures in °C. Figures are of no one
unit: an engineer's of such units, each plant tuned so that temperatures, cycles, watts and energy a day are
as usual of its kind.
"""

from dataclasses import dataclass, replace
from typing import Literal

from frostcore.thermal.map import CompressorMap


@dataclass(frozen=True)
class Compartment:
    """A compartment: what its air, contents and inner wall hold, what joins them with each other and the
    room, its door while open (W/K, kg/s of vapour), what its seal lets in, and the lags of the board's sensor
    and of a thermometer hung in it (s)."""

    place: str
    air: float
    contents: float
    wall: float
    air_contents: float
    air_wall: float
    wall_room: float
    seal: float = 0.05
    leak_vapour: float = 4e-8
    door: float = 25.0
    door_vapour: float = 4e-5
    openings: int = 12
    """A day, of the usual length."""
    sensor_lag: float = 180.0
    thermometer_lag: float = 300.0


@dataclass(frozen=True)
class Evaporator:
    """A cold face: what its metal holds, the compartments it serves (W/K each, in moving air), the share left
    in still air, the damper on one of them and what that lets past closed, the frost that halves its air,
    its heater, the lag of its coil sensor; vapour taken from a compartment's air (1/s)."""

    id: str
    metal: float
    serves: dict[str, float]
    fan: str = ""
    fan_runs: Literal["cooling", "always"] = "cooling"
    fan_watts: float = 0.0
    still: float = 1.0
    damper: str = ""
    damper_of: str = ""
    damper_leak: float = 0.05
    frost_block: float = 1.0
    heater: str = ""
    heater_watts: float = 0.0
    coil_lag: float = 60.0
    takes_vapour: float = 2e-3


@dataclass(frozen=True)
class Condenser:
    """What sheds the heat: W/K while its fan runs and while it stands, what it holds."""

    runs: float
    stands: float
    holds: float
    fan: str = ""
    fan_watts: float = 0.0


@dataclass(frozen=True)
class Compressor:
    """A compressor: its map, the share of its watts its shell takes, the shell's J/K and W/K, its overload's
    two temperatures, the least time it stands between two runs (s)."""

    component: str
    map: CompressorMap
    shell_share: float = 0.45
    shell_holds: float = 4000.0
    shell_sheds: float = 2.0
    trips: float = 115.0
    resets: float = 85.0
    stands: float = 300.0
    limps: tuple[float, float] | None = None
    """Runs only so long at a time and stands so long (s), where its start or overload fails."""


@dataclass(frozen=True)
class Module:
    """A thermoelectric module between an evaporator (its cold block) and a sink: Seebeck V/K, ohms, W/K
    through it, amperes; the sink's J/K and W/K with its fan and without."""

    component: str
    evaporator: str
    seebeck: float
    ohms: float
    through: float
    amperes: float
    sink_holds: float
    sink_sheds: float
    sink_still: float
    fan: str = ""
    fan_watts: float = 0.0


@dataclass(frozen=True)
class Bulb:
    """A thermostat's bulb: of which evaporator's metal it feels what share (the rest is that compartment's
    air), and its lag (s)."""

    evaporator: str
    place: str
    share: float = 0.9
    lag: float = 90.0


@dataclass(frozen=True)
class Loop:
    """A loop of the control: what it senses (a node: ``sensor:PLACE``, ``coil:EVAPORATOR``, ``bulb:…``), its
    cut-in and cut-out, what it drives (``compressor``, ``damper:ID``, ``valve:ID``, ``module:ID``), and what
    its sensor's error adds (K)."""

    senses: str
    cut_in: float
    cut_out: float
    drives: str
    error: float = 0.0


@dataclass(frozen=True)
class Defrost:
    """When an evaporator's heater runs: after so many hours (of running, or by the clock), until its coil is
    so warm or its time is over (min), then so long for the water (min)."""

    kind: Literal["none", "run_hours", "timer"]
    hours: float = 8.0
    ends: float = 8.0
    most: float = 35.0
    drips: float = 5.0
    fuse: float = 70.0
    """The thermal fuse beside the heater opens for good, °C."""


@dataclass(frozen=True)
class Thermal:
    """A whole unit, in a room of so many °C; ``base_watts`` are what the board and the display take.
    ``supply_share`` is what its power supply makes of mains watts."""

    kind: str
    compartments: tuple[Compartment, ...]
    evaporators: tuple[Evaporator, ...]
    loops: tuple[Loop, ...]
    compressor: Compressor | None = None
    condenser: Condenser | None = None
    modules: tuple[Module, ...] = ()
    defrost: Defrost = Defrost("none")
    base_watts: float = 3.0
    supply_share: float = 1.0
    room: float = 25.0
    bulbs: tuple[Bulb, ...] = ()
    joins: tuple[tuple[str, str, float], ...] = ()
    """Compartments whose air is joined: W/K."""
    never_stops: frozenset[str] = frozenset()
    never_runs: frozenset[str] = frozenset()
    """What stands however it is driven: fans, heaters, the compressor, modules; or never stops."""
    stuck: tuple[tuple[str, str], ...] = ()
    """Dampers stuck ``open`` or ``closed``."""

    def compartment(self, place: str) -> Compartment:
        """The one of a place."""
        return next(each for each in self.compartments if each.place == place)

    @property
    def fans(self) -> frozenset[str]:
        """All its fans."""
        found = {self.condenser.fan} if self.condenser else set[str]()
        found |= {face.fan for face in self.evaporators} | {module.fan for module in self.modules}
        return frozenset(found - {""})

    @property
    def motors(self) -> frozenset[str]:
        """What turns: locked, it takes more and does nothing."""
        return self.fans | ({self.compressor.component} if self.compressor else set())

    @property
    def parts(self) -> frozenset[str]:
        """What it knows the parts of the unit by."""
        others = {each.component for each in self.modules}
        for face in self.evaporators:
            others |= {face.damper, face.heater}
        return self.motors | (others - {""})

    def changed(self, **changes: object) -> "Thermal":
        """Otherwise the same."""
        return replace(self, **changes)  # type: ignore[arg-type]


def targets(plant: Thermal) -> dict[str, float]:
    """What counts as being at its setting: the middle of a compartment's band; where its control feels a
    plate, about the top of what such a cabinet swings through."""
    found = {
        loop.senses.partition(":")[2]: (loop.cut_in + loop.cut_out) / 2
        for loop in plant.loops
        if loop.senses.startswith("sensor:")
    }
    usual = {"cold_plate": {"": 6.0}, "mechanical": {"fridge": 8.5, "freezer": -17.0}}.get(plant.kind, {})
    for room in plant.compartments:
        if room.place not in found:
            found[room.place] = usual.get(room.place, usual.get("", 5.0))
    return found
