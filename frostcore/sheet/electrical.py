"""The electrical part of a unit sheet: connectors, harness lines, the board's supplies, switches and
inputs.

Nodes have names: a board's own (``p12``, ``heater_out``), a component's terminal (``bimetal.1``), a
splice in the harness, ``earth`` for the chassis. A connector's pin is written ``CN3.5``.
"""

from dataclasses import dataclass
from typing import Literal

EARTH = "earth"
"""The chassis, the reference of every circuit."""


@dataclass(frozen=True)
class Pin:
    """A pin of a board's connector: its number, the board's node behind it, the label printed beside it.

    On an archetype nothing is known to be printed: there the label says what the pin is for (``defrost
    heater’s feed``).

    The wire's colour is said once, by the harness line that leaves the pin; ``colour`` is only for a pin
    with no line.
    """

    number: int
    node: str
    colour: str = ""
    label: str = ""


@dataclass(frozen=True)
class Connector:
    """A plug and socket.

    ``id`` is as printed (CN3); pulling it parts every pin's two sides. A board's connector
    lists its ``pins``; an inline plug lists none, its pins are those the harness lines pass through.
    ``board`` is the component it sits on, where the sheet says.
    """

    id: str
    name: str
    place: str
    pins: tuple[Pin, ...] = ()
    board: str = ""

    def __post_init__(self) -> None:
        numbers = [pin.number for pin in self.pins]
        if len(numbers) != len(set(numbers)):
            message = f"connector {self.id} has a pin number twice"
            raise ValueError(message)

    @property
    def inline(self) -> bool:
        """Whether it joins two harnesses instead of sitting on a board."""
        return not self.pins


@dataclass(frozen=True)
class Run:
    """A harness line, from the board outward: the points a wire passes and its colour on each stretch
    (one colour for all, or one each).

    A point is a pin (``CN2.3``), a component's terminal (``bimetal.1``), or a splice or board node by its
    name. The free end of a wire that has left a point is called after it (``CN2.3/wire``). ``metres`` is each
    stretch's length: it gives the wire its resistance and its stray capacitance; ``mm2`` its cross-section,
    where somebody put it in.
    """

    points: tuple[str, ...]
    colours: tuple[str, ...]
    metres: float = 1.0
    mm2: float | None = None

    def __post_init__(self) -> None:
        if len(self.points) < 2:
            message = "a harness line needs two points or more"
            raise ValueError(message)
        if len(self.colours) not in {1, len(self.points) - 1}:
            message = (
                f"{len(self.colours)} colours for {len(self.points) - 1} stretches; give one for all, or one"
                " for each"
            )
            raise ValueError(message)
        if not 0 < self.metres <= 20:
            message = f"a stretch of {self.metres:g} m; harness wires are up to 20 m"
            raise ValueError(message)

    def colour(self, stretch: int) -> str:
        """The colour of one stretch."""
        return self.colours[0] if len(self.colours) == 1 else self.colours[stretch]


@dataclass(frozen=True)
class Feed:
    """Where a board takes its mains: the live and neutral nodes, what it draws by itself, what a meter
    reads there unplugged."""

    live: str
    neutral: str
    watts: float = 3.0
    off_ohms: float = 680e3


@dataclass(frozen=True)
class Transformer:
    """What makes a rail without a regulator: a winding's volts (r.m.s., open) and ohms (the primary's with
    them), four diodes, a capacitor's farads and series ohms."""

    winding_volts: float
    winding_ohms: float
    farads: float
    esr_ohms: float

    def __post_init__(self) -> None:
        for name in ("winding_volts", "winding_ohms", "farads", "esr_ohms"):
            if getattr(self, name) <= 0:
                message = f"a transformer supply’s {name} is above nothing"
                raise ValueError(message)


