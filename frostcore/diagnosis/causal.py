"""What causes what in a cooling unit: one table, each number with its reason.

A link says how likely its cause alone brings about its effect; several causes of one effect add up as if each
had its own chance (noisy-OR). Causes are what the settled circuit or a fault without a circuit gives; effects
are states of the unit, or the answer a first look gets (``look:answer``). ``{zone}`` stands for each
compartment in turn. Effects stand after their causes, so that one pass through the table computes all.

The numbers are a trade's rules of thumb, not measurements; what they decide is held in ``docs/judgement.md``.
"""

from typing import NamedTuple

from frostcore.faults.catalogue import BOARD_ROWS
from frostcore.sheet.model import ComponentKind
from frostcore.tape.noticed import BENCH_BAD, BENCH_SOUND


class Link(NamedTuple):
    """``cause`` brings about ``effect`` with this chance, ``unless`` another state is there."""

    effect: str
    cause: str
    chance: float
    why: str
    unless: str = ""


STATES: tuple[Link, ...] = (
    Link("no power", "trips the house", 1.0, "the house's device is out"),
    Link("display dark", "no power", 1.0, "nothing feeds it"),
    Link("compressor still", "no power", 1.0, "nothing feeds it"),
    Link("air still {zone}", "no power", 1.0, "nothing feeds the fan"),
    Link("condenser air still", "no power", 1.0, "nothing feeds the fan"),
    Link("no defrost", "no power", 1.0, "nothing feeds the heater"),
    Link("no defrost", "not programmed", 0.2, "a board of another model defrosts by another plan"),
    # Ice.
    Link("coil iced", "ice on the coil", 1.0, "that is what it is"),
    Link("coil iced", "no defrost", 0.8, "frost that never melts fills the fins in a week or two"),
    Link("coil iced", "seal leaks", 0.2, "the room's damp freezes out faster than defrosts melt it"),
    Link("coil iced", "drain blocked", 0.25, "melt water stands below the coil and freezes up into it"),
    Link("ice in the fan", "coil iced", 0.2, "ice grows into the blades"),
    Link("air still {zone}", "ice in the fan", 0.8, "the blades are held"),
    Link("air weak {zone}", "coil iced", 0.65, "air finds no way through the fins", "air still {zone}"),
    Link("air weak {zone}", "fan slow {zone}", 0.8, "it turns, and moves little", "air still {zone}"),
    Link("air weak {zone}", "airway blocked", 0.5, "food at the vents, ice in the duct", "air still {zone}"),
    # Heat that does not leave the condenser.
    Link(
        "hot condenser",
        "condenser air still",
        0.9,
        "without its fan the condenser sheds a third",
        "compressor still",
    ),
    Link("hot condenser", "condenser dirty", 0.6, "dust between the fins", "compressor still"),
    Link("hot condenser", "boxed in", 0.6, "its warm air comes round again", "compressor still"),
    # Cold that is not made.
    Link("no cold", "compressor still", 0.98, "nothing pumps"),
    Link("no cold", "charge lost", 0.97, "nothing to pump"),
    Link("no cold", "capillary blocked", 0.93, "nothing gets through"),
    Link("no cold", "pumps little", 0.55, "worn valves pass back what they pumped"),
    Link("no cold", "charge short", 0.45, "only the first turns of the coil are cold"),
    Link("little cold", "charge short", 0.6, "only the first turns of the coil are cold"),
    Link("little cold", "pumps little", 0.7, "worn valves pass back what they pumped"),
    Link("little cold", "hot condenser", 0.3, "what comes out of the condenser is warm"),
    Link("little cold", "compressor stops early", 0.6, "its overload takes it out again and again"),
    Link("little cold", "endless defrost", 0.9, "the heater heats against it"),
    Link("never stops", "control misplaced", 0.4, "a bulb that hangs in the warm is never cold enough"),
    # Compartments.
    Link("warm {zone}", "no cold", 0.97, "nothing cools"),
    Link("warm {zone}", "little cold", 0.6, "too little cools"),
    Link("warm {zone}", "no cold {zone}", 0.95, "its own cold is not made"),
    Link("warm {zone}", "air still {zone}", 0.85, "the cold stays at the coil"),
    Link("warm {zone}", "air weak {zone}", 0.6, "little of the cold leaves the coil"),
    Link("warm {zone}", "shut off {zone}", 0.93, "no cold comes in"),
    Link("warm {zone}", "believed cold {zone}", 0.9, "the board thinks it is cold enough"),
    Link("warm {zone}", "set wrong", 0.4, "it is asked for"),
    Link("warm {zone}", "seal leaks", 0.35, "the room comes in"),
    Link("warm {zone}", "bulb misplaced {zone}", 0.3, "it is controlled by what is not there"),
    Link("warm {zone}", "not programmed", 0.3, "the board controls another model"),
    Link("warm {zone}", "lamp stays on {zone}", 0.2, "the lamp heats"),
    Link("warm {zone}", "room", 0.4, "too hot a room for what it can do"),
    Link("cold {zone}", "never stops", 0.85, "nothing stops it", "no cold"),
    Link("cold {zone}", "believed warm {zone}", 0.9, "the board thinks it is too warm", "no cold"),
    Link("cold {zone}", "stands open {zone}", 0.8, "cold comes in without end", "no cold"),
    Link("cold {zone}", "set wrong", 0.3, "it is asked for", "no cold"),
    Link("cold {zone}", "bulb misplaced {zone}", 0.45, "it is controlled by what is not there", "no cold"),
    Link("cold {zone}", "not programmed", 0.2, "the board controls another model", "no cold"),
)
"""States of the unit, in the order of what follows from what."""

