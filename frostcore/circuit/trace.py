"""The path of a function through the unit: source, switch, board pin, wire, plug, load, and back to the
return.

The path follows from the circuit: of all sources, the one that reaches the load and comes back with the
fewest parts between. What is to be read at each of its points, against the return, is the meter's
business; which stretch is at fault follows from where readings turn bad.
"""

import heapq
import math
from collections.abc import Mapping
from dataclasses import dataclass

from frostcore.circuit.element import WALL, Branch, BranchKind, Circuit, CircuitError
from frostcore.circuit.meter import DEAD_SHORT_OHMS, METER_FLOOR, MeterRange, Points, Reading, expect
from frostcore.circuit.settle import Settled
from frostcore.quantity import Quantity, State
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import point_said
from frostcore.sheet.wiring import split_pin, split_terminal
from frostcore.verdict import Verdict

COST = {
    BranchKind.WIRE: 1.0,
    BranchKind.JOINT: 0.0,
    BranchKind.CONTACT: 1.0,
    BranchKind.SWITCH: 1.2,
    BranchKind.RESISTOR: 40.0,
    BranchKind.LOAD: 60.0,
    BranchKind.SOURCE: 200.0,
}
"""How unwilling a path is to pass a branch of each kind."""


@dataclass(frozen=True)
class FunctionName:
    """Something the unit does that can be traced: its id (a component, or ``component.part``), words, and
    the branch that is its load."""

    id: str
    name: str
    branch: str
    component: str


@dataclass(frozen=True)
class TracePoint:
    """A point of a path: how it is called on the sheet, its node, what a healthy unit reads there, and
    the branch that leads on to the next.

    ``connector`` is the plug it is a pin of, empty for other points.
    """

    label: str
    node: str
    reading: Reading
    onward: Branch | None
    place: str = ""
    connector: str = ""


@dataclass(frozen=True)
class Trace:
    """A path from source to return in a mode.

    ``black`` is the point every reading is against; ``load_at`` the index of the point before the load.
    """

    function: FunctionName
    mode: str
    meter: MeterRange
    black: str
    source: Branch
    points: tuple[TracePoint, ...]
    load_at: int

    @property
    def nodes(self) -> frozenset[str]:
        """Every node on the path."""
        return frozenset(point.node for point in self.points)

    @property
    def branches(self) -> frozenset[str]:
        """Every branch on the path, by id."""
        return frozenset(point.onward.id for point in self.points if point.onward)


@dataclass(frozen=True)
class Segment:
    """Where a path is broken: the last point that reads as it should (None when even the first is bad),
    the first that does not, and what lies between."""

    good: str | None
    bad: str
    between: tuple[Branch, ...]
    text: str


def functions(sheet: Sheet, circuit: Circuit) -> tuple[FunctionName, ...]:
    """Everything that can be traced on a unit, in the order of its components."""
    order = {component.id: place for place, component in enumerate(sheet.components)}
    boards = {board.component for board in sheet.boards}
    traced = [branch for branch in circuit.branches if branch.traced and branch.part not in boards]
    return tuple(
        FunctionName(branch.id, branch.name, branch.id, branch.part)
        for branch in sorted(traced, key=lambda branch: order[branch.part])
    )


def function_named(sheet: Sheet, circuit: Circuit, name: str) -> FunctionName:
    """The function of an id, of a component (its first), or of a board's signal (what that signal
    switches).

    CircuitError names what there is.
    """
    known = functions(sheet, circuit)
    by_id = next((item for item in known if item.id == name), None)
    found = by_id or next((item for item in known if item.component == name), None)
    if found:
        return found
    switched = {
        node
        for board in sheet.boards
        for switch in board.switches
        if switch.signal == name
        for node in (switch.from_node, switch.to_node)
    } | {drive.node for board in sheet.boards for drive in board.drives if drive.signal == name}
    if switched:
        ways = _Ways(circuit)
        for item in known:
            try:
                _, path, _ = ways.best(circuit.branch(item.branch))
            except CircuitError:
                continue
            if any(
                branch.kind is BranchKind.SWITCH and {branch.a, branch.b} <= switched
                for branch in path
                if branch
            ):
                return item
    message = (
        f"There is no function “{name}” on the {sheet.title}; it has {', '.join(item.id for item in known)}."
    )
    raise CircuitError(message)


