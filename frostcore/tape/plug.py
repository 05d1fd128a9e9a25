"""What is asked of an act or a reading that does not go with the plug's state on the tape.

Ohms and covers want the plug out, volts and modes want it in; who puts it in with a place open is told what
is bare there.
"""

from frostcore.circuit.meter import MeterRange
from frostcore.sentence import in_sentence, joined
from frostcore.sheet.model import Place, Sheet
from frostcore.sheet.points import plug_name, plugs_said
from frostcore.tape.entries import Body, ModeSet, PlugMoved, Power, PowerSet, ReadingTaken, StepDone
from frostcore.tape.moment import Moment
from frostcore.verdict import Question

DEAD_VOLTS = 1.0
"""Below this nothing is live, so volts read with the plug out contradict nothing."""

WAS_OUT, WAS_IN = "Yes, it was out", "Yes, it was in"
KEEP_MARKED = "No: keep it, marked"


def plug_questions(moment: Moment, body: Body) -> tuple[Question, ...]:
    """What the plug's state has to be asked about, none where both go together."""
    match body:
        case ReadingTaken() if MeterRange(body.meter).live:
            return _volts(moment.power, body)
        case ReadingTaken():
            return _out(moment.power, "ohms", OHMS_LIVE, OHMS_UNKNOWN)
        case ModeSet(mode=mode, state="entered") if moment.sheet.mode(mode).live:
            return _mode(moment, mode)
        case StepDone(place=place, step=step, state="opened") if bares(moment.sheet.place(place), step):
            return _out(moment.power, "open", OPEN_LIVE, OPEN_UNKNOWN)
        case PlugMoved(connector=connector):
            called = plug_name(moment.sheet, connector)
            return _out(moment.power, "plug", PLUG_LIVE.format(called), PLUG_UNKNOWN.format(called))
        case PowerSet(state="live"):
            return _plugged_in(moment)
    return ()


def bares(place: Place, step: int) -> bool:
    """Whether a step of a way in lays something bare: it undoes a fastener, pulls a plug, or is the last;
    taking out drawers is none."""
    done = place.steps[step]
    return bool(done.fasteners or done.plugs) or step == len(place.steps) - 1


def bare_places(sheet: Sheet, opened: tuple[tuple[str, int], ...]) -> tuple[Place, ...]:
    """The places that stand open, in the sheet's order."""
    return tuple(
        place
        for place in sheet.places
        if any(name == place.id and bares(place, step) for name, step in opened if step < len(place.steps))
    )


def _volts(power: Power, body: ReadingTaken) -> tuple[Question, ...]:
    if power is Power.LIVE or (power is Power.UNPLUGGED and (body.value.value or 0.0) <= DEAD_VOLTS):
        return ()
    said = "UNPLUGGED" if power is Power.UNPLUGGED else "nothing of the plug"
    text = (
        f"The tape says {said}, and you read {body.value.text}. Volts need the plug in; with it out they"
        " mean a charged capacitor or a second supply: keep clear. Was the plug in?"
    )
    return (Question("volts_unplugged", text, "power", "live", yes=WAS_IN, no=KEEP_MARKED),)


def _out(power: Power, kind: str, live: str, unknown: str) -> tuple[Question, ...]:
    """What wants the plug out, where the tape says otherwise or nothing."""
    if power is Power.UNPLUGGED:
        return ()
    name, text = (f"{kind}_live", live) if power is Power.LIVE else (f"{kind}_power_unknown", unknown)
    return (Question(name, text, "power", "unplugged", yes=WAS_OUT, no=KEEP_MARKED),)


def _mode(moment: Moment, mode: str) -> tuple[Question, ...]:
    if moment.power is Power.LIVE:
        return ()
    said = "UNPLUGGED" if moment.power is Power.UNPLUGGED else "nothing of the plug"
    name = moment.sheet.mode(mode).name
    text = f"The tape says {said}, and “{name}” is a state with the plug in. Was it in?"
    return (Question("mode_unplugged", text, "power", "live", yes=WAS_IN, no=KEEP_MARKED),)


def _plugged_in(moment: Moment) -> tuple[Question, ...]:
    """Putting the plug in where it is not, with places open."""
    open_now = bare_places(moment.sheet, moment.opened)
    if moment.power is Power.LIVE or not open_now:
        return ()
    names = joined([in_sentence(place.name) for place in open_now])
    stands = f"{names} {'stands' if len(open_now) == 1 else 'stand'} open"
    out = f" and {plugs_said(moment.sheet, moment.pulled)} {'is' if len(moment.pulled) == 1 else 'are'} out"
    text = (
        f"By the tape {stands}{out if moment.pulled else ''}: what is bare there is at mains. Leads clipped"
        " on first, hands away, nobody else near; close up for anything that is not a reading there."
    )
    return (Question("live_open", text, no="It is in, for a reading there"),)


OHMS_LIVE = (
    "The tape says LIVE, and ohms are measured with the plug out: a live circuit falsifies the reading and"
    " can kill the meter. Was the plug out?"
)
OHMS_UNKNOWN = "The power state is not on the tape yet. Ohms need the plug out. Was it out?"
OPEN_LIVE = (
    "The tape says LIVE, and covers come off with the plug out; the board’s main capacitor keeps its charge"
    " after that. Was the plug out?"
)
OPEN_UNKNOWN = "The power state is not on the tape yet. Covers come off with the plug out. Was it out?"
PLUG_LIVE = (
    "The tape says LIVE, and {} is pulled and put in with the plug out: contacts arc, and boards die of it."
    " Was the plug out?"
)
PLUG_UNKNOWN = "The power state is not on the tape yet. {} is moved with the plug out. Was it out?"
