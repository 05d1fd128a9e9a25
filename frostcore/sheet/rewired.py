"""The sheet of a unit whose wiring was changed by a plan.

A plan makes a changed sheet, not a changed circuit: what settles, traces, draws, breaks and judges a sheet
does so with this one, and leaving the plan out gives the sheet as it was. The positions of contacts put in
become modes; what a board that has lost its mains switched, showed and listed is gone.
"""

import itertools
from collections.abc import Collection, Iterator
from dataclasses import replace
from functools import lru_cache

from frostcore.document import Problem, digest, write
from frostcore.errors import SheetError
from frostcore.sentence import in_sentence
from frostcore.sheet.checks import STANDS, problems_of
from frostcore.sheet.electrical import EARTH, Board, Run
from frostcore.sheet.model import Component, ComponentKind, Mode, Sheet
from frostcore.sheet.plan import Add, Cut, Label, Park, Plan, RunWire, write_plan
from frostcore.sheet.wiring import OLD_SIDE, WIRE_SIDE, split_pin, split_terminal

K = ComponentKind

PLACED = (K.THERMOSTAT, K.CYCLE_TIMER, K.SWITCH, K.DEFROST_TIMER)
"""Parts whose contacts stand otherwise by temperature, by time or by hand: their positions are modes."""

MOST_PLACED = 3
"""Contacts put in: each doubles the states that are solved."""

PASSING = {K.FUSE, K.OVERLOAD, K.THERMAL_FUSE, K.BIMETAL, *PLACED, K.DOOR_SWITCH, K.RELAY, K.TERMINAL}
COILS = {"coil_1", "coil_2", "motor", "l", "n"}
"""Terminals of what moves such a part's contacts: nothing passes there from one contact to another."""

MOVED_BY_BOARD = {K.DAMPER, K.FLAP_MOTOR}


class Unfit(SheetError):  # noqa: N818 - as it is said
    """A plan that can't be carried out on this sheet; ``problems`` are at their places in the plan."""


def changed(sheet: Sheet, plan: Plan) -> Sheet:
    """The sheet after a plan; Unfit with every problem where it leads nowhere."""
    problems: list[Problem] = []
    harness = _taken_apart(sheet, plan, problems)
    placed = [part for part in plan.added if part.kind in PLACED]
    if len(placed) > MOST_PLACED:
        told = f"{len(placed)} contacts put in stand in too many ways together; {MOST_PLACED} at most"
        problems.append(Problem("acts", told))
    components = (*sheet.components, *plan.added)
    for index, act in enumerate(plan.acts):
        if isinstance(act, RunWire):
            wrong = list(_wrong_points(sheet, harness, components, act))
            problems += [Problem(f"acts[{index}].points", text) for text in wrong]
            harness += [] if wrong else [_run(sheet, act)]
    known = {component.id for component in components}
    missing = [name for name in plan.keeps if name not in known]
    problems += [Problem("keeps", f"there is no “{name}” on this sheet") for name in missing]
    if problems:
        raise Unfit(problems)
    wired = replace(sheet, components=components, harness=tuple(_old_ends(harness)))
    out = boards_out(wired)
    gone = {board.component for board in out}
    made = replace(
        wired,
        modes=_modes(wired, plan, out),
        codes=() if out else sheet.codes,
        settings=tuple(each for each in sheet.settings if each.component not in gone),
        stated_readings=() if out or plan.parked else sheet.stated_readings,
    )
    before = {item.text for item in problems_of(sheet)[0]}  # a stored sheet may break rules of today
    if found := [item for item in problems_of(made)[0] if item.text not in before]:
        raise Unfit(Problem("acts", f"what it makes can’t be: {item.text}") for item in found)
    return made


KEPT = 64


def key_of(sheet: Sheet, plan: Plan) -> tuple[str, str, str]:
    """What a sheet and a plan say, as a key: the same for the same."""
    return (sheet.content_key, digest(write(sheet.marks)), digest(write_plan(plan)))


def changed_by(sheet: Sheet, plan: Plan) -> Sheet:
    """The sheet after a plan, kept: a tape asks for it at every entry."""
    return _changed(_Change(sheet, plan))


class _Change:
    """A sheet and a plan, told apart by what they say."""

    def __init__(self, sheet: Sheet, plan: Plan) -> None:
        self.sheet, self.plan = sheet, plan
        self._key = key_of(sheet, plan)

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Change) and self._key == other._key


@lru_cache(maxsize=KEPT)
def _changed(change: _Change) -> Sheet:
    return changed(change.sheet, change.plan)


