"""Supplies of boards nobody described: values as they are usual, to be judged with as much doubt.

Each is a chain of the same parts every such supply has; the values are an engineer's memory of many boards,
not one board's.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from frostcore.parts.loads import HIGH_MAINS_VOLTS
from frostcore.sheet.supply import (
    BoardPart,
    BoardPartKind,
    BoardSupply,
    Buck,
    Dropper,
    MainsTransformer,
    Rectifier,
    Regulator,
    Stage,
    Switcher,
)

K = BoardPartKind

_BRIDGE = (("D1", "a", "bp"), ("D2", "b", "bp"), ("D3", "bm", "a"), ("D4", "bm", "b"))


def _bridge(drop: float, stage: str = "bridge") -> tuple[BoardPart, ...]:
    return tuple(
        BoardPart(name, K.DIODE, a, b, stage, f"bridge diode {name}", drop_volts=drop, tolerance=0.04)
        for name, a, b in _BRIDGE
    )


def _entry(amperes: float, suppressor_volts: float) -> tuple[BoardPart, ...]:
    return (
        BoardPart("F1", K.FUSE, "l", "lf", "input", "fuse F1", ohms=0.08, amperes=amperes, tolerance=0.3),
        BoardPart(
            "VR1", K.SUPPRESSOR, "lf", "n", "input", "suppressor VR1",
            volts=suppressor_volts, dies_with=("F1",),
        ),
        BoardPart(
            "CX1", K.FILM_CAPACITOR, "lf", "n", "input", "X capacitor CX1",
            farads=100e-9, volts=suppressor_volts, tolerance=0.1, dies_with=("F1",),
        ),
        BoardPart("RX1", K.RESISTOR, "lf", "n", "input", "discharge resistor RX1", ohms=1e6),
        BoardPart("L1a", K.CHOKE, "lf", "la", "filter", "choke L1", ohms=0.9, tolerance=0.1, block="L1"),
        BoardPart("L1b", K.CHOKE, "n", "b", "filter", "choke L1", ohms=0.9, tolerance=0.1, block="L1"),
        BoardPart("NT1", K.LIMITER, "la", "a", "filter", "inrush limiter NT1", ohms=10.0, tolerance=0.2),
    )  # fmt: skip


def _switcher_parts(bulk: float, bulk_volts: float, start: float, sense: float) -> tuple[BoardPart, ...]:
    return (
        BoardPart(
            "C1", K.ELECTROLYTIC, "bp", "bm", "bulk", "bulk capacitor C1",
            farads=bulk, esr_ohms=1.6, volts=bulk_volts, tolerance=0.2, dies_with=("F1",),
        ),
        BoardPart("R1", K.RESISTOR, "bp", "own", "start", "start resistor R1", ohms=start),
        BoardPart(
            "C2", K.ELECTROLYTIC, "own", "bm", "start", "the controller’s capacitor C2",
            farads=22e-6, esr_ohms=1.0, volts=50.0, tolerance=0.2,
        ),
        BoardPart(
            "D5", K.DIODE, "aux", "own", "start", "auxiliary diode D5", drop_volts=0.58, tolerance=0.04,
        ),
        BoardPart(
            "T1x", K.WINDING, "aux", "bm", "start", "auxiliary winding", ohms=0.4, tolerance=0.15, block="T1",
        ),
        BoardPart(
            "T1p", K.WINDING, "bp", "d", "switcher", "primary winding", ohms=4.5, tolerance=0.15, block="T1",
        ),
        BoardPart("D6", K.DIODE, "d", "cl", "switcher", "clamp diode D6", drop_volts=0.55, tolerance=0.04),
        BoardPart("R2", K.RESISTOR, "cl", "bp", "switcher", "clamp resistor R2", ohms=100e3),
        BoardPart(
            "U1", K.SWITCH, "d", "sh", "switcher", "switcher U1", drop_volts=0.5, dies_with=("F1", "R3"),
        ),
        BoardPart("R3", K.RESISTOR, "sh", "bm", "switcher", "sense resistor R3", ohms=sense),
        BoardPart(
            "T1s", K.WINDING, "sx", "g", "secondary", "secondary winding",
            ohms=0.06, tolerance=0.2, block="T1",
        ),
        BoardPart(
            "D7", K.DIODE, "sx", "p12", "secondary", "secondary diode D7", drop_volts=0.19, tolerance=0.1,
        ),
        BoardPart("PC1", K.FEEDBACK, "p12", "g", "secondary", "feedback (optocoupler PC1)"),
    )  # fmt: skip


def _rail_12(farads: float) -> tuple[BoardPart, ...]:
    return (
        BoardPart(
            "C3", K.ELECTROLYTIC, "p12", "g", "rail", "12 V capacitor C3",
            farads=farads, esr_ohms=0.06, volts=25.0, tolerance=0.2,
        ),
        BoardPart("R4", K.RESISTOR, "p12", "g", "rail", "bleeder R4", ohms=2200.0),
        *_relay("p12", "g", 400.0),
        BoardPart("R5", K.RESISTOR, "p12", "fp", "outputs", "fan output resistor R5", ohms=2.2),
        BoardPart(
            "Q2", K.SWITCH, "fq", "g", "outputs", "fan transistor Q2",
            drop_volts=0.58, tolerance=0.04, dies_with=("R5",),
        ),
        BoardPart("RF1", K.RESISTOR, "fp", "fq", "outputs", "speed input’s resistor RF1", ohms=47e3),
    )  # fmt: skip


def _relay(rail: str, ground: str, ohms: float) -> tuple[BoardPart, ...]:
    """A relay's coil on a rail, the diode across it, its transistor."""
    return (
        BoardPart("K1", K.COIL, rail, "kn", "outputs", "relay coil K1", ohms=ohms, tolerance=0.1),
        BoardPart(
            "D8", K.DIODE, "kn", rail, "outputs", "diode D8 across the coil", drop_volts=0.6, tolerance=0.04,
        ),
        BoardPart(
            "Q1", K.SWITCH, "kn", ground, "outputs", "relay transistor Q1", drop_volts=0.6, tolerance=0.04,
        ),
    )  # fmt: skip


