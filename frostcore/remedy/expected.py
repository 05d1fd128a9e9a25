"""What it costs, on the mean, until the unit works or is given up: parts tried in the order that pays, each
with its chance of being the fault.

After Heckerman, Breese and Rommelse (1995): the next is the one whose chance by its cost is the highest. Two
things are added without which the tail of unlikely dear parts decides everything: a way out (what a working
unit of this age is worth), and orders that are made together, since each is a visit of its own.
"""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace

from frostcore.remedy.rates import Rates
from frostcore.remedy.work import Beliefs, Work, Works

LEAST_CHANCE, MOST_TRIED = 2e-3, 16
"""Units less likely than this, or beyond so many, are not tried: the way out comes first."""

TOGETHER = (1, 2, 3)
"""So many parts are ordered at once, whichever is best."""


@dataclass(frozen=True)
class Toll:
    """What something takes on the mean: money in all, of it for parts; minutes, visits, days waited, wrong
    parts; how likely it ends without a working unit; how many of each unit are bought."""

    cost: float = 0.0
    parts: float = 0.0
    minutes: float = 0.0
    visits: float = 0.0
    wait_days: float = 0.0
    wrong_parts: float = 0.0
    stops: float = 0.0
    bought: dict[str, float] = field(default_factory=dict)

    def plus(self, other: "Toll", share: float = 1.0) -> "Toll":
        """With a share of another."""
        names = [*self.bought, *(name for name in other.bought if name not in self.bought)]
        return Toll(
            self.cost + share * other.cost,
            self.parts + share * other.parts,
            self.minutes + share * other.minutes,
            self.visits + share * other.visits,
            self.wait_days + share * other.wait_days,
            self.wrong_parts + share * other.wrong_parts,
            self.stops + share * other.stops,
            {name: self.bought.get(name, 0.0) + share * other.bought.get(name, 0.0) for name in names},
        )


class Sum:
    """Tolls added up in place, each by its share."""

    def __init__(self, first: Toll | None = None) -> None:
        self._figures = [0.0] * len(FIGURES)
        self._bought: dict[str, float] = {}
        if first is not None:
            self.add(first)

    def add(self, toll: Toll, share: float = 1.0) -> None:
        """A share of a toll more."""
        for at, name in enumerate(FIGURES):
            self._figures[at] += share * getattr(toll, name)
        for unit, count in toll.bought.items():
            self._bought[unit] = self._bought.get(unit, 0.0) + share * count

    @property
    def toll(self) -> Toll:
        """What it has come to."""
        cost, parts, minutes, visits, days, wrong, stops = self._figures
        return Toll(cost, parts, minutes, visits, days, wrong, stops, dict(self._bought))


FIGURES = ("cost", "parts", "minutes", "visits", "wait_days", "wrong_parts", "stops")
"""A toll's figures, in the order of its fields."""


def stopping(rates: Rates) -> Toll:
    """Giving it up: a working unit is bought instead."""
    return Toll(cost=rates.stop, stops=1.0)


@dataclass(frozen=True)
class Stage:
    """Some units tried one after the other on one visit: what that takes, and the chance that one was it,
    given that none before was."""

    units: tuple[str, ...]
    toll: Toll
    solves: float


