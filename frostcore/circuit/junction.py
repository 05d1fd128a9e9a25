"""Junctions in a circuit: a diode as an open branch that closes at its knee, and a meter that drives it.

A junction is open, or its knee's volts V behind a slope r: v = V + r i. It closes where v reaches V and opens
where its current would turn, which is the same: i ≥ 0 ⇔ v ≥ V. A meter is a source behind its own resistance
bridged between two nodes; what it shows is the volts at its leads.
"""

from frostcore.circuit.element import Analysis, Branch, BranchKind, Control, Impedance, Sense

SLOPE_OHMS = 30.0
"""n·kT/q by a diode test's milliampere: how much higher a junction's volts are at one more."""

DIODE_TEST = Impedance(2.5e3, dc_volts=3.0)
"""A meter on its diode range: about a milliampere through a junction."""

DIODE_OPEN_VOLTS = 2.5
"""From here on the diode range shows OL."""

OHMS_TEST = Impedance(1e3, dc_volts=0.5)
"""A meter on ohms: too few volts for silicon to conduct."""


SOFT_SILICON_VOLTS, SOFT_SCHOTTKY_VOLTS, SCHOTTKY_BELOW = 0.2, 0.06, 0.35
"""From here on a junction lets microamperes through: enough to spoil ohms. One of a lower knee than the last
is a Schottky diode."""

SOFT_OHMS = 50e3
"""What a junction is to a meter on ohms, between there and its knee."""


def junction(part: str, title: str, ends: tuple[str, str], knee: float, *, soft: bool = False) -> Branch:
    """A diode from anode to cathode, or the one inside a transistor, with its knee's volts at a diode test's
    current; ``soft``, as it is at a few tenths of a volt, where it has begun to conduct."""
    anode, cathode = ends
    level, ohms = knee - SLOPE_OHMS * 1e-3, SLOPE_OHMS
    if soft:
        level = SOFT_SCHOTTKY_VOLTS if knee < SCHOTTKY_BELOW else SOFT_SILICON_VOLTS
        ohms = SOFT_OHMS
    closed = Impedance(ohms, dc_volts=level)
    sense = Sense(Analysis.DC, level, level - 1e-9, anode, cathode)
    return Branch(
        part, anode, cathode, BranchKind.LOAD, part, title, {"on": closed, "off": None}, "off",
        Control("on", "off", senses=(sense,)),
    )  # fmt: skip


def shown_volts(leads: float) -> float | None:
    """What the diode range shows of the volts at its leads; None for OL."""
    return None if leads > DIODE_OPEN_VOLTS else leads


def shown_ohms(leads: float) -> float:
    """The ohms a meter makes of the volts at its leads: R = r·v/(E − v)."""
    own = OHMS_TEST
    left = own.dc_volts - leads
    return own.ohms * leads / left if left > 0 else float("inf")