def _logic(rail: str, ground: str, amperes: float) -> tuple[BoardPart, ...]:
    """A 5 V regulator on a rail, its capacitor, the logic."""
    return (
        BoardPart(
            "U2", K.REGULATOR, rail, "p5", "logic", "5 V regulator U2", c=ground, drop_volts=0.6, ohms=9e3,
        ),
        BoardPart(
            "C4", K.ELECTROLYTIC, "p5", ground, "logic", "5 V capacitor C4",
            farads=100e-6, esr_ohms=0.3, volts=16.0, tolerance=0.2,
        ),
        BoardPart(
            "U3", K.LOAD, "p5", ground, "logic", "logic U3", ohms=3300.0, amperes=amperes, tolerance=0.3,
        ),
    )  # fmt: skip


_FLYBACK_STAGES = (
    Stage("input", "Mains in: fuse, suppressor, X capacitor", "primary"),
    Stage("filter", "Choke and inrush limiter", "primary"),
    Stage("bridge", "Bridge", "primary"),
    Stage("bulk", "Bulk capacitor", "primary"),
    Stage("start", "The controller’s own supply", "primary"),
    Stage("switcher", "Switcher and transformer", "primary"),
    Stage("secondary", "Secondary rectifier and feedback", "secondary"),
    Stage("rail", "12 V rail", "secondary"),
    Stage("logic", "5 V regulator and logic", "secondary"),
    Stage("outputs", "Relay and fan outputs", "secondary"),
)


def _flyback_law(limit: float) -> Switcher:
    return Switcher(
        "flyback", "bp", "bm", "p12", "g", 12.0, limit,
        switch="U1", primary="T1p", secondary="T1s", rectifier="D7", own_supply="own", start_resistor="R1",
        own_capacitor="C2", own_diode="D5", own_winding="T1x", sense="R3", clamp="D6", feedback="PC1",
    )  # fmt: skip


