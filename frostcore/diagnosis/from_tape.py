"""A call's tape as evidence: every standing entry for what it is, with the entry it came from."""

import json
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from frostcore.circuit.element import CircuitError
from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange
from frostcore.diagnosis.causal import FELT, HISTORY
from frostcore.diagnosis.evidence import (
    AtPlug,
    Bypassed,
    Changed,
    Drawn,
    Evidence,
    EvidenceError,
    Experience,
    Fitted,
    Looked,
    Mains,
    Measured,
    Past,
    Ran,
    Read,
    Said,
    Sensed,
    Shown,
    Stands,
    Turned,
    evidence_of,
    warmed,
)
from frostcore.diagnosis.judge import Judgement, judge
from frostcore.diagnosis.readings import probe_of, readings_of
from frostcore.faults.table import Setup
from frostcore.sheet.model import Sheet
from frostcore.tape.benched import BoardBack
from frostcore.tape.carried import carried
from frostcore.tape.entries import (
    AmpsTaken,
    Barred,
    Bridged,
    CallTaken,
    Checked,
    CodeSeen,
    Complained,
    Experienced,
    Felt,
    HertzTaken,
    MainsTaken,
    Mended,
    ModeSet,
    Observed,
    PartFitted,
    PartTried,
    PlugMoved,
    PowerSet,
    Programmed,
    ReadingTaken,
    StepDone,
    TemperatureTaken,
    Tried,
    WattsTaken,
)
from frostcore.tape.looks import LOOKS
from frostcore.tape.moment import brought
from frostcore.tape.noticed import complaints_of
from frostcore.tape.ran import RunLogged
from frostcore.tape.ran_words import runs_as_read
from frostcore.tape.reading import sensor_of, setup_of
from frostcore.tape.rechecked import RecheckTold
from frostcore.tape.standing import Slip, Standing

Told = tuple[Evidence, str]
"""Evidence, and the id of the entry it came from."""


def evidence_from(standing: Standing) -> tuple[Told, ...]:
    """All the evidence of a call in its order; what its sheet has no names for says nothing."""
    if not circuits_of(standing.sheet).functions:
        return ()
    known = {look.id: {answer.id for answer in look.answers} for look in LOOKS}
    slips = (
        found
        for slip in runs_as_read(standing.effective)
        if _counts(slip, standing) and (found := _here(slip, standing.sheet))
    )
    return tuple((item, slip.entry.id) for slip in slips for item in _of(standing, slip, known))


ALWAYS = (
    CallTaken,
    Experienced,
    PartFitted,
    PartTried,
    Mended,
    Programmed,
    PowerSet,
    ModeSet,
    PlugMoved,
    StepDone,
)
"""What counts however the wiring was: the history, what was fitted, and how the unit stands."""


def _counts(slip: Slip, standing: Standing) -> bool:
    """Whether an entry speaks of the unit as it is wired now: what was read before the wiring was changed was
    read on another circuit."""
    return slip.moment.plan == standing.now.plan or isinstance(slip.entry.body, ALWAYS)


def _here(slip: Slip, sheet: Sheet) -> Slip | None:
    """A slip as it stands on a sheet the call has moved to since; None where that has not what it is of."""
    told = carried(slip.entry.body, slip.moment.sheet, sheet)
    if told is slip.entry.body:
        return slip
    moment = brought(slip.moment, sheet)
    return replace(slip, entry=replace(slip.entry, body=told), moment=moment) if told else None


def _of(standing: Standing, slip: Slip, looks: dict[str, set[str]]) -> Iterator[Evidence]:
    sheet = standing.sheet
    match slip.entry.body:
        case CallTaken() | Experienced() as body:
            yield from _history(sheet, body)
        case Observed(look=look, answer=answer) if answer in looks.get(look, set()):
            yield Looked(look, answer)
        case TemperatureTaken(place=place, temperature=temperature) if temperature.value is not None:
            yield Measured(place, temperature.value)
        case CodeSeen() as seen:
            yield Shown(standing.code_of(seen) or None)
        case ReadingTaken() as body:
            yield from _reading(sheet, slip, body)
        case PartFitted(component=component, helped=helped) | Mended(unit=component, helped=helped):
            yield Fitted(component, helped)
        case Programmed():
            yield Fitted("unit:not_programmed", "")
        case PartTried(component=component, helped=helped):
            yield Fitted(component, helped, before=True)
        case PowerSet() | ModeSet() | PlugMoved() | StepDone():
            yield from _stands(sheet, slip)
        case _:
            yield from _tested(sheet, slip)


def _history(sheet: Sheet, body: CallTaken | Experienced) -> Iterator[Evidence]:
    """What is known before anything is looked at: of this unit, and of others of its kind."""
    if isinstance(body, Experienced):
        yield Experience(body.counts)
        return
    yield from (Past(event) for event in body.supply_history if event in HISTORY)
    yield from _replaced(sheet, body)


