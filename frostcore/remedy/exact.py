"""The optimum of small problems, by trying every order and every order of parts together: what the order by
chance and cost is held against."""

import itertools
from collections.abc import Iterator

from frostcore.remedy.expected import TOGETHER, Trying
from frostcore.remedy.work import Beliefs, Work

MOST_UNITS = 5
"""Beyond this everything is too much to try."""


def optimum(trying: Trying, beliefs: Beliefs, opened: frozenset[str] = frozenset()) -> float:
    """What it costs on the mean by the best of all orders; giving up is always open.

    ValueError for more units than can be tried.
    """
    works = [work for unit in beliefs if (work := trying.works.of(unit)) and work.had]
    if len(works) > MOST_UNITS:
        message = f"{len(works)} units are too many to try every order; {MOST_UNITS} at most"
        raise ValueError(message)
    return _best(trying, beliefs, tuple(works), opened, sum(beliefs.values()))


def _best(
    trying: Trying, beliefs: Beliefs, left: tuple[Work, ...], opened: frozenset[str], rest: float
) -> float:
    found = trying.rates.stop
    if rest <= 0:
        return 0.0
    for group in _groups(left):
        stage = trying.stage(group, beliefs, rest, opened)
        others = tuple(work for work in left if work not in group)
        after = frozenset(trying.after(group, set(opened)))
        remains = rest - sum(beliefs[work.unit] for work in group)
        onward = _best(trying, beliefs, others, after, remains) if stage.solves < 1 else 0.0
        found = min(found, stage.toll.cost + (1 - stage.solves) * onward)
    return found


def _groups(left: tuple[Work, ...]) -> Iterator[tuple[Work, ...]]:
    """Everything that can be done next: one unit, or several ordered at once in any order of trying."""
    for work in left:
        yield (work,)
    ordered = [work for work in left if work.order]
    for count in TOGETHER[1:]:
        yield from itertools.permutations(ordered, count)
