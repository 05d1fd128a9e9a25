"""The catalogue of fault modes: for each kind of part how it fails, how often, and why it is weighed so.

``weight`` is in failures of such a part per 10 000 unit-years as a trade's rule of thumb, not a
measurement: moving parts and joints above solid state, parts that get wet above dry ones. The sheet's
weak points multiply it. ``acts`` is what the fault does to the circuit; ``{c}`` stands for the component,
so that one line serves every part of the kind.
"""

from dataclasses import dataclass
from typing import Literal

from frostcore.circuit.figures import PLUG_LEAD_OHMS
from frostcore.faults.edits import Act, Becomes, Bridged, Forced, InSeries, Opened, Scaled, Shorted
from frostcore.sheet.model import ComponentKind

K = ComponentKind


@dataclass(frozen=True)
class FaultRow:
    """One way a kind of part fails.

    ``needs`` names a branch or terminal it must have. ``spread`` is the least and the most of the amount
    that the acts stand for (ohms, or a factor): no part fails by just one.
    """

    kind: ComponentKind
    mode: str
    name: str
    weight: float
    why: str
    acts: tuple[Act, ...]
    needs: str = ""
    spread: tuple[float, float] | None = None
    comes_and_goes: bool = False
    seen_by: str = ""


TURNS = "a look, or a hand: it does not turn"
"""What shows a motor that stands."""

LEAKS: tuple[tuple[str, str, float, float, tuple[float, float], str], ...] = (
    (
        "leak_earth",
        "leaks to the chassis and trips the house",
        6,
        4e3,
        (3e3, 7e3),
        "a cracked sheath lets water to the wire",
    ),
    (
        "leak_earth_damp",
        "damp, leaks to the chassis",
        6,
        25e3,
        (7e3, 100e3),
        "damp in the sheath's ends, before it trips anything",
    ),
    (
        "leak_earth_slight",
        "first leak to the chassis",
        5,
        450e3,
        (100e3, 2e6),
        "the magnesium oxide in the sheath draws damp",
    ),
)
"""How a heater leaks to the chassis: mode, words, weight, ohms, their spread, why."""

WET = 30e3

