"""Two faults at once, rehearsed: the first is named and mended, the search goes on, and the second is named
in its turn; and whether a second course is begun where there is only one.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from frostcore.circuit.element import CircuitError
from frostcore.diagnosis.evidence import Fitted
from frostcore.diagnosis.hypotheses import WELL
from frostcore.diagnosis.judge import GROUP, Judgement
from frostcore.diagnosis.rehearse import MOST_TESTS, Truth, begun, by_bits, truth_of, worked
from frostcore.diagnosis.weigh import Weigher, weigher_of
from frostcore.sheet.model import Sheet

TWO = 2

SHOWS = 0.5
"""A fault shows something of its own where somebody notices it this likely."""


@dataclass(frozen=True)
class Both:
    """How one rehearsal of two faults ended: the first mended, whether the other was named in its turn, and
    whether both had been seen before anything was mended; tests and minutes of both courses."""

    faults: tuple[str, str]
    first: str
    second: tuple[str, ...]
    in_turn: bool
    at_once: bool
    tests: int
    minutes: float


@dataclass
class PairRehearsal:
    """All that ended: of two faults; and of how many with one, how many began a second course needlessly."""

    both: list[Both] = field(default_factory=list)
    single: int = 0
    needless: int = 0

    @property
    def in_turn(self) -> float:
        """The share in which both were named in turn."""
        return float(np.mean([each.in_turn for each in self.both])) if self.both else float("nan")

    @property
    def at_once(self) -> float:
        """The share in which both were seen before the first was mended."""
        return float(np.mean([each.at_once for each in self.both])) if self.both else float("nan")

    @property
    def begun_needlessly(self) -> float:
        """The share of single faults, named and mended, after which something else was named."""
        return self.needless / self.single if self.single else float("nan")


def rehearse_pairs(sheet: Sheet, count: int, *, seed: int = 1) -> PairRehearsal:
    """Diagnose ``count`` units with two faults of two parts, drawn by weight among those that are noticed,
    and as many with the first of the two alone. CircuitError where the sheet has no two such parts."""
    weigher, found = weigher_of(sheet), PairRehearsal()
    weigher.readings.prepare()
    chance = np.random.default_rng([seed, 2])
    for number in range(count):
        pair = _drawn(weigher, chance)
        found.both.append(_both(weigher, pair, np.random.default_rng([seed, 2, number])))
        needless = _needless(weigher, pair[0], np.random.default_rng([seed, 3, number]))
        if needless is not None:
            found.single += 1
            found.needless += needless
    return found


def _drawn(weigher: Weigher, chance: np.random.Generator) -> tuple[int, int]:
    """Two faults of two parts that each show something of their own, and are always there."""
    known, shown = weigher.known, weigher.behaviour.noticed > SHOWS
    usable = np.array([item.fault is not None for item in known.all]) & shown & ~known.comes_and_goes
    if len({(item.component, item.unit) for item, good in zip(known.all, usable, strict=True) if good}) < TWO:
        message = f"The {weigher.sheet.title} has no two parts whose faults somebody would notice."
        raise CircuitError(message)
    weights = np.where(usable, weigher.prior, 0.0)
    while True:
        one, other = (int(chance.choice(len(weights), p=weights / weights.sum())) for _ in range(2))
        if known.all[one].component != known.all[other].component and known.unit[one] != known.unit[other]:
            return one, other


def _named(judgement: Judgement) -> tuple[str, ...]:
    """What a course ends with: what is named, or the few that are left."""
    if judgement.named:
        return (judgement.named.unit,)
    return tuple(each.unit for each in (judgement.group or judgement.suspects[:GROUP]))


def _both(weigher: Weigher, pair: Sequence[int], rng: np.random.Generator) -> Both:
    known, truth = weigher.known, Truth(weigher, truth_of(weigher.sheet), pair, rng)
    units = [known.units[known.unit[place]] for place in pair]
    evidence = begun(weigher, truth, looks=True)
    judgement, tests, minutes = worked(weigher, truth, evidence, (by_bits, rng, MOST_TESTS))
    named = _named(judgement)
    seen = {*named, *(each.unit for each in judgement.beside)}
    first = next((unit for unit in named if unit in units), "")
    faults = (known.all[pair[0]].id, known.all[pair[1]].id)
    if not first:
        return Both(faults, named[0], (), in_turn=False, at_once=False, tests=tests, minutes=minutes)
    other = units[1 - units.index(first)]
    evidence.append(Fitted(first))
    truth.places = tuple(place for place in pair if known.units[known.unit[place]] == other)
    judgement, more, longer = worked(weigher, truth, evidence, (by_bits, rng, MOST_TESTS))
    second = _named(judgement)
    return Both(
        faults,
        first,
        second,
        in_turn=other in second,
        at_once=set(units) <= seen,
        tests=tests + more,
        minutes=minutes + longer,
    )


def _needless(weigher: Weigher, place: int, rng: np.random.Generator) -> bool | None:
    """Whether something else is named once the only fault is mended; None where it was not found."""
    known, truth = weigher.known, Truth(weigher, truth_of(weigher.sheet), (place,), rng)
    unit = known.units[known.unit[place]]
    evidence = begun(weigher, truth, looks=True)
    judgement, _, _ = worked(weigher, truth, evidence, (by_bits, rng, MOST_TESTS))
    if judgement.named is None or judgement.named.unit != unit:
        return None
    evidence.append(Fitted(unit))
    truth.places = (0,)
    judgement, _, _ = worked(weigher, truth, evidence, (by_bits, rng, MOST_TESTS))
    return judgement.named is not None and judgement.named.unit != WELL
