"""A job walked to its end: what is known to begin with, then whatever is asked for next, answered as a unit
with that fault would, until something is named."""

from dataclasses import dataclass

import numpy as np

from frostcore.diagnosis.acts import document
from frostcore.diagnosis.evidence import (
    AtPlug,
    Changed,
    Looked,
    Measured,
    Read,
    Said,
    Sensed,
    Shown,
    Turned,
    evidence_of,
)
from frostcore.diagnosis.judge import Judgement, judge
from frostcore.diagnosis.rehearse import Truth, by_bits, truth_of
from frostcore.diagnosis.weigh import weigher_of

MOST_ACTS = 40


@dataclass
class Walk:
    """A job's entries in the vocabulary of evidence, what they come to, and the places that were opened."""

    entries: list
    judgement: Judgement
    asked: int
    minutes: float

    @property
    def units(self):
        """What is named, alone or as a group."""
        named = self.judgement.named
        return (named.unit,) if named else tuple(each.unit for each in self.judgement.group)


class NoChance:
    """In the place of a random generator: the likeliest, the mean, the middle."""

    def random(self):
        return 0.5

    def normal(self, mean, _spread):
        return mean

    def uniform(self, low, high):
        return (low + high) / 2

    def integers(self, _count):
        return 0

    def choice(self, of, p):
        return of[int(np.argmax(p))] if isinstance(of, list) else int(np.argmax(p))


def answerer(sheet, *faults):
    """A unit with these faults that shows what such a unit mostly shows; what comes and goes is not there
    while the meter is on it, unless something is moved."""
    weigher = weigher_of(sheet)
    places = tuple(weigher.known.place[fault] for fault in faults)
    return Truth(weigher, truth_of(sheet), places, NoChance())


def told(sheet, test, answer):
    """A test and what came of it, as an entry."""
    asked = document(sheet, test)
    if isinstance(answer, Shown):
        return {"act": "code", "shown": answer.code}
    if isinstance(answer, Read):
        if asked["act"] == "sensor":
            asked["celsius"] = f"{test.setup.celsius[0][1] if test.setup.celsius else 0.0:.1f}"
        return asked | {"value": answer.value.canonical}
    name, field = OUTCOMES[type(answer)]
    value = getattr(answer, field)
    return asked | {name: f"{value:.1f}" if isinstance(value, float) else value}


OUTCOMES = {
    Looked: ("answer", "answer"),
    Said: ("answer", "complaint"),
    Sensed: ("what", "what"),
    Measured: ("celsius", "celsius"),
    AtPlug: ("watts", "watts"),
    Turned: ("value", "hertz"),
    Changed: ("changes", "changes"),
}


def walk(sheet, unit, entries, most=MOST_ACTS):
    """The job from these entries on; ``unit`` answers what is asked."""
    entries, minutes, asked = list(entries), 0.0, 0
    found = judge(sheet, evidence_of(sheet, entries))
    while asked < most and (proposal := by_bits(found, np.random.default_rng(0))):
        entries.append(told(sheet, proposal.test, unit.answer(proposal.test)))
        asked, minutes = asked + 1, minutes + proposal.minutes
        found = judge(sheet, evidence_of(sheet, entries))
    return Walk(entries, found, asked, minutes)
