"""Commands about what to do with what is known: courses, compared."""

import argparse
from dataclasses import asdict
from typing import Any

from frostcore.diagnosis.acts import document
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.readings import readings_of
from frostcore.door import arguments
from frostcore.door.diagnosis import evidence_given, evidence_options, json_of
from frostcore.remedy.courses import Comparing, Course
from frostcore.remedy.rates import Rates, read_rates
from frostcore.remedy.words import title_of


def add_commands(commands: Any) -> None:
    """Add ``decide``."""
    told = commands.add_parser("decide", help="courses compared by what they cost until the unit works")
    told.add_argument("--sheet", required=True, metavar="FILE")
    evidence_options(told)
    told.add_argument("--rates", metavar="FILE", help='what the workshop reckons with: {"hour": 60, …}')
    told.set_defaults(run=_decide)


def _decide(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    evidence = evidence_given(sheet, options)
    rates = read_rates(json_of(options.rates)) if options.rates else Rates()
    readings_of(sheet).prepare()
    comparing = Comparing(judge(sheet, evidence), rates)
    found = comparing.compared()
    return {
        "courses": [_course(comparing, course) for course in found.courses],
        "equal": [found.courses.index(course) for course in found.equal],
        "turns": [asdict(turn) for turn in found.turns],
        "rates": asdict(rates),
    }


def _course(comparing: Comparing, course: Course) -> dict[str, Any]:
    toll = asdict(course.toll)
    cost = toll.pop("cost")
    return {
        "do": course.do,
        "what": document(comparing.judgement.sheet, course.test) if course.test else list(course.units),
        "title": title_of(comparing, course),
        "expected": cost,
        "of": toll,
        "chance_wrong": course.chance_wrong if course.do == "fit" else None,
        "price_guessed": course.guessed,
    }
