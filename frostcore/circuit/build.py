"""A sheet in a mode as a circuit: the wall, the plug, the boards, the harness, the parts, and what strays
between them."""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

from frostcore.circuit.element import (
    Analysis,
    Branch,
    BranchKind,
    Circuit,
    CircuitError,
    Control,
    Coupling,
    Impedance,
    Sense,
    States,
    Stray,
    Topology,
    Trip,
    Wave,
    fed_by,
)
from frostcore.circuit.figures import (
    BOND_OHMS,
    BREAKER_AMPERES,
    CONDUCTOR_TOLERANCE,
    CONTACT_OHMS,
    DIODE_VOLTS,
    DROP_OUT_SHARE,
    GROUND_FARADS,
    GROUND_OHMS,
    HEADROOM,
    HICCUP_SECONDS,
    HOUSE_SECONDS,
    JOINT_OHMS,
    LOGIC_SHARE,
    MAINS_TOLERANCE,
    OUTPUT_TAKES,
    RAIL_LIMIT_AMPERES,
    RANKS,
    RECTIFIER_FACTOR,
    RELAY_SHARE,
    RESIDUAL_AMPERES,
    STRAY_FARADS,
    SWITCH_OHMS,
    SWITCHING_EFFICIENCY,
    TOLERANCES,
    USUAL_TOLERANCE,
    WALL_OHMS,
    WIRE_FARADS_PER_METRE,
    WIRE_OHMS_PER_METRE,
    swing,
)
from frostcore.circuit.parts import PARTS, Scene, limited, overload_trip
from frostcore.sheet.electrical import EARTH, Board, Rail, Switch
from frostcore.sheet.model import ComponentKind, Mode, Sheet
from frostcore.sheet.points import point_said, wire_name
from frostcore.supply.bus import Charging, as_source

Warmth = tuple[tuple[str, float], ...]
"""Temperatures of places as measured: (place, °C)."""


class Builder:
    """A sheet's circuits mode by mode.

    What no mode changes (boards, wires, strays, which nodes there are) is made once.
    """

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        if not any(component.kind is ComponentKind.PLUG for component in sheet.components):
            message = f"The {sheet.title} has no plug among its components, so nothing feeds its circuit."
            raise CircuitError(message)
        self._wired = frozenset(point for run in sheet.harness for point in run.points)
        self._boards = tuple(branch for board in sheet.boards for branch in _board(sheet, board))
        self._wires, self._strays = tuple(_wires(sheet)), tuple(_strays(sheet))
        self._couplings = tuple(_couplings(sheet))
        self._like: Topology | None = None

    def circuit(
        self,
        mode: str,
        *,
        live: bool | None = None,
        pulled: tuple[str, ...] = (),
        celsius: Warmth = (),
    ) -> Circuit:
        """The circuit in a mode; ``live`` False is the same state with the plug out.

        ``celsius`` are places' temperatures as measured, where they differ from the mode's. Raises
        CircuitError naming what is unknown.
        """
        found, plate = _mode(self.sheet, mode), self.sheet.plate
        live = found.live if live is None else live and found.live
        known = {place.id for place in self.sheet.places}
        for place in dict(celsius).keys() - known:
            message = (
                f"There is no place “{place}” on the {self.sheet.title}; it has {', '.join(sorted(known))}."
            )
            raise CircuitError(message)
        branches = (
            *_wall(plate.mains_volts, live=live),
            *_parts(Scene(self.sheet, found, self._wired, dict(celsius), live)),
            *self._boards,
            *self._wires,
        )
        signals = frozenset(found.signals if live else ())
        built = Circuit(
            found.id,
            live,
            plate.mains_hertz,
            plate.mains_volts,
            EARTH,
            branches,
            self._strays,
            signals,
            couplings=self._couplings if live else (),
            like=self._like,
        )
        self._like = built.topology
        return with_pulled(self.sheet, built, pulled) if pulled else built