def trace(sheet: Sheet, settled: Settled, function: FunctionName) -> Trace:
    """The path of a function in the mode the circuit is settled in."""
    circuit = settled.circuit
    source, path, nodes = _reachable(*_Ways(circuit).best(circuit.branch(function.branch)))
    ac = any(impedance is not None and impedance.ac_volts for impedance in source.states.values())
    meter = MeterRange.OHM if not circuit.live else MeterRange.VAC if ac else MeterRange.VDC
    named, black = _named(_labels(sheet, circuit), path, nodes), nodes[-1]
    points = [
        TracePoint(
            label,
            node,
            expect(settled, Points(label, named[-1], node, black), meter),
            onward,
            _place(sheet, label),
            _plug(label),
        )
        for label, node, onward in zip(named, nodes, (*path, None), strict=True)
    ]
    load_at = _load_at(path, function)
    return Trace(function, circuit.mode, meter, points[-1].label, source, tuple(points), load_at)


def _named(labels: Mapping[str, list[str]], path: tuple[Branch, ...], nodes: tuple[str, ...]) -> list[str]:
    """How each node of a path is called along it."""
    return [
        _label(labels, node, before, after)
        for node, before, after in zip(nodes, (None, *path), (*path, None), strict=True)
    ]


def _load_at(path: tuple[Branch, ...], function: FunctionName) -> int:
    return next(index for index, branch in enumerate(path) if branch.id == function.branch)


def probes(sheet: Sheet, circuit: Circuit) -> tuple[tuple[str, str], ...]:
    """Pairs of points worth probing: on each function's path, every connector's feed and return pin, and
    the load's own ends; each once."""
    found: dict[tuple[str, str], None] = {}
    ways, labels = _Ways(circuit), _labels(sheet, circuit)
    for function in functions(sheet, circuit):
        try:
            _, path, nodes = _reachable(*ways.best(circuit.branch(function.branch)))
        except CircuitError:
            continue  # nothing feeds it on this sheet; there is no pair to probe
        named, at = _named(labels, path, nodes), _load_at(path, function) + 1
        for label in named[:at]:
            plug = _plug(label)
            back = next((other for other in named[at:] if plug and _plug(other) == plug), None)
            if back:
                found[label, back] = None
        found[named[at - 1], named[at]] = None
    return tuple(found)


def localise(sheet: Sheet, path: Trace, readings: Mapping[str, Quantity]) -> Segment | None:
    """The segment between the last good and the first bad of some readings along a path.

    None while none is bad.
    """
    last = -1
    for index, point in enumerate(path.points):
        quantity = readings.get(point.label)
        if quantity is None:
            continue
        verdict = verdict_of(point.reading, quantity)
        if verdict is Verdict.IN_BAND:
            last = index
        if verdict in {Verdict.IN_BAND, Verdict.UNCLEAR}:
            continue
        between = tuple(item.onward for item in path.points[max(last, 0) : index] if item.onward)
        what = "; ".join(branch.name for branch in between) or "the supply before it"
        good = path.points[last].label if last >= 0 else None
        bad = point_said(sheet, point.label)
        text = (
            f"Good at {point_said(sheet, good)}, bad at {bad}: the fault lies in {what}."
            if good
            else f"Bad already at {bad}: look at {what}."
        )
        return Segment(good, point.label, between, text)
    return None


LOOP_OHMS, OPEN_LOOP_OHMS = 100e3, 1e6
"""What should read below the first and reads above the second is open: dirt and damp conduct that much."""


def verdict_of(reading: Reading, quantity: Quantity) -> Verdict:
    """Where a value stands against the reading foretold.

    Where a contact may stand either way, what fits either is no fault; that nothing comes through proves
    nothing then.
    """
    verdict = _verdict_alone(reading, quantity)
    others = [_verdict_alone(way.reading, quantity) for way in reading.ways]
    if Verdict.IN_BAND in {verdict, *others} and len({verdict, *others}) > 1:
        nothing = quantity.value is None or abs(quantity.value) <= METER_FLOOR[reading.meter]
        return Verdict.UNCLEAR if nothing else Verdict.IN_BAND
    return verdict