LOOKS: tuple[Link, ...] = (
    Link("display:dead", "display dark", 0.97, "it has no power, or is dead"),
    Link("display:flickers", "rail pulses", 0.85, "its supply comes and goes"),
    Link("display:flickers", "rail low", 0.45, "its supply is at its edge"),
    Link("display:flickers", "supply tired", 0.3, "it dips at each start of a load"),
    Link("light:dark", "light fails", 0.97, "no current through it"),
    Link("light:stays", "any lamp stays on", 0.97, "its switch or output does not open"),
    Link("vent_air:none", "any air still", 0.92, "no fan, no air"),
    Link("vent_air:none", "any shut off", 0.6, "a flap that is shut lets no air through"),
    Link("vent_air:weak", "any air weak", 0.8, "little air comes through", "any air still"),
    Link("evaporator_fan:still", "any air still", 0.96, "it stands"),
    Link("evaporator_fan:noisy", "any fan slow", 0.5, "dry bearings are heard", "any air still"),
    Link("evaporator_fan:noisy", "ice in the fan", 0.4, "blades that touch ice are heard", "any air still"),
    Link("compressor:still_hot", "compressor locked", 0.6, "it draws, and does not turn"),
    Link("compressor:still_hot", "compressor stops early", 0.35, "between two tries"),
    Link("compressor:clicks", "compressor locked", 0.5, "its overload takes it out and lets it in again"),
    Link("compressor:clicks", "compressor stops early", 0.5, "its overload takes it out too soon"),
    Link("compressor:clicks", "rail pulses", 0.15, "a relay that chatters"),
    Link("compressor:still_cold", "compressor unfed", 0.97, "nothing feeds it"),
    Link("compressor:still_cold", "believed cold", 0.2, "nothing asks for it, most of the time"),
    Link("compressor:runs_hot", "hot condenser", 0.75, "it pumps against heat", "compressor still"),
    Link("compressor:runs_hot", "capillary blocked", 0.5, "it pumps against a stop", "compressor still"),
    Link("compressor:runs_hot", "never stops", 0.4, "it never rests", "compressor still"),
    Link("condenser_fan:still", "condenser air still", 0.97, "it stands"),
    Link("condenser_fan:still", "compressor unfed", 0.6, "it goes with the compressor on most boards"),
    Link("lines:both_warm", "no cold", 0.9, "nothing is pumped round"),
    Link(
        "lines:suction_frosted",
        "any air still",
        0.35,
        "liquid comes back that no air has boiled off",
        "no cold",
    ),
    Link("lines:suction_frosted", "coil iced", 0.25, "no air has boiled the liquid off", "no cold"),
    Link("frame_loop:hot", "hot condenser", 0.6, "heat goes where it can", "compressor still"),
    Link("frame_loop:cold", "no cold", 0.8, "no heat comes out"),
    Link("frost:cover_frozen", "coil iced", 0.65, "ice comes through the cover"),
    Link("frost:inlet", "charge short", 0.65, "only the first turns freeze", "no cold"),
    Link("frost:inlet", "pumps little", 0.15, "little liquid gets that far", "no cold"),
    Link("frost:ball", "charge short", 0.15, "what boils off at one spot"),
    Link("frost:ball", "capillary blocked", 0.2, "what boils off at one spot"),
    Link("frost:food", "seal leaks", 0.3, "the room's damp settles there"),
    Link("frost:food", "any cold", 0.2, "too cold for it"),
    Link("frost:none", "no cold", 0.9, "nothing freezes"),
    Link("condenser_dust:blocked", "condenser dirty", 0.7, "that is what it is"),
    Link("condenser_dust:dusty", "condenser dirty", 0.28, "seen from the outside it is less"),
    Link("door_seal:loose", "seal leaks", 0.85, "that is what it is"),
    Link("water:inside", "drain blocked", 0.65, "melt water finds no way out"),
    Link("water:inside", "coil iced", 0.06, "melt water runs beside the tray"),
    Link("water:floor", "drain blocked", 0.2, "melt water runs out at the front"),
    Link("water:floor", "water runs", 0.8, "a valve that does not shut"),
    Link("settings:wrong", "set wrong", 0.85, "that is what it is"),
    Link("vents:blocked", "airway blocked", 0.7, "that is what it is, where it can be seen"),
    Link("gaps:boxed_in", "boxed in", 0.9, "that is what it is"),
    Link("bulbs:out", "bulb misplaced", 0.6, "that is what it is, where it can be seen"),
    Link("timer_shaft:stands", "timer stands", 0.97, "its clock does not run"),
    Link("timer_shaft:stands", "no power", 1.0, "nothing feeds its clock"),
    Link("coil:iced", "coil iced", 0.95, "that is what it is"),
    Link("coil:inlet", "charge short", 0.85, "only the first turns freeze", "no cold"),
    Link("coil:inlet", "pumps little", 0.2, "little liquid gets that far", "no cold"),
    Link("coil:bare", "no cold", 0.92, "nothing freezes"),
    Link("board_label:other", "not programmed", 0.8, "that is what it is"),
    Link("dispenser_dip:blacks_out", "dispenser drags", 0.85, "its motor pulls the rail down"),
    Link("dispenser_dip:blacks_out", "supply tired", 0.3, "nothing holds the rail for the moment"),
    Link("dispenser_dip:blacks_out", "rail low", 0.4, "the rail is at its edge"),
)
"""What a first look shows of them."""

