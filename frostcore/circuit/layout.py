"""The trace laid out: boards at the left with their connectors as they sit, wires in their colours,
inline plugs, loads at the right.

Geometry only, in the units of the picture's viewBox, y downward; a template draws it. Boxes stand in
columns by how many plugs lie between them and a board; each wire runs level, drops on a track of its own
between two columns, and runs level again, through a gap left free for it where it passes a column.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import pairwise

from frostcore.circuit.element import Branch, BranchKind
from frostcore.circuit.picture import Box, Bridge, Inside, Port, TracePicture, Wire
from frostcore.circuit.trace import Trace
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import plug_known, plug_name, point_name, printed_pin, purpose
from frostcore.sheet.wiring import Stretch, freed_from, split_pin, split_terminal

ROW, HEAD, GAP = 46.0, 30.0, 22.0
BOX_WIDTH, TRACK, CHANNEL = 158.0, 13.0, 36.0
INSIDE, MARGIN = 168.0, 14.0
WIDE = 226.0
"""The width where pins are called by what they are for."""

LONGEST = 21
"""Letters of a name that fit a box."""


@dataclass
class _Item:
    """A box on its way to its place."""

    id: str
    kind: str
    name: str
    rows: list[str]
    level: int = 0
    y: float = 0.0
    wanted: list[float] = field(default_factory=list)

    @property
    def height(self) -> float:
        return ROW if self.kind in {"gap", "splice"} else HEAD + ROW * len(self.rows)

    def row_y(self, point: str) -> float:
        top = 0.0 if self.kind in {"gap", "splice"} else HEAD
        return self.y + top + ROW * (self.rows.index(point) + 0.5)


def lay_out_trace(
    sheet: Sheet, path: Trace | None, *, whole: bool = False, working: frozenset[str] = frozenset()
) -> TracePicture:
    """The picture of a path: the connectors it touches with all their pins, and everything on it.

    Or of the whole unit.

    ``working`` are branches to light instead of the path's: those of everything that runs in a mode.
    """
    lit = working or (path.branches if path else frozenset())
    stretches = [stretch for stretch in sheet.wiring.stretches if whole or stretch.id in lit]
    items = _items(sheet, path, stretches, whole=whole)
    links = _links(items, [*stretches, *_joins(sheet, items)])
    _levels(items, links)
    chains = _with_gaps(items, links)
    _stack(items, chains, [point.onward.part for point in path.points if point.onward] if path else [])
    return _draw(sheet, path, items, chains, lit)


def _owner(sheet: Sheet, point: str) -> tuple[str, str]:
    """(kind, id) of the box a point belongs to."""
    pin = split_pin(point)
    if pin:
        found = sheet.pin(point)
        return ("connector" if found and not found[0].inline else "plug"), pin[0]
    terminal = split_terminal(point)
    if terminal and any(component.id == terminal[0] for component in sheet.components):
        return "component", terminal[0]
    return "splice", point


def _item(sheet: Sheet, key: tuple[str, str], point: str) -> _Item:
    """The box of a connector, plug, component or splice, before its rows are met."""
    kind, identifier = key
    if kind in {"connector", "plug"}:
        connector, printed = sheet.connector(identifier), ""
        name = connector.name.partition(" plug at ")[0].removesuffix("’s")  # on its board already
        if plug_known(sheet, identifier):
            printed, name = f"{plug_name(sheet, identifier)} ", connector.name
        name = printed + _short(name, LONGEST - len(printed))
        return _Item(identifier, kind, name, [pin for pin, _ in sheet.wiring.pins_of[identifier]])
    if kind == "component":
        return _Item(identifier, kind, _short(sheet.component(identifier).name, LONGEST), [])
    return _Item(point, "splice", "splice", [point])


def _parts_on(sheet: Sheet, path: Trace | None) -> Iterator[Branch]:
    """The loads and contacts a path passes that are parts of their own, not of a board."""
    known = {component.id for component in sheet.components}
    for branch in (point.onward for point in path.points if point.onward) if path else ():
        if (
            branch.kind in {BranchKind.LOAD, BranchKind.CONTACT}
            and branch.part in known
            and not _on_board(sheet, branch.part)
        ):
            yield branch


def _add_rows(sheet: Sheet, items: Mapping[tuple[str, str], _Item], terminals: Iterable[str]) -> None:
    """Give each component's box a row for each of its terminals, as they are met."""
    for point in terminals:
        key = _owner(sheet, point)
        if key[0] == "component" and key in items and point not in items[key].rows:
            items[key].rows.append(point)


