"""What is asked before a call is closed: what is still open, what proves the repair, what was never done."""

from collections.abc import Callable, Iterator, Sequence

from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.step import name_of
from frostcore.remedy.wayin import closing, left_over
from frostcore.sentence import in_sentence, joined
from frostcore.sheet.code_rules import defrost_modes
from frostcore.sheet.model import Sheet
from frostcore.tape.entries import (
    PROOFS,
    Body,
    Mended,
    Observed,
    Outcome,
    PartFitted,
    PartTried,
    Power,
    Programmed,
    ReadingTaken,
    Result,
    Rewired,
    TemperatureTaken,
    Unreadable,
    WattsTaken,
)
from frostcore.tape.ran import RunLogged
from frostcore.tape.ran_words import runs_as_read
from frostcore.tape.standing import ROOM, Standing
from frostcore.thermal.verdicts import against
from frostcore.verdict import Question

ANYWAY = "Close it all the same"
DONE = {Result.REPAIRED, Result.WORKED_AROUND}
"""Ends in which something was done to the unit."""

CHANGES = (PartFitted, Mended, Programmed, Rewired)
"""What was done to the unit: only what is read after it proves anything."""

MOST_NAMED = 3

SHOWN_BY: dict[str, Callable[[Sheet, Body | Unreadable], bool]] = {
    "cycled_off": lambda sheet, body: (
        (isinstance(body, TemperatureTaken) and body.place != ROOM)
        or (isinstance(body, RunLogged) and body.found.get("cuts_out") == "yes" and not against(body.found))
    ),
    "code_away": lambda sheet, body: (
        isinstance(body, Observed) and body.look == "display" and body.answer == "normal"
    ),
    "defrost_ended": lambda sheet, body: (
        (isinstance(body, ReadingTaken | WattsTaken) and body.mode in defrost_modes(sheet))
        or (isinstance(body, RunLogged) and body.found.get("defrost_endless") == "no")
    ),
    "off_draw": lambda sheet, body: isinstance(body, WattsTaken),
}
"""Which entries bear out a proof that is ticked: a tick by itself is none, a code seen is the contrary."""


def questions_of_ending(
    standing: Standing, body: Outcome, judgement: Judgement | None
) -> tuple[Question, ...]:
    """What to ask before an end is on the tape, in one question; none where all adds up."""
    lines = [
        *_open(standing),
        *(_work(standing, body) if body.result in DONE else ()),
        *(_again(standing, body) if body.result in DONE else ()),
        *(_unspoken(standing, body, judgement) if judgement and body.result is Result.REPAIRED else ()),
    ]
    return (Question("left_open", " ".join(lines), no=ANYWAY),) if lines else ()


def _open(standing: Standing) -> Iterator[str]:
    """Places, plugs and fasteners."""
    steps = closing(standing.sheet, standing.bodies)
    if steps:
        names = [f"“{in_sentence(line.text)}”" for line in steps[:MOST_NAMED]]
        more = f" and {len(steps) - MOST_NAMED} more" if len(steps) > MOST_NAMED else ""
        yield f"Not put back yet: {joined(names) if not more else ', '.join(names)}{more}."
        if standing.power is Power.LIVE:
            yield "And the plug is in: LIVE, with the unit open."
    for line in left_over(standing.sheet, standing.bodies):
        yield f"{line}."


def _work(standing: Standing, body: Outcome) -> Iterator[str]:
    """That something was done, and what was read since."""
    bodies = [slip.entry.body for slip in runs_as_read(standing.effective)]
    last = max((at for at, each in enumerate(bodies) if isinstance(each, CHANGES)), default=None)
    if last is None:
        yield "Nothing is on the tape as fitted, mended or put right."
        return
    since = bodies[last + 1 :]
    yield from _run_against(since)
    shown = {name for name, shows in SHOWN_BY.items() if any(shows(standing.sheet, each) for each in since)}
    bare = [words for name, words in PROOFS if name in body.proofs and name not in shown]
    if bare:
        told = joined([f"“{words}”" for words in bare])
        yield f"Ticked, and nothing on the tape shows it since the work: {told}."
    elif not shown and not any(isinstance(each, RunLogged) for each in since):
        yield "Nothing was read since the work: no temperature, no display, no watts. Cold alone is no proof."


def _run_against(since: Sequence[Body | Unreadable]) -> Iterator[str]:
    """That the newest run since the work is not as it should be."""
    run = next((each for each in reversed(since) if isinstance(each, RunLogged)), None)
    if run and against(run.found):
        yield f"The run “{run.name}” is against it: {joined(against(run.found))}."


def _again(standing: Standing, body: Outcome) -> Iterator[str]:
    """A cause that was replaced before, without help."""
    tried = [each.component for each in standing.all_of(PartTried) if each.helped == "no"]
    tried += [each.component for each in standing.all_of(PartFitted) if each.helped == "no"]
    call = standing.call
    if call and call.replacement_helped == "no":
        told = call.replaced_before.casefold()
        tried += [part.id for part in standing.sheet.components if part.name.casefold() in told]
    if body.cause and body.cause in tried:
        name = in_sentence(standing.sheet.part_name(body.cause))
        yield f"A new {name} did not help before: what says that it was the cause now?"


def _unspoken(standing: Standing, body: Outcome, judgement: Judgement) -> Iterator[str]:
    """A cause that is said, and that nothing on the tape speaks for."""
    suspects = judgement.as_it_came.suspects
    mine = [each for each in suspects if body.cause and each.component == body.cause]
    if body.cause and suspects and not mine:
        name = in_sentence(standing.sheet.part_name(body.cause))
        first = in_sentence(name_of(judgement, suspects[0]))
        yield f"What was read does not speak for the {name}; it speaks for: {first}."
