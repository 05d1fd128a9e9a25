"""What another sheet would make of a call, before it counts."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from frostcore.diagnosis.kinds import FEATURES, Feature, likely, look_for, seen_in
from frostcore.diagnosis.step import name_of, percent
from frostcore.tape.carried import carried
from frostcore.tape.entries import Entry, ReadingTaken, SheetTaken
from frostcore.tape.kinds import words_of
from frostcore.tape.standing import Slip, Standing
from frostline.calls.judging import judgement_for
from frostline.calls.models import Call
from frostline.calls.tapes import replayed
from frostline.sheets.models import Revision


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


@dataclass(frozen=True)
class Answer:
    """A feature of a unit as it was answered: yes, no, or empty; ``read`` where readings say so."""

    feature: Feature
    given: str
    read: bool
    first: bool


@dataclass(frozen=True)
class Narrowed:
    """Which kind it may be: its features as answered, and the kinds, likeliest first."""

    answers: tuple[Answer, ...]
    kinds: tuple[tuple[Revision, str, tuple[Feature, ...]], ...]


def narrowed(standing: Standing, kinds: Sequence[Revision], given: Mapping[str, str]) -> Narrowed:
    """The kinds after what readings and the repairer's eyes say."""
    read = seen_in(standing)
    answers = {name: value == "yes" for name, value in given.items() if value in {"yes", "no"}}
    answers = {feature.id: answers[feature.id] for feature in FEATURES if feature.id in answers} | read
    sheets = [kind.content for kind in kinds]
    best = look_for(sheets, answers)
    return Narrowed(
        tuple(
            Answer(
                feature,
                _yes_or_no(answers.get(feature.id)),
                feature.id in read,
                feature is best,
            )
            for feature in FEATURES
        ),
        tuple(
            (kinds[each.place], percent(each.probability), each.against)
            for each in likely(sheets, answers)
            if each.probability >= LEAST
        ),
    )


def _yes_or_no(answer: bool | None) -> str:
    return "" if answer is None else "yes" if answer else "no"


LEAST = 0.02
"""A kind less likely than this is not shown."""


def _suspects(standing: Standing) -> tuple[str, ...]:
    judgement = judgement_for(standing)
    if judgement is None:
        return ()
    return tuple(f"{name_of(judgement, each)} {percent(each.probability)}" for each in judgement.suspects[:4])


def _line(standing: Standing, slip: Slip) -> str:
    words = words_of(standing, slip)
    return f"{words.title}: {words.figure}"
