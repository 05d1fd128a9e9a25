"""A plan as work: the wire table in the order of doing, parts and tools, the test before the plug goes in,
the readings that prove it, the label, what the customer agrees to."""

from collections.abc import Iterator
from dataclasses import dataclass

from frostcore import cautions
from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.circuit.trace import best_pair
from frostcore.diagnosis.state import place_of
from frostcore.remedy.plans.guards import PROTECTORS
from frostcore.remedy.plans.proved import Proof
from frostcore.remedy.plans.running import K, part_of
from frostcore.sentence import day_said, in_sentence, joined
from frostcore.sheet.electrical import EARTH
from frostcore.sheet.model import Component, Sheet
from frostcore.sheet.plan import Add, Cut, Label, Park, RunWire
from frostcore.sheet.points import pair_said, plug_full, point_said
from frostcore.sheet.rewired import boards_out
from frostcore.sheet.wiring import OLD_SIDE, WIRE_SIDE


@dataclass(frozen=True)
class Row:
    """One act of the wire table: what is done, from where to where, the wire's colour and size, how it is
    insulated, and where in the unit."""

    do: str
    start: str
    end: str = ""
    wire: str = ""
    insulated: str = ""
    place: str = ""


@dataclass(frozen=True)
class Foretold:
    """A reading to be taken: between which points, how the unit stands, what a right joint reads, what
    another reading would mean."""

    points: str
    stands: str
    reads: str
    else_means: str = ""


@dataclass(frozen=True)
class Work:
    """Everything that is printed for a plan."""

    table: tuple[Row, ...]
    parts: tuple[str, ...]
    tools: tuple[str, ...]
    cautions: tuple[str, ...]
    before_plug: tuple[Foretold, ...]
    proofs: tuple[Foretold, ...]
    label: tuple[str, ...]
    consent: tuple[str, ...]


def work_of(proof: Proof) -> Work:
    """The work of a plan."""
    return Work(
        tuple(_table(proof)),
        tuple(_parts(proof)),
        tuple(_tools(proof)),
        tuple(_cautions(proof)),
        tuple(_before_plug(proof)),
        tuple(_proofs(proof)),
        tuple(label_of(proof)),
        tuple(_consent(proof)),
    )


# The table.


def _table(proof: Proof) -> Iterator[Row]:
    sheet = proof.sheet
    for kind in (Park, Cut, Add, RunWire, Label):
        for act in proof.plan.acts:
            if isinstance(act, kind):
                yield _row(proof, sheet, act)


def _row(proof: Proof, sheet: Sheet, act: Park | Cut | Add | RunWire | Label) -> Row:
    match act:
        case Park(connector=name, insulate=insulate):
            place = _place_name(sheet, sheet.connector(name).place)
            return Row("park", f"Pull {plug_full(sheet, name)}", "tied back", "", insulate, place)
        case Cut(wire=wire, at=at):
            other = wire[0] if at == wire[1] else wire[1]
            colour = _colour_between(proof.before.sheet, wire)
            return Row(
                "cut",
                f"at {_said(sheet, at)}",
                f"the end that comes from {_said(sheet, other)}",
                colour,
                "cap an end that is left over",
                _place_name(sheet, place_of(sheet, at)),
            )
        case Add(component=part):
            where = sheet.place(part.bulb_place).name if part.bulb_place else ""
            bulb = f"; its bulb: {in_sentence(where)}" if where else ""
            return Row("add", f"{part.name}{bulb}", "", rated_words(part), "", _place_name(sheet, part.place))
        case RunWire(points=points):
            place = _place_name(sheet, place_of(sheet, points[-1]) or place_of(sheet, points[0]))
            ends = joined([_end(sheet, point) for point in points[1:]])
            size = f"{act.colours[0]}, {act.mm2:g} mm², {act.metres:g} m"
            return Row("join", _end(sheet, points[0]), ends, size, JOINTS[act.joint], place)
    return Row("label", f"Stick the label: {act.text}", "", "", "", _place_name(sheet, act.place))


JOINTS = {
    "crimp": "crimped and sleeved",
    "terminal": "in a terminal block, covered",
    "solder and sleeve": "soldered, two sleeves",
    "plug": "by its own plug",
}


def _end(sheet: Sheet, point: str) -> str:
    """An end of a wire put in, with the colour of the wire it meets."""
    named = _names(point)
    found = next(
        (stretch.colour for stretch in sheet.wiring.stretches if named & {stretch.start, stretch.end}), ""
    )
    said = _said(sheet, point)
    return f"{said} ({found})" if point.endswith(WIRE_SIDE) and found else said


