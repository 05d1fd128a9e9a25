"""Courses in words: what to do, what it comes to, why, and what would turn it."""

from collections.abc import Sequence
from dataclasses import dataclass

from frostcore.diagnosis.acts import instruction, unit_name
from frostcore.diagnosis.hypotheses import ELSEWHERE, WELL
from frostcore.diagnosis.step import percent
from frostcore.remedy.courses import OTHERWISE, Compared, Comparing, Course, Then, Turn
from frostcore.remedy.work import LICENSED
from frostcore.sentence import in_sentence, joined

SHOWN_TESTS = 2
"""Tests shown of those that cost about the same: more of them decide nothing."""


@dataclass(frozen=True)
class CourseWords:
    """A course as it is read: its title, its figures, why it stands where it stands, and what it leaves open;
    ``equal`` where it is as good as the first."""

    title: str
    expected: str
    figures: tuple[tuple[str, str], ...]
    why: str
    equal: bool = False
    risks: tuple[str, ...] = ()
    then: tuple[str, ...] = ()
    """Of a test: what is best after each way it may come out."""


@dataclass(frozen=True)
class ComparedWords:
    """The courses, the first first, and what would turn them."""

    courses: tuple[CourseWords, ...]
    turns: tuple[str, ...]


def words_of(comparing: Comparing, found: Compared, currency: str) -> ComparedWords:
    """A comparison in words, money in ``currency``."""
    shown = _shown(found.courses)
    lines = tuple(_course(comparing, found, course, currency) for course in shown)
    turns = tuple(_turn(comparing, turn, currency) for turn in found.turns)
    return ComparedWords(lines, turns or ("Nothing near turns it.",))


def _shown(courses: Sequence[Course]) -> list[Course]:
    """The courses without more tests than say something."""
    tests = [course for course in courses if course.do == "test"][:SHOWN_TESTS]
    return [course for course in courses if course.do != "test" or course in tests]


def title_of(comparing: Comparing, course: Course) -> str:
    """What a course begins with."""
    if course.do == "stop":
        return "Give it up"
    if course.test is not None:
        return instruction(comparing.judgement.sheet, comparing.state, course.test).act
    names = [_unit(comparing, unit) for unit in course.units]
    if course.plan is not None:
        return f"Work round the {names[0]}: {in_sentence(course.plan.title)}"
    if course.do in INSTEAD:
        return INSTEAD[course.do].format(name=names[0])
    works = [comparing.works.of(unit) for unit in course.units]
    verb = "Fit" if all(work and work.part for work in works) else "Put right"
    order = ", to be ordered" if any(work and work.order for work in works) else ""
    return f"{verb} the {joined(names)}{order}" if verb == "Fit" else f"{verb}: {joined(names)}"


INSTEAD = {
    "mend": "Mend the {name}",
    "exchange": "Exchange the {name} for a mended one",
    "used": "Put in a used {name}",
}


def risks_of(comparing: Comparing, course: Course) -> tuple[str, ...]:
    """What a course risks, and what is lost by it."""
    if course.plan is not None:
        return tuple(in_sentence(each) for each in course.plan.lost) or ("nothing that ran before",)
    told: tuple[str, ...] = {
        "mend": ("it may come back: what broke it is found, or it breaks again",),
        "exchange": ("its own guarantee only",),
        "used": ("nobody knows what it has been through",),
    }.get(course.do, ())
    parts = {part.id: part for part in comparing.judgement.sheet.components}
    if course.do in {"fit", "exchange", "used"} and any(
        unit in parts and parts[unit].programmed for unit in course.units
    ):
        told += ("it must be programmed: the code from the rating plate",)
    return told


def _unit(comparing: Comparing, unit: str) -> str:
    return in_sentence(unit_name(comparing.judgement.sheet, unit)) if comparing.works.of(unit) else unit