def _taken_apart(sheet: Sheet, plan: Plan, problems: list[Problem]) -> list[Run]:
    """The lines as parking and cutting leave them; what is wrong with these acts, and with what is put in."""
    harness, known = list(sheet.harness), {component.id for component in sheet.components}
    for index, act in enumerate(plan.acts):
        here = f"acts[{index}]"
        try:
            match act:
                case Park(connector=connector):
                    harness = _parked(sheet, harness, connector)
                case Cut():
                    harness = _cut(harness, act)
                case Add(component=component):
                    _check_added(sheet, known, component)
                    known.add(component.id)
                case Label(place=place):
                    sheet.place(place)
        except KeyError as error:
            problems.append(Problem(f"{here}.place", f"there is no place “{error.args[0]}” on this sheet"))
        except ValueError as error:
            problems.append(Problem(here, str(error)))
    return harness


def _old_ends(harness: list[Run]) -> Iterator[Run]:
    """The lines, with the free ends of pins that another wire leaves now called otherwise than that one's."""
    taken = {
        free_end(run.points[0]): f"{run.points[0]}{OLD_SIDE}" for run in harness if split_pin(run.points[0])
    }
    for run in harness:
        points = tuple(taken.get(point, point) for point in run.points)
        yield replace(run, points=points) if points != run.points else run


def free_end(point: str) -> str:
    """The free end of the wire that has left a point."""
    return f"{point}{WIRE_SIDE}"


def _parked(sheet: Sheet, harness: list[Run], name: str) -> list[Run]:
    connector = next((item for item in sheet.connectors if item.id == name), None)
    if connector is None:
        message = f"there is no connector “{name}” on this sheet"
        raise ValueError(message)
    if connector.inline:
        message = f"{name} joins two harnesses and can’t be parked; cut its wires where they come from"
        raise ValueError(message)
    return [
        replace(run, points=(free_end(run.points[0]), *run.points[1:])) if _of(run.points[0], name) else run
        for run in harness
    ]


def _of(point: str, connector: str) -> bool:
    pin = split_pin(point)
    return pin is not None and pin[0] == connector


def _cut(harness: list[Run], act: Cut) -> list[Run]:
    for place, run in enumerate(harness):
        for at, pair in enumerate(zip(run.points, run.points[1:], strict=False)):
            if set(pair) == set(act.wire):
                return [*harness[:place], *_split(run, at, act.at), *harness[place + 1 :]]
    message = f"no wire runs from {act.wire[0]} straight to {act.wire[1]}"
    raise ValueError(message)


def _split(run: Run, at: int, point: str) -> Iterator[Run]:
    """A line with the stretch after its point ``at`` taken off one of that stretch's ends."""
    near = point == run.points[at]
    before = run.points[: at + 1] if near else (*run.points[: at + 1], free_end(point))
    after = (free_end(point), *run.points[at + 1 :]) if near else run.points[at + 1 :]
    cut = at if near else at + 1
    for points, first in ((before, 0), (after, cut)):
        if len(points) > 1:
            colours = tuple(run.colour(first + number) for number in range(len(points) - 1))
            yield replace(run, points=points, colours=colours)


def _check_added(sheet: Sheet, known: set[str], component: Component) -> None:
    if component.id in known:
        message = f"there is a “{component.id}” already; call it otherwise"
        raise ValueError(message)
    places = {place.id for place in sheet.places}
    for place in filter(None, (component.place, component.bulb_place)):
        if place not in places:
            message = f"there is no place “{place}” on this sheet; it has {', '.join(sorted(places))}"
            raise ValueError(message)
    if component.kind is K.BOARD or component.kind is K.PLUG:
        message = f"a {component.kind} can’t be put in by a plan"
        raise ValueError(message)


def _wrong_points(
    sheet: Sheet, harness: list[Run], components: tuple[Component, ...], act: RunWire
) -> Iterator[str]:
    """What is wrong with the points of a wire that is put in."""
    owners = {component.id for component in components}
    pins = set(sheet.wiring.pins)
    leaves = {run.points[0] for run in harness}
    met = {point for run in harness for point in run.points}
    for point in act.points:
        bare = point.removesuffix(WIRE_SIDE)
        owner, dot, _ = bare.partition(".")
        if point != bare:
            if point not in met:
                yield f"{point} is no free end: park the plug, or cut the wire there first"
        elif split_pin(point):
            if point not in pins:
                yield f"there is no pin {point} on this sheet"
            elif point in leaves:
                yield f"a wire leaves {point} already; join to that wire’s other end, or cut it first"
        elif dot and owner not in owners:
            yield f"there is no part “{owner}” for {point}; add it first"
        elif not dot and point != EARTH and point not in met:
            yield f"“{point}” is no point of this sheet"


