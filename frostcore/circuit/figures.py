"""The electrical figures of parts where no sheet gives them, as the field has them.

One place, so that a figure is told once and can be doubted by name (``bin/mutate`` changes each in turn).
"""

from frostcore.circuit.element import Impedance
from frostcore.sheet.model import ComponentKind

Swing = tuple[float, float]
"""At or above the first something starts; once started, it stops below the second."""

# The house.

WALL_OHMS = 0.35
"""The house's own loop resistance."""

MAINS_TOLERANCE = 0.06
BOND_OHMS = 0.4
"""Neutral's bond to earth, as the outlet sees it."""

# Conductors.

PLUG_LEAD_OHMS = 0.08
CONTACT_OHMS = 0.05
WIRE_OHMS_PER_METRE = 0.035
WIRE_FARADS_PER_METRE = 60e-12
JOINT_OHMS = 0.01
CONDUCTOR_TOLERANCE = 0.5
"""Nobody rates a wire, a joint or a contact: half up and down."""

USUAL_TOLERANCE = 0.1
"""Of a part whose sheet gives none."""

# Places and sensors.

ROOM_CELSIUS = 20.0
SENSOR_DOUBT_KELVIN = 3.0
"""How far a sensor's place may be from what the mode says."""

NEAR_DOUBT_KELVIN = 5.0
"""How far a place may be from the one around it, with the plug out."""

# Motors.

EXTRA_LOW_VOLTS = 60.0
"""A coil or lamp rated above this hangs on the mains."""

POWER_FACTOR = {ComponentKind.FAN_AC: 0.6, ComponentKind.COMPRESSOR: 0.75, ComponentKind.AUGER_MOTOR: 0.65}
POWER_FACTOR_DOUBT = 0.1
"""How far that of a motor may be off whose sheet gives none."""

RECTIFIER_FACTOR = (0.55, 0.65)
"""Of what charges a capacitor through a bridge: boards, power supplies, inverters."""

LOCKED_TIMES = {ComponentKind.FAN_AC: 1.6, ComponentKind.COMPRESSOR: 5.0, ComponentKind.AUGER_MOTOR: 3.0}
"""A locked rotor's current as a multiple of the running one."""

STARTING_SHARE = 0.3
"""Below this share of its rated current in its start winding a compressor does not turn."""

SEIZED_TIMES = 2.2
"""A seized brushless fan's current as a multiple of the turning one."""

PHASE_OHMS_REACTIVE = 35.0
"""One phase of an inverter's compressor, j ohms at mains frequency."""

INVERTER_VOLTS = 38.0
"""Phase volts an inverter gives its compressor at middle speed."""

COLD_FILAMENT_SHARE = 0.1
"""Of a lamp's hot resistance."""

CAPACITOR_SERIES_OHMS = 0.5
INVERTER_PHASE_OHMS, INVERTER_PHASE_TOLERANCE = 0.4, 0.4
SUPPLY_SOURCE_OHMS, SUPPLY_TOLERANCE = 0.06, 0.04

STARTS: dict[str, Swing] = {
    "board supply": (0.6, 0.5),
    "compressor": (0.8, 0.55),
    "fan on a rail": (0.6, 0.5),
    "inverter": (0.7, 0.6),
    "lamp": (0.6, 0.4),
    "module": (0.3, 0.3),
    "motor on mains": (0.6, 0.4),
    "power supply": (0.6, 0.5),
    "relay": (0.8, 0.4),
}
"""What starts, and stops, at these shares of its rated volts."""

COMMANDS: dict[str, Swing] = {"inverter": (2.2, 1.8), "speed": (1.0, 0.8), "start device": (25.0, 25.0)}
"""The volts at which a command is taken, and at which a PTC heats up and lets go of its winding."""

# What trips.

RANKS = {"regulator": 0, "rail": 1, "fuse": 2, "residual": 3, "breaker": 4, "overload": 5}
"""Which goes first of what would trip together: electronics in microseconds, what is fed before what feeds
it; a fuse in a millisecond, the house's devices within half a cycle or two, an overload by its warmth."""

BREAKER_AMPERES = 23.2
"""A household breaker of 16 A lets go for good from 1.45 times that."""

RESIDUAL_AMPERES = 0.03
"""A residual-current device lets go when so much comes back through the earth."""

FUSE_AMPERES, FUSE_TIMES, FUSE_SECONDS = 5.0, 2.0, 0.01
"""A board's fuse where the sheet gives none, the multiple of its rating it blows at for certain, and the
time a short gives it."""

