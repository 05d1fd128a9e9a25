"""The meter tests a unit offers: which two points, in which setup, each once.

Beside each function's own pairs: every pin of a pulled plug against the chassis and against its neighbour,
each part's own ends, each wire's two ends. The usual pairs cannot part heater, bimetal, fuse and the wire
between them, and no leak to the chassis shows at all without the first.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from frostcore.circuit.element import WALL, BranchKind, Circuit, CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, node_of
from frostcore.circuit.reach import mains_nodes
from frostcore.faults.table import Pair, Setup, usual_pairs
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import ComponentKind, Sheet


@dataclass(frozen=True)
class Probe:
    """A reading that can be taken: the setup and the two points."""

    setup: Setup
    red: str
    black: str

    @property
    def at_temperature(self) -> bool:
        """Whether it is of a sensor whose temperature is measured with it."""
        return bool(self.setup.celsius)

    @property
    def pair(self) -> Pair:
        """Its two points."""
        return self.red, self.black


def candidates(sheet: Sheet) -> tuple[Probe, ...]:
    """Every test worth weighing, in a fixed order; kept with the sheet's circuits."""
    kept = circuits_of(sheet).kept
    if "candidates" not in kept:
        kept["candidates"] = tuple(_candidates(sheet))
    found: tuple[Probe, ...] = kept["candidates"]
    return found


def _candidates(sheet: Sheet) -> Iterator[Probe]:
    if not sheet.harness or not sheet.modes:
        return
    resting = circuits_of(sheet).scene(sheet.resting_mode, live=False).circuit
    usual = usual_pairs(sheet)
    seen: set[tuple[Setup, frozenset[str]]] = set()
    for probe in (*_at_rest(sheet, resting, usual), *_live(sheet, resting, usual)):
        try:
            ends = frozenset(node_of(sheet, resting, point, probe.setup.meter) for point in probe.pair)
        except CircuitError:
            continue
        sides = frozenset(probe.pair) if probe.setup.pulled else ends
        key = (probe.setup, sides)
        if len(ends) == 2 and not ends & WALL and key not in seen:
            seen.add(key)
            yield probe


def _at_rest(sheet: Sheet, circuit: Circuit, usual: tuple[Pair, ...]) -> Iterator[Probe]:
    off = Setup(sheet.resting_mode, MeterRange.OHM)
    plug = next((item.id for item in sheet.components if item.kind is ComponentKind.PLUG), "")
    if plug:
        yield Probe(off, f"{plug}.l", f"{plug}.n")
        yield from (Probe(off, f"{plug}.{pin}", EARTH) for pin in ("l", "n"))
    yield from (Probe(off, *pair) for pair in usual)
    yield from (Probe(off, *pair) for pair in _own_ends(sheet, circuit))
    for connector in sheet.connectors:
        setup = Setup(off.mode, MeterRange.OHM, (connector.id,))
        pins = [point for point, _ in sheet.wiring.pins_of.get(connector.id, ())]
        mine = {connector.id}
        yield from (Probe(setup, *pair) for pair in usual if {_plug(sheet, point) for point in pair} == mine)
        yield from (Probe(setup, pin, EARTH) for pin in pins)
        yield from (Probe(setup, *pair) for pair in pairwise(pins))
    for stretch in sheet.wiring.stretches:
        plugs = tuple(sorted({_plug(sheet, stretch.start), _plug(sheet, stretch.end)} - {""}))
        # At the far end the half of the plug that the wire comes to, not the one it goes on from.
        end = f"{stretch.end}/board" if stretch.end in sheet.wiring.leaving else stretch.end
        if plugs:
            yield Probe(Setup(off.mode, MeterRange.OHM, plugs), stretch.start, end)
    yield from _sensors(sheet, off.mode)
    for mode in sheet.modes:  # warm contacts tell more than cold ones
        if not mode.live and mode.id != off.mode:
            warm = Setup(mode.id, MeterRange.OHM)
            contacts = _contacts(sheet)
            yield from (Probe(warm, *pair) for pair in _own_ends(sheet, circuit) if _part(pair) in contacts)


def _sensors(sheet: Sheet, mode: str) -> Iterator[Probe]:
    """Each sensor from its plug at a temperature that is known: an ice bath, for the plan."""
    for sensor in sheet.sensors:
        pin = sheet.pin(sensor.pins[0]) if sensor.pins else None
        if pin:
            place = sheet.component(sensor.component).place
            setup = Setup(mode, MeterRange.OHM, (pin[0].id,), ((place, ICE_CELSIUS),))
            yield Probe(setup, sensor.pins[0], sensor.pins[-1])


ICE_CELSIUS = 0.0


def _own_ends(sheet: Sheet, circuit: Circuit) -> Iterator[Pair]:
    """Each part's own ends."""
    boards = {board.component for board in sheet.boards}
    for branch in circuit.branches:
        loads = {BranchKind.LOAD, BranchKind.CONTACT, BranchKind.RESISTOR}
        if branch.kind in loads and branch.part and branch.part not in boards:
            yield branch.a, branch.b


def _contacts(sheet: Sheet) -> frozenset[str]:
    return frozenset(item.id for item in sheet.components if item.kind is ComponentKind.BIMETAL)


def _part(pair: Pair) -> str:
    return pair[0].partition(".")[0]


def _plug(sheet: Sheet, point: str) -> str:
    """The connector a point is a pin of, empty for other points."""
    pin = sheet.pin(point)
    return pin[0].id if pin else ""


def _live(sheet: Sheet, circuit: Circuit, usual: tuple[Pair, ...]) -> Iterator[Probe]:
    mains = mains_nodes(circuit)
    pairs = dict.fromkeys((*usual, *_supplies(sheet)))
    for mode in sheet.modes:
        if not mode.live:
            continue
        for pair in pairs:
            try:
                nodes = [node_of(sheet, circuit, point, MeterRange.VAC) for point in pair]
            except CircuitError:
                continue
            if any(node in mains for node in nodes):
                yield Probe(Setup(mode.id, MeterRange.VAC), *pair)
                yield Probe(Setup(mode.id, MeterRange.VAC_LOZ), *pair)
            else:
                yield Probe(Setup(mode.id, MeterRange.VDC), *pair)


def _supplies(sheet: Sheet) -> Iterator[Pair]:
    """Each board's rails and mains, at the first of its pins that has them."""
    for board in sheet.boards:
        pins = {
            pin.node: f"{connector.id}.{pin.number}"
            for connector in reversed(sheet.connectors)
            for pin in reversed(connector.pins)
        }
        ground = pins.get(board.ground)
        yield from ((pins[rail.node], ground) for rail in board.rails if ground and rail.node in pins)
        if board.feed and board.feed.neutral in pins:
            live = next((pins[name] for name in (board.feed.live, "live_in") if name in pins), "")
            if live:
                yield live, pins[board.feed.neutral]
