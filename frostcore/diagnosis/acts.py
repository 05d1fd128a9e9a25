"""What a repairer is asked to do next, as values, and every word of it in one place."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.evidence import AtPlug, Changed, Looked, Measured, Said, Sensed, Turned
from frostcore.diagnosis.hypotheses import hypotheses_of
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.state import State, tach_pins, to_open, to_open_at, to_open_for, turns_in
from frostcore.sentence import in_sentence
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import ComponentKind, Sheet
from frostcore.sheet.points import (
    pair_said,
    plug_name,
    plugs_said,
    point_name,
    point_said,
    printed_pin,
    purpose,
)
from frostcore.tape.looks import look as look_named
from frostcore.tape.standing import ROOM


@dataclass(frozen=True)
class Move:
    """A step on the way to a test: in words; where it is an entry of its own which (``unplug``, ``open``,
    ``pull``, ``back``, ``mode``), and of what: the place, the connector, the mode."""

    text: str
    kind: str = ""
    of: tuple[str, ...] = ()


@dataclass(frozen=True)
class Instruction:
    """A test in words: what to do, in a line; how to get there, step by step; cautions at those steps."""

    act: str
    moves: tuple[Move, ...]
    cautions: tuple[str, ...] = ()

    @property
    def how(self) -> tuple[str, ...]:
        """The steps in words."""
        return tuple(move.text for move in self.moves)


LIVE_CAUTION = (
    "Live: insulated probes, one hand, dry floor, clip on before the plug goes in. Where an unplugged test"
    " answers as well, take that."
)
HAND_CAUTION = "Blades cut, shells burn: plug out before a hand goes in."
STORED_CAUTION = "After unplugging, the board’s main capacitor keeps its charge: measure it before you touch."


def instruction(sheet: Sheet, state: State, test: Test) -> Instruction:
    """A test in words, from how the unit stands."""
    match test:
        case Looked(look=look):
            found = look_named(look)
            steps = [_opening(sheet, place) for place in to_open_for(sheet, state, look)]
            cautions = [found.caution] if found.caution else []
            for place in to_open_for(sheet, state, look):
                cautions += [step.caution for step in sheet.place(place).steps if step.caution]
            if steps and state.live is not False:
                steps.insert(0, UNPLUG)
                cautions.append(STORED_CAUTION)
            return Instruction(
                f"Look: {in_sentence(found.name)}", (*steps, Move(found.how)), tuple(dict.fromkeys(cautions))
            )
        case Said():
            words = (Move("One answer: what made them call. More can be added."),)
            return Instruction("Ask: what does the customer notice?", words)
        case Measured(place=place):
            name = "the room" if place == ROOM else f"the {sheet.place(place).name.lower()}"
            return Instruction(
                f"Hang a thermometer in {name}", (Move("Not the display’s figure; wait three minutes."),)
            )
        case AtPlug(mode=mode):
            how = (Move(f"Plug meter between plug and socket; {_entering(sheet, mode)}", "mode", (mode,)),)
            return Instruction(f"Read the watts at the plug in {_named(sheet, mode)}", how)
        case Turned(fan=fan):
            red, black = tach_pins(sheet, fan)
            name = sheet.component(fan).name.lower()
            where = f"red on {_point(sheet, red)}, black on {_point(sheet, black)}"
            turning = turns_in(sheet)
            enter = Move(_entering(sheet, turning), "mode", (turning,))
            act = f"Read the hertz of the {name} at {point_said(sheet, red)}"
            return Instruction(act, (enter, Move(f"Meter on hertz, {where}.")), (LIVE_CAUTION,))
        case Sensed(component=component):
            return _by_hand(sheet, state, component)
        case Changed(probe=probe):
            still = _reading(sheet, state, probe)
            moving = (
                *still.moves,
                Move("Move the harness along its way, plug by plug, and watch the figure."),
            )
            act = f"Move the harness while you read {pair_said(sheet, *probe.pair).rstrip(',')}"
            return Instruction(act, moving, still.cautions)
    return _reading(sheet, state, test)


def _by_hand(sheet: Sheet, state: State, component: str) -> Instruction:
    opening = to_open_at(sheet, state, component)
    steps = [] if state.live is False else [UNPLUG]
    steps += [_opening(sheet, place) for place in opening]
    cautions = [HAND_CAUTION, *([] if state.live is False else [STORED_CAUTION])]
    cautions += [step.caution for place in opening for step in sheet.place(place).steps if step.caution]
    how = (*steps, Move("Turn it a few rounds with a finger: free, stiff, or stuck."))
    name = sheet.part_name(component).lower()
    return Instruction(f"Turn the {name} by hand", how, tuple(dict.fromkeys(cautions)))


def _reading(sheet: Sheet, state: State, probe: Probe) -> Instruction:
    setup = probe.setup
    steps, cautions = _getting_there(sheet, state, probe)
    if setup.meter.live:
        if state.live is not True or state.mode != setup.mode:
            steps.append(Move(_entering(sheet, setup.mode), "mode", (setup.mode,)))
    elif not sheet.mode(setup.mode).live and setup.mode != sheet.resting_mode:
        steps.append(Move(_entering(sheet, setup.mode), "mode", (setup.mode,)))
    red, black = (_point(sheet, point) for point in probe.pair)
    steps.append(Move(f"Meter on {setup.meter.label}; red on {red}, black on {black}."))
    if probe.at_temperature:
        steps.append(
            Move("A thermometer beside the sensor, or its bead in an ice bath until both have settled.")
        )
    act = f"Read {pair_said(sheet, *probe.pair)} in {setup.meter.label}"
    if setup.meter.live:
        act += f", {_named(sheet, setup.mode)}"
    elif probe.at_temperature:
        act += ", its temperature with it"
    elif setup.pulled:
        act += f", {plugs_said(sheet, setup.pulled)} pulled"
    return Instruction(act, tuple(steps), tuple(dict.fromkeys(cautions)))


def _getting_there(sheet: Sheet, state: State, probe: Probe) -> tuple[list[Move], list[str]]:
    """The plug, the places to be opened, the connectors: steps and cautions."""
    steps, cautions = list[Move](), list[str]()
    if probe.setup.meter.live:
        cautions.append(LIVE_CAUTION)
    elif state.live is not False:
        steps.append(UNPLUG)
        cautions.append(STORED_CAUTION)
    for place in to_open(sheet, state, probe):
        steps.append(_opening(sheet, place))
        cautions += [step.caution for step in sheet.place(place).steps if step.caution]
    pull = [name for name in probe.setup.pulled if name not in state.pulled]
    back = [name for name in sorted(state.pulled) if name not in probe.setup.pulled]
    if pull:
        steps.append(Move(f"Pull {plugs_said(sheet, pull)}.", "pull", tuple(pull)))
    if back:
        steps.append(Move(f"Put {plugs_said(sheet, back)} back.", "back", tuple(back)))
    return steps, cautions


UNPLUG = Move("Pull the mains plug.", "unplug")


def _opening(sheet: Sheet, place: str) -> Move:
    where = sheet.place(place)
    minutes = f" ({where.open_minutes:g} min)" if where.open_minutes else ""
    return Move(f"Open: {where.name}{minutes}.", "open", (place,))


def _entering(sheet: Sheet, mode: str) -> str:
    found = sheet.mode(mode)
    return f"{found.name}: {'; '.join(found.enter)}." if found.enter else f"{found.name}."


def _named(sheet: Sheet, mode: str) -> str:
    return sheet.mode(mode).name.lower()


def _point(sheet: Sheet, point: str) -> str:
    """A point with what helps to find it: the wire's colour, or the part."""
    if point == EARTH:
        return "bare metal of the chassis"
    pin = sheet.pin(point)
    if pin:
        stretch = sheet.wiring.leaving.get(point)
        colour = stretch.colour if stretch else pin[1].colour
        called = point_said(sheet, point)
        if printed_pin(sheet, point) and sheet.generic:
            called += f", the {in_sentence(purpose(sheet, point))}"
        return f"{called} ({colour})" if colour else called
    owner, _, terminal = point.partition(".")
    names = {part.id: part.name for part in sheet.components}
    return f"{names[owner].lower()}, {terminal}" if owner in names else f"{point} on the board"