def _course(comparing: Comparing, found: Compared, course: Course, currency: str) -> CourseWords:
    toll = course.toll
    figures = [("parts", _money(toll.parts, currency)), ("work", f"{toll.minutes:.0f} min")]
    if toll.visits > LEAST:
        figures.append(("more visits", f"{toll.visits:.1f}"))
    if toll.wait_days > LEAST:
        figures.append(("waiting", f"{toll.wait_days:.1f} days"))
    if toll.wrong_parts > LEAST:
        figures.append(("wrong parts", f"{toll.wrong_parts:.2f}"))
    if toll.stops > LEAST and course.do != "stop":
        figures.append(("ends without", percent(toll.stops)))
    return CourseWords(
        title_of(comparing, course),
        _money(toll.cost, currency),
        tuple(figures) if course.do != "stop" else (),
        _why(comparing, found, course, currency),
        course in found.equal,
        risks_of(comparing, course),
        tuple(_then(comparing, each, currency) for each in comparing.then(course)[:SHOWN_OUTCOMES]),
    )


SHOWN_OUTCOMES = 4


def _then(comparing: Comparing, then: Then, currency: str) -> str:
    """What follows an outcome."""
    if then.do == "fit":
        act = f"then the {joined([_unit(comparing, unit) for unit in then.units])}"
    else:
        act = {"stop": "then give it up", "test": "then test on"}[then.do]
    return f"{then.outcome} ({percent(then.chance)}): {act}, {_money(then.expected, currency)} from there"


LEAST = 0.05


def _why(comparing: Comparing, found: Compared, course: Course, currency: str) -> str:
    if course.do == "stop":
        sealed = sum(
            chance
            for unit, chance in comparing.beliefs.items()
            if any(part.id == unit and part.kind in LICENSED for part in comparing.judgement.sheet.components)
        )
        if sealed >= LICENSED_SHARE:
            told = f"{percent(sealed)} that it is the sealed system: that is for licensed hands."
            return f"{told} Else what a working unit of this age is worth."
        if course is found.best:
            return "All that is left costs more than a working unit of this age is worth."
        return "What a working unit of this age is worth."
    if course.do in {"fit", *OTHERWISE}:
        helps = "helps" if course.do in OTHERWISE else "is it"
        told = f"{percent(1 - course.chance_wrong)} that this {helps}"
        told += "; its price is a guess: the sheet has none" if course.guessed else ""
        shelves = [work.shelf for unit in course.units if (work := comparing.works.of(unit)) and work.shelf]
        told += f"; on the shelf: {'; '.join(shelves)}" if shelves and course.do == "fit" else ""
        return f"{told}."
    first = _likeliest(comparing)
    if not first:
        return "No part is likely yet."
    unit, chance = first
    work = comparing.works.of(unit)
    spent = _money(work.price, currency) if work and work.part else ""
    before = f"before {spent} are spent on" if spent else "before work on"
    took, name = _minutes(comparing, course), _unit(comparing, unit)
    return f"{took} {before} the {name}, which is it with {percent(chance)}."


LICENSED_SHARE = 0.2
"""From this chance on it is said that the sealed system may be it."""


def _minutes(comparing: Comparing, course: Course) -> str:
    assert course.test is not None  # noqa: S101 -- asked of tests alone
    minutes = comparing.judgement.planner.minutes(course.test, comparing.state)
    return f"{minutes:.0f} min" if minutes >= 1 else "A minute at most"


def _likeliest(comparing: Comparing) -> tuple[str, float] | None:
    units = {
        u: p for u, p in comparing.beliefs.items() if u not in {WELL, ELSEWHERE} and comparing.works.of(u)
    }
    unit = max(units, key=units.__getitem__, default="")
    return (unit, units[unit]) if unit and units[unit] >= LEAST else None


def _turn(comparing: Comparing, turn: Turn, currency: str) -> str:
    now, at = _money(turn.now, currency), _money(turn.at, currency)
    more = "more" if turn.at > turn.now else "less"
    if turn.of == "stop":
        return f"It turns where a working unit is worth {more} than {at} (now {now})."
    return f"It turns where the {_unit(comparing, turn.of)} costs {more} than {at} (now {now})."


def _money(value: float, currency: str) -> str:
    return f"{currency} {value:,.0f}"