ROWS: tuple[FaultRow, ...] = (
    FaultRow(
        K.HEATER,
        "open",
        "burnt through",
        60,
        "red-hot wire in ice and water, thousands of cycles",
        (Opened("{c}"),),
    ),
    *(
        FaultRow(K.HEATER, mode, words, weight, why, (Bridged("{c}.1", "earth", ohms),), spread=spread)
        for mode, words, weight, ohms, spread, why in LEAKS
    ),
    FaultRow(
        K.HEATER,
        "drift",
        "resistance too high",
        6,
        "the wire thins where it is hottest",
        (Scaled("{c}", 1.5),),
    ),
    FaultRow(
        K.BIMETAL,
        "stuck_open",
        "does not close when cold",
        45,
        "its disc tires; it hangs in wet frost",
        (Forced("{c}", "open"),),
    ),
    FaultRow(
        K.BIMETAL,
        "welded",
        "does not open when warm",
        8,
        "contacts weld at the heater's current",
        (Forced("{c}", "closed"),),
    ),
    FaultRow(
        K.THERMAL_FUSE,
        "open",
        "blown",
        30,
        "blows once when a bimetal welds, or ages in the heat",
        (Opened("{c}"),),
    ),
    FaultRow(K.FUSE, "open", "blown", 18, "a surge or a short behind it", (Opened("{c}"),)),
    FaultRow(K.THERMISTOR, "open", "open", 30, "bead or joint breaks in frost and thaw", (Opened("{c}"),)),
    FaultRow(K.THERMISTOR, "short", "shorted", 8, "water in the bead's sleeve", (Shorted("{c}", 20.0),)),
    FaultRow(
        K.THERMISTOR,
        "drift",
        "reads too high a resistance",
        22,
        "the bead ages, nearly always upward",
        (Scaled("{c}", 1.35),),
        spread=(1.2, 2.0),
    ),
    FaultRow(
        K.THERMISTOR,
        "drift_slight",
        "reads a little too high a resistance",
        12,
        "the first of the same; the board is a few kelvin off",
        (Scaled("{c}", 1.12),),
        spread=(1.07, 1.2),
        seen_by="its curve at two temperatures",
    ),
    FaultRow(
        K.THERMISTOR,
        "wrong_part",
        "a part of another resistance",
        6,
        "fitted before from what was in the van",
        (Scaled("{c}", 0.5),),
        spread=(0.3, 3.0),
    ),
    FaultRow(
        K.THERMISTOR,
        "drift_low",
        "reads too low a resistance",
        6,
        "a bead gone soft in the damp",
        (Scaled("{c}", 0.7),),
        spread=(0.5, 0.9),
    ),
    FaultRow(
        K.THERMISTOR,
        "moisture",
        "wet, leaks across",
        20,
        "melt water wicks into the bead's splice",
        (Bridged("{c}.1", "{c}.2", 10e3),),
        spread=(2e3, 100e3),
    ),
    FaultRow(
        K.FAN_DC,
        "seized",
        "seized",
        70,
        "bearings dry out or drink water; blades ice in",
        (Becomes("{c}", "turning", "seized"), Forced("{c}.tach", "still")),
        seen_by=TURNS,
    ),
    FaultRow(
        K.FAN_DC,
        "stiff",
        "stiff, slow",
        30,
        "its grease has thickened; it draws more and moves less air",
        (Scaled("{c}", 0.7),),
        spread=(0.55, 0.85),
        seen_by="the hertz of its tachometer, and a hand: it turns stiffly",
    ),
    FaultRow(
        K.FAN_DC,
        "open",
        "dead, draws nothing",
        30,
        "a winding or its driver fails open",
        (Opened("{c}"), Forced("{c}.tach", "still")),
        seen_by=TURNS,
    ),
    FaultRow(
        K.FAN_DC,
        "short",
        "shorted",
        10,
        "its driver fails short and pulls the rail down",
        (Shorted("{c}", 1.5), Forced("{c}.tach", "still")),
        spread=(0.5, 20.0),
    ),
    FaultRow(
        K.FAN_DC,
        "tachometer_lost",
        "turns without speed signal",
        15,
        "the sensor in it dies before the motor",
        (Forced("{c}.tach", "still"),),
        "{c}.tach",
    ),
    FaultRow(
        K.FAN_AC,
        "seized",
        "seized",
        50,
        "sleeve bearings dry out in the compressor's heat",
        (Forced("{c}", "standstill"),),
        seen_by=TURNS,
    ),
    FaultRow(K.FAN_AC, "open", "winding open", 25, "a stalled shaded-pole motor burns out", (Opened("{c}"),)),
    FaultRow(
        K.FAN_AC, "turns_shorted", "turns shorted", 6, "enamel cooked by a stall", (Scaled("{c}", 0.55),)
    ),
    FaultRow(K.AUGER_MOTOR, "open", "winding open", 12, "stalls against ice", (Opened("{c}"),)),
    FaultRow(
        K.AUGER_MOTOR,
        "seized",
        "seized",
        14,
        "gear or ice jams it",
        (Forced("{c}", "standstill"),),
        seen_by=TURNS,
    ),
    FaultRow(
        K.COMPRESSOR,
        "run_open",
        "run winding open",
        6,
        "burns out after failed starts",
        (Opened("{c}.run"),),
        "{c}.run",
    ),
    FaultRow(
        K.COMPRESSOR,
        "start_open",
        "start winding open",
        6,
        "burns out when the start device sticks",
        (Opened("{c}.start"),),
        "{c}.start",
    ),
    FaultRow(
        K.COMPRESSOR,
        "turns_shorted",
        "run winding's turns shorted",
        4,
        "enamel fails in acid oil",
        (Scaled("{c}.run", 0.55),),
        "{c}.run",
    ),
    FaultRow(
        K.COMPRESSOR,
        "leak_earth",
        "leaks to the chassis",
        4,
        "winding touches the shell",
        (Bridged("{c}.run", "earth", 8e3),),
        "{c}.run",
    ),
    FaultRow(
        K.COMPRESSOR,
        "seized",
        "seized",
        12,
        "worn, or slugged with liquid",
        (Forced("{c}.run", "standstill"),),
        "{c}.run",
    ),
    FaultRow(
        K.COMPRESSOR,
        "stiff",
        "stiff, starts late and draws much",
        10,
        "worn bearings, or oil that has lost its way back",
        (Scaled("{c}.run", 0.75),),
        "{c}.run",
        spread=(0.6, 0.9),
    ),
    FaultRow(
        K.COMPRESSOR,
        "phase_open",
        "one phase open",
        4,
        "a winding's weld or terminal breaks",
        (Opened("{c}.u"),),
        "{c}.u",
    ),
    FaultRow(
        K.COMPRESSOR,
        "turns_shorted",
        "one phase's turns shorted",
        4,
        "enamel pierced by the inverter's edges",
        (Scaled("{c}.v", 0.5),),
        "{c}.u",
    ),
    FaultRow(
        K.COMPRESSOR,
        "leak_earth",
        "leaks to the chassis",
        4,
        "winding touches the shell",
        (Bridged("{c}.u", "earth", 8e3),),
        "{c}.u",
    ),
    FaultRow(K.START_DEVICE, "open", "open", 35, "its disc cracks from heat and cold", (Opened("{c}"),)),
    FaultRow(
        K.START_DEVICE,
        "short",
        "shorted, never heats",
        6,
        "a crumbled disc bridges",
        (Shorted("{c}", 1.0), Forced("{c}", "cold")),
    ),
    FaultRow(K.OVERLOAD, "open", "open for good", 14, "its contact burns after many trips", (Opened("{c}"),)),
    FaultRow(
        K.OVERLOAD,
        "trips_early",
        "trips too early",
        8,
        "its disc has tired of many trips",
        (Opened("{c}"),),
        comes_and_goes=True,
    ),
    FaultRow(K.RUN_CAPACITOR, "open", "open", 12, "a lead breaks off its foil", (Opened("{c}"),)),
    FaultRow(
        K.RUN_CAPACITOR,
        "drift",
        "half its capacitance lost",
        18,
        "the film heals itself away",
        (Scaled("{c}", 0.5),),
    ),
    FaultRow(K.RUN_CAPACITOR, "short", "shorted", 5, "the film breaks down", (Shorted("{c}", 0.5),)),
    FaultRow(K.LAMP, "open", "burnt out", 80, "wears out by nature", (Opened("{c}"),)),
    FaultRow(
        K.DOOR_SWITCH,
        "stuck_open",
        "does not close",
        30,
        "a bent lever, grease, a cracked plunger",
        (Forced("{c}", "open"),),
    ),
    FaultRow(
        K.DOOR_SWITCH,
        "welded",
        "does not open",
        14,
        "contacts weld, or the plunger sticks in",
        (Forced("{c}", "closed"),),
    ),
    FaultRow(K.VALVE, "open", "coil open", 16, "thin wire, always damp", (Opened("{c}"),)),
    FaultRow(
        K.VALVE,
        "turns_shorted",
        "turns shorted",
        5,
        "it overheats when its plunger jams",
        (Scaled("{c}", 0.5),),
    ),
    FaultRow(
        K.DAMPER,
        "open",
        "motor open",
        20,
        "a motor this small breaks at its brushes or leads",
        (Opened("{c}"),),
    ),
    FaultRow(
        K.DAMPER,
        "stuck",
        "end switch never closes: flap iced or geared out",
        30,
        "ice holds the flap, teeth strip",
        (Forced("{c}.micro-switch", "open"),),
        "{c}.micro-switch",
    ),
    FaultRow(K.FLAP_MOTOR, "open", "motor open", 16, "ice and water at the dispenser", (Opened("{c}"),)),
    FaultRow(
        K.FLAP_MOTOR,
        "short",
        "motor shorted",
        6,
        "a stalled motor cooks its winding and pulls the rail down",
        (Shorted("{c}", 1.2),),
        spread=(0.5, 15.0),
    ),
    FaultRow(
        K.FLAP_MOTOR,
        "stuck",
        "end switch never closes: flap jammed",
        20,
        "ice chips hold the flap",
        (Forced("{c}.micro-switch", "open"),),
        "{c}.micro-switch",
    ),
    FaultRow(K.MODULE, "open", "cracked through", 40, "hot and cold faces tear its joints", (Opened("{c}"),)),
    FaultRow(K.MODULE, "drift", "resistance too high", 35, "joints crack one by one", (Scaled("{c}", 1.6),)),
    FaultRow(
        K.POTENTIOMETER, "open", "track open at its end", 8, "a cracked track or rivet", (Opened("{c}.a"),)
    ),
    FaultRow(
        K.POTENTIOMETER,
        "drift",
        "its track has drifted",
        8,
        "the carbon ages, most of all at its ends",
        (Scaled("{c}.a", 1.6), Scaled("{c}.b", 1.6)),
        spread=(1.3, 3.0),
    ),
    FaultRow(
        K.POTENTIOMETER,
        "noisy",
        "wiper lifts off",
        30,
        "the track wears where it is always set",
        (Opened("{c}.wiper"),),
    ),
    FaultRow(
        K.THERMOSTAT,
        "stuck_open",
        "does not close",
        30,
        "its bulb has lost its charge",
        (Forced("{c}", "open"),),
    ),
    FaultRow(
        K.THERMOSTAT,
        "welded",
        "does not open",
        20,
        "contacts weld at the compressor's current",
        (Forced("{c}", "closed"),),
    ),
    FaultRow(K.SWITCH, "open", "does not close", 6, "its contacts burn", (Forced("{c}", "open"),)),
    FaultRow(K.SWITCH, "welded", "does not open", 3, "its contacts weld", (Forced("{c}", "closed"),)),
    FaultRow(K.RELAY, "coil_open", "coil open", 5, "thin wire, always warm", (Opened("{c}.coil"),)),
    FaultRow(
        K.RELAY,
        "welded",
        "contact welded",
        8,
        "contacts weld at a motor's start",
        (Forced("{c}", "closed"),),
    ),
    FaultRow(K.CYCLE_TIMER, "stuck_off", "stays off", 12, "its relay or clock", (Forced("{c}", "open"),)),
    FaultRow(K.CYCLE_TIMER, "stuck_on", "stays on", 8, "its contacts weld", (Forced("{c}", "closed"),)),
    FaultRow(K.RESISTOR, "open", "open", 1, "a joint of it", (Opened("{c}"),)),
    FaultRow(
        K.DEFROST_TIMER,
        "stuck_cool",
        "never goes to defrost",
        25,
        "its clock gear strips",
        (Forced("{c}.cool", "closed"), Forced("{c}.defrost", "open")),
    ),
    FaultRow(
        K.DEFROST_TIMER,
        "stuck_defrost",
        "stands in defrost",
        20,
        "it stops with its cam there",
        (Forced("{c}.cool", "open"), Forced("{c}.defrost", "closed")),
    ),
    FaultRow(
        K.DEFROST_TIMER,
        "motor_open",
        "clock motor open",
        12,
        "thin wire on mains for years",
        (Opened("{c}.motor"),),
    ),
    FaultRow(
        K.DISPLAY,
        "open",
        "draws nothing",
        12,
        "its regulator fails open",
        (Opened("{c}"),),
        "{c}",
        seen_by="a look: it stays dark",
    ),
    FaultRow(
        K.DISPLAY,
        "short",
        "pulls its rail down",
        8,
        "moisture behind the panel",
        (Shorted("{c}", 2.0),),
        "{c}",
    ),
    FaultRow(
        K.INVERTER,
        "open",
        "dead",
        25,
        "its own supply's capacitor dries out",
        (Opened("{c}.supply"), Opened("{c}.drive"), *(Forced(f"{{c}}.{phase}", "off") for phase in "uvw")),
    ),
    FaultRow(
        K.INVERTER,
        "no_drive",
        "supplied, but does not drive",
        22,
        "power stage or its protection",
        (Forced("{c}.drive", "off"), *(Forced(f"{{c}}.{phase}", "off") for phase in "uvw")),
    ),
    FaultRow(
        K.INVERTER,
        "phase_lost",
        "one phase missing",
        8,
        "a switch of the bridge fails open",
        (Opened("{c}.w"),),
    ),
    FaultRow(
        K.INVERTER, "command_dead", "command input open", 6, "its coupler fails", (Opened("{c}.command"),)
    ),
    FaultRow(
        K.POWER_SUPPLY,
        "open",
        "dead",
        30,
        "primary capacitor or switch",
        (Opened("{c}.input"), Forced("{c}.output", "off")),
    ),
    FaultRow(
        K.POWER_SUPPLY,
        "weak_rail",
        "sags under load",
        30,
        "output capacitors dry out",
        (InSeries("{c}.output", 0.8),),
    ),
    FaultRow(
        K.PLUG,
        "high_resistance",
        "loose, arcing contact",
        16,
        "worn spring, thin adaptor",
        (InSeries("{c}.l", 25.0),),
    ),
    FaultRow(K.PLUG, "open", "lead broken", 8, "bent where it enters", (Opened("{c}.l"),)),
    FaultRow(
        K.PLUG,
        "neutral_open",
        "neutral broken",
        4,
        "as the live, but the unit stays alive to the touch",
        (Opened("{c}.n"),),
    ),
    FaultRow(
        K.PLUG,
        "reversed",
        "live and neutral reversed",
        5,
        "an outlet, adaptor or cord wired the wrong way round; what switches then parts the neutral",
        (
            Opened("{c}.l"),
            Opened("{c}.n"),
            Bridged("wall_l", "{c}.n", PLUG_LEAD_OHMS),
            Bridged("wall_n", "{c}.l", PLUG_LEAD_OHMS),
        ),
    ),
    FaultRow(
        K.PLUG,
        "earth_open",
        "earth broken",
        6,
        "the earth clip is the first to loosen, and nothing shows it",
        (Opened("{c}.e"),),
    ),
)
"""Faults of components that are in the circuit by themselves."""


