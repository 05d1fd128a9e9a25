"""The optimum of small problems, by trying every order and every order of parts together: what the order by
chance and cost is held against. Reckoned by itself, a unit at a time.
"""

import itertools
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

from frostcore.remedy.expected import TOGETHER, Bench
from frostcore.remedy.work import Beliefs, Work

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
