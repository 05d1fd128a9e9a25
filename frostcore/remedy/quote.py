"""What can be offered to the customer: two or three courses in plain words, with price, time and risk."""

from frostcore.diagnosis.step import percent
from frostcore.remedy.courses import Compared, Comparing, Course
from frostcore.remedy.words import risks_of, title_of
from frostcore.tape.entries import QuoteOption

MOST = 4
"""So many are offered to choose from; a customer is shown two or three."""

LEAST_HELPS = 0.05
"""What helps less often than this is not offered."""


def options_of(comparing: Comparing, found: Compared) -> tuple[QuoteOption, ...]:
    """The courses that put something right, the cheapest on the mean first, one of a kind and part."""
    some: list[Course] = []
    for course in found.courses:
        known = {(each.do, each.units) for each in some}
        helps = 1 - course.chance_wrong >= LEAST_HELPS
        if course.do not in {"test", "stop"} and helps and (course.do, course.units) not in known:
            some.append(course)
    return tuple(_option(comparing, course) for course in some[:MOST])


def _option(comparing: Comparing, course: Course) -> QuoteOption:
    own, rates = course.own, comparing.rates
    price = round(own.cost - rates.wait_a_day * own.wait_days)
    when = f"in about {own.wait_days:.0f} days, on another visit" if own.visits else "at once"
    risk = f"{percent(course.chance_wrong)} that this is not enough" if course.chance_wrong >= CERTAIN else ""
    told = "; ".join(each for each in (risk, *risks_of(comparing, course)) if each)
    return QuoteOption(title_of(comparing, course), float(price), when, told[:MOST_RISK])


CERTAIN = 0.01
MOST_RISK = 400