@dataclass(frozen=True)
class BoardRow:
    """One way a part of a board fails: ``part`` says of which sort.

    ``seen_by`` is what shows it where no reading at the board's connectors does.
    """

    part: str
    mode: str
    name: str
    weight: float
    why: str
    act: str
    ohms: float = 0.0
    comes_and_goes: bool = False
    seen_by: str = ""


BOARD_ROWS: tuple[BoardRow, ...] = (
    BoardRow("feed", "dead", "supply dead", 10, "switcher, its start resistor or its capacitor", "dead"),
    BoardRow(
        "feed",
        "suppressor_short",
        "surge suppressor shorted, and the fuse with it",
        6,
        "a surge, or mains of the wrong voltage",
        "shorted",
        0.3,
    ),
    BoardRow(
        "feed", "bridge_short", "bridge diode shorted, and the fuse with it", 5, "a surge", "shorted", 2.0
    ),
    BoardRow(
        "feed",
        "switch_short",
        "switcher shorted, and the fuse with it",
        6,
        "its capacitor dried out before it",
        "shorted",
        4.0,
    ),
    BoardRow("feed", "inrush_open", "inrush part or choke open", 5, "heats and cools at each start", "cut"),
    BoardRow(
        "feed",
        "bulk_dry",
        "primary capacitor dried out",
        9,
        "it sits in the warm for years",
        "unseen",
        seen_by="AC volts or ESR at the capacitor, on the bench",
    ),
    BoardRow("rail", "dead_rail", "rail missing", 10, "regulator or rectifier open", "off"),
    BoardRow(
        "rail",
        "weak_rail",
        "rail sags under load",
        8,
        "its regulator, or what feeds that, has tired",
        "series",
        12.0,
        seen_by="its volts with its heaviest load on",
    ),
    BoardRow(
        "rail",
        "dry_capacitor",
        "capacitor dried out",
        16,
        "it sits in the warm for years; a supply that holds its volts hides it from any meter on DC",
        "dry",
        seen_by="the ESR of the capacitor, on the bench; a bulged top",
    ),
    BoardRow(
        "relay",
        "stuck_open",
        "relay does not close",
        16,
        "joint cracks, coil driver dies, contact burns",
        "open",
    ),
    BoardRow(
        "relay",
        "joint_warm",
        "relay's joint opens when warm",
        9,
        "solder cracks where the contact's heat works it",
        "open",
        comes_and_goes=True,
    ),
    BoardRow("relay", "welded", "relay does not open", 10, "contacts weld at the load's inrush", "closed"),
    BoardRow("relay", "high_resistance", "relay contact burnt", 8, "arcing pits it", "series", 40.0),
    BoardRow("triac", "stuck_open", "triac dead", 10, "gate drive or junction open", "open"),
    BoardRow(
        "triac",
        "burnt_with_load",
        "burnt open by its shorted load",
        3,
        "the load's short took it along",
        "burnt",
    ),
    BoardRow("triac", "welded", "triac shorted", 12, "a shorted load kills it; triacs die short", "closed"),
    BoardRow("transistor", "stuck_open", "transistor dead", 8, "its driver or joint fails", "open"),
    BoardRow(
        "transistor",
        "burnt_with_load",
        "burnt open by its shorted load",
        4,
        "the load's short took it along",
        "burnt",
    ),
    BoardRow("transistor", "welded", "transistor shorted", 9, "a shorted load burns it through", "closed"),
    BoardRow("drive", "stuck_open", "no command", 7, "its port dies", "off"),
    BoardRow("drive", "welded", "command always there", 2, "a port stuck high", "commanded"),
    BoardRow("pullup", "open", "sensor input dead", 4, "pull-up or its joint cracks", "opened"),
    BoardRow(
        "pullup",
        "high",
        "sensor input pulled high",
        3,
        "a surge through the sensor's lead; its clamp leaks to the rail",
        "high",
        2e3,
    ),
    BoardRow(
        "pullup",
        "leak",
        "sensor input leaks",
        5,
        "a surge damaged the input; flux and water creep",
        "leak",
        6e3,
    ),
)
"""Faults of a board's parts: its supply, rails, switches, commands and sensor inputs."""