def build(
    sheet: Sheet,
    mode: str,
    *,
    live: bool | None = None,
    pulled: tuple[str, ...] = (),
    celsius: Warmth = (),
) -> Circuit:
    """One circuit of a sheet, as :meth:`Builder.circuit` gives it."""
    return Builder(sheet).circuit(mode, live=live, pulled=pulled, celsius=celsius)


def with_pulled(sheet: Sheet, circuit: Circuit, pulled: tuple[str, ...]) -> Circuit:
    """The same circuit with just these connectors pulled; CircuitError for one the sheet has not."""
    known = [connector.id for connector in sheet.connectors]
    for identifier in pulled:
        if identifier not in known:
            message = f"There is no connector “{identifier}” on the {sheet.title}; it has {', '.join(known)}."
            raise CircuitError(message)
    branches = list(circuit.branches)
    for stretch in sheet.wiring.leaving.values():
        place = circuit.branch_index[stretch.joint]
        start = "pulled" if stretch.connector in pulled else "joined"
        if branches[place].start != start:
            branches[place] = replace(branches[place], start=start)
    return replace(circuit, branches=tuple(branches), pulled=pulled, like=circuit.topology)


def _mode(sheet: Sheet, mode: str) -> Mode:
    try:
        return sheet.mode(mode)
    except KeyError:
        message = (
            f"There is no mode “{mode}” on the {sheet.title}; it has"
            f" {', '.join(item.id for item in sheet.modes)}."
        )
        raise CircuitError(message) from None


def _wall(volts: float, *, live: bool) -> Iterator[Branch]:
    mains = Impedance(
        WALL_OHMS, ac_volts=volts, tolerance=CONDUCTOR_TOLERANCE, source_tolerance=MAINS_TOLERANCE
    )
    start = "in" if live else "out"
    residual = Trip(
        (Sense(Analysis.AC, RESIDUAL_AMPERES, 0.0, branch="wall.bond"),),
        "out",
        "The house’s residual-current device trips",
        RANKS["residual"],
        seconds=HOUSE_SECONDS,
    )
    yield Branch(
        "wall",
        "wall_s",
        "wall_n",
        BranchKind.SOURCE,
        "",
        "Mains",
        {"in": mains, "out": None},
        start,
        Control("in", "out", trip=residual) if live else None,
    )
    most = Trip(
        (Sense(Analysis.AC, BREAKER_AMPERES, 0.0, branch="wall.breaker"),),
        "open",
        "The house’s breaker trips",
        RANKS["breaker"],
        seconds=HOUSE_SECONDS,
    )
    closed = Impedance(CONTACT_OHMS, tolerance=CONDUCTOR_TOLERANCE)
    yield Branch(
        "wall.breaker",
        "wall_s",
        "wall_l",
        BranchKind.CONTACT,
        "",
        "House’s breaker",
        {"closed": closed, "open": None},
        "closed",
        Control("closed", "open", trip=most) if live else None,
    )
    yield Branch(
        "wall.bond",
        "wall_n",
        "wall_e",
        BranchKind.WIRE,
        "",
        "Neutral’s bond to earth",
        {"in": Impedance(BOND_OHMS, tolerance=CONDUCTOR_TOLERANCE), "out": None},
        start,
    )


def _parts(scene: Scene) -> Iterator[Branch]:
    for component in scene.sheet.components:
        maker = PARTS.get(component.kind)
        if maker:
            yield from maker(scene, component)