def _items(
    sheet: Sheet, path: Trace | None, stretches: Iterable[Stretch], *, whole: bool
) -> dict[tuple[str, str], _Item]:
    """The boxes with their rows: all pins of a connector or plug in their order, a component's terminals
    as met."""
    items: dict[tuple[str, str], _Item] = {}
    points = [point for stretch in stretches for point in (stretch.start, stretch.end)]
    on_path = [point.label for point in path.points] if path else []
    for point in (*points, *(label for label in on_path if "." in label or split_pin(label))):
        key = _owner(sheet, point)
        if key not in items and not (key[0] == "splice" and point not in points):
            items[key] = _item(sheet, key, point)
    terminals = [*points, *on_path]
    for component in sheet.components:
        for terminal, node in (component.terminals or {}).items():
            if ("component", component.id) in items and (node in points or node in on_path or whole):
                terminals += [f"{component.id}.{terminal}", node]
    for branch in _parts_on(sheet, path):
        key = ("component", branch.part)
        items.setdefault(key, _item(sheet, key, branch.part))
        terminals += [_terminal(sheet, branch.part, node) for node in (branch.a, branch.b)]
    _add_rows(sheet, items, terminals)
    ordered = {
        ("connector", connector.id): items.pop(("connector", connector.id))
        for connector in sheet.connectors
        if ("connector", connector.id) in items
    }
    return {key: item for key, item in (ordered | items).items() if item.rows}


def _short(name: str, letters: int) -> str:
    """A name that fits its box: without what follows a comma, and cut where it is still too long."""
    name = name.partition(",")[0]
    return name if len(name) <= letters else f"{name[: letters - 1].rstrip()}…"


def _on_board(sheet: Sheet, component: str) -> bool:
    """Whether a component has no wires of its own: it sits on the board, and is drawn there."""
    wired = {_owner(sheet, point) for run in sheet.harness for point in run.points}
    return ("component", component) not in wired and component not in _sharing(sheet)


def _sharing(sheet: Sheet) -> set[str]:
    """Components joined straight onto another component's terminal."""
    return {
        component.id
        for component in sheet.components
        for node in (component.terminals or {}).values()
        if "." in node and not split_pin(node)
    }


def _terminal(sheet: Sheet, component: str, node: str) -> str:
    """The terminal of a component that lies on a node."""
    given = next(item.terminals or {} for item in sheet.components if item.id == component)
    return next((f"{component}.{terminal}" for terminal, name in given.items() if name == node), node)


JOINED = "joined"
"""Said in place of a colour where two components are crimped together without a wire."""


def _joins(sheet: Sheet, items: Mapping[tuple[str, str], _Item]) -> list[Stretch]:
    """Components joined straight onto each other, as stretches of no wire."""
    drawn = {point for item in items.values() for point in item.rows}
    return [
        Stretch(f"{component.id}.{terminal}", node, JOINED, 0.0, node, node, "")
        for component in sheet.components
        for terminal, node in (component.terminals or {}).items()
        if f"{component.id}.{terminal}" in drawn and node in drawn
    ]


Link = tuple[tuple[str, str], str, tuple[str, str], str, Stretch]


def _links(items: Mapping[tuple[str, str], _Item], stretches: Iterable[Stretch]) -> list[Link]:
    """(box, point, box, point, wire) of every stretch whose two boxes are drawn."""
    where = {point: key for key, item in items.items() for point in item.rows}
    return [
        (where[stretch.start], stretch.start, where[stretch.end], stretch.end, stretch)
        for stretch in stretches
        if stretch.start in where and stretch.end in where
    ]


def _levels(items: Mapping[tuple[str, str], _Item], links: Iterable[Link]) -> None:
    """Columns: boards' connectors first.

    A wire leads one column on, unless it joins two components, which share theirs.
    """
    links = list(links)
    for _ in range(len(items) + 1):
        changed = False
        for start, _, end, _, _ in links:
            same = start[0] == end[0] == "component"
            wanted = items[start].level + (0 if same else 1)
            if items[end].level < wanted and items[end].kind != "connector":
                items[end].level, changed = wanted, True
            if same and items[start].level < items[end].level and not any(link[2] == start for link in links):
                items[start].level, changed = items[end].level, True
        if not changed:
            break


Chain = tuple[list[tuple[_Item, str]], Stretch]