def unit_name(sheet: Sheet, unit: str, names: Sequence[str] = ()) -> str:
    """A repair unit in words: the part; a stretch or a plug of the harness; what else there is."""
    if unit == "well":
        return "Nothing that is modelled"
    if unit == "elsewhere":
        return "Something not on this sheet"
    if "+" in unit:
        one, other = (unit_name(sheet, part) for part in unit.split("+"))
        return f"{one} and {in_sentence(other)}"
    owner, _, rest = unit.partition(":")
    known = {part.id: part.name for part in sheet.components}
    harness = any(part.id == owner and part.kind is ComponentKind.HARNESS for part in sheet.components)
    if not rest:
        return known.get(owner, owner)
    if not harness:  # mended by hand, no part
        return names[0] if names else rest.replace("_", " ").capitalize()
    if "-" not in rest:
        called = plug_name(sheet, rest)
        words = f"{called[:1].upper()}{called[1:]}" if called.startswith("the ") else f"Plug {called}"
        words += ", a contact in it"
    else:
        one, other = rest.split("-")
        words = f"Wire, {_place(sheet, one)} to {_place(sheet, other)}"
    return words if known.get(owner) else f"{known.get(owner, owner)}: {words}"


def mendable(sheet: Sheet) -> dict[str, str]:
    """What is mended, cleaned or put right without a part, by repair unit: its name. The boards too, that are
    mended at their parts."""
    known = hypotheses_of(sheet)
    by_hand = [unit for unit in known.units if ":" in unit]
    found = {}
    for unit in by_hand:
        first = known.all[int(known.of_unit(unit)[0])]
        found[unit] = unit_name(sheet, unit, [first.name])
    boards = {board.component for board in sheet.boards}
    names = {part.id: f"{part.name}, mended at its parts" for part in sheet.components if part.id in boards}
    plain = sorted(found.items(), key=lambda item: not item[0].startswith("unit:"))
    return dict(plain) | names