USUAL: dict[str, dict[str, float]] = {
    "display": {"normal": 1.0},
    "vent_air": {"moves": 0.97, "weak": 0.03},
    "evaporator_fan": {"runs": 0.93, "noisy": 0.07},
    "light": {"on": 1.0},
    "compressor": {"runs_warm": 0.66, "runs_hot": 0.17, "still_cold": 0.02, "still_hot": 0.15},
    "condenser_fan": {"runs": 0.97, "still": 0.03},
    "lines": {"normal": 0.95, "both_warm": 0.03, "suction_frosted": 0.02},
    "frame_loop": {"normal": 0.93, "hot": 0.04, "cold": 0.03},
    "frost": {"none": 0.6, "even": 0.37, "food": 0.03},
    "condenser_dust": {"clean": 0.55, "dusty": 0.4, "blocked": 0.05},
    "door_seal": {"holds": 0.93, "loose": 0.07},
    "water": {"none": 0.96, "inside": 0.03, "floor": 0.01},
    "settings": {"right": 0.95, "wrong": 0.05},
    "vents": {"free": 0.94, "blocked": 0.06},
    "gaps": {"enough": 0.9, "boxed_in": 0.1},
    "bulbs": {"in_place": 0.5, "out": 0.03, "hidden": 0.47},
    "dispenser_dip": {"steady": 1.0},
    "timer_shaft": {"moved": 1.0},
    "coil": {"even": 0.97, "iced": 0.02, "bare": 0.01},
    "board_label": {"right": 0.84, "other": 0.01, "unreadable": 0.15},
}
"""What each look finds on a unit that is well: dust and a tired seal are common and mostly harmless; a
compressor that rests is warm."""

