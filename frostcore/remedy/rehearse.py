"""Whole calls rehearsed: a unit with a known fault, tests and parts until it works or is given up, and what
that cost. The same units and the same slips for every way of deciding.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from frostcore.diagnosis.evidence import Fitted, Looked, Measured, Read, Said, Stands
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.diagnosis.judge import DEAR, Judgement
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.rehearse import Truth, begun, by_bits, truth_of
from frostcore.diagnosis.weigh import Weigher, weigher_of
from frostcore.remedy.courses import Comparing
from frostcore.remedy.expected import Table, many
from frostcore.remedy.rates import Rates
from frostcore.remedy.work import Works
from frostcore.sheet.model import ComponentKind, Sheet

MOST_ACTS = 60
"""Whoever has done so much has given up."""

SUSPECTED = 0.02
"""A part is changed on suspicion from this chance on."""


@dataclass(frozen=True)
class Act:
    """What is done next: a test, units fitted one after the other on one visit, or giving up."""

    do: str
    test: Test | None = None
    units: tuple[str, ...] = ()


@dataclass
class Spent:
    """What a call cost, and how it ended: minutes, tests, wrong parts, boards and compressors among them
    that were ordered or fitted and not it."""

    fault: str
    unit: str
    cost: float = 0.0
    minutes: float = 0.0
    tests: int = 0
    wrong: int = 0
    wrong_dear: int = 0
    works: bool = False
    acts: list[str] = field(default_factory=list)


Deciding = Callable[[Judgement, Works], Act]


def by_courses(judgement: Judgement, works: Works) -> Act:
    """The first course, after a reading that is to be taken again."""
    doubt = judgement.again
    read = judgement.evidence[doubt.entry] if doubt else None
    if isinstance(read, Read):
        return Act("test", read.probe)
    best = Comparing(judgement, works.rates).compared().best
    return Act(best.do, best.test, best.units)


def by_certainty(judgement: Judgement, works: Works) -> Act:
    """Tests until a unit is named or nothing tells more; then parts in the order that pays."""
    proposal = by_bits(judgement, np.random.default_rng())
    if proposal:
        return Act("test", proposal.test)
    units = judgement.weigher.known.units
    table = Table(works, units)
    beliefs, opened = judgement.posterior.units[None], table.open(judgement.state.opened)[None]
    first = many(table, beliefs, opened).first[0]
    return Act("fit", units=tuple(units[at] for at in first)) if first else Act("stop")


def by_price(judgement: Judgement, works: Works) -> Act:
    """First looks, then the cheapest part under suspicion."""
    return _first_look(judgement) or _cheapest(judgement, works)


def by_board(judgement: Judgement, works: Works) -> Act:
    """First looks, then the board; then the cheapest part under suspicion."""
    look = _first_look(judgement)
    if look:
        return look
    boards = [part.id for part in judgement.sheet.components if part.kind is ComponentKind.BOARD]
    fitted = _fitted(judgement)
    for unit in boards:
        work = works.of(unit)
        if unit not in fitted and work and work.had:
            return Act("fit", units=(unit,))
    return _cheapest(judgement, works)


WAYS: dict[str, Deciding] = {
    "courses": by_courses,
    "to 0.99": by_certainty,
    "cheapest first": by_price,
    "board first": by_board,
}


def _first_look(judgement: Judgement) -> Act | None:
    """A question, a look or a temperature for which nothing is opened, before any part was fitted."""
    if _fitted(judgement):
        return None
    for each in judgement.proposals:
        if isinstance(each.test, Said | Looked | Measured) and each.minutes < QUICK:
            return Act("test", each.test)
    return None


QUICK = 3.5
"""Minutes of what is done without opening anything."""


def _fitted(judgement: Judgement) -> set[str]:
    return {item.component for item in judgement.evidence if isinstance(item, Fitted)}


def _cheapest(judgement: Judgement, works: Works) -> Act:
    fitted, now = _fitted(judgement), judgement.posterior.units
    known = zip(judgement.weigher.known.units, now, strict=True)
    some = [
        work
        for unit, chance in known
        if chance >= SUSPECTED
        and unit not in fitted | {WELL, ELSEWHERE}
        and (work := works.of(unit))
        and work.had
    ]
    if not some:
        return Act("stop")
    return Act("fit", units=(min(some, key=lambda work: work.price).unit,))


class Call:
    """One call on a unit with a known fault."""

    def __init__(self, weigher: Weigher, works: Works, place: int, seed: Sequence[int]) -> None:
        known = weigher.known.all[place]
        self._weigher, self._works, self._place = weigher, works, place
        rng = np.random.default_rng(seed)
        self._truth = Truth(weigher, truth_of(weigher.sheet), (place,), rng)
        self._evidence = begun(weigher, self._truth, looks=True)
        self.spent = Spent(known.id, known.unit)

    def go(self, way: Deciding) -> Spent:
        """Until it works or is given up."""
        spent, rates = self.spent, self._works.rates
        while not spent.works:
            judgement = Judgement(self._weigher, self._evidence)
            act = way(judgement, self._works) if len(spent.acts) < MOST_ACTS else Act("stop")
            spent.acts.append(f"{act.do} {'+'.join(act.units)}".strip())
            if act.do == "stop":
                spent.cost += rates.stop
                return spent
            if act.test is not None:
                self._test(judgement, act.test)
            else:
                self._fit(judgement, act.units)
        return spent

    def _test(self, judgement: Judgement, test: Test) -> None:
        minutes = judgement.planner.minutes(test, judgement.state)
        self._took(minutes)
        self.spent.tests += 1
        self._evidence.append(self._truth.answer(test))

    def _took(self, minutes: float) -> None:
        self.spent.minutes += minutes
        self.spent.cost += self._works.rates.labour(minutes)

    def _fit(self, judgement: Judgement, units: tuple[str, ...]) -> None:
        """Units fitted one after the other until one was it; what was ordered and is not needed goes back."""
        spent, rates = self.spent, self._works.rates
        works = [work for unit in units if (work := self._works.of(unit))]
        opened = set(judgement.state.opened)
        if any(work.order for work in works):
            days = max(work.lead_days for work in works)
            spent.cost += rates.visit(days)
            spent.minutes += rates.set_up_minutes
            self._evidence += [Stands("open", place, on=False) for place in sorted(opened)]
            opened = set()
        for work in works:
            if spent.works:
                spent.cost += rates.restocking * work.price if work.order else 0.0
                continue
            spent.cost += work.price
            self._took(work.minutes + rates.proof_minutes + self._works.opening(work.places, opened))
            self._evidence += [Stands("open", place) for place in work.places if place not in opened]
            opened |= set(work.places)
            spent.works = work.unit == spent.unit
            if not spent.works:
                spent.cost += rates.wrong_part if work.part else 0.0
                spent.wrong += work.part
                spent.wrong_dear += self._dear(work.unit)
                self._evidence.append(Fitted(work.unit, "no"))

    def _dear(self, unit: str) -> bool:
        kinds = {part.id: part.kind for part in self._weigher.sheet.components}
        return kinds.get(unit) in DEAR


def rehearse_calls(sheet: Sheet, places: Iterable[int], seed: int, way: str, rates: Rates) -> list[Spent]:
    """Calls on units with each of these hypotheses, decided in one way."""
    weigher = weigher_of(sheet)
    weigher.readings.prepare()
    works = Works(sheet, rates)
    calls = (Call(weigher, works, place, (seed, place, number)) for number, place in enumerate(places))
    return [call.go(WAYS[way]) for call in calls]