def _run(sheet: Sheet, act: RunWire) -> Run:
    """A wire put in, written from the board outward."""
    board = {f"{connector.id}.{pin.number}" for connector in sheet.connectors for pin in connector.pins}
    points, colours = act.points, act.colours
    if points[-1] in board and points[0] not in board:
        points, colours = points[::-1], colours[::-1]
    return Run(points, colours, act.metres, act.mm2)


def boards_out(sheet: Sheet) -> tuple[Board, ...]:
    """The boards that mains no longer reach, and those that were fed by them."""
    live, neutral = reached(sheet, "l", PASSING), reached(sheet, "n", PASSING)
    out = [
        board
        for board in sheet.boards
        if board.feed and not (board.feed.live in live and board.feed.neutral in neutral)
    ]
    return tuple(out)


def reached(sheet: Sheet, pin: str, passing: Collection[ComponentKind] = ()) -> set[str]:
    """The nodes a pin of the plug reaches through wires, and the contacts of these kinds."""
    ways: dict[str, set[str]] = {}
    pairs = [(stretch.near, stretch.far) for stretch in sheet.wiring.stretches]
    wired = {split_terminal(point) for run in sheet.harness for point in run.points}
    for component in sheet.components:
        if component.kind in passing:
            named = component.terminals or {}
            used = {end[1]: f"{component.id}.{end[1]}" for end in wired if end and end[0] == component.id}
            nodes = [node for end, node in (named | used).items() if end not in COILS]
            pairs += [(nodes[0], other) for other in nodes[1:]]
    for one, other in pairs:
        ways.setdefault(one, set()).add(other)
        ways.setdefault(other, set()).add(one)
    plugs = [component for component in sheet.components if component.kind is K.PLUG]
    met = {plug.node(pin) for plug in plugs}
    ends = list(met)
    while ends:
        for other in ways.get(ends.pop(), set()) - met:
            met.add(other)
            ends.append(other)
    return met


def _modes(sheet: Sheet, plan: Plan, out: tuple[Board, ...]) -> tuple[Mode, ...]:
    """The modes that are left, in each position of the contacts put in."""
    gone = {switch.signal for board in out for switch in board.switches}
    gone |= {drive.signal for board in out for drive in board.drives}
    left: dict[object, Mode] = {}
    for mode in sheet.modes:
        one = _without(sheet, mode, gone) if out else mode
        left.setdefault((one.live, one.signals, str(one.positions), str(one.celsius)), one)
    placed = [part for part in plan.added if part.kind in PLACED]
    ways = [[(part, way) for way in stands(part)] for part in placed]
    return tuple(_placed(mode, together) for mode in left.values() for together in itertools.product(*ways))


def _without(sheet: Sheet, mode: Mode, gone: set[str]) -> Mode:
    """A mode without what a board that is out did in it."""
    signals = tuple(signal for signal in mode.signals if signal not in gone)
    kinds = {part.id: part.kind for part in sheet.components}
    positions = {
        name: way for name, way in (mode.positions or {}).items() if kinds.get(name) not in MOVED_BY_BOARD
    }
    if signals == mode.signals and mode.live:
        return replace(mode, positions=positions or None)
    if not mode.live:
        return mode
    door = any(kinds.get(name) is K.DOOR_SWITCH for name in positions)
    name, enter = (mode.name, mode.enter) if door else ("Plug in", ("Plug in, doors closed",))
    return replace(
        mode,
        name=name,
        enter=enter,
        leave=mode.leave if door else (),
        signals=signals,
        positions=positions or None,
        lists_codes=False,
        timeout_minutes=None,
    )


def stands(part: Component) -> tuple[str, ...]:
    """How a contact put in may stand, the one it is put in for first."""
    return STANDS.get(part.kind, ("closed", "open"))


def _placed(mode: Mode, together: tuple[tuple[Component, str], ...]) -> Mode:
    if not together:
        return mode
    first = all(way == stands(part)[0] for part, way in together)
    suffix = "_".join(f"{part.id}_{way}" for part, way in together)
    words = ", ".join(f"{in_sentence(part.name)} {_says(part, way)}" for part, way in together)
    return replace(
        mode,
        id=mode.id if first else f"{mode.id}_{suffix}",
        name=f"{mode.name}, {words}",
        positions={**(mode.positions or {}), **{part.id: way for part, way in together}},
    )


def _says(part: Component, way: str) -> str:
    return f"at {way}" if part.kind is K.DEFROST_TIMER else way