RAIL_LIMIT_AMPERES = {"mains": 2.0, "rail": 1.0}
"""What a board's rail can give where the sheet doesn't tell: one made from the mains, one from another."""

SUPPLY_LIMIT_TIMES = 1.3
"""A power supply's limit as a multiple of its rated current."""

HOUSE_SECONDS = 0.03
"""What the house's devices take to let go."""

OUTPUT_TAKES = (0.8, 0.02)
"""An output comes on when its board has booted, and drops with its logic, s."""

START_TAKES = {"compressor": (0.4, 0.1), "PTC": (0.7, 0.1)}
"""What a compressor takes to come up to speed, and a PTC to heat through, s."""

HICCUP_SECONDS: dict[str, tuple[float, float]] = {"mains": (0.07, 0.25), "rail": (2.0, 4.0)}
"""How long an overloaded rail is up and down in turn: a switcher by its start capacitor, a regulator by its
own heat."""

DIODE_VOLTS = 0.75
"""A rectifier diode's drop behind a small transformer: 0.7 at some mA, 0.85 at the pulse's crest."""

DRY_FARADS, DRY_OHMS = 0.1, 25.0
"""What a dried electrolytic has left of its farads, and the multiple of its series resistance."""

SWITCHING_EFFICIENCY = 0.85
"""Of a converter from one rail to another."""

OVERLOAD_WARMS_SECONDS, OVERLOAD_RESETS_SECONDS = 30.0, 150.0
"""A compressor's overload: its thermal time constant, and how long it stays open once it has tripped."""

# Electronics: (ohms, tolerance).

ELECTRONICS: dict[str, tuple[float, float]] = {
    "potentiometer's wiper": (5.0, 0.5),
    "display's data line": (100e3, 0.3),
    "diodes, dark": (22e3, 0.4),
    "fan at rest": (33e3, 0.6),
    "inverter's bus": (220e3, 0.3),
    "inverter's command input": (1500.0, 0.2),
    "inverter's input, off": (470e3, 0.3),
    "inverter's phase, off": (1e6, 0.5),
    "power supply's input, off": (680e3, 0.3),
    "power supply's output, off": (1000.0, 0.5),
    "PTC, hot": (15e3, 0.4),
    "speed input": (47e3, 0.3),
    "tachometer": (10e3, 0.2),
}
"""A turning fan's tachometer is an open-collector output, open half of the time, drawn as the resistance
that gives its pull-up's mean."""

FIRM = {"potentiometer's wiper", "PTC, hot"}
"""Those of them that an ohmmeter can judge."""

RAIL_EFFICIENCY = 0.8
"""What a board's switcher passes on of what it takes."""

IDLE_WATTS = {"inverter": 2.5, "power supply": 2.0}
DISPLAY_VOLTS, DISPLAY_WATTS = 5.0, 0.8
TOLERANCES = {
    "board's input": 0.3,
    "display": 0.3,
    "drive": 0.1,
    "filament, cold": 0.4,
    "idling electronics": 0.3,
    "inverter, driving": 0.4,
    "lamp, lit": 0.1,
    "fan, seized": 0.3,
    "fan, turning": 0.2,
    "ground": 0.2,
    "pull-up": 0.01,
    "source": 0.5,
}

# Boards.

STRAY_FARADS = {"relay": 220e-12, "triac": 10e-9, "transistor": 0.0, "latching": 220e-12}
"""Across an open switch: a relay's contact with the live wires beside its own, a triac's snubber."""

SWITCH_OHMS = {"relay": 0.03, "triac": 0.6, "transistor": 0.12, "latching": 0.03}
GROUND_OHMS, GROUND_FARADS = 1e6, 2.2e-9
"""What ties a board's low-voltage ground to the chassis: a discharge resistor and an interference
capacitor."""

LOGIC_SHARE, RELAY_SHARE = 0.85, 0.7
"""A board's logic runs from this share of its lowest rail, a relay pulls in from that of the highest."""

DROP_OUT_SHARE = 0.05
"""So much lower they let go again."""

HEADROOM: Swing = (1.0, 0.7)
"""Volts that what feeds a regulator must have above its own."""


def usual(name: str) -> Impedance:
    """A piece of electronics by its name in ``ELECTRONICS``."""
    ohms, tolerance = ELECTRONICS[name]
    return Impedance(ohms, tolerance=tolerance, firm=name in FIRM)


def swing(name: str, volts: float) -> Swing:
    """The volts at which something rated so starts and stops."""
    starts, stops = STARTS[name]
    return starts * volts, stops * volts