def _verdict_alone(reading: Reading, quantity: Quantity) -> Verdict:
    """Where a value stands against the one reading, whatever else it may be."""
    if reading.span:
        return Verdict.UNCLEAR
    if not reading.firm:
        shorted = quantity.state is not State.OPEN and quantity.number < DEAD_SHORT_OHMS
        return Verdict.SHORT if shorted else Verdict.UNCLEAR
    if reading.meter is MeterRange.OHM:
        if quantity.state is State.OPEN:
            return Verdict.IN_BAND if reading.value is None else Verdict.OPEN
        if reading.value is None:
            return Verdict.SHORT if quantity.number < 1.0 else Verdict.LOW
    if quantity.value is None:
        return Verdict.OPEN
    value = quantity.value
    if reading.meter is MeterRange.OHM and value > OPEN_LOOP_OHMS and (reading.high or 0.0) < LOOP_OHMS:
        return Verdict.OPEN
    if reading.low is not None and value < reading.low:
        return Verdict.SHORT if reading.meter is MeterRange.OHM and value <= 1.0 else Verdict.LOW
    return Verdict.HIGH if reading.high is not None and value > reading.high else Verdict.IN_BAND


class _Ways:
    """The cheapest ways through a circuit."""

    def __init__(self, circuit: Circuit) -> None:
        self._sources = [branch for branch in circuit.branches if branch.kind is BranchKind.SOURCE]
        self._edges: dict[str, list[tuple[str, Branch, float]]] = {}
        self._known: dict[str, dict[str, float]] = {}
        for branch in circuit.branches:
            if not any(branch.states.values()):
                continue  # what a rail draws from another is no way
            price = COST[branch.kind]
            self._edges.setdefault(branch.a, []).append((branch.b, branch, price))
            self._edges.setdefault(branch.b, []).append((branch.a, branch, price))

    def best(self, load: Branch) -> tuple[Branch, tuple[Branch, ...], tuple[str, ...]]:
        """(source, branches in order, nodes in order) of the cheapest way from a source through the load
        and back."""
        best: tuple[float, Branch, tuple[Branch, ...], tuple[str, ...]] | None = None
        # By the least that both ways can cost, without regard to what either takes from the other.
        least = [
            (
                self._costs(source.a).get(start, math.inf) + self._costs(source.b).get(end, math.inf),
                source,
                start,
                end,
            )
            for source in self._sources
            if source.id != load.id
            for start, end in ((load.a, load.b), (load.b, load.a))
        ]
        for bound, source, start, end in sorted(
            (item for item in least if item[0] < math.inf), key=lambda item: item[0]
        ):
            most = best[0] - 1e-9 if best else math.inf
            if bound >= most:
                break
            cost, out, out_nodes = self._way(
                source.a, start, {load.id, source.id}, {end, source.b} - {start}, most
            )
            if out is None:
                continue
            back_cost, back, back_nodes = self._way(
                end, source.b, {load.id, source.id}, set(out_nodes) - {end}, most - cost
            )
            if back is not None:
                best = (cost + back_cost, source, (*out, load, *back), (*out_nodes, *back_nodes))
        if best is None:
            message = (
                f"No source of this unit reaches {load.name.lower()} and comes back: nothing joins it to a"
                " supply on the sheet."
            )
            raise CircuitError(message)
        return best[1], best[2], best[3]

    def _costs(self, start: str) -> dict[str, float]:
        """What the cheapest way from a node to every other costs."""
        if start not in self._known:
            queue, costs = [(0.0, start)], {start: 0.0}
            while queue:
                cost, node = heapq.heappop(queue)
                if cost > costs[node]:
                    continue
                for other, _, price in self._edges[node]:
                    if cost + price < costs.get(other, math.inf):
                        costs[other] = cost + price
                        heapq.heappush(queue, (cost + price, other))
            self._known[start] = costs
        return self._known[start]

    def _way(
        self, start: str, goal: str, without: set[str], avoided: set[str], most: float
    ) -> tuple[float, list[Branch] | None, list[str]]:
        """The cheapest way between two nodes that costs less than ``most``; (cost, branches, nodes)."""
        edges = self._edges
        queue: list[tuple[float, int, str]] = [(0.0, 0, start)]
        came: dict[str, tuple[str, Branch] | None] = {start: None}
        costs, counter = {start: 0.0}, 0
        while queue:
            cost, _, node = heapq.heappop(queue)
            if node == goal:
                branches, nodes, step = [], [node], came[node]
                while step:
                    branches.append(step[1])
                    nodes.append(step[0])
                    step = came[step[0]]
                return cost, branches[::-1], nodes[::-1]
            if cost > costs[node]:
                continue
            for other, branch, price in edges.get(node, ()):
                further = cost + price
                if (
                    further < most
                    and further < costs.get(other, math.inf)
                    and other not in avoided
                    and branch.id not in without
                ):
                    costs[other], came[other] = further, (node, branch)
                    counter += 1
                    heapq.heappush(queue, (further, counter, other))
        return 0.0, None, []