def flyback(mains: float) -> BoardSupply:
    """A capacitor-input flyback with a 12 V and a 5 V rail, for such a mains."""
    high = mains > HIGH_MAINS_VOLTS
    bulk, bulk_volts, start, clamp = (22e-6, 400.0, 470e3, 275.0) if high else (47e-6, 200.0, 220e3, 150.0)
    law = _flyback_law(1.2)
    return BoardSupply(
        "flyback", "", "Flyback behind a bridge", "l", "n",
        (
            *_entry(2.0, clamp), *_bridge(0.55),
            *_switcher_parts(bulk, bulk_volts, start, 1.2 if high else 0.68),
            *_rail_12(470e-6), *_logic("p12", "g", 0.06),
        ),
        _FLYBACK_STAGES,
        rectifiers=(Rectifier("mains", "a", "b", "bp", "bm", ("D1", "D2", "D3", "D4"), "C1",
                              ("F1", "L1a", "NT1", "L1b")),),
        switchers=(law,),
        regulators=(Regulator("U2", 5.0, 1.6, 0.6),),
        source="archetype",
    )  # fmt: skip


def module_drive(mains: float) -> BoardSupply:
    """A flyback of a hundred watts whose 12 V drive thermoelectric modules through a step-down."""
    plain = flyback(mains)
    high = mains > HIGH_MAINS_VOLTS
    changed: dict[str, dict[str, Any]] = {
        "C1": {"farads": 100e-6 if high else 220e-6, "esr_ohms": 0.6},
        "NT1": {"ohms": 5.0},
        "R3": {"ohms": 0.22},
        "T1p": {"ohms": 0.8},
        "T1s": {"ohms": 0.02},
        "C3": {"farads": 2200e-6, "esr_ohms": 0.03},
    }
    parts = tuple(replace(part, **changed.get(part.id, {})) for part in plain.parts)
    drive = (
        BoardPart("Q3", K.SWITCH, "p12", "sw", "drive", "drive transistor Q3", drop_volts=0.5),
        BoardPart("D9", K.DIODE, "g", "sw", "drive", "free-wheeling diode D9", drop_volts=0.2, tolerance=0.1),
        BoardPart("L2", K.CHOKE, "sw", "mo", "drive", "drive choke L2", ohms=0.05, tolerance=0.2),
        BoardPart(
            "C5", K.ELECTROLYTIC, "mo", "g", "drive", "module capacitor C5",
            farads=1000e-6, esr_ohms=0.04, volts=25.0, tolerance=0.2,
        ),
        BoardPart("R6", K.RESISTOR, "mo", "g", "drive", "bleeder R6", ohms=1000.0),
    )  # fmt: skip
    return replace(
        plain,
        id="module_drive",
        name="Flyback and module drive",
        parts=(*parts, *drive),
        stages=(*plain.stages[:-1], Stage("drive", "Module drive", "secondary"), plain.stages[-1]),
        switchers=(replace(plain.switchers[0], limit_amperes=9.0, standby_watts=0.8),),
        bucks=(Buck("drive", "p12", "mo", "g", 8.0, 7.0, "Q3", "L2", "C5"),),
    )


def dropper(mains: float) -> BoardSupply:
    """A capacitor in series with the mains, a bridge, a Zener diode: not isolated from the mains."""
    high = mains > HIGH_MAINS_VOLTS
    farads, clamp = (680e-9, 275.0) if high else (1.5e-6, 150.0)
    parts = (
        BoardPart("R1", K.FUSE, "l", "lf", "input", "fusible resistor R1", ohms=47.0, amperes=0.3),
        BoardPart("VR1", K.SUPPRESSOR, "lf", "n", "input", "suppressor VR1", volts=clamp, dies_with=("R1",)),
        BoardPart(
            "CX1", K.FILM_CAPACITOR, "lf", "a", "dropper", "series capacitor CX1",
            farads=farads, volts=clamp, tolerance=0.1, dies_with=("R1",),
        ),
        BoardPart("RX1", K.RESISTOR, "lf", "a", "dropper", "discharge resistor RX1", ohms=470e3),
        BoardPart("RS1", K.RESISTOR, "n", "b", "dropper", "resistor RS1", ohms=10.0),
        *_bridge(0.58),
        BoardPart("ZD1", K.ZENER, "bm", "bp", "bridge", "Zener diode ZD1", drop_volts=0.7, volts=24.0),
        BoardPart(
            "C1", K.ELECTROLYTIC, "bp", "bm", "rail", "24 V capacitor C1",
            farads=470e-6, esr_ohms=0.1, volts=35.0, tolerance=0.2,
        ),
        *_relay("bp", "bm", 1440.0),
        *_logic("bp", "bm", 0.012),
    )  # fmt: skip
    return BoardSupply(
        "dropper", "", "Capacitive dropper", "l", "n", parts,
        (
            Stage("input", "Mains in: fusible resistor, suppressor", "primary"),
            Stage("dropper", "Series capacitor", "primary"),
            Stage("bridge", "Bridge and Zener diode", "primary"),
            Stage("rail", "24 V rail", "primary"),
            Stage("logic", "5 V regulator and logic", "primary"),
            Stage("outputs", "Relay output", "primary"),
        ),
        rectifiers=(Rectifier("mains", "a", "b", "bp", "bm", ("D1", "D2", "D3", "D4"), "C1", ("R1", "RS1")),),
        regulators=(Regulator("U2", 5.0, 1.6, 0.1),),
        droppers=(Dropper("dropper", "CX1", "mains", "ZD1"),),
        isolated=False,
        source="archetype",
    )  # fmt: skip