@dataclass(frozen=True)
class Rail:
    """A low-voltage supply of the board: volts between its node and the board's ground, the resistance
    behind it, tolerance as a fraction.

    ``fed_by`` names the rail it is made from; without one it is made from the board's mains feed, or from
    the ``inlet`` the sheet names. ``off_ohms`` is what discharges it when it is off. Beyond
    ``limit_amperes`` it hiccups (tries again and again) or shuts down until it is unplugged. One made from
    direct current is ``linear`` (draws what it gives) or ``switching`` (draws the watts it gives). Where a
    ``transformer`` makes it, nothing holds its volts: they follow from that and from the load, as its ripple
    does, and ``volts`` are those it is named and judged by.
    """

    id: str
    name: str
    node: str
    volts: float
    source_ohms: float = 0.0
    tolerance: float = 0.05
    fed_by: str = ""
    off_ohms: float = 4700.0
    limit_amperes: float | None = None
    overloaded: Literal["hiccups", "shuts_down"] = "hiccups"
    converter: Literal["linear", "switching"] = "linear"
    transformer: Transformer | None = None

    def __post_init__(self) -> None:
        if self.transformer and self.fed_by:
            message = f"rail {self.id} is made by a transformer or from {self.fed_by}, not from both"
            raise ValueError(message)


@dataclass(frozen=True)
class SensorInput:
    """How the board reads a sensor: pull-up from a reference to the sensor, the pin, and its return."""

    sensor: str
    reference_volts: float
    pullup_ohms: float
    pin: str
    return_pin: str


@dataclass(frozen=True)
class Switch:
    """A switching element of the board between two nodes, and the signal that drives it; a ``latching``
    relay stands as it was last put, whatever becomes of its board's rails.

    ``stray_farads`` bridges it when it is off: a relay's open contact with the live wires that run beside
    its own, a triac's junction and snubber, a transistor's leakage taken as nothing. ``coil_ohms`` are those
    of a relay's coil, on the board's highest rail, where what it takes matters. One that ``passes`` only
    half the waves lets current through from its first node to its second; one that cuts them, from
    ``delay_degrees`` after the mains' zero to the end of each.
    """

    id: str
    kind: Literal["relay", "triac", "transistor", "latching"]
    from_node: str
    to_node: str
    signal: str
    name: str = ""
    stray_farads: float | None = None
    passes: Literal["whole", "half", "cut"] = "whole"
    delay_degrees: float = 0.0
    coil_ohms: float | None = None

    def __post_init__(self) -> None:
        if self.coil_ohms is not None and (self.kind != "relay" or self.coil_ohms <= 0):
            message = f"only a relay has a coil, of ohms above nothing; {self.id} is a {self.kind}"
            raise ValueError(message)
        if self.passes == "cut" and not 0 < self.delay_degrees < 180:
            message = f"a wave cut for {self.delay_degrees:g}° of each half; write 1 to 179, such as 90"
            raise ValueError(message)
        if self.passes != "cut" and self.delay_degrees:
            message = "a delay belongs to an output that cuts waves (passes: cut)"
            raise ValueError(message)
        if self.passes != "whole" and self.kind != "triac":
            message = f"a {self.kind} passes whole waves; only a triac passes parts of them"
            raise ValueError(message)


@dataclass(frozen=True)
class Drive:
    """A command output: its mean volts at a node while its signal is on, through a resistance.

    Where it is pulses, ``hertz`` and the volts they rise to (``high_volts``): their duty is the mean's share.
    """

    id: str
    node: str
    signal: str
    volts: float
    ohms: float = 1000.0
    name: str = ""
    hertz: float | None = None
    high_volts: float | None = None

    def __post_init__(self) -> None:
        if self.high_volts is not None and self.high_volts < self.volts:
            message = f"pulses up to {self.high_volts:g} V have no mean of {self.volts:g} V"
            raise ValueError(message)


@dataclass(frozen=True)
class Resistor:
    """A resistor on the board that a meter sees, and what it is for: a pull-up, a discharge."""

    id: str
    from_node: str
    to_node: str
    ohms: float
    purpose: str = ""
    tolerance: float = 0.05


@dataclass(frozen=True)
class Board:
    """The control board: mains feed, ground, rails, inputs, switched outputs and commands."""

    component: str
    ground: str = ""
    feed: Feed | None = None
    inlet: str = ""
    rails: tuple[Rail, ...] = ()
    sensor_inputs: tuple[SensorInput, ...] = ()
    switches: tuple[Switch, ...] = ()
    drives: tuple[Drive, ...] = ()
    resistors: tuple[Resistor, ...] = ()

    def __post_init__(self) -> None:
        if (self.rails or self.drives) and not self.ground:
            message = "a board with rails or commands needs its ground node"
            raise ValueError(message)
