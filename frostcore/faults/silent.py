"""Which faults no meter shows at any point of the unit, in any setup, and why; and the probes that show
the others.

A fault is seen where the reading it gives lies outside the band of good units. Beside each function's own
pairs a repairer has the pins against the chassis, neighbouring pins, each part's own ends and each wire's
two ends; and the plug's own pins, in the hand when it is out.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from frostcore.circuit.build import build
from frostcore.circuit.element import WALL, BranchKind, CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import METER_FLOOR, METER_SHARE, MeterRange, expect, node_of, points
from frostcore.circuit.power import at_plug, judge_plug
from frostcore.faults.edits import Bridged, InSeries
from frostcore.faults.known import Fault, broken, faults
from frostcore.faults.table import Pair, Setup, predict, usual_pairs, usual_setups
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.verdict import Verdict


@dataclass(frozen=True)
class Silent:
    """A fault that no reading shows: the reading it moves most, by which share of what good units may
    differ, and the reason in words."""

    fault: Fault
    share: float
    setup: Setup | None
    pair: Pair | None
    reason: str


def telling_pairs(sheet: Sheet) -> tuple[Pair, ...]:
    """Every pair of points worth a reading, each once."""
    circuit = build(sheet, sheet.resting_mode, live=False)
    found: dict[Pair, None] = dict.fromkeys(usual_pairs(sheet))
    for pins in sheet.wiring.pins_of.values():
        names = [point for point, _ in pins]
        found |= dict.fromkeys((name, EARTH) for name in names)
        found |= dict.fromkeys(pairwise(names))
    for branch in circuit.branches:
        if branch.kind in {BranchKind.LOAD, BranchKind.CONTACT, BranchKind.RESISTOR}:
            found[branch.a, branch.b] = None
            found[branch.a, EARTH] = None
    for stretch in sheet.wiring.stretches:
        found[stretch.start, stretch.end] = None
    nodes = dict[frozenset[str], Pair]()
    for red, black in found:
        try:
            ends = frozenset(node_of(sheet, circuit, point, MeterRange.VAC) for point in (red, black))
        except CircuitError:
            continue
        if len(ends) == 2 and not ends & WALL:
            nodes.setdefault(ends, (red, black))
    return tuple(nodes.values())


def plug_pairs(sheet: Sheet) -> tuple[Pair, ...]:
    """The plug's pins against its lead's other ends, and against the chassis: read in ohms, the plug in
    hand."""
    plug = next((item.id for item in sheet.components if item.kind is ComponentKind.PLUG), "")
    ends = {"wall_l": f"{plug}.l", "wall_n": f"{plug}.n", "wall_e": EARTH}
    return (*ends.items(), ("wall_l", EARTH), ("wall_n", EARTH)) if plug else ()


def telling_setups(sheet: Sheet) -> tuple[Setup, ...]:
    """The usual setups, and ohms in every state with the plug out: a bimetal tells warm from cold."""
    more = [Setup(mode.id, MeterRange.OHM) for mode in sheet.modes if not mode.live]
    return tuple(dict.fromkeys((*usual_setups(sheet), *more)))


def silent(sheet: Sheet) -> tuple[Silent, ...]:
    """The faults that no reading shows, with the reason, in the order of the catalogue; those that a look,
    a thermometer or another instrument shows are among them, and say so (``fault.seen_by``)."""
    known = faults(sheet)
    circuits = [fault for fault in known if fault.acts]
    reach = _Reach(sheet, circuits)
    told = {fault.id: reach.of(number) for number, fault in enumerate(circuits)}
    unseen = (fault for fault in known if not _is_seen(told.get(fault.id)))
    return tuple(_told(fault, told.get(fault.id)) for fault in unseen if not _at_the_plug(sheet, fault))


def _at_the_plug(sheet: Sheet, fault: Fault) -> bool:
    """Whether watts at the plug show it in some mode."""
    if not fault.acts:
        return False
    for mode in circuits_of(sheet).live_modes:
        healthy = circuits_of(sheet).scene(mode.id)
        watts = at_plug(broken(sheet, mode.id, [fault.id])).watts
        if judge_plug(healthy, watts).verdict is not Verdict.IN_BAND:
            return True
    return False


def _is_seen(best: "_Best | None") -> bool:
    return best is not None and best.share > 1


@dataclass(frozen=True)
class _Best:
    """The reading a fault moves most: by which share of half the band."""

    share: float
    setup: Setup
    pair: Pair


class _Reach:
    """How far each fault moves each reading."""

    def __init__(self, sheet: Sheet, known: Sequence[Fault]) -> None:
        self._sheet = sheet
        pins = plug_pairs(sheet)
        off = Setup(sheet.resting_mode, MeterRange.OHM)
        self._tables = [
            predict(sheet, telling_setups(sheet), telling_pairs(sheet), known),
            *([predict(sheet, (off,), pins, known)] if pins else []),
        ]
        self._bands: dict[tuple[int, int, int], tuple[float, float]] = {}

    def of(self, fault: int) -> _Best | None:
        """The reading a fault moves most; the first clear one is enough."""
        best: _Best | None = None
        for number, table in enumerate(self._tables):
            healthy, found = table.values[:, 0, :], table.values[:, 1 + fault, :]
            order = _promising(healthy, found, table.setups)
            for place in order:
                setup, pair = divmod(place, healthy.shape[1])
                share = self._share(number, setup, pair, float(found[setup, pair]))
                if best is None or share > best.share:
                    best = _Best(share, table.setups[setup], table.pairs[pair])
                if share > 1:
                    return best
        return best

    def _share(self, number: int, setup: int, pair: int, value: float) -> float:
        """How far a value is from the healthy one, in half bands; 0 where nothing can be judged."""
        table = self._tables[number]
        nominal = float(table.values[setup, 0, pair])
        low, high = self._band(number, setup, pair)
        if np.isinf(nominal) or np.isinf(value):
            return 0.0 if nominal == value or low < 0 else np.inf
        if value >= nominal:
            return (value - nominal) / max(high - nominal, 1e-12)
        return (nominal - value) / max(nominal - low, 1e-12)

    def _band(self, number: int, setup: int, pair: int) -> tuple[float, float]:
        """The healthy band; from below nothing to beyond everything where no meter can judge."""
        key = (number, setup, pair)
        if key not in self._bands:
            table, sheet = self._tables[number], self._sheet
            at = table.setups[setup]
            settled = circuits_of(sheet).scene(at.mode, live=at.meter.live, pulled=at.pulled)
            where = points(sheet, settled.circuit, *table.pairs[pair], at.meter)
            reading = expect(settled, where, at.meter)
            low = reading.low if reading.low is not None else -np.inf
            high = reading.high if reading.high is not None else np.inf
            self._bands[key] = (-np.inf, np.inf) if reading.settles_nothing else (low, high)
        return self._bands[key]


MOST_TRIED = 4
"""So many of the readings a fault moves most in each setup are set against their bands."""


def _promising(
    healthy: npt.NDArray[np.float64], found: npt.NDArray[np.float64], setups: Sequence[Setup]
) -> Iterator[int]:
    """The places of the readings a fault moves, most first: by how it compares with the meter's own doubt."""
    floor = np.array([METER_FLOOR[setup.meter] for setup in setups])[:, None]
    with np.errstate(invalid="ignore"):
        apart = np.abs(found - healthy) / (METER_SHARE * np.maximum(np.abs(healthy), np.abs(found)) + floor)
    apart[np.isnan(apart)] = np.where(np.isinf(healthy) == np.isinf(found), 0.0, np.inf)[np.isnan(apart)]
    best = np.argsort(-apart, axis=1, kind="stable")[:, :MOST_TRIED]
    places = (best + apart.shape[1] * np.arange(len(apart))[:, None]).ravel()
    order = places[np.argsort(-apart.ravel()[places], kind="stable")]
    return (int(place) for place in order if apart.flat[place] > 1)


def _told(fault: Fault, best: _Best | None) -> Silent:
    if fault.seen_by:
        reason = f"No reading at the unit’s points shows it. What does: {fault.seen_by}."
    elif best is None:
        reason = "No reading at any point moves by more than the meter’s own doubt."
    else:
        what = f"{best.pair[0]} to {best.pair[1]}, {best.setup.meter.label} in {best.setup.mode}"
        reason = f"It moves no reading as far as good parts differ; most {what}, {best.share:.0%} of that."
    if any(isinstance(act, InSeries) for act in fault.acts):
        reason += " Read the volts across it under load, or feel for warmth."
    if any(isinstance(act, Bridged) for act in fault.acts):
        reason += " An insulation tester shows it."
    if best is None:
        return Silent(fault, 0.0, None, None, reason)
    return Silent(fault, best.share, best.setup, best.pair, reason)
