"""Harness lines resolved: each stretch of wire with its two nodes, and the pins of every connector with
their colours.

A pin has two sides. The near side is the board's (or the arriving wire's), the far side the wire that
leaves the pin; between them is the joint, which opens when the connector is pulled.
"""

import re
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from frostcore.sheet.electrical import EARTH, Connector, Pin, Run

_PIN = re.compile(r"(?P<connector>[A-Z][A-Za-z0-9]*)\.(?P<number>\d+)")


WIRE_SIDE, JOINT = "/wire", "/joint"
"""What a pin's far side, and the joint between its sides, are called after the pin."""

OLD_SIDE = "/old"
"""What the free end of a wire is called after the pin it has left, where another wire leaves that now."""


def freed_from(point: str) -> str:
    """The point a free end has left; empty for every other point."""
    for side in (WIRE_SIDE, OLD_SIDE):
        if point.endswith(side):
            return point.removesuffix(side)
    return ""


@dataclass(frozen=True)
class Stretch:
    """A wire between two neighbouring points of a harness line.

    ``near`` and ``far`` are node names; ``connector`` is the id of the connector whose pin it starts at, or
    empty.
    """

    start: str
    end: str
    colour: str
    metres: float
    near: str
    far: str
    connector: str

    @property
    def id(self) -> str:
        """A stable name: its two points."""
        return f"{self.start}-{self.end}"

    @property
    def wire_side(self) -> str:
        """The node the wire itself begins at: its pin's far side, or where it starts when that is no pin."""
        return f"{self.start}{WIRE_SIDE}" if self.connector else self.near

    @property
    def joint(self) -> str:
        """The name of the joint between pin and wire, empty where it starts at no pin."""
        return f"{self.start}{JOINT}" if self.connector else ""


@dataclass(frozen=True)
class Wiring:
    """All stretches, and all pins by their points (``CN3.5``)."""

    stretches: tuple[Stretch, ...]
    pins: dict[str, tuple[Connector, Pin]]
    nodes: dict[str, str]
    purposes: dict[str, str]
    """What each pin is for, where its board's end says so."""

    @cached_property
    def leaving(self) -> dict[str, Stretch]:
        """The stretch that leaves each pin."""
        return {stretch.start: stretch for stretch in self.stretches if stretch.connector}

    @cached_property
    def held(self) -> frozenset[str]:
        """The far sides of pins whose wire is on them: no free ends."""
        return frozenset(f"{point}{WIRE_SIDE}" for point in self.leaving)

    @cached_property
    def pins_of(self) -> dict[str, tuple[tuple[str, Pin], ...]]:
        """(point, pin) of each connector, by number."""
        found: dict[str, list[tuple[str, Pin]]] = {}
        for point, (connector, pin) in self.pins.items():
            found.setdefault(connector.id, []).append((point, pin))
        return {
            identifier: tuple(sorted(pins, key=lambda item: item[1].number))
            for identifier, pins in found.items()
        }

    def near(self, point: str) -> str:
        """The node of a point: a pin's near side, a terminal's node, or the node of that name."""
        return self.nodes.get(point, point)

    def far(self, point: str) -> str:
        """A pin's far side, where its wire begins; a pin with no wire has only its near side."""
        stretch = self.leaving.get(point)
        return stretch.wire_side if stretch else self.near(point)


def split_pin(point: str) -> tuple[str, str] | None:
    """Connector and number of a point written as a pin, or None."""
    match = _PIN.fullmatch(point)
    return (match["connector"], match["number"]) if match else None


def split_terminal(point: str) -> tuple[str, str] | None:
    """Component and terminal of a point written as a component's terminal, or None."""
    owner, dot, terminal = point.partition(".")
    return (owner, terminal) if dot and not split_pin(point) else None