@dataclass(frozen=True)
class WireRow:
    """One way a stretch of harness, its joint, or two neighbouring pins fail.

    ``mains_ohms`` is what it has where mains run through it: more would glow.
    """

    mode: str
    name: str
    weight: float
    why: str
    ohms: float = 0.0
    between: str = ""
    comes_and_goes: bool = False
    at: Literal["wire", "joint"] = "wire"
    mains_ohms: float = 0.0
    spread: tuple[float, float] | None = None
    mains_spread: tuple[float, float] | None = None


WIRE_ROWS: tuple[WireRow, ...] = (
    WireRow("open", "broken wire", 1.0, "bends, barbs, a sheet edge"),
    WireRow(
        "intermittent",
        "wire that comes and goes when the harness is moved",
        1.0,
        "strands that touch now and then inside the insulation",
        comes_and_goes=True,
    ),
    WireRow(
        "high_resistance",
        "wire down to a few strands",
        0.4,
        "bent to and fro at a hinge",
        30.0,
        mains_ohms=3.0,
        spread=(3.0, 300.0),
        mains_spread=(1.0, 10.0),
    ),
    WireRow("joint_open", "joint open", 1.0, "a pin not crimped home, pushed back, burnt off", at="joint"),
    WireRow(
        "joint_intermittent",
        "joint that comes and goes when the plug is moved",
        1.0,
        "a loose pin that touches now and then",
        comes_and_goes=True,
        at="joint",
    ),
    WireRow(
        "joint_high_resistance",
        "high-resistance joint",
        1.2,
        "corroded or burnt pin",
        120.0,
        at="joint",
        mains_ohms=8.0,
        spread=(10.0, 10e3),
        mains_spread=(1.0, 30.0),
    ),
    WireRow("short_earth", "chafed through to metal", 0.5, "rubbed on a sheet edge", 1.0, "earth"),
    WireRow("short", "touches the neighbouring pin", 0.4, "a bent pin, a crushed plug", 0.5, "neighbour"),
    WireRow(
        "moisture", "wet plug, leaks to the neighbouring pin", 1.2, "melt water in the plug", WET, "neighbour"
    ),
)
"""Faults of the harness: per stretch, and between neighbours of a plug."""


