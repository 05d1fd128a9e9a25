"""What to do now on a call, with what each way it may come out would mean, and what could be done instead."""

import json
from dataclasses import dataclass

from frostcore.circuit.kept import circuits_of
from frostcore.diagnosis.acts import document, instruction, unit_name
from frostcore.diagnosis.evidence import (
    AtPlug,
    Changed,
    Evidence,
    EvidenceError,
    Looked,
    Measured,
    Read,
    Said,
    Sensed,
    Turned,
    evidence_of,
)
from frostcore.diagnosis.from_tape import judgement_of
from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.planner import Outcome, Proposal
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.state import State, has_look, place_of_look
from frostcore.diagnosis.step import NextStep, name_of, next_step, percent, proposed
from frostcore.quantity import Dimension, Quantity
from frostcore.tape.looks import LOOKS
from frostcore.tape.looks import look as look_named
from frostcore.tape.noticed import BY_HAND, FEELINGS, complaints_of
from frostcore.tape.standing import Standing
from frostcore.verdict import Verdict

OTHERS = 2
"""So many tests are told beside the one that is worth most."""

LEAVES = 2
"""So many suspects are told of what an outcome would leave."""


@dataclass(frozen=True)
class Branch:
    """One way an act may come out: in words; the answer it is on the tape, empty where a figure is typed;
    how it stands to what a sound unit shows, None where nothing can be said; what it would leave, likeliest
    first, each with its probability in words; whether it is likely at all."""

    text: str
    answer: str
    mark: Verdict | None
    leaves: tuple[tuple[str, str], ...]
    likely: bool = True
    number: int = -1
    """Its place among the outcomes of the test."""


@dataclass(frozen=True)
class Other:
    """Something that could be done instead: the act, its minutes, what it would tell, and the act in the
    vocabulary of evidence."""

    act: str
    minutes: float
    tells: str
    asks: str


@dataclass(frozen=True)
class Now:
    """The one act, the test it is (None where it is none of the planner's), its branches, and the others."""

    step: NextStep
    test: Test | None = None
    branches: tuple[Branch, ...] = ()
    others: tuple[Other, ...] = ()


def now_of(standing: Standing, instead: str = "") -> Now:
    """What to do now; ``instead`` is another test that was chosen, in the vocabulary of evidence."""
    step = next_step(standing)
    if not step.asks or not circuits_of(standing.sheet).functions:
        return Now(step)
    judgement = judgement_of(standing)
    first = judgement.next
    chosen = _chosen(judgement, instead) or first
    if chosen is None or first is None:
        return Now(step)
    if chosen != first:
        step = proposed(judgement, chosen)
    known = [first, *judgement.proposals]
    others = [each for each in dict.fromkeys(known) if each.test != chosen.test][:OTHERS]
    return Now(
        step, chosen.test, branches_of(judgement, chosen), tuple(_other(judgement, each) for each in others)
    )


def _chosen(judgement: Judgement, instead: str) -> Proposal | None:
    """The test that was chosen instead; None where that is none, or none that can be asked for here."""
    if not instead:
        return None
    try:
        blank = evidence_of(judgement.sheet, [{"act": "cannot", "of": json.loads(instead), "why": ""}])
    except (ValueError, EvidenceError):
        return None
    of = getattr(blank[0], "of", None)
    wanted = document(judgement.sheet, of.probe if isinstance(of, Read) else of) if of else None
    for each in judgement.proposals:
        if document(judgement.sheet, each.test) == wanted:
            return each
    return None


def _other(judgement: Judgement, proposal: Proposal) -> Other:
    words = instruction(judgement.sheet, judgement.state, proposal.test)
    best = judgement.outcomes(proposal)[:1]
    tells = "".join(f"{each.text}: {_told(judgement, each, 1)}" for each in best if each.leaves)
    asks = json.dumps(document(judgement.sheet, proposal.test), ensure_ascii=False)
    return Other(words.act, proposal.minutes, tells, asks)


def _told(judgement: Judgement, outcome: Outcome, most: int) -> str:
    return ", ".join(f"{name} {chance}" for name, chance in _leaves(judgement, outcome)[:most])


def _leaves(judgement: Judgement, outcome: Outcome) -> tuple[tuple[str, str], ...]:
    """What an outcome would leave: names, and their probability in words."""
    known, now = judgement.weigher.known, judgement.posterior.now
    found = []
    for unit, chance in outcome.leaves[:LEAVES]:
        best = max(known.of_unit(unit), key=lambda place: now[place])
        found.append((unit_name(judgement.sheet, unit, [known.all[int(best)].name]), percent(chance)))
    return tuple(found)


