"""The kinds of entries, one row each: everything that has to be said of a kind is said here.

A kind without a row fails the tests; so does one without words, a check, a stage, evidence, or a form where
one is due.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, get_args

from frostcore.tape import (
    benched,
    benched_words,
    checks,
    entries,
    learned,
    learned_words,
    ran,
    ran_words,
    rechecked,
    rechecked_words,
    words,
)
from frostcore.tape.moment import Moment
from frostcore.tape.slip_words import SlipWords
from frostcore.tape.stages import Stage
from frostcore.tape.standing import Slip, Standing
from frostcore.tape.versions import version_of


class Evidence(StrEnum):
    """What an entry is to the judgement."""

    NONE = "none"
    HISTORY = "history"
    SETUP = "setup"
    LOOK = "look"
    TEMPERATURE = "temperature"
    CODE = "code"
    READING = "reading"
    CHECK = "check"
    CHANGE = "change"


@dataclass(frozen=True)
class EntryKind:
    """One kind of entry.

    ``stage`` is where it is made, ``words`` what its slip says, ``check`` raises where it names what is not
    there, ``evidence`` is what it is to the judgement. ``by_hand`` says that people write it on a form;
    others are made by the program (a quick check filed, a sheet moved to, a file kept).
    """

    body: type
    stage: Stage
    words: Callable[[Standing, Slip, Any], SlipWords]
    check: Callable[[Moment, Any], None]
    evidence: Evidence
    by_hand: bool = True

    @property
    def kind(self) -> str:
        """The kind's name on the tape."""
        return str(get_args(self.body.__annotations__["kind"])[0])

    @property
    def version(self) -> int:
        """The version its bodies are written in."""
        return version_of(self.kind)