@dataclass(frozen=True)
class PlainRow:
    """One way a unit fails without anything in its circuit: what a meter can't see, and what shows it.

    ``of`` is the kind of part it is of; of the unit as a whole where that is None. What is mended ``by_hand``
    takes no part; ``at_once`` where one look finds and mends it, whichever part it is of.
    """

    mode: str
    name: str
    weight: float
    why: str
    seen_by: str
    of: ComponentKind | None = None
    by_hand: bool = False
    at_once: bool = False


PLAIN_ROWS: tuple[PlainRow, ...] = (
    PlainRow(
        "charge_lost",
        "refrigerant lost",
        14,
        "a leak at a joint or in the foam",
        "no frost at all, a compressor that runs cool and light",
        K.SEALED_SYSTEM,
    ),
    PlainRow(
        "charge_short",
        "refrigerant short",
        16,
        "a slow leak, or charged by guess before",
        "frost on the first turns of the evaporator only",
        K.SEALED_SYSTEM,
    ),
    PlainRow(
        "capillary_blocked",
        "capillary blocked",
        6,
        "moisture or debris after an opening of the system",
        "no frost with a compressor that runs hot; it frosts again after a thaw",
        K.SEALED_SYSTEM,
    ),
    PlainRow(
        "weak",
        "runs and does not pump",
        10,
        "worn valves",
        "fewer watts than rated, warm discharge, little frost",
        K.COMPRESSOR,
    ),
    PlainRow(
        "misplaced",
        "bulb or sensor in the wrong place",
        8,
        "not clipped back after work, or fallen out",
        "it reads true and the cabinet is wrong; a look at where it hangs",
        K.THERMISTOR,
        by_hand=True,
        at_once=True,
    ),
    PlainRow(
        "misplaced",
        "bulb out of its pocket",
        8,
        "not pushed home after work",
        "a look at where it hangs",
        K.THERMOSTAT,
        by_hand=True,
        at_once=True,
    ),
    PlainRow(
        "duct_iced",
        "ice in its duct",
        10,
        "damp air freezes where the cold comes in, or a flap that leaks lets it",
        "a look into the duct; its flap moves and its fan turns, and no air comes",
        K.DAMPER,
        by_hand=True,
    ),
    PlainRow(
        "not_programmed",
        "board not programmed for this unit",
        6,
        "a spare fitted as it came",
        "behaviour of another model; the label on the part",
        K.BOARD,
        by_hand=True,
        at_once=True,
    ),
    PlainRow(
        "leaks",
        "door seal leaks",
        25,
        "hardened, torn, or a hinge sags",
        "a slip of paper, frost or dew along it",
        K.DOOR_SEAL,
    ),
    PlainRow(
        "iced_coil",
        "evaporator iced over",
        20,
        "defrost that fails, a blocked drain, a door left ajar",
        "a look behind its cover; ice that stops the fan",
    ),
    PlainRow(
        "drain_blocked",
        "drain blocked",
        18,
        "slime and crumbs, ice in its mouth",
        "water below the drawers, ice on the floor of the freezer",
    ),
    PlainRow(
        "condenser_dirty",
        "condenser dirty",
        30,
        "dust and pet hair",
        "a look; it is far hotter than the room",
    ),
    PlainRow(
        "boxed_in",
        "no room to breathe",
        15,
        "pushed back to the wall, built in without vents",
        "a look at its gaps",
    ),
    PlainRow(
        "airway_blocked",
        "air path blocked",
        15,
        "food before the vents, ice in the duct",
        "one compartment right and the other not",
    ),
    PlainRow(
        "setting",
        "set wrongly",
        20,
        "a knob turned, a holiday or service setting left on",
        "the settings read aloud",
    ),
    PlainRow(
        "room",
        "room too warm or too cold for it",
        10,
        "a garage, a greenhouse, a heat wave",
        "a thermometer in the room against the plate's class",
    ),
)
"""Faults without a circuit: a unit with a sound circuit has these, and nothing electrical is accused."""