def _names(point: str) -> set[str]:
    """What a point of a plan may be called on the changed sheet."""
    return {point, point.replace(WIRE_SIDE, OLD_SIDE)}


def _said(sheet: Sheet, point: str) -> str:
    """A point in words; a free end as the wire that was there, by what it leads to."""
    if not point.endswith(WIRE_SIDE):
        return point_said(sheet, point)
    bare = point.removesuffix(WIRE_SIDE)
    named = _names(point)
    run = next((run for run in sheet.harness if named & {run.points[0], run.points[-1]}), None)
    far = "" if run is None else run.points[-1] if run.points[0] in named else run.points[0]
    leads = f", which leads to {point_said(sheet, far)}" if far else ""
    return f"the wire of {point_said(sheet, bare)}{leads}"


def _colour_between(sheet: Sheet, wire: tuple[str, str]) -> str:
    pair = set(wire)
    return next(
        (stretch.colour for stretch in sheet.wiring.stretches if {stretch.start, stretch.end} == pair), ""
    )


def _place_name(sheet: Sheet, place: str) -> str:
    return sheet.place(place).name if place else ""


def rated_words(part: Component) -> str:
    """What a part put in is rated for."""
    rated = part.nominal
    what = {K.FUSE: "{:g} A, slow", K.TERMINAL: "{:g} A"}.get(part.kind, "contact {:g} A")
    contact = what.format(rated.amperes) if rated.amperes else ""
    words = [
        contact,
        f"{rated.start_amperes:g} A at a motor’s start" if rated.start_amperes else "",
        f"opens at {rated.opens_celsius:g} °C" if rated.opens_celsius is not None else "",
        f"closes at {rated.resets_celsius:g} °C" if rated.resets_celsius is not None else "",
        f"{rated.volts:g} V{' out' if part.kind is K.POWER_SUPPLY else ''}" if rated.volts else "",
        f"{rated.watts:g} W" if rated.watts else "",
        f"{rated.on_minutes:g} min on" if rated.on_minutes else "",
        f"{rated.off_minutes:g} min off" if rated.off_minutes else "",
    ]
    return ", ".join(word for word in words if word)


# What is needed.


def _parts(proof: Proof) -> Iterator[str]:
    for part in proof.plan.added:
        words = rated_words(part)
        yield f"{part.name}: {words}" if words else part.name
    lengths: dict[tuple[str, float], float] = {}
    for wire in proof.plan.wires:
        key = (wire.colours[0], wire.mm2)
        lengths[key] = lengths.get(key, 0.0) + wire.metres * (len(wire.points) - 1)
    for (colour, area), metres in lengths.items():
        yield f"{metres:.1f} m of {colour} wire, {area:g} mm², for mains"
    joints = sum(len(wire.points) for wire in proof.plan.wires)
    if joints:
        yield f"{joints} crimps with sleeves"
    if proof.plan.parked:
        yield f"Caps and ties for {len(proof.plan.parked)} plugs"


def _tools(proof: Proof) -> Iterator[str]:
    yield "Meter, crimping pliers, wire stripper, labels"
    places = dict.fromkeys(place for place in places_of(proof) if place)
    sheet = proof.sheet
    for place in places:
        for step in sheet.place(place).steps:
            if step.fastener:
                yield f"{sheet.place(place).name}: {step.fastener}"


def places_of(proof: Proof) -> tuple[str, ...]:
    """The places that are opened for a plan, in the order of its acts."""
    found: dict[str, None] = {}
    for act in proof.plan.acts:
        match act:
            case Park(connector=name):
                found[proof.sheet.connector(name).place] = None
            case Cut(at=at):
                found[place_of(proof.sheet, at)] = None
            case Add(component=part):
                found[part.place] = None
                if part.bulb_place:
                    found[part.bulb_place] = None
            case RunWire(points=points):
                found |= dict.fromkeys(place_of(proof.sheet, point) for point in points)
    return tuple(place for place in found if place)


def _cautions(proof: Proof) -> Iterator[str]:
    yield cautions.MAINS
    yield cautions.BYPASS
    if proof.sheet.plate.flammable:
        yield f"{proof.sheet.plate.refrigerant}: {cautions.FLAMMABLE}"
    if boards_out(proof.sheet):
        yield "The food in it is looked after by thermometer from now on: no alarm tells when it gets warm."
    yield cautions.PRECEDENCE


# Readings.


