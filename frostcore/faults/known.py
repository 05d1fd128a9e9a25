"""Every single fault a unit can have, from the catalogue and the sheet."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from frostcore.circuit.build import Warmth, build, charging, rail_limit
from frostcore.circuit.element import Circuit, CircuitError
from frostcore.circuit.figures import DRY_FARADS, DRY_OHMS
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.reach import load_of, mains_nodes
from frostcore.circuit.settle import Settled
from frostcore.faults.catalogue import BOARD_ROWS, PLAIN_ROWS, ROWS, WIRE_ROWS, BoardRow, PlainRow, WireRow
from frostcore.faults.edits import Act, Bridged, Commanded, Fed, Forced, InSeries, Opened, Shorted, damage
from frostcore.sheet.electrical import EARTH, Board
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.sheet.points import point_said, wire_ends
from frostcore.sheet.rewired import boards_out
from frostcore.sheet.wiring import Stretch
from frostcore.supply.bus import as_source


@dataclass(frozen=True)
class Fault:
    """One fault: its stable id, the component, the mode, words for it, its weight and why, and what it
    does.

    ``unit`` is what would be fitted or mended: a component, a stretch or plug of the harness, the board a
    part is on, two parts that failed together with a plus between. ``spread`` bounds the amount the acts
    stand for. ``seen_by`` says what shows it where no meter at the unit's points does. Of two parts that
    failed together ``also`` is the one that took the component along, and ``alone`` what either leaves when
    only the other is replaced: (part, fault's id).
    """

    id: str
    component: str
    mode: str
    name: str
    weight: float
    why: str
    acts: tuple[Act, ...]
    comes_and_goes: bool = False
    where: str = ""
    unit: str = ""
    spread: tuple[float, float] | None = None
    seen_by: str = ""
    also: str = ""
    alone: tuple[tuple[str, str], ...] = ()

    @property
    def kind(self) -> str:
        """``circuit`` where it changes the circuit, ``plain`` where it doesn't."""
        return "circuit" if self.acts else "plain"


def faults(sheet: Sheet) -> tuple[Fault, ...]:
    """All single faults of a sheet, in the order of its components, boards and harness lines; none where
    no mode says how it stands."""
    if not sheet.modes:
        return ()
    circuit = build(sheet, sheet.modes[0].id)
    found = (
        *_components(sheet, circuit),
        *_blown_by(sheet, circuit),
        *_boards(sheet, circuit),
        *_harness(sheet, circuit),
        *_plain(sheet),
    )
    return tuple(_weighed(sheet, fault) for fault in found)


def fault(sheet: Sheet, identifier: str) -> Fault:
    """The fault of that id; CircuitError naming the near ones when there is none."""
    known = {item.id: item for item in faults(sheet)}
    if identifier not in known:
        owner = identifier.partition(":")[0]
        near = [name for name in known if name.startswith(f"{owner}:")] or sorted(
            {name.partition(":")[0] for name in known}
        )
        message = (
            f"There is no fault “{identifier}” on the {sheet.title}; known are"
            f" {', '.join(near[:12])}{' …' if len(near) > 12 else ''}."
        )
        raise CircuitError(message)
    return known[identifier]


def broken(
    sheet: Sheet,
    mode: str,
    identifiers: Iterable[str],
    *,
    live: bool = True,
    pulled: tuple[str, ...] = (),
    celsius: Warmth = (),
) -> Settled:
    """The unit settled in a mode with these faults, healthy with none; CircuitError for unknown names."""
    circuits = circuits_of(sheet)
    base = circuits.scene(mode, live=live, pulled=pulled, celsius=celsius)
    acts = [act for identifier in dict.fromkeys(identifiers) for act in fault(sheet, identifier).acts]
    if not acts:
        return base
    done = damage(base.circuit, acts)
    return circuits.scene(mode, live=live, pulled=pulled, damage=done, celsius=celsius)


def _weighed(sheet: Sheet, item: Fault) -> Fault:
    for weak in sheet.component(item.component).weak_points if item.component else ():
        if weak.fault == item.mode:
            return replace(item, weight=item.weight * weak.times, why=f"{item.why}; known here: {weak.why}")
    return item


def _placed(act: Act, component: str) -> Act:
    values: dict[str, Any] = {
        name: value.replace("{c}", component) for name, value in vars(act).items() if isinstance(value, str)
    }
    return replace(act, **values)


def _components(sheet: Sheet, circuit: Circuit) -> Iterator[Fault]:
    nodes = {
        f"{component.id}.{name}": node
        for component in sheet.components
        for name, node in (component.terminals or {}).items()
    }
    for component in sheet.components:
        for row in ROWS:
            if row.kind is not component.kind or (
                row.needs and row.needs.format(c=component.id) not in circuit.branch_index
            ):
                continue
            acts = [_placed(act, component.id) for act in row.acts]
            kept: list[Act] = []
            for act in acts:
                if isinstance(act, Bridged):
                    act = replace(act, a=nodes.get(act.a, act.a), b=nodes.get(act.b, act.b))  # noqa: PLW2901
                    if act.a in circuit.node_index and act.b in circuit.node_index:
                        kept.append(act)
                elif act.branch in circuit.branch_index:
                    kept.append(act)
            if kept:
                yield Fault(
                    f"{component.id}:{row.mode}",
                    component.id,
                    row.mode,
                    f"{component.name}: {row.name}",
                    row.weight,
                    row.why,
                    tuple(kept),
                    row.comes_and_goes,
                    unit=component.id,
                    spread=row.spread,
                    seen_by=row.seen_by,
                )


BLOWS = {ComponentKind.HEATER, ComponentKind.FAN_AC, ComponentKind.VALVE, ComponentKind.AUGER_MOTOR}
"""Loads that blow the fuse of their board when they short."""

BLOWN_WEIGHT, BLOWN_OHMS = 2.0, 0.5


def _blown_by(sheet: Sheet, circuit: Circuit) -> Iterator[Fault]:
    """A fuse that a load on the mains has blown: an effect, with its cause behind it."""
    mains = mains_nodes(circuit)
    for fuse in (item for item in sheet.components if item.kind is ComponentKind.FUSE):
        for load in (item for item in sheet.components if item.kind in BLOWS):
            branch = next((item for item in circuit.branches if item.id == load.id), None)
            if branch and branch.a in mains and branch.b in mains:
                yield Fault(
                    f"{fuse.id}:blown_by:{load.id}",
                    fuse.id,
                    "blown_by",
                    f"{fuse.name}: blown by the shorted {load.name.lower()}",
                    BLOWN_WEIGHT,
                    "a short behind it blew it; a new fuse alone blows again",
                    (Opened(fuse.id), Shorted(load.id, BLOWN_OHMS)),
                    unit=f"{load.id}+{fuse.id}",
                    also=load.id,
                    alone=((fuse.id, f"{load.id}:short"), (load.id, f"{fuse.id}:open")),
                )


def _plain(sheet: Sheet) -> Iterator[Fault]:
    """What fails without a circuit, of the parts and of the unit as a whole."""
    for row in PLAIN_ROWS:
        parts = [item for item in sheet.components if item.kind is row.of] if row.of else [None]
        for part in parts:
            owner, name = (part.id, f"{part.name}: {row.name}") if part else ("", row.name.capitalize())
            yield Fault(
                f"{owner or 'unit'}:{row.mode}",
                owner,
                row.mode,
                name,
                row.weight,
                row.why,
                (),
                unit=_mended(row, owner),
                seen_by=row.seen_by,
            )


def _mended(row: PlainRow, owner: str) -> str:
    """What is fitted or mended: the part, a thing done to it, or one done to the unit."""
    if row.at_once or not owner:
        return f"unit:{row.mode}"
    return f"{owner}:{row.mode}" if row.by_hand else owner


def _boards(sheet: Sheet, circuit: Circuit) -> Iterator[Fault]:
    out = boards_out(sheet)
    for board in sheet.boards:
        if board in out:
            continue  # what mains no longer reach is at fault for nothing
        name = sheet.component(board.component).name
        for part, identifier, label, node in _board_parts(sheet, board):
            for row in BOARD_ROWS:
                if row.part == part:
                    acts = _BOARD_ACTS[row.act](_BoardPart(sheet, circuit, board, identifier, node, row))
                    if not acts and not row.seen_by:
                        continue  # it can't be here: an output that switches nothing
                    mode_id = (
                        f"{board.component}:{row.mode}:{identifier}"
                        if identifier != "feed"
                        else f"{board.component}:{row.mode}"
                    )
                    load = next((act.branch for act in acts if isinstance(act, Shorted)), "")
                    took = f", the {sheet.part_name(load).lower()}" if load else ""
                    rest = f"{board.component}:stuck_open:{identifier}"
                    yield Fault(
                        mode_id,
                        board.component,
                        row.mode,
                        f"{name}, {label}: {row.name}{took}",
                        row.weight,
                        row.why,
                        acts,
                        row.comes_and_goes,
                        where=f"{board.component}.{identifier}",
                        unit=f"{board.component}+{load}" if load else board.component,
                        seen_by=row.seen_by,
                        also=load,
                        alone=((board.component, f"{load}:short"), (load, rest)) if load else (),
                    )


def _board_parts(sheet: Sheet, board: Board) -> Iterator[tuple[str, str, str, str]]:
    """(sort, id, words, node) of everything on a board that can fail."""
    if board.feed:
        yield "feed", "feed", "mains side", ""
    for rail in board.rails:
        yield "rail", rail.id, f"{rail.name} rail", rail.node
    for switch in board.switches:
        sort = "relay" if switch.kind == "latching" else switch.kind
        yield sort, switch.id, switch.name or switch.id, switch.to_node
    for drive in board.drives:
        yield "drive", drive.id, drive.name or drive.id, drive.node
    for channel in board.sensor_inputs:
        yield (
            "pullup",
            f"pullup_{channel.sensor}",
            f"input of the {sheet.sensor_name(sheet.sensor(channel.sensor)).lower()}",
            sheet.wiring.near(channel.pin),
        )


@dataclass(frozen=True)
class _BoardPart:
    """A part of a board that can fail: its branch's last word, its node, and the fault's row."""

    sheet: Sheet
    circuit: Circuit
    board: Board
    id: str
    node: str
    row: BoardRow

    @property
    def branch(self) -> str:
        """Its branch."""
        return f"{self.board.component}.{self.id}"

    @property
    def no_rails(self) -> tuple[Act, ...]:
        """No rail of the board that is made from the mains."""
        name = self.board.component
        return tuple(Forced(f"{name}.{rail.id}", "off") for rail in self.board.rails if not rail.fed_by)

    def shorted(self) -> tuple[Act, ...]:
        """A short across the mains behind the fuse, and the fuse with it."""
        feed = self.board.feed
        fuses = [Opened(item.id) for item in self.sheet.components if item.kind is ComponentKind.FUSE]
        across = (Bridged(feed.live, feed.neutral, self.row.ohms),) if feed else ()
        return (*across, *self.no_rails, *fuses[:1])

    def burnt(self) -> tuple[Act, ...]:
        """An output burnt open by the load it switches; nothing where it switches none."""
        load = load_of(self.circuit, self.circuit.branch(self.branch))
        return (Forced(self.branch, "open"), Shorted(load.id, BURNT_OHMS)) if load else ()

    def high(self) -> tuple[Act, ...]:
        """An input's pin tied to the rail its pull-up hangs on."""
        channel = next(item for item in self.board.sensor_inputs if f"pullup_{item.sensor}" == self.id)
        rails = (item for item in self.board.rails if item.volts == channel.reference_volts)
        return tuple(Bridged(rail.node, self.node, self.row.ohms) for rail in rails)[:1]

    def dry(self) -> tuple[Act, ...]:
        """A rail as its capacitor leaves it with little of its farads and much more resistance; nothing that
        a meter shows where a regulator holds its volts."""
        rail = next(item for item in self.board.rails if item.id == self.id)
        rectified = charging(self.sheet, rail)
        if rectified is None:
            return ()
        farads, esr = rectified.farads * DRY_FARADS, rectified.esr * DRY_OHMS
        dried = replace(rectified, farads=farads, esr=esr)
        return (Fed(self.branch, as_source(dried, rail_limit(self.board, rail))),)


BURNT_OHMS = 1.0

_BOARD_ACTS: dict[str, Callable[[_BoardPart], tuple[Act, ...]]] = {
    "dead": lambda part: (Forced(part.branch, "off"), *part.no_rails),
    "cut": lambda part: (Opened(part.branch), *part.no_rails),
    "shorted": _BoardPart.shorted,
    "unseen": lambda part: (),
    "burnt": _BoardPart.burnt,
    "high": _BoardPart.high,
    "dry": _BoardPart.dry,
    "commanded": lambda part: (Commanded(part.branch),),
    "open": lambda part: (Forced(part.branch, "open"),),
    "closed": lambda part: (Forced(part.branch, "closed"),),
    "off": lambda part: (Forced(part.branch, "off"),),
    "series": lambda part: (InSeries(part.branch, part.row.ohms),),
    "leak": lambda part: (Bridged(part.node, part.board.ground, part.row.ohms),),
    "opened": lambda part: (Opened(part.branch),),
}
"""What each act of a board's row does to the circuit."""


def _of_wire(sheet: Sheet, harness: str, stretch: Stretch, row: WireRow, *, mains: bool) -> Fault:
    """One fault of a wire, or of the joint at the pin it begins at."""
    ohms = row.mains_ohms if mains and row.mains_ohms else row.ohms
    spread = row.mains_spread if mains and row.mains_spread else row.spread
    joint = row.at == "joint"
    branch, name = (stretch.joint, stretch.start) if joint else (stretch.id, stretch.id)
    acts: tuple[Act, ...] = (InSeries(branch, ohms),) if ohms else (Opened(branch),)
    if row.between:
        acts = (Bridged(stretch.far, row.between, ohms),)
    where = f"at {point_said(sheet, stretch.start)}" if joint else f"{wire_ends(sheet, stretch)}"
    words = f"{f'{stretch.colour} wire'.strip()}, {where}: {row.name}"
    identifier = f"{harness}:{row.mode}:{name}"
    return Fault(
        identifier,
        harness,
        row.mode,
        words,
        row.weight,
        row.why,
        acts,
        row.comes_and_goes,
        stretch.id,
        unit=f"{harness}:{_plug(stretch.start) if joint else name}",
        spread=spread,
    )


def _plug(pin: str) -> str:
    """The plug of a pin: what is cleaned, bent to or put on anew, whichever of its pins it is."""
    return pin.partition(".")[0]


def _harness(sheet: Sheet, circuit: Circuit) -> Iterator[Fault]:
    harness = next(
        (component.id for component in sheet.components if component.kind is ComponentKind.HARNESS), ""
    )
    mains = mains_nodes(circuit)
    for stretch in sheet.wiring.stretches:
        for row in WIRE_ROWS:
            if row.between != "neighbour" and (stretch.connector or row.at == "wire"):
                if row.between == EARTH and stretch.far == EARTH:
                    continue
                yield _of_wire(sheet, harness, stretch, row, mains=stretch.far in mains)
    for pins in sheet.wiring.pins_of.values():
        for (point, _), (other, _) in pairwise(pins):
            a, b = sheet.wiring.near(point), sheet.wiring.near(other)
            if a != b:
                for row in (row for row in WIRE_ROWS if row.between == "neighbour"):
                    acts = (Bridged(a, b, row.ohms),)
                    yield Fault(
                        f"{harness}:{row.mode}:{point}-{other}",
                        harness,
                        row.mode,
                        f"{point_said(sheet, point)} and {point_said(sheet, other)}: {row.name}",
                        row.weight,
                        row.why,
                        acts,
                        where=point,
                        unit=f"{harness}:{_plug(point)}",
                    )