def _place(sheet: Sheet, point: str) -> str:
    """An end of a wire by the name of its part, a pin by its own."""
    names = {part.id: part.name for part in sheet.components}
    owner, _, terminal = point.partition(".")
    return f"{names[owner].lower()} {terminal}" if owner in names else point_name(sheet, point)


_ACT_OF: dict[type, tuple[str, str]] = {
    Looked: ("look", "look"),
    Measured: ("temperature", "place"),
    AtPlug: ("plug", "mode"),
    Sensed: ("feel", "component"),
}
"""Acts that have one field beside their outcome."""


def document(sheet: Sheet, test: Test) -> dict[str, Any]:
    """A test in the vocabulary of evidence, without its outcome."""
    match test:
        case Said():
            return {"act": "ask"}
        case Looked() | Measured() | AtPlug() | Sensed():
            act, field = _ACT_OF[type(test)]
            return {"act": act, field: getattr(test, field)}
        case Turned(fan=fan):
            red, black = tach_pins(sheet, fan)
            return {"act": "read", "red": red, "black": black, "range": "hz", "mode": turns_in(sheet)}
        case Changed(how=how, probe=probe):
            return document(sheet, probe) | {"act": how}
    if test.at_temperature:
        sensor = next(item for item in sheet.sensors if set(item.pins) == set(test.pair))
        return {"act": "sensor", "sensor": sensor.id}
    found: dict[str, Any] = {
        "act": "read",
        "red": test.red,
        "black": test.black,
        "range": test.setup.meter.value,
        "mode": test.setup.mode,
    }
    if test.setup.pulled:
        found["pulled"] = list(test.setup.pulled)
    return found


def is_live(test: Test) -> bool:
    """Whether it is a reading with the plug in."""
    return isinstance(test, Probe) and test.setup.meter is not MeterRange.OHM
