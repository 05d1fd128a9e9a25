"""The courses that make sense now, compared by what they cost on the mean until the unit works: fit this, fit
both, test that first, give it up.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from frostcore.diagnosis.belief import Belief
from frostcore.diagnosis.evidence import Looked
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.diagnosis.judge import Judgement
from frostcore.diagnosis.outcomes import Test
from frostcore.diagnosis.probes import Probe
from frostcore.diagnosis.state import State, to_open, to_open_for
from frostcore.remedy.expected import (
    COST,
    Table,
    Toll,
    ordering,
    stopping,
    together,
)
from frostcore.remedy.onward import Ask, Onward, bit_cost
from frostcore.remedy.rates import Rates
from frostcore.remedy.stock import StockItem
from frostcore.remedy.work import USUAL_LEAD, Beliefs, Work, Works
from frostcore.sheet.model import ComponentKind

FITS, PAIRS, TESTS = 4, 3, 6
"""So many of the likeliest are reckoned as fitted first, of them as fitted together, and so many tests."""

LEAST_FIT = 0.02
"""A unit less likely than this is no course of its own."""

WORTH_BOTH = 0.005
"""Two at once are a course where that is cheaper than either first, by this share."""

LEAST_BITS = 0.05
"""A test that tells less is no course: it only puts the bill off."""

ALIKE = 0.03
"""Courses whose cost differs by less are as good as equal."""

LEAST_OUTCOME = 1e-4
"""Outcomes less likely than this are not followed."""

OTHERWISE = ("mend", "exchange", "used", "plan")
"""Ways to put a unit right without a new part."""


@dataclass(frozen=True)
class Around:
    """A change to the wiring as a course: the unit it goes round, its title, what its parts cost as a guess,
    its joints, what is lost."""

    round: str
    title: str
    price: float
    joints: int
    lost: tuple[str, ...] = ()


@dataclass(frozen=True)
class Way:
    """Another way for a unit: price, minutes at it, how often it works, whether it is ordered."""

    do: str
    unit: str
    price: float
    minutes: float
    works: float
    order: bool = False
    plan: Around | None = None


@dataclass(frozen=True)
class Course:
    """Something to do first, and what it comes to: the units fitted or the test, the toll on the mean, the
    chance that what is fitted is not the fault, and whether a price in it is guessed."""

    do: str
    units: tuple[str, ...]
    test: Test | None
    toll: Toll
    chance_wrong: float
    guessed: bool = False
    plan: Around | None = None
    own: Toll = field(default_factory=Toll)
    """What it takes itself, without what follows where it was not the fault."""

    @property
    def expected(self) -> float:
        """Money on the mean until the unit works or is given up."""
        return self.toll.cost


@dataclass(frozen=True)
class Then:
    """What is best where a test has come out so: with which chance, what is done (of ``fit`` the units
    first), and what it costs from there."""

    outcome: str
    chance: float
    do: str
    units: tuple[str, ...]
    expected: float


@dataclass(frozen=True)
class Turn:
    """What would turn the best course into the next: a unit's price (or the worth of a working unit), from
    what to what."""

    of: str
    now: float
    at: float


@dataclass(frozen=True)
class Compared:
    """The courses, the cheapest on the mean first; those as good as the first; what would turn it."""

    courses: tuple[Course, ...]
    equal: tuple[Course, ...]
    turns: tuple[Turn, ...]

    @property
    def best(self) -> Course:
        """The first."""
        return self.courses[0]


@dataclass(frozen=True)
class _Draft:
    """A course before what follows it is reckoned: its toll is its own and that of its asks."""

    course: Course
    asks: tuple[Ask, ...]


class Comparing:
    """The courses of a judgement, by a workshop's rates."""

    def __init__(
        self,
        judgement: Judgement,
        rates: Rates,
        prices: Mapping[str, float] | None = None,
        plans: Sequence[Around] = (),
        stock: tuple[StockItem, ...] = (),
    ) -> None:
        """``prices`` of units, where they are other than on the sheet; ``plans`` that go round some; what is
        on the shelf."""
        self.judgement, self.rates, self.plans, self.stock = judgement, rates, tuple(plans), stock
        self.works = Works(judgement.sheet, rates, prices, stock)
        known, now = judgement.weigher.known, judgement.posterior.units
        self.beliefs: Beliefs = {unit: float(now[place]) for place, unit in enumerate(known.units)}
        self._table, self._now = Table(self.works, known.units), np.asarray(now, float)
        self.state: State = judgement.state
        self._open = self._table.open(self.state.opened)
        best = max((each.rate for each in judgement.proposals), default=0.0)
        self._onward = Onward(self._table, bit_cost(rates, best))

    def compared(self) -> Compared:
        """Every course that makes sense, the cheapest on the mean first."""
        drafts = [*self._fits(), *self._together(), *self._otherwise(), *self._tests()]
        found = [*_worth_both(self._reckoned(drafts)), self._stop()]
        found.sort(key=lambda course: course.expected)
        found = self._safest_first(found)
        equal = found[1 : self._alike(found)]
        return Compared(tuple(found), tuple(equal), self._turns(found))

    def _alike(self, found: Sequence[Course]) -> int:
        """How many at the head are as good as the cheapest of them; giving up is like nothing else."""
        least = min(course.expected for course in found)
        alike = [course.expected <= least * (1 + ALIKE) and course.do != "stop" for course in found]
        return alike.index(False) if False in alike else len(alike)

    def _safest_first(self, found: list[Course]) -> list[Course]:
        """Those as good as the cheapest by danger, then by what is opened for them, then by cost."""
        some = self._alike(found)
        return [*sorted(found[:some], key=self._danger), *found[some:]]

    def _danger(self, course: Course) -> tuple[bool, float, float]:
        """Whether it is done live, minutes of opening and closing, cost."""
        opened, test = self.state.opened, course.test
        if test is not None:
            live = isinstance(test, Probe) and test.setup.meter.live
            return live, self.works.opening(self._opened_by(test) - set(opened), opened), course.expected
        places = {place for unit in course.units if (work := self.works.of(unit)) for place in work.places}
        return False, self.works.opening(places, opened), course.expected

    @cached_property
    def _belief(self) -> Belief:
        return Belief.of(self.judgement.posterior)

    @cached_property
    def _likely(self) -> list[str]:
        """The units worth fitting first, the likeliest first."""
        units = (unit for unit in self.beliefs if unit not in {WELL, ELSEWHERE} and self.works.of(unit))
        order = sorted(units, key=lambda unit: -self.beliefs[unit])
        return [unit for unit in order[:FITS] if self.beliefs[unit] >= LEAST_FIT]

    def _fits(self) -> list[_Draft]:
        return [self._fit((unit,)) for unit in self._likely if self._had((unit,))]

    def _together(self) -> list[_Draft]:
        units = self._likely[:PAIRS]
        pairs = [(one, other) for at, one in enumerate(units) for other in units[at + 1 :]]
        return [self._fit(pair) for pair in pairs if self._had(pair)]

    def _otherwise(self) -> list[_Draft]:
        """A board mended, exchanged or used instead of new; a part worked round by a plan."""
        kinds = {part.id: part.kind for part in self.judgement.sheet.components}
        found = []
        for unit in self._likely:
            work = self.works.of(unit)
            if work and kinds.get(unit) is ComponentKind.BOARD:
                found += [self._instead(unit, way) for way in self._ways_of_board(work)]
        found += [
            self._instead(plan.round, self._way_of(plan)) for plan in self.plans if plan.round in self._likely
        ]
        return found

    def _ways_of_board(self, work: Work) -> list[Way]:
        rates, fit = self.rates, work.minutes
        ways = [
            Way("mend", work.unit, 0.0, fit + rates.mend_minutes, rates.mend_lasts),
            Way("exchange", work.unit, rates.exchange_share * work.price, fit, rates.exchange_good, True),
            Way("used", work.unit, rates.used_share * work.price, fit, rates.used_good, order=True),
        ]
        return [way for way in ways if way.works > 0 and (way.price > 0 or way.do == "mend")]

    def _way_of(self, plan: Around) -> Way:
        minutes = plan.joints * self.rates.joint_minutes
        return Way("plan", plan.round, plan.price, minutes, 1.0, plan=plan)

    def _instead(self, unit: str, way: Way) -> _Draft:
        """A unit put right in another way: where that fails, or it was not the fault, the rest in the order
        that pays."""
        rates, work = self.rates, self.works.of(unit)
        places = work.places if work else ()
        minutes = way.minutes + rates.proof_minutes + self.works.opening(places, self.state.opened)
        toll = Toll(way.price + rates.labour(minutes), way.price, minutes)
        if way.order and work:
            toll = toll.plus(ordering(rates, work.lead_days or float(USUAL_LEAD)))
        left, at = self._now.copy(), self._table.at[unit]
        solves = float(left[at]) * way.works
        left[at] *= 1 - way.works
        left = left / left.sum() if left.sum() > 0 else left
        guessed = way.plan is not None or bool(work and work.guessed)
        course = Course(way.do, (unit,), None, toll, 1 - solves, guessed, way.plan, own=toll)
        return _Draft(course, (Ask(1 - solves, left, self._open | self._table.open(places)),))

    def _had(self, units: Sequence[str]) -> bool:
        works = [self.works.of(unit) for unit in units]
        return all(work is not None and work.had for work in works)

    def _fit(self, units: tuple[str, ...]) -> _Draft:
        guessed = any((work := self.works.of(unit)) is not None and work.guessed for unit in units)
        chance = sum(self.beliefs[unit] for unit in units)
        own = together(self.works, units, self.state.opened)
        course = Course("fit", units, None, Toll(), 1 - chance, guessed, own=own)
        first = tuple(self._table.at[unit] for unit in units)
        return _Draft(course, (Ask(1.0, self._now, self._open, first),))

    def _stop(self) -> Course:
        return Course("stop", (), None, stopping(self.rates), 0.0)

    def _tests(self) -> list[_Draft]:
        some = [each for each in self.judgement.proposals if each.bits >= LEAST_BITS][:TESTS]
        return [self._test(each.test) for each in some]

    def _test(self, test: Test) -> _Draft:
        """A test first, then the best after each of its outcomes."""
        minutes = self.judgement.planner.minutes(test, self.state)
        own = Toll(cost=self.rates.labour(minutes), minutes=minutes)
        return _Draft(Course("test", (), test, own, 0.0), tuple(ask for _, ask in self._after(test)))

    def _reckoned(self, drafts: Sequence[_Draft]) -> list[Course]:
        """The courses with what follows them, all of them at once."""
        asks = [ask for draft in drafts for ask in draft.asks]
        if not asks:
            return [draft.course for draft in drafts]
        tolls, number, found = self._onward.best(asks), 0, []
        for draft in drafts:
            toll = draft.course.toll
            shares = np.array([ask.chance for ask in draft.asks])
            mine = slice(number, number + len(draft.asks))
            figures = shares @ tolls.figures[mine]
            bought = shares @ tolls.bought[mine]
            counts = {self._table.units[at]: float(bought[at]) for at in np.flatnonzero(bought)}
            toll = toll.plus(Toll.of(figures, counts))
            found.append(replace(draft.course, toll=toll))
            number += len(draft.asks)
        return found

    def again(self, course: Course) -> float:
        """What a course comes to by these rates and prices."""
        if course.do == "stop":
            return self.rates.stop
        return self._reckoned([self._draft(course)])[0].expected

    def _draft(self, course: Course) -> _Draft:
        if course.do in OTHERWISE:
            asked = course.do, course.units, course.plan
            some = ((each, each.course) for each in self._otherwise())
            return next(each for each, its in some if (its.do, its.units, its.plan) == asked)
        return self._fit(course.units) if course.test is None else self._test(course.test)

    def _opened_by(self, test: Test) -> frozenset[str]:
        """What is open after a test."""
        sheet, state = self.judgement.sheet, self.state
        if isinstance(test, Probe):
            return state.opened | set(to_open(sheet, state, test))
        if isinstance(test, Looked):
            return state.opened | set(to_open_for(sheet, state, test.look))
        return state.opened

    def then(self, course: Course) -> tuple[Then, ...]:
        """What is best after each way a test may come out, the likeliest first; nothing for other courses."""
        if course.test is None:
            return ()
        outcomes = self.judgement.planner.outcomes_of(course.test, self.judgement.posterior)
        told = {each.number: each.text for each in outcomes}
        some = [(told[number], ask) for number, ask in self._after(course.test) if number in told]
        if not some:
            return ()
        asks = [ask for _, ask in some]
        tried, known = self._onward.tried(asks), self._onward.known(asks)
        found = []
        for at, (text, ask) in enumerate(some):
            ways = {"stop": self.rates.stop, "fit": tried.figures[at, COST], "test": known[0][at, COST]}
            do = min(ways, key=ways.__getitem__)
            units = tuple(self._table.units[unit] for unit in tried.first[at]) if do == "fit" else ()
            found.append(Then(text, ask.chance, do, units, float(ways[do])))
        return tuple(sorted(found, key=lambda each: -each.chance))

    def _after(self, test: Test) -> list[tuple[int, Ask]]:
        """Each outcome by its number: its chance, and what would be believed then."""
        belief, outcomes = self._belief, self.judgement.planner.outcomes
        if isinstance(test, Probe):
            at = outcomes.row[test]
            joint = belief.joint_of_classes(
                outcomes.classes[at], int(outcomes.count[at]), outcomes.pulses[at]
            )
        else:
            joint = belief.joint_of_table(outcomes.tables[test][1])
        joint = joint / joint.sum()
        opened = self._table.open(self._opened_by(test))
        places = [self._table.at[unit] for unit in belief.units]
        found = []
        for number, row in enumerate(joint):
            chance = float(row.sum())
            if chance > LEAST_OUTCOME:
                beliefs = np.zeros(len(self._table.units))
                beliefs[places] = row / chance
                found.append((number, Ask(chance, beliefs, opened, on=True)))
        return found

    def _turns(self, found: Sequence[Course]) -> tuple[Turn, ...]:
        """Where the best of another kind takes over."""
        best = found[0]
        other = next((each for each in found[1:] if (each.do, each.units) != (best.do, best.units)), None)
        if other is None:
            return ()
        turns = [self._turn("stop", self.rates.stop, best, other)] if self.rates.stop else []
        for unit in dict.fromkeys([*best.toll.bought, *other.toll.bought]):
            work = self.works.of(unit)
            if work and work.price:
                turns.append(self._turn(unit, work.price, best, other))
        kept = [turn for turn in turns if turn]
        return tuple(sorted(kept, key=lambda turn: abs(math.log(turn.at / turn.now))))

    def _turn(self, of: str, now: float, best: Course, other: Course) -> Turn | None:
        """The price at which two courses cost the same; None where none that is near does.

        A course's cost goes with a price by how many are bought on the mean, until other ways are better:
        so the point is taken from there, and corrected by what the two come to at it.
        """
        gap = other.expected - best.expected
        slopes = [
            course.toll.stops if of == "stop" else course.toll.bought.get(of, 0.0) for course in (best, other)
        ]
        last, value = now, now + gap / (slopes[0] - slopes[1]) if slopes[0] != slopes[1] else math.inf
        for _ in range(CORRECTED):
            if not NEAR[0] <= value / now <= NEAR[1]:
                return None
            there = self._with(of, value)
            more = there.again(other) - there.again(best)
            if abs(more) <= MET * best.expected:
                return Turn(of, now, value)
            if more == gap:
                return None
            last, gap, value = value, more, value - more * (value - last) / (more - gap)
        return None

    def _with(self, of: str, value: float) -> "Comparing":
        """The same by another price, or another worth of a working unit."""
        if of == "stop":
            return Comparing(self.judgement, replace(self.rates, stop=value), None, self.plans, self.stock)
        return Comparing(self.judgement, self.rates, {of: value}, self.plans, self.stock)


CORRECTED, MET = 6, 0.005
"""So often a turning point is corrected, until the two differ by less than this share."""

NEAR = 1 / 2.5, 2.5
"""A price that would have to be so many times another turns nothing."""


def _worth_both(found: Sequence[Course]) -> list[Course]:
    """Two parts at once only where that is cheaper than either first."""
    alone = {
        course.units: course.expected for course in found if course.do == "fit" and len(course.units) == 1
    }
    return [
        course
        for course in found
        if course.do != "fit"
        or len(course.units) == 1
        or course.expected < min(alone[(unit,)] for unit in course.units) * (1 - WORTH_BOTH)
    ]


def compare(judgement: Judgement, rates: Rates) -> Compared:
    """The courses of a judgement, compared."""
    return Comparing(judgement, rates).compared()
