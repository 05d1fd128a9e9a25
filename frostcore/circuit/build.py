"""A sheet in a mode as a circuit: the wall, the plug, the boards, the harness, the parts, and what strays
between them."""

from collections.abc import Iterator
from dataclasses import replace

from frostcore.circuit.element import (
    Analysis,
    Branch,
    BranchKind,
    Circuit,
    CircuitError,
    Control,
    Impedance,
    Sense,
    States,
    Stray,
    Topology,
)
from frostcore.circuit.parts import JOINT_OHMS, PARTS, WIRE_OHMS_PER_METRE, Scene
from frostcore.sheet.electrical import EARTH, Board, Rail, Switch
from frostcore.sheet.model import ComponentKind, Mode, Sheet

WALL_OHMS = 0.35
"""The house's own loop resistance."""

MAINS_TOLERANCE = 0.06
STRAY_FARADS = {"relay": 220e-12, "triac": 10e-9, "transistor": 0.0}
"""Across an open switch: a relay's contact with the live wires beside its own, a triac's snubber."""

SWITCH_OHMS = {"relay": 0.03, "triac": 0.6, "transistor": 0.12}
WIRE_FARADS_PER_METRE = 60e-12
GROUND_OHMS, GROUND_FARADS = 1e6, 2.2e-9
"""What ties a board's low-voltage ground to the chassis: a discharge resistor and an interference
capacitor."""


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
        if celsius:
            found = replace(found, celsius={**(found.celsius or {}), **dict(celsius)})
        live = found.live if live is None else live and found.live
        branches = (
            *_wall(plate.mains_volts, live=live),
            *_parts(Scene(self.sheet, found, self._wired)),
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
    for stretch in sheet.wiring.stretches:
        place, start = circuit.branch_index[stretch.id], "pulled" if stretch.connector in pulled else "joined"
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
    mains = Impedance(WALL_OHMS, ac_volts=volts, tolerance=0.5, source_tolerance=MAINS_TOLERANCE)
    start = "in" if live else "out"
    yield Branch(
        "wall", "wall_l", "wall_n", BranchKind.SOURCE, "", "Mains", {"in": mains, "out": None}, start
    )
    yield Branch(
        "wall.bond",
        "wall_n",
        "wall_e",
        BranchKind.WIRE,
        "",
        "Neutral’s bond to earth",
        {"in": Impedance(0.4, tolerance=0.5), "out": None},
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
        ohms = WIRE_OHMS_PER_METRE * stretch.metres + (JOINT_OHMS if stretch.connector else 0.0)
        states: States = {"joined": Impedance(ohms, tolerance=0.5), "pulled": None}
        yield Branch(
            stretch.id,
            stretch.near,
            stretch.far,
            BranchKind.WIRE,
            harness,
            f"{stretch.colour} wire {stretch.start} to {stretch.end}",
            states,
            "joined",
            ends=(stretch.start, stretch.end),
        )


def _board(sheet: Sheet, board: Board) -> Iterator[Branch]:
    rails = {rail.id: rail for rail in board.rails}
    logic = min(board.rails, key=lambda rail: rail.volts, default=None)
    strongest = max(board.rails, key=lambda rail: rail.volts, default=None)

    def up(rail: Rail | None, share: float) -> tuple[Sense, ...]:
        return (
            (Sense(Analysis.DC, share * rail.volts, (share - 0.05) * rail.volts, rail.node, board.ground),)
            if rail
            else ()
        )

    if board.feed:
        fed = _fed(sheet, board)
        states: States = {
            "off": Impedance(board.feed.off_ohms, tolerance=0.3),
            "on": Impedance(sheet.plate.mains_volts**2 / board.feed.watts, tolerance=0.3),
        }
        yield Branch(
            f"{board.component}.feed",
            board.feed.live,
            board.feed.neutral,
            BranchKind.LOAD,
            board.component,
            "Board’s supply",
            states,
            "off",
            Control("on", "off", senses=fed),
        )
    for rail in board.rails:
        fed = _fed(sheet, board, rails.get(rail.fed_by), rail)
        on = Impedance(rail.source_ohms, dc_volts=rail.volts, tolerance=0.5, source_tolerance=rail.tolerance)
        states = {"off": Impedance(rail.off_ohms, tolerance=0.5), "on": on}
        yield Branch(
            f"{board.component}.{rail.id}",
            rail.node,
            board.ground,
            BranchKind.SOURCE,
            board.component,
            f"{rail.name} rail",
            states,
            "off",
            Control("on", "off", senses=fed),
        )
    for channel in board.sensor_inputs:
        reference = next((item for item in board.rails if item.volts == channel.reference_volts), None)
        if reference is None:
            message = (
                f"The input of sensor {channel.sensor} is referred to {channel.reference_volts:g} V, and"
                f" board {board.component} has no such rail."
            )
            raise CircuitError(message)
        identifier, node = f"{board.component}.pullup_{channel.sensor}", sheet.wiring.near(channel.pin)
        yield Branch(
            identifier,
            reference.node,
            node,
            BranchKind.RESISTOR,
            board.component,
            f"pull-up of sensor {channel.sensor}",
            {"": Impedance(channel.pullup_ohms, tolerance=0.01)},
            "",
        )
    for switch in board.switches:
        senses = up(logic, 0.85) + (up(strongest, 0.7) if switch.kind == "relay" else ())
        states = {"open": None, "closed": Impedance(SWITCH_OHMS[switch.kind], tolerance=0.5)}
        control = Control("closed", "open", switch.signal, senses)
        name = switch.name or f"{switch.kind} {switch.id}"
        yield Branch(
            f"{board.component}.{switch.id}",
            switch.from_node,
            switch.to_node,
            BranchKind.SWITCH,
            board.component,
            name,
            states,
            "open",
            control,
        )
    for drive in board.drives:
        states = {
            "off": Impedance(drive.ohms, tolerance=0.1),
            "on": Impedance(drive.ohms, dc_volts=drive.volts, tolerance=0.1, source_tolerance=0.1),
        }
        control = Control("on", "off", drive.signal, up(logic, 0.85))
        yield Branch(
            f"{board.component}.{drive.id}",
            drive.node,
            board.ground,
            BranchKind.SOURCE,
            board.component,
            drive.name or f"command {drive.id}",
            states,
            "off",
            control,
        )
    for resistor in board.resistors:
        states = {"": Impedance(resistor.ohms, tolerance=resistor.tolerance)}
        yield Branch(
            f"{board.component}.{resistor.id}",
            resistor.from_node,
            resistor.to_node,
            BranchKind.RESISTOR,
            board.component,
            resistor.purpose or resistor.id,
            states,
            "",
        )
    if board.ground:
        yield Branch(
            f"{board.component}.ground",
            board.ground,
            EARTH,
            BranchKind.RESISTOR,
            board.component,
            "ground’s discharge",
            {"": Impedance(GROUND_OHMS, tolerance=0.2)},
            "",
        )


def _fed(
    sheet: Sheet, board: Board, source: Rail | None = None, rail: Rail | None = None
) -> tuple[Sense, ...]:
    """What a rail (or the board's own supply) needs to be up."""
    if source is not None and rail is not None:
        return (Sense(Analysis.DC, rail.volts + 1.0, rail.volts + 0.7, source.node, board.ground),)
    if board.inlet:
        volts = rail.volts if rail else 3.0
        return (Sense(Analysis.DC, volts + 1.0, volts + 0.7, board.inlet, board.ground),)
    if board.feed:
        return (
            Sense(
                Analysis.AC,
                0.6 * sheet.plate.mains_volts,
                0.5 * sheet.plate.mains_volts,
                board.feed.live,
                board.feed.neutral,
            ),
        )
    return ()


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
