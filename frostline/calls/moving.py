"""What another sheet would make of a call, before it counts."""

from dataclasses import dataclass

from frostcore.diagnosis.step import name_of, percent
from frostcore.tape.carried import carried
from frostcore.tape.entries import Entry, ReadingTaken, SheetTaken
from frostcore.tape.kinds import words_of
from frostcore.tape.standing import Slip, Standing
from frostline.calls.judging import judgement_for
from frostline.calls.models import Call
from frostline.calls.tapes import replayed


@dataclass(frozen=True)
class TriedWith:
    """The suspects as they stand and as they would; readings that move along, and those that stay behind."""

    now: tuple[str, ...]
    then: tuple[str, ...]
    along: tuple[str, ...]
    behind: tuple[str, ...]
    working: bool


def tried_with(call: Call, standing: Standing, body: SheetTaken) -> TriedWith:
    """What a call comes to on another sheet; ``working`` while that is still being worked out."""
    last = standing.tape[-1]
    then = replayed(call, (*standing.tape, Entry("tried", last.at, last.by, body)))
    sheet = then.sheet
    readings = [slip for slip in standing.effective if isinstance(slip.entry.body, ReadingTaken)]
    moving = [slip for slip in readings if carried(slip.entry.body, slip.moment.sheet, sheet) is not None]
    judged = judgement_for(then)
    return TriedWith(
        _suspects(standing),
        _suspects(then),
        tuple(_line(standing, slip) for slip in moving),
        tuple(_line(standing, slip) for slip in readings if slip not in moving),
        judged is None,
    )


def _suspects(standing: Standing) -> tuple[str, ...]:
    judgement = judgement_for(standing)
    if judgement is None:
        return ()
    return tuple(f"{name_of(judgement, each)} {percent(each.probability)}" for each in judgement.suspects[:4])


def _line(standing: Standing, slip: Slip) -> str:
    words = words_of(standing, slip)
    return f"{words.title}: {words.figure}"