class Trying:
    """Parts tried one after the other, from what is open now."""

    def __init__(self, works: Works) -> None:
        self.works, self.rates = works, works.rates
        self._kept: dict[tuple[str, bool, frozenset[str]], Toll] = {}

    def right(self, work: Work, opened: Collection[str]) -> Toll:
        """What one unit takes to put right from here, if it is the one; only the places on its way matter."""
        key = work.unit, work.order, frozenset(place for place in work.places if place in opened)
        if key not in self._kept:
            self._kept[key] = self.stage([work], {work.unit: 1.0}, 1.0, opened).toll
        return self._kept[key]

    def together(self, units: Sequence[str], opened: Collection[str]) -> Toll:
        """What some units take to put right on one visit, all of them."""
        works = [work for unit in units if (work := self.works.of(unit))]
        found, here = Toll(), set(opened)
        for work in works:
            found = found.plus(self.right(replace(work, order=False), here))
            here |= set(work.places)
        if any(work.order for work in works):
            rates, days = self.rates, max(work.lead_days for work in works)
            waiting = rates.travel + rates.labour(rates.set_up_minutes) + rates.wait_a_day * days
            found = found.plus(Toll(waiting, 0.0, rates.set_up_minutes, 1.0, days))
        return found

    def best(self, beliefs: Beliefs, opened: Collection[str], first: Sequence[str] = ()) -> Toll:
        """What it takes on the mean, in the best order; with ``first`` tried before anything else, whatever
        that costs."""
        ordered = sum(
            1
            for unit, chance in beliefs.items()
            if chance > LEAST_CHANCE and (work := self.works.of(unit)) and work.order and work.had
        )
        some = [together for together in TOGETHER if together <= max(1, ordered)]
        found = [self._whole(beliefs, opened, first, together) for together in some]
        return min(found, key=lambda toll: toll.cost)

    def _whole(self, beliefs: Beliefs, opened: Collection[str], first: Sequence[str], together: int) -> Toll:
        stages = list(self.stages(beliefs, opened, first, together))
        left = stopping(self.rates)
        for number, stage in reversed(list(enumerate(stages))):
            go = stage.toll.plus(left, 1 - stage.solves)
            forced = bool(first) and number == 0
            left = go if forced or go.cost < self.rates.stop else stopping(self.rates)
        return left

    def stages(
        self, beliefs: Beliefs, opened: Collection[str], first: Sequence[str] = (), together: int = 1
    ) -> Iterator[Stage]:
        """The units in the order that pays, what is to be ordered ``together`` at once."""
        works = {unit: work for unit in beliefs if (work := self.works.of(unit)) and work.had}
        likely = sorted(works, key=lambda unit: -beliefs[unit])[:MOST_TRIED]
        left = {unit: beliefs[unit] for unit in likely if beliefs[unit] > LEAST_CHANCE}
        rest, places = sum(beliefs.values()), set(opened)
        named = [unit for unit in first if unit in works]
        if named:
            stage = self.stage([works[unit] for unit in named], beliefs, rest, places)
            yield stage
            rest -= sum(left.pop(unit, 0.0) for unit in named)
            places = self.after([works[unit] for unit in named], places)
        while left and rest > LEAST_CHANCE:
            open_now = frozenset(places)
            worth = {unit: chance / self._alone(works[unit], open_now) for unit, chance in left.items()}
            order = sorted(left, key=lambda unit: -worth[unit])
            units = order[:1]
            if works[units[0]].order:
                units = [unit for unit in order if works[unit].order][:together]
            group = [works[unit] for unit in units]
            yield self.stage(group, left, rest, places)
            rest -= sum(left.pop(unit) for unit in units)
            places = self.after(group, places)

    def after(self, group: Sequence[Work], places: set[str]) -> set[str]:
        """What is open after some work: an order closes all, its visit opens what the parts need."""
        opened = {place for work in group for place in work.places}
        return opened if any(work.order for work in group) else places | opened

    def _alone(self, work: Work, opened: frozenset[str]) -> float:
        """What one unit costs if it is the one."""
        return max(1e-9, self.right(work, opened).cost)

    def stage(self, group: Sequence[Work], beliefs: Beliefs, rest: float, opened: Collection[str]) -> Stage:
        """Some units tried one after the other, the likeliest for its cost first."""
        rates, ordered = self.rates, any(work.order for work in group)
        toll, here, going = Toll(), set(opened), 1.0
        if ordered:
            days = max(work.lead_days for work in group)
            minutes, here = rates.set_up_minutes, set()
            waiting = rates.travel + rates.wait_a_day * days
            toll = Toll(waiting + rates.labour(minutes), 0.0, minutes, 1.0, days)
        solved = 0.0
        for work in group:
            share = beliefs.get(work.unit, 0.0) / rest if rest > 0 else 0.0
            right = min(1.0, share / going) if going > 0 else 0.0
            minutes = work.minutes + rates.proof_minutes + self.works.opening(work.places, here)
            wrong = going * (1 - right) if work.part else 0.0
            back = (1 - going) * rates.restocking * work.price if work.order else 0.0
            cost = going * (work.price + rates.labour(minutes)) + wrong * rates.wrong_part + back
            bought = {work.unit: going + ((1 - going) * rates.restocking if work.order else 0.0)}
            parts = going * work.price + back
            toll = toll.plus(Toll(cost, parts, going * minutes, 0.0, 0.0, wrong, 0.0, bought))
            here |= set(work.places)
            solved += share
            going = max(0.0, going - share)
        return Stage(tuple(work.unit for work in group), toll, min(1.0, solved))