def branches_of(judgement: Judgement, proposal: Proposal) -> tuple[Branch, ...]:
    """Each way a test may come out, in the order they are told: a figure's from low to high, an answer's as
    it is asked."""
    test, outcomes = proposal.test, judgement.outcomes(proposal)
    answers = _answers(judgement, test)
    if answers:
        return tuple(_answered(judgement, outcomes, text, answer) for text, answer in answers)
    sound, rising = judgement.planner.sound_outcome(test), not isinstance(test, Measured | Turned)
    return tuple(
        Branch(
            outcome.text,
            "",
            _mark(outcome, sound, rising=rising),
            _leaves(judgement, outcome),
            number=outcome.number,
        )
        for outcome in sorted(outcomes, key=lambda each: each.number)
    )


@dataclass(frozen=True)
class TakenBranch:
    """The branch that a typed figure takes, and what that very figure would leave, likeliest first."""

    number: int
    leaves: tuple[tuple[str, str], ...]


def taken_branch(standing: Standing, typed: Quantity, instead: str = "") -> TakenBranch | None:
    """Which branch of what is to do now a typed figure takes; None where it takes none."""
    test = now_of(standing, instead).test
    if test is None:
        return None
    judgement = judgement_of(standing)
    seen = _seen(test, typed)
    number = judgement.planner.outcome_of(test, seen, judgement.posterior) if seen else None
    if seen is None or number is None:
        return None
    after = Judgement(judgement.weigher, [*judgement.evidence, seen], sheet=judgement.sheet)
    left = tuple((name_of(after, each), percent(each.probability)) for each in after.suspects[:LEAVES])
    return TakenBranch(number, left)


def _seen(test: Test, typed: Quantity) -> Evidence | None:
    """What a figure typed for a test would say."""
    match test:
        case Probe():
            return Read(test, typed)
        case Measured(place=place) if typed.value is not None:
            return Measured(place, typed.value)
        case AtPlug(mode=mode) if typed.value is not None:
            return AtPlug(mode, typed.value)
        case Turned(fan=fan) if typed.value is not None:
            return Turned(fan, typed.value)
    return None


def dimension_of(test: Test | None) -> Dimension | None:
    """What kind of figure a test gives; None where it is none that is typed."""
    match test:
        case Probe():
            return test.setup.meter.dimension
        case Measured():
            return Dimension.TEMPERATURE
        case AtPlug():
            return Dimension.POWER
        case Turned():
            return Dimension.FREQUENCY
    return None


def _mark(outcome: Outcome, sound: int, *, rising: bool) -> Verdict:
    """How an outcome stands to a sound unit's; temperatures and hertz are told from high to low."""
    if outcome.number == sound:
        return Verdict.IN_BAND
    if outcome.text == "OL":
        return Verdict.OPEN
    if outcome.text == "a dead short":
        return Verdict.SHORT
    return Verdict.LOW if (outcome.number < sound) is rising else Verdict.HIGH


def _answered(judgement: Judgement, outcomes: tuple[Outcome, ...], text: str, answer: str) -> Branch:
    """An answer that is tapped; a display's code by the likeliest one."""
    mine = next((each for each in outcomes if each.text == text), None)
    if mine is None and answer == CODE:
        mine = next((each for each in outcomes if each.text.startswith(SHOWS)), None)
        text = f"{text}, such as {mine.text.removeprefix(SHOWS)}" if mine else text
    return Branch(text, answer, None, _leaves(judgement, mine) if mine else (), likely=mine is not None)


CODE, SHOWS = "code", "shows "


def _answers(judgement: Judgement, test: Test) -> list[tuple[str, str]]:
    """The answers that are tapped, in words and by id; none where a figure is typed."""
    match test:
        case Looked(look=look):
            return [(each.text, each.id) for each in look_named(look).answers]
        case Said():
            return [(words, name) for name, words in complaints_of(judgement.sheet).items()]
        case Sensed():
            return [(FEELINGS[what].words, what) for what in BY_HAND]
        case Changed():
            return [("it changes", "yes"), ("it stays", "no")]
    return []


def looks_in_order(standing: Standing) -> tuple[str, ...]:
    """The looks that this unit has and can show, by what they would tell for their minutes before any of them
    is made (so that none moves under a finger while the others are); those behind something that must be
    opened first come last."""
    sheet = standing.sheet
    here = [item.id for item in LOOKS if has_look(sheet, item.id)]
    if not circuits_of(sheet).functions:
        return tuple(here)
    known = judgement_of(standing)
    before = Judgement(
        known.weigher, [item for item in known.evidence if not isinstance(item, Looked)], sheet=known.sheet
    )
    tests: list[Test] = [Looked(name, "") for name in here]
    rates = before.planner.rates_of(tests, before.posterior, State())
    order = sorted(range(len(here)), key=lambda at: (bool(place_of_look(sheet, here[at])), -rates[at]))
    return tuple(here[at] for at in order)