MISTAKEN = 0.03
"""Of looks, so many are answered wrongly, whatever there is to see."""

PLAIN: dict[str, str] = {
    "charge_lost": "charge lost",
    "charge_short": "charge short",
    "capillary_blocked": "capillary blocked",
    "weak": "pumps little",
    "misplaced": "bulb misplaced",
    "not_programmed": "not programmed",
    "leaks": "seal leaks",
    "iced_coil": "ice on the coil",
    "drain_blocked": "drain blocked",
    "condenser_dirty": "condenser dirty",
    "boxed_in": "boxed in",
    "airway_blocked": "airway blocked",
    "setting": "set wrong",
    "room": "room",
    "dry_capacitor": "supply tired",
    "bulk_dry": "supply tired",
}
"""The causes that faults without a circuit are, by their mode."""

FAILS_WITH_ITS_RAIL = {"no cold": 0.4, "compressor still": 0.25, "air still": 0.15}
"""What a rail whose capacitor has dried does now and then of what the same rail dead does all the time, by
how the cause's name begins: of the dips at a load's start some last, and a compartment warms by their sum."""

_K = ComponentKind

MECHANICAL: dict[tuple[ComponentKind, str], tuple[tuple[str, float], ...]] = {
    (_K.FAN_DC, "seized"): (("still", 1.0),),
    (_K.FAN_DC, "stiff"): (("slow", 1.0),),
    (_K.FAN_AC, "seized"): (("still", 1.0),),
    (_K.COMPRESSOR, "seized"): (("compressor locked", 1.0),),
    (_K.COMPRESSOR, "stiff"): (("compressor stops early", 0.7),),
    (_K.OVERLOAD, "trips_early"): (("compressor stops early", 1.0),),
    (_K.DEFROST_TIMER, "stuck_cool"): (("timer stands", 1.0),),
    (_K.DEFROST_TIMER, "stuck_defrost"): (("timer stands", 1.0),),
    (_K.DEFROST_TIMER, "motor_open"): (("timer stands", 1.0),),
    (_K.DAMPER, "stuck"): (("shut off", 0.5), ("stands open", 0.5)),
    (_K.DAMPER, "duct_iced"): (("shut off", 0.9),),
}
"""What faults do that their watts don't tell, by kind and mode: causes of their own, with how surely."""

