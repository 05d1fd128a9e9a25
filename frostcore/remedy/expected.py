"""What it costs, on the mean, until the unit works or is given up: parts tried in the order that pays, each
with its chance of being the fault.

After Heckerman, Breese and Rommelse (1995): the next is the one whose chance by its cost is the highest. Two
things are added without which the tail of unlikely dear parts decides everything: a way out (what a working
unit of this age is worth), and orders that are made together, since each is a visit of its own. Many beliefs
are reckoned at once: what follows each outcome of each test.
"""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
import numpy.typing as npt

from frostcore.remedy.rates import Rates
from frostcore.remedy.work import Beliefs, Work

Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Places = npt.NDArray[np.intp]

LEAST_CHANCE, MOST_TRIED = 2e-3, 16
"""Units less likely than this, or beyond so many, are not tried: the way out comes first."""

TOGETHER = (1, 2, 3)
"""So many parts are ordered at once, whichever is best."""

FIGURES = ("cost", "parts", "minutes", "visits", "wait_days", "wrong_parts", "stops")
"""A toll's figures, in the order of its fields."""

COST, PARTS, MINUTES, VISITS, DAYS, WRONG, STOPS = range(len(FIGURES))

TINY = 1e-300


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
        names = dict.fromkeys([*self.bought, *other.bought])
        figures = [getattr(self, name) + share * getattr(other, name) for name in FIGURES]
        bought = {name: self.bought.get(name, 0.0) + share * other.bought.get(name, 0.0) for name in names}
        return Toll.of(figures, bought)

    @staticmethod
    def of(figures: Iterable[float], bought: dict[str, float]) -> "Toll":
        """One of its figures, in the order of FIGURES."""
        cost, parts, minutes, visits, days, wrong, stops = (float(each) for each in figures)
        return Toll(cost, parts, minutes, visits, days, wrong, stops, bought)


def stopping(rates: Rates) -> Toll:
    """Giving it up: a working unit is bought instead."""
    return Toll(cost=rates.stop, stops=1.0)


class Bench(Protocol):
    """What knows the work of units: :class:`frostcore.remedy.work.Works`."""

    rates: Rates

    def of(self, unit: str) -> Work | None:
        """The work of a unit; None where nothing puts it right."""

    def opening(self, places: Collection[str], opened: Collection[str]) -> float:
        """Minutes to open and close again what is not open yet."""


class Table:
    """The work of some units (U) as arrays; the places (P) on the way to any of them."""

    def __init__(self, works: Bench, units: Sequence[str]) -> None:
        made = [works.of(unit) for unit in units]
        some = [each or Work(unit, 0.0, 0.0, (), had=False) for unit, each in zip(units, made, strict=True)]
        self.units, self.rates = tuple(units), works.rates
        self.at = {unit: number for number, unit in enumerate(units)}
        self.places = tuple(dict.fromkeys(place for work in some for place in work.places))
        self.had: Flags = np.array([work.had for work in some], bool)
        self.price: Floats = np.array([work.price for work in some], float)
        self.minutes: Floats = np.array([work.minutes + works.rates.proof_minutes for work in some], float)
        self.order: Flags = np.array([work.order for work in some], bool)
        self.days: Floats = np.array([work.lead_days * work.order for work in some], float)
        self.part: Flags = np.array([work.part for work in some], bool)
        needs = [[place in work.places for place in self.places] for work in some]
        self.needs: Flags = np.array(needs, bool).reshape(len(some), len(self.places))
        waiting = self.order * works.rates.visit(0.0) + works.rates.wait_a_day * self.days
        self.fixed: Floats = self.price + works.rates.hour / 60 * self.minutes + waiting
        self.opening: Floats = np.array([works.opening((place,), ()) for place in self.places], float)

    def open(self, opened: Collection[str]) -> Flags:
        """Which of its places are open (P)."""
        return np.array([place in opened for place in self.places], bool)

    def row(self, beliefs: Beliefs) -> Floats:
        """P(unit) by the order of its units (U)."""
        return np.array([beliefs.get(unit, 0.0) for unit in self.units], float)

    def right(self, opened: Flags) -> Floats:
        """What each unit takes if it is the one, from what is open (B × P): figures (B × U × 7)."""
        rates, order = self.rates, self.order
        here = opened[:, None, :] & ~order[:, None]
        shut = ((self.needs & ~here) * self.opening).sum(axis=2)
        minutes = self.minutes + shut + order * rates.set_up_minutes
        found = np.zeros((*minutes.shape, len(FIGURES)))
        found[..., COST] = self.fixed + rates.hour / 60 * shut
        found[..., PARTS], found[..., MINUTES] = self.price, minutes
        found[..., VISITS], found[..., DAYS] = order, self.days
        return found


