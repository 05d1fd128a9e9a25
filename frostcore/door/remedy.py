"""Commands about what to do with what is known: courses compared, plans proposed and solved."""

import argparse
from dataclasses import asdict
from typing import Any

from frostcore.diagnosis.acts import document
from frostcore.diagnosis.judge import judge
from frostcore.diagnosis.readings import readings_of
from frostcore.door import arguments
from frostcore.door.diagnosis import evidence_given, evidence_options, json_of
from frostcore.errors import FrostError
from frostcore.remedy.courses import Comparing, Course
from frostcore.remedy.plans.cases import around, suspected
from frostcore.remedy.plans.doing import work_of
from frostcore.remedy.plans.proposed import proposals
from frostcore.remedy.plans.proved import Proof
from frostcore.remedy.rates import Rates, read_rates
from frostcore.remedy.words import risks_of, title_of
from frostcore.sheet.plan import read_plan, write_plan


def add_commands(commands: Any) -> None:
    """Add ``decide``."""
    told = commands.add_parser("decide", help="courses compared by what they cost until the unit works")
    told.add_argument("--sheet", required=True, metavar="FILE")
    evidence_options(told)
    told.add_argument("--rates", metavar="FILE", help='what the workshop reckons with: {"hour": 60, …}')
    told.set_defaults(run=_decide)
    one = commands.add_parser(
        "workaround", help="a change to the wiring solved: what runs, what is lost, why not"
    )
    one.add_argument("--sheet", required=True, metavar="FILE")
    one.add_argument("--plan", required=True, metavar="FILE", help="a frostline-plan-1 document")
    one.add_argument(
        "--duty", type=float, metavar="SHARE", help="of the time the compressor runs here: 0 to 1"
    )
    one.set_defaults(run=_workaround)
    some = commands.add_parser("plans", help="changes to the wiring that fit a case")
    some.add_argument("--sheet", required=True, metavar="FILE")
    evidence_options(some)
    some.add_argument(
        "--until", default="", metavar="DAY", help="the day a stop-gap is undone by: 2026-12-24"
    )
    some.set_defaults(run=_plans)


def _decide(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    evidence = evidence_given(sheet, options)
    rates = read_rates(json_of(options.rates)) if options.rates else Rates()
    readings_of(sheet).prepare()
    judgement = judge(sheet, evidence)
    comparing = Comparing(judgement, rates, plans=around(judgement))
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
        "risks": list(risks_of(comparing, course)),
        "expected": cost,
        "of": toll,
        "chance_wrong": None if course.do in {"test", "stop"} else course.chance_wrong,
        "price_guessed": course.guessed,
        "then": [
            {
                "if": each.outcome,
                "p": each.chance,
                "do": each.do,
                "what": list(each.units),
                "expected": each.expected,
            }
            for each in comparing.then(course)
        ],
    }


def _workaround(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    if options.duty is not None and not 0 <= options.duty <= 1:
        message = f"--duty: {options.duty:g} is no share; write 0 to 1, such as 0.4"
        raise FrostError(message)
    proof = Proof(sheet, read_plan(json_of(options.plan)))
    return _solved(proof, options.duty)


def _solved(proof: Proof, duty: float | None) -> dict[str, Any]:
    before, after = proof.watts
    found: dict[str, Any] = {
        "title": proof.plan.title,
        "school": proof.plan.school,
        "refusals": [asdict(refusal) for refusal in proof.refusals],
        "warnings": list(proof.warnings),
        "runs": [asdict(ran) for ran in proof.runs],
        "lost": list(proof.lost),
        "watts": {
            name: {"cooling": cooling, "resting": resting}
            for name, (cooling, resting) in (("before", before), ("after", after))
        },
        "work": asdict(work_of(proof)),
    }
    if duty is not None:
        found["kilowatt_hours_a_year_more"] = proof.yearly(duty)
    return found


def _plans(options: argparse.Namespace) -> dict[str, Any]:
    sheet = arguments.sheet_of(options.sheet).sheet
    evidence = evidence_given(sheet, options)
    readings_of(sheet).prepare()
    found = proposals(sheet, suspected(judge(sheet, evidence)), options.until)
    return {
        "plans": [
            {
                "plan": write_plan(plan),
                "lost": list((proof := Proof(sheet, plan)).lost),
                "refusals": [asdict(refusal) for refusal in proof.refusals],
                "warnings": list(proof.warnings),
            }
            for plan in found.plans
        ],
        "impossible": list(found.impossible),
    }