def wire_up(
    connectors: tuple[Connector, ...],
    harness: tuple[Run, ...],
    terminals: Mapping[str, Mapping[str, str]],
    seen: Mapping[str, str],
) -> Wiring:
    """Resolve the harness.

    ``terminals`` maps component id to its terminals' given nodes; ``seen`` are wire colours as read at
    points. What does not fit is told by :func:`problems`.
    """
    by_id = {connector.id: connector for connector in connectors}
    nodes = {f"{connector.id}.{pin.number}": pin.node for connector in connectors for pin in connector.pins}
    nodes |= {
        f"{component}.{terminal}": node
        for component, given in terminals.items()
        for terminal, node in given.items()
    }
    labels = {f"{connector.id}.{pin.number}": pin.label for connector in connectors for pin in connector.pins}
    stretches: list[Stretch] = []
    colours: dict[str, str] = dict(seen)
    purposes: dict[str, str] = {}
    inline: dict[str, tuple[Connector, Pin]] = {}
    for run in harness:
        for index, (start, end) in enumerate(zip(run.points, run.points[1:], strict=False)):
            pin = split_pin(start)
            connector = pin[0] if pin and pin[0] in by_id else ""
            colour = seen.get(start) or run.colour(index)
            stretches.append(
                Stretch(
                    start,
                    end,
                    colour,
                    run.metres,
                    nodes.get(start, start),
                    nodes.get(end, end),
                    connector,
                )
            )
            colours.setdefault(start, colour)
        label = next((labels[point] for point in run.points if labels.get(point)), "")
        for point in run.points:
            if label:
                purposes.setdefault(point, label)
            pin = split_pin(point)
            if pin and pin[0] in by_id and by_id[pin[0]].inline:
                inline[point] = (by_id[pin[0]], Pin(int(pin[1]), point))
    pins = {
        f"{connector.id}.{pin.number}": (connector, pin) for connector in connectors for pin in connector.pins
    } | inline
    coloured = {
        point: (connector, replace(pin, colour=seen.get(point) or pin.colour or colours.get(point, "")))
        for point, (connector, pin) in pins.items()
    }
    return Wiring(tuple(stretches), coloured, nodes, purposes)


def problems(
    wiring: Wiring, harness: tuple[Run, ...], connectors: tuple[Connector, ...], components: set[str]
) -> Iterator[tuple[str, str]]:
    """(place, text) of every harness line that leads nowhere, doubles a pin, or runs into a board from
    outside."""
    for index, run in enumerate(harness):
        for text in _run_problems(wiring, run, connectors, components):
            yield f"harness[{index}].points", text
    for text in _join_problems(wiring, harness):
        yield "harness", text


def _run_problems(
    wiring: Wiring, run: Run, connectors: tuple[Connector, ...], components: set[str]
) -> Iterator[str]:
    """What is wrong with one line on its own."""
    board_pins = {f"{connector.id}.{pin.number}" for connector in connectors for pin in connector.pins}
    known = {connector.id for connector in connectors}
    for index, whole in enumerate(run.points):
        point = freed_from(whole) or whole
        pin, owner = split_pin(point), point.partition(".")[0]
        if pin and pin[0] not in known:
            has = ", ".join(sorted(known)) or "none"
            yield f"there is no connector “{pin[0]}” for “{point}” on this sheet; it has {has}"
        elif pin and point not in wiring.pins:
            yield f"connector {pin[0]} lists no pin {pin[1]}"
        elif not pin and "." in point and owner not in components:
            yield f"“{point}” is no terminal: there is no component “{owner}” on this sheet"
        if point != whole and whole in wiring.held:
            yield f"“{whole}” is no free end: a wire still leaves {point}"
        if index and whole in board_pins:
            yield f"“{point}” sits on a board: write lines from the board outward, so that it comes first"


def _join_problems(wiring: Wiring, harness: tuple[Run, ...]) -> Iterator[str]:
    """What is wrong with how the lines meet: at pins, at inline pins, at splices."""
    leaves = Counter(point for run in harness for point in run.points[:-1])
    arrives = Counter(point for run in harness for point in run.points[1:])
    for point, (connector, _) in wiring.pins.items():
        if leaves[point] > 1:
            yield f"{leaves[point]} lines leave pin {point}; one wire leaves a pin, join more at a splice"
        if connector.inline and (leaves[point], arrives[point]) != (1, 1):
            yield f"one wire must arrive at inline pin {point} and one leave it"
    splices = {
        point
        for point in leaves.keys() | arrives.keys()
        if not split_pin(point) and "." not in point and point != EARTH
    }
    for name in sorted(splices - set(wiring.nodes.values())):
        if leaves[name] + arrives[name] < LEAST_AT_A_SPLICE:
            yield f"splice “{name}” joins only one wire"


LEAST_AT_A_SPLICE = 2