HISTORY: dict[str, tuple[tuple[str, float], ...]] = {
    "surge": (
        ("suppressor_short", 12.0),
        ("bridge_short", 6.0),
        ("switch_short", 6.0),
        ("dead", 3.0),
        ("high", 4.0),
        ("leak", 3.0),
        ("fuse", 3.0),
    ),
    "moved": (
        ("joint", 3.0),
        ("open", 1.0),
        ("boxed_in", 3.0),
        ("condenser_dirty", 0.5),
        ("charge_lost", 1.5),
        ("capillary_blocked", 1.5),
    ),
    "loose_plug": (("loose", 5.0), ("plug", 4.0), ("dead", 1.5)),
    "adaptor": (("plug", 3.0), ("loose", 3.0)),
    "polarity": (("reversed", 20.0), ("dead", 2.0), ("suppressor_short", 2.0)),
}
"""How much likelier a fault is after what has happened to the unit: part of its id, times."""


COMPLAINTS: dict[str, tuple[tuple[str, float], ...]] = {
    "warm {zone}": (("warm {zone}", 0.95),),
    "cold {zone}": (("cold {zone}", 0.8),),
    "code": (("code", 0.8),),
    "dead": (("display dark", 0.9), ("no power", 1.0)),
    "resets": (("rail pulses", 0.9), ("supply tired", 0.4)),
    "light": (("light fails", 0.9), ("any lamp stays on", 0.4)),
    "dispenser": (("dispenser fails", 0.9),),
    "ice": (("coil iced", 0.5),),
    "water": (("drain blocked", 0.7), ("water runs", 0.9)),
    "noise": (("any fan slow", 0.3), ("ice in the fan", 0.4), ("compressor locked", 0.4)),
    "never_rests": (("endless defrost", 0.5), ("hot condenser", 0.3), ("never stops", 0.4)),
    "trips": (("trips the house", 1.0),),
    "door": (("seal leaks", 0.3),),
    "other": (),
}
"""What makes somebody call a repairer, by complaint: what they notice of the unit, and how likely."""

OF_A_SUPPLY = tuple(dict.fromkeys(row.mode for row in BOARD_ROWS if row.part in {"feed", "rail"}))
"""Faults of a board that its supply's chain has on the bench."""

FELT: dict[str, tuple[dict[str, float], float]] = {
    "turns": ({"seized": 0.04, "stiff": 0.3}, 0.95),
    "drags": ({"seized": 0.2, "stiff": 0.65}, 0.03),
    "seized": ({"seized": 0.75, "stiff": 0.05}, 0.02),
    "hums": ({"seized": 0.7, "stiff": 0.4, "turns_shorted": 0.2, "start_open": 0.7}, 0.05),
    "clicks": ({"seized": 0.5, "trips_early": 0.6, "start_open": 0.5, "intermittent": 0.3}, 0.05),
    "hot": ({"turns_shorted": 0.6, "short": 0.5, "seized": 0.5, "high_resistance": 0.4}, 0.06),
    "burnt": (
        {"burnt": 0.8, "turns_shorted": 0.4, "short": 0.35, "high_resistance": 0.4, "welded": 0.2},
        0.015,
    ),
    "wet": ({"moisture": 0.6, "leak": 0.4, "joint": 0.3, "short_earth": 0.3}, 0.06),
    BENCH_SOUND: (dict.fromkeys(OF_A_SUPPLY, 0.1), 0.9),
    BENCH_BAD: (dict.fromkeys(OF_A_SUPPLY, 0.9), 0.02),
    "hisses": ({"charge_short": 0.3, "charge_lost": 0.3, "capillary_blocked": 0.25}, 0.08),
}
"""What is heard or felt of a part: how likely where the part has a fault whose mode has that in its name, and
how likely of any other part."""

NOT_MEANT = 0.06
"""Complaints that say nothing of what is wrong: a misunderstanding, an old habit, another trouble."""

UNNOTICED = 0.08
"""Faults that nobody notices are there all the same when a repairer is called for another reason."""

SHOWN = 0.92
"""A board raises a code for what its rule sees, in the time a repairer has, this often."""

RAISED_FOR_NOTHING = 0.004
"""A code that nothing raises is on the display all the same: an old one, a reflection."""