def _tested(sheet: Sheet, slip: Slip) -> Iterator[Evidence]:
    """What was measured or tried beside readings between two points."""
    match slip.entry.body:
        case WattsTaken(mode=mode, watts=watts) if watts.value is not None:
            yield AtPlug(mode, watts.value)
        case AmpsTaken(mode=mode, amperes=amperes) if amperes.value is not None:
            yield Drawn(mode, amperes.value)
        case HertzTaken(component=component, hertz=hertz) if hertz.value is not None:
            yield Turned(component, hertz.value)
        case MainsTaken(volts=volts) if volts.value is not None:
            yield Mains(volts.value)
        case Bridged(component=component, runs=runs):
            yield Bypassed(component, runs == "yes")
        case Tried() as body:
            yield from _tried(sheet, slip, body)
        case _:
            yield from _told(sheet, slip)


def _told(sheet: Sheet, slip: Slip) -> Iterator[Evidence]:
    """What was noticed, can't be tested, or was tested on a page of its own."""
    match slip.entry.body:
        case Complained(complaint=complaint) if complaint in complaints_of(sheet):
            yield Said(complaint)
        case Felt(component=component, what=what) if what in FELT:
            yield Sensed(component, what)
        case RunLogged(found=found) if found:
            yield Ran(tuple(sorted(found.items())))
        case RecheckTold(temperatures=read):
            yield from (
                Measured(place, value.value) for place, value in read.items() if value.value is not None
            )
        case BoardBack(board=board, found=found) if found:
            yield Sensed(board, found)
        case Barred(act=act, why=why):
            yield from _in_words(sheet, [{"act": "cannot", "of": _read(act), "why": why}])
        case Checked(act=act) if act:
            yield from _in_words(sheet, _read(act))


def _read(act: str) -> Any:
    try:
        return json.loads(act)
    except ValueError:
        return None


def _in_words(sheet: Sheet, entries: Any) -> tuple[Evidence, ...]:
    """What is kept in the vocabulary of evidence; what this sheet has not says nothing."""
    try:
        return evidence_of(sheet, entries)
    except EvidenceError:
        return ()


def _tried(sheet: Sheet, slip: Slip, body: Tried) -> Iterator[Changed]:
    """Something moved, warmed or chilled with the meter on two points."""
    moment = slip.moment
    pulled = moment.pulled if body.pulled is None else body.pulled
    mode = body.mode or moment.mode or sheet.resting_mode
    try:
        setup = Setup(mode, MeterRange(body.meter), tuple(sorted(pulled)))
        yield Changed(body.how, probe_of(sheet, setup, body.red, body.black), body.changes == "yes")
    except (CircuitError, KeyError):
        return


def _stands(sheet: Sheet, slip: Slip) -> Iterator[Stands]:
    """How the unit stands from here on."""
    match slip.entry.body:
        case PowerSet(state=state):
            yield Stands("power", "", on=state == "live")
        case ModeSet(mode=mode, state=state) if mode in {item.id for item in sheet.modes}:
            if state == "entered":
                yield Stands("enter", mode)
        case PlugMoved(connector=connector, state=state):
            yield Stands("plug", connector, on=state == "pulled")
        case StepDone(place=place, step=step, state=state) if place in {item.id for item in sheet.places}:
            where = sheet.place(place)
            if state == "opened" and step == len(where.steps) - 1:
                yield Stands("open", place)
            elif state == "closed" and step == 0:
                yield Stands("open", place, on=False)


def _replaced(sheet: Sheet, body: CallTaken) -> Iterator[Fitted]:
    """Parts named among what was replaced before, and whether that helped."""
    text = body.replaced_before.casefold()
    for part in sheet.components:
        words = part.name.casefold()
        named = words in text or words.rsplit(" ", maxsplit=1)[-1] in text.split()
        if named and body.replacement_helped:
            yield Fitted(part.id, body.replacement_helped, before=True)


def _reading(sheet: Sheet, slip: Slip, body: ReadingTaken) -> Iterator[Read]:
    """A reading where it was taken, as the sheet of now has it."""
    setup = setup_of(body, slip.moment)
    red, black = body.red, body.black
    sensor = sensor_of(sheet, body)
    if not red and sensor:
        ends = sensor.pins or (f"{sensor.component}.1", f"{sensor.component}.2")
        red, black = ends[0], ends[-1]
        pin = sheet.pin(red)
        pulled = setup.pulled if pin is None or pin[0].id in setup.pulled else (*setup.pulled, pin[0].id)
        setup = Setup(setup.mode, setup.meter, pulled, setup.celsius)
    try:
        probe = probe_of(sheet, Setup(setup.mode, setup.meter, tuple(sorted(setup.pulled))), red, black)
        yield Read(warmed(sheet, setup.celsius, probe), body.value)
    except (CircuitError, KeyError):
        return


def judgement_of(standing: Standing) -> Judgement:
    """The judgement of a call as its tape stands, kept with it; by parts as written until good parts have
    been drawn."""
    readings = readings_of(standing.sheet)
    readings.prepare(0)
    key = f"judgement by {readings.draws} draws"
    if key not in standing.kept:
        standing.kept[key] = judge(standing.sheet, tuple(item for item, _ in evidence_from(standing)))
    found: Judgement = standing.kept[key]
    return found
