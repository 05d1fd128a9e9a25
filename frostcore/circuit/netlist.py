"""A setup as a deck to run: the unit in its mode, with its fault, its pulled connectors, and the meter between its two points."""

from frostcore.circuit.element import Analysis, Impedance
from frostcore.circuit.meter import METER_OHMS, OHM_TEST, Function, Points
from frostcore.circuit.settle import Settled
from frostcore.circuit.spice import deck

TIE = Impedance(1.0)
"""An ohmmeter's black lead on the chassis: it carries no current, and gives every node a firm potential."""


def meter_branches(settled: Settled, where: Points, function: Function) -> list[tuple[str, str, Impedance, str]]:
    """What the meter adds to the circuit."""
    if function is Function.OHM:
        reference = settled.circuit.reference
        tie = [] if where.black_node == reference else [(where.black_node, reference, TIE, "black lead on the chassis")]
        return [(where.red_node, where.black_node, OHM_TEST, "ohmmeter: 1 V behind 1 kilohm"), *tie]
    return [(where.red_node, where.black_node, Impedance(METER_OHMS[function]), f"meter, {function.label}")]


def netlist(settled: Settled, title: str, where: Points | None = None, function: Function | None = None) -> str:
    """The deck; without points, the bare circuit in both analyses."""
    if where is None or function is None:
        return deck(settled, title)
    analyses = tuple(Analysis) if function is not Function.OHM else (Analysis.DC,)
    return deck(settled, title, added=meter_branches(settled, where, function), analyses=analyses)
