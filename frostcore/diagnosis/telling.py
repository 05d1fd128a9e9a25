"""What is told of a judgement beside its suspects: what would settle one, why no test parts the last, what
each entry has done."""

from dataclasses import dataclass

from frostcore.diagnosis.acts import instruction
from frostcore.diagnosis.judge import GROUP, PARTS_BITS, Judgement, Suspect
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.planner import made, put_off
from frostcore.diagnosis.step import name_of, percent
from frostcore.sentence import in_sentence, joined

TRIED = 40
"""So many of the tests worth most are looked through for the one that would settle a suspect."""

SETTLES = 0.1
"""A test that would make a suspect so much likelier is worth being told of."""

LEAST_BITS = 0.15
"""An entry that moves a suspect by less has not moved it."""

STRONG_BITS = 3.0
"""From here on it speaks strongly: eight to one."""

LOOKED_AT = 3
"""An entry is told of by what it did to one of the first suspects."""


@dataclass(frozen=True)
class Settling:
    """The test that would make a suspect likeliest, the outcome in words, and how likely it would then be."""

    act: str
    outcome: str
    chance: float
    minutes: float

    @property
    def text(self) -> str:
        """In a line."""
        return f"{self.act}: {self.outcome} would make it {percent(self.chance)}"


def settling(judgement: Judgement, suspects: tuple[Suspect, ...]) -> dict[str, Settling]:
    """What would settle each of some suspects, by repair unit; those for which no test does are left out."""
    best: dict[str, Settling] = {}
    wanted = {suspect.unit: suspect.probability for suspect in suspects}
    planner = judgement.planner
    if judgement.named:
        return best
    for proposal in planner.propose(judgement.posterior, judgement.state, judgement.evidence, TRIED):
        for outcome in judgement.outcomes(proposal):
            for unit, chance in outcome.leaves:
                if chance < wanted.get(unit, 1.0) + SETTLES:
                    continue
                if unit in best and _not_better(proposal.minutes, chance, best[unit]):
                    continue
                act = instruction(judgement.sheet, judgement.state, proposal.test).act
                best[unit] = Settling(act, outcome.text, chance, proposal.minutes)
    return best


def _not_better(minutes: float, chance: float, known: Settling) -> bool:
    """By whole per cents, and by minutes where those are equal."""
    one, other = round(100 * chance), round(100 * known.chance)
    return one < other or (one == other and minutes >= known.minutes)


def alike(judgement: Judgement) -> str:
    """Why no test parts the last suspects; empty where one still does, or one is named."""
    group = judgement.group
    if not group and judgement.next is None and not judgement.named:
        group = tuple(each for each in judgement.suspects[:GROUP] if each.component)
    if len(group) < 2:
        return ""
    tests = judgement.planner.parting([suspect.unit for suspect in group], judgement.posterior)
    barred, done = put_off(judgement.evidence), made(judgement.evidence)
    named = [f"the {in_sentence(name_of(judgement, suspect))}" for suspect in group]
    names = joined(named)
    telling = [test for test, bits in tests if bits > PARTS_BITS]
    for words, which in ((PUT_OFF, barred), (MADE, done)):
        found = next((test for test in telling if which(test)), None)
        if found:
            return words.format(_act(judgement, found), names)
    return SAME.format(names)


PUT_OFF = "“{0}” would part {1}, and it was put off: it can’t be done here."
MADE = "What could part {1} has been tested (“{0}”), and leaves both."
SAME = (
    "At every point and in every mode {0} would read and behave alike: only fitting one, or taking it out,"
    " tells."
)


def _act(judgement: Judgement, test: Test) -> str:
    return instruction(judgement.sheet, judgement.state, test).act


@dataclass(frozen=True)
class Bearing:
    """What an entry has done: to which suspect, and how many bits towards it or against."""

    name: str
    bits: float
    fits: bool = True
    """Whether the likeliest fault explains it."""

    @property
    def text(self) -> str:
        """In words; that it moves nothing where it does not, or that nothing likely explains it."""
        if not self.fits:
            return "unexplained as yet"
        if abs(self.bits) < LEAST_BITS:
            return "moves no suspect"
        strongly = "strongly " if abs(self.bits) >= STRONG_BITS else ""
        return f"{strongly}{'for' if self.bits > 0 else 'against'} {self.name}"

    @property
    def moves(self) -> bool:
        """Whether it has moved anything, or should have."""
        return abs(self.bits) >= LEAST_BITS or not self.fits


def bearings(judgement: Judgement) -> dict[int, Bearing]:
    """What each entry of the evidence that counts has done to the one of the first suspects it moved most."""
    found: dict[int, Bearing] = {}
    doubted = {judgement.doubt.entry} if judgement.doubt else set[int]()
    unexplained = {*judgement.unexplained, *doubted}
    for suspect in judgement.suspects[:LOOKED_AT]:
        name = in_sentence(name_of(judgement, suspect))
        for entry, bits in judgement.steps(suspect).items():
            if entry not in found or abs(bits) > abs(found[entry].bits):
                found[entry] = Bearing(name, bits, entry not in unexplained)
    return found
