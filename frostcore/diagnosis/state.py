"""How the unit stands for the next test, and the minutes a test takes from there."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.evidence import Evidence, Looked, Read, Sensed, Stands
from frostcore.diagnosis.probes import Probe
from frostcore.faults.table import Setup
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.tape.noticed import BY_HAND

ACT_MINUTES = 0.4
"""What any act takes beside itself: read what is asked for, write down what came of it."""

READ_MINUTES, AGAIN_MINUTES = 1.0, 0.5
"""Two leads on two points and a figure written down; and once more with nothing to move but the leads."""

PULL_MINUTES, PLUG_MINUTES, MODE_MINUTES = 0.4, 1.0, 2.0
"""A connector pulled, the mains plug out or in, a mode entered."""

LIVE_MINUTES = 1.0
"""What working live costs in care: insulated probes, one hand, a dry floor."""

LOOK_MINUTES = {
    "display": 0.3,
    "vent_air": 0.5,
    "evaporator_fan": 0.5,
    "light": 0.3,
    "compressor": 1.0,
    "condenser_fan": 1.5,
    "lines": 2.0,
    "frame_loop": 0.3,
    "frost": 1.0,
    "condenser_dust": 1.0,
    "door_seal": 1.0,
    "water": 0.7,
    "settings": 1.0,
    "vents": 0.5,
    "gaps": 1.0,
    "bulbs": 1.5,
    "dispenser_dip": 0.5,
    "timer_shaft": 5.0,
    "coil": 0.5,
    "board_label": 1.0,
}

ASK_MINUTES = 0.5
"""A question to the customer."""

HAND_MINUTES = 0.5
"""A fan turned by hand, once it is reached."""

MOVE_MINUTES = 1.0
"""A harness moved along its length with the meter on."""

BATH_MINUTES = 6.0
"""Until a sensor and the thermometer beside it, or its ice bath, have settled."""

THERMOMETER_MINUTES, WATTS_MINUTES = 3.0, 2.0


@dataclass(frozen=True)
class State:
    """How the unit stands: the plug in (None while nobody has said), the mode, places opened, connectors
    pulled, and the last pair of points read."""

    live: bool | None = None
    mode: str = ""
    opened: frozenset[str] = frozenset()
    pulled: frozenset[str] = frozenset()
    at: tuple[str, ...] = ()

    def after(self, sheet: Sheet, evidence: Evidence) -> "State":
        """How it stands after an entry."""
        match evidence:
            case Stands(what="power", on=on):
                return replace(self, live=on, mode="")
            case Stands(what="enter", of=mode):
                return replace(self, live=sheet.mode(mode).live, mode=mode)
            case Stands(what="open", of=place, on=on):
                return replace(self, opened=self.opened | {place} if on else self.opened - {place})
            case Stands(what="plug", of=connector, on=on):
                return replace(self, pulled=self.pulled | {connector} if on else self.pulled - {connector})
            case Read(probe=probe):
                reached = places(sheet, replace(probe, setup=replace(probe.setup, celsius=())))
                opened = self.opened.union(*(way_in(sheet, place) for place in reached))
                live = probe.setup.meter.live
                mode = probe.setup.mode if live else ""
                return State(live, mode, opened, frozenset(probe.setup.pulled), probe.pair)
            case Looked(look=look):
                return replace(self, opened=self.opened | set(to_open_for(sheet, self, look)))
            case Sensed(component=component, what=what) if what in BY_HAND:
                opened = self.opened | set(to_open_at(sheet, self, component))
                return replace(self, opened=opened, live=False, mode="")
        return self


def state_of(sheet: Sheet, evidence: Iterable[Evidence]) -> State:
    """How the unit stands after all of it."""
    state = State()
    for item in evidence:
        state = state.after(sheet, item)
    return state


def place_of(sheet: Sheet, point: str) -> str:
    """Where a point is reached, empty where the sheet does not say: its plug's place, its part's, its
    board's."""
    pin = sheet.pin(point.partition("/")[0])
    if pin:
        return pin[0].place
    known = {part.id: part.place for part in sheet.components}
    owner = point.partition(".")[0]
    if owner in known:
        return known[owner]
    for part in sheet.components:
        if point in (part.terminals or {}).values():
            return part.place
    boards = (board.component for board in sheet.boards if point in _nodes(sheet, board.component))
    return next((known[name] for name in boards), "")


def _nodes(sheet: Sheet, component: str) -> set[str]:
    board = next(item for item in sheet.boards if item.component == component)
    found = {board.ground, board.inlet, *(rail.node for rail in board.rails)}
    found |= {node for item in board.switches for node in (item.from_node, item.to_node)}
    return found | {item.node for item in board.drives} - {""}


def way_in(sheet: Sheet, place: str) -> list[str]:
    """The places to be opened on the way to one, the innermost last; none where nothing is to be opened."""
    found = list[str]()
    while place:
        where = sheet.place(place)
        if where.steps or where.open_minutes:
            found.insert(0, place)
        place = where.inside
    return found


def places(sheet: Sheet, probe: Probe) -> list[str]:
    """The places a probe's two points and the plugs to pull for it are at."""
    known = {connector.id: connector.place for connector in sheet.connectors}
    found = [place_of(sheet, point) for point in probe.pair if point != "earth"]
    found += [place for place, _ in probe.setup.celsius]
    return list(dict.fromkeys([*found, *(known[name] for name in probe.setup.pulled)]))


