"""The optimum of small problems, by trying every order and every order of parts together: what the order by
chance and cost is held against. Reckoned by itself, a unit at a time.
"""

import itertools
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace

from frostcore.diagnosis.belief import information
from frostcore.remedy.expected import COST, TOGETHER, Bench, Floats, Table
from frostcore.remedy.onward import Ask, Onward, bit_cost
from frostcore.remedy.work import Beliefs, Work

LEAST_WEIGHT = 1e-12

MOST_UNITS = 5
"""Beyond this everything is too much to try."""


@dataclass(frozen=True)
class Stage:
    """Some units tried one after the other on one visit: what that costs, the chance that one was it, given
    that none before was, and what is open then."""

    cost: float
    solves: float
    opened: frozenset[str]


def optimum(works: Bench, beliefs: Beliefs, opened: frozenset[str] = frozenset()) -> float:
    """What it costs on the mean by the best of all orders; giving up is always open.

    ValueError for more units than can be tried.
    """
    some = [work for unit in beliefs if (work := works.of(unit)) and work.had]
    if len(some) > MOST_UNITS:
        message = f"{len(some)} units are too many to try every order; {MOST_UNITS} at most"
        raise ValueError(message)
    return _best(works, beliefs, tuple(some), opened, sum(beliefs.values()))


def _best(
    works: Bench, beliefs: Beliefs, left: tuple[Work, ...], opened: frozenset[str], rest: float
) -> float:
    found = works.rates.stop
    if rest <= 0:
        return 0.0
    for group in groups(left):
        stage = tried(works, group, beliefs, rest, opened)
        others = tuple(work for work in left if work not in group)
        remains = rest - sum(beliefs[work.unit] for work in group)
        onward = _best(works, beliefs, others, stage.opened, remains) if stage.solves < 1 else 0.0
        found = min(found, stage.cost + (1 - stage.solves) * onward)
    return found


def groups(left: tuple[Work, ...]) -> Iterator[tuple[Work, ...]]:
    """Everything that can be done next: one unit, or several ordered at once in any order of trying."""
    for work in left:
        yield (work,)
    ordered = [work for work in left if work.order]
    for count in TOGETHER[1:]:
        yield from itertools.permutations(ordered, count)


def tried(
    works: Bench, group: Sequence[Work], beliefs: Beliefs, rest: float, opened: Collection[str]
) -> Stage:
    """Some units tried one after the other; an order closes all, and its visit opens what the parts need."""
    rates, here, cost = works.rates, set(opened), 0.0
    if any(work.order for work in group):
        days = max(work.lead_days for work in group)
        cost = rates.travel + rates.labour(rates.set_up_minutes) + rates.wait_a_day * days
        here = set()
    gone, solved = 1.0, 0.0
    for work in group:
        share = beliefs.get(work.unit, 0.0) / rest
        minutes = work.minutes + rates.proof_minutes + works.opening(work.places, here)
        cost += gone * (work.price + rates.labour(minutes))
        cost += max(0.0, gone - share) * rates.wrong_part * work.part
        cost += (1 - gone) * rates.restocking * work.price * work.order
        here |= set(work.places)
        solved, gone = solved + share, max(0.0, gone - share)
    return Stage(cost, min(1.0, solved), frozenset(here))


@dataclass(frozen=True)
class Exam:
    """A test of a small problem: its cost in money, minutes, and P(outcome | unit) (O × U)."""

    cost: float
    minutes: float
    likely: Floats


@dataclass(frozen=True)
class Problem:
    """Suspects with their chances (one of them may be what no part puts right), and tests that part them."""

    works: Bench
    beliefs: Beliefs
    exams: tuple[Exam, ...]


@dataclass(frozen=True)
class _At:
    """Where a problem stands: the suspects' weights (U), tests and units left, and what is open."""

    weights: Floats
    exams: tuple[int, ...]
    left: tuple[str, ...]
    opened: frozenset[str] = frozenset()


Step = int | tuple[str, ...] | None
"""A test by its number, units that are fitted, or None to give up."""