def _wires(sheet: Sheet) -> Iterator[Branch]:
    harness = next(
        (component.id for component in sheet.components if component.kind is ComponentKind.HARNESS), ""
    )
    for stretch in sheet.wiring.stretches:
        if stretch.connector:
            joined = Impedance(JOINT_OHMS, tolerance=CONDUCTOR_TOLERANCE)
            yield Branch(
                stretch.joint,
                stretch.near,
                stretch.wire_side,
                BranchKind.JOINT,
                harness,
                f"joint at {point_said(sheet, stretch.start)}",
                {"joined": joined, "pulled": None},
                "joined",
            )
        ohms = WIRE_OHMS_PER_METRE * stretch.metres
        yield Branch(
            stretch.id,
            stretch.wire_side,
            stretch.far,
            BranchKind.WIRE,
            harness,
            wire_name(sheet, stretch),
            {"": Impedance(ohms, tolerance=CONDUCTOR_TOLERANCE)},
            "",
            ends=(stretch.start, stretch.end),
        )


def _board(sheet: Sheet, board: Board) -> Iterator[Branch]:
    yield from _supply(sheet, board)
    yield from _rails(sheet, board)
    yield from _inputs(sheet, board)
    yield from _switches(board)
    yield from _drives(board)
    for resistor in board.resistors:
        states: States = {"": Impedance(resistor.ohms, tolerance=resistor.tolerance)}
        name = resistor.purpose or resistor.id
        yield _on_board(board, resistor.id, resistor.from_node, resistor.to_node, name, states)
    if board.ground:
        states = {"": Impedance(GROUND_OHMS, tolerance=TOLERANCES["ground"])}
        yield _on_board(board, "ground", board.ground, EARTH, "ground’s discharge", states)


def _on_board(  # noqa: PLR0913 -- a branch has that many properties
    board: Board,
    sub: str,
    a: str,
    b: str,
    name: str,
    states: States,
    *,
    kind: BranchKind = BranchKind.RESISTOR,
    start: str = "",
    control: Control | None = None,
    wave: Wave | None = None,
) -> Branch:
    """A branch of a board; a resistor unless told otherwise."""
    part = board.component
    return Branch(f"{part}.{sub}", a, b, kind, part, name, states, start, control, wave=wave)


def _supply(sheet: Sheet, board: Board) -> Iterator[Branch]:
    """What the board draws from the mains."""
    feed = board.feed
    if not feed:
        return
    within = TOLERANCES["board's input"]
    states: States = {
        # A transformer's winding is a resistance; what lies behind a bridge is none.
        "off": Impedance(feed.off_ohms, tolerance=within, firm=any(rail.transformer for rail in board.rails)),
        "on": Impedance(
            sheet.plate.mains_volts**2 / feed.watts, tolerance=within, power_factor=RECTIFIER_FACTOR
        ),
    }
    control = Control("on", "off", senses=_fed(sheet, board))
    yield _on_board(
        board,
        "feed",
        feed.live,
        feed.neutral,
        "Board’s supply",
        states,
        kind=BranchKind.LOAD,
        start="off",
        control=control,
    )


def _rails(sheet: Sheet, board: Board) -> Iterator[Branch]:
    """The rails, each up when what feeds it is, with what each draws from the rail that feeds it."""
    rails, within = {rail.id: rail for rail in board.rails}, TOLERANCES["source"]
    for rail in board.rails:
        source, rest = _source_of(board, rail), Impedance(rail.off_ohms, tolerance=within, firm=False)
        if source:
            states: States = {"": None}
            name = f"what the {rail.name} rail draws"
            yield _on_board(board, f"{rail.id}.draw", source, board.ground, name, states)
            # Its own current alone is what it draws: what discharges it stands beside it.
            name, states = f"{rail.name} rail’s discharge", {"": rest}
            yield _on_board(board, f"{rail.id}.rest", rail.node, board.ground, name, states)
        trip = overload_trip(
            f"{board.component}.{rail.id}",
            f"The {rail.name} rail is overloaded",
            rail_limit(board, rail),
            HICCUP_SECONDS["rail" if source else "mains"],
            rank=RANKS["regulator" if rail.fed_by else "rail"],
            shuts_down=rail.overloaded == "shuts_down",
        )
        on = _rail_source(sheet, board, rail)
        states = {"off": None if source else rest, "on": on, trip.over: limited(trip)}
        control = Control("on", "off", senses=_fed(sheet, board, rails.get(rail.fed_by), rail), trip=trip)
        yield _on_board(
            board,
            rail.id,
            rail.node,
            board.ground,
            f"{rail.name} rail",
            states,
            kind=BranchKind.SOURCE,
            start="off",
            control=control,
        )