def linear(mains: float) -> BoardSupply:
    """A mains transformer, a bridge, and regulators."""
    high = mains > HIGH_MAINS_VOLTS
    primary, fuse, clamp = (1150.0, 1.4, 275.0) if high else (310.0, 0.7, 150.0)
    parts = (
        BoardPart("F1", K.FUSE, "l", "lf", "input", "fuse F1", ohms=fuse, amperes=0.16 if high else 0.315,
                  tolerance=0.3),
        BoardPart("VR1", K.SUPPRESSOR, "lf", "n", "input", "suppressor VR1", volts=clamp, dies_with=("F1",)),
        BoardPart("T1p", K.WINDING, "lf", "n", "transformer", "primary winding", ohms=primary, tolerance=0.12,
                  block="T1"),
        BoardPart("T1s", K.WINDING, "a", "b", "transformer", "secondary winding", ohms=2.4, tolerance=0.15,
                  block="T1"),
        *_bridge(0.6),
        BoardPart("C1", K.ELECTROLYTIC, "bp", "bm", "bulk", "reservoir capacitor C1",
                  farads=1000e-6, esr_ohms=0.12, volts=35.0, tolerance=0.2),
        BoardPart(
            "U1", K.REGULATOR, "bp", "p12", "rail", "12 V regulator U1", c="bm", drop_volts=0.6, ohms=9e3,
        ),
        BoardPart("C3", K.ELECTROLYTIC, "p12", "bm", "rail", "12 V capacitor C3",
                  farads=100e-6, esr_ohms=0.25, volts=25.0, tolerance=0.2),
        *_logic("p12", "bm", 0.04),
        *_relay("p12", "bm", 400.0),
    )  # fmt: skip
    return BoardSupply(
        "linear", "", "Transformer and linear regulators", "l", "n", parts,
        (
            Stage("input", "Mains in: fuse, suppressor", "primary"),
            Stage("transformer", "Transformer", "primary"),
            Stage("bridge", "Bridge", "secondary"),
            Stage("bulk", "Reservoir capacitor", "secondary"),
            Stage("rail", "12 V regulator and rail", "secondary"),
            Stage("logic", "5 V regulator and logic", "secondary"),
            Stage("outputs", "Relay output", "secondary"),
        ),
        rectifiers=(Rectifier("low", "a", "b", "bp", "bm", ("D1", "D2", "D3", "D4"), "C1", ("T1s",), "T1s"),),
        transformers=(MainsTransformer("T1", "T1p", "T1s", 16.5 / mains),),
        regulators=(Regulator("U1", 12.0, 2.0, 0.4), Regulator("U2", 5.0, 1.6, 0.2)),
        source="archetype",
    )  # fmt: skip


USUAL: dict[str, Callable[[float], BoardSupply]] = {
    "flyback": flyback,
    "dropper": dropper,
    "linear": linear,
    "module_drive": module_drive,
}
"""Kinds of supply, by name."""
