"""Taking an entry: what goes on the tape for it, or what has to be asked first.

This is the only way onto a tape; pages, quick checks, imports and the door all take it.
"""

from collections.abc import Collection
from dataclasses import dataclass, replace
from datetime import datetime

from frostcore.circuit.element import CircuitError
from frostcore.display.seen import match_seen
from frostcore.errors import CurveError, SheetError, TapeError
from frostcore.tape.checks import check_place_on_tape
from frostcore.tape.entries import Body, CodeSeen, Entry, PlugMoved, Power, PowerSet, ReadingTaken
from frostcore.tape.kinds import kind_of
from frostcore.tape.meanwhile import meanwhile_questions
from frostcore.tape.moment import Moment
from frostcore.tape.plug import plug_questions
from frostcore.tape.reading import judge_reading
from frostcore.tape.standing import Standing
from frostcore.verdict import Question

NOT_ON_SHEET = "-"
"""The answer that what was seen is none of the sheet's codes."""


@dataclass(frozen=True)
class Answers:
    """What was answered to questions: those kept «as typed» by id, the power state, the code picked."""

    kept: tuple[str, ...] = ()
    power: str = ""
    code: str = ""


NOTHING_ANSWERED = Answers()


@dataclass(frozen=True)
class Taken:
    """The bodies to record, in order; the last is the entry itself."""

    bodies: tuple[Body, ...]


@dataclass(frozen=True)
class Asked:
    """What has to be asked before the entry is kept; ``which_code`` where a code must be picked."""

    questions: tuple[Question, ...] = ()
    which_code: bool = False


@dataclass(frozen=True)
class Offered:
    """An entry as it is offered: its slip's id, when it was made and by whom, and what it corrects."""

    id: str
    at: datetime
    by: str
    body: Body
    supersedes: str = ""


def take(standing: Standing, offered: Offered, answers: Answers = NOTHING_ANSWERED) -> Taken | Asked:
    """What an entry puts on the tape, or what it must be asked first.

    Raises TapeError, worded for the repairer, when it can't be taken whatever is answered.
    """
    corrects = standing.slip(offered.supersedes) if offered.supersedes else None
    entry = Entry(offered.id, offered.at, offered.by, offered.body, offered.supersedes)
    check_place_on_tape(standing, entry)
    moment = corrects.moment if corrects else standing.moment_at(offered.at)
    first: tuple[Body, ...] = ()
    if answers.power and not corrects:
        first = (PowerSet("power_set", "live" if answers.power == Power.LIVE else "unplugged"),)
    if answers.power:
        moment = replace(moment, power=Power(answers.power))
    body = offered.body
    if isinstance(body, CodeSeen):
        found = _code(moment, body, answers.code)
        if found is None:
            return Asked(which_code=True)
        body = found
    if isinstance(body, ReadingTaken):
        body = replace(body, kept=tuple(dict.fromkeys((*body.kept, *answers.kept))))
    _check(moment, body)
    questions: tuple[Question, ...] = ()
    if not corrects or isinstance(body, ReadingTaken):
        questions = questions_about(moment, body, answers.kept)
    if not corrects:
        late = meanwhile_questions(standing, replace(entry, body=body))
        questions += tuple(each for each in late if question_id(each) not in answers.kept)
    if questions:
        return Asked(questions)
    if isinstance(body, ReadingTaken) and not corrects:
        first += plugs_moved(moment, body)
    return Taken((*first, body))


def _check(moment: Moment, body: Body) -> None:
    """Raise TapeError where an entry names what is not there."""
    try:
        kind_of(body).check(moment, body)
    except KeyError as error:
        message = f"There is no {error} for the {moment.sheet.title}. Choose one of those shown."
        raise TapeError(message) from None
    except (CurveError, CircuitError, SheetError) as error:
        raise TapeError(str(error)) from None


def _code(moment: Moment, body: CodeSeen, picked: str) -> CodeSeen | None:
    """The body with its code: the one picked, else the only one that shows just this; None to ask which."""
    if picked or body.code:
        code = picked or body.code
        return replace(body, code="" if code == NOT_ON_SHEET else code)
    exact = [
        match
        for match in match_seen([moment.sheet], body.shown, body.frames, body.taps).matches
        if match.exact
    ]
    return replace(body, code=exact[0].code.id) if len(exact) == 1 else None


def plugs_moved(moment: Moment, body: ReadingTaken) -> tuple[PlugMoved, ...]:
    """The plugs whose state a reading was told with, where the tape has them otherwise."""
    if body.pulled is None:
        return ()
    return (
        *(PlugMoved("plug_moved", name, "plugged") for name in moment.pulled if name not in body.pulled),
        *(PlugMoved("plug_moved", name, "pulled") for name in body.pulled if name not in moment.pulled),
    )


def questions_about(moment: Moment, body: Body, kept: Collection[str] = ()) -> tuple[Question, ...]:
    """What to ask before a body goes on the tape: a contradiction with the plug's state, a unit slip, a
    connector that seems to stand otherwise.

    Questions already answered with «as typed» (a reading's own ``kept``, or ``kept``) are not asked again.
    """
    questions = plug_questions(moment, body)
    if isinstance(body, ReadingTaken):
        questions += judge_reading(moment, body).questions
        kept = {*kept, *body.kept}
    return tuple(question for question in questions if question_id(question) not in kept)


def question_id(question: Question) -> str:
    """A stable name for one question, to remember that it was answered."""
    return f"{question.kind}:{question.field}" if question.field else question.kind