def charging(sheet: Sheet, rail: Rail) -> Charging | None:
    """What charges a rail's capacitor where it is made by a transformer; None where a switcher or a
    regulator holds its volts."""
    made = rail.transformer
    if made is None:
        return None
    peak, hertz = math.sqrt(2) * made.winding_volts, sheet.plate.mains_hertz
    return Charging(peak, hertz, 2 * DIODE_VOLTS, made.winding_ohms, made.farads, made.esr_ohms)


def rail_limit(board: Board, rail: Rail) -> float:
    """The amperes a rail gives at most."""
    return rail.limit_amperes or RAIL_LIMIT_AMPERES["rail" if _source_of(board, rail) else "mains"]


def _rail_source(sheet: Sheet, board: Board, rail: Rail) -> Impedance:
    """A rail that is up: held at its volts, or as a transformer leaves it."""
    within, rectified = TOLERANCES["source"], charging(sheet, rail)
    on = Impedance(rail.source_ohms, dc_volts=rail.volts, tolerance=within, source_tolerance=rail.tolerance)
    return on if rectified is None else fed_by(on, as_source(rectified, rail_limit(board, rail)))


def _source_of(board: Board, rail: Rail) -> str:
    """The node of the direct current a rail is made from; empty where it is made from the mains."""
    feeding = next((item.node for item in board.rails if item.id == rail.fed_by), "")
    return feeding or board.inlet


def _couplings(sheet: Sheet) -> Iterator[Coupling]:
    """What each rail made from direct current draws from it."""
    for board in sheet.boards:
        for rail in board.rails:
            if _source_of(board, rail):
                branch = f"{board.component}.{rail.id}"
                yield Coupling(f"{branch}.draw", branch, _share(board, rail))


def _share(board: Board, rail: Rail) -> float:
    """Its draw as a share of its own current: as much where it is linear; as many watts, and its losses,
    where it switches, at the volts of what feeds it."""
    feeding = next((item.volts for item in board.rails if item.id == rail.fed_by), 0.0)
    if rail.converter == "linear" or not feeding:
        return 1.0
    return rail.volts / (SWITCHING_EFFICIENCY * feeding)


def _inputs(sheet: Sheet, board: Board) -> Iterator[Branch]:
    """The sensors' pull-ups; CircuitError for one referred to a rail the board has not."""
    for channel in board.sensor_inputs:
        reference = next((item for item in board.rails if item.volts == channel.reference_volts), None)
        if reference is None:
            message = (
                f"The input of sensor {channel.sensor} is referred to {channel.reference_volts:g} V, and"
                f" board {board.component} has no such rail."
            )
            raise CircuitError(message)
        node = sheet.wiring.near(channel.pin)
        states: States = {"": Impedance(channel.pullup_ohms, tolerance=TOLERANCES["pull-up"])}
        name = f"pull-up of sensor {channel.sensor}"
        yield _on_board(board, f"pullup_{channel.sensor}", reference.node, node, name, states)


