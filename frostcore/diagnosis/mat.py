"""A board on the mat, without display or cabinet: what stands in for its sensors and doors, what it should
then switch, and which codes mean only that nothing is plugged in.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from frostcore.curves.verdict import Role
from frostcore.diagnosis.behaviour import behaviour_of
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.state import board_pin
from frostcore.errors import FrostError
from frostcore.quantity import Dimension, format_celsius, format_value
from frostcore.sheet.electrical import Board
from frostcore.sheet.model import ComponentKind, Sensor, Sheet
from frostcore.sheet.points import leads

E24 = (
    1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8,
    7.5, 8.2, 9.1,
)  # fmt: skip
"""Standard resistors, of one decade."""

WARMER, COLDER = 10.0, 6.0
"""Kelvin above and below its set point at which a compartment asks for cold, and does not."""

FROSTED, THAWED, ROOM = -15.0, 15.0, 25.0

RAISED = 0.5
"""A code counts as raised from this chance on."""


@dataclass(frozen=True)
class Stand:
    """A resistor in the place of a sensor: where, how many ohms, what the board takes it for, and to what
    end."""

    sensor: str
    where: str
    ohms: float
    celsius: float
    why: str

    @property
    def text(self) -> str:
        """What the board takes it for, in words."""
        return f"{format_celsius(self.celsius)}, {self.why}"

    @property
    def resistor(self) -> str:
        """Its ohms as they are printed."""
        return format_value(self.ohms, Dimension.RESISTANCE, digits=2)


@dataclass(frozen=True)
class Switched:
    """An output that is on in a mode: the mode, the output, its kind, and where it is read."""

    mode: str
    output: str
    kind: str
    pins: tuple[str, ...]


@dataclass(frozen=True)
class OnMat:
    """A board on the mat: what stands in for its sensors; door switches, each with its pins; what is
    switched; codes that say nothing there."""

    board: str
    stands: tuple[Stand, ...]
    doors: tuple[tuple[str, tuple[str, ...]], ...]
    switched: tuple[Switched, ...]
    idle_codes: tuple[str, ...]


def standard(ohms: float) -> float:
    """The standard resistor nearest to some ohms, by share."""
    if not 0 < ohms < math.inf:
        raise FrostError(f"{ohms:g} Ω is no resistor.")
    decade = 10.0 ** math.floor(math.log10(ohms))
    some = [each * decade for each in (*E24, 10.0)]
    return float(f"{min(some, key=lambda each: abs(math.log(each / ohms))):.2g}")


def on_mat(sheet: Sheet, board: str = "") -> OnMat:
    """What can be provoked of a board on the mat; of the only one where none is named.

    FrostError for a board the sheet has not, or where one has to be named.
    """
    known = {each.component: each for each in sheet.boards}
    if not known:
        raise FrostError("This sheet has no board whose circuit it knows.")
    if not board and len(known) > 1:
        raise FrostError(f"Which board? {', '.join(known)}.")
    chosen = board or next(iter(known))
    if chosen not in known:
        raise FrostError(f"There is no board “{chosen[:40]}” on this sheet; there are {', '.join(known)}.")
    mine = {each.id for each in sheet.connectors if each.board in {"", chosen} or len(known) == 1}
    return OnMat(
        sheet.part_name(chosen),
        tuple(
            stand for sensor in sheet.sensors if _on(sensor.pins, mine) for stand in _stands(sheet, sensor)
        ),
        tuple(_doors(sheet, mine)),
        tuple(_switched(sheet, known[chosen], mine)),
        tuple(_idle(sheet, mine)),
    )


def _on(pins: tuple[str, ...], connectors: set[str]) -> bool:
    return bool(pins) and all(pin.partition(".")[0] in connectors for pin in pins)


def _stands(sheet: Sheet, sensor: Sensor) -> Iterator[Stand]:
    """The resistors for a sensor: what asks for cold, and what does not; frosted, and thawed."""
    middle = 0.0 if sensor.set_point_celsius is None else sensor.set_point_celsius
    wanted = {
        Role.CABINET: ((middle + WARMER, "warm: it should cool"), (middle - COLDER, "cold: it should rest")),
        Role.DEFROST_END: ((FROSTED, "frosted: it may heat"), (THAWED, "thawed: it ends")),
        Role.AMBIENT: ((ROOM, "a usual room"),),
        Role.MODULE: ((ROOM, "room warmth: it may run"),),
    }[sensor.role]
    curve = sheet.curve(sensor)
    low, high = curve.domain
    for celsius, why in wanted:
        if low <= celsius <= high:
            ohms = standard(float(curve.ohms(celsius)))
            where = leads(sheet, *sensor.pins[:2]) if len(sensor.pins) > 1 else sensor.pins[0]
            yield Stand(sheet.sensor_name(sensor), where, ohms, float(curve.celsius(ohms)), why)


def _doors(sheet: Sheet, connectors: set[str]) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Door switches the board looks at, with its two pins; one that switches a lamp is none."""
    for part in sheet.components:
        if part.kind is ComponentKind.DOOR_SWITCH:
            pins = tuple(board_pin(sheet, part.node(terminal)) for terminal in ("1", "2"))
            if _on(pins, connectors):
                yield part.name, pins


def _switched(sheet: Sheet, board: Board, connectors: set[str]) -> Iterator[Switched]:
    """What the board switches in each mode with the plug in, and where its load hangs on it."""
    known = sheet.wiring.pins.items()
    for mode in sheet.modes:
        for item in board.switches if mode.live else ():
            if item.signal in mode.signals:
                load = item.from_node if item.to_node == board.ground else item.to_node
                pins = tuple(
                    point for point, (plug, pin) in known if pin.node == load and plug.id in connectors
                )
                yield Switched(mode.name, item.name or item.id, item.kind, pins)


def _idle(sheet: Sheet, connectors: set[str]) -> Iterator[str]:
    """Codes that an open joint at one of the board's plugs raises: on the mat all of them are open."""
    behaviour = behaviour_of(sheet)
    joints = [
        place
        for place, item in enumerate(hypotheses_of(sheet).all)
        if item.fault and item.fault.mode == "joint_open" and _on((item.fault.where,), connectors)
    ]
    for code, chance in behaviour.codes.items():
        if any(chance[place] >= RAISED for place in joints):
            yield code
