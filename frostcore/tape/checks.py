"""Whether an entry can follow a tape: asked once, when it is recorded.

Names on a slip must lead somewhere on the sheet of its moment or in the tables of the trade. Each function
is one kind's check; :mod:`frostcore.tape.kinds` says which is whose.
"""

import json

from frostcore.circuit.kept import circuits_of
from frostcore.circuit.meter import MeterRange, points
from frostcore.errors import SheetError, TapeError
from frostcore.quantity import Quantity
from frostcore.sheet.bounds import problems_of_data
from frostcore.sheet.model import Sheet
from frostcore.sheet.plan import write_plan
from frostcore.sheet.rewired import changed_by
from frostcore.tape.entries import (
    AmpsTaken,
    Attached,
    Awaited,
    Barred,
    Body,
    Bridged,
    CallTaken,
    CodeSeen,
    Complained,
    Entry,
    Felt,
    HertzTaken,
    MainsTaken,
    ModeSet,
    Observed,
    Outcome,
    PartFitted,
    PartTried,
    PlugMoved,
    Programmed,
    ReadingTaken,
    Rewired,
    StepDone,
    TemperatureTaken,
    Tried,
    WattsTaken,
    Withdrawn,
)
from frostcore.tape.looks import look
from frostcore.tape.moment import Moment
from frostcore.tape.noticed import complaints_of, feelings_of
from frostcore.tape.reading import judge_reading
from frostcore.tape.rechecked import RecheckAsked, RecheckTold
from frostcore.tape.standing import Standing, thermometer_places

AFTERWARDS = (RecheckAsked, RecheckTold)
"""What has its place on a call that was closed."""


def check_place_on_tape(standing: Standing, entry: Entry) -> None:
    """Raise TapeError when an entry has no place on a tape: there already, corrects nothing that stands, or
    comes after the call was closed."""
    if standing.slip(entry.id):
        message = "This slip is already on the tape."
        raise TapeError(message)
    if entry.supersedes:
        _check_correction(standing, entry)
        return
    if isinstance(entry.body, Withdrawn):
        message = "Taking back needs the slip that is taken back."
        raise TapeError(message)
    if isinstance(entry.body, CallTaken) and standing.now.taken:
        message = "This call was taken already. Correct its first slip on the tape instead."
        raise TapeError(message)
    if isinstance(entry.body, Attached) and entry.body.of and standing.slip(entry.body.of) is None:
        message = "The photograph is said to be of an entry that is not on this call’s tape. Choose it anew."
        raise TapeError(message)
    if standing.moment_at(entry.at).closed and not isinstance(entry.body, AFTERWARDS):
        message = "This call is closed. Take back its outcome on the tape to go on with it."
        raise TapeError(message)


def _check_correction(standing: Standing, entry: Entry) -> None:
    current = standing.slip(entry.supersedes)
    if current is None:
        message = (
            "The slip to correct is not on this call's tape. Open it from the tape and correct it there."
        )
        raise TapeError(message)
    if current.superseded_by or isinstance(current.entry.body, Withdrawn):
        message = "That slip was corrected already. Correct its newest version."
        raise TapeError(message)
    if not isinstance(entry.body, Withdrawn) and type(current.entry.body) is not type(entry.body):
        message = (
            "A slip can be corrected only by one of its own kind: this one is"
            f" “{current.entry.body.kind}”, not “{entry.body.kind}”."
        )
        raise TapeError(message)
    if isinstance(current.entry.body, CallTaken) and isinstance(entry.body, Withdrawn):
        message = "The call itself can't be taken back; correct it instead."
        raise TapeError(message)


def programmed(moment: Moment, body: Programmed) -> None:
    """The part is on the sheet, and something was set to something."""
    sheet = moment.sheet
    sheet.component(body.component)
    known = sheet.setting_named(body.setting)
    if known and known.values and body.value.casefold() not in {each.casefold() for each in known.values}:
        told = f"Setting {known.title} takes {', '.join(known.values)}, not “{body.value}”."
        raise TapeError(told)
    if not body.setting.strip() or not body.value.strip():
        message = "A setting needs its name and what it was set to, such as: defrost interval, 8 h."
        raise TapeError(message)


def awaited(moment: Moment, body: Awaited) -> None:
    """The part is on the sheet."""
    moment.sheet.component(body.component)


def rewired(moment: Moment, body: Rewired) -> None:
    """One plan at a time, and one that fits the sheet; what is put back was changed before."""
    if body.plan is None:
        if moment.plan is None:
            message = "The wiring is as it was built: there is nothing to put back."
            raise TapeError(message)
        return
    if moment.plan is not None:
        message = f"The wiring is changed already: {moment.plan.title}. Put it back first."
        raise TapeError(message)
    if problems := problems_of_data(write_plan(body.plan)):
        raise SheetError(problems)
    changed_by(moment.unchanged, body.plan)


def anything(moment: Moment, body: Body) -> None:
    """Nothing on the slip leads anywhere."""


def reading(moment: Moment, body: ReadingTaken) -> None:
    """Points, sensor, mode and connectors are on the sheet, and the curve has a value there."""
    sheet = moment.sheet
    if body.sensor:
        sheet.sensor(body.sensor)
    if not (body.sensor or (body.red and body.black)):
        message = "A reading needs its two points, or the sensor it is of. Tap both, or choose the sensor."
        raise TapeError(message)
    if body.sensor:
        for point in (body.red, body.black):
            if point and sheet.pin(point) is None:
                message = f"There is no pin “{point}” on this sheet. Type connector and number such as CN3.5."
                raise TapeError(message)
    judge_reading(moment, body)