def _before_plug(proof: Proof) -> Iterator[Foretold]:
    """Ohms at the plug, contacts closed and open; across every protector."""
    circuits = circuits_of(proof.sheet)
    plug = next(part for part in proof.sheet.components if part.kind is K.PLUG)
    live, neutral = f"{plug.id}.l", f"{plug.id}.n"
    seen: set[tuple[str, str]] = set()
    added = {part.id for part in proof.plan.added}
    for mode in (mode for mode in proof.sheet.modes if not mode.live):
        stood = {name: way for name, way in (mode.positions or {}).items() if name in added}
        for red, black, wrong in (
            (live, neutral, "OL where ohms are foretold: a joint is missing, a neutral above all"),
            (live, EARTH, "less: live touches metal. Don’t plug in"),
            (neutral, EARTH, "less: neutral touches metal"),
        ):
            reading = circuits.reading(mode.id, MeterRange.OHM, red, black)
            key = (f"{red}-{black}", reading.text if black == EARTH else f"{stood}{reading.text}")
            if key in seen:
                continue
            seen.add(key)
            words = pair_said(proof.sheet, red, black).rstrip(",")
            told = wrong if black == EARTH or reading.value is not None else ""
            yield Foretold(words, mode.name, reading.text, told)
    resting = proof.sheet.resting_mode
    guarding = frozenset[str]().union(*proof.guards.of.values())
    for part in proof.sheet.components:
        if part.kind in PROTECTORS and part.id in guarding:
            ends = part.node("1"), part.node("2")
            try:
                reading = circuits.reading(resting, MeterRange.OHM, *ends)
            except CircuitError:
                continue
            whole = reading.value is not None and reading.value < WHOLE_OHMS
            told = "below 1 Ω while it is whole" if whole else reading.text
            yield Foretold(
                f"across the {in_sentence(part.name)}",
                "plug out, one of its wires off",
                told,
                "0 Ω with a bridge across it too: look that nothing bridges it",
            )


WHOLE_OHMS = 1.0


def _proofs(proof: Proof) -> Iterator[Foretold]:
    """What is read at each part that is kept, in the states where it runs and where it rests."""
    circuits = circuits_of(proof.sheet)
    for name in proof.plan.keeps:
        states = [state for state in proof.running.states if not state.warm]
        for runs in (True, False):
            state = next(
                (one for one in states if runs is any(part_of(load) == name for load in one.running)),
                None,
            )
            load = _load_of(proof, name)
            if state is None or not load:
                continue
            try:
                path = circuits.trace(load, state.mode.id)
                red, black = best_pair(path)
                reading = circuits.reading(state.mode.id, path.meter, red, black)
            except CircuitError:
                continue
            part = proof.running.parts[name]
            words = f"{part.name}: {pair_said(proof.sheet, red, black).rstrip(',')}"
            current = {MeterRange.VAC: " AC", MeterRange.VDC: " DC"}.get(path.meter, "")
            yield Foretold(words, state.mode.name, f"{reading.text}{current}")


def _load_of(proof: Proof, part: str) -> str:
    return next(
        (load for state in proof.running.states for load in sorted(state.running) if part_of(load) == part),
        "",
    )


# Words for others.


def label_of(proof: Proof) -> Iterator[str]:
    """What stands on the label inside the unit, line by line."""
    yield "THE WIRING OF THIS UNIT WAS CHANGED"
    yield f"{proof.plan.title}{f' ({proof.plan.school})' if proof.plan.school else ''}"
    for name in proof.plan.parked:
        yield f"{plug_full(proof.sheet, name)} is out for good: don’t plug it in"
    for part in proof.plan.added:
        words = rated_words(part)
        yield f"Put in: {in_sentence(part.name)}{f' ({words})' if words else ''}"
    if proof.lost:
        yield f"Lost: {'; '.join(in_sentence(each) for each in proof.lost)}"
    if proof.plan.stop_gap_until:
        yield f"A STOP-GAP. Undo it by {day_said(proof.plan.stop_gap_until)}"


def _consent(proof: Proof) -> Iterator[str]:
    """What the customer agrees to."""
    yield f"The wiring of my unit ({proof.sheet.title}) is changed: {proof.plan.title}."
    yield "It is no longer as its maker built it; a guarantee may end."
    for each in proof.lost:
        yield f"{each}."
    if boards_out(proof.sheet):
        yield "I check the temperatures with a thermometer: nothing warns me any more when it gets warm."
    if proof.plan.stop_gap_until:
        yield f"It is a stop-gap and is undone by {day_said(proof.plan.stop_gap_until)}."
    yield cautions.FOOD