@dataclass(frozen=True)
class Tolls:
    """Tolls of many beliefs (B): ``figures`` B × 7, ``bought`` B × U; and what is tried first, as places in
    the table, none of it where it is given up at once."""

    table: Table
    figures: Floats
    bought: Floats
    first: tuple[tuple[int, ...], ...]

    def one(self, number: int) -> Toll:
        """One of them."""
        counts = self.bought[number]
        bought = {self.table.units[at]: float(counts[at]) for at in np.flatnonzero(counts)}
        return Toll.of(self.figures[number], bought)


def ordering(rates: Rates, days: float) -> Toll:
    """The visit more that something ordered takes, and the days until then."""
    return Toll(rates.visit(days), 0.0, rates.set_up_minutes, 1.0, days)


def together(works: Bench, units: Sequence[str], opened: Collection[str]) -> Toll:
    """What some units take to put right on one visit, all of them."""
    rates, found, here = works.rates, Toll(), set(opened)
    some = [work for unit in units if (work := works.of(unit))]
    for work in some:
        minutes = work.minutes + rates.proof_minutes + works.opening(work.places, here)
        cost = work.price + rates.labour(minutes)
        found = found.plus(Toll(cost, work.price, minutes, bought={work.unit: 1.0}))
        here |= set(work.places)
    ordered = [work.lead_days for work in some if work.order]
    return found.plus(ordering(rates, max(ordered))) if ordered else found


def best(works: Bench, beliefs: Beliefs, opened: Collection[str] = (), first: Sequence[str] = ()) -> Toll:
    """What it takes on the mean, in the best order, from what is open now; with ``first`` tried before
    anything else, whatever that costs."""
    table = Table(works, list(beliefs))
    forced = tuple(table.at[unit] for unit in first)
    return many(table, table.row(beliefs)[None], table.open(opened)[None], [forced]).one(0)


def many(
    table: Table,
    beliefs: Floats,
    opened: Flags,
    first: Sequence[tuple[int, ...]] | None = None,
    together: Sequence[int] = TOGETHER,
) -> Tolls:
    """What it takes on the mean in the best order, of many beliefs (B × U) from what is open then (B × P).

    ``first`` are places in the table of what is tried before anything else, by belief; ``together`` how many
    may be ordered at once.
    """
    some = [each for each in together if each == together[0] or table.order.any()]
    count = len(beliefs)
    walks = _Walks(
        table,
        np.tile(beliefs, (len(some), 1)),
        np.tile(opened, (len(some), 1)),
        [*(first or [()] * count)] * len(some),
        np.repeat(some, count),
    )
    walks.go()
    costs = walks.cut().reshape(len(some), count)
    best = np.argmin(costs, axis=0) * count + np.arange(count)
    return walks.tolls(best)


