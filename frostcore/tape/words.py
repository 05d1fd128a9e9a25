"""A slip in words, for the tape on screen and on paper: one function a kind."""

from frostcore import document
from frostcore.circuit.meter import MeterRange
from frostcore.quantity import format_celsius
from frostcore.sentence import day_said
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import leads, plug_name, plugs_said
from frostcore.tape.entries import (
    MENDED,
    PROOFS,
    AmpsTaken,
    Attached,
    Awaited,
    Barred,
    Body,
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
    Noted,
    Observed,
    Outcome,
    PartFitted,
    PartTried,
    PlateRead,
    PlugMoved,
    PowerSet,
    Programmed,
    Quoted,
    ReadingTaken,
    Rewired,
    SheetTaken,
    StepDone,
    TemperatureTaken,
    Tried,
    Unreadable,
    WattsTaken,
    Withdrawn,
)
from frostcore.tape.looks import look
from frostcore.tape.noticed import FEELINGS, complaints_of
from frostcore.tape.reading import JudgedReading, sensor_of
from frostcore.tape.slip_words import SlipWords
from frostcore.tape.standing import Slip, Standing, thermometer_places
from frostcore.verdict import Verdict


def call_taken(standing: Standing, slip: Slip, body: CallTaken) -> SlipWords:
    """The complaint, in the customer's words."""
    return SlipWords("Call", "", detail=f"“{body.complaint}”")


def plate_read(standing: Standing, slip: Slip, body: PlateRead) -> SlipWords:
    """Model and what else was read on the plate."""
    parts = (
        body.serial and f"serial {body.serial}",
        body.mains_volts and f"{body.mains_volts:g} V",
        body.mains_hertz and f"{body.mains_hertz:g} Hz",
        body.refrigerant,
    )
    return SlipWords("Rating plate", body.model, detail=", ".join(part for part in parts if part))


def power_set(standing: Standing, slip: Slip, body: PowerSet) -> SlipWords:
    """The plug's word."""
    return SlipWords("Power", "UNPLUGGED" if body.state == "unplugged" else "LIVE")


def observed(standing: Standing, slip: Slip, body: Observed) -> SlipWords:
    """The look and its answer."""
    answer = look(body.look).answer(body.answer)
    return SlipWords(look(body.look).name, answer.text, detail=body.note, odd=answer.odd)


def temperature_taken(standing: Standing, slip: Slip, body: TemperatureTaken) -> SlipWords:
    """The place and its temperature."""
    name = thermometer_places(slip.moment.sheet)[body.place]
    shown = format_celsius(body.temperature.number)
    return SlipWords(name, shown, body.temperature.typed, "by thermometer")


def code_seen(standing: Standing, slip: Slip, body: CodeSeen) -> SlipWords:
    """What the display showed, and what it means here."""
    code = slip.moment.sheet.code(body.code) if body.code else None
    lamps = f"; lamps lit: {', '.join(body.lamps)}" if body.lamps else ""
    meaning = code.meaning if code else "not on this sheet"
    return SlipWords("Code", body.shown, detail=meaning + lamps, odd=True)


def reading(standing: Standing, slip: Slip, body: ReadingTaken) -> SlipWords:
    """The reading, what it should be, and the setup it was taken in."""
    sheet, judged = slip.moment.sheet, standing.judged_reading(slip)
    sensor = sensor_of(sheet, body)
    of_sensor = bool(sensor and (body.sensor or (judged and judged.by_curve)))
    both = body.red and body.black
    between = leads(sheet, body.red, body.black) if both else body.red or body.black
    title = sheet.sensor_name(sensor) if sensor and of_sensor else between
    setup = (
        between if of_sensor else "",
        _range_words(body.meter, of_sensor=of_sensor),
        _mode_name(sheet, body.mode),
        f"{plugs_said(sheet, body.pulled)} pulled" if body.pulled else "",
    )
    detail = _verdict_words(sheet, judged) if judged else "can’t be judged on this sheet"
    if body.temperature is not None:
        detail = f"at {format_celsius(body.temperature.number)}: {detail}"
    kept = ", kept as typed when asked" if body.kept else ""
    points = ", ".join(part for part in setup if part)
    return SlipWords(title, body.value.text, body.value.typed, detail + kept, points)


def watts_taken(standing: Standing, slip: Slip, body: WattsTaken) -> SlipWords:
    """The watts and the mode."""
    mode = _mode_name(slip.moment.sheet, body.mode)
    return SlipWords("Watts at the plug", body.watts.text, body.watts.typed, mode)


def amps_taken(standing: Standing, slip: Slip, body: AmpsTaken) -> SlipWords:
    """The amperes and the mode."""
    mode = _mode_name(slip.moment.sheet, body.mode)
    return SlipWords("Amperes at the plug", body.amperes.text, body.amperes.typed, mode)


