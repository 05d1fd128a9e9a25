"""A setup as a deck to run: the unit in its mode, with its fault, its pulled connectors, and the meter
between its two points."""

from frostcore.circuit.element import Analysis, Impedance
from frostcore.circuit.meter import METER_OHMS, OHM_TEST, MeterRange, Points, node_of
from frostcore.circuit.settle import Settled
from frostcore.circuit.spice import deck, names
from frostcore.sheet.model import Sheet

TIE = Impedance(1e8)
"""What an ohmmeter hangs on the chassis by: it floats, but for what keeps its potential clear of rounding.
A lead tied to the chassis would measure another circuit."""


def meter_branches(
    settled: Settled, where: Points, meter: MeterRange
) -> list[tuple[str, str, Impedance, str]]:
    """What the meter adds to the circuit."""
    if meter is MeterRange.OHM:
        reference = settled.circuit.reference
        tie = (
            [] if where.black_node == reference else [(where.black_node, reference, TIE, "the meter floats")]
        )
        return [(where.red_node, where.black_node, OHM_TEST, "ohmmeter: 1 V behind 1 kilohm"), *tie]
    return [(where.red_node, where.black_node, Impedance(METER_OHMS[meter]), f"meter, {meter.label}")]


def netlist(
    sheet: Sheet, settled: Settled, title: str, where: Points | None = None, meter: MeterRange | None = None
) -> str:
    """The deck; without points, the bare circuit in both analyses.

    With them it also prints the meter's ``reading``.
    """
    circuit = settled.circuit
    aliases = {pin: node_of(sheet, circuit, pin, meter or MeterRange.VDC) for pin in sheet.wiring.pins}
    if where is None or meter is None:
        return deck(settled, title, aliases=aliases)
    spice = names(circuit)
    between = " - ".join(
        f"v({spice[node]})" if node != circuit.reference else "0"
        for node in (where.red_node, where.black_node)
    )
    across = OHM_TEST.ohms
    answer = (
        f"{across:g} * ({between}) / ({OHM_TEST.dc_volts:g} - ({between}))"
        if meter is MeterRange.OHM
        else f"mag({between})"
        if meter.analysis is Analysis.AC
        else between
    )
    return deck(
        settled,
        title,
        added=meter_branches(settled, where, meter),
        analyses=(meter.analysis,),
        aliases=aliases,
        answer=answer,
    )