def _with_gaps(items: dict[tuple[str, str], _Item], links: Iterable[Link]) -> list[Chain]:
    """Each wire as the boxes and points it passes: a gap stands for it in every column it only
    crosses."""
    chains = []
    for start, start_point, end, end_point, stretch in links:
        first, last = items[start], items[end]
        hops = [(first, start_point)]
        step = 1 if last.level > first.level else -1
        for level in range(first.level + step, last.level, step):
            gap = _Item(f"{stretch.id}@{level}", "gap", "", [stretch.id], level)
            items["gap", gap.id] = gap
            hops.append((gap, stretch.id))
        chains.append(([*hops, (last, end_point)], stretch))
    return chains


def _stack(items: Mapping[tuple[str, str], _Item], chains: Iterable[Chain], along: list[str]) -> None:
    """Rows: the first column in the sheet's order, each next one in the order of what leads to it.

    What the path passes, ``along`` it.
    """
    columns: dict[int, list[_Item]] = {}
    for item in items.values():
        columns.setdefault(item.level, []).append(item)
    hops = [pair for hops, _ in chains for pair in pairwise(hops)]
    for level in sorted(columns):
        _want(level, columns[level], hops)
        order = _order(columns[level], along) if level else columns[level]
        bottom = MARGIN
        for item in order:
            wanted = sum(item.wanted) / len(item.wanted) if level and item.wanted else bottom
            item.y = max(bottom, min(wanted, bottom + 2 * ROW))
            bottom = item.y + item.height + (GAP if item.kind != "gap" else 0)


Hop = tuple[tuple[_Item, str], tuple[_Item, str]]


def _want(level: int, column: Iterable[_Item], hops: Iterable[Hop]) -> None:
    """Where each box of a column would stand to be level with what leads to it."""
    for item in column:
        item.wanted = []
    for hop in hops:
        for (near, near_point), (target, target_point) in (hop, hop[::-1]):
            if target.level == level and near.level < level:
                target.wanted.append(near.row_y(near_point) - (target.row_y(target_point) - target.y))
    for (one, point), (other, far) in hops:
        if one.level == other.level == level and one is not other:
            _follow(one, point, other, far)


def _order(column: Iterable[_Item], along: list[str]) -> list[_Item]:
    """A column from top to bottom: by what leads to each, the path's components together in its order."""
    order = sorted(column, key=lambda item: sum(item.wanted) / len(item.wanted) if item.wanted else 1e9)
    passed = sorted(
        (item for item in order if item.kind == "component" and item.id in along),
        key=lambda item: along.index(item.id),
    )
    if not passed:
        return order
    place = order.index(min(passed, key=order.index))
    before, after = order[:place], order[place:]
    return [
        *(item for item in before if item not in passed),
        *passed,
        *(item for item in after if item not in passed),
    ]


def _follow(one: _Item, point: str, other: _Item, far: str) -> None:
    """A component joined to another of its column stands beneath it."""
    if one.wanted and not other.wanted:
        other.wanted.append(sum(one.wanted) / len(one.wanted) + one.height + GAP)
    elif other.wanted and not one.wanted:
        one.wanted.append(sum(other.wanted) / len(other.wanted) + other.height + GAP)