def hertz_taken(standing: Standing, slip: Slip, body: HertzTaken) -> SlipWords:
    """The fan, and what its tachometer gives."""
    name = slip.moment.sheet.component(body.component).name
    return SlipWords(f"{name}, tachometer", body.hertz.text, body.hertz.typed)


def complained(standing: Standing, slip: Slip, body: Complained) -> SlipWords:
    """What the customer notices."""
    return SlipWords("Customer notices", complaints_of(slip.moment.sheet)[body.complaint], odd=True)


def felt(standing: Standing, slip: Slip, body: Felt) -> SlipWords:
    """The part, and what was heard or felt of it."""
    feeling = FEELINGS[body.what]
    name = slip.moment.sheet.component(body.component).name
    return SlipWords(name, feeling.words, odd=not feeling.sound)


def barred(standing: Standing, slip: Slip, body: Barred) -> SlipWords:
    """What can't be done here, and why."""
    return SlipWords("Can’t be done here", "", detail=body.why or "no reason given", points=body.name)


def mains_taken(standing: Standing, slip: Slip, body: MainsTaken) -> SlipWords:
    """The volts at the outlet."""
    return SlipWords("Mains at the outlet", body.volts.text, body.volts.typed)


TRIED = {"move": "Harness moved", "warm": "Warmed", "chill": "Chilled"}


def tried(standing: Standing, slip: Slip, body: Tried) -> SlipWords:
    """What was tried, and whether the figure changed."""
    sheet = slip.moment.sheet
    between, mode = leads(sheet, body.red, body.black), _mode_name(sheet, body.mode)
    setup = (between, MeterRange(body.meter).label, mode)
    changes = "it changes" if body.changes == "yes" else "it stays"
    points = ", ".join(part for part in setup if part)
    return SlipWords(TRIED[body.how], changes, points=points, odd=body.changes == "yes")


def bridged(standing: Standing, slip: Slip, body: Bridged) -> SlipWords:
    """The load, and whether it ran."""
    name = slip.moment.sheet.component(body.component).name
    return SlipWords(f"{name}, bridged", "it runs" if body.runs == "yes" else "it does not run")


def _range_words(meter: str, *, of_sensor: bool) -> str:
    if not of_sensor:
        return MeterRange(meter).label
    return "" if meter == "ohm" else f"{MeterRange(meter).label} at the board"


def _verdict_words(sheet: Sheet, judged: JudgedReading) -> str:
    if judged.expected is None:
        return judged.verdict.label if judged.by_curve else "can’t judge without its temperature"
    usual = sheet.usual(judged.reading.function.partition(".")[0])
    return f"{judged.called}; should be {judged.expected.text}{f', {usual}' if usual else ''}"


def _mode_name(sheet: Sheet, mode: str) -> str:
    return sheet.mode(mode).name.lower() if mode else ""


def mode_set(standing: Standing, slip: Slip, body: ModeSet) -> SlipWords:
    """The mode, entered or left."""
    title = "Mode entered" if body.state == "entered" else "Mode left"
    return SlipWords(title, slip.moment.sheet.mode(body.mode).name)


def plug_moved(standing: Standing, slip: Slip, body: PlugMoved) -> SlipWords:
    """The connector, pulled or put back."""
    title = "Plug pulled" if body.state == "pulled" else "Plug put back"
    sheet = slip.moment.sheet
    called = plug_name(sheet, body.connector).removeprefix("the ")
    name = sheet.connector(body.connector).name
    return SlipWords(title, called, detail="" if called.casefold() == name.casefold() else name)


def step_done(standing: Standing, slip: Slip, body: StepDone) -> SlipWords:
    """The step, and the fasteners counted."""
    place = slip.moment.sheet.place(body.place)
    step = place.steps[body.step]
    counted = step.fasteners if body.counted is None else body.counted
    count = f"{counted} × {step.fastener}" if counted else ""
    title = "Opened" if body.state == "opened" else "Closed again"
    return SlipWords(title, place.name, detail=step.do, points=count)


def part_fitted(standing: Standing, slip: Slip, body: PartFitted) -> SlipWords:
    """The part."""
    said = "; ".join(part for part in (body.note, HELPED.get(body.helped, "")) if part)
    return SlipWords("Part fitted", slip.moment.sheet.component(body.component).name, detail=said)


HELPED = {"yes": "it helped", "no": "it did not help", "for_a_while": "it helped for a while"}


def part_tried(standing: Standing, slip: Slip, body: PartTried) -> SlipWords:
    """The part, and what it changed while it was in."""
    name = slip.moment.sheet.component(body.component).name
    said = "; ".join(part for part in (body.note, HELPED[body.helped]) if part)
    return SlipWords("Tried, and out again", name, detail=said)


