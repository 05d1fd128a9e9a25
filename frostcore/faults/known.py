"""Every single fault a unit can have, from the catalogue and the sheet."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from frostcore.circuit.build import Warmth, build
from frostcore.circuit.element import Circuit, CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.settle import Settled
from frostcore.faults.catalogue import BOARD_ROWS, ROWS, WIRE_ROWS, BoardRow, WireRow
from frostcore.faults.edits import Act, Bridged, Commanded, Forced, InSeries, Opened, damage
from frostcore.sheet.electrical import EARTH, Board
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.sheet.wiring import Stretch


@dataclass(frozen=True)
class Fault:
    """One fault: its stable id, the component, the mode, words for it, its weight and why, and what it
    does."""

    id: str
    component: str
    mode: str
    name: str
    weight: float
    why: str
    acts: tuple[Act, ...]
    comes_and_goes: bool = False
    where: str = ""


def faults(sheet: Sheet) -> tuple[Fault, ...]:
    """All single faults of a sheet, in the order of its components, boards and harness lines; none where
    no mode says how it stands."""
    if not sheet.modes:
        return ()
    circuit = build(sheet, sheet.modes[0].id)
    return tuple(
        _weighed(sheet, fault) for fault in (*_components(sheet, circuit), *_boards(sheet), *_harness(sheet))
    )


def fault(sheet: Sheet, identifier: str) -> Fault:
    """The fault of that id; CircuitError naming the near ones when there is none."""
    known = {item.id: item for item in faults(sheet)}
    if identifier not in known:
        owner = identifier.partition(":")[0]
        near = [name for name in known if name.startswith(f"{owner}:")] or sorted(
            {item.component for item in known.values()}
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
                )


def _boards(sheet: Sheet) -> Iterator[Fault]:
    for board in sheet.boards:
        name = sheet.component(board.component).name
        for part, identifier, label, node in _board_parts(sheet, board):
            for row in BOARD_ROWS:
                if row.part == part:
                    acts = _board_acts(board, row, f"{board.component}.{identifier}", node)
                    mode_id = (
                        f"{board.component}:{row.mode}:{identifier}"
                        if identifier != "feed"
                        else f"{board.component}:{row.mode}"
                    )
                    yield Fault(
                        mode_id,
                        board.component,
                        row.mode,
                        f"{name}, {label}: {row.name}",
                        row.weight,
                        row.why,
                        acts,
                        where=f"{board.component}.{identifier}",
                    )


def _board_parts(sheet: Sheet, board: Board) -> Iterator[tuple[str, str, str, str]]:
    """(sort, id, words, node) of everything on a board that can fail."""
    if board.feed:
        yield "feed", "feed", "mains side", ""
    for rail in board.rails:
        yield "rail", rail.id, f"{rail.name} rail", rail.node
    for switch in board.switches:
        yield switch.kind, switch.id, switch.name or switch.id, switch.to_node
    for drive in board.drives:
        yield "drive", drive.id, drive.name or drive.id, drive.node
    for channel in board.sensor_inputs:
        yield (
            "pullup",
            f"pullup_{channel.sensor}",
            f"input of the {sheet.sensor_name(sheet.sensor(channel.sensor)).lower()}",
            sheet.wiring.near(channel.pin),
        )


def _board_acts(board: Board, row: BoardRow, branch: str, node: str) -> tuple[Act, ...]:
    match row.act:
        case "dead":
            rails = tuple(
                Forced(f"{board.component}.{rail.id}", "off") for rail in board.rails if not rail.fed_by
            )
            return (Forced(branch, "off"), *rails)
        case "commanded":
            return (Commanded(branch),)
        case "open" | "closed" | "off":
            return (Forced(branch, row.act),)
        case "series":
            return (InSeries(branch, row.ohms),)
        case "leak":
            return (Bridged(node, board.ground, row.ohms),)
    return (Opened(branch),)


def _of_wire(harness: str, stretch: Stretch, row: WireRow) -> Fault:
    """One fault of a wire, or of the joint at the pin it begins at."""
    joint = row.at == "joint"
    branch, name = (stretch.joint, stretch.start) if joint else (stretch.id, stretch.id)
    where = f"at {stretch.start}" if joint else f"{stretch.start} to {stretch.end}"
    acts: tuple[Act, ...] = (InSeries(branch, row.ohms),) if row.ohms else (Opened(branch),)
    if row.between:
        acts = (Bridged(stretch.far, row.between, row.ohms),)
    words = f"{stretch.colour} wire, {where}: {row.name}"
    identifier = f"{harness}:{row.mode}:{name}"
    return Fault(
        identifier, harness, row.mode, words, row.weight, row.why, acts, row.comes_and_goes, stretch.id
    )


def _harness(sheet: Sheet) -> Iterator[Fault]:
    harness = next(
        (component.id for component in sheet.components if component.kind is ComponentKind.HARNESS), ""
    )
    for stretch in sheet.wiring.stretches:
        for row in WIRE_ROWS:
            if row.between != "neighbour" and (stretch.connector or row.at == "wire"):
                if row.between == EARTH and stretch.far == EARTH:
                    continue
                yield _of_wire(harness, stretch, row)
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
                        f"{point} and {other}: {row.name}",
                        row.weight,
                        row.why,
                        acts,
                        where=point,
                    )
