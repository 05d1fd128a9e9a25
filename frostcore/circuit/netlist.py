"""A setup as a deck to run: the unit in its mode, with its fault, its pulled connectors, and the meter
between its two points."""

from frostcore.circuit.element import Analysis, Impedance
from frostcore.circuit.meter import METER_OHMS, OHM_TEST, Function, Points, node_of
from frostcore.circuit.settle import Settled
from frostcore.circuit.spice import deck, names
from frostcore.sheet.model import Sheet

TIE = Impedance(1.0)
"""An ohmmeter's black lead on the chassis: it carries no current, and gives every node a firm
potential."""


def meter_branches(
    settled: Settled, where: Points, function: Function
) -> list[tuple[str, str, Impedance, str]]:
    """What the meter adds to the circuit."""
    if function is Function.OHM:
        reference = settled.circuit.reference
        tie = (
            []
            if where.black_node == reference
            else [(where.black_node, reference, TIE, "black lead on the chassis")]
        )
        return [(where.red_node, where.black_node, OHM_TEST, "ohmmeter: 1 V behind 1 kilohm"), *tie]
    return [(where.red_node, where.black_node, Impedance(METER_OHMS[function]), f"meter, {function.label}")]


def netlist(
    sheet: Sheet, settled: Settled, title: str, where: Points | None = None, function: Function | None = None
) -> str:
    """The deck; without points, the bare circuit in both analyses.

    With them it also prints the meter's ``reading``.
    """
    circuit = settled.circuit
    aliases = {pin: node_of(sheet, circuit, pin, function or Function.VDC) for pin in sheet.wiring.pins}
    if where is None or function is None:
        return deck(settled, title, aliases=aliases)
    spice = names(circuit)
    between = " - ".join(
        f"v({spice[node]})" if node != circuit.reference else "0"
        for node in (where.red_node, where.black_node)
    )
    across = OHM_TEST.ohms
    answer = (
        f"{across:g} * ({between}) / ({OHM_TEST.dc_volts:g} - ({between}))"
        if function is Function.OHM
        else f"mag({between})"
        if function.analysis is Analysis.AC
        else between
    )
    return deck(
        settled,
        title,
        added=meter_branches(settled, where, function),
        analyses=(function.analysis,),
        aliases=aliases,
        answer=answer,
    )