def _draw(
    sheet: Sheet,
    path: Trace | None,
    items: Mapping[tuple[str, str], _Item],
    chains: list[Chain],
    lit: frozenset[str],
) -> TracePicture:
    width = WIDE if any(_unprinted(sheet, item) for item in items.values()) else BOX_WIDTH
    inside = INSIDE if any(item.level == 0 and item.kind == "connector" for item in items.values()) else 0.0
    last = max((item.level for item in items.values()), default=0)
    tracks: dict[int, list[tuple[float, float, int, int]]] = {level: [] for level in range(-1, last + 1)}
    segments: list[tuple[int, int, int, float, float]] = []
    for number, (hops, _) in enumerate(chains):
        for hop, ((one, point), (other, far)) in enumerate(pairwise(hops)):
            channel = min(one.level, other.level) if one.level != other.level else one.level - 1
            start, end = one.row_y(point), other.row_y(far)
            segments.append((number, hop, channel, start, end))
            if abs(start - end) > 1 or one.level == other.level:
                tracks[channel].append((start, end, number, hop))
    places: dict[tuple[int, int], int] = {}
    for found in tracks.values():
        # Wires going down take the nearer tracks from the lowest start, wires going up from the highest, so
        # that they cross little.
        for place, (_, _, number, hop) in enumerate(
            sorted(found, key=lambda item: (item[1] < item[0], -item[0] if item[1] >= item[0] else item[0]))
        ):
            places[number, hop] = place
    widths = {level: CHANNEL + TRACK * len(tracks[level]) for level in tracks}
    left = {0: MARGIN + inside + (widths[-1] if tracks[-1] else 0.0)}
    for level in range(1, last + 1):
        left[level] = left[level - 1] + width + widths[level - 1]
    on_path = (lit, path.nodes if path else frozenset())
    wires = _wires(chains, segments, places, (left, width), on_path)
    labels = {point.label: point for point in path.points} if path else {}
    boxes = tuple(
        _box(sheet, item, left[item.level], width, labels, on_path[1])
        for item in items.values()
        if item.kind != "gap"
    )
    ports = {port.point: port for box in boxes for port in box.ports}
    bottom = max((item.y + item.height for item in items.values()), default=0.0) + MARGIN
    insides = _insides(sheet, path, ports, bottom) if path else ()
    bridges = _bridges(sheet, path, ports) if path else ()
    first = [item for item in items.values() if item.kind == "connector"]
    slab = (
        (
            MARGIN,
            MARGIN / 2,
            inside + width / 2,
            max((item.y + item.height for item in first), default=0.0),
        )
        if first
        else (0.0, 0.0, 0.0, 0.0)
    )
    summary = (
        f"{path.function.name}: " + ", ".join(point_name(sheet, point.label) for point in path.points)
        if path
        else f"{sheet.title}, the whole unit"
    )
    boards = " and ".join(sheet.component(board.component).name for board in sheet.boards)
    return TracePicture(
        left[last] + width + MARGIN, bottom, boxes, wires, insides, bridges, slab, boards, summary
    )


def _wires(
    chains: list[Chain],
    segments: list[tuple[int, int, int, float, float]],
    places: Mapping[tuple[int, int], int],
    columns: tuple[Mapping[int, float], float],
    on_path: tuple[frozenset[str], frozenset[str]],
) -> tuple[Wire, ...]:
    """``columns``: the levels’ left edges, the boxes’ width; ``on_path``: the stretches and nodes lit."""
    (left, width), (lit, nodes) = columns, on_path
    by_chain: dict[int, list[tuple[int, int, float, float]]] = {}
    for number, hop, channel, start, end in segments:
        by_chain.setdefault(number, []).append((hop, channel, start, end))
    wires = []
    for number, (hops, stretch) in enumerate(chains):
        pieces, text = [], (0.0, 0.0)
        for hop, channel, start, end in sorted(by_chain[number]):
            one, other = hops[hop][0], hops[hop + 1][0]
            if one.level == other.level:
                track = TRACK * places[number, hop]
                x = (
                    left[channel] + width + CHANNEL / 2 + track
                    if channel >= 0
                    else left[0] - CHANNEL / 2 - track
                )
                pieces.append(f"M{left[one.level]:.1f} {start:.1f}H{x:.1f}V{end:.1f}H{left[other.level]:.1f}")
                text = (left[other.level] - 5, end)
                continue
            forward = other.level > one.level
            begin = left[one.level] + (width if forward else 0.0)
            finish = left[other.level] + (0.0 if forward else width)
            x = left[channel] + width + CHANNEL / 2 + TRACK * places.get((number, hop), 0)
            crossing = f"H{left[other.level] + width:.1f}" if other.kind == "gap" and forward else ""
            pieces.append(
                f"M{begin:.1f} {start:.1f}"
                + (f"H{x:.1f}V{end:.1f}" if abs(start - end) > 1 else "")
                + f"H{finish:.1f}{crossing}"
            )
            if other is hops[-1][0]:
                text = (finish - 5 if forward else finish + 40, end)
        wires.append(
            Wire(
                stretch.id,
                "".join(pieces),
                stretch.colour,
                stretch.id in lit or (stretch.colour == JOINED and stretch.near in nodes),
                *text,
            )
        )
    return tuple(sorted(wires, key=lambda wire: wire.lit))


def _box(
    sheet: Sheet, item: _Item, x: float, width: float, labels: Mapping[str, object], nodes: frozenset[str]
) -> Box:
    ports = tuple(
        Port(
            point,
            x,
            item.row_y(point),
            width,
            _port_label(sheet, item, point),
            _port_note(sheet, item, point),
            point in labels or (item.kind == "component" and sheet.wiring.near(point) in nodes),
            on_wire=item.kind == "splice",
        )
        for point in item.rows
    )
    return Box(
        item.id,
        item.kind,
        item.name,
        x,
        item.y,
        width,
        item.height,
        ports,
        any(port.lit for port in ports),
    )


