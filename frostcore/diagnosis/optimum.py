"""Small problems solved exactly, to hold the planner's rule against: a few hypotheses, tests with certain
outcomes and minutes each, and the least expected minutes until what is left is one repair unit or nothing
parts it further.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
import numpy.typing as npt

from frostcore.diagnosis.belief import information

Left = tuple[int, ...]
"""The hypotheses that are left, by number."""


@dataclass(frozen=True)
class Problem:
    """``chances`` of the hypotheses, the ``units`` they are of, each test's ``outcomes`` (tests × hypotheses)
    and ``minutes``."""

    chances: tuple[float, ...]
    units: tuple[int, ...]
    outcomes: tuple[tuple[int, ...], ...]
    minutes: tuple[float, ...]

    def parts(self, test: int, left: Left) -> list[Left]:
        """What each outcome of a test would leave."""
        found: dict[int, list[int]] = {}
        for one in left:
            found.setdefault(self.outcomes[test][one], []).append(one)
        return [tuple(each) for each in found.values()]

    def useful(self, left: Left) -> list[int]:
        """The tests that part what is left; none where one unit is left."""
        if len({self.units[one] for one in left}) == 1:
            return []
        return [test for test in range(len(self.minutes)) if len(self.parts(test, left)) > 1]

    def weight(self, left: Left) -> float:
        """The probability of what is left."""
        return sum(self.chances[one] for one in left)


Choose = Callable[[Problem, Left], int]


def expected_minutes(problem: Problem, choose: Choose) -> float:
    """The minutes a way of choosing takes, on the mean."""

    def onward(left: Left) -> float:
        if not problem.useful(left):
            return 0.0
        test = choose(problem, left)
        rest = sum(
            problem.weight(part) / problem.weight(left) * onward(part) for part in problem.parts(test, left)
        )
        return problem.minutes[test] + rest

    return onward(tuple(range(len(problem.chances))))


def least_minutes(problem: Problem) -> float:
    """The least that any way of choosing takes, on the mean."""

    @cache
    def least(left: Left) -> float:
        return min(
            (
                problem.minutes[test]
                + sum(
                    problem.weight(part) / problem.weight(left) * least(part)
                    for part in problem.parts(test, left)
                )
                for test in problem.useful(left)
            ),
            default=0.0,
        )

    return least(tuple(range(len(problem.chances))))


def bits(problem: Problem, test: int, left: Left) -> float:
    """What a test tells of the repair unit, by the planner's own measure."""
    units = sorted({problem.units[one] for one in left})
    outcomes = sorted({problem.outcomes[test][one] for one in left})
    joint = np.zeros((1, len(outcomes), len(units)))
    for one in left:
        place = (0, outcomes.index(problem.outcomes[test][one]), units.index(problem.units[one]))
        joint[place] += problem.chances[one] / problem.weight(left)
    return float(information(joint, joint.sum(axis=(0, 1)))[0])


def by_rate(problem: Problem, left: Left) -> int:
    """The planner's rule: most bits a minute; where none tells of the unit, whatever parts most."""
    return max(problem.useful(left), key=lambda test: (_rate(problem, test, left), -problem.minutes[test]))


def _rate(problem: Problem, test: int, left: Left) -> float:
    return bits(problem, test, left) / problem.minutes[test]


def two_ahead(problem: Problem, left: Left) -> int:
    """The best few by rate, by what they and the best after each outcome tell for the minutes of both."""
    best = sorted(problem.useful(left), key=lambda test: -_rate(problem, test, left))[:5]

    def both(test: int) -> float:
        told, minutes = bits(problem, test, left), problem.minutes[test]
        for part in problem.parts(test, left):
            share = problem.weight(part) / problem.weight(left)
            if problem.useful(part):
                after = by_rate(problem, part)
                told, minutes = (
                    told + share * bits(problem, after, part),
                    minutes + share * problem.minutes[after],
                )
        return told / minutes

    return max(best, key=both)


def drawn(chance: np.random.Generator, hypotheses: int = 8, tests: int = 8) -> Problem:
    """A problem at random: chances over two decades, two or three outcomes, minutes from 1 to 15."""
    chances = 10 ** chance.uniform(-2, 0, hypotheses)
    outcomes: Sequence[npt.NDArray[np.int_]] = [
        chance.integers(0, int(chance.integers(2, 4)), hypotheses) for _ in range(tests)
    ]
    return Problem(
        tuple(float(each) for each in chances / chances.sum()),
        tuple(int(each) for each in chance.integers(0, max(2, hypotheses - 2), hypotheses)),
        tuple(tuple(int(each) for each in row) for row in outcomes),
        tuple(float(each) for each in chance.choice([1.0, 1.5, 2.0, 3.0, 5.0, 8.0, 15.0], tests)),
    )