def _switches(board: Board) -> Iterator[Branch]:
    """Outputs: a relay needs its coil's rail as well as the logic's."""
    logic = _up(board, min, LOGIC_SHARE)
    coil = _up(board, max, RELAY_SHARE)
    for switch in board.switches:
        closed = Impedance(SWITCH_OHMS[switch.kind], tolerance=CONDUCTOR_TOLERANCE)
        senses = logic + (coil if switch.kind == "relay" else ())
        if switch.kind == "latching":
            senses = ()
        yield _on_board(
            board,
            switch.id,
            switch.from_node,
            switch.to_node,
            switch.name or f"{switch.kind} {switch.id}",
            {"open": None, "closed": closed},
            kind=BranchKind.SWITCH,
            start="open",
            control=Control("closed", "open", switch.signal, senses, takes=OUTPUT_TAKES),
            wave=_wave(board, switch),
        )
        if switch.coil_ohms:
            highest = max(board.rails, key=lambda item: item.volts)
            states = {"off": None, "on": Impedance(switch.coil_ohms, tolerance=USUAL_TOLERANCE)}
            control = Control("on", "off", switch.signal, logic, takes=OUTPUT_TAKES)
            name, ends = f"coil of {switch.name or switch.id}", (highest.node, board.ground)
            yield _on_board(board, f"{switch.id}.coil", *ends, name, states, start="off", control=control)


def _wave(board: Board, switch: Switch) -> Wave | None:
    """The part of each wave it passes, None where it passes all of it."""
    if switch.passes == "whole":
        return None
    neutral = bool(board.feed and board.feed.neutral == switch.from_node)
    return Wave(math.radians(switch.delay_degrees), half=switch.passes == "half", backwards=neutral)


def _drives(board: Board) -> Iterator[Branch]:
    """Outputs that give volts rather than close."""
    within, logic = TOLERANCES["drive"], _up(board, min, LOGIC_SHARE)
    for drive in board.drives:
        on = Impedance(drive.ohms, dc_volts=drive.volts, tolerance=within, source_tolerance=within)
        yield _on_board(
            board,
            drive.id,
            drive.node,
            board.ground,
            drive.name or f"command {drive.id}",
            {"off": Impedance(drive.ohms, tolerance=within), "on": on},
            kind=BranchKind.SOURCE,
            start="off",
            control=Control("on", "off", drive.signal, logic),
        )


def _up(board: Board, choose: Callable[..., Rail | None], share: float) -> tuple[Sense, ...]:
    """That the lowest or highest rail has this share of its volts; nothing on a board without rails."""
    rail = choose(board.rails, key=lambda item: item.volts, default=None)
    if rail is None:
        return ()
    starts, stops = share * rail.volts, (share - DROP_OUT_SHARE) * rail.volts
    return (Sense(Analysis.DC, starts, stops, rail.node, board.ground),)


def _fed(
    sheet: Sheet, board: Board, source: Rail | None = None, rail: Rail | None = None
) -> tuple[Sense, ...]:
    """What a rail (or the board's own supply) needs to be up."""
    if source is not None and rail is not None:
        return (_above(rail.volts, source.node, board.ground),)
    if board.inlet and rail is not None:
        return (_above(rail.volts, board.inlet, board.ground),)
    if board.feed:
        limits = swing("board supply", sheet.plate.mains_volts)
        return (Sense(Analysis.AC, *limits, board.feed.live, board.feed.neutral),)
    return ()


def _above(volts: float, node: str, ground: str) -> Sense:
    """What a regulator for these volts asks of what feeds it."""
    starts, stops = HEADROOM
    return Sense(Analysis.DC, volts + starts, volts + stops, node, ground)


def _strays(sheet: Sheet) -> Iterator[Stray]:
    for stretch in sheet.wiring.stretches:
        if stretch.far != EARTH:
            yield Stray(stretch.far, EARTH, WIRE_FARADS_PER_METRE * stretch.metres)
    for board in sheet.boards:
        for switch in board.switches:
            farads = stray_of(switch)
            if farads:
                yield Stray(switch.from_node, switch.to_node, farads)
        if board.ground:
            yield Stray(board.ground, EARTH, GROUND_FARADS)


def stray_of(switch: Switch) -> float:
    """The capacitance across an open switch, in farads."""
    return STRAY_FARADS[switch.kind] if switch.stray_farads is None else switch.stray_farads