def _unprinted(sheet: Sheet, item: _Item) -> bool:
    """Whether an item's pins are called by what they are for."""
    return any(sheet.pin(point) and not printed_pin(sheet, point) for point in item.rows)


def _port_label(sheet: Sheet, item: _Item, point: str) -> str:
    if item.kind == "splice":
        return point_name(sheet, point) if freed_from(point) else "splice"
    return printed_pin(sheet, point).rpartition(".")[2] if sheet.pin(point) else point.rpartition(".")[2]


def _port_note(sheet: Sheet, item: _Item, point: str) -> str:
    pin = sheet.pin(point)
    if pin and not printed_pin(sheet, point):
        called = purpose(sheet, point)  # beside a part's own plug its name is said already
        short = called.rpartition("’s ")[2].removeprefix("mains ")
        return short if item.kind == "connector" else called
    return pin[1].label if pin else ""


def _insides(sheet: Sheet, path: Trace, ports: Mapping[str, Port], bottom: float) -> tuple[Inside, ...]:
    """The path within boards: runs of points between two pins, or between a source (or return) inside and
    a pin."""
    drawn: list[Inside | None] = []
    points = path.points
    run: list[int] = []
    for index, point in enumerate(points):
        onward = point.onward
        wire = onward is not None and (
            onward.kind is BranchKind.WIRE
            or (onward.part and not _on_board(sheet, onward.part) and onward.part not in _boards(sheet))
        )
        run.append(index)
        if wire or onward is None:
            if len(run) > 1:
                drawn.append(_inside(sheet, path, run, ports, len(drawn)))
            run = []
    return tuple(item for item in drawn if item)


def _boards(sheet: Sheet) -> set[str]:
    return {board.component for board in sheet.boards}


def _inside(
    sheet: Sheet, path: Trace, run: list[int], ports: Mapping[str, Port], number: int
) -> Inside | None:
    first, last = (ports.get(path.points[index].label) for index in (run[0], run[-1]))
    branches = [branch for index in run[:-1] if (branch := path.points[index].onward)]
    names = [branch.name for branch in branches]
    x = MARGIN + 34.0 + 16.0 * (number % 3)
    if first and last:
        top, low = (first.y, last.y) if first.y <= last.y else (last.y, first.y)
        step = (last.y - first.y) / (2 * len(names))
        texts = tuple((x + 12, first.y + step * (2 * place + 1), name) for place, name in enumerate(names))
        spots = tuple(
            Port(
                path.points[index].label,
                x,
                first.y + step * 2 * (place + 1),
                24.0,
                "",
                path.points[index].label,
                lit=True,
            )
            for place, index in enumerate(run[1:-1])
        )
        stages = tuple((branch.id, *text) for branch, text in zip(branches, texts, strict=True))
        if low - top < ROW * len(names):
            x = MARGIN + 34.0
        line = f"M{first.x:.1f} {first.y:.1f}H{x:.1f}V{last.y:.1f}H{last.x:.1f}"
        return Inside(line, texts, spots, stages)
    pin = first or last
    if pin is None:
        return None
    outer = path.points[run[0] if last else run[-1]].label
    between = " · ".join(names)
    return Inside(
        f"M{pin.x:.1f} {pin.y:.1f}H{MARGIN + 12:.1f}",
        ((MARGIN + 30, pin.y - 12, between),),
        (Port(outer, MARGIN, pin.y, 24.0, "", point_name(sheet, outer), lit=True),),
        tuple((branch.id, MARGIN + 30, pin.y - 12, branch.name) for branch in branches),
    )


def _bridges(sheet: Sheet, path: Trace, ports: Mapping[str, Port]) -> tuple[Bridge, ...]:
    """The path through each component, drawn inside its box."""
    found = []
    for here, after in pairwise(path.points):
        branch = here.onward
        if (
            branch is None
            or branch.kind in {BranchKind.WIRE, BranchKind.SWITCH, BranchKind.SOURCE}
            or not branch.part
        ):
            continue
        one, other = (
            ports.get(_terminal(sheet, branch.part, point.node)) or ports.get(point.label)
            for point in (here, after)
        )
        if one and other and abs(one.y - other.y) > 1 and one.x == other.x:
            x, stub = one.x + one.width - 10, one.x + one.width - 22
            found.append(
                Bridge(
                    f"M{stub:.1f} {one.y:.1f}H{x:.1f}V{other.y:.1f}H{stub:.1f}",
                    branch.name,
                    x,
                    (one.y + other.y) / 2,
                )
            )
    return tuple(found)