def mended(standing: Standing, slip: Slip, body: Mended) -> SlipWords:
    """What was mended or put right."""
    said = "; ".join(part for part in (body.done, HELPED.get(body.helped, "")) if part)
    return SlipWords(dict(MENDED).get(body.how, "mended").capitalize(), body.name, detail=said)


def programmed(standing: Standing, slip: Slip, body: Programmed) -> SlipWords:
    """The setting, what it was, and what shows that it was taken."""
    part = slip.moment.sheet.component(body.component).name
    was = f"before: {body.was}" if body.was else ""
    shown = f"shown by: {body.shown_by}" if body.shown_by else ""
    said = "; ".join(each for each in (part, was, shown) if each)
    return SlipWords(f"Set: {body.setting}", body.value, detail=said)


QUOTE_STATES = {"open": "awaiting an answer", "accepted": "accepted", "refused": "refused"}


def quoted(standing: Standing, slip: Slip, body: Quoted) -> SlipWords:
    """What was offered, and the answer."""
    if body.chosen is not None:
        chosen = body.options[body.chosen]
        return SlipWords("Quote accepted", chosen.title, detail=f"{chosen.price:,.0f}")
    offered = "; ".join(f"{each.title}: {each.price:,.0f}" for each in body.options)
    return SlipWords("Quote", QUOTE_STATES[body.state], detail=offered)


def experienced(standing: Standing, slip: Slip, body: Experienced) -> SlipWords:
    """How many calls, and of what."""
    calls = sum(count for _, count in body.counts)
    said = ", ".join(f"{kind.replace('_', ' ')} {count}" for kind, count in body.counts)
    return SlipWords("Our closed calls", f"{calls}", detail=f"causes on such units: {said}")


def awaited(standing: Standing, slip: Slip, body: Awaited) -> SlipWords:
    """The part, and the day it is looked for."""
    name = slip.moment.sheet.component(body.component).name
    return SlipWords("Part ordered", name, detail=body.note, points=f"looked for on {day_said(body.until)}")


def rewired(standing: Standing, slip: Slip, body: Rewired) -> SlipWords:
    """The plan, its school, until when, and who agreed."""
    if body.plan is None:
        was = slip.moment.plan.title if slip.moment.plan else ""
        return SlipWords("Wiring put back as it was built", "", detail=f"undone: {was}" if was else "")
    until = f"a stop-gap until {day_said(body.plan.stop_gap_until)}" if body.plan.stop_gap_until else ""
    agreed = f"agreed to by {body.agreed_by}" if body.agreed_by else ""
    said = "; ".join(each for each in (body.plan.school, until, agreed) if each)
    return SlipWords("Wiring changed", body.plan.title, detail=said)


def noted(standing: Standing, slip: Slip, body: Noted) -> SlipWords:
    """The note."""
    return SlipWords("Note", "", detail=body.text)


def checked(standing: Standing, slip: Slip, body: Checked) -> SlipWords:
    """The quick check and its result."""
    odd = body.verdict not in {"", Verdict.IN_BAND, Verdict.UNCLEAR}
    return SlipWords(f"Quick check: {body.check}", body.figure, detail=body.detail, odd=odd)


def outcome(standing: Standing, slip: Slip, body: Outcome) -> SlipWords:
    """How the call ended, and what proves it."""
    proofs = ", ".join(text for identifier, text in PROOFS if identifier in body.proofs)
    parts = (body.done, f"Proof: {proofs}." if proofs else "")
    return SlipWords("Outcome", body.result.label, detail=" ".join(part for part in parts if part))


def withdrawn(standing: Standing, slip: Slip, body: Withdrawn) -> SlipWords:
    """Why something was taken back."""
    return SlipWords("Taken back", "", detail=body.why)


def sheet_taken(standing: Standing, slip: Slip, body: SheetTaken) -> SlipWords:
    """The sheet the call goes on with."""
    return SlipWords("Another sheet", f"{body.sheet} r{body.revision}", detail="from here on")


def attached(standing: Standing, slip: Slip, body: Attached) -> SlipWords:
    """The file kept."""
    size = f"{max(1, round(body.size / 1000))} kB"
    return SlipWords("File", body.name, detail=body.caption, points=f"{body.media_type}, {size}")


def unreadable(body: Unreadable) -> SlipWords:
    """What this version can't read, as it was stored."""
    detail = f"This version can’t read it; it counts for nothing. {body.why}"
    return SlipWords(f"Unreadable: {body.kind}", "", detail=detail, raw=body.text)


def unknown_here(body: Body, error: Exception) -> SlipWords:
    """A slip that names what its sheet, as read by this version, has not."""
    text = document.canonical(document.write(body))
    return SlipWords(f"Not on this sheet: {error}", "", detail="Kept as it stands.", raw=text)