Ways = Callable[[_At], Sequence[Step]]
"""What may be done from somewhere."""


class Solved:
    """A small problem worked through: every test and every order tried, or by the courses' own rule."""

    def __init__(self, problem: Problem) -> None:
        self._works, self._exams = problem.works, problem.exams
        self._table = Table(problem.works, tuple(problem.beliefs))
        self._first = self._table.row(problem.beliefs)
        made = [problem.works.of(unit) for unit in self._table.units]
        self._made = {work.unit: work for work in made if work and work.had}
        self._kept: dict[object, float] = {}

    def least(self) -> float:
        """What the best of all ways costs on the mean."""
        self._kept.clear()
        return self._go(_At(self._first, tuple(range(len(self._exams))), tuple(self._made)), self._all)

    def ours(self) -> float:
        """What the courses' own rule costs on the mean, followed to the end."""
        self._kept.clear()
        return self._go(_At(self._first, tuple(range(len(self._exams))), tuple(self._made)), self._chosen)

    def _go(self, at: _At, ways: Ways) -> float:
        """The cost from here, by the cheapest of the ways: a test, units to fit, or None to give up."""
        if at.weights.sum() <= LEAST_WEIGHT:
            return 0.0
        key = (ways, at.weights.round(12).tobytes(), at.exams, at.left, at.opened)
        if key not in self._kept:
            self._kept[key] = min(self._cost(at, way, ways) for way in ways(at))
        return self._kept[key]

    def _cost(self, at: _At, way: Step, ways: Ways) -> float:
        rest = float(at.weights.sum())
        if way is None:
            return rest * self._works.rates.stop
        if isinstance(way, int):
            exam = self._exams[way]
            more = tuple(each for each in at.exams if each != way)
            parts = (replace(at, weights=at.weights * row, exams=more) for row in exam.likely)
            return rest * exam.cost + sum(self._go(part, ways) for part in parts)
        beliefs = {unit: float(at.weights[self._table.at[unit]]) for unit in way}
        stage = tried(self._works, [self._made[unit] for unit in way], beliefs, rest, at.opened)
        weights = at.weights.copy()
        weights[[self._table.at[unit] for unit in way]] = 0.0
        left = tuple(unit for unit in at.left if unit not in way)
        after = _At(weights, at.exams, left, stage.opened)
        return rest * stage.cost + self._go(after, ways)

    def _all(self, at: _At) -> list[Step]:
        orders = groups(tuple(self._made[unit] for unit in at.left))
        return [None, *at.exams, *(tuple(work.unit for work in order) for order in orders)]

    def _chosen(self, at: _At) -> list[Step]:
        """The one way the courses would take."""
        now, opened = at.weights / at.weights.sum(), self._table.open(at.opened)
        told = {exam: self._told(now, self._exams[exam]) / self._exams[exam].minutes for exam in at.exams}
        onward = Onward(self._table, bit_cost(self._works.rates, max(told.values(), default=0.0)))
        ways: list[tuple[float, Step]] = [(self._works.rates.stop, None)]
        for exam in at.exams:
            joint = self._exams[exam].likely * now
            chances = joint.sum(axis=1)
            joint, chances = joint[chances > LEAST_WEIGHT], chances[chances > LEAST_WEIGHT]
            asks = [Ask(1.0, row / row.sum(), opened, on=True) for row in joint]
            costs = onward.best(asks).figures[:, COST]
            ways.append((self._exams[exam].cost + float(chances @ costs), exam))
        likely = sorted(at.left, key=lambda unit: -now[self._table.at[unit]])
        for units in [*((unit,) for unit in likely), *itertools.combinations(likely[:3], 2)]:
            first = tuple(self._table.at[unit] for unit in units)
            ways.append((float(onward.tried([Ask(1.0, now, opened, first)]).figures[0, COST]), units))
        return [min(ways, key=lambda way: way[0])[1]]

    def _told(self, now: Floats, exam: Exam) -> float:
        """The bits a test tells of the unit."""
        return float(information((exam.likely * now)[None], now)[0])