def code(moment: Moment, body: CodeSeen) -> None:
    """The code is on the sheet."""
    if body.code:
        moment.sheet.code(body.code)


def temperature(moment: Moment, body: TemperatureTaken) -> None:
    """The place is one a thermometer is hung in."""
    thermometer_places(moment.sheet)[body.place]


def observed(moment: Moment, body: Observed) -> None:
    """The look and its answer are in the table."""
    look(body.look).answer(body.answer)


def mode(moment: Moment, body: ModeSet) -> None:
    """The mode is on the sheet."""
    moment.sheet.mode(body.mode)


def watts(moment: Moment, body: WattsTaken) -> None:
    """The mode is one with the plug in, and the figure is a number."""
    _at_plug(moment, body.mode, body.watts, "Watts", "a plug meter. Type watts, such as 5W")


def amps(moment: Moment, body: AmpsTaken) -> None:
    """The mode is one with the plug in, and the figure is a number."""
    _at_plug(moment, body.mode, body.amperes, "Amperes", "a clamp. Type amperes, such as 0.8A")


def _at_plug(moment: Moment, name: str, figure: Quantity, what: str, meter: str) -> None:
    if not moment.sheet.mode(name).live:
        message = f"{what} at the plug are read with the plug in. Choose a mode of that kind."
        raise TapeError(message)
    if figure.value is None:
        message = f"{figure.text} is no figure of {meter}."
        raise TapeError(message)


def hertz(moment: Moment, body: HertzTaken) -> None:
    """The part is on the sheet, has a tachometer's pulses, and the figure is a number."""
    _component(moment.sheet, body.component)
    part = moment.sheet.component(body.component)
    if not part.nominal.rpm or not part.nominal.pulses_per_revolution:
        message = f"The sheet gives no pulses of the {part.name.lower()}: hertz say nothing there."
        raise TapeError(message)
    if body.hertz.value is None:
        message = f"{body.hertz.text} is no figure of a tachometer. Type hertz, such as 80Hz."
        raise TapeError(message)


def complained(moment: Moment, body: Complained) -> None:
    """The complaint is one of this unit's."""
    if body.complaint not in complaints_of(moment.sheet):
        message = f"“{body.complaint}” is no complaint of this unit. Choose one of those shown."
        raise TapeError(message)


def felt(moment: Moment, body: Felt) -> None:
    """The part is on the sheet, and such a thing can be heard or felt of it."""
    _component(moment.sheet, body.component)
    part = moment.sheet.component(body.component)
    if body.what not in feelings_of(part):
        known = ", ".join(feelings_of(part).values())
        message = f"That can’t be said of the {part.name.lower()}. Choose one of: {known}."
        raise TapeError(message)


def barred(moment: Moment, body: Barred) -> None:
    """The act reads as one."""
    try:
        act = json.loads(body.act)
    except ValueError:
        act = None
    if not isinstance(act, dict) or "act" not in act:
        message = "What can’t be done is not told as an act. Use the button beside what is proposed."
        raise TapeError(message)


def part_tried(moment: Moment, body: PartTried) -> None:
    """The part is on the sheet."""
    _component(moment.sheet, body.component)


MAINS_VOLTS = 70.0, 290.0
"""What an outlet can show."""


def mains(moment: Moment, body: MainsTaken) -> None:
    """The volts are of mains."""
    low, high = MAINS_VOLTS
    if body.volts.value is None or not low <= body.volts.value <= high:
        message = f"{body.volts.text} is no mains. Type what the meter shows at the outlet, such as 224V."
        raise TapeError(message)


def tried(moment: Moment, body: Tried) -> None:
    """Points, mode and connectors are on the sheet."""
    sheet, meter = moment.sheet, MeterRange(body.meter)
    mode = body.mode or moment.mode or sheet.resting_mode
    pulled = moment.pulled if body.pulled is None else body.pulled
    settled = circuits_of(sheet).scene(mode, live=meter.live, pulled=tuple(pulled))
    points(sheet, settled.circuit, body.red, body.black, meter)


def bridged(moment: Moment, body: Bridged) -> None:
    """The part is on the sheet."""
    _component(moment.sheet, body.component)


def plug(moment: Moment, body: PlugMoved) -> None:
    """The connector is on the sheet."""
    moment.sheet.connector(body.connector)


def step(moment: Moment, body: StepDone) -> None:
    """The place is on the sheet and its way has that step."""
    place = moment.sheet.place(body.place)
    if not 0 <= body.step < len(place.steps):
        message = (
            f"The way to {place.name.lower()} has {len(place.steps)} steps, and no step {body.step + 1}."
            " Choose one of those shown."
        )
        raise TapeError(message)


def fitted(moment: Moment, body: PartFitted) -> None:
    """The part is on the sheet."""
    _component(moment.sheet, body.component)


def outcome(moment: Moment, body: Outcome) -> None:
    """The part at fault is on the sheet, where one is named."""
    if body.cause:
        _component(moment.sheet, body.cause)


def _component(sheet: Sheet, component: str) -> None:
    if component not in {item.id for item in sheet.components}:
        message = (
            f"There is no part “{component}” on the sheet of the {sheet.title}. Choose one from the list."
        )
        raise TapeError(message)