class _Walks:
    """Orders of trying, one a row (R): at each step every row tries its next unit, or those it orders next.

    Of each row only its likeliest units are carried (K): ``_likely`` are their places in the table.
    """

    def __init__(
        self, table: Table, beliefs: Floats, opened: Flags, first: Sequence[tuple[int, ...]], most: Places
    ) -> None:
        self._table, self._most, self._first = table, most, first
        self._rows = np.arange(len(beliefs))
        chances = np.where(table.had, beliefs, 0.0)
        forced = np.zeros_like(chances)
        for row, units in enumerate(first):
            for number, unit in enumerate(units):
                forced[row, unit] = 2.0 * (len(units) - number)
        self._forced = np.array([len(units) for units in first], int)
        self._likely = np.argsort(-(chances + forced), axis=1, kind="stable")[:, :MOST_TRIED]
        left = np.take_along_axis(chances, self._likely, axis=1)
        asked = np.arange(left.shape[1]) < self._forced[:, None]
        self._left = np.where((left > LEAST_CHANCE) | asked, left, 0.0)
        self._rest, self._opened = beliefs.sum(axis=1), opened.copy()
        self._needs = table.needs[self._likely]
        self._order = table.order[self._likely]
        self._full = (self._needs * table.opening).sum(axis=2)
        self._fixed = table.fixed[self._likely]
        self._steps: list[tuple[Flags, Floats, Floats]] = []
        self._bought: list[list[tuple[Places, Floats]]] = []
        self._kept: list[Flags] = []

    def go(self) -> None:
        """Every step of every row."""
        while len(self._steps) < self._likely.shape[1]:
            active = (self._left > 0).any(axis=1) & (self._rest > LEAST_CHANCE)
            if not self._steps:
                active |= self._forced > 0
            if not active.any():
                return
            self._step(active)

    def _chosen(self, active: Flags) -> list[tuple[Places, Flags]]:
        """What is tried next: of each row up to three of its likeliest, and whether there is one."""
        rates, rows = self._table.rates, self._rows
        shut = np.einsum("rkp,rp->rk", self._needs, ~self._opened * self._table.opening)
        alone = self._fixed + rates.hour / 60 * np.where(self._order, self._full, shut)
        worth = np.where(self._left > 0, self._left / np.maximum(alone, 1e-9), -1.0)
        forced = self._forced if not self._steps else np.zeros_like(self._forced)
        picked = np.where(forced > 0, 0, np.argmax(worth, axis=1))
        found, more = [(picked, active)], active & self._order[rows, picked]
        worth = np.where(self._order, worth, -1.0)
        for number in range(1, max(int(self._most.max()), int(forced.max()))):
            worth[rows, picked] = -1.0
            picked = np.where(forced > number, number, np.argmax(worth, axis=1))
            more = more & (worth[rows, picked] > 0) & (self._most > number) & (forced == 0)
            found.append((picked, more | (forced > number)))
        return found

    def _step(self, active: Flags) -> None:
        table, rates, rows = self._table, self._table.rates, self._rows
        chosen = self._chosen(active)
        ordered, days = np.zeros(len(rows), bool), np.zeros(len(rows))
        for picked, there in chosen:
            ordered |= there & self._order[rows, picked]
            days = np.maximum(days, there * table.days[self._likely[rows, picked]])
        figures = np.zeros((len(rows), len(FIGURES)))
        figures[:, VISITS], figures[:, DAYS] = ordered, days
        figures[:, MINUTES] = ordered * rates.set_up_minutes
        figures[:, COST] = ordered * rates.visit(0.0) + rates.wait_a_day * days
        here = self._opened & ~ordered[:, None]
        going, bought = np.ones(len(rows)), []
        rest = np.maximum(self._rest, TINY)
        for picked, there in chosen:
            unit = self._likely[rows, picked]
            price, needs = table.price[unit], self._needs[rows, picked]
            left = np.maximum(0.0, going - there * self._left[rows, picked] / rest)
            minutes = table.minutes[unit] + (needs & ~here) @ table.opening
            gone, wrong = going * there, left * there * table.part[unit]
            count = gone + there * (1 - going) * rates.restocking * table.order[unit]
            figures[:, COST] += count * price + gone * rates.hour / 60 * minutes + wrong * rates.wrong_part
            figures[:, PARTS] += count * price
            figures[:, MINUTES] += gone * minutes
            figures[:, WRONG] += wrong
            bought.append((unit, count))
            here = here | (needs & there[:, None])
            self._left[rows[there], picked[there]] = 0.0
            going = left
        self._rest = self._rest * going
        self._opened = np.where(active[:, None], here, self._opened)
        self._steps.append((active, figures, 1 - going))
        self._bought.append(bought)

    def cut(self) -> Floats:
        """What each row costs, cut where giving up is cheaper than going on; what is forced is never cut."""
        stop = self._table.rates.stop
        left = np.full(len(self._rows), stop)
        self._kept = []
        for number, (active, figures, solves) in reversed(list(enumerate(self._steps))):
            onward = figures[:, COST] + (1 - solves) * left
            kept = active & ((onward < stop) | ((self._forced > 0) & (number == 0)))
            left = np.where(kept, onward, stop)
            self._kept.insert(0, kept)
        return left

    def tolls(self, some: Places) -> Tolls:
        """The tolls of some rows, as they were cut."""
        table, count = self._table, len(some)
        figures, bought = np.zeros((count, len(FIGURES))), np.zeros((count, len(table.units)))
        alive = np.ones(count)
        first = [()] * count if not self._steps else self._firsts(some)
        going = np.ones(count, bool)
        for (_, each, solves), kept, buys in zip(self._steps, self._kept, self._bought, strict=True):
            going = going & kept[some]
            weight = alive * going
            figures += weight[:, None] * each[some]
            for unit, amount in buys:
                bought[np.arange(count), unit[some]] += weight * amount[some]
            alive = np.where(going, alive * (1 - solves[some]), alive)
        figures[:, COST] += alive * table.rates.stop
        figures[:, STOPS] += alive
        return Tolls(table, figures, bought, tuple(first))

    def _firsts(self, some: Places) -> list[tuple[int, ...]]:
        kept, buys = self._kept[0], self._bought[0]
        return [
            tuple(int(unit[row]) for unit, amount in buys if amount[row] > 0) if kept[row] else ()
            for row in some
        ]