def _reachable(
    source: Branch, path: tuple[Branch, ...], nodes: tuple[str, ...]
) -> tuple[Branch, tuple[Branch, ...], tuple[str, ...]]:
    """The path without its ends that no lead can reach: the house's side of the plug, an inverter's inner
    bus."""
    while nodes[0] in WALL:
        path, nodes = path[1:], nodes[1:]
    while nodes[-1] in WALL or path[-1].kind is BranchKind.SOURCE:
        path, nodes = path[:-1], nodes[:-1]
    return source, *_by_pins(path, nodes)


def _by_pins(path: tuple[Branch, ...], nodes: tuple[str, ...]) -> tuple[tuple[Branch, ...], tuple[str, ...]]:
    """The path with each pin as one point: its joint and its far side are where its wire begins."""
    wires = tuple(branch for branch in path if branch.kind is not BranchKind.JOINT)
    sides = {branch.b for branch in path if branch.kind is BranchKind.JOINT}
    return wires, tuple(node for node in nodes if node not in sides)


def _labels(sheet: Sheet, circuit: Circuit) -> dict[str, list[str]]:
    """How each node may be called: its pins first, then its terminals, then its own name."""
    found: dict[str, list[str]] = {}
    for point in sheet.wiring.pins:
        found.setdefault(sheet.wiring.near(point), []).append(point)
    for point, node in sheet.wiring.nodes.items():
        if point not in sheet.wiring.pins:
            found.setdefault(node, []).append(point)
    for node in circuit.nodes:
        found.setdefault(node, []).append(node)
    return found


def _label(labels: Mapping[str, list[str]], node: str, before: Branch | None, after: Branch | None) -> str:
    """The name a node has on this path: the point the path's own wire runs from or to, else its own."""
    names = labels.get(node, [node])
    for branch in (before, after):
        for end in branch.ends if branch else ():
            if end in names:
                return end
    return node


def _plug(point: str) -> str:
    """The connector a point is a pin of, or empty."""
    pin = split_pin(point)
    return pin[0] if pin else ""


def _place(sheet: Sheet, label: str) -> str:
    """Where a point is reached, or empty when the sheet doesn't tell."""
    pin = sheet.pin(label)
    if pin:
        return pin[0].place
    terminal = split_terminal(label)
    owner = terminal[0] if terminal else ""
    return next((component.place for component in sheet.components if component.id == owner), "")


def best_pair(path: Trace) -> tuple[str, str]:
    """The first pair worth probing on a path: feed and return at its first connector between board and
    load, else the load's own ends."""
    before, after = path.points[: path.load_at + 1], path.points[path.load_at + 1 :]
    switched = next(
        (
            place
            for place, point in enumerate(before)
            if point.onward and point.onward.kind is not BranchKind.WIRE
        ),
        -1,
    )
    for point in (*before[switched + 1 :], *before):
        plug = point.connector
        back = next((other.label for other in after if plug and other.connector == plug), None)
        if back:
            return point.label, back
    return before[-1].label, after[0].label