_ROWS = (
    EntryKind(entries.CallTaken, Stage.CALL, words.call_taken, checks.anything, Evidence.HISTORY),
    EntryKind(entries.PlateRead, Stage.CALL, words.plate_read, checks.anything, Evidence.NONE),
    EntryKind(entries.PowerSet, Stage.LOOK, words.power_set, checks.anything, Evidence.SETUP),
    EntryKind(entries.Observed, Stage.LOOK, words.observed, checks.observed, Evidence.LOOK),
    EntryKind(
        entries.TemperatureTaken,
        Stage.LOOK,
        words.temperature_taken,
        checks.temperature,
        Evidence.TEMPERATURE,
    ),
    EntryKind(entries.CodeSeen, Stage.DECODE, words.code_seen, checks.code, Evidence.CODE),
    EntryKind(entries.StepDone, Stage.OPEN, words.step_done, checks.step, Evidence.SETUP),
    EntryKind(entries.ReadingTaken, Stage.PROBE, words.reading, checks.reading, Evidence.READING),
    EntryKind(entries.WattsTaken, Stage.LOOK, words.watts_taken, checks.watts, Evidence.READING),
    EntryKind(entries.AmpsTaken, Stage.LOOK, words.amps_taken, checks.amps, Evidence.READING),
    EntryKind(entries.HertzTaken, Stage.TRACE, words.hertz_taken, checks.hertz, Evidence.READING),
    EntryKind(entries.Complained, Stage.LOOK, words.complained, checks.complained, Evidence.LOOK),
    EntryKind(entries.Felt, Stage.LOOK, words.felt, checks.felt, Evidence.LOOK),
    EntryKind(entries.Barred, Stage.LOOK, words.barred, checks.barred, Evidence.SETUP),
    EntryKind(entries.MainsTaken, Stage.LOOK, words.mains_taken, checks.mains, Evidence.SETUP),
    EntryKind(entries.Tried, Stage.TRACE, words.tried, checks.tried, Evidence.READING),
    EntryKind(entries.Bridged, Stage.TRACE, words.bridged, checks.bridged, Evidence.READING),
    EntryKind(entries.ModeSet, Stage.TRACE, words.mode_set, checks.mode, Evidence.SETUP),
    EntryKind(entries.PlugMoved, Stage.TRACE, words.plug_moved, checks.plug, Evidence.SETUP),
    EntryKind(entries.PartFitted, Stage.CLOSE, words.part_fitted, checks.fitted, Evidence.CHANGE),
    EntryKind(entries.PartTried, Stage.CLOSE, words.part_tried, checks.part_tried, Evidence.CHANGE),
    EntryKind(entries.Mended, Stage.CLOSE, words.mended, checks.anything, Evidence.CHANGE),
    EntryKind(entries.Programmed, Stage.CLOSE, words.programmed, checks.programmed, Evidence.CHANGE),
    EntryKind(entries.Rewired, Stage.CLOSE, words.rewired, checks.rewired, Evidence.SETUP, by_hand=False),
    EntryKind(entries.Quoted, Stage.CLOSE, words.quoted, checks.anything, Evidence.NONE, by_hand=False),
    EntryKind(
        entries.Experienced,
        Stage.CALL,
        words.experienced,
        checks.anything,
        Evidence.HISTORY,
        by_hand=False,
    ),
    EntryKind(entries.Awaited, Stage.CLOSE, words.awaited, checks.awaited, Evidence.NONE),
    EntryKind(entries.Noted, Stage.CLOSE, words.noted, checks.anything, Evidence.NONE),
    EntryKind(entries.Checked, Stage.PROBE, words.checked, checks.anything, Evidence.CHECK, by_hand=False),
    EntryKind(
        learned.PinsLearned, Stage.TRACE, learned_words.pins_words, learned_words.check_pins, Evidence.NONE
    ),
    EntryKind(
        learned.ValueLearned, Stage.TRACE, learned_words.value_words, learned_words.check_value, Evidence.NONE
    ),
    EntryKind(
        learned.PartLearned, Stage.TRACE, learned_words.part_words, learned_words.check_part, Evidence.NONE
    ),
    EntryKind(
        learned.CodeLearned, Stage.DECODE, learned_words.code_words, learned_words.check_code, Evidence.NONE
    ),
    EntryKind(
        learned.CurveLearned, Stage.PROBE, learned_words.curve_words, learned_words.check_curve, Evidence.NONE
    ),
    EntryKind(
        learned.StatedLearned,
        Stage.TRACE,
        learned_words.stated_words,
        learned_words.check_stated,
        Evidence.NONE,
    ),
    EntryKind(
        benched.BoardOut,
        Stage.PROBE,
        benched_words.out_words,
        benched_words.check_out,
        Evidence.NONE,
        by_hand=False,
    ),
    EntryKind(
        benched.BoardRead,
        Stage.PROBE,
        benched_words.read_words,
        benched_words.check_read,
        Evidence.NONE,
        by_hand=False,
    ),
    EntryKind(
        benched.BoardBack,
        Stage.PROBE,
        benched_words.back_words,
        benched_words.check_back,
        Evidence.LOOK,
        by_hand=False,
    ),
    EntryKind(
        ran.RunLogged, Stage.CLOSE, ran_words.run_words, ran_words.check_run, Evidence.LOOK, by_hand=False
    ),
    EntryKind(
        rechecked.RecheckAsked,
        Stage.CLOSE,
        rechecked_words.asked_words,
        rechecked_words.check_asked,
        Evidence.NONE,
        by_hand=False,
    ),
    EntryKind(
        rechecked.RecheckTold,
        Stage.CLOSE,
        rechecked_words.told_words,
        rechecked_words.check_told,
        Evidence.LOOK,
        by_hand=False,
    ),
    EntryKind(entries.Outcome, Stage.CLOSE, words.outcome, checks.outcome, Evidence.NONE),
    EntryKind(entries.Withdrawn, Stage.CALL, words.withdrawn, checks.anything, Evidence.NONE),
    EntryKind(
        entries.SheetTaken,
        Stage.CALL,
        words.sheet_taken,
        checks.anything,
        Evidence.SETUP,
        by_hand=False,
    ),
    EntryKind(entries.Attached, Stage.CLOSE, words.attached, checks.anything, Evidence.NONE, by_hand=False),
)

KINDS: dict[str, EntryKind] = {row.kind: row for row in _ROWS}
"""Every kind by its name."""


def kind_of(body: Any) -> EntryKind:
    """The row of a body's kind."""
    return KINDS[body.kind]


def stage_of(body: Any) -> Stage:
    """The stage at which an entry is made and corrected."""
    if isinstance(body, entries.ReadingTaken) and body.function:
        return Stage.TRACE
    row = KINDS.get(body.kind)
    return row.stage if row else Stage.CALL


def words_of(standing: Standing, slip: Slip) -> SlipWords:
    """The words of a slip; what this sheet has no names for is said as it stands."""
    body = slip.entry.body
    if isinstance(body, entries.Unreadable):
        return words.unreadable(body)
    try:
        return KINDS[body.kind].words(standing, slip, body)
    except (KeyError, IndexError) as error:
        return words.unknown_here(body, error)
