"""What is asked of an entry that arrives after another about the same thing was made: two people, or two
devices, one of them without a connection."""

from frostcore.tape.entries import (
    Entry,
    ModeSet,
    Observed,
    PlugMoved,
    PowerSet,
    ReadingTaken,
    StepDone,
    TemperatureTaken,
    WattsTaken,
)
from frostcore.tape.kinds import words_of
from frostcore.tape.standing import Slip, Standing
from frostcore.verdict import Question

NOW, THEN = "It is so now", "It was so then: keep it before that"


def meanwhile_questions(standing: Standing, offered: Entry) -> tuple[Question, ...]:
    """Asks where a later entry about the same thing says something else; the tape's order is by when entries
    were made, so that the later one would count."""
    about = subject(offered.body)
    if about is None:
        return ()
    later = [
        slip
        for slip in standing.effective
        if slip.entry.at > offered.at and subject(slip.entry.body) == about
    ]
    if not later or _says_the_same(later[-1].entry.body, offered.body):
        return ()
    after = later[-1].entry
    minutes = (after.at - offered.at).total_seconds() / 60
    text = (
        f"{after.by} has recorded “{_told(standing, later[-1])}” since, {_long(minutes)} after this was made;"
        " by the order of time that counts. Which is so now?"
    )
    return (Question("meanwhile", text, "made_at", "", yes=NOW, no=THEN),)


def subject(body: object) -> tuple[str, ...] | None:  # noqa: PLR0911 -- one answer for each kind of entry
    """What an entry has one answer about at a time; None for those that stand beside each other."""
    match body:
        case Observed(look=look):
            return "look", look
        case PowerSet():
            return ("plug",)
        case ModeSet():
            return ("mode",)
        case PlugMoved(connector=connector):
            return "connector", connector
        case StepDone(place=place, step=step):
            return "step", place, str(step)
        case TemperatureTaken(place=place):
            return "temperature", place
        case WattsTaken(mode=mode):
            return "watts", mode
        case ReadingTaken(red=red, black=black, meter=meter, mode=mode) if red:
            return "reading", red, black, meter, mode
    return None


def _says_the_same(one: object, other: object) -> bool:
    match one, other:
        case Observed(answer=was), Observed(answer=now):
            return was == now
        case ReadingTaken(value=was), ReadingTaken(value=now):
            return was == now
    return one == other


def _long(minutes: float) -> str:
    return "less than a minute" if minutes < 1 else f"{minutes:.0f} min"


def _told(standing: Standing, slip: Slip) -> str:
    words = words_of(standing, slip)
    return f"{words.title}: {words.figure}" if words.figure else words.title