def to_open(sheet: Sheet, state: State, probe: Probe) -> tuple[str, ...]:
    """The places still to be opened for a probe, in their order."""
    kept: dict[Probe, tuple[str, ...]] = circuits_of(sheet).kept.setdefault("ways", {})
    if probe not in kept:
        wanted = [place for where in places(sheet, probe) if where for place in way_in(sheet, where)]
        kept[probe] = tuple(dict.fromkeys(wanted))
    return tuple(place for place in kept[probe] if place not in state.opened)


def has_look(sheet: Sheet, look: str) -> bool:
    """Whether the unit has what a look is at."""
    kinds = {part.kind for part in sheet.components}
    if look in {"coil", "board_label"}:
        return bool(place_of_look(sheet, look))
    return look not in LOOKS_OF or LOOKS_OF[look] in kinds


LOOKS_OF = {
    "light": ComponentKind.LAMP,
    "dispenser_dip": ComponentKind.FLAP_MOTOR,
    "display": ComponentKind.DISPLAY,
    "timer_shaft": ComponentKind.DEFROST_TIMER,
}
"""Looks at a part that not every unit has."""


def place_of_look(sheet: Sheet, look: str) -> str:
    """The place that is opened for a look; empty where nothing is, or the sheet has no such place."""
    if look == "board_label":
        return next((sheet.component(board.component).place for board in sheet.boards), "")
    if look != "coil":
        return ""
    cold = {place.id for place in sheet.compartments}
    kinds = (ComponentKind.HEATER, ComponentKind.FAN_AC, ComponentKind.FAN_DC)
    parts = [part for kind in kinds for part in sheet.components if part.kind is kind]
    inside = (part.place for part in parts if part.place and sheet.place(part.place).inside in cold)
    return next((place for place in inside if sheet.place(place).open_minutes), "")


def to_open_for(sheet: Sheet, state: State, look: str) -> tuple[str, ...]:
    """The places still to be opened for a look."""
    place = place_of_look(sheet, look)
    return tuple(each for each in way_in(sheet, place) if each not in state.opened) if place else ()


def look_minutes(sheet: Sheet, state: State, look: str) -> float:
    """The minutes a look takes from here."""
    opening = sum(sheet.place(place).open_minutes or 1.0 for place in to_open_for(sheet, state, look))
    return LOOK_MINUTES[look] + opening


def probe_minutes(sheet: Sheet, state: State, probe: Probe) -> float:
    """The minutes a reading takes from here: opening, the plug, plugs, the mode, the leads."""
    setup = probe.setup
    minutes = sum(sheet.place(place).open_minutes or 1.0 for place in to_open(sheet, state, probe))
    live = setup.meter.live
    if state.live is not live:
        minutes += PLUG_MINUTES
    minutes += PULL_MINUTES * len(state.pulled ^ set(setup.pulled))
    if live:
        minutes += LIVE_MINUTES
        if state.mode != setup.mode:
            entered = bool(sheet.mode(setup.mode).leave)  # what needs leaving again is entered by hand
            minutes += MODE_MINUTES if entered else 0.5
    same = setup.meter is not MeterRange.VAC_LOZ and bool(set(state.at) & set(probe.pair))
    minutes += BATH_MINUTES if probe.at_temperature else 0.0
    return minutes + (AGAIN_MINUTES if same else READ_MINUTES)


def tach_pins(sheet: Sheet, fan: str) -> tuple[str, str]:
    """Where a fan's tachometer is read from its board: its own pin and that of its minus, or the fan's own
    terminals where no harness line leads there."""
    tach, minus = (f"{fan}.tach", f"{fan}.minus")
    return board_pin(sheet, tach) or tach, board_pin(sheet, minus) or minus


def board_pin(sheet: Sheet, terminal: str) -> str:
    """The pin that the harness line at a terminal comes from; empty where none does."""
    lines = (run.points for run in sheet.harness if terminal in run.points)
    return next((point for points in lines for point in points if sheet.pin(point)), "")


def turned_minutes(sheet: Sheet, state: State, fan: str) -> float:
    """The minutes hertz at a fan's tachometer take."""
    red, black = tach_pins(sheet, fan)
    return probe_minutes(sheet, state, Probe(Setup(turns_in(sheet), MeterRange.VDC), red, black))


def to_open_at(sheet: Sheet, state: State, component: str) -> tuple[str, ...]:
    """The places still to be opened to lay a hand on a part."""
    place = sheet.component(component).place
    return tuple(each for each in way_in(sheet, place) if each not in state.opened) if place else ()


def by_hand_minutes(sheet: Sheet, state: State, component: str) -> float:
    """The minutes it takes to turn a part by hand: opening, the plug out, a moment."""
    opening = sum(sheet.place(place).open_minutes or 1.0 for place in to_open_at(sheet, state, component))
    return HAND_MINUTES + opening + (0.0 if state.live is False else PLUG_MINUTES)


def turns_in(sheet: Sheet) -> str:
    """The mode in which fans are read: the first with the plug in."""
    return next((mode.id for mode in sheet.modes if mode.live), sheet.modes[0].id)


def plug_minutes(sheet: Sheet, state: State, mode: str) -> float:
    """The minutes watts at the plug take: the meter between plug and socket, the mode."""
    minutes = WATTS_MINUTES + (0.0 if state.live else PLUG_MINUTES)
    return minutes + (0.0 if state.mode == mode else MODE_MINUTES if sheet.mode(mode).leave else 0.5)
