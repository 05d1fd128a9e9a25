"""What a meter shows on a board with the plug out: ohms and diode tests, for every fault of every draw at
once, and what ESR and capacitance meters show."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from frostcore.bench.circuit import damage, unplugged
from frostcore.bench.faults import Condition
from frostcore.bench.probes import BenchProbe
from frostcore.bench.ranges import BenchRange
from frostcore.circuit.damage import HEALTHY, Damage
from frostcore.circuit.element import Analysis
from frostcore.circuit.faulted import SettledFaults
from frostcore.circuit.junction import DIODE_TEST, OHMS_TEST, shown_ohms, shown_volts
from frostcore.circuit.meter import OPEN_OHMS
from frostcore.circuit.settle import settle
from frostcore.sheet.supply import BoardPart, BoardSupply

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Unplugged:
    """Readings (probes × hypotheses; inf for OL), and what another meter makes of them where junctions or
    electronics lie in the way."""

    values: Floats
    other: Floats


def read_unplugged(
    supply: BoardSupply, probes: Sequence[BenchProbe], conditions: Sequence[dict[str, Condition]]
) -> Unplugged:
    """The ohms and diode tests of one good board's supply under each of some conditions (none, healthy)."""
    damages = [damage(supply, each) if each else HEALTHY for each in conditions]
    values = _read(supply, probes, damages, soft=False)
    ohms = [row for row, probe in enumerate(probes) if probe.range is BenchRange.OHM]
    other = values.copy()
    if ohms:
        other[ohms] = _read(supply, [probes[row] for row in ohms], damages, soft=True)
    return Unplugged(values, other)


def _read(
    supply: BoardSupply, probes: Sequence[BenchProbe], damages: Sequence[Damage], *, soft: bool
) -> Floats:
    """Probes × damages, all in one batch: each a meter bridged between two nodes of a damaged board."""
    base = settle(unplugged(supply, soft=soft))
    edits = []
    for probe in probes:
        meter = DIODE_TEST if probe.range is BenchRange.DIODE else OHMS_TEST
        edits += [replace(harm, bridges=((probe.red, probe.black, meter),)) for harm in damages]
    x = SettledFaults([base], [edits]).edited(Analysis.DC).x.real
    ends = [
        base.circuit.topology.rows_of([getattr(probe, side) for probe in probes]) for side in ("red", "black")
    ]
    red, black = (np.repeat(each, len(damages)) for each in ends)
    at = np.arange(len(x))
    leads = (x[at, red] - x[at, black]).reshape(len(probes), len(damages))
    return np.array(
        [
            [_shown(probe.range, float(volts)) for volts in row]
            for probe, row in zip(probes, leads, strict=True)
        ]
    ).reshape(leads.shape)


def _shown(which: BenchRange, leads: float) -> float:
    if which is BenchRange.DIODE:
        volts = shown_volts(leads)
        return np.inf if volts is None else volts
    ohms = shown_ohms(leads)
    return np.inf if ohms > OPEN_OHMS else max(ohms, 0.0)


def esr_shown(supply: BoardSupply, probe: BenchProbe, conditions: dict[str, Condition]) -> float:
    """What an ESR meter shows between two points: all capacitors there in parallel, or a short's ohms."""
    admittance = 0.0
    for part, condition in _across(supply, probe, conditions):
        if condition and condition.kind == "short":
            admittance += 1 / condition.ohms
        elif part.esr_ohms and not (condition and condition.kind == "open"):
            admittance += 1 / (part.esr_ohms * (condition.esr if condition else 1.0))
    return 1 / admittance if admittance > 1e-3 else np.inf


def farads_shown(supply: BoardSupply, probe: BenchProbe, conditions: dict[str, Condition]) -> float:
    """What a capacitance meter shows: all capacitors there together; none (inf, as OL) across a short."""
    whole = 0.0
    for part, condition in _across(supply, probe, conditions):
        if condition and condition.kind == "short":
            return np.inf
        if part.farads and not (condition and condition.kind == "open"):
            whole += part.farads * (condition.factor if condition else 1.0)
    return whole


def _across(
    supply: BoardSupply, probe: BenchProbe, conditions: dict[str, Condition]
) -> list[tuple[BoardPart, Condition | None]]:
    ends = {probe.red, probe.black}
    return [(part, conditions.get(part.id)) for part in supply.parts if {part.a, part.b} == ends]
