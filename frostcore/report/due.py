"""What is due on a call: a recheck, a part that is awaited, a stop-gap to be undone."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum

from frostcore.sentence import in_sentence
from frostcore.tape.entries import Awaited, Outcome, PartFitted
from frostcore.tape.rechecked import RecheckTold
from frostcore.tape.rechecked_words import WHO, asked_of
from frostcore.tape.standing import Standing


class DueKind(StrEnum):
    """What is due."""

    STOP_GAP = "stop_gap"
    RECHECK = "recheck"
    AWAITED = "awaited"


@dataclass(frozen=True)
class Due:
    """Something due on a day, in words."""

    kind: DueKind
    day: date
    text: str


def due_of(standing: Standing) -> tuple[Due, ...]:
    """Everything that is due on a call as its tape stands, the earliest first."""
    return tuple(sorted(_dues(standing), key=lambda due: (due.day, due.kind)))


def _dues(standing: Standing) -> Iterator[Due]:
    plan = standing.now.plan
    if plan and (day := plan.until()):
        yield Due(DueKind.STOP_GAP, day, f"Undo the stop-gap: {in_sentence(plan.title)}")
    slips = standing.effective
    ended = next((slip for slip in reversed(slips) if isinstance(slip.entry.body, Outcome)), None)
    since = slips[slips.index(ended) :] if ended else ()
    told = any(isinstance(slip.entry.body, RecheckTold) for slip in since)
    if (
        ended
        and isinstance(ended.entry.body, Outcome)
        and ended.entry.body.recheck_days is not None
        and not told
    ):
        day = (ended.entry.at + timedelta(days=ended.entry.body.recheck_days)).date()
        yield Due(DueKind.RECHECK, day, "Recheck")
    asked = asked_of(standing)
    if asked:
        yield Due(DueKind.RECHECK, date.fromisoformat(asked[1].day), f"Recheck {WHO[asked[1].by]}")
    fitted: set[str] = set()
    for slip in reversed(slips):
        match slip.entry.body:
            case PartFitted(component=component):
                fitted.add(component)
            case Awaited(component=component, until=until) if component not in fitted:
                name = in_sentence(standing.sheet.part_name(component))
                yield Due(DueKind.AWAITED, date.fromisoformat(until), f"Part looked for: {name}")
